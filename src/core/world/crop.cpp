#include "world/crop.h"

#include <algorithm>

#include "world/column_sampler.h"

namespace acre {

Crop::Crop(const WorldPlan& plan)
    : bounds_(plan.bounds()),
      levels_(plan.vertical()),
      bounded_(plan.bounded() || plan.layout().vertical().plane) {}

void Crop::apply(const SampleGrid& grid, const Land& land) const {
  if (!bounded_) return;
  for (int32_t j = 0; j < grid.length; ++j)
    for (int32_t i = 0; i < grid.width; ++i) {
      if (holds({grid.x + i * grid.step, grid.z + j * grid.step})) continue;
      if (land.materials) land.materials[j * land.stride + i] = kOutside;
      if (land.biomes) land.biomes[j * land.stride + i] = kOutsideBiome;
      if (land.waters) land.waters[j * land.stride + i] = WaterKind::Dry;
      if (land.levels) land.levels[j * land.stride + i] = 0;
    }
}

void Crop::apply(const SampleBlock& block, MaterialIndex* blocks) const {
  for (int32_t j = 0; j < block.height; ++j) {
    MaterialIndex* slab = blocks + ptrdiff_t{j} * block.width * block.length;
    if (beyond(block.y + j * block.step)) {
      std::fill_n(slab, ptrdiff_t{block.width} * block.length, kOutside);
      continue;
    }
    for (int32_t k = 0; k < block.length && bounded_; ++k)
      for (int32_t i = 0; i < block.width; ++i)
        if (!holds({block.x + i * block.step, block.z + k * block.step}))
          slab[ptrdiff_t{k} * block.width + i] = kOutside;
  }
}

void Crop::apply(
    int columns, const Cell* cells, const BlockLevels& levels, MaterialIndex* blocks) const {
  const auto count = static_cast<size_t>(columns);
  for (int32_t j = 0; j < levels.count; ++j)
    for (size_t i = 0; i < count; ++i)
      if (!holds(cells[i], levels.first + j * levels.step))
        blocks[static_cast<size_t>(j) * count + i] = kOutside;
}

}  // namespace acre
