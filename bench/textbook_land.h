/// Height, climate, chart and regions as they are commonly written.
#pragma once

#include <cmath>
#include <string>

#include "timing.h"

namespace bench {

/// The chart as a list of rules that are read one after the other, the climate falling with the
/// height that is there already.
class TextbookLand {
 public:
  explicit TextbookLand(const Recipe& recipe)
      : recipe_(recipe),
        heights_(recipe.heights),
        temperature_(recipe.climate.temperature.field, 20),
        moisture_(recipe.climate.moisture.field, 40),
        warp_(60),
        sites_(80) {}

  float height(int x, int z) const { return heights_.at(x, z); }
  float temperature(int x, int z, float height) const {
    float t = temperature_.at(x, z);
    for (const Layer& layer : recipe_.climate.temperature.field.layers) {
      if (const auto* latitude = std::get_if<LatitudeSource>(&layer.source))
        t -= std::min(1.0f, std::abs(static_cast<float>(z)) / static_cast<float>(latitude->reach)) *
             static_cast<float>(layer.amplitude);
      if (std::holds_alternative<AltitudeSource>(layer.source))
        t -= std::max(0.0f, height) * static_cast<float>(layer.amplitude);
    }
    return t;
  }
  float moisture(int x, int z) const { return moisture_.at(x, z); }

  int biome(float t, float m, float height) const {
    const Biomes& b = recipe_.biomes;
    size_t slice = 0;
    while (b.slices[slice].below && height >= altitudeOf(*b.slices[slice].below, 0)) ++slice;
    if (!b.slices[slice].biome.empty()) return 0;
    const auto in = [](const Span& span, float v) {
      return (!span.low || v >= static_cast<float>(*span.low)) &&
             (!span.high || v < static_cast<float>(*span.high));
    };
    for (size_t i = 0; i < b.areas.size(); ++i) {
      if (!(slices_[i] >> slice & 1)) continue;
      if (in(b.areas[i].x, t) && in(b.areas[i].y, m)) return static_cast<int>(i) + 1;
    }
    return -1;
  }
  /// Of the 3 x 3 squares about a place the site that is nearest.
  std::pair<int, int> site(float x, float z) const {
    const auto size = static_cast<float>(recipe_.biomes.regions.size);
    const float u = x / size, v = z / size;
    const float fi = std::floor(u), fj = std::floor(v);
    float best = 1e9f;
    std::pair<int, int> at;
    for (int j = -1; j <= 1; ++j)
      for (int i = -1; i <= 1; ++i) {
        const float sx =
            fi + static_cast<float>(i) + 0.5f +
            0.5f * offset(fi + static_cast<float>(i), fj + static_cast<float>(j), 0.31f);
        const float sz =
            fj + static_cast<float>(j) + 0.5f +
            0.5f * offset(fi + static_cast<float>(i), fj + static_cast<float>(j), 0.77f);
        const float d = (sx - u) * (sx - u) + (sz - v) * (sz - v);
        if (d >= best) continue;
        best = d;
        at = {static_cast<int>(sx * size), static_cast<int>(sz * size)};
      }
    return at;
  }
  std::pair<int, int> warpedSite(int x, int z) const {
    const RegionWarp& warp = recipe_.biomes.regions.warp;
    const auto width = static_cast<float>(1 / warp.noise.width);
    const auto px = static_cast<float>(x) * width, pz = static_cast<float>(z) * width;
    const auto cells = static_cast<float>(warp.cells);
    const auto lacunarity = static_cast<float>(warp.noise.lacunarity);
    const auto gain = static_cast<float>(warp.noise.gain);
    const int octaves = warp.noise.usedOctaves();
    const float dx = warp_.fbm(px, pz, octaves, lacunarity, gain) * cells;
    const float dz = warp_.fbm(px + 100.5f, pz - 77.25f, octaves, lacunarity, gain) * cells;
    return site(static_cast<float>(x) + dx, static_cast<float>(z) + dz);
  }
  /// As bits: the slices that each rule holds in.
  void listSlices() {
    const Biomes& b = recipe_.biomes;
    for (const Area& area : b.areas) {
      uint32_t bits = area.slices.empty() ? ~0u : 0u;
      for (size_t s = 0; s < b.slices.size(); ++s)
        for (const std::string& id : area.slices)
          if (id == b.slices[s].id) bits |= 1u << s;
      slices_.push_back(bits);
    }
  }

 private:
  float offset(float i, float j, float salt) const { return sites_.at(i + salt, j + salt * 2); }
  const Recipe& recipe_;
  TextbookField heights_, temperature_, moisture_;
  textbook::Gradient2 warp_, sites_;
  std::vector<uint32_t> slices_;
};

}  // namespace bench
