// Vector forms of noise/nearest.cpp, lane by lane in the same order of operations. Included once
// per instruction set, by noise/kernels.cpp alone.
#if defined(ACRE_NOISE_NEAREST_INL_H_) == defined(HWY_TARGET_TOGGLE)
#ifdef ACRE_NOISE_NEAREST_INL_H_
#undef ACRE_NOISE_NEAREST_INL_H_
#else
#define ACRE_NOISE_NEAREST_INL_H_
#endif

#include "noise/lanes-inl.h"
#include "noise/nearest.h"

HWY_BEFORE_NAMESPACE();
namespace acre {
namespace HWY_NAMESPACE {

using VI = hn::Vec<DI>;

/// One vector of places.
struct PlaceLanes {
  VI i, j;
  VF u, v;
  HWY_INLINE PlaceLanes(const SitePlaces& p, int k)
      : i(hn::LoadU(DI(), p.i + k)),
        j(hn::LoadU(DI(), p.j + k)),
        u(hn::LoadU(DF(), p.u + k)),
        v(hn::LoadU(DF(), p.v + k)) {}
};

HWY_INLINE VF FromPlace(VI square, VI home, VF offset, VF fraction) {
  const VF whole = hn::ConvertTo(DF(), hn::Sub(square, home));
  return hn::Sub(hn::Add(whole, offset), fraction);
}
HWY_INLINE VF Squared(VF x, VF z) {
  return hn::Add(hn::Mul(x, x), hn::Mul(z, z));
}
HWY_INLINE SitePlaces RestOf(const SitePlaces& p, int from) {
  return {p.count - from, p.i + from, p.j + from, p.u + from, p.v + from};
}

void NearestSites(
    const SiteList& sites, const SitePlaces& places, int32_t* own, float* first, float* second) {
  const DF d;
  const DI di;
  int k = 0;
  for (; k + Lanes() <= places.count; k += Lanes()) {
    const PlaceLanes at(places, k);
    VF near = Num(3.402823466e38f), next = near;
    VI best = hn::Zero(di);
    for (int s = 0; s < sites.count; ++s) {
      const VF x = FromPlace(hn::Set(di, sites.i[s]), at.i, Num(sites.x[s]), at.u);
      const VF z = FromPlace(hn::Set(di, sites.j[s]), at.j, Num(sites.z[s]), at.v);
      const VF distance = Squared(x, z);
      const auto nearer = hn::Lt(distance, near);
      next = hn::Min(next, hn::Max(near, distance));
      near = hn::Min(near, distance);
      best = hn::IfThenElse(hn::RebindMask(di, nearer), hn::Set(di, s), best);
    }
    hn::StoreU(best, di, own + k);
    hn::StoreU(near, d, first + k);
    hn::StoreU(next, d, second + k);
  }
  if (k < places.count) plainNearestSites(sites, RestOf(places, k), own + k, first + k, second + k);
}

void SiteBorders(const SiteList& sites, const SitePlaces& places, const int32_t* own, float reach,
    float* border) {
  const DF d;
  const DI di;
  int k = 0;
  for (; k + Lanes() <= places.count; k += Lanes()) {
    const PlaceLanes at(places, k);
    const VI home = hn::LoadU(di, own + k);
    const VF homeX = FromPlace(
        hn::GatherIndex(di, sites.i, home), at.i, hn::GatherIndex(d, sites.x, home), at.u);
    const VF homeZ = FromPlace(
        hn::GatherIndex(di, sites.j, home), at.j, hn::GatherIndex(d, sites.z, home), at.v);
    const VF homeSquared = Squared(homeX, homeZ);
    VF nearest = Num(reach);
    for (int s = 0; s < sites.count; ++s) {
      const VF x = FromPlace(hn::Set(di, sites.i[s]), at.i, Num(sites.x[s]), at.u);
      const VF z = FromPlace(hn::Set(di, sites.j[s]), at.j, Num(sites.z[s]), at.v);
      const VF apart = hn::Sqrt(Squared(hn::Sub(x, homeX), hn::Sub(z, homeZ)));
      const VF half = hn::Div(hn::Sub(Squared(x, z), homeSquared), hn::Mul(Num(2.0f), apart));
      // The own site gives 0 / 0, which is not less than anything.
      nearest = hn::IfThenElse(hn::Lt(half, nearest), half, nearest);
    }
    hn::StoreU(nearest, d, border + k);
  }
  if (k < places.count) plainSiteBorders(sites, RestOf(places, k), own + k, reach, border + k);
}

void NearestIdeal(const IdealSet& points, int64_t count, const float* x, const float* y,
    const float* altitude, uint16_t* best) {
  const DF d;
  const DI di;
  const hn::Rebind<uint16_t, DF> d16;
  const VF scaleX = Num(points.scaleX), scaleY = Num(points.scaleY);
  int64_t i = 0;
  for (; i + Lanes() <= count; i += Lanes()) {
    const VF px = hn::LoadU(d, x + i), py = hn::LoadU(d, y + i), pa = hn::LoadU(d, altitude + i);
    VF lowest = Num(HUGE_VALF);
    VI index = hn::Zero(di);
    for (int k = 0; k < points.count; ++k) {
      const VF dx = hn::Mul(hn::Sub(px, Num(points.x[k])), scaleX);
      const VF dy = hn::Mul(hn::Sub(py, Num(points.y[k])), scaleY);
      const VF da = hn::Mul(hn::Sub(pa, Num(points.altitude[k])), Num(points.altitudeScale[k]));
      const VF score = hn::Mul(hn::Add(Squared(dx, dy), hn::Mul(da, da)), Num(points.share[k]));
      const auto lower = hn::Lt(score, lowest);
      index = hn::IfThenElse(hn::RebindMask(di, lower), hn::Set(di, k), index);
      lowest = hn::IfThenElse(lower, score, lowest);
    }
    hn::StoreU(hn::DemoteTo(d16, index), d16, best + i);
  }
  if (i < count) plainNearestIdeal(points, count - i, x + i, y + i, altitude + i, best + i);
}

}  // namespace HWY_NAMESPACE
}  // namespace acre
HWY_AFTER_NAMESPACE();

#endif
