/// Rivers and lakes as plain values.
#pragma once

#include <string>
#include <vector>

#include "base/coords.h"

namespace acre {

/// A cell that a course begins at, passes or ends at.
struct CourseStop {
  double x = 0, z = 0;
  bool operator==(const CourseStop&) const = default;
};

/// A course between places that are given: it begins at the first and ends at the last.
struct GivenCourse {
  std::string id;
  std::vector<CourseStop> stops;
  bool operator==(const GivenCourse&) const = default;
};

/// Ways for water through a field of obstacles, from side to side of each region. A bounded world
/// of at most 4,096 cells a side is one region.
struct RiverCourses {
  double count = 0;      ///< In each region.
  double region = 1024;  ///< Cells a side.
  double step = 8;       ///< Cells from place to place that they may take.
  bool diagonal = true;  ///< From each place in eight directions, else in four.
  double feature = 48;   ///< Width of the obstacles' features.
  std::string field;     ///< Places where it is high are obstacles; empty: noise says where.
  bool borders = false;  ///< Places far from the borders of regions are, instead of either.
  double share = 0.2;    ///< Of the places that are obstacles.
  double climb = 0;      ///< Steps that a cell upward costs.
  double width = 4;      ///< Of the water, in cells.
  double carve = 30;     ///< Cells that they may lie below the land; deeper ones are given up.
  double winding = 3;    ///< Times as long as straight that they may be; longer ones are given up.
  bool join = false;     ///< One ends where it meets an earlier one; else they cross.
  std::vector<GivenCourse> given;
  bool operator==(const RiverCourses&) const = default;

  bool any() const { return count > 0 || !given.empty(); }
};

/// Whether a world within such bounds is one region of ways.
constexpr bool isOneRegion(const Rect& bounds) {
  constexpr int64_t kLongest = 4096;  // Cells.
  return bounds.width <= kLongest && bounds.length <= kLongest;
}

/// The stage Water: where the land drains to, and what that cuts into it. Worlds of columns have
/// it.
struct Rivers {
  bool on = false;
  /// Of the drained land, in bricks of 32 x 28 cells, from which on a river shows.
  double spring = 14;
  double lakes = 0.35;   ///< Share of the hollows at least two cells deep that hold a lake.
  double closed = 0.15;  ///< Share of those lakes without an outlet.
  double carve = 14;     ///< Cells that a channel may lie below the land it crosses.
  double growth = 0.55;  ///< Cells of width per root of the drained bricks.
  double widest = 26;    ///< Most cells that a river is wide.
  double depth = 4;      ///< Most cells by which the bed's middle lies deeper than its edges.
  double valley = 4.4;   ///< Cells that a valley reaches per cell of half the river's width.
  double sides = 0.18;   ///< Rise of its sides per cell.
  double meander = 4;    ///< Cells by which narrow rivers stray from the straight course.
  std::string water;     ///< Material of the water; empty: one sees the bed.
  // Materials of the ground, before any band; empty: as the bands say.
  std::string bed;       ///< Under fresh water.
  std::string bank;      ///< Beside it ...
  double bankReach = 2;  ///< ... so many cells far.
  std::string wet;       ///< Beyond the bank ...
  double wetReach = 6;   ///< ... up to so many cells from the water.
  RiverCourses courses;
  bool operator==(const Rivers&) const = default;
};

}  // namespace acre
