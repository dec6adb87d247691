#include "world/catalogue.h"

namespace acre {

const Material* Catalogue::material(MaterialIndex index) const {
  if (index == kUnassigned || index > recipe_->materials.size()) return nullptr;
  return &recipe_->materials[index - size_t{1}];
}

std::string Catalogue::materialId(MaterialIndex index) const {
  if (const Material* found = material(index)) return found->id;
  if (index == kOpen) return "open";
  return index == kOutside ? "outside" : kUnassignedId;
}

const Biome* Catalogue::biome(BiomeIndex index) const {
  if (index == kNoBiome || index > recipe_->biomes.list.size()) return nullptr;
  return &recipe_->biomes.list[index - size_t{1}];
}

std::string Catalogue::biomeId(BiomeIndex index) const {
  if (const Biome* found = biome(index)) return found->id;
  return index == kOutsideBiome ? "outside" : "none";
}

}  // namespace acre
