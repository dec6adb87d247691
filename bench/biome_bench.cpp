// Climate, chart and regions against the same stack as it is commonly written.
#include "audit/area_census.h"
#include "climate/biomes.h"
#include "textbook_land.h"
#include "world/world.h"

namespace bench {
namespace {

void overTiles(const std::function<void(int x)>& tile) {
  for (int k = 0; k < kTiles; ++k) {
    tile(k * kTileWidth);
    benchmark::ClobberMemory();
  }
}
/// Calls cell(x, z) for all cells of the sixteen places.
template <class Cell>
void overCells(Cell&& cell) {
  float* const out = canvas().data();
  overTiles([&](int x0) {
    for (int z = 0; z < kTileHeight; ++z)
      for (int x = 0; x < kTileWidth; ++x)
        out[z * kTileWidth + x] = static_cast<float>(cell(x0 + x, z));
  });
}

}  // namespace

void printBiomeTargets() {
  const Kernels& avx2 = tableOr("avx2");
  EngineOptions options;
  options.simd = avx2.name;
  const auto engine = std::move(Engine::create(options)).value();
  Recipe recipe = loadRecipe("saltfen-reach").value();
  const auto world = engine->compile(recipe).value();
  TextbookLand book(recipe);
  book.listSlices();
  std::printf(
      "\nClimate, chart and regions (saltfen-reach), one thread, per cell; table %s\n", avx2.name);
  std::printf("%-44s %11s %12s %9s\n", "", "ours", "textbook", "ratio");
  std::vector<BiomeIndex> biomes(canvas().size());
  std::vector<float> more(canvas().size());
  const auto land = [&](const World& w, bool heights, bool own) {
    overTiles([&](int x) {
      Land out;
      out.biomes = own ? biomes.data() : nullptr;
      out.heights = heights ? canvas().data() : nullptr;
      (void)w.sample({x, 0, 1, kTileWidth, kTileHeight}, out);
    });
  };
  const auto field = [&](const Field& f) {
    overTiles([&](int x) {
      f.evaluate(avx2, {x, 0, 1, kTileWidth, kTileHeight}, canvas().data(), kTileWidth);
    });
  };
  line("base height (warped, masked)",
      inTurn(
          9, [&] { field(world->heightField()); },
          [&] { overCells([&](int x, int z) { return book.height(x, z); }); }),
      kSamples, 4);
  line("moisture",
      inTurn(
          9, [&] { field(*world->field(kMoistureId)); },
          [&] { overCells([&](int x, int z) { return book.moisture(x, z); }); }),
      kSamples, 10);
  {
    // The chart alone, over values that lie as those of the world do.
    std::vector<float> t(canvas().size()), m(t.size()), h(t.size());
    const SampleGrid grid{0, 0, 1, kTileWidth, kTileHeight};
    world->field(kTemperatureId)->evaluate(avx2, grid, t.data(), kTileWidth);
    world->field(kMoistureId)->evaluate(avx2, grid, m.data(), kTileWidth);
    world->heightField().evaluate(avx2, grid, h.data(), kTileWidth);
    const Chart& chart = world->biomes()->chart();
    line("chart of fourteen areas in five slices",
        inTurn(
            25,
            [&] {
              overTiles([&](int) {
                chart.lookUp(
                    avx2, static_cast<int>(t.size()), t.data(), m.data(), h.data(), biomes.data());
              });
            },
            [&] {
              overTiles([&](int) {
                for (size_t k = 0; k < t.size(); ++k)
                  more[k] = static_cast<float>(book.biome(t[k], m[k], h[k]));
              });
            }),
        kSamples, 10);
  }
  line("height, climate, biome: the demo's stack",
      inTurn(
          9, [&] { land(*world, true, true); },
          [&] {
            overCells([&](int x, int z) {
              const float h = book.height(x, z);
              return static_cast<float>(
                         book.biome(book.temperature(x, z, h), book.moisture(x, z), h)) +
                     h;
            });
          }),
      kSamples, 5);

  recipe.biomes.regions.on = true;
  recipe.biomes.regions.size = 128;
  recipe.biomes.regions.warp.cells = 0;
  const auto straight = engine->compile(recipe).value();
  const RegionGrid& plain = straight->biomes()->regions();
  const auto regions = [&](const RegionGrid& grid) {
    overTiles([&](int x) {
      grid.visit(avx2, {x, 0, 1, kTileWidth, kTileHeight}, 0, 0, {},
          [&](const RegionPatch& patch) { benchmark::DoNotOptimize(patch.own.data()); });
    });
  };
  line("regions of 128 cells, straight",
      inTurn(
          15, [&] { regions(plain); },
          [&] {
            overCells([&](int x, int z) {
              return book.site(static_cast<float>(x), static_cast<float>(z)).first;
            });
          }),
      kSamples, 10);
  recipe.biomes.regions.warp.cells = 14;
  recipe.biomes.regions.warp.noise.width = 60;
  recipe.biomes.regions.warp.noise.octaves = 2;
  const auto warped = engine->compile(recipe).value();
  line("regions of 128 cells, warped",
      inTurn(
          15, [&] { regions(warped->biomes()->regions()); },
          [&] { overCells([&](int x, int z) { return book.warpedSite(x, z).first; }); }),
      kSamples, 4);
  line("height, climate, biome, region: all of it",
      inTurn(
          9, [&] { land(*warped, true, true); },
          [&] {
            overCells([&](int x, int z) {
              const float h = book.height(x, z);
              const auto [sx, sz] = book.warpedSite(x, z);
              return static_cast<float>(
                         book.biome(book.temperature(sx, sz, h), book.moisture(sx, sz), h)) +
                     h;
            });
          }),
      kSamples, 5);

  acre::CensusOptions census;
  census.threads = 2;
  std::vector<double> times;
  for (int i = 0; i < 3; ++i)
    times.push_back(secondsOf([&] {
      benchmark::DoNotOptimize(censusOf(*world, {-2048, -2048, 4096, 4096}, census)->cells);
    }));
  std::sort(times.begin(), times.end());
  std::printf("%-44s %8.2f s, on two threads  target about 1.5 s\n", "census of 4096 x 4096 cells",
      times[1]);
  times.clear();
  std::vector<float> x(1), y(1), base(1);
  for (int i = 0; i < 2001; ++i) {
    const Cell cell{i * 37, i * 91};
    times.push_back(secondsOf([&] {
      warped->columns().chartValues(1, &cell, x.data(), y.data(), base.data(), Accuracy::Exact);
      benchmark::DoNotOptimize(warped->at(cell).material);
    }));
  }
  std::sort(times.begin(), times.end());
  std::printf("%-44s %8.3f ms median, %.3f ms 99th percentile, within a frame of 16 ms\n",
      "a cell under the pointer", times[1000] * 1e3, times[1980] * 1e3);
}

}  // namespace bench
