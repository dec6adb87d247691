/// A number that can be typed, stepped and dragged.
#pragma once

#include <QLineEdit>
#include <optional>

#include "recipe/validate.h"

namespace app {

struct NumberSpec {
  acre::Range range{-1e6, 1e6};
  double step = 1;           ///< One press of an arrow key, one pixel-pair of a drag.
  bool logarithmic = false;  ///< Steps multiply: 1 % per unit of `step`.
  bool whole = false;
  QString unit;           ///< Shown after the value ...
  bool bare = false;      ///< ... unless there is no room for it.
  QString accepted = {};  ///< In place of the range, where that follows from other numbers.
  bool feature = false;   ///< A width of features: "0.02 per cell" is understood as 50.
};

/// Typing takes simple arithmetic; Up and Down step (Shift ten times, Ctrl a tenth), so does
/// Alt+wheel; dragging sideways changes the value (Shift: fine, Esc: back). A value that differs
/// from its reference carries a sign at the right edge that restores it (also Ctrl+Backspace).
class NumberField : public QLineEdit {
  Q_OBJECT

 public:
  NumberField(const NumberSpec& spec, const QString& name, QWidget* parent = nullptr);

  double value() const { return value_; }
  /// Shows a value without telling anybody.
  void setValue(double value);
  /// What "restore" goes back to.
  void setReference(double value);
  void setSpec(const NumberSpec& spec);
  /// With its unit: there is room for it.
  void showUnit();
  /// The tooltip, and for widths of features their frequency.
  QString help() const;

 signals:
  /// The user chose a value. during: a drag goes on, more will follow.
  void edited(double value, bool during);
  void gestureEnded();
  /// What was typed is no number or out of range; the old value stays.
  void refused(const QString& reason);
  /// Esc: the field gives the focus back.
  void left();

 protected:
  bool event(QEvent*) override;
  void keyPressEvent(QKeyEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;
  void mouseReleaseEvent(QMouseEvent*) override;
  void wheelEvent(QWheelEvent*) override;
  void focusOutEvent(QFocusEvent*) override;
  void paintEvent(QPaintEvent*) override;

 private:
  void show_();
  void commitText();
  std::optional<double> typed() const;
  void choose(double value, bool during);
  double stepped(double from, double steps) const;
  double fitted(double value) const;
  QRect restoreRect() const;
  bool changed() const { return value_ != reference_; }

  NumberSpec spec_;
  double value_ = 0;
  double reference_ = 0;
  double dragFrom_ = 0;
  QPointF pressAt_;
  bool pressed_ = false;
  bool dragging_ = false;
};

}  // namespace app
