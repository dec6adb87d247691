/// Where one enters a world.
#pragma once

#include <cstdint>
#include <optional>
#include <stop_token>

#include "base/coords.h"
#include "base/result.h"

namespace acre {

class World;  // world/world.h

/// The place nearest to the origin where one stands on dry ground and can walk about:
/// docs/maths.md, "Objects", states it. In levels the first place that they must have.
struct WorldStart {
  Cell cell;
  int64_t y = 0;     ///< The level that one stands on, in worlds of blocks; else 0.
  int64_t walk = 0;  ///< Cells that one can walk to without going farther than kStartWalk.
};

/// Cells along x or z that a walk from it may go.
inline constexpr int64_t kStartWalk = 12;
/// Cells that have to be reached by one; in side worlds, which have one row, kStartWalk.
inline constexpr int64_t kStartLeast = 100;
/// Cells from the origin that are looked at.
inline constexpr int64_t kStartWithin = 4096;

/// Nothing where there is none so near.
Result<std::optional<WorldStart>> worldStart(const World& world, const std::stop_token& stop = {});

}  // namespace acre
