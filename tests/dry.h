/// Demos without rivers and objects, and one with many rivers.
#pragma once

#include "recipe/object_recipe.h"
#include "recipe/recipe.h"
#include "recipe/tile_recipe.h"
#include "recipe/water_recipe.h"
#include "world/demos.h"

/// A demo as it is without rivers, lakes, objects and tiles, for tests of all that lies under
/// these. What those do has tests of its own: water_test, wet_blocks_test, proof_test, rivers_test,
/// object_test, objects_test, tile_test, tiles_test.
inline acre::Recipe dryDemo(const std::string& name) {
  acre::Recipe recipe = acre::loadRecipe(name).value();
  recipe.rivers->on = false;
  recipe.objects = {};
  recipe.tiles = {};
  return recipe;
}

/// The demo first-steps with rivers from so many bricks on, and lakes in that share of its hollows,
/// over a sea at a height of its own.
inline acre::Recipe wetSteps(const std::string& seed, double sea, double spring, double lakes) {
  acre::Recipe recipe = acre::loadRecipe("first-steps").value();
  recipe.seed = seed;
  recipe.frame.seaShare.reset();
  recipe.frame.seaLevel = sea;
  recipe.rivers->on = true;
  recipe.rivers->spring = spring;
  recipe.rivers->lakes = lakes;
  return recipe;
}
