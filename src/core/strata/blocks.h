/// The ground of worlds made of blocks: which blocks are solid, and what each is made of.
#pragma once

#include <memory>
#include <optional>
#include <stop_token>
#include <vector>

#include "climate/chart.h"
#include "climate/land_shaper.h"
#include "field/field.h"
#include "strata/bands.h"
#include "strata/block_at.h"
#include "strata/ores.h"

namespace acre {

/// A set of depth layers, with the fields that their thickness follows.
struct LayerSet {
  std::vector<DepthLayer> layers;
  std::vector<std::shared_ptr<const Field>> fields;  ///< One a layer; nothing: the same everywhere.
  int64_t deepest = 0;  ///< Most blocks that all of them together can take.
};

/// Everything that the stage depends on.
struct BlockInputs {
  const Overhang& overhang;
  std::shared_ptr<const Field> overhangMask;  ///< The field of its mask; nothing without one.
  std::vector<LayerSet> sets;                 ///< The general ones first.
  std::vector<uint16_t> setOfBiome;           ///< By index of the biome; beyond it the general one.
  const Rock& rock;
  std::shared_ptr<const Field> bend;  ///< Nothing: the beds lie level.
  std::shared_ptr<const OreStage> ores;
  const std::vector<Material>& materials;
  const std::string& water;
  MaterialIndex fresh;  ///< Of lakes and rivers; kUnassigned: water.
  double sea;
  uint64_t seed;  ///< Of the world.
  bool strataOn;  ///< Off: whatever is solid is unassigned.
  /// Worlds of columns, as blocks: all of a column is of its surface, and what is open above liquid
  /// ground and below the sea is filled with it.
  bool columnsOnly = false;
};

/// Columns of blocks: their places and what the stages before this one say of them. A regular grid
/// has `width` columns a row, `step` cells apart, row by row.
struct BlockColumns {
  int count = 0;
  const int64_t* x = nullptr;
  const int64_t* z = nullptr;
  int32_t width = 0;  ///< 0: the columns are scattered.
  int64_t step = 1;
  const float* heights = nullptr;
  const MaterialIndex* surface = nullptr;  ///< What the bands say.
  const BiomeIndex* biomes = nullptr;      ///< nullptr: no biomes.
  /// Of fresh water; all nullptr without any.
  const int32_t* levels = nullptr;  ///< Up to which it stands over the column, or kNoWater.
  const int32_t* helds = nullptr;   ///< WaterAt::held.
  const float* shores = nullptr;    ///< WaterAt::shore.
};

/// Immutable and thread-safe. A block at y takes the altitudes y to y + 1. With h the height of its
/// column and d = h - (y + 1), it is solid where
///   d + amount * mask * max(0, 1 - |d| / reach) * noise >= 0        (without overhangs: d >= 0).
/// Its depth is the number of solid blocks straight above it, up to the first that is not: layers
/// by depth lie on every ledge and under every arch. What is deeper than the layers is rock, in
/// beds; ores replace rock. An open block below the sea holds water, and one under the level of
/// fresh water over its column holds that. Where fresh water stands over a column or one of the
/// four beside it nothing is pushed below its level, so that it stays where it is, and from there
/// over kFades cells pushes grow to what they are.
///
/// A point stage but for the ores, which are exact up to steps of kExactStep and left out beyond.
class BlockStage {
 public:
  static constexpr int64_t kExactStep = 4;
  static constexpr float kFades = 4;

  /// inputs: of a validated recipe.
  static Result<std::shared_ptr<const BlockStage>> compile(const BlockInputs& inputs);

  /// What the columns are about, whichever levels are asked for: the same for all of them.
  struct Numbers;
  std::shared_ptr<const Numbers> prepare(const Kernels& kernels, const BlockColumns& columns) const;

  /// Materials of all blocks: out[j * columns.count + i]; kOpen, water or the ground's. Blocks
  /// beyond the vertical range come as if it had no end. prepared: unless null, of these columns.
  /// False when stopped.
  bool fill(const Kernels& kernels, const BlockColumns& columns, const BlockLevels& levels,
      MaterialIndex* out, const std::stop_token& stop = {},
      const Numbers* prepared = nullptr) const;

  /// The same without ores. REQUIRES: prepared.
  bool fillBarren(const Kernels& kernels, const BlockColumns& columns, const BlockLevels& levels,
      MaterialIndex* out, const Numbers& prepared) const;

  /// The same without overhangs and ores: how much rock lies where.
  bool fillPlain(const Kernels& kernels, const BlockColumns& columns, const BlockLevels& levels,
      MaterialIndex* out, const std::stop_token& stop = {}) const;

  /// One block, by the plain scalar code.
  using At = BlockAt;
  At at(Cell cell, int64_t y, float height, MaterialIndex surface, BiomeIndex biome,
      const WaterAt& water = {}) const;

  /// Solid ground at a depth that is given instead of counted, as in levels, where it is the number
  /// of cells to the nearest open one, 1 and up: the layers lie as far in as they are thick, the
  /// beds as if such a cell lay at y = -depth. Without beds the rock is of the surface. Ores lie as
  /// at y = 0, in steps up to kExactStep. Cells of depth 0 come as kOpen.
  bool fillAtDepths(const Kernels& kernels, const BlockColumns& columns, const uint16_t* depths,
      MaterialIndex* out, const std::stop_token& stop = {}) const;
  /// One such cell, by the plain scalar code. REQUIRES: depth >= 1.
  At atDepth(Cell cell, int32_t depth, MaterialIndex surface, BiomeIndex biome) const;

  /// What one sees from above where nothing hangs over: the uppermost block of a column, or the
  /// water above it.
  void fromAbove(const Kernels& kernels, const BlockColumns& columns, MaterialIndex* out) const;

  /// No block at or above this altitude is solid in a column of such a height, none below the
  /// second is open.
  int64_t openFrom(float highest) const;
  /// The same of some columns, as near as their overhangs let it be told.
  int64_t openFrom(const Numbers& columns) const;
  int64_t solidBelow(float lowest) const;
  /// Blocks that the layers take at most.
  int64_t layersDeep() const { return deepest_; }
  bool isLiquid(MaterialIndex m) const { return m < liquid_.size() && liquid_[m]; }
  MaterialIndex water() const { return water_; }
  /// Of lakes and rivers.
  MaterialIndex fresh() const { return fresh_; }
  float sea() const { return sea_; }
  const OreStage* ores() const { return ores_.get(); }
  bool overhangs() const { return overhang_; }

  /// True when every block of the levels is alike whatever columns between these heights they
  /// stand in, and what it is; sound, but not complete.
  std::optional<MaterialIndex> uniform(
      float lowest, float highest, const BlockLevels& levels) const;

 private:
  struct Layer {
    MaterialIndex material = kUnassigned;
    bool surface = false;
    float thickness = 0;
    float vary = 0;
    std::shared_ptr<const Field> field;
  };
  /// rock: unless null, what rows of rock hold is marked there.
  bool fillAll(const Kernels& kernels, const BlockColumns& columns, const BlockLevels& levels,
      bool overhangs, const Numbers& numbers, MaterialIndex* out, std::vector<bool>* rock,
      const std::stop_token& stop) const;
  void valuesOf(
      const Field& field, const Kernels& kernels, const BlockColumns& columns, float* out) const;
  Numbers numbersOf(const Kernels& kernels, const BlockColumns& columns, bool overhangs) const;
  /// How far from the surface a push may turn what is open and what is solid.
  float nearOf(const Numbers& columns) const;
  int bedAt(float below) const;
  /// The layer so many solid cells down, which is counted from 0, or -1.
  int layerAt(Cell cell, int set, int64_t depth) const;
  MaterialIndex layerMaterial(int set, int layer, MaterialIndex surface) const {
    const Layer& one = sets_[static_cast<size_t>(set)][static_cast<size_t>(layer)];
    return one.surface ? surface : one.material;
  }
  /// How much of an overhang's push there is so far from fresh water.
  static float fadeAt(float shore) { return shore < kFades ? shore / kFades : 1.0f; }
  MaterialIndex openAt(int64_t y) const { return static_cast<float>(y) < sea_ ? water_ : kOpen; }

  bool overhang_ = false;
  float reach_ = 1;
  float amount_ = 0;
  float noiseBound_ = 0;  // |noise| never exceeds it.
  NoisePlan noise_;
  std::optional<FieldStep::Mask> mask_;
  std::vector<std::vector<Layer>> sets_;
  std::vector<uint16_t> setOfBiome_;
  int64_t deepest_ = 0;
  float top_ = 0;
  float lift_ = 0;
  std::shared_ptr<const Field> bend_;
  std::vector<float> bedEnds_;  // Depth below the first bed's upper side, of all but the last.
  std::vector<MaterialIndex> beds_;
  bool bare_ = false;  // No bed at all.
  std::shared_ptr<const OreStage> ores_;
  bool columnsOnly_ = false;
  std::vector<bool> liquid_;  // By index of the material.
  MaterialIndex water_ = kOpen, fresh_ = kOpen;
  float sea_ = 0;
};

}  // namespace acre
