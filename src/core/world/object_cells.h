/// The cells that objects are made of, in what the stages made.
#pragma once

#include <memory>
#include <optional>
#include <span>
#include <stop_token>
#include <vector>

#include "base/result.h"
#include "object/piece.h"
#include "world/cell_claim.h"
#include "world/object_pass.h"
#include "world/object_trees.h"

namespace acre {

/// Pulled from wherever cells are asked for: an object is whole whatever parts the world is cut
/// into. Immutable and thread-safe.
class ObjectCells {
 public:
  /// Coarsest samples that know of pieces; beyond, objects are signs.
  static constexpr int64_t kExactStep = int64_t{1} << kObjectDetail;

  /// Both there for as long as this is.
  ObjectCells(const WorldPlan& plan, const ObjectPass& objects, const MemoLimit& memo);

  /// Some object has cells that samples so many cells apart know of.
  bool any(int64_t step = 1) const { return !kinds_.empty() && step <= kExactStep; }
  /// Cells that any of them reaches from its object along x or z.
  int64_t reach() const { return reach_; }

  /// Claims on the cells of a rectangle, by z, x and y, the best of a cell first, whether they hold
  /// or not. In worlds of blocks those of the levels from low up to, and not at, high. Nothing when
  /// stopped.
  std::optional<std::vector<CellClaim>> claims(
      const Rect& cells, int64_t low, int64_t high, const std::stop_token& stop = {}) const;
  /// The same on all levels.
  std::optional<std::vector<CellClaim>> claims(
      const Rect& cells, const std::stop_token& stop = {}) const {
    return claims(cells, lowest(), highest(), stop);
  }
  /// Of the claims on one column, puts those that hold into its levels: y = first + j at column[j].
  void apply(
      std::span<const CellClaim> claims, int64_t first, std::span<MaterialIndex> column) const;
  /// That which has a cell, of those on it, by what the stages made there; nullptr: none.
  const CellClaim* winner(const CellClaim* first, const CellClaim* last, MaterialIndex made) const;
  /// Objects that have a claim there, by kind, then z, then x.
  std::optional<std::vector<PlacedObject>> reaching(
      const Rect& cells, int64_t low, int64_t high, const std::stop_token& stop = {}) const;
  /// What an object has grown to; nothing: it is no tree.
  std::optional<ObjectTrees::Grown> grown(const PlacedObject& object) const;
  /// Trees on the ground with their feet in some cells and on some levels, as they look from where
  /// samples do not know of them: boxes in cells, the upper ends not in them. Of more than
  /// kMostFar those with the least ids. Worlds of blocks; nothing when stopped.
  struct FarBox {
    int64_t x0, y0, z0, x1, y1, z1;
    MaterialIndex material;
    bool lowest;  ///< Of what is made of its material.
  };
  static constexpr size_t kMostFar = 4096;
  std::optional<std::vector<FarBox>> farTrees(
      const Rect& cells, int64_t low, int64_t high, const std::stop_token& stop = {}) const;
  /// Bytes that are remembered.
  uint64_t bytes() const { return trees_.bytes(); }

  /// The same on all levels.
  std::optional<std::vector<PlacedObject>> reaching(
      const Rect& cells, const std::stop_token& stop = {}) const {
    return reaching(cells, lowest(), highest(), stop);
  }

  // Into what the stages made: worlds of columns, ...
  Status apply(const SampleGrid& grid, MaterialIndex* materials, ptrdiff_t stride,
      const std::stop_token& stop = {}) const;
  // ... and worlds of blocks: a regular block, or y = levels.first + j * levels.step of scattered
  // columns at blocks[j * columns + i].
  Status apply(
      const SampleBlock& block, MaterialIndex* blocks, const std::stop_token& stop = {}) const;
  Status apply(int columns, const Cell* cells, const BlockLevels& levels, MaterialIndex* blocks,
      const std::stop_token& stop = {}) const;

 private:
  /// What an object is made of.
  struct Made {
    std::shared_ptr<const Piece> piece;  ///< Of a tree: what it says of cells, without any.
    std::optional<size_t> style;         ///< Of a tree: in the recipe.
    TreeReach reach;                     ///< Of a tree.
  };
  struct Kind {
    size_t kind;             ///< In the recipe.
    std::vector<Made> made;  ///< By choice; else the one of the kind.
    int64_t reach = 0;
    bool inCaves = false, hangs = false;
  };
  /// The levels that claims lie on: from the first up to, and not at, the second.
  int64_t lowest() const { return plan_.layout().blocks() ? plan_.vertical().min : 0; }
  int64_t highest() const {
    return lowest() + (plan_.layout().blocks() ? plan_.vertical().extent : 1);
  }
  static const Made& madeOf(const Kind& kind, const PlacedObject& object);
  /// Calls planted(object, what it is made of) with all trees, and drawn(object, claim) with all
  /// claims of others. False when stopped.
  template <class Planted, class Drawn>
  bool eachMade(const Rect& cells, int64_t low, int64_t high, const std::stop_token& stop,
      Planted&& planted, Drawn&& drawn) const;
  /// Calls visit(object, claim) with all of a rectangle. False when stopped.
  template <class Visit>
  bool each(const Rect& cells, int64_t low, int64_t high, const std::stop_token& stop,
      Visit&& visit) const;

  /// A part of a block, exact.
  Status applyPart(const SampleBlock& block, const Rect& cells, MaterialIndex* blocks,
      const std::stop_token& stop) const;

  const WorldPlan& plan_;
  const ObjectPass& objects_;
  ObjectTrees trees_;
  std::vector<Kind> kinds_;
  int64_t reach_ = 0;
};

}  // namespace acre
