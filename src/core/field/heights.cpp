#include "field/heights.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "recipe/validate.h"

namespace acre {
namespace {

/// Stage identity in the seed chain; never changes within generation 0.
constexpr uint64_t kHeightsStage = 0x48656967687473;  // "Heights"

constexpr uint64_t kAxisX = 0;
constexpr uint64_t kAxisZ = 2;
constexpr uint64_t kPhase = 16;

/// Cells and 1/65536 cells of an explicit sampling offset, rounded to the nearest.
Pos toPos(double cells) {
  const double whole = std::floor(cells);
  const auto q = static_cast<int32_t>(std::floor((cells - whole) * 65536.0 + 0.5));
  return {static_cast<int64_t>(whole), q};
}

/// To float, with -0 as 0 so that sums need not tell them apart.
float toFloat(double v) {
  return static_cast<float>(v) + 0.0f;
}

}  // namespace

Result<GradientPlan> compileGradient(const GradientSource& source, uint64_t layerSeed,
                                     const std::string& where) {
  const auto steps = octaveSteps(source, where);
  if (!steps) return steps.error();
  GradientPlan plan;
  plan.amplitude = toFloat(source.amplitude);
  plan.offset = toFloat(source.offset);
  if (source.sampling) {
    plan.shiftX = toPos(source.sampling->x);
    plan.shiftZ = toPos(source.sampling->z);
  }
  double weight = 1;
  for (size_t k = 0; k < steps->size(); ++k, weight *= source.gain) {
    const uint64_t seed = combine(layerSeed, k);
    GradientOctave octave;
    octave.step = (*steps)[k];
    octave.seedX = combine(seed, kAxisX);
    octave.seedZ = combine(seed, kAxisZ);
    if (!source.sampling) {
      octave.phaseX = combine(seed, kPhase + kAxisX) >> 16;
      octave.phaseZ = combine(seed, kPhase + kAxisZ) >> 16;
    }
    octave.weight = toFloat(weight);
    plan.octaves.push_back(octave);
  }
  return plan;
}

Digest HeightField::keyOf(const std::vector<Layer>& layers, uint64_t seed) {
  DigestWriter key;
  key.text("heights").u32(1).u64(seed);
  for (const Layer& layer : layers) {
    if (!layer.on) continue;
    key.text(layer.id).u8(static_cast<uint8_t>(layer.combine));
    key.u8(static_cast<uint8_t>(layer.source.index()));
    if (const auto* constant = std::get_if<ConstantSource>(&layer.source)) {
      key.f64(constant->value);
      continue;
    }
    const auto& noise = std::get<GradientSource>(layer.source);
    key.f64(noise.width).f64(noise.amplitude).f64(noise.offset);
    key.u32(static_cast<uint32_t>(noise.usedOctaves()));
    if (noise.usedOctaves() > 1) key.f64(noise.lacunarity).f64(noise.gain);
    key.u8(noise.sampling.has_value());
    if (noise.sampling) key.f64(noise.sampling->x).f64(noise.sampling->z);
  }
  return key.finish();
}

Result<std::shared_ptr<const HeightField>> HeightField::compile(const std::vector<Layer>& layers,
                                                                uint64_t seed) {
  auto field = std::make_shared<HeightField>();
  const uint64_t stageSeed = combine(seed, kHeightsStage);
  for (size_t i = 0; i < layers.size(); ++i) {
    const Layer& layer = layers[i];
    if (!layer.on) continue;
    if (const auto* constant = std::get_if<ConstantSource>(&layer.source)) {
      field->steps_.push_back({layer.combine, toFloat(constant->value)});
      continue;
    }
    const auto& noise = std::get<GradientSource>(layer.source);
    auto plan = compileGradient(noise, combine(stageSeed, hashText(layer.id)),
                                fmt::format("/heights/layers/{}", i));
    if (!plan) return plan.error();
    field->widest_ = std::max(field->widest_, noise.width);
    field->steps_.push_back({layer.combine, std::move(*plan)});
  }
  return std::shared_ptr<const HeightField>(std::move(field));
}

bool HeightField::evaluate(const Kernels& kernels, const SampleGrid& grid, float* out,
                           ptrdiff_t stride, const std::stop_token& stop) const {
  for (int32_t z = 0; z < grid.height; z += Kernels::kTileHeight) {
    for (int32_t x = 0; x < grid.width; x += Kernels::kTileWidth) {
      if (stop.stop_requested()) return false;
      const SampleGrid tile{grid.x + x * grid.step, grid.z + z * grid.step, grid.step,
                            std::min(Kernels::kTileWidth, grid.width - x),
                            std::min(Kernels::kTileHeight, grid.height - z)};
      float* const corner = out + z * stride + x;
      for (int32_t j = 0; j < tile.height; ++j) std::fill_n(corner + j * stride, tile.width, 0.0f);
      for (const Step& step : steps_) {
        const bool multiply = step.combine == Combine::Multiply;
        if (const auto* plan = std::get_if<GradientPlan>(&step.value)) {
          kernels.gradient(*plan, tile, multiply, corner, stride);
          continue;
        }
        const float constant = std::get<float>(step.value);
        for (int32_t j = 0; j < tile.height; ++j)
          for (float* sum = corner + j * stride; sum != corner + j * stride + tile.width; ++sum)
            *sum = multiply ? *sum * constant : *sum + constant;
      }
    }
  }
  return true;
}

float HeightField::at(Pos x, Pos z) const {
  float sum = 0;
  for (const Step& step : steps_) {
    const auto* plan = std::get_if<GradientPlan>(&step.value);
    const float value = plan ? gradientAt(*plan, x, z) : std::get<float>(step.value);
    sum = step.combine == Combine::Multiply ? sum * value : sum + value;
  }
  return sum;
}

}  // namespace acre
