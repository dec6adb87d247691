/// The ground as a smooth surface instead of the faces of its blocks.
#pragma once

#include <span>

#include "mesh/faces.h"

namespace acre {

/// Our own surface extraction. Samples stand in the middle of their blocks; the cube between eight
/// of them is cut wherever one is solid and its neighbour along an edge is not. On each side of the
/// cube the cuts are joined so that solid corners that meet only across it stay apart, which both
/// cubes beside it see alike; what is joined goes round the cube in closed loops, and each loop is
/// filled with triangles. So every edge belongs to exactly two triangles, and no block, however
/// thin, is lost. Where on the edge a cut lies follows how much of the 3 x 3 x 3 samples about its
/// two ends is solid.
///
/// A brick of n samples owns the cubes from each sample to the next; the last ones reach into its
/// neighbours. Where the world begins it owns those before its first sample too, and where it ends
/// those after the last end at what lies outside, which is open: the surface is closed.
///
/// Bricks of one step meet edge by edge. Where the ground beyond a side is drawn at another step or
/// not at all, BlockMesh::walls[side] closes the brick along the plane of its side, through the
/// same points, and the other brick's wall closes that one: every edge of both surfaces still
/// belongs to two triangles, and nothing is seen through. Bricks without any surface have no walls:
/// where all is solid there is nothing to see.

/// Samples around a brick that buildSmooth() needs.
inline constexpr int kSmoothApron = 2;

/// blocks: (width + 4) x (tall + 4) x (depth + 4) samples, x fastest, then z, then y, with two of
/// the neighbours' on every side. mesh: origin and extents, each at most BlockMesh::kSide. Its
/// quads stay as they are.
void buildSmooth(
    const BlockClasses& classes, std::span<const MaterialIndex> blocks, BlockMesh& mesh);

}  // namespace acre
