#include "cave/voids.h"

#include <algorithm>
#include <cmath>
#include <cstring>

#include "field/compiler.h"
#include "recipe/cave_recipe.h"

namespace acre {
namespace {

constexpr uint64_t kVoidStage = 0x566F696473;  // "Voids"

}  // namespace

void noiseBlock(
    const Kernels& kernels, const NoisePlan& plan, const SampleBlock& block, float* out) {
  if (block.width <= Kernels::kTileWidth) return kernels.block(plan, block, out);
  std::vector<float> part;
  const ptrdiff_t rows = ptrdiff_t{block.height} * block.length;
  for (int32_t first = 0; first < block.width; first += Kernels::kTileWidth) {
    SampleBlock narrow = block;
    narrow.x += first * block.step;
    narrow.width = std::min(Kernels::kTileWidth, block.width - first);
    part.resize(static_cast<size_t>(rows * narrow.width));
    kernels.block(plan, narrow, part.data());
    for (ptrdiff_t row = 0; row < rows; ++row)
      std::copy_n(part.data() + row * narrow.width, narrow.width, out + row * block.width + first);
  }
}

Result<VoidPlan> VoidPlan::compile(const NoiseVoid& part, uint64_t seed, const std::string& where) {
  VoidPlan out;
  const uint64_t own = combine(combine(seed, kVoidStage), hashText(part.id));
  const auto add = [&](const NoiseBand& band, uint64_t which, const std::string& at) -> Status {
    auto plan = compileNoise(band.noise, {}, combine(own, which), 3, at + "/noise");
    if (!plan) return plan.error();
    out.bands_.push_back({std::move(*plan), static_cast<float>((band.low + band.high) / 2),
        static_cast<float>((band.high - band.low) / 2)});
    return done();
  };
  if (Status added = add(part.first, 1, where); !added) return added.error();
  if (part.second)
    if (Status added = add(*part.second, 2, where + "/second"); !added) return added.error();
  if (!part.curve.empty()) {
    out.curve_.emplace(part.curve);
    // Before the first point the curve is level.
    if (part.curve.front().y <= 0) out.noneAbove_ = static_cast<float>(part.curve.front().x);
    // A monotone cubic keeps within its points, but for rounding.
    double widest = 0;
    for (const CurvePoint& point : part.curve) widest = std::max(widest, point.y);
    out.widest_ = static_cast<float>(widest * 1.001);
  }
  out.underSea_ = part.underSea;
  return out;
}

float VoidPlan::factorAt(float depth) const {
  return curve_ ? curve_->at(depth) : 1.0f;
}

void VoidPlan::values(
    const Kernels& kernels, const Band& band, const SampleBlock& block, std::vector<float>& out) {
  out.resize(static_cast<size_t>(block.width) * static_cast<size_t>(block.length) *
             static_cast<size_t>(block.height));
  noiseBlock(kernels, band.plan, block, out.data());
}

namespace {

/// Marks with 1 what may be open in a row at the widest that the bands get. Without branches, so
/// that it is done several cells at a time.
void markWidest(const float* first, float firstMiddle, float firstHalf, const float* second,
    float secondMiddle, float secondHalf, size_t count, uint16_t* out) {
  for (size_t i = 0; i < count; ++i)
    out[i] =
        static_cast<uint16_t>(static_cast<int>(std::abs(first[i] - firstMiddle) < firstHalf) &
                              static_cast<int>(std::abs(second[i] - secondMiddle) < secondHalf));
}

}  // namespace

void VoidPlan::mark(const Kernels& kernels, const SampleBlock& block, const float* heights,
    const SeaGuard& guard, uint16_t mark, uint16_t* out) const {
  const size_t columns = static_cast<size_t>(block.width) * static_cast<size_t>(block.length);
  // Levels above every column, or where the curve leaves nothing open in any, are passed over.
  const float ceiling = *std::max_element(heights, heights + columns) - std::max(0.0f, noneAbove_);
  int32_t levels = block.height;
  while (levels > 0 && static_cast<float>(block.y + (levels - 1) * block.step + 1) > ceiling)
    --levels;
  // A slab of noise at a time, so that it stays in the cache.
  const auto slab = static_cast<int32_t>(std::clamp<size_t>(16384 / columns, 1, 32));
  std::vector<float> values[2];
  std::vector<uint16_t> may(columns + 4);
  const Band& a = bands_.front();
  const Band& b = bands_.back();
  for (int32_t first = 0; first < levels; first += slab) {
    SampleBlock part = block;
    part.y += first * block.step;
    part.height = std::min(slab, levels - first);
    for (size_t k = 0; k < bands_.size(); ++k)
      VoidPlan::values(kernels, bands_[k], part, values[k]);
    for (int32_t j = 0; j < part.height; ++j) {
      const int64_t y = part.y + j * block.step;
      const float end = static_cast<float>(y + 1);
      const size_t row = static_cast<size_t>(j) * columns;
      uint16_t* to = out + static_cast<size_t>(first + j) * columns;
      const float* va = values[0].data() + row;
      const float* vb = values[bands_.size() - 1].data() + row;
      markWidest(
          va, a.middle, a.half * widest_, vb, b.middle, b.half * widest_, columns, may.data());
      const bool guarded = !underSea_ && guard.any(y);
      for (size_t i = 0; i < columns; ++i) {
        uint64_t four = 0;  // Most cells are closed: four are passed over at a time.
        std::memcpy(&four, may.data() + i, sizeof four);
        if (four == 0) {
          i += 3;
          continue;
        }
        const float depth = heights[i] - end;
        if (may[i] == 0 || to[i] != 0 || depth < 0.0f || (guarded && guard.keeps(y, i))) continue;
        const float factor = factorAt(depth);
        if (std::abs(va[i] - a.middle) < a.half * factor &&
            std::abs(vb[i] - b.middle) < b.half * factor)
          to[i] = mark;
      }
    }
  }
}

auto VoidPlan::at(Cell cell, int64_t y, float height) const -> At {
  At out;
  out.depth = height - static_cast<float>(y + 1);
  out.factor = factorAt(out.depth);
  const Pos place[3] = {{cell.x, 0}, {y, 0}, {cell.z, 0}};
  out.first = noiseAt(bands_.front().plan, place);
  out.second = noiseAt(bands_.back().plan, place);
  out.open = out.depth >= 0.0f &&
             std::abs(out.first - bands_.front().middle) < bands_.front().half * out.factor &&
             std::abs(out.second - bands_.back().middle) < bands_.back().half * out.factor;
  return out;
}

}  // namespace acre
