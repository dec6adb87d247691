/// The worlds that are built into every program: demos to look around in, and starts to go on from.
#pragma once

#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "base/result.h"
#include "recipe/json.h"

namespace acre {

struct Demo {
  std::string name;
  std::string json;
};

/// In alphabetical order.
const std::vector<Demo>& demos();

/// Small recipes of common kinds of worlds, which new ones may begin with; in alphabetical order.
const std::vector<Demo>& starts();

/// The recipe in a file, or the built-in demo or start of that name when no such file exists.
Result<Recipe> loadRecipe(
    const std::string& fileOrDemo, const std::vector<Override>& overrides = {});

}  // namespace acre
