/// Checks: known mistakes, found by looking at the recipe and measuring the world.
#pragma once

#include <functional>
#include <optional>
#include <stop_token>
#include <string>
#include <vector>

#include "recipe/stage_id.h"
#include "world/engine.h"

namespace acre {

/// One mistake that was found.
struct Check {
  std::string id;        ///< That of a CheckKind.
  std::string sentence;  ///< What is wrong and why, in words.
  StageId stage = StageId::Heights;
  std::string pointer;  ///< JSON pointer of the place.
  std::string subject;  ///< Id of the layer, band, area or biome.
  /// What would mend it: words, and the change to the recipe. Empty when only a person can decide.
  std::string mend;
  std::function<void(Recipe&)> apply;
  std::optional<Cell> place;  ///< Where to look at it.
};

/// Everything that the checks find (audit/check_kinds.h tells what they look for), in the order of
/// stages and layers. Measures every layer; nothing when stopped.
std::optional<std::vector<Check>> runChecks(
    Engine& engine, const World& world, const std::stop_token& stop = {});

}  // namespace acre
