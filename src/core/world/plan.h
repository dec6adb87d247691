/// What can be told of a world without looking at a single cell: its recipe, seed, layout and
/// bounds, the stages that it was compiled to, and the names of what its cells hold.
#pragma once

#include <memory>
#include <string>
#include <vector>

#include "base/coords.h"
#include "base/indices.h"
#include "climate/land_shaper.h"
#include "recipe/recipe.h"
#include "world/catalogue.h"
#include "world/chunk.h"

namespace acre {

class BandTable;    // strata/bands.h
class BiomeStage;   // climate/biomes.h
class BlockStage;   // strata/blocks.h
class CaveStage;    // cave/caves.h
class Field;        // field/field.h
class LandSampler;  // climate/land_sampler.h
class LevelStage;   // cave/level_stage.h
class WaterStage;   // water/water_stage.h
class World;        // world/world.h
struct Kernels;     // noise/kernels.h

/// What is seen of fresh water and of the ground about it; kUnassigned: what the bands say.
struct WaterMaterials {
  MaterialIndex water = kUnassigned, bed = kUnassigned, bank = kUnassigned, wet = kUnassigned;
  float bankReach = 0, wetReach = 0;
  /// Of the ground of a cell, where the bands say `bands`.
  MaterialIndex ground(WaterKind kind, float shore, MaterialIndex bands) const;
  /// What lies on top of it: under fresh water that.
  MaterialIndex top(WaterKind kind, float shore, MaterialIndex bands) const;
  bool operator==(const WaterMaterials&) const = default;
  bool any() const {
    return water != kUnassigned || bed != kUnassigned || bank != kUnassigned || wet != kUnassigned;
  }
};

/// The compiled stages of a world.
struct WorldParts {
  std::shared_ptr<const Field> heights;
  std::vector<std::shared_ptr<const Field>> fields;  ///< In the order of the recipe.
  std::shared_ptr<const Field> temperature;          ///< Nothing while the climate is off.
  std::shared_ptr<const Field> moisture;
  std::shared_ptr<const BiomeStage> biomes;   ///< Nothing while the biomes are off.
  std::shared_ptr<const LandSampler> land;    ///< What everything later stands on ...
  std::shared_ptr<const LandSampler> before;  ///< ... and the same before water.
  std::shared_ptr<const WaterStage> water;    ///< Nothing while it is off.
  WaterMaterials waterMaterials;
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

/// The part of World that needs none of its cells. Immutable and thread-safe.
class WorldPlan : public ChunkSource {
 public:
  const Recipe& recipe() const { return recipe_; }
  uint64_t seed() const { return seed_; }
  const ChunkLayout& layout() const override { return layout_; }
  const Rect& bounds() const override { return bounds_; }
  bool bounded() const { return recipe_.frame.x || recipe_.frame.z; }
  const Kernels& kernels() const { return *kernels_; }
  const WorldParts& parts() const { return parts_; }
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
  /// The stage Water; nullptr while it is off.
  const WaterStage* water() const { return parts_.water.get(); }
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

  /// Cells changed by hand that show in this world: those made for its seed; nothing without any.
  const EditSet* edits() const { return edits_.get(); }
  /// Levels y of blocks that exist: [min, min + extent).
  AxisBounds vertical() const {
    return {groundLayout_.vertical().min, groundLayout_.vertical().extent};
  }

  /// What the indices in cells stand for.
  Catalogue catalogue() const { return Catalogue(recipe_); }

 protected:
  WorldPlan(Recipe recipe, WorldParts parts, const Kernels& kernels);

 private:
  Recipe recipe_;
  uint64_t seed_;
  ChunkLayout layout_;
  ChunkLayout groundLayout_;
  Rect bounds_;
  WorldParts parts_;
  Edits edits_;
  const Kernels* kernels_;
};

/// Refuses a grid whose samples leave +-kMaxCell or whose step is out of range.
Status checkGrid(const SampleGrid& grid);

/// For whoever knows a world by name only.
const WorldPlan& planOf(const World& world);
std::shared_ptr<const WorldPlan> planOf(const std::shared_ptr<const World>& world);

}  // namespace acre
