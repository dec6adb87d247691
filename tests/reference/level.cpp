#include <algorithm>
#include <cmath>
#include <limits>
#include <sstream>
#include <vector>

#include "base/hash.h"
#include "cave/room_files.h"
#include "recipe/cave_recipe.h"
#include "recipe/edits.h"
#include "reference/evaluator.h"

// Levels over plain arrays: every cell of every step looked at, every flood from scratch, every
// candidate of a place listed.
namespace reference {
namespace floors {

using acre::AutomatonLayer;

int pickIndex(uint64_t hash, size_t count) {
  return static_cast<int>(((hash >> 32) * static_cast<uint64_t>(count)) >> 32);
}
bool happens(uint64_t hash, double share) {
  return static_cast<double>(hash >> 11) < share * 9007199254740992.0;
}

struct Spot {
  int x, z;
  bool operator==(const Spot&) const = default;
};

/// North, west, east, south; and the order in which walkers and floods look: north, east, south,
/// west.
constexpr Spot kNear[4] = {{0, -1}, {-1, 0}, {1, 0}, {0, 1}};
constexpr Spot kRound[4] = {{0, -1}, {1, 0}, {0, 1}, {-1, 0}};

struct Plane {
  int width, depth;
  std::vector<char> solid;
  Plane(int w, int d)
      : width(w), depth(d), solid(static_cast<size_t>(w) * static_cast<size_t>(d), 1) {}
  bool has(Spot s) const { return s.x >= 0 && s.z >= 0 && s.x < width && s.z < depth; }
  char& at(Spot s) {
    return solid[static_cast<size_t>(s.z) * static_cast<size_t>(width) + static_cast<size_t>(s.x)];
  }
  char at(Spot s) const { return const_cast<Plane*>(this)->at(s); }
  bool within(Spot s, int margin) const {
    return s.x >= margin && s.z >= margin && s.x < width - margin && s.z < depth - margin;
  }
  /// Cells within a margin, row by row.
  std::vector<Spot> cells(int margin) const {
    std::vector<Spot> out;
    for (int z = margin; z < depth - margin; ++z)
      for (int x = margin; x < width - margin; ++x) out.push_back({x, z});
    return out;
  }
};

struct Room {
  int width = 0, depth = 0;
  std::vector<std::string> rows;
  Room turned() const {  // To the right.
    Room out{depth, width, std::vector<std::string>(static_cast<size_t>(width))};
    for (int x = 0; x < width; ++x)
      for (int z = depth - 1; z >= 0; --z)
        out.rows[static_cast<size_t>(x)] += rows[static_cast<size_t>(z)][static_cast<size_t>(x)];
    return out;
  }
};

Room roomOf(const std::string& text) {
  Room out;
  std::istringstream lines(text);
  for (std::string line; std::getline(lines, line);) {
    if (!line.empty() && line.back() == '\r') line.pop_back();
    out.rows.push_back(line);
  }
  out.depth = static_cast<int>(out.rows.size());
  out.width = static_cast<int>(out.rows.at(0).size());
  return out;
}

/// Steps to every cell from some, through cells that `passes` lets through; -1 where none lead.
template <class Passes>
std::vector<int> stepsFrom(const Plane& plane, const std::vector<Spot>& from, Passes&& passes) {
  std::vector<int> out(plane.solid.size(), -1);
  const auto index = [&](Spot s) { return static_cast<size_t>(s.z * plane.width + s.x); };
  std::vector<Spot> ring = from;
  for (const Spot s : ring) out[index(s)] = 0;
  for (int steps = 1; !ring.empty(); ++steps) {
    std::vector<Spot> next;
    for (const Spot s : ring)
      for (const Spot side : kNear) {
        const Spot to{s.x + side.x, s.z + side.z};
        if (!plane.has(to) || out[index(to)] >= 0 || !passes(to)) continue;
        out[index(to)] = steps;
        next.push_back(to);
      }
    ring = next;
  }
  return out;
}

/// Connected open spaces, the largest first, equal ones by their first cells.
std::vector<std::vector<Spot>> spacesOf(const Plane& plane) {
  std::vector<std::vector<Spot>> out;
  std::vector<char> seen(plane.solid.size());
  for (const Spot first : plane.cells(0)) {
    if (plane.at(first) || seen[static_cast<size_t>(first.z * plane.width + first.x)]) continue;
    const auto steps = stepsFrom(plane, {first}, [&](Spot s) { return !plane.at(s); });
    std::vector<Spot>& space = out.emplace_back();
    for (const Spot s : plane.cells(0))
      if (const auto i = static_cast<size_t>(s.z * plane.width + s.x); steps[i] >= 0) {
        seen[i] = 1;
        space.push_back(s);
      }
  }
  std::stable_sort(
      out.begin(), out.end(), [](const auto& a, const auto& b) { return a.size() > b.size(); });
  return out;
}

void joinAll(Plane& plane, int margin) {
  auto spaces = spacesOf(plane);
  const Plane before = plane;
  while (spaces.size() > 1) {
    // The first space has all that is joined; ways lead through solid cells within the margin.
    std::vector<int> away = stepsFrom(plane, spaces[0],
        [&](Spot s) { return before.at(s) && plane.at(s) && plane.within(s, margin); });
    const auto awayAt = [&](Spot s) { return away[static_cast<size_t>(s.z * plane.width + s.x)]; };
    int least = std::numeric_limits<int>::max();
    Spot reached{-1, -1};
    size_t which = 0;
    for (size_t k = 1; k < spaces.size(); ++k)
      for (const Spot s : spaces[k])
        for (const Spot side : kNear) {
          const Spot from{s.x + side.x, s.z + side.z};
          if (!plane.has(from) || awayAt(from) < 0) continue;
          const bool first =
              awayAt(from) < least ||
              (awayAt(from) == least && (s.z < reached.z || (s.z == reached.z && s.x < reached.x)));
          if (!first) continue;
          least = awayAt(from);
          reached = s;
          which = k;
        }
    if (reached.x < 0) return;  // Impossible; nobody asks.
    for (Spot at = reached; least >= 0; --least) {
      for (const Spot side : kNear)
        if (const Spot to{at.x + side.x, at.z + side.z}; plane.has(to) && awayAt(to) == least) {
          at = to;
          break;
        }
      if (least == 0) break;
      plane.at(at) = 0;
      spaces[0].push_back(at);
    }
    spaces[0].insert(spaces[0].end(), spaces[which].begin(), spaces[which].end());
    spaces.erase(spaces.begin() + static_cast<ptrdiff_t>(which));
  }
}

void step(Plane& plane, int margin, const acre::FilledAutomaton& p) {
  const size_t slash = p.rule.find('/');
  const std::string birth = p.rule.substr(1, slash - 1), survival = p.rule.substr(slash + 2);
  const Plane before = plane;
  for (const Spot s : plane.cells(margin)) {
    const bool rim = !plane.within(s, margin + 1);
    if (rim && p.edge == AutomatonLayer::Edge::Left) continue;
    int count = 0;
    for (int dz = -1; dz <= 1; ++dz)
      for (int dx = -1; dx <= 1; ++dx) {
        const Spot to{s.x + dx, s.z + dz};
        if (to == s) continue;
        count += plane.within(to, margin) ? before.at(to) : p.edge == AutomatonLayer::Edge::Filled;
      }
    const std::string& rule = before.at(s) ? survival : birth;
    plane.at(s) = rule.find(static_cast<char>('0' + count)) != std::string::npos;
  }
}

Plane bodyOf(int width, int depth, const acre::LevelBody& p, int floor, int margin, uint64_t key) {
  Plane body(width, depth);
  const double rx = std::max((width - 2 * margin) / 2.0, 0.5);
  const double rz = std::max((depth - 2 * margin) / 2.0, 0.5);
  for (const Spot s : body.cells(margin)) {
    const double dx = (s.x + 0.5 - width / 2.0) / rx, dz = (s.z + 0.5 - depth / 2.0) / rz;
    body.at(s) = p.round && dx * dx + dz * dz > 1;
  }
  for (int n = 0; n < p.floods.wholeOn(floor); ++n) {
    const uint64_t own = acre::combine(key, static_cast<uint64_t>(n));
    std::vector<Spot> edge;
    for (const Spot s : body.cells(margin))
      if (!body.at(s) && std::any_of(std::begin(kRound), std::end(kRound), [&](Spot d) {
            return body.at({s.x + d.x, s.z + d.z});
          }))
        edge.push_back(s);
    if (edge.empty()) break;
    const char inward = happens(acre::combine(own, 1), p.inward);
    std::vector<Spot> front = {
        edge[static_cast<size_t>(pickIndex(acre::combine(own, 2), edge.size()))]};
    int changed = 0;
    for (uint64_t k = 0; changed < std::max(1, p.size.wholeOn(floor)) && !front.empty(); ++k) {
      const auto at =
          static_cast<size_t>(pickIndex(acre::combine(acre::combine(own, 3), k), front.size()));
      const Spot s = front[at];
      front[at] = front.back();
      front.pop_back();
      const bool turns = body.at(s) != inward;
      if (!turns && k > 0) continue;
      if (turns) ++changed;
      if (turns) body.at(s) = inward;
      for (const Spot d : kRound)
        if (const Spot to{s.x + d.x, s.z + d.z}; body.within(to, margin) && body.at(to) != inward)
          front.push_back(to);
    }
  }
  for (int pass = 0; pass < p.smooth; ++pass) {
    const Plane before = body;
    for (const Spot s : body.cells(margin)) {
      const bool seam = std::any_of(std::begin(kRound), std::end(kRound), [&](Spot d) {
        return before.at({s.x + d.x, s.z + d.z}) != before.at(s);
      });
      if (!seam) continue;
      int count = 0;
      for (int dz = -1; dz <= 1; ++dz)
        for (int dx = -1; dx <= 1; ++dx)
          if (dx != 0 || dz != 0) count += before.at({s.x + dx, s.z + dz});
      if (count != 4) body.at(s) = count > 4;
    }
  }
  return body;
}

void walk(Plane& plane, const acre::DiggingWalks& p, int floor, int margin, uint64_t key) {
  std::vector<Spot> starts;
  for (const Spot s : plane.cells(margin))
    if (!plane.at(s)) starts.push_back(s);
  if (starts.empty()) starts = {{plane.width / 2, plane.depth / 2}};
  struct Walker {
    Spot at;
    int heading;
  };
  std::vector<Walker> walkers;
  for (int n = 0; n < std::max(1, p.walkers.wholeOn(floor)); ++n) {
    const uint64_t own = acre::combine(key, static_cast<uint64_t>(n));
    walkers.push_back({starts[static_cast<size_t>(pickIndex(acre::combine(own, 1), starts.size()))],
        pickIndex(acre::combine(own, 2), 4)});
  }
  for (int k = 0; k < std::max(1, p.steps.wholeOn(floor)); ++k) {
    for (size_t n = 0; n < walkers.size(); ++n) {
      Walker& w = walkers[n];
      const uint64_t draw =
          acre::combine(acre::combine(acre::combine(key, n), 3), static_cast<uint64_t>(k));
      if (happens(draw, p.turn)) w.heading = (w.heading + (draw % 2 == 1 ? 1 : 3)) % 4;
      for (int turns = 0; turns < 4; ++turns, w.heading = (w.heading + 1) % 4) {
        const Spot d = kRound[w.heading];
        if (!plane.within({w.at.x + d.x, w.at.z + d.z}, margin)) continue;
        w.at = {w.at.x + d.x, w.at.z + d.z};
        break;
      }
      for (const Spot s : plane.cells(margin)) {
        const int dx = s.x - w.at.x, dz = s.z - w.at.z;
        if (dx * dx + dz * dz <= p.radius * p.radius + p.radius && std::abs(dx) <= p.radius &&
            std::abs(dz) <= p.radius)
          plane.at(s) = 0;
      }
    }
    const auto open = std::count(plane.solid.begin(), plane.solid.end(), char{0});
    if (static_cast<double>(open) >= static_cast<double>(plane.solid.size()) * p.untilOpen) break;
  }
}

/// Courses one after the other: each by a table of the least sums, spread until nothing changes.
std::vector<std::vector<Spot>> courses(Plane& plane, const acre::LevelCourses& p, int floor,
    int margin, uint64_t key, const std::vector<float>& values) {
  const int w = plane.width - 2 * margin, l = plane.depth - 2 * margin, n = w * l;
  std::vector<int> order(static_cast<size_t>(n));
  for (int i = 0; i < n; ++i) order[static_cast<size_t>(i)] = i;
  std::stable_sort(order.begin(), order.end(), [&](int a, int b) {
    return values[static_cast<size_t>(a)] > values[static_cast<size_t>(b)];
  });
  const double share = std::clamp(p.share.on(floor), 0.0, 1.0);
  std::vector<char> closed(static_cast<size_t>(n)), taken(static_cast<size_t>(n));
  for (int i = 0; i < static_cast<int>(std::floor(share * n + 0.5)); ++i)
    closed[static_cast<size_t>(order[static_cast<size_t>(i)])] = 1;
  const auto spot = [&](int i) { return Spot{margin + i % w, margin + i / w}; };
  for (int i = 0; i < n; ++i)
    if (!p.dig && plane.at(spot(i))) closed[static_cast<size_t>(i)] = 1;

  std::vector<std::vector<Spot>> out;
  for (int k = 0; k < p.count.wholeOn(floor); ++k) {
    const bool south = k % 2 == 1;
    const int lines = south ? w : l, along = south ? l : w;
    const auto end = [&](uint64_t which) {
      const int line = pickIndex(acre::combine(acre::combine(key, static_cast<uint64_t>(k)), which),
          static_cast<size_t>(lines));
      std::vector<int> tries = {line};
      for (int d = 1; d <= 15; ++d) tries.insert(tries.end(), {line + d, line - d});
      for (const int t : tries) {
        if (t < 0 || t >= lines) continue;
        for (int a = 0; a < along; ++a) {
          const int at = which == 1 ? a : along - 1 - a;
          const int i = south ? at * w + t : t * w + at;
          if (!closed[static_cast<size_t>(i)]) return i;
        }
      }
      return -1;
    };
    const int start = end(1), goal = end(2);
    if (start < 0 || goal < 0 || start == goal) continue;
    constexpr int64_t kNever = std::numeric_limits<int64_t>::max() / 2;
    std::vector<int64_t> sums(static_cast<size_t>(n), kNever);
    std::vector<int> before(static_cast<size_t>(n), -1);
    sums[static_cast<size_t>(start)] = 0;
    const auto isEnd = [&](int i) {
      return i == goal || (p.join && i != start && taken[static_cast<size_t>(i)]);
    };
    for (bool changed = true; changed;) {
      changed = false;
      for (int i = 0; i < n; ++i) {
        if (closed[static_cast<size_t>(i)] || i == start) continue;
        for (const Spot d : kNear) {
          const int x = i % w + d.x, z = i / w + d.z, from = z * w + x;
          if (x < 0 || z < 0 || x >= w || z >= l || isEnd(from)) continue;
          const int64_t sum =
              sums[static_cast<size_t>(from)] + 10 +
              static_cast<int64_t>(
                  acre::combine(acre::combine(acre::combine(key, 64), static_cast<uint64_t>(i % w)),
                      static_cast<uint64_t>(i / w)) %
                  4);
          int64_t& own = sums[static_cast<size_t>(i)];
          int& came = before[static_cast<size_t>(i)];
          if (sum > own || sum >= kNever || (sum == own && from >= came)) continue;
          changed = changed || sum < own;
          own = sum;
          came = from;
        }
      }
    }
    int last = -1;
    for (int i = 0; i < n; ++i)
      if (isEnd(i) && sums[static_cast<size_t>(i)] < kNever &&
          (last < 0 || sums[static_cast<size_t>(i)] < sums[static_cast<size_t>(last)]))
        last = i;
    if (last < 0) continue;
    std::vector<int> way;
    for (int i = last; i >= 0; i = before[static_cast<size_t>(i)]) way.push_back(i);
    const auto dx = static_cast<double>(last % w - start % w),
               dz = static_cast<double>(last / w - start / w);
    const auto direct = static_cast<int64_t>(std::sqrt(65536.0 * (dx * dx + dz * dz)));
    const auto most = static_cast<int64_t>(std::floor(256 * p.winding + 0.5));
    if (256 * 256 * static_cast<int64_t>(way.size() - 1) > most * direct) continue;
    std::vector<Spot>& cells = out.emplace_back();
    for (auto i = way.rbegin(); i != way.rend(); ++i) {
      taken[static_cast<size_t>(*i)] = 1;
      cells.push_back(spot(*i));
      if (p.dig) plane.at(spot(*i)) = 0;
    }
  }
  return out;
}

}  // namespace floors

using namespace floors;

struct Evaluator::Floor {
  Plane plane;
  std::map<size_t, Spot> places;  // By index in the recipe.
  struct Put {
    Room room;
    int x, z;
  };
  std::vector<Put> rooms;
  std::map<std::pair<int, int>, std::string> courses;  // What cells (z, x) of courses show.
  std::vector<int> depths;
};

const Evaluator::Floor& Evaluator::floor() {
  if (floor_) return *floor_;
  const acre::Level& level = *recipe_.level;
  const int number = level.floor, margin = level.margin;
  const uint64_t stage = acre::combine(seed_, 0x4C6576656Cu);
  const auto keyOf = [&](const std::string& id) {
    return acre::combine(
        acre::combine(stage, acre::hashText(id)), static_cast<uint64_t>(int64_t{number}));
  };
  floor_ = std::make_shared<Floor>(Floor{
      Plane(static_cast<int>(recipe_.frame.x->extent), static_cast<int>(recipe_.frame.z->extent)),
      {}, {}, {}, {}});
  Plane& plane = floor_->plane;
  const auto texts = acre::readRooms(level, recipe_.folder);
  for (const acre::LevelProcess& process : level.processes) {
    if (!process.on) continue;
    const uint64_t key = keyOf(process.id);
    if (const auto* p = std::get_if<acre::NoiseWalls>(&process.what)) {
      const uint64_t own = acre::combine(stage, acre::hashText(process.id));
      for (const Spot s : plane.cells(margin)) {
        const float v =
            noise(p->band.noise, 2, own, {}, {{s.x + int64_t{number} * 65536, 0, s.z}, {0, 0, 0}});
        const bool wall =
            v >= static_cast<float>(p->band.low) && v < static_cast<float>(p->band.high);
        if (wall || p->refill) plane.at(s) = wall;
      }
    } else if (const auto* a = std::get_if<acre::FilledAutomaton>(&process.what)) {
      if (a->refill)
        for (const Spot s : plane.cells(margin)) {
          const uint64_t row = acre::combine(key, static_cast<uint64_t>(s.z));
          plane.at(s) = happens(acre::mix64(row + static_cast<uint64_t>(s.x) * 0x9E3779B97F4A7C15u),
              std::clamp(a->fill.on(number), 0.0, 1.0));
        }
      for (int n = 0; n < a->steps.wholeOn(number); ++n) step(plane, margin, *a);
    } else if (const auto* w = std::get_if<acre::DiggingWalks>(&process.what)) {
      walk(plane, *w, number, margin, key);
    } else if (const auto* b = std::get_if<acre::LevelBody>(&process.what)) {
      const Plane body = bodyOf(plane.width, plane.depth, *b, number, margin, key);
      for (const Spot s : plane.cells(0))
        if (body.at(s)) plane.at(s) = 1;
    } else if (const auto* r = std::get_if<acre::LevelRooms>(&process.what)) {
      const size_t before = floor_->rooms.size();
      if (!texts) continue;  // A file is gone since: the floors will differ.
      for (int n = 0; n < r->count.wholeOn(number) && !r->pieces.empty(); ++n)
        for (int t = 0; t < 60; ++t) {
          const uint64_t own =
              acre::combine(acre::combine(key, static_cast<uint64_t>(n)), static_cast<uint64_t>(t));
          double sum = 0;
          for (const auto& piece : r->pieces) sum += piece.share;
          double left = static_cast<double>(acre::combine(own, 1) >> 11) / 9007199254740992.0 * sum;
          size_t which = 0;
          while (which + 1 < r->pieces.size() && left >= r->pieces[which].share)
            left -= r->pieces[which++].share;
          Room room =
              roomOf((*texts)[static_cast<size_t>(&process - level.processes.data())][which]);
          for (int q = r->turn ? pickIndex(acre::combine(own, 2), 4) : 0; q > 0; --q)
            room = room.turned();
          const int freeX = plane.width - 2 * margin - room.width + 1;
          const int freeZ = plane.depth - 2 * margin - room.depth + 1;
          if (freeX < 1 || freeZ < 1) continue;
          const Floor::Put put{room,
              margin + pickIndex(acre::combine(own, 3), static_cast<size_t>(freeX)),
              margin + pickIndex(acre::combine(own, 4), static_cast<size_t>(freeZ))};
          bool clear = true;
          for (size_t k = before; k < floor_->rooms.size(); ++k) {
            const Floor::Put& o = floor_->rooms[k];
            const int apartX = std::max(put.x - (o.x + o.room.width), o.x - (put.x + room.width));
            const int apartZ = std::max(put.z - (o.z + o.room.depth), o.z - (put.z + room.depth));
            clear = clear && std::max(apartX, apartZ) >= r->distance;
          }
          if (!clear) continue;
          for (int z = 0; z < room.depth; ++z)
            for (int x = 0; x < room.width; ++x)
              if (const char c = room.rows[static_cast<size_t>(z)][static_cast<size_t>(x)];
                  c != ' ')
                plane.at({put.x + x, put.z + z}) = c == '#';
          floor_->rooms.push_back(put);
          break;
        }
    } else if (const auto* c = std::get_if<acre::LevelCourses>(&process.what)) {
      acre::NoiseSource obstacles;
      obstacles.fractal = acre::Fractal::Single;
      obstacles.width = c->feature;
      const uint64_t own = acre::combine(stage, acre::hashText(process.id));
      std::vector<float> values;
      for (const Spot s : plane.cells(margin))
        values.push_back(
            noise(obstacles, 2, own, {}, {{s.x + int64_t{number} * 65536, 0, s.z}, {0, 0, 0}}));
      for (const auto& cells : courses(plane, *c, number, margin, key, values))
        for (const Spot s : cells) floor_->courses.try_emplace({s.z, s.x}, c->material);
    } else {
      const auto& s = std::get<acre::LevelSpaces>(process.what);
      for (const auto& space : spacesOf(plane))
        if (static_cast<int>(space.size()) < s.least)
          for (const Spot cell : space) plane.at(cell) = 1;
      if (s.join) joinAll(plane, margin);
    }
  }
  const auto open = [&](Spot s) { return !plane.at(s); };
  for (size_t k = 0; k < level.places.size(); ++k) {
    const acre::LevelPlace& wanted = level.places[k];
    std::vector<Spot> offered;
    if (wanted.mark.empty()) offered = plane.cells(margin);
    for (const Floor::Put& put : floor_->rooms)
      for (int z = 0; z < put.room.depth && !wanted.mark.empty(); ++z)
        for (int x = 0; x < put.room.width; ++x)
          if (put.room.rows[static_cast<size_t>(z)][static_cast<size_t>(x)] == wanted.mark[0])
            offered.push_back({put.x + x, put.z + z});
    std::vector<int> fromFirst, fromOther;
    if (k > 0) fromFirst = stepsFrom(plane, {floor_->places.at(0)}, open);
    for (size_t o = 0; o < k; ++o)
      if (level.places[o].id == wanted.from)
        fromOther = stepsFrom(plane, {floor_->places.at(o)}, open);
    const uint64_t key = keyOf("place/" + wanted.id);
    std::optional<std::pair<uint64_t, Spot>> best;
    for (const Spot s : offered) {
      const auto i = static_cast<size_t>(s.z * plane.width + s.x);
      bool fits = !plane.at(s) && !floor_->courses.contains({s.z, s.x});
      for (const auto& [other, at] : floor_->places) fits = fits && !(at == s);
      for (int dz = -wanted.clear; dz <= wanted.clear; ++dz)
        for (int dx = -wanted.clear; dx <= wanted.clear; ++dx) {
          const Spot to{s.x + dx, s.z + dz};
          fits = fits && plane.has(to) && !plane.at(to);
        }
      if (wanted.reachable && !fromFirst.empty()) fits = fits && fromFirst[i] >= 0;
      if (!fromOther.empty())
        fits = fits && fromOther[i] >= wanted.least &&
               (wanted.most == 0 || fromOther[i] <= wanted.most);
      if (!fits) continue;
      const uint64_t order =
          acre::combine(acre::combine(key, static_cast<uint64_t>(s.x)), static_cast<uint64_t>(s.z));
      if (!best || order < best->first) best = {order, s};
    }
    floor_->places[k] = best->second;
  }
  // Rings of all eight neighbours around what is open.
  floor_->depths.assign(plane.solid.size(), 65535);
  std::vector<Spot> ring;
  for (const Spot s : plane.cells(0))
    if (!plane.at(s)) ring.push_back(s);
  for (int depth = 0; !ring.empty(); ++depth) {
    std::vector<Spot> next;
    for (const Spot s : ring) {
      int& own = floor_->depths[static_cast<size_t>(s.z * plane.width + s.x)];
      if (own <= depth) continue;
      own = depth;
      for (int dz = -1; dz <= 1; ++dz)
        for (int dx = -1; dx <= 1; ++dx)
          if (const Spot to{s.x + dx, s.z + dz}; plane.has(to)) next.push_back(to);
    }
    ring = next;
  }
  return *floor_;
}

int Evaluator::depthIn(acre::Cell cell) {
  const Floor& f = floor();
  return f.depths[static_cast<size_t>(
      (cell.z - recipe_.frame.z->min) * f.plane.width + cell.x - recipe_.frame.x->min)];
}

std::string Evaluator::rockIn(acre::Cell cell, int depth) {
  LandValue here = land(cell);
  here.height = here.height - static_cast<float>(depth);
  const std::string above = surface(cell, here);
  if (!recipe_.strataOn) return acre::kUnassignedId;
  const Column column = columnOf(cell);
  size_t k = 0;
  for (const auto& [material, end] : column.layers) {
    const acre::Biome* biome = acre::biomeOf(recipe_, here.biome);
    if (biome && !biome->layersOf.empty()) biome = acre::biomeOf(recipe_, biome->layersOf);
    const auto& layers = biome && biome->layers ? *biome->layers : recipe_.layers;
    const bool ofSurface = layers[k++].material == "surface";
    if (depth - 1 < end) return ofSurface ? above : material;
  }
  double end = 0;
  for (const acre::Bed& bed : recipe_.rock.beds) {
    end += bed.thickness;
    const bool last = &bed == &recipe_.rock.beds.back();
    const float below = column.rockTop - (0.5f - static_cast<float>(depth));
    if (last || below < static_cast<float>(end)) return bed.material;
  }
  return above;
}

bool Evaluator::freeFloor(acre::Cell cell) {
  const acre::AxisBounds x = *recipe_.frame.x, z = *recipe_.frame.z;
  if (cell.x < x.min || cell.x >= x.min + x.extent || cell.z < z.min ||
      cell.z >= z.min + z.extent || depthIn(cell) > 0)
    return false;
  return std::none_of(floor().places.begin(), floor().places.end(), [&](const auto& place) {
    return place.second.x == cell.x - x.min && place.second.z == cell.z - z.min;
  });
}

int Evaluator::wallFrom(acre::Cell cell) {
  const acre::AxisBounds x = *recipe_.frame.x, z = *recipe_.frame.z;
  int least = 16;
  for (int dz = -15; dz <= 15; ++dz)
    for (int dx = -15; dx <= 15; ++dx) {
      const acre::Cell at{cell.x + dx, cell.z + dz};
      const bool open = at.x >= x.min && at.x < x.min + x.extent && at.z >= z.min &&
                        at.z < z.min + z.extent && depthIn(at) == 0;
      if (!open) least = std::min(least, std::max(std::abs(dx), std::abs(dz)));
    }
  return least;
}

CellValue Evaluator::inLevel(acre::Cell cell, bool made) {
  const int depth = depthIn(cell);
  CellValue out{depth == 0 ? 0.0f : static_cast<float>(recipe_.level->walls), land(cell).biome, {}};
  if (depth > 0) {
    out.material = recipe_.strataOn ? mineral(cell, 0, rockIn(cell, depth)) : rockIn(cell, depth);
  } else {
    out.material = recipe_.level->open;
    const auto course = floor().courses.find({static_cast<int>(cell.z - recipe_.frame.z->min),
        static_cast<int>(cell.x - recipe_.frame.x->min)});
    if (course != floor().courses.end() && !course->second.empty()) out.material = course->second;
    for (const auto& [k, at] : floor().places)
      if (at.x == cell.x - recipe_.frame.x->min && at.z == cell.z - recipe_.frame.z->min)
        if (const std::string& own = recipe_.level->places[k].material; own != acre::kUnassignedId)
          out.material = own;
  }
  if (made) return out;
  out.material = withObjects(cell, 0, out.material);
  if (recipe_.edits && recipe_.edits->seed() == recipe_.seed)
    for (const acre::Edit& edit : recipe_.edits->all())
      if (edit.x == cell.x && edit.z == cell.z && edit.y == recipe_.level->floor) {
        out.material = edit.material;
        for (const acre::Material& m : recipe_.materials)
          if (m.id == edit.material)
            out.height = m.state == acre::MaterialState::Solid
                             ? static_cast<float>(recipe_.level->walls)
                             : 0.0f;
      }
  return out;
}

std::vector<std::map<std::string, uint32_t>> Evaluator::rockOfFloor() {
  std::vector<std::map<std::string, uint32_t>> out(1);
  const acre::AxisBounds x = *recipe_.frame.x, z = *recipe_.frame.z;
  const int64_t every = (std::max(x.extent, z.extent) + 1023) / 1024;
  for (int64_t j = 0; j < z.extent; j += every)
    for (int64_t i = 0; i < x.extent; i += every) {
      const acre::Cell cell{x.min + i, z.min + j};
      if (const int depth = depthIn(cell); depth > 0) ++out[0][rockIn(cell, depth)];
    }
  return out;
}

}  // namespace reference
