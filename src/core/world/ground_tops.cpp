// Tops of columns here and there, and places in their caves: whatever stands there asks for them.
#include <algorithm>
#include <cmath>
#include <numeric>

#include "base/fp_state.h"
#include "cave/caves.h"
#include "field/field.h"
#include "strata/blocks.h"
#include "world/column_sampler.h"
#include "world/ground_sampler.h"

namespace acre {

static_assert(GroundPatch::kAround == CaveStage::kApron);

GroundPatch GroundSampler::patch(const Rect& cells, std::vector<float>* slopes) const {
  GroundPatch out;
  out.all = grown(cells, GroundPatch::kAround);
  const auto count = static_cast<size_t>(out.all.width * out.all.length);
  out.heights.resize(count);
  out.shores.resize(count);
  out.biomes.resize(count);
  out.surface.resize(count);
  out.waters.resize(count);
  out.levels.resize(count);
  out.helds.resize(count);
  Land land;
  land.heights = out.heights.data();
  land.shores = out.shores.data();
  land.biomes = out.biomes.data();
  land.materials = out.surface.data();
  land.waters = out.waters.data();
  land.levels = out.levels.data();
  land.helds = out.helds.data();
  if (slopes) slopes->resize(count);
  land.slopes = slopes ? slopes->data() : nullptr;
  land.generated = land.ground = true;
  // Within the limits, and nobody stops it: it is little.
  std::ignore = columns_.sample({out.all.x, out.all.z, 1, static_cast<int32_t>(out.all.width),
                                    static_cast<int32_t>(out.all.length)},
      land);
  for (size_t n = 0; n < count; ++n)
    if (!isFresh(out.waters[n])) out.levels[n] = kNoWater;
  return out;
}

std::vector<GroundTop> GroundSampler::tops(
    const GroundPatch& land, std::span<const Cell> cells) const {
  constexpr float kSpread = 12;
  constexpr size_t kTogether = 64;
  const FpState fp;
  std::vector<GroundTop> out(cells.size());
  std::vector<size_t> order(cells.size());
  std::iota(order.begin(), order.end(), size_t{0});
  const auto height = [&](size_t n) { return land.heights[land.at(cells[n])]; };
  std::sort(order.begin(), order.end(), [&](size_t a, size_t b) { return height(a) < height(b); });
  for (size_t first = 0, end = 0; first < order.size(); first = end) {
    while (end < order.size() && end - first < kTogether &&
           height(order[end]) - height(order[first]) <= kSpread)
      ++end;
    topsOf(land, cells, std::span(order).subspan(first, end - first), out);
  }
  return out;
}

CaveColumns GroundSampler::caveColumns(const GroundPatch& land, Cell cell) const {
  constexpr int64_t kAround = GroundPatch::kAround;
  CaveColumns out;
  out.x = cell.x;
  out.z = cell.z;
  out.width = out.length = 1;
  for (int64_t dz = -kAround; dz <= kAround; ++dz)
    for (int64_t dx = -kAround; dx <= kAround; ++dx) {
      const size_t at = land.at({cell.x + dx, cell.z + dz});
      out.heights.push_back(land.heights[at]);
      if (plan_.water()) out.helds.push_back(land.helds[at]);
    }
  if (caves_->asksMoisture()) {
    out.moistures.resize(1);
    caves_->moisture()->evaluate(
        plan_.kernels(), {cell.x, cell.z, 1, 1, 1}, out.moistures.data(), 1);
  }
  return out;
}

std::optional<GroundTop> GroundSampler::inCaves(
    const GroundPatch& land, Cell cell, const CaveStand& asked) const {
  if (!digs(1)) return {};
  const FpState fp;
  const AxisBounds range = plan_.vertical();
  const float height = land.heights[land.at(cell)];
  const int64_t top = std::min(range.min + range.extent, static_cast<int64_t>(std::floor(height)));
  if (top <= range.min) return {};
  const CaveColumns columns = caveColumns(land, cell);
  const BlockLevels levels{range.min, static_cast<int32_t>(top - range.min), 1};
  std::vector<uint16_t> held(static_cast<size_t>(levels.count));
  caves_->heldIn(plan_.kernels(), columns, levels, held.data(), {});
  const float moisture = columns.moistures.empty() ? 0.0f : columns.moistures[0];
  const int64_t away = asked.ceiling ? 1 : -1;
  std::vector<int64_t> fits;
  for (int64_t y = top - 1; y >= range.min; --y) {
    const uint16_t here = held[static_cast<size_t>(y - range.min)];
    const int64_t beside = y + away;
    if (here == 0 || (!asked.wet && (here & CaveStage::kFlooded) != 0) || beside >= top ||
        beside < range.min || held[static_cast<size_t>(beside - range.min)] != 0)
      continue;
    if (!asked.kinds.empty()) {
      const int kind = caves_->kindAt(height - static_cast<float>(beside + 1), moisture);
      if (std::find(asked.kinds.begin(), asked.kinds.end(), kind) == asked.kinds.end()) continue;
    }
    fits.push_back(y);
  }
  if (fits.empty()) return {};
  GroundTop out;
  out.y = fits[asked.draw % fits.size()];
  // Overhangs and the sea may have it otherwise.
  MaterialIndex blocks[2];
  const int64_t first = std::min(out.y, out.y + away);
  if (!fill(1, &cell, {first, 2, 1}, blocks)) return {};
  const MaterialIndex there = blocks[out.y - first];
  out.material = blocks[out.y + away - first];
  out.wet = there != kOpen;
  if (out.wet && !(asked.wet && stage_.isLiquid(there))) return {};
  if (out.material == kOpen || stage_.isLiquid(out.material)) return {};
  return out;
}

int64_t GroundSampler::wallFrom(Cell cell, int64_t y) const {
  const bool plane = plan_.layout().vertical().plane;
  constexpr int32_t kWide = 2 * kCaveWalls + 1;
  const int32_t length = plane ? 1 : kWide;
  const int64_t north = plane ? 0 : kCaveWalls;
  std::vector<MaterialIndex> blocks(static_cast<size_t>(kWide * length));
  int64_t out = kCaveWalls;
  if (!fill({cell.x - kCaveWalls, y, cell.z - north, 1, kWide, 1, length}, blocks.data()))
    return out;
  for (size_t n = 0; n < blocks.size(); ++n) {
    if (blocks[n] == kOpen || stage_.isLiquid(blocks[n])) continue;
    const int64_t x = static_cast<int64_t>(n) % kWide - kCaveWalls;
    const int64_t z = static_cast<int64_t>(n) / kWide - north;
    out = std::min(out, std::max(std::abs(x), std::abs(z)));
  }
  return out;
}

void GroundSampler::topsOf(const GroundPatch& land, std::span<const Cell> cells,
    std::span<const size_t> which, std::span<GroundTop> out) const {
  const size_t count = which.size();
  std::vector<int64_t> x(count), z(count);
  std::vector<float> heights(count), shores(count);
  std::vector<MaterialIndex> surface(count);
  std::vector<BiomeIndex> biomes(count);
  std::vector<int32_t> levels(count), helds(count);
  for (size_t i = 0; i < count; ++i) {
    const Cell cell = cells[which[i]];
    const size_t at = land.at(cell);
    x[i] = cell.x;
    z[i] = cell.z;
    heights[i] = land.heights[at];
    shores[i] = land.shores[at];
    surface[i] = land.surface[at];
    biomes[i] = land.biomes[at];
    levels[i] = land.levels[at];
    helds[i] = land.helds[at];
  }
  BlockColumns columns{static_cast<int>(count), x.data(), z.data(), 0, 1, heights.data(),
      surface.data(), plan_.biomes() ? biomes.data() : nullptr};
  if (plan_.water()) {
    columns.levels = levels.data();
    columns.helds = helds.data();
    columns.shores = shores.data();
  }
  const auto numbers = stage_.prepare(plan_.kernels(), columns);
  const AxisBounds range = plan_.vertical();
  // From the top down: first to a little below the surfaces, then a few levels at a time.
  constexpr int64_t kLevels = 16, kBelow = 3, kMost = 64;
  const bool dug = digs(1);
  const OreStage* ores = stage_.ores();
  std::vector<MaterialIndex> blocks, column;
  size_t left = count;
  int64_t top = std::min(range.min + range.extent, stage_.openFrom(*numbers));
  int64_t first = std::max(
      top - kMost, std::min(top - 1, static_cast<int64_t>(std::floor(heights[0])) - kBelow));
  for (; top > range.min && left > 0; top = first, first = top - kLevels) {
    first = std::max(first, range.min);
    blocks.resize(static_cast<size_t>(top - first) * count);
    stage_.fillBarren(plan_.kernels(), columns, {first, static_cast<int32_t>(top - first), 1},
        blocks.data(), *numbers);
    for (size_t i = 0; i < count; ++i) {
      GroundTop& found = out[which[i]];
      if (found.y != GroundTop::kNone) continue;
      const auto block = [&](int64_t y) -> MaterialIndex& {
        return blocks[static_cast<size_t>(y - first) * count + i];
      };
      int64_t made = top;  // From there up ores are placed and caves dug: the more, the deeper.
      int64_t more = 0;
      for (int64_t y = top - 1; y >= first; --y) {
        if (y < made && block(y) != kOpen) {
          made = std::max(first, y - more);
          more = std::min(4 * more + kBelow, kLevels);
          column.clear();
          for (int64_t n = made; n <= y; ++n)
            column.push_back(ores ? ores->at(x[i], n, z[i], block(n)).material : block(n));
          if (dug)
            caves_->carve(plan_.kernels(), caveColumns(land, {x[i], z[i]}),
                {made, static_cast<int32_t>(y - made + 1), 1}, column.data(), {});
          for (int64_t n = made; n <= y; ++n) block(n) = column[static_cast<size_t>(n - made)];
        }
        const MaterialIndex there = block(y);
        if (there == kOpen) continue;
        if (stage_.isLiquid(there)) {
          found.wet = true;
          continue;
        }
        found.y = y + 1;
        found.material = there;
        --left;
        break;
      }
    }
  }
}

}  // namespace acre
