#include "app/overlay/marks.h"

#include <QPainterPath>
#include <algorithm>
#include <variant>

#include "app/look/look.h"
#include "cave/level_stage.h"
#include "recipe/level_recipe.h"
#include "world/plan.h"

namespace app {
namespace {

constexpr double kNear = 8;  // Pixels from the pointer.

bool isNear(QPointF a, QPointF b, double within = kNear) {
  return (a - b).manhattanLength() <= within;
}

}  // namespace

// ---- outlines ----------------------------------------------------------------------------------

void OutlineOverlay::paint(QPainter& p, const MapGeometry& view) const {
  const QPointF origin = view.toScreen(origin_, 0.5, 0.5);
  const double scale = 1 / view.cellsPerPixel;
  const QTransform place =
      QTransform::fromScale(scale, scale) * QTransform::fromTranslate(origin.x(), origin.y());
  QList<QLineF> drawn;
  drawn.reserve(static_cast<qsizetype>(lines_.size()));
  for (const QLineF& line : lines_) drawn.append(place.map(line));
  for (const auto& [colour, width] :
      {std::pair(look::tokens().sheet, 4.0), std::pair(look::tokens().ink, 1.5)}) {
    p.setPen(QPen(colour, width, Qt::SolidLine, Qt::SquareCap));
    p.drawLines(drawn);
  }
}

// ---- routes ------------------------------------------------------------------------------------

void RouteOverlay::paint(QPainter& p, const MapGeometry& view) const {
  const look::Tokens& t = look::tokens();
  const QRectF near = QRectF(QPointF(), view.size).adjusted(-4000, -4000, 4000, 4000);
  QPainterPath path;
  bool down = false;
  std::vector<QPointF> corners;
  for (const acre::Cell cell : cells_) {
    const QPointF at = view.toScreen(cell, 0.5, 0.5);
    if (!near.contains(at)) {
      down = false;
      continue;
    }
    down ? path.lineTo(at) : path.moveTo(at);
    down = true;
    if (cells_.size() < 64) corners.push_back(at);
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

QString RouteOverlay::at(QPointF place, const MapGeometry& view) const {
  if (cells_.size() >= 64) return {};
  for (size_t k = 0; k < cells_.size(); ++k)
    if (isNear(view.toScreen(cells_[k], 0.5, 0.5), place))
      return QObject::tr("Point %1 of %2 of the route: x %3 z %4")
          .arg(k + 1)
          .arg(cells_.size())
          .arg(look::wholeNumber(cells_[k].x), look::wholeNumber(cells_[k].z));
  return {};
}

QString RouteOverlay::spoken() const {
  return QObject::tr("A route of %1 points is drawn.").arg(cells_.size());
}

// ---- places of a level -------------------------------------------------------------------------

PlacesOverlay::PlacesOverlay(const acre::World& world) {
  const acre::LevelStage& level = *planOf(world).level();
  for (const acre::FoundPlace& found : level.floor().places)
    places_.push_back({level.cellOf(found),
        QString::fromStdString(planOf(world).recipe().level->places[found.place].name)});
}

void PlacesOverlay::paint(QPainter& p, const MapGeometry& view) const {
  const look::Tokens& t = look::tokens();
  const double cell = 1 / view.cellsPerPixel;
  p.setRenderHint(QPainter::Antialiasing);
  p.setFont(look::mapFont());
  for (const Place& place : places_) {
    const QPointF middle = view.toScreen(place.cell, 0.5, 0.5);
    const double radius = std::max(5.0, cell * 0.9);
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(t.sheet, 4));
    p.drawEllipse(middle, radius, radius);
    p.setPen(QPen(t.ink, 1.5));
    p.drawEllipse(middle, radius, radius);
    if (cell < 1.5) continue;
    p.setPen(t.ink);
    look::drawHaloText(p,
        QPointF(std::max(middle.x() + radius + 4, middle.x() + look::kBesideStation.x()),
            std::min(middle.y() - radius, middle.y() + look::kBesideStation.y())),
        place.name);
  }
}

QString PlacesOverlay::at(QPointF place, const MapGeometry& view) const {
  for (const Place& one : places_)
    if (isNear(view.toScreen(one.cell, 0.5, 0.5), place, std::max(kNear, 1 / view.cellsPerPixel)))
      return one.name;
  return {};
}

QString PlacesOverlay::spoken() const {
  return places_.empty() ? QString()
                         : QObject::tr("%1 places of the level are marked.").arg(places_.size());
}

// ---- limits ------------------------------------------------------------------------------------

LimitsOverlay::LimitsOverlay(const acre::World& world) {
  for (const acre::Layer& layer : planOf(world).recipe().heights.layers) {
    const auto* walk = std::get_if<acre::WalkSource>(&layer.source);
    if (!walk || !layer.on) continue;
    for (const double end : {walk->low, walk->high}) {
      const double y = layer.offset + layer.amplitude * end;
      limits_.push_back(
          {y, QObject::tr("%1 of %2: %3")
                  .arg(end == walk->low ? QObject::tr("lower limit") : QObject::tr("upper limit"),
                      QString::fromStdString(layer.name), look::number(y))});
    }
  }
}

void LimitsOverlay::paintCut(QPainter& p, const CutGeometry& cut) const {
  const look::Tokens& ink = look::tokens();
  p.setFont(look::font(look::Type::Caption));
  for (const Limit& limit : limits_) {
    if (limit.altitude <= cut.low || limit.altitude >= cut.high) continue;
    const double row = cut.row(limit.altitude);
    for (const QPen& pen : {QPen(ink.sheet, 3), QPen(ink.ink, 1, Qt::DashDotLine)}) {
      p.setPen(pen);
      p.drawLine(QPointF(cut.box.left(), row), QPointF(cut.box.right(), row));
    }
    p.setPen(ink.ink);
    look::drawHaloText(p, {cut.box.left() + 6.0, row - 4}, limit.words);
  }
}

QString LimitsOverlay::atCut(QPointF place, const CutGeometry& cut) const {
  for (const Limit& limit : limits_)
    if (std::abs(cut.row(limit.altitude) - place.y()) <= 3) return limit.words;
  return {};
}

}  // namespace app
