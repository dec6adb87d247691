/// The Biomes stage as plain values: the chart, the biomes on it, and the Voronoi regions it may be
/// laid on.
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "recipe/block_recipe.h"
#include "recipe/field_recipe.h"
#include "recipe/strata_recipe.h"

namespace acre {

struct Colour {
  uint8_t red = 0;
  uint8_t green = 0;
  uint8_t blue = 0;
  bool operator==(const Colour&) const = default;
};

/// What a biome does to the base height r above the sea: r * factor + raise + rough * noise, the
/// last two growing from nothing at the coast. Land stays land and sea stays sea.
struct Relief {
  double factor = 1;  ///< Below 1 flattens, above 1 steepens.
  double raise = 0;   ///< Cells.
  double rough = 0;   ///< Amplitude of the stage's roughness in cells.
  bool operator==(const Relief&) const = default;
};

/// Where on the chart a biome is at its best. Of all biomes with a point, the one nearest in
/// distance over weight takes the cell.
struct IdealPoint {
  double x = 0;  ///< Values of the two chart fields.
  double y = 0;
  std::optional<double> altitude;  ///< Cells above the sea; nothing: at home at any.
  double weight = 1;               ///< 2 reaches twice as far.
  bool operator==(const IdealPoint&) const = default;
};

struct Biome {
  std::string id;
  std::string name;
  Colour colour;
  std::vector<std::string> tags;  ///< For later stages.
  Relief relief;
  std::optional<std::vector<Band>> bands;         ///< Of its own; nothing: the general ones.
  std::string bandsOf;                            ///< Or those of another biome, by id.
  std::optional<std::vector<DepthLayer>> layers;  ///< Of its own; nothing: the general ones.
  std::string layersOf;                           ///< Or those of another biome, by id.
  std::optional<IdealPoint> ideal;
  double weight = 1;  ///< Odds among the biomes that regions draw from; 0 is never drawn.
  bool operator==(const Biome&) const = default;
};

/// A part of the chart by base height, from low to high: all altitudes below `below` that no
/// earlier slice took. The last has no upper end.
struct Slice {
  std::string id;
  std::string name;
  std::optional<Threshold> below;
  std::string biome;  ///< The whole slice is of this biome; empty: the chart decides.
  bool operator==(const Slice&) const = default;
};

/// The values [low, high); nothing: endless.
struct Span {
  std::optional<double> low;
  std::optional<double> high;
  bool operator==(const Span&) const = default;
};

/// A chart painted cell by cell, over the whole of both axes; the outermost cells are endless.
struct Painting {
  int columns = 32;
  int rows = 32;
  std::vector<std::string> biomes;
  std::vector<uint16_t> cells;  ///< By rows from low y: 0 nothing, k is biomes[k - 1].
  bool operator==(const Painting&) const = default;
};

/// One rule of the chart: a rectangle of one biome, or a painting. The first rule that covers a
/// value takes it.
struct Area {
  std::string id;
  std::string biome;                ///< Of a rectangle.
  std::vector<std::string> slices;  ///< Ids; empty: all.
  Span x;                           ///< Of a rectangle.
  Span y;
  std::optional<Painting> painting;
  bool operator==(const Area&) const = default;
};

/// One axis of the chart. The climate's own axes bring their range and unit with them.
struct ChartAxis {
  std::string field;
  double low = -1;  ///< Of any other field.
  double high = 1;
  bool operator==(const ChartAxis&) const = default;
};

enum class ChartRules { Areas, Points };

/// How wide biomes pass into each other where they change the height.
struct BorderWidths {
  double chart = 0.04;  ///< Share of the chart's width; where the chart decides per cell.
  double ground = 24;   ///< Cells; where regions decide.
  double altitude = 2;  ///< Cells; across the ends of slices.
  bool operator==(const BorderWidths&) const = default;
};

/// Shifts places before their region is looked up, by two fields times `cells`.
struct RegionWarp {
  double cells = 0;   ///< 0: borders are straight.
  NoiseSource noise;  ///< Of both shifts, with a seed each, unless fields are named.
  std::string x;      ///< Ids of two fields of the recipe, or both empty.
  std::string z;
  bool operator==(const RegionWarp&) const = default;
};

/// Voronoi regions, one site in every square.
struct Regions {
  enum class Choice {
    Climate,  ///< By the chart, from the two fields at the site and the altitude of the cell.
    Weights,  ///< Drawn by the biomes' weights.
    Cells     ///< By the chart cell by cell; regions are numbered only.
  };
  bool on = false;
  double size = 256;  ///< Side of a square in cells: the root of the mean area of a region.
  double jitter = 1;
  Choice choice = Choice::Climate;
  RegionWarp warp;
  int islets = 0;  ///< Pieces that warping cut off, of at most so many cells across, are given to
                   ///< the neighbour they touch most; 0: they stay.
  bool operator==(const Regions&) const = default;
};

struct Biomes {
  bool on = false;
  ChartRules rules = ChartRules::Areas;
  ChartAxis x{kTemperatureId};
  ChartAxis y{kMoistureId};
  double altitudeReach = 100;  ///< Cells that count as much as the whole width of the chart, for
                               ///< ideal points with an altitude.
  std::vector<Slice> slices;   ///< None: one, endless.
  std::vector<Area> areas;
  std::vector<Biome> list;
  BorderWidths border;
  double coast = 4;  ///< Altitudes over which raise and rough grow to their full size.
  NoiseSource roughness{.width = 28, .octaves = 3};
  Regions regions;
  bool operator==(const Biomes&) const = default;
};

}  // namespace acre
