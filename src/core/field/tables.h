/// Functions of one variable that were prepared at compile time: curves and distributions.
#pragma once

#include <memory>
#include <span>
#include <vector>

#include "recipe/field_recipe.h"

namespace acre {

/// A monotone cubic through the points of a recipe's curve; level beyond its ends.
/// Source: F. N. Fritsch, R. E. Carlson, "Monotone piecewise cubic interpolation", SIAM J. Numer.
/// Anal. 17 (1980), with the circle of radius 3 as the limit of slopes.
class CurveTable {
 public:
  /// curve: at least two points of rising x.
  explicit CurveTable(const Curve& curve);

  float at(float v) const;
  void apply(float* values, int count) const;

 private:
  struct Segment {
    float x;      ///< Where it begins.
    float scale;  ///< 1 / length.
    float c0, c1, c2, c3;
  };
  std::vector<Segment> segments_;
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
  static constexpr float kBelowOne = 1.0f - 0x1p-24f;

  /// sorted: ascending, at least one value.
  explicit QuantileTable(std::span<const float> sorted);

  /// The share of the distribution below v, in [0, kBelowOne].
  float shareOf(float v) const;
  void apply(float* values, int count) const;

 private:
  static constexpr int kBuckets = 8192;
  struct Knot {
    float value;
    float share;
    float slope;  ///< Of share, up to the next knot.
  };
  std::vector<Knot> knots_;
  std::vector<uint16_t> start_;  // Per bucket of values: a knot at or before it.
  float bucketScale_ = 0;
};

}  // namespace acre
