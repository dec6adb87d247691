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
  /// Objects that are known at most, and signs that are drawn: of more, a share that is spread
  /// evenly.
  static constexpr size_t kMost = 48'000, kMostDrawn = 12'000;
  /// Coarsest view that shows them, in cells a pixel.
  static constexpr double kCoarsest = 1;

  /// Nothing when stopped, or in a world without objects.
  static std::shared_ptr<const MapOverlay> make(
      const acre::World& world, const MapGeometry& view, const std::stop_token& stop);

  void paint(QPainter& p, const MapGeometry& view) const override;
  QString at(QPointF place, const MapGeometry& view) const override;
  /// Those within a cell of the cut, on its ground.
  void paintCut(QPainter& p, const CutGeometry& cut) const override;
  QString atCut(QPointF place, const CutGeometry& cut) const override;
  QString spoken() const override;

  const std::vector<acre::PlacedObject>& objects() const { return objects_; }

 private:
  struct Sign {
    acre::ObjectKind kind;
    QString name;
    std::vector<QString> choices;
    int64_t across = 0;  ///< Cells that its piece or crown is wide; 0: it has none.
  };
  /// Half of what a sign is wide, in pixels.
  static double sizeOf(const Sign& sign, const MapGeometry& view);
  static QImage stampOf(const Sign& sign, double size);
  /// Empty where the ground shows what stands there: its sign gives way.
  std::vector<QImage> stampsFor(const MapGeometry& view, double scale) const;
  /// Calls visit(place in the list, place on the cut) for those that the cut passes.
  template <class Visit>
  void onCut(const CutGeometry& cut, Visit&& visit) const;
  QString nameOf(const acre::PlacedObject& object) const;

  acre::Rect cells_;         ///< In view when they were found.
  std::vector<Sign> signs_;  ///< By kind.
  std::vector<acre::PlacedObject> objects_;
  std::vector<float> heights_;  ///< Of the ground of each.
  size_t all_ = 0;              ///< Those that are too many included.
  MapGeometry madeFor_;
  std::vector<QImage> stamps_;     ///< By kind, for that view.
  std::vector<QImage> cutStamps_;  ///< By kind, for sections.
};

/// Says that more signs are in view than are drawn.
void tellLeftOut(QPainter& p, double y, size_t shown, size_t all);

}  // namespace app
