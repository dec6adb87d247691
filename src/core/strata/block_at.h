/// What the stages of blocks say of one block.
#pragma once

#include <cstdint>

#include "base/indices.h"

namespace acre {

/// One block as BlockStage makes it, and why.
struct BlockAt {
  MaterialIndex material = kOpen;
  bool solid = false;
  float distance = 0;   ///< d
  float noise = 0;      ///< Of the overhang; 0 where it does not act.
  float pushed = 0;     ///< What the overhang adds to d.
  float density = 0;    ///< Their sum.
  int64_t depth = 0;    ///< Of solid blocks; at most layersDeep() + 1 is counted.
  bool deeper = false;  ///< There are more above than were counted.
  int set = 0;          ///< Which layers lie here: an index of BlockInputs::sets.
  int layer = -1;       ///< Index of the depth layer, or -1.
  int bed = -1;         ///< Index of the bed, or -1.
  float bedTop = 0;     ///< Altitude of the first bed's upper side here.
  int ore = -1;         ///< Index of the ore, or -1.
  bool water = false;
  bool fresh = false;               ///< Of a lake or a river.
  bool edited = false;              ///< Changed by hand: `material` is the new one.
  MaterialIndex generated = kOpen;  ///< Of an edited block, what it was.
};

}  // namespace acre
