/// Rivers and lakes as fields.
#pragma once

#include <memory>

#include "climate/land_sampler.h"
#include "field/fresh_water.h"

namespace acre {

class FreshFields : public FreshWater {
 public:
  /// land: after water, which is cut by shaper; of worlds without water both are nothing: then
  /// there is none anywhere.
  FreshFields(std::shared_ptr<const LandSampler> land, std::shared_ptr<const LandShaper> shaper,
      float seaLevel)
      : land_(std::move(land)), shaper_(std::move(shaper)), seaLevel_(seaLevel) {}

  bool grid(
      const SampleGrid& grid, Tells tells, float* out, const std::stop_token& stop) const override;
  void points(const Points& places, Tells tells, float* out) const override;

 private:
  float valueOf(Tells tells, WaterKind kind, int32_t level, float shore, uint32_t mark) const;

  std::shared_ptr<const LandSampler> land_;
  std::shared_ptr<const LandShaper> shaper_;
  float seaLevel_;
};

}  // namespace acre
