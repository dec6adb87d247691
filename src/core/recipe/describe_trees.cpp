#include <fmt/format.h>

#include "recipe/describe.h"
#include "recipe/tree_recipe.h"

namespace acre {

const Words& wordsOf(CrownShape) {
  static const Words kShapes = {"round", "cone", "dome", "flat"};
  return kShapes;
}

const Words& wordsOf(TreeLeaves) {
  static const Words kLeaves = {"none", "tips", "near", "all", "cap"};
  return kLeaves;
}

namespace {

void seeCrown(const MembersOf<TreeStyle>& m) {
  m(&TreeStyle::crown, "crown", "Crown",
      "What holds its points: a ball, a cone, a half ball, or wide at the top.", sparse());
  m(&TreeStyle::height, "height", "Height", "Of the tree.", must(blocks(limits::treeHeight, 1)));
  m(&TreeStyle::radius, "radius", "Radius", "Of the crown.", must(blocks(limits::treeRadius, 1)));
  m(&TreeStyle::base, "base", "Crown from", "Of the height, where the crown begins.",
      sparse(share(0.05, limits::treeBase)));
  m(&TreeStyle::vary, "vary", "Differ by", "Of height and radius, up and down, from tree to tree.",
      sparse(share(0.05, limits::treeVary)));
  m(&TreeStyle::hollow, "hollow", "Hollow", "Of the points well within the crown, left out.",
      sparse(share(0.05)));
  m(&TreeStyle::lobes, "lobes", "Lobes", "Balls that the crown is parted into; 0: it is one.",
      sparse(number(limits::treeLobes, 1)));
  m(&TreeStyle::tiers, "tiers", "Floors", "Height of each floor of a cone; 0: it has none.",
      sparse(blocks(limits::treeTiers, 0.5)));
}

void seeGrowth(const MembersOf<TreeStyle>& m) {
  m(&TreeStyle::points, "points", "Points", "That branches grow to.",
      must(number(limits::treePoints, 25)));
  m(&TreeStyle::influence, "influence", "Influence", "How near a branch has to be to grow to one.",
      must(blocks(limits::treeNear, 0.5)));
  m(&TreeStyle::kill, "kill", "Kill", "How near a branch comes to it before it is gone.",
      must(blocks(limits::treeNear, 0.25)));
  m(&TreeStyle::segment, "segment", "Segment", "Of a branch, that grows in one round.",
      sparse(blocks(limits::treeSegment, 0.25)));
  m(&TreeStyle::leader, "leader", "Leader", "The trunk goes up to the top.", sparse());
  m(&TreeStyle::up, "up", "Upward", "How much branches are drawn up; below 0 down.",
      sparse(number(limits::treeUp, 0.05)));
  m(&TreeStyle::swirl, "swirl", "Swirl", "How much branches go round the trunk.",
      sparse(number(limits::treeUp, 0.05)));
  m(&TreeStyle::lean, "lean", "Lean",
      "Blocks aside for each block of height, each to its own side.",
      sparse(number(limits::treeLean, 0.05)));
  m(&TreeStyle::twist, "twist", "Twist", "How far the trunk winds, for each block of height.",
      sparse(number(limits::treeLean, 0.05)));
  m(&TreeStyle::droop, "droop", "Droop", "Longest strand that hangs from the ends.",
      sparse(blocks(limits::treeDroop, 1)));
  m(&TreeStyle::lies, "lies", "Lies", "It has fallen.", sparse());
}

}  // namespace

void describe(Visitor& v, TreeStyle& style) {
  const MembersOf m(v, style, "treeStyle");
  m.idAndName();
  m(&TreeStyle::variants, "variants", "Variants",
      "That are grown, and turned and mirrored; 0: every tree is one of its own.",
      sparse(number(limits::treeVariants, 1)));
  seeCrown(m);
  seeGrowth(m);
  m(&TreeStyle::twig, "twig", "Twig", "Radius of the ends.",
      sparse(blocks(limits::treeWood, 0.05)));
  m(&TreeStyle::thickest, "thickest", "Thickest", "Radius of the trunk, at most.",
      sparse(blocks(limits::treeWood, 0.1)));
  m(&TreeStyle::wood, "wood", "Wood", "Material.", must().of(Role::Listed));
  m(&TreeStyle::leaves, "leaves", "Leaves",
      "Nowhere, at the ends of branches, near these, on all branches, or a cap alone.", sparse());
  m(&TreeStyle::leafReach, "leafReach", "Leaves within",
      "Segments from an end, of leaves that are near it.",
      sparse(number(limits::treeLeafReach, 1)));
  m(&TreeStyle::leafWide, "leafWide", "Bunch across",
      "Half of a bunch of leaves, from side to side.", sparse(blocks(limits::treeLeaf, 0.25)));
  m(&TreeStyle::leafTall, "leafTall", "Bunch up", "The same up and down.",
      sparse(blocks(limits::treeLeaf, 0.25)));
  m(&TreeStyle::leafFill, "leafFill", "Bunch filled", "Of its outer half.", sparse(share(0.05)));
  m(&TreeStyle::leaf, "leaf", "Leaf", "Material.", sparse().of(Role::Listed));
  m(&TreeStyle::over, "over", "Over", "Materials whose place it takes, besides open blocks.",
      sparse().of(Role::Listed).upTo(limits::materials));
  m(&TreeStyle::wind, "wind", "Wind",
      "Field that tells how much it leans, 0 to 1; none: not at all.", sparse().of(Role::Field));
  m(&TreeStyle::toward, "toward", "Toward", "Degrees from north, clockwise, that the wind goes to.",
      sparse(number(limits::compass, 22.5, "degrees")));
  v.rule([&](Ruling& rules) {
    if (style.kill > style.influence)
      rules.refuse("kill", fmt::format("{} is more than the influence", style.kill),
          fmt::format("at most {}, the influence", style.influence));
    if (style.segment > 2 * style.radius)
      rules.refuse("segment", fmt::format("{} is more than the crown is wide", style.segment),
          fmt::format("at most {}", 2 * style.radius));
    if (style.thickest < style.twig)
      rules.refuse("thickest", fmt::format("{} is thinner than a twig", style.thickest),
          fmt::format("at least {}", style.twig));
    const bool bare = style.leaves == TreeLeaves::None, cap = style.leaves == TreeLeaves::Cap;
    if (style.points == 0 && !bare && !cap)
      rules.refuse("points", "a crown of nothing", "at least 1, or no leaves, or a cap");
    if (style.leaf.empty() && !bare)
      rules.refuse("leaf", "leaves of nothing", "a material, or no leaves");
  });
}

}  // namespace acre
