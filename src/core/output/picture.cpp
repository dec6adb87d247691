#include "output/picture.h"

#include <algorithm>
#include <array>
#include <cmath>

#include "recipe/validate.h"

namespace acre {
namespace {

constexpr std::array kKindNames = {"composite", "height", "grey", "slope",
                                   "material",  "field",  "layer"};

/// Grey from the lowest to the highest value: the ink and the sheet.
constexpr uint32_t kDarkGrey = 0xFF1F2D3A;
constexpr uint32_t kLightGrey = 0xFFFBF9F3;

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

/// Ground that rises away from the light is turned to it.
float reliefFactor(const float* h, ptrdiff_t stride, float lightX, float lightZ) {
  const float s = (h[1] - h[-1]) * lightX + (h[stride] - h[-stride]) * lightZ;
  const float shade = s / std::sqrt(1.0f + s * s);
  return 1.0f + shade * (shade > 0 ? kBrightest - 1.0f : 1.0f - kDarkest);
}

uint32_t mixed(uint32_t a, uint32_t b, float t) {
  uint32_t out = 0xFF000000u;
  for (const int shift : {16, 8, 0}) {
    const auto from = static_cast<float>((a >> shift) & 255),
               to = static_cast<float>((b >> shift) & 255);
    out |= static_cast<uint32_t>(from + (to - from) * t + 0.5f) << shift;  // NOLINT: 0 ... 255.
  }
  return out;
}

}  // namespace

/// 1, 2 or 5 times a power of ten, at least `v`.
double niceStep(double v) {
  if (!(v > 1e-6)) return 1e-6;
  const double power = std::pow(10.0, std::floor(std::log10(v)));
  for (const double m : {1.0, 2.0, 5.0})
    if (m * power >= v * (1 - 1e-9)) return m * power;
  return 10 * power;
}

namespace {

/// Classes of equal height about the sea level. fBm rarely comes near the bound that its octaves
/// could reach together, so the classes cover 60 % of it and the outer ones are endless.
std::vector<Palette::Tint> tintClasses(const World& world) {
  const Range reach = possibleSurface(world.recipe());
  const double sea = world.seaLevel();
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

Result<Picture> pictureNamed(const std::string& name) {
  const auto refuse = [&](const std::string& what) {
    return Error{Error::Code::InvalidInput, "\"" + name + "\" " + what, "--show",
                 "composite, height, grey, slope, material, temperature, moisture, field:ID, "
                 "layer:ID, layer:FIELD/ID"};
  };
  if (name == kTemperatureId || name == kMoistureId) return Picture{PictureKind::Field, name, {}};
  const size_t colon = name.find(':');
  const std::string stem = name.substr(0, colon);
  const auto found = std::find(kKindNames.begin(), kKindNames.end(), stem);
  if (found == kKindNames.end()) return refuse("is no picture");
  Picture picture{static_cast<PictureKind>(found - kKindNames.begin()), {}, {}};
  const bool takesId = picture.kind >= PictureKind::Field;
  if (takesId != (colon != std::string::npos))
    return refuse(takesId ? "names no id" : "takes no id");
  if (!takesId) return picture;
  const std::string id = name.substr(colon + 1);
  const size_t slash = id.find('/');
  if (picture.kind == PictureKind::Field) {
    picture.field = id;
  } else {
    picture.field = slash == std::string::npos ? kHeightsId : id.substr(0, slash);
    picture.layer = slash == std::string::npos ? id : id.substr(slash + 1);
  }
  return picture;
}

std::string nameOf(const Picture& picture) {
  if (picture.kind == PictureKind::Field &&
      (picture.field == kTemperatureId || picture.field == kMoistureId))
    return picture.field;
  std::string name = kKindNames[static_cast<size_t>(picture.kind)];
  if (picture.kind == PictureKind::Field) name += ":" + picture.field;
  if (picture.kind == PictureKind::Layer)
    name += ":" + (picture.field == kHeightsId ? "" : picture.field + "/") + picture.layer;
  return name;
}

Status checkPicture(const World& world, const Picture& picture) {
  if (picture.kind < PictureKind::Field) return done();
  const Field* field = world.field(picture.field);
  std::string known;
  for (const FieldRecipe* f : fieldsOf(world.recipe()))
    known += (known.empty() ? "" : ", ") + f->id;
  if (!field)
    return Error{Error::Code::InvalidInput, "there is no field \"" + picture.field + "\"", "--show",
                 known};
  if (picture.kind == PictureKind::Field || field->stepOf(picture.layer) >= 0) return done();
  known.clear();
  for (const FieldStep& step : field->steps()) known += (known.empty() ? "" : ", ") + step.id;
  return Error{
      Error::Code::InvalidInput,
      "there is no layer \"" + picture.layer + "\" that is on in \"" + picture.field + "\"",
      "--show", known.empty() ? "a field with layers" : known};
}

void Samples::resize() {
  const auto count = static_cast<size_t>(inner.width + 2) * static_cast<size_t>(inner.height + 2);
  values.resize(count);
  materials.resize(count);
}

Status samplePicture(const World& world, const Picture& picture, const SampleGrid& grid,
                     float* values, MaterialIndex* materials, const std::stop_token& stop,
                     ptrdiff_t stride) {
  if (!picture.isData()) return world.sample(grid, values, materials, stop, stride);
  if (Status fits = checkGrid(grid); !fits) return fits;
  for (int32_t j = 0; j < grid.height && !world.bounded(); ++j)
    std::fill_n(materials + j * stride, grid.width, kUnassigned);
  for (int32_t j = 0; j < grid.height && world.bounded(); ++j)
    for (int32_t i = 0; i < grid.width; ++i)
      materials[j * stride + i] =
          world.bounds().contains({grid.x + i * grid.step, grid.z + j * grid.step}) ? kUnassigned
                                                                                    : kOutside;
  if (picture.kind == PictureKind::Slope) {
    std::vector<float> slopes(static_cast<size_t>(grid.width) * static_cast<size_t>(grid.height));
    if (Status made = world.sampleSlope(grid, slopes.data(), stop); !made) return made;
    for (int32_t j = 0; j < grid.height; ++j)
      std::copy_n(slopes.data() + ptrdiff_t{j} * grid.width, grid.width, values + j * stride);
    return done();
  }
  const Field* field = picture.kind >= PictureKind::Field ? world.field(picture.field) : nullptr;
  if (!field) return world.sampleField(world.heightField(), grid, values, stop, stride);
  const int step = picture.kind == PictureKind::Layer ? field->stepOf(picture.layer) : -1;
  if (step < 0) return world.sampleField(*field, grid, values, stop, stride);
  return world.sampleLayer(*field, static_cast<size_t>(step), grid, values, stop, stride);
}

SampleGrid withRim(const SampleGrid& grid) {
  return {grid.x - grid.step, grid.z - grid.step, grid.step, grid.width + 2, grid.height + 2};
}

Result<Samples> sampleWithRim(const World& world, const Picture& picture, const SampleGrid& grid,
                              const std::stop_token& stop) {
  Samples out;
  out.inner = grid;
  out.resize();
  if (const Status made = samplePicture(world, picture, withRim(grid), out.values.data(),
                                        out.materials.data(), stop, out.stride());
      !made)
    return made.error();
  return out;
}

Palette::Palette(const World& world, const Picture& picture, const Style& style)
    : picture_(picture), style_(style), tints_(tintClasses(world)) {
  constexpr double kDegree = 3.14159265358979323846 / 180;
  const double reach = 0.5 * static_cast<double>(kReliefExaggeration);
  lightX_ = static_cast<float>(-std::sin(style.light * kDegree) * reach);
  lightZ_ = static_cast<float>(std::cos(style.light * kDegree) * reach);
  inks_.push_back({kPaperColour, true});
  for (const Material& m : world.recipe().materials)
    inks_.push_back(
        {0xFF000000u | uint32_t{m.colour.red} << 16 | uint32_t{m.colour.green} << 8 | m.colour.blue,
         m.state == MaterialState::Liquid});
  if (!picture.isData() || picture.kind == PictureKind::Height) return;
  // Every fourth stratum of the sites that all measuring uses.
  constexpr int kSide = 64;
  const Frame& frame = world.recipe().frame;
  const Field* field = picture.kind >= PictureKind::Field ? world.field(picture.field) : nullptr;
  const SampleSites sites(frame.x, frame.z, (field ? *field : world.heightField()).widestFeature(),
                          world.seed());
  low_ = HUGE_VALF;
  high_ = -HUGE_VALF;
  float value = 0;
  MaterialIndex material = 0;
  for (int64_t j = 0; j < sites.rows(); j += std::max<int64_t>(1, sites.rows() / kSide))
    for (int64_t i = 0; i < sites.columns(); i += std::max<int64_t>(1, sites.columns() / kSide)) {
      const Cell cell = sites.at(i, j);
      if (!samplePicture(world, picture, {cell.x, cell.z, 1, 1, 1}, &value, &material, {}, 1))
        continue;
      low_ = std::min(low_, value);
      high_ = std::max(high_, value);
    }
  if (picture.kind == PictureKind::Slope) low_ = 0;
}

uint32_t Palette::greyAt(float value) const {
  const float t = high_ > low_ ? (value - low_) / (high_ - low_) : 0.5f;
  const float clamped = t < 0 ? 0.0f : (t > 1 ? 1.0f : t);
  return mixed(kDarkGrey, kLightGrey, picture_.kind == PictureKind::Slope ? 1 - clamped : clamped);
}

void Palette::paintRow(const Samples& samples, int32_t j, Unassigned unassigned,
                       uint32_t* argb) const {
  const PictureKind kind = picture_.kind;
  const ptrdiff_t stride = samples.stride();
  const float* values = samples.values.data() + (j + 1) * stride + 1;
  const MaterialIndex* materials = samples.materials.data() + (j + 1) * stride + 1;
  const SampleGrid& grid = samples.inner;
  const int64_t pz = floorDiv(grid.z, grid.step) + j;
  const int64_t px = floorDiv(grid.x, grid.step);
  const auto perCell = static_cast<float>(grid.step);
  const float lightX = lightX_ / perCell, lightZ = lightZ_ / perCell;
  for (int32_t i = 0; i < grid.width; ++i) {
    const MaterialIndex material = materials[i];
    if (material == kOutside) {
      argb[i] = kPaperColour;
    } else if (kind == PictureKind::Height) {
      const auto tint = std::upper_bound(tints_.begin(), tints_.end() - 1, values[i],
                                         [](float h, const Tint& t) { return h < t.below; });
      argb[i] = tint->argb;
    } else if (picture_.isData()) {
      argb[i] = greyAt(values[i]);
    } else if (material == kUnassigned) {
      argb[i] = unassigned == Unassigned::Hatched ? hatchAt(px + i, pz) : 0;
    } else if (const Ink& ink = inks_[material]; kind == PictureKind::Material || ink.flat) {
      argb[i] = ink.argb;
    } else {
      argb[i] = light().shade(ink.argb, reliefFactor(values + i, stride, lightX, lightZ));
    }
  }
  if (style_.contours <= 0) return;
  // A pixel is on a line when the class of its value differs from that of its east or south
  // neighbour; every fifth line is drawn in full ink.
  const auto classOf = [&](float v) {
    return std::floor(static_cast<double>(v) / style_.contours);
  };
  for (int32_t i = 0; i < grid.width; ++i) {
    if (materials[i] == kOutside || argb[i] == 0) continue;
    const double here = classOf(values[i]);
    const double east = classOf(values[i + 1]), south = classOf(values[i + stride]);
    if (here == east && here == south) continue;
    const double level = std::max({here, east, south});
    argb[i] = mixed(argb[i], kHatchInk, std::fmod(level, 5) == 0 ? 0.9f : 0.5f);
  }
}

}  // namespace acre
