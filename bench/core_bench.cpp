// Speed as ratios against a textbook version measured in the same run. See bench/README.md.
#include <benchmark/benchmark.h>

#include <algorithm>
#include <chrono>
#include <cmath>
#include <cstdio>
#include <cstdlib>
#include <functional>
#include <string>
#include <vector>

#include "field/compiler.h"
#include "output/map_writer.h"
#include "timing.h"
#include "world/world.h"

using namespace bench;

namespace {

void gridNoise(const Kernels& kernels, const NoisePlan& plan) {
  for (int tile = 0; tile < kTiles; ++tile) {
    kernels.grid(plan, {tile * kTileWidth, 0, 1, kTileWidth, kTileHeight}, {JoinOp::Add, 1, 0},
        canvas().data(), kTileWidth);
    benchmark::ClobberMemory();
  }
}

void textbookNoise(const textbook::Gradient2& noise, int octaves) {
  float* const out = canvas().data();
  const float frequency = 1.0f / static_cast<float>(kWidth);
  for (int tile = 0; tile < kTiles; ++tile) {
    for (int z = 0; z < kTileHeight; ++z)
      for (int x = 0; x < kTileWidth; ++x)
        out[z * kTileWidth + x] = noise.fbm(static_cast<float>(tile * kTileWidth + x) * frequency,
            static_cast<float>(z) * frequency, octaves, 2, 0.5f);
    benchmark::ClobberMemory();
  }
}

/// The yardstick must measure noise: continuous, within range, using it.
void verifyTextbook() {
  const textbook::Gradient2 noise(1);
  float low = 0, high = 0, step = 0;
  for (int i = 0; i < 200000; ++i) {
    const float x = static_cast<float>(i) * 0.001f, z = static_cast<float>(i) * 0.00037f;
    const float v = noise.at(x, z);
    step = std::max(step, std::abs(noise.at(x + 0.0005f, z) - v));
    low = std::min(low, v);
    high = std::max(high, v);
  }
  if (low < -1 || high > 1 || low > -0.4f || high < 0.4f || step > 0.003f) {
    std::fprintf(stderr, "the textbook version is no noise: %g to %g, step %g\n", low, high, step);
    std::exit(1);
  }
}

// ---- single figures ---------------------------------------------------------------------------

void BM_Textbook(benchmark::State& state) {
  const textbook::Gradient2 noise(1);
  const auto octaves = static_cast<int>(state.range(0));
  for (auto _ : state) textbookNoise(noise, octaves);
  state.SetItemsProcessed(state.iterations() * static_cast<int64_t>(kSamples));
}
BENCHMARK(BM_Textbook)->Arg(1)->Arg(6)->Unit(benchmark::kMillisecond);

void noiseBenchmark(benchmark::State& state, const Kernels* kernels, int octaves) {
  const NoisePlan plan = compileNoise(sourceOf(octaves), {}, 1, 2, "").value();
  for (auto _ : state) gridNoise(*kernels, plan);
  state.SetItemsProcessed(state.iterations() * static_cast<int64_t>(kSamples));
}

void BM_Chunk(benchmark::State& state) {
  Recipe recipe = loadRecipe("saltfen-reach").value();
  recipe.frame.chunkSize = static_cast<int32_t>(state.range(0));
  const auto engine = std::move(Engine::create({})).value();
  const auto world = engine->compile(recipe).value();
  int64_t i = 0;
  for (auto _ : state) benchmark::DoNotOptimize(world->chunk({++i, -i}).value()->heights.data());
  state.SetItemsProcessed(state.iterations() * state.range(0) * state.range(0));
}
BENCHMARK(BM_Chunk)->Arg(16)->Arg(32)->Arg(64)->Unit(benchmark::kMicrosecond);

// ---- targets ----------------------------------------------------------------------------------

void printTargets() {
  const Kernels& avx2 = tableOr("avx2");
  std::printf(
      "\nAgainst the textbook version, in turn, one thread, per cell; table %s\n", avx2.name);
  std::printf("%-44s %11s %12s %9s\n", "", "ours", "textbook", "ratio");
  const textbook::Gradient2 noise(1);
  for (const auto& [octaves, target] : {std::pair(1, 25.0), std::pair(6, 15.0)}) {
    const NoisePlan plan = compileNoise(sourceOf(octaves), {}, 1, 2, "").value();
    const Pair pair = inTurn(
        25, [&] { gridNoise(avx2, plan); }, [&, n = octaves] { textbookNoise(noise, n); });
    line(octaves == 1 ? "gradient 2-D, 1 octave, width 100" : "gradient 2-D, 6 octaves, width 100",
        pair, kSamples, target);
  }

  // One octave of every other kind, width 100.
  const textbook::Noise other(2);
  const float frequency = 1.0f / static_cast<float>(kWidth);
  const auto against = [&](const char* what, NoiseSource source, double target, auto&& sample) {
    const NoisePlan plan = compileNoise(source, {}, 1, 2, "").value();
    line(what,
        inTurn(
            15, [&] { gridNoise(avx2, plan); },
            [&] {
              float* const out = canvas().data();
              for (int tile = 0; tile < kTiles; ++tile) {
                for (int z = 0; z < kTileHeight; ++z)
                  for (int x = 0; x < kTileWidth; ++x)
                    out[z * kTileWidth + x] =
                        sample(static_cast<float>(tile * kTileWidth + x) * frequency,
                            static_cast<float>(z) * frequency);
                benchmark::ClobberMemory();
              }
            }),
        kSamples, target);
  };
  NoiseSource source = sourceOf(1);
  source.basis = Basis::Value;
  against("value 2-D, width 100", source, 25, [&](float x, float z) { return other.value(x, z); });
  source.basis = Basis::Cellular;
  against("cellular distance 2-D, width 100", source, 15,
      [&](float x, float z) { return other.cellular(x, z); });
  source.basis = Basis::Simplex;
  against(
      "simplex 2-D, width 100", source, 4, [&](float x, float z) { return other.simplex(x, z); });
  source = sourceOf(6);
  source.rotate = true;
  against("gradient 2-D, 6 octaves, rotated", source, 4, [&](float x, float z) {
    float sum = 0, amplitude = 1;
    for (int k = 0; k < 6; ++k) {
      sum += noise.at(x, z) * amplitude;
      const float nx = 2 * (0.8f * x - 0.6f * z);
      z = 2 * (0.6f * x + 0.8f * z);
      x = nx;
      amplitude *= 0.5f;
    }
    return sum;
  });
  {
    const NoisePlan solid = compileNoise(sourceOf(1, 50), {}, 1, 3, "").value();
    constexpr int kSide = 32, kBlocks = 8;
    std::vector<float> block(size_t{kSide} * kSide * kSide);
    line("gradient 3-D, width 50, blocks of 32",
        inTurn(
            15,
            [&] {
              for (int b = 0; b < kBlocks; ++b) {
                avx2.block(solid, {b * kSide, 0, 0, 1, kSide, kSide, kSide}, block.data());
                benchmark::ClobberMemory();
              }
            },
            [&] {
              for (int b = 0; b < kBlocks; ++b) {
                size_t i = 0;
                for (int y = 0; y < kSide; ++y)
                  for (int z = 0; z < kSide; ++z)
                    for (int x = 0; x < kSide; ++x)
                      block[i++] = other.gradient3(static_cast<float>(b * kSide + x) * 0.02f,
                          static_cast<float>(y) * 0.02f, static_cast<float>(z) * 0.02f);
                benchmark::ClobberMemory();
              }
            }),
        double{kSide} * kSide * kSide * kBlocks, 50);
  }

  // Whole stacks of layers.
  const auto stack = [&](const char* what, const Recipe& recipe, double target) {
    EngineOptions simd;
    simd.simd = avx2.name;
    const auto maker = std::move(Engine::create(simd)).value();
    const auto world = maker->compile(recipe).value();
    const TextbookField written(recipe.heights);
    line(what,
        inTurn(
            9,
            [&] {
              for (int tile = 0; tile < kTiles; ++tile)
                world->heightField().evaluate(avx2,
                    {tile * kTileWidth, 0, 1, kTileWidth, kTileHeight}, canvas().data(),
                    kTileWidth);
            },
            [&] {
              for (int tile = 0; tile < kTiles; ++tile) {
                for (int z = 0; z < kTileHeight; ++z)
                  for (int x = 0; x < kTileWidth; ++x)
                    canvas()[static_cast<size_t>(z * kTileWidth + x)] =
                        written.at(tile * kTileWidth + x, z);
                benchmark::ClobberMemory();
              }
            }),
        kSamples, target);
  };
  Recipe aligned = loadRecipe("first-steps").value();
  stack("axis-aligned stack (first-steps)", aligned, 15);
  aligned.heights.layers.resize(1);
  auto& warped = aligned.heights.layers[0];
  warped.source = sourceOf(6);
  warped.warp = Warp{sourceOf(2, 160), 36, 1};
  stack("six octaves, warped by two of two", aligned, 4);

  // A picture of 4096 x 4096 heights of the demo. The textbook takes every eighth row: its cost is
  // linear.
  EngineOptions options;
  options.simd = avx2.name;
  const auto engine = std::move(Engine::create(options)).value();
  const Recipe recipe = loadRecipe("saltfen-reach").value();
  const auto world = engine->compile(recipe).value();
  const TextbookField heights(recipe.heights);
  constexpr int kPicture = 4096, kEvery = 8;
  std::vector<float> row(kPicture);
  MapRequest request;
  request.grid = {-kPicture / 2, -kPicture / 2, 1, kPicture, kPicture};
  request.show.kind = PictureKind::Height;
  request.format = MapFormat::Png16;
  const std::string file = "/dev/null";
  std::vector<double> generated, written;
  const Pair whole = inTurn(
      3,
      [&] {
        const auto report = writeMap(*world, request, file);
        generated.push_back(report->generateSeconds);
        written.push_back(report->writeSeconds);
      },
      [&] {
        for (int z = 0; z < kPicture; z += kEvery) {
          for (int x = 0; x < kPicture; ++x) row[static_cast<size_t>(x)] = heights.at(x, z);
          benchmark::ClobberMemory();
        }
      });
  std::sort(generated.begin(), generated.end());
  std::sort(written.begin(), written.end());
  const double generate = generated[generated.size() / 2];
  const double write = written[written.size() / 2];
  const double textbookSeconds = whole.textbook * kEvery;
  std::printf("%-44s %8.2f ns %9.2f ns %8.1fx\n", "picture of 4096 x 4096 heights of the demo",
      generate / kPicture / kPicture * 1e9, textbookSeconds / kPicture / kPicture * 1e9,
      textbookSeconds / generate);
  std::printf(
      "%-44s %8.3f s generating, %.3f s writing the PNG\n", "  whole picture", generate, write);

  std::printf("\nShare of the time by layer (saltfen-reach, %s)\n", avx2.name);
  std::vector<std::pair<std::string, double>> parts;
  double sum = 0;
  for (const Layer& layer : recipe.heights.layers) {
    Recipe alone = recipe;
    alone.heights.layers = {layer};
    const auto one = engine->compile(alone).value();
    std::vector<double> times;
    for (int i = 0; i < 15; ++i)
      times.push_back(secondsOf([&] {
        for (int tile = 0; tile < kTiles; ++tile)
          one->heightField().evaluate(avx2, {tile * kTileWidth, 0, 1, kTileWidth, kTileHeight},
              canvas().data(), kTileWidth);
      }));
    std::sort(times.begin(), times.end());
    parts.emplace_back(layer.name, times[times.size() / 2]);
    sum += parts.back().second;
  }
  for (const auto& [name, seconds] : parts)
    std::printf("  %-24s %5.1f %%  %6.2f ns a cell\n", name.c_str(), seconds / sum * 100,
        seconds / kSamples * 1e9);
}

}  // namespace

int main(int argc, char** argv) {
  verifyTextbook();
  for (const Kernels* table : availableKernels())
    for (const int octaves : {1, 6})
      benchmark::RegisterBenchmark(
          ("BM_Gradient/" + std::string(table->name) + "/" + std::to_string(octaves)).c_str(),
          noiseBenchmark, table, octaves)
          ->Unit(benchmark::kMillisecond);
  benchmark::Initialize(&argc, argv);
  if (benchmark::ReportUnrecognizedArguments(argc, argv)) return 1;
  benchmark::RunSpecifiedBenchmarks();
  printTargets();
  printBiomeTargets();
  return 0;
}
