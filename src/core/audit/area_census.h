/// Counts over an area or a sample of the world: materials, biomes, their pieces, regions.
#pragma once

#include <functional>
#include <optional>
#include <stop_token>
#include <string>
#include <vector>

#include "base/result.h"
#include "field/distribution.h"
#include "world/plan.h"

namespace acre {

/// One material's part of an area.
struct MaterialShare {
  std::string id;
  std::string name;
  uint64_t cells = 0;
  double share = 0;
};

/// How long a border two biomes have in common.
struct Neighbour {
  BiomeIndex biome = kNoBiome;  ///< kNoBiome: cells that no rule covers.
  uint64_t edges = 0;           ///< Cell sides.
};

/// One biome's part of an area. A piece is a set of its cells joined by their sides; pieces that
/// reach beyond the area are counted by what lies inside.
struct BiomeShare {
  BiomeIndex index = kNoBiome;
  std::string id;  ///< "none": cells that no rule covers.
  std::string name;
  uint64_t cells = 0;
  double share = 0;
  uint64_t pieces = 0;                ///< 0 in a sample, whose cells lie apart.
  uint64_t largest = 0;               ///< Cells of the largest piece.
  std::vector<Neighbour> neighbours;  ///< The longest border first.
  std::optional<Cell> example;        ///< A cell of it.

  double meanPiece() const {
    return pieces ? static_cast<double>(cells) / static_cast<double>(pieces) : 0;
  }
};

/// Sizes of the regions that lie wholly inside an area.
struct RegionSizes {
  uint64_t count = 0;
  uint64_t cut = 0;  ///< Regions that reach its edge; not in the figures.
  double mean = 0;   ///< Cells.
  uint64_t smallest = 0;
  uint64_t largest = 0;
  uint64_t islets = 0;  ///< Pieces beyond the first of each region.
  uint64_t isletCells = 0;
  static constexpr int kBins = 24;
  std::vector<uint32_t>
      histogram;  ///< kBins equal parts of [0, 3 mean squares), the rest in the last.
};

struct AreaCensus {
  uint64_t cells = 0;  ///< Counted, without those outside the world.
  uint64_t unassigned = 0;
  std::optional<Cell> firstHole;  ///< An unassigned cell.
  float low = 0, high = 0;
  double mean = 0;
  std::vector<MaterialShare>
      materials;                   ///< In the recipe's order, then "unassigned" and "open" if any.
  std::vector<BiomeShare> biomes;  ///< In the recipe's order, "none" last if any.
  std::optional<RegionSizes> regions;  ///< Of an area in a world with regions.
  bool sampled = false;
};

struct CensusOptions {
  unsigned threads = 1;
  std::stop_token stop;
  std::function<void(double)> progress;  ///< Share done, from the calling thread.
};

/// The cells that stand for a world wherever its biomes are counted: strata as wide as the widest
/// feature of the heights and of the chart's fields.
SampleSites worldSites(const World& world);

/// Counts every cell of a rectangle of at most 2^28 cells.
Result<AreaCensus> censusOf(
    const World& world, const Rect& area, const CensusOptions& options = {});
/// Counts the sites of the world's sample (65,536 cells spread over it), on so many threads.
/// Nothing when stopped.
std::optional<AreaCensus> censusOfSample(
    const World& world, const std::stop_token& stop = {}, unsigned threads = 1);

}  // namespace acre
