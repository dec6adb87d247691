/// A layer's wave: its values along the map's middle row.
#pragma once

#include <QWidget>
#include <vector>

namespace app {

class Lane : public QWidget {
  Q_OBJECT

 public:
  explicit Lane(QWidget* parent = nullptr);
  /// Values from west to east, `step` cells apart.
  void setValues(std::vector<float> values, int64_t step);
  void setFaint(bool faint);

 protected:
  void paintEvent(QPaintEvent*) override;

 private:
  std::vector<float> values_;
  int64_t step_ = 1;
  bool faint_ = false;
};

}  // namespace app
