#include "recipe/recipe.h"

#include <algorithm>
#include <charconv>

namespace acre {

Rect boundsOf(const Frame& frame) {
  const AxisBounds endless{-kMaxCell, 2 * kMaxCell + 1};
  const AxisBounds x = frame.x.value_or(endless);
  const AxisBounds z = frame.z.value_or(endless);
  return {x.min, z.min, x.extent, z.extent};
}

std::string freshId(const std::string& stem, const std::vector<std::string>& taken) {
  int64_t highest = 0;
  for (const std::string& id : taken) {
    if (!id.starts_with(stem + "-")) continue;
    const char* first = id.data() + stem.size() + 1;
    int32_t number = 0;
    if (std::from_chars(first, id.data() + id.size(), number).ptr == id.data() + id.size())
      highest = std::max<int64_t>(highest, number);
  }
  return stem + "-" + std::to_string(highest + 1);
}

}  // namespace acre
