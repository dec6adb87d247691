#include <QtTest>
#include <algorithm>
#include <cmath>
#include <cstring>
#include <numeric>
#include <random>
#include <set>

#include "field/compiler.h"
#include "field/distribution.h"
#include "field/tables.h"
#include "noise/kernels.h"
#include "suite.h"
#include "world/engine.h"

using namespace acre;

namespace {

/// The value that the scalar code gives for sample (i, j) of a grid.
float sampleOf(const NoisePlan& plan, const SampleGrid& grid, int i, int j) {
  const Pos place[3] = {{grid.x + i * grid.step, 0}, {}, {grid.z + j * grid.step, 0}};
  return noiseAt(plan, place);
}

Recipe oneLayer(const Layer& layer) {
  Recipe recipe;
  recipe.seed = "one";
  recipe.heights.layers = {layer};
  return recipe;
}

Layer noiseLayer(const NoiseSource& source) {
  Layer layer;
  layer.id = layer.name = "n";
  layer.source = source;
  layer.amplitude = 10;
  return layer;
}

}  // namespace

/// Grids off the lattice's axes, and what is measured from samples.
class MeasureTest : public QObject {
  Q_OBJECT

 private slots:
  void patchesHoldWhatTheKernelsTake() {
    for (int64_t step = 1; step <= SampleGrid::kMaxStep; step += step / 3 + 1) {
      const Patch patch(step);
      QVERIFY(patch.width >= 1 && patch.height >= 1);
      QVERIFY(patch.width * patch.height <= Kernels::kMostPoints);
      // Places within some 32,000 cells of each other go the fast way, where two can at all.
      if (step <= 12'000) QVERIFY(patch.width * step <= 24'000 && patch.height * step <= 24'000);
    }
  }

  /// Turned and skewed lattices over grids of every shape, step and distance are the same bits as
  /// the scalar code cell by cell.
  void turnedGridsAreTheirPoints_data() {
    QTest::addColumn<int>("basis");
    QTest::addColumn<bool>("rotate");
    for (const auto& [name, basis] :
        {std::pair("gradient", Basis::Gradient), std::pair("value", Basis::Value),
            std::pair("simplex", Basis::Simplex), std::pair("cellular", Basis::Cellular),
            std::pair("white", Basis::White), std::pair("2002", Basis::Gradient2002)})
      for (const bool rotate : {false, true})
        QTest::addRow("%s%s", name, rotate ? ", turned" : "") << static_cast<int>(basis) << rotate;
  }
  void turnedGridsAreTheirPoints() {
    QFETCH(int, basis);
    QFETCH(bool, rotate);
    std::mt19937_64 random(static_cast<uint64_t>(basis) * 2 + rotate);
    for (const double width : {0.7, 3.0, 40.0, 3000.0})
      for (const int64_t step : {1, 2, 7, 64, 749, 750, 3000, 11'999, 12'001, 1 << 20}) {
        NoiseSource source;
        source.basis = static_cast<Basis>(basis);
        source.rotate = rotate;
        source.width = width;
        source.octaves = 2;
        source.fractal = Fractal::Fbm;
        const auto plan =
            compileNoise(source, SamplingOffset{0.3, -17.8, false}, random(), 2, "").value();
        const int widths[] = {1, 7, 8, 31, 32, 33, 256};
        for (const int64_t origin :
            {int64_t{-3}, int64_t{-2'000'000'000}, (int64_t{1} << 59) + 12345}) {
          const SampleGrid grid{
              origin, -origin, step, widths[random() % 7], 1 + static_cast<int32_t>(random() % 20)};
          std::vector<float> expected;
          for (int j = 0; j < grid.length; ++j)
            for (int i = 0; i < grid.width; ++i) expected.push_back(sampleOf(plan, grid, i, j));
          for (const Kernels* kernels : availableKernels()) {
            std::vector<float> actual(expected.size());
            kernels->grid(plan, grid, {JoinOp::Replace, 1, 0}, actual.data(), grid.width);
            QVERIFY2(
                std::memcmp(actual.data(), expected.data(), actual.size() * sizeof(float)) == 0,
                qPrintable(QString("%1 width %2 step %3 at %4, %5 x %6")
                               .arg(kernels->name)
                               .arg(width)
                               .arg(step)
                               .arg(origin)
                               .arg(grid.width)
                               .arg(grid.length)));
          }
        }
      }
  }

  /// The first pass of a warp takes its noise from the grid, later ones from points: the cells are
  /// those of single places all the same.
  void warpedGridsAreTheirPoints() {
    const auto engine = std::move(Engine::create({})).value();
    std::mt19937_64 random(3);
    for (int passes = 1; passes <= 3; ++passes)
      for (const int64_t step : {1, 5, 400, 13'000}) {
        NoiseSource source;
        source.width = 70;
        source.octaves = 3;
        Layer layer = noiseLayer(source);
        NoiseSource warp;
        warp.width = 25;
        warp.octaves = 2;
        layer.warp = Warp{warp, 90, passes};
        const auto world = engine->compile(oneLayer(layer)).value();
        const Field& field = planOf(*world).heightField();
        const int64_t origin = static_cast<int64_t>(random() % 4'000'000'000) - 2'000'000'000;
        const SampleGrid grid{origin, 77, step, 61, 23};
        std::vector<float> values(61 * 23);
        for (const Kernels* kernels : availableKernels()) {
          QVERIFY(field.evaluate(*kernels, grid, values.data(), 61, {}));
          for (int k = 0; k < 400; ++k) {
            const auto i = static_cast<int>(random() % 61), j = static_cast<int>(random() % 23);
            QCOMPARE(values[static_cast<size_t>(j * 61 + i)],
                field.at({grid.x + i * step, 0}, {grid.z + j * step, 0}));
          }
        }
      }
  }

  void blocksTallerThanASlabAreTheirPoints() {
    NoiseSource source;
    source.width = 30;
    source.octaves = 2;
    source.fractal = Fractal::Ridged;
    const auto plan = compileNoise(source, {}, 9, 3, "").value();
    for (const int height : {1, 255, 256, 257, 600}) {
      const SampleBlock block{-50, -300, 2'000'000'000, 1, 9, height, 2};
      std::vector<float> values(static_cast<size_t>(9 * height * 2));
      availableKernels().front()->block(plan, block, values.data());
      size_t at = 0;
      for (int j = 0; j < height; ++j)
        for (int k = 0; k < 2; ++k)
          for (int i = 0; i < 9; ++i) {
            const Pos place[3] = {{block.x + i, 0}, {block.y + j, 0}, {block.z + k, 0}};
            QCOMPARE(values[at++], noiseAt(plan, place));
          }
    }
  }

  // ---- sites -----------------------------------------------------------------------------------

  void endlessSitesLieOneInEachStratum() {
    const SampleSites sites({}, {}, 300, 42), again({}, {}, 300, 42), other({}, {}, 300, 43);
    QCOMPARE(sites.rows() * sites.columns(), int64_t{65'536});
    QVERIFY(!sites.exact());
    QVERIFY(sites.apart() >= 300 && sites.apart() % 2 == 1);
    std::set<std::pair<int64_t, int64_t>> strata;
    int same = 0;
    double x = 0, z = 0;
    for (int64_t j = 0; j < sites.rows(); ++j)
      for (int64_t i = 0; i < sites.columns(); ++i) {
        const Cell cell = sites.at(i, j);
        QCOMPARE(cell, again.at(i, j));
        same += cell == other.at(i, j);
        strata.insert({floorDiv(cell.x, sites.apart()), floorDiv(cell.z, sites.apart())});
        x += static_cast<double>(cell.x);
        z += static_cast<double>(cell.z);
      }
    QVERIFY(same < 100);
    QVERIFY(strata.size() > 60'000);  // Strata may be shifted against multiples of their side.
    // Spread about the origin: the mean of uniform places is within four of its deviations.
    const double deviation = 256.0 * static_cast<double>(sites.apart()) / std::sqrt(12.0) / 256;
    QVERIFY(std::abs(x / 65'536) < 4 * deviation + static_cast<double>(sites.apart()));
    QVERIFY(std::abs(z / 65'536) < 4 * deviation + static_cast<double>(sites.apart()));
  }

  void boundedSitesStayInside() {
    const AxisBounds narrow{-70, 200}, deep{1'000'000, 150};
    const SampleSites all(narrow, deep, 300, 1);
    QVERIFY(all.exact());
    std::set<std::pair<int64_t, int64_t>> cells;
    for (int64_t j = 0; j < all.rows(); ++j)
      for (int64_t i = 0; i < all.columns(); ++i) {
        const Cell c = all.at(i, j);
        cells.insert({c.x, c.z});
        QVERIFY(c.x >= -70 && c.x < 130 && c.z >= 1'000'000 && c.z < 1'000'150);
      }
    QCOMPARE(cells.size(), size_t{200 * 150});  // Every one, once.
    const AxisBounds wide{-5'000, 90'001};
    const SampleSites some(wide, wide, 300, 1);
    QVERIFY(!some.exact());
    for (int64_t j = 0; j < some.rows(); ++j)
      for (int64_t i = 0; i < some.columns(); ++i) {
        const Cell c = some.at(i, j);
        QVERIFY(c.x >= -5'000 && c.x < 85'001 && c.z >= -5'000 && c.z < 85'001);
      }
  }

  // ---- distributions ---------------------------------------------------------------------------

  void distributionsAreCounting() {
    std::mt19937_64 random(11);
    for (int round = 0; round < 30; ++round) {
      std::vector<float> values(1 + random() % 3000);
      // Every third round has many equal values.
      for (float& v : values)
        v = round % 3 == 0 ? static_cast<float>(random() % 7)
                           : static_cast<float>(random() % 2'000'000) * 1e-3f - 700;
      const Distribution d(values, true);
      const auto n = static_cast<double>(values.size());
      QCOMPARE(d.size(), values.size());
      QCOMPARE(d.lowest(), *std::min_element(values.begin(), values.end()));
      QCOMPARE(d.highest(), *std::max_element(values.begin(), values.end()));
      QVERIFY(std::abs(d.mean() - std::accumulate(values.begin(), values.end(), 0.0) / n) < 1e-3);
      QVERIFY(std::is_sorted(d.sorted().begin(), d.sorted().end()));
      for (int k = 0; k < 40; ++k) {
        const float low = values[random() % values.size()];
        const float high = low + static_cast<float>(random() % 900);
        const auto between = std::count_if(
            values.begin(), values.end(), [&](float v) { return v >= low && v < high; });
        const auto below =
            std::count_if(values.begin(), values.end(), [&](float v) { return v < low; });
        QCOMPARE(d.shareBetween(low, high), static_cast<double>(between) / n);
        QCOMPARE(d.shareBelow(low), static_cast<double>(below) / n);
        // As close to the share as the values allow.
        const double share = static_cast<double>(random() % 1001) / 1000;
        const float value = d.valueAt(share);
        const auto under =
            std::count_if(values.begin(), values.end(), [&](float v) { return v < value; });
        const auto upTo =
            std::count_if(values.begin(), values.end(), [&](float v) { return v <= value; });
        QVERIFY(static_cast<double>(under) / n <= share + 1 / n);
        QVERIFY(static_cast<double>(upTo) / n >= share - 1 / n);
      }
      QCOMPARE(d.shareBelow(d.valueAt(1)), 1.0);
      for (const int bins : {1, 7, 128}) {
        const auto counts = d.histogram(bins);
        QCOMPARE(counts.size(), static_cast<size_t>(bins));
        QCOMPARE(std::accumulate(counts.begin(), counts.end(), size_t{0}), values.size());
      }
    }
  }

  void quantilesRiseFromZeroToOne() {
    std::mt19937_64 random(5);
    std::normal_distribution<float> bell(3, 20);
    std::vector<float> values(20'000);
    for (float& v : values) v = bell(random);
    std::sort(values.begin(), values.end());
    const QuantileTable table(values);
    QCOMPARE(table.shareOf(-1e9f), 0.0f);
    QCOMPARE(table.shareOf(1e9f), QuantileTable::kBelowOne);
    float last = 0;
    for (float v = -90; v < 100; v += 0.01f) {
      const float share = table.shareOf(v);
      QVERIFY(share >= last && share <= QuantileTable::kBelowOne);
      last = share;
    }
    for (size_t i = 0; i < values.size(); i += 37)
      QVERIFY(std::abs(table.shareOf(values[i]) -
                       static_cast<float>(i) / static_cast<float>(values.size())) < 0.002f);
    // One by one or many at once.
    std::vector<float> many(values.begin(), values.begin() + 999);
    table.apply(plainKernels(), many.data(), 999);
    for (size_t i = 0; i < many.size(); ++i) QCOMPARE(many[i], table.shareOf(values[i]));
  }

  /// Patches hold every site once, few enough for a batch, near each other where strata allow it.
  void patchesHoldAllSites() {
    const AxisBounds narrow{-3, 40}, line{0, 1};
    for (const double widest : {1.0, 31.0, 901.0, 7000.0, 1e6})
      for (const auto& [x, z] :
          {std::pair<std::optional<AxisBounds>, std::optional<AxisBounds>>(), {narrow, narrow},
              {narrow, {}}, {std::nullopt, line}, {AxisBounds{5, 100'000}, {}}}) {
        const SampleSites sites(x, z, widest, 9);
        std::vector<int> met(static_cast<size_t>(sites.columns() * sites.rows()));
        for (int32_t n = 0; n < sites.patches(); ++n) {
          const SampleSites::Patch patch = sites.patch(n);
          QVERIFY(patch.cells.size() == patch.places.size() && patch.cells.size() <= 256);
          for (size_t i = 0; i < patch.cells.size(); ++i) {
            const auto at = static_cast<int64_t>(patch.places[i]);
            QVERIFY(patch.cells[i] == sites.at(at % sites.columns(), at / sites.columns()));
            ++met[patch.places[i]];
            if (widest < 1500)
              QVERIFY(std::abs(patch.cells[i].x - patch.cells[0].x) < 32'000 &&
                      std::abs(patch.cells[i].z - patch.cells[0].z) < 32'000);
          }
        }
        QVERIFY(std::all_of(met.begin(), met.end(), [](int times) { return times == 1; }));
        QVERIFY(met.size() < 1000 || static_cast<size_t>(sites.patches()) <= met.size() / 15);
      }
  }

  /// What is measured of a world does not depend on the kernels or the moment.
  void measuringRepeats() {
    NoiseSource source;
    source.width = 50;
    Layer layer = noiseLayer(source);
    const auto engine = std::move(Engine::create({})).value();
    EngineOptions plain;
    plain.simd = "plain";
    const auto slow = std::move(Engine::create(plain)).value();
    const auto a = engine->compile(oneLayer(layer)).value();
    const auto b = slow->compile(oneLayer(layer)).value();
    const auto first = engine->distribution(*a, planOf(*a).heightField());
    QCOMPARE(first->sorted(), slow->distribution(*b, planOf(*b).heightField())->sorted());
    QCOMPARE(engine->distribution(*a, planOf(*a).heightField()), first);  // Kept.
    std::stop_source stopped;
    stopped.request_stop();
    const auto c = engine->compile([&] {
      Recipe other = oneLayer(layer);
      other.seed = "another";
      return other;
    }());
    QVERIFY(!engine->distribution(**c, planOf(**c).heightField(), stopped.get_token()));
  }
};

ACRE_SUITE(MeasureTest)
#include "measure_test.moc"
