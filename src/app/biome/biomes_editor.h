/// Editor of the Biomes stage: the chart in its altitude slices, the biomes, the rules as a table,
/// and the regions that the chart may be laid on.
#pragma once

#include <QGridLayout>
#include <QLineEdit>
#include <QPushButton>
#include <QToolButton>
#include <memory>

#include "app/biome/chart_view.h"
#include "app/biome/equalise_panel.h"
#include "app/biome/slice_charts.h"
#include "app/document/statistics.h"
#include "app/edit/editor.h"

namespace app {
/// "−2 … 14": a half-open range [low, high) that is typed; an empty side is endless.
class SpanField : public QLineEdit {
  Q_OBJECT

 public:
  explicit SpanField(const QString& name, QWidget* parent = nullptr);
  void setSpan(const acre::Span& span, const acre::AxisScale& scale);

 signals:
  void edited(const acre::Span& span);
  void refused(const QString& reason);
  void left();

 protected:
  void keyPressEvent(QKeyEvent*) override;

 private:
  void commit();
  acre::Span span_;
  acre::AxisScale scale_;
};

class BiomesEditor : public Editor {
  Q_OBJECT

 public:
  BiomesEditor(Document& document, Statistics& statistics, QWidget* parent = nullptr);
  void refresh() override;
  /// Shows the control at a JSON pointer of the stage.
  void showPointer(const std::string& pointer) override;

  ChartView& chart() { return *chart_; }
  const std::string& chosenBiome() const { return biome_; }
  /// Chart values and base height of the cell under the pointer; nothing to take them away.
  void setHair(std::optional<QPointF> values, float altitude);
  /// "uncovered 12.3 %", for the head of the panel.
  QString figures() const override;

 signals:
  void nextHoleRequested();
  void patchHovered(bool inside, double x, double y);  ///< On the chart.
  void bandsRequested(const QString& biome);           ///< The bands of a biome are to be edited.

 protected:
  bool eventFilter(QObject*, QEvent*) override;

 private:
  using Edit = std::function<void(acre::Biomes&)>;
  bool applyBiomes(const QString& step, const Edit& edit, const QString& mergeKey = {});
  const acre::Biomes& biomes() const { return document_.recipe().biomes; }
  acre::AxisScale scale(bool alongX) const;

  void buildHead(QVBoxLayout* column);
  void buildChart(QVBoxLayout* column);
  void buildTools(QVBoxLayout* column);
  std::string shape() const;
  void rebuildLists();
  void buildBiomes(QVBoxLayout* column);
  Form<acre::Biome> formOf(const acre::Biome& biome);
  void addBiomeRow(QVBoxLayout* column, size_t index);
  void buildBiomeDetails(QVBoxLayout* column, const acre::Biome& biome);
  void buildIdeal(QVBoxLayout* column, const Form<acre::Biome>& made, const acre::Biome& biome);
  Choice* bandsChoice(const Form<acre::Biome>& made, const acre::Biome& biome);
  void buildRules(QVBoxLayout* column);
  void addRule(QGridLayout* grid, int row, size_t index);
  QWidget* chooses(QWidget* control, const std::string& area);
  SpanField* spanField(const Form<acre::Area>& made, bool alongX);
  template <class T>
  Choice* biomeChoice(const Form<T>& made, std::string T::*member, const QString& none);
  QString axisTitle(bool alongX) const;
  void buildRuleSlices(QVBoxLayout* column, const acre::Area& area);
  void buildSlices(QVBoxLayout* column);
  void addSliceRow(QVBoxLayout* column, const acre::Slice& slice);
  void buildRegions(QVBoxLayout* column);
  void buildWarpSource(QVBoxLayout* column);
  void buildBorders(QVBoxLayout* column);
  void addBiome();
  void addFour();
  void addSlice();
  void chooseBiome(const std::string& id);
  template <class T, class M>
  void wideNumber(Row& row, const Form<T>& made, M T::*member, const QString& words,
      const char* name = nullptr);
  void fillBiomes(Choice* choice, const std::string& current, const QString& none) const;
  void fillFields();
  void compileChart();
  void refreshFigures();
  void refreshFaults();
  void setSlice(int slice);

  Statistics& statistics_;
  std::shared_ptr<const acre::Chart> compiled_;
  std::vector<uint64_t> counts_;
  std::string biome_;
  bool sliceChosen_ = false;
  QString source_;

  QWidget* off_;
  QWidget* on_;
  Choice* rules_;
  Choice* axes_[2];
  QLabel* headline_;
  QPushButton* hole_;
  SliceCharts* slices_;
  ChartView* chart_;
  QToolButton* tools_[5];
  Choice* brush_;
  QLabel* correlation_;
  EqualisePanel* equalise_;
  QLabel* borderCells_ = nullptr;
  QVBoxLayout* faults_;
  QStringList shownFaults_;
  QVBoxLayout* column_;
  std::string built_;
  struct ShareLabel {
    size_t index;
    QLabel* label;
  };
  std::vector<ShareLabel> shares_;
};

}  // namespace app
