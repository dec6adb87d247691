/// The cases of tiles with borders, the drawings that they share, and the values that stand for
/// both. docs/maths.md, "Tiles", states them.
#pragma once

#include <array>
#include <cstdint>
#include <vector>

#include "recipe/tile_recipe.h"

namespace acre {

/// A value of a cell: which of a set's pictures lies there, and how it is turned. 0: none.
struct TileValue {
  static constexpr uint16_t kNone = 0;
  static constexpr int kTurnShift = 13;
  static constexpr uint16_t kPictures = (1u << kTurnShift) - 1;
  /// picture: drawing + drawings * variant. orientation: quarter turns clockwise; from 4 on after a
  /// mirror, east for west.
  static constexpr uint16_t of(int picture, int orientation) {
    return static_cast<uint16_t>(1 + picture + (orientation << kTurnShift));
  }
  static constexpr int picture(uint16_t value) { return (value & kPictures) - 1; }
  static constexpr int orientation(uint16_t value) { return value >> kTurnShift; }
};

/// What the cases of one method are, and which drawing, turned how, stands for each.
class TileCases {
 public:
  /// Of a cell where nothing is drawn.
  static constexpr uint8_t kNothing = 0xFF;
  static constexpr int kMost = 47;

  TileCases(TileMethod method, TileTurns turns);

  TileMethod method() const { return method_; }
  static int countOf(TileMethod method);
  int count() const { return static_cast<int>(masks_.size()); }
  /// Cells that masks are made of: 8, 4 or 0.
  int bits() const;
  /// Of a mask; of neighbours of any of the 256.
  uint8_t caseOf(uint8_t mask) const { return caseOf_[mask]; }
  /// The reduced mask of a case.
  uint8_t maskOf(int number) const { return masks_[static_cast<size_t>(number)]; }
  /// How many drawings a set has, without variants.
  int drawings() const { return static_cast<int>(drawn_.size()); }
  int drawingOf(int number) const { return shows_[static_cast<size_t>(number)].drawing; }
  int orientationOf(int number) const { return shows_[static_cast<size_t>(number)].orientation; }
  /// The case that a value stands for, whatever its variant. REQUIRES: a value of such a set.
  int caseShown(uint16_t value) const {
    return caseShown_[static_cast<size_t>(TileValue::picture(value) % drawings())]
                     [static_cast<size_t>(TileValue::orientation(value))];
  }
  /// The case that a drawing shows as it is.
  int caseOfDrawing(int drawing) const { return drawn_[static_cast<size_t>(drawing)]; }
  /// Where only two opposite corners are inside.
  bool ambiguous(int number) const {
    return method_ == TileMethod::Corners && (number == 5 || number == 10);
  }
  /// A mask without corners of which a side is missing.
  static uint8_t reduced(uint8_t mask);
  /// A mask after that orientation.
  static uint8_t turned(TileMethod method, uint8_t mask, int orientation);

 private:
  struct Shown {
    uint8_t drawing, orientation;
  };
  TileMethod method_;
  std::array<uint8_t, 256> caseOf_{};
  std::vector<uint8_t> masks_;
  std::vector<Shown> shows_;
  std::vector<uint8_t> drawn_;
  std::vector<std::array<uint8_t, 8>> caseShown_;  ///< By drawing, and by orientation.
};

/// The mask of a tile: in(dx, dz) tells whether the cell so far from the tile's own is inside.
template <class In>
uint8_t maskAround(TileMethod method, const In& in) {
  const auto bit = [&](int dx, int dz, int k) { return (in(dx, dz) ? 1u : 0u) << k; };
  switch (method) {
    case TileMethod::Corners:
      return static_cast<uint8_t>(bit(0, 0, 3) | bit(1, 0, 2) | bit(1, 1, 1) | bit(0, 1, 0));
    case TileMethod::Neighbours:
      return static_cast<uint8_t>(bit(0, -1, 0) | bit(1, -1, 1) | bit(1, 0, 2) | bit(1, 1, 3) |
                                  bit(0, 1, 4) | bit(-1, 1, 5) | bit(-1, 0, 6) | bit(-1, -1, 7));
    case TileMethod::Sides:
      return static_cast<uint8_t>(bit(0, -1, 0) | bit(1, 0, 1) | bit(0, 1, 2) | bit(-1, 0, 3));
    case TileMethod::Plain:
      break;
  }
  return 0;
}

/// The weights of the variants of a case.
const std::vector<int32_t>& weightsOf(const TileSet& set, int number);
/// Most variants that any case of a set has.
int mostVariants(const TileSet& set);
/// The set that a group is drawn with, or nullptr.
const TileSet* setOf(const Tiling& tiling, const TileGroup& group);

}  // namespace acre
