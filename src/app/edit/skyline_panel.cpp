#include "app/edit/skyline_panel.h"

#include <QPainter>
#include <QPainterPath>
#include <algorithm>
#include <cmath>

#include "app/look/look.h"

namespace app {
namespace {

constexpr int kHeights = 92, kCurve = 40, kText = 36, kGap = 4, kLabel = 52;

std::vector<float> risesOf(const std::vector<float>& heights) {
  std::vector<float> out;
  for (size_t i = 1; i < heights.size(); ++i) out.push_back(heights[i] - heights[i - 1]);
  return out;
}

}  // namespace

SkylinePanel::SkylinePanel(
    Document& document, std::string field, std::string layer, QWidget* parent)
    : QWidget(parent),
      document_(document),
      field_(std::move(field)),
      layer_(std::move(layer)),
      courier_(std::make_shared<Courier<SkylinePanel>>(this)) {
  setObjectName(QStringLiteral("skyline"));
  setFixedHeight(kHeights + 2 * (kCurve + kGap) + kText + kGap);
  setAccessibleName(tr("Curves of the walk"));
  setToolTip(
      tr("The first 1,024 columns east of the origin, of this seed (ink) and the nine after it.\n"
         "Dashed: the limits. Below: the rise from column to column, and its change."));
  connect(&document_, &Document::recipeChanged, this, &SkylinePanel::measure);
  measure();
}

SkylinePanel::~SkylinePanel() {
  courier_->close();
  stop_.request_stop();
}

void SkylinePanel::measure() {
  stop_.request_stop();
  stop_ = {};
  document_.engine().executor().submit(acre::Priority::Statistics, stop_.get_token(),
      [courier = courier_, &engine = document_.engine(), recipe = document_.recipe(),
          field = field_, layer = layer_, stop = stop_.get_token()] {
        auto seeds = acre::skylineOverSeeds(engine, recipe, field, layer, kSeeds, 0, stop);
        if (stop.stop_requested()) return;
        courier->deliver([seeds = std::move(seeds), stop](SkylinePanel& self) {
          if (stop.stop_requested()) return;
          self.seeds_ = seeds;
          self.figures_.clear();
          if (!seeds.empty()) {
            double least = 1, most = 0, beyond = 0;
            for (const acre::SkylineFigures& s : seeds) {
              least = std::min(least, s.shareAt());
              most = std::max(most, s.shareAt());
              beyond = std::max(beyond, s.shareBeyond());
            }
            self.figures_ =
                tr("At the limits %1 % of %2 columns, beyond them %3 %.\nOver ten seeds %4 to %5 "
                   "%, beyond them at most %6 %.")
                    .arg(seeds.front().shareAt() * 100, 0, 'f', 1)
                    .arg(look::wholeNumber(static_cast<qint64>(seeds.front().columns)))
                    .arg(seeds.front().shareBeyond() * 100, 0, 'f', 1)
                    .arg(least * 100, 0, 'f', 1)
                    .arg(most * 100, 0, 'f', 1)
                    .arg(beyond * 100, 0, 'f', 1);
          }
          self.setAccessibleDescription(self.figures_);
          self.update();
        });
      });
}

void SkylinePanel::paintEvent(QPaintEvent*) {
  QPainter p(this);
  const look::Tokens& ink = look::tokens();
  p.setRenderHint(QPainter::Antialiasing);
  p.setFont(look::font(look::Type::Caption));
  const QRectF heights(kLabel, 0.5, width() - kLabel - 1, kHeights);
  const QRectF rises(kLabel, heights.bottom() + kGap, heights.width(), kCurve);
  const QRectF changes(kLabel, rises.bottom() + kGap, heights.width(), kCurve);
  const auto frame = [&](const QRectF& r, const QString& name) {
    p.setPen(QPen(ink.rule, 1));
    p.setBrush(ink.sheet);
    p.drawRect(r);
    p.setPen(ink.soft);
    p.drawText(QRectF(0, r.top(), kLabel - 6, r.height()), Qt::AlignRight | Qt::AlignVCenter, name);
  };
  frame(heights, tr("height"));
  frame(rises, tr("rise"));
  frame(changes, tr("change"));
  if (seeds_.empty()) return;

  const auto draw = [&](const std::vector<float>& values, const QRectF& r, double low, double high,
                        const QPen& pen) {
    if (values.size() < 2 || !(high > low)) return;
    QPainterPath path;
    for (size_t i = 0; i < values.size(); ++i) {
      const double x =
          r.left() + static_cast<double>(i) / static_cast<double>(values.size() - 1) * r.width();
      const double y =
          r.bottom() - (static_cast<double>(values[i]) - low) / (high - low) * r.height();
      i == 0 ? path.moveTo(x, y) : path.lineTo(x, y);
    }
    p.setPen(pen);
    p.setBrush(Qt::NoBrush);
    p.drawPath(path);
  };
  const acre::SkylineFigures& own = seeds_.front();
  double low = own.low, high = own.high;
  for (const acre::SkylineFigures& s : seeds_) {
    const auto [least, most] = std::minmax_element(s.heights.begin(), s.heights.end());
    low = std::min(low, static_cast<double>(*least));
    high = std::max(high, static_cast<double>(*most));
  }
  const double room = std::max(1e-6, (high - low) * 0.06);
  low -= room;
  high += room;
  p.save();
  p.setClipRect(heights);
  for (size_t i = seeds_.size(); i-- > 1;)
    draw(seeds_[i].heights, heights, low, high, QPen(ink.rule, 1));
  draw(own.heights, heights, low, high, QPen(ink.ink, 1.25));
  p.setPen(QPen(ink.ink, 1, Qt::DashLine));
  for (const double limit : {own.low, own.high}) {
    const double y = heights.bottom() - (limit - low) / (high - low) * heights.height();
    p.drawLine(QPointF(heights.left(), y), QPointF(heights.right(), y));
    const QString text = look::number(limit);
    const bool upper = limit == own.high;
    const QRectF box(heights.left() + 4, upper ? y : y - 15, 60, 15);
    p.fillRect(QRectF(box.left(), box.top() + 2, p.fontMetrics().horizontalAdvance(text) + 2, 11),
        ink.sheet);
    p.drawText(box, Qt::AlignLeft | Qt::AlignVCenter, text);
  }
  p.restore();
  const auto even = [&](const std::vector<float>& values, const QRectF& r) {
    double most = 1e-9;
    for (const float v : values) most = std::max(most, std::abs(static_cast<double>(v)));
    p.setPen(QPen(ink.rule, 1));
    p.drawLine(QPointF(r.left(), r.center().y()), QPointF(r.right(), r.center().y()));
    draw(values, r, -most * 1.1, most * 1.1, QPen(ink.ink, 1));
  };
  const std::vector<float> rise = risesOf(own.heights);
  even(rise, rises);
  even(risesOf(rise), changes);
  p.setPen(ink.ink);
  p.drawText(QRectF(0, changes.bottom() + kGap, width(), kText), Qt::AlignLeft | Qt::AlignVCenter,
      figures_);
}

}  // namespace app

#include "moc_skyline_panel.cpp"
