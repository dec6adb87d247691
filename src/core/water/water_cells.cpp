// The stage Water, from beds to cells.
#include <algorithm>
#include <cmath>
#include <limits>
#include <map>
#include <tuple>

#include "field/water_distance.h"
#include "water/water_beds.h"

namespace acre {
namespace {

constexpr float kFar = std::numeric_limits<float>::max();
constexpr float kGuard = 2.2f;    // Cells from a river where the ground is no lower than it.
constexpr float kWet = 4.0f;      // Cells from a river where lower ground is under water.
constexpr float kShoreSlope = 4;  // Cells from a lake for each cell that ground lies above it.

/// Samples from `first` on in steps that lie before a cell, at most so many.
int32_t samplesBefore(int64_t cell, int64_t first, int64_t step, int32_t most) {
  const int64_t before = step == 1 ? cell - first : floorDiv(cell - first + step - 1, step);
  return static_cast<int32_t>(std::clamp<int64_t>(before, 0, most));
}

bool isCut(const WaterAt& at) {
  return at.kind == WaterKind::Dry && at.cut;
}

constexpr Cell kBeside[4] = {{-1, 0}, {1, 0}, {0, -1}, {0, 1}};

/// Room for what is found, which the thread keeps for the next grid of a chunk's size; what it
/// holds at first is of another one.
class Lent {
 public:
  explicit Lent(size_t count) : found_(std::exchange(kept_, {})) { found_.resize(count); }
  ~Lent() {
    if (found_.capacity() <= kMostKept) kept_ = std::move(found_);
  }
  Lent(const Lent&) = delete;
  Lent& operator=(const Lent&) = delete;
  std::vector<WaterAt>& operator*() { return found_; }

 private:
  static constexpr size_t kMostKept = 1 << 14;
  static thread_local std::vector<WaterAt> kept_;
  std::vector<WaterAt> found_;
};
thread_local std::vector<WaterAt> Lent::kept_;

}  // namespace

/// The samples of a grid that lie in one tile, counted from the tile's corner.
struct WaterStage::Patch {
  int64_t x, z, step;
  int32_t wide, length;
  size_t at(int32_t i, int32_t j) const { return static_cast<size_t>(ptrdiff_t{j} * wide + i); }
  /// Samples within cells [x0, x1] x [z0, z1], both ends included.
  struct Part {
    int32_t i0, i1, j0, j1;
    bool empty() const { return i0 >= i1 || j0 >= j1; }
  };
  Part within(int64_t x0, int64_t x1, int64_t z0, int64_t z1) const {
    return {samplesBefore(x0, x, step, wide), samplesBefore(x1 + 1, x, step, wide),
        samplesBefore(z0, z, step, length), samplesBefore(z1 + 1, z, step, length)};
  }
};

/// What lies near each sample of a patch.
struct WaterStage::Near {
  std::vector<float> square, level, radius;  ///< Of the piece that is looked at.
  std::vector<float> held, bed, wet, bound, guard, shore;
  std::vector<int32_t> owner;  ///< The piece of its water; -1: none.

  void reset(size_t count) {
    for (auto* list : {&square, &level, &radius}) list->resize(count);
    for (auto* list : {&held, &bed, &wet, &bound}) list->assign(count, kFar);
    guard.assign(count, -kFar);
    shore.assign(count, kFarShore);
    owner.assign(count, -1);
  }
  /// Whether any piece reaches a sample.
  bool touches(size_t c) const { return bound[c] != kFar || held[c] != kFar; }
};

/// The nearest place on a piece: how far it is, its level and radius.
void WaterStage::measure(
    const BedTile& tile, const BedPiece& piece, const Patch& patch, Near& near) const {
  const BedTile::Point* points = tile.points.data() + piece.first;
  const auto around = static_cast<int64_t>(piece.reach) + 2;
  const auto cellOf = [](float v) { return floorDiv(static_cast<int64_t>(v), kFine); };
  const auto stride = static_cast<float>(kFine * patch.step);
  for (uint32_t k = 0; k + 1 < piece.count; ++k) {
    const BedTile::Point &a = points[k], &b = points[k + 1];
    const Patch::Part part =
        patch.within(cellOf(std::min(a.x, b.x)) - around, cellOf(std::max(a.x, b.x)) + around,
            cellOf(std::min(a.z, b.z)) - around, cellOf(std::max(a.z, b.z)) + around);
    const float vx = b.x - a.x, vz = b.z - a.z;
    const float square = vx * vx + vz * vz;
    const float whole = square > 0 ? square : 1.0f;
    const float rise = b.level - a.level, widen = b.radius - a.radius;
    const auto middleOf = [&](int64_t cell) {
      return static_cast<float>(kFine * cell + kFine / 2);
    };
    const float beginX = middleOf(patch.x + part.i0 * patch.step) - a.x;
    for (int32_t j = part.j0; j < part.j1; ++j) {
      const float pz = middleOf(patch.z + j * patch.step) - a.z;
      float* nearest = near.square.data() + patch.at(0, j);
      float* level = near.level.data() + patch.at(0, j);
      float* radius = near.radius.data() + patch.at(0, j);
      for (int32_t i = part.i0; i < part.i1; ++i) {
        const float px = beginX + static_cast<float>(i - part.i0) * stride;
        const float along = (px * vx + pz * vz) / whole;
        const float t = along < 0.0f ? 0.0f : (along > 1.0f ? 1.0f : along);
        const float rx = px - t * vx, rz = pz - t * vz;
        const float d = rx * rx + rz * rz;
        const bool nearer = d < nearest[i];
        nearest[i] = nearer ? d : nearest[i];
        level[i] = nearer ? a.level + t * rise : level[i];
        radius[i] = nearer ? a.radius + t * widen : radius[i];
      }
    }
  }
}

/// Adds what a measured piece means to one sample.
void WaterStage::join(int32_t piece, size_t c, Near& near) const {
  const float d = std::sqrt(near.square[c]) * (1.0f / kFine);
  const float r = near.radius[c], w = near.level[c], e = d - r;
  const float valley = valleyOf(r);
  if (e >= valley) return;
  if (e <= 0) {
    const float share = d / r;
    const float deep = 1.0f + std::min(deepest_, 0.35f * r) * (1.0f - share * share);
    if (w < near.held[c]) {
      near.held[c] = w;
      near.owner[c] = piece;
    }
    near.bed[c] = std::min(near.bed[c], w - deep);
    return;
  }
  near.shore[c] = std::min(near.shore[c], e);
  if (e <= kGuard) near.guard[c] = std::max(near.guard[c], w);
  if (e <= kWet && w < near.wet[c]) {
    near.wet[c] = w;
    if (near.held[c] == kFar) near.owner[c] = piece;
  }
  const float f = e / valley;
  near.bound[c] = std::min(near.bound[c], ((w + 0.5f) + sides_ * e) + 12.0f * ((f * f) * f));
}

/// A sample with no lake or river about.
WaterAt WaterStage::untouched(float before) const {
  WaterAt at;
  at.height = before;
  if (before < seaLevel_) {
    at.kind = WaterKind::Sea;
    at.level = static_cast<int32_t>(std::ceil(seaLevel_));
  }
  return at;
}

/// brick: its place among those of the tile.
void WaterStage::decide(const BedTile& tile, const Near& near, size_t c, size_t brick, float before,
    WaterAt& at) const {
  at = untouched(before);
  if (at.kind == WaterKind::Sea) return;
  const float top = std::ceil(seaLevel_), ground = std::floor(before);
  const auto under = [&at](WaterKind kind, float level) {
    at.kind = kind;
    at.level = static_cast<int32_t>(level);
    at.shore = 0;
  };
  if (tile.lake[brick] != kNoLake && ground < static_cast<float>(tile.lake[brick])) {
    at.i = tile.pit[brick].i;
    at.j = tile.pit[brick].j;
    return under(WaterKind::Lake, static_cast<float>(tile.lake[brick]));
  }
  if (near.owner[c] >= 0) {
    const BedPiece& piece = tile.pieces[static_cast<size_t>(near.owner[c])];
    at.i = piece.brick.i;
    at.j = piece.brick.j;
    at.course = piece.course;
  }
  if (near.held[c] != kFar) {
    at.height = std::min(before, near.bed[c]);
    at.cut = at.height < before;
    return under(WaterKind::River, std::floor(near.held[c]));
  }
  if (near.wet[c] != kFar && ground < std::floor(near.wet[c]))
    return under(WaterKind::River, std::floor(near.wet[c]));
  float guard = std::max(near.guard[c], top);
  if (tile.about[brick] != kNoLake) guard = std::max(guard, static_cast<float>(tile.about[brick]));
  at.height = std::min(before, near.bound[c]);
  if (at.height < guard) at.height = std::min(before, guard);
  at.cut = at.height < before;
  at.shore = near.shore[c];
  if (tile.about[brick] != kNoLake) {
    const float above = at.height - static_cast<float>(tile.about[brick]);
    at.shore = std::min(at.shore, kShoreSlope * std::max(0.0f, above));
  }
}

void WaterStage::aloneIn(const BedTile& tile, const Patch& patch, const float* before, WaterAt* out,
    ptrdiff_t stride) const {
  const bool crossed =
      std::any_of(tile.pieces.begin(), tile.pieces.end(), [&](const BedPiece& piece) {
        return !patch.within(piece.x0, piece.x1, piece.z0, piece.z1).empty();
      });
  if (!crossed && !tile.lakes) {  // Most of the land: nothing is near.
    for (int32_t j = 0; j < patch.length; ++j)
      for (int32_t i = 0; i < patch.wide; ++i) {
        const ptrdiff_t place = j * stride + i;
        out[place] = untouched(before[place]);
      }
    return;
  }
  thread_local Near near;
  near.reset(patch.at(0, patch.length));
  for (size_t n = 0; n < tile.pieces.size(); ++n) {
    const BedPiece& piece = tile.pieces[n];
    const Patch::Part part = patch.within(piece.x0, piece.x1, piece.z0, piece.z1);
    if (part.empty()) continue;
    for (int32_t j = part.j0; j < part.j1; ++j)
      std::fill_n(near.square.begin() + static_cast<ptrdiff_t>(patch.at(part.i0, j)),
          part.i1 - part.i0, kFar);
    measure(tile, piece, patch, near);
    for (int32_t j = part.j0; j < part.j1; ++j)
      for (int32_t i = part.i0; i < part.i1; ++i)
        if (const size_t c = patch.at(i, j); near.square[c] != kFar)
          join(static_cast<int32_t>(n), c, near);
  }
  for (int32_t j = 0; j < patch.length; ++j) {
    const int64_t row = floorDiv(patch.z + j * patch.step, kBrickLength);
    const int64_t shift = (row & 1) * kBrickWidth / 2;         // The tile's first row is even.
    for (int32_t i = 0, next = 0; i < patch.wide; i = next) {  // Brick by brick.
      const int64_t column = floorDiv(patch.x + i * patch.step - shift, kBrickWidth);
      next = samplesBefore((column + 1) * kBrickWidth + shift, patch.x, patch.step, patch.wide);
      const auto brick = static_cast<size_t>(row * BedTile::kWide + column + 1);
      const bool lake = tile.lake[brick] != kNoLake || tile.about[brick] != kNoLake;
      for (int32_t k = i; k < next; ++k) {
        const ptrdiff_t place = j * stride + k;
        if (const size_t c = patch.at(k, j); lake || near.touches(c))
          decide(tile, near, c, brick, before[place], out[place]);
        else
          out[place] = untouched(before[place]);
      }
    }
  }
}

bool WaterStage::alone(
    const SampleGrid& grid, const float* before, WaterAt* out, const std::stop_token& stop) const {
  const int64_t step = grid.step;
  constexpr int64_t kWide = BrickTile::kSide * kBrickWidth;
  constexpr int64_t kLong = BrickTile::kSide * kBrickLength;
  Readers readers{drainage_, stop};
  for (int32_t j = 0, nextJ = 0; j < grid.length; j = nextJ) {
    const int64_t z = grid.z + j * step, tj = floorDiv(z, kLong);
    nextJ = samplesBefore((tj + 1) * kLong, grid.z, step, grid.length);
    for (int32_t i = 0, nextI = 0; i < grid.width; i = nextI) {
      const int64_t x = grid.x + i * step, ti = floorDiv(x, kWide);
      nextI = samplesBefore((ti + 1) * kWide, grid.x, step, grid.width);
      const auto tile = bed({ti, tj}, readers);
      if (!tile) return false;
      const ptrdiff_t first = ptrdiff_t{j} * grid.width + i;
      aloneIn(*tile, {x - ti * kWide, z - tj * kLong, step, nextI - i, nextJ - j}, before + first,
          out + first, grid.width);
    }
  }
  return true;
}

void WaterStage::store(
    const SampleGrid& grid, const std::vector<WaterAt>& found, const Out& out) const {
  for (ptrdiff_t j = 0; j < grid.length; ++j)
    for (ptrdiff_t i = 0; i < grid.width; ++i) {
      const WaterAt& at = found[static_cast<size_t>(j * grid.width + i)];
      const ptrdiff_t to = j * out.stride + i;
      if (out.heights) out.heights[to] = at.height;
      if (out.kinds) out.kinds[to] = at.kind;
      if (out.levels) out.levels[to] = at.level;
      if (out.shores) out.shores[to] = at.shore;
      if (out.helds) out.helds[to] = at.held;
      if (out.marks) out.marks[to] = markOf(at);
    }
}

uint32_t WaterStage::markOf(const WaterAt& at) const {
  constexpr uint64_t kWays = 7;  // Their regions have numbers of their own.
  if (!isFresh(at.kind)) return 0;
  const uint64_t seed = drainage_.seed();
  return static_cast<uint32_t>(hashOf(at.course ? combine(seed, kWays) : seed, {at.i, at.j})) | 1u;
}

void WaterStage::hold(
    WaterAt& at, float before, const WaterAt* const (&beside)[4], bool tellHeld) const {
  if (tellHeld) {
    at.held = at.freshLevel();
    for (const WaterAt* other : beside) at.held = std::max(at.held, other->freshLevel());
  }
  if (!isCut(at)) return;
  int32_t highest = INT32_MIN;
  for (const WaterAt* other : beside)
    if (other->kind != WaterKind::Dry) highest = std::max(highest, other->level);
  const auto level = static_cast<float>(highest);
  if (highest == INT32_MIN || std::floor(at.height) >= level) return;
  at.height = std::min(before, std::max(at.height, level));
  at.cut = at.height < before;
}

/// The same of cells anywhere, each tile asked for once.
bool WaterStage::aloneEach(const std::vector<Cell>& cells, const float* before, WaterAt* out,
    const std::stop_token& stop) const {
  constexpr int64_t kWide = BrickTile::kSide * kBrickWidth;
  constexpr int64_t kLong = BrickTile::kSide * kBrickLength;
  std::map<BrickTile, std::shared_ptr<const BedTile>> met;
  Readers readers{drainage_, stop};
  for (size_t n = 0; n < cells.size(); ++n) {
    const BrickTile at{floorDiv(cells[n].x, kWide), floorDiv(cells[n].z, kLong)};
    std::shared_ptr<const BedTile>& tile = met[at];
    if (!tile) tile = bed(at, readers);
    if (!tile) return false;
    aloneIn(*tile, {cells[n].x - at.ti * kWide, cells[n].z - at.tj * kLong, 1, 1, 1}, before + n,
        out + n, 1);
  }
  return true;
}

template <class CellOf, class Beside>
bool WaterStage::holdAll(std::vector<WaterAt>& found, const float* before, Accuracy accuracy,
    bool all, CellOf&& cellOf, Beside&& beside, const std::stop_token& stop) const {
  std::vector<size_t> asking;
  for (size_t n = 0; n < found.size(); ++n)
    if (all || isCut(found[n])) asking.push_back(n);
  std::vector<Cell> cells;  // Beside these, not found yet.
  for (const size_t n : asking)
    for (size_t k = 0; k < 4; ++k)
      if (!beside(n, k)) cells.push_back({cellOf(n).x + kBeside[k].x, cellOf(n).z + kBeside[k].z});
  std::vector<float> heights(cells.size());
  if (!cells.empty()) drainage_.land().heights(cells, accuracy, heights.data());
  std::vector<WaterAt> asked(cells.size());
  if (!aloneEach(cells, heights.data(), asked.data(), stop)) return false;
  size_t next = 0;
  for (const size_t n : asking) {
    const WaterAt* sides[4];
    for (size_t k = 0; k < 4; ++k) {
      sides[k] = beside(n, k);
      if (!sides[k]) sides[k] = &asked[next++];
    }
    // Kinds and levels, which neighbours look at, stay as they are.
    hold(found[n], before[n], sides, all);
  }
  return true;
}

/// Water as the coarser network has it, on the ground as it is.
bool WaterStage::indicate(const SampleGrid& grid, const float* before, const Out& out,
    const std::stop_token& stop) const {
  const WaterStage& coarser = over(grid.step);
  const int64_t scale = coarser.drainage_.land().scale();
  const auto to = [&](int64_t cell) { return floorDiv(cell, scale); };
  std::vector<WaterAt> found(static_cast<size_t>(grid.width) * static_cast<size_t>(grid.length));
  if (grid.step % scale == 0) {
    if (!coarser.alone({to(grid.x), to(grid.z), grid.step / scale, grid.width, grid.length}, before,
            found.data(), stop))
      return false;
  } else {
    for (int32_t j = 0; j < grid.length; ++j)
      for (int32_t i = 0; i < grid.width; ++i) {
        const auto n = static_cast<size_t>(j * grid.width + i);
        if (!coarser.alone({to(grid.x + i * grid.step), to(grid.z + j * grid.step), 1, 1, 1},
                before + n, &found[n], stop))
          return false;
      }
  }
  for (WaterAt& at : found) at.held = at.freshLevel();
  store(grid, found, out);
  return true;
}

bool WaterStage::shape(const SampleGrid& grid, const float* before, const Out& out,
    const std::stop_token& stop) const {
  if (grid.step > kExactStep) return indicate(grid, before, out, stop);
  Lent lent(static_cast<size_t>(grid.width) * static_cast<size_t>(grid.length));
  std::vector<WaterAt>& found = *lent;
  if (!alone(grid, before, found.data(), stop)) return false;
  const auto wide = static_cast<size_t>(grid.width);
  const auto cellOf = [&](size_t n) {
    return Cell{grid.x + static_cast<int64_t>(n % wide) * grid.step,
        grid.z + static_cast<int64_t>(n / wide) * grid.step};
  };
  const auto beside = [&](size_t n, size_t side) -> const WaterAt* {
    if (grid.step > 1) return nullptr;
    const auto i = static_cast<int64_t>(n % wide) + kBeside[side].x;
    const auto j = static_cast<int64_t>(n / wide) + kBeside[side].z;
    if (i < 0 || j < 0 || i >= grid.width || j >= grid.length) return nullptr;
    return &found[static_cast<size_t>(j * grid.width + i)];
  };
  if (!holdAll(found, before, WaterDistance::accuracyAt(grid.step), out.helds != nullptr, cellOf,
          beside, stop))
    return false;
  store(grid, found, out);
  return true;
}

void WaterStage::shape(int count, const Cell* cells, const float* before, float* heights,
    WaterAt* out, Accuracy accuracy) const {
  std::vector<WaterAt> found(static_cast<size_t>(count));
  // Nobody stops it: it always comes to an end.
  std::ignore = aloneEach({cells, cells + count}, before, found.data(), {});
  std::ignore = holdAll(
      found, before, accuracy, out != nullptr, [&](size_t n) { return cells[n]; },
      [](size_t, size_t) -> const WaterAt* { return nullptr; }, {});
  for (size_t n = 0; n < found.size(); ++n) {
    if (heights) heights[n] = found[n].height;
    if (out) out[n] = found[n];
  }
}

}  // namespace acre
