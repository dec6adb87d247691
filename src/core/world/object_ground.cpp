#include "world/object_ground.h"

#include <algorithm>

#include "strata/blocks.h"
#include "world/column_sampler.h"
#include "world/ground_sampler.h"

namespace acre {

std::shared_ptr<const ObjectGroundTile> ObjectGround::tile(
    int64_t i, int64_t j, size_t places) const {
  // Cells of a grid cost so much less than cells on their own.
  const size_t kWorth = plan_.layout().blocks() ? 400 : 40;
  if (places * kWorth < ObjectGroundTile::kCells && !tiles_.has({i, j})) return nullptr;
  // Nobody stops it: it is little.
  return tiles_.get({i, j}, {}, [&] {
    const auto made = std::make_shared<ObjectGroundTile>();
    Land land;
    land.heights = made->heights.data();
    land.biomes = made->biomes.data();
    land.waters = made->waters.data();
    land.shores = made->shores.data();
    land.slopes = surface_ ? made->slopes.data() : nullptr;
    // In worlds of blocks the tops tell.
    land.materials = surface_ && !plan_.layout().blocks() ? made->materials.data() : nullptr;
    land.generated = land.ground = true;
    constexpr auto kSide = static_cast<int32_t>(ObjectGroundTile::kSide);
    // Within the limits: whoever asks stands there.
    std::ignore = columns_.sample({i * kSide, j * kSide, 1, kSide, kSide}, land);
    if (plan_.layout().blocks())
      made->tops = tops({i * kSide, j * kSide, kSide, kSide},
          *std::max_element(made->heights.begin(), made->heights.end()));
    return made;
  });
}

std::vector<GroundTop> ObjectGround::tops(const Rect& cells, float highest) const {
  constexpr int64_t kLevels = 16;  // At a time, from the top down.
  const AxisBounds range = plan_.vertical();
  const auto count = static_cast<size_t>(cells.width * cells.length);
  std::vector<GroundTop> out(count);
  std::vector<MaterialIndex> blocks(count * kLevels);
  size_t left = count;
  // Few columns reach far down, over water and shafts: these go on alone.
  constexpr size_t kFew = 8;
  std::vector<size_t> deep;
  std::vector<Cell> at;
  for (int64_t top = std::min(range.min + range.extent, plan_.blocks()->openFrom(highest));
       top > range.min && left > 0; top -= kLevels) {
    const int64_t first = std::max(range.min, top - kLevels);
    const auto levels = static_cast<int32_t>(top - first);
    const bool few = left * kFew <= count;
    deep.clear();
    at.clear();
    for (size_t n = 0; n < count; ++n) {
      if (out[n].y != GroundTop::kNone) continue;
      deep.push_back(n);
      const auto i = static_cast<int64_t>(n);
      at.push_back({cells.x + i % cells.width, cells.z + i / cells.width});
    }
    // Within the limits: whoever asks stands there.
    std::ignore = few ? blocks_.fill(static_cast<int>(at.size()), at.data(), {first, levels, 1},
                            blocks.data())
                      : blocks_.fill({cells.x, first, cells.z, 1, static_cast<int32_t>(cells.width),
                                         levels, static_cast<int32_t>(cells.length)},
                            blocks.data());
    const size_t stride = few ? at.size() : count;
    for (int64_t y = top - 1; y >= first; --y) {
      const MaterialIndex* level = blocks.data() + static_cast<size_t>(y - first) * stride;
      for (size_t k = 0; k < deep.size(); ++k) {
        GroundTop& found = out[deep[k]];
        const MaterialIndex block = level[few ? k : deep[k]];
        if (found.y != GroundTop::kNone || block == kOpen) continue;
        if (plan_.blocks()->isLiquid(block)) {
          found.wet = true;
          continue;
        }
        found.y = y + 1;
        found.material = block;
        --left;
      }
    }
  }
  return out;
}

}  // namespace acre
