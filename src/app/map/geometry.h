/// What part of the world a view shows: exact far from the origin, where doubles and ints are not.
#pragma once

#include <QPointF>
#include <QSizeF>
#include <cmath>

#include "base/coords.h"

namespace app {

/// A place between cells: int64 cell plus a fraction in [0, 1).
struct Place {
  acre::Cell cell;
  double fx = 0;
  double fz = 0;

  void moveBy(double dx, double dz) {
    fx += dx;
    fz += dz;
    const double wx = std::floor(fx), wz = std::floor(fz);
    constexpr int64_t kLimit = acre::kMaxCell - (int64_t{1} << 30);
    cell.x = std::clamp(cell.x + static_cast<int64_t>(wx), -kLimit, kLimit);
    cell.z = std::clamp(cell.z + static_cast<int64_t>(wz), -kLimit, kLimit);
    fx -= wx;
    fz -= wz;
  }
  bool operator==(const Place&) const = default;
};

/// The line A-B along which the ground is cut.
struct SectionLine {
  Place a;
  Place b;
  bool operator==(const SectionLine&) const = default;
};

/// Centre and scale of a map of a given size in pixels.
struct MapGeometry {
  static constexpr double kFinest = 1.0 / 32;
  static constexpr double kCoarsest = 4096;
  static constexpr int kLevels = 13;

  Place centre;
  double cellsPerPixel = 1;
  QSizeF size;
  double deviceRatio = 1;  ///< Pixels of the screen, along one side of a pixel here.

  /// Samples of level l stand 2^l cells apart; the level whose samples are at least a pixel of the
  /// screen wide.
  int level() const {
    const double cells = cellsPerPixel / deviceRatio;
    return std::clamp(static_cast<int>(std::ceil(std::log2(cells) - 1e-9)), 0, kLevels - 1);
  }

  QPointF toScreen(acre::Cell c, double fx = 0, double fz = 0) const {
    return {size.width() / 2 +
                (static_cast<double>(c.x - centre.cell.x) + fx - centre.fx) / cellsPerPixel,
        size.height() / 2 +
            (static_cast<double>(c.z - centre.cell.z) + fz - centre.fz) / cellsPerPixel};
  }
  Place toWorld(QPointF p) const {
    Place place = centre;
    place.moveBy(
        (p.x() - size.width() / 2) * cellsPerPixel, (p.y() - size.height() / 2) * cellsPerPixel);
    return place;
  }
  /// The cells that the view touches, one more on every side.
  acre::Rect cells() const {
    const acre::Cell a = toWorld({0, 0}).cell;
    const acre::Cell b = toWorld({size.width(), size.height()}).cell;
    return {a.x - 1, a.z - 1, b.x - a.x + 3, b.z - a.z + 3};
  }
};

}  // namespace app
