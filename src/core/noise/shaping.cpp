#include "noise/shaping.h"

#include "noise/noise.h"

namespace acre {
namespace {

float smoothMinimum(float a, float b, float k) {
  const float h = 0.5f + 0.5f * ((b - a) / k);
  const float t = h < 0.0f ? 0.0f : (h > 1.0f ? 1.0f : h);
  return (b + t * (a - b)) - k * (t * (1.0f - t));
}

float joined(Combine combine, float amount, float sum, float value) {
  switch (combine) {
    case Combine::Add:
      return sum + value;
    case Combine::Subtract:
      return sum - value;
    case Combine::Multiply:
      return sum * value;
    case Combine::Minimum:
      return value < sum ? value : sum;
    case Combine::Maximum:
      return value > sum ? value : sum;
    case Combine::SmoothMinimum:
      return smoothMinimum(sum, value, amount);
    case Combine::SmoothMaximum:
      return -smoothMinimum(-sum, -value, amount);
    case Combine::Mix:
      return sum + amount * (value - sum);
    case Combine::Replace:
      return value;
  }
  return value;
}

}  // namespace

float curveAt(const CurveSet& curve, float v) {
  if (v <= curve.firstX) return curve.firstY;
  if (v >= curve.lastX) return curve.lastY;
  int k = 0;
  while (k + 1 < curve.count && v >= curve.x[k + 1]) ++k;
  const float t = (v - curve.x[k]) * curve.scale[k];
  return curve.c[0][k] + t * (curve.c[1][k] + t * (curve.c[2][k] + t * curve.c[3][k]));
}

float shareAt(const ShareSet& shares, float v) {
  if (shares.count == 1) return shares.share[0];
  if (v < shares.value[0]) return 0;
  if (v >= shares.value[shares.count - 1]) return ShareSet::kBelowOne;
  // The buckets only say where to begin.
  const float bucket = (v - shares.value[0]) * shares.bucketScale;
  int k = shares.start[bucket < ShareSet::kBuckets ? static_cast<int>(bucket) : ShareSet::kBuckets];
  while (v < shares.value[k]) --k;
  while (v >= shares.value[k + 1]) ++k;
  const float share = shares.share[k] + (v - shares.value[k]) * shares.slope[k];
  return share < ShareSet::kBelowOne ? share : ShareSet::kBelowOne;
}

void plainCurve(const CurveSet& curve, float* values, int count) {
  for (int i = 0; i < count; ++i) values[i] = curveAt(curve, values[i]);
}

void plainShares(const ShareSet& shares, float* values, int count) {
  for (int i = 0; i < count; ++i) values[i] = shareAt(shares, values[i]);
}

void plainScale(const Scaling& by, float* values, int count) {
  for (int i = 0; i < count; ++i) {
    const float v = values[i] * by.amplitude + by.offset;
    values[i] = v < by.low ? by.low : (v > by.high ? by.high : v);
  }
}

void plainMask(const MaskEnds& mask, float* values, int count) {
  const float half = mask.soft * 0.5f;
  for (int i = 0; i < count; ++i) {
    const float v = values[i];
    if (mask.soft == 0.0f) {
      values[i] = v >= mask.low && v < mask.high ? 1.0f : 0.0f;
      continue;
    }
    const float up = (v - (mask.low - half)) / mask.soft;
    const float down = ((mask.high + half) - v) / mask.soft;
    const float w = up < down ? up : down;
    values[i] = w < 0.0f ? 0.0f : (w > 1.0f ? 1.0f : w);
  }
}

void plainJoin(
    Combine combine, float amount, float* sum, const float* value, const float* weight, int count) {
  for (int i = 0; i < count; ++i) {
    const float after = joined(combine, amount, sum[i], value[i]);
    if (!weight || weight[i] >= 1.0f)
      sum[i] = after;
    else if (weight[i] > 0.0f)
      sum[i] = sum[i] + weight[i] * (after - sum[i]);
  }
}

void plainShift(const int64_t* cell, const int32_t* q, const float* noise, float cells, int count,
    int64_t* toCell, int32_t* toQ) {
  for (int i = 0; i < count; ++i) {
    // Within 32 bits: the shift is at most 16,000 cells.
    const int32_t fraction = q[i] + fixedShift(noise[i] * cells);
    toCell[i] = cell[i] + (fraction >> 16);
    toQ[i] = fraction & 0xFFFF;
  }
}

}  // namespace acre
