#include "audit/world_start.h"

#include <algorithm>
#include <cmath>
#include <set>
#include <tuple>
#include <vector>

#include "cave/level_stage.h"
#include "recipe/object_recipe.h"
#include "world/world.h"

namespace acre {
namespace {

constexpr int64_t kSquare = 64;                      // Of a square that is looked at at a time ...
constexpr int64_t kWide = kSquare + 2 * kStartWalk;  // ... with what walks from it may reach.
constexpr int64_t kNowhere = INT64_MIN;

/// The levels that one stands on in a square, kNowhere where one does not.
class Walked {
 public:
  Walked(const World& world, int64_t i, int64_t j)
      : first_{i * kSquare - kStartWalk, j * kSquare - kStartWalk},
        levels_(kWide * kWide, kNowhere) {
    const SampleGrid grid{first_.x, first_.z, 1, kWide, kWide};
    std::vector<float> heights(levels_.size());
    std::vector<WaterKind> waters(levels_.size(), WaterKind::Dry);
    Land land;
    land.heights = heights.data();
    if (world.water()) land.waters = waters.data();
    // Within the limits, and nobody stops it.
    std::ignore = world.columns().sample(grid, land);
    const Rect cells{first_.x, first_.z, kWide, kWide};
    std::vector<GroundTop> tops;
    if (world.layout().blocks())
      tops =
          world.objects().ground().tops(cells, *std::max_element(heights.begin(), heights.end()));
    for (size_t n = 0; n < levels_.size(); ++n) {
      const Cell cell{
          first_.x + static_cast<int64_t>(n) % kWide, first_.z + static_cast<int64_t>(n) / kWide};
      const bool dry =
          waters[n] == WaterKind::Dry && !(heights[n] < static_cast<float>(world.seaLevel()));
      if (!dry || !world.bounds().contains(cell)) continue;
      if (tops.empty())
        levels_[n] = static_cast<int64_t>(std::floor(heights[n]));
      else if (!tops[n].wet)
        levels_[n] = tops[n].y;
    }
    if (const auto claims = world.objectCells().claims(cells))
      for (const CellClaim& claim : *claims)
        if (world.recipe().objects->kinds[claim.kind].stands == ObjectStand::Ground)
          level(claim.cell) = kNowhere;
  }

  int64_t& level(Cell cell) {
    return levels_[static_cast<size_t>((cell.z - first_.z) * kWide + cell.x - first_.x)];
  }
  /// Cells that a walk from there reaches.
  int64_t walkFrom(Cell cell) {
    std::set<std::pair<int64_t, int64_t>> met = {{cell.z, cell.x}};
    std::vector<Cell> next = {cell};
    while (!next.empty()) {
      const Cell at = next.back();
      next.pop_back();
      for (const auto& [dx, dz] : {std::pair(1, 0), {-1, 0}, {0, 1}, {0, -1}}) {
        const Cell to{at.x + dx, at.z + dz};
        if (std::max(std::abs(to.x - cell.x), std::abs(to.z - cell.z)) > kStartWalk) continue;
        if (level(to) == kNowhere || std::abs(level(to) - level(at)) > 1) continue;
        if (met.insert({to.z, to.x}).second) next.push_back(to);
      }
    }
    return static_cast<int64_t>(met.size());
  }

 private:
  Cell first_;
  std::vector<int64_t> levels_;
};

int64_t squared(Cell cell) {
  return cell.x * cell.x + cell.z * cell.z;
}

}  // namespace

Result<std::optional<WorldStart>> worldStart(const World& world, const std::stop_token& stop) {
  if (const LevelStage* level = world.level()) {
    for (const FoundPlace& place : level->floor().places)
      if (place.place == 0) return std::optional(WorldStart{level->cellOf(place), 0, 0});
    return std::optional<WorldStart>();
  }
  // Squares by how near their nearest cell lies.
  constexpr int64_t kFar = kStartWithin / kSquare;
  struct Near {
    int64_t far, i, j;
  };
  std::vector<Near> squares;
  for (int64_t j = -kFar; j < kFar; ++j)
    for (int64_t i = -kFar; i < kFar; ++i) {
      const Rect cells{i * kSquare, j * kSquare, kSquare, kSquare};
      if (!intersection(cells, world.bounds()).empty())
        squares.push_back({squaredDistance({0, 0}, cells), i, j});
    }
  std::sort(squares.begin(), squares.end(), [](const Near& a, const Near& b) {
    return std::tuple(a.far, a.j, a.i) < std::tuple(b.far, b.j, b.i);
  });
  const bool plane = world.layout().vertical().plane;
  std::optional<WorldStart> best;
  for (const Near& near : squares) {
    if (stop.stop_requested()) return cancelled();
    if (best && squared(best->cell) < near.far) break;
    Walked square(world, near.i, near.j);
    std::vector<Cell> cells;
    for (int64_t z = near.j * kSquare; z < (near.j + 1) * kSquare; ++z)
      for (int64_t x = near.i * kSquare; x < (near.i + 1) * kSquare; ++x)
        if (square.level({x, z}) != kNowhere) cells.push_back({x, z});
    const auto order = [](Cell cell) { return std::tuple(squared(cell), cell.z, cell.x); };
    std::sort(cells.begin(), cells.end(), [&](Cell a, Cell b) { return order(a) < order(b); });
    for (const Cell cell : cells) {
      if (best && order(best->cell) < order(cell)) break;
      const int64_t walk = square.walkFrom(cell);
      if (walk < (plane ? kStartWalk : kStartLeast)) continue;
      best = WorldStart{cell, world.layout().blocks() ? square.level(cell) : 0, walk};
      break;
    }
  }
  return best;
}

}  // namespace acre
