#include "strata/blocks.h"

#include <algorithm>
#include <cmath>
#include <limits>
#include <tuple>

#include "field/compiler.h"
#include "strata/material_index.h"

namespace acre {
namespace {

constexpr uint64_t kOverhangStage = 0x4F76657268616E67;  // "Overhang"
constexpr float kEndless = std::numeric_limits<float>::infinity();

/// Calls visit(first, count) for runs that Kernels::points takes at once.
template <class Visit>
void inParts(int count, Visit&& visit) {
  for (int first = 0; first < count; first += Kernels::kMostPoints)
    visit(first, std::min(Kernels::kMostPoints, count - first));
}

}  // namespace

/// What is known of each column before its blocks are looked at.
struct BlockStage::Numbers {
  std::vector<float> amount;      // Of the overhang, its mask applied; empty without.
  float most = 0;                 // Of the amounts.
  std::vector<float> lift;        // Altitude of the first bed's upper side.
  std::vector<uint16_t> ends;     // Depth at which layer k ends: ends[k * count + i].
  std::vector<uint16_t> all;      // Depth at which the last one ends.
  std::vector<uint16_t> set;      // Which layers.
  float lowest = 0, highest = 0;  // Heights.
  float lowLift = 0, highLift = 0;
  bool oneSet = true;
};

Result<std::shared_ptr<const BlockStage>> BlockStage::compile(const BlockInputs& inputs) {
  auto stage = std::make_shared<BlockStage>();
  const Overhang& overhang = inputs.overhang;
  stage->overhang_ = overhang.on && overhang.amount > 0;
  if (stage->overhang_) {
    stage->reach_ = static_cast<float>(overhang.reach);
    stage->amount_ = static_cast<float>(overhang.amount);
    auto plan = compileNoise(
        overhang.noise, {}, combine(inputs.seed, kOverhangStage), 3, "/heights/overhang/noise");
    if (!plan) return plan.error();
    stage->noise_ = std::move(*plan);
    // A ridged or billowed octave stays within twice the reach of a plain one, and one.
    double bound = 0, weight = 1;
    const double octave =
        octaveReach(overhang.noise, 3) *
            (overhang.noise.fractal == Fractal::Single || overhang.noise.fractal == Fractal::Fbm
                    ? 1
                    : 2) +
        (overhang.noise.fractal == Fractal::Single || overhang.noise.fractal == Fractal::Fbm ? 0
                                                                                             : 1);
    for (int k = 0; k < overhang.noise.usedOctaves(); ++k, weight *= overhang.noise.gain)
      bound += weight * octave;
    stage->noiseBound_ = static_cast<float>(bound * 1.001);
    if (overhang.mask)
      stage->mask_ = FieldStep::Mask{inputs.overhangMask,
          {overhang.mask->low ? static_cast<float>(*overhang.mask->low) : -kEndless,
              overhang.mask->high ? static_cast<float>(*overhang.mask->high) : kEndless,
              static_cast<float>(overhang.mask->soft)}};
  }
  stage->water_ = inputs.water.empty() ? kOpen : indexOf(inputs.materials, inputs.water);
  stage->fresh_ = inputs.fresh == kUnassigned ? stage->water_ : inputs.fresh;
  stage->sea_ = static_cast<float>(inputs.sea);
  stage->setOfBiome_ = inputs.setOfBiome;
  stage->columnsOnly_ = inputs.columnsOnly;
  stage->liquid_.push_back(false);
  for (const Material& m : inputs.materials)
    stage->liquid_.push_back(m.state == MaterialState::Liquid);
  if (!inputs.strataOn || inputs.columnsOnly) {
    stage->sets_.resize(1);
    stage->setOfBiome_.clear();
    stage->beds_ = {kUnassigned};
    return std::shared_ptr<const BlockStage>(std::move(stage));
  }
  for (const LayerSet& from : inputs.sets) {
    std::vector<Layer>& set = stage->sets_.emplace_back();
    for (size_t k = 0; k < from.layers.size(); ++k) {
      const DepthLayer& layer = from.layers[k];
      const bool surface = layer.material == kSurfaceId;
      set.push_back({surface ? kUnassigned : indexOf(inputs.materials, layer.material), surface,
          static_cast<float>(layer.thickness), static_cast<float>(layer.vary), from.fields[k]});
    }
    stage->deepest_ = std::max(stage->deepest_, from.deepest);
  }
  stage->top_ = static_cast<float>(inputs.rock.top);
  stage->lift_ = static_cast<float>(inputs.rock.lift);
  stage->bend_ = inputs.bend;
  double end = 0;
  for (const Bed& bed : inputs.rock.beds) {
    stage->beds_.push_back(indexOf(inputs.materials, bed.material));
    end += bed.thickness;
    if (stage->beds_.size() < inputs.rock.beds.size())
      stage->bedEnds_.push_back(static_cast<float>(end));
  }
  stage->bare_ = stage->beds_.empty();
  if (stage->bare_) stage->beds_ = {kUnassigned};
  stage->ores_ = inputs.ores;
  return std::shared_ptr<const BlockStage>(std::move(stage));
}

int64_t BlockStage::openFrom(float highest) const {
  return static_cast<int64_t>(std::floor(highest + (overhang_ ? reach_ : 0.0f))) + 1;
}

/// Beyond r where amount * bound * (1 - r/reach) = r the push is too weak.
float BlockStage::nearOf(const Numbers& n) const {
  if (!(n.most > 0.0f)) return 0.0f;
  const float strongest = n.most * noiseBound_;
  return strongest * reach_ / (strongest + reach_) + 0.5f;
}

int64_t BlockStage::openFrom(const Numbers& n) const {
  return static_cast<int64_t>(std::floor(n.highest + nearOf(n))) + 1;
}

int64_t BlockStage::solidBelow(float lowest) const {
  return static_cast<int64_t>(std::floor(lowest - (overhang_ ? reach_ : 0.0f))) - 1;
}

/// The bed of a block whose middle lies so far below the first bed's upper side.
int BlockStage::bedAt(float below) const {
  size_t bed = 0;
  while (bed < bedEnds_.size() && below >= bedEnds_[bed]) ++bed;
  return static_cast<int>(bed);
}

void BlockStage::valuesOf(
    const Field& field, const Kernels& kernels, const BlockColumns& columns, float* out) const {
  if (columns.width > 0) {
    field.evaluate(kernels,
        {columns.x[0], columns.z[0], columns.step, columns.width, columns.count / columns.width},
        out, columns.width);
    return;
  }
  const std::vector<int32_t> q(static_cast<size_t>(columns.count));
  field.points(kernels,
      {columns.count, {columns.x, nullptr, columns.z}, {q.data(), nullptr, q.data()}}, out);
}

namespace {

/// The least and the greatest, looked for in eight lanes. REQUIRES: count > 0, no NaN.
std::pair<float, float> rangeOf(const float* values, size_t count) {
  constexpr size_t kLanes = 8;
  float low[kLanes], high[kLanes];
  std::fill_n(low, kLanes, values[0]);
  std::fill_n(high, kLanes, values[0]);
  const auto look = [&](size_t lane, float v) {
    low[lane] = v < low[lane] ? v : low[lane];
    high[lane] = v > high[lane] ? v : high[lane];
  };
  size_t i = 0;
  for (; i + kLanes <= count; i += kLanes)
    for (size_t lane = 0; lane < kLanes; ++lane) look(lane, values[i + lane]);
  for (; i < count; ++i) look(0, values[i]);
  return {*std::min_element(low, low + kLanes), *std::max_element(high, high + kLanes)};
}

}  // namespace

auto BlockStage::numbersOf(
    const Kernels& kernels, const BlockColumns& columns, bool overhangs) const -> Numbers {
  const auto count = static_cast<size_t>(columns.count);
  Numbers out;
  std::tie(out.lowest, out.highest) = rangeOf(columns.heights, count);
  std::vector<float> values;
  if (overhangs) {
    out.amount.assign(count, amount_);
    if (mask_) {
      values.resize(count);
      valuesOf(*mask_->field, kernels, columns, values.data());
      kernels.mask(mask_->ends, values.data(), columns.count);
      for (size_t i = 0; i < count; ++i) out.amount[i] = amount_ * values[i];
    }
    if (columns.shores)
      for (size_t i = 0; i < count; ++i) out.amount[i] *= fadeAt(columns.shores[i]);
    out.most = rangeOf(out.amount.data(), count).second;
  }
  out.lift.assign(count, top_);
  if (bend_) {
    values.resize(count);
    valuesOf(*bend_, kernels, columns, values.data());
    for (size_t i = 0; i < count; ++i) out.lift[i] = top_ + lift_ * values[i];
  }
  std::tie(out.lowLift, out.highLift) = rangeOf(out.lift.data(), count);

  out.set.assign(count, 0);
  if (columns.biomes && !setOfBiome_.empty())
    for (size_t i = 0; i < count; ++i) {
      const BiomeIndex biome = columns.biomes[i];
      out.set[i] = biome < setOfBiome_.size() ? setOfBiome_[biome] : uint16_t{0};
      out.oneSet = out.oneSet && out.set[i] == out.set[0];
    }
  size_t layers = 0;
  for (const auto& set : sets_) layers = std::max(layers, set.size());
  out.ends.assign(layers * count, 0);
  out.all.assign(count, 0);
  for (size_t s = 0; s < sets_.size(); ++s) {
    if (std::find(out.set.begin(), out.set.end(), s) == out.set.end()) continue;
    for (size_t k = 0; k < layers; ++k) {
      uint16_t* ends = out.ends.data() + k * count;
      const Layer* layer = k < sets_[s].size() ? &sets_[s][k] : nullptr;
      if (layer && layer->field) {
        values.resize(count);
        valuesOf(*layer->field, kernels, columns, values.data());
      }
      const float thickness = layer ? layer->thickness : 0.0f, vary = layer ? layer->vary : 0.0f;
      if (layer && !layer->field) values.assign(count, 0.0f);
      if (layer)
        for (size_t i = 0; i < count; ++i) {
          const float thick = layer->field ? thickness + vary * values[i] : thickness;
          // Above 0 cutting off is rounding down.
          const int whole = thick >= 1.0f ? static_cast<int>(thick) : 0;
          out.all[i] = static_cast<uint16_t>(out.all[i] + (out.set[i] == s ? whole : 0));
        }
      for (size_t i = 0; i < count; ++i) ends[i] = out.set[i] == s ? out.all[i] : ends[i];
    }
  }
  return out;
}

namespace {

/// Counts solid blocks in a row on: one more where the block is solid, none where it is open. A run
/// ends to be counted long after anyone asks how long it is.
void countRuns(const float* heights, float end, size_t count, uint16_t* run) {
  for (size_t i = 0; i < count; ++i) {
    const auto kept = static_cast<uint16_t>(heights[i] - end >= 0.0f ? 0xFFFF : 0);
    const auto next = static_cast<uint16_t>(run[i] < 0x7FFF ? run[i] + 1 : run[i]);
    run[i] = next & kept;
  }
}

/// The same where an overhang pushes.
void countRuns(const float* heights, float end, const float* amount, const float* noise,
    float perReach, size_t count, uint16_t* run) {
  for (size_t i = 0; i < count; ++i) {
    const float d = heights[i] - end;
    const float weight = 1.0f - std::abs(d) * perReach;
    const float pushed = amount[i] * (weight > 0.0f ? weight : 0.0f) * noise[i];
    const auto kept = static_cast<uint16_t>(d + pushed >= 0.0f ? 0xFFFF : 0);
    const auto next = static_cast<uint16_t>(run[i] < 0x7FFF ? run[i] + 1 : run[i]);
    run[i] = next & kept;
  }
}

/// Whatever lies as deep as `end` below its column's uppermost bed, or deeper, is of a material.
void coverBelow(const float* lift, float middle, float end, MaterialIndex material, size_t count,
    MaterialIndex* row) {
  for (size_t i = 0; i < count; ++i) row[i] = lift[i] - middle >= end ? material : row[i];
}

/// Puts what is open into a row; true when some block is so near the surface that layers may count.
bool openRuns(const uint16_t* run, const uint16_t* layers, MaterialIndex open, size_t count,
    MaterialIndex* row) {
  uint16_t any = 0;
  for (size_t i = 0; i < count; ++i) {
    const auto solid = static_cast<uint16_t>(run[i] != 0 ? 0xFFFF : 0);
    row[i] = static_cast<MaterialIndex>((row[i] & solid) | (open & static_cast<uint16_t>(~solid)));
    any = static_cast<uint16_t>(any | (run[i] <= layers[i] ? solid : 0));
  }
  return any != 0;
}

/// The noise of overhangs, some levels at a time from above.
class SlabNoise {
 public:
  SlabNoise(
      const Kernels& kernels, const NoisePlan& plan, const BlockColumns& columns, int64_t lowest)
      : kernels_(kernels),
        plan_(plan),
        columns_(columns),
        wide_(static_cast<size_t>(columns.count)),
        lowest_(lowest) {}

  /// Of all columns at a level.
  const float* at(int64_t y) {
    if (y < from_ || y >= to_) make(y);
    return noise_.data() + (y - from_) * static_cast<int64_t>(wide_);
  }

 private:
  static constexpr int kSlabs = 16;

  void make(int64_t y) {
    to_ = y + 1;
    from_ = std::min(y, std::max(y + 1 - kSlabs, lowest_));
    const auto tall = static_cast<int32_t>(to_ - from_);
    const int count = columns_.count;
    noise_.resize(wide_ * static_cast<size_t>(tall));
    if (columns_.width > 0 && columns_.step == 1 && columns_.width <= Kernels::kTileWidth) {
      kernels_.block(plan_,
          {columns_.x[0], from_, columns_.z[0], 1, columns_.width, tall, count / columns_.width},
          noise_.data());
      return;
    }
    zeros_.resize(wide_);
    y_.resize(wide_);
    for (int32_t j = 0; j < tall; ++j) {
      std::fill(y_.begin(), y_.end(), from_ + j);
      inParts(count, [&](int first, int part) {
        kernels_.points(plan_,
            {part, {columns_.x + first, y_.data(), columns_.z + first},
                {zeros_.data(), zeros_.data(), zeros_.data()}},
            noise_.data() + static_cast<size_t>(j) * wide_ + first);
      });
    }
  }

  const Kernels& kernels_;
  const NoisePlan& plan_;
  const BlockColumns& columns_;
  size_t wide_;
  int64_t lowest_;
  int64_t from_ = 0, to_ = 0;  // Levels whose noise is there.
  std::vector<float> noise_;
  std::vector<int64_t> y_;
  std::vector<int32_t> zeros_;
};

}  // namespace

bool BlockStage::fillAll(const Kernels& kernels, const BlockColumns& columns,
    const BlockLevels& levels, bool overhangs, const Numbers& n, MaterialIndex* out,
    std::vector<bool>* rock, const std::stop_token& stop) const {
  const int count = columns.count;
  const auto wide = static_cast<size_t>(count);
  overhangs = overhangs && n.most > 0.0f;
  const float near = overhangs ? nearOf(n) : 0.0f;
  // From where on everything is open, and below what everything is solid rock.
  const int64_t openFrom = static_cast<int64_t>(std::floor(n.highest + near)) + 1;
  const int64_t rockBelow = static_cast<int64_t>(std::floor(n.lowest - near)) - 1 - deepest_;

  // Below these some column is under fresh water, and some is held.
  const auto highestOf = [&](const int32_t* of) {
    return int64_t{of ? *std::max_element(of, of + count) : kNoWater};
  };
  const int64_t topWater = fresh_ == kOpen ? kNoWater : highestOf(columns.levels);
  const int64_t topHeld = overhangs ? highestOf(columns.helds) : kNoWater;
  std::vector<float> unheld(topHeld > kNoWater ? wide : 0);

  const auto rowAt = [&](int64_t y) -> MaterialIndex* {
    if (y > levels.top() || (y - levels.first) % levels.step != 0) return nullptr;
    return out + (y - levels.first) / levels.step * count;
  };
  const auto rockRow = [&](int64_t y, MaterialIndex* row) {
    if (columnsOnly_) return std::copy_n(columns.surface, count, row), void();
    const float middle = static_cast<float>(y) + 0.5f;
    const int upper = bedAt(n.lowLift - middle), lower = bedAt(n.highLift - middle);
    std::fill_n(row, count, beds_[static_cast<size_t>(upper)]);
    for (int bed = upper; bed < lower; ++bed)
      coverBelow(n.lift.data(), middle, bedEnds_[static_cast<size_t>(bed)],
          beds_[static_cast<size_t>(bed) + 1], wide, row);
    if (rock)
      for (int bed = upper; bed <= lower; ++bed) (*rock)[beds_[static_cast<size_t>(bed)]] = true;
  };
  const auto wet = [&](int64_t y, size_t i) {
    return columnsOnly_ && liquid_[columns.surface[i]] && static_cast<float>(y) < sea_;
  };
  // run: unless null, 0 where a block is open; else all are.
  const auto flood = [&](int64_t y, const uint16_t* run, MaterialIndex* row) {
    for (size_t i = 0; i < wide && columnsOnly_; ++i)
      if (row[i] >= kOpen && wet(y, i)) row[i] = columns.surface[i];
    if (y >= topWater) return;
    for (size_t i = 0; i < wide; ++i)
      if ((!run || run[i] == 0) && y < columns.levels[i]) row[i] = fresh_;
  };

  // Open sky, where only the rows that are asked for count.
  int64_t above = levels.top();
  for (; above >= std::max(openFrom, levels.first); --above)
    if (MaterialIndex* row = rowAt(above)) {
      std::fill_n(row, count, openAt(above));
      flood(above, nullptr, row);
    }
  const int64_t lowest = std::max(levels.first, rockBelow);
  // Between sky and deep rock every level is looked at, from so far above that depths are known.
  std::vector<uint16_t> run(wide, 0);
  SlabNoise noise(kernels, noise_, columns,
      std::max(lowest, static_cast<int64_t>(std::floor(n.lowest - near)) - 1));
  const float perReach = overhangs ? 1.0f / reach_ : 0.0f;
  const int64_t scanTop = std::min(levels.top() + deepest_, openFrom - 1);
  for (int64_t y = scanTop; y >= lowest; --y) {
    if (stop.stop_requested()) return false;
    const float end = static_cast<float>(y + 1);
    const float* amount = n.amount.data();
    if (y < topHeld) {
      for (size_t i = 0; i < wide; ++i) unheld[i] = y < columns.helds[i] ? 0.0f : n.amount[i];
      amount = unheld.data();
    }
    if (overhangs && end > n.lowest - near && end < n.highest + near)
      countRuns(columns.heights, end, amount, noise.at(y), perReach, wide, run.data());
    else
      countRuns(columns.heights, end, wide, run.data());
    MaterialIndex* row = rowAt(y);
    if (!row) continue;
    rockRow(y, row);
    const bool layered = openRuns(run.data(), n.all.data(), openAt(y), wide, row);
    flood(y, run.data(), row);
    for (size_t i = 0; i < wide && layered; ++i) {
      if (run[i] == 0 || run[i] > n.all[i]) continue;
      const auto& set = sets_[n.set[i]];
      size_t k = 0;
      while (run[i] > n.ends[k * wide + i]) ++k;
      row[i] = set[k].surface ? columns.surface[i] : set[k].material;
      if (rock && row[i] < rock->size()) (*rock)[row[i]] = true;
    }
  }
  for (int64_t y = std::min(levels.top(), lowest - 1); y >= levels.first; --y)
    if (MaterialIndex* row = rowAt(y)) {
      if (stop.stop_requested()) return false;
      rockRow(y, row);
    }
  return true;
}

auto BlockStage::prepare(const Kernels& kernels, const BlockColumns& columns) const
    -> std::shared_ptr<const Numbers> {
  return std::make_shared<const Numbers>(numbersOf(kernels, columns, overhang_));
}

bool BlockStage::fill(const Kernels& kernels, const BlockColumns& columns,
    const BlockLevels& levels, MaterialIndex* out, const std::stop_token& stop,
    const Numbers* prepared) const {
  if (!prepared) return fill(kernels, columns, levels, out, stop, prepare(kernels, columns).get());
  const bool ores = ores_ && !ores_->empty() && std::max(columns.step, levels.step) <= kExactStep;
  std::vector<bool> rock(ores ? liquid_.size() : 0);
  if (!fillAll(kernels, columns, levels, overhang_, *prepared, out, ores ? &rock : nullptr, stop))
    return false;
  if (!ores) return true;
  if (columns.width > 0 && columns.step == levels.step)
    return ores_->place({columns.x[0], levels.first, columns.z[0], columns.step, columns.width,
                            levels.count, columns.count / columns.width},
        rock, out, stop);
  return ores_->place(columns.count, columns.x, columns.z, levels.first, levels.step, levels.count,
      rock, out, stop);
}

bool BlockStage::fillBarren(const Kernels& kernels, const BlockColumns& columns,
    const BlockLevels& levels, MaterialIndex* out, const Numbers& prepared) const {
  return fillAll(kernels, columns, levels, overhang_, prepared, out, nullptr, {});
}

bool BlockStage::fillPlain(const Kernels& kernels, const BlockColumns& columns,
    const BlockLevels& levels, MaterialIndex* out, const std::stop_token& stop) const {
  return fillAll(
      kernels, columns, levels, false, numbersOf(kernels, columns, false), out, nullptr, stop);
}

auto BlockStage::at(Cell cell, int64_t y, float height, MaterialIndex surface, BiomeIndex biome,
    const WaterAt& water) const -> At {
  At out;
  const Pos x{cell.x, 0}, z{cell.z, 0};
  float amount = amount_;
  if (overhang_ && mask_) {
    float weight = mask_->field->at(x, z);
    plainKernels().mask(mask_->ends, &weight, 1);
    amount = amount_ * weight;
  }
  amount *= fadeAt(water.shore);
  const float perReach = 1.0f / reach_;
  const auto look = [&](int64_t level, At& to) {
    to.distance = height - static_cast<float>(level + 1);
    to.noise = to.pushed = 0;
    if (overhang_ && level >= water.held) {
      const float weight = 1.0f - std::abs(to.distance) * perReach;
      if (weight > 0.0f) {
        const Pos place[3] = {x, {level, 0}, z};
        to.noise = acre::noiseAt(noise_, place);
        to.pushed = amount * weight * to.noise;
      }
    }
    to.density = to.distance + to.pushed;
    return to.density >= 0.0f;
  };
  out.solid = look(y, out);
  out.set = biome < setOfBiome_.size() ? setOfBiome_[biome] : 0;
  if (!out.solid) {
    out.material = openAt(y);
    if (columnsOnly_ && liquid_[surface] && static_cast<float>(y) < sea_) out.material = surface;
    out.fresh = y < water.freshLevel() && fresh_ != kOpen;
    if (out.fresh) out.material = fresh_;
    out.water = out.material != kOpen;
    return out;
  }
  At other;
  while (out.depth <= deepest_ && look(y + out.depth + 1, other)) ++out.depth;
  out.deeper = out.depth > deepest_;
  out.bedTop = bend_ ? top_ + lift_ * bend_->at(x, z) : top_;
  out.layer = layerAt(cell, out.set, out.depth);
  if (out.layer >= 0) out.material = layerMaterial(out.set, out.layer, surface);
  if (columnsOnly_) {
    out.material = surface;
  } else if (out.layer < 0) {
    out.bed = bedAt(out.bedTop - (static_cast<float>(y) + 0.5f));
    out.material = beds_[static_cast<size_t>(out.bed)];
  }
  if (ores_) {
    const OreStage::At held = ores_->at(cell.x, y, cell.z, out.material);
    out.material = held.material;
    out.ore = held.ore;
  }
  return out;
}

int BlockStage::layerAt(Cell cell, int set, int64_t depth) const {
  int64_t end = 0;
  const auto& layers = sets_[static_cast<size_t>(set)];
  for (size_t k = 0; k < layers.size(); ++k) {
    const Layer& one = layers[k];
    const float thick = one.field
                            ? one.thickness + one.vary * one.field->at({cell.x, 0}, {cell.z, 0})
                            : one.thickness;
    if (thick >= 1.0f) end += static_cast<int64_t>(std::floor(thick));
    if (depth < end) return static_cast<int>(k);
  }
  return -1;
}

auto BlockStage::atDepth(Cell cell, int32_t depth, MaterialIndex surface, BiomeIndex biome) const
    -> At {
  At out;
  out.solid = true;
  out.depth = depth - 1;
  out.set = biome < setOfBiome_.size() ? setOfBiome_[biome] : 0;
  out.bedTop = bend_ ? top_ + lift_ * bend_->at({cell.x, 0}, {cell.z, 0}) : top_;
  out.layer = layerAt(cell, out.set, out.depth);
  if (out.layer >= 0) {
    out.material = layerMaterial(out.set, out.layer, surface);
  } else if (bare_) {
    out.material = surface;
  } else {
    out.bed = bedAt(out.bedTop - (0.5f - static_cast<float>(depth)));
    out.material = beds_[static_cast<size_t>(out.bed)];
  }
  if (!ores_) return out;
  const OreStage::At held = ores_->at(cell.x, 0, cell.z, out.material);
  out.material = held.material;
  out.ore = held.ore;
  return out;
}

bool BlockStage::fillAtDepths(const Kernels& kernels, const BlockColumns& columns,
    const uint16_t* depths, MaterialIndex* out, const std::stop_token& stop) const {
  const Numbers n = numbersOf(kernels, columns, false);
  const auto wide = static_cast<size_t>(columns.count);
  for (size_t i = 0; i < wide; ++i) {
    if (depths[i] == 0) {
      out[i] = kOpen;
    } else if (depths[i] <= n.all[i]) {
      size_t k = 0;
      while (depths[i] > n.ends[k * wide + i]) ++k;
      out[i] = layerMaterial(n.set[i], static_cast<int>(k), columns.surface[i]);
    } else {
      const float below = n.lift[i] - (0.5f - static_cast<float>(depths[i]));
      out[i] = bare_ ? columns.surface[i] : beds_[static_cast<size_t>(bedAt(below))];
    }
  }
  if (stop.stop_requested()) return false;
  if (!ores_ || ores_->empty() || columns.step > kExactStep) return true;
  const std::vector<bool> rock(liquid_.size(), true);
  if (columns.width > 0)
    return ores_->place({columns.x[0], 0, columns.z[0], columns.step, columns.width, 1,
                            columns.count / columns.width},
        rock, out, stop);
  return ores_->place(columns.count, columns.x, columns.z, 0, 1, 1, rock, out, stop);
}

void BlockStage::fromAbove(
    const Kernels& kernels, const BlockColumns& columns, MaterialIndex* out) const {
  const Numbers n = numbersOf(kernels, columns, false);
  const auto wide = static_cast<size_t>(columns.count);
  for (size_t i = 0; i < wide; ++i) {
    const float top = std::floor(columns.heights[i]);
    if (columns.levels && fresh_ != kOpen && top < static_cast<float>(columns.levels[i])) {
      out[i] = fresh_;
      continue;
    }
    if (top < sea_ && water_ != kOpen) {
      out[i] = water_;
      continue;
    }
    if (n.all[i] == 0) {
      out[i] = beds_[static_cast<size_t>(bedAt(n.lift[i] - (top - 0.5f)))];
      continue;
    }
    const auto& set = sets_[n.set[i]];
    size_t k = 0;
    while (n.ends[k * wide + i] == 0) ++k;
    out[i] = set[k].surface ? columns.surface[i] : set[k].material;
  }
}

std::optional<MaterialIndex> BlockStage::uniform(
    float lowest, float highest, const BlockLevels& levels) const {
  if (levels.first >= openFrom(highest) && !columnsOnly_) {
    const MaterialIndex material = openAt(levels.first);
    if (openAt(levels.top()) == material) return material;
    return std::nullopt;
  }
  if (levels.top() >= solidBelow(lowest) - deepest_ || bend_ || columnsOnly_ ||
      (ores_ && !ores_->empty()))
    return std::nullopt;
  const int upper = bedAt(top_ - (static_cast<float>(levels.top()) + 0.5f));
  const int lower = bedAt(top_ - (static_cast<float>(levels.first) + 0.5f));
  if (upper != lower) return std::nullopt;
  return beds_[static_cast<size_t>(upper)];
}

}  // namespace acre
