#include "cave/open_spaces.h"

#include <algorithm>
#include <bit>
#include <functional>
#include <queue>

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
  const int32_t width = grid.width(), length = grid.length(), levels = grid.levels();
  OpenSpaces out;
  out.labels.assign(
      static_cast<size_t>(width) * static_cast<size_t>(length) * static_cast<size_t>(levels),
      kSolid);
  const size_t row = static_cast<size_t>(width), slab = row * static_cast<size_t>(length);
  // Each cell takes the label of an open one before it, and joins those of the others.
  Joined joined;
  size_t at = 0;
  for (int32_t y = 0; y < levels; ++y)
    for (int32_t z = 0; z < length; ++z)
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
    for (int32_t z = 0; z < length; ++z)
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
        space.openEnded = space.openEnded || x == 0 || z == 0 || x + 1 == width ||
                          z + 1 == length || (levels > 1 && (y == 0 || y + 1 == levels));
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

BitGrid solidPlane(int32_t width, int32_t length) {
  BitGrid out(width, length);
  for (int32_t z = 0; z < length; ++z)
    for (int32_t word = 0; word * 64 < width; ++word) out.setWord(word, z, 0, ~uint64_t{0});
  return out;
}

uint64_t outlineOf(const BitGrid& plane) {
  const int32_t width = plane.width();
  uint64_t out = 0;
  // 64 sides at a time: those to the east, and those to the south.
  for (int32_t z = 0; z < plane.length(); ++z)
    for (int32_t first = 0; first < width; first += 64) {
      const int32_t cells = std::min(64, width - first);
      const auto mask = [](int32_t count) {
        return count >= 64 ? ~uint64_t{0} : (uint64_t{1} << count) - 1;
      };
      const uint64_t own = plane.bits(first, z);
      const int32_t east = std::min(cells, width - 1 - first);
      if (east > 0)
        out += static_cast<uint64_t>(std::popcount((own ^ plane.bits(first + 1, z)) & mask(east)));
      if (z + 1 < plane.length())
        out += static_cast<uint64_t>(std::popcount((own ^ plane.bits(first, z + 1)) & mask(cells)));
    }
  return out;
}

size_t fillSmallSpaces(BitGrid& grid, uint64_t least) {
  const OpenSpaces open = OpenSpaces::of(grid);
  size_t at = 0;
  for (int32_t y = 0; y < grid.levels(); ++y)
    for (int32_t z = 0; z < grid.length(); ++z)
      for (int32_t x = 0; x < grid.width(); ++x, ++at)
        if (open.labels[at] != OpenSpaces::kSolid && open.spaces[open.labels[at]].cells < least)
          grid.set(x, z, y, true);
  return static_cast<size_t>(std::count_if(
      open.spaces.begin(), open.spaces.end(), [&](const OpenSpace& s) { return s.cells < least; }));
}

namespace {

/// How far the cells of a plane are from all that is joined, through solid cells that may be dug.
/// What joins later makes them come nearer; each cell is looked at again only then.
class Digging {
 public:
  Digging(const BitGrid& plane, int32_t rim, OpenSpaces open)
      : width_(plane.width()),
        length_(plane.length()),
        rim_(rim),
        open_(std::move(open)),
        joined_(open_.spaces.size()),
        away_(open_.labels.size(), kFar),
        cells_(open_.spaces.size()) {
    for (uint32_t i = 0; i < open_.labels.size(); ++i)
      if (open_.labels[i] != OpenSpaces::kSolid) cells_[open_.labels[i]].push_back(i);
  }

  size_t spaces() const { return joined_.size(); }

  void join(uint32_t space) {
    joined_[space] = true;
    for (const uint32_t cell : cells_[space]) start(cell);
    cells_[space] = {};
  }
  void start(uint32_t cell) {
    away_[cell] = 0;
    push(cell, 0);
  }

  /// The first cell of the nearest space that is not joined, of equally near ones the first in the
  /// order of the plane; nothing when none is reached.
  std::optional<uint32_t> nearest() {
    for (size_t ring = 0;; ++ring) {
      while (!found_.empty() && joined_[open_.labels[found_.top().second]]) found_.pop();
      if (!found_.empty() && found_.top().first <= ring) return found_.top().second;
      if (ring >= rings_.size()) return std::nullopt;
      for (size_t n = 0; n < rings_[ring].size(); ++n) lookAround(rings_[ring][n], ring);
      rings_[ring].clear();
    }
  }

  /// Cells to dig from what is joined to a cell that nearest() found.
  std::vector<uint32_t> wayTo(uint32_t cell) const {
    std::vector<uint32_t> out;
    uint32_t steps = kFar;
    eachSide(cell, [&](uint32_t next) { steps = std::min(steps, away_[next]); });
    for (uint32_t at = cell;; --steps) {
      uint32_t back = at;
      eachSide(at, [&](uint32_t next) {
        if (back == at && away_[next] == steps) back = next;
      });
      at = back;
      if (steps == 0) return out;
      out.push_back(at);
    }
  }

 private:
  static constexpr uint32_t kFar = 0xFFFFFFFF;

  template <class Visit>
  void eachSide(uint32_t cell, Visit&& visit) const {
    const auto x = static_cast<int32_t>(cell) % width_, z = static_cast<int32_t>(cell) / width_;
    const auto row = static_cast<uint32_t>(width_);
    if (z > 0) visit(cell - row);
    if (x > 0) visit(cell - 1);
    if (x + 1 < width_) visit(cell + 1);
    if (z + 1 < length_) visit(cell + row);
  }
  bool mayBeDug(uint32_t cell) const {
    const auto x = static_cast<int32_t>(cell) % width_, z = static_cast<int32_t>(cell) / width_;
    return x >= rim_ && z >= rim_ && x < width_ - rim_ && z < length_ - rim_;
  }
  void push(uint32_t cell, size_t ring) {
    if (rings_.size() <= ring) rings_.resize(ring + 1);
    rings_[ring].push_back(cell);
  }
  void lookAround(uint32_t cell, size_t ring) {
    if (away_[cell] != ring) return;  // It came nearer since.
    const auto next = static_cast<uint32_t>(ring + 1);
    eachSide(cell, [&](uint32_t to) {
      const uint32_t label = open_.labels[to];
      if (label != OpenSpaces::kSolid) {
        if (!joined_[label]) found_.push({next, to});
      } else if (away_[to] > next && mayBeDug(to)) {
        away_[to] = next;
        push(to, next);
      }
    });
  }

  using Found = std::pair<uint32_t, uint32_t>;
  int32_t width_, length_, rim_;
  OpenSpaces open_;
  std::vector<bool> joined_;
  std::vector<uint32_t> away_;
  std::vector<std::vector<uint32_t>> cells_;  // By space.
  std::vector<std::vector<uint32_t>> rings_;  // Cells to look around from, by how far they are.
  std::priority_queue<Found, std::vector<Found>, std::greater<>> found_;
};

}  // namespace

std::optional<uint64_t> joinSpaces(BitGrid& plane, int32_t rim) {
  OpenSpaces open = OpenSpaces::of(plane);
  if (open.spaces.size() < 2) return 0;
  const std::vector<uint32_t> labels = open.labels;
  Digging digging(plane, rim, std::move(open));
  digging.join(0);
  std::vector<uint32_t> dug;
  for (size_t left = digging.spaces() - 1; left > 0; --left) {
    const auto reached = digging.nearest();
    if (!reached) return std::nullopt;
    for (const uint32_t cell : digging.wayTo(*reached)) {
      dug.push_back(cell);
      digging.start(cell);
    }
    digging.join(labels[*reached]);
  }
  for (const uint32_t cell : dug)
    plane.set(static_cast<int32_t>(cell) % plane.width(),
        static_cast<int32_t>(cell) / plane.width(), false);
  return dug.size();
}

}  // namespace acre
