/// Which tiles lie in an area, and what is wrong with them there.
#pragma once

#include <array>
#include <optional>
#include <stop_token>
#include <string>
#include <vector>

#include "audit/checks.h"
#include "output/tile_art.h"

namespace acre {

struct TileGroupFigures {
  std::string group, set;  ///< Ids.
  int64_t tiles = 0;       ///< Drawn.
  int64_t cells = 0;       ///< Of its own materials.
  std::array<int64_t, TileCases::kMost> cases{};
  std::array<std::optional<Cell>, TileCases::kMost> first{};  ///< Where each is met.
  int64_t hidden = 0;     ///< Wholly under tiles of higher groups that cannot be seen through.
  int64_t ambiguous = 0;  ///< Of the method corners: only two opposite corners are inside.
  std::optional<Cell> firstAmbiguous;
  int64_t unmatched = 0;  ///< Whose picture is missing.
  std::optional<Cell> firstUnmatched;
  std::vector<int> unmatchedCases;

  /// Its cases that occur, the most frequent first.
  std::vector<int> byFrequency() const;
};

struct TileFigures {
  Rect area;
  int64_t cells = 0;                     ///< Within the plane.
  std::vector<TileGroupFigures> groups;  ///< Those that are on.
  int64_t ungrouped = 0;                 ///< Cells of no group.
  std::optional<Cell> firstUngrouped;
  double seconds = 0;
};

/// Cells a side that a census counts tiles of, in the middle of what it is asked for.
inline constexpr int64_t kTilesCounted = 1024;

/// Nothing when stopped. arts: nothing, and no picture is missing.
std::optional<TileFigures> tileFigures(
    const World& world, const TileArts* arts, const Rect& area, const std::stop_token& stop = {});

/// Pictures that are missing where they occur, sets of another size than the first, rims that do
/// not meet, groups that never show or are hidden by others. False when stopped.
bool checkTiles(const World& world, const std::stop_token& stop, std::vector<Check>& out);

}  // namespace acre
