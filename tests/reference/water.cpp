// The stage Water, from docs/maths.md: every node by itself, remembered by its numbers.
#include <algorithm>
#include <cmath>
#include <functional>
#include <optional>
#include <set>

#include "base/hash.h"
#include "recipe/stages.h"
#include "recipe/water_recipe.h"
#include "reference/arithmetic.h"
#include "reference/evaluator.h"

namespace reference {
namespace drains {

using Node = std::pair<int64_t, int64_t>;  // i, j.
struct Key {
  int64_t f = 0, b = 0;
  uint64_t h = 0;
  Node n;
  bool operator<(const Key& o) const { return std::tie(f, b, h, n) < std::tie(o.f, o.b, o.h, o.n); }
};
struct Grain {
  int64_t x = 0, z = 0;
};
constexpr int64_t kSeaF = INT64_MIN / 2;

inline int64_t rootOf(int64_t v) {
  int64_t low = 0, high = int64_t{1} << 26;
  while (low < high) {
    const int64_t half = (low + high + 1) / 2;
    (half * half <= v ? low : high) = half * half <= v ? half : half - 1;
  }
  return low;
}
int64_t scaled(double v) {
  return static_cast<int64_t>(std::floor(v * 256 + 0.5));
}
std::vector<Node> beside(Node n) {
  const auto [i, j] = n;
  if (j % 2 == 0)
    return {{i + 1, j}, {i, j + 1}, {i - 1, j + 1}, {i - 1, j}, {i - 1, j - 1}, {i, j - 1}};
  return {{i + 1, j}, {i + 1, j + 1}, {i, j + 1}, {i - 1, j}, {i, j - 1}, {i + 1, j - 1}};
}
Grain middleOf(Node n) {
  const int64_t odd = n.second % 2 == 0 ? 0 : 1;
  return {32 * n.first + 16 * odd + 16, 28 * n.second + 14};
}
Node brickAt(int64_t x, int64_t z) {
  const int64_t j = floorOf(z, 28);
  return {floorOf(x - (j % 2 == 0 ? 0 : 16), 32), j};
}
uint64_t hashOf(uint64_t seed, Node n) {
  return acre::combine(
      acre::combine(seed, static_cast<uint64_t>(n.first)), static_cast<uint64_t>(n.second));
}
bool rowFirst(Node a, Node b) {
  return std::pair(a.second, a.first) < std::pair(b.second, b.first);
}
Grain mid(Grain a, Grain b) {
  return {floorOf(a.x + b.x, 2), floorOf(a.z + b.z, 2)};
}

/// Least first.
template <class T>
T takeLeast(std::vector<T>& from) {
  const auto least = std::min_element(from.begin(), from.end());
  const T out = *least;
  from.erase(least);
  return out;
}

}  // namespace drains

using namespace drains;

struct Evaluator::Waters {
  struct Lake {
    Node p;
    int64_t z = 0;
    bool closed = false;
    std::vector<Node> nodes;
  };
  struct Ground {
    int64_t low = 0, base = 0;
    uint64_t hash = 0;
    Grain node, bottom;
  };
  struct Level {
    Key key;
    bool sea = false, lake = false;
  };
  struct Flow {
    enum { On, Sea, InLake, Sink } is = Sink;
    bool onOutlet = false;
    Node next;
    int64_t level = 0;
  };
  struct Point {
    float x, z, radius, level;  // In cells, but x and z in 1/16.
  };
  struct Piece {
    std::vector<Grain> places;  // In 1/16 cells from the cell (0, 0).
    std::vector<float> radii, levels;
  };
  struct Found {
    std::string kind = "dry";
    float height = 0;
    int64_t level = 0;
    float shore = 46;
    uint64_t hash = 0;  ///< Of what its water belongs to.
  };

  Evaluator& land;
  const acre::Rivers& r;
  uint64_t seed;
  int64_t sea, above;
  float seaLevel;
  int64_t scale;  ///< Cells of the world that one of the network stands for.

  explicit Waters(Evaluator& of, int64_t times = 1)
      : land(of),
        r(*of.recipe_.rivers),
        seed(acre::combine(of.seed_, 0x5761746572u)),
        sea(scaled(static_cast<double>(static_cast<float>(of.recipe_.frame.seaLevel)))),
        above(-floorOf(-sea, 256) * 256),
        seaLevel(static_cast<float>(of.recipe_.frame.seaLevel)),
        scale(times) {}

  // ---- nodes -----------------------------------------------------------------------------------

  std::map<std::pair<int64_t, int64_t>, float> heights;
  float before(int64_t x, int64_t z) {
    const auto known = heights.find({x, z});
    if (known != heights.end()) return known->second;
    return heights[{x, z}] = land.unshaped({scale * x, scale * z}).height;
  }
  int64_t b(int64_t x, int64_t z) {
    const double v = std::floor(static_cast<double>(before(x, z)) * 256);
    return static_cast<int64_t>(std::clamp(v, -0x1p30, 0x1p30));
  }

  std::map<Node, Ground> grounds;
  const Ground& ground(Node n) {
    const auto known = grounds.find(n);
    if (known != grounds.end()) return known->second;
    Ground g;
    const Grain m = middleOf(n);
    g.hash = hashOf(seed, n);
    for (uint64_t k = 0; k < 3; ++k) {
      const uint64_t d = acre::combine(g.hash, k);
      const Grain at{m.x + static_cast<int64_t>((d >> 32) * 27 >> 32) - 13,
          m.z + static_cast<int64_t>((d & 0xFFFFFFFF) * 25 >> 32) - 12};
      const int64_t near = b(floorOf(at.x + 4, 8) * 8, floorOf(at.z + 4, 8) * 8);
      if (k > 0 && near >= g.base) continue;
      g.base = near;
      g.node = at;
    }
    g.low = INT64_MAX;
    for (int64_t dz = -34; dz <= 34; ++dz)
      for (int64_t dx = -34; dx <= 34; ++dx) {
        const int64_t x = m.x + dx, z = m.z + dz;
        if (x % 8 != 0 || z % 8 != 0 || dx * dx + dz * dz > 34 * 34 || b(x, z) >= g.low) continue;
        g.low = b(x, z);
        g.bottom = {x, z};
      }
    g.low -= 128;
    return grounds[n] = g;
  }
  Key low(Node n) {
    const Ground& g = ground(n);
    return {g.low, g.base, g.hash, n};
  }
  int64_t distance(Node p, Node q) {
    const Grain a = ground(p).node, c = ground(q).node;
    return rootOf(65536 * ((a.x - c.x) * (a.x - c.x) + (a.z - c.z) * (a.z - c.z)));
  }

  /// The nodes below the sea level that a node is joined to; as many as decide it.
  std::vector<Node> joined(Node n) {
    std::vector<Node> all = {n};
    std::set<Node> seen = {n};
    for (size_t k = 0; k < all.size() && all.size() < 24; ++k)
      for (const Node& next : beside(all[k]))
        if (ground(next).low < sea && seen.insert(next).second) all.push_back(next);
    return all;
  }
  std::map<Node, bool> seas;
  bool isSea(Node n) {
    if (ground(n).low >= sea) return false;
    const auto known = seas.find(n);
    if (known != seas.end()) return known->second;
    const std::vector<Node> all = joined(n);
    bool is = all.size() >= 24;
    Node lowest = n;
    for (const Node& m : all)
      if (low(m) < low(lowest)) lowest = m;
    for (const Node& m : all)
      is = is || std::abs(m.first - lowest.first) > 10 || std::abs(m.second - lowest.second) > 10;
    return seas[n] = is;
  }

  // ---- lakes -----------------------------------------------------------------------------------

  /// Of a hollow: its lake, and that which it gets if it finds no outlet.
  using Hollow = std::pair<std::optional<Lake>, std::optional<Lake>>;
  std::map<Node, Hollow> hollows;
  const Hollow& hollow(Node p) {
    const auto known = hollows.find(p);
    if (known != hollows.end()) return known->second;
    Hollow& out = hollows[p];
    if (isSea(p)) return out;
    for (const Node& n : beside(p))
      if (low(n) < low(p)) return out;
    std::vector<Key> front = {low(p)}, flooded;
    std::set<Node> seen = {p};
    bool touched = false;
    int64_t spill = low(p).f;
    while (!front.empty() && !touched) {
      const Key now = takeLeast(front);
      if (now < low(p)) break;
      flooded.push_back(now);
      spill = std::max(spill, now.f);
      touched = std::abs(now.n.first - p.first) == 10 || std::abs(now.n.second - p.second) == 10;
      if (touched) break;
      for (const Node& n : beside(now.n))
        if (seen.insert(n).second) front.push_back(low(n));
    }
    const int64_t bottom = low(p).f, depth = spill - bottom, carve = scaled(r.carve);
    const auto chance = [&](uint64_t n, double share) {
      return static_cast<int64_t>(acre::combine(ground(p).hash, n) >> 40) <
             static_cast<int64_t>(std::floor(share * 0x1p24 + 0.5));
    };
    const auto upTo = [&](int64_t z) {
      std::vector<Node> nodes;
      for (const Key& key : flooded) {
        if (key.f >= z) break;
        nodes.push_back(key.n);
      }
      return nodes;
    };
    const bool wanted = chance(3, r.lakes) && depth >= 512;
    Lake lake{p, kSeaF, false, {}};
    if (wanted) {
      lake.z = spill - 154;
      lake.closed = chance(4, r.closed);
      if (lake.closed) lake.z = bottom + floorOf(depth * 3, 5);
    } else if (depth > carve) {
      lake.z = spill - floorOf(carve * 3, 4);
    }
    if (touched && !wanted) lake.z = std::max(lake.z, bottom + floorOf(depth * 3, 5));
    lake.z = floorOf(lake.z, 256) * 256;
    lake.nodes = upTo(lake.z);
    bool there = lake.z > bottom && !(lake.nodes.size() < 3 && depth <= carve && !touched);
    if (bottom < sea && !(there && lake.z >= sea)) {
      const std::vector<Node> puddle = joined(p);
      bool lowest = true;
      for (const Node& n : puddle) lowest = lowest && !(low(n) < low(p));
      if (lowest) {
        lake = {p, above, false, puddle};
        there = true;
      }
    }
    if (there) {
      out.first = lake;
    } else {
      const int64_t z = floorOf(spill, 256) * 256;
      if (z > bottom && !upTo(z).empty()) out.second = Lake{p, z, false, upTo(z)};
    }
    return out;
  }

  /// The lake of a hollow in a round.
  std::optional<Lake> lakeOf(Node p, int round) {
    const Hollow& h = hollow(p);
    if (h.first || round == 0 || !h.second) return h.first;
    const auto lost = outlet(p, 0);
    return lost && lost->empty() ? h.second : std::nullopt;
  }

  std::map<Node, Level> levels[2];
  Level level(Node n, int round) {
    const auto known = levels[round].find(n);
    if (known != levels[round].end()) return known->second;
    Level out{low(n), false, false};
    if (isSea(n)) {
      out.sea = true;
      out.key.f = kSeaF;
    } else {
      // Whatever lake it may belong to has its hollow so near.
      for (int64_t j = n.second - 10; j <= n.second + 10; ++j)
        for (int64_t i = n.first - 10; i <= n.first + 10; ++i) {
          const auto lake = lakeOf({i, j}, round);
          if (!lake || std::find(lake->nodes.begin(), lake->nodes.end(), n) == lake->nodes.end())
            continue;
          Key key = low({i, j});
          const bool higher =
              !out.lake || lake->z > out.key.f || (lake->z == out.key.f && key < low(out.key.n));
          key.f = lake->z;
          if (higher) out.key = key;
          out.lake = true;
        }
    }
    return levels[round][n] = out;
  }

  // ---- outlets ---------------------------------------------------------------------------------

  /// From every node of a lake: how far it is to its hollow, and over which node.
  std::map<Node, std::pair<int64_t, Node>> waysIn(const Lake& lake) {
    std::map<Node, std::pair<int64_t, Node>> ways;
    std::vector<std::tuple<int64_t, int64_t, int64_t, int64_t, int64_t>>
        front;  // Length, from, at.
    front.emplace_back(0, lake.p.second, lake.p.first, lake.p.second, lake.p.first);
    while (!front.empty()) {
      const auto [length, fromJ, fromI, j, i] = takeLeast(front);
      const Node n{i, j};
      if (!ways.emplace(n, std::pair(length, Node{fromI, fromJ})).second) continue;
      for (const Node& next : beside(n)) {
        if (ways.count(next) ||
            std::find(lake.nodes.begin(), lake.nodes.end(), next) == lake.nodes.end())
          continue;
        front.emplace_back(length + distance(n, next) * (ground(next).base >= lake.z ? 3 : 1), j, i,
            next.second, next.first);
      }
    }
    return ways;
  }

  /// The outlet that begins at a node: nothing if none is looked for there, empty if none is found.
  using Way = std::vector<Node>;
  std::map<Node, std::optional<Way>> outlets[2];
  std::optional<Way> outlet(Node p, int round) {
    const auto known = outlets[round].find(p);
    if (known != outlets[round].end()) return known->second;
    std::optional<Way> out;
    const Level own = level(p, round);
    const auto lake = lakeOf(p, round);
    if (own.lake && own.key.n == p && lake) {
      out = lake->closed ? Way() : search(p, round, scaled(r.carve), &*lake);
    } else if (!own.lake && !own.sea) {
      bool pit = true;
      for (const Node& n : beside(p)) pit = pit && !(level(n, round).key < own.key);
      if (pit) {
        out = search(p, round, scaled(r.carve), nullptr);
        if (out->empty()) out = search(p, round, floorOf(scaled(r.carve) * 5, 2), nullptr);
      }
    }
    return outlets[round][p] = out;
  }
  Way search(Node p, int round, int64_t carve, const Lake* lake) {
    const Key own = level(p, round).key;
    std::map<Node, std::pair<int64_t, std::optional<Node>>> best;
    using Entry = std::tuple<int64_t, int64_t, int64_t>;  // Cost, j, i.
    std::vector<Entry> front;
    std::set<Node> done;
    if (lake) {
      for (const auto& [n, way] : waysIn(*lake))
        if (const Level at = level(n, round); at.lake && at.key.n == p) {
          best[n] = {floorOf(way.first * 3, 10), std::nullopt};
          front.emplace_back(best[n].first, n.second, n.first);
        }
    } else {
      best[p] = {0, std::nullopt};
      front.emplace_back(0, p.second, p.first);
    }
    while (!front.empty()) {
      const auto [cost, j, i] = takeLeast(front);
      const Node n{i, j};
      if (!done.insert(n).second) continue;
      if (level(n, round).key < own) {
        Way way;
        for (std::optional<Node> at = n; at; at = best[*at].second) way.push_back(*at);
        std::reverse(way.begin(), way.end());
        return way;
      }
      for (const Node& next : beside(n)) {
        if (std::abs(next.first - p.first) > 16 || std::abs(next.second - p.second) > 16) continue;
        if (done.count(next)) continue;
        const Level there = level(next, round);
        const bool lower = there.key < own;
        const int64_t e = std::max<int64_t>(0, there.key.f - own.f);
        if (!lower && (there.lake || there.key.f - own.f > carve)) continue;
        const int64_t step = distance(n, next);
        const int64_t to = cost + (lower ? step : (step * ((int64_t{1} << 18) + e * e)) >> 18);
        const auto known = best.find(next);
        if (known != best.end()) {
          if (to > known->second.first) continue;
          if (to == known->second.first &&
              (!known->second.second || !rowFirst(n, *known->second.second)))
            continue;
        }
        best[next] = {to, n};
        front.emplace_back(to, next.second, next.first);
      }
    }
    return {};
  }

  // ---- flow ------------------------------------------------------------------------------------

  std::map<Node, Flow> flows[2];  // Before capture, and after.
  Flow flow(Node n, int when) {
    const auto known = flows[when].find(n);
    if (known != flows[when].end()) return known->second;
    return flows[when][n] = when == 0 ? first(n) : captured(n);
  }
  Flow first(Node n) {
    Flow out;
    const Level own = level(n, 1);
    out.next = n;
    out.level = own.sea ? above : own.key.f;
    if (own.sea) return out.is = Flow::Sea, out;
    if (own.lake) return out.is = Flow::InLake, out.next = own.key.n, out;
    std::optional<Key> owner;
    for (int64_t j = n.second - 16; j <= n.second + 16; ++j)
      for (int64_t i = n.first - 16; i <= n.first + 16; ++i) {
        const auto way = outlet({i, j}, 1);
        if (!way || way->empty()) continue;
        const auto at = std::find(way->begin(), way->end() - 1, n);
        const Key key = level({i, j}, 1).key;
        if (at == way->end() - 1 || (owner && !(key < *owner))) continue;
        owner = key;
        out.next = at[1];
      }
    if (owner) {
      out.is = Flow::On;
      out.onOutlet = true;
      out.level = owner->f;
    } else {
      std::optional<std::pair<int64_t, Key>> best;
      for (const Node& next : beside(n)) {
        const Level there = level(next, 1);
        if (!(there.key < own.key)) continue;
        const int64_t f = there.sea ? std::min(ground(next).low, sea) : there.key.f;
        const int64_t fall = floorOf(256 * (own.key.f - f), distance(n, next));
        if (best && (fall < best->first || (fall == best->first && !(there.key < best->second))))
          continue;
        best = {fall, there.key};
        out.is = Flow::On;
        out.next = next;
      }
    }
    out.level = std::max(out.level, above);
    return out;
  }
  Flow captured(Node n) {
    Flow out = flow(n, 0);
    if (out.is != Flow::On || out.onOutlet || flow(out.next, 0).is != Flow::On) return out;
    const Node was = out.next;
    int64_t most = area(was, 16, 0);
    for (const Node& next : beside(n)) {
      if (next == was || !(level(next, 1).key < level(n, 1).key)) continue;
      if (flow(next, 0).is != Flow::On) continue;
      const int64_t a = area(next, 16, 0);
      if (a < 6 || a <= most) continue;
      most = a;
      out.next = next;
    }
    return out;
  }
  bool leavesFor(Node e, Node x, int when) {
    const Flow at = flow(e, when);
    if (at.is != Flow::InLake) return false;
    const auto way = outlet(at.next, 1);
    return way && !way->empty() && (*way)[0] == e && (*way)[1] == x;
  }
  int64_t area(Node x, int64_t d, int when) {
    if (d <= 0) return 1;
    return 1 + inflow(x, d, when, std::nullopt);
  }
  int64_t inflow(Node x, int64_t d, int when, std::optional<Node> but) {
    int64_t sum = 0;
    for (const Node& c : beside(x)) {
      const Flow from = flow(c, when);
      if (from.is == Flow::On && from.next == x) sum += area(c, d - 1, when);
      if (leavesFor(c, x, when) && from.next != but) sum += lakeArea(from.next, d - 21, when);
    }
    return sum;
  }
  int64_t lakeArea(Node p, int64_t d, int when) {
    int64_t sum = 0;
    const Lake lake = *lakeOf(p, 1);
    for (const Node& n : lake.nodes) {
      const Level at = level(n, 1);
      if (!at.lake || at.key.n != p) continue;
      sum += 1 + (d > 0 ? inflow(n, d, when, p) : 0);
    }
    return sum;
  }
  std::map<Node, int64_t> areas;
  int64_t areaOf(Node n) {
    const auto known = areas.find(n);
    return known != areas.end() ? known->second : areas[n] = area(n, 64, 1);
  }
  bool isRiver(Node n) {
    const Flow at = flow(n, 1);
    return (at.is == Flow::On || at.is == Flow::Sink) &&
           areaOf(n) >= static_cast<int64_t>(r.spring);
  }
  int64_t radius(int64_t a) {
    const int64_t width = rootOf(a * 65536) * scaled(r.growth) >> 8;
    return std::clamp<int64_t>(
               width, 512, std::max<int64_t>(512, floorOf(scaled(r.widest), scale))) /
           2;
  }

  // ---- courses ---------------------------------------------------------------------------------

  struct Drawing {
    Waters& of;
    Node brick;
    std::vector<Piece> pieces;

    Grain about(Grain cell) const {
      const Grain m = middleOf(brick);
      return {(cell.x - m.x) * 256 + 128, (cell.z - m.z) * 256 + 128};
    }
    Grain node(Node n) const { return about(of.ground(n).node); }
    Grain bottom(Node n) const { return about(of.ground(n).bottom); }

    void bent(Grain s, Grain q, Grain t, int64_t v0, int64_t v1, int64_t r0, int64_t r1,
        bool strays = true, int64_t beyond = 512) {
      const auto gap = [](Grain a, Grain c) {
        return rootOf((a.x - c.x) * (a.x - c.x) + (a.z - c.z) * (a.z - c.z));
      };
      const int64_t n = floorOf(gap(q, s) + gap(t, q), 1024) + 2;
      const Grain m = middleOf(brick);
      Piece piece;
      int64_t least = v0;
      for (int64_t a = 0; a <= n; ++a) {
        const int64_t c = n - a;
        Grain p{floorOf(c * c * s.x + 2 * a * c * q.x + a * a * t.x, n * n),
            floorOf(c * c * s.z + 2 * a * c * q.z + a * a * t.z, n * n)};
        const int64_t rad = r0 + floorOf((r1 - r0) * a, n);
        const auto g =
            static_cast<float>(std::min<int64_t>(2304, scaled(of.r.meander) + floorOf(rad * 4, 5)));
        acre::NoiseSource source;
        source.fractal = acre::Fractal::Single;
        source.width = 52;
        const Place where{{m.x + floorOf(p.x, 256), 0, m.z + floorOf(p.z, 256)},
            {(p.x - floorOf(p.x, 256) * 256) * 256, 0, (p.z - floorOf(p.z, 256) * 256) * 256}};
        const float nx = noise(source, 2, acre::combine(of.seed, 1), {}, where);
        const float nz = noise(source, 2, acre::combine(of.seed, 2), {}, where);
        p.x += strays ? static_cast<int64_t>(std::floor(g * nx)) : 0;
        p.z += strays ? static_cast<int64_t>(std::floor(g * nz)) : 0;
        Grain v{c * (q.x - s.x) + a * (t.x - q.x), c * (q.z - s.z) + a * (t.z - q.z)};
        if (v.x == 0 && v.z == 0) v = {t.x - s.x, t.z - s.z};
        if (v.x == 0 && v.z == 0) v = {1, 0};
        const int64_t length = rootOf(v.x * v.x + v.z * v.z), w = rad + beyond;
        const int64_t part = floorOf(w * 3, 5);
        for (const int64_t o : {int64_t{0}, part, -part, w, -w})
          least = std::min(least, of.b(m.x + floorOf(p.x - floorOf(v.z * o, length), 256),
                                      m.z + floorOf(p.z + floorOf(v.x * o, length), 256)) -
                                      128);
        const int64_t even = v0 + floorOf((v1 - v0) * a, n);
        const int64_t at = a == n ? v1 : std::max(v1, std::min(even, least));
        piece.places.push_back(
            {floorOf(m.x * 256 + p.x + 8, 16), floorOf(m.z * 256 + p.z + 8, 16)});
        piece.radii.push_back(static_cast<float>(rad) / 256.0f);
        piece.levels.push_back(static_cast<float>(at) / 256.0f);
      }
      pieces.push_back(std::move(piece));
    }
    void straight(Grain s, Grain t, int64_t v0, int64_t v1, int64_t rad, int64_t beyond = 512) {
      bent(s, mid(s, t), t, v0, v1, rad, rad, true, beyond);
    }
    void within(const Lake& lake, Node e, Grain from, int64_t rad) {
      const auto ways = of.waysIn(lake);
      std::vector<Grain> p = {from};
      for (; e != lake.p; e = ways.at(e).second) p.push_back(node(e));
      p.push_back(bottom(lake.p));
      for (size_t k = 1; k < p.size(); ++k) {
        const Grain s = k == 1 ? p[0] : mid(p[k - 1], p[k]);
        if (k + 1 < p.size())
          bent(s, p[k], mid(p[k], p[k + 1]), lake.z, lake.z, rad, rad);
        else
          straight(s, p[k], lake.z, lake.z, rad);
      }
    }
    void mouth(Grain from, Node g, int64_t v, int64_t rad) {
      const Flow at = of.flow(g, 1);
      if (at.is == Flow::Sea) return straight(from, bottom(g), v, of.above, rad);
      const Lake lake = *of.lakeOf(at.next, 1);
      if (lake.z < v) {
        straight(from, node(g), v, lake.z, rad);
        from = node(g);
      }
      within(lake, g, from, rad);
    }
    void draw() {
      if (of.isRiver(brick)) {
        const Flow own = of.flow(brick, 1);
        const Grain x = node(brick), end = own.is == Flow::On ? mid(x, node(own.next)) : x;
        const int64_t rad = of.radius(of.areaOf(brick));
        for (const Node& c : beside(brick))
          if (of.flow(c, 1).is == Flow::On && of.flow(c, 1).next == brick && of.isRiver(c))
            bent(mid(node(c), x), x, end, of.flow(c, 1).level, own.level, of.radius(of.areaOf(c)),
                rad);
        for (const Node& e : beside(brick))
          if (of.leavesFor(e, brick, 1)) {
            const Lake lake = *of.lakeOf(of.flow(e, 1).next, 1);
            within(lake, e, mid(node(e), x), rad);
            bent(mid(node(e), x), x, end, lake.z, own.level, rad, rad);
          }
        if (pieces.empty())
          bent(x, mid(x, end), end, std::max(own.level, of.ground(brick).base - 256), own.level,
              std::min<int64_t>(256, rad), rad);
        if (own.is != Flow::On) return;
        const Flow next = of.flow(own.next, 1);
        if (next.is == Flow::Sea || next.is == Flow::InLake) mouth(end, own.next, own.level, rad);
        return;
      }
      const Flow own = of.flow(brick, 1);
      if (own.is != Flow::InLake || own.next != brick) return;
      const auto way = of.outlet(brick, 1);
      if (!way || way->empty()) return;
      const Flow next = of.flow((*way)[1], 1);
      if (next.is != Flow::Sea && next.is != Flow::InLake) return;
      const Lake lake = *of.lakeOf(brick, 1);
      const int64_t rad = of.radius(of.lakeArea(brick, 64, 1));
      const Grain from = mid(node((*way)[0]), node((*way)[1]));
      within(lake, (*way)[0], from, rad);
      mouth(from, (*way)[1], lake.z, rad);
    }
  };
  std::map<Node, std::vector<Piece>> drawn;
  const std::vector<Piece>& piecesOf(Node n) {
    const auto known = drawn.find(n);
    if (known != drawn.end()) return known->second;
    Drawing drawing{*this, n, {}};
    drawing.draw();
    return drawn[n] = std::move(drawing.pieces);
  }

  // ---- ways through obstacles ------------------------------------------------------------------

  struct Region {
    int64_t i = 0, j = 0, x = 0, z = 0, columns = 0, rows = 0, step = 1;
    std::vector<bool> obstacles;
    std::vector<CourseWay> ways;
    std::vector<Piece> pieces;

    Grain cell(int64_t n) const {
      return {x + n % columns * step + step / 2, z + n / columns * step + step / 2};
    }
  };
  bool oneRegion() const {
    const acre::Rect b = acre::boundsOf(land.recipe_.frame);
    return b.width <= 4096 && b.length <= 4096;
  }
  std::map<Node, Region> regions;
  const Region& regionOf(Node at) {
    const auto known = regions.find(at);
    if (known != regions.end()) return known->second;
    Region& g = regions[at];
    const acre::RiverCourses& how = r.courses;
    const acre::Rect b = acre::boundsOf(land.recipe_.frame);
    const auto side = static_cast<int64_t>(how.region);
    g.i = at.first;
    g.j = at.second;
    g.step = static_cast<int64_t>(how.step);
    g.x = oneRegion() ? b.x : side * g.i;
    g.z = oneRegion() ? b.z : side * g.j;
    g.columns = (oneRegion() ? b.width : side) / g.step;
    g.rows = (oneRegion() ? b.length : side) / g.step;
    const int64_t n = g.columns * g.rows;
    acre::NoiseSource source;
    source.fractal = acre::Fractal::Single;
    source.width = how.feature;
    std::vector<std::pair<float, int64_t>> order;
    for (int64_t k = 0; k < n; ++k) {
      const Grain c = g.cell(k);
      const Place where{{c.x, 0, c.z}, {0, 0, 0}};
      const float value = how.borders         ? land.borderOf({c.x, c.z})
                          : how.field.empty() ? noise(source, 2, acre::combine(seed, 3), {}, where)
                                              : land.field(how.field, {c.x, c.z});
      order.emplace_back(-value, k);
    }
    std::sort(order.begin(), order.end());
    g.obstacles.assign(static_cast<size_t>(n), false);
    const auto closed = static_cast<size_t>(std::floor(how.share * static_cast<double>(n) + 0.5));
    for (size_t k = 0; k < closed; ++k) g.obstacles[static_cast<size_t>(order[k].second)] = true;
    Finder finder{*this, g, g.obstacles, {}};
    for (int64_t k = 0; k < static_cast<int64_t>(how.count); ++k) finder.numbered(k);
    if (oneRegion())
      for (const acre::GivenCourse& course : how.given) finder.given(course);
    for (const CourseWay& way : g.ways) drawWay(g, way);
    return g;
  }

  struct Finder {
    Waters& of;
    Region& g;
    std::vector<bool> closed;
    std::map<int64_t, int64_t> taken;  // Lowest level of the earlier ways at a place.

    bool shut(int64_t n) const { return closed[static_cast<size_t>(n)]; }
    int64_t height(int64_t n) {
      const Grain c = g.cell(n);
      return of.b(c.x, c.z);
    }
    void numbered(int64_t k) {
      const bool rows = k % 2 == 1;
      const int64_t m = rows ? g.columns : g.rows;
      const auto end = [&](int64_t far) {
        const uint64_t d =
            acre::combine(acre::combine(acre::combine(acre::combine(of.seed, rows ? 5 : 4),
                                            static_cast<uint64_t>(g.i + (rows ? 0 : far))),
                              static_cast<uint64_t>(g.j + (rows ? far : 0))),
                static_cast<uint64_t>(k));
        return 1 + static_cast<int64_t>((d >> 32) * static_cast<uint64_t>(m - 2) >> 32);
      };
      const auto place = [&](int64_t along, int64_t far) {
        return rows ? far * (g.rows - 1) * g.columns + along
                    : along * g.columns + far * (g.columns - 1);
      };
      std::optional<int64_t> ends[2];
      for (const int64_t far : {0, 1})
        for (int64_t d = 0; d <= 15 && !ends[far]; ++d)
          for (const int64_t to : {end(far) + d, end(far) - d})
            if (!ends[far] && to >= 1 && to <= m - 2 && !shut(place(to, far)))
              ends[far] = place(to, far);
      if (!ends[0] || !ends[1])
        return g.ways.push_back({ends[0] ? "goal blocked" : "start blocked", {}, {}});
      const bool turned = height(*ends[1]) > height(*ends[0]);
      walk(turned ? std::vector{*ends[1], *ends[0]} : std::vector{*ends[0], *ends[1]});
    }
    void given(const acre::GivenCourse& course) {
      std::vector<int64_t> stops;
      for (const acre::CourseStop& s : course.stops)
        stops.push_back(
            std::min(floorOf(static_cast<int64_t>(s.z) - g.z, g.step), g.rows - 1) * g.columns +
            std::min(floorOf(static_cast<int64_t>(s.x) - g.x, g.step), g.columns - 1));
      if (shut(stops[0])) return g.ways.push_back({"start blocked", {}, {}});
      for (const int64_t n : stops)
        if (shut(n)) return g.ways.push_back({"goal blocked", {}, {}});
      walk(stops);
    }
    std::vector<std::pair<int64_t, int64_t>> steps(int64_t n) {  // Place, cost.
      std::vector<std::pair<int64_t, int64_t>> out;
      const int64_t x = n % g.columns, z = n / g.columns;
      const auto open = [&](int64_t u, int64_t v) {
        return u >= 0 && v >= 0 && u < g.columns && v < g.rows && !shut(v * g.columns + u);
      };
      for (int64_t dz = -1; dz <= 1; ++dz)
        for (int64_t dx = -1; dx <= 1; ++dx) {
          const bool aslant = dx != 0 && dz != 0;
          if ((dx == 0 && dz == 0) || !open(x + dx, z + dz)) continue;
          if (aslant && (!of.r.courses.diagonal || !open(x + dx, z) || !open(x, z + dz))) continue;
          const int64_t to = n + dz * g.columns + dx;
          const Grain c = g.cell(to);
          int64_t cost = (aslant ? 14 : 10) +
                         static_cast<int64_t>(acre::combine(acre::combine(acre::combine(of.seed, 6),
                                                                static_cast<uint64_t>(c.x)),
                                                  static_cast<uint64_t>(c.z)) %
                                              4);
          if (of.r.courses.climb > 0)
            cost +=
                (10 * scaled(of.r.courses.climb) * std::max<int64_t>(0, height(to) - height(n))) >>
                16;
          out.emplace_back(to, cost);
        }
      return out;
    }
    /// All of the region is looked at; the way is read backwards.
    std::vector<int64_t> leg(int64_t start, int64_t goal) {
      std::map<int64_t, int64_t> cost = {{start, 0}};
      std::set<std::pair<int64_t, int64_t>> front = {{0, start}};
      const auto last = [&](int64_t n) {
        return n == goal || (of.r.courses.join && n != start && taken.count(n) > 0);
      };
      while (!front.empty()) {
        const auto [sum, n] = *front.begin();
        front.erase(front.begin());
        if (last(n)) continue;
        for (const auto& [to, step] : steps(n)) {
          const auto known = cost.find(to);
          if (known != cost.end() && known->second <= sum + step) continue;
          if (known != cost.end()) front.erase({known->second, to});
          cost[to] = sum + step;
          front.insert({sum + step, to});
        }
      }
      std::optional<std::pair<int64_t, int64_t>> best;
      for (const auto& [n, sum] : cost)
        if (last(n) && (!best || std::pair(sum, n) < *best)) best = {sum, n};
      std::vector<int64_t> way;
      if (!best) return way;
      way.push_back(best->second);
      while (way.back() != start) {
        std::optional<int64_t> from;
        for (const auto& [n, sum] : cost) {
          if (from || last(n)) continue;
          const int64_t dx = std::abs(n % g.columns - way.back() % g.columns);
          const int64_t dz = std::abs(n / g.columns - way.back() / g.columns);
          if (dx > 1 || dz > 1) continue;
          for (const auto& [to, step] : steps(n))
            if (to == way.back() && sum + step == cost[to]) from = n;
        }
        way.push_back(*from);
      }
      std::reverse(way.begin(), way.end());
      return way;
    }
    /// The lowest ground at a place and about it.
    int64_t about(int64_t n) {
      const Grain c = g.cell(n);
      const int64_t rad = scaled(of.r.courses.width) / 2;
      const int64_t stray =
          g.step == 1 ? 0 : std::min<int64_t>(2304, scaled(of.r.meander) + floorOf(rad * 4, 5));
      const int64_t far = floorOf(rad + 1344 + stray, 256);
      int64_t least = of.b(c.x, c.z);
      for (const int64_t d : {-far, far})
        least = std::min({least, of.b(c.x + d, c.z), of.b(c.x, c.z + d)});
      return least;
    }
    void walk(const std::vector<int64_t>& stops) {
      CourseWay way{"none", {}, {}};
      std::vector<int64_t> line = {stops[0]};
      bool joined = false;
      for (size_t k = 1; k < stops.size() && !joined; ++k) {
        if (stops[k] == stops[k - 1]) continue;
        const auto part = leg(stops[k - 1], stops[k]);
        if (part.empty()) return g.ways.push_back({"no path", {}, {}});
        line.insert(line.end(), part.begin() + 1, part.end());
        joined = of.r.courses.join && taken.count(line.back()) > 0;
      }
      int64_t length = 0;
      bool deep = false;
      for (size_t k = 0; k < line.size(); ++k) {
        const int64_t low = about(line[k]) - 128;
        way.places.push_back({g.cell(line[k]).x, g.cell(line[k]).z});
        way.levels.push_back(std::max(of.above, k == 0 ? low : std::min(way.levels.back(), low)));
        deep = deep || height(line[k]) - way.levels.back() > scaled(of.r.courses.carve);
        if (k == 0) continue;
        const acre::Cell a = way.places[k - 1], c = way.places[k];
        length += g.step * (a.x != c.x && a.z != c.z ? 362 : 256);
      }
      const acre::Cell a = way.places.front(), c = way.places.back();
      const int64_t dx = c.x - a.x, dz = c.z - a.z;
      if (256 * length > scaled(of.r.courses.winding) * rootOf(65536 * (dx * dx + dz * dz)))
        way.fault = "too long";
      else if (deep)
        way.fault = "too deep";
      else if (joined && taken[line.back()] > way.levels.back())
        way.fault = "uphill";
      else if (joined)
        way.levels.back() = taken[line.back()];
      if (way.fault == "none")
        for (size_t k = 0; k < line.size(); ++k) {
          const auto [known, fresh] = taken.emplace(line[k], way.levels[k]);
          if (!fresh) known->second = std::min(known->second, way.levels[k]);
        }
      g.ways.push_back(way);
    }
  };
  void drawWay(Region& g, const CourseWay& way) {
    const int64_t rad = scaled(r.courses.width) / 2;
    for (size_t n = 1; way.fault == "none" && n < way.places.size(); ++n) {
      Drawing drawing{*this, brickAt(way.places[n].x, way.places[n].z), {}};
      const auto at = [&](size_t k) { return drawing.about({way.places[k].x, way.places[k].z}); };
      const int64_t from = way.levels[n - 1], to = way.levels[n];
      const Grain before = at(n - 1), here = at(n);
      if (g.step == 1) {
        drawing.bent(before, mid(before, here), here, from, to, rad, rad, false, 1344);
      } else {
        const Grain s = n == 1 ? before : mid(before, here);
        if (n + 1 < way.places.size())
          drawing.bent(s, here, mid(here, at(n + 1)), from, to, rad, rad, true, 1344);
        else
          drawing.straight(s, here, from, to, rad, 1344);
      }
      for (Piece& piece : drawing.pieces) g.pieces.push_back(std::move(piece));
    }
  }
  /// With the regions that they belong to.
  std::vector<std::pair<const Piece*, Node>> wayPiecesNear(int64_t x, int64_t z) {
    std::vector<std::pair<const Piece*, Node>> out;
    if (!r.courses.any()) return out;
    const auto side = static_cast<int64_t>(r.courses.region);
    const auto add = [&](Node at) {
      for (const Piece& piece : regionOf(at).pieces) out.emplace_back(&piece, at);
    };
    if (oneRegion()) return add({0, 0}), out;
    for (int64_t j = floorOf(z - 128, side); j <= floorOf(z + 128, side); ++j)
      for (int64_t i = floorOf(x - 128, side); i <= floorOf(x + 128, side); ++i) add({i, j});
    return out;
  }

  // ---- cells -----------------------------------------------------------------------------------

  std::map<std::pair<int64_t, int64_t>, Found> cells;
  bool cut(const Found& f, float before) { return f.kind == "dry" && f.height < before; }
  Found alone(int64_t x, int64_t z) { return alone(x, z, before(x, z)); }
  Found alone(int64_t x, int64_t z, float height) {
    Found out;
    out.height = height;
    if (height < seaLevel) {
      out.kind = "sea";
      out.level = above / 256;
      return out;
    }
    const Node own = brickAt(x, z);
    const Level at = level(own, 1);
    const auto whole = static_cast<int64_t>(std::floor(height));
    if (at.lake && whole < at.key.f / 256) {
      out.kind = "lake";
      out.level = at.key.f / 256;
      out.shore = 0;
      out.hash = hashOf(seed, at.key.n);
      return out;
    }
    std::optional<float> held, bed, wet, bound;
    float guard = static_cast<float>(above) / 256.0f;
    const auto least = [](std::optional<float>& v, float next) {
      v = v ? std::min(*v, next) : next;
    };
    const auto valley = static_cast<float>(r.valley), sides = static_cast<float>(r.sides);
    const auto depth = static_cast<float>(r.depth);
    std::vector<std::pair<const Piece*, uint64_t>> pieces;
    for (int64_t j = own.second - 25; j <= own.second + 25; ++j)
      for (int64_t i = own.first - 25; i <= own.first + 25; ++i)
        for (const Piece& piece : piecesOf({i, j}))
          pieces.emplace_back(&piece, hashOf(seed, {i, j}));
    if (scale == 1)
      for (const auto& [piece, region] : wayPiecesNear(x, z))
        pieces.emplace_back(piece, hashOf(acre::combine(seed, 7), region));
    uint64_t holder = 0, wetter = 0;
    for (const auto& [each, hash] : pieces) {
      const Piece& piece = *each;
      float square = 0, rho = 0, w = 0;
      for (size_t k = 0; k + 1 < piece.places.size(); ++k) {
        const Grain a = piece.places[k], c = piece.places[k + 1];
        const auto dx = static_cast<float>(c.x - a.x), dz = static_cast<float>(c.z - a.z);
        const auto px = static_cast<float>(16 * x + 8 - a.x);
        const auto pz = static_cast<float>(16 * z + 8 - a.z);
        const float length = dx * dx + dz * dz;
        float t = length > 0 ? (px * dx + pz * dz) / length : 0;
        t = std::clamp(t, 0.0f, 1.0f);
        const float ux = px - t * dx, uz = pz - t * dz;
        const float s = ux * ux + uz * uz;
        if (k > 0 && s >= square) continue;
        square = s;
        rho = piece.radii[k] + t * (piece.radii[k + 1] - piece.radii[k]);
        w = piece.levels[k] + t * (piece.levels[k + 1] - piece.levels[k]);
      }
      const float d = std::sqrt(square) / 16.0f, e = d - rho;
      const float v = scale > 1 ? 0.0f : std::min(46.0f, 6.0f + valley * rho);
      if (e >= v) continue;
      if (e <= 0) {
        if (!held || w < *held) holder = hash;
        least(held, w);
        least(bed, w - (1.0f + std::min(depth, 0.35f * rho) * (1.0f - (d / rho) * (d / rho))));
        continue;
      }
      out.shore = std::min(out.shore, e);
      if (e <= 2.2f) guard = std::max(guard, w);
      if (e <= 4 && (!wet || w < *wet)) wetter = hash;
      if (e <= 4) least(wet, w);
      const float f = e / v;
      least(bound, ((w + 0.5f) + sides * e) + 12.0f * ((f * f) * f));
    }
    const bool drowned = wet && static_cast<float>(whole) < std::floor(*wet);
    if (held || drowned) {
      out.shore = 0;
      out.hash = held ? holder : wetter;
    }
    if (held) {
      out.kind = "river";
      out.level = static_cast<int64_t>(std::floor(*held));
      out.height = std::min(height, *bed);
      return out;
    }
    if (drowned) {
      out.kind = "river";
      out.level = static_cast<int64_t>(std::floor(*wet));
      return out;
    }
    std::optional<int64_t> lake;
    if (at.lake) lake = at.key.f / 256;
    for (const Node& n : beside(own))
      if (const Level near = level(n, 1); near.lake)
        lake = lake ? std::max(*lake, near.key.f / 256) : near.key.f / 256;
    if (lake) guard = std::max(guard, static_cast<float>(*lake));
    out.height = bound ? std::min(height, *bound) : height;
    if (out.height < guard) out.height = std::min(height, guard);
    if (lake)
      out.shore = std::min(out.shore, 4 * std::max(0.0f, out.height - static_cast<float>(*lake)));
    return out;
  }
  const Found& first(int64_t x, int64_t z) {
    const auto found = cells.find({x, z});
    return found != cells.end() ? found->second : cells[{x, z}] = alone(x, z);
  }
  Found at(int64_t x, int64_t z) {
    Found out = first(x, z);
    const float height = before(x, z);
    if (!cut(out, height)) return out;
    std::optional<int64_t> highest;
    for (const auto& [dx, dz] :
        {std::pair(1, 0), std::pair(-1, 0), std::pair(0, 1), std::pair(0, -1)})
      if (const Found& f = first(x + dx, z + dz); f.kind != "dry")
        highest = highest ? std::max(*highest, f.level) : f.level;
    if (highest && static_cast<int64_t>(std::floor(out.height)) < *highest)
      out.height = std::min(height, std::max(out.height, static_cast<float>(*highest)));
    return out;
  }
};

Evaluator::WaterValue Evaluator::water(acre::Cell cell) {
  if (!waters_) waters_ = std::make_shared<Waters>(*this);
  const Waters::Found found = waters_->at(cell.x, cell.z);
  WaterValue out{found.kind, found.height, found.level, found.shore, {}};
  if (out.fresh()) out.mark = static_cast<uint32_t>(found.hash) | 1u;
  for (const auto& [dx, dz] :
      {std::pair(0, 0), std::pair(1, 0), std::pair(-1, 0), std::pair(0, 1), std::pair(0, -1)}) {
    const Waters::Found& near = waters_->first(cell.x + dx, cell.z + dz);
    if (near.kind != "lake" && near.kind != "river") continue;
    out.held = out.held ? std::max(*out.held, near.level) : near.level;
  }
  return out;
}

Evaluator::WaterValue Evaluator::indicated(acre::Cell cell, int64_t step) {
  const int64_t f = step <= 32 ? 2 : 4;
  auto& coarser = coarser_[f];
  if (!coarser) coarser = std::make_shared<Waters>(*this, f);
  const Waters::Found found =
      coarser->alone(floorOf(cell.x, f), floorOf(cell.z, f), unshaped(cell).height);
  return {found.kind, found.height, found.level, found.shore, {}};
}

std::vector<Evaluator::CourseWay> Evaluator::ways(int64_t i, int64_t j) {
  if (!waters_) waters_ = std::make_shared<Waters>(*this);
  return waters_->regionOf({i, j}).ways;
}

CellValue Evaluator::proven(acre::Cell cell) {
  if (!acre::takesPart(recipe_, acre::StageId::Water)) return evaluate(cell);
  const LandValue ground = unshaped(cell);
  return {ground.height, ground.biome, {}};
}

Evaluator::LandValue Evaluator::land(acre::Cell cell) {
  LandValue out = unshaped(cell);
  if (acre::takesPart(recipe_, acre::StageId::Water)) out.height = water(cell).height;
  return out;
}

}  // namespace reference
