#include "water/courses.h"

#include <algorithm>
#include <cmath>

#include "field/compiler.h"

namespace acre {
namespace {

constexpr double kStrayWidth = 52;  // Cells: features of the meanders.
constexpr int64_t kSpringRadius = kGrain;
constexpr int64_t kStretch = 4 * kGrain;     // About how long the line between points is.
constexpr int64_t kBelowBanks = kGrain / 2;  // A surface keeps so far under its banks.
constexpr int kBanks = 5;

using Place = CoursePlace;
Place middle(Place a, Place b) {
  return {floorDiv(a.x + b.x, 2), floorDiv(a.z + b.z, 2)};
}
int64_t lengthOf(int64_t x, int64_t z) {
  return wholeRoot(x * x + z * z);
}

}  // namespace

/// A bent line from a place over another to a third.
struct Courses::Line {
  Brick brick;
  Place from, over, to;
  int64_t level[2];  ///< Where it begins and ends; never rising.
  int64_t radius[2];
  bool strays = true;          ///< Off its way by noise.
  int64_t banks = 2 * kGrain;  ///< Beyond its edge, up to where the ground lies no lower.
};

struct Courses::Maker {
  Drainage::Reader& net;
  const Drainage& of;
  std::vector<Line>& out;
  Brick brick;  // Whose pieces are made: places are counted from its middle.

  Place place(Cell cell) const {
    const Cell m = middleOf(brick);
    return {(cell.x - m.x) * kGrain + kGrain / 2, (cell.z - m.z) * kGrain + kGrain / 2};
  }
  Place node(Brick b) const { return place(net.nodeOf(b)); }
  Place bottom(Brick b) const { return place(net.bottomOf(b)); }
  int64_t radiusOf(int64_t area) const { return of.widthOf(area) / 2; }

  void add(Place from, Place over, Place to, int64_t level, int64_t end, int64_t radius,
      int64_t endRadius) {
    out.push_back({brick, from, over, to, {level, end}, {radius, endRadius}, true});
  }
  void straight(Place from, Place to, int64_t level, int64_t end, int64_t radius) {
    add(from, middle(from, to), to, level, end, radius, radius);
  }

  /// From a place at a brick of a lake along the way to its pit.
  void within(const Pool& pool, Brick at, Place from, int64_t radius) {
    const Drainage::Reader::LakeWays ways = net.waysIn(pool);
    std::vector<Place> places = {from};
    while (at != pool.pit) {
      places.push_back(node(at));
      const Brick* next = ways.nextOf(at);
      if (!next) break;
      at = *next;
    }
    places.push_back(bottom(pool.pit));
    const size_t last = places.size() - 1;
    for (size_t n = 1; n <= last; ++n) {
      const Place begin = n == 1 ? places[0] : middle(places[n - 1], places[n]);
      if (n == last)
        straight(begin, places[n], pool.level, pool.level, radius);
      else
        add(begin, places[n], middle(places[n], places[n + 1]), pool.level, pool.level, radius,
            radius);
    }
  }

  /// Into the sea, or a lake.
  void mouth(Place from, Brick into, int64_t level, int64_t radius) {
    const DrainAt there = net.drain(into);
    if (there.drains == Drains::Sea)
      return straight(from, bottom(into), level, there.level, radius);
    const auto pool = net.lake(there.next);
    if (!pool) return;
    if (there.level < level) {
      const Place to = node(into);
      straight(from, to, level, there.level, radius);
      from = to;
    }
    within(*pool, into, from, radius);
  }

  void river() {
    const DrainAt own = net.drain(brick);
    const Place here = node(brick);
    const int64_t radius = radiusOf(net.area(brick));
    const bool goesOn = own.drains == Drains::On;
    const Place end = goesOn ? middle(here, node(own.next)) : here;
    const Drainage::Reader::Inflows in = net.inflows(brick);
    for (int side = 0; side < kBrickSides; ++side) {
      const Brick from = besideBrick(brick, side);
      if (!(in.land >> side & 1) || !net.isRiver(from)) continue;
      add(middle(node(from), here), here, end, net.drain(from).level, own.level,
          radiusOf(net.area(from)), radius);
    }
    for (int side = 0; side < kBrickSides; ++side) {
      if (!(in.lakes >> side & 1)) continue;
      const Brick from = besideBrick(brick, side);
      const auto pool = net.lake(net.drain(from).next);
      const Place begin = middle(node(from), here);
      within(*pool, from, begin, radius);
      add(begin, here, end, pool->level, own.level, radius, radius);
    }
    if (net.isSpring(brick)) {
      const int64_t ground = net.ground(brick).base - kGrain;
      add(here, middle(here, end), end, std::max(own.level, ground), own.level,
          std::min(kSpringRadius, radius), radius);
    }
    if (!goesOn) return;
    const Drains next = net.drain(own.next).drains;
    if (next == Drains::Sea || next == Drains::Lake) mouth(end, own.next, own.level, radius);
  }

  /// A lake that spills straight into the sea or another lake.
  void spill() {
    if (net.drain(brick).drains != Drains::Lake || net.drain(brick).next != brick) return;
    const auto way = net.outlet(brick);
    if (!way || !way->found) return;
    const Brick from = way->way[0], into = way->way[1];
    const Drains next = net.drain(into).drains;
    if (next != Drains::Sea && next != Drains::Lake) return;
    const auto pool = net.lake(brick);
    const int64_t radius = radiusOf(net.lakeArea(brick));
    const Place begin = middle(node(from), node(into));
    within(*pool, from, begin, radius);
    mouth(begin, into, pool->level, radius);
  }
};

Result<std::shared_ptr<const Courses>> Courses::compile(
    const Drainage& drainage, double meander, const std::string& where) {
  auto made = std::make_shared<Courses>();
  made->drainage_ = &drainage;
  made->meander_ = grainsOf(meander);
  NoiseSource noise;
  noise.fractal = Fractal::Single;
  noise.width = kStrayWidth;
  for (const uint64_t axis : {0u, 1u}) {
    auto plan = compileNoise(noise, {}, combine(drainage.seed(), 1 + axis), 2, where);
    if (!plan) return plan.error();
    made->stray_[axis] = std::move(*plan);
  }
  return std::shared_ptr<const Courses>(std::move(made));
}

std::vector<CoursePiece> Courses::piecesOf(Drainage::Reader& net, BrickTile tile) const {
  std::vector<Line> lines;
  for (int k = 0; k < BrickTile::kBricks; ++k) {
    Maker maker{net, *drainage_, lines, tile.brick(k)};
    if (net.isRiver(maker.brick))
      maker.river();
    else
      maker.spill();
  }
  std::vector<CoursePiece> pieces;
  sample(lines, pieces);
  return pieces;
}

std::vector<CoursePiece> Courses::piecesOf(
    const CourseRegion& region, int64_t radius, bool exact) const {
  std::vector<Line> lines;
  for (const CourseWay& way : region.ways) {
    const size_t last = way.places.size() - 1;
    for (size_t n = 1; way.found() && n <= last; ++n) {
      const Brick brick = brickOf(way.places[n]);
      const Cell m = middleOf(brick);
      const auto place = [&](size_t k) {
        return Place{(way.places[k].x - m.x) * kGrain + kGrain / 2,
            (way.places[k].z - m.z) * kGrain + kGrain / 2};
      };
      const Place before = place(n - 1), here = place(n);
      const Place begin = exact || n == 1 ? before : middle(before, here);
      const bool bent = !exact && n < last;
      const Place over = bent ? here : middle(begin, here);
      const Place end = bent ? middle(here, place(n + 1)) : here;
      lines.push_back({brick, begin, over, end, {way.levels[n - 1], way.levels[n]},
          {radius, radius}, !exact, kWayBanks});
    }
  }
  std::vector<CoursePiece> pieces;
  sample(lines, pieces);
  return pieces;
}

void Courses::sample(const std::vector<Line>& lines, std::vector<CoursePiece>& out) const {
  std::vector<Cell> banks;
  for (const Line& line : lines) {
    const int64_t ax = line.over.x - line.from.x, az = line.over.z - line.from.z;
    const int64_t bx = line.to.x - line.over.x, bz = line.to.z - line.over.z;
    const int64_t n = (lengthOf(ax, az) + lengthOf(bx, bz)) / kStretch + 2;
    const Cell m = middleOf(line.brick);
    CoursePiece piece{line.brick, {}};
    for (int64_t a = 0; a <= n; ++a) {
      const int64_t b = n - a;
      CoursePoint p;
      p.x = floorDiv(b * b * line.from.x + 2 * a * b * line.over.x + a * a * line.to.x, n * n);
      p.z = floorDiv(b * b * line.from.z + 2 * a * b * line.over.z + a * a * line.to.z, n * n);
      p.radius = line.radius[0] + floorDiv((line.radius[1] - line.radius[0]) * a, n);
      p.level = line.level[0] + floorDiv((line.level[1] - line.level[0]) * a, n);
      const auto most = static_cast<float>(mostStray(meander_, p.radius));
      const auto pos = [](int64_t middle, int64_t grains) {
        return Pos{middle + floorDiv(grains, kGrain),
            static_cast<int32_t>(floorMod(grains, kGrain) * (65536 / kGrain))};
      };
      const Pos place[3] = {pos(m.x, p.x), {}, pos(m.z, p.z)};
      if (line.strays) {
        p.x += static_cast<int64_t>(std::floor(most * noiseAt(stray_[0], place)));
        p.z += static_cast<int64_t>(std::floor(most * noiseAt(stray_[1], place)));
      }
      // Where the line heads, for the ground to both sides.
      int64_t vx = b * ax + a * bx, vz = b * az + a * bz;
      if (vx == 0 && vz == 0) vx = line.to.x - line.from.x, vz = line.to.z - line.from.z;
      if (vx == 0 && vz == 0) vx = 1;
      const int64_t length = std::max<int64_t>(1, lengthOf(vx, vz));
      const int64_t wide = p.radius + line.banks, part = wide * 3 / 5;
      for (const int64_t away : {int64_t{0}, part, -part, wide, -wide})
        banks.push_back({m.x + floorDiv(p.x - floorDiv(vz * away, length), kGrain),
            m.z + floorDiv(p.z + floorDiv(vx * away, length), kGrain)});
      piece.points.push_back(p);
    }
    out.push_back(std::move(piece));
  }
  std::vector<float> heights(banks.size());
  drainage_->land().heights(banks, Accuracy::Approximate, heights.data());
  size_t at = 0;
  for (size_t k = 0; k < lines.size(); ++k) {
    const int64_t end = lines[k].level[1];
    int64_t least = lines[k].level[0];
    auto& points = out[k].points;
    for (CoursePoint& p : points) {
      for (int bank = 0; bank < kBanks; ++bank, ++at) {
        least = std::min(least, heightGrains(heights[at]) - kBelowBanks);
      }
      p.level = std::max(end, std::min(p.level, least));
    }
    points.back().level = end;
  }
}

}  // namespace acre
