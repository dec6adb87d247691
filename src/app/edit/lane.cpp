#include "app/edit/lane.h"

#include <QPainter>
#include <algorithm>

#include "app/look/look.h"

namespace app {

Lane::Lane(QWidget* parent) : QWidget(parent) {
  setFixedHeight(56);
  setAccessibleName(tr("Wave of the layer along the map's middle row"));
}

void Lane::setValues(std::vector<float> values, int64_t step) {
  values_ = std::move(values);
  step_ = step;
  if (!values_.empty()) {
    const auto [low, high] = std::minmax_element(values_.begin(), values_.end());
    setToolTip(tr("This layer along the map's middle row: %1 to %2.")
                   .arg(look::number(std::round(*low * 10) / 10.0),
                        look::number(std::round(*high * 10) / 10.0)));
  }
  update();
}

void Lane::setFaint(bool faint) {
  faint_ = faint;
  update();
}

void Lane::paintEvent(QPaintEvent*) {
  QPainter p(this);
  const look::Tokens& t = look::tokens();
  p.fillRect(rect(), t.sheet);
  p.setPen(QPen(t.rule, 1));
  p.drawRect(rect().adjusted(0, 0, -1, -1));
  if (values_.size() < 2) return;
  const auto ends = std::minmax_element(values_.begin(), values_.end());
  const float low = *ends.first, high = *ends.second;
  // At least one unit, so that a flat layer draws as a flat line.
  const double span = std::max<double>(1e-3, static_cast<double>(high) - low);
  const double top = 16, bottom = height() - 6;
  const auto y = [&](float v) {
    return bottom - (static_cast<double>(v) - low) / span * (bottom - top);
  };
  QPolygonF line;
  for (size_t i = 0; i < values_.size(); ++i)
    line.append({static_cast<double>(i) * width() / static_cast<double>(values_.size() - 1),
                 y(values_[i])});
  p.setRenderHint(QPainter::Antialiasing);
  p.setOpacity(faint_ ? 0.45 : 1);
  p.setPen(QPen(t.ink, 1.5));
  p.drawPolyline(line);
  p.setPen(t.soft);
  p.setFont(look::font(look::Type::Caption));
  const auto rounded = [](float v) {
    return look::number(std::round(static_cast<double>(v) * 10) / 10);
  };
  p.drawText(QRectF(6, 1, width() - 12, 14), Qt::AlignLeft | Qt::AlignVCenter,
             tr("%1 … %2").arg(rounded(low), rounded(high)));
  p.drawText(
      QRectF(6, 1, width() - 12, 14), Qt::AlignRight | Qt::AlignVCenter,
      tr("%1 cells wide").arg(look::wholeNumber(step_ * static_cast<qint64>(values_.size()))));
}

}  // namespace app
