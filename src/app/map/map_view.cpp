#include "app/map/map_view.h"

#include <QHelpEvent>
#include <QKeyEvent>
#include <QMouseEvent>
#include <QStyle>
#include <QToolTip>
#include <QWheelEvent>
#include <algorithm>

#include "app/look/look.h"
#include "app/overlay/marks.h"
#include "cave/level_stage.h"

namespace app {
namespace {

constexpr int kMarginLeft = 26;
constexpr int kMarginTop = 24;
constexpr int kMarginRight = 10;
constexpr int kMarginBottom = 22;
constexpr double kDrivePixelsPerSecond = 420;
constexpr int kDragThreshold = 4;

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
  describeAloud();
  setFocusPolicy(Qt::StrongFocus);
  setMouseTracking(true);
  setMinimumSize(320, 240);
  driveTimer_.setInterval(16);
  driveTimer_.setTimerType(Qt::PreciseTimer);
  connect(&driveTimer_, &QTimer::timeout, this, &MapView::drive);
  // The margins stay as they are, which are slow to write.
  connect(&store_, &TileStore::updated, this, [this] { update(pictureRect()); });
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
  connect(&overlays_, &Overlays::changed, this, [this] {
    describeAloud();
    update(pictureRect());
  });
  contourPause_.setSingleShot(true);
  contourPause_.setInterval(40);
  connect(&contourPause_, &QTimer::timeout, this, &MapView::requestContours);
}

void MapView::describeAloud() {
  setAccessibleDescription(
      tr("The world from above. Arrow keys drive the viewpoint, plus and minus zoom, Ctrl and\n"
         "arrows move the cell cursor, Enter asks why the cell is what it is. %1")
          .arg(overlays_.spoken()));
}

MapView::~MapView() {
  courier_->close();
  contourStop_.request_stop();
  if (stream_) stream_->stop();
}

void MapView::show(std::shared_ptr<const acre::World> world, const acre::Picture& picture,
    std::shared_ptr<const acre::GroundScale> scale) {
  const bool same = world == world_;
  if (same && picture == picture_ && (scale ? scale == scale_ : ownScale_)) return;
  if (scale || !same || !ownScale_) {
    ownScale_ = !scale;
    scale_ = scale ? std::move(scale) : std::make_shared<const acre::GroundScale>(world);
  }
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
  showStyled();
  overlays_.set(
      Over::Places, planOf(*world_).level() && !planOf(*world_).level()->floor().places.empty()
                        ? std::make_shared<PlacesOverlay>(*world_)
                        : nullptr);
  contourPause_.start();
  paintSoon(pictureRect());  // The old pictures stay for now, what lies over them may have changed.
  if (!same) emit worldShown();
}

/// Places mean other cells than before, and what lies ahead is counted in chunks: all begins anew.
void MapView::startStream() {
  held_.clear();
  scene_.reset();
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
  if (world_) showStyled();
  update();
}

void MapView::showStyled() {
  acre::Style style = style_;
  style.scale = scale_;
  store_.show(world_, picture_, style);
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
  scene_.reset();
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
  geometry_.deviceRatio = devicePixelRatioF();
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
  if (contourInterval_ > 0 || contoursByZoom_) contourPause_.start();
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
  const Place place{cell, 0.5, 0.5};
  lookAt(place, place, geometry_.cellsPerPixel);
}

void MapView::lookAt(const Place& viewpoint, const Place& centre, double cellsPerPixel) {
  fitted_.reset();
  viewpoint_ = viewpoint;
  geometry_.centre = centre;
  geometry_.cellsPerPixel = std::clamp(cellsPerPixel, MapGeometry::kFinest, MapGeometry::kCoarsest);
  if (stream_) {
    stream_->setView(viewpoint_.cell);
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

/// From there on a cell takes whole pixels, so that no tile is smoothed.
static double wholePixels(double from, double cellsPerPixel) {
  constexpr double kFewest = 8;
  const double pixels = 1 / cellsPerPixel;
  if (pixels < kFewest - 0.5) return cellsPerPixel;
  const double whole = std::round(pixels), before = 1 / from;
  // A small step is one pixel, not none.
  return 1 / (whole == before ? whole + (pixels > before ? 1 : -1) : whole);
}

void MapView::zoomBy(double factor, QPointF at) {
  const double next =
      std::clamp(wholePixels(geometry_.cellsPerPixel, geometry_.cellsPerPixel * factor),
          MapGeometry::kFinest, MapGeometry::kCoarsest);
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

void MapView::updateMargins() {
  update(QRegion(rect()) - pictureRect());
}

void MapView::leaveEvent(QEvent*) {
  hovering_ = false;
  updateMargins();
  emit hovered(false, 0, 0);
}

void MapView::hoverAt(QPointF position) {
  hover_ = position;
  hovering_ = pictureRect().contains(position.toPoint());
  const acre::Cell cell = geometry_.toWorld(position - pictureRect().topLeft()).cell;
  updateMargins();
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

void MapView::setTraverse(std::shared_ptr<const TraverseScene> scene) {
  traverse_ = std::move(scene);
  scene_.reset();
  if (traverse_ && traverse_->follow) {
    geometry_.centre = {traverse_->view, 0.5, 0.5};
    geometry_.centre.moveBy(-traverse_->covered * geometry_.cellsPerPixel / 2, 0);
    geometryChanged();
  }
  update();
}

void MapView::setDrawingRoute(bool on) {
  drawingRoute_ = on;
  setCursor(on ? Qt::CrossCursor : Qt::ArrowCursor);
}

bool MapView::event(QEvent* e) {
  if (e->type() == QEvent::ToolTip) {
    const auto* help = static_cast<QHelpEvent*>(e);
    const QString words = overlays_.at(help->pos() - pictureRect().topLeft(), geometry_);
    QToolTip::showText(help->globalPos(), words, this);
    return true;
  }
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

}  // namespace app

#include "moc_map_view.cpp"
