/// Ground made of blocks as plain values: overhangs, layers by depth, beds of rock and ores. Worlds
/// of the kinds voxel and side use them.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "recipe/field_recipe.h"

namespace acre {

/// Noise in three dimensions about the surface, for cliffs and arches. A block with its top at
/// altitude y + 1 is solid where h - (y + 1) + amount * m * w * noise >= 0; m is the mask (1
/// without one) and w falls straight from 1 at the surface h to 0 at `reach` cells above and below
/// it.
struct Overhang {
  bool on = false;
  double reach = 16;   ///< Cells, 1 ... 64. Farther from the surface nothing changes.
  double amount = 14;  ///< Cells.
  NoiseSource noise{.width = 26, .octaves = 2};
  std::optional<Mask> mask;
  bool operator==(const Overhang&) const = default;
};

/// Material of a depth layer that stands for whatever the bands say.
inline constexpr const char* kSurfaceId = "surface";

/// Blocks below the surface, from the top down; each begins where the one before ends. Its
/// thickness in cells is floor(thickness + vary * field), not below 0.
struct DepthLayer {
  std::string id;
  std::string material = kSurfaceId;  ///< Id of a material, kUnassignedId or kSurfaceId.
  double thickness = 1;
  std::string field;  ///< Empty: the thickness is the same everywhere.
  double vary = 0;
  bool operator==(const DepthLayer&) const = default;
};

/// A bed of rock; the last one reaches down without end.
struct Bed {
  std::string id;
  std::string material;
  double thickness = 16;  ///< Cells; not used by the last.
  bool operator==(const Bed&) const = default;
};

/// What lies under the depth layers: beds stacked from an altitude downward. Whatever is above it
/// belongs to the first.
struct Rock {
  double top = 0;    ///< Altitude of the first bed's upper side.
  std::string bend;  ///< Field that lifts all beds; empty: they lie level.
  double lift = 0;   ///< Cells per unit of the field.
  std::vector<Bed> beds;
  bool operator==(const Rock&) const = default;
};

/// Bodies of ore in rock.
struct Ore {
  enum class Shape {
    Pocket,  ///< A ball of `radius` cells, each between 3/4 and 5/4 of it.
    Vein     ///< A bent spindle `length` cells long (each between half and one and a half times),
             ///< `radius` cells at its thickest.
  };
  std::string id;
  bool on = true;
  std::string material;
  std::vector<std::string> hosts;  ///< Materials of beds that it replaces; empty: all of them.
  double share = 0.01;             ///< Of the host rock within the vertical range.
  Shape shape = Shape::Pocket;
  double radius = 2.5;
  double length = 24;
  Curve curve;  ///< How much of it lies at which altitude, in relation; empty: alike everywhere.
  bool operator==(const Ore&) const = default;
};

/// The sea of worlds made of blocks: whatever is open below the sea level holds it.
struct SeaWater {
  std::string material;  ///< Empty: none.
  bool operator==(const SeaWater&) const = default;
};

}  // namespace acre
