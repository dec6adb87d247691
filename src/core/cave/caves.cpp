#include "cave/caves.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <cstring>

#include "recipe/cave_recipe.h"
#include "strata/material_index.h"

namespace acre {
namespace {

constexpr float kEndless = std::numeric_limits<float>::infinity();

}  // namespace

Result<std::shared_ptr<const CaveStage>> CaveStage::compile(
    const CaveInputs& inputs, const Kernels& kernels, StagePool* pool) {
  auto stage = std::make_shared<CaveStage>();
  const Caves& caves = inputs.caves;
  stage->kernels_ = &kernels;
  stage->land_ = inputs.land;
  stage->seaLevel_ = inputs.seaLevel;
  stage->keep_ = static_cast<float>(caves.seaCover) + inputs.overhang;
  stage->sea_ = inputs.water != kOpen;
  stage->water_ = inputs.water;
  stage->rivers_ = inputs.rivers;
  stage->fresh_ = inputs.fresh;
  stage->opening_ = indexOf(inputs.materials, caves.opening);
  for (size_t i = 0; i < caves.tunnels.size(); ++i) {
    const Tunnels& tunnels = caves.tunnels[i];
    if (!tunnels.on) continue;
    TunnelInputs in{tunnels, inputs.land, inputs.vertical, inputs.plane, inputs.columns,
        stage->sea_ || inputs.columns, inputs.seaLevel, static_cast<float>(caves.seaCover),
        inputs.overhang, inputs.seed};
    const auto make = [&] {
      return TunnelStage::compile(in, kernels, inputs.memo, fmt::format("/caves/tunnels/{}", i));
    };
    const auto made =
        pool ? pooled<TunnelStage>(*pool, TunnelStage::keyOf(in, inputs.landKey), make) : make();
    if (!made) return made.error();
    stage->parts_.push_back({Part::Tunnel, static_cast<int>(i), tunnels.id});
    stage->tunnels_.push_back({static_cast<int>(i), *made,
        tunnels.water.empty() ? kOpen : indexOf(inputs.materials, tunnels.water)});
  }
  for (size_t i = 0; i < caves.voids.size() && !inputs.columns; ++i) {
    const NoiseVoid& part = caves.voids[i];
    if (!part.on) continue;
    auto plan = VoidPlan::compile(part, inputs.seed, fmt::format("/caves/voids/{}", i));
    if (!plan) return plan.error();
    const bool toSurface =
        part.curve.empty() || part.curve.front().y > 0 || part.curve.front().x < 1;
    stage->parts_.push_back({Part::Void, static_cast<int>(i), part.id});
    stage->voids_.push_back({static_cast<int>(i), std::move(*plan), toSurface});
  }
  for (size_t i = 0; i < caves.automata.size() && !inputs.columns; ++i) {
    const AutomatonLayer& layer = caves.automata[i];
    if (!layer.on) continue;
    auto tiles = AutomatonTiles::compile(
        layer, inputs.seed, inputs.memo, fmt::format("/caves/automata/{}", i));
    if (!tiles) return tiles.error();
    stage->parts_.push_back({Part::Automaton, static_cast<int>(i), layer.id});
    stage->automata_.push_back({static_cast<int>(i), std::move(*tiles), layer.cover < 1});
  }
  const auto number = [](const std::optional<double>& value, float none) {
    return value ? static_cast<float>(*value) : none;
  };
  for (const CaveKind& kind : caves.kinds) {
    stage->kinds_.push_back({number(kind.from, -kEndless), number(kind.to, kEndless),
        number(kind.wetFrom, -kEndless), number(kind.wetTo, kEndless),
        indexOf(inputs.materials, kind.floor), indexOf(inputs.materials, kind.wall)});
    stage->lines_ = stage->lines_ || !kind.floor.empty() || !kind.wall.empty();
    if (kind.wetFrom || kind.wetTo) stage->moisture_ = inputs.moisture;
  }
  return std::shared_ptr<const CaveStage>(std::move(stage));
}

int CaveStage::kindAt(float depth, float moisture) const {
  for (size_t k = 0; k < kinds_.size(); ++k) {
    const Kind& kind = kinds_[k];
    if (depth >= kind.from && depth < kind.to && moisture >= kind.wetFrom && moisture < kind.wetTo)
      return static_cast<int>(k);
  }
  return -1;
}

MaterialIndex CaveStage::lining(int kind, bool floor, MaterialIndex ground) const {
  if (kind < 0) return ground;
  const Kind& k = kinds_[static_cast<size_t>(kind)];
  const MaterialIndex lined = floor ? k.floor : k.wall;
  return lined == kUnassigned ? ground : lined;
}

// ---- blocks ------------------------------------------------------------------------------------

bool CaveStage::markBlock(const Kernels& kernels, const Columns& columns, const SampleBlock& block,
    uint16_t* held, const std::stop_token& stop) const {
  const size_t count = static_cast<size_t>(block.width) * static_cast<size_t>(block.length);
  const size_t cells = count * static_cast<size_t>(block.height);
  std::fill_n(held, cells, uint16_t{0});
  // Heights of the block's columns, and how near caves may come to the sea and to fresh water.
  const bool fresh = !columns.helds.empty(), guarded = sea_ || fresh;
  std::vector<float> heights(count), tops(guarded ? count : 0), below(tops.size());
  const int64_t wide = columns.fineWidth();
  const float* at = columns.heights.data() + (block.z - columns.z + kApron) * wide +
                    (block.x - columns.x + kApron);
  for (int64_t k = 0; k < block.length; ++k) {
    const float* row = at + k * block.step * wide;
    for (int64_t i = 0; i < block.width; ++i) {
      const float* h = row + i * block.step;
      const auto n = static_cast<size_t>(k * block.width + i);
      heights[n] = *h;
      if (!guarded) continue;
      tops[n] = std::min({*h, h[-1], h[1], h[-wide], h[wide]}) - keep_;
      below[n] = sea_ ? seaLevel_ : -kEndless;
      if (fresh)
        below[n] = std::max(below[n],
            static_cast<float>(columns.helds[static_cast<size_t>(h - columns.heights.data())]));
    }
  }
  SeaGuard guard;
  if (guarded) guard = {tops.data(), below.data(), *std::max_element(below.begin(), below.end())};
  uint16_t mark = 0;
  std::vector<uint8_t> flooded;
  for (const TunnelPart& part : tunnels_) {
    ++mark;
    flooded.assign(cells, 0);
    if (!part.stage->mark(kernels, block, guard, mark, held, flooded.data(), stop)) return false;
    if (!part.stage->wet()) continue;
    for (size_t n = 0; n < cells; ++n)
      if (flooded[n]) held[n] = static_cast<uint16_t>(held[n] | kFlooded);
  }
  for (const VoidPart& part : voids_) {
    if (stop.stop_requested()) return false;
    part.plan.mark(kernels, block, heights.data(), guard, ++mark, held);
  }
  for (const AutomatonPart& part : automata_)
    if (!part.tiles->mark(block, heights.data(), guard, ++mark, held, stop)) return false;
  return true;
}

bool CaveStage::heldIn(const Kernels& kernels, const Columns& columns, const BlockLevels& levels,
    uint16_t* held, const std::stop_token& stop) const {
  return markBlock(kernels, columns,
      {columns.x, levels.first, columns.z, columns.step, columns.width, levels.count,
          columns.length},
      held, stop);
}

bool CaveStage::carve(const Kernels& kernels, const Columns& columns, const BlockLevels& levels,
    MaterialIndex* cells, const std::stop_token& stop) const {
  const ptrdiff_t width = columns.width, length = columns.length, height = levels.count;
  const ptrdiff_t slab = width * length;
  const auto count = static_cast<size_t>(slab * height);
  const auto holds = [&](uint16_t mark) {
    if (!(mark & kFlooded)) return kOpen;
    return tunnels_[static_cast<size_t>(mark & ~kFlooded) - 1].water;
  };
  const auto line = [&](ptrdiff_t i, ptrdiff_t k, ptrdiff_t j, bool floor, MaterialIndex& cell) {
    const float d = columns.height(i, k) - static_cast<float>(levels.first + j * levels.step + 1);
    const float wet =
        columns.moistures.empty() ? 0.0f : columns.moistures[static_cast<size_t>(k * width + i)];
    cell = lining(kindAt(d, wet), floor, cell);
  };
  if (levels.step == 1) {
    // A cell more on every side, for what shares a side with a cave.
    const int32_t more = lines_ ? 1 : 0;
    const SampleBlock block{columns.x - more, levels.first - more, columns.z - more, 1,
        columns.width + 2 * more, levels.count + 2 * more, columns.length + 2 * more};
    const ptrdiff_t wide = block.width, all = wide * block.length;
    std::vector<uint16_t> held(static_cast<size_t>(all * block.height) + 4);  // Read by fours.
    if (!markBlock(kernels, columns, block, held.data(), stop)) return false;
    // Most cells are far from any cave: four at a time are looked at with all that touches them.
    const auto four = [](const uint16_t* at) {
      uint64_t cellsThere;
      std::memcpy(&cellsThere, at, sizeof cellsThere);
      return cellsThere;
    };
    for (ptrdiff_t j = 0; j < height; ++j)
      for (ptrdiff_t k = 0; k < length; ++k) {
        const uint16_t* row = held.data() + ((j + more) * all + (k + more) * wide + more);
        MaterialIndex* to = cells + j * slab + k * width;
        for (ptrdiff_t first = 0; first < width; first += 4) {
          const uint16_t* at = row + first;
          uint64_t any = four(at);
          if (lines_)
            any |= four(at - 1) | four(at + 1) | four(at - wide) | four(at + wide) |
                   four(at - all) | four(at + all);
          if (any == 0) continue;
          for (ptrdiff_t i = first; i < std::min(first + 4, width); ++i) {
            if (row[i] != 0) {
              if (isGround(to[i])) to[i] = holds(row[i]);
              continue;
            }
            if (!lines_) continue;
            const bool floor = row[i + all] != 0;
            const bool wall =
                (row[i - 1] | row[i + 1] | row[i - wide] | row[i + wide] | row[i - all]) != 0;
            if ((floor || wall) && isGround(to[i])) line(i, k, j, floor, to[i]);
          }
        }
      }
    return true;
  }
  std::vector<uint16_t> held(count), beside;
  if (!heldIn(kernels, columns, levels, held.data(), stop)) return false;
  std::vector<uint8_t> touched;  // 1: a wall, 2: a floor.
  if (lines_) {
    touched.resize(count);
    beside.resize(count);
    constexpr int64_t kAway[6][3] = {
        {0, 1, 0}, {-1, 0, 0}, {1, 0, 0}, {0, 0, -1}, {0, 0, 1}, {0, -1, 0}};
    for (const auto& [dx, dy, dz] : kAway) {
      const SampleBlock block{columns.x + dx, levels.first + dy, columns.z + dz, columns.step,
          columns.width, levels.count, columns.length};
      if (!markBlock(kernels, columns, block, beside.data(), stop)) return false;
      const uint8_t what = dy > 0 ? 2 : 1;
      for (size_t n = 0; n < count; ++n)
        if (beside[n] != 0 && touched[n] == 0) touched[n] = what;
    }
  }
  for (ptrdiff_t j = 0; j < height; ++j)
    for (ptrdiff_t k = 0; k < length; ++k)
      for (ptrdiff_t i = 0; i < width; ++i) {
        const auto n = static_cast<size_t>(j * slab + k * width + i);
        if (held[n] != 0) {
          if (isGround(cells[n])) cells[n] = holds(held[n]);
        } else if (lines_ && touched[n] != 0 && isGround(cells[n])) {
          line(i, k, j, touched[n] == 2, cells[n]);
        }
      }
  return true;
}

// ---- single cells ------------------------------------------------------------------------------

bool CaveStage::keptOff(Cell cell, int64_t y, float height) const {
  const bool atSea = sea_ && static_cast<float>(y) < seaLevel_;
  if (!atSea && !(rivers_ && y < land_->at(cell).water.held)) return false;
  float lowest = height;
  for (const Cell beside :
      {Cell{cell.x - 1, cell.z}, {cell.x + 1, cell.z}, {cell.x, cell.z - 1}, {cell.x, cell.z + 1}})
    lowest = std::min(lowest, land_->heightAt(beside));
  return static_cast<float>(y + 1) > lowest - keep_;
}

auto CaveStage::heldAt(Cell cell, int64_t y) const -> At {
  At out;
  const float height = land_->heightAt(cell);
  out.depth = height - static_cast<float>(y + 1);
  // Asked only of cells that would be held.
  const auto keptOff = [&] { return this->keptOff(cell, y, height); };
  for (const TunnelPart& part : tunnels_) {
    TunnelStage::At found = part.stage->at(cell, y);
    if (!found.system) continue;
    if (keptOff()) {
      out.keptOff = true;
      continue;
    }
    out.part = Part::Tunnel;
    out.index = part.index;
    out.holds = found.flooded && part.stage->wet() ? part.water : kOpen;
    out.tunnel = std::move(found);
    return out;
  }
  for (const VoidPart& part : voids_) {
    const VoidPlan::At found = part.plan.at(cell, y, height);
    if (!found.open) continue;
    if (!part.plan.underSea() && keptOff()) {
      out.keptOff = true;
      continue;
    }
    out.part = Part::Void;
    out.index = part.index;
    out.noise = found;
    return out;
  }
  for (const AutomatonPart& part : automata_) {
    const AutomatonTiles::At found = part.tiles->at(cell, y, height);
    if (!found.open) continue;
    if (keptOff()) {
      out.keptOff = true;
      continue;
    }
    out.part = Part::Automaton;
    out.index = part.index;
    out.automaton = found;
    return out;
  }
  return out;
}

auto CaveStage::at(Cell cell, int64_t y, MaterialIndex ground) const -> At {
  At out = heldAt(cell, y);
  if (out.part != Part::None || !lines_ || !isGround(ground)) return out;
  const auto held = [&](int64_t dx, int64_t dy, int64_t dz) {
    return heldAt({cell.x + dx, cell.z + dz}, y + dy).part != Part::None;
  };
  out.floor = held(0, 1, 0);
  out.wall = !out.floor &&
             (held(-1, 0, 0) || held(1, 0, 0) || held(0, 0, -1) || held(0, 0, 1) || held(0, -1, 0));
  if (!out.floor && !out.wall) return out;
  if (moisture_) out.moisture = moisture_->at({cell.x, 0}, {cell.z, 0});
  out.kind = kindAt(out.depth, out.moisture);
  return out;
}

MaterialIndex CaveStage::materialOf(const At& at, MaterialIndex ground) const {
  if (!isGround(ground)) return ground;
  if (at.part != Part::None) return at.holds;
  return at.floor || at.wall ? lining(at.kind, at.floor, ground) : ground;
}

BitGrid CaveStage::cellsOf(const TunnelPart& part, const TunnelSystem& system) const {
  BitGrid cells = part.stage->cellsOf(system);
  const bool atSea = sea_ && static_cast<float>(system.low[1]) < seaLevel_;
  if (!atSea && !rivers_) return cells;
  const int32_t wide = cells.width() + 2, deep = cells.length() + 2;
  std::vector<Cell> places;
  for (int32_t k = 0; k < deep; ++k)
    for (int32_t i = 0; i < wide; ++i)
      places.push_back({system.low[0] + i - 1, system.low[2] + k - 1});
  std::vector<float> heights(places.size());
  std::vector<WaterAt> waters(rivers_ ? places.size() : 0);
  land_->scattered(static_cast<int>(places.size()), places.data(), heights.data(), nullptr,
      Accuracy::Exact, rivers_ ? waters.data() : nullptr);
  for (int32_t k = 0; k < cells.length(); ++k)
    for (int32_t i = 0; i < cells.width(); ++i) {
      const float* h = heights.data() + (k + 1) * wide + i + 1;
      const float top = std::min({*h, h[-1], h[1], h[-wide], h[wide]}) - keep_;
      float below = sea_ ? seaLevel_ : -kEndless;
      if (rivers_)
        below = std::max(
            below, static_cast<float>(waters[static_cast<size_t>(h - heights.data())].held));
      for (int32_t j = 0; j < cells.levels(); ++j) {
        const int64_t y = system.low[1] + j;
        if (static_cast<float>(y) < below && static_cast<float>(y + 1) > top)
          cells.set(i, k, j, false);
      }
    }
  return cells;
}

void CaveStage::openTops(int count, const Cell* cells, const float* heights, uint8_t* open) const {
  for (int i = 0; i < count; ++i) {
    const Cell cell = cells[i];
    const float height = heights[i];
    const auto top = static_cast<int64_t>(std::floor(height)) - 1;
    bool held = false, sealed = false;
    const auto opens = [&](bool here, bool underSea) {
      if (!here) return;
      sealed = sealed || (!underSea && keptOff(cell, top, height));
      held = held || underSea || !sealed;
    };
    for (const TunnelPart& part : tunnels_) opens(part.stage->shaftAt(cell, top), false);
    for (const VoidPart& part : voids_)
      if (part.toSurface && !held)
        opens(part.plan.at(cell, top, height).open, part.plan.underSea());
    for (const AutomatonPart& part : automata_)
      if (part.toSurface && !held) opens(part.tiles->at(cell, top, height).open, false);
    open[i] = held;
  }
}

float CaveStage::mouthFrom(Cell cell) const {
  float nearest = kMouthReach;
  for (const TunnelPart& part : tunnels_) nearest = part.stage->mouthFrom(cell, nearest);
  return nearest;
}

bool CaveStage::markOpenings(const SampleGrid& grid, MaterialIndex* materials, ptrdiff_t stride,
    const std::stop_token& stop) const {
  if (opening_ == kUnassigned) return true;
  for (const TunnelPart& part : tunnels_)
    if (!part.stage->markOpenings(grid, opening_, materials, stride, stop)) return false;
  return true;
}

bool CaveStage::openingAt(Cell cell) const {
  if (opening_ == kUnassigned) return false;
  for (const TunnelPart& part : tunnels_) {
    std::vector<TunnelStage::Handle> systems;
    part.stage->systemsNear({cell.x, cell.z, 1, 1}, systems);
    for (const auto& system : systems)
      if (part.stage->openingAt(cell, *system)) return true;
  }
  return false;
}

}  // namespace acre
