#include <fmt/format.h>

#include <algorithm>
#include <set>

#include "recipe/checks-inl.h"

namespace acre {
namespace {

using Ids = std::set<std::string>;

void checkKnown(Checks& checks, const std::string& at, const char* what, const std::string& id,
                const Ids& known) {
  if (!known.contains(id))
    checks.add(refuse(at, fmt::format("there is no {} \"{:.80}\"", what, id),
                      fmt::format("the id of a {}", what)));
}

void checkTaken(Checks& checks, const std::string& at, const char* what, const std::string& id,
                Ids& ids) {
  checks.add(checkId(at, id));
  if (!ids.insert(id).second)
    checks.add(refuse(at, fmt::format("\"{}\" is taken", id),
                      fmt::format("an id that no other {} has", what)));
}

void checkChartField(Checks& checks, const Recipe& recipe, const std::string& at,
                     const ChartAxis& axis) {
  const bool climate = axis.field == kTemperatureId || axis.field == kMoistureId;
  if (climate && !recipe.climate.on)
    checks.add(refuse(at, fmt::format("the chart reads \"{}\", but the climate is off", axis.field),
                      "a climate that is on, or another field"));
  else if (!fieldOf(recipe, axis.field))
    checks.add(refuse(climate ? at : at + "/field",
                      fmt::format("there is no field \"{:.80}\"", axis.field),
                      "temperature, moisture, heights or the id of a field"));
  if (climate) return;
  checks.add(checkNumber(at + "/low", axis.low, limits::altitude));
  checks.add(checkNumber(at + "/high", axis.high, limits::altitude));
  if (!(axis.low < axis.high))
    checks.add(refuse(at + "/high",
                      fmt::format("{} does not lie above low, {}", axis.high, axis.low),
                      "a number above low"));
}

void checkSpan(Checks& checks, const std::string& at, const Span& span, const AxisScale& axis) {
  for (const auto& end : {span.low, span.high})
    if (end) checks.add(checkNumber(at, *end, limits::altitude));
  if (span.low && span.high && !(*span.low < *span.high))
    checks.add(refuse(at, fmt::format("{} does not lie above {}", *span.high, *span.low),
                      "[low, high) with low below high"));
  else if ((span.low && *span.low >= axis.high) || (span.high && *span.high <= axis.low))
    checks.add(refuse(at,
                      fmt::format("the area from {} to {} lies off the chart",
                                  span.low ? fmt::format("{}", *span.low) : "the beginning",
                                  span.high ? fmt::format("{}", *span.high) : "the end"),
                      fmt::format("some of {} to {}", axis.low, axis.high)));
}

void checkPainting(Checks& checks, const std::string& at, const Painting& painting,
                   const Ids& biomes) {
  checks.add(checkNumber(at + "/columns", painting.columns, limits::painting));
  if (!limits::painting.holds(painting.rows))
    checks.add(refuse(at + "/rows", fmt::format("{} rows", painting.rows),
                      limits::painting.text() + " rows"));
  checks.add(checkCount(at + "/biomes", painting.biomes.size(), limits::biomes));
  for (size_t i = 0; i < painting.biomes.size() && checks.ok(); ++i)
    checkKnown(checks, fmt::format("{}/biomes/{}", at, i), "biome", painting.biomes[i], biomes);
  if (!checks.ok()) return;
  const auto expected = static_cast<size_t>(painting.columns) * static_cast<size_t>(painting.rows);
  if (painting.cells.size() != expected)
    checks.add(refuse(at + "/rows", fmt::format("{} cells", painting.cells.size()),
                      fmt::format("{} cells", expected)));
  for (size_t i = 0; i < painting.cells.size() && checks.ok(); ++i)
    if (painting.cells[i] > painting.biomes.size())
      checks.add(refuse(fmt::format("{}/rows/{}", at, i / static_cast<size_t>(painting.columns)),
                        fmt::format("there is no biome {}", painting.cells[i]),
                        fmt::format("0 (nothing) to {} (of \"biomes\")", painting.biomes.size())));
}

void checkBiome(Checks& checks, const std::string& at, const Recipe& recipe, const Biome& biome,
                const Ids& materials) {
  checks.add(checkText(at + "/name", biome.name, limits::nameBytes));
  checks.add(checkCount(at + "/tags", biome.tags.size(), limits::tags));
  for (size_t i = 0; i < biome.tags.size() && checks.ok(); ++i)
    checks.add(checkId(fmt::format("{}/tags/{}", at, i), biome.tags[i]));
  checks.add(checkNumber(at + "/relief/factor", biome.relief.factor, limits::reliefFactor));
  checks.add(checkNumber(at + "/relief/raise", biome.relief.raise, limits::raise));
  checks.add(checkNumber(at + "/relief/rough", biome.relief.rough, limits::raise));
  checks.add(checkNumber(at + "/weight", biome.weight, limits::biomeWeight));
  if (biome.ideal) {
    checks.add(checkNumber(at + "/ideal/x", biome.ideal->x, limits::altitude));
    checks.add(checkNumber(at + "/ideal/y", biome.ideal->y, limits::altitude));
    if (biome.ideal->altitude)
      checks.add(checkNumber(at + "/ideal/altitude", *biome.ideal->altitude, limits::altitude));
    checks.add(checkNumber(at + "/ideal/weight", biome.ideal->weight, limits::idealWeight));
  }
  if (!biome.bandsOf.empty()) {
    const Biome* other = biomeOf(recipe, biome.bandsOf);
    if (!other || !other->bands)
      checks.add(refuse(at + "/bands/of",
                        other ? fmt::format("\"{}\" has no bands of its own", biome.bandsOf)
                              : fmt::format("there is no biome \"{:.80}\"", biome.bandsOf),
                        "the id of a biome with bands of its own"));
  }
  if (!biome.layersOf.empty()) {
    const Biome* other = biomeOf(recipe, biome.layersOf);
    if (!other || !other->layers)
      checks.add(refuse(at + "/layers/of",
                        other ? fmt::format("\"{}\" has no layers of its own", biome.layersOf)
                              : fmt::format("there is no biome \"{:.80}\"", biome.layersOf),
                        "the id of a biome with layers of its own"));
  }
  if (biome.layers) checkLayers(checks, at + "/layers", recipe, *biome.layers, materials);
  if (!biome.bands) return;
  checks.add(checkCount(at + "/bands", biome.bands->size(), limits::bands));
  if (biome.bands->empty())
    checks.add(refuse(at + "/bands", "no band", "at least one, or no \"bands\": the general ones"));
  checkBands(checks, at + "/bands", *biome.bands, materials);
}

void checkRegions(Checks& checks, const Recipe& recipe, const Regions& regions) {
  const std::string at = "/biomes/regions";
  checks.add(checkNumber(at + "/size", regions.size, limits::regionSize));
  checks.add(checkNumber(at + "/jitter", regions.jitter, limits::jitter));
  checks.add(checkNumber(at + "/warp/cells", regions.warp.cells, limits::warpCells));
  checks.add(checkNumber(at + "/islets", regions.islets, limits::islets));
  if (!regions.warp.x.empty() || !regions.warp.z.empty()) {
    size_t index = 0;
    for (const std::string& field : {regions.warp.x, regions.warp.z}) {
      if (!fieldOf(recipe, field))
        checks.add(refuse(fmt::format("{}/warp/fields/{}", at, index),
                          fmt::format("there is no field \"{:.80}\"", field), "the id of a field"));
      ++index;
    }
  }
  checkNoise(checks, at + "/warp/noise", regions.warp.noise);
}

}  // namespace

void checkBiomes(Checks& checks, const Recipe& recipe, const Ids& materials) {
  const Biomes& biomes = recipe.biomes;
  checks.add(checkCount("/biomes/list", biomes.list.size(), limits::biomes));
  checks.add(checkCount("/biomes/areas", biomes.areas.size(), limits::areas));
  checks.add(checkCount("/biomes/slices", biomes.slices.size(), limits::slices));
  if (!checks.ok()) return;
  Ids ids;
  for (size_t i = 0; i < biomes.list.size() && checks.ok(); ++i) {
    const std::string at = fmt::format("/biomes/list/{}", i);
    checkTaken(checks, at + "/id", "biome", biomes.list[i].id, ids);
    checkBiome(checks, at, recipe, biomes.list[i], materials);
  }
  if (biomes.on) {
    checkChartField(checks, recipe, "/biomes/chart/x", biomes.x);
    checkChartField(checks, recipe, "/biomes/chart/y", biomes.y);
  }
  checks.add(
      checkNumber("/biomes/chart/altitudeReach", biomes.altitudeReach, limits::altitudeReach));
  Ids slices;
  for (size_t i = 0; i < biomes.slices.size() && checks.ok(); ++i) {
    const Slice& slice = biomes.slices[i];
    const std::string at = fmt::format("/biomes/slices/{}", i);
    checkTaken(checks, at + "/id", "slice", slice.id, slices);
    checks.add(checkText(at + "/name", slice.name, limits::nameBytes));
    checkThreshold(checks, at + "/below", slice.below);
    if (slice.below.has_value() == (i + 1 == biomes.slices.size()))
      checks.add(slice.below ? refuse(at + "/below",
                                      "the last slice has an upper end, so higher ground "
                                      "has no slice",
                                      "no \"below\" in the last slice")
                             : refuse(at, "this slice has no upper end but others follow",
                                      "\"below\" in every slice but the last"));
    if (!slice.biome.empty()) checkKnown(checks, at + "/biome", "biome", slice.biome, ids);
  }
  const AxisScale x = scaleOf(recipe, biomes.x), y = scaleOf(recipe, biomes.y);
  Ids areas;
  for (size_t i = 0; i < biomes.areas.size() && checks.ok(); ++i) {
    const Area& area = biomes.areas[i];
    const std::string at = fmt::format("/biomes/areas/{}", i);
    checkTaken(checks, at + "/id", "area", area.id, areas);
    for (size_t k = 0; k < area.slices.size() && checks.ok(); ++k)
      checkKnown(checks, fmt::format("{}/slices/{}", at, k), "slice", area.slices[k], slices);
    if (area.painting) {
      checkPainting(checks, at + "/painting", *area.painting, ids);
      continue;
    }
    checkKnown(checks, at + "/biome", "biome", area.biome, ids);
    checkSpan(checks, at + "/x", area.x, x);
    checkSpan(checks, at + "/y", area.y, y);
  }
  checks.add(checkNumber("/biomes/border/chart", biomes.border.chart, limits::chartBorder));
  checks.add(checkNumber("/biomes/border/ground", biomes.border.ground, limits::groundBorder));
  checks.add(checkNumber("/biomes/border/altitude", biomes.border.altitude, limits::soft));
  checks.add(checkNumber("/biomes/coast", biomes.coast, limits::soft));
  checkNoise(checks, "/biomes/roughness", biomes.roughness);
  checkRegions(checks, recipe, biomes.regions);
  if (biomes.regions.on && biomes.border.ground > biomes.regions.size)
    checks.add(refuse("/biomes/border/ground",
                      fmt::format("{} cells are wider than a region", biomes.border.ground),
                      fmt::format("0 to {}, the size of the regions", biomes.regions.size)));
}

}  // namespace acre
