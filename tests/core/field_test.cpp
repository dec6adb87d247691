#include <png.h>

#include <QTemporaryDir>
#include <QtTest>
#include <algorithm>
#include <cmath>
#include <cstring>
#include <random>

#include "core/layers.h"
#include "field/compiler.h"
#include "field/distribution.h"
#include "recipe/validate.h"
#include "reference/evaluator.h"
#include "strata/bands.h"
#include "suite.h"
#include "world/engine.h"
#include "world/world.h"

using namespace acre;

namespace {

/// Layers of every kind, joined in every way, with masks, warps, curves and clamps.
Recipe everything(int variant) {
  Recipe r;
  r.seed = "field " + std::to_string(variant);
  std::mt19937_64 random(static_cast<uint64_t>(variant));
  const auto below = [&](uint64_t n) { return random() % n; };
  FieldRecipe mask{"mask", "Mask", {noiseLayer("m", 60, 1)}, {}, {}};
  FieldRecipe other{"other", "Other", {noiseLayer("o", 35, 4), noiseLayer("p", 9, 1)}, {}, {}};
  other.layers[1].combine = Combine::Maximum;
  other.curve = {{-4, -2}, {0, 1}, {3, 2}};
  other.clamp = Clamp{-1.5, 1.75};
  r.fields = {mask, other};
  auto& layers = r.heights.layers;
  for (int i = 0; i < 7; ++i) {
    Layer layer = noiseLayer("n" + std::to_string(i), 12.0 + static_cast<double>(below(90)), 5);
    auto& noise = std::get<NoiseSource>(layer.source);
    noise.basis = static_cast<Basis>(below(5));
    // The reference finds sites by brute force: too slow where it must measure a distribution.
    if (variant % 5 == 4 && noise.basis == Basis::Cellular) noise.basis = Basis::Simplex;
    noise.fractal = static_cast<Fractal>(below(4));
    noise.rotate = below(3) == 0;
    noise.result = static_cast<CellularResult>(below(4));
    noise.metric = static_cast<Metric>(below(3));
    noise.octaves = 1 + static_cast<int>(below(3));
    layer.combine = static_cast<Combine>(below(9));
    layer.amount = layer.combine == Combine::Mix ? 0.4 : 3;
    layer.offset = static_cast<double>(below(5)) - 2;
    if (below(2)) layer.warp = Warp{NoiseSource{}, 15, 1 + static_cast<int>(below(3))};
    if (layer.warp) layer.warp->noise.octaves = 2;
    if (below(2)) layer.mask = Mask{"mask", -0.1, 0.6, below(2) ? 0.3 : 0.0};
    if (below(3) == 0) layer.curve = {{-1, 0}, {0, 0.2}, {0.5, 0.9}, {1, 1}};
    if (below(3) == 0) layer.clamp = Clamp{-3, 4};
    if (below(3) == 0) layer.sampling = SamplingOffset{10.25, -3.7, below(2) == 0};
    layers.push_back(layer);
  }
  switch (variant % 5) {
    case 0:
      layers.push_back(layerOf("terrace", TerraceSource{2.5, 0.6}));
      layers.push_back(layerOf("ramp", RampSource{Axis::X, -300, 200}));
      break;
    case 1:
      layers.push_back(layerOf("fold", FoldSource{1.5}));
      layers.push_back(layerOf("away", DistanceSource{10.5, -20.25, 400}));
      break;
    case 2:
      layers.push_back(layerOf("rescale", RescaleSource{-10, 10, 0, 3}));
      layers.push_back(layerOf("island", IslandSource{true, 5, 5, 200, 60, 30, 50}));
      layers.back().combine = Combine::Multiply;
      break;
    case 3:
      layers.push_back(layerOf("other", FieldSource{"other"}));
      layers.back().sampling = SamplingOffset{100, 0.5, false};
      layers.push_back(layerOf("island", IslandSource{false, -50, 5, 200, 60, 0, 50}));
      layers.back().combine = Combine::Minimum;
      break;
    default:
      layers.push_back(layerOf("equal", EqualiseSource{}));
      layers.back().amplitude = 20;
      layers.push_back(noiseLayer("flat", 50, 3));
      layers.back().equalise = true;
      layers.push_back(layerOf("other", FieldSource{"other"}));
      layers.back().warp = Warp{NoiseSource{}, 8, 1};
      break;
  }
  r.heights.curve = variant % 2 ? Curve{{-40, -30}, {0, 0}, {40, 50}} : Curve{};
  return r;
}

std::shared_ptr<const World> worldOf(const Recipe& recipe, const std::string& simd = {}) {
  EngineOptions options;
  options.simd = simd;
  auto engine = Engine::create(options);
  auto world = (*engine)->compile(recipe);
  if (!world) qFatal("%s", world.error().text().c_str());
  return *world;
}

/// Writes a grey PNG; depth 8 or 16.
void writeGrey(const QString& file, int width, int height, int depth,
    const std::function<int(int, int)>& value) {
  std::FILE* out = std::fopen(file.toLocal8Bit().constData(), "wb");
  png_structp png = png_create_write_struct(PNG_LIBPNG_VER_STRING, nullptr, nullptr, nullptr);
  png_infop info = png_create_info_struct(png);
  png_init_io(png, out);
  png_set_IHDR(png, info, static_cast<uint32_t>(width), static_cast<uint32_t>(height), depth,
      PNG_COLOR_TYPE_GRAY, PNG_INTERLACE_NONE, PNG_COMPRESSION_TYPE_DEFAULT,
      PNG_FILTER_TYPE_DEFAULT);
  png_write_info(png, info);
  std::vector<uint8_t> row;
  for (int j = 0; j < height; ++j) {
    row.clear();
    for (int i = 0; i < width; ++i) {
      if (depth == 16) row.push_back(static_cast<uint8_t>(value(i, j) >> 8));
      row.push_back(static_cast<uint8_t>(value(i, j) & 255));
    }
    png_write_row(png, row.data());
  }
  png_write_end(png, info);
  png_destroy_write_struct(&png, &info);
  std::fclose(out);
}

/// Keeps nothing.
class NoPool : public StagePool {
 public:
  std::shared_ptr<const void> find(const Digest&) override { return nullptr; }
  void keep(const Digest&, const std::shared_ptr<const void>&, bool) override {}
  Result<std::shared_ptr<const GreyPicture>> picture(
      const std::filesystem::path&, const std::string&) override {
    return Error{};
  }
};

}  // namespace

class FieldTest : public QObject {
  Q_OBJECT

 private slots:
  void everyLayerKindAgreesWithTheReference_data() {
    QTest::addColumn<int>("variant");
    for (int i = 0; i < 20; ++i) QTest::addRow("%d", i) << i;
  }
  void everyLayerKindAgreesWithTheReference() {
    QFETCH(int, variant);
    const Recipe recipe = everything(variant);
    const auto world = worldOf(recipe);
    reference::Evaluator reference(recipe);
    std::mt19937_64 random(3);
    for (int i = 0; i < 600; ++i) {
      const int64_t reach = i % 3 == 0 ? 2'000'000'000 : 600;
      const auto any = [&] {
        return static_cast<int64_t>(random() % static_cast<uint64_t>(2 * reach)) - reach;
      };
      const Cell cell{any(), any()};
      const float expected = reference.height(cell);
      QVERIFY2(world->at(cell).height == expected, qPrintable(QString("%1,%2: %3, expected %4")
                                                                  .arg(cell.x)
                                                                  .arg(cell.z)
                                                                  .arg(world->at(cell).height)
                                                                  .arg(expected)));
      QCOMPARE(world->field("other")->at({cell.x, 0}, {cell.z, 0}), reference.field("other", cell));
    }
  }

  void tilesPointsAndStridesAgree_data() { everyLayerKindAgreesWithTheReference_data(); }
  void tilesPointsAndStridesAgree() {
    QFETCH(int, variant);
    const Recipe recipe = everything(variant);
    for (const Kernels* table : availableKernels()) {
      const auto world = worldOf(recipe, table->name);
      for (const int64_t step : {1, 3, 700}) {
        const SampleGrid grid{-90 * step, 1'000'000'007, step, 70, 19};
        std::vector<float> tile(70 * 19);
        QVERIFY(world->sample(grid, tile.data(), nullptr).ok());
        for (int32_t j = 0; j < grid.length; j += 3)
          for (int32_t i = 0; i < grid.width; i += 5)
            QCOMPARE(tile[static_cast<size_t>(j * 70 + i)],
                world->heightField().at({grid.x + i * step, 0}, {grid.z + j * step, 0}));
      }
    }
  }

  /// Every step's own values, joined by hand, give the field.
  void stepsMakeTheSum() {
    const auto world = worldOf(everything(4));
    const Field& field = world->heightField();
    const SampleGrid grid{-20, 30, 1, 40, 10};
    std::vector<float> sum(400), value(400), weight(400), whole(400);
    std::vector<int64_t> x(400), z(400);
    const std::vector<int32_t> q(400);
    for (int i = 0; i < 400; ++i) {
      x[static_cast<size_t>(i)] = grid.x + i % 40;
      z[static_cast<size_t>(i)] = grid.z + i / 40;
    }
    for (size_t k = 0; k < field.steps().size(); ++k) {
      QVERIFY(field.evaluateStep(world->kernels(), k, grid, value.data(), 40));
      for (size_t from = 0; from < 400; from += 100) {
        const Points some{
            100, {x.data() + from, nullptr, z.data() + from}, {q.data(), nullptr, q.data()}};
        field.stepWeights(world->kernels(), field.steps()[k], some, weight.data() + from);
      }
      Field::joinStep(
          world->kernels(), field.steps()[k], sum.data(), value.data(), weight.data(), 400);
    }
    field.finish(world->kernels(), sum.data(), 400);
    QVERIFY(field.evaluate(world->kernels(), grid, whole.data(), 40));
    QVERIFY(sum == whole);
  }

  /// What is equalised is measured, which takes a while and can be given up.
  void measuringIsGivenUp() {
    FieldRecipe field{"even", "", {noiseLayer("a", 20, 3)}, {}, {}};
    field.layers[0].equalise = true;
    const std::vector<FieldRecipe> none;
    const std::optional<AxisBounds> endless;
    NoPool pool;
    std::stop_source source;
    const auto compile = [&] {
      return FieldCompiler(
          {none, field, endless, endless, "", 5}, pool, plainKernels(), 2, source.get_token())
          .compile(field);
    };
    QVERIFY(compile().ok());
    source.request_stop();
    const auto stopped = compile();
    QVERIFY(!stopped.ok());
    QVERIFY(stopped.error().code == Error::Code::Cancelled);
  }

  void threeDimensionsGoByBlockAndByPoint() {
    FieldRecipe field{"solid", "", {noiseLayer("a", 20, 3), noiseLayer("b", 7, 1)}, {}, {}};
    NoPool pool;
    const std::vector<FieldRecipe> none;
    const std::optional<AxisBounds> endless;
    for (const size_t layers : {1u, 2u}) {
      FieldRecipe some = field;
      some.layers.resize(layers);
      const auto solid = *FieldCompiler(
          {none, some, endless, endless, "", 5}, pool, *availableKernels().front(), 3)
                              .compile(some);
      const SampleBlock block{-7, 100, 2'000'000'000, 2, 33, 5, 6};
      std::vector<float> values(33 * 5 * 6);
      QVERIFY(solid->evaluate(*availableKernels().front(), block, values.data()));
      size_t at = 0;
      for (int j = 0; j < 5; ++j)
        for (int k = 0; k < 6; ++k)
          for (int i = 0; i < 33; ++i) {
            const int64_t x = block.x + 2 * i, y = block.y + 2 * j, z = block.z + 2 * k;
            const int32_t q = 0;
            float value = 0;
            solid->points(plainKernels(), {1, {&x, &y, &z}, {&q, &q, &q}}, &value);
            QCOMPARE(values[at++], value);
          }
    }
  }

  /// What p of the sample lies below becomes p, also on points that were not measured: 20 seeds,
  /// near and far.
  void equaliseGivesEqualShares() {
    for (int seed = 0; seed < 20; ++seed) {
      Recipe r;
      r.seed = "equal " + std::to_string(seed);
      Layer layer = noiseLayer("n", 40, 1);
      std::get<NoiseSource>(layer.source).fractal = seed % 2 ? Fractal::Ridged : Fractal::Fbm;
      layer.equalise = true;
      r.heights.layers = {layer};
      const auto world = worldOf(r);
      const int64_t origin = seed % 4 == 3 ? 2'000'000'000 : 0;
      constexpr int kSide = 500;
      std::vector<float> values(kSide * kSide);
      QVERIFY(world->sample({origin + 7, origin, 83, kSide, kSide}, values.data(), nullptr).ok());
      for (int percent = 5; percent < 100; percent += 5) {
        const auto below = std::count_if(values.begin(), values.end(),
            [&](float v) { return v < static_cast<float>(percent) / 100; });
        const double share = static_cast<double>(below) / (kSide * kSide);
        QVERIFY2(std::abs(share - percent / 100.0) < 0.01,
            qPrintable(QString("seed %1: %2 below 0.%3").arg(seed).arg(share).arg(percent)));
      }
      QVERIFY(*std::max_element(values.begin(), values.end()) < 1);
      QVERIFY(*std::min_element(values.begin(), values.end()) >= 0);
    }
  }

  void plateausCannotBeSplit() {
    std::vector<float> sorted(1000, 5.0f);
    std::fill_n(sorted.begin(), 250, 1.0f);
    const QuantileTable table(sorted);
    QCOMPARE(table.shareOf(0.0f), 0.0f);
    QVERIFY(std::abs(table.shareOf(1.0f) - 0.125f) < 0.002f);  // The middle of its ranks.
    QCOMPARE(table.shareOf(5.0f), QuantileTable::kBelowOne);
    const QuantileTable constant(std::vector<float>(10, 3.0f));
    QCOMPARE(constant.shareOf(2.0f), 0.5f);
    QCOMPARE(constant.shareOf(3.0f), 0.5f);
  }

  /// What comes after a layer's source, by every instruction set, for rows of any length.
  void everyTableShapesValuesAlike() {
    std::mt19937 random(4);
    std::vector<float> sample;
    for (int i = 0; i < 3000; ++i)  // Plateaus, crowds and gaps.
      sample.push_back(std::round(std::pow(static_cast<float>(random() % 1000) / 500, 5.0f)) / 4);
    sortFloats(sample);
    const QuantileTable shares(sample), constant(std::vector<float>(10, 3.0f));
    const CurveTable curve({{-1, 0}, {0, 0}, {0.25, 2}, {3, 1}, {8, -0.0}}), line({{0, 1}, {2, 5}});
    const MaskEnds soft{0.5f, 3, 0.25f}, hard{0.5f, 3, 0}, open{-HUGE_VALF, 3, 0.25f};
    constexpr auto kCombines = static_cast<int>(Combine::Replace) + 1;
    constexpr int64_t kFar = 2'000'000'000;
    for (const Kernels* kernels : availableKernels())
      for (int count = 0; count < 70; ++count) {
        // On knots, between them, and beyond; one more that nobody may touch.
        std::vector<float> from(static_cast<size_t>(count) + 1), weight(from);
        for (float& v : from)
          v = random() % 2 ? sample[random() % sample.size()]
                           : static_cast<float>(random() % 4000) / 300 - 2;
        for (float& w : weight) w = static_cast<float>(random() % 5) / 4;
        if (count > 2) from[1] = -0.0f;
        const auto alike = [&](auto&& change) {
          std::vector<float> plain = from, other = from;
          change(plainKernels(), plain.data());
          change(*kernels, other.data());
          return std::memcmp(plain.data(), other.data(), plain.size() * sizeof(float)) == 0 &&
                 other.back() == from.back();
        };
        for (const QuantileTable* table : {&shares, &constant})
          QVERIFY(alike([&](const Kernels& k, float* v) { table->apply(k, v, count); }));
        for (const CurveTable* table : {&curve, &line})
          QVERIFY(alike([&](const Kernels& k, float* v) { table->apply(k, v, count); }));
        for (const MaskEnds& mask : {soft, hard, open})
          QVERIFY(alike([&](const Kernels& k, float* v) { k.mask(mask, v, count); }));
        for (const Scaling& by :
            {Scaling{0.3f, -1, -HUGE_VALF, HUGE_VALF}, Scaling{1, -0.0f, 0, 1}})
          QVERIFY(alike([&](const Kernels& k, float* v) { k.scale(by, v, count); }));
        for (int combine = 0; combine < kCombines; ++combine)
          for (const float* by : {static_cast<const float*>(nullptr), std::as_const(weight).data()})
            QVERIFY(alike([&](const Kernels& k, float* v) {
              k.join(static_cast<Combine>(combine), 0.7f, v, sample.data() + 1500, by, count);
            }));
        std::vector<int64_t> cell(from.size(), kFar), to[2] = {cell, cell};
        std::vector<int32_t> q(from.size(), 65'535), toQ[2] = {q, q};
        for (int64_t& x : cell) x -= static_cast<int64_t>(random());
        for (const float cells : {0.01f, 900.0f, 50'000.0f}) {
          for (const int k : {0, 1})
            (k ? *kernels : plainKernels())
                .shift(
                    cell.data(), q.data(), from.data(), cells, count, to[k].data(), toQ[k].data());
          QVERIFY(to[0] == to[1] && toQ[0] == toQ[1]);
          for (size_t i = 0; i < static_cast<size_t>(count); ++i)
            QCOMPARE((to[1][i] - cell[i]) * 65'536 + toQ[1][i] - q[i],
                int64_t{fixedShift(from[i] * cells)});
          QCOMPARE(to[1].back(), kFar);
        }
      }
  }

  void sortingIsSorting() {
    std::mt19937 random(1);
    std::vector<float> values;
    for (int i = 0; i < 5000; ++i) {
      const auto v = static_cast<float>(static_cast<double>(random()) - 2e9);
      values.push_back(i % 3 ? v : v * 1e-30f);
    }
    values.push_back(-0.0f);
    values.push_back(0.0f);
    std::vector<float> expected = values;
    std::sort(expected.begin(), expected.end());
    sortFloats(values);
    QVERIFY(values == expected);
  }

  void curvesAreMonotoneBetweenTheirPoints() {
    std::mt19937 random(9);
    for (int round = 0; round < 200; ++round) {
      Curve curve;
      double x = -5, y = 0;
      for (int i = 0; i < 6; ++i) {
        curve.push_back({x, y});
        x += 0.1 + static_cast<double>(random() % 100) / 30;
        y += static_cast<double>(random() % 5) * (random() % 2 ? 1 : -1);
      }
      const CurveTable table(curve);
      for (size_t k = 0; k + 1 < curve.size(); ++k) {
        QVERIFY(std::abs(table.at(static_cast<float>(curve[k].x)) - curve[k].y) < 1e-5);
        double last = curve[k].y;
        const double way = curve[k + 1].y - curve[k].y;
        for (int i = 0; i <= 50; ++i) {
          const double v = static_cast<double>(
              table.at(static_cast<float>(curve[k].x + (curve[k + 1].x - curve[k].x) * i / 50)));
          QVERIFY((v - last) * way >= -1e-4 * std::abs(way) - 1e-5);
          last = v;
        }
      }
      QCOMPARE(table.at(-1e9f), static_cast<float>(curve.front().y));
      QCOMPARE(table.at(1e9f), static_cast<float>(curve.back().y));
    }
  }

  void layersWithDifferentIdsAreUnrelated() {
    Recipe r;
    r.heights.layers = {noiseLayer("layer-1", 30, 1)};
    const auto a = worldOf(r);
    r.heights.layers[0].id = "layer-2";
    const auto b = worldOf(r);
    double ab = 0, aa = 0, bb = 0;
    for (int64_t i = 0; i < 20000; ++i) {
      const double va = a->heightField().at({i * 7, 0}, {i * 13, 0});
      const double vb = b->heightField().at({i * 7, 0}, {i * 13, 0});
      ab += va * vb;
      aa += va * va;
      bb += vb * vb;
    }
    QVERIFY(std::abs(ab / std::sqrt(aa * bb)) < 0.05);
  }

  void orderNamesAndSleepingLayersChangeNoKey() {
    Recipe r;
    r.heights.layers = {noiseLayer("rise", 90, 5)};
    const Digest key = worldOf(r)->heightField().key();
    Recipe named = r;
    named.heights.layers[0].name = "Other";
    named.heights.layers.push_back(noiseLayer("off", 9, 1));
    named.heights.layers[1].on = false;
    QCOMPARE(worldOf(named)->heightField().key(), key);
    Recipe seeded = r;
    seeded.seed = "other";
    QVERIFY(worldOf(seeded)->heightField().key() != key);
    r.heights.layers.push_back(noiseLayer("b", 9, 1));
    Recipe swapped = r;
    std::swap(swapped.heights.layers[0], swapped.heights.layers[1]);
    QVERIFY(worldOf(swapped)->heightField().key() != worldOf(r)->heightField().key());
    // A change in a field that is read changes the key of the reader.
    Recipe reading = everything(3);
    const Digest before = worldOf(reading)->heightField().key();
    reading.fields[1].layers[0].amplitude += 1;
    QVERIFY(worldOf(reading)->heightField().key() != before);
  }

  void possibleRangesHoldWhatIsReached() {
    for (int variant = 0; variant < 20; ++variant) {
      const Recipe recipe = everything(variant);
      const Range range = possibleHeights(recipe);
      const auto world = worldOf(recipe);
      std::vector<float> values(200 * 200);
      QVERIFY(world->sample({-1000, -1000, 11, 200, 200}, values.data(), nullptr).ok());
      const auto [low, high] = std::minmax_element(values.begin(), values.end());
      const double slack = 1e-4 * (range.high - range.low) + 1e-6;
      QVERIFY2(*low >= range.low - slack && *high <= range.high + slack,
          qPrintable(QString("variant %1: %2…%3 of %4…%5")
                         .arg(variant)
                         .arg(*low)
                         .arg(*high)
                         .arg(range.low)
                         .arg(range.high)));
    }
  }

  void sharesHoldAcrossSeeds() {
    Recipe r = everything(4);
    r.materials = {{"sea", "Sea", {}, MaterialState::Liquid}, {"land", "Land", {}, {}}};
    r.bands = {{"a", Threshold{0, false, 0.4}, "sea", {}}, {"b", {}, "land", {}}};
    r.frame.seaShare = 0.25;
    const int seeds = suite::sized(2, 6);
    for (int seed = 0; seed < seeds; ++seed) {
      r.seed = std::to_string(seed);
      const auto world = worldOf(r);
      int sea = 0, drowned = 0;
      constexpr int kSide = 220;
      for (int j = 0; j < kSide; ++j)
        for (int i = 0; i < kSide; ++i) {
          const CellValue value = world->at({i * 97, j * 89 - 5000});
          sea += world->catalogue().materialId(value.material) == "sea";
          drowned += static_cast<double>(value.height) < world->seaLevel();
        }
      QVERIFY(std::abs(sea / double{kSide * kSide} - 0.4) < 0.015);
      QVERIFY(std::abs(drowned / double{kSide * kSide} - 0.25) < 0.015);
    }
  }

  /// Cells of a dithered edge turn over with the odds that the setting says.
  void ditheredEdgesHaveTheirOdds() {
    for (const bool squared : {false, true}) {
      Recipe r;
      r.materials = {{"low", "", {}, {}}, {"high", "", {}, {}}};
      r.bands = {{"a", Threshold{10, false, {}}, "low", {Edge::Kind::Dithered, 8, squared, 1}},
          {"b", {}, "high", {}}};
      const std::vector<SlopeBand> none;
      const auto bands = BandTable::compile({r.materials, none, r.bands, true, 3, 0, nullptr});
      for (int k = 0; k <= 8; ++k) {
        const float height = 6.0f + static_cast<float>(k);
        int upper = 0;
        constexpr int kSide = 200;
        for (int64_t j = 0; j < kSide; ++j)
          for (int64_t i = 0; i < kSide; ++i) upper += bands->decide({i, j}, height, 0).band == 1;
        const double t = k / 8.0, expected = squared ? t * t : t;
        QVERIFY(std::abs(upper / double{kSide * kSide} - expected) < 0.012);
        // The pattern belongs to the cells, not to the row that is asked for.
        MaterialIndex row[50];
        const std::vector<float> heights(50, height);
        bands->evaluate(plainKernels(), {-20, 7}, 3, 50, heights.data(), nullptr, row);
        for (int64_t i = 0; i < 50; ++i)
          QCOMPARE(row[i], bands->decide({-20 + 3 * i, 7}, height, 0).material);
      }
    }
  }

  void slopesGoBeforeBands() {
    Recipe r;
    Layer ramp = layerOf("ramp", RampSource{Axis::X, 0, 100});
    ramp.amplitude = 100;  // Rises one cell per cell.
    r.heights.layers = {ramp};
    r.materials = {{"flat", "", {}, {}}, {"steep", "", {}, {}}};
    r.bands = {{"a", {}, "flat", {}}};
    r.slopes = {{"s", 0.5, Threshold{20, false, {}}, {}, "steep"}};
    const auto world = worldOf(r);
    QCOMPARE(world->columns().slopeAt({50, 3}), 1.0f);
    QCOMPARE(world->catalogue().materialId(world->at({50, 3}).material), "steep");
    QCOMPARE(world->catalogue().materialId(world->at({10, 3}).material), "flat");   // Too low.
    QCOMPARE(world->catalogue().materialId(world->at({300, 3}).material), "flat");  // Level.
    for (const int64_t step : {1, 7}) {
      float heights[60];
      MaterialIndex materials[60];
      QVERIFY(world->sample({-10, 0, step, 30, 2}, heights, materials).ok());
      for (int64_t i = 0; i < 30; ++i)
        QCOMPARE(materials[i], world->at({-10 + i * step, 0}).material);
    }
  }

  void picturesAreLaidOnTheWorld() {
    QTemporaryDir folder;
    const QString file = folder.filePath("grey.png");
    writeGrey(file, 4, 3, 16, [](int i, int j) { return 10000 * i + 1000 * j; });
    Recipe r;
    r.folder = folder.path().toStdString();
    PictureSource source{"grey.png", 10, 20, 2, true, PictureSource::Outside::Edge, 0};
    r.heights.layers = {layerOf("p", source)};
    r.heights.layers[0].amplitude = 65535;
    const auto value = [&](int64_t x, int64_t z) {
      return worldOf(r)->heightField().at({x, 0}, {z, 0});
    };
    QCOMPARE(value(10, 20), 0.0f);
    QCOMPARE(value(12, 22), 11000.0f);
    QVERIFY(std::abs(value(13, 22) - 16000.0f) < 0.01f);  // Half-way between two pixels.
    QCOMPARE(value(-500, 24), 2000.0f);                   // The edge goes on.
    auto& picture = std::get<PictureSource>(r.heights.layers[0].source);
    picture.smooth = false;
    QCOMPARE(value(11, 20), 10000.0f);
    picture.outside = PictureSource::Outside::Repeat;
    QCOMPARE(value(10 + 8 * 1000, 20 - 6 * 77), 0.0f);
    QCOMPARE(value(12 - 8 * 5, 22), 11000.0f);
    picture.outside = PictureSource::Outside::Value;
    picture.outsideValue = 0.5;
    QCOMPARE(value(1000, 20), 32767.5f);
    // The picture is part of the key: another file under the same name is another world.
    const auto engine = std::move(Engine::create({})).value();
    const Digest before = (*engine->compile(r))->heightField().key();
    writeGrey(file, 4, 4, 8, [](int i, int j) { return 10 * i + j; });
    QVERIFY((*engine->compile(r))->heightField().key() != before);
  }

  void wrongPicturesAreRefusedInWords_data() {
    QTest::addColumn<QString>("name");
    QTest::addColumn<QString>("words");
    QTest::newRow("missing") << "missing"
                             << "no such file";
    QTest::newRow("not a picture") << "text"
                                   << "is not a PNG";
    QTest::newRow("one pixel") << "one"
                               << "has 1 x 1 pixels";
    QTest::newRow("huge") << "huge"
                          << "has 9000 x 2 pixels";
    QTest::newRow("cut off") << "cut"
                             << "is cut off or broken";
    QTest::newRow("a folder") << "folder"
                              << "directory";
  }
  void wrongPicturesAreRefusedInWords() {
    QFETCH(QString, name);
    QFETCH(QString, words);
    QTemporaryDir folder;
    const QString file = folder.filePath(name);
    const auto flat = [](int, int) { return 7; };
    if (name == "text") {
      QFile out(file);
      QVERIFY(out.open(QIODevice::WriteOnly));
      out.write("not a picture at all");
    }
    if (name == "one") writeGrey(file, 1, 1, 8, flat);
    if (name == "huge") writeGrey(file, 9000, 2, 8, flat);
    if (name == "folder") QDir().mkpath(file);
    if (name == "cut") {
      writeGrey(file, 200, 200, 16, [](int i, int j) { return i * j * 37 % 65536; });
      QFile out(file);
      QVERIFY(out.resize(out.size() / 2));
    }
    Recipe r;
    r.folder = folder.path().toStdString();
    r.heights.layers = {layerOf("p", PictureSource{name.toStdString(), 0, 0, 1, true, {}, 0})};
    const auto engine = std::move(Engine::create({})).value();
    const auto world = engine->compile(r);
    QVERIFY(!world.ok());
    QCOMPARE(world.error().where, "/heights/layers/0/file");
    QVERIFY2(
        QString::fromStdString(world.error().what).contains(words), world.error().text().c_str());
    QVERIFY(world.error().accepted.find("2 to 8192 pixels") != std::string::npos);
  }
};

ACRE_SUITE(FieldTest)
#include "field_test.moc"
