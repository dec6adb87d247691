#include <fmt/format.h>

#include <algorithm>
#include <charconv>

#include "recipe/json.h"
#include "recipe/json_words.h"
#include "recipe/validate.h"

namespace acre {
Json namedNoiseJson(const NoiseSource& noise) {
  Json out = {{"kind", word(kKinds, static_cast<size_t>(noise.basis))}};
  noiseJson(out, noise);
  return out;
}

NoiseSource readNamedNoise(const JsonReader& in) {
  const size_t kind = in.isObject() ? in.member("kind").choice(noiseKinds()) : 0;
  auto keys = keysOf(kind);
  keys.push_back("kind");
  in.expectObject(keys);
  return readNoise(in, static_cast<Basis>(kind));
}

std::vector<std::string> readTexts(const JsonReader& in) {
  std::vector<std::string> out;
  for (const JsonReader& text : in.members()) out.push_back(text.text());
  return out;
}

namespace {

const std::vector<std::string_view> kRules = {"areas", "points"};
const std::vector<std::string_view> kChoices = {"climate", "weights", "cells"};

bool isClimate(const std::string& field) {
  return field == kTemperatureId || field == kMoistureId;
}

// ---- writing -----------------------------------------------------------------------------------

Json axisJson(const ChartAxis& axis) {
  if (isClimate(axis.field)) return axis.field;
  return {{"field", axis.field}, {"low", numberJson(axis.low)}, {"high", numberJson(axis.high)}};
}

Json spanJson(const Span& span) {
  return {span.low ? numberJson(*span.low) : Json(), span.high ? numberJson(*span.high) : Json()};
}

/// "12*0 5*1 3": runs of the numbers of one row.
std::string runsText(const uint16_t* cells, int count) {
  std::string text;
  for (int i = 0, n = 1; i < count; i += n, n = 1) {
    while (i + n < count && cells[i + n] == cells[i]) ++n;
    if (!text.empty()) text += ' ';
    if (n > 1) text += fmt::format("{}*", n);
    text += fmt::format("{}", cells[i]);
  }
  return text;
}

Json paintingJson(const Painting& painting) {
  Json rows = Json::array();
  for (int j = 0; j < painting.rows; ++j)
    rows.push_back(
        runsText(painting.cells.data() + ptrdiff_t{j} * painting.columns, painting.columns));
  return {{"columns", painting.columns}, {"biomes", painting.biomes}, {"rows", std::move(rows)}};
}

Json areaJson(const Area& area) {
  Json out = {{"id", area.id}};
  if (!area.slices.empty()) out["slices"] = area.slices;
  if (area.painting) {
    out["painting"] = paintingJson(*area.painting);
    return out;
  }
  out["biome"] = area.biome;
  out["x"] = spanJson(area.x);
  out["y"] = spanJson(area.y);
  return out;
}

Json sliceJson(const Slice& slice) {
  Json out = {{"id", slice.id}, {"name", slice.name}};
  if (slice.below) out["below"] = thresholdJson(*slice.below);
  if (!slice.biome.empty()) out["biome"] = slice.biome;
  return out;
}

Json biomeJson(const Biome& biome) {
  Json out = {{"id", biome.id}, {"name", biome.name}, {"colour", colourText(biome.colour)}};
  if (!biome.tags.empty()) out["tags"] = biome.tags;
  if (!(biome.relief == Relief{}))
    out["relief"] = {{"factor", numberJson(biome.relief.factor)},
                     {"raise", numberJson(biome.relief.raise)},
                     {"rough", numberJson(biome.relief.rough)}};
  if (!biome.bandsOf.empty()) out["bands"] = {{"of", biome.bandsOf}};
  if (biome.bands) {
    Json bands = Json::array();
    for (const Band& band : *biome.bands) bands.push_back(bandJson(band));
    out["bands"] = std::move(bands);
  }
  if (!biome.layersOf.empty()) out["layers"] = {{"of", biome.layersOf}};
  if (biome.layers) out["layers"] = layersJson(*biome.layers);
  if (biome.ideal) {
    Json ideal = {{"x", numberJson(biome.ideal->x)}, {"y", numberJson(biome.ideal->y)}};
    if (biome.ideal->altitude) ideal["altitude"] = numberJson(*biome.ideal->altitude);
    if (biome.ideal->weight != 1) ideal["weight"] = numberJson(biome.ideal->weight);
    out["ideal"] = std::move(ideal);
  }
  if (biome.weight != 1) out["weight"] = numberJson(biome.weight);
  return out;
}

Json regionsJson(const Regions& regions) {
  Json out = Json::object();
  if (!regions.on) out["on"] = false;
  out["size"] = numberJson(regions.size);
  out["jitter"] = numberJson(regions.jitter);
  out["biome"] = word(kChoices, regions.choice);
  Json warp = {{"cells", numberJson(regions.warp.cells)}};
  if (regions.warp.x.empty())
    warp["noise"] = namedNoiseJson(regions.warp.noise);
  else
    warp["fields"] = {regions.warp.x, regions.warp.z};
  out["warp"] = std::move(warp);
  if (regions.islets != 0) out["islets"] = regions.islets;
  return out;
}

// ---- reading -----------------------------------------------------------------------------------

ChartAxis readAxis(const JsonReader& in) {
  if (!in.isObject()) return {in.text()};
  in.expectObject({"field", "low", "high"});
  return {in.member("field").text(), in.member("low").number(), in.member("high").number()};
}

Span readSpan(const JsonReader& in) {
  const auto ends = in.members();
  if (ends.size() != 2)
    in.refuse(fmt::format("{} ends", ends.size()), "[low, high], null: endless");
  if (ends.size() != 2) return {};
  Span span;
  if (!ends[0].isNull()) span.low = ends[0].number();
  if (!ends[1].isNull()) span.high = ends[1].number();
  return span;
}

/// Fills one row; false when the text is no list of runs of just so many numbers.
bool readRuns(const std::string& text, int columns, std::vector<uint16_t>& cells) {
  const char* at = text.data();
  const char* const end = at + text.size();
  int left = columns;
  while (at < end) {
    unsigned count = 1, value = 0;
    auto read = std::from_chars(at, end, value);
    if (read.ec != std::errc{}) return false;
    if (read.ptr < end && *read.ptr == '*') {
      count = value;
      read = std::from_chars(read.ptr + 1, end, value);
      if (read.ec != std::errc{}) return false;
    }
    if (count < 1 || count > static_cast<unsigned>(left) || value > 65535) return false;
    cells.insert(cells.end(), count, static_cast<uint16_t>(value));
    left -= static_cast<int>(count);
    at = read.ptr;
    if (at < end && *at++ != ' ') return false;
  }
  return left == 0;
}

Painting readPainting(const JsonReader& in) {
  in.expectObject({"columns", "biomes", "rows"});
  Painting painting;
  const auto low = static_cast<int64_t>(limits::painting.low);
  const auto high = static_cast<int64_t>(limits::painting.high);
  painting.columns = static_cast<int>(in.member("columns").integer(low, high));
  painting.biomes = readTexts(in.member("biomes"));
  const auto rows = in.member("rows").members();
  painting.rows = static_cast<int>(std::min<size_t>(rows.size(), size_t{1} << 16));
  for (const JsonReader& row : rows) {
    if (painting.cells.size() > size_t{1} << 20) break;  // Too many rows; the check will say so.
    if (readRuns(row.text(), painting.columns, painting.cells)) continue;
    row.refuse("this is no row of the painting",
               fmt::format("runs like \"12*0 5*1 3\", {} numbers in all", painting.columns));
    return painting;
  }
  return painting;
}

Area readArea(const JsonReader& in) {
  Area area;
  const bool painted = in.has("painting");
  in.expectObject(painted ? std::vector<std::string_view>{"id", "slices", "painting"}
                          : std::vector<std::string_view>{"id", "slices", "biome", "x", "y"});
  area.id = in.member("id").text();
  if (in.has("slices")) area.slices = readTexts(in.member("slices"));
  if (painted) {
    area.painting = readPainting(in.member("painting"));
    return area;
  }
  area.biome = in.member("biome").text();
  area.x = readSpan(in.member("x"));
  area.y = readSpan(in.member("y"));
  return area;
}

Slice readSlice(const JsonReader& in) {
  in.expectObject({"id", "name", "below", "biome"});
  Slice slice;
  slice.id = in.member("id").text();
  slice.name = in.has("name") ? in.member("name").text() : slice.id;
  if (in.has("below")) slice.below = readThreshold(in.member("below"));
  readIf(in, "biome", slice.biome);
  return slice;
}

Biome readBiome(const JsonReader& in) {
  in.expectObject({"id", "name", "colour", "tags", "relief", "bands", "layers", "ideal", "weight"});
  Biome biome;
  biome.id = in.member("id").text();
  biome.name = in.has("name") ? in.member("name").text() : biome.id;
  biome.colour = readColour(in.member("colour"));
  if (in.has("tags")) biome.tags = readTexts(in.member("tags"));
  if (in.has("relief")) {
    const JsonReader relief = in.member("relief");
    relief.expectObject({"factor", "raise", "rough"});
    readIf(relief, "factor", biome.relief.factor);
    readIf(relief, "raise", biome.relief.raise);
    readIf(relief, "rough", biome.relief.rough);
  }
  if (in.has("bands")) {
    const JsonReader bands = in.member("bands");
    if (bands.isObject()) {
      bands.expectObject({"of"});
      biome.bandsOf = bands.member("of").text();
    } else {
      biome.bands.emplace();
      for (const JsonReader& band : bands.members()) biome.bands->push_back(readBand(band));
    }
  }
  if (in.has("layers")) {
    const JsonReader layers = in.member("layers");
    if (layers.isObject()) {
      layers.expectObject({"of"});
      biome.layersOf = layers.member("of").text();
    } else {
      biome.layers = readLayers(layers);
    }
  }
  if (in.has("ideal")) {
    const JsonReader ideal = in.member("ideal");
    ideal.expectObject({"x", "y", "altitude", "weight"});
    IdealPoint& point = biome.ideal.emplace();
    point.x = ideal.member("x").number();
    point.y = ideal.member("y").number();
    if (ideal.has("altitude")) point.altitude = ideal.member("altitude").number();
    readIf(ideal, "weight", point.weight);
  }
  readIf(in, "weight", biome.weight);
  return biome;
}

Regions readRegions(const JsonReader& in) {
  in.expectObject({"on", "size", "jitter", "biome", "warp", "islets"});
  Regions regions;
  regions.on = true;
  readIf(in, "on", regions.on);
  regions.size = in.member("size").number();
  readIf(in, "jitter", regions.jitter);
  choiceIf(in, "biome", kChoices, regions.choice);
  if (in.has("warp")) {
    const JsonReader warp = in.member("warp");
    warp.expectObject({"cells", "noise", "fields"});
    regions.warp.cells = warp.member("cells").number();
    if (warp.has("noise")) regions.warp.noise = readNamedNoise(warp.member("noise"));
    if (warp.has("fields")) {
      const auto fields = readTexts(warp.member("fields"));
      if (fields.size() != 2)
        warp.member("fields").refuse(fmt::format("{} fields", fields.size()), "two ids of fields");
      else
        regions.warp.x = fields[0], regions.warp.z = fields[1];
    }
  }
  if (in.has("islets"))
    regions.islets =
        static_cast<int>(in.member("islets").integer(0, static_cast<int64_t>(limits::islets.high)));
  return regions;
}

}  // namespace

Json biomesJson(const Biomes& biomes) {
  Json out = Json::object();
  if (!biomes.on) out["on"] = false;
  out["chart"] = {{"rules", word(kRules, biomes.rules)},
                  {"x", axisJson(biomes.x)},
                  {"y", axisJson(biomes.y)},
                  {"altitudeReach", numberJson(biomes.altitudeReach)}};
  const auto list = [](const auto& members, auto&& write) {
    Json all = Json::array();
    for (const auto& member : members) all.push_back(write(member));
    return all;
  };
  if (!biomes.slices.empty()) out["slices"] = list(biomes.slices, sliceJson);
  out["areas"] = list(biomes.areas, areaJson);
  out["list"] = list(biomes.list, biomeJson);
  if (!(biomes.border == BorderWidths{}))
    out["border"] = {{"chart", numberJson(biomes.border.chart)},
                     {"ground", numberJson(biomes.border.ground)},
                     {"altitude", numberJson(biomes.border.altitude)}};
  const Biomes usual;
  if (biomes.coast != usual.coast) out["coast"] = numberJson(biomes.coast);
  if (!(biomes.roughness == usual.roughness)) out["roughness"] = namedNoiseJson(biomes.roughness);
  if (!(biomes.regions == Regions{})) out["regions"] = regionsJson(biomes.regions);
  return out;
}

Biomes readBiomes(const JsonReader& in) {
  in.expectObject(
      {"on", "chart", "slices", "areas", "list", "border", "coast", "roughness", "regions"});
  Biomes biomes;
  biomes.on = true;
  readIf(in, "on", biomes.on);
  if (in.has("chart")) {
    const JsonReader chart = in.member("chart");
    chart.expectObject({"rules", "x", "y", "altitudeReach"});
    choiceIf(chart, "rules", kRules, biomes.rules);
    if (chart.has("x")) biomes.x = readAxis(chart.member("x"));
    if (chart.has("y")) biomes.y = readAxis(chart.member("y"));
    readIf(chart, "altitudeReach", biomes.altitudeReach);
  }
  if (in.has("slices"))
    for (const JsonReader& slice : in.member("slices").members())
      biomes.slices.push_back(readSlice(slice));
  if (in.has("areas"))
    for (const JsonReader& area : in.member("areas").members())
      biomes.areas.push_back(readArea(area));
  for (const JsonReader& biome : in.member("list").members())
    biomes.list.push_back(readBiome(biome));
  if (in.has("border")) {
    const JsonReader border = in.member("border");
    border.expectObject({"chart", "ground", "altitude"});
    readIf(border, "chart", biomes.border.chart);
    readIf(border, "ground", biomes.border.ground);
    readIf(border, "altitude", biomes.border.altitude);
  }
  readIf(in, "coast", biomes.coast);
  if (in.has("roughness")) biomes.roughness = readNamedNoise(in.member("roughness"));
  if (in.has("regions")) biomes.regions = readRegions(in.member("regions"));
  return biomes;
}

}  // namespace acre
