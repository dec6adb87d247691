// What is told of a block, and of a cell of a level.
#include <fmt/format.h>

#include "audit/explainer.h"
#include "cave/caves.h"
#include "recipe/cave_recipe.h"
#include "recipe/level_recipe.h"

namespace acre {

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

}  // namespace acre
