/// Compiled noise: the numbers that the kernels need, and the plain scalar evaluation that defines
/// every bit of the result. docs/maths.md states the same in formulas.
///
/// Sources. Gradient: K. Perlin, "Improving noise", SIGGRAPH 2002 (quintic fade), with gradients
/// from the lattice hash instead of a permutation table, so that the noise does not repeat.
/// Simplex: K. Perlin, "Noise hardware", 2001, as described by S. Gustavson, "Simplex noise
/// demystified", 2005, with a kernel radius that keeps it continuous in three dimensions too.
/// Cellular: S. Worley, "A cellular texture basis function", SIGGRAPH 1996.
#pragma once

#include <array>
#include <cstdint>
#include <stop_token>
#include <vector>

#include "base/coords.h"
#include "recipe/field_recipe.h"

namespace acre {

/// Axes of the world and of the lattice, as indices. Two dimensions use kX and kZ, one uses kX.
inline constexpr int kX = 0;
inline constexpr int kY = 1;
inline constexpr int kZ = 2;

/// The axes in use, in the order of the loops.
constexpr int dimAxis(int dims, int i) {
  return dims == 2 && i == 1 ? kZ : i;
}

/// |noise| of one octave of every basis but cellular distance never exceeds this.
inline constexpr float kNoiseReach = 1.0f + 0x1p-20f;

/// One octave. The lattice position along lattice axis a is the Q.48 number
///   P_a = sum over world axes b of (cell_b*step + floor(q_b*step / 2^16)) + phase_a,
/// step = steps[a][b], whose bits 48 and up are the lattice cell and whose bits 24 ... 47 are the
/// fraction.
struct Octave {
  int64_t steps[3][3] = {};  ///< 2^-48 lattice cells per cell, |step| <= 2^54.
  uint64_t phase[3] = {};    ///< Hashed shift, below 2^48; 0 with explicit sampling.
  uint64_t seed[3] = {};     ///< Axis seeds of the lattice hash.
  float weight = 1;          ///< gain^k, rounded from double once.
};

/// What is done to each octave's noise n.
enum class Shape { Plain, Ridged, Billowed };  ///< n, 1 - 2|n|, 2|n| - 1.

/// A layer of noise: sum(weight_k * shape(noise_k)), summed from octave 0.
/// REQUIRES: at least one octave, the first with weight 1.
struct NoisePlan {
  int dims = 2;
  Basis basis = Basis::Gradient;
  Shape shape = Shape::Plain;
  CellularResult result = CellularResult::First;
  Metric metric = Metric::Euclidean;
  float jitter = 1;
  std::vector<Octave> octaves;
  bool aligned = true;  ///< steps are diagonal: lattice axes lie along world axes.
  Pos shift[3];         ///< Explicit sampling offset, added to the position; 0 <= q < 65536.
};

/// Of what is found by looking around each place, as the nearest water: many places far apart could
/// not afford to be exact.
enum class Accuracy : uint8_t { Exact, Approximate };

/// Many places at once. cell[axis] and q[axis] point to `count` values each; only the axes that
/// the plan uses are read. 0 <= q < 65536.
struct Points {
  int count = 0;
  const int64_t* cell[3] = {};
  const int32_t* q[3] = {};
  Accuracy accuracy = Accuracy::Exact;
  /// When asked to stop, any value will do: whoever passes it asks it again afterwards.
  const std::stop_token* stop = nullptr;
};

/// A place on one axis of the lattice of one octave.
struct LatticePos {
  int64_t cell;
  float fraction;  ///< [0, 1), a multiple of 2^-24.
};

/// The place on lattice axis `axis`. Exact for every cell up to 2^61 and every step.
LatticePos latticeAt(const Octave& octave, int dims, int axis, const Pos* place);

/// Farthest that a warp shifts, in cells.
inline constexpr float kFarthestShift = 16'000;

/// Cells and 1/65536 cells of a displacement, rounded to the nearest.
inline int32_t fixedShift(float cells) {
  const float near =
      cells < -kFarthestShift ? -kFarthestShift : (cells > kFarthestShift ? kFarthestShift : cells);
  const float scaled = near * 65536.0f + 0.5f;  // Within 32 bits: floor by hand, without a call.
  const auto whole = static_cast<int32_t>(scaled);
  return static_cast<float>(whole) > scaled ? whole - 1 : whole;
}

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
struct Gradient3 {
  float x;
  float y;
  float z;
};

/// The gradient of a 2-D lattice node from its hash, length sqrt(2): bits 8 ... 31 choose a
/// direction within one eighth of the circle by the rational parametrisation, bits 0 ... 2 mirror
/// it into one of the eight.
Gradient gradientOf(uint32_t hash);
/// In three dimensions: towards the middle of one of a cube's twelve edges, each component 0 or
/// +-kEdge, so that one octave keeps within [-1, 1].
Gradient3 gradient3Of(uint32_t hash);
/// A number from a hash: [-1, 1), a multiple of 2^-23.
constexpr float unitOf(uint32_t hash) {
  return static_cast<float>(hash >> 8) * 0x1p-23f - 1.0f;
}

/// One octave at one place, before its shape. place[axis]: with the plan's shift added.
float octaveAt(const NoisePlan& plan, const Octave& octave, const Pos* place);

/// The sum of the octaves at one place. place[axis].
float noiseAt(const NoisePlan& plan, const Pos* place);

/// Largest possible value of one octave: 1 (kNoiseReach) but for cellular distances.
double octaveReach(const NoiseSource& source, int dims);

// Constants and small steps shared with the vector kernels.
inline constexpr float kEighthSlope = 0x1.a8279ap-2f * 0x1p-24f;  ///< tan(pi/8) per 2^24 steps.
inline constexpr float kRoot2 = 0x1.6a09e6p+0f;
inline constexpr float kEdge = 0.9649f;  ///< 1 / 1.0363..., the most that whole edges reach.
inline constexpr float kUnskew2 = 0.2113248654f;  ///< (3 - sqrt 3) / 6
inline constexpr float kUnskew3 = 1.0f / 6.0f;
inline constexpr double kSkew2 = 0.36602540378443865;  ///< (sqrt 3 - 1) / 2
inline constexpr double kSkew3 = 1.0 / 3.0;
inline constexpr float kSimplexScale1 = 3.16f;
inline constexpr float kSimplexScale2 = 70.0f;
inline constexpr float kSimplexScale3 = 72.0f;

/// Second and third 32 bits of a site; the first are its hash.
constexpr uint32_t siteHash2(uint32_t h) {
  return (h ^ (h >> 16)) * 0x7FEB352Du;
}
constexpr uint32_t siteHash3(uint32_t h2) {
  return (h2 ^ (h2 >> 15)) * 0x846CA68Bu;
}
/// Place of a site within its square: 1/2 + jitter*(r - 1/2), r of 20 bits in [0, 1).
constexpr float siteOffset(uint32_t hash, float jitter) {
  return 0.5f + jitter * (static_cast<float>(hash >> 12) * 0x1p-20f - 0.5f);
}
/// Value of a site, independent of its place.
constexpr float siteValue(uint32_t hash) {
  return unitOf((hash ^ (hash >> 15)) * 0x2C1B3C6Du);
}

/// The permutation published with "Improving noise", twice over.
extern const std::array<uint32_t, 512> kPermutation2002;

}  // namespace acre
