/// Trees grown by space colonisation, in whole numbers, so that they are the same everywhere.
///
/// A. Runions, B. Lane, P. Prusinkiewicz, "Modeling trees with a space colonization algorithm",
/// Eurographics Workshop on Natural Phenomena, 2007. docs/maths.md, "Trees", states every step.
#pragma once

#include <cstdint>
#include <memory>
#include <span>
#include <string_view>
#include <vector>

namespace acre {

struct TreeStyle;  // recipe/tree_recipe.h

/// Lengths are whole numbers of 1/64 block.
inline constexpr int64_t kTreeUnit = 64;

struct TreeNode {
  int64_t x = 0, y = 0, z = 0;
  int32_t parent = -1;  ///< An earlier one; -1: the root.
  int32_t children = 0;
  int64_t square = 0;  ///< Of its radius.
  bool trunk = false;
  bool strand = false;  ///< It hangs from an end.
};

/// A place that branches grow to.
struct TreePoint {
  int64_t x = 0, y = 0, z = 0;
  int64_t away = 0;   ///< Square of the distance to its node.
  int32_t node = -1;  ///< The nearest, if any is near enough.
  bool gone = false;  ///< A branch has come to it.
};

/// What wood grows along.
struct TreeSkeleton {
  uint64_t key = 0;
  std::vector<TreeNode> nodes;
  int64_t highestBranch = 0;  ///< Height of the highest node of the trunk that has a branch.
  bool lies = false;          ///< Heights lie along x.
  int32_t rounds = 0;
  int32_t unreached = 0;  ///< Points that no branch came to.
  /// Of a node, while it stood.
  int64_t heightOf(size_t node) const { return lies ? nodes[node].x : nodes[node].y; }
};

/// Where the wind goes and how hard it blows.
struct TreeWind {
  int32_t strength = 0;  ///< 0 to 3.
  int32_t quarters = 0;  ///< That the tree is turned by.
  int32_t part = 0;      ///< Sixteenths of a turn besides, 0 to 3: there the skeleton leans.
  bool operator==(const TreeWind&) const = default;
  /// value: of the style's field, beyond 0 and 1 as at these.
  static TreeWind of(const TreeStyle& style, float value);
};

/// The key of a variant. seed: of the world.
uint64_t treeKey(uint64_t seed, std::string_view style, uint64_t variant);

/// A tree while it grows.
class TreeGrowth {
 public:
  /// REQUIRES: a style of a recipe that holds.
  TreeGrowth(const TreeStyle& style, uint64_t key);
  ~TreeGrowth();

  /// One round. False: it has ended, and nothing changed.
  bool grow();
  int32_t rounds() const { return rounds_; }
  std::span<const TreePoint> points() const { return points_; }
  std::span<const TreeNode> nodes() const { return nodes_; }
  /// As it is now, with its strands and radii.
  TreeSkeleton skeleton() const;

 private:
  struct Form;
  class Grid;
  void scatterPoints();
  void raiseTrunk();
  void addTrunk(int64_t y);
  /// The points learn of a node.
  void touch(int32_t node);
  bool anyHeld() const;

  uint64_t key_;
  std::unique_ptr<const Form> form_;
  std::vector<TreePoint> points_;
  std::unique_ptr<const Grid> grid_;  // Of the points.
  std::vector<TreeNode> nodes_;
  std::vector<int32_t> lastChild_;  // Of each node, of those that rounds gave it; -1: none.
  int32_t rounds_ = 0;
};

/// Grown to its end.
TreeSkeleton grownTree(const TreeStyle& style, uint64_t key);
/// Leaning with the wind, and lying if the style does.
TreeSkeleton bentTree(const TreeStyle& style, TreeSkeleton grown, const TreeWind& wind);

/// Blocks of a tree in the box that holds them, from its foot.
class TreeBlocks {
 public:
  enum class Of : uint8_t { Nothing, Wood, Leaf, Thinned };  // The last while it is made.
  struct Size {
    int32_t x = 0, y = 0, z = 0;
  };

  /// bent: of the style.
  TreeBlocks(const TreeStyle& style, const TreeSkeleton& bent);

  const Size& first() const { return first_; }
  const Size& size() const { return size_; }
  /// Of any block.
  Of at(int32_t x, int32_t y, int32_t z) const;
  size_t wood() const { return wood_; }
  size_t leaves() const { return leaves_; }
  uint64_t bytes() const { return sizeof *this + blocks_.capacity(); }

 private:
  size_t placeOf(int32_t x, int32_t y, int32_t z) const {
    return (static_cast<size_t>(y - first_.y) * static_cast<size_t>(size_.z) +
               static_cast<size_t>(z - first_.z)) *
               static_cast<size_t>(size_.x) +
           static_cast<size_t>(x - first_.x);
  }
  struct Bunches;
  void enclose(const TreeSkeleton& bent, const Bunches& bunches);
  void putWood(const TreeNode& from, const TreeNode& to);
  void putLeaves(const TreeNode& about, const Bunches& bunches);

  Size first_, size_;
  std::vector<Of> blocks_;
  size_t wood_ = 0, leaves_ = 0;
};

/// How far from its foot a block of the style's trees may lie, along x or z and up.
struct TreeReach {
  int64_t aside = 0, up = 0, down = 0;
};
TreeReach reachOf(const TreeStyle& style);

}  // namespace acre
