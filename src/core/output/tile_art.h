/// The pictures of sets of tiles, and maps drawn with them.
#pragma once

#include <filesystem>
#include <functional>
#include <memory>
#include <stop_token>
#include <string>
#include <vector>

#include "output/png.h"
#include "output/rgba_picture.h"
#include "recipe/tile_cases.h"
#include "world/tile_pass.h"

namespace acre {

/// The pictures of one set: drawing + drawings * variant, as in TileValue::picture().
struct TileArt {
  static constexpr int32_t kMostSide = 4096;  ///< Of a picture of many tiles, in pixels.
  static constexpr int32_t kMostReach = 8;    ///< Cells that one tile may be wide.

  int32_t size = 0;  ///< Pixels a side of each.
  int32_t cell = 0;  ///< Pixels that a cell takes.
  TileAnchor anchor = TileAnchor::Centre;
  /// Rows of size x size pixels; empty: there is none.
  std::vector<std::vector<uint32_t>> pictures;

  /// The pixels of a picture in an orientation.
  std::vector<uint32_t> laid(int picture, int orientation) const;
};

/// Draws a set, or reads its picture: a PNG of 1 to TileArt::kMostSide pixels a side that its
/// columns part into squares. where: JSON pointer, for errors.
Result<TileArt> tileArtOf(const TileSet& set, const std::string& folder, const std::string& where);
/// The tiles of a picture one by one, row by row, whatever is on them. file: a PNG, named from the
/// folder, or the picture itself as a data URI.
Result<TileArt> tilesIn(const std::string& file, const std::filesystem::path& folder,
    int32_t columns, const std::string& where);

/// The art of every group of a world.
class TileArts {
 public:
  /// One error tells of all files that are missing.
  static Result<TileArts> of(const World& world);
  const TileArt& art(int group) const { return arts_[static_cast<size_t>(group)]; }
  /// Cells that a tile reaches beyond its own.
  int64_t reach() const;

 private:
  std::vector<TileArt> arts_;
};

/// What tiles that cannot be seen through hide of the groups below them, by quarters of cells: a
/// tile, of a cell or between four, covers four of them.
class HiddenTiles {
 public:
  HiddenTiles(const TilePlanes& planes, const TileStage& stage, const TileArts& arts);
  /// Nothing of a tile of that group, or of what lies under all of them (-1), is seen. Quarters
  /// beyond the planes count as hidden.
  bool at(int group, Cell cell, bool between) const;

 private:
  /// Whether all that lie on the planes do.
  template <class Each>
  bool quarters(Cell cell, bool between, const Each& each) const;

  Rect cells_;
  size_t wide_;
  std::vector<uint8_t> top_;  ///< 1 + the highest group that hides what is below.
};

/// How a map of tiles is drawn.
struct TileMapLook {
  static constexpr int32_t kMostZoom = 128;
  int32_t zoom = 16;  ///< Pixels a cell, 1 to kMostZoom; nothing is smoothed.
};

/// Draws tiles over cells, zoom x zoom pixels each: of every group from the lowest up, over the
/// colour of what lies beside the lowest. What objects put on top lies over them as squares in the
/// colour of its material. Pixels 0xFFRRGGBB, those beyond the world in the paper's colour.
/// told: the values of these cells and of some about them.
Result<RgbaPicture> drawTiles(const World& world, const TileArts& arts, const Rect& cells,
    const TileMapLook& look, const std::stop_token& stop = {}, TilePlanes* told = nullptr);

/// A few cells to try a set on: each inside or not, and nothing inside beyond them.
class TileBoard {
 public:
  int32_t width, length;

  TileBoard(int32_t wide, int32_t tall)
      : width(wide), length(tall), inside_(static_cast<size_t>(wide) * static_cast<size_t>(tall)) {}
  /// On which every case lies somewhere.
  static TileBoard ofEveryCase(const TileCases& cases);
  bool holds(int32_t x, int32_t z) const { return x >= 0 && z >= 0 && x < width && z < length; }
  bool at(int32_t x, int32_t z) const { return holds(x, z) && inside_[place(x, z)]; }
  void set(int32_t x, int32_t z, bool inside) {
    if (holds(x, z)) inside_[place(x, z)] = inside;
  }
  /// Of the tile there, or between it and the next; -1: none.
  int caseAt(const TileCases& cases, int32_t x, int32_t z) const;

 private:
  size_t place(int32_t x, int32_t z) const {
    return static_cast<size_t>(z) * static_cast<size_t>(width) + static_cast<size_t>(x);
  }
  std::vector<bool> inside_;
};
/// zoom x zoom pixels a cell.
RgbaPicture drawBoard(const TileSet& set, const TileArt& art, const TileBoard& board, int32_t zoom);

/// What drawTiles() draws, into a PNG, in strips.
struct TileMapRequest {
  Rect cells;
  TileMapLook look;
  unsigned threads = 1;
  std::stop_token stop;
  std::function<void(double)> progress;
  static constexpr int64_t kLongestSide = 65'536;  ///< Pixels.
};
Status writeTileMap(const World& world, const TileMapRequest& request,
    const std::filesystem::path& file, const TextPairs& texts);

}  // namespace acre
