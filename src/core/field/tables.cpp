#include "field/tables.h"

#include <algorithm>
#include <bit>
#include <cmath>
#include <cstdint>

namespace acre {

CurveTable::CurveTable(const Curve& curve) {
  const size_t n = curve.size();
  std::vector<double> chord(n - 1), slope(n);
  for (size_t i = 0; i + 1 < n; ++i)
    chord[i] = (curve[i + 1].y - curve[i].y) / (curve[i + 1].x - curve[i].x);
  slope.front() = chord.front();
  slope.back() = chord.back();
  for (size_t i = 1; i + 1 < n; ++i)
    slope[i] = chord[i - 1] * chord[i] > 0 ? (chord[i - 1] + chord[i]) / 2 : 0;
  for (size_t i = 0; i + 1 < n; ++i) {
    if (chord[i] == 0) {
      slope[i] = slope[i + 1] = 0;
      continue;
    }
    const double a = slope[i] / chord[i], b = slope[i + 1] / chord[i];
    const double steep = a * a + b * b;
    if (steep <= 9) continue;
    const double shrink = 3 / std::sqrt(steep);
    slope[i] = shrink * a * chord[i];
    slope[i + 1] = shrink * b * chord[i];
  }
  for (size_t i = 0; i + 1 < n; ++i) {
    const double length = curve[i + 1].x - curve[i].x;
    const double rise = curve[i + 1].y - curve[i].y;
    const double in = slope[i] * length, out = slope[i + 1] * length;
    x_.push_back(static_cast<float>(curve[i].x));
    scale_.push_back(static_cast<float>(1 / length));
    c_[0].push_back(static_cast<float>(curve[i].y) + 0.0f);
    c_[1].push_back(static_cast<float>(in));
    c_[2].push_back(static_cast<float>(3 * rise - 2 * in - out));
    c_[3].push_back(static_cast<float>(in + out - 2 * rise));
  }
  firstX_ = static_cast<float>(curve.front().x);
  lastX_ = static_cast<float>(curve.back().x);
  firstY_ = static_cast<float>(curve.front().y) + 0.0f;
  lastY_ = static_cast<float>(curve.back().y) + 0.0f;
}

CurveSet CurveTable::set() const {
  return {static_cast<int>(x_.size()), x_.data(), scale_.data(),
      {c_[0].data(), c_[1].data(), c_[2].data(), c_[3].data()}, firstX_, lastX_, firstY_, lastY_};
}

void sortFloats(std::vector<float>& values) {
  // By three digits of 11 bits, after mapping floats to integers of the same order.
  constexpr int kDigits = 3, kBits = 11;
  constexpr uint32_t kMask = (1u << kBits) - 1;
  std::vector<uint32_t> keys(values.size()), other(values.size());
  for (size_t i = 0; i < values.size(); ++i) {
    const auto bits = std::bit_cast<uint32_t>(values[i] + 0.0f);
    keys[i] = bits & 0x80000000u ? ~bits : bits | 0x80000000u;
  }
  for (int digit = 0; digit < kDigits; ++digit) {
    std::vector<uint32_t> place(kMask + size_t{2});
    for (const uint32_t key : keys) ++place[((key >> (digit * kBits)) & kMask) + 1];
    for (size_t i = 1; i < place.size(); ++i) place[i] += place[i - 1];
    for (const uint32_t key : keys) other[place[(key >> (digit * kBits)) & kMask]++] = key;
    keys.swap(other);
  }
  for (size_t i = 0; i < values.size(); ++i)
    values[i] = std::bit_cast<float>(keys[i] & 0x80000000u ? keys[i] & 0x7FFFFFFFu : ~keys[i]);
}

QuantileTable::QuantileTable(std::span<const float> sorted) {
  const size_t last = sorted.size() - 1;
  for (size_t i = 0; i <= kSteps;) {
    const auto valueAt = [&](size_t k) { return sorted[(k * last + kSteps / 2) / kSteps]; };
    size_t end = i;
    while (end < kSteps && valueAt(end + 1) == valueAt(i)) ++end;
    value_.push_back(valueAt(i));
    share_.push_back(static_cast<float>(i + end) / (2 * kSteps));
    i = end + 1;
  }
  const size_t knots = value_.size();
  for (size_t k = 0; k + 1 < knots; ++k)
    slope_.push_back(static_cast<float>(
        (double{share_[k + 1]} - double{share_[k]}) / (double{value_[k + 1]} - double{value_[k]})));
  const float low = value_.front(), high = value_.back();
  constexpr int kBuckets = ShareSet::kBuckets;
  bucketScale_ = high > low ? kBuckets / (high - low) : 0.0f;
  if (!(bucketScale_ < 1e30f)) bucketScale_ = 0;
  size_t knot = 0;
  for (int b = 0; b <= kBuckets; ++b) {
    const double from = low + (double{high} - low) * b / kBuckets;
    while (knot + 2 < knots && value_[knot + 1] <= from) ++knot;
    start_.push_back(static_cast<int32_t>(knot));
  }
}

ShareSet QuantileTable::set() const {
  return {static_cast<int>(value_.size()), value_.data(), share_.data(), slope_.data(),
      start_.data(), bucketScale_};
}

}  // namespace acre
