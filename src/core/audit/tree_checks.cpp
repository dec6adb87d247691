#include "audit/tree_checks.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <set>
#include <string>

#include "recipe/limits.h"
#include "recipe/object_recipe.h"
#include "world/world.h"

namespace acre {
namespace {

constexpr size_t kVariants = 8;      ///< Variants of each style.
constexpr int64_t kFarthest = 64;    ///< Cells that a tree may reach before it is told.
constexpr double kAlike = 0.8;       ///< Share of blocks in common that makes two alike.
constexpr uint64_t kFewFloat = 500;  ///< One leaf of so many is not seen.
constexpr double kUnreached = 0.1;   ///< Share of points.

/// Leaves that no chain of blocks, each beside the next, leads from to wood.
uint64_t floatingIn(const TreeBlocks& blocks) {
  const auto &first = blocks.first(), &size = blocks.size();
  const auto at = [&](const std::array<int32_t, 3>& p) {
    return (static_cast<size_t>(p[1] - first.y) * static_cast<size_t>(size.z) +
               static_cast<size_t>(p[2] - first.z)) *
               static_cast<size_t>(size.x) +
           static_cast<size_t>(p[0] - first.x);
  };
  std::vector<uint8_t> met(
      static_cast<size_t>(size.x) * static_cast<size_t>(size.y) * static_cast<size_t>(size.z));
  std::vector<std::array<int32_t, 3>> open;
  for (int32_t y = first.y; y < first.y + size.y; ++y)
    for (int32_t z = first.z; z < first.z + size.z; ++z)
      for (int32_t x = first.x; x < first.x + size.x; ++x)
        if (blocks.at(x, y, z) == TreeBlocks::Of::Wood) {
          open.push_back({x, y, z});
          met[at(open.back())] = 1;
        }
  uint64_t held = 0;
  while (!open.empty()) {
    const auto p = open.back();
    open.pop_back();
    held += blocks.at(p[0], p[1], p[2]) == TreeBlocks::Of::Leaf;
    for (int n = 0; n < 27; ++n) {
      const std::array<int32_t, 3> next = {
          p[0] + n % 3 - 1, p[1] + n / 3 % 3 - 1, p[2] + n / 9 - 1};
      if (blocks.at(next[0], next[1], next[2]) == TreeBlocks::Of::Nothing || met[at(next)])
        continue;
      met[at(next)] = 1;
      open.push_back(next);
    }
  }
  return blocks.leaves() - held;
}

double alikeIn(const TreeBlocks& a, const TreeBlocks& b) {
  size_t shared = 0;
  const auto &first = a.first(), &size = a.size();
  for (int32_t y = first.y; y < first.y + size.y; ++y)
    for (int32_t z = first.z; z < first.z + size.z; ++z)
      for (int32_t x = first.x; x < first.x + size.x; ++x)
        shared +=
            a.at(x, y, z) != TreeBlocks::Of::Nothing && b.at(x, y, z) != TreeBlocks::Of::Nothing;
  const size_t most = std::max(a.wood() + a.leaves(), b.wood() + b.leaves());
  return most == 0 ? 0 : static_cast<double>(shared) / static_cast<double>(most);
}

/// Kinds that are on and grow in a style, by their places.
std::vector<size_t> kindsOf(const Objects& objects, const std::string& style) {
  std::vector<size_t> out;
  for (size_t k = 0; k < objects.kinds.size(); ++k) {
    const ObjectKind& kind = objects.kinds[k];
    const bool drawn = std::any_of(kind.what.begin(), kind.what.end(),
        [&](const ObjectChoice& one) { return one.tree == style; });
    if (kind.on && (drawn || kind.tree == style)) out.push_back(k);
  }
  return out;
}

void checkStyle(
    const Objects& objects, size_t n, const TreeFigures& found, std::vector<Check>& out) {
  const TreeStyle& style = objects.trees[n];
  const std::string at = fmt::format("/objects/trees/{}", n);
  const auto tell = [&](const char* id, std::string what, const char* member, const char* mend = "",
                        std::function<void(TreeStyle&)> change = {}) {
    Check check{id, fmt::format("{}: {}", style.name, what), StageId::Objects, at + member,
        style.id, mend, {}, {}};
    if (change)
      check.apply = [id = style.id, change](Recipe& r) {
        for (TreeStyle& of : r.objects->trees)
          if (of.id == id) change(of);
      };
    out.push_back(std::move(check));
  };
  if (found.floating * kFewFloat > found.leaves)
    tell("floating-leaves",
        fmt::format("{} of {} leaves hang on nothing", found.floating, found.leaves), "/leafFill",
        "fill its bunches", [](TreeStyle& of) { of.leafFill = 1; });
  if (static_cast<double>(found.unreached) > kUnreached * static_cast<double>(found.points))
    tell("unreached-points",
        fmt::format("no branch comes to {} of {} points", found.unreached, found.points),
        "/influence", "let branches grow to points from farther away",
        [](TreeStyle& of) { of.influence = std::min(limits::treeNear.high, of.influence * 1.5); });
  if (style.variants > 1 && found.alike > kAlike)
    tell("alike-trees",
        fmt::format(
            "two of its variants have {:.0f} % of their blocks in common", 100 * found.alike),
        "/vary", "let them differ more", [](TreeStyle& of) {
          of.vary = std::min(limits::treeVary.high, of.vary + 0.1);
          of.lobes = std::max(of.lobes, 5);
        });
  const TreeReach reach = reachOf(style);
  if (const int64_t far = std::max(reach.aside, reach.up); far > kFarthest)
    tell("far-trees", fmt::format("it may reach {} cells: every chunk looks so far about", far),
        reach.up > reach.aside ? "/height" : "/radius");
  for (const size_t k : kindsOf(objects, style.id)) {
    const ObjectKind& kind = objects.kinds[k];
    const auto wide = static_cast<int32_t>(2 * style.radius);
    if (kind.must || kind.distance * 2 >= wide) continue;
    out.push_back({"meeting-crowns",
        fmt::format("{}: crowns of \"{}\" are {} cells wide, and {} lie between two of them",
            kind.name, style.name, wide, kind.distance),
        StageId::Objects, fmt::format("/objects/kinds/{}/distance", k), kind.id,
        "keep half of that apart",
        [id = kind.id, wide](Recipe& r) {
          for (ObjectKind& of : r.objects->kinds)
            if (of.id == id) of.distance = std::clamp((wide + 1) / 2, 1, 64);
        },
        {}});
  }
}

}  // namespace

std::optional<TreeFigures> treeFigures(
    const TreeStyle& style, uint64_t seed, size_t most, const std::stop_token& stop) {
  TreeFigures out;
  const size_t count =
      style.variants == 0 ? most : std::min(most, static_cast<size_t>(style.variants));
  std::vector<TreeBlocks> trees;
  for (uint64_t variant = 0; variant < count; ++variant) {
    if (stop.stop_requested()) return {};
    TreeGrowth growth(style, treeKey(seed, style.id, variant));
    while (growth.grow()) {
    }
    const TreeSkeleton tree = growth.skeleton();
    out.points += growth.points().size();
    out.unreached += static_cast<uint64_t>(tree.unreached);
    trees.emplace_back(style, bentTree(style, tree, {}));
    out.wood += trees.back().wood();
    out.leaves += trees.back().leaves();
    out.floating += floatingIn(trees.back());
    for (size_t other = 0; other < variant; ++other)
      out.alike = std::max(out.alike, alikeIn(trees.back(), trees[other]));
  }
  out.trees = trees.size();
  return out;
}

bool checkTrees(const World& world, const std::stop_token& stop, std::vector<Check>& out) {
  const Objects& objects = *world.recipe().objects;
  for (size_t n = 0; n < objects.trees.size(); ++n) {
    if (kindsOf(objects, objects.trees[n].id).empty()) continue;
    const auto found = treeFigures(objects.trees[n], planOf(world).seed(), kVariants, stop);
    if (!found) return false;
    checkStyle(objects, n, *found, out);
  }
  return true;
}

}  // namespace acre
