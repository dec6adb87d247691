/// A curve with points to drag.
#pragma once

#include <QWidget>
#include <vector>

#include "recipe/recipe.h"

namespace app {

/// Drag a point; click the curve to add one; Del removes the chosen one (two stay). Points keep
/// their order: none passes its neighbours. Keys: Tab chooses, arrows move by a hundredth of the
/// frame (Shift ten times), Insert adds one after the chosen.
class CurveView : public QWidget {
  Q_OBJECT

 public:
  explicit CurveView(QWidget* parent = nullptr);

  void setCurve(const acre::Curve& curve);
  /// What goes in: bins of the input over [low, high], drawn behind; may be empty.
  void setInput(double low, double high, const std::vector<uint32_t>& bins);

  QPointF toScreen(const acre::CurvePoint& p) const;
  int chosenPoint() const { return chosen_; }
  QSize sizeHint() const override { return {370, 140}; }

 signals:
  /// during: a drag goes on.
  void edited(const acre::Curve& curve, bool during);
  void gestureEnded();

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;
  void mouseReleaseEvent(QMouseEvent*) override;
  void keyPressEvent(QKeyEvent*) override;
  void focusInEvent(QFocusEvent*) override { update(); }
  void focusOutEvent(QFocusEvent*) override { update(); }
  bool focusNextPrevChild(bool next) override;

 private:
  QRectF plot() const;
  acre::CurvePoint fromScreen(QPointF p) const;
  int pointAt(QPointF p) const;
  void movePoint(acre::CurvePoint to, bool during);
  void frame();

  acre::Curve curve_;
  double low_ = 0, high_ = 1;    // Of the input.
  double left_ = 0, right_ = 1;  // Of the frame; it does not move during a drag.
  double bottom_ = 0, top_ = 1;
  std::vector<uint32_t> bins_;
  int chosen_ = 0;
  bool dragging_ = false;
};

}  // namespace app
