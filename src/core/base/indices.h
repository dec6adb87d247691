/// Small numbers that stand for what a recipe lists: materials and biomes of a world.
#pragma once

#include <cstdint>

namespace acre {

/// Index of a material in a world: 0 is "unassigned", i + 1 is member i of the recipe's table.
using MaterialIndex = uint16_t;
inline constexpr MaterialIndex kUnassigned = 0;
/// An open block that holds nothing; no material of any recipe.
inline constexpr MaterialIndex kOpen = 0xFFFE;
/// Marks samples outside the world's bounds; no material.
inline constexpr MaterialIndex kOutside = 0xFFFF;

/// Index of a biome in a world: 0 is none (no rule covers the cell), i + 1 is member i of the list.
using BiomeIndex = uint16_t;
inline constexpr BiomeIndex kNoBiome = 0;
/// Marks samples outside the world's bounds.
inline constexpr BiomeIndex kOutsideBiome = 0xFFFF;

}  // namespace acre
