/// Tiles on the map, from kFewestPixels a cell on, and what can be told of them on top.
#pragma once

#include <QImage>
#include <memory>
#include <mutex>
#include <stop_token>
#include <vector>

#include "app/overlay/overlay.h"
#include "output/tile_art.h"

namespace acre {
class World;
}  // namespace acre

namespace app {

/// The pictures of a world's sets, made once for worlds that have the same ones. Those from files
/// are read each time: the files may have changed. Thread-safe.
class KeptArts {
 public:
  /// Nothing: some cannot be read, as a check tells.
  std::shared_ptr<const acre::TileArts> of(const acre::World& world);

 private:
  std::mutex mutex_;
  acre::Tiling tiling_;
  std::shared_ptr<const acre::TileArts> arts_;
};

class TileLayer : public MapOverlay {
 public:
  static constexpr double kFewestPixels = 8;  ///< A cell, that tiles are drawn from.

  static std::shared_ptr<const MapOverlay> make(const acre::World& world, const MapGeometry& view,
      KeptArts& kept, const std::stop_token& stop);

  void paint(QPainter& p, const MapGeometry& view) const override;
  QString at(QPointF place, const MapGeometry& view) const override;

 private:
  acre::Rect cells_;
  int zoom_ = 16;
  QImage picture_;
  acre::TilePlanes planes_;  ///< Of these cells and of some about them.
  std::shared_ptr<const acre::TileStage> stage_;
};

/// The grid of cells, and what masks look at, as dots; opposite corners are ringed, tiles without a
/// picture boxed.
class TileMarks : public MapOverlay {
 public:
  static std::shared_ptr<const MapOverlay> make(const acre::World& world, const MapGeometry& view,
      KeptArts& kept, const std::stop_token& stop);

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
};

}  // namespace app
