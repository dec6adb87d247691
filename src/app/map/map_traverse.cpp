// A traverse on the map: its chunks in place of the map's own, its viewpoint, and the route.
#include <QPainter>
#include <QPainterPath>

#include "app/look/look.h"
#include "app/map/map_view.h"

namespace app {

void MapView::setTraverse(std::shared_ptr<const TraverseScene> scene) {
  traverse_ = std::move(scene);
  if (traverse_ && traverse_->follow) {
    geometry_.centre = {traverse_->view, 0.5, 0.5};
    geometry_.centre.moveBy(-traverse_->covered * geometry_.cellsPerPixel / 2, 0);
    geometryChanged();
  }
  update();
}

void MapView::setRoute(std::vector<acre::Cell> route) {
  route_ = std::move(route);
  update();
}

void MapView::setDrawingRoute(bool on) {
  drawingRoute_ = on;
  setCursor(on ? Qt::CrossCursor : Qt::ArrowCursor);
}

/// A cased line with a small square at its start and, on short routes, at every corner.
void MapView::paintRoute(QPainter& p) {
  if (route_.empty()) return;
  const look::Tokens& t = look::tokens();
  const QRectF near = QRectF(QPointF(), geometry_.size).adjusted(-4000, -4000, 4000, 4000);
  QPainterPath path;
  bool down = false;
  std::vector<QPointF> corners;
  for (const acre::Cell cell : route_) {
    const QPointF at = geometry_.toScreen(cell, 0.5, 0.5);
    if (!near.contains(at)) {
      down = false;
      continue;
    }
    down ? path.lineTo(at) : path.moveTo(at);
    down = true;
    if (route_.size() < 64) corners.push_back(at);
  }
  p.setRenderHint(QPainter::Antialiasing);
  p.setBrush(Qt::NoBrush);
  p.setPen(QPen(t.sheet, 4));
  p.drawPath(path);
  p.setPen(QPen(t.ink, 1.5, Qt::DashLine));
  p.drawPath(path);
  p.setRenderHint(QPainter::Antialiasing, false);
  p.setPen(QPen(t.ink, 1));
  p.setBrush(t.sheet);
  for (const QPointF& at : corners) p.drawRect(QRectF(at.x() - 3, at.y() - 3, 6, 6));
}

}  // namespace app
