/// A compiled recipe. Map, command, exports and streaming all ask here and nowhere else.
#pragma once

#include <memory>
#include <stop_token>
#include <string>
#include <vector>

#include "base/coords.h"
#include "base/hash.h"
#include "base/result.h"
#include "field/heights.h"
#include "recipe/recipe.h"
#include "strata/bands.h"

namespace acre {

/// The cells of one chunk, x fastest. At the rim of a bounded world `rect` is the part that exists.
struct Chunk {
  ChunkPos pos;
  Rect rect;
  std::vector<float> heights;
  std::vector<MaterialIndex> materials;

  uint64_t bytes() const {
    return sizeof(Chunk) + heights.capacity() * sizeof(float) +
           materials.capacity() * sizeof(MaterialIndex);
  }
};

/// What one cell holds.
struct CellValue {
  float height = 0;
  int band = -1;  ///< Index of the band that decided the material; -1 when there are no bands.
  MaterialIndex material = kUnassigned;  ///< kOutside beyond the bounds.
};

/// Immutable, thread-safe, made by Engine::compile. Any rectangle at any step and any chunk agree
/// cell by cell, whatever the order, the threads and the kernels.
class World {
 public:
  World(Recipe recipe, std::shared_ptr<const HeightField> heights,
        std::shared_ptr<const BandTable> bands, const Kernels& kernels);

  const Recipe& recipe() const { return recipe_; }
  uint64_t seed() const { return seed_; }
  const ChunkLayout& layout() const { return layout_; }
  const Rect& bounds() const { return bounds_; }
  bool bounded() const { return recipe_.frame.x || recipe_.frame.z; }
  const Kernels& kernels() const { return *kernels_; }
  const HeightField& heightField() const { return *heights_; }
  const BandTable& bands() const { return *bands_; }

  /// One chunk. Errors name the chunk, the stage and the seed: beyond the coordinate limit, wholly
  /// outside the bounds, stopped, or out of memory.
  Result<std::shared_ptr<const Chunk>> chunk(ChunkPos pos, const std::stop_token& stop = {}) const;

  /// Most bytes that one chunk of this world can take.
  uint64_t largestChunkBytes() const;

  /// Heights (and, unless null, materials) of a grid of samples; sample (i, j) goes to place
  /// j * stride + i, stride 0 meaning grid.width. Samples outside the bounds have a height and the
  /// material kOutside. Refuses grids beyond the limit.
  Status sample(const SampleGrid& grid, float* heights, MaterialIndex* materials,
                const std::stop_token& stop = {}, ptrdiff_t stride = 0) const;

  /// One cell, by the plain scalar code.
  CellValue at(Cell cell) const;

  /// The recipe's material; nothing for kUnassigned and kOutside.
  const Material* material(MaterialIndex index) const;
  /// Its id, kUnassignedId or "outside".
  std::string materialId(MaterialIndex index) const;

 private:
  Recipe recipe_;
  uint64_t seed_;
  ChunkLayout layout_;
  Rect bounds_;
  std::shared_ptr<const HeightField> heights_;
  std::shared_ptr<const BandTable> bands_;
  const Kernels* kernels_;
};

/// Refuses a grid whose samples leave +-kMaxCell or whose step is out of range.
Status checkGrid(const SampleGrid& grid);

}  // namespace acre
