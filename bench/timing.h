/// Timing in turn, and fields as the textbook writes them.
#pragma once

#include <benchmark/benchmark.h>

#include <algorithm>
#include <chrono>
#include <cstdio>
#include <functional>
#include <vector>

#include "textbook.h"
#include "world/demos.h"
#include "world/engine.h"

namespace bench {

using namespace acre;

using Clock = std::chrono::steady_clock;
inline constexpr double kWidth = 100;
/// Noise is measured over sixteen places of one tile's size into the same 64 KiB, so that it is the
/// noise that is timed and not the memory behind it; the picture below measures the whole.
inline constexpr int kTileWidth = Kernels::kTileWidth, kTileHeight = Kernels::kTileHeight,
                     kTiles = 16;
inline constexpr double kSamples = double{kTileWidth} * kTileHeight * kTiles;

inline std::vector<float>& canvas() {
  static std::vector<float> cells(static_cast<size_t>(kTileWidth) * kTileHeight);
  return cells;
}

inline NoiseSource sourceOf(int octaves, double width = kWidth) {
  NoiseSource source;
  source.width = width;
  source.octaves = octaves;
  return source;
}

inline double secondsOf(const std::function<void()>& work) {
  const auto begin = Clock::now();
  work();
  return std::chrono::duration<double>(Clock::now() - begin).count();
}

inline double medianOf(std::vector<double> v) {
  std::nth_element(v.begin(), v.begin() + static_cast<ptrdiff_t>(v.size() / 2), v.end());
  return v[v.size() / 2];
}

/// Medians of two pieces of work taken in turn, so that a machine that changes speed changes both.
struct Pair {
  double ours, textbook, low, high;
  double ratio() const { return textbook / ours; }
};
inline Pair inTurn(
    int rounds, const std::function<void()>& ours, const std::function<void()>& textbook) {
  std::vector<double> a, b, ratios;
  ours();
  for (int i = 0; i < rounds; ++i) {
    a.push_back(secondsOf(ours));
    b.push_back(secondsOf(textbook));
    ratios.push_back(b.back() / a.back());
  }
  const auto [low, high] = std::minmax_element(ratios.begin(), ratios.end());
  return {medianOf(a), medianOf(b), *low, *high};
}

inline const Kernels& tableOr(const char* name) {
  const auto found = kernelsNamed(name);
  return found ? **found : *availableKernels().front();
}

/// A field as the textbook writes it: one cell at a time, every layer by its own fBm, the place
/// shifted first where the layer is warped. Layers other than gradient noise, and what follows the
/// noise (masks, curves, equalising), cost the textbook nothing.
class TextbookField {
 public:
  explicit TextbookField(const FieldRecipe& field, uint32_t seed = 1) {
    for (const Layer& layer : field.layers)
      if (std::holds_alternative<NoiseSource>(layer.source) && layer.on)
        layers_.push_back(
            {layer, textbook::Gradient2(static_cast<uint32_t>(layers_.size()) + seed)});
  }
  float at(int x, int z) const {
    float sum = 0;
    for (const auto& [layer, noise] : layers_) {
      auto px = static_cast<float>(x), pz = static_cast<float>(z);
      if (layer.warp) {
        const float wx = fbm(noise, layer.warp->noise, px, pz);
        const float wz = fbm(noise, layer.warp->noise, px + 1000.5f, pz - 77.25f);
        px += wx * static_cast<float>(layer.warp->cells);
        pz += wz * static_cast<float>(layer.warp->cells);
      }
      sum += fbm(noise, std::get<NoiseSource>(layer.source), px, pz) *
                 static_cast<float>(layer.amplitude) +
             static_cast<float>(layer.offset);
    }
    return sum;
  }

 private:
  static float fbm(const textbook::Gradient2& noise, const NoiseSource& source, float x, float z) {
    const auto frequency = static_cast<float>(1 / source.width);
    return noise.fbm(x * frequency, z * frequency, source.usedOctaves(),
        static_cast<float>(source.lacunarity), static_cast<float>(source.gain));
  }
  std::vector<std::pair<Layer, textbook::Gradient2>> layers_;
};

inline void line(const char* what, const Pair& p, double cells, double target) {
  std::printf("%-44s %8.2f ns %9.2f ns %8.1fx  (%.1f to %.1f)  target %.0fx\n", what,
      p.ours / cells * 1e9, p.textbook / cells * 1e9, p.ratio(), p.low, p.high, target);
}

/// Prints the targets of the climate and the biomes.
void printBiomeTargets();

}  // namespace bench
