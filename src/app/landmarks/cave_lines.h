/// Centre lines of cave systems, as map, section and walk view draw them.
#pragma once

#include <QPainter>
#include <QString>
#include <memory>
#include <vector>

#include "cave/tunnels.h"

namespace app {

/// The systems that are listed, and the one that is chosen.
struct CaveLines {
  struct System {
    QString name;
    acre::TunnelStage::Handle system;
  };
  std::vector<System> systems;
  int chosen = -1;
  acre::Cell searchedFrom;
  int64_t within = 0;  ///< How far was searched, in cells.
};

/// Passages are told apart by their dashes: main ones are whole lines, arms dashed, independent
/// ones dotted, shafts dashed and dotted.
inline QPen cavePen(acre::PassageKind kind, const QColor& colour, double width) {
  QPen pen(colour, width, Qt::SolidLine, Qt::FlatCap, Qt::RoundJoin);
  if (kind == acre::PassageKind::Arm) pen.setDashPattern({5, 2.5});
  if (kind == acre::PassageKind::Own) pen.setDashPattern({1.5, 2});
  if (kind == acre::PassageKind::Shaft) pen.setDashPattern({5, 2, 1.5, 2});
  return pen;
}

/// Draws a passage cased, so that it is seen on any ground.
inline void drawPassage(QPainter& p, acre::PassageKind kind, const QPolygonF& line,
    const QColor& casing, const QColor& ink, double width) {
  p.setBrush(Qt::NoBrush);
  p.setPen(QPen(casing, width + 2, Qt::SolidLine, Qt::FlatCap, Qt::RoundJoin));
  p.drawPolyline(line);
  p.setPen(cavePen(kind, ink, width));
  p.drawPolyline(line);
}

}  // namespace app
