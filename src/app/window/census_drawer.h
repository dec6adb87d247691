/// The census: of biomes shares, pieces, neighbours and region sizes, of tiles their cases; counted
/// in the background.
#pragma once

#include <QElapsedTimer>
#include <QLabel>
#include <QLineEdit>
#include <QProgressBar>
#include <QPushButton>
#include <QTableWidget>
#include <QThread>
#include <QVBoxLayout>
#include <QWidget>
#include <memory>
#include <stop_token>

#include "app/document/courier.h"
#include "app/document/document.h"
#include "app/document/worker.h"
#include "app/edit/choice.h"
#include "app/map/geometry.h"
#include "audit/area_census.h"
#include "audit/tile_figures.h"

namespace app {

/// Bars of region sizes against the mean size of a square.
class RegionBars : public QWidget {
  Q_OBJECT

 public:
  explicit RegionBars(QWidget* parent = nullptr);
  void setSizes(const std::optional<acre::RegionSizes>& sizes, double size);
  QSize sizeHint() const override { return {280, 76}; }

 protected:
  void paintEvent(QPaintEvent*) override;

 private:
  std::optional<acre::RegionSizes> sizes_;
  double size_ = 1;
};

class CensusDrawer : public QWidget {
  Q_OBJECT

 public:
  explicit CensusDrawer(Document& document, QWidget* parent = nullptr);
  ~CensusDrawer() override;

  void setView(const MapGeometry& geometry, acre::Cell viewpoint);
  /// Counts anew when it is in sight and something changed.
  void refresh();
  const std::optional<acre::AreaCensus>& census() const { return census_; }
  bool counting() const { return counting_; }
  QTableWidget& table() { return *table_; }
  QTableWidget& tiles() { return *tiles_; }

 signals:
  /// A biome's ground is to be lit; kNoBiome: what no rule covers; -1: none.
  void biomeLit(int biome);
  void goToRequested(qint64 x, qint64 z);
  void commandRequested(const QString& area);  ///< For copying; empty: the world's sample.
  void refused(const QString& reason);

 protected:
  void showEvent(QShowEvent*) override { refresh(); }
  void hideEvent(QHideEvent*) override;

 private:
  enum Of { View, Near, Stated, Sample };
  struct Counted {
    std::optional<acre::AreaCensus> biomes;
    std::optional<acre::TileFigures> tiles;
  };
  void buildHead(QVBoxLayout* column);
  void buildTable(QVBoxLayout* column);
  void buildTiles(QVBoxLayout* column);
  void showChosen();
  std::optional<acre::Rect> area() const;
  void count();
  /// Biomes in words where there are none to count.
  void clearBiomes(const QString& why);
  void show_(const Counted& counted);
  void showBiomes(const acre::AreaCensus& census);
  void showTiles(const std::optional<acre::TileFigures>& figures);
  void stopCounting();

  Document& document_;
  std::shared_ptr<Courier<CensusDrawer>> courier_;
  Worker worker_;
  uint64_t request_ = 0;
  MapGeometry geometry_;
  acre::Cell viewpoint_;
  std::optional<acre::AreaCensus> census_;
  std::shared_ptr<const acre::World> counted_;
  std::optional<acre::Rect> countedArea_;
  bool counting_ = false;
  bool slow_ = false;   ///< What is counted takes more than a moment.
  bool again_ = false;  ///< Something else was asked for meanwhile.
  QElapsedTimer shown_;

  Choice* of_;
  QLineEdit* stated_;
  QProgressBar* progress_;
  QPushButton* stopButton_;
  QLabel* summary_;
  QTableWidget* table_;
  QLabel* neighbours_;
  QLabel* regions_;
  RegionBars* bars_;
  QLabel* tilesHead_;
  QTableWidget* tiles_;
};

}  // namespace app
