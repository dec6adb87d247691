/// A threshold typed in: where a histogram's stake goes.
#pragma once

#include <QLineEdit>

#include "app/edit/histogram.h"

namespace app {

/// Takes a value, or a share with "%"; out of sight but while one is typed. Esc gives it up.
class StakeField : public QLineEdit {
  Q_OBJECT

 public:
  explicit StakeField(Histogram& histogram, QWidget* parent = nullptr);

  /// begun: what was typed already.
  void type(int stake, const QString& begun);

 signals:
  void refused(const QString& reason);

 protected:
  void keyPressEvent(QKeyEvent*) override;

 private:
  void take();
  void leave();

  Histogram& histogram_;
  int stake_ = 0;
};

}  // namespace app
