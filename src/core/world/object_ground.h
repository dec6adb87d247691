/// The ground that objects might stand on.
#pragma once

#include <array>
#include <atomic>
#include <cstdint>
#include <memory>
#include <optional>
#include <span>
#include <vector>

#include "base/memo.h"
#include "climate/land_shaper.h"
#include "world/cell_value.h"
#include "world/ground_sampler.h"
#include "world/plan.h"

namespace acre {

class ColumnSampler;  // world/column_sampler.h

/// What is known of the ground of a square of cells, as it was before any was changed by hand: all
/// kinds that stand thick there look it up, and it is made once.
struct ObjectGroundTile {
  static constexpr int64_t kSide = 32;
  static constexpr size_t kCells = kSide * kSide;
  std::array<float, kCells> heights, shores, slopes;
  std::array<BiomeIndex, kCells> biomes;
  std::array<WaterKind, kCells> waters;
  std::array<MaterialIndex, kCells> materials;
  // In worlds of blocks: the land, and the tops of those columns that somebody asked for.
  GroundPatch land;
  mutable std::vector<std::atomic<uint64_t>> tops;
  static size_t at(Cell cell) {
    return static_cast<size_t>(floorMod(cell.z, kSide) * kSide + floorMod(cell.x, kSide));
  }
  uint64_t bytes() const { return sizeof *this + land.bytes() + tops.capacity() * 8 + 64; }
};

/// The biomes of the same: they cost a fraction of the rest, and refuse most places.
struct ObjectBiomes {
  std::array<BiomeIndex, ObjectGroundTile::kCells> at;
  uint64_t bytes() const { return sizeof *this + 64; }
};

/// Immutable but for what it remembers, and thread-safe.
class ObjectGround {
 public:
  /// All there for as long as this is. surface: whether materials and slopes are asked for too.
  ObjectGround(const WorldPlan& plan, const ColumnSampler& columns, const GroundSampler& blocks,
      bool surface, const MemoLimit& memo)
      : plan_(plan),
        columns_(columns),
        blocks_(blocks),
        surface_(surface),
        tiles_(memo),
        biomes_(memo) {}

  /// That of a square, where it is known or so many places in it are worth making it; else nothing:
  /// asking for each of them costs less.
  std::shared_ptr<const ObjectGroundTile> tile(int64_t i, int64_t j, size_t places) const;
  /// Biomes of a square. REQUIRES: the world has biomes and no level.
  std::shared_ptr<const ObjectBiomes> biomes(int64_t i, int64_t j) const;
  // Tops of columns. REQUIRES: blocks.
  /// again: whoever asks comes again, and tiles are worth making.
  std::vector<GroundTop> tops(std::span<const Cell> cells, bool again = false) const;
  /// GroundSampler::inCaves and wallFrom.
  std::optional<GroundTop> inCaves(Cell cell, const CaveStand& asked) const;
  int64_t wallFrom(Cell cell, int64_t y) const { return blocks_.wallFrom(cell, y); }
  /// All of a rectangle, x fastest; highest: of their heights.
  std::vector<GroundTop> tops(const Rect& cells, float highest) const;
  uint64_t bytes() const { return tiles_.bytes() + biomes_.bytes(); }

 private:
  /// Some of a tile.
  std::vector<GroundTop> tops(const ObjectGroundTile& tile, std::span<const Cell> cells) const;

  const WorldPlan& plan_;
  const ColumnSampler& columns_;
  const GroundSampler& blocks_;
  bool surface_;
  struct Key {
    int64_t i, j;
    auto operator<=>(const Key&) const = default;
  };
  Memo<Key, ObjectGroundTile> tiles_;
  Memo<Key, ObjectBiomes> biomes_;
};

}  // namespace acre
