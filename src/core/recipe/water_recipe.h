/// Rivers and lakes as plain values.
#pragma once

#include <string>

namespace acre {

/// The stage Water: where the land drains to, and what that cuts into it. Worlds of columns have
/// it.
struct Rivers {
  bool on = false;
  /// Of the drained land, in bricks of 32 x 28 cells, from which on a river shows.
  double spring = 14;
  double lakes = 0.35;   ///< Share of the hollows at least two cells deep that hold a lake.
  double closed = 0.15;  ///< Share of those lakes without an outlet.
  double carve = 14;     ///< Cells that a channel may lie below the land it crosses.
  double growth = 0.55;  ///< Cells of width per root of the drained bricks.
  double widest = 26;    ///< Most cells that a river is wide.
  double depth = 4;      ///< Most cells by which the bed's middle lies deeper than its edges.
  double valley = 4.4;   ///< Cells that a valley reaches per cell of half the river's width.
  double sides = 0.18;   ///< Rise of its sides per cell.
  double meander = 4;    ///< Cells by which narrow rivers stray from the straight course.
  std::string water;     ///< Material of the water; empty: one sees the bed.
  // Materials of the ground, before any band; empty: as the bands say.
  std::string bed;       ///< Under fresh water.
  std::string bank;      ///< Beside it ...
  double bankReach = 2;  ///< ... so many cells far.
  std::string wet;       ///< Beyond the bank ...
  double wetReach = 6;   ///< ... up to so many cells from the water.
  bool operator==(const Rivers&) const = default;
};

}  // namespace acre
