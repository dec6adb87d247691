#include "app/edit/tick.h"

#include <QPainter>

#include "app/look/look.h"

namespace app {

void Tick::paintEvent(QPaintEvent* e) {
  QCheckBox::paintEvent(e);
  if (!isChecked()) return;
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  p.setPen(QPen(isEnabled() ? look::tokens().ink : look::tokens().edge, 2));
  const double y = height() / 2.0;
  p.drawPolyline(QPolygonF({QPointF(3.5, y), QPointF(6.5, y + 3.5), QPointF(11.5, y - 4)}));
}

}  // namespace app

#include "moc_tick.cpp"
