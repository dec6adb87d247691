/// Systems of tunnels found around a place, and what each of them is like.
#pragma once

#include <functional>
#include <stop_token>
#include <string>
#include <vector>

#include "cave/open_spaces.h"
#include "cave/tunnel_system.h"
#include "world/plan.h"

namespace acre {

/// A system of tunnels near a place.
struct FoundSystem {
  size_t part = 0;  ///< Which of CaveStage::tunnels().
  TunnelHandle system;
  double distance = 0;  ///< From the place to the site, in cells, as the crow flies.
  double bearing = 0;   ///< Degrees from north, eastward.

  /// "swallets S12,-3": the same wherever one asks from.
  std::string name(const World& world) const;
};

/// All systems whose sites lie within so many cells of a place, the nearest first, equal distances
/// by part and square. together: by several threads of its own, which whoever has a pool already
/// does without. within: 1 ... kFarthestSearch; a search of more than kMostSquares squares is
/// refused.
inline constexpr int64_t kFarthestSearch = 1'000'000;
inline constexpr int64_t kMostSquares = 250'000;
Result<std::vector<FoundSystem>> findSystems(const World& world, Cell near, int64_t within,
    const std::stop_token& stop = {}, bool together = true);

/// The width of a passage at one point of its centre line.
struct WidthSample {
  double along = 0;  ///< Cells from its first point.
  double width = 0;  ///< Open cells across, the mean of four directions square to the line.
  double narrow = 0, wide = 0;  ///< The least and the greatest of the four.
  bool tooWide = false;         ///< More than kTooWide times as wide as bored.
};
inline constexpr double kTooWide = 2;

struct PassageFigures {
  PassageKind kind = PassageKind::Main;
  double length = 0;        ///< Along the centre line, in cells.
  double straightness = 0;  ///< Distance of its ends over its length; 1: a straight line.
  double roundness = 0;  ///< Narrowest over widest direction, on average; cells leave a pipe 0.82.
  double meanWidth = 0;
  double overlap = 0;  ///< Share of the length that is too wide: where passages have melted.
  std::vector<WidthSample> widths;
};

struct SystemFigures {
  double length = 0;        ///< Of all passages but the shaft.
  uint64_t volume = 0;      ///< Cells dug below the surface.
  uint64_t flooded = 0;     ///< Of them, under water.
  int mouths = 0;           ///< Separate openings to the surface.
  int deadEnds = 0;         ///< Ends of passages that lead nowhere else.
  int pieces = 0;           ///< Parts that do not connect within the system.
  double straightness = 0;  ///< Of the passages by length, without the shaft.
  double roundness = 0;
  double overlap = 0;
  double depth = 0;                 ///< Of the site below the surface.
  int64_t lowest = 0, highest = 0;  ///< Cells dug, y.
  std::vector<PassageFigures> passages;
};

/// Measures a system from the cells that it digs. Some milliseconds.
SystemFigures figuresOf(const World& world, const FoundSystem& found);

/// Open spaces below the surface inside a box of blocks, the largest first: what the stages leave
/// open there, water included. In levels those of the floor. At most kMostBoxCells cells.
struct SpacesInBox {
  SampleBlock box;
  std::vector<OpenSpace> spaces;  ///< Places are cells of the box.
  std::vector<uint32_t> labels;   ///< By cell, x fastest, then z, then y; OpenSpaces::kSolid.
};
inline constexpr int64_t kMostBoxCells = int64_t{1} << 26;
Result<SpacesInBox> spacesIn(
    const World& world, const SampleBlock& box, const std::stop_token& stop = {});

}  // namespace acre
