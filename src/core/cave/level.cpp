#include "cave/level.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "base/hash.h"
#include "cave/open_spaces.h"
#include "field/compiler.h"

namespace acre {
namespace {

constexpr uint64_t kLevelStage = 0x4C6576656C;  // "Level"

/// A whole number within what a process takes.
int between(int value, int least, int most) {
  return std::clamp(value, least, most);
}

}  // namespace

Result<std::shared_ptr<const LevelMaker>> LevelMaker::compile(
    const Level& level, const std::vector<std::vector<std::string>>& pieces, uint64_t seed,
    const std::string& where) {
  auto out = std::make_shared<LevelMaker>();
  out->level_ = level;
  out->seed_ = combine(seed, kLevelStage);
  out->where_ = where;
  out->plans_.resize(level.processes.size());
  out->pieces_.resize(level.processes.size());
  for (size_t k = 0; k < level.processes.size(); ++k) {
    const LevelProcess& process = level.processes[k];
    const std::string at = fmt::format("{}/processes/{}", where, k);
    if (const auto* walls = std::get_if<NoiseWalls>(&process.what)) {
      auto plan = compileNoise(walls->band.noise, {}, combine(out->seed_, hashText(process.id)), 2,
                               at + "/noise");
      if (!plan) return plan.error();
      out->plans_[k] = std::move(*plan);
    }
    if (std::holds_alternative<LevelRooms>(process.what))
      for (size_t n = 0; n < pieces[k].size(); ++n) {
        const std::string piece = fmt::format("{}/pieces/{}", at, n);
        auto room = readRoom(pieces[k][n], piece);
        if (!room) return room.error();
        const int32_t across = std::max(room->width, room->depth);
        const int32_t wide = level.width - 2 * level.margin, deep = level.depth - 2 * level.margin;
        const bool fits = room->width <= wide && room->depth <= deep;
        if (!fits && across > std::min(wide, deep))
          return Error{Error::Code::InvalidInput,
                       fmt::format("a room of {} x {} cells", room->width, room->depth), piece,
                       fmt::format("at most the floor within its margin, {} x {}", wide, deep)};
        out->pieces_[k].push_back(std::move(*room));
      }
  }
  return std::shared_ptr<const LevelMaker>(std::move(out));
}

uint64_t LevelMaker::keyOf(const std::string& id, int floor) const {
  return combine(combine(seed_, hashText(id)), static_cast<uint64_t>(static_cast<int64_t>(floor)));
}

Status LevelMaker::run(size_t process, int floor, LevelFloor& out, const Watch& watch,
                       const std::stop_token& stop) const {
  const LevelProcess& one = level_.processes[process];
  const uint64_t key = keyOf(one.id, floor);
  BitGrid& plane = out.plane;
  const int32_t margin = level_.margin;
  const StepListener tell =
      watch ? StepListener([&](const BitGrid& now) { watch(process, now); }) : StepListener();
  const auto said = [&] {
    if (tell) tell(plane);
  };
  if (std::holds_alternative<NoiseWalls>(one.what)) {
    const NoiseBand& band = std::get<NoiseWalls>(one.what).band;
    const auto low = static_cast<float>(band.low), high = static_cast<float>(band.high);
    // Every floor looks at another part of the noise.
    const int64_t shift = int64_t{floor} * 65'536;
    for (int32_t z = margin; z < plane.depth() - margin; ++z) {
      if (stop.stop_requested()) return cancelled();
      for (int32_t x = margin; x < plane.width() - margin; ++x) {
        const Pos at[3] = {{x + shift, 0}, {0, 0}, {z, 0}};
        const float v = noiseAt(plans_[process], at);
        plane.set(x, z, v >= low && v < high);
      }
    }
    said();
  } else if (const auto* automaton = std::get_if<FilledAutomaton>(&one.what)) {
    if (automaton->refill)
      fillByChance(plane, std::clamp(automaton->fill.on(floor), 0.0, 1.0), margin, key);
    said();
    const auto rule = readRule(automaton->rule, AutomatonRule::kPlane, where_);
    if (!rule) return rule.error();
    // The margin is what lies beyond the edge: the automaton works within it.
    const int32_t wide = plane.width() - 2 * margin, deep = plane.depth() - 2 * margin;
    BitGrid inner(wide, deep);
    for (int32_t z = 0; z < deep; ++z)
      for (int32_t x = 0; x < wide; ++x) inner.set(x, z, plane.at(x + margin, z + margin));
    Automaton steps(*rule, static_cast<GridEdge>(automaton->edge), 1);
    for (int n = 0; n < between(automaton->steps.wholeOn(floor), 0, 1000); ++n) {
      if (!steps.run(inner, 1, stop)) return cancelled();
      for (int32_t z = 0; z < deep; ++z)
        for (int32_t x = 0; x < wide; ++x) plane.set(x + margin, z + margin, inner.at(x, z));
      said();
    }
  } else if (const auto* digging = std::get_if<DiggingWalks>(&one.what)) {
    RandomWalks walks;
    walks.walkers = between(digging->walkers.wholeOn(floor), 1, 1000);
    walks.steps = between(digging->steps.wholeOn(floor), 1, 1'000'000);
    walks.turn = digging->turn;
    walks.radius = digging->radius;
    walks.untilOpen = digging->untilOpen;
    if (!walkRandomly(plane, walks, margin, key, std::max(1, walks.steps / 100), tell, stop))
      return cancelled();
  } else if (const auto* body = std::get_if<LevelBody>(&one.what)) {
    BodyOutline outline;
    outline.round = body->round;
    outline.floods = between(body->floods.wholeOn(floor), 0, 10'000);
    outline.size = between(body->size.wholeOn(floor), 1, 100'000);
    outline.inward = body->inward;
    outline.smooth = body->smooth;
    const BitGrid shape =
        bodyOf(plane.width(), plane.depth(), outline, margin, key, tell, out.visited);
    cutToBody(plane, shape);
    said();
  } else if (const auto* rooms = std::get_if<LevelRooms>(&one.what)) {
    constexpr int kTries = 60;
    auto placed = placeRooms(plane, pieces_[process], between(rooms->count.wholeOn(floor), 0, 1000),
                             rooms->distance, rooms->turn, kTries, margin, key, tell);
    for (PlacedRoom& room : placed) {
      room.process = process;
      out.rooms.push_back(room);
    }
  } else if (const auto* spaces = std::get_if<LevelSpaces>(&one.what)) {
    fillSmallSpaces(plane, static_cast<uint64_t>(std::max(0, spaces->least)));
    said();
    if (spaces->join) {
      const auto dug = joinSpaces(plane, margin);
      if (!dug)
        return Error{Error::Code::InvalidInput,
                     fmt::format("on floor {} the open spaces cannot be connected", floor),
                     fmt::format("{}/processes/{}", where_, process),
                     "a floor whose spaces can be joined within the margin"};
      out.dug += *dug;
      said();
    }
  }
  return done();
}

std::vector<int32_t> stepsFrom(const BitGrid& plane, int32_t x, int32_t z) {
  const int32_t width = plane.width(), depth = plane.depth();
  std::vector<int32_t> out(static_cast<size_t>(width) * static_cast<size_t>(depth), -1);
  if (plane.at(x, z)) return out;
  std::vector<int32_t> ring = {z * width + x};
  out[static_cast<size_t>(ring[0])] = 0;
  for (int32_t steps = 1; !ring.empty(); ++steps) {
    std::vector<int32_t> next;
    for (const int32_t at : ring) {
      const int32_t cx = at % width, cz = at / width;
      constexpr int32_t kSides[4][2] = {{0, -1}, {-1, 0}, {1, 0}, {0, 1}};
      for (const auto& [dx, dz] : kSides) {
        const int32_t nx = cx + dx, nz = cz + dz;
        if (nx < 0 || nz < 0 || nx >= width || nz >= depth || plane.at(nx, nz)) continue;
        const int32_t to = nz * width + nx;
        if (out[static_cast<size_t>(to)] >= 0) continue;
        out[static_cast<size_t>(to)] = steps;
        next.push_back(to);
      }
    }
    ring = std::move(next);
  }
  return out;
}

Status LevelMaker::place(LevelFloor& out) const {
  const BitGrid& plane = out.plane;
  const int32_t width = plane.width(), depth = plane.depth();
  std::vector<int32_t> fromFirst;
  for (size_t k = 0; k < level_.places.size(); ++k) {
    const LevelPlace& wanted = level_.places[k];
    // Cells in an order that is drawn; the first that does is taken.
    struct Candidate {
      uint64_t order;
      int32_t x, z;
    };
    std::vector<Candidate> candidates;
    const uint64_t key = keyOf("place/" + wanted.id, out.floor);
    const auto offer = [&](int32_t x, int32_t z) {
      if (plane.at(x, z)) return;
      const uint64_t order =
          combine(combine(key, static_cast<uint64_t>(x)), static_cast<uint64_t>(z));
      candidates.push_back({order, x, z});
    };
    if (wanted.mark.empty()) {
      for (int32_t z = level_.margin; z < depth - level_.margin; ++z)
        for (int32_t x = level_.margin; x < width - level_.margin; ++x) offer(x, z);
    } else {
      for (const PlacedRoom& put : out.rooms) {
        const RoomPiece piece = pieces_[put.process][put.piece].turned(put.quarters);
        for (int32_t z = 0; z < piece.depth; ++z)
          for (int32_t x = 0; x < piece.width; ++x)
            if (piece.at(x, z) == wanted.mark[0]) offer(put.x + x, put.z + z);
      }
    }
    std::sort(candidates.begin(), candidates.end(), [](const Candidate& a, const Candidate& b) {
      return a.order != b.order ? a.order < b.order : a.z != b.z ? a.z < b.z : a.x < b.x;
    });
    const FoundPlace* from = nullptr;
    for (const FoundPlace& found : out.places)
      if (level_.places[found.place].id == wanted.from) from = &found;
    const std::vector<int32_t> steps =
        from ? stepsFrom(plane, from->x, from->z) : std::vector<int32_t>();
    const auto clear = [&](const Candidate& c) {
      for (int32_t dz = -wanted.clear; dz <= wanted.clear; ++dz)
        for (int32_t dx = -wanted.clear; dx <= wanted.clear; ++dx) {
          const int32_t x = c.x + dx, z = c.z + dz;
          if (x < 0 || z < 0 || x >= width || z >= depth || plane.at(x, z)) return false;
        }
      return true;
    };
    // What is in the way, for the message: how many fail which condition first.
    size_t taken = 0, narrow = 0, cutOff = 0, distant = 0;
    const auto chosen = std::find_if(candidates.begin(), candidates.end(), [&](const Candidate& c) {
      for (const FoundPlace& found : out.places)
        if (found.x == c.x && found.z == c.z) return ++taken, false;
      if (!clear(c)) return ++narrow, false;
      const auto at = static_cast<size_t>(c.z * width + c.x);
      if (wanted.reachable && !fromFirst.empty() && fromFirst[at] < 0) return ++cutOff, false;
      if (from &&
          (steps[at] < std::max(0, wanted.least) || (wanted.most > 0 && steps[at] > wanted.most)))
        return ++distant, false;
      return true;
    });
    if (chosen == candidates.end()) {
      std::string why =
          candidates.empty()
              ? wanted.mark.empty() ? "nothing is open"
                                    : fmt::format("no room has the mark {}", wanted.mark)
              : fmt::format(
                    "of {} open cells {} are taken, {} not clear for {} cells "
                    "about, {} cut off, {} not {} steps from {}",
                    candidates.size(), taken, narrow, wanted.clear, cutOff, distant,
                    wanted.most > 0 ? fmt::format("{} to {}", wanted.least, wanted.most)
                                    : fmt::format("{} or more", wanted.least),
                    wanted.from.empty() ? "anything" : wanted.from);
      return Error{
          Error::Code::InvalidInput,
          fmt::format("on floor {} there is no room for \"{}\": {}", out.floor, wanted.id, why),
          fmt::format("{}/places/{}", where_, k), "conditions that some cell meets"};
    }
    const auto at = static_cast<size_t>(chosen->z * width + chosen->x);
    out.places.push_back({k, chosen->x, chosen->z, from ? steps[at] : 0});
    if (k == 0) fromFirst = stepsFrom(plane, chosen->x, chosen->z);
  }
  return done();
}

Result<std::shared_ptr<const LevelFloor>> LevelMaker::make(int floor, const Watch& watch,
                                                           const std::stop_token& stop) const {
  BitGrid plane(level_.width, level_.depth);
  for (int32_t z = 0; z < level_.depth; ++z)
    for (int32_t word = 0; word * 64 < level_.width; ++word)
      plane.setWord(word, z, 0, ~uint64_t{0});
  auto out = std::make_shared<LevelFloor>(std::move(plane));
  out->floor = floor;
  for (size_t k = 0; k < level_.processes.size(); ++k) {
    if (!level_.processes[k].on) continue;
    if (Status made = run(k, floor, *out, watch, stop); !made) return made.error();
  }
  if (Status placed = place(*out); !placed) return placed.error();
  return std::shared_ptr<const LevelFloor>(std::move(out));
}

}  // namespace acre
