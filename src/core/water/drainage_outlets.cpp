#include <algorithm>
#include <queue>

#include "water/drainage_work.h"

namespace acre {
namespace {

constexpr int64_t kSearchSpan = 16;  // Bricks from a hollow that its outlet may cross.

/// What a step costs that crosses land so far above where the way begins.
int64_t crossing(int64_t distance, int64_t above) {
  constexpr int64_t kOne = int64_t{1} << 18;  // A quarter per square cell: 2^16 * 4.
  return distance * (kOne + above * above) >> 18;
}

}  // namespace

using Seen = Drainage::Reader::Seen;

const std::shared_ptr<const OutletTile>& Seen::outlets(BrickTile at, int round) {
  return outlets_[round].get(
      of.tiles_->outlets[round], at, stop, [&] { return makeOutlets(at, round); });
}

std::shared_ptr<const Outlet> Seen::outlet(Brick from, int round) {
  const auto tile = outlets(BrickTile::of(from), round);
  const auto found = std::find_if(
      tile->outlets.begin(), tile->outlets.end(), [&](const Outlet& o) { return o.from == from; });
  return found == tile->outlets.end() ? nullptr : std::shared_ptr<const Outlet>(tile, &*found);
}

Drainage::Reader::LakeWays Seen::waysIn(const Pool& pool) {
  LakeWays ways;
  ways.bricks = pool.bricks;
  const size_t count = pool.bricks.size();
  ways.next.assign(count, pool.pit);
  ways.lengths.assign(count, INT64_MAX);
  const auto indexOf = [&](Brick b) {
    return static_cast<size_t>(
        std::find(pool.bricks.begin(), pool.bricks.end(), b) - pool.bricks.begin());
  };
  using Entry = std::pair<int64_t, size_t>;
  std::priority_queue<Entry, std::vector<Entry>, std::greater<>> front;
  const size_t pit = indexOf(pool.pit);
  ways.lengths[pit] = 0;
  front.emplace(0, pit);
  const auto rowFirst = [](Brick b) { return std::pair(b.j, b.i); };
  while (!front.empty()) {
    const auto [length, at] = front.top();
    front.pop();
    if (length > ways.lengths[at]) continue;
    const Brick here = pool.bricks[at];
    for (int side = 0; side < kBrickSides; ++side) {
      const Brick b = besideBrick(here, side);
      const size_t to = indexOf(b);
      if (to == count || to == pit) continue;
      const int64_t through = ground(b).base >= pool.level ? 3 : 1;
      const int64_t next = length + distance(here, b) * through;
      const bool equal = next == ways.lengths[to] && rowFirst(here) < rowFirst(ways.next[to]);
      if (next < ways.lengths[to]) front.emplace(next, to);
      if (next < ways.lengths[to] || equal) ways.next[to] = here;
      ways.lengths[to] = std::min(ways.lengths[to], next);
    }
  }
  return ways;
}

/// Dijkstra's algorithm over the bricks about a hollow.
struct Seen::Search {
  static constexpr int64_t kSide = 2 * kSearchSpan + 1;
  static constexpr size_t kCount = kSide * kSide;
  Brick middle;
  std::array<int64_t, kCount> costs;
  std::array<int16_t, kCount> from;
  std::array<bool, kCount> done{};
  std::priority_queue<std::pair<int64_t, int>, std::vector<std::pair<int64_t, int>>, std::greater<>>
      front;

  explicit Search(Brick about) : middle(about) {
    costs.fill(INT64_MAX);
    from.fill(-1);
  }
  int indexOf(Brick b) const {
    const int64_t di = b.i - middle.i, dj = b.j - middle.j;
    if (std::abs(di) > kSearchSpan || std::abs(dj) > kSearchSpan) return -1;
    return static_cast<int>((dj + kSearchSpan) * kSide + di + kSearchSpan);
  }
  Brick brick(int index) const {
    return {middle.i + index % kSide - kSearchSpan, middle.j + index / kSide - kSearchSpan};
  }
  void begin(Brick b, int64_t cost) {
    const int at = indexOf(b);
    if (at < 0) return;
    costs[static_cast<size_t>(at)] = cost;
    front.emplace(cost, at);
  }
};

/// pool: the lake that it begins in; nullptr: a hollow on land.
bool Seen::search(Outlet& outlet, const Pool* pool, int round, int64_t carve) {
  Search search(outlet.from);
  if (pool) {
    const LakeWays ways = waysIn(*pool);
    for (size_t n = 0; n < ways.bricks.size(); ++n) {
      const LevelAt at = level(ways.bricks[n], round);
      if (at.lake && at.key.brick == pool->pit)
        search.begin(ways.bricks[n], ways.lengths[n] * 3 / 10);
    }
  } else {
    search.begin(outlet.from, 0);
  }
  int goal = -1;
  while (!search.front.empty()) {
    const int at = search.front.top().second;
    search.front.pop();
    const auto here = static_cast<size_t>(at);
    if (std::exchange(search.done[here], true)) continue;
    const Brick b = search.brick(at);
    if (level(b, round).key < outlet.key) {
      goal = at;
      break;
    }
    for (int side = 0; side < kBrickSides; ++side) {
      const Brick next = besideBrick(b, side);
      const int to = search.indexOf(next);
      if (to < 0 || search.done[static_cast<size_t>(to)]) continue;
      const LevelAt there = level(next, round);
      const bool lower = there.key < outlet.key;
      const int64_t above = std::max<int64_t>(0, there.key.level - outlet.key.level);
      if (!lower && (there.lake || above > carve)) continue;
      const int64_t step = distance(b, next);
      const int64_t cost = search.costs[here] + (lower ? step : crossing(step, above));
      int64_t& known = search.costs[static_cast<size_t>(to)];
      int16_t& from = search.from[static_cast<size_t>(to)];
      if (cost > known || (cost == known && (from < 0 || at > from))) continue;
      if (cost < known) search.front.emplace(cost, to);
      known = cost;
      from = static_cast<int16_t>(at);
    }
  }
  if (goal < 0) return false;
  for (int at = goal; at >= 0; at = search.from[static_cast<size_t>(at)])
    outlet.way.push_back(search.brick(at));
  std::reverse(outlet.way.begin(), outlet.way.end());
  return true;
}

OutletTile Seen::makeOutlets(BrickTile at, int round) {
  check();
  OutletTile tile;
  const auto natural = pools(at);
  const auto begin = [&](Brick from) -> Outlet& {
    tile.outlets.push_back({from, level(from, round).key, false, {}});
    return tile.outlets.back();
  };
  const auto ofLakes = [&](const std::vector<Pool>& list) {
    for (const Pool& pool : list) {
      const LevelAt own = level(pool.pit, round);
      if (!own.lake || own.key.brick != pool.pit) continue;
      Outlet& outlet = begin(pool.pit);
      if (!pool.closed) outlet.found = search(outlet, &pool, round, of.carve_);
    }
  };
  ofLakes(natural->pools);
  if (round == 1) {
    const auto forced = outlets(at, 0);
    ofLakes(forced->forced);
  }
  for (int k = 0; k < BrickTile::kBricks; ++k) {
    const Brick b = at.brick(k);
    const LevelAt own = level(b, round);
    if (own.lake || own.sea) continue;
    bool pit = true;
    for (int side = 0; side < kBrickSides && pit; ++side)
      pit = own.key < level(besideBrick(b, side), round).key;
    if (!pit) continue;
    Outlet& outlet = begin(b);
    outlet.found = search(outlet, nullptr, round, of.carve_) ||
                   search(outlet, nullptr, round, of.carve_ * 5 / 2);
    if (outlet.found || round != 0) continue;
    for (const Pool& spare : natural->spares)
      if (spare.pit == b) tile.forced.push_back(spare);
  }
  return tile;
}

}  // namespace acre
