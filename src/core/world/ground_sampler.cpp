#include "world/ground_sampler.h"

#include <fmt/format.h>

#include <algorithm>
#include <mutex>

#include "base/fp_state.h"
#include "cave/caves.h"
#include "climate/land_sampler.h"
#include "field/field.h"
#include "strata/blocks.h"
#include "world/column_sampler.h"

namespace acre {
namespace {

/// What the columns of squares may take: those of a view are asked for level by level, and no more.
constexpr uint64_t kMostSquares = uint64_t{8} << 20;

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

GroundSampler::GroundSampler(
    const WorldPlan& plan, const ColumnSampler& columns, const MemoLimit& memo)
    : plan_(plan),
      columns_(columns),
      stage_(*plan.parts().blocks),
      caves_(plan.caves()),
      squares_({std::min(memo.bytes, kMostSquares), memo.budget}) {}

bool GroundSampler::digs(int64_t step) const {
  return caves_ && plan_.layout().blocks() && step <= CaveStage::kExactStep;
}

// ---- squares of columns ------------------------------------------------------------------------

struct GroundSampler::Square {
  std::vector<float> heights;
  std::vector<BiomeIndex> biomes;
  std::vector<MaterialIndex> surface;
  std::vector<int64_t> x, z;
  std::vector<int32_t> levels, helds;  // Of fresh water; empty without the stage.
  std::vector<float> shores;
  BlockColumns columns;          // The above.
  mutable std::once_flag asked;  // For the numbers, which blocks all alike do without.
  mutable std::shared_ptr<const BlockStage::Numbers> numbers;
  mutable std::mutex digging;
  mutable std::shared_ptr<const CaveStage::Columns> caves;  // Made when blocks are dug into.
  uint64_t caveBytes = 0;                                   // What they take.
  float lowest = 0, highest = 0;  // Of the ground; the second also of the water over it.

  /// What it takes at most: the numbers of the stage are reckoned by column too.
  uint64_t bytes() const { return sizeof(Square) + heights.size() * kPerColumn + caveBytes; }
  static constexpr uint64_t kPerColumn = 2 * sizeof(int64_t) + sizeof(float) +
                                         sizeof(MaterialIndex) + sizeof(BiomeIndex) + 48 +
                                         2 * sizeof(int32_t) + sizeof(float);
};

std::shared_ptr<const GroundSampler::Square> GroundSampler::squareOf(
    const SquareKey& key, const std::stop_token& stop, StageTimes* times) const {
  constexpr int32_t kMost = 66;  // Larger areas are asked for once.
  const auto make = [&] { return makeSquare(key, stop, times); };
  return key.width <= kMost && key.length <= kMost ? squares_.get(key, stop, make) : make();
}

std::shared_ptr<const GroundSampler::Square> GroundSampler::makeSquare(
    const SquareKey& key, const std::stop_token& stop, StageTimes* times) const {
  auto square = std::make_shared<Square>();
  const auto count = static_cast<size_t>(key.width) * static_cast<size_t>(key.length);
  square->heights.resize(count);
  square->biomes.resize(plan_.biomes() ? count : 0);
  square->surface.resize(count);
  Land land;
  land.heights = square->heights.data();
  land.biomes = plan_.biomes() ? square->biomes.data() : nullptr;
  land.materials = square->surface.data();
  land.ground = true;
  std::vector<WaterKind> kinds;
  if (plan_.water()) {
    kinds.resize(count);
    square->levels.resize(count);
    square->helds.resize(count);
    square->shores.resize(count);
    land.waters = kinds.data();
    land.levels = square->levels.data();
    land.helds = square->helds.data();
    land.shores = square->shores.data();
  }
  land.times = times;
  if (!columns_.sample({key.x, key.z, key.step, key.width, key.length}, land, stop)) return nullptr;
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
  for (size_t n = 0; n < kinds.size(); ++n) {
    if (!isFresh(kinds[n])) square->levels[n] = kNoWater;
    square->highest = std::max(square->highest, static_cast<float>(square->levels[n]));
  }
  square->columns = {static_cast<int>(count), square->x.data(), square->z.data(), key.width,
      key.step, square->heights.data(), square->surface.data(),
      plan_.biomes() ? square->biomes.data() : nullptr};
  if (!kinds.empty()) {
    square->columns.levels = square->levels.data();
    square->columns.helds = square->helds.data();
    square->columns.shores = square->shores.data();
  }
  if (digs(key.step)) {
    CaveStage::Columns about;
    about.step = key.step;
    about.width = key.width;
    about.length = key.length;
    const auto fine = static_cast<uint64_t>(about.fineWidth() * about.fineLength());
    square->caveBytes = about.bytes() + sizeof(float) * (count + fine) +
                        (plan_.water() ? sizeof(int32_t) * fine : 0);
  }
  clock.stop(StageId::Strata);
  return square;
}

std::shared_ptr<const CaveStage::Columns> GroundSampler::caveColumns(
    const SampleGrid& grid, const std::stop_token& stop, StageTimes* times) const {
  auto columns = std::make_shared<CaveStage::Columns>();
  columns->x = grid.x;
  columns->z = grid.z;
  columns->step = grid.step;
  columns->width = grid.width;
  columns->length = grid.length;
  constexpr int64_t kApron = CaveStage::kApron;
  const SampleGrid fine{grid.x - kApron, grid.z - kApron, 1,
      static_cast<int32_t>(columns->fineWidth()), static_cast<int32_t>(columns->fineLength())};
  columns->heights.resize(static_cast<size_t>(fine.width) * static_cast<size_t>(fine.length));
  LandOut land;
  land.heights = columns->heights.data();
  if (plan_.water()) {
    columns->helds.resize(columns->heights.size());
    land.helds = columns->helds.data();
  }
  land.stride = fine.width;
  land.times = times;
  if (!plan_.parts().land->evaluate(fine, land, stop)) return nullptr;
  if (caves_->asksMoisture()) {
    columns->moistures.resize(static_cast<size_t>(grid.width) * static_cast<size_t>(grid.length));
    if (!caves_->moisture()->evaluate(
            plan_.kernels(), grid, columns->moistures.data(), grid.width, stop))
      return nullptr;
  }
  return columns;
}

std::optional<MaterialIndex> GroundSampler::uniform(
    float lowest, float highest, const BlockLevels& levels) const {
  const auto alike = stage_.uniform(lowest, highest, levels);
  if (alike && digs(levels.step) && caves_->isGround(*alike)) return std::nullopt;
  return alike;
}

// ---- blocks ------------------------------------------------------------------------------------

std::optional<MaterialIndex> GroundSampler::alike(
    const SampleBlock& block, const std::stop_token& stop, StageTimes* times) const {
  const BlockLevels levels{block.y, block.height, block.step};
  if (const auto alike = uniform(plan_.parts().lowest, plan_.parts().highest, levels)) return alike;
  const FpState fp;
  const auto square =
      squareOf({block.x, block.z, block.step, block.width, block.length}, stop, times);
  if (!square) return std::nullopt;
  return uniform(square->lowest, square->highest, levels);
}

Status GroundSampler::fill(const SampleBlock& block, MaterialIndex* blocks,
    const std::stop_token& stop, StageTimes* times) const {
  const BlockLevels levels{block.y, block.height, block.step};
  const SampleGrid grid{block.x, block.z, block.step, block.width, block.length};
  if (Status fits = checkGrid(grid); !fits) return fits;
  if (Status fits = checkLevels(levels); !fits) return fits;
  const FpState fp;
  const size_t count = static_cast<size_t>(block.width) * static_cast<size_t>(block.length) *
                       static_cast<size_t>(block.height);
  if (count == 0) return done();
  const auto fill = [&](MaterialIndex m) { std::fill_n(blocks, count, m); };
  if (const auto alike = uniform(plan_.parts().lowest, plan_.parts().highest, levels))
    return fill(*alike), done();
  const auto square =
      squareOf({block.x, block.z, block.step, block.width, block.length}, stop, times);
  if (!square) return cancelled();
  if (const auto alike = uniform(square->lowest, square->highest, levels))
    return fill(*alike), done();
  StageClock clock(times);
  // Once for all the levels that are asked for over these columns.
  std::call_once(
      square->asked, [&] { square->numbers = stage_.prepare(plan_.kernels(), square->columns); });
  const bool made =
      stage_.fill(plan_.kernels(), square->columns, levels, blocks, stop, square->numbers.get());
  clock.stop(StageId::Strata);
  if (!made) return cancelled();
  if (!digs(block.step)) return done();
  std::shared_ptr<const CaveStage::Columns> columns;
  {
    const std::lock_guard lock(square->digging);
    if (!square->caves) square->caves = caveColumns(grid, stop, times);
    columns = square->caves;
  }
  StageClock digging(times);
  const bool dug = columns && caves_->carve(plan_.kernels(), *columns, levels, blocks, stop);
  digging.stop(StageId::Caves);
  return dug ? done() : Status(cancelled());
}

Status GroundSampler::fill(int columns, const Cell* cells, const BlockLevels& levels,
    MaterialIndex* blocks, float* heights, const std::stop_token& stop) const {
  if (Status fits = checkLevels(levels); !fits) return fits;
  const FpState fp;
  const auto count = static_cast<size_t>(columns);
  std::vector<float> ground(count);
  std::vector<BiomeIndex> biomes(count);
  std::vector<MaterialIndex> surface(count);
  std::vector<WaterAt> waters(plan_.water() ? count : 0);
  columns_.scattered(columns, cells, ground.data(), biomes.data(), surface.data(), Accuracy::Exact,
      waters.empty() ? nullptr : waters.data());
  if (heights) std::copy(ground.begin(), ground.end(), heights);
  std::vector<int64_t> x(count), z(count);
  for (size_t i = 0; i < count; ++i) {
    x[i] = cells[i].x;
    z[i] = cells[i].z;
  }
  BlockColumns places{columns, x.data(), z.data(), 0, levels.step, ground.data(), surface.data(),
      plan_.biomes() ? biomes.data() : nullptr};
  std::vector<int32_t> over(waters.size()), helds(waters.size());
  std::vector<float> shores(waters.size());
  for (size_t i = 0; i < waters.size(); ++i) {
    over[i] = waters[i].freshLevel();
    helds[i] = waters[i].held;
    shores[i] = waters[i].shore;
  }
  if (!waters.empty()) {
    places.levels = over.data();
    places.helds = helds.data();
    places.shores = shores.data();
  }
  if (!stage_.fill(plan_.kernels(), places, levels, blocks, stop)) return cancelled();
  if (!digs(levels.step)) return done();
  std::vector<MaterialIndex> column(static_cast<size_t>(levels.count));
  for (size_t i = 0; i < count; ++i) {
    const auto about = caveColumns({x[i], z[i], levels.step, 1, 1}, stop, nullptr);
    for (size_t j = 0; j < column.size(); ++j) column[j] = blocks[j * count + i];
    if (!about || !caves_->carve(plan_.kernels(), *about, levels, column.data(), stop))
      return cancelled();
    for (size_t j = 0; j < column.size(); ++j) blocks[j * count + i] = column[j];
  }
  return done();
}

BlockValue GroundSampler::at(Cell cell, int64_t y) const {
  const FpState fp;
  const CellValue ground = columns_.at(cell);
  BlockValue out{
      stage_.at(cell, y, ground.height, ground.ground, ground.biome, ground.water), kOpen, {}};
  out.ground = out.material;
  if (digs(1)) {
    out.cave = caves_->at(cell, y, out.ground);
    out.material = caves_->materialOf(out.cave, out.ground);
  }
  return out;
}

Status GroundSampler::caves(
    const SampleBlock& block, uint16_t* held, const std::stop_token& stop) const {
  const BlockLevels levels{block.y, block.height, block.step};
  const SampleGrid grid{block.x, block.z, block.step, block.width, block.length};
  if (Status fits = checkGrid(grid); !fits) return fits;
  if (Status fits = checkLevels(levels); !fits) return fits;
  const FpState fp;
  const ptrdiff_t slab = ptrdiff_t{block.width} * block.length;
  std::fill_n(held, slab * block.height, uint16_t{0});
  if (!digs(block.step) || slab * block.height == 0) return done();
  const auto columns = caveColumns(grid, stop, nullptr);
  if (!columns || !caves_->heldIn(plan_.kernels(), *columns, levels, held, stop))
    return cancelled();
  for (int32_t j = 0; j < block.height; ++j) {
    const float end = static_cast<float>(levels.first + j * levels.step + 1);
    for (ptrdiff_t n = 0; n < slab; ++n)
      if (end > columns->height(n % block.width, n / block.width)) held[j * slab + n] = 0;
  }
  return done();
}

}  // namespace acre
