// How the waves look.
#include <QPainter>
#include <algorithm>
#include <cmath>

#include "app/edit/waves.h"
#include "app/look/look.h"

namespace app {
namespace {

QString signOf(const acre::Layer& layer) {
  if (acre::reshapes(layer.source)) return QStringLiteral("ƒ");
  switch (layer.combine) {
    case acre::Combine::Add:
      return QStringLiteral("+");
    case acre::Combine::Subtract:
      return QStringLiteral("−");
    case acre::Combine::Multiply:
      return QStringLiteral("×");
    case acre::Combine::Minimum:
      return QStringLiteral("min");
    case acre::Combine::Maximum:
      return QStringLiteral("max");
    case acre::Combine::SmoothMinimum:
      return QStringLiteral("~min");
    case acre::Combine::SmoothMaximum:
      return QStringLiteral("~max");
    case acre::Combine::Mix:
      return QStringLiteral("mix");
    case acre::Combine::Replace:
      return QStringLiteral("=");
  }
  return {};
}

constexpr double kCurveRoom = 6;  ///< Room above and below a curve, for its thickness.

/// A curve over the columns of a picture, smoothed at its edges; y per value, from the top. What a
/// general painter takes milliseconds for is a few thousand pixels here. Dotted pens leave every
/// other two columns out.
QImage drawnCurve(const std::vector<double>& y, size_t from, size_t to, QSizeF size,
    const QPen& pen, double ratio) {
  QImage out((size * ratio).toSize(), QImage::Format_ARGB32_Premultiplied);
  out.setDevicePixelRatio(ratio);
  out.fill(Qt::transparent);
  if (to < from + 2) return out;
  const double perColumn = static_cast<double>(y.size()) / out.width();
  const double half = pen.widthF() * ratio / 2;
  const auto at = [&](double place) {
    const double inside = std::clamp(place, static_cast<double>(from), static_cast<double>(to - 1));
    const auto i = std::min(static_cast<size_t>(inside), to - 2);
    return (y[i] + (inside - static_cast<double>(i)) * (y[i + 1] - y[i])) * ratio;
  };
  const auto first = static_cast<int>(std::floor(static_cast<double>(from) / perColumn));
  const auto last = static_cast<int>(std::ceil(static_cast<double>(to - 1) / perColumn));
  const QColor ink = pen.color();
  for (int x = std::max(0, first); x < std::min(last, out.width()); ++x) {
    if (pen.style() == Qt::DotLine && static_cast<int>(x / ratio) % 4 >= 2) continue;
    const double a = at(x * perColumn), b = at((x + 1) * perColumn);
    const double top = std::min(a, b) - half, bottom = std::max(a, b) + half;
    const int end = std::min(out.height(), static_cast<int>(std::ceil(bottom)));
    for (int row = std::max(0, static_cast<int>(std::floor(top))); row < end; ++row) {
      const double cover = std::min(bottom, row + 1.0) - std::max(top, static_cast<double>(row));
      const auto alpha = static_cast<int>(std::lround(255 * std::clamp(cover, 0.0, 1.0)));
      reinterpret_cast<QRgb*>(out.scanLine(row))[x] =
          qPremultiply(qRgba(ink.red(), ink.green(), ink.blue(), alpha));
    }
  }
  return out;
}

}  // namespace

void WavesView::paintGutter(QPainter& p, int index, const QRect& lane) {
  const look::Tokens& t = look::tokens();
  const acre::Layer* layer = layerAt(index);
  const auto [low, high] = scaleOf(index);
  const double inner = (high - low) / 1.08;
  const double middle = (low + high) / 2;
  const bool known = index < 0 ? !waves_.sum.empty()
                               : index < static_cast<int>(waves_.layers.size()) &&
                                     !waves_.layers[static_cast<size_t>(index)].values.empty();
  const QString reach =
      known ? tr("%1 … %2").arg(look::figure(middle - inner / 2), look::figure(middle + inner / 2))
            : QString();
  p.setFont(look::font(look::Type::Body));
  p.setPen(t.ink);
  const QRect text(24, lane.top() + 5, kGutter - 30, 17);
  const QString name = layer ? QString::fromStdString(layer->name) : tr("Sum");
  QFont font = look::font(look::Type::Body);
  if (!layer || layer->id == chosen_) font.setWeight(QFont::DemiBold);
  p.setFont(font);
  p.drawText(
      text, Qt::AlignVCenter, p.fontMetrics().elidedText(name, Qt::ElideRight, text.width()));
  p.setFont(look::font(look::Type::Caption));
  p.setPen(t.soft);
  p.drawText(text.translated(0, 17), Qt::AlignVCenter, reach);
  if (!layer) return;
  p.setPen(t.ink);
  p.drawText(QRect(2, lane.top() + 5, 24, 17), Qt::AlignVCenter | Qt::AlignLeft, signOf(*layer));
  const auto word = [&](int x, int w, const QString& label, bool set) {
    const QRect r(x, lane.bottom() - 19, w, 16);
    if (set) {
      p.setPen(QPen(t.edge, 1));
      p.drawRect(r.adjusted(0, 0, -1, -1));
    }
    p.setPen(set ? t.ink : t.soft);
    p.drawText(r, Qt::AlignCenter, label);
  };
  word(24, 30, layer->on ? tr("on") : tr("off"), layer->on);
  word(58, 40, tr("alone"), alone_ == layer->id);
  // True size against the other layers: a log bar, one step per factor of ten.
  if (known && inner > 0) {
    const double steps = std::clamp(std::log10(inner) + 2, 0.2, 6.0) / 6;
    const int tall = static_cast<int>(steps * (lane.height() - 14));
    p.fillRect(QRect(kGutter - 6, lane.bottom() - 6 - tall, 2, tall), t.edge);
  }
}

void WavesView::paintLane(QPainter& p, int index) {
  const look::Tokens& t = look::tokens();
  const QRect lane = laneRect(index);
  const acre::Layer* layer = layerAt(index);
  if (layer && layer->id == chosen_) {
    p.fillRect(lane, t.chosen);
    p.fillRect(QRect(0, lane.top(), 2, lane.height()), t.madder);
  }
  p.setPen(t.rule);
  p.drawLine(0, lane.bottom(), width(), lane.bottom());
  paintGutter(p, index, lane);
  const QRectF area = waveArea(index);
  p.fillRect(area.adjusted(0, -4, 0, index < 0 ? 4 : 2), t.sheet);
  const bool have = index < 0 ? waves_.sum.size() > 1
                              : index < static_cast<int>(waves_.layers.size()) &&
                                    waves_.layers[static_cast<size_t>(index)].values.size() > 1;
  if (!have) {
    p.setPen(QPen(t.soft, 1, Qt::DotLine));
    p.drawLine(QPointF(area.left(), area.center().y()), QPointF(area.right(), area.center().y()));
    return;
  }
  const auto [low, high] = scaleOf(index);
  const double height = area.height();
  const auto draw = [&, low = low, high = high](
                        const std::vector<float>& v, size_t from, size_t to, const QPen& pen) {
    std::vector<double> y(v.size());
    for (size_t i = from; i < to; ++i)
      y[i] = kCurveRoom + height - (static_cast<double>(v[i]) - low) / (high - low) * height;
    const QSizeF size(area.width(), height + 2 * kCurveRoom);
    p.drawImage(area.topLeft() - QPointF(0, kCurveRoom),
        drawnCurve(y, from, to, size, pen, devicePixelRatioF()));
  };
  p.save();
  p.setClipRect(area.adjusted(0, -6, 0, 6));
  p.setRenderHint(QPainter::Antialiasing);
  if (index < 0) {
    // The section's surface, with the sea.
    if (fieldId_ == acre::kHeightsId) {
      const double sea = planOf(*document_.world()).seaLevel();
      const double y = area.bottom() - (sea - low) / (high - low) * height;
      if (y > area.top() && y < area.bottom()) {
        p.setPen(QPen(t.verdigris, 1, Qt::DashLine));
        p.drawLine(QPointF(area.left(), y), QPointF(area.right(), y));
      }
    }
    draw(waves_.sum, 0, waves_.sum.size(), QPen(t.ink, 1.5));
  } else {
    const Wave& wave = waves_.layers[static_cast<size_t>(index)];
    if (drag_.moving && layer && layer->id == chosen_ && !drag_.ghost.empty()) {
      draw(drag_.ghost, 0, drag_.ghost.size(), QPen(t.soft, 1, Qt::DotLine));
    }
    if (!wave.octave.empty()) draw(wave.octave, 0, wave.octave.size(), QPen(t.ink, 1.5));
    if (wave.weight.empty()) {
      draw(wave.values, 0, wave.values.size(), QPen(t.ink, wave.octave.empty() ? 1.5 : 1));
    } else {
      // Ground outside the mask is dotted out.
      for (size_t i = 0; i + 1 < wave.values.size();) {
        const bool in = wave.weight[i] > 0;
        size_t end = i + 1;
        while (end < wave.values.size() && (wave.weight[end] > 0) == in) ++end;
        draw(wave.values, i, std::min(end + 1, wave.values.size()),
            in ? QPen(t.ink, 1.2) : QPen(t.soft, 1, Qt::DotLine));
        i = end;
      }
    }
  }
  p.restore();
  if (!layer) return;
  paintBracket(p, index, *layer);
  for (const auto& [id, words] : faults_)
    if (layer->id == id) return paintFault(p, area, words);
}

void WavesView::paintBracket(QPainter& p, int index, const acre::Layer& layer) {
  const QRectF bracket = bracketRect(index);
  if (bracket.isEmpty()) return;
  const look::Tokens& t = look::tokens();
  const QRectF area = waveArea(index);
  const bool chosen = layer.id == chosen_;
  const double y = bracket.center().y();
  const double right = std::min(bracket.right(), area.right());
  p.setPen(QPen(chosen ? t.ink : t.edge, chosen && handle_ == Handle::Width && hasFocus() ? 2 : 1));
  const QString text = tr("%1 cells").arg(look::figure(noiseOf(layer)->width));
  p.setFont(look::font(look::Type::Caption));
  const int w = p.fontMetrics().horizontalAdvance(text) + 8;
  const bool inside = right - bracket.left() > w + 12;
  const double textAt = inside ? (bracket.left() + right - w) / 2 : right + 6;
  p.drawLine(QPointF(bracket.left(), y - 5), QPointF(bracket.left(), y + 5));
  if (bracket.right() <= area.right()) p.drawLine(QPointF(right, y - 5), QPointF(right, y + 5));
  p.drawLine(QPointF(bracket.left(), y), QPointF(inside ? textAt : right, y));
  if (inside) p.drawLine(QPointF(textAt + w, y), QPointF(right, y));
  p.setPen(chosen ? t.ink : t.soft);
  p.drawText(QRectF(textAt, y - 8, w, 16), Qt::AlignCenter, text);
}

void WavesView::paintFault(QPainter& p, const QRectF& area, const QString& words) {
  const look::Tokens& t = look::tokens();
  p.setFont(look::font(look::Type::Caption));
  const QString text =
      p.fontMetrics().elidedText(words, Qt::ElideRight, static_cast<int>(area.width()) - 16);
  p.fillRect(
      QRectF(area.left() + 2, area.top() - 4, p.fontMetrics().horizontalAdvance(text) + 18, 16),
      t.sheet);
  p.setPen(QPen(t.ochre, 2.5, Qt::SolidLine, Qt::FlatCap));
  p.drawLine(QPointF(area.left() + 7, area.top() - 2), QPointF(area.left() + 7, area.top() + 5));
  p.drawLine(QPointF(area.left() + 7, area.top() + 7), QPointF(area.left() + 7, area.top() + 9.5));
  p.setPen(t.ink);
  p.drawText(QPointF(area.left() + 14, area.top() + 8), text);
}

double WavesView::hairAt() const {
  const QRectF area = waveArea(-1);
  return area.left() + hair_ * area.width();
}

void WavesView::paintEvent(QPaintEvent*) {
  QPainter p(this);
  const look::Tokens& t = look::tokens();
  const acre::FieldRecipe* f = field();
  paintLane(p, -1);
  for (int i = 0; f && i < static_cast<int>(f->layers.size()); ++i) paintLane(p, i);
  if (f && f->layers.empty()) {
    p.setFont(look::font(look::Type::Body));
    p.setPen(t.ink);
    p.drawText(QRect(kGutter, kSumLane, width() - kGutter, kLane), Qt::AlignVCenter,
        tr("Flat at 0. Add a layer."));
  }
  // The letters of the section line, and the hair.
  const QRectF area = waveArea(-1);
  p.setFont(look::mapFont());
  p.setPen(t.ink);
  p.drawText(QPointF(area.left() + 2, area.top() + 6), QStringLiteral("A"));
  p.drawText(QPointF(area.right() - 12, area.top() + 6), QStringLiteral("B"));
  if (hair_ >= 0) {
    const double x = hairAt();
    p.setPen(QPen(t.ink, 1, Qt::DotLine));
    p.drawLine(QPointF(x, 0), QPointF(x, height()));
  }
  if (hasFocus()) {
    p.setPen(QPen(t.ink, 2));
    p.drawRect(rect().adjusted(1, 1, -1, -1));
  }
}

}  // namespace app
