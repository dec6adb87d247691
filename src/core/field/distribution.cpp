#include "field/distribution.h"

#include <algorithm>
#include <cmath>

#include "base/fp_state.h"

namespace acre {
namespace {
constexpr int64_t kStrata = 256;
}

int64_t SampleSites::Axis::pick(int64_t k, uint64_t bits) const {
  const int64_t from = first + k * side;
  const int64_t length = std::min(side, end - from);
  return from + static_cast<int64_t>(bits % static_cast<uint64_t>(length));
}

SampleSites::Axis SampleSites::axisOver(
    const std::optional<AxisBounds>& bounds, double widestFeature) {
  if (!bounds) {
    const int64_t side = static_cast<int64_t>(widestFeature) | 1;
    return {-side * kStrata / 2, side, side * kStrata / 2};
  }
  const int64_t side = std::max<int64_t>(1, (bounds->extent + kStrata - 1) / kStrata);
  return {bounds->min, side, bounds->min + bounds->extent};
}

SampleSites::SampleSites(const std::optional<AxisBounds>& x, const std::optional<AxisBounds>& z,
    double widestFeature, uint64_t seed)
    : x_(axisOver(x, widestFeature)), z_(axisOver(z, widestFeature)), seed_(seed) {
  constexpr int64_t kMost = kStrata * kStrata;
  exact_ = x && z && x->extent <= kMost && z->extent <= kMost && x->extent * z->extent <= kMost;
  if (!exact_) return;
  x_ = {x->min, 1, x->min + x->extent};
  z_ = {z->min, 1, z->min + z->extent};
}

Cell SampleSites::at(int64_t column, int64_t row) const {
  const uint64_t key =
      combine(combine(seed_, static_cast<uint64_t>(column)), static_cast<uint64_t>(row));
  return {x_.pick(column, key & 0xFFFFFFFFu), z_.pick(row, key >> 32)};
}

std::optional<Distribution> Distribution::take(const Field& field, const SampleSites& sites,
    const Kernels& kernels, const std::stop_token& stop) {
  const FpState fp;
  const auto width = static_cast<size_t>(sites.columns());
  std::vector<float> values(width * static_cast<size_t>(sites.rows()));
  std::vector<int64_t> x(width), z(width);
  const std::vector<int32_t> q(width);
  for (int64_t j = 0; j < sites.rows(); ++j) {
    if (stop.stop_requested()) return {};
    for (size_t i = 0; i < width; ++i) {
      const Cell cell = sites.at(static_cast<int64_t>(i), j);
      x[i] = cell.x;
      z[i] = cell.z;
    }
    // As many at once as lie close enough together for one batch of the kernels.
    const auto together = static_cast<size_t>(std::clamp<int64_t>(24'000 / sites.apart(), 16, 256));
    for (size_t from = 0; from < width; from += together)
      field.points(kernels,
          {static_cast<int>(std::min(together, width - from)),
              {x.data() + from, nullptr, z.data() + from}, {q.data(), nullptr, q.data()},
              Accuracy::Approximate},
          values.data() + static_cast<size_t>(j) * width + from);
  }
  return Distribution(std::move(values), sites.exact());
}

Distribution::Distribution(std::vector<float> values, bool exact)
    : sorted_(std::move(values)), exact_(exact) {
  for (const float v : sorted_) mean_ += static_cast<double>(v);
  mean_ /= static_cast<double>(sorted_.size());
  sortFloats(sorted_);
}

double Distribution::shareBelow(float value) const {
  const auto below = std::lower_bound(sorted_.begin(), sorted_.end(), value) - sorted_.begin();
  return static_cast<double>(below) / static_cast<double>(sorted_.size());
}

double Distribution::shareBetween(float low, float high) const {
  return std::max(0.0, shareBelow(high) - shareBelow(low));
}

float Distribution::valueAt(double share) const {
  const auto n = static_cast<double>(sorted_.size());
  const auto place = static_cast<size_t>(std::floor(std::clamp(share, 0.0, 1.0) * n + 0.5));
  if (place < sorted_.size()) return sorted_[place];
  return std::nextafter(sorted_.back(), HUGE_VALF);
}

std::vector<uint32_t> Distribution::histogram(int bins) const {
  std::vector<uint32_t> counts(static_cast<size_t>(bins));
  const double low = lowest();
  const double scale = highest() > lowest() ? bins / (highest() - low) : 0;
  for (const float v : sorted_) {
    const auto bin = static_cast<int>((v - low) * scale);
    ++counts[static_cast<size_t>(std::clamp(bin, 0, bins - 1))];
  }
  return counts;
}

}  // namespace acre
