/// Signs of objects as they are stamped on pictures.
#pragma once

#include <cstdint>
#include <vector>

#include "recipe/object_recipe.h"

namespace acre {

/// How much of each pixel of a square a sign covers, 0 to 255, row by row.
struct SignStamp {
  int side = 0;  ///< Odd: the sign stands about the middle of the middle pixel.
  std::vector<uint8_t> cover;
};

/// size: half of what the sign is wide, in pixels, above 0.
SignStamp signStamp(ObjectSign sign, double size);

/// That of a kind; of what stands in caves, under the ground that is shown, fainter.
SignStamp signStamp(const ObjectKind& kind, double size);

/// Half of what the signs of a kind are wide, in pixels, where a pixel is so many cells: as large
/// as a cell, and larger where there is room between them.
double signSize(const ObjectKind& kind, double cellsPerPixel);

}  // namespace acre
