#include "recipe/json_words.h"
#include "recipe/validate.h"

namespace acre {
namespace {

const std::vector<std::string_view> kProcesses = {"walls", "automaton", "walks",
                                                  "body",  "rooms",     "spaces"};

Json amountJson(const Amount& amount) {
  if (amount.perFloor == 0) return numberJson(amount.at);
  return {{"at", numberJson(amount.at)}, {"perFloor", numberJson(amount.perFloor)}};
}

void readAmount(const JsonReader& in, std::string_view key, Amount& amount) {
  if (!in.has(key)) return;
  const JsonReader value = in.member(key);
  if (!value.isObject()) {
    amount = {value.number(), 0};
    return;
  }
  value.expectObject({"at", "perFloor"});
  amount = {value.member("at").number(), value.member("perFloor").number()};
}

/// Writes what a process of each kind holds.
struct Writer {
  Json& out;
  void operator()(const NoiseWalls& p) const {
    if (!p.refill) out["refill"] = false;
    out["noise"] = namedNoiseJson(p.band.noise);
    out["low"] = numberJson(p.band.low);
    out["high"] = numberJson(p.band.high);
  }
  void operator()(const FilledAutomaton& p) const {
    if (p.refill)
      out["fill"] = amountJson(p.fill);
    else
      out["refill"] = false;
    out["rule"] = p.rule;
    out["steps"] = amountJson(p.steps);
    out["edge"] = word(kGridEdges, p.edge);
  }
  void operator()(const DiggingWalks& p) const {
    out["walkers"] = amountJson(p.walkers);
    out["steps"] = amountJson(p.steps);
    out["turn"] = numberJson(p.turn);
    out["radius"] = p.radius;
    if (p.untilOpen != 1) out["untilOpen"] = numberJson(p.untilOpen);
  }
  void operator()(const LevelBody& p) const {
    out["shape"] = p.round ? "disc" : "rectangle";
    out["floods"] = amountJson(p.floods);
    out["size"] = amountJson(p.size);
    out["inward"] = numberJson(p.inward);
    out["smooth"] = p.smooth;
  }
  void operator()(const LevelRooms& p) const {
    Json pieces = Json::array();
    for (const LevelRooms::Piece& piece : p.pieces) {
      Json one = {{"id", piece.id}};
      if (!piece.file.empty())
        one["file"] = piece.file;
      else
        one["text"] = piece.text;
      if (piece.share != 1) one["share"] = numberJson(piece.share);
      pieces.push_back(std::move(one));
    }
    out["pieces"] = std::move(pieces);
    out["count"] = amountJson(p.count);
    out["distance"] = p.distance;
    out["turn"] = p.turn;
  }
  void operator()(const LevelSpaces& p) const {
    out["least"] = p.least;
    out["join"] = p.join;
  }
};

LevelProcess readProcess(const JsonReader& in) {
  LevelProcess process;
  const size_t kind = in.isObject() ? in.member("kind").choice(kProcesses) : 0;
  std::vector<std::string_view> keys = {"id", "name", "on", "kind"};
  static const std::vector<std::string_view> kOwn[] = {
      {"refill", "noise", "low", "high"},
      {"refill", "fill", "rule", "steps", "edge"},
      {"walkers", "steps", "turn", "radius", "untilOpen"},
      {"shape", "floods", "size", "inward", "smooth"},
      {"pieces", "count", "distance", "turn"},
      {"least", "join"}};
  keys.insert(keys.end(), kOwn[kind].begin(), kOwn[kind].end());
  in.expectObject(keys);
  process.id = in.member("id").text();
  process.name = process.id;
  readIf(in, "name", process.name);
  readIf(in, "on", process.on);
  switch (kind) {
    case 0: {
      NoiseWalls walls;
      readIf(in, "refill", walls.refill);
      walls.band.noise = readNamedNoise(in.member("noise"));
      walls.band.low = in.member("low").number();
      walls.band.high = in.member("high").number();
      process.what = walls;
      break;
    }
    case 1: {
      FilledAutomaton automaton;
      readIf(in, "refill", automaton.refill);
      readAmount(in, "fill", automaton.fill);
      readIf(in, "rule", automaton.rule);
      readAmount(in, "steps", automaton.steps);
      choiceIf(in, "edge", kGridEdges, automaton.edge);
      process.what = automaton;
      break;
    }
    case 2: {
      DiggingWalks walks;
      readAmount(in, "walkers", walks.walkers);
      readAmount(in, "steps", walks.steps);
      readIf(in, "turn", walks.turn);
      readWhole(in, "radius", limits::walkRadius, walks.radius);
      readIf(in, "untilOpen", walks.untilOpen);
      process.what = walks;
      break;
    }
    case 3: {
      LevelBody body;
      if (in.has("shape")) body.round = in.member("shape").choice({"disc", "rectangle"}) == 0;
      readAmount(in, "floods", body.floods);
      readAmount(in, "size", body.size);
      readIf(in, "inward", body.inward);
      readWhole(in, "smooth", limits::bodySmooth, body.smooth);
      process.what = body;
      break;
    }
    case 4: {
      LevelRooms rooms;
      for (const JsonReader& member : in.member("pieces").members()) {
        member.expectObject({"id", "text", "file", "share"});
        LevelRooms::Piece& piece = rooms.pieces.emplace_back();
        piece.id = member.member("id").text();
        readIf(member, "text", piece.text);
        readIf(member, "file", piece.file);
        readIf(member, "share", piece.share);
      }
      readAmount(in, "count", rooms.count);
      readWhole(in, "distance", limits::roomDistance, rooms.distance);
      readIf(in, "turn", rooms.turn);
      process.what = rooms;
      break;
    }
    default: {
      LevelSpaces spaces;
      readWhole(in, "least", limits::leastSpace, spaces.least);
      readIf(in, "join", spaces.join);
      process.what = spaces;
    }
  }
  return process;
}

Json placeJson(const LevelPlace& place) {
  Json out = {{"id", place.id}, {"name", place.name}, {"material", materialJson(place.material)}};
  if (!place.mark.empty()) out["mark"] = place.mark;
  if (place.clear != 0) out["clear"] = place.clear;
  if (!place.from.empty()) {
    out["from"] = place.from;
    out["least"] = place.least;
    if (place.most != 0) out["most"] = place.most;
  }
  if (!place.reachable) out["reachable"] = false;
  return out;
}

LevelPlace readPlace(const JsonReader& in) {
  in.expectObject(
      {"id", "name", "material", "mark", "clear", "from", "least", "most", "reachable"});
  LevelPlace place;
  place.id = in.member("id").text();
  place.name = place.id;
  readIf(in, "name", place.name);
  place.material = readMaterialId(in.member("material"));
  readIf(in, "mark", place.mark);
  readWhole(in, "clear", limits::placeClear, place.clear);
  readIf(in, "from", place.from);
  readWhole(in, "least", limits::placeSteps, place.least);
  readWhole(in, "most", limits::placeSteps, place.most);
  readIf(in, "reachable", place.reachable);
  return place;
}

}  // namespace

Json levelJson(const Level& level) {
  Json processes = Json::array(), places = Json::array();
  for (const LevelProcess& process : level.processes) {
    Json one = {{"id", process.id},
                {"name", process.name},
                {"on", process.on},
                {"kind", kProcesses[process.what.index()]}};
    std::visit(Writer{one}, process.what);
    processes.push_back(std::move(one));
  }
  for (const LevelPlace& place : level.places) places.push_back(placeJson(place));
  Json out = {{"on", level.on},
              {"floor", level.floor},
              {"floors", {level.firstFloor, level.lastFloor}},
              {"margin", level.margin},
              {"walls", level.walls}};
  if (!level.open.empty()) out["open"] = level.open;
  out["processes"] = std::move(processes);
  out["places"] = std::move(places);
  return out;
}

Level readLevel(const JsonReader& in) {
  in.expectObject({"on", "floor", "floors", "margin", "walls", "open", "processes", "places"});
  Level level;
  readIf(in, "on", level.on);
  readWhole(in, "floor", limits::floorNumber, level.floor);
  readWhole(in, "margin", limits::levelMargin, level.margin);
  readWhole(in, "walls", limits::levelWalls, level.walls);
  readIf(in, "open", level.open);
  if (in.has("floors")) {
    const auto ends = in.member("floors").members();
    if (ends.size() != 2) {
      in.member("floors").refuse("floors are two numbers", "the first and the last one");
    } else {
      const auto low = static_cast<int64_t>(limits::floorNumber.low),
                 high = static_cast<int64_t>(limits::floorNumber.high);
      level.firstFloor = static_cast<int>(ends[0].integer(low, high));
      level.lastFloor = static_cast<int>(ends[1].integer(low, high));
    }
  }
  for (const JsonReader& process : in.member("processes").members())
    level.processes.push_back(readProcess(process));
  if (in.has("places"))
    for (const JsonReader& place : in.member("places").members())
      level.places.push_back(readPlace(place));
  return level;
}

}  // namespace acre
