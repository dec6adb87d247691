#include "reference/evaluator.h"

#include <cmath>

#include "base/hash.h"
#include "base/seed.h"

namespace reference {
namespace {

__extension__ using Wide = __int128;

struct AxisPlace {
  int64_t node;
  float fraction;
};

/// Lattice place of a coordinate: P = cell*s + floor(q*s / 2^16) + phase, in 2^-48 lattice cells.
AxisPlace place(int64_t cell, int32_t q, uint64_t step, uint64_t phase) {
  const Wide product = static_cast<Wide>(q) * static_cast<Wide>(step);
  Wide part = product / 65536;
  if (product % 65536 < 0) --part;
  const Wide p =
      static_cast<Wide>(cell) * static_cast<Wide>(step) + part + static_cast<Wide>(phase);
  const Wide lattice = Wide{1} << 48;
  Wide node = p / lattice;
  Wide rest = p % lattice;
  if (rest < 0) {
    rest += lattice;
    --node;
  }
  const auto bits = static_cast<uint32_t>(static_cast<uint64_t>(rest) >> 24);
  return {static_cast<int64_t>(node), static_cast<float>(bits) / 16777216.0f};
}

struct Vector {
  float x, z;
};

Vector gradient(uint64_t seedX, uint64_t seedZ, int64_t nodeX, int64_t nodeZ) {
  const uint32_t hash = acre::nodeHash(acre::axisHash(seedX, nodeX), acre::axisHash(seedZ, nodeZ));
  const float eighth = 0x1.a8279ap-2f * 0x1p-24f;
  const float t = static_cast<float>(hash >> 8) * eighth;
  const float scale = 0x1.6a09e6p+0f / (1.0f + t * t);
  float a = (1.0f - t * t) * scale;
  float b = (t + t) * scale;
  if (hash & 1) std::swap(a, b);
  return {(hash & 2) ? -a : a, (hash & 4) ? -b : b};
}

float mix(float a, float b, float t) {
  return a + t * (b - a);
}
float smooth(float t) {
  return (t * t * t) * (t * (t * 6.0f - 15.0f) + 10.0f);
}

float octave(uint64_t octaveSeed, uint64_t step,
             const std::optional<acre::SamplingOffset>& sampling, acre::Cell cell) {
  int64_t x = cell.x, z = cell.z;
  int32_t qx = 0, qz = 0;
  uint64_t phaseX = 0, phaseZ = 0;
  if (sampling) {
    x += static_cast<int64_t>(std::floor(sampling->x));
    z += static_cast<int64_t>(std::floor(sampling->z));
    qx = static_cast<int32_t>(std::floor((sampling->x - std::floor(sampling->x)) * 65536 + 0.5));
    qz = static_cast<int32_t>(std::floor((sampling->z - std::floor(sampling->z)) * 65536 + 0.5));
  } else {
    phaseX = acre::combine(octaveSeed, 16) >> 16;
    phaseZ = acre::combine(octaveSeed, 18) >> 16;
  }
  const AxisPlace px = place(x, qx, step, phaseX), pz = place(z, qz, step, phaseZ);
  const uint64_t seedX = acre::combine(octaveSeed, 0), seedZ = acre::combine(octaveSeed, 2);
  const float u = px.fraction, v = pz.fraction;
  float end[2];
  for (int i = 0; i < 2; ++i) {
    const Vector upper = gradient(seedX, seedZ, px.node + i, pz.node);
    const Vector lower = gradient(seedX, seedZ, px.node + i, pz.node + 1);
    const float a = mix(upper.x, lower.x, smooth(v));
    const float b = mix(upper.z * v, lower.z * (v - 1.0f), smooth(v));
    end[i] = a * (u - static_cast<float>(i)) + b;
  }
  return mix(end[0], end[1], smooth(u));
}

float layerValue(const acre::Layer& layer, uint64_t seed, acre::Cell cell) {
  if (const auto* constant = std::get_if<acre::ConstantSource>(&layer.source))
    return static_cast<float>(constant->value);
  const auto& noise = std::get<acre::GradientSource>(layer.source);
  const uint64_t layerSeed =
      acre::combine(acre::combine(seed, 0x48656967687473u), acre::hashText(layer.id));
  double frequency = 281474976710656.0 / noise.width;
  double weight = 1;
  float sum = 0;
  const int octaves = noise.fractal == acre::Fractal::Single ? 1 : noise.octaves;
  for (int k = 0; k < octaves; ++k) {
    const auto step = static_cast<uint64_t>(std::floor(frequency + 0.5));
    sum += octave(acre::combine(layerSeed, static_cast<uint64_t>(k)), step, noise.sampling, cell) *
           static_cast<float>(weight);
    frequency *= noise.lacunarity;
    weight *= noise.gain;
  }
  return sum * static_cast<float>(noise.amplitude) + static_cast<float>(noise.offset);
}

bool inside(const std::optional<acre::AxisBounds>& axis, int64_t cell) {
  return !axis || (cell >= axis->min && cell - axis->min < axis->extent);
}

}  // namespace

float height(const acre::Recipe& recipe, acre::Cell cell) {
  const uint64_t seed = acre::seedNumber(recipe.seed);
  float sum = 0;
  for (const acre::Layer& layer : recipe.heights) {
    if (!layer.on) continue;
    const float value = layerValue(layer, seed, cell);
    sum = layer.combine == acre::Combine::Add ? sum + value : sum * value;
  }
  return sum;
}

CellValue evaluate(const acre::Recipe& recipe, acre::Cell cell) {
  CellValue out{height(recipe, cell), acre::kUnassignedId};
  if (!inside(recipe.frame.x, cell.x) || !inside(recipe.frame.z, cell.z)) {
    out.material = "outside";
    return out;
  }
  for (const acre::Band& band : recipe.bands) {
    double end = band.below ? band.below->value : HUGE_VAL;
    if (band.below && band.below->fromSea) end = recipe.frame.seaLevel + end;
    if (out.height < static_cast<float>(end)) {
      out.material = band.material;
      return out;
    }
  }
  return out;
}

}  // namespace reference
