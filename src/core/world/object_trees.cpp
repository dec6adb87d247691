#include "world/object_trees.h"

#include <algorithm>
#include <cmath>
#include <cstdlib>
#include <optional>
#include <set>
#include <span>

#include "base/fp_state.h"
#include "base/hash.h"
#include "field/field.h"
#include "recipe/object_recipe.h"
#include "recipe/recipe.h"
#include "strata/material_index.h"

namespace acre {
namespace {

constexpr uint64_t kVariantSalt = 6;

/// Seen from above: the wood at the foot, and whatever is highest elsewhere.
void seenFromAbove(
    const TreeBlocks& blocks, MaterialIndex wood, MaterialIndex leaf, TreeStamp& out) {
  const auto &first = blocks.first(), &size = blocks.size();
  for (const bool wooden : {true, false})
    for (int32_t z = first.z; z < first.z + size.z; ++z)
      for (int32_t x = first.x; x < first.x + size.x; ++x) {
        auto seen = TreeBlocks::Of::Nothing;
        for (int32_t y = first.y + size.y - 1; y >= first.y && seen == TreeBlocks::Of::Nothing; --y)
          seen = blocks.at(x, y, z);
        if (blocks.at(x, 0, z) == TreeBlocks::Of::Wood) seen = TreeBlocks::Of::Wood;
        if (seen == TreeBlocks::Of::Nothing || (seen == TreeBlocks::Of::Wood) != wooden) continue;
        out.runs.push_back(
            {static_cast<int16_t>(x), 0, static_cast<int16_t>(z), 1, wooden ? wood : leaf});
        if (wooden) ++out.wood;
      }
}

void columnsOf(const TreeBlocks& blocks, MaterialIndex wood, MaterialIndex leaf, TreeStamp& out) {
  const auto &first = blocks.first(), &size = blocks.size();
  for (const auto of : {TreeBlocks::Of::Wood, TreeBlocks::Of::Leaf})
    for (int32_t z = first.z; z < first.z + size.z; ++z)
      for (int32_t x = first.x; x < first.x + size.x; ++x)
        for (int32_t y = first.y, end = first.y + size.y; y < end; ++y) {
          if (blocks.at(x, y, z) != of) continue;
          const int32_t from = y;
          while (y + 1 < end && blocks.at(x, y + 1, z) == of) ++y;
          out.runs.push_back(
              {static_cast<int16_t>(x), static_cast<int16_t>(from), static_cast<int16_t>(z),
                  static_cast<uint16_t>(y - from + 1), of == TreeBlocks::Of::Wood ? wood : leaf});
          if (of == TreeBlocks::Of::Wood) ++out.wood;
        }
}

/// What some runs are between two levels, as a square; nothing: none of them is there.
std::optional<TreeBox> boxOf(std::span<const TreeRun> runs, int32_t low, int32_t high, bool leaf) {
  std::set<std::pair<int32_t, int32_t>> columns;
  int32_t x = 0, z = 0, bottom = high, top = low;
  for (const TreeRun& run : runs) {
    const int32_t from = std::max<int32_t>(run.y, low), to = std::min(run.y + run.length, high);
    if (from >= to) continue;
    bottom = std::min(bottom, from);
    top = std::max(top, to);
    if (!columns.insert({run.x, run.z}).second) continue;
    x += run.x;
    z += run.z;
  }
  if (columns.empty()) return {};
  const auto count = static_cast<double>(columns.size());
  const auto side = static_cast<int32_t>(std::lround(std::sqrt(count)));
  const auto first = [&](int32_t sum) {
    return static_cast<int16_t>(std::lround(sum / count + 0.5 - side / 2.0));
  };
  TreeBox out{
      first(x), static_cast<int16_t>(bottom), first(z), 0, static_cast<int16_t>(top), 0, leaf};
  out.x1 = static_cast<int16_t>(out.x0 + side);
  out.z1 = static_cast<int16_t>(out.z0 + side);
  return out;
}

std::vector<TreeBox> boxesOf(const TreeStamp& stamp) {
  const auto runs = std::span(stamp.runs);
  const auto wood = runs.first(stamp.wood), leaves = runs.subspan(stamp.wood);
  const bool leafy = !leaves.empty();
  const auto crown = leafy ? leaves : wood;
  std::vector<TreeBox> out;
  if (crown.empty()) return out;
  int32_t low = INT32_MAX, high = INT32_MIN;
  for (const TreeRun& run : crown) {
    low = std::min<int32_t>(low, run.y);
    high = std::max(high, run.y + run.length);
  }
  if (leafy)
    if (const auto trunk = boxOf(wood, stamp.lowest, low, false)) out.push_back(*trunk);
  constexpr int32_t kTall = 5;  // Blocks of a layer, or more.
  const int32_t layers = std::clamp((high - low) / kTall, 1, TreeStamp::kMostLayers);
  for (int32_t n = 0; n < layers; ++n)
    if (const auto layer = boxOf(
            crown, low + (high - low) * n / layers, low + (high - low) * (n + 1) / layers, leafy))
      out.push_back(*layer);
  return out;
}

}  // namespace

ObjectTrees::ObjectTrees(const WorldPlan& plan, const MemoLimit& memo)
    : plan_(plan), stamps_(memo) {
  for (const TreeStyle& style : plan.recipe().objects->trees)
    winds_.push_back(style.wind.empty() ? nullptr : plan.field(style.wind));
}

TreeWind ObjectTrees::windAt(size_t style, Cell cell) const {
  if (!winds_[style]) return {};
  const FpState fp;
  const int64_t x = cell.x, z = plan_.layout().vertical().plane ? 0 : cell.z;
  const int32_t q = 0;
  float value;
  winds_[style]->points(plan_.kernels(), {1, {&x, nullptr, &z}, {&q, nullptr, &q}}, &value);
  return TreeWind::of(plan_.recipe().objects->trees[style], value);
}

auto ObjectTrees::grown(size_t style, const PlacedObject& object, bool hangs) const -> Grown {
  const TreeStyle& of = plan_.recipe().objects->trees[style];
  Grown out;
  out.variant = of.variants == 0
                    ? object.id
                    : combine(object.id, kVariantSalt) % static_cast<uint64_t>(of.variants);
  out.wind = windAt(style, object.cell);
  const bool still = out.wind.strength == 0;
  out.quarters = still ? object.turn : out.wind.quarters;
  out.mirrored = still && object.mirrored;
  out.stamp = stampOf({style, out.variant, out.wind.strength, hangs}, out.wind);
  return out;
}

auto ObjectTrees::stampOf(const Key& key, const TreeWind& wind) const
    -> std::shared_ptr<const TreeStamp> {
  return stamps_.get(key, {}, [&] {
    const Recipe& recipe = plan_.recipe();
    const TreeStyle& style = recipe.objects->trees[key.style];
    const TreeBlocks blocks(style,
        bentTree(style, grownTree(style, treeKey(plan_.seed(), style.id, key.variant)), wind));
    auto out = std::make_shared<TreeStamp>();
    const MaterialIndex wood = indexOf(recipe.materials, style.wood);
    const MaterialIndex leaf =
        style.leaf.empty() ? kUnassigned : indexOf(recipe.materials, style.leaf);
    if (plan_.layout().blocks())
      columnsOf(blocks, wood, leaf, *out);
    else
      seenFromAbove(blocks, wood, leaf, *out);
    for (TreeRun& run : out->runs) {
      if (key.hangs != 0) run.y = static_cast<int16_t>(1 - run.y - run.length);
      out->lowest = std::min<int32_t>(out->lowest, run.y);
      out->highest = std::max<int32_t>(out->highest, run.y + run.length - 1);
      out->aside = std::max({out->aside, std::abs(run.x), std::abs(run.z)});
    }
    out->runs.shrink_to_fit();
    if (plan_.layout().blocks()) out->boxes = boxesOf(*out);
    out->woodBlocks = blocks.wood();
    out->leafBlocks = blocks.leaves();
    return out;
  });
}

}  // namespace acre
