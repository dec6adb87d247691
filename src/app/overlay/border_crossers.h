/// Objects whose cells lie in more than one chunk.
#pragma once

#include <QLineF>
#include <set>
#include <stop_token>
#include <utility>
#include <vector>

#include "app/overlay/overlay.h"
#include "world/chunk.h"

namespace acre {
class World;
}

namespace app {

/// The outline of each, seen from above, and how many of all in view they are.
class BorderCrossers : public MapOverlay {
 public:
  /// Coarsest view that shows them, in cells a pixel.
  static constexpr double kCoarsest = 1;

  /// Nothing when stopped, and in worlds whose objects have no cells.
  static std::shared_ptr<const MapOverlay> make(
      const acre::World& world, const MapGeometry& view, const std::stop_token& stop);

  void paint(QPainter& p, const MapGeometry& view) const override;
  QString at(QPointF place, const MapGeometry& view) const override;
  QString spoken() const override;

  size_t count() const { return list_.size(); }
  size_t all() const { return all_; }

 private:
  struct Crosser {
    acre::Cell cell;
    QString name;
    std::vector<QLineF> outline;                  ///< In cells, from the object's.
    std::set<std::pair<int64_t, int64_t>> cells;  ///< That it has, seen from above.
    size_t chunks;
  };
  std::vector<Crosser> list_;
  size_t all_ = 0;  ///< With cells, in view.
};

}  // namespace app
