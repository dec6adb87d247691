// What is told of a cell, each stage in a function of its own.
#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "audit/cave_figures.h"
#include "audit/explain.h"
#include "cave/caves.h"
#include "recipe/cave_recipe.h"
#include "recipe/level_recipe.h"
#include "world/block_value.h"

namespace acre {
namespace {

/// "12.4 °C", or the bare value.
std::string toldText(const PlumbAxis& axis) {
  return axis.unit.empty() ? shortNumber(axis.value) : shortNumber(axis.told) + " " + axis.unit;
}

std::string regionText(RegionId id) {
  return fmt::format("{},{}", id.i, id.j);
}

/// "× 0.8 + 3 + 1.2 · 0.41".
std::string reliefText(const ReliefAt& r, float noise) {
  std::string text = fmt::format("× {}", shortNumber(r.factor));
  if (r.raise != 0)
    text += fmt::format(" {} {}", r.raise < 0 ? "−" : "+", shortNumber(std::abs(r.raise)));
  if (r.rough != 0) text += fmt::format(" + {} · {}", shortNumber(r.rough), shortNumber(noise));
  return text;
}

/// How a margin compares, and how far it is from the other side.
std::string comparison(const PlumbMargin& m) {
  return fmt::format("{} {} {}", shortNumber(m.value), m.below ? "<" : "≥", shortNumber(m.limit));
}
std::string apart(const PlumbMargin& m) {
  return shortNumber(m.below ? m.limit - m.value : m.value - m.limit);
}

enum Weight : uint8_t { Plain, Folds, Decides };

class Explainer {
 public:
  Explainer(const Plumb& plumb, PlumbSink& sink) : p_(plumb), sink_(sink) {}

  void all() {
    place();
    heights();
    climate();
    if (p_.biome.on) biomes();
    if (p_.water) water();
    strata();
    if (p_.block) block();
    if (p_.level) level();
    last();
    if (p_.part) ofObject();
    if (!p_.objects.empty()) objects();
  }

 private:
  /// What is said while it is there stands within the part.
  class Part {
   public:
    Part(PlumbSink& sink, std::string_view name, bool list = false) : sink_(sink) {
      sink_.open(name, list);
    }
    ~Part() { sink_.close(); }
    Part(const Part&) = delete;
    Part& operator=(const Part&) = delete;

   private:
    PlumbSink& sink_;
  };
  Part part(std::string_view name) const { return {sink_, name}; }
  Part member() const { return {sink_, {}}; }
  Part list(std::string_view name) const { return {sink_, name, true}; }

  /// Whole numbers and those of single precision are told with all their digits.
  template <class T>
  void value(std::string_view name, const T& v) const {
    if constexpr (std::is_same_v<T, bool> || !std::is_arithmetic_v<T>)
      sink_.value(name, v);
    else
      sink_.value(name, std::conditional_t<std::is_integral_v<T>, int64_t, double>(v));
  }
  void row(std::optional<StageId> stage, std::string label, std::string told, std::string note,
      std::string pointer, Weight weight = Plain, bool folds = false) const {
    sink_.row({stage, std::move(label), std::move(told), std::move(note), std::move(pointer),
        weight == Decides, folds || weight == Folds});
  }
  void beside(std::string label, std::string text, bool telling = true) const {
    sink_.beside(std::move(label), std::move(text), telling);
  }
  static Weight decidesIf(bool decides, Weight otherwise = Plain) {
    return decides ? Decides : otherwise;
  }

  void layers(StageId stage, const std::vector<PlumbLayer>& layers, bool compared) const;
  void margins(const std::vector<PlumbMargin>& margins) const;
  void relief(const ReliefAt& relief) const;
  void place() const;
  void heights() const;
  void climate() const;
  void biomes() const;
  void region() const;
  void water() const;
  std::string unmoved() const;
  void strata() const;
  void block() const;
  void strataOf(const PlumbBlock& block, bool decided) const;
  void caves(const PlumbBlock& block, bool lined) const;
  void held(const PlumbBlock& block) const;
  void level() const;
  void last() const;
  void ofObject() const;
  void objects() const;
  void conditions(const PlumbObject& one) const;
  void contest(const PlumbObject& one) const;

  /// What stands there, or what was changed by hand, decides after the ground.
  bool later() const { return p_.edited || p_.part || (p_.block && p_.block->at.edited); }
  /// Blocks and floors decide after everything of their column.
  bool columnDecides() const {
    return p_.outside || !(p_.block || p_.level || p_.part || (p_.water && p_.water->shown));
  }
  bool uncovered() const { return p_.biome.on && p_.biome.biome == "none"; }

  const Plumb& p_;
  PlumbSink& sink_;
};

void Explainer::place() const {
  value("cell", std::array{p_.cell.x, p_.cell.z});
  value("chunk", std::array{p_.chunk.cx, p_.chunk.cz});
  value("local", std::array{p_.local.x, p_.local.z});
  value("outside", p_.outside);
  value("sea", p_.seaLevel);
}

// ---- heights and climate -----------------------------------------------------------------------

void Explainer::layers(StageId stage, const std::vector<PlumbLayer>& layers, bool compared) const {
  const Part all = list("layers");
  for (const PlumbLayer& l : layers) {
    const Part one = member();
    const std::string does = l.reshapes ? "reshapes" : combineWord(l.combine);
    value("id", l.id);
    value("name", l.name);
    value("on", l.on);
    value("does", does);
    if (!l.reshapes && hasAmount(l.combine)) value("amount", l.amount);
    value("before", l.before);
    value("value", l.value);
    value("weight", l.weight);
    value("after", l.after);
    value("pointer", l.pointer);
    std::string note = l.on ? does : "off";
    if (l.on && l.weight < 1)
      note += fmt::format(", mask {} %", shortNumber(std::round(l.weight * 1000.0f) / 10.0));
    row(stage, l.name, l.on ? shortNumber(l.value) : "–", note, l.pointer, Folds);
    if (!compared) continue;
    beside(l.name, shortNumber(l.value));
    beside(l.name + ", mask", shortNumber(l.weight));
  }
}

void Explainer::heights() const {
  const Part heights = part("heights");
  layers(StageId::Heights, p_.layers, true);
  const auto on =
      std::count_if(p_.layers.begin(), p_.layers.end(), [](const PlumbLayer& l) { return l.on; });
  value("sum", p_.sum);
  row(StageId::Heights, fmt::format("{} layer{}, sum", on, on == 1 ? "" : "s"), shortNumber(p_.sum),
      {}, "/heights/layers",
      decidesIf(p_.margins.empty() && !p_.biome.on && !p_.outside && columnDecides()));
  beside("sum", shortNumber(p_.sum));
  value("base", p_.base);
  if (p_.base != p_.sum)
    row(StageId::Heights, "curve and clamp", shortNumber(p_.base), {}, "/heights");
  beside("base height", shortNumber(p_.base), p_.base != p_.before);
  value("height", p_.height);
  beside("height", shortNumber(p_.before));
  {
    const Part neighbours = part("neighbours");
    value("west", p_.west);
    value("east", p_.east);
    value("north", p_.north);
    value("south", p_.south);
  }
  value("slope", p_.slope);
  row(StageId::Heights, "slope", shortNumber(p_.slope), "rise per cell", "/heights/layers",
      p_.slopeBand < 0 ? Folds : Plain);
  beside("slope", shortNumber(p_.slope));
  if (!p_.fill) return;
  value("fill", *p_.fill);
  row(StageId::Heights, "filled down", fmt::format("{}", *p_.fill),
      "cells below the top, beside the lowest neighbour", "/heights/fillDown",
      *p_.fill == 0 ? Folds : Plain);
}

void Explainer::climate() const {
  if (p_.climate.empty()) return;
  const Part all = list("climate");
  for (const PlumbAxis& axis : p_.climate) {
    const Part one = member();
    value("id", axis.id);
    value("name", axis.name);
    layers(StageId::Climate, axis.layers, false);
    value("value", axis.value);
    value("told", axis.told);
    value("unit", axis.unit);
    value("pointer", axis.pointer);
    row(StageId::Climate, axis.name, toldText(axis),
        axis.unit.empty() ? std::string() : shortNumber(axis.value), axis.pointer);
    beside(axis.name, toldText(axis));
  }
}

// ---- biomes ------------------------------------------------------------------------------------

void Explainer::margins(const std::vector<PlumbMargin>& margins) const {
  const Part all = list("margins");
  for (const PlumbMargin& m : margins) {
    const Part one = member();
    value("rule", m.rule);
    value("value", m.value);
    value("limit", m.limit);
    value("below", m.below);
    value("otherwise", m.otherwise);
    value("pointer", m.pointer);
  }
}

void Explainer::relief(const ReliefAt& relief) const {
  const Part all = part("relief");
  value("factor", relief.factor);
  value("raise", relief.raise);
  value("rough", relief.rough);
}

void Explainer::region() const {
  const PlumbBiome& b = p_.biome;
  row(StageId::Biomes, "region", regionText(b.region),
      b.givenBack
          ? std::string("an islet of another region, given to this one")
          : fmt::format("site {},{}, {} cells away", b.site.x, b.site.z, shortNumber(b.siteCells)),
      "/biomes/regions");
  const bool near = static_cast<double>(b.borderCells) < b.borderReach;
  row(StageId::Biomes, "border", near ? shortNumber(b.borderCells) + " cells" : "far",
      near ? fmt::format("beyond it {}", regionText(b.across))
           : fmt::format("none within {}", shortNumber(b.borderReach)),
      "/biomes/regions/size", Folds);
  if (b.shiftX != 0 || b.shiftZ != 0)
    row(StageId::Biomes, "warp",
        fmt::format("{}, {}", shortNumber(b.shiftX), shortNumber(b.shiftZ)), "cells",
        "/biomes/regions/warp", Folds);
  beside("region", regionText(b.region));
  if (b.byRegion) {
    beside(b.nameX + " at the site", b.toldX);
    beside(b.nameY + " at the site", b.toldY);
  }
  const Part region = part("region");
  value("id", std::array{b.region.i, b.region.j});
  value("site", std::array{b.site.x, b.site.z});
  value("siteCells", b.siteCells);
  value("borderCells", b.borderCells);
  value("across", std::array{b.across.i, b.across.j});
  value("shift", std::array{static_cast<double>(b.shiftX), static_cast<double>(b.shiftZ)});
  value("decides", b.byRegion);
  value("givenBack", b.givenBack);
  const Part blend = list("blend");
  for (const PlumbRegion& of : b.blend) {
    const Part one = member();
    value("region", std::array{of.id.i, of.id.j});
    value("site", std::array{of.site.x, of.site.z});
    value("weight", of.weight);
    value("part", of.part);
    relief(of.relief);
  }
}

void Explainer::biomes() const {
  const PlumbBiome& b = p_.biome;
  const Part biomes = part("biomes");
  if (b.hasRegion) region();
  value("x", b.x);
  value("y", b.y);
  value("slice", b.slice);
  value("rule", b.rule);
  value("how", b.how);
  value("pointer", b.pointer);
  value("biome", b.biome);
  value("name", b.name);
  margins(p_.biomeMargins);
  relief(b.relief);
  value("noise", b.noise);
  value("coast", b.coast);
  value("height", p_.before);
  if (b.how != "drawn by weight") {
    const std::string of = b.byRegion ? "at the site" : std::string();
    // Where no region decides they stand among the climate already.
    const Weight weight = b.byRegion ? Plain : Folds;
    row(StageId::Biomes, b.nameX, b.toldX, of, "/biomes/chart/x", weight);
    row(StageId::Biomes, b.nameY, b.toldY, of, "/biomes/chart/y", weight);
  }
  if (!b.slice.empty())
    row(StageId::Biomes, "slice", b.slice, fmt::format("base height {}", shortNumber(p_.base)),
        "/biomes/slices", Folds);
  beside("slice", b.slice);
  if (uncovered())
    row(StageId::Biomes, "no rule", "uncovered",
        fmt::format("{} {}, {} {}", b.nameX, b.toldX, b.nameY, b.toldY), b.pointer,
        decidesIf(columnDecides()));
  else
    row(StageId::Biomes, "biome", b.name, b.how, b.pointer,
        decidesIf(p_.margins.empty() && !p_.outside && columnDecides()));
  beside("biome", b.name);
  bool first = true;
  for (const PlumbMargin& m : p_.biomeMargins) {
    row(StageId::Biomes, m.rule, comparison(m),
        fmt::format("{} {} {}", apart(m), m.below ? "higher it would be" : "lower it would be",
            m.otherwise),
        m.pointer, first ? Plain : Folds);
    first = false;
  }
  if (!b.shapes) return;
  for (const PlumbRegion& of : b.blend)
    if (b.blend.size() > 1)
      row(StageId::Biomes, "blend " + regionText(of.id), shortNumber(of.weight),
          reliefText(of.relief, b.noise), "/biomes/border/ground", Folds);
  row(StageId::Biomes, "height", shortNumber(p_.before),
      fmt::format("base {} {}", shortNumber(p_.base), reliefText(b.relief, b.noise)),
      b.byRegion ? "/biomes/border/ground" : "/biomes/border/chart");
}

// ---- water -------------------------------------------------------------------------------------

void Explainer::water() const {
  const PlumbWater& w = *p_.water;
  const char* kind = nameOf(w.at.kind);
  const Part water = part("water");
  value("kind", std::string(kind));
  value("before", w.before);
  value("height", w.at.height);
  if (w.at.kind != WaterKind::Dry) value("level", w.at.level);
  value("area", w.area);
  value("spring", w.spring);
  if (w.next) value("next", std::array{w.next->x, w.next->z});
  value("end", w.end);
  if (!w.way.empty()) value("way", w.way);
  beside("water", kind);
  beside("drained", fmt::format("{}", w.area));
  if (p_.outside) return;
  const auto onward = [&] {
    if (w.end == "nowhere") return std::string("ends here");
    return w.next ? fmt::format(
                        "on to {}{},{}", w.end.empty() ? "" : w.end + " at ", w.next->x, w.next->z)
                  : std::string();
  };
  const Weight decides = decidesIf(w.shown && !later());
  switch (w.at.kind) {
    case WaterKind::Sea:
      break;
    case WaterKind::River:
      if (w.way.empty())
        row(StageId::Water, "river", fmt::format("level {}", w.at.level),
            fmt::format("{} cells wide, {}", shortNumber(w.width), onward()), "/rivers/growth",
            decides);
      else
        row(StageId::Water, "way " + w.way, fmt::format("level {}", w.at.level),
            fmt::format("{} cells wide, from {},{} to {},{}", shortNumber(w.width), w.from.x,
                w.from.z, w.to.x, w.to.z),
            "/rivers/courses", decides);
      break;
    case WaterKind::Lake:
      row(StageId::Water, "lake", fmt::format("level {}", w.at.level),
          w.closed ? "closed" : onward(), "/rivers/lakes", decides);
      break;
    case WaterKind::Dry:
      row(StageId::Water, w.area < w.spring ? "no river" : "river beside it",
          fmt::format("{} of {}", w.area, w.spring), "bricks that drain through here",
          "/rivers/spring", w.area > 0 ? Plain : Folds);
      if (w.shown)
        row(StageId::Water, w.bank ? "bank" : "wet ground", p_.materialName,
            fmt::format("{} cells from the water", shortNumber(w.at.shore)),
            w.bank ? "/rivers/bank" : "/rivers/wet", decides);
      break;
  }
  if (w.at.kind == WaterKind::River && w.way.empty())
    row(StageId::Water, "drains", fmt::format("{}", w.area), "bricks of 32 x 28 cells",
        "/rivers/spring", Folds);
  if (w.at.height < w.before)
    row(StageId::Water, w.at.kind == WaterKind::River ? "bed" : "cut to", shortNumber(w.at.height),
        fmt::format("{} lower", shortNumber(w.before - w.at.height)),
        w.at.kind == WaterKind::River ? "/rivers/depth" : "/rivers/valley");
}

/// What was built in water is told why that does not give way.
std::string Explainer::unmoved() const {
  if (!p_.water || !isFresh(p_.water->at.kind)) return {};
  return "water does not move: it was found on the ground before anything was changed by hand";
}

// ---- strata ------------------------------------------------------------------------------------

void Explainer::strata() const {
  const Part strata = part("strata");
  value("slopeBand", p_.slopeBand);
  value("band", p_.band);
  value("decidedBy", p_.bandId);
  margins(p_.margins);
  value("material", p_.material);
  value("name", p_.materialName);
  if (p_.outside) return row(StageId::Frame, "bounds", "outside", {}, "/frame/bounds", Decides);
  if (p_.margins.empty() && p_.band < 0 && !(p_.level && p_.level->open))
    row(StageId::Strata, "no rule", "unassigned",
        fmt::format("height {} has no band", shortNumber(p_.height)), "/strata/bands",
        decidesIf(!p_.biome.on && columnDecides()));
  for (size_t i = 0; i < p_.margins.size(); ++i) {
    const PlumbMargin& m = p_.margins[i];
    // Of a lower and an upper end the upper one.
    const bool decides = p_.margins.size() == 2 ? i == 1 && m.below : i == 0 || m.below;
    row(StageId::Strata, m.rule, comparison(m),
        fmt::format("{} {} would be {}", apart(m), m.below ? "higher it" : "lower it", m.otherwise),
        m.pointer, decidesIf(decides && !uncovered() && columnDecides()));
  }
}

// ---- blocks ------------------------------------------------------------------------------------

void Explainer::block() const {
  const PlumbBlock& b = *p_.block;
  const BlockValue& at = b.at;
  const bool lined = !b.caveKind.empty() && at.made != at.ground && !later();
  const bool decided = later() || !b.cave.empty() || lined;  // After the strata.
  const Part block = part("block");
  value("y", b.y);
  value("solid", at.solid);
  value("distance", at.distance);
  value("overhangNoise", at.noise);
  value("pushed", at.pushed);
  value("density", at.density);
  if (!p_.outside) {
    const std::string ground = "/heights/layers", overhang = "/heights/overhang";
    row(StageId::Heights, "below the surface", shortNumber(at.distance),
        "height − top of the block", ground);
    if (at.pushed != 0)
      row(StageId::Heights, "overhang", shortNumber(at.pushed),
          fmt::format("noise {}", shortNumber(at.noise)), overhang);
    row(StageId::Heights, at.solid ? "solid" : "open", shortNumber(at.density),
        at.solid ? "0 or more" : "below 0", at.pushed != 0 ? overhang : ground,
        decidesIf(!at.solid && !at.water && !later()));
  }
  beside("overhang", shortNumber(at.pushed));
  beside("density", shortNumber(at.density));
  strataOf(b, decided);
  caves(b, lined);
  value("ground", b.ground);
  value("edited", at.edited);
  value("generated", b.generated);
  value("pointer", b.pointer);
  if (p_.outside) return;
  if (at.edited)
    row(std::nullopt, "edited by hand", p_.materialName,
        "generated: " + b.generated + (unmoved().empty() ? "" : "; " + unmoved()), "/edits",
        Decides);
  else
    row(StageId::Strata, "material", p_.materialName, {}, b.pointer);
}

void Explainer::strataOf(const PlumbBlock& b, bool decided) const {
  const BlockValue& at = b.at;
  value("depth", at.depth);
  value("deeper", at.deeper);
  value("layer", b.layer);
  value("bed", b.bed);
  value("bedTop", at.bedTop);
  value("ore", b.ore);
  value("water", at.water);
  beside("depth", fmt::format("{}", at.depth));
  beside("layer", b.layer);
  beside("bed", b.bed);
  beside("ore", b.ore);
  if (p_.outside) return;
  if (at.fresh)
    row(StageId::Strata, "fresh water", p_.materialName,
        fmt::format("y {} < {}", b.y, p_.water->at.level), "/rivers/material", decidesIf(!later()));
  else if (at.water)
    row(StageId::Strata, "sea", p_.materialName,
        fmt::format("y {} < {}", b.y, shortNumber(p_.seaLevel)), "/water", decidesIf(!later()));
  if (!at.solid) return;
  row(StageId::Strata, "depth", fmt::format("{}{}", at.depth, at.deeper ? " or more" : ""),
      at.deeper ? "solid blocks above: deeper than all layers, not counted on"
                : "solid blocks above",
      b.pointer, Folds);
  const bool ore = !b.ore.empty();
  if (!b.layer.empty())
    row(StageId::Strata, "layer", b.layer, {}, b.pointer, decidesIf(!decided && !ore));
  if (!b.bed.empty())
    row(StageId::Strata, "bed", b.bed,
        fmt::format("{} below its upper side at {}",
            shortNumber(static_cast<double>(at.bedTop) - (static_cast<double>(b.y) + 0.5)),
            shortNumber(at.bedTop)),
        "/strata/rock", decidesIf(!decided && !ore));
  if (ore) row(StageId::Strata, "ore", b.ore, {}, b.pointer, decidesIf(!decided));
}

void Explainer::caves(const PlumbBlock& b, bool lined) const {
  const CaveAt& cave = b.at.cave;
  value("cave", b.cave);
  value("system", b.system);
  value("caveKind", b.caveKind);
  value("keptOffSea", cave.keptOff);
  beside("cave", b.cave);
  beside("cave kind", b.caveKind);
  if (!b.cave.empty()) held(b);
  if (p_.outside) return;
  if (b.cave.empty() && !b.caveKind.empty())
    row(StageId::Caves, cave.floor ? "floor" : "wall", b.caveKind,
        fmt::format("{} below the surface", shortNumber(static_cast<double>(cave.depth))),
        b.pointer, decidesIf(lined));
  if (cave.keptOff && b.cave.empty())
    row(StageId::Caves, "kept off the sea", {}, "else it would be open", "/caves/seaCover");
}

/// Why a part of the Caves holds a block.
void Explainer::held(const PlumbBlock& b) const {
  const CaveAt& c = b.at.cave;
  const Part held = part("held");
  value("belowSurface", c.depth);
  std::string label, note;
  switch (c.part) {
    case CavePart::None:
      break;
    case CavePart::Tunnel: {
      const auto& passage = c.tunnel.system->passages[static_cast<size_t>(c.tunnel.passage)];
      label = "tunnel";
      note = fmt::format("{}: {} ≤ {} from its middle", passageName(passage.kind),
          shortNumber(static_cast<double>(c.tunnel.distance)),
          shortNumber(static_cast<double>(c.tunnel.radius)));
      value("part", label);
      value("passage", std::string(passageName(passage.kind)));
      value("distance", c.tunnel.distance);
      value("radius", c.tunnel.radius);
      value("flooded", c.tunnel.flooded);
      break;
    }
    case CavePart::Void:
      label = "noise void";
      note = fmt::format("noise {}, factor {}", shortNumber(static_cast<double>(c.noise.first)),
          shortNumber(static_cast<double>(c.noise.factor)));
      value("part", std::string("void"));
      value("noise", c.noise.first);
      value("second", c.noise.second);
      value("factor", c.noise.factor);
      break;
    case CavePart::Automaton:
      label = "automaton";
      note = fmt::format("left open, {} solid neighbours", c.automaton.neighbours);
      value("part", label);
      value("floor", c.automaton.floor);
      value("neighbours", c.automaton.neighbours);
      break;
  }
  if (p_.outside) return;
  row(StageId::Caves, label, b.system.empty() ? b.cave : fmt::format("{} {}", b.cave, b.system),
      note, b.pointer, decidesIf(!later()));
  if (c.holds != kOpen)
    row(StageId::Caves, "under water", p_.materialName,
        fmt::format("y {} < {}", b.y, c.tunnel.system->floodedBelow), b.pointer);
  row(StageId::Caves, "dug from", b.ground, {}, "/strata", Folds);
}

// ---- levels ------------------------------------------------------------------------------------

void Explainer::level() const {
  const PlumbLevel& l = *p_.level;
  const Part level = part("level");
  value("floor", l.floor);
  value("open", l.open);
  value("depth", l.at.depth);
  value("rock", l.at.rock);
  value("layer", l.layer);
  value("bed", l.bed);
  value("bedTop", l.at.solid.bedTop);
  value("ore", l.ore);
  value("place", l.place);
  value("from", l.from);
  value("steps", l.steps);
  value("course", l.course);
  value("courseCell", l.courseCell);
  value("generated", l.generated);
  value("pointer", l.pointer);
  beside("cells to the nearest open one", fmt::format("{}", l.at.depth));
  beside("place", l.place);
  beside("layer", l.layer);
  beside("bed", l.bed);
  beside("ore", l.ore);
  if (p_.outside) return;
  const auto decides = [&](bool so) { return decidesIf(so && !later()); };
  const bool ore = !l.ore.empty();
  if (l.at.depth == 0) {
    row(StageId::Level, "open", fmt::format("floor {}", l.floor), {}, "/level/processes",
        decides(l.place.empty() && l.course.empty()));
    if (!l.course.empty())
      row(StageId::Level, "course " + l.course,
          fmt::format("cell {} of {}", l.courseCell, l.courseLength), {}, l.pointer,
          decides(l.place.empty()));
  } else {
    row(StageId::Level, "solid", fmt::format("{}", l.at.depth),
        l.at.depth == 1 ? "cell from the nearest open one" : "cells from the nearest open one",
        "/level/processes");
    row(StageId::Strata, "rock", shortNumber(l.at.rock), "height − depth, as the bands see it",
        "/strata/bands", decides(l.layer.empty() && l.bed.empty() && !ore));
    if (!l.layer.empty()) row(StageId::Strata, "layer", l.layer, {}, l.pointer, decides(!ore));
    if (!l.bed.empty()) row(StageId::Strata, "bed", l.bed, {}, "/strata/rock", decides(!ore));
    if (ore) row(StageId::Strata, "ore", l.ore, {}, l.pointer, decides(true));
  }
  if (!l.place.empty())
    row(StageId::Level, "place", l.placeName,
        l.from.empty() ? std::string() : fmt::format("{} steps from {}", l.steps, l.from),
        l.pointer, decides(true));
  if (p_.edited)
    row(std::nullopt, l.open ? "made open" : "made solid", p_.materialName,
        "generated: " + l.generated, "/edits", Decides);
  else
    row(StageId::Strata, "material", p_.materialName, {}, l.pointer);
}

void Explainer::last() const {
  if (p_.edited) value("edited", true);
  beside("decided by", p_.bandId);
  beside("material", p_.materialName);
  if (p_.outside || p_.block || p_.level) return;
  row(StageId::Strata, "material", p_.materialName, p_.bandId, "/strata");
  if (p_.edited) row(std::nullopt, "edited by hand", p_.materialName, unmoved(), "/edits", Decides);
}

/// Whose cell it is.
void Explainer::ofObject() const {
  const PlumbPart& of = *p_.part;
  const Part object = part("object");
  value("kind", of.kind);
  value("what", of.what);
  value("id", of.id);
  value("piece", of.piece);
  value("made", of.made);
  value("others", of.others);
  value("pointer", of.pointer);
  std::string note = of.made == "open" ? std::string() : "in the place of " + of.made;
  if (of.others > 0)
    note += fmt::format(
        "{}before {} other{}", note.empty() ? "" : ", ", of.others, of.others == 1 ? "" : "s");
  row(StageId::Objects, "part of " + of.name, p_.materialName, note, of.pointer, Decides);
}

/// What stands here, and what was refused.
void Explainer::objects() const {
  const Part all = list("objects");
  for (const PlumbObject& one : p_.objects) {
    const Part object = member();
    value("kind", one.kind);
    value("what", one.what);
    value("id", one.id);
    value("refusal", one.refusal);
    value("forced", one.forced);
    value("turn", one.turn);
    value("reach", one.reach);
    value("pointer", one.pointer);
    if (one.y) value("y", *one.y);
    if (one.priority) value("priority", *one.priority);
    if (one.draw) value("draw", *one.draw);
    value("beaten", one.beaten);
    if (one.beatenBy) value("beatenBy", std::array{one.beatenBy->x, one.beatenBy->z});
    conditions(one);
    if (one.stands) {
      value("at", std::array{one.stands->x, one.stands->z});
      row(StageId::Objects, "reaches here", one.name,
          fmt::format("stands at {}, {}", one.stands->x, one.stands->z), one.pointer, Folds);
    } else if (one.refusal.empty())
      row(StageId::Objects, "stands here",
          one.y ? fmt::format("{}, y {}", one.name, *one.y) : one.name,
          one.forced.empty() ? fmt::format("depends on {} cells about", one.reach)
                             : fmt::format("forced: {} refuses it here", one.forced),
          one.pointer);
    else
      row(StageId::Objects, "no " + one.name, one.refusal,
          one.beatenBy ? fmt::format("one stands at {}, {}", one.beatenBy->x, one.beatenBy->z)
                       : std::string(),
          one.pointer, Folds);
    if (one.refusal.empty() && !one.stands) contest(one);
    for (const PlumbObject::Condition& of : one.conditions)
      row(StageId::Objects, fmt::format("{}: {}", one.name, of.name),
          fmt::format("{:.4g}", of.value),
          of.from && of.to ? fmt::format("{:g} to {:g}", *of.from, *of.to)
          : of.from        ? fmt::format("{:g} or more", *of.from)
                           : fmt::format("{:g} or less", *of.to),
          of.pointer, Folds);
  }
}

void Explainer::conditions(const PlumbObject& one) const {
  const Part all = list("conditions");
  for (const PlumbObject::Condition& of : one.conditions) {
    const Part condition = member();
    value("name", of.name);
    value("value", of.value);
    if (of.from) value("from", *of.from);
    if (of.to) value("to", *of.to);
    value("pointer", of.pointer);
  }
}

/// How it came to stand, and what was drawn of its list.
void Explainer::contest(const PlumbObject& one) const {
  if (one.priority)
    row(StageId::Objects, one.name + ": order", fmt::format("{:.4f}", *one.priority),
        one.beaten > 0 ? fmt::format("it keeps off {} of its kind", one.beaten)
                       : "it keeps off none of its kind",
        one.pointer, Folds);
  if (one.draw)
    row(StageId::Objects, one.name + ": drawn", one.what.empty() ? "nothing fits here" : one.what,
        fmt::format("{:.4f} of the weights", *one.draw), one.pointer, Folds);
}

}  // namespace

void explain(const Plumb& plumb, PlumbSink& sink) {
  Explainer(plumb, sink).all();
}

}  // namespace acre
