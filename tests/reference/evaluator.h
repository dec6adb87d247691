/// The second evaluator: one cell at a time, no vectors, no chunks, no memory of former cells. It
/// shares with the core nothing but the recipe types and the hash, and follows docs/maths.md line
/// by line.
#pragma once

#include <string>

#include "recipe/recipe.h"

namespace reference {

struct CellValue {
  float height;
  std::string material;  ///< Id, "unassigned" or "outside".
};

CellValue evaluate(const acre::Recipe& recipe, acre::Cell cell);
float height(const acre::Recipe& recipe, acre::Cell cell);

}  // namespace reference
