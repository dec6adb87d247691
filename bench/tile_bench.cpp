// Tiles: cases of a million cells from their materials, against eight look-ups a cell with tests of
// the bounds, as they are commonly written; and what a cell changed by hand costs.
#include <benchmark/benchmark.h>

#include <cstdio>
#include <vector>

#include "base/hash.h"
#include "output/tile_art.h"
#include "recipe/tile_cases.h"
#include "tiling/tile_stage.h"
#include "timing.h"
#include "world/world.h"

namespace bench {
namespace {

using namespace acre;

constexpr int32_t kSide = 1024;
constexpr double kCells = double{kSide} * kSide;

/// Blobs of five materials, with a rim of one cell.
const std::vector<MaterialIndex>& blobs() {
  static const std::vector<MaterialIndex> cells = [] {
    std::vector<MaterialIndex> out;
    for (int32_t z = -1; z <= kSide; ++z)
      for (int32_t x = -1; x <= kSide; ++x)
        out.push_back(static_cast<MaterialIndex>(
            1 + (mix64(static_cast<uint64_t>((x + 1) / 5 * 4096 + (z + 1) / 4)) +
                    mix64(static_cast<uint64_t>(x + z * 9999)) % 2) %
                    5));
    return out;
  }();
  return cells;
}

Recipe groupsOf(int count, TileMethod method) {
  Recipe r;
  r.seed = "tiles";
  for (int n = 0; n < 5; ++n) {
    const std::string id = "m" + std::to_string(n);
    r.materials.push_back({id, id, {}, MaterialState::Solid});
  }
  TileSet set;
  set.id = "set";
  set.method = method;
  r.tiles->sets = {set};
  if (count == 1) {  // As land against water: three of the five.
    r.tiles->groups = {{true, "land", "Land", {"m2", "m3", "m4"}, "set", TileRim::Same}};
    return r;
  }
  for (int n = 0; n < count; ++n) {
    const std::string id = "m" + std::to_string(4 - n);
    r.tiles->groups.push_back({true, id, id, {id}, "set", TileRim::Same});
  }
  return r;
}

/// A mask cell by cell: each of the eight neighbours is looked up, if it is there.
void textbook(TileMethod method, std::vector<uint16_t>& out) {
  const std::vector<MaterialIndex>& cells = blobs();
  constexpr int32_t kWide = kSide + 2;
  static const bool kLand[] = {false, false, false, true, true, true};
  const auto is = [&](int32_t x, int32_t z) {
    if (x < -1 || z < -1 || x > kSide || z > kSide) return false;
    return kLand[cells[static_cast<size_t>((z + 1) * kWide + x + 1)]];
  };
  static const TileCases kCases(TileMethod::Neighbours, TileTurns::None);
  constexpr int kAround[8][2] = {
      {0, -1}, {1, -1}, {1, 0}, {1, 1}, {0, 1}, {-1, 1}, {-1, 0}, {-1, -1}};
  for (int32_t z = 0; z < kSide; ++z)
    for (int32_t x = 0; x < kSide; ++x) {
      uint16_t& to = out[static_cast<size_t>(z * kSide + x)];
      int mask = 0;
      if (method == TileMethod::Corners) {
        if (is(x, z)) mask |= 8;
        if (is(x + 1, z)) mask |= 4;
        if (is(x + 1, z + 1)) mask |= 2;
        if (is(x, z + 1)) mask |= 1;
        to = mask ? static_cast<uint16_t>(mask + 1) : uint16_t{0};
        continue;
      }
      if (!is(x, z)) {
        to = 0;
        continue;
      }
      for (int k = 0; k < 8; ++k)
        if (is(x + kAround[k][0], z + kAround[k][1])) mask |= 1 << k;
      to = static_cast<uint16_t>(1 + kCases.caseOf(static_cast<uint8_t>(mask)));
    }
}

/// The whole way from materials to values, some rows at a time, as a world goes it.
void ours(const TileStage& stage, std::vector<uint8_t>& classes, std::vector<uint16_t>& out) {
  static const Kernels& kernels = *kernelsNamed("").value();
  constexpr int32_t kWide = kSide + 2;
  constexpr int32_t kRows = 16;  // Little enough to stay near.
  for (int32_t z = 0; z < kSide; z += kRows) {
    const ptrdiff_t first = static_cast<ptrdiff_t>(z) * kWide;
    stage.classes(
        kernels, blobs().data() + first, int64_t{kRows + 2} * kWide, classes.data() + first);
    for (int g = 0; g < stage.groups(); ++g)
      stage.values(kernels, g, {{0, z}, kSide, kRows, classes.data() + first + kWide + 1, kWide},
          out.data() + static_cast<ptrdiff_t>(g) * kSide * kSide +
              static_cast<ptrdiff_t>(z) * kSide);
  }
}

void printMasks() {
  for (const TileMethod method : {TileMethod::Neighbours, TileMethod::Corners}) {
    const auto stage = TileStage::of(groupsOf(1, method));
    std::vector<uint8_t> classes(blobs().size());
    std::vector<uint16_t> made(static_cast<size_t>(kCells)), plain(made.size());
    // About as long as the textbook's turn, so that neither begins with the other's memory.
    constexpr int kRuns = 12;
    Pair pair = inTurn(
        9,
        [&] {
          for (int n = 0; n < kRuns; ++n) ours(*stage, classes, made);
        },
        [&] { textbook(method, plain); });
    for (double* of : {&pair.low, &pair.high}) *of *= kRuns;
    pair.ours /= kRuns;
    std::printf(
        "%s: %s, %.2f ns a cell, textbook %.2f: %.1f times as fast (%.1f to %.1f), target 25\n",
        method == TileMethod::Corners ? "corners" : "neighbours",
        made == plain ? "equal" : "DIFFERENT", pair.ours / kCells * 1e9,
        pair.textbook / kCells * 1e9, pair.ratio(), pair.low, pair.high);
  }
  const auto stage = TileStage::of(groupsOf(4, TileMethod::Neighbours));
  std::vector<uint8_t> classes(blobs().size());
  std::vector<uint16_t> made(4 * static_cast<size_t>(kCells));
  std::vector<double> times;
  for (int n = 0; n < 9; ++n) times.push_back(secondsOf([&] { ours(*stage, classes, made); }));
  std::printf("four groups over 1,024 x 1,024 cells: %.2f ms, target 10\n", medianOf(times) * 1e3);
  // A changed cell: it and the eight about it, of four groups.
  constexpr int kEdits = 20'000;
  uint64_t sum = 0;
  const Kernels& kernels = *kernelsNamed("").value();
  const double took = secondsOf([&] {
    for (int n = 0; n < kEdits; ++n) {
      const int32_t x = 1 + n * 37 % (kSide - 2), z = 1 + n * 91 % (kSide - 2);
      classes[static_cast<size_t>(z + 1) * (kSide + 2) + static_cast<size_t>(x + 1)] ^= 1;
      uint16_t around[9];
      for (int g = 0; g < 4; ++g) {
        stage->values(kernels, g,
            {{x - 1, z - 1}, 3, 3, classes.data() + static_cast<ptrdiff_t>(z) * (kSide + 2) + x,
                kSide + 2},
            around);
        for (const uint16_t v : around) sum += v;
      }
    }
  });
  benchmark::DoNotOptimize(sum);
  std::printf("a changed cell, four groups: %.2f us, target 2\n", took / kEdits * 1e6);
}

/// What tiles add to a chunk of the demo, and a picture of the window's size.
void printDemo() {
  const auto engine = Engine::create({}).value();
  Recipe r = loadRecipe("saltfen-reach").value();
  const auto with = engine->compile(r).value();
  r.tiles->on = false;
  const auto without = engine->compile(r).value();
  constexpr int kAcross = 8;
  const auto all = [](const World& world) {
    for (int n = 0; n < kAcross * kAcross; ++n)
      benchmark::DoNotOptimize(planOf(world).chunk({n % kAcross, 0, n / kAcross}).value());
  };
  all(*without);
  all(*with);
  const Pair chunks = inTurn(
      7, [&] { all(*with); }, [&] { all(*without); });
  std::printf("a chunk of saltfen-reach: %.0f us with %d groups of tiles, %.0f without\n",
      chunks.ours / (kAcross * kAcross) * 1e6, with->tiles().stage()->groups(),
      chunks.textbook / (kAcross * kAcross) * 1e6);
  StageTimes times;
  for (int n = 0; n < kAcross * kAcross; ++n)
    benchmark::DoNotOptimize(
        planOf(*with).chunk({n % kAcross, 0, n / kAcross}, {}, &times).value());
  std::printf(
      "of these the tiles themselves: %.1f us a chunk, target 20; the others are the cells "
      "around it\n",
      times[StageId::Tiles] * 1e3 / (kAcross * kAcross));
  const TileArts arts = TileArts::of(*with).value();
  std::vector<double> drawn;
  for (int n = 0; n < 5; ++n)
    drawn.push_back(secondsOf([&] {
      benchmark::DoNotOptimize(drawTiles(*with, arts, {n * 3, 0, 80, 50}, {16}).value());
    }));
  std::printf("tiles of 1,280 x 800 pixels at 16 a cell: %.1f ms\n", medianOf(drawn) * 1e3);
}

void BM_Classes(benchmark::State& state) {
  const auto stage = TileStage::of(groupsOf(1, TileMethod::Neighbours));
  std::vector<uint8_t> classes(blobs().size());
  for (auto _ : state) {
    stage->classes(*kernelsNamed("").value(), blobs().data(), static_cast<int64_t>(blobs().size()),
        classes.data());
    benchmark::DoNotOptimize(classes.data());
  }
}
BENCHMARK(BM_Classes)->Unit(benchmark::kMicrosecond);

}  // namespace
}  // namespace bench

int main(int argc, char** argv) {
  benchmark::Initialize(&argc, argv);
  bench::printMasks();
  bench::printDemo();
  benchmark::RunSpecifiedBenchmarks();
  return 0;
}
