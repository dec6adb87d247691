/// The parts of recipe/json.cpp.
#pragma once

#include <filesystem>
#include <string>

#include "recipe/json_reader.h"
#include "recipe/recipe.h"

namespace acre {

/// The recipe as JSON, members in the order of the stages.
Json recipeJson(const Recipe& recipe);

/// The recipe of a JSON object, without the cells changed by hand; faults go to the reader. What
/// the values may be is not checked.
Recipe readRecipe(const JsonReader& in);

// Cells changed by hand.
Json editsJson(const EditSet& edits);
Edits readEdits(const JsonReader& in);
/// The contents of the side file.
std::string editsText(const Recipe& recipe);
/// Reads the side file of a recipe that names it by the hash of its contents. overridden: values of
/// the recipe were overridden, so that its id may be another.
Status readEditsFile(const std::filesystem::path& recipeFile, const std::string& hash,
    Recipe& recipe, bool overridden);

}  // namespace acre
