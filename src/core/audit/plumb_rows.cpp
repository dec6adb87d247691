// The plumb line in words: its title, its rows, the text of a card, and where two differ.
#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "audit/cave_figures.h"
#include "audit/plumb.h"
#include "cave/caves.h"
#include "recipe/cave_recipe.h"
#include "recipe/level_recipe.h"
#include "recipe/stages.h"
#include "world/block_value.h"

namespace acre {

const char* PlumbRow::stageTitle() const {
  return stage ? defOf(*stage).title : "By hand";
}

std::string plumbTitle(const Plumb& plumb) {
  if (plumb.outside) return "Outside the bounds";
  if (plumb.block) return fmt::format("{}, y {}", plumb.materialName, plumb.block->y);
  if (const auto& level = plumb.level) {
    if (!level->place.empty() && !plumb.edited) return level->placeName;
    if (level->open) return plumb.materialName;
    return fmt::format("{}, {} deep", plumb.materialName, level->at.depth);
  }
  const std::string what = !plumb.biome.on               ? plumb.materialName
                           : plumb.biome.biome == "none" ? "No biome"
                                                         : plumb.biome.name;
  return fmt::format("{}, height {}", what, shortNumber(plumb.height));
}

namespace {

/// "12.4 °C", or the bare value.
std::string toldText(const PlumbAxis& axis) {
  return axis.unit.empty() ? shortNumber(axis.value) : shortNumber(axis.told) + " " + axis.unit;
}

void addLayerRows(
    StageId stage, const std::vector<PlumbLayer>& layers, std::vector<PlumbRow>& rows) {
  for (const PlumbLayer& layer : layers) {
    std::string note =
        layer.on ? (layer.reshapes ? "reshapes" : combineWord(layer.combine)) : "off";
    if (layer.on && layer.weight < 1)
      note += fmt::format(", mask {} %", shortNumber(std::round(layer.weight * 1000.0f) / 10.0));
    rows.push_back({stage, layer.name, layer.on ? shortNumber(layer.value) : "–", note,
        layer.pointer, false, true});
  }
}

std::string regionText(RegionId id) {
  return fmt::format("{},{}", id.i, id.j);
}

/// "r·0.8 + 3 + 1.2·0.41".
std::string reliefText(const ReliefAt& r, float noise) {
  std::string text = fmt::format("× {}", shortNumber(r.factor));
  if (r.raise != 0)
    text += fmt::format(" {} {}", r.raise < 0 ? "−" : "+", shortNumber(std::abs(r.raise)));
  if (r.rough != 0) text += fmt::format(" + {} · {}", shortNumber(r.rough), shortNumber(noise));
  return text;
}

void addBiomeRows(const Plumb& plumb, std::vector<PlumbRow>& rows) {
  const PlumbBiome& b = plumb.biome;
  if (!b.on) return;
  const auto add = [&](std::string label, std::string value, std::string note, std::string pointer,
                       bool deciding, bool folds) {
    rows.push_back({StageId::Biomes, std::move(label), std::move(value), std::move(note),
        std::move(pointer), deciding, folds});
  };
  if (b.hasRegion) {
    add("region", regionText(b.region),
        b.givenBack ? std::string("an islet of another region, given to this one")
                    : fmt::format("site {},{}, {} cells away", b.site.x, b.site.z,
                          shortNumber(b.siteCells)),
        "/biomes/regions", false, false);
    const bool near = static_cast<double>(b.borderCells) < b.borderReach;
    add("border", near ? shortNumber(b.borderCells) + " cells" : "far",
        near ? fmt::format("beyond it {}", regionText(b.across))
             : fmt::format("none within {}", shortNumber(b.borderReach)),
        "/biomes/regions/size", false, true);
    if (b.shiftX != 0 || b.shiftZ != 0)
      add("warp", fmt::format("{}, {}", shortNumber(b.shiftX), shortNumber(b.shiftZ)), "cells",
          "/biomes/regions/warp", false, true);
  }
  const bool uncovered = b.biome == "none";
  if (b.how != "drawn by weight") {
    const std::string of = b.byRegion ? "at the site" : std::string();
    // Where no region decides they stand among the climate already.
    add(b.nameX, b.toldX, of, "/biomes/chart/x", false, !b.byRegion);
    add(b.nameY, b.toldY, of, "/biomes/chart/y", false, !b.byRegion);
  }
  if (!b.slice.empty())
    add("slice", b.slice, fmt::format("base height {}", shortNumber(plumb.base)), "/biomes/slices",
        false, true);
  if (uncovered)
    add("no rule", "uncovered", fmt::format("{} {}, {} {}", b.nameX, b.toldX, b.nameY, b.toldY),
        b.pointer, true, false);
  else
    add("biome", b.name, b.how, b.pointer, plumb.margins.empty() && !plumb.outside, false);
  bool first = true;
  for (const PlumbMargin& m : plumb.biomeMargins) {
    const float apart = m.below ? m.limit - m.value : m.value - m.limit;
    add(m.rule,
        fmt::format("{} {} {}", shortNumber(m.value), m.below ? "<" : "≥", shortNumber(m.limit)),
        fmt::format("{} {} {}", shortNumber(apart),
            m.below ? "higher it would be" : "lower it would be", m.otherwise),
        m.pointer, false, !first);
    first = false;
  }
  if (!b.shapes) return;
  for (const PlumbRegion& part : b.blend)
    if (b.blend.size() > 1)
      add("blend " + regionText(part.id), shortNumber(part.weight),
          reliefText(part.relief, b.noise), "/biomes/border/ground", false, true);
  add("height", shortNumber(plumb.height),
      fmt::format("base {} {}", shortNumber(plumb.base), reliefText(b.relief, b.noise)),
      b.byRegion ? "/biomes/border/ground" : "/biomes/border/chart", false, false);
}

void addBlockRows(const Plumb& plumb, std::vector<PlumbRow>& rows) {
  const PlumbBlock& block = *plumb.block;
  const BlockValue& at = block.at;
  const CaveStage::At& cave = at.cave;
  const bool lined = !block.caveKind.empty() && at.material != at.ground && !at.edited;
  const bool decided = at.edited || !block.cave.empty() || lined;  // After the strata.
  for (PlumbRow& row : rows) row.deciding = false;
  const auto add = [&](std::optional<StageId> stage, std::string label, std::string value,
                       std::string note, std::string pointer, bool deciding, bool folds) {
    rows.push_back({stage, std::move(label), std::move(value), std::move(note), std::move(pointer),
        deciding, folds});
  };
  add(StageId::Heights, "below the surface", shortNumber(at.distance), "height − top of the block",
      "/heights/layers", false, false);
  if (at.pushed != 0)
    add(StageId::Heights, "overhang", shortNumber(at.pushed),
        fmt::format("noise {}", shortNumber(at.noise)), "/heights/overhang", false, false);
  const bool generatedOpen = !at.solid;
  add(StageId::Heights, generatedOpen ? "open" : "solid", shortNumber(at.density),
      generatedOpen ? "below 0" : "0 or more",
      at.pushed != 0 ? "/heights/overhang" : "/heights/layers",
      generatedOpen && !at.water && !at.edited, false);
  if (at.water)
    add(StageId::Strata, "sea", plumb.materialName,
        fmt::format("y {} < {}", block.y, shortNumber(plumb.seaLevel)), "/water", !at.edited,
        false);
  if (at.solid) {
    add(StageId::Strata, "depth", fmt::format("{}{}", at.depth, at.deeper ? " or more" : ""),
        at.deeper ? "solid blocks above: deeper than all layers, not counted on"
                  : "solid blocks above",
        block.pointer, false, true);
    if (!block.layer.empty())
      add(StageId::Strata, "layer", block.layer, {}, block.pointer, !decided && block.ore.empty(),
          false);
    if (!block.bed.empty())
      add(StageId::Strata, "bed", block.bed,
          fmt::format("{} below its upper side at {}",
              shortNumber(static_cast<double>(at.bedTop) - (static_cast<double>(block.y) + 0.5)),
              shortNumber(at.bedTop)),
          "/strata/rock", !decided && block.ore.empty(), false);
    if (!block.ore.empty())
      add(StageId::Strata, "ore", block.ore, {}, block.pointer, !decided, false);
  }
  if (!block.cave.empty()) {
    std::string label = "tunnel", note;
    if (cave.part == CaveStage::Part::Tunnel) {
      const Passage& passage =
          cave.tunnel.system->passages[static_cast<size_t>(cave.tunnel.passage)];
      note = fmt::format("{}: {} ≤ {} from its middle", passageName(passage.kind),
          shortNumber(static_cast<double>(cave.tunnel.distance)),
          shortNumber(static_cast<double>(cave.tunnel.radius)));
    } else if (cave.part == CaveStage::Part::Void) {
      label = "noise void";
      note = fmt::format("noise {}, factor {}", shortNumber(static_cast<double>(cave.noise.first)),
          shortNumber(static_cast<double>(cave.noise.factor)));
    } else {
      label = "automaton";
      note = fmt::format("left open, {} solid neighbours", cave.automaton.neighbours);
    }
    add(StageId::Caves, label,
        block.system.empty() ? block.cave : fmt::format("{} {}", block.cave, block.system), note,
        block.pointer, !at.edited, false);
    if (cave.holds != kOpen)
      add(StageId::Caves, "under water", plumb.materialName,
          fmt::format("y {} < {}", block.y, cave.tunnel.system->floodedBelow), block.pointer, false,
          false);
    add(StageId::Caves, "dug from", block.ground, {}, "/strata", false, true);
  } else if (!block.caveKind.empty()) {
    add(StageId::Caves, cave.floor ? "floor" : "wall", block.caveKind,
        fmt::format("{} below the surface", shortNumber(static_cast<double>(cave.depth))),
        block.pointer, lined, false);
  }
  if (cave.keptOff && block.cave.empty())
    add(StageId::Caves, "kept off the sea", {}, "else it would be open", "/caves/seaCover", false,
        false);
  if (at.edited)
    add(std::nullopt, "edited by hand", plumb.materialName, "generated: " + block.generated,
        "/edits", true, false);
  else
    add(StageId::Strata, "material", plumb.materialName, {}, block.pointer, false, false);
}

/// What the floor makes of a cell.
void addLevelRows(const Plumb& plumb, std::vector<PlumbRow>& rows) {
  const PlumbLevel& level = *plumb.level;
  const bool generatedOpen = level.at.depth == 0;
  for (PlumbRow& row : rows) row.deciding = false;
  const auto add = [&](std::optional<StageId> stage, std::string label, std::string value,
                       std::string note, std::string pointer, bool deciding, bool folds) {
    rows.push_back({stage, std::move(label), std::move(value), std::move(note), std::move(pointer),
        deciding && !plumb.edited, folds});
  };
  if (generatedOpen) {
    add(StageId::Level, "open", fmt::format("floor {}", level.floor), {}, "/level/processes",
        level.place.empty(), false);
  } else {
    add(StageId::Level, "solid", fmt::format("{}", level.at.depth),
        level.at.depth == 1 ? "cell from the nearest open one" : "cells from the nearest open one",
        "/level/processes", false, false);
    add(StageId::Strata, "rock", shortNumber(level.at.rock), "height − depth, as the bands see it",
        "/strata/bands", level.layer.empty() && level.bed.empty() && level.ore.empty(), false);
    if (!level.layer.empty())
      add(StageId::Strata, "layer", level.layer, {}, level.pointer, level.ore.empty(), false);
    if (!level.bed.empty())
      add(StageId::Strata, "bed", level.bed, {}, "/strata/rock", level.ore.empty(), false);
    if (!level.ore.empty()) add(StageId::Strata, "ore", level.ore, {}, level.pointer, true, false);
  }
  if (!level.place.empty())
    add(StageId::Level, "place", level.placeName,
        level.from.empty() ? std::string()
                           : fmt::format("{} steps from {}", level.steps, level.from),
        level.pointer, true, false);
  if (plumb.edited)
    rows.push_back({{}, level.open ? "made open" : "made solid", plumb.materialName,
        "generated: " + level.generated, "/edits", true, false});
  else
    add(StageId::Strata, "material", plumb.materialName, {}, level.pointer, false, false);
}

}  // namespace

std::vector<PlumbRow> plumbRows(const Plumb& plumb) {
  std::vector<PlumbRow> rows;
  const auto on = std::count_if(
      plumb.layers.begin(), plumb.layers.end(), [](const PlumbLayer& l) { return l.on; });
  addLayerRows(StageId::Heights, plumb.layers, rows);
  rows.push_back({StageId::Heights, fmt::format("{} layer{}, sum", on, on == 1 ? "" : "s"),
      shortNumber(plumb.sum), {}, "/heights/layers",
      plumb.margins.empty() && !plumb.biome.on && !plumb.outside, false});
  if (plumb.base != plumb.sum)
    rows.push_back({StageId::Heights, "curve and clamp", shortNumber(plumb.base), {}, "/heights",
        false, false});
  rows.push_back({StageId::Heights, "slope", shortNumber(plumb.slope), "rise per cell",
      "/heights/layers", false, plumb.slopeBand < 0});
  if (plumb.fill)
    rows.push_back({StageId::Heights, "filled down", fmt::format("{}", *plumb.fill),
        "cells below the top, beside the lowest neighbour", "/heights/fillDown", false,
        *plumb.fill == 0});
  for (const PlumbAxis& axis : plumb.climate) {
    addLayerRows(StageId::Climate, axis.layers, rows);
    rows.push_back({StageId::Climate, axis.name, toldText(axis),
        axis.unit.empty() ? std::string() : shortNumber(axis.value), axis.pointer, false, false});
  }
  addBiomeRows(plumb, rows);
  if (plumb.outside) {
    rows.push_back({StageId::Frame, "bounds", "outside", {}, "/frame/bounds", true, false});
    return rows;
  }
  const bool uncovered = plumb.biome.on && plumb.biome.biome == "none";
  if (plumb.margins.empty() && plumb.band < 0 && !(plumb.level && plumb.level->open))
    rows.push_back({StageId::Strata, "no rule", "unassigned",
        fmt::format("height {} has no band", shortNumber(plumb.height)), "/strata/bands",
        !plumb.biome.on, false});
  bool first = true;
  for (const PlumbMargin& margin : plumb.margins) {
    const float apart = margin.below ? margin.limit - margin.value : margin.value - margin.limit;
    rows.push_back({StageId::Strata, margin.rule,
        fmt::format("{} {} {}", shortNumber(margin.value), margin.below ? "<" : "≥",
            shortNumber(margin.limit)),
        fmt::format("{} {} would be {}", shortNumber(apart),
            margin.below ? "higher it" : "lower it", margin.otherwise),
        margin.pointer, !uncovered && (first || margin.below), false});
    first = false;
  }
  if (plumb.margins.size() == 2) rows[rows.size() - 2].deciding = false;
  if (plumb.block) {
    addBlockRows(plumb, rows);
    return rows;
  }
  if (plumb.level) {
    addLevelRows(plumb, rows);
    return rows;
  }
  rows.push_back(
      {StageId::Strata, "material", plumb.materialName, plumb.bandId, "/strata", false, false});
  if (plumb.edited)
    rows.push_back({{}, "edited by hand", plumb.materialName, {}, "/edits", true, false});
  return rows;
}

std::string plumbText(const Plumb& plumb) {
  std::string out = fmt::format("{} · x {} z {}\n", plumbTitle(plumb), plumb.cell.x, plumb.cell.z);
  out += fmt::format(
      "chunk {},{} · local {},{}\n", plumb.chunk.cx, plumb.chunk.cz, plumb.local.x, plumb.local.z);
  for (const PlumbRow& row : plumbRows(plumb))
    out += fmt::format("{} {:<8} {:<28} {:>14}{}{}\n", row.deciding ? "*" : " ", row.stageTitle(),
        row.label, row.value, row.note.empty() ? "" : "   ", row.note);
  return out;
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
  if (a.base != a.height || b.base != b.height)
    add("base height", shortNumber(a.base), shortNumber(b.base));
  add("height", shortNumber(a.height), shortNumber(b.height));
  add("slope", shortNumber(a.slope), shortNumber(b.slope));
  for (size_t i = 0; i < std::min(a.climate.size(), b.climate.size()); ++i)
    add(a.climate[i].name, toldText(a.climate[i]), toldText(b.climate[i]));
  if (a.biome.on && b.biome.on) {
    if (a.biome.hasRegion) add("region", regionText(a.biome.region), regionText(b.biome.region));
    if (a.biome.byRegion) {
      add(a.biome.nameX + " at the site", a.biome.toldX, b.biome.toldX);
      add(a.biome.nameY + " at the site", a.biome.toldY, b.biome.toldY);
    }
    add("slice", a.biome.slice, b.biome.slice);
    add("biome", a.biome.name, b.biome.name);
  }
  if (a.block && b.block) {
    add("overhang", shortNumber(a.block->at.pushed), shortNumber(b.block->at.pushed));
    add("density", shortNumber(a.block->at.density), shortNumber(b.block->at.density));
    add("depth", fmt::format("{}", a.block->at.depth), fmt::format("{}", b.block->at.depth));
    add("layer", a.block->layer, b.block->layer);
    add("bed", a.block->bed, b.block->bed);
    add("ore", a.block->ore, b.block->ore);
    add("cave", a.block->cave, b.block->cave);
    add("cave kind", a.block->caveKind, b.block->caveKind);
  }
  if (a.level && b.level) {
    add("cells to the nearest open one", fmt::format("{}", a.level->at.depth),
        fmt::format("{}", b.level->at.depth));
    add("place", a.level->place, b.level->place);
    add("layer", a.level->layer, b.level->layer);
    add("bed", a.level->bed, b.level->bed);
    add("ore", a.level->ore, b.level->ore);
  }
  add("decided by", a.bandId, b.bandId);
  add("material", a.materialName, b.materialName);
  return out;
}

}  // namespace acre
