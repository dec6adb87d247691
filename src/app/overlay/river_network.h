/// The network that land drains over: rivers by their width, springs, lakes and where they leave.
#pragma once

#include <stop_token>
#include <vector>

#include "app/overlay/overlay.h"
#include "audit/water_summary.h"
#include "water/drainage.h"

namespace acre {
class WaterStage;
class World;
}  // namespace acre

namespace app {

/// A line from node to node of every river, with arrows downstream, as wide as it is on the ground;
/// rings at springs; a cross where one ends in no water; pale lines between basins; bars at
/// falls.
class RiverNetwork : public MapOverlay {
 public:
  /// More bricks than this in view show nothing but a word.
  static constexpr int64_t kMost = 12'000;
  /// More cells than this are not searched for falls.
  static constexpr int64_t kMostCells = int64_t{1} << 21;

  /// Nothing when stopped, or in a world without the stage Water.
  static std::shared_ptr<const MapOverlay> make(
      const acre::World& world, const MapGeometry& view, const std::stop_token& stop);

  void paint(QPainter& p, const MapGeometry& view) const override;
  QString at(QPointF place, const MapGeometry& view) const override;
  QString spoken() const override;

  struct Reach {
    acre::Cell from, to;
    double width = 0;  ///< In cells.
    int64_t area = 0;  ///< Bricks that drain through it.
    double level = 0;  ///< Of the water, in cells.
    bool spring = false, sink = false;
    bool acrossLake = false;  ///< From a lake's deepest place to where its outlet goes on.
  };
  const std::vector<Reach>& reaches() const { return reaches_; }
  /// Between bricks that drain to different places.
  struct Divide {
    acre::Cell from, to;  ///< Lower corners of these cells.
  };
  const std::vector<Divide>& divides() const { return divides_; }

 private:
  void findDivides(const acre::WaterStage& stage, acre::Drainage::Reader& net, acre::Brick first,
      acre::Brick last);

  std::vector<Reach> reaches_;
  std::vector<Divide> divides_;
  std::vector<acre::Fall> falls_;
  size_t rivers_ = 0, springs_ = 0, lakes_ = 0;
  bool tooMany_ = false;
};

}  // namespace app
