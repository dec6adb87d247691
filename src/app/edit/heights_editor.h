/// Editor of fields: layers as waves, the numbers of the chosen one, and the histogram with its
/// stakes. One serves the Heights stage with the further fields, another the climate.
#pragma once

#include <QCheckBox>
#include <QGridLayout>
#include <QLineEdit>
#include <QPushButton>
#include <map>
#include <memory>
#include <stop_token>

#include "app/document/statistics.h"
#include "app/edit/curve_view.h"
#include "app/edit/editor.h"
#include "app/edit/histogram.h"
#include "app/edit/stake_field.h"
#include "app/edit/waves.h"
#include "app/map/geometry.h"

namespace app {

/// Size of the small pictures of layers and settings.
inline constexpr int kBinsWidth = 66;

class HeightsEditor : public Editor {
  Q_OBJECT

 public:
  enum class Scope { Heights, Climate };
  HeightsEditor(Document& document, Statistics& statistics, Scope scope = Scope::Heights,
      QWidget* parent = nullptr);
  ~HeightsEditor() override;

  /// Follows the document: values alone when the chosen layer has the same parts, else anew.
  void refresh() override;
  void setLine(const SectionLine& line);
  void setView(const MapGeometry& view) override;

  WavesView& waves() { return *waves_; }
  Histogram& histogram() { return *histogram_; }
  const std::string& field() const { return field_; }
  /// Shows another of the fields of its scope.
  void chooseField(const std::string& id);
  const std::string& chosenLayer() const { return waves_->chosen(); }
  /// Shows the control at a JSON pointer of the recipe; false when it is not of this stage.
  void showPointer(const std::string& pointer) override;
  /// Adds a layer that is a greyscale picture.
  void addPicture(const QString& file);
  /// The field's figures in a line: "range −12…88 · 41 ns/cell".
  QString figures() const override;

 signals:
  void fieldChanged();
  void layerChanged();  ///< Another layer was chosen.
  void aloneRequested(const QString& layerId);
  void pictureRequested();  ///< A file is to be chosen for addPicture().

 private:
  void buildFields(QVBoxLayout* column);
  void buildUsers(QVBoxLayout* column);
  void buildFault(QVBoxLayout* column);
  void buildHistogram(QVBoxLayout* column);
  const acre::FieldRecipe* fieldRecipe() const;
  const acre::Layer* layer() const;
  /// The fields that the one shown may read, as far as their stages go.
  std::vector<const acre::FieldRecipe*> readableFields() const;
  /// Where the chosen layer is.
  Editor::Place<acre::Layer> placeOfChosen() const;
  void editLayer(const QString& step, const std::function<void(acre::Layer&)>& edit,
      const QString& mergeKey = {});
  /// All that decides which controls the chosen layer has.
  std::string shape() const;
  void rebuildNumbers();
  using LayerForm = Form<acre::Layer>;
  /// Controls in two columns, each with its words before it.
  struct Grid {
    QGridLayout* layout;
    int row = 0, column = 0;
    void add(const QString& words, QWidget* control);
    void endRow();
  };
  Grid newGrid(QVBoxLayout* column);
  void buildHead(QVBoxLayout* column, const LayerForm& made, const acre::Layer& layer);
  QToolButton* layerMenu();
  QHBoxLayout* layerFigures();
  void buildSource(Grid& grid, const LayerForm& made, const acre::Layer& layer);
  void buildSourceChoices(Grid& grid, const LayerForm& made, const acre::Layer& layer);
  void buildSourceNumbers(Grid& grid, const acre::Layer& layer);
  void buildSum(Grid& grid, const LayerForm& made, const acre::Layer& layer);
  void buildSampling(Grid& grid, const LayerForm& made, const acre::Layer& layer);
  void buildNoise(
      Grid& grid, const Form<acre::NoiseSource>& made, const acre::NoiseSource& now, bool warp);
  void buildParts(QVBoxLayout* column, const LayerForm& made, const acre::Layer& layer);
  void buildSwitches(QVBoxLayout* column, const LayerForm& made, const acre::Layer& layer);
  void buildMask(QVBoxLayout* column, Grid& grid, const LayerForm& made, const acre::Layer& layer);
  void addLayer(acre::Source source, const QString& name);
  void duplicateLayer();
  void deleteLayer(const std::string& id);
  void reorder(int by);
  void addField();
  void deleteField();
  std::vector<const acre::FieldRecipe*> fieldsInScope() const;
  void refreshFields();
  void refreshFigures();

  Statistics& statistics_;
  Scope scope_of_;
  std::string field_;
  Choice* fields_;
  QPushButton* removeField_;
  QCheckBox* fillDown_;
  QWidget* users_;
  QLabel* usersText_;
  WavesView* waves_;
  QWidget* faultRow_;
  QLabel* fault_;
  QPushButton* mend_;
  std::function<void(acre::Recipe&)> mendEdit_;
  QVBoxLayout* numbersColumn_;
  std::string built_;
  QLabel* layerFigures_ = nullptr;
  QLabel* layerPicture_ = nullptr;
  QLabel* layerBins_ = nullptr;
  QAction* altitudeOffer_ = nullptr;
  QAction* waterOffer_ = nullptr;
  QAction* freshOffer_ = nullptr;
  CurveView* curve_ = nullptr;
  Histogram* histogram_;
  StakeField* stakeField_;
  QLabel* scope_;
  MapGeometry geometry_;
  std::shared_ptr<Courier<HeightsEditor>> courier_;
  std::stop_source stop_;
  std::stop_source pictureStop_;
};

}  // namespace app
