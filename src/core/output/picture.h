/// Pictures from above: colours for samples. The map of the application and the command paint with
/// the same functions, so their pixels are equal.
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "base/result.h"
#include "world/world.h"

namespace acre {

enum class PictureKind {
  Composite,  ///< Material colours under relief shading (liquids flat).
  Height,     ///< Height tints in classes about the sea level.
  Grey,       ///< Heights from dark (low) to light (high).
  Slope,      ///< Rise per cell, from level (light) to steep (dark).
  Material,   ///< Material colours alone.
  Field,      ///< Any field, from dark to light.
  Layer       ///< One layer of a field before it joins the others.
};

/// What a picture shows.
struct Picture {
  PictureKind kind = PictureKind::Composite;
  std::string field;  ///< Field and Layer: the field's id.
  std::string layer;  ///< Layer: its id.
  bool operator==(const Picture&) const = default;

  /// The picture is made of numbers, not of materials.
  bool isData() const { return kind != PictureKind::Composite && kind != PictureKind::Material; }
};

/// From "composite", "height", "grey", "slope", "material", "field:ID", "layer:ID" (of the
/// heights) and "layer:FIELD/ID".
Result<Picture> pictureNamed(const std::string& name);
std::string nameOf(const Picture& picture);
/// Refuses a picture of a field or layer that the world does not have or that is switched off.
Status checkPicture(const World& world, const Picture& picture);

/// Samples of a grid and of one sample more on every side.
struct Samples {
  SampleGrid inner;
  std::vector<float> values;             ///< Heights, or what the picture shows.
  std::vector<MaterialIndex> materials;  ///< The same shape, (width + 2) * (height + 2).

  ptrdiff_t stride() const { return inner.width + 2; }
  void resize();
  uint64_t bytes() const {
    return values.size() * sizeof(float) + materials.size() * sizeof(MaterialIndex);
  }
};

/// Generates what a picture needs over a grid. Outside the world the material is kOutside.
Status samplePicture(const World& world, const Picture& picture, const SampleGrid& grid,
                     float* values, MaterialIndex* materials, const std::stop_token& stop,
                     ptrdiff_t stride);
/// Generates the samples of a grid with its rim.
Result<Samples> sampleWithRim(const World& world, const Picture& picture, const SampleGrid& grid,
                              const std::stop_token& stop = {});
/// The grid with one sample more on every side.
SampleGrid withRim(const SampleGrid& grid);

// Fixed colours of every picture, 0xAARRGGBB.
inline constexpr uint32_t kPaperColour = 0xFFFBF9F3;  ///< Outside the world.
inline constexpr uint32_t kHatchInk = 0xFF1F2D3A;
inline constexpr uint32_t kHatchPaper = 0xFFFFFFFF;

/// Ink or paper of the fault hatch (45 degrees, 3 px ink, 5 px white) at a pixel of the map.
constexpr uint32_t hatchAt(int64_t px, int64_t pz) {
  return floorMod(px + pz, 8) < 3 ? kHatchInk : kHatchPaper;
}

/// How unassigned cells are painted.
enum class Unassigned {
  Hatched,     ///< In place; the phase belongs to the map.
  Transparent  ///< 0x00000000, for callers that hatch at the screen's resolution.
};

/// How ground is drawn, besides what it is.
struct Style {
  double light = 315;   ///< Degrees clockwise from north that the light comes from.
  double contours = 0;  ///< Altitude between contour lines drawn into the picture; 0: none.
  bool operator==(const Style&) const = default;
};

/// Colours that depend on the world and the picture alone; cheap to copy.
class Palette {
 public:
  Palette(const World& world, const Picture& picture, const Style& style = {});

  /// Paints row `j` of the samples: inner.width words 0xAARRGGBB.
  void paintRow(const Samples& samples, int32_t j, Unassigned unassigned, uint32_t* argb) const;

  /// One class of height tints: all heights below `below`; the last one has none above.
  struct Tint {
    float below;
    uint32_t argb;
  };
  const std::vector<Tint>& heightTints() const { return tints_; }
  /// Values drawn darkest and lightest in pictures of numbers: the range that 4,096 cells spread
  /// over the world reach.
  float low() const { return low_; }
  float high() const { return high_; }
  uint32_t greyAt(float value) const;

 private:
  struct Ink {
    uint32_t argb;
    bool flat;  // Not shaded.
  };
  Picture picture_;
  Style style_;
  float lightX_, lightZ_;
  std::vector<Ink> inks_;  // By material index.
  std::vector<Tint> tints_;
  float low_ = 0, high_ = 1;
};

/// 1, 2 or 5 times a power of ten, at least `v`.
double niceStep(double v);

}  // namespace acre
