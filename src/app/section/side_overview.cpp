#include "app/section/side_overview.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <bit>
#include <cmath>

#include "app/look/look.h"
#include "output/section.h"
#include "world/world.h"

namespace app {
namespace {

constexpr int kWest = 44, kEast = 26, kAbove = 4, kBelow = 18;  // Margins.
constexpr int64_t kTimesTheView = 12;

}  // namespace

SideOverview::SideOverview(Document& document, QWidget* parent)
    : QWidget(parent),
      document_(document),
      courier_(std::make_shared<Courier<SideOverview>>(this)) {
  setObjectName(QStringLiteral("overview"));
  setAccessibleName(tr("Overview of the side world"));
  setToolTip(
      tr("The stretch about the section, with a frame around what that shows. A click or a drag\n"
         "goes there, Left and Right move the frame by half its width."));
  setFocusPolicy(Qt::StrongFocus);
  pause_.setSingleShot(true);
  pause_.setInterval(30);
  connect(&pause_, &QTimer::timeout, this, &SideOverview::request);
}

SideOverview::~SideOverview() {
  courier_->close();
  stop_.request_stop();
}

QRect SideOverview::pictureRect() const {
  return rect().adjusted(kWest, kAbove, -kEast, -kBelow);
}

void SideOverview::refresh() {
  if (world_ == document_.world()) return;
  world_ = document_.world();
  scale_ = std::make_shared<const acre::GroundScale>(world_);
  drawn_ = {};
  ask();
}

void SideOverview::setView(const SectionLine& line, double low, double high) {
  line_ = line;
  low_ = low;
  high_ = high;
  update();
  if (stretch() != drawn_) ask();
}

/// Bounded worlds whole; of others many times what the section shows, in steps, so that the picture
/// stays while the frame moves about its middle.
SideOverview::Stretch SideOverview::stretch() const {
  if (world_ && planOf(*world_).bounded())
    return {planOf(*world_).bounds().x, planOf(*world_).bounds().width};
  const int64_t length = std::max<int64_t>(1, std::abs(line_.b.cell.x - line_.a.cell.x));
  const auto count = static_cast<int64_t>(
      std::bit_ceil(static_cast<uint64_t>(std::min(length, acre::kMaxCell / 64) * kTimesTheView)));
  const int64_t middle = line_.a.cell.x + (line_.b.cell.x - line_.a.cell.x) / 2;
  const int64_t quarter = std::max<int64_t>(1, count / 4);
  return {acre::floorDiv(middle + quarter / 2, quarter) * quarter - count / 2, count};
}

void SideOverview::ask() {
  update();
  if (isVisible() && !pause_.isActive()) pause_.start();
}

void SideOverview::request() {
  const QRect box = pictureRect();
  if (!world_ || box.width() < 2 || box.height() < 2) return;
  const Stretch shown = drawn_ = stretch();
  const acre::AxisBounds range = planOf(*world_).vertical();
  acre::SectionRequest r;
  r.from = {shown.first, 0};
  r.to = {shown.first + shown.count - 1, 0};
  r.low = static_cast<double>(range.min);
  r.high = static_cast<double>(range.min + range.extent);
  r.width = std::min(box.width(), 4096);
  r.height = box.height();
  if (!acre::checkSection(r)) return;
  stop_.request_stop();
  stop_ = {};
  asked_ = true;
  document_.engine().executor().submit(acre::Priority::Thumbnail, stop_.get_token(),
      [courier = courier_, world = world_, scale = scale_, r, number = ++wanted_,
          stop = stop_.get_token(), paper = look::tokens().sheet.rgb()] {
        const auto cut = acre::sampleSection(*world, r, stop);
        if (!cut) return;
        acre::SectionStyle style;
        style.paper = paper;
        style.scale = scale;
        style.chunks = style.patterns = false;  // Too fine for it.
        const std::vector<uint32_t> pixels = acre::paintSection(*world, *cut, style);
        QImage image(r.width, r.height, QImage::Format_RGB32);
        for (int y = 0; y < r.height; ++y)
          std::copy_n(pixels.data() + ptrdiff_t{y} * r.width, r.width,
              reinterpret_cast<uint32_t*>(image.scanLine(y)));
        courier->deliver([image, number](SideOverview& self) {
          if (number != self.wanted_) return;
          self.picture_ = image;
          self.asked_ = false;
          self.update();
        });
      });
}

QRectF SideOverview::frame() const {
  const QRectF box = pictureRect();
  if (!world_ || drawn_.count == 0) return {};
  const acre::AxisBounds range = planOf(*world_).vertical();
  const auto across = [&](int64_t x) {
    return box.left() +
           static_cast<double>(x - drawn_.first) / static_cast<double>(drawn_.count) * box.width();
  };
  const auto down = [&](double y) {
    return box.bottom() -
           (y - static_cast<double>(range.min)) / static_cast<double>(range.extent) * box.height();
  };
  const auto [west, east] = std::minmax(line_.a.cell.x, line_.b.cell.x);
  return QRectF(QPointF(across(west), down(high_)), QPointF(across(east + 1), down(low_)))
      .intersected(box);
}

void SideOverview::paintEvent(QPaintEvent*) {
  QPainter p(this);
  const look::Tokens& t = look::tokens();
  p.fillRect(rect(), t.sheet);
  const QRect box = pictureRect();
  p.setFont(look::font(look::Type::Caption));
  if (picture_.isNull()) {
    p.setPen(t.soft);
    p.drawText(box, Qt::AlignCenter, tr("Drawing the overview…"));
  } else {
    p.drawImage(box, picture_);
  }
  p.setPen(t.edge);
  p.setBrush(Qt::NoBrush);
  p.drawRect(box);
  p.setPen(t.soft);
  const QRect foot(box.left(), box.bottom() + 2, box.width(), kBelow - 2);
  p.drawText(foot, Qt::AlignLeft | Qt::AlignVCenter, look::wholeNumber(drawn_.first));
  p.drawText(
      foot, Qt::AlignRight | Qt::AlignVCenter, look::wholeNumber(drawn_.first + drawn_.count));
  p.drawText(foot, Qt::AlignHCenter | Qt::AlignVCenter,
      tr("overview of %1 cells").arg(look::wholeNumber(drawn_.count)));
  const QRectF seen = frame().adjusted(0.5, 0.5, -0.5, -0.5);
  if (seen.width() <= 0) return;
  p.setPen(QPen(t.sheet, 3.5));
  p.drawRect(seen);
  p.setPen(QPen(t.ink, 1.5));
  p.drawRect(seen);
}

/// Day and night have papers of their own.
void SideOverview::changeEvent(QEvent* e) {
  if (e->type() == QEvent::PaletteChange) ask();
  QWidget::changeEvent(e);
}

void SideOverview::lookAt(QPointF place) {
  const QRectF box = pictureRect();
  if (drawn_.count == 0) return;
  const double share = std::clamp((place.x() - box.left()) / std::max(1.0, box.width()), 0.0, 1.0);
  emit lookedAt(drawn_.first + static_cast<int64_t>(share * static_cast<double>(drawn_.count - 1)));
}

void SideOverview::mousePressEvent(QMouseEvent* e) {
  if (e->button() == Qt::LeftButton) lookAt(e->position());
}

void SideOverview::mouseMoveEvent(QMouseEvent* e) {
  if (e->buttons() & Qt::LeftButton) lookAt(e->position());
}

void SideOverview::keyPressEvent(QKeyEvent* e) {
  const int way = e->key() == Qt::Key_Left ? -1 : e->key() == Qt::Key_Right ? 1 : 0;
  if (way == 0) return QWidget::keyPressEvent(e);
  const int64_t wide = std::abs(line_.b.cell.x - line_.a.cell.x);
  emit lookedAt(
      std::min(line_.a.cell.x, line_.b.cell.x) + wide / 2 + way * std::max<int64_t>(1, wide / 2));
}

}  // namespace app

#include "moc_side_overview.cpp"
