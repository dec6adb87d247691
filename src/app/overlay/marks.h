/// The small overlays: outlines, routes, places of a level, limits of layers.
#pragma once

#include <QLineF>
#include <vector>

#include "app/overlay/overlay.h"

namespace acre {
class World;
}

namespace app {

/// An outline over the ground, in cells from an origin.
class OutlineOverlay : public MapOverlay {
 public:
  OutlineOverlay(std::vector<QLineF> lines, acre::Cell origin)
      : lines_(std::move(lines)), origin_(origin) {}
  void paint(QPainter& p, const MapGeometry& view) const override;

 private:
  std::vector<QLineF> lines_;
  acre::Cell origin_;
};

/// A cased line with a small square at its start and, on short routes, at every corner.
class RouteOverlay : public MapOverlay {
 public:
  explicit RouteOverlay(std::vector<acre::Cell> cells) : cells_(std::move(cells)) {}
  void paint(QPainter& p, const MapGeometry& view) const override;
  QString at(QPointF place, const MapGeometry& view) const override;
  QString spoken() const override;

 private:
  std::vector<acre::Cell> cells_;
};

/// Rings around the places that a level must have, with their names where there is room.
class PlacesOverlay : public MapOverlay {
 public:
  /// REQUIRES: a world of levels.
  explicit PlacesOverlay(const acre::World& world);
  void paint(QPainter& p, const MapGeometry& view) const override;
  QString at(QPointF place, const MapGeometry& view) const override;
  QString spoken() const override;

 private:
  struct Place {
    acre::Cell cell;
    QString name;
  };
  std::vector<Place> places_;
};

/// Limits of walks among the heights' layers, before other layers join them: on the section.
class LimitsOverlay : public MapOverlay {
 public:
  explicit LimitsOverlay(const acre::World& world);
  void paintCut(QPainter& p, const CutGeometry& cut) const override;
  QString atCut(QPointF place, const CutGeometry& cut) const override;
  bool empty() const { return limits_.empty(); }

 private:
  struct Limit {
    double altitude;
    QString words;
  };
  std::vector<Limit> limits_;
};

}  // namespace app
