#include "water/water_stage.h"

#include <algorithm>
#include <cmath>
#include <limits>

#include "base/parallel.h"
#include "recipe/look.h"

namespace acre {
namespace {

constexpr float kFar = std::numeric_limits<float>::max();
constexpr int32_t kNoLake = INT32_MIN;
constexpr float kGuard = 2.2f;  // Cells from a river where the ground is no lower than it.
constexpr float kWet = 4.0f;    // Cells from a river where lower ground is under water.
constexpr float kWidestValley = 46;
constexpr int kFine = 16;  // Places on courses are in 1/16 cells.

/// How far the valley of a river reaches beyond its banks.
float valleyOf(float radius, float perRadius) {
  return std::min(kWidestValley, 6.0f + perRadius * radius);
}

}  // namespace

struct WaterStage::BedTile {
  /// In 1/16 cells from the tile's corner; radius and level in cells.
  struct Point {
    float x, z, radius, level;
  };
  struct Piece {
    Brick brick;
    uint32_t first, count;
    float reach;             ///< Cells from its line to the last that it touches.
    int32_t x0, z0, x1, z1;  ///< Cells from the tile's corner that it may touch.
  };
  std::vector<Point> points;
  std::vector<Piece> pieces;
  /// Lakes of the bricks whose cells lie in the tile, in whole cells: from that before its first,
  /// whose odd rows reach in.
  static constexpr int kWide = static_cast<int>(BrickTile::kSide) + 1;
  std::array<int32_t, size_t{kWide} * BrickTile::kSide> lake, about;
  std::array<Brick, size_t{kWide} * BrickTile::kSide> pit;
  uint64_t bytes() const {
    return sizeof *this + points.size() * sizeof(Point) + pieces.size() * sizeof(Piece) + 128;
  }
};

uint64_t WaterStage::CourseTile::bytes() const {
  uint64_t sum = sizeof *this + 64;
  for (const CoursePiece& p : pieces) sum += sizeof p + p.points.size() * sizeof(CoursePoint) + 16;
  return sum;
}

Digest WaterStage::keyOf(const DrainageInputs& inputs, const Digest& land) {
  Rivers shape = inputs.rivers;
  shape.water.clear();  // What it is made of changes no course.
  DigestWriter key;
  key.text("water").u32(1).u64(inputs.seed).digest(land).f32(inputs.seaLevel).u8(inputs.blocks);
  writeKey(key, shape);
  return key.finish();
}

Result<std::shared_ptr<const WaterStage>> WaterStage::compile(
    const DrainageInputs& inputs, const MemoLimit& memo) {
  std::shared_ptr<WaterStage> stage(new WaterStage(inputs, memo));
  auto lines = Courses::compile(stage->drainage_, inputs.rivers.meander, "/rivers/meander");
  if (!lines) return lines.error();
  stage->lines_ = *lines;
  stage->courses_ = std::make_unique<Memo<BrickTile, CourseTile>>(memo);
  stage->seaLevel_ = inputs.blocks ? std::ceil(inputs.seaLevel) : inputs.seaLevel;
  stage->deepest_ = static_cast<float>(inputs.rivers.depth);
  stage->valley_ = static_cast<float>(inputs.rivers.valley);
  stage->sides_ = static_cast<float>(inputs.rivers.sides);
  return std::shared_ptr<const WaterStage>(std::move(stage));
}

// ---- tiles -------------------------------------------------------------------------------------

std::shared_ptr<const WaterStage::BedTile> WaterStage::bed(
    BrickTile at, const std::stop_token& stop) const {
  return beds_.get(at, stop, [&]() -> std::shared_ptr<const BedTile> {
    try {
      return std::make_shared<const BedTile>(makeBed(at, stop));
    } catch (const Drainage::Reader::Stopped&) {
      return nullptr;
    }
  });
}

WaterStage::BedTile WaterStage::makeBed(BrickTile at, const std::stop_token& stop) const {
  constexpr int64_t kFarTiles = (Courses::kReach + BrickTile::kSide - 1) / BrickTile::kSide;
  constexpr int32_t kAcross = 2 * kFarTiles + 1;
  std::array<std::shared_ptr<const CourseTile>, size_t{kAcross} * kAcross> around;
  parallelForAlone(kAcross * kAcross, [&](int32_t n) {
    const BrickTile from{at.ti + n % kAcross - kFarTiles, at.tj + n / kAcross - kFarTiles};
    try {
      around[static_cast<size_t>(n)] = courses_->get(from, stop, [&] {
        Drainage::Reader net(drainage_, stop);
        return std::make_shared<const CourseTile>(CourseTile{lines_->piecesOf(net, from)});
      });
    } catch (const Drainage::Reader::Stopped&) {
      return;  // Told below: a body must not throw.
    }
  });
  Drainage::Reader net(drainage_, stop);
  const Rect cells = at.cells();
  BedTile tile;
  for (const auto& courses : around) {
    if (!courses) throw Drainage::Reader::Stopped();
    for (const CoursePiece& piece : courses->pieces) {
      const Cell m = middleOf(piece.brick);
      BedTile::Piece p{piece.brick, static_cast<uint32_t>(tile.points.size()),
          static_cast<uint32_t>(piece.points.size()), 0, INT32_MAX, INT32_MAX, INT32_MIN,
          INT32_MIN};
      for (const CoursePoint& c : piece.points) {
        const auto fine = [](int64_t cell, int64_t grains) {
          return static_cast<int32_t>((cell * kGrain + grains + kFine / 2) >> 4);
        };
        const int32_t x = fine(m.x - cells.x, c.x), z = fine(m.z - cells.z, c.z);
        const float radius = static_cast<float>(c.radius) / static_cast<float>(kGrain);
        tile.points.push_back({static_cast<float>(x), static_cast<float>(z), radius,
            static_cast<float>(c.level) / static_cast<float>(kGrain)});
        p.reach = std::max(p.reach, radius + valleyOf(radius, valley_));
        p.x0 = std::min(p.x0, x);
        p.x1 = std::max(p.x1, x);
        p.z0 = std::min(p.z0, z);
        p.z1 = std::max(p.z1, z);
      }
      const int32_t margin = static_cast<int32_t>(p.reach) + 2;
      const auto toCells = [](int32_t v) { return static_cast<int32_t>(floorDiv(v, kFine)); };
      p.x0 = toCells(p.x0) - margin;
      p.z0 = toCells(p.z0) - margin;
      p.x1 = toCells(p.x1) + margin;
      p.z1 = toCells(p.z1) + margin;
      if (p.x1 < 0 || p.z1 < 0 || p.x0 >= cells.width || p.z0 >= cells.length)
        tile.points.resize(p.first);
      else
        tile.pieces.push_back(p);
    }
  }
  // Pieces in the order of their bricks, whatever tile they came from; then as they were made.
  std::stable_sort(
      tile.pieces.begin(), tile.pieces.end(), [](const BedTile::Piece& a, const BedTile::Piece& b) {
        return std::pair(a.brick.j, a.brick.i) < std::pair(b.brick.j, b.brick.i);
      });
  const auto lakeOf = [&](Brick b) {
    const Drainage::Reader::LevelAt level = net.level(b);
    return level.lake ? static_cast<int32_t>(floorDiv(level.key.level, kGrain)) : kNoLake;
  };
  for (int j = 0; j < BrickTile::kSide; ++j)
    for (int i = 0; i < BedTile::kWide; ++i) {
      const Brick b{at.ti * BrickTile::kSide + i - 1, at.tj * BrickTile::kSide + j};
      const auto k = static_cast<size_t>(j * BedTile::kWide + i);
      tile.lake[k] = tile.about[k] = lakeOf(b);
      tile.pit[k] = net.level(b).key.brick;
      for (int side = 0; side < kBrickSides; ++side)
        tile.about[k] = std::max(tile.about[k], lakeOf(besideBrick(b, side)));
    }
  return tile;
}

// ---- cells -------------------------------------------------------------------------------------

void WaterStage::aloneIn(const BedTile& tile, const Rect& cells, const SampleGrid& grid,
    int32_t firstX, int32_t firstZ, int32_t wide, int32_t length, const float* before,
    WaterAt* out) const {
  const int64_t step = grid.step;
  // Of the first sample, from the tile's corner.
  const int64_t x0 = grid.x + firstX * step - cells.x, z0 = grid.z + firstZ * step - cells.z;
  const size_t count = static_cast<size_t>(wide) * static_cast<size_t>(length);
  struct Room {
    std::vector<float> square, level, radius, held, bed, wet, low, guard;
    std::vector<int32_t> owner;
  };
  thread_local Room room;
  for (auto* list : {&room.square, &room.level, &room.radius}) list->resize(count);
  for (auto* list : {&room.held, &room.bed, &room.wet, &room.low}) list->assign(count, kFar);
  room.guard.assign(count, -kFar);
  room.owner.assign(count, -1);
  // Samples from the first at or behind a cell to the first behind another.
  const auto from = [&](int64_t cell, int64_t first, int32_t most) {
    return static_cast<int32_t>(
        std::clamp<int64_t>(floorDiv(cell - first + step - 1, step), 0, most));
  };
  for (size_t n = 0; n < tile.pieces.size(); ++n) {
    const BedTile::Piece& piece = tile.pieces[n];
    const int32_t i0 = from(piece.x0, x0, wide), i1 = from(int64_t{piece.x1} + 1, x0, wide);
    const int32_t j0 = from(piece.z0, z0, length), j1 = from(int64_t{piece.z1} + 1, z0, length);
    if (i0 >= i1 || j0 >= j1) continue;
    for (int32_t j = j0; j < j1; ++j)
      std::fill(room.square.begin() + ptrdiff_t{j} * wide + i0,
          room.square.begin() + ptrdiff_t{j} * wide + i1, kFar);
    const BedTile::Point* points = tile.points.data() + piece.first;
    for (uint32_t k = 0; k + 1 < piece.count; ++k) {
      const BedTile::Point &a = points[k], &b = points[k + 1];
      const auto around = static_cast<int64_t>(piece.reach) + 2;
      const auto cellOf = [](float v) { return floorDiv(static_cast<int64_t>(v), kFine); };
      const int32_t s0 = std::max(i0, from(cellOf(std::min(a.x, b.x)) - around, x0, wide));
      const int32_t s1 = std::min(i1, from(cellOf(std::max(a.x, b.x)) + around + 1, x0, wide));
      const int32_t t0 = std::max(j0, from(cellOf(std::min(a.z, b.z)) - around, z0, length));
      const int32_t t1 = std::min(j1, from(cellOf(std::max(a.z, b.z)) + around + 1, z0, length));
      const float vx = b.x - a.x, vz = b.z - a.z;
      const float square = vx * vx + vz * vz;
      const float whole = square > 0 ? square : 1.0f;
      const float rise = b.level - a.level, widen = b.radius - a.radius;
      const auto stride = static_cast<float>(kFine * step);
      const float beginX = static_cast<float>(kFine * (x0 + s0 * step) + kFine / 2) - a.x;
      for (int32_t j = t0; j < t1; ++j) {
        const float pz = static_cast<float>(kFine * (z0 + j * step) + kFine / 2) - a.z;
        float* nearest = room.square.data() + ptrdiff_t{j} * wide;
        float* level = room.level.data() + ptrdiff_t{j} * wide;
        float* radius = room.radius.data() + ptrdiff_t{j} * wide;
        for (int32_t i = s0; i < s1; ++i) {
          const float px = beginX + static_cast<float>(i - s0) * stride;
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
    for (int32_t j = j0; j < j1; ++j)
      for (int32_t i = i0; i < i1; ++i) {
        const auto c = static_cast<size_t>(ptrdiff_t{j} * wide + i);
        if (room.square[c] == kFar) continue;
        const float d = std::sqrt(room.square[c]) * (1.0f / kFine);
        const float r = room.radius[c], w = room.level[c], e = d - r;
        const float valley = valleyOf(r, valley_);
        if (e >= valley) continue;
        if (e <= 0) {
          const float share = d / r;
          const float deep = 1.0f + std::min(deepest_, 0.35f * r) * (1.0f - share * share);
          if (w < room.held[c]) {
            room.held[c] = w;
            room.owner[c] = static_cast<int32_t>(n);
          }
          room.bed[c] = std::min(room.bed[c], w - deep);
          continue;
        }
        if (e <= kGuard) room.guard[c] = std::max(room.guard[c], w);
        if (e <= kWet && w < room.wet[c]) {
          room.wet[c] = w;
          if (room.held[c] == kFar) room.owner[c] = static_cast<int32_t>(n);
        }
        const float f = e / valley;
        room.low[c] = std::min(room.low[c], ((w + 0.5f) + sides_ * e) + 12.0f * ((f * f) * f));
      }
  }
  const float top = std::ceil(seaLevel_);
  for (int32_t j = 0; j < length; ++j) {
    const int64_t z = z0 + j * step;
    const int64_t row = floorDiv(z, kBrickLength);
    const int64_t shift = (row & 1) * kBrickWidth / 2;  // The tile's first row is even.
    for (int32_t i = 0; i < wide; ++i) {
      const auto c = static_cast<size_t>(ptrdiff_t{j} * wide + i);
      const ptrdiff_t place = ptrdiff_t{j + firstZ} * grid.width + i + firstX;
      WaterAt& at = out[place];
      const float h = before[place];
      at = {};
      at.height = h;
      const int64_t column = floorDiv(x0 + i * step - shift, kBrickWidth) + 1;
      const auto k = static_cast<size_t>(row * BedTile::kWide + column);
      if (h < seaLevel_) {
        at.kind = WaterKind::Sea;
        at.level = static_cast<int32_t>(top);
        continue;
      }
      const float ground = std::floor(h);
      if (tile.lake[k] != kNoLake && ground < static_cast<float>(tile.lake[k])) {
        at.kind = WaterKind::Lake;
        at.level = tile.lake[k];
        at.i = tile.pit[k].i;
        at.j = tile.pit[k].j;
        continue;
      }
      if (room.owner[c] >= 0) {
        const Brick b = tile.pieces[static_cast<size_t>(room.owner[c])].brick;
        at.i = b.i;
        at.j = b.j;
      }
      if (room.held[c] != kFar) {
        at.kind = WaterKind::River;
        at.level = static_cast<int32_t>(std::floor(room.held[c]));
        at.height = std::min(h, room.bed[c]);
        at.cut = at.height < h;
        continue;
      }
      if (room.wet[c] != kFar && ground < std::floor(room.wet[c])) {
        at.kind = WaterKind::River;
        at.level = static_cast<int32_t>(std::floor(room.wet[c]));
        continue;
      }
      float v = std::min(h, room.low[c]);
      float guard = std::max(room.guard[c], top);
      if (tile.about[k] != kNoLake) guard = std::max(guard, static_cast<float>(tile.about[k]));
      if (v < guard) v = std::min(h, guard);
      at.height = v;
      at.cut = v < h;
    }
  }
}

bool WaterStage::alone(
    const SampleGrid& grid, const float* before, WaterAt* out, const std::stop_token& stop) const {
  const int64_t step = grid.step;
  constexpr int64_t kWide = BrickTile::kSide * kBrickWidth;
  constexpr int64_t kLong = BrickTile::kSide * kBrickLength;
  // Samples before the first that lies at or behind a cell.
  const auto until = [&](int64_t cell, int64_t first, int32_t most) {
    return static_cast<int32_t>(
        std::clamp<int64_t>(floorDiv(cell - first + step - 1, step), 0, most));
  };
  for (int32_t j = 0, nextJ = 0; j < grid.length; j = nextJ) {
    const int64_t tj = floorDiv(grid.z + j * step, kLong);
    nextJ = until((tj + 1) * kLong, grid.z, grid.length);
    for (int32_t i = 0, nextI = 0; i < grid.width; i = nextI) {
      const int64_t ti = floorDiv(grid.x + i * step, kWide);
      nextI = until((ti + 1) * kWide, grid.x, grid.width);
      const auto tile = bed({ti, tj}, stop);
      if (!tile) return false;
      aloneIn(*tile, BrickTile{ti, tj}.cells(), grid, i, j, nextI - i, nextJ - j, before, out);
    }
  }
  return true;
}

void WaterStage::hold(WaterAt& at, float before, const WaterAt* const (&beside)[4]) const {
  if (at.kind != WaterKind::Dry || !at.cut) return;
  int32_t highest = INT32_MIN;
  for (const WaterAt* other : beside)
    if (other->kind != WaterKind::Dry) highest = std::max(highest, other->level);
  const auto level = static_cast<float>(highest);
  if (highest == INT32_MIN || std::floor(at.height) >= level) return;
  at.height = std::min(before, std::max(at.height, level));
  at.cut = at.height < before;
}

bool WaterStage::shape(const SampleGrid& grid, const float* before, const Out& out,
    const std::stop_token& stop) const {
  const SampleGrid all{grid.x - 1, grid.z - 1, 1, grid.width + 2, grid.length + 2};
  const ptrdiff_t wide = all.width;
  std::vector<WaterAt> found(static_cast<size_t>(all.width) * static_cast<size_t>(all.length));
  if (!alone(all, before, found.data(), stop)) return false;
  for (ptrdiff_t j = 0; j < grid.length; ++j)
    for (ptrdiff_t i = 0; i < grid.width; ++i) {
      const ptrdiff_t place = (j + 1) * wide + i + 1;
      WaterAt at = found[static_cast<size_t>(place)];
      const WaterAt* own = &found[static_cast<size_t>(place)];
      hold(at, before[place], {own - 1, own + 1, own - wide, own + wide});
      const ptrdiff_t to = j * out.stride + i;
      if (out.heights) out.heights[to] = at.height;
      if (out.kinds) out.kinds[to] = at.kind;
      if (out.levels) out.levels[to] = at.level;
    }
  return true;
}

bool WaterStage::shapeApart(const SampleGrid& grid, const float* before, const Out& out,
    const std::stop_token& stop) const {
  constexpr int64_t kFineSteps = 4;
  const Accuracy accuracy = grid.step > kFineSteps ? Accuracy::Approximate : Accuracy::Exact;
  std::vector<WaterAt> found(static_cast<size_t>(grid.width) * static_cast<size_t>(grid.length));
  if (!alone(grid, before, found.data(), stop)) return false;
  std::vector<Cell> beside;
  const auto cut = [](const WaterAt& at) { return at.kind == WaterKind::Dry && at.cut; };
  for (int32_t j = 0; j < grid.length; ++j)
    for (int32_t i = 0; i < grid.width; ++i) {
      if (!cut(found[static_cast<size_t>(ptrdiff_t{j} * grid.width + i)])) continue;
      const int64_t x = grid.x + i * grid.step, z = grid.z + j * grid.step;
      for (const Cell c : {Cell{x - 1, z}, {x + 1, z}, {x, z - 1}, {x, z + 1}}) beside.push_back(c);
    }
  std::vector<float> heights(beside.size());
  drainage_.land().scattered(
      static_cast<int>(beside.size()), beside.data(), heights.data(), nullptr, accuracy);
  size_t next = 0;
  for (int32_t j = 0; j < grid.length; ++j) {
    if (stop.stop_requested()) return false;
    for (int32_t i = 0; i < grid.width; ++i) {
      const ptrdiff_t place = ptrdiff_t{j} * grid.width + i;
      WaterAt& at = found[static_cast<size_t>(place)];
      if (cut(at)) {
        WaterAt sides[4];
        for (WaterAt& side : sides) {
          side = aloneAt(beside[next], heights[next], stop);
          ++next;
        }
        hold(at, before[place], {&sides[0], &sides[1], &sides[2], &sides[3]});
      }
      const ptrdiff_t to = j * out.stride + i;
      if (out.heights) out.heights[to] = at.height;
      if (out.kinds) out.kinds[to] = at.kind;
      if (out.levels) out.levels[to] = at.level;
    }
  }
  return !stop.stop_requested();
}

WaterAt WaterStage::aloneAt(Cell cell, float before, const std::stop_token& stop) const {
  WaterAt at;
  if (!alone({cell.x, cell.z, 1, 1, 1}, &before, &at, stop)) at.height = before;
  return at;
}

void WaterStage::shape(int count, const Cell* cells, const float* before, float* heights,
    WaterAt* out, Accuracy accuracy) const {
  std::vector<WaterAt> found(static_cast<size_t>(count));
  std::vector<Cell> beside;
  for (int n = 0; n < count; ++n) {
    WaterAt& at = found[static_cast<size_t>(n)];
    at = aloneAt(cells[n], before[n], {});
    if (at.kind != WaterKind::Dry || !at.cut) continue;
    const auto [x, z] = cells[n];
    for (const Cell c : {Cell{x - 1, z}, {x + 1, z}, {x, z - 1}, {x, z + 1}}) beside.push_back(c);
  }
  std::vector<float> around(beside.size());
  drainage_.land().scattered(
      static_cast<int>(beside.size()), beside.data(), around.data(), nullptr, accuracy);
  size_t next = 0;
  for (int n = 0; n < count; ++n) {
    WaterAt& at = found[static_cast<size_t>(n)];
    if (at.kind == WaterKind::Dry && at.cut) {
      WaterAt sides[4];
      for (WaterAt& side : sides) {
        side = aloneAt(beside[next], around[next], {});
        ++next;
      }
      hold(at, before[n], {&sides[0], &sides[1], &sides[2], &sides[3]});
    }
    if (heights) heights[n] = at.height;
    if (out) out[n] = at;
  }
}

}  // namespace acre
