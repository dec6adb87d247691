/// Editor of the Strata stage: the histogram with its stakes, bands by altitude with their shares
/// of the world and their edges, bands by slope, and the materials.
#pragma once

#include <QToolButton>

#include "app/document/statistics.h"
#include "app/edit/editor.h"
#include "app/edit/ground_panel.h"
#include "app/edit/histogram.h"
#include "app/edit/stake_field.h"

namespace app {

class StrataEditor : public Editor {
  Q_OBJECT

 public:
  StrataEditor(Document& document, Statistics& statistics, QWidget* parent = nullptr);
  void refresh() override;
  void setView(const MapGeometry& view) override {
    Editor::setView(view);
    ground_->setView(view);
  }
  /// Shares alone; cheap.
  void refreshShares();
  Histogram& histogram() { return *histogram_; }
  /// Puts the focus on the control at a JSON pointer of the stage.
  void showPointer(const std::string& pointer) override;
  /// The bands of a biome that has its own; empty: the general ones.
  void showBandsOf(const std::string& biome);

 private:
  const std::vector<acre::Band>& bandsIn(const acre::Recipe& recipe) const;
  std::vector<acre::Band>& bandsIn(acre::Recipe& recipe) const;
  void refreshScope();
  void rebuild();
  void addBandRow(QVBoxLayout* column, const acre::Band& band);
  void addEnd(Row& line, const Form<acre::Band>& made, const acre::Threshold& end);
  Choice* holdChoice(const Form<acre::Band>& made, const std::string& id);
  void addSlopeRow(QVBoxLayout* column, const acre::SlopeBand& slope);
  void addMaterialRow(QVBoxLayout* column, const acre::Material& material);

  Statistics& statistics_;
  QVBoxLayout* column_;
  GroundPanel* ground_;
  std::string biome_;  ///< Whose bands are shown; empty: the general ones.
  Choice* of_;
  QWidget* ofRow_;
  QLabel* scope_;
  Histogram* histogram_;
  StakeField* stakeField_;
  std::map<std::string, QLabel*> shares_;  // By band.
  std::string built_;
};

}  // namespace app
