/// The recipe: everything that describes a world, as plain values. Reading and writing its JSON
/// form is in recipe/json.h; what values are accepted is in recipe/validate.h.
#pragma once

#include <cstdint>
#include <functional>
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "base/coords.h"
#include "base/part.h"
#include "recipe/biome_recipe.h"
#include "recipe/block_recipe.h"
#include "recipe/field_recipe.h"
#include "recipe/strata_recipe.h"

namespace acre {

struct Caves;    // recipe/cave_recipe.h
struct Level;    // recipe/level_recipe.h
struct Rivers;   // recipe/water_recipe.h
struct Objects;  // recipe/object_recipe.h
struct Tiling;   // recipe/tile_recipe.h
class EditSet;   // recipe/edits.h
/// Value that compares by contents; nothing is no edits.
using Edits = std::shared_ptr<const EditSet>;

enum class WorldKind {
  Overland,  ///< Columns seen from above.
  Voxel,     ///< Blocks.
  Side,      ///< Blocks of the one plane z = 0, seen from the side.
  Level      ///< One bounded floor of rock and open space: columns, seen from above.
};

/// What a chunk of a voxel world is.
enum class ChunkShape {
  Cubes,   ///< As high as it is wide.
  Columns  ///< As high as the world.
};

/// The cells of one axis that exist: [min, min + extent).
struct AxisBounds {
  int64_t min = 0;
  int64_t extent = 1;
  bool operator==(const AxisBounds&) const = default;
};

/// The first stage: what kind of world, cut into what chunks, within what bounds.
struct Frame {
  WorldKind kind = WorldKind::Overland;
  int32_t chunkSize = 32;          ///< Cells per chunk side.
  double seaLevel = 0;             ///< Altitude in cells; bands may refer to it.
  std::optional<double> seaShare;  ///< When held, the sea level is where this share lies below.
  std::optional<AxisBounds> x;     ///< Nothing: endless.
  std::optional<AxisBounds> z;     ///< Not used by side worlds.
  AxisBounds y{-64, 192};          ///< The vertical range of worlds made of blocks.
  ChunkShape shape = ChunkShape::Cubes;

  bool blocks() const { return kind == WorldKind::Voxel || kind == WorldKind::Side; }
  bool operator==(const Frame&) const = default;
};

enum class MaterialState { Solid, Passable, Liquid };

/// What a cell is made of. The reserved material "unassigned" is not listed in the table.
struct Material {
  std::string id;
  std::string name;
  Colour colour;
  MaterialState state = MaterialState::Solid;
  bool operator==(const Material&) const = default;
};

// ---- climate -----------------------------------------------------------------------------------

/// How the values of a field are told, and where charts of it begin and end.
struct AxisScale {
  double low = -1;  ///< The values that charts begin and end with, and that the unit is tied to.
  double high = 1;
  std::string unit;      ///< "°C"; empty: values are told as they are.
  double unitLow = -10;  ///< What `low` stands for, in the unit.
  double unitHigh = 30;
  bool operator==(const AxisScale&) const = default;

  /// A value of the field in the unit.
  double told(double value) const {
    return unit.empty() ? value : unitLow + (value - low) / (high - low) * (unitHigh - unitLow);
  }
  /// The value that a number in the unit stands for.
  double untold(double number) const {
    return unit.empty() ? number : low + (number - unitLow) / (unitHigh - unitLow) * (high - low);
  }
};

/// One axis of the climate.
struct ClimateAxis : AxisScale {
  FieldRecipe field;
  bool operator==(const ClimateAxis&) const = default;

  ClimateAxis(const char* id, const char* name, double unitBegin, double unitEnd)
      : AxisScale{-1, 1, "", unitBegin, unitEnd}, field{id, name, {}, {}, {}} {}
};

/// Temperature and moisture. They read the heights, which cannot read them.
struct Climate {
  bool on = false;
  ClimateAxis temperature{kTemperatureId, "Temperature", -10, 30};
  ClimateAxis moisture{kMoistureId, "Moisture", 0, 4000};
  bool operator==(const Climate&) const = default;
};

/// What people write down about a world and its stages; it changes no cell.
struct Notes {
  std::string world, frame, heights, climate, biomes, level, water, strata, caves, objects, tiles;
  bool operator==(const Notes&) const = default;
};

struct Recipe {
  int generation = 0;  ///< Which set of algorithms; a release never changes one silently.
  std::string name = "Untitled";
  std::string seed = "1";
  Frame frame;
  std::vector<Material> materials;
  std::vector<FieldRecipe> fields;  ///< Further fields, for masks and layers of others.
  FieldRecipe heights{kHeightsId, "Heights", {}, {}, {}};
  bool heightsOn = true;  ///< Off: flat at 0.
  /// Worlds of columns: chunks say how many cells below each top must be there so that no hole
  /// opens beside a lower neighbour. Worlds of blocks are filled down to their bottom anyway.
  bool fillDown = false;
  Overhang overhang;
  Climate climate;
  Biomes biomes;
  std::vector<SlopeBand> slopes;
  std::vector<Band> bands;
  bool strataOn = true;  ///< Off: nothing is assigned.
  std::vector<DepthLayer> layers;
  Rock rock;
  std::vector<Ore> ores;
  SeaWater water;
  Part<Rivers> rivers;
  Part<Caves> caves;
  Part<Level> level;
  Part<Objects> objects;
  Part<Tiling> tiles;
  Notes notes;
  /// Changed by hand; nothing: nothing. They are no part of recipeId, and take part in worlds of
  /// their own seed alone.
  Edits edits;
  std::string folder;  ///< Where relative file names start; no part of the file or of ==.

  bool operator==(const Recipe& other) const;
};

/// The altitude that a threshold without a share stands for. Computed in double, rounded to float
/// once.
inline float altitudeOf(const Threshold& threshold, double seaLevel) {
  return static_cast<float>(threshold.fromSea ? seaLevel + threshold.value : threshold.value);
}

/// The field of that id (the heights and, when it is on, the climate's included), or nullptr.
const FieldRecipe* fieldOf(const Recipe& recipe, const std::string& id);
FieldRecipe* fieldOf(Recipe& recipe, const std::string& id);

/// All fields: the heights, the named ones, and the climate's when it is on.
std::vector<const FieldRecipe*> fieldsOf(const Recipe& recipe);

/// JSON pointer of a field of the recipe.
std::string pointerOf(const Recipe& recipe, const FieldRecipe& field);

/// The climate axis of that field, or nullptr.
const ClimateAxis* climateAxisOf(const Recipe& recipe, const std::string& fieldId);

/// The scale of a chart axis: the climate's own, or what the chart says about any other field.
AxisScale scaleOf(const Recipe& recipe, const ChartAxis& axis);

/// The biome of that id, or nullptr.
const Biome* biomeOf(const Recipe& recipe, const std::string& id);
Biome* biomeOf(Recipe& recipe, const std::string& id);

/// Calls visit with every file name in a recipe: those of pictures, rooms and tiles; not what stands in
/// the recipe itself.
void eachFile(Recipe& recipe, const std::function<void(std::string&)>& visit);

/// "overland", "voxel", "side" or "level".
const char* kindName(WorldKind kind);

/// The y under which cells changed by hand are kept in worlds of columns: the floor of a level, 0
/// in others.
int64_t editLevel(const Recipe& recipe);

/// The cells of a bounded world; axes without bounds reach from -kMaxCell to +kMaxCell.
Rect boundsOf(const Frame& frame);

/// An id of the form "stem-N" that `taken` does not hold yet, N above every N in use.
std::string freshId(const std::string& stem, const std::vector<std::string>& taken);

}  // namespace acre
