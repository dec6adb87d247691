#include "world/world.h"

#include <fmt/format.h>

#include <algorithm>
#include <chrono>
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

std::vector<std::string> World::approximations(int64_t step) const {
  std::vector<std::string> out;
  const auto fields = fieldsOf(recipe_);
  const bool water = std::any_of(fields.begin(), fields.end(), [&](const FieldRecipe* f) {
    return readsWaterDistance(recipe_, *f);
  });
  if (water && step > WaterDistance::kExactStep) out.push_back("distance from water");
  if (parts_.biomes && parts_.biomes->islets() > 0 && step > Islets::kExactStep)
    out.push_back("islets given back");
  return out;
}

uint64_t World::largestChunkBytes() const {
  const auto cells = static_cast<size_t>(layout_.size()) * static_cast<size_t>(layout_.size());
  return sizeof(Chunk) + cells * sizeof(float) +
         PackedCells::mostHeapBytes(cells) * (parts_.biomes ? 2 : 1) +
         Chunk::kBlocks * Chunk::kBytesPerBlock;
}

uint64_t World::workBytes() const {
  const auto side = static_cast<uint64_t>(layout_.size()) + 2;  // Slopes look one cell around.
  uint64_t cell = sizeof(float) + sizeof(MaterialIndex) + sizeof(BiomeIndex);  // Base and indices.
  if (parts_.bands->needsSlope()) cell += 2 * sizeof(float) + sizeof(BiomeIndex);
  return largestChunkBytes() + side * side * cell + (uint64_t{64} << 10);
}

namespace {

/// Adds up, by stage, what a piece of work took; nothing when nobody asked.
class StageClock {
 public:
  explicit StageClock(StageTimes* times) : times_(times) {
    if (times_) last_ = std::chrono::steady_clock::now();
  }
  void stop(double StageTimes::*stage) {
    if (!times_) return;
    const auto now = std::chrono::steady_clock::now();
    times_->*stage += std::chrono::duration<double, std::milli>(now - last_).count();
    last_ = now;
  }

 private:
  StageTimes* times_;
  std::chrono::steady_clock::time_point last_;
};

}  // namespace

Result<std::shared_ptr<const Chunk>> World::makeChunk(ChunkPos pos, const std::stop_token& stop,
                                                      StageTimes* times) const {
  const auto fault = [&](Error::Code code, std::string what, std::string accepted) {
    const std::string level = pos.level == 0 ? "" : fmt::format(" of detail level {}", pos.level);
    return Error{
        code, std::move(what),
        fmt::format("chunk {},{}{}, stage heights, seed {}", pos.cx, pos.cz, level, recipe_.seed),
        std::move(accepted)};
  };
  if (pos.level < 0 || pos.level > kMostLevel)
    return fault(Error::Code::InvalidInput, "no such detail level",
                 fmt::format("0 to {}", kMostLevel));
  const int64_t step = int64_t{1} << pos.level;
  const int64_t farthest = limits::cell / (layout_.size() * step) - 1;
  if (pos.cx < -farthest || pos.cx > farthest || pos.cz < -farthest || pos.cz > farthest)
    return fault(Error::Code::InvalidInput, "beyond the last chunk",
                 fmt::format("{} to {}", -farthest, farthest));
  const Rect whole = layout_.rectOf(pos);
  const Rect rect = intersection(whole, bounds_);
  if (rect.empty())
    return fault(Error::Code::InvalidInput, "outside the world's bounds",
                 "chunks that hold a cell of the world");
  const bool cropped = pos.level == 0;
  auto chunk = std::make_shared<Chunk>();
  chunk->pos = pos;
  chunk->rect = rect;
  chunk->width = cropped ? static_cast<int32_t>(rect.width) : layout_.size();
  chunk->height = cropped ? static_cast<int32_t>(rect.height) : layout_.size();
  const SampleGrid grid{cropped ? rect.x : whole.x, cropped ? rect.z : whole.z, step, chunk->width,
                        chunk->height};
  const auto count = static_cast<size_t>(chunk->width) * static_cast<size_t>(chunk->height);
  try {
    chunk->heights.resize(count);
    std::vector<MaterialIndex> materials(count);
    std::vector<BiomeIndex> biomes(parts_.biomes ? count : 0);
    Land land;
    land.heights = chunk->heights.data();
    land.materials = materials.data();
    if (parts_.biomes) land.biomes = biomes.data();
    land.times = times;
    if (const Status made = sample(grid, land, stop); !made)
      return made.error().code == Error::Code::Cancelled
                 ? made.error()
                 : fault(made.error().code, made.error().what, made.error().accepted);
    StageClock clock(times);
    chunk->materials = PackedCells(materials);
    chunk->biomes = PackedCells(biomes);
    clock.stop(&StageTimes::packing);
  } catch (const std::bad_alloc&) {
    return fault(Error::Code::ResourceExhausted, "out of memory", "a smaller chunk size");
  }
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

/// Everything but materials, as if the world had no bounds.
bool World::makeLand(const SampleGrid& grid, const Land& land, const std::stop_token& stop) const {
  const BiomeStage* stage = parts_.biomes.get();
  float* base = land.base;
  std::vector<float> room;
  if (!base && stage) {
    room.resize(static_cast<size_t>(land.stride) * static_cast<size_t>(grid.height));
    base = room.data();
  }
  if (!base) base = land.heights;
  StageClock clock(land.times);
  if (base && !parts_.heights->evaluate(*kernels_, grid, base, land.stride, stop)) return false;
  clock.stop(&StageTimes::heights);
  if (stage) {
    const bool made =
        stage->evaluate(*kernels_, grid, base,
                        {land.heights, land.biomes, land.regions, land.borders, land.stride}, stop);
    clock.stop(&StageTimes::biomes);
    return made;
  }
  for (int32_t j = 0; j < grid.height; ++j) {
    const ptrdiff_t row = j * land.stride;
    if (land.heights && land.heights != base)
      std::copy_n(base + row, grid.width, land.heights + row);
    if (land.biomes) std::fill_n(land.biomes + row, grid.width, kNoBiome);
    if (land.regions) std::fill_n(land.regions + row, grid.width, 0u);
    if (land.borders) std::fill_n(land.borders + row, grid.width, 0.0f);
  }
  return true;
}

bool World::makeSlopes(const SampleGrid& grid, const Land& land, float* slopes,
                       const std::stop_token& stop) const {
  const ptrdiff_t width = grid.width;
  const auto count = static_cast<size_t>(grid.width) * static_cast<size_t>(grid.height);
  if (grid.step == 1 && !land.regions && !land.borders && !land.base) {
    // The neighbours are samples of a grid that is one larger on every side.
    const SampleGrid all{grid.x - 1, grid.z - 1, 1, grid.width + 2, grid.height + 2};
    const ptrdiff_t wide = all.width;
    const auto room = static_cast<size_t>(all.width) * static_cast<size_t>(all.height);
    std::vector<float> h(room);
    std::vector<BiomeIndex> biomes(land.biomes ? room : 0);
    Land larger;
    larger.heights = h.data();
    larger.biomes = land.biomes ? biomes.data() : nullptr;
    larger.stride = wide;
    larger.times = land.times;
    if (!makeLand(all, larger, stop)) return false;
    for (ptrdiff_t j = 0; j < grid.height; ++j) {
      const float* at = h.data() + (j + 1) * wide + 1;
      if (land.heights) std::copy_n(at, width, land.heights + j * land.stride);
      if (land.biomes)
        std::copy_n(biomes.data() + (j + 1) * wide + 1, width, land.biomes + j * land.stride);
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
    side[k].resize(count);
    Land one;
    one.heights = side[k].data();
    one.stride = width;
    one.times = land.times;
    if (!makeLand(moved, one, stop)) return false;
  }
  for (size_t i = 0; i < count; ++i)
    slopes[i] = slopeOf(side[0][i], side[1][i], side[2][i], side[3][i]);
  return makeLand(grid, land, stop);
}

Status World::sample(const SampleGrid& grid, float* heights, MaterialIndex* materials,
                     const std::stop_token& stop, ptrdiff_t stride) const {
  Land land;
  land.heights = heights;
  land.materials = materials;
  land.stride = stride;
  return sample(grid, land, stop);
}

Status World::sample(const SampleGrid& grid, const Land& land, const std::stop_token& stop) const {
  if (Status made = sampleUnbounded(grid, land, stop); !made) return made;
  if (!bounded()) return done();
  const ptrdiff_t stride = land.stride ? land.stride : grid.width;
  for (int32_t j = 0; j < grid.height; ++j)
    for (int32_t i = 0; i < grid.width; ++i) {
      if (bounds_.contains({grid.x + i * grid.step, grid.z + j * grid.step})) continue;
      if (land.materials) land.materials[j * stride + i] = kOutside;
      if (land.biomes) land.biomes[j * stride + i] = kOutsideBiome;
    }
  return done();
}

Status World::sampleUnbounded(const SampleGrid& grid, const Land& asked,
                              const std::stop_token& stop) const {
  if (Status fits = checkGrid(grid); !fits) return fits;
  const FpState fp;
  Land land = asked;
  if (land.stride == 0) land.stride = grid.width;
  if (!land.materials) return makeLand(grid, land, stop) ? done() : Status(cancelled());
  const auto room = static_cast<size_t>(land.stride) * static_cast<size_t>(grid.height);
  std::vector<BiomeIndex> biomes;
  if (!parts_.biomeBands.empty() && !land.biomes) {
    biomes.resize(room);
    land.biomes = biomes.data();
  }
  std::vector<float> heights;
  if (!land.heights) {
    heights.resize(room);
    land.heights = heights.data();
  }
  const bool steep = parts_.bands->needsSlope();
  std::vector<float> slopes;
  if (steep) {
    slopes.resize(static_cast<size_t>(grid.width) * static_cast<size_t>(grid.height));
    if (!makeSlopes(grid, land, slopes.data(), stop)) return cancelled();
  } else if (!makeLand(grid, land, stop)) {
    return cancelled();
  }
  StageClock clock(land.times);
  for (int32_t j = 0; j < grid.height; ++j) {
    if (stop.stop_requested()) return cancelled();
    const ptrdiff_t row = j * land.stride;
    const float* rise = steep ? slopes.data() + ptrdiff_t{j} * grid.width : nullptr;
    // Samples of biomes with the same bands go together.
    for (int32_t i = 0, end = 0; i < grid.width; i = end) {
      const BandTable& bands =
          parts_.biomeBands.empty() ? *parts_.bands : bandsOf(land.biomes[row + i]);
      end = parts_.biomeBands.empty() ? grid.width : i + 1;
      while (end < grid.width && &bandsOf(land.biomes[row + end]) == &bands) ++end;
      bands.evaluate(*kernels_, {grid.x + i * grid.step, grid.z + j * grid.step}, grid.step,
                     end - i, land.heights + row + i, rise ? rise + i : nullptr,
                     land.materials + row + i);
    }
  }
  clock.stop(&StageTimes::strata);
  return done();
}

Status World::sampleSlope(const SampleGrid& grid, float* slopes,
                          const std::stop_token& stop) const {
  if (Status fits = checkGrid(grid); !fits) return fits;
  const FpState fp;
  std::vector<float> heights(static_cast<size_t>(grid.width) * static_cast<size_t>(grid.height));
  Land land;
  land.heights = heights.data();
  land.stride = grid.width;
  if (!makeSlopes(grid, land, slopes, stop)) return cancelled();
  return done();
}

float World::heightAt(Cell cell) const {
  const FpState fp;
  const float base = parts_.heights->at({cell.x, 0}, {cell.z, 0});
  return parts_.biomes ? parts_.biomes->at(cell, base).height : base;
}

float World::slopeAt(Cell cell) const {
  return slopeOf(heightAt({cell.x - 1, cell.z}), heightAt({cell.x + 1, cell.z}),
                 heightAt({cell.x, cell.z - 1}), heightAt({cell.x, cell.z + 1}));
}

const BandTable& World::bandsOf(BiomeIndex biome) const {
  const auto& own = parts_.biomeBands;
  return biome < own.size() && own[biome] ? *own[biome] : *parts_.bands;
}

namespace {

/// Scattered cells as points.
struct PointList {
  std::vector<int64_t> x, z;
  std::vector<int32_t> q;
  PointList(int count, const Cell* cells) : q(static_cast<size_t>(count)) {
    for (int i = 0; i < count; ++i) {
      x.push_back(cells[i].x);
      z.push_back(cells[i].z);
    }
  }
  Points points() const {
    return {
        static_cast<int>(x.size()), {x.data(), nullptr, z.data()}, {q.data(), nullptr, q.data()}};
  }
};

}  // namespace

void World::chartValues(int count, const Cell* cells, float* x, float* y, float* base,
                        bool rough) const {
  const FpState fp;
  const PointList list(count, cells);
  parts_.heights->points(*kernels_, list.points(), base);
  parts_.biomes->chartValues(*kernels_, count, cells, x, y, rough);
}

void World::scattered(int count, const Cell* cells, float* heights, BiomeIndex* biomes,
                      MaterialIndex* materials) const {
  const FpState fp;
  const auto land = [&](const Cell* at, float* h, BiomeIndex* b) {
    const PointList list(count, at);
    if (!parts_.biomes) {
      parts_.heights->points(*kernels_, list.points(), h);
      if (b) std::fill_n(b, count, kNoBiome);
      return;
    }
    std::vector<float> base(static_cast<size_t>(count));
    parts_.heights->points(*kernels_, list.points(), base.data());
    parts_.biomes->scattered(*kernels_, count, at, base.data(), h, b);
  };
  land(cells, heights, biomes);
  std::vector<float> side[4];
  if (parts_.bands->needsSlope()) {
    constexpr int64_t kAway[4][2] = {{-1, 0}, {1, 0}, {0, -1}, {0, 1}};
    std::vector<Cell> moved(static_cast<size_t>(count));
    for (size_t k = 0; k < 4; ++k) {
      for (size_t i = 0; i < moved.size(); ++i)
        moved[i] = {cells[i].x + kAway[k][0], cells[i].z + kAway[k][1]};
      side[k].resize(moved.size());
      land(moved.data(), side[k].data(), nullptr);
    }
  }
  for (int i = 0; i < count; ++i) {
    const auto k = static_cast<size_t>(i);
    const float slope =
        side[0].empty() ? 0.0f : slopeOf(side[0][k], side[1][k], side[2][k], side[3][k]);
    materials[i] = bandsOf(biomes[i]).decide(cells[i], heights[i], slope).material;
  }
}

CellValue World::at(Cell cell) const {
  const FpState fp;
  CellValue value;
  value.base = value.height = parts_.heights->at({cell.x, 0}, {cell.z, 0});
  if (parts_.biomes) {
    const BiomeStage::At at = parts_.biomes->at(cell, value.base);
    value.height = at.height;
    value.biome = at.biome;
  }
  value.slope = slopeAt(cell);
  const BandTable::Decision decision = bandsOf(value.biome).decide(cell, value.height, value.slope);
  value.band = decision.band;
  value.slopeBand = decision.slope;
  value.material = bounds_.contains(cell) ? decision.material : kOutside;
  if (!bounds_.contains(cell)) value.biome = kOutsideBiome;
  return value;
}

const Biome* World::biome(BiomeIndex index) const {
  if (index == kNoBiome || index > recipe_.biomes.list.size()) return nullptr;
  return &recipe_.biomes.list[index - size_t{1}];
}

std::string World::biomeId(BiomeIndex index) const {
  if (const Biome* found = biome(index)) return found->id;
  return index == kOutsideBiome ? "outside" : "none";
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
