#include <fmt/format.h>

#include <charconv>

#include "recipe/cave_recipe.h"
#include "recipe/json_words.h"
#include "recipe/level_recipe.h"
#include "recipe/validate.h"

namespace acre {

std::string readMaterialId(const JsonReader& in) {
  return in.isNull() ? kUnassignedId : in.text();
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

NoiseSource readNoise(const JsonReader& in, Basis basis) {
  NoiseSource noise;
  noise.basis = basis;
  noise.fractal = Fractal::Single;
  choiceIf(in, "fractal", kFractals, noise.fractal);
  noise.width = in.member("width").number();
  if (in.has("octaves"))
    noise.octaves = static_cast<int>(in.member("octaves").integer(
        static_cast<int64_t>(limits::octaves.low), static_cast<int64_t>(limits::octaves.high)));
  readIf(in, "lacunarity", noise.lacunarity);
  readIf(in, "gain", noise.gain);
  readIf(in, "rotate", noise.rotate);
  choiceIf(in, "result", kResults, noise.result);
  choiceIf(in, "metric", kMetrics, noise.metric);
  readIf(in, "jitter", noise.jitter);
  return noise;
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
    case kWaterKind:
      return {"reach"};
    case kWalkKind:
      return {"low", "high", "slope", "change", "limits"};
    default:
      return {};
  }
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

namespace {

std::optional<AxisBounds> readBounds(const JsonReader& in) {
  if (in.isNull()) return {};
  in.expectObject({"min", "extent"});
  return AxisBounds{in.member("min").integer(INT64_MIN, INT64_MAX),
                    in.member("extent").integer(INT64_MIN, INT64_MAX)};
}

Frame readFrame(const JsonReader& in) {
  in.expectObject({"kind", "chunk", "shape", "sea", "bounds"});
  Frame frame;
  frame.kind = static_cast<WorldKind>(in.member("kind").choice(kWorldKinds));
  choiceIf(in, "shape", kShapes, frame.shape);
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
    bounds.expectObject({"x", "y", "z"});
    if (bounds.has("x")) frame.x = readBounds(bounds.member("x"));
    if (bounds.has("z")) frame.z = readBounds(bounds.member("z"));
    if (bounds.has("y")) frame.y = readBounds(bounds.member("y")).value_or(frame.y);
  }
  return frame;
}

Material readMaterial(const JsonReader& in) {
  in.expectObject({"id", "name", "colour", "state"});
  return {in.member("id").text(), in.member("name").text(), readColour(in.member("colour")),
          static_cast<MaterialState>(in.member("state").choice({"solid", "passable", "liquid"}))};
}

std::pair<double, double> readPair(const JsonReader& in) {
  const auto members = in.members();
  if (members.size() != 2) {
    in.refuse(fmt::format("{} numbers", members.size()), "two numbers");
    return {};
  }
  return {members[0].number(), members[1].number()};
}

}  // namespace

Curve readCurve(const JsonReader& in) {
  Curve curve;
  for (const JsonReader& point : in.members()) {
    const auto [x, y] = readPair(point);
    curve.push_back({x, y});
  }
  return curve;
}

Mask readMask(const JsonReader& in) {
  in.expectObject({"field", "low", "high", "soft"});
  Mask mask;
  mask.field = in.member("field").text();
  if (in.has("low") && !in.member("low").isNull()) mask.low = in.member("low").number();
  if (in.has("high") && !in.member("high").isNull()) mask.high = in.member("high").number();
  readIf(in, "soft", mask.soft);
  return mask;
}

namespace {

std::optional<Clamp> readClamp(const JsonReader& in) {
  if (!in.has("clamp")) return {};
  const JsonReader clamp = in.member("clamp");
  clamp.expectObject({"low", "high"});
  return Clamp{clamp.member("low").number(), clamp.member("high").number()};
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
    case kWaterKind:
      return WaterSource{number("reach")};
    case kWalkKind: {
      WalkSource walk{number("low"), number("high"), number("slope"), number("change"), true};
      readIf(in, "limits", walk.limits);
      return walk;
    }
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
    const size_t basis = warp.isObject() ? warp.member("kind").choice(noiseKinds()) : 0;
    keys = keysOf(basis);
    keys.insert(keys.end(), {"kind", "cells", "passes"});
    warp.expectObject(keys);
    Warp& out = layer.warp.emplace();
    out.noise = readNoise(warp, static_cast<Basis>(basis));
    out.cells = warp.member("cells").number();
    if (warp.has("passes"))
      out.passes = static_cast<int>(
          warp.member("passes").integer(static_cast<int64_t>(limits::warpPasses.low),
                                        static_cast<int64_t>(limits::warpPasses.high)));
  }
  readIf(in, "equalise", layer.equalise);
  if (in.has("curve")) layer.curve = readCurve(in.member("curve"));
  layer.clamp = readClamp(in);
  if (in.has("mask") && !in.member("mask").isNull()) layer.mask = readMask(in.member("mask"));
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

}  // namespace

Recipe readRecipe(const JsonReader& in) {
  in.expectObject({"format", "version", "generation", "name", "seed", "frame", "materials",
                   "fields", "heights", "climate", "biomes", "strata", "water", "caves", "level",
                   "edits"});
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
  heights.expectObject({"on", "layers", "curve", "clamp", "fillDown", "overhang"});
  readIf(heights, "on", recipe.heightsOn);
  readIf(heights, "fillDown", recipe.fillDown);
  readFieldBody(heights, recipe.heights);
  if (heights.has("overhang")) recipe.overhang = readOverhang(heights.member("overhang"));
  if (in.has("climate")) {
    const JsonReader climate = in.member("climate");
    climate.expectObject({"on", "temperature", "moisture"});
    recipe.climate.on = true;
    readIf(climate, "on", recipe.climate.on);
    readClimateAxis(climate.member("temperature"), recipe.climate.temperature);
    readClimateAxis(climate.member("moisture"), recipe.climate.moisture);
  }
  if (in.has("biomes")) recipe.biomes = readBiomes(in.member("biomes"));
  const JsonReader strata = in.member("strata");
  strata.expectObject({"on", "slopes", "bands", "layers", "rock", "ores"});
  readIf(strata, "on", recipe.strataOn);
  if (strata.has("slopes"))
    for (const JsonReader& slope : strata.member("slopes").members())
      recipe.slopes.push_back(readSlope(slope));
  for (const JsonReader& band : strata.member("bands").members())
    recipe.bands.push_back(readBand(band));
  if (strata.has("layers")) recipe.layers = readLayers(strata.member("layers"));
  if (strata.has("rock")) recipe.rock = readRock(strata.member("rock"));
  if (strata.has("ores"))
    for (const JsonReader& ore : strata.member("ores").members())
      recipe.ores.push_back(readOre(ore));
  if (in.has("water")) {
    const JsonReader water = in.member("water");
    water.expectObject({"material"});
    recipe.water.material = water.member("material").text();
  }
  if (in.has("caves")) recipe.caves = readCaves(in.member("caves"));
  if (in.has("level")) recipe.level = readLevel(in.member("level"));
  return recipe;
}

}  // namespace acre
