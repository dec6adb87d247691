/// Cheapest ways over a field of open and closed places, in whole numbers.
///
/// Source: P. Hart, N. Nilsson, B. Raphael, "A formal basis for the heuristic determination of
/// minimum cost paths", 1968, carried on until the cheapest way is the only one.
#pragma once

#include <algorithm>
#include <cstdint>
#include <cstdlib>
#include <functional>
#include <limits>
#include <optional>
#include <queue>
#include <stop_token>
#include <utility>
#include <vector>

namespace acre {

/// Why a way was given up.
enum class CourseFault : uint8_t {
  None,
  StartBlocked,  ///< No free place about where it begins.
  GoalBlocked,   ///< None about where it ends, or at a place that it is to pass.
  NoPath,        ///< Obstacles close all.
  TooLong,
  TooDeep,
  Uphill  ///< It would join an earlier one that lies higher.
};
inline constexpr size_t kCourseFaults = 7;
/// "none", "start blocked", "goal blocked", "no path", "too long", "too deep", "uphill".
const char* faultName(CourseFault fault);

/// Whether a way is more than `winding` times as long as the straight line between its ends, that
/// lie (dx, dz) cells apart. length: in 1/256 cell.
bool isTooLong(int64_t length, double winding, int64_t dx, int64_t dz);

/// Closes so many places: those of the greatest values, of equals the first.
void closeHighest(const std::vector<float>& values, double share, std::vector<uint8_t>& closed);

/// Places in rows along x. closed: 1 where nothing leads, one for each place.
struct WayField {
  static constexpr int64_t kStraight = 10, kAslant = 14;  ///< Least costs of a step.

  int32_t wide, deep;
  bool diagonal;  ///< In eight directions, but never between two closed places; else in four.
  const std::vector<uint8_t>& closed;

  size_t index(int32_t x, int32_t z) const {
    return static_cast<size_t>(z) * static_cast<size_t>(wide) + static_cast<size_t>(x);
  }

  /// The cheapest way from one place to another, both included; where it `joins`, to that or to any
  /// place for which ends(place). Of ways of one cost a place is reached from that with the lower
  /// number, and of ends of one cost that with the lower number counts.
  /// cost(from, to, aslant): at least kStraight, kAslant aslant. Empty: there is none, or it was
  /// stopped.
  template <class Cost, class Ends>
  std::vector<size_t> cheapest(size_t start, size_t goal, bool joins, Cost&& cost, Ends&& ends,
      const std::stop_token& stop) const;

 private:
  /// What the rest costs at least.
  int64_t left(size_t from, size_t to) const {
    const auto w = static_cast<int64_t>(wide);
    const auto a = static_cast<int64_t>(from), b = static_cast<int64_t>(to);
    const int64_t dx = std::abs(a % w - b % w), dz = std::abs(a / w - b / w);
    if (!diagonal) return kStraight * (dx + dz);
    return kStraight * std::max(dx, dz) + (kAslant - kStraight) * std::min(dx, dz);
  }
  template <class Visit>
  void spread(size_t at, Visit&& visit) const {
    constexpr int kSteps[8][2] = {
        {1, 0}, {0, 1}, {-1, 0}, {0, -1}, {1, 1}, {-1, 1}, {-1, -1}, {1, -1}};
    const auto x = static_cast<int32_t>(at % static_cast<size_t>(wide));
    const auto z = static_cast<int32_t>(at / static_cast<size_t>(wide));
    const auto open = [&](int32_t px, int32_t pz) {
      return px >= 0 && pz >= 0 && px < wide && pz < deep && !closed[index(px, pz)];
    };
    for (int k = 0; k < (diagonal ? 8 : 4); ++k) {
      const auto [dx, dz] = kSteps[k];
      if (!open(x + dx, z + dz)) continue;
      if (k >= 4 && (!open(x + dx, z) || !open(x, z + dz))) continue;
      visit(index(x + dx, z + dz), k >= 4);
    }
  }
};

template <class Cost, class Ends>
std::vector<size_t> WayField::cheapest(size_t start, size_t goal, bool joins, Cost&& cost,
    Ends&& ends, const std::stop_token& stop) const {
  constexpr int64_t kFar = std::numeric_limits<int64_t>::max();
  std::vector<int64_t> sums(closed.size(), kFar);
  std::vector<uint32_t> before(closed.size(), 0);
  std::vector<uint8_t> done(closed.size(), 0);
  using Entry = std::pair<int64_t, size_t>;
  std::priority_queue<Entry, std::vector<Entry>, std::greater<>> front;
  const auto ahead = [&](size_t n) { return joins ? 0 : left(n, goal); };
  sums[start] = 0;
  front.emplace(ahead(start), start);
  std::optional<size_t> found;
  constexpr int kAsks = 1024;  // Places from one look at the stop token to the next.
  int looked = 0;
  // All that may lie on a way as cheap as that is looked at, so that of equals one counts.
  while (!front.empty() && (!found || front.top().first <= sums[*found])) {
    if (++looked % kAsks == 0 && stop.stop_requested()) return {};
    const size_t at = front.top().second;
    front.pop();
    if (std::exchange(done[at], 1)) continue;
    if (at == goal || (joins && at != start && ends(at))) {
      if (!found || std::pair(sums[at], at) < std::pair(sums[*found], *found)) found = at;
      continue;
    }
    spread(at, [&](size_t to, bool aslant) {
      const int64_t sum = sums[at] + cost(at, to, aslant);
      if (sum > sums[to] || (sum == sums[to] && at >= before[to])) return;
      if (sum < sums[to]) front.emplace(sum + ahead(to), to);
      sums[to] = sum;
      before[to] = static_cast<uint32_t>(at);
    });
  }
  std::vector<size_t> way;
  if (!found) return way;
  for (size_t n = *found; n != start; n = before[n]) way.push_back(n);
  way.push_back(start);
  std::reverse(way.begin(), way.end());
  return way;
}

}  // namespace acre
