#include "app/window/stage_switch.h"

#include <QObject>

#include "recipe/cave_recipe.h"
#include "recipe/level_recipe.h"

namespace app {
namespace {

bool readsClimate(const acre::Biomes& biomes) {
  const auto climate = [](const acre::ChartAxis& axis) {
    return axis.field == acre::kTemperatureId || axis.field == acre::kMoistureId;
  };
  return climate(biomes.x) || climate(biomes.y);
}

/// Climate that can be looked at: a field without layers is 0 everywhere.
void switchClimateOn(acre::Climate& climate) {
  climate.on = true;
  double width = 600;
  for (acre::ClimateAxis* axis : {&climate.temperature, &climate.moisture}) {
    if (axis->field.layers.empty()) {
      acre::Layer layer;
      layer.id = "layer-1";
      layer.name = "Weather";
      acre::NoiseSource noise;
      noise.width = width;
      noise.octaves = 5;
      layer.source = noise;
      layer.amplitude = 0.8;
      axis->field.layers = {layer};
    }
    width = 450;
  }
}

}  // namespace

QString switchStage(acre::Recipe& recipe, Stage stage, bool& on) {
  switch (stage) {
    case Stage::Frame:
      return QObject::tr("The frame cannot be switched off.");
    case Stage::Heights:
      on = recipe.heightsOn = !recipe.heightsOn;
      break;
    case Stage::Climate:
      if (recipe.climate.on && recipe.biomes.on && readsClimate(recipe.biomes))
        return QObject::tr("The biomes read the climate. Switch them off first.");
      on = !recipe.climate.on;
      if (on)
        switchClimateOn(recipe.climate);
      else
        recipe.climate.on = false;
      break;
    case Stage::Biomes:
      on = recipe.biomes.on = !recipe.biomes.on;
      if (on && readsClimate(recipe.biomes) && !recipe.climate.on) switchClimateOn(recipe.climate);
      break;
    case Stage::Strata:
      on = recipe.strataOn = !recipe.strataOn;
      break;
    case Stage::Caves:
      on = recipe.frame.kind == acre::WorldKind::Level ? (recipe.level->on = !recipe.level->on)
                                                       : (recipe.caves->on = !recipe.caves->on);
      break;
  }
  return {};
}

}  // namespace app
