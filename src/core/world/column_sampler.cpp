#include "world/column_sampler.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "base/fp_state.h"
#include "cave/caves.h"
#include "climate/biomes.h"
#include "field/field.h"
#include "noise/kernels.h"
#include "recipe/limits.h"
#include "strata/bands.h"
#include "world/edit_pass.h"

namespace acre {

Status checkGrid(const SampleGrid& grid) {
  const auto inside = [&](int64_t first, int32_t count) {
    if (first < -limits::cell || first > limits::cell) return false;
    return grid.step <= (limits::cell - first) / std::max(1, count);
  };
  if (grid.step < 1 || grid.step > SampleGrid::kMaxStep)
    return Error{Error::Code::InvalidInput, fmt::format("a step of {} cells", grid.step), "step",
        "1 to 2^40"};
  if (grid.width < 0 || grid.length < 0 || !inside(grid.x, grid.width) ||
      !inside(grid.z, grid.length))
    return Error{Error::Code::InvalidInput,
        fmt::format("{} x {} samples from {}, {} in steps of {} leave the world", grid.width,
            grid.length, grid.x, grid.z, grid.step),
        "area", "cells from -2^60 to 2^60"};
  return done();
}

ColumnSampler::ColumnSampler(const WorldPlan& plan, const EditPass& edits)
    : plan_(plan), land_(*plan.parts().land), edits_(edits), floor_(plan, edits) {}

// ---- materials ---------------------------------------------------------------------------------

bool ColumnSampler::bands(const SampleGrid& grid, const Land& land,
    const std::vector<float>& slopes, const std::stop_token& stop) const {
  const bool alike = plan_.parts().biomeBands.empty();
  for (int32_t j = 0; j < grid.length; ++j) {
    if (stop.stop_requested()) return false;
    const ptrdiff_t row = j * land.stride;
    const float* rise = slopes.empty() ? nullptr : slopes.data() + ptrdiff_t{j} * grid.width;
    // Samples of biomes with the same bands go together.
    for (int32_t i = 0, end = 0; i < grid.width; i = end) {
      const BandTable& bands = alike ? plan_.bands() : plan_.bandsOf(land.biomes[row + i]);
      end = alike ? grid.width : i + 1;
      while (end < grid.width && &plan_.bandsOf(land.biomes[row + end]) == &bands) ++end;
      bands.evaluate(plan_.kernels(), {grid.x + i * grid.step, grid.z + j * grid.step}, grid.step,
          end - i, land.heights + row + i, rise ? rise + i : nullptr, land.materials + row + i);
    }
  }
  return true;
}

Status ColumnSampler::sample(
    const SampleGrid& grid, const Land& asked, const std::stop_token& stop) const {
  if (Status fits = checkGrid(grid); !fits) return fits;
  const FpState fp;
  Land land = asked;
  if (land.stride == 0) land.stride = grid.width;
  std::vector<float> slopes;
  if (land.slopes || (land.materials && plan_.bands().needsSlope()))
    slopes.resize(static_cast<size_t>(grid.width) * static_cast<size_t>(grid.length));
  const auto evaluated = [&] {
    if (slopes.empty()) return land_.evaluate(grid, land, stop);
    if (!land_.evaluate(grid, land, slopes.data(), stop)) return false;
    for (ptrdiff_t j = 0; land.slopes && j < grid.length; ++j)
      std::copy_n(slopes.data() + j * grid.width, grid.width, land.slopes + j * land.stride);
    return true;
  };
  if (!land.materials) {
    if (!evaluated()) return cancelled();
    if (floor_.any() && land.heights)
      floor_.heights(grid, land.heights, land.stride, land.generated);
    return done();
  }
  const auto room = static_cast<size_t>(land.stride) * static_cast<size_t>(grid.length);
  std::vector<BiomeIndex> biomes;
  if ((!plan_.parts().biomeBands.empty() || (floor_.any() && plan_.biomes())) && !land.biomes) {
    biomes.resize(room);
    land.biomes = biomes.data();
  }
  std::vector<float> heights;
  if (!land.heights) {
    heights.resize(room);
    land.heights = heights.data();
  }
  const bool opens = plan_.caves() && !plan_.layout().blocks();
  const bool wet = plan_.water() && (opens || plan_.parts().waterMaterials.any());
  std::vector<WaterKind> waters(wet && !land.waters ? room : 0);
  if (!waters.empty()) land.waters = waters.data();
  std::vector<float> shores(wet && !land.shores ? room : 0);
  if (!shores.empty()) land.shores = shores.data();
  if (!evaluated()) return cancelled();
  StageClock clock(land.times);
  std::vector<uint16_t> depths;
  if (floor_.any()) depths = floor_.sink(grid, land.heights, land.stride);
  if (!bands(grid, land, slopes, stop)) return cancelled();
  const WaterMaterials& about = plan_.parts().waterMaterials;
  const bool blocks = plan_.layout().blocks();
  const auto seen = land.ground || blocks ? &WaterMaterials::ground : &WaterMaterials::top;
  const float reach = std::max(about.bankReach, about.wetReach);
  for (int32_t j = 0; wet && j < grid.length; ++j)
    for (ptrdiff_t at = j * land.stride; at < j * land.stride + grid.width; ++at)
      if (land.waters[at] != WaterKind::Dry || land.shores[at] <= reach)
        land.materials[at] = (about.*seen)(land.waters[at], land.shores[at], land.materials[at]);
  if (opens && grid.step <= CaveStage::kExactStep && !markOpenings(grid, land, stop))
    return cancelled();
  if (floor_.any()) {
    if (!floor_.materials(grid, depths, plan_.biomes() ? land.biomes : nullptr, land.materials,
            land.stride, stop))
      return cancelled();
    floor_.heights(grid, land.heights, land.stride, land.generated);
  }
  if (!land.generated) edits_.apply(grid, land.materials, land.stride);
  clock.stop(StageId::Strata);
  return done();
}

/// Where lakes and rivers are nothing opens.
bool ColumnSampler::markOpenings(
    const SampleGrid& grid, const Land& land, const std::stop_token& stop) const {
  const auto room = static_cast<size_t>(land.stride) * static_cast<size_t>(grid.length);
  const std::vector<MaterialIndex> before(
      land.materials, land.materials + (plan_.water() ? room : 0));
  if (!plan_.caves()->markOpenings(grid, land.materials, land.stride, stop)) return false;
  for (int32_t j = 0; plan_.water() && j < grid.length; ++j)
    for (ptrdiff_t at = j * land.stride; at < j * land.stride + grid.width; ++at)
      if (isFresh(land.waters[at])) land.materials[at] = before[static_cast<size_t>(at)];
  return true;
}

CellValue ColumnSampler::at(Cell cell) const {
  const FpState fp;
  CellValue value;
  const LandAt land = land_.at(cell);
  value.base = land.base;
  value.height = land.height;
  value.biome = land.biome;
  value.slope = slopeAt(cell);
  if (floor_.any()) return floor_.lay(cell, value), value.ground = value.material, value;
  value.take(plan_.bandsOf(value.biome).decide(cell, value.height, value.slope));
  value.before = land.before;
  value.water = land.water;
  const WaterMaterials& about = plan_.parts().waterMaterials;
  value.ground = about.ground(value.water.kind, value.water.shore, value.material);
  if (plan_.layout().blocks()) return value.material = value.ground, value;
  value.material = about.top(value.water.kind, value.water.shore, value.material);
  if (plan_.caves() && value.water.freshLevel() == kNoWater && plan_.caves()->openingAt(cell))
    value.material = value.ground = plan_.caves()->opening();
  if (const auto edited = edits_.at(cell, 0)) value.material = value.ground = *edited;
  return value;
}

void ColumnSampler::scattered(int count, const Cell* cells, float* heights, BiomeIndex* biomes,
    MaterialIndex* materials, Accuracy accuracy, WaterAt* waters) const {
  const FpState fp;
  std::vector<float> slopes;
  undisturbed(count, cells, heights, biomes, materials, accuracy, waters, slopes);
  if (plan_.layout().blocks()) return;
  if (floor_.any())
    for (int i = 0; i < count; ++i) heights[i] = floor_.heightAt(cells[i]);
  for (int i = 0; i < count; ++i)
    if (const auto edited = edits_.at(cells[i], 0)) materials[i] = *edited;
}

void ColumnSampler::generated(int count, const Cell* cells, float* heights, BiomeIndex* biomes,
    MaterialIndex* materials, WaterAt* waters, float* slopes) const {
  const FpState fp;
  std::vector<float> found;
  undisturbed(count, cells, heights, biomes, materials, Accuracy::Exact, waters, found);
  if (!slopes) return;
  if (found.empty()) found = land_.slopesOf(count, cells, Accuracy::Exact);
  std::copy(found.begin(), found.end(), slopes);
}

void ColumnSampler::undisturbed(int count, const Cell* cells, float* heights, BiomeIndex* biomes,
    MaterialIndex* materials, Accuracy accuracy, WaterAt* waters,
    std::vector<float>& slopes) const {
  const bool ground = waters || plan_.layout().blocks();
  std::vector<WaterAt> own(plan_.water() && !waters ? static_cast<size_t>(count) : 0);
  if (!own.empty()) waters = own.data();
  land_.scattered(count, cells, heights, biomes, accuracy, plan_.water() ? waters : nullptr);
  if (plan_.bands().needsSlope()) slopes = land_.slopesOf(count, cells, accuracy);
  for (int i = 0; i < count; ++i) {
    const float slope = slopes.empty() ? 0.0f : slopes[static_cast<size_t>(i)];
    if (floor_.any()) {
      CellValue value;
      value.height = heights[i];
      value.slope = slope;
      value.biome = biomes[i];
      floor_.lay(cells[i], value, true);
      heights[i] = value.height;
      materials[i] = value.material;
      continue;
    }
    materials[i] = plan_.bandsOf(biomes[i]).decide(cells[i], heights[i], slope).material;
    if (plan_.water()) {
      const WaterMaterials& about = plan_.parts().waterMaterials;
      const auto seen = ground ? &WaterMaterials::ground : &WaterMaterials::top;
      materials[i] = (about.*seen)(waters[i].kind, waters[i].shore, materials[i]);
    }
    if (plan_.layout().blocks()) continue;
    const bool dry = !plan_.water() || waters[i].freshLevel() == kNoWater;
    if (plan_.caves() && dry && plan_.caves()->openingAt(cells[i]))
      materials[i] = plan_.caves()->opening();
  }
}

// ---- heights -----------------------------------------------------------------------------------

float ColumnSampler::heightAt(Cell cell) const {
  return floor_.any() ? floor_.heightAt(cell) : landHeightAt(cell);
}

float ColumnSampler::landHeightAt(Cell cell) const {
  const FpState fp;
  return land_.heightAt(cell);
}

Status ColumnSampler::slopes(
    const SampleGrid& grid, float* slopes, const std::stop_token& stop, bool beforeWater) const {
  if (Status fits = checkGrid(grid); !fits) return fits;
  const FpState fp;
  std::vector<float> heights(static_cast<size_t>(grid.width) * static_cast<size_t>(grid.length));
  LandOut land;
  land.heights = heights.data();
  land.beforeWater = beforeWater;
  land.stride = grid.width;
  if (!land_.evaluate(grid, land, slopes, stop)) return cancelled();
  return done();
}

float ColumnSampler::slopeAt(Cell cell) const {
  const FpState fp;
  return land_.slopeAt(cell);
}

uint16_t fillBeside(float h, float lowestNeighbour) {
  // Far outside what a chunk can hold the floors' difference is as good as any other large number.
  const float open = std::floor(h) - std::floor(lowestNeighbour) - 1.0f;
  return open > 0.0f ? static_cast<uint16_t>(open < 65535.0f ? open : 65535.0f) : uint16_t{0};
}

Status ColumnSampler::fill(
    const SampleGrid& grid, std::vector<uint16_t>& out, const std::stop_token& stop) const {
  // Beyond the bounds too the ground goes on: enlarging them changes no cell.
  const SampleGrid all{
      grid.x - grid.step, grid.z - grid.step, grid.step, grid.width + 2, grid.length + 2};
  const ptrdiff_t wide = all.width;
  std::vector<float> heights(static_cast<size_t>(all.width) * static_cast<size_t>(all.length));
  Land land;
  land.heights = heights.data();
  if (Status made = sample(all, land, stop); !made) return made;
  out.resize(static_cast<size_t>(grid.width) * static_cast<size_t>(grid.length));
  for (ptrdiff_t j = 0; j < grid.length; ++j)
    for (ptrdiff_t i = 0; i < grid.width; ++i) {
      const float* at = heights.data() + (j + 1) * wide + i + 1;
      out[static_cast<size_t>(j * grid.width + i)] =
          fillBeside(*at, std::min({at[-1], at[1], at[-wide], at[wide]}));
    }
  return done();
}

uint16_t ColumnSampler::fillAt(Cell cell) const {
  return fillBeside(
      heightAt(cell), std::min({heightAt({cell.x - 1, cell.z}), heightAt({cell.x + 1, cell.z}),
                          heightAt({cell.x, cell.z - 1}), heightAt({cell.x, cell.z + 1})}));
}

// ---- fields and charts -------------------------------------------------------------------------

Status ColumnSampler::field(const Field& field, const SampleGrid& grid, float* values,
    const std::stop_token& stop, ptrdiff_t stride) const {
  if (Status fits = checkGrid(grid); !fits) return fits;
  const FpState fp;
  if (!field.evaluate(plan_.kernels(), grid, values, stride ? stride : grid.width, stop))
    return cancelled();
  return done();
}

Status ColumnSampler::layer(const Field& field, size_t step, const SampleGrid& grid, float* values,
    const std::stop_token& stop, ptrdiff_t stride) const {
  if (Status fits = checkGrid(grid); !fits) return fits;
  const FpState fp;
  if (!field.evaluateStep(plan_.kernels(), step, grid, values, stride ? stride : grid.width, stop))
    return cancelled();
  return done();
}

void ColumnSampler::chartValues(
    int count, const Cell* cells, float* x, float* y, float* base, Accuracy accuracy) const {
  const FpState fp;
  land_.baseOf(count, cells, base);
  plan_.biomes()->chartValues(plan_.kernels(), count, cells, x, y, accuracy);
}

}  // namespace acre
