#include "world/object_trees.h"

#include <algorithm>
#include <bit>
#include <cmath>
#include <cstdlib>
#include <optional>
#include <set>
#include <span>
#include <utility>

#include "base/fp_state.h"
#include "base/hash.h"
#include "field/field.h"
#include "recipe/object_recipe.h"
#include "recipe/recipe.h"
#include "strata/material_index.h"

namespace acre {
namespace {

constexpr uint64_t kVariantSalt = 6;

/// What is where in a world of columns: the wood at the foot, and whatever is highest elsewhere.
TreeBlocks::Of seenFromAbove(const TreeBlocks& blocks, int32_t x, int32_t z) {
  using Of = TreeBlocks::Of;
  if (blocks.at(x, 0, z) == Of::Wood) return Of::Wood;
  for (int32_t level = blocks.first().y + blocks.size().y - 1; level >= blocks.first().y; --level)
    if (const Of seen = blocks.at(x, level, z); seen != Of::Nothing) return seen;
  return Of::Nothing;
}

struct Place {
  int32_t x = 0, y = 0, z = 0;
};

/// Takes over what at(x, y, z) tells of the blocks from first on.
template <class At>
void putRows(const Place& first, const Place& size, const At& at, TreeStamp& out) {
  using Of = TreeBlocks::Of;
  constexpr int32_t kBits = 64;
  for (const bool alongX : {true, false}) {
    const auto blockAt = [&](int32_t along, int32_t y, int32_t row) {
      return alongX ? at(first.x + along, y, first.z + row) : at(first.x + row, y, first.z + along);
    };
    const int32_t length = alongX ? size.x : size.z, rows = alongX ? size.z : size.x;
    auto& [list, wood] = alongX ? out.alongX : out.alongZ;
    for (const Of of : {Of::Wood, Of::Leaf}) {
      for (int32_t row = 0; row < rows; ++row)
        for (int32_t y = first.y; y < first.y + size.y; ++y)
          for (int32_t from = 0; from < length; from += kBits) {
            uint64_t bits = 0;
            for (int32_t i = from; i < std::min(from + kBits, length); ++i)
              bits |= uint64_t{blockAt(i, y, row) == of} << (i - from);
            if (bits == 0) continue;
            list.push_back(
                {static_cast<int16_t>(first.x + (alongX ? from : row)), static_cast<int16_t>(y),
                    static_cast<int16_t>(first.z + (alongX ? row : from)), bits});
          }
      if (of == Of::Wood) wood = list.size();
    }
    list.shrink_to_fit();
  }
}

/// The blocks of rows along x.
std::vector<Place> blocksOf(std::span<const TreeRow> rows) {
  std::vector<Place> out;
  for (const TreeRow& row : rows)
    for (uint64_t rest = row.bits; rest != 0; rest &= rest - 1)
      out.push_back({row.x + std::countr_zero(rest), row.y, row.z});
  return out;
}

/// What some blocks are between two levels, as a square; nothing: none of them is there.
std::optional<TreeBox> boxOf(
    const std::vector<Place>& blocks, int32_t low, int32_t high, bool leaf) {
  std::set<std::pair<int32_t, int32_t>> columns;
  int32_t x = 0, z = 0, bottom = high, top = low;
  for (const auto& block : blocks) {
    if (block.y < low || block.y >= high) continue;
    bottom = std::min(bottom, block.y);
    top = std::max(top, block.y + 1);
    if (!columns.insert({block.x, block.z}).second) continue;
    x += block.x;
    z += block.z;
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
  const auto rows = std::span(stamp.alongX.list);
  const auto wood = blocksOf(rows.first(stamp.alongX.wood)),
             leaves = blocksOf(rows.subspan(stamp.alongX.wood));
  const bool leafy = !leaves.empty();
  const auto& crown = leafy ? leaves : wood;
  std::vector<TreeBox> out;
  if (crown.empty()) return out;
  const auto [lowest, highest] = std::minmax_element(
      crown.begin(), crown.end(), [](const Place& a, const Place& b) { return a.y < b.y; });
  const int32_t low = lowest->y, high = highest->y + 1;
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

ObjectTrees::Grown::Turned::Turned(const Grown& of) : stamp_(of.stamp.get()) {
  if (of.mirrored) xx = -1;
  for (int n = 0; n < of.quarters; ++n) {
    xx = -std::exchange(zx, xx);
    xz = -std::exchange(zz, xz);
  }
}

std::span<const TreeRow> ObjectTrees::Grown::Turned::rows(bool wood, int64_t z0, int64_t z1) const {
  const bool alongX = xx != 0;
  const auto& [list, first] = alongX ? stamp_->alongX : stamp_->alongZ;
  const auto all = wood ? std::span(list).first(first) : std::span(list).subspan(first);
  if (zx + zz < 0) z0 = 1 - std::exchange(z1, 1 - z0);
  const auto before = [&](int64_t z) {
    return std::partition_point(
        all.begin(), all.end(), [&](const TreeRow& row) { return (alongX ? row.z : row.x) < z; });
  };
  const auto from = before(z0);
  return {from, std::max(from, before(z1))};
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
    out->wood = wood;
    out->leaf = leaf;
    const auto &low = blocks.first(), &size = blocks.size();
    const bool hangs = key.hangs != 0;
    if (plan_.layout().blocks())
      putRows(
          {low.x, hangs ? 1 - low.y - size.y : low.y, low.z}, {size.x, size.y, size.z},
          [&](int32_t x, int32_t y, int32_t z) { return blocks.at(x, hangs ? -y : y, z); }, *out);
    else
      putRows(
          {low.x, 0, low.z}, {size.x, 1, size.z},
          [&](int32_t x, int32_t, int32_t z) { return seenFromAbove(blocks, x, z); }, *out);
    for (const Place& block : blocksOf(out->alongX.list)) {
      out->lowest = std::min(out->lowest, block.y);
      out->highest = std::max(out->highest, block.y);
      out->aside = std::max({out->aside, std::abs(block.x), std::abs(block.z)});
    }
    if (plan_.layout().blocks()) out->boxes = boxesOf(*out);
    out->woodBlocks = blocks.wood();
    out->leafBlocks = blocks.leaves();
    return out;
  });
}

}  // namespace acre
