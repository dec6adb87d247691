#include "audit/water_checks.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "audit/land_grid.h"
#include "audit/water_figures.h"
#include "base/text.h"
#include "recipe/limits.h"
#include "recipe/water_recipe.h"
#include "water/water_stage.h"
#include "world/world.h"

namespace acre {
namespace {

constexpr double kTooManyDead = 0.2, kTooMuchLake = 0.05, kTooManyDeep = 0.05, kTooManyBeside = 0.1;
/// Rivers fewer than these say nothing about shares.
constexpr size_t kFewRivers = 5;
constexpr double kWidthsApart = 3;

class WaterAuditor {
 public:
  WaterAuditor(const World& world, const std::stop_token& stop, std::vector<Check>& out)
      : world_(world),
        drainage_(world.water()->drainage()),
        rivers_(*world.recipe().rivers),
        stop_(stop),
        out_(out) {
    if (!world.bounded()) return;
    const Rect area = intersection(world.bounds(), around({0, 0}));
    if (!area.empty()) return;
    const Rect& all = world.bounds();
    middle_ = {all.x + all.width / 2, all.z + all.length / 2};
  }

  bool run() {
    const auto found = findRivers(world_, middle_, kWaterLookedAt, stop_);
    if (!found) return false;
    lookAtEnds(*found);
    return lookAtNetwork() && lookAtCells() && lookAtWays();
  }

 private:
  static Rect around(Cell c) {
    return {c.x - kWaterLookedAt, c.z - kWaterLookedAt, 2 * kWaterLookedAt, 2 * kWaterLookedAt};
  }
  /// A mend sets one number.
  void add(const char* id, std::string sentence, const char* key, std::optional<Cell> place,
      double Rivers::*member = nullptr, double value = 0, const std::string& mend = {}) {
    std::function<void(Recipe&)> apply;
    if (member) apply = [member, value](Recipe& r) { (*r.rivers).*member = value; };
    out_.push_back({id, std::move(sentence), StageId::Water, fmt::format("/rivers/{}", key),
        "rivers", mend, std::move(apply), place});
  }

  void lookAtEnds(const std::vector<RiverFigures>& rivers) {
    const auto within =
        fmt::format("within {} cells of {}, {}", kWaterLookedAt, middle_.x, middle_.z);
    if (rivers.empty()) {
      const double less = std::floor(rivers_.spring / 2);
      if (less >= 1)
        add("no-rivers", fmt::format("no river springs {}", within), "spring", {}, &Rivers::spring,
            less, fmt::format("springs from {:g} bricks on", less));
      else
        add("no-rivers", fmt::format("no river springs {}", within), "spring", {});
      return;
    }
    size_t sea = 0, dead = 0, closed = 0, ended = 0;
    std::optional<Cell> where;
    for (const RiverFigures& r : rivers) {
      if (r.end == RiverEnd::River) continue;
      ++ended;
      sea += r.end == RiverEnd::Sea;
      closed += r.end == RiverEnd::ClosedLake;
      if (r.end != RiverEnd::ClosedLake && r.end != RiverEnd::Nowhere) continue;
      ++dead;
      if (!where) where = r.mouth;
    }
    if (sea == 0 && rivers.size() >= kFewRivers)
      add("no-mouth", fmt::format("none of {} rivers {} reaches the sea", rivers.size(), within),
          "carve", rivers.front().mouth);
    if (ended < kFewRivers ||
        static_cast<double>(dead) <= kTooManyDead * static_cast<double>(ended))
      return;
    auto sentence =
        fmt::format("{} of {} rivers {} end in closed lakes or in nothing", dead, ended, within);
    if (closed * 2 >= dead && rivers_.closed > 0)
      add("dead-rivers", std::move(sentence), "closed", where, &Rivers::closed,
          std::floor(rivers_.closed * 25) / 100,
          fmt::format("closed {:.0f} %", std::floor(rivers_.closed * 25)));
    else
      add("dead-rivers", std::move(sentence), "carve", where);
  }

  /// What only the network shows: areas that are cut off, rivers side by side.
  bool lookAtNetwork() {
    const Rect area = around(middle_);
    const Brick first = brickOf({area.x, area.z});
    const Brick last = brickOf({area.x + area.width - 1, area.z + area.length - 1});
    int64_t rivers = 0, beside = 0, cut = 0;
    std::optional<Cell> besideAt, cutAt;
    try {
      Drainage::Reader net(drainage_, stop_);
      for (int64_t j = first.j; j <= last.j; ++j)
        for (int64_t i = first.i; i <= last.i; ++i) {
          if (stop_.stop_requested()) return false;
          const Brick b{i, j};
          if (!net.isRiver(b)) continue;
          ++rivers;
          const DrainAt drain = net.drain(b);
          if (drain.drains == Drains::On && net.isRiver(drain.next) &&
              net.area(drain.next) < net.area(b)) {
            ++cut;
            if (!cutAt) cutAt = net.nodeOf(b);
          }
          if (!hasCompany(net, b, drain)) continue;
          ++beside;
          if (!besideAt) besideAt = net.nodeOf(b);
        }
    } catch (const Drainage::Reader::Stopped&) {
      return false;
    }
    if (cut > 0)
      add("cut-area",
          fmt::format("at {} places a river drains less than just above: what lies more than 64 "
                      "bricks upstream is not counted",
              cut),
          "growth", cutAt);
    if (static_cast<double>(beside) > kTooManyBeside * static_cast<double>(rivers)) {
      const double less = std::max(0.05, std::floor(rivers_.growth * 70) / 100);
      add("side-by-side",
          fmt::format("{:.0f} % of the rivers run beside another within {:g} of their widths",
              100.0 * static_cast<double>(beside) / static_cast<double>(rivers), kWidthsApart),
          "growth", besideAt, &Rivers::growth, less, fmt::format("growth {:g}", less));
    }
    return true;
  }

  /// Another river runs the same way within three widths, and joins it neither here nor next.
  bool hasCompany(Drainage::Reader& net, Brick b, const DrainAt& drain) {
    if (drain.drains != Drains::On) return false;
    const Cell at = net.nodeOf(b), to = net.nodeOf(drain.next);
    const double width = cellsOf(drainage_.widthOf(net.area(b)));
    for (int side = 0; side < kBrickSides; ++side) {
      const Brick other = besideBrick(b, side);
      if (other == drain.next || !net.isRiver(other)) continue;
      const DrainAt its = net.drain(other);
      if (its.drains != Drains::On || its.next == b || its.next == drain.next) continue;
      const Cell there = net.nodeOf(other), on = net.nodeOf(its.next);
      const auto dx = static_cast<double>(there.x - at.x), dz = static_cast<double>(there.z - at.z);
      if (std::hypot(dx, dz) > kWidthsApart * width) continue;
      const auto ax = static_cast<double>(to.x - at.x), az = static_cast<double>(to.z - at.z);
      const auto bx = static_cast<double>(on.x - there.x), bz = static_cast<double>(on.z - there.z);
      if (ax * bx + az * bz > 0.7 * std::hypot(ax, az) * std::hypot(bx, bz)) return true;
    }
    return false;
  }

  /// Cells sixteen apart: how much of the land is lake, and how deep channels lie in it.
  bool lookAtCells() {
    constexpr int64_t kStep = WaterStage::kExactStep;
    const Rect area = around(middle_);
    const auto side = static_cast<int32_t>(area.width / kStep);
    LandGrid cells;
    if (!cells.fill(world_, {area.x, area.z, kStep, side, side}, stop_) ||
        !cells.fillBefore(world_, stop_))
      return false;
    double land = 0, lake = 0, river = 0, deep = 0, deepest = 0;
    std::optional<Cell> lakeAt;
    Cell deepestAt;
    for (int32_t j = 0; j < side; ++j)
      for (int32_t i = 0; i < side; ++i) {
        const size_t n = cells.at(i, j);
        const Cell cell = cells.cell(i, j);
        if (!world_.bounds().contains(cell) || cells.kinds[n] == WaterKind::Sea) continue;
        ++land;
        if (cells.kinds[n] == WaterKind::Lake) {
          ++lake;
          if (!lakeAt) lakeAt = cell;
        }
        if (cells.kinds[n] != WaterKind::River) continue;
        ++river;
        const double cut = static_cast<double>(cells.before[n]) - cells.levels[n];
        deep += cut > rivers_.carve;
        if (cut <= deepest) continue;
        deepest = cut;
        deepestAt = cell;
      }
    if (lake > kTooMuchLake * land) {
      const double less = std::floor(rivers_.lakes * kTooMuchLake * land / lake * 100) / 100;
      add("much-lake", fmt::format("lakes cover {} of the land", percentText(lake / land)), "lakes",
          lakeAt, &Rivers::lakes, less,
          fmt::format("lakes in {:.0f} % of the hollows", less * 100));
    }
    if (river > 0 && deep > kTooManyDeep * river) {
      const double less = std::max(1.0, std::floor(rivers_.carve * 1.2) / 2);
      add("deep-channel",
          fmt::format("{} of the rivers lie deeper in the land than {:g} cells, the deepest {:.0f}",
              percentText(deep / river), rivers_.carve, deepest),
          "carve", deepestAt, &Rivers::carve, less, fmt::format("cut at most {:g}", less));
    }
    return true;
  }

  /// Ways through obstacles: whether most of them are there.
  bool lookAtWays() {
    const auto found = findWays(world_, around(middle_), stop_);
    if (!found) return false;
    if (found->ways.empty() || found->found() * 2 >= found->ways.size()) return true;
    const auto failed = std::find_if(
        found->ways.begin(), found->ways.end(), [](const CourseWay& way) { return !way.found(); });
    const auto of = [&](CourseFault fault) { return found->faults[static_cast<size_t>(fault)]; };
    std::string sentence = found->text() + fmt::format(" (the first, {}, at {}, {})", failed->name,
                                               failed->from.x, failed->from.z);
    const RiverCourses& how = rivers_.courses;
    // What closes most of them says what to change.
    if (of(CourseFault::TooDeep) > of(CourseFault::NoPath)) {
      const double more = std::min(limits::courseCarve.high, std::ceil(how.carve * 1.5));
      addWays(std::move(sentence), "carve", failed->from, &RiverCourses::carve, more,
          fmt::format("at most {:g} cells deep", more));
    } else if (of(CourseFault::TooLong) > of(CourseFault::NoPath)) {
      const double more = std::min(limits::courseWinding.high, how.winding * 1.5);
      addWays(std::move(sentence), "winding", failed->from, &RiverCourses::winding, more,
          fmt::format("wind up to {:g} times", more));
    } else {
      const double less = std::floor(how.share * 60) / 100;
      addWays(std::move(sentence), "share", failed->from, &RiverCourses::share, less,
          fmt::format("obstacles in {:.0f} %", less * 100));
    }
    return true;
  }
  void addWays(std::string sentence, const char* key, Cell place, double RiverCourses::*member,
      double value, const std::string& mend) {
    out_.push_back({"courses-fail", std::move(sentence), StageId::Water,
        fmt::format("/rivers/courses/{}", key), "rivers", mend,
        [member, value](Recipe& r) { (*r.rivers).courses.*member = value; }, place});
  }

  const World& world_;
  const Drainage& drainage_;
  const Rivers& rivers_;
  const std::stop_token& stop_;
  std::vector<Check>& out_;
  Cell middle_;
};

}  // namespace

bool checkWater(const World& world, const std::stop_token& stop, std::vector<Check>& out) {
  return !world.water() || WaterAuditor(world, stop, out).run();
}

}  // namespace acre
