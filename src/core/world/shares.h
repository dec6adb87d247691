/// How much of the world lies below an altitude: a sample of heights spread over the whole world.
#pragma once

#include <cstdint>
#include <optional>
#include <stop_token>
#include <vector>

#include "world/world.h"

namespace acre {

/// Heights of many cells, sorted. For endless worlds 256 x 256 strata around the origin, each as
/// wide as the widest feature and holding one hashed cell; for bounded worlds the same over the
/// bounds, or every cell when there are no more than 65,536. [Stratified sampling after Cochran,
/// "Sampling Techniques", 1977, ch. 5.]
class HeightSample {
 public:
  /// Nothing when stopped.
  static std::optional<HeightSample> take(const World& world, const std::stop_token& stop = {});

  /// Share of the sample in the half-open range of altitudes, 0 ... 1.
  double shareBetween(float low, float high) const;
  double shareBelow(float altitude) const;

  float lowest() const { return sorted_.front(); }
  float highest() const { return sorted_.back(); }
  size_t size() const { return sorted_.size(); }
  bool exact() const { return exact_; }  ///< Every cell of the world was counted.

 private:
  std::vector<float> sorted_;
  bool exact_ = false;
};

}  // namespace acre
