/// The lattice that land drains over: bricks of ground, each with one node.
#pragma once

#include <compare>
#include <cstdint>

#include "base/coords.h"
#include "base/hash.h"

namespace acre {

/// A brick (i, j) and its node. Rows of bricks are set off by half a brick, so that each has six
/// neighbours and ways along them never cross.
struct Brick {
  int64_t i = 0;
  int64_t j = 0;
  auto operator<=>(const Brick&) const = default;
};

inline constexpr int64_t kBrickWidth = 32;
inline constexpr int64_t kBrickLength = 28;
inline constexpr int kBrickSides = 6;

/// The middle; the brick takes the cells from (-16, -14) to (15, 13) about it.
constexpr Cell middleOf(Brick b) {
  return {kBrickWidth * b.i + (b.j & 1) * kBrickWidth / 2 + kBrickWidth / 2,
      kBrickLength * b.j + kBrickLength / 2};
}
constexpr Brick brickOf(Cell cell) {
  const int64_t j = floorDiv(cell.z, kBrickLength);
  return {floorDiv(cell.x - (j & 1) * kBrickWidth / 2, kBrickWidth), j};
}
constexpr Brick besideBrick(Brick b, int side) {
  constexpr int kEven[kBrickSides][2] = {{1, 0}, {0, 1}, {-1, 1}, {-1, 0}, {-1, -1}, {0, -1}};
  constexpr int kOdd[kBrickSides][2] = {{1, 0}, {1, 1}, {0, 1}, {-1, 0}, {0, -1}, {1, -1}};
  const auto& step = b.j & 1 ? kOdd[side] : kEven[side];
  return {b.i + step[0], b.j + step[1]};
}
constexpr uint64_t hashOf(uint64_t seed, Brick b) {
  return combine(combine(seed, static_cast<uint64_t>(b.i)), static_cast<uint64_t>(b.j));
}

/// Bricks are remembered in squares of kSide x kSide.
struct BrickTile {
  int64_t ti = 0;
  int64_t tj = 0;
  auto operator<=>(const BrickTile&) const = default;

  static constexpr int64_t kSide = 8;
  static constexpr int kBricks = 64;
  static constexpr BrickTile of(Brick b) { return {b.i >> 3, b.j >> 3}; }
  static constexpr int indexOf(Brick b) { return static_cast<int>((b.j & 7) * 8 + (b.i & 7)); }
  constexpr Brick brick(int index) const {
    return {ti * kSide + index % 8, tj * kSide + index / 8};
  }
  /// The cells that its samples stand in; its bricks reach half a brick farther east.
  constexpr Rect cells() const {
    return {ti * kSide * kBrickWidth, tj * kSide * kBrickLength, kSide * kBrickWidth,
        kSide * kBrickLength};
  }
};

}  // namespace acre
