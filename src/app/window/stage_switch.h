/// Switching stages on and off, with what they need.
#pragma once

#include <QString>

#include "app/window/stage_strip.h"
#include "recipe/recipe.h"

namespace app {

/// Switches a stage of the recipe. Switched on, the biomes take the climate along, and a climate
/// without layers gets one for each field. Returns why it cannot be done; empty when it was.
QString switchStage(acre::Recipe& recipe, StageId stage, bool& on);

}  // namespace app
