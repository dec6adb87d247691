/// What became of the candidates of a kind of object.
#pragma once

#include <QWidget>

#include "audit/object_figures.h"

namespace app {

/// A bar for those that stand, and one for each of the commonest reasons that refused the others.
class ReasonBars : public QWidget {
  Q_OBJECT

 public:
  explicit ReasonBars(QWidget* parent = nullptr);
  /// ink: of the bar of those that stand.
  void setFigures(const acre::ObjectFigures& figures, const QColor& ink);
  QSize sizeHint() const override;

 protected:
  void paintEvent(QPaintEvent*) override;

 private:
  struct Bar {
    QString words;
    double share;
    bool stands;
  };
  std::vector<Bar> bars_;
  QColor ink_;
};

}  // namespace app
