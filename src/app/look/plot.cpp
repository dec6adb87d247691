#include "app/look/plot.h"

#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <algorithm>
#include <cmath>
#include <limits>

#include "app/look/look.h"

namespace app {
namespace {

constexpr int kTicksAlong = 4;  // Stretches between numbers of the axis.
constexpr int kTicksUp = 2;
constexpr int kTitle = 18;
constexpr int kDotted = 40;  // With up to so many points each is dotted.

/// A round number not below `value`, for the end of an axis.
double roundUp(double value) {
  if (value <= 0) return 1;
  const double unit = std::pow(10, std::floor(std::log10(value)));
  for (const double k : {1.0, 2.0, 5.0, 10.0})
    if (value <= k * unit) return k * unit;
  return value;
}

}  // namespace

Plot::Plot(const QString& title, const QString& name, Axes axes, QWidget* parent)
    : QWidget(parent), title_(title), axes_(axes) {
  setObjectName(name);
  setAccessibleName(title);
  setFixedHeight(axes == Axes::Plain ? 64 : 112);
  setMouseTracking(true);
  setCursor(Qt::PointingHandCursor);
}

void Plot::setLines(std::vector<std::vector<QPointF>> lines, double end, Format along, Format up) {
  lines_ = std::move(lines);
  std::erase_if(lines_, [](const auto& line) { return line.empty(); });
  along_ = std::move(along);
  up_ = std::move(up);
  end_ = end;
  chosen_ = hair_ = -1;
  low_ = std::numeric_limits<double>::max();
  high_ = std::numeric_limits<double>::lowest();
  for (const auto& line : lines_)
    for (const QPointF& point : line) {
      low_ = std::min(low_, point.y());
      high_ = std::max(high_, point.y());
    }
  if (!lines_.empty()) setAccessibleDescription(tr("%1 to %2").arg(up_(low_), up_(high_)));
  if (axes_ == Axes::Labelled) {
    low_ = 0;
    high_ = roundUp(high_);
  }
  update();
}

void Plot::setMarks(std::vector<double> marks) {
  marks_ = std::move(marks);
  update();
}

void Plot::setHair(double at) {
  if (std::exchange(hair_, at) != at) update();
}

void Plot::setChosen(double at) {
  chosen_ = at;
  update();
}

QRectF Plot::area() const {
  const QRectF all(rect());
  return axes_ == Axes::Plain ? all.adjusted(4, kTitle + 2, -6, -4)
                              : all.adjusted(44, kTitle + 4, -20, -20);
}

double Plot::pixelOf(double at) const {
  return area().left() + area().width() * at / std::max(end_, 1e-12);
}

double Plot::placeAt(double pixel) const {
  return std::clamp((pixel - area().left()) / area().width(), 0.0, 1.0) * end_;
}

QPointF Plot::pointOf(QPointF value) const {
  const QRectF inner = axes_ == Axes::Plain ? area().adjusted(0, 4, 0, -4) : area();
  const double share = high_ > low_ ? (value.y() - low_) / (high_ - low_) : 0.5;
  return {pixelOf(value.x()), inner.bottom() - inner.height() * share};
}

void Plot::mousePressEvent(QMouseEvent* e) {
  if (e->button() == Qt::LeftButton && !lines_.empty()) emit picked(placeAt(e->position().x()));
}

void Plot::mouseMoveEvent(QMouseEvent* e) {
  if (lines_.empty()) return;
  emit hovered(placeAt(e->position().x()));
  if (e->buttons() & Qt::LeftButton) emit picked(placeAt(e->position().x()));
}

void Plot::leaveEvent(QEvent* e) {
  QWidget::leaveEvent(e);
  emit hovered(-1);
}

void Plot::paintAxes(QPainter& p) const {
  const look::Tokens& t = look::tokens();
  const QRectF plot = area();
  for (int k = 0; k <= kTicksAlong; ++k) {
    const double at = end_ * k / kTicksAlong;
    const double x = pixelOf(at);
    p.setPen(QPen(t.rule, 1));
    p.drawLine(QPointF(x, plot.top()), QPointF(x, plot.bottom()));
    p.setPen(t.soft);
    p.drawText(QRectF(x - 40, plot.bottom() + 2, 80, 16), Qt::AlignHCenter, along_(at));
  }
  for (int k = 0; k <= kTicksUp; ++k) {
    const double value = low_ + (high_ - low_) * k / kTicksUp;
    const double y = pointOf({0, value}).y();
    p.setPen(QPen(t.rule, 1));
    p.drawLine(QPointF(plot.left(), y), QPointF(plot.right(), y));
    p.setPen(t.soft);
    p.drawText(
        QRectF(0, y - 8, plot.left() - 6, 16), Qt::AlignRight | Qt::AlignVCenter, up_(value));
  }
}

void Plot::paintEvent(QPaintEvent*) {
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  const look::Tokens& t = look::tokens();
  const QRectF plot = area();
  p.fillRect(plot, t.sheet);
  p.setFont(look::font(look::Type::Caption));
  if (axes_ == Axes::Labelled && !lines_.empty()) paintAxes(p);
  p.setPen(QPen(axes_ == Axes::Plain ? t.rule : t.edge, 1));
  p.drawRect(plot);
  const QRectF head(plot.left(), 2, plot.width(), kTitle - 2);
  p.setPen(axes_ == Axes::Plain ? t.soft : t.ink);
  p.drawText(head, Qt::AlignLeft | Qt::AlignVCenter, title_);
  if (lines_.empty()) return;
  if (axes_ == Axes::Plain) {
    p.setPen(t.soft);
    p.drawText(head, Qt::AlignRight | Qt::AlignVCenter,
        low_ == high_ ? tr("always %1").arg(up_(low_)) : tr("%1 to %2").arg(up_(low_), up_(high_)));
  }
  const auto across = [&](double at, const QPen& pen) {
    p.setPen(pen);
    p.drawLine(QPointF(pixelOf(at), plot.top() + 1), QPointF(pixelOf(at), plot.bottom()));
  };
  for (const double mark : marks_) across(mark, QPen(t.rule, 1));
  bool first = true;
  for (const auto& line : lines_) {
    QPainterPath path(pointOf(line.front()));
    for (const QPointF& value : line) path.lineTo(pointOf(value));
    p.setPen(QPen(first ? t.ink : t.soft, 1.5, first ? Qt::SolidLine : Qt::DashLine));
    p.setBrush(Qt::NoBrush);
    p.drawPath(path);
    p.setPen(Qt::NoPen);
    p.setBrush(first ? t.ink : t.soft);
    if (line.size() <= kDotted)
      for (const QPointF& value : line) p.drawEllipse(pointOf(value), 2, 2);
    first = false;
  }
  if (hair_ >= 0) across(hair_, QPen(t.ink, 1, Qt::DotLine));
  if (chosen_ < 0) return;
  across(chosen_, QPen(t.madder, 1.5));
  const auto& line = lines_.front();
  const auto next = std::find_if(
      line.begin(), line.end() - 1, [&](const QPointF& value) { return value.x() >= chosen_; });
  p.setBrush(t.sheet);
  p.drawEllipse(pointOf(*next), 4, 4);
}

}  // namespace app

#include "moc_plot.cpp"
