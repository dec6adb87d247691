#include "tiling/tile_drawing.h"

#include <algorithm>
#include <cmath>

#include "base/hash.h"

namespace acre {
namespace {

/// A pixel's middle, in pixels.
struct Point {
  double x, y;
};

/// How deep in the ground each place of a tile lies, in pixels; below 0: beyond it.
class Ground {
 public:
  Ground(const TileDrawing& drawing, TileMethod method, uint8_t mask)
      : drawing_(drawing), method_(method), mask_(mask), size_(drawing.size) {}

  double depth(Point at) const {
    switch (method_) {
      case TileMethod::Corners:
        return betweenCorners(at);
      case TileMethod::Neighbours:
        return inCell(at);
      case TileMethod::Sides:
        return withSides(at);
      case TileMethod::Plain:
        break;
    }
    return size_;
  }

 private:
  bool has(int bit) const { return (mask_ & bit) != 0; }
  /// From the corner with that sign, along both axes.
  Point from(Point at, bool east, bool south) const {
    return {east ? size_ - at.x : at.x, south ? size_ - at.y : at.y};
  }
  bool squared() const { return drawing_.style == TileEdge::Straight; }

  /// Ground about one corner alone, as far as the middles of both sides.
  double about(Point p) const {
    const double half = size_ / 2;
    return squared() ? std::min(half - p.x, half - p.y) : half - std::hypot(p.x, p.y);
  }
  double betweenCorners(Point at) const {
    const Point nw = from(at, false, false), ne = from(at, true, false);
    const Point se = from(at, true, true), sw = from(at, false, true);
    const double half = size_ / 2;
    const auto opposite = [&](Point a, Point b) {
      const double cut = std::max(about(a), about(b));
      // A bridge, as wide as half a tile at its ends and nowhere beyond them.
      return drawing_.joined ? std::max(cut, size_ / 4 - std::abs(a.x - a.y) * 0.7) : cut;
    };
    switch (mask_) {
      case 0:
        return -size_;
      case 15:
        return size_;
      case 8:
        return about(nw);
      case 4:
        return about(ne);
      case 2:
        return about(se);
      case 1:
        return about(sw);
      case 7:
        return -about(nw);
      case 11:
        return -about(ne);
      case 13:
        return -about(se);
      case 14:
        return -about(sw);
      case 12:
        return half - at.y;
      case 3:
        return at.y - half;
      case 9:
        return half - at.x;
      case 6:
        return at.x - half;
      case 10:
        return opposite(nw, se);
      default:
        return opposite(ne, sw);
    }
  }

  /// Ground keeps off sides beyond which there is none.
  double inCell(Point at) const {
    const double inset = std::max(1.0, std::floor(size_ / 8));
    double depth = size_;
    if (!has(1)) depth = std::min(depth, at.y - inset);
    if (!has(16)) depth = std::min(depth, size_ - at.y - inset);
    if (!has(64)) depth = std::min(depth, at.x - inset);
    if (!has(4)) depth = std::min(depth, size_ - at.x - inset);
    const auto corner = [&](Point p, int one, int other, int between) {
      if (!has(one) && !has(other)) {
        const double bend = squared() ? 0 : std::floor(size_ / 4);
        const Point middle{inset + bend, inset + bend};
        if (p.x < middle.x && p.y < middle.y)
          depth = std::min(depth, bend - std::hypot(middle.x - p.x, middle.y - p.y));
      } else if (has(one) && has(other) && !has(between)) {
        depth = std::min(
            depth, squared() ? std::max(p.x - inset, p.y - inset) : std::hypot(p.x, p.y) - inset);
      }
    };
    corner(from(at, false, false), 1, 64, 128);
    corner(from(at, true, false), 1, 4, 2);
    corner(from(at, true, true), 16, 4, 8);
    corner(from(at, false, true), 16, 64, 32);
    return depth;
  }

  /// Corners are not known: ground fills the cell, and the line ends one pixel before a side where
  /// it goes on, since no line may be there in the next one.
  double withSides(Point at) const {
    const bool north = has(1), east = has(2), south = has(4), west = has(8);
    const bool upper = north && at.y < 1, lower = south && at.y > size_ - 1;
    const bool left = west && at.x < 1, right = east && at.x > size_ - 1;
    double depth = size_;
    if (!north && !left && !right) depth = std::min(depth, at.y);
    if (!south && !left && !right) depth = std::min(depth, size_ - at.y);
    if (!west && !upper && !lower) depth = std::min(depth, at.x);
    if (!east && !upper && !lower) depth = std::min(depth, size_ - at.x);
    return depth;
  }

  const TileDrawing& drawing_;
  TileMethod method_;
  uint8_t mask_;
  double size_;
};

uint32_t solid(const Colour& c) {
  return 0xFF000000u | uint32_t{c.red} << 16 | uint32_t{c.green} << 8 | c.blue;
}
Colour darker(const Colour& c) {
  const auto less = [](uint8_t v) { return static_cast<uint8_t>(v * 7 / 8); };
  return {less(c.red), less(c.green), less(c.blue)};
}

/// A fraction from -1 to 1 of a place, smooth from lattice to lattice.
double unevenness(uint64_t key, double at) {
  const auto node = static_cast<int64_t>(std::floor(at));
  const double t = at - static_cast<double>(node);
  const auto value = [&](int64_t n) {
    return static_cast<double>(axisHash(key, n)) / 2147483648.0 - 1;
  };
  return value(node) + (value(node + 1) - value(node)) * t * t * (3 - 2 * t);
}

}  // namespace

std::vector<uint32_t> drawnTile(
    const TileDrawing& drawing, TileMethod method, uint8_t mask, int variant) {
  // Depths are whole and half pixels along a rim; a little less decides between them alike.
  constexpr double kSlack = 0.25;
  constexpr uint32_t kGrain = 1u << 26;  // Of 2^32: one pixel in 64.
  const Ground ground(drawing, method, mask);
  const double size = drawing.size;
  const uint64_t key = combine(combine(0x6772616E, mask), static_cast<uint64_t>(variant));
  std::vector<uint32_t> out;
  out.reserve(static_cast<size_t>(drawing.size) * static_cast<size_t>(drawing.size));
  for (int y = 0; y < drawing.size; ++y)
    for (int x = 0; x < drawing.size; ++x) {
      const Point at{x + 0.5, y + 0.5};
      double depth = ground.depth(at);
      if (drawing.style == TileEdge::Rough && method != TileMethod::Sides) {
        // Nothing at the rims, where neighbours go on.
        const double swell =
            16 * at.x * (size - at.x) * at.y * (size - at.y) / (size * size * size * size);
        const double far = unevenness(combine(mask, 1), (at.x + 2 * at.y) * 6 / size) +
                           unevenness(combine(mask, 2), (at.y - 2 * at.x) * 6 / size);
        const bool rim = x == 0 || y == 0 || x + 1 == drawing.size || y + 1 == drawing.size;
        if (!rim && depth < size / 2) depth += far * swell * size / 10;
      }
      const auto left =
          std::min(std::min(x, drawing.size - 1 - x), std::min(y, drawing.size - 1 - y));
      if (depth < -kSlack)
        out.push_back(0);
      else if (depth < drawing.width - kSlack)
        out.push_back(solid(drawing.edge));
      else if (left >= 1 && depth > drawing.width + 1 &&
               axisHash(key, y * drawing.size + x) < kGrain)
        out.push_back(solid(darker(drawing.inside)));
      else
        out.push_back(solid(drawing.inside));
    }
  return out;
}

}  // namespace acre
