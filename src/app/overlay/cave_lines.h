/// Centre lines of cave systems, as map, section and walk view draw them.
#pragma once

#include <QPainter>
#include <QString>
#include <memory>
#include <vector>

#include "app/overlay/overlay.h"
#include "cave/tunnels.h"

namespace app {

/// The systems that are listed, the one that is chosen, and how far was searched.
struct CaveLines : MapOverlay {
  struct System {
    QString name;
    acre::TunnelStage::Handle system;
  };
  std::vector<System> systems;
  int chosen = -1;
  acre::Cell searchedFrom;
  int64_t within = 0;  ///< How far was searched, in cells.

  /// Cells from the cut within which a passage is drawn.
  static constexpr double kNearCut = 12;

  void paint(QPainter& p, const MapGeometry& view) const override;
  void paintCut(QPainter& p, const CutGeometry& cut) const override;
  QString at(QPointF place, const MapGeometry& view) const override;
  QString spoken() const override;

 private:
  void paintSystem(QPainter& p, const System& one, bool isChosen, const MapGeometry& view) const;
};

/// Passages are told apart by their dashes: main ones are whole lines, arms dashed, independent
/// ones dotted, shafts dashed and dotted.
QPen cavePen(acre::PassageKind kind, const QColor& colour, double width);

/// Draws a passage cased, so that it is seen on any ground.
void drawPassage(QPainter& p, acre::PassageKind kind, const QPolygonF& line, const QColor& casing,
    const QColor& ink, double width);

}  // namespace app
