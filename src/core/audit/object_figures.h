/// What became of the objects that are asked for.
#pragma once

#include <array>
#include <optional>
#include <stop_token>
#include <string>
#include <vector>

#include "audit/checks.h"
#include "world/object_pass.h"

namespace acre {

/// Of one kind in an area.
struct ObjectFigures {
  size_t kind = 0;  ///< Its place in the recipe.
  std::string name;
  double cells = 0;    ///< Of the area.
  double asked = 0;    ///< In 1,000 cells, over the biomes of the area.
  double placed = 0;   ///< In 1,000 cells.
  double most = 0;     ///< That fit in 1,000 cells.
  uint64_t count = 0;  ///< Placed.
  uint64_t candidates = 0;
  /// Of a kind of which one has to be in every square: those that touch the area, in all of which
  /// candidates and reasons are counted, those without one, and those that have it where not all
  /// conditions hold.
  uint64_t squares = 0, missing = 0, forced = 0;
  /// Blocks of the trees among them, as they grow, whatever is in their way.
  uint64_t wood = 0, leaves = 0;
  /// By reason; with count they sum to candidates, or with the squares that have one.
  std::array<uint64_t, kRefusals> refused{};

  /// In one biome of the area.
  struct InBiome {
    BiomeIndex biome = 0;
    double share = 0;    ///< Of the area's samples.
    double asked = 0;    ///< In 1,000 cells.
    uint64_t count = 0;  ///< Placed.
  };
  std::vector<InBiome> biomes;  ///< In the recipe's order; none without biomes, or of squares.

  std::string reasons() const;
};

/// "slope 71 %, near its own kind 9 %": what refuses the most, of so many candidates; 0: of those
/// that are refused.
std::string reasonsOf(
    const std::array<uint64_t, kRefusals>& refused, uint64_t candidates = 0, size_t atMost = 3);

/// What of a larger area is looked at.
inline constexpr int64_t kObjectsLookedAt = 1024;
inline Rect objectsPart(const Rect& area) {
  return middlePart(area, kObjectsLookedAt);
}

/// Of each kind that is on. asked: over at most 64 x 64 samples. Nothing when stopped.
std::optional<std::vector<ObjectFigures>> objectFigures(
    const World& world, const Rect& area, const std::stop_token& stop = {});

/// Adds the squares of one.kind that touch an area. False when stopped. REQUIRES: one has to be in
/// every square; an area that is not empty.
bool countSquares(
    const World& world, const Rect& area, const std::stop_token& stop, ObjectFigures& one);

/// Kinds of which more are asked for than fit, kinds that never stand anywhere, and kinds that are
/// missing in some of 8 x 8 squares about the origin. False when stopped.
bool checkObjects(const World& world, const std::stop_token& stop, std::vector<Check>& out);

}  // namespace acre
