/// What a walk makes of the skyline: its limits, its three curves, and the same over ten seeds.
#pragma once

#include <QWidget>

#include "app/document/courier.h"
#include "app/document/document.h"
#include "audit/skyline_figures.h"

namespace app {

/// From the top: the height of ten seeds' skylines between their limits, this world's in ink; its
/// rise from column to column; the change of that. Below: how many columns are at the limits and
/// beyond. Measured off the interface thread.
class SkylinePanel : public QWidget {
  Q_OBJECT

 public:
  SkylinePanel(Document& document, std::string field, std::string layer, QWidget* parent = nullptr);
  ~SkylinePanel() override;

  /// "At the limits 3.1 % of 65,536 columns …"; empty until it is known.
  const QString& figures() const { return figures_; }
  static constexpr int kSeeds = 10;

 protected:
  void paintEvent(QPaintEvent*) override;

 private:
  void measure();

  Document& document_;
  std::string field_, layer_;
  std::vector<acre::SkylineFigures> seeds_;
  QString figures_;
  std::stop_source stop_;
  std::shared_ptr<Courier<SkylinePanel>> courier_;
};

}  // namespace app
