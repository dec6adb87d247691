/// The demos as they are without rivers and lakes, for tests of all that water lies over. What
/// water does to them has tests of its own: water_test, wet_blocks_test, proof_test, rivers_test.
#pragma once

#include "recipe/recipe.h"
#include "recipe/water_recipe.h"
#include "world/demos.h"

inline acre::Recipe dryDemo(const std::string& name) {
  acre::Recipe recipe = acre::loadRecipe(name).value();
  recipe.rivers->on = false;
  return recipe;
}
