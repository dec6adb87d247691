// Vector forms of noise/shaping.cpp, lane by lane in the same order of operations. Included once
// per instruction set, by noise/kernel_table-inl.h alone.
#if defined(ACRE_NOISE_SHAPING_INL_H_) == defined(HWY_TARGET_TOGGLE)
#ifdef ACRE_NOISE_SHAPING_INL_H_
#undef ACRE_NOISE_SHAPING_INL_H_
#else
#define ACRE_NOISE_SHAPING_INL_H_
#endif

#include "noise/lanes-inl.h"
#include "noise/shaping.h"

HWY_BEFORE_NAMESPACE();
namespace acre {
namespace HWY_NAMESPACE {

/// v kept from low to high, as `v < low ? low : (v > high ? high : v)` does it.
HWY_INLINE VF Kept(VF v, VF low, VF high) {
  return hn::IfThenElse(hn::Lt(v, low), low, hn::IfThenElse(hn::Gt(v, high), high, v));
}

void CurveOf(const CurveSet& curve, float* values, int count) {
  const DF d;
  const DI di;
  int i = 0;
  for (; i + Lanes() <= count; i += Lanes()) {
    const VF v = hn::LoadU(d, values + i);
    auto k = hn::Zero(di);
    for (int s = 1; s < curve.count; ++s)  // A true lane is -1.
      k = hn::Sub(k, hn::VecFromMask(di, hn::RebindMask(di, hn::Ge(v, Num(curve.x[s])))));
    const auto of = [&](const float* numbers) HWY_ATTR { return hn::GatherIndex(d, numbers, k); };
    const VF t = hn::Mul(hn::Sub(v, of(curve.x)), of(curve.scale));
    VF y = hn::Add(of(curve.c[2]), hn::Mul(t, of(curve.c[3])));
    y = hn::Add(of(curve.c[1]), hn::Mul(t, y));
    y = hn::Add(of(curve.c[0]), hn::Mul(t, y));
    y = hn::IfThenElse(hn::Ge(v, Num(curve.lastX)), Num(curve.lastY), y);
    y = hn::IfThenElse(hn::Le(v, Num(curve.firstX)), Num(curve.firstY), y);
    hn::StoreU(y, d, values + i);
  }
  plainCurve(curve, values + i, count - i);
}

void SharesOf(const ShareSet& shares, float* values, int count) {
  const DF d;
  const DI di;
  int i = 0;
  const auto last = shares.count - 1;
  const VF lowest = Num(shares.value[0]), highest = Num(shares.value[last]);
  if (shares.count > 1)
    for (; i + Lanes() <= count; i += Lanes()) {
      const VF v = hn::LoadU(d, values + i);
      const auto below = hn::Lt(v, lowest), above = hn::Ge(v, highest);
      // Lanes outside search like the lowest value, which is at knot 0.
      const VF at = hn::IfThenElse(hn::Or(below, above), lowest, v);
      const VF bucket = hn::Mul(hn::Sub(at, lowest), Num(shares.bucketScale));
      auto k = hn::GatherIndex(di, shares.start,
          hn::ConvertTo(di, hn::Min(bucket, Num(static_cast<float>(ShareSet::kBuckets)))));
      VF value = hn::GatherIndex(d, shares.value, k);
      for (;;) {
        const auto step = hn::Lt(at, value);
        if (hn::AllFalse(d, step)) break;
        k = hn::Add(k, hn::VecFromMask(di, hn::RebindMask(di, step)));
        value = hn::GatherIndex(d, shares.value, k);
      }
      for (;;) {
        const auto step = hn::Ge(at, hn::GatherIndex(d, shares.value + 1, k));
        if (hn::AllFalse(d, step)) break;
        k = hn::Sub(k, hn::VecFromMask(di, hn::RebindMask(di, step)));
      }
      value = hn::GatherIndex(d, shares.value, k);
      VF share = hn::Add(hn::GatherIndex(d, shares.share, k),
          hn::Mul(hn::Sub(at, value), hn::GatherIndex(d, shares.slope, k)));
      const VF most = Num(ShareSet::kBelowOne);
      share = hn::IfThenElse(hn::Lt(share, most), share, most);
      share = hn::IfThenElse(above, most, share);
      hn::StoreU(hn::IfThenZeroElse(below, share), d, values + i);
    }
  plainShares(shares, values + i, count - i);
}

void Scale(const Scaling& by, float* values, int count) {
  const DF d;
  const VF amplitude = Num(by.amplitude), offset = Num(by.offset);
  const VF low = Num(by.low), high = Num(by.high);
  int i = 0;
  for (; i + Lanes() <= count; i += Lanes()) {
    const VF v = hn::Add(hn::Mul(hn::LoadU(d, values + i), amplitude), offset);
    hn::StoreU(Kept(v, low, high), d, values + i);
  }
  plainScale(by, values + i, count - i);
}

void MaskOf(const MaskEnds& mask, float* values, int count) {
  const DF d;
  const VF soft = Num(mask.soft), half = Num(mask.soft * 0.5f);
  const VF low = Num(mask.low), high = Num(mask.high);
  const VF from = hn::Sub(low, half), to = hn::Add(high, half);
  int i = 0;
  for (; i + Lanes() <= count; i += Lanes()) {
    const VF v = hn::LoadU(d, values + i);
    VF w;
    if (mask.soft == 0.0f) {
      w = hn::IfThenElseZero(hn::And(hn::Ge(v, low), hn::Lt(v, high)), Num(1.0f));
    } else {
      const VF up = hn::Div(hn::Sub(v, from), soft), down = hn::Div(hn::Sub(to, v), soft);
      w = Kept(hn::IfThenElse(hn::Lt(up, down), up, down), Num(0.0f), Num(1.0f));
    }
    hn::StoreU(w, d, values + i);
  }
  plainMask(mask, values + i, count - i);
}

HWY_INLINE VF SmoothMinimum(VF a, VF b, VF k) {
  const VF half = Num(0.5f), one = Num(1.0f);
  const VF h = hn::Add(half, hn::Mul(half, hn::Div(hn::Sub(b, a), k)));
  const VF t = Kept(h, Num(0.0f), one);
  return hn::Sub(hn::Add(b, hn::Mul(t, hn::Sub(a, b))), hn::Mul(k, hn::Mul(t, hn::Sub(one, t))));
}

/// after(sum, value): what one lane becomes where it acts wholly.
template <class After>
HWY_INLINE int JoinLanes(
    float* sum, const float* value, const float* weight, int count, After&& after) {
  const DF d;
  int i = 0;
  for (; i + Lanes() <= count; i += Lanes()) {
    const VF s = hn::LoadU(d, sum + i);
    VF out = after(s, hn::LoadU(d, value + i));
    if (weight) {
      const VF w = hn::LoadU(d, weight + i);
      const VF part = hn::Add(s, hn::Mul(w, hn::Sub(out, s)));
      out =
          hn::IfThenElse(hn::Ge(w, Num(1.0f)), out, hn::IfThenElse(hn::Gt(w, Num(0.0f)), part, s));
    }
    hn::StoreU(out, d, sum + i);
  }
  return i;
}

void JoinOf(
    Combine combine, float amount, float* sum, const float* value, const float* weight, int count) {
  const VF by = Num(amount);
  const auto join = [&](auto&& after)
                        HWY_ATTR { return JoinLanes(sum, value, weight, count, after); };
  int i = 0;
  switch (combine) {
    case Combine::Add:
      i = join([](VF s, VF v) HWY_ATTR { return hn::Add(s, v); });
      break;
    case Combine::Subtract:
      i = join([](VF s, VF v) HWY_ATTR { return hn::Sub(s, v); });
      break;
    case Combine::Multiply:
      i = join([](VF s, VF v) HWY_ATTR { return hn::Mul(s, v); });
      break;
    case Combine::Minimum:
      i = join([](VF s, VF v) HWY_ATTR { return hn::IfThenElse(hn::Lt(v, s), v, s); });
      break;
    case Combine::Maximum:
      i = join([](VF s, VF v) HWY_ATTR { return hn::IfThenElse(hn::Gt(v, s), v, s); });
      break;
    case Combine::SmoothMinimum:
      i = join([by](VF s, VF v) HWY_ATTR { return SmoothMinimum(s, v, by); });
      break;
    case Combine::SmoothMaximum:
      i = join(
          [by](VF s, VF v) HWY_ATTR { return hn::Neg(SmoothMinimum(hn::Neg(s), hn::Neg(v), by)); });
      break;
    case Combine::Mix:
      i = join([by](VF s, VF v) HWY_ATTR { return hn::Add(s, hn::Mul(by, hn::Sub(v, s))); });
      break;
    case Combine::Replace:
      i = join([](VF, VF v) HWY_ATTR { return v; });
      break;
  }
  plainJoin(combine, amount, sum + i, value + i, weight ? weight + i : nullptr, count - i);
}

void Shift(const int64_t* cell, const int32_t* q, const float* noise, float cells, int count,
    int64_t* toCell, int32_t* toQ) {
  const DF d;
  const DI di;
  HWY_ALIGN int32_t whole[kPad];
  const VF most = Num(kFarthestShift), least = Num(-kFarthestShift);
  int i = 0;
  for (; i + Lanes() <= count; i += Lanes()) {
    const VF near = Kept(hn::Mul(hn::LoadU(d, noise + i), Num(cells)), least, most);
    const VF scaled = hn::Add(hn::Mul(near, Num(65536.0f)), Num(0.5f));
    auto shift = hn::ConvertTo(di, scaled);  // Towards zero; then down, as floor does it.
    const auto over = hn::RebindMask(di, hn::Gt(hn::ConvertTo(d, shift), scaled));
    shift = hn::Add(shift, hn::VecFromMask(di, over));
    const auto fraction = hn::Add(hn::LoadU(di, q + i), shift);
    hn::Store(hn::ShiftRight<16>(fraction), di, whole);
    hn::StoreU(hn::And(fraction, hn::Set(di, 0xFFFF)), di, toQ + i);
    for (int lane = 0; lane < Lanes(); ++lane) toCell[i + lane] = cell[i + lane] + whole[lane];
  }
  plainShift(cell + i, q + i, noise + i, cells, count - i, toCell + i, toQ + i);
}

}  // namespace HWY_NAMESPACE
}  // namespace acre
HWY_AFTER_NAMESPACE();

#endif
