#include "app/overlay/spaces_picture.h"

#include "app/look/look.h"

namespace app {

void SpacesPicture::paint(QPainter& p, const MapGeometry& view) const {
  const look::Tokens& t = look::tokens();
  const double scale = 1 / view.cellsPerPixel;
  const QRectF box(view.toScreen({area.x, area.z}),
      QSizeF(static_cast<double>(area.width) * scale, static_cast<double>(area.length) * scale));
  QColor veil = t.sheet;
  veil.setAlphaF(0.72F);
  p.fillRect(box, veil);
  p.drawImage(box, image);
  p.setBrush(Qt::NoBrush);
  p.setPen(QPen(t.ink, 1));
  p.drawRect(box);
  p.setFont(look::mapFont());
  p.setPen(t.ink);
  for (const Number& number : numbers)
    look::drawHaloText(p, view.toScreen(number.cell, 0.5, 0.5) + QPointF(-4, 5), number.text);
}

QString SpacesPicture::at(QPointF place, const MapGeometry& view) const {
  for (const Number& number : numbers)
    if ((view.toScreen(number.cell, 0.5, 0.5) - place).manhattanLength() <= 9)
      return QObject::tr("Open space %1").arg(number.text);
  return {};
}

QString SpacesPicture::spoken() const {
  return numbers.empty() ? QString()
                         : QObject::tr("%1 open spaces are numbered.").arg(numbers.size());
}

}  // namespace app
