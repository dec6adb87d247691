/// What the stages make of blocks.
#pragma once

#include <memory>
#include <optional>
#include <stop_token>
#include <vector>

#include "base/memo.h"
#include "base/result.h"
#include "field/stage_times.h"
#include "world/block_value.h"
#include "world/plan.h"

namespace acre {

class ColumnSampler;  // world/column_sampler.h
struct CaveColumns;   // cave/caves.h

/// Ground, layers, beds, ores and water over the columns, then caves dug into them, as if the world
/// had no bounds and before what was changed by hand. Worlds of columns are asked as if each were
/// made of blocks of its material, up to its height. Immutable but for what it remembers, and
/// thread-safe. What takes a block refuses those beyond the limits, and is Cancelled when stopped.
class GroundSampler {
 public:
  /// Both there for as long as this is. memo: for columns that are asked for again by every level
  /// of blocks above and below.
  GroundSampler(const WorldPlan& plan, const ColumnSampler& columns, const MemoLimit& memo);

  /// A regular block of samples, x fastest, then z, then y: kOpen, or a material.
  Status fill(const SampleBlock& block, MaterialIndex* blocks, const std::stop_token& stop = {},
      StageTimes* times = nullptr) const;
  /// What all of them are, where that can be told from the heights alone.
  std::optional<MaterialIndex> alike(
      const SampleBlock& block, const std::stop_token& stop, StageTimes* times) const;
  /// Scattered columns: y = levels.first + j * levels.step at blocks[j * columns + i]. heights:
  /// unless null, those of the columns.
  Status fill(int columns, const Cell* cells, const BlockLevels& levels, MaterialIndex* blocks,
      float* heights = nullptr, const std::stop_token& stop = {}) const;
  /// One block, by the plain scalar code.
  BlockValue at(Cell cell, int64_t y) const;

  /// Which parts of the stage Caves hold the cells of a block, as CaveStage::heldIn() tells them,
  /// below the surface of their columns: x fastest, then z, then y. All 0 without caves and beyond
  /// CaveStage::kExactStep.
  Status caves(const SampleBlock& block, uint16_t* held, const std::stop_token& stop = {}) const;
  /// Whether caves are dug into blocks so many cells apart.
  bool digs(int64_t step) const;

 private:
  struct Square;
  struct SquareKey {
    int64_t x, z, step;
    int32_t width, length;
    auto operator<=>(const SquareKey&) const = default;
  };
  /// Columns of a square and what the stages say of them; nothing when stopped.
  std::shared_ptr<const Square> squareOf(
      const SquareKey& key, const std::stop_token& stop, StageTimes* times) const;
  std::shared_ptr<const Square> makeSquare(
      const SquareKey& key, const std::stop_token& stop, StageTimes* times) const;
  /// What all blocks of some levels are whatever the columns between these heights, if it can be
  /// told; caves may open any ground.
  std::optional<MaterialIndex> uniform(
      float lowest, float highest, const BlockLevels& levels) const;
  /// What the stage Caves asks of columns; nothing when stopped.
  std::shared_ptr<const CaveColumns> caveColumns(
      const SampleGrid& grid, const std::stop_token& stop, StageTimes* times) const;

  const WorldPlan& plan_;
  const ColumnSampler& columns_;
  const BlockStage& stage_;
  const CaveStage* caves_;  ///< nullptr without.
  Memo<SquareKey, Square> squares_;
};

}  // namespace acre
