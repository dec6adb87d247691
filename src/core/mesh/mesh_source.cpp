#include "mesh/mesh_source.h"

#include <fmt/format.h>

#include <chrono>

#include "world/world.h"

namespace acre {
namespace {

/// Bricks of a chunk.
uint64_t bricksOf(const ChunkLayout& layout) {
  const auto parts = [](int64_t cells) {
    return static_cast<uint64_t>((cells + BlockMesh::kSide - 1) / BlockMesh::kSide);
  };
  const Vertical& v = layout.vertical();
  return parts(layout.size()) * parts(v.plane ? 1 : layout.size()) *
         parts(v.tall ? v.tall : v.extent);
}

/// Half of a brick's blocks, each apart from all others, show six faces each. Nothing shows more.
constexpr uint64_t kMostQuads =
    uint64_t{BlockMesh::kSide} * BlockMesh::kSide * BlockMesh::kSide * 3;

/// A smooth brick has one cube more than samples along an axis, or two where the world begins.
/// Each of the twelve edges of a cube gives one triangle at most; a sample begins three edges, and
/// a cube has at most three fans. A wall's square has at most four triangles.
constexpr uint64_t kMostCubes = BlockMesh::kSide + 1, kMostSamples = kMostCubes + 2;
constexpr uint64_t kMostTriangles =
    kMostCubes * kMostCubes * kMostCubes * 12 + kSides * kMostCubes * kMostCubes * 4;
constexpr uint64_t kMostPoints = kMostSamples * kMostSamples * kMostSamples * 3 +
                                 kMostCubes * kMostCubes * kMostCubes * 3 +
                                 kSides * kMostSamples * kMostSamples;

/// Of a brick's trees from afar: each has a trunk and a crown in layers of six sides.
constexpr uint64_t kMostFarBytes = sizeof(BlockMesh) + ObjectCells::kMostFar *
                                                           (TreeStamp::kMostLayers + 1) * kSides *
                                                           sizeof(Quad);

uint64_t mostBrickBytes(const FaceOptions& options) {
  return sizeof(BlockMesh) + kMostFarBytes + kMostQuads * sizeof(Quad) +
         (options.smooth
                 ? kMostTriangles * sizeof(SurfaceTriangle) + kMostPoints * sizeof(SurfacePoint)
                 : 0);
}

}  // namespace

uint64_t MeshSource::largestChunkBytes() const {
  return sizeof(Chunk) + bricksOf(layout()) * mostBrickBytes(options_) +
         Chunk::kBlocks * Chunk::kBytesPerBlock;
}

uint64_t MeshSource::workBytes() const {
  // The chunk, and the blocks of one brick with what making it takes.
  return largestChunkBytes() + (uint64_t{options_.smooth ? 2048u : 512u} << 10);
}

Result<std::shared_ptr<const Chunk>> MeshSource::makeChunk(
    ChunkPos pos, const std::stop_token& stop, StageTimes* times) const {
  const auto begin = std::chrono::steady_clock::now();
  auto meshes = meshChunk(*world_, pos, options_, stop);
  if (!meshes) {
    Error error = meshes.error();
    if (error.code != Error::Code::Cancelled)
      error.where = fmt::format("chunk {}, stage blocks, seed {}", chunkText(layout(), pos),
          planOf(*world_).recipe().seed);
    return error;
  }
  auto chunk = std::make_shared<Chunk>();
  chunk->pos = pos;
  chunk->rect = intersection(layout().rectOf(pos), bounds());
  const BlockLevels levels = layout().levelsOf(pos);
  chunk->y = levels.first;
  chunk->tall = levels.count;
  for (const auto& mesh : *meshes) chunk->meshBytes += mesh->bytes();
  chunk->meshBytes += meshes->size() * sizeof(std::shared_ptr<const BlockMesh>);
  chunk->meshes = std::move(*meshes);
  if (times)
    (*times)[StageId::Strata] +=
        std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now() - begin).count();
  return std::shared_ptr<const Chunk>(std::move(chunk));
}

}  // namespace acre
