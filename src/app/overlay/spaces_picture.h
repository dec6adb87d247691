/// Open spaces below the ground as the map shows them.
#pragma once

#include <QImage>
#include <vector>

#include "app/overlay/overlay.h"

namespace app {

/// A picture of a box's columns, and where each space's number stands: columns over open spaces in
/// the ink of the largest that they lie over, the ground about them pale.
struct SpacesPicture : MapOverlay {
  acre::Rect area;
  QImage image;
  struct Number {
    acre::Cell cell;
    QString text;
  };
  std::vector<Number> numbers;

  void paint(QPainter& p, const MapGeometry& view) const override;
  QString at(QPointF place, const MapGeometry& view) const override;
  QString spoken() const override;
};

}  // namespace app
