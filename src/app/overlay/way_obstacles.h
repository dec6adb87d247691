/// Ways for water through obstacles: the places that are closed, each way with its ends, and why
/// some were given up.
#pragma once

#include <QImage>
#include <stop_token>
#include <vector>

#include "app/overlay/overlay.h"
#include "water/course_ways.h"

namespace acre {
class World;
}

namespace app {

/// A grey square for every obstacle; a line along each way, from a ring to a square; a broken line
/// with the reason where there is none.
class WayObstacles : public MapOverlay {
 public:
  /// More regions than this in view show nothing but a word.
  static constexpr size_t kMost = 64;

  /// Nothing when stopped, or in a world without such ways.
  static std::shared_ptr<const MapOverlay> make(
      const acre::World& world, const MapGeometry& view, const std::stop_token& stop);

  void paint(QPainter& p, const MapGeometry& view) const override;
  QString at(QPointF place, const MapGeometry& view) const override;
  QString spoken() const override;

  struct Region {
    std::shared_ptr<const acre::CourseRegion> found;
    QImage obstacles;  ///< A pixel for each place, 1 where one is; its colours are given later.
  };
  const std::vector<Region>& regions() const { return regions_; }

 private:
  template <class Visit>
  void eachWay(Visit&& visit) const {
    for (const Region& region : regions_)
      for (const acre::CourseWay& way : region.found->ways) visit(way);
  }

  std::vector<Region> regions_;
  bool tooMany_ = false;
};

}  // namespace app
