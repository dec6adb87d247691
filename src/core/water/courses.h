/// The courses of rivers between the nodes of the network, as lines of points.
#pragma once

#include <vector>

#include "base/result.h"
#include "noise/noise.h"
#include "water/course_ways.h"
#include "water/drainage.h"

namespace acre {

/// In 1/256 cell from the lower corner of the cell in the middle of a brick.
struct CoursePlace {
  int64_t x = 0, z = 0;
};

/// One point of a course, seen from the brick of its piece. Lengths in 1/256 cell.
struct CoursePoint : CoursePlace {
  int64_t radius = 0;  ///< Half the width of the river.
  int64_t level = 0;   ///< Of its surface.
};

/// A part of a river, downstream: what belongs to the node of a brick, or leaves a lake.
struct CoursePiece {
  Brick brick;
  std::vector<CoursePoint> points;
};

/// Draws courses. Immutable and thread-safe.
class Courses {
 public:
  static Result<std::shared_ptr<const Courses>> compile(
      const Drainage& drainage, double meander, const std::string& where);

  /// All pieces of the bricks of a tile, in order. Reader::Stopped is thrown on.
  std::vector<CoursePiece> piecesOf(Drainage::Reader& net, BrickTile tile) const;
  /// Those of the ways through obstacles of a region that were found; radius in 1/256 cell. exact:
  /// from place to place, else bent over them.
  std::vector<CoursePiece> piecesOf(const CourseRegion& region, int64_t radius, bool exact) const;

  /// Bricks from that of a piece to the farthest ground that it crosses.
  static constexpr int64_t kReach = 22;

 private:
  struct Line;   // Between which places, before it is sampled.
  struct Maker;  // Of the lines of a tile.
  void sample(const std::vector<Line>& lines, std::vector<CoursePiece>& out) const;

  const Drainage* drainage_ = nullptr;
  int64_t meander_ = 0;
  NoisePlan stray_[2];
};

}  // namespace acre
