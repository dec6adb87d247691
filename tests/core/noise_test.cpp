#include <QtTest>
#include <algorithm>
#include <cmath>
#include <cstring>
#include <random>

#include "base/hash.h"
#include "field/heights.h"
#include "noise/kernels.h"
#include "recipe/validate.h"
#include "reference/evaluator.h"

using namespace acre;

namespace {

GradientPlan planOf(double width, int octaves, uint64_t seed = 1, double lacunarity = 2,
                    std::optional<SamplingOffset> sampling = {}) {
  GradientSource source;
  source.width = width;
  source.octaves = octaves;
  source.lacunarity = lacunarity;
  source.amplitude = 1;
  source.sampling = sampling;
  return compileGradient(source, seed, "").value();
}

std::vector<float> tile(const Kernels& kernels, const GradientPlan& plan, const SampleGrid& grid) {
  std::vector<float> out(static_cast<size_t>(grid.width) * static_cast<size_t>(grid.height), 0.0f);
  kernels.gradient(plan, grid, false, out.data(), grid.width);
  return out;
}

bool equalBits(const std::vector<float>& a, const std::vector<float>& b) {
  return a.size() == b.size() && std::memcmp(a.data(), b.data(), a.size() * sizeof(float)) == 0;
}

struct Moments {
  double mean, deviation;
};

/// Mean and deviation of one octave over points spread about an origin.
Moments momentsAt(Cell origin) {
  const GradientPlan plan = planOf(37, 1);
  double sum = 0, squares = 0;
  constexpr int kSide = 300;
  for (int j = 0; j < kSide; ++j)
    for (int i = 0; i < kSide; ++i) {
      const double v = octaveAt(plan.octaves[0], {origin.x + 41 * i, 0}, {origin.z + 43 * j, 0});
      sum += v;
      squares += v * v;
    }
  const double n = kSide * kSide, mean = sum / n;
  return {mean, std::sqrt(squares / n - mean * mean)};
}

}  // namespace

class NoiseTest : public QObject {
  Q_OBJECT

 private slots:
  void everyTableGivesTheSameBits_data() {
    QTest::addColumn<int>("table");
    const auto& tables = availableKernels();
    for (size_t i = 0; i + 1 < tables.size(); ++i)
      QTest::newRow(tables[i]->name) << static_cast<int>(i);
  }
  void everyTableGivesTheSameBits() {
    QFETCH(int, table);
    const Kernels& kernels = *availableKernels()[static_cast<size_t>(table)];
    std::mt19937_64 random(7);
    const auto below = [&](uint64_t n) { return random() % n; };
    for (int round = 0; round < 400; ++round) {
      // Widths from a fraction of a cell to thousands, steps from 1 to 2^30, places up to 2^60.
      const double width = std::pow(2.0, static_cast<double>(below(150)) / 10 - 3);
      const int octaves = 1 + static_cast<int>(below(3));
      GradientSource source;
      source.width = width;
      source.octaves = octaves;
      source.lacunarity = 1.5 + static_cast<double>(below(10)) / 10;
      if (round % 3 == 0)
        source.sampling = SamplingOffset{static_cast<double>(below(1000)) / 7 - 50, -0.3};
      const auto plan = compileGradient(source, random(), "");
      if (!plan) continue;
      const auto coordinate = [&] {
        const auto magnitude = static_cast<int64_t>(random() >> (4 + below(60)));
        return below(2) ? magnitude : -magnitude;
      };
      SampleGrid grid{coordinate(), coordinate(), int64_t{1} << below(round % 2 ? 4 : 31),
                      static_cast<int32_t>(1 + below(256)), static_cast<int32_t>(1 + below(64))};
      grid.x = std::clamp(grid.x, -kMaxCell, kMaxCell - (int64_t{1} << 40));
      grid.z = std::clamp(grid.z, -kMaxCell, kMaxCell - (int64_t{1} << 40));
      QVERIFY2(equalBits(tile(kernels, *plan, grid), tile(plainKernels(), *plan, grid)),
               qPrintable(QString("round %1 width %2 step %3 from %4,%5 size %6x%7")
                              .arg(round)
                              .arg(width)
                              .arg(grid.step)
                              .arg(grid.x)
                              .arg(grid.z)
                              .arg(grid.width)
                              .arg(grid.height)));
    }
  }

  /// The lengths around the vector's edge, at both sides of a lattice column.
  void vectorEdgesAreExact() {
    const GradientPlan plan = planOf(5.3, 2);
    for (const Kernels* kernels : availableKernels())
      for (int32_t width = 1; width <= 40; ++width)
        for (int64_t x = -9; x < 9; x += 3) {
          const SampleGrid grid{x, -4, 1, width, 3};
          std::vector<float> guarded(static_cast<size_t>(width) * 3 + 32, 99.0f);
          std::fill_n(guarded.begin(), width * 3, 0.0f);
          kernels->gradient(plan, grid, false, guarded.data(), width);
          const std::vector<float> plain = tile(plainKernels(), plan, grid);
          QVERIFY(std::equal(plain.begin(), plain.end(), guarded.begin()));
          QVERIFY(std::all_of(guarded.begin() + width * 3, guarded.end(),
                              [](float v) { return v == 99.0f; }));
        }
  }

  void multiplyingJoinsTheProduct() {
    const GradientPlan plan = planOf(20, 1);
    const SampleGrid grid{3, 4, 1, 33, 5};
    const std::vector<float> value = tile(plainKernels(), plan, grid);
    for (const Kernels* kernels : availableKernels()) {
      std::vector<float> acc(value.size(), 3.0f);
      kernels->gradient(plan, grid, true, acc.data(), grid.width);
      for (size_t i = 0; i < acc.size(); ++i) QCOMPARE(acc[i], 3.0f * value[i]);
    }
  }

  void bandsAgreeWithTheirDefinition() {
    std::mt19937 random(3);
    std::uniform_real_distribution<float> any(-20, 20);
    for (const Kernels* kernels : availableKernels())
      for (int count = 0; count < 70; ++count) {
        std::vector<float> ends(static_cast<size_t>(count % 9)),
            heights(static_cast<size_t>(count));
        for (float& e : ends) e = std::floor(any(random));
        std::sort(ends.begin(), ends.end());
        for (float& h : heights) h = std::floor(any(random));  // Often exactly on an end.
        std::vector<uint16_t> bands(heights.size() + 8, 77);
        kernels->bands(heights.data(), count, ends.data(), static_cast<int>(ends.size()),
                       bands.data());
        for (size_t i = 0; i < heights.size(); ++i)
          QCOMPARE(bands[i], std::count_if(ends.begin(), ends.end(),
                                           [&](float e) { return e <= heights[i]; }));
        QCOMPARE(bands[heights.size()], uint16_t{77});
      }
  }

  void staysInRangeAndUsesIt() {
    const GradientPlan plan = planOf(16, 1);
    float low = 1, high = -1;
    for (int64_t z = 0; z < 1500; ++z)
      for (int64_t x = 0; x < 1500; ++x) {
        const float v = octaveAt(plan.octaves[0], {x, 0}, {z, 0});
        low = std::min(low, v);
        high = std::max(high, v);
      }
    QVERIFY(low >= -kGradientReach && high <= kGradientReach);
    QVERIFY2(low < -0.8f && high > 0.8f, qPrintable(QString("%1 %2").arg(low).arg(high)));
  }

  void gradientsHaveOneLengthAndAllDirections() {
    int perSector[16] = {};
    for (uint64_t i = 0; i < 64000; ++i) {
      const Gradient g = gradientOf(static_cast<uint32_t>(mix64(i)));
      QVERIFY(std::abs(std::hypot(g.x, g.z) - std::sqrt(2.0f)) < 1e-6f);
      const double turn = std::atan2(g.z, g.x) / (2 * M_PI) + 0.5;
      ++perSector[std::min(15, static_cast<int>(turn * 16))];
    }
    // The parametrisation crowds by at most 17 % within an eighth; a sixteenth sees half of that.
    for (const int n : perSector) QVERIFY2(n > 3500 && n < 4500, qPrintable(QString::number(n)));
  }

  /// Across every lattice border value and slope go on: steps of 1/65536 cell stay small.
  void isContinuousAcrossLatticeCells() {
    const GradientPlan plan = planOf(8, 1, 5, 2, SamplingOffset{0, 0});
    const GradientOctave& octave = plan.octaves[0];
    for (const int64_t origin : {int64_t{0}, int64_t{-64}, int64_t{2'000'000'000}}) {
      for (int64_t border = origin; border < origin + 400; border += 8) {
        const Pos z{origin + border % 37, 1234};
        const float before = octaveAt(octave, {border - 1, 65535}, z);
        const float at = octaveAt(octave, {border, 0}, z);
        const float after = octaveAt(octave, {border, 1}, z);
        QVERIFY(std::abs(at - before) < 1e-5f);
        QVERIFY(std::abs((after - at) - (at - before)) < 2e-6f);
      }
    }
  }

  void vanishesOnLatticePoints() {
    const GradientPlan plan = planOf(1, 1, 9, 2, SamplingOffset{0, 0});
    for (int64_t i = -50; i < 50; ++i)
      QCOMPARE(octaveAt(plan.octaves[0], {i, 0}, {3 * i, 0}), 0.0f);
    // Scattered sampling does not.
    const GradientPlan scattered = planOf(1, 1, 9);
    QVERIFY(octaveAt(scattered.octaves[0], {0, 0}, {0, 0}) != 0.0f);
  }

  void statisticsAreEqualNearAndFar() {
    const Moments home = momentsAt({0, 0});
    QVERIFY(std::abs(home.mean) < 0.01);
    for (const Cell origin : {Cell{2'000'000'000, -2'000'000'000}, Cell{-2'000'000'000, 7},
                              Cell{kMaxCell - (int64_t{1} << 20), -kMaxCell}}) {
      const Moments far = momentsAt(origin);
      QVERIFY2(
          std::abs(far.mean - home.mean) < 0.01 && std::abs(far.deviation - home.deviation) < 0.01,
          qPrintable(QString("%1 %2 / %3 %4")
                         .arg(home.mean)
                         .arg(home.deviation)
                         .arg(far.mean)
                         .arg(far.deviation)));
    }
  }

  /// Neighbouring cells differ as finely at two thousand million as at the origin.
  void precisionDoesNotFade() {
    const GradientPlan plan = planOf(1000, 1);
    const auto roughness = [&](int64_t origin) {
      double largest = 0;
      float last = octaveAt(plan.octaves[0], {origin, 0}, {origin, 0});
      for (int64_t i = 1; i < 5000; ++i) {
        const float v = octaveAt(plan.octaves[0], {origin + i, 0}, {origin, 0});
        largest = std::max<double>(largest, std::abs(v - last));
        last = v;
      }
      return largest;
    };
    QVERIFY(roughness(0) < 0.006);
    QVERIFY(roughness(2'000'000'000) < 0.006);
    QVERIFY(roughness(-2'000'000'000) < 0.006);
  }

  void layersWithDifferentIdsAreUnrelated() {
    GradientSource source;
    source.width = 30;
    source.fractal = Fractal::Single;
    Layer a{"layer-1", "", true, Combine::Add, source}, b = a;
    b.id = "layer-2";
    const auto fa = *HeightField::compile({a}, 5), fb = *HeightField::compile({b}, 5);
    double ab = 0, aa = 0, bb = 0;
    for (int64_t i = 0; i < 20000; ++i) {
      const double va = fa->at({i * 7, 0}, {i * 13, 0}), vb = fb->at({i * 7, 0}, {i * 13, 0});
      ab += va * vb;
      aa += va * va;
      bb += vb * vb;
    }
    QVERIFY(std::abs(ab / std::sqrt(aa * bb)) < 0.05);
  }

  void reorderingAndAddingLayersChangesNoOther() {
    GradientSource source;
    Layer a{"rise", "", true, Combine::Add, source}, b = a, off = a;
    b.id = "hill";
    off.id = "off";
    off.on = false;
    const auto one = *HeightField::compile({a}, 5), with = *HeightField::compile({off, a}, 5);
    Layer renamed = a;
    renamed.name = "Other";
    const auto named = *HeightField::compile({renamed}, 5);
    for (int64_t i = 0; i < 100; ++i) {
      QCOMPARE(with->at({i, 0}, {-i, 0}), one->at({i, 0}, {-i, 0}));
      QCOMPARE(named->at({i, 0}, {-i, 0}), one->at({i, 0}, {-i, 0}));
    }
    QCOMPARE(HeightField::keyOf({renamed}, 5), HeightField::keyOf({off, a}, 5));
    QVERIFY(HeightField::keyOf({a, b}, 5) != HeightField::keyOf({b, a}, 5));
    QVERIFY(HeightField::keyOf({a}, 6) != HeightField::keyOf({a}, 5));
  }

  void selfTestKnowsRightFromWrong() {
    for (const Kernels* table : availableKernels()) QVERIFY(selfTest(*table).ok());
    // A table that is off by the least bit in one sample is found.
    Kernels off = plainKernels();
    off.gradient = [](const GradientPlan& plan, const SampleGrid& grid, bool multiply, float* acc,
                      ptrdiff_t stride) {
      plainKernels().gradient(plan, grid, multiply, acc, stride);
      acc[stride + 3] = std::nextafter(acc[stride + 3], 100.0f);
    };
    QVERIFY(!selfTest(off).ok());
    QCOMPARE(selfTest(off).error().where, "self-test");
  }

  void stepsOutsideTheirRangeAreRefusedByOctave() {
    GradientSource source;
    source.width = 1;
    source.octaves = 32;
    const auto steps = octaveSteps(source, "/heights/layers/0");
    QVERIFY(!steps.ok());
    QCOMPARE(steps.error().where, "/heights/layers/0/octaves");
    QVERIFY(steps.error().what.find("octave 7") != std::string::npos);
    source.octaves = 6;
    QCOMPARE(octaveSteps(source, "").value().back(), uint64_t{1} << 53);
    source.width = 4294967296.0;
    source.octaves = 1;
    QCOMPARE(octaveSteps(source, "").value().front(), uint64_t{65536});
  }
};

QTEST_APPLESS_MAIN(NoiseTest)
#include "noise_test.moc"
