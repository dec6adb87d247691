#include "audit/plumb.h"

#include <fmt/format.h>

#include <algorithm>
#include <nlohmann/json.hpp>

#include "base/fp_state.h"
#include "recipe/validate.h"

namespace acre {
namespace {

std::string materialNameOf(const World& world, MaterialIndex index) {
  const Material* material = world.material(index);
  return material ? material->name : world.materialId(index);
}

std::string materialNameOf(const World& world, const std::string& id) {
  for (const Material& m : world.recipe().materials)
    if (m.id == id) return m.name;
  return id;
}

std::string bandRule(const World& world, const Band& band) {
  const std::string name = materialNameOf(world, band.material);
  return band.below ? fmt::format("below {} = {}", thresholdText(*band.below), name)
                    : fmt::format("all above = {}", name);
}

/// The layers of a field at a cell, one after the other.
std::vector<PlumbLayer> layersAt(const World& world, const FieldRecipe& recipe, bool on,
                                 Cell cell) {
  const int32_t zero = 0;
  const Points at{1, {&cell.x, nullptr, &cell.z}, {&zero, nullptr, &zero}};
  const Field& field = *world.field(recipe.id);
  const Kernels& kernels = plainKernels();
  std::vector<PlumbLayer> rows;
  float sum = 0;
  for (size_t i = 0; i < recipe.layers.size(); ++i) {
    const Layer& layer = recipe.layers[i];
    PlumbLayer row;
    row.id = layer.id;
    row.name = layer.name;
    row.on = layer.on && on;
    row.combine = layer.combine;
    row.reshapes = reshapes(layer.source);
    row.pointer = fmt::format("{}/layers/{}", pointerOf(world.recipe(), recipe), i);
    row.before = row.after = sum;
    if (const int step = row.on ? field.stepOf(layer.id) : -1; step >= 0) {
      const FieldStep& s = field.steps()[static_cast<size_t>(step)];
      row.amount = s.amount;
      field.stepValues(kernels, s, at, &sum, &row.value);
      field.stepWeights(kernels, s, at, &row.weight);
      Field::joinStep(s, &row.after, &row.value, &row.weight, 1);
      sum = row.after;
    }
    rows.push_back(std::move(row));
  }
  return rows;
}

/// The sum after all layers, through the curve and clamp of the field.
float finished(const Field& field, const std::vector<PlumbLayer>& layers) {
  float value = layers.empty() ? 0 : layers.back().after;
  field.finish(&value, 1);
  return value;
}

void fillFields(const World& world, Plumb& plumb) {
  const Recipe& recipe = world.recipe();
  plumb.layers = layersAt(world, recipe.heights, recipe.heightsOn, plumb.cell);
  plumb.sum = plumb.layers.empty() ? 0 : plumb.layers.back().after;
  plumb.height = finished(world.heightField(), plumb.layers);
  if (!recipe.climate.on) return;
  for (const ClimateAxis* axis : {&recipe.climate.temperature, &recipe.climate.moisture}) {
    PlumbAxis out;
    out.id = axis->field.id;
    out.name = axis->field.name;
    out.layers = layersAt(world, axis->field, true, plumb.cell);
    out.value = finished(*world.field(axis->field.id), out.layers);
    out.told = axis->told(static_cast<double>(out.value));
    out.unit = axis->unit;
    out.pointer = pointerOf(recipe, axis->field);
    plumb.climate.push_back(std::move(out));
  }
}

void fillMargins(const World& world, Plumb& plumb) {
  const Recipe& recipe = world.recipe();
  if (plumb.slopeBand >= 0) {
    const SlopeBand& rule = recipe.slopes[static_cast<size_t>(plumb.slopeBand)];
    plumb.bandId = rule.id;
    plumb.margins.push_back(
        {fmt::format("steeper than {} = {}", shortNumber(rule.from),
                     materialNameOf(world, rule.material)),
         plumb.slope, static_cast<float>(rule.from), false,
         plumb.band >= 0
             ? materialNameOf(world, recipe.bands[static_cast<size_t>(plumb.band)].material)
             : std::string(kUnassignedId),
         fmt::format("/strata/slopes/{}", plumb.slopeBand)});
    return;
  }
  if (plumb.band < 0) return;
  const Band& band = recipe.bands[static_cast<size_t>(plumb.band)];
  plumb.bandId = band.id;
  const auto add = [&](int edge, bool below, int other) {
    const Band& owner = recipe.bands[static_cast<size_t>(edge)];
    plumb.margins.push_back(
        {bandRule(world, owner), plumb.height, world.bands().endAt(edge, plumb.cell), below,
         materialNameOf(world, recipe.bands[static_cast<size_t>(other)].material),
         fmt::format("/strata/bands/{}/below", edge)});
  };
  if (plumb.band > 0) add(plumb.band - 1, false, plumb.band - 1);
  if (band.below) add(plumb.band, true, plumb.band + 1);
}

}  // namespace

std::string shortNumber(double value) {
  return fmt::format("{:.5g}", value == 0 ? 0.0 : value);
}

const char* combineWord(Combine combine) {
  switch (combine) {
    case Combine::Add:
      return "adds";
    case Combine::Multiply:
      return "multiplies";
    case Combine::Subtract:
      return "subtracts";
    case Combine::Minimum:
      return "minimum";
    case Combine::Maximum:
      return "maximum";
    case Combine::SmoothMinimum:
      return "smooth minimum";
    case Combine::SmoothMaximum:
      return "smooth maximum";
    case Combine::Mix:
      return "mixes in";
    case Combine::Replace:
      return "replaces";
  }
  return "";
}

Result<Plumb> plumbAt(const World& world, Cell cell) {
  const bool least = cell.x == INT64_MIN || cell.z == INT64_MIN;
  if (least || !checkGrid({cell.x - 1, cell.z - 1, 1, 3, 3}))
    return Error{Error::Code::InvalidInput,
                 fmt::format("{},{} is beyond the world", cell.x, cell.z), "--at",
                 "cells within 2^60 of the origin"};
  const FpState fp;
  Plumb plumb;
  plumb.cell = cell;
  plumb.chunk = world.layout().chunkOf(cell);
  plumb.local = world.layout().localOf(cell);
  plumb.seaLevel = world.seaLevel();
  fillFields(world, plumb);
  const auto h = [&](int64_t dx, int64_t dz) {
    return world.heightField().at({cell.x + dx, 0}, {cell.z + dz, 0});
  };
  plumb.west = h(-1, 0);
  plumb.east = h(1, 0);
  plumb.north = h(0, -1);
  plumb.south = h(0, 1);
  const CellValue value = world.at(cell);
  plumb.slope = value.slope;
  plumb.slopeBand = value.slopeBand;
  plumb.band = value.band;
  plumb.outside = value.material == kOutside;
  plumb.material = world.materialId(value.material);
  plumb.materialName = materialNameOf(world, value.material);
  if (!plumb.outside) fillMargins(world, plumb);
  return plumb;
}

std::string plumbTitle(const Plumb& plumb) {
  if (plumb.outside) return "Outside the bounds";
  return fmt::format("{}, height {}", plumb.materialName, shortNumber(plumb.height));
}

namespace {

void addLayerRows(const std::string& stage, const std::vector<PlumbLayer>& layers,
                  std::vector<PlumbRow>& rows) {
  for (const PlumbLayer& layer : layers) {
    std::string note =
        layer.on ? (layer.reshapes ? "reshapes" : combineWord(layer.combine)) : "off";
    if (layer.on && layer.weight < 1)
      note += fmt::format(", mask {} %", shortNumber(std::round(layer.weight * 1000.0f) / 10.0));
    rows.push_back({stage, layer.name, layer.on ? shortNumber(layer.value) : "–", note,
                    layer.pointer, false, true});
  }
}

nlohmann::ordered_json layersJson(const std::vector<PlumbLayer>& layers) {
  auto out = nlohmann::ordered_json::array();
  for (const PlumbLayer& l : layers)
    out.push_back({{"id", l.id},
                   {"name", l.name},
                   {"on", l.on},
                   {"does", l.reshapes ? "reshapes" : combineWord(l.combine)},
                   {"amount", l.amount},
                   {"before", l.before},
                   {"value", l.value},
                   {"weight", l.weight},
                   {"after", l.after},
                   {"pointer", l.pointer}});
  return out;
}

/// "12.4 °C", or the bare value.
std::string toldText(const PlumbAxis& axis) {
  return axis.unit.empty() ? shortNumber(axis.value) : shortNumber(axis.told) + " " + axis.unit;
}

}  // namespace

std::vector<PlumbRow> plumbRows(const Plumb& plumb) {
  std::vector<PlumbRow> rows;
  const auto on = std::count_if(plumb.layers.begin(), plumb.layers.end(),
                                [](const PlumbLayer& l) { return l.on; });
  addLayerRows("Heights", plumb.layers, rows);
  rows.push_back({"Heights",
                  fmt::format("{} layer{}, sum", on, on == 1 ? "" : "s"),
                  shortNumber(plumb.sum),
                  {},
                  "/heights/layers",
                  plumb.margins.empty(),
                  false});
  if (plumb.height != plumb.sum)
    rows.push_back(
        {"Heights", "curve and clamp", shortNumber(plumb.height), {}, "/heights", false, false});
  rows.push_back({"Heights", "slope", shortNumber(plumb.slope), "rise per cell", "/heights/layers",
                  false, plumb.slopeBand < 0});
  for (const PlumbAxis& axis : plumb.climate) {
    addLayerRows("Climate", axis.layers, rows);
    rows.push_back({"Climate", axis.name, toldText(axis),
                    axis.unit.empty() ? std::string() : shortNumber(axis.value), axis.pointer,
                    false, false});
  }
  if (plumb.outside) {
    rows.push_back({"Frame", "bounds", "outside", {}, "/frame/bounds", true, false});
    return rows;
  }
  if (plumb.margins.empty() && plumb.band < 0)
    rows.push_back({"Strata", "no rule", "unassigned",
                    fmt::format("height {} has no band", shortNumber(plumb.height)),
                    "/strata/bands", true, false});
  bool first = true;
  for (const PlumbMargin& margin : plumb.margins) {
    const float apart = margin.below ? margin.limit - margin.value : margin.value - margin.limit;
    rows.push_back({"Strata", margin.rule,
                    fmt::format("{} {} {}", shortNumber(margin.value), margin.below ? "<" : "≥",
                                shortNumber(margin.limit)),
                    fmt::format("{} {} would be {}", shortNumber(apart),
                                margin.below ? "higher it" : "lower it", margin.otherwise),
                    margin.pointer, first || margin.below, false});
    first = false;
  }
  if (plumb.margins.size() == 2) rows[rows.size() - 2].deciding = false;
  rows.push_back({"Strata", "material", plumb.materialName, plumb.bandId, "/strata", false, false});
  return rows;
}

std::string plumbText(const Plumb& plumb) {
  std::string out = fmt::format("{} · x {} z {}\n", plumbTitle(plumb), plumb.cell.x, plumb.cell.z);
  out += fmt::format("chunk {},{} · local {},{}\n", plumb.chunk.cx, plumb.chunk.cz, plumb.local.x,
                     plumb.local.z);
  for (const PlumbRow& row : plumbRows(plumb))
    out += fmt::format("{} {:<8} {:<28} {:>14}{}{}\n", row.deciding ? "*" : " ", row.stage,
                       row.label, row.value, row.note.empty() ? "" : "   ", row.note);
  return out;
}

std::string plumbJson(const Plumb& p) {
  using Json = nlohmann::ordered_json;
  Json margins = Json::array(), climate = Json::array();
  for (const PlumbAxis& a : p.climate)
    climate.push_back({{"id", a.id},
                       {"name", a.name},
                       {"layers", layersJson(a.layers)},
                       {"value", a.value},
                       {"told", a.told},
                       {"unit", a.unit},
                       {"pointer", a.pointer}});
  for (const PlumbMargin& m : p.margins)
    margins.push_back({{"rule", m.rule},
                       {"value", m.value},
                       {"limit", m.limit},
                       {"below", m.below},
                       {"otherwise", m.otherwise},
                       {"pointer", m.pointer}});
  Json out = {{"cell", {p.cell.x, p.cell.z}},
              {"chunk", {p.chunk.cx, p.chunk.cz}},
              {"local", {p.local.x, p.local.z}},
              {"outside", p.outside},
              {"sea", p.seaLevel},
              {"heights",
               {{"layers", layersJson(p.layers)},
                {"sum", p.sum},
                {"height", p.height},
                {"neighbours",
                 {{"west", p.west}, {"east", p.east}, {"north", p.north}, {"south", p.south}}},
                {"slope", p.slope}}},
              {"strata",
               {{"slopeBand", p.slopeBand},
                {"band", p.band},
                {"decidedBy", p.bandId},
                {"margins", margins},
                {"material", p.material},
                {"name", p.materialName}}}};
  if (!climate.empty()) out["climate"] = std::move(climate);
  return out.dump(2) + "\n";
}

std::vector<PlumbDifference> plumbDifferences(const Plumb& a, const Plumb& b) {
  std::vector<PlumbDifference> out;
  const auto add = [&](const std::string& label, const std::string& x, const std::string& y) {
    if (x != y) out.push_back({label, x, y});
  };
  for (size_t i = 0; i < std::min(a.layers.size(), b.layers.size()); ++i) {
    add(a.layers[i].name, shortNumber(a.layers[i].value), shortNumber(b.layers[i].value));
    if (a.layers[i].weight != b.layers[i].weight)
      add(a.layers[i].name + ", mask", shortNumber(a.layers[i].weight),
          shortNumber(b.layers[i].weight));
  }
  add("sum", shortNumber(a.sum), shortNumber(b.sum));
  add("height", shortNumber(a.height), shortNumber(b.height));
  add("slope", shortNumber(a.slope), shortNumber(b.slope));
  for (size_t i = 0; i < std::min(a.climate.size(), b.climate.size()); ++i)
    add(a.climate[i].name, toldText(a.climate[i]), toldText(b.climate[i]));
  add("decided by", a.bandId, b.bandId);
  add("material", a.materialName, b.materialName);
  return out;
}

}  // namespace acre
