/// Trees of the second evaluator, as docs/maths.md, "Trees", has them: nothing is sought by where
/// it lies, nothing is remembered.
#pragma once

#include <cstdint>
#include <map>
#include <tuple>
#include <vector>

#include "recipe/tree_recipe.h"

namespace reference {

struct Branch {
  int64_t x, y, z;
  int parent;
  bool trunk, strand;
  int64_t square;  ///< Of its radius.
};

/// The nodes of a variant. seed: of the world.
std::vector<Branch> treeNodes(const acre::TreeStyle& style, uint64_t seed, uint64_t variant);
/// Its blocks by x, y and z: true are leaves. wind: 0 to 3, to one of the first four sixteenths.
std::map<std::tuple<int64_t, int64_t, int64_t>, bool> treeBlocks(
    const acre::TreeStyle& style, uint64_t seed, uint64_t variant, int wind, int part);

}  // namespace reference
