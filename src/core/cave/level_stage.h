/// The stage Level: a floor, and how deep its rock lies.
#pragma once

#include <memory>
#include <vector>

#include "base/budget.h"
#include "cave/level.h"
#include "recipe/limits.h"
#include "strata/bands.h"

namespace acre {

/// A floor with the depths of its rock: what levels that differ in materials alone share.
struct SoundedFloor {
  /// A cell that courses take, by its place in the plane: which is the first of them.
  struct CourseCell {
    uint32_t cell;
    uint32_t course;  ///< Index in LevelFloor::courses.
    uint32_t place;   ///< Of the cell in it.
  };
  std::shared_ptr<const LevelFloor> floor;
  std::vector<uint16_t> depths;  ///< Row by row, as depthsOf().
  std::vector<CourseCell> wet;   ///< In the order of the plane, once each.
  MemoryBudget::Reservation room;

  explicit SoundedFloor(std::shared_ptr<const LevelFloor> made);
  uint64_t bytes() const {
    return floor->bytes() + depths.capacity() * sizeof(uint16_t) +
           wet.capacity() * sizeof(CourseCell);
  }
};

/// Immutable and thread-safe. Cells are the world's: the floor's upper left cell is that of the
/// bounds, and what lies beyond the floor is solid.
class LevelStage {
 public:
  /// What is seen of open cells; kUnassigned: as of all others.
  struct Materials {
    MaterialIndex open;
    std::vector<MaterialIndex> places;   ///< Of each place of the recipe.
    std::vector<MaterialIndex> courses;  ///< Of each process of it that lays courses.
  };
  /// bounds: as large as the floor. walls: height of what is solid.
  LevelStage(
      std::shared_ptr<const SoundedFloor> floor, Rect bounds, int32_t walls, Materials materials);

  const LevelFloor& floor() const { return *floor_->floor; }
  MaterialIndex openMaterial() const { return materials_.open; }
  /// Of an open cell, places apart: a course's, or that of all others.
  MaterialIndex openMaterial(Cell cell) const;
  /// The course that takes an open cell; nullptr: none does.
  const SoundedFloor::CourseCell* courseAt(Cell cell) const;
  /// Cells to the nearest open one, 0 in one: steps to any of the eight neighbours. Beyond the
  /// floor at least as many as there are.
  int32_t depthAt(Cell cell) const;
  bool isOpen(Cell cell) const { return depthAt(cell) == 0; }
  /// Cells to the nearest one that is not open, 0 in one, at most kWallReach: steps to any of the
  /// eight neighbours.
  int32_t wallFrom(Cell cell) const;
  static constexpr auto kWallReach = static_cast<int32_t>(limits::wallReach.high);
  /// Index of the place at a cell, or -1.
  int placeAt(Cell cell) const;
  Cell cellOf(const FoundPlace& place) const { return {bounds_.x + place.x, bounds_.z + place.z}; }
  /// A place in the floor's plane, row by row.
  Cell cellOf(uint32_t place) const {
    return {bounds_.x + place % bounds_.width, bounds_.z + place / bounds_.width};
  }
  MaterialIndex materialOf(const FoundPlace& place) const;
  /// Altitude of what one walks on, or of the top of the wall.
  float heightAt(Cell cell) const { return isOpen(cell) ? 0.0f : walls_; }
  float walls() const { return walls_; }

 private:
  std::shared_ptr<const SoundedFloor> floor_;
  Rect bounds_;
  float walls_;
  Materials materials_;
};

/// Steps to the nearest open cell through any of eight neighbours, row by row; 65,535 everywhere
/// where nothing is open. Exact: two passes over the chessboard distance (Rosenfeld and Pfaltz,
/// "Sequential operations in digital picture processing", 1966).
std::vector<uint16_t> depthsOf(const BitGrid& plane);

/// The least number of solid cells between an open cell and the edge of the plane.
int32_t marginOf(const BitGrid& plane);

}  // namespace acre
