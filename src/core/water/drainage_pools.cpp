#include <algorithm>

#include "water/drainage_work.h"
#include "water/hollow_flood.h"

namespace acre {
namespace {

constexpr int64_t kLeastDepth = 2 * kGrain;  // Of a hollow that may hold a lake by choice.
constexpr int64_t kNotch = 154;              // 0.6 cells: how far a lake stays below its spill.
constexpr size_t kFewestBricks = 3;          // Of a lake that is not needed.
enum Draw : uint64_t { kWanted = 3, kClosed = 4 };

}  // namespace

using Seen = Drainage::Reader::Seen;

const std::shared_ptr<const PoolTile>& Seen::pools(BrickTile at) {
  return pools_.get(of.tiles_->pools, at, stop, [&] { return makePools(at); });
}
const std::shared_ptr<const LevelTile>& Seen::levels(BrickTile at, int round) {
  return levels_[round].get(
      of.tiles_->levels[round], at, stop, [&] { return makeLevels(at, round); });
}

PoolTile Seen::makePools(BrickTile at) {
  check();
  PoolTile tile;
  for (int k = 0; k < BrickTile::kBricks; ++k) {
    const Brick b = at.brick(k);
    const DrainKey key = lowKey(b);
    bool pit = true;
    for (int side = 0; side < kBrickSides && pit; ++side) pit = key < lowKey(besideBrick(b, side));
    if (pit && !isSea(b)) flood(b, tile);
  }
  return tile;
}

/// Fills a hollow up to where it spills, and says what lake it holds.
void Seen::flood(Brick pit, PoolTile& out) {
  const DrainKey bottom = lowKey(pit);
  const auto [flooded, spill, touched, lower] =
      floodHollow(pit, [&](Brick b) { return lowKey(b); });
  const int64_t low = bottom.level, depth = spill - low;
  const auto draw = [&](uint64_t n) { return static_cast<int64_t>(combine(bottom.hash, n) >> 40); };
  const bool wanted = draw(kWanted) < of.lakes_ && depth >= kLeastDepth;
  std::optional<int64_t> level;
  Pool pool{pit, 0, false, {}};
  if (wanted) {
    level = spill - kNotch;
    pool.closed = draw(kClosed) < of.closed_;
    if (pool.closed) level = low + depth * 3 / 5;
  } else if (depth > of.carve_) {
    level = spill - of.carve_ * 3 / 4;
  }
  if (touched && !wanted) level = std::max(level.value_or(INT64_MIN), low + depth * 3 / 5);
  const auto fill = [&, &flooded = flooded](int64_t to) {
    pool.level = floorDiv(to, kGrain) * kGrain;
    pool.bricks.clear();
    for (const DrainKey& key : flooded) {
      if (key.level >= pool.level) break;
      pool.bricks.push_back(key.brick);
    }
    return pool.level > low;
  };
  bool holds = level && fill(*level);
  if (holds && pool.bricks.size() < kFewestBricks && depth <= of.carve_ && !touched) holds = false;
  if (low < of.sea_ && !(holds && pool.level >= of.sea_)) {
    // A puddle below the sea level, though no sea.
    const std::vector<Brick> puddle = puddleOf(pit);
    const bool lowest =
        std::none_of(puddle.begin(), puddle.end(), [&](Brick b) { return lowKey(b) < bottom; });
    if (lowest) {
      holds = true;
      pool = {pit, of.seaTop_, false, puddle};
    }
  }
  if (holds) {
    out.pools.push_back(std::move(pool));
  } else {
    pool.closed = false;
    if (fill(spill) && !pool.bricks.empty()) out.spares.push_back(std::move(pool));
  }
}

std::shared_ptr<const Pool> Seen::lake(Brick pit, int round) {
  const auto find = [&](const auto& tile, const std::vector<Pool>& list) {
    const auto found =
        std::find_if(list.begin(), list.end(), [&](const Pool& p) { return p.pit == pit; });
    return found == list.end() ? nullptr : std::shared_ptr<const Pool>(tile, &*found);
  };
  const BrickTile at = BrickTile::of(pit);
  const auto tile = pools(at);
  if (auto found = find(tile, tile->pools)) return found;
  if (round == 0) return nullptr;
  const auto forced = outlets(at, 0);
  return find(forced, forced->forced);
}

LevelTile Seen::makeLevels(BrickTile at, int round) {
  check();
  LevelTile tile;
  for (int k = 0; k < BrickTile::kBricks; ++k) {
    const Brick b = at.brick(k);
    tile.bricks[static_cast<size_t>(k)].level = ground(b).low;
    if (isSea(b)) tile.sea |= uint64_t{1} << k;
  }
  const auto fill = [&](const Pool& pool) {
    for (const Brick b : pool.bricks) {
      if (BrickTile::of(b) != at) continue;
      const int k = BrickTile::indexOf(b);
      LevelTile::Held& now = tile.bricks[static_cast<size_t>(k)];
      if (tile.sea >> k & 1) continue;
      // The highest holds it, of equals that of the lower pit.
      const bool other = tile.lake >> k & 1;
      if (other && (now.level > pool.level ||
                       (now.level == pool.level && lowKey(now.keyed(b)) < lowKey(pool.pit))))
        continue;
      tile.lake |= uint64_t{1} << k;
      now = {static_cast<int32_t>(pool.level), static_cast<int8_t>(pool.pit.i - b.i),
          static_cast<int8_t>(pool.pit.j - b.j)};
    }
  };
  constexpr int64_t kFar = 2;  // Tiles that a lake may reach over.
  for (int64_t dj = -kFar; dj <= kFar; ++dj)
    for (int64_t di = -kFar; di <= kFar; ++di) {
      const BrickTile from{at.ti + di, at.tj + dj};
      const auto natural = pools(from);
      for (const Pool& pool : natural->pools) fill(pool);
      if (round == 0) continue;
      const auto forced = outlets(from, 0);
      for (const Pool& pool : forced->forced) fill(pool);
    }
  return tile;
}

}  // namespace acre
