// Cave systems on the map: their centre lines, the chosen one, and how far was searched.
#include <cmath>

#include "app/landmarks/cave_lines.h"
#include "app/landmarks/spaces_list.h"
#include "app/look/look.h"
#include "app/map/map_view.h"
#include "cave/level_stage.h"
#include "recipe/level_recipe.h"

namespace app {

void MapView::setCaves(std::shared_ptr<const CaveLines> caves) {
  caves_ = std::move(caves);
  update();
}

void MapView::setSpaces(std::shared_ptr<const SpacesPicture> spaces) {
  spaces_ = std::move(spaces);
  update();
}

namespace {

/// Rings around the places that a level must have, with their names where there is room.
void paintPlaces(QPainter& p, const MapGeometry& geometry, const acre::World& world) {
  const look::Tokens& t = look::tokens();
  const double cell = 1 / geometry.cellsPerPixel;
  p.save();
  p.setRenderHint(QPainter::Antialiasing);
  p.setFont(look::mapFont());
  for (const acre::FoundPlace& place : planOf(world).level()->floor().places) {
    const acre::Cell at = planOf(world).level()->cellOf(place);
    const QPointF middle = geometry.toScreen(at) + QPointF(cell, cell) / 2;
    const double radius = std::max(5.0, cell * 0.9);
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(t.sheet, 4));
    p.drawEllipse(middle, radius, radius);
    p.setPen(QPen(t.ink, 1.5));
    p.drawEllipse(middle, radius, radius);
    if (cell < 1.5) continue;
    p.setPen(t.ink);
    look::drawHaloText(p, middle + QPointF(radius + 4, -radius),
        QString::fromStdString(planOf(world).recipe().level->places[place.place].name));
  }
  p.restore();
}

}  // namespace

/// Columns over open spaces in the ink of the largest that they lie over, its number with it; the
/// ground about them pale.
void MapView::paintSpaces(QPainter& p) {
  if (!spaces_) {
    if (world_ && planOf(*world_).level()) paintPlaces(p, geometry_, *world_);
    return;
  }
  const look::Tokens& t = look::tokens();
  const double scale = 1 / geometry_.cellsPerPixel;
  const QPointF corner = geometry_.toScreen({spaces_->area.x, spaces_->area.z});
  const QRectF box(corner, QSizeF(static_cast<double>(spaces_->area.width) * scale,
                               static_cast<double>(spaces_->area.length) * scale));
  p.save();
  QColor veil = t.sheet;
  veil.setAlphaF(0.72F);
  p.fillRect(box, veil);
  p.drawImage(box, spaces_->image);
  p.setBrush(Qt::NoBrush);
  p.setPen(QPen(t.ink, 1));
  p.drawRect(box);
  p.setFont(look::mapFont());
  p.setPen(t.ink);
  for (const SpacesPicture::Number& number : spaces_->numbers)
    look::drawHaloText(p, geometry_.toScreen(number.cell, 0.5, 0.5) + QPointF(-4, 5), number.text);
  p.restore();
}

void MapView::paintCaves(QPainter& p) {
  if (!caves_) return;
  const look::Tokens& t = look::tokens();
  p.save();
  p.setRenderHint(QPainter::Antialiasing);
  const double scale = 1 / geometry_.cellsPerPixel;
  const QPointF centre = geometry_.toScreen(caves_->searchedFrom, 0.5, 0.5);
  const double far = static_cast<double>(caves_->within) * scale;
  if (far > 0 && far < 20'000) {
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(t.sheet, 3));
    p.drawEllipse(centre, far, far);
    p.setPen(QPen(t.ink, 1, Qt::DashLine));
    p.drawEllipse(centre, far, far);
  }
  const QRectF seen(QPointF(-80, -80), geometry_.size + QSizeF(160, 160));
  for (size_t k = 0; k < caves_->systems.size(); ++k) {
    const CaveLines::System& one = caves_->systems[k];
    const acre::TunnelSystem& s = *one.system;
    const QPointF site = geometry_.toScreen({s.x, s.z});
    const auto reach = static_cast<double>(s.high[0] - s.low[0]) * scale;
    if (!seen.adjusted(-reach, -reach, reach, reach).contains(site)) continue;
    const bool chosen = static_cast<int>(k) == caves_->chosen;
    if (reach > 6)
      for (const acre::Passage& passage : s.passages) {
        if (passage.kind == acre::PassageKind::Shaft) continue;
        QPolygonF line;
        for (const acre::BorePoint& point : passage.points)
          line << site +
                      QPointF(static_cast<double>(point.x), static_cast<double>(point.z)) * scale;
        drawPassage(p, passage.kind, line, t.sheet, t.ink, chosen ? 2.25 : 1.25);
      }
    // The site: a ring where there is a mouth, a bar across where there is none.
    const QPointF at = site + QPointF(0.5, 0.5) * scale;
    p.setBrush(t.sheet);
    p.setPen(QPen(t.ink, chosen ? 2 : 1.25));
    p.drawEllipse(at, 4, 4);
    if (!s.mouth) p.drawLine(at - QPointF(3, 0), at + QPointF(3, 0));
    if (chosen) {
      p.setBrush(Qt::NoBrush);
      p.setPen(QPen(t.sheet, 4));
      p.drawEllipse(at, 11, 11);
      p.setPen(QPen(t.madder, 2));
      p.drawEllipse(at, 11, 11);
    }
    if (chosen || reach > 60) {
      p.setFont(look::mapFont());
      p.setPen(t.ink);
      look::drawHaloText(p, at + QPointF(14, -8), one.name);
    }
  }
  p.restore();
}

}  // namespace app
