#include "climate/regions.h"

#include <algorithm>
#include <cmath>
#include <limits>

#include "base/hash.h"

namespace acre {
namespace {

__extension__ using Wide = __int128;

constexpr double kSquare = 0x1p48;

int64_t stepBy(int64_t node, int by) {
  return static_cast<int64_t>(static_cast<uint64_t>(node) + static_cast<uint64_t>(int64_t{by}));
}

/// The sites about one place, ring after ring of squares.
class Neighbourhood {
 public:
  Neighbourhood(const RegionPlan& plan, Pos x, Pos z) : plan_(plan) {
    const Pos place[3] = {x, {}, z};
    const LatticePos px = latticeAt(plan.lattice, 2, kX, place);
    const LatticePos pz = latticeAt(plan.lattice, 2, kZ, place);
    home_ = {px.cell, pz.cell};
    u_ = px.fraction;
    v_ = pz.fraction;
  }

  struct Site {
    RegionId id;
    float x, z;  ///< From the place, in squares.
    float squared() const { return x * x + z * z; }
    /// Nearer, and in the order of names where two are as near.
    bool before(const Site& other) const {
      const float a = squared(), b = other.squared();
      return a < b || (a == b && (id.j < other.id.j || (id.j == other.id.j && id.i < other.id.i)));
    }
  };

  Site site(int a, int b) const {
    const RegionId id{stepBy(home_.i, a), stepBy(home_.j, b)};
    const uint32_t hash = regionHash(plan_, id);
    return {id, static_cast<float>(a) + siteOffset(hash, plan_.jitter) - u_,
        static_cast<float>(b) + siteOffset(siteHash2(hash), plan_.jitter) - v_};
  }

  /// No site of ring `r` or beyond is nearer than this.
  float freeTo(int r) const {
    const float room = static_cast<float>(r) + 0.5f - 0.5f * plan_.jitter;
    const float side = std::max(std::max(u_, v_), std::max(1.0f - u_, 1.0f - v_));
    return std::max(0.0f, room - side);
  }

  /// Calls visit(site) for the squares of ring r, by rows.
  template <class Visit>
  void ring(int r, Visit&& visit) const {
    for (int b = -r; b <= r; ++b)
      for (int a = -r; a <= r; a += (b == -r || b == r || a == r) ? 1 : 2 * r) visit(site(a, b));
  }

  Site nearest() const {
    Site best = site(0, 0);
    for (int r = 1; freeTo(r) * freeTo(r) <= best.squared(); ++r)
      ring(r, [&](const Site& s) {
        if (s.before(best)) best = s;
      });
    return best;
  }

 private:
  const RegionPlan& plan_;
  RegionId home_;
  float u_, v_;
};

}  // namespace

RegionPlan regionPlan(double size, double jitter, uint64_t seed) {
  RegionPlan plan;
  plan.jitter = static_cast<float>(jitter);
  const auto step = static_cast<int64_t>(std::floor(kSquare / size + 0.5));
  for (const int axis : {kX, kZ}) {
    const auto a = static_cast<uint64_t>(axis);
    plan.lattice.steps[axis][axis] = step;
    plan.lattice.seed[axis] = combine(seed, 2 * a);
    plan.lattice.phase[axis] = combine(seed, 2 * a + 1) >> 16;
  }
  return plan;
}

uint32_t regionHash(const RegionPlan& plan, RegionId id) {
  return nodeHash(axisHash(plan.lattice.seed[kX], id.i), axisHash(plan.lattice.seed[kZ], id.j));
}

namespace {

/// The cell along an axis that lies a fraction, of 2^-30, into a square.
int64_t cellAt(const RegionPlan& plan, int axis, int64_t node, int64_t fraction) {
  const Wide at = (static_cast<Wide>(node) << 48) + (static_cast<Wide>(fraction) << 18) -
                  static_cast<Wide>(plan.lattice.phase[axis]);
  const Wide step = plan.lattice.steps[axis][axis];
  Wide cell = at / step;
  if (at < 0 && cell * step != at) --cell;
  return static_cast<int64_t>(std::clamp<Wide>(cell, -kMaxCell, kMaxCell));
}

}  // namespace

Cell siteCell(const RegionPlan& plan, RegionId id) {
  const uint32_t hash = regionHash(plan, id);
  // Offsets are multiples of 2^-24 but for rounding; 2^-30 is finer than any of them matters.
  const auto offset = [&](uint32_t bits) {
    return static_cast<int64_t>(
        std::floor(static_cast<double>(siteOffset(bits, plan.jitter)) * 0x1p30));
  };
  return {cellAt(plan, kX, id.i, offset(hash)), cellAt(plan, kZ, id.j, offset(siteHash2(hash)))};
}

Cell squareCorner(const RegionPlan& plan, RegionId id) {
  return {cellAt(plan, kX, id.i, 0), cellAt(plan, kZ, id.j, 0)};
}

RegionId squareOf(const RegionPlan& plan, Cell cell) {
  const Pos place[3] = {{cell.x, 0}, {}, {cell.z, 0}};
  return {latticeAt(plan.lattice, 2, kX, place).cell, latticeAt(plan.lattice, 2, kZ, place).cell};
}

RegionAt regionAt(const RegionPlan& plan, Pos x, Pos z, float reach) {
  const Neighbourhood around(plan, x, z);
  const Neighbourhood::Site own = around.nearest();
  RegionAt out;
  out.id = out.across = own.id;
  out.distance = std::sqrt(own.squared());
  out.border = reach;
  // The border with a site lies half-way to it; it can be nearer than `border` only when the site
  // is nearer than the own one by less than twice that.
  for (int r = 0; reach > 0 && around.freeTo(r) <= out.distance + 2.0f * out.border; ++r)
    around.ring(r, [&](const Neighbourhood::Site& s) {
      if (s.id == own.id) return;
      const float dx = s.x - own.x, dz = s.z - own.z;
      const float apart = std::sqrt(dx * dx + dz * dz);
      const float border = (s.squared() - own.squared()) / (2.0f * apart);
      if (border < out.border ||
          (border == out.border && border < reach &&
              (s.id.j < out.across.j || (s.id.j == out.across.j && s.id.i < out.across.i)))) {
        out.border = border;
        out.across = s.id;
      }
    });
  return out;
}

std::vector<RegionShare> regionShares(const RegionPlan& plan, Pos x, Pos z, float width) {
  const Neighbourhood around(plan, x, z);
  const Neighbourhood::Site own = around.nearest();
  std::vector<RegionShare> out = {{own.id, 1.0f, 1.0f}};
  if (!(width > 0)) return out;
  const float nearest = std::sqrt(own.squared());
  for (int r = 0; around.freeTo(r) < nearest + width; ++r)
    around.ring(r, [&](const Neighbourhood::Site& s) {
      if (s.id == own.id) return;
      const float part = 1.0f - (std::sqrt(s.squared()) - nearest) / width;
      if (part > 0) out.push_back({s.id, part * part, part * part});
    });
  std::sort(out.begin() + 1, out.end(), [](const RegionShare& a, const RegionShare& b) {
    return a.id.j < b.id.j || (a.id.j == b.id.j && a.id.i < b.id.i);
  });
  float sum = 0;
  for (const RegionShare& s : out) sum += s.weight;
  for (RegionShare& s : out) s.weight /= sum;
  return out;
}

}  // namespace acre
