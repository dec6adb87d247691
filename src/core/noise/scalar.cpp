#include "base/hash.h"
#include "noise/gradient.h"
#include "noise/kernels.h"

namespace acre {

LatticePos latticeAt(uint64_t step, uint64_t phase, int64_t cell, int32_t q) {
  __extension__ using Wide = __int128;
  const Wide s = static_cast<Wide>(step);
  const Wide p = cell * s + ((q * s) >> 16) + static_cast<Wide>(phase);
  return {static_cast<int64_t>(p >> 48),
          static_cast<float>(static_cast<uint32_t>(p >> 24) & 0xFFFFFFu) * 0x1p-24f};
}

Gradient gradientOf(uint32_t hash) {
  const float t = static_cast<float>(hash >> 8) * kEighthSlope;
  const float t2 = t * t;
  const float r = kRoot2 / (1.0f + t2);
  const float c = (1.0f - t2) * r;
  const float s = (t + t) * r;
  Gradient g = (hash & 1) ? Gradient{s, c} : Gradient{c, s};
  if (hash & 2) g.x = -g.x;
  if (hash & 4) g.z = -g.z;
  return g;
}

float octaveAt(const GradientOctave& octave, Pos x, Pos z) {
  const LatticePos px = latticeAt(octave.step, octave.phaseX, x.cell, x.q);
  const LatticePos pz = latticeAt(octave.step, octave.phaseZ, z.cell, z.q);
  const auto next = [](int64_t node) {
    return static_cast<int64_t>(static_cast<uint64_t>(node) + 1);
  };
  const uint32_t hx0 = axisHash(octave.seedX, px.cell), hx1 = axisHash(octave.seedX, next(px.cell));
  const uint32_t hz0 = axisHash(octave.seedZ, pz.cell), hz1 = axisHash(octave.seedZ, next(pz.cell));
  const float u = px.fraction, v = pz.fraction, fv = fade(v);
  const auto column = [&](uint32_t hx, float& a, float& b) {
    const Gradient g0 = gradientOf(nodeHash(hx, hz0));
    const Gradient g1 = gradientOf(nodeHash(hx, hz1));
    a = lerp(g0.x, g1.x, fv);
    b = lerp(g0.z * v, g1.z * (v - 1.0f), fv);
  };
  float a0, b0, a1, b1;
  column(hx0, a0, b0);
  column(hx1, a1, b1);
  return lerp(a0 * u + b0, a1 * (u - 1.0f) + b1, fade(u));
}

float gradientAt(const GradientPlan& plan, Pos x, Pos z) {
  // The fractions of place and shift add up to less than two cells; q may exceed one cell.
  const Pos sx{x.cell + plan.shiftX.cell, x.q + plan.shiftX.q};
  const Pos sz{z.cell + plan.shiftZ.cell, z.q + plan.shiftZ.q};
  float sum = 0;
  for (const GradientOctave& octave : plan.octaves)
    sum = sum + octaveAt(octave, sx, sz) * octave.weight;
  return sum * plan.amplitude + plan.offset;
}

namespace {

void plainGradient(const GradientPlan& plan, const SampleGrid& grid, bool multiply, float* acc,
                   ptrdiff_t stride) {
  for (int32_t j = 0; j < grid.height; ++j) {
    for (int32_t i = 0; i < grid.width; ++i) {
      const float value =
          gradientAt(plan, {grid.x + i * grid.step, 0}, {grid.z + j * grid.step, 0});
      float& sum = acc[j * stride + i];
      sum = multiply ? sum * value : sum + value;
    }
  }
}

void plainBands(const float* heights, int64_t count, const float* thresholds, int thresholdCount,
                uint16_t* bands) {
  for (int64_t i = 0; i < count; ++i) {
    int band = 0;
    while (band < thresholdCount && !(heights[i] < thresholds[band])) ++band;
    bands[i] = static_cast<uint16_t>(band);
  }
}

}  // namespace

const Kernels& plainKernels() {
  static constexpr Kernels table{"plain", plainGradient, plainBands};
  return table;
}

}  // namespace acre
