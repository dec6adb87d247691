#include "audit/river_profile.h"

#include <algorithm>
#include <cmath>
#include <optional>

#include "water/water_stage.h"
#include "world/world.h"

namespace acre {
namespace {

/// A place on the way, in cells from the river's source.
struct Step {
  double x, z;
  double level, radius;
};

/// The way over the pieces of courses, node by node.
class Way {
 public:
  Way(const WaterStage& stage, const RiverFigures& river, const std::stop_token& stop)
      : stage_(stage), river_(river), stop_(stop) {}

  Result<std::vector<Step>> steps() {
    try {
      Drainage::Reader net(stage_.drainage(), stop_);
      for (size_t n = 0; n < river_.line.size(); ++n) {
        if (n > 0 && brickOfNode(n) == brickOfNode(n - 1)) continue;
        if (!follow(ownerOf(net, n), n)) return cancelled();
      }
    } catch (const Drainage::Reader::Stopped&) {
      return cancelled();
    }
    return std::move(steps_);
  }

 private:
  /// Nodes lie within their bricks.
  Brick brickOfNode(size_t n) const { return brickOf(river_.line[n]); }

  /// Whose pieces lead to a node: its own, but for the way out of a lake into another one or the
  /// sea, which is that of the lake's pit.
  Brick ownerOf(Drainage::Reader& net, size_t n) const {
    const Brick own = brickOfNode(n);
    if (n == 0) return own;
    const DrainAt before = net.drain(brickOfNode(n - 1)), here = net.drain(own);
    const bool fromLake = before.drains == Drains::Lake;
    const bool onward =
        here.drains == Drains::Sea || (here.drains == Drains::Lake && here.next != before.next);
    return fromLake && onward ? before.next : own;
  }

  /// The piece that comes from the node before, then those that go on where one ends. Of those that
  /// begin at one place the last: the others lead back into the lake.
  bool follow(Brick brick, size_t n) {
    const auto pieces = stage_.coursesOf(brick, stop_);
    if (!pieces) return false;
    std::vector<bool> used(pieces->size());
    Step from = expected(n);
    double most = kStrays;
    while (true) {
      std::optional<size_t> best;
      for (size_t k = 0; k < pieces->size(); ++k) {
        const Step begin = stepOf(brick, (*pieces)[k].points.front());
        const double far = std::hypot(begin.x - from.x, begin.z - from.z);
        if (used[k] || far > most) continue;
        most = far;
        best = k;
      }
      if (!best) return true;
      used[*best] = true;
      const Step begin = stepOf(brick, (*pieces)[*best].points.front());
      // Else it has come across a lake.
      if (!steps_.empty() &&
          std::hypot(begin.x - steps_.back().x, begin.z - steps_.back().z) > kJoined)
        steps_.back().radius = 0;
      for (const CoursePoint& p : (*pieces)[*best].points) steps_.push_back(stepOf(brick, p));
      from = steps_.back();
      most = kJoined;
    }
  }
  /// Half way from the node before, where courses join before they stray.
  Step expected(size_t n) const {
    const Cell a = river_.line[n > 0 ? n - 1 : n], b = river_.line[n];
    const auto half = [](int64_t from, int64_t to, int64_t origin) {
      return static_cast<double>(from + to - 2 * origin) / 2 + 0.5;
    };
    return {half(a.x, b.x, river_.source.x), half(a.z, b.z, river_.source.z), 0, 0};
  }
  Step stepOf(Brick brick, const CoursePoint& p) const {
    const Cell m = middleOf(brick);
    return {static_cast<double>(m.x - river_.source.x) + cellsOf(p.x),
        static_cast<double>(m.z - river_.source.z) + cellsOf(p.z), cellsOf(p.level),
        cellsOf(p.radius)};
  }

  static constexpr double kJoined = 1;   // Cells within which one piece goes on in the next.
  static constexpr double kStrays = 14;  // Farthest that a course strays along both axes, and more.
  const WaterStage& stage_;
  const RiverFigures& river_;
  const std::stop_token& stop_;
  std::vector<Step> steps_;
};

}  // namespace

Result<RiverProfile> profileOf(
    const World& world, const RiverFigures& river, const std::stop_token& stop) {
  auto way = Way(*world.water(), river, stop).steps();
  if (!way) return way.error();
  std::vector<Step>& steps = *way;
  if (steps.size() < 2) {  // Shorter than a brick: from the spring straight to its end.
    const auto end = [&](Cell c, double level) {
      return Step{static_cast<double>(c.x - river.source.x),
          static_cast<double>(c.z - river.source.z), level, river.width / 2};
    };
    steps = {end(river.source, river.drop), end(river.mouth, 0)};
  }
  const size_t apart = (steps.size() + kMostProfilePoints - 1) / kMostProfilePoints;
  RiverProfile out;
  std::vector<Cell> cells;
  double along = 0;
  for (size_t n = 0; n < steps.size(); ++n) {
    const Step& s = steps[n];
    if (n > 0) along += std::hypot(s.x - steps[n - 1].x, s.z - steps[n - 1].z);
    if (n % apart != 0 && n + 1 != steps.size()) continue;
    const Step &from = steps[n > 0 ? n - 1 : n], &to = steps[std::min(n + 1, steps.size() - 1)];
    const double dx = to.x - from.x, dz = to.z - from.z;
    const double length = std::max(1e-9, std::hypot(dx, dz)), beside = s.radius + 1;
    const auto cellAt = [&](double x, double z) {
      return Cell{river.source.x + static_cast<int64_t>(std::floor(x)),
          river.source.z + static_cast<int64_t>(std::floor(z))};
    };
    ProfilePoint p;
    p.cell = cellAt(s.x, s.z);
    p.along = along;
    p.level = s.level;
    p.width = 2 * s.radius;
    out.points.push_back(p);
    cells.push_back(p.cell);
    cells.push_back(cellAt(s.x + dz / length * beside, s.z - dx / length * beside));
    cells.push_back(cellAt(s.x - dz / length * beside, s.z + dx / length * beside));
  }
  if (stop.stop_requested()) return cancelled();
  std::vector<float> heights(cells.size()), before(cells.size());
  std::vector<WaterAt> waters(cells.size());
  const auto count = static_cast<int>(cells.size());
  world.parts().before->scattered(count, cells.data(), before.data(), nullptr, Accuracy::Exact);
  world.parts().land->scattered(
      count, cells.data(), heights.data(), nullptr, Accuracy::Exact, waters.data());
  for (size_t n = 0; n < out.points.size(); ++n) {
    ProfilePoint& p = out.points[n];
    p.before = before[3 * n];
    p.bed = heights[3 * n];
    p.left = heights[3 * n + 1];
    p.right = heights[3 * n + 2];
    if (waters[3 * n].kind == WaterKind::Lake) p.width = 0;
    out.deepest = std::max(out.deepest, static_cast<double>(p.before - p.bed));
  }
  return out;
}

}  // namespace acre
