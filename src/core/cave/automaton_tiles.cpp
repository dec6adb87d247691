#include "cave/automaton_tiles.h"

#include <algorithm>
#include <cmath>

#include "base/hash.h"
#include "recipe/cave_recipe.h"

namespace acre {
namespace {

constexpr uint64_t kAutomatonStage = 0x4175746F6D617461;  // "Automata"

/// One draw a cell: the odd multiples of a constant, mixed.
uint64_t cellHash(uint64_t row, int64_t x) {
  return mix64(row + static_cast<uint64_t>(x) * 0x9E3779B97F4A7C15u) >> 32;
}

}  // namespace

Result<std::shared_ptr<const AutomatonTiles>> AutomatonTiles::compile(
    const AutomatonLayer& layer, uint64_t seed, MemoLimit memo, const std::string& where) {
  const auto rule = readRule(
      layer.rule, layer.volume ? AutomatonRule::kVolume : AutomatonRule::kPlane, where + "/rule");
  if (!rule) return rule.error();
  auto out = std::make_shared<AutomatonTiles>();
  out->layer_ = layer;
  out->rule_ = *rule;
  out->seed_ = combine(combine(seed, kAutomatonStage), hashText(layer.id));
  out->threshold_ = static_cast<uint64_t>(std::floor(layer.fill * 4294967296.0));
  out->cover_ = static_cast<float>(layer.cover);
  out->bottom_ = static_cast<int64_t>(layer.bottom);
  out->top_ = static_cast<int64_t>(layer.top);
  for (const double y : layer.floors) out->floors_.push_back(static_cast<int64_t>(y));
  out->memo_ = std::make_unique<Memo<TileKey, Tile>>(memo);
  return std::shared_ptr<const AutomatonTiles>(std::move(out));
}

uint64_t AutomatonTiles::rowSeed(int64_t y, int64_t z) const {
  return combine(combine(seed_, static_cast<uint64_t>(y)), static_cast<uint64_t>(z));
}

bool AutomatonTiles::solidAtFirst(int64_t x, int64_t y, int64_t z) const {
  return cellHash(rowSeed(y, z), x) < threshold_;
}

int AutomatonTiles::floorAt(int64_t y) const {
  for (size_t k = 0; k < floors_.size(); ++k)
    if (y >= floors_[k] && y < floors_[k] + layer_.tall) return static_cast<int>(k);
  return -1;
}

bool AutomatonTiles::reaches(int64_t y, int64_t count) const {
  if (layer_.volume) return y < top_ && y + count > bottom_;
  return std::any_of(floors_.begin(), floors_.end(),
      [&](int64_t floor) { return y < floor + layer_.tall && y + count > floor; });
}

auto AutomatonTiles::tile(const TileKey& key, const std::stop_token& stop) const
    -> std::shared_ptr<const Tile> {
  return memo_->get(key, stop, [&]() -> std::shared_ptr<const Tile> {
    const int32_t side = layer_.volume ? kVolumeTile : kFloorTile, n = layer_.steps;
    const int64_t x0 = key.x * side - n, z0 = key.z * side - n;
    const int64_t y0 = layer_.volume ? std::max(bottom_, key.y * side - n) : key.y;
    const int64_t y1 = layer_.volume ? std::min(top_, (key.y + 1) * side + n) : key.y + 1;
    const int32_t wide = side + 2 * n;
    BitGrid grid(wide, wide, static_cast<int32_t>(y1 - y0));
    for (int64_t y = y0; y < y1; ++y) {
      if (stop.stop_requested()) return nullptr;
      for (int32_t k = 0; k < wide; ++k) {
        const uint64_t row = rowSeed(y, z0 + k);
        for (int32_t word = 0; word * 64 < wide; ++word) {
          uint64_t cells = 0;
          for (int32_t i = 0; i < 64; ++i)
            cells |= uint64_t{cellHash(row, x0 + word * 64 + i) < threshold_} << i;
          grid.setWord(word, k, static_cast<int32_t>(y - y0), cells);
        }
      }
    }
    // What lies beyond the margin spreads one cell a step and does not reach the middle.
    Automaton automaton(rule_, layer_.edge, layer_.volume ? 2 : 1);
    if (!automaton.run(grid, n, stop)) return nullptr;
    const int64_t first = layer_.volume ? std::max(bottom_, key.y * side) : y0;
    const int64_t last = layer_.volume ? std::min(top_, (key.y + 1) * side) : y1;
    auto middle = std::make_shared<Tile>(side, side, static_cast<int32_t>(last - first));
    for (int64_t y = first; y < last; ++y)
      for (int32_t k = 0; k < side; ++k)
        for (int32_t word = 0; word * 64 < side; ++word)
          middle->setWord(word, k, static_cast<int32_t>(y - first),
              grid.bits(n + word * 64, n + k, static_cast<int32_t>(y - y0)));
    return middle;
  });
}

bool AutomatonTiles::mark(const SampleBlock& block, const float* heights, const SeaGuard& guard,
    uint16_t mark, uint16_t* out, const std::stop_token& stop) const {
  const int64_t side = layer_.volume ? kVolumeTile : kFloorTile;
  const size_t columns = static_cast<size_t>(block.width) * static_cast<size_t>(block.length);
  const int64_t lastX = block.x + (block.width - 1) * block.step;
  const int64_t lastZ = block.z + (block.length - 1) * block.step;
  const int64_t lastY = block.y + (block.height - 1) * block.step;
  if (!reaches(block.y, lastY - block.y + 1)) return true;
  for (int32_t j = 0; j < block.height; ++j) {
    const int64_t y = block.y + j * block.step;
    const int floor = layer_.volume ? -1 : floorAt(y);
    if (layer_.volume ? y < bottom_ || y >= top_ : floor < 0) continue;
    const int64_t tileY = layer_.volume ? floorDiv(y, side) : floor;
    const auto level =
        static_cast<int32_t>(layer_.volume ? y - std::max(bottom_, tileY * side) : 0);
    const float end = static_cast<float>(y + 1);
    for (int64_t tz = floorDiv(block.z, side); tz <= floorDiv(lastZ, side); ++tz)
      for (int64_t tx = floorDiv(block.x, side); tx <= floorDiv(lastX, side); ++tx) {
        const auto held = tile({tx, tileY, tz}, stop);
        if (!held) return false;
        const auto range = [&](int64_t t, int64_t first, int32_t count) {
          return std::pair(std::clamp<int64_t>(
                               floorDiv(t * side - first + block.step - 1, block.step), 0, count),
              std::clamp<int64_t>(
                  floorDiv((t + 1) * side - first + block.step - 1, block.step), 0, count));
        };
        const auto [i0, i1] = range(tx, block.x, block.width);
        const auto [k0, k1] = range(tz, block.z, block.length);
        for (int64_t k = k0; k < k1; ++k) {
          const auto z = static_cast<int32_t>(block.z + k * block.step - tz * side);
          uint64_t cells = 0;
          int32_t from = -64;
          for (int64_t i = i0; i < i1; ++i) {
            const auto x = static_cast<int32_t>(block.x + i * block.step - tx * side);
            if (x >= from + 64) cells = held->bits(from = x, z, level);
            const auto column = static_cast<size_t>(k * block.width + i);
            const size_t at = static_cast<size_t>(j) * columns + column;
            if ((cells >> (x - from) & 1) != 0 || out[at] != 0) continue;
            if (heights[column] - end >= cover_ && !guard.keeps(y, column)) out[at] = mark;
          }
        }
      }
  }
  return true;
}

auto AutomatonTiles::at(Cell cell, int64_t y, float height) const -> At {
  At out;
  out.depth = height - static_cast<float>(y + 1);
  out.floor = layer_.volume ? -1 : floorAt(y);
  out.within = layer_.volume ? y >= bottom_ && y < top_ : out.floor >= 0;
  if (!out.within) return out;
  const int32_t n = layer_.steps + 1, wide = 2 * n + 1;
  const int64_t at = layer_.volume ? y : out.floor;
  const int64_t y0 = layer_.volume ? std::max(bottom_, y - n) : at;
  const int64_t y1 = layer_.volume ? std::min(top_, y + n + 1) : at + 1;
  BitGrid grid(wide, wide, static_cast<int32_t>(y1 - y0));
  for (int64_t level = y0; level < y1; ++level)
    for (int32_t k = 0; k < wide; ++k)
      for (int32_t i = 0; i < wide; ++i)
        grid.set(i, k, static_cast<int32_t>(level - y0),
            solidAtFirst(cell.x - n + i, level, cell.z - n + k));
  Automaton(rule_, layer_.edge, layer_.volume ? 2 : 1).run(grid, layer_.steps);
  const auto here = static_cast<int32_t>(at - y0);
  for (int32_t j = std::max(0, here - 1); j < std::min(grid.levels(), here + 2); ++j)
    for (int32_t k = n - 1; k <= n + 1; ++k)
      for (int32_t i = n - 1; i <= n + 1; ++i)
        out.neighbours += (i != n || k != n || j != here) && grid.at(i, k, j);
  out.open = !grid.at(n, n, here) && out.depth >= cover_;
  return out;
}

}  // namespace acre
