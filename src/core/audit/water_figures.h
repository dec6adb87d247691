/// Rivers and lakes found around a place, and what each of them is like.
#pragma once

#include <array>
#include <stop_token>
#include <string>
#include <vector>

#include "base/result.h"
#include "water/bricks.h"
#include "water/course_ways.h"
#include "water/network_grid.h"
#include "world/plan.h"

namespace acre {

/// Where a river ends.
enum class RiverEnd : uint8_t { Sea, Lake, ClosedLake, River, Nowhere };
/// "the sea", "a lake", "a closed lake", "a river", "nowhere".
const char* endName(RiverEnd end);

/// A river from one spring on: at a confluence, and where several enter a lake, that with the
/// larger area goes on, of equals the lower one; the others end there.
struct RiverFigures {
  Brick brick;  ///< Of its spring, which names it.
  Cell source;  ///< The spring ...
  Cell mouth;   ///< ... and where it ends.
  RiverEnd end = RiverEnd::Nowhere;
  Brick into;              ///< The pit of the lake that it ends in, or the brick of its last node.
  double distance = 0;     ///< From the place to the spring, in cells.
  double length = 0;       ///< From node to node, through lakes too, in cells.
  double drop = 0;         ///< Of its surface, in cells.
  double sinuosity = 1;    ///< Length over the distance of its ends.
  double width = 0;        ///< The largest, in cells.
  int64_t area = 0;        ///< Bricks that drain through its last node.
  int tributaries = 0;     ///< Rivers that end in it.
  int lakes = 0;           ///< That it crosses.
  std::vector<Cell> line;  ///< Its nodes, downstream.

  /// "R12,-3": the same wherever one asks from.
  std::string name() const;
  /// "the sea", "lake L12,-3", "closed lake L12,-3", "a river", "sink S12,-3".
  std::string ending() const;
};

struct LakeFigures {
  Brick brick;  ///< Of its deepest place, which names it.
  Cell bottom;
  double distance = 0;  ///< From the place to there, in cells.
  int32_t level = 0;    ///< Of its surface, in cells.
  double depth = 0;     ///< There.
  int bricks = 0;       ///< That it reaches over, of 896 cells each.
  int64_t area = 0;     ///< Bricks that drain into it, its own among them.
  bool closed = false;
  Cell outlet;  ///< Where its river leaves; not of closed ones.

  /// "L12,-3".
  std::string name() const;
};

/// Ways through obstacles of the regions in an area.
struct WayFigures {
  std::vector<CourseWay> ways;
  std::array<size_t, kCourseFaults> faults{};  ///< How many of each; the first: none.

  size_t found() const { return faults[0]; }
  /// "7 of 12 ways succeed; no path 4, too deep 1".
  std::string text() const;
};
/// Of the regions that reach into an area of at most kMostRegions of them. Cancelled when stopped.
Result<WayFigures> findWays(const World& world, const Rect& area, const std::stop_token& stop = {});
inline constexpr size_t kMostRegions = 1024;

/// Farthest that is looked, in cells.
inline constexpr int64_t kFarthestWater = 20'000;

/// All rivers whose springs lie in an area, the longest first, equal ones by brick. Without the
/// stage Water: none. The area's sides: 1 ... 2 * kFarthestWater.
Result<std::vector<RiverFigures>> findRiversIn(
    const World& world, const Rect& area, const std::stop_token& stop = {});
/// All lakes whose deepest place does, the largest first.
Result<std::vector<LakeFigures>> findLakesIn(
    const World& world, const Rect& area, const std::stop_token& stop = {});
/// All rivers whose springs lie within so many cells of a place, the longest first, equal ones by
/// brick. Without the stage Water: none. within: 1 ... kFarthestWater.
Result<std::vector<RiverFigures>> findRivers(
    const World& world, Cell near, int64_t within, const std::stop_token& stop = {});
/// All lakes whose deepest place does, the largest first.
Result<std::vector<LakeFigures>> findLakes(
    const World& world, Cell near, int64_t within, const std::stop_token& stop = {});

}  // namespace acre
