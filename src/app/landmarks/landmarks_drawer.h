/// Cave systems near the viewpoint: a list with figures, a profile of the chosen one, ways there.
#pragma once

#include <QAbstractTableModel>
#include <QLabel>
#include <QPushButton>
#include <QSortFilterProxyModel>
#include <QTableView>
#include <QToolButton>
#include <QVBoxLayout>
#include <stop_token>

#include "app/document/courier.h"
#include "app/document/document.h"
#include "app/edit/choice.h"
#include "app/edit/tick.h"
#include "app/landmarks/objects_list.h"
#include "app/landmarks/spaces_list.h"
#include "app/landmarks/waters_list.h"
#include "app/map/map_view.h"
#include "app/overlay/cave_lines.h"
#include "audit/cave_figures.h"

namespace app {

/// The systems, a row each, in the order in which they were found.
class LandmarksModel : public QAbstractTableModel {
  Q_OBJECT

 public:
  struct Row {
    acre::FoundSystem found;
    QString name;
    std::optional<acre::SystemFigures> figures;  ///< Nothing yet.
  };
  enum Column { Name, Away, Length, Mouths, Ends, Straight, kColumns };

  using QAbstractTableModel::QAbstractTableModel;
  /// Systems without their figures; those come row by row.
  void set(std::vector<Row> rows);
  void setFigures(int row, acre::SystemFigures figures);
  const Row& row(int index) const { return rows_[static_cast<size_t>(index)]; }

  int rowCount(const QModelIndex& parent = {}) const override;
  int columnCount(const QModelIndex& parent = {}) const override;
  QVariant data(const QModelIndex& index, int role) const override;
  QVariant headerData(int section, Qt::Orientation orientation, int role) const override;

 private:
  std::vector<Row> rows_;
};

/// Widths along the passages of one system; stretches that are too wide are marked.
class WidthProfile : public QWidget {
  Q_OBJECT

 public:
  explicit WidthProfile(QWidget* parent = nullptr);
  void set(std::optional<acre::SystemFigures> figures);
  QSize sizeHint() const override;

 protected:
  void paintEvent(QPaintEvent*) override;

 private:
  std::optional<acre::SystemFigures> figures_;
};

class LandmarksDrawer : public QWidget {
  Q_OBJECT

 public:
  LandmarksDrawer(Document& document, MapView& map, QWidget* parent = nullptr);
  ~LandmarksDrawer() override;
  /// Follows world and viewpoint, while it is seen.
  void refresh();
  /// Everything that was found has its figures.
  bool settled() const { return !searching_; }
  const LandmarksModel& model() const { return *model_; }
  QTableView& table() { return *table_; }
  SpacesList& spaces() { return *spaces_; }
  WatersList& waters() { return *waters_; }
  ObjectsList& objects() { return *objects_; }
  /// The chosen system; nothing: none.
  std::optional<acre::FoundSystem> chosen() const;

 signals:
  void linesChanged(std::shared_ptr<const CaveLines> lines);
  void goToRequested(qint64 x, qint64 z);
  /// Into the walk view at the system's mouth or site; along: follow the main passage.
  void walkRequested(acre::TunnelStage::Handle system, bool along);
  void commandRequested(const QString& rest);
  void backRequested();

 protected:
  void showEvent(QShowEvent*) override;
  void hideEvent(QHideEvent*) override;
  void keyPressEvent(QKeyEvent*) override;

 private:
  void buildPages(QVBoxLayout* outer, QWidget* systems);
  void showPage(QWidget* page);
  void openFitting();
  std::vector<QWidget*> pages() const { return {systems_, spaces_, waters_, objects_}; }
  void buildFilters(QVBoxLayout* column);
  void buildTable(QVBoxLayout* column);
  void buildButtons(QVBoxLayout* column);
  void search();
  void choose();
  void showLines();
  QString within() const;

  Document& document_;
  MapView& map_;
  std::shared_ptr<Courier<LandmarksDrawer>> courier_;
  std::shared_ptr<const acre::World> searched_;
  acre::Cell from_;
  std::stop_source stop_;
  uint64_t request_ = 0;
  bool searching_ = false;
  std::vector<QToolButton*> tabs_;  ///< In the order of pages().
  bool picked_ = false;             ///< Somebody chose a page.
  QWidget* systems_;
  SpacesList* spaces_;
  WatersList* waters_;
  ObjectsList* objects_;
  QLabel* headline_;
  Choice* distance_;
  Tick* mouthed_;
  Tick* drawn_;
  LandmarksModel* model_;
  QSortFilterProxyModel* sorted_;
  QTableView* table_;
  WidthProfile* profile_;
  QLabel* about_;
  QPushButton *goTo_, *walk_, *follow_;
  std::shared_ptr<const CaveLines> lines_;
};

}  // namespace app
