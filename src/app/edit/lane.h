/// A layer's wave: its values along the map's middle row.
#pragma once

#include <QWidget>
#include <vector>

namespace app {

class Lane : public QWidget {
  Q_OBJECT

 public:
  explicit Lane(QWidget* parent = nullptr);
  /// Values from west to east, as many as the lane is wide.
  void setValues(std::vector<float> values, double cellsPerPixel);
  void setFaint(bool faint);

 protected:
  void paintEvent(QPaintEvent*) override;

 private:
  std::vector<float> values_;
  double cellsPerPixel_ = 1;
  bool faint_ = false;
};

}  // namespace app
