#include "audit/skyline_figures.h"

#include <algorithm>
#include <cmath>

#include "base/seed.h"
#include "world/world.h"

namespace acre {

std::optional<SkylineFigures> skylineFigures(const World& world, const FieldRecipe& field,
    const std::string& layer, int64_t first, const std::stop_token& stop) {
  const Field* compiled = world.field(field.id);
  const int step = compiled ? compiled->stepOf(layer) : -1;
  const auto found = std::find_if(
      field.layers.begin(), field.layers.end(), [&](const Layer& l) { return l.id == layer; });
  if (step < 0 || found == field.layers.end()) return {};
  const auto* walk = std::get_if<WalkSource>(&found->source);
  if (!walk) return {};
  SkylineFigures out;
  out.seed = world.recipe().seed;
  const double a = found->offset + found->amplitude * walk->low;
  const double b = found->offset + found->amplitude * walk->high;
  out.low = std::min(a, b);
  out.high = std::max(a, b);
  out.first = first;
  std::vector<float> row(static_cast<size_t>(SkylineFigures::kColumns));
  const SampleGrid grid{first, 0, 1, SkylineFigures::kColumns, 1};
  if (!world.columns().layer(*compiled, static_cast<size_t>(step), grid, row.data(), stop))
    return {};
  out.columns = row.size();
  const auto [low, high] = std::minmax_element(row.begin(), row.end());
  out.lowest = *low;
  out.highest = *high;
  // Heights are rounded to single precision: a limit itself is not beyond it.
  const double slack = 1e-6 * std::max({std::abs(out.low), std::abs(out.high), 1.0});
  for (const float h : row) {
    const double v = static_cast<double>(h);
    out.beyond += v > out.high + slack || v < out.low - slack;
    out.atLimits += v >= out.high - 0.5 || v <= out.low + 0.5;
  }
  row.resize(SkylineFigures::kCurve);
  out.heights = std::move(row);
  return out;
}

std::vector<SkylineFigures> skylineOverSeeds(Engine& engine, const Recipe& recipe,
    const std::string& field, const std::string& layer, int seeds, int64_t first,
    const std::stop_token& stop) {
  std::vector<SkylineFigures> out;
  // The walk alone in its field; of the rest only what the kind of world asks for.
  const FieldRecipe* of = fieldOf(recipe, field);
  if (!of) return out;
  Recipe bare = recipe;
  bare.edits = nullptr;
  bare.ores.clear();
  bare.biomes.on = false;
  FieldRecipe& alone = *fieldOf(bare, field);
  std::erase_if(alone.layers, [&](const Layer& l) { return l.id != layer; });
  if (alone.layers.empty()) return out;
  alone.layers.front().mask.reset();
  for (int n = 0; n < seeds && !stop.stop_requested(); ++n) {
    const auto world = engine.compile(bare, true);
    if (!world) break;
    auto figures = skylineFigures(**world, alone, layer, first, stop);
    if (!figures) break;
    out.push_back(std::move(*figures));
    const auto next = neighbourSeed(bare.seed, 1);
    if (!next) break;
    bare.seed = *next;
  }
  return out;
}

}  // namespace acre
