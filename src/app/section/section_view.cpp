#include "app/section/section_view.h"

#include <QHelpEvent>
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QToolTip>
#include <QWheelEvent>
#include <cmath>

#include "app/look/look.h"
#include "app/overlay/marks.h"
#include "output/picture.h"

namespace app {
namespace {

constexpr int kLeft = 44, kRight = 26, kTop = 4, kBottom = 4;

}  // namespace

SectionView::SectionView(Document& document, QWidget* parent)
    : QWidget(parent), document_(document), river_(new LongProfile(this)) {
  setObjectName(QStringLiteral("section"));
  setAccessibleName(tr("Section along A–B"));
  setToolTip(
      tr("The ground cut along the line A–B of the map. Drag up and down, the wheel stretches\n"
         "the heights, Home shows all; a click asks why a block is what it is."));
  setMouseTracking(true);
  setFocusPolicy(Qt::StrongFocus);
  setMinimumHeight(96);
  courier_ = std::make_shared<Courier<SectionView>>(this);
  pause_.setSingleShot(true);
  pause_.setInterval(12);
  connect(&pause_, &QTimer::timeout, this, &SectionView::request);
}

SectionView::~SectionView() {
  courier_->close();
  stop_.request_stop();
}

QRect SectionView::pictureRect() const {
  return rect().adjusted(kLeft, kTop, -kRight, -kBottom);
}

void SectionView::refresh() {
  if (world_ == document_.world()) return;
  const bool first = !world_ || planOf(*world_).vertical() != planOf(*document_.world()).vertical();
  world_ = document_.world();
  scale_ = std::make_shared<const acre::GroundScale>(world_);
  if (overlays_) {
    auto limits = std::make_shared<LimitsOverlay>(*world_);
    overlays_->set(Over::Limits, limits->empty() ? nullptr : std::move(limits));
  }
  if (first || !chosen_) resetRange();
  ask();
}

void SectionView::setLine(const SectionLine& line) {
  if (line == line_) return;
  line_ = line;
  if (!chosen_) resetRange();
  ask();
}

void SectionView::setSpan(std::optional<std::pair<double, double>> span) {
  if (span == span_) return;
  span_ = span;
  ask();
}

void SectionView::setHair(double at) {
  if (at == hair_) return;
  // Only what lies about the old one and the new one is painted again.
  const auto touch = [this] {
    if (hair_ < 0) return;
    const double x = hairAt(geometry());
    if (x > -2 && x < width() + 2.0)
      update(QRect(static_cast<int>(std::floor(x)) - 1, 0, 4, height()));
  };
  touch();
  hair_ = at;
  touch();
}

/// Altitudes that ground can have near the line, with room above and below.
void SectionView::resetRange() {
  chosen_ = false;
  if (!world_) return;
  const acre::AxisBounds range = planOf(*world_).vertical();
  low_ = static_cast<double>(range.min);
  high_ = static_cast<double>(range.min + range.extent);
  const double dx = static_cast<double>(line_.b.cell.x - line_.a.cell.x);
  const double dz = static_cast<double>(line_.b.cell.z - line_.a.cell.z);
  const double length = std::max(1.0, std::sqrt(dx * dx + dz * dz));
  // Where all of it would be flat, what lies about the sea in four times true scale.
  const double tall =
      std::max(40.0, length * pictureRect().height() / std::max(1, pictureRect().width()));
  if (high_ - low_ > 4 * tall && tall > 8) {
    const double middle = planOf(*world_).seaLevel() + tall / 4;
    low_ = std::max(low_, std::floor(middle - tall));
    high_ = std::min(high_, std::ceil(middle + tall));
  }
  ask();
}

void SectionView::setRange(double low, double high) {
  constexpr double kFarthest = 1 << 21;
  low = std::clamp(low, -kFarthest, kFarthest - 4);
  high = std::clamp(high, low + 4, kFarthest);
  chosen_ = true;
  low_ = low;
  high_ = high;
  ask();
}

double SectionView::exaggeration() const {
  const double dx = static_cast<double>(line_.b.cell.x - line_.a.cell.x);
  const double dz = static_cast<double>(line_.b.cell.z - line_.a.cell.z);
  const double wide = span_ ? span_->second - span_->first : pictureRect().width();
  const double perCell = std::abs(wide) / std::max(1.0, std::sqrt(dx * dx + dz * dz));
  return pictureRect().height() / (high_ - low_) / std::max(1e-9, perCell);
}

double SectionView::altitudeAt(double y) const {
  const QRect box = pictureRect();
  return high_ - (y - box.top()) / std::max(1, box.height()) * (high_ - low_);
}

void SectionView::ask() {
  update();
  emit cutChanged();
  if (isVisible() && !pause_.isActive()) pause_.start();
}

void SectionView::request() {
  const QRect box = pictureRect();
  if (!world_ || box.width() < 2 || box.height() < 2) return;
  acre::SectionRequest r;
  r.from = line_.a.cell;
  r.to = line_.b.cell;
  r.low = low_;
  r.high = high_;
  const double wide = span_ ? std::abs(span_->second - span_->first) : box.width();
  const double ratio = devicePixelRatioF();
  r.width = static_cast<int32_t>(std::clamp(std::round(wide * ratio), 2.0, 4096.0));
  r.height = static_cast<int32_t>(std::clamp(std::round(box.height() * ratio), 1.0, 4096.0));
  if (!acre::checkSection(r)) {
    section_.reset();
    picture_ = {};
    update();
    return;
  }
  stop_.request_stop();
  stop_ = {};
  asked_ = true;
  document_.engine().executor().submit(acre::Priority::SharpMap, stop_.get_token(),
      [courier = courier_, world = world_, r, stop = stop_.get_token(), number = ++wanted_,
          paper = look::tokens().sheet.rgb(), scale = scale_, patterns = patterns_] {
        auto cut = acre::sampleSection(*world, r, stop);
        if (!cut) {
          if (cut.error().code == acre::Error::Code::Cancelled) return;
          const QString why = QString::fromStdString(cut.error().text());
          return courier->deliver([why, number](SectionView& self) {
            if (number != self.wanted_) return;
            self.asked_ = false;
            emit self.refused(why);
          });
        }
        acre::SectionStyle style;
        style.paper = paper;
        style.scale = scale;
        style.patterns = patterns;
        const std::vector<uint32_t> pixels = acre::paintSection(*world, *cut, style);
        QImage image(r.width, r.height, QImage::Format_RGB32);
        for (int y = 0; y < r.height; ++y)
          std::copy_n(pixels.data() + ptrdiff_t{y} * r.width, r.width,
              reinterpret_cast<uint32_t*>(image.scanLine(y)));
        auto shared = std::make_shared<acre::Section>(std::move(*cut));
        courier->deliver([image, shared, number](SectionView& self) {
          if (number != self.wanted_) return;
          self.section_ = std::move(*shared);
          self.picture_ = image;
          self.asked_ = false;
          self.update();
        });
      });
}

void SectionView::setOverlays(Overlays* overlays) {
  overlays_ = overlays;
  connect(overlays_, &Overlays::changed, this, qOverload<>(&QWidget::update));
}

CutGeometry SectionView::geometry() const {
  const QRect box = pictureRect();
  return {line_, low_, high_, QRectF(box), span_ ? span_->first : box.left(),
      span_ ? span_->second : box.right() + 1.0};
}

void SectionView::paintEvent(QPaintEvent*) {
  QPainter p(this);
  const look::Tokens& ink = look::tokens();
  p.fillRect(rect(), ink.sheet);
  const QRect box = pictureRect();
  p.fillRect(box, ink.paper);
  if (!picture_.isNull() && section_) {
    p.setClipRect(box);
    paintCut(p);
    p.setClipping(false);
  } else {
    p.setPen(ink.soft);
    p.drawText(box, Qt::AlignCenter,
        line_.a.cell == line_.b.cell ? tr("A and B are one cell: drag them apart")
                                     : tr("Cutting…"));
  }
  paintAltitudes(p);
  p.setPen(QPen(ink.edge, 1));
  p.setBrush(Qt::NoBrush);
  p.drawRect(box.adjusted(-1, -1, 0, 0));
  const QString scale = tr("heights × %1").arg(exaggeration(), 0, 'g', 2);
  p.setFont(look::font(look::Type::Caption));
  const int wide = p.fontMetrics().horizontalAdvance(scale);
  look::drawHaloText(p, {box.right() - wide - 6.0, box.bottom() - 5.0}, scale);
  if (hasFocus()) {
    p.setPen(QPen(ink.ink, 2));
    p.drawRect(rect().adjusted(1, 1, -1, -1));
  }
}

void SectionView::paintCut(QPainter& p) {
  const look::Tokens& ink = look::tokens();
  const CutGeometry cut = geometry();
  const acre::SectionRequest& r = section_->request;
  // A picture of the range before moves and stretches until its successor is there.
  const QRectF target(std::min(cut.x0, cut.x1), cut.row(r.high), std::abs(cut.x1 - cut.x0),
      cut.row(r.low) - cut.row(r.high));
  const bool forward = cut.x1 >= cut.x0;
  p.drawImage(target, forward ? picture_ : picture_.mirrored(true, false));
  if (hair_ >= 0) {
    const double x = hairAt(cut);
    p.setPen(QPen(ink.ink, 1, Qt::DashLine));
    p.drawLine(QPointF(x, cut.box.top()), QPointF(x, cut.box.bottom()));
  }
  if (overlays_) overlays_->paintCut(p, cut);
  p.setFont(look::mapFont());
  p.setPen(ink.ink);
  const auto within = [&](double x) { return std::clamp(x, cut.box.left(), cut.box.right()); };
  const double row = cut.box.top() + 14;
  look::drawHaloText(
      p, {within(target.left()) + 4, row}, forward ? QStringLiteral("A") : QStringLiteral("B"));
  look::drawHaloText(
      p, {within(target.right()) - 14, row}, forward ? QStringLiteral("B") : QStringLiteral("A"));
}

/// Along the left edge.
void SectionView::paintAltitudes(QPainter& p) const {
  const look::Tokens& ink = look::tokens();
  const QRect box = pictureRect();
  p.setFont(look::font(look::Type::Caption));
  const double each = acre::niceStep((high_ - low_) / std::max(2.0, box.height() / 26.0));
  for (double y = std::ceil(low_ / each) * each; y <= high_; y += each) {
    const double row = geometry().row(y);
    p.setPen(QPen(ink.ink, 1));
    p.drawLine(QPointF(box.left() - 5, row), QPointF(box.left() - 1, row));
    p.setPen(ink.soft);
    p.drawText(QRectF(0, row - 9, box.left() - 8, 18), Qt::AlignRight | Qt::AlignVCenter,
        look::number(std::round(y * 1000) / 1000));
  }
}

std::optional<SectionView::Hit> SectionView::hitAt(QPointF position) const {
  if (!section_ || !world_ || !pictureRect().contains(position.toPoint())) return {};
  const CutGeometry cut = geometry();
  const double t = (position.x() - cut.x0) / (cut.x1 - cut.x0);
  if (t < 0 || t >= 1) return {};
  const auto pixel = static_cast<size_t>(t * section_->request.width);
  const int32_t column = section_->columnOf[std::min(pixel, section_->columnOf.size() - 1)];
  return Hit{t, column, section_->cells[static_cast<size_t>(column)],
      static_cast<int64_t>(std::floor(altitudeAt(position.y())))};
}

bool SectionView::event(QEvent* e) {
  if (e->type() == QEvent::ToolTip && overlays_) {
    const auto* help = static_cast<QHelpEvent*>(e);
    const QString words = overlays_->atCut(help->pos(), geometry());
    if (!words.isEmpty()) {
      QToolTip::showText(help->globalPos(), words, this);
      return true;
    }
  }
  return QWidget::event(e);
}

void SectionView::resizeEvent(QResizeEvent*) {
  river_->setGeometry(rect());
  if (!chosen_) resetRange();
  ask();
}

void SectionView::showEvent(QShowEvent*) {
  refresh();
  ask();
}

/// Day and night have papers of their own.
void SectionView::changeEvent(QEvent* e) {
  if (e->type() == QEvent::PaletteChange) ask();
  QWidget::changeEvent(e);
}

void SectionView::mousePressEvent(QMouseEvent* e) {
  setFocus();
  if (e->button() != Qt::LeftButton) return;
  pressAt_ = lastAt_ = e->position();
  dragging_ = false;
}

void SectionView::mouseMoveEvent(QMouseEvent* e) {
  const QPointF at = e->position();
  if (pressAt_ && !dragging_ && (at - *pressAt_).manhattanLength() > 5) dragging_ = true;
  if (dragging_) {
    const double by = (at.y() - lastAt_.y()) / std::max(1, pictureRect().height()) * (high_ - low_);
    lastAt_ = at;
    setRange(low_ + by, high_ + by);
    return;
  }
  const auto hit = hitAt(at);
  if (!hit) return emit hovered(-1, {});
  const int64_t level = (hit->y - section_->levels.first) / section_->levels.step;
  const bool known = hit->y >= section_->levels.first && level < section_->levels.count;
  QString what;
  if (known) {
    const auto at = static_cast<int32_t>(level);
    const std::string id = planOf(*world_).catalogue().materialId(section_->at(hit->column, at));
    what = QString::fromStdString(id);
    if (isBed(*section_, acre::BlockClasses(*world_), hit->column, at))
      what = tr("bed of %1").arg(what);
  }
  emit hovered(hit->at, tr("x %1 y %2 z %3 · %4")
                            .arg(look::wholeNumber(hit->cell.x), look::wholeNumber(hit->y),
                                look::wholeNumber(hit->cell.z), what));
}

void SectionView::mouseReleaseEvent(QMouseEvent* e) {
  const bool clicked = pressAt_ && !dragging_ && e->button() == Qt::LeftButton;
  pressAt_.reset();
  dragging_ = false;
  const auto hit = clicked ? hitAt(e->position()) : std::nullopt;
  if (!hit) return;
  striking_ ? emit struck(hit->cell.x, hit->y, hit->cell.z)
            : emit plumbRequested(hit->cell.x, hit->y, hit->cell.z);
}

void SectionView::setPatterns(bool on) {
  if (std::exchange(patterns_, on) != on) ask();
}

void SectionView::setStriking(bool on) {
  striking_ = on;
  on ? setCursor(Qt::CrossCursor) : unsetCursor();
}

void SectionView::leaveEvent(QEvent*) {
  emit hovered(-1, {});
}

void SectionView::zoom(double factor, double row) {
  const double at = altitudeAt(row);
  setRange(at - (at - low_) * factor, at + (high_ - at) * factor);
}

void SectionView::wheelEvent(QWheelEvent* e) {
  zoom(std::pow(0.87, e->angleDelta().y() / 120.0), e->position().y());
}

void SectionView::keyPressEvent(QKeyEvent* e) {
  const double tenth = (high_ - low_) / 10;
  switch (e->key()) {
    case Qt::Key_Home:
      return resetRange();
    case Qt::Key_Up:
      return setRange(low_ + tenth, high_ + tenth);
    case Qt::Key_Down:
      return setRange(low_ - tenth, high_ - tenth);
    case Qt::Key_Plus:
      return zoom(0.8, pictureRect().center().y());
    case Qt::Key_Minus:
      return zoom(1.25, pictureRect().center().y());
    default:
      QWidget::keyPressEvent(e);
  }
}

}  // namespace app

#include "moc_section_view.cpp"
