/// Heights of the land, wherever caves ask for them.
#pragma once

#include <memory>
#include <vector>

#include "climate/biomes.h"
#include "field/field.h"

namespace acre {

/// The stages that make the height of a column.
struct LandHeights {
  std::shared_ptr<const Field> base;
  std::shared_ptr<const BiomeStage> biomes;  ///< Nothing while they are off.

  float at(Cell cell) const {
    const float here = base->at({cell.x, 0}, {cell.z, 0});
    return biomes ? biomes->at(cell, here).height : here;
  }

  /// Of scattered cells.
  std::vector<float> of(const Kernels& kernels, const std::vector<Cell>& cells) const {
    const size_t count = cells.size();
    std::vector<int64_t> x(count), z(count);
    const std::vector<int32_t> q(count);
    for (size_t i = 0; i < count; ++i) {
      x[i] = cells[i].x;
      z[i] = cells[i].z;
    }
    const auto number = static_cast<int>(count);
    std::vector<float> out(count);
    base->points(kernels, {number, {x.data(), nullptr, z.data()}, {q.data(), nullptr, q.data()}},
                 out.data());
    if (!biomes) return out;
    std::vector<float> shaped(count);
    biomes->scattered(kernels, number, cells.data(), out.data(), shaped.data(), nullptr, false);
    return shaped;
  }
};

}  // namespace acre
