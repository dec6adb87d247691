/// Functions of one variable that were prepared at compile time: curves and distributions.
#pragma once

#include <memory>
#include <span>
#include <vector>

#include "noise/kernels.h"
#include "recipe/field_recipe.h"

namespace acre {

/// A monotone cubic through the points of a recipe's curve; level beyond its ends.
/// Source: F. N. Fritsch, R. E. Carlson, "Monotone piecewise cubic interpolation", SIAM J. Numer.
/// Anal. 17 (1980), with the circle of radius 3 as the limit of slopes.
class CurveTable {
 public:
  /// curve: at least two points of rising x.
  explicit CurveTable(const Curve& curve);

  float at(float v) const { return curveAt(set(), v); }
  void apply(const Kernels& kernels, float* values, int count) const {
    kernels.curve(set(), values, count);
  }

 private:
  CurveSet set() const;
  std::vector<float> x_, scale_, c_[4];  ///< Of each segment.
  float firstX_, lastX_;
  float firstY_, lastY_;
};

/// Sorts numbers without NaN ascending; -0 counts as 0. Linear time.
void sortFloats(std::vector<float>& values);

/// A distribution as 1,025 quantiles, linear between them. Equal quantiles (a plateau, which no
/// threshold can split) fall together into one knot at the middle of their ranks.
class QuantileTable {
 public:
  static constexpr int kSteps = 1024;
  static constexpr float kBelowOne = ShareSet::kBelowOne;

  /// sorted: ascending, at least one value.
  explicit QuantileTable(std::span<const float> sorted);

  /// The share of the distribution below v, in [0, kBelowOne].
  float shareOf(float v) const { return shareAt(set(), v); }
  void apply(const Kernels& kernels, float* values, int count) const {
    kernels.shares(set(), values, count);
  }

 private:
  ShareSet set() const;
  std::vector<float> value_, share_, slope_;  ///< Of each knot.
  std::vector<int32_t> start_;
  float bucketScale_ = 0;
};

}  // namespace acre
