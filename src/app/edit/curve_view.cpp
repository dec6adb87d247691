#include "app/edit/curve_view.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <algorithm>
#include <cmath>

#include "app/edit/arithmetic.h"
#include "app/look/look.h"
#include "field/tables.h"
#include "recipe/validate.h"

namespace app {
namespace {

constexpr double kReach = 9;  ///< How near the pointer must be, in pixels.

}  // namespace

CurveView::CurveView(QWidget* parent) : QWidget(parent) {
  setObjectName(QStringLiteral("curve"));
  setFocusPolicy(Qt::StrongFocus);
  setFixedHeight(CurveView::sizeHint().height());
  setAccessibleName(tr("Curve"));
  setToolTip(
      tr("What goes in runs along the foot, what comes out up the side.\n"
         "Drag a point; click the curve to add one; Del removes the chosen one.\n"
         "Beyond the first and last point the curve is level."));
}

QRectF CurveView::plot() const {
  return QRectF(rect()).adjusted(44, 6, -10, -18);
}

void CurveView::setCurve(const acre::Curve& curve) {
  curve_ = curve;
  chosen_ = std::clamp(chosen_, 0, std::max(0, static_cast<int>(curve_.size()) - 1));
  if (!dragging_) frame();
  if (!curve_.empty()) {
    const acre::CurvePoint& p = curve_[static_cast<size_t>(chosen_)];
    setAccessibleDescription(tr("point %1 of %2, in %3, out %4")
                                 .arg(chosen_ + 1)
                                 .arg(curve_.size())
                                 .arg(look::number(p.x), look::number(p.y)));
  }
  update();
}

void CurveView::setInput(double low, double high, const std::vector<uint32_t>& bins) {
  low_ = low;
  high_ = high;
  bins_ = bins;
  if (!dragging_) frame();
  update();
}

void CurveView::frame() {
  left_ = low_;
  right_ = std::max(high_, low_ + 1e-6);
  if (curve_.empty()) return;
  left_ = std::min(left_, curve_.front().x);
  right_ = std::max(right_, curve_.back().x);
  bottom_ = top_ = curve_.front().y;
  for (const acre::CurvePoint& p : curve_) {
    bottom_ = std::min(bottom_, p.y);
    top_ = std::max(top_, p.y);
  }
  const double room = std::max(1e-6, (top_ - bottom_) * 0.1);
  bottom_ -= room;
  top_ += room;
}

QPointF CurveView::toScreen(const acre::CurvePoint& p) const {
  const QRectF r = plot();
  return {r.left() + (p.x - left_) / (right_ - left_) * r.width(),
      r.bottom() - (p.y - bottom_) / (top_ - bottom_) * r.height()};
}

acre::CurvePoint CurveView::fromScreen(QPointF p) const {
  const QRectF r = plot();
  return {left_ + (p.x() - r.left()) / r.width() * (right_ - left_),
      bottom_ + (r.bottom() - p.y()) / r.height() * (top_ - bottom_)};
}

int CurveView::pointAt(QPointF p) const {
  for (size_t i = 0; i < curve_.size(); ++i)
    if (QLineF(toScreen(curve_[i]), p).length() < kReach) return static_cast<int>(i);
  return -1;
}

void CurveView::movePoint(acre::CurvePoint to, bool during) {
  const auto at = static_cast<size_t>(chosen_);
  if (at >= curve_.size()) return;
  acre::Curve next = curve_;
  const double apart = std::max(1e-4, (right_ - left_) / 500);
  to.x = tidy(to.x, (right_ - left_) / 100);
  to.y = tidy(to.y, (top_ - bottom_) / 100);
  if (at > 0) to.x = std::max(to.x, next[at - 1].x + apart);
  if (at + 1 < next.size()) to.x = std::min(to.x, next[at + 1].x - apart);
  const acre::Range& range = acre::limits::altitude;
  next[at] = {std::clamp(to.x, range.low, range.high), std::clamp(to.y, range.low, range.high)};
  emit edited(next, during);
}

void CurveView::mousePressEvent(QMouseEvent* e) {
  if (e->button() != Qt::LeftButton || curve_.empty()) return;
  int at = pointAt(e->position());
  if (at < 0 && curve_.size() < acre::limits::curvePoints) {
    const acre::CurvePoint p = fromScreen(e->position());
    const double y = static_cast<double>(acre::CurveTable(curve_).at(static_cast<float>(p.x)));
    if (std::abs(toScreen({p.x, y}).y() - e->position().y()) > kReach) return;
    acre::Curve next = curve_;
    const auto place = std::find_if(
        next.begin(), next.end(), [&](const acre::CurvePoint& q) { return q.x > p.x; });
    at = static_cast<int>(place - next.begin());
    next.insert(place, {tidy(p.x, (right_ - left_) / 100), tidy(y, (top_ - bottom_) / 100)});
    chosen_ = at;
    emit edited(next, false);
  }
  if (at < 0) return;
  chosen_ = at;
  dragging_ = true;
  update();
}

void CurveView::mouseMoveEvent(QMouseEvent* e) {
  if (dragging_) movePoint(fromScreen(e->position()), true);
}

void CurveView::mouseReleaseEvent(QMouseEvent*) {
  if (!std::exchange(dragging_, false)) return;
  emit gestureEnded();
  frame();
  update();
}

bool CurveView::focusNextPrevChild(bool next) {
  const int to = chosen_ + (next ? 1 : -1);
  if (!hasFocus() || to < 0 || to >= static_cast<int>(curve_.size()))
    return QWidget::focusNextPrevChild(next);
  chosen_ = to;
  setCurve(curve_);
  return true;
}

void CurveView::keyPressEvent(QKeyEvent* e) {
  if (curve_.empty()) return QWidget::keyPressEvent(e);
  const double rate = e->modifiers() & Qt::ShiftModifier ? 0.1 : 0.01;
  acre::CurvePoint p = curve_[static_cast<size_t>(chosen_)];
  switch (e->key()) {
    case Qt::Key_Left:
      p.x -= (right_ - left_) * rate;
      return movePoint(p, false);
    case Qt::Key_Right:
      p.x += (right_ - left_) * rate;
      return movePoint(p, false);
    case Qt::Key_Up:
      p.y += (top_ - bottom_) * rate;
      return movePoint(p, false);
    case Qt::Key_Down:
      p.y -= (top_ - bottom_) * rate;
      return movePoint(p, false);
    case Qt::Key_Insert: {
      const auto at = static_cast<size_t>(chosen_);
      if (at + 1 >= curve_.size() || curve_.size() >= acre::limits::curvePoints) return;
      acre::Curve next = curve_;
      const double x = (next[at].x + next[at + 1].x) / 2;
      next.insert(next.begin() + chosen_ + 1,
          {x, static_cast<double>(acre::CurveTable(curve_).at(static_cast<float>(x)))});
      ++chosen_;
      return emit edited(next, false);
    }
    case Qt::Key_Delete: {
      if (curve_.size() <= 2) return;
      acre::Curve next = curve_;
      next.erase(next.begin() + chosen_);
      return emit edited(next, false);
    }
    default:
      QWidget::keyPressEvent(e);
  }
}

void CurveView::paintEvent(QPaintEvent*) {
  QPainter p(this);
  const look::Tokens& t = look::tokens();
  const QRectF r = plot();
  p.fillRect(r, t.sheet);
  p.setPen(Qt::NoPen);
  p.setBrush(t.rule);
  if (!bins_.empty() && high_ > low_) {
    const uint32_t most = std::max(1u, *std::max_element(bins_.begin(), bins_.end()));
    const double scale = r.width() / (right_ - left_);
    const double wide = (high_ - low_) / static_cast<double>(bins_.size()) * scale;
    for (size_t i = 0; i < bins_.size(); ++i) {
      const double tall = bins_[i] * 0.35 / most * r.height();
      p.drawRect(QRectF(r.left() + (low_ - left_) * scale + static_cast<double>(i) * wide,
          r.bottom() - tall, std::max(1.0, wide), tall));
    }
  }
  p.setBrush(Qt::NoBrush);
  p.setPen(t.edge);
  p.drawRect(r);
  p.setFont(look::font(look::Type::Caption));
  p.setPen(t.soft);
  const auto figure = [](double v) { return look::number(std::round(v * 100) / 100); };
  p.drawText(QRectF(0, r.top(), 40, 14), Qt::AlignRight | Qt::AlignVCenter, figure(top_));
  p.drawText(
      QRectF(0, r.bottom() - 14, 40, 14), Qt::AlignRight | Qt::AlignVCenter, figure(bottom_));
  p.drawText(
      QRectF(r.left(), r.bottom() + 2, 80, 15), Qt::AlignLeft | Qt::AlignVCenter, figure(left_));
  p.drawText(QRectF(r.right() - 80, r.bottom() + 2, 80, 15), Qt::AlignRight | Qt::AlignVCenter,
      figure(right_));
  if (curve_.size() < 2) return;
  p.setRenderHint(QPainter::Antialiasing);
  const acre::CurveTable table(curve_);
  QPolygonF line;
  for (double x = r.left(); x <= r.right(); x += 1) {
    const double in = fromScreen({x, 0}).x;
    line.append({x, toScreen({in, static_cast<double>(table.at(static_cast<float>(in)))}).y()});
  }
  p.setPen(QPen(t.ink, 1.5));
  p.drawPolyline(line);
  for (size_t i = 0; i < curve_.size(); ++i) {
    const QPointF at = toScreen(curve_[i]);
    const bool chosen = static_cast<int>(i) == chosen_;
    p.setPen(QPen(chosen ? t.madder : t.ink, 1.5));
    p.setBrush(t.sheet);
    p.drawRect(QRectF(at - QPointF(3.5, 3.5), QSizeF(7, 7)));
  }
  const acre::CurvePoint& c = curve_[static_cast<size_t>(chosen_)];
  p.setPen(t.ink);
  p.drawText(QRectF(r.left() + 80, r.bottom() + 2, r.width() - 160, 15), Qt::AlignCenter,
      tr("%1 becomes %2").arg(figure(c.x), figure(c.y)));
  if (hasFocus()) {
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(t.ink, 2));
    p.drawRect(rect().adjusted(1, 1, -1, -1));
  }
}

}  // namespace app

#include "moc_curve_view.cpp"
