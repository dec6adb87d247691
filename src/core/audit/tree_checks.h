/// Known mistakes with how trees grow.
#pragma once

#include <stop_token>
#include <vector>

#include "audit/checks.h"
#include "object/tree.h"

namespace acre {

struct TreeStyle;  // recipe/tree_recipe.h

/// What is told of some variants of a style.
struct TreeFigures {
  size_t trees = 0;
  uint64_t wood = 0, leaves = 0;  ///< Blocks of all of them.
  uint64_t floating = 0;          ///< Leaves that hang together with no wood.
  uint64_t points = 0, unreached = 0;
  double alike = 0;  ///< Share of blocks that the two most alike of them have in common.
};
/// Of up to so many variants, from the first; nothing when stopped. seed: of the world.
std::optional<TreeFigures> treeFigures(
    const TreeStyle& style, uint64_t seed, size_t most, const std::stop_token& stop = {});

/// Styles that some kind uses: leaves that float, points that no branch reaches, variants that are
/// alike, trees that reach too far, and crowns that meet. False when stopped.
bool checkTrees(const World& world, const std::stop_token& stop, std::vector<Check>& out);

}  // namespace acre
