/// What a world is cut into, and whoever can make it.
#pragma once

#include <memory>
#include <optional>
#include <stop_token>
#include <string>
#include <vector>

#include "base/coords.h"
#include "base/indices.h"
#include "base/result.h"
#include "field/stage_times.h"
#include "world/packed_cells.h"

namespace acre {

struct BlockMesh;

/// What stands on the ground.
struct PlacedObject {
  static constexpr uint16_t kPlain = 0xFFFF;
  uint64_t id = 0;           ///< The same for whoever meets it.
  uint16_t kind = 0;         ///< Its place in the recipe.
  uint16_t choice = kPlain;  ///< That of what was drawn; kPlain: the kind itself.
  uint8_t turn = 0;          ///< Quarter turns.
  bool mirrored = false;     ///< East for west, before that; for pieces that may be.
  Cell cell;
  int64_t y = 0;  ///< In worlds of blocks: the level over the block that it stands on.
  bool operator==(const PlacedObject&) const = default;
};

/// The cells of one chunk, x fastest; of blocks x fastest, then z, then y. At the rim of a bounded
/// world `rect` is the part that exists. A chunk of detail level L > 0 holds the samples at the
/// multiples of 2^L cells, as many as a whole chunk has cells, those outside the bounds as
/// kOutside; `rect` is the ground that they stand for.
struct Chunk {
  ChunkPos pos;
  Rect rect;
  int32_t width = 0;           ///< Samples along x.
  int32_t length = 0;          ///< Samples along z.
  int64_t y = 0;               ///< Lowest level of blocks.
  int32_t tall = 0;            ///< Levels of blocks; 0: a chunk of columns.
  std::vector<float> heights;  ///< Of columns; empty in chunks of blocks.
  PackedCells materials;       ///< Of MaterialIndex.
  PackedCells biomes;          ///< Of BiomeIndex; empty in worlds without biomes and for blocks.
  /// Of columns, where the recipe fills down: cells below each top that must be there so that no
  /// hole opens beside a lower neighbour, at most 65,535. Else empty.
  PackedCells fill;
  /// Of columns with the stage Water: what covers each cell (WaterKind), and up to which level:
  /// 0 where it is dry, else 1 + the place among waterLevels, which rise. Else empty.
  PackedCells waterKinds;
  PackedCells water;
  std::vector<int32_t> waterLevels;
  /// With the stage Objects, those that stand in its cells or have some of them, by kind, z and x;
  /// nothing where its detail level is above kObjectDetail.
  std::vector<PlacedObject> objects;
  /// With the stage Tiles, of whole cells of worlds that are no volume: the values of each group
  /// that is on (recipe/tile_cases.h), in the order of the cells. Else empty.
  std::vector<PackedCells> tiles;
  /// Faces, in chunks that come from a MeshSource (mesh/mesh_source.h) instead of cells.
  std::vector<std::shared_ptr<const BlockMesh>> meshes;
  uint64_t meshBytes = 0;

  /// What the chunk takes in memory: the object and what it holds on the heap, and what the
  /// allocator adds per block.
  uint64_t bytes() const {
    return sizeof(Chunk) + heights.capacity() * sizeof(float) + materials.heapBytes() +
           biomes.heapBytes() + fill.heapBytes() + waterKinds.heapBytes() + water.heapBytes() +
           waterLevels.capacity() * sizeof(int32_t) + objects.capacity() * sizeof(PlacedObject) +
           tileBytes() + meshBytes + kBlocks * kBytesPerBlock;
  }
  uint64_t tileBytes() const {
    uint64_t bytes = tiles.capacity() * sizeof(PackedCells);
    for (const PackedCells& plane : tiles) bytes += plane.heapBytes() + 2 * kBytesPerBlock;
    return bytes;
  }
  /// Whether an object stands in it: each does in one chunk, whichever its cells reach.
  bool owns(const PlacedObject& object) const {
    return rect.contains(object.cell) &&
           (tall == 0 || (object.y >= y && object.y < y + (int64_t{tall} << pos.detail)));
  }
  /// Whole cells up to the surface of the water over a cell; nothing where it is dry.
  std::optional<int32_t> waterAt(size_t cell) const {
    const uint16_t place = water.size() ? water[cell] : uint16_t{0};
    return place ? std::optional(waterLevels[place - size_t{1}]) : std::nullopt;
  }
  static constexpr uint64_t kBlocks = 14;
  static constexpr uint64_t kBytesPerBlock = 16;
};

/// Coarsest detail level of chunks.
inline constexpr int kCoarsestDetail = 8;

/// Coarsest of them that objects are told of in.
inline constexpr int kObjectDetail = 2;

/// "3,-2", or "3,0,-2" where chunks are divided along y; "3,0" in side worlds, without cz.
std::string chunkText(const ChunkLayout& layout, ChunkPos pos);

/// Makes chunks. World does; so may anything that stands in front of one.
class ChunkSource {
 public:
  virtual ~ChunkSource() = default;

  virtual const ChunkLayout& layout() const = 0;
  virtual const Rect& bounds() const = 0;
  /// Most bytes that one finished chunk can take.
  virtual uint64_t largestChunkBytes() const = 0;
  /// Most bytes that are in use while one is being made, the finished chunk included.
  virtual uint64_t workBytes() const = 0;

  /// One chunk. Errors name the chunk, the stage and the seed: beyond the coordinate limit, wholly
  /// outside the bounds, stopped, or out of memory. times: added to. Thread-safe.
  Result<std::shared_ptr<const Chunk>> chunk(
      ChunkPos pos, const std::stop_token& stop = {}, StageTimes* times = nullptr) const {
    return makeChunk(pos, stop, times);
  }

 private:
  virtual Result<std::shared_ptr<const Chunk>> makeChunk(
      ChunkPos pos, const std::stop_token& stop, StageTimes* times) const = 0;
};

}  // namespace acre
