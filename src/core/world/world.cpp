#include "world/world.h"

#include <algorithm>
#include <tuple>

#include "base/fp_state.h"
#include "cave/caves.h"
#include "noise/kernels.h"
#include "strata/blocks.h"
#include "world/chunk_maker.h"

namespace acre {

World::World(Recipe recipe, WorldParts parts, const Kernels& kernels, const MemoLimit& memo)
    : WorldPlan(std::move(recipe), std::move(parts), kernels),
      editPass_(*this),
      crop_(*this),
      columns_(*this, editPass_),
      ground_(*this, columns_, memo),
      objects_(*this, columns_, ground_, memo),
      objectCells_(*this, objects_, memo),
      tiles_(*this) {}

uint64_t World::largestChunkBytes() const {
  return ChunkMaker(*this).largestBytes();
}
uint64_t World::workBytes() const {
  return ChunkMaker(*this).workBytes();
}
Result<std::shared_ptr<const Chunk>> World::makeChunk(
    ChunkPos pos, const std::stop_token& stop, StageTimes* times) const {
  return ChunkMaker(*this).make(pos, stop, times);
}

// ---- what one sees from above ------------------------------------------------------------------

Status World::sample(const SampleGrid& grid, float* heights, MaterialIndex* materials,
    const std::stop_token& stop, ptrdiff_t stride) const {
  Land land;
  land.heights = heights;
  land.materials = materials;
  land.stride = stride;
  return sample(grid, land, stop);
}

Status World::sample(const SampleGrid& grid, const Land& asked, const std::stop_token& stop) const {
  Land land = asked;
  if (land.stride == 0) land.stride = grid.width;
  if (Status made = sampleUnbounded(grid, land, stop); !made) return made;
  crop_.apply(grid, land);
  return done();
}

Status World::sampleUnbounded(
    const SampleGrid& grid, const Land& asked, const std::stop_token& stop) const {
  const bool shows = !asked.beforeObjects && !asked.beforeWater && objectCells_.any(grid.step);
  if (!blocks() || !asked.materials) {
    if (Status made = columns_.sample(grid, asked, stop); !made) return made;
    if (!asked.materials || asked.ground || !shows) return done();
    StageClock clock(asked.times);
    const ptrdiff_t stride = asked.stride == 0 ? grid.width : asked.stride;
    if (Status made = objectCells_.apply(grid, asked.materials, stride, stop); !made) return made;
    editPass_.apply(grid, asked.materials, stride);
    clock.stop(StageId::Objects);
    return done();
  }
  Land land = asked;
  if (land.stride == 0) land.stride = grid.width;
  const auto room = static_cast<size_t>(land.stride) * static_cast<size_t>(grid.length);
  std::vector<float> heights(land.heights ? 0 : room);
  if (!land.heights) land.heights = heights.data();
  std::vector<BiomeIndex> biomes(this->biomes() && !land.biomes ? room : 0);
  if (!biomes.empty()) land.biomes = biomes.data();
  std::vector<WaterKind> kinds(water() && !land.waters ? room : 0);
  if (!kinds.empty()) land.waters = kinds.data();
  std::vector<int32_t> levels(water() && !land.levels ? room : 0);
  if (!levels.empty()) land.levels = levels.data();
  if (Status made = columns_.sample(grid, land, stop); !made) return made;
  const FpState fp;
  StageClock clock(land.times);
  const auto width = static_cast<size_t>(grid.width);
  std::vector<int64_t> x(width), z(width);
  for (size_t i = 0; i < width; ++i) x[i] = grid.x + static_cast<int64_t>(i) * grid.step;
  std::vector<int32_t> fresh(water() ? width : 0);
  for (int32_t j = 0; j < grid.length; ++j) {
    if (stop.stop_requested()) return cancelled();
    const ptrdiff_t row = j * land.stride;
    std::fill(z.begin(), z.end(), grid.z + j * grid.step);
    for (size_t i = 0; i < fresh.size(); ++i) {
      const ptrdiff_t at = row + static_cast<ptrdiff_t>(i);
      fresh[i] = isFresh(land.waters[at]) ? land.levels[at] : kNoWater;
    }
    BlockColumns columns{grid.width, x.data(), z.data(), grid.width, grid.step, land.heights + row,
        land.materials + row, this->biomes() ? land.biomes + row : nullptr};
    if (!fresh.empty()) columns.levels = fresh.data();
    lookDown(kernels(), columns, land.materials + row);
  }
  clock.stop(StageId::Strata);
  if (shows) {
    if (Status made = lookDownOnObjects(grid, land, stop); !made) return made;
    clock.stop(StageId::Objects);
  }
  for (const Cell cell : editPass_.columnsIn(grid)) {
    if (stop.stop_requested()) return cancelled();
    land.materials[(cell.z - grid.z) / grid.step * land.stride + (cell.x - grid.x) / grid.step] =
        topOf(cell);
  }
  clock.stop(StageId::Strata);
  return done();
}

CellValue World::at(Cell cell) const {
  CellValue value = columns_.at(cell);
  if (blocks()) {
    const FpState fp;
    const int32_t fresh = value.water.freshLevel();
    BlockColumns column{1, &cell.x, &cell.z, 1, 1, &value.height, &value.material,
        biomes() ? &value.biome : nullptr};
    column.levels = &fresh;
    lookDown(plainKernels(), column, &value.material);
    const SampleGrid here{cell.x, cell.z, 1, 1, 1};
    Land land;
    land.heights = &value.height;
    land.materials = &value.material;
    land.stride = 1;
    // Nobody stops it.
    if (objectCells_.any()) std::ignore = lookDownOnObjects(here, land, {});
    if (!editPass_.columnsIn(here).empty()) value.material = topOf(cell);
  } else if (objectCells_.any()) {
    const SampleGrid here{cell.x, cell.z, 1, 1, 1};
    std::ignore = objectCells_.apply(here, &value.material, 1);  // Nobody stops it.
    editPass_.apply(here, &value.material, 1);
  }
  if (crop_.holds(cell)) return value;
  value.material = kOutside;
  value.biome = kOutsideBiome;
  return value;
}

void World::scattered(int count, const Cell* cells, float* heights, BiomeIndex* biomes,
    MaterialIndex* materials, int64_t apart) const {
  columns_.scattered(count, cells, heights, biomes, materials, Accuracy::Approximate);
  for (int i = 0; level() && objectCells_.any() && i < count; ++i) {
    const SampleGrid here{cells[i].x, cells[i].z, 1, 1, 1};
    std::ignore = objectCells_.apply(here, materials + i, 1);  // Nobody stops it.
    editPass_.apply(here, materials + i, 1);
  }
  if (!blocks()) return;
  const FpState fp;
  const auto room = static_cast<size_t>(count);
  std::vector<int64_t> x(room), z(room);
  for (size_t i = 0; i < room; ++i) {
    x[i] = cells[i].x;
    z[i] = cells[i].z;
  }
  lookDown(kernels(),
      {count, x.data(), z.data(), 0, apart, heights, materials, this->biomes() ? biomes : nullptr},
      materials);
  for (size_t i = 0; i < room && editPass_.any(); ++i)
    if (!editPass_.columnsIn({x[i], z[i], 1, 1, 1}).empty()) materials[i] = topOf(cells[i]);
}

void World::lookDown(
    const Kernels& kernels, const BlockColumns& columns, MaterialIndex* materials) const {
  const auto count = static_cast<size_t>(columns.count);
  std::vector<MaterialIndex> above(count);
  blocks()->fromAbove(kernels, columns, above.data());
  std::copy(above.begin(), above.end(), materials);
  if (!ground_.digs(columns.step)) return;
  // What lies deeper where caves open the surface.
  std::vector<Cell> cells(count);
  for (size_t i = 0; i < count; ++i) cells[i] = {columns.x[i], columns.z[i]};
  std::vector<uint8_t> open(count);
  caves()->openTops(columns.count, cells.data(), columns.heights, open.data());
  for (size_t i = 0; i < count; ++i)
    if (open[i] && caves()->isGround(materials[i])) materials[i] = topOf(cells[i]);
}

Status World::lookDownOnObjects(
    const SampleGrid& grid, const Land& land, const std::stop_token& stop) const {
  constexpr int32_t kRows = 64;  // At a time, so that little is held.
  for (int32_t j = 0; j < grid.length; j += kRows) {
    const int64_t rows = std::min(kRows, grid.length - j);
    const auto claims =
        objectCells_.claims({grid.x, grid.z + j * grid.step, (grid.width - 1) * grid.step + 1,
                                (rows - 1) * grid.step + 1},
            stop);
    if (!claims) return cancelled();
    if (Status made = lookDownOn(*claims, grid, land, stop); !made) return made;
  }
  return done();
}

Status World::lookDownOn(const std::vector<CellClaim>& claims, const SampleGrid& grid,
    const Land& land, const std::stop_token& stop) const {
  /// From whatever lies highest down to the lowest level that an object may have taken.
  struct Column {
    std::span<const CellClaim> claims;
    ptrdiff_t at;  ///< In the land.
    int64_t first, top;
  };
  const AxisBounds range = vertical();
  std::vector<Column> columns;
  std::vector<Cell> cells;
  for (size_t n = 0, end = 0; n < claims.size(); n = end) {
    const Cell cell = claims[n].cell;
    while (end < claims.size() && claims[end].cell == cell) ++end;
    const int64_t i = (cell.x - grid.x) / grid.step, k = (cell.z - grid.z) / grid.step;
    if (i * grid.step != cell.x - grid.x || k * grid.step != cell.z - grid.z) continue;
    const ptrdiff_t at = k * land.stride + i;
    cells.push_back(cell);
    columns.push_back({{claims.data() + n, end - n}, at, claims[n].y, claims[end - 1].y + 1});
  }
  const std::vector<GroundTop> tops = objects_.ground().tops(cells, true);
  for (size_t n = 0; n < columns.size(); ++n) {
    // What lies below the ground is seen only where whatever lies above may open it.
    std::span<const CellClaim>& all = columns[n].claims;
    size_t from = tops[n].y == GroundTop::kNone ? 0 : all.size();
    for (int64_t seen = tops[n].y; from > 0 && all[from - 1].y >= seen - 1; --from)
      seen = std::min(seen, all[from - 1].y);
    all = all.subspan(from);
    if (all.empty()) continue;
    columns[n].first = all.front().y;
    // Over dry ground all is open.
    const int64_t open = tops[n].wet || tops[n].y == GroundTop::kNone
                             ? blocks()->openFrom(land.heights[columns[n].at])
                             : tops[n].y;
    columns[n].top = std::min(range.min + range.extent, std::max(columns[n].top, open));
  }
  std::erase_if(columns, [](const Column& one) { return one.claims.empty(); });
  // Those that reach as far up and down are asked for together.
  constexpr size_t kAtOnce = 64;
  std::stable_sort(columns.begin(), columns.end(),
      [](const Column& a, const Column& b) { return a.first < b.first; });
  std::vector<MaterialIndex> held, column;
  for (size_t n = 0; n < columns.size(); n += kAtOnce) {
    const std::span some(columns.data() + n, std::min(kAtOnce, columns.size() - n));
    const int64_t first = some.front().first;
    int64_t top = first;
    cells.clear();
    for (const Column& one : some) {
      top = std::max(top, one.top);
      cells.push_back(one.claims.front().cell);
    }
    const BlockLevels levels{first, static_cast<int32_t>(top - first), 1};
    held.resize(cells.size() * static_cast<size_t>(levels.count));
    if (Status made = ground_.fill(
            static_cast<int>(cells.size()), cells.data(), levels, held.data(), nullptr, stop);
        !made)
      return made;
    for (size_t c = 0; c < some.size(); ++c) {
      column.clear();
      for (size_t y = c; y < held.size(); y += cells.size()) column.push_back(held[y]);
      objectCells_.apply(some[c].claims, first, column);
      const auto seen =
          std::find_if(column.rbegin(), column.rend(), [](MaterialIndex m) { return m < kOpen; });
      land.materials[some[c].at] = seen != column.rend() ? *seen : topOf(cells[c]);
    }
  }
  return done();
}

MaterialIndex World::topOf(Cell cell) const {
  const AxisBounds range = vertical();
  constexpr int32_t kLevels = 32;
  MaterialIndex blocks[kLevels];
  for (int64_t top = range.min + range.extent; top > range.min; top -= kLevels) {
    const int64_t first = std::max(range.min, top - kLevels);
    const auto count = static_cast<int32_t>(top - first);
    if (!sampleColumns(1, &cell, {first, count, 1}, blocks)) return kUnassigned;
    for (int32_t j = count; j-- > 0;)
      if (blocks[j] < kOpen) return blocks[j];
  }
  return kOpen;
}

// ---- blocks ------------------------------------------------------------------------------------

Status World::sampleBlocksUnbounded(const SampleBlock& block, MaterialIndex* blocks,
    const std::stop_token& stop, StageTimes* times) const {
  if (Status made = ground_.fill(block, blocks, stop, times); !made) return made;
  if (objectCells_.any(block.step)) {
    StageClock clock(times);
    if (Status made = objectCells_.apply(block, blocks, stop); !made) return made;
    clock.stop(StageId::Objects);
  }
  editPass_.apply(block, blocks);
  return done();
}

Status World::sampleBlocks(const SampleBlock& block, MaterialIndex* blocks,
    const std::stop_token& stop, StageTimes* times) const {
  if (Status made = sampleBlocksUnbounded(block, blocks, stop, times); !made) return made;
  crop_.apply(block, blocks);
  return done();
}

Status World::sampleColumns(int columns, const Cell* cells, const BlockLevels& levels,
    MaterialIndex* blocks, float* heights, const std::stop_token& stop) const {
  if (Status made = ground_.fill(columns, cells, levels, blocks, heights, stop); !made) return made;
  if (Status made = objectCells_.apply(columns, cells, levels, blocks, stop); !made) return made;
  for (int i = 0; i < columns; ++i)
    editPass_.apply(cells[i], levels, blocks + i, static_cast<size_t>(columns));
  crop_.apply(columns, cells, levels, blocks);
  return done();
}

BlockValue World::blockAt(Cell cell, int64_t y) const {
  BlockValue out = ground_.at(cell, y);
  out.made = out.material;
  if (blocks() && objectCells_.any())
    if (const auto claims = objectCells_.claims({cell.x, cell.z, 1, 1}, y, y + 1))
      if (const CellClaim* won =
              objectCells_.winner(claims->data(), claims->data() + claims->size(), out.material)) {
        out.object = *won;
        out.material = won->material;
      }
  if (const auto edited = editPass_.at(cell, y); edited && blocks()) {
    out.generated = out.material;
    out.object.reset();
    out.material = *edited;
    out.edited = true;
  }
  if (!crop_.holds(cell, y)) out.material = kOutside;
  return out;
}

}  // namespace acre
