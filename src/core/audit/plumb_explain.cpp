// What is told of a column: its place, ground, climate, biome, water and strata.
#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "audit/explainer.h"

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

}  // namespace

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

void Explainer::last() const {
  if (p_.edited) value("edited", true);
  beside("decided by", p_.bandId);
  beside("material", p_.materialName);
  if (p_.outside || p_.block || p_.level) return;
  row(StageId::Strata, "material", p_.materialName, p_.bandId, "/strata");
  if (p_.edited) row(std::nullopt, "edited by hand", p_.materialName, unmoved(), "/edits", Decides);
}

void explain(const Plumb& plumb, PlumbSink& sink) {
  Explainer(plumb, sink).all();
}

}  // namespace acre
