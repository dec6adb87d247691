/// Trees of all shapes for tests.
#pragma once

#include <vector>

#include "recipe/tree_recipe.h"

namespace acre {

/// Broad, a conifer, dead, leaning, twisted, weeping, a fallen one, a mushroom, a bush and roots.
inline std::vector<TreeStyle> treeStyles() {
  const auto style = [](const char* id, CrownShape crown, double height, double base, double radius,
                         int32_t points) {
    TreeStyle out;
    out.id = out.name = id;
    out.crown = crown;
    out.height = height;
    out.base = base;
    out.radius = radius;
    out.points = points;
    out.wood = "wood";
    out.leaf = "leaf";
    out.thickest = 6;
    return out;
  };
  TreeStyle broad = style("broad", CrownShape::Round, 21, 0.32, 10, 500);
  broad.lobes = 7;
  broad.hollow = 0.88;
  broad.leafWide = 2.5;
  broad.leafTall = 2;
  TreeStyle fir = style("fir", CrownShape::Cone, 28, 0.14, 7, 600);
  fir.leader = true;
  fir.lobes = 0;
  fir.hollow = 0;
  fir.tiers = 4;
  fir.influence = 4;
  fir.kill = 1.5;
  fir.up = -0.22;
  fir.twig = 0.15;
  fir.leaves = TreeLeaves::All;
  fir.leafWide = 1.5;
  fir.leafTall = 1;
  TreeStyle dead = style("dead", CrownShape::Dome, 16, 0.4, 7, 90);
  dead.lobes = 0;
  dead.influence = 9;
  dead.lean = 0.12;
  dead.twist = 0.1;
  dead.leaves = TreeLeaves::None;
  dead.leaf = "";
  TreeStyle leaning = style("leaning", CrownShape::Flat, 16, 0.45, 8, 300);
  leaning.lobes = 0;
  leaning.lean = 0.63;
  leaning.wind = "patches";
  leaning.toward = 210;
  TreeStyle twisted = style("twisted", CrownShape::Dome, 17, 0.38, 8, 220);
  twisted.lobes = 0;
  twisted.up = -0.12;
  twisted.twist = 0.37;
  twisted.swirl = 0.73;
  twisted.leaves = TreeLeaves::Near;
  TreeStyle weeping = style("weeping", CrownShape::Dome, 18, 0.42, 8, 320);
  weeping.lobes = 0;
  weeping.droop = 8;
  weeping.leafWide = 1;
  weeping.leafTall = 1;
  TreeStyle log = style("log", CrownShape::Round, 9, 0.8, 1.5, 20);
  log.lies = true;
  log.leaves = TreeLeaves::None;
  TreeStyle mushroom = style("mushroom", CrownShape::Round, 5, 0.9, 1, 0);
  mushroom.leaves = TreeLeaves::Cap;
  mushroom.leafWide = 3;
  mushroom.leafTall = 1.5;
  mushroom.leafFill = 1;
  TreeStyle bush = style("bush", CrownShape::Dome, 3, 0.1, 2.5, 40);
  bush.influence = 3;
  bush.kill = 0.75;
  bush.segment = 0.5;
  TreeStyle roots = style("roots", CrownShape::Cone, 10, 0, 4, 60);
  roots.leaves = TreeLeaves::None;
  roots.droop = 5;
  roots.variants = 0;
  return {broad, fir, dead, leaning, twisted, weeping, log, mushroom, bush, roots};
}

}  // namespace acre
