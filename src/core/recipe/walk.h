/// What the numbers of a bounded walk amount to; field/skyline.h says how it goes.
#pragma once

#include <cstdint>

#include "recipe/field_recipe.h"
#include "recipe/validate.h"

namespace acre {

/// Longest segment between two anchors; walks that forget more slowly are refused.
inline constexpr int64_t kLongestWalkSegment = 8192;

/// Columns from one anchor to the next: the least power of two, 256 and up, four times as long as
/// the walk takes to forget where it began. REQUIRES: numbers within their limits.
int64_t walkSegment(const WalkSource& walk);

/// Between these every height lies.
Range walkRange(const WalkSource& walk);

}  // namespace acre
