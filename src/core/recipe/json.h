/// The JSON form of a recipe (*.acre), described in docs/recipe.md and docs/recipe.schema.json.
#pragma once

#include <filesystem>
#include <string>
#include <string_view>
#include <vector>

#include "base/hash.h"
#include "base/result.h"
#include "recipe/recipe.h"

namespace acre {

/// One override of a recipe value: a JSON pointer (list members by index or "id:NAME") and a JSON
/// value; a value that is not JSON is taken as text.
struct Override {
  std::string pointer;
  std::string value;
};

/// Largest recipe file that is read, in bytes.
inline constexpr uint64_t kLargestRecipeFile = 16u << 20;

/// Reads a recipe. Refuses malformed JSON, duplicate and unknown keys, wrong types, whole numbers
/// that do not fit and everything that validate() refuses. The overrides are applied first.
Result<Recipe> recipeFromJson(std::string_view text, const std::vector<Override>& overrides = {});

/// The same of what a file holds: the error's place starts with its name, and what the recipe names
/// lies where it does.
Result<Recipe> recipeFromJson(std::string_view text, const std::filesystem::path& file,
    const std::vector<Override>& overrides);

/// The same for a file of its own, with the cells changed by hand that lie beside it.
Result<Recipe> readRecipeFile(
    const std::filesystem::path& file, const std::vector<Override>& overrides = {});

/// NAME.edits of NAME.acre: where the cells changed by hand are kept.
std::filesystem::path editsFileOf(const std::filesystem::path& recipeFile);

/// Every file that a recipe is read from: its own and that of its cells changed by hand, where
/// recipeFile is not empty, and the pictures and rooms it names.
std::vector<std::filesystem::path> filesOf(
    const Recipe& recipe, const std::filesystem::path& recipeFile);

/// Indented JSON that reads back as an equal recipe: numbers in the shortest form that does.
std::string recipeToJson(const Recipe& recipe);

/// Writes the file atomically: either the whole new recipe is there or the old file is untouched.
/// Cells changed by hand go before it into the file beside it, which it names by its contents.
Status writeRecipeFile(const std::filesystem::path& file, const Recipe& recipe);

/// XXH3-128 of the recipe's JSON without white space; cells changed by hand are no part of it.
Digest recipeId(const Recipe& recipe);

/// "#RRGGBB".
std::string colourText(const Colour& colour);

}  // namespace acre
