#include <algorithm>

#include "water/drainage_work.h"

namespace acre {
namespace {

constexpr int kNearSteps = 16;  // Upstream steps that a capture looks at ...
constexpr int32_t kStream = 6;  // ... and the least area there that captures.
constexpr int kAreaSteps = 64;  // Upstream steps that count.
constexpr int kLakeSteps = 21;  // What the crossing of a lake counts for.

/// Neighbours whose bit is set.
template <class Visit>
void eachSide(uint8_t sides, Visit&& visit) {
  for (int side = 0; side < kBrickSides; ++side)
    if (sides >> side & 1) visit(side);
}

}  // namespace

using Seen = Drainage::Reader::Seen;

const std::shared_ptr<const DrainTile>& Seen::drains(BrickTile at, Flow flow) {
  return drains_[flow].get(of.tiles_->drains[flow], at, stop,
      [&] { return flow == Before ? makeDrains(at) : capture(at); });
}
const std::shared_ptr<const InflowTile>& Seen::inflowTile(BrickTile at, Flow flow) {
  return inflows_[flow].get(
      of.tiles_->inflows[flow], at, stop, [&] { return makeInflows(at, flow); });
}
const std::shared_ptr<const AreaTile>& Seen::areas(BrickTile at, Flow flow) {
  return areas_[flow].get(of.tiles_->areas[flow], at, stop, [&] { return makeAreas(at, flow); });
}

DrainTile Seen::makeDrains(BrickTile at) {
  check();
  // The outlet with the lowest beginning takes a node.
  struct Owner {
    DrainKey key;
    Brick next;
    bool any = false;
  };
  std::array<Owner, BrickTile::kBricks> owners;
  constexpr int64_t kFar = 2;  // Tiles that an outlet may reach over.
  for (int64_t dj = -kFar; dj <= kFar; ++dj)
    for (int64_t di = -kFar; di <= kFar; ++di) {
      const auto from = outlets({at.ti + di, at.tj + dj}, 1);
      for (const Outlet& o : from->outlets)
        for (size_t n = 0; n + 1 < o.way.size(); ++n) {
          if (BrickTile::of(o.way[n]) != at) continue;
          Owner& owner = owners[static_cast<size_t>(BrickTile::indexOf(o.way[n]))];
          if (!owner.any || o.key < owner.key) owner = {o.key, o.way[n + 1], true};
        }
    }
  DrainTile tile;
  for (int k = 0; k < BrickTile::kBricks; ++k) {
    const Brick b = at.brick(k);
    const auto settle = [&](const DrainAt& out) {
      tile.bricks[static_cast<size_t>(k)] = DrainTile::Packed::of(b, out);
    };
    const LevelAt own = level(b, 1);
    if (own.sea) {
      settle({Drains::Sea, false, b, of.seaTop_});
      continue;
    }
    if (own.lake) {
      settle({Drains::Lake, false, own.key.brick, own.key.level});
      continue;
    }
    DrainAt out{Drains::Sink, false, b, own.key.level};
    const Owner& owner = owners[static_cast<size_t>(k)];
    if (owner.any) {
      out.drains = Drains::On;
      out.onOutlet = true;
      out.next = owner.next;
      out.level = owner.key.level;
    } else {
      // The steepest descent.
      int64_t steepest = 0;
      DrainKey to;
      for (int side = 0; side < kBrickSides; ++side) {
        const Brick next = besideBrick(b, side);
        const LevelAt there = level(next, 1);
        if (!(there.key < own.key)) continue;
        const int64_t f =
            there.sea ? std::min<int64_t>(ground(next).low, of.sea_) : there.key.level;
        const int64_t fall = floorDiv((own.key.level - f) * kGrain, distance(b, next));
        const bool first = out.drains != Drains::On;
        if (!first && (fall < steepest || (fall == steepest && !(there.key < to)))) continue;
        out.drains = Drains::On;
        steepest = fall;
        to = there.key;
        out.next = next;
      }
    }
    out.level = std::max(out.level, of.seaTop_);
    settle(out);
  }
  return tile;
}

/// A node beside a larger stream that lies lower joins it.
DrainTile Seen::capture(BrickTile at) {
  check();
  DrainTile tile = *drains(at, Before);
  const auto areaOf = [&](Brick b) {
    return areas(BrickTile::of(b), Before)->areas[static_cast<size_t>(BrickTile::indexOf(b))];
  };
  for (int k = 0; k < BrickTile::kBricks; ++k) {
    const Brick b = at.brick(k);
    DrainAt out = tile.bricks[static_cast<size_t>(k)].at(b);
    if (out.drains != Drains::On || out.onOutlet) continue;
    const Brick first = out.next;
    if (drain(first, Before).drains != Drains::On) continue;
    const DrainKey own = level(b, 1).key;
    int32_t largest = areaOf(first);
    for (int side = 0; side < kBrickSides; ++side) {
      const Brick next = besideBrick(b, side);
      if (next == first || !(level(next, 1).key < own)) continue;
      if (drain(next, Before).drains != Drains::On) continue;
      const int32_t area = areaOf(next);
      if (area < kStream || area <= largest) continue;
      largest = area;
      out.next = next;
    }
    tile.bricks[static_cast<size_t>(k)] = DrainTile::Packed::of(b, out);
  }
  return tile;
}

InflowTile Seen::makeInflows(BrickTile at, Flow flow) {
  check();
  InflowTile tile;
  for (int k = 0; k < BrickTile::kBricks; ++k) {
    const Brick b = at.brick(k);
    Inflows& in = tile.bricks[static_cast<size_t>(k)];
    for (int side = 0; side < kBrickSides; ++side) {
      const Brick from = besideBrick(b, side);
      const DrainAt there = drain(from, flow);
      const auto bit = static_cast<uint8_t>(1u << side);
      if (there.drains == Drains::On && there.next == b) in.land |= bit;
      if (there.drains != Drains::Lake) continue;
      const auto way = outlet(there.next, 1);
      if (way && way->found && way->way[0] == from && way->way[1] == b) in.lakes |= bit;
    }
  }
  return tile;
}

int64_t Seen::areaWithin(Brick b, int steps, Flow flow) {
  if (steps <= 0) return 1;
  int64_t sum = 1;
  const Inflows in = inflows(b, flow);
  eachSide(in.land, [&](int side) { sum += areaWithin(besideBrick(b, side), steps - 1, flow); });
  eachSide(in.lakes, [&](int side) {
    sum += lakeAreaWithin(drain(besideBrick(b, side), flow).next, steps - kLakeSteps, flow);
  });
  return sum;
}

int64_t Seen::lakeAreaWithin(Brick pit, int steps, Flow flow) {
  const auto pool = lake(pit, 1);
  if (!pool) return 0;
  int64_t sum = 0;
  for (const Brick b : pool->bricks) {
    const LevelAt at = level(b, 1);
    if (!at.lake || at.key.brick != pit) continue;
    ++sum;
    if (steps <= 0) continue;
    const Inflows in = inflows(b, flow);
    eachSide(in.land, [&](int side) { sum += areaWithin(besideBrick(b, side), steps - 1, flow); });
    eachSide(in.lakes, [&](int side) {
      const Brick other = drain(besideBrick(b, side), flow).next;
      if (other != pit) sum += lakeAreaWithin(other, steps - kLakeSteps, flow);
    });
  }
  return sum;
}

AreaTile Seen::makeAreas(BrickTile at, Flow flow) {
  check();
  AreaTile tile;
  for (int k = 0; k < BrickTile::kBricks; ++k) {
    const Brick b = at.brick(k);
    const Drains drains = drain(b, flow).drains;
    const bool land = drains == Drains::On || drains == Drains::Sink;
    tile.areas[static_cast<size_t>(k)] =
        land ? static_cast<int32_t>(areaWithin(b, flow == Before ? kNearSteps : kAreaSteps, flow))
             : 0;
  }
  return tile;
}

}  // namespace acre
