/// Light on ground, and inks under it.
#pragma once

#include <array>
#include <cmath>
#include <cstddef>
#include <cstdint>

#include "recipe/biome_recipe.h"

namespace acre {

inline constexpr uint32_t kPaperInk = 0xFFFBF9F3;  ///< The sheet.
inline constexpr uint32_t kPenInk = 0xFF1F2D3A;
inline constexpr uint32_t kPlainGround = 0xFFD9D1BE;  ///< Of beds that no material is told of.

constexpr uint32_t opaqueInk(const Colour& colour) {
  return 0xFF000000u | uint32_t{colour.red} << 16 | uint32_t{colour.green} << 8 | colour.blue;
}
/// `a` and, by t, `b`: channel by channel, as they are encoded.
uint32_t mixed(uint32_t a, uint32_t b, float t);
/// An ink whose linear light is multiplied, up to white. [IEC 61966-2-1]
uint32_t shaded(uint32_t argb, float factor);

/// The mean of the light of some opaque inks.
uint32_t meanOf(const uint32_t* argb, int count);

/// Lambert's law for several lights [J. H. Lambert, "Photometria", 1760]. All stand 45 degrees
/// high: the main one, with 0.55 of the light, and weaker ones 45 degrees before it (0.2), 45 after
/// (0.15) and 90 before (0.1). 0.3 of all light comes from everywhere. Flat ground has 1.
class ReliefLight {
 public:
  static constexpr float kAmbient = 0.3f;
  /// degrees: where the main light comes from, clockwise from north. strength: 0 (all ground as if
  /// it were flat) to 1.
  ReliefLight(double degrees, double strength);

  /// Of ground that rises so much from one cell to the next eastward and southward.
  float factor(float east, float south) const {
    const float length = 1 / std::sqrt(1 + east * east + south * south);
    float sum = 0;
    for (size_t n = 0; n < kLights; ++n) {
      const float towards = (kUp - east * x_[n] - south * z_[n]) * length;
      sum += weight_[n] * (towards > 0 ? towards : 0);
    }
    return 1 + (kAmbient + (1 - kAmbient) / kUp * sum - 1) * strength_;
  }

 private:
  static constexpr size_t kLights = 4;
  static constexpr float kUp = 0.70710678f;

  std::array<float, kLights> x_, z_, weight_;  ///< Towards the light, level parts.
  float strength_;
};

}  // namespace acre
