/// Plain code of the kernels that look for the nearest of a few points; see noise/kernels.h.
#pragma once

#include "noise/kernels.h"

namespace acre {

/// From sample k to site s, in squares.
struct SiteOffset {
  float x;
  float z;
  float squared() const { return x * x + z * z; }
};
inline SiteOffset siteFrom(const SiteList& sites, int s, const SitePlaces& places, int k) {
  return {static_cast<float>(sites.i[s] - places.i[k]) + sites.x[s] - places.u[k],
      static_cast<float>(sites.j[s] - places.j[k]) + sites.z[s] - places.v[k]};
}

void plainNearestSites(
    const SiteList& sites, const SitePlaces& places, int32_t* own, float* first, float* second);
void plainSiteBorders(const SiteList& sites, const SitePlaces& places, const int32_t* own,
    float reach, float* border);
void plainNearestIdeal(const IdealSet& points, int64_t count, const float* x, const float* y,
    const float* altitude, uint16_t* best);

}  // namespace acre
