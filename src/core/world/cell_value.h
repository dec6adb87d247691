/// What World::at() says of one cell.
#pragma once

#include <cstdint>
#include <optional>

#include "base/indices.h"
#include "climate/land_shaper.h"
#include "strata/block_at.h"

namespace acre {

/// What one cell holds.
struct CellValue {
  float base = 0;  ///< Before the biomes shape it.
  float height = 0;
  float before = 0;  ///< The height before water cut into it.
  WaterAt water;
  BiomeIndex biome = kNoBiome;  ///< kOutsideBiome beyond the bounds.
  float slope = 0;              ///< Rise per cell.
  int slopeBand = -1;           ///< Index of the slope band that decided the material, or -1.
  int band = -1;                ///< Index of the band by altitude; -1 when there are no bands.
  MaterialIndex material = kUnassigned;  ///< kOutside beyond the bounds.
  MaterialIndex ground = kUnassigned;    ///< Of the ground, under any fresh water.
  /// In levels: height is that of the floor or the wall, and the rest of the rock.
  struct OfLevel {
    int32_t depth = 0;  ///< Cells to the nearest open one; 0 in one.
    int place = -1;     ///< Index of the must-have place here, or -1.
    float rock = 0;     ///< What the bands compare: the height of the rock less the depth.
    BlockAt solid;      ///< What the rock holds at that depth.
  };
  std::optional<OfLevel> level;

  /// What the bands decided: a BandTable::Decision.
  void take(const auto& decision) {
    slopeBand = decision.slope;
    band = decision.band;
    material = decision.material;
  }
};

}  // namespace acre
