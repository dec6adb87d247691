#include "stream/wanted.h"

#include <algorithm>
#include <cmath>
#include <iterator>

namespace acre {
namespace {

/// Largest whole number whose square is not above `v`. REQUIRES: 0 <= v < 2^40.
int64_t squareRoot(int64_t v) {
  auto root = static_cast<int64_t>(std::sqrt(static_cast<double>(v)));
  while (root * root > v) --root;
  while ((root + 1) * (root + 1) <= v) ++root;
  return root;
}

/// Rounded up.
int64_t length(Cell way) {
  const int64_t square = way.x * way.x + way.z * way.z;
  const int64_t root = squareRoot(square);
  return root + (root * root < square);
}

}  // namespace

size_t WantedSet::mostOf(const ChunkLayout& layout) {
  const int64_t layers = layout.highestChunk(0) - layout.lowestChunk(0) + 1;
  return std::max<size_t>(1, kMost / static_cast<size_t>(layers));
}

/// Calls row(cz, first, last) for every row of chunks. A row's nearest cells are dz away, and
/// sqrt(reach^2 - dz^2) cells are left to either side.
template <class Row>
void WantedSet::eachRow(Cell centre, int64_t reach, int level, Row&& row) const {
  const int64_t n = int64_t{layout_.size()} << level;
  const int64_t z0 = std::max(centre.z - reach, bounds_.z);
  const int64_t z1 = std::min(centre.z + reach, bounds_.z + bounds_.length - 1);
  for (int64_t cz = floorDiv(z0, n); z0 <= z1 && cz <= floorDiv(z1, n); ++cz) {
    const int64_t top = std::max(cz * n, bounds_.z);
    const int64_t bottom = std::min(cz * n + n, bounds_.z + bounds_.length) - 1;
    const int64_t dz = std::max<int64_t>({top - centre.z, 0, centre.z - bottom});
    const int64_t aside = squareRoot(reach * reach - dz * dz);
    const int64_t x0 = std::max(centre.x - aside, bounds_.x);
    const int64_t x1 = std::min(centre.x + aside, bounds_.x + bounds_.width - 1);
    if (x0 <= x1) row(cz, floorDiv(x0, n), floorDiv(x1, n));
  }
}

WantedSet::Rows WantedSet::rowsWithin(int64_t reach) const {
  Rows found;
  eachRow(view_, reach, 0, [&](int64_t cz, int64_t first, int64_t last) {
    found.insert_or_assign(found.end(), cz, Span{first, last});
  });
  return found;
}

std::array<Cell, 5> WantedSet::way() const {
  std::array<Cell, 5> at;
  for (int64_t k = 0; k < 5; ++k)
    at[static_cast<size_t>(k)] = {view_.x + lead_.x * k / 4, view_.z + lead_.z * k / 4};
  return at;
}

auto WantedSet::rowsAlongTheWay(int64_t reach, int level) const -> Rows {
  Rows found;
  const auto join = [&](int64_t cz, int64_t first, int64_t last) {
    const auto [row, fresh] = found.try_emplace(cz, Span{first, last});
    row->second = {std::min(row->second.first, first), std::max(row->second.last, last)};
  };
  if (lead_ == Cell{}) {
    eachRow(view_, reach, level, join);
  } else {
    for (const Cell centre : way()) eachRow(centre, reach, level, join);
  }
  return found;
}

size_t WantedSet::countWithin(int64_t distance, const Reach& reach) const {
  size_t count = 0;
  for (const auto& [cz, span] : rowsAlongTheWay(distance, reach.levels - 1))
    count += static_cast<size_t>(span.last - span.first + 1);
  if (reach.levels == 1 || count > most_) return count;
  Reach bare = reach;
  bare.margin = 0;
  return leavesWithin(distance, bare).first.inner.size();
}

std::pair<WantedSet::Leaves, std::set<ChunkPos>> WantedSet::leavesWithin(
    int64_t inner, const Reach& reach) const {
  Leaves leaves;
  std::set<ChunkPos> parted;
  const int top = reach.levels - 1;
  eachRow(view_, inner + reach.margin + length(lead_), top,
      [&](int64_t cz, int64_t first, int64_t last) {
        for (int64_t cx = first; cx <= last; ++cx)
          visit({cx, cz, top}, inner, reach, parted, leaves);
      });
  return {std::move(leaves), std::move(parted)};
}

WantedSet::Change WantedSet::move(Cell view, const Reach& reach) {
  if (levels_ != reach.levels) clear();
  view_ = view;
  lead_ = reach.lead;
  levels_ = reach.levels;
  const int64_t kept = reach.margin + length(lead_);
  int64_t inner = reach.wanted, outer = reach.wanted + kept;
  const size_t all = countWithin(inner, reach);
  if (all > most_) {  // The largest distance that still fits; no lead and no margin around it.
    lead_ = {};
    int64_t fits = 0, beyond = layout_.size();
    while (beyond < inner && countWithin(beyond, reach) <= most_) {
      fits = beyond;
      beyond *= 2;
    }
    beyond = std::min(beyond, inner);
    while (beyond - fits > 1) {
      const int64_t middle = fits + (beyond - fits) / 2;
      (countWithin(middle, reach) > most_ ? beyond : fits) = middle;
    }
    inner = outer = fits;
  }
  Change change;
  if (levels_ == 1) {
    change = moveRows(inner, outer);
  } else {
    Reach fitting = reach;
    if (outer == inner) fitting.margin = 0;
    change = moveLeaves(inner, fitting);
  }
  cut_ = all > most_ ? all - count_ : 0;
  return change;
}

WantedSet::Change WantedSet::moveRows(int64_t inner, int64_t outer) {
  Rows newInner = rowsAlongTheWay(inner, 0), newOuter = rowsWithin(outer);
  const auto spanIn = [](const Rows& in, int64_t cz) {
    const auto found = in.find(cz);
    return found == in.end() ? Span{0, -1} : found->second;
  };
  const auto holds = [&](const Rows& in, ChunkPos pos) {
    const Span span = spanIn(in, pos.cz);
    return pos.cx >= span.first && pos.cx <= span.last;
  };
  // What `of` holds and `other` does not.
  const auto eachBeyond = [&](const Rows& of, const Rows& other, auto&& act) {
    for (const auto& [cz, span] : of) {
      const Span kept = spanIn(other, cz);
      for (int64_t cx = span.first; cx <= span.last; ++cx) {
        if (cx >= kept.first && cx <= kept.last) cx = kept.last + 1;  // Past the kept part.
        if (cx <= span.last) act(ChunkPos{cx, cz});
      }
    }
  };
  Change change;
  eachBeyond(newInner, inner_, [&](ChunkPos pos) { change.come.push_back(pos); });
  eachBeyond(inner_, newInner, [&](ChunkPos pos) {
    if (holds(newOuter, pos)) change.fade.push_back(pos);
  });
  eachBeyond(outer_, newOuter, [&](ChunkPos pos) { change.go.push_back(pos); });
  inner_ = std::move(newInner);
  outer_ = std::move(newOuter);
  count_ = 0;
  for (const auto& [cz, span] : inner_) count_ += static_cast<size_t>(span.last - span.first + 1);
  return change;
}

void WantedSet::visit(
    ChunkPos pos, int64_t inner, const Reach& reach, std::set<ChunkPos>& fresh, Leaves& out) const {
  const Rect ground = groundOf(pos);
  if (ground.empty()) return;
  const int64_t away = squaredDistance(view_, ground);
  const int64_t outer = inner + reach.margin + length(lead_);
  if (away > outer * outer) return;
  if (pos.detail > 0) {
    int64_t limit = reach.detail << (pos.detail - 1);
    if (parted_.contains(pos)) limit += reach.margin;
    if (away <= limit * limit) {
      fresh.insert(pos);
      for (const int64_t dz : {0, 1})
        for (const int64_t dx : {0, 1})
          visit({2 * pos.cx + dx, 2 * pos.cz + dz, pos.detail - 1}, inner, reach, fresh, out);
      return;
    }
  }
  out.outer.push_back(pos);
  const auto way = this->way();
  if (std::any_of(way.begin(), way.end(),
          [&](Cell centre) { return squaredDistance(centre, ground) <= inner * inner; }))
    out.inner.push_back(pos);
}

WantedSet::Change WantedSet::moveLeaves(int64_t inner, const Reach& reach) {
  auto [now, parted] = leavesWithin(inner, reach);
  std::sort(now.inner.begin(), now.inner.end());
  std::sort(now.outer.begin(), now.outer.end());
  const auto minus = [](const std::vector<ChunkPos>& a, const std::vector<ChunkPos>& b) {
    std::vector<ChunkPos> out;
    std::set_difference(a.begin(), a.end(), b.begin(), b.end(), std::back_inserter(out));
    return out;
  };
  Change change;
  change.come = minus(now.inner, leaves_.inner);
  for (const ChunkPos pos : minus(leaves_.inner, now.inner))
    if (std::binary_search(now.outer.begin(), now.outer.end(), pos)) change.fade.push_back(pos);
  change.go = minus(leaves_.outer, now.outer);
  leaves_ = std::move(now);
  parted_ = std::move(parted);
  count_ = leaves_.inner.size();
  return change;
}

void WantedSet::clear() {
  inner_.clear();
  outer_.clear();
  leaves_ = {};
  parted_.clear();
  count_ = cut_ = 0;
}

bool WantedSet::wants(ChunkPos pos) const {
  if (levels_ > 1) return std::binary_search(leaves_.inner.begin(), leaves_.inner.end(), pos);
  const auto row = inner_.find(pos.cz);
  return pos.detail == 0 && row != inner_.end() && pos.cx >= row->second.first &&
         pos.cx <= row->second.last;
}

void WantedSet::heirsBelow(ChunkPos pos, std::vector<ChunkPos>& out) const {
  if (!parted_.contains(pos)) {
    if (wants(pos)) out.push_back(pos);
    return;
  }
  for (const int64_t dz : {0, 1})
    for (const int64_t dx : {0, 1})
      heirsBelow({2 * pos.cx + dx, 2 * pos.cz + dz, pos.detail - 1}, out);
}

std::vector<ChunkPos> WantedSet::heirs(ChunkPos pos) const {
  if (levels_ == 1) return {};
  for (ChunkPos up = pos; up.detail + 1 < levels_;) {
    up = parentOf(up);
    if (wants(up)) return {up};
  }
  std::vector<ChunkPos> out;
  if (parted_.contains(pos)) heirsBelow(pos, out);
  return out;
}

}  // namespace acre
