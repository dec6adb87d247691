// How the view draws itself: the picture, and the compass and the aim that lie over it.
#include <QPainter>
#include <algorithm>
#include <cmath>
#include <numbers>

#include "app/look/look.h"
#include "app/walk/walk_view.h"

namespace app {
namespace {

constexpr int kCompass = 24;  // Height of the strip.

}  // namespace

void WalkView::paintEvent(QPaintEvent*) {
  if (canvas_) return;  // It lies over all of this.
  QPainter p(this);
  const look::Tokens& ink = look::tokens();
  if (drawing_.image.isNull()) {
    p.fillRect(rect(), ink.sheet);
    p.setPen(ink.soft);
    p.drawText(rect(), Qt::AlignCenter, tr("Loading what is near"));
    return;
  }
  p.drawImage(rect(), drawing_.image);
  paintOver(p);
}

void WalkView::paintOver(QPainter& p) const {
  const look::Tokens& ink = look::tokens();
  p.setRenderHint(QPainter::Antialiasing);
  if (canvas_ && !canvas_->fault().isEmpty()) {
    p.fillRect(rect(), ink.sheet);
    p.setPen(ink.ink);
    p.drawText(rect(), Qt::AlignCenter, canvas_->fault());
  }
  if (canvas_ && canvas_->lacksRoom()) {
    p.setPen(ink.ink);
    look::drawHaloText(
        p, {12.0, height() - 12.0}, tr("The limit of memory leaves no room to draw all of it."));
  }
  paintCaves(p);
  paintAim(p);
  paintCompass(p);
  if (hasFocus()) {
    p.setRenderHint(QPainter::Antialiasing, false);
    p.setPen(QPen(ink.ink, 2));
    p.setBrush(Qt::NoBrush);
    p.drawRect(rect().adjusted(1, 1, -1, -1));
  }
}

/// A strip along the top: what lies in which direction.
void WalkView::paintCompass(QPainter& p) const {
  const look::Tokens& ink = look::tokens();
  QColor ground = ink.sheet;
  ground.setAlpha(225);
  p.fillRect(QRect(0, 0, width(), kCompass), ground);
  p.setPen(QPen(ink.edge, 1));
  p.drawLine(0, kCompass, width(), kCompass);
  p.setFont(look::mapFont());
  const double perDegree = width() / walker_.eye.field;
  static const char* const kNames[] = {QT_TR_NOOP("N"), QT_TR_NOOP("NE"), QT_TR_NOOP("E"),
      QT_TR_NOOP("SE"), QT_TR_NOOP("S"), QT_TR_NOOP("SW"), QT_TR_NOOP("W"), QT_TR_NOOP("NW")};
  for (int degree = 0; degree < 360; degree += 5) {
    const double off = std::remainder(degree - walker_.eye.yaw, 360.0);
    const double x = width() / 2.0 + off * perDegree;
    if (x < -20 || x > width() + 20) continue;
    const bool named = degree % 45 == 0;
    p.setPen(QPen(ink.ink, named ? 1.5 : 0.75));
    p.drawLine(QPointF(x, kCompass), QPointF(x, kCompass - (named ? 6 : degree % 15 == 0 ? 5 : 3)));
    if (!named) continue;
    const QString name = tr(kNames[degree / 45]);
    p.drawText(QRectF(x - 20, 0, 40, kCompass - 6), Qt::AlignCenter, name);
  }
  p.setPen(QPen(ink.madder, 2));
  p.drawLine(QPointF(width() / 2.0, kCompass - 8), QPointF(width() / 2.0, kCompass));
}

QPointF WalkView::project(double x, double y, double z, bool& behind) const {
  const acre::Directions to = acre::directionsOf(walker_.eye);
  const double px = to.right.x * x + to.right.y * y + to.right.z * z;
  const double py = to.up.x * x + to.up.y * y + to.up.z * z;
  const double pz = to.forward.x * x + to.forward.y * y + to.forward.z * z;
  behind = behind || pz < 0.05;
  const double half = std::tan(walker_.eye.field * (std::numbers::pi / 360));
  const double scale = width() / 2.0 / half / std::max(pz, 0.05);
  return {width() / 2.0 + px * scale, height() / 2.0 - py * scale};
}

/// The outline of the block that is aimed at, and a small cross in the middle.
void WalkView::paintAim(QPainter& p) const {
  const look::Tokens& ink = look::tokens();
  if (!pointer_) {
    const QPointF c(width() / 2.0, height() / 2.0);
    for (const auto& [pen, wide] : {std::pair(ink.sheet, 3.0), std::pair(ink.ink, 1.25)}) {
      p.setPen(QPen(pen, wide));
      p.drawLine(c - QPointF(6, 0), c + QPointF(6, 0));
      p.drawLine(c - QPointF(0, 6), c + QPointF(0, 6));
    }
  }
  if (!aimed_) return;
  const acre::Eye& eye = walker_.eye;
  const double x = static_cast<double>(aimed_->x - eye.cellX) - eye.x;
  const double y = static_cast<double>(aimed_->y) - eye.y;
  const double z = static_cast<double>(aimed_->z - eye.cellZ) - eye.z;
  const int axis = static_cast<int>(aimed_->side) / 2, up = static_cast<int>(aimed_->side) % 2;
  QPolygonF face;
  bool behind = false;
  for (const auto& [u, v] : {std::pair(0, 0), std::pair(1, 0), std::pair(1, 1), std::pair(0, 1)}) {
    const double d[3] = {axis == 0 ? double(up) : u,
        axis == 1   ? double(up)
        : axis == 0 ? u
                    : v,
        axis == 2 ? double(up) : v};
    face << project(x + d[0], y + d[1], z + d[2], behind);
  }
  if (behind) return;
  p.setBrush(Qt::NoBrush);
  for (const auto& [pen, wide] : {std::pair(ink.sheet, 4.0), std::pair(ink.madder, 2.0)}) {
    p.setPen(QPen(pen, wide));
    p.drawPolygon(face);
  }
}

}  // namespace app
