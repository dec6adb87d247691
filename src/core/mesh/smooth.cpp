#include "mesh/smooth.h"

#include <algorithm>
#include <cmath>
#include <utility>

namespace acre {
namespace {

/// Corners of a cube: bit 0 is x, bit 1 y, bit 2 z. Edges: axis * 4 + which of the four, counted by
/// the other two bits.
constexpr int kCorners = 8, kEdges = 12;

constexpr int edgeBetween(int a, int b) {
  const int axis = (a ^ b) == 1 ? 0 : (a ^ b) == 2 ? 1 : 2;
  const int low = a & b;
  const int others = axis == 0 ? low >> 1 : axis == 1 ? (low & 1) | (low >> 1 & 2) : low & 3;
  return axis * 4 + others;
}

/// The four corners of each side, anticlockwise seen from outside.
constexpr int kSideCorners[kSides][4] = {
    {0, 4, 6, 2}, {1, 3, 7, 5}, {0, 1, 5, 4}, {2, 6, 7, 3}, {0, 2, 3, 1}, {4, 5, 7, 6}};

/// How the cuts of a cube go round it.
struct Loops {
  struct Loop {
    int length = 0;
    std::array<uint8_t, kEdges> edges{};
    bool fan = false;  // From a point in its middle: a diagonal might be another cube's as well.
  };
  int count = 0;
  std::array<Loop, 4> of{};
};

/// The run of solid corners that ends at place i of a side, and the cut before it.
int cutBefore(const int (&corners)[4], int solid, int i) {
  int k = i;
  while (solid >> corners[(k + 3) % 4] & 1) k = (k + 3) % 4;
  return edgeBetween(corners[(k + 3) % 4], corners[k]);
}

Loops loopsOf(int solid) {
  std::array<int, kEdges> next;
  next.fill(-1);
  bool crossed = false;  // Some side has four cuts.
  for (const auto& corners : kSideCorners) {
    int cuts = 0;
    for (int i = 0; i < 4; ++i) {
      const int here = corners[i], there = corners[(i + 1) % 4];
      if (!(solid >> here & 1) || (solid >> there & 1)) continue;
      next[static_cast<size_t>(edgeBetween(here, there))] = cutBefore(corners, solid, i);
      ++cuts;
    }
    crossed = crossed || cuts == 2;
  }
  Loops out;
  for (int first = 0; first < kEdges; ++first) {
    if (next[static_cast<size_t>(first)] < 0) continue;
    Loops::Loop& loop = out.of[static_cast<size_t>(out.count++)];
    for (int e = first; next[static_cast<size_t>(e)] >= 0;) {
      loop.edges[static_cast<size_t>(loop.length++)] = static_cast<uint8_t>(e);
      e = std::exchange(next[static_cast<size_t>(e)], -1);
    }
    // Traced with the solid on its right: turned round, so that it is anticlockwise from outside.
    std::reverse(loop.edges.begin(), loop.edges.begin() + loop.length);
    loop.fan = loop.length > 4 || (loop.length == 4 && crossed);
  }
  return out;
}

const std::array<Loops, 256>& allLoops() {
  static const std::array<Loops, 256> table = [] {
    std::array<Loops, 256> out;
    for (int solid = 0; solid < 256; ++solid) out[static_cast<size_t>(solid)] = loopsOf(solid);
    return out;
  }();
  return table;
}

class Surfacer {
 public:
  Surfacer(const BlockClasses& classes, std::span<const MaterialIndex> blocks, BlockMesh& mesh)
      : mesh_(mesh),
        blocks_(blocks.data()),
        extents_{mesh.width, mesh.tall, mesh.depth},
        strides_{1, ptrdiff_t{mesh.width + 4} * (mesh.depth + 4), mesh.width + 4} {
    solid_.reserve(blocks.size());
    for (const MaterialIndex m : blocks) solid_.push_back(classes.of(m) == BlockClass::Solid);
  }

  void run() {
    const uint8_t any = *std::max_element(solid_.begin(), solid_.end());
    const uint8_t all = *std::min_element(solid_.begin(), solid_.end());
    if (!any || all) return;  // Nothing begins or ends here.
    cuts_.assign(solid_.size() * 3, kNone);
    for (int axis = 0; axis < 3; ++axis) first_[axis] = outsideBefore(axis) ? -1 : 0;
    for (int j = first_[1]; j < extents_[1]; ++j)
      for (int k = first_[2]; k < extents_[2]; ++k)
        for (int i = first_[0]; i < extents_[0]; ++i) cutCube({i, j, k});
    if (mesh_.triangles.empty()) return;
    for (int side = 0; side < kSides; ++side) buildWall(side);
  }

 private:
  using Place = std::array<int, 3>;  // x, y, z, in samples from the brick's first.

  ptrdiff_t at(const Place& p) const {
    return (p[0] + kSmoothApron) * strides_[0] + (p[1] + kSmoothApron) * strides_[1] +
           (p[2] + kSmoothApron) * strides_[2];
  }
  bool solid(const Place& p) const { return solid_[static_cast<size_t>(at(p))] != 0; }

  /// Whether the samples before the brick along an axis are no part of the world at all.
  bool outsideBefore(int axis) const {
    Place p;
    const int u = (axis + 1) % 3, v = (axis + 2) % 3;
    p[static_cast<size_t>(axis)] = -1;
    for (int b = 0; b < extents_[v]; ++b)
      for (int a = 0; a < extents_[u]; ++a) {
        p[static_cast<size_t>(u)] = a;
        p[static_cast<size_t>(v)] = b;
        if (blocks_[at(p)] != kOutside) return false;
      }
    return true;
  }

  /// How much of the samples about one is solid, and whither they become fewer.
  struct Around {
    float share;
    float x, y, z;
  };
  Around around(const Place& p) const {
    const uint8_t* middle = solid_.data() + at(p);
    int sum = 0, x = 0, y = 0, z = 0;
    for (int dy = -1; dy <= 1; ++dy)
      for (int dz = -1; dz <= 1; ++dz)
        for (int dx = -1; dx <= 1; ++dx) {
          const int s = middle[dx + dy * strides_[1] + dz * strides_[2]];
          sum += s;
          x -= dx * s;
          y -= dy * s;
          z -= dz * s;
        }
    return {static_cast<float>(sum) / 27.0f, static_cast<float>(x), static_cast<float>(y),
        static_cast<float>(z)};
  }

  static void setLength(SurfacePoint& point, float x, float y, float z) {
    const float length = std::sqrt(x * x + y * y + z * z);
    const bool any = length > 1e-6f;
    point.nx = any ? x / length : 0.0f;
    point.ny = any ? y / length : 1.0f;
    point.nz = any ? z / length : 0.0f;
  }

  /// The cut between a sample and the next along an axis; made once.
  uint32_t cut(const Place& low, int axis) {
    uint32_t& known = cuts_[static_cast<size_t>(at(low) * 3 + axis)];
    if (known != kNone) return known;
    known = static_cast<uint32_t>(mesh_.points.size());
    Place high = low;
    ++high[static_cast<size_t>(axis)];
    const bool lowSolid = solid(low);
    const Around a = around(lowSolid ? low : high), b = around(lowSolid ? high : low);
    constexpr float kLeast = 0.06f;  // So that no two cuts fall together.
    const float inside = std::max(a.share - 0.5f, kLeast),
                outside = std::max(0.5f - b.share, kLeast);
    const float t = inside / (inside + outside);
    const float along = lowSolid ? t : 1.0f - t;
    SurfacePoint point{static_cast<float>(low[0]) + 0.5f, static_cast<float>(low[1]) + 0.5f,
        static_cast<float>(low[2]) + 0.5f, 0, 1, 0};
    (axis == 0 ? point.x : axis == 1 ? point.y : point.z) += along;
    setLength(point, a.x + t * (b.x - a.x), a.y + t * (b.y - a.y), a.z + t * (b.z - a.z));
    mesh_.points.push_back(point);
    return known;
  }

  static Place cornerOf(const Place& cube, int corner) {
    return {cube[0] + (corner & 1), cube[1] + (corner >> 1 & 1), cube[2] + (corner >> 2 & 1)};
  }
  /// Lower corner of an edge.
  static int lowCorner(int edge) {
    const int axis = edge / 4, others = edge % 4;
    return axis == 0 ? others << 1 : axis == 1 ? (others & 1) | (others & 2) << 1 : others;
  }

  void cutCube(const Place& cube) {
    int bits = 0;
    for (int c = 0; c < kCorners; ++c) bits |= static_cast<int>(solid(cornerOf(cube, c))) << c;
    if (bits == 0 || bits == 255) return;
    const Loops& loops = allLoops()[static_cast<size_t>(bits)];
    for (int l = 0; l < loops.count; ++l) {
      const Loops::Loop& loop = loops.of[static_cast<size_t>(l)];
      std::array<uint32_t, kEdges + 1> corners;
      // What the ground is made of: seen from above if it can be.
      MaterialIndex material = kUnassigned;
      bool fromAbove = false;
      for (int n = 0; n < loop.length; ++n) {
        const int edge = loop.edges[static_cast<size_t>(n)], axis = edge / 4;
        const Place low = cornerOf(cube, lowCorner(edge));
        corners[static_cast<size_t>(n)] = cut(low, axis);
        Place high = low;
        ++high[static_cast<size_t>(axis)];
        const bool lowSolid = solid(low), above = axis == 1 && lowSolid;
        if (n == 0 || (above && !fromAbove)) material = blocks_[at(lowSolid ? low : high)];
        fromAbove = fromAbove || above;
      }
      fillLoop({corners.data(), static_cast<size_t>(loop.length)}, loop.fan, material);
    }
  }

  void fillLoop(std::span<const uint32_t> corners, bool fan, MaterialIndex material) {
    auto& out = mesh_.triangles;
    if (!fan) {
      for (size_t n = 2; n < corners.size(); ++n)
        out.push_back({corners[0], corners[n - 1], corners[n], material});
      return;
    }
    SurfacePoint middle{};
    float x = 0, y = 0, z = 0;
    for (const uint32_t c : corners) {
      const SurfacePoint& p = mesh_.points[c];
      middle.x += p.x;
      middle.y += p.y;
      middle.z += p.z;
      x += p.nx;
      y += p.ny;
      z += p.nz;
    }
    const float part = 1.0f / static_cast<float>(corners.size());
    middle.x *= part;
    middle.y *= part;
    middle.z *= part;
    setLength(middle, x, y, z);
    const auto index = static_cast<uint32_t>(mesh_.points.size());
    mesh_.points.push_back(middle);
    for (size_t n = 0; n < corners.size(); ++n)
      out.push_back({corners[n], corners[(n + 1) % corners.size()], index, material});
  }

  // ---- walls -----------------------------------------------------------------------------------

  /// A sample itself, as a corner of a wall.
  uint32_t pointAt(const Place& p, int side) {
    uint32_t& known = wallPoints_[static_cast<size_t>(at(p))];
    if (known != kNone) return known;
    known = static_cast<uint32_t>(mesh_.points.size());
    const float way = side % 2 ? 1.0f : -1.0f;
    mesh_.points.push_back({static_cast<float>(p[0]) + 0.5f, static_cast<float>(p[1]) + 0.5f,
        static_cast<float>(p[2]) + 0.5f, side / 2 == 0 ? way : 0.0f, side / 2 == 1 ? way : 0.0f,
        side / 2 == 2 ? way : 0.0f});
    return known;
  }

  /// What is solid on the plane of a side, square by square; solid corners apart where they meet
  /// only across a square, as in the cubes.
  void buildWall(int side) {
    const int axis = side / 2;
    const auto normal = static_cast<size_t>(axis);
    const int u = (axis + 1) % 3, v = (axis + 2) % 3;
    auto& out = mesh_.walls[static_cast<size_t>(side)];
    wallPoints_.assign(solid_.size(), kNone);
    Place p;
    p[normal] = side % 2 ? extents_[axis] : first_[axis];
    for (int b = first_[v]; b < extents_[v]; ++b)
      for (int a = first_[u]; a < extents_[u]; ++a) {
        // Anticlockwise seen from outside the brick: u x v points up the axis.
        Place corners[4];
        constexpr int kSteps[4][2] = {{0, 0}, {1, 0}, {1, 1}, {0, 1}};
        for (int n = 0; n < 4; ++n) {
          const int m = side % 2 ? n : 3 - n;
          p[static_cast<size_t>(u)] = a + kSteps[m][0];
          p[static_cast<size_t>(v)] = b + kSteps[m][1];
          corners[n] = p;
        }
        fillSquare(corners, side, out);
      }
    out.shrink_to_fit();
  }

  uint32_t cutBetween(const Place& a, const Place& b) {
    const int axis = a[0] != b[0] ? 0 : a[1] != b[1] ? 1 : 2;
    const auto k = static_cast<size_t>(axis);
    return cut(a[k] < b[k] ? a : b, axis);
  }

  void fillSquare(const Place (&corners)[4], int side, std::vector<SurfaceTriangle>& out) {
    bool is[4];
    int count = 0;
    for (int n = 0; n < 4; ++n) count += is[n] = solid(corners[n]);
    if (count == 0) return;
    const auto polygon = [&](std::span<const uint32_t> at, MaterialIndex material) {
      for (size_t n = 2; n < at.size(); ++n) out.push_back({at[0], at[n - 1], at[n], material});
    };
    std::array<uint32_t, 6> at;
    if (count == 4) {
      for (size_t n = 0; n < 4; ++n) at[n] = pointAt(corners[n], side);
      return polygon({at.data(), 4}, blocks_[this->at(corners[0])]);
    }
    for (int n = 0; n < 4; ++n) {
      if (!is[n] || is[(n + 3) % 4]) continue;  // Where a run of solid corners begins.
      size_t size = 0;
      at[size++] = cutBetween(corners[(n + 3) % 4], corners[n]);
      int m = n;
      for (; is[m]; m = (m + 1) % 4) at[size++] = pointAt(corners[m], side);
      at[size++] = cutBetween(corners[(m + 3) % 4], corners[m]);
      polygon({at.data(), size}, blocks_[this->at(corners[n])]);
    }
  }

  BlockMesh& mesh_;
  const MaterialIndex* blocks_;
  const int extents_[3];
  const ptrdiff_t strides_[3];
  int first_[3] = {};
  std::vector<uint8_t> solid_;
  static constexpr uint32_t kNone = 0xFFFFFFFF;
  std::vector<uint32_t> cuts_;  // By lower sample and axis.
  std::vector<uint32_t> wallPoints_;
};

}  // namespace

void buildSmooth(
    const BlockClasses& classes, std::span<const MaterialIndex> blocks, BlockMesh& mesh) {
  mesh.points.clear();
  mesh.triangles.clear();
  for (auto& wall : mesh.walls) wall.clear();
  Surfacer(classes, blocks, mesh).run();
}

}  // namespace acre
