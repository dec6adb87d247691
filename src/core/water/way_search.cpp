#include "water/way_search.h"

#include <cmath>

#include "water/drainage.h"

namespace acre {

const char* faultName(CourseFault fault) {
  static constexpr const char* kNames[kCourseFaults] = {
      "none", "start blocked", "goal blocked", "no path", "too long", "too deep", "uphill"};
  return kNames[static_cast<size_t>(fault)];
}

bool isTooLong(int64_t length, double winding, int64_t dx, int64_t dz) {
  const int64_t direct = wholeRoot(kGrain * kGrain * (dx * dx + dz * dz));
  return length * kGrain > grainsOf(winding) * direct;
}

void closeHighest(const std::vector<float>& values, double share, std::vector<uint8_t>& closed) {
  const size_t count = values.size();
  closed.assign(count, 0);
  const auto wanted = static_cast<size_t>(std::floor(share * static_cast<double>(count) + 0.5));
  std::vector<std::pair<float, uint32_t>> order(count);
  for (size_t n = 0; n < count; ++n) order[n] = {-values[n], static_cast<uint32_t>(n)};
  if (wanted < count)
    std::nth_element(order.begin(), order.begin() + static_cast<ptrdiff_t>(wanted), order.end());
  for (size_t n = 0; n < wanted; ++n) closed[order[n].second] = 1;
}

}  // namespace acre
