#include "climate/relief.h"

#include <algorithm>
#include <bit>
#include <cmath>
#include <limits>

namespace acre {
namespace {

/// Sums of three numbers, in double.
struct Sum {
  double v[3] = {};
  void add(const Sum& other) {
    for (int c = 0; c < 3; ++c) v[c] += other.v[c];
  }
  Sum mean(int count) const { return {{v[0] / count, v[1] / count, v[2] / count}}; }
};

Sum sumOf(const Relief& r) {
  return {{r.factor, r.raise, r.rough}};
}
ReliefAt toFloat(const Sum& s) {
  return {static_cast<float>(s.v[0]), static_cast<float>(s.v[1]), static_cast<float>(s.v[2])};
}

/// The largest number below a finite v.
float nextBelow(float v) {
  const auto bits = std::bit_cast<int32_t>(v == 0 ? -0.0f : v);
  return std::bit_cast<float>(bits < 0 ? bits + 1 : bits - 1);
}

/// Place among `steps` equal steps from `low`, kept within them.
std::pair<int, float> placeAmong(float v, float low, float scale, int steps) {
  const float at = (v - low) * scale;
  const float kept = at > 0 ? (at < static_cast<float>(steps) ? at : static_cast<float>(steps)) : 0;
  const int knot = std::min(static_cast<int>(kept), steps - 1);
  return {knot, kept - static_cast<float>(knot)};
}

}  // namespace

AltitudeKnots::AltitudeKnots(
    const Biomes& biomes, const std::vector<float>& sliceEnds, double seaLevel) {
  double low = std::numeric_limits<double>::infinity(), high = -low;
  const auto include = [&](double altitude, double margin) {
    low = std::min(low, altitude - margin);
    high = std::max(high, altitude + margin);
  };
  for (const float end : sliceEnds)
    include(static_cast<double>(end), std::max(1.0, biomes.border.altitude));
  for (const Biome& biome : biomes.list)
    if (biomes.rules == ChartRules::Points && biome.ideal && biome.ideal->altitude)
      include(seaLevel + *biome.ideal->altitude, biomes.altitudeReach / 2);
  if (!(low < high)) return;
  count_ = kCount;
  low_ = low;
  span_ = high - low;
  lowest_ = static_cast<float>(low);
  perCell_ = static_cast<float>((kCount - 1) / span_);
  const double halfStep = span_ / (2 * (kCount - 1));
  blur_ =
      static_cast<int>(std::min(32.0, std::floor(biomes.border.altitude / (2 * halfStep) + 0.5)));
}

std::pair<int, float> AltitudeKnots::place(float altitude) const {
  if (count_ == 1) return {0, 0.0f};
  return placeAmong(altitude, lowest_, perCell_, kCount - 1);
}

Reliefs reliefsOf(const Biomes& biomes) {
  Reliefs reliefs(1);
  for (const Biome& biome : biomes.list) reliefs.push_back(biome.relief);
  return reliefs;
}

bool anyRelief(const Biomes& biomes) {
  return std::any_of(biomes.list.begin(), biomes.list.end(),
      [](const Biome& b) { return !(b.relief == Relief{}); });
}

ReliefAt reliefAtKnot(const AltitudeKnots& knots, int knot, const Reliefs& reliefs,
    const std::function<BiomeIndex(float)>& biomeAt) {
  Sum sum;
  for (int k = -knots.blur(); k <= knots.blur(); ++k) {
    const int at = std::clamp(2 * knot + k, 0, 2 * (AltitudeKnots::kCount - 1));
    sum.add(sumOf(reliefs[biomeAt(knots.at(at))]));
  }
  return toFloat(sum.mean(2 * knots.blur() + 1));
}

ReliefTable::ReliefTable(const Chart& chart, const AltitudeKnots& knots, const Reliefs& reliefs,
    double borderWidth, const Kernels& kernels)
    : knots_(knots),
      lowX_(static_cast<float>(chart.x().low)),
      lowY_(static_cast<float>(chart.y().low)),
      perX_(static_cast<float>((kSide - 1) / (chart.x().high - chart.x().low))),
      perY_(static_cast<float>((kSide - 1) / (chart.y().high - chart.y().low))) {
  // Biomes at every half step, averaged along x, then y, then altitude.
  constexpr int kFine = 2 * (kSide - 1) + 1;
  const int layers = knots.count() == 1 ? 1 : 2 * (AltitudeKnots::kCount - 1) + 1;
  const int blur = static_cast<int>(std::floor(borderWidth * (kFine - 1) / 2 + 0.5));
  std::vector<float> xs(kFine), ys(kFine), altitudes(kFine);
  for (int i = 0; i < kFine; ++i) xs[static_cast<size_t>(i)] = partEdge(chart.x(), i, kFine - 1);
  constexpr size_t kPlane = size_t{kSide} * kSide;
  // Most altitudes have the same biomes as the one below: then all sums are the same too.
  std::vector<BiomeIndex> biomes(size_t{kFine} * kFine), below;
  std::vector<Sum> alongX(size_t{kSide} * kFine), alongY(kPlane * static_cast<size_t>(layers));
  for (int a = 0; a < layers; ++a) {
    Sum* plane = alongY.data() + static_cast<size_t>(a) * kPlane;
    std::fill(altitudes.begin(), altitudes.end(), knots.at(a));
    for (int j = 0; j < kFine; ++j) {
      std::fill(ys.begin(), ys.end(), partEdge(chart.y(), j, kFine - 1));
      chart.lookUp(kernels, kFine, xs.data(), ys.data(), altitudes.data(),
          biomes.data() + static_cast<ptrdiff_t>(j) * kFine);
    }
    if (biomes == below) {
      std::copy_n(plane - kPlane, kPlane, plane);
      continue;
    }
    below = biomes;
    for (int j = 0; j < kFine; ++j)
      for (int i = 0; i < kSide; ++i) {
        const BiomeIndex* row = biomes.data() + static_cast<ptrdiff_t>(j) * kFine;
        Sum sum;
        for (int k = -blur; k <= blur; ++k)
          sum.add(sumOf(reliefs[row[std::clamp(2 * i + k, 0, kFine - 1)]]));
        alongX[static_cast<size_t>(j) * kSide + static_cast<size_t>(i)] = sum.mean(2 * blur + 1);
      }
    for (int j = 0; j < kSide; ++j)
      for (int i = 0; i < kSide; ++i) {
        Sum sum;
        for (int k = -blur; k <= blur; ++k)
          sum.add(alongX[static_cast<size_t>(std::clamp(2 * j + k, 0, kFine - 1)) * kSide +
                         static_cast<size_t>(i)]);
        plane[j * kSide + i] = sum.mean(2 * blur + 1);
      }
  }
  table_.resize(kPlane * static_cast<size_t>(knots.count()));
  for (int a = 0; a < knots.count(); ++a)
    for (size_t p = 0; p < kPlane; ++p) {
      Sum sum;
      for (int k = -knots.blur(); k <= knots.blur(); ++k)
        sum.add(alongY[static_cast<size_t>(std::clamp(2 * a + k, 0, layers - 1)) * kPlane + p]);
      const ReliefAt mean = toFloat(sum.mean(2 * knots.blur() + 1));
      table_[static_cast<size_t>(a) * kPlane + p] = {{mean.factor, mean.raise, mean.rough, 0}};
    }
}

ReliefAt ReliefTable::at(float x, float y, float altitude) const {
  const auto [i, u] = placeAmong(x, lowX_, perX_, kSide - 1);
  const auto [j, v] = placeAmong(y, lowY_, perY_, kSide - 1);
  const auto [k, w] = knots_.place(altitude);
  const Knot* base = table_.data() + (static_cast<ptrdiff_t>(k) * kSide + j) * kSide + i;
  const auto plane = [u = u, v = v](const Knot* from, float* out) {
    const Knot *a = from, *b = from + kSide;
    for (int c = 0; c < 4; ++c) {
      const float near = a[0].v[c] + u * (a[1].v[c] - a[0].v[c]);
      const float far = b[0].v[c] + u * (b[1].v[c] - b[0].v[c]);
      out[c] = near + v * (far - near);
    }
  };
  float below[4];
  plane(base, below);
  if (knots_.count() > 1) {
    float above[4];
    plane(base + ptrdiff_t{kSide} * kSide, above);
    for (int c = 0; c < 4; ++c) below[c] = below[c] + w * (above[c] - below[c]);
  }
  return {below[0], below[1], below[2]};
}

float shapedHeight(float base, const ReliefAt& relief, float noise, float sea, float coast) {
  if (relief.factor == 1.0f && relief.raise == 0.0f && relief.rough == 0.0f) return base;
  const float r = base - sea;
  const float away = r < 0 ? -r : r;
  const float grown = away < coast ? away / coast : 1.0f;
  const float shaped = r * relief.factor + (relief.raise + relief.rough * noise) * grown;
  const float height = sea + shaped;
  if (r >= 0) return height < sea ? sea : height;
  return height < sea ? height : nextBelow(sea);
}

}  // namespace acre
