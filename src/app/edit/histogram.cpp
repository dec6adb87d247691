#include "app/edit/histogram.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <algorithm>
#include <cmath>

#include "app/edit/arithmetic.h"
#include "app/look/look.h"
#include "audit/census.h"
#include "recipe/validate.h"
#include "strata/bands.h"

namespace app {
namespace {

constexpr int kLeft = 10;
constexpr int kRight = 10;
constexpr int kFlag = 18;  ///< Flag of the chosen stake, in words.
constexpr int kAxis = 16;  ///< Value axis above, share axis below.
constexpr int kStrip = 8;  ///< Bands in their colours.

}  // namespace

Histogram::Histogram(Document& document, QWidget* parent) : QWidget(parent), document_(document) {
  setObjectName(QStringLiteral("histogram"));
  setFocusPolicy(Qt::StrongFocus);
  setMouseTracking(true);
  setFixedHeight(Histogram::sizeHint().height());
  setAccessibleName(tr("Histogram with thresholds"));
  setToolTip(
      tr("How the world is spread over its values, and the thresholds in it.\n"
         "Drag a stake; V or S: it holds its value or its share; double click or Enter types it\n"
         "(0.35 or 40 %); Insert splits the band below, Del removes the stake."));
}

void Histogram::setDistribution(
    std::shared_ptr<const acre::Distribution> distribution, const QString& of) {
  distribution_ = std::move(distribution);
  bins_ =
      distribution_ ? distribution_->histogram(acre::FieldFigures::kBins) : std::vector<uint32_t>();
  of_ = of;
  refresh();
}

void Histogram::setStakesShown(bool shown) {
  stakesShown_ = shown;
  refresh();
}

void Histogram::setHair(std::optional<double> value) {
  hair_ = value;
  update();
}

void Histogram::refresh() {
  if (ahead_ && !document_.current()) return update();
  ahead_ = false;
  stakes_.clear();
  const acre::World& world = *document_.world();
  const acre::Recipe& recipe = planOf(world).recipe();
  if (stakesShown_) {
    stakes_.push_back({-1, "sea", planOf(world).seaLevel(), recipe.frame.seaShare.has_value(), {}});
    const auto& ends = planOf(world).bands().ends();
    for (size_t b = 0; b < ends.size() && b < recipe.bands.size(); ++b)
      stakes_.push_back({static_cast<int>(b), recipe.bands[b].id, static_cast<double>(ends[b]),
          recipe.bands[b].below && recipe.bands[b].below->share.has_value(), {}});
    for (Stake& stake : stakes_) stake.words = wordsOf(stake);
  }
  chosen_ = std::clamp(chosen_, 0, std::max(0, static_cast<int>(stakes_.size()) - 1));
  setAccessibleDescription(
      stakes_.empty() ? QString() : stakes_[static_cast<size_t>(chosen_)].words);
  update();
}

QString Histogram::wordsOf(const Stake& stake) const {
  const acre::Recipe& recipe = ahead_ ? document_.recipe() : planOf(*document_.world()).recipe();
  QString text;
  if (stake.band < 0) {
    text = tr("sea level %1").arg(look::figure(stake.value));
  } else {
    const acre::Band& band = recipe.bands[static_cast<size_t>(stake.band)];
    QString name = QString::fromStdString(band.material);
    for (const acre::Material& m : recipe.materials)
      if (m.id == band.material) name = QString::fromStdString(m.name);
    const QString at = band.below->fromSea && !band.below->share
                           ? QString::fromStdString(acre::thresholdText(*band.below))
                           : look::figure(stake.value);
    text = tr("below %1 = %2").arg(at, name);
  }
  if (!distribution_) return text;
  const auto end = static_cast<float>(stake.value);
  float from = -HUGE_VALF;
  for (const Stake& below : stakes_)
    if (stake.band > 0 && below.band == stake.band - 1) from = static_cast<float>(below.value);
  text += QStringLiteral(" · ") + look::percent(distribution_->shareBetween(from, end));
  if (end <= distribution_->lowest() || end > distribution_->highest())
    text += tr(" · outside what is reached (%1 … %2)")
                .arg(look::figure(distribution_->lowest()), look::figure(distribution_->highest()));
  return text + (stake.heldShare ? tr(" · holds its share") : tr(" · holds its value"));
}

// ---- places ------------------------------------------------------------------------------------

QRectF Histogram::plot() const {
  return {kLeft, kFlag + kAxis, static_cast<double>(width() - kLeft - kRight),
      static_cast<double>(height() - kFlag - 2 * kAxis - kStrip - 4)};
}

QRectF Histogram::strip() const {
  const QRectF r = plot();
  return {r.left(), r.bottom() + 2, r.width(), kStrip};
}

double Histogram::xOf(double value) const {
  const QRectF r = plot();
  if (!distribution_) return r.left();
  const double low = static_cast<double>(distribution_->lowest());
  const double high = static_cast<double>(distribution_->highest());
  if (high <= low) return r.center().x();
  return std::clamp(
      r.left() + (value - low) / (high - low) * r.width(), r.left() - 6, r.right() + 6);
}

double Histogram::valueAt(double x) const {
  if (!distribution_) return 0;
  const QRectF r = plot();
  const double t = std::clamp((x - r.left()) / r.width(), 0.0, 1.0);
  const double low = static_cast<double>(distribution_->lowest());
  return low + t * (static_cast<double>(distribution_->highest()) - low);
}

double Histogram::binWidth() const {
  if (!distribution_) return 1;
  return std::max(1e-6, (static_cast<double>(distribution_->highest()) -
                            static_cast<double>(distribution_->lowest())) /
                            acre::FieldFigures::kBins);
}

int Histogram::stakeAt(QPointF position) const {
  int best = -1;
  double nearest = 9;
  for (size_t i = 0; i < stakes_.size(); ++i) {
    // The chosen one wins where several stand together.
    const double away =
        std::abs(xOf(stakes_[i].value) - position.x()) - (static_cast<int>(i) == chosen_ ? 2 : 0);
    if (away < nearest) {
      nearest = away;
      best = static_cast<int>(i);
    }
  }
  return best;
}

void Histogram::choose(int stake) {
  chosen_ = stake;
  refresh();
}

// ---- changing ----------------------------------------------------------------------------------

/// Whether a stake is still one of the recipe that is edited: the world it was read from may be
/// older.
bool Histogram::stands(const Stake& stake) const {
  if (stake.band < 0) return true;
  const auto& bands = document_.recipe().bands;
  const auto at = static_cast<size_t>(stake.band);
  return at < bands.size() && bands[at].id == stake.id && bands[at].below;
}

void Histogram::moveStake(int index, double value, const QString& mergeKey) {
  if (index < 0 || index >= static_cast<int>(stakes_.size())) return;
  const Stake stake = stakes_[static_cast<size_t>(index)];
  acre::Recipe next = document_.recipe();
  const double sea = stakes_.front().value;
  value =
      std::clamp(tidy(value, binWidth()), acre::limits::altitude.low, acre::limits::altitude.high);
  std::vector<size_t> moved = {static_cast<size_t>(index)};
  if (stake.band < 0) {
    if (next.frame.seaShare && distribution_)
      next.frame.seaShare = distribution_->shareBelow(static_cast<float>(value));
    next.frame.seaLevel = value;
  } else {
    moved.clear();
    for (size_t k = 1; k < stakes_.size(); ++k) {
      const Stake& other = stakes_[k];
      const bool pushed = (other.band < stake.band && other.value > value) ||
                          (other.band > stake.band && other.value < value);
      if (other.band != stake.band && !pushed) continue;
      if (!stands(other)) return;
      acre::Threshold& below = *next.bands[static_cast<size_t>(other.band)].below;
      if (below.share && distribution_)
        below.share = distribution_->shareBelow(static_cast<float>(value));
      below.value = below.fromSea ? tidy(value - sea, binWidth()) : value;
      moved.push_back(k);
    }
  }
  if (!document_.change(stake.band < 0 ? tr("Sea level") : tr("Threshold"), next, mergeKey)) return;
  // The world of the new recipe follows; the stakes need not wait for it.
  for (const size_t k : moved) stakes_[k].value = value;
  if (stake.band < 0)
    for (Stake& other : stakes_)
      if (other.band >= 0 && stands(other) &&
          next.bands[static_cast<size_t>(other.band)].below->fromSea && !other.heldShare)
        other.value += value - sea;
  keepAhead();
}

void Histogram::setShare(int index, double share) {
  if (index < 0 || index >= static_cast<int>(stakes_.size()) || !distribution_) return;
  const Stake stake = stakes_[static_cast<size_t>(index)];
  if (!stands(stake)) return;
  acre::Recipe next = document_.recipe();
  const double value = static_cast<double>(distribution_->valueAt(share));
  if (!stake.heldShare) return moveStake(index, value);
  if (stake.band < 0) {
    next.frame.seaShare = share;
    next.frame.seaLevel = tidy(value, binWidth());
  } else {
    next.bands[static_cast<size_t>(stake.band)].below->share = share;
  }
  document_.change(tr("Share below a threshold"), next);
}

void Histogram::hold(int index, bool share) {
  if (index < 0 || index >= static_cast<int>(stakes_.size()) || !distribution_) return;
  const Stake stake = stakes_[static_cast<size_t>(index)];
  if (!stands(stake)) return;
  acre::Recipe next = document_.recipe();
  const double below = distribution_->shareBelow(static_cast<float>(stake.value));
  if (stake.band < 0) {
    next.frame.seaLevel = tidy(stake.value, binWidth() / 100);
    next.frame.seaShare = share ? std::optional(below) : std::nullopt;
  } else {
    acre::Threshold& t = *next.bands[static_cast<size_t>(stake.band)].below;
    const double sea = stakes_.front().value;
    if (t.share && !share)
      t.value = tidy(t.fromSea ? stake.value - sea : stake.value, binWidth() / 100);
    t.share = share ? std::optional(below) : std::nullopt;
  }
  if (!document_.change(share ? tr("Hold the share") : tr("Hold the value"), next)) return;
  stakes_[static_cast<size_t>(index)].heldShare = share;
  keepAhead();
}

void Histogram::keepAhead() {
  ahead_ = !document_.current();
  if (!ahead_) return refresh();
  for (Stake& stake : stakes_)
    if (stands(stake)) stake.words = wordsOf(stake);
  setAccessibleDescription(stakes_[static_cast<size_t>(chosen_)].words);
  update();
}

void Histogram::splitBand() {
  if (stakes_.empty()) return;
  const Stake stake = stakes_[static_cast<size_t>(chosen_)];
  if (stake.band < 0 || !distribution_) return;
  if (!stands(stake)) return;
  const double low = stake.band > 0 ? stakes_[static_cast<size_t>(chosen_) - 1].value
                                    : static_cast<double>(distribution_->lowest());
  acre::Recipe next = document_.recipe();
  acre::Band band = next.bands[static_cast<size_t>(stake.band)];
  std::vector<std::string> ids;
  for (const acre::Band& b : next.bands) ids.push_back(b.id);
  band.id = acre::freshId("band", ids);
  band.below = acre::Threshold{tidy((low + stake.value) / 2, binWidth()), false, {}};
  next.bands.insert(next.bands.begin() + stake.band, band);
  if (!document_.change(tr("Split band"), next)) return;
  for (size_t k = static_cast<size_t>(chosen_); k < stakes_.size(); ++k) ++stakes_[k].band;
  stakes_.insert(
      stakes_.begin() + chosen_, {stake.band, band.id, band.below->value, false, QString()});
  keepAhead();
}

void Histogram::removeStake() {
  if (stakes_.empty()) return;
  const int band = stakes_[static_cast<size_t>(chosen_)].band;
  if (band < 0)
    return emit refused(tr("The sea level cannot be removed; bands may leave it unused."));
  if (!stands(stakes_[static_cast<size_t>(chosen_)])) return;
  acre::Recipe next = document_.recipe();
  next.bands.erase(next.bands.begin() + band);
  if (!next.bands.empty()) next.bands.back().below.reset();
  if (!document_.change(tr("Delete band"), next)) return;
  stakes_.erase(stakes_.begin() + chosen_);
  for (size_t k = static_cast<size_t>(chosen_); k < stakes_.size(); ++k) --stakes_[k].band;
  chosen_ = std::min(chosen_, static_cast<int>(stakes_.size()) - 1);
  keepAhead();
}

void Histogram::mousePressEvent(QMouseEvent* e) {
  if (e->button() != Qt::LeftButton) return;
  const int stake = stakeAt(e->position());
  if (stake < 0) return;
  choose(stake);
  dragged_ = stake;
}

void Histogram::mouseMoveEvent(QMouseEvent* e) {
  const bool inside = plot().contains(QPointF(e->position().x(), plot().center().y()));
  emit hoveredValue(inside, valueAt(e->position().x()));
  if (dragged_ < 0) {
    setCursor(stakeAt(e->position()) >= 0 ? Qt::SizeHorCursor : Qt::ArrowCursor);
    return;
  }
  moveStake(dragged_, valueAt(e->position().x()), QStringLiteral("stake.drag"));
}

void Histogram::mouseReleaseEvent(QMouseEvent*) {
  if (dragged_ >= 0) document_.endGesture();
  dragged_ = -1;
}

void Histogram::mouseDoubleClickEvent(QMouseEvent* e) {
  dragged_ = -1;
  if (const int stake = stakeAt(e->position()); stake >= 0) emit typeRequested(stake, {});
}

void Histogram::leaveEvent(QEvent*) {
  emit hoveredValue(false, 0);
}

bool Histogram::focusNextPrevChild(bool next) {
  // Tab goes through the stakes and on to the next control after the last.
  const int to = chosen_ + (next ? 1 : -1);
  if (!hasFocus() || to < 0 || to >= static_cast<int>(stakes_.size()))
    return QWidget::focusNextPrevChild(next);
  choose(to);
  return true;
}

void Histogram::keyPressEvent(QKeyEvent* e) {
  if (stakes_.empty()) return QWidget::keyPressEvent(e);
  const double by = binWidth() * (e->modifiers() & Qt::ShiftModifier        ? 10
                                     : e->modifiers() & Qt::ControlModifier ? 0.1
                                                                            : 1);
  const double value = stakes_[static_cast<size_t>(chosen_)].value;
  switch (e->key()) {
    case Qt::Key_Left:
      return moveStake(chosen_, value - by, QStringLiteral("stake.key"));
    case Qt::Key_Right:
      return moveStake(chosen_, value + by, QStringLiteral("stake.key"));
    case Qt::Key_V:
      return hold(chosen_, false);
    case Qt::Key_S:
      return hold(chosen_, true);
    case Qt::Key_Insert:
      return splitBand();
    case Qt::Key_Delete:
      return removeStake();
    case Qt::Key_Return:
    case Qt::Key_Enter:
      return emit typeRequested(chosen_, {});
    default:
      // A number goes straight to the stake.
      if (const QString text = e->text();
          !text.isEmpty() && (text[0].isDigit() || QStringLiteral("-−.,").contains(text[0])))
        return emit typeRequested(chosen_, text);
      QWidget::keyPressEvent(e);
  }
}

// ---- painting ----------------------------------------------------------------------------------

void Histogram::paintEvent(QPaintEvent*) {
  QPainter p(this);
  const look::Tokens& t = look::tokens();
  const QRectF r = plot();
  p.fillRect(QRectF(r.left(), r.top() - 2, r.width(), r.height() + 2), t.sheet);
  p.setFont(look::font(look::Type::Caption));
  if (!distribution_ || bins_.empty()) {
    p.setPen(t.soft);
    p.drawText(r, Qt::AlignCenter, tr("measuring…"));
    return;
  }
  const uint32_t most = *std::max_element(bins_.begin(), bins_.end());
  const double wide = r.width() / static_cast<double>(bins_.size());
  p.setPen(Qt::NoPen);
  p.setBrush(t.edge);
  for (size_t i = 0; i < bins_.size(); ++i) {
    const double tall = bins_[i] / std::max(1.0, double{most * 1.0}) * r.height();
    p.drawRect(QRectF(r.left() + static_cast<double>(i) * wide, r.bottom() - tall,
        std::max(1.0, wide - 0.5), tall));
  }
  paintValues(p);
  if (stakesShown_) paintBands(p);
  paintShares(p);
  paintStakes(p);
  if (hair_) {
    const double x = xOf(*hair_);
    p.setPen(QPen(t.ink, 1, Qt::DotLine));
    p.drawLine(QPointF(x, r.top() - 4), QPointF(x, strip().bottom()));
  }
  if (hasFocus()) {
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(t.ink, 2));
    p.drawRect(rect().adjusted(1, 1, -1, -1));
  }
}

/// Values above.
void Histogram::paintValues(QPainter& p) const {
  const look::Tokens& t = look::tokens();
  const QRectF r = plot();
  const double low = static_cast<double>(distribution_->lowest());
  const double high = static_cast<double>(distribution_->highest());
  p.setPen(t.soft);
  if (high <= low) {
    p.drawText(QRectF(r.left(), r.top() - kAxis, r.width(), kAxis), Qt::AlignCenter,
        tr("always %1").arg(look::figure(low)));
  } else {
    for (int i = 0; i <= 4; ++i) {
      const double v = low + (high - low) * i / 4;
      const double x = r.left() + r.width() * i / 4;
      p.drawLine(QPointF(x, r.top() - 3), QPointF(x, r.top()));
      p.drawText(QRectF(i == 0   ? x
                        : i == 4 ? x - 80
                                 : x - 40,
                     r.top() - kAxis, 80, kAxis - 3),
          i == 0   ? Qt::AlignVCenter | Qt::AlignLeft
          : i == 4 ? Qt::AlignVCenter | Qt::AlignRight
                   : Qt::AlignCenter,
          look::figure(v));
    }
  }
}

/// Bands between their stakes.
void Histogram::paintBands(QPainter& p) const {
  const look::Tokens& t = look::tokens();
  const QRectF r = plot();
  const QRectF strip = this->strip();
  const acre::World& world = *document_.world();
  const auto& recipe = planOf(world).recipe();
  double from = r.left();
  for (size_t b = 0; b < recipe.bands.size() && recipe.strataOn; ++b) {
    const auto& ends = planOf(world).bands().ends();
    const double to = b < ends.size()
                          ? std::clamp(xOf(static_cast<double>(ends[b])), r.left(), r.right())
                          : r.right();
    QBrush brush(look::hatch());
    for (const acre::Material& m : recipe.materials)
      if (m.id == recipe.bands[b].material)
        brush = QColor(m.colour.red, m.colour.green, m.colour.blue);
    p.fillRect(QRectF(from, strip.top(), to - from, strip.height()), brush);
    const acre::Edge& edge = recipe.bands[b].edge;
    if (edge.kind != acre::Edge::Kind::Hard && b < ends.size()) {
      // The foot of a soft edge.
      const double half = edge.width / 2;
      const double a = xOf(static_cast<double>(ends[b]) - half);
      const double c = xOf(static_cast<double>(ends[b]) + half);
      p.fillRect(QRectF(a, strip.bottom() - 3, c - a, 3), QBrush(t.ink, Qt::Dense5Pattern));
    }
    from = to;
  }
  if (recipe.bands.empty() || !recipe.strataOn) p.fillRect(strip, QBrush(look::hatch()));
  p.setBrush(Qt::NoBrush);
  p.setPen(t.edge);
  p.drawRect(strip);
}

/// Where 0, 25, 50, 75 and 100 % lie, below.
void Histogram::paintShares(QPainter& p) const {
  const look::Tokens& t = look::tokens();
  const QRectF r = plot();
  const QRectF strip = this->strip();
  p.setPen(t.soft);
  double last = -100;
  for (const double share : {0.0, 0.25, 0.5, 0.75, 1.0}) {
    const double x =
        std::clamp(xOf(static_cast<double>(distribution_->valueAt(share))), r.left(), r.right());
    const QString text = QString::number(share * 100) + QStringLiteral(" %");
    const double w = p.fontMetrics().horizontalAdvance(text) + 4;
    const double at = std::clamp(x - w / 2, r.left(), r.right() - w);
    p.drawLine(QPointF(x, strip.bottom() + 1), QPointF(x, strip.bottom() + 4));
    if (at < last + w) continue;
    last = at;
    p.drawText(QRectF(at, strip.bottom() + 3, w, kAxis - 3), Qt::AlignCenter, text);
  }
}

/// The chosen one last.
void Histogram::paintStakes(QPainter& p) const {
  const look::Tokens& t = look::tokens();
  const QRectF r = plot();
  const QRectF strip = this->strip();
  p.setRenderHint(QPainter::Antialiasing, false);
  const auto drawStake = [&](size_t i, bool chosen) {
    const Stake& stake = stakes_[i];
    const double x = xOf(stake.value);
    const double top = r.top() - (chosen ? kAxis : 4);
    p.setPen(QPen(t.sheet, 4));
    p.drawLine(QPointF(x, top), QPointF(x, strip.bottom()));
    p.setPen(QPen(stake.band < 0 ? t.verdigris : t.ink, chosen ? 2.5 : 1.5));
    p.drawLine(QPointF(x, top), QPointF(x, strip.bottom()));
    if (stake.heldShare) p.drawLine(QPointF(x - 4, strip.bottom()), QPointF(x + 4, strip.bottom()));
  };
  for (size_t i = 0; i < stakes_.size(); ++i)
    if (static_cast<int>(i) != chosen_) drawStake(i, false);
  if (!stakes_.empty()) {
    drawStake(static_cast<size_t>(chosen_), true);
    const Stake& stake = stakes_[static_cast<size_t>(chosen_)];
    p.setPen(t.ink);
    p.setFont(look::font(look::Type::Caption));
    p.drawText(QRectF(kLeft, 0, width() - kLeft - kRight, kFlag), Qt::AlignVCenter | Qt::AlignLeft,
        p.fontMetrics().elidedText(stake.words, Qt::ElideRight, width() - kLeft - kRight));
  }
}

}  // namespace app

#include "moc_histogram.cpp"
