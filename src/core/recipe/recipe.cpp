#include "recipe/recipe.h"

#include <fmt/format.h>

#include <algorithm>
#include <charconv>
#include <tuple>
#include <utility>

#include "recipe/cave_recipe.h"
#include "recipe/edits.h"
#include "recipe/level_recipe.h"
#include "recipe/object_recipe.h"
#include "recipe/tile_recipe.h"
#include "recipe/water_recipe.h"

namespace acre {

bool Recipe::operator==(const Recipe& other) const {
  const auto members = [](const Recipe& r) {
    return std::tie(r.generation, r.name, r.seed, r.frame, r.materials, r.fields, r.heights,
        r.heightsOn, r.fillDown, r.overhang, r.climate, r.biomes, r.slopes, r.bands, r.strataOn,
        r.layers, r.rock, r.ores, r.water, r.rivers, r.caves, r.level, r.objects, r.tiles, r.notes);
  };
  return members(*this) == members(other) && sameEdits(edits, other.edits);
}

int64_t editLevel(const Recipe& recipe) {
  return recipe.frame.kind == WorldKind::Level ? recipe.level->floor : 0;
}

Rect boundsOf(const Frame& frame) {
  const AxisBounds endless{-kMaxCell, 2 * kMaxCell + 1};
  const AxisBounds x = frame.x.value_or(endless);
  const AxisBounds z = frame.kind == WorldKind::Side ? AxisBounds{0, 1} : frame.z.value_or(endless);
  return {x.min, z.min, x.extent, z.extent};
}

std::string thresholdText(const Threshold& threshold) {
  if (threshold.share) return fmt::format("{:g} % of the world", *threshold.share * 100);
  if (!threshold.fromSea) return fmt::format("{}", threshold.value);
  if (threshold.value == 0) return "sea level";
  return fmt::format("sea {} {}", threshold.value < 0 ? "−" : "+",
      threshold.value < 0 ? -threshold.value : threshold.value);
}

const FieldRecipe* fieldOf(const Recipe& recipe, const std::string& id) {
  if (id == kHeightsId) return &recipe.heights;
  if (const ClimateAxis* axis = climateAxisOf(recipe, id)) return &axis->field;
  const auto found = std::find_if(
      recipe.fields.begin(), recipe.fields.end(), [&](const FieldRecipe& f) { return f.id == id; });
  return found == recipe.fields.end() ? nullptr : &*found;
}

std::vector<const FieldRecipe*> fieldsOf(const Recipe& recipe) {
  std::vector<const FieldRecipe*> fields = {&recipe.heights};
  for (const FieldRecipe& field : recipe.fields) fields.push_back(&field);
  if (recipe.climate.on)
    fields.insert(
        fields.end(), {&recipe.climate.temperature.field, &recipe.climate.moisture.field});
  return fields;
}

std::string pointerOf(const Recipe& recipe, const FieldRecipe& field) {
  if (&field == &recipe.heights) return "/heights";
  if (&field == &recipe.climate.temperature.field) return "/climate/temperature";
  if (&field == &recipe.climate.moisture.field) return "/climate/moisture";
  return fmt::format("/fields/{}", &field - recipe.fields.data());
}

const ClimateAxis* climateAxisOf(const Recipe& recipe, const std::string& fieldId) {
  if (!recipe.climate.on) return nullptr;
  if (fieldId == kTemperatureId) return &recipe.climate.temperature;
  return fieldId == kMoistureId ? &recipe.climate.moisture : nullptr;
}

AxisScale scaleOf(const Recipe& recipe, const ChartAxis& axis) {
  if (axis.field == kTemperatureId) return recipe.climate.temperature;
  if (axis.field == kMoistureId) return recipe.climate.moisture;
  return {axis.low, axis.high, "", 0, 1};
}

const Biome* biomeOf(const Recipe& recipe, const std::string& id) {
  const auto& list = recipe.biomes.list;
  const auto found =
      std::find_if(list.begin(), list.end(), [&](const Biome& b) { return b.id == id; });
  return found == list.end() ? nullptr : &*found;
}

Biome* biomeOf(Recipe& recipe, const std::string& id) {
  return const_cast<Biome*>(biomeOf(std::as_const(recipe), id));
}

FieldRecipe* fieldOf(Recipe& recipe, const std::string& id) {
  return const_cast<FieldRecipe*>(fieldOf(std::as_const(recipe), id));
}

std::string freshId(const std::string& stem, const std::vector<std::string>& taken) {
  int64_t highest = 0;
  for (const std::string& id : taken) {
    if (!id.starts_with(stem + "-")) continue;
    const char* first = id.data() + stem.size() + 1;
    int32_t number = 0;
    if (std::from_chars(first, id.data() + id.size(), number).ptr == id.data() + id.size())
      highest = std::max<int64_t>(highest, number);
  }
  return stem + "-" + std::to_string(highest + 1);
}

}  // namespace acre
