/// The Strata stage: what the ground is made of, by altitude and slope.
#pragma once

#include <cmath>
#include <memory>
#include <vector>

#include "base/hash.h"
#include "base/indices.h"
#include "base/result.h"
#include "field/distribution.h"
#include "noise/kernels.h"
#include "recipe/recipe.h"

namespace acre {

/// Everything that the stage depends on.
struct StrataInputs {
  const std::vector<Material>& materials;
  const std::vector<SlopeBand>& slopes;
  const std::vector<Band>& bands;
  bool on;
  uint64_t seed;    ///< Of the world.
  double seaLevel;  ///< As it came out.
  /// Of the heights; needed when a threshold holds a share, else it may be nullptr.
  const Distribution* heights;
};

/// The altitude that a threshold stands for in a world. heights: needed for shares.
float resolve(const Threshold& threshold, double seaLevel, const Distribution* heights);

/// Immutable and thread-safe. Slope bands come first, in order; then a height belongs to the first
/// band whose upper end lies above it, so every height belongs exactly once; a band that starts at
/// or above its own end takes nothing. A soft edge shifts the end cell by cell, by no more than
/// half its width: dithered by a hash of the cell, noisy by gradient noise.
class BandTable {
 public:
  static Digest keyOf(const StrataInputs& inputs);

  /// inputs: of a validated recipe.
  static std::shared_ptr<const BandTable> compile(const StrataInputs& inputs);

  /// What decided a cell.
  struct Decision {
    int slope = -1;  ///< Index of the slope band, or -1.
    int band = -1;   ///< Index of the band by altitude; -1 when there are none.
    MaterialIndex material = kUnassigned;
  };
  Decision decide(Cell cell, float height, float slope) const;
  /// The upper end of a band at a cell, its soft edge included. band: not the last.
  float endAt(int band, Cell cell) const;

  /// Materials of a row of samples: cell (x + i*step, z). slopes: not looked at unless
  /// needsSlope().
  void evaluate(const Kernels& kernels, Cell first, int64_t step, int32_t count,
      const float* heights, const float* slopes, MaterialIndex* materials) const;

  bool needsSlope() const { return !slopes_.empty(); }
  /// Upper ends of all bands but the last, never falling, without their soft edges.
  const std::vector<float>& ends() const { return ends_; }

 private:
  struct SoftEdge {
    Edge::Kind kind = Edge::Kind::Hard;
    float width = 0;
    bool squared = false;
    uint64_t seedX = 0;
    uint64_t seedZ = 0;
    NoisePlan noise;
  };
  struct Slope {
    float from;
    float above;
    float below;
    MaterialIndex material;
  };
  int bandAt(Cell cell, float height) const;

  std::vector<float> ends_;
  std::vector<SoftEdge> edges_;           // Of all bands but the last.
  std::vector<int> soft_;                 // Bands whose edges are soft.
  std::vector<MaterialIndex> materials_;  // Of all bands; one "unassigned" when there are none.
  std::vector<Slope> slopes_;
  bool empty_ = true;
};

}  // namespace acre
