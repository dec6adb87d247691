/// The squares and sites of regions, before and after the warp.
#pragma once

#include <optional>
#include <stop_token>
#include <vector>

#include "app/overlay/overlay.h"
#include "climate/regions.h"

namespace acre {
class World;
}

namespace app {

/// Squares as thin lines, a ring where the site of each stands in them, and where ground is warped
/// a point where that site lies on the ground, joined by a line.
class RegionSites : public MapOverlay {
 public:
  /// More squares than this in view show nothing but a word.
  static constexpr int64_t kMost = 1200;

  /// Nothing when stopped, or in a world without regions.
  static std::shared_ptr<const MapOverlay> make(
      const acre::World& world, const MapGeometry& view, const std::stop_token& stop);

  void paint(QPainter& p, const MapGeometry& view) const override;
  QString at(QPointF place, const MapGeometry& view) const override;
  QString spoken() const override;

  struct Site {
    acre::RegionId id;
    acre::Cell cell;                   ///< Before the warp.
    std::optional<acre::Cell> ground;  ///< The cell that is looked up there; none may be found.
  };
  const std::vector<Site>& sites() const { return sites_; }

 private:
  std::vector<Site> sites_;
  double size_ = 0;  ///< Side of a square in cells.
  acre::Cell corner_;
  bool warped_ = false;
  bool tooMany_ = false;
};

}  // namespace app
