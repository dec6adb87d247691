/// The recipe: everything that describes a world, as plain values. Reading and writing its JSON
/// form is in recipe/json.h; what values are accepted is in recipe/validate.h.
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <variant>
#include <vector>

#include "base/coords.h"

namespace acre {

enum class WorldKind { Overland };

/// The cells of one axis that exist: [min, min + extent).
struct AxisBounds {
  int64_t min = 0;
  int64_t extent = 1;
  bool operator==(const AxisBounds&) const = default;
};

/// The first stage: what kind of world, cut into what chunks, within what bounds.
struct Frame {
  WorldKind kind = WorldKind::Overland;
  int32_t chunkSize = 32;       ///< Cells per chunk side.
  double seaLevel = 0;          ///< Altitude in cells; bands may refer to it.
  std::optional<AxisBounds> x;  ///< Nothing: endless.
  std::optional<AxisBounds> z;
  bool operator==(const Frame&) const = default;
};

struct Colour {
  uint8_t red = 0;
  uint8_t green = 0;
  uint8_t blue = 0;
  bool operator==(const Colour&) const = default;
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

/// Reserved material of cells that no rule covers.
inline constexpr const char* kUnassignedId = "unassigned";

struct ConstantSource {
  double value = 0;
  bool operator==(const ConstantSource&) const = default;
};

/// A fixed shift of the place where a layer is sampled, in cells, kept to 1/65536 cell.
struct SamplingOffset {
  double x = 0;
  double z = 0;
  bool operator==(const SamplingOffset&) const = default;
};

enum class Fractal { Single, Fbm };

/// Gradient noise, one octave or fBm; see docs/maths.md.
/// value = amplitude * sum over k of gain^k * noise_k + offset, with noise_k in [-1, 1].
struct GradientSource {
  Fractal fractal = Fractal::Fbm;
  double width = 96;      ///< Feature width of the first octave: cells per lattice cell.
  int octaves = 4;        ///< Used by fBm only.
  double lacunarity = 2;  ///< Frequency factor from one octave to the next; fBm only.
  double gain = 0.5;      ///< Amplitude factor from one octave to the next; fBm only.
  double amplitude = 10;  ///< Of the first octave, in the unit of the field.
  double offset = 0;      ///< Added to the layer, in the unit of the field.
  /// Nothing: scattered, a hashed shift per octave and axis, so that octaves do not vanish
  /// together.
  std::optional<SamplingOffset> sampling;
  bool operator==(const GradientSource&) const = default;

  int usedOctaves() const { return fractal == Fractal::Single ? 1 : octaves; }
};

/// How a layer joins the sum of the layers before it (which starts at 0).
enum class Combine { Add, Multiply };

struct Layer {
  std::string id;  ///< Stable; the layer's sub-seed comes from it, not from place or name.
  std::string name;
  bool on = true;
  Combine combine = Combine::Add;
  std::variant<GradientSource, ConstantSource> source;
  bool operator==(const Layer&) const = default;
};

/// An altitude, absolute or measured from the sea level.
struct Threshold {
  double value = 0;
  bool fromSea = false;
  bool operator==(const Threshold&) const = default;
};

/// All heights below `below` that no earlier band took. The last band has no upper end.
struct Band {
  std::string id;
  std::optional<Threshold> below;
  std::string material;  ///< Id of a material, or kUnassignedId for a gap.
  bool operator==(const Band&) const = default;
};

struct Recipe {
  int generation = 0;  ///< Which set of algorithms; a release never changes one silently.
  std::string name = "Untitled";
  std::string seed = "1";
  Frame frame;
  std::vector<Material> materials;
  std::vector<Layer> heights;
  std::vector<Band> bands;
  bool operator==(const Recipe&) const = default;
};

/// The altitude that a threshold stands for. Computed in double, rounded to float once.
inline float altitudeOf(const Threshold& threshold, double seaLevel) {
  return static_cast<float>(threshold.fromSea ? seaLevel + threshold.value : threshold.value);
}

/// The cells of a bounded world; axes without bounds reach from -kMaxCell to +kMaxCell.
Rect boundsOf(const Frame& frame);

/// An id of the form "stem-N" that `taken` does not hold yet, N above every N in use.
std::string freshId(const std::string& stem, const std::vector<std::string>& taken);

}  // namespace acre
