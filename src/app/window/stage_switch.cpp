#include "app/window/stage_switch.h"

#include <QObject>

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

QString switchStage(acre::Recipe& recipe, StageId stage, bool& on) {
  const acre::StageDef& def = acre::defOf(stage);
  if (!def.turn) return QObject::tr("The frame cannot be switched off.");
  on = !def.on(recipe);
  const bool climate = readsClimate(recipe.biomes);
  if (stage == StageId::Climate && !on && recipe.biomes.on && climate)
    return QObject::tr("The biomes read the climate. Switch them off first.");
  def.turn(recipe, on);
  if (on &&
      (stage == StageId::Climate || (stage == StageId::Biomes && climate && !recipe.climate.on)))
    switchClimateOn(recipe.climate);
  return {};
}

}  // namespace app
