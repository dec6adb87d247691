/// Chooses the level that the map is sliced at, at its right edge.
#pragma once

#include <QWidget>

#include "recipe/recipe.h"

namespace app {

/// A scale of altitudes with a mark on the chosen one. Drag, click, wheel, Up and Down (Shift: ten
/// levels), PgUp and PgDn.
class DepthSlider : public QWidget {
  Q_OBJECT

 public:
  explicit DepthSlider(QWidget* parent = nullptr);

  /// Levels [min, min + extent); sea: where the mark of the sea belongs.
  void setRange(const acre::AxisBounds& levels, double sea);
  void setLevel(int64_t y);
  int64_t level() const { return level_; }

 signals:
  void chosen(qint64 y);

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;
  void wheelEvent(QWheelEvent*) override;
  void keyPressEvent(QKeyEvent*) override;

 private:
  static constexpr int kRim = 14;  // Pixels above and below the scale.
  double placeOf(double y) const;
  void choose(int64_t y);
  void choosePlace(double place);

  acre::AxisBounds levels_{0, 1};
  double sea_ = 0;
  int64_t level_ = 0;
};

}  // namespace app
