/// What the stages make of columns, in worlds of every kind.
#pragma once

#include <stop_token>
#include <vector>

#include "base/result.h"
#include "climate/land_sampler.h"
#include "world/cell_value.h"
#include "world/floor_pass.h"
#include "world/plan.h"

namespace acre {

/// Where the samples of a grid go; a stride of 0 means the grid's width.
struct Land : LandOut {
  MaterialIndex* materials = nullptr;
  float* slopes = nullptr;     ///< Rise per cell, from the heights one cell to either side.
  bool ground = false;         ///< Materials are those of the ground, under any fresh water.
  bool generated = false;      ///< They are as before any was changed by hand.
  bool beforeObjects = false;  ///< They are as if nothing stood there; so too before water.
};

/// Heights, biomes and materials as if the world had no bounds: the land, the bands, the floor of a
/// level, then what was changed by hand. In worlds of blocks materials are those that the bands
/// say. Immutable and thread-safe. What takes a grid refuses those beyond the limits, and is
/// Cancelled when stopped; single cells are made by the plain scalar code.
class ColumnSampler {
 public:
  /// Both there for as long as this is.
  ColumnSampler(const WorldPlan& plan, const EditPass& edits);

  Status sample(const SampleGrid& grid, const Land& land, const std::stop_token& stop = {}) const;
  CellValue at(Cell cell) const;
  /// Scattered cells. waters: unless null, filled; then materials are those of the ground.
  void scattered(int count, const Cell* cells, float* heights, BiomeIndex* biomes,
      MaterialIndex* materials, Accuracy accuracy, WaterAt* waters = nullptr) const;
  /// The same, exact, as they were before any was changed by hand. slopes: unless null, filled.
  void generated(int count, const Cell* cells, float* heights, BiomeIndex* biomes,
      MaterialIndex* materials, WaterAt* waters, float* slopes) const;

  float heightAt(Cell cell) const;
  /// The same without the floor of a level: of the rock.
  float landHeightAt(Cell cell) const;
  /// Whether a cell of a level is open. REQUIRES: plan.level().
  bool isOpen(Cell cell) const { return floor_.isOpen(cell); }

  /// Rise per cell, from the heights one cell to either side whatever the step; beforeWater: of the
  /// land as it was before that was cut into it.
  Status slopes(const SampleGrid& grid, float* slopes, const std::stop_token& stop = {},
      bool beforeWater = false) const;
  float slopeAt(Cell cell) const;

  /// Chunk::fill of a grid's samples, against those one sample away.
  Status fill(
      const SampleGrid& grid, std::vector<uint16_t>& out, const std::stop_token& stop = {}) const;
  /// Cells below the top of one cell's column that must be there so that no hole opens beside its
  /// lowest neighbour.
  uint16_t fillAt(Cell cell) const;

  /// Values of a field of this world.
  Status field(const Field& field, const SampleGrid& grid, float* values,
      const std::stop_token& stop = {}, ptrdiff_t stride = 0) const;
  /// What one layer (a step of the field) brings, before it joins the sum.
  Status layer(const Field& field, size_t step, const SampleGrid& grid, float* values,
      const std::stop_token& stop = {}, ptrdiff_t stride = 0) const;
  /// Chart values and base heights of scattered cells; where regions decide, the values at their
  /// sites. REQUIRES: plan.biomes(), cells within the limits.
  void chartValues(
      int count, const Cell* cells, float* x, float* y, float* base, Accuracy accuracy) const;

 private:
  /// slopes: empty, filled where bands ask for them.
  void undisturbed(int count, const Cell* cells, float* heights, BiomeIndex* biomes,
      MaterialIndex* materials, Accuracy accuracy, WaterAt* waters,
      std::vector<float>& slopes) const;
  bool markOpenings(const SampleGrid& grid, const Land& land, const std::stop_token& stop) const;
  /// Materials of a grid by the bands. slopes: of its samples, row by row, where bands ask.
  bool bands(const SampleGrid& grid, const Land& land, const std::vector<float>& slopes,
      const std::stop_token& stop) const;

  const WorldPlan& plan_;
  const LandSampler& land_;
  const EditPass& edits_;
  FloorPass floor_;
};

/// Cells below a top at height h that must be there beside a lowest neighbour: levels between the
/// two floors that the top alone leaves open, at most 65,535.
uint16_t fillBeside(float h, float lowestNeighbour);

}  // namespace acre
