// Processes that floors of levels are made by, and their replay.
#include <QtTest>
#include <cfenv>
#include <cmath>
#include <map>
#include <optional>
#include <set>

#include "cave/level.h"
#include "cave/level_stage.h"
#include "cave/level_steps.h"
#include "cave/open_spaces.h"
#include "cave/replay.h"
#include "recipe/cave_recipe.h"
#include "recipe/json_parts.h"
#include "recipe/validate.h"
#include "suite.h"

using namespace acre;

namespace {

bool marginHolds(const BitGrid& plane, int32_t margin) {
  for (int32_t z = 0; z < plane.length(); ++z)
    for (int32_t x = 0; x < plane.width(); ++x) {
      const bool rim =
          x < margin || z < margin || x >= plane.width() - margin || z >= plane.length() - margin;
      if (rim && !plane.at(x, z)) return false;
    }
  return true;
}

constexpr int32_t kWidth = 96, kDepth = 80;

/// The works of a kiln: a body, an automaton, rooms, joined; three places.
Level works() {
  Level level;
  level.margin = 4;
  level.lastFloor = 20;
  FilledAutomaton caves;
  caves.fill = {0.46, -0.002};
  LevelBody body;
  body.floods = {16, 0};
  LevelRooms rooms;
  rooms.pieces = {
      {"store", "#####\n#...#\n#.s..\n#...#\n#####\n", ""}, {"shaft", "###\n#l.\n###\n", ""}};
  rooms.count = {5, 0.2};
  level.processes = {{"rock", "Rock", true, caves}, {"outline", "Outline", true, body},
      {"rooms", "Rooms", true, rooms}, {"joined", "Joined", true, LevelSpaces{20, true}}};
  level.places = {{"lift", "Lift", "", "", 1, "", 0, 0, true},
      {"store", "Lamp store", "", "", 0, "lift", 25, 0, true},
      {"heap", "Spoil heap", "", "", 1, "store", 15, 60, true}};
  return level;
}

RoomTexts textsOf(const Level& level) {
  RoomTexts out(level.processes.size());
  for (size_t k = 0; k < out.size(); ++k)
    if (const auto* rooms = std::get_if<LevelRooms>(&level.processes[k].what))
      for (const auto& piece : rooms->pieces) out[k].push_back(piece.text);
  return out;
}

Result<std::shared_ptr<const LevelFloor>> floorOf(
    const Level& level, uint64_t seed, int floor, const LevelMaker::Watch& watch = {}) {
  const auto maker =
      LevelMaker::compile(level, kWidth, kDepth, textsOf(level), seed, plainKernels());
  if (!maker) return maker.error();
  return (*maker)->make(floor, watch);
}

}  // namespace

class LevelTest : public QObject {
  Q_OBJECT

 private slots:
  /// Whatever state a host left the processor in, floors are the same.
  void roundingOfAHostChangesNoFloor() {
    Level level = works();
    FilledAutomaton caves;
    caves.steps = {0.35, 0.05};  // A half on floor 4, if nothing is rounded down.
    level.processes[0].what = caves;
    const auto maker =
        LevelMaker::compile(level, kWidth, kDepth, textsOf(level), 9, plainKernels()).value();
    const auto usual = maker->make(4).value();
    for (const int rounding : {FE_DOWNWARD, FE_UPWARD, FE_TOWARDZERO}) {
      std::fesetround(rounding);
      const auto other = maker->make(4);
      std::fesetround(FE_TONEAREST);
      QVERIFY(other.ok() && (*other)->plane == usual->plane);
    }
  }

  void chanceFillsItsShare() {
    for (const double fill : {0.0, 0.3, 0.45, 1.0}) {
      BitGrid plane(300, 200);
      fillByChance(plane, fill, 5, 77);
      QVERIFY(marginHolds(plane, 5));
      int64_t inner = 0;
      for (int32_t z = 5; z < 195; ++z)
        for (int32_t x = 5; x < 295; ++x) inner += plane.at(x, z);
      QVERIFY(std::abs(static_cast<double>(inner) / (290.0 * 190) - fill) < 0.01);
      BitGrid again(300, 200);
      fillByChance(again, fill, 5, 77);
      QVERIFY(again == plane);
    }
  }

  void walkersDigWhatTheyReach() {
    for (uint64_t key = 0; key < 20; ++key) {
      BitGrid plane = solidPlane(120, 90);
      RandomWalks walks;
      walks.walkers = 3;
      walks.steps = 300;
      walks.radius = static_cast<int>(key % 3);
      int calls = 0;
      QVERIFY(walkRandomly(plane, walks, 4, key, 10, [&](const BitGrid&) { ++calls; }));
      QCOMPARE(calls, 30);
      QVERIFY(marginHolds(plane, 4));
      // From one start everything is one space.
      QCOMPARE(OpenSpaces::of(plane).spaces.size(), size_t{1});
      if (walks.radius == 0) QVERIFY(120 * 90 - plane.count() <= 901);
      BitGrid again = solidPlane(120, 90);
      QVERIFY(walkRandomly(again, walks, 4, key, 1000, {}));
      QVERIFY(again == plane);
    }
    BitGrid plane = solidPlane(100, 100);
    RandomWalks walks;
    walks.steps = 1'000'000;
    walks.untilOpen = 0.25;
    QVERIFY(walkRandomly(plane, walks, 1, 5, 1'000'000, {}));
    const double open = 1 - static_cast<double>(plane.count()) / 10'000;
    QVERIFY(open >= 0.25 && open < 0.26);
    std::stop_source stopped;
    stopped.request_stop();
    QVERIFY(!walkRandomly(plane, walks, 1, 5, 10, {}, stopped.get_token()));
  }

  void bodiesKeepTheirMargin() {
    for (uint64_t key = 0; key < 60; ++key) {
      BodyOutline outline;
      outline.round = key % 2 == 0;
      outline.inward = static_cast<double>(key % 3) / 2;
      outline.size = 20 + static_cast<int>(key) * 7;
      const auto margin = static_cast<int32_t>(1 + key % 9);
      int calls = 0;
      Visited visited;
      const BitGrid body = *bodyOf(
          140, 100, outline, margin, key, [&](const BitGrid&) { ++calls; }, visited);
      QVERIFY(marginHolds(body, margin));
      QCOMPARE(calls, 1 + outline.floods + outline.smooth);
      QVERIFY(visited.cells > 0 && visited.cells * 4 < visited.all);
      // The order in which edge cells are smoothed must not matter.
      Visited other;
      QVERIFY(*bodyOf(140, 100, outline, margin, key, {}, other, true) == body);
      QCOMPARE(other.cells, visited.cells);
      BodyOutline plain = outline;
      plain.floods = plain.smooth = 0;
      Visited none;
      QVERIFY(!(*bodyOf(140, 100, plain, margin, key, {}, none) == body));
    }
  }

  void smoothingFollowsTheMajority() {
    BodyOutline outline;
    outline.smooth = 0;
    Visited visited;
    const BitGrid rough = *bodyOf(90, 90, outline, 3, 8, {}, visited);
    outline.smooth = 1;
    const BitGrid smooth = *bodyOf(90, 90, outline, 3, 8, {}, visited);
    int changed = 0;
    for (int32_t z = 3; z < 87; ++z)
      for (int32_t x = 3; x < 87; ++x) {
        int count = 0;
        bool edge = false;
        for (int32_t dz = -1; dz <= 1; ++dz)
          for (int32_t dx = -1; dx <= 1; ++dx) {
            count += (dx || dz) && rough.at(x + dx, z + dz);
            edge = edge ||
                   (std::abs(dx) + std::abs(dz) == 1 && rough.at(x + dx, z + dz) != rough.at(x, z));
          }
        const bool expected = edge && count != 4 ? count > 4 : rough.at(x, z);
        QCOMPARE(smooth.at(x, z), expected);
        changed += expected != rough.at(x, z);
      }
    QVERIFY(changed > 10);
  }

  void roomsAreReadAndTurned() {
    const RoomPiece room = readRoom("###\n#.A\n###\n# .\n", "room").value();
    QCOMPARE(room.width, 3);
    QCOMPARE(room.length, 4);
    QCOMPARE(room.at(2, 1), 'A');
    const RoomPiece turned = room.turned(1);
    QCOMPARE(turned.width, 4);
    QCOMPARE(turned.at(2, 2), 'A');  // Right of the second row: below, in the third column.
    QVERIFY(room.turned(3).turned(1).cells == room.cells);
    QVERIFY(room.turned(2).turned(2).cells == room.cells);
    for (const auto& [text, says] : {std::pair("", "at least one cell"),
             {"##\n#\n", "2, as the rows before"}, {"#@\n", "letters and digits"}}) {
      const auto bad = readRoom(text, "piece");
      QVERIFY(!bad.ok());
      QVERIFY2(bad.error().accepted.find(says) != std::string::npos, bad.error().text().c_str());
      QCOMPARE(bad.error().where, std::string("piece"));
    }
    QVERIFY(!readRoom(std::string(300, '#'), "piece").ok());
  }

  void roomsKeepTheirDistance() {
    const std::vector<RoomPiece> pieces = {
        readRoom("####\n#..#\n####\n", "a").value(), readRoom("...\n...\n", "b").value()};
    for (uint64_t key = 0; key < 30; ++key) {
      BitGrid plane = solidPlane(100, 80);
      const auto rooms = placeRooms(plane, pieces, {}, 12, 4, true, 40, 3, key, {});
      QVERIFY(rooms.size() > 6);
      for (size_t a = 0; a < rooms.size(); ++a) {
        const RoomPiece pa = pieces[rooms[a].piece].turned(rooms[a].quarters);
        QVERIFY(rooms[a].x >= 3 && rooms[a].x + pa.width <= 97);
        QVERIFY(rooms[a].z >= 3 && rooms[a].z + pa.length <= 77);
        for (int32_t z = 0; z < pa.length; ++z)
          for (int32_t x = 0; x < pa.width; ++x)
            QCOMPARE(plane.at(rooms[a].x + x, rooms[a].z + z), pa.at(x, z) == '#');
        for (size_t b = 0; b < a; ++b) {
          const RoomPiece pb = pieces[rooms[b].piece].turned(rooms[b].quarters);
          const int32_t apartX =
              std::max(rooms[a].x - (rooms[b].x + pb.width), rooms[b].x - (rooms[a].x + pa.width));
          const int32_t apartZ = std::max(
              rooms[a].z - (rooms[b].z + pb.length), rooms[b].z - (rooms[a].z + pa.length));
          QVERIFY(std::max(apartX, apartZ) >= 4);
        }
      }
    }
    // Each as often as its share says; none of share 0.
    int drawn[3] = {};
    std::vector<RoomPiece> three = pieces;
    three.push_back(readRoom(".\n", "c").value());
    for (uint64_t key = 0; key < 200; ++key) {
      BitGrid plane = solidPlane(200, 200);
      for (const PlacedRoom& room :
          placeRooms(plane, three, {3, 1, 0}, 10, 0, false, 40, 3, key, {}))
        ++drawn[room.piece];
    }
    QCOMPARE(drawn[2], 0);
    const double first = static_cast<double>(drawn[0]) / (drawn[0] + drawn[1]);
    QVERIFY2(std::abs(first - 0.75) < 0.04, qPrintable(QString::number(first)));
    // Larger than the floor: none is put, nothing changes.
    BitGrid small(3, 3);
    QVERIFY(placeRooms(small, pieces, {}, 3, 0, false, 9, 1, 1, {}).empty());
    QCOMPARE(small.count(), uint64_t{0});
  }

  /// On every floor of every seed the places are there once, on foot from the first, as far apart
  /// as asked.
  void placesAreThereAndReached() {
    const Level level = works();
    std::set<std::pair<int32_t, int32_t>> lifts;
    for (uint64_t seed = 0; seed < 500; ++seed) {
      const int floor = 1 + static_cast<int>(seed % 20);
      const auto made = floorOf(level, seed, floor);
      if (!made) QFAIL(made.error().text().c_str());
      const LevelFloor& f = **made;
      QVERIFY(marginHolds(f.plane, level.margin));
      QCOMPARE(OpenSpaces::of(f.plane).spaces.size(), size_t{1});
      QCOMPARE(f.places.size(), size_t{3});
      std::set<std::pair<int32_t, int32_t>> cells;
      const auto steps = stepsFrom(f.plane, f.places[0].x, f.places[0].z);
      for (const FoundPlace& p : f.places) {
        QVERIFY(!f.plane.at(p.x, p.z));
        QVERIFY(steps[static_cast<size_t>(p.z * kWidth + p.x)] >= 0);
        cells.insert({p.x, p.z});
      }
      QCOMPARE(cells.size(), size_t{3});
      QCOMPARE(
          f.places[1].steps, steps[static_cast<size_t>(f.places[1].z * kWidth + f.places[1].x)]);
      QVERIFY(f.places[1].steps >= 25);
      QVERIFY(f.places[2].steps >= 15 && f.places[2].steps <= 60);
      lifts.insert({f.places[0].x, f.places[0].z});
      if (seed % 50 == 0) QVERIFY((*floorOf(level, seed, floor))->plane == f.plane);
    }
    QVERIFY(lifts.size() > 300);
  }

  void anotherProcessMovesNoDraw() {
    Level level = works();
    level.processes.resize(1);
    level.places.clear();
    const auto alone = floorOf(level, 4, 2).value();
    LevelProcess off{"walks", "Walks", false, DiggingWalks{}};
    level.processes.insert(level.processes.begin(), off);
    QVERIFY(floorOf(level, 4, 2).value()->plane == alone->plane);
    QVERIFY(!(floorOf(level, 4, 3).value()->plane == alone->plane));
  }

  void everyProcessIsWatched() {
    Level level = works();
    NoiseWalls walls;
    walls.band.noise.width = 18;
    walls.band.low = 0.1;
    walls.band.high = 2;
    level.processes.insert(level.processes.begin(), {"walls", "Walls", true, walls});
    level.processes.insert(level.processes.begin() + 3, {"walks", "Walks", true, DiggingWalks{}});
    std::map<size_t, int> calls;
    std::optional<Replay> replay;
    const auto floor = floorOf(level, 12, 1, [&](size_t process, const BitGrid& plane) {
      ++calls[process];
      replay ? replay->record(plane) : void(replay.emplace(plane));
    });
    QVERIFY(floor.ok());
    for (size_t k = 0; k < level.processes.size(); ++k) QVERIFY(calls[k] > 0);
    QCOMPARE(calls[1], 6);
    QVERIFY(replay->at(replay->steps()) == (*floor)->plane);
  }

  /// A level that cannot be is refused in words, and nothing of it is there.
  void impossibleLevelsAreToldSo() {
    Level level = works();
    level.places[1].least = 5000;
    const auto far = floorOf(level, 1, 7);
    QVERIFY(!far.ok());
    QVERIFY2(far.error().what.find("floor 7") != std::string::npos, far.error().what.c_str());
    QVERIFY(far.error().what.find("\"store\"") != std::string::npos);
    QVERIFY(far.error().what.find("5000 or more steps from lift") != std::string::npos);
    QCOMPARE(far.error().where, std::string("/level/places/1"));
    level = works();
    level.places[0].mark = "x";
    QVERIFY(floorOf(level, 1, 1).error().what.find("no room has the mark x") != std::string::npos);
    level.places[0].mark = "l";
    level.places[0].clear = 0;
    const auto marked = floorOf(level, 3, 1);
    if (marked.ok()) {  // A shaft was drawn: the lift stands on its mark.
      const FoundPlace lift = (*marked)->places[0];
      QVERIFY(!(*marked)->plane.at(lift.x, lift.z));
    }
    level = works();
    std::get<LevelRooms>(level.processes[2].what).pieces[0].text = std::string(95, '.');
    const auto large = floorOf(level, 1, 1);
    QVERIFY(!large.ok());
    QVERIFY(large.error().accepted.find("within its margin, 88 x 72") != std::string::npos);
    QCOMPARE(large.error().where, std::string("/level/processes/2/pieces/0"));
    level = works();
    level.processes.clear();
    QVERIFY(floorOf(level, 1, 1).error().what.find("nothing is open") != std::string::npos);
  }

  void levelsComeBackAsTheyWere() {
    Level level = works();
    NoiseWalls walls;
    DiggingWalks walks;
    walks.untilOpen = 0.4;
    level.processes.push_back({"walls", "Walls", false, walls});
    level.processes.push_back({"walks", "Walks", true, walks});
    level.places[1].mark = "s";
    Recipe recipe;
    recipe.level = level;
    const Json json = recipeJson(recipe);
    std::optional<Error> fault;
    const Json again = parseJson(json.dump()).value();
    const Recipe read = readRecipe(JsonReader(again, fault));
    QVERIFY2(!fault, fault ? fault->text().c_str() : "");
    QVERIFY(*read.level == level);
    Json bad = json;
    bad["level"]["processes"][0]["kind"] = "magic";
    fault.reset();
    (void)readRecipe(JsonReader(bad, fault));
    QVERIFY(fault && fault->where == "/level/processes/0/kind");
    bad = json;
    bad["level"]["margin"] = 5000;
    fault.reset();
    (void)readRecipe(JsonReader(bad, fault));
    QVERIFY(fault && fault->where == "/level/margin" &&
            fault->accepted.find("512") != std::string::npos);
  }

  void badLevelsAreRefusedInWords() {
    const auto refusalOf = [](const std::function<void(Recipe&)>& spoil) {
      Recipe recipe;
      recipe.frame.kind = WorldKind::Level;
      recipe.frame.x = AxisBounds{-40, kWidth};
      recipe.frame.z = AxisBounds{7, kDepth};
      recipe.level = works();
      recipe.level->open = "tile";
      for (LevelPlace& place : recipe.level->places) place.material = kUnassignedId;
      recipe.materials = {{"tile", "Tile", {}, MaterialState::Solid}};
      spoil(recipe);
      const Status status = validate(recipe);
      return status.ok() ? std::string() : status.error().where + ": " + status.error().accepted;
    };
    const auto refusal = [&](const std::function<void(Level&)>& spoil) {
      return refusalOf([&](Recipe& r) { spoil(*r.level); });
    };
    QCOMPARE(refusalOf([](Recipe&) {}), std::string());
    QVERIFY(refusalOf([](Recipe& r) {
      r.frame.z.reset();
    }).starts_with("/frame/bounds/z: an extent of 8 to 4096 cells"));
    QCOMPARE(refusalOf([](Recipe& r) { r.frame.x->extent = 5000; }),
        std::string("/frame/bounds/x/extent: 8 to 4096"));
    QCOMPARE(refusal([](Level& l) { l.open = "gold"; }),
        std::string("/level/open: the id of a listed material"));
    QCOMPARE(refusal([](Level& l) { l.floor = 21; }), std::string("/level/floor: 1 to 20"));
    QVERIFY(refusalOf([](Recipe& r) {
      r.caves->tunnels.emplace_back().id = "dig";
    }).starts_with("/caves: "));
    QVERIFY(refusal([](Level& l) {
      DiggingWalks walks;
      walks.walkers = {900, 0};
      walks.steps = {1e6, 0};
      l.processes.push_back({"walks", "Walks", true, walks});
    }).starts_with("/level/processes/4/steps: of 900 walkers: at most 20000000"));
    const auto automaton = [](Level& l) -> FilledAutomaton& {
      return std::get<FilledAutomaton>(l.processes[0].what);
    };
    QCOMPARE(refusal([&](Level& l) {
      automaton(l).fill = {1.5, 0};
    }),
        std::string("/level/processes/0/fill: 0 to 1"));
    // An amount that leaves its range on the last floor alone.
    QCOMPARE(refusal([&](Level& l) {
      automaton(l).fill = {0.4, 0.05};
    }),
        std::string("/level/processes/0/fill: 0 to 1"));
    QCOMPARE(refusal([&](Level& l) {
      automaton(l).steps = {1e6, 0};
    }),
        std::string("/level/processes/0/steps: 0 to 1000"));
    QVERIFY(refusal([&](Level& l) { automaton(l).rule = "BS"; }).find("/rule: B and S") !=
            std::string::npos);
    QVERIFY(refusal([](Level& l) { l.margin = 40; }).starts_with("/level/margin: less than half"));
    QVERIFY(refusal([](Level& l) { l.lastFloor = 0; }).starts_with("/level/floors/1"));
    QVERIFY(
        refusal([](Level& l) { l.processes[1].id = "rock"; }).starts_with("/level/processes/1/id"));
    QVERIFY(refusal([](Level& l) {
      l.places[0].from = "heap";
    }).starts_with("/level/places/0/from: the id of an earlier place"));
    QVERIFY(refusal([](Level& l) {
      l.places[0].material = "gold";
    }).starts_with("/level/places/0/material"));
  }

  /// What is found by going on with one search is what a search from the start finds each time: as
  /// many cells, as near.
  void joiningDigsTheShortestWays() {
    for (uint64_t key = 0; key < 60; ++key) {
      BitGrid plane(60, 44);
      fillByChance(plane, 0.62 + 0.004 * static_cast<double>(key % 20), 2, key);
      fillSmallSpaces(plane, 4);
      BitGrid joined = plane;
      const auto dug = joinSpaces(joined, 2);
      QVERIFY(dug.has_value());
      const OpenSpaces all = OpenSpaces::of(joined);
      QVERIFY(all.spaces.size() <= 1);
      QVERIFY(marginHolds(joined, 2));
      QCOMPARE(plane.count() - joined.count(), *dug);
      // Plainly: from all that is joined, ring by ring, to the nearest other space.
      BitGrid plain = plane;
      uint64_t cells = 0;
      while (true) {
        const OpenSpaces open = OpenSpaces::of(plain);
        if (open.spaces.size() < 2) break;
        // The space that grew from the largest one holds its first cell.
        const OpenSpaces first = OpenSpaces::of(plane);
        const OpenSpace& from = first.spaces[0];
        const uint32_t label =
            open.labels[static_cast<size_t>(from.z) * 60 + static_cast<size_t>(from.x)];
        std::vector<int> steps(open.labels.size(), -1);
        std::vector<uint32_t> ring;
        for (uint32_t i = 0; i < open.labels.size(); ++i)
          if (open.labels[i] == label) {
            steps[i] = 0;
            ring.push_back(i);
          }
        int nearest = -1;
        std::vector<uint32_t> back(open.labels.size());
        uint32_t reached = 0;
        for (int n = 1; nearest < 0; ++n) {
          std::vector<uint32_t> next;
          for (const uint32_t at : ring)
            for (const auto& [dx, dz] : {std::pair(0, -1), {-1, 0}, {1, 0}, {0, 1}}) {
              const int x = static_cast<int>(at % 60) + dx, z = static_cast<int>(at / 60) + dz;
              if (x < 0 || z < 0 || x >= 60 || z >= 44) continue;
              const auto to = static_cast<uint32_t>(z * 60 + x);
              if (steps[to] >= 0) continue;
              const bool solid = open.labels[to] == OpenSpaces::kSolid;
              if (solid && (x < 2 || z < 2 || x >= 58 || z >= 42)) continue;
              steps[to] = n;
              back[to] = at;
              if (!solid && nearest < 0) {
                nearest = n;
                reached = to;
              }
              if (solid) next.push_back(to);
            }
          ring = next;
        }
        cells += static_cast<uint64_t>(nearest - 1);
        for (uint32_t at = back[reached]; steps[at] > 0; at = back[at])
          plain.set(static_cast<int32_t>(at % 60), static_cast<int32_t>(at / 60), false);
      }
      // Ties may be broken otherwise; what it costs may differ by little only.
      QVERIFY2(*dug <= cells + cells / 4 + 2 && cells <= *dug + *dug / 4 + 2,
          qPrintable(QStringLiteral("%1: %2 and %3").arg(key).arg(*dug).arg(cells)));
    }
    // Two cells with one wall between them: one cell; three in a row: two.
    BitGrid row = solidPlane(9, 3);
    for (const int x : {1, 3, 7}) row.set(x, 1, false);
    QCOMPARE(joinSpaces(row, 1), std::optional<uint64_t>(4));
    for (int x = 1; x < 8; ++x) QVERIFY(!row.at(x, 1));
    // Behind the rim nothing is dug: what lies apart there cannot be joined.
    BitGrid apart = solidPlane(12, 12);
    apart.set(0, 0, false);
    apart.set(11, 11, false);
    const BitGrid before = apart;
    QVERIFY(!joinSpaces(apart, 3).has_value());
    QVERIFY(apart == before);
  }

  void measuresOfPlanesAreThoseOfTheirCells() {
    for (uint64_t key = 0; key < 12; ++key) {
      const auto width = static_cast<int32_t>(9 + key * 11), depth = static_cast<int32_t>(40 - key);
      BitGrid plane(width, depth);
      fillByChance(
          plane, 0.5 + 0.04 * static_cast<double>(key), static_cast<int32_t>(key % 4), key);
      uint64_t outline = 0;
      int32_t margin = std::min(width, depth);
      const auto depths = depthsOf(plane);
      for (int32_t z = 0; z < depth; ++z)
        for (int32_t x = 0; x < width; ++x) {
          outline += x + 1 < width && plane.at(x, z) != plane.at(x + 1, z);
          outline += z + 1 < depth && plane.at(x, z) != plane.at(x, z + 1);
          if (!plane.at(x, z)) margin = std::min({margin, x, z, width - 1 - x, depth - 1 - z});
          int32_t nearest = 65535;
          for (int32_t oz = 0; oz < depth; ++oz)
            for (int32_t ox = 0; ox < width; ++ox)
              if (!plane.at(ox, oz))
                nearest = std::min(nearest, std::max(std::abs(ox - x), std::abs(oz - z)));
          QCOMPARE(int32_t{depths[static_cast<size_t>(z * width + x)]}, nearest);
        }
      QCOMPARE(outlineOf(plane), outline);
      QCOMPARE(marginOf(plane), margin);
      QCOMPARE(Replay(plane).figures(0).outline, outline);
    }
    QCOMPARE(marginOf(solidPlane(7, 5)), 5);
    QCOMPARE(depthsOf(solidPlane(3, 3))[4], uint16_t{65535});
  }

  /// Amounts follow the floor; a name moves no draw, an id moves those of its process alone.
  void drawsFollowIdsAndFloors() {
    const Amount amount{2, 0.5};
    for (const auto& [floor, whole] : {std::pair(1, 2), {2, 3}, {3, 3}, {4, 4}, {-1, 1}})
      QCOMPARE(amount.wholeOn(floor), whole);
    Level level = works();
    const auto plain = floorOf(level, 9, 4).value();
    level.processes[0].name = "Something else";
    level.places[2].name = "Another heap";
    QVERIFY(floorOf(level, 9, 4).value()->plane == plain->plane);
    level.places[2].id = "pile";
    const auto moved = floorOf(level, 9, 4).value();
    QVERIFY(moved->plane == plain->plane);
    QCOMPARE(moved->places[1].x, plain->places[1].x);
    QVERIFY(moved->places[2].x != plain->places[2].x || moved->places[2].z != plain->places[2].z);
    level.processes[2].id = "other-rooms";
    const auto other = floorOf(level, 9, 4).value();
    QVERIFY(!(other->rooms == plain->rooms));
    QVERIFY(!(floorOf(level, 10, 4).value()->plane == other->plane));
  }

  void replaysGoForwardAndBack() {
    // An automaton, a walk and a body: every frame as it was told, from whichever one comes.
    BitGrid plane(131, 70);
    fillByChance(plane, 0.45, 2, 3);
    std::vector<BitGrid> frames = {plane};
    Replay replay(plane);
    const auto take = [&](const BitGrid& next) {
      frames.push_back(next);
      replay.record(next);
    };
    Automaton automaton(*readRule("B5678/S45678", AutomatonRule::kPlane, ""), GridEdge::Filled, 1);
    for (int n = 0; n < 6; ++n) {
      QVERIFY(automaton.run(plane, 1));
      take(plane);
    }
    RandomWalks walks;
    walks.steps = 50;
    QVERIFY(walkRandomly(plane, walks, 2, 9, 5, take));
    QCOMPARE(replay.steps() + 1, frames.size());
    QVERIFY(replay.at(replay.steps()) == plane);  // The last frame is the result.
    for (const size_t step : {size_t{3}, size_t{0}, size_t{16}, size_t{15}, size_t{1}, size_t{6}})
      QVERIFY(replay.at(step) == frames[step]);
    for (size_t step = 0; step <= replay.steps(); ++step) {
      const Replay::Figures& f = replay.figures(step);
      QCOMPARE(f.pieces, static_cast<uint32_t>(OpenSpaces::of(frames[step]).spaces.size()));
      QVERIFY(std::abs(f.open - (1 - static_cast<double>(frames[step].count()) / (131.0 * 70))) <
              1e-12);
    }
    const BitGrid& now = replay.at(4);
    int counted = 0;
    for (int32_t z = 9; z <= 11; ++z)
      for (int32_t x = 64; x <= 66; ++x) counted += (x != 65 || z != 10) && now.at(x, z);
    QCOMPARE(replay.neighbours(65, 10), counted);
    // Kept as what changed: far less than every frame whole.
    QVERIFY(replay.bytes() < frames.size() * plane.bytes());
  }
};

ACRE_SUITE(LevelTest)
#include "level_test.moc"
