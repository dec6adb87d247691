#include "output/picture.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <charconv>
#include <cmath>

#include "climate/biomes.h"
#include "field/distribution.h"
#include "field/field.h"
#include "recipe/map_inks.h"
#include "recipe/object_recipe.h"
#include "recipe/validate.h"
#include "water/network_grid.h"
#include "water/water_stage.h"
#include "world/world.h"

namespace acre {
namespace {

constexpr std::array kKindNames = {"composite", "material", "biome", "region", "uncovered", "slice",
    "water", "basin", "height", "base", "surface", "grey", "slope", "border", "flow", "density",
    "field", "layer"};
static_assert(kKindNames.size() == static_cast<size_t>(PictureKind::Layer) + 1,
    "every kind has a name, in the order of the kinds");

/// Tones of regions: the map's inks that lie nearest in lightness.
constexpr std::array<uint32_t, kRegionTones> kTones = {opaqueInk(inks::kSand),
    opaqueInk(inks::kReedbed), opaqueInk(inks::kWetMeadow), opaqueInk(inks::kLimestone),
    opaqueInk(inks::kOrchard), 0xFFD2C9A8, 0xFFEAE6DA};
/// An ink with a share of each of some that lie beside it.
uint32_t softenedInk(uint32_t own, const uint32_t* beside, size_t count) {
  constexpr uint32_t kShare = 26, kAll = 256;  // A tenth.
  uint32_t out = 0xFF000000u;
  for (const int shift : {0, 8, 16}) {
    uint32_t sum = (own >> shift & 255) * (kAll - kShare * static_cast<uint32_t>(count));
    for (size_t n = 0; n < count; ++n) sum += (beside[n] >> shift & 255) * kShare;
    out |= (sum + kAll / 2) / kAll << shift;
  }
  return out;
}

/// Ground that some rule covers, in pictures of what none does.
constexpr uint32_t kCovered = 0xFFEFE9DA;

/// Sea, lakes and rivers: deeper the farther from the ground's colour they have to be seen.
constexpr std::array<uint32_t, 3> kWaters = {0xFFA5C6D3, 0xFF4C7D97, 0xFF2C5670};
constexpr float kBedSeen = 0.25f;  ///< Of the light on the ground, through water.
/// How much ink a coast has where cells are as large as pixels, and where they are smaller.
constexpr float kCoastNear = 0.3f, kCoastFar = 0.45f;
/// Logarithm to the base 2 of the bricks that the lightest and the darkest tone of Flow stand for.
constexpr float kMostFlow = 10;

/// Grey from the lowest to the highest value: the ink and the sheet.
constexpr uint32_t kDarkGrey = 0xFF1F2D3A;
constexpr uint32_t kLightGrey = 0xFFFBF9F3;

constexpr std::array<uint32_t, 7> kLandTints = {
    0xFF899572, 0xFFA2A67C, 0xFFBFB787, 0xFFD8C598, 0xFFEAD4B2, 0xFFF3E3CD, 0xFFF9F3EA};
constexpr std::array<uint32_t, 5> kSeaTints = {
    0xFFA5C6D3, 0xFF82AFC3, 0xFF6497B0, 0xFF4C7D97, 0xFF3A637B};

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
    return Error{Error::Code::InvalidInput, "\"" + name + "\" " + what, "--show", kPictureNames};
  };
  if (name == kTemperatureId || name == kMoistureId)
    return Picture{PictureKind::Field, name, {}, false, 0};
  const size_t colon = name.find(':');
  const std::string stem = name.substr(0, colon);
  const auto found = std::find(kKindNames.begin(), kKindNames.end(), stem);
  if (found == kKindNames.end()) return refuse("is no picture");
  Picture picture{static_cast<PictureKind>(found - kKindNames.begin()), {}, {}, false, 0};
  const bool slice = picture.kind == PictureKind::Slice;
  const bool takesId = picture.kind >= PictureKind::Density || slice;
  if (takesId != (colon != std::string::npos))
    return refuse(slice ? "names no level" : takesId ? "names no id" : "takes no id");
  if (!takesId) return picture;
  const std::string id = name.substr(colon + 1);
  if (slice) {
    const auto read = std::from_chars(id.data(), id.data() + id.size(), picture.level);
    if (read.ec != std::errc() || read.ptr != id.data() + id.size())
      return refuse("names no level: a whole number");
    return picture;
  }
  const size_t slash = id.find('/');
  if (picture.kind != PictureKind::Layer) {
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
  if (picture.kind == PictureKind::Slice) name += fmt::format(":{}", picture.level);
  if (picture.kind == PictureKind::Field || picture.kind == PictureKind::Density)
    name += ":" + picture.field;
  if (picture.kind == PictureKind::Layer)
    name += ":" + (picture.field == kHeightsId ? "" : picture.field + "/") + picture.layer;
  return name;
}

namespace {

/// The place of the kind whose density is shown; nothing: there is none, it is off, or every square
/// has one.
std::optional<size_t> scatteredKind(const World& world, const std::string& id) {
  const auto& kinds = world.recipe().objects->kinds;
  for (size_t k = 0; k < kinds.size(); ++k)
    if (kinds[k].id == id && world.objects().greatest(k) > 0) return k;
  return std::nullopt;
}

Status checkKind(const World& world, const std::string& id) {
  if (scatteredKind(world, id)) return done();
  std::string known;
  for (const ObjectKind& kind : world.recipe().objects->kinds)
    if (scatteredKind(world, kind.id)) known += (known.empty() ? "" : ", ") + kind.id;
  return Error{Error::Code::InvalidInput, "no kind \"" + id + "\" is scattered in this world",
      "--show", known.empty() ? "a picture that needs no objects" : known};
}

}  // namespace

Status checkPicture(const World& world, const Picture& picture) {
  if (picture.ofBiomes() && !world.biomes())
    return Error{Error::Code::InvalidInput, "the Biomes are off in this world", "--show",
        "a picture that needs no biomes"};
  if ((picture.kind == PictureKind::Region || picture.kind == PictureKind::Border) &&
      !world.biomes()->hasRegions())
    return Error{Error::Code::InvalidInput, "this world has no regions", "--show",
        "a picture that needs no regions"};
  if (picture.ofWater() && !world.water())
    return Error{Error::Code::InvalidInput, "the Water is off in this world", "--show",
        "a picture that needs no rivers"};
  const AxisBounds range = world.vertical();
  if (picture.kind == PictureKind::Slice &&
      (picture.level < range.min || picture.level >= range.min + range.extent))
    return Error{Error::Code::InvalidInput,
        fmt::format("level {} is outside the vertical range", picture.level), "--show",
        fmt::format("y from {} to {}", range.min, range.min + range.extent - 1)};
  if (picture.kind == PictureKind::Density) return checkKind(world, picture.field);
  if (picture.kind < PictureKind::Field) return done();
  const Field* field = world.field(picture.field);
  std::string known;
  for (const FieldRecipe* f : fieldsOf(world.recipe()))
    known += (known.empty() ? "" : ", ") + f->id;
  if (!field)
    return Error{
        Error::Code::InvalidInput, "there is no field \"" + picture.field + "\"", "--show", known};
  if (picture.kind == PictureKind::Field || field->stepOf(picture.layer) >= 0) return done();
  // Perhaps it is of another field.
  for (const FieldRecipe* f : fieldsOf(world.recipe()))
    for (const Layer& layer : f->layers)
      if (layer.id == picture.layer && layer.on && f->id != picture.field)
        return Error{Error::Code::InvalidInput,
            "the layer \"" + picture.layer + "\" is not one of \"" + picture.field + "\"", "--show",
            "layer:" + f->id + "/" + layer.id};
  known.clear();
  for (const FieldStep& step : field->steps()) known += (known.empty() ? "" : ", ") + step.id;
  return Error{Error::Code::InvalidInput,
      "there is no layer \"" + picture.layer + "\" that is on in \"" + picture.field + "\"",
      "--show", known.empty() ? "a field with layers" : known};
}

void Samples::resize(const Picture& picture) {
  const auto count = static_cast<size_t>(inner.width + 2) * static_cast<size_t>(inner.length + 2);
  values.resize(count);
  things.resize(count);
  marks.resize(picture.hasMarks() ? count : 0);
  depths.resize(picture.hasDepths() ? count : 0);
}

SampleArrays arraysOf(Samples& samples, ptrdiff_t from) {
  const auto at = [from](auto& values) { return values.empty() ? nullptr : values.data() + from; };
  return {at(samples.values), at(samples.things), at(samples.marks), samples.stride(),
      at(samples.depths)};
}

namespace {

/// kOutside beyond the bounds, `inside` within.
void markOutside(
    const World& world, const SampleGrid& grid, MaterialIndex inside, const SampleArrays& out) {
  for (int32_t j = 0; j < grid.length; ++j) {
    MaterialIndex* row = out.things + j * out.stride;
    std::fill_n(row, grid.width, inside);
    for (int32_t i = 0; i < grid.width && world.bounded(); ++i)
      if (!world.bounds().contains({grid.x + i * grid.step, grid.z + j * grid.step}))
        row[i] = kOutside;
  }
}

// Samples far apart would each pull a network of their own: there one is not told.

bool flow(const WaterStage& water, const SampleGrid& grid, const SampleArrays& out,
    const std::stop_token& stop) {
  if (grid.step <= WaterStage::kFarthestStep)
    return drainedOver(water.over(grid.step).drainage(), grid, out.values, out.stride, stop);
  for (int32_t j = 0; j < grid.length; ++j)
    std::fill_n(out.values + j * out.stride, grid.width, 0.0f);
  return true;
}

bool basins(const WaterStage& water, const SampleGrid& grid, const SampleArrays& out,
    const std::stop_token& stop) {
  if (grid.step <= WaterStage::kFarthestStep)
    return basinsOver(water.over(grid.step).drainage(), grid, out.marks, out.stride, stop);
  for (int32_t j = 0; j < grid.length; ++j) std::fill_n(out.marks + j * out.stride, grid.width, 0u);
  return true;
}

/// Things in pictures of basins: the sea, land whose brick is of the sea, then the tones.
constexpr MaterialIndex kSeaThing = 1, kCoastThing = 2;

/// Thing of a region or of a basin.
MaterialIndex toneOf(PictureKind kind, uint32_t mark) {
  const auto tone = static_cast<MaterialIndex>(1 + mark % kRegionTones);
  if (kind == PictureKind::Region) return tone;
  return mark == 0 ? kCoastThing : static_cast<MaterialIndex>(kCoastThing + tone);
}

/// Shows what the stage Water told of a grid.
void layWater(const Picture& picture, const SampleGrid& grid, const std::vector<WaterKind>& waters,
    const std::vector<int32_t>& levels, const SampleArrays& out) {
  for (int32_t j = 0; !waters.empty() && j < grid.length; ++j)
    for (ptrdiff_t at = j * out.stride; at < j * out.stride + grid.width; ++at) {
      const WaterKind kind = waters[static_cast<size_t>(at)];
      if (picture.kind == PictureKind::Water && out.things[at] != kOutside)
        out.things[at] = static_cast<MaterialIndex>(1 + static_cast<int>(kind));
      if (picture.kind == PictureKind::Surface && kind != WaterKind::Dry)
        out.values[at] = static_cast<float>(levels[static_cast<size_t>(at)]);
    }
}

/// How much water stands over the ground.
void layDepths(const World& world, const SampleGrid& grid, const std::vector<WaterKind>& waters,
    const std::vector<int32_t>& levels, const SampleArrays& out) {
  const auto& materials = world.recipe().materials;
  const auto sea = static_cast<float>(world.seaLevel());
  for (int32_t j = 0; j < grid.length; ++j)
    for (ptrdiff_t at = j * out.stride; at < j * out.stride + grid.width; ++at) {
      const MaterialIndex thing = out.things[at];
      const bool wet = thing > 0 && thing <= materials.size() &&
                       materials[thing - size_t{1}].state == MaterialState::Liquid;
      const float level = !waters.empty() && waters[static_cast<size_t>(at)] != WaterKind::Dry
                              ? static_cast<float>(levels[static_cast<size_t>(at)])
                              : sea;
      out.depths[at] = wet ? std::max(0.0f, level - out.values[at]) : 0.0f;
    }
}

/// Pictures that are made of what the world samples at once.
Status sampleLand(const World& world, const Picture& picture, const SampleGrid& grid,
    const SampleArrays& out, const std::stop_token& stop) {
  Land land;
  land.stride = out.stride;
  land.beforeWater = picture.beforeWater;
  land.beforeObjects = picture.beforeObjects;
  std::vector<BiomeIndex> biomes;
  std::vector<WaterKind> waters;
  std::vector<int32_t> levels;
  const auto room = static_cast<size_t>(out.stride) * static_cast<size_t>(grid.length);
  const bool data = picture.isData();
  switch (picture.kind) {
    case PictureKind::Border:
      land.borders = out.values;
      break;
    case PictureKind::Base:
      land.base = out.values;
      break;
    case PictureKind::Surface:
      levels.resize(room);
      land.levels = levels.data();
      [[fallthrough]];
    case PictureKind::Water:
      waters.resize(room);
      land.waters = waters.data();
      [[fallthrough]];
    case PictureKind::Composite:
      if (world.water() && out.depths && !picture.beforeWater) {
        waters.resize(room);
        land.waters = waters.data();
        levels.resize(room);
        land.levels = levels.data();
      }
      [[fallthrough]];
    case PictureKind::Material:
    case PictureKind::Biome:
    case PictureKind::Region:
    case PictureKind::Uncovered:
    case PictureKind::Slice:
    case PictureKind::Basin:
    case PictureKind::Height:
    case PictureKind::Grey:
    case PictureKind::Slope:
    case PictureKind::Flow:
    case PictureKind::Density:
    case PictureKind::Field:
    case PictureKind::Layer:
      land.heights = out.values;
      break;
  }
  if (picture.kind == PictureKind::Composite || picture.kind == PictureKind::Material)
    land.materials = out.things;
  const bool uncovered = picture.kind == PictureKind::Uncovered;
  if (picture.kind == PictureKind::Biome || uncovered) land.biomes = out.things;
  if (picture.kind == PictureKind::Region) {
    land.regions = out.marks;
  } else if (out.marks && !land.biomes && picture.kind != PictureKind::Basin) {
    biomes.resize(room);
    land.biomes = biomes.data();
  }
  if (Status made = world.sample(grid, land, stop); !made) return made;
  if (out.marks && land.biomes)
    for (int32_t j = 0; j < grid.length; ++j)
      for (int32_t i = 0; i < grid.width; ++i)
        out.marks[j * out.stride + i] = land.biomes[j * out.stride + i];
  if (picture.kind == PictureKind::Slice) {
    std::vector<MaterialIndex> blocks(
        static_cast<size_t>(grid.width) * static_cast<size_t>(grid.length));
    if (Status made = world.sampleBlocks(
            {grid.x, picture.level, grid.z, grid.step, grid.width, 1, grid.length}, blocks.data(),
            stop);
        !made)
      return made;
    for (int32_t j = 0; j < grid.length; ++j)
      std::copy_n(
          blocks.data() + ptrdiff_t{j} * grid.width, grid.width, out.things + j * out.stride);
  }
  if (picture.kind == PictureKind::Basin && !basins(*world.water(), grid, out, stop))
    return cancelled();
  const bool toned = picture.kind == PictureKind::Region || picture.kind == PictureKind::Basin;
  if (data || toned || picture.kind == PictureKind::Water)
    markOutside(world, grid, kUnassigned, out);
  layWater(picture, grid, waters, levels, out);
  if (out.depths) layDepths(world, grid, waters, levels, out);
  if (toned || uncovered)
    for (int32_t j = 0; j < grid.length; ++j)
      for (int32_t i = 0; i < grid.width; ++i) {
        MaterialIndex& thing = out.things[j * out.stride + i];
        if (thing == kOutside) continue;
        if (uncovered)
          thing = thing != kNoBiome;
        else
          thing = toneOf(picture.kind, out.marks[j * out.stride + i]);
        if (picture.kind != PictureKind::Basin ||
            out.values[j * out.stride + i] >= static_cast<float>(world.seaLevel()))
          continue;
        thing = kSeaThing;  // Bricks are coarse: the coast is where it is.
        out.marks[j * out.stride + i] = 0;
      }
  return done();
}

}  // namespace

Status samplePicture(const World& world, const Picture& picture, const SampleGrid& grid,
    const SampleArrays& out, const std::stop_token& stop) {
  if ((picture.ofBiomes() && !world.biomes()) || (picture.ofWater() && !world.water()))
    return checkPicture(world, picture);
  const bool measured = picture.kind == PictureKind::Grey || picture.kind == PictureKind::Slope ||
                        picture.kind >= PictureKind::Flow;
  if (!measured || (picture.kind == PictureKind::Grey && !picture.hasMarks()))
    return sampleLand(world, picture, grid, out, stop);
  if (Status fits = checkGrid(grid); !fits) return fits;
  if (out.marks) {  // The borders alone; their heights give way to the numbers below.
    if (Status made = sampleLand(world, {PictureKind::Height, {}, {}, true, 0}, grid, out, stop);
        !made)
      return made;
  }
  markOutside(world, grid, kUnassigned, out);
  if (picture.kind == PictureKind::Grey) return done();  // Its heights are there.
  if (picture.kind == PictureKind::Slope) {
    std::vector<float> slopes(static_cast<size_t>(grid.width) * static_cast<size_t>(grid.length));
    if (Status made = world.columns().slopes(grid, slopes.data(), stop, picture.beforeWater); !made)
      return made;
    for (int32_t j = 0; j < grid.length; ++j)
      std::copy_n(
          slopes.data() + ptrdiff_t{j} * grid.width, grid.width, out.values + j * out.stride);
    return done();
  }
  if (picture.kind == PictureKind::Flow)
    return flow(*world.water(), grid, out, stop) ? done() : Status(cancelled());
  if (picture.kind == PictureKind::Density) {
    const auto kind = scatteredKind(world, picture.field);
    return kind ? world.objects().asked(*kind, grid, out.values, out.stride, stop)
                : checkKind(world, picture.field);
  }
  const Field* field = world.field(picture.field);
  if (!field) return checkPicture(world, picture);
  const int step = picture.kind == PictureKind::Layer ? field->stepOf(picture.layer) : -1;
  if (step < 0) return world.columns().field(*field, grid, out.values, stop, out.stride);
  return world.columns().layer(
      *field, static_cast<size_t>(step), grid, out.values, stop, out.stride);
}

SampleGrid withRim(const SampleGrid& grid) {
  return {grid.x - grid.step, grid.z - grid.step, grid.step, grid.width + 2, grid.length + 2};
}

Result<Samples> sampleWithRim(const World& world, const Picture& picture, const SampleGrid& grid,
    const std::stop_token& stop) {
  Samples out;
  out.inner = grid;
  out.resize(picture);
  if (const Status made = samplePicture(world, picture, withRim(grid), arraysOf(out), stop); !made)
    return made.error();
  return out;
}

uint32_t regionTone(int tone) {
  return kTones[static_cast<size_t>(tone)];
}

Palette::Palette(const World& world, const Picture& picture, const Style& style)
    : picture_(picture),
      style_(style),
      light_(style.light, style.relief),
      tints_(tintClasses(world)) {
  // The world is there for as long as this is.
  const auto own = [&] {
    return std::make_shared<GroundScale>(
        std::shared_ptr<const World>(std::shared_ptr<void>(), &world));
  };
  if (!style_.scale) style_.scale = own();
  waters_ = style_.scale->hasMaterialsOf(world) ? style_.scale : own();
  sea_ = static_cast<float>(world.seaLevel());
  inks_.push_back({kPaperColour, true});
  switch (picture.kind) {
    case PictureKind::Biome:
      for (const Biome& b : world.recipe().biomes.list)
        inks_.push_back({opaqueInk(b.colour), false});
      break;
    case PictureKind::Region:
      for (const uint32_t tone : kTones) inks_.push_back({tone, false});
      break;
    case PictureKind::Uncovered:
      inks_.push_back({kCovered, false});
      break;
    case PictureKind::Water:
      inks_.push_back({kCovered, false});
      for (const uint32_t water : kWaters) inks_.push_back({water, true});
      break;
    case PictureKind::Basin:
      inks_.push_back({kWaters[0], true});
      inks_.push_back({kCovered, false});
      for (const uint32_t tone : kTones) inks_.push_back({tone, false});
      break;
    case PictureKind::Composite:
    case PictureKind::Material:
    case PictureKind::Slice:
    case PictureKind::Height:
    case PictureKind::Base:
    case PictureKind::Surface:
    case PictureKind::Grey:
    case PictureKind::Slope:
    case PictureKind::Border:
    case PictureKind::Flow:
    case PictureKind::Density:
    case PictureKind::Field:
    case PictureKind::Layer:
      for (const Material& m : world.recipe().materials)
        inks_.push_back({opaqueInk(m.colour),
            m.state == MaterialState::Liquid || picture.kind == PictureKind::Material ||
                picture.kind == PictureKind::Slice,
            m.state == MaterialState::Liquid});
  }
  if (!picture.isData() || picture.isTinted()) return;
  if (picture.kind == PictureKind::Flow) {  // Places all over would each pull a network.
    low_ = 0;
    high_ = kMostFlow;
    return;
  }
  if (picture.kind == PictureKind::Density) {
    const auto kind = scatteredKind(world, picture.field);
    low_ = 0;
    high_ = kind ? static_cast<float>(world.objects().greatest(*kind)) : 1;
    return;
  }
  // Every fourth stratum of the sites that all measuring uses.
  constexpr int kSide = 64;
  const Frame& frame = world.recipe().frame;
  const Field* field = picture.kind >= PictureKind::Field ? world.field(picture.field) : nullptr;
  const SampleSites sites(
      frame.x, frame.z, (field ? *field : world.heightField()).widestFeature(), world.seed());
  low_ = HUGE_VALF;
  high_ = -HUGE_VALF;
  // Cells so far apart as these need not be exact to the last.
  constexpr int64_t kRoughStep = 2 * WaterDistance::kExactStep;
  float value = 0;
  MaterialIndex thing = 0;
  Picture bare{picture.kind, picture.field, picture.layer, false, 0};
  bare.beforeObjects = true;
  bare.beforeWater = true;  // Each would pull a network of rivers of its own.
  for (int64_t j = 0; j < sites.rows(); j += std::max<int64_t>(1, sites.rows() / kSide))
    for (int64_t i = 0; i < sites.columns(); i += std::max<int64_t>(1, sites.columns() / kSide)) {
      const Cell cell = sites.at(i, j);
      if (!samplePicture(
              world, bare, {cell.x, cell.z, kRoughStep, 1, 1}, {&value, &thing, nullptr, 1}))
        continue;
      low_ = std::min(low_, value);
      high_ = std::max(high_, value);
    }
  if (picture.kind == PictureKind::Slope || picture.kind == PictureKind::Border) low_ = 0;
}

uint32_t Palette::greyAt(float value) const {
  if (picture_.kind == PictureKind::Flow) value = std::log2(std::max(1.0f, value));
  const float t = high_ > low_ ? (value - low_) / (high_ - low_) : 0.5f;
  const float clamped = t < 0 ? 0.0f : (t > 1 ? 1.0f : t);
  const bool darkest = picture_.kind == PictureKind::Slope || picture_.kind == PictureKind::Flow ||
                       picture_.kind == PictureKind::Density;
  return mixed(kDarkGrey, kLightGrey, darkest ? 1 - clamped : clamped);
}

void Palette::paintRow(
    const Samples& samples, int32_t j, Unassigned unassigned, uint32_t* argb) const {
  const PictureKind kind = picture_.kind;
  const ptrdiff_t stride = samples.stride();
  const float* values = samples.values.data() + (j + 1) * stride + 1;
  const MaterialIndex* things = samples.things.data() + (j + 1) * stride + 1;
  const SampleGrid& grid = samples.inner;
  const int64_t pz = floorDiv(grid.z, grid.step) + j;
  const int64_t px = floorDiv(grid.x, grid.step);
  const float rise = picture_.isData() || style_.relief <= 0
                         ? 0
                         : style_.scale->steepening(grid.step) / static_cast<float>(2 * grid.step);
  const auto lit = [&](ptrdiff_t i) {
    const float* h = values + i;
    return light_.factor((h[1] - h[-1]) * rise, (h[stride] - h[-stride]) * rise);
  };
  const bool deep = picture_.hasDepths() && !samples.depths.empty();
  const float* depths = deep ? samples.depths.data() + (j + 1) * stride + 1 : nullptr;
  const WaterInks* water = depths ? &waters_->water() : nullptr;
  // In a coarse picture a little of the ink beside it is in what borders on other ground.
  const bool soft = kind == PictureKind::Composite && grid.step > 1;
  const auto softened = [&](ptrdiff_t i) {
    const Ink& own = inks_[things[i]];
    if (!soft || own.liquid) return own.argb;
    std::array<uint32_t, 4> beside{};
    size_t others = 0;
    for (const ptrdiff_t to : {ptrdiff_t{-1}, ptrdiff_t{1}, -stride, stride}) {
      const MaterialIndex thing = things[i + to];
      const bool ground = thing != kUnassigned && thing < inks_.size() && !inks_[thing].liquid;
      beside[others] = ground ? inks_[thing].argb : own.argb;
      others += beside[others] != own.argb;
    }
    return others == 0 ? own.argb : softenedInk(own.argb, beside.data(), others);
  };
  const bool byBiome =
      kind == PictureKind::Biome || kind == PictureKind::Region || kind == PictureKind::Uncovered;
  for (int32_t i = 0; i < grid.width; ++i) {
    const MaterialIndex thing = things[i];
    if (thing == kOutside) {
      argb[i] = kPaperColour;
    } else if (thing == kOpen) {
      argb[i] = kOpenColour;
    } else if (picture_.isTinted()) {
      const auto tint = std::upper_bound(tints_.begin(), tints_.end() - 1, values[i],
          [](float h, const Tint& t) { return h < t.below; });
      argb[i] = tint->argb;
    } else if (picture_.isData()) {
      argb[i] = greyAt(values[i]);
    } else if (thing == kUnassigned) {
      argb[i] = unassigned == Unassigned::Hatched ? hatchAt(px + i, pz) : 0;
    } else if (const Ink& ink = inks_[thing]; water && depths[i] > 0 && water->has(thing)) {
      argb[i] = shaded(water->at(thing, depths[i]), 1 + (lit(i) - 1) * kBedSeen);
    } else if (ink.flat || (byBiome && values[i] < sea_)) {
      argb[i] = ink.argb;
    } else {
      argb[i] = shaded(softened(i), lit(i));
    }
  }
  if (kind == PictureKind::Composite) {
    // Water that ends at a side.
    const auto dry = [&](ptrdiff_t i) {
      const MaterialIndex thing = things[i];
      return thing < inks_.size() && thing != kUnassigned && !inks_[thing].liquid;
    };
    for (int32_t i = 0; i < grid.width; ++i)
      if (things[i] < inks_.size() && inks_[things[i]].liquid &&
          (dry(i - 1) || dry(i + 1) || dry(i - stride) || dry(i + stride)))
        argb[i] = mixed(argb[i], kPenInk, grid.step == 1 ? kCoastNear : kCoastFar);
  }
  if (!samples.marks.empty()) {
    // A pixel is on a border when its east or south neighbour belongs to something else.
    const uint32_t* marks = samples.marks.data() + (j + 1) * stride + 1;
    for (int32_t i = 0; i < grid.width; ++i)
      if (things[i] != kOutside && argb[i] != 0 &&
          (marks[i] != marks[i + 1] || marks[i] != marks[i + stride]))
        argb[i] = mixed(argb[i], kHatchInk, 0.45f);
  }
  if (style_.contours <= 0) return;
  // A pixel is on a line when the class of its value differs from that of its east or south
  // neighbour; every fifth line is drawn in full ink.
  const auto classOf = [&](float v) {
    return std::floor(static_cast<double>(v) / style_.contours);
  };
  for (int32_t i = 0; i < grid.width; ++i) {
    if (things[i] == kOutside || argb[i] == 0) continue;
    const double here = classOf(values[i]);
    const double east = classOf(values[i + 1]), south = classOf(values[i + stride]);
    if (here == east && here == south) continue;
    const double level = std::max({here, east, south});
    argb[i] = mixed(argb[i], kHatchInk, std::fmod(level, 5) == 0 ? 0.9f : 0.5f);
  }
}

}  // namespace acre
