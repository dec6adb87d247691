/// Vertical cuts through a world, from A to B: what lies where, and a picture of it.
#pragma once

#include <memory>
#include <stop_token>
#include <vector>

#include "base/result.h"
#include "mesh/faces.h"
#include "output/ground_scale.h"
#include "world/plan.h"

namespace acre {

struct SectionRequest {
  static constexpr int32_t kLongestSide = 8192;
  /// The cut begins on the middle of cell A and ends on that of B.
  Cell from, to;
  double low = -64, high = 128;       ///< Altitudes at the lower and the upper edge.
  int32_t width = 800, height = 300;  ///< Pixels.
};

/// The blocks that a section shows: one column a run of pixels, one level a run of rows.
struct Section {
  SectionRequest request;
  std::vector<Cell> cells;        ///< The different cells along the line.
  std::vector<int32_t> columnOf;  ///< By pixel along the line: an index of `cells`.
  BlockLevels levels;
  std::vector<MaterialIndex> blocks;  ///< blocks[level * cells + column]
  std::vector<float> heights;         ///< Of the columns.
  /// The ground of a column of water is told as water: there are no blocks under the surface.
  bool bedsUntold = false;

  double altitudeAt(double row) const {
    return request.high - row / request.height * (request.high - request.low);
  }
  /// The level that a row of pixels shows, an index of `levels`.
  int32_t levelAt(int32_t row) const;
  MaterialIndex at(int32_t column, int32_t level) const {
    return blocks[static_cast<size_t>(level) * cells.size() + static_cast<size_t>(column)];
  }
};

/// Ground that nobody tells the material of: the bed under the water of a world of columns.
/// classes: those of the world.
bool isBed(const Section& section, const BlockClasses& classes, int32_t column, int32_t level);

/// Refuses sizes and altitudes out of range, and A = B.
Status checkSection(const SectionRequest& request);

/// Errors: a bad request, stopped.
Result<Section> sampleSection(
    const World& world, const SectionRequest& request, const std::stop_token& stop = {});

struct SectionStyle {
  bool surface = true;          ///< Ink where the ground meets what is open.
  bool sea = true;              ///< A line at the sea level.
  uint32_t paper = 0xFFFBF9F3;  ///< Open space, and what lies beyond the bounds.
  bool chunks = true;           ///< Fine lines where chunks meet.
  bool depths = true;           ///< Water darkens downward.
  /// A pen pattern for each solid material, as printed sections have them. Those that can hardly be
  /// told from the paper always have one.
  bool patterns = true;
  /// For depths; nothing: by what the world itself has.
  std::shared_ptr<const GroundScale> scale;
};

/// The picture: materials in their colours, open space as paper, which no ground looks like.
std::vector<uint32_t> paintSection(
    const World& world, const Section& section, const SectionStyle& style = {});

}  // namespace acre
