// A rasteriser for rectangles of one colour: inverse depth and an index per pixel first, then one
// pass that colours what is left. Screens are cut into bands that threads take one by one, so no
// two of them write the same pixel.

#include <algorithm>
#include <array>
#include <cmath>
#include <iterator>
#include <optional>
#include <span>

#include "base/hash.h"
#include "base/parallel.h"
#include "view/scene.h"

namespace acre {
namespace {

constexpr double kLampReach = 96;  // Cells beyond which a lamp leaves nothing to be seen.
constexpr float kNear = 0.05f;
constexpr int kBand = 32;  // Rows of a band.
/// Distances in cells that part what is drawn first from what is drawn when that covers things.
constexpr double kShells[] = {40, 80, 140, 240, 400};

struct Point {
  float x, y, z;  // Right, up, forward.
};

/// What is needed to colour a pixel.
struct Thing {
  MaterialIndex material = 0;
  Side side = Side::Up;
  bool smooth = false;
  bool holed = false;  ///< Its holes need no ink about them.
  /// Light on a smooth surface at a place, as the eye has it: lx * x + ly * y + lz * z + l.
  float lx = 0, ly = 0, lz = 0, l = 0;
  float steep = 0;  ///< Of a smooth surface: 0 level, 1 upright.
};

/// A polygon on the screen. 1/depth is a*x + b*y + c at a pixel's middle.
struct Polygon {
  std::array<float, 5> x, y;
  int count = 0;
  float a = 0, b = 0, c = 0;
  Thing thing;
  uint32_t there = 255;  ///< Of 255 parts of it; below it has holes.
};

struct Lens {
  float scale;  // Pixels per unit at depth 1.
  float middleX, middleY;
};

/// Cuts away what lies nearer than kNear. Returns the number of corners.
int clipNear(std::span<const Point> in, std::array<Point, 5>& out) {
  int n = 0;
  for (size_t i = 0; i < in.size(); ++i) {
    const Point &p = in[i], &q = in[(i + 1) % in.size()];
    const bool pIn = p.z >= kNear, qIn = q.z >= kNear;
    if (pIn) out[static_cast<size_t>(n++)] = p;
    if (pIn == qIn) continue;
    const float t = (kNear - p.z) / (q.z - p.z);
    out[static_cast<size_t>(n++)] = {p.x + t * (q.x - p.x), p.y + t * (q.y - p.y), kNear};
  }
  return n;
}

/// Plane of 1/depth over the screen through the rectangle with normal n (in eye space) and a
/// corner.
void setPlane(Polygon& polygon, const Point& normal, const Point& corner, const Lens& lens) {
  // A point at depth z on pixel (x, y) is z*((x - mx)/s, (my - y)/s, 1); n . p = n . corner.
  const float d = normal.x * corner.x + normal.y * corner.y + normal.z * corner.z;
  const float inverse = 1.0f / d;
  polygon.a = normal.x / lens.scale * inverse;
  polygon.b = -normal.y / lens.scale * inverse;
  polygon.c =
      (normal.z - normal.x * lens.middleX / lens.scale + normal.y * lens.middleY / lens.scale) *
      inverse;
}

/// The polygons of one mesh that face the eye and may be in the picture.
class Projector {
 public:
  Projector(const Eye& eye, const ViewStyle& style, int32_t width, int32_t height)
      : eye_(eye), style_(style), width_(width), height_(height), to_(directionsOf(eye)) {
    const double half = std::tan(eye.field * (3.14159265358979323846 / 360));
    lens_ = {static_cast<float>(width / 2.0 / half), static_cast<float>(width) / 2,
        static_cast<float>(height) / 2};
  }

  const Lens& lens() const { return lens_; }
  const Directions& directions() const { return to_; }

  void project(const BlockMesh& mesh, std::vector<Polygon>& out) const {
    if (mesh.quads.empty() || !mayShow(mesh)) return;
    // The mesh's origin as the eye has it.
    const double ox = static_cast<double>(mesh.x - eye_.cellX) - eye_.x;
    const double oy = static_cast<double>(mesh.y) - eye_.y;
    const double oz = static_cast<double>(mesh.z - eye_.cellZ) - eye_.z;
    const auto step = static_cast<double>(mesh.step);
    const Point origin = turn(ox, oy, oz);
    const std::array<Point, 3> axes = {turn(step, 0, 0), turn(0, step, 0), turn(0, 0, step)};
    const double places[3] = {ox, oy, oz};
    for (const Quad& quad : mesh.quads) {
      const int axis = static_cast<int>(quad.side) / 2;
      const bool positive = static_cast<int>(quad.side) % 2 != 0;
      const uint8_t at[3] = {quad.x, quad.y, quad.z};
      const double plane = places[axis] + step * at[axis];
      const uint32_t there = partOf(quad.material);
      // It looks away from the eye, and nobody looks through what is before it.
      if (there == 255 && (positive ? plane >= 0 : plane <= 0)) continue;
      const int u = axis == 0 ? 2 : 0, v = axis == 1 ? 2 : 1;
      const auto corner = [&](int i, int j) {
        const float c[3] = {static_cast<float>(at[0] + (u == 0 ? i : 0) + (v == 0 ? j : 0)),
            static_cast<float>(at[1] + (u == 1 ? i : 0) + (v == 1 ? j : 0)),
            static_cast<float>(at[2] + (u == 2 ? i : 0) + (v == 2 ? j : 0))};
        return Point{origin.x + axes[0].x * c[0] + axes[1].x * c[1] + axes[2].x * c[2],
            origin.y + axes[0].y * c[0] + axes[1].y * c[1] + axes[2].y * c[2],
            origin.z + axes[0].z * c[0] + axes[1].z * c[1] + axes[2].z * c[2]};
      };
      const std::array<Point, 4> corners = {corner(0, 0), corner(quad.width, 0),
          corner(quad.width, quad.height), corner(0, quad.height)};
      Polygon polygon;
      if (!place(corners, polygon)) continue;
      setPlane(polygon, axes[static_cast<size_t>(axis)], corners[0], lens_);
      polygon.thing.material = quad.material;
      polygon.thing.side = quad.side;
      polygon.there = there;
      polygon.thing.holed = there < 255;
      out.push_back(polygon);
    }
  }

  /// The cell under a pixel at a depth, in eighths of a cell from that of the eye along x, y, z.
  std::array<int64_t, 3> eighthsAt(int32_t x, int32_t y, double depth) const {
    const double right =
        (x + 0.5 - static_cast<double>(lens_.middleX)) / static_cast<double>(lens_.scale);
    const double up =
        (static_cast<double>(lens_.middleY) - y - 0.5) / static_cast<double>(lens_.scale);
    const auto along = [&](double forward, double aside, double above, double from) {
      return static_cast<int64_t>(
          std::floor((from + (forward + aside * right + above * up) * depth) * 8 + 1e-3));
    };
    return {along(to_.forward.x, to_.right.x, to_.up.x, eye_.x),
        along(to_.forward.y, to_.right.y, to_.up.y, eye_.y),
        along(to_.forward.z, to_.right.z, to_.up.z, eye_.z)};
  }
  /// Whether a face that is there in part is so at a pixel. Holes are an eighth of a cell wide and
  /// are not seen from where they are less than a pixel.
  bool isThere(const Polygon& polygon, int32_t x, int32_t y, float inverse) const {
    if (inverse * lens_.scale < 8) return true;
    auto at = eighthsAt(x, y, 1 / static_cast<double>(inverse));
    at[0] += eye_.cellX * 8;
    at[2] += eye_.cellZ * 8;
    // Across itself a face has no width.
    auto& across = at[static_cast<size_t>(polygon.thing.side) / 2];
    across = (across + 4) >> 3;
    uint32_t hash = 0;
    for (const int64_t one : at) hash = nodeHash(hash, static_cast<uint32_t>(one));
    return (hash & 255) < polygon.there;
  }

  /// The triangles of a smooth mesh, and those of its walls that are drawn.
  void projectSmooth(
      const ScenePart& part, const SideLight& light, std::vector<Polygon>& out) const {
    const BlockMesh& mesh = *part.mesh;
    if (mesh.points.empty() || !mayShow(mesh)) return;
    const double ox = static_cast<double>(mesh.x - eye_.cellX) - eye_.x;
    const double oy = static_cast<double>(mesh.y) - eye_.y;
    const double oz = static_cast<double>(mesh.z - eye_.cellZ) - eye_.z;
    const auto step = static_cast<double>(mesh.step);
    std::vector<Point> places, turned;  // East, up, south of the eye; right, up, forward of it.
    std::vector<float> lights;
    places.reserve(mesh.points.size());
    turned.reserve(mesh.points.size());
    lights.reserve(mesh.points.size());
    for (const SurfacePoint& p : mesh.points) {
      const double x = ox + static_cast<double>(p.x) * step,
                   y = oy + static_cast<double>(p.y) * step,
                   z = oz + static_cast<double>(p.z) * step;
      places.push_back({static_cast<float>(x), static_cast<float>(y), static_cast<float>(z)});
      turned.push_back(turn(x, y, z));
      lights.push_back(light.on(p.nx, p.ny, p.nz));
    }
    const auto draw = [&](const SurfaceTriangle& t) {
      const Point &a = places[t.a], &b = places[t.b], &c = places[t.c];
      const Point n = cross(minus(b, a), minus(c, a));
      if (dot(n, a) >= 0) return;  // It looks away from the eye.
      const std::array<Point, 3> corners = {turned[t.a], turned[t.b], turned[t.c]};
      Polygon polygon;
      if (!place(corners, polygon)) return;
      setPlane(polygon, cross(minus(corners[1], corners[0]), minus(corners[2], corners[0])),
          corners[0], lens_);
      Thing& thing = polygon.thing;
      thing.material = t.material;
      thing.smooth = true;
      // The light changes evenly over the triangle.
      const Point e1 = minus(b, a), e2 = minus(c, a);
      const float size = dot(n, n);
      const float d1 = (lights[t.b] - lights[t.a]) / size, d2 = (lights[t.c] - lights[t.a]) / size;
      const Point g1 = cross(e2, n), g2 = cross(n, e1);
      thing.lx = d1 * g1.x + d2 * g2.x;
      thing.ly = d1 * g1.y + d2 * g2.y;
      thing.lz = d1 * g1.z + d2 * g2.z;
      const SurfacePoint &na = mesh.points[t.a], &nb = mesh.points[t.b], &nc = mesh.points[t.c];
      const float up = (na.ny + nb.ny + nc.ny) / 3;
      thing.steep = std::sqrt(std::max(0.0f, 1.0f - up * up));
      thing.l = lights[t.a] - (thing.lx * a.x + thing.ly * a.y + thing.lz * a.z);
      out.push_back(polygon);
    };
    for (const SurfaceTriangle& t : mesh.triangles) draw(t);
    for (size_t side = 0; side < kSides; ++side)
      if (part.walls >> side & 1)
        for (const SurfaceTriangle& t : mesh.walls[side]) draw(t);
  }

  /// Cells from the eye to the nearest corner of a brick, as the crow flies, or less.
  double distanceTo(const BlockMesh& mesh) const {
    const auto step = static_cast<double>(mesh.step);
    const double o[3] = {static_cast<double>(mesh.x - eye_.cellX) - eye_.x,
        static_cast<double>(mesh.y) - eye_.y, static_cast<double>(mesh.z - eye_.cellZ) - eye_.z};
    const double size[3] = {mesh.width * step, mesh.tall * step, mesh.depth * step};
    double square = 0;
    for (int a = 0; a < 3; ++a) {
      const double away = std::max({o[a], 0.0, -(o[a] + size[a])});
      square += away * away;
    }
    return std::sqrt(square);
  }

  /// Where a brick lies on the screen, and 1 / depth of its nearest corner; nothing when it comes
  /// too near to the eye.
  struct Bounds {
    float left = HUGE_VALF, top = HUGE_VALF, right = -HUGE_VALF, bottom = -HUGE_VALF, nearest = 0;
  };
  std::optional<Bounds> boundsOf(const BlockMesh& mesh) const {
    const double ox = static_cast<double>(mesh.x - eye_.cellX) - eye_.x;
    const double oy = static_cast<double>(mesh.y) - eye_.y;
    const double oz = static_cast<double>(mesh.z - eye_.cellZ) - eye_.z;
    const auto step = static_cast<double>(mesh.step), more = mesh.points.empty() ? 0 : step;
    Bounds out;
    for (int k = 0; k < 8; ++k) {
      const Point p = turn(ox + (k & 1 ? mesh.width * step + more : -more),
          oy + (k & 2 ? mesh.tall * step + more : -more),
          oz + (k & 4 ? mesh.depth * step + more : -more));
      if (p.z < kNear) return {};
      const float inverse = 1 / p.z;
      const float x = lens_.middleX + p.x * lens_.scale * inverse;
      const float y = lens_.middleY - p.y * lens_.scale * inverse;
      out.left = std::min(out.left, x);
      out.right = std::max(out.right, x);
      out.top = std::min(out.top, y);
      out.bottom = std::max(out.bottom, y);
      out.nearest = std::max(out.nearest, inverse);
    }
    return out;
  }

 private:
  /// What part of a material's faces is there, of 255.
  uint32_t partOf(MaterialIndex material) const {
    return material < style_.inks.size() ? style_.inks[material] >> 24 : 255;
  }
  static Point minus(const Point& a, const Point& b) { return {a.x - b.x, a.y - b.y, a.z - b.z}; }
  static Point cross(const Point& a, const Point& b) {
    return {a.y * b.z - a.z * b.y, a.z * b.x - a.x * b.z, a.x * b.y - a.y * b.x};
  }
  static float dot(const Point& a, const Point& b) { return a.x * b.x + a.y * b.y + a.z * b.z; }

  Point turn(double x, double y, double z) const {
    return {static_cast<float>(to_.right.x * x + to_.right.y * y + to_.right.z * z),
        static_cast<float>(to_.up.x * x + to_.up.y * y + to_.up.z * z),
        static_cast<float>(to_.forward.x * x + to_.forward.y * y + to_.forward.z * z)};
  }

  /// The corners on the screen; false when nothing of them is to be seen.
  bool place(std::span<const Point> corners, Polygon& polygon) const {
    std::array<Point, 5> kept;
    const int count = clipNear(corners, kept);
    if (count < 3) return false;
    polygon.count = count;
    float left = HUGE_VALF, right = -HUGE_VALF, top = HUGE_VALF, bottom = -HUGE_VALF;
    for (int i = 0; i < count; ++i) {
      const auto k = static_cast<size_t>(i);
      const float inverse = lens_.scale / kept[k].z;
      polygon.x[k] = lens_.middleX + kept[k].x * inverse;
      polygon.y[k] = lens_.middleY - kept[k].y * inverse;
      left = std::min(left, polygon.x[k]);
      right = std::max(right, polygon.x[k]);
      top = std::min(top, polygon.y[k]);
      bottom = std::max(bottom, polygon.y[k]);
    }
    if (right <= 0 || bottom <= 0 || left >= static_cast<float>(width_) ||
        top >= static_cast<float>(height_))
      return false;
    // Nothing but a hair's breadth between two pixel middles.
    return std::floor(left - 0.5f) != std::floor(right - 0.5f) &&
           std::floor(top - 0.5f) != std::floor(bottom - 0.5f);
  }

  /// False for bricks beyond the view distance or the edges of the picture.
  bool mayShow(const BlockMesh& mesh) const {
    const double ox = static_cast<double>(mesh.x - eye_.cellX) - eye_.x;
    const double oy = static_cast<double>(mesh.y) - eye_.y;
    const double oz = static_cast<double>(mesh.z - eye_.cellZ) - eye_.z;
    // Smooth surfaces reach into the neighbours by a sample.
    const auto step = static_cast<double>(mesh.step);
    const double farX = std::max({ox, 0.0, -(ox + mesh.width * step)});
    const double farZ = std::max({oz, 0.0, -(oz + mesh.depth * step)});
    const double farthest = style_.lamp ? std::min(style_.distance, kLampReach) : style_.distance;
    if (farX * farX + farZ * farZ > farthest * farthest) return false;
    return inSight(ox, oy, oz, mesh);
  }

  /// False when all corners of the brick lie beyond one side of the picture.
  bool inSight(double ox, double oy, double oz, const BlockMesh& mesh) const {
    const auto step = static_cast<double>(mesh.step), more = mesh.points.empty() ? 0 : step;
    const float slopeX = static_cast<float>(width_) / 2 / lens_.scale;
    const float slopeY = static_cast<float>(height_) / 2 / lens_.scale;
    int beyond[5] = {};
    for (int k = 0; k < 8; ++k) {
      const Point p = turn(ox + (k & 1 ? mesh.width * step + more : -more),
          oy + (k & 2 ? mesh.tall * step + more : -more),
          oz + (k & 4 ? mesh.depth * step + more : -more));
      beyond[0] += p.z < kNear;
      beyond[1] += p.x > p.z * slopeX;
      beyond[2] += -p.x > p.z * slopeX;
      beyond[3] += p.y > p.z * slopeY;
      beyond[4] += -p.y > p.z * slopeY;
    }
    return std::none_of(beyond, beyond + 5, [](int n) { return n == 8; });
  }

  const Eye& eye_;
  const ViewStyle& style_;
  int32_t width_, height_;
  Directions to_;
  Lens lens_{};
};

/// Spans of a convex polygon within some rows: visit(y, first, last), last excluded.
template <class Visit>
void spansOf(const Polygon& p, int32_t width, int32_t from, int32_t to, Visit&& visit) {
  float top = p.y[0], bottom = p.y[0];
  for (int i = 1; i < p.count; ++i) {
    top = std::min(top, p.y[static_cast<size_t>(i)]);
    bottom = std::max(bottom, p.y[static_cast<size_t>(i)]);
  }
  const auto clampRow = [&](float v) {
    return static_cast<int32_t>(std::clamp(v, static_cast<float>(from), static_cast<float>(to)));
  };
  const int32_t y0 = clampRow(std::ceil(top - 0.5f)), y1 = clampRow(std::ceil(bottom - 0.5f));
  for (int32_t y = y0; y < y1; ++y) {
    const float middle = static_cast<float>(y) + 0.5f;
    float left = HUGE_VALF, right = -HUGE_VALF;
    for (int i = 0; i < p.count; ++i) {
      const auto k = static_cast<size_t>(i), l = static_cast<size_t>(i + 1 == p.count ? 0 : i + 1);
      const float ya = p.y[k], yb = p.y[l];
      if ((ya <= middle) == (yb <= middle)) continue;
      const float x = p.x[k] + (middle - ya) / (yb - ya) * (p.x[l] - p.x[k]);
      left = std::min(left, x);
      right = std::max(right, x);
    }
    const auto clampColumn = [&](float v) {
      return static_cast<int32_t>(std::clamp(v, 0.0f, static_cast<float>(width)));
    };
    const int32_t first = clampColumn(std::ceil(left - 0.5f)),
                  last = clampColumn(std::ceil(right - 0.5f));
    if (first < last) visit(y, first, last);
  }
}

/// Where polygons are drawn: the nearest one of every pixel, and how far at least every tile is
/// covered.
class Canvas {
 public:
  Canvas(const Projector& projector, int32_t width, int32_t height, bool wireframe)
      : projector_(projector),
        width_(width),
        height_(height),
        bands_((height + kBand - 1) / kBand),
        tiles_((width + kTile - 1) / kTile),
        wireframe_(wireframe),
        depth_(static_cast<size_t>(width) * static_cast<size_t>(height)),
        index_(depth_.size()),
        covered_(static_cast<size_t>(bands_) * static_cast<size_t>(tiles_)) {}

  /// Draws polygons over what is there; things of theirs are put behind those that are there.
  void draw(const std::vector<std::vector<Polygon>>& parts, std::vector<Thing>& things) {
    std::vector<const Polygon*> polygons;
    for (const auto& part : parts)
      for (const Polygon& p : part) polygons.push_back(&p);
    if (polygons.empty()) return;
    const auto first = static_cast<uint32_t>(things.size());
    for (const Polygon* p : polygons) things.push_back(p->thing);
    std::vector<std::vector<uint32_t>> inBand(static_cast<size_t>(bands_));
    for (uint32_t i = 0; i < polygons.size(); ++i) {
      const Polygon& p = *polygons[i];
      const auto [top, bottom] = std::minmax_element(p.y.begin(), p.y.begin() + p.count);
      for (int32_t b = bandOf(*top); b <= bandOf(*bottom); ++b)
        inBand[static_cast<size_t>(b)].push_back(i);
    }
    parallelFor(bands_, [&](int32_t b) {
      for (const uint32_t i : inBand[static_cast<size_t>(b)])
        drawIn(*polygons[i], first + i, b * kBand, std::min(height_, (b + 1) * kBand));
      if (!inBand[static_cast<size_t>(b)].empty()) measure(b);
    });
  }

  /// True when everything of a rectangle of the screen is covered nearer than 1 / nearest.
  bool covers(float left, float top, float right, float bottom, float nearest) const {
    if (wireframe_) return false;
    const auto tileOf = [&](float x) {
      return static_cast<int32_t>(
          std::clamp(x / static_cast<float>(kTile), 0.0f, static_cast<float>(tiles_ - 1)));
    };
    for (int32_t b = bandOf(top); b <= bandOf(bottom); ++b)
      for (int32_t t = tileOf(left); t <= tileOf(right); ++t)
        if (covered_[static_cast<size_t>(b * tiles_ + t)] <= nearest) return false;
    return true;
  }

  const float* depth() const { return depth_.data(); }
  const uint32_t* index() const { return index_.data(); }

 private:
  static constexpr int32_t kTile = 32;

  int32_t bandOf(float y) const {
    return static_cast<int32_t>(
        std::clamp(y / static_cast<float>(kBand), 0.0f, static_cast<float>(bands_ - 1)));
  }

  void drawIn(const Polygon& p, uint32_t number, int32_t from, int32_t to) {
    spansOf(p, width_, from, to, [&](int32_t y, int32_t first, int32_t last) {
      float* row = depth_.data() + ptrdiff_t{y} * width_;
      uint32_t* ids = index_.data() + ptrdiff_t{y} * width_;
      const float at = p.b * (static_cast<float>(y) + 0.5f) + p.c;
      if (wireframe_) {  // Its ends alone.
        for (const int32_t x : {first, last - 1}) {
          const float w = p.a * (static_cast<float>(x) + 0.5f) + at;
          if (w > row[x]) row[x] = w, ids[x] = number;
        }
        return;
      }
      for (int32_t x = first; x < last; ++x) {
        const float w = p.a * (static_cast<float>(x) + 0.5f) + at;
        if (w > row[x]) {
          if (p.there < 255 && !projector_.isThere(p, x, y, w)) continue;
          row[x] = w;
          ids[x] = number;
        }
      }
    });
  }

  /// The farthest pixel of each tile of a band.
  void measure(int32_t b) {
    for (int32_t t = 0; t < tiles_; ++t) {
      const int32_t x0 = t * kTile, x1 = std::min(width_, x0 + kTile);
      float farthest = HUGE_VALF;
      for (int32_t y = b * kBand; y < std::min(height_, (b + 1) * kBand); ++y) {
        const float* row = depth_.data() + ptrdiff_t{y} * width_;
        for (int32_t x = x0; x < x1; ++x) farthest = std::min(farthest, row[x]);
      }
      covered_[static_cast<size_t>(b * tiles_ + t)] = farthest;
    }
  }

  const Projector& projector_;
  int32_t width_, height_, bands_, tiles_;
  bool wireframe_;
  std::vector<float> depth_;  // 1 / depth; 0: nothing is there.
  std::vector<uint32_t> index_;
  std::vector<float> covered_;  // By tile: the least of depth_.
};

uint32_t scaled(uint32_t argb, float factor) {
  uint32_t out = 0xFF000000u;
  for (const int shift : {16, 8, 0}) {
    const float v = static_cast<float>((argb >> shift) & 255) * factor;
    out |= static_cast<uint32_t>(v > 255.0f ? 255.0f : v) << shift;
  }
  return out;
}

uint32_t mixed(uint32_t a, uint32_t b, float t) {
  const auto f = static_cast<uint32_t>(t * 256.0f), g = 256 - f;
  const uint32_t rb = ((a & 0xFF00FFu) * g + (b & 0xFF00FFu) * f) >> 8 & 0xFF00FFu;
  const uint32_t green = ((a & 0x00FF00u) * g + (b & 0x00FF00u) * f) >> 8 & 0x00FF00u;
  return 0xFF000000u | rb | green;
}

/// Colours pixels from what the rasteriser left.
class Inker {
 public:
  Inker(const Eye& eye, const ViewStyle& style, const Projector& projector, int32_t width,
      int32_t height)
      : eye_(eye),
        style_(style),
        light_(sideLight(style)),
        to_(projector.directions()),
        lens_(projector.lens()),
        width_(width),
        height_(height) {}

  void row(int32_t y, const float* depth, const uint32_t* index, const float* below,
      const uint32_t* indexBelow, const std::vector<Thing>& things, uint32_t* out) const {
    const double up =
        (static_cast<double>(lens_.middleY) - y - 0.5) / static_cast<double>(lens_.scale);
    const Vector3 base = {to_.forward.x + to_.up.x * up, to_.forward.y + to_.up.y * up,
        to_.forward.z + to_.up.z * up};
    for (int32_t x = 0; x < width_; ++x) {
      const double right =
          (x + 0.5 - static_cast<double>(lens_.middleX)) / static_cast<double>(lens_.scale);
      const Vector3 ray = {
          base.x + to_.right.x * right, base.y + to_.right.y * right, base.z + to_.right.z * right};
      if (depth[x] <= 0) {
        out[x] = skyAt(ray);
        continue;
      }
      out[x] = colour(ray, 1.0 / static_cast<double>(depth[x]), things[index[x]]);
      if (!style_.outlines) continue;
      const bool right2 =
          x + 1 < width_ && parts(depth[x], index[x], depth[x + 1], index[x + 1], things);
      const bool down = below && parts(depth[x], index[x], below[x], indexBelow[x], things);
      if (right2 || down) {
        const double away = 1.0 / static_cast<double>(depth[x]);
        const auto faint =
            static_cast<float>(0.55 * std::clamp(1.2 - away / style_.distance * 1.6, 0.0, 1.0));
        out[x] = mixed(out[x], style_.ink, style_.lamp ? faint * 0.5f : faint);
      }
    }
  }

 private:
  /// Pixels between which a line of ink belongs: another side, or the ground falls away behind.
  static bool parts(float a, uint32_t ia, float b, uint32_t ib, const std::vector<Thing>& things) {
    if (a <= 0 && b <= 0) return false;
    if (ia == ib && b > 0) return false;
    if (things[a > b ? ia : ib].holed) return false;
    const float near = std::max(a, b), far = std::min(a, b);
    if (far <= 0) return true;
    if (near > far * 1.08f) return true;
    return a > 0.02f && !things[ia].smooth && things[ia].side != things[ib].side;
  }

  uint32_t skyAt(const Vector3& ray) const {
    const double length = std::sqrt(ray.x * ray.x + ray.y * ray.y + ray.z * ray.z);
    const double height = std::clamp(ray.y / length * 2.2, 0.0, 1.0);
    const uint32_t sky = mixed(style_.fog, style_.sky, static_cast<float>(height));
    return style_.lamp ? scaled(sky, 0.12f) : sky;
  }

  uint32_t colour(const Vector3& ray, double depth, const Thing& thing) const {
    const double x = ray.x * depth + eye_.x, y = ray.y * depth + eye_.y, z = ray.z * depth + eye_.z;
    const uint32_t ink =
        thing.material < style_.inks.size() ? style_.inks[thing.material] : style_.inks.front();
    float factor = light_.of[static_cast<int>(thing.side)];
    if (thing.smooth) {
      const float lit = thing.lx * static_cast<float>(ray.x * depth) +
                        thing.ly * static_cast<float>(ray.y * depth) +
                        thing.lz * static_cast<float>(ray.z * depth) + thing.l;
      factor = std::clamp(lit, 0.0f, 1.2f);
    }
    const bool wall = thing.side != Side::Up && thing.side != Side::Down;
    // Lines are about a pixel and a half wide, and fade where they would run together.
    const double pixel = depth / static_cast<double>(lens_.scale);
    const auto line = [&](double v, double every, float strength) {
      const double off = std::abs(v / every - std::floor(v / every + 0.5)) * every;
      if (off >= pixel * 0.9) return;
      const double fade = std::clamp(1.6 - pixel * 20 / every, 0.0, 1.0);
      factor *= 1.0f - strength * static_cast<float>(fade);
    };
    if (pixel < 0.08 && !thing.smooth) {  // Single blocks, close by.
      if (wall) line(y, 1, 0.16f);
      if (thing.side != Side::East && thing.side != Side::West) line(x, 1, 0.16f);
      if (thing.side != Side::North && thing.side != Side::South) line(z, 1, 0.16f);
    }
    if (thing.smooth) {
      // Contours are as wide on the slope as lines on walls; level ground has none.
      const auto contour = [&](double v, double every, float strength) {
        const auto steep = static_cast<double>(thing.steep);
        const double off = std::abs(v / every - std::floor(v / every + 0.5)) * every;
        if (off >= pixel * 0.9 * steep) return;
        const double fade = std::clamp(1.6 - pixel * 20 / every, 0.0, 1.0) *
                            std::clamp((steep - 0.04) * 8, 0.0, 1.0);
        factor *= 1.0f - strength * static_cast<float>(fade);
      };
      if (pixel < 0.08) contour(y, 1, 0.2f);
      if (style_.contours > 0) contour(y - style_.sea, style_.contours, 0.38f);
    } else if (style_.contours > 0) {
      if (wall) {
        line(y - style_.sea, style_.contours, 0.38f);
      } else {
        const double band = std::floor((y + 0.01 - style_.sea) / style_.contours);
        if (std::fmod(std::abs(band), 2) == 1) factor *= 0.95f;
      }
    }
    if (style_.chunk > 0) {
      const auto cx = static_cast<double>(floorMod(eye_.cellX, style_.chunk));
      const auto cz = static_cast<double>(floorMod(eye_.cellZ, style_.chunk));
      if (thing.side != Side::East && thing.side != Side::West) line(x + cx, style_.chunk, 0.6f);
      if (thing.side != Side::North && thing.side != Side::South) line(z + cz, style_.chunk, 0.6f);
    }
    const double rx = ray.x * depth, rz = ray.z * depth, ry = ray.y * depth;
    const double away = std::sqrt(rx * rx + rz * rz);
    uint32_t out = scaled(ink, factor);
    if (style_.lamp) {
      const double reach = std::sqrt(away * away + ry * ry);
      out = scaled(out, static_cast<float>(std::clamp(1.15 - reach / 28, 0.06, 1.0)));
    }
    const double fog = std::clamp((away / style_.distance - 0.55) / 0.43, 0.0, 1.0);
    return fog > 0 ? mixed(out, skyAt(ray), static_cast<float>(fog * fog)) : out;
  }

  const Eye& eye_;
  const ViewStyle& style_;
  SideLight light_;
  Directions to_;
  Lens lens_;
  int32_t width_, height_;
};

}  // namespace

void drawScene(const Scene& scene, const Eye& eye, const ViewStyle& style, ViewPicture& out) {
  const int32_t width = out.width, height = out.height;
  const auto pixels = static_cast<size_t>(width) * static_cast<size_t>(height);
  out.argb.resize(pixels);
  const Projector projector(eye, style, width, height);
  const SideLight light = sideLight(style);
  Canvas canvas(projector, width, height, style.wireframe);
  std::vector<Thing> things;  // Apart from the polygons: every pixel looks one up.
  // From near to far in shells: what lies wholly behind what is drawn already is not looked at.
  // Most of what is under the ground is.
  std::vector<std::vector<size_t>> shells(std::size(kShells) + 1);
  for (size_t i = 0; i < scene.size(); ++i) {
    const double away = projector.distanceTo(*scene[i].mesh);
    shells[static_cast<size_t>(std::upper_bound(std::begin(kShells), std::end(kShells), away) -
                               std::begin(kShells))]
        .push_back(i);
  }
  for (const std::vector<size_t>& shell : shells) {
    // Each mesh's polygons, in the order of the scene whatever the threads.
    std::vector<std::vector<Polygon>> parts(shell.size());
    parallelFor(static_cast<int32_t>(shell.size()), [&](int32_t at) {
      const auto i = static_cast<size_t>(at);
      const ScenePart& part = scene[shell[i]];
      if (const auto b = projector.boundsOf(*part.mesh);
          b && canvas.covers(b->left, b->top, b->right, b->bottom, b->nearest))
        return;
      projector.project(*part.mesh, parts[i]);
      projector.projectSmooth(part, light, parts[i]);
    });
    canvas.draw(parts, things);
  }
  out.drawn = things.size();
  const float* depth = canvas.depth();
  const uint32_t* index = canvas.index();
  const Inker inker(eye, style, projector, width, height);
  parallelFor(height, [&](int32_t y) {
    const ptrdiff_t at = ptrdiff_t{y} * width;
    const bool last = y + 1 == height;
    inker.row(y, depth + at, index + at, last ? nullptr : depth + at + width,
        last ? nullptr : index + at + width, things, out.argb.data() + at);
  });
}

}  // namespace acre
