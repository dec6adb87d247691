/// Recipes that pictures carry: a PNG in a text chunk, an SVG in its metadata. Who finds the
/// picture can open the world that it shows.
#pragma once

#include <filesystem>
#include <string>
#include <string_view>
#include <vector>

#include "recipe/json.h"

namespace acre {

/// Key of the text chunk [ISO/IEC 15948, 11.3.3.4].
inline constexpr const char* kRecipeText = "Recipe";

/// As it stands in the text of an element.
std::string xmlText(std::string_view text);
/// An element for the head of an SVG, with the recipe as text in it.
std::string svgMetadata(const Recipe& recipe);

/// What a PNG or an SVG carries, whatever its name. Refuses pictures that carry none, broken ones,
/// and what is neither.
Result<Recipe> recipeInPicture(
    const std::filesystem::path& file, const std::vector<Override>& overrides = {});
/// The file begins as a PNG or an SVG does.
bool isPicture(const std::filesystem::path& file);

/// A recipe's file, a picture that carries one, or a demo's name.
Result<Recipe> openRecipe(
    const std::string& fileOrDemo, const std::vector<Override>& overrides = {});

}  // namespace acre
