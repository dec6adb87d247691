#include "view/loading.h"

#include <algorithm>
#include <array>
#include <atomic>
#include <cmath>
#include <mutex>
#include <set>
#include <span>

#include "base/parallel.h"
#include "stream/wanted.h"
#include "world/world.h"

namespace acre {
namespace {

bool isOpen(const BlockClasses& classes, MaterialIndex m) {
  return classes.of(m) != BlockClass::Solid;
}

/// On the ground under a tree, where there is room; nothing: there is no tree, or none. In worlds
/// without blocks trees raise nothing.
std::optional<int64_t> underTree(const World& world, Cell cell, const BlockClasses& classes) {
  if (!world.blocks() || !world.objectCells().any()) return {};
  const auto claims = world.objectCells().claims({cell.x, cell.z, 1, 1});
  const auto grows = [](const CellClaim& claim) {
    return claim.rank == ObjectTrees::kWoodRank || claim.rank == ObjectTrees::kLeafRank;
  };
  if (!claims || std::none_of(claims->begin(), claims->end(), grows)) return {};
  const GroundTop top = world.objects().ground().tops(std::span(&cell, 1))[0];
  if (top.y == GroundTop::kNone || top.wet) return {};
  std::array<MaterialIndex, 3> blocks;
  if (!world.sampleColumns(1, &cell, {top.y - 1, 3, 1}, blocks.data())) return {};
  const bool room =
      !isOpen(classes, blocks[0]) && isOpen(classes, blocks[1]) && isOpen(classes, blocks[2]);
  return room ? std::optional(top.y) : std::nullopt;
}

}  // namespace

std::optional<int64_t> standAt(const World& world, Cell cell) {
  if (!world.bounds().contains(cell)) return {};
  const AxisBounds range = world.vertical();
  const BlockClasses classes(world);
  if (const auto ground = underTree(world, cell, classes)) return ground;
  // From the top down, some levels at a time.
  constexpr int32_t kLevels = 64;
  std::vector<MaterialIndex> blocks(kLevels);
  int open = 2;  // Above the world there is room.
  for (int64_t top = range.min + range.extent; top > range.min; top -= kLevels) {
    const int64_t first = std::max(range.min, top - kLevels);
    const auto count = static_cast<int32_t>(top - first);
    if (!world.sampleColumns(1, &cell, {first, count, 1}, blocks.data())) return {};
    for (int32_t j = count; j-- > 0;) {
      const bool free = isOpen(classes, blocks[static_cast<size_t>(j)]);
      if (!free && open >= 2) return first + j + 1;
      open = free ? open + 1 : 0;
    }
  }
  return {};
}

std::optional<Standing> standNear(const World& world, Cell cell, int reach) {
  std::optional<Standing> inWater;
  for (int64_t ring = 0; ring <= reach; ++ring)
    for (int64_t dz = -ring; dz <= ring; ++dz)
      for (int64_t dx = -ring; dx <= ring; dx += std::abs(dz) == ring ? 1 : 2 * ring) {
        const Cell at{cell.x + dx, cell.z + dz};
        const bool fresh = world.water() && isFresh(world.at(at).water.kind);
        if (!fresh || !inWater)
          if (const auto y = standAt(world, at)) {
            if (!fresh) return Standing{at, *y};
            inWater = Standing{at, *y};
          }
        if (ring == 0) break;
      }
  return inWater;
}

int viewLevels(double distance, bool smooth) {
  int levels = 1;
  for (double d = static_cast<double>(finestDistance(smooth)); d < distance && levels < 5; d *= 2)
    ++levels;
  return levels;
}

FaceOptions facesFor(double distance, bool smooth, bool clearLeaves) {
  return {true, !smooth && viewLevels(distance, smooth) > 1 ? kSkirt : 0, smooth, clearLeaves};
}

Result<Scene> loadScene(const World& world, const Eye& eye, double distance, bool smooth,
    bool clearLeaves, const std::stop_token& stop) {
  const ChunkLayout& layout = world.groundLayout();
  WantedSet wanted(ChunkLayout(layout.size()), world.bounds());
  const int levels = viewLevels(distance, smooth);
  const auto change = wanted.move({eye.cellX, eye.cellZ},
      {static_cast<int64_t>(distance), 0, levels, finestDistance(smooth), {}});
  std::vector<ChunkPos> all;
  for (ChunkPos pos : change.come)
    for (pos.cy = layout.lowestChunk(pos.detail); pos.cy <= layout.highestChunk(pos.detail);
         ++pos.cy)
      all.push_back(pos);
  std::vector<std::vector<std::shared_ptr<const BlockMesh>>> parts(all.size());
  FaceOptions faces = facesFor(distance, smooth, clearLeaves);
  // Cliffs of a million levels are not drawn to their foot, which nobody sees.
  const auto tall = static_cast<int64_t>(4 * distance) + 1024;
  const auto level = static_cast<int64_t>(std::floor(std::clamp(eye.y, -1e9, 1e9)));
  faces.low = level - tall;
  faces.high = level + tall;
  std::mutex mutex;
  std::optional<Error> first;
  parallelFor(static_cast<int32_t>(all.size()), [&](int32_t at) {
    const auto i = static_cast<size_t>(at);
    auto made = meshChunk(world, all[i], faces, stop);
    if (made) {
      parts[i] = std::move(*made);
      return;
    }
    const std::lock_guard lock(mutex);
    if (!first) first = made.error();
  });
  if (first) return *first;
  Scene scene;
  const std::set<ChunkPos> held(all.begin(), all.end());
  for (size_t i = 0; i < all.size(); ++i)
    addToScene(
        layout, all[i], parts[i], [&](ChunkPos p) { return held.contains(p); }, scene);
  return scene;
}

}  // namespace acre
