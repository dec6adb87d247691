/// Figures of the world, measured in the background whenever it changes: how its fields are spread,
/// what their layers are like, and the mistakes that the checks find.
#pragma once

#include <QObject>
#include <QTimer>
#include <map>
#include <memory>
#include <stop_token>

#include "app/document/courier.h"
#include "app/document/document.h"
#include "audit/block_census.h"
#include "audit/census.h"
#include "audit/chart_sample.h"
#include "audit/checks.h"

namespace app {

/// What the climate chart shows of the world.
struct ChartFigures {
  std::shared_ptr<const acre::ChartSample> sample;
  // Per slice of the chart; empty while the biomes are off.
  std::vector<acre::ChartDensity> densities;
  std::vector<float> altitudes;  ///< Mean base height within the slice.
  std::vector<double> shares;    ///< Of the world.
  double perCell = 0;            ///< See acre::chartPerCell().
  static constexpr int kDensitySide = 64;
};

class Statistics : public QObject {
  Q_OBJECT

 public:
  explicit Statistics(Document& document, QObject* parent = nullptr);
  ~Statistics() override;

  /// How the heights, or another field, are spread; of the world before while a new one is being
  /// measured; nullptr at first.
  std::shared_ptr<const acre::Distribution> distribution(
      const std::string& fieldId = acre::kHeightsId) const;
  /// Figures of a field, or of one of its layers; nullptr while unknown.
  const acre::FieldFigures* figures(
      const std::string& fieldId, const std::string& layerId = {}) const;
  /// Of the world before while a new one is being measured; nullptr without a chart.
  std::shared_ptr<const ChartFigures> chart() const { return chart_; }
  const std::vector<acre::Check>& checks() const { return checks_; }
  const std::optional<acre::AreaCensus>& census() const { return census_; }
  /// What a sample volume of a world of blocks holds; nothing while unknown, or of columns.
  const std::optional<acre::BlockCensus>& blocks() const { return blocks_; }
  /// Everything belongs to the present world.
  bool current() const {
    return document_.current() && document_.world() && measured_.lock() == document_.world();
  }

  /// "of the endless world" or "of all 10,000 cells".
  QString scope() const;

 signals:
  void changed();

 private:
  void worldChanged();
  void measure();

  using Key = std::pair<std::string, std::string>;  // Field, layer.
  Document& document_;
  std::shared_ptr<Courier<Statistics>> courier_;
  std::stop_source stop_;
  QTimer pause_;  // A number that is being dragged is measured when it rests.
  std::weak_ptr<const acre::World> measured_;  // Its place may be taken by another.
  std::map<std::string, std::shared_ptr<const acre::Distribution>> distributions_;
  std::map<Key, acre::FieldFigures> figures_;
  std::shared_ptr<const ChartFigures> chart_;
  std::vector<acre::Check> checks_;
  std::optional<acre::AreaCensus> census_;
  std::optional<acre::BlockCensus> blocks_;
};

}  // namespace app
