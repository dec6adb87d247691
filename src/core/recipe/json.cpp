#include "recipe/json.h"

#include <fmt/format.h>

#include <charconv>
#include <cmath>

#include "base/atomic_file.h"
#include "recipe/json_reader.h"
#include "recipe/overrides.h"
#include "recipe/validate.h"

namespace acre {
namespace {

constexpr const char* kFormat = "kindred-acre recipe";
constexpr int kVersion = 1;

// ---- writing ---------------------------------------------------------------------------------

/// Whole values without a decimal point; −0 as 0.
Json numberJson(double v) {
  if (std::floor(v) == v && v >= -0x1p53 && v <= 0x1p53) return static_cast<int64_t>(v);
  return v;
}

Json boundsJson(const std::optional<AxisBounds>& axis) {
  if (!axis) return nullptr;
  return {{"min", axis->min}, {"extent", axis->extent}};
}

const char* stateName(MaterialState state) {
  switch (state) {
    case MaterialState::Solid:
      return "solid";
    case MaterialState::Passable:
      return "passable";
    case MaterialState::Liquid:
      return "liquid";
  }
  return "";
}

// Words of the file for the enumerations of the recipe, in their order.
const std::vector<std::string_view> kKinds = {
    "gradient", "value", "simplex",  "cellular", "white",    "gradient-2002",
    "constant", "ramp",  "distance", "island",   "picture",  "field",
    "terrace",  "fold",  "rescale",  "equalise", "latitude", "altitude"};
constexpr size_t kBases = 6;  // The first kinds are noise.
const std::vector<std::string_view> kFractals = {"single", "fbm", "ridged", "billowed"};
const std::vector<std::string_view> kResults = {"first", "second", "difference", "site"};
const std::vector<std::string_view> kMetrics = {"euclidean", "manhattan", "chebyshev"};
const std::vector<std::string_view> kCombines = {
    "add", "multiply", "subtract", "minimum", "maximum", "smooth-minimum", "smooth-maximum",
    "mix", "replace"};
const std::vector<std::string_view> kAxes = {"x", "z", "y"};
const std::vector<std::string_view> kOutsides = {"value", "edge", "repeat"};
const std::vector<std::string_view> kEdges = {"hard", "dithered", "noisy"};

template <class E>
std::string word(const std::vector<std::string_view>& words, E value) {
  return std::string(words[static_cast<size_t>(value)]);
}

/// Places in kKinds. Noise comes first, in the order of Basis, then the sources in theirs.
enum Kind : size_t {
  kGradientKind,
  kValueKind,
  kSimplexKind,
  kCellularKind,
  kWhiteKind,
  kGradient2002Kind,
  kConstantKind,
  kRampKind,
  kDistanceKind,
  kIslandKind,
  kPictureKind,
  kFieldKind,
  kTerraceKind,
  kFoldKind,
  kRescaleKind,
  kEqualiseKind,
  kLatitudeKind,
  kAltitudeKind
};

/// Index of the layer's kind in kKinds.
size_t kindOf(const Source& source) {
  if (const auto* noise = std::get_if<NoiseSource>(&source))
    return static_cast<size_t>(noise->basis);
  return kBases - 1 + source.index();
}

/// Everything about noise but its basis.
void noiseJson(Json& out, const NoiseSource& noise) {
  out["fractal"] = word(kFractals, noise.fractal);
  out["width"] = numberJson(noise.width);
  out["octaves"] = noise.octaves;
  out["lacunarity"] = numberJson(noise.lacunarity);
  out["gain"] = numberJson(noise.gain);
  if (noise.rotate) out["rotate"] = true;
  if (noise.basis != Basis::Cellular) return;
  out["result"] = word(kResults, noise.result);
  out["metric"] = word(kMetrics, noise.metric);
  out["jitter"] = numberJson(noise.jitter);
}

Json curveJson(const Curve& curve) {
  Json out = Json::array();
  for (const CurvePoint& p : curve) out.push_back({numberJson(p.x), numberJson(p.y)});
  return out;
}

Json clampJson(const Clamp& clamp) {
  return {{"low", numberJson(clamp.low)}, {"high", numberJson(clamp.high)}};
}

struct SourceWriter {
  Json& out;
  void operator()(const NoiseSource& s) const { noiseJson(out, s); }
  void operator()(const ConstantSource& s) const { out["value"] = numberJson(s.value); }
  void operator()(const RampSource& s) const {
    out["axis"] = word(kAxes, s.axis);
    out["from"] = numberJson(s.from);
    out["to"] = numberJson(s.to);
  }
  void operator()(const DistanceSource& s) const {
    out["x"] = numberJson(s.x);
    out["z"] = numberJson(s.z);
    out["reach"] = numberJson(s.reach);
  }
  void operator()(const IslandSource& s) const {
    out["shape"] = s.square ? "square" : "round";
    out["x"] = numberJson(s.x);
    out["z"] = numberJson(s.z);
    out["radius"] = numberJson(s.radius);
    out["edge"] = numberJson(s.edge);
    out["wobble"] = numberJson(s.wobble);
    out["wobbleWidth"] = numberJson(s.wobbleWidth);
  }
  void operator()(const PictureSource& s) const {
    out["file"] = s.file;
    out["x"] = numberJson(s.x);
    out["z"] = numberJson(s.z);
    out["scale"] = numberJson(s.scale);
    out["smooth"] = s.smooth;
    out["outside"] = word(kOutsides, s.outside);
    if (s.outside == PictureSource::Outside::Value)
      out["outsideValue"] = numberJson(s.outsideValue);
  }
  void operator()(const FieldSource& s) const { out["field"] = s.field; }
  void operator()(const TerraceSource& s) const {
    out["height"] = numberJson(s.height);
    out["flat"] = numberJson(s.flat);
  }
  void operator()(const FoldSource& s) const { out["centre"] = numberJson(s.centre); }
  void operator()(const RescaleSource& s) const {
    out["from"] = {numberJson(s.fromLow), numberJson(s.fromHigh)};
    out["to"] = {numberJson(s.toLow), numberJson(s.toHigh)};
  }
  void operator()(const EqualiseSource&) const {}
  void operator()(const LatitudeSource& s) const {
    out["equator"] = numberJson(s.equator);
    out["reach"] = numberJson(s.reach);
  }
  void operator()(const AltitudeSource&) const {}
};

Json layerJson(const Layer& layer) {
  Json out = {{"id", layer.id}, {"name", layer.name}, {"on", layer.on}};
  if (!reshapes(layer.source)) out["combine"] = word(kCombines, layer.combine);
  if (layer.combine >= Combine::SmoothMinimum && layer.combine <= Combine::Mix)
    out["amount"] = numberJson(layer.amount);
  out["kind"] = word(kKinds, kindOf(layer.source));
  std::visit(SourceWriter{out}, layer.source);
  const bool plain = std::holds_alternative<ConstantSource>(layer.source) || reshapes(layer.source);
  if (!plain || layer.amplitude != 1) out["amplitude"] = numberJson(layer.amplitude);
  if (!plain || layer.offset != 0) out["offset"] = numberJson(layer.offset);
  if (layer.sampling) {
    out["sampling"] = {{"x", numberJson(layer.sampling->x)}, {"z", numberJson(layer.sampling->z)}};
    if (layer.sampling->scatter) out["sampling"]["scatter"] = true;
  } else if (std::holds_alternative<NoiseSource>(layer.source)) {
    out["sampling"] = "scatter";
  }
  if (layer.warp) {
    Json warp = {{"kind", word(kKinds, static_cast<size_t>(layer.warp->noise.basis))},
                 {"cells", numberJson(layer.warp->cells)},
                 {"passes", layer.warp->passes}};
    noiseJson(warp, layer.warp->noise);
    out["warp"] = std::move(warp);
  }
  if (layer.equalise) out["equalise"] = true;
  if (!layer.curve.empty()) out["curve"] = curveJson(layer.curve);
  if (layer.clamp) out["clamp"] = clampJson(*layer.clamp);
  if (layer.mask) {
    Json mask = {{"field", layer.mask->field}};
    mask["low"] = layer.mask->low ? numberJson(*layer.mask->low) : Json();
    mask["high"] = layer.mask->high ? numberJson(*layer.mask->high) : Json();
    mask["soft"] = numberJson(layer.mask->soft);
    out["mask"] = std::move(mask);
  }
  return out;
}

void fieldJson(Json& out, const FieldRecipe& field) {
  Json layers = Json::array();
  for (const Layer& layer : field.layers) layers.push_back(layerJson(layer));
  out["layers"] = std::move(layers);
  if (!field.curve.empty()) out["curve"] = curveJson(field.curve);
  if (field.clamp) out["clamp"] = clampJson(*field.clamp);
}

Json climateAxisJson(const ClimateAxis& axis) {
  Json out = Json::object();
  fieldJson(out, axis.field);
  out["low"] = numberJson(axis.low);
  out["high"] = numberJson(axis.high);
  if (!axis.unit.empty())
    out["unit"] = {{"name", axis.unit},
                   {"low", numberJson(axis.unitLow)},
                   {"high", numberJson(axis.unitHigh)}};
  return out;
}

Json thresholdJson(const Threshold& threshold) {
  if (threshold.share) return {{"share", numberJson(*threshold.share)}};
  if (threshold.fromSea) return {{"sea", numberJson(threshold.value)}};
  return numberJson(threshold.value);
}

Json materialJson(const std::string& id) {
  return id == kUnassignedId ? Json() : Json(id);
}

Json bandJson(const Band& band) {
  Json out = {{"id", band.id}};
  if (band.below) out["below"] = thresholdJson(*band.below);
  out["material"] = materialJson(band.material);
  if (band.edge.kind == Edge::Kind::Hard) return out;
  Json edge = {{"kind", word(kEdges, band.edge.kind)}, {"width", numberJson(band.edge.width)}};
  if (band.edge.kind == Edge::Kind::Dithered)
    edge["slope"] = band.edge.squared ? "squared" : "linear";
  else
    edge["feature"] = numberJson(band.edge.feature);
  out["edge"] = std::move(edge);
  return out;
}

Json slopeJson(const SlopeBand& slope) {
  Json out = {{"id", slope.id}, {"from", numberJson(slope.from)}};
  if (slope.above) out["above"] = thresholdJson(*slope.above);
  if (slope.below) out["below"] = thresholdJson(*slope.below);
  out["material"] = materialJson(slope.material);
  return out;
}

Json recipeJson(const Recipe& recipe) {
  Json materials = Json::array(), bands = Json::array();
  for (const Material& m : recipe.materials)
    materials.push_back({{"id", m.id},
                         {"name", m.name},
                         {"colour", colourText(m.colour)},
                         {"state", stateName(m.state)}});
  for (const Band& band : recipe.bands) bands.push_back(bandJson(band));
  const Frame& frame = recipe.frame;
  Json out = {{"format", kFormat},
              {"version", kVersion},
              {"generation", recipe.generation},
              {"name", recipe.name},
              {"seed", recipe.seed},
              {"frame",
               {{"kind", "overland"},
                {"chunk", frame.chunkSize},
                {"sea", numberJson(frame.seaLevel)},
                {"bounds", {{"x", boundsJson(frame.x)}, {"z", boundsJson(frame.z)}}}}},
              {"materials", std::move(materials)}};
  if (frame.seaShare) out["frame"]["sea"] = {{"share", numberJson(*frame.seaShare)}};
  if (!recipe.fields.empty()) {
    Json fields = Json::array();
    for (const FieldRecipe& field : recipe.fields) {
      Json one = {{"id", field.id}, {"name", field.name}};
      fieldJson(one, field);
      fields.push_back(std::move(one));
    }
    out["fields"] = std::move(fields);
  }
  Json heights = Json::object();
  if (!recipe.heightsOn) heights["on"] = false;
  fieldJson(heights, recipe.heights);
  out["heights"] = std::move(heights);
  if (!(recipe.climate == Climate{})) {
    Json climate = Json::object();
    if (!recipe.climate.on) climate["on"] = false;
    climate["temperature"] = climateAxisJson(recipe.climate.temperature);
    climate["moisture"] = climateAxisJson(recipe.climate.moisture);
    out["climate"] = std::move(climate);
  }
  Json strata = Json::object();
  if (!recipe.strataOn) strata["on"] = false;
  if (!recipe.slopes.empty()) {
    Json slopes = Json::array();
    for (const SlopeBand& slope : recipe.slopes) slopes.push_back(slopeJson(slope));
    strata["slopes"] = std::move(slopes);
  }
  strata["bands"] = std::move(bands);
  out["strata"] = std::move(strata);
  return out;
}

// ---- reading ---------------------------------------------------------------------------------

std::optional<AxisBounds> readBounds(const JsonReader& in) {
  if (in.isNull()) return {};
  in.expectObject({"min", "extent"});
  return AxisBounds{in.member("min").integer(INT64_MIN, INT64_MAX),
                    in.member("extent").integer(INT64_MIN, INT64_MAX)};
}

Frame readFrame(const JsonReader& in) {
  in.expectObject({"kind", "chunk", "sea", "bounds"});
  Frame frame;
  in.member("kind").choice({"overland"});
  frame.chunkSize = static_cast<int32_t>(in.member("chunk").integer(
      static_cast<int64_t>(limits::chunkSize.low), static_cast<int64_t>(limits::chunkSize.high)));
  const JsonReader sea = in.member("sea");
  if (sea.isObject()) {
    sea.expectObject({"share"});
    frame.seaShare = sea.member("share").number();
  } else {
    frame.seaLevel = sea.number();
  }
  if (in.has("bounds")) {
    const JsonReader bounds = in.member("bounds");
    bounds.expectObject({"x", "z"});
    if (bounds.has("x")) frame.x = readBounds(bounds.member("x"));
    if (bounds.has("z")) frame.z = readBounds(bounds.member("z"));
  }
  return frame;
}

Colour readColour(const JsonReader& in) {
  const std::string text = in.text();
  uint32_t rgb = 0;
  const char* end = text.data() + text.size();
  if (text.size() != 7 || text[0] != '#' ||
      std::from_chars(text.data() + 1, end, rgb, 16).ptr != end)
    in.refuse(fmt::format("\"{:.40}\" is not a colour", text), "\"#RRGGBB\"");
  return {static_cast<uint8_t>(rgb >> 16), static_cast<uint8_t>(rgb >> 8),
          static_cast<uint8_t>(rgb)};
}

Material readMaterial(const JsonReader& in) {
  in.expectObject({"id", "name", "colour", "state"});
  return {in.member("id").text(), in.member("name").text(), readColour(in.member("colour")),
          static_cast<MaterialState>(in.member("state").choice({"solid", "passable", "liquid"}))};
}

/// A member that may be missing.
template <class T>
void readIf(const JsonReader& in, std::string_view key, T& value) {
  if (!in.has(key)) return;
  if constexpr (std::is_same_v<T, bool>)
    value = in.member(key).boolean();
  else
    value = in.member(key).number();
}

template <class E>
void choiceIf(const JsonReader& in, std::string_view key,
              const std::vector<std::string_view>& words, E& value) {
  if (in.has(key)) value = static_cast<E>(in.member(key).choice(words));
}

NoiseSource readNoise(const JsonReader& in, Basis basis) {
  NoiseSource noise;
  noise.basis = basis;
  noise.fractal = static_cast<Fractal>(in.member("fractal").choice(kFractals));
  noise.width = in.member("width").number();
  const bool many = noise.fractal != Fractal::Single;
  if (many || in.has("octaves"))
    noise.octaves = static_cast<int>(in.member("octaves").integer(
        static_cast<int64_t>(limits::octaves.low), static_cast<int64_t>(limits::octaves.high)));
  if (many || in.has("lacunarity")) noise.lacunarity = in.member("lacunarity").number();
  if (many || in.has("gain")) noise.gain = in.member("gain").number();
  readIf(in, "rotate", noise.rotate);
  choiceIf(in, "result", kResults, noise.result);
  choiceIf(in, "metric", kMetrics, noise.metric);
  readIf(in, "jitter", noise.jitter);
  return noise;
}

std::pair<double, double> readPair(const JsonReader& in) {
  const auto members = in.members();
  if (members.size() != 2) {
    in.refuse(fmt::format("{} numbers", members.size()), "two numbers");
    return {};
  }
  return {members[0].number(), members[1].number()};
}

Curve readCurve(const JsonReader& in) {
  Curve curve;
  for (const JsonReader& point : in.members()) {
    const auto [x, y] = readPair(point);
    curve.push_back({x, y});
  }
  return curve;
}

std::optional<Clamp> readClamp(const JsonReader& in) {
  if (!in.has("clamp")) return {};
  const JsonReader clamp = in.member("clamp");
  clamp.expectObject({"low", "high"});
  return Clamp{clamp.member("low").number(), clamp.member("high").number()};
}

/// Keys of a layer of each kind, besides those that every layer may have.
std::vector<std::string_view> keysOf(size_t kind) {
  switch (kind) {
    case kGradientKind:
    case kValueKind:
    case kSimplexKind:
    case kWhiteKind:
    case kGradient2002Kind:
      return {"fractal", "width", "octaves", "lacunarity", "gain", "rotate"};
    case kCellularKind:
      return {"fractal", "width",  "octaves", "lacunarity", "gain",
              "rotate",  "result", "metric",  "jitter"};
    case kConstantKind:
      return {"value"};
    case kRampKind:
      return {"axis", "from", "to"};
    case kDistanceKind:
      return {"x", "z", "reach"};
    case kIslandKind:
      return {"shape", "x", "z", "radius", "edge", "wobble", "wobbleWidth"};
    case kPictureKind:
      return {"file", "x", "z", "scale", "smooth", "outside", "outsideValue"};
    case kFieldKind:
      return {"field"};
    case kTerraceKind:
      return {"height", "flat"};
    case kFoldKind:
      return {"centre"};
    case kRescaleKind:
      return {"from", "to"};
    case kLatitudeKind:
      return {"equator", "reach"};
    default:
      return {};
  }
}

Source readSource(const JsonReader& in, size_t kind) {
  const auto number = [&](const char* key) { return in.member(key).number(); };
  if (kind < kBases) return readNoise(in, static_cast<Basis>(kind));
  switch (kind) {
    case kConstantKind:
      return ConstantSource{number("value")};
    case kRampKind:
      return RampSource{static_cast<Axis>(in.member("axis").choice(kAxes)), number("from"),
                        number("to")};
    case kDistanceKind:
      return DistanceSource{number("x"), number("z"), number("reach")};
    case kIslandKind: {
      IslandSource island;
      island.square = in.member("shape").choice({"round", "square"}) == 1;
      island.x = number("x");
      island.z = number("z");
      island.radius = number("radius");
      island.edge = number("edge");
      readIf(in, "wobble", island.wobble);
      readIf(in, "wobbleWidth", island.wobbleWidth);
      return island;
    }
    case kPictureKind: {
      PictureSource picture;
      picture.file = in.member("file").text();
      picture.x = number("x");
      picture.z = number("z");
      picture.scale = number("scale");
      readIf(in, "smooth", picture.smooth);
      choiceIf(in, "outside", kOutsides, picture.outside);
      readIf(in, "outsideValue", picture.outsideValue);
      return picture;
    }
    case kFieldKind:
      return FieldSource{in.member("field").text()};
    case kTerraceKind:
      return TerraceSource{number("height"), number("flat")};
    case kFoldKind:
      return FoldSource{number("centre")};
    case kRescaleKind: {
      const auto from = readPair(in.member("from")), to = readPair(in.member("to"));
      return RescaleSource{from.first, from.second, to.first, to.second};
    }
    case kLatitudeKind:
      return LatitudeSource{number("equator"), number("reach")};
    case kAltitudeKind:
      return AltitudeSource{};
    default:
      return EqualiseSource{};
  }
}

void readSampling(const JsonReader& in, Layer& layer) {
  if (!in.has("sampling")) return;
  const JsonReader sampling = in.member("sampling");
  if (sampling.isObject()) {
    sampling.expectObject({"x", "z", "scatter"});
    layer.sampling =
        SamplingOffset{sampling.member("x").number(), sampling.member("z").number(), false};
    readIf(sampling, "scatter", layer.sampling->scatter);
  } else {
    sampling.choice({"scatter"});
  }
}

Layer readLayer(const JsonReader& in) {
  Layer layer;
  const size_t kind = in.isObject() ? in.member("kind").choice(kKinds) : 0;
  std::vector<std::string_view> keys = keysOf(kind);
  keys.insert(keys.end(), {"id", "name", "on", "combine", "amount", "kind", "amplitude", "offset",
                           "sampling", "warp", "equalise", "curve", "clamp", "mask"});
  in.expectObject(keys);
  layer.id = in.member("id").text();
  layer.name = in.has("name") ? in.member("name").text() : layer.id;
  readIf(in, "on", layer.on);
  choiceIf(in, "combine", kCombines, layer.combine);
  readIf(in, "amount", layer.amount);
  layer.source = readSource(in, kind);
  if (kind < kBases)
    layer.amplitude = in.member("amplitude").number();
  else
    readIf(in, "amplitude", layer.amplitude);
  readIf(in, "offset", layer.offset);
  readSampling(in, layer);
  if (in.has("warp") && !in.member("warp").isNull()) {
    const JsonReader warp = in.member("warp");
    const size_t basis = warp.isObject() ? warp.member("kind").choice(kKinds) : 0;
    if (basis >= kBases) warp.refuse("the displacement is noise", "a kind of noise");
    keys = keysOf(basis);
    keys.insert(keys.end(), {"kind", "cells", "passes"});
    warp.expectObject(keys);
    Warp& out = layer.warp.emplace();
    out.noise = readNoise(warp, static_cast<Basis>(std::min(basis, kBases - 1)));
    out.cells = warp.member("cells").number();
    if (warp.has("passes"))
      out.passes = static_cast<int>(
          warp.member("passes").integer(static_cast<int64_t>(limits::warpPasses.low),
                                        static_cast<int64_t>(limits::warpPasses.high)));
  }
  readIf(in, "equalise", layer.equalise);
  if (in.has("curve")) layer.curve = readCurve(in.member("curve"));
  layer.clamp = readClamp(in);
  if (in.has("mask") && !in.member("mask").isNull()) {
    const JsonReader mask = in.member("mask");
    mask.expectObject({"field", "low", "high", "soft"});
    Mask& out = layer.mask.emplace();
    out.field = mask.member("field").text();
    if (mask.has("low") && !mask.member("low").isNull()) out.low = mask.member("low").number();
    if (mask.has("high") && !mask.member("high").isNull()) out.high = mask.member("high").number();
    readIf(mask, "soft", out.soft);
  }
  return layer;
}

void readFieldBody(const JsonReader& in, FieldRecipe& field) {
  for (const JsonReader& layer : in.member("layers").members())
    field.layers.push_back(readLayer(layer));
  if (in.has("curve")) field.curve = readCurve(in.member("curve"));
  field.clamp = readClamp(in);
}

void readClimateAxis(const JsonReader& in, ClimateAxis& axis) {
  in.expectObject({"layers", "curve", "clamp", "low", "high", "unit"});
  readFieldBody(in, axis.field);
  readIf(in, "low", axis.low);
  readIf(in, "high", axis.high);
  if (!in.has("unit")) return;
  const JsonReader unit = in.member("unit");
  unit.expectObject({"name", "low", "high"});
  axis.unit = unit.member("name").text();
  axis.unitLow = unit.member("low").number();
  axis.unitHigh = unit.member("high").number();
}

Threshold readThreshold(const JsonReader& in) {
  if (!in.isObject()) return {in.number(), false, {}};
  if (in.has("share")) {
    in.expectObject({"share"});
    return {0, false, in.member("share").number()};
  }
  in.expectObject({"sea"});
  return {in.member("sea").number(), true, {}};
}

std::string readMaterialId(const JsonReader& in) {
  return in.isNull() ? kUnassignedId : in.text();
}

Band readBand(const JsonReader& in) {
  in.expectObject({"id", "below", "material", "edge"});
  Band band;
  band.id = in.member("id").text();
  if (in.has("below")) band.below = readThreshold(in.member("below"));
  band.material = readMaterialId(in.member("material"));
  if (!in.has("edge")) return band;
  const JsonReader edge = in.member("edge");
  edge.expectObject({"kind", "width", "slope", "feature"});
  band.edge.kind = static_cast<Edge::Kind>(edge.member("kind").choice(kEdges));
  readIf(edge, "width", band.edge.width);
  if (edge.has("slope"))
    band.edge.squared = edge.member("slope").choice({"linear", "squared"}) == 1;
  readIf(edge, "feature", band.edge.feature);
  return band;
}

SlopeBand readSlope(const JsonReader& in) {
  in.expectObject({"id", "from", "above", "below", "material"});
  SlopeBand slope;
  slope.id = in.member("id").text();
  slope.from = in.member("from").number();
  if (in.has("above")) slope.above = readThreshold(in.member("above"));
  if (in.has("below")) slope.below = readThreshold(in.member("below"));
  slope.material = readMaterialId(in.member("material"));
  return slope;
}

Recipe readRecipe(const JsonReader& in) {
  in.expectObject({"format", "version", "generation", "name", "seed", "frame", "materials",
                   "fields", "heights", "climate", "strata"});
  Recipe recipe;
  in.member("format").choice({kFormat});
  in.member("version").integer(1, kVersion);
  recipe.generation = static_cast<int>(in.member("generation").integer(0, 0));
  recipe.name = in.member("name").text();
  recipe.seed = in.member("seed").text();
  recipe.frame = readFrame(in.member("frame"));
  for (const JsonReader& material : in.member("materials").members())
    recipe.materials.push_back(readMaterial(material));
  if (in.has("fields"))
    for (const JsonReader& field : in.member("fields").members()) {
      field.expectObject({"id", "name", "layers", "curve", "clamp"});
      FieldRecipe& out = recipe.fields.emplace_back();
      out.id = field.member("id").text();
      out.name = field.has("name") ? field.member("name").text() : out.id;
      readFieldBody(field, out);
    }
  const JsonReader heights = in.member("heights");
  heights.expectObject({"on", "layers", "curve", "clamp"});
  readIf(heights, "on", recipe.heightsOn);
  readFieldBody(heights, recipe.heights);
  if (in.has("climate")) {
    const JsonReader climate = in.member("climate");
    climate.expectObject({"on", "temperature", "moisture"});
    recipe.climate.on = true;
    readIf(climate, "on", recipe.climate.on);
    readClimateAxis(climate.member("temperature"), recipe.climate.temperature);
    readClimateAxis(climate.member("moisture"), recipe.climate.moisture);
  }
  const JsonReader strata = in.member("strata");
  strata.expectObject({"on", "slopes", "bands"});
  readIf(strata, "on", recipe.strataOn);
  if (strata.has("slopes"))
    for (const JsonReader& slope : strata.member("slopes").members())
      recipe.slopes.push_back(readSlope(slope));
  for (const JsonReader& band : strata.member("bands").members())
    recipe.bands.push_back(readBand(band));
  return recipe;
}

}  // namespace

std::string colourText(const Colour& colour) {
  return fmt::format("#{:02X}{:02X}{:02X}", colour.red, colour.green, colour.blue);
}

Result<Recipe> recipeFromJson(std::string_view text, const std::vector<Override>& overrides) {
  auto document = parseJson(text);
  if (!document) return document.error();
  for (const Override& change : overrides)
    if (const Status applied = applyOverride(*document, change); !applied) return applied.error();
  std::optional<Error> fault;
  Recipe recipe = readRecipe(JsonReader(*document, fault));
  if (fault) return *fault;
  if (const Status valid = validate(recipe); !valid) return valid.error();
  return recipe;
}

Result<Recipe> readRecipeFile(const std::filesystem::path& file,
                              const std::vector<Override>& overrides) {
  const auto text = readWholeFile(file, kLargestRecipeFile);
  if (!text) return text.error();
  auto recipe = recipeFromJson(*text, overrides);
  if (recipe) {
    recipe->folder = file.parent_path().string();
    return recipe;
  }
  Error error = recipe.error();
  if (!error.where.starts_with("--set"))
    error.where = file.string() + (error.where.empty() ? "" : " at " + error.where);
  return error;
}

std::string recipeToJson(const Recipe& recipe) {
  return recipeJson(recipe).dump(2) + "\n";
}

Status writeRecipeFile(const std::filesystem::path& file, const Recipe& recipe) {
  auto out = AtomicFile::open(file);
  if (!out) return out.error();
  if (Status written = out->write(recipeToJson(recipe)); !written) return written;
  return out->commit();
}

Digest recipeId(const Recipe& recipe) {
  return DigestWriter().text(recipeJson(recipe).dump()).finish();
}

}  // namespace acre
