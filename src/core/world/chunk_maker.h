/// How the chunks of a world are made.
#pragma once

#include <memory>
#include <stop_token>

#include "world/chunk.h"

namespace acre {

class World;  // world/world.h

/// See ChunkSource, whose part this is for worlds.
class ChunkMaker {
 public:
  /// world: there for as long as this is.
  explicit ChunkMaker(const World& world) : world_(world) {}

  uint64_t largestBytes() const;
  uint64_t workBytes() const;
  Result<std::shared_ptr<const Chunk>> make(
      ChunkPos pos, const std::stop_token& stop, StageTimes* times) const;

 private:
  Error fault(ChunkPos pos, Error::Code code, std::string what, std::string accepted) const;
  /// There is such a chunk, and it holds a cell of the world.
  Status check(ChunkPos pos) const;
  /// Objects that have cells of the chunk.
  std::optional<std::vector<PlacedObject>> reaching(
      const Chunk& chunk, const std::stop_token& stop) const;
  /// Adds the objects that stand in the chunk or reach into it.
  Status objects(Chunk& chunk, StageClock& clock, const std::stop_token& stop) const;
  // Each fills in what a chunk of that kind holds over the samples of its ground.
  Status columns(
      Chunk& chunk, const SampleGrid& grid, const std::stop_token& stop, StageTimes* times) const;
  Status blocks(
      Chunk& chunk, const SampleGrid& grid, const std::stop_token& stop, StageTimes* times) const;

  /// Blocks of a world whose chunks hold tiles, and these.
  Status tiledBlocks(
      Chunk& chunk, const SampleBlock& place, const std::stop_token& stop, StageTimes* times) const;

  const World& world_;
};

}  // namespace acre
