/// The pass that puts what was changed by hand into what the stages made.
#pragma once

#include <optional>
#include <vector>

#include "world/plan.h"

namespace acre {

/// Immutable and thread-safe. Worlds without such cells pass through it unchanged.
class EditPass {
 public:
  /// plan: there for as long as this is.
  explicit EditPass(const WorldPlan& plan);

  /// Some cells were changed by hand and show in this world.
  bool any() const { return edits_ != nullptr; }
  /// The material that a cell was given, if it was: kOpen, or the material's index. y counts in
  /// worlds of blocks alone.
  std::optional<MaterialIndex> at(Cell cell, int64_t y) const;
  /// The cells of a grid that were given a material; in worlds of blocks the columns in which some
  /// block was. Each once.
  std::vector<Cell> columnsIn(const SampleGrid& grid) const;

  // Into what was made; the first of worlds of columns, the others of worlds of blocks. What is of
  // the other kind of world stays as it is.
  void apply(const SampleGrid& grid, MaterialIndex* materials, ptrdiff_t stride) const;
  void apply(const SampleBlock& block, MaterialIndex* blocks) const;
  /// One column: levels.first + j * levels.step at blocks[j * stride].
  void apply(Cell cell, const BlockLevels& levels, MaterialIndex* blocks, size_t stride) const;

 private:
  const WorldPlan& plan_;
  const EditSet* edits_;
  std::vector<MaterialIndex> materials_;  ///< By the set's own indices.
};

}  // namespace acre
