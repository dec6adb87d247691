/// The trees of a world, grown when they are asked for and remembered.
#pragma once

#include <compare>
#include <memory>
#include <utility>
#include <vector>

#include "base/memo.h"
#include "object/tree.h"
#include "world/chunk.h"
#include "world/plan.h"

namespace acre {

class Field;  // field/field.h

/// Blocks over each other, of one material, from the foot of a tree.
struct TreeRun {
  int16_t x = 0, y = 0, z = 0;
  uint16_t length = 1;
  MaterialIndex material = kOpen;
};

/// Part of a tree as it looks from afar: blocks x0 to x1 - 1 and so on from its foot.
struct TreeBox {
  int16_t x0 = 0, y0 = 0, z0 = 0, x1 = 0, y1 = 0, z1 = 0;
  bool leaf = false;
};

/// A tree ready to be put down. Immutable.
struct TreeStamp {
  std::vector<TreeRun> runs;  ///< Wood, then leaves.
  /// In worlds of blocks: its trunk below the crown, and the crown in up to kMostLayers layers; of
  /// one without leaves the wood in layers. Each is a square as large as what it stands for.
  std::vector<TreeBox> boxes;
  static constexpr int kMostLayers = 3;
  size_t wood = 0;  ///< Runs of it.
  uint64_t woodBlocks = 0, leafBlocks = 0;
  int32_t lowest = 0, highest = 0;  ///< Levels that it reaches.
  int32_t aside = 0;                ///< Cells that it reaches along x or z.
  uint64_t bytes() const {
    return sizeof *this + runs.capacity() * sizeof(TreeRun) + boxes.capacity() * sizeof(TreeBox);
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
    /// How runs of it lie from the object: x becomes xx * x + xz * z, z becomes zx * x + zz * z.
    struct Turned {
      int xx = 1, xz = 0, zx = 0, zz = 1;
      explicit Turned(const Grown& of) {
        if (of.mirrored) xx = -1;
        for (int n = 0; n < of.quarters; ++n) {
          xx = -std::exchange(zx, xx);
          xz = -std::exchange(zz, xz);
        }
      }
      int x(const TreeRun& run) const { return xx * run.x + xz * run.z; }
      int z(const TreeRun& run) const { return zx * run.x + zz * run.z; }
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
