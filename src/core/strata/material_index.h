/// The index of a material by its id.
#pragma once

#include <string>
#include <vector>

#include "strata/bands.h"

namespace acre {

/// Place in the recipe's table, counted from 1; kUnassigned for an id that is not in it.
inline MaterialIndex indexOf(const std::vector<Material>& materials, const std::string& id) {
  for (size_t i = 0; i < materials.size(); ++i)
    if (materials[i].id == id) return static_cast<MaterialIndex>(i + 1);
  return kUnassigned;
}

}  // namespace acre
