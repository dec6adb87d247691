#include "app/traverse/traverse_plots.h"

#include <QEvent>
#include <QGraphicsLayout>
#include <QLineSeries>
#include <QMouseEvent>
#include <QVBoxLayout>
#include <QValueAxis>
#include <cmath>

#include "app/look/look.h"

namespace app {
namespace {

constexpr int kBuckets = 320;

/// The largest value of each of some hundred stretches of time: nothing short is lost.
template <class Of>
std::vector<QPointF> thinned(const acre::TraverseReport& report, Of&& of) {
  std::vector<QPointF> line;
  const size_t count = report.frames.size();
  const size_t each = std::max<size_t>(1, count / kBuckets);
  for (size_t i = 0; i < count; i += each) {
    double most = 0;
    for (size_t k = i; k < std::min(count, i + each); ++k)
      most = std::max(most, of(report.frames[k]));
    line.emplace_back(report.frames[i].seconds, most);
  }
  return line;
}

/// A round number not below `value`, for the end of an axis.
double roundUp(double value) {
  if (value <= 0) return 1;
  const double unit = std::pow(10, std::floor(std::log10(value)));
  for (const double k : {1.0, 2.0, 5.0, 10.0})
    if (value <= k * unit) return k * unit;
  return value;
}

}  // namespace

TraversePlot::TraversePlot(const QString& title, const QString& name, QWidget* parent)
    : QChartView(new QChart, parent) {
  setObjectName(name);
  setAccessibleName(title);
  setFixedHeight(112);
  setFrameShape(QFrame::NoFrame);
  setMouseTracking(true);
  setRenderHint(QPainter::Antialiasing);
  setToolTip(tr("A click puts the map at that moment of the route."));
  chart()->setTitle(title);
  chart()->legend()->hide();
  chart()->setMargins({0, 0, 4, 0});
  chart()->layout()->setContentsMargins(0, 0, 0, 0);
  chart()->setBackgroundRoundness(0);
  refreshColours();
}

void TraversePlot::refreshColours() {
  const look::Tokens& t = look::tokens();
  chart()->setBackgroundBrush(t.sheet);
  chart()->setTitleBrush(t.ink);
  chart()->setTitleFont(look::font(look::Type::Caption));
  for (QAbstractAxis* axis : chart()->axes()) {
    axis->setLabelsFont(look::font(look::Type::Caption));
    axis->setLabelsColor(t.soft);
    axis->setLinePenColor(t.edge);
    axis->setGridLineColor(t.rule);
  }
  bool first = true;
  for (QAbstractSeries* series : chart()->series()) {
    QPen pen(first ? t.ink : t.soft, first ? 1.25 : 1.5);
    if (!first) pen.setStyle(Qt::DashLine);
    static_cast<QLineSeries*>(series)->setPen(pen);
    first = false;
  }
}

void TraversePlot::setLines(const std::vector<std::vector<QPointF>>& lines, double seconds) {
  chart()->removeAllSeries();
  for (QAbstractAxis* axis : chart()->axes()) {
    chart()->removeAxis(axis);
    delete axis;
  }
  seconds_ = seconds;
  double most = 0;
  for (const auto& line : lines)
    for (const QPointF& point : line) most = std::max(most, point.y());
  auto* time = new QValueAxis;
  time->setRange(0, std::max(seconds, 1e-3));
  time->setTickCount(5);
  time->setLabelFormat(seconds >= 8   ? QStringLiteral("%.0f s")
                       : seconds >= 1 ? QStringLiteral("%.1f s")
                                      : QStringLiteral("%.2f s"));
  auto* value = new QValueAxis;
  value->setRange(0, roundUp(most));
  value->setTickCount(3);
  value->setLabelFormat(roundUp(most) >= 10 ? QStringLiteral("%.0f") : QStringLiteral("%.2g"));
  chart()->addAxis(time, Qt::AlignBottom);
  chart()->addAxis(value, Qt::AlignLeft);
  for (const auto& line : lines) {
    auto* series = new QLineSeries;
    series->replace(QList<QPointF>(line.begin(), line.end()));
    chart()->addSeries(series);
    series->attachAxis(time);
    series->attachAxis(value);
  }
  setAccessibleDescription(tr("highest %1").arg(look::number(most)));
  refreshColours();
}

void TraversePlot::setHair(double seconds) {
  if (hair_ == seconds) return;
  hair_ = seconds;
  viewport()->update();
}

double TraversePlot::secondsAt(QPointF position) const {
  if (chart()->series().isEmpty()) return -1;
  const double at = chart()->mapToValue(chart()->mapFromScene(mapToScene(position.toPoint()))).x();
  return at < 0 || at > seconds_ ? -1 : at;
}

void TraversePlot::drawForeground(QPainter* painter, const QRectF&) {
  if (hair_ < 0 || chart()->series().isEmpty()) return;
  const QRectF area = chart()->plotArea();
  const double x = chart()->mapToPosition({hair_, 0}).x();
  painter->setPen(QPen(look::tokens().ink, 1, Qt::DotLine));
  painter->drawLine(QPointF(x, area.top()), QPointF(x, area.bottom()));
}

void TraversePlot::mouseMoveEvent(QMouseEvent* e) {
  emit hovered(secondsAt(e->position()));
}

void TraversePlot::mousePressEvent(QMouseEvent* e) {
  if (const double at = secondsAt(e->position()); at >= 0 && e->button() == Qt::LeftButton)
    emit clicked(at);
}

void TraversePlot::leaveEvent(QEvent* e) {
  QChartView::leaveEvent(e);
  emit hovered(-1);
}

// ---- all of them -------------------------------------------------------------------------------

TraversePlots::TraversePlots(QWidget* parent) : QWidget(parent) {
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(2);
  for (const auto& [title, name] :
      {std::pair(tr("Missing chunks"), "missing"), std::pair(tr("Chunks on their way"), "waiting"),
          std::pair(tr("Chunks loaded"), "loaded"),
          std::pair(tr("Chunks released so far"), "released"),
          std::pair(tr("Memory, MiB"), "memory")}) {
    auto* plot = new TraversePlot(title, QStringLiteral("traverse.plot.") + QLatin1String(name));
    plots_.push_back(plot);
    column->addWidget(plot);
    connect(plot, &TraversePlot::hovered, this, [this](double seconds) {
      setHair(seconds);
      emit hovered(seconds);
    });
    connect(plot, &TraversePlot::clicked, this, &TraversePlots::clicked);
  }
}

void TraversePlots::setColumns(const std::vector<acre::TraverseColumn>& columns) {
  double seconds = 0;
  std::vector<std::vector<QPointF>> lines[5];
  for (const acre::TraverseColumn& c : columns) {
    using Frame = const acre::TraverseFrame&;
    if (!c.report.frames.empty()) seconds = std::max(seconds, c.report.frames.back().seconds);
    lines[0].push_back(thinned(c.report, [](Frame f) { return double{1} * f.missing; }));
    lines[1].push_back(thinned(c.report, [](Frame f) { return double{1} * f.waiting; }));
    lines[2].push_back(thinned(c.report, [](Frame f) { return double{1} * f.loaded; }));
    lines[3].push_back(thinned(c.report, [](Frame f) { return static_cast<double>(f.released); }));
    lines[4].push_back(
        thinned(c.report, [](Frame f) { return static_cast<double>(f.bytes) / (1 << 20); }));
  }
  for (size_t i = 0; i < plots_.size(); ++i) plots_[i]->setLines(lines[i], seconds);
}

void TraversePlots::setHair(double seconds) {
  for (TraversePlot* plot : plots_) plot->setHair(seconds);
}

void TraversePlots::changeEvent(QEvent* e) {
  if (e->type() == QEvent::PaletteChange)
    for (TraversePlot* plot : plots_) plot->refreshColours();
  QWidget::changeEvent(e);
}

}  // namespace app
