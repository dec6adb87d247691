#include "app/edit/choice.h"

#include <QPainter>
#include <QWheelEvent>

#include "app/look/look.h"

namespace app {

Choice::Choice(QWidget* parent) : QComboBox(parent) {
  setFocusPolicy(Qt::StrongFocus);
}

void Choice::paintEvent(QPaintEvent* e) {
  QComboBox::paintEvent(e);
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  p.setPen(QPen(isEnabled() ? look::tokens().ink : look::tokens().edge, 1.5));
  const QPointF tip(width() - 11, height() / 2.0 + 2);
  p.drawLine(tip - QPointF(4, 4), tip);
  p.drawLine(tip, tip + QPointF(4, -4));
}

void Choice::wheelEvent(QWheelEvent* e) {
  if (e->modifiers() & Qt::AltModifier)
    QComboBox::wheelEvent(e);
  else
    e->ignore();
}

}  // namespace app
