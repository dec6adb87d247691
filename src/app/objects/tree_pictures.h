/// Small pictures of trees, for the tooltips of the numbers of their style.
#pragma once

#include <string>

#include "app/edit/preview.h"

namespace app {

/// How many trees of a style a small picture holds.
enum class Trees {
  One,       ///< Its first variant.
  InWind,    ///< The same in full wind, where others stand in still air if the style knows no wind.
  Variants,  ///< As many as the style has, up to six.
};

/// Trees of a style of two worlds, to one scale where it is one tree.
Pictures treesOf(
    const acre::World& low, const acre::World& high, const std::string& style, Trees which);

}  // namespace app
