/// What a bounded walk makes of a skyline: how often it is at its limits, and its three curves.
#pragma once

#include <optional>
#include <stop_token>
#include <string>
#include <vector>

#include "world/engine.h"

namespace acre {

/// One walk layer along x at z = 0, in what it brings to its field.
struct SkylineFigures {
  std::string seed;
  double low = 0, high = 0;  ///< The limits, as the layer brings them.
  int64_t first = 0;         ///< The first column.
  uint64_t columns = 0;
  uint64_t atLimits = 0;  ///< Within half a cell of a limit, or on it.
  uint64_t beyond = 0;    ///< Above the upper or below the lower one.
  float lowest = 0, highest = 0;
  std::vector<float> heights;  ///< Of the first kCurve columns.

  static constexpr int32_t kCurve = 1024;
  static constexpr int32_t kColumns = 65'536;
  double shareAt() const { return share(atLimits); }
  double shareBeyond() const { return share(beyond); }

 private:
  double share(uint64_t n) const {
    return columns ? static_cast<double>(n) / static_cast<double>(columns) : 0;
  }
};

/// Nothing when the layer is no walk that is on, or when stopped.
std::optional<SkylineFigures> skylineFigures(const World& world, const FieldRecipe& field,
    const std::string& layer, int64_t first = 0, const std::stop_token& stop = {});

/// The same of the recipe's seed and those after it.
std::vector<SkylineFigures> skylineOverSeeds(Engine& engine, const Recipe& recipe,
    const std::string& field, const std::string& layer, int seeds, int64_t first = 0,
    const std::stop_token& stop = {});

}  // namespace acre
