#include "audit/holes.h"

#include <algorithm>
#include <vector>

#include "world/world.h"

namespace acre {

std::optional<Cell> nearestHole(const World& world, Cell from, const std::stop_token& stop) {
  constexpr int32_t kReach = 64;
  constexpr int32_t kSide = 2 * kReach + 1;
  constexpr int64_t kLargestStep = 4096;
  std::vector<BiomeIndex> biomes(size_t{kSide} * kSide);
  std::vector<MaterialIndex> materials(biomes.size());
  for (int64_t step = 1; step <= kLargestStep; step *= 4) {
    const SampleGrid grid{from.x - kReach * step, from.z - kReach * step, step, kSide, kSide};
    Land land;
    land.materials = materials.data();
    if (world.biomes()) land.biomes = biomes.data();
    if (!world.sample(grid, land, stop)) return {};
    std::optional<Cell> best;
    int nearest = 0;
    for (int j = 0; j < kSide; ++j)
      for (int i = 0; i < kSide; ++i) {
        const auto at = static_cast<size_t>(j) * kSide + static_cast<size_t>(i);
        const bool hole =
            materials[at] == kUnassigned || (world.biomes() && biomes[at] == kNoBiome);
        const int away = (i - kReach) * (i - kReach) + (j - kReach) * (j - kReach);
        if (!hole || (best && away >= nearest)) continue;
        best = Cell{grid.x + i * step, grid.z + j * step};
        nearest = away;
      }
    if (best) return best;
  }
  return {};
}

}  // namespace acre
