/// Contour lines by marching squares. Source: C. Maple, "Geometric design and space planning using
/// the marching squares and marching cube algorithms", 2003; the two ambiguous cases are decided by
/// the mean of the four corners.
#pragma once

#include <cstddef>
#include <vector>

#include "base/result.h"
#include "world/plan.h"

namespace acre {

struct ContourPoint {
  float x;  ///< Samples from the first one, 0 ... width - 1.
  float z;
};

/// One line of equal height: higher ground lies to the right of its direction. A closed line ends
/// with its first point; others begin and end at the rim of the grid.
struct ContourLine {
  double level = 0;
  bool closed = false;
  std::vector<ContourPoint> points;
};

/// Lines at all multiples of `interval` (above 0) that the values cross; a value on a level counts
/// as above it. Points lie on the lines between neighbouring samples, by linear interpolation. Rows
/// of `width` values stand `stride` apart.
std::vector<ContourLine> contours(
    const float* values, int32_t width, int32_t height, ptrdiff_t stride, double interval);

/// Most levels that one call draws; the rest of a steep grid is left out.
inline constexpr int kMostContourLevels = 10'000;

}  // namespace acre
