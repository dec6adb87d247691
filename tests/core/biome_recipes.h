/// Worlds with biomes for tests: every way of choosing them, drawn from a number.
#pragma once

#include <random>

#include "core/layers.h"
#include "recipe/recipe.h"

inline acre::Biome biomeOfId(const std::string& id, uint32_t rgb) {
  acre::Biome biome;
  biome.id = biome.name = id;
  biome.colour = {
      static_cast<uint8_t>(rgb >> 16), static_cast<uint8_t>(rgb >> 8), static_cast<uint8_t>(rgb)};
  return biome;
}

/// A rectangle of the chart; infinite ends are endless.
inline acre::Area areaOf(
    const std::string& id, const std::string& biome, double x0, double x1, double y0, double y1) {
  acre::Area area;
  area.id = id;
  area.biome = biome;
  const auto end = [](double v) { return std::isinf(v) ? std::optional<double>() : v; };
  area.x = {end(x0), end(x1)};
  area.y = {end(y0), end(y1)};
  return area;
}

/// Hills with a sea and a climate, without biomes.
inline acre::Recipe landWithClimate() {
  acre::Recipe recipe;
  recipe.seed = "land";
  recipe.heights.layers = {noiseLayer("hills", 300, 30)};
  recipe.climate.on = true;
  recipe.climate.temperature.field.layers = {noiseLayer("warm", 500, 0.9)};
  recipe.climate.moisture.field.layers = {noiseLayer("wet", 350, 0.9)};
  recipe.materials = {{"rock", "Rock", {90, 90, 90}, acre::MaterialState::Solid},
      {"sand", "Sand", {220, 200, 160}, acre::MaterialState::Passable},
      {"water", "Water", {60, 90, 140}, acre::MaterialState::Liquid}};
  recipe.bands = {{"low", acre::Threshold{0, true, {}}, "water"}, {"high", {}, "rock"}};
  return recipe;
}

/// Eight biomes with reliefs; by the bits of `variant`: 1 ideal points, 2 slices, 4 regions,
/// 8 another way of choosing for them, 16 warped.
inline acre::Recipe landWithBiomes(unsigned variant) {
  acre::Recipe recipe = landWithClimate();
  acre::Biomes& b = recipe.biomes;
  b.on = true;
  std::mt19937 random(variant + 5);
  const auto in = [&](double low, double high) {
    return low + (high - low) * static_cast<double>(random() % 4096) / 4096.0;
  };
  for (int i = 0; i < 8; ++i) {
    acre::Biome& biome = b.list.emplace_back(
        biomeOfId("b" + std::to_string(i), static_cast<uint32_t>(random() & 0xFFFFFF)));
    biome.relief = {in(0.2, 1.5), in(-4, 6), i % 2 ? in(0, 3) : 0};
    biome.weight = i == 3 ? 0 : in(0.5, 3);
    acre::IdealPoint& ideal = biome.ideal.emplace();
    ideal.x = in(-1, 1);
    ideal.y = in(-1, 1);
    ideal.weight = in(0.5, 2);
    if (i % 3 == 0) ideal.altitude = in(-10, 20);
  }
  b.list[5].bands = {{"own-low", acre::Threshold{3, true, {}}, "sand"}, {"own-high", {}, "water"}};
  b.list[6].bandsOf = "b5";
  if (variant & 1) b.rules = acre::ChartRules::Points;
  if (variant & 2) {
    b.slices = {{"sea", "Sea", acre::Threshold{0, true, {}}, "b7"},
        {"shore", "Shore", acre::Threshold{2.5, true, {}}, ""},
        {"land", "Land", acre::Threshold{14, false, {}}, ""}, {"high", "High", {}, ""}};
  }
  for (int i = 0; i < 12; ++i) {
    const double x = in(-1, 0.9), y = in(-1, 0.9);
    acre::Area& area = b.areas.emplace_back(
        areaOf("a" + std::to_string(i), "b" + std::to_string(random() % 8), i == 0 ? -INFINITY : x,
            i == 1 ? INFINITY : x + in(0.05, 1), y, i == 2 ? INFINITY : y + in(0.05, 1)));
    if ((variant & 2) && i % 2) area.slices = {i % 4 == 1 ? "land" : "high"};
  }
  acre::Area& painted = b.areas.emplace_back();
  painted.id = "paint";
  acre::Painting& painting = painted.painting.emplace();
  painting.columns = 9;
  painting.rows = 7;
  painting.biomes = {"b1", "b4", "b6"};
  for (int k = 0; k < 63; ++k) painting.cells.push_back(static_cast<uint16_t>(random() % 4));
  if (variant & 4) {
    b.regions.on = true;
    b.regions.size = 60;
    b.border.ground = 11;
    b.regions.choice =
        variant & 8 ? acre::Regions::Choice::Weights : acre::Regions::Choice::Climate;
    if (variant & 16) {
      b.regions.warp.cells = 17;
      b.regions.warp.noise.width = 40;
      b.regions.warp.noise.octaves = 2;
    }
  }
  return recipe;
}
inline constexpr unsigned kLandVariants = 32;
