/// Pictures from above: colours for samples. The map of the application and the command paint with
/// the same functions, so their pixels are equal.
#pragma once

#include <cstdint>
#include <string>
#include <vector>

#include "base/result.h"
#include "world/world.h"

namespace acre {

enum class PictureKind {
  Composite,  ///< Material colours under relief shading (liquids flat).
  Height,     ///< Height tints in classes about the sea level.
  Material    ///< Material colours alone.
};

/// From "composite", "height", "material".
Result<PictureKind> pictureKindNamed(const std::string& name);
const char* nameOf(PictureKind kind);

/// Samples of a grid and of one sample more on every side.
struct Samples {
  SampleGrid inner;
  std::vector<float> heights;            ///< (width + 2) * (height + 2)
  std::vector<MaterialIndex> materials;  ///< The same shape.

  ptrdiff_t stride() const { return inner.width + 2; }
  uint64_t bytes() const {
    return heights.size() * sizeof(float) + materials.size() * sizeof(MaterialIndex);
  }
};

/// Generates the samples of a grid with its rim.
Result<Samples> sampleWithRim(const World& world, const SampleGrid& grid,
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

/// Colours that depend on the world alone; cheap to copy.
class Palette {
 public:
  explicit Palette(const World& world);

  /// Paints row `j` of the samples: inner.width words 0xAARRGGBB.
  void paintRow(PictureKind kind, const Samples& samples, int32_t j, Unassigned unassigned,
                uint32_t* argb) const;

  /// One class of height tints: all heights below `below`; the last one has none above.
  struct Tint {
    float below;
    uint32_t argb;
  };
  const std::vector<Tint>& heightTints() const { return tints_; }

 private:
  struct Ink {
    uint32_t argb;
    bool flat;  // Not shaded.
  };
  std::vector<Ink> inks_;  // By material index.
  std::vector<Tint> tints_;
};

}  // namespace acre
