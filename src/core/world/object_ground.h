/// The ground that objects might stand on.
#pragma once

#include <array>
#include <cstdint>
#include <memory>
#include <vector>

#include "base/memo.h"
#include "climate/land_shaper.h"
#include "world/cell_value.h"
#include "world/plan.h"

namespace acre {

class ColumnSampler;  // world/column_sampler.h
class GroundSampler;  // world/ground_sampler.h

/// The highest block of a column that is no liquid, after the caves.
struct GroundTop {
  static constexpr int64_t kNone = INT64_MIN;
  int64_t y = kNone;  ///< The level above it; kNone: there is none.
  MaterialIndex material = kUnassigned;
  bool wet = false;  ///< Liquid lies over it.
};

/// What is known of the ground of a square of cells, as it was before any was changed by hand: all
/// kinds that stand thick there look it up, and it is made once.
struct ObjectGroundTile {
  static constexpr int64_t kSide = 32;
  static constexpr size_t kCells = kSide * kSide;
  std::array<float, kCells> heights, shores, slopes;
  std::array<BiomeIndex, kCells> biomes;
  std::array<WaterKind, kCells> waters;
  std::array<MaterialIndex, kCells> materials;
  std::vector<GroundTop> tops;  ///< In worlds of blocks.
  uint64_t bytes() const { return sizeof *this + tops.capacity() * sizeof(GroundTop) + 64; }
};

/// Immutable but for what it remembers, and thread-safe.
class ObjectGround {
 public:
  /// All there for as long as this is. surface: whether materials and slopes are asked for too.
  ObjectGround(const WorldPlan& plan, const ColumnSampler& columns, const GroundSampler& blocks,
      bool surface, const MemoLimit& memo)
      : plan_(plan), columns_(columns), blocks_(blocks), surface_(surface), tiles_(memo) {}

  /// That of a square, where it is known or so many places in it are worth making it; else nothing:
  /// asking for each of them costs less.
  std::shared_ptr<const ObjectGroundTile> tile(int64_t i, int64_t j, size_t places) const;
  /// Those of a rectangle of columns, x fastest; highest: of their heights. REQUIRES: blocks.
  std::vector<GroundTop> tops(const Rect& cells, float highest) const;
  uint64_t bytes() const { return tiles_.bytes(); }

 private:
  const WorldPlan& plan_;
  const ColumnSampler& columns_;
  const GroundSampler& blocks_;
  bool surface_;
  Memo<std::pair<int64_t, int64_t>, ObjectGroundTile> tiles_;
};

}  // namespace acre
