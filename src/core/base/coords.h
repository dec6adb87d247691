/// Every coordinate system of the project, explained once.
///
///   cell    (x, z)     one tile or column; int64; x east, z south; |x|, |z| <= kMaxCell
///   chunk   (cx, cz)   N x N cells; covers [cx*N, cx*N + N) on both axes; floor division
///   local   (lx, lz)   a cell inside its chunk, 0 ... N-1
///   index   i          lz*N + lx, the running index of a cell inside its chunk
///   sample  (i, j)     one value of a SampleGrid: cell (x + i*step, z + j*step)
///   Pos     cell + q   a position between cells, q in 1/65536 cell
#pragma once

#include <algorithm>
#include <compare>
#include <cstdint>

namespace acre {

/// Largest absolute cell coordinate that anything is generated at.
inline constexpr int64_t kMaxCell = int64_t{1} << 60;

/// Quotient rounded toward negative infinity. REQUIRES: b > 0.
constexpr int64_t floorDiv(int64_t a, int64_t b) {
  const int64_t q = a / b;
  return a % b < 0 ? q - 1 : q;
}

/// Remainder in [0, b). REQUIRES: b > 0.
constexpr int64_t floorMod(int64_t a, int64_t b) {
  const int64_t r = a % b;
  return r < 0 ? r + b : r;
}

struct Cell {
  int64_t x = 0;
  int64_t z = 0;
  auto operator<=>(const Cell&) const = default;
};

/// Which chunk. Those of detail level L stand 2^L times as far apart, with 2^L cells between their
/// samples; level 0 holds every cell.
struct ChunkPos {
  int64_t cx = 0;
  int64_t cz = 0;
  int32_t level = 0;
  auto operator<=>(const ChunkPos&) const = default;
};

/// A coordinate with a fraction: cell + q/65536 cells.
struct Pos {
  int64_t cell = 0;
  int32_t q = 0;
  auto operator<=>(const Pos&) const = default;
};

/// Half-open rectangle of cells: [x, x + width) x [z, z + height).
struct Rect {
  int64_t x = 0;
  int64_t z = 0;
  int64_t width = 0;
  int64_t height = 0;

  constexpr bool empty() const { return width <= 0 || height <= 0; }
  constexpr bool contains(Cell c) const {
    return c.x >= x && c.x - x < width && c.z >= z && c.z - z < height;
  }
  bool operator==(const Rect&) const = default;
};

/// The common part of two rectangles; empty (width or height 0) when there is none.
constexpr Rect intersection(const Rect& a, const Rect& b) {
  const int64_t x0 = std::max(a.x, b.x);
  const int64_t z0 = std::max(a.z, b.z);
  const int64_t x1 = std::min(a.x + a.width, b.x + b.width);
  const int64_t z1 = std::min(a.z + a.height, b.z + b.height);
  return {x0, z0, std::max<int64_t>(0, x1 - x0), std::max<int64_t>(0, z1 - z0)};
}

/// Conversions between cells and chunks of `size` x `size` cells.
class ChunkLayout {
 public:
  explicit constexpr ChunkLayout(int32_t size) : size_(size) {}

  constexpr int32_t size() const { return size_; }
  constexpr ChunkPos chunkOf(Cell c) const { return {floorDiv(c.x, size_), floorDiv(c.z, size_)}; }
  constexpr Cell localOf(Cell c) const { return {floorMod(c.x, size_), floorMod(c.z, size_)}; }
  constexpr int64_t indexOf(Cell local) const { return local.z * size_ + local.x; }
  constexpr Cell localAt(int64_t index) const { return {index % size_, index / size_}; }
  constexpr Cell cellOf(ChunkPos p, Cell local) const {
    return {p.cx * size_ + local.x, p.cz * size_ + local.z};
  }
  /// The ground of a chunk, of whatever level.
  constexpr Rect rectOf(ChunkPos p) const {
    const int64_t side = int64_t{size_} << p.level;
    return {p.cx * side, p.cz * side, side, side};
  }

 private:
  int32_t size_;
};

/// A regular grid of samples. Sample (i, j) belongs to cell (x + i*step, z + j*step).
struct SampleGrid {
  int64_t x = 0;
  int64_t z = 0;
  int64_t step = 1;    ///< Cells from one sample to the next, 1 ... kMaxStep.
  int32_t width = 0;   ///< Samples along x.
  int32_t height = 0;  ///< Samples along z.

  static constexpr int64_t kMaxStep = int64_t{1} << 40;
};

/// A regular block of samples. Sample (i, j, k) belongs to cell (x + i*step, y + j*step,
/// z + k*step); width counts along x, height along y, depth along z.
struct SampleBlock {
  int64_t x = 0;
  int64_t y = 0;
  int64_t z = 0;
  int64_t step = 1;
  int32_t width = 0;
  int32_t height = 0;
  int32_t depth = 0;
};

/// Squared distance in cells from `from` to the nearest cell of `rect`.
/// REQUIRES: the distance per axis is below 2^31.
constexpr int64_t squaredDistance(Cell from, const Rect& rect) {
  const int64_t dx = std::max<int64_t>({rect.x - from.x, 0, from.x - (rect.x + rect.width - 1)});
  const int64_t dz = std::max<int64_t>({rect.z - from.z, 0, from.z - (rect.z + rect.height - 1)});
  return dx * dx + dz * dz;
}

}  // namespace acre
