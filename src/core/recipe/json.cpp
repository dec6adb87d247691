#include "recipe/json.h"

#include <fmt/format.h>

#include <charconv>
#include <cmath>

#include "base/atomic_file.h"
#include "recipe/json_reader.h"
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

Json layerJson(const Layer& layer) {
  Json out = {{"id", layer.id},
              {"name", layer.name},
              {"on", layer.on},
              {"combine", layer.combine == Combine::Add ? "add" : "multiply"}};
  if (const auto* constant = std::get_if<ConstantSource>(&layer.source)) {
    out["kind"] = "constant";
    out["value"] = numberJson(constant->value);
    return out;
  }
  const auto& noise = std::get<GradientSource>(layer.source);
  out["kind"] = "gradient";
  out["fractal"] = noise.fractal == Fractal::Fbm ? "fbm" : "single";
  out["width"] = numberJson(noise.width);
  out["octaves"] = noise.octaves;
  out["lacunarity"] = numberJson(noise.lacunarity);
  out["gain"] = numberJson(noise.gain);
  out["amplitude"] = numberJson(noise.amplitude);
  out["offset"] = numberJson(noise.offset);
  if (noise.sampling)
    out["sampling"] = {{"x", numberJson(noise.sampling->x)}, {"z", numberJson(noise.sampling->z)}};
  else
    out["sampling"] = "scatter";
  return out;
}

Json bandJson(const Band& band) {
  Json out = {{"id", band.id}};
  if (band.below) {
    if (band.below->fromSea)
      out["below"] = {{"sea", numberJson(band.below->value)}};
    else
      out["below"] = numberJson(band.below->value);
  }
  if (band.material == kUnassignedId)
    out["material"] = nullptr;
  else
    out["material"] = band.material;
  return out;
}

Json recipeJson(const Recipe& recipe) {
  Json materials = Json::array(), layers = Json::array(), bands = Json::array();
  for (const Material& m : recipe.materials)
    materials.push_back({{"id", m.id},
                         {"name", m.name},
                         {"colour", colourText(m.colour)},
                         {"state", stateName(m.state)}});
  for (const Layer& layer : recipe.heights) layers.push_back(layerJson(layer));
  for (const Band& band : recipe.bands) bands.push_back(bandJson(band));
  const Frame& frame = recipe.frame;
  return {{"format", kFormat},
          {"version", kVersion},
          {"generation", recipe.generation},
          {"name", recipe.name},
          {"seed", recipe.seed},
          {"frame",
           {{"kind", "overland"},
            {"chunk", frame.chunkSize},
            {"sea", numberJson(frame.seaLevel)},
            {"bounds", {{"x", boundsJson(frame.x)}, {"z", boundsJson(frame.z)}}}}},
          {"materials", std::move(materials)},
          {"heights", {{"layers", std::move(layers)}}},
          {"strata", {{"bands", std::move(bands)}}}};
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
  frame.seaLevel = in.member("sea").number();
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

GradientSource readGradient(const JsonReader& in) {
  GradientSource noise;
  noise.fractal =
      in.member("fractal").choice({"single", "fbm"}) == 0 ? Fractal::Single : Fractal::Fbm;
  noise.width = in.member("width").number();
  if (noise.fractal == Fractal::Fbm || in.has("octaves"))
    noise.octaves = static_cast<int>(in.member("octaves").integer(
        static_cast<int64_t>(limits::octaves.low), static_cast<int64_t>(limits::octaves.high)));
  if (noise.fractal == Fractal::Fbm || in.has("lacunarity"))
    noise.lacunarity = in.member("lacunarity").number();
  if (noise.fractal == Fractal::Fbm || in.has("gain")) noise.gain = in.member("gain").number();
  noise.amplitude = in.member("amplitude").number();
  if (in.has("offset")) noise.offset = in.member("offset").number();
  if (in.has("sampling")) {
    const JsonReader sampling = in.member("sampling");
    if (sampling.isObject()) {
      sampling.expectObject({"x", "z"});
      noise.sampling = SamplingOffset{sampling.member("x").number(), sampling.member("z").number()};
    } else {
      sampling.choice({"scatter"});
    }
  }
  return noise;
}

Layer readLayer(const JsonReader& in) {
  Layer layer;
  const bool gradient = in.isObject() && in.member("kind").choice({"constant", "gradient"}) == 1;
  if (gradient)
    in.expectObject({"id", "name", "on", "combine", "kind", "fractal", "width", "octaves",
                     "lacunarity", "gain", "amplitude", "offset", "sampling"});
  else
    in.expectObject({"id", "name", "on", "combine", "kind", "value"});
  layer.id = in.member("id").text();
  layer.name = in.has("name") ? in.member("name").text() : layer.id;
  if (in.has("on")) layer.on = in.member("on").boolean();
  if (in.has("combine"))
    layer.combine = static_cast<Combine>(in.member("combine").choice({"add", "multiply"}));
  if (gradient)
    layer.source = readGradient(in);
  else
    layer.source = ConstantSource{in.member("value").number()};
  return layer;
}

Band readBand(const JsonReader& in) {
  in.expectObject({"id", "below", "material"});
  Band band;
  band.id = in.member("id").text();
  if (in.has("below")) {
    const JsonReader below = in.member("below");
    if (below.isObject()) {
      below.expectObject({"sea"});
      band.below = Threshold{below.member("sea").number(), true};
    } else {
      band.below = Threshold{below.number(), false};
    }
  }
  const JsonReader material = in.member("material");
  band.material = material.isNull() ? kUnassignedId : material.text();
  return band;
}

Recipe readRecipe(const JsonReader& in) {
  in.expectObject({"format", "version", "generation", "name", "seed", "frame", "materials",
                   "heights", "strata"});
  Recipe recipe;
  in.member("format").choice({kFormat});
  in.member("version").integer(1, kVersion);
  recipe.generation = static_cast<int>(in.member("generation").integer(0, 0));
  recipe.name = in.member("name").text();
  recipe.seed = in.member("seed").text();
  recipe.frame = readFrame(in.member("frame"));
  for (const JsonReader& material : in.member("materials").members())
    recipe.materials.push_back(readMaterial(material));
  const JsonReader heights = in.member("heights");
  heights.expectObject({"layers"});
  for (const JsonReader& layer : heights.member("layers").members())
    recipe.heights.push_back(readLayer(layer));
  const JsonReader strata = in.member("strata");
  strata.expectObject({"bands"});
  for (const JsonReader& band : strata.member("bands").members())
    recipe.bands.push_back(readBand(band));
  return recipe;
}

// ---- overrides -------------------------------------------------------------------------------

/// Splits a JSON pointer; nothing when it does not start with '/'.
std::optional<std::vector<std::string>> pointerParts(std::string_view pointer) {
  if (pointer.empty() || pointer.front() != '/') return {};
  std::vector<std::string> parts;
  std::string part;
  for (size_t i = 1; i <= pointer.size(); ++i) {
    if (i == pointer.size() || pointer[i] == '/') {
      parts.push_back(std::exchange(part, {}));
    } else if (pointer[i] == '~' && i + 1 < pointer.size()) {
      part += pointer[++i] == '1' ? '/' : '~';
    } else {
      part += pointer[i];
    }
  }
  return parts;
}

/// The list member that `part` names: an index, or "id:NAME".
Json* listMember(Json& list, const std::string& part) {
  if (part.starts_with("id:")) {
    for (Json& member : list)
      if (member.is_object() && member.value("id", Json()) == part.substr(3)) return &member;
    return nullptr;
  }
  size_t index = 0;
  const char* end = part.data() + part.size();
  if (std::from_chars(part.data(), end, index).ptr != end || index >= list.size()) return nullptr;
  return &list[index];
}

Status applyOverride(Json& document, const Override& change) {
  const auto refuse = [&](std::string what, std::string accepted) {
    return Error{Error::Code::InvalidInput, std::move(what), "--set " + change.pointer,
                 std::move(accepted)};
  };
  const auto parts = pointerParts(change.pointer);
  if (!parts) return refuse("not a JSON pointer", "/frame/sea, /heights/layers/id:NAME/width, …");
  Json* node = &document;
  for (size_t i = 0; i < parts->size(); ++i) {
    const std::string& part = (*parts)[i];
    Json* next = nullptr;
    if (node->is_array())
      next = listMember(*node, part);
    else if (node->is_object() && node->contains(part))
      next = &(*node)[part];
    else if (node->is_object() && i + 1 == parts->size())
      next = &((*node)[part] = nullptr);
    if (!next)
      return refuse(fmt::format("there is no \"{:.80}\"", part),
                    node->is_array() ? fmt::format("an index below {} or id:NAME", node->size())
                                     : "a key of the recipe");
    node = next;
  }
  const auto value = parseJson(change.value);
  if (value)
    *node = *value;
  else
    *node = change.value;
  // A seed typed as a number is meant as its text.
  if (change.pointer == "/seed" && !node->is_string()) *node = change.value;
  return done();
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
  if (recipe) return recipe;
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
