// Cellular automata against cell-by-cell counting and against known results of the Game of Life.
#include <QtTest>
#include <algorithm>
#include <random>

#include "cave/automaton.h"
#include "cave/lattice_path.h"

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
        const bool inside =
            i >= 0 && i < grid.width() && k >= 0 && k < grid.depth() && j >= 0 && j < grid.levels();
        count += inside ? grid.at(i, k, j) : edge == GridEdge::Filled;
      }
  return count;
}

BitGrid stepPlainly(const BitGrid& grid, const AutomatonRule& rule, GridEdge edge) {
  BitGrid out(grid.width(), grid.depth(), grid.levels());
  for (int y = 0; y < grid.levels(); ++y)
    for (int z = 0; z < grid.depth(); ++z)
      for (int x = 0; x < grid.width(); ++x) {
        const bool is = grid.at(x, z, y);
        const bool rim = x == 0 || z == 0 || x + 1 == grid.width() || z + 1 == grid.depth() ||
                         (grid.levels() > 1 && (y == 0 || y + 1 == grid.levels()));
        out.set(x, z, y,
                edge == GridEdge::Left && rim
                    ? is
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

BitGrid after(BitGrid grid, int steps, const AutomatonRule& rule = kLife,
              GridEdge edge = GridEdge::Empty) {
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
std::vector<uint64_t> pricesFrom(const LatticeBox& box, const std::vector<uint32_t>& costs,
                                 uint32_t from) {
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
          const AutomatonRule rule{static_cast<uint32_t>(random()) & counts,
                                   static_cast<uint32_t>(random()) & counts};
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
    const std::vector<std::string> pulsar = {
        "  ###   ###  ", "             ", "#    # #    #", "#    # #    #", "#    # #    #",
        "  ###   ###  ", "             ", "  ###   ###  ", "#    # #    #", "#    # #    #",
        "#    # #    #", "             ", "  ###   ###  "};
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
        const AutomatonRule rule{static_cast<uint32_t>(random()) & all,
                                 static_cast<uint32_t>(random()) & all};
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
};

QTEST_GUILESS_MAIN(CaveTest)
#include "cave_test.moc"
