/// The part of runChecks() that looks at caves.
#pragma once

#include "audit/checks.h"

namespace acre {

/// Appends what is found; false when stopped.
bool checkCaves(const World& world, const std::stop_token& stop, std::vector<Check>& out);

}  // namespace acre
