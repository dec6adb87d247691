/// What World::blockAt() says of one block.
#pragma once

#include "cave/cave_at.h"
#include "strata/block_at.h"

namespace acre {

/// What one block holds, and why.
struct BlockValue : BlockAt {
  MaterialIndex ground = kOpen;  ///< Before caves.
  CaveAt cave;
};

}  // namespace acre
