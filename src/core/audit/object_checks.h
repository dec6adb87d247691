/// Known mistakes with what objects are made of.
#pragma once

#include <stop_token>
#include <vector>

#include "audit/checks.h"

namespace acre {

/// Pieces none of whose cells is ever free, pieces wider than the distance that their kind keeps,
/// and objects of a level that stand in the only way to one of its places. False when stopped.
bool checkPieces(const World& world, const std::stop_token& stop, std::vector<Check>& out);

}  // namespace acre
