/// How trees grow, as plain values.
#pragma once

#include <string>
#include <vector>

namespace acre {

/// What holds a tree's attraction points: a ball, a cone, a half ball, or wide at the top.
enum class CrownShape { Round, Cone, Dome, Flat };

/// Where leaves are: nowhere, at the ends of branches, near these, on all branches, or a cap alone.
enum class TreeLeaves { None, Tips, Near, All, Cap };

/// A style of tree. Lengths are in blocks. docs/maths.md, "Trees", says what each of them does.
struct TreeStyle {
  std::string id;
  std::string name;
  int32_t variants = 8;  ///< Grown once each; 0: every tree is one of its own.
  // The crown.
  CrownShape crown = CrownShape::Round;
  double height = 16;
  double radius = 6;
  double base = 0.35;   ///< Share of the height where the crown begins.
  double vary = 0.15;   ///< Share that heights and radii differ by.
  double hollow = 0.6;  ///< Share of the points within that are left out.
  int32_t lobes = 6;    ///< Balls that the crown is parted into; 0: it is one.
  double tiers = 0;     ///< Height of each floor of a cone; 0: it has none.
  // How it grows.
  int32_t points = 300;
  double influence = 7;
  double kill = 2;
  double segment = 1;
  bool leader = false;  ///< The trunk goes up to the top.
  double up = 0.1;      ///< Branches are drawn up, or below 0 down.
  double swirl = 0;     ///< They go round the trunk.
  double lean = 0;      ///< Blocks per block of height.
  double twist = 0;     ///< How far the trunk winds, by height.
  int32_t droop = 0;    ///< Longest strand that hangs from the ends.
  bool lies = false;
  // Wood.
  double twig = 0.25;
  double thickest = 1.5;
  std::string wood;
  // Leaves.
  TreeLeaves leaves = TreeLeaves::Tips;
  int32_t leafReach = 2;  ///< Segments from an end, for those near it.
  double leafWide = 2;
  double leafTall = 1.5;
  double leafFill = 0.6;  ///< Share of the outer half of each bunch that is there.
  std::string leaf;
  std::vector<std::string> over;  ///< Materials whose place it takes, but for open blocks.
  // The wind.
  std::string wind;    ///< A field that tells how much it leans, 0 to 1; empty: not at all.
  double toward = 90;  ///< Degrees from north, clockwise.
  bool operator==(const TreeStyle&) const = default;
};

}  // namespace acre
