#include "app/edit/waves.h"

#include <QHelpEvent>
#include <QKeyEvent>
#include <QMouseEvent>
#include <QToolTip>
#include <algorithm>
#include <cmath>

#include "app/look/look.h"
#include "audit/census.h"
#include "audit/plumb.h"
#include "recipe/validate.h"

namespace app {
namespace {

constexpr double kFine = 0.1;

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
  if (at == hair_) return;
  // Only what lies about the old one and the new one is painted again.
  const auto touch = [this] {
    if (hair_ >= 0) update(QRect(static_cast<int>(std::floor(hairAt())) - 1, 0, 4, height()));
  };
  touch();
  hair_ = at;
  touch();
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
  document_.engine().executor().submit(acre::Priority::CoarseMap, stop_.get_token(),
      [courier = courier_, next = std::move(next), request = ++request_, stop = stop_.get_token()] {
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
  if (drag_.moving && drag_.handle == Handle::Amplitude && layer == indexOf(chosen_))
    return drag_.scale;
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

bool WavesView::onBracketEnd(int layer, QPointF position) const {
  const QRectF bracket = bracketRect(layer);
  return !bracket.isEmpty() && bracket.adjusted(-8, -4, 8, 6).contains(position) &&
         std::abs(position.x() - bracket.right()) < 12;
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

void WavesView::change(
    const QString& name, const std::function<void(acre::Layer&)>& edit, const QString& key) {
  acre::Recipe next = document_.recipe();
  acre::FieldRecipe* f = acre::fieldOf(next, fieldId_);
  if (!f) return;
  for (acre::Layer& layer : f->layers)
    if (layer.id == chosen_) edit(layer);
  document_.change(name, next, key);
}

void WavesView::switchChosen() {
  const acre::Layer* layer = layerAt(indexOf(chosen_));
  if (!layer) return;
  change(layer->on ? tr("Switch layer off") : tr("Switch layer on"),
      [](acre::Layer& l) { l.on = !l.on; }, {});
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
    // Whatever curve or table lies before it, what a layer brings grows with its amplitude: the
    // point that is held follows the hand.
    const double per =
        drag_.held > 0 && drag_.before.amplitude != 0 ? drag_.before.amplitude / drag_.held : 1;
    const auto unitOf = [&](double factor) {
      return std::pow(10, std::floor(std::log10(std::max(drag_.perPixel * rate * factor, 1e-9))));
    };
    const double unit = unitOf(1), least = unitOf(std::abs(per));
    double amplitude = drag_.before.amplitude + change * per;
    amplitude = std::clamp(std::round(amplitude / least) * least, acre::limits::amplitude.low,
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
        switchChosen();
      else
        emit aloneRequested(
            QString::fromStdString(alone_ == layer->id ? std::string() : layer->id));
    }
    return;
  }
  drag_ = {};
  drag_.pressed = true;
  drag_.before = *layer;
  const bool onBracket = onBracketEnd(lane, e->position());
  drag_.handle = onBracket ? Handle::Width : Handle::Amplitude;
  handle_ = drag_.handle;
  drag_.at = e->position();
  if (onBracket) {
    drag_.perPixel = waves_.cells / std::max(1.0, waveArea(lane).width());
    drag_.moving = true;
  } else {
    drag_.scale = scaleOf(lane);
    drag_.perPixel =
        (drag_.scale.second - drag_.scale.first) / std::max(1.0, waveArea(lane).height());
  }
  if (lane >= static_cast<int>(waves_.layers.size())) return;
  drag_.ghost = waves_.layers[static_cast<size_t>(lane)].values;
  if (drag_.ghost.empty()) return;
  // A point near the offset would fling the wave: then it is the crest that follows.
  const auto column = static_cast<size_t>(std::clamp(
      e->position().x() - waveArea(lane).left(), 0.0, static_cast<double>(drag_.ghost.size() - 1)));
  double crest = 0;
  for (const float v : drag_.ghost)
    crest = std::max(crest, std::abs(static_cast<double>(v) - layer->offset));
  const double here = static_cast<double>(drag_.ghost[column]) - layer->offset;
  drag_.held = here > 0.3 * crest ? here : crest;
}

void WavesView::mouseMoveEvent(QMouseEvent* e) {
  const QRectF area = waveArea(0);
  const double t = (e->position().x() - area.left()) / std::max(1.0, area.width());
  emit hovered(t >= 0 && t <= 1 ? t : -1);
  if (!drag_.pressed) {
    const int lane = laneAt(e->position());
    setCursor(onBracketEnd(lane, e->position())          ? Qt::SizeHorCursor
              : lane >= 0 && e->position().x() > kGutter ? Qt::SizeVerCursor
                                                         : Qt::ArrowCursor);
    return;
  }
  if (!drag_.moving && std::abs(e->position().y() - drag_.at.y()) < look::kDragThreshold) return;
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
      return switchChosen();
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

}  // namespace app

#include "moc_waves.cpp"
