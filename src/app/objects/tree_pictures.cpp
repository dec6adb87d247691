#include "app/objects/tree_pictures.h"

#include <algorithm>

#include "app/map/painted.h"
#include "recipe/object_recipe.h"
#include "view/tree_scene.h"
#include "world/world.h"

namespace app {
namespace {

constexpr int kMost = 6, kAcross = 3;  ///< Variants of one picture.

/// Nothing: the recipe has it no more.
const acre::TreeStyle* styleIn(const acre::World& world, const std::string& id) {
  for (const acre::TreeStyle& style : planOf(world).recipe().objects->trees)
    if (style.id == id) return &style;
  return nullptr;
}

acre::TreeBlocks treeOf(
    const acre::World& world, const acre::TreeStyle& style, int variant, bool windy) {
  const uint64_t key =
      acre::treeKey(planOf(world).seed(), style.id, static_cast<uint64_t>(variant));
  const acre::TreeWind wind =
      windy || !style.wind.empty() ? acre::TreeWind::of(style, 1) : acre::TreeWind();
  return {style, acre::bentTree(style, acre::grownTree(style, key), wind)};
}

/// Side by side on the paper of the tooltip.
QImage sheetOf(const std::vector<acre::TreeBlocks>& trees, const acre::World& world,
    const acre::TreeStyle& style, int across, QSize size) {
  acre::ViewStyle inks = acre::styleFor(style, planOf(world).recipe().materials);
  inks.sky = inks.fog = acre::kPaperColour;
  return imageOf(acre::treeSheet(trees, inks, across, size.width(), size.height()));
}

}  // namespace

Pictures treesOf(
    const acre::World& low, const acre::World& high, const std::string& id, Trees which) {
  const acre::TreeStyle *a = styleIn(low, id), *b = styleIn(high, id);
  if (!a || !b) return {};
  if (which != Trees::Variants) {
    const bool windy = which == Trees::InWind;
    const QSize both(2 * kSmallPicture.width(), kSmallPicture.height());
    const QImage made =
        sheetOf({treeOf(low, *a, 0, windy), treeOf(high, *b, 0, windy)}, low, *a, 2, both);
    return {made.copy(QRect(QPoint(), kSmallPicture)),
        made.copy(QRect(QPoint(kSmallPicture.width(), 0), kSmallPicture))};
  }
  const auto variants = [](const acre::World& world, const acre::TreeStyle& style) {
    std::vector<acre::TreeBlocks> trees;
    // Where every tree is one of its own there are more than fit.
    const int many = style.variants == 0 ? kMost : std::min(kMost, style.variants);
    for (int n = 0; n < many; ++n) trees.push_back(treeOf(world, style, n, false));
    return sheetOf(trees, world, style, kAcross, kSmallPicture);
  };
  return {variants(low, *a), variants(high, *b)};
}

}  // namespace app
