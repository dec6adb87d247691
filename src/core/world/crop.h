/// The pass that takes out what lies beyond the bounds.
#pragma once

#include "world/plan.h"

namespace acre {

struct Land;  // world/column_sampler.h

/// Immutable and thread-safe. What lies beyond becomes kOutside and kOutsideBiome; heights and
/// regions stay, since the ground goes on there: larger bounds change no cell.
class Crop {
 public:
  explicit Crop(const WorldPlan& plan);

  bool holds(Cell cell) const { return bounds_.contains(cell); }
  bool holds(Cell cell, int64_t y) const { return holds(cell) && !beyond(y); }

  /// land: with its stride.
  void apply(const SampleGrid& grid, const Land& land) const;
  void apply(const SampleBlock& block, MaterialIndex* blocks) const;
  /// y = levels.first + j * levels.step at blocks[j * columns + i].
  void apply(
      int columns, const Cell* cells, const BlockLevels& levels, MaterialIndex* blocks) const;

 private:
  bool beyond(int64_t y) const { return y < levels_.min || y >= levels_.min + levels_.extent; }

  Rect bounds_;
  AxisBounds levels_;
  bool bounded_;  ///< Along x or z.
};

}  // namespace acre
