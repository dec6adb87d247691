/// Files of shapes and volumes: OBJ, PLY, glTF 2.0 (.glb) and NRRD.
#pragma once

#include <array>
#include <filesystem>
#include <memory>
#include <string>
#include <vector>

#include "base/result.h"
#include "mesh/faces.h"

namespace acre {

/// Triangles by material, counter-clockwise seen from outside; x east, y up, z south
/// (right-handed). Points are in cells from the origin.
struct Solid {
  std::array<double, 3> origin{};  ///< Cell that the points are measured from.
  std::vector<std::array<float, 3>> points;
  std::vector<std::array<float, 3>> normals;  ///< One a point.
  struct Part {
    MaterialIndex material = kUnassigned;
    std::vector<uint32_t> corners;  ///< Three a triangle: indices of points.
    bool clear = false;             ///< It lets light through.
  };
  std::vector<Part> parts;
};

/// Faces, measured from an origin.
Solid facesOf(const std::vector<std::shared_ptr<const BlockMesh>>& meshes,
    const std::array<double, 3>& origin);
/// The merged faces of a chunk. clearLeaves: those of leaves are seen through, and what they touch
/// has its faces too.
Result<Solid> facesOfChunk(const World& world, ChunkPos pos, bool clearLeaves = false);
/// The smooth surface of a chunk's solid blocks, closed by walls at the chunk's sides, and the
/// faces of its liquids.
Result<Solid> surfaceOfChunk(const World& world, ChunkPos pos);
/// The ground of a chunk of columns as a net of (cells + 1) x (cells + 1) points, those of the
/// cells east and south of it included, so that the points at the rims of neighbours are equal.
/// heights are multiplied by `exaggeration`.
Result<Solid> netOfChunk(const World& world, ChunkPos pos, double exaggeration = 1);

/// By the ending of the name: .obj (with a .mtl beside it), .ply or .glb. OBJ and PLY hold absolute
/// coordinates, glTF the origin as its node's translation. Clear parts are so by "d" in the .mtl
/// and by alphaMode BLEND in glTF, seen from both sides; PLY knows of none.
Status writeSolid(const World& world, const Solid& solid, const std::filesystem::path& file);

/// A block chunk as NRRD, 16 bits a block, gzip, axes x, z, y; the palette stands in the header.
Status writeNrrd(const World& world, const Chunk& chunk, const std::filesystem::path& file);
/// The same of any blocks, x fastest, then z, then y. said: a line of the header, "key:=value".
struct Volume {
  std::array<int64_t, 3> origin{}, size{};  ///< x, y, z.
  std::vector<MaterialIndex> blocks;
  std::string said;
};
Status writeNrrd(const World& world, const Volume& volume, const std::filesystem::path& file);

}  // namespace acre
