#include "noise/nearest.h"

#include <cmath>
#include <limits>

namespace acre {

void plainNearestSites(
    const SiteList& sites, const SitePlaces& places, int32_t* own, float* first, float* second) {
  for (int k = 0; k < places.count; ++k) {
    own[k] = 0;
    first[k] = second[k] = std::numeric_limits<float>::max();
    for (int s = 0; s < sites.count; ++s) {
      const float d = siteFrom(sites, s, places, k).squared();
      if (d < first[k]) {
        second[k] = first[k];
        first[k] = d;
        own[k] = s;
      } else if (d < second[k]) {
        second[k] = d;
      }
    }
  }
}

void plainSiteBorders(const SiteList& sites, const SitePlaces& places, const int32_t* own,
    float reach, float* border) {
  for (int k = 0; k < places.count; ++k) {
    const SiteOffset home = siteFrom(sites, own[k], places, k);
    border[k] = reach;
    for (int s = 0; s < sites.count; ++s) {
      if (s == own[k]) continue;
      const SiteOffset other = siteFrom(sites, s, places, k);
      const float dx = other.x - home.x, dz = other.z - home.z;
      const float apart = std::sqrt(dx * dx + dz * dz);
      const float half = (other.squared() - home.squared()) / (2.0f * apart);
      if (half < border[k]) border[k] = half;
    }
  }
}

void plainNearestIdeal(const IdealSet& points, int64_t count, const float* x, const float* y,
    const float* altitude, uint16_t* best) {
  for (int64_t i = 0; i < count; ++i) {
    float lowest = std::numeric_limits<float>::infinity();
    best[i] = 0;
    for (int k = 0; k < points.count; ++k) {
      const float dx = (x[i] - points.x[k]) * points.scaleX;
      const float dy = (y[i] - points.y[k]) * points.scaleY;
      const float da = (altitude[i] - points.altitude[k]) * points.altitudeScale[k];
      const float score = ((dx * dx + dy * dy) + da * da) * points.share[k];
      if (score < lowest) {
        lowest = score;
        best[i] = static_cast<uint16_t>(k);
      }
    }
  }
}

}  // namespace acre
