/// Compiled gradient noise: the numbers that the kernels need, and the plain scalar evaluation that
/// defines every bit of the result. docs/maths.md states the same in formulas.
///
/// Gradient noise after K. Perlin, "Improving noise", SIGGRAPH 2002 (quintic fade), with gradients
/// of length sqrt(2) in directions taken from the lattice hash instead of a permutation table, so
/// that the noise does not repeat and one octave keeps within [-1, 1] (kGradientReach allows for
/// rounding).
#pragma once

#include <cstdint>
#include <vector>

#include "base/coords.h"

namespace acre {

/// |noise| of one octave never exceeds this.
inline constexpr float kGradientReach = 1.0f + 0x1p-20f;

/// One octave. The lattice position of a coordinate is the Q.48 number
///   P = cell*step + floor(q*step / 2^16) + phase,
/// whose bits 48 and up are the lattice cell and whose bits 24 ... 47 are the fraction.
struct GradientOctave {
  uint64_t step = 0;    ///< 2^-48 lattice cells per cell, 2^16 ... 2^53.
  uint64_t phaseX = 0;  ///< Hashed shift, below 2^48; 0 with explicit sampling.
  uint64_t phaseZ = 0;
  uint64_t seedX = 0;  ///< Axis seeds of the lattice hash.
  uint64_t seedZ = 0;
  float weight = 1;  ///< gain^k, rounded from double once.
};

/// A layer of gradient noise: amplitude * sum(weight_k * noise_k) + offset, summed from octave 0.
/// REQUIRES: at least one octave, the first with weight 1; offset not -0.
struct GradientPlan {
  std::vector<GradientOctave> octaves;
  Pos shiftX;  ///< Explicit sampling offset, added to the position.
  Pos shiftZ;
  float amplitude = 1;
  float offset = 0;
};

/// A place on one axis of the lattice of one octave.
struct LatticePos {
  int64_t cell;
  float fraction;  ///< [0, 1), a multiple of 2^-24.
};

/// Exact for every cell up to 2^61 and every step.
LatticePos latticeAt(uint64_t step, uint64_t phase, int64_t cell, int32_t q);

/// Perlin's fade 6t^5 - 15t^4 + 10t^3, in the one order of operations that all code uses.
constexpr float fade(float t) {
  return (t * t * t) * (t * (t * 6.0f - 15.0f) + 10.0f);
}
constexpr float lerp(float a, float b, float t) {
  return a + t * (b - a);
}

struct Gradient {
  float x;
  float z;
};

/// The gradient of a lattice node from its hash: bits 8 ... 31 choose a direction within one eighth
/// of the circle by the rational parametrisation, bits 0 ... 2 mirror it into one of the eight.
Gradient gradientOf(uint32_t hash);

/// One octave at one place, in [-kGradientReach, kGradientReach].
float octaveAt(const GradientOctave& octave, Pos x, Pos z);

/// The whole layer at one place.
float gradientAt(const GradientPlan& plan, Pos x, Pos z);

// Constants of gradientOf, shared with the vector kernels.
inline constexpr float kEighthSlope = 0x1.a8279ap-2f * 0x1p-24f;  ///< tan(pi/8) per 2^24 steps.
inline constexpr float kRoot2 = 0x1.6a09e6p+0f;

}  // namespace acre
