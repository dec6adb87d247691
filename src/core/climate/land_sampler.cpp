#include "climate/land_sampler.h"

#include <algorithm>

namespace acre {
namespace {

/// West, east, north, south.
constexpr Cell kBeside[4] = {{-1, 0}, {1, 0}, {0, -1}, {0, 1}};

/// What is asked of a grid, made over one that is larger by a sample on every side.
struct Rimmed {
  const SampleGrid inner, all;
  const LandOut asked;
  LandOut out;  ///< Of the larger one: heights always, the rest as it is asked.
  std::vector<float> heights, borders, base;
  std::vector<BiomeIndex> biomes;
  std::vector<uint32_t> regions;
  std::vector<WaterKind> waters;
  std::vector<int32_t> levels;
  std::vector<float> shores;
  std::vector<int32_t> helds;
  std::vector<uint32_t> marks;

  Rimmed(const SampleGrid& grid, const LandOut& land)
      : inner(grid),
        all{grid.x - 1, grid.z - 1, grid.step, grid.width + 2, grid.length + 2},
        asked(land) {
    const auto room = static_cast<size_t>(all.width) * static_cast<size_t>(all.length);
    const auto take = [&](auto& list, bool wanted, auto*& place) {
      list.resize(wanted ? room : 0);
      place = wanted ? list.data() : nullptr;
    };
    take(heights, true, out.heights);
    take(biomes, land.biomes, out.biomes);
    take(regions, land.regions, out.regions);
    take(borders, land.borders, out.borders);
    take(base, land.base, out.base);
    take(waters, land.waters, out.waters);
    take(levels, land.levels, out.levels);
    take(shores, land.shores, out.shores);
    take(helds, land.helds, out.helds);
    take(marks, land.marks, out.marks);
    out.stride = all.width;
    out.times = land.times;
    out.beforeWater = land.beforeWater;
  }
  /// Hands over what was made without the rim, but for the heights.
  void crop() const {
    const auto copy = [&](const auto& from, auto* to) {
      for (ptrdiff_t j = 0; !from.empty() && j < inner.length; ++j)
        std::copy_n(from.data() + rowOf(j), inner.width, to + j * asked.stride);
    };
    copy(biomes, asked.biomes);
    copy(regions, asked.regions);
    copy(borders, asked.borders);
    copy(base, asked.base);
    copy(waters, asked.waters);
    copy(levels, asked.levels);
    copy(shores, asked.shores);
    copy(helds, asked.helds);
    copy(marks, asked.marks);
  }
  /// Where a row of the inner grid begins.
  ptrdiff_t rowOf(ptrdiff_t j) const { return (j + 1) * all.width + 1; }
};

LandShaper::Out shaperOut(const LandOut& land) {
  return {land.heights, land.waters, land.levels, land.shores, land.helds, land.marks, land.stride};
}

}  // namespace

bool LandSampler::evaluate(
    const SampleGrid& grid, const LandOut& land, const std::stop_token& stop) const {
  const bool asked =
      shaper_ && !land.beforeWater &&
      (land.heights || land.waters || land.levels || land.shores || land.helds || land.marks);
  const bool shapes = asked && grid.step <= shaper_->farthestStep();
  for (ptrdiff_t j = 0; !shapes && j < grid.length; ++j) {
    if (land.waters) std::fill_n(land.waters + j * land.stride, grid.width, WaterKind::Dry);
    if (land.levels) std::fill_n(land.levels + j * land.stride, grid.width, 0);
    if (land.shores) std::fill_n(land.shores + j * land.stride, grid.width, kFarShore);
    if (land.helds) std::fill_n(land.helds + j * land.stride, grid.width, kNoWater);
    if (land.marks) std::fill_n(land.marks + j * land.stride, grid.width, 0u);
  }
  if (!shapes) return made(grid, land, stop);
  std::vector<float> before(static_cast<size_t>(grid.width) * static_cast<size_t>(grid.length));
  std::vector<float> heights(
      land.heights ? 0 : static_cast<size_t>(land.stride) * static_cast<size_t>(grid.length));
  LandOut out = land;
  if (!out.heights) out.heights = heights.data();
  if (!made(grid, out, stop)) return false;
  for (ptrdiff_t j = 0; j < grid.length; ++j)
    std::copy_n(out.heights + j * land.stride, grid.width, before.data() + j * grid.width);
  StageClock clock(land.times);
  const bool cut = shaper_->shape(grid, before.data(), shaperOut(land), stop);
  clock.stop(StageId::Water);
  return cut;
}

bool LandSampler::made(
    const SampleGrid& grid, const LandOut& land, const std::stop_token& stop) const {
  const BiomeStage* stage = biomes_.get();
  float* base = land.base;
  std::vector<float> room;
  if (!base && stage) {
    room.resize(static_cast<size_t>(land.stride) * static_cast<size_t>(grid.length));
    base = room.data();
  }
  if (!base) base = land.heights;
  StageClock clock(land.times);
  if (base && !base_->evaluate(*kernels_, grid, base, land.stride, stop)) return false;
  clock.stop(StageId::Heights);
  if (stage) {
    const bool made = stage->evaluate(*kernels_, grid, base,
        {land.heights, land.biomes, land.regions, land.borders, land.stride}, stop);
    clock.stop(StageId::Biomes);
    return made;
  }
  for (int32_t j = 0; j < grid.length; ++j) {
    const ptrdiff_t row = j * land.stride;
    if (land.heights && land.heights != base)
      std::copy_n(base + row, grid.width, land.heights + row);
    if (land.biomes) std::fill_n(land.biomes + row, grid.width, kNoBiome);
    if (land.regions) std::fill_n(land.regions + row, grid.width, 0u);
    if (land.borders) std::fill_n(land.borders + row, grid.width, 0.0f);
  }
  return true;
}

bool LandSampler::evaluate(
    const SampleGrid& grid, const LandOut& land, float* slopes, const std::stop_token& stop) const {
  const ptrdiff_t width = grid.width;
  const auto count = static_cast<size_t>(grid.width) * static_cast<size_t>(grid.length);
  if (grid.step == 1) {  // The neighbours are samples of the larger grid.
    Rimmed larger(grid, land);
    if (!evaluate(larger.all, larger.out, stop)) return false;
    larger.crop();
    const ptrdiff_t wide = larger.all.width;
    for (ptrdiff_t j = 0; j < grid.length; ++j) {
      const float* at = larger.heights.data() + larger.rowOf(j);
      if (land.heights) std::copy_n(at, width, land.heights + j * land.stride);
      for (ptrdiff_t i = 0; i < width; ++i)
        slopes[j * width + i] = slopeOf(at[i - 1], at[i + 1], at[i - wide], at[i + wide]);
    }
    return true;
  }
  std::vector<float> side[4];
  for (size_t k = 0; k < 4; ++k) {
    SampleGrid moved = grid;
    moved.x += kBeside[k].x;
    moved.z += kBeside[k].z;
    side[k].resize(count);
    LandOut one;
    one.heights = side[k].data();
    one.stride = width;
    one.times = land.times;
    // An indication of rivers is no ground to measure the rise of.
    one.beforeWater = land.beforeWater || (shaper_ && grid.step > shaper_->exactStep());
    if (!evaluate(moved, one, stop)) return false;
  }
  for (size_t i = 0; i < count; ++i)
    slopes[i] = slopeOf(side[0][i], side[1][i], side[2][i], side[3][i]);
  return evaluate(grid, land, stop);
}

void LandSampler::baseOf(int count, const Cell* cells, float* out) const {
  std::vector<int64_t> x, z;
  const std::vector<int32_t> q(static_cast<size_t>(count));
  for (int i = 0; i < count; ++i) {
    x.push_back(cells[i].x);
    z.push_back(cells[i].z);
  }
  base_->points(
      *kernels_, {count, {x.data(), nullptr, z.data()}, {q.data(), nullptr, q.data()}}, out);
}

void LandSampler::scattered(int count, const Cell* cells, float* heights, BiomeIndex* biomes,
    Accuracy accuracy, WaterAt* waters) const {
  // Places all over the world would each pull a network of their own.
  if (!shaper_ || accuracy == Accuracy::Approximate)
    return madeAt(count, cells, heights, biomes, accuracy);
  std::vector<float> before(static_cast<size_t>(count));
  madeAt(count, cells, before.data(), biomes, accuracy);
  shaper_->shape(count, cells, before.data(), heights, waters, accuracy);
}

void LandSampler::madeAt(
    int count, const Cell* cells, float* heights, BiomeIndex* biomes, Accuracy accuracy) const {
  if (!biomes_) {
    baseOf(count, cells, heights);
    if (biomes) std::fill_n(biomes, count, kNoBiome);
    return;
  }
  std::vector<float> base(static_cast<size_t>(count));
  baseOf(count, cells, base.data());
  biomes_->scattered(*kernels_, count, cells, base.data(), heights, biomes, accuracy);
}

std::vector<float> LandSampler::heightsOf(const std::vector<Cell>& cells) const {
  std::vector<float> out(cells.size());
  scattered(static_cast<int>(cells.size()), cells.data(), out.data(), nullptr, Accuracy::Exact);
  return out;
}

std::vector<float> LandSampler::slopesOf(int count, const Cell* cells, Accuracy accuracy) const {
  const auto room = static_cast<size_t>(count);
  std::vector<float> side[4], out(room);
  std::vector<Cell> moved(room);
  for (size_t k = 0; k < 4; ++k) {
    for (size_t i = 0; i < room; ++i)
      moved[i] = {cells[i].x + kBeside[k].x, cells[i].z + kBeside[k].z};
    side[k].resize(room);
    scattered(count, moved.data(), side[k].data(), nullptr, accuracy);
  }
  for (size_t i = 0; i < room; ++i)
    out[i] = slopeOf(side[0][i], side[1][i], side[2][i], side[3][i]);
  return out;
}

LandAt LandSampler::at(Cell cell) const {
  LandAt out;
  out.base = out.before = base_->at({cell.x, 0}, {cell.z, 0});
  if (biomes_) {
    const BiomeStage::At at = biomes_->at(cell, out.base);
    out.before = at.height;
    out.biome = at.biome;
  }
  out.height = out.before;
  if (shaper_) {
    shaper_->shape(1, &cell, &out.before, nullptr, &out.water, Accuracy::Exact);
    out.height = out.water.height;
  }
  return out;
}

float LandSampler::slopeAt(Cell cell) const {
  float h[4];
  for (size_t k = 0; k < 4; ++k) h[k] = heightAt({cell.x + kBeside[k].x, cell.z + kBeside[k].z});
  return slopeOf(h[0], h[1], h[2], h[3]);
}

}  // namespace acre
