/// Small pieces that a warp cut off their region, given back to the neighbour they touch most.
#pragma once

#include <cstdint>
#include <stop_token>
#include <vector>

#include "climate/region_grid.h"

namespace acre {

/// Labels of a rectangle of cells: of each the region it belongs to once islets are given back.
///
/// A piece is a set of cells of one region joined by their sides. It is an islet when it fits into
/// a box of `size` x `size` cells and holds no cell that is looked up within a cell and a half of
/// its region's site. Islets go, in one pass over the regions as they were, to the region that the
/// most sides of their rim touch, of equals to the lower (j, i). A cell's region depends on
/// nothing farther than 2 * size cells.
class Islets {
 public:
  /// size: 1 ... limits::islets cells.
  Islets(const RegionGrid& grid, double regionSize, int size)
      : grid_(grid), regionSize_(regionSize), size_(size) {}

  /// Largest step of a grid at which islets are given back; at larger ones they stay.
  static constexpr int64_t kExactStep = 4;

  /// Where a label was changed; empty when no islet touches the cells. cells: at most
  /// kTileWidth x kTileHeight times kExactStep along both. False when stopped.
  struct Given {
    int64_t x = 0, z = 0;  ///< The cell.
    RegionId to;
  };
  bool find(const Kernels& kernels, const Rect& cells, std::vector<Given>& given,
      const std::stop_token& stop) const;

 private:
  const RegionGrid& grid_;
  double regionSize_;
  int size_;
};

}  // namespace acre
