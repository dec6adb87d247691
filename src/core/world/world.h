/// A compiled recipe. Map, command, exports and streaming all ask here and nowhere else. What can
/// be told of a world without looking at a cell stands in world/plan.h.
#pragma once

#include <memory>
#include <stop_token>

#include "world/column_sampler.h"
#include "world/crop.h"
#include "world/edit_pass.h"
#include "world/ground_sampler.h"
#include "world/object_cells.h"
#include "world/object_pass.h"
#include "world/plan.h"
#include "world/tile_pass.h"

namespace acre {

struct BlockColumns;  // strata/blocks.h

/// Immutable, thread-safe, made by Engine::compile. Any rectangle at any step and any chunk agree
/// cell by cell, whatever the order, the threads and the kernels. What the stages make is handed
/// out by columns() and ground(); World itself tells what is there in the end: seen from above
/// where there are blocks, changed by hand, and kOutside beyond the bounds.
class World final : public WorldPlan {
 public:
  World(Recipe recipe, WorldParts parts, const Kernels& kernels, const MemoLimit& memo = {});

  const ColumnSampler& columns() const { return columns_; }
  const GroundSampler& ground() const { return ground_; }
  const EditPass& editPass() const { return editPass_; }
  const ObjectPass& objects() const { return objects_; }
  const ObjectCells& objectCells() const { return objectCells_; }
  const TilePass& tiles() const { return tiles_; }

  uint64_t largestChunkBytes() const override;
  uint64_t workBytes() const override;

  /// All that is asked for over a grid. Samples outside the bounds have heights and regions, the
  /// material kOutside and the biome kOutsideBiome. Refuses grids beyond the limit.
  Status sample(const SampleGrid& grid, const Land& land, const std::stop_token& stop = {}) const;
  /// Heights and, unless null, materials.
  Status sample(const SampleGrid& grid, float* heights, MaterialIndex* materials,
      const std::stop_token& stop = {}, ptrdiff_t stride = 0) const;
  /// The same as if the world had no bounds.
  Status sampleUnbounded(
      const SampleGrid& grid, const Land& land, const std::stop_token& stop = {}) const;
  /// One cell, by the plain scalar code.
  CellValue at(Cell cell) const;
  /// Height, biome and material of scattered cells, as if the world had no bounds; what is found by
  /// looking around may be approximate, and but for levels objects are left out. apart: cells from
  /// one to the next; what coarse pictures leave out, openings of caves and ores, is left out as in
  /// a picture with such a step.
  void scattered(int count, const Cell* cells, float* heights, BiomeIndex* biomes,
      MaterialIndex* materials, int64_t apart = 1) const;

  /// Blocks of a regular block of samples, x fastest, then z, then y: kOpen, or a material; those
  /// beyond the bounds as kOutside. Worlds of columns are asked as if each were made of blocks of
  /// its material, up to its height; so for all below.
  Status sampleBlocks(const SampleBlock& block, MaterialIndex* blocks,
      const std::stop_token& stop = {}, StageTimes* times = nullptr) const;
  /// The same as if the world had no bounds.
  Status sampleBlocksUnbounded(const SampleBlock& block, MaterialIndex* blocks,
      const std::stop_token& stop = {}, StageTimes* times = nullptr) const;
  /// Blocks of scattered columns: y = levels.first + j * step at blocks[j * columns + i].
  /// heights: unless null, those of the columns.
  Status sampleColumns(int columns, const Cell* cells, const BlockLevels& levels,
      MaterialIndex* blocks, float* heights = nullptr, const std::stop_token& stop = {}) const;
  /// One block, by the plain scalar code.
  BlockValue blockAt(Cell cell, int64_t y) const;

 private:
  Result<std::shared_ptr<const Chunk>> makeChunk(
      ChunkPos pos, const std::stop_token& stop, StageTimes* times) const override;
  /// Materials as one sees them from above, before what was changed by hand. REQUIRES: blocks().
  void lookDown(
      const Kernels& kernels, const BlockColumns& columns, MaterialIndex* materials) const;
  /// The uppermost block of a column that holds anything; kOpen: none.
  MaterialIndex topOf(Cell cell) const;
  /// Puts the cells of objects into what is seen of a grid from above. REQUIRES: blocks().
  Status lookDownOnObjects(
      const SampleGrid& grid, const Land& land, const std::stop_token& stop) const;
  /// The same of some of its cells.
  Status lookDownOn(const std::vector<CellClaim>& claims, const SampleGrid& grid, const Land& land,
      const std::stop_token& stop) const;

  EditPass editPass_;
  Crop crop_;
  ColumnSampler columns_;
  GroundSampler ground_;
  ObjectPass objects_;
  ObjectCells objectCells_;
  TilePass tiles_;
};

}  // namespace acre
