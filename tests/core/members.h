/// All members of the recipe's structs, by name. Each list is a structured binding, so that a
/// struct with one member more or less does not compile here: nobody can forget one.
#pragma once

#include <memory>
#include <optional>
#include <string>
#include <string_view>
#include <type_traits>
#include <variant>
#include <vector>

#include "recipe/cave_recipe.h"
#include "recipe/level_recipe.h"
#include "recipe/object_recipe.h"
#include "recipe/recipe.h"
#include "recipe/tile_recipe.h"
#include "recipe/water_recipe.h"

namespace acre::members {

/// Calls visit(name, member) for each; names: "a, b, c".
template <class F, class... M>
void named(F& visit, std::string_view names, M&... members) {
  const auto next = [&] {
    const size_t end = std::min(names.find(','), names.size());
    const std::string_view name = names.substr(0, end);
    names.remove_prefix(std::min(end + 2, names.size()));
    return name;
  };
  (visit(next(), members), ...);
}

/// The names of all structs below.
inline std::vector<std::string>& all() {
  static std::vector<std::string> names;
  return names;
}
inline bool list(const char* name) {
  return all().emplace_back(name), true;
}

/// Nothing to look into.
template <class T>
struct Of {
  static constexpr bool known = false;
};

#define ACRE_MEMBERS(Type, ...)                   \
  template <>                                     \
  struct Of<Type> {                               \
    static constexpr bool known = true;           \
    static constexpr const char* name = #Type;    \
    static inline const bool listed = list(name); \
    template <class F>                            \
    static void each(Type& of_, F&& visit_) {     \
      auto& [__VA_ARGS__] = of_;                  \
      named(visit_, #__VA_ARGS__, __VA_ARGS__);   \
    }                                             \
  };
/// Of a struct without members.
#define ACRE_NO_MEMBERS(Type)                     \
  template <>                                     \
  struct Of<Type> {                               \
    static_assert(std::is_empty_v<Type>);         \
    static constexpr bool known = true;           \
    static constexpr const char* name = #Type;    \
    static inline const bool listed = list(name); \
    template <class F>                            \
    static void each(Type&, F&&) {}               \
  };

ACRE_MEMBERS(AxisBounds, min, extent)
ACRE_MEMBERS(Frame, kind, chunkSize, seaLevel, seaShare, x, z, y, shape)
ACRE_MEMBERS(Colour, red, green, blue)
ACRE_MEMBERS(Material, id, name, colour, state)
ACRE_MEMBERS(AxisScale, low, high, unit, unitLow, unitHigh)
ACRE_MEMBERS(Climate, on, temperature, moisture)
ACRE_MEMBERS(Recipe, generation, name, seed, frame, materials, fields, heights, heightsOn, fillDown,
    overhang, climate, biomes, slopes, bands, strataOn, layers, rock, ores, water, rivers, caves,
    level, objects, tiles, notes, edits, folder)
ACRE_MEMBERS(
    Notes, world, frame, heights, climate, biomes, level, water, strata, caves, objects, tiles)

ACRE_MEMBERS(
    NoiseSource, basis, fractal, width, octaves, lacunarity, gain, rotate, result, metric, jitter)
ACRE_MEMBERS(ConstantSource, value)
ACRE_MEMBERS(RampSource, axis, from, to)
ACRE_MEMBERS(DistanceSource, x, z, reach)
ACRE_MEMBERS(IslandSource, square, x, z, radius, edge, wobble, wobbleWidth)
ACRE_MEMBERS(PictureSource, file, x, z, scale, smooth, outside, outsideValue)
ACRE_MEMBERS(FieldSource, field)
ACRE_MEMBERS(TerraceSource, height, flat)
ACRE_MEMBERS(FoldSource, centre)
ACRE_MEMBERS(RescaleSource, fromLow, fromHigh, toLow, toHigh)
ACRE_NO_MEMBERS(EqualiseSource)
ACRE_MEMBERS(LatitudeSource, equator, reach)
ACRE_NO_MEMBERS(AltitudeSource)
ACRE_MEMBERS(WaterSource, reach)
ACRE_MEMBERS(WalkSource, low, high, slope, change, limits)
ACRE_MEMBERS(FreshWaterSource, tells)
ACRE_MEMBERS(SamplingOffset, x, z, scatter)
ACRE_MEMBERS(Mask, field, low, high, soft)
ACRE_MEMBERS(Warp, noise, cells, passes)
ACRE_MEMBERS(CurvePoint, x, y)
ACRE_MEMBERS(Clamp, low, high)
ACRE_MEMBERS(Layer, id, name, on, combine, amount, source, amplitude, offset, sampling, warp,
    equalise, curve, clamp, mask, note)
ACRE_MEMBERS(FieldRecipe, id, name, layers, curve, clamp)

ACRE_MEMBERS(Threshold, value, fromSea, share)
ACRE_MEMBERS(Edge, kind, width, squared, feature)
ACRE_MEMBERS(Band, id, below, material, edge)
ACRE_MEMBERS(SlopeBand, id, from, above, below, material)

ACRE_MEMBERS(Relief, factor, raise, rough)
ACRE_MEMBERS(IdealPoint, x, y, altitude, weight)
ACRE_MEMBERS(Biome, id, name, colour, tags, relief, bands, bandsOf, layers, layersOf, ideal, weight)
ACRE_MEMBERS(Slice, id, name, below, biome)
ACRE_MEMBERS(Span, low, high)
ACRE_MEMBERS(Painting, columns, rows, biomes, cells)
ACRE_MEMBERS(Area, id, biome, slices, x, y, painting)
ACRE_MEMBERS(ChartAxis, field, low, high)
ACRE_MEMBERS(BorderWidths, chart, ground, altitude)
ACRE_MEMBERS(RegionWarp, cells, noise, x, z)
ACRE_MEMBERS(Regions, on, size, jitter, choice, warp, islets)
ACRE_MEMBERS(
    Biomes, on, rules, x, y, altitudeReach, slices, areas, list, border, coast, roughness, regions)

ACRE_MEMBERS(Overhang, on, reach, amount, noise, mask)
ACRE_MEMBERS(DepthLayer, id, material, thickness, field, vary)
ACRE_MEMBERS(Bed, id, material, thickness)
ACRE_MEMBERS(Rock, top, bend, lift, beds)
ACRE_MEMBERS(Ore, id, on, material, hosts, share, shape, radius, length, curve)
ACRE_MEMBERS(SeaWater, material)
ACRE_MEMBERS(CourseStop, x, z)
ACRE_MEMBERS(GivenCourse, id, stops)
ACRE_MEMBERS(RiverCourses, count, region, step, diagonal, feature, field, borders, share, climb,
    width, carve, winding, join, given)
ACRE_MEMBERS(Rivers, on, spring, lakes, closed, carve, growth, widest, depth, valley, sides,
    meander, water, bed, bank, bankReach, wet, wetReach, courses)

ACRE_MEMBERS(NoiseBand, noise, low, high)
ACRE_MEMBERS(NoiseVoid, id, on, first, second, curve, underSea)
ACRE_MEMBERS(Tunnels, id, on, spacing, share, depth, depthVary, step, side, up, length, arms, arm,
    independent, apart, gap, noise, shift, bore, boreVary, rough, mouths, mouth, flooded, water)
ACRE_MEMBERS(
    AutomatonLayer, id, on, volume, rule, fill, steps, floors, tall, bottom, top, edge, cover)
ACRE_MEMBERS(CaveKind, id, name, from, to, wetFrom, wetTo, floor, wall)
ACRE_MEMBERS(Caves, on, seaCover, voids, tunnels, automata, kinds, opening)

ACRE_MEMBERS(BiomeDensity, biome, density)
ACRE_MEMBERS(ObjectApart, kind, cells)
ACRE_MEMBERS(PieceLayer, rows)
ACRE_MEMBERS(PieceSign, sign, material)
ACRE_MEMBERS(PieceAnchor, x, z)
ACRE_MEMBERS(ObjectPiece, id, name, layers, signs, anchor, sink, fill, follow, cuts, over, turns,
    mirror, cover)
ACRE_MEMBERS(ObjectAttribute, name, value)
ACRE_MEMBERS(ObjectChoice, id, name, weight, piece, tree, attributes, biomes, floors, field, within)
ACRE_MEMBERS(TreeStyle, id, name, variants, crown, height, radius, base, vary, hollow, lobes, tiers,
    points, influence, kill, segment, leader, up, swirl, lean, twist, droop, lies, twig, thickest,
    wood, leaves, leafReach, leafWide, leafTall, leafFill, leaf, over, wind, toward)
ACRE_MEMBERS(ObjectFooting, radius, rise)
ACRE_MEMBERS(ObjectMust, square, forced)
ACRE_MEMBERS(ObjectNoise, process, within)
ACRE_MEMBERS(ObjectKind, id, name, on, sign, ink, density, biomes, distance, amount, curve, must,
    apart, beside, stands, caves, ground, altitude, slope, shore, wall, mouth, floors, wet, field, within,
    noise, footing, piece, tree, what, attributes)
ACRE_MEMBERS(Objects, on, pieces, trees, kinds)

ACRE_MEMBERS(TileDrawing, size, inside, edge, style, width, joined)
ACRE_MEMBERS(TilePicture, file, columns, cell, anchor, order)
ACRE_MEMBERS(TileCaseWeights, number, weights)
ACRE_MEMBERS(TileSet, id, name, method, turns, weights, cases, drawn, picture, without)
ACRE_MEMBERS(TileGroup, on, id, name, materials, set, rim)
ACRE_MEMBERS(Tiling, on, sets, groups)

ACRE_MEMBERS(Amount, at, perFloor)
ACRE_MEMBERS(NoiseWalls, refill, band)
ACRE_MEMBERS(FilledAutomaton, refill, fill, rule, steps, edge)
ACRE_MEMBERS(DiggingWalks, walkers, steps, turn, radius, untilOpen)
ACRE_MEMBERS(LevelBody, round, floods, size, inward, smooth)
ACRE_MEMBERS(LevelRooms::Piece, id, text, file, share)
ACRE_MEMBERS(LevelRooms, pieces, count, distance, turn)
ACRE_MEMBERS(LevelSpaces, least, join)
ACRE_MEMBERS(LevelCourses, count, dig, feature, share, winding, join, material)
ACRE_MEMBERS(LevelProcess, id, name, on, what)
ACRE_MEMBERS(LevelPlace, id, name, material, mark, clear, from, least, most, reachable)
ACRE_MEMBERS(Level, on, floor, firstFloor, lastFloor, margin, walls, open, processes, places)

/// An axis of the climate: a scale, and a field besides.
template <>
struct Of<ClimateAxis> {
  static_assert(sizeof(ClimateAxis) == sizeof(AxisScale) + sizeof(FieldRecipe));
  static constexpr bool known = true;
  static constexpr const char* name = "ClimateAxis";
  static inline const bool listed = list(name);
  template <class F>
  static void each(ClimateAxis& value, F&& visit) {
    visit(std::string_view("scale"), static_cast<AxisScale&>(value));
    visit(std::string_view("field"), value.field);
  }
};

#undef ACRE_MEMBERS
#undef ACRE_NO_MEMBERS

}  // namespace acre::members
