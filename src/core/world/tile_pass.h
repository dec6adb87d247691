/// The pass that lays tiles over what a world is made of in the end.
#pragma once

#include <functional>
#include <memory>
#include <stop_token>
#include <vector>

#include "base/coords.h"
#include "base/result.h"
#include "tiling/tile_stage.h"

namespace acre {

class World;        // world/world.h
class PackedCells;  // world/packed_cells.h
struct Chunk;       // world/chunk.h
struct Land;        // world/column_sampler.h
struct StageTimes;  // field/stage_times.h

/// Values of some cells, a plane for each group, x fastest, then z. In side worlds z = -y.
struct TilePlanes {
  Rect cells;
  std::vector<std::vector<uint16_t>> groups;
  uint16_t at(int group, Cell cell) const {
    return groups[static_cast<size_t>(group)]
                 [static_cast<size_t>((cell.z - cells.z) * cells.width + cell.x - cells.x)];
  }
};

/// Immutable and thread-safe.
class TilePass {
 public:
  /// Most cells at once.
  static constexpr int64_t kMostCells = int64_t{1} << 26;

  /// There for as long as this is: the world.
  explicit TilePass(const World& world);

  /// Nothing: the world has no tiles.
  const TileStage* stage() const { return stage_.get(); }
  const std::shared_ptr<const TileStage>& shared() const { return stage_; }
  /// Cells that exist in the plane that tiles lie in.
  const Rect& plane() const { return plane_; }

  /// What a grid of a world of columns holds, objects and what was changed by hand included, and
  /// besides what its cells are made of as tiles see it; as if the world had no bounds.
  Status columns(const SampleGrid& grid, const Land& land, MaterialIndex* tiles,
      const std::stop_token& stop = {}) const;
  /// The same of blocks.
  Status blocks(const SampleBlock& block, MaterialIndex* blocks, MaterialIndex* tiles,
      const std::stop_token& stop = {}, StageTimes* times = nullptr) const;

  /// What the cells of a rectangle are made of as tiles see it; those beyond the plane kOutside.
  Status materials(const Rect& cells, MaterialIndex* out, const std::stop_token& stop = {}) const;
  /// The same cells of all groups. Equal to any cut of a larger rectangle. Refuses more than
  /// kMostCells, and what reaches beyond the last cell.
  Result<TilePlanes> planes(const Rect& cells, const std::stop_token& stop = {}) const;
  /// The same of other materials: told(cells with those around them, where they go).
  Result<TilePlanes> planesOf(const Rect& cells,
      const std::function<Status(const Rect&, MaterialIndex*)>& told,
      const std::stop_token& stop = {}) const;
  /// Of a chunk, in its own order, by group; told: what a rectangle is made of as tiles see it.
  /// Nothing in worlds whose chunks have no tiles.
  Result<std::vector<PackedCells>> ofChunk(const Chunk& chunk,
      const std::function<Status(const Rect&, MaterialIndex*)>& told,
      const std::stop_token& stop = {}) const;
  /// Chunks hold tiles: there are some, and chunks are cut from the plane that they lie in.
  bool inChunks() const;
  /// The plane's cells under a chunk's.
  Rect cellsOf(const Chunk& chunk) const;
  /// One cell, by plain code: what every group says.
  std::vector<TileOfCell> at(Cell cell) const;

 private:
  Status grounds(const Rect& cells, MaterialIndex* out, const std::stop_token& stop) const;
  /// An object's material that no group names leaves what is under it to the tiles.
  void leave(size_t count, const MaterialIndex* with, MaterialIndex* tiles) const;
  /// Classes of a rectangle and of those around it, of which the plane holds a part.
  std::vector<uint8_t> classes(const Rect& around, const MaterialIndex* materials) const;

  const World& world_;
  std::shared_ptr<const TileStage> stage_;
  Rect plane_;
};

}  // namespace acre
