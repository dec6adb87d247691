#include "object/tree.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <optional>
#include <utility>

#include "base/hash.h"
#include "object/tree_units.h"
#include "recipe/tree_recipe.h"

namespace acre {
namespace {

constexpr uint64_t kTreeStage = 0x5472656573;  // "Trees"
constexpr uint64_t kSizes = 0, kPlace = 1, kChance = 2, kLobe = 3, kStrand = 4;
constexpr int32_t kMostRounds = 400;

int64_t squared(int64_t v) {
  return v * v;
}

/// Whole parts in 1/16 of a turn, from east over south.
int64_t cosOf(int64_t k) {
  static constexpr int64_t kCos[16] = {4096, 3784, 2896, 1567, 0, -1567, -2896, -3784, -4096, -3784,
      -2896, -1567, 0, 1567, 2896, 3784};
  return kCos[k & 15];
}
int64_t sinOf(int64_t k) {
  return cosOf(k - 4);
}

}  // namespace

int64_t rootOf(int64_t n) {
  auto root = static_cast<int64_t>(std::sqrt(static_cast<double>(n)));
  while (root * root > n) --root;
  while ((root + 1) * (root + 1) <= n) ++root;
  return root;
}

uint64_t treeKey(uint64_t seed, std::string_view style, uint64_t variant) {
  return combine(combine(combine(seed, kTreeStage), hashText(style)), variant);
}

TreeWind TreeWind::of(const TreeStyle& style, float value) {
  TreeWind out;
  out.strength = static_cast<int32_t>(std::floor(3 * std::clamp(value, 0.0f, 1.0f) + 0.5f));
  const auto sixteenth = (static_cast<int64_t>(std::floor(style.toward / 22.5 + 0.5)) + 12) & 15;
  out.quarters = static_cast<int32_t>(sixteenth / 4);
  out.part = static_cast<int32_t>(sixteenth % 4);
  return out;
}

// ---- the form ----------------------------------------------------------------------------------

/// A style in whole numbers, as this variant has it.
struct TreeGrowth::Form {
  const TreeStyle style;
  uint64_t key;
  int64_t height, radius, base, half;
  int64_t segment, influence, kill, hollow, tiers;
  int64_t up, swirl, lean, twist;
  int64_t leanTo, phase;

  Form(const TreeStyle& of, uint64_t k)
      : style(of),
        key(k),
        segment(treeLength(of.segment)),
        influence(treeLength(of.influence)),
        kill(treeLength(of.kill)),
        hollow(treeShare(of.hollow)),
        tiers(treeLength(of.tiers)),
        up(treeFactor(of.up)),
        swirl(treeFactor(of.swirl)),
        lean(treeFactor(of.lean)),
        twist(treeFactor(of.twist)) {
    const uint64_t s = draw(kSizes, 0);
    const auto vary = treeShare(of.vary);
    const auto sized = [&](double length, uint64_t bits) {
      const auto drawn =
          static_cast<int64_t>((bits & 0xFFFF) % static_cast<uint64_t>(2 * vary + 1));
      return std::max<int64_t>(1, treeLength(length) * (1000 - vary + drawn) / 1000);
    };
    height = sized(of.height, s);
    radius = sized(of.radius, s >> 16);
    base = height * treeShare(of.base) / 1000;
    half = std::max<int64_t>(1, (height - base) / 2);
    leanTo = static_cast<int64_t>(s >> 32 & 15);
    phase = static_cast<int64_t>(s >> 36 & 15);
  }
  uint64_t draw(uint64_t what, uint64_t number) const {
    return combine(combine(key, what), number);
  }
  struct Aside {
    int64_t x, z;
  };
  /// The trunk's line.
  Aside trunkAt(int64_t y) const {
    const int64_t middle = (y + y * y / height) / 2;
    Aside out{
        lean * cosOf(leanTo) / 4096 * middle / 4096, lean * sinOf(leanTo) / 4096 * middle / 4096};
    if (twist != 0) {
      const int64_t angle = 256 * phase + 4 * y, k = angle >> 8, part = angle & 255;
      const int64_t wide = twist * std::min(y, height / 2) / 4096;
      out.x += (cosOf(k) * (256 - part) + cosOf(k + 1) * part) / 256 * wide / 4096;
      out.z += (sinOf(k) * (256 - part) + sinOf(k + 1) * part) / 256 * wide / 4096;
    }
    return out;
  }
  /// The square of the crown's radius so high over its beginning.
  int64_t crownAt(int64_t h) const {
    const int64_t whole = squared(radius);
    switch (style.crown) {
      case CrownShape::Round:
        return whole - whole * squared(h - half) / squared(half);
      case CrownShape::Dome:
        return whole - whole * squared(h) / (4 * squared(half));
      case CrownShape::Cone: {
        int64_t w = radius * (2 * half - h) / (2 * half);
        if (tiers > 0) {
          const int64_t m = h % tiers;
          w = w * (1000 - 550 * m / tiers) / 1000;
          if (8 * m > 5 * tiers) w /= 3;
        }
        return squared(w);
      }
      case CrownShape::Flat: {
        const int64_t wide = squared(radius * (400 + 600 * h / (2 * half)) / 1000);
        return 5 * h > 8 * half ? wide * (2 * half - h) * 5 / (2 * half) : wide;
      }
    }
    return 0;
  }
};

/// Points by where they are, in cubes of half the influence, in their order within each.
class TreeGrowth::Grid {
 public:
  Grid(const std::vector<TreePoint>& points, int64_t influence)
      : cube_(std::max<int64_t>(32, influence / 2)) {
    if (points.empty()) return;
    first_ = last_ = {points[0].x, points[0].y, points[0].z};
    for (const TreePoint& p : points) {
      const std::array<int64_t, 3> at = {p.x, p.y, p.z};
      for (size_t a = 0; a < 3; ++a) {
        first_[a] = std::min(first_[a], at[a]);
        last_[a] = std::max(last_[a], at[a]);
      }
    }
    for (size_t a = 0; a < 3; ++a) count_[a] = (last_[a] - first_[a]) / cube_ + 1;
    starts_.assign(static_cast<size_t>(count_[0] * count_[1] * count_[2]) + 1, 0);
    std::vector<size_t> cubes;
    for (const TreePoint& p : points) {
      cubes.push_back(static_cast<size_t>(
          ((p.y - first_[1]) / cube_ * count_[2] + (p.z - first_[2]) / cube_) * count_[0] +
          (p.x - first_[0]) / cube_));
      ++starts_[cubes.back() + 1];
    }
    for (size_t n = 1; n < starts_.size(); ++n) starts_[n] += starts_[n - 1];
    order_.resize(points.size());
    std::vector<uint32_t> next(starts_.begin(), starts_.end() - 1);
    for (size_t n = 0; n < points.size(); ++n) order_[next[cubes[n]]++] = static_cast<uint32_t>(n);
  }
  /// Calls visit with all points that may lie within a distance.
  template <class Visit>
  void about(const TreeNode& node, int64_t distance, Visit&& visit) const {
    if (order_.empty()) return;
    const std::array<int64_t, 3> at = {node.x, node.y, node.z};
    std::array<int64_t, 3> low, high;
    for (size_t a = 0; a < 3; ++a) {
      if (at[a] + distance < first_[a] || at[a] - distance > last_[a]) return;
      low[a] = std::max<int64_t>(0, (at[a] - distance - first_[a]) / cube_);
      high[a] = std::min(count_[a] - 1, (at[a] + distance - first_[a]) / cube_);
    }
    for (int64_t j = low[1]; j <= high[1]; ++j)
      for (int64_t k = low[2]; k <= high[2]; ++k) {
        const int64_t row = (j * count_[2] + k) * count_[0];
        const auto end = starts_[static_cast<size_t>(row + high[0] + 1)];
        for (auto n = starts_[static_cast<size_t>(row + low[0])]; n < end; ++n) visit(order_[n]);
      }
  }

 private:
  int64_t cube_;
  std::array<int64_t, 3> first_ = {}, last_ = {}, count_ = {};
  std::vector<uint32_t> starts_, order_;
};

// ---- growing -----------------------------------------------------------------------------------

TreeGrowth::TreeGrowth(const TreeStyle& style, uint64_t key)
    : key_(key), form_(std::make_unique<const Form>(style, key)) {
  scatterPoints();
  grid_ = std::make_unique<const Grid>(points_, form_->influence);
  raiseTrunk();
}

TreeGrowth::~TreeGrowth() = default;

void TreeGrowth::scatterPoints() {
  const Form& f = *form_;
  const TreeStyle& style = f.style;
  struct Lobe {
    int64_t x, y, z, square;
  };
  std::vector<Lobe> lobes;
  for (int32_t i = 0; i < style.lobes; ++i) {
    const uint64_t g = f.draw(kLobe, static_cast<uint64_t>(i));
    const auto k = static_cast<int64_t>(g & 15);
    const int64_t r = f.radius * (30 + static_cast<int64_t>((g >> 8) % 25)) / 100;
    Lobe lobe{cosOf(k) * (f.radius - r) / 4096,
        f.half * (50 + static_cast<int64_t>((g >> 16) % 110)) / 100,
        sinOf(k) * (f.radius - r) / 4096, r * r};
    if (i == 0) lobe = {0, f.half * 3 / 2, 0, r * r};
    lobes.push_back(lobe);
  }
  const auto wanted = static_cast<size_t>(style.points);
  for (uint64_t t = 0; t < 10 * wanted && points_.size() < wanted; ++t) {
    const uint64_t a = f.draw(kPlace, t);
    const auto part = [&](int shift, int64_t whole) {
      return static_cast<int64_t>(a >> shift & 0xFFFF) * 2 * whole / 65536;
    };
    const int64_t x = part(0, f.radius) - f.radius, z = part(16, f.radius) - f.radius;
    const int64_t h = part(32, f.half), q = x * x + z * z, most = f.crownAt(h);
    if (q > most) continue;
    const bool lobed = std::any_of(lobes.begin(), lobes.end(), [&](const Lobe& lobe) {
      return squared(x - lobe.x) + squared((h - lobe.y) * 5 / 4) + squared(z - lobe.z) <=
             lobe.square;
    });
    if (!lobes.empty() && !lobed) continue;
    if (static_cast<int64_t>(f.draw(kChance, t) % 1000) < f.hollow && 4 * q < most &&
        2 * h < 3 * f.half && style.crown != CrownShape::Flat)
      continue;
    const Form::Aside trunk = f.trunkAt(f.base + h);
    points_.push_back({x + trunk.x, f.base + h, z + trunk.z});
  }
}

void TreeGrowth::addTrunk(int64_t y) {
  const Form::Aside at = form_->trunkAt(y);
  const auto parent = static_cast<int32_t>(nodes_.size()) - 1;
  nodes_.push_back({at.x, y, at.z, parent});
  nodes_.back().trunk = true;
  lastChild_.push_back(-1);
  touch(parent + 1);
}

void TreeGrowth::raiseTrunk() {
  const Form& f = *form_;
  const int64_t top = f.style.leader ? f.height : f.base;
  for (int64_t y = 0; y < top; y += f.segment) addTrunk(y);
  addTrunk(top);
  while (!anyHeld() && nodes_.back().y < f.height)
    addTrunk(std::min(f.height, nodes_.back().y + f.segment));
}

bool TreeGrowth::anyHeld() const {
  return std::any_of(
      points_.begin(), points_.end(), [](const TreePoint& p) { return !p.gone && p.node >= 0; });
}

void TreeGrowth::touch(int32_t node) {
  const TreeNode& at = nodes_[static_cast<size_t>(node)];
  const int64_t near = squared(form_->influence), kill = squared(form_->kill);
  grid_->about(at, form_->influence, [&](uint32_t n) {
    TreePoint& p = points_[n];
    if (p.gone) return;
    const int64_t away = squared(p.x - at.x) + squared(p.y - at.y) + squared(p.z - at.z);
    if (away > near) return;
    if (p.node < 0 || away < p.away) {
      p.away = away;
      p.node = node;
    }
    p.gone = away <= kill;
  });
}

bool TreeGrowth::grow() {
  const Form& f = *form_;
  if (rounds_ == kMostRounds || nodes_.size() >= 4 * static_cast<size_t>(f.style.points) + 200)
    return false;
  struct Pull {
    int64_t x = 0, y = 0, z = 0, count = 0;
    size_t first = 0;
  };
  std::vector<Pull> pulls(nodes_.size());
  bool any = false;
  for (size_t n = 0; n < points_.size(); ++n) {
    const TreePoint& p = points_[n];
    if (p.gone || p.node < 0) continue;
    any = true;
    const TreeNode& node = nodes_[static_cast<size_t>(p.node)];
    Pull& pull = pulls[static_cast<size_t>(p.node)];
    const int64_t away = std::max<int64_t>(1, rootOf(p.away));
    pull.x += (p.x - node.x) * 4096 / away;
    pull.y += (p.y - node.y) * 4096 / away;
    pull.z += (p.z - node.z) * 4096 / away;
    if (pull.count++ == 0) pull.first = n;
  }
  if (!any) return false;
  ++rounds_;
  const size_t before = nodes_.size();
  for (size_t k = 0; k < before; ++k) {
    const Pull& pull = pulls[k];
    if (pull.count == 0) continue;
    const TreeNode node = nodes_[k];
    int64_t x = pull.x, y = pull.y + f.up * pull.count, z = pull.z;
    if (f.swirl != 0) {
      const Form::Aside trunk = f.trunkAt(node.y);
      const int64_t ox = node.x - trunk.x, oz = node.z - trunk.z;
      const int64_t out = std::max<int64_t>(64, rootOf(ox * ox + oz * oz));
      x += -oz * f.swirl / out * pull.count;
      z += ox * f.swirl / out * pull.count;
    }
    const int64_t length = rootOf(x * x + y * y + z * z);
    const auto child = [&]() -> std::optional<TreeNode> {
      if (length < 64) return {};
      TreeNode made{node.x + x * f.segment / length, node.y + y * f.segment / length,
          node.z + z * f.segment / length, static_cast<int32_t>(k)};
      if (made.y < 0 || made.y > f.height + f.segment) return {};
      const Form::Aside trunk = f.trunkAt(made.y);
      if (squared(made.x - trunk.x) + squared(made.z - trunk.z) > squared(f.radius + f.segment))
        return {};
      if (lastChild_[k] >= 0) {
        const TreeNode& last = nodes_[static_cast<size_t>(lastChild_[k])];
        if (9 * (squared(made.x - last.x) + squared(made.y - last.y) + squared(made.z - last.z)) <
            squared(f.segment))
          return {};
      }
      return made;
    }();
    if (!child) {
      points_[pull.first].gone = true;
      continue;
    }
    lastChild_[k] = static_cast<int32_t>(nodes_.size());
    nodes_.push_back(*child);
    lastChild_.push_back(-1);
  }
  for (size_t k = before; k < nodes_.size(); ++k) touch(static_cast<int32_t>(k));
  return true;
}

// ---- what has grown ----------------------------------------------------------------------------

namespace {

void countChildren(std::vector<TreeNode>& nodes) {
  for (TreeNode& node : nodes) node.children = 0;
  for (const TreeNode& node : nodes)
    if (node.parent >= 0) ++nodes[static_cast<size_t>(node.parent)].children;
}

/// Takes the end of the trunk away that bears nothing: all that lies higher. Nothing grows on it.
void cutTop(std::vector<TreeNode>& nodes, int64_t above) {
  std::vector<int32_t> now(nodes.size(), -1);
  std::vector<TreeNode> kept;
  for (size_t n = 0; n < nodes.size(); ++n) {
    if (nodes[n].trunk && nodes[n].y > above) continue;
    now[n] = static_cast<int32_t>(kept.size());
    kept.push_back(nodes[n]);
    if (kept.back().parent >= 0) kept.back().parent = now[static_cast<size_t>(kept.back().parent)];
  }
  nodes = std::move(kept);
}

void findRadii(std::vector<TreeNode>& nodes, int64_t twig, int64_t thickest) {
  for (TreeNode& node : nodes) node.square = 0;
  for (size_t n = nodes.size(); n-- > 0;) {
    TreeNode& node = nodes[n];
    if (node.strand) {
      node.square = 1;
      continue;
    }
    if (node.square == 0) node.square = twig * twig;
    if (node.parent >= 0) nodes[static_cast<size_t>(node.parent)].square += node.square;
  }
  const int64_t root = rootOf(nodes[0].square);
  if (root <= thickest) return;
  for (TreeNode& node : nodes)
    if (!node.strand && node.square > twig * twig)
      node.square =
          squared(twig + (rootOf(node.square) - twig) * (thickest - twig) / (root - twig));
}

}  // namespace

TreeSkeleton TreeGrowth::skeleton() const {
  const Form& f = *form_;
  TreeSkeleton out;
  out.key = key_;
  out.nodes = nodes_;
  out.rounds = rounds_;
  out.unreached = static_cast<int32_t>(
      std::count_if(points_.begin(), points_.end(), [](const TreePoint& p) { return !p.gone; }));
  for (const TreeNode& node : nodes_)
    if (node.parent >= 0 && !node.trunk) {
      const TreeNode& from = nodes_[static_cast<size_t>(node.parent)];
      if (from.trunk) out.highestBranch = std::max(out.highestBranch, from.y);
    }
  if (f.style.leader) cutTop(out.nodes, out.highestBranch + 4 * kTreeUnit);
  countChildren(out.nodes);
  if (f.style.droop > 0) {
    const size_t grown = out.nodes.size();
    for (size_t k = 0; k < grown; ++k) {
      const TreeNode node = out.nodes[k];
      if (node.children > 0 || node.trunk) continue;
      const TreeNode& parent = out.nodes[static_cast<size_t>(node.parent)];
      const int64_t dx = (node.x - parent.x) / 4, dz = (node.z - parent.z) / 4;
      const uint64_t count = 1 + f.draw(kStrand, k) % static_cast<uint64_t>(f.style.droop);
      auto last = static_cast<int32_t>(k);
      for (uint64_t n = 0; n < count && out.nodes[static_cast<size_t>(last)].y >= 192; ++n) {
        TreeNode next = out.nodes[static_cast<size_t>(last)];
        next.y -= kTreeUnit;
        if (n < 2) {
          next.x += dx;
          next.z += dz;
        }
        next.parent = last;
        next.strand = true;
        last = static_cast<int32_t>(out.nodes.size());
        out.nodes.push_back(next);
      }
    }
    countChildren(out.nodes);
  }
  findRadii(out.nodes, treeLength(f.style.twig), treeLength(f.style.thickest));
  return out;
}

TreeSkeleton grownTree(const TreeStyle& style, uint64_t key) {
  TreeGrowth growth(style, key);
  while (growth.grow()) {
  }
  return growth.skeleton();
}

TreeSkeleton bentTree(const TreeStyle& style, TreeSkeleton grown, const TreeWind& wind) {
  if (wind.strength > 0)
    for (TreeNode& node : grown.nodes) {
      const int64_t aside = node.y * wind.strength;
      node.x += cosOf(wind.part) * aside / 32768;
      node.z += sinOf(wind.part) * aside / 32768;
    }
  if (style.lies) {
    const int64_t root = rootOf(grown.nodes[0].square);
    for (TreeNode& node : grown.nodes) {
      std::swap(node.x, node.y);
      node.y += root;
    }
    grown.lies = true;
  }
  return grown;
}

}  // namespace acre
