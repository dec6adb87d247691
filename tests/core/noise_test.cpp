#include <QtTest>
#include <algorithm>
#include <cmath>
#include <cstring>
#include <random>
#include <set>

#include "base/hash.h"
#include "field/compiler.h"
#include "noise/kernels.h"
#include "recipe/validate.h"
#include "reference/evaluator.h"
#include "suite.h"

using namespace acre;

namespace {

/// Gradient noise unless told otherwise.
NoisePlan planOf(double width, int octaves, uint64_t seed = 1, double lacunarity = 2,
    std::optional<SamplingOffset> sampling = {}) {
  NoiseSource source;
  source.width = width;
  source.octaves = octaves;
  source.lacunarity = lacunarity;
  return compileNoise(source, sampling, seed, 2, "").value();
}

std::vector<float> tile(const Kernels& kernels, const NoisePlan& plan, const SampleGrid& grid) {
  std::vector<float> out(static_cast<size_t>(grid.width) * static_cast<size_t>(grid.length), 0.0f);
  kernels.grid(plan, grid, {JoinOp::Add, 1, 0}, out.data(), grid.width);
  return out;
}

/// The first octave of a 2-D plan.
float octaveAt(const NoisePlan& plan, Pos x, Pos z) {
  const Pos place[3] = {x, {}, z};
  return acre::octaveAt(plan, plan.octaves[0], place);
}

constexpr Basis kBases[] = {Basis::Gradient, Basis::Value, Basis::Simplex, Basis::Cellular,
    Basis::White, Basis::Gradient2002};

/// Noise of any kind, from random bits.
NoiseSource anySource(std::mt19937_64& random) {
  const auto below = [&](uint64_t n) { return random() % n; };
  NoiseSource source;
  source.basis = kBases[below(6)];
  source.fractal = static_cast<Fractal>(below(4));
  // Widths from a fraction of a cell to thousands.
  source.width = std::pow(2.0, static_cast<double>(below(150)) / 10 - 3);
  source.octaves = 1 + static_cast<int>(below(3));
  source.lacunarity = 1.5 + static_cast<double>(below(10)) / 10;
  source.rotate = below(4) == 0;
  source.result = static_cast<CellularResult>(below(4));
  source.metric = static_cast<Metric>(below(3));
  source.jitter = static_cast<double>(below(5)) / 4;
  return source;
}

QString describe(const NoiseSource& s, int round) {
  return QString("round %1 basis %2 fractal %3 width %4 rotate %5 result %6 metric %7")
      .arg(round)
      .arg(static_cast<int>(s.basis))
      .arg(static_cast<int>(s.fractal))
      .arg(s.width)
      .arg(s.rotate)
      .arg(static_cast<int>(s.result))
      .arg(static_cast<int>(s.metric));
}

/// A coordinate of any magnitude up to 2^60.
int64_t anyCoordinate(std::mt19937_64& random) {
  const auto magnitude = static_cast<int64_t>(random() >> (4 + random() % 60));
  const int64_t signed_ = random() % 2 ? magnitude : -magnitude;
  return std::clamp(signed_, -kMaxCell, kMaxCell - (int64_t{1} << 40));
}

bool equalBits(const std::vector<float>& a, const std::vector<float>& b) {
  return a.size() == b.size() && std::memcmp(a.data(), b.data(), a.size() * sizeof(float)) == 0;
}

/// K. Perlin's formulas of 2002 in double precision.
double improvedNoise(double x, double y, double z) {
  const auto& p = kPermutation2002;
  const auto cell = [](double v) {
    return static_cast<size_t>(static_cast<int64_t>(std::floor(v)) & 255);
  };
  const size_t nx = cell(x), ny = cell(y), nz = cell(z);
  x -= std::floor(x);
  y -= std::floor(y);
  z -= std::floor(z);
  const auto ease = [](double t) { return t * t * t * (t * (t * 6 - 15) + 10); };
  const auto mix = [](double t, double a, double b) { return a + t * (b - a); };
  const auto grad = [](uint32_t hash, double a, double b, double c) {
    const uint32_t h = hash & 15;
    const double u = h < 8 ? a : b, v = h < 4 ? b : h == 12 || h == 14 ? a : c;
    return ((h & 1) == 0 ? u : -u) + ((h & 2) == 0 ? v : -v);
  };
  const double u = ease(x), v = ease(y), w = ease(z);
  const size_t a = p[nx] + ny, aa = p[a] + nz, ab = p[a + 1] + nz;
  const size_t b = p[nx + 1] + ny, ba = p[b] + nz, bb = p[b + 1] + nz;
  return mix(w,
      mix(v, mix(u, grad(p[aa], x, y, z), grad(p[ba], x - 1, y, z)),
          mix(u, grad(p[ab], x, y - 1, z), grad(p[bb], x - 1, y - 1, z))),
      mix(v, mix(u, grad(p[aa + 1], x, y, z - 1), grad(p[ba + 1], x - 1, y, z - 1)),
          mix(u, grad(p[ab + 1], x, y - 1, z - 1), grad(p[bb + 1], x - 1, y - 1, z - 1))));
}

struct Moments {
  double mean, deviation;
};

/// Mean and deviation of one octave over points spread about an origin.
Moments momentsAt(Cell origin) {
  const NoisePlan plan = planOf(37, 1);
  double sum = 0, squares = 0;
  constexpr int kSide = 300;
  for (int j = 0; j < kSide; ++j)
    for (int i = 0; i < kSide; ++i) {
      const double v = octaveAt(plan, {origin.x + 41 * i, 0}, {origin.z + 43 * j, 0});
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
    for (int round = 0; round < 900; ++round) {
      const NoiseSource source = anySource(random);
      std::optional<SamplingOffset> sampling;
      if (round % 3 == 0)
        sampling = SamplingOffset{static_cast<double>(below(1000)) / 7 - 50, -0.3, round % 2 == 0};
      const auto plan = compileNoise(source, sampling, random(), 2, "");
      if (!plan) continue;
      const SampleGrid grid{anyCoordinate(random), anyCoordinate(random),
          int64_t{1} << below(round % 2 ? 4 : 31), static_cast<int32_t>(1 + below(256)),
          static_cast<int32_t>(1 + below(source.basis == Basis::Cellular ? 9 : 40))};
      QVERIFY2(equalBits(tile(kernels, *plan, grid), tile(plainKernels(), *plan, grid)),
          qPrintable(describe(source, round) + QString(" step %1 from %2,%3 size %4x%5")
                                                   .arg(grid.step)
                                                   .arg(grid.x)
                                                   .arg(grid.z)
                                                   .arg(grid.width)
                                                   .arg(grid.length)));
    }
  }

  void everyTableGivesTheSameBitsAtPoints_data() { everyTableGivesTheSameBits_data(); }
  /// One, two and three dimensions; places close together, far apart and everywhere.
  void everyTableGivesTheSameBitsAtPoints() {
    QFETCH(int, table);
    const Kernels& kernels = *availableKernels()[static_cast<size_t>(table)];
    std::mt19937_64 random(8);
    for (int round = 0; round < 900; ++round) {
      const NoiseSource source = anySource(random);
      const int dims = 1 + static_cast<int>(random() % 3);
      const auto plan = compileNoise(source, {}, random(), dims, "");
      if (!plan) continue;
      const int count =
          1 + static_cast<int>(random() % (source.basis == Basis::Cellular ? 60 : 256));
      std::vector<int64_t> cell[3];
      std::vector<int32_t> q[3];
      for (int a = 0; a < 3; ++a) {
        const int64_t origin = anyCoordinate(random);
        const uint64_t spread = uint64_t{1} << (random() % (round % 4 == 0 ? 36 : 9));
        for (int i = 0; i < count; ++i) {
          cell[a].push_back(origin + static_cast<int64_t>(random() % spread));
          q[a].push_back(static_cast<int32_t>(random() % 65536));
        }
      }
      const Points points{count, {cell[0].data(), cell[1].data(), cell[2].data()},
          {q[0].data(), q[1].data(), q[2].data()}};
      std::vector<float> expected(static_cast<size_t>(count)), actual = expected;
      plainKernels().points(*plan, points, expected.data());
      kernels.points(*plan, points, actual.data());
      QVERIFY2(equalBits(expected, actual),
          qPrintable(describe(source, round) + QString(" dims %1").arg(dims)));
    }
  }

  void everyTableGivesTheSameBitsInBlocks_data() { everyTableGivesTheSameBits_data(); }
  void everyTableGivesTheSameBitsInBlocks() {
    QFETCH(int, table);
    const Kernels& kernels = *availableKernels()[static_cast<size_t>(table)];
    std::mt19937_64 random(9);
    for (int round = 0; round < 120; ++round) {
      NoiseSource source = anySource(random);
      if (round % 2) source.basis = Basis::Gradient;
      const auto plan = compileNoise(source, {}, random(), 3, "");
      if (!plan) continue;
      const auto side = [&](uint64_t most) { return static_cast<int32_t>(1 + random() % most); };
      const SampleBlock block{anyCoordinate(random), anyCoordinate(random), anyCoordinate(random),
          int64_t{1} << (random() % 6), side(70), side(9), side(9)};
      std::vector<float> expected(static_cast<size_t>(block.width) *
                                  static_cast<size_t>(block.height) *
                                  static_cast<size_t>(block.length)),
          actual = expected;
      plainKernels().block(*plan, block, expected.data());
      kernels.block(*plan, block, actual.data());
      QVERIFY2(equalBits(expected, actual), qPrintable(describe(source, round)));
    }
  }

  /// The scalar definition against the reference, which searches cellular sites by brute force.
  void agreesWithTheReference() {
    std::mt19937_64 random(10);
    for (int round = 0; round < 1500; ++round) {
      NoiseSource source = anySource(random);
      if (source.basis == Basis::Gradient2002) source.basis = Basis::Cellular;
      const int dims = 1 + round % 3;
      const uint64_t seed = random();
      std::optional<SamplingOffset> sampling;
      if (round % 5 == 0) sampling = SamplingOffset{-17.3, 4.0 / 3, round % 2 == 0};
      const auto plan = compileNoise(source, sampling, seed, dims, "");
      if (!plan) continue;
      Pos place[3];
      reference::Place there{};
      for (int n = 0; n < dims; ++n) {
        const int a = dimAxis(dims, n);
        place[a] = {anyCoordinate(random), static_cast<int32_t>(random() % 65536)};
        there.cell[a] = place[a].cell;
        there.q[a] = place[a].q;
      }
      const float expected = reference::noise(source, dims, seed, sampling, there);
      QVERIFY2(noiseAt(*plan, place) == expected,
          qPrintable(describe(source, round) + QString(" dims %1: %2, expected %3")
                                                   .arg(dims)
                                                   .arg(noiseAt(*plan, place))
                                                   .arg(expected)));
    }
  }

  void everyJoinIsWhatItSays() {
    const NoisePlan plan = planOf(20, 2);
    const SampleGrid grid{3, 4, 1, 37, 5};
    const std::vector<float> value = tile(plainKernels(), plan, grid);
    for (const Kernels* kernels : availableKernels())
      for (const JoinOp op :
          {JoinOp::Add, JoinOp::Multiply, JoinOp::Minimum, JoinOp::Maximum, JoinOp::Replace}) {
        const Join join{op, 2.5f, -0.25f};
        std::vector<float> acc(value.size(), 0.1f);
        kernels->grid(plan, grid, join, acc.data(), grid.width);
        for (size_t i = 0; i < acc.size(); ++i)
          QCOMPARE(acc[i], join.apply(0.1f, value[i] * 2.5f + -0.25f));
      }
  }

  /// Numbers published for "Improving noise": its own permutation, its own gradients.
  void reproducesThePublishedNoiseOf2002() {
    NoiseSource source;
    source.basis = Basis::Gradient2002;
    source.fractal = Fractal::Single;
    source.width = 1;
    const NoisePlan plan = compileNoise(source, {}, 77, 3, "").value();
    const auto at = [&](double x, double y, double z) {
      const auto pos = [](double v) {
        const double whole = std::floor(v);
        return Pos{static_cast<int64_t>(whole), static_cast<int32_t>((v - whole) * 65536)};
      };
      const Pos place[3] = {pos(x), pos(y), pos(z)};
      return noiseAt(plan, place);
    };
    // The value that the author's reference code gives at (3.14, 42, 7). Our places are kept to
    // 1/65536: the nearest two bracket it.
    const double published = 0.13691995878400012;
    const float below = at(3.14, 42, 7), above = at(3.14 + 1.0 / 65536, 42, 7);
    QVERIFY(std::abs(below - published) < 4e-5 && std::abs(above - published) < 4e-5);
    const double part = 3.14 * 65536 - std::floor(3.14 * 65536);
    QVERIFY(std::abs(below + (above - below) * part - published) < 1e-5);
    // Against the author's formulas in double precision, at places that we hold exactly.
    std::mt19937 random(4);
    for (int i = 0; i < 2000; ++i) {
      double v[3];
      for (double& x : v) x = static_cast<double>(random() % (1u << 24)) / 4096 - 2048;
      QVERIFY(std::abs(at(v[0], v[1], v[2]) - improvedNoise(v[0], v[1], v[2])) < 1e-5);
      // It repeats every 256 features, and knows no seed.
      QCOMPARE(at(v[0] + 256, v[1], v[2] - 512), at(v[0], v[1], v[2]));
    }
    const NoisePlan other = compileNoise(source, {}, 78, 3, "").value();
    const Pos place[3] = {{5, 1000}, {-3, 2000}, {8, 3000}};
    QCOMPARE(noiseAt(plan, place), noiseAt(other, place));
  }

  void permutationIsOne() {
    std::set<uint32_t> seen(kPermutation2002.begin(), kPermutation2002.begin() + 256);
    QCOMPARE(seen.size(), size_t{256});
    QCOMPARE(*seen.rbegin(), 255u);
    QVERIFY(std::equal(
        kPermutation2002.begin(), kPermutation2002.begin() + 256, kPermutation2002.begin() + 256));
  }

  /// Every basis keeps within its reach, uses most of it, and goes on smoothly where it should.
  void basesKeepTheirReachAndContinuity_data() {
    QTest::addColumn<int>("basis");
    QTest::addColumn<int>("dims");
    QTest::addColumn<double>("uses");
    QTest::addColumn<double>("jump");
    for (int dims = 1; dims <= 3; ++dims) {
      QTest::addRow("value %d", dims) << 1 << dims << 0.85 << 1e-3;
      QTest::addRow("simplex %d", dims) << 2 << dims << 0.7 << 1e-3;
      QTest::addRow("gradient %d", dims) << 0 << dims << 0.7 << 1e-3;
      QTest::addRow("cellular %d", dims) << 3 << dims << 0.5 << 1e-3;
      QTest::addRow("white %d", dims) << 4 << dims << 0.99 << 9.0;
    }
  }
  void basesKeepTheirReachAndContinuity() {
    QFETCH(int, basis);
    QFETCH(int, dims);
    QFETCH(double, uses);
    QFETCH(double, jump);
    NoiseSource source;
    source.basis = static_cast<Basis>(basis);
    source.fractal = Fractal::Single;
    source.width = 16;
    const NoisePlan plan = compileNoise(source, {}, 3, dims, "").value();
    std::mt19937_64 random(6);
    float low = 9, high = -9, worst = 0;
    for (int i = 0; i < 200'000; ++i) {
      Pos place[3];
      for (Pos& p : place)
        p = {static_cast<int64_t>(random() % 100'000), static_cast<int32_t>(random() % 65530)};
      const float v = noiseAt(plan, place);
      place[random() % 2 ? kX : dimAxis(dims, dims - 1)].q += 4;
      worst = std::max(worst, std::abs(noiseAt(plan, place) - v));
      low = std::min(low, v);
      high = std::max(high, v);
    }
    const auto reach = static_cast<float>(octaveReach(source, dims)) * kNoiseReach;
    QVERIFY2(high <= reach && low >= (source.basis == Basis::Cellular ? 0 : -reach),
        qPrintable(QString("%1 … %2").arg(low).arg(high)));
    QVERIFY2(high > uses * octaveReach(source, dims), qPrintable(QString::number(high)));
    QVERIFY2(worst < jump, qPrintable(QString::number(worst)));
  }

  /// The published slope: each octave of fBm has gain^2 of the power at lacunarity times the
  /// frequency, so power falls with 2 log(gain) / log(lacunarity).
  void spectrumFallsWithItsSlope() {
    NoiseSource source;
    source.width = 512;
    source.octaves = 8;
    source.gain = 0.5;
    const NoisePlan plan = compileNoise(source, {}, 21, 2, "").value();
    constexpr int kLength = 4096, kLines = 24;
    // Power in bands an octave wide, by plain Fourier sums at a few frequencies of each.
    std::vector<double> power;
    for (int band = 3; band < 9; ++band) {
      double sum = 0;
      int count = 0;
      for (int line = 0; line < kLines; ++line) {
        std::vector<float> row = tile(plainKernels(), plan, {0, 7919 * line, 1, 256, 1});
        row.resize(kLength);
        for (int from = 256; from < kLength; from += 256) {
          const auto part = tile(plainKernels(), plan, {from, 7919 * line, 1, 256, 1});
          std::copy(part.begin(), part.end(), row.begin() + from);
        }
        for (int f = 1 << band; f < 2 << band; f += std::max(1, (1 << band) / 8)) {
          double re = 0, im = 0;
          for (int i = 0; i < kLength; ++i) {
            const double window = 0.5 - 0.5 * std::cos(2 * M_PI * i / kLength);
            const double angle = 2 * M_PI * f * i / kLength;
            re += row[static_cast<size_t>(i)] * window * std::cos(angle);
            im += row[static_cast<size_t>(i)] * window * std::sin(angle);
          }
          sum += re * re + im * im;
          ++count;
        }
      }
      power.push_back(std::log2(sum / count));
    }
    // A line through one frequency sees power density: amplitude^2 over bandwidth, 1/f^3 here.
    const double slope = (power.back() - power.front()) / static_cast<double>(power.size() - 1);
    QVERIFY2(std::abs(slope + 3) < 0.45, qPrintable(QString::number(slope)));
  }

  /// The lengths around the vector's edge, at both sides of a lattice column.
  void vectorEdgesAreExact() {
    const NoisePlan plan = planOf(5.3, 2);
    for (const Kernels* kernels : availableKernels())
      for (int32_t width = 1; width <= 40; ++width)
        for (int64_t x = -9; x < 9; x += 3) {
          const SampleGrid grid{x, -4, 1, width, 3};
          std::vector<float> guarded(static_cast<size_t>(width) * 3 + 32, 99.0f);
          std::fill_n(guarded.begin(), width * 3, 0.0f);
          kernels->grid(plan, grid, {JoinOp::Add, 1, 0}, guarded.data(), width);
          const std::vector<float> plain = tile(plainKernels(), plan, grid);
          QVERIFY(std::equal(plain.begin(), plain.end(), guarded.begin()));
          QVERIFY(std::all_of(
              guarded.begin() + width * 3, guarded.end(), [](float v) { return v == 99.0f; }));
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
        kernels->bands(
            heights.data(), count, ends.data(), static_cast<int>(ends.size()), bands.data());
        for (size_t i = 0; i < heights.size(); ++i)
          QCOMPARE(bands[i],
              std::count_if(ends.begin(), ends.end(), [&](float e) { return e <= heights[i]; }));
        QCOMPARE(bands[heights.size()], uint16_t{77});
      }
  }

  void staysInRangeAndUsesIt() {
    const NoisePlan plan = planOf(16, 1);
    float low = 1, high = -1;
    for (int64_t z = 0; z < 1500; ++z)
      for (int64_t x = 0; x < 1500; ++x) {
        const float v = octaveAt(plan, {x, 0}, {z, 0});
        low = std::min(low, v);
        high = std::max(high, v);
      }
    QVERIFY(low >= -kNoiseReach && high <= kNoiseReach);
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
    const NoisePlan plan = planOf(8, 1, 5, 2, SamplingOffset{0, 0});
    for (const int64_t origin : {int64_t{0}, int64_t{-64}, int64_t{2'000'000'000}}) {
      for (int64_t border = origin; border < origin + 400; border += 8) {
        const Pos z{origin + border % 37, 1234};
        const float before = octaveAt(plan, {border - 1, 65535}, z);
        const float at = octaveAt(plan, {border, 0}, z);
        const float after = octaveAt(plan, {border, 1}, z);
        QVERIFY(std::abs(at - before) < 1e-5f);
        QVERIFY(std::abs((after - at) - (at - before)) < 2e-6f);
      }
    }
  }

  void vanishesOnLatticePoints() {
    const NoisePlan plan = planOf(1, 1, 9, 2, SamplingOffset{0, 0});
    for (int64_t i = -50; i < 50; ++i) QCOMPARE(octaveAt(plan, {i, 0}, {3 * i, 0}), 0.0f);
    // Scattered sampling does not.
    const NoisePlan scattered = planOf(1, 1, 9);
    QVERIFY(octaveAt(scattered, {0, 0}, {0, 0}) != 0.0f);
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
    const NoisePlan plan = planOf(1000, 1);
    const auto roughness = [&](int64_t origin) {
      double largest = 0;
      float last = octaveAt(plan, {origin, 0}, {origin, 0});
      for (int64_t i = 1; i < 5000; ++i) {
        const float v = octaveAt(plan, {origin + i, 0}, {origin, 0});
        largest = std::max<double>(largest, std::abs(v - last));
        last = v;
      }
      return largest;
    };
    QVERIFY(roughness(0) < 0.006);
    QVERIFY(roughness(2'000'000'000) < 0.006);
    QVERIFY(roughness(-2'000'000'000) < 0.006);
  }

  void selfTestKnowsRightFromWrong() {
    for (const Kernels* table : availableKernels()) QVERIFY(selfTest(*table).ok());
    // A table that is off by the least bit in one sample is found.
    Kernels off = plainKernels();
    off.grid = [](const NoisePlan& plan, const SampleGrid& grid, const Join& join, float* acc,
                   ptrdiff_t stride) {
      plainKernels().grid(plan, grid, join, acc, stride);
      acc[stride + 3] = std::nextafter(acc[stride + 3], 100.0f);
    };
    QVERIFY(!selfTest(off).ok());
    QCOMPARE(selfTest(off).error().where, "self-test");
    // And so is what comes after a source.
    static const auto stray = [](float* values, int count) {
      for (int i = 0; i < count; ++i) values[i] = std::nextafter(values[i], 100.0f);
    };
    Kernels other[6];
    std::fill_n(other, 6, plainKernels());
    other[0].curve = [](const CurveSet& curve, float* v, int n) {
      plainKernels().curve(curve, v, n);
      stray(v, n);
    };
    other[1].shares = [](const ShareSet& shares, float* v, int n) {
      plainKernels().shares(shares, v, n);
      stray(v, n);
    };
    other[2].scale = [](const Scaling& by, float* v, int n) {
      plainKernels().scale(by, v, n);
      stray(v, n);
    };
    other[3].mask = [](const MaskEnds& mask, float* v, int n) {
      plainKernels().mask(mask, v, n);
      stray(v, n);
    };
    other[4].join = [](Combine combine, float by, float* sum, const float* v, const float* w,
                        int n) {
      plainKernels().join(combine, by, sum, v, w, n);
      stray(sum, n);
    };
    other[5].shift = [](const int64_t* cell, const int32_t* q, const float* noise, float cells,
                         int n, int64_t* toCell, int32_t* toQ) {
      plainKernels().shift(cell, q, noise, cells, n, toCell, toQ);
      toQ[n - 1] ^= 1;
    };
    for (const Kernels& table : other) QVERIFY(!selfTest(table).ok());
  }

  void stepsOutsideTheirRangeAreRefusedByOctave() {
    NoiseSource source;
    source.width = 1;
    source.octaves = 32;
    const auto steps = octaveFrequencies(source, "/heights/layers/0");
    QVERIFY(!steps.ok());
    QCOMPARE(steps.error().where, "/heights/layers/0/octaves");
    QVERIFY(steps.error().what.find("octave 7") != std::string::npos);
    source.octaves = 6;
    QCOMPARE(octaveFrequencies(source, "").value().back(), 0x1p53);
    source.width = 4294967296.0;
    source.octaves = 1;
    QCOMPARE(octaveFrequencies(source, "").value().front(), 65536.0);
  }
};

ACRE_SUITE(NoiseTest)
#include "noise_test.moc"
