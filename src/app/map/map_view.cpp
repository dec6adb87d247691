#include "app/map/map_view.h"

#include <QApplication>
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <QStyle>
#include <QWheelEvent>
#include <algorithm>
#include <array>

#include "app/look/look.h"

namespace app {
namespace {

constexpr int kMarginLeft = 26;
constexpr int kMarginTop = 24;
constexpr int kMarginRight = 10;
constexpr int kMarginBottom = 22;
constexpr double kDrivePixelsPerSecond = 420;
constexpr int kDragThreshold = 4;
constexpr double kFadeMillis = 140;

/// 1, 2 or 5 times a power of ten, at least `v`.
int64_t niceCells(double v) {
  int64_t power = 1;
  while (true) {
    for (const int64_t m : {1, 2, 5})
      if (static_cast<double>(m * power) >= v) return m * power;
    power *= 10;
  }
}

bool isDriveKey(int key) {
  switch (key) {
    case Qt::Key_Left:
    case Qt::Key_Right:
    case Qt::Key_Up:
    case Qt::Key_Down:
    case Qt::Key_W:
    case Qt::Key_A:
    case Qt::Key_S:
    case Qt::Key_D:
      return true;
    default:
      return false;
  }
}

}  // namespace

MapView::MapView(acre::Engine& engine, QWidget* parent)
    : QWidget(parent),
      engine_(engine),
      store_(engine),
      courier_(std::make_shared<Courier<MapView>>(this)) {
  setObjectName(QStringLiteral("map"));
  setAccessibleName(tr("Map"));
  setAccessibleDescription(
      tr("The world from above. Arrow keys drive the viewpoint, plus and minus zoom, Ctrl and\n"
         "arrows move the cell cursor, Enter asks why the cell is what it is."));
  setFocusPolicy(Qt::StrongFocus);
  setMouseTracking(true);
  setMinimumSize(320, 240);
  driveTimer_.setInterval(16);
  driveTimer_.setTimerType(Qt::PreciseTimer);
  connect(&driveTimer_, &QTimer::timeout, this, &MapView::drive);
  connect(&store_, &TileStore::updated, this, qOverload<>(&QWidget::update));
  connect(&store_, &TileStore::arrived, this, [this](const TileStore::Key& key) {
    paintSoon(tileRect(key).translated(pictureRect().topLeft()));
  });
  frame_.setSingleShot(true);
  connect(&frame_, &QTimer::timeout, this, [this] { update(std::exchange(soon_, {})); });
  connect(&store_, &TileStore::finished, this, [this] { emit worked(false); });
  fadeTimer_.setInterval(16);
  connect(&fadeTimer_, &QTimer::timeout, this, [this] {
    if (fadeShare() >= 1) {
      fadeTimer_.stop();
      fadeClock_.invalidate();
    }
    update(pictureRect());
  });
  contourPause_.setSingleShot(true);
  contourPause_.setInterval(40);
  connect(&contourPause_, &QTimer::timeout, this, &MapView::requestContours);
}

MapView::~MapView() {
  courier_->close();
  contourStop_.request_stop();
  if (stream_) stream_->stop();
}

void MapView::show(std::shared_ptr<const acre::World> world, const acre::Picture& picture) {
  const bool same = world == world_;
  if (same && picture == picture_) return;
  const bool sameChunks =
      world_ && planOf(*world_).layout().size() == planOf(*world).layout().size();
  world_ = std::move(world);
  picture_ = picture;
  if (!sameChunks) {
    startStream();
  } else if (!same) {
    stream_->setSource(planOf(world_));
    takeChunks();
  }
  emit worked(true);
  store_.show(world_, picture_, style_);
  contourPause_.start();
  paintSoon(rect());  // The old pictures stay for now, what lies over them may have changed.
}

/// Places mean other cells than before, and what lies ahead is counted in chunks: all begins anew.
void MapView::startStream() {
  held_.clear();
  const auto settings =
      acre::StreamSettings::moving(viewDistance_, planOf(*world_).layout().size());
  stream_ = std::make_unique<acre::Stream>(
      planOf(world_), settings, engine_.executor(), engine_.budget());
  stream_->onReady(
      [this] { QMetaObject::invokeMethod(this, &MapView::takeChunks, Qt::QueuedConnection); });
  stream_->setView(viewpoint_.cell);
}

void MapView::setStyle(const acre::Style& style) {
  if (style == style_) return;
  style_ = style;
  if (world_) store_.show(world_, picture_, style_);
  update();
}

void MapView::setChunksShown(bool shown) {
  chunksShown_ = shown;
  update();
}

void MapView::setEmptyNote(const QString& note) {
  if (note == emptyNote_) return;
  emptyNote_ = note;
  update();
}

void MapView::contextMenuEvent(QContextMenuEvent* e) {
  emit menuRequested(e->globalPos());
}

void MapView::setHint(const QString& hint) {
  hint_ = hint;
  update();
}

void MapView::setRingShown(bool shown) {
  ringShown_ = shown;
  update();
}

void MapView::setViewDistance(int64_t cells) {
  viewDistance_ = cells;
  if (stream_) {
    stream_->setViewDistance(cells);
    takeChunks();
  }
  update();
}

std::vector<acre::Stream::Failure> MapView::failures() const {
  return stream_ ? stream_->failures() : std::vector<acre::Stream::Failure>();
}

void MapView::retryFailed() {
  for (const auto& failure : failures()) stream_->retry(failure.pos);
}

void MapView::takeChunks() {
  if (!stream_) return;
  // A few hundred a call keep the event loop free; the rest comes with the next one.
  acre::Handover change = stream_->take(256);
  for (const acre::ChunkPos& pos : change.hide) held_.erase(pos);
  for (acre::ChunkHandle& chunk : change.show) held_[chunk->pos] = chunk;
  if (change.show.size() == 256)
    QMetaObject::invokeMethod(this, &MapView::takeChunks, Qt::QueuedConnection);
  if (chunksShown_) paintSoon(pictureRect());
  emit streamChanged();
}

// ---- moving ------------------------------------------------------------------------------------

QRect MapView::pictureRect() const {
  return rect().adjusted(kMarginLeft, kMarginTop, -kMarginRight, -kMarginBottom);
}

void MapView::geometryChanged() {
  geometry_.size = pictureRect().size();
  // Another level comes in over the last one, unless the desktop asks for stillness.
  const int before = std::exchange(shownLevel_, geometry_.level());
  if (before >= 0 && before != shownLevel_ && isVisible() &&
      QWidget::style()->styleHint(QStyle::SH_Widget_Animation_Duration, nullptr, this) > 0) {
    fadeClock_.start();
    fadeTimer_.start();
  }
  store_.look(geometry_);
  if (store_.pending() > 0) emit worked(true);
  followLine();
  if (contourInterval_ > 0) contourPause_.start();
  update();
  emit viewChanged();
}

void MapView::fit(const acre::Rect& cells, int covered) {
  fitted_ = cells;
  fittedBeside_ = covered;
  if (geometry_.size.isEmpty()) return;  // As soon as there is room.
  constexpr double kRoom = 1.06;
  const double free = std::max(geometry_.size.width() - covered, 80.0);
  const double scale = kRoom * std::max(static_cast<double>(cells.width) / free,
                                   static_cast<double>(cells.length) / geometry_.size.height());
  geometry_.cellsPerPixel = std::clamp(scale, MapGeometry::kFinest, MapGeometry::kCoarsest);
  geometry_.centre = {{cells.x + cells.width / 2, cells.z + cells.length / 2}, 0, 0};
  geometry_.centre.moveBy(-covered / 2.0 * geometry_.cellsPerPixel, 0);
  geometryChanged();
}

void MapView::goTo(acre::Cell cell) {
  fitted_.reset();
  viewpoint_ = {cell, 0.5, 0.5};
  geometry_.centre = viewpoint_;
  if (stream_) {
    stream_->setView(cell);
    takeChunks();
  }
  geometryChanged();
  emit viewpointMoved();
}

void MapView::backToViewpoint() {
  fitted_.reset();
  geometry_.centre = viewpoint_;
  geometryChanged();
}

void MapView::zoomBy(double factor, QPointF at) {
  const double next =
      std::clamp(geometry_.cellsPerPixel * factor, MapGeometry::kFinest, MapGeometry::kCoarsest);
  if (next == geometry_.cellsPerPixel) return;
  fitted_.reset();
  // The cell under the pointer stays there.
  const Place fixed = geometry_.toWorld(at);
  geometry_.cellsPerPixel = next;
  const QPointF now = geometry_.toScreen(fixed.cell, fixed.fx, fixed.fz);
  geometry_.centre.moveBy((now.x() - at.x()) * next, (now.y() - at.y()) * next);
  geometryChanged();
}

void MapView::zoomCentre(double factor) {
  zoomBy(factor, {geometry_.size.width() / 2, geometry_.size.height() / 2});
}

void MapView::drive() {
  const double seconds = std::min<double>(static_cast<double>(driveClock_.restart()) / 1000, 0.1);
  double dx = 0, dz = 0;
  for (const int key : driven_) {
    if (key == Qt::Key_Left || key == Qt::Key_A) dx -= 1;
    if (key == Qt::Key_Right || key == Qt::Key_D) dx += 1;
    if (key == Qt::Key_Up || key == Qt::Key_W) dz -= 1;
    if (key == Qt::Key_Down || key == Qt::Key_S) dz += 1;
  }
  if (driven_.isEmpty()) {
    driveTimer_.stop();
    return;
  }
  const double way = kDrivePixelsPerSecond * geometry_.cellsPerPixel * seconds * (fast_ ? 4 : 1);
  const QPointF seen = geometry_.toScreen(viewpoint_.cell, viewpoint_.fx, viewpoint_.fz);
  viewpoint_.moveBy(dx * way, dz * way);
  if (QRectF(QPointF(), geometry_.size).contains(seen))
    geometry_.centre.moveBy(dx * way, dz * way);
  else
    geometry_.centre = viewpoint_;
  if (stream_) {
    stream_->setView(viewpoint_.cell);
    takeChunks();
  }
  geometryChanged();
  if (hovering_) hoverAt(hover_);
  emit viewpointMoved();
  emit didDrive();
}

void MapView::resizeEvent(QResizeEvent*) {
  geometryChanged();
  if (fitted_) fit(*fitted_, fittedBeside_);
}

void MapView::mousePressEvent(QMouseEvent* e) {
  if (e->button() != Qt::LeftButton) return;
  if (lineShown_) {
    for (const bool b : {false, true}) {
      if ((e->position() - lineEnd(b)).manhattanLength() > 12) continue;
      draggedEnd_ = b ? 1 : 0;
      if (!linePlaced_) {  // From here on it stays where it is put.
        const QPointF shift = pictureRect().topLeft();
        line_ = {
            geometry_.toWorld(lineEnd(false) - shift), geometry_.toWorld(lineEnd(true) - shift)};
        linePlaced_ = true;
      }
      return;
    }
  }
  pressed_ = true;
  pressAt_ = lastAt_ = e->position();
  if (painting_) paintTo(e->position());
}

void MapView::setPainting(bool on) {
  painting_ = on;
  on ? setCursor(Qt::CrossCursor) : unsetCursor();
}

void MapView::paintTo(QPointF position) {
  const QPointF corner = pictureRect().topLeft();
  const acre::Cell from = geometry_.toWorld(lastAt_ - corner).cell;
  const acre::Cell to = geometry_.toWorld(position - corner).cell;
  lastAt_ = position;
  emit painted(from.x, from.z, to.x, to.z);
}

void MapView::mouseMoveEvent(QMouseEvent* e) {
  if (draggedEnd_ >= 0) {
    (draggedEnd_ ? line_.b : line_.a) = geometry_.toWorld(e->position() - pictureRect().topLeft());
    emit sectionChanged();
    return update();
  }
  if (pressed_ && painting_) {
    if (pictureRect().contains(e->position().toPoint())) paintTo(e->position());
  } else if (pressed_) {
    if (!dragging_ && (e->position() - pressAt_).manhattanLength() > kDragThreshold) {
      dragging_ = true;
      fitted_.reset();
      setCursor(Qt::ClosedHandCursor);
    }
    if (dragging_) {
      const QPointF way = e->position() - lastAt_;
      geometry_.centre.moveBy(
          -way.x() * geometry_.cellsPerPixel, -way.y() * geometry_.cellsPerPixel);
      lastAt_ = e->position();
      geometryChanged();
      emit didDrag();
    }
  }
  hoverAt(e->position());
}

void MapView::mouseReleaseEvent(QMouseEvent* e) {
  if (std::exchange(draggedEnd_, -1) >= 0) return;
  if (painting_ && pressed_) {
    pressed_ = false;
    return emit paintingEnded();
  }
  const bool click = pressed_ && !dragging_ && pictureRect().contains(e->position().toPoint());
  pressed_ = dragging_ = false;
  drawingRoute_ || painting_ ? setCursor(Qt::CrossCursor) : unsetCursor();
  if (!click) return;
  const acre::Cell cell = geometry_.toWorld(e->position() - pictureRect().topLeft()).cell;
  if (drawingRoute_) return emit routePointed(cell.x, cell.z);
  cursor_ = cell;
  emit plumbRequested(cell.x, cell.z, e->modifiers() & Qt::ShiftModifier);
}

void MapView::mouseDoubleClickEvent(QMouseEvent* e) {
  if (e->button() != Qt::LeftButton || !pictureRect().contains(e->position().toPoint())) return;
  if (drawingRoute_ || painting_) return;
  goTo(geometry_.toWorld(e->position() - pictureRect().topLeft()).cell);
}

void MapView::leaveEvent(QEvent*) {
  hovering_ = false;
  update();
  emit hovered(false, 0, 0);
}

void MapView::hoverAt(QPointF position) {
  hover_ = position;
  hovering_ = pictureRect().contains(position.toPoint());
  const acre::Cell cell = geometry_.toWorld(position - pictureRect().topLeft()).cell;
  update();
  emit hovered(hovering_, cell.x, cell.z);
}

void MapView::wheelEvent(QWheelEvent* e) {
  const double notches = e->angleDelta().y() / 120.0;
  zoomBy(std::pow(2.0, -notches / 2), e->position() - pictureRect().topLeft());
  hoverAt(e->position());
  emit didZoom();
  e->accept();
}

void MapView::keyPressEvent(QKeyEvent* e) {
  if (isDriveKey(e->key()) && !(e->modifiers() & (Qt::ControlModifier | Qt::AltModifier))) {
    fast_ = e->modifiers() & Qt::ShiftModifier;
    if (e->isAutoRepeat()) return;
    driven_.insert(e->key());
    if (driveTimer_.isActive()) return;
    driveClock_.start();
    driveTimer_.start();
    return;
  }
  if (e->modifiers() & Qt::ControlModifier) {
    const int64_t by = e->modifiers() & Qt::ShiftModifier ? 10 : 1;
    acre::Cell to = cursorCell();
    if (e->key() == Qt::Key_Left) to.x -= by;
    if (e->key() == Qt::Key_Right) to.x += by;
    if (e->key() == Qt::Key_Up) to.z -= by;
    if (e->key() == Qt::Key_Down) to.z += by;
    if (to != cursorCell()) {
      cursor_ = to;
      emit hovered(true, to.x, to.z);
      return update();
    }
  }
  switch (e->key()) {
    case Qt::Key_Return:
    case Qt::Key_Enter:
      return emit plumbRequested(
          cursorCell().x, cursorCell().z, e->modifiers() & Qt::ShiftModifier);
    case Qt::Key_Plus:
    case Qt::Key_Equal:
      return zoomCentre(std::sqrt(0.5));
    case Qt::Key_Minus:
      return zoomCentre(std::sqrt(2.0));
    case Qt::Key_Home:
      return backToViewpoint();
    default:
      QWidget::keyPressEvent(e);
  }
}

void MapView::keyReleaseEvent(QKeyEvent* e) {
  if (e->isAutoRepeat()) return;
  fast_ = e->modifiers() & Qt::ShiftModifier;
  if (!driven_.remove(e->key())) QWidget::keyReleaseEvent(e);
}

void MapView::focusInEvent(QFocusEvent*) {
  update();
}

void MapView::focusOutEvent(QFocusEvent*) {
  driven_.clear();
  update();
}

bool MapView::event(QEvent* e) {
  // Plain letters and arrows belong to the map while it has the focus, not to menu shortcuts.
  if (e->type() == QEvent::ShortcutOverride) {
    auto* key = static_cast<QKeyEvent*>(e);
    if (isDriveKey(key->key()) && !(key->modifiers() & (Qt::ControlModifier | Qt::AltModifier))) {
      e->accept();
      return true;
    }
  }
  return QWidget::event(e);
}

// ---- painting ----------------------------------------------------------------------------------

void MapView::paintSoon(const QRect& where) {
  constexpr int kFrameMillis = 12;
  soon_ += where;
  if (!frame_.isActive()) frame_.start(kFrameMillis);
}

void MapView::paintEvent(QPaintEvent* e) {
  QPainter p(this);
  const QRect picture = pictureRect();
  const bool margins = !picture.contains(e->rect());
  if (margins)
    for (const QRect& bare : QRegion(rect()) - picture) p.fillRect(bare, look::tokens().sheet);
  p.save();
  p.setClipRect(picture);
  p.translate(picture.topLeft());
  paintGround(p);
  paintContours(p);
  if (chunksShown_) paintChunks(p);
  paintBounds(p);
  if (ringShown_) paintRing(p);
  paintOutline(p);
  paintSpaces(p);
  paintCaves(p);
  if (lineShown_) paintLine(p);
  paintRoute(p);
  paintViewpoint(p);
  paintPlumbs(p);
  if (!emptyNote_.isEmpty()) {
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
  paintScaleBar(p);
  p.restore();
  if (margins) paintMargins(p);
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
  const QRect snapped(QPoint(qRound(target.left()), qRound(target.top())),
      QPoint(qRound(target.right()) - 1, qRound(target.bottom()) - 1));
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
  const auto found = overlays_.constFind(key);
  if (found != overlays_.constEnd()) return *found;
  if (overlays_.size() > 24) overlays_.clear();
  QImage image(size * scale, QImage::Format_ARGB32_Premultiplied);
  image.setDevicePixelRatio(scale);
  image.fill(Qt::transparent);
  QPainter q(&image);
  draw(q);
  q.end();
  return *overlays_.insert(key, image);
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
  p.drawText(QRectF(r.left(), r.bottom() + 5, r.width(), kMarginBottom - 6),
      Qt::AlignRight | Qt::AlignVCenter, hint_);
  if (!hovering_) return;
  // The pointer's place on both axes.
  p.setPen(QPen(t.ink, 2));
  p.drawLine(QPointF(hover_.x(), r.top() - 7), QPointF(hover_.x(), r.top() - 1));
  p.drawLine(QPointF(r.left() - 7, hover_.y()), QPointF(r.left() - 1, hover_.y()));
}

}  // namespace app
