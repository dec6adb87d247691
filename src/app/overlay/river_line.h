/// The river or lake that was chosen in a list, on the map.
#pragma once

#include <memory>

#include "app/overlay/overlay.h"
#include "audit/river_profile.h"

namespace app {

/// A river's course in the ink of what is chosen, from a ring at its spring to a square at its end.
class RiverLine : public MapOverlay {
 public:
  /// mark: a point of the profile that is looked at elsewhere; negative: none.
  RiverLine(std::shared_ptr<const acre::RiverProfile> profile, QString name, int mark = -1)
      : profile_(std::move(profile)), name_(std::move(name)), mark_(mark) {}
  void paint(QPainter& p, const MapGeometry& view) const override;
  QString at(QPointF place, const MapGeometry& view) const override;
  QString spoken() const override;

 private:
  std::shared_ptr<const acre::RiverProfile> profile_;
  QString name_;
  int mark_;
};

/// A ring about a place that has a name.
class PlaceRing : public MapOverlay {
 public:
  PlaceRing(acre::Cell cell, QString name) : cell_(cell), name_(std::move(name)) {}
  void paint(QPainter& p, const MapGeometry& view) const override;
  QString at(QPointF place, const MapGeometry& view) const override;

 private:
  acre::Cell cell_;
  QString name_;
};

}  // namespace app
