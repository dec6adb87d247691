/// Noise as it is commonly written: scalar, one sample at a time, a permutation table of 256
/// entries and a table of gradients. The yardstick of the benchmarks; checked for continuity and
/// range there.
#pragma once

#include <array>
#include <cmath>
#include <cstdint>
#include <numeric>
#include <utility>

namespace textbook {

class Gradient2 {
 public:
  explicit Gradient2(uint32_t seed) {
    std::iota(table_.begin(), table_.begin() + 256, uint8_t{0});
    for (int i = 255; i > 0; --i) {
      seed = seed * 1664525u + 1013904223u;
      std::swap(table_[static_cast<size_t>(i)], table_[(seed >> 8) % static_cast<uint32_t>(i + 1)]);
    }
    for (size_t i = 0; i < 256; ++i) table_[256 + i] = table_[i];
  }

  float at(float x, float z) const {
    const float fx = std::floor(x), fz = std::floor(z);
    const int ix = static_cast<int>(fx) & 255, iz = static_cast<int>(fz) & 255;
    const float u = x - fx, v = z - fz;
    const float fu = u * u * u * (u * (u * 6 - 15) + 10);
    const float fv = v * v * v * (v * (v * 6 - 15) + 10);
    const int a = table_[static_cast<size_t>(ix)] + iz;
    const int b = table_[static_cast<size_t>(ix + 1)] + iz;
    const float n00 = dot(a, u, v), n10 = dot(b, u - 1, v);
    const float n01 = dot(a + 1, u, v - 1), n11 = dot(b + 1, u - 1, v - 1);
    const float top = n00 + fu * (n10 - n00);
    const float bottom = n01 + fu * (n11 - n01);
    return top + fv * (bottom - top);
  }

  float fbm(float x, float z, int octaves, float lacunarity, float gain) const {
    float sum = 0, amplitude = 1;
    for (int k = 0; k < octaves; ++k) {
      sum += at(x, z) * amplitude;
      x *= lacunarity;
      z *= lacunarity;
      amplitude *= gain;
    }
    return sum;
  }

 private:
  float dot(int slot, float u, float v) const {
    const auto& g = kGradients[table_[static_cast<size_t>(slot)] & 7];
    return g[0] * u + g[1] * v;
  }

  static constexpr float kDiagonal = 0.70710678f;
  static constexpr std::array<std::array<float, 2>, 8> kGradients = {{{1, 0},
                                                                      {kDiagonal, kDiagonal},
                                                                      {0, 1},
                                                                      {-kDiagonal, kDiagonal},
                                                                      {-1, 0},
                                                                      {-kDiagonal, -kDiagonal},
                                                                      {0, -1},
                                                                      {kDiagonal, -kDiagonal}}};
  std::array<uint8_t, 512> table_;
};

}  // namespace textbook
