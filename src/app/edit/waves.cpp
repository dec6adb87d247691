#include "app/edit/waves.h"

#include <QHelpEvent>
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <QToolTip>
#include <algorithm>
#include <cmath>

#include "app/look/look.h"
#include "audit/census.h"
#include "audit/plumb.h"
#include "recipe/validate.h"

namespace app {
namespace {

constexpr int kGutter = 104;
constexpr int kSumLane = 72;
constexpr int kLane = 66;
constexpr int kDragThreshold = 6;
constexpr double kFine = 0.1;

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

QString rounded(double v) {
  const double unit = std::abs(v) >= 100 ? 1 : std::abs(v) >= 10 ? 0.1 : 0.01;
  return look::number(std::round(std::round(v / unit) * unit * 100) / 100);
}

const acre::NoiseSource* noiseOf(const acre::Layer& layer) {
  return std::get_if<acre::NoiseSource>(&layer.source);
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

WavesView::WavesView(Document& document, QWidget* parent)
    : QWidget(parent), document_(document), courier_(std::make_shared<Courier<WavesView>>(this)) {
  setObjectName(QStringLiteral("waves"));
  setFocusPolicy(Qt::StrongFocus);
  setMouseTracking(true);
  setAccessibleName(tr("Waves of the layers along the section line"));
}

WavesView::~WavesView() {
  courier_->close();
  stop_.request_stop();
}

const acre::FieldRecipe* WavesView::field() const {
  return acre::fieldOf(document_.recipe(), fieldId_);
}

const acre::Layer* WavesView::layerAt(int index) const {
  const acre::FieldRecipe* f = field();
  return f && index >= 0 && index < static_cast<int>(f->layers.size())
             ? &f->layers[static_cast<size_t>(index)]
             : nullptr;
}

int WavesView::indexOf(const std::string& layerId) const {
  const acre::FieldRecipe* f = field();
  for (size_t i = 0; f && i < f->layers.size(); ++i)
    if (f->layers[i].id == layerId) return static_cast<int>(i);
  return -1;
}

void WavesView::setField(const std::string& fieldId) {
  fieldId_ = fieldId;
  waves_ = {};
  requested_ = {};
  refresh();
}

void WavesView::setLine(const SectionLine& line) {
  line_ = line;
  request();
}

void WavesView::refresh() {
  if (indexOf(chosen_) < 0) {
    const acre::Layer* first = layerAt(0);
    chosen_ = first ? first->id : std::string();
    emit chosenChanged();
  }
  if (const int tall = sizeHint().height(); tall != height()) {
    updateGeometry();
    setFixedHeight(tall);
  }
  setAccessibleDescription(describe(indexOf(chosen_)));
  if (!request()) update();  // Otherwise painted once, with the new values.
}

void WavesView::choose(const std::string& layerId) {
  if (layerId == chosen_ || indexOf(layerId) < 0) return;
  chosen_ = layerId;
  setAccessibleDescription(describe(indexOf(chosen_)));
  update();
  emit chosenChanged();
}

void WavesView::setAlone(const std::string& layerId) {
  alone_ = layerId;
  update();
}

void WavesView::setTrueScale(bool same) {
  trueScale_ = same;
  update();
}

void WavesView::setHair(double at) {
  hair_ = at;
  update();
}

void WavesView::setFaults(const std::vector<std::pair<std::string, QString>>& faults) {
  faults_ = faults;
  update();
}

QSize WavesView::sizeHint() const {
  const acre::FieldRecipe* f = field();
  const int count = f ? static_cast<int>(f->layers.size()) : 0;
  return {370, kSumLane + std::max(1, count) * kLane};
}

QString WavesView::describe(int index) const {
  const acre::Layer* layer = layerAt(index);
  if (!layer) return tr("No layer");
  QString text = tr("%1 of %2, %3, %4, amplitude %5")
                     .arg(index + 1)
                     .arg(field()->layers.size())
                     .arg(QString::fromStdString(layer->name),
                          QString::fromLatin1(acre::combineWord(layer->combine)),
                          look::number(layer->amplitude));
  if (const auto* noise = noiseOf(*layer))
    text += tr(", width %1 cells").arg(look::number(noise->width));
  return text + (layer->on ? tr(", on") : tr(", off"));
}

// ---- values ------------------------------------------------------------------------------------

bool WavesView::request() {
  const int count = width() - kGutter - 2;
  if (count < 16 || !isVisible()) return false;
  Request next{document_.world(), fieldId_, line_, count};
  if (next == requested_) return false;
  requested_ = next;
  stop_.request_stop();
  stop_ = {};
  document_.engine().executor().submit(
      acre::Priority::CoarseMap,
      [courier = courier_, next = std::move(next), request = ++request_, stop = stop_.get_token()] {
        if (stop.stop_requested()) return;
        Waves waves = wavesAlong(*next.world, next.field, next.line, next.count);
        courier->deliver([request, waves = std::move(waves)](WavesView& self) mutable {
          if (request != self.request_) return;
          self.shown_ = request;
          self.waves_ = std::move(waves);
          self.update();
        });
      });
  return true;
}

void WavesView::resizeEvent(QResizeEvent*) {
  request();
}

// ---- places ------------------------------------------------------------------------------------

QRect WavesView::laneRect(int layer) const {
  if (layer < 0) return {0, 0, width(), kSumLane};
  return {0, kSumLane + layer * kLane, width(), kLane};
}

QRectF WavesView::waveArea(int layer) const {
  const QRect lane = laneRect(layer);
  return QRectF(lane).adjusted(kGutter, layer < 0 ? 8 : 6, -2, layer < 0 ? -8 : -18);
}

int WavesView::laneAt(QPointF position) const {
  if (position.y() < kSumLane) return -1;
  const int lane = static_cast<int>((position.y() - kSumLane) / kLane);
  return layerAt(lane) ? lane : -1;
}

std::pair<double, double> WavesView::scaleOf(int layer) const {
  const auto range = [](const std::vector<float>& v) -> std::pair<double, double> {
    if (v.empty()) return {0, 0};
    const auto [low, high] = std::minmax_element(v.begin(), v.end());
    return {static_cast<double>(*low), static_cast<double>(*high)};
  };
  auto ends = layer < 0 || layer >= static_cast<int>(waves_.layers.size())
                  ? range(waves_.sum)
                  : range(waves_.layers[static_cast<size_t>(layer)].values);
  double span = ends.second - ends.first;
  if (trueScale_ && layer >= 0) {
    const auto sum = range(waves_.sum);
    span = std::max(span, sum.second - sum.first);
  }
  span = std::max(span, 1e-3) * 1.08;
  const double middle = (ends.first + ends.second) / 2;
  return {middle - span / 2, middle + span / 2};
}

double WavesView::crestAt(int layer) const {
  const QRectF area = waveArea(layer);
  const Wave& wave = waves_.layers[static_cast<size_t>(layer)];
  const auto& v = wave.octave.empty() ? wave.values : wave.octave;
  // The first crest that leaves room for the bracket, else the left end.
  for (size_t i = 2; i + 2 < v.size() && i < v.size() / 2; ++i)
    if (v[i] > v[i - 1] && v[i] >= v[i + 1] && v[i] > v[i - 2] && v[i] >= v[i + 2])
      return area.left() + static_cast<double>(i);
  return area.left() + 4;
}

QRectF WavesView::bracketRect(int layer) const {
  const acre::Layer* l = layerAt(layer);
  if (!l || !noiseOf(*l) || layer >= static_cast<int>(waves_.layers.size()) ||
      waves_.layers[static_cast<size_t>(layer)].values.size() < 8 || waves_.cells <= 0)
    return {};
  const QRectF area = waveArea(layer);
  const double pixels = noiseOf(*l)->width / waves_.cells * area.width();
  const double left = drag_.moving && drag_.handle == Handle::Width ? drag_.at.x() : crestAt(layer);
  return {left, area.bottom() + 2, pixels, 12};
}

acre::Cell WavesView::cellAt(double pixel) const {
  const QRectF area = waveArea(0);
  const double t = std::clamp((pixel - area.left()) / std::max(1.0, area.width() - 1), 0.0, 1.0);
  Place p = line_.a;
  p.moveBy((static_cast<double>(line_.b.cell.x - line_.a.cell.x) + line_.b.fx - line_.a.fx) * t,
           (static_cast<double>(line_.b.cell.z - line_.a.cell.z) + line_.b.fz - line_.a.fz) * t);
  return p.cell;
}

// ---- changing ----------------------------------------------------------------------------------

void WavesView::change(const QString& name, const std::function<void(acre::Layer&)>& edit,
                       const QString& key) {
  acre::Recipe next = document_.recipe();
  acre::FieldRecipe* f = acre::fieldOf(next, fieldId_);
  if (!f) return;
  for (acre::Layer& layer : f->layers)
    if (layer.id == chosen_) edit(layer);
  document_.change(name, next, key);
}

void WavesView::setWidth(acre::Layer& layer, double width, acre::Cell fixed) const {
  auto* noise = std::get_if<acre::NoiseSource>(&layer.source);
  if (!noise) return;
  width = std::clamp(width, acre::limits::width.low, acre::limits::width.high);
  if (keepPlace_) {
    // (fixed + offset) / width stays what it is.
    acre::SamplingOffset offset = layer.sampling.value_or(acre::SamplingOffset{0, 0, true});
    const double ratio = width / noise->width;
    const auto moved = [&](double shift, int64_t cell) {
      const auto c = static_cast<double>(cell);
      return std::clamp(std::round(((c + shift) * ratio - c) * 16) / 16, acre::limits::sampling.low,
                        acre::limits::sampling.high);
    };
    offset.x = moved(offset.x, fixed.x);
    offset.z = moved(offset.z, fixed.z);
    layer.sampling = offset;
  }
  noise->width = width;
}

void WavesView::dragTo(QPointF position, bool fine) {
  const double rate = fine ? kFine : 1;
  if (drag_.handle == Handle::Amplitude) {
    const double change = (drag_.at.y() - position.y()) * drag_.perPixel * rate;
    const double unit = std::pow(10, std::floor(std::log10(std::max(drag_.perPixel * rate, 1e-9))));
    double amplitude = drag_.before.amplitude + change;
    amplitude = std::clamp(std::round(amplitude / unit) * unit, acre::limits::amplitude.low,
                           acre::limits::amplitude.high);
    if (auto* constant = std::get_if<acre::ConstantSource>(&drag_.before.source)) {
      const double value = std::clamp(std::round((constant->value + change) / unit) * unit,
                                      acre::limits::altitude.low, acre::limits::altitude.high);
      return this->change(
          tr("Value of %1").arg(QString::fromStdString(drag_.before.name)),
          [value](acre::Layer& l) { std::get<acre::ConstantSource>(l.source).value = value; },
          QStringLiteral("wave.value"));
    }
    return this->change(
        tr("Amplitude of %1").arg(QString::fromStdString(drag_.before.name)),
        [amplitude](acre::Layer& l) { l.amplitude = amplitude; }, QStringLiteral("wave.amplitude"));
  }
  const auto* noise = noiseOf(drag_.before);
  const double cells = (position.x() - drag_.at.x()) * drag_.perPixel * rate;
  const double least = std::max(acre::limits::width.low, drag_.perPixel);
  double width = std::max(least, noise->width + cells);
  width = width >= 20 ? std::round(width) : std::round(width * 10) / 10;
  const acre::Cell fixed = cellAt(drag_.ghost.empty() ? drag_.at.x() : crestAt(indexOf(chosen_)));
  change(
      tr("Width of %1").arg(QString::fromStdString(drag_.before.name)),
      [&](acre::Layer& l) {
        l = drag_.before;
        setWidth(l, width, fixed);
      },
      QStringLiteral("wave.width"));
}

void WavesView::mousePressEvent(QMouseEvent* e) {
  if (e->button() != Qt::LeftButton) return;
  const int lane = laneAt(e->position());
  const acre::Layer* layer = layerAt(lane);
  if (!layer) return;
  choose(layer->id);
  const QRect r = laneRect(lane);
  if (e->position().x() < kGutter) {
    // The lower part of the gutter holds two words to click.
    if (e->position().y() > r.bottom() - 20 && e->position().x() > 24) {
      if (e->position().x() < 56)
        change(layer->on ? tr("Switch layer off") : tr("Switch layer on"),
               [](acre::Layer& l) { l.on = !l.on; }, {});
      else
        emit aloneRequested(
            QString::fromStdString(alone_ == layer->id ? std::string() : layer->id));
    }
    return;
  }
  const QRectF bracket = bracketRect(lane);
  drag_ = {};
  drag_.pressed = true;
  drag_.before = *layer;
  const bool onBracket = !bracket.isEmpty() &&
                         bracket.adjusted(-8, -4, 8, 6).contains(e->position()) &&
                         std::abs(e->position().x() - bracket.right()) < 12;
  drag_.handle = onBracket ? Handle::Width : Handle::Amplitude;
  handle_ = drag_.handle;
  drag_.at = e->position();
  if (onBracket) {
    drag_.perPixel = waves_.cells / std::max(1.0, waveArea(lane).width());
    drag_.moving = true;
    drag_.at.setX(e->position().x());
  } else {
    const auto [low, high] = scaleOf(lane);
    drag_.perPixel = (high - low) / 2 / std::max(1.0, waveArea(lane).height() / 2) / 2;
  }
  if (lane < static_cast<int>(waves_.layers.size()))
    drag_.ghost = waves_.layers[static_cast<size_t>(lane)].values;
}

void WavesView::mouseMoveEvent(QMouseEvent* e) {
  const QRectF area = waveArea(0);
  const double t = (e->position().x() - area.left()) / std::max(1.0, area.width());
  emit hovered(t >= 0 && t <= 1 ? t : -1);
  if (!drag_.pressed) {
    const int lane = laneAt(e->position());
    const QRectF bracket = bracketRect(lane);
    const bool end = !bracket.isEmpty() && std::abs(e->position().x() - bracket.right()) < 12 &&
                     bracket.adjusted(-8, -4, 8, 6).contains(e->position());
    setCursor(end                                        ? Qt::SizeHorCursor
              : lane >= 0 && e->position().x() > kGutter ? Qt::SizeVerCursor
                                                         : Qt::ArrowCursor);
    return;
  }
  if (!drag_.moving && std::abs(e->position().y() - drag_.at.y()) < kDragThreshold) return;
  drag_.moving = true;
  dragTo(e->position(), e->modifiers() & Qt::ShiftModifier);
}

void WavesView::mouseReleaseEvent(QMouseEvent*) {
  if (drag_.moving) document_.endGesture();
  drag_ = {};
  update();
}

void WavesView::leaveEvent(QEvent*) {
  emit hovered(-1);
}

void WavesView::reorder(int by) {
  const int from = indexOf(chosen_), to = from + by;
  if (!layerAt(from) || !layerAt(to)) return;
  acre::Recipe next = document_.recipe();
  auto& layers = acre::fieldOf(next, fieldId_)->layers;
  std::swap(layers[static_cast<size_t>(from)], layers[static_cast<size_t>(to)]);
  document_.change(by < 0 ? tr("Move layer up") : tr("Move layer down"), next);
}

void WavesView::keyPressEvent(QKeyEvent* e) {
  const int at = indexOf(chosen_);
  const acre::Layer* layer = layerAt(at);
  const double rate = e->modifiers() & Qt::ShiftModifier     ? 10
                      : e->modifiers() & Qt::ControlModifier ? kFine
                                                             : 1;
  const auto step = [&](double sign) {
    if (!layer) return;
    if (handle_ == Handle::Width && noiseOf(*layer)) {
      const double width = noiseOf(*layer)->width * std::pow(1.01, sign * rate);
      change(
          tr("Width of %1").arg(QString::fromStdString(layer->name)),
          [&](acre::Layer& l) {
            setWidth(l, std::round(width * 100) / 100, cellAt(waveArea(0).left()));
          },
          QStringLiteral("wave.key.width"));
    } else {
      const double amplitude = layer->amplitude + 0.5 * sign * rate;
      change(
          tr("Amplitude of %1").arg(QString::fromStdString(layer->name)),
          [&](acre::Layer& l) {
            l.amplitude =
                std::clamp(amplitude, acre::limits::amplitude.low, acre::limits::amplitude.high);
          },
          QStringLiteral("wave.key.amplitude"));
    }
  };
  switch (e->key()) {
    case Qt::Key_Up:
    case Qt::Key_Down: {
      const int by = e->key() == Qt::Key_Up ? -1 : 1;
      if (e->modifiers() & Qt::AltModifier) return reorder(by);
      if (const acre::Layer* next = layerAt(at + by)) choose(next->id);
      return;
    }
    case Qt::Key_Left:
      handle_ = Handle::Amplitude;
      return update();
    case Qt::Key_Right:
      handle_ = Handle::Width;
      return update();
    case Qt::Key_Plus:
    case Qt::Key_Equal:
      return step(1);
    case Qt::Key_Minus:
      return step(-1);
    case Qt::Key_Space:
      if (layer)
        change(layer->on ? tr("Switch layer off") : tr("Switch layer on"),
               [](acre::Layer& l) { l.on = !l.on; }, {});
      return;
    case Qt::Key_Delete:
      if (layer) emit deleteRequested(QString::fromStdString(layer->id));
      return;
    case Qt::Key_Return:
    case Qt::Key_Enter:
      return emit numbersRequested();
    case Qt::Key_Escape:
      if (drag_.moving) {
        const acre::Layer before = drag_.before;
        drag_ = {};
        change(
            tr("Take back"), [&](acre::Layer& l) { l = before; },
            handle_ == Handle::Width ? QStringLiteral("wave.width")
                                     : QStringLiteral("wave.amplitude"));
        document_.endGesture();
        return;
      }
      break;
    default:
      break;
  }
  QWidget::keyPressEvent(e);
}

bool WavesView::event(QEvent* e) {
  if (e->type() == QEvent::Show) request();
  if (e->type() == QEvent::ToolTip) {
    const auto* help = static_cast<QHelpEvent*>(e);
    const int lane = laneAt(help->pos());
    QString text = tr("The field along A–B: all layers together.");
    if (const acre::Layer* layer = layerAt(lane)) {
      text = QString::fromStdString(layer->name) + QStringLiteral(": ") +
             QString::fromStdString(acre::sourceWords(layer->source));
      if (help->pos().x() < kGutter)
        text += tr("\non: takes part. alone: the map shows this layer by itself.");
      else
        text +=
            tr("\nDrag up or down: amplitude. Drag the bracket's right end: feature width.\n"
               "Shift: fine. Esc: back.");
    }
    QToolTip::showText(help->globalPos(), text, this);
    return true;
  }
  return QWidget::event(e);
}

// ---- painting ----------------------------------------------------------------------------------

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
      known ? tr("%1 … %2").arg(rounded(middle - inner / 2), rounded(middle + inner / 2))
            : QString();
  p.setFont(look::font(look::Type::Body));
  p.setPen(t.ink);
  const QRect text(24, lane.top() + 5, kGutter - 30, 17);
  const QString name = layer ? QString::fromStdString(layer->name) : tr("Sum");
  QFont font = look::font(look::Type::Body);
  if (!layer || layer->id == chosen_) font.setWeight(QFont::DemiBold);
  p.setFont(font);
  p.drawText(text, Qt::AlignVCenter,
             p.fontMetrics().elidedText(name, Qt::ElideRight, text.width()));
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
  const auto draw = [&, low = low, high = high](const std::vector<float>& v, size_t from, size_t to,
                                                const QPen& pen) {
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
      const double sea = document_.world()->seaLevel();
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
  const QRectF bracket = bracketRect(index);
  if (!bracket.isEmpty() && layer) {
    const bool chosen = layer->id == chosen_;
    const double y = bracket.center().y();
    const double right = std::min(bracket.right(), area.right());
    p.setPen(
        QPen(chosen ? t.ink : t.edge, chosen && handle_ == Handle::Width && hasFocus() ? 2 : 1));
    const QString text = tr("%1 cells").arg(rounded(noiseOf(*layer)->width));
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
  for (const auto& [id, words] : faults_) {
    if (!layer || layer->id != id) continue;
    p.setFont(look::font(look::Type::Caption));
    const QString text =
        p.fontMetrics().elidedText(words, Qt::ElideRight, static_cast<int>(area.width()) - 16);
    p.fillRect(
        QRectF(area.left() + 2, area.top() - 4, p.fontMetrics().horizontalAdvance(text) + 18, 16),
        t.sheet);
    p.setPen(QPen(t.ochre, 2.5, Qt::SolidLine, Qt::FlatCap));
    p.drawLine(QPointF(area.left() + 7, area.top() - 2), QPointF(area.left() + 7, area.top() + 5));
    p.drawLine(QPointF(area.left() + 7, area.top() + 7),
               QPointF(area.left() + 7, area.top() + 9.5));
    p.setPen(t.ink);
    p.drawText(QPointF(area.left() + 14, area.top() + 8), text);
    break;
  }
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
    const double x = area.left() + hair_ * area.width();
    p.setPen(QPen(t.ink, 1, Qt::DotLine));
    p.drawLine(QPointF(x, 0), QPointF(x, height()));
  }
  if (hasFocus()) {
    p.setPen(QPen(t.ink, 2));
    p.drawRect(rect().adjusted(1, 1, -1, -1));
  }
}

}  // namespace app
