// The card of a cell as JSON.
#include <nlohmann/json.hpp>

#include "audit/cave_figures.h"
#include "audit/plumb.h"

namespace acre {
namespace {

nlohmann::ordered_json layersJson(const std::vector<PlumbLayer>& layers) {
  auto out = nlohmann::ordered_json::array();
  for (const PlumbLayer& l : layers) {
    nlohmann::ordered_json one = {{"id", l.id}, {"name", l.name}, {"on", l.on},
        {"does", l.reshapes ? "reshapes" : combineWord(l.combine)}};
    if (!l.reshapes && hasAmount(l.combine)) one["amount"] = l.amount;
    one.update({{"before", l.before}, {"value", l.value}, {"weight", l.weight}, {"after", l.after},
        {"pointer", l.pointer}});
    out.push_back(std::move(one));
  }
  return out;
}

/// Why a part of the Caves holds a block.
nlohmann::ordered_json heldJson(const PlumbBlock& b) {
  const CaveAt& c = b.at.cave;
  nlohmann::ordered_json out = {{"belowSurface", c.depth}};
  switch (c.part) {
    case CavePart::None:
      break;
    case CavePart::Tunnel:
      out["part"] = "tunnel";
      out["passage"] =
          passageName(c.tunnel.system->passages[static_cast<size_t>(c.tunnel.passage)].kind);
      out["distance"] = c.tunnel.distance;
      out["radius"] = c.tunnel.radius;
      out["flooded"] = c.tunnel.flooded;
      break;
    case CavePart::Void:
      out["part"] = "void";
      out["noise"] = c.noise.first;
      out["second"] = c.noise.second;
      out["factor"] = c.noise.factor;
      break;
    case CavePart::Automaton:
      out["part"] = "automaton";
      out["floor"] = c.automaton.floor;
      out["neighbours"] = c.automaton.neighbours;
      break;
  }
  return out;
}

nlohmann::ordered_json marginsJson(const std::vector<PlumbMargin>& margins) {
  auto out = nlohmann::ordered_json::array();
  for (const PlumbMargin& m : margins)
    out.push_back({{"rule", m.rule}, {"value", m.value}, {"limit", m.limit}, {"below", m.below},
        {"otherwise", m.otherwise}, {"pointer", m.pointer}});
  return out;
}

nlohmann::ordered_json reliefJson(const ReliefAt& r) {
  return {{"factor", r.factor}, {"raise", r.raise}, {"rough", r.rough}};
}

nlohmann::ordered_json biomeJson(const Plumb& p) {
  const PlumbBiome& b = p.biome;
  nlohmann::ordered_json out = {{"x", b.x}, {"y", b.y}, {"slice", b.slice}, {"rule", b.rule},
      {"how", b.how}, {"pointer", b.pointer}, {"biome", b.biome}, {"name", b.name},
      {"margins", marginsJson(p.biomeMargins)}, {"relief", reliefJson(b.relief)},
      {"noise", b.noise}, {"coast", b.coast}, {"height", p.height}};
  if (!b.hasRegion) return out;
  auto blend = nlohmann::ordered_json::array();
  for (const PlumbRegion& part : b.blend)
    blend.push_back({{"region", {part.id.i, part.id.j}}, {"site", {part.site.x, part.site.z}},
        {"weight", part.weight}, {"part", part.part}, {"relief", reliefJson(part.relief)}});
  out["region"] = {{"id", {b.region.i, b.region.j}}, {"site", {b.site.x, b.site.z}},
      {"siteCells", b.siteCells}, {"borderCells", b.borderCells},
      {"across", {b.across.i, b.across.j}}, {"shift", {b.shiftX, b.shiftZ}},
      {"decides", b.byRegion}, {"givenBack", b.givenBack}, {"blend", std::move(blend)}};
  return out;
}

}  // namespace

std::string plumbJson(const Plumb& p) {
  using Json = nlohmann::ordered_json;
  Json climate = Json::array();
  for (const PlumbAxis& a : p.climate)
    climate.push_back({{"id", a.id}, {"name", a.name}, {"layers", layersJson(a.layers)},
        {"value", a.value}, {"told", a.told}, {"unit", a.unit}, {"pointer", a.pointer}});
  Json out = {{"cell", {p.cell.x, p.cell.z}}, {"chunk", {p.chunk.cx, p.chunk.cz}},
      {"local", {p.local.x, p.local.z}}, {"outside", p.outside}, {"sea", p.seaLevel},
      {"heights",
          {{"layers", layersJson(p.layers)}, {"sum", p.sum}, {"base", p.base}, {"height", p.height},
              {"neighbours",
                  {{"west", p.west}, {"east", p.east}, {"north", p.north}, {"south", p.south}}},
              {"slope", p.slope}}},
      {"strata", {{"slopeBand", p.slopeBand}, {"band", p.band}, {"decidedBy", p.bandId},
                     {"margins", marginsJson(p.margins)}, {"material", p.material},
                     {"name", p.materialName}}}};
  if (p.block) {
    const PlumbBlock& b = *p.block;
    out["block"] = {{"y", b.y}, {"solid", b.at.solid}, {"distance", b.at.distance},
        {"overhangNoise", b.at.noise}, {"pushed", b.at.pushed}, {"density", b.at.density},
        {"depth", b.at.depth}, {"deeper", b.at.deeper}, {"layer", b.layer}, {"bed", b.bed},
        {"bedTop", b.at.bedTop}, {"ore", b.ore}, {"water", b.at.water}, {"cave", b.cave},
        {"system", b.system}, {"caveKind", b.caveKind}, {"keptOffSea", b.at.cave.keptOff},
        {"ground", b.ground}, {"edited", b.at.edited}, {"generated", b.generated},
        {"pointer", b.pointer}};
    if (!b.cave.empty()) out["block"]["held"] = heldJson(b);
  }
  if (p.level) {
    const PlumbLevel& l = *p.level;
    out["level"] = {{"floor", l.floor}, {"open", l.open}, {"depth", l.at.depth},
        {"rock", l.at.rock}, {"layer", l.layer}, {"bed", l.bed}, {"bedTop", l.at.solid.bedTop},
        {"ore", l.ore}, {"place", l.place}, {"from", l.from}, {"steps", l.steps},
        {"generated", l.generated}, {"pointer", l.pointer}};
  }
  if (p.fill) out["heights"]["fill"] = *p.fill;
  if (p.edited) out["edited"] = true;
  if (!climate.empty()) out["climate"] = std::move(climate);
  if (p.biome.on) out["biomes"] = biomeJson(p);
  return out.dump(2) + "\n";
}

}  // namespace acre
