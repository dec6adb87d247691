#include "app/map/depth_slider.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QWheelEvent>
#include <algorithm>
#include <cmath>

#include "app/look/look.h"
#include "output/picture.h"
#include "recipe/level_recipe.h"

namespace app {

DepthSlider::DepthSlider(QWidget* parent) : QWidget(parent) {
  setObjectName(QStringLiteral("map.level"));
  setFocusPolicy(Qt::StrongFocus);
  setFixedWidth(64);
  setCursor(Qt::ArrowCursor);
  setAccessibleName(tr("Level of the slice"));
  setToolTip(
      tr("The level that the map is sliced at. Drag, or Up and Down (Shift: ten levels).\n"
         "The dotted line is the sea."));
}

void DepthSlider::setRange(const acre::AxisBounds& levels, double sea) {
  levels_ = levels;
  sea_ = sea;
  update();
}

void DepthSlider::setLevel(int64_t y) {
  level_ = y;
  setAccessibleDescription(tr("y %1").arg(y));
  update();
}

double DepthSlider::placeOf(double y) const {
  const double part = (y - static_cast<double>(levels_.min)) /
                      static_cast<double>(std::max<int64_t>(1, levels_.extent));
  return height() - kRim - part * (height() - 2 * kRim);
}

void DepthSlider::choose(int64_t y) {
  y = std::clamp(y, levels_.min, levels_.min + levels_.extent - 1);
  if (y == level_) return;
  setLevel(y);
  emit chosen(y);
}

void DepthSlider::choosePlace(double place) {
  const double part = (height() - kRim - place) / std::max(1, height() - 2 * kRim);
  choose(levels_.min + static_cast<int64_t>(std::floor(
                           std::clamp(part, 0.0, 1.0) * static_cast<double>(levels_.extent))));
}

void DepthSlider::paintEvent(QPaintEvent*) {
  QPainter p(this);
  const look::Tokens& ink = look::tokens();
  QColor ground = ink.sheet;
  ground.setAlpha(232);
  p.fillRect(rect(), ground);
  p.setPen(QPen(hasFocus() ? ink.ink : ink.edge, hasFocus() ? 2 : 1));
  p.drawRect(rect().adjusted(0, 0, -1, -1));
  p.setFont(look::mapFont());
  const QFontMetrics metrics(p.font());
  const double scale =
      24.0 * static_cast<double>(levels_.extent) / std::max(1, height() - 2 * kRim);
  const double every = std::max(1.0, acre::niceStep(scale));
  p.setRenderHint(QPainter::Antialiasing);
  const double chosen = placeOf(static_cast<double>(level_) + 0.5);
  for (double y = std::ceil(static_cast<double>(levels_.min) / every) * every;
       y <= static_cast<double>(levels_.min + levels_.extent); y += every) {
    const double at = placeOf(y);
    p.setPen(QPen(ink.edge, 1));
    p.drawLine(QPointF(width() - 8, at), QPointF(width() - 1, at));
    if (std::abs(at - chosen) < metrics.height() * 0.9) continue;
    p.setPen(ink.soft);
    p.drawText(QRectF(0, at - 10, width() - 12, 20), Qt::AlignRight | Qt::AlignVCenter,
        look::wholeNumber(static_cast<qint64>(y)));
  }
  if (sea_ > static_cast<double>(levels_.min) &&
      sea_ < static_cast<double>(levels_.min + levels_.extent)) {
    p.setPen(QPen(ink.ink, 1, Qt::DotLine));
    p.drawLine(QPointF(4, placeOf(sea_)), QPointF(width() - 2, placeOf(sea_)));
  }
  p.setPen(QPen(ink.madder, 2));
  p.drawLine(QPointF(width() - 14, chosen), QPointF(width() - 1, chosen));
  p.setPen(ink.ink);
  p.drawText(QRectF(0, chosen - 10, width() - 16, 20), Qt::AlignRight | Qt::AlignVCenter,
      QStringLiteral("y ") + look::wholeNumber(level_));
}

void DepthSlider::mousePressEvent(QMouseEvent* e) {
  setFocus();
  if (e->button() == Qt::LeftButton) choosePlace(e->position().y());
}

void DepthSlider::mouseMoveEvent(QMouseEvent* e) {
  if (e->buttons() & Qt::LeftButton) choosePlace(e->position().y());
}

void DepthSlider::wheelEvent(QWheelEvent* e) {
  choose(level_ + (e->angleDelta().y() > 0 ? 1 : -1));
  e->accept();
}

void DepthSlider::keyPressEvent(QKeyEvent* e) {
  const int64_t by = e->modifiers() & Qt::ShiftModifier ? 10 : 1;
  switch (e->key()) {
    case Qt::Key_Up:
      return choose(level_ + by);
    case Qt::Key_Down:
      return choose(level_ - by);
    case Qt::Key_PageUp:
      return choose(level_ + 10);
    case Qt::Key_PageDown:
      return choose(level_ - 10);
    case Qt::Key_Escape:
      return parentWidget()->setFocus();
    default:
      QWidget::keyPressEvent(e);
  }
}

}  // namespace app

#include "moc_depth_slider.cpp"
