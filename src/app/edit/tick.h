/// A check box whose tick is drawn in the interface's own ink.
#pragma once

#include <QCheckBox>

namespace app {

class Tick : public QCheckBox {
  Q_OBJECT

 public:
  using QCheckBox::QCheckBox;

 protected:
  void paintEvent(QPaintEvent*) override;
};

}  // namespace app
