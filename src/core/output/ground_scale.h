/// How pictures of a world scale what they show of its ground: by what the world itself has and not
/// by what is in sight, so that parts of a picture agree and nothing flickers.
#pragma once

#include <array>
#include <map>
#include <memory>
#include <mutex>
#include <vector>

#include "base/indices.h"

namespace acre {

class World;  // world/world.h

/// 1, 2 or 5 times a power of ten, at least `v`.
double niceStep(double v);

/// Inks of water by its depth, from shallow to deep without a step.
class WaterInks {
 public:
  /// 0xFFRRGGBB. REQUIRES: has(thing).
  uint32_t at(MaterialIndex thing, float depth) const {
    const Table& table = tables_[of_[thing]];
    const float place = depth * table.perCell;
    return table.inks[place >= kSteps - 1 ? size_t{kSteps - 1} : static_cast<size_t>(place)];
  }
  /// The material is a liquid.
  bool has(MaterialIndex thing) const { return thing < of_.size() && of_[thing] != kNone; }

 private:
  friend class GroundScale;
  static constexpr int kSteps = 128;
  static constexpr uint16_t kNone = 0xFFFF;
  struct Table {
    float perCell = 1;  ///< Steps.
    std::array<uint32_t, kSteps> inks{};
  };
  std::vector<uint16_t> of_;  ///< By index of the material: its table.
  std::vector<Table> tables_;
};

/// Thread-safe; found out when it is first asked for.
class GroundScale {
 public:
  /// Degrees that nine of ten slopes of the world stay below in pictures.
  static constexpr double kSteepDegrees = 42;

  explicit GroundScale(std::shared_ptr<const World> world) : world_(std::move(world)) {}

  /// By how much rises are multiplied in pictures whose samples lie so many cells apart: the 90th
  /// percentile of the world's slopes, from one sample to the next but one, then stands at
  /// kSteepDegrees. Of the land where there is enough of it. 0: nothing rises.
  float steepening(int64_t step) const;
  /// The altitude between height lines that suits a picture of so many cells a pixel: 1, 2 or 5
  /// times a power of ten, at least 1; nine of ten slopes then keep them twelve pixels apart. 0:
  /// nothing rises.
  double contourInterval(double cellsPerPixel) const;
  /// Liquids that the sea is made of share one table by their mean depths; others have their own.
  const WaterInks& water() const;
  /// The materials of both worlds are the same ones, so that water() is right for either.
  bool hasMaterialsOf(const World& world) const;

 private:
  std::shared_ptr<const World> world_;
  mutable std::mutex mutex_;
  mutable std::map<int64_t, float> steepening_;  ///< By step.
  mutable std::unique_ptr<const WaterInks> water_;
};

}  // namespace acre
