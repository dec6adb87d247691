#include "recipe/walk.h"

#include <algorithm>

namespace acre {

/// The slope spreads like a walk of steps of variance change^2 / 3 between walls 2*slope apart, so
/// it is forgotten after (2*slope)^2 / (pi^2 * change^2 / 6) columns; the height, moved by slopes
/// of variance slope^2 / 3 that long alike, spreads likewise between its limits.
int64_t walkSegment(const WalkSource& source) {
  constexpr double kPi2 = 9.8696044010893586;
  const double forgetSlope =
      4 * source.slope * source.slope * 6 / (kPi2 * source.change * source.change);
  const double range = source.high - source.low;
  const double spread = source.slope * source.slope / 3 * std::max(1.0, forgetSlope);
  const double mixing = forgetSlope + range * range / (kPi2 * spread) + range / source.slope;
  int64_t length = 256;
  while (static_cast<double>(length) < 4 * mixing && length < (int64_t{1} << 40)) length *= 2;
  return length;
}

Range walkRange(const WalkSource& source) {
  if (source.limits) return {source.low, source.high};
  const double middle = (source.low + source.high) / 2;
  const double far = 2 * static_cast<double>(walkSegment(source)) * source.slope;
  return {middle - far, middle + far};
}

}  // namespace acre
