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
inline constexpr int kSmallWidth = 96;
inline constexpr int kSmallHeight = 64;
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
  /// Where the small pictures are taken from.
  void setView(const MapGeometry& geometry) { geometry_ = geometry; }

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

 protected:
  bool eventFilter(QObject*, QEvent*) override;

 private:
  using Place = std::function<double*(acre::Layer&)>;
  struct Preview {
    double low;
    double high;
    Place place;
  };

  const acre::FieldRecipe* fieldRecipe() const;
  const acre::Layer* layer() const;
  /// The fields that the one shown may read, as far as their stages go.
  std::vector<const acre::FieldRecipe*> readableFields() const;
  /// Where the chosen layer is.
  Editor::Place<acre::Layer> placeOfChosen() const;
  Access layerAccess(const Place& place) const;
  void editLayer(const QString& step, const std::function<void(acre::Layer&)>& edit,
      const QString& mergeKey = {});
  QString signature() const;
  void rebuildNumbers();
  void buildHead(QVBoxLayout* column, const acre::Layer& layer);
  void buildSource(QGridLayout* grid, int& row, const acre::Layer& layer);
  void buildNoise(QGridLayout* grid, int& row, const QString& prefix, bool warp);
  void buildParts(QVBoxLayout* column, const acre::Layer& layer);
  NumberField* addNumber(QGridLayout* grid, int row, int column, const QString& label,
      const QString& key, Place place, std::optional<std::pair<double, double>> ends = {});
  Choice* addChoice(QGridLayout* grid, int row, int column, const QString& label,
      const QString& key, const QStringList& items, int current,
      std::function<void(acre::Layer&, int)> set, const QString& toolTip);
  Tick* addTick(QHBoxLayout* row, const QString& label, const QString& key, bool on,
      std::function<void(acre::Layer&, bool)> set, const QString& toolTip);
  void addLayer(acre::Source source, const QString& name);
  void duplicateLayer();
  void deleteLayer(const std::string& id);
  void reorder(int by);
  void addField();
  void deleteField();
  std::vector<const acre::FieldRecipe*> fieldsInScope() const;
  void refreshFields();
  void refreshFigures();
  void requestPreview(QWidget* field);

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
  QWidget* numbers_ = nullptr;
  QString shownSignature_;
  QLabel* layerFigures_ = nullptr;
  QLabel* layerPicture_ = nullptr;
  QLabel* layerBins_ = nullptr;
  QAction* altitudeOffer_ = nullptr;
  QAction* waterOffer_ = nullptr;
  CurveView* curve_ = nullptr;
  Histogram* histogram_;
  StakeField* stakeField_;
  QLabel* scope_;
  std::map<QObject*, Preview> previews_;
  MapGeometry geometry_;
  std::shared_ptr<Courier<HeightsEditor>> courier_;
  std::stop_source stop_;
  uint64_t previewRequest_ = 0;
  uint64_t pictureRequest_ = 0;
};

}  // namespace app
