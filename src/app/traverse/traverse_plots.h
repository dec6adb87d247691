/// Plots of a traverse over one time axis.
#pragma once

#include <QWidget>
#include <vector>

#include "app/look/plot.h"
#include "output/traverse_text.h"

namespace app {

/// A hair runs through all of them where the pointer is in any.
class TraversePlots : public QWidget {
  Q_OBJECT

 public:
  explicit TraversePlots(QWidget* parent = nullptr);
  void setColumns(const std::vector<acre::TraverseColumn>& columns);
  void setHair(double seconds);

 signals:
  void hovered(double seconds);
  void clicked(double seconds);

 private:
  std::vector<Plot*> plots_;
};

}  // namespace app
