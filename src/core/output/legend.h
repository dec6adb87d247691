/// What a picture's colours mean, in words, for the legend beside it.
#pragma once

#include <string>
#include <vector>

#include "output/picture.h"

namespace acre {

/// Colour of entries that are words alone.
inline constexpr uint32_t kNoSwatch = 0x00000001;

struct LegendEntry {
  std::string text;
  uint32_t argb = 0;
  bool hatched = false;  ///< The fault hatch instead of a colour.
};

/// Entries in the order in which they stand from high to low: one per band or height tint, then the
/// hatch where a band leaves its cells unassigned.
/// step: cells from one sample to the next, for what is approximate at it.
std::vector<LegendEntry> legendOf(const World& world, const Picture& picture, int64_t step = 1);

}  // namespace acre
