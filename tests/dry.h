/// The demos as they are without rivers, lakes and objects, for tests of all that lies under these.
/// What those do has tests of its own: water_test, wet_blocks_test, proof_test, rivers_test,
/// object_test, objects_test.
#pragma once

#include "recipe/object_recipe.h"
#include "recipe/recipe.h"
#include "recipe/water_recipe.h"
#include "world/demos.h"

inline acre::Recipe dryDemo(const std::string& name) {
  acre::Recipe recipe = acre::loadRecipe(name).value();
  recipe.rivers->on = false;
  recipe.objects = {};
  return recipe;
}
