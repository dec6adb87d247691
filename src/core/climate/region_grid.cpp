#include "climate/region_grid.h"

#include <algorithm>
#include <cmath>

namespace acre {
namespace {

__extension__ using Wide = __int128;

constexpr int kMost = 1024;  ///< Samples of a patch.
constexpr int kPad = 16;

/// Where samples lie on one axis of the lattice.
struct AxisPlace {
  int64_t square;
  float fraction;
};

AxisPlace placeOn(const Octave& lattice, int axis, int64_t cell, int64_t q) {
  const int64_t step = lattice.steps[axis][axis];
  const Wide at = static_cast<Wide>(cell) * step + ((static_cast<Wide>(q) * step) >> 16) +
                  static_cast<Wide>(lattice.phase[axis]);
  return {static_cast<int64_t>(at >> 48),
      static_cast<float>(static_cast<uint32_t>(static_cast<uint64_t>(at) >> 24 & 0xFFFFFF)) *
          0x1p-24f};
}

/// A cell's place on an axis, moved by so many cells.
Pos moved(int64_t cell, float by) {
  const int32_t fixed = fixedShift(by);
  return {cell + (fixed >> 16), fixed & 0xFFFF};
}

int64_t squareAt(int64_t base, int by) {
  return static_cast<int64_t>(static_cast<uint64_t>(base) + static_cast<uint64_t>(int64_t{by}));
}

/// The samples of a patch on the lattice, relative to the square of its first sample.
struct Places {
  int64_t baseI = 0, baseJ = 0;
  std::vector<int32_t> i, j;
  std::vector<float> u, v;
  float low[2], high[2];  // Box around them all, in squares from the base.

  Places() : i(kMost + kPad), j(kMost + kPad), u(kMost + kPad), v(kMost + kPad) {}

  void begin() {
    low[0] = low[1] = HUGE_VALF;
    high[0] = high[1] = -HUGE_VALF;
  }
  void set(size_t k, const AxisPlace& x, const AxisPlace& z) {
    i[k] = static_cast<int32_t>(x.square - baseI);
    j[k] = static_cast<int32_t>(z.square - baseJ);
    u[k] = x.fraction;
    v[k] = z.fraction;
    const float place[2] = {static_cast<float>(i[k]) + u[k], static_cast<float>(j[k]) + v[k]};
    for (int a = 0; a < 2; ++a) {
      low[a] = std::min(low[a], place[a]);
      high[a] = std::max(high[a], place[a]);
    }
  }
};

/// The sites that can be nearest, or within `extra` of being so, from somewhere in a box.
class Candidates {
 public:
  void gather(const RegionPlan& plan, const Places& places, float extra, RegionPatch& out) {
    // A place is never farther than this from the site of its own square.
    constexpr float kFarthest = 1.4143f;
    const float reach = kFarthest + extra;
    const int i0 = static_cast<int>(std::floor(places.low[0] - reach));
    const int i1 = static_cast<int>(std::floor(places.high[0] + reach));
    const int j0 = static_cast<int>(std::floor(places.low[1] - reach));
    const int j1 = static_cast<int>(std::floor(places.high[1] + reach));
    all_.clear();
    float bound = HUGE_VALF;
    for (int j = j0; j <= j1; ++j)
      for (int i = i0; i <= i1; ++i) {
        const RegionId id{squareAt(places.baseI, i), squareAt(places.baseJ, j)};
        const uint32_t hash = regionHash(plan, id);
        Site site{i, j, siteOffset(hash, plan.jitter), siteOffset(siteHash2(hash), plan.jitter), id,
            hash, 0};
        const float at[2] = {static_cast<float>(i) + site.x, static_cast<float>(j) + site.z};
        float near = 0, far = 0;
        for (int a = 0; a < 2; ++a) {
          const float out0 = places.low[a] - at[a], out1 = at[a] - places.high[a];
          const float nearest = std::max({out0, out1, 0.0f});
          const float farthest = std::max(std::abs(out0), std::abs(out1));
          near += nearest * nearest;
          far += farthest * farthest;
        }
        site.near = std::sqrt(near);
        bound = std::min(bound, std::sqrt(far));
        all_.push_back(site);
      }
    i_.clear(), j_.clear(), x_.clear(), z_.clear(), out.ids.clear(), out.hashes.clear();
    // The slack is far above what rounding could make of these few sums.
    for (const Site& site : all_) {
      if (site.near > bound + extra + 1e-3f) continue;
      i_.push_back(site.i);
      j_.push_back(site.j);
      x_.push_back(site.x);
      z_.push_back(site.z);
      out.ids.push_back(site.id);
      out.hashes.push_back(site.hash);
    }
    out.sites = {static_cast<int>(i_.size()), i_.data(), j_.data(), x_.data(), z_.data()};
  }

 private:
  struct Site {
    int32_t i, j;
    float x, z;
    RegionId id;
    uint32_t hash;
    float near;
  };
  std::vector<Site> all_;
  std::vector<int32_t> i_, j_;
  std::vector<float> x_, z_;
};

}  // namespace

std::pair<Pos, Pos> RegionGrid::placeOf(Cell cell) const {
  const Pos x{cell.x, 0}, z{cell.z, 0};
  if (!shift_.on()) return {x, z};
  return {moved(cell.x, shift_.x->at(x, z) * shift_.cells),
      moved(cell.z, shift_.z->at(x, z) * shift_.cells)};
}

std::vector<std::pair<Pos, Pos>> RegionGrid::placesOf(
    const Kernels& kernels, int count, const Cell* cells) const {
  const auto n = static_cast<size_t>(count);
  std::vector<int64_t> x(n), z(n);
  for (size_t k = 0; k < n; ++k) x[k] = cells[k].x, z[k] = cells[k].z;
  std::vector<float> byX(n), byZ(n);
  if (shift_.on()) {
    const std::vector<int32_t> q(n);
    const Points places{count, {x.data(), nullptr, z.data()}, {q.data(), nullptr, q.data()}};
    shift_.x->points(kernels, places, byX.data());
    shift_.z->points(kernels, places, byZ.data());
  }
  std::vector<std::pair<Pos, Pos>> out(n);
  for (size_t k = 0; k < n; ++k)
    out[k] = {moved(x[k], byX[k] * shift_.cells), moved(z[k], byZ[k] * shift_.cells)};
  return out;
}

bool RegionGrid::visit(const Kernels& kernels, const SampleGrid& grid, float reach, float blend,
    const std::stop_token& stop, const std::function<void(const RegionPatch&)>& visit) const {
  const ptrdiff_t wide = grid.width;
  const auto count = static_cast<size_t>(grid.width) * static_cast<size_t>(grid.length);
  std::vector<float> shiftX, shiftZ;
  if (shift_.on()) {
    shiftX.resize(count);
    shiftZ.resize(count);
    if (!shift_.x->evaluate(kernels, grid, shiftX.data(), wide, stop) ||
        !shift_.z->evaluate(kernels, grid, shiftZ.data(), wide, stop))
      return false;
  }
  // A patch spans about half a square, or a single sample where they lie far apart.
  const Octave& lattice = plan_.lattice;
  const double squaresPerStep =
      static_cast<double>(lattice.steps[kX][kX]) * 0x1p-48 * static_cast<double>(grid.step);
  const auto side = [&](double squares, int most) {
    return std::clamp(static_cast<int>(std::min(1e6, squares / squaresPerStep)), 1, most);
  };
  const int columns = side(0.5, 64), rows = side(0.5, kMost / 64);

  Places places;
  Candidates candidates;
  RegionPatch patch;
  patch.own.resize(kMost + kPad);
  patch.first.resize(kMost + kPad);
  patch.second.resize(kMost + kPad);
  if (reach > 0) patch.border.resize(kMost + kPad);
  std::vector<AxisPlace> across(static_cast<size_t>(columns)), down(static_cast<size_t>(rows));
  for (int j0 = 0; j0 < grid.length; j0 += rows) {
    if (stop.stop_requested()) return false;
    for (int i0 = 0; i0 < grid.width; i0 += columns) {
      patch.column = i0;
      patch.row = j0;
      patch.width = std::min(columns, grid.width - i0);
      patch.height = std::min(rows, grid.length - j0);
      const auto cellX = [&](int i) { return grid.x + (i0 + i) * grid.step; };
      const auto cellZ = [&](int j) { return grid.z + (j0 + j) * grid.step; };
      places.baseI = placeOn(lattice, kX, cellX(0), 0).square;
      places.baseJ = placeOn(lattice, kZ, cellZ(0), 0).square;
      places.begin();
      size_t k = 0;
      if (shift_.on()) {
        for (int j = 0; j < patch.height; ++j) {
          const ptrdiff_t row = (j0 + j) * wide + i0;
          for (int i = 0; i < patch.width; ++i, ++k)
            places.set(k,
                placeOn(lattice, kX, cellX(i),
                    fixedShift(shiftX[static_cast<size_t>(row + i)] * shift_.cells)),
                placeOn(lattice, kZ, cellZ(j),
                    fixedShift(shiftZ[static_cast<size_t>(row + i)] * shift_.cells)));
        }
      } else {
        for (int i = 0; i < patch.width; ++i)
          across[static_cast<size_t>(i)] = placeOn(lattice, kX, cellX(i), 0);
        for (int j = 0; j < patch.height; ++j)
          down[static_cast<size_t>(j)] = placeOn(lattice, kZ, cellZ(j), 0);
        for (int j = 0; j < patch.height; ++j)
          for (int i = 0; i < patch.width; ++i, ++k)
            places.set(k, across[static_cast<size_t>(i)], down[static_cast<size_t>(j)]);
      }
      // A border can come from a site that is farther than the nearest by twice its distance.
      candidates.gather(plan_, places, std::max(blend, 2 * reach), patch);
      patch.places = {
          static_cast<int>(k), places.i.data(), places.j.data(), places.u.data(), places.v.data()};
      kernels.nearestSites(
          patch.sites, patch.places, patch.own.data(), patch.first.data(), patch.second.data());
      if (reach > 0)
        kernels.siteBorders(
            patch.sites, patch.places, patch.own.data(), reach, patch.border.data());
      visit(patch);
    }
  }
  return true;
}

}  // namespace acre
