// Cellular automata: 64 cells a word against the same rule as it is commonly written, cell by cell.
#include <benchmark/benchmark.h>

#include <cstdio>
#include <vector>

#include "cave/automaton.h"
#include "timing.h"

namespace bench {
namespace {

using namespace acre;

/// A byte a cell, eight neighbours asked one by one, what lies outside taken as solid.
class TextbookAutomaton {
 public:
  TextbookAutomaton(int side, const AutomatonRule& rule)
      : side_(side), rule_(rule), now_(static_cast<size_t>(side * side)), next_(now_) {}
  void set(int x, int z, bool solid) { now_[static_cast<size_t>(z * side_ + x)] = solid; }
  bool at(int x, int z) const { return now_[static_cast<size_t>(z * side_ + x)] != 0; }
  void step() {
    for (int z = 0; z < side_; ++z)
      for (int x = 0; x < side_; ++x) {
        int count = 0;
        for (int dz = -1; dz <= 1; ++dz)
          for (int dx = -1; dx <= 1; ++dx) {
            if (dx == 0 && dz == 0) continue;
            const int i = x + dx, k = z + dz;
            if (i < 0 || k < 0 || i >= side_ || k >= side_)
              ++count;
            else
              count += now_[static_cast<size_t>(k * side_ + i)];
          }
        next_[static_cast<size_t>(z * side_ + x)] = rule_.applies(at(x, z), count);
      }
    now_.swap(next_);
  }

 private:
  int side_;
  AutomatonRule rule_;
  std::vector<uint8_t> now_, next_;
};

void print() {
  constexpr int kSide = 512, kSteps = 8;
  const AutomatonRule rule = *readRule("B678/S345678", AutomatonRule::kPlane, "");
  BitGrid grid(kSide, kSide);
  TextbookAutomaton book(kSide, rule);
  uint64_t state = 5;
  for (int z = 0; z < kSide; ++z)
    for (int x = 0; x < kSide; ++x) {
      state = state * 6364136223846793005u + 1442695040888963407u;
      const bool solid = state >> 33 & 1;
      grid.set(x, z, solid);
      book.set(x, z, solid);
    }
  Automaton automaton(rule, GridEdge::Filled, 1);
  BitGrid check = grid;
  automaton.run(check, 3);
  TextbookAutomaton other = book;
  for (int n = 0; n < 3; ++n) other.step();
  for (int z = 0; z < kSide; ++z)
    for (int x = 0; x < kSide; ++x)
      if (check.at(x, z) != other.at(x, z)) {
        std::printf("the automata differ at %d, %d\n", x, z);
        return;
      }
  const Pair p = inTurn(
      9,
      [&] {
        automaton.run(grid, kSteps);
        benchmark::DoNotOptimize(grid);
      },
      [&] {
        for (int n = 0; n < kSteps; ++n) book.step();
        benchmark::DoNotOptimize(book);
      });
  const double cells = double{kSide} * kSide * kSteps;
  std::printf(
      "\nautomaton, plane of %d x %d, a step: %.3f ns a cell, textbook %.2f: %.0fx (%.0f to %.0f), "
      "target 40x\n",
      kSide, kSide, p.ours / cells * 1e9, p.textbook / cells * 1e9, p.ratio(), p.low, p.high);
  BitGrid volume(128, 128, 128);
  Automaton solid(*readRule("B14-26/S13-26", AutomatonRule::kVolume, ""), GridEdge::Filled, 128);
  for (int y = 0; y < 128; ++y)
    for (int z = 0; z < 128; ++z)
      for (int x = 0; x < 128; ++x) {
        state = state * 6364136223846793005u + 1442695040888963407u;
        volume.set(x, z, y, state >> 33 & 1);
      }
  const double seconds = secondsOf([&] { solid.run(volume, 4); });
  std::printf("automaton, volume of 128 a side, a step: %.3f ns a cell\n",
              seconds / 4 / (128.0 * 128 * 128) * 1e9);
}

}  // namespace
}  // namespace bench

int main() {
  bench::print();
}
