#include "cave/lattice_path.h"

#include <algorithm>
#include <cstdlib>
#include <functional>
#include <queue>

namespace acre {
namespace {

constexpr uint32_t kFar = 0xFFFFFFFF;

/// The price of the free way between two points.
uint32_t freeWay(const LatticeBox& box, uint32_t a, uint32_t b) {
  uint32_t apart[3] = {static_cast<uint32_t>(std::abs(box.x(a) - box.x(b))),
      static_cast<uint32_t>(std::abs(box.y(a) - box.y(b))),
      static_cast<uint32_t>(std::abs(box.z(a) - box.z(b)))};
  std::sort(apart, apart + 3);
  return apart[0] * 443 + (apart[1] - apart[0]) * 362 + (apart[2] - apart[1]) * 256;
}

/// Calls visit(neighbour, axes in which it differs).
template <class Visit>
void eachNeighbour(const LatticeBox& box, uint32_t at, Visit&& visit) {
  const int32_t x = box.x(at), y = box.y(at), z = box.z(at);
  for (int32_t dy = -1; dy <= 1; ++dy)
    for (int32_t dz = -1; dz <= 1; ++dz)
      for (int32_t dx = -1; dx <= 1; ++dx) {
        const int axes = (dx != 0) + (dy != 0) + (dz != 0);
        const bool inside = x + dx >= 0 && x + dx < box.nx && y + dy >= 0 && y + dy < box.ny &&
                            z + dz >= 0 && z + dz < box.nz;
        if (axes > 0 && inside) visit(box.index(x + dx, y + dy, z + dz), axes);
      }
}

}  // namespace

std::vector<uint32_t> cheapestPath(const LatticeBox& box, std::span<const uint32_t> costs,
    uint32_t from, uint32_t to, const std::stop_token& stop) {
  const size_t count = box.count();
  std::vector<uint32_t> spent(count, kFar), parent(count, kFar);
  std::vector<bool> done(count);
  // Cheapest estimate first, then the lower index.
  std::priority_queue<uint64_t, std::vector<uint64_t>, std::greater<>> open;
  const auto push = [&](uint32_t at) {
    open.push((uint64_t{spent[at]} + freeWay(box, at, to)) << 32 | at);
  };
  spent[from] = 0;
  push(from);
  for (int looked = 0; !open.empty();) {
    const uint64_t top = open.top();
    // All that may lie on one of the cheapest paths is looked at, the goal's equals included.
    if (top >> 32 > spent[to]) break;
    open.pop();
    const auto at = static_cast<uint32_t>(top);
    if (done[at]) continue;
    done[at] = true;
    if (++looked % 1024 == 0 && stop.stop_requested()) return {};
    eachNeighbour(box, at, [&](uint32_t next, int axes) {
      const uint32_t there = spent[at] + stepCost(axes, costs[at], costs[next]);
      if (there < spent[next]) {
        spent[next] = there;
        parent[next] = at;
        push(next);
      } else if (there == spent[next] && at < parent[next] && next != from) {
        parent[next] = at;
      }
    });
  }
  std::vector<uint32_t> path;
  for (uint32_t at = to; at != kFar; at = parent[at]) path.push_back(at);
  std::reverse(path.begin(), path.end());
  return path;
}

uint64_t pathCost(
    const LatticeBox& box, std::span<const uint32_t> costs, std::span<const uint32_t> path) {
  uint64_t out = 0;
  for (size_t i = 1; i < path.size(); ++i) {
    const uint32_t a = path[i - 1], b = path[i];
    const int axes = (box.x(a) != box.x(b)) + (box.y(a) != box.y(b)) + (box.z(a) != box.z(b));
    out += stepCost(axes, costs[a], costs[b]);
  }
  return out;
}

}  // namespace acre
