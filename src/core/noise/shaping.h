/// What is done to values after a layer's source: places moved by a warp, distributions, curves,
/// masks and the joining of layers. Plain code; the vector forms of noise/shaping-inl.h give the
/// same bits.
#pragma once

#include <cstdint>

#include "recipe/field_recipe.h"

namespace acre {

/// A monotone cubic by segments: c0 + t * (c1 + t * (c2 + t * c3)) with t = (v - x) * scale; level
/// before the first and from `lastX` on.
struct CurveSet {
  int count = 0;                 ///< Of segments.
  const float* x = nullptr;      ///< Where each begins; they rise.
  const float* scale = nullptr;  ///< 1 / length.
  const float* c[4] = {};
  float firstX = 0, lastX = 0;
  float firstY = 0, lastY = 0;
};

/// A distribution: shares at knots of rising values, linear between them.
struct ShareSet {
  static constexpr int kBuckets = 8192;
  static constexpr float kBelowOne = 1.0f - 0x1p-24f;
  int count = 0;  ///< Of knots; of one alone the share is the same everywhere.
  const float* value = nullptr;
  const float* share = nullptr;
  const float* slope = nullptr;  ///< Of share, up to the next knot.
  /// Per bucket of values, kBuckets + 1 of them: a knot to begin the search at, never the last.
  const int32_t* start = nullptr;
  float bucketScale = 0;
};

/// Where a mask lets something act: from low up to, and not at, high, softened about both.
struct MaskEnds {
  float low, high;  ///< Infinite: endless.
  float soft;       ///< Width of the transition; 0: none.
};

/// values * amplitude + offset, kept from low to high.
struct Scaling {
  float amplitude, offset;
  float low, high;  ///< Infinite: no limit.
};

float curveAt(const CurveSet& curve, float v);
float shareAt(const ShareSet& shares, float v);

void plainCurve(const CurveSet& curve, float* values, int count);
void plainShares(const ShareSet& shares, float* values, int count);
void plainScale(const Scaling& by, float* values, int count);
void plainMask(const MaskEnds& mask, float* values, int count);
/// amount: of Mix, and the width of the smooth extremes. weight: how far each acts, 0 ... 1;
/// nullptr: 1.
void plainJoin(
    Combine combine, float amount, float* sum, const float* value, const float* weight, int count);
/// Moves places along one axis by noise * cells, rounded to 1/65,536 cell (fixedShift).
void plainShift(const int64_t* cell, const int32_t* q, const float* noise, float cells, int count,
    int64_t* toCell, int32_t* toQ);

}  // namespace acre
