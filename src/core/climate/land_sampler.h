/// The land before it is made of anything: heights and biomes of columns.
#pragma once

#include <cmath>
#include <memory>
#include <stop_token>
#include <vector>

#include "climate/biomes.h"
#include "climate/land_shaper.h"
#include "field/field.h"
#include "field/stage_times.h"

namespace acre {

/// Where what is known of the columns of a grid goes: sample (i, j) to place j * stride + i of each
/// array. What is nullptr is not asked for.
struct LandOut {
  float* heights = nullptr;
  BiomeIndex* biomes = nullptr;
  uint32_t* regions = nullptr;  ///< Hashes of the regions; 0 without regions.
  float* borders = nullptr;     ///< Cells to the nearest border of regions, within a region's side.
  float* base = nullptr;        ///< Base heights.
  WaterKind* waters = nullptr;  ///< All dry without a stage Water.
  int32_t* levels = nullptr;    ///< Of water, in whole cells; 0 where it is dry.
  float* shores = nullptr;      ///< WaterAt::shore.
  int32_t* helds = nullptr;     ///< WaterAt::held.
  uint32_t* marks = nullptr;    ///< LandShaper::markOf.
  StageTimes* times = nullptr;  ///< What each stage took is added here.
  ptrdiff_t stride = 0;
  bool beforeWater = false;  ///< All of it as if nothing were cut into it.
};

/// One column.
struct LandAt {
  float base = 0;
  float before = 0;  ///< The height before it is shaped.
  float height = 0;
  BiomeIndex biome = kNoBiome;
  WaterAt water;  ///< Dry where nothing is shaped.
};

/// The one place where the height of a column is made: whatever lowers or raises the ground does it
/// here, for everybody who asks. Immutable and thread-safe. As if the world had no bounds.
class LandSampler {
 public:
  /// biomes, shaper: nothing while they are off.
  LandSampler(std::shared_ptr<const Field> base, std::shared_ptr<const BiomeStage> biomes,
      const Kernels& kernels, std::shared_ptr<const LandShaper> shaper = nullptr)
      : base_(std::move(base)),
        biomes_(std::move(biomes)),
        kernels_(&kernels),
        shaper_(std::move(shaper)) {}

  /// Over a grid. False when stopped.
  bool evaluate(const SampleGrid& grid, const LandOut& out, const std::stop_token& stop) const;
  /// The same, and the rise per cell at each sample, row by row, from the heights one cell to
  /// either side whatever the step.
  bool evaluate(
      const SampleGrid& grid, const LandOut& out, float* slopes, const std::stop_token& stop) const;

  /// Scattered cells; biomes: may be nullptr. Approximate ones are as before they are shaped.
  void scattered(int count, const Cell* cells, float* heights, BiomeIndex* biomes,
      Accuracy accuracy, WaterAt* waters = nullptr) const;
  std::vector<float> heightsOf(const std::vector<Cell>& cells) const;
  /// Base heights of scattered cells.
  void baseOf(int count, const Cell* cells, float* out) const;
  /// Rise per cell of scattered cells.
  std::vector<float> slopesOf(int count, const Cell* cells, Accuracy accuracy) const;

  // One cell, by the plain scalar code.
  LandAt at(Cell cell) const;
  float heightAt(Cell cell) const { return at(cell).height; }
  float slopeAt(Cell cell) const;

 private:
  /// What the stages before make.
  bool made(const SampleGrid& grid, const LandOut& out, const std::stop_token& stop) const;
  void madeAt(
      int count, const Cell* cells, float* heights, BiomeIndex* biomes, Accuracy accuracy) const;

  std::shared_ptr<const Field> base_;
  std::shared_ptr<const BiomeStage> biomes_;
  const Kernels* kernels_;
  std::shared_ptr<const LandShaper> shaper_;
};

/// Rise per cell from the heights one cell to either side.
inline float slopeOf(float west, float east, float north, float south) {
  const float dx = east - west, dz = south - north;
  return std::sqrt(dx * dx + dz * dz) * 0.5f;
}

}  // namespace acre
