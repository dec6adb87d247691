// The blocks of a world: what World.h says of worlds made of them.
#include <fmt/format.h>

#include <algorithm>
#include <mutex>

#include "base/fp_state.h"
#include "cave/caves.h"
#include "recipe/cave_recipe.h"
#include "recipe/edits.h"
#include "strata/blocks.h"
#include "world/block_value.h"
#include "world/world.h"

namespace acre {
namespace {

Status checkLevels(const BlockLevels& levels) {
  constexpr int64_t kFarthest = int64_t{1} << 24;  // Whole numbers of single precision.
  if (levels.step >= 1 && levels.step <= kFarthest && levels.count >= 0 &&
      levels.first >= -kFarthest && levels.first <= kFarthest &&
      levels.count <= (kFarthest - levels.first) / levels.step + 1)
    return done();
  return Error{Error::Code::InvalidInput,
      fmt::format("{} levels from {} in steps of {}", levels.count, levels.first, levels.step),
      "levels", "y from -2^24 to 2^24"};
}

}  // namespace

bool World::digs(int64_t step) const {
  return parts_.caves && layout_.blocks() && step <= CaveStage::kExactStep;
}

struct World::Square {
  std::vector<float> heights;
  std::vector<BiomeIndex> biomes;
  std::vector<MaterialIndex> surface;
  std::vector<int64_t> x, z;
  BlockColumns columns;          // The above.
  mutable std::once_flag asked;  // For the numbers, which blocks all alike do without.
  mutable std::shared_ptr<const BlockStage::Numbers> numbers;
  mutable std::mutex digging;
  mutable std::shared_ptr<const CaveStage::Columns> caves;  // Made when blocks are dug into.
  uint64_t caveBytes = 0;                                   // What they take.
  float lowest = 0, highest = 0;

  /// What it takes at most: the numbers of the stage are reckoned by column too.
  uint64_t bytes() const { return sizeof(Square) + heights.size() * kPerColumn + caveBytes; }
  static constexpr uint64_t kPerColumn =
      2 * sizeof(int64_t) + sizeof(float) + sizeof(MaterialIndex) + sizeof(BiomeIndex) + 48;
};

std::shared_ptr<const World::Square> World::squareOf(
    const SquareKey& key, const std::stop_token& stop, StageTimes* times) const {
  const auto make = [&]() -> std::shared_ptr<const Square> {
    auto square = std::make_shared<Square>();
    const auto count = static_cast<size_t>(key.width) * static_cast<size_t>(key.depth);
    square->heights.resize(count);
    square->biomes.resize(parts_.biomes ? count : 0);
    square->surface.resize(count);
    Land land;
    land.heights = square->heights.data();
    land.biomes = parts_.biomes ? square->biomes.data() : nullptr;
    land.materials = square->surface.data();
    land.times = times;
    if (!sampleGround({key.x, key.z, key.step, key.width, key.depth}, land, stop)) return nullptr;
    StageClock clock(times);
    square->x.resize(count);
    square->z.resize(count);
    for (size_t k = 0, at = 0; at < count; ++k)
      for (int32_t i = 0; i < key.width; ++i, ++at) {
        square->x[at] = key.x + i * key.step;
        square->z[at] = key.z + static_cast<int64_t>(k) * key.step;
      }
    const auto [low, high] = std::minmax_element(square->heights.begin(), square->heights.end());
    square->lowest = *low;
    square->highest = *high;
    square->columns = {static_cast<int>(count), square->x.data(), square->z.data(), key.width,
        key.step, square->heights.data(), square->surface.data(),
        parts_.biomes ? square->biomes.data() : nullptr};
    if (digs(key.step)) {
      CaveStage::Columns about;
      about.step = key.step;
      about.width = key.width;
      about.depth = key.depth;
      square->caveBytes =
          about.bytes() +
          sizeof(float) * (count + static_cast<uint64_t>(about.fineWidth() * about.fineDepth()));
    }
    clock.stop(StageId::Strata);
    return square;
  };
  // Larger areas are asked for once.
  constexpr int32_t kMost = 66;
  return key.width <= kMost && key.depth <= kMost ? squares_.get(key, stop, make) : make();
}

std::shared_ptr<const CaveStage::Columns> World::caveColumns(
    const SampleGrid& grid, const std::stop_token& stop, StageTimes* times) const {
  auto columns = std::make_shared<CaveStage::Columns>();
  columns->x = grid.x;
  columns->z = grid.z;
  columns->step = grid.step;
  columns->width = grid.width;
  columns->depth = grid.height;
  constexpr int64_t kApron = CaveStage::kApron;
  const SampleGrid fine{grid.x - kApron, grid.z - kApron, 1,
      static_cast<int32_t>(columns->fineWidth()), static_cast<int32_t>(columns->fineDepth())};
  columns->heights.resize(static_cast<size_t>(fine.width) * static_cast<size_t>(fine.height));
  LandOut land;
  land.heights = columns->heights.data();
  land.stride = fine.width;
  land.times = times;
  if (!parts_.land->evaluate(fine, land, stop)) return nullptr;
  if (parts_.caves->asksMoisture()) {
    columns->moistures.resize(static_cast<size_t>(grid.width) * static_cast<size_t>(grid.height));
    if (!parts_.caves->moisture()->evaluate(
            *kernels_, grid, columns->moistures.data(), grid.width, stop))
      return nullptr;
  }
  return columns;
}

std::optional<MaterialIndex> World::uniform(
    float lowest, float highest, const BlockLevels& levels) const {
  const auto alike = parts_.blocks->uniform(lowest, highest, levels);
  if (alike && digs(levels.step) && parts_.caves->isGround(*alike)) return std::nullopt;
  return alike;
}

std::optional<MaterialIndex> World::alikeIn(
    const SampleBlock& block, const std::stop_token& stop, StageTimes* times) const {
  const BlockLevels levels{block.y, block.height, block.step};
  if (const auto alike = uniform(parts_.lowest, parts_.highest, levels)) return alike;
  const FpState fp;
  const auto square =
      squareOf({block.x, block.z, block.step, block.width, block.depth}, stop, times);
  if (!square) return std::nullopt;
  return uniform(square->lowest, square->highest, levels);
}

Status World::generateBlocks(const SampleBlock& block, MaterialIndex* blocks,
    const std::stop_token& stop, StageTimes* times) const {
  const BlockLevels levels{block.y, block.height, block.step};
  if (Status fits = checkGrid({block.x, block.z, block.step, block.width, block.depth}); !fits)
    return fits;
  if (Status fits = checkLevels(levels); !fits) return fits;
  const FpState fp;
  const size_t count = static_cast<size_t>(block.width) * static_cast<size_t>(block.depth) *
                       static_cast<size_t>(block.height);
  if (count == 0) return done();
  const auto fill = [&](MaterialIndex m) { std::fill_n(blocks, count, m); };
  if (const auto alike = uniform(parts_.lowest, parts_.highest, levels))
    return fill(*alike), done();
  const auto square =
      squareOf({block.x, block.z, block.step, block.width, block.depth}, stop, times);
  if (!square) return cancelled();
  if (const auto alike = uniform(square->lowest, square->highest, levels))
    return fill(*alike), done();
  StageClock clock(times);
  // Once for all the levels that are asked for over these columns.
  std::call_once(
      square->asked, [&] { square->numbers = parts_.blocks->prepare(*kernels_, square->columns); });
  const bool made =
      parts_.blocks->fill(*kernels_, square->columns, levels, blocks, stop, square->numbers.get());
  clock.stop(StageId::Strata);
  if (!made) return cancelled();
  if (!digs(block.step)) return done();
  std::shared_ptr<const CaveStage::Columns> columns;
  {
    const std::lock_guard lock(square->digging);
    if (!square->caves)
      square->caves =
          caveColumns({block.x, block.z, block.step, block.width, block.depth}, stop, times);
    columns = square->caves;
  }
  StageClock digging(times);
  const bool dug = columns && parts_.caves->carve(*kernels_, *columns, levels, blocks, stop);
  digging.stop(StageId::Caves);
  return dug ? done() : Status(cancelled());
}

Status World::sampleBlocksUnbounded(const SampleBlock& block, MaterialIndex* blocks,
    const std::stop_token& stop, StageTimes* times) const {
  if (Status made = generateBlocks(block, blocks, stop, times); !made) return made;
  if (edits_ && layout_.blocks())
    edits_->eachIn(block, [&](int64_t x, int64_t y, int64_t z, uint16_t m) {
      blocks[((y - block.y) / block.step * block.depth + (z - block.z) / block.step) * block.width +
             (x - block.x) / block.step] = editMaterials_[m];
    });
  return done();
}

Status World::sampleBlocks(const SampleBlock& block, MaterialIndex* blocks,
    const std::stop_token& stop, StageTimes* times) const {
  if (Status made = sampleBlocksUnbounded(block, blocks, stop, times); !made) return made;
  const AxisBounds range = vertical();
  const bool cropped = bounded() || layout_.vertical().plane;
  for (int32_t j = 0; j < block.height; ++j) {
    const int64_t y = block.y + j * block.step;
    MaterialIndex* slab = blocks + ptrdiff_t{j} * block.width * block.depth;
    if (y < range.min || y >= range.min + range.extent) {
      std::fill_n(slab, ptrdiff_t{block.width} * block.depth, kOutside);
      continue;
    }
    for (int32_t k = 0; k < block.depth && cropped; ++k)
      for (int32_t i = 0; i < block.width; ++i)
        if (!bounds_.contains({block.x + i * block.step, block.z + k * block.step}))
          slab[ptrdiff_t{k} * block.width + i] = kOutside;
  }
  return done();
}

Status World::sampleColumns(int columns, const Cell* cells, const BlockLevels& levels,
    MaterialIndex* blocks, float* heights, const std::stop_token& stop) const {
  if (Status fits = checkLevels(levels); !fits) return fits;
  const FpState fp;
  const auto count = static_cast<size_t>(columns);
  std::vector<float> ground(count);
  std::vector<BiomeIndex> biomes(count);
  std::vector<MaterialIndex> surface(count);
  scattered(columns, cells, ground.data(), biomes.data(), surface.data(), false);
  if (heights) std::copy(ground.begin(), ground.end(), heights);
  std::vector<int64_t> x(count), z(count);
  for (size_t i = 0; i < count; ++i) {
    x[i] = cells[i].x;
    z[i] = cells[i].z;
  }
  const BlockColumns places{columns, x.data(), z.data(), 0, levels.step, ground.data(),
      surface.data(), parts_.biomes ? biomes.data() : nullptr};
  if (!parts_.blocks->fill(*kernels_, places, levels, blocks, stop)) return cancelled();
  if (digs(levels.step)) {
    std::vector<MaterialIndex> column(static_cast<size_t>(levels.count));
    for (size_t i = 0; i < count; ++i) {
      const auto about = caveColumns({x[i], z[i], levels.step, 1, 1}, stop, nullptr);
      for (size_t j = 0; j < column.size(); ++j) column[j] = blocks[j * count + i];
      if (!about || !parts_.caves->carve(*kernels_, *about, levels, column.data(), stop))
        return cancelled();
      for (size_t j = 0; j < column.size(); ++j) blocks[j * count + i] = column[j];
    }
  }
  if (edits_ && layout_.blocks())
    for (size_t i = 0; i < count; ++i)
      edits_->eachIn({x[i], levels.first, z[i], levels.step, 1, levels.count, 1},
          [&](int64_t, int64_t y, int64_t, uint16_t m) {
            blocks[static_cast<size_t>((y - levels.first) / levels.step) * count + i] =
                editMaterials_[m];
          });
  const AxisBounds range = vertical();
  for (int32_t j = 0; j < levels.count; ++j) {
    const int64_t y = levels.first + j * levels.step;
    const bool beyond = y < range.min || y >= range.min + range.extent;
    for (size_t i = 0; i < count; ++i)
      if (beyond || !bounds_.contains(cells[i]))
        blocks[static_cast<size_t>(j) * count + i] = kOutside;
  }
  return done();
}

Status World::sampleCaves(
    const SampleBlock& block, uint16_t* held, const std::stop_token& stop) const {
  const BlockLevels levels{block.y, block.height, block.step};
  const SampleGrid grid{block.x, block.z, block.step, block.width, block.depth};
  if (Status fits = checkGrid(grid); !fits) return fits;
  if (Status fits = checkLevels(levels); !fits) return fits;
  const FpState fp;
  const ptrdiff_t slab = ptrdiff_t{block.width} * block.depth;
  std::fill_n(held, slab * block.height, uint16_t{0});
  if (!digs(block.step) || slab * block.height == 0) return done();
  const auto columns = caveColumns(grid, stop, nullptr);
  if (!columns || !parts_.caves->heldIn(*kernels_, *columns, levels, held, stop))
    return cancelled();
  for (int32_t j = 0; j < block.height; ++j) {
    const float end = static_cast<float>(levels.first + j * levels.step + 1);
    for (ptrdiff_t n = 0; n < slab; ++n)
      if (end > columns->height(n % block.width, n / block.width)) held[j * slab + n] = 0;
  }
  return done();
}

BlockValue World::blockAt(Cell cell, int64_t y) const {
  const FpState fp;
  const CellValue ground = groundAt(cell);
  BlockValue out{
      parts_.blocks->at(cell, y, ground.height, ground.material, ground.biome), kOpen, {}};
  out.ground = out.material;
  if (digs(1)) {
    out.cave = parts_.caves->at(cell, y, out.ground);
    out.material = parts_.caves->materialOf(out.cave, out.ground);
  }
  if (const auto edited = editAt(cell, y); edited && layout_.blocks()) {
    out.generated = out.material;
    out.material = *edited;
    out.edited = true;
  }
  const AxisBounds range = vertical();
  if (!bounds_.contains(cell) || y < range.min || y >= range.min + range.extent)
    out.material = kOutside;
  return out;
}

void World::scatteredFromAbove(int count, const Cell* cells, float* heights, BiomeIndex* biomes,
    MaterialIndex* materials) const {
  scattered(count, cells, heights, biomes, materials);
  if (!blocks()) return;
  const FpState fp;
  const auto room = static_cast<size_t>(count);
  std::vector<int64_t> x(room), z(room);
  for (size_t i = 0; i < room; ++i) {
    x[i] = cells[i].x;
    z[i] = cells[i].z;
  }
  std::vector<MaterialIndex> above(room);
  parts_.blocks->fromAbove(*kernels_,
      {count, x.data(), z.data(), 0, 1, heights, materials, parts_.biomes ? biomes : nullptr},
      above.data());
  std::copy(above.begin(), above.end(), materials);
  if (digs(1)) lookDown(count, cells, heights, materials);
  if (!edits_) return;
  const AxisBounds range = vertical();
  for (size_t i = 0; i < room; ++i) {
    bool edited = false;
    edits_->eachIn({x[i], range.min, z[i], 1, 1, static_cast<int32_t>(range.extent), 1},
        [&](int64_t, int64_t, int64_t, uint16_t) { edited = true; });
    if (edited) materials[i] = topOf(cells[i]);
  }
}

void World::lookDown(
    int count, const Cell* cells, const float* heights, MaterialIndex* materials) const {
  std::vector<uint8_t> open(static_cast<size_t>(count));
  parts_.caves->openTops(count, cells, heights, open.data());
  for (int i = 0; i < count; ++i)
    if (open[static_cast<size_t>(i)] && parts_.caves->isGround(materials[i]))
      materials[i] = topOf(cells[i]);
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

}  // namespace acre
