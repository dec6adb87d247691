/// What the indices in cells stand for.
#pragma once

#include <string>

#include "base/indices.h"
#include "recipe/recipe.h"

namespace acre {

/// Materials and biomes of a recipe by their indices, and the words for what is neither. There for
/// as long as the recipe is.
class Catalogue {
 public:
  explicit Catalogue(const Recipe& recipe) : recipe_(&recipe) {}

  /// The recipe's material; nothing for kUnassigned, kOpen and kOutside.
  const Material* material(MaterialIndex index) const;
  /// Its id, kUnassignedId, "open" or "outside".
  std::string materialId(MaterialIndex index) const;
  /// The recipe's biome; nothing for kNoBiome and kOutsideBiome.
  const Biome* biome(BiomeIndex index) const;
  /// Its id, "none" or "outside".
  std::string biomeId(BiomeIndex index) const;

 private:
  const Recipe* recipe_;
};

}  // namespace acre
