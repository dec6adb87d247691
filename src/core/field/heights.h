/// The Heights stage: a stack of layers, compiled. Its value at a cell is the altitude of the
/// ground.
#pragma once

#include <memory>
#include <stop_token>
#include <variant>
#include <vector>

#include "base/hash.h"
#include "base/result.h"
#include "noise/kernels.h"
#include "recipe/recipe.h"

namespace acre {

/// Immutable and thread-safe. Layers are joined in order to a sum that starts at 0; switched-off
/// layers take no part. Point, row, block and strided queries give the same bits.
class HeightField {
 public:
  /// Everything that the stage depends on, and nothing else.
  static Digest keyOf(const std::vector<Layer>& layers, uint64_t seed);

  /// layers: validated. The sub-seed of a layer comes from `seed` and the layer's id.
  static Result<std::shared_ptr<const HeightField>> compile(const std::vector<Layer>& layers,
                                                            uint64_t seed);

  /// Fills out[j*stride + i] with the altitude at each sample.
  /// Polls `stop` between tiles; false when it was stopped early.
  bool evaluate(const Kernels& kernels, const SampleGrid& grid, float* out, ptrdiff_t stride,
                const std::stop_token& stop = {}) const;

  /// The altitude at one place, by the plain scalar code.
  float at(Pos x, Pos z) const;

  /// Widest feature of any layer, in cells; 1 when there is no noise.
  double widestFeature() const { return widest_; }

 private:
  struct Step {
    Combine combine;
    std::variant<float, GradientPlan> value;
  };
  std::vector<Step> steps_;
  double widest_ = 1;
};

/// Compiles one gradient layer; `where` is its JSON pointer, for errors.
Result<GradientPlan> compileGradient(const GradientSource& source, uint64_t layerSeed,
                                     const std::string& where);

}  // namespace acre
