/// The demo worlds that are built into every program.
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

/// The recipe in a file, or the built-in demo of that name when no such file exists.
Result<Recipe> loadRecipe(
    const std::string& fileOrDemo, const std::vector<Override>& overrides = {});

}  // namespace acre
