/// Objects near a place that one might want to go to.
#pragma once

#include <optional>
#include <stop_token>
#include <string>
#include <vector>

#include "world/object_pass.h"

namespace acre {

/// The start of the world, an object that has to be in its square, or that such a square misses, or
/// the nearest of a kind.
struct ObjectLandmark {
  bool start = false;  ///< The start; it is of no kind.
  size_t kind = 0;     ///< Its place in the recipe.
  std::string name;
  std::optional<PlacedObject> object;  ///< Nothing: there is none.
  Cell cell;                           ///< Where it stands, or the middle of the square it misses.
  double distance = 0;                 ///< In cells, from where it was looked for.
  int64_t square = 0;                  ///< Cells a side; 0: it is the nearest of its kind.
  /// "one in every 512 cells", "by force: slope refuses it", "missing: slope 71 %, ground 20 %",
  /// "nearest of 214 within 256 cells", "none within 256 cells", "dry, 412 cells to walk about".
  std::string state;
};

/// How far the nearest of a kind is looked for.
inline constexpr int64_t kNearestObject = 256;
/// How far squares are looked at, at most.
inline constexpr int64_t kFarthestSquare = 8192;

/// The start, if there is one; of kinds with one in every square, all squares that touch a square
/// of cells about a place; of the other kinds the nearest. By kind, then distance. Nothing when
/// stopped. REQUIRES: within at most kFarthestSquare.
std::optional<std::vector<ObjectLandmark>> objectLandmarks(
    const World& world, Cell from, int64_t within, const std::stop_token& stop = {});

}  // namespace acre
