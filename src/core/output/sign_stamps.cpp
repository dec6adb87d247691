#include "output/sign_stamps.h"

#include <algorithm>
#include <array>
#include <cmath>

namespace acre {
namespace {

struct Point {
  double x, z;
};

double distanceTo(Point p, Point a, Point b) {
  const double vx = b.x - a.x, vz = b.z - a.z;
  const double along = ((p.x - a.x) * vx + (p.z - a.z) * vz) / (vx * vx + vz * vz);
  const double t = std::clamp(along, 0.0, 1.0);
  return std::hypot(p.x - a.x - t * vx, p.z - a.z - t * vz);
}

/// How opaque a sign of half width 1 is at a place; pen: half of what its lines are wide.
double inkAt(ObjectSign sign, Point p, double pen) {
  constexpr double kCrownShade = 0.43, kStoneShade = 0.59;
  const double far = std::hypot(p.x, p.z);
  const auto near = [&](Point a, Point b) { return distanceTo(p, a, b) <= pen; };
  switch (sign) {
    case ObjectSign::Dot:
      return far <= 0.7;
    case ObjectSign::Ring:
      return std::abs(far - 0.8) <= pen;
    case ObjectSign::Cross:
      return near({-0.8, 0}, {0.8, 0}) || near({0, -0.8}, {0, 0.8});
    case ObjectSign::Tuft:  // Three blades from one root.
      return near({0, 0.8}, {-0.7, -0.667}) || near({0, 0.8}, {0, -0.9}) ||
             near({0, 0.8}, {0.7, -0.667});
    case ObjectSign::Crown:  // A crown on its shadow side's stroke.
      if (std::abs(far - 0.9) <= pen || near({0.64, 0.64}, {1.2, 1.2})) return 1;
      return far < 0.9 ? kCrownShade : 0;
    case ObjectSign::Stone: {
      constexpr std::array<Point, 5> kCorners = {
          {{-0.9, 0.55}, {-0.6, -0.4}, {0.1, -0.75}, {0.85, -0.1}, {0.8, 0.55}}};
      bool inside = true;
      for (size_t n = 0; n < kCorners.size(); ++n) {
        const Point a = kCorners[n], b = kCorners[(n + 1) % kCorners.size()];
        if (near(a, b)) return 1;
        inside = inside && (b.x - a.x) * (p.z - a.z) - (b.z - a.z) * (p.x - a.x) >= 0;
      }
      return inside ? kStoneShade : 0;
    }
  }
  return 0;
}

}  // namespace

SignStamp signStamp(ObjectSign sign, double size) {
  constexpr int kParts = 5;  // Of a pixel, along one side.
  constexpr double kWidest = 1.35, kThinnest = 1, kPen = 0.28;
  const int reach = static_cast<int>(std::ceil(size * kWidest)) + 1;
  const double pen = std::max(kThinnest, size * kPen) / 2 / size;
  SignStamp out{2 * reach + 1, {}};
  for (int j = -reach; j <= reach; ++j)
    for (int i = -reach; i <= reach; ++i) {
      double sum = 0;
      for (int n = 0; n < kParts * kParts; ++n) {
        const auto within = [](int part) { return (part + 0.5) / kParts - 0.5; };
        sum += inkAt(sign, {(i + within(n % kParts)) / size, (j + within(n / kParts)) / size}, pen);
      }
      out.cover.push_back(static_cast<uint8_t>(std::lround(sum * 255 / (kParts * kParts))));
    }
  return out;
}

SignStamp signStamp(const ObjectKind& kind, double size) {
  constexpr int kFaint = 90;  // Of 255.
  SignStamp out = signStamp(kind.sign, size);
  if (kind.stands != ObjectStand::Ground)
    for (uint8_t& cover : out.cover) cover = static_cast<uint8_t>(cover * kFaint / 255);
  return out;
}

double signSize(const ObjectKind& kind, double cellsPerPixel) {
  constexpr double kLeast = 1.2, kClear = 3.5, kMostWide = 7, kMustApart = 24;
  const double apart = kind.must ? kMustApart : kind.distance;
  const double room = std::min(kClear, 0.3 * apart / cellsPerPixel);
  return std::clamp(std::max(0.42 / cellsPerPixel, room), kLeast, kMostWide);
}

}  // namespace acre
