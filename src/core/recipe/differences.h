/// What two recipes do not have in common, setting by setting.
#pragma once

#include <string>
#include <vector>

#include "recipe/recipe.h"

namespace acre {

/// A setting that one recipe has otherwise than another, or that only one has.
struct RecipeDifference {
  std::string pointer;  ///< As `--set` takes it: members of lists by their id where they have one.
  std::string was, is;  ///< JSON; empty: it is not there. Of whole members "{...}" or "[...]".
  bool operator==(const RecipeDifference&) const = default;
};

/// From one recipe to another, in the order in which `to` is written, what it lacks after that.
/// Where members of a list only changed places, the list is told with the ids that both have.
std::vector<RecipeDifference> differencesOf(const Recipe& from, const Recipe& to);

}  // namespace acre
