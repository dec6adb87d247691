/// Layers for tests, made in one line.
#pragma once

#include <string>

#include "recipe/recipe.h"

/// fBm of three octaves.
inline acre::Layer noiseLayer(const std::string& id, double width, double amplitude) {
  acre::NoiseSource noise;
  noise.width = width;
  noise.octaves = 3;
  acre::Layer layer;
  layer.id = layer.name = id;
  layer.source = noise;
  layer.amplitude = amplitude;
  return layer;
}

template <class S>
acre::Layer layerOf(const std::string& id, const S& source, double amplitude = 1,
    acre::Combine combine = acre::Combine::Add) {
  acre::Layer layer;
  layer.id = layer.name = id;
  layer.source = source;
  layer.amplitude = amplitude;
  layer.combine = combine;
  return layer;
}
