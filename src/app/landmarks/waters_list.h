/// Rivers and lakes around the viewpoint: lists with figures, the course of the chosen river.
#pragma once

#include <QAbstractTableModel>
#include <QLabel>
#include <QPushButton>
#include <QSortFilterProxyModel>
#include <QTableView>
#include <QVBoxLayout>
#include <stop_token>

#include "app/document/courier.h"
#include "app/document/document.h"
#include "app/edit/choice.h"
#include "app/map/map_view.h"
#include "audit/river_profile.h"

namespace app {

/// Either rivers or lakes, a row each.
class WatersModel : public QAbstractTableModel {
  Q_OBJECT

 public:
  struct Found {
    std::vector<acre::RiverFigures> rivers;
    std::vector<acre::LakeFigures> lakes;
  };
  using QAbstractTableModel::QAbstractTableModel;
  void set(std::shared_ptr<const Found> found, bool lakes);
  bool ofLakes() const { return lakes_; }
  const acre::RiverFigures& river(int row) const {
    return found_->rivers[static_cast<size_t>(row)];
  }
  const acre::LakeFigures& lake(int row) const { return found_->lakes[static_cast<size_t>(row)]; }
  QString name(int row) const;

  int rowCount(const QModelIndex& parent = {}) const override;
  int columnCount(const QModelIndex& parent = {}) const override;
  QVariant data(const QModelIndex& index, int role) const override;
  QVariant headerData(int section, Qt::Orientation orientation, int role) const override;

  static constexpr int kColumns = 6;

 private:
  /// What a cell sorts by and reads.
  std::pair<QVariant, QString> told(int row, int column) const;

  std::shared_ptr<const Found> found_;
  bool lakes_ = false;
};

class WatersList : public QWidget {
  Q_OBJECT

 public:
  WatersList(Document& document, MapView& map, QWidget* parent = nullptr);
  ~WatersList() override;
  void refresh();
  /// Everything that was asked for is there.
  bool settled() const { return !searching_ && !measuring_; }
  const WatersModel& model() const { return *model_; }
  QTableView& table() { return *table_; }
  /// Of the chosen river; nothing: none is, or it is not there yet.
  std::shared_ptr<const acre::RiverProfile> profile() const { return profile_; }

 signals:
  /// What is chosen, to be shown; a river without a profile: nothing is.
  void riverChosen(std::shared_ptr<const acre::RiverProfile> profile, const QString& name);
  void lakeChosen(qint64 x, qint64 z, const QString& name);
  void goToRequested(qint64 x, qint64 z);
  /// Into the walk view, downstream.
  void walkRequested(std::shared_ptr<const acre::RiverProfile> profile);
  void commandRequested(const QString& rest);

 protected:
  void showEvent(QShowEvent*) override;
  void hideEvent(QHideEvent*) override;
  void keyPressEvent(QKeyEvent*) override;

 private:
  void buildHead(QVBoxLayout* column);
  void buildTable(QVBoxLayout* column);
  void buildButtons(QVBoxLayout* column);
  bool lakes() const { return kind_->currentIndex() == 1; }
  void search();
  void list();
  void choose();
  void measure(const acre::RiverFigures& river);
  int chosen() const;
  void goThere();

  Document& document_;
  MapView& map_;
  std::shared_ptr<Courier<WatersList>> courier_;
  std::shared_ptr<const acre::World> searched_;
  std::shared_ptr<const WatersModel::Found> found_;
  QString fault_;
  std::stop_source stop_, measureStop_;
  uint64_t request_ = 0, measureRequest_ = 0;
  bool searching_ = false, measuring_ = false;
  acre::Cell from_;
  std::shared_ptr<const acre::RiverProfile> profile_;
  Choice *kind_, *within_;
  QLabel *headline_, *about_;
  WatersModel* model_;
  QSortFilterProxyModel* sorted_;
  QTableView* table_;
  QPushButton *goTo_, *walk_;
};

}  // namespace app
