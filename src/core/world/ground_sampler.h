/// What the stages make of blocks.
#pragma once

#include <memory>
#include <optional>
#include <span>
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

/// The highest block of a column that is no liquid, after the caves.
struct GroundTop {
  static constexpr int64_t kNone = INT64_MIN;
  int64_t y = kNone;  ///< The level above it; kNone: there is none.
  MaterialIndex material = kUnassigned;
  bool wet = false;  ///< Liquid lies over it.
};

/// What one looks for in the caves of a column.
struct CaveStand {
  bool ceiling = false;    ///< From which one hangs; else a floor.
  std::vector<int> kinds;  ///< Cave kinds that line it; none: any.
  bool wet = false;        ///< Also under water.
  uint64_t draw = 0;       ///< Chooses among those that fit.
};

/// The land of some columns, and as far around as the caves of each look.
struct GroundPatch {
  static constexpr int64_t kAround = 2;
  Rect all;  ///< Row by row.
  std::vector<float> heights, shores;
  std::vector<BiomeIndex> biomes;
  std::vector<MaterialIndex> surface;
  std::vector<WaterKind> waters;
  std::vector<int32_t> levels, helds;
  size_t at(Cell cell) const {
    return static_cast<size_t>((cell.z - all.z) * all.width + cell.x - all.x);
  }
  uint64_t bytes() const {
    return heights.capacity() * (2 * sizeof(float) + sizeof(BiomeIndex) + sizeof(MaterialIndex) +
                                    sizeof(WaterKind) + 2 * sizeof(int32_t));
  }
};

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
  /// The land of a rectangle of columns. slopes: unless null, those of all of it. REQUIRES: cells
  /// within the limits.
  GroundPatch patch(const Rect& cells, std::vector<float>* slopes = nullptr) const;
  /// Tops of some of its columns: what blocks they meet is looked at alone.
  std::vector<GroundTop> tops(const GroundPatch& land, std::span<const Cell> cells) const;
  /// A place in the caves under one of its columns: at y, on or under a block of the material.
  /// Nothing: none fits.
  std::optional<GroundTop> inCaves(
      const GroundPatch& land, Cell cell, const CaveStand& asked) const;
  /// Cells from one in a cave to its nearest wall at that level, kCaveWalls if there are more.
  int64_t wallFrom(Cell cell, int64_t y) const;
  static constexpr int64_t kCaveWalls = 4;
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
  /// Of columns whose heights hardly differ.
  void topsOf(const GroundPatch& land, std::span<const Cell> cells, std::span<const size_t> which,
      std::span<GroundTop> out) const;
  /// The same of a column of a patch.
  CaveColumns caveColumns(const GroundPatch& land, Cell cell) const;
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
