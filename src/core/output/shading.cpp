#include "output/shading.h"

#include <algorithm>

#include "view/scene.h"

namespace acre {
namespace {

/// sRGB transfer, tabulated. Pictures decide no cell, so libm is welcome here.
struct Transfer {
  static constexpr int kSteps = 4096;
  std::array<float, 256> linear;
  std::array<uint8_t, kSteps + 1> encoded;
  Transfer() {
    for (size_t i = 0; i < 256; ++i) {
      const double v = static_cast<double>(i) / 255;
      linear[i] = static_cast<float>(v <= 0.04045 ? v / 12.92 : std::pow((v + 0.055) / 1.055, 2.4));
    }
    for (int i = 0; i <= kSteps; ++i) {
      const double v = static_cast<double>(i) / kSteps;
      const double s = v <= 0.0031308 ? v * 12.92 : 1.055 * std::pow(v, 1 / 2.4) - 0.055;
      encoded[static_cast<size_t>(i)] = static_cast<uint8_t>(std::lround(s * 255));
    }
  }
  uint8_t encode(float v) const {
    const int step = static_cast<int>(std::min(v, 1.0f) * kSteps + 0.5f);  // NOLINT: never < 0.
    return encoded[static_cast<size_t>(step)];
  }
};

const Transfer& transfer() {
  static const Transfer table;
  return table;
}

}  // namespace

uint32_t mixed(uint32_t a, uint32_t b, float t) {
  uint32_t out = 0xFF000000u;
  for (const int shift : {16, 8, 0}) {
    const auto from = static_cast<float>((a >> shift) & 255),
               to = static_cast<float>((b >> shift) & 255);
    out |= static_cast<uint32_t>(from + (to - from) * t + 0.5f) << shift;  // NOLINT: 0 ... 255.
  }
  return out;
}

uint32_t shaded(uint32_t argb, float factor) {
  const Transfer& table = transfer();
  const auto channel = [&](int shift) {
    return uint32_t{table.encode(table.linear[(argb >> shift) & 255] * factor)} << shift;
  };
  return 0xFF000000u | channel(16) | channel(8) | channel(0);
}

uint32_t meanOf(const uint32_t* argb, int count) {
  const Transfer& table = transfer();
  uint32_t out = 0xFF000000u;
  for (const int shift : {16, 8, 0}) {
    float sum = 0;
    for (int n = 0; n < count; ++n) sum += table.linear[(argb[n] >> shift) & 255];
    out |= uint32_t{table.encode(sum / static_cast<float>(count))} << shift;
  }
  return out;
}

ReliefLight::ReliefLight(double degrees, double strength)
    : strength_(static_cast<float>(strength)) {
  constexpr double kAfterMain[kLights] = {0, -45, 45, -90};
  constexpr float kWeights[kLights] = {0.55f, 0.2f, 0.15f, 0.1f};
  for (size_t n = 0; n < kLights; ++n) {
    const double at = (degrees + kAfterMain[n]) * kDegree;
    x_[n] = kUp * static_cast<float>(std::sin(at));
    z_[n] = -kUp * static_cast<float>(std::cos(at));
    weight_[n] = kWeights[n];
  }
}

}  // namespace acre
