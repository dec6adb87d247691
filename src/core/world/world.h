/// A compiled recipe. Map, command, exports and streaming all ask here and nowhere else.
#pragma once

#include <memory>
#include <stop_token>
#include <string>
#include <vector>

#include "base/coords.h"
#include "base/hash.h"
#include "base/memo.h"
#include "base/result.h"
#include "cave/caves.h"
#include "cave/level_stage.h"
#include "climate/biomes.h"
#include "field/field.h"
#include "recipe/recipe.h"
#include "strata/bands.h"
#include "strata/blocks.h"
#include "world/chunk.h"

namespace acre {

/// What one cell holds.
struct CellValue {
  float base = 0;  ///< Before the biomes shape it.
  float height = 0;
  BiomeIndex biome = kNoBiome;  ///< kOutsideBiome beyond the bounds.
  float slope = 0;              ///< Rise per cell.
  int slopeBand = -1;           ///< Index of the slope band that decided the material, or -1.
  int band = -1;                ///< Index of the band by altitude; -1 when there are no bands.
  MaterialIndex material = kUnassigned;  ///< kOutside beyond the bounds.
  /// In levels: height is that of the floor or the wall, and the rest of the rock.
  struct OfLevel {
    int32_t depth = 0;     ///< Cells to the nearest open one; 0 in one.
    int place = -1;        ///< Index of the must-have place here, or -1.
    float rock = 0;        ///< What the bands compare: the height of the rock less the depth.
    BlockStage::At solid;  ///< What the rock holds at that depth.
  };
  std::optional<OfLevel> level;
};

/// What one block holds, and why.
struct BlockValue : BlockStage::At {
  MaterialIndex ground = kOpen;  ///< Before caves.
  CaveStage::At cave;
};

/// The compiled stages of a world.
struct WorldParts {
  std::shared_ptr<const Field> heights;
  std::vector<std::shared_ptr<const Field>> fields;  ///< In the order of the recipe.
  std::shared_ptr<const Field> temperature;          ///< Nothing while the climate is off.
  std::shared_ptr<const Field> moisture;
  std::shared_ptr<const BiomeStage> biomes;  ///< Nothing while the biomes are off.
  std::shared_ptr<const BandTable> bands;
  /// Bands of their own, by index of the biome; nothing: the general ones. Empty when none has any.
  std::vector<std::shared_ptr<const BandTable>> biomeBands;
  double seaLevel = 0;                       ///< As it came out, when the recipe holds a share.
  std::shared_ptr<const BlockStage> blocks;  ///< In worlds of columns those as high as they are.
  std::shared_ptr<const CaveStage> caves;    ///< Nothing while there are none.
  std::shared_ptr<const LevelStage> level;   ///< Of levels, unless the stage is off.
  std::shared_ptr<const BlockStage> rock;    ///< Of levels: what lies how deep.
  float lowest = 0, highest = 0;             ///< Between these every height lies.
};

/// Where the samples of a grid go: sample (i, j) to place j * stride + i of each array, stride 0
/// meaning the grid's width. What is nullptr is not asked for.
struct Land {
  float* heights = nullptr;
  MaterialIndex* materials = nullptr;
  BiomeIndex* biomes = nullptr;
  uint32_t* regions = nullptr;  ///< Hashes of the regions; 0 without regions.
  float* borders = nullptr;     ///< Cells to the nearest border of regions, within a region's side.
  float* base = nullptr;        ///< Base heights.
  StageTimes* times = nullptr;  ///< What each stage took is added here.
  ptrdiff_t stride = 0;
};

/// Immutable, thread-safe, made by Engine::compile. Any rectangle at any step and any chunk agree
/// cell by cell, whatever the order, the threads and the kernels.
class World final : public ChunkSource {
 public:
  World(Recipe recipe, WorldParts parts, const Kernels& kernels, MemoLimit memo = {});

  const Recipe& recipe() const { return recipe_; }
  uint64_t seed() const { return seed_; }
  const ChunkLayout& layout() const override { return layout_; }
  const Rect& bounds() const override { return bounds_; }
  bool bounded() const { return recipe_.frame.x || recipe_.frame.z; }
  const Kernels& kernels() const { return *kernels_; }
  const Field& heightField() const { return *parts_.heights; }
  /// The field of that id ("heights" included), or nullptr.
  const Field* field(const std::string& id) const;
  const BandTable& bands() const { return *parts_.bands; }
  /// The bands of a biome: its own or the general ones.
  const BandTable& bandsOf(BiomeIndex biome) const;
  /// No band at all, neither general nor of a biome.
  bool bandsAreEmpty() const { return recipe_.bands.empty() && parts_.biomeBands.empty(); }
  /// The Biomes stage; nullptr while it is off.
  const BiomeStage* biomes() const { return parts_.biomes.get(); }
  double seaLevel() const { return parts_.seaLevel; }
  /// Overhangs, layers, rock and ores; nullptr in worlds of columns.
  const BlockStage* blocks() const { return layout_.blocks() ? parts_.blocks.get() : nullptr; }
  /// The stage Caves; nullptr while there are none.
  const CaveStage* caves() const { return parts_.caves.get(); }
  /// The stage Level; nullptr in other worlds, and while it is off.
  const LevelStage* level() const { return parts_.level.get(); }
  /// The rock of a level: layers by depth, beds, ores; nullptr without level().
  const BlockStage* levelRock() const { return level() ? parts_.rock.get() : nullptr; }
  /// How the world's ground is cut into bricks to look at. In worlds of blocks that is layout();
  /// worlds of columns have it too, though their chunks are not made of it.
  const ChunkLayout& groundLayout() const { return groundLayout_; }

  /// What is approximate, or left out, in samples so many cells apart: "distance from water",
  /// "islets given back". Empty up to four cells.
  std::vector<std::string> approximations(int64_t step) const;

  /// Coarsest detail level of chunks.
  static constexpr int kMostLevel = 8;

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
  Status sampleUnbounded(const SampleGrid& grid, const Land& land,
                         const std::stop_token& stop = {}) const;

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
                       MaterialIndex* blocks, float* heights = nullptr,
                       const std::stop_token& stop = {}) const;
  /// Which parts of the stage Caves hold the cells of a block, as CaveStage::heldIn() tells them,
  /// below the surface of their columns: x fastest, then z, then y. All 0 without caves and beyond
  /// CaveStage::kExactStep.
  Status sampleCaves(const SampleBlock& block, uint16_t* held,
                     const std::stop_token& stop = {}) const;
  /// One block, by the plain scalar code; its material is kOutside beyond the bounds.
  BlockValue blockAt(Cell cell, int64_t y) const;
  /// Cells changed by hand that show in this world: those made for its seed; nothing without any.
  const EditSet* edits() const { return edits_.get(); }
  /// The material that a cell was given by hand, if it was: kOpen, or the material's index.
  std::optional<MaterialIndex> editAt(Cell cell, int64_t y) const;
  /// Levels y of blocks that exist: [min, min + extent).
  AxisBounds vertical() const {
    return {groundLayout_.vertical().min, groundLayout_.vertical().extent};
  }

  /// Rise per cell at each sample, from the heights one cell to either side whatever the step.
  Status sampleSlope(const SampleGrid& grid, float* slopes, const std::stop_token& stop = {}) const;

  /// Chart values and base heights of scattered cells; where regions decide, the values at their
  /// sites. rough: what is found by looking around may be approximate, which many cells far apart
  /// could not afford otherwise. REQUIRES: biomes(), cells within the limits.
  void chartValues(int count, const Cell* cells, float* x, float* y, float* base,
                   bool rough = false) const;
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

  /// The recipe's material; nothing for kUnassigned, kOpen and kOutside.
  const Material* material(MaterialIndex index) const;
  /// The recipe's biome; nothing for kNoBiome and kOutsideBiome.
  const Biome* biome(BiomeIndex index) const;
  /// Its id, "none" or "outside".
  std::string biomeId(BiomeIndex index) const;
  /// Its id, kUnassignedId, "open" or "outside".
  std::string materialId(MaterialIndex index) const;

 private:
  Result<std::shared_ptr<const Chunk>> makeChunk(ChunkPos pos, const std::stop_token& stop,
                                                 StageTimes* times) const override;
  /// Everything that is known of columns; materials as the bands say, or the level.
  Status sampleGround(const SampleGrid& grid, const Land& land, const std::stop_token& stop) const;
  CellValue groundAt(Cell cell) const;
  /// Heights of the floor in place of the rock's.
  void levelHeights(const SampleGrid& grid, float* heights, ptrdiff_t stride) const;
  /// Materials of a grid of a level in place of the bands'. depths: of its samples, row by row.
  bool levelMaterials(const SampleGrid& grid, const uint16_t* depths, const BiomeIndex* biomes,
                      MaterialIndex* materials, ptrdiff_t stride,
                      const std::stop_token& stop) const;
  void layLevel(Cell cell, CellValue& value) const;
  /// Puts what was changed by hand into a grid's materials.
  void applyEdits(const SampleGrid& grid, MaterialIndex* materials, ptrdiff_t stride) const;
  /// Chunk::fill of a grid's samples, against those one sample away.
  Status fillOf(const SampleGrid& grid, std::vector<uint16_t>& out,
                const std::stop_token& stop) const;
  /// Columns of a square and what the stages say of them; asked for again by every level of blocks
  /// above and below.
  struct Square;
  struct SquareKey {
    int64_t x, z, step;
    int32_t width, depth;
    auto operator<=>(const SquareKey&) const = default;
  };
  /// What all blocks are, where that can be told from the heights alone.
  std::optional<MaterialIndex> alikeIn(const SampleBlock& block, const std::stop_token& stop,
                                       StageTimes* times) const;
  std::shared_ptr<const Square> squareOf(const SquareKey& key, const std::stop_token& stop,
                                         StageTimes* times) const;
  /// What all blocks of some levels are whatever the columns between these heights, if it can be
  /// told; caves may open any ground.
  std::optional<MaterialIndex> uniform(float lowest, float highest,
                                       const BlockLevels& levels) const;
  /// What the stage Caves asks of columns; nothing when stopped.
  std::shared_ptr<const CaveStage::Columns> caveColumns(const SampleGrid& grid,
                                                        const std::stop_token& stop,
                                                        StageTimes* times) const;
  /// Digs caves into blocks; nothing beyond CaveStage::kExactStep.
  bool digs(int64_t step) const {
    return parts_.caves && layout_.blocks() && step <= CaveStage::kExactStep;
  }
  /// Puts what lies deeper into materials seen from above where caves open the surface.
  void lookDown(int count, const Cell* cells, const float* heights, MaterialIndex* materials) const;
  /// The uppermost block of a column that holds anything; kOpen: none.
  MaterialIndex topOf(Cell cell) const;
  /// Blocks as the stages make them, before what was changed by hand.
  Status generateBlocks(const SampleBlock& block, MaterialIndex* blocks,
                        const std::stop_token& stop, StageTimes* times) const;
  bool makeLand(const SampleGrid& grid, const Land& land, const std::stop_token& stop) const;
  bool makeSlopes(const SampleGrid& grid, const Land& land, float* slopes,
                  const std::stop_token& stop) const;

  Recipe recipe_;
  uint64_t seed_;
  ChunkLayout layout_;
  ChunkLayout groundLayout_;
  Rect bounds_;
  WorldParts parts_;
  Edits edits_;
  std::vector<MaterialIndex> editMaterials_;  // By the set's own indices.
  const Kernels* kernels_;
  Memo<SquareKey, Square> squares_;
};

/// Cells below a top at height h that must be there beside a lowest neighbour: levels between the
/// two floors that the top alone leaves open, at most 65,535.
uint16_t fillBeside(float h, float lowestNeighbour);

/// Refuses a grid whose samples leave +-kMaxCell or whose step is out of range.
Status checkGrid(const SampleGrid& grid);

}  // namespace acre
