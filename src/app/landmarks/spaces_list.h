/// Connected open spaces below the surface, in a box around the viewpoint.
#pragma once

#include <QAbstractTableModel>
#include <QLabel>
#include <QTableView>
#include <stop_token>

#include "app/document/courier.h"
#include "app/document/document.h"
#include "app/edit/choice.h"
#include "app/map/map_view.h"
#include "app/overlay/spaces_picture.h"
#include "audit/cave_figures.h"

namespace app {

class SpacesModel : public QAbstractTableModel {
  Q_OBJECT

 public:
  using QAbstractTableModel::QAbstractTableModel;
  void set(std::shared_ptr<const acre::SpacesInBox> found);
  const acre::OpenSpace& space(int row) const { return found_->spaces[static_cast<size_t>(row)]; }
  const acre::SampleBlock& box() const { return found_->box; }

  int rowCount(const QModelIndex& parent = {}) const override;
  int columnCount(const QModelIndex& parent = {}) const override;
  QVariant data(const QModelIndex& index, int role) const override;
  QVariant headerData(int section, Qt::Orientation orientation, int role) const override;

  /// Spaces that have a colour and a number of their own; the smaller ones share one.
  static constexpr int kNumbered = 6;
  static QColor colour(int rank);

 private:
  std::shared_ptr<const acre::SpacesInBox> found_;
};

class SpacesList : public QWidget {
  Q_OBJECT

 public:
  SpacesList(Document& document, MapView& map, QWidget* parent = nullptr);
  ~SpacesList() override;
  void refresh();
  bool settled() const { return !searching_; }
  const SpacesModel& model() const { return *model_; }

 signals:
  void pictureChanged(std::shared_ptr<const SpacesPicture> picture);
  void goToRequested(qint64 x, qint64 y, qint64 z);
  void commandRequested(const QString& rest);

 protected:
  void showEvent(QShowEvent*) override;
  void hideEvent(QHideEvent*) override;

 private:
  void search();
  void activate(const QModelIndex& index);

  Document& document_;
  MapView& map_;
  std::shared_ptr<Courier<SpacesList>> courier_;
  std::shared_ptr<const acre::World> searched_;
  std::stop_source stop_;
  uint64_t request_ = 0;
  bool searching_ = false;
  acre::SampleBlock box_;
  QLabel* headline_;
  Choice* side_;
  SpacesModel* model_;
  QTableView* table_;
  std::shared_ptr<const SpacesPicture> picture_;
};

}  // namespace app
