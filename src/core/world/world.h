/// A compiled recipe. Map, command, exports and streaming all ask here and nowhere else. What can
/// be told of a world without looking at a cell stands in world/plan.h.
#pragma once

#include <memory>
#include <stop_token>
#include <string>
#include <vector>

#include "base/coords.h"
#include "base/indices.h"
#include "base/memo.h"
#include "base/result.h"
#include "climate/land_sampler.h"
#include "world/cell_value.h"
#include "world/plan.h"

namespace acre {

struct BlockValue;   // world/block_value.h
struct CaveColumns;  // cave/caves.h

/// Where the samples of a grid go; a stride of 0 means the grid's width.
struct Land : LandOut {
  MaterialIndex* materials = nullptr;
};

/// Immutable, thread-safe, made by Engine::compile. Any rectangle at any step and any chunk agree
/// cell by cell, whatever the order, the threads and the kernels.
class World final : public WorldPlan {
 public:
  World(Recipe recipe, WorldParts parts, const Kernels& kernels, MemoLimit memo = {});

  uint64_t largestChunkBytes() const override;
  uint64_t workBytes() const override;

  /// Values of a field over a grid, as for sample().
  Status sampleField(const Field& field, const SampleGrid& grid, float* values,
      const std::stop_token& stop = {}, ptrdiff_t stride = 0) const;

  /// What one layer (a step of the field) brings over a grid, before it joins the sum.
  Status sampleLayer(const Field& field, size_t step, const SampleGrid& grid, float* values,
      const std::stop_token& stop = {}, ptrdiff_t stride = 0) const;

  /// All that is asked for over a grid. Samples outside the bounds have heights and regions, the
  /// material kOutside and the biome kOutsideBiome. Refuses grids beyond the limit.
  Status sample(const SampleGrid& grid, const Land& land, const std::stop_token& stop = {}) const;

  /// Heights and, unless null, materials.
  Status sample(const SampleGrid& grid, float* heights, MaterialIndex* materials,
      const std::stop_token& stop = {}, ptrdiff_t stride = 0) const;

  /// The same as if the world had no bounds.
  Status sampleUnbounded(
      const SampleGrid& grid, const Land& land, const std::stop_token& stop = {}) const;

  /// Blocks of a regular block of samples, x fastest, then z, then y: kOpen, or a material; those
  /// beyond the bounds as kOutside. Worlds of columns are asked as if each were made of blocks of
  /// its material, up to its height; so for the two below.
  Status sampleBlocks(const SampleBlock& block, MaterialIndex* blocks,
      const std::stop_token& stop = {}, StageTimes* times = nullptr) const;
  /// The same as if the world had no bounds.
  Status sampleBlocksUnbounded(const SampleBlock& block, MaterialIndex* blocks,
      const std::stop_token& stop = {}, StageTimes* times = nullptr) const;
  /// Blocks of scattered columns: y = levels.first + j * step at blocks[j * columns + i].
  /// heights: unless null, those of the columns.
  Status sampleColumns(int columns, const Cell* cells, const BlockLevels& levels,
      MaterialIndex* blocks, float* heights = nullptr, const std::stop_token& stop = {}) const;
  /// Which parts of the stage Caves hold the cells of a block, as CaveStage::heldIn() tells them,
  /// below the surface of their columns: x fastest, then z, then y. All 0 without caves and beyond
  /// CaveStage::kExactStep.
  Status sampleCaves(
      const SampleBlock& block, uint16_t* held, const std::stop_token& stop = {}) const;
  /// One block, by the plain scalar code; its material is kOutside beyond the bounds.
  BlockValue blockAt(Cell cell, int64_t y) const;
  /// The material that a cell was given by hand, if it was: kOpen, or the material's index.
  std::optional<MaterialIndex> editAt(Cell cell, int64_t y) const;
  /// Rise per cell at each sample, from the heights one cell to either side whatever the step.
  Status sampleSlope(const SampleGrid& grid, float* slopes, const std::stop_token& stop = {}) const;

  /// Chart values and base heights of scattered cells; where regions decide, the values at their
  /// sites. rough: what is found by looking around may be approximate, which many cells far apart
  /// could not afford otherwise. REQUIRES: biomes(), cells within the limits.
  void chartValues(
      int count, const Cell* cells, float* x, float* y, float* base, bool rough = false) const;
  /// Height, biome and material of scattered cells, as if the world had no bounds; in worlds of
  /// blocks the material that the bands say. rough: as above.
  void scattered(int count, const Cell* cells, float* heights, BiomeIndex* biomes,
      MaterialIndex* materials, bool rough = true) const;

  /// The same with the material that one sees from above, as sample() has it.
  void scatteredFromAbove(int count, const Cell* cells, float* heights, BiomeIndex* biomes,
      MaterialIndex* materials) const;

  /// One cell, by the plain scalar code; in worlds of blocks what one sees from above.
  CellValue at(Cell cell) const;

  /// Cells below the top of one cell's column that must be there so that no hole opens beside its
  /// lowest neighbour (Chunk::fill), by the plain scalar code.
  uint16_t fillAt(Cell cell) const;

  /// Rise per cell at one cell, by the plain scalar code.
  float slopeAt(Cell cell) const;
  /// Height of one cell, by the plain scalar code.
  float heightAt(Cell cell) const;
  /// The same without the floor of a level: of the rock.
  float landHeightAt(Cell cell) const;
  /// Whether a cell of a level is open: as the floor is, unless it was changed by hand to what is
  /// solid or not. REQUIRES: level().
  bool isOpen(Cell cell) const;

 private:
  Result<std::shared_ptr<const Chunk>> makeChunk(
      ChunkPos pos, const std::stop_token& stop, StageTimes* times) const override;
  /// Everything that is known of columns; materials as the bands say, or the level.
  Status sampleGround(const SampleGrid& grid, const Land& land, const std::stop_token& stop) const;
  CellValue groundAt(Cell cell) const;
  /// Heights of the floor in place of the rock's.
  void levelHeights(const SampleGrid& grid, float* heights, ptrdiff_t stride) const;
  /// Materials of a grid of a level in place of the bands'. depths: of its samples, row by row.
  bool levelMaterials(const SampleGrid& grid, const uint16_t* depths, const BiomeIndex* biomes,
      MaterialIndex* materials, ptrdiff_t stride, const std::stop_token& stop) const;
  void layLevel(Cell cell, CellValue& value) const;
  /// Puts what was changed by hand into a grid's materials.
  void applyEdits(const SampleGrid& grid, MaterialIndex* materials, ptrdiff_t stride) const;
  /// Chunk::fill of a grid's samples, against those one sample away.
  Status fillOf(
      const SampleGrid& grid, std::vector<uint16_t>& out, const std::stop_token& stop) const;
  /// Columns of a square and what the stages say of them; asked for again by every level of blocks
  /// above and below.
  struct Square;
  struct SquareKey {
    int64_t x, z, step;
    int32_t width, depth;
    auto operator<=>(const SquareKey&) const = default;
  };
  /// What all blocks are, where that can be told from the heights alone.
  std::optional<MaterialIndex> alikeIn(
      const SampleBlock& block, const std::stop_token& stop, StageTimes* times) const;
  std::shared_ptr<const Square> squareOf(
      const SquareKey& key, const std::stop_token& stop, StageTimes* times) const;
  /// What all blocks of some levels are whatever the columns between these heights, if it can be
  /// told; caves may open any ground.
  std::optional<MaterialIndex> uniform(
      float lowest, float highest, const BlockLevels& levels) const;
  /// What the stage Caves asks of columns; nothing when stopped.
  std::shared_ptr<const CaveColumns> caveColumns(
      const SampleGrid& grid, const std::stop_token& stop, StageTimes* times) const;
  /// Digs caves into blocks; nothing beyond CaveStage::kExactStep.
  bool digs(int64_t step) const;
  /// Puts what lies deeper into materials seen from above where caves open the surface.
  void lookDown(int count, const Cell* cells, const float* heights, MaterialIndex* materials) const;
  /// The uppermost block of a column that holds anything; kOpen: none.
  MaterialIndex topOf(Cell cell) const;
  /// Blocks as the stages make them, before what was changed by hand.
  Status generateBlocks(const SampleBlock& block, MaterialIndex* blocks,
      const std::stop_token& stop, StageTimes* times) const;

  std::vector<MaterialIndex> editMaterials_;  // By the set's own indices.
  Memo<SquareKey, Square> squares_;
};

/// Cells below a top at height h that must be there beside a lowest neighbour: levels between the
/// two floors that the top alone leaves open, at most 65,535.
uint16_t fillBeside(float h, float lowestNeighbour);

}  // namespace acre
