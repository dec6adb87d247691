#include "cave/open_spaces.h"

#include <algorithm>
#include <deque>

namespace acre {
namespace {

/// Sets of numbers that are joined two by two; each set is known by its least member.
class Joined {
 public:
  uint32_t add() {
    parent_.push_back(static_cast<uint32_t>(parent_.size()));
    return parent_.back();
  }
  uint32_t of(uint32_t a) {
    while (parent_[a] != a) a = parent_[a] = parent_[parent_[a]];
    return a;
  }
  void join(uint32_t a, uint32_t b) {
    a = of(a);
    b = of(b);
    parent_[std::max(a, b)] = std::min(a, b);
  }
  size_t size() const { return parent_.size(); }

 private:
  std::vector<uint32_t> parent_;
};

}  // namespace

OpenSpaces OpenSpaces::of(const BitGrid& grid) {
  const int32_t width = grid.width(), depth = grid.depth(), levels = grid.levels();
  OpenSpaces out;
  out.labels.assign(
      static_cast<size_t>(width) * static_cast<size_t>(depth) * static_cast<size_t>(levels),
      kSolid);
  const size_t row = static_cast<size_t>(width), slab = row * static_cast<size_t>(depth);
  // Each cell takes the label of an open one before it, and joins those of the others.
  Joined joined;
  size_t at = 0;
  for (int32_t y = 0; y < levels; ++y)
    for (int32_t z = 0; z < depth; ++z)
      for (int32_t x = 0; x < width; ++x, ++at) {
        if (grid.at(x, z, y)) continue;
        uint32_t& own = out.labels[at];
        const auto look = [&](bool there, size_t back) {
          if (!there || out.labels[at - back] == kSolid) return;
          if (own == kSolid)
            own = out.labels[at - back];
          else
            joined.join(own, out.labels[at - back]);
        };
        look(x > 0, 1);
        look(z > 0, row);
        look(y > 0, slab);
        if (own == kSolid) own = joined.add();
      }
  std::vector<OpenSpace> found(joined.size());
  at = 0;
  for (int32_t y = 0; y < levels; ++y)
    for (int32_t z = 0; z < depth; ++z)
      for (int32_t x = 0; x < width; ++x, ++at) {
        uint32_t& own = out.labels[at];
        if (own == kSolid) continue;
        own = joined.of(own);
        OpenSpace& space = found[own];
        if (space.cells++ == 0) {
          space.x = x;
          space.z = z;
          space.y = y;
        }
        space.openEnded = space.openEnded || x == 0 || z == 0 || x + 1 == width || z + 1 == depth ||
                          (levels > 1 && (y == 0 || y + 1 == levels));
      }
  std::vector<uint32_t> order;
  for (uint32_t i = 0; i < found.size(); ++i)
    if (found[i].cells > 0) order.push_back(i);
  // Labels ascend with first cells.
  std::stable_sort(order.begin(), order.end(),
                   [&](uint32_t a, uint32_t b) { return found[a].cells > found[b].cells; });
  std::vector<uint32_t> place(found.size(), kSolid);
  for (uint32_t i = 0; i < order.size(); ++i) {
    place[order[i]] = i;
    out.spaces.push_back(found[order[i]]);
  }
  for (uint32_t& label : out.labels)
    if (label != kSolid) label = place[label];
  return out;
}

size_t fillSmallSpaces(BitGrid& grid, uint64_t least) {
  const OpenSpaces open = OpenSpaces::of(grid);
  size_t at = 0;
  for (int32_t y = 0; y < grid.levels(); ++y)
    for (int32_t z = 0; z < grid.depth(); ++z)
      for (int32_t x = 0; x < grid.width(); ++x, ++at)
        if (open.labels[at] != OpenSpaces::kSolid && open.spaces[open.labels[at]].cells < least)
          grid.set(x, z, y, true);
  return static_cast<size_t>(std::count_if(open.spaces.begin(), open.spaces.end(),
                                           [&](const OpenSpace& s) { return s.cells < least; }));
}

std::optional<uint64_t> joinSpaces(BitGrid& plane, int32_t rim) {
  const OpenSpaces open = OpenSpaces::of(plane);
  if (open.spaces.size() < 2) return 0;
  const int32_t width = plane.width(), depth = plane.depth();
  std::vector<bool> joined(open.spaces.size());
  joined[0] = true;
  BitGrid out = plane;
  uint64_t dug = 0;
  constexpr uint32_t kNone = 0xFFFFFFFF;
  for (size_t left = open.spaces.size() - 1; left > 0; --left) {
    // From all that is joined, ring by ring, in the order of the grid.
    std::vector<uint32_t> from(open.labels.size(), kNone);
    std::deque<uint32_t> ring;
    for (uint32_t i = 0; i < open.labels.size(); ++i) {
      const auto x = static_cast<int32_t>(i) % width, z = static_cast<int32_t>(i) / width;
      const bool start =
          open.labels[i] != OpenSpaces::kSolid ? joined[open.labels[i]] : !out.at(x, z);
      if (!start) continue;
      from[i] = i;
      ring.push_back(i);
    }
    uint32_t reached = kNone;
    while (!ring.empty() && reached == kNone) {
      const uint32_t at = ring.front();
      ring.pop_front();
      const auto x = static_cast<int32_t>(at) % width, z = static_cast<int32_t>(at) / width;
      constexpr int32_t kSides[4][2] = {{0, -1}, {-1, 0}, {1, 0}, {0, 1}};
      for (const auto& [dx, dz] : kSides) {
        const int32_t nx = x + dx, nz = z + dz;
        if (nx < 0 || nz < 0 || nx >= width || nz >= depth) continue;
        const auto next = static_cast<uint32_t>(nz * width + nx);
        if (from[next] != kNone) continue;
        const bool solid = open.labels[next] == OpenSpaces::kSolid;
        if (solid && (nx < rim || nz < rim || nx >= width - rim || nz >= depth - rim)) continue;
        from[next] = at;
        if (!solid) {
          reached = next;
          break;
        }
        ring.push_back(next);
      }
    }
    if (reached == kNone) return std::nullopt;
    joined[open.labels[reached]] = true;
    for (uint32_t at = from[reached]; from[at] != at; at = from[at]) {
      out.set(static_cast<int32_t>(at) % width, static_cast<int32_t>(at) / width, false);
      ++dug;
    }
  }
  plane = std::move(out);
  return dug;
}

}  // namespace acre
