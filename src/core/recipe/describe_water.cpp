#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "recipe/describe.h"
#include "recipe/water_recipe.h"

namespace acre {

void describe(Visitor& v, CourseStop& stop) {
  const MembersOf m(v, stop, "courseStop");
  m(&CourseStop::x, "x", "x", "Cell.", must(cells(limits::courseCell).wholeOnly()));
  m(&CourseStop::z, "z", "z", "Cell.", must(cells(limits::courseCell).wholeOnly()));
}

void describe(Visitor& v, GivenCourse& course) {
  const MembersOf m(v, course, "givenCourse");
  m.id();
  m(&GivenCourse::stops, "stops", "Stops", "Where it begins, what it passes, where it ends.",
      must().atLeast(2).upTo(limits::courseStops));
}

/// What depends on the world that they lie in.
static void courseRules(Ruling& rules, const RiverCourses& c) {
  if (!c.any()) return;
  const Rect bounds = boundsOf(rules.recipe().frame);
  const auto longest = static_cast<double>(std::max(bounds.width, bounds.length));
  const bool one = isOneRegion(bounds);
  const double side = one ? longest : c.region;
  if (!one && std::fmod(c.region, c.step) != 0)
    rules.refuse("step", fmt::format("{} does not part {} cells", c.step, c.region),
        "a step that parts the region's side");
  if (side / c.step > limits::coursePlaces)
    rules.refuse("step",
        fmt::format("{:.0f} places along {:.0f} cells", std::floor(side / c.step), side),
        fmt::format("at least {} cells here, for {:.0f} places at most",
            std::ceil(side / limits::coursePlaces), limits::coursePlaces));
  const auto shortest = static_cast<double>(std::min(bounds.width, bounds.length));
  if (std::min(side, shortest) / c.step < 4)
    rules.refuse("step",
        fmt::format("fewer than 4 places along {:.0f} cells", std::min(side, shortest)),
        "a step of at most a quarter of that");
  if (!one && c.step < 4)
    rules.refuse("step", fmt::format("{} cells in a world without near bounds", c.step),
        "4 to 64; 1 to 64 in worlds of at most 4096 cells a side");
  const Biomes& biomes = rules.recipe().biomes;
  if (c.borders && !(biomes.on && biomes.regions.on))
    rules.refuse("borders", "there are no regions whose borders ways could follow",
        "false, or biomes with regions");
  for (size_t k = 0; k < c.given.size(); ++k) {
    if (!one) {
      rules.refuse(fmt::format("given/{}", k), "a given course in a world without near bounds",
          "bounded worlds of at most 4096 cells a side");
      break;
    }
    if (c.given[k].stops.size() < 2)
      rules.refuse(fmt::format("given/{}/stops", k),
          fmt::format("{} stops", c.given[k].stops.size()),
          fmt::format("2 to {}", limits::courseStops));
    for (size_t n = 0; n < c.given[k].stops.size(); ++n) {
      const CourseStop& stop = c.given[k].stops[n];
      if (!bounds.contains({static_cast<int64_t>(stop.x), static_cast<int64_t>(stop.z)}))
        rules.refuse(fmt::format("given/{}/stops/{}", k, n),
            fmt::format("{:.0f}, {:.0f} lies outside the world", stop.x, stop.z),
            fmt::format("x {} to {}, z {} to {}", bounds.x, bounds.x + bounds.width - 1, bounds.z,
                bounds.z + bounds.length - 1));
    }
  }
}

void describe(Visitor& v, RiverCourses& courses) {
  const MembersOf m(v, courses, "courses");
  m(&RiverCourses::count, "count", "Ways",
      "In each region, every second from west to east or back, the others from north to south.",
      number(limits::courseCount, 1).wholeOnly());
  m(&RiverCourses::region, "region", "Region",
      "Side of a region; a bounded world of at most 4,096 cells a side is one.",
      cells(limits::courseRegion, 64).wholeOnly());
  m(&RiverCourses::step, "step", "Step",
      "Cells from place to place that they may take; below 4 only in such worlds.",
      cells(limits::courseStep, 1).wholeOnly());
  m(&RiverCourses::diagonal, "diagonal", "Eight ways",
      "They go on in eight directions, else in four; never between two obstacles that touch.");
  m(&RiverCourses::feature, "feature", "Obstacles' width", "Width of their features.",
      cells(limits::courseFeature, 1).ofFeatures());
  m(&RiverCourses::field, "field", "Obstacles' field",
      "Obstacles are where it is highest; none: where a noise is.", sparse().of(Role::Field));
  m(&RiverCourses::borders, "borders", "Along borders",
      "Obstacles are what lies farthest from the borders of regions, so that ways run along them.",
      sparse());
  m(&RiverCourses::share, "share", "Obstacles", "Share of the places of a region that are closed.",
      share(0.005));
  m(&RiverCourses::climb, "climb", "Climb", "Steps that a cell upward costs.",
      number(limits::courseClimb, 0.1, "steps"));
  m(&RiverCourses::width, "width", "Width", "Of the water.", cells(limits::riverWidth, 0.5));
  m(&RiverCourses::carve, "carve", "Deepest",
      "Cells that one may lie below the land; a deeper one is given up.",
      cells(limits::courseCarve, 1));
  m(&RiverCourses::winding, "winding", "Winding",
      "Times as long as straight that one may be; a longer one is given up.",
      number(limits::courseWinding, 0.1));
  m(&RiverCourses::join, "join", "Join",
      "One ends where it meets an earlier one; else they cross.");
  m(&RiverCourses::given, "given", "Given ways",
      "Between given places, in worlds that are one region.",
      sparse().upTo(static_cast<size_t>(limits::courseCount.high)));
  v.rule([&](Ruling& rules) { courseRules(rules, courses); });
}

void describe(Visitor& v, Rivers& rivers) {
  const MembersOf m(v, rivers, "rivers");
  m.on(&Rivers::on);
  m(&Rivers::spring, "spring", "Spring",
      "Bricks of 32 x 28 cells of land that drain through a place where a river shows.",
      number(limits::spring, 1).wholeOnly());
  m(&Rivers::lakes, "lakes", "Lakes",
      "Share of the hollows at least two cells deep that hold a lake.", share(0.005));
  m(&Rivers::closed, "closed", "Closed", "Share of those lakes without an outlet.", share(0.005));
  m(&Rivers::carve, "carve", "Deepest cut",
      "Cells that a channel may lie below the land it crosses.", cells(limits::carve, 0.5));
  m(&Rivers::growth, "growth", "Growth", "Cells of width per root of the drained bricks.",
      cells(limits::riverGrowth, 0.01));
  m(&Rivers::widest, "widest", "Widest", "Most cells that a river is wide.",
      cells(limits::riverWidth, 0.5));
  m(&Rivers::depth, "depth", "Bed",
      "Most cells by which the middle of a bed lies deeper than its edges.",
      cells(limits::riverDepth, 0.1));
  m(&Rivers::valley, "valley", "Valley",
      "Cells that a valley reaches beyond the banks, per cell of half the river's width; at most "
      "46.",
      cells(limits::valley, 0.1));
  m(&Rivers::sides, "sides", "Sides", "Rise of a valley's sides per cell.",
      cells(limits::valleySides, 0.01));
  m(&Rivers::meander, "meander", "Meanders",
      "Cells by which narrow rivers stray from the straight course; wide ones more, at most 9.",
      cells(limits::meander, 0.1));
  m(&Rivers::water, "material", "Water", "Its material; none: one sees the bed.",
      sparse().of(Role::Listed));
  m(&Rivers::bed, "bed", "Bed is",
      "Material under fresh water, before any band; none: as they say.", sparse().of(Role::Listed));
  m(&Rivers::bank, "bank", "Bank is",
      "Material of dry ground beside fresh water, before any band; none: as they say.",
      sparse().of(Role::Listed));
  m(&Rivers::bankReach, "bankReach", "Bank", "Cells that the bank reaches from the water.",
      sparse(cells(limits::shore, 0.5)));
  m(&Rivers::wet, "wet", "Wet ground is",
      "Material of dry ground beyond the bank, before any band; none: as they say.",
      sparse().of(Role::Listed));
  m(&Rivers::wetReach, "wetReach", "Wet ground",
      "Cells that wet ground reaches from the water, no farther than its valley.",
      sparse(cells(limits::shore, 0.5)));
  m(&Rivers::courses, "courses", "Courses", "Through obstacles, from side to side.", sparse());
}

}  // namespace acre
