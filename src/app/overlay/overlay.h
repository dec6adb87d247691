/// What lies over the ground: drawn on the map from above, and on the section where the cut passes
/// it; found under the pointer; told to who cannot see it.
#pragma once

#include <QObject>
#include <QPainter>
#include <QRectF>
#include <QString>
#include <array>
#include <memory>

#include "app/map/geometry.h"

namespace app {

/// What part of the world a section shows: the line A-B from left to right or the other way, and
/// altitudes from low to high.
struct CutGeometry {
  SectionLine line;
  double low = 0, high = 1;
  QRectF box;             ///< Of the picture, in pixels.
  double x0 = 0, x1 = 1;  ///< Pixels of A and of B.

  /// In cells.
  double length() const {
    return std::hypot(static_cast<double>(line.b.cell.x - line.a.cell.x),
        static_cast<double>(line.b.cell.z - line.a.cell.z));
  }
  double row(double altitude) const {
    return box.top() + (high - altitude) / (high - low) * box.height();
  }
  /// Along and beside the cut, in cells, of a place relative to a cell.
  struct Foot {
    double along, aside;
  };
  Foot footOf(acre::Cell cell, double x, double z) const {
    const double dx = static_cast<double>(line.b.cell.x - line.a.cell.x);
    const double dz = static_cast<double>(line.b.cell.z - line.a.cell.z);
    const double long_ = std::max(1e-9, length());
    x += static_cast<double>(cell.x - line.a.cell.x);
    z += static_cast<double>(cell.z - line.a.cell.z);
    return {(x * dx + z * dz) / long_, (x * dz - z * dx) / long_};
  }
  QPointF toScreen(double along, double altitude) const {
    return {x0 + along / std::max(1e-9, length()) * (x1 - x0), row(altitude)};
  }
};

/// Immutable once it is shown: views share it.
class MapOverlay {
 public:
  virtual ~MapOverlay() = default;
  virtual void paint(QPainter&, const MapGeometry&) const {}
  virtual void paintCut(QPainter&, const CutGeometry&) const {}
  /// What stands at a place of the picture, in words; empty: nothing of this.
  virtual QString at(QPointF, const MapGeometry&) const { return {}; }
  virtual QString atCut(QPointF, const CutGeometry&) const { return {}; }
  /// All of it in a sentence; empty: not worth one.
  virtual QString spoken() const { return {}; }
};

/// The places of overlays, from the lowest up.
enum class Over {
  PenSigns,
  Tiles,
  Limits,
  Lit,
  Sites,
  Lattice,
  Obstacles,
  Rivers,
  Basin,
  River,
  Refused,
  Objects,
  Crossers,
  Spaces,
  Places,
  Caves,
  TileMarks,
  Route
};
inline constexpr size_t kOverCount = 18;

/// The overlays that map and section share.
class Overlays : public QObject {
  Q_OBJECT

 public:
  using QObject::QObject;

  /// Nothing: takes it away.
  void set(Over place, std::shared_ptr<const MapOverlay> overlay);
  bool has(Over place) const { return list_[static_cast<size_t>(place)] != nullptr; }
  const MapOverlay* get(Over place) const { return list_[static_cast<size_t>(place)].get(); }

  /// Of what lies on the ground itself, under contours and chunks.
  void paintGround(QPainter& p, const MapGeometry& view) const;
  void paint(QPainter& p, const MapGeometry& view) const;
  void paintCut(QPainter& p, const CutGeometry& cut) const;
  /// Of the uppermost that has something there.
  QString at(QPointF place, const MapGeometry& view) const;
  QString atCut(QPointF place, const CutGeometry& cut) const;
  QString spoken() const;

 signals:
  void changed();

 private:
  /// Places of a level give way to a picture of its open spaces.
  bool hidden(size_t place) const;
  template <class Ask>
  QString first(Ask&& ask) const;

  std::array<std::shared_ptr<const MapOverlay>, kOverCount> list_;
};

}  // namespace app
