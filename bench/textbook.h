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
  static constexpr std::array<std::array<float, 2>, 8> kGradients = {
      {{1, 0}, {kDiagonal, kDiagonal}, {0, 1}, {-kDiagonal, kDiagonal}, {-1, 0},
          {-kDiagonal, -kDiagonal}, {0, -1}, {kDiagonal, -kDiagonal}}};
  std::array<uint8_t, 512> table_;
};

/// Value noise, cellular distance, simplex and 3-D gradient noise in the same manner, over one
/// permutation.
class Noise {
 public:
  explicit Noise(uint32_t seed) {
    std::iota(table_.begin(), table_.begin() + 256, uint8_t{0});
    for (int i = 255; i > 0; --i) {
      seed = seed * 1664525u + 1013904223u;
      std::swap(table_[static_cast<size_t>(i)], table_[(seed >> 8) % static_cast<uint32_t>(i + 1)]);
    }
    for (size_t i = 0; i < 256; ++i) table_[256 + i] = table_[i];
  }

  float value(float x, float z) const {
    const float fx = std::floor(x), fz = std::floor(z);
    const int ix = static_cast<int>(fx) & 255, iz = static_cast<int>(fz) & 255;
    const float u = ease(x - fx), v = ease(z - fz);
    const auto at = [&](int i, int j) {
      return static_cast<float>(hash(ix + i, iz + j)) * (2.0f / 255) - 1;
    };
    const float top = at(0, 0) + u * (at(1, 0) - at(0, 0));
    const float bottom = at(0, 1) + u * (at(1, 1) - at(0, 1));
    return top + v * (bottom - top);
  }

  float gradient3(float x, float y, float z) const {
    const float fx = std::floor(x), fy = std::floor(y), fz = std::floor(z);
    const int ix = static_cast<int>(fx) & 255, iy = static_cast<int>(fy) & 255,
              iz = static_cast<int>(fz) & 255;
    const float u = x - fx, v = y - fy, w = z - fz;
    const float fu = ease(u), fv = ease(v), fw = ease(w);
    const auto at = [&](int i, int j, int k) {
      const int h = table_[static_cast<size_t>(hash(ix + i, iy + j) + ((iz + k) & 255))];
      const auto& g = kEdges[static_cast<size_t>(h % 12)];
      return g[0] * (u - static_cast<float>(i)) + g[1] * (v - static_cast<float>(j)) +
             g[2] * (w - static_cast<float>(k));
    };
    const auto mix = [](float a, float b, float t) { return a + t * (b - a); };
    return mix(mix(mix(at(0, 0, 0), at(1, 0, 0), fu), mix(at(0, 1, 0), at(1, 1, 0), fu), fv),
        mix(mix(at(0, 0, 1), at(1, 0, 1), fu), mix(at(0, 1, 1), at(1, 1, 1), fu), fv), fw);
  }

  float cellular(float x, float z) const {
    const float fx = std::floor(x), fz = std::floor(z);
    const int ix = static_cast<int>(fx) & 255, iz = static_cast<int>(fz) & 255;
    const float u = x - fx, v = z - fz;
    float nearest = 1e9f;
    for (int j = -1; j <= 1; ++j)
      for (int i = -1; i <= 1; ++i) {
        const int h = hash(ix + i, iz + j);
        const float dx = static_cast<float>(i) + static_cast<float>(h) / 256 - u;
        const float dz = static_cast<float>(j) +
                         static_cast<float>(table_[static_cast<size_t>(h + 7)]) / 256 - v;
        const float d = dx * dx + dz * dz;
        if (d < nearest) nearest = d;
      }
    return std::sqrt(nearest);
  }

  float simplex(float x, float z) const {
    constexpr float kSkew = 0.36602540f, kBack = 0.21132487f;
    const float s = (x + z) * kSkew;
    const float fi = std::floor(x + s), fj = std::floor(z + s);
    const float t = (fi + fj) * kBack;
    const float x0 = x - (fi - t), z0 = z - (fj - t);
    const int i1 = x0 > z0 ? 1 : 0, j1 = 1 - i1;
    const int i = static_cast<int>(fi) & 255, j = static_cast<int>(fj) & 255;
    const auto corner = [&](int di, int dj, float dx, float dz) {
      const float r = 0.5f - dx * dx - dz * dz;
      if (r < 0) return 0.0f;
      const auto& g = kEdges[static_cast<size_t>(hash(i + di, j + dj) % 12)];
      return r * r * r * r * (g[0] * dx + g[1] * dz);
    };
    return 70 * (corner(0, 0, x0, z0) +
                    corner(i1, j1, x0 - static_cast<float>(i1) + kBack,
                        z0 - static_cast<float>(j1) + kBack) +
                    corner(1, 1, x0 - 1 + 2 * kBack, z0 - 1 + 2 * kBack));
  }

 private:
  static float ease(float t) { return t * t * t * (t * (t * 6 - 15) + 10); }
  int hash(int i, int j) const {
    return table_[static_cast<size_t>(table_[static_cast<size_t>(i & 255)] + (j & 255))];
  }
  static constexpr std::array<std::array<float, 3>, 12> kEdges = {
      {{1, 1, 0}, {-1, 1, 0}, {1, -1, 0}, {-1, -1, 0}, {1, 0, 1}, {-1, 0, 1}, {1, 0, -1},
          {-1, 0, -1}, {0, 1, 1}, {0, -1, 1}, {0, 1, -1}, {0, -1, -1}}};
  std::array<uint8_t, 512> table_;
};

}  // namespace textbook
