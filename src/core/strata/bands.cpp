#include "strata/bands.h"

#include <algorithm>

namespace acre {

Digest BandTable::keyOf(const Recipe& recipe) {
  DigestWriter key;
  key.text("bands").u32(1);
  for (const Material& material : recipe.materials) key.text(material.id);
  for (const Band& band : recipe.bands) {
    key.text(band.material).u8(band.below.has_value());
    if (band.below) key.f32(altitudeOf(*band.below, recipe.frame.seaLevel));
  }
  return key.finish();
}

std::shared_ptr<const BandTable> BandTable::compile(const Recipe& recipe) {
  auto table = std::make_shared<BandTable>();
  table->empty_ = recipe.bands.empty();
  for (const Band& band : recipe.bands) {
    const auto found = std::find_if(recipe.materials.begin(), recipe.materials.end(),
                                    [&](const Material& m) { return m.id == band.material; });
    table->materials_.push_back(
        found == recipe.materials.end()
            ? kUnassigned
            : static_cast<MaterialIndex>(found - recipe.materials.begin() + 1));
    if (!band.below) continue;
    const float end = altitudeOf(*band.below, recipe.frame.seaLevel);
    table->ends_.push_back(table->ends_.empty() ? end : std::max(table->ends_.back(), end));
  }
  if (table->empty_) table->materials_ = {kUnassigned};
  return table;
}

int BandTable::bandOf(float height) const {
  if (empty_) return -1;
  return static_cast<int>(std::upper_bound(ends_.begin(), ends_.end(), height) - ends_.begin());
}

MaterialIndex BandTable::materialOf(float height) const {
  return materials_[static_cast<size_t>(std::max(0, bandOf(height)))];
}

void BandTable::evaluate(const Kernels& kernels, const float* heights, int64_t count,
                         MaterialIndex* materials) const {
  kernels.bands(heights, count, ends_.data(), static_cast<int>(ends_.size()), materials);
  for (int64_t i = 0; i < count; ++i) materials[i] = materials_[materials[i]];
}

}  // namespace acre
