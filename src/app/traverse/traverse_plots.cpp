#include "app/traverse/traverse_plots.h"

#include <QVBoxLayout>
#include <algorithm>

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

}  // namespace

TraversePlots::TraversePlots(QWidget* parent) : QWidget(parent) {
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(2);
  for (const auto& [title, name] :
      {std::pair(tr("Missing chunks"), "missing"), std::pair(tr("Chunks on their way"), "waiting"),
          std::pair(tr("Chunks loaded"), "loaded"),
          std::pair(tr("Chunks released so far"), "released"),
          std::pair(tr("Memory, MiB"), "memory")}) {
    auto* plot = new Plot(
        title, QStringLiteral("traverse.plot.") + QLatin1String(name), Plot::Axes::Labelled);
    plot->setToolTip(tr("A click puts the map at that moment of the route."));
    plots_.push_back(plot);
    column->addWidget(plot);
    connect(plot, &Plot::hovered, this, [this](double seconds) {
      setHair(seconds);
      emit hovered(seconds);
    });
    connect(plot, &Plot::picked, this, &TraversePlots::clicked);
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
  const int places = seconds >= 8 ? 0 : seconds >= 1 ? 1 : 2;
  const auto time = [places](double at) { return tr("%1 s").arg(at, 0, 'f', places); };
  for (size_t i = 0; i < plots_.size(); ++i)
    plots_[i]->setLines(std::move(lines[i]), std::max(seconds, 1e-3), time, look::figure);
}

void TraversePlots::setHair(double seconds) {
  for (Plot* plot : plots_) plot->setHair(seconds);
}

}  // namespace app

#include "moc_traverse_plots.cpp"
