/// What was changed by hand: a list, an export, an eraser, and a brush for the map.
#pragma once

#include <QAbstractTableModel>
#include <QLabel>
#include <QPushButton>
#include <QTableView>
#include <QToolButton>
#include <QVBoxLayout>

#include "app/document/courier.h"
#include "app/document/document.h"
#include "app/edit/choice.h"
#include "app/edit/number_field.h"
#include "app/map/map_view.h"
#include "app/section/section_view.h"
#include "app/window/dialogs.h"
#include "recipe/edits.h"

namespace app {

/// What a change of so many blocks is called.
QString strikeName(bool cutting, size_t blocks);

/// The cells of an edit set, a row each.
class HandModel : public QAbstractTableModel {
  Q_OBJECT

 public:
  using QAbstractTableModel::QAbstractTableModel;

  /// cells: of the recipe's edits.
  void set(const acre::Recipe& recipe, std::vector<acre::Edit> cells);
  /// What the recipe's materials are called now, and their colours.
  void setNames(const acre::Recipe& recipe);
  const acre::Edit& edit(int row) const { return cells_[static_cast<size_t>(row)]; }

  int rowCount(const QModelIndex& parent = {}) const override;
  int columnCount(const QModelIndex& parent = {}) const override;
  QVariant data(const QModelIndex& index, int role) const override;
  QVariant headerData(int section, Qt::Orientation orientation, int role) const override;

 private:
  std::vector<acre::Edit> cells_;
  struct Named {
    QString name;
    std::optional<acre::Colour> colour;  // Open ground has none.
    bool operator==(const Named&) const = default;
  };
  std::map<std::string, Named> names_;
  bool levels_ = false;
};

class HandDrawer : public QWidget {
  Q_OBJECT

 public:
  HandDrawer(Document& document, MapView& map, SectionView& section, Dialogs& dialogs,
      QWidget* parent = nullptr);
  ~HandDrawer() override;
  /// Follows the recipe, while it is seen.
  void refresh();
  const HandModel& model() const { return *model_; }
  /// Nothing painted waits to become a step.
  bool settled() const { return !laying_ && strokes_.empty(); }

 signals:
  void goToRequested(qint64 x, qint64 y, qint64 z);
  void refused(const QString& reason);

 protected:
  void showEvent(QShowEvent*) override;
  void hideEvent(QHideEvent*) override;

 private:
  /// The set that edits of this world go into; nothing when they belong to another seed, in words.
  std::optional<acre::EditSet> ownSet();
  void paint(acre::Cell from, acre::Cell to);
  void buildBrush(QVBoxLayout* column);
  void buildTable(QVBoxLayout* column);
  void buildButtons(QVBoxLayout* column);
  void layStrokes();
  void putPainted(const acre::Edits& painted);
  /// Cuts or fills a ball of blocks; which of them hold anything is found off this thread.
  void strike(int64_t x, int64_t y, int64_t z);
  void chooseTool();
  void erase(bool all);
  void exportList();
  void listCells();
  void updateButtons();

  Document& document_;
  MapView& map_;
  SectionView& section_;
  Dialogs& dialogs_;
  struct Stroke {
    acre::Cell from, to;
    int64_t radius;
    std::string material;
  };
  std::vector<Stroke> strokes_;  // Wait to be laid.
  bool laying_ = false;
  bool ended_ = false;  // The button was let go before all was laid.
  std::shared_ptr<Courier<HandDrawer>> courier_;
  HandModel* model_;
  QLabel* headline_;
  QWidget* brushRow_;
  QToolButton *paint_, *cut_, *fill_;
  Choice* material_;
  NumberField* brush_;
  QTableView* table_;
  QPushButton *goTo_, *erase_, *eraseAll_, *export_;
  acre::Edits shown_;
};

}  // namespace app
