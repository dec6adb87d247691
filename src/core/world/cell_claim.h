/// What an object wants in a cell.
#pragma once

#include <cstdint>

#include "base/coords.h"
#include "base/indices.h"

namespace acre {

class Piece;  // object/piece.h

struct CellClaim {
  Cell cell;
  int64_t y = 0;  ///< 0 in worlds of columns.
  MaterialIndex material = kOpen;
  uint8_t rank = 0;
  uint16_t kind = 0;  ///< Place of the object's kind in the recipe.
  uint64_t id = 0;    ///< Of the object.
  const Piece* piece = nullptr;
};

}  // namespace acre
