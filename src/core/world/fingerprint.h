/// Fingerprints of what was generated, for comparing machines, releases and runs. Never of
/// pictures.
#pragma once

#include <span>

#include "base/hash.h"
#include "base/result.h"
#include "world/plan.h"

namespace acre {

/// XXH3-128 over the kind, the rectangle and, channel by channel, the canonical cell values:
/// heights as float bits, materials as indices into the sorted list of ids that occur.
Digest chunkHash(const World& world, const Chunk& chunk);

/// The same for any rectangle of cells, generated here. area: at most 2^26 cells.
Result<Digest> areaHash(const World& world, const Rect& area);

/// Hash over 64 fixed blocks of 8 x 8 cells: 16 around the origin, 16 at negative coordinates, 16
/// at two thousand million, 16 where the seed says. Does not depend on chunk size and bounds.
Digest worldFingerprint(const World& world);

}  // namespace acre
