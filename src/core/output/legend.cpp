#include "output/legend.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "climate/biomes.h"
#include "recipe/level_recipe.h"

namespace acre {

namespace {

template <class Thing>
uint32_t colourOf(const Thing& thing) {
  return 0xFF000000u | uint32_t{thing.colour.red} << 16 | uint32_t{thing.colour.green} << 8 |
         thing.colour.blue;
}

/// How biomes pass into each other, when they change the height.
std::string blendText(const World& world) {
  const Biomes& biomes = planOf(world).recipe().biomes;
  return planOf(world).biomes()->byRegion()
             ? fmt::format("Heights blend over {:g} cells of ground", biomes.border.ground)
             : fmt::format("Heights blend over {:g} % of the chart", biomes.border.chart * 100);
}

std::vector<LegendEntry> biomeLegend(const World& world) {
  std::vector<LegendEntry> entries;
  for (const Biome& biome : planOf(world).recipe().biomes.list)
    entries.push_back({biome.name, colourOf(biome), false});
  entries.push_back({"No rule covers it", 0, true});
  if (planOf(world).biomes()->shapesHeight())
    entries.push_back({blendText(world), kNoSwatch, false});
  return entries;
}

/// Five values from the highest to the lowest, climates in their units.
std::vector<LegendEntry> greyLegend(
    const World& world, const Picture& picture, const Palette& palette) {
  std::vector<LegendEntry> entries;
  const ClimateAxis* axis = picture.kind == PictureKind::Field
                                ? climateAxisOf(planOf(world).recipe(), picture.field)
                                : nullptr;
  for (int i = 4; i >= 0; --i) {
    float value = palette.low() + (palette.high() - palette.low()) * static_cast<float>(i) / 4;
    if (picture.kind == PictureKind::Flow) value = std::exp2(value);
    std::string text = axis ? fmt::format("{:.4g}", axis->told(static_cast<double>(value)))
                            : fmt::format("{:.4g}", value);
    if (axis && !axis->unit.empty()) text += " " + axis->unit;
    if (picture.kind == PictureKind::Flow) text += i == 0 ? " brick" : " bricks";
    if (picture.kind == PictureKind::Density) text += " asked in 1,000 cells";
    entries.push_back({std::move(text), palette.greyAt(value), false});
  }
  return entries;
}

}  // namespace

namespace {

std::vector<LegendEntry> entriesOf(const World& world, const Picture& picture) {
  std::vector<LegendEntry> entries;
  const Recipe& recipe = planOf(world).recipe();
  const Palette palette(world, picture);
  if (picture.ofBiomes() && !planOf(world).biomes()) return {{"Biomes are off", kNoSwatch, false}};
  if (picture.ofWater() && !planOf(world).water()) return {{"Water is off", kNoSwatch, false}};
  if (picture.kind == PictureKind::Biome) return biomeLegend(world);
  if (picture.kind == PictureKind::Water)
    return {{"Sea", palette.thingColour(2), false}, {"Lake", palette.thingColour(3), false},
        {"River", palette.thingColour(4), false}, {"Dry", palette.thingColour(1), false}};
  if (picture.kind == PictureKind::Basin)
    return {{"Sea", palette.thingColour(1), false},
        {"A tone for all land whose water leaves it at one place", regionTone(0), false}};
  if (picture.kind == PictureKind::Uncovered)
    return {{"No rule covers it", 0, true}, {"Some rule does", palette.thingColour(1), false}};
  if (picture.kind == PictureKind::Region) {
    const Regions& regions = recipe.biomes.regions;
    entries.push_back({fmt::format("A tone a region, about {:g} cells across", regions.size),
        regionTone(0), false});
    if (planOf(world).biomes()->shapesHeight())
      entries.push_back({blendText(world), kNoSwatch, false});
    return entries;
  }
  if (picture.isTinted()) {
    const auto& tints = palette.heightTints();
    for (size_t i = tints.size(); i-- > 0;) {
      std::string text = i + 1 == tints.size() ? fmt::format("{:g} and above", tints[i - 1].below)
                         : i == 0              ? fmt::format("below {:g}", tints[i].below)
                                  : fmt::format("{:g} to {:g}", tints[i - 1].below, tints[i].below);
      entries.push_back({std::move(text), tints[i].argb, false});
    }
    return entries;
  }
  if (picture.isData()) return greyLegend(world, picture, palette);
  if (!recipe.strataOn) return {{"Unassigned: Strata are off", 0, true}};
  if (picture.kind == PictureKind::Slice) {
    entries.push_back({fmt::format("Level y {}", picture.level), kNoSwatch, false});
    for (const Material& m : recipe.materials) entries.push_back({m.name, colourOf(m), false});
    entries.push_back({"Open", kOpenColour, false});
    return entries;
  }
  for (const SlopeBand& slope : recipe.slopes) {
    const auto found = std::find_if(recipe.materials.begin(), recipe.materials.end(),
        [&](const Material& m) { return m.id == slope.material; });
    if (found != recipe.materials.end())
      entries.push_back(
          {fmt::format("{}, steeper than {:g}", found->name, slope.from), colourOf(*found), false});
  }
  bool hole = recipe.bands.empty();
  for (auto band = recipe.bands.rbegin(); band != recipe.bands.rend(); ++band) {
    const auto found = std::find_if(recipe.materials.begin(), recipe.materials.end(),
        [&](const Material& m) { return m.id == band->material; });
    if (found == recipe.materials.end()) {
      hole = true;
      continue;
    }
    const uint32_t argb = colourOf(*found);
    std::string text = found->name;
    if (band->below) text += fmt::format(", below {}", thresholdText(*band->below));
    entries.push_back({std::move(text), argb, false});
  }
  if (hole) entries.push_back({"Unassigned: no band", 0, true});
  return entries;
}

}  // namespace

std::vector<LegendEntry> legendOf(const World& world, const Picture& picture, int64_t step) {
  auto entries = entriesOf(world, picture);
  for (const std::string& what : planOf(world).approximations(step))
    entries.push_back({"Approximate so far out: " + what, kNoSwatch, false});
  return entries;
}

}  // namespace acre
