/// Voids of noise in three dimensions.
#pragma once

#include <cstdint>
#include <limits>
#include <optional>
#include <vector>

#include "base/result.h"
#include "cave/cave_at.h"
#include "field/tables.h"
#include "noise/kernels.h"
#include "recipe/cave_recipe.h"
#include "recipe/recipe.h"

namespace acre {

/// Where caves must keep off water: below the altitude of its surface, cells with their tops above
/// that of their column.
struct SeaGuard {
  const float* tops = nullptr;                              ///< By column; nullptr: nowhere.
  const float* below = nullptr;                             ///< By column too.
  float highest = -std::numeric_limits<float>::infinity();  ///< Of below.

  bool any(int64_t y) const { return static_cast<float>(y) < highest; }
  bool keeps(int64_t y, size_t column) const {
    return tops && static_cast<float>(y) < below[column] &&
           static_cast<float>(y + 1) > tops[column];
  }
};

/// One NoiseVoid, compiled. A point stage: any block at any step, row or cell gives the same.
class VoidPlan {
 public:
  /// where: JSON pointer of the void, for errors.
  static Result<VoidPlan> compile(const NoiseVoid& part, uint64_t seed, const std::string& where);

  /// Sets out[k] = mark wherever out[k] is 0 and the void is open; heights: of the block's columns.
  /// Order x, z, y. The guard counts unless the void may lie under the sea.
  void mark(const Kernels& kernels, const SampleBlock& block, const float* heights,
      const SeaGuard& guard, uint16_t mark, uint16_t* out) const;

  /// One cell, by the plain scalar code; height: of its column.
  using At = VoidAt;
  At at(Cell cell, int64_t y, float height) const;

  bool underSea() const { return underSea_; }

 private:
  struct Band {
    NoisePlan plan;
    float middle = 0, half = 0;
  };
  float factorAt(float depth) const;
  /// Values of a band over some levels of a block.
  static void values(
      const Kernels& kernels, const Band& band, const SampleBlock& block, std::vector<float>& out);

  std::vector<Band> bands_;  // One or two.
  std::optional<CurveTable> curve_;
  float noneAbove_ = 0;  // Depths below this have factor 0.
  float widest_ = 1;     // No factor exceeds this.
  bool underSea_ = false;
};

/// Values of a plan of three dimensions over a block of any width and step.
void noiseBlock(
    const Kernels& kernels, const NoisePlan& plan, const SampleBlock& block, float* out);

}  // namespace acre
