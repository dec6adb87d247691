/// Connected open spaces of a grid: which there are, how large, and joining them.
#pragma once

#include <cstdint>
#include <optional>
#include <vector>

#include "cave/automaton.h"

namespace acre {

/// One open space: cells that are open and reach each other through their sides.
struct OpenSpace {
  uint64_t cells = 0;
  int32_t x = 0, z = 0, y = 0;  ///< Its first cell, in the order of the grid.
  bool openEnded = false;       ///< It touches the rim of the grid: it may go on beyond.
  bool operator==(const OpenSpace&) const = default;
};

/// The open spaces of a grid, the largest first, equal ones by their first cells. In a plane cells
/// have four sides, in a volume six, whose rim is its six faces.
struct OpenSpaces {
  static constexpr uint32_t kSolid = 0xFFFFFFFF;

  std::vector<OpenSpace> spaces;
  std::vector<uint32_t> labels;  ///< By cell, x fastest, then z, then y: place among spaces.

  static OpenSpaces of(const BitGrid& grid);
};

/// A plane without an open cell.
BitGrid solidPlane(int32_t width, int32_t length);

/// Sides between open and solid cells of a plane.
uint64_t outlineOf(const BitGrid& plane);

/// Fills all open spaces of fewer cells than `least`. Returns how many were filled.
size_t fillSmallSpaces(BitGrid& grid, uint64_t least);

/// Digs until all open spaces of a plane are one: from the largest, the nearest other one first (of
/// equally near ones the one whose reached cell comes first in the order of the plane), by a
/// shortest way through solid cells from side to side, which is gone back from that cell, at each
/// cell to the first nearer one of north, west, east, south. Cells within `rim` of the edge are not
/// dug. Returns the cells that were dug; nothing when some space cannot be reached so, and the grid
/// is as it was.
std::optional<uint64_t> joinSpaces(BitGrid& plane, int32_t rim);

}  // namespace acre
