/// The altitude slices of the chart as small charts, high at the top; one is chosen.
#pragma once

#include <QImage>
#include <QWidget>
#include <memory>
#include <vector>

#include "climate/chart.h"
#include "recipe/recipe.h"

namespace app {

class SliceCharts : public QWidget {
  Q_OBJECT

 public:
  explicit SliceCharts(QWidget* parent = nullptr);

  /// altitudes: one that stands for each slice; shares: of the world, and what no rule covers.
  void setSlices(const acre::Recipe& recipe, const acre::Chart& chart,
      const std::vector<float>& altitudes, const std::vector<double>& shares);
  void choose(int slice);
  int chosen() const { return chosen_; }
  QRect tileRect(int slice) const;
  QSize sizeHint() const override { return {62, 292}; }

 signals:
  void sliceChosen(int slice);

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void keyPressEvent(QKeyEvent*) override;
  void focusInEvent(QFocusEvent*) override { update(); }
  void focusOutEvent(QFocusEvent*) override { update(); }
  bool event(QEvent*) override;

 private:
  struct Tile {
    QString name;
    QImage picture;
    double share = 0;
    double uncovered = 0;
  };
  std::vector<Tile> tiles_;
  int chosen_ = 0;
};

}  // namespace app
