/// The lattice that passages of tunnel systems run along, and what its points cost.
#pragma once

#include <stop_token>
#include <vector>

#include "app/overlay/overlay.h"
#include "cave/tunnels.h"

namespace acre {
class World;
}

namespace app {

/// Points as dots, the darker the dearer; closed ones as crosses. On the map all levels of a system
/// lie over each other, the cheapest of a column on top; on the section those near the cut.
class TunnelLattice : public MapOverlay {
 public:
  /// More systems than this in view show nothing but a word.
  static constexpr size_t kMostSystems = 24;

  /// Nothing when stopped, or in a world without tunnels under ground.
  static std::shared_ptr<const MapOverlay> make(
      const acre::World& world, const MapGeometry& view, const std::stop_token& stop);

  void paint(QPainter& p, const MapGeometry& view) const override;
  void paintCut(QPainter& p, const CutGeometry& cut) const override;
  QString at(QPointF place, const MapGeometry& view) const override;
  QString atCut(QPointF place, const CutGeometry& cut) const override;
  QString spoken() const override;

  struct System {
    acre::TunnelHandle system;
    std::vector<acre::TunnelStage::LatticePoint> points;  ///< The dearest first.
    double step = 1;                                      ///< Cells between them.
  };
  const std::vector<System>& systems() const { return systems_; }

 private:
  std::vector<System> systems_;
  bool tooMany_ = false;
};

}  // namespace app
