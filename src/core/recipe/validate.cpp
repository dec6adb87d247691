#include "recipe/validate.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <map>
#include <set>

#include "recipe/cave_recipe.h"
#include "recipe/describe.h"
#include "recipe/level_recipe.h"
#include "recipe/object_recipe.h"
#include "recipe/walk.h"
#include "recipe/water_recipe.h"

namespace acre {
namespace {

Error refuse(std::string where, std::string what, std::string accepted) {
  return {Error::Code::InvalidInput, std::move(what), std::move(where), std::move(accepted)};
}

/// Checks in order and keeps the first refusal.
class Checks {
 public:
  void add(Error error) {
    if (!first_) first_ = std::move(error);
  }
  bool ok() const { return !first_; }
  Status result() && { return first_ ? Status(std::move(*first_)) : done(); }

 private:
  std::optional<Error> first_;
};

/// Checks every member against what is said of it, then the rules over several.
class Checker : public Visitor, private Ruling {
 public:
  Checker(Checks& checks, const Recipe& recipe) : checks_(checks), recipe_(recipe) {
    for (const Material& material : recipe.materials) materials_.insert(material.id);
    for (const Biome& biome : recipe.biomes.list) biomes_.insert(biome.id);
    for (const Slice& slice : recipe.biomes.slices) slices_.insert(slice.id);
    for (const CaveKind& kind : recipe.caves->kinds) caves_.insert(kind.id);
    for (const LevelProcess& process : recipe.level->processes)
      if (std::holds_alternative<NoiseWalls>(process.what)) walls_.insert(process.id);
  }

  void number(const About& about, double& v) override {
    checkNumber(placeOf(about), v, about.range);
    if (about.whole && v != std::floor(v))
      checks_.add(acre::refuse(placeOf(about), fmt::format("{} is no whole number", v),
          "a whole number from " + about.range.text()));
  }
  void whole(const About& about, int64_t& v) override {
    checkNumber(placeOf(about), static_cast<double>(v), about.range);
  }
  void flag(const About&, bool&) override {}
  void choice(const About&, const Words&, size_t&) override {}
  void colour(const About&, Colour&) override {}
  void text(const About& about, std::string& v) override {
    const std::string at = placeOf(about);
    const bool mayBeNone = about.presence != Presence::Must && v.empty();
    if (v.size() > about.most)
      checks_.add(acre::refuse(at, fmt::format("{} bytes of text are too long", v.size()),
          fmt::format("at most {} bytes", about.most)));
    switch (about.role) {
      case Role::Plain:
      case Role::Name:
      case Role::File:
        return;
      case Role::Id:
      case Role::Tag:
        return checkId(at, v, about.role == Role::Id);
      case Role::Ground:
      case Role::Material:
        if (about.role == Role::Ground && v == kSurfaceId) return;
        if (v != kUnassignedId && !materials_.contains(v))
          unknown(at, "material", v, "the id of a listed material, or null");
        return;
      case Role::Listed:
        if (!mayBeNone && !materials_.contains(v))
          unknown(at, "material", v,
              about.presence == Presence::Must ? "the id of a listed material"
                                               : "the id of a listed material, or none");
        return;
      case Role::Field:
        if (!mayBeNone && !fieldOf(recipe_, v) && !isIdle())
          unknown(at, "field", v,
              about.presence == Presence::Must ? "the id of a field, or heights"
                                               : "the id of a field, or none");
        return;
      case Role::Biome:
        if (!mayBeNone && !biomes_.contains(v)) unknown(at, "biome", v, "the id of a biome");
        return;
      case Role::Slice:
        if (!slices_.contains(v)) unknown(at, "slice", v, "the id of a slice");
        return;
      case Role::Walls:
        if (!walls_.contains(v))
          unknown(at, "process", v, "the id of a process that makes walls of noise");
        return;
      case Role::Cave:
        if (!caves_.contains(v)) unknown(at, "cave kind", v, "the id of one of /caves/kinds");
        return;
    }
  }
  void threshold(const About& about, Threshold& v) override {
    const std::string at = placeOf(about);
    checkNumber(at, v.value, about.range);
    if (v.share) checkNumber(at + "/share", *v.share, limits::share);
  }
  /// Amounts must hold on the first floor and on the last.
  void amount(const About& about, Amount& v) override {
    for (const int floor : {recipe_.level->firstFloor, recipe_.level->lastFloor})
      if (!about.range.holds(v.on(floor)))
        checks_.add(acre::refuse(placeOf(about),
            fmt::format("{} on floor {} is out of range", v.on(floor), floor), about.range.text()));
  }
  void curve(const About& about, Curve& v) override {
    const std::string at = placeOf(about);
    if (v.size() == 1)
      checks_.add(acre::refuse(at, "a curve of one point", "no point, or 2 to 64 of them"));
    checkCount(at, v.size(), limits::curvePoints);
    for (size_t i = 0; i < v.size() && checks_.ok(); ++i) {
      checkNumber(fmt::format("{}/{}/0", at, i), v[i].x, limits::altitude);
      checkNumber(fmt::format("{}/{}/1", at, i), v[i].y, about.range);
      if (i > 0 && !(static_cast<float>(v[i].x) > static_cast<float>(v[i - 1].x)))
        checks_.add(acre::refuse(fmt::format("{}/{}/0", at, i),
            fmt::format("{} does not lie above the point before ({})", v[i].x, v[i - 1].x),
            "points with rising x"));
    }
  }
  void pair(const About& about, std::optional<double>& a, std::optional<double>& b) override {
    const std::string at = placeOf(about);
    if (a) checkNumber(at + "/0", *a, about.range);
    if (b) checkNumber(at + "/1", *b, about.range);
  }
  void rows(const About&, Painting&) override {}

  bool optional(const About&, bool there) override { return there; }
  void object(const About& about, const Members& members) override {
    if (about.presence == Presence::Sparse && about.same) return;  // As if it were not there.
    inside(placeOf(about), members);
  }
  void list(const About& about, size_t count, const Member&, const Member& member) override {
    const std::string at = placeOf(about);
    checkCount(at, count, about.most);
    std::set<std::string> ids;
    std::swap(ids, ids_);
    for (size_t i = 0; i < count && checks_.ok(); ++i)
      inside(fmt::format("{}/{}", at, i), [&] { member(i); });
    std::swap(ids, ids_);
  }
  void kinds(const About&, const Words&, size_t now, const Member& members) override {
    members(now);
  }
  bool instead(const About&, const Words&, size_t&, bool now) override { return now; }
  bool lent(const About&, std::string& of) override { return !of.empty(); }
  void rule(const std::function<void(Ruling&)>& holds) override {
    if (checks_.ok()) holds(*this);
  }

  /// Names of what is not there: after everything else, since what is wrong there may be why.
  void finish() {
    if (unknown_) checks_.add(std::move(*unknown_));
  }

 private:
  const Recipe& recipe() const override { return recipe_; }
  bool listed(const std::string& material) const override { return materials_.contains(material); }
  const std::string& at() const override { return at_; }
  bool ok() const override { return checks_.ok(); }
  using Ruling::refuse;
  void refuse(const std::string& member, std::string what, std::string accepted) override {
    refuse(acre::refuse(
        member.empty() ? at_ : at_ + "/" + member, std::move(what), std::move(accepted)));
  }
  void refuse(Error error) override { checks_.add(std::move(error)); }

  /// Within what is switched off, fields may be read that are off with it.
  bool isIdle() const {
    return (!recipe_.climate.on && at_.starts_with("/climate/")) ||
           (!recipe_.biomes.on && at_.starts_with("/biomes/chart/"));
  }
  std::string placeOf(const About& about) const {
    return about.key.empty() ? at_ : fmt::format("{}/{}", at_, about.key);
  }
  void inside(std::string at, const Members& members) {
    std::swap(at, at_);
    members();
    std::swap(at, at_);
  }
  void checkNumber(const std::string& where, double value, const Range& range) {
    if (!range.holds(value))
      checks_.add(acre::refuse(where, fmt::format("{} is out of range", value), range.text()));
  }
  void checkCount(const std::string& where, size_t count, size_t most) {
    if (count > most)
      checks_.add(acre::refuse(
          where, fmt::format("{} members are too many", count), fmt::format("at most {}", most)));
  }
  void checkId(const std::string& where, const std::string& id, bool alone) {
    const bool plain = std::all_of(id.begin(), id.end(), [](char c) {
      return (c >= 'a' && c <= 'z') || (c >= '0' && c <= '9') || c == '-' || c == '_' || c == '.';
    });
    if (!plain || id.empty() || id.size() > 64)
      checks_.add(acre::refuse(where, fmt::format("\"{:.80}\" is not an id", id),
          "1 to 64 characters of a-z, 0-9, '-', '_' and '.'"));
    if (alone && !ids_.insert(id).second)
      checks_.add(acre::refuse(where, fmt::format("\"{}\" is taken", id), "an id of its own"));
  }
  void unknown(
      const std::string& where, const char* what, const std::string& id, std::string accepted) {
    if (!unknown_)
      unknown_ = acre::refuse(
          where, fmt::format("there is no {} \"{:.80}\"", what, id), std::move(accepted));
  }

  Checks& checks_;
  const Recipe& recipe_;
  std::optional<Error> unknown_;  // The first name of what is not there.
  std::string at_;                // JSON pointer of the struct that is looked at.
  std::set<std::string> ids_;     // Of the members of the list that is.
  std::set<std::string> materials_, biomes_, slices_, caves_, walls_;
};

/// What reads the heights without naming them.
bool readsHeights(const Source& source) {
  return std::holds_alternative<AltitudeSource>(source) ||
         std::holds_alternative<WaterSource>(source) ||
         std::holds_alternative<FreshWaterSource>(source);
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
        const bool altitude = readsHeights(layer.source);
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
    if (!field) return 0;  // Refused already.
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

/// Equalising needs to know the distribution: from everywhere alike, or from inside bounds.
void checkEqualise(Checks& checks, const Recipe& recipe, const FieldRecipe& field) {
  if (recipe.frame.x && recipe.frame.z && !readsWaterDistance(recipe, field) &&
      !readsFreshWater(recipe, field))
    return;
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
          fmt::format(
              "octave {} would have a feature width of {:.6g} cells", k + 1, 0x1p48 / frequency),
          fmt::format("{} to {} cells in every octave, here at most {} octaves", limits::width.low,
              limits::width.high, k));
    frequencies.push_back(frequency);
  }
  return frequencies;
}

std::vector<std::string> fieldsReadBy(const Layer& layer) {
  std::vector<std::string> ids;
  if (const auto* source = std::get_if<FieldSource>(&layer.source)) ids.push_back(source->field);
  if (readsHeights(layer.source)) ids.push_back(kHeightsId);
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

namespace {

/// The fields from one that holds such a source back to this one; nothing where there is none. The
/// heights are let be that such a source reads.
template <class Kind>
std::vector<const FieldRecipe*> chainTo(const Recipe& recipe, const FieldRecipe& field) {
  for (const Layer& layer : field.layers) {
    if (!layer.on) continue;
    if (std::holds_alternative<Kind>(layer.source)) return {&field};
    for (const std::string& id : fieldsReadBy(layer)) {
      const FieldRecipe* read = fieldOf(recipe, id);
      if (!read) continue;
      if (auto chain = chainTo<Kind>(recipe, *read); !chain.empty()) {
        chain.push_back(&field);
        return chain;
      }
    }
  }
  return {};
}

/// What comes before the stage Water cannot read what it says.
void checkBeforeWater(Checks& checks, const Recipe& recipe) {
  const auto refuseChain = [&](const std::string& where, const char* what, const FieldRecipe* of) {
    if (!of) return;
    const auto chain = chainTo<FreshWaterSource>(recipe, *of);
    if (chain.empty()) return;
    std::string text;
    for (auto field = chain.rbegin(); field != chain.rend(); ++field) text += (*field)->id + " → ";
    checks.add(refuse(where,
        fmt::format(
            "rivers and lakes come after {}, which cannot read them: {}fresh water", what, text),
        "a field that holds no fresh water"));
  };
  if (recipe.climate.on)
    for (const ClimateAxis* axis : {&recipe.climate.temperature, &recipe.climate.moisture})
      refuseChain(pointerOf(recipe, axis->field), "the climate", &axis->field);
  if (recipe.rivers->on && recipe.rivers->courses.any())
    refuseChain("/rivers/courses/field", "the ways' obstacles",
        fieldOf(recipe, recipe.rivers->courses.field));
  const Biomes& biomes = recipe.biomes;
  if (!biomes.on) return;
  refuseChain("/biomes/x/field", "what decides on biomes", fieldOf(recipe, biomes.x.field));
  refuseChain("/biomes/y/field", "what decides on biomes", fieldOf(recipe, biomes.y.field));
  const RegionWarp& warp = biomes.regions.warp;
  if (!biomes.regions.on || warp.x.empty()) return;
  refuseChain("/biomes/regions/warp/x", "the regions' borders", fieldOf(recipe, warp.x));
  refuseChain("/biomes/regions/warp/z", "the regions' borders", fieldOf(recipe, warp.z));
}

}  // namespace

bool readsWaterDistance(const Recipe& recipe, const FieldRecipe& field) {
  return !chainTo<WaterSource>(recipe, field).empty();
}

bool readsFreshWater(const Recipe& recipe, const FieldRecipe& field) {
  return !chainTo<FreshWaterSource>(recipe, field).empty();
}

std::vector<const FieldRecipe*> fieldsBeforeWater(const Recipe& recipe) {
  auto fields = fieldsOf(recipe);
  std::erase_if(fields, [&](const FieldRecipe* field) { return readsFreshWater(recipe, *field); });
  return fields;
}

bool isStationary(
    const Layer& layer, const std::function<const FieldRecipe*(const std::string&)>& find) {
  if (std::holds_alternative<RampSource>(layer.source) ||
      std::holds_alternative<DistanceSource>(layer.source) ||
      std::holds_alternative<IslandSource>(layer.source) ||
      std::holds_alternative<PictureSource>(layer.source) ||
      std::holds_alternative<LatitudeSource>(layer.source) ||
      std::holds_alternative<WaterSource>(layer.source) ||
      std::holds_alternative<FreshWaterSource>(layer.source))
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
  const auto [low, high] = std::minmax_element(curve.begin(), curve.end(),
      [](const CurvePoint& a, const CurvePoint& b) { return a.y < b.y; });
  return {low->y, high->y};
}

Range clampRange(const std::optional<Clamp>& clamp, const Range& in) {
  if (!clamp) return in;
  return {
      std::clamp(in.low, clamp->low, clamp->high), std::clamp(in.high, clamp->low, clamp->high)};
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
    Range operator()(const FreshWaterSource& s) const {
      if (s.tells == FreshWaterSource::Tells::Shore) return {0, 46};
      if (s.tells == FreshWaterSource::Tells::Mark) return {0, 1};
      const Range heights = possibleHeights(recipe);
      const double most =
          std::max(std::abs(heights.low), std::abs(heights.high)) + std::abs(recipe.frame.seaLevel);
      return {-most, most};
    }
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

int64_t deepestOf(const Recipe& recipe, const std::vector<DepthLayer>& layers) {
  double deepest = 0;
  for (const DepthLayer& layer : layers) {
    double thick = layer.thickness;
    if (const FieldRecipe* field = layer.field.empty() ? nullptr : fieldOf(recipe, layer.field)) {
      const Range reach = possibleRange(recipe, *field);
      thick += std::max(layer.vary * reach.low, layer.vary * reach.high);
    }
    deepest += std::max(0.0, std::floor(thick));
  }
  return static_cast<int64_t>(std::min(deepest, 1e9));
}

Status validate(const Recipe& recipe) {
  Checks checks;
  Checker checker(checks, recipe);
  look(checker, recipe);
  checker.finish();
  if (!checks.ok()) return std::move(checks).result();
  References references(checks, recipe);
  for (const FieldRecipe* field : fieldsOf(recipe))
    if (checks.ok()) references.count(*field);
  if (checks.ok()) checkBeforeWater(checks, recipe);
  if (!checks.ok()) return std::move(checks).result();
  for (const FieldRecipe* field : fieldsOf(recipe)) checkEqualise(checks, recipe, *field);
  const auto reachable = [](const Range& reach) {
    return reach.low >= -limits::reachableHeight && reach.high <= limits::reachableHeight;
  };
  for (const FieldRecipe* field : fieldsOf(recipe))
    if (const Range reach = possibleRange(recipe, *field); !reachable(reach))
      checks.add(refuse(pointerOf(recipe, *field) + "/layers",
          fmt::format("{} could reach {:.4g} to {:.4g}",
              field == &recipe.heights ? "heights" : "values", reach.low, reach.high),
          "-1e9 to 1e9 for the whole stack"));
  if (const Range surface = possibleSurface(recipe); !reachable(surface))
    checks.add(refuse("/biomes/list",
        fmt::format("with what the biomes do to them, heights could reach {:.4g} to "
                    "{:.4g}",
            surface.low, surface.high),
        "-1e9 to 1e9"));
  return std::move(checks).result();
}

}  // namespace acre
