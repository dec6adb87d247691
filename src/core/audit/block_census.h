/// What the ground of worlds made of blocks holds: volumes by material, ores asked and found by
/// depth, steps between columns.
#pragma once

#include <functional>
#include <map>
#include <optional>
#include <stop_token>
#include <string>
#include <vector>

#include "base/result.h"
#include "cave/cave_at.h"
#include "world/plan.h"

namespace acre {

/// Blocks of one slice of altitudes, by index of the material.
struct DepthSlice {
  int64_t low = 0;   ///< Lowest level.
  int64_t high = 0;  ///< One above the highest.
  std::map<MaterialIndex, uint64_t> blocks;
};

struct OreFigures {
  std::string id;
  std::string name;
  double asked = 0;    ///< Share of its host rock.
  uint64_t found = 0;  ///< Blocks.
  uint64_t hosts = 0;  ///< Blocks of host rock, what ores took of it included.
  double measured() const {
    return hosts ? static_cast<double>(found) / static_cast<double>(hosts) : 0;
  }
};

/// What one part of the stage Caves has dug.
struct CaveFigures {
  std::string id;
  CavePart part = CavePart::None;
  uint64_t cells = 0;    ///< Below the surface.
  uint64_t flooded = 0;  ///< Of them.
};

struct BlockCensus {
  Rect area;
  uint64_t columns = 0;
  uint64_t blocks = 0;                        ///< Within area and vertical range.
  std::map<MaterialIndex, uint64_t> volumes;  ///< kOpen among them.
  std::vector<DepthSlice> slices;             ///< From the top down.
  std::vector<OreFigures> ores;               ///< In the recipe's order, those that are on.
  std::vector<CaveFigures> caves;             ///< In the order in which they hold cells.
  uint64_t ground = 0;  ///< Cells below the surface, dug or not; 0 without caves.
  uint64_t steps = 0;   ///< Sides between columns whose uppermost blocks lie more than one apart.
  uint64_t filled = 0;  ///< Faces there that would be holes if only uppermost blocks were made.
  uint64_t edited = 0;  ///< Blocks changed by hand.
};

/// The columns that are counted when nobody says which: 256 x 256 about the origin, 8,192 of a side
/// world.
Rect sampleVolume(const World& world);

/// Counts every block. area: at most 2^34 blocks over it. slices: how many parts of the vertical
/// range, 256 at most. Only worlds of blocks have any. Ores that share a material are told apart
/// cell by cell. The first error of any part is the error of all.
Result<BlockCensus> censusOfBlocks(const World& world, const Rect& area, int slices = 8,
    const std::stop_token& stop = {}, const std::function<void(double)>& progress = {});

}  // namespace acre
