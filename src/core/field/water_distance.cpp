#include "field/water_distance.h"

#include <algorithm>
#include <cmath>

#include "field/field.h"

namespace acre {

WaterDistance::WaterDistance(
    std::shared_ptr<const Field> heights, float sea, int reach, MemoLimit memo)
    : heights_(std::move(heights)), sea_(sea), reach_(reach), tiles_(std::move(memo)) {}

std::shared_ptr<const WaterDistance::Tile> WaterDistance::waterOf(
    const Kernels& kernels, int64_t tx, int64_t tz, const std::stop_token& stop) const {
  return tiles_.get({1, tx, tz}, stop, [&]() -> std::shared_ptr<const Tile> {
    std::vector<float> heights(size_t{kSide} * kSide);
    if (!heights_->evaluate(
            kernels, {tx * kSide, tz * kSide, 1, kSide, kSide}, heights.data(), kSide, stop))
      return nullptr;
    auto tile = std::make_shared<Tile>();
    tile->water.assign(size_t{kSide} * kSide / 64, 0);
    for (size_t k = 0; k < heights.size(); ++k)
      if (heights[k] < sea_) tile->water[k / 64] |= uint64_t{1} << (k % 64);
    return tile;
  });
}

std::shared_ptr<const WaterDistance::Tile> WaterDistance::distancesOf(
    const Kernels& kernels, int64_t tx, int64_t tz, const std::stop_token& stop) const {
  return tiles_.get({0, tx, tz}, stop, [&]() -> std::shared_ptr<const Tile> {
    auto tile = std::make_shared<Tile>();
    if (!measure(kernels, tx, tz, stop, tile->distances)) return nullptr;
    return tile;
  });
}

/// First down and up the columns, then along the rows by the lower envelope of the parabolas.
bool WaterDistance::measure(const Kernels& kernels, int64_t tx, int64_t tz,
    const std::stop_token& stop, std::vector<uint16_t>& out) const {
  const int wide = kSide + 2 * reach_;
  const int none = 4 * kSide;  // Farther than anything within reach.
  std::shared_ptr<const Tile> around[3][3];
  for (int j = 0; j < 3; ++j)
    for (int i = 0; i < 3; ++i) {
      around[j][i] = waterOf(kernels, tx + i - 1, tz + j - 1, stop);
      if (!around[j][i]) return false;
    }
  const auto isWater = [&](int x, int z) {  // Cells from the tile's first one.
    const Tile& t = *around[(z + kSide) / kSide][(x + kSide) / kSide];
    const auto k =
        static_cast<size_t>((z + kSide) % kSide) * kSide + static_cast<size_t>((x + kSide) % kSide);
    return (t.water[k / 64] >> (k % 64) & 1) != 0;
  };
  std::vector<int> columns(static_cast<size_t>(wide) * kSide);
  const auto column = [&](int x, int z) -> int& {
    return columns[static_cast<size_t>(z) * static_cast<size_t>(wide) +
                   static_cast<size_t>(x + reach_)];
  };
  for (int x = -reach_; x < kSide + reach_; ++x) {
    if (x % 64 == 0 && stop.stop_requested()) return false;
    int away = none;
    for (int z = -reach_; z < kSide; ++z) {
      away = isWater(x, z) ? 0 : std::min(none, away + 1);
      if (z >= 0) column(x, z) = away;
    }
    away = none;
    for (int z = kSide + reach_ - 1; z >= 0; --z) {
      away = isWater(x, z) ? 0 : std::min(none, away + 1);
      if (z < kSide) column(x, z) = std::min(column(x, z), away);
    }
  }
  out.assign(size_t{kSide} * kSide, kFar);
  std::vector<int> sites(static_cast<size_t>(wide)), starts(static_cast<size_t>(wide));
  const int farthest = reach_ * reach_;
  for (int z = 0; z < kSide; ++z) {
    if (z % 16 == 0 && stop.stop_requested()) return false;
    const int* g = columns.data() + static_cast<ptrdiff_t>(z) * wide;
    const auto height = [&](int x, int site) {
      return (x - site) * (x - site) + g[site] * g[site];
    };
    // The last place, from the left, up to which `a` is no farther than `b`, which lies right of
    // it.
    const auto until = [&](int a, int b) {
      const auto squared = [](int64_t v) { return v * v; };
      const int64_t further = squared(b) - squared(a) + squared(g[b]) - squared(g[a]);
      return static_cast<int>(floorDiv(further, int64_t{2} * (b - a)));
    };
    int count = 0;
    for (int b = 0; b < wide; ++b) {
      if (g[b] >= none) continue;
      while (count > 0 &&
             height(starts[static_cast<size_t>(count - 1)], sites[static_cast<size_t>(count - 1)]) >
                 height(starts[static_cast<size_t>(count - 1)], b))
        --count;
      if (count == 0) {
        sites[0] = b;
        starts[0] = 0;
        count = 1;
        continue;
      }
      const int from = 1 + until(sites[static_cast<size_t>(count - 1)], b);
      if (from >= wide) continue;
      sites[static_cast<size_t>(count)] = b;
      starts[static_cast<size_t>(count)] = from;
      ++count;
    }
    for (int x = reach_ + kSide - 1, k = count - 1; x >= reach_ && k >= 0; --x) {
      while (k > 0 && starts[static_cast<size_t>(k)] > x) --k;
      const int squared = height(x, sites[static_cast<size_t>(k)]);
      if (squared <= farthest && squared < kFar)
        out[static_cast<size_t>(z) * kSide + static_cast<size_t>(x - reach_)] =
            static_cast<uint16_t>(squared);
    }
  }
  return true;
}

float WaterDistance::valueOf(uint16_t squared) const {
  if (squared == kFar) return 1;
  return static_cast<float>(std::sqrt(static_cast<double>(squared)) / reach_);
}

void WaterDistance::points(const Kernels& kernels, const Points& places, float* out) const {
  if (places.accuracy == Accuracy::Approximate) return approximate(kernels, places, out);
  std::shared_ptr<const Tile> last;
  int64_t tx = 0, tz = 0;
  for (int i = 0; i < places.count; ++i) {
    const int64_t x = places.cell[kX][i], z = places.cell[kZ][i];
    const int64_t wantX = floorDiv(x, kSide), wantZ = floorDiv(z, kSide);
    if (!last || wantX != tx || wantZ != tz) {
      tx = wantX;
      tz = wantZ;
      last = distancesOf(kernels, tx, tz, places.stop ? *places.stop : std::stop_token());
      if (!last) return std::fill(out + i, out + places.count, 1.0f);
    }
    out[i] = valueOf(
        last->distances[static_cast<size_t>(floorMod(z, kSide) * kSide + floorMod(x, kSide))]);
  }
}

void WaterDistance::approximate(const Kernels& kernels, const Points& places, float* out) const {
  constexpr int kRings = 4, kWays = 8;
  constexpr double kDiagonal = 0.70710678118654752;
  constexpr double kAlong[kWays][2] = {{1, 0}, {kDiagonal, kDiagonal}, {0, 1},
      {-kDiagonal, kDiagonal}, {-1, 0}, {-kDiagonal, -kDiagonal}, {0, -1}, {kDiagonal, -kDiagonal}};
  constexpr int kAll = 1 + kRings * kWays;
  int64_t x[kAll], z[kAll];
  const int32_t q[kAll] = {};
  float heights[kAll];
  for (int i = 0; i < places.count; ++i) {
    x[0] = places.cell[kX][i];
    z[0] = places.cell[kZ][i];
    for (int ring = 0; ring < kRings; ++ring)
      for (int way = 0; way < kWays; ++way) {
        const double away = static_cast<double>(reach_ << ring) / (1 << (kRings - 1));
        const int k = 1 + ring * kWays + way;
        x[k] = x[0] + static_cast<int64_t>(std::floor(kAlong[way][0] * away + 0.5));
        z[k] = z[0] + static_cast<int64_t>(std::floor(kAlong[way][1] * away + 0.5));
      }
    heights_->points(
        kernels, {kAll, {x, nullptr, z}, {q, nullptr, q}, Accuracy::Approximate}, heights);
    double nearest = static_cast<double>(reach_) * reach_;
    for (int k = 0; k < kAll; ++k) {
      if (!(heights[k] < sea_)) continue;
      const auto dx = static_cast<double>(x[k] - x[0]), dz = static_cast<double>(z[k] - z[0]);
      nearest = std::min(nearest, dx * dx + dz * dz);
    }
    out[i] = static_cast<float>(std::sqrt(nearest) / reach_);
  }
}

}  // namespace acre
