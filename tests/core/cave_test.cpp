// Cellular automata against cell-by-cell counting and against known results of the Game of Life.
#include <QtTest>
#include <algorithm>
#include <array>
#include <random>
#include <set>

#include "cave/automaton.h"
#include "cave/lattice_path.h"
#include "cave/open_spaces.h"
#include "suite.h"

using namespace acre;

namespace {

/// Neighbours that are solid, counted one by one.
int neighboursOf(const BitGrid& grid, GridEdge edge, int x, int z, int y) {
  const bool volume = grid.levels() > 1;
  int count = 0;
  for (int dy = volume ? -1 : 0; dy <= (volume ? 1 : 0); ++dy)
    for (int dz = -1; dz <= 1; ++dz)
      for (int dx = -1; dx <= 1; ++dx) {
        if (dx == 0 && dy == 0 && dz == 0) continue;
        const int i = x + dx, k = z + dz, j = y + dy;
        const bool inside = i >= 0 && i < grid.width() && k >= 0 && k < grid.length() && j >= 0 &&
                            j < grid.levels();
        count += inside ? grid.at(i, k, j) : edge == GridEdge::Filled;
      }
  return count;
}

BitGrid stepPlainly(const BitGrid& grid, const AutomatonRule& rule, GridEdge edge) {
  BitGrid out(grid.width(), grid.length(), grid.levels());
  for (int y = 0; y < grid.levels(); ++y)
    for (int z = 0; z < grid.length(); ++z)
      for (int x = 0; x < grid.width(); ++x) {
        const bool is = grid.at(x, z, y);
        const bool rim = x == 0 || z == 0 || x + 1 == grid.width() || z + 1 == grid.length() ||
                         (grid.levels() > 1 && (y == 0 || y + 1 == grid.levels()));
        out.set(x, z, y,
            edge == GridEdge::Left && rim ? is
                                          : rule.applies(is, neighboursOf(grid, edge, x, z, y)));
      }
  return out;
}

BitGrid randomGrid(int width, int depth, int levels, std::mt19937& random) {
  BitGrid grid(width, depth, levels);
  const auto share = 20 + random() % 60;
  for (int y = 0; y < levels; ++y)
    for (int z = 0; z < depth; ++z)
      for (int x = 0; x < width; ++x) grid.set(x, z, y, random() % 100 < share);
  return grid;
}

const AutomatonRule kLife = {1u << 3, 1u << 2 | 1u << 3};

/// Cells from text, '#' solid, put into a plane.
BitGrid pattern(int width, int depth, int x, int z, const std::vector<std::string>& rows) {
  BitGrid grid(width, depth);
  for (size_t j = 0; j < rows.size(); ++j)
    for (size_t i = 0; i < rows[j].size(); ++i)
      if (rows[j][i] == '#') grid.set(x + static_cast<int>(i), z + static_cast<int>(j), true);
  return grid;
}

BitGrid after(
    BitGrid grid, int steps, const AutomatonRule& rule = kLife, GridEdge edge = GridEdge::Empty) {
  Automaton(rule, edge, grid.levels()).run(grid, steps);
  return grid;
}

/// In how many axes neighbours differ; 0 for anything that is none.
int axesApart(const LatticeBox& box, uint32_t a, uint32_t b) {
  const int x = std::abs(box.x(a) - box.x(b)), y = std::abs(box.y(a) - box.y(b)),
            z = std::abs(box.z(a) - box.z(b));
  return x > 1 || y > 1 || z > 1 ? 0 : x + y + z;
}

/// The price of every point, by going over all of them until nothing becomes cheaper.
std::vector<uint64_t> pricesFrom(
    const LatticeBox& box, const std::vector<uint32_t>& costs, uint32_t from) {
  std::vector<uint64_t> prices(box.count(), uint64_t{1} << 60);
  prices[from] = 0;
  for (bool changed = true; changed;) {
    changed = false;
    for (uint32_t at = 0; at < box.count(); ++at)
      for (int dy = -1; dy <= 1; ++dy)
        for (int dz = -1; dz <= 1; ++dz)
          for (int dx = -1; dx <= 1; ++dx) {
            const int x = box.x(at) + dx, y = box.y(at) + dy, z = box.z(at) + dz;
            if (x < 0 || y < 0 || z < 0 || x >= box.nx || y >= box.ny || z >= box.nz) continue;
            const uint32_t next = box.index(x, y, z);
            const int axes = axesApart(box, at, next);
            if (axes == 0) continue;
            const uint64_t there = prices[at] + stepCost(axes, costs[at], costs[next]);
            if (there >= prices[next]) continue;
            prices[next] = there;
            changed = true;
          }
  }
  return prices;
}

size_t placeOf(const BitGrid& grid, int x, int z, int y) {
  return (static_cast<size_t>(y) * static_cast<size_t>(grid.length()) + static_cast<size_t>(z)) *
             static_cast<size_t>(grid.width()) +
         static_cast<size_t>(x);
}

std::array<int, 3> cellAt(const BitGrid& grid, size_t place) {
  const auto wide = static_cast<size_t>(grid.width()), deep = static_cast<size_t>(grid.length());
  return {static_cast<int>(place % wide), static_cast<int>(place / wide % deep),
      static_cast<int>(place / wide / deep)};
}

bool atRim(const BitGrid& grid, size_t place) {
  const auto [x, z, y] = cellAt(grid, place);
  return x == 0 || z == 0 || x + 1 == grid.width() || z + 1 == grid.length() ||
         (grid.levels() > 1 && (y == 0 || y + 1 == grid.levels()));
}

/// All open cells that a cell reaches through sides.
std::set<size_t> floodFrom(const BitGrid& grid, int x, int z, int y) {
  std::set<size_t> out = {placeOf(grid, x, z, y)};
  std::vector<size_t> next(out.begin(), out.end());
  while (!next.empty()) {
    const auto [cx, cz, cy] = cellAt(grid, next.back());
    next.pop_back();
    for (const auto& d : {std::array{1, 0, 0}, std::array{-1, 0, 0}, std::array{0, 1, 0},
             std::array{0, -1, 0}, std::array{0, 0, 1}, std::array{0, 0, -1}}) {
      const int i = cx + d[0], k = cz + d[1], j = cy + d[2];
      if (i < 0 || k < 0 || j < 0 || i >= grid.width() || k >= grid.length() || j >= grid.levels())
        continue;
      if (!grid.at(i, k, j) && out.insert(placeOf(grid, i, k, j)).second)
        next.push_back(placeOf(grid, i, k, j));
    }
  }
  return out;
}

}  // namespace

class CaveTest : public QObject {
  Q_OBJECT

 private slots:
  /// Words of 64 cells do what single cells do, wherever rows end and whatever lies beyond.
  void wordsDoWhatCellsDo() {
    std::mt19937 random(4);
    for (const int width : {1, 2, 3, 31, 63, 64, 65, 127, 128, 130, 200})
      for (const GridEdge edge : {GridEdge::Filled, GridEdge::Empty, GridEdge::Left})
        for (int round = 0; round < 6; ++round) {
          const int depth = 1 + static_cast<int>(random() % 9);
          const int levels = round % 2 ? 2 + static_cast<int>(random() % 5) : 1;
          const uint32_t counts = levels > 1 ? (1u << 27) - 1 : 511u;
          const AutomatonRule rule{
              static_cast<uint32_t>(random()) & counts, static_cast<uint32_t>(random()) & counts};
          BitGrid grid = randomGrid(width, depth, levels, random);
          Automaton automaton(rule, edge, levels);
          for (int n = 0; n < 3; ++n) {
            const BitGrid expected = stepPlainly(grid, rule, edge);
            QVERIFY(automaton.run(grid, 1));
            QVERIFY2(grid == expected,
                qPrintable(QStringLiteral("%1 x %2 x %3").arg(width).arg(depth).arg(levels)));
            uint64_t solid = 0;
            for (int y = 0; y < levels; ++y)
              for (int z = 0; z < depth; ++z)
                for (int x = 0; x < width; ++x) solid += expected.at(x, z, y);
            QCOMPARE(grid.count(), solid);
          }
        }
  }

  /// Known results of B3/S23 [M. Gardner, "Mathematical games", Scientific American 223, 1970].
  void lifeIsAsKnown() {
    const BitGrid block = pattern(80, 20, 62, 5, {"##", "##"});
    QVERIFY(after(block, 1) == block);
    const BitGrid blinker = pattern(80, 20, 62, 5, {"###"});
    QVERIFY(after(blinker, 1) == pattern(80, 20, 63, 4, {"#", "#", "#"}));
    QVERIFY(after(blinker, 2) == blinker);
    const BitGrid beacon = pattern(80, 20, 61, 5, {"##  ", "##  ", "  ##", "  ##"});
    QVERIFY(!(after(beacon, 1) == beacon) && after(beacon, 2) == beacon);
    const std::vector<std::string> glider = {" # ", "  #", "###"};
    for (const int n : {1, 7, 20})
      QVERIFY(after(pattern(100, 100, 60, 60, glider), 4 * n) ==
              pattern(100, 100, 60 + n, 60 + n, glider));
    const std::vector<std::string> pulsar = {"  ###   ###  ", "             ", "#    # #    #",
        "#    # #    #", "#    # #    #", "  ###   ###  ", "             ", "  ###   ###  ",
        "#    # #    #", "#    # #    #", "#    # #    #", "             ", "  ###   ###  "};
    const BitGrid three = pattern(100, 40, 57, 12, pulsar);
    QVERIFY(!(after(three, 1) == three) && !(after(three, 2) == three));
    QVERIFY(after(three, 3) == three);
  }

  /// The R-pentomino settles after 1103 steps, with 116 cells.
  void thePentominoSettles() {
    BitGrid grid = pattern(1000, 1000, 499, 499, {" ##", "## ", " # "});
    Automaton life(kLife, GridEdge::Empty, 1);
    QVERIFY(life.run(grid, 1103));
    QCOMPARE(grid.count(), uint64_t{116});
    QVERIFY(life.run(grid, 2));  // Gliders and blinkers only: as many after each second step.
    QCOMPARE(grid.count(), uint64_t{116});
  }

  void aStepReadsOnlyTheOneBefore() {
    // A filled corner of a rule that spreads would run on within one step otherwise.
    BitGrid grid(200, 200);
    grid.set(0, 0, true);
    const AutomatonRule spread{0x1FE, 0x1FF};
    for (int n = 1; n <= 100; ++n) {
      grid = after(grid, 1, spread);
      QCOMPARE(grid.count(), static_cast<uint64_t>((n + 1) * (n + 1)));
    }
  }

  void stoppingStops() {
    BitGrid grid = pattern(100, 100, 40, 40, {" ##", "## ", " # "});
    std::stop_source stop;
    stop.request_stop();
    QVERIFY(!Automaton(kLife, GridEdge::Empty, 1).run(grid, 10, stop.get_token()));
  }

  void rulesAreReadAndWritten() {
    const auto plane = [](const char* text) { return readRule(text, AutomatonRule::kPlane, "/r"); };
    QVERIFY(*plane("B3/S23") == kLife);
    for (const char* text : {"B3/S23", "B678/S345678", "B1/S", "B/S012345678", "B5678/S45678"})
      QCOMPARE(ruleText(*plane(text), AutomatonRule::kPlane), std::string(text));
    QCOMPARE(ruleText(*plane("B3/S32"), AutomatonRule::kPlane), std::string("B3/S23"));
    for (const char* text : {"", "B", "B3", "B3/", "B3/23", "S23/B3", "B9/S2", "B33/S2", "B/S",
             "B3/S2x", "b3/s23", "B3 /S23", "B3/S23/", "B-1/S2"}) {
      const auto rule = plane(text);
      QVERIFY2(!rule, text);
      QVERIFY(rule.error().where == "/r" && !rule.error().accepted.empty());
    }
    const auto volume = [](const char* text) {
      return readRule(text, AutomatonRule::kVolume, "/r");
    };
    for (const char* text : {"B14-26/S13-26", "B5,7-9/S12", "B0/S", "B/S26", "B4/S1-3,9"})
      QCOMPARE(ruleText(*volume(text), AutomatonRule::kVolume), std::string(text));
    QCOMPARE(ruleText(*volume("B>13/S>12"), AutomatonRule::kVolume), std::string("B14-26/S13-26"));
    QVERIFY(*volume("B1,2,3/S") == *volume("B1-3/S"));
    for (const char* text : {"B27/S1", "B5-3/S1", "B1,/S2", "B,1/S2", "B>26/S1", "B1-/S2", "B-3/S2",
             "B>/S1", "B1-2-3/S4", "B1/S 2"})
      QVERIFY2(!volume(text), text);
    std::mt19937 random(9);
    for (int n = 0; n < 2000; ++n)
      for (const int neighbours : {AutomatonRule::kPlane, AutomatonRule::kVolume}) {
        const uint32_t all = (2u << neighbours) - 1;
        const AutomatonRule rule{
            static_cast<uint32_t>(random()) & all, static_cast<uint32_t>(random()) & all};
        if (rule == AutomatonRule{}) continue;
        QVERIFY(*readRule(ruleText(rule, neighbours), neighbours, "") == rule);
      }
  }

  // ---- paths through a lattice -----------------------------------------------------------------

  /// The path itself is the one that looking at everything finds: all prices from the start, then
  /// back from the goal, always to the lowest index that is as cheap.
  void pathsAreTheCheapest() {
    std::mt19937 random(31);
    int ties = 0, bent = 0;
    for (int round = 0; round < 1000; ++round) {
      const auto side = [&](unsigned most) { return 1 + static_cast<int32_t>(random() % most); };
      const LatticeBox box{side(14), side(8), side(14)};
      // Few different prices make many equal paths.
      const uint32_t spread = round % 3 == 0 ? 1 : round % 3 == 1 ? 3 : 4000;
      std::vector<uint32_t> costs(box.count());
      for (uint32_t& c : costs)
        c = kPlainCost + static_cast<uint32_t>(random() % spread) * (round % 3 == 1 ? 128 : 1);
      const auto from = static_cast<uint32_t>(random() % box.count());
      const auto to = static_cast<uint32_t>(random() % box.count());
      const std::vector<uint32_t> path = cheapestPath(box, costs, from, to);
      const std::vector<uint64_t> prices = pricesFrom(box, costs, from);
      QCOMPARE(pathCost(box, costs, path), prices[to]);
      std::vector<uint32_t> expected = {to};
      while (expected.back() != from) {
        const uint32_t at = expected.back();
        uint32_t best = box.count();
        int equal = 0;
        for (uint32_t next = 0; next < box.count(); ++next) {
          const int axes = axesApart(box, next, at);
          if (axes == 0 || prices[next] + stepCost(axes, costs[next], costs[at]) != prices[at])
            continue;
          best = std::min(best, next);
          ++equal;
        }
        ties += equal > 1;
        expected.push_back(best);
      }
      std::reverse(expected.begin(), expected.end());
      QCOMPARE(path, expected);
      bent += path.size() > 4;
    }
    QVERIFY(ties > 300 && bent > 300);
  }

  void pathsOfPointsAndStops() {
    const LatticeBox one;
    const std::vector<uint32_t> plain(one.count(), kPlainCost);
    QCOMPARE(cheapestPath(one, plain, 0, 0), std::vector<uint32_t>{0});
    const LatticeBox large{16, 16, 16};
    QCOMPARE(large.count(), LatticeBox::kMost);
    std::vector<uint32_t> costs(large.count(), kMostCost);
    costs.front() = kPlainCost;
    std::stop_source stop;
    stop.request_stop();
    QVERIFY(cheapestPath(large, costs, 0, large.count() - 1, stop.get_token()).empty());
    const auto path = cheapestPath(large, costs, 0, large.count() - 1);
    QCOMPARE(path.size(), size_t{16});  // Straight through.
    for (uint32_t i = 0; i < large.count(); ++i)
      QCOMPARE(large.index(large.x(i), large.y(i), large.z(i)), i);
  }

  // ---- open spaces -----------------------------------------------------------------------------

  /// Labels are those of a flood from each cell; sizes, first cells and open ends as counted.
  void openSpacesAreFound() {
    std::mt19937 random(77);
    for (int round = 0; round < 80; ++round) {
      const int levels = round % 2 ? 1 + static_cast<int>(random() % 6) : 1;
      const BitGrid grid = randomGrid(
          1 + static_cast<int>(random() % 70), 1 + static_cast<int>(random() % 20), levels, random);
      const OpenSpaces open = OpenSpaces::of(grid);
      std::vector<uint64_t> cells(open.spaces.size());
      for (size_t i = 0; i < open.labels.size(); ++i)
        if (open.labels[i] != OpenSpaces::kSolid) ++cells[open.labels[i]];
      for (size_t s = 0; s < open.spaces.size(); ++s) {
        const OpenSpace& space = open.spaces[s];
        QCOMPARE(space.cells, cells[s]);
        const std::set<size_t> flood = floodFrom(grid, space.x, space.z, space.y);
        QCOMPARE(static_cast<uint64_t>(flood.size()), space.cells);
        bool ends = false;
        for (const size_t at : flood) {
          QCOMPARE(open.labels[at], static_cast<uint32_t>(s));
          ends = ends || atRim(grid, at);
        }
        QCOMPARE(space.openEnded, ends);
        QCOMPARE(*flood.begin(), placeOf(grid, space.x, space.z, space.y));
        if (s > 0)
          QVERIFY(open.spaces[s - 1].cells > space.cells ||
                  (open.spaces[s - 1].cells == space.cells &&
                      placeOf(grid, open.spaces[s - 1].x, open.spaces[s - 1].z,
                          open.spaces[s - 1].y) < *flood.begin()));
      }
    }
  }

  void smallSpacesAreFilled() {
    std::mt19937 random(5);
    for (int round = 0; round < 20; ++round) {
      BitGrid grid = randomGrid(60, 40, 1, random);
      const OpenSpaces before = OpenSpaces::of(grid);
      const uint64_t solid = grid.count();
      uint64_t small = 0, number = 0;
      for (const OpenSpace& s : before.spaces)
        if (s.cells < 8) small += s.cells, ++number;
      QCOMPARE(static_cast<uint64_t>(fillSmallSpaces(grid, 8)), number);
      QCOMPARE(grid.count(), solid + small);
      for (const OpenSpace& s : OpenSpaces::of(grid).spaces) QVERIFY(s.cells >= 8);
    }
  }

  /// Joined, there is one space, and no cell was dug that need not be for two spaces alone.
  void spacesAreJoined() {
    std::mt19937 random(6);
    for (int round = 0; round < 40; ++round) {
      BitGrid grid(50, 40);
      for (int z = 0; z < 40; ++z)
        for (int x = 0; x < 50; ++x) grid.set(x, z, true);
      int rooms[2][2];
      for (auto& room : rooms) {
        room[0] = 4 + static_cast<int>(random() % 38);
        room[1] = 4 + static_cast<int>(random() % 28);
        for (int z = 0; z < 3; ++z)
          for (int x = 0; x < 3; ++x) grid.set(room[0] + x, room[1] + z, false);
      }
      const size_t number = OpenSpaces::of(grid).spaces.size();
      const auto dug = joinSpaces(grid, 2);
      QVERIFY(dug);
      QCOMPARE(OpenSpaces::of(grid).spaces.size(), size_t{1});
      const int apart = std::max(0, std::abs(rooms[0][0] - rooms[1][0]) - 2) +
                        std::max(0, std::abs(rooms[0][1] - rooms[1][1]) - 2);
      if (number == 2) QCOMPARE(static_cast<int>(*dug), std::max(1, apart - 1));
      BitGrid many = randomGrid(64, 48, 1, random);
      const BitGrid as = many;
      if (joinSpaces(many, 0)) {
        QVERIFY(OpenSpaces::of(many).spaces.size() <= 1);
        for (int z = 0; z < 48; ++z)
          for (int x = 0; x < 64; ++x) QVERIFY(as.at(x, z) || !many.at(x, z));  // Nothing closed.
      }
    }
    // What only the rim would join is not joined, and nothing is changed.
    BitGrid grid(9, 5);
    for (int z = 0; z < 5; ++z)
      for (int x = 0; x < 9; ++x) grid.set(x, z, x != 0 && x != 8);
    const BitGrid before = grid;
    QVERIFY(!joinSpaces(grid, 3));
    QVERIFY(grid == before);
    QVERIFY(joinSpaces(grid, 0) && OpenSpaces::of(grid).spaces.size() == 1);
  }
};

ACRE_SUITE(CaveTest)
#include "cave_test.moc"
