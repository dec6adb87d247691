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

World::World(Recipe recipe, WorldParts parts, const Kernels& kernels)
    : recipe_(std::move(recipe)),
      seed_(seedNumber(recipe_.seed)),
      layout_(recipe_.frame.chunkSize),
      bounds_(boundsOf(recipe_.frame)),
      parts_(std::move(parts)),
      kernels_(&kernels) {}

const Field* World::field(const std::string& id) const {
  if (id == kHeightsId) return parts_.heights.get();
  if (climateAxisOf(recipe_, id))
    return (id == kTemperatureId ? parts_.temperature : parts_.moisture).get();
  for (size_t i = 0; i < recipe_.fields.size(); ++i)
    if (recipe_.fields[i].id == id) return parts_.fields[i].get();
  return nullptr;
}

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
  if (const Status made = sample(grid, chunk->heights.data(), chunk->materials.data(), stop); !made)
    return made.error().code == Error::Code::Cancelled
               ? made.error()
               : fault(made.error().code, made.error().what.c_str(), made.error().accepted);
  return std::shared_ptr<const Chunk>(std::move(chunk));
}

Status World::sampleField(const Field& field, const SampleGrid& grid, float* values,
                          const std::stop_token& stop, ptrdiff_t stride) const {
  if (Status fits = checkGrid(grid); !fits) return fits;
  const FpState fp;
  if (!field.evaluate(*kernels_, grid, values, stride ? stride : grid.width, stop))
    return cancelled();
  return done();
}

Status World::sampleLayer(const Field& field, size_t step, const SampleGrid& grid, float* values,
                          const std::stop_token& stop, ptrdiff_t stride) const {
  if (Status fits = checkGrid(grid); !fits) return fits;
  const FpState fp;
  if (!field.evaluateStep(*kernels_, step, grid, values, stride ? stride : grid.width, stop))
    return cancelled();
  return done();
}

bool World::sampleSlopes(const SampleGrid& grid, float* heights, ptrdiff_t stride, float* slopes,
                         const std::stop_token& stop) const {
  const Field& field = *parts_.heights;
  const ptrdiff_t width = grid.width;
  if (grid.step == 1) {  // The neighbours are samples of a grid that is one larger on every side.
    const SampleGrid all{grid.x - 1, grid.z - 1, 1, grid.width + 2, grid.height + 2};
    const ptrdiff_t wide = all.width;
    std::vector<float> h(static_cast<size_t>(all.width) * static_cast<size_t>(all.height));
    if (!field.evaluate(*kernels_, all, h.data(), wide, stop)) return false;
    for (ptrdiff_t j = 0; j < grid.height; ++j) {
      const float* at = h.data() + (j + 1) * wide + 1;
      std::copy_n(at, width, heights + j * stride);
      for (ptrdiff_t i = 0; i < width; ++i)
        slopes[j * width + i] = slopeOf(at[i - 1], at[i + 1], at[i - wide], at[i + wide]);
    }
    return true;
  }
  std::vector<float> side[4];
  constexpr int64_t kAway[4][2] = {{-1, 0}, {1, 0}, {0, -1}, {0, 1}};
  for (size_t k = 0; k < 4; ++k) {
    SampleGrid moved = grid;
    moved.x += kAway[k][0];
    moved.z += kAway[k][1];
    side[k].resize(static_cast<size_t>(grid.width) * static_cast<size_t>(grid.height));
    if (!field.evaluate(*kernels_, moved, side[k].data(), width, stop)) return false;
  }
  for (size_t i = 0; i < side[0].size(); ++i)
    slopes[i] = slopeOf(side[0][i], side[1][i], side[2][i], side[3][i]);
  return field.evaluate(*kernels_, grid, heights, stride, stop);
}

Status World::sample(const SampleGrid& grid, float* heights, MaterialIndex* materials,
                     const std::stop_token& stop, ptrdiff_t stride) const {
  if (stride == 0) stride = grid.width;
  if (Status made = sampleUnbounded(grid, heights, materials, stop, stride); !made) return made;
  if (!materials || !bounded()) return done();
  for (int32_t j = 0; j < grid.height; ++j)
    for (int32_t i = 0; i < grid.width; ++i)
      if (!bounds_.contains({grid.x + i * grid.step, grid.z + j * grid.step}))
        materials[j * stride + i] = kOutside;
  return done();
}

Status World::sampleUnbounded(const SampleGrid& grid, float* heights, MaterialIndex* materials,
                              const std::stop_token& stop, ptrdiff_t stride) const {
  if (Status fits = checkGrid(grid); !fits) return fits;
  const FpState fp;
  if (stride == 0) stride = grid.width;
  const bool steep = materials && parts_.bands->needsSlope();
  std::vector<float> slopes;
  if (steep) {
    slopes.resize(static_cast<size_t>(grid.width) * static_cast<size_t>(grid.height));
    if (!sampleSlopes(grid, heights, stride, slopes.data(), stop)) return cancelled();
  } else if (!parts_.heights->evaluate(*kernels_, grid, heights, stride, stop)) {
    return cancelled();
  }
  if (!materials) return done();
  for (int32_t j = 0; j < grid.height; ++j) {
    MaterialIndex* row = materials + j * stride;
    const Cell first{grid.x, grid.z + j * grid.step};
    parts_.bands->evaluate(*kernels_, first, grid.step, grid.width, heights + j * stride,
                           steep ? slopes.data() + ptrdiff_t{j} * grid.width : nullptr, row);
  }
  return done();
}

Status World::sampleSlope(const SampleGrid& grid, float* slopes,
                          const std::stop_token& stop) const {
  if (Status fits = checkGrid(grid); !fits) return fits;
  const FpState fp;
  std::vector<float> heights(static_cast<size_t>(grid.width) * static_cast<size_t>(grid.height));
  if (!sampleSlopes(grid, heights.data(), grid.width, slopes, stop)) return cancelled();
  return done();
}

float World::slopeAt(Cell cell) const {
  const FpState fp;
  const auto h = [&](int64_t dx, int64_t dz) {
    return parts_.heights->at({cell.x + dx, 0}, {cell.z + dz, 0});
  };
  return slopeOf(h(-1, 0), h(1, 0), h(0, -1), h(0, 1));
}

CellValue World::at(Cell cell) const {
  const FpState fp;
  CellValue value;
  value.height = parts_.heights->at({cell.x, 0}, {cell.z, 0});
  value.slope = slopeAt(cell);
  const BandTable::Decision decision = parts_.bands->decide(cell, value.height, value.slope);
  value.band = decision.band;
  value.slopeBand = decision.slope;
  value.material = bounds_.contains(cell) ? decision.material : kOutside;
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
