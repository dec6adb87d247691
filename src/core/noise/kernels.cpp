// Compiled once per instruction set; the kernels themselves are in the -inl.h files beside this
// one.
#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "noise/kernels.cpp"
#include <hwy/foreach_target.h>  // Must come before highway.h.
//
#include <hwy/highway.h>

#include "noise/kernels.h"

#if HWY_TARGET != HWY_SCALAR  // There "plain" serves.
#include "noise/block-inl.h"
#include "noise/grid-inl.h"
#include "noise/nearest-inl.h"
#include "noise/points-inl.h"

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

const char* TableName() {
  switch (HWY_TARGET) {
    case HWY_AVX3:
      return "avx512";
    case HWY_AVX2:
      return "avx2";
    case HWY_SSE4:
      return "sse4";
    case HWY_NEON:
      return "neon";
    default:
      return "emulated";
  }
}

const Kernels& Table() {
  static const Kernels table{TableName(), GridTile,     BlockOf,     PointsOf,
                             BandIndices, NearestSites, SiteBorders, NearestIdeal};
  return table;
}

}  // namespace HWY_NAMESPACE
}  // namespace acre
HWY_AFTER_NAMESPACE();
#endif

#if HWY_ONCE
namespace acre {

const std::vector<const Kernels*>& availableKernels() {
  static const std::vector<const Kernels*> tables = [] {
    std::vector<const Kernels*> list;
    const int64_t supported = static_cast<int64_t>(hwy::SupportedTargets());
    (void)supported;
#if HWY_TARGETS & HWY_AVX3
    if (supported & HWY_AVX3) list.push_back(&N_AVX3::Table());
#endif
#if HWY_TARGETS & HWY_AVX2
    if (supported & HWY_AVX2) list.push_back(&N_AVX2::Table());
#endif
#if HWY_TARGETS & HWY_SSE4
    if (supported & HWY_SSE4) list.push_back(&N_SSE4::Table());
#endif
#if HWY_TARGETS & HWY_NEON
    if (supported & HWY_NEON) list.push_back(&N_NEON::Table());
#endif
#if HWY_TARGETS & HWY_EMU128
    list.push_back(&N_EMU128::Table());
#endif
    list.push_back(&plainKernels());
    return list;
  }();
  return tables;
}

Result<const Kernels*> kernelsNamed(const std::string& name) {
  std::string known;
  for (const Kernels* table : availableKernels()) {
    if (name.empty() || name == table->name) return table;
    known += (known.empty() ? "" : ", ") + std::string(table->name);
  }
  return Error{Error::Code::InvalidInput, "\"" + name + "\" is no instruction set of this machine",
               "--simd", known};
}

}  // namespace acre
#endif
