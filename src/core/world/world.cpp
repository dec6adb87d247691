#include "world/world.h"

#include <fmt/format.h>

#include <algorithm>
#include <new>

#include "base/fp_state.h"
#include "base/seed.h"
#include "recipe/validate.h"

namespace acre {

Status checkGrid(const SampleGrid& grid) {
  const auto inside = [&](int64_t first, int32_t count) {
    if (first < -limits::cell || first > limits::cell) return false;
    return grid.step <= (limits::cell - first) / std::max(1, count);
  };
  if (grid.step < 1 || grid.step > SampleGrid::kMaxStep)
    return Error{Error::Code::InvalidInput, fmt::format("a step of {} cells", grid.step), "step",
                 "1 to 2^40"};
  if (grid.width < 0 || grid.height < 0 || !inside(grid.x, grid.width) ||
      !inside(grid.z, grid.height))
    return Error{Error::Code::InvalidInput,
                 fmt::format("{} x {} samples from {}, {} in steps of {} leave the world",
                             grid.width, grid.height, grid.x, grid.z, grid.step),
                 "area", "cells from -2^60 to 2^60"};
  return done();
}

World::World(Recipe recipe, std::shared_ptr<const HeightField> heights,
             std::shared_ptr<const BandTable> bands, const Kernels& kernels)
    : recipe_(std::move(recipe)),
      seed_(seedNumber(recipe_.seed)),
      layout_(recipe_.frame.chunkSize),
      bounds_(boundsOf(recipe_.frame)),
      heights_(std::move(heights)),
      bands_(std::move(bands)),
      kernels_(&kernels) {}

uint64_t World::largestChunkBytes() const {
  const auto side = static_cast<uint64_t>(layout_.size());
  return sizeof(Chunk) + side * side * (sizeof(float) + sizeof(MaterialIndex));
}

Result<std::shared_ptr<const Chunk>> World::chunk(ChunkPos pos, const std::stop_token& stop) const {
  const auto fault = [&](Error::Code code, const char* what, std::string accepted) {
    return Error{code, what,
                 fmt::format("chunk {},{}, stage heights, seed {}", pos.cx, pos.cz, recipe_.seed),
                 std::move(accepted)};
  };
  const int64_t farthest = limits::cell / layout_.size() - 1;
  if (pos.cx < -farthest || pos.cx > farthest || pos.cz < -farthest || pos.cz > farthest)
    return fault(Error::Code::InvalidInput, "beyond the last chunk",
                 fmt::format("{} to {}", -farthest, farthest));
  const Rect rect = intersection(layout_.rectOf(pos), bounds_);
  if (rect.empty())
    return fault(Error::Code::InvalidInput, "outside the world's bounds",
                 "chunks that hold a cell of the world");
  const FpState fp;
  auto chunk = std::make_shared<Chunk>();
  chunk->pos = pos;
  chunk->rect = rect;
  const SampleGrid grid{rect.x, rect.z, 1, static_cast<int32_t>(rect.width),
                        static_cast<int32_t>(rect.height)};
  const auto count = static_cast<size_t>(rect.width * rect.height);
  try {
    chunk->heights.resize(count);
    chunk->materials.resize(count);
  } catch (const std::bad_alloc&) {
    return fault(Error::Code::ResourceExhausted, "out of memory", "a smaller chunk size");
  }
  if (!heights_->evaluate(*kernels_, grid, chunk->heights.data(), grid.width, stop))
    return cancelled();
  bands_->evaluate(*kernels_, chunk->heights.data(), static_cast<int64_t>(count),
                   chunk->materials.data());
  return std::shared_ptr<const Chunk>(std::move(chunk));
}

Status World::sample(const SampleGrid& grid, float* heights, MaterialIndex* materials,
                     const std::stop_token& stop, ptrdiff_t stride) const {
  if (Status fits = checkGrid(grid); !fits) return fits;
  const FpState fp;
  if (stride == 0) stride = grid.width;
  if (!heights_->evaluate(*kernels_, grid, heights, stride, stop)) return cancelled();
  if (!materials) return done();
  for (int32_t j = 0; j < grid.height; ++j) {
    MaterialIndex* row = materials + j * stride;
    bands_->evaluate(*kernels_, heights + j * stride, grid.width, row);
    if (!bounded()) continue;
    for (int32_t i = 0; i < grid.width; ++i)
      if (!bounds_.contains({grid.x + i * grid.step, grid.z + j * grid.step})) row[i] = kOutside;
  }
  return done();
}

CellValue World::at(Cell cell) const {
  const FpState fp;
  CellValue value;
  value.height = heights_->at({cell.x, 0}, {cell.z, 0});
  value.band = bands_->bandOf(value.height);
  value.material = bounds_.contains(cell) ? bands_->materialOf(value.height) : kOutside;
  return value;
}

const Material* World::material(MaterialIndex index) const {
  if (index == kUnassigned || index > recipe_.materials.size()) return nullptr;
  return &recipe_.materials[index - size_t{1}];
}

std::string World::materialId(MaterialIndex index) const {
  if (const Material* found = material(index)) return found->id;
  return index == kOutside ? "outside" : kUnassignedId;
}

}  // namespace acre
