/// Trees to look at by themselves.
#pragma once

#include <vector>

#include "object/tree.h"
#include "recipe/recipe.h"
#include "view/scene.h"

namespace acre {

struct TreeStyle;  // recipe/tree_recipe.h

/// Materials of such scenes.
inline constexpr MaterialIndex kTreeWood = 1, kTreeLeaf = 2;

/// What is shown of a tree.
struct TreeShown {
  bool wood = true, leaves = true;
  int32_t slice = INT32_MAX;  ///< Blocks from there on south are left out: a cross-section.
  MaterialIndex woodAs = kTreeWood, leafAs = kTreeLeaf;
};
/// Adds the faces of a tree that stands with its foot at a block.
void addToScene(const TreeBlocks& blocks, int64_t x, int64_t y, int64_t z, const TreeShown& shown,
    Scene& scene);

/// Colours of the materials that a style names; grey and green where they are none.
ViewStyle styleFor(const TreeStyle& style, const std::vector<Material>& materials);

/// An eye that sees a tree whole, from a side: degrees clockwise from north that it looks in, and
/// upward. width, height: of the picture.
Eye eyeAbout(const TreeBlocks& tree, double yaw, double pitch, int32_t width, int32_t height);

/// One picture of each, row by row, so many to a row, all at one scale.
ViewPicture treeSheet(const std::vector<TreeBlocks>& trees, const ViewStyle& style, int across,
    int32_t width, int32_t height);

}  // namespace acre
