#include "strata/bands.h"

#include <algorithm>
#include <limits>

#include "field/compiler.h"
#include "recipe/look.h"
#include "strata/material_index.h"

namespace acre {
namespace {

constexpr uint64_t kStrataStage = 0x537472617461;  // "Strata"
constexpr uint64_t kAxisX = 0;
constexpr uint64_t kAxisZ = 2;

/// [0, 1), a multiple of 2^-24.
float shareOf(uint32_t hash) {
  return static_cast<float>(hash >> 8) * 0x1p-24f;
}

}  // namespace

float resolve(const Threshold& threshold, double seaLevel, const Distribution* heights) {
  if (threshold.share && heights) return heights->valueAt(*threshold.share);
  return altitudeOf(threshold, seaLevel);
}

namespace {

float resolve(const Threshold& threshold, const StrataInputs& inputs) {
  return resolve(threshold, inputs.seaLevel, inputs.heights);
}

}  // namespace

Digest BandTable::keyOf(const StrataInputs& inputs) {
  DigestWriter key;
  key.text("bands").u32(2).u8(inputs.on).u64(inputs.seed);
  for (const Material& material : inputs.materials) key.text(material.id);
  const AltitudeOf altitude = [&](const Threshold& end) { return resolve(end, inputs); };
  writeKey(key, inputs.slopes, altitude);
  writeKey(key, inputs.bands, altitude);
  return key.finish();
}

std::shared_ptr<const BandTable> BandTable::compile(const StrataInputs& inputs) {
  auto table = std::make_shared<BandTable>();
  table->empty_ = inputs.bands.empty() || !inputs.on;
  if (table->empty_) table->materials_ = {kUnassigned};
  if (!inputs.on) return table;
  for (const Band& band : inputs.bands) {
    table->materials_.push_back(indexOf(inputs.materials, band.material));
    if (!band.below) continue;
    const float end = resolve(*band.below, inputs);
    SoftEdge edge;
    edge.kind = band.edge.width > 0 ? band.edge.kind : Edge::Kind::Hard;
    edge.width = static_cast<float>(band.edge.width);
    edge.squared = band.edge.squared;
    const uint64_t seed = combine(combine(inputs.seed, kStrataStage), hashText(band.id));
    edge.seedX = combine(seed, kAxisX);
    edge.seedZ = combine(seed, kAxisZ);
    if (edge.kind == Edge::Kind::Noisy) {
      NoiseSource noise;
      noise.fractal = Fractal::Single;
      noise.width = band.edge.feature;
      edge.noise = *compileNoise(noise, {}, seed, 2, "");
    }
    if (edge.kind != Edge::Kind::Hard)
      table->soft_.push_back(static_cast<int>(table->ends_.size()));
    table->ends_.push_back(table->ends_.empty() ? end : std::max(table->ends_.back(), end));
    table->edges_.push_back(std::move(edge));
  }
  constexpr float kEndless = std::numeric_limits<float>::infinity();
  for (const SlopeBand& slope : inputs.slopes)
    table->slopes_.push_back(
        {static_cast<float>(slope.from), slope.above ? resolve(*slope.above, inputs) : -kEndless,
            slope.below ? resolve(*slope.below, inputs) : kEndless,
            indexOf(inputs.materials, slope.material)});
  return table;
}

float BandTable::endAt(int band, Cell cell) const {
  const SoftEdge& edge = edges_[static_cast<size_t>(band)];
  const float end = ends_[static_cast<size_t>(band)];
  switch (edge.kind) {
    case Edge::Kind::Hard:
      return end;
    case Edge::Kind::Dithered: {
      const float r = shareOf(nodeHash(axisHash(edge.seedX, cell.x), axisHash(edge.seedZ, cell.z)));
      return end + ((edge.squared ? std::sqrt(r) : r) - 0.5f) * edge.width;
    }
    case Edge::Kind::Noisy: {
      const Pos place[3] = {{cell.x, 0}, {}, {cell.z, 0}};
      return end + noiseAt(edge.noise, place) * 0.5f * edge.width;
    }
  }
  return end;
}

int BandTable::bandAt(Cell cell, float height) const {
  for (size_t b = 0; b < ends_.size(); ++b) {
    // Far from a soft edge its shift decides nothing.
    const bool near = edges_[b].kind != Edge::Kind::Hard &&
                      std::abs(height - ends_[b]) <= 0.501f * edges_[b].width;
    if (height < (near ? endAt(static_cast<int>(b), cell) : ends_[b])) return static_cast<int>(b);
  }
  return static_cast<int>(ends_.size());
}

BandTable::Decision BandTable::decide(Cell cell, float height, float slope) const {
  Decision decision;
  if (!empty_) decision.band = bandAt(cell, height);
  decision.material = materials_[static_cast<size_t>(std::max(0, decision.band))];
  for (size_t s = 0; s < slopes_.size(); ++s) {
    const Slope& rule = slopes_[s];
    if (!(slope >= rule.from && height >= rule.above && height < rule.below)) continue;
    decision.slope = static_cast<int>(s);
    decision.material = rule.material;
    break;
  }
  return decision;
}

void BandTable::evaluate(const Kernels& kernels, Cell first, int64_t step, int32_t count,
    const float* heights, const float* slopes, MaterialIndex* materials) const {
  kernels.bands(heights, count, ends_.data(), static_cast<int>(ends_.size()), materials);
  if (!soft_.empty()) {
    for (int32_t i = 0; i < count; ++i) {
      const bool near = std::any_of(soft_.begin(), soft_.end(), [&](int b) {
        const auto k = static_cast<size_t>(b);
        return std::abs(heights[i] - ends_[k]) <= 0.501f * edges_[k].width;
      });
      if (near)
        materials[i] =
            static_cast<MaterialIndex>(bandAt({first.x + i * step, first.z}, heights[i]));
    }
  }
  for (int32_t i = 0; i < count; ++i) materials[i] = materials_[materials[i]];
  for (int32_t i = 0; i < count && slopes; ++i) {
    for (const Slope& rule : slopes_) {
      if (!(slopes[i] >= rule.from && heights[i] >= rule.above && heights[i] < rule.below))
        continue;
      materials[i] = rule.material;
      break;
    }
  }
}

}  // namespace acre
