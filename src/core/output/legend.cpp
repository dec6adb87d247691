#include "output/legend.h"

#include <fmt/format.h>

#include <algorithm>

namespace acre {

std::string thresholdText(const Threshold& threshold) {
  if (!threshold.fromSea) return fmt::format("{}", threshold.value);
  if (threshold.value == 0) return "sea level";
  return fmt::format("sea {} {}", threshold.value < 0 ? "−" : "+",
                     threshold.value < 0 ? -threshold.value : threshold.value);
}

std::vector<LegendEntry> legendOf(const World& world, PictureKind kind) {
  std::vector<LegendEntry> entries;
  const Recipe& recipe = world.recipe();
  if (kind == PictureKind::Height) {
    const auto tints = Palette(world).heightTints();
    for (size_t i = tints.size(); i-- > 0;) {
      std::string text = i + 1 == tints.size() ? fmt::format("{:g} and above", tints[i - 1].below)
                         : i == 0              ? fmt::format("below {:g}", tints[i].below)
                                  : fmt::format("{:g} to {:g}", tints[i - 1].below, tints[i].below);
      entries.push_back({std::move(text), tints[i].argb, false});
    }
    return entries;
  }
  bool hole = recipe.bands.empty();
  for (auto band = recipe.bands.rbegin(); band != recipe.bands.rend(); ++band) {
    const auto found = std::find_if(recipe.materials.begin(), recipe.materials.end(),
                                    [&](const Material& m) { return m.id == band->material; });
    if (found == recipe.materials.end()) {
      hole = true;
      continue;
    }
    const uint32_t argb = 0xFF000000u | uint32_t{found->colour.red} << 16 |
                          uint32_t{found->colour.green} << 8 | found->colour.blue;
    std::string text = found->name;
    if (band->below) text += fmt::format(", below {}", thresholdText(*band->below));
    entries.push_back({std::move(text), argb, false});
  }
  if (hole) entries.push_back({"Unassigned: no band", 0, true});
  return entries;
}

}  // namespace acre
