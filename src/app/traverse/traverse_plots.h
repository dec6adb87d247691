/// Plots of a traverse over one time axis.
#pragma once

#include <QChartView>
#include <QWidget>
#include <vector>

#include "output/traverse_text.h"

namespace app {

/// One plot; a hair runs through it where the pointer is in any of them.
class TraversePlot : public QChartView {
  Q_OBJECT

 public:
  TraversePlot(const QString& title, const QString& name, QWidget* parent = nullptr);

  /// One line a column, as time and value.
  void setLines(const std::vector<std::vector<QPointF>>& lines, double seconds);
  void setHair(double seconds);  ///< Negative: none.
  void refreshColours();

 signals:
  void hovered(double seconds);  ///< Negative: left.
  void clicked(double seconds);

 protected:
  void drawForeground(QPainter* painter, const QRectF& rect) override;
  void mouseMoveEvent(QMouseEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void leaveEvent(QEvent*) override;

 private:
  double secondsAt(QPointF position) const;

  double seconds_ = 0;
  double hair_ = -1;
};

class TraversePlots : public QWidget {
  Q_OBJECT

 public:
  explicit TraversePlots(QWidget* parent = nullptr);
  void setColumns(const std::vector<acre::TraverseColumn>& columns);
  void setHair(double seconds);

 signals:
  void hovered(double seconds);
  void clicked(double seconds);

 protected:
  void changeEvent(QEvent*) override;

 private:
  std::vector<TraversePlot*> plots_;
};

}  // namespace app
