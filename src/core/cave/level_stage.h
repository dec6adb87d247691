/// The stage Level: a floor, and how deep its rock lies.
#pragma once

#include <memory>
#include <vector>

#include "base/budget.h"
#include "cave/level.h"
#include "strata/bands.h"

namespace acre {

/// A floor with the depths of its rock: what levels that differ in materials alone share.
struct SoundedFloor {
  std::shared_ptr<const LevelFloor> floor;
  std::vector<uint16_t> depths;  ///< Row by row, as depthsOf().
  MemoryBudget::Reservation room;

  explicit SoundedFloor(std::shared_ptr<const LevelFloor> made);
  uint64_t bytes() const { return floor->bytes() + depths.capacity() * sizeof(uint16_t); }
};

/// Immutable and thread-safe. Cells are the world's: the floor's upper left cell is that of the
/// bounds, and what lies beyond the floor is solid.
class LevelStage {
 public:
  /// bounds: as large as the floor. walls: height of what is solid. open, places: materials of open
  /// cells, and of each place of the recipe (kUnassigned: that of open cells).
  LevelStage(std::shared_ptr<const SoundedFloor> floor, Rect bounds, int32_t walls,
      MaterialIndex open, std::vector<MaterialIndex> places);

  const LevelFloor& floor() const { return *floor_->floor; }
  MaterialIndex openMaterial() const { return open_; }
  /// Cells to the nearest open one, 0 in one: steps to any of the eight neighbours. Beyond the
  /// floor at least as many as there are.
  int32_t depthAt(Cell cell) const;
  bool isOpen(Cell cell) const { return depthAt(cell) == 0; }
  /// Index of the place at a cell, or -1.
  int placeAt(Cell cell) const;
  Cell cellOf(const FoundPlace& place) const { return {bounds_.x + place.x, bounds_.z + place.z}; }
  MaterialIndex materialOf(const FoundPlace& place) const;
  /// Altitude of what one walks on, or of the top of the wall.
  float heightAt(Cell cell) const { return isOpen(cell) ? 0.0f : walls_; }
  float walls() const { return walls_; }

 private:
  std::shared_ptr<const SoundedFloor> floor_;
  Rect bounds_;
  float walls_;
  MaterialIndex open_;
  std::vector<MaterialIndex> places_;
};

/// Steps to the nearest open cell through any of eight neighbours, row by row; 65,535 everywhere
/// where nothing is open. Exact: two passes over the chessboard distance (Rosenfeld and Pfaltz,
/// "Sequential operations in digital picture processing", 1966).
std::vector<uint16_t> depthsOf(const BitGrid& plane);

/// The least number of solid cells between an open cell and the edge of the plane.
int32_t marginOf(const BitGrid& plane);

}  // namespace acre
