/// A set of tiles on a sheet, to look at or to paint over.
#pragma once

#include "output/tile_art.h"

namespace acre {

/// How a set is laid out.
struct TileSheetPlan {
  int32_t columns = 8;
  int32_t zoom = 1;     ///< Pixels for each of a tile's.
  bool margin = false;  ///< Around each tile: its case number over it.
  bool dots = false;    ///< What the mask looks at, as dots on top: filled where it is inside.
  /// Every case as it is laid, with what turns and mirrors make; else every drawing and variant, in
  /// the order in which a set's picture is read.
  bool cases = false;
};

RgbaPicture tileSheet(const TileSet& set, const TileArt& art, const TileSheetPlan& plan);

}  // namespace acre
