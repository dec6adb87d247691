#include "app/walk/walk_view.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QWheelEvent>
#include <algorithm>
#include <cmath>

#include "app/hand/hand_drawer.h"
#include "app/look/look.h"
#include "recipe/edits.h"
#include "recipe/level_recipe.h"
#include "world/block_value.h"
#include "world/world.h"

namespace app {
namespace {

constexpr double kReach = 30;  // Cells to the farthest block that can be aimed at.
constexpr double kDegreesPerPixel = 0.22;

bool onlyEditsDiffer(const acre::Recipe& a, const acre::Recipe& b) {
  acre::Recipe one = a;
  one.edits = b.edits;
  return one == b;
}

}  // namespace

WalkView::WalkView(Document& document, QWidget* parent) : QWidget(parent), document_(document) {
  setObjectName(QStringLiteral("walk"));
  setFocusPolicy(Qt::StrongFocus);
  setMouseTracking(true);
  setAttribute(Qt::WA_OpaquePaintEvent);
  setMinimumSize(200, 100);
  setAccessibleName(tr("Walk view"));
  courier_ = std::make_shared<Courier<WalkView>>(this);
  draughtsman_ = std::make_unique<Draughtsman>([courier = courier_](Draughtsman::Drawing drawing) {
    auto shared = std::make_shared<Draughtsman::Drawing>(std::move(drawing));
    courier->deliver([shared](WalkView& self) {
      self.drawing_ = std::move(*shared);
      self.drawingAsked_ = false;
      self.repaintPicture();
      if (self.stale_) self.redraw();
      emit self.changed();
    });
  });
  frame_.setInterval(16);
  frame_.setTimerType(Qt::PreciseTimer);
  connect(&frame_, &QTimer::timeout, this, &WalkView::tick);
}

WalkView::~WalkView() {
  courier_->close();
  if (stream_) stream_->stop();
}

void WalkView::refresh() {
  const auto before = world_;
  world_ = document_.world();
  if (world_ == before) return;
  classes_ = std::make_unique<acre::BlockClasses>(*world_);
  const bool lamp = style_.lamp, wire = style_.wireframe;
  const bool lines = style_.chunk > 0;
  style_ = acre::styleFor(*world_, faces().clearLeaves);
  style_.sun = sun_;
  style_.distance = static_cast<double>(distance_);
  style_.lamp = lamp;
  style_.wireframe = wire;
  style_.chunk = lines ? world_->groundLayout().size() : 0;
  if (look::isNight()) {
    style_.sky = look::tokens().paper.rgb();
    style_.fog = look::tokens().sheet.rgb();
  }
  ++boxRequest_;
  boxAsked_ = false;
  if (!stream_) return;
  auto source = std::make_shared<acre::MeshSource>(world_, faces());
  if (before && before->groundLayout() == world_->groundLayout() &&
      before->bounds() == world_->bounds() && onlyEditsDiffer(before->recipe(), world_->recipe())) {
    const auto cells = acre::EditSet::difference(before->edits(), world_->edits());
    const acre::ChunkLayout layout = world_->groundLayout();
    const bool flat = !world_->layout().blocks();
    stream_->setSource(std::move(source), [cells, layout, flat](acre::ChunkPos pos) {
      const acre::Rect r = layout.rectOf(pos);
      const acre::BlockLevels levels = layout.levelsOf(pos);
      const int64_t s = levels.step;
      return std::any_of(cells.begin(), cells.end(), [&](const acre::Edit& e) {
        return e.x >= r.x - s && e.x < r.x + r.width + s && e.z >= r.z - s &&
               e.z < r.z + r.length + s &&
               (flat || (e.y >= levels.first - s && e.y <= levels.top() + s));
      });
    });
  } else {
    stream_->setSource(std::move(source));
  }
  requestBox();
  wake();
}

void WalkView::goTo(acre::Cell cell) {
  followed_.reset();
  walker_.eye.cellX = cell.x;
  walker_.eye.cellZ = cell.z;
  walker_.eye.x = walker_.eye.z = 0.5;
  const bool hover = walker_.flying || !placed_;
  placed_ = true;
  if (!document_.world()) return;
  // Somewhere above the ground until it is known where one can stand.
  walker_.flying = true;
  askToLand(hover);
  const auto rise = [courier = courier_, world = document_.world(), cell, request = landRequest_] {
    const auto height = static_cast<double>(world->columns().heightAt(cell));
    courier->deliver([height, request](WalkView& self) {
      if (request != self.landRequest_ || !self.landing_) return;
      self.walker_.eye.y = height + 20;
      self.followEye();
    });
  };
  document_.engine().executor().submit(acre::Priority::Compile, rise);
  followEye();
}

void WalkView::askToLand(bool hover) {
  const acre::Cell cell{walker_.eye.cellX, walker_.eye.cellZ};
  landing_ = true;
  document_.engine().executor().submit(acre::Priority::CoarseMap,
      [courier = courier_, world = document_.world(), cell, hover, request = ++landRequest_] {
        const auto standing = acre::standNear(*world, cell);
        courier->deliver([standing, cell, hover, request, world](WalkView& self) {
          if (request != self.landRequest_) return;
          self.landing_ = false;
          acre::Walker& walker = self.walker_;
          if (standing) {
            walker.stand(*standing);
            if (hover) {
              walker.flying = true;
              walker.eye.y += 18;
              walker.eye.pitch = -16;
            }
          } else {
            const acre::AxisBounds range = world->vertical();
            if (hover) walker.eye.y = static_cast<double>(range.min + range.extent) + 4;
            emit self.refused(
                tr("Nobody can stand within 24 cells of %1, %2: there is no ground with two open "
                   "blocks above it.")
                    .arg(cell.x)
                    .arg(cell.z));
          }
          emit self.flyingChanged(walker.flying);
          self.followEye();
        });
      });
}

void WalkView::setEye(const acre::Eye& eye) {
  followed_.reset();
  walker_.eye = eye;
  placed_ = true;
  ++landRequest_;
  landing_ = false;
  followEye();
}

void WalkView::setFlying(bool flying) {
  if (walker_.flying == flying) return;
  if (!flying) return askToLand(false);
  ++landRequest_;
  landing_ = false;
  walker_.flying = true;
  emit flyingChanged(true);
  followEye();
}

void WalkView::setTool(Tool tool) {
  tool_ = tool;
  setCursor(tool == Tool::Look ? Qt::ArrowCursor : Qt::CrossCursor);
  repaintPicture();
  emit changed();
}

void WalkView::setDistance(int64_t cells) {
  distance_ = std::clamp<int64_t>(cells, 16, 1024);
  style_.distance = static_cast<double>(distance_);
  if (!stream_) return;
  startStream();
  wake();
}

void WalkView::setSun(double degrees) {
  sun_ = style_.sun = degrees;
  wake();
}

void WalkView::setLamp(bool on) {
  style_.lamp = on;
  wake();
}

void WalkView::setChunkLines(bool on) {
  style_.chunk = on && world_ ? world_->groundLayout().size() : 0;
  wake();
}

void WalkView::setWireframe(bool on) {
  style_.wireframe = on;
  wake();
}

// ---- loading -----------------------------------------------------------------------------------

void WalkView::startStream() {
  if (stream_) stream_->stop();
  held_.clear();
  sceneStale_ = true;
  acre::StreamSettings settings;
  settings.viewDistance = distance_;
  settings.levels = acre::viewLevels(static_cast<double>(distance_), smooth_);
  settings.detail = acre::finestDistance(smooth_);
  settings.margin = 48;
  settings.ahead = 16;
  settings.cacheBytes = uint64_t{32} << 20;
  stream_ = std::make_unique<acre::Stream>(std::make_shared<acre::MeshSource>(world_, faces()),
      settings, document_.engine().executor(), document_.engine().budget());
  stream_->onReady(
      [courier = courier_] { courier->deliver([](WalkView& self) { self.takeChunks(); }); });
  followEye();
}

void WalkView::takeChunks() {
  if (!stream_) return;
  // A frame's worth; the rest with the next frames.
  constexpr size_t kMost = 48;
  const acre::Handover change = stream_->take(kMost);
  for (const acre::ChunkPos pos : change.hide) held_.erase(pos);
  for (const acre::ChunkHandle& chunk : change.show) held_[chunk->pos] = chunk;
  if (!change.hide.empty() || !change.show.empty()) sceneStale_ = true;
  wake();
}

void WalkView::followEye() {
  stale_ = true;
  if (stream_)
    stream_->setView({walker_.eye.cellX, walker_.eye.cellZ},
        static_cast<int64_t>(std::floor(std::clamp(walker_.eye.y, -1e6, 1e6))));
  if (!box_.centredOn(walker_.eye) || box_.world != world_) requestBox();
  aim();
  wake();
  emit moved();
}

void WalkView::requestBox() {
  if (!world_ || boxAsked_) return;
  boxAsked_ = true;
  document_.engine().executor().submit(acre::Priority::CoarseMap,
      [courier = courier_, world = world_, eye = walker_.eye, request = ++boxRequest_] {
        auto box = acre::BlockBox::around(world, eye);
        if (!box) return;
        auto shared = std::make_shared<acre::BlockBox>(std::move(*box));
        courier->deliver([shared, request](WalkView& self) {
          if (request != self.boxRequest_) return;
          self.box_ = std::move(*shared);
          self.boxAsked_ = false;
          // The eye may have gone on meanwhile.
          if (!self.box_.centredOn(self.walker_.eye)) self.requestBox();
          self.aim();
          self.wake();
        });
      });
}

bool WalkView::settled() const {
  if (!stream_ || sceneStale_ || stale_ || drawingAsked_ || boxAsked_ || landing_) return false;
  if (canvas_ && !canvas_->complete()) return false;
  const acre::StreamStats stats = stream_->stats();
  return stats.waiting + stats.working + stats.ready == 0;
}

std::pair<uint64_t, uint64_t> WalkView::facesAndRectangles() const {
  std::pair<uint64_t, uint64_t> out;
  if (!scene_) return out;
  for (const acre::ScenePart& part : *scene_) {
    out.first += part.mesh->faces + part.mesh->triangles.size();
    out.second += part.mesh->quads.size();
  }
  return out;
}

// ---- frames ------------------------------------------------------------------------------------

void WalkView::wake() {
  stale_ = true;
  if (!isVisible() || frame_.isActive()) return;
  clock_.start();
  frame_.start();
}

bool WalkView::isHeld(int key) const {
  return keys_.contains(key) || tapped_.contains(key);
}

acre::WalkInput WalkView::input() const {
  const auto held = [&](int a, int b = 0) {
    return isHeld(a) || (b != 0 && isHeld(b)) ? 1.0 : 0.0;
  };
  acre::WalkInput in;
  in.forward = held(Qt::Key_W, Qt::Key_Up) - held(Qt::Key_S, Qt::Key_Down);
  in.right = held(Qt::Key_D) - held(Qt::Key_A);
  in.up = held(Qt::Key_Space) - held(Qt::Key_X);
  in.jump = isHeld(Qt::Key_Space);
  in.fast = fast_;
  return in;
}

void WalkView::tick() {
  const double seconds = static_cast<double>(clock_.restart()) / 1000;
  const double turn = (isHeld(Qt::Key_Right) ? 1.0 : 0.0) - (isHeld(Qt::Key_Left) ? 1.0 : 0.0);
  const acre::Eye before = walker_.eye;
  const bool wasOnGround = walker_.onGround();
  if (turn != 0) walker_.eye.yaw = std::fmod(walker_.eye.yaw + turn * 90 * seconds + 360, 360);
  if (followed_) {
    alongLine_ += followed_->speed * std::min(seconds, 0.1);
    placeOnLine();
  } else if (world_) {
    walker_.step(seconds, input(), box_);
  }
  tapped_.clear();
  const acre::Eye& eye = walker_.eye;
  const bool went = eye.cellX != before.cellX || eye.cellZ != before.cellZ || eye.x != before.x ||
                    eye.z != before.z || eye.y != before.y;
  if (went || turn != 0) {
    followEye();
    emit didWalk();
  }
  // Groups of chunks that replace each other come when their last one does, which nobody calls.
  bool loading = false;
  if (stream_) {
    const acre::StreamStats stats = stream_->stats();
    loading = stats.ready + stats.working > 0 || (stats.waiting > 0 && !stats.limited);
    if (stats.ready > 0) takeChunks();
  }
  redraw();
  const bool busy = followed_ || !keys_.isEmpty() ||
                    (walker_.restless() && (went || !wasOnGround)) || sceneStale_ || loading;
  if (canvas_ && !canvas_->complete()) stale_ = true;
  if (!busy && !stale_) frame_.stop();
  emit changed();
}

void WalkView::redraw() {
  if (!world_ || drawingAsked_ || !isVisible()) return;
  if (!stale_ && !sceneStale_) return;
  if (sceneStale_ || !scene_) {
    auto scene = std::make_shared<acre::Scene>();
    const auto held = [&](acre::ChunkPos pos) { return held_.contains(pos); };
    for (const auto& [pos, chunk] : held_)
      acre::addToScene(world_->groundLayout(), pos, chunk->meshes, held, *scene);
    scene_ = std::move(scene);
    sceneStale_ = false;
  }
  stale_ = false;
  if (canvas_) return canvas_->draw(scene_, walker_.eye, style_);
  drawingAsked_ = true;
  const QSize pixels = size() * devicePixelRatioF();
  draughtsman_->draw({scene_, walker_.eye, style_, pixels});
}

void WalkView::aim() {
  aimed_.reset();
  if (!classes_ || box_.blocks.empty() || box_.world != world_) return;
  const QPointF at = pointer_ ? *pointer_ : QPointF(width() / 2.0, height() / 2.0);
  aimed_ = acre::castRay(walker_.eye,
      acre::rayThrough(walker_.eye, at.x(), at.y(), width(), height()), kReach, box_, *classes_);
}

void WalkView::act() {
  if (!world_ || !aimed_) return;
  acre::ViewHit at = *aimed_;
  if (tool_ == Tool::Look) {
    emit plumbRequested(at.x, at.y, at.z);
    return;
  }
  const bool blocks = world_->layout().blocks();
  const bool level = world_->level() != nullptr;
  if (!blocks && !level && tool_ == Tool::Cut) {
    emit refused(tr("Worlds of tiles have nothing to cut: fill a cell with another material."));
    return;
  }
  if (tool_ == Tool::Fill && blocks) {
    const int axis = static_cast<int>(at.side) / 2, way = static_cast<int>(at.side) % 2 ? 1 : -1;
    (axis == 0 ? at.x : axis == 1 ? at.y : at.z) += way;
  }
  const std::string material = tool_ != Tool::Cut ? fill_.toStdString()
                               : level            ? world_->recipe().level->open
                                                  : acre::kOpenId;
  if (material.empty()) {
    emit refused(tr("Choose a material to fill with."));
    return;
  }
  // The body must not be walled in.
  const acre::Eye& eye = walker_.eye;
  const auto touchesBody = [&](const acre::Edit& e) {
    const auto near = [](int64_t cell, int64_t base, double place) {
      const double low = static_cast<double>(cell - base) - place;
      return low < acre::Walker::kHalfWidth && low + 1 > -acre::Walker::kHalfWidth;
    };
    return near(e.x, eye.cellX, eye.x) && near(e.z, eye.cellZ, eye.z) &&
           static_cast<double>(
               e.y)<eye.y - acre::kEyeHeight + acre::kBodyHeight&& static_cast<double>(e.y + 1)>
                   eye.y -
               acre::kEyeHeight;
  };
  std::vector<acre::Edit> edits;
  const acre::AxisBounds range = world_->vertical();
  for (int dy = blocks ? -brush_ : 0; dy <= (blocks ? brush_ : 0); ++dy)
    for (int dz = -brush_; dz <= brush_; ++dz)
      for (int dx = -brush_; dx <= brush_; ++dx) {
        if (dx * dx + dy * dy + dz * dz > brush_ * brush_ + brush_) continue;
        acre::Edit edit{at.x + dx, blocks ? at.y + dy : 0, at.z + dz, material};
        if (!world_->bounds().contains({edit.x, edit.z})) continue;
        if (blocks && (edit.y < range.min || edit.y >= range.min + range.extent)) continue;
        if (tool_ == Tool::Fill && (blocks || level) && touchesBody(edit)) continue;
        if (!blocks) edit.y = acre::editLevel(world_->recipe());
        const acre::MaterialIndex is = box_.holds(edit.x, at.y + dy, edit.z)
                                           ? box_.at(edit.x, at.y + dy, edit.z)
                                           : world_->blockAt({edit.x, edit.z}, at.y + dy).material;
        if (tool_ == Tool::Cut && is >= acre::kOpen) continue;
        edits.push_back(edit);
      }
  if (edits.empty()) return;
  acre::Recipe next = document_.recipe();
  if (next.edits && next.edits->seed() != next.seed) {
    emit refused(
        tr("Cells were changed by hand in the world of seed %1. Go back to it, or save this "
           "world under another name and erase them there.")
            .arg(QString::fromStdString(next.edits->seed())));
    return;
  }
  const acre::EditSet none(next.seed);
  next.edits = (next.edits ? *next.edits : none).with(edits);
  document_.change(strikeName(tool_ == Tool::Cut, edits.size()), next);
  document_.endGesture();
}

// ---- painting ----------------------------------------------------------------------------------

acre::FaceOptions WalkView::faces() const {
  return acre::facesFor(static_cast<double>(distance_), smooth_, clearLeaves_ && !smooth_);
}

void WalkView::remesh() {
  if (world_) style_.inks = acre::styleFor(*world_, faces().clearLeaves).inks;
  if (!stream_) return;
  startStream();
  wake();
}

void WalkView::setSmooth(bool on) {
  if (on != std::exchange(smooth_, on)) remesh();
}

void WalkView::setClearLeaves(bool on) {
  if (on != std::exchange(clearLeaves_, on)) remesh();
}

void WalkView::setBackend(Backend backend) {
  backend_ = backend;
  chooseBackend();
}

void WalkView::chooseBackend() {
  if (backend_ != Backend::Software && !isVisible()) return;  // With the first picture.
  const bool gl = backend_ == Backend::OpenGl
                      ? glSupport().there
                      : backend_ == Backend::Automatic && glSupport().hardware;
  if (gl == (canvas_ != nullptr)) return;
  if (gl) {
    canvas_ = new GlCanvas(
        document_.engine().budget(), [this](QPainter& p) { paintOver(p); }, this);
    canvas_->setGeometry(rect());
    connect(canvas_, &GlCanvas::painted, this, [this] {
      // Not from within the painting.
      QMetaObject::invokeMethod(
          this,
          [this] {
            if (canvas_ && !canvas_->complete()) wake();
            emit changed();
          },
          Qt::QueuedConnection);
    });
    canvas_->show();
  } else {
    delete std::exchange(canvas_, nullptr);
  }
  drawingAsked_ = false;
  wake();
  emit changed();
}

void WalkView::repaintPicture() {
  canvas_ ? canvas_->update() : update();
}

// ---- events ------------------------------------------------------------------------------------

void WalkView::resizeEvent(QResizeEvent*) {
  if (canvas_) canvas_->setGeometry(rect());
  wake();
}

void WalkView::showEvent(QShowEvent*) {
  refresh();
  // Not while the window is just coming up.
  QTimer::singleShot(0, this, &WalkView::chooseBackend);
  if (!stream_ && world_) startStream();
  wake();
}

/// Nothing is loaded for a view that nobody sees.
void WalkView::hideEvent(QHideEvent*) {
  keys_.clear();
  tapped_.clear();
  frame_.stop();
  if (stream_) stream_->stop();
  stream_.reset();
  held_.clear();
  scene_.reset();
  sceneStale_ = true;
  drawing_ = {};
  // Nor are its bricks kept on the card; it is chosen anew with the next showing.
  if (canvas_) std::exchange(canvas_, nullptr)->deleteLater();
}

void WalkView::keyPressEvent(QKeyEvent* e) {
  fast_ = e->modifiers() & Qt::ShiftModifier;
  static const QSet<int> kHeld = {Qt::Key_W, Qt::Key_A, Qt::Key_S, Qt::Key_D, Qt::Key_Up,
      Qt::Key_Down, Qt::Key_Left, Qt::Key_Right, Qt::Key_Space, Qt::Key_X};
  if (kHeld.contains(e->key()) && !(e->modifiers() & Qt::ControlModifier)) {
    if (!e->isAutoRepeat()) {
      keys_.insert(e->key());
      tapped_.insert(e->key());
    }
    followed_.reset();
    wake();
    return;
  }
  switch (e->key()) {
    case Qt::Key_Shift:
      return;
    case Qt::Key_V:
      return setFlying(!walker_.flying);
    case Qt::Key_Return:
    case Qt::Key_Enter:
      return act();
    default:
      QWidget::keyPressEvent(e);
  }
}

void WalkView::keyReleaseEvent(QKeyEvent* e) {
  fast_ = e->modifiers() & Qt::ShiftModifier;
  if (!e->isAutoRepeat()) keys_.remove(e->key());
  QWidget::keyReleaseEvent(e);
}

void WalkView::focusOutEvent(QFocusEvent* e) {
  keys_.clear();
  tapped_.clear();
  QWidget::focusOutEvent(e);
  repaintPicture();
}

void WalkView::mousePressEvent(QMouseEvent* e) {
  setFocus();
  if (e->button() != Qt::LeftButton) return;
  pressed_ = true;
  dragging_ = false;
  pressAt_ = lastAt_ = e->position();
}

void WalkView::mouseMoveEvent(QMouseEvent* e) {
  pointer_ = e->position();
  if (pressed_ && !dragging_ && (e->position() - pressAt_).manhattanLength() > 5) dragging_ = true;
  if (dragging_) {
    const QPointF by = e->position() - lastAt_;
    walker_.eye.yaw = std::fmod(walker_.eye.yaw - by.x() * kDegreesPerPixel + 720, 360);
    walker_.eye.pitch = std::clamp(walker_.eye.pitch + by.y() * kDegreesPerPixel, -89.0, 89.0);
    lastAt_ = e->position();
    followEye();
    return;
  }
  aim();
  repaintPicture();
  emit changed();
}

void WalkView::mouseReleaseEvent(QMouseEvent* e) {
  if (e->button() != Qt::LeftButton || !pressed_) return;
  pressed_ = false;
  if (!std::exchange(dragging_, false)) {
    pointer_ = e->position();
    aim();
    act();
  }
}

void WalkView::leaveEvent(QEvent*) {
  pointer_.reset();
  aim();
  repaintPicture();
}

void WalkView::wheelEvent(QWheelEvent* e) {
  const double notches = e->angleDelta().y() / 120.0;
  walker_.flySpeed = std::clamp(walker_.flySpeed * std::pow(1.25, notches), 2.0, 200.0);
  emit changed();
}

}  // namespace app

#include "moc_walk_view.cpp"
