/// Ways for water through a field of obstacles, from side to side of a region or between given
/// places: the cheapest, or the reason why there is none.
///
/// docs/maths.md, "Ways through obstacles", states all of it; the search is that of way_search.h.
#pragma once

#include <memory>
#include <stop_token>
#include <string>
#include <vector>

#include "base/memo.h"
#include "base/result.h"
#include "noise/noise.h"
#include "recipe/limits.h"
#include "recipe/water_recipe.h"
#include "water/drainage.h"
#include "water/way_search.h"

namespace acre {

struct CourseWay {
  std::string name;  ///< "C2,-1/3": region and number, or region and the id of a given one.
  CourseFault fault = CourseFault::None;
  Cell from, to;                ///< Where it begins and ends, or was to; downstream.
  std::vector<Cell> places;     ///< That it takes, downstream; of a fault what was found.
  std::vector<int64_t> levels;  ///< Of its surface at each, in 1/256 cell.
  bool joins = false;           ///< Its last place is one of an earlier way.
  double length = 0;            ///< In cells.
  double cut = 0;               ///< Most cells that it lies below the land.

  bool found() const { return fault == CourseFault::None; }
  /// Length over the distance of its ends.
  double winding() const;
};

/// A region with its obstacles. Places stand in rows along x from the north-west.
struct CourseRegion {
  int64_t i = 0, j = 0;
  Rect cells;
  int64_t step = 1;
  int32_t wide = 0, deep = 0;      ///< Places along x and along z.
  std::vector<uint8_t> obstacles;  ///< 1 where one is.
  std::vector<CourseWay> ways;     ///< Numbered ones, then given ones.

  size_t index(int32_t x, int32_t z) const {
    return static_cast<size_t>(z) * static_cast<size_t>(wide) + static_cast<size_t>(x);
  }
  /// Cell of a place.
  Cell cell(size_t place) const {
    const auto n = static_cast<int64_t>(place);
    return {cells.x + n % wide * step + step / 2, cells.z + n / wide * step + step / 2};
  }
  uint64_t bytes() const;
};

/// How far courses stray at most, in 1/256 cell. meander: of the recipe.
int64_t mostStray(int64_t meander, int64_t radius);
/// Ways through obstacles lie below the ground up to so far beyond their edges, where rivers, which
/// follow the land, need less.
inline constexpr int64_t kWayBanks = 1344;

/// Immutable but for what it remembers, and thread-safe.
class CourseWays {
 public:
  /// A region, by where it lies: (0, 0) begins at the cell (0, 0), or is the whole world.
  struct At {
    int64_t i = 0, j = 0;
    auto operator<=>(const At&) const = default;
  };

  /// Nothing where the recipe has none.
  static Result<std::shared_ptr<const CourseWays>> compile(
      const DrainageInputs& inputs, uint64_t seed, int64_t seaTop, const MemoLimit& memo);

  /// Regions that reach into an area, by rows.
  std::vector<At> regionsIn(const Rect& area) const;
  /// Nothing when stopped.
  std::shared_ptr<const CourseRegion> region(At at, const std::stop_token& stop) const;

  int64_t radius() const { return radius_; }  ///< Of the water, in 1/256 cell.
  /// The places are cells: ways are drawn as they are found.
  bool exact() const { return step_ == 1; }
  uint64_t bytes() const { return regions_.bytes(); }

 private:
  struct Search;
  CourseWays(const DrainageInputs& inputs, uint64_t seed, int64_t seaTop, const MemoLimit& memo);
  std::shared_ptr<const CourseRegion> make(At at, const std::stop_token& stop) const;
  /// What the highest of are obstacles: of every place. False when stopped.
  bool hindrance(
      const CourseRegion& region, std::vector<float>& out, const std::stop_token& stop) const;
  bool closeObstacles(CourseRegion& region, const std::stop_token& stop) const;

  RiverCourses how_;
  std::shared_ptr<const LandSampler> land_;
  Rect bounds_;
  bool whole_;  // The world is one region.
  uint64_t seed_;
  int64_t seaTop_, step_, radius_;
  int64_t around_;  // Cells from a place that its course and banks may lie.
  NoisePlan noise_;
  std::shared_ptr<const Field> obstacles_;
  Memo<At, CourseRegion> regions_;
};

}  // namespace acre
