/// The Strata stage as plain values: bands by altitude and by slope.
#pragma once

#include <optional>
#include <string>
#include <vector>

namespace acre {

/// Reserved material of cells that no rule covers.
inline constexpr const char* kUnassignedId = "unassigned";

/// An altitude: absolute, measured from the sea level, or wherever a share of the world lies below.
struct Threshold {
  double value = 0;
  bool fromSea = false;
  std::optional<double> share;  ///< 0 ... 1; when held, `value` and `fromSea` are not used.
  bool operator==(const Threshold&) const = default;
};

/// How one band passes into the next above it.
struct Edge {
  enum class Kind {
    Hard,
    Dithered,  ///< Cell by cell by a fixed hash; the odds rise over the width.
    Noisy      ///< The threshold itself is shifted by noise.
  };
  Kind kind = Kind::Hard;
  double width = 2;  ///< Altitudes over which the passage spreads, centred on the threshold.
  bool squared =
      false;            ///< Dithered: odds rise with the square, so that the lower band reaches up.
  double feature = 24;  ///< Noisy: feature width in cells.
  bool operator==(const Edge&) const = default;
};

/// All heights below `below` that no earlier band took. The last band has no upper end.
struct Band {
  std::string id;
  std::optional<Threshold> below;
  std::string material;  ///< Id of a material, or kUnassignedId for a gap.
  Edge edge = {};        ///< Of its upper end.
  bool operator==(const Band&) const = default;
};

/// Ground steeper than `from` (cells of rise per cell, from the heights one cell to either side)
/// between two altitudes; goes before all bands, the first that matches takes the cell.
struct SlopeBand {
  std::string id;
  double from = 1;
  std::optional<Threshold> above;  ///< From this altitude on; nothing: endless.
  std::optional<Threshold> below;
  std::string material;
  bool operator==(const SlopeBand&) const = default;
};

/// "sea + 2", "8", "40 % of the world".
std::string thresholdText(const Threshold& threshold);

}  // namespace acre
