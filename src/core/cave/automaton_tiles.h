/// Automata in worlds without end: made tile by tile, the same cells whichever tile is asked for.
#pragma once

#include <memory>
#include <stop_token>

#include "base/coords.h"
#include "base/memo.h"
#include "base/result.h"
#include "cave/automaton.h"
#include "cave/cave_at.h"
#include "cave/voids.h"
#include "recipe/cave_recipe.h"
#include "recipe/recipe.h"

namespace acre {

/// One AutomatonLayer, compiled. After n steps a cell depends on those within n of it, so a tile is
/// made with a margin of n cells and keeps its middle. Tiles are 256 cells square on floors and 64
/// cubed in volumes, aligned to 0; above and below a volume lies what its edge says. Immutable and
/// thread-safe.
class AutomatonTiles {
 public:
  static constexpr int64_t kExactStep = 4;
  static constexpr int32_t kFloorTile = 256, kVolumeTile = 64;

  static Result<std::shared_ptr<const AutomatonTiles>> compile(
      const AutomatonLayer& layer, uint64_t seed, MemoLimit memo, const std::string& where);

  /// Sets out[k] = mark wherever out[k] is 0, the automaton left the cell open and at least `cover`
  /// cells of ground lie above it. heights: of the block's columns. False when stopped.
  bool mark(const SampleBlock& block, const float* heights, const SeaGuard& guard, uint16_t mark,
      uint16_t* out, const std::stop_token& stop) const;

  /// One cell, stepped cell by cell.
  using At = AutomatonAt;
  At at(Cell cell, int64_t y, float height) const;

  /// True when some level from y up to y + count - 1 may be opened.
  bool reaches(int64_t y, int64_t count) const;

 private:
  struct TileKey {
    int64_t x, y, z;  // y: of floors their index.
    auto operator<=>(const TileKey&) const = default;
  };
  using Tile = BitGrid;
  /// True where the cell is solid before the first step; y: of floors their index.
  bool solidAtFirst(int64_t x, int64_t y, int64_t z) const;
  uint64_t rowSeed(int64_t y, int64_t z) const;
  std::shared_ptr<const Tile> tile(const TileKey& key, const std::stop_token& stop) const;
  int floorAt(int64_t y) const;

  AutomatonLayer layer_;
  AutomatonRule rule_;
  uint64_t seed_ = 0;
  uint64_t threshold_ = 0;  // Hashes below it are solid, of 2^32.
  float cover_ = 0;
  int64_t bottom_ = 0, top_ = 0;
  std::vector<int64_t> floors_;
  std::unique_ptr<Memo<TileKey, Tile>> memo_;
};

}  // namespace acre
