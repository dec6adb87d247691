#include "audit/water_figures.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <optional>

#include "water/water_stage.h"
#include "world/world.h"

namespace acre {
namespace {

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
    r.length += cellsApart(r.line.back(), node);
    r.line.push_back(node);
  }
  RiverFigures finish(RiverFigures& r, int64_t first, int64_t last) {
    r.mouth = r.line.back();
    r.into = brickOf(r.mouth);
    if (r.end == RiverEnd::Lake || r.end == RiverEnd::ClosedLake) r.into = net_.drain(r.into).next;
    r.drop = cellsOf(first - last);
    const double direct = cellsApart(r.source, r.mouth);
    r.sinuosity = direct > 0 ? r.length / direct : 1;
    return std::move(r);
  }

  const Drainage& drainage_;
  Drainage::Reader net_;
};

/// Calls visit with every brick whose ground reaches into an area.
template <class Visit>
Status eachBrick(const Rect& area, const std::stop_token& stop, Visit&& visit) {
  const int64_t longest = 2 * kFarthestWater;
  if (area.empty() || std::max(area.width, area.length) > longest)
    return Error{Error::Code::InvalidInput, fmt::format("{} x {} cells", area.width, area.length),
        "--area", fmt::format("1 to {} cells a side", longest)};
  const Brick first = brickOf({area.x - kBrickWidth, area.z - kBrickLength});
  const Brick last =
      brickOf({area.x + area.width + kBrickWidth, area.z + area.length + kBrickLength});
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

/// Who is inside tells of one place whether it counts.
template <class Inside>
Result<std::vector<RiverFigures>> riversWhere(
    const World& world, const Rect& area, const std::stop_token& stop, Inside inside) {
  std::vector<RiverFigures> out;
  const WaterStage* stage = planOf(world).water();
  if (!stage) return out;
  Tracer tracer(*stage, stop);
  const Status looked = eachBrick(area, stop, [&](Brick b) {
    Drainage::Reader& net = tracer.net();
    if (inside(net.nodeOf(b)) && net.isSpring(b)) out.push_back(tracer.follow(b));
  });
  if (!looked) return looked.error();
  std::stable_sort(out.begin(), out.end(), [](const RiverFigures& a, const RiverFigures& b) {
    return a.length != b.length ? a.length > b.length : a.brick < b.brick;
  });
  return out;
}

template <class Inside>
Result<std::vector<LakeFigures>> lakesWhere(
    const World& world, const Rect& area, const std::stop_token& stop, Inside inside) {
  std::vector<LakeFigures> out;
  const WaterStage* stage = planOf(world).water();
  if (!stage) return out;
  Drainage::Reader net(stage->drainage(), stop);
  const Status looked = eachBrick(area, stop, [&](Brick b) {
    const DrainAt drain = net.drain(b);
    if (drain.drains != Drains::Lake || drain.next != b) return;
    LakeFigures lake;
    lake.brick = b;
    lake.bottom = net.bottomOf(b);
    if (!inside(lake.bottom)) return;
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

/// The square about a place that everything within so many cells lies in.
Result<Rect> squareAbout(Cell near, int64_t within) {
  if (within < 1 || within > kFarthestWater)
    return Error{Error::Code::InvalidInput, fmt::format("{} is out of range", within), "--within",
        fmt::format("1 to {} cells", kFarthestWater)};
  return Rect{near.x - within, near.z - within, 2 * within, 2 * within};
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
std::string RiverFigures::ending() const {
  const auto named = [&](const char* what) { return fmt::format("{}{},{}", what, into.i, into.j); };
  switch (end) {
    case RiverEnd::Lake:
      return named("lake L");
    case RiverEnd::ClosedLake:
      return named("closed lake L");
    case RiverEnd::Nowhere:
      return named("sink S");
    default:
      return endName(end);
  }
}
std::string LakeFigures::name() const {
  return fmt::format("L{},{}", brick.i, brick.j);
}

Result<std::vector<RiverFigures>> findRiversIn(
    const World& world, const Rect& area, const std::stop_token& stop) {
  return riversWhere(world, area, stop, [&](Cell c) { return area.contains(c); });
}

Result<std::vector<LakeFigures>> findLakesIn(
    const World& world, const Rect& area, const std::stop_token& stop) {
  return lakesWhere(world, area, stop, [&](Cell c) { return area.contains(c); });
}

Result<std::vector<RiverFigures>> findRivers(
    const World& world, Cell near, int64_t within, const std::stop_token& stop) {
  const auto area = squareAbout(near, within);
  if (!area) return area.error();
  auto out = riversWhere(world, *area, stop,
      [&](Cell c) { return cellsApart(c, near) <= static_cast<double>(within); });
  if (out)
    for (RiverFigures& r : *out) r.distance = cellsApart(r.source, near);
  return out;
}

Result<std::vector<LakeFigures>> findLakes(
    const World& world, Cell near, int64_t within, const std::stop_token& stop) {
  const auto area = squareAbout(near, within);
  if (!area) return area.error();
  auto out = lakesWhere(world, *area, stop,
      [&](Cell c) { return cellsApart(c, near) <= static_cast<double>(within); });
  if (out)
    for (LakeFigures& l : *out) l.distance = cellsApart(l.bottom, near);
  return out;
}

std::string WayFigures::text() const {
  std::string out = fmt::format("{} of {} way{} succeed{}", found(), ways.size(),
      ways.size() == 1 ? "" : "s", ways.size() == 1 ? "s" : "");
  for (size_t n = 1; n < kCourseFaults; ++n)
    if (faults[n] > 0)
      out += fmt::format("{} {} {}", out.find(';') == std::string::npos ? ";" : ",",
          faultName(static_cast<CourseFault>(n)), faults[n]);
  return out;
}

Result<WayFigures> findWays(const World& world, const Rect& area, const std::stop_token& stop) {
  WayFigures out;
  const WaterStage* stage = planOf(world).water();
  const CourseWays* ways = stage ? stage->ways() : nullptr;
  if (!ways) return out;
  const auto regions = ways->regionsIn(area);
  if (regions.size() > kMostRegions)
    return Error{Error::Code::InvalidInput, fmt::format("{} regions of ways", regions.size()),
        "--within", fmt::format("an area of at most {}", kMostRegions)};
  for (const CourseWays::At at : regions) {
    const auto region = ways->region(at, stop);
    if (!region) return cancelled();
    for (const CourseWay& way : region->ways) {
      ++out.faults[static_cast<size_t>(way.fault)];
      out.ways.push_back(way);
    }
  }
  return out;
}

}  // namespace acre
