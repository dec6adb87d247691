// The kernels of one instruction set, for a unit of its own (kernels_NAME.cpp), so that sets are
// compiled side by side. The unit defines
//   ACRE_KERNEL_TARGET  the set, a HWY_... constant
//   HWY_TARGET_INCLUDE  its own name
// and hands out the table by calling Table(name) of that set's namespace.
// No guard: the unit's own passes, one per set, tell what is compiled.

// The set itself, and whatever any processor of the kind has, which highway wants too and visits
// last.
#undef HWY_DISABLED_TARGETS
#ifdef __x86_64__
#define HWY_DISABLED_TARGETS (~(ACRE_KERNEL_TARGET | HWY_SCALAR | HWY_EMU128))
#else
#define HWY_DISABLED_TARGETS (~ACRE_KERNEL_TARGET)
#endif
#include <hwy/foreach_target.h>  // Must come before highway.h.
//
#include <hwy/highway.h>

#include "noise/kernels.h"

#if HWY_TARGET == ACRE_KERNEL_TARGET
#include "noise/block-inl.h"
#include "noise/grid-inl.h"
#include "noise/nearest-inl.h"
#include "noise/points-inl.h"
#include "noise/shaping-inl.h"
#include "noise/tiles-inl.h"

HWY_BEFORE_NAMESPACE();
namespace acre {
namespace HWY_NAMESPACE {

void BandIndices(const float* heights, int64_t count, const float* thresholds, int thresholdCount,
    uint16_t* bands) {
  const DF d;
  const DI di;
  const hn::Rebind<uint16_t, DF> d16;
  const int64_t lanes = static_cast<int64_t>(hn::Lanes(d));
  int64_t i = 0;
  for (; i + lanes <= count; i += lanes) {
    const VF h = hn::LoadU(d, heights + i);
    auto band = hn::Zero(di);
    for (int t = 0; t < thresholdCount; ++t) {
      const auto above = hn::Ge(h, hn::Set(d, thresholds[t]));
      band = hn::Sub(band, hn::BitCast(di, hn::VecFromMask(d, above)));  // A true lane is -1.
    }
    hn::StoreU(hn::DemoteTo(d16, band), d16, bands + i);
  }
  if (i < count)
    plainKernels().bands(heights + i, count - i, thresholds, thresholdCount, bands + i);
}

const Kernels& Table(const char* name) {
  static const Kernels table{name, GridTile, BlockOf, PointsOf, BandIndices, NearestSites,
      SiteBorders, NearestIdeal, CurveOf, SharesOf, Scale, MaskOf, JoinOf, Shift, TileClasses,
      TileInside, TileNeighbours, TileSides, TileCorners, TileValues, TileVariants};
  return table;
}

}  // namespace HWY_NAMESPACE
}  // namespace acre
HWY_AFTER_NAMESPACE();
#endif
