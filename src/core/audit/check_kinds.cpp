#include "audit/check_kinds.h"

#include <algorithm>

namespace acre {

std::span<const CheckKind> checkKinds() {
  static constexpr CheckKind kKinds[] = {
      {"flat",
          "Lattice noise is 0 at every lattice point. Where all octaves fall on lattice points at "
          "every cell, the layer is flat."},
      {"aliasing",
          "Features narrower than two cells are not drawn, they alias: neighbouring cells have "
          "nothing to do with each other."},
      {"static-octaves",
          "Octaves narrower than two cells add grain without shape, and take their time."},
      {"no-effect", "A layer that changes nothing still takes its time."},
      {"range",
          "A rescale expects values of a range. What lies beyond is carried on beyond, and a clamp "
          "makes it flat."},
      {"never", "A band that no cell reaches shows nowhere; most often a threshold is in its way."},
      {"no-biome", "The stage Biomes is on, and there is no biome that it could give."},
      {"uncovered",
          "Where no rule of the chart holds, cells have no biome. They are hatched on the map."},
      {"unreachable",
          "Climates of the world do not come as far as the biome's place on the chart."},
      {"hidden-rule",
          "Of areas the first one that holds decides. One that earlier areas cover whole never "
          "does."},
      {"correlated",
          "Temperature and moisture that rise and fall together leave two corners of the chart "
          "empty."},
      {"cut-regions", "A strong warp cuts pieces off regions, which lie as islets in others."},
      {"islets-stay",
          "Islets are found up to a size. Wider warps cut off pieces that are larger, and those "
          "stay."},
      {"open-steps",
          "Beside a column two or more cells higher than its neighbour, one cell a column leaves a "
          "hole that one can see through."},
      {"cut-range", "Columns that end above or below the levels that exist are cut off flat."},
      {"no-overhang", "Overhangs that push by nothing leave the ground as it was, and take time."},
      {"ore-short",
          "There is not enough of the host rock in the vertical range for so much of an ore."},
      {"no-systems", "Where too few squares hold a system, none may lie for thousands of cells."},
      {"straight-tunnels",
          "Passages that go as the crow flies look drilled; detours make them wind."},
      {"round-tunnels",
          "Passages as round as pipes look made; rough walls and a varying bore help."},
      {"closed-tunnels", "Systems without a way to the open air are never found on foot."},
      {"melted-tunnels", "Systems that reach far into each other's squares run together into one."},
      {"torn-tunnels", "A passage that falls into parts cannot be walked from end to end."},
      {"hollow", "Where more than a quarter of the ground is open, little is left to stand on."},
      {"never-open", "A part of the caves that opens nothing takes its time all the same."},
      {"idle-process", "A process that changes no cell of its floor could be left out."},
      {"thin-margin", "Open cells nearer to the edge than the margin look out of the level."},
      {"broken-place", "A place that must be there was filled or cut off by changes by hand."},
      {"cut-course", "What is laid over a course later fills part of it: the rest leads nowhere."},
      {"all-open", "A floor that is open almost everywhere is a hall, not a level."},
      {"no-rivers",
          "Where too little land drains through any place nothing springs, and the stage does "
          "nothing."},
      {"no-mouth", "Land that drains nowhere near the sea is wholly in basins of its own."},
      {"dead-rivers",
          "Closed lakes and sinks take rivers up for good. A few look natural, many look broken."},
      {"much-lake", "Where every hollow holds a lake little dry ground is left between them."},
      {"deep-channel", "A channel far below the land that it crosses is a gorge, and cuts paths."},
      {"cut-area",
          "A river is as large as the land within 64 bricks upstream. Farther down it may become "
          "narrower again."},
      {"side-by-side",
          "Rivers that run side by side look combed; narrower ones have room between them."},
      {"courses-fail",
          "Where obstacles take more than about a third of the ground hardly any way leads through "
          "it. Each that was given up is listed with its reason."},
      {"crowded-objects",
          "What keeps its distance fills the ground at some density; asking for more changes "
          "nothing."},
      {"missing-objects",
          "Where no place of a square holds all conditions there is none. Fewer conditions, larger "
          "squares, or the place that fails last."},
      {"no-objects", "A kind whose conditions no place meets could be left out."},
      {"never-free",
          "A piece takes the place of what is open, and of materials that it names; one that is "
          "sunk "
          "too deep, or named none, shows nowhere."},
      {"overlapping-pieces",
          "Pieces that are wider than the distance between them run into each other; the one with "
          "the lower number keeps the cell."},
      {"floating-leaves",
          "The outer half of a bunch of leaves is thinned out; where little is left, or bunches "
          "are "
          "far from wood, some hang in the air."},
      {"unreached-points",
          "Branches grow to points that are near enough. Those that none comes to cost time and "
          "change nothing."},
      {"alike-trees",
          "Variants are turned and mirrored, but the eye finds twins; sizes and lobes part them."},
      {"far-trees",
          "Every chunk asks for all trees that may reach it: the farther they do, the more it "
          "asks."},
      {"meeting-crowns",
          "Crowns that stand nearer than half of their width grow through each other; of two "
          "leaves in a cell that of the lower number stays."},
      {"lost-tiles", "A set whose picture cannot be read is not drawn, nor any other."},
      {"open-rims",
          "Pictures that lie side by side have to meet along their common rim, or lines break "
          "off."},
      {"tile-sizes",
          "Sets of several sizes are drawn at one scale: some pixels are doubled, or left "
          "out."},
      {"missing-tiles", "Where a case has no picture the map shows what lies below."},
      {"hidden-tiles",
          "Pictures without anything clear, on the tiles of a border too, hide all that lies under "
          "them."},
      {"no-tiles", "A group none of whose materials is there costs time and shows nowhere."},
      {"no-group", "What belongs to no group lies below all of them: their borders run around it."},
      {"way-blocked", "Solid objects on a floor close ways like walls do."},
      {"unassigned",
          "Cells that no band covers have no material; they are hatched on the map and empty in "
          "exports."},
  };
  return kKinds;
}

std::string_view whatIs(std::string_view id) {
  const auto kinds = checkKinds();
  const auto found =
      std::find_if(kinds.begin(), kinds.end(), [&](const CheckKind& k) { return k.id == id; });
  return found == kinds.end() ? std::string_view() : found->what;
}

}  // namespace acre
