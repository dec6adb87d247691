#include <fmt/format.h>

#include <cmath>

#include "recipe/cave_recipe.h"
#include "recipe/json.h"
#include "recipe/json_words.h"

namespace acre {

Json materialJson(const std::string& id) {
  return id == kUnassignedId ? Json() : Json(id);
}

/// Whole values without a decimal point; −0 as 0.
Json numberJson(double v) {
  if (std::floor(v) == v && v >= -0x1p53 && v <= 0x1p53) return static_cast<int64_t>(v);
  return v;
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

Json thresholdJson(const Threshold& threshold) {
  if (threshold.share) return {{"share", numberJson(*threshold.share)}};
  if (threshold.fromSea) return {{"sea", numberJson(threshold.value)}};
  return numberJson(threshold.value);
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

namespace {

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

/// Index of the layer's kind in kKinds.
size_t kindOf(const Source& source) {
  if (const auto* noise = std::get_if<NoiseSource>(&source))
    return static_cast<size_t>(noise->basis);
  return kBases - 1 + source.index();
}

}  // namespace

Json curveJson(const Curve& curve) {
  Json out = Json::array();
  for (const CurvePoint& p : curve) out.push_back({numberJson(p.x), numberJson(p.y)});
  return out;
}

Json maskJson(const Mask& mask) {
  Json out = {{"field", mask.field}};
  out["low"] = mask.low ? numberJson(*mask.low) : Json();
  out["high"] = mask.high ? numberJson(*mask.high) : Json();
  out["soft"] = numberJson(mask.soft);
  return out;
}

namespace {

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
  void operator()(const WalkSource& s) const {
    out["low"] = numberJson(s.low);
    out["high"] = numberJson(s.high);
    out["slope"] = numberJson(s.slope);
    out["change"] = numberJson(s.change);
    out["limits"] = s.limits;
  }
  void operator()(const WaterSource& s) const { out["reach"] = numberJson(s.reach); }
};

Json layerJson(const Layer& layer) {
  Json out = {{"id", layer.id}, {"name", layer.name}, {"on", layer.on}};
  if (!reshapes(layer.source)) out["combine"] = word(kCombines, layer.combine);
  if (hasAmount(layer.combine)) out["amount"] = numberJson(layer.amount);
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
  if (layer.mask) out["mask"] = maskJson(*layer.mask);
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

Json slopeJson(const SlopeBand& slope) {
  Json out = {{"id", slope.id}, {"from", numberJson(slope.from)}};
  if (slope.above) out["above"] = thresholdJson(*slope.above);
  if (slope.below) out["below"] = thresholdJson(*slope.below);
  out["material"] = materialJson(slope.material);
  return out;
}

}  // namespace

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
               {{"kind", word(kWorldKinds, frame.kind)},
                {"chunk", frame.chunkSize},
                {"sea", numberJson(frame.seaLevel)},
                {"bounds", {{"x", boundsJson(frame.x)}, {"z", boundsJson(frame.z)}}}}},
              {"materials", std::move(materials)}};
  if (frame.blocks()) {
    out["frame"]["bounds"]["y"] = boundsJson(frame.y);
    if (frame.shape != ChunkShape::Cubes) out["frame"]["shape"] = word(kShapes, frame.shape);
  }
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
  if (recipe.fillDown) heights["fillDown"] = true;
  if (!(recipe.overhang == Overhang{})) heights["overhang"] = overhangJson(recipe.overhang);
  out["heights"] = std::move(heights);
  if (!(recipe.climate == Climate{})) {
    Json climate = Json::object();
    if (!recipe.climate.on) climate["on"] = false;
    climate["temperature"] = climateAxisJson(recipe.climate.temperature);
    climate["moisture"] = climateAxisJson(recipe.climate.moisture);
    out["climate"] = std::move(climate);
  }
  if (!(recipe.biomes == Biomes{})) out["biomes"] = biomesJson(recipe.biomes);
  Json strata = Json::object();
  if (!recipe.strataOn) strata["on"] = false;
  if (!recipe.slopes.empty()) {
    Json slopes = Json::array();
    for (const SlopeBand& slope : recipe.slopes) slopes.push_back(slopeJson(slope));
    strata["slopes"] = std::move(slopes);
  }
  strata["bands"] = std::move(bands);
  if (!recipe.layers.empty()) strata["layers"] = layersJson(recipe.layers);
  if (!(recipe.rock == Rock{})) strata["rock"] = rockJson(recipe.rock);
  if (!recipe.ores.empty()) {
    Json ores = Json::array();
    for (const Ore& ore : recipe.ores) ores.push_back(oreJson(ore));
    strata["ores"] = std::move(ores);
  }
  out["strata"] = std::move(strata);
  if (!recipe.water.material.empty()) out["water"] = {{"material", recipe.water.material}};
  if (!(*recipe.caves == Caves{})) out["caves"] = cavesJson(*recipe.caves);
  if (!(*recipe.level == Level{})) out["level"] = levelJson(*recipe.level);
  return out;
}

}  // namespace acre
