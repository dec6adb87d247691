/// Chunks to look at: a stream that is given one of these hands over faces instead of cells.
#pragma once

#include <memory>

#include "mesh/faces.h"
#include "world/plan.h"

namespace acre {

/// Stands before a world. Chunks are the world's groundLayout(), of any detail level; they hold
/// `meshes` and no cells. Thread-safe.
class MeshSource final : public ChunkSource {
 public:
  MeshSource(std::shared_ptr<const World> world, const FaceOptions& options)
      : world_(std::move(world)), options_(options) {}

  const ChunkLayout& layout() const override { return planOf(*world_).groundLayout(); }
  const Rect& bounds() const override { return planOf(*world_).bounds(); }
  uint64_t largestChunkBytes() const override;
  uint64_t workBytes() const override;

 private:
  Result<std::shared_ptr<const Chunk>> makeChunk(
      ChunkPos pos, const std::stop_token& stop, StageTimes* times) const override;

  std::shared_ptr<const World> world_;
  FaceOptions options_;
};

}  // namespace acre
