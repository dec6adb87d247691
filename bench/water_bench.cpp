// Rivers and lakes: a first chunk anywhere, the next ones, what water costs where its network is
// known, and all of an area against a flood of the whole map as it is commonly written.
#include <benchmark/benchmark.h>

#include <cstdio>
#include <queue>
#include <vector>

#include "climate/land_sampler.h"
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

void printWhole() {
  constexpr int kSide = 2048;
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
  bench::printWhole();
  benchmark::RunSpecifiedBenchmarks();
  return 0;
}
