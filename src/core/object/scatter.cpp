#include "object/scatter.h"

#include <algorithm>
#include <cmath>

#include "base/hash.h"

namespace acre {
namespace {

constexpr double kPi = 3.14159265358979312;
constexpr double kWhole = 4294967296.0;

/// How many places of a square of the distance are taken, of so many candidates: measured.
struct Knot {
  double candidates, places;
};
constexpr Knot kKnots[] = {{0.05, 0.0456}, {0.1, 0.0856}, {0.15, 0.1207}, {0.2, 0.1511},
    {0.3, 0.2036}, {0.4, 0.2466}, {0.55, 0.3023}, {0.7, 0.3385}, {1, 0.3909}, {1.4, 0.4369},
    {2, 0.4796}, {2.8, 0.5065}, {4, 0.5357}, {5.6, 0.5566}, {6, 0.5618}};
constexpr const Knot& kFirst = kKnots[0];
/// Below the first knot, so that it begins with as many places as candidates.
constexpr double kBend = (kFirst.candidates / kFirst.places - 1) / kFirst.places;

}  // namespace

Scatter::Scatter(uint64_t key, int32_t distance)
    : key_(key), distance_(distance), square_(std::clamp(2 * distance / 5, 1, 8)) {
  const int64_t r = distance;
  int64_t near = 0;
  for (int64_t dz = 1 - r; dz < r; ++dz)
    for (int64_t dx = 1 - r; dx < r; ++dx) near += dx * dx + dz * dz < r * r;
  area_ = static_cast<double>(near - (square_ * square_ - 1)) / kPi;
}

uint64_t Scatter::hashAt(int64_t i, int64_t j) const {
  return combine(combine(key_, static_cast<uint64_t>(i)), static_cast<uint64_t>(j));
}

void Scatter::candidates(int64_t i, int64_t j, int64_t wide, int64_t length, uint64_t below,
    std::vector<Candidate>& out) const {
  std::vector<uint64_t> columns;
  for (int64_t n = i; n < i + wide; ++n) columns.push_back(combine(key_, static_cast<uint64_t>(n)));
  for (int64_t row = j; row < j + length; ++row) {
    const uint64_t mixed = mixedValue(static_cast<uint64_t>(row));
    for (int64_t n = 0; n < wide; ++n) {
      const uint64_t h = combineMixed(columns[static_cast<size_t>(n)], mixed);
      if (h >> 32 < below) out.push_back(placed(i + n, row, h));
    }
  }
}

Candidate Scatter::placed(int64_t i, int64_t j, uint64_t h) const {
  const uint64_t place = combine(h, 1);
  const auto along = [&](uint64_t bits) {
    return static_cast<int64_t>((bits & 0xFFFF) * static_cast<uint64_t>(square_) >> 16);
  };
  return {{i * square_ + along(place), j * square_ + along(place >> 16)}, h};
}

double Scatter::candidatesFor(double places) const {
  if (places <= kFirst.places) return places * (1 + kBend * places);
  for (size_t k = 1; k < std::size(kKnots); ++k) {
    const Knot &a = kKnots[k - 1], &b = kKnots[k];
    if (places <= b.places)
      return a.candidates +
             (b.candidates - a.candidates) * (places - a.places) / (b.places - a.places);
  }
  return std::rbegin(kKnots)->candidates;
}

uint64_t Scatter::chanceFor(double density) const {
  const double asked = density / 1000;
  const auto squares = static_cast<double>(square_ * square_);
  const double perCell = distance_ == 1 ? asked : candidatesFor(asked * area_) / area_;
  return static_cast<uint64_t>(std::min(1.0, perCell * squares) * kWhole);
}

double Scatter::most() const {
  if (distance_ == 1) return 1000;
  // A square holds one candidate at most.
  const double candidates = area_ / static_cast<double>(square_ * square_);
  double places = kFirst.places;
  for (size_t k = 1; k < std::size(kKnots); ++k) {
    const Knot &a = kKnots[k - 1], &b = kKnots[k];
    const double t = (candidates - a.candidates) / (b.candidates - a.candidates);
    if (t > 0) places = a.places + (b.places - a.places) * std::min(1.0, t);
  }
  return places / area_ * 1000;
}

std::vector<uint8_t> Scatter::taken(const std::vector<Candidate>& existing) const {
  const size_t count = existing.size();
  if (distance_ == 1) return std::vector<uint8_t>(count, 1);
  std::vector<uint8_t> out(count, 0);
  if (count == 0) return out;
  struct Rank {
    uint32_t chance, place;
  };
  std::vector<Rank> order(count);
  for (size_t n = 0; n < count; ++n) order[n] = {existing[n].chance(), static_cast<uint32_t>(n)};
  std::sort(order.begin(), order.end(), [&](const Rank& a, const Rank& b) {
    return a.chance != b.chance ? a.chance < b.chance
                                : existing[a.place].betterThan(existing[b.place]);
  });
  // Buckets as wide as the distance, with those that were looked at.
  Cell low = existing[0].cell, high = low;
  for (const Candidate& c : existing) {
    low = {std::min(low.x, c.cell.x), std::min(low.z, c.cell.z)};
    high = {std::max(high.x, c.cell.x), std::max(high.z, c.cell.z)};
  }
  const int64_t r = distance_;
  const int64_t wide = (high.x - low.x) / r + 3;
  const auto deep = static_cast<size_t>((high.z - low.z) / r + 3);
  std::vector<int32_t> head(static_cast<size_t>(wide) * deep, -1), next(count, -1);
  // Positive: taken in that round; negative: excluded in it. Those of later rounds than the last
  // are not taken, but exclude as if they were.
  std::vector<int32_t> round(count, 0);
  for (const auto& [chance, n] : order) {
    const Cell at = existing[n].cell;
    const int64_t bucket = ((at.z - low.z) / r + 1) * wide + (at.x - low.x) / r + 1;
    int32_t excluded = INT32_MAX, after = 0;
    for (int64_t dz = -1; dz <= 1; ++dz)
      for (int64_t dx = -1; dx <= 1; ++dx)
        for (int32_t m = head[static_cast<size_t>(bucket + dz * wide + dx)]; m >= 0;
             m = next[static_cast<size_t>(m)]) {
          const Cell other = existing[static_cast<size_t>(m)].cell;
          const int64_t x = other.x - at.x, z = other.z - at.z;
          if (x * x + z * z >= r * r) continue;
          const int32_t there = round[static_cast<size_t>(m)];
          if (there > 0)
            excluded = std::min(excluded, there);
          else
            after = std::max(after, -there);
        }
    round[n] = excluded != INT32_MAX ? -excluded : after + 1;
    out[n] = round[n] > 0 && round[n] <= kRounds;
    next[n] = head[static_cast<size_t>(bucket)];
    head[static_cast<size_t>(bucket)] = static_cast<int32_t>(n);
  }
  return out;
}

}  // namespace acre
