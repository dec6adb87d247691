/// Tiles on the map, from kFewestPixels a cell on, and what can be told of them on top.
#pragma once

#include <QImage>
#include <stop_token>
#include <vector>

#include "app/overlay/overlay.h"
#include "recipe/tile_cases.h"

namespace acre {
class World;
}  // namespace acre

namespace app {

class TileLayer : public MapOverlay {
 public:
  static constexpr double kFewestPixels = 8;  ///< A cell, that tiles are drawn from.

  static std::shared_ptr<const MapOverlay> make(
      const acre::World& world, const MapGeometry& view, const std::stop_token& stop);

  void paint(QPainter& p, const MapGeometry& view) const override;
  QString at(QPointF place, const MapGeometry& view) const override;
  /// Milliseconds that making it took.
  double took() const { return took_; }

 private:
  acre::Rect cells_;
  int zoom_ = 16;
  QImage picture_;
  std::vector<QString> words_;  ///< By cell.
  double took_ = 0;
};

/// The grid of cells, and what masks look at, as dots; opposite corners are ringed, tiles without a
/// picture boxed.
class TileMarks : public MapOverlay {
 public:
  static std::shared_ptr<const MapOverlay> make(
      const acre::World& world, const MapGeometry& view, const std::stop_token& stop);

  void paint(QPainter& p, const MapGeometry& view) const override;
  QString spoken() const override;

 private:
  struct Mark {
    acre::Cell cell;
    double fx, fz;  ///< In cells, from its upper left corner.
    bool filled;
  };
  struct Ring {
    acre::Cell cell;
    double fx, fz;
    bool missing;  ///< Else ambiguous.
  };
  std::vector<Mark> dots_;
  std::vector<Ring> rings_;
  int64_t ambiguous_ = 0, missing_ = 0;
  QString group_;
};

}  // namespace app
