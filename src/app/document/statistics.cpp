#include "app/document/statistics.h"

#include "app/look/look.h"
#include "climate/biomes.h"

namespace app {
namespace {
constexpr int kPauseMillis = 80;
}  // namespace

namespace {

std::shared_ptr<const ChartFigures> chartFigures(
    const acre::World& world, const std::stop_token& stop) {
  auto sample = acre::chartSample(world, stop);
  if (!sample) return nullptr;
  auto out = std::make_shared<ChartFigures>();
  if (const acre::BiomeStage* stage = planOf(world).biomes()) {
    const acre::Chart& chart = stage->chart();
    const auto slices = static_cast<size_t>(chart.slices());
    std::vector<uint64_t> counts(slices);
    std::vector<double> sums(slices);
    std::vector<uint16_t> slice(sample->size());
    chart.slicesOf(planOf(world).kernels(), static_cast<int>(sample->size()),
        sample->altitude.data(), slice.data());
    for (size_t i = 0; i < slice.size(); ++i) {
      ++counts[slice[i]];
      sums[slice[i]] += static_cast<double>(sample->altitude[i]);
    }
    const auto& ends = chart.sliceEnds();
    for (size_t s = 0; s < slices && !stop.stop_requested(); ++s) {
      out->densities.push_back(
          acre::densityOf(*sample, chart, static_cast<int>(s), ChartFigures::kDensitySide));
      // A slice that the world never reaches is shown as it is at its end.
      const float end = ends.empty() ? 0.0f : s == 0 ? ends[0] - 1 : ends[s - 1];
      out->altitudes.push_back(
          counts[s] ? static_cast<float>(sums[s] / static_cast<double>(counts[s])) : end);
      out->shares.push_back(static_cast<double>(counts[s]) / static_cast<double>(sample->size()));
    }
  }
  if (planOf(world).biomes()) out->perCell = acre::chartPerCell(world, *sample);
  out->sample = std::make_shared<const acre::ChartSample>(std::move(*sample));
  return out;
}

}  // namespace

Statistics::Statistics(Document& document, QObject* parent)
    : QObject(parent), document_(document), courier_(std::make_shared<Courier<Statistics>>(this)) {
  pause_.setSingleShot(true);
  pause_.setInterval(kPauseMillis);
  connect(&pause_, &QTimer::timeout, this, &Statistics::measure);
  connect(&document, &Document::worldChanged, this, &Statistics::worldChanged);
  worldChanged();
}

Statistics::~Statistics() {
  courier_->close();
  stop_.request_stop();
}

void Statistics::worldChanged() {
  stop_.request_stop();
  stop_ = {};
  pause_.start();
}

void Statistics::measure() {
  document_.engine().executor().submit(acre::Priority::Statistics, stop_.get_token(),
      [courier = courier_, world = document_.world(), &engine = document_.engine(),
          stop = stop_.get_token()] {
        const std::vector<const acre::FieldRecipe*> fields =
            acre::fieldsOf(planOf(*world).recipe());
        // What histograms wait for comes first, the rest as it is ready.
        std::map<std::string, std::shared_ptr<const acre::Distribution>> distributions;
        for (const auto* field : fields)
          if (auto d = engine.distribution(*world, *planOf(*world).field(field->id), stop))
            distributions[field->id] = d;
        if (stop.stop_requested()) return;
        courier->deliver([distributions](Statistics& self) {
          self.distributions_ = distributions;
          emit self.changed();
        });
        auto chart = chartFigures(*world, stop);
        if (stop.stop_requested()) return;
        courier->deliver([chart](Statistics& self) {
          self.chart_ = chart;
          emit self.changed();
        });
        std::map<Key, acre::FieldFigures> figures;
        for (const auto* field : fields) {
          if (const auto whole = acre::figuresOf(engine, *world, *field, stop))
            figures[{field->id, {}}] = *whole;
          for (const acre::Layer& layer : field->layers)
            if (const auto one = acre::layerFigures(*world, *field, layer.id, stop))
              figures[{field->id, layer.id}] = *one;
        }
        auto checks = acre::runChecks(engine, *world, stop);
        auto census = acre::censusOfSample(*world, stop);
        if (!checks || !census || stop.stop_requested()) return;
        std::optional<acre::BlockCensus> blocks;
        if (planOf(*world).blocks()) {
          const acre::Rect over =
              acre::intersection(acre::sampleVolume(*world), planOf(*world).bounds());
          if (auto counted = acre::censusOfBlocks(*world, over, 8, stop)) blocks = *counted;
          if (stop.stop_requested()) return;
        }
        courier->deliver([world, figures, checks = std::move(*checks), census,
                             blocks = std::move(blocks)](Statistics& self) {
          if (world != self.document_.world()) return;
          self.figures_ = figures;
          self.checks_ = checks;
          self.census_ = census;
          self.blocks_ = blocks;
          self.measured_ = world;
          emit self.changed();
        });
      });
}

std::shared_ptr<const acre::Distribution> Statistics::distribution(
    const std::string& fieldId) const {
  const auto found = distributions_.find(fieldId);
  return found == distributions_.end() ? nullptr : found->second;
}

const acre::FieldFigures* Statistics::figures(
    const std::string& fieldId, const std::string& layerId) const {
  const auto found = figures_.find({fieldId, layerId});
  return found == figures_.end() ? nullptr : &found->second;
}

QString Statistics::scope() const {
  const acre::Frame& frame = document_.recipe().frame;
  const auto heights = distribution();
  if (heights && heights->exact())
    return tr("of all %1 cells").arg(look::wholeNumber(static_cast<qint64>(heights->size())));
  // 19 thresholds on 40 seeds: never more than half a point off.
  return frame.x && frame.z ? tr("of the world, ± 0.5 points, from 65,536 cells")
                            : tr("of the endless world, ± 0.5 points, from 65,536 cells");
}

}  // namespace app

#include "moc_statistics.cpp"
