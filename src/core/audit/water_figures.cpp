#include "audit/water_figures.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <optional>

#include "water/water_stage.h"
#include "world/world.h"

namespace acre {
namespace {

double apart(Cell a, Cell b) {
  return std::hypot(static_cast<double>(a.x - b.x), static_cast<double>(a.z - b.z));
}

/// Follows rivers over the network.
class Tracer {
 public:
  Tracer(const WaterStage& stage, const std::stop_token& stop)
      : drainage_(stage.drainage()), net_(stage.drainage(), stop) {}

  Drainage::Reader& net() { return net_; }

  /// What flows in at a node of land, or anywhere into a lake: rivers alone.
  std::vector<Brick> riversInto(Brick b) {
    std::vector<Brick> out;
    const auto from = [&](Brick at) {
      const Drainage::Reader::Inflows in = net_.inflows(at);
      for (int side = 0; side < kBrickSides; ++side) {
        const Brick beside = besideBrick(at, side);
        if ((in.land >> side & 1) && net_.isRiver(beside)) out.push_back(beside);
        // Through a lake comes what is the main one of it.
        if (in.lakes >> side & 1)
          if (const auto main = mainInto(net_.drain(beside).next)) out.push_back(*main);
      }
    };
    const DrainAt drain = net_.drain(b);
    if (drain.drains != Drains::Lake) return from(b), out;
    const auto pool = net_.lake(drain.next);
    for (size_t k = 0; pool && k < pool->bricks.size(); ++k)
      if (net_.drain(pool->bricks[k]).next == drain.next) from(pool->bricks[k]);
    return out;
  }
  RiverFigures follow(Brick spring) {
    RiverFigures r;
    r.brick = spring;
    r.source = net_.nodeOf(spring);
    Brick at = spring;
    const int64_t first =
        std::max<int64_t>(net_.drain(at).level, int64_t{net_.ground(at).base} - kGrain);
    int64_t last = first;
    r.line.push_back(r.source);
    for (int n = 0; n < kLongestRiver; ++n) {
      const DrainAt drain = net_.drain(at);
      r.area = net_.area(at);
      r.width = std::max(r.width, cellsOf(drainage_.widthOf(r.area)));
      last = drain.level;
      if (drain.drains == Drains::Sink) break;
      Brick next = drain.next;
      step(r, next);
      DrainAt there = net_.drain(next);
      // Across lakes as long as it is the main one.
      while (there.drains == Drains::Lake) {
        const auto way = net_.outlet(there.next);
        last = there.level;
        r.end = way && way->found ? RiverEnd::Lake : RiverEnd::ClosedLake;
        if (!way || !way->found || mainInto(there.next) != at) return finish(r, first, last);
        r.tributaries += static_cast<int>(riversInto(there.next).size()) - 1;
        ++r.lakes;
        r.end = RiverEnd::Nowhere;
        next = way->way[1];
        step(r, way->way[0]);
        step(r, next);
        there = net_.drain(next);
      }
      if (there.drains == Drains::Sea) {
        last = there.level;
        r.end = RiverEnd::Sea;
        break;
      }
      const std::vector<Brick> all = riversInto(next);
      if (mainOf(all) != at) {
        last = there.level;
        r.end = RiverEnd::River;
        break;
      }
      r.tributaries += static_cast<int>(all.size()) - 1;
      at = next;
    }
    return finish(r, first, last);
  }

 private:
  std::optional<Brick> mainOf(const std::vector<Brick>& rivers) {
    std::optional<Brick> best;
    for (const Brick b : rivers) {
      if (best && net_.area(b) < net_.area(*best)) continue;
      if (best && net_.area(b) == net_.area(*best) && !(net_.level(b).key < net_.level(*best).key))
        continue;
      best = b;
    }
    return best;
  }
  std::optional<Brick> mainInto(Brick pit) { return mainOf(riversInto(pit)); }
  void step(RiverFigures& r, Brick to) {
    const Cell node = net_.nodeOf(to);
    r.length += apart(r.line.back(), node);
    r.line.push_back(node);
  }
  static RiverFigures finish(RiverFigures& r, int64_t first, int64_t last) {
    r.mouth = r.line.back();
    r.drop = cellsOf(first - last);
    const double direct = apart(r.source, r.mouth);
    r.sinuosity = direct > 0 ? r.length / direct : 1;
    return std::move(r);
  }

  const Drainage& drainage_;
  Drainage::Reader net_;
};

/// Calls visit with every brick whose middle lies within so many cells and a brick.
template <class Visit>
Status eachBrick(Cell near, int64_t within, const std::stop_token& stop, Visit&& visit) {
  if (within < 1 || within > kFarthestWater)
    return Error{Error::Code::InvalidInput, fmt::format("{} is out of range", within), "--within",
        fmt::format("1 to {} cells", kFarthestWater)};
  const Brick first = brickOf({near.x - within - 32, near.z - within - 28});
  const Brick last = brickOf({near.x + within + 32, near.z + within + 28});
  try {
    for (int64_t j = first.j; j <= last.j; ++j)
      for (int64_t i = first.i; i <= last.i; ++i) {
        if (stop.stop_requested()) return cancelled();
        visit(Brick{i, j});
      }
  } catch (const Drainage::Reader::Stopped&) {
    return cancelled();
  }
  return done();
}

}  // namespace

const char* endName(RiverEnd end) {
  static constexpr const char* kNames[] = {
      "the sea", "a lake", "a closed lake", "a river", "nowhere"};
  return kNames[static_cast<size_t>(end)];
}

std::string RiverFigures::name() const {
  return fmt::format("R{},{}", brick.i, brick.j);
}
std::string LakeFigures::name() const {
  return fmt::format("L{},{}", brick.i, brick.j);
}

Result<std::vector<RiverFigures>> findRivers(
    const World& world, Cell near, int64_t within, const std::stop_token& stop) {
  std::vector<RiverFigures> out;
  const WaterStage* stage = planOf(world).water();
  if (!stage) return out;
  Tracer tracer(*stage, stop);
  const Status looked = eachBrick(near, within, stop, [&](Brick b) {
    Drainage::Reader& net = tracer.net();
    if (apart(net.nodeOf(b), near) > static_cast<double>(within)) return;
    if (!net.isSpring(b)) return;
    RiverFigures found = tracer.follow(b);
    found.distance = apart(found.source, near);
    out.push_back(std::move(found));
  });
  if (!looked) return looked.error();
  std::stable_sort(out.begin(), out.end(), [](const RiverFigures& a, const RiverFigures& b) {
    return a.length != b.length ? a.length > b.length : a.brick < b.brick;
  });
  return out;
}

Result<std::vector<LakeFigures>> findLakes(
    const World& world, Cell near, int64_t within, const std::stop_token& stop) {
  std::vector<LakeFigures> out;
  const WaterStage* stage = planOf(world).water();
  if (!stage) return out;
  Drainage::Reader net(stage->drainage(), stop);
  const Status looked = eachBrick(near, within, stop, [&](Brick b) {
    const DrainAt drain = net.drain(b);
    if (drain.drains != Drains::Lake || drain.next != b) return;
    LakeFigures lake;
    lake.brick = b;
    lake.bottom = net.bottomOf(b);
    lake.distance = apart(lake.bottom, near);
    if (lake.distance > static_cast<double>(within)) return;
    lake.level = static_cast<int32_t>(floorDiv(drain.level, kGrain));
    // What decides about it is half a cell below the ground.
    lake.depth = cellsOf(drain.level - net.ground(b).low - kGrain / 2);
    const auto pool = net.lake(b);
    for (const Brick one : pool->bricks) lake.bricks += net.drain(one).next == b;
    lake.area = net.lakeArea(b);
    const auto way = net.outlet(b);
    lake.closed = !way || !way->found;
    if (!lake.closed) lake.outlet = net.nodeOf(way->way[0]);
    out.push_back(lake);
  });
  if (!looked) return looked.error();
  std::stable_sort(out.begin(), out.end(), [](const LakeFigures& a, const LakeFigures& b) {
    return a.bricks != b.bricks ? a.bricks > b.bricks : a.brick < b.brick;
  });
  return out;
}

}  // namespace acre
