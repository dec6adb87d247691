#include "climate/land_sampler.h"

#include <algorithm>

namespace acre {
namespace {

/// West, east, north, south.
constexpr Cell kBeside[4] = {{-1, 0}, {1, 0}, {0, -1}, {0, 1}};

}  // namespace

bool LandSampler::evaluate(
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
  if (grid.step == 1 && !land.regions && !land.borders && !land.base) {
    // The neighbours are samples of a grid that is one larger on every side.
    const SampleGrid all{grid.x - 1, grid.z - 1, 1, grid.width + 2, grid.length + 2};
    const ptrdiff_t wide = all.width;
    const auto room = static_cast<size_t>(all.width) * static_cast<size_t>(all.length);
    std::vector<float> h(room);
    std::vector<BiomeIndex> biomes(land.biomes ? room : 0);
    LandOut larger;
    larger.heights = h.data();
    larger.biomes = land.biomes ? biomes.data() : nullptr;
    larger.stride = wide;
    larger.times = land.times;
    if (!evaluate(all, larger, stop)) return false;
    for (ptrdiff_t j = 0; j < grid.length; ++j) {
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
  for (size_t k = 0; k < 4; ++k) {
    SampleGrid moved = grid;
    moved.x += kBeside[k].x;
    moved.z += kBeside[k].z;
    side[k].resize(count);
    LandOut one;
    one.heights = side[k].data();
    one.stride = width;
    one.times = land.times;
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

void LandSampler::scattered(
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
  out.base = out.height = base_->at({cell.x, 0}, {cell.z, 0});
  if (!biomes_) return out;
  const BiomeStage::At at = biomes_->at(cell, out.base);
  out.height = at.height;
  out.biome = at.biome;
  return out;
}

float LandSampler::slopeAt(Cell cell) const {
  float h[4];
  for (size_t k = 0; k < 4; ++k) h[k] = heightAt({cell.x + kBeside[k].x, cell.z + kBeside[k].z});
  return slopeOf(h[0], h[1], h[2], h[3]);
}

}  // namespace acre
