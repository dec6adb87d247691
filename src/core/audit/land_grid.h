/// The land over a grid of cells, and what it was before water.
#pragma once

#include <stop_token>
#include <vector>

#include "climate/land_sampler.h"
#include "world/world.h"

namespace acre {

struct LandGrid {
  SampleGrid grid;
  std::vector<float> heights, before;
  std::vector<WaterKind> kinds;
  std::vector<int32_t> levels;

  /// All but the heights before water. False when stopped.
  bool fill(const World& world, const SampleGrid& of, const std::stop_token& stop) {
    grid = of;
    LandOut out = room(heights);
    kinds.resize(heights.size());
    levels.resize(heights.size());
    out.waters = kinds.data();
    out.levels = levels.data();
    return world.parts().land->evaluate(grid, out, stop);
  }
  /// Those of the same grid. False when stopped.
  bool fillBefore(const World& world, const std::stop_token& stop) {
    return world.parts().before->evaluate(grid, room(before), stop);
  }
  size_t at(int32_t i, int32_t j) const {
    return static_cast<size_t>(j) * static_cast<size_t>(grid.width) + static_cast<size_t>(i);
  }
  Cell cell(int32_t i, int32_t j) const { return {grid.x + i * grid.step, grid.z + j * grid.step}; }

 private:
  LandOut room(std::vector<float>& list) const {
    list.resize(static_cast<size_t>(grid.width) * static_cast<size_t>(grid.length));
    LandOut out;
    out.heights = list.data();
    out.stride = grid.width;
    return out;
  }
};

}  // namespace acre
