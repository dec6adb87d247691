/// Pictures from above: colours for samples. The map of the application and the command paint with
/// the same functions, so their pixels are equal.
#pragma once

#include <cstdint>
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "base/result.h"
#include "output/ground_scale.h"
#include "output/shading.h"
#include "world/plan.h"

namespace acre {

enum class PictureKind {
  // Of things, told apart by colour:
  Composite,  ///< Material colours under relief shading, water by its depth.
  Material,   ///< Material colours alone.
  Biome,      ///< Biome colours under relief shading, their borders as lines.
  Region,     ///< Voronoi regions in a few tones, their borders as lines.
  Uncovered,  ///< Cells that no rule of the chart covers, hatched; the rest pale.
  Slice,      ///< What is at one level of altitude: materials of blocks, open space pale.
  Water,      ///< Sea, lakes and rivers on pale ground under relief shading.
  Basin,      ///< Land by where its water leaves it, in a few tones, with lines between them.
  // Of numbers:
  Height,   ///< Height tints in classes about the sea level.
  Base,     ///< Base height, before the biomes shape it, in the same tints.
  Surface,  ///< Height, or the level of the water over it, in the same tints.
  Grey,     ///< Heights from dark (low) to light (high).
  Slope,    ///< Rise per cell, from level (light) to steep (dark).
  Border,   ///< Cells to the nearest border of regions.
  Flow,     ///< Bricks of land that drain through each brick, by their logarithm.
  Density,  ///< How many of a kind of objects are asked for in 1,000 cells.
  Field,    ///< Any field, from dark to light.
  Layer     ///< One layer of a field before it joins the others.
};

/// What a picture shows.
struct Picture {
  PictureKind kind = PictureKind::Composite;
  std::string field;     ///< Field and Layer: the field's id; Density: the kind's.
  std::string layer;     ///< Layer: its id.
  bool borders = false;  ///< Borders of biomes as lines, over any picture.
  int64_t level = 0;     ///< Slice: the level y.
  /// The land before water is cut into it: what there is at once where rivers are not found yet.
  bool beforeWater = false;
  bool beforeObjects = false;  ///< The same of the cells of objects.
  bool operator==(const Picture&) const = default;

  /// The picture is made of numbers, not of things.
  bool isData() const { return kind >= PictureKind::Height; }
  /// Samples carry marks, whose changes are borders.
  bool hasMarks() const {
    return borders || kind == PictureKind::Biome || kind == PictureKind::Region ||
           kind == PictureKind::Basin;
  }
  /// Samples carry depths of water.
  bool hasDepths() const { return kind == PictureKind::Composite; }
  /// Tints of heights, in classes.
  bool isTinted() const {
    return kind == PictureKind::Height || kind == PictureKind::Base || kind == PictureKind::Surface;
  }
  /// Needs the stage Water to be on.
  bool ofWater() const {
    return kind == PictureKind::Water || kind == PictureKind::Basin ||
           kind == PictureKind::Surface || kind == PictureKind::Flow;
  }
  /// Needs biomes that are on.
  bool ofBiomes() const {
    return borders || kind == PictureKind::Biome || kind == PictureKind::Region ||
           kind == PictureKind::Uncovered || kind == PictureKind::Border;
  }
};

/// Names of pictures for messages and help.
inline constexpr const char* kPictureNames =
    "composite, material, biome, region, uncovered, slice:Y, water, basin, height, base, surface, "
    "grey, slope, border, flow, density:KIND, temperature, moisture, field:ID, layer:ID, "
    "layer:FIELD/ID";

/// From one of kPictureNames; layer:ID is of the heights.
Result<Picture> pictureNamed(const std::string& name);
std::string nameOf(const Picture& picture);
/// Refuses a picture of a field, layer or stage that the world does not have or that is off.
Status checkPicture(const World& world, const Picture& picture);

/// Samples of a grid and of one sample more on every side.
struct Samples {
  SampleGrid inner;
  std::vector<float> values;  ///< Heights, or what the picture shows.
  /// What is there, in the same shape, (width + 2) * (height + 2): index of the material, of the
  /// biome in pictures of biomes, of the tone in those of regions and basins, 1 for covered, 1 +
  /// WaterKind in pictures of water.
  std::vector<MaterialIndex> things;
  std::vector<uint32_t> marks;  ///< Biome, region or basin; empty unless the picture has marks.
  std::vector<float> depths;    ///< Of water over the ground, 0: dry; empty unless it is shown.

  ptrdiff_t stride() const { return inner.width + 2; }
  void resize(const Picture& picture);
  uint64_t bytes() const {
    return values.size() * sizeof(float) + things.size() * sizeof(MaterialIndex) +
           marks.size() * sizeof(uint32_t) + depths.size() * sizeof(float);
  }
};

/// Where samples go; marks and depths may be nullptr when the picture has none.
struct SampleArrays {
  float* values = nullptr;
  MaterialIndex* things = nullptr;
  uint32_t* marks = nullptr;
  ptrdiff_t stride = 0;
  float* depths = nullptr;
};
/// Those of samples, from one of them on.
SampleArrays arraysOf(Samples& samples, ptrdiff_t from = 0);

/// Generates what a picture needs over a grid. Outside the world there is the thing kOutside.
Status samplePicture(const World& world, const Picture& picture, const SampleGrid& grid,
    const SampleArrays& out, const std::stop_token& stop = {});
/// Generates the samples of a grid with its rim.
Result<Samples> sampleWithRim(const World& world, const Picture& picture, const SampleGrid& grid,
    const std::stop_token& stop = {});
/// The grid with one sample more on every side.
SampleGrid withRim(const SampleGrid& grid);

// Fixed colours of every picture, 0xAARRGGBB.
inline constexpr uint32_t kPaperColour = kPaperInk;  ///< Outside the world.
inline constexpr uint32_t kOpenColour = 0xFFF1ECDD;  ///< Open space in slices.
inline constexpr uint32_t kHatchInk = kPenInk;
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
  static constexpr double kRelief = 0.8;
  double light = 315;       ///< Degrees clockwise from north that the main light comes from.
  double contours = 0;      ///< Altitude between contour lines drawn into the picture; 0: none.
  double relief = kRelief;  ///< How much of the light slopes take or miss, 0 (none) to 1.
  /// By what ground is scaled; nothing: by what the world itself has. Another world's makes two
  /// pictures comparable.
  std::shared_ptr<const GroundScale> scale = nullptr;
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
  /// Of Flow their logarithms to the base 2.
  float low() const { return low_; }
  float high() const { return high_; }
  uint32_t greyAt(float value) const;
  /// Colour of a thing, unshaded.
  uint32_t thingColour(MaterialIndex thing) const { return inks_[thing].argb; }

 private:
  struct Ink {
    uint32_t argb;
    bool flat;            // Not shaded.
    bool liquid = false;  // A material that is one.
  };
  Picture picture_;
  Style style_;
  std::shared_ptr<const GroundScale> waters_;  // Whose inks of water these materials have.
  ReliefLight light_;
  std::vector<Ink> inks_;  // By index of the thing.
  float sea_ = 0;
  std::vector<Tint> tints_;
  float low_ = 0, high_ = 1;
};

/// The tones of pictures of regions, by region hash.
inline constexpr int kRegionTones = 7;
uint32_t regionTone(int tone);

}  // namespace acre
