/// A small line plot: one figure or several over one axis, with a hair, marks and a chosen place.
#pragma once

#include <QPointF>
#include <QWidget>
#include <functional>
#include <vector>

namespace app {

/// Lines over 0 to an end; the first is solid, the others dashed.
class Plot : public QWidget {
  Q_OBJECT

 public:
  /// How a value of an axis is told.
  using Format = std::function<QString(double)>;
  /// Plain: lines between their lowest and highest value, which stand beside the title.
  /// Labelled: from 0 to a round number, both axes with their numbers.
  enum class Axes { Plain, Labelled };

  Plot(const QString& title, const QString& name, Axes axes, QWidget* parent = nullptr);

  /// Lines from 0 to `end` along the axis. along, up: how places and values are told.
  void setLines(std::vector<std::vector<QPointF>> lines, double end, Format along, Format up);
  /// Places with a line across the plot.
  void setMarks(std::vector<double> marks);
  /// A dotted line across; none when negative.
  void setHair(double at);
  /// The place with a ring on the first line; none when negative.
  void setChosen(double at);
  double chosen() const { return chosen_; }
  int lineCount() const { return static_cast<int>(lines_.size()); }
  /// Where a place of the axis stands, in pixels from the left.
  double pixelOf(double at) const;
  QSize sizeHint() const override { return {200, height()}; }

 signals:
  void hovered(double at);  ///< Negative: left.
  void picked(double at);   ///< Pressed, or dragged over.

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;
  void leaveEvent(QEvent*) override;

 private:
  QRectF area() const;
  double placeAt(double pixel) const;
  QPointF pointOf(QPointF value) const;
  void paintAxes(QPainter& p) const;

  QString title_;
  Axes axes_;
  std::vector<std::vector<QPointF>> lines_;
  std::vector<double> marks_;
  Format along_, up_;
  double end_ = 0;
  double low_ = 0, high_ = 0;
  double hair_ = -1;
  double chosen_ = -1;
};

}  // namespace app
