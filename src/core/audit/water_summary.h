/// Water in an area, in figures; and where it cannot be held.
#pragma once

#include <array>
#include <stop_token>
#include <string>
#include <vector>

#include "audit/water_figures.h"

namespace acre {

/// A lake or river beside lower dry ground, which no water that may only lower ground can close.
struct Fall {
  Cell water, ground;
  int32_t level = 0;  ///< Of the water.
  int32_t high = 0;   ///< Cells from the ground up to it.
};

struct Falls {
  int64_t water = 0;        ///< Cells of lakes and rivers that were looked at.
  std::vector<Fall> falls;  ///< By rows.

  int32_t highest() const;
  /// At most one in so many cells of water, none higher than kHighestFall.
  static constexpr int64_t kCellsEach = 100'000;
  static constexpr int32_t kHighestFall = 2;
  bool few() const {
    return static_cast<int64_t>(falls.size()) <= 1 + water / kCellsEach &&
           highest() <= kHighestFall;
  }
};

/// Looks at every cell of an area and the four beside it. Without the stage Water: none. The area's
/// sides: 1 ... 4,096. Cancelled when stopped.
Result<Falls> fallsIn(const World& world, const Rect& area, const std::stop_token& stop = {});

/// What there is of rivers and lakes in an area.
struct WaterSummary {
  Rect area;
  std::vector<RiverFigures> rivers;  ///< That spring there, the longest first.
  std::vector<LakeFigures> lakes;    ///< Whose deepest place lies there, the largest first.
  double length = 0;                 ///< Of what there is of rivers there, from node to node.
  // Of samples `step` cells apart:
  int64_t step = 1;
  double lakeShare = 0, riverShare = 0;  ///< Of all but the sea.
  double deepest = 0;                    ///< Most cells by which ground was lowered ...
  Cell deepestAt;                        ///< ... and where.

  /// Rivers that end so.
  size_t ends(RiverEnd end) const;
  /// Lakes of so many bricks: below 4, below 16, and the larger ones.
  std::array<size_t, 3> sizes() const;
};

/// Longest side of an area that is summed up.
inline constexpr int64_t kLongestSummary = 4096;
/// The middle of an area, no longer than that.
Rect summaryPart(const Rect& area);

/// Without the stage Water all is 0. Cancelled when stopped.
Result<WaterSummary> waterSummary(
    const World& world, const Rect& area, const std::stop_token& stop = {});

/// The figures as lines of "12 rivers spring here".
std::vector<std::string> summaryLines(const WaterSummary& summary);

}  // namespace acre
