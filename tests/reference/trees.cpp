#include "reference/trees.h"

#include <cmath>
#include <cstdlib>

#include "base/hash.h"
#include "reference/arithmetic.h"

namespace reference {
namespace {

const int64_t kTurn[16] = {4096, 3784, 2896, 1567, 0, -1567, -2896, -3784, -4096, -3784, -2896,
    -1567, 0, 1567, 2896, 3784};

int64_t cosine(int64_t k) {
  return kTurn[((k % 16) + 16) % 16];
}
int64_t sine(int64_t k) {
  return cosine(k - 4);
}

/// Found by halves.
int64_t root(int64_t n) {
  int64_t low = 0, high = int64_t{1} << 26;
  while (low + 1 < high) {
    const int64_t middle = (low + high) / 2;
    (middle * middle <= n ? low : high) = middle;
  }
  return low;
}

int64_t units(double blocks) {
  return static_cast<int64_t>(std::floor(64 * blocks + 0.5));
}
int64_t thousandths(double share) {
  return static_cast<int64_t>(std::floor(1000 * share + 0.5));
}
int64_t factor(double v) {
  return static_cast<int64_t>(std::floor(4096 * v + 0.5));
}

struct Point {
  int64_t x, y, z;
  int nearest = -1;
  int64_t distance = 0;  // Squared.
  bool gone = false;
};

struct Plan {
  const acre::TreeStyle& style;
  uint64_t key;
  int64_t H, R, B, E, D, lean, twist;
  int64_t d, phase;

  Plan(const acre::TreeStyle& of, uint64_t seed, uint64_t variant) : style(of) {
    key = acre::combine(
        acre::combine(acre::combine(seed, 0x5472656573u), acre::hashText(of.id)), variant);
    const uint64_t s = draw(0, 0);
    const int64_t V = thousandths(of.vary);
    const auto drawn = [&](uint64_t bits) {
      return static_cast<int64_t>((bits % 65536) % static_cast<uint64_t>(2 * V + 1));
    };
    H = units(of.height) * (1000 - V + drawn(s)) / 1000;
    R = units(of.radius) * (1000 - V + drawn(s >> 16)) / 1000;
    if (H < 1) H = 1;
    if (R < 1) R = 1;
    B = H * thousandths(of.base) / 1000;
    E = (H - B) / 2;
    if (E < 1) E = 1;
    D = units(of.segment);
    lean = factor(of.lean);
    twist = factor(of.twist);
    d = static_cast<int64_t>((s >> 32) % 16);
    phase = static_cast<int64_t>((s >> 36) % 16);
  }
  uint64_t draw(uint64_t a, uint64_t b) const { return acre::combine(acre::combine(key, a), b); }
  void line(int64_t y, int64_t& x, int64_t& z) const {
    const int64_t m = (y + y * y / H) / 2;
    x = lean * cosine(d) / 4096 * m / 4096;
    z = lean * sine(d) / 4096 * m / 4096;
    const int64_t alpha = 256 * phase + 4 * y, k = floorOf(alpha, 256), f = alpha - 256 * k;
    const int64_t A = twist * (y < H / 2 ? y : H / 2) / 4096;
    x += (cosine(k) * (256 - f) + cosine(k + 1) * f) / 256 * A / 4096;
    z += (sine(k) * (256 - f) + sine(k + 1) * f) / 256 * A / 4096;
  }
  int64_t crown(int64_t h) const {
    switch (style.crown) {
      case acre::CrownShape::Round:
        return R * R - R * R * ((h - E) * (h - E)) / (E * E);
      case acre::CrownShape::Dome:
        return R * R - R * R * (h * h) / (4 * (E * E));
      case acre::CrownShape::Cone: {
        int64_t w = R * (2 * E - h) / (2 * E);
        if (const int64_t T = units(style.tiers); T > 0) {
          const int64_t m = h % T;
          w = w * (1000 - 550 * m / T) / 1000;
          if (8 * m > 5 * T) w = w / 3;
        }
        return w * w;
      }
      case acre::CrownShape::Flat: {
        const int64_t w = R * (400 + 600 * h / (2 * E)) / 1000;
        return 5 * h > 8 * E ? w * w * (2 * E - h) * 5 / (2 * E) : w * w;
      }
    }
    return 0;
  }
  std::vector<Point> points() const {
    std::vector<Point> out;
    for (uint64_t t = 0; t < 10u * static_cast<uint64_t>(style.points); ++t) {
      if (out.size() == static_cast<size_t>(style.points)) break;
      const uint64_t a = draw(1, t), b = draw(2, t);
      const int64_t x = static_cast<int64_t>(a % 65536) * 2 * R / 65536 - R;
      const int64_t z = static_cast<int64_t>((a >> 16) % 65536) * 2 * R / 65536 - R;
      const int64_t h = static_cast<int64_t>((a >> 32) % 65536) * 2 * E / 65536;
      const int64_t q = x * x + z * z, l = crown(h);
      if (q > l) continue;
      bool within = style.lobes == 0;
      for (int32_t i = 0; i < style.lobes && !within; ++i) {
        const uint64_t g = draw(3, static_cast<uint64_t>(i));
        const int64_t r = R * (30 + static_cast<int64_t>((g >> 8) % 25)) / 100;
        const auto k = static_cast<int64_t>(g % 16);
        int64_t cx = cosine(k) * (R - r) / 4096, cz = sine(k) * (R - r) / 4096;
        int64_t ch = E * (50 + static_cast<int64_t>((g >> 16) % 110)) / 100;
        if (i == 0) {
          cx = cz = 0;
          ch = E * 3 / 2;
        }
        const int64_t up = (h - ch) * 5 / 4;
        within = (x - cx) * (x - cx) + up * up + (z - cz) * (z - cz) <= r * r;
      }
      if (!within) continue;
      if (static_cast<int64_t>(b % 1000) < thousandths(style.hollow) && 4 * q < l &&
          2 * h < 3 * E && style.crown != acre::CrownShape::Flat)
        continue;
      int64_t lx, lz;
      line(B + h, lx, lz);
      out.push_back({x + lx, B + h, z + lz});
    }
    return out;
  }
};

}  // namespace

std::vector<Branch> treeNodes(const acre::TreeStyle& style, uint64_t seed, uint64_t variant) {
  const Plan plan(style, seed, variant);
  std::vector<Point> points = plan.points();
  std::vector<Branch> nodes;
  const int64_t influence = units(style.influence), kill = units(style.kill);
  const auto learn = [&](size_t n) {
    for (Point& p : points) {
      if (p.gone) continue;
      const int64_t x = p.x - nodes[n].x, y = p.y - nodes[n].y, z = p.z - nodes[n].z;
      const int64_t away = x * x + y * y + z * z;
      if (away <= influence * influence && (p.nearest < 0 || away < p.distance)) {
        p.nearest = static_cast<int>(n);
        p.distance = away;
      }
      if (away <= influence * influence && away <= kill * kill) p.gone = true;
    }
  };
  const auto trunk = [&](int64_t y) {
    int64_t x, z;
    plan.line(y, x, z);
    nodes.push_back({x, y, z, static_cast<int>(nodes.size()) - 1, true, false, 0});
    learn(nodes.size() - 1);
  };
  const auto held = [&] {
    for (const Point& p : points)
      if (!p.gone && p.nearest >= 0) return true;
    return false;
  };
  const int64_t top = style.leader ? plan.H : plan.B;
  for (int64_t y = 0; y < top; y += plan.D) trunk(y);
  trunk(top);
  while (!held() && nodes.back().y < plan.H)
    trunk(nodes.back().y + plan.D < plan.H ? nodes.back().y + plan.D : plan.H);

  std::vector<int> given(nodes.size(), -1);
  for (int round = 0; round < 400 && held(); ++round) {
    if (nodes.size() >= 4 * static_cast<size_t>(style.points) + 200) break;
    const size_t before = nodes.size();
    for (size_t n = 0; n < before; ++n) {
      int64_t vx = 0, vy = 0, vz = 0, c = 0;
      Point* first = nullptr;
      for (Point& p : points) {
        if (p.gone || p.nearest != static_cast<int>(n)) continue;
        const int64_t away = root(p.distance) > 1 ? root(p.distance) : 1;
        vx += (p.x - nodes[n].x) * 4096 / away;
        vy += (p.y - nodes[n].y) * 4096 / away;
        vz += (p.z - nodes[n].z) * 4096 / away;
        if (c++ == 0) first = &p;
      }
      if (c == 0) continue;
      vy += factor(style.up) * c;
      int64_t lx, lz;
      plan.line(nodes[n].y, lx, lz);
      const int64_t ox = nodes[n].x - lx, oz = nodes[n].z - lz;
      int64_t l = root(ox * ox + oz * oz);
      if (l < 64) l = 64;
      vx += -oz * factor(style.swirl) / l * c;
      vz += ox * factor(style.swirl) / l * c;
      const int64_t L = root(vx * vx + vy * vy + vz * vz);
      if (L < 64) {
        first->gone = true;
        continue;
      }
      const Branch child{nodes[n].x + vx * plan.D / L, nodes[n].y + vy * plan.D / L,
          nodes[n].z + vz * plan.D / L, static_cast<int>(n), false, false, 0};
      bool refused = child.y < 0 || child.y > plan.H + plan.D;
      plan.line(child.y, lx, lz);
      const int64_t far = plan.R + plan.D;
      refused =
          refused || (child.x - lx) * (child.x - lx) + (child.z - lz) * (child.z - lz) > far * far;
      if (given[n] >= 0) {
        const Branch& last = nodes[static_cast<size_t>(given[n])];
        const int64_t x = child.x - last.x, y = child.y - last.y, z = child.z - last.z;
        refused = refused || 9 * (x * x + y * y + z * z) < plan.D * plan.D;
      }
      if (refused) {
        first->gone = true;
        continue;
      }
      given[n] = static_cast<int>(nodes.size());
      nodes.push_back(child);
      given.push_back(-1);
    }
    for (size_t n = before; n < nodes.size(); ++n) learn(n);
  }

  if (style.leader) {
    int64_t T = 0;
    for (const Branch& n : nodes)
      if (!n.trunk && nodes[static_cast<size_t>(n.parent)].trunk &&
          nodes[static_cast<size_t>(n.parent)].y > T)
        T = nodes[static_cast<size_t>(n.parent)].y;
    for (size_t n = nodes.size(); n-- > 0;)
      if (nodes[n].trunk && nodes[n].y > T + 256) {
        nodes.erase(nodes.begin() + static_cast<std::ptrdiff_t>(n));
        for (Branch& other : nodes)
          if (other.parent > static_cast<int>(n)) --other.parent;
      }
  }
  const auto childless = [&](size_t n) {
    for (const Branch& other : nodes)
      if (other.parent == static_cast<int>(n)) return false;
    return true;
  };
  if (style.droop > 0) {
    const size_t grown = nodes.size();
    std::vector<bool> ends(grown);
    for (size_t n = 0; n < grown; ++n) ends[n] = !nodes[n].trunk && childless(n);
    for (size_t n = 0; n < grown; ++n) {
      if (!ends[n]) continue;
      const Branch& from = nodes[static_cast<size_t>(nodes[n].parent)];
      const int64_t dx = (nodes[n].x - from.x) / 4, dz = (nodes[n].z - from.z) / 4;
      const uint64_t most = 1 + plan.draw(4, n) % static_cast<uint64_t>(style.droop);
      size_t last = n;
      for (uint64_t i = 0; i < most && nodes[last].y >= 192; ++i) {
        Branch strand = nodes[last];
        strand.y -= 64;
        strand.x += i < 2 ? dx : 0;
        strand.z += i < 2 ? dz : 0;
        strand.parent = static_cast<int>(last);
        strand.strand = true;
        last = nodes.size();
        nodes.push_back(strand);
      }
    }
  }
  const int64_t twig = units(style.twig), thickest = units(style.thickest);
  for (size_t n = nodes.size(); n-- > 0;) {
    if (nodes[n].strand) {
      nodes[n].square = 1;
      continue;
    }
    int64_t sum = 0;
    for (size_t k = n + 1; k < nodes.size(); ++k)
      if (nodes[k].parent == static_cast<int>(n) && !nodes[k].strand) sum += nodes[k].square;
    nodes[n].square = sum == 0 ? twig * twig : sum;
  }
  if (const int64_t r = root(nodes[0].square); r > thickest)
    for (Branch& n : nodes)
      if (n.square > twig * twig) {
        const int64_t now = twig + (root(n.square) - twig) * (thickest - twig) / (r - twig);
        n.square = now * now;
      }
  return nodes;
}

std::map<std::tuple<int64_t, int64_t, int64_t>, bool> treeBlocks(
    const acre::TreeStyle& style, uint64_t seed, uint64_t variant, int wind, int part) {
  const Plan plan(style, seed, variant);
  std::vector<Branch> nodes = treeNodes(style, seed, variant);
  std::vector<int64_t> heights;
  for (Branch& n : nodes) {
    heights.push_back(n.y);
    n.x += cosine(part) * n.y * wind / 32768;
    n.z += sine(part) * n.y * wind / 32768;
  }
  if (style.lies)
    for (Branch& n : nodes) {
      const int64_t along = n.y;
      n.y = n.x + root(nodes[0].square);
      n.x = along;
    }
  std::map<std::tuple<int64_t, int64_t, int64_t>, bool> blocks;
  const bool bare = style.leaves == acre::TreeLeaves::None;
  for (const Branch& n : nodes) {
    if (n.parent < 0 || (n.strand && !bare)) continue;
    const Branch& p = nodes[static_cast<size_t>(n.parent)];
    const int64_t d[3] = {n.x - p.x, n.y - p.y, n.z - p.z};
    int64_t M = 0;
    for (const int64_t v : d)
      if (std::abs(v) > M) M = std::abs(v);
    const int64_t s = M / 32 + 1;
    for (int64_t t = 0; t <= s; ++t)
      blocks[{floorOf(p.x + d[0] * t / s, 64), floorOf(p.y + d[1] * t / s, 64),
          floorOf(p.z + d[2] * t / s, 64)}] = false;
    const int64_t r = root(n.square);
    if (r < 38) continue;
    const auto low = [&](int64_t a, int64_t b) { return floorOf((a < b ? a : b) - r, 64) - 1; };
    const auto high = [&](int64_t a, int64_t b) { return floorOf((a > b ? a : b) + r, 64) + 1; };
    for (int64_t x = low(p.x, n.x); x <= high(p.x, n.x); ++x)
      for (int64_t y = low(p.y, n.y); y <= high(p.y, n.y); ++y)
        for (int64_t z = low(p.z, n.z); z <= high(p.z, n.z); ++z) {
          const int64_t m[3] = {64 * x + 32 - p.x, 64 * y + 32 - p.y, 64 * z + 32 - p.z};
          int64_t along = 0, whole = 0, away = 0, beyond = 0;
          for (int a = 0; a < 3; ++a) {
            along += m[a] * d[a];
            whole += d[a] * d[a];
            away += m[a] * m[a];
            beyond += (m[a] - d[a]) * (m[a] - d[a]);
          }
          const bool within = along <= 0       ? away <= n.square
                              : along >= whole ? beyond <= n.square
                                               : (away - n.square) * whole <= along * along;
          if (within) blocks[{x, y, z}] = false;
        }
  }
  if (bare) return blocks;
  // Steps from each node to the nearest end above it.
  const int kNone = 1000000;
  std::vector<int> steps(nodes.size(), kNone);
  for (size_t n = nodes.size(); n-- > 0;) {
    bool end = nodes[n].strand, childless = true;
    for (size_t k = n + 1; k < nodes.size(); ++k)
      if (nodes[k].parent == static_cast<int>(n)) {
        childless = false;
        if (steps[k] + 1 < steps[n]) steps[n] = steps[k] + 1;
      }
    if (end || childless) steps[n] = 0;
  }
  size_t last = 0;
  int64_t T = 0;
  for (size_t n = 0; n < nodes.size(); ++n) {
    if (nodes[n].trunk) last = n;
    if (!nodes[n].trunk && nodes[static_cast<size_t>(nodes[n].parent)].trunk)
      T = std::max(T, heights[static_cast<size_t>(nodes[n].parent)]);
  }
  const uint64_t thin = plan.draw(5, 0);
  for (size_t n = 0; n < nodes.size(); ++n) {
    bool bears = false;
    switch (style.leaves) {
      case acre::TreeLeaves::None:
        break;
      case acre::TreeLeaves::Tips:
        bears = steps[n] == 0;
        break;
      case acre::TreeLeaves::Near:
        bears = steps[n] <= style.leafReach && (!nodes[n].trunk || n == last);
        break;
      case acre::TreeLeaves::All:
        bears = !nodes[n].trunk || (style.leader && heights[n] > T);
        break;
      case acre::TreeLeaves::Cap:
        bears = n == last;
        break;
    }
    if (!bears) continue;
    const int64_t a = nodes[n].strand ? 56 : units(style.leafWide);
    const int64_t b = nodes[n].strand ? 64 : units(style.leafTall);
    for (int64_t x = floorOf(nodes[n].x - a, 64); x <= floorOf(nodes[n].x + a, 64); ++x)
      for (int64_t y = floorOf(nodes[n].y - b, 64); y <= floorOf(nodes[n].y + b, 64); ++y)
        for (int64_t z = floorOf(nodes[n].z - a, 64); z <= floorOf(nodes[n].z + a, 64); ++z) {
          const int64_t dx = 64 * x + 32 - nodes[n].x, dy = 64 * y + 32 - nodes[n].y;
          const int64_t dz = 64 * z + 32 - nodes[n].z;
          if (style.leaves == acre::TreeLeaves::Cap && dy < 0) continue;
          const int64_t e = (dx * dx + dz * dz) * (b * b) + dy * dy * (a * a);
          if (e > a * a * (b * b)) continue;
          if (2 * e > a * a * (b * b)) {
            uint64_t h = acre::combine(thin, static_cast<uint64_t>(x));
            h = acre::combine(h, static_cast<uint64_t>(y));
            h = acre::combine(h, static_cast<uint64_t>(z));
            if (static_cast<int64_t>(h % 1000) >= thousandths(style.leafFill)) continue;
          }
          blocks.try_emplace({x, y, z}, true);
        }
  }
  return blocks;
}

}  // namespace reference
