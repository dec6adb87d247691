#include <algorithm>
#include <cmath>
#include <limits>

#include "base/hash.h"
#include "noise/kernels.h"
#include "noise/nearest.h"
#include "noise/noise.h"

namespace acre {

const std::array<uint32_t, 512> kPermutation2002 = [] {
  constexpr std::array<uint8_t, 256> kOnce = {151, 160, 137, 91, 90, 15, 131, 13, 201, 95, 96, 53,
      194, 233, 7, 225, 140, 36, 103, 30, 69, 142, 8, 99, 37, 240, 21, 10, 23, 190, 6, 148, 247,
      120, 234, 75, 0, 26, 197, 62, 94, 252, 219, 203, 117, 35, 11, 32, 57, 177, 33, 88, 237, 149,
      56, 87, 174, 20, 125, 136, 171, 168, 68, 175, 74, 165, 71, 134, 139, 48, 27, 166, 77, 146,
      158, 231, 83, 111, 229, 122, 60, 211, 133, 230, 220, 105, 92, 41, 55, 46, 245, 40, 244, 102,
      143, 54, 65, 25, 63, 161, 1, 216, 80, 73, 209, 76, 132, 187, 208, 89, 18, 169, 200, 196, 135,
      130, 116, 188, 159, 86, 164, 100, 109, 198, 173, 186, 3, 64, 52, 217, 226, 250, 124, 123, 5,
      202, 38, 147, 118, 126, 255, 82, 85, 212, 207, 206, 59, 227, 47, 16, 58, 17, 182, 189, 28, 42,
      223, 183, 170, 213, 119, 248, 152, 2, 44, 154, 163, 70, 221, 153, 101, 155, 167, 43, 172, 9,
      129, 22, 39, 253, 19, 98, 108, 110, 79, 113, 224, 232, 178, 185, 112, 104, 218, 246, 97, 228,
      251, 34, 242, 193, 238, 210, 144, 12, 191, 179, 162, 241, 81, 51, 145, 235, 249, 14, 239, 107,
      49, 192, 214, 31, 181, 199, 106, 157, 184, 84, 204, 176, 115, 121, 50, 45, 127, 4, 150, 254,
      138, 236, 205, 93, 222, 114, 67, 29, 24, 72, 243, 141, 128, 195, 78, 66, 215, 61, 156, 180};
  std::array<uint32_t, 512> twice{};
  for (size_t i = 0; i < twice.size(); ++i) twice[i] = kOnce[i % 256];
  return twice;
}();

LatticePos latticeAt(const Octave& octave, int dims, int axis, const Pos* place) {
  __extension__ using Wide = __int128;
  Wide p = static_cast<Wide>(octave.phase[axis]);
  for (int i = 0; i < dims; ++i) {
    const int b = dimAxis(dims, i);
    const Wide s = octave.steps[axis][b];
    p += place[b].cell * s + ((place[b].q * s) >> 16);
  }
  return {static_cast<int64_t>(p >> 48),
      static_cast<float>(static_cast<uint32_t>(p >> 24) & 0xFFFFFFu) * 0x1p-24f};
}

Gradient gradientOf(uint32_t hash) {
  const float t = static_cast<float>(hash >> 8) * kEighthSlope;
  const float t2 = t * t;
  const float r = kRoot2 / (1.0f + t2);
  const float c = (1.0f - t2) * r;
  const float s = (t + t) * r;
  Gradient g = (hash & 1) ? Gradient{s, c} : Gradient{c, s};
  if (hash & 2) g.x = -g.x;
  if (hash & 4) g.z = -g.z;
  return g;
}

Gradient3 gradient3Of(uint32_t hash) {
  const uint32_t level = ((hash >> 16) * 3) >> 16;  // The axis along which the gradient is level.
  return {level == 0   ? 0.0f
          : (hash & 1) ? -kEdge
                       : kEdge,
      level == 1   ? 0.0f
      : (hash & 2) ? -kEdge
                   : kEdge,
      level == 2   ? 0.0f
      : (hash & 4) ? -kEdge
                   : kEdge};
}

namespace {

/// The lattice about one place: hashes of the nodes around it on each axis, and its fractions.
struct Corner {
  int64_t node[3] = {};
  float f[3] = {};
  uint64_t seed[3] = {};

  Corner(const NoisePlan& plan, const Octave& octave, const Pos* place) {
    for (int i = 0; i < plan.dims; ++i) {
      const int a = dimAxis(plan.dims, i);
      const LatticePos p = latticeAt(octave, plan.dims, a, place);
      node[a] = p.cell;
      f[a] = p.fraction;
      seed[a] = octave.seed[a];
    }
  }
  uint32_t axis(int a, int step) const {
    return axisHash(seed[a], static_cast<int64_t>(static_cast<uint64_t>(node[a]) +
                                                  static_cast<uint64_t>(int64_t{step})));
  }
  uint32_t hash(int x) const { return nodeHash(axis(kX, x), 0); }
  uint32_t hash(int x, int z) const { return nodeHash(axis(kX, x), axis(kZ, z)); }
  uint32_t hash(int x, int y, int z) const {
    return nodeHash(axis(kX, x), axis(kY, y), axis(kZ, z));
  }
};

float value(const Corner& c, int dims) {
  const float fu = fade(c.f[kX]);
  if (dims == 1) return lerp(unitOf(c.hash(0)), unitOf(c.hash(1)), fu);
  const float fv = fade(c.f[kZ]);
  if (dims == 2)
    return lerp(lerp(unitOf(c.hash(0, 0)), unitOf(c.hash(0, 1)), fv),
        lerp(unitOf(c.hash(1, 0)), unitOf(c.hash(1, 1)), fv), fu);
  const auto plane = [&](int y) {
    return lerp(lerp(unitOf(c.hash(0, y, 0)), unitOf(c.hash(0, y, 1)), fv),
        lerp(unitOf(c.hash(1, y, 0)), unitOf(c.hash(1, y, 1)), fv), fu);
  };
  return lerp(plane(0), plane(1), fade(c.f[kY]));
}

float gradient(const Corner& c, int dims) {
  const float u = c.f[kX], fu = fade(u);
  if (dims == 1) {
    const float g0 = 2.0f * unitOf(c.hash(0)), g1 = 2.0f * unitOf(c.hash(1));
    return lerp(g0 * u, g1 * (u - 1.0f), fu);
  }
  const float v = c.f[kZ], fv = fade(v);
  if (dims == 2) {
    float a[2], b[2];
    for (int x = 0; x < 2; ++x) {
      const Gradient g0 = gradientOf(c.hash(x, 0)), g1 = gradientOf(c.hash(x, 1));
      a[x] = lerp(g0.x, g1.x, fv);
      b[x] = lerp(g0.z * v, g1.z * (v - 1.0f), fv);
    }
    return lerp(a[0] * u + b[0], a[1] * (u - 1.0f) + b[1], fu);
  }
  // The value at the foot of a lattice layer and its slope upwards, below and above the place.
  float base[2], slope[2];
  for (int y = 0; y < 2; ++y) {
    float a[2], b[2], s[2];
    for (int x = 0; x < 2; ++x) {
      const Gradient3 g0 = gradient3Of(c.hash(x, y, 0)), g1 = gradient3Of(c.hash(x, y, 1));
      a[x] = lerp(g0.x, g1.x, fv);
      b[x] = lerp(g0.z * v, g1.z * (v - 1.0f), fv);
      s[x] = lerp(g0.y, g1.y, fv);
    }
    base[y] = lerp(a[0] * u + b[0], a[1] * (u - 1.0f) + b[1], fu);
    slope[y] = lerp(s[0], s[1], fu);
  }
  const float f = c.f[kY], w = fade(f);
  return (base[0] + w * ((base[1] - slope[1]) - base[0])) +
         f * (slope[0] + w * (slope[1] - slope[0]));
}

/// One corner of a simplex: (1/2 - r^2)^4 times the rise along its gradient.
float kernel(float r2, float rise) {
  const float t = std::max(0.5f - r2, 0.0f);
  const float t2 = t * t;
  return (t2 * t2) * rise;
}

float simplex(const Corner& c, int dims) {
  const float a = c.f[kX];
  if (dims == 1) {
    const auto end = [&](int i) {
      const float x = a - static_cast<float>(i);
      const float t = 1.0f - x * x, t2 = t * t;
      return (t2 * t2) * (unitOf(c.hash(i)) * x);
    };
    return (end(0) + end(1)) * kSimplexScale1;
  }
  const float b = c.f[kZ];
  if (dims == 2) {
    const bool xFirst = a > b;
    const float s = (a + b) * kUnskew2;
    const float x0 = a - s, z0 = b - s;
    const auto corner = [&](int i, int j, float back) {
      const float x = (x0 - static_cast<float>(i)) + back, z = (z0 - static_cast<float>(j)) + back;
      const Gradient g = gradientOf(c.hash(i, j));
      return kernel(x * x + z * z, g.x * x + g.z * z);
    };
    return ((corner(0, 0, 0.0f) + corner(xFirst ? 1 : 0, xFirst ? 0 : 1, kUnskew2)) +
               corner(1, 1, 2.0f * kUnskew2)) *
           kSimplexScale2;
  }
  const float h = c.f[kY];
  const float s = ((a + h) + b) * kUnskew3;
  const float x0 = a - s, y0 = h - s, z0 = b - s;
  // How many of the other fractions each one is above: 2 steps first, 0 steps last.
  const bool xy = a > h, xz = a > b, yz = h > b;
  const int rx = (xy ? 1 : 0) + (xz ? 1 : 0), ry = (xy ? 0 : 1) + (yz ? 1 : 0),
            rz = (xz ? 0 : 1) + (yz ? 0 : 1);
  const auto corner = [&](int i, int j, int k, float back) {
    const float x = (x0 - static_cast<float>(i)) + back, y = (y0 - static_cast<float>(j)) + back,
                z = (z0 - static_cast<float>(k)) + back;
    const Gradient3 g = gradient3Of(c.hash(i, j, k));
    return kernel((x * x + y * y) + z * z, (g.x * x + g.y * y) + g.z * z);
  };
  return (((corner(0, 0, 0, 0.0f) + corner(rx > 1, ry > 1, rz > 1, kUnskew3)) +
              corner(rx > 0, ry > 0, rz > 0, 2.0f * kUnskew3)) +
             corner(1, 1, 1, 3.0f * kUnskew3)) *
         kSimplexScale3;
}

float cellular(const NoisePlan& plan, const Corner& c) {
  const int dims = plan.dims;
  const bool needSecond =
      plan.result == CellularResult::Second || plan.result == CellularResult::Difference;
  float first = std::numeric_limits<float>::max(), second = first, site = 0;
  const auto visit = [&](int i, int j, int k) {
    const uint32_t h = dims == 1 ? c.hash(i) : dims == 2 ? c.hash(i, k) : c.hash(i, j, k);
    const uint32_t h2 = siteHash2(h);
    const float dx = static_cast<float>(i) + siteOffset(h, plan.jitter) - c.f[kX];
    const float dz = dims > 1 ? static_cast<float>(k) + siteOffset(h2, plan.jitter) - c.f[kZ] : 0;
    const float dy =
        dims > 2 ? static_cast<float>(j) + siteOffset(siteHash3(h2), plan.jitter) - c.f[kY] : 0;
    const float ax = std::abs(dx), ay = std::abs(dy), az = std::abs(dz);
    const float d = plan.metric == Metric::Euclidean   ? (dx * dx + dy * dy) + dz * dz
                    : plan.metric == Metric::Manhattan ? (ax + ay) + az
                                                       : std::max(std::max(ax, ay), az);
    if (d < first) {
      second = first;
      first = d;
      site = siteValue(h);
    } else if (d < second) {
      second = d;
    }
  };
  // Rings of squares outward, until no farther one can hold a nearer site.
  for (int ring = 1;; ++ring) {
    const int ry = dims > 2 ? ring : 0, rz = dims > 1 ? ring : 0;
    for (int j = -ry; j <= ry; ++j)
      for (int k = -rz; k <= rz; ++k)
        for (int i = -ring; i <= ring; ++i) {
          const int reach = std::max(std::max(std::abs(i), std::abs(j)), std::abs(k));
          if (reach == ring || (ring == 1 && reach == 0)) visit(i, j, k);
        }
    float free = 1;
    for (int n = 0; n < dims; ++n) {
      const float f = c.f[dimAxis(dims, n)];
      free = std::min(free, std::min(f, 1.0f - f));
    }
    free = free + static_cast<float>(ring);
    if (plan.metric == Metric::Euclidean) free = free * free;
    if ((needSecond ? second : first) <= free) break;
  }
  if (plan.result == CellularResult::Site) return site;
  if (plan.metric == Metric::Euclidean) {
    first = std::sqrt(first);
    second = std::sqrt(second);
  }
  return plan.result == CellularResult::First    ? first
         : plan.result == CellularResult::Second ? second
                                                 : second - first;
}

/// "Improving noise" with its own permutation and sixteen gradients. Two dimensions: y = 0.
float gradient2002(const Corner& c, int dims) {
  const auto node = [&](int a) { return static_cast<uint32_t>(c.node[a]) & 255u; };
  const uint32_t nx = node(kX), ny = dims > 2 ? node(kY) : 0, nz = dims > 1 ? node(kZ) : 0;
  const float x = c.f[kX], y = dims > 2 ? c.f[kY] : 0, z = dims > 1 ? c.f[kZ] : 0;
  const uint32_t* p = kPermutation2002.data();
  const uint32_t a = p[nx] + ny, b = p[nx + 1] + ny;
  const uint32_t aa = p[a] + nz, ab = p[a + 1] + nz, ba = p[b] + nz, bb = p[b + 1] + nz;
  const auto rise = [](uint32_t hash, float dx, float dy, float dz) {
    const uint32_t h = hash & 15;
    const float u = h < 8 ? dx : dy;
    const float v = h < 4 ? dy : (h == 12 || h == 14) ? dx : dz;
    return ((h & 1) ? -u : u) + ((h & 2) ? -v : v);
  };
  const float u = fade(x), v = fade(y), w = fade(z);
  return lerp(lerp(lerp(rise(p[aa], x, y, z), rise(p[ba], x - 1, y, z), u),
                  lerp(rise(p[ab], x, y - 1, z), rise(p[bb], x - 1, y - 1, z), u), v),
      lerp(lerp(rise(p[aa + 1], x, y, z - 1), rise(p[ba + 1], x - 1, y, z - 1), u),
          lerp(rise(p[ab + 1], x, y - 1, z - 1), rise(p[bb + 1], x - 1, y - 1, z - 1), u), v),
      w);
}

}  // namespace

float octaveAt(const NoisePlan& plan, const Octave& octave, const Pos* place) {
  const Corner c(plan, octave, place);
  switch (plan.basis) {
    case Basis::Gradient:
      return gradient(c, plan.dims);
    case Basis::Value:
      return value(c, plan.dims);
    case Basis::Simplex:
      return simplex(c, plan.dims);
    case Basis::Cellular:
      return cellular(plan, c);
    case Basis::White:
      return unitOf(plan.dims == 1 ? c.hash(0) : plan.dims == 2 ? c.hash(0, 0) : c.hash(0, 0, 0));
    case Basis::Gradient2002:
      return gradient2002(c, plan.dims);
  }
  return 0;
}

float noiseAt(const NoisePlan& plan, const Pos* place) {
  // The fractions of place and shift add up to less than two cells; q may exceed one cell.
  Pos shifted[3];
  for (int a = 0; a < 3; ++a)
    shifted[a] = {place[a].cell + plan.shift[a].cell, place[a].q + plan.shift[a].q};
  float sum = 0;
  for (const Octave& octave : plan.octaves) {
    float n = octaveAt(plan, octave, shifted);
    if (plan.shape == Shape::Ridged) n = 1.0f - 2.0f * std::abs(n);
    if (plan.shape == Shape::Billowed) n = 2.0f * std::abs(n) - 1.0f;
    sum = sum + n * octave.weight;
  }
  return sum;
}

double octaveReach(const NoiseSource& source, int dims) {
  if (source.basis != Basis::Cellular || source.result == CellularResult::Site) return 1;
  const bool first = source.result == CellularResult::First;
  // The farthest that the site of the own square, or of the nearer neighbour's, can be.
  const double side = first ? 1 : 1.5;
  switch (source.metric) {
    case Metric::Euclidean:
      return std::sqrt(side * side + dims - 1);
    case Metric::Manhattan:
      return side + dims - 1;
    case Metric::Chebyshev:
      return side;
  }
  return side;
}

// ---- the table without vectors -----------------------------------------------------------------

namespace {

void plainGrid(
    const NoisePlan& plan, const SampleGrid& grid, const Join& join, float* acc, ptrdiff_t stride) {
  for (int32_t j = 0; j < grid.length; ++j) {
    for (int32_t i = 0; i < grid.width; ++i) {
      const Pos place[3] = {{grid.x + i * grid.step, 0}, {}, {grid.z + j * grid.step, 0}};
      float& sum = acc[j * stride + i];
      sum = join.apply(sum, noiseAt(plan, place) * join.amplitude + join.offset);
    }
  }
}

void plainBlock(const NoisePlan& plan, const SampleBlock& block, float* out) {
  for (int32_t y = 0; y < block.height; ++y)
    for (int32_t z = 0; z < block.length; ++z)
      for (int32_t x = 0; x < block.width; ++x) {
        const Pos place[3] = {{block.x + x * block.step, 0}, {block.y + y * block.step, 0},
            {block.z + z * block.step, 0}};
        *out++ = noiseAt(plan, place);
      }
}

void plainPoints(const NoisePlan& plan, const Points& points, float* out) {
  for (int i = 0; i < points.count; ++i) {
    Pos place[3];
    for (int n = 0; n < plan.dims; ++n) {
      const int a = dimAxis(plan.dims, n);
      place[a] = {points.cell[a][i], points.q[a][i]};
    }
    out[i] = noiseAt(plan, place);
  }
}

void plainBands(const float* heights, int64_t count, const float* thresholds, int thresholdCount,
    uint16_t* bands) {
  for (int64_t i = 0; i < count; ++i) {
    int band = 0;
    while (band < thresholdCount && !(heights[i] < thresholds[band])) ++band;
    bands[i] = static_cast<uint16_t>(band);
  }
}

}  // namespace

const Kernels& plainKernels() {
  static constexpr Kernels table{"plain", plainGrid, plainBlock, plainPoints, plainBands,
      plainNearestSites, plainSiteBorders, plainNearestIdeal, plainCurve, plainShares, plainScale,
      plainMask, plainJoin, plainShift, plainTileClasses, plainTileInside, plainTileNeighbours,
      plainTileSides, plainTileCorners, plainTileValues, plainTileVariants};
  return table;
}

}  // namespace acre
