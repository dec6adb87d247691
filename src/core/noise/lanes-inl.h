// Vector forms of the small steps of noise/scalar.cpp, in the same order of operations and without
// fused multiply-add. Included once per instruction set, by noise/kernels.cpp alone.
#if defined(ACRE_NOISE_LANES_INL_H_) == defined(HWY_TARGET_TOGGLE)
#ifdef ACRE_NOISE_LANES_INL_H_
#undef ACRE_NOISE_LANES_INL_H_
#else
#define ACRE_NOISE_LANES_INL_H_
#endif

#include <hwy/highway.h>

#include <algorithm>
#include <cstring>

#include "base/hash.h"
#include "noise/kernels.h"

HWY_BEFORE_NAMESPACE();
namespace acre {
namespace HWY_NAMESPACE {
namespace hn = hwy::HWY_NAMESPACE;

__extension__ using Wide = __int128;

using DF = hn::CappedTag<float, 16>;
using DU = hn::RebindToUnsigned<DF>;
using DI = hn::RebindToSigned<DF>;
using VF = hn::Vec<DF>;
using VU = hn::Vec<DU>;
using MF = hn::Mask<DF>;

constexpr int kWidth = Kernels::kTileWidth;
constexpr int kRows = Kernels::kTileHeight;
constexpr int kPad = 16;  // Widest vector: arrays may be read one vector past their end.

HWY_INLINE int Lanes() {
  return static_cast<int>(hn::Lanes(DF()));
}
HWY_INLINE int PadToLanes(int count) {
  return (count + Lanes() - 1) / Lanes() * Lanes();
}
HWY_INLINE VF Num(float v) {
  return hn::Set(DF(), v);
}

HWY_INLINE VF Lerp(VF a, VF b, VF t) {
  return hn::Add(a, hn::Mul(t, hn::Sub(b, a)));
}

HWY_INLINE VF Fade(VF t) {
  const VF cube = hn::Mul(hn::Mul(t, t), t);
  const VF inner = hn::Sub(hn::Mul(t, Num(6.0f)), Num(15.0f));
  return hn::Mul(cube, hn::Add(hn::Mul(t, inner), Num(10.0f)));
}

HWY_INLINE VU NodeHash(VU hx, VU hz) {
  const DU d;
  VU h = hn::Add(hn::Mul(hx, hn::Set(d, 0x85EBCA6Bu)), hz);
  h = hn::Mul(hn::Xor(h, hn::ShiftRight<15>(h)), hn::Set(d, 0xC2B2AE35u));
  return hn::Xor(h, hn::ShiftRight<13>(h));
}
HWY_INLINE VU NodeHash(VU hx, VU hy, VU hz) {
  return NodeHash(NodeHash(hx, hy), hz);
}

/// 24-bit numbers to float, exactly.
HWY_INLINE VF SmallToFloat(VU v) {
  return hn::ConvertTo(DF(), hn::BitCast(DI(), v));
}
HWY_INLINE VF UnitOf(VU hash) {
  return hn::Sub(hn::Mul(SmallToFloat(hn::ShiftRight<8>(hash)), Num(0x1p-23f)), Num(1.0f));
}

HWY_INLINE void GradientOf(VU hash, VF& gx, VF& gz) {
  const DF d;
  const DU du;
  const VF t = hn::Mul(SmallToFloat(hn::ShiftRight<8>(hash)), Num(kEighthSlope));
  const VF t2 = hn::Mul(t, t);
  const VF one = Num(1.0f);
  const VF r = hn::Div(Num(kRoot2), hn::Add(one, t2));
  const VF c = hn::Mul(hn::Sub(one, t2), r);
  const VF s = hn::Mul(hn::Add(t, t), r);
  const auto swap = hn::RebindMask(d, hn::TestBit(hash, hn::Set(du, 1u)));
  const VU signX = hn::ShiftLeft<30>(hn::And(hash, hn::Set(du, 2u)));
  const VU signZ = hn::ShiftLeft<29>(hn::And(hash, hn::Set(du, 4u)));
  gx = hn::Xor(hn::IfThenElse(swap, s, c), hn::BitCast(d, signX));
  gz = hn::Xor(hn::IfThenElse(swap, c, s), hn::BitCast(d, signZ));
}

HWY_INLINE void Gradient3Of(VU hash, VF& gx, VF& gy, VF& gz) {
  const DF d;
  const DU du;
  const VU level = hn::ShiftRight<16>(hn::Mul(hn::ShiftRight<16>(hash), hn::Set(du, 3u)));
  const auto component = [&](uint32_t axis, VU sign) HWY_ATTR {
    const VF edge = hn::Xor(Num(kEdge), hn::BitCast(d, sign));
    return hn::IfThenZeroElse(hn::RebindMask(d, hn::Eq(level, hn::Set(du, axis))), edge);
  };
  gx = component(0, hn::ShiftLeft<31>(hash));
  gy = component(1, hn::ShiftLeft<30>(hn::And(hash, hn::Set(du, 2u))));
  gz = component(2, hn::ShiftLeft<29>(hn::And(hash, hn::Set(du, 4u))));
}

HWY_INLINE VU SiteHash2(VU h) {
  return hn::Mul(hn::Xor(h, hn::ShiftRight<16>(h)), hn::Set(DU(), 0x7FEB352Du));
}
HWY_INLINE VU SiteHash3(VU h) {
  return hn::Mul(hn::Xor(h, hn::ShiftRight<15>(h)), hn::Set(DU(), 0x846CA68Bu));
}
HWY_INLINE VF SiteOffset(VU hash, VF jitter) {
  const VF r = hn::Mul(SmallToFloat(hn::ShiftRight<12>(hash)), Num(0x1p-20f));
  return hn::Add(Num(0.5f), hn::Mul(jitter, hn::Sub(r, Num(0.5f))));
}
HWY_INLINE VF SiteValue(VU hash) {
  return UnitOf(hn::Mul(hn::Xor(hash, hn::ShiftRight<15>(hash)), hn::Set(DU(), 0x2C1B3C6Du)));
}

/// The shape of an octave as bias + slope * |n|; nothing to do for Plain.
struct Folding {
  bool on;
  float bias;
  float slope;
  explicit Folding(Shape shape)
      : on(shape != Shape::Plain),
        bias(shape == Shape::Ridged ? 1.0f : -1.0f),
        slope(shape == Shape::Ridged ? -2.0f : 2.0f) {}
};

/// sum + shape(n) * weight. The first octave has weight 1 and nothing before it; storing it plainly
/// keeps the bits of 0 + n * 1 except for a -0, which adding the layer's offset turns into +0
/// anyway.
template <bool kFirst, bool kFold>
HWY_INLINE void Accumulate(VF n, VF weight, const Folding& fold, float* sum) {
  const DF d;
  if constexpr (kFold) n = hn::Add(Num(fold.bias), hn::Mul(Num(fold.slope), hn::Abs(n)));
  hn::Store(kFirst ? n : hn::Add(hn::Load(d, sum), hn::Mul(n, weight)), d, sum);
}

/// The same for a row of noise that was made beforehand.
HWY_INLINE void AccumulateRow(bool first, const float* HWY_RESTRICT n, int count, float weight,
    const Folding& fold, float* HWY_RESTRICT sum) {
  const DF d;
  for (int i = 0; i < count; i += Lanes()) {
    VF v = hn::Load(d, n + i);
    if (fold.on) v = hn::Add(Num(fold.bias), hn::Mul(Num(fold.slope), hn::Abs(v)));
    hn::Store(first ? v : hn::Add(hn::Load(d, sum + i), hn::Mul(v, Num(weight))), d, sum + i);
  }
}

/// Calls f with kFirst and kFold as compile-time constants.
template <class F>
HWY_INLINE void WithFlags(bool first, bool fold, F&& f) {
  if (first)
    fold ? f(std::true_type(), std::true_type()) : f(std::true_type(), std::false_type());
  else
    fold ? f(std::false_type(), std::true_type()) : f(std::false_type(), std::false_type());
}

// ---- cellular ----------------------------------------------------------------------------------

/// What has to be kept of the sites met so far.
enum class Need { First, Second, Site };
HWY_INLINE Need NeedOf(CellularResult result) {
  return result == CellularResult::First  ? Need::First
         : result == CellularResult::Site ? Need::Site
                                          : Need::Second;
}

template <Need kNeed>
struct Nearest {
  VF first;
  VF second;
  VF site;

  HWY_INLINE Nearest()
      : first(Num(3.402823466e38f)), second(Num(3.402823466e38f)), site(Num(0.0f)) {}

  HWY_INLINE void Visit(VF distance, VF value) {
    if constexpr (kNeed == Need::Second) second = hn::Min(second, hn::Max(first, distance));
    if constexpr (kNeed == Need::Site) site = hn::IfThenElse(hn::Lt(distance, first), value, site);
    first = hn::Min(first, distance);
  }
  /// Lanes whose answer farther sites could still change. free: how far from the place the squares
  /// begin that were not looked at.
  HWY_INLINE MF Open(Metric metric, VF free) const {
    if (metric == Metric::Euclidean) free = hn::Mul(free, free);
    return hn::Gt(kNeed == Need::Second ? second : first, free);
  }
  HWY_INLINE VF Result(CellularResult result, Metric metric) const {
    if constexpr (kNeed == Need::Site) return site;
    const VF a = metric == Metric::Euclidean ? hn::Sqrt(first) : first;
    if constexpr (kNeed == Need::First) return a;
    const VF b = metric == Metric::Euclidean ? hn::Sqrt(second) : second;
    return result == CellularResult::Second ? b : hn::Sub(b, a);
  }
};

/// Calls f with kMetric and kNeed as compile-time constants.
template <class F>
HWY_INLINE void WithCellular(const NoisePlan& plan, F&& f) {
  const auto byNeed = [&](auto metric) HWY_ATTR {
    switch (NeedOf(plan.result)) {
      case Need::First:
        return f(metric, std::integral_constant<Need, Need::First>());
      case Need::Second:
        return f(metric, std::integral_constant<Need, Need::Second>());
      case Need::Site:
        return f(metric, std::integral_constant<Need, Need::Site>());
    }
  };
  switch (plan.metric) {
    case Metric::Euclidean:
      return byNeed(std::integral_constant<Metric, Metric::Euclidean>());
    case Metric::Manhattan:
      return byNeed(std::integral_constant<Metric, Metric::Manhattan>());
    case Metric::Chebyshev:
      return byNeed(std::integral_constant<Metric, Metric::Chebyshev>());
  }
}

/// Replaces the lanes of n that are still open by the scalar code. placeOf(lane, place[3]) tells
/// where a lane is.
template <class PlaceOf>
HWY_INLINE VF CloseLanes(
    const NoisePlan& plan, const Octave& octave, VF n, MF open, int lanes, PlaceOf&& placeOf) {
  const DF d;
  if (HWY_LIKELY(hn::AllFalse(d, open))) return n;
  HWY_ALIGN float values[kPad];
  HWY_ALIGN float flags[kPad];
  hn::Store(n, d, values);
  hn::Store(hn::IfThenElseZero(open, Num(1.0f)), d, flags);
  for (int lane = 0; lane < lanes; ++lane) {
    if (flags[lane] == 0.0f) continue;
    Pos place[3];
    placeOf(lane, place);
    values[lane] = octaveAt(plan, octave, place);
  }
  return hn::Load(d, values);
}

}  // namespace HWY_NAMESPACE
}  // namespace acre
HWY_AFTER_NAMESPACE();

#endif
