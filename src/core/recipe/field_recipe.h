/// Fields as plain values: layers, what each may be made of, and how they join.
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <variant>
#include <vector>

namespace acre {

// ---- what a layer may be -----------------------------------------------------------------------

enum class Basis {
  Gradient,     ///< Perlin 2002 fade, hashed gradients; see docs/maths.md.
  Value,        ///< Random values on the lattice, faded.
  Simplex,      ///< Perlin 2001 on the simplex lattice, after Gustavson's description.
  Cellular,     ///< Worley 1996.
  White,        ///< One value per lattice cell.
  Gradient2002  ///< The published permutation table: ignores the seed, repeats every 256 features.
};
enum class Fractal {
  Single,   ///< One octave.
  Fbm,      ///< Octaves n_k summed.
  Ridged,   ///< Octaves 1 - 2|n_k| summed.
  Billowed  ///< Octaves 2|n_k| - 1 summed.
};
enum class CellularResult { First, Second, Difference, Site };
enum class Metric { Euclidean, Manhattan, Chebyshev };

/// Coherent noise. raw = sum over k of gain^k * shape(noise_k); one octave of every basis keeps
/// within [-1, 1], except cellular distances, which start at 0 and are in feature widths.
struct NoiseSource {
  Basis basis = Basis::Gradient;
  Fractal fractal = Fractal::Fbm;
  double width = 96;      ///< Feature width of the first octave: cells per lattice cell.
  int octaves = 4;        ///< Not used by Single.
  double lacunarity = 2;  ///< Frequency factor from one octave to the next.
  double gain = 0.5;      ///< Amplitude factor from one octave to the next.
  bool rotate = false;    ///< Turns each octave against the one before, which hides the lattice.
  CellularResult result = CellularResult::First;
  Metric metric = Metric::Euclidean;
  double jitter = 1;  ///< 0: sites in the middle of their squares; 1: anywhere in them.
  bool operator==(const NoiseSource&) const = default;

  int usedOctaves() const { return fractal == Fractal::Single ? 1 : octaves; }
};

/// Values of a noise, low <= v < high.
struct NoiseBand {
  NoiseSource noise{.width = 40, .octaves = 2};
  double low = -0.1;
  double high = 0.1;
  bool operator==(const NoiseBand&) const = default;
};

/// The same value everywhere.
struct ConstantSource {
  double value = 0;
  bool operator==(const ConstantSource&) const = default;
};

enum class Axis { X, Z, Y };

/// 0 up to cell `from` of one axis, 1 from cell `to` on, straight between. to may lie below from.
struct RampSource {
  Axis axis = Axis::Z;
  double from = 0;
  double to = 1000;
  bool operator==(const RampSource&) const = default;
};

/// Straight distance to a point over `reach`, at most 1.
struct DistanceSource {
  double x = 0;
  double z = 0;
  double reach = 1000;
  bool operator==(const DistanceSource&) const = default;
};

/// 1 inside an outline about a point, 0 outside, straight over `edge` cells between.
struct IslandSource {
  bool square = false;
  double x = 0;
  double z = 0;
  double radius = 400;       ///< Cells from the middle to the outline (half the side of a square).
  double edge = 100;         ///< Width of the passage from 1 to 0, centred on the outline.
  double wobble = 0;         ///< How far the outline strays to either side, in cells.
  double wobbleWidth = 120;  ///< Feature width of the straying.
  bool operator==(const IslandSource&) const = default;
};

/// A greyscale PNG laid on the world: black 0, white 1.
struct PictureSource {
  enum class Outside { Value, Edge, Repeat };
  std::string file;  ///< Relative names start at Recipe::folder.
  double x = 0;      ///< Cell of the middle of the first pixel.
  double z = 0;
  double scale = 1;    ///< Cells per pixel.
  bool smooth = true;  ///< Bilinear between pixels; false: the nearest one.
  Outside outside = Outside::Edge;
  double outsideValue = 0;
  bool operator==(const PictureSource&) const = default;
};

/// Another field of the recipe.
struct FieldSource {
  std::string field;
  bool operator==(const FieldSource&) const = default;
};

// The rest reshape the sum of the layers before them instead of bringing something of their own.

/// Steps of equal height: within each, `flat` of the way is level and the rest rises.
struct TerraceSource {
  double height = 10;
  double flat = 0.7;  ///< 0: nothing changes; 1: cliffs.
  bool operator==(const TerraceSource&) const = default;
};

/// The absolute value about a centre: |sum - centre|.
struct FoldSource {
  double centre = 0;
  bool operator==(const FoldSource&) const = default;
};

/// Straight map of one range to another; values outside are carried on beyond the new range.
struct RescaleSource {
  double fromLow = -1, fromHigh = 1;
  double toLow = 0, toHigh = 1;
  bool operator==(const RescaleSource&) const = default;
};

/// The sum through its own distribution: what p of the world lies below becomes p, in [0, 1).
struct EqualiseSource {
  bool operator==(const EqualiseSource&) const = default;
};

// And two more that climates are made of.

/// 0 at the equator, rising straight to 1 at `reach` cells to the north or south, 1 beyond.
struct LatitudeSource {
  double equator = 0;  ///< z of the equator.
  double reach = 20000;
  bool operator==(const LatitudeSource&) const = default;
};

/// The base height above the sea level, in cells; 0 at the sea and below. Reads the heights, so the
/// heights cannot read what holds it.
struct AltitudeSource {
  bool operator==(const AltitudeSource&) const = default;
};

/// Distance in cells to the nearest cell whose base height lies below the sea, over reach, at most
/// 1; 0 on water. Reads the heights as altitude does.
struct WaterSource {
  double reach = 64;  ///< 1 ... 256 cells.
  bool operator==(const WaterSource&) const = default;
};

/// A skyline along x: a walk whose slope changes by a draw per column. The same along z.
struct WalkSource {
  double low = -20;  ///< Limits of the height, or without limits what it starts between.
  double high = 40;
  double slope = 1;      ///< Most cells of rise per cell.
  double change = 0.25;  ///< Most that the slope changes per cell.
  bool limits = true;    ///< The walk turns back at its limits.
  bool operator==(const WalkSource&) const = default;
};

/// What the stage Water says of a cell. The heights, the climate and what decides on biomes come
/// before that stage and cannot read what holds it.
struct FreshWaterSource {
  enum class Tells {
    Shore,  ///< Cells to the nearest river or lake, 0 in it, at most 46.
    Level,  ///< How far its surface lies above the sea, in cells; 0 outside.
    Mark    ///< A hash in [0, 1) of the node that the water belongs to; 0 outside.
  };
  Tells tells = Tells::Shore;
  bool operator==(const FreshWaterSource&) const = default;
};

using Source = std::variant<NoiseSource, ConstantSource, RampSource, DistanceSource, IslandSource,
    PictureSource, FieldSource, TerraceSource, FoldSource, RescaleSource, EqualiseSource,
    LatitudeSource, AltitudeSource, WaterSource, WalkSource, FreshWaterSource>;

/// True for the sources that take the sum before them as their input.
inline bool reshapes(const Source& source) {
  return std::holds_alternative<TerraceSource>(source) ||
         std::holds_alternative<FoldSource>(source) ||
         std::holds_alternative<RescaleSource>(source) ||
         std::holds_alternative<EqualiseSource>(source);
}

/// A fixed shift of the place where a layer is sampled, in cells, kept to 1/65536 cell.
struct SamplingOffset {
  double x = 0;
  double z = 0;
  bool scatter = false;  ///< Besides, scattered by the seed as without an offset.
  bool operator==(const SamplingOffset&) const = default;
};

// ---- what a layer does with it -----------------------------------------------------------------

/// How a layer joins the sum of the layers before it (which starts at 0).
enum class Combine {
  Add,
  Multiply,
  Subtract,
  Minimum,
  Maximum,
  SmoothMinimum,  ///< Polynomial, blended over `amount`.
  SmoothMaximum,
  Mix,  ///< sum + amount * (value - sum).
  Replace
};

/// Whether a way to join layers has an amount of its own.
inline bool hasAmount(Combine combine) {
  return combine >= Combine::SmoothMinimum && combine <= Combine::Mix;
}

/// Where a layer acts: fully where the field lies in [low, high), not at all beyond the soft edges.
struct Mask {
  std::string field;
  std::optional<double> low;  ///< Nothing: endless.
  std::optional<double> high;
  double soft = 0;  ///< Width of the edges in the field's unit, centred on low and high.
  bool operator==(const Mask&) const = default;
};

/// Shifts the place where a layer is sampled by noise of its own: p' = p + cells * w(p), and with
/// more passes p'' = p + cells * w(p').
struct Warp {
  NoiseSource noise;
  double cells = 20;  ///< Largest shift by the first octave.
  int passes = 1;     ///< 1 ... 3.
  bool operator==(const Warp&) const = default;
};

struct CurvePoint {
  double x = 0;
  double y = 0;
  bool operator==(const CurvePoint&) const = default;
};
/// A monotone cubic through points of rising x; level beyond the first and the last. Monotone
/// between any two points. [Fritsch, Carlson: "Monotone piecewise cubic interpolation", 1980]
using Curve = std::vector<CurvePoint>;

struct Clamp {
  double low = 0;
  double high = 1;
  bool operator==(const Clamp&) const = default;
};

/// value = clamp(curve(equalise(source)) * amplitude + offset), joined to the sum as far as the
/// mask lets it.
struct Layer {
  std::string id;  ///< Stable; the layer's sub-seed comes from it, not from place or name.
  std::string name;
  bool on = true;
  Combine combine = Combine::Add;
  double amount = 0.5;  ///< Share of Mix; blending range of the smooth minimum and maximum.
  Source source;
  double amplitude = 1;
  double offset = 0;
  /// Nothing: scattered, a hashed shift per octave and axis, so that octaves do not vanish
  /// together. Sources other than noise know no scattering.
  std::optional<SamplingOffset> sampling;
  std::optional<Warp> warp;
  bool equalise = false;
  Curve curve;  ///< Empty: none.
  std::optional<Clamp> clamp;
  std::optional<Mask> mask;
  std::string note;  ///< For people.
  bool operator==(const Layer&) const = default;
};

/// A named function of position: layers joined in order to a sum that starts at 0, then a curve
/// and a clamp.
struct FieldRecipe {
  std::string id;
  std::string name;
  std::vector<Layer> layers;
  Curve curve;
  std::optional<Clamp> clamp;
  bool operator==(const FieldRecipe&) const = default;
};

/// Ids of the fields of the Heights and Climate stages.
inline constexpr const char* kHeightsId = "heights";
inline constexpr const char* kTemperatureId = "temperature";
inline constexpr const char* kMoistureId = "moisture";

}  // namespace acre
