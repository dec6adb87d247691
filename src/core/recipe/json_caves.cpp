#include "recipe/cave_recipe.h"
#include "recipe/json_words.h"
#include "recipe/validate.h"

namespace acre {
namespace {

Json bandJson(const NoiseBand& band) {
  return {{"noise", namedNoiseJson(band.noise)},
          {"low", numberJson(band.low)},
          {"high", numberJson(band.high)}};
}

NoiseBand readNoiseBand(const JsonReader& in) {
  NoiseBand band;
  band.noise = readNamedNoise(in.member("noise"));
  band.low = in.member("low").number();
  band.high = in.member("high").number();
  return band;
}

Json voidJson(const NoiseVoid& part) {
  Json out = {{"id", part.id}, {"on", part.on}};
  out.update(bandJson(part.first));
  if (part.second) out["second"] = bandJson(*part.second);
  if (!part.curve.empty()) out["curve"] = curveJson(part.curve);
  if (part.underSea) out["underSea"] = true;
  return out;
}

NoiseVoid readVoid(const JsonReader& in) {
  in.expectObject({"id", "on", "noise", "low", "high", "second", "curve", "underSea"});
  NoiseVoid part;
  part.id = in.member("id").text();
  readIf(in, "on", part.on);
  part.first = readNoiseBand(in);
  if (in.has("second")) {
    in.member("second").expectObject({"noise", "low", "high"});
    part.second = readNoiseBand(in.member("second"));
  }
  if (in.has("curve")) part.curve = readCurve(in.member("curve"));
  readIf(in, "underSea", part.underSea);
  return part;
}

/// The numbers of tunnels by their names in the file.
struct TunnelNumber {
  std::string_view key;
  double Tunnels::*value;
};
constexpr TunnelNumber kTunnelNumbers[] = {
    {"spacing", &Tunnels::spacing},   {"share", &Tunnels::share},
    {"depth", &Tunnels::depth},       {"depthVary", &Tunnels::depthVary},
    {"step", &Tunnels::step},         {"length", &Tunnels::length},
    {"arm", &Tunnels::arm},           {"apart", &Tunnels::apart},
    {"gap", &Tunnels::gap},           {"noise", &Tunnels::noise},
    {"shift", &Tunnels::shift},       {"bore", &Tunnels::bore},
    {"boreVary", &Tunnels::boreVary}, {"rough", &Tunnels::rough},
    {"mouths", &Tunnels::mouths},     {"mouth", &Tunnels::mouth},
    {"flooded", &Tunnels::flooded}};

Json tunnelsJson(const Tunnels& tunnels) {
  Json out = {{"id", tunnels.id}, {"on", tunnels.on}};
  for (const auto& [key, value] : kTunnelNumbers)
    out[std::string(key)] = numberJson(tunnels.*value);
  out["side"] = tunnels.side;
  out["up"] = tunnels.up;
  if (!tunnels.water.empty()) out["water"] = tunnels.water;
  return out;
}

Tunnels readTunnels(const JsonReader& in) {
  std::vector<std::string_view> keys = {"id", "on", "side", "up", "water"};
  for (const TunnelNumber& number : kTunnelNumbers) keys.push_back(number.key);
  in.expectObject(keys);
  Tunnels tunnels;
  tunnels.id = in.member("id").text();
  readIf(in, "on", tunnels.on);
  for (const auto& [key, value] : kTunnelNumbers) readIf(in, key, tunnels.*value);
  readWhole(in, "side", limits::tunnelSide, tunnels.side);
  readWhole(in, "up", limits::tunnelUp, tunnels.up);
  readIf(in, "water", tunnels.water);
  return tunnels;
}

Json automatonJson(const AutomatonLayer& layer) {
  Json out = {{"id", layer.id},
              {"on", layer.on},
              {"kind", word(kAutomata, layer.volume ? 1 : 0)},
              {"rule", layer.rule},
              {"fill", numberJson(layer.fill)},
              {"steps", layer.steps}};
  if (layer.volume) {
    out["bottom"] = numberJson(layer.bottom);
    out["top"] = numberJson(layer.top);
    out["edge"] = word(kGridEdges, layer.edge);
  } else {
    Json floors = Json::array();
    for (const double y : layer.floors) floors.push_back(numberJson(y));
    out["floors"] = std::move(floors);
    out["tall"] = layer.tall;
  }
  out["cover"] = numberJson(layer.cover);
  return out;
}

AutomatonLayer readAutomaton(const JsonReader& in) {
  AutomatonLayer layer;
  layer.volume = in.isObject() && in.member("kind").choice(kAutomata) == 1;
  std::vector<std::string_view> keys = {"id", "on", "kind", "rule", "fill", "steps", "cover"};
  if (layer.volume)
    keys.insert(keys.end(), {"bottom", "top", "edge"});
  else
    keys.insert(keys.end(), {"floors", "tall"});
  in.expectObject(keys);
  layer.id = in.member("id").text();
  readIf(in, "on", layer.on);
  readIf(in, "rule", layer.rule);
  readIf(in, "fill", layer.fill);
  readWhole(in, "steps", limits::automatonSteps, layer.steps);
  readIf(in, "cover", layer.cover);
  if (layer.volume) {
    layer.bottom = in.member("bottom").number();
    layer.top = in.member("top").number();
    choiceIf(in, "edge", kGridEdges, layer.edge);
  } else {
    for (const JsonReader& y : in.member("floors").members()) layer.floors.push_back(y.number());
    readWhole(in, "tall", limits::automatonTall, layer.tall);
  }
  return layer;
}

Json kindJson(const CaveKind& kind) {
  Json out = {{"id", kind.id}, {"name", kind.name}};
  const auto number = [&](const char* key, const std::optional<double>& value) {
    if (value) out[key] = numberJson(*value);
  };
  number("from", kind.from);
  number("to", kind.to);
  number("wetFrom", kind.wetFrom);
  number("wetTo", kind.wetTo);
  if (!kind.floor.empty()) out["floor"] = kind.floor;
  if (!kind.wall.empty()) out["wall"] = kind.wall;
  return out;
}

CaveKind readKind(const JsonReader& in) {
  in.expectObject({"id", "name", "from", "to", "wetFrom", "wetTo", "floor", "wall"});
  CaveKind kind;
  kind.id = in.member("id").text();
  kind.name = kind.id;
  readIf(in, "name", kind.name);
  const auto number = [&](std::string_view key, std::optional<double>& value) {
    if (in.has(key)) value = in.member(key).number();
  };
  number("from", kind.from);
  number("to", kind.to);
  number("wetFrom", kind.wetFrom);
  number("wetTo", kind.wetTo);
  readIf(in, "floor", kind.floor);
  readIf(in, "wall", kind.wall);
  return kind;
}

template <class T, class ToJson>
void listJson(Json& out, const char* key, const std::vector<T>& list, ToJson&& toJson) {
  if (list.empty()) return;
  Json members = Json::array();
  for (const T& one : list) members.push_back(toJson(one));
  out[key] = std::move(members);
}

template <class T, class Read>
void readList(const JsonReader& in, const char* key, std::vector<T>& list, Read&& read) {
  if (!in.has(key)) return;
  for (const JsonReader& member : in.member(key).members()) list.push_back(read(member));
}

}  // namespace

Json cavesJson(const Caves& caves) {
  Json out = Json::object();
  if (!caves.on) out["on"] = false;
  out["seaCover"] = numberJson(caves.seaCover);
  listJson(out, "voids", caves.voids, voidJson);
  listJson(out, "tunnels", caves.tunnels, tunnelsJson);
  listJson(out, "automata", caves.automata, automatonJson);
  listJson(out, "kinds", caves.kinds, kindJson);
  if (!caves.opening.empty()) out["opening"] = caves.opening;
  return out;
}

Caves readCaves(const JsonReader& in) {
  in.expectObject({"on", "seaCover", "voids", "tunnels", "automata", "kinds", "opening"});
  Caves caves;
  readIf(in, "on", caves.on);
  readIf(in, "seaCover", caves.seaCover);
  readList(in, "voids", caves.voids, readVoid);
  readList(in, "tunnels", caves.tunnels, readTunnels);
  readList(in, "automata", caves.automata, readAutomaton);
  readList(in, "kinds", caves.kinds, readKind);
  readIf(in, "opening", caves.opening);
  return caves;
}

}  // namespace acre
