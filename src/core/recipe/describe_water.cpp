#include "recipe/describe.h"
#include "recipe/water_recipe.h"

namespace acre {

void describe(Visitor& v, Rivers& rivers) {
  const MembersOf m(v, rivers, "rivers");
  m.on(&Rivers::on);
  m(&Rivers::spring, "spring", "Spring",
      "Bricks of 32 x 28 cells of land that drain through a place where a river shows.",
      number(limits::spring, 1).wholeOnly());
  m(&Rivers::lakes, "lakes", "Lakes",
      "Share of the hollows at least two cells deep that hold a lake.", share(0.005));
  m(&Rivers::closed, "closed", "Closed", "Share of those lakes without an outlet.", share(0.005));
  m(&Rivers::carve, "carve", "Deepest cut",
      "Cells that a channel may lie below the land it crosses.", cells(limits::carve, 0.5));
  m(&Rivers::growth, "growth", "Growth", "Cells of width per root of the drained bricks.",
      cells(limits::riverGrowth, 0.01));
  m(&Rivers::widest, "widest", "Widest", "Most cells that a river is wide.",
      cells(limits::riverWidth, 0.5));
  m(&Rivers::depth, "depth", "Bed",
      "Most cells by which the middle of a bed lies deeper than its edges.",
      cells(limits::riverDepth, 0.1));
  m(&Rivers::valley, "valley", "Valley",
      "Cells that a valley reaches beyond the banks, per cell of half the river's width; at most "
      "46.",
      cells(limits::valley, 0.1));
  m(&Rivers::sides, "sides", "Sides", "Rise of a valley's sides per cell.",
      cells(limits::valleySides, 0.01));
  m(&Rivers::meander, "meander", "Meanders",
      "Cells by which narrow rivers stray from the straight course; wide ones more, at most 9.",
      cells(limits::meander, 0.1));
  m(&Rivers::water, "material", "Water", "Its material; none: one sees the bed.",
      sparse().of(Role::Listed));
  m(&Rivers::bed, "bed", "Bed is",
      "Material under fresh water, before any band; none: as they say.", sparse().of(Role::Listed));
  m(&Rivers::bank, "bank", "Bank is",
      "Material of dry ground beside fresh water, before any band; none: as they say.",
      sparse().of(Role::Listed));
  m(&Rivers::bankReach, "bankReach", "Bank", "Cells that the bank reaches from the water.",
      sparse(cells(limits::shore, 0.5)));
  m(&Rivers::wet, "wet", "Wet ground is",
      "Material of dry ground beyond the bank, before any band; none: as they say.",
      sparse().of(Role::Listed));
  m(&Rivers::wetReach, "wetReach", "Wet ground",
      "Cells that wet ground reaches from the water, no farther than its valley.",
      sparse(cells(limits::shore, 0.5)));
}

}  // namespace acre
