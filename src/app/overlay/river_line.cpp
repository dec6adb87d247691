#include "app/overlay/river_line.h"

#include <cmath>

#include "app/look/look.h"

namespace app {
namespace {

constexpr double kRing = 7;

void drawRing(QPainter& p, QPointF at, const QString& name) {
  const look::Tokens& t = look::tokens();
  p.setBrush(Qt::NoBrush);
  for (const bool halo : {true, false}) {
    p.setPen(QPen(halo ? t.sheet : t.madder, halo ? 5 : 2));
    p.drawEllipse(at, kRing, kRing);
  }
  p.setFont(look::mapFont());
  p.setPen(t.ink);
  look::drawHaloText(p, at + look::kBesideStation, name);
}

}  // namespace

void RiverLine::paint(QPainter& p, const MapGeometry& view) const {
  const look::Tokens& t = look::tokens();
  p.setRenderHint(QPainter::Antialiasing);
  QPolygonF line;
  for (const acre::ProfilePoint& point : profile_->points) {
    const QPointF next = view.toScreen(point.cell, 0.5, 0.5);
    // What lies within a pixel adds nothing to see.
    if (line.isEmpty() || (next - line.back()).manhattanLength() >= 1) line << next;
  }
  p.setBrush(Qt::NoBrush);
  for (const bool halo : {true, false}) {
    p.setPen(QPen(
        halo ? t.sheet : t.madder, halo ? 5.0 : 2.0, Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin));
    p.drawPolyline(line);
  }
  const QPointF end = view.toScreen(profile_->points.back().cell, 0.5, 0.5);
  p.setPen(QPen(t.sheet, 1));
  p.setBrush(t.madder);
  p.drawRect(QRectF(end - QPointF(4, 4), QSizeF(8, 8)));
  if (mark_ >= 0 && mark_ < static_cast<int>(profile_->points.size())) {
    p.setPen(QPen(t.sheet, 2));
    p.drawEllipse(view.toScreen(profile_->points[static_cast<size_t>(mark_)].cell, 0.5, 0.5), 6, 6);
  }
  drawRing(p, view.toScreen(profile_->points.front().cell, 0.5, 0.5), name_);
}

QString RiverLine::at(QPointF place, const MapGeometry& view) const {
  if ((view.toScreen(profile_->points.front().cell, 0.5, 0.5) - place).manhattanLength() > 10)
    return {};
  return QObject::tr("Spring of %1").arg(name_);
}

QString RiverLine::spoken() const {
  return QObject::tr("The river %1 is drawn, %2 cells long.")
      .arg(name_, look::wholeNumber(std::llround(profile_->length())));
}

void PlaceRing::paint(QPainter& p, const MapGeometry& view) const {
  p.setRenderHint(QPainter::Antialiasing);
  drawRing(p, view.toScreen(cell_, 0.5, 0.5), name_);
}

QString PlaceRing::at(QPointF place, const MapGeometry& view) const {
  return (view.toScreen(cell_, 0.5, 0.5) - place).manhattanLength() > 10 ? QString() : name_;
}

}  // namespace app
