/// Checks of what stands on or under the surface: floored heights, vertical ranges, ores.
#pragma once

#include "audit/checks.h"

namespace acre {

/// The checks open-steps, cut-range, no-overhang and ore-short of runChecks(), put at the end of
/// `out`. False when stopped.
bool checkGround(const World& world, const std::stop_token& stop, std::vector<Check>& out);

}  // namespace acre
