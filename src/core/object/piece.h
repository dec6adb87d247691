/// The cells that an object is made of.
///
/// docs/maths.md, "Objects", states where they lie and which of them hold.
#pragma once

#include <cstdint>
#include <span>
#include <string>
#include <vector>

#include "base/indices.h"
#include "recipe/recipe.h"

namespace acre {

struct ObjectPiece;  // recipe/object_recipe.h
struct TreeStyle;    // recipe/tree_recipe.h

/// A cell of a drawing, from its anchor.
struct PieceCell {
  int16_t x = 0, y = 0, z = 0;
  MaterialIndex material = kOpen;  ///< kOpen: it is opened.
};

/// A drawing ready to be put down. Immutable.
class Piece {
 public:
  /// REQUIRES: a piece and materials of a recipe that holds. blocks: for a world of blocks; else as
  /// it is seen from above.
  Piece(const ObjectPiece& drawn, const std::vector<Material>& materials, bool blocks);
  /// What a style of tree says of cells that are taken: it has none itself.
  Piece(const TreeStyle& style, const std::vector<Material>& materials, bool blocks);

  /// Neither turned nor mirrored; blocks that it fills up among them.
  std::span<const PieceCell> cells() const { return cells_; }
  /// Where one of them lies when it is mirrored (x changes its sign), then turned by so many
  /// quarters, if it may be.
  PieceCell placed(const PieceCell& cell, int quarters, bool mirrored) const;

  bool mayMirror() const { return mirror_; }
  bool follows() const { return follow_; }
  /// Of two whose cells meet, the lower rank has its way: 0, or 3 for cover.
  uint8_t rank() const { return rank_; }
  /// Whether it may take the place of what the stages made. liquid: that is one.
  bool takes(MaterialIndex made, bool liquid) const;

  /// Cells that it reaches from its object along x or z, however it is turned.
  int64_t reach() const { return reach_; }
  /// What is added to their y where the highest layer hangs from a ceiling, but for sunk levels.
  int64_t hanging() const { return hanging_; }
  /// The y of the lowest layer; what lies below is filled up, which nothing that hangs does.
  int64_t foot() const { return foot_; }
  /// The lowest and the highest of its cells' y.
  int64_t lowest() const { return lowest_; }
  int64_t highest() const { return highest_; }

 private:
  void takeOver(const std::vector<std::string>& over, const std::vector<Material>& materials);

  std::vector<PieceCell> cells_;
  std::vector<MaterialIndex> over_;  // Rising.
  bool blocks_, follow_, cuts_, turns_, mirror_;
  uint8_t rank_;
  int64_t reach_ = 0, lowest_ = 0, highest_ = 0, hanging_ = 0, foot_ = 0;
};

}  // namespace acre
