/// Every coordinate system of the project, explained once.
///
///   cell    (x, z)     one tile or column; int64; x east, z south; |x|, |z| <= kMaxCell
///   block   (x, y, z)  one cell of a world made of blocks; y up; takes the altitudes y to y + 1
///   chunk   (cx, cz)   N x N cells; covers [cx*N, cx*N + N) on both axes; floor division
///           (cx, cy, cz)   N x N x N blocks; cy is 0 where chunks are not divided along y
///   local   (lx, lz)   a cell inside its chunk, 0 ... N-1
///   index   i          lz*N + lx, the running index of a cell inside its chunk; of a block
///                      (ly*N + lz)*N + lx, with the extents that its chunk has
///   sample  (i, j)     one value of a SampleGrid: cell (x + i*step, z + j*step)
///   Pos     cell + q   a position between cells, q in 1/65536 cell
#pragma once

#include <algorithm>
#include <cmath>
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

/// Which chunk. Those of detail D stand 2^D times as far apart, with 2^D cells between their
/// samples; detail 0 holds every cell.
struct ChunkPos {
  int64_t cx = 0;
  int64_t cz = 0;
  int32_t detail = 0;
  int64_t cy = 0;  ///< Only in worlds made of blocks.
  auto operator<=>(const ChunkPos&) const = default;
};

/// How a world is divided along y. tall: blocks per chunk; 0: chunks are as high as the world.
struct Vertical {
  int64_t min = 0;
  int64_t extent = 0;  ///< 0: the world has no blocks.
  int32_t tall = 0;
  bool plane = false;  ///< Only the blocks at z = 0 exist.
  bool operator==(const Vertical&) const = default;
};

/// Levels of blocks: y = first + j * step, j = 0 ... count - 1.
struct BlockLevels {
  int64_t first = 0;
  int32_t count = 0;
  int64_t step = 1;
  constexpr int64_t top() const { return first + (count - 1) * step; }
};

/// A coordinate with a fraction: cell + q/65536 cells.
struct Pos {
  int64_t cell = 0;
  int32_t q = 0;
  auto operator<=>(const Pos&) const = default;
};

/// Half-open rectangle of cells: [x, x + width) x [z, z + length).
struct Rect {
  int64_t x = 0;
  int64_t z = 0;
  int64_t width = 0;   ///< Along x.
  int64_t length = 0;  ///< Along z.

  constexpr bool empty() const { return width <= 0 || length <= 0; }
  constexpr bool contains(Cell c) const {
    return c.x >= x && c.x - x < width && c.z >= z && c.z - z < length;
  }
  bool operator==(const Rect&) const = default;
};

/// The same with so many cells more on every side.
constexpr Rect grown(const Rect& cells, int64_t by) {
  return {cells.x - by, cells.z - by, cells.width + 2 * by, cells.length + 2 * by};
}

/// From the middle of one cell to that of another, in cells; to be told, not to decide on cells.
inline double cellsApart(Cell a, Cell b) {
  return std::hypot(static_cast<double>(a.x - b.x), static_cast<double>(a.z - b.z));
}

/// The common part of two rectangles; empty (width or length 0) when there is none.
constexpr Rect intersection(const Rect& a, const Rect& b) {
  const int64_t x0 = std::max(a.x, b.x);
  const int64_t z0 = std::max(a.z, b.z);
  const int64_t x1 = std::min(a.x + a.width, b.x + b.width);
  const int64_t z1 = std::min(a.z + a.length, b.z + b.length);
  return {x0, z0, std::max<int64_t>(0, x1 - x0), std::max<int64_t>(0, z1 - z0)};
}

/// Conversions between cells and chunks of `size` x `size` cells.
class ChunkLayout {
 public:
  explicit constexpr ChunkLayout(int32_t size, const Vertical& vertical = {})
      : size_(size), vertical_(vertical) {}

  constexpr int32_t size() const { return size_; }
  constexpr const Vertical& vertical() const { return vertical_; }
  constexpr bool blocks() const { return vertical_.extent > 0; }
  constexpr ChunkPos chunkOf(Cell c) const { return {floorDiv(c.x, size_), floorDiv(c.z, size_)}; }
  constexpr Cell localOf(Cell c) const { return {floorMod(c.x, size_), floorMod(c.z, size_)}; }
  constexpr int64_t indexOf(Cell local) const { return local.z * size_ + local.x; }
  constexpr Cell localAt(int64_t index) const { return {index % size_, index / size_}; }
  constexpr Cell cellOf(ChunkPos p, Cell local) const {
    return {p.cx * size_ + local.x, p.cz * size_ + local.z};
  }
  /// The first and the last cy of a detail.
  constexpr int64_t lowestChunk(int detail) const {
    return vertical_.tall ? floorDiv(vertical_.min, int64_t{vertical_.tall} << detail) : 0;
  }
  constexpr int64_t highestChunk(int detail) const {
    return vertical_.tall
               ? floorDiv(vertical_.min + vertical_.extent - 1, int64_t{vertical_.tall} << detail)
               : 0;
  }
  /// The chunk of a detail that holds a level of blocks.
  constexpr int64_t chunkOfLevel(int64_t y, int detail) const {
    return vertical_.tall ? floorDiv(y, int64_t{vertical_.tall} << detail) : 0;
  }
  /// The levels of blocks that a chunk samples. Those of detail 0 end with the world; others are
  /// whole and may reach beyond it. REQUIRES: blocks().
  constexpr BlockLevels levelsOf(ChunkPos p) const {
    const int64_t step = int64_t{1} << p.detail;
    const int64_t end = vertical_.min + vertical_.extent;
    int64_t from = floorDiv(vertical_.min, step) * step, to = end;
    if (vertical_.tall) {
      from = p.cy * vertical_.tall * step;
      to = from + vertical_.tall * step;
      if (p.detail == 0) {
        from = std::max(from, vertical_.min);
        to = std::min(to, end);
      }
    }
    return {from, static_cast<int32_t>(std::max<int64_t>(0, (to - from + step - 1) / step)), step};
  }
  /// The ground of a chunk, of whatever detail.
  constexpr Rect rectOf(ChunkPos p) const {
    const int64_t side = int64_t{size_} << p.detail;
    return {p.cx * side, p.cz * side, side, side};
  }

  constexpr bool operator==(const ChunkLayout&) const = default;

 private:
  int32_t size_;
  Vertical vertical_;
};

/// A regular grid of samples. Sample (i, j) belongs to cell (x + i*step, z + j*step).
struct SampleGrid {
  int64_t x = 0;
  int64_t z = 0;
  int64_t step = 1;    ///< Cells from one sample to the next, 1 ... kMaxStep.
  int32_t width = 0;   ///< Samples along x.
  int32_t length = 0;  ///< Samples along z.

  static constexpr int64_t kMaxStep = int64_t{1} << 40;
};

/// A regular block of samples. Sample (i, j, k) belongs to cell (x + i*step, y + j*step,
/// z + k*step); width counts along x, height along y, length along z.
struct SampleBlock {
  int64_t x = 0;
  int64_t y = 0;
  int64_t z = 0;
  int64_t step = 1;
  int32_t width = 0;
  int32_t height = 0;
  int32_t length = 0;
};

/// The middle of an area, at most so many cells a side.
constexpr Rect middlePart(const Rect& area, int64_t most) {
  const int64_t width = std::min(area.width, most), length = std::min(area.length, most);
  return {area.x + (area.width - width) / 2, area.z + (area.length - length) / 2, width, length};
}

/// Squared distance in cells from `from` to the nearest cell of `rect`.
/// REQUIRES: the distance per axis is below 2^31.
constexpr int64_t squaredDistance(Cell from, const Rect& rect) {
  const int64_t dx = std::max<int64_t>({rect.x - from.x, 0, from.x - (rect.x + rect.width - 1)});
  const int64_t dz = std::max<int64_t>({rect.z - from.z, 0, from.z - (rect.z + rect.length - 1)});
  return dx * dx + dz * dz;
}

}  // namespace acre
