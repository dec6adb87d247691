/// Voronoi regions: one site in every square of an endless lattice, each place belongs to the
/// nearest. Sites never move, so nothing that is known about a place changes when others are asked.
///
/// Source: F. Aurenhammer, "Voronoi diagrams - a survey", ACM Computing Surveys 23 (1991); sites in
/// a jittered lattice after R. L. Cook, "Stochastic sampling in computer graphics", 1986.
#pragma once

#include <cstdint>
#include <vector>

#include "base/coords.h"
#include "noise/noise.h"

namespace acre {

/// Where the sites stand.
struct RegionPlan {
  Octave lattice;    ///< Squares of the mean size of a region.
  float jitter = 1;  ///< How far sites leave the middle of their square: 0 ... 1.
};

/// size: side of a square in cells, limits::regionSize. seed: sub-seed of the stage.
RegionPlan regionPlan(double size, double jitter, uint64_t seed);

/// The name of a region: the square of its site.
struct RegionId {
  int64_t i = 0;
  int64_t j = 0;
  auto operator<=>(const RegionId&) const = default;
};

/// The hash of a region, for everything that is drawn by its name.
uint32_t regionHash(const RegionPlan& plan, RegionId id);

/// The cell that the site of a region stands in, the same on every machine.
Cell siteCell(const RegionPlan& plan, RegionId id);

/// The cell of the corner of a square that has the lowest x and z.
Cell squareCorner(const RegionPlan& plan, RegionId id);

/// The square that a cell's lower corner lies in.
RegionId squareOf(const RegionPlan& plan, Cell cell);

/// One place among the regions. Lengths are in squares.
struct RegionAt {
  RegionId id;
  float distance = 0;  ///< To the site.
  float border = 0;    ///< To the nearest border, up to `reach`; `reach` beyond.
  RegionId across;     ///< The region beyond that border; the own one where it is farther.
};

/// The region of a place. Ties belong to the lower j, then the lower i. reach: how far borders are
/// looked for, 0 ... 1 squares; 0 looks for none.
RegionAt regionAt(const RegionPlan& plan, Pos x, Pos z, float reach = 1);

/// A region and how much it counts at a place.
struct RegionShare {
  RegionId id;
  float weight;  ///< Positive; all of a place sum to 1 but for rounding.
  float part;    ///< The weight before that: 1 for the nearest.
};

/// The regions that blend at a place: weight (1 - (d - d1) / width)^2 for every site nearer than
/// d1 + width, the nearest first, others by j, then i. width: in squares, 0 ... 1; 0 is the nearest
/// alone.
std::vector<RegionShare> regionShares(const RegionPlan& plan, Pos x, Pos z, float width);

}  // namespace acre
