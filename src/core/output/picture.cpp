#include "output/picture.h"

#include <algorithm>
#include <array>
#include <cmath>

#include "recipe/validate.h"

namespace acre {
namespace {

constexpr std::array kKindNames = {"composite", "height", "material"};

constexpr std::array<uint32_t, 7> kLandTints = {0xFF899572, 0xFFA2A67C, 0xFFBFB787, 0xFFD8C598,
                                                0xFFEAD4B2, 0xFFF3E3CD, 0xFFF9F3EA};
constexpr std::array<uint32_t, 5> kSeaTints = {0xFFA5C6D3, 0xFF82AFC3, 0xFF6497B0, 0xFF4C7D97,
                                               0xFF3A637B};

/// Relief shading multiplies linear light by a factor between these, so that colours stay apart.
constexpr float kDarkest = 0.85f;
constexpr float kBrightest = 1.10f;
/// Slopes are drawn as if the ground were this much steeper.
constexpr float kReliefExaggeration = 4.0f;

/// sRGB transfer, tabulated. Pictures decide no cell, so libm is welcome here.
struct Light {
  static constexpr int kSteps = 4096;
  std::array<float, 256> linear;
  std::array<uint8_t, kSteps + 1> encoded;
  Light() {
    for (size_t i = 0; i < 256; ++i) {
      const double v = static_cast<double>(i) / 255;
      linear[i] = static_cast<float>(v <= 0.04045 ? v / 12.92 : std::pow((v + 0.055) / 1.055, 2.4));
    }
    for (int i = 0; i <= kSteps; ++i) {
      const double v = static_cast<double>(i) / kSteps;
      const double s = v <= 0.0031308 ? v * 12.92 : 1.055 * std::pow(v, 1 / 2.4) - 0.055;
      encoded[static_cast<size_t>(i)] = static_cast<uint8_t>(std::lround(s * 255));
    }
  }
  uint32_t shade(uint32_t argb, float factor) const {
    const auto channel = [&](int shift) {
      const float v = linear[(argb >> shift) & 255] * factor;
      const int step = static_cast<int>(std::min(v, 1.0f) * kSteps + 0.5f);  // NOLINT: never < 0.
      return uint32_t{encoded[static_cast<size_t>(step)]} << shift;
    };
    return 0xFF000000u | channel(16) | channel(8) | channel(0);
  }
};

const Light& light() {
  static const Light table;
  return table;
}

/// Light from the north-west: ground that rises to the south-east is turned to it.
float reliefFactor(const float* h, ptrdiff_t stride, float perCell) {
  const float east = h[1] - h[-1];
  const float south = h[stride] - h[-stride];
  const float s = (east + south) * perCell;
  const float shade = s / std::sqrt(1.0f + s * s);
  return 1.0f + shade * (shade > 0 ? kBrightest - 1.0f : 1.0f - kDarkest);
}

/// 1, 2 or 5 times a power of ten, at least `v`.
double niceStep(double v) {
  if (!(v > 1e-6)) return 1e-6;
  const double power = std::pow(10.0, std::floor(std::log10(v)));
  for (const double m : {1.0, 2.0, 5.0})
    if (m * power >= v * (1 - 1e-9)) return m * power;
  return 10 * power;
}

/// Classes of equal height about the sea level. fBm rarely comes near the bound that its octaves
/// could reach together, so the classes cover 60 % of it and the outer ones are endless.
std::vector<Palette::Tint> tintClasses(const Recipe& recipe) {
  const Range reach = possibleHeights(recipe.heights);
  const double sea = recipe.frame.seaLevel;
  const double up = niceStep(0.6 * std::max(0.0, reach.high - sea) / kLandTints.size());
  const double down = niceStep(0.6 * std::max(0.0, sea - reach.low) / kSeaTints.size());
  std::vector<Palette::Tint> tints;
  for (size_t i = kSeaTints.size(); i-- > 0;)
    tints.push_back({static_cast<float>(sea - static_cast<double>(i) * down), kSeaTints[i]});
  for (size_t i = 0; i < kLandTints.size(); ++i)
    tints.push_back({static_cast<float>(sea + static_cast<double>(i + 1) * up), kLandTints[i]});
  return tints;
}

}  // namespace

Result<PictureKind> pictureKindNamed(const std::string& name) {
  const auto found = std::find(kKindNames.begin(), kKindNames.end(), name);
  if (found != kKindNames.end()) return static_cast<PictureKind>(found - kKindNames.begin());
  return Error{Error::Code::InvalidInput, "\"" + name + "\" is no picture", "--show",
               "composite, height, material"};
}

const char* nameOf(PictureKind kind) {
  return kKindNames[static_cast<size_t>(kind)];
}

SampleGrid withRim(const SampleGrid& grid) {
  return {grid.x - grid.step, grid.z - grid.step, grid.step, grid.width + 2, grid.height + 2};
}

Result<Samples> sampleWithRim(const World& world, const SampleGrid& grid,
                              const std::stop_token& stop) {
  Samples out;
  out.inner = grid;
  const SampleGrid all = withRim(grid);
  const size_t count = static_cast<size_t>(all.width) * static_cast<size_t>(all.height);
  out.heights.resize(count);
  out.materials.resize(count);
  if (const Status made = world.sample(all, out.heights.data(), out.materials.data(), stop); !made)
    return made.error();
  return out;
}

Palette::Palette(const World& world) : tints_(tintClasses(world.recipe())) {
  const auto& materials = world.recipe().materials;
  inks_.push_back({kPaperColour, true});
  for (const Material& m : materials)
    inks_.push_back(
        {0xFF000000u | uint32_t{m.colour.red} << 16 | uint32_t{m.colour.green} << 8 | m.colour.blue,
         m.state == MaterialState::Liquid});
}

void Palette::paintRow(PictureKind kind, const Samples& samples, int32_t j, Unassigned unassigned,
                       uint32_t* argb) const {
  const ptrdiff_t stride = samples.stride();
  const float* heights = samples.heights.data() + (j + 1) * stride + 1;
  const MaterialIndex* materials = samples.materials.data() + (j + 1) * stride + 1;
  const SampleGrid& grid = samples.inner;
  const int64_t pz = floorDiv(grid.z, grid.step) + j;
  const int64_t px = floorDiv(grid.x, grid.step);
  const float perCell = 0.5f * 0.70710678f * kReliefExaggeration / static_cast<float>(grid.step);
  for (int32_t i = 0; i < grid.width; ++i) {
    const MaterialIndex material = materials[i];
    if (material == kOutside) {
      argb[i] = kPaperColour;
    } else if (kind == PictureKind::Height) {
      const auto tint = std::upper_bound(tints_.begin(), tints_.end() - 1, heights[i],
                                         [](float h, const Tint& t) { return h < t.below; });
      argb[i] = tint->argb;
    } else if (material == kUnassigned) {
      argb[i] = unassigned == Unassigned::Hatched ? hatchAt(px + i, pz) : 0;
    } else if (const Ink& ink = inks_[material]; kind == PictureKind::Material || ink.flat) {
      argb[i] = ink.argb;
    } else {
      argb[i] = light().shade(ink.argb, reliefFactor(heights + i, stride, perCell));
    }
  }
}

}  // namespace acre
