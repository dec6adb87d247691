/// Pieces as text: what one draws in any editor of text.
#pragma once

#include <string>
#include <string_view>

#include "base/result.h"
#include "recipe/object_recipe.h"
#include "recipe/recipe.h"

namespace acre {

/// Signs first, a line "# brick" each, then a blank line and the layers from the lowest up, with a
/// blank line between two.
std::string pieceText(const ObjectPiece& piece);

/// Signs and layers of such a text; the rest is as in a new piece. Without lines of signs those of
/// `like` count. Errors name the line.
Result<ObjectPiece> pieceFromText(std::string_view text, const ObjectPiece& like);

/// The same piece with so many columns, rows and layers; what is new leaves what is there.
/// REQUIRES: each is 1 to limits::pieceSide.
void resizePiece(ObjectPiece& piece, size_t wide, size_t rows, size_t layers);

/// The sign of a material in a piece: its own, or a new one. '.' when none is left.
char signFor(ObjectPiece& piece, const std::string& material);

}  // namespace acre
