/// The Strata stage: ordered altitude bands, compiled to a look-up from height to material.
#pragma once

#include <memory>
#include <vector>

#include "base/hash.h"
#include "base/result.h"
#include "noise/kernels.h"
#include "recipe/recipe.h"

namespace acre {

/// Index of a material in a world: 0 is "unassigned", i + 1 is member i of the recipe's table.
using MaterialIndex = uint16_t;
inline constexpr MaterialIndex kUnassigned = 0;
/// Marks samples outside the world's bounds; no material.
inline constexpr MaterialIndex kOutside = 0xFFFF;

/// Immutable and thread-safe. A height belongs to the first band whose upper end lies above it, so
/// every height belongs exactly once; a band that starts at or above its own end takes nothing.
class BandTable {
 public:
  static Digest keyOf(const Recipe& recipe);

  /// recipe: validated.
  static std::shared_ptr<const BandTable> compile(const Recipe& recipe);

  /// Index of the band that a height belongs to; -1 when there are no bands.
  int bandOf(float height) const;
  MaterialIndex materialOf(float height) const;

  /// materials[i] = material of heights[i].
  void evaluate(const Kernels& kernels, const float* heights, int64_t count,
                MaterialIndex* materials) const;

 private:
  std::vector<float> ends_;               // Of all bands but the last, never falling.
  std::vector<MaterialIndex> materials_;  // Of all bands; one "unassigned" when there are none.
  bool empty_ = true;
};

}  // namespace acre
