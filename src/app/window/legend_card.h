/// What the colours of the map mean.
#pragma once

#include <QWidget>
#include <vector>

#include "output/legend.h"

namespace app {

class LegendCard : public QWidget {
  Q_OBJECT

 public:
  explicit LegendCard(QWidget* parent = nullptr);
  void setEntries(std::vector<acre::LegendEntry> entries);
  const std::vector<acre::LegendEntry>& entries() const { return entries_; }
  QSize sizeHint() const override;

 protected:
  void paintEvent(QPaintEvent*) override;

 private:
  /// Height of an entry, whose words wrap.
  int rowOf(const acre::LegendEntry& entry, int width) const;

  std::vector<acre::LegendEntry> entries_;
};

}  // namespace app
