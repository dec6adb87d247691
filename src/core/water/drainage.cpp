#include "water/drainage.h"

#include <algorithm>
#include <cmath>

#include "water/drainage_work.h"

namespace acre {
namespace {

constexpr uint64_t kWaterStage = 0x5761746572;  // "Water"
constexpr int64_t kLook = 34;                   // Cells about a brick's middle whose lowest counts.
constexpr int64_t kBelow = kGrain / 2;          // By which a channel keeps under its ground.
constexpr uint64_t kCandidates = 3;             // For the node of a brick.
constexpr size_t kSeaBricks = 24;               // So many joined bricks are sea ...
constexpr int64_t kSeaSpan = 10;                // ... or any that lie farther from the lowest.
constexpr int64_t kNarrowest = 2 * kGrain;      // Of rivers.

/// The whole cell upward.
int64_t wholeAbove(int64_t grains) {
  return -floorDiv(-grains, kGrain) * kGrain;
}

/// 2^24 times a share.
int64_t shareOf(double share) {
  return static_cast<int64_t>(std::floor(share * 0x1p24 + 0.5));
}

}  // namespace

int32_t heightGrains(float height) {
  const double grains = std::floor(static_cast<double>(height) * static_cast<double>(kGrain));
  const auto most = static_cast<double>(kHighestGrain);
  return static_cast<int32_t>(std::clamp(grains, -most, most));
}

int64_t wholeRoot(int64_t v) {
  auto root = static_cast<int64_t>(std::sqrt(static_cast<double>(v)));
  while (root * root > v) --root;
  while ((root + 1) * (root + 1) <= v) ++root;
  return root;
}

uint64_t PoolTile::bytes() const {
  uint64_t sum = sizeof *this + 64;
  for (const auto* list : {&pools, &spares})
    for (const Pool& pool : *list) sum += sizeof pool + pool.bricks.size() * sizeof(Brick) + 16;
  return sum;
}

uint64_t OutletTile::bytes() const {
  uint64_t sum = sizeof *this + 64;
  for (const Outlet& o : outlets) sum += sizeof o + o.way.size() * sizeof(Brick) + 16;
  for (const Pool& pool : forced) sum += sizeof pool + pool.bricks.size() * sizeof(Brick) + 16;
  return sum;
}

bool SparseLand::heights(const SampleGrid& grid, float* out, const std::stop_token& stop) const {
  LandOut land;
  land.heights = out;
  land.stride = grid.width;
  return land_->evaluate(
      {grid.x * scale_, grid.z * scale_, grid.step * scale_, grid.width, grid.length}, land, stop);
}

void SparseLand::heights(const std::vector<Cell>& cells, Accuracy accuracy, float* out) const {
  const auto count = static_cast<int>(cells.size());
  if (scale_ == 1) return land_->scattered(count, cells.data(), out, nullptr, accuracy);
  std::vector<Cell> of = cells;
  for (Cell& cell : of) cell = {cell.x * scale_, cell.z * scale_};
  land_->scattered(count, of.data(), out, nullptr, accuracy);
}

Drainage::Drainage(const DrainageInputs& inputs, const MemoLimit& memo)
    : land_(inputs.land, inputs.scale),
      seed_(combine(inputs.seed, kWaterStage)),
      sea_(grainsOf(
          static_cast<double>(inputs.blocks ? std::ceil(inputs.seaLevel) : inputs.seaLevel))),
      seaTop_(wholeAbove(sea_)),
      spring_(static_cast<int64_t>(inputs.rivers.spring)),
      lakes_(shareOf(inputs.rivers.lakes)),
      closed_(shareOf(inputs.rivers.closed)),
      carve_(grainsOf(inputs.rivers.carve)),
      growth_(grainsOf(inputs.rivers.growth)),
      widest_(std::max(kNarrowest, floorDiv(grainsOf(inputs.rivers.widest), inputs.scale))),
      tiles_(std::make_unique<Tiles>(memo)) {}

Drainage::~Drainage() = default;

int64_t Drainage::widthOf(int64_t area) const {
  return std::clamp(wholeRoot(area << 16) * growth_ >> 8, kNarrowest, widest_);
}

uint64_t Drainage::bytes() const {
  uint64_t sum = tiles_->samples.bytes() + tiles_->ground.bytes() + tiles_->sea.bytes() +
                 tiles_->pools.bytes();
  for (const int k : {0, 1})
    sum += tiles_->levels[k].bytes() + tiles_->outlets[k].bytes() + tiles_->drains[k].bytes() +
           tiles_->inflows[k].bytes() + tiles_->areas[k].bytes();
  return sum;
}

// ---- ground ------------------------------------------------------------------------------------

using Seen = Drainage::Reader::Seen;

const std::shared_ptr<const SampleTile>& Seen::samples(BrickTile at) {
  return samples_.get(of.tiles_->samples, at, stop, [&] { return makeSamples(at); });
}
const std::shared_ptr<const GroundTile>& Seen::groundTile(BrickTile at) {
  return ground_.get(of.tiles_->ground, at, stop, [&] { return makeGround(at); });
}
const std::shared_ptr<const SeaTile>& Seen::seaTile(BrickTile at) {
  return sea_.get(of.tiles_->sea, at, stop, [&] { return makeSea(at); });
}

SampleTile Seen::makeSamples(BrickTile at) {
  check();
  const Rect cells = at.cells();
  SampleTile tile;
  std::array<float, std::tuple_size_v<decltype(tile.heights)>> heights;
  if (!of.land_.heights(
          {cells.x, cells.z, SampleTile::kStride, SampleTile::kWidth, SampleTile::kLength},
          heights.data(), stop))
    throw Stopped();
  std::transform(heights.begin(), heights.end(), tile.heights.begin(), heightGrains);
  of.samples_.fetch_add(heights.size(), std::memory_order_relaxed);
  return tile;
}

GroundTile Seen::makeGround(BrickTile at) {
  // The samples about the tile, in one piece.
  constexpr int64_t kStep = SampleTile::kStride;
  const Rect own = at.cells();
  constexpr int64_t kMargin = 40;
  const int64_t x0 = own.x - kMargin, z0 = own.z - kMargin;
  constexpr int kWide = static_cast<int>((256 + 2 * kMargin + kBrickWidth / 2) / kStep);
  constexpr int kLong = static_cast<int>((224 + 2 * kMargin) / kStep);
  std::array<int32_t, size_t{kWide} * kLong> heights;
  for (int64_t dj = -1; dj <= 1; ++dj)
    for (int64_t di = -1; di <= 1; ++di) {
      const SampleTile& from = *samples({at.ti + di, at.tj + dj});
      const int64_t fx = own.x + di * own.width, fz = own.z + dj * own.length;
      const int64_t first = std::max<int64_t>(0, (x0 - fx) / kStep);
      const int64_t last = std::min<int64_t>(SampleTile::kWidth, (x0 - fx) / kStep + kWide);
      for (int64_t n = 0; n < SampleTile::kLength && first < last; ++n) {
        const int64_t j = (fz - z0) / kStep + n;
        if (j < 0 || j >= kLong) continue;
        std::copy(from.heights.begin() + n * SampleTile::kWidth + first,
            from.heights.begin() + n * SampleTile::kWidth + last,
            heights.begin() + j * kWide + (fx - x0) / kStep + first);
      }
    }
  const auto heightAt = [&](int64_t x, int64_t z) {
    return heights[static_cast<size_t>((z - z0) / kStep * kWide + (x - x0) / kStep)];
  };
  const auto sampleAfter = [](int64_t cell) { return floorDiv(cell + kStep - 1, kStep) * kStep; };
  const auto sampleNear = [](int64_t cell) { return floorDiv(cell + kStep / 2, kStep) * kStep; };
  GroundTile tile;
  for (int k = 0; k < BrickTile::kBricks; ++k) {
    BrickGround& g = tile.bricks[static_cast<size_t>(k)];
    const Cell m = middleOf(at.brick(k));
    g.hash = hashOf(of.seed_, at.brick(k));
    g.base = INT32_MAX;
    for (uint64_t c = 0; c < kCandidates; ++c) {
      const uint64_t d = combine(g.hash, c);
      const int64_t dx = static_cast<int64_t>((d >> 32) * 27 >> 32) - 13;
      const int64_t dz = static_cast<int64_t>((d & 0xFFFFFFFFu) * 25 >> 32) - 12;
      const int32_t h = heightAt(sampleNear(m.x + dx), sampleNear(m.z + dz));
      if (h >= g.base) continue;
      g.base = h;
      g.nodeX = static_cast<int8_t>(dx);
      g.nodeZ = static_cast<int8_t>(dz);
    }
    int32_t lowest = INT32_MAX;
    for (int64_t z = sampleAfter(m.z - kLook); z <= m.z + kLook; z += kStep)
      for (int64_t x = sampleAfter(m.x - kLook); x <= m.x + kLook; x += kStep) {
        const int64_t dx = x - m.x, dz = z - m.z;
        if (dx * dx + dz * dz > kLook * kLook || heightAt(x, z) >= lowest) continue;
        lowest = heightAt(x, z);
        g.bottomX = static_cast<int8_t>(dx);
        g.bottomZ = static_cast<int8_t>(dz);
      }
    g.low = lowest - static_cast<int32_t>(kBelow);
  }
  return tile;
}

// ---- sea ---------------------------------------------------------------------------------------

/// Whether what is joined to a brick below the sea level is the sea. joined: gets bricks of it, all
/// of them if it is none. known: those that are known to be sea.
bool Seen::openWater(Brick b, BrickTile at, uint64_t known, std::vector<Brick>& joined) {
  joined = {b};
  for (size_t n = 0; n < joined.size(); ++n)
    for (int side = 0; side < kBrickSides; ++side) {
      const Brick next = besideBrick(joined[n], side);
      if (ground(next).low >= of.sea_) continue;
      if (BrickTile::of(next) == at && known >> BrickTile::indexOf(next) & 1) return true;
      if (std::find(joined.begin(), joined.end(), next) != joined.end()) continue;
      joined.push_back(next);
      if (joined.size() >= kSeaBricks) return true;
    }
  const Brick lowest = *std::min_element(
      joined.begin(), joined.end(), [&](Brick p, Brick q) { return lowKey(p) < lowKey(q); });
  return std::any_of(joined.begin(), joined.end(), [&](Brick p) {
    return std::abs(p.i - lowest.i) > kSeaSpan || std::abs(p.j - lowest.j) > kSeaSpan;
  });
}

SeaTile Seen::makeSea(BrickTile at) {
  check();
  SeaTile tile;
  uint64_t asked = 0;
  std::vector<Brick> joined;
  for (int k = 0; k < BrickTile::kBricks; ++k) {
    if (asked >> k & 1 || ground(at.brick(k)).low >= of.sea_) continue;
    const bool sea = openWater(at.brick(k), at, tile.sea, joined);
    for (const Brick b : joined) {  // What holds of one holds of all that it is joined to.
      if (BrickTile::of(b) != at) continue;
      asked |= uint64_t{1} << BrickTile::indexOf(b);
      if (sea) tile.sea |= uint64_t{1} << BrickTile::indexOf(b);
    }
  }
  return tile;
}

std::vector<Brick> Seen::puddleOf(Brick b) {
  std::vector<Brick> joined = {b};
  for (size_t n = 0; n < joined.size(); ++n)
    for (int side = 0; side < kBrickSides; ++side) {
      const Brick next = besideBrick(joined[n], side);
      if (ground(next).low < of.sea_ &&
          std::find(joined.begin(), joined.end(), next) == joined.end())
        joined.push_back(next);
    }
  return joined;
}

// ---- what is asked from outside ----------------------------------------------------------------

Drainage::Reader::Reader(const Drainage& of, const std::stop_token& stop)
    : of_(of), seen_(std::make_unique<Seen>(of, stop)) {}
Drainage::Reader::~Reader() = default;

BrickGround Drainage::Reader::ground(Brick b) {
  return seen_->ground(b);
}
Cell Drainage::Reader::nodeOf(Brick b) {
  return seen_->nodeOf(b);
}
Cell Drainage::Reader::bottomOf(Brick b) {
  const BrickGround& g = seen_->ground(b);
  const Cell m = middleOf(b);
  return {m.x + g.bottomX, m.z + g.bottomZ};
}
Drainage::Reader::LevelAt Drainage::Reader::level(Brick b) {
  return seen_->level(b, 1);
}
std::shared_ptr<const Pool> Drainage::Reader::lake(Brick pit) {
  return seen_->lake(pit, 1);
}
std::shared_ptr<const Outlet> Drainage::Reader::outlet(Brick from) {
  return seen_->outlet(from, 1);
}
DrainAt Drainage::Reader::drain(Brick b) {
  return seen_->drain(b, Seen::After);
}
DrainAt Drainage::Reader::drainBefore(Brick b) {
  return seen_->drain(b, Seen::Before);
}
Drainage::Reader::Inflows Drainage::Reader::inflows(Brick b) {
  return seen_->inflows(b, Seen::After);
}
int64_t Drainage::Reader::area(Brick b) {
  return seen_->areas(BrickTile::of(b), Seen::After)
      ->areas[static_cast<size_t>(BrickTile::indexOf(b))];
}
bool Drainage::Reader::isRiver(Brick b) {
  const Drains drains = drain(b).drains;
  return (drains == Drains::On || drains == Drains::Sink) && area(b) >= of_.spring_;
}
bool Drainage::Reader::isSpring(Brick b) {
  if (!isRiver(b)) return false;
  const Inflows in = inflows(b);
  bool fed = in.lakes != 0;
  for (int side = 0; side < kBrickSides && !fed; ++side)
    fed = (in.land >> side & 1) && isRiver(besideBrick(b, side));
  return !fed;
}
int64_t Drainage::Reader::lakeArea(Brick pit) {
  constexpr int kSteps = 64;
  return seen_->lakeAreaWithin(pit, kSteps, Seen::After);
}
Drainage::Reader::LakeWays Drainage::Reader::waysIn(const Pool& pool) {
  return seen_->waysIn(pool);
}
const Brick* Drainage::Reader::LakeWays::nextOf(Brick b) const {
  const auto at = std::find(bricks.begin(), bricks.end(), b);
  return at == bricks.end() ? nullptr : &next[static_cast<size_t>(at - bricks.begin())];
}

}  // namespace acre
