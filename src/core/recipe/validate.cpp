#include "recipe/validate.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <map>
#include <set>

#include "base/seed.h"
#include "recipe/checks-inl.h"
#include "recipe/edits.h"
#include "recipe/walk.h"

namespace acre {
namespace {

Status checkBounds(const std::string& where, const std::optional<AxisBounds>& axis) {
  if (!axis) return done();
  if (axis->min < -limits::cell || axis->min > limits::cell)
    return refuse(where + "/min", fmt::format("{} is out of range", axis->min), "-2^60 to 2^60");
  if (axis->extent < 1 || axis->extent > limits::cell + 1 - axis->min)
    return refuse(where + "/extent", fmt::format("{} cells are not an extent", axis->extent),
                  fmt::format("1 to {} from this minimum (the end stays within 2^60)",
                              limits::cell + 1 - axis->min));
  return done();
}

/// Numbers of the sources, each with its key and range.
struct SourceChecks {
  Checks& checks;
  const std::string& at;

  void number(const char* key, double value, const Range& range) const {
    checks.add(checkNumber(at + "/" + key, value, range));
  }
  void operator()(const NoiseSource& s) const { checkNoise(checks, at, s); }
  void operator()(const ConstantSource& s) const { number("value", s.value, limits::altitude); }
  void operator()(const RampSource& s) const {
    number("from", s.from, limits::place);
    number("to", s.to, limits::place);
    if (s.axis == Axis::Y) checks.add(refuse(at + "/axis", "maps from above have no y", "x or z"));
    if (s.from == s.to)
      checks.add(refuse(at + "/to", "the ramp has no length", "a cell other than from"));
  }
  void operator()(const DistanceSource& s) const {
    number("x", s.x, limits::place);
    number("z", s.z, limits::place);
    number("reach", s.reach, limits::distance);
  }
  void operator()(const IslandSource& s) const {
    number("x", s.x, limits::place);
    number("z", s.z, limits::place);
    number("radius", s.radius, limits::distance);
    number("edge", s.edge, limits::distance);
    number("wobble", s.wobble, {0, 1e6});
    number("wobbleWidth", s.wobbleWidth, limits::width);
  }
  void operator()(const PictureSource& s) const {
    number("x", s.x, limits::place);
    number("z", s.z, limits::place);
    number("scale", s.scale, limits::distance);
    number("outsideValue", s.outsideValue, limits::altitude);
    if (s.file.empty()) checks.add(refuse(at + "/file", "no file is named", "a PNG file"));
    checks.add(checkText(at + "/file", s.file, 4096));
  }
  void operator()(const FieldSource&) const {}
  void operator()(const TerraceSource& s) const {
    number("height", s.height, limits::terrace);
    number("flat", s.flat, limits::flat);
  }
  void operator()(const FoldSource& s) const { number("centre", s.centre, limits::altitude); }
  void operator()(const RescaleSource& s) const {
    number("from/0", s.fromLow, limits::altitude);
    number("from/1", s.fromHigh, limits::altitude);
    number("to/0", s.toLow, limits::altitude);
    number("to/1", s.toHigh, limits::altitude);
    if (static_cast<float>(s.fromLow) == static_cast<float>(s.fromHigh))
      checks.add(refuse(at + "/from", "the range has no width", "two different numbers"));
  }
  void operator()(const EqualiseSource&) const {}
  void operator()(const LatitudeSource& s) const {
    number("equator", s.equator, limits::place);
    number("reach", s.reach, limits::distance);
  }
  void operator()(const AltitudeSource&) const {}
  void operator()(const WalkSource& s) const {
    number("low", s.low, limits::walkHeight);
    number("high", s.high, limits::walkHeight);
    number("slope", s.slope, limits::walkSlope);
    number("change", s.change, limits::walkChange);
    if (!checks.ok()) return;
    if (s.high - s.low < 1)
      checks.add(refuse(at + "/high", fmt::format("{} leaves no room above {}", s.high, s.low),
                        "at least 1 above low"));
    else if (walkSegment(s) > kLongestWalkSegment)
      checks.add(refuse(at + "/change",
                        "the walk keeps its course for too long to be had column by column",
                        fmt::format("a larger change, or a steeper slope for so high a range: with "
                                    "these four the segments would take {} cells, at most {} are "
                                    "possible",
                                    walkSegment(s), kLongestWalkSegment)));
  }
  void operator()(const WaterSource& s) const {
    number("reach", s.reach, limits::waterReach);
    if (std::floor(s.reach) != s.reach)
      checks.add(refuse(at + "/reach", fmt::format("{} is no whole number of cells", s.reach),
                        "whole cells, 1 to 256"));
  }
};

void checkLayer(Checks& checks, const std::string& at, const Layer& layer) {
  checks.add(checkId(at + "/id", layer.id));
  checks.add(checkText(at + "/name", layer.name, limits::nameBytes));
  std::visit(SourceChecks{checks, at}, layer.source);
  checks.add(checkNumber(at + "/amplitude", layer.amplitude, limits::amplitude));
  checks.add(checkNumber(at + "/offset", layer.offset, limits::altitude));
  if (layer.combine == Combine::Mix)
    checks.add(checkNumber(at + "/amount", layer.amount, limits::share));
  if (layer.combine == Combine::SmoothMinimum || layer.combine == Combine::SmoothMaximum)
    checks.add(checkNumber(at + "/amount", layer.amount, limits::smooth));
  if (layer.sampling && reshapes(layer.source) &&
      (layer.sampling->x != 0 || layer.sampling->z != 0))
    checks.add(refuse(at + "/sampling",
                      "this kind of layer reshapes the sum before it, at no place of its own",
                      "no sampling"));
  if (layer.sampling) {
    checks.add(checkNumber(at + "/sampling/x", layer.sampling->x, limits::sampling));
    checks.add(checkNumber(at + "/sampling/z", layer.sampling->z, limits::sampling));
  }
  if (layer.warp) {
    checks.add(checkNumber(at + "/warp/cells", layer.warp->cells, limits::warpCells));
    checks.add(checkNumber(at + "/warp/passes", layer.warp->passes, limits::warpPasses));
    checkNoise(checks, at + "/warp", layer.warp->noise);
  }
  checkCurve(checks, at + "/curve", layer.curve);
  checkClamp(checks, at + "/clamp", layer.clamp);
  if (layer.mask) {
    if (layer.mask->low)
      checks.add(checkNumber(at + "/mask/low", *layer.mask->low, limits::altitude));
    if (layer.mask->high)
      checks.add(checkNumber(at + "/mask/high", *layer.mask->high, limits::altitude));
    checks.add(checkNumber(at + "/mask/soft", layer.mask->soft, limits::soft));
    if (layer.mask->low && layer.mask->high && *layer.mask->low > *layer.mask->high)
      checks.add(refuse(at + "/mask", "low lies above high", "low no higher than high"));
  }
}

/// References among fields: every one must exist, none may lead back to itself, and all of them
/// together must stay affordable.
class References {
 public:
  References(Checks& checks, const Recipe& recipe) : checks_(checks), recipe_(recipe) {}

  /// Layers that one evaluation of the field takes; 0 after a refusal.
  int count(const FieldRecipe& field) {
    const auto known = counts_.find(field.id);
    if (known != counts_.end()) return known->second;
    chain_.push_back(field.id);
    int total = 0;
    for (size_t i = 0; i < field.layers.size() && checks_.ok(); ++i) {
      const Layer& layer = field.layers[i];
      ++total;
      for (const std::string& id : fieldsReadBy(layer)) {
        const bool altitude = std::holds_alternative<AltitudeSource>(layer.source) ||
                              std::holds_alternative<WaterSource>(layer.source);
        const std::string at = fmt::format("{}/layers/{}{}", pointerOf(recipe_, field), i,
                                           layer.mask && layer.mask->field == id ? "/mask/field"
                                           : altitude                            ? ""
                                                                                 : "/field");
        total = std::min(total + read(at, id), limits::expandedLayers + 1);
      }
      if (total > limits::expandedLayers)
        checks_.add(refuse(pointerOf(recipe_, field),
                           fmt::format("one cell would take more than {} layers, with those of the "
                                       "fields read",
                                       limits::expandedLayers),
                           fmt::format("at most {}", limits::expandedLayers)));
    }
    chain_.pop_back();
    return counts_[field.id] = total;
  }

 private:
  int read(const std::string& at, const std::string& id) {
    const FieldRecipe* field = fieldOf(recipe_, id);
    if (!field) {
      checks_.add(refuse(at, fmt::format("there is no field \"{:.80}\"", id),
                         "the id of a field, or heights"));
      return 0;
    }
    if (chain_.front() == kHeightsId && climateAxisOf(recipe_, id)) {
      checks_.add(
          refuse(at, fmt::format("the heights come before the climate and cannot read \"{}\"", id),
                 "a named field"));
      return 0;
    }
    const auto back = std::find(chain_.begin(), chain_.end(), id);
    if (back == chain_.end()) return count(*field);
    std::string circle;
    for (auto link = back; link != chain_.end(); ++link) circle += *link + " reads ";
    checks_.add(refuse(at, "fields feed each other in a circle: " + circle + id,
                       "a field that does not read this one"));
    return 0;
  }

  Checks& checks_;
  const Recipe& recipe_;
  std::vector<std::string> chain_;
  std::map<std::string, int> counts_;
};

void checkField(Checks& checks, const Recipe& recipe, const FieldRecipe& field) {
  const std::string at = pointerOf(recipe, field);
  std::set<std::string> ids;
  for (size_t i = 0; i < field.layers.size() && checks.ok(); ++i) {
    const std::string layer = fmt::format("{}/layers/{}", at, i);
    checkLayer(checks, layer, field.layers[i]);
    if (!ids.insert(field.layers[i].id).second)
      checks.add(refuse(layer + "/id", fmt::format("\"{}\" is taken", field.layers[i].id),
                        "an id that no other layer has"));
  }
  checkCurve(checks, at + "/curve", field.curve);
  checkClamp(checks, at + "/clamp", field.clamp);
}

void checkClimateAxis(Checks& checks, const Recipe& recipe, const ClimateAxis& axis) {
  const std::string at = pointerOf(recipe, axis.field);
  checkField(checks, recipe, axis.field);
  checks.add(checkNumber(at + "/low", axis.low, limits::altitude));
  checks.add(checkNumber(at + "/high", axis.high, limits::altitude));
  if (!(axis.low < axis.high))
    checks.add(refuse(at + "/high",
                      fmt::format("{} does not lie above low, {}", axis.high, axis.low),
                      "a number above low"));
  checks.add(checkText(at + "/unit/name", axis.unit, limits::unitBytes));
  checks.add(checkNumber(at + "/unit/low", axis.unitLow, limits::altitude));
  checks.add(checkNumber(at + "/unit/high", axis.unitHigh, limits::altitude));
  if (!axis.unit.empty() && axis.unitLow == axis.unitHigh)
    checks.add(refuse(at + "/unit/high", "both ends stand for the same number",
                      "a number other than the unit's low"));
}

/// Equalising needs to know the distribution: from everywhere alike, or from inside bounds.
void checkEqualise(Checks& checks, const Recipe& recipe, const FieldRecipe& field) {
  if (recipe.frame.x && recipe.frame.z && !readsWaterDistance(recipe, field)) return;
  const auto find = [&](const std::string& id) { return fieldOf(recipe, id); };
  bool alike = true;
  for (size_t i = 0; i < field.layers.size(); ++i) {
    const Layer& layer = field.layers[i];
    const bool reshaped = std::holds_alternative<EqualiseSource>(layer.source) ||
                          (layer.equalise && reshapes(layer.source));
    if (layer.on && ((reshaped && !alike) || (layer.equalise && !isStationary(layer, find))))
      checks.add(refuse(fmt::format("{}/layers/{}", pointerOf(recipe, field), i),
                        "equalise cannot know the distribution of a ramp, distance, island or "
                        "picture in an endless world, nor ever that of distances from water",
                        "noise alone, or without water distances bounds on both axes"));
    alike = alike && (!layer.on || isStationary(layer, find));
  }
}

}  // namespace

std::string Range::text() const {
  return fmt::format("{} to {}", low, high);
}

Result<std::vector<double>> octaveFrequencies(const NoiseSource& source, const std::string& where) {
  constexpr double kSmallest = 0x1p16;
  constexpr double kLargest = 0x1p53;
  std::vector<double> frequencies;
  double frequency = 0x1p48 / source.width;
  for (int k = 0; k < source.usedOctaves(); ++k, frequency *= source.lacunarity) {
    if (!(frequency + 0.5 >= kSmallest && frequency <= kLargest))
      return refuse(where + "/octaves",
                    fmt::format("octave {} would have a feature width of {:.6g} cells", k + 1,
                                0x1p48 / frequency),
                    fmt::format("{} to {} cells in every octave, here at most {} octaves",
                                limits::width.low, limits::width.high, k));
    frequencies.push_back(frequency);
  }
  return frequencies;
}

std::vector<std::string> fieldsReadBy(const Layer& layer) {
  std::vector<std::string> ids;
  if (const auto* source = std::get_if<FieldSource>(&layer.source)) ids.push_back(source->field);
  if (std::holds_alternative<AltitudeSource>(layer.source) ||
      std::holds_alternative<WaterSource>(layer.source))
    ids.push_back(kHeightsId);
  if (layer.mask) ids.push_back(layer.mask->field);
  return ids;
}

std::vector<std::string> readersOf(const Recipe& recipe, const std::string& fieldId) {
  std::vector<std::string> readers;
  const auto add = [&](const FieldRecipe& field) {
    for (const Layer& layer : field.layers) {
      const auto ids = fieldsReadBy(layer);
      if (std::find(ids.begin(), ids.end(), fieldId) != ids.end())
        readers.push_back(field.name + ": " + layer.name);
    }
  };
  for (const FieldRecipe* field : fieldsOf(recipe)) add(*field);
  return readers;
}

bool readsWaterDistance(const Recipe& recipe, const FieldRecipe& field) {
  return std::any_of(field.layers.begin(), field.layers.end(), [&](const Layer& layer) {
    if (!layer.on) return false;
    if (std::holds_alternative<WaterSource>(layer.source)) return true;
    const auto ids = fieldsReadBy(layer);
    return std::any_of(ids.begin(), ids.end(), [&](const std::string& id) {
      const FieldRecipe* read = fieldOf(recipe, id);
      return read && readsWaterDistance(recipe, *read);
    });
  });
}

bool isStationary(const Layer& layer,
                  const std::function<const FieldRecipe*(const std::string&)>& find) {
  if (std::holds_alternative<RampSource>(layer.source) ||
      std::holds_alternative<DistanceSource>(layer.source) ||
      std::holds_alternative<IslandSource>(layer.source) ||
      std::holds_alternative<PictureSource>(layer.source) ||
      std::holds_alternative<LatitudeSource>(layer.source) ||
      std::holds_alternative<WaterSource>(layer.source))
    return false;
  const auto ids = fieldsReadBy(layer);
  return std::all_of(ids.begin(), ids.end(), [&](const std::string& id) {
    const FieldRecipe* field = find(id);
    return !field || std::all_of(field->layers.begin(), field->layers.end(),
                                 [&](const Layer& l) { return !l.on || isStationary(l, find); });
  });
}

// ---- what a field could reach ------------------------------------------------------------------

namespace {

Range curveRange(const Curve& curve, const Range& in) {
  if (curve.empty()) return in;
  const auto [low, high] =
      std::minmax_element(curve.begin(), curve.end(),
                          [](const CurvePoint& a, const CurvePoint& b) { return a.y < b.y; });
  return {low->y, high->y};
}

Range clampRange(const std::optional<Clamp>& clamp, const Range& in) {
  if (!clamp) return in;
  return {std::clamp(in.low, clamp->low, clamp->high),
          std::clamp(in.high, clamp->low, clamp->high)};
}

Range scaled(const Range& r, double factor, double offset) {
  const double a = r.low * factor + offset, b = r.high * factor + offset;
  return {std::min(a, b), std::max(a, b)};
}

/// Most that a second-nearest site can be away in two dimensions, by any metric.
constexpr double kFarthestSite = 2.5;

Range sourceRange(const Recipe& recipe, const Source& source, const Range& sum) {
  struct Visit {
    const Recipe& recipe;
    const Range& sum;
    Range operator()(const NoiseSource& s) const {
      const bool distance = s.basis == Basis::Cellular && s.result != CellularResult::Site;
      const double reach = distance ? kFarthestSite : 1;
      Range one{distance ? 0.0 : -1.0, reach};
      if (s.fractal == Fractal::Ridged) one = {1 - 2 * reach, 1};
      if (s.fractal == Fractal::Billowed) one = {-1, 2 * reach - 1};
      double weights = 0, weight = 1;
      for (int k = 0; k < s.usedOctaves(); ++k, weight *= s.gain) weights += weight;
      return {one.low * weights, one.high * weights};
    }
    Range operator()(const ConstantSource& s) const { return {s.value, s.value}; }
    Range operator()(const RampSource&) const { return {0, 1}; }
    Range operator()(const DistanceSource&) const { return {0, 1}; }
    Range operator()(const IslandSource&) const { return {0, 1}; }
    Range operator()(const PictureSource& s) const {
      return {std::min(0.0, s.outsideValue), std::max(1.0, s.outsideValue)};
    }
    Range operator()(const FieldSource& s) const {
      if (s.field == kHeightsId) return possibleHeights(recipe);
      const FieldRecipe* field = fieldOf(recipe, s.field);
      return field ? possibleRange(recipe, *field) : Range{0, 0};
    }
    Range operator()(const LatitudeSource&) const { return {0, 1}; }
    Range operator()(const WaterSource&) const { return {0, 1}; }
    Range operator()(const WalkSource& s) const { return walkRange(s); }
    Range operator()(const AltitudeSource&) const {
      // Wherever a share puts the sea, it lies within the heights.
      const Range heights = possibleHeights(recipe);
      const double sea = recipe.frame.seaShare ? heights.low : recipe.frame.seaLevel;
      return {0, std::max(0.0, heights.high - sea)};
    }
    Range operator()(const TerraceSource& s) const { return {sum.low - s.height, sum.high}; }
    Range operator()(const FoldSource& s) const {
      const double a = std::abs(sum.low - s.centre), b = std::abs(sum.high - s.centre);
      const bool across = sum.low <= s.centre && sum.high >= s.centre;
      return {across ? 0 : std::min(a, b), std::max(a, b)};
    }
    Range operator()(const RescaleSource& s) const {
      const double factor = (s.toHigh - s.toLow) / (s.fromHigh - s.fromLow);
      return scaled(sum, factor, s.toLow - s.fromLow * factor);
    }
    Range operator()(const EqualiseSource&) const { return {0, 1}; }
  };
  return std::visit(Visit{recipe, sum}, source);
}

Range joined(const Layer& layer, const Range& a, const Range& b) {
  switch (layer.combine) {
    case Combine::Add:
      return {a.low + b.low, a.high + b.high};
    case Combine::Subtract:
      return {a.low - b.high, a.high - b.low};
    case Combine::Multiply: {
      const auto [low, high] =
          std::minmax({a.low * b.low, a.low * b.high, a.high * b.low, a.high * b.high});
      return {low, high};
    }
    case Combine::Minimum:
      return {std::min(a.low, b.low), std::min(a.high, b.high)};
    case Combine::Maximum:
      return {std::max(a.low, b.low), std::max(a.high, b.high)};
    case Combine::SmoothMinimum:
      return {std::min(a.low, b.low) - layer.amount / 4, std::min(a.high, b.high)};
    case Combine::SmoothMaximum:
      return {std::max(a.low, b.low), std::max(a.high, b.high) + layer.amount / 4};
    case Combine::Mix:
      return {a.low + layer.amount * (b.low - a.low), a.high + layer.amount * (b.high - a.high)};
    case Combine::Replace:
      return b;
  }
  return a;
}

}  // namespace

Range possibleRange(const Recipe& recipe, const FieldRecipe& field) {
  Range sum{0, 0};
  for (const Layer& layer : field.layers) {
    if (!layer.on) continue;
    Range value = sourceRange(recipe, layer.source, sum);
    if (layer.equalise) value = {0, 1};
    value = curveRange(layer.curve, value);
    value = scaled(value, layer.amplitude, layer.offset);
    value = clampRange(layer.clamp, value);
    const Range after = reshapes(layer.source) ? value : joined(layer, sum, value);
    sum = layer.mask ? Range{std::min(sum.low, after.low), std::max(sum.high, after.high)} : after;
  }
  return clampRange(field.clamp, curveRange(field.curve, sum));
}

Range possibleHeights(const Recipe& recipe) {
  return recipe.heightsOn ? possibleRange(recipe, recipe.heights) : Range{0, 0};
}

Range possibleSurface(const Recipe& recipe) {
  const Range base = possibleHeights(recipe);
  const Biomes& biomes = recipe.biomes;
  if (!biomes.on) return base;
  double steep = 1, up = 0, down = 0;
  const double noise = sourceRange(recipe, biomes.roughness, {0, 0}).high;
  for (const Biome& biome : biomes.list) {
    steep = std::max(steep, biome.relief.factor);
    const double rough = std::abs(biome.relief.rough) * noise;
    up = std::max(up, biome.relief.raise + rough);
    down = std::min(down, biome.relief.raise - rough);
  }
  if (steep == 1 && up == 0 && down == 0) return base;
  // A sea that a share holds may lie anywhere between the heights.
  const double sea = recipe.frame.seaLevel;
  const bool held = recipe.frame.seaShare.has_value();
  const double below = held ? base.high - base.low : std::max(0.0, sea - base.low);
  const double above = held ? base.high - base.low : std::max(0.0, base.high - sea);
  return {(held ? base.high : sea) - below * steep + down,
          (held ? base.low : sea) + above * steep + up};
}

Status validate(const Recipe& recipe) {
  Checks checks;
  if (recipe.generation != 0)
    checks.add(refuse("/generation", fmt::format("{} is not known here", recipe.generation), "0"));
  checks.add(checkText("/name", recipe.name, limits::nameBytes));
  checks.add(checkText("/seed", recipe.seed, limits::seedBytes));
  if (recipe.seed.empty() || trimmedSeed(recipe.seed) != recipe.seed)
    checks.add(refuse("/seed", "the seed is empty or has white space at an end",
                      "text or a whole number from -2^63 to 2^64-1"));

  const Frame& frame = recipe.frame;
  checks.add(checkNumber("/frame/chunk", frame.chunkSize, limits::chunkSize));
  checks.add(checkNumber("/frame/sea", frame.seaLevel, limits::altitude));
  if (frame.seaShare) checks.add(checkNumber("/frame/sea/share", *frame.seaShare, limits::share));
  checks.add(checkBounds("/frame/bounds/x", frame.x));
  checks.add(checkBounds("/frame/bounds/z", frame.z));

  checks.add(checkCount("/materials", recipe.materials.size(), limits::materials));
  checks.add(checkCount("/heights/layers", recipe.heights.layers.size(), limits::layers));
  checks.add(checkCount("/fields", recipe.fields.size(), limits::fields));
  checks.add(checkCount("/strata/slopes", recipe.slopes.size(), limits::slopes));
  for (size_t i = 0; i < recipe.fields.size(); ++i)
    checks.add(checkCount(fmt::format("/fields/{}/layers", i), recipe.fields[i].layers.size(),
                          limits::layers));
  checks.add(checkCount("/strata/bands", recipe.bands.size(), limits::bands));
  for (const ClimateAxis* axis : {&recipe.climate.temperature, &recipe.climate.moisture})
    checks.add(checkCount(pointerOf(recipe, axis->field) + "/layers", axis->field.layers.size(),
                          limits::layers));
  if (!checks.ok()) return std::move(checks).result();

  std::set<std::string> materials;
  for (size_t i = 0; i < recipe.materials.size() && checks.ok(); ++i) {
    const std::string at = fmt::format("/materials/{}", i);
    const Material& material = recipe.materials[i];
    checks.add(checkId(at + "/id", material.id));
    checks.add(checkText(at + "/name", material.name, limits::nameBytes));
    if (material.id == kUnassignedId || material.id == kOpenId ||
        !materials.insert(material.id).second)
      checks.add(refuse(at + "/id", fmt::format("\"{}\" is taken", material.id), "a new id"));
  }

  std::set<std::string> ids = {kHeightsId, kTemperatureId, kMoistureId};
  for (size_t i = 0; i < recipe.fields.size() && checks.ok(); ++i) {
    const std::string at = fmt::format("/fields/{}", i);
    checks.add(checkId(at + "/id", recipe.fields[i].id));
    checks.add(checkText(at + "/name", recipe.fields[i].name, limits::nameBytes));
    if (!ids.insert(recipe.fields[i].id).second)
      checks.add(
          refuse(at + "/id", fmt::format("\"{}\" is taken", recipe.fields[i].id),
                 "an id that no other field has, other than heights, temperature and moisture"));
    checkField(checks, recipe, recipe.fields[i]);
  }
  if (checks.ok()) checkField(checks, recipe, recipe.heights);
  for (const ClimateAxis* axis : {&recipe.climate.temperature, &recipe.climate.moisture})
    if (checks.ok()) checkClimateAxis(checks, recipe, *axis);
  if (!checks.ok()) return std::move(checks).result();
  References references(checks, recipe);
  for (const FieldRecipe* field : fieldsOf(recipe))
    if (checks.ok()) references.count(*field);
  if (!checks.ok()) return std::move(checks).result();
  for (const FieldRecipe* field : fieldsOf(recipe)) checkEqualise(checks, recipe, *field);
  const auto checkReach = [&](const FieldRecipe& field) {
    const Range reach = possibleRange(recipe, field);
    if (!(reach.low >= -limits::reachableHeight && reach.high <= limits::reachableHeight))
      checks.add(refuse(
          pointerOf(recipe, field) + "/layers",
          fmt::format("{} could reach {:.4g} to {:.4g}",
                      &field == &recipe.heights ? "heights" : "values", reach.low, reach.high),
          "-1e9 to 1e9 for the whole stack"));
  };
  for (const FieldRecipe* field : fieldsOf(recipe)) checkReach(*field);

  ids.clear();
  for (size_t i = 0; i < recipe.slopes.size() && checks.ok(); ++i) {
    const std::string at = fmt::format("/strata/slopes/{}", i);
    const SlopeBand& slope = recipe.slopes[i];
    checks.add(checkId(at + "/id", slope.id));
    checks.add(checkNumber(at + "/from", slope.from, limits::slope));
    checkThreshold(checks, at + "/above", slope.above);
    checkThreshold(checks, at + "/below", slope.below);
    checkMaterial(checks, at, slope.material, materials);
    if (!ids.insert(slope.id).second)
      checks.add(refuse(at + "/id", fmt::format("\"{}\" is taken", slope.id),
                        "an id that no other slope has"));
  }

  checkBands(checks, "/strata/bands", recipe.bands, materials);
  if (checks.ok()) checkBiomes(checks, recipe, materials);
  if (checks.ok()) checkBlocks(checks, recipe, materials);
  if (checks.ok()) checkCaves(checks, recipe, materials);
  if (checks.ok()) checkLevel(checks, recipe, materials);
  const Range surface = possibleSurface(recipe);
  if (!(surface.low >= -limits::reachableHeight && surface.high <= limits::reachableHeight))
    checks.add(refuse("/biomes/list",
                      fmt::format("with what the biomes do to them, heights could reach {:.4g} to "
                                  "{:.4g}",
                                  surface.low, surface.high),
                      "-1e9 to 1e9"));
  return std::move(checks).result();
}

}  // namespace acre
