/// Caves as plain values: voids of noise, tunnel systems, automata, and what lines them.
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "recipe/automaton_rule.h"
#include "recipe/field_recipe.h"

namespace acre {

/// Open where one noise, or two, lie within their bands. Of the depth d = height - (y + 1) of a
/// cell the curve makes a factor f: both bands shrink about their middles to f times their width;
/// nothing is open where d < 0.
struct NoiseVoid {
  std::string id;
  bool on = true;
  NoiseBand first;
  std::optional<NoiseBand> second;
  Curve curve;            ///< Factor by depth in cells; empty: 1 everywhere.
  bool underSea = false;  ///< May open the bed of the sea.
  bool operator==(const NoiseVoid&) const = default;
};

/// Systems of passages. Every square of `spacing` cells may hold one, about a site at a hashed
/// place in it, so far below the surface. Its passages run along the points of a box of lattice
/// points about the site, by the cheapest path.
struct Tunnels {
  std::string id;
  bool on = true;
  double spacing = 256;    ///< Side of a square in whole cells; at least half the reach.
  double share = 0.3;      ///< Of the squares that hold a system.
  double depth = 20;       ///< Of the site below the surface, in cells.
  double depthVary = 12;   ///< Added to it, between none and all of it.
  double step = 9;         ///< Cells between lattice points.
  int side = 10;           ///< Lattice points to either side of the site, along x and z.
  int up = 2;              ///< The same along y.
  double length = 80;      ///< Of the main passage from the site, in cells as the crow flies.
  int arms = 1;            ///< Passages that leave it, 0 ... 8.
  double arm = 50;         ///< Of an arm; 0: none.
  int independent = 1;     ///< Passages that start and end on their own, 0 ... 8.
  double apart = 60;       ///< Of the ends of an independent passage; 0: none.
  double gap = 14;         ///< Cells that passages keep from each other, but where an arm leaves.
  double noise = 3;        ///< How much dearer points may be than the cheapest; 0: straight.
  double shift = 0.8;      ///< Of half the step: how far points stand from their lattice places.
  double bore = 2.6;       ///< Radius of the passages in cells.
  double boreVary = 0.35;  ///< Share by which it varies along the way.
  double rough = 0.25;     ///< Share by which the walls stray from round.
  double mouths = 0.5;     ///< Share of the systems with a shaft from the site to the open air.
  double mouth = 4;        ///< Radius of the shaft at the surface.
  double flooded = 0;      ///< Of the height of a system that stands under water, from below.
  std::string water;       ///< Material of it; empty: none.
  bool operator==(const Tunnels&) const = default;
};

/// What a cellular automaton leaves open: flat floors, or a volume between two altitudes.
struct AutomatonLayer {
  std::string id;
  bool on = true;
  bool volume = false;
  std::string rule = "B5678/S45678";
  double fill = 0.45;          ///< Chance of each cell to be solid at first.
  int steps = 4;               ///< 0 ... 31.
  std::vector<double> floors;  ///< Levels y of the floors' lowest cells; not of volumes.
  int tall = 4;                ///< Cells that a floor is high.
  double bottom = -64;         ///< A volume takes the levels bottom <= y < top.
  double top = -32;
  using Edge = GridEdge;
  Edge edge = Edge::Filled;  ///< What lies above and below a volume.
  double cover = 4;          ///< Cells of ground that stay above it.
  bool operator==(const AutomatonLayer&) const = default;
};

/// What the rock beside caves is made of, by depth and moisture: the first kind that fits.
struct CaveKind {
  std::string id;
  std::string name;
  std::optional<double> from;  ///< Depths from <= d < to, in cells below the surface.
  std::optional<double> to;
  std::optional<double> wetFrom;  ///< Moistures wetFrom <= m < wetTo, as the field has them.
  std::optional<double> wetTo;
  std::string floor;  ///< Material of cells straight under a cave; empty: as it is.
  std::string wall;   ///< Material of cells beside and above it; empty: as it is.
  bool operator==(const CaveKind&) const = default;
};

/// The stage. Worlds of columns have the openings of tunnel systems alone.
struct Caves {
  bool on = true;
  double seaCover = 3;  ///< Cells of ground that stay between caves and the sea.
  std::vector<NoiseVoid> voids;
  std::vector<Tunnels> tunnels;
  std::vector<AutomatonLayer> automata;
  std::vector<CaveKind> kinds;
  std::string opening;  ///< Material of openings in worlds of columns; empty: none shown.
  bool operator==(const Caves&) const = default;

  bool empty() const { return voids.empty() && tunnels.empty() && automata.empty(); }
};

/// Cells from a system's site to the farthest cell that it can open, along x and z.
double tunnelReach(const Tunnels& tunnels);

}  // namespace acre
