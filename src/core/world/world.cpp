#include "world/world.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <new>
#include <set>

#include "base/fp_state.h"
#include "base/seed.h"
#include "cave/caves.h"
#include "cave/level_stage.h"
#include "climate/biomes.h"
#include "field/field.h"
#include "noise/kernels.h"
#include "recipe/cave_recipe.h"
#include "recipe/edits.h"
#include "recipe/validate.h"
#include "strata/bands.h"
#include "strata/blocks.h"

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
        fmt::format("{} x {} samples from {}, {} in steps of {} leave the world", grid.width,
            grid.height, grid.x, grid.z, grid.step),
        "area", "cells from -2^60 to 2^60"};
  return done();
}

namespace {

/// What the columns of squares may take: those of a view are asked for level by level, and no more.
constexpr uint64_t kMostSquares = uint64_t{8} << 20;

}  // namespace

World::World(Recipe recipe, WorldParts parts, const Kernels& kernels, MemoLimit memo)
    : WorldPlan(std::move(recipe), std::move(parts), kernels),
      squares_({std::min(memo.bytes, kMostSquares), memo.budget}) {
  if (!edits_) return;
  for (const std::string& id : edits_->materials()) {
    const auto found = std::find_if(recipe_.materials.begin(), recipe_.materials.end(),
        [&](const Material& m) { return m.id == id; });
    editMaterials_.push_back(
        found == recipe_.materials.end()
            ? kOpen
            : static_cast<MaterialIndex>(found - recipe_.materials.begin() + 1));
  }
}

std::optional<MaterialIndex> World::editAt(Cell cell, int64_t y) const {
  std::optional<MaterialIndex> out;
  if (edits_)
    edits_->eachIn({cell.x, layout_.blocks() ? y : editLevel(recipe_), cell.z, 1, 1, 1, 1},
        [&](int64_t, int64_t, int64_t, uint16_t m) { out = editMaterials_[m]; });
  return out;
}

void World::applyEdits(const SampleGrid& grid, MaterialIndex* materials, ptrdiff_t stride) const {
  if (!edits_ || layout_.blocks()) return;
  edits_->eachIn({grid.x, editLevel(recipe_), grid.z, grid.step, grid.width, 1, grid.height},
      [&](int64_t x, int64_t, int64_t z, uint16_t m) {
        materials[(z - grid.z) / grid.step * stride + (x - grid.x) / grid.step] = editMaterials_[m];
      });
}

namespace {

/// Most levels of blocks in a chunk.
size_t chunkLevels(const ChunkLayout& layout) {
  const Vertical& v = layout.vertical();
  return static_cast<size_t>(v.tall ? v.tall : v.extent);
}

}  // namespace

uint64_t World::largestChunkBytes() const {
  const auto cells = static_cast<size_t>(layout_.size()) * static_cast<size_t>(layout_.size());
  if (layout_.blocks())
    return sizeof(Chunk) + PackedCells::mostHeapBytes(cells * chunkLevels(layout_)) +
           Chunk::kBlocks * Chunk::kBytesPerBlock;
  return sizeof(Chunk) + cells * sizeof(float) +
         PackedCells::mostHeapBytes(cells) *
             (1u + (parts_.biomes ? 1u : 0u) + (recipe_.fillDown ? 1u : 0u)) +
         Chunk::kBlocks * Chunk::kBytesPerBlock;
}

uint64_t World::workBytes() const {
  const auto side = static_cast<uint64_t>(layout_.size()) + 2;  // Slopes look one cell around.
  uint64_t cell = sizeof(float) + sizeof(MaterialIndex) + sizeof(BiomeIndex);  // Base and indices.
  if (parts_.bands->needsSlope()) cell += 2 * sizeof(float) + sizeof(BiomeIndex);
  if (layout_
          .blocks())  // Numbers of the columns, levels of noise, and the blocks as they are made.
    cell += sizeof(float) * 24 + chunkLevels(layout_) * sizeof(MaterialIndex);
  if (parts_.caves)  // Marks, noise, and what is flooded.
    cell += chunkLevels(layout_) * (sizeof(float) + sizeof(uint16_t) * 2 + 2);
  return largestChunkBytes() + side * side * cell + (uint64_t{64} << 10);
}

Result<std::shared_ptr<const Chunk>> World::makeChunk(
    ChunkPos pos, const std::stop_token& stop, StageTimes* times) const {
  const auto fault = [&](Error::Code code, std::string what, std::string accepted) {
    const std::string level = pos.level == 0 ? "" : fmt::format(" of detail level {}", pos.level);
    return Error{code, std::move(what),
        fmt::format("chunk {}{}, stage {}, seed {}", chunkText(layout_, pos), level,
            layout_.blocks() ? "blocks" : "heights", recipe_.seed),
        std::move(accepted)};
  };
  if (pos.level < 0 || pos.level > kMostChunkLevel)
    return fault(
        Error::Code::InvalidInput, "no such detail level", fmt::format("0 to {}", kMostChunkLevel));
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
  const int64_t lowest = layout_.lowestChunk(pos.level), highest = layout_.highestChunk(pos.level);
  if (pos.cy < lowest || pos.cy > highest)
    return fault(Error::Code::InvalidInput, "outside the vertical range",
        fmt::format("cy from {} to {}", lowest, highest));
  const bool cropped = pos.level == 0;
  auto chunk = std::make_shared<Chunk>();
  chunk->pos = pos;
  chunk->rect = rect;
  chunk->width = cropped ? static_cast<int32_t>(rect.width) : layout_.size();
  chunk->height = cropped ? static_cast<int32_t>(rect.height) : layout_.size();
  const SampleGrid grid{
      cropped ? rect.x : whole.x, cropped ? rect.z : whole.z, step, chunk->width, chunk->height};
  const auto count = static_cast<size_t>(chunk->width) * static_cast<size_t>(chunk->height);
  try {
    if (layout_.blocks()) {
      const BlockLevels levels = layout_.levelsOf(pos);
      chunk->y = levels.first;
      chunk->tall = levels.count;
      const size_t total = count * static_cast<size_t>(levels.count);
      const SampleBlock place{
          grid.x, levels.first, grid.z, step, chunk->width, levels.count, chunk->height};
      if (const auto alike = cropped && !edits_ ? alikeIn(place, stop, times) : std::nullopt) {
        chunk->materials = PackedCells(total, *alike);
        return std::shared_ptr<const Chunk>(std::move(chunk));
      }
      const auto blocks = std::make_unique_for_overwrite<MaterialIndex[]>(total);
      if (const Status made = sampleBlocks(place, blocks.get(), stop, times); !made)
        return made.error().code == Error::Code::Cancelled
                   ? made.error()
                   : fault(made.error().code, made.error().what, made.error().accepted);
      StageClock clock(times);
      chunk->materials = PackedCells({blocks.get(), total});
      clock.stopPacking();
      return std::shared_ptr<const Chunk>(std::move(chunk));
    }
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
    if (recipe_.fillDown) {
      std::vector<uint16_t> fill;
      if (const Status made = fillOf(grid, fill, stop); !made) return made.error();
      chunk->fill = PackedCells(fill);
    }
    clock.stopPacking();
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
  if (!bounded() && !layout_.vertical().plane) return done();
  const ptrdiff_t stride = land.stride ? land.stride : grid.width;
  for (int32_t j = 0; j < grid.height; ++j)
    for (int32_t i = 0; i < grid.width; ++i) {
      if (bounds_.contains({grid.x + i * grid.step, grid.z + j * grid.step})) continue;
      if (land.materials) land.materials[j * stride + i] = kOutside;
      if (land.biomes) land.biomes[j * stride + i] = kOutsideBiome;
    }
  return done();
}

Status World::sampleUnbounded(
    const SampleGrid& grid, const Land& asked, const std::stop_token& stop) const {
  if (!blocks() || !asked.materials) return sampleGround(grid, asked, stop);
  // In worlds of blocks one sees their uppermost blocks.
  Land land = asked;
  if (land.stride == 0) land.stride = grid.width;
  const auto room = static_cast<size_t>(land.stride) * static_cast<size_t>(grid.height);
  std::vector<float> heights(land.heights ? 0 : room);
  if (!land.heights) land.heights = heights.data();
  std::vector<BiomeIndex> biomes(parts_.biomes && !land.biomes ? room : 0);
  if (!biomes.empty()) land.biomes = biomes.data();
  if (Status made = sampleGround(grid, land, stop); !made) return made;
  const FpState fp;
  StageClock clock(land.times);
  const auto width = static_cast<size_t>(grid.width);
  std::vector<int64_t> x(width), z(width);
  std::vector<MaterialIndex> above(width);
  for (int32_t j = 0; j < grid.height; ++j) {
    if (stop.stop_requested()) return cancelled();
    const ptrdiff_t row = j * land.stride;
    for (size_t i = 0; i < width; ++i) x[i] = grid.x + static_cast<int64_t>(i) * grid.step;
    std::fill(z.begin(), z.end(), grid.z + j * grid.step);
    parts_.blocks->fromAbove(*kernels_,
        {grid.width, x.data(), z.data(), grid.width, grid.step, land.heights + row,
            land.materials + row, parts_.biomes ? land.biomes + row : nullptr},
        above.data());
    std::copy(above.begin(), above.end(), land.materials + row);
    if (!digs(grid.step)) continue;
    std::vector<Cell> cells(width);
    for (size_t i = 0; i < width; ++i) cells[i] = {x[i], z[i]};
    lookDown(grid.width, cells.data(), land.heights + row, land.materials + row);
  }
  if (edits_) {  // Columns with cells changed by hand are looked at from the top down.
    std::set<std::pair<int64_t, int64_t>> columns;
    const AxisBounds range = vertical();
    edits_->eachIn(
        {grid.x, range.min, grid.z, grid.step, grid.width,
            static_cast<int32_t>(floorDiv(range.extent - 1, grid.step) + 1), grid.height},
        [&](int64_t cx, int64_t, int64_t cz, uint16_t) {
          columns.insert({cx, cz});
        });
    for (const auto& [cx, cz] : columns) {
      if (stop.stop_requested()) return cancelled();
      land.materials[(cz - grid.z) / grid.step * land.stride + (cx - grid.x) / grid.step] =
          topOf({cx, cz});
    }
  }
  clock.stop(StageId::Strata);
  return done();
}

Status World::sampleGround(
    const SampleGrid& grid, const Land& asked, const std::stop_token& stop) const {
  if (Status fits = checkGrid(grid); !fits) return fits;
  const FpState fp;
  Land land = asked;
  if (land.stride == 0) land.stride = grid.width;
  if (!land.materials) {
    if (!parts_.land->evaluate(grid, land, stop)) return cancelled();
    if (level() && land.heights) levelHeights(grid, land.heights, land.stride);
    return done();
  }
  const auto room = static_cast<size_t>(land.stride) * static_cast<size_t>(grid.height);
  std::vector<BiomeIndex> biomes;
  if ((!parts_.biomeBands.empty() || (level() && parts_.biomes)) && !land.biomes) {
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
    if (!parts_.land->evaluate(grid, land, slopes.data(), stop)) return cancelled();
  } else if (!parts_.land->evaluate(grid, land, stop)) {
    return cancelled();
  }
  StageClock clock(land.times);
  std::vector<uint16_t> depths;
  if (level()) {  // Bands of a level see the rock fall with the depth.
    depths.resize(static_cast<size_t>(grid.width) * static_cast<size_t>(grid.height));
    for (int32_t j = 0, at = 0; j < grid.height; ++j)
      for (int32_t i = 0; i < grid.width; ++i, ++at) {
        const int32_t depth = level()->depthAt({grid.x + i * grid.step, grid.z + j * grid.step});
        depths[static_cast<size_t>(at)] = static_cast<uint16_t>(depth);
        land.heights[j * land.stride + i] -= static_cast<float>(depth);
      }
  }
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
          end - i, land.heights + row + i, rise ? rise + i : nullptr, land.materials + row + i);
    }
  }
  if (parts_.caves && !layout_.blocks() && grid.step <= CaveStage::kExactStep &&
      !parts_.caves->markOpenings(grid, land.materials, land.stride, stop))
    return cancelled();
  if (level()) {
    if (!levelMaterials(grid, depths.data(), parts_.biomes ? land.biomes : nullptr, land.materials,
            land.stride, stop))
      return cancelled();
    levelHeights(grid, land.heights, land.stride);
  }
  applyEdits(grid, land.materials, land.stride);
  clock.stop(StageId::Strata);
  return done();
}

// ---- slopes and single cells -------------------------------------------------------------------

Status World::sampleSlope(
    const SampleGrid& grid, float* slopes, const std::stop_token& stop) const {
  if (Status fits = checkGrid(grid); !fits) return fits;
  const FpState fp;
  std::vector<float> heights(static_cast<size_t>(grid.width) * static_cast<size_t>(grid.height));
  LandOut land;
  land.heights = heights.data();
  land.stride = grid.width;
  if (!parts_.land->evaluate(grid, land, slopes, stop)) return cancelled();
  return done();
}

uint16_t fillBeside(float h, float lowestNeighbour) {
  // Far outside what a chunk can hold the floors' difference is as good as any other large number.
  const float open = std::floor(h) - std::floor(lowestNeighbour) - 1.0f;
  return open > 0.0f ? static_cast<uint16_t>(open < 65535.0f ? open : 65535.0f) : uint16_t{0};
}

Status World::fillOf(
    const SampleGrid& grid, std::vector<uint16_t>& out, const std::stop_token& stop) const {
  // Beyond the bounds too the ground goes on: enlarging them changes no cell.
  const SampleGrid all{
      grid.x - grid.step, grid.z - grid.step, grid.step, grid.width + 2, grid.height + 2};
  const ptrdiff_t wide = all.width;
  std::vector<float> heights(static_cast<size_t>(all.width) * static_cast<size_t>(all.height));
  Land land;
  land.heights = heights.data();
  if (Status made = sampleUnbounded(all, land, stop); !made) return made;
  out.resize(static_cast<size_t>(grid.width) * static_cast<size_t>(grid.height));
  for (ptrdiff_t j = 0; j < grid.height; ++j)
    for (ptrdiff_t i = 0; i < grid.width; ++i) {
      const float* at = heights.data() + (j + 1) * wide + i + 1;
      out[static_cast<size_t>(j * grid.width + i)] =
          fillBeside(*at, std::min({at[-1], at[1], at[-wide], at[wide]}));
    }
  return done();
}

uint16_t World::fillAt(Cell cell) const {
  return fillBeside(
      heightAt(cell), std::min({heightAt({cell.x - 1, cell.z}), heightAt({cell.x + 1, cell.z}),
                          heightAt({cell.x, cell.z - 1}), heightAt({cell.x, cell.z + 1})}));
}

float World::heightAt(Cell cell) const {
  return level() ? (isOpen(cell) ? 0.0f : level()->walls()) : landHeightAt(cell);
}

float World::landHeightAt(Cell cell) const {
  const FpState fp;
  return parts_.land->heightAt(cell);
}

float World::slopeAt(Cell cell) const {
  const FpState fp;
  return parts_.land->slopeAt(cell);
}

void World::chartValues(
    int count, const Cell* cells, float* x, float* y, float* base, bool rough) const {
  const FpState fp;
  parts_.land->baseOf(count, cells, base);
  parts_.biomes->chartValues(*kernels_, count, cells, x, y, rough);
}

void World::scattered(int count, const Cell* cells, float* heights, BiomeIndex* biomes,
    MaterialIndex* materials, bool rough) const {
  const FpState fp;
  parts_.land->scattered(count, cells, heights, biomes, rough);
  std::vector<float> slopes;
  if (parts_.bands->needsSlope()) slopes = parts_.land->slopesOf(count, cells, rough);
  for (int i = 0; i < count; ++i) {
    const float slope = slopes.empty() ? 0.0f : slopes[static_cast<size_t>(i)];
    if (level()) {
      CellValue value;
      value.height = heights[i];
      value.slope = slope;
      value.biome = biomes[i];
      layLevel(cells[i], value);
      heights[i] = value.height;
      materials[i] = value.material;
      continue;
    }
    materials[i] = bandsOf(biomes[i]).decide(cells[i], heights[i], slope).material;
    if (layout_.blocks()) continue;
    if (parts_.caves && parts_.caves->openingAt(cells[i])) materials[i] = parts_.caves->opening();
    if (const auto edited = editAt(cells[i], 0)) materials[i] = *edited;
  }
}

CellValue World::at(Cell cell) const {
  CellValue value = groundAt(cell);
  if (const auto edited = layout_.blocks() ? std::nullopt : editAt(cell, 0); edited && !level())
    value.material = *edited;
  if (blocks()) {
    const FpState fp;
    parts_.blocks->fromAbove(plainKernels(),
        {1, &cell.x, &cell.z, 1, 1, &value.height, &value.material,
            parts_.biomes ? &value.biome : nullptr},
        &value.material);
    if (digs(1)) lookDown(1, &cell, &value.height, &value.material);
  }
  if (bounds_.contains(cell)) return value;
  value.material = kOutside;
  value.biome = kOutsideBiome;
  return value;
}

/// As if the world had no bounds.
CellValue World::groundAt(Cell cell) const {
  const FpState fp;
  CellValue value;
  const LandAt land = parts_.land->at(cell);
  value.base = land.base;
  value.height = land.height;
  value.biome = land.biome;
  value.slope = slopeAt(cell);
  if (level()) return layLevel(cell, value), value;
  const BandTable::Decision decision = bandsOf(value.biome).decide(cell, value.height, value.slope);
  value.band = decision.band;
  value.slopeBand = decision.slope;
  value.material = decision.material;
  if (parts_.caves && !layout_.blocks() && parts_.caves->openingAt(cell))
    value.material = parts_.caves->opening();
  return value;
}

}  // namespace acre
