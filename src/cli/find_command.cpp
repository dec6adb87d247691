#include <fmt/format.h>

#include "audit/cave_figures.h"
#include "audit/object_figures.h"
#include "audit/plumb.h"
#include "audit/water_figures.h"
#include "audit/world_start.h"
#include "cave/level_stage.h"
#include "cli/common.h"
#include "output/object_lists.h"
#include "recipe/level_recipe.h"
#include "water/water_stage.h"
#include "world/world.h"

namespace acre::cli {
namespace {

struct FindOptions {
  RecipeOptions recipe;
  std::optional<std::string> near;
  std::optional<int64_t> within;
  std::string spaces;
  std::string levels;
  bool passages = false;
  bool start = false;
  bool rivers = false;
  bool lakes = false;
  bool ways = false;
  bool objects = false;
  std::string out;
};

std::string bearingText(double degrees) {
  constexpr const char* kNames[] = {"N", "NE", "E", "SE", "S", "SW", "W", "NW"};
  return kNames[static_cast<size_t>((degrees + 22.5) / 45) % 8];
}

Json jsonOf(const World& world, const FoundSystem& found, const SystemFigures& f) {
  const TunnelSystem& s = *found.system;
  Json passages = Json::array();
  for (size_t k = 0; k < f.passages.size(); ++k) {
    const PassageFigures& p = f.passages[k];
    Json line = Json::array(), widths = Json::array();
    for (const BorePoint& point : s.passages[k].points)
      line.push_back({static_cast<double>(s.x) + static_cast<double>(point.x),
          static_cast<double>(s.y) + static_cast<double>(point.y),
          static_cast<double>(s.z) + static_cast<double>(point.z), point.radius});
    for (const WidthSample& w : p.widths)
      widths.push_back({{"along", w.along}, {"width", w.width}, {"narrow", w.narrow},
          {"wide", w.wide}, {"tooWide", w.tooWide}});
    passages.push_back({{"kind", passageName(p.kind)}, {"length", p.length},
        {"straightness", p.straightness}, {"roundness", p.roundness}, {"meanWidth", p.meanWidth},
        {"overlap", p.overlap}, {"line", line}, {"widths", widths}});
  }
  return {{"name", found.name(world)}, {"site", {s.x, s.y, s.z}}, {"distance", found.distance},
      {"bearing", found.bearing}, {"depth", f.depth}, {"length", f.length}, {"volume", f.volume},
      {"flooded", f.flooded}, {"mouths", f.mouths}, {"deadEnds", f.deadEnds}, {"pieces", f.pieces},
      {"straightness", f.straightness}, {"roundness", f.roundness}, {"overlap", f.overlap},
      {"levels", {f.lowest, f.highest}}, {"passages", passages}};
}

Result<int> findSpaces(const FindOptions& options, const World& world, Streams& streams) {
  const auto area = parseArea(options.spaces, "--spaces");
  if (!area) return area.error();
  const AxisBounds range = planOf(world).level() ? AxisBounds{0, 1} : planOf(world).vertical();
  int64_t low = range.min, high = range.min + range.extent;
  if (!options.levels.empty()) {
    const auto levels = parsePair(options.levels, "--levels");
    if (!levels) return levels.error();
    low = levels->x;
    high = levels->z + 1;
  }
  constexpr int64_t kMost = kMostBoxCells;
  if (area->width > kMost || area->length > kMost || high - low > kMost || low >= high)
    return Error{Error::Code::InvalidInput, "no such box", "--spaces, --levels",
        fmt::format("1 to {} blocks, LOW no higher than HIGH", kMostBoxCells)};
  const SampleBlock box{area->x, low, area->z, 1, static_cast<int32_t>(area->width),
      static_cast<int32_t>(high - low), static_cast<int32_t>(area->length)};
  const auto found = spacesIn(world, box);
  if (!found) return found.error();
  Json list = Json::array();
  for (const OpenSpace& s : found->spaces)
    list.push_back({{"cells", s.cells}, {"at", {box.x + s.x, box.y + s.y, box.z + s.z}},
        {"openEnded", s.openEnded}});
  if (options.recipe.json) {
    streams.out << Json{{"box", {box.x, box.y, box.z, box.width, box.height, box.length}},
                       {"spaces", list}}
                       .dump(2)
                << "\n";
    return 0;
  }
  if (planOf(world).level())
    streams.out << fmt::format("{} open spaces on floor {}, area {}\n", found->spaces.size(),
        planOf(world).recipe().level->floor, options.spaces);
  else
    streams.out << fmt::format("{} open spaces below the surface, y {} to {}, area {}\n",
        found->spaces.size(), low, high - 1, options.spaces);
  constexpr size_t kShown = 40;
  for (size_t k = 0; k < std::min(kShown, found->spaces.size()); ++k) {
    const OpenSpace& s = found->spaces[k];
    streams.out << fmt::format("  {:>9} blocks  from {},{},{}{}\n", s.cells, box.x + s.x,
        box.y + s.y, box.z + s.z, s.openEnded ? "  open-ended: it touches the box" : "");
  }
  if (found->spaces.size() > kShown)
    streams.out << fmt::format(
        "  and {} smaller ones (--json lists all)\n", found->spaces.size() - kShown);
  return 0;
}

/// Courses of a floor, those that were given up with the reason; json: only to be returned.
Json coursesOn(const World& world, bool json, Streams& streams) {
  const LevelStage& stage = *planOf(world).level();
  Json list = Json::array();
  for (const LaidCourse& course : stage.floor().courses) {
    const std::string name = courseName(*planOf(world).recipe().level, course);
    Json line = Json::array();
    for (const uint32_t place : course.cells) {
      const Cell cell = stage.cellOf(place);
      line.push_back({cell.x, cell.z});
    }
    list.push_back({{"name", name}, {"fault", faultName(course.fault)}, {"line", line}});
    if (json) continue;
    if (course.cells.empty()) {
      streams.out << fmt::format("  {:<20} {}\n", name, faultName(course.fault));
      continue;
    }
    const Cell from = stage.cellOf(course.cells.front()), to = stage.cellOf(course.cells.back());
    streams.out << fmt::format("  {:<20} at {:>14}  {} cells to {},{}\n", name,
        fmt::format("{},{}", from.x, from.z), course.cells.size(), to.x, to.z);
  }
  return list;
}

/// The places that a level must have, and where they are.
int findPlaces(const FindOptions& options, const World& world, Streams& streams) {
  const LevelFloor& floor = planOf(world).level()->floor();
  Json list = Json::array();
  if (!options.recipe.json)
    streams.out << fmt::format("{} place{} on floor {}\n", floor.places.size(),
        floor.places.size() == 1 ? "" : "s", floor.floor);
  for (const FoundPlace& found : floor.places) {
    const LevelPlace& place = planOf(world).recipe().level->places[found.place];
    const Cell cell = planOf(world).level()->cellOf(found);
    if (options.recipe.json)
      list.push_back({{"id", place.id}, {"name", place.name}, {"at", {cell.x, cell.z}},
          {"from", place.from}, {"steps", found.steps}});
    else
      streams.out << fmt::format("  {:<20} at {:>14}{}\n", place.name,
          fmt::format("{},{}", cell.x, cell.z),
          place.from.empty() ? "" : fmt::format("  {} steps from {}", found.steps, place.from));
  }
  const Json courses = coursesOn(world, options.recipe.json, streams);
  if (options.recipe.json)
    streams.out << Json{{"floor", floor.floor}, {"places", list}, {"courses", courses}}.dump(2)
                << "\n";
  return 0;
}

Result<int> findRiversNear(
    const FindOptions& options, const World& world, Cell near, int64_t within, Streams& streams) {
  const auto found = findRivers(world, near, within);
  if (!found) return found.error();
  if (options.recipe.json) {
    Json list = Json::array();
    for (const RiverFigures& r : *found) {
      Json line = Json::array();
      for (const Cell c : r.line) line.push_back({c.x, c.z});
      list.push_back({{"name", r.name()}, {"source", {r.source.x, r.source.z}},
          {"mouth", {r.mouth.x, r.mouth.z}}, {"end", endName(r.end)}, {"into", r.ending()},
          {"distance", r.distance}, {"length", r.length}, {"drop", r.drop},
          {"sinuosity", r.sinuosity}, {"width", r.width}, {"area", r.area},
          {"tributaries", r.tributaries}, {"lakes", r.lakes}, {"line", line}});
    }
    streams.out << Json{{"near", {near.x, near.z}}, {"within", within}, {"rivers", list}}.dump(2)
                << "\n";
    return 0;
  }
  streams.out << fmt::format("{} river{} with springs within {} cells of {},{}\n", found->size(),
      found->size() == 1 ? "" : "s", within, near.x, near.z);
  if (!found->empty())
    streams.out << fmt::format(
        "  {:<12} {:>16} {:>16} {:>7} {:>6} {:>6} {:>6} {:>5} {:>6} {:>5}  {}\n", "river", "spring",
        "mouth", "length", "drop", "winds", "width", "area", "joined", "lakes", "ends in");
  for (const RiverFigures& r : *found)
    streams.out << fmt::format(
        "  {:<12} {:>16} {:>16} {:>7.0f} {:>6.1f} {:>6.2f} {:>6.1f} {:>5} {:>6} {:>5}  {}\n",
        r.name(), fmt::format("{},{}", r.source.x, r.source.z),
        fmt::format("{},{}", r.mouth.x, r.mouth.z), r.length, r.drop, r.sinuosity, r.width, r.area,
        r.tributaries, r.lakes, r.ending());
  return 0;
}

Result<int> findLakesNear(
    const FindOptions& options, const World& world, Cell near, int64_t within, Streams& streams) {
  const auto found = findLakes(world, near, within);
  if (!found) return found.error();
  if (options.recipe.json) {
    Json list = Json::array();
    for (const LakeFigures& l : *found) {
      list.push_back({{"name", l.name()}, {"bottom", {l.bottom.x, l.bottom.z}},
          {"distance", l.distance}, {"level", l.level}, {"depth", l.depth}, {"bricks", l.bricks},
          {"area", l.area}, {"closed", l.closed}});
      if (!l.closed) list.back()["outlet"] = {l.outlet.x, l.outlet.z};
    }
    streams.out << Json{{"near", {near.x, near.z}}, {"within", within}, {"lakes", list}}.dump(2)
                << "\n";
    return 0;
  }
  streams.out << fmt::format("{} lake{} within {} cells of {},{}\n", found->size(),
      found->size() == 1 ? "" : "s", within, near.x, near.z);
  if (!found->empty())
    streams.out << fmt::format("  {:<12} {:>16} {:>6} {:>6} {:>7} {:>6}  {}\n", "lake",
        "deepest at", "level", "depth", "bricks", "area", "outlet");
  for (const LakeFigures& l : *found)
    streams.out << fmt::format("  {:<12} {:>16} {:>6} {:>6.1f} {:>7} {:>6}  {}\n", l.name(),
        fmt::format("{},{}", l.bottom.x, l.bottom.z), l.level, l.depth, l.bricks, l.area,
        l.closed ? "none" : fmt::format("{},{}", l.outlet.x, l.outlet.z));
  return 0;
}

/// Every one, those that were given up with the reason.
Result<int> findWaysNear(
    const FindOptions& options, const World& world, Cell near, int64_t within, Streams& streams) {
  if (within < 1 || within > kFarthestWater)
    return invalidInput(fmt::format("{} is out of range", within), "--within",
        fmt::format("1 to {} cells", kFarthestWater));
  const auto found =
      findWays(world, {near.x - within, near.z - within, 2 * within + 1, 2 * within + 1});
  if (!found) return found.error();
  if (options.recipe.json) {
    Json list = Json::array();
    for (const CourseWay& w : found->ways) {
      Json line = Json::array();
      for (size_t n = 0; n < w.places.size(); ++n)
        line.push_back({w.places[n].x, w.places[n].z, cellsOf(w.levels[n])});
      list.push_back({{"name", w.name}, {"fault", faultName(w.fault)},
          {"from", {w.from.x, w.from.z}}, {"to", {w.to.x, w.to.z}}, {"length", w.length},
          {"winding", w.winding()}, {"cut", w.cut}, {"joins", w.joins}, {"line", line}});
    }
    streams.out << Json{{"near", {near.x, near.z}}, {"within", within}, {"found", found->found()},
                       {"ways", list}}
                       .dump(2)
                << "\n";
    return 0;
  }
  streams.out << fmt::format(
      "{}, in the regions within {} cells of {},{}\n", found->text(), within, near.x, near.z);
  if (!found->ways.empty())
    streams.out << fmt::format("  {:<14} {:>16} {:>16} {:>7} {:>6} {:>6}  {}\n", "way", "from",
        "to", "length", "winds", "cut", "");
  for (const CourseWay& w : found->ways)
    streams.out << fmt::format("  {:<14} {:>16} {:>16} {:>7.0f} {:>6.2f} {:>6.1f}  {}\n", w.name,
        fmt::format("{},{}", w.from.x, w.from.z), fmt::format("{},{}", w.to.x, w.to.z), w.length,
        w.winding(), w.cut,
        !w.found() ? faultName(w.fault)
        : w.joins  ? "joins another"
                   : "");
  return 0;
}

/// Every one of a square, or how many of each kind.
Result<int> findObjectsNear(
    const FindOptions& options, const World& world, Cell near, int64_t within, Streams& streams) {
  constexpr int64_t kFarthest = 2048;
  if (within < 0 || within > kFarthest)
    return invalidInput(fmt::format("{} is out of range", within), "--within",
        fmt::format("0 to {} cells", kFarthest));
  if (!world.objects().any())
    return invalidInput("this world has no objects", "--objects",
        "worlds of the kinds overland and voxel with kinds of objects that are on");
  const Rect area{near.x - within, near.z - within, 2 * within + 1, 2 * within + 1};
  if (!options.out.empty()) {
    const auto written = writeObjects(world, area, options.out);
    if (!written) return written.error();
    streams.out << fmt::format("{} objects written to {}\n", *written, options.out);
    return 0;
  }
  if (options.recipe.json) {
    const Recipe& recipe = planOf(world).recipe();
    const auto found = world.objects().in(area).value();
    Json list = Json::array();
    for (const PlacedObject& one : found) list.push_back(objectJson(recipe, one));
    streams.out << Json{{"near", {near.x, near.z}}, {"within", within}, {"objects", list}}.dump(2)
                << "\n";
    return 0;
  }
  const auto figures = objectFigures(world, area).value();
  uint64_t count = 0;
  for (const ObjectFigures& one : figures) count += one.count;
  streams.out << fmt::format("{} object{} within {} cells of {},{}\n", count, count == 1 ? "" : "s",
      within, near.x, near.z);
  streams.out << fmt::format("  {:<20} {:>8} {:>9} {:>9} {:>9}  {}\n", "kind", "count", "of 1,000",
      "asked", "fit", "refused");
  for (const ObjectFigures& one : figures)
    streams.out << (one.squares > 0
                        ? fmt::format("  {:<20} {:>8} {:>29}  {}\n", one.name, one.count,
                              fmt::format(
                                  "in {} of {} squares", one.squares - one.missing, one.squares),
                              one.reasons())
                        : fmt::format("  {:<20} {:>8} {:>9.3f} {:>9.3f} {:>9.1f}  {}\n", one.name,
                              one.count, one.placed, one.asked, one.most, one.reasons()));
  return 0;
}

Result<int> findStart(const FindOptions& options, const World& world, Streams& streams) {
  const auto start = worldStart(world);
  if (!start) return start.error();
  const bool blocks = planOf(world).layout().blocks();
  if (options.recipe.json) {
    Json out;
    out["start"] = startJson(planOf(world).recipe(), *start);
    if (*start && (*start)->walk > 0) out["walk"] = (*start)->walk;
    streams.out << out.dump(2) << "\n";
  } else if (!*start) {
    streams.out << fmt::format(
        "no start: no dry ground to walk on within {} cells of the origin\n", kStartWithin);
  } else {
    const WorldStart& at = **start;
    streams.out << fmt::format("start at {},{}{}{}\n", at.cell.x, at.cell.z,
        blocks ? fmt::format(", y {}", at.y) : "",
        at.walk > 0 ? fmt::format(": {} cells to walk about within {}", at.walk, kStartWalk) : "");
  }
  return *start ? 0 : 1;
}

Result<int> find(const FindOptions& options, Streams& streams) {
  const auto near = parsePair(options.near.value_or("0,0"), "--near");
  if (!near) return near.error();
  const int64_t within = options.within.value_or(2000);
  const auto loaded = load(options.recipe);
  if (!loaded) return loaded.error();
  const World& world = *loaded->world;
  if (options.start) return findStart(options, world, streams);
  if (!options.out.empty() && !options.objects)
    return invalidInput("only objects are written to a file", "--out", "with --objects");
  if (options.objects) {
    if (options.rivers || options.lakes || options.ways || options.passages ||
        !options.spaces.empty() || !options.levels.empty())
      return invalidInput(
          "another list with it", "--objects", "--near, --within and --json with it");
    return findObjectsNear(options, world, *near, options.within.value_or(256), streams);
  }
  if (options.rivers || options.lakes || options.ways) {
    const char* which = options.rivers ? "--rivers" : options.lakes ? "--lakes" : "--ways";
    if (options.rivers + options.lakes + options.ways > 1)
      return invalidInput(
          "two lists at once", options.ways ? "--ways" : "--lakes", "--rivers, --lakes or --ways");
    if (options.passages || !options.spaces.empty() || !options.levels.empty())
      return invalidInput(
          "nothing of caves is looked for with it", which, "--near, --within and --json with it");
    if (!planOf(world).water())
      return invalidInput("this world has no rivers", which,
          "worlds of the kinds overland and voxel with a stage Water that is on");
    if (options.ways && !planOf(world).water()->ways())
      return invalidInput("this world has no ways through obstacles", which,
          "a recipe with rivers/courses/count above 0, or with given ones");
    return options.rivers  ? findRiversNear(options, world, *near, within, streams)
           : options.lakes ? findLakesNear(options, world, *near, within, streams)
                           : findWaysNear(options, world, *near, within, streams);
  }
  // What would not be looked at is refused.
  const bool level = planOf(world).level() != nullptr;
  if (level && !options.levels.empty())
    return invalidInput("a floor is one level", "--levels", "worlds of the kind voxel or side");
  if (options.spaces.empty() && !options.levels.empty())
    return invalidInput("levels without a box", "--levels", "--spaces X,Z,WxH with it");
  if ((level || !options.spaces.empty()) && (options.near || options.within || options.passages))
    return invalidInput(level ? "a floor's places and spaces are listed whole"
                              : "the spaces of a box are listed whole",
        options.near     ? "--near"
        : options.within ? "--within"
                         : "--passages",
        "cave systems, of worlds of the kind voxel or side without --spaces");
  if (!options.spaces.empty()) return findSpaces(options, world, streams);
  if (planOf(world).level()) return findPlaces(options, world, streams);
  Cell from = *near;
  if (planOf(world).layout().vertical().plane) from.z = 0;
  const auto found = findSystems(world, from, within);
  if (!found) return found.error();
  Json list = Json::array();
  if (!options.recipe.json) {
    if (!planOf(world).caves()) {
      streams.out << "this world has no caves\n";
      return 0;
    }
    streams.out << fmt::format("{} cave system{} within {} cells of {},{}\n", found->size(),
        found->size() == 1 ? "" : "s", within, from.x, from.z);
    if (!found->empty())
      streams.out << fmt::format(
          "  {:<20} {:>9} {:>22} {:>6} {:>7} {:>8} {:>6} {:>5} {:>6} {:>8} "
          "{:>6} {:>7}\n",
          "system", "distance", "site", "depth", "length", "volume", "mouths", "ends", "pieces",
          "straight", "round", "overlap");
  }
  for (const FoundSystem& one : *found) {
    const SystemFigures f = figuresOf(world, one);
    if (options.recipe.json) {
      list.push_back(jsonOf(world, one, f));
      continue;
    }
    const TunnelSystem& s = *one.system;
    streams.out << fmt::format(
        "  {:<20} {:>6.0f} {:<2} {:>22} {:>6.1f} {:>7.0f} {:>8} {:>6} {:>5} {:>6} {:>8.2f} "
        "{:>6.2f} {:>5.1f} %\n",
        one.name(world), one.distance, bearingText(one.bearing),
        fmt::format("{},{},{}", s.x, s.y, s.z), f.depth, f.length, f.volume, f.mouths, f.deadEnds,
        f.pieces, f.straightness, f.roundness, f.overlap * 100);
    if (!options.passages) continue;
    for (const PassageFigures& p : f.passages)
      streams.out << fmt::format(
          "    {:<16} {:>5.0f} cells, straight {:.2f}, round {:.2f}, {:.1f} wide, {:.1f} % of it "
          "more than {:g} times as wide as bored\n",
          passageName(p.kind), p.length, p.straightness, p.roundness, p.meanWidth, p.overlap * 100,
          kTooWide);
  }
  if (options.recipe.json)
    streams.out << Json{{"near", {from.x, from.z}}, {"within", within}, {"systems", list}}.dump(2)
                << "\n";
  return 0;
}

}  // namespace

void addFind(CLI::App& app, Action& action) {
  const auto options = std::make_shared<FindOptions>();
  options->recipe.addTo(app);
  app.add_option(
      "--near", options->near, "X,Z (X,Y in side worlds): search around it; default 0,0");
  app.add_option("--within", options->within, "cells from there; default 2000");
  app.add_flag("--rivers", options->rivers, "rivers with springs there instead");
  app.add_flag("--start", options->start, "where one enters the world instead");
  app.add_flag("--lakes", options->lakes, "lakes there instead");
  app.add_flag("--ways", options->ways,
      "ways through obstacles of the regions there instead, and why some were given up");
  app.add_flag("--objects", options->objects,
      "objects there instead, all with --json, and what refuses the others; --within 256 by "
      "default");
  app.add_option(
      "--out", options->out, "with --objects: file to write them to: .csv, .geojson or .json");
  app.add_flag("--passages", options->passages, "a line for each passage too");
  app.add_option(
      "--spaces", options->spaces, "X,Z,WxH: list connected open spaces of this area instead");
  app.add_option("--levels", options->levels, "LOW,HIGH: levels y of --spaces; default all");
  app.callback([options, &action] {
    action = [options](Streams& streams) { return find(*options, streams); };
  });
}

}  // namespace acre::cli
