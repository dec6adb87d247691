#include <fmt/format.h>

#include "recipe/automaton_rule.h"
#include "recipe/cave_recipe.h"
#include "recipe/checks-inl.h"
#include "recipe/level_recipe.h"

namespace acre {
namespace {

using Ids = std::set<std::string>;

/// Checks one process; floors: the first and the last one, on which amounts must hold.
struct ProcessChecks {
  Checks& checks;
  const std::string& at;
  const Level& level;
  double cells;  // Of the floor.

  void amount(const char* key, const Amount& value, const Range& range) const {
    for (const int floor : {level.firstFloor, level.lastFloor})
      if (!range.holds(value.on(floor)))
        checks.add(refuse(fmt::format("{}/{}", at, key),
                          fmt::format("{} on floor {} is out of range", value.on(floor), floor),
                          range.text()));
  }
  /// What some steps come to together.
  void work(const char* key, const Amount& steps, double each, double most,
            std::string_view accepted) const {
    for (const int floor : {level.firstFloor, level.lastFloor})
      if (steps.on(floor) * each > most)
        checks.add(refuse(fmt::format("{}/{}", at, key),
                          fmt::format("{} steps on floor {} are too many", steps.on(floor), floor),
                          fmt::format(fmt::runtime(accepted), each, most)));
  }
  void number(const char* key, double value, const Range& range) const {
    checks.add(checkNumber(fmt::format("{}/{}", at, key), value, range));
  }

  void operator()(const NoiseWalls& p) const {
    checkNoise(checks, at + "/noise", p.band.noise);
    number("low", p.band.low, limits::noiseBand);
    number("high", p.band.high, limits::noiseBand);
    if (!(p.band.low < p.band.high))
      checks.add(refuse(at + "/high",
                        fmt::format("{} does not lie above {}", p.band.high, p.band.low),
                        "more than low"));
  }
  void operator()(const FilledAutomaton& p) const {
    if (p.refill) amount("fill", p.fill, limits::share);
    amount("steps", p.steps, limits::levelSteps);
    work("steps", p.steps, cells, limits::steppedCells,
         "on {} cells: at most {:.0f} cells in all steps together");
    if (const auto rule = readRule(p.rule, AutomatonRule::kPlane, at + "/rule"); !rule)
      checks.add(rule.error());
  }
  void operator()(const DiggingWalks& p) const {
    amount("walkers", p.walkers, limits::walkers);
    amount("steps", p.steps, limits::walkLength);
    for (const int floor : {level.firstFloor, level.lastFloor})
      work("steps", p.steps, p.walkers.on(floor), limits::walkedCells,
           "of {} walkers: at most {:.0f} of all together");
    number("turn", p.turn, limits::share);
    number("radius", p.radius, limits::walkRadius);
    number("untilOpen", p.untilOpen, limits::share);
  }
  void operator()(const LevelBody& p) const {
    amount("floods", p.floods, limits::bodyFloods);
    amount("size", p.size, limits::bodySize);
    for (const int floor : {level.firstFloor, level.lastFloor})
      if (const double all = double{p.floods.on(floor)} * p.size.on(floor);
          all > limits::floodedCells)
        checks.add(refuse(
            at + "/floods",
            fmt::format("{} floods of {} cells on floor {} are too much", p.floods.on(floor),
                        p.size.on(floor), floor),
            fmt::format("at most {:.0f} cells in all floods together", limits::floodedCells)));
    number("inward", p.inward, limits::share);
    number("smooth", p.smooth, limits::bodySmooth);
  }
  void operator()(const LevelRooms& p) const {
    amount("count", p.count, limits::roomCount);
    number("distance", p.distance, limits::roomDistance);
    checks.add(checkCount(at + "/pieces", p.pieces.size(), limits::roomPieces));
    Ids ids;
    double shares = 0;
    for (size_t i = 0; i < p.pieces.size() && checks.ok(); ++i) {
      const std::string piece = fmt::format("{}/pieces/{}", at, i);
      checkTaken(checks, piece, p.pieces[i].id, ids);
      if (p.pieces[i].text.empty() == p.pieces[i].file.empty())
        checks.add(refuse(piece, "a room with both text and file, or neither", "text or file"));
      checks.add(checkNumber(piece + "/share", p.pieces[i].share, limits::roomShare));
      shares += p.pieces[i].share;
    }
    if (checks.ok() && !p.pieces.empty() && shares <= 0)
      checks.add(
          refuse(at + "/pieces", "no room is ever drawn", "a share above 0 for one of them"));
  }
  void operator()(const LevelSpaces& p) const { number("least", p.least, limits::leastSpace); }
};

void checkPlace(Checks& checks, const std::string& at, const Level& level, size_t index,
                const Ids& materials, const Ids& before) {
  const LevelPlace& place = level.places[index];
  checks.add(checkText(at + "/name", place.name, limits::nameBytes));
  checkMaterial(checks, at, place.material, materials);
  if (place.mark.size() > 1 || (place.mark.size() == 1 && !isMark(place.mark[0])))
    checks.add(refuse(at + "/mark", fmt::format("\"{:.20}\" is no mark", place.mark),
                      "one letter or digit, or none"));
  checks.add(checkNumber(at + "/clear", place.clear, limits::placeClear));
  if (!place.from.empty() && !before.contains(place.from))
    checks.add(refuse(at + "/from",
                      fmt::format("no place \"{:.80}\" stands before this one", place.from),
                      "the id of an earlier place, or none"));
  checks.add(checkNumber(at + "/least", place.least, limits::placeSteps));
  checks.add(checkNumber(at + "/most", place.most, limits::placeSteps));
  if (place.most > 0 && place.most < place.least)
    checks.add(refuse(at + "/most",
                      fmt::format("{} steps at most, but {} at least", place.most, place.least),
                      "0, or no fewer than least"));
}

/// Ends of bands in a level are altitudes: a share would be one of heights, without the depths.
void checkNoShares(Checks& checks, const Recipe& recipe) {
  const auto check = [&](const std::string& at, const std::optional<Threshold>& end) {
    if (end && end->share)
      checks.add(refuse(at, "a share is one of heights, and the bands of a level see depths too",
                        "an altitude, or one from the sea level"));
  };
  const auto inBands = [&](const std::string& at, const std::vector<Band>& bands) {
    for (size_t i = 0; i < bands.size(); ++i)
      check(fmt::format("{}/{}/below", at, i), bands[i].below);
  };
  inBands("/strata/bands", recipe.bands);
  for (size_t i = 0; i < recipe.biomes.list.size(); ++i)
    if (const auto& bands = recipe.biomes.list[i].bands)
      inBands(fmt::format("/biomes/list/{}/bands", i), *bands);
  for (size_t i = 0; i < recipe.slopes.size(); ++i) {
    check(fmt::format("/strata/slopes/{}/above", i), recipe.slopes[i].above);
    check(fmt::format("/strata/slopes/{}/below", i), recipe.slopes[i].below);
  }
}

}  // namespace

void checkLevel(Checks& checks, const Recipe& recipe, const Ids& materials) {
  const std::string at = "/level";
  const Level& level = *recipe.level;
  const Frame& frame = recipe.frame;
  const bool isLevel = frame.kind == WorldKind::Level;
  checks.add(checkNumber(at + "/margin", level.margin, limits::levelMargin));
  checks.add(checkNumber(at + "/walls", level.walls, limits::levelWalls));
  checks.add(checkNumber(at + "/floors/0", level.firstFloor, limits::floorNumber));
  checks.add(checkNumber(at + "/floors/1", level.lastFloor, limits::floorNumber));
  if (level.lastFloor < level.firstFloor)
    checks.add(refuse(at + "/floors/1",
                      fmt::format("floor {} comes before {}", level.lastFloor, level.firstFloor),
                      "no less than the first floor"));
  if (level.floor < level.firstFloor || level.floor > level.lastFloor)
    checks.add(refuse(at + "/floor", fmt::format("there is no floor {}", level.floor),
                      fmt::format("{} to {}", level.firstFloor, level.lastFloor)));
  if (isLevel) {
    for (const auto& [axis, key] : {std::pair(&frame.x, "x"), {&frame.z, "z"}}) {
      const std::string where = fmt::format("/frame/bounds/{}", key);
      if (!*axis)
        checks.add(refuse(where, "a level without bounds",
                          fmt::format("an extent of {} cells", limits::levelSide.text())));
      else
        checks.add(checkNumber(where + "/extent", static_cast<double>((*axis)->extent),
                               limits::levelSide));
    }
    if (!checks.ok()) return;
    const int64_t side = std::min(frame.x->extent, frame.z->extent);
    if (2 * int64_t{level.margin} >= side)
      checks.add(refuse(at + "/margin",
                        fmt::format("a margin of {} leaves nothing of {} x {} cells", level.margin,
                                    frame.x->extent, frame.z->extent),
                        "less than half of either side"));
    if (level.on && !materials.contains(level.open))
      checks.add(refuse(at + "/open",
                        level.open.empty()
                            ? std::string("open cells have no material")
                            : fmt::format("there is no material \"{:.80}\"", level.open),
                        "the id of a listed material"));
    checkNoShares(checks, recipe);
    if (recipe.caves->on && !recipe.caves->empty())
      checks.add(refuse("/caves", "a level has no caves: its processes make its open space",
                        "\"on\": false, or another kind of world"));
  }
  const double cells =
      isLevel ? static_cast<double>(frame.x->extent) * static_cast<double>(frame.z->extent) : 1;
  checks.add(checkCount(at + "/processes", level.processes.size(), limits::levelProcesses));
  Ids ids;
  for (size_t i = 0; i < level.processes.size() && checks.ok(); ++i) {
    const std::string one = fmt::format("{}/processes/{}", at, i);
    checkTaken(checks, one, level.processes[i].id, ids);
    checks.add(checkText(one + "/name", level.processes[i].name, limits::nameBytes));
    std::visit(ProcessChecks{checks, one, level, cells}, level.processes[i].what);
  }
  checks.add(checkCount(at + "/places", level.places.size(), limits::levelPlaces));
  Ids before;
  for (size_t i = 0; i < level.places.size() && checks.ok(); ++i) {
    const std::string one = fmt::format("{}/places/{}", at, i);
    checkPlace(checks, one, level, i, materials, before);
    checkTaken(checks, one, level.places[i].id, before);
  }
}

}  // namespace acre
