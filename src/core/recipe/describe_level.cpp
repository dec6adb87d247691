#include <fmt/format.h>

#include <set>

#include "recipe/automaton_rule.h"
#include "recipe/cave_recipe.h"
#include "recipe/describe.h"
#include "recipe/level_recipe.h"

namespace acre {
namespace {

/// What the floors of a level are checked with: amounts must hold on the first and on the last.
struct OnFloors {
  Ruling& rules;

  /// Refuses a member where what some amounts come to is too much on either.
  template <class Total, class What, class Accepted>
  void limit(const char* key, double most, Total&& total, What&& what, Accepted&& accepted) const {
    const Level& level = *rules.recipe().level;
    for (const int floor : {level.firstFloor, level.lastFloor})
      if (total(floor) > most) rules.refuse(key, what(floor), accepted(floor));
  }
};

std::string stepsText(const Amount& steps, int floor) {
  return fmt::format("{} steps on floor {} are too many", steps.on(floor), floor);
}

/// Cells of the floor.
double cellsOf(const Recipe& recipe) {
  const Frame& frame = recipe.frame;
  if (frame.kind != WorldKind::Level || !frame.x || !frame.z) return 1;
  return static_cast<double>(frame.x->extent) * static_cast<double>(frame.z->extent);
}

}  // namespace

void describe(Visitor& v, NoiseWalls& p) {
  MembersOf(v, p)(&NoiseWalls::refill, "refill", "Refill",
      "Everything else becomes open, else it stays.", sparse());
  describeBand(v, p.band);
}

void describe(Visitor& v, FilledAutomaton& p) {
  const MembersOf m(v, p);
  m(&FilledAutomaton::fill, "fill", "Fill",
      "Chance of each cell to be solid at first, with refill.",
      share(0, p.refill ? limits::share : kAnyNumber).says("0 to 1").when(p.refill));
  m(&FilledAutomaton::refill, "refill", "Refill", "Else the automaton goes on from what is there.",
      sparse());
  m(&FilledAutomaton::rule, "rule", "Rule", "In B/S notation, of 8 neighbours; B0 is allowed.",
      About{}.matching(kPlaneRulePattern));
  m(&FilledAutomaton::steps, "steps", "Steps", "Of the rule; at most 4·10⁹ cells in all of them.",
      number(limits::levelSteps));
  m(&FilledAutomaton::edge, "edge", "Edge", "What lies beyond the margin.");
  v.rule([&](Ruling& rules) {
    const double cells = cellsOf(rules.recipe());
    OnFloors{rules}.limit(
        "steps", limits::steppedCells, [&](int floor) { return p.steps.on(floor) * cells; },
        [&](int floor) { return stepsText(p.steps, floor); },
        [&](int) {
          return fmt::format("on {} cells: at most {:.0f} cells in all steps together", cells,
              limits::steppedCells);
        });
    if (const auto rule = readRule(p.rule, AutomatonRule::kPlane, rules.at() + "/rule"); !rule)
      rules.refuse(rule.error());
  });
}

void describe(Visitor& v, DiggingWalks& p) {
  const MembersOf m(v, p);
  m(&DiggingWalks::walkers, "walkers", "Walkers", "That dig; from open cells, or the middle.",
      number(limits::walkers));
  m(&DiggingWalks::steps, "steps", "Steps", "Of each; of all together at most 2·10⁷.",
      number(limits::walkLength));
  m(&DiggingWalks::turn, "turn", "Turn", "Chance of a turn at each step.", share(0.005));
  m(&DiggingWalks::radius, "radius", "Radius", "Of the disc dug about a walker.",
      cells(limits::walkRadius, 1));
  m(&DiggingWalks::untilOpen, "untilOpen", "Until open", "Ends when so much of the floor is open.",
      sparse(share(0.005)));
  v.rule([&](Ruling& rules) {
    OnFloors{rules}.limit(
        "steps", limits::walkedCells,
        [&](int floor) { return p.steps.on(floor) * p.walkers.on(floor); },
        [&](int floor) { return stepsText(p.steps, floor); },
        [&](int floor) {
          return fmt::format("of {} walkers: at most {:.0f} of all together", p.walkers.on(floor),
              limits::walkedCells);
        });
  });
}

void describe(Visitor& v, LevelBody& p) {
  const MembersOf m(v, p);
  m.either(&LevelBody::round, {"rectangle", "disc"}, "shape", "Shape",
      "Within the margin; what lies outside is filled.");
  m(&LevelBody::floods, "floods", "Floods", "That push its edge; at most 10⁸ cells in all of them.",
      number(limits::bodyFloods));
  m(&LevelBody::size, "size", "Size", "Of a flood, about.", cells(limits::bodySize));
  m(&LevelBody::inward, "inward", "Inward", "Share of them.", share(0.005));
  m(&LevelBody::smooth, "smooth", "Smooth",
      "Passes in which each cell at the edge joins most of its eight neighbours.",
      number(limits::bodySmooth, 1));
  v.rule([&](Ruling& rules) {
    OnFloors{rules}.limit(
        "floods", limits::floodedCells,
        [&](int floor) { return p.floods.on(floor) * p.size.on(floor); },
        [&](int floor) {
          return fmt::format("{} floods of {} cells on floor {} are too much", p.floods.on(floor),
              p.size.on(floor), floor);
        },
        [](int) {
          return fmt::format("at most {:.0f} cells in all floods together", limits::floodedCells);
        });
  });
}

void describe(Visitor& v, LevelRooms::Piece& piece) {
  const MembersOf m(v, piece, "piece");
  m.id();
  m(&LevelRooms::Piece::text, "text", "Text",
      "Rows of `#` solid, `.` open, space as it is, letters and digits open with that mark.",
      About{}.when(piece.file.empty()));
  m(&LevelRooms::Piece::file, "file", "File",
      "Of such text, beside the recipe, or a PNG of black, white and clear pixels; up to 256 × "
      "256.",
      sparse().of(Role::File));
  m(&LevelRooms::Piece::share, "share", "Share", "How often it is drawn, in relation.",
      sparse(number(limits::roomShare)));
  v.also(R"({"oneOf": [{"required": ["text"]}, {"required": ["file"]}]})");
  v.rule([&](Ruling& rules) {
    if (piece.text.empty() == piece.file.empty())
      rules.refuse("", "a room with both text and file, or neither", "text or file");
  });
}

void describe(Visitor& v, LevelRooms& p) {
  const MembersOf m(v, p);
  m(&LevelRooms::pieces, "pieces", "Pieces", "Of prepared rooms.", must().upTo(limits::roomPieces));
  m(&LevelRooms::count, "count", "Count", "Of rooms put, at most.", number(limits::roomCount));
  m(&LevelRooms::distance, "distance", "Distance", "Between rooms.",
      cells(limits::roomDistance, 1));
  m(&LevelRooms::turn, "turn", "Turned", "By quarter turns.");
  v.rule([&](Ruling& rules) {
    double shares = 0;
    for (const LevelRooms::Piece& piece : p.pieces) shares += piece.share;
    if (!p.pieces.empty() && shares <= 0)
      rules.refuse("pieces", "no room is ever drawn", "a share above 0 for one of them");
  });
}

void describe(Visitor& v, LevelSpaces& p) {
  const MembersOf m(v, p);
  m(&LevelSpaces::least, "least", "Least", "Smaller open spaces are filled.",
      cells(limits::leastSpace, 1));
  m(&LevelSpaces::join, "join", "Joined",
      "The rest are connected by the shortest digging, else left.");
}

void describe(Visitor& v, LevelCourses& p) {
  const MembersOf m(v, p);
  m(&LevelCourses::count, "count", "Courses",
      "Every second from west to east, the others from north to south.",
      number(limits::courseCount));
  m(&LevelCourses::dig, "dig", "Dug", "Through what is solid; else they keep to open cells.");
  m(&LevelCourses::feature, "feature", "Obstacles' width", "Width of their features.",
      cells(limits::courseFeature, 1).ofFeatures());
  m(&LevelCourses::share, "share", "Obstacles",
      "Share of the cells within the margin that no course takes.", share(0.005));
  m(&LevelCourses::winding, "winding", "Winding",
      "Times as long as straight that one may be; a longer one is given up.",
      number(limits::courseWinding, 0.1));
  m(&LevelCourses::join, "join", "Join",
      "One ends where it meets an earlier one; else they cross.");
  m(&LevelCourses::material, "material", "Material",
      "Of their cells where these stay open; none: as open cells.", sparse().of(Role::Listed));
}

namespace {

/// Ends of bands in a level are altitudes: a share would be one of heights, without the depths.
void refuseShares(Ruling& rules) {
  const Recipe& recipe = rules.recipe();
  const auto check = [&](const std::string& at, const std::optional<Threshold>& end) {
    if (end && end->share)
      rules.refuse(Error{Error::Code::InvalidInput,
          "a share is one of heights, and the bands of a level see depths too", at,
          "an altitude, or one from the sea level"});
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

void levelRules(Ruling& rules) {
  const Recipe& recipe = rules.recipe();
  const Level& level = *recipe.level;
  const Frame& frame = recipe.frame;
  const auto refuse = [&](const std::string& at, const char* what, std::string accepted) {
    rules.refuse(Error{Error::Code::InvalidInput, what, at, std::move(accepted)});
  };
  for (const auto& [axis, key] : {std::pair(&frame.x, "x"), {&frame.z, "z"}}) {
    const std::string where = fmt::format("/frame/bounds/{}", key);
    if (!*axis)
      refuse(where, "a level without bounds",
          fmt::format("an extent of {} cells", limits::levelSide.text()));
    else if (!limits::levelSide.holds(static_cast<double>((*axis)->extent)))
      refuse(where + "/extent", fmt::format("{} is out of range", (*axis)->extent).c_str(),
          limits::levelSide.text());
  }
  if (!rules.ok()) return;
  if (2 * int64_t{level.margin} >= std::min(frame.x->extent, frame.z->extent))
    rules.refuse("level/margin",
        fmt::format("a margin of {} leaves nothing of {} x {} cells", level.margin, frame.x->extent,
            frame.z->extent),
        "less than half of either side");
  if (level.on && !rules.listed(level.open))
    rules.refuse("level/open",
        level.open.empty() ? std::string("open cells have no material")
                           : fmt::format("there is no material \"{:.80}\"", level.open),
        "the id of a listed material");
  refuseShares(rules);
  if (recipe.caves->on && !recipe.caves->empty())
    refuse("/caves", "a level has no caves: its processes make its open space",
        "\"on\": false, or another kind of world");
}

void describe(Visitor& v, LevelProcess& process) {
  static const Words kKinds = {"walls", "automaton", "walks", "body", "rooms", "spaces", "courses"};
  const MembersOf m(v, process, "process");
  m.idAndName();
  m.on(&LevelProcess::on, true);
  v.kinds(said("kind", "Kind", "Of the process.", must()), kKinds, process.what.index(),
      [&](size_t kind) {
        hold(process.what, kind);
        std::visit([&](auto& what) { describe(v, what); }, process.what);
      });
}

void describe(Visitor& v, LevelPlace& place) {
  const MembersOf m(v, place, "place");
  m.idAndName();
  m(&LevelPlace::material, "material", "Material", "Of its cell; null: as open cells.",
      must().of(Role::Material));
  m(&LevelPlace::mark, "mark", "Mark", "It lies on such a mark of a room; none: anywhere.",
      sparse().matching("^[0-9A-Za-z]?$"));
  m(&LevelPlace::clear, "clear", "Clear", "Open cells about it, in a square of this radius.",
      sparse(cells(limits::placeClear, 1)));
  m(&LevelPlace::from, "from", "From", "An earlier place; none: the distance counts not.",
      sparse());
  const bool counts = !place.from.empty();
  m(&LevelPlace::least, "least", "Least", "Fewest steps on foot from there.",
      number(limits::placeSteps, 1).when(counts));
  m(&LevelPlace::most, "most", "Most", "Most steps on foot from there; 0: any.",
      sparse(number(limits::placeSteps, 1)).when(counts));
  m(&LevelPlace::reachable, "reachable", "Reachable", "On foot from the first place.", sparse());
  v.rule([&](Ruling& rules) {
    if (place.mark.size() > 1 || (place.mark.size() == 1 && !isMark(place.mark[0])))
      rules.refuse(
          "mark", fmt::format("\"{:.20}\" is no mark", place.mark), "one letter or digit, or none");
    if (place.most > 0 && place.most < place.least)
      rules.refuse("most",
          fmt::format("{} steps at most, but {} at least", place.most, place.least),
          "0, or no fewer than least");
  });
}

void describe(Visitor& v, Level& level) {
  const MembersOf m(v, level, "level");
  m.on(&Level::on, true);
  m(&Level::floor, "floor", "Floor", "Which one the world is; `--floor N` chooses another.",
      number(limits::floorNumber, 1));
  std::optional<double> first = level.firstFloor, last = level.lastFloor;
  const About floors = said("floors", "Floors", "The first and the last one.",
      number(limits::floorNumber, 1).wholeOnly());
  for (const int* end : {&level.firstFloor, &level.lastFloor}) v.meets(floors, end);
  v.pair(floors, first, last);
  if (v.fills()) {
    level.firstFloor = static_cast<int>(first.value_or(1));
    level.lastFloor = static_cast<int>(last.value_or(1));
  }
  m(&Level::margin, "margin", "Margin",
      "Cells at every edge that stay solid; less than half a side.", cells(limits::levelMargin, 1));
  m(&Level::walls, "walls", "Walls", "Height of what is solid; open cells lie at 0.",
      cells(limits::levelWalls, 1));
  m(&Level::open, "open", "Open", "Material of open cells.", sparse());
  v.rule([&](Ruling& rules) {
    if (level.lastFloor < level.firstFloor)
      rules.refuse("floors/1",
          fmt::format("floor {} comes before {}", level.lastFloor, level.firstFloor),
          "no less than the first floor");
    if (level.floor < level.firstFloor || level.floor > level.lastFloor)
      rules.refuse("floor", fmt::format("there is no floor {}", level.floor),
          fmt::format("{} to {}", level.firstFloor, level.lastFloor));
  });
  m(&Level::processes, "processes", "Processes", "That open and fill the floor, in order.",
      must().upTo(limits::levelProcesses));
  m(&Level::places, "places", "Places", "That every floor must have once.",
      About{}.upTo(limits::levelPlaces));
  v.rule([&](Ruling& rules) {
    std::set<std::string> before;
    for (size_t i = 0; i < level.places.size(); ++i) {
      const LevelPlace& place = level.places[i];
      if (!place.from.empty() && !before.contains(place.from))
        rules.refuse(fmt::format("places/{}/from", i),
            fmt::format("no place \"{:.80}\" stands before this one", place.from),
            "the id of an earlier place, or none");
      before.insert(place.id);
    }
  });
}

}  // namespace acre
