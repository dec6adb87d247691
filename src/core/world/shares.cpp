#include "world/shares.h"

#include <algorithm>
#include <cmath>

#include "base/fp_state.h"

namespace acre {
namespace {

constexpr int64_t kStrata = 256;

/// `count` strata over one axis: stratum k covers [first + k*side, ...), the last ones may be cut.
struct Axis {
  int64_t first;
  int64_t side;
  int64_t end;

  int64_t pick(int64_t k, uint64_t bits) const {
    const int64_t from = first + k * side;
    const int64_t length = std::min(side, end - from);
    return from + static_cast<int64_t>(bits % static_cast<uint64_t>(length));
  }
  int64_t count() const { return (end - first + side - 1) / side; }
};

Axis axisOver(const std::optional<AxisBounds>& bounds, double widestFeature) {
  if (!bounds) {
    const int64_t side = static_cast<int64_t>(widestFeature) | 1;
    return {-side * kStrata / 2, side, side * kStrata / 2};
  }
  const int64_t side = std::max<int64_t>(1, (bounds->extent + kStrata - 1) / kStrata);
  return {bounds->min, side, bounds->min + bounds->extent};
}

}  // namespace

std::optional<HeightSample> HeightSample::take(const World& world, const std::stop_token& stop) {
  const FpState fp;
  HeightSample sample;
  const Frame& frame = world.recipe().frame;
  const Rect& bounds = world.bounds();
  constexpr int64_t kMost = kStrata * kStrata;
  sample.exact_ = frame.x && frame.z && bounds.width <= kMost && bounds.height <= kMost &&
                  bounds.width * bounds.height <= kMost;
  const double widest = world.heightField().widestFeature();
  Axis x = axisOver(frame.x, widest);
  Axis z = axisOver(frame.z, widest);
  if (sample.exact_) {
    x = {bounds.x, 1, bounds.x + bounds.width};
    z = {bounds.z, 1, bounds.z + bounds.height};
  }
  for (int64_t j = 0; j < z.count(); ++j) {
    if (stop.stop_requested()) return {};
    for (int64_t i = 0; i < x.count(); ++i) {
      const uint64_t key =
          combine(combine(world.seed(), static_cast<uint64_t>(i)), static_cast<uint64_t>(j));
      sample.sorted_.push_back(
          world.heightField().at({x.pick(i, key & 0xFFFFFFFFu), 0}, {z.pick(j, key >> 32), 0}));
    }
  }
  std::sort(sample.sorted_.begin(), sample.sorted_.end());
  return sample;
}

double HeightSample::shareBelow(float altitude) const {
  const auto below = std::lower_bound(sorted_.begin(), sorted_.end(), altitude) - sorted_.begin();
  return static_cast<double>(below) / static_cast<double>(sorted_.size());
}

double HeightSample::shareBetween(float low, float high) const {
  return std::max(0.0, shareBelow(high) - shareBelow(low));
}

}  // namespace acre
