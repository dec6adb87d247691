/// The cases of rows of tiles, as every instruction set computes them. docs/maths.md, "Tiles".
#pragma once

#include <array>
#include <cstdint>

#include "base/indices.h"

namespace acre {

/// The class of each material: 0, or the number of its group.
struct ClassTable {
  alignas(16) uint8_t of[64] = {};  ///< Of the first 64.
  bool narrow = true;               ///< There are no others.
  const uint8_t* all = nullptr;     ///< Of all `count`; those beyond have the class 0.
  int count = 0;
};

/// Rows of bytes, 1 inside and 0 outside, of a row of cells and of those beside it; from one before
/// the first to one after the last.
struct TileRows {
  const uint8_t* north;
  const uint8_t* here;
  const uint8_t* south;
  TileRows from(int64_t i) const { return {north + i, here + i, south + i}; }
};

/// A reduced mask is two halves of four bits: rank = high[upper half] + low[lower half], less
/// less[lower half] with the north-western corner (the highest bit): then the north is there too.
/// The south-eastern corner, the highest bit of the lower half, needs the south; without it none of
/// those places is asked for.
struct TileRanks {
  alignas(16) uint8_t high[16] = {};
  alignas(16) uint8_t low[16] = {};
  alignas(16) uint8_t less[16] = {};
};
constexpr TileRanks tileRanks() {
  TileRanks out;
  const auto real = [](int mask) {
    for (int corner = 1; corner < 8; corner += 2) {
      const int beside = 1 << (corner - 1) | 1 << ((corner + 1) & 7);
      if ((mask >> corner & 1) && (mask & beside) != beside) return false;
    }
    return true;
  };
  int rank = 0;
  for (int high = 0; high < 16; ++high) {
    out.high[high] = static_cast<uint8_t>(rank);
    for (int low = 0; low < 16; ++low) rank += real(high << 4 | low);
  }
  constexpr int kSouth = 1 << 4, kWestSide = 1 << 6, kNorthWest = 1 << 7;
  int all = 0, fewer = 0;
  for (int low = 0; low < 16; ++low) {
    out.low[low] = static_cast<uint8_t>(all);
    out.less[low] = static_cast<uint8_t>(all - fewer);
    all += real(kSouth | low);
    fewer += real(kSouth | kWestSide | kNorthWest | low);
  }
  return out;
}
inline constexpr TileRanks kTileRanks = tileRanks();

/// classes[i] = that of materials[i].
void plainTileClasses(
    const MaterialIndex* materials, int64_t count, const ClassTable& table, uint8_t* classes);
/// inside[i] = 1 where classes[i] >= level, else 0. REQUIRES: level > 0.
void plainTileInside(const uint8_t* classes, uint8_t level, int64_t count, uint8_t* inside);
// cases[i] = that of a cell (of corners: between it and the next); 0xFF where the cell is not
// inside, but for corners.
void plainTileNeighbours(const TileRows& rows, int64_t count, uint8_t* cases);
void plainTileSides(const TileRows& rows, int64_t count, uint8_t* cases);
void plainTileCorners(const TileRows& rows, int64_t count, uint8_t* cases);
/// values[i] = cases[i] + 1; 0 for 0xFF, and for case 0 where that is none.
void plainTileValues(const uint8_t* cases, int64_t count, bool firstIsNone, uint16_t* values);

/// How one of several pictures is drawn, whatever the case: the hash of a cell takes as many steps
/// as there are numbers that it is not below.
struct TileVariety {
  static constexpr int kMost = 15;
  uint32_t from[kMost] = {};
  int count = 0;
  uint16_t step = 0;
};
/// values[i] += those of nodeHash(columns[i], row), but for 0, which is none.
void plainTileVariants(const TileVariety& variety, const uint32_t* columns, uint32_t row,
    int64_t count, uint16_t* values);

}  // namespace acre
