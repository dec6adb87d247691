#include "cave/level.h"

#include <fmt/format.h>

#include <algorithm>
#include <optional>
#include <tuple>

#include "base/fp_state.h"
#include "base/hash.h"
#include "cave/open_spaces.h"
#include "field/compiler.h"

namespace acre {
namespace {

constexpr uint64_t kLevelStage = 0x4C6576656C;  // "Level"

/// Place of a cell among all of a plane, row by row.
size_t placeIn(const BitGrid& plane, int32_t x, int32_t z) {
  return static_cast<size_t>(z) * static_cast<size_t>(plane.width()) + static_cast<size_t>(x);
}

/// JSON pointer of a process.
std::string processAt(size_t index) {
  return fmt::format("/level/processes/{}", index);
}

/// A whole number within what a process takes: rounding may leave it by a half.
int between(int value, int least, int most) {
  return std::clamp(value, least, most);
}

BodyOutline outlineOn(const LevelBody& body, int floor) {
  BodyOutline out;
  out.round = body.round;
  out.floods = between(body.floods.wholeOn(floor), 0, 10'000);
  out.size = between(body.size.wholeOn(floor), 1, 100'000);
  out.inward = body.inward;
  out.smooth = body.smooth;
  return out;
}

/// What lies within the margin, and back.
BitGrid innerOf(const BitGrid& plane, int32_t margin) {
  BitGrid inner(plane.width() - 2 * margin, plane.length() - 2 * margin);
  for (int32_t z = 0; z < inner.length(); ++z)
    for (int32_t word = 0; word * 64 < inner.width(); ++word)
      inner.setWord(word, z, 0, plane.bits(word * 64 + margin, z + margin));
  return inner;
}
void putInner(const BitGrid& inner, int32_t margin, BitGrid& plane) {
  for (int32_t z = 0; z < inner.length(); ++z)
    for (int32_t x = 0; x < inner.width(); ++x) plane.set(x + margin, z + margin, inner.at(x, z));
}

}  // namespace

Result<std::shared_ptr<const LevelMaker>> LevelMaker::compile(const Level& level, int32_t width,
    int32_t length, const RoomTexts& pieces, uint64_t seed, const Kernels& kernels) {
  auto out = std::make_shared<LevelMaker>();
  out->level_ = level;
  out->width_ = width;
  out->length_ = length;
  out->seed_ = combine(seed, kLevelStage);
  out->kernels_ = &kernels;
  out->plans_.resize(level.processes.size());
  out->pieces_.resize(level.processes.size());
  for (size_t k = 0; k < level.processes.size(); ++k) {
    const LevelProcess& process = level.processes[k];
    const std::string at = processAt(k);
    if (const auto* walls = std::get_if<NoiseWalls>(&process.what)) {
      auto plan = compileNoise(walls->band.noise, {}, wallKey(seed, process.id), 2, at + "/noise");
      if (!plan) return plan.error();
      out->plans_[k] = std::move(*plan);
    }
    if (const auto* courses = std::get_if<LevelCourses>(&process.what)) {
      NoiseSource noise;
      noise.fractal = Fractal::Single;
      noise.width = courses->feature;
      auto plan =
          compileNoise(noise, {}, combine(out->seed_, hashText(process.id)), 2, at + "/feature");
      if (!plan) return plan.error();
      out->plans_[k] = std::move(*plan);
    }
    if (!std::holds_alternative<LevelRooms>(process.what)) continue;
    const bool turn = std::get<LevelRooms>(process.what).turn;
    for (size_t n = 0; n < pieces[k].size(); ++n) {
      const std::string piece = fmt::format("{}/pieces/{}", at, n);
      auto room = readRoom(pieces[k][n], piece);
      if (!room) return room.error();
      const int32_t wide = width - 2 * level.margin, deep = length - 2 * level.margin;
      const bool fits = (room->width <= wide && room->length <= deep) ||
                        (turn && room->length <= wide && room->width <= deep);
      if (!fits)
        return Error{Error::Code::InvalidInput,
            fmt::format("a room of {} x {} cells", room->width, room->length), piece,
            fmt::format("at most the floor within its margin, {} x {}", wide, deep)};
      out->pieces_[k].push_back(std::move(*room));
    }
  }
  return std::shared_ptr<const LevelMaker>(std::move(out));
}

uint64_t LevelMaker::wallKey(uint64_t seed, const std::string& process) {
  return combine(combine(seed, kLevelStage), hashText(process));
}

uint64_t LevelMaker::keyOf(const std::string& id, int floor) const {
  return combine(combine(seed_, hashText(id)), static_cast<uint64_t>(static_cast<int64_t>(floor)));
}

/// Noise of the cells of a row within the margin. Every floor looks at another part of it.
std::vector<float> LevelMaker::noiseRow(size_t process, int floor, int32_t z) const {
  const int32_t margin = level_.margin, count = width_ - 2 * margin;
  std::vector<float> out(static_cast<size_t>(count));
  int64_t x[Kernels::kMostPoints], zs[Kernels::kMostPoints];
  const int32_t zeros[Kernels::kMostPoints] = {};
  for (int32_t first = 0; first < count; first += Kernels::kMostPoints) {
    const int32_t part = std::min(Kernels::kMostPoints, count - first);
    for (int32_t i = 0; i < part; ++i) {
      x[i] = margin + first + i + wallShift(floor);
      zs[i] = z;
    }
    kernels_->points(
        plans_[process], {part, {x, nullptr, zs}, {zeros, nullptr, zeros}}, out.data() + first);
  }
  return out;
}

Status LevelMaker::courses(
    size_t process, LevelFloor& out, const StepListener& tell, const std::stop_token& stop) const {
  const LevelProcess& one = level_.processes[process];
  const auto& courses = std::get<LevelCourses>(one.what);
  std::vector<float> values;
  for (int32_t z = level_.margin; z < length_ - level_.margin; ++z) {
    if (stop.stop_requested()) return cancelled();
    const std::vector<float> row = noiseRow(process, out.floor, z);
    values.insert(values.end(), row.begin(), row.end());
  }
  const CoursePlan how{between(courses.count.wholeOn(out.floor), 0, 16), courses.dig,
      std::clamp(courses.share.on(out.floor), 0.0, 1.0), courses.winding, courses.join};
  auto laid =
      layCourses(out.plane, how, values, level_.margin, keyOf(one.id, out.floor), tell, stop);
  if (!laid) return cancelled();
  for (LaidCourse& course : *laid) {
    course.process = process;
    out.courses.push_back(std::move(course));
  }
  return done();
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
  if (const auto* walls = std::get_if<NoiseWalls>(&one.what)) {
    const auto low = static_cast<float>(walls->band.low),
               high = static_cast<float>(walls->band.high);
    for (int32_t z = margin; z < plane.length() - margin; ++z) {
      if (stop.stop_requested()) return cancelled();
      std::vector<float> row = noiseRow(process, floor, z);
      for (int32_t x = margin; x < plane.width() - margin; ++x) {
        const float v = row[static_cast<size_t>(x - margin)];
        const bool wall = v >= low && v < high;
        if (wall || walls->refill) plane.set(x, z, wall);
      }
    }
    said();
  } else if (const auto* automaton = std::get_if<FilledAutomaton>(&one.what)) {
    if (automaton->refill)
      fillByChance(plane, std::clamp(automaton->fill.on(floor), 0.0, 1.0), margin, key);
    said();
    const auto rule =
        readRule(automaton->rule, AutomatonRule::kPlane, processAt(process) + "/rule");
    if (!rule) return rule.error();
    // The margin is what lies beyond the edge: the automaton works within it.
    BitGrid inner = innerOf(plane, margin);
    Automaton steps(*rule, automaton->edge, 1);
    const int count = between(automaton->steps.wholeOn(floor), 0, 1000);
    for (int n = 0; n < count; ++n) {
      if (!steps.run(inner, 1, stop)) return cancelled();
      if (!tell && n + 1 < count) continue;
      putInner(inner, margin, plane);
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
    // Each step is told as the floor would be if it were the last.
    const StepListener cut = tell ? StepListener([&](const BitGrid& shape) {
      BitGrid now = plane;
      cutToBody(now, shape);
      tell(now);
    })
                                  : StepListener();
    const auto shape = bodyOf(plane.width(), plane.length(), outlineOn(*body, floor), margin, key,
        cut, out.visited, false, stop);
    if (!shape) return cancelled();
    cutToBody(plane, *shape);
  } else if (const auto* rooms = std::get_if<LevelRooms>(&one.what)) {
    constexpr int kTries = 60;
    std::vector<double> shares;
    for (const LevelRooms::Piece& piece : rooms->pieces) shares.push_back(piece.share);
    auto placed =
        placeRooms(plane, pieces_[process], shares, between(rooms->count.wholeOn(floor), 0, 1000),
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
            processAt(process), "a floor whose spaces can be joined within the margin"};
      out.dug += *dug;
      said();
    }
  } else if (std::holds_alternative<LevelCourses>(one.what)) {
    return courses(process, out, tell, stop);
  }
  return done();
}

std::string courseName(const Level& level, const LaidCourse& course) {
  return fmt::format("{} {}", level.processes[course.process].name, course.number + 1);
}

uint64_t LevelFloor::bytes() const {
  uint64_t sum = sizeof *this + plane.bytes() + rooms.size() * sizeof(PlacedRoom) +
                 places.size() * sizeof(FoundPlace);
  for (const LaidCourse& course : courses)
    sum += sizeof course + course.cells.size() * sizeof(uint32_t);
  return sum;
}

std::vector<int32_t> stepsFrom(const BitGrid& plane, int32_t x, int32_t z) {
  const int32_t width = plane.width(), length = plane.length();
  std::vector<int32_t> out(static_cast<size_t>(width) * static_cast<size_t>(length), -1);
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
        if (nx < 0 || nz < 0 || nx >= width || nz >= length || plane.at(nx, nz)) continue;
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

Status LevelMaker::place(LevelFloor& out, const std::stop_token& stop) const {
  const BitGrid& plane = out.plane;
  const int32_t width = plane.width(), length = plane.length();
  std::vector<int32_t> fromFirst;
  std::vector<uint8_t> wet(placeIn(plane, 0, length));
  for (const LaidCourse& course : out.courses)
    for (const uint32_t cell : course.cells) wet[cell] = 1;
  for (size_t k = 0; k < level_.places.size(); ++k) {
    const LevelPlace& wanted = level_.places[k];
    const FoundPlace* from = nullptr;
    for (const FoundPlace& found : out.places)
      if (level_.places[found.place].id == wanted.from) from = &found;
    const std::vector<int32_t> steps =
        from ? stepsFrom(plane, from->x, from->z) : std::vector<int32_t>();
    const auto clear = [&](int32_t cx, int32_t cz) {
      for (int32_t z = cz - wanted.clear; z <= cz + wanted.clear; ++z)
        for (int32_t x = cx - wanted.clear; x <= cx + wanted.clear; ++x)
          if (x < 0 || z < 0 || x >= width || z >= length || plane.at(x, z)) return false;
      return true;
    };
    // Of the cells that do, the one that comes first in an order that is drawn. What is in the way
    // of the others is counted for the message.
    const uint64_t key = keyOf("place/" + wanted.id, out.floor);
    struct Candidate {
      uint64_t order;
      int32_t x, z;
    };
    std::optional<Candidate> chosen;
    size_t all = 0, taken = 0, narrow = 0, cutOff = 0, distant = 0;
    const auto offer = [&](int32_t x, int32_t z) {
      if (plane.at(x, z)) return;
      ++all;
      const uint64_t order =
          combine(combine(key, static_cast<uint64_t>(x)), static_cast<uint64_t>(z));
      if (chosen && std::tie(chosen->order, chosen->z, chosen->x) < std::tie(order, z, x)) return;
      const size_t at = placeIn(plane, x, z);
      const bool held = wet[at] || std::any_of(out.places.begin(), out.places.end(),
                                       [&](const FoundPlace& f) { return f.x == x && f.z == z; });
      if (held)
        ++taken;
      else if (wanted.reachable && !fromFirst.empty() && fromFirst[at] < 0)
        ++cutOff;
      else if (from && (steps[at] < std::max(0, wanted.least) ||
                           (wanted.most > 0 && steps[at] > wanted.most)))
        ++distant;
      else if (!clear(x, z))
        ++narrow;
      else
        chosen = {order, x, z};
    };
    if (wanted.mark.empty()) {
      for (int32_t z = level_.margin; z < length - level_.margin; ++z) {
        if (stop.stop_requested()) return cancelled();
        for (int32_t x = level_.margin; x < width - level_.margin; ++x) offer(x, z);
      }
    } else {
      for (const PlacedRoom& put : out.rooms) {
        const RoomPiece piece = pieces_[put.process][put.piece].turned(put.quarters);
        for (int32_t z = 0; z < piece.length; ++z)
          for (int32_t x = 0; x < piece.width; ++x)
            if (piece.at(x, z) == wanted.mark[0]) offer(put.x + x, put.z + z);
      }
    }
    if (!chosen) {
      const std::string distance = wanted.most > 0
                                       ? fmt::format("{} to {}", wanted.least, wanted.most)
                                       : fmt::format("{} or more", wanted.least);
      std::string why;
      if (all == 0)
        why = wanted.mark.empty() ? "nothing is open"
                                  : fmt::format("no room has the mark {}", wanted.mark);
      else
        why = fmt::format(
            "of {} open cells {} are taken, {} cut off, {} not {} steps from {}, {} not clear for "
            "{} cells about",
            all, taken, cutOff, distant, distance, wanted.from.empty() ? "anything" : wanted.from,
            narrow, wanted.clear);
      return Error{Error::Code::InvalidInput,
          fmt::format("on floor {} there is no room for \"{}\": {}", out.floor, wanted.id, why),
          fmt::format("/level/places/{}", k), "conditions that some cell meets"};
    }
    const size_t at = placeIn(plane, chosen->x, chosen->z);
    out.places.push_back({k, chosen->x, chosen->z, from ? steps[at] : 0});
    if (k == 0) fromFirst = stepsFrom(plane, chosen->x, chosen->z);
  }
  return done();
}

Result<std::shared_ptr<const LevelFloor>> LevelMaker::make(
    int floor, const Watch& watch, const std::stop_token& stop) const {
  const FpState fp;
  auto out = std::make_shared<LevelFloor>(solidPlane(width_, length_));
  out->floor = floor;
  for (size_t k = 0; k < level_.processes.size(); ++k) {
    if (!level_.processes[k].on) continue;
    if (Status made = run(k, floor, *out, watch, stop); !made) return made.error();
  }
  if (Status placed = place(*out, stop); !placed) return placed.error();
  return std::shared_ptr<const LevelFloor>(std::move(out));
}

namespace {

/// One step of an automaton, cell by cell from the last one to the first.
BitGrid steppedBack(const BitGrid& before, const AutomatonRule& rule, GridEdge edge) {
  BitGrid out = before;
  const int32_t width = before.width(), length = before.length();
  for (int32_t z = length - 1; z >= 0; --z)
    for (int32_t x = width - 1; x >= 0; --x) {
      const bool rim = x == 0 || z == 0 || x + 1 == width || z + 1 == length;
      if (rim && edge == GridEdge::Left) continue;
      int count = 0;
      for (int32_t dz = -1; dz <= 1; ++dz)
        for (int32_t dx = -1; dx <= 1; ++dx) {
          if (dx == 0 && dz == 0) continue;
          const int32_t i = x + dx, k = z + dz;
          const bool inside = i >= 0 && k >= 0 && i < width && k < length;
          count += inside ? before.at(i, k) : edge == GridEdge::Filled;
        }
      out.set(x, z, rule.applies(before.at(x, z), count));
    }
  return out;
}

size_t differingCells(const BitGrid& a, const BitGrid& b) {
  size_t out = 0;
  for (int32_t z = 0; z < a.length(); ++z)
    for (int32_t x = 0; x < a.width(); ++x) out += a.at(x, z) != b.at(x, z);
  return out;
}

}  // namespace

auto LevelMaker::reversed(size_t process, int floor, const std::stop_token& stop,
    const Spoil& spoil) const -> Result<Reversed> {
  const LevelProcess& one = level_.processes[process];
  Reversed out;
  if (!one.on)
    out.instead = "it is switched off";
  else if (std::holds_alternative<DiggingWalks>(one.what))
    out.instead = "walkers dig in turn, not cell by cell";
  else if (std::holds_alternative<LevelRooms>(one.what))
    out.instead = "rooms are put one after the other, not cell by cell";
  else if (std::holds_alternative<LevelSpaces>(one.what))
    out.instead = "spaces are joined one after the other, not cell by cell";
  else if (std::holds_alternative<LevelCourses>(one.what))
    out.instead = "courses are found one after the other, not cell by cell";
  if (!out.instead.empty()) return out;
  std::vector<BitGrid> steps;
  BitGrid before = solidPlane(width_, length_);  // What the processes in front of it left.
  const auto made = make(
      floor,
      [&](size_t of, const BitGrid& plane) {
        if (of == process) steps.push_back(plane);
        if (of < process) before = plane;
      },
      stop);
  if (!made) return made.error();
  const int32_t margin = level_.margin;
  const auto compare = [&](const BitGrid& again, BitGrid plane) {
    ++out.steps;
    if (spoil) spoil(plane);
    if (const size_t cells = differingCells(again, plane); cells > 0 && out.equal) {
      out.equal = false;
      out.differing = cells;
    }
  };
  if (const auto* walls = std::get_if<NoiseWalls>(&one.what)) {
    const auto low = static_cast<float>(walls->band.low),
               high = static_cast<float>(walls->band.high);
    // Which cells are walls; where they are not refilled the others were as they are.
    BitGrid again = before;
    for (int32_t z = length_ - 1 - margin; z >= margin; --z)
      for (int32_t x = width_ - 1 - margin; x >= margin; --x) {
        const Pos at[3] = {{x + wallShift(floor), 0}, {0, 0}, {z, 0}};
        const float v = noiseAt(plans_[process], at);
        const bool wall = v >= low && v < high;
        if (wall || walls->refill) again.set(x, z, wall);
      }
    compare(again, steps.back());
  } else if (const auto* automaton = std::get_if<FilledAutomaton>(&one.what)) {
    const auto rule =
        readRule(automaton->rule, AutomatonRule::kPlane, processAt(process) + "/rule");
    if (!rule) return rule.error();
    for (size_t n = 1; n < steps.size(); ++n) {
      if (stop.stop_requested()) return cancelled();
      compare(steppedBack(innerOf(steps[n - 1], margin), *rule, automaton->edge),
          innerOf(steps[n], margin));
    }
  } else if (const auto* body = std::get_if<LevelBody>(&one.what)) {
    // The body alone, whatever it is put onto.
    std::vector<BitGrid> forward;
    size_t at = 0;
    const auto make = [&](bool back) {
      Visited visited;
      return bodyOf(
          width_, length_, outlineOn(*body, floor), margin, keyOf(one.id, floor),
          [&](const BitGrid& shape) {
            back ? compare(shape, forward[at++]) : forward.push_back(shape);
          },
          visited, back, stop);
    };
    if (!make(false) || !make(true)) return cancelled();
  }
  return out;
}

}  // namespace acre
