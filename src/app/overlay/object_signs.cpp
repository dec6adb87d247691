#include "app/overlay/object_signs.h"

#include <algorithm>
#include <cmath>

#include "app/look/look.h"
#include "world/world.h"

namespace app {

std::shared_ptr<const MapOverlay> ObjectSigns::make(
    const acre::World& world, const MapGeometry& view, const std::stop_token& stop) {
  if (!world.objects().any() || view.cellsPerPixel > kCoarsest) return nullptr;
  auto out = std::make_shared<ObjectSigns>();
  for (const acre::ObjectKind& kind : planOf(world).recipe().objects->kinds) {
    Sign sign{kind.sign, QColor(kind.ink.red, kind.ink.green, kind.ink.blue), double(kind.distance),
        QString::fromStdString(kind.name), {}};
    for (const acre::ObjectChoice& one : kind.what)
      sign.choices.push_back(QString::fromStdString(one.name));
    out->signs_.push_back(std::move(sign));
  }
  auto found = world.objects().in(view.cells(), stop);
  if (!found) return nullptr;
  // Later kinds lie under earlier ones; of too many the later ones are left out.
  out->all_ = found->size();
  if (found->size() > kMost) found->resize(kMost);
  std::reverse(found->begin(), found->end());
  out->objects_ = std::move(*found);
  return out;
}

double ObjectSigns::sizeOf(const Sign& sign, const MapGeometry& view) {
  constexpr double kLeast = 1.6, kClear = 4, kMostWide = 7;
  const double room = std::min(kClear, 0.4 * sign.distance / view.cellsPerPixel);
  return std::clamp(std::max(0.42 / view.cellsPerPixel, room), kLeast, kMostWide);
}

QString ObjectSigns::nameOf(const acre::PlacedObject& object) const {
  const Sign& sign = signs_[object.kind];
  return object.choice == acre::PlacedObject::kPlain ? sign.name : sign.choices[object.choice];
}

void drawSign(QPainter& p, acre::ObjectSign shape, const QColor& ink, QPointF at, double size) {
  const QPen pen(ink, std::max(1.0, size * 0.28), Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin);
  p.setPen(pen);
  p.setBrush(Qt::NoBrush);
  const double s = size;
  switch (shape) {
    case acre::ObjectSign::Dot:
      p.setPen(Qt::NoPen);
      p.setBrush(ink);
      p.drawEllipse(at, s * 0.7, s * 0.7);
      return;
    case acre::ObjectSign::Ring:
      p.drawEllipse(at, s * 0.8, s * 0.8);
      return;
    case acre::ObjectSign::Cross:
      p.drawLine(at - QPointF(s, 0) * 0.8, at + QPointF(s, 0) * 0.8);
      p.drawLine(at - QPointF(0, s) * 0.8, at + QPointF(0, s) * 0.8);
      return;
    case acre::ObjectSign::Tuft:  // Three blades from one root.
      for (const double lean : {-0.7, 0.0, 0.7})
        p.drawLine(
            at + QPointF(0, s * 0.8), at + QPointF(lean * s, -s * (0.9 - std::abs(lean) / 3)));
      return;
    case acre::ObjectSign::Crown:  // A crown on its shadow side's stroke.
      p.setBrush(QColor(ink.red(), ink.green(), ink.blue(), 110));
      p.drawEllipse(at, s * 0.9, s * 0.9);
      p.drawLine(at + QPointF(s * 0.64, s * 0.64), at + QPointF(s * 1.2, s * 1.2));
      return;
    case acre::ObjectSign::Stone: {
      p.setBrush(QColor(ink.red(), ink.green(), ink.blue(), 150));
      const QPointF corners[] = {
          {-0.9, 0.55}, {-0.6, -0.4}, {0.1, -0.75}, {0.85, -0.1}, {0.8, 0.55}};
      QPolygonF outline;
      for (const QPointF& c : corners) outline << at + c * s;
      p.drawPolygon(outline);
      return;
    }
  }
}

void ObjectSigns::paint(QPainter& p, const MapGeometry& view) const {
  // Each sign is drawn once and stamped.
  const double scale = p.device()->devicePixelRatioF();
  std::vector<QImage> stamps;
  std::vector<QPointF> middles;
  for (const Sign& sign : signs_) {
    const double size = sizeOf(sign, view);
    const int side = 2 * static_cast<int>(std::ceil(size * 1.5)) + 3;
    QImage& stamp = stamps.emplace_back(
        QSizeF(side * scale, side * scale).toSize(), QImage::Format_ARGB32_Premultiplied);
    stamp.setDevicePixelRatio(scale);
    stamp.fill(Qt::transparent);
    const QPointF middle = middles.emplace_back(side / 2.0, side / 2.0);
    QPainter ink(&stamp);
    ink.setRenderHint(QPainter::Antialiasing);
    drawSign(ink, sign.shape, sign.ink, middle, size);
  }
  for (const acre::PlacedObject& one : objects_)
    p.drawImage(view.toScreen(one.cell, 0.5, 0.5) - middles[one.kind], stamps[one.kind]);
  if (all_ <= objects_.size()) return;
  p.setFont(look::mapFont());
  look::drawHaloText(p, {12, 22},
      QObject::tr("%1 of %2 signs: zoom in.")
          .arg(look::wholeNumber(static_cast<qint64>(objects_.size())),
              look::wholeNumber(static_cast<qint64>(all_))));
}

QString ObjectSigns::at(QPointF place, const MapGeometry& view) const {
  constexpr double kReach = 6;
  for (auto one = objects_.rbegin(); one != objects_.rend(); ++one)
    if ((view.toScreen(one->cell, 0.5, 0.5) - place).manhattanLength() <=
        std::max(kReach, sizeOf(signs_[one->kind], view)))
      return QObject::tr("%1 at x %2 z %3")
          .arg(nameOf(*one), look::wholeNumber(one->cell.x), look::wholeNumber(one->cell.z));
  return {};
}

QString ObjectSigns::spoken() const {
  return QObject::tr("%1 objects in view.").arg(look::wholeNumber(static_cast<qint64>(all_)));
}

}  // namespace app
