/// Tiles with borders, as plain values.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "recipe/biome_recipe.h"

namespace acre {

/// What a tile looks at: the four cells that it lies between, or the cell that it is and its eight
/// neighbours, four of them, or none.
enum class TileMethod { Corners, Neighbours, Sides, Plain };
/// In how many ways one drawing may be laid.
enum class TileTurns { None, Quarter, Mirrored };
/// What counts as inside beyond the world's bounds.
enum class TileRim { Inside, Outside, Same };
/// The line between inside and outside in a set that the workbench draws.
enum class TileEdge { Straight, Round, Rough };
/// Where a picture larger than its cell lies on it.
enum class TileAnchor { UpperLeft, Centre };

/// A set drawn by the workbench.
struct TileDrawing {
  int32_t size = 16;  ///< Pixels a side.
  Colour inside{134, 144, 92};
  Colour edge{31, 45, 58};
  TileEdge style = TileEdge::Round;
  int32_t width = 1;    ///< Of the edge, in pixels.
  bool joined = false;  ///< Opposite corners of the method corners.
  bool operator==(const TileDrawing&) const = default;
};

/// A set in a picture of tiles side by side.
struct TilePicture {
  std::string file;
  int32_t columns = 8;  ///< Tiles side by side; their size comes from the picture's width.
  int32_t cell = 0;     ///< Pixels that a cell takes; 0: as many as a tile.
  TileAnchor anchor = TileAnchor::Centre;
  /// Which drawing lies where, row by row, -1: none; empty: they lie in order.
  std::vector<int32_t> order;
  bool operator==(const TilePicture&) const = default;
};

/// The variants of one case.
struct TileCaseWeights {
  int32_t number = 0;
  std::vector<int32_t> weights;
  bool operator==(const TileCaseWeights&) const = default;
};

struct TileSet {
  std::string id;
  std::string name;
  TileMethod method = TileMethod::Neighbours;
  TileTurns turns = TileTurns::None;
  std::vector<int32_t> weights{1};     ///< Of the variants of every case.
  std::vector<TileCaseWeights> cases;  ///< Those that have others.
  TileDrawing drawn;                   ///< Where there is no picture.
  std::optional<TilePicture> picture;
  std::vector<int32_t> without;  ///< Drawings that are left out.
  bool operator==(const TileSet&) const = default;
};

/// Materials with a border around them.
struct TileGroup {
  bool on = true;
  std::string id;
  std::string name;
  std::vector<std::string> materials;
  std::string set;
  TileRim rim = TileRim::Same;
  bool operator==(const TileGroup&) const = default;
};

struct Tiling {
  bool on = true;
  std::vector<TileSet> sets;
  std::vector<TileGroup> groups;  ///< From the lowest up.
  bool operator==(const Tiling&) const = default;
};

}  // namespace acre
