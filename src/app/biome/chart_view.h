/// The climate chart: biomes as areas or ideal points over two fields, with the world's own density
/// behind them, to be drawn, dragged and painted.
#pragma once

#include <QImage>
#include <QWidget>
#include <memory>
#include <optional>
#include <vector>

#include "audit/chart_sample.h"
#include "climate/chart.h"
#include "recipe/recipe.h"

namespace app {

/// Keys: arrows move the crosshair by 1 % of the chart, Tab and Shift+Tab choose by rank, Enter
/// takes hold of what is chosen (arrows move it, Ctrl+arrows size it) and lets go again, N makes a
/// new area at the crosshair, R raises the rank, Del deletes, PgUp and PgDn change slices, Esc lets
/// go, then leaves.
class ChartView : public QWidget {
  Q_OBJECT

 public:
  enum class Tool { Select, Rectangle, Paint, Fill, Erase };

  explicit ChartView(QWidget* parent = nullptr);

  /// What is drawn. recipe must outlive the view or the next call; chart is made of it.
  void setChart(const acre::Recipe& recipe, std::shared_ptr<const acre::Chart> chart);
  /// The slice shown, and an altitude within it that stands for it.
  void setSlice(int slice, float altitude);
  int slice() const { return slice_; }
  void setTool(Tool tool);
  Tool tool() const { return tool_; }
  /// The biome that new areas and paint are of.
  void setBrush(const std::string& biome) { brush_ = biome; }
  /// The world's own density: contours and dots; nothing while it is unknown.
  void setDensity(std::shared_ptr<const acre::ChartSample> sample, acre::ChartDensity density);
  /// By index of the biome: cells of the sample that are of it.
  void setCounts(std::vector<uint64_t> counts);
  /// Chart values of the cell under the pointer elsewhere.
  void setHair(std::optional<QPointF> values);

  /// Id of the chosen area, or with ideal points of the chosen biome; empty: none.
  const std::string& chosen() const { return chosen_; }
  void choose(const std::string& id);
  void removeChosen();
  void raiseChosen();
  void addAreaAt(QPointF values);

  QRectF plot() const;
  QPointF toScreen(double x, double y) const;
  QPointF toValues(QPointF screen) const;
  QSize sizeHint() const override { return {300, 292}; }
  QSize minimumSizeHint() const override { return {200, 200}; }

  /// Half the side of the patch that lights its ground, as a share of the chart.
  static constexpr double kPatch = 0.02;

 signals:
  /// A changed stage. during: a drag goes on.
  void edited(const QString& step, const acre::Biomes& next, bool during);
  void gestureEnded();
  void chosenChanged();
  void patchHovered(bool inside, double x, double y);
  void sliceStepped(int by);
  void refused(const QString& reason);
  void left();

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;
  void mouseReleaseEvent(QMouseEvent*) override;
  void leaveEvent(QEvent*) override;
  void resizeEvent(QResizeEvent*) override { picture_ = {}; }
  void keyPressEvent(QKeyEvent*) override;
  void focusInEvent(QFocusEvent*) override { update(); }
  void focusOutEvent(QFocusEvent*) override { update(); }
  bool focusNextPrevChild(bool next) override;
  bool event(QEvent*) override;

 private:
  /// One end of a span of an area.
  struct End {
    size_t area;
    bool alongX;
    bool high;
  };
  bool points() const { return biomes_.rules == acre::ChartRules::Points; }
  bool inSlice(const acre::Area& area) const;
  QRectF rectOf(const acre::Area& area) const;
  const acre::AxisScale& axis(bool alongX) const { return alongX ? chart_->x() : chart_->y(); }
  double tidy(double value, bool alongX) const;
  int areaAt(QPointF screen) const;
  int idealAt(QPointF screen) const;
  std::vector<End> endsAt(QPointF screen) const;
  void addNeighbours(std::vector<End>& ends) const;
  void dragTo(QPointF screen, bool during);
  void paintCells(QPointF from, QPointF to);
  void fillFrom(QPointF screen);
  acre::Area* paintingOf(acre::Biomes& biomes);
  uint16_t brushIn(acre::Painting& painting) const;
  std::string freshAreaId() const;
  acre::Area newArea() const;
  void emitEdit(const QString& step, const acre::Biomes& next, bool during);
  void moveChosen(int dx, int dy, bool size);
  void describe();
  void updateCursor(QPointF screen);

  /// grain: pixels along one side of what is looked up once.
  void makePicture(int grain);
  void placeNames();
  void paintDensity(QPainter& p);
  void paintAreas(QPainter& p);
  void paintIdeals(QPainter& p);
  void paintAxes(QPainter& p);
  QString nameOf(const std::string& biome, bool* never = nullptr) const;

  acre::Biomes biomes_;
  QString nameX_, nameY_;
  std::shared_ptr<const acre::Chart> chart_;
  int slice_ = 0;
  float altitude_ = 0;
  Tool tool_ = Tool::Select;
  std::string brush_;
  std::shared_ptr<const acre::ChartSample> sample_;
  acre::ChartDensity density_;
  int densitySlice_ = -1;               ///< That it is of ...
  std::vector<float> densityEnds_;      ///< ... and where the slices ended then.
  std::vector<QPolygonF> contours_[3];  ///< In shares of the chart.
  std::vector<QPointF> dots_;
  std::vector<uint64_t> counts_;
  std::optional<QPointF> hair_;
  QImage picture_;
  int grain_ = 1;                              ///< Of the picture.
  std::vector<std::optional<QPointF>> names_;  ///< Where each area can be seen; by its index.
  bool night_ = false;

  std::string chosen_;
  std::optional<QPointF> cross_;  ///< Keyboard crosshair, in values.
  bool held_ = false;
  bool pressed_ = false;
  bool moved_ = false;
  QPointF pressAt_;
  QPointF paintedTo_;
  acre::Biomes before_;    ///< As it was at the press.
  std::vector<End> ends_;  ///< Dragged; empty: the whole area or point.
  std::optional<QRectF> rubber_;
};

}  // namespace app
