/// A river from its spring to its end, as it is cut into the land.
#pragma once

#include <stop_token>
#include <vector>

#include "audit/water_figures.h"
#include "base/result.h"

namespace acre {

/// A place in the middle of a river.
struct ProfilePoint {
  Cell cell;
  double along = 0;           ///< Cells from the spring, along the course.
  double level = 0;           ///< Of the surface.
  double width = 0;           ///< In cells; 0 where it crosses a lake.
  float before = 0;           ///< Height of the land before it was cut ...
  float bed = 0;              ///< ... and now.
  float left = 0, right = 0;  ///< Heights of the banks, one cell beyond the edge, looking down it.
};

struct RiverProfile {
  std::vector<ProfilePoint> points;  ///< At least two, downstream.
  double deepest = 0;                ///< Most cells by which the bed lies below the land before.

  double length() const { return points.back().along; }
  double drop() const { return points.front().level - points.back().level; }
};

/// Most places of a profile; those of longer rivers lie farther apart.
inline constexpr size_t kMostProfilePoints = 2048;

/// REQUIRES: a river that findRivers() found in this world. Cancelled when stopped.
Result<RiverProfile> profileOf(
    const World& world, const RiverFigures& river, const std::stop_token& stop = {});

}  // namespace acre
