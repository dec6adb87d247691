/// Looking for cells that no rule covers.
#pragma once

#include <optional>
#include <stop_token>

#include "world/plan.h"

namespace acre {

/// The nearest cell to `from` that has no biome (in a world with biomes) or no material, looked for
/// on ever coarser grids about it: every cell within 64, every 4th within 256, and so on to every
/// 4,096th within 262,144. Nothing when there is none among them, or when stopped.
std::optional<Cell> nearestHole(const World& world, Cell from, const std::stop_token& stop = {});

}  // namespace acre
