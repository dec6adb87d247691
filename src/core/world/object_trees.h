/// The trees of a world, grown when they are asked for and remembered.
#pragma once

#include <compare>
#include <memory>
#include <span>
#include <utility>
#include <vector>

#include "base/memo.h"
#include "object/tree.h"
#include "world/chunk.h"
#include "world/plan.h"

namespace acre {

class Field;  // field/field.h

/// Up to 64 blocks of a row: the lowest bit is one so far from the foot, others follow along x or
/// z.
struct TreeRow {
  int16_t x = 0, y = 0, z = 0;
  uint64_t bits = 0;
};

/// Part of a tree as it looks from afar: blocks x0 to x1 - 1 and so on from its foot.
struct TreeBox {
  int16_t x0 = 0, y0 = 0, z0 = 0, x1 = 0, y1 = 0, z1 = 0;
  bool leaf = false;
};

/// A tree ready to be put down. Immutable.
struct TreeStamp {
  /// All its blocks, in worlds of columns as it is seen from above: wood, then leaves, each from
  /// row to row by what lies across them.
  struct Rows {
    std::vector<TreeRow> list;
    size_t wood = 0;  ///< Rows of it.
  };
  Rows alongX, alongZ;  ///< The same blocks.
  MaterialIndex wood = kOpen, leaf = kOpen;
  /// In worlds of blocks: its trunk below the crown, and the crown in up to kMostLayers layers; of
  /// one without leaves the wood in layers. Each is a square as large as what it stands for.
  std::vector<TreeBox> boxes;
  static constexpr int kMostLayers = 3;
  uint64_t woodBlocks = 0, leafBlocks = 0;
  int32_t lowest = 0, highest = 0;  ///< Levels that it reaches.
  int32_t aside = 0;                ///< Cells that it reaches along x or z.
  uint64_t bytes() const {
    return sizeof *this + boxes.capacity() * sizeof(TreeBox) +
           (alongX.list.capacity() + alongZ.list.capacity()) * sizeof(TreeRow);
  }
};

/// Immutable but for what is remembered; thread-safe.
class ObjectTrees {
 public:
  static constexpr uint8_t kWoodRank = 1, kLeafRank = 2;

  /// plan: there for as long as this is.
  ObjectTrees(const WorldPlan& plan, const MemoLimit& memo);

  /// What an object has grown to.
  struct Grown {
    std::shared_ptr<const TreeStamp> stamp;
    uint64_t variant = 0;
    TreeWind wind;
    int quarters = 0;
    bool mirrored = false;
    /// How it lies from the object: x becomes xx * x + xz * z, z becomes zx * x + zz * z.
    class Turned {
     public:
      explicit Turned(const Grown& of);
      int x(int ofX, int ofZ) const { return xx * ofX + xz * ofZ; }
      int z(int ofX, int ofZ) const { return zx * ofX + zz * ofZ; }
      /// Those of its rows that lie along x now, wood or leaves, with z from z0 up to, and not at,
      /// z1.
      std::span<const TreeRow> rows(bool wood, int64_t z0, int64_t z1) const;
      /// Calls visit(row) with some of them as they lie now, until it returns false.
      template <class Visit>
      void eachRow(std::span<const TreeRow> list, Visit&& visit) const {
        const auto go = [&]<bool kAlongX, bool kUp>() {
          const int across = kAlongX ? zz : zx;
          for (const TreeRow& row : list) {
            const int first = kAlongX ? row.x : row.z;
            if (!visit(TreeRow{static_cast<int16_t>(kUp ? first : -(first + 63)), row.y,
                    static_cast<int16_t>(across * (kAlongX ? row.z : row.x)),
                    kUp ? row.bits : reversed(row.bits)}))
              return;
          }
        };
        // What is the same for all rows is decided once.
        const bool up = xx + xz > 0;
        if (xx != 0)
          up ? go.template operator()<true, true>() : go.template operator()<true, false>();
        else
          up ? go.template operator()<false, true>() : go.template operator()<false, false>();
      }

     private:
      static uint64_t reversed(uint64_t bits) {
        constexpr uint64_t kOnes = 0x5555555555555555, kTwos = 0x3333333333333333,
                           kFours = 0x0F0F0F0F0F0F0F0F;
        bits = (bits >> 1 & kOnes) | (bits & kOnes) << 1;
        bits = (bits >> 2 & kTwos) | (bits & kTwos) << 2;
        bits = (bits >> 4 & kFours) | (bits & kFours) << 4;
        return __builtin_bswap64(bits);
      }
      const TreeStamp* stamp_;
      int xx = 1, xz = 0, zx = 0, zz = 1;
    };
  };
  /// style: its place in the recipe. hangs: from a ceiling.
  Grown grown(size_t style, const PlacedObject& object, bool hangs) const;
  uint64_t bytes() const { return stamps_.bytes(); }

 private:
  struct Key {
    size_t style;
    uint64_t variant;
    int32_t strength;
    int32_t hangs;
    auto operator<=>(const Key&) const = default;
  };
  std::shared_ptr<const TreeStamp> stampOf(const Key& key, const TreeWind& wind) const;
  TreeWind windAt(size_t style, Cell cell) const;

  const WorldPlan& plan_;
  std::vector<const Field*> winds_;  // By style; nullptr: none.
  Memo<Key, TreeStamp> stamps_;
};

}  // namespace acre
