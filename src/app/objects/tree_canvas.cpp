#include "app/objects/tree_canvas.h"

#include <QMouseEvent>
#include <QPainter>
#include <cmath>

#include "app/look/look.h"
#include "app/map/painted.h"
#include "view/tree_scene.h"

namespace app {
namespace {

constexpr double kDegreesPerPixel = 0.5;
constexpr int kRose = 30;  ///< Radius.

/// Where places of the scene lie in a picture, in pixels; nothing behind the eye.
class Projection {
 public:
  Projection(const acre::Eye& eye, QSize size)
      : eye_(eye),
        to_(acre::directionsOf(eye)),
        middle_(size.width() / 2.0, size.height() / 2.0),
        scale_(size.width() / 2.0 / std::tan(eye.field / 2 * acre::kDegree)) {}
  template <class At>
  std::optional<QPointF> of(const At& at) const {
    constexpr double kUnit = acre::kTreeUnit;
    const double x = static_cast<double>(at.x) / kUnit - static_cast<double>(eye_.cellX) - eye_.x;
    const double y = static_cast<double>(at.y) / kUnit - eye_.y;
    const double z = static_cast<double>(at.z) / kUnit - static_cast<double>(eye_.cellZ) - eye_.z;
    const auto along = [&](const acre::Vector3& way) { return way.x * x + way.y * y + way.z * z; };
    const double depth = along(to_.forward);
    if (depth < 0.1) return {};
    return middle_ + QPointF(along(to_.right), -along(to_.up)) * (scale_ / depth);
  }

 private:
  acre::Eye eye_;
  acre::Directions to_;
  QPointF middle_;
  double scale_;
};

QRgb inkOf(const QColor& c) {
  return qRgb(c.red(), c.green(), c.blue());
}

/// Points that wait, which branch they are nearest to, and what the last round grew.
void paintGrowth(QPainter& p, const Projection& to, const acre::TreeGrowth& growth, size_t before,
    const look::Tokens& t) {
  p.setRenderHint(QPainter::Antialiasing);
  for (const acre::TreePoint& point : growth.points()) {
    if (point.gone) continue;
    const auto at = to.of(point);
    if (!at) continue;
    if (point.node >= 0)
      if (const auto node = to.of(growth.nodes()[static_cast<size_t>(point.node)])) {
        p.setPen(QPen(t.edge, 0.7));
        p.drawLine(*at, *node);
      }
    p.setPen(Qt::NoPen);
    p.setBrush(t.ink);
    p.drawEllipse(*at, 1.8, 1.8);
  }
  p.setPen(QPen(t.madder, 2));
  for (size_t n = before; n < growth.nodes().size(); ++n) {
    const acre::TreeNode& node = growth.nodes()[n];
    const auto at = to.of(node), from = to.of(growth.nodes()[static_cast<size_t>(node.parent)]);
    if (at && from) p.drawLine(*from, *at);
  }
}

}  // namespace

struct TreeCanvas::Picture {
  QImage image;
  TreeTold told;
};

TreeCanvas::TreeCanvas(QWidget* parent)
    : QWidget(parent), courier_(std::make_shared<Courier<TreeCanvas>>(this)) {
  setObjectName(QStringLiteral("bench.canvas"));
  setAccessibleName(tr("The tree on the bench"));
  setMinimumSize(200, 120);
}

TreeCanvas::~TreeCanvas() {
  courier_->close();
  worker_.stop();
}

void TreeCanvas::show_(const TreeRequest& request) {
  if (request == request_ && !picture_.isNull() && picture_.size() == size()) return;
  request_ = request;
  draw();
}

void TreeCanvas::resizeEvent(QResizeEvent*) {
  if (!request_.style.id.empty()) draw();
}

/// By night in its own inks.
void TreeCanvas::changeEvent(QEvent* e) {
  QWidget::changeEvent(e);
  if (e->type() == QEvent::PaletteChange && !picture_.isNull()) draw();
}

/// One picture at a time: what is asked for meanwhile is drawn as it is then.
void TreeCanvas::draw() {
  again_ = drawing_;
  if (drawing_) return;
  drawing_ = true;
  worker_.start([courier = courier_, request = request_, size = size(), inks = look::tokens()](
                    const std::stop_token&) {
    courier->deliver([made = drawnOf(request, size, inks)](TreeCanvas& self) {
      self.drawing_ = false;
      self.picture_ = made.image;
      self.told_ = made.told;
      self.update();
      emit self.drawn();
      if (self.again_) self.draw();
    });
  });
}

auto TreeCanvas::drawnOf(const TreeRequest& request, QSize size, const look::Tokens& inks)
    -> Picture {
  Picture out;
  const acre::TreeStyle& style = request.style;
  const auto seeds = [&](uint64_t n) { return acre::treeKey(request.seed, style.id, n); };
  const acre::TreeWind wind = request.wind > 0
                                  ? acre::TreeWind::of(style, static_cast<float>(request.wind))
                                  : acre::TreeWind{};
  acre::ViewStyle colours = acre::styleFor(style, request.materials);
  colours.sky = colours.fog = inkOf(inks.sheet);
  colours.ink = inkOf(inks.ink);
  acre::ViewPicture picture;
  acre::TreeGrowth growth(style, seeds(request.variant));
  size_t before = growth.nodes().size();
  while (growth.rounds() < request.rounds) {
    const size_t now = growth.nodes().size();
    if (!growth.grow()) break;
    before = now;
  }
  const acre::TreeSkeleton skeleton = growth.skeleton();
  const acre::TreeBlocks blocks(style, acre::bentTree(style, skeleton, wind));
  out.told.rounds = growth.rounds();
  out.told.nodes = skeleton.nodes.size();
  out.told.wood = blocks.wood();
  out.told.leaves = blocks.leaves();
  out.told.points = growth.points().size();
  out.told.gone = out.told.points - static_cast<size_t>(skeleton.unreached);
  acre::TreeGrowth whole(style, seeds(request.variant));
  while (whole.grow()) {
  }
  out.told.allRounds = whole.rounds();
  if (request.sheet) {
    std::vector<acre::TreeBlocks> trees;
    for (uint64_t n = 0; n < kOnSheet; ++n)
      trees.emplace_back(style, acre::bentTree(style, acre::grownTree(style, seeds(n)), wind));
    picture = acre::treeSheet(trees, colours, kAcross, size.width(), size.height());
    out.image = imageOf(picture);
    return out;
  }
  // All that it grows to stands in the picture, so that it does not jump while it grows.
  const acre::TreeBlocks all(style, acre::bentTree(style, whole.skeleton(), wind));
  acre::TreeShown shown;
  shown.wood = request.wood;
  shown.leaves = request.leaves;
  shown.slice = all.first().z + static_cast<int32_t>(std::lround(request.slice * all.size().z));
  acre::Scene scene;
  acre::addToScene(blocks, 0, 0, 0, shown, scene);
  picture.width = size.width();
  picture.height = size.height();
  const acre::Eye eye =
      acre::eyeAbout(all, request.yaw, request.pitch, picture.width, picture.height);
  acre::drawScene(scene, eye, colours, picture);
  out.image = imageOf(picture);
  if (request.points && !style.lies && wind.strength == 0) {
    QPainter p(&out.image);
    paintGrowth(p, Projection(eye, size), growth, before, inks);
  }
  return out;
}

// ---- painting ----------------------------------------------------------------------------------

QRect TreeCanvas::rose() const {
  return {width() - 2 * kRose - 24, height() - 2 * kRose - 34, 2 * kRose, 2 * kRose};
}

void TreeCanvas::paintRose(QPainter& p) const {
  const look::Tokens& t = look::tokens();
  const QRectF r = rose();
  p.setRenderHint(QPainter::Antialiasing);
  p.setPen(t.edge);
  p.setBrush(Qt::NoBrush);
  for (const double share : {1.0, 2.0 / 3, 1.0 / 3})
    p.drawEllipse(r.center(), kRose * share, kRose * share);
  p.setFont(look::font(look::Type::Caption));
  p.setPen(t.soft);
  p.drawText(QRectF(r.left(), r.top() - 15, r.width(), 14), Qt::AlignCenter, tr("N"));
  p.drawText(QRectF(r.left() - 30, r.bottom() + 3, r.width() + 60, 16), Qt::AlignCenter,
      request_.style.wind.empty() ? tr("wind, on trial") : tr("wind"));
  const double angle = request_.style.toward * acre::kDegree;
  const QPointF to =
      r.center() + QPointF(std::sin(angle), -std::cos(angle)) * (kRose * request_.wind);
  p.setPen(QPen(t.ink, 2));
  p.drawLine(r.center(), to);
  p.setBrush(t.ink);
  p.drawEllipse(to, 3.5, 3.5);
}

void TreeCanvas::paintEvent(QPaintEvent*) {
  QPainter p(this);
  p.fillRect(rect(), look::tokens().sheet);
  p.drawImage(0, 0, picture_);
  if (request_.style.id.empty()) return;
  if (!request_.sheet) return paintRose(p);
  p.setFont(look::font(look::Type::Caption));
  p.setPen(look::tokens().soft);
  const int wide = width() / kAcross, tall = height() / (kOnSheet / kAcross);
  for (int n = 0; n < kOnSheet; ++n)
    p.drawText(QRect(n % kAcross * wide + 8, n / kAcross * tall + 6, 60, 16), Qt::AlignLeft,
        QString::number(n));
}

// ---- by hand -----------------------------------------------------------------------------------

void TreeCanvas::dragWind(QPointF at, bool during) {
  const QPointF by = at - QRectF(rose()).center();
  const double strength = std::min(1.0, std::hypot(by.x(), by.y()) / kRose);
  // In sixteenths of a turn, as trees lean.
  constexpr double kSixteenth = 22.5;
  double toward = std::atan2(by.x(), -by.y()) / acre::kDegree;
  toward = std::fmod(std::round(toward / kSixteenth) * kSixteenth + 360, 360);
  emit windDragged(strength < 0.15 ? 0 : strength, toward, during);
}

void TreeCanvas::mousePressEvent(QMouseEvent* e) {
  setFocus();
  last_ = pressed_ = e->position();
  if (request_.sheet) return;
  drag_ = rose().adjusted(-6, -6, 6, 6).contains(e->pos()) ? Drag::Wind : Drag::Turn;
  if (drag_ == Drag::Wind) dragWind(last_, true);
}

void TreeCanvas::mouseMoveEvent(QMouseEvent* e) {
  const QPointF by = e->position() - last_;
  last_ = e->position();
  if (drag_ == Drag::Wind) dragWind(last_, true);
  if (drag_ == Drag::Turn)
    emit turned(std::fmod(request_.yaw + by.x() * kDegreesPerPixel + 720, 360),
        std::clamp(request_.pitch - by.y() * kDegreesPerPixel, -89.0, 89.0));
}

void TreeCanvas::mouseReleaseEvent(QMouseEvent* e) {
  if (request_.sheet && (e->position() - pressed_).manhattanLength() < 8) {
    const int column = std::clamp(static_cast<int>(e->position().x()) * kAcross / width(), 0, 3);
    const int row = std::clamp(static_cast<int>(e->position().y()) * kAcross / height(), 0, 3);
    emit chosen(row * kAcross + column);
  }
  if (drag_ == Drag::Wind) dragWind(e->position(), false);
  drag_ = Drag::Nothing;
}

void TreeCanvas::wheelEvent(QWheelEvent* e) {
  emit stepped(e->angleDelta().y() > 0 ? 1 : -1);
  e->accept();
}

}  // namespace app

#include "moc_tree_canvas.cpp"
