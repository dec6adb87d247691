#include "world/object_ground.h"

#include <algorithm>
#include <map>

#include "strata/blocks.h"
#include "world/column_sampler.h"
#include "world/ground_sampler.h"

namespace acre {

namespace {

// A top in 64 bits: of a column that nobody asked for 0.
constexpr uint64_t kKnown = 1, kWet = 2, kNothing = 4;

uint64_t packed(const GroundTop& top) {
  return kKnown | (top.wet ? kWet : 0) | (top.y == GroundTop::kNone ? kNothing : 0) |
         uint64_t{top.material} << 16 | static_cast<uint64_t>(top.y) << 32;
}

GroundTop unpacked(uint64_t bits) {
  GroundTop out;
  out.wet = (bits & kWet) != 0;
  out.material = static_cast<MaterialIndex>(bits >> 16);
  if ((bits & kNothing) == 0) out.y = static_cast<int32_t>(bits >> 32);
  return out;
}

}  // namespace

std::shared_ptr<const ObjectGroundTile> ObjectGround::tile(
    int64_t i, int64_t j, size_t places) const {
  // Cells of a grid cost so much less than cells on their own.
  const size_t kWorth = plan_.layout().blocks() ? 100 : 40;
  if (places * kWorth < ObjectGroundTile::kCells && !tiles_.has({i, j})) return nullptr;
  // Nobody stops it: it is little.
  return tiles_.get({i, j}, {}, [&] {
    constexpr int64_t kSide = ObjectGroundTile::kSide;
    const Rect cells{i * kSide, j * kSide, kSide, kSide};
    const auto made = std::make_shared<ObjectGroundTile>();
    if (plan_.layout().blocks()) {
      std::vector<float> slopes;
      made->land = blocks_.patch(cells, surface_ ? &slopes : nullptr);
      made->tops = std::vector<std::atomic<uint64_t>>(ObjectGroundTile::kCells);
      for (int64_t n = 0; n < kSide * kSide; ++n) {
        const auto to = static_cast<size_t>(n);
        const size_t from = made->land.at({cells.x + n % kSide, cells.z + n / kSide});
        made->heights[to] = made->land.heights[from];
        made->biomes[to] = made->land.biomes[from];
        made->waters[to] = made->land.waters[from];
        made->shores[to] = made->land.shores[from];
        if (surface_) made->slopes[to] = slopes[from];
      }
      return made;
    }
    Land land;
    land.heights = made->heights.data();
    land.biomes = made->biomes.data();
    land.waters = made->waters.data();
    land.shores = made->shores.data();
    land.slopes = surface_ ? made->slopes.data() : nullptr;
    land.materials = surface_ ? made->materials.data() : nullptr;
    land.generated = land.ground = true;
    // Within the limits: whoever asks stands there.
    std::ignore = columns_.sample(
        {cells.x, cells.z, 1, static_cast<int32_t>(kSide), static_cast<int32_t>(kSide)}, land);
    return made;
  });
}

std::shared_ptr<const ObjectBiomes> ObjectGround::biomes(int64_t i, int64_t j) const {
  return biomes_.get({i, j}, {}, [&] {
    constexpr int64_t kSide = ObjectGroundTile::kSide;
    const auto made = std::make_shared<ObjectBiomes>();
    Land land;
    land.biomes = made->at.data();
    land.beforeWater = true;  // It moves no biome.
    // Within the limits: whoever asks stands there.
    std::ignore = columns_.sample(
        {i * kSide, j * kSide, 1, static_cast<int32_t>(kSide), static_cast<int32_t>(kSide)}, land);
    return made;
  });
}

std::vector<GroundTop> ObjectGround::tops(
    const ObjectGroundTile& tile, std::span<const Cell> cells) const {
  std::vector<GroundTop> out(cells.size());
  std::vector<size_t> unknown;
  std::vector<Cell> asked;
  for (size_t n = 0; n < cells.size(); ++n) {
    const uint64_t known =
        tile.tops[ObjectGroundTile::at(cells[n])].load(std::memory_order_relaxed);
    if (known & kKnown) {
      out[n] = unpacked(known);
    } else {
      unknown.push_back(n);
      asked.push_back(cells[n]);
    }
  }
  const std::vector<GroundTop> made = blocks_.tops(tile.land, asked);
  for (size_t k = 0; k < made.size(); ++k) {
    out[unknown[k]] = made[k];
    // Whoever else finds it finds the same.
    tile.tops[ObjectGroundTile::at(asked[k])].store(packed(made[k]), std::memory_order_relaxed);
  }
  return out;
}

std::vector<GroundTop> ObjectGround::tops(std::span<const Cell> cells, bool again) const {
  std::vector<GroundTop> out(cells.size());
  std::map<std::pair<int64_t, int64_t>, std::vector<size_t>> together;
  for (size_t n = 0; n < cells.size(); ++n)
    together[{floorDiv(cells[n].x, ObjectGroundTile::kSide),
                 floorDiv(cells[n].z, ObjectGroundTile::kSide)}]
        .push_back(n);
  std::vector<Cell> some;
  for (const auto& [key, which] : together) {
    some.clear();
    for (const size_t n : which) some.push_back(cells[n]);
    const auto there = tile(key.first, key.second, again ? ObjectGroundTile::kCells : which.size());
    if (there) {
      const std::vector<GroundTop> tops = this->tops(*there, some);
      for (size_t k = 0; k < which.size(); ++k) out[which[k]] = tops[k];
    }
    for (size_t k = 0; k < which.size() && !there; ++k)
      out[which[k]] =
          blocks_.tops(blocks_.patch({some[k].x, some[k].z, 1, 1}), std::span(&some[k], 1))[0];
  }
  return out;
}

std::optional<GroundTop> ObjectGround::inCaves(Cell cell, const CaveStand& asked) const {
  constexpr int64_t kSide = ObjectGroundTile::kSide;
  if (const auto there = tile(floorDiv(cell.x, kSide), floorDiv(cell.z, kSide), 1))
    return blocks_.inCaves(there->land, cell, asked);
  return blocks_.inCaves(blocks_.patch({cell.x, cell.z, 1, 1}), cell, asked);
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
