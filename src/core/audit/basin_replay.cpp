#include "audit/basin_replay.h"

#include <fmt/format.h>

#include <algorithm>

#include "water/hollow_flood.h"
#include "water/water_stage.h"

namespace acre {
namespace {

constexpr int kLongestCourse = 64;    // Nodes of the river that are followed.
constexpr int kLongestDescent = 512;  // Bricks down to the hollow.

class Recorder {
 public:
  Recorder(const WaterStage& stage, const std::stop_token& stop) : net_(stage.drainage(), stop) {}

  Result<BasinReplay> record(Cell near) {
    Brick pit = brickOf(near);
    for (int n = 0; n < kLongestDescent; ++n) {
      Brick lowest = pit;
      for (int side = 0; side < kBrickSides; ++side)
        if (const Brick b = besideBrick(pit, side); keyOf(b) < keyOf(lowest)) lowest = b;
      if (lowest == pit) break;
      pit = lowest;
    }
    if (net_.level(pit).sea)
      return Error{Error::Code::InvalidInput,
          fmt::format("{}, {} leads down to the sea", near.x, near.z), "the place",
          "a cell whose ground leads down to a hollow on land"};
    out_.pit = pit;
    out_.bottom = net_.bottomOf(pit);
    flood();
    lake();
    outlet();
    capture();
    course();
    return std::move(out_);
  }

 private:
  DrainKey keyOf(Brick b) {
    const BrickGround ground = net_.ground(b);
    return {ground.low, ground.base, ground.hash, b};
  }
  void add(BasinAct act, Brick b, double level, Cell to = {}, int64_t area = 0) {
    out_.steps.push_back({act, b, net_.nodeOf(b), to, level, area});
  }

  void flood() {
    flood_ = floodHollow(out_.pit, [&](Brick b) { return keyOf(b); });
    out_.low = cellsOf(flood_.flooded.front().level);
    out_.spill = cellsOf(flood_.spill);
    out_.touched = flood_.touched;
    int64_t level = flood_.flooded.front().level;
    for (const DrainKey& key : flood_.flooded) {
      level = std::max(level, key.level);
      add(BasinAct::Flood, key.brick, cellsOf(level));
    }
    add(BasinAct::Spill, flood_.lower ? flood_.lower->brick : flood_.flooded.back().brick,
        out_.spill);
  }
  void lake() {
    const Drainage::Reader::LevelAt at = net_.level(out_.pit);
    const auto pool = at.lake && at.key.brick == out_.pit ? net_.lake(out_.pit) : nullptr;
    if (pool) {
      out_.lake = true;
      out_.closed = pool->closed;
      out_.level = cellsOf(pool->level);
      for (const Brick b : pool->bricks)
        if (net_.drain(b).next == out_.pit) out_.lakeBricks.push_back(b);
    }
    add(BasinAct::Lake, out_.pit, pool ? out_.level : out_.low);
  }
  void outlet() {
    way_ = net_.outlet(out_.pit);
    if (!way_ || !way_->found) return;
    for (size_t n = 0; n + 1 < way_->way.size(); ++n)
      add(BasinAct::Outlet, way_->way[n], out_.lake ? out_.level : out_.low,
          net_.nodeOf(way_->way[n + 1]));
  }
  void capture() {
    for (const DrainKey& key : flood_.flooded) {
      const DrainAt before = net_.drainBefore(key.brick), now = net_.drain(key.brick);
      if (now.drains != Drains::On || before.next == now.next) continue;
      add(BasinAct::Capture, key.brick, cellsOf(now.level), net_.nodeOf(now.next),
          net_.area(now.next));
    }
  }
  void course() {
    Brick at = out_.pit;
    if (out_.lake) {
      if (!way_ || !way_->found) return;
      at = way_->way[1];
    }
    for (int n = 0; n < kLongestCourse; ++n) {
      const DrainAt drain = net_.drain(at);
      if (drain.drains != Drains::On) break;
      add(BasinAct::Course, at, cellsOf(drain.level), net_.nodeOf(drain.next), net_.area(at));
      at = drain.next;
    }
  }

  Drainage::Reader net_;
  BasinReplay out_;
  HollowFlood flood_;
  std::shared_ptr<const Outlet> way_;
};

}  // namespace

std::string BasinReplay::name() const {
  return fmt::format("B{},{}", pit.i, pit.j);
}

size_t BasinReplay::first(BasinAct act) const {
  return static_cast<size_t>(std::find_if(steps.begin(), steps.end(), [&](const BasinStep& s) {
    return s.act == act;
  }) - steps.begin());
}

std::string BasinReplay::told(size_t step) const {
  const BasinStep& s = steps[step];
  switch (s.act) {
    case BasinAct::Flood:
      return fmt::format("Brick {} is flooded, the water stands at {:.2f}.", step + 1, s.level);
    case BasinAct::Spill:
      return touched ? fmt::format(
                           "It is wider than 10 bricks: what lies beyond is not looked at. "
                           "So far it spills at {:.2f}, {:.2f} above its ground.",
                           spill, spill - low)
                     : fmt::format("It spills at {:.2f}, {:.2f} above its ground, over {} bricks.",
                           spill, spill - low, first(BasinAct::Spill));
    case BasinAct::Lake:
      if (!lake) return "No lake stays in it.";
      return fmt::format("A {}lake stays at level {:g}, over {} bricks.", closed ? "closed " : "",
          level, lakeBricks.size());
    case BasinAct::Outlet:
      return fmt::format("Step {} of the cheapest way out, to {}, {}.",
          step - first(BasinAct::Outlet) + 1, s.to.x, s.to.z);
    case BasinAct::Capture:
      return fmt::format("A stream turns to the larger one beside it, at {}, {}, of {} bricks.",
          s.to.x, s.to.z, s.area);
    case BasinAct::Course:
      return fmt::format("On to {}, {}: level {:.2f}, {} bricks drain through it.", s.to.x, s.to.z,
          s.level, s.area);
  }
  return {};
}

Result<BasinReplay> replayBasin(const World& world, Cell near, const std::stop_token& stop) {
  const WaterStage* stage = planOf(world).water();
  if (!stage)
    return Error{Error::Code::InvalidInput, "this world has no rivers", "the stage Water",
        "worlds of the kinds overland and voxel with a stage Water that is on"};
  try {
    return Recorder(*stage, stop).record(near);
  } catch (const Drainage::Reader::Stopped&) {
    return cancelled();
  }
}

}  // namespace acre
