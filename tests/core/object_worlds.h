/// Small worlds for the tests of objects.
#pragma once

#include <QtGlobal>
#include <memory>
#include <string>
#include <utility>
#include <vector>

#include "recipe/object_recipe.h"
#include "recipe/recipe.h"
#include "world/engine.h"
#include "world/world.h"

namespace acre {

inline std::shared_ptr<Engine> engineOf(uint64_t memo = uint64_t{24} << 20) {
  EngineOptions options;
  options.memoBytes = memo;
  return Engine::create(options).value();
}

inline std::shared_ptr<const World> worldOf(
    const Recipe& recipe, uint64_t memo = uint64_t{24} << 20) {
  auto made = engineOf(memo)->compile(recipe);
  if (!made) qFatal("%s", made.error().text().c_str());
  return std::move(made).value();
}

inline ObjectKind kindOf(const char* id, double density, int32_t distance) {
  ObjectKind out;
  out.id = out.name = id;
  out.density = density;
  out.distance = distance;
  return out;
}

/// Rolling ground with a sea in it, some of it steep.
inline Recipe plain(std::vector<ObjectKind> kinds) {
  Recipe r;
  r.name = "Plain";
  r.seed = "11";
  r.materials = {
      {"sand", "Sand", {}, MaterialState::Solid}, {"turf", "Turf", {}, MaterialState::Solid}};
  Layer hills;
  hills.id = "hills";
  NoiseSource noise;
  noise.width = 40;
  hills.source = noise;
  hills.amplitude = 12;
  r.heights.layers = {hills};
  FieldRecipe patches{"patches", "Patches", {hills}, {}, {}};
  patches.layers[0].amplitude = 1;
  r.fields = {patches};
  r.bands = {{"low", Threshold{2, false, {}}, "sand", {}}, {"high", {}, "turf", {}}};
  r.frame.seaLevel = -4;
  r.objects->kinds = std::move(kinds);
  return r;
}

}  // namespace acre
