#include "reference/evaluator.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <limits>
#include <vector>

#include "base/hash.h"
#include "base/seed.h"
#include "recipe/cave_recipe.h"
#include "recipe/edits.h"
#include "recipe/level_recipe.h"
#include "recipe/stages.h"
#include "recipe/water_recipe.h"

namespace reference {
namespace {

using acre::Basis;
using acre::Fractal;
using acre::Layer;
using acre::NoiseSource;
__extension__ using Wide = __int128;

constexpr int kX = 0, kY = 1, kZ = 2;

std::vector<int> axesOf(int dims) {
  if (dims == 1) return {kX};
  if (dims == 2) return {kX, kZ};
  return {kX, kY, kZ};
}

Wide floorDivide(Wide a, Wide b) {
  const Wide q = a / b;
  return a % b < 0 ? q - 1 : q;
}

/// Steps of octave k: a matrix of 2^-48 lattice cells per cell.
std::array<std::array<int64_t, 3>, 3> stepsOf(const NoiseSource& source, int k, int dims) {
  double frequency = 281474976710656.0 / source.width;
  for (int i = 0; i < k; ++i) frequency *= source.lacunarity;
  double m[3][3] = {{1, 0, 0}, {0, 1, 0}, {0, 0, 1}};
  const auto multiply = [&](const double(&r)[3][3]) {
    double out[3][3];
    for (int i = 0; i < 3; ++i)
      for (int j = 0; j < 3; ++j)
        out[i][j] = r[i][0] * m[0][j] + r[i][1] * m[1][j] + r[i][2] * m[2][j];
    std::copy(&out[0][0], &out[0][0] + 9, &m[0][0]);
  };
  const bool turns = source.rotate && source.usedOctaves() > 1 && dims > 1;
  for (int i = 0; i < k && turns; ++i) {
    if (dims == 2) {
      multiply({{0.8, 0, -0.6}, {0, 1, 0}, {0.6, 0, 0.8}});
    } else {
      constexpr double t = 1.0 / 3.0;
      multiply({{2 * t, -t, 2 * t}, {2 * t, 2 * t, -t}, {-t, 2 * t, 2 * t}});
    }
  }
  if (source.basis == Basis::Simplex && dims > 1) {
    const double s = dims == 2 ? 0.36602540378443865 : 1.0 / 3.0;
    if (dims == 2)
      multiply({{1 + s, 0, s}, {0, 1, 0}, {s, 0, 1 + s}});
    else
      multiply({{1 + s, s, s}, {s, 1 + s, s}, {s, s, 1 + s}});
  }
  std::array<std::array<int64_t, 3>, 3> steps{};
  for (const int a : axesOf(dims))
    for (const int b : axesOf(dims))
      steps[static_cast<size_t>(a)][static_cast<size_t>(b)] =
          static_cast<int64_t>(std::floor(frequency * m[a][b] + 0.5));
  return steps;
}

/// Cells and 1/65536 cells of a number of cells, to the nearest.
void addOffset(double cells, int64_t& cell, int64_t& q) {
  cell += static_cast<int64_t>(std::floor(cells));
  q += static_cast<int64_t>(std::floor((cells - std::floor(cells)) * 65536 + 0.5));
}

float mix(float a, float b, float t) {
  return a + t * (b - a);
}
float smooth(float t) {
  return (t * t * t) * (t * (t * 6.0f - 15.0f) + 10.0f);
}
float unit(uint32_t hash) {
  return static_cast<float>(hash >> 8) / 8388608.0f - 1.0f;
}

/// The lattice about a place.
struct Lattice {
  int dims;
  int64_t node[3] = {};
  float f[3] = {};
  uint64_t seed[3] = {};

  uint32_t hash(int x, int y, int z) const {
    const auto one = [&](int a, int step) {
      return acre::axisHash(seed[a], static_cast<int64_t>(static_cast<uint64_t>(node[a]) +
                                                          static_cast<uint64_t>(int64_t{step})));
    };
    if (dims == 1) return acre::nodeHash(one(kX, x), 0);
    if (dims == 2) return acre::nodeHash(one(kX, x), one(kZ, z));
    return acre::nodeHash(acre::nodeHash(one(kX, x), one(kY, y)), one(kZ, z));
  }
};

struct Vector {
  float x = 0, y = 0, z = 0;
};

Vector gradient(uint32_t hash, int dims) {
  if (dims == 3) {
    const float e = 0.9649f;
    const uint32_t level = static_cast<uint32_t>((uint64_t{hash >> 16} * 3) >> 16);
    Vector g{(hash & 1) ? -e : e, (hash & 2) ? -e : e, (hash & 4) ? -e : e};
    (level == 0 ? g.x : level == 1 ? g.y : g.z) = 0;
    return g;
  }
  const float eighth = 0x1.a8279ap-2f * 0x1p-24f;
  const float t = static_cast<float>(hash >> 8) * eighth;
  const float scale = 0x1.6a09e6p+0f / (1.0f + t * t);
  float a = (1.0f - t * t) * scale;
  float b = (t + t) * scale;
  if (hash & 1) std::swap(a, b);
  return {(hash & 2) ? -a : a, 0, (hash & 4) ? -b : b};
}

float valueNoise(const Lattice& l) {
  const auto plane = [&](int y) {
    const auto column = [&](int x) {
      return l.dims == 1 ? unit(l.hash(x, 0, 0))
                         : mix(unit(l.hash(x, y, 0)), unit(l.hash(x, y, 1)), smooth(l.f[kZ]));
    };
    return mix(column(0), column(1), smooth(l.f[kX]));
  };
  return l.dims == 3 ? mix(plane(0), plane(1), smooth(l.f[kY])) : plane(0);
}

float gradientNoise(const Lattice& l) {
  const float u = l.f[kX], v = l.f[kZ];
  if (l.dims == 1)
    return mix(
        2.0f * unit(l.hash(0, 0, 0)) * u, 2.0f * unit(l.hash(1, 0, 0)) * (u - 1.0f), smooth(u));
  float foot[2], slope[2];
  for (int y = 0; y < (l.dims == 3 ? 2 : 1); ++y) {
    float end[2], rise[2];
    for (int x = 0; x < 2; ++x) {
      const Vector near = gradient(l.hash(x, y, 0), l.dims),
                   far = gradient(l.hash(x, y, 1), l.dims);
      const float a = mix(near.x, far.x, smooth(v));
      const float b = mix(near.z * v, far.z * (v - 1.0f), smooth(v));
      end[x] = a * (u - static_cast<float>(x)) + b;
      rise[x] = mix(near.y, far.y, smooth(v));
    }
    foot[y] = mix(end[0], end[1], smooth(u));
    slope[y] = mix(rise[0], rise[1], smooth(u));
  }
  if (l.dims == 2) return foot[0];
  const float f = l.f[kY], w = smooth(f);
  return (foot[0] + w * ((foot[1] - slope[1]) - foot[0])) +
         f * (slope[0] + w * (slope[1] - slope[0]));
}

float simplexNoise(const Lattice& l) {
  const float a = l.f[kX], h = l.f[kY], b = l.f[kZ];
  const auto fall = [](float r2, float rise) {
    const float t = std::max(0.5f - r2, 0.0f);
    return ((t * t) * (t * t)) * rise;
  };
  if (l.dims == 1) {
    float sum[2];
    for (int i = 0; i < 2; ++i) {
      const float x = a - static_cast<float>(i), t = 1.0f - x * x;
      sum[i] = ((t * t) * (t * t)) * (unit(l.hash(i, 0, 0)) * x);
    }
    return (sum[0] + sum[1]) * 3.16f;
  }
  if (l.dims == 2) {
    const float g2 = 0.2113248654f;
    const float back = (a + b) * g2;
    const int i1 = a > b ? 1 : 0;
    const int steps[3][2] = {{0, 0}, {i1, 1 - i1}, {1, 1}};
    float corner[3];
    for (int c = 0; c < 3; ++c) {
      const float shift = c == 0 ? 0.0f : c == 1 ? g2 : 2.0f * g2;
      const float x = ((a - back) - static_cast<float>(steps[c][0])) + shift;
      const float z = ((b - back) - static_cast<float>(steps[c][1])) + shift;
      const Vector g = gradient(l.hash(steps[c][0], 0, steps[c][1]), 2);
      corner[c] = fall(x * x + z * z, g.x * x + g.z * z);
    }
    return ((corner[0] + corner[1]) + corner[2]) * 70.0f;
  }
  const float g3 = 1.0f / 6.0f;
  const float back = ((a + h) + b) * g3;
  // Steps along the axes in the order of falling fractions; of equals the later axis goes first.
  int order[3] = {kX, kY, kZ};
  std::sort(
      order, order + 3, [&](int p, int q) { return l.f[p] != l.f[q] ? l.f[p] > l.f[q] : p > q; });
  int step[3] = {0, 0, 0};
  float sum = 0;
  for (int c = 0; c < 4; ++c) {
    if (c > 0) ++step[order[c - 1]];
    const float shift = c == 0 ? 0.0f : static_cast<float>(c) * g3;
    const float x = ((a - back) - static_cast<float>(step[kX])) + shift;
    const float y = ((h - back) - static_cast<float>(step[kY])) + shift;
    const float z = ((b - back) - static_cast<float>(step[kZ])) + shift;
    const Vector g = gradient(l.hash(step[kX], step[kY], step[kZ]), 3);
    const float part = fall((x * x + y * y) + z * z, (g.x * x + g.y * y) + g.z * z);
    sum = c == 0 ? part : sum + part;
  }
  return sum * 72.0f;
}

/// The published permutation.
constexpr std::array<uint8_t, 256> kPublished = {151, 160, 137, 91, 90, 15, 131, 13, 201, 95, 96,
    53, 194, 233, 7, 225, 140, 36, 103, 30, 69, 142, 8, 99, 37, 240, 21, 10, 23, 190, 6, 148, 247,
    120, 234, 75, 0, 26, 197, 62, 94, 252, 219, 203, 117, 35, 11, 32, 57, 177, 33, 88, 237, 149, 56,
    87, 174, 20, 125, 136, 171, 168, 68, 175, 74, 165, 71, 134, 139, 48, 27, 166, 77, 146, 158, 231,
    83, 111, 229, 122, 60, 211, 133, 230, 220, 105, 92, 41, 55, 46, 245, 40, 244, 102, 143, 54, 65,
    25, 63, 161, 1, 216, 80, 73, 209, 76, 132, 187, 208, 89, 18, 169, 200, 196, 135, 130, 116, 188,
    159, 86, 164, 100, 109, 198, 173, 186, 3, 64, 52, 217, 226, 250, 124, 123, 5, 202, 38, 147, 118,
    126, 255, 82, 85, 212, 207, 206, 59, 227, 47, 16, 58, 17, 182, 189, 28, 42, 223, 183, 170, 213,
    119, 248, 152, 2, 44, 154, 163, 70, 221, 153, 101, 155, 167, 43, 172, 9, 129, 22, 39, 253, 19,
    98, 108, 110, 79, 113, 224, 232, 178, 185, 112, 104, 218, 246, 97, 228, 251, 34, 242, 193, 238,
    210, 144, 12, 191, 179, 162, 241, 81, 51, 145, 235, 249, 14, 239, 107, 49, 192, 214, 31, 181,
    199, 106, 157, 184, 84, 204, 176, 115, 121, 50, 45, 127, 4, 150, 254, 138, 236, 205, 93, 222,
    114, 67, 29, 24, 72, 243, 141, 128, 195, 78, 66, 215, 61, 156, 180};

float gradient2002(const Lattice& l) {
  const auto hash = [&](int x, int y, int z) {
    int h = 0;
    const int64_t node[3] = {l.node[kX] + x, l.node[kY] + y, l.node[kZ] + z};
    for (const int a : {kX, kY, kZ})
      h = kPublished[static_cast<size_t>((h + (node[a] & 255)) & 255)];
    return h & 15;
  };
  // Along the corners' edges: the signs of two axes.
  const auto rise = [&](int cx, int cy, int cz) {
    const float x = cx ? l.f[kX] - 1.0f : l.f[kX], y = cy ? l.f[kY] - 1.0f : l.f[kY],
                z = cz ? l.f[kZ] - 1.0f : l.f[kZ];
    switch (hash(cx, cy, cz)) {
      case 0:
      case 12:
        return x + y;
      case 1:
      case 14:
        return -x + y;
      case 2:
        return x - y;
      case 3:
        return -x - y;
      case 4:
        return x + z;
      case 5:
        return -x + z;
      case 6:
        return x - z;
      case 7:
        return -x - z;
      case 8:
        return y + z;
      case 9:
      case 13:
        return -y + z;
      case 10:
        return y - z;
      default:
        return -y - z;
    }
  };
  const float u = smooth(l.f[kX]), v = smooth(l.f[kY]), w = smooth(l.f[kZ]);
  const auto layer = [&](int z) {
    return mix(mix(rise(0, 0, z), rise(1, 0, z), u), mix(rise(0, 1, z), rise(1, 1, z), u), v);
  };
  return mix(layer(0), layer(1), w);
}

/// By brute force: all squares within four of the place.
float cellularNoise(const NoiseSource& source, const Lattice& l) {
  struct Site {
    float distance;
    float value;
  };
  Site first{std::numeric_limits<float>::max(), 0}, second = first;
  const auto jitter = static_cast<float>(source.jitter);
  const auto offset = [&](uint32_t hash) {
    return 0.5f + jitter * (static_cast<float>(hash >> 12) * 0x1p-20f - 0.5f);
  };
  constexpr int kFar = 4;
  const auto consider = [&](int i, int j, int k) {
    const uint32_t h = l.hash(i, j, k);
    const uint32_t h2 = (h ^ (h >> 16)) * 0x7FEB352Du;
    const uint32_t h3 = (h2 ^ (h2 >> 15)) * 0x846CA68Bu;
    const float dx = (static_cast<float>(i) + offset(h)) - l.f[kX];
    const float dy = l.dims == 3 ? (static_cast<float>(j) + offset(h3)) - l.f[kY] : 0;
    const float dz = l.dims >= 2 ? (static_cast<float>(k) + offset(h2)) - l.f[kZ] : 0;
    float d = 0;
    switch (source.metric) {
      case acre::Metric::Euclidean:
        d = (dx * dx + dy * dy) + dz * dz;
        break;
      case acre::Metric::Manhattan:
        d = (std::abs(dx) + std::abs(dy)) + std::abs(dz);
        break;
      case acre::Metric::Chebyshev:
        d = std::max({std::abs(dx), std::abs(dy), std::abs(dz)});
        break;
    }
    const Site site{d, unit((h ^ (h >> 15)) * 0x2C1B3C6Du)};
    if (d < first.distance) {
      second = first;
      first = site;
    } else if (d < second.distance) {
      second = site;
    }
  };
  for (int j = l.dims == 3 ? -kFar : 0; j <= (l.dims == 3 ? kFar : 0); ++j)
    for (int k = l.dims >= 2 ? -kFar : 0; k <= (l.dims >= 2 ? kFar : 0); ++k)
      for (int i = -kFar; i <= kFar; ++i) consider(i, j, k);
  if (source.result == acre::CellularResult::Site) return first.value;
  const auto length = [&](float d) {
    return source.metric == acre::Metric::Euclidean ? std::sqrt(d) : d;
  };
  const float a = length(first.distance), b = length(second.distance);
  return source.result == acre::CellularResult::First    ? a
         : source.result == acre::CellularResult::Second ? b
                                                         : b - a;
}

constexpr uint64_t kAxisTags[3] = {0, 1, 2};

uint64_t fieldSeed(const std::string& id, uint64_t seed) {
  if (id == "heights") return acre::combine(seed, 0x48656967687473u);
  return acre::combine(acre::combine(seed, 0x4669656C6473u), acre::hashText(id));
}

Place at(acre::Cell cell) {
  return {{cell.x, 0, cell.z}, {0, 0, 0}};
}

float clampTo(const std::optional<acre::Clamp>& clamp, float v) {
  if (!clamp) return v;
  return std::max(static_cast<float>(clamp->low), std::min(static_cast<float>(clamp->high), v));
}

/// Fritsch and Carlson's monotone cubic, all over again.
float curve(const acre::Curve& c, float v) {
  if (c.empty()) return v;
  const size_t n = c.size();
  if (v <= static_cast<float>(c.front().x)) return static_cast<float>(c.front().y);
  if (v >= static_cast<float>(c.back().x)) return static_cast<float>(c.back().y);
  std::vector<double> d(n - 1), m(n);
  for (size_t i = 0; i + 1 < n; ++i) d[i] = (c[i + 1].y - c[i].y) / (c[i + 1].x - c[i].x);
  m[0] = d[0];
  m[n - 1] = d[n - 2];
  for (size_t i = 1; i + 1 < n; ++i) m[i] = d[i - 1] * d[i] > 0 ? (d[i - 1] + d[i]) / 2 : 0;
  for (size_t i = 0; i + 1 < n; ++i) {
    if (d[i] == 0) {
      m[i] = m[i + 1] = 0;
      continue;
    }
    const double a = m[i] / d[i], b = m[i + 1] / d[i];
    if (a * a + b * b <= 9) continue;
    const double tau = 3 / std::sqrt(a * a + b * b);
    m[i] = tau * a * d[i];
    m[i + 1] = tau * b * d[i];
  }
  size_t k = 0;
  while (k + 2 < n && v >= static_cast<float>(c[k + 1].x)) ++k;
  const double length = c[k + 1].x - c[k].x, rise = c[k + 1].y - c[k].y;
  const double in = m[k] * length, out = m[k + 1] * length;
  const float t = (v - static_cast<float>(c[k].x)) * static_cast<float>(1 / length);
  return static_cast<float>(c[k].y) +
         t * (static_cast<float>(in) + t * (static_cast<float>(3 * rise - 2 * in - out) +
                                               t * static_cast<float>(in + out - 2 * rise)));
}

double cellsFrom(const Place& p, int axis, double origin) {
  int64_t cell = 0, q = 0;
  addOffset(origin, cell, q);
  cell += q >> 16;
  q &= 65535;
  return static_cast<double>(p.cell[axis] - cell) + static_cast<double>(p.q[axis] - q) / 65536.0;
}

double between(double v) {
  return std::min(1.0, std::max(0.0, v));
}

bool inside(const std::optional<acre::AxisBounds>& axis, int64_t cell) {
  return !axis || (cell >= axis->min && cell - axis->min < axis->extent);
}

}  // namespace

float octave(const NoiseSource& source, int k, int dims, uint64_t layerSeed,
    const std::optional<acre::SamplingOffset>& sampling, const Place& where) {
  const uint64_t seed = acre::combine(layerSeed, static_cast<uint64_t>(k));
  const auto steps = stepsOf(source, k, dims);
  Place place = where;
  if (sampling) {
    addOffset(sampling->x, place.cell[kX], place.q[kX]);
    addOffset(sampling->z, place.cell[kZ], place.q[kZ]);
  }
  const bool scattered = (!sampling || sampling->scatter) && source.basis != Basis::Gradient2002;
  Lattice l{dims};
  for (const int a : axesOf(dims)) {
    Wide p = scattered ? static_cast<Wide>(acre::combine(seed, 16 + kAxisTags[a]) >> 16) : 0;
    for (const int b : axesOf(dims)) {
      const Wide s = steps[static_cast<size_t>(a)][static_cast<size_t>(b)];
      p += static_cast<Wide>(place.cell[b]) * s +
           floorDivide(static_cast<Wide>(place.q[b]) * s, 65536);
    }
    const Wide one = Wide{1} << 48;
    const Wide node = floorDivide(p, one);
    l.node[a] = static_cast<int64_t>(node);
    l.f[a] =
        static_cast<float>(static_cast<uint32_t>(static_cast<uint64_t>(p - node * one) >> 24)) /
        16777216.0f;
    l.seed[a] = acre::combine(seed, kAxisTags[a]);
  }
  switch (source.basis) {
    case Basis::Gradient:
      return gradientNoise(l);
    case Basis::Value:
      return valueNoise(l);
    case Basis::Simplex:
      return simplexNoise(l);
    case Basis::Cellular:
      return cellularNoise(source, l);
    case Basis::White:
      return unit(l.hash(0, 0, 0));
    case Basis::Gradient2002:
      return gradient2002(l);
  }
  return 0;
}

float noise(const NoiseSource& source, int dims, uint64_t layerSeed,
    const std::optional<acre::SamplingOffset>& sampling, const Place& place) {
  float sum = 0;
  double weight = 1;
  for (int k = 0; k < source.usedOctaves(); ++k, weight *= source.gain) {
    float n = octave(source, k, dims, layerSeed, sampling, place);
    if (source.fractal == Fractal::Ridged) n = 1.0f - 2.0f * std::abs(n);
    if (source.fractal == Fractal::Billowed) n = 2.0f * std::abs(n) - 1.0f;
    sum += n * static_cast<float>(weight);
  }
  return sum;
}

// ---- fields ------------------------------------------------------------------------------------

struct Evaluator::Table {
  std::vector<float> sorted;
  std::vector<float> value, share;  // Knots.

  explicit Table(std::vector<float> values) : sorted(std::move(values)) {
    std::sort(sorted.begin(), sorted.end());
    const size_t last = sorted.size() - 1;
    std::vector<float> steps;
    for (size_t k = 0; k <= 1024; ++k) steps.push_back(sorted[(k * last + 512) / 1024]);
    for (size_t k = 0; k <= 1024; ++k) {
      if (!value.empty() && value.back() == steps[k]) continue;
      const auto count = static_cast<size_t>(std::count(steps.begin(), steps.end(), steps[k]));
      value.push_back(steps[k]);
      share.push_back(static_cast<float>(2 * k + count - 1) / 2048.0f);
    }
  }

  float at(float v) const {
    const float most = 1.0f - 0x1p-24f;
    if (value.size() == 1) return share[0];
    if (v < value.front()) return 0;
    if (v >= value.back()) return most;
    size_t k = 0;
    while (v >= value[k + 1]) ++k;
    const auto slope = static_cast<float>(
        (double{share[k + 1]} - double{share[k]}) / (double{value[k + 1]} - double{value[k]}));
    return std::min(most, share[k] + (v - value[k]) * slope);
  }
};

namespace {

/// Columns between two anchors of a walk.
int64_t walkSegment(const acre::WalkSource& s) {
  const double pi2 = 9.8696044010893586;
  const double slope = 4 * s.slope * s.slope * 6 / (pi2 * s.change * s.change);
  const double high = s.high - s.low;
  const double all =
      slope + high * high / (pi2 * (s.slope * s.slope / 3 * std::max(1.0, slope))) + high / s.slope;
  int64_t n = 256;
  while (static_cast<double>(n) < 4 * all) n *= 2;
  return n;
}

/// The height of one column of a walk: from its anchor, one step after the other.
float walk(const acre::WalkSource& s, uint64_t seed, int64_t column) {
  const auto fixed = [](double v) { return static_cast<int64_t>(std::floor(v * 65536 + 0.5)); };
  const int64_t low = fixed(s.low), high = fixed(s.high), steepest = fixed(s.slope),
                most = fixed(s.change), n = walkSegment(s);
  struct State {
    int64_t height, slope;
  };
  const auto on = [&](State at, int64_t from, int64_t to) {
    for (int64_t c = from; c < to; ++c) {
      const uint64_t hash = acre::mix64(static_cast<uint64_t>(c) ^ seed) >> 32;
      int64_t turn = static_cast<int64_t>(hash * static_cast<uint64_t>(2 * most + 1) >> 32) - most;
      const int64_t zone = steepest * steepest / most;
      if (s.limits && at.slope > 0 && high - at.height < zone) turn = turn > 0 ? -turn : turn;
      if (s.limits && at.slope < 0 && at.height - low < zone) turn = turn < 0 ? -turn : turn;
      at.slope = std::max(-steepest, std::min(steepest, at.slope + turn));
      at.height += at.slope;
      if (!s.limits || (at.height > low && at.height < high)) continue;
      at.height = at.height >= high ? high : low;
      at.slope = 0;
    }
    return at;
  };
  const State level{(low + high) / 2, 0};
  const int64_t k = static_cast<int64_t>(floorDivide(column, n)), first = k * n;
  const State f = on(on(level, first - n, first), first, column);
  int64_t height = f.height;
  const int64_t half = n / 2, i = column - first;
  if (i >= half) {
    const State other = on(level, first, column);
    const int64_t t = (i - half) * 65536 / half;
    const int64_t c = t * t / 65536 * (3 * 65536 - 2 * t) / 65536;
    height += (other.height - f.height) * c / 65536;
  }
  return static_cast<float>(static_cast<double>(height) / 65536.0);
}

/// Of a picture, u and v pixels from the middle of the first one.
double pictureAt(const acre::PictureSource& s, const acre::GreyPicture& grey, double u, double v) {
  using Outside = acre::PictureSource::Outside;
  const auto pixel = [&](double i, double j) {
    double at[2] = {i, j};
    for (const int a : {0, 1}) {
      const double count = a == 0 ? grey.width : grey.height;
      if (s.outside == Outside::Repeat) at[a] -= std::floor(at[a] / count) * count;
      if (s.outside == Outside::Repeat && at[a] >= count) at[a] = 0;  // Rounded up.
      if (s.outside == Outside::Edge) at[a] = std::min(count - 1, std::max(0.0, at[a]));
      if (at[a] < 0 || at[a] >= count)
        return static_cast<double>(static_cast<float>(s.outsideValue));
    }
    return grey.pixels[static_cast<size_t>(at[1]) * static_cast<size_t>(grey.width) +
                       static_cast<size_t>(at[0])] /
           65535.0;
  };
  if (!s.smooth) return pixel(std::floor(u + 0.5), std::floor(v + 0.5));
  const double i = std::floor(u), j = std::floor(v), fu = u - i, fv = v - j;
  const double upper = pixel(i, j) + fu * (pixel(i + 1, j) - pixel(i, j));
  const double lower = pixel(i, j + 1) + fu * (pixel(i + 1, j + 1) - pixel(i, j + 1));
  return upper + fv * (lower - upper);
}

}  // namespace

Evaluator::Evaluator(const acre::Recipe& recipe)
    : recipe_(recipe), seed_(acre::seedNumber(recipe.seed)) {
  resolveShares();
}
Evaluator::~Evaluator() = default;

double Evaluator::widest(const acre::FieldRecipe& field, size_t first, size_t count) {
  double out = 1;
  for (size_t i = first; i < first + count; ++i) {
    const Layer& layer = field.layers[i];
    if (!layer.on) continue;
    if (const auto* n = std::get_if<NoiseSource>(&layer.source)) out = std::max(out, n->width);
    if (const auto* w = std::get_if<acre::WalkSource>(&layer.source))
      out = std::max(out, static_cast<double>(walkSegment(*w)));
    if (layer.warp) out = std::max(out, layer.warp->noise.width);
    const auto read = [&](const std::string& id) {
      const acre::FieldRecipe* other = acre::fieldOf(recipe_, id);
      out = std::max(out, widest(*other, 0, other->layers.size()));
    };
    if (const auto* f = std::get_if<acre::FieldSource>(&layer.source)) read(f->field);
    if (std::holds_alternative<acre::AltitudeSource>(layer.source) ||
        std::holds_alternative<acre::WaterSource>(layer.source) ||
        std::holds_alternative<acre::FreshWaterSource>(layer.source))
      read(acre::kHeightsId);
    if (layer.mask) read(layer.mask->field);
  }
  return out;
}

std::vector<acre::Cell> Evaluator::sample(double widest, bool endless) const {
  struct Axis {
    int64_t first, width, end, strata;
    Axis(const std::optional<acre::AxisBounds>& bounds, double feature) {
      width = bounds ? (bounds->extent + 255) / 256 : static_cast<int64_t>(feature) | 1;
      first = bounds ? bounds->min : -128 * width;
      end = bounds ? first + bounds->extent : first + 256 * width;
      strata = (end - first + width - 1) / width;
    }
    int64_t pick(int64_t stratum, uint64_t key) const {
      const int64_t from = first + stratum * width;
      return from + static_cast<int64_t>(key % static_cast<uint64_t>(std::min(width, end - from)));
    }
  };
  const auto& frame = recipe_.frame;
  std::vector<acre::Cell> out;
  if (!endless && frame.x && frame.z && frame.x->extent <= 65536 && frame.z->extent <= 65536 &&
      frame.x->extent * frame.z->extent <= 65536) {
    for (int64_t z = 0; z < frame.z->extent; ++z)
      for (int64_t x = 0; x < frame.x->extent; ++x)
        out.push_back({frame.x->min + x, frame.z->min + z});
    return out;
  }
  const Axis xs(endless ? std::nullopt : frame.x, widest),
      zs(endless ? std::nullopt : frame.z, widest);
  for (int64_t j = 0; j < zs.strata; ++j)
    for (int64_t i = 0; i < xs.strata; ++i) {
      const uint64_t key =
          acre::combine(acre::combine(seed_, static_cast<uint64_t>(i)), static_cast<uint64_t>(j));
      out.push_back({xs.pick(i, key & 0xFFFFFFFFu), zs.pick(j, key >> 32)});
    }
  return out;
}

bool Evaluator::alike(const Layer& layer) const {
  if (!layer.on) return true;
  const auto is = [&]<class... Kinds>() {
    return (std::holds_alternative<Kinds>(layer.source) || ...);
  };
  if (is.operator()<acre::RampSource, acre::DistanceSource, acre::IslandSource, acre::PictureSource,
          acre::LatitudeSource, acre::WaterSource, acre::FreshWaterSource>())
    return false;
  std::vector<std::string> read;
  if (const auto* f = std::get_if<acre::FieldSource>(&layer.source)) read.push_back(f->field);
  if (is.operator()<acre::AltitudeSource>()) read.push_back(acre::kHeightsId);
  if (layer.mask) read.push_back(layer.mask->field);
  if (!recipe_.heightsOn) std::erase(read, acre::kHeightsId);
  for (const std::string& id : read)
    for (const Layer& other : acre::fieldOf(recipe_, id)->layers)
      if (!alike(other)) return false;
  return true;
}

const Evaluator::Table& Evaluator::tableOf(const acre::FieldRecipe& field, size_t index) {
  auto& slot = tables_[{field.id, index}];
  if (slot) return *slot;
  const Layer& layer = field.layers[index];
  const bool stack = std::holds_alternative<acre::EqualiseSource>(layer.source);
  const bool before = acre::reshapes(layer.source);
  bool everywhere = stack || alike(layer);
  for (size_t i = 0; i < index && before; ++i) everywhere = everywhere && alike(field.layers[i]);
  std::vector<float> values;
  for (const acre::Cell cell : sample(widest(field, 0, stack ? index : index + 1), everywhere)) {
    const float sum = before ? sumAt(field, index, at(cell)) : 0;
    values.push_back((stack ? sum : rawValue(field, index, at(cell), sum)) + 0.0f);
  }
  slot = std::make_unique<Table>(std::move(values));
  return *slot;
}

void Evaluator::resolveShares() {
  std::vector<float> sorted;
  const auto valueAt = [&](double share) {
    const auto n = static_cast<double>(sorted.size());
    const auto rank = static_cast<size_t>(std::floor(share * n + 0.5));
    return static_cast<double>(
        rank < sorted.size() ? sorted[rank] : std::nextafter(sorted.back(), HUGE_VALF));
  };
  const auto measure = [&](bool shaped) {
    sorted.clear();
    const double widest =
        recipe_.heightsOn ? this->widest(recipe_.heights, 0, recipe_.heights.layers.size()) : 1;
    for (const acre::Cell cell : sample(widest, false))
      sorted.push_back((shaped ? height(cell) : base(cell)) + 0.0f);
    std::sort(sorted.begin(), sorted.end());
  };
  const auto resolve = [&](std::optional<acre::Threshold>& t, bool shaped) {
    if (!t || !t->share) return;
    if (sorted.empty()) measure(shaped);
    *t = {valueAt(*t->share), false, {}};
  };
  if (recipe_.frame.seaShare) {
    measure(false);
    recipe_.frame.seaLevel = valueAt(*recipe_.frame.seaShare);
    recipe_.frame.seaShare.reset();
  }
  acre::Biomes& biomes = recipe_.biomes;
  for (acre::Slice& slice : biomes.slices) resolve(slice.below, false);
  const bool shapes =
      biomes.on && std::any_of(biomes.list.begin(), biomes.list.end(),
                       [](const acre::Biome& biome) { return biome.relief != acre::Relief{}; });
  if (shapes) sorted.clear();
  for (acre::Band& band : recipe_.bands) resolve(band.below, shapes);
  for (acre::SlopeBand& slope : recipe_.slopes)
    for (auto* end : {&slope.above, &slope.below}) resolve(*end, shapes);
  for (acre::Biome& biome : biomes.list)
    if (biomes.on && biome.bands)
      for (acre::Band& band : *biome.bands) resolve(band.below, shapes);
}

float Evaluator::rawValue(
    const acre::FieldRecipe& field, size_t index, const Place& where, float before) {
  const Layer& layer = field.layers[index];
  const uint64_t seed = acre::combine(fieldSeed(field.id, seed_), acre::hashText(layer.id));
  Place p = where;
  if (layer.warp && !acre::reshapes(layer.source)) {
    for (int pass = 0; pass < layer.warp->passes; ++pass) {
      Place next = where;
      for (const int a : {kX, kZ}) {
        const float shift =
            noise(layer.warp->noise, 2, acre::combine(seed, 0x57617270u + static_cast<uint64_t>(a)),
                {}, p) *
            static_cast<float>(layer.warp->cells);
        const float near = std::max(-16000.0f, std::min(16000.0f, shift));
        next.q[a] += static_cast<int64_t>(std::floor(near * 65536.0f + 0.5f));
        next.cell[a] += next.q[a] >> 16;
        next.q[a] &= 65535;
      }
      p = next;
    }
  }
  if (const auto* n = std::get_if<NoiseSource>(&layer.source))
    return noise(*n, 2, seed, layer.sampling, p);
  if (layer.sampling) {
    addOffset(layer.sampling->x, p.cell[kX], p.q[kX]);
    addOffset(layer.sampling->z, p.cell[kZ], p.q[kZ]);
    for (const int a : {kX, kZ}) {
      p.cell[a] += p.q[a] >> 16;
      p.q[a] &= 65535;
    }
  }
  if (const auto* s = std::get_if<acre::ConstantSource>(&layer.source))
    return static_cast<float>(s->value);
  if (const auto* s = std::get_if<acre::RampSource>(&layer.source))
    return static_cast<float>(
        between(cellsFrom(p, s->axis == acre::Axis::X ? kX : kZ, s->from) / (s->to - s->from)));
  if (const auto* s = std::get_if<acre::DistanceSource>(&layer.source)) {
    const double x = cellsFrom(p, kX, s->x), z = cellsFrom(p, kZ, s->z);
    return static_cast<float>(between(std::sqrt(x * x + z * z) / s->reach));
  }
  if (const auto* s = std::get_if<acre::IslandSource>(&layer.source)) {
    NoiseSource outline;
    outline.octaves = 3;
    outline.width = s->wobbleWidth;
    const float stray =
        s->wobble == 0 ? 0 : noise(outline, 2, acre::combine(seed, 0x576F62626C65u), {}, p);
    const double x = std::abs(cellsFrom(p, kX, s->x)), z = std::abs(cellsFrom(p, kZ, s->z));
    const double away = s->square ? std::max(x, z) : std::sqrt(x * x + z * z);
    const double edge = s->radius + static_cast<double>(stray * static_cast<float>(s->wobble));
    return static_cast<float>(between((edge - away) / s->edge + 0.5));
  }
  if (const auto* s = std::get_if<acre::PictureSource>(&layer.source)) {
    auto& grey = pictures_[s->file];
    if (!grey)
      grey = acre::readGreyPicture(std::filesystem::path(recipe_.folder) / s->file, "").value();
    return static_cast<float>(
        pictureAt(*s, *grey, cellsFrom(p, kX, s->x) / s->scale, cellsFrom(p, kZ, s->z) / s->scale));
  }
  if (const auto* s = std::get_if<acre::FieldSource>(&layer.source)) {
    if (s->field == acre::kHeightsId && !recipe_.heightsOn) return 0;
    return fieldAt(*acre::fieldOf(recipe_, s->field), p);
  }
  if (const auto* s = std::get_if<acre::LatitudeSource>(&layer.source))
    return static_cast<float>(between(std::abs(cellsFrom(p, kZ, s->equator)) / s->reach));
  if (std::holds_alternative<acre::AltitudeSource>(layer.source)) {
    const float base = recipe_.heightsOn ? fieldAt(recipe_.heights, p) : 0;
    return std::max(base - static_cast<float>(recipe_.frame.seaLevel), 0.0f);
  }
  if (const auto* s = std::get_if<acre::WalkSource>(&layer.source))
    return walk(*s, acre::combine(seed, 0x57616C6Bu), p.cell[kX]);
  if (const auto* s = std::get_if<acre::FreshWaterSource>(&layer.source)) {
    using Tells = acre::FreshWaterSource::Tells;
    WaterValue w{"dry", 0, 0, 46, {}};
    if (acre::takesPart(recipe_, acre::StageId::Water)) w = water({p.cell[kX], p.cell[kZ]});
    if (s->tells == Tells::Shore) return w.shore;
    if (s->tells == Tells::Mark) return static_cast<float>(w.mark >> 8) / 16777216.0f;
    return w.fresh() ? static_cast<float>(w.level) - static_cast<float>(recipe_.frame.seaLevel) : 0;
  }
  if (const auto* s = std::get_if<acre::WaterSource>(&layer.source)) {
    // All cells within reach, one after the other.
    const auto reach = static_cast<int64_t>(s->reach);
    int64_t nearest = reach * reach + 1;
    for (int64_t z = -reach; z <= reach; ++z)
      for (int64_t x = -reach; x <= reach; ++x)
        if (x * x + z * z < nearest &&
            base({p.cell[kX] + x, p.cell[kZ] + z}) < static_cast<float>(recipe_.frame.seaLevel))
          nearest = x * x + z * z;
    if (nearest > reach * reach) return 1;
    return static_cast<float>(std::sqrt(static_cast<double>(nearest)) / static_cast<double>(reach));
  }
  if (const auto* s = std::get_if<acre::TerraceSource>(&layer.source)) {
    const auto height = static_cast<float>(s->height), flat = static_cast<float>(s->flat);
    const float steps = before / height, foot = std::floor(steps), way = steps - foot;
    return (foot + (way < flat ? 0.0f : (way - flat) / (1.0f - flat))) * height;
  }
  if (const auto* s = std::get_if<acre::FoldSource>(&layer.source))
    return std::abs(before - static_cast<float>(s->centre));
  if (const auto* s = std::get_if<acre::RescaleSource>(&layer.source))
    return (before - static_cast<float>(s->fromLow)) *
               static_cast<float>((s->toHigh - s->toLow) / (s->fromHigh - s->fromLow)) +
           static_cast<float>(s->toLow);
  return before;
}

float Evaluator::valueOf(
    const acre::FieldRecipe& field, size_t index, const Place& p, float before) {
  const Layer& layer = field.layers[index];
  float v = rawValue(field, index, p, before);
  if (layer.equalise || std::holds_alternative<acre::EqualiseSource>(layer.source))
    v = tableOf(field, index).at(v);
  v = curve(layer.curve, v);
  v = v * static_cast<float>(layer.amplitude) + static_cast<float>(layer.offset);
  return clampTo(layer.clamp, v);
}

float Evaluator::maskWeight(const Layer& layer, const Place& p) {
  if (!layer.mask) return 1;
  const acre::Mask& mask = *layer.mask;
  const float v = fieldAt(*acre::fieldOf(recipe_, mask.field), p);
  const float endless = std::numeric_limits<float>::infinity();
  const float low = mask.low ? static_cast<float>(*mask.low) : -endless;
  const float high = mask.high ? static_cast<float>(*mask.high) : endless;
  const auto soft = static_cast<float>(mask.soft);
  if (soft == 0) return v >= low && v < high ? 1.0f : 0.0f;
  const float up = (v - (low - soft * 0.5f)) / soft, down = ((high + soft * 0.5f) - v) / soft;
  return std::max(0.0f, std::min(1.0f, std::min(up, down)));
}

float Evaluator::sumAt(const acre::FieldRecipe& field, size_t count, const Place& p) {
  float sum = 0;
  for (size_t i = 0; i < count; ++i) {
    const Layer& layer = field.layers[i];
    if (!layer.on) continue;
    const float weight = maskWeight(layer, p);
    if (weight <= 0) continue;
    const float v = valueOf(field, i, p, sum);
    const auto k = static_cast<float>(layer.amount);
    const auto smaller = [&](float a, float b) {
      const float t = std::max(0.0f, std::min(1.0f, 0.5f + 0.5f * ((b - a) / k)));
      return (b + t * (a - b)) - k * (t * (1.0f - t));
    };
    float after = v;
    if (!acre::reshapes(layer.source)) switch (layer.combine) {
        case acre::Combine::Add:
          after = sum + v;
          break;
        case acre::Combine::Subtract:
          after = sum - v;
          break;
        case acre::Combine::Multiply:
          after = sum * v;
          break;
        case acre::Combine::Minimum:
          after = std::min(sum, v);
          break;
        case acre::Combine::Maximum:
          after = std::max(sum, v);
          break;
        case acre::Combine::SmoothMinimum:
          after = smaller(sum, v);
          break;
        case acre::Combine::SmoothMaximum:
          after = -smaller(-sum, -v);
          break;
        case acre::Combine::Mix:
          after = sum + k * (v - sum);
          break;
        case acre::Combine::Replace:
          break;
      }
    sum = weight >= 1 ? after : sum + weight * (after - sum);
  }
  return sum;
}

float Evaluator::fieldAt(const acre::FieldRecipe& field, const Place& p) {
  return clampTo(field.clamp, curve(field.curve, sumAt(field, field.layers.size(), p)));
}

float Evaluator::field(const std::string& id, acre::Cell cell) {
  return fieldAt(*acre::fieldOf(recipe_, id), at(cell));
}

float Evaluator::base(acre::Cell cell) {
  return recipe_.heightsOn ? fieldAt(recipe_.heights, at(cell)) : 0;
}

// ---- strata ------------------------------------------------------------------------------------

double Evaluator::threshold(const acre::Threshold& t) {
  return t.fromSea ? recipe_.frame.seaLevel + t.value : t.value;
}

const std::vector<acre::Band>& Evaluator::bandsOf(const std::string& id) const {
  const acre::Biome* biome = acre::biomeOf(recipe_, id);
  if (biome && !biome->bandsOf.empty()) biome = acre::biomeOf(recipe_, biome->bandsOf);
  return biome && biome->bands ? *biome->bands : recipe_.bands;
}

float curveAt(const acre::Curve& c, float v) {
  return curve(c, v);
}

CellValue Evaluator::evaluate(acre::Cell cell) {
  const LandValue ground = land(cell);
  CellValue out{ground.height, ground.biome, acre::kUnassignedId};
  const bool plane = recipe_.frame.kind == acre::WorldKind::Side;
  if (!inside(recipe_.frame.x, cell.x) ||
      (plane ? cell.z != 0 : !inside(recipe_.frame.z, cell.z))) {
    out.material = out.biome = "outside";
    if (recipe_.frame.kind == acre::WorldKind::Level && recipe_.level->on)  // Rock without end.
      out.height = static_cast<float>(recipe_.level->walls);
    return out;
  }
  if (recipe_.frame.blocks()) {  // What one sees from above: the water, or the uppermost block.
    if (claimedColumn(cell)) {
      const acre::AxisBounds& range = recipe_.frame.y;
      out.material = "open";
      for (int64_t y = range.min + range.extent; y-- > range.min && out.material == "open";)
        out.material = block(cell, y);
      return out;
    }
    const auto top = static_cast<int64_t>(std::floor(out.height)) - 1;
    out.material = plainBlock(cell, top + 1);
    if (out.material != "open") return out;
    out.material = plainBlock(cell, top);
    if (recipe_.caves->on &&
        !held(cell, top, true).empty()) {  // Opened from above: what lies deeper.
      const acre::AxisBounds& range = recipe_.frame.y;
      out.material = "open";
      for (int64_t y = range.min + range.extent; y-- > range.min && out.material == "open";)
        out.material = block(cell, y);
    }
    return out;
  }
  if (recipe_.frame.kind == acre::WorldKind::Level && recipe_.level->on) return inLevel(cell);
  out.material = opening(cell) ? recipe_.caves->opening : surface(cell, ground);
  if (acre::takesPart(recipe_, acre::StageId::Water) && !recipe_.rivers->water.empty() &&
      !opening(cell))
    if (const std::string kind = water(cell).kind; kind == "lake" || kind == "river")
      out.material = recipe_.rivers->water;
  out.material = withObjects(cell, 0, out.material);
  if (recipe_.edits && recipe_.edits->seed() == recipe_.seed)
    for (const acre::Edit& edit : recipe_.edits->all())
      if (edit.x == cell.x && edit.z == cell.z) out.material = edit.material;
  return out;
}

std::string Evaluator::surface(acre::Cell cell, const LandValue& ground) {
  struct {
    float height;
    std::string material;
  } out{ground.height, acre::kUnassignedId};
  if (!recipe_.strataOn) return out.material;
  if (!recipe_.slopes.empty()) {
    const float dx = height({cell.x + 1, cell.z}) - height({cell.x - 1, cell.z});
    const float dz = height({cell.x, cell.z + 1}) - height({cell.x, cell.z - 1});
    const float slope = std::sqrt(dx * dx + dz * dz) * 0.5f;
    for (const acre::SlopeBand& rule : recipe_.slopes) {
      if (slope < static_cast<float>(rule.from)) continue;
      if (rule.above && out.height < static_cast<float>(threshold(*rule.above))) continue;
      if (rule.below && out.height >= static_cast<float>(threshold(*rule.below))) continue;
      out.material = rule.material;
      return out.material;
    }
  }
  float last = -std::numeric_limits<float>::infinity();
  for (const acre::Band& band : bandsOf(ground.biome)) {
    if (!band.below) {
      out.material = band.material;
      return out.material;
    }
    float end = std::max(last, static_cast<float>(threshold(*band.below)));
    last = end;
    const auto width = static_cast<float>(band.edge.width);
    const uint64_t seed =
        acre::combine(acre::combine(seed_, 0x537472617461u), acre::hashText(band.id));
    if (band.edge.kind == acre::Edge::Kind::Dithered && width > 0) {
      const uint32_t hash = acre::nodeHash(acre::axisHash(acre::combine(seed, 0), cell.x),
          acre::axisHash(acre::combine(seed, 2), cell.z));
      float r = static_cast<float>(hash >> 8) / 16777216.0f;
      if (band.edge.squared) r = std::sqrt(r);
      end = end + (r - 0.5f) * width;
    } else if (band.edge.kind == acre::Edge::Kind::Noisy && width > 0) {
      NoiseSource wander;
      wander.fractal = Fractal::Single;
      wander.width = band.edge.feature;
      end = end + noise(wander, 2, seed, {}, at(cell)) * 0.5f * width;
    }
    if (out.height < end) {
      out.material = band.material;
      return out.material;
    }
  }
  return out.material;
}

int Evaluator::fill(acre::Cell cell) {
  double lowest = HUGE_VAL;
  const int64_t around[4][2] = {{1, 0}, {-1, 0}, {0, 1}, {0, -1}};
  for (const auto& [dx, dz] : around)
    lowest = std::min(lowest, std::floor(static_cast<double>(height({cell.x + dx, cell.z + dz}))));
  // Every level between the neighbour's top and the cell's own, neither included.
  const double open = std::floor(static_cast<double>(height(cell))) - lowest - 1;
  return static_cast<int>(std::clamp(open, 0.0, 65535.0));
}

}  // namespace reference
