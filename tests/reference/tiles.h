/// Tiles a second time: one cell at a time, from docs/maths.md.
#pragma once

#include <cstdint>
#include <functional>
#include <string>

#include "recipe/recipe.h"
#include "recipe/tile_recipe.h"

namespace reference {

/// The value of a cell for one of the groups that are on, counted from 0. material: the id of what
/// a cell within the plane is made of, as tiles see it.
uint16_t tileValue(const acre::Recipe& recipe, const acre::Rect& plane, int group, acre::Cell cell,
    const std::function<std::string(acre::Cell)>& material);

}  // namespace reference
