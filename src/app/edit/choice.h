/// A drop-down choice with a plain arrow in the interface's own ink.
#pragma once

#include <QComboBox>

namespace app {

class Choice : public QComboBox {
  Q_OBJECT

 public:
  explicit Choice(QWidget* parent = nullptr);

 protected:
  void paintEvent(QPaintEvent*) override;
  void wheelEvent(QWheelEvent*) override;  ///< The plain wheel scrolls the column.
};

}  // namespace app
