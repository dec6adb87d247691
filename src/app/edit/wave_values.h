/// What the waves of a field are drawn from.
#pragma once

#include <string>
#include <vector>

#include "app/map/geometry.h"
#include "world/plan.h"

namespace app {

/// One layer along the line.
struct Wave {
  std::vector<float> values;  ///< What the layer brings.
  std::vector<float> octave;  ///< Its first octave alone; empty where that says nothing.
  std::vector<float> weight;  ///< Of its mask; empty without one.
  std::vector<float> total;   ///< The sum up to and with this layer.
};
struct Waves {
  std::vector<Wave> layers;  ///< One per layer of the recipe; empty for those that are off.
  std::vector<float> sum;    ///< The field.
  double cells = 0;          ///< Length of the line.
};

/// Evaluates a field of the world and its layers at `count` places along the line.
Waves wavesAlong(
    const acre::World& world, const std::string& fieldId, const SectionLine& line, int count);

/// What a layer's bracket measures; nothing for layers that are not noise.
inline const acre::NoiseSource* noiseOf(const acre::Layer& layer) {
  return std::get_if<acre::NoiseSource>(&layer.source);
}

}  // namespace app
