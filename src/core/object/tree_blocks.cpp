#include <algorithm>
#include <array>
#include <cstdlib>

#include "base/coords.h"
#include "base/hash.h"
#include "object/tree.h"
#include "object/tree_units.h"
#include "recipe/tree_recipe.h"

namespace acre {
namespace {

constexpr uint64_t kThin = 5;
constexpr int64_t kThick = 38;  ///< Wood of at least this radius is more than a line of blocks.
constexpr int64_t kStrandWide = 56, kStrandTall = 64;

int64_t blockOf(int64_t units) {
  return floorDiv(units, kTreeUnit);
}
int64_t middleOf(int64_t block) {
  return block * kTreeUnit + kTreeUnit / 2;
}

}  // namespace

/// Where leaves are, and of what size.
struct TreeBlocks::Bunches {
  std::vector<uint8_t> bears;  // By node.
  int64_t wide, tall, fill;
  uint64_t thin;
  bool cap;

  Bunches(const TreeStyle& style, const TreeSkeleton& tree)
      : bears(tree.nodes.size(), 0),
        wide(treeLength(style.leafWide)),
        tall(treeLength(style.leafTall)),
        fill(treeShare(style.leafFill)),
        thin(combine(combine(tree.key, kThin), 0)),
        cap(style.leaves == TreeLeaves::Cap) {
    const std::vector<TreeNode>& nodes = tree.nodes;
    size_t last = 0;  // Of the trunk.
    for (size_t n = 0; n < nodes.size(); ++n)
      if (nodes[n].trunk) last = n;
    // Steps to the nearest end above.
    constexpr int32_t kFar = INT32_MAX / 2;
    std::vector<int32_t> steps(nodes.size(), kFar);
    for (size_t n = nodes.size(); n-- > 0;) {
      if (nodes[n].children == 0 || nodes[n].strand) steps[n] = 0;
      if (nodes[n].parent >= 0) {
        int32_t& below = steps[static_cast<size_t>(nodes[n].parent)];
        below = std::min(below, steps[n] + 1);
      }
    }
    for (size_t n = 0; n < nodes.size(); ++n) {
      const TreeNode& node = nodes[n];
      bears[n] = [&] {
        switch (style.leaves) {
          case TreeLeaves::None:
            return false;
          case TreeLeaves::Tips:
            return steps[n] == 0;
          case TreeLeaves::Near:
            return steps[n] <= style.leafReach && (!node.trunk || n == last);
          case TreeLeaves::All:
            return !node.trunk || (style.leader && tree.heightOf(n) > tree.highestBranch);
          case TreeLeaves::Cap:
            return n == last;
        }
        return false;
      }();
    }
  }
  int64_t wideOf(const TreeNode& node) const { return node.strand ? kStrandWide : wide; }
  int64_t tallOf(const TreeNode& node) const { return node.strand ? kStrandTall : tall; }
};

TreeBlocks::TreeBlocks(const TreeStyle& style, const TreeSkeleton& bent) {
  const Bunches bunches(style, bent);
  enclose(bent, bunches);
  const bool bare = style.leaves == TreeLeaves::None;
  for (const TreeNode& node : bent.nodes)
    if (node.parent >= 0 && (!node.strand || bare))
      putWood(bent.nodes[static_cast<size_t>(node.parent)], node);
  for (size_t n = 0; n < bent.nodes.size(); ++n)
    if (bunches.bears[n]) putLeaves(bent.nodes[n], bunches);
  for (Of& block : blocks_) {
    if (block == Of::Thinned) block = Of::Nothing;
    wood_ += block == Of::Wood;
    leaves_ += block == Of::Leaf;
  }
}

void TreeBlocks::enclose(const TreeSkeleton& bent, const Bunches& bunches) {
  std::array<int64_t, 3> low, high;
  low.fill(INT64_MAX);
  high.fill(INT64_MIN);
  for (size_t n = 0; n < bent.nodes.size(); ++n) {
    const TreeNode& node = bent.nodes[n];
    // A node's wood is as thick as its parent at most, which has its own place here.
    const int64_t wood = rootOf(node.square) + kTreeUnit / 2;
    const int64_t wide = std::max(wood, bunches.bears[n] ? bunches.wideOf(node) : 0);
    const int64_t tall = std::max(wood, bunches.bears[n] ? bunches.tallOf(node) : 0);
    const std::array<int64_t, 3> at = {node.x, node.y, node.z}, far = {wide, tall, wide};
    for (size_t a = 0; a < 3; ++a) {
      low[a] = std::min(low[a], blockOf(at[a] - far[a]));
      high[a] = std::max(high[a], blockOf(at[a] + far[a]));
    }
  }
  first_ = {
      static_cast<int32_t>(low[0]), static_cast<int32_t>(low[1]), static_cast<int32_t>(low[2])};
  size_ = {static_cast<int32_t>(high[0] - low[0] + 1), static_cast<int32_t>(high[1] - low[1] + 1),
      static_cast<int32_t>(high[2] - low[2] + 1)};
  blocks_.assign(
      static_cast<size_t>(size_.x) * static_cast<size_t>(size_.y) * static_cast<size_t>(size_.z),
      Of::Nothing);
}

auto TreeBlocks::at(int32_t x, int32_t y, int32_t z) const -> Of {
  if (x < first_.x || y < first_.y || z < first_.z || x >= first_.x + size_.x ||
      y >= first_.y + size_.y || z >= first_.z + size_.z)
    return Of::Nothing;
  return blocks_[placeOf(x, y, z)];
}

void TreeBlocks::putWood(const TreeNode& from, const TreeNode& to) {
  const int64_t dx = to.x - from.x, dy = to.y - from.y, dz = to.z - from.z;
  const auto put = [&](int64_t x, int64_t y, int64_t z) {
    blocks_[placeOf(static_cast<int32_t>(x), static_cast<int32_t>(y), static_cast<int32_t>(z))] =
        Of::Wood;
  };
  const int64_t steps = std::max({std::abs(dx), std::abs(dy), std::abs(dz)}) / 32 + 1;
  for (int64_t t = 0; t <= steps; ++t)
    put(blockOf(from.x + dx * t / steps), blockOf(from.y + dy * t / steps),
        blockOf(from.z + dz * t / steps));
  const int64_t r = rootOf(to.square);
  if (r < kThick) return;
  const int64_t whole = dx * dx + dy * dy + dz * dz;
  const auto ends = [&](int64_t a, int64_t b, int32_t first, int32_t size) {
    return std::pair(std::max<int64_t>(first, blockOf(std::min(a, b) - r)),
        std::min<int64_t>(first + size - 1, blockOf(std::max(a, b) + r)));
  };
  const auto [x0, x1] = ends(from.x, to.x, first_.x, size_.x);
  const auto [y0, y1] = ends(from.y, to.y, first_.y, size_.y);
  const auto [z0, z1] = ends(from.z, to.z, first_.z, size_.z);
  for (int64_t y = y0; y <= y1; ++y)
    for (int64_t z = z0; z <= z1; ++z)
      for (int64_t x = x0; x <= x1; ++x) {
        int64_t px = middleOf(x) - from.x, py = middleOf(y) - from.y, pz = middleOf(z) - from.z;
        const int64_t along = px * dx + py * dy + pz * dz;
        if (along >= whole) {
          px -= dx;
          py -= dy;
          pz -= dz;
        }
        const int64_t away = px * px + py * py + pz * pz;
        const bool within = along <= 0 || along >= whole
                                ? away <= to.square
                                : (away - to.square) * whole <= along * along;
        if (within) put(x, y, z);
      }
}

void TreeBlocks::putLeaves(const TreeNode& about, const Bunches& bunches) {
  const int64_t wide = bunches.wideOf(about), tall = bunches.tallOf(about);
  const int64_t a = wide * wide, b = tall * tall;
  for (int64_t y = blockOf(about.y - tall); y <= blockOf(about.y + tall); ++y) {
    const int64_t dy = middleOf(y) - about.y;
    if (bunches.cap && dy < 0) continue;
    for (int64_t z = blockOf(about.z - wide); z <= blockOf(about.z + wide); ++z) {
      const int64_t dz = middleOf(z) - about.z;
      for (int64_t x = blockOf(about.x - wide); x <= blockOf(about.x + wide); ++x) {
        const int64_t dx = middleOf(x) - about.x;
        const int64_t out = (dx * dx + dz * dz) * b + dy * dy * a;
        if (out > a * b) continue;
        Of& block = blocks_[placeOf(
            static_cast<int32_t>(x), static_cast<int32_t>(y), static_cast<int32_t>(z))];
        if (block == Of::Wood || block == Of::Leaf) continue;
        if (2 * out <= a * b) {
          block = Of::Leaf;
        } else if (block == Of::Nothing) {
          // It says the same to every bunch.
          uint64_t h = bunches.thin;
          for (const int64_t at : {x, y, z}) h = combine(h, static_cast<uint64_t>(at));
          const bool stays = static_cast<int64_t>(h % 1000) < bunches.fill;
          block = stays ? Of::Leaf : Of::Thinned;
        }
      }
    }
  }
}

TreeReach reachOf(const TreeStyle& style) {
  const int64_t largest = 1000 + treeShare(style.vary);
  const int64_t height = treeLength(style.height) * largest / 1000 + 1;
  const int64_t segment = treeLength(style.segment);
  const int64_t top = height + segment;
  // Of the trunk's line at its top, which is as far as it goes.
  const int64_t lean = std::abs(treeFactor(style.lean)) * ((top + top * top / height) / 2) / 4096;
  const int64_t twist = std::abs(treeFactor(style.twist)) * (height / 2) / 4096 * 17 / 16;
  const int64_t branch = treeLength(style.radius) * largest / 1000 + segment;
  const int64_t strands = style.droop > 0 ? segment / 2 : 0;
  const int64_t wind = style.wind.empty() ? 0 : top * 3 / 8;
  const int64_t thickest = std::max(treeLength(style.thickest), treeLength(style.twig));
  const bool bare = style.leaves == TreeLeaves::None;
  const int64_t wide =
      std::max(thickest, bare ? 0 : std::max(kStrandWide, treeLength(style.leafWide)));
  const int64_t tall =
      std::max(thickest, bare ? 0 : std::max(kStrandTall, treeLength(style.leafTall)));
  TreeReach out;
  const int64_t aside = lean + twist + branch + strands + wind;
  if (!style.lies) {
    out.aside = blockOf(aside + wide + kTreeUnit) + 1;
    out.up = blockOf(top + tall + kTreeUnit) + 1;
    out.down = blockOf(tall + kTreeUnit) + 1;
  } else {
    out.aside = blockOf(std::max(aside, top) + wide + kTreeUnit) + 1;
    out.up = blockOf(aside + thickest + tall + kTreeUnit) + 1;
    out.down = out.up;
  }
  return out;
}

}  // namespace acre
