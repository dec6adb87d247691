#include "water/course_ways.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>
#include <optional>

#include "field/compiler.h"

namespace acre {
namespace {

constexpr uint64_t kObstacleSalt = 3, kWestSalt = 4, kNorthSalt = 5, kRoughSalt = 6;
constexpr int kSnaps = 16;  // Places along a side that a way may begin at instead.
constexpr int64_t kFar = std::numeric_limits<int64_t>::max();
constexpr int64_t kBelowLand = kGrain / 2;
constexpr int64_t kAslantGrains = 362;  // Of a step aslant, in 1/256 of a straight one.

constexpr int64_t kMostStray = 9 * kGrain;

uint64_t placeHash(uint64_t seed, int64_t a, int64_t b) {
  return combine(combine(seed, static_cast<uint64_t>(a)), static_cast<uint64_t>(b));
}

}  // namespace

int64_t mostStray(int64_t meander, int64_t radius) {
  return std::min(kMostStray, meander + radius * 4 / 5);
}

double CourseWay::winding() const {
  const double direct =
      std::hypot(static_cast<double>(to.x - from.x), static_cast<double>(to.z - from.z));
  return direct > 0 ? length / direct : 1;
}

uint64_t CourseRegion::bytes() const {
  uint64_t sum = sizeof *this + obstacles.size() + 64;
  for (const CourseWay& way : ways)
    sum += sizeof way + way.name.size() + way.places.size() * (sizeof(Cell) + sizeof(int64_t)) + 64;
  return sum;
}

CourseWays::CourseWays(
    const DrainageInputs& inputs, uint64_t seed, int64_t seaTop, const MemoLimit& memo)
    : how_(inputs.rivers.courses),
      land_(inputs.land),
      bounds_(inputs.bounds),
      whole_(isOneRegion(bounds_)),
      seed_(seed),
      seaTop_(seaTop),
      step_(static_cast<int64_t>(how_.step)),
      radius_(grainsOf(how_.width) / 2),
      around_((radius_ + kWayBanks +
                  (exact() ? 0 : mostStray(grainsOf(inputs.rivers.meander), radius_))) /
              kGrain),
      regions_(memo) {}

Result<std::shared_ptr<const CourseWays>> CourseWays::compile(
    const DrainageInputs& inputs, uint64_t seed, int64_t seaTop, const MemoLimit& memo) {
  if (!inputs.rivers.courses.any()) return std::shared_ptr<const CourseWays>();
  std::shared_ptr<CourseWays> made(new CourseWays(inputs, seed, seaTop, memo));
  NoiseSource noise;
  noise.fractal = Fractal::Single;
  noise.width = made->how_.feature;
  auto plan = compileNoise(noise, {}, combine(seed, kObstacleSalt), 2, "/rivers/courses/feature");
  if (!plan) return plan.error();
  made->noise_ = std::move(*plan);
  made->obstacles_ = inputs.obstacles;
  return std::shared_ptr<const CourseWays>(std::move(made));
}

std::vector<CourseWays::At> CourseWays::regionsIn(const Rect& area) const {
  std::vector<At> out;
  if (whole_) {
    if (!intersection(area, bounds_).empty()) out.push_back({});
    return out;
  }
  const auto side = static_cast<int64_t>(how_.region);
  for (int64_t j = floorDiv(area.z, side); j <= floorDiv(area.z + area.length - 1, side); ++j)
    for (int64_t i = floorDiv(area.x, side); i <= floorDiv(area.x + area.width - 1, side); ++i)
      out.push_back({i, j});
  return out;
}

std::shared_ptr<const CourseRegion> CourseWays::region(At at, const std::stop_token& stop) const {
  return regions_.get(at, stop, [&] { return make(at, stop); });
}

bool CourseWays::hindrance(
    const CourseRegion& region, std::vector<float>& out, const std::stop_token& stop) const {
  if (how_.borders) {
    const Cell first = region.cell(0);
    LandOut land;
    land.borders = out.data();
    land.stride = region.wide;
    return land_->evaluate({first.x, first.z, region.step, region.wide, region.deep}, land, stop);
  }
  for (size_t n = 0; n < out.size(); ++n) {
    if (n % 1024 == 0 && stop.stop_requested()) return false;
    const Cell c = region.cell(n);
    const Pos place[3] = {{c.x, 0}, {}, {c.z, 0}};
    out[n] = obstacles_ ? obstacles_->at(place[0], place[2]) : noiseAt(noise_, place);
  }
  return true;
}

/// Of n places so many are closed: those that are hindered most, of equals the first. False when
/// stopped.
bool CourseWays::closeObstacles(CourseRegion& region, const std::stop_token& stop) const {
  const auto count = static_cast<size_t>(region.wide) * static_cast<size_t>(region.deep);
  std::vector<float> values(count);
  if (!hindrance(region, values, stop)) return false;
  closeHighest(values, how_.share, region.obstacles);
  return true;
}

/// Finds the ways of one region, one after the other.
struct CourseWays::Search {
  const CourseWays& of;
  CourseRegion& region;
  const std::stop_token& stop;
  const std::vector<uint8_t>& closed = region.obstacles;
  std::vector<int64_t> taken = std::vector<int64_t>(region.obstacles.size(), kFar);  // Levels.
  std::vector<int32_t> ground = {};  // In 1/256 cell; all of it if climbing costs.

  std::vector<int32_t> heightsOf(const std::vector<Cell>& cells) const {
    std::vector<float> heights(cells.size());
    of.land_->scattered(static_cast<int>(cells.size()), cells.data(), heights.data(), nullptr,
        Accuracy::Approximate);
    std::vector<int32_t> out(cells.size());
    std::transform(heights.begin(), heights.end(), out.begin(), heightGrains);
    return out;
  }

  void run() {
    if (of.how_.climb > 0) {
      std::vector<Cell> cells(region.obstacles.size());
      for (size_t n = 0; n < cells.size(); ++n) cells[n] = region.cell(n);
      ground = heightsOf(cells);
    }
    for (int k = 0; k < static_cast<int>(of.how_.count) && !stop.stop_requested(); ++k) numbered(k);
    for (size_t k = 0; of.whole_ && k < of.how_.given.size() && !stop.stop_requested(); ++k)
      given(of.how_.given[k]);
  }

  // ---- where ways begin and end ----------------------------------------------------------------

  /// A place on a side that its neighbour region hashes alike.
  int32_t drawn(uint64_t salt, int64_t i, int64_t j, int k, int32_t places) const {
    const uint64_t h = combine(placeHash(combine(of.seed_, salt), i, j), static_cast<uint64_t>(k));
    return 1 + static_cast<int32_t>((h >> 32) * static_cast<uint64_t>(places - 2) >> 32);
  }
  /// The nearest free place along a side: that itself, +1, -1, +2, ...
  std::optional<size_t> freeAlong(bool alongX, int32_t at, int32_t fixed) const {
    const int32_t places = alongX ? region.wide : region.deep;
    for (int d = 0; d < kSnaps; ++d)
      for (const int side : {d, -d}) {
        const int32_t to = at + side;
        if (to < 1 || to > places - 2) continue;
        const size_t n = alongX ? region.index(to, fixed) : region.index(fixed, to);
        if (!closed[n]) return n;
      }
    return {};
  }
  void numbered(int k) {
    const bool south = k % 2 == 1;  // From north to south, or back.
    const int32_t places = south ? region.wide : region.deep;
    const uint64_t salt = south ? kNorthSalt : kWestSalt;
    const int32_t a = drawn(salt, region.i, region.j, k, places);
    const int32_t b = drawn(salt, region.i + !south, region.j + south, k, places);
    const int32_t far = south ? region.deep - 1 : region.wide - 1;
    const auto at = [&](int32_t along, int32_t fixed) {
      return south ? region.index(along, fixed) : region.index(fixed, along);
    };
    CourseWay way;
    way.name = fmt::format("C{},{}/{}", region.i, region.j, k);
    way.from = region.cell(at(a, 0));
    way.to = region.cell(at(b, far));
    const auto start = freeAlong(south, a, 0), goal = freeAlong(south, b, far);
    if (!start || !goal) {
      way.fault = start ? CourseFault::GoalBlocked : CourseFault::StartBlocked;
      region.ways.push_back(std::move(way));
      return;
    }
    // Water begins at the higher end.
    const auto heights = heightsOf({region.cell(*start), region.cell(*goal)});
    if (heights[1] > heights[0])
      find(std::move(way), {*goal, *start});
    else
      find(std::move(way), {*start, *goal});
  }
  void given(const GivenCourse& course) {
    CourseWay way;
    way.name = fmt::format("C{},{}/{}", region.i, region.j, course.id);
    std::vector<size_t> stops;
    for (const CourseStop& s : course.stops) {
      const auto along = [&](double v, int64_t first, int32_t places) {
        return static_cast<int32_t>(
            std::min<int64_t>(floorDiv(static_cast<int64_t>(v) - first, region.step), places - 1));
      };
      stops.push_back(region.index(
          along(s.x, region.cells.x, region.wide), along(s.z, region.cells.z, region.deep)));
    }
    way.from = region.cell(stops.front());
    way.to = region.cell(stops.back());
    if (closed[stops.front()]) {
      way.fault = CourseFault::StartBlocked;
    } else if (std::any_of(stops.begin(), stops.end(), [&](size_t n) { return closed[n] != 0; })) {
      way.fault = CourseFault::GoalBlocked;
    }
    if (way.found())
      find(std::move(way), stops);
    else
      region.ways.push_back(std::move(way));
  }

  // ---- the cheapest way ------------------------------------------------------------------------

  int64_t costInto(size_t from, size_t to, bool aslant) const {
    const Cell c = region.cell(to);
    int64_t cost = (aslant ? WayField::kAslant : WayField::kStraight) +
                   static_cast<int64_t>(placeHash(combine(of.seed_, kRoughSalt), c.x, c.z) & 3);
    if (!ground.empty())
      cost += WayField::kStraight * grainsOf(of.how_.climb) *
                  std::max<int64_t>(0, int64_t{ground[to]} - ground[from]) >>
              16;
    return cost;
  }
  /// From a place to another, or to an earlier way if ways join; empty: there is none, or it was
  /// stopped.
  std::vector<size_t> leg(size_t start, size_t goal) const {
    const WayField field{region.wide, region.deep, of.how_.diagonal, closed};
    return field.cheapest(
        start, goal, of.how_.join,
        [&](size_t from, size_t to, bool aslant) { return costInto(from, to, aslant); },
        [&](size_t n) { return taken[n] != kFar; }, stop);
  }

  /// Along the stops, the first of which is the source.
  void find(CourseWay way, const std::vector<size_t>& stops) {
    std::vector<size_t> line = {stops.front()};
    for (size_t n = 1; n < stops.size() && !way.joins; ++n) {
      if (stops[n] == stops[n - 1]) continue;
      const std::vector<size_t> part = leg(stops[n - 1], stops[n]);
      if (part.empty()) {
        way.fault = CourseFault::NoPath;
        break;
      }
      line.insert(line.end(), part.begin() + 1, part.end());
      way.joins = of.how_.join && taken[line.back()] != kFar;
    }
    way.from = region.cell(stops.front());
    if (way.found())
      way.to = region.cell(line.back());
    else
      way.to = region.cell(stops.back());
    for (const size_t n : line) way.places.push_back(region.cell(n));
    measure(way, line);
    if (way.found())
      for (size_t n = 0; n < line.size(); ++n)
        taken[line[n]] = std::min(taken[line[n]], way.levels[n]);
    region.ways.push_back(std::move(way));
  }

  /// The lowest of the ground at places and about each.
  std::vector<int32_t> banksOf(const std::vector<Cell>& places) const {
    std::vector<Cell> cells;
    for (const Cell& c : places)
      cells.insert(cells.end(), {c, {c.x - of.around_, c.z}, {c.x + of.around_, c.z},
                                    {c.x, c.z - of.around_}, {c.x, c.z + of.around_}});
    const std::vector<int32_t> heights = heightsOf(cells);
    std::vector<int32_t> out;
    for (size_t n = 0; n < heights.size(); n += 5)
      out.push_back(*std::min_element(heights.begin() + static_cast<ptrdiff_t>(n),
          heights.begin() + static_cast<ptrdiff_t>(n) + 5));
    return out;
  }

  /// Levels that never rise, and what of it is too much.
  void measure(CourseWay& way, const std::vector<size_t>& line) const {
    const std::vector<int32_t> heights = heightsOf(way.places), banks = banksOf(way.places);
    int64_t level = kFar, grains = 0, cut = 0;
    for (size_t n = 0; n < line.size(); ++n) {
      level = std::max(of.seaTop_, std::min(level, int64_t{banks[n]} - kBelowLand));
      way.levels.push_back(level);
      cut = std::max(cut, heights[n] - level);
      if (n == 0) continue;
      const Cell a = way.places[n - 1], b = way.places[n];
      grains += region.step * (a.x != b.x && a.z != b.z ? kAslantGrains : kGrain);
    }
    way.length = cellsOf(grains);
    way.cut = cellsOf(cut);
    if (!way.found()) return;
    const int64_t dx = way.to.x - way.from.x, dz = way.to.z - way.from.z;
    if (isTooLong(grains, of.how_.winding, dx, dz)) {
      way.fault = CourseFault::TooLong;
    } else if (cut > grainsOf(of.how_.carve)) {
      way.fault = CourseFault::TooDeep;
    } else if (way.joins) {
      const int64_t there = taken[line.back()];
      if (there > way.levels.back())
        way.fault = CourseFault::Uphill;
      else
        way.levels.back() = there;
    }
  }
};

std::shared_ptr<const CourseRegion> CourseWays::make(At at, const std::stop_token& stop) const {
  auto out = std::make_shared<CourseRegion>();
  out->i = at.i;
  out->j = at.j;
  out->step = step_;
  const auto side = static_cast<int64_t>(how_.region);
  out->cells = whole_ ? bounds_ : Rect{at.i * side, at.j * side, side, side};
  out->wide = static_cast<int32_t>(out->cells.width / step_);
  out->deep = static_cast<int32_t>(out->cells.length / step_);
  if (!closeObstacles(*out, stop)) return nullptr;
  Search{*this, *out, stop}.run();
  if (stop.stop_requested()) return nullptr;
  return out;
}

}  // namespace acre
