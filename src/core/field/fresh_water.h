/// What rivers and lakes say to the fields that come after them.
#pragma once

#include <stop_token>

#include "noise/noise.h"
#include "recipe/field_recipe.h"

namespace acre {

/// Immutable and thread-safe.
class FreshWater {
 public:
  using Tells = FreshWaterSource::Tells;

  virtual ~FreshWater() = default;
  /// Values of all samples, row by row. False when stopped.
  virtual bool grid(
      const SampleGrid& grid, Tells tells, float* out, const std::stop_token& stop) const = 0;
  /// Values of the cells that places lie in; approximate ones are told of no water.
  virtual void points(const Points& places, Tells tells, float* out) const = 0;
};

}  // namespace acre
