/// Places to stand, and scenes made at once.
#pragma once

#include <optional>

#include "base/result.h"
#include "view/scene.h"

namespace acre {

/// Cells from the ground that somebody stands on to their eye, and to the top of their head.
inline constexpr double kEyeHeight = 1.62;
inline constexpr double kBodyHeight = 1.8;

/// The altitude of the highest ground in a column that somebody can stand on (two open blocks above
/// it; water counts as open), under a tree that of the ground if there is room, or nothing.
/// REQUIRES: a world's column.
std::optional<int64_t> standAt(const World& world, Cell cell);

/// The nearest such place to a cell, within `reach` cells to either side, in a lake or river only
/// where there is no other: nothing when there is none.
struct Standing {
  Cell cell;
  int64_t y = 0;
};
std::optional<Standing> standNear(const World& world, Cell cell, int reach = 24);

/// The bricks within a distance of an eye, on all threads of the pool; farther than
/// finestDistance() coarser ones; no hole opens where levels meet.
Result<Scene> loadScene(const World& world, const Eye& eye, double distance, bool smooth = false,
    bool clearLeaves = false, const std::stop_token& stop = {});

/// What such a view's bricks are made with.
FaceOptions facesFor(double distance, bool smooth, bool clearLeaves);

/// How far the finest level of a view goes; smooth ground stands coarser levels sooner.
inline constexpr int64_t finestDistance(bool smooth) {
  return smooth ? 96 : 160;
}
/// The detail levels that a view of such a distance uses.
int viewLevels(double distance, bool smooth);
/// Samples that coarser bricks, and finest ones beside them, are closed below what is exposed.
inline constexpr int kSkirt = 4;

}  // namespace acre
