// How the map is painted: ground, bounds, ring, viewpoint, scale bar and margins.
#include <QPaintEvent>
#include <QPainter>
#include <algorithm>
#include <cmath>

#include "app/look/look.h"
#include "app/map/map_view.h"

namespace app {
namespace {

constexpr double kFadeMillis = 140;
const QString kBetween = QStringLiteral(" · ");  ///< Phrases of a hint.

/// 1, 2 or 5 times a power of ten, at least `v`.
int64_t niceCells(double v) {
  int64_t power = 1;
  while (true) {
    for (const int64_t m : {1, 2, 5})
      if (static_cast<double>(m * power) >= v) return m * power;
    power *= 10;
  }
}

/// The nearest whole pixel, halves upwards on both sides of 0: qRound() takes them away from it,
/// and a picture across the origin would be a pixel larger than its samples.
int pixelAt(double v) {
  return static_cast<int>(std::floor(v + 0.5));
}

}  // namespace

void MapView::paintSoon(const QRect& where) {
  constexpr int kFrameMillis = 12;
  soon_ += where;
  if (!frame_.isActive()) frame_.start(kFrameMillis);
}

void MapView::paintEvent(QPaintEvent* e) {
  // On another screen pixels may be of another size.
  if (geometry_.deviceRatio != devicePixelRatioF())
    QMetaObject::invokeMethod(this, &MapView::geometryChanged, Qt::QueuedConnection);
  QPainter p(this);
  const QRect picture = pictureRect();
  const bool margins = !picture.contains(e->rect());
  if (margins)
    for (const QRect& bare : QRegion(rect()) - picture) p.fillRect(bare, look::tokens().sheet);
  if (e->region().intersects(picture)) paintPicture(p, picture);
  if (margins) paintMargins(p);
}

void MapView::paintPicture(QPainter& p, const QRect& picture) {
  p.save();
  p.setClipRect(picture, Qt::IntersectClip);
  p.translate(picture.topLeft());
  paintGround(p);
  overlays_.paintGround(p, geometry_);
  paintContours(p);
  if (chunksShown_) paintChunks(p);
  paintBounds(p);
  if (ringShown_) paintRing(p);
  overlays_.paint(p, geometry_);
  if (lineShown_) paintLine(p);
  paintViewpoint(p);
  paintPlumbs(p);
  paintEmptyNote(p);
  paintScaleBar(p);
  p.restore();
}

void MapView::paintEmptyNote(QPainter& p) {
  if (emptyNote_.isEmpty()) return;
  p.setFont(look::font(look::Type::Body));
  const QRect box = p.fontMetrics().boundingRect(emptyNote_).adjusted(-14, -10, 14, 10);
  const QRect at(
      QPoint(static_cast<int>(geometry_.size.width() - box.width()) / 2, 60), box.size());
  p.fillRect(at, look::tokens().sheet);
  p.setPen(look::tokens().edge);
  p.drawRect(at);
  p.setPen(look::tokens().ink);
  p.drawText(at, Qt::AlignCenter, emptyNote_);
}

void MapView::paintGround(QPainter& p) {
  const QRectF view(QPointF(0, 0), geometry_.size);
  if (!world_) return p.fillRect(view, QColor::fromRgb(acre::kPaperColour));
  // A pattern that belongs to the ground: its phase follows the map.
  const QPointF anchor = geometry_.toScreen(
      {geometry_.centre.cell.x & ~int64_t{4095}, geometry_.centre.cell.z & ~int64_t{4095}});
  const auto draw = [&](const QImage& image, bool holes, const QRect& target) {
    if (target.isEmpty()) return;
    if (holes) {
      p.save();
      p.setBrushOrigin(QPointF(std::fmod(anchor.x(), 8), std::fmod(anchor.y(), 8)));
      p.fillRect(QRectF(target).intersected(view), QBrush(look::hatch()));
      p.restore();
    }
    p.drawImage(target, image);
  };
  // What the sharp tiles cover needs nothing under it.
  const int level = geometry_.level();
  const auto& tiles = store_.tiles();
  const auto sharp = tiles.lower_bound({level, INT64_MIN, INT64_MIN});
  QRegion bare(view.toAlignedRect());
  const double fade = fadeShare();
  for (auto it = sharp; it != tiles.end() && it->first.level == level && fade >= 1; ++it)
    bare -= tileRect(it->first);
  if (!bare.isEmpty()) {
    p.save();
    p.setClipRegion(bare, Qt::IntersectClip);
    p.fillRect(view, QColor::fromRgb(acre::kPaperColour));
    for (const TileStore::Coarse* whole : {&store_.surround(), &store_.coarse()})
      if (!whole->image.isNull())
        draw(whole->image, whole->holes,
            samplesRect({whole->x, whole->z}, whole->step, whole->image.size()));
    // Other levels stand in until the present one has arrived: coarse ones first.
    if (store_.pending() > 0 || fade < 1)
      for (auto it = tiles.rbegin(); it != tiles.rend(); ++it)  // NOLINT: backwards.
        if (it->first.level != level) draw(it->second.image, it->second.holes, tileRect(it->first));
    p.restore();
  }
  p.setOpacity(fade);
  for (auto it = sharp; it != tiles.end() && it->first.level == level; ++it)
    draw(it->second.image, it->second.holes, tileRect(it->first));
  p.setOpacity(1);
}

/// How far the tiles of this level have come in over those of the last one; 1: wholly.
double MapView::fadeShare() const {
  if (!fadeClock_.isValid()) return 1;
  return std::min(1.0, static_cast<double>(fadeClock_.elapsed()) / kFadeMillis);
}

bool MapView::settled() const {
  return store_.current() && store_.pending() == 0 && fadeShare() >= 1;
}

QRect MapView::samplesRect(acre::Cell first, int64_t step, QSize samples) const {
  const double half = static_cast<double>(step) / 2;
  const QPointF corner = geometry_.toScreen(first, 0.5 - half, 0.5 - half);
  const double side = static_cast<double>(step) / geometry_.cellsPerPixel;
  const QRectF target(corner, QSizeF(samples.width() * side, samples.height() * side));
  const QRectF view(QPointF(), geometry_.size);
  if (!target.adjusted(-1, -1, 1, 1).intersects(view)) return {};  // May be too far for integers.
  // Whole pixels, so that neighbouring tiles neither overlap nor leave a gap.
  const QRect snapped(QPoint(pixelAt(target.left()), pixelAt(target.top())),
      QPoint(pixelAt(target.right()) - 1, pixelAt(target.bottom()) - 1));
  return QRectF(snapped).intersects(view) ? snapped : QRect();
}

QRect MapView::tileRect(const TileStore::Key& key) const {
  const int64_t side = int64_t{TileStore::kTile} << key.level;
  return samplesRect({key.tx * side, key.tz * side}, int64_t{1} << key.level,
      {TileStore::kTile, TileStore::kTile});
}

void MapView::paintBounds(QPainter& p) {
  if (!world_ || !planOf(*world_).bounded()) return;
  const acre::Rect& b = planOf(*world_).bounds();
  const QPointF a = geometry_.toScreen({b.x, b.z});
  const QPointF c = geometry_.toScreen({b.x + b.width, b.z + b.length});
  constexpr double kFar = 1e5;
  p.setPen(QPen(look::tokens().ink, 1.5));
  p.setBrush(Qt::NoBrush);
  p.drawRect(QRectF(QPointF(std::clamp(a.x(), -kFar, kFar), std::clamp(a.y(), -kFar, kFar)),
      QPointF(std::clamp(c.x(), -kFar, kFar), std::clamp(c.y(), -kFar, kFar))));
}

void MapView::paintRing(QPainter& p) {
  const int64_t distance = traverse_ ? traverse_->viewDistance : viewDistance_;
  const double radius = static_cast<double>(distance) / geometry_.cellsPerPixel;
  if (radius < 8 || radius > 20000) return;
  const QPointF at = viewpointOnScreen();
  const auto draw = [&](QPainter& q, QPointF centre) {
    q.setRenderHint(QPainter::Antialiasing);
    q.setBrush(Qt::NoBrush);
    QColor casing = look::tokens().sheet;
    casing.setAlphaF(0.8f);
    q.setPen(QPen(casing, 3));
    q.drawEllipse(centre, radius, radius);
    q.setPen(QPen(look::tokens().ink, 1, Qt::DashLine));
    q.drawEllipse(centre, radius, radius);
    q.setRenderHint(QPainter::Antialiasing, false);
  };
  if (radius > 1000) return draw(p, at);
  // Dashes on a curve are slow to draw and seldom change: kept as a picture.
  const int side = 2 * static_cast<int>(radius) + 6;
  const double centre = side / 2.0;
  const QImage& ring =
      cached(QStringLiteral("ring %1").arg(radius), QSize(side, side), [&](QPainter& q) {
        draw(q, {centre, centre});
      });
  p.drawImage(QPoint(qRound(at.x() - centre), qRound(at.y() - centre)), ring);
}

const QImage& MapView::cached(
    const QString& what, QSize size, const std::function<void(QPainter&)>& draw) {
  const double scale = devicePixelRatioF();
  const QString key = QStringLiteral("%1 %2 %3").arg(what).arg(look::isNight()).arg(scale);
  const auto found = drawn_.constFind(key);
  if (found != drawn_.constEnd()) return *found;
  if (drawn_.size() > 24) drawn_.clear();
  QImage image(size * scale, QImage::Format_ARGB32_Premultiplied);
  image.setDevicePixelRatio(scale);
  image.fill(Qt::transparent);
  QPainter q(&image);
  draw(q);
  q.end();
  return *drawn_.insert(key, image);
}

QPointF MapView::viewpointOnScreen() const {
  return traverse_ ? geometry_.toScreen(traverse_->view, 0.5, 0.5)
                   : geometry_.toScreen(viewpoint_.cell, viewpoint_.fx, viewpoint_.fz);
}

void MapView::paintViewpoint(QPainter& p) {
  const QPointF at = viewpointOnScreen();
  p.setRenderHint(QPainter::Antialiasing);
  // A survey station: a ring with a point, and four ticks toward the axes.
  const auto draw = [&](const QPen& pen) {
    p.setPen(pen);
    p.setBrush(Qt::NoBrush);
    p.drawEllipse(at, 7, 7);
    for (const QPointF d : {QPointF(1, 0), QPointF(-1, 0), QPointF(0, 1), QPointF(0, -1)})
      p.drawLine(at + d * 7, at + d * 12);
  };
  draw(QPen(look::tokens().sheet, 4, Qt::SolidLine, Qt::RoundCap));
  draw(QPen(look::tokens().madder, 2, Qt::SolidLine, Qt::FlatCap));
  p.setPen(QPen(look::tokens().sheet, 1));
  p.setBrush(look::tokens().madder);
  p.drawEllipse(at, 3, 3);
  p.setRenderHint(QPainter::Antialiasing, false);
}

void MapView::paintScaleBar(QPainter& p) {
  const int64_t cells = niceCells(90 * geometry_.cellsPerPixel);
  const double length = static_cast<double>(cells) / geometry_.cellsPerPixel;
  const QSize size(static_cast<int>(length) + 120, 48);
  const QImage& bar =
      cached(QStringLiteral("bar %1 %2").arg(cells).arg(length), size, [&](QPainter& q) {
        const QPointF left(14, 34);
        const auto draw = [&](const QPen& pen) {
          q.setPen(pen);
          q.drawLine(left, left + QPointF(length, 0));
          for (int i = 0; i <= 4; ++i) {
            const QPointF at = left + QPointF(length * i / 4, 0);
            q.drawLine(at, at - QPointF(0, i % 4 ? 3 : 6));
          }
        };
        q.setRenderHint(QPainter::Antialiasing);
        draw(QPen(look::tokens().sheet, 4.5, Qt::SolidLine, Qt::SquareCap));
        draw(QPen(look::tokens().ink, 1.5, Qt::SolidLine, Qt::FlatCap));
        q.setFont(look::mapFont());
        const QString text =
            cells == 1 ? tr("1 cell") : tr("%1 cells").arg(look::wholeNumber(cells));
        look::drawHaloText(q, left - QPointF(0, 10), text);
      });
  p.drawImage(QPoint(0, static_cast<int>(geometry_.size.height()) - size.height()), bar);
}

void MapView::paintMargins(QPainter& p) {
  const look::Tokens& t = look::tokens();
  const QRect r = pictureRect();
  p.setPen(QPen(t.ink, hasFocus() ? 2 : 1));
  p.setBrush(Qt::NoBrush);
  p.drawRect(r.adjusted(-1, -1, 0, 0));
  p.setFont(look::font(look::Type::Caption));
  const QFontMetrics metrics = p.fontMetrics();
  // Ticks stand on round cells, far enough apart for their figures.
  const QString sample = look::wholeNumber(geometry_.centre.cell.x);
  const double apart = std::max(80.0, metrics.horizontalAdvance(sample) + 40.0);
  const int64_t step = niceCells(apart * geometry_.cellsPerPixel);
  const acre::Rect cells = geometry_.cells();
  const auto place = [&](int64_t cell, bool alongX) {
    const QPointF at = geometry_.toScreen(
        {alongX ? cell : geometry_.centre.cell.x, alongX ? geometry_.centre.cell.z : cell});
    return (alongX ? at.x() + r.left() : at.y() + r.top());
  };
  p.setPen(QPen(t.ink, 1));
  for (int64_t x = acre::floorDiv(cells.x, step) * step; x <= cells.x + cells.width; x += step) {
    const double at = place(x, true);
    if (at < r.left() || at > r.right()) continue;
    p.drawLine(QPointF(at, r.top() - 5), QPointF(at, r.top() - 1));
    p.drawLine(QPointF(at, r.bottom() + 1), QPointF(at, r.bottom() + 5));
    const QString text = look::wholeNumber(x);
    const double half = metrics.horizontalAdvance(text) / 2.0;
    if (at - half >= r.left() && at + half <= r.right())
      p.drawText(QPointF(at - half, r.top() - 8), text);
  }
  for (int64_t z = acre::floorDiv(cells.z, step) * step; z <= cells.z + cells.length; z += step) {
    const double at = place(z, false);
    if (at < r.top() || at > r.bottom()) continue;
    p.drawLine(QPointF(r.left() - 5, at), QPointF(r.left() - 1, at));
    p.drawLine(QPointF(r.right() + 1, at), QPointF(r.right() + 5, at));
    const QString text = look::wholeNumber(z);
    const double half = metrics.horizontalAdvance(text) / 2.0;
    if (at - half < r.top() || at + half > r.bottom()) continue;
    p.save();
    p.translate(r.left() - 9, at + half);
    p.rotate(-90);
    p.drawText(QPointF(0, 0), text);
    p.restore();
  }
  p.setPen(t.soft);
  // As many of its phrases as there is room for.
  QString hint = hint_;
  while (metrics.horizontalAdvance(hint) > r.width() && hint.contains(kBetween))
    hint.truncate(hint.lastIndexOf(kBetween));
  p.drawText(QRectF(r.left(), r.bottom() + 5, r.width(), height() - r.bottom() - 7),
      Qt::AlignRight | Qt::AlignVCenter, hint);
  if (!hovering_) return;
  // The pointer's place on both axes.
  p.setPen(QPen(t.ink, 2));
  p.drawLine(QPointF(hover_.x(), r.top() - 7), QPointF(hover_.x(), r.top() - 1));
  p.drawLine(QPointF(r.left() - 7, hover_.y()), QPointF(r.left() - 1, hover_.y()));
}

}  // namespace app
