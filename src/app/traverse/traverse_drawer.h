/// The Traverse drawer: a route, settings in columns A and B, a verdict, figures and plots; and the
/// proof of the world.
#pragma once

#include <QElapsedTimer>
#include <QLabel>
#include <QProgressBar>
#include <QPushButton>
#include <QTableWidget>
#include <QVBoxLayout>
#include <QWidget>
#include <array>

#include "app/document/document.h"
#include "app/edit/choice.h"
#include "app/edit/number_field.h"
#include "app/edit/tick.h"
#include "app/map/map_view.h"
#include "app/traverse/traverse_plots.h"
#include "app/traverse/traverse_run.h"
#include "app/window/dialogs.h"

namespace app {

class TraverseDrawer : public QWidget {
  Q_OBJECT

 public:
  TraverseDrawer(Document& document, acre::Engine& engine, MapView& map, Dialogs& dialogs,
      QWidget* parent = nullptr);
  ~TraverseDrawer() override;

  void run();
  void stop();
  bool running() const { return run_.running(); }
  const std::vector<acre::TraverseColumn>& columns() const { return columns_; }
  const acre::Route& route() const { return route_; }

 signals:
  void refused(const QString& reason);
  void commandRequested(const QString& rest);  ///< What follows "acre traverse RECIPE".

 protected:
  void keyPressEvent(QKeyEvent*) override;
  void showEvent(QShowEvent*) override;
  void hideEvent(QHideEvent*) override;

 private:
  enum RouteChoice { Straight, Zigzag, Circle, Teleports, Drawn, Recorded };
  enum Clocking { RealTime, Fast, Slow10, Slow100 };
  /// The settings that columns may differ in.
  enum Row { Chunk, View, Ahead, Collision, Objects, Levels, Threads, Memory, kRows };

  void buildRoute(QVBoxLayout* column);
  void buildSettings(QVBoxLayout* column);
  void buildResults(QVBoxLayout* column);
  void setRoute(int choice);
  void draw(bool on);
  void record(bool on);
  void showRoute();
  acre::Route routeNow() const;
  TraverseRun::Plan planOf(size_t column) const;
  size_t columnCount() const { return both_->isChecked() ? 2 : 1; }
  QString commandLine() const;
  void moved(const QString& column, double seconds, double share,
      const std::shared_ptr<TraverseScene>& scene, quint32 loaded, quint32 missing);
  void finish(const std::vector<acre::TraverseColumn>& columns);
  void showAt(double seconds);
  void step(double frames);
  void exportAs(bool csv);
  void showButtons();

  Document& document_;
  MapView& map_;
  Dialogs& dialogs_;
  TraverseRun run_;
  std::vector<acre::TraverseColumn> columns_;
  acre::Route route_;  // Drawn or recorded.
  acre::Cell start_;   // Of the route that is run or shown.
  QElapsedTimer recording_;
  double at_ = -1;  // The moment looked at afterwards.

  Choice* kind_;
  QPushButton* draw_;
  QPushButton* record_;
  NumberField* speed_;
  NumberField* seconds_;
  Choice* clock_;
  Tick* follow_;
  Tick* both_;
  std::array<std::array<NumberField*, 2>, kRows> fields_{};
  QPushButton* runButton_;
  QPushButton* stopButton_;
  QProgressBar* progress_;
  QLabel* verdict_;
  QTableWidget* table_;
  QLabel* key_;
  TraversePlots* plots_;
  QPushButton* csv_;
  QPushButton* json_;
};

}  // namespace app
