/// What World::blockAt() says of one block.
#pragma once

#include <optional>

#include "cave/cave_at.h"
#include "strata/block_at.h"
#include "world/cell_claim.h"

namespace acre {

/// What one block holds, and why.
struct BlockValue : BlockAt {
  MaterialIndex ground = kOpen;  ///< Before caves.
  CaveAt cave;
  /// The object that it is part of, unless it was changed by hand since; `made` is what the stages
  /// before Objects made there.
  std::optional<CellClaim> object = {};
  MaterialIndex made = kOpen;
};

}  // namespace acre
