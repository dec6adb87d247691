/// Sets of tiles that the workbench draws by itself. docs/tiles.md shows them.
#pragma once

#include <cstdint>
#include <vector>

#include "recipe/tile_cases.h"

namespace acre {

/// Pixels 0xAARRGGBB of a case, row by row, size x size: ground in one colour, a line in another
/// where it ends, and clear beyond. Pixels of neighbouring tiles meet at their common rim whatever
/// the cases. Variants differ in the grain of the ground, one pixel and more from every rim. A set
/// with turns draws the case that stands for the others.
std::vector<uint32_t> drawnTile(
    const TileDrawing& drawing, TileMethod method, uint8_t mask, int variant);

}  // namespace acre
