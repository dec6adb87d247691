/// Lists of a recipe as text that spreadsheets copy and paste.
#pragma once

#include <string>
#include <string_view>

#include "base/result.h"
#include "recipe/recipe.h"

namespace acre {

/// A list of objects as lines with tabs between their cells: first the keys, in the order in which
/// they appear, then a line a member. Texts stand as they are, in quotes (doubled within) where
/// they hold a tab, a line's end or a quote; other values as JSON; keys that a member lacks are
/// empty. pointer: a JSON pointer of a list, "/strata/materials". Nothing when there is no such
/// list.
Result<std::string> listTable(const Recipe& recipe, std::string_view pointer);

/// The recipe with that list as such text has it, a column's texts being what they are in the list
/// as it is; a comma for the decimal point is understood in columns of numbers. Cells that the text
/// does not have are taken from nobody: a member is what its line says. Refuses, with line and
/// column or the pointer in the recipe, what is no table, and what the recipe could not hold.
Result<Recipe> withListTable(const Recipe& recipe, std::string_view pointer, std::string_view text);

}  // namespace acre
