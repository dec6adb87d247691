#include <algorithm>
#include <cmath>
#include <limits>
#include <vector>

#include "base/hash.h"
#include "recipe/cave_recipe.h"
#include "recipe/stages.h"
#include "recipe/water_recipe.h"
#include "reference/arithmetic.h"
#include "reference/evaluator.h"

// Caves one cell at a time: automata stepped over plain arrays about the cell, every system of
// tunnels that could be near, its passages by trying all ways through the lattice.
namespace reference {
namespace {

using acre::Cell;
using acre::Tunnels;

constexpr int64_t kDry = std::numeric_limits<int64_t>::min();

float unit(uint64_t hash) {
  return static_cast<float>(hash >> 40) / 16777216.0f;
}
float swing(uint64_t hash) {
  return unit(hash) * 2.0f - 1.0f;
}
int64_t pick(uint64_t hash, int64_t count) {
  return static_cast<int64_t>(((hash >> 32) * static_cast<uint64_t>(count)) >> 32);
}

}  // namespace

struct Evaluator::System {
  struct Point {
    float at[3];
    float radius;
  };

  bool there = false;
  int64_t site[3] = {};
  bool mouth = false;
  int64_t wetBelow = kDry;
  std::vector<std::pair<Point, Point>> stretches;
  size_t shaftFrom = 0;  // Place of the first stretch of the shaft.
  std::vector<std::vector<int>> paths;
  bool dug = false;  // The stretches are there.

  /// The lattice of one system: points in the order x, z, y.
  struct PassageLattice {
    int nx, ny, nz;
    std::vector<Point> points;
    std::vector<uint64_t> costs;
    int index(int x, int y, int z) const { return (y * nz + z) * nx + x; }

    uint64_t price(int a, int b, int axes) const {
      const uint64_t length = axes == 1 ? 256 : axes == 2 ? 362 : 443;
      return (length * (costs[static_cast<size_t>(a)] + costs[static_cast<size_t>(b)]) + 511) / 512;
    }
    template <class Visit>
    void neighbours(int at, Visit&& visit) const {
      const int x = at % nx, z = at / nx % nz, y = at / (nx * nz);
      for (int dy = -1; dy <= 1; ++dy)
        for (int dz = -1; dz <= 1; ++dz)
          for (int dx = -1; dx <= 1; ++dx) {
            if (dx == 0 && dy == 0 && dz == 0) continue;
            if (x + dx < 0 || x + dx >= nx || y + dy < 0 || y + dy >= ny || z + dz < 0 ||
                z + dz >= nz)
              continue;
            visit(index(x + dx, y + dy, z + dz), (dx != 0) + (dy != 0) + (dz != 0));
          }
    }

    /// Least prices of all points from one, then back from the goal, to the lowest index each time.
    std::vector<int> path(int from, int to) const {
      constexpr uint64_t kFar = ~uint64_t{0};
      std::vector<uint64_t> spent(points.size(), kFar);
      std::vector<int> changed = {from};
      spent[static_cast<size_t>(from)] = 0;
      while (!changed.empty()) {  // Until no point can be had more cheaply.
        std::vector<int> next;
        for (const int at : changed)
          neighbours(at, [&](int there, int axes) {
            const uint64_t sum = spent[static_cast<size_t>(at)] + price(at, there, axes);
            if (sum >= spent[static_cast<size_t>(there)]) return;
            spent[static_cast<size_t>(there)] = sum;
            next.push_back(there);
          });
        changed = std::move(next);
      }
      std::vector<int> out = {to};
      while (out.back() != from) {
        int best = -1;
        neighbours(out.back(), [&](int there, int axes) {
          if (spent[static_cast<size_t>(there)] + price(there, out.back(), axes) ==
                  spent[static_cast<size_t>(out.back())] &&
              (best < 0 || there < best))
            best = there;
        });
        out.push_back(best);
      }
      std::reverse(out.begin(), out.end());
      return out;
    }
  };
};

/// The site of a square alone: whether there is one, and where.
Evaluator::System& Evaluator::systemOf(const Tunnels& t, int64_t i, int64_t j) {
  const auto [found, fresh] = systems_.try_emplace({t.id, i, j});
  if (fresh) found->second = std::make_shared<System>();
  System& out = *found->second;
  if (!fresh) return out;
  const uint64_t stage =
      acre::combine(acre::combine(seed_, 0x54756E6E656C73u), acre::hashText(t.id));
  const uint64_t key =
      acre::combine(acre::combine(stage, static_cast<uint64_t>(i)), static_cast<uint64_t>(j));
  out.there = unit(acre::combine(key, 1)) < static_cast<float>(t.share);
  if (!out.there) return out;
  const auto side = static_cast<int64_t>(t.spacing);
  const bool plane = recipe_.frame.kind == acre::WorldKind::Side;
  out.site[0] = i * side + pick(acre::combine(key, 2), side);
  out.site[2] = plane ? 0 : j * side + pick(acre::combine(key, 3), side);
  const float surface = height({out.site[0], out.site[2]});
  out.site[1] = static_cast<int64_t>(
      std::floor(surface - (static_cast<float>(t.depth) +
                               static_cast<float>(t.depthVary) * unit(acre::combine(key, 4)))));
  return out;
}

void Evaluator::dig(const Tunnels& t, int64_t i, int64_t j, System& out) {
  if (out.dug) return;
  out.dug = true;
  const bool plane = recipe_.frame.kind == acre::WorldKind::Side;
  const bool columns = !recipe_.frame.blocks();
  const uint64_t stage =
      acre::combine(acre::combine(seed_, 0x54756E6E656C73u), acre::hashText(t.id));
  const uint64_t key =
      acre::combine(acre::combine(stage, static_cast<uint64_t>(i)), static_cast<uint64_t>(j));
  const auto draw = [&](uint64_t what) { return acre::combine(key, what); };
  const auto sea = static_cast<float>(recipe_.frame.seaLevel);
  const bool anySea = columns || !recipe_.water.material.empty();
  const auto cover = static_cast<float>(recipe_.caves->seaCover);
  const float hang =
      columns || !recipe_.overhang.on ? 0.0f : static_cast<float>(recipe_.overhang.reach);
  const auto step = static_cast<float>(t.step), bore = static_cast<float>(t.bore);
  const auto rough = static_cast<float>(t.rough);
  const auto widest = static_cast<float>(t.bore * (1 + t.boreVary));

  System::PassageLattice lattice{2 * t.side + 1, 2 * t.up + 1, plane ? 1 : 2 * t.side + 1, {}, {}};
  const int middle = lattice.index(t.side, t.up, lattice.nz / 2);
  const int count = lattice.nx * lattice.ny * lattice.nz;
  for (int n = 0; n < count && !columns; ++n) {
    const int x = n % lattice.nx - t.side, z = n / lattice.nx % lattice.nz - lattice.nz / 2,
              y = n / (lattice.nx * lattice.nz) - t.up;
    const uint64_t own = acre::combine(draw(64), static_cast<uint64_t>(n));
    const float away = static_cast<float>(t.shift) * step * 0.5f;
    const int place[3] = {x, y, z};
    System::Point p{};
    for (int a = 0; a < 3; ++a) {
      p.at[a] =
          static_cast<float>(place[a]) * step + 0.5f +
          (n == middle ? 0.0f : swing(acre::combine(own, static_cast<uint64_t>(a) + 1)) * away);
      if (a == 2 && plane) p.at[a] = 0.5f;
    }
    p.radius = bore * (1.0f + static_cast<float>(t.boreVary) * swing(acre::combine(own, 4)));
    const float ground =
        height({out.site[0] + static_cast<int64_t>(std::floor(static_cast<float>(x) * step)),
            out.site[2] + static_cast<int64_t>(std::floor(static_cast<float>(z) * step))});
    uint64_t cost = 256 + static_cast<uint64_t>(
                              static_cast<float>(t.noise) * 256.0f * unit(acre::combine(own, 5)));
    const float level = static_cast<float>(out.site[1]) + p.at[1];
    const float far = widest * (1.0f + rough);
    const float under = level - far - 1.0f;
    const float over = anySea && under < sea ? hang : 0.0f;
    if (level + far + 1.0f + cover + over > ground ||
        under < static_cast<float>(recipe_.frame.y.min))
      cost = 65536;
    lattice.points.push_back(p);
    lattice.costs.push_back(cost);
  }
  if (!columns && lattice.costs[static_cast<size_t>(middle)] == 65536) {
    out.there = false;
    return;
  }

  std::vector<std::vector<int>>& taken = out.paths;
  const auto passage = [&](const System::PassageLattice& by, int from, int to) {
    const auto closed = [&](int n) { return by.costs[static_cast<size_t>(n)] == 65536; };
    if (from == to || closed(from) || closed(to)) return false;
    const std::vector<int> path = by.path(from, to);
    if (std::any_of(path.begin(), path.end(), closed)) return false;
    taken.push_back(path);
    for (size_t k = 0; k + 1 < path.size(); ++k)
      out.stretches.push_back(
          {by.points[static_cast<size_t>(path[k])], by.points[static_cast<size_t>(path[k + 1])]});
    return true;
  };
  const auto nearest = [&](float x, float z, int level) {
    const auto at = [&](float v, int number) {
      return std::min(
          number - 1, std::max(0, static_cast<int>(std::floor(v / step + 0.5f)) + number / 2));
    };
    return lattice.index(at(x, lattice.nx), level, plane ? 0 : at(z, lattice.nz));
  };
  const auto square = [&](int a, int b) {
    const System::Point &p = lattice.points[static_cast<size_t>(a)],
                        &q = lattice.points[static_cast<size_t>(b)];
    const float x = p.at[0] - q.at[0], y = p.at[1] - q.at[1], z = p.at[2] - q.at[2];
    return (x * x + y * y) + z * z;
  };
  const auto keepingOff = [&](int from) {
    System::PassageLattice dear = lattice;
    const auto gap = static_cast<float>(t.gap);
    for (int n = 0; n < count; ++n)
      for (const auto& path : taken)
        for (const int other : path)
          if (square(n, other) < gap * gap && (from < 0 || square(n, from) >= gap * gap))
            dear.costs[static_cast<size_t>(n)] = 65536;
    return dear;
  };
  const auto direction = [&](uint64_t a, uint64_t b) {
    const float x = swing(draw(a)), z = plane ? 0.0f : swing(draw(b));
    const float length = std::sqrt(x * x + z * z);
    return length < 0.05f ? std::pair(1.0f, 0.0f) : std::pair(x / length, z / length);
  };
  const auto lower = [&](uint64_t what) { return static_cast<int>(pick(draw(what), t.up + 1)); };
  float ax = 1, az = 0;
  for (uint64_t d = 0; d < 4000 && taken.empty() && !columns; d += 1000) {
    std::tie(ax, az) = direction(d + 5, d + 6);
    const auto length = static_cast<float>(t.length);
    passage(lattice, middle, nearest(ax * length, az * length, lower(d + 7)));
  }
  out.there = columns || !taken.empty();
  if (!out.there) return;
  bool more = false;
  for (uint64_t k = 0; k < static_cast<uint64_t>(t.arms); ++k) {
    more = t.arm > 0 && !columns;
    for (uint64_t d = 8000 * k; d < 8000 * k + 4000 && more; d += 1000) {
      const auto& main = taken.front();
      const auto number = static_cast<int64_t>(main.size());
      const int from = main[static_cast<size_t>(
          number / 3 + pick(draw(d + 8), std::max<int64_t>(1, number / 3)))];
      const float side = (draw(d + 9) >> 63) != 0 ? 1.0f : -1.0f;
      float x = -az * side + ax * 0.4f, z = ax * side + az * 0.4f;
      if (plane) x = -ax, z = 0;
      const float far = std::sqrt(x * x + z * z), arm = static_cast<float>(t.arm);
      const System::Point& leave = lattice.points[static_cast<size_t>(from)];
      more = !passage(keepingOff(from), from,
          nearest(leave.at[0] + x / far * arm, leave.at[2] + z / far * arm, lower(d + 10)));
    }
  }
  for (uint64_t k = 0; k < static_cast<uint64_t>(t.independent); ++k) {
    more = t.apart > 0 && !columns;
    for (uint64_t d = 8000 * k; d < 8000 * k + 4000 && more; d += 1000) {
      const auto [ox, oz] = direction(d + 13, d + 14);
      const float half = static_cast<float>(t.apart) * 0.5f;
      const float room = static_cast<float>(t.side) * step * 0.5f;
      const float x = swing(draw(d + 11)) * room, z = plane ? 0.0f : swing(draw(d + 12)) * room;
      more = !passage(keepingOff(-1), nearest(x - ox * half, z - oz * half, lower(d + 15)),
          nearest(x + ox * half, z + oz * half, lower(d + 16)));
    }
  }
  float low = 0, high = 0;
  for (const auto& [a, b] : out.stretches)
    for (const System::Point& p : {a, b}) {
      low = std::min(low, p.at[1] - p.radius);
      high = std::max(high, p.at[1] + p.radius);
    }
  if (!t.water.empty() && t.flooded > 0)
    out.wetBelow = out.site[1] + static_cast<int64_t>(std::floor(
                                     low + (high - low) * static_cast<float>(t.flooded)));

  out.mouth = unit(draw(17)) < static_cast<float>(t.mouths);
  const auto mouth = static_cast<float>(t.mouth);
  if (out.mouth && anySea) {
    const bool deep = static_cast<float>(out.site[1]) - mouth * (1.0f + rough) - 1.0f < sea;
    const float least = sea + 1.0f + (deep ? cover + hang + 1.0f : 0.0f);
    const auto r = static_cast<int64_t>(std::ceil(mouth * (1.0f + rough))) + 2;
    for (int64_t dz = plane ? 0 : -r; dz <= (plane ? 0 : r); ++dz)
      for (int64_t dx = -r; dx <= r && out.mouth; ++dx)
        out.mouth = height({out.site[0] + dx, out.site[2] + dz}) >= least;
  }
  out.shaftFrom = out.stretches.size();
  if (!out.mouth || columns) return;
  System::Point last = lattice.points[static_cast<size_t>(middle)];
  const float foot = last.at[1];
  const float top =
      height({out.site[0], out.site[2]}) - static_cast<float>(out.site[1]) + hang + 1.0f;
  const auto up = [&](float y, float radius) {
    System::Point next = last;
    next.at[1] = y;
    next.radius = radius;
    out.stretches.push_back({last, next});
    last = next;
  };
  const float bend = top - hang - mouth * 2.0f, lip = top - hang - 1.0f;
  if (bend > foot + 1.0f) up(bend, last.radius);
  if (lip > foot + 1.0f) up(lip, mouth);
  up(std::max(top, foot + 1.0f), mouth);
}

std::vector<std::vector<int>> Evaluator::passages(const Tunnels& t, int64_t i, int64_t j) {
  System& system = systemOf(t, i, j);
  if (system.there) dig(t, i, j, system);
  return system.there ? system.paths : std::vector<std::vector<int>>();
}

bool Evaluator::bored(const Tunnels& t, Cell cell, int64_t y, bool shafts, bool& wet) {
  const double box =
      t.side * t.step + t.shift * t.step / 2 + t.bore * (1 + t.boreVary) * (1 + t.rough);
  const auto reach = static_cast<int64_t>(std::ceil(std::max(box, t.mouth * (1 + t.rough)))) + 1;
  const auto side = static_cast<int64_t>(t.spacing);
  const bool plane = recipe_.frame.kind == acre::WorldKind::Side;
  const uint64_t stage =
      acre::combine(acre::combine(seed_, 0x54756E6E656C73u), acre::hashText(t.id));
  acre::NoiseSource walls;
  walls.fractal = acre::Fractal::Single;
  walls.width = 6;
  bool any = false;
  std::optional<float> stray;
  for (int64_t j = plane ? 0 : floorOf(cell.z - reach, side);
       j <= (plane ? 0 : floorOf(cell.z + reach, side)); ++j)
    for (int64_t i = floorOf(cell.x - reach, side); i <= floorOf(cell.x + reach, side); ++i) {
      System& system = systemOf(t, i, j);
      if (!system.there) continue;
      const int64_t dx = cell.x - system.site[0], dz = cell.z - system.site[2];
      // Passages keep to the box, shafts to the site.
      const auto tall = static_cast<int64_t>(t.up * t.step + box - t.side * t.step) + 2;
      if (std::abs(dx) > reach || std::abs(dz) > reach || y < system.site[1] - tall) continue;
      const auto wide =
          static_cast<int64_t>(t.mouth * (1 + t.rough)) + 4 + static_cast<int64_t>(t.bore * 4);
      if (y > system.site[1] + tall && (std::abs(dx) > wide || std::abs(dz) > wide)) continue;
      dig(t, i, j, system);
      if (!system.there) continue;
      for (size_t k = shafts ? system.shaftFrom : 0; k < system.stretches.size(); ++k) {
        const auto& [a, b] = system.stretches[k];
        const float p[3] = {static_cast<float>(dx) + 0.5f,
            static_cast<float>(y - system.site[1]) + 0.5f, static_cast<float>(dz) + 0.5f};
        float along[3], from[3];
        for (int n = 0; n < 3; ++n) {
          along[n] = b.at[n] - a.at[n];
          from[n] = p[n] - a.at[n];
        }
        const auto dot = [](const float* u, const float* v) {
          return (u[0] * v[0] + u[1] * v[1]) + u[2] * v[2];
        };
        const float length = dot(along, along);
        const float share =
            std::clamp(dot(from, along) * (length > 0 ? 1.0f / length : 0.0f), 0.0f, 1.0f);
        for (int n = 0; n < 3; ++n) from[n] = from[n] - along[n] * share;
        if (!stray)
          stray = 1.0f + static_cast<float>(t.rough) *
                             std::clamp(noise(walls, 3, acre::combine(stage, 1), {},
                                            {{cell.x, y, cell.z}, {0, 0, 0}}),
                                 -1.0f, 1.0f);
        const float r = (a.radius + (b.radius - a.radius) * share) * *stray;
        if (dot(from, from) > r * r) continue;
        any = true;
        wet = wet || y < system.wetBelow;
      }
    }
  return any;
}

bool Evaluator::openVoid(const acre::NoiseVoid& part, Cell cell, int64_t y, float depth) const {
  const float factor = part.curve.empty() ? 1.0f : curveAt(part.curve, depth);
  const uint64_t own = acre::combine(acre::combine(seed_, 0x566F696473u), acre::hashText(part.id));
  const auto within = [&](const acre::NoiseBand& band, uint64_t which) {
    const float v =
        noise(band.noise, 3, acre::combine(own, which), {}, {{cell.x, y, cell.z}, {0, 0, 0}});
    return std::abs(v - static_cast<float>((band.low + band.high) / 2)) <
           static_cast<float>((band.high - band.low) / 2) * factor;
  };
  return depth >= 0 && within(part.first, 1) && (!part.second || within(*part.second, 2));
}

bool Evaluator::openAutomaton(const acre::AutomatonLayer& layer, Cell cell, int64_t y) const {
  int64_t bottom = static_cast<int64_t>(layer.bottom), top = static_cast<int64_t>(layer.top);
  int64_t level = y;
  if (!layer.volume) {
    level = -1;
    for (size_t k = 0; k < layer.floors.size() && level < 0; ++k)
      if (y >= static_cast<int64_t>(layer.floors[k]) &&
          y < static_cast<int64_t>(layer.floors[k]) + layer.tall)
        level = static_cast<int64_t>(k);
    bottom = level;
    top = level + 1;
    if (level < 0) return false;
  }
  if (level < bottom || level >= top) return false;
  // The rule, count by count.
  const int most = layer.volume ? 26 : 8;
  std::vector<bool> rule[2] = {std::vector<bool>(static_cast<size_t>(most) + 1),
      std::vector<bool>(static_cast<size_t>(most) + 1)};
  const size_t slash = layer.rule.find('/');
  for (const int half : {0, 1}) {
    std::string text = half == 0 ? layer.rule.substr(1, slash - 1) : layer.rule.substr(slash + 2);
    if (!layer.volume) {
      for (const char c : text) rule[half][static_cast<size_t>(c - '0')] = true;
      continue;
    }
    while (!text.empty()) {
      const std::string part = text.substr(0, text.find(','));
      text = part.size() < text.size() ? text.substr(part.size() + 1) : "";
      const size_t dash = part.find('-');
      const int low = part[0] == '>' ? std::stoi(part.substr(1)) + 1 : std::stoi(part);
      const int high = part[0] == '>'              ? most
                       : dash == std::string::npos ? low
                                                   : std::stoi(part.substr(dash + 1));
      for (int n = low; n <= high; ++n) rule[half][static_cast<size_t>(n)] = true;
    }
  }
  const int n = layer.steps, wide = 2 * n + 1;
  const uint64_t seed =
      acre::combine(acre::combine(seed_, 0x4175746F6D617461u), acre::hashText(layer.id));
  const auto threshold = static_cast<uint64_t>(std::floor(layer.fill * 4294967296.0));
  const int64_t first = std::max(bottom, level - n), last = std::min(top, level + n + 1);
  const auto tall = static_cast<int>(last - first);
  const auto place = [&](int x, int z, int64_t at) {
    return static_cast<size_t>((static_cast<int>(at - first) * wide + z) * wide + x);
  };
  std::vector<bool> solid(static_cast<size_t>(wide * wide * tall));
  for (int64_t at = first; at < last; ++at)
    for (int z = 0; z < wide; ++z)
      for (int x = 0; x < wide; ++x) {
        const uint64_t row = acre::combine(
            acre::combine(seed, static_cast<uint64_t>(at)), static_cast<uint64_t>(cell.z - n + z));
        solid[place(x, z, at)] =
            acre::mix64(row + static_cast<uint64_t>(cell.x - n + x) * 0x9E3779B97F4A7C15u) >> 32 <
            threshold;
      }
  for (int step = 0; step < n; ++step) {
    std::vector<bool> next = solid;
    const int rim = step + 1;  // What is nearer to the edge is not known any more.
    for (int64_t at = first; at < last; ++at)
      for (int z = rim; z < wide - rim; ++z)
        for (int x = rim; x < wide - rim; ++x) {
          const bool edge = layer.volume && (at == bottom || at == top - 1);
          if (edge && layer.edge == acre::AutomatonLayer::Edge::Left) continue;
          int count = 0;
          for (int64_t dy = layer.volume ? -1 : 0; dy <= (layer.volume ? 1 : 0); ++dy)
            for (int dz = -1; dz <= 1; ++dz)
              for (int dx = -1; dx <= 1; ++dx) {
                if (dx == 0 && dy == 0 && dz == 0) continue;
                if (at + dy < bottom || at + dy >= top)
                  count += layer.edge == acre::AutomatonLayer::Edge::Filled;
                else if (at + dy >= first && at + dy < last)
                  count += solid[place(x + dx, z + dz, at + dy)];
              }
          next[place(x, z, at)] = rule[solid[place(x, z, at)] ? 1 : 0][static_cast<size_t>(count)];
        }
    solid = std::move(next);
  }
  return !solid[place(n, n, level)];
}

std::string Evaluator::held(Cell cell, int64_t y, bool shafts) {
  const acre::Caves& caves = *recipe_.caves;
  const float ground = height(cell), depth = ground - static_cast<float>(y + 1);
  const auto keptOff = [&] {
    const bool atSea = !recipe_.water.material.empty() &&
                       static_cast<float>(y) < static_cast<float>(recipe_.frame.seaLevel);
    const bool rivers = acre::takesPart(recipe_, acre::StageId::Water);
    const std::optional<int64_t> held = rivers ? water(cell).held : std::nullopt;
    if (!atSea && !(held && y < *held)) return false;
    float lowest = ground;
    for (const auto& [dx, dz] : {std::pair(-1, 0), {1, 0}, {0, -1}, {0, 1}})
      lowest = std::min(lowest, height({cell.x + dx, cell.z + dz}));
    const float keep = static_cast<float>(caves.seaCover) +
                       (recipe_.overhang.on ? static_cast<float>(recipe_.overhang.reach) : 0.0f);
    return static_cast<float>(y + 1) > lowest - keep;
  };
  for (const Tunnels& t : caves.tunnels) {
    bool wet = false;
    if (t.on && bored(t, cell, y, shafts, wet) && !keptOff()) return wet ? t.water : "open";
  }
  for (const acre::NoiseVoid& part : caves.voids)
    if (part.on && openVoid(part, cell, y, depth) && (part.underSea || !keptOff())) return "open";
  for (const acre::AutomatonLayer& layer : caves.automata)
    if (layer.on && depth >= static_cast<float>(layer.cover) && openAutomaton(layer, cell, y) &&
        !keptOff())
      return "open";
  return "";
}

std::string Evaluator::dug(Cell cell, int64_t y, const std::string& ground) {
  const acre::Caves& caves = *recipe_.caves;
  if (!caves.on || ground == "open" || ground == recipe_.water.material ||
      (!recipe_.rivers->water.empty() && ground == recipe_.rivers->water))
    return ground;
  if (const std::string here = held(cell, y); !here.empty()) return here;
  if (caves.kinds.empty()) return ground;
  const bool floor = !held(cell, y + 1).empty();
  bool wall = floor || !held(cell, y - 1).empty();
  for (const auto& [dx, dz] : {std::pair(-1, 0), {1, 0}, {0, -1}, {0, 1}})
    wall = wall || !held({cell.x + dx, cell.z + dz}, y).empty();
  if (!wall) return ground;
  const float depth = height(cell) - static_cast<float>(y + 1);
  for (const acre::CaveKind& kind : caves.kinds) {
    if (kind.from && depth < static_cast<float>(*kind.from)) continue;
    if (kind.to && depth >= static_cast<float>(*kind.to)) continue;
    if (kind.wetFrom || kind.wetTo) {
      const float wet = field(acre::kMoistureId, cell);
      if (kind.wetFrom && wet < static_cast<float>(*kind.wetFrom)) continue;
      if (kind.wetTo && wet >= static_cast<float>(*kind.wetTo)) continue;
    }
    const std::string& lined = floor ? kind.floor : kind.wall;
    return lined.empty() ? ground : lined;
  }
  return ground;
}

float Evaluator::mouthFrom(Cell cell) {
  float nearest = 32;
  const acre::Caves& caves = *recipe_.caves;
  if (!acre::takesPart(recipe_, acre::StageId::Caves)) return nearest;
  for (const Tunnels& t : caves.tunnels) {
    if (!t.on) continue;
    const auto side = static_cast<int64_t>(t.spacing);
    const auto mouth = static_cast<float>(t.mouth);
    const auto far = static_cast<int64_t>(32 + mouth) + 1;
    const bool plane = recipe_.frame.kind == acre::WorldKind::Side;
    for (int64_t j = plane ? 0 : floorOf(cell.z - far, side);
         j <= (plane ? 0 : floorOf(cell.z + far, side)); ++j)
      for (int64_t i = floorOf(cell.x - far, side); i <= floorOf(cell.x + far, side); ++i) {
        System& system = systemOf(t, i, j);
        if (!system.there) continue;
        const auto x = static_cast<float>(cell.x - system.site[0]),
                   z = static_cast<float>(cell.z - system.site[2]);
        const float away = std::max(0.0f, std::sqrt(x * x + z * z) - mouth);
        if (away >= nearest) continue;
        dig(t, i, j, system);
        if (system.there && system.mouth) nearest = away;
      }
  }
  return nearest;
}

bool Evaluator::opening(Cell cell) {
  const acre::Caves& caves = *recipe_.caves;
  if (!caves.on || caves.opening.empty() || recipe_.frame.blocks()) return false;
  for (const Tunnels& t : caves.tunnels) {
    if (!t.on) continue;
    const auto side = static_cast<int64_t>(t.spacing);
    const float widest = static_cast<float>(t.mouth) * (1.0f + static_cast<float>(t.rough));
    const auto far = static_cast<int64_t>(widest) + 1;
    const uint64_t stage =
        acre::combine(acre::combine(seed_, 0x54756E6E656C73u), acre::hashText(t.id));
    acre::NoiseSource walls;
    walls.fractal = acre::Fractal::Single;
    walls.width = 6;
    for (int64_t j = floorOf(cell.z - far, side); j <= floorOf(cell.z + far, side); ++j)
      for (int64_t i = floorOf(cell.x - far, side); i <= floorOf(cell.x + far, side); ++i) {
        System& system = systemOf(t, i, j);
        if (!system.there) continue;
        const auto x = static_cast<float>(cell.x - system.site[0]),
                   z = static_cast<float>(cell.z - system.site[2]);
        if (x * x + z * z > widest * widest) continue;
        dig(t, i, j, system);
        if (!system.mouth) continue;
        const float stray =
            1.0f + static_cast<float>(t.rough) *
                       std::clamp(noise(walls, 3, acre::combine(stage, 1), {},
                                      {{cell.x, system.site[1], cell.z}, {0, 0, 0}}),
                           -1.0f, 1.0f);
        const float r = static_cast<float>(t.mouth) * stray;
        if (x * x + z * z <= r * r) return true;
      }
  }
  return false;
}

}  // namespace reference
