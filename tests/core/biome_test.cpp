#include <QtTest>
#include <cmath>
#include <map>
#include <random>
#include <set>

#include "audit/area_census.h"
#include "climate/biomes.h"
#include "core/biome_recipes.h"
#include "recipe/json.h"
#include "recipe/validate.h"
#include "reference/evaluator.h"
#include "suite.h"
#include "world/engine.h"
#include "world/fingerprint.h"
#include "world/world.h"

using namespace acre;

namespace {

Result<std::shared_ptr<const World>> compiled(const Recipe& recipe) {
  static const auto engine = std::move(Engine::create({})).value();
  return engine->compile(recipe);
}
std::shared_ptr<const World> worldOf(const Recipe& recipe) {
  const auto world = compiled(recipe);
  if (!world) qFatal("%s", world.error().what.c_str());
  return *world;
}

constexpr float kEndless = std::numeric_limits<float>::infinity();

}  // namespace

class BiomeTest : public QObject {
  Q_OBJECT

 private slots:
  void agreesWithTheReference_data() {
    QTest::addColumn<unsigned>("variant");
    for (unsigned v = 0; v < kLandVariants; ++v)
      if ((v & 4) || v < 4) QTest::addRow("%u", v) << v;
  }
  /// Heights, biomes and materials of random cells, near and far, by point and in a grid.
  void agreesWithTheReference() {
    QFETCH(unsigned, variant);
    const Recipe recipe = landWithBiomes(variant);
    const auto world = worldOf(recipe);
    reference::Evaluator reference(recipe);
    std::mt19937_64 random(variant);
    std::set<std::string> met;
    for (int i = 0; i < 220; ++i) {
      const int64_t reach = i % 4 == 0 ? 2'000'000'000 : i % 4 == 1 ? kMaxCell - 64 : 5000;
      const auto coordinate = [&] {
        return static_cast<int64_t>(random() % static_cast<uint64_t>(2 * reach + 1)) - reach;
      };
      const Cell cell{coordinate(), coordinate()};
      const reference::CellValue expected = reference.evaluate(cell);
      met.insert(expected.biome);
      const CellValue value = world->at(cell);
      const QString place = QString("%1,%2").arg(cell.x).arg(cell.z);
      QVERIFY2(value.height == expected.height, qPrintable(place));
      QVERIFY2(world->catalogue().biomeId(value.biome) == expected.biome, qPrintable(place));
      QVERIFY2(
          world->catalogue().materialId(value.material) == expected.material, qPrintable(place));
      float height[9];
      MaterialIndex material[9];
      BiomeIndex biome[9];
      Land land;
      land.heights = height;
      land.materials = material;
      land.biomes = biome;
      QVERIFY(world->sample({cell.x - 7, cell.z - 7, 7, 3, 3}, land).ok());
      QVERIFY2(height[4] == expected.height, qPrintable(place));
      QCOMPARE(biome[4], value.biome);
      QCOMPARE(material[4], value.material);
    }
    QVERIFY(met.size() > 3);
  }

  /// Small pieces go to the neighbour that they touch most, the same in every cut, up to the stated
  /// step, and a census finds next to none that is left.
  void isletsAreGivenBack() {
    Recipe recipe = landWithBiomes(4 | 16);
    Regions& regions = recipe.biomes.regions;
    regions.size = 48;
    regions.warp.cells = 22;
    regions.warp.noise.width = 14;
    recipe.biomes.border.ground = 6;
    const auto torn = worldOf(recipe);
    regions.islets = 9;
    const auto mended = worldOf(recipe);
    QCOMPARE(mended->biomes()->islets(), 9);
    reference::Evaluator reference(recipe);
    const Rect area{-70, 2'000'000'000, 130, 90};
    const auto regionsOf = [](const World& world, const SampleGrid& grid) {
      std::vector<uint32_t> hashes(
          static_cast<size_t>(grid.width) * static_cast<size_t>(grid.length));
      std::vector<BiomeIndex> biomes(hashes.size());
      Land land;
      land.regions = hashes.data();
      land.biomes = biomes.data();
      if (!world.sample(grid, land)) qFatal("no sample");
      return std::pair(hashes, biomes);
    };
    const SampleGrid whole{area.x, area.z, 1, 130, 90};
    const auto [before, oldBiomes] = regionsOf(*torn, whole);
    const auto [after, biomes] = regionsOf(*mended, whole);
    int given = 0;
    for (int k = 0; k < 130 * 90; ++k) {
      const auto at = static_cast<size_t>(k);
      const Cell cell{area.x + k % 130, area.z + k / 130};
      given += before[at] != after[at];
      if (before[at] == after[at] && k % 53) continue;
      QCOMPARE(mended->catalogue().biomeId(biomes[at]), reference.evaluate(cell).biome);
      QCOMPARE(mended->at(cell).biome, biomes[at]);
      QCOMPARE(mended->at(cell).height, torn->at(cell).height);  // Heights blend as before.
    }
    QVERIFY2(given > 50, qPrintable(QString::number(given)));
    for (const int64_t step : {2, 3, 4, 5}) {
      const auto [sparse, b] = regionsOf(*mended, {area.x, area.z, step, 26, 18});
      int other = 0;
      for (int j = 0; j < 18; ++j)
        for (int i = 0; i < 26; ++i)
          other += sparse[static_cast<size_t>(j * 26 + i)] !=
                   after[static_cast<size_t>(j * step * 130 + i * step)];
      QCOMPARE(other > 0, step > Islets::kExactStep);
    }
    const auto chunk = mended->chunk(mended->layout().chunkOf({area.x + 60, area.z + 40})).value();
    for (size_t k = 0; k < chunk->biomes.size(); ++k) {
      const Cell cell{chunk->rect.x + static_cast<int64_t>(k) % 32,
          chunk->rect.z + static_cast<int64_t>(k) / 32};
      if (area.contains(cell))
        QCOMPARE(chunk->biomes[k],
            biomes[static_cast<size_t>((cell.z - area.z) * 130 + cell.x - area.x)]);
    }
    const auto left = [](const World& world) {
      return censusOf(world, {0, 0, 1500, 1500})->regions->islets;
    };
    const uint64_t many = left(*torn), few = left(*mended);
    QVERIFY2(many > 100 && few < many / 5, qPrintable(QString("%1, %2").arg(many).arg(few)));
    // Beyond half a square it is off.
    regions.warp.cells = 24.5;
    QCOMPARE(worldOf(recipe)->biomes()->islets(), 0);
  }

  /// Every kernel table, step and cut gives the same cells.
  void gridsAreTheSameHoweverTheyAreCut() {
    for (const unsigned variant : {2u, 3u, 6u, 22u, 30u}) {
      const Recipe recipe = landWithBiomes(variant);
      std::vector<float> heights[2], borders[2];
      std::vector<BiomeIndex> biomes[2];
      std::vector<uint32_t> regions[2];
      for (const int64_t step : {1, 4, 50, 5000}) {
        const SampleGrid grid{-1'999'999'990, 1'999'999'001, step, 150, 70};
        const size_t count = 150 * 70;
        for (int pass = 0; pass < 2; ++pass) {
          heights[pass].assign(count, 0);
          borders[pass].assign(count, 0);
          biomes[pass].assign(count, 0);
          regions[pass].assign(count, 0);
        }
        for (const Kernels* kernels : availableKernels()) {
          const auto engine =
              std::move(Engine::create({1, uint64_t{1} << 30, kernels->name})).value();
          const auto world = engine->compile(recipe).value();
          const int pass = kernels == availableKernels().front() ? 0 : 1;
          // The first table whole, the others in pieces of odd sizes.
          const int32_t wide = pass == 0 ? 150 : 37, high = pass == 0 ? 70 : 13;
          for (int32_t z = 0; z < 70; z += high)
            for (int32_t x = 0; x < 150; x += wide) {
              const SampleGrid part{grid.x + x * step, grid.z + z * step, step,
                  std::min(wide, 150 - x), std::min(high, 70 - z)};
              const ptrdiff_t at = z * 150 + x;
              Land land;
              land.heights = heights[pass].data() + at;
              land.biomes = biomes[pass].data() + at;
              land.regions = regions[pass].data() + at;
              land.borders = borders[pass].data() + at;
              land.stride = 150;
              QVERIFY(world->sample(part, land).ok());
            }
          if (pass == 0) continue;
          QVERIFY(heights[0] == heights[1]);
          QVERIFY(biomes[0] == biomes[1]);
          QVERIFY(regions[0] == regions[1]);
          QVERIFY(borders[0] == borders[1]);
        }
      }
    }
  }

  /// Random rules against reading them one after the other, at edges and to either side of them.
  void theChartIsItsRulesInOrder() {
    std::mt19937 random(3);
    for (unsigned variant = 0; variant < 40; ++variant) {
      Recipe recipe = landWithBiomes(variant & 3);
      // With very many areas slices are looked up one by one.
      for (int i = 0; variant >= 36 && i < 200; ++i) {
        const double x = static_cast<double>(random() % 1900) / 1000 - 1;
        const double y = static_cast<double>(random() % 1900) / 1000 - 1;
        recipe.biomes.areas.push_back(areaOf("more" + std::to_string(i),
            "b" + std::to_string(random() % 8), x, x + 0.07, y, y + 0.05));
      }
      const Biomes& b = recipe.biomes;
      std::vector<float> ends;
      for (const Slice& slice : b.slices)
        if (slice.below) ends.push_back(altitudeOf(*slice.below, 0));
      const Chart chart({b, scaleOf(recipe, b.x), scaleOf(recipe, b.y), 0, ends});
      std::vector<float> xs, ys, altitudes = {-40, 40};
      for (const Area& area : b.areas)
        for (const auto& [span, out] : {std::pair(area.x, &xs), std::pair(area.y, &ys)})
          for (const auto& end : {span.low, span.high})
            if (end) out->push_back(static_cast<float>(*end));
      for (int k = 0; k <= 9; ++k) xs.push_back(partEdge(chart.x(), k, 9));
      for (int k = 0; k <= 7; ++k) ys.push_back(partEdge(chart.y(), k, 7));
      altitudes.insert(altitudes.end(), ends.begin(), ends.end());
      std::vector<float> x, y, altitude;
      for (int i = 0; i < 500; ++i) {
        const auto pick = [&](const std::vector<float>& from) {
          const float v = from[random() % from.size()];
          const auto where = random() % 3;
          return where == 0 ? v : std::nextafter(v, where == 1 ? kEndless : -kEndless);
        };
        x.push_back(pick(xs));
        y.push_back(pick(ys));
        altitude.push_back(pick(altitudes));
      }
      for (const Kernels* kernels : availableKernels()) {
        std::vector<BiomeIndex> found(x.size());
        chart.lookUp(*kernels, static_cast<int>(x.size()), x.data(), y.data(), altitude.data(),
            found.data());
        for (size_t i = 0; i < x.size(); ++i) {
          const Chart::Decision decision = chart.decide(x[i], y[i], altitude[i]);
          QCOMPARE(found[i], decision.biome);
          if (b.rules == ChartRules::Points) continue;
          // The first rule that holds the values.
          size_t slice = 0;
          while (slice < ends.size() && altitude[i] >= ends[slice]) ++slice;
          QCOMPARE(decision.slice, static_cast<int>(slice));
          std::string expected = b.slices.empty() ? "" : b.slices[slice].biome;
          int rule = -1;
          const auto in = [](const Span& span, float v) {
            return (!span.low || v >= static_cast<float>(*span.low)) &&
                   (!span.high || v < static_cast<float>(*span.high));
          };
          for (size_t k = 0; k < b.areas.size() && expected.empty(); ++k) {
            const Area& area = b.areas[k];
            if (!area.slices.empty() && area.slices[0] != b.slices[slice].id) continue;
            if (area.painting) {
              int column = 0, row = 0;
              while (column < 8 && x[i] >= partEdge(chart.x(), column + 1, 9)) ++column;
              while (row < 6 && y[i] >= partEdge(chart.y(), row + 1, 7)) ++row;
              const int cell = area.painting->cells[static_cast<size_t>(row * 9 + column)];
              if (cell) expected = area.painting->biomes[static_cast<size_t>(cell - 1)];
            } else if (in(area.x, x[i]) && in(area.y, y[i])) {
              expected = area.biome;
            }
            if (!expected.empty()) rule = static_cast<int>(k);
          }
          QCOMPARE(decision.biome, biomeIndex(b, expected));
          QCOMPARE(decision.area, rule);
        }
      }
    }
  }

  void uncoveredIsWhatIsLeftOver() {
    Recipe recipe = landWithClimate();
    Biomes& b = recipe.biomes;
    b.list = {biomeOfId("a", 1), biomeOfId("c", 2)};
    b.areas = {areaOf("1", "a", -1, 0, -1, 1), areaOf("2", "c", -0.5, 0.5, 0, INFINITY)};
    const Chart chart({b, scaleOf(recipe, b.x), scaleOf(recipe, b.y), 0, {}});
    QCOMPARE(chart.uncovered(0), 0.5 - 0.25 * 0.5);
    b.rules = ChartRules::Points;
    const Chart none({b, scaleOf(recipe, b.x), scaleOf(recipe, b.y), 0, {}});
    QCOMPARE(none.uncovered(0), 1.0);  // No biome has a point.
    b.list[0].ideal.emplace();
    const Chart points({b, scaleOf(recipe, b.x), scaleOf(recipe, b.y), 0, {}});
    QCOMPARE(points.uncovered(0), 0.0);
  }

  /// The sea stays where it is, whatever the biomes do to the heights.
  void theCoastStays() {
    for (const unsigned variant : {0u, 7u, 22u}) {
      const auto world = worldOf(landWithBiomes(variant));
      const SampleGrid grid{-900, 400, 3, 300, 200};
      std::vector<float> base(60000), heights(60000);
      Land land;
      land.base = base.data();
      land.heights = heights.data();
      QVERIFY(world->sample(grid, land).ok());
      int wet = 0, changed = 0;
      for (size_t i = 0; i < base.size(); ++i) {
        QCOMPARE(heights[i] < 0, base[i] < 0);
        wet += base[i] < 0;
        changed += heights[i] != base[i];
      }
      QVERIFY(wet > 3000 && wet < 57000);
      QVERIFY(changed > 30000);
    }
  }

  /// Between neighbouring cells the height steps no more than the base, grown by the largest
  /// factor, the slope of the blend and that of the roughness allow.
  void blendingHasNoCliffs_data() {
    QTest::addColumn<unsigned>("variant");
    for (const unsigned v : {0u, 1u, 2u, 4u, 6u, 12u, 22u}) QTest::addRow("%u", v) << v;
  }
  void blendingHasNoCliffs() {
    QFETCH(unsigned, variant);
    Recipe recipe = landWithBiomes(variant);
    for (Biome& biome : recipe.biomes.list) biome.relief.rough = 0;
    const auto world = worldOf(recipe);
    const SampleGrid grid{3000, -2000, 1, 700, 500};
    std::vector<float> base(350000), heights(350000);
    Land land;
    land.base = base.data();
    land.heights = heights.data();
    QVERIFY(world->sample(grid, land).ok());
    float largest = 0, baseStep = 0, away = 0;
    for (size_t i = 1; i < base.size(); ++i) {
      if (i % 700 == 0) continue;
      largest = std::max(largest, std::abs(heights[i] - heights[i - 1]));
      baseStep = std::max(baseStep, std::abs(base[i] - base[i - 1]));
      away = std::max(away, std::abs(base[i]));
    }
    // A step of base moves r * factor by at most 1.5 of it, and raise grows over 4 cells by up to
    // 6. Reliefs differ by at most 1.3 in factor and 10 in raise. One cell of ground changes the
    // weights of regions (width 11, warped with a slope below 3) by at most 3 * 4 / 11 of that;
    // chart blends change over a few knots of 1/64, 0.01 a cell, altitude over two cells or more.
    const float blend = (1.3f * away + 10) * ((variant & 4) ? 3 * 4 / 11.0f : 0.45f);
    const float bound = baseStep * (1.5f + 6 / 4.0f + (1.3f * away + 10) / 2) + blend;
    QVERIFY2(largest <= bound, qPrintable(QString("%1 > %2").arg(largest).arg(bound)));
    // Without blending there are cliffs: the bound is worth something.
    recipe.biomes.border = {0, 0, 0};
    if (!(variant & 4)) return;
    const auto sharp = worldOf(recipe);
    land.base = nullptr;
    std::vector<float> cut(heights.size());
    land.heights = cut.data();
    QVERIFY(sharp->sample(grid, land).ok());
    float cliff = 0;
    for (size_t i = 1; i < cut.size(); ++i)
      if (i % 700) cliff = std::max(cliff, std::abs(cut[i] - cut[i - 1]));
    QVERIFY2(cliff > 1.5f * largest, qPrintable(QString("%1 and %2").arg(cliff).arg(largest)));
  }

  /// What a place was called is what it is called in any larger world.
  void regionsKeepTheirNames() {
    Recipe recipe = landWithBiomes(22);
    recipe.frame.x = AxisBounds{-100, 200};
    recipe.frame.z = AxisBounds{-100, 200};
    const auto small = worldOf(recipe);
    recipe.frame.x = AxisBounds{-5000, 20000};
    recipe.frame.z.reset();
    recipe.frame.chunkSize = 77;
    const auto large = worldOf(recipe);
    std::vector<uint32_t> regions[2];
    std::vector<BiomeIndex> biomes[2];
    for (int k = 0; k < 2; ++k) {
      regions[k].resize(40000);
      biomes[k].resize(40000);
      Land land;
      land.regions = regions[k].data();
      land.biomes = biomes[k].data();
      QVERIFY((k ? large : small)->sample({-100, -100, 1, 200, 200}, land).ok());
    }
    QVERIFY(regions[0] == regions[1]);
    QVERIFY(biomes[0] == biomes[1]);
    QVERIFY(std::set<uint32_t>(regions[0].begin(), regions[0].end()).size() > 6);
  }

  void weightsAreTheSharesOfRegions() {
    Recipe recipe = landWithBiomes(4 | 8);
    recipe.biomes.regions.size = 8;
    recipe.biomes.border.ground = 0;
    const auto world = worldOf(recipe);
    std::map<uint32_t, BiomeIndex> drawn;
    std::vector<uint32_t> regions(1000 * 500);
    std::vector<BiomeIndex> biomes(regions.size());
    Land land;
    land.regions = regions.data();
    land.biomes = biomes.data();
    QVERIFY(world->sample({0, 0, 1, 1000, 500}, land).ok());
    for (size_t i = 0; i < regions.size(); ++i) {
      const auto [entry, fresh] = drawn.try_emplace(regions[i], biomes[i]);
      QCOMPARE(entry->second, biomes[i]);
    }
    double sum = 0;
    for (const Biome& biome : recipe.biomes.list) sum += biome.weight;
    std::map<BiomeIndex, double> counts;
    for (const auto& [region, biome] : drawn)
      counts[biome] += 1.0 / static_cast<double>(drawn.size());
    QVERIFY(drawn.size() > 7000);
    for (size_t i = 0; i < recipe.biomes.list.size(); ++i)
      QVERIFY(std::abs(counts[static_cast<BiomeIndex>(i + 1)] -
                       recipe.biomes.list[i].weight / sum) < 0.02);
  }

  void chunksCarryTheirBiomes() {
    const auto world = worldOf(landWithBiomes(6));
    const auto chunk = world->chunk({-3, 5}).value();
    QCOMPARE(chunk->biomes.size(), chunk->heights.size());
    for (size_t i = 0; i < chunk->biomes.size(); i += 37) {
      const Cell cell{chunk->rect.x + static_cast<int64_t>(i) % chunk->rect.width,
          chunk->rect.z + static_cast<int64_t>(i) / chunk->rect.width};
      QCOMPARE(chunk->biomes[i], world->at(cell).biome);
      QCOMPARE(chunk->heights[i], world->at(cell).height);
    }
    QVERIFY(chunk->bytes() <= world->largestChunkBytes());
    // Another colour changes nothing, another rule does.
    Recipe recipe = landWithBiomes(6);
    recipe.biomes.list[0].colour = {1, 2, 3};
    QVERIFY(worldFingerprint(*worldOf(recipe)) == worldFingerprint(*world));
    recipe.biomes.list[1].id = "renamed";
    for (Area& area : recipe.biomes.areas)
      if (area.biome == "b1") area.biome = "renamed";
    recipe.biomes.areas.back().painting->biomes[0] = "renamed";
    QVERIFY(worldFingerprint(*worldOf(recipe)) != worldFingerprint(*world));
  }

  void filesKeepEverything() {
    for (unsigned variant = 0; variant < kLandVariants; ++variant) {
      Recipe recipe = landWithBiomes(variant);
      recipe.biomes.list[0].tags = {"damp", "north"};
      recipe.biomes.border = {0.1, 5, 3.5};
      recipe.biomes.coast = 7;
      recipe.biomes.roughness.width = 44;
      recipe.biomes.roughness.basis = Basis::Simplex;
      if (variant & 1) {
        recipe.fields = {{"f", "F", {noiseLayer("one", 100, 2)}, {}, {}}};
        recipe.biomes.x = {"f", -2, 2.5};
        recipe.biomes.regions.warp.x = recipe.biomes.regions.warp.z = "f";
      }
      const std::string text = recipeToJson(recipe);
      const auto read = recipeFromJson(text);
      QVERIFY2(read.ok(), read.ok() ? "" : (read.error().where + read.error().what).c_str());
      // Noise that named fields stand in for is not written.
      if (variant & 1) recipe.biomes.regions.warp.noise = {};
      QVERIFY(*read == recipe);
      QCOMPARE(recipeToJson(*read), text);
    }
  }

  void badInputIsRefusedWithItsPlace_data() {
    QTest::addColumn<std::function<void(Recipe&)>>("spoil");
    QTest::addColumn<QString>("where");
    const auto row = [](const char* name, const char* where, std::function<void(Recipe&)> spoil) {
      QTest::newRow(name) << std::move(spoil) << QString(where);
    };
    row("range reversed", "/biomes/areas/0/x", [](Recipe& r) { r.biomes.areas[0].x = {0.5, 0.2}; });
    row("not a number", "/biomes/areas/1/y/0", [](Recipe& r) { r.biomes.areas[1].y.low = NAN; });
    row("off the chart", "/biomes/areas/2/x", [](Recipe& r) { r.biomes.areas[2].x = {3, 4}; });
    row("two with one id", "/biomes/list/4/id", [](Recipe& r) { r.biomes.list[4].id = "b1"; });
    row("too many", "/biomes/list", [](Recipe& r) {
      for (int i = 0; i < 10000; ++i) r.biomes.list.push_back(biomeOfId(std::to_string(i), 0));
    });
    row("missing bands", "/biomes/list/6/bands/of",
        [](Recipe& r) { r.biomes.list[5].bands.reset(); });
    row("no such bands", "/biomes/list/6/bands/of",
        [](Recipe& r) { r.biomes.list[6].bandsOf = "x"; });
    row("missing material", "/biomes/list/5/bands/0/material",
        [](Recipe& r) { (*r.biomes.list[5].bands)[0].material = "gold"; });
    row("missing biome", "/biomes/areas/3/biome", [](Recipe& r) { r.biomes.areas[3].biome = "x"; });
    row("missing slice", "/biomes/areas/3/slices/0",
        [](Recipe& r) { r.biomes.areas[3].slices = {"x"}; });
    row("slice without an end", "/biomes/slices/1",
        [](Recipe& r) { r.biomes.slices[1].below.reset(); });
    row("no region", "/biomes/regions/size", [](Recipe& r) { r.biomes.regions.size = 0; });
    row("far warp", "/biomes/regions/warp/cells",
        [](Recipe& r) { r.biomes.regions.warp.cells = 1e9; });
    row("wide border", "/biomes/border/ground", [](Recipe& r) { r.biomes.border.ground = 61; });
    row("no climate", "/biomes/chart/x", [](Recipe& r) { r.climate.on = false; });
    row("no field", "/biomes/chart/y/field", [](Recipe& r) { r.biomes.y.field = "nothing"; });
    row("painting too wide", "/biomes/areas/12/painting/columns",
        [](Recipe& r) { r.biomes.areas[12].painting->columns = 129; });
    row("painting cut short", "/biomes/areas/12/painting/rows",
        [](Recipe& r) { r.biomes.areas[12].painting->cells.pop_back(); });
    row("painted with nothing known", "/biomes/areas/12/painting/rows/0",
        [](Recipe& r) { r.biomes.areas[12].painting->cells[0] = 4; });
    row("steep", "/biomes/list/2/relief/factor",
        [](Recipe& r) { r.biomes.list[2].relief.factor = 9; });
    row("ideal weight", "/biomes/list/2/ideal/weight",
        [](Recipe& r) { r.biomes.list[2].ideal->weight = 0; });
  }
  void badInputIsRefusedWithItsPlace() {
    QFETCH(std::function<void(Recipe&)>, spoil);
    QFETCH(QString, where);
    Recipe recipe = landWithBiomes(31);
    QVERIFY(validate(recipe).ok());
    spoil(recipe);
    const Status status = validate(recipe);
    QVERIFY(!status.ok());
    QCOMPARE(QString::fromStdString(status.error().where), where);
    QVERIFY(!status.error().what.empty());
    QVERIFY(!status.error().accepted.empty());
    QVERIFY(!compiled(recipe).ok());
  }

  /// No biome at all is a world to begin with, not a fault.
  void anEmptyStageCoversNothing() {
    Recipe recipe = landWithClimate();
    recipe.biomes.on = true;
    for (const ChartRules rules : {ChartRules::Areas, ChartRules::Points})
      for (const bool regions : {false, true})
        for (const auto choice : {Regions::Choice::Climate, Regions::Choice::Weights}) {
          recipe.biomes.rules = rules;
          recipe.biomes.regions.on = regions;
          recipe.biomes.regions.choice = choice;
          const auto world = worldOf(recipe);
          const CellValue value = world->at({5, -9});
          QCOMPARE(value.biome, kNoBiome);
          QCOMPARE(value.height, value.base);
          BiomeIndex biomes[20];
          Land land;
          land.biomes = biomes;
          QVERIFY(world->sample({0, 0, 3, 5, 4}, land).ok());
          for (const BiomeIndex b : biomes) QCOMPARE(b, kNoBiome);
        }
  }
};

ACRE_SUITE(BiomeTest)
#include "biome_test.moc"
