#include "world/plan.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "base/seed.h"
#include "cave/caves.h"
#include "climate/biomes.h"
#include "field/field.h"
#include "recipe/edits.h"
#include "recipe/validate.h"
#include "strata/bands.h"
#include "strata/blocks.h"
#include "water/water_stage.h"
#include "world/world.h"

namespace acre {

std::string chunkText(const ChunkLayout& layout, ChunkPos pos) {
  const Vertical& vertical = layout.vertical();
  if (vertical.plane) return fmt::format("{},{}", pos.cx, pos.cy);
  if (vertical.tall) return fmt::format("{},{},{}", pos.cx, pos.cy, pos.cz);
  return fmt::format("{},{}", pos.cx, pos.cz);
}

namespace {

Vertical verticalOf(const Frame& frame) {
  if (!frame.blocks()) return {};
  const bool whole = frame.kind == WorldKind::Voxel && frame.shape == ChunkShape::Columns;
  return {frame.y.min, frame.y.extent, whole ? 0 : frame.chunkSize, frame.kind == WorldKind::Side};
}

/// Columns stand on a floor some way below the lowest ground.
ChunkLayout groundOf(const ChunkLayout& layout, const WorldParts& parts) {
  if (layout.blocks()) return layout;
  constexpr int64_t kBelow = 16;
  const auto bottom = static_cast<int64_t>(std::floor(parts.lowest)) - kBelow;
  const auto top =
      static_cast<int64_t>(std::ceil(std::max(parts.highest, static_cast<float>(parts.seaLevel)))) +
      1;
  const int32_t side = std::clamp(layout.size(), 16, 64);
  return ChunkLayout(side, {bottom, top - bottom, side});
}

}  // namespace

WorldPlan::WorldPlan(Recipe recipe, WorldParts parts, const Kernels& kernels)
    : recipe_(std::move(recipe)),
      seed_(seedNumber(recipe_.seed)),
      layout_(recipe_.frame.chunkSize, verticalOf(recipe_.frame)),
      groundLayout_(groundOf(layout_, parts)),
      bounds_(boundsOf(recipe_.frame)),
      parts_(std::move(parts)),
      kernels_(&kernels) {
  if (recipe_.edits && !recipe_.edits->empty() && recipe_.edits->seed() == recipe_.seed)
    edits_ = recipe_.edits;
}

MaterialIndex WaterMaterials::ground(WaterKind kind, float shore, MaterialIndex bands) const {
  if (kind == WaterKind::Sea) return bands;
  if (kind != WaterKind::Dry) return bed != kUnassigned ? bed : bands;
  if (bank != kUnassigned && shore <= bankReach) return bank;
  if (wet != kUnassigned && shore <= wetReach) return wet;
  return bands;
}

MaterialIndex WaterMaterials::top(WaterKind kind, float shore, MaterialIndex bands) const {
  return isFresh(kind) && water != kUnassigned ? water : ground(kind, shore, bands);
}

const WorldPlan& planOf(const World& world) {
  return world;
}
std::shared_ptr<const WorldPlan> planOf(const std::shared_ptr<const World>& world) {
  return world;
}

const Field* WorldPlan::field(const std::string& id) const {
  if (id == kHeightsId) return parts_.heights.get();
  if (climateAxisOf(recipe_, id))
    return (id == kTemperatureId ? parts_.temperature : parts_.moisture).get();
  for (size_t i = 0; i < recipe_.fields.size(); ++i)
    if (recipe_.fields[i].id == id) return parts_.fields[i].get();
  return nullptr;
}

std::vector<std::string> WorldPlan::approximations(int64_t step) const {
  std::vector<std::string> out;
  const auto fields = fieldsOf(recipe_);
  const bool water = std::any_of(fields.begin(), fields.end(),
      [&](const FieldRecipe* f) { return readsWaterDistance(recipe_, *f); });
  if (water && step > WaterDistance::kExactStep) out.push_back("distance from water");
  if (parts_.biomes && parts_.biomes->islets() > 0 && step > Islets::kExactStep)
    out.push_back("islets given back");
  if (blocks() && parts_.blocks->ores() && !parts_.blocks->ores()->empty() &&
      step > BlockStage::kExactStep)
    out.push_back("ores");
  if (level() && parts_.rock->ores() && !parts_.rock->ores()->empty() &&
      step > BlockStage::kExactStep)
    out.push_back("ores");
  if (parts_.water && step > WaterStage::kFarthestStep)
    out.push_back("rivers and lakes, left out");
  else if (parts_.water && step > WaterStage::kExactStep)
    out.push_back(
        fmt::format("rivers and lakes, without valleys and rivers below {:.0f} cells of width",
            parts_.water->over(step).narrowest()));
  const auto moved = [](const Layer& layer) { return layer.on && (layer.warp || layer.sampling); };
  if (parts_.water && step > WaterDistance::kExactStep &&
      std::any_of(fields.begin(), fields.end(), [&](const FieldRecipe* f) {
        return readsFreshWater(recipe_, *f) &&
               std::any_of(f->layers.begin(), f->layers.end(), moved);
      }))
    out.push_back("fresh water in fields, where layers are shifted");
  if (parts_.caves && step > CaveStage::kExactStep) out.push_back("caves");
  return out;
}

const BandTable& WorldPlan::bandsOf(BiomeIndex biome) const {
  const auto& own = parts_.biomeBands;
  return biome < own.size() && own[biome] ? *own[biome] : *parts_.bands;
}

}  // namespace acre
