#include "world/floor_pass.h"

#include <algorithm>

#include "cave/level_stage.h"
#include "strata/bands.h"
#include "strata/blocks.h"
#include "world/edit_pass.h"

namespace acre {

bool FloorPass::isOpen(Cell cell) const {
  const auto edited = edits_.at(cell, 0);
  if (!edited) return plan_.level()->isOpen(cell);
  const Material* held = plan_.catalogue().material(*edited);
  return !held || held->state != MaterialState::Solid;
}

float FloorPass::heightAt(Cell cell) const {
  return isOpen(cell) ? 0.0f : plan_.level()->walls();
}

std::vector<uint16_t> FloorPass::sink(
    const SampleGrid& grid, float* heights, ptrdiff_t stride) const {
  std::vector<uint16_t> depths(static_cast<size_t>(grid.width) * static_cast<size_t>(grid.length));
  for (int32_t j = 0, at = 0; j < grid.length; ++j)
    for (int32_t i = 0; i < grid.width; ++i, ++at) {
      const int32_t depth =
          plan_.level()->depthAt({grid.x + i * grid.step, grid.z + j * grid.step});
      depths[static_cast<size_t>(at)] = static_cast<uint16_t>(depth);
      heights[j * stride + i] -= static_cast<float>(depth);
    }
  return depths;
}

bool FloorPass::materials(const SampleGrid& grid, const std::vector<uint16_t>& depths,
    const BiomeIndex* biomes, MaterialIndex* materials, ptrdiff_t stride,
    const std::stop_token& stop) const {
  const auto width = static_cast<size_t>(grid.width), rows = static_cast<size_t>(grid.length);
  const size_t count = width * rows;
  if (count == 0) return true;
  // The rock is asked for row after row without gaps.
  std::vector<int64_t> x(count), z(count);
  std::vector<MaterialIndex> surface(count), held(count);
  std::vector<BiomeIndex> of(biomes ? count : 0);
  const std::vector<float> level0(count);
  for (size_t j = 0; j < rows; ++j) {
    const ptrdiff_t from = static_cast<ptrdiff_t>(j) * stride;
    std::copy_n(materials + from, width, surface.begin() + static_cast<ptrdiff_t>(j * width));
    if (biomes) std::copy_n(biomes + from, width, of.begin() + static_cast<ptrdiff_t>(j * width));
    for (size_t i = 0; i < width; ++i) {
      x[j * width + i] = grid.x + static_cast<int64_t>(i) * grid.step;
      z[j * width + i] = grid.z + static_cast<int64_t>(j) * grid.step;
    }
  }
  const BlockColumns columns{static_cast<int>(count), x.data(), z.data(), grid.width, grid.step,
      level0.data(), surface.data(), biomes ? of.data() : nullptr};
  if (!plan_.levelRock()->fillAtDepths(plan_.kernels(), columns, depths.data(), held.data(), stop))
    return false;
  const LevelStage& stage = *plan_.level();
  for (size_t at = 0; at < count; ++at)
    materials[static_cast<ptrdiff_t>(at / width) * stride + static_cast<ptrdiff_t>(at % width)] =
        depths[at] == 0 ? stage.openMaterial({x[at], z[at]}) : held[at];
  for (const FoundPlace& place : stage.floor().places) {
    const Cell cell = stage.cellOf(place);
    const int64_t dx = cell.x - grid.x, dz = cell.z - grid.z;
    if (dx < 0 || dz < 0 || dx % grid.step != 0 || dz % grid.step != 0) continue;
    if (dx / grid.step >= grid.width || dz / grid.step >= grid.length) continue;
    materials[dz / grid.step * stride + dx / grid.step] = stage.materialOf(place);
  }
  return true;
}

void FloorPass::heights(
    const SampleGrid& grid, float* heights, ptrdiff_t stride, bool generated) const {
  for (int32_t j = 0; j < grid.length; ++j)
    for (int32_t i = 0; i < grid.width; ++i)
      heights[j * stride + i] =
          plan_.level()->heightAt({grid.x + i * grid.step, grid.z + j * grid.step});
  if (generated) return;
  for (const Cell cell : edits_.columnsIn(grid))
    heights[(cell.z - grid.z) / grid.step * stride + (cell.x - grid.x) / grid.step] =
        heightAt(cell);
}

void FloorPass::lay(Cell cell, CellValue& value, bool generated) const {
  const LevelStage& stage = *plan_.level();
  CellValue::OfLevel of;
  of.depth = stage.depthAt(cell);
  of.place = stage.placeAt(cell);
  of.rock = value.height - static_cast<float>(of.depth);
  value.take(plan_.bandsOf(value.biome).decide(cell, of.rock, value.slope));
  if (of.depth > 0) {
    of.solid = plan_.levelRock()->atDepth(cell, of.depth, value.material, value.biome);
    value.material = of.solid.material;
  } else {
    value.material = stage.openMaterial(cell);
    for (const FoundPlace& place : stage.floor().places)
      if (static_cast<int>(place.place) == of.place) value.material = stage.materialOf(place);
  }
  of.solid.generated = value.material;
  if (const auto edited = edits_.at(cell, 0); edited && !generated) {
    value.material = *edited;
    of.solid.edited = true;
  }
  value.height = generated ? stage.heightAt(cell) : heightAt(cell);
  value.level = of;
}

}  // namespace acre
