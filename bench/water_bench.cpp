// Rivers and lakes: a first chunk anywhere, the next ones, what water costs where its network is
// known, and all of an area against a flood of the whole map as it is commonly written.
#include <benchmark/benchmark.h>

#include <climits>
#include <cstdio>
#include <queue>
#include <vector>

#include "base/parallel.h"
#include "climate/land_sampler.h"
#include "recipe/object_recipe.h"
#include "recipe/water_recipe.h"
#include "timing.h"
#include "water/water_stage.h"
#include "world/world.h"

namespace bench {
namespace {

using namespace acre;

std::shared_ptr<const World> wet(const char* demo, bool on = true) {
  EngineOptions options;
  options.threads = 2;
  options.memoBytes = uint64_t{256} << 20;
  static std::vector<std::unique_ptr<Engine>> engines;
  engines.push_back(std::move(Engine::create(options)).value());
  Recipe recipe = loadRecipe(demo).value();
  recipe.rivers->on = on;
  recipe.objects = {};  // object_bench has those.
  return engines.back()->compile(recipe).value();
}

/// Fills every hollow of a map up to its spill: the lowest cell of the rim goes on, its neighbours
/// are raised to it. R. Barnes, C. Lehman, D. Mulla, "Priority-flood", 2014, the plain form.
void flood(std::vector<float>& heights, int side) {
  using Entry = std::pair<float, int>;
  std::priority_queue<Entry, std::vector<Entry>, std::greater<>> front;
  std::vector<bool> seen(heights.size());
  const auto add = [&](int x, int z, float atLeast) {
    const int k = z * side + x;
    if (seen[static_cast<size_t>(k)]) return;
    seen[static_cast<size_t>(k)] = true;
    float& h = heights[static_cast<size_t>(k)];
    h = std::max(h, atLeast);
    front.emplace(h, k);
  };
  for (int i = 0; i < side; ++i)
    for (const auto& [x, z] : {std::pair(i, 0), {i, side - 1}, {0, i}, {side - 1, i}})
      add(x, z, -1e9f);
  while (!front.empty()) {
    const auto [h, k] = front.top();
    front.pop();
    const int x = k % side, z = k / side;
    for (int dz = -1; dz <= 1; ++dz)
      for (int dx = -1; dx <= 1; ++dx)
        if (x + dx >= 0 && z + dz >= 0 && x + dx < side && z + dz < side) add(x + dx, z + dz, h);
  }
}

void printChunks(const char* demo, double coldTarget) {
  const auto world = wet(demo), dry = wet(demo, false);
  const Drainage& drainage = world->water()->drainage();
  std::vector<double> cold, next;
  uint64_t most = 0;
  for (int64_t k = 0; k < 12; ++k) {
    const ChunkPos at{k * 90'000, k * -70'000};
    const uint64_t before = drainage.samples();
    cold.push_back(secondsOf([&] { benchmark::DoNotOptimize(world->chunk(at)); }));
    most = std::max(most, drainage.samples() - before);
    for (int64_t i = 1; i <= 4; ++i)
      next.push_back(secondsOf([&] {
        benchmark::DoNotOptimize(world->chunk({at.cx + i, at.cz}));
      }));
  }
  std::sort(cold.begin(), cold.end());
  std::sort(next.begin(), next.end());
  std::printf(
      "%s: first chunk anywhere, median %.0f ms, worst %.0f ms, target %.0f ms; at most "
      "%.2f million samples, target 1.8\n",
      demo, cold[cold.size() / 2] * 1e3, cold.back() * 1e3, coldTarget,
      static_cast<double>(most) / 1e6);
  std::printf(
      "%s: the next ones, median %.2f ms, target 1 ms\n", demo, next[next.size() / 2] * 1e3);
  // The same chunks with their network known, and without water.
  const auto all = [](const World& w) {
    for (int64_t n = 0; n < 64; ++n) benchmark::DoNotOptimize(w.chunk({n % 8, n / 8}));
  };
  const Pair warm = inTurn(
      9, [&] { all(*world); }, [&] { all(*dry); });
  std::printf(
      "%s: known chunk %.1f us, without water %.1f us: %.1f us on top, target 50; "
      "%.1f MiB remembered\n",
      demo, warm.ours / 64 * 1e6, warm.textbook / 64 * 1e6, (warm.ours - warm.textbook) / 64 * 1e6,
      static_cast<double>(world->water()->bytes()) / 0x1p20);
}

/// All of a view of 1280 x 800, in tiles as the map asks for them, by two threads.
double viewSeconds(const World& world, int64_t step) {
  constexpr int32_t kTile = 256, kAcross = 5, kDown = 4;  // The last row is cut.
  return secondsOf([&] {
    parallelFor(kAcross * kDown, [&](int32_t n) {
      const int32_t length = n / kAcross == kDown - 1 ? 800 - 3 * kTile : kTile;
      std::vector<float> heights(size_t{kTile} * kTile);
      std::vector<WaterKind> waters(heights.size());
      Land land;
      land.heights = heights.data();
      land.waters = waters.data();
      benchmark::DoNotOptimize(world.sample(
          {n % kAcross * kTile * step, n / kAcross * kTile * step, step, kTile, length}, land));
    });
  });
}

void printViews(const char* demo) {
  for (const auto& [step, target] : {std::pair(int64_t{1}, 1.0), {16, 4.0}, {64, 4.0}}) {
    const auto world = wet(demo), dry = wet(demo, false);
    const double ground = viewSeconds(*dry, step), all = viewSeconds(*world, step);
    std::printf(
        "%s: a cold view of 1280 x 800 at step %lld: ground %.2f s, water %.2f s, target "
        "%.0f s; %.1f MiB remembered\n",
        demo, static_cast<long long>(step), ground, all - ground, target,
        static_cast<double>(world->water()->bytes()) / 0x1p20);
  }
}

/// The network of an area, tile by tile of 8 x 8 nodes, and its samples alone.
void printTiles() {
  constexpr int64_t kTiles = 20;
  const auto world = wet("saltfen-reach");
  Drainage::Reader net(world->water()->drainage());
  const auto all = [&](int64_t first) {
    for (int64_t j = 0; j < kTiles * BrickTile::kSide; ++j)
      for (int64_t i = 0; i < kTiles * BrickTile::kSide; ++i)
        if (const Brick b{first + i, first + j}; net.drain(b).drains == Drains::On)
          benchmark::DoNotOptimize(net.area(b));
  };
  all(0);  // What lies about an area weighs little beside the second one, next to it.
  const uint64_t before = world->water()->drainage().samples();
  const double network = secondsOf([&] { all(kTiles * BrickTile::kSide); });
  const auto samples = static_cast<double>(world->water()->drainage().samples() - before);
  std::vector<float> heights(size_t{512} * 512);
  LandOut out;
  out.heights = heights.data();
  out.stride = 512;
  const double each = secondsOf([&] {
    world->parts().before->evaluate({0, 0, 8, 512, 512}, out, {});
  }) / static_cast<double>(heights.size());
  const Rect one = BrickTile{}.cells();
  const double tiles = samples / (static_cast<double>(one.width * one.length) / 64);
  std::printf("a tile of 8 x 8 nodes: %.2f ms beside its samples, target 0.4 ms\n",
      (network - samples * each) / tiles * 1e3);
}

/// Ways through the obstacles of a region, and a plain search over all of its places.
void printWays() {
  EngineOptions options;
  const auto engine = std::move(Engine::create(options)).value();
  Recipe recipe = loadRecipe("first-steps").value();
  recipe.rivers->on = true;
  recipe.rivers->courses.count = 16;
  const auto world = engine->compile(recipe).value();
  const CourseWays& ways = *world->water()->ways();
  std::shared_ptr<const CourseRegion> region;
  const double ours = secondsOf([&] { region = ways.region({0, 0}, {}); });
  int found = 0;
  for (const CourseWay& way : region->ways) found += way.found();
  const double book = secondsOf([&] {
    for (int k = 0; k < 16; ++k) {
      using Entry = std::pair<int, size_t>;
      std::priority_queue<Entry, std::vector<Entry>, std::greater<>> front;
      std::vector<int> cost(region->obstacles.size(), INT_MAX);
      const size_t start = static_cast<size_t>(region->wide) * static_cast<size_t>(8 * k);
      cost[start] = 0;
      front.emplace(0, start);
      while (!front.empty()) {
        const auto [c, n] = front.top();
        front.pop();
        if (c > cost[n]) continue;
        const auto x = static_cast<int32_t>(n % static_cast<size_t>(region->wide));
        const auto z = static_cast<int32_t>(n / static_cast<size_t>(region->wide));
        for (int dz = -1; dz <= 1; ++dz)
          for (int dx = -1; dx <= 1; ++dx) {
            if (x + dx < 0 || z + dz < 0 || x + dx >= region->wide || z + dz >= region->deep)
              continue;
            const size_t to = region->index(x + dx, z + dz);
            const int next = c + (dx != 0 && dz != 0 ? 14 : 10);
            if (region->obstacles[to] || next >= cost[to]) continue;
            cost[to] = next;
            front.emplace(next, to);
          }
      }
      benchmark::DoNotOptimize(cost);
    }
  });
  std::printf(
      "16 ways through %d x %d places, %d found: %.1f ms with their obstacles, plain searches "
      "%.1f ms: %.1fx\n",
      region->wide, region->deep, found, ours * 1e3, book * 1e3, book / ours);
}

void printWhole() {
  constexpr int kSide = 4096;
  const auto world = wet("first-steps");
  std::vector<float> heights(size_t{kSide} * kSide);
  LandOut out;
  out.heights = heights.data();
  out.stride = kSide;
  world->parts().before->evaluate({0, 0, 1, kSide, kSide}, out, {});
  std::vector<float> flooded = heights;
  const double book = secondsOf([&] { flood(flooded, kSide); });
  const double dry = secondsOf([&] {
    world->parts().before->evaluate({0, 0, 1, kSide, kSide}, out, {});
  });
  const double ours = secondsOf([&] {
    world->parts().land->evaluate({0, 0, 1, kSide, kSide}, out, {});
  });
  const double cells = double{kSide} * kSide;
  std::printf(
      "all of %d x %d cells: water %.0f ns a cell, the flood of a whole map alone %.0f ns: "
      "%.1fx, target 1x\n",
      kSide, kSide, (ours - dry) / cells * 1e9, book / cells * 1e9, book / (ours - dry));
}

void BM_KnownChunk(benchmark::State& state) {
  const auto world = wet("saltfen-reach");
  benchmark::DoNotOptimize(world->chunk({3, 3}));
  for (auto _ : state) benchmark::DoNotOptimize(world->chunk({3, 3}));
}
BENCHMARK(BM_KnownChunk)->Unit(benchmark::kMicrosecond);

}  // namespace
}  // namespace bench

int main(int argc, char** argv) {
  benchmark::Initialize(&argc, argv);
  bench::printChunks("first-steps", 120);
  bench::printChunks("saltfen-reach", 350);
  bench::printTiles();
  bench::printViews("first-steps");
  bench::printViews("saltfen-reach");
  bench::printWays();
  bench::printWhole();
  benchmark::RunSpecifiedBenchmarks();
  return 0;
}
