/// The visible faces of blocks, those alike merged into rectangles.
#pragma once

#include <array>
#include <cstdint>
#include <memory>
#include <span>
#include <stop_token>
#include <utility>
#include <vector>

#include "base/coords.h"
#include "base/result.h"
#include "world/plan.h"

namespace acre {

/// Which way a face looks. The order is that of the axes x, y, z, first down an axis, then up.
enum class Side : uint8_t { West, East, Down, Up, North, South };
inline constexpr int kSides = 6;

/// A rectangle of faces of one material that look the same way. Its corner with the least
/// coordinates lies at (x, y, z) samples from the mesh's origin, on the plane of the faces; it
/// extends `width` along the first and `height` along the second of the other two axes, in the
/// order x, z, y: West and East along z and y, Down and Up along x and z, North and South along x
/// and y.
struct Quad {
  uint8_t x = 0, y = 0, z = 0;
  Side side = Side::Up;
  uint8_t width = 1, height = 1;
  MaterialIndex material = kUnassigned;
  bool operator==(const Quad&) const = default;
};

/// How a block takes part in a mesh. Cover is seen through: what touches it shows its faces.
enum class BlockClass : uint8_t { Open, Liquid, Solid, Cover };

/// Classes by index of the material, for World::material's table.
class BlockClasses {
 public:
  /// clearLeaves: what trees have for leaves is Cover, else Solid.
  explicit BlockClasses(const World& world, bool clearLeaves = false);
  explicit BlockClasses(std::vector<BlockClass> classes) : classes_(std::move(classes)) {}
  /// The ground under the water of a world of columns, which no material is told of: one more than
  /// its materials.
  static MaterialIndex bedOf(const World& world);
  /// Beyond the bounds blocks count as open.
  BlockClass of(MaterialIndex m) const { return m >= kOpen ? BlockClass::Open : classes_[m]; }
  /// The only liquid that a world of blocks holds, or kOpen.
  std::span<const BlockClass> table() const { return classes_; }

 private:
  std::vector<BlockClass> classes_;
};

/// A corner of a smooth surface: its place in samples from the mesh's origin, and the direction
/// that the surface looks in there, of length 1.
struct SurfacePoint {
  float x, y, z;
  float nx, ny, nz;
};

/// Corners by index, anticlockwise seen from the open side.
struct SurfaceTriangle {
  uint32_t a, b, c;
  MaterialIndex material;
};

/// The materials that trees of a world have for leaves, ascending.
std::vector<MaterialIndex> leavesOf(const World& world);

/// The faces of one brick of blocks. A face belongs to the block whose side it is: that of a solid
/// one towards anything that is not solid, that of a liquid one towards what is open, that of
/// cover towards what is open or liquid.
struct BlockMesh {
  static constexpr int kSide = 32;  ///< Most samples of a brick along an axis.

  int64_t x = 0, y = 0, z = 0;  ///< Cell of the corner.
  int64_t step = 1;  ///< Cells from one sample to the next; a sample is drawn that large.
  int32_t width = 0, tall = 0, depth = 0;  ///< Samples along x, y, z.
  std::vector<Quad> quads;
  uint64_t faces = 0;  ///< Before merging.

  /// Of smooth meshes (mesh/smooth.h); their quads are those of liquids alone. Walls close the
  /// brick's sides where the ground beyond is not drawn at the same step.
  std::vector<SurfacePoint> points;
  std::vector<SurfaceTriangle> triangles;
  std::array<std::vector<SurfaceTriangle>, kSides> walls;

  bool empty() const { return quads.empty() && triangles.empty(); }
  uint64_t bytes() const {
    uint64_t all = sizeof(BlockMesh) + quads.capacity() * sizeof(Quad) +
                   points.capacity() * sizeof(SurfacePoint) +
                   triangles.capacity() * sizeof(SurfaceTriangle);
    for (const auto& wall : walls) all += wall.capacity() * sizeof(SurfaceTriangle);
    return all;
  }
};

struct FaceOptions {
  bool merge = true;
  /// So many samples below what is exposed, the brick's sides are closed whatever lies beyond:
  /// where bricks of different steps meet, no hole opens. 0: none.
  int skirt = 0;
  bool smooth = false;       ///< A smooth surface instead of faces; needs no skirts.
  bool clearLeaves = false;  ///< Leaves are seen through; not in smooth surfaces.
  /// Bricks wholly below `low` or from `high` on are left out.
  int64_t low = INT64_MIN, high = INT64_MAX;
};

/// blocks: (width + 2) x (tall + 2) x (depth + 2) samples, x fastest, then z, then y, with one of
/// the neighbours' on every side. mesh: origin and extents, each at most kSide.
void buildFaces(const BlockClasses& classes, std::span<const MaterialIndex> blocks,
    const FaceOptions& options, BlockMesh& mesh);

/// The bricks of a chunk's ground, with aprons asked of the world. Nothing to see gives no brick.
/// Errors: as for World::sampleBlocks.
Result<std::vector<std::shared_ptr<const BlockMesh>>> meshChunk(const World& world, ChunkPos pos,
    const FaceOptions& options = {}, const std::stop_token& stop = {});

/// A cell-by-cell mesher without masks, for tests and as the measure of the other.
void buildFacesPlainly(const BlockClasses& classes, std::span<const MaterialIndex> blocks,
    const FaceOptions& options, BlockMesh& mesh);

}  // namespace acre
