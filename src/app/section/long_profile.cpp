#include "app/section/long_profile.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <algorithm>
#include <cmath>

#include "app/look/look.h"
#include "output/picture.h"

namespace app {
namespace {

constexpr int kTitle = 24;
constexpr QMargins kAbout{44, kTitle, 26, 20};  // The picture.
/// Of water, and of the ground below it: as on the map.
constexpr QRgb kWater = 0xFF82AFC3, kGround = 0xFFD8C598;

}  // namespace

LongProfile::LongProfile(QWidget* parent) : QWidget(parent) {
  setObjectName(QStringLiteral("section.river"));
  setMouseTracking(true);
  setFocusPolicy(Qt::StrongFocus);
  close_ = new QToolButton(this);
  close_->setObjectName(QStringLiteral("section.river.close"));
  close_->setText(QStringLiteral("×"));
  close_->setAccessibleName(tr("Close the long profile"));
  close_->setToolTip(tr("Back to the cut along A–B (Esc)"));
  close_->setFixedSize(kTitle - 2, kTitle - 2);
  connect(close_, &QToolButton::clicked, this, &LongProfile::closed);
  hide();
}

void LongProfile::setRiver(std::shared_ptr<const acre::RiverProfile> profile, const QString& name) {
  profile_ = std::move(profile);
  name_ = name;
  point_ = -1;
  setVisible(profile_ != nullptr);
  if (!profile_) return;
  low_ = HUGE_VAL;
  high_ = -HUGE_VAL;
  for (const acre::ProfilePoint& p : profile_->points) {
    low_ = std::min(low_, static_cast<double>(p.bed));
    high_ = std::max({high_, p.level, static_cast<double>(p.before)});
  }
  const double room = std::max(2.0, (high_ - low_) * 0.08);
  low_ -= room;
  high_ += room;
  setAccessibleName(tr("Long profile of the river %1").arg(name_));
  setAccessibleDescription(tr("It drops %1 cells over %2.")
                               .arg(look::figure(profile_->drop()),
                                   look::wholeNumber(std::llround(profile_->length()))));
  update();
}

QRect LongProfile::pictureRect() const {
  return rect().marginsRemoved(kAbout);
}

QPointF LongProfile::toScreen(double along, double altitude) const {
  const QRectF box = pictureRect();
  return {box.left() + along / std::max(1e-9, profile_->length()) * box.width(),
      box.top() + (high_ - altitude) / (high_ - low_) * box.height()};
}

void LongProfile::paintEvent(QPaintEvent*) {
  QPainter p(this);
  const look::Tokens& t = look::tokens();
  p.fillRect(rect(), t.sheet);
  if (!profile_) return;
  p.setRenderHint(QPainter::Antialiasing);
  const QRect box = pictureRect();
  p.fillRect(box, t.paper);
  p.setClipRect(box);
  paintLand(p);
  p.setClipping(false);
  p.setRenderHint(QPainter::Antialiasing, false);
  paintAxes(p);
  paintWords(p);
  if (hasFocus()) {
    p.setPen(QPen(t.ink, 2));
    p.setBrush(Qt::NoBrush);
    p.drawRect(rect().adjusted(1, 1, -1, -1));
  }
}

void LongProfile::paintLand(QPainter& p) const {
  const look::Tokens& t = look::tokens();
  QPolygonF bed, surface, before, banks;
  for (const acre::ProfilePoint& at : profile_->points) {
    bed << toScreen(at.along, static_cast<double>(at.bed));
    surface << toScreen(at.along, std::max(at.level, static_cast<double>(at.bed)));
    before << toScreen(at.along, static_cast<double>(at.before));
    banks << toScreen(at.along, static_cast<double>(std::min(at.left, at.right)));
  }
  const QRectF box = pictureRect();
  QPolygonF water = surface;
  for (auto at = bed.crbegin(); at != bed.crend(); ++at) water << *at;
  p.setPen(Qt::NoPen);
  p.setBrush(QColor::fromRgb(kWater));
  p.drawPolygon(water);
  QPolygonF ground = bed;
  ground << QPointF(bed.back().x(), box.bottom() + 1) << QPointF(bed.front().x(), box.bottom() + 1);
  p.setBrush(QColor::fromRgb(kGround));
  p.drawPolygon(ground);
  p.setBrush(Qt::NoBrush);
  p.setPen(QPen(t.soft, 1));
  p.drawPolyline(banks);
  p.setPen(QPen(t.ink, 1, Qt::DashLine));
  p.drawPolyline(before);
  p.setPen(QPen(t.ink, 1.5));
  p.drawPolyline(bed);
  if (point_ < 0) return;
  const acre::ProfilePoint& at = profile_->points[static_cast<size_t>(point_)];
  const double x = toScreen(at.along, 0).x();
  p.setPen(QPen(t.ink, 1, Qt::DashLine));
  p.drawLine(QPointF(x, box.top()), QPointF(x, box.bottom()));
  p.setPen(QPen(t.sheet, 1));
  p.setBrush(t.madder);
  p.drawEllipse(toScreen(at.along, at.level), 4, 4);
}

void LongProfile::paintAxes(QPainter& p) const {
  const look::Tokens& t = look::tokens();
  const QRect box = pictureRect();
  p.setFont(look::font(look::Type::Caption));
  const double each = acre::niceStep((high_ - low_) / std::max(2.0, box.height() / 26.0));
  for (double y = std::ceil(low_ / each) * each; y <= high_; y += each) {
    const double row = toScreen(0, y).y();
    p.setPen(QPen(t.ink, 1));
    p.drawLine(QPointF(box.left() - 5, row), QPointF(box.left() - 1, row));
    p.setPen(t.soft);
    p.drawText(QRectF(0, row - 9, box.left() - 8, 18), Qt::AlignRight | Qt::AlignVCenter,
        look::number(std::round(y * 1000) / 1000));
  }
  const double length = profile_->length();
  const double step = acre::niceStep(length / std::max(2.0, box.width() / 110.0));
  for (double at = 0; at <= length; at += step) {
    const double x = toScreen(at, 0).x();
    p.setPen(QPen(t.ink, 1));
    p.drawLine(QPointF(x, box.bottom() + 1), QPointF(x, box.bottom() + 5));
    p.setPen(t.soft);
    p.drawText(QRectF(x - 50, box.bottom() + 4, 100, 15), Qt::AlignHCenter,
        look::wholeNumber(std::llround(at)));
  }
  p.setPen(QPen(t.edge, 1));
  p.setBrush(Qt::NoBrush);
  p.drawRect(box.adjusted(-1, -1, 0, 0));
}

void LongProfile::paintWords(QPainter& p) const {
  const look::Tokens& t = look::tokens();
  const QRect box = pictureRect();
  p.setFont(look::font(look::Type::Body));
  p.setPen(t.ink);
  const QString title =
      tr("River %1 drops %2 cells over %3, cut %4 deep at most")
          .arg(name_, look::figure(profile_->drop()),
              look::wholeNumber(std::llround(profile_->length())), look::figure(profile_->deepest));
  p.drawText(QRect(box.left(), 0, box.width(), kTitle), Qt::AlignLeft | Qt::AlignVCenter, title);
  // What the lines are, at the right, as far as there is room.
  p.setFont(look::font(look::Type::Caption));
  const int taken = QFontMetrics(look::font(look::Type::Body)).horizontalAdvance(title) + 24;
  struct Key {
    QString text;
    QPen pen;
  };
  const Key keys[] = {{tr("land before"), QPen(t.ink, 1, Qt::DashLine)},
      {tr("lower bank"), QPen(t.soft, 1)}, {tr("bed"), QPen(t.ink, 1.5)}};
  int right = box.right();
  for (const Key& key : keys) {
    const int wide = p.fontMetrics().horizontalAdvance(key.text);
    if (right - wide - 34 < box.left() + taken) return;
    p.setPen(t.soft);
    p.drawText(QRect(right - wide, 0, wide + 2, kTitle), Qt::AlignVCenter, key.text);
    p.setPen(key.pen);
    p.drawLine(right - wide - 26, kTitle / 2, right - wide - 6, kTitle / 2);
    right -= wide + 42;
  }
}

void LongProfile::setPoint(int point) {
  if (point == point_ || !profile_) return;
  point_ = point;
  update();
  if (point < 0) return emit pointChanged(-1, {});
  const acre::ProfilePoint& at = profile_->points[static_cast<size_t>(point)];
  const auto rounded = [](double v) { return look::number(std::round(v * 10) / 10); };
  emit pointChanged(
      point, tr("%1 from the spring · surface %2 · bed %3 · land before %4 · %5")
                 .arg(look::wholeNumber(std::llround(at.along)), rounded(at.level),
                     rounded(static_cast<double>(at.bed)), rounded(static_cast<double>(at.before)),
                     at.width > 0 ? tr("%1 wide").arg(rounded(at.width)) : tr("lake")));
}

void LongProfile::mouseMoveEvent(QMouseEvent* e) {
  if (!profile_) return;
  const QRectF box = pictureRect();
  const double along =
      (e->position().x() - box.left()) / std::max(1.0, box.width()) * profile_->length();
  if (along < 0 || along > profile_->length()) return setPoint(-1);
  const auto& points = profile_->points;
  const auto next = std::lower_bound(points.begin(), points.end(), along,
      [](const acre::ProfilePoint& p, double a) { return p.along < a; });
  setPoint(static_cast<int>(
      std::min<ptrdiff_t>(next - points.begin(), static_cast<ptrdiff_t>(points.size()) - 1)));
}

void LongProfile::mousePressEvent(QMouseEvent* e) {
  mouseMoveEvent(e);
  choose();
}

void LongProfile::choose() {
  if (point_ < 0) return;
  const acre::Cell cell = profile_->points[static_cast<size_t>(point_)].cell;
  emit placeChosen(cell.x, cell.z);
}

void LongProfile::resizeEvent(QResizeEvent*) {
  close_->move(width() - kTitle, 1);
}

void LongProfile::leaveEvent(QEvent*) {
  setPoint(-1);
}

/// Escape is for the profile first, then for the window; and no words of the section's lie over it.
bool LongProfile::event(QEvent* e) {
  if (e->type() == QEvent::ToolTip) return true;
  if (e->type() == QEvent::ShortcutOverride &&
      static_cast<QKeyEvent*>(e)->key() == Qt::Key_Escape) {
    e->accept();
    return true;
  }
  return QWidget::event(e);
}

void LongProfile::keyPressEvent(QKeyEvent* e) {
  if (!profile_) return;
  const int last = static_cast<int>(profile_->points.size()) - 1;
  const int far = e->modifiers() & Qt::ShiftModifier ? 10 : 1;
  switch (e->key()) {
    case Qt::Key_Right:
      return setPoint(std::min(last, point_ + far));
    case Qt::Key_Left:
      return setPoint(std::max(0, point_ - far));
    case Qt::Key_Home:
      return setPoint(0);
    case Qt::Key_End:
      return setPoint(last);
    case Qt::Key_Return:
    case Qt::Key_Enter:
      return choose();
    case Qt::Key_Escape:
      return emit closed();
    default:
      QWidget::keyPressEvent(e);
  }
}

}  // namespace app

#include "moc_long_profile.cpp"
