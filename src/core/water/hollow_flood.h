/// Filling a hollow from its lowest brick up to where it spills.
#pragma once

#include <algorithm>
#include <array>
#include <cstdlib>
#include <functional>
#include <optional>
#include <queue>
#include <vector>

#include "water/drainage.h"

namespace acre {

struct HollowFlood {
  static constexpr int64_t kSpan = 10;  ///< Bricks from the lowest that it looks at.

  std::vector<DrainKey> flooded;  ///< In order.
  int64_t spill = 0;              ///< The highest of them.
  bool touched = false;           ///< The last one lies at the rim of what is looked at.
  std::optional<DrainKey> lower;  ///< What lies behind the saddle.
};

/// keyOf(brick): its place in the order before any lake.
template <class KeyOf>
HollowFlood floodHollow(Brick pit, KeyOf&& keyOf) {
  constexpr int64_t kSpan = HollowFlood::kSpan, kSide = 2 * kSpan + 1;
  const DrainKey bottom = keyOf(pit);
  std::array<bool, kSide * kSide> known{};
  const auto at = [&](Brick b) -> bool& {
    return known[static_cast<size_t>((b.j - pit.j + kSpan) * kSide + b.i - pit.i + kSpan)];
  };
  std::priority_queue<DrainKey, std::vector<DrainKey>, std::greater<>> front;
  front.push(bottom);
  at(pit) = true;
  HollowFlood out;
  out.spill = bottom.level;
  while (!front.empty()) {
    const DrainKey now = front.top();
    front.pop();
    if (now < bottom) {
      out.lower = now;
      break;
    }
    out.flooded.push_back(now);
    out.spill = std::max(out.spill, now.level);
    const Brick b = now.brick;
    out.touched = std::abs(b.i - pit.i) == kSpan || std::abs(b.j - pit.j) == kSpan;
    if (out.touched) break;
    for (int side = 0; side < kBrickSides; ++side) {
      const Brick next = besideBrick(b, side);
      if (std::exchange(at(next), true)) continue;
      front.push(keyOf(next));
    }
  }
  return out;
}

}  // namespace acre
