/// What stands on the ground, as signs on the map.
#pragma once

#include <QImage>
#include <stop_token>
#include <vector>

#include "app/overlay/overlay.h"
#include "recipe/object_recipe.h"
#include "world/chunk.h"

namespace acre {
class World;
}

namespace app {

/// A sign of the kind at every object, in its ink, larger the closer the map is; none in views that
/// are too coarse for it.
class ObjectSigns : public MapOverlay {
 public:
  /// Signs that are drawn at most.
  static constexpr size_t kMost = 8'000;
  /// Coarsest view that shows them, in cells a pixel.
  static constexpr double kCoarsest = 1;

  /// Nothing when stopped, or in a world without objects.
  static std::shared_ptr<const MapOverlay> make(
      const acre::World& world, const MapGeometry& view, const std::stop_token& stop);

  void paint(QPainter& p, const MapGeometry& view) const override;
  QString at(QPointF place, const MapGeometry& view) const override;
  QString spoken() const override;

  const std::vector<acre::PlacedObject>& objects() const { return objects_; }

 private:
  struct Sign {
    acre::ObjectSign shape;
    QColor ink;
    double distance;  ///< Cells between two of them.
    QString name;
    std::vector<QString> choices;
  };
  /// Half of what a sign is wide, in pixels: as large as a cell, and larger where there is room.
  static double sizeOf(const Sign& sign, const MapGeometry& view);
  QString nameOf(const acre::PlacedObject& object) const;

  std::vector<Sign> signs_;  ///< By kind.
  std::vector<acre::PlacedObject> objects_;
  size_t all_ = 0;  ///< Those that are too many included.
};

/// Draws a sign about a point.
void drawSign(QPainter& p, acre::ObjectSign shape, const QColor& ink, QPointF at, double size);

}  // namespace app
