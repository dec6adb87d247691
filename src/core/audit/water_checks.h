/// The part of runChecks() that looks at rivers and lakes.
#pragma once

#include "audit/checks.h"

namespace acre {

/// Appends what is found about the rivers within kWaterLookedAt cells of the origin, or of the
/// middle of a bounded world; false when stopped.
bool checkWater(const World& world, const std::stop_token& stop, std::vector<Check>& out);

inline constexpr int64_t kWaterLookedAt = 1024;

}  // namespace acre
