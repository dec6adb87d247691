/// The row along the foot of the window.
#pragma once

#include <QLabel>
#include <QWidget>

#include "stream/stream.h"
#include "world/cell_value.h"
#include "world/plan.h"

namespace app {

/// Left: the cell under the pointer, or the viewpoint. Right: how streaming goes, or what was just
/// done.
class StatusRow : public QWidget {
 public:
  explicit StatusRow(QWidget* parent = nullptr);

  /// Where a cell lies and what it holds.
  void showCell(
      const acre::World& world, acre::Cell cell, const acre::CellValue& value, bool underPointer);
  void showStream(const acre::StreamStats& stats);

  void tellOfCell(const QString& text);  ///< Instead of a cell.
  void tell(const QString& text);        ///< Instead of the stream.

 private:
  QLabel* cell_;
  QLabel* stream_;
};

}  // namespace app
