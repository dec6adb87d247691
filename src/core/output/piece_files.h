/// Pieces from files, and to files.
#pragma once

#include <filesystem>
#include <vector>

#include "base/result.h"
#include "recipe/object_recipe.h"
#include "recipe/recipe.h"

namespace acre {

/// Signs and layers of a file; the rest is as in `like`. By its ending:
///   .txt   as pieceFromText() has it;
///   .png   a layer, the north above, every opaque pixel in the colour of a material; of NAME-1.png
///          the layers NAME-2.png and so on lie over it, as many as there are;
///   .nrrd  whole numbers of 8 or 16 bits along x, z and y, raw or gzip: 0 leaves what is there, n
///   is
///          the n-th material, or that of a line "value n:=id", as chunks are written.
/// Errors name the place within the file.
Result<ObjectPiece> readPiece(const std::filesystem::path& file, const ObjectPiece& like,
    const std::vector<Material>& materials);

/// What readPiece() reads as the same layers; of .png files as many as there are layers. Cells that
/// the piece opens are left in .png and .nrrd.
Status writePiece(const ObjectPiece& piece, const std::vector<Material>& materials,
    const std::filesystem::path& file);

}  // namespace acre
