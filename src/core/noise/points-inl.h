// Noise at single places: every basis over the lattice of a batch.
#if defined(ACRE_NOISE_POINTS_INL_H_) == defined(HWY_TARGET_TOGGLE)
#ifdef ACRE_NOISE_POINTS_INL_H_
#undef ACRE_NOISE_POINTS_INL_H_
#else
#define ACRE_NOISE_POINTS_INL_H_
#endif

#include "noise/lattice-inl.h"

HWY_BEFORE_NAMESPACE();
namespace acre {
namespace HWY_NAMESPACE {

// ---- bases -------------------------------------------------------------------------------------

template <int kDims>
HWY_INLINE VF ValueAt(const PointLattice& p, int i) {
  const VF fu = Fade(p.F(kX, i));
  const VU x0 = p.Hash(kX, 0, i), x1 = p.Hash(kX, 1, i);
  if constexpr (kDims == 1) {
    const VU none = hn::Zero(DU());
    return Lerp(UnitOf(NodeHash(x0, none)), UnitOf(NodeHash(x1, none)), fu);
  } else {
    const VF fv = Fade(p.F(kZ, i));
    const VU z0 = p.Hash(kZ, 0, i), z1 = p.Hash(kZ, 1, i);
    const auto plane = [&](VU a, VU b) HWY_ATTR {
      return Lerp(Lerp(UnitOf(NodeHash(a, z0)), UnitOf(NodeHash(a, z1)), fv),
          Lerp(UnitOf(NodeHash(b, z0)), UnitOf(NodeHash(b, z1)), fv), fu);
    };
    if constexpr (kDims == 2) return plane(x0, x1);
    const VU y0 = p.Hash(kY, 0, i), y1 = p.Hash(kY, 1, i);
    return Lerp(plane(NodeHash(x0, y0), NodeHash(x1, y0)),
        plane(NodeHash(x0, y1), NodeHash(x1, y1)), Fade(p.F(kY, i)));
  }
}

template <int kDims>
HWY_INLINE VF GradientAt(const PointLattice& p, int i) {
  const VF one = Num(1.0f);
  const VF u = p.F(kX, i), fu = Fade(u), u1 = hn::Sub(u, one);
  const VU x0 = p.Hash(kX, 0, i), x1 = p.Hash(kX, 1, i);
  if constexpr (kDims == 1) {
    const VU none = hn::Zero(DU());
    const VF g0 = hn::Mul(Num(2.0f), UnitOf(NodeHash(x0, none)));
    const VF g1 = hn::Mul(Num(2.0f), UnitOf(NodeHash(x1, none)));
    return Lerp(hn::Mul(g0, u), hn::Mul(g1, u1), fu);
  } else {
    const VF v = p.F(kZ, i), fv = Fade(v), v1 = hn::Sub(v, one);
    const VU z0 = p.Hash(kZ, 0, i), z1 = p.Hash(kZ, 1, i);
    if constexpr (kDims == 2) {
      const auto column = [&](VU x, VF& a, VF& b) HWY_ATTR {
        VF gx0, gz0, gx1, gz1;
        GradientOf(NodeHash(x, z0), gx0, gz0);
        GradientOf(NodeHash(x, z1), gx1, gz1);
        a = Lerp(gx0, gx1, fv);
        b = Lerp(hn::Mul(gz0, v), hn::Mul(gz1, v1), fv);
      };
      VF a0, b0, a1, b1;
      column(x0, a0, b0);
      column(x1, a1, b1);
      return Lerp(hn::Add(hn::Mul(a0, u), b0), hn::Add(hn::Mul(a1, u1), b1), fu);
    } else {
      const auto layer = [&](VU y, VF& base, VF& slope) HWY_ATTR {
        VF a[2], b[2], s[2];
        for (int x = 0; x < 2; ++x) {
          const VU xy = NodeHash(x ? x1 : x0, y);
          VF gx0, gy0, gz0, gx1, gy1, gz1;
          Gradient3Of(NodeHash(xy, z0), gx0, gy0, gz0);
          Gradient3Of(NodeHash(xy, z1), gx1, gy1, gz1);
          a[x] = Lerp(gx0, gx1, fv);
          b[x] = Lerp(hn::Mul(gz0, v), hn::Mul(gz1, v1), fv);
          s[x] = Lerp(gy0, gy1, fv);
        }
        base = Lerp(hn::Add(hn::Mul(a[0], u), b[0]), hn::Add(hn::Mul(a[1], u1), b[1]), fu);
        slope = Lerp(s[0], s[1], fu);
      };
      VF base0, slope0, base1, slope1;
      layer(p.Hash(kY, 0, i), base0, slope0);
      layer(p.Hash(kY, 1, i), base1, slope1);
      const VF f = p.F(kY, i), w = Fade(f);
      return hn::Add(hn::Add(base0, hn::Mul(w, hn::Sub(hn::Sub(base1, slope1), base0))),
          hn::Mul(f, hn::Add(slope0, hn::Mul(w, hn::Sub(slope1, slope0)))));
    }
  }
}

HWY_INLINE VF SimplexKernel(VF r2, VF rise) {
  const VF t = hn::Max(hn::Sub(Num(0.5f), r2), Num(0.0f));
  const VF t2 = hn::Mul(t, t);
  return hn::Mul(hn::Mul(t2, t2), rise);
}

template <int kDims>
HWY_INLINE VF SimplexAt(const PointLattice& p, int i) {
  const DF d;
  const DU du;
  const VF one = Num(1.0f);
  const VF a = p.F(kX, i);
  const VU x0 = p.Hash(kX, 0, i), x1 = p.Hash(kX, 1, i);
  if constexpr (kDims == 1) {
    const auto end = [&](VU hash, VF x) HWY_ATTR {
      const VF t = hn::Sub(one, hn::Mul(x, x)), t2 = hn::Mul(t, t);
      return hn::Mul(hn::Mul(t2, t2), hn::Mul(UnitOf(NodeHash(hash, hn::Zero(du))), x));
    };
    return hn::Mul(hn::Add(end(x0, a), end(x1, hn::Sub(a, one))), Num(kSimplexScale1));
  } else if constexpr (kDims == 2) {
    const VF b = p.F(kZ, i);
    const VU z0 = p.Hash(kZ, 0, i), z1 = p.Hash(kZ, 1, i);
    const MF xFirst = hn::Gt(a, b);
    const auto xFirstU = hn::RebindMask(du, xFirst);
    const VF s = hn::Mul(hn::Add(a, b), Num(kUnskew2));
    const VF px = hn::Sub(a, s), pz = hn::Sub(b, s);
    const auto corner = [&](VU hx, VU hz, VF stepX, VF stepZ, float back) HWY_ATTR {
      const VF x = hn::Add(hn::Sub(px, stepX), Num(back));
      const VF z = hn::Add(hn::Sub(pz, stepZ), Num(back));
      VF gx, gz;
      GradientOf(NodeHash(hx, hz), gx, gz);
      return SimplexKernel(
          hn::Add(hn::Mul(x, x), hn::Mul(z, z)), hn::Add(hn::Mul(gx, x), hn::Mul(gz, z)));
    };
    const VF zero = Num(0.0f);
    const VF n0 = corner(x0, z0, zero, zero, 0.0f);
    const VF n1 = corner(hn::IfThenElse(xFirstU, x1, x0), hn::IfThenElse(xFirstU, z0, z1),
        hn::IfThenElseZero(xFirst, one), hn::IfThenZeroElse(xFirst, one), kUnskew2);
    const VF n2 = corner(x1, z1, one, one, 2.0f * kUnskew2);
    return hn::Mul(hn::Add(hn::Add(n0, n1), n2), Num(kSimplexScale2));
  } else {
    const VF h = p.F(kY, i), b = p.F(kZ, i);
    const VU y0 = p.Hash(kY, 0, i), y1 = p.Hash(kY, 1, i);
    const VU z0 = p.Hash(kZ, 0, i), z1 = p.Hash(kZ, 1, i);
    const VF s = hn::Mul(hn::Add(hn::Add(a, h), b), Num(kUnskew3));
    const VF px = hn::Sub(a, s), py = hn::Sub(h, s), pz = hn::Sub(b, s);
    const MF xy = hn::Gt(a, h), xz = hn::Gt(a, b), yz = hn::Gt(h, b);
    // Corner by corner: which axes have been stepped along.
    const MF x2 = hn::And(xy, xz), y2 = hn::AndNot(xy, yz), z2 = hn::Not(hn::Or(xz, yz));
    const MF xa = hn::Or(xy, xz), ya = hn::Or(hn::Not(xy), yz), za = hn::Not(hn::And(xz, yz));
    const auto corner = [&](MF sx, MF sy, MF sz, float back) HWY_ATTR {
      const VF x = hn::Add(hn::Sub(px, hn::IfThenElseZero(sx, one)), Num(back));
      const VF y = hn::Add(hn::Sub(py, hn::IfThenElseZero(sy, one)), Num(back));
      const VF z = hn::Add(hn::Sub(pz, hn::IfThenElseZero(sz, one)), Num(back));
      const VU hash = NodeHash(hn::IfThenElse(hn::RebindMask(du, sx), x1, x0),
          hn::IfThenElse(hn::RebindMask(du, sy), y1, y0),
          hn::IfThenElse(hn::RebindMask(du, sz), z1, z0));
      VF gx, gy, gz;
      Gradient3Of(hash, gx, gy, gz);
      return SimplexKernel(hn::Add(hn::Add(hn::Mul(x, x), hn::Mul(y, y)), hn::Mul(z, z)),
          hn::Add(hn::Add(hn::Mul(gx, x), hn::Mul(gy, y)), hn::Mul(gz, z)));
    };
    const MF none = hn::MaskFromVec(hn::Zero(d)), all = hn::Not(none);
    const VF n0 = corner(none, none, none, 0.0f);
    const VF n1 = corner(x2, y2, z2, kUnskew3);
    const VF n2 = corner(xa, ya, za, 2.0f * kUnskew3);
    const VF n3 = corner(all, all, all, 3.0f * kUnskew3);
    return hn::Mul(hn::Add(hn::Add(hn::Add(n0, n1), n2), n3), Num(kSimplexScale3));
  }
}

template <int kDims>
HWY_INLINE VF WhiteAt(const PointLattice& p, int i) {
  if constexpr (kDims == 1)
    return UnitOf(NodeHash(p.Hash(kX, 0, i), hn::Zero(DU())));
  else if constexpr (kDims == 2)
    return UnitOf(NodeHash(p.Hash(kX, 0, i), p.Hash(kZ, 0, i)));
  else
    return UnitOf(NodeHash(p.Hash(kX, 0, i), p.Hash(kY, 0, i), p.Hash(kZ, 0, i)));
}

/// Distances to the sites of the squares around; `open` tells lanes that need squares farther out.
template <int kDims, Metric kMetric, Need kNeed>
HWY_INLINE VF CellularAt(const NoisePlan& plan, const PointLattice& p, int i, MF& open) {
  const VF jitter = Num(plan.jitter);
  const VF u = p.F(kX, i);
  Nearest<kNeed> nearest;
  const auto free = [](VF f) HWY_ATTR { return hn::Min(f, hn::Sub(Num(1.0f), f)); };
  VF room = free(u);
  if constexpr (kDims > 1) room = hn::Min(room, free(p.F(kZ, i)));
  if constexpr (kDims > 2) room = hn::Min(room, free(p.F(kY, i)));
  for (int j = kDims > 2 ? -1 : 0; j <= (kDims > 2 ? 1 : 0); ++j)
    for (int k = kDims > 1 ? -1 : 0; k <= (kDims > 1 ? 1 : 0); ++k)
      for (int s = -1; s <= 1; ++s) {
        VU hash = p.Hash(kX, s, i);
        if constexpr (kDims == 1) hash = NodeHash(hash, hn::Zero(DU()));
        if constexpr (kDims == 2) hash = NodeHash(hash, p.Hash(kZ, k, i));
        if constexpr (kDims == 3) hash = NodeHash(hash, p.Hash(kY, j, i), p.Hash(kZ, k, i));
        const VF dx = hn::Sub(hn::Add(Num(static_cast<float>(s)), SiteOffset(hash, jitter)), u);
        VF dy = Num(0.0f), dz = Num(0.0f);
        if constexpr (kDims > 1) {
          const VU hash2 = SiteHash2(hash);
          dz = hn::Sub(hn::Add(Num(static_cast<float>(k)), SiteOffset(hash2, jitter)), p.F(kZ, i));
          if constexpr (kDims > 2)
            dy = hn::Sub(hn::Add(Num(static_cast<float>(j)), SiteOffset(SiteHash3(hash2), jitter)),
                p.F(kY, i));
        }
        VF distance;
        if constexpr (kMetric == Metric::Euclidean)
          distance = hn::Add(hn::Add(hn::Mul(dx, dx), hn::Mul(dy, dy)), hn::Mul(dz, dz));
        else if constexpr (kMetric == Metric::Manhattan)
          distance = hn::Add(hn::Add(hn::Abs(dx), hn::Abs(dy)), hn::Abs(dz));
        else
          distance = hn::Max(hn::Max(hn::Abs(dx), hn::Abs(dy)), hn::Abs(dz));
        nearest.Visit(distance, kNeed == Need::Site ? SiteValue(hash) : distance);
      }
  open = nearest.Open(kMetric, hn::Add(room, Num(1.0f)));
  return nearest.Result(plan.result, kMetric);
}

HWY_INLINE VF Gradient2002At(const PointLattice& p, int dims, int i) {
  const DF d;
  const DU du;
  const VU byte = hn::Set(du, 255u), unit = hn::Set(du, 1u);
  const auto node = [&](int a) HWY_ATTR { return hn::And(hn::Load(du, p.node[a] + i), byte); };
  const auto look = [&](VU at) HWY_ATTR {
    return hn::GatherIndex(du, kPermutation2002.data(), hn::BitCast(DI(), at));
  };
  const VU none = hn::Zero(du);
  const VF zero = Num(0.0f), one = Num(1.0f);
  const VU nx = node(kX), ny = dims > 2 ? node(kY) : none, nz = dims > 1 ? node(kZ) : none;
  const VF x = p.F(kX, i), y = dims > 2 ? p.F(kY, i) : zero, z = dims > 1 ? p.F(kZ, i) : zero;
  const VU a = hn::Add(look(nx), ny), b = hn::Add(look(hn::Add(nx, unit)), ny);
  const VU aa = hn::Add(look(a), nz), ab = hn::Add(look(hn::Add(a, unit)), nz);
  const VU ba = hn::Add(look(b), nz), bb = hn::Add(look(hn::Add(b, unit)), nz);
  const auto rise = [&](VU at, VF dx, VF dy, VF dz) HWY_ATTR {
    const VU h = hn::And(look(at), hn::Set(du, 15u));
    const auto is = [&](auto mask) HWY_ATTR { return hn::RebindMask(d, mask); };
    const MF useX = hn::Or(is(hn::Eq(h, hn::Set(du, 12u))), is(hn::Eq(h, hn::Set(du, 14u))));
    const VF u = hn::IfThenElse(is(hn::Lt(h, hn::Set(du, 8u))), dx, dy);
    const VF v = hn::IfThenElse(is(hn::Lt(h, hn::Set(du, 4u))), dy, hn::IfThenElse(useX, dx, dz));
    const VU signU = hn::ShiftLeft<31>(h);
    const VU signV = hn::ShiftLeft<30>(hn::And(h, hn::Set(du, 2u)));
    return hn::Add(hn::Xor(u, hn::BitCast(d, signU)), hn::Xor(v, hn::BitCast(d, signV)));
  };
  const VF x1 = hn::Sub(x, one), y1 = hn::Sub(y, one), z1 = hn::Sub(z, one);
  const VF u = Fade(x), v = Fade(y), w = Fade(z);
  const VF low = Lerp(Lerp(rise(aa, x, y, z), rise(ba, x1, y, z), u),
      Lerp(rise(ab, x, y1, z), rise(bb, x1, y1, z), u), v);
  const auto next = [&](VU at) HWY_ATTR { return hn::Add(at, unit); };
  const VF high = Lerp(Lerp(rise(next(aa), x, y, z1), rise(next(ba), x1, y, z1), u),
      Lerp(rise(next(ab), x, y1, z1), rise(next(bb), x1, y1, z1), u), v);
  return Lerp(low, high, w);
}

// ---- nodes once, where places lie close together ----------------------------------------------

/// Blocks of four floats, one per lane, from anywhere: out k holds the k-th float of each.
HWY_INLINE void LoadQuads(
    const float* from, const uint32_t* places, VF& out0, VF& out1, VF& out2, VF& out3) {
  const DF d;
  VF quad[4];
  for (int k = 0; k < 4; ++k) {
    const auto block = [&](int b) HWY_ATTR {
      return hn::LoadU(hn::CappedTag<float, 4>(), from + places[4 * b + k]);
    };
#if HWY_MAX_BYTES >= 64
    const hn::CappedTag<float, 8> half;
    quad[k] = hn::Combine(
        d, hn::Combine(half, block(3), block(2)), hn::Combine(half, block(1), block(0)));
#elif HWY_MAX_BYTES >= 32
    quad[k] = hn::Combine(d, block(1), block(0));
#else
    quad[k] = block(0);
#endif
  }
  const VF low02 = hn::InterleaveLower(d, quad[0], quad[2]);
  const VF low13 = hn::InterleaveLower(d, quad[1], quad[3]);
  const VF high02 = hn::InterleaveUpper(d, quad[0], quad[2]);
  const VF high13 = hn::InterleaveUpper(d, quad[1], quad[3]);
  out0 = hn::InterleaveLower(d, low02, low13);
  out1 = hn::InterleaveUpper(d, low02, low13);
  out2 = hn::InterleaveLower(d, high02, high13);
  out3 = hn::InterleaveUpper(d, high02, high13);
}

/// Two floats of every lattice node about a batch of places in two dimensions: its gradient, or its
/// value and that of the node below it. At place[i] begin those of the two upper corners of place
/// i.
struct NodeTable {
  static constexpr int kMostNodes = 1024;
  HWY_ALIGN float node[2 * kMostNodes + 4 * kPad];
  HWY_ALIGN uint32_t place[kMost + kPad];
  const float* nextRow = nullptr;

  /// False when the places are spread too widely for it to pay.
  template <Basis kBasis>
  bool Fill(
      const Octave& octave, const PointLattice& p, uint64_t baseX, uint64_t baseZ, int count) {
    const DF d;
    const DU du;
    const int padded = PadToLanes(count);
    const auto [lowX, highX] = NodeRange(p.node[kX], baseX, padded);
    const auto [lowZ, highZ] = NodeRange(p.node[kZ], baseZ, padded);
    const int64_t width = int64_t{highX} - lowX + 2, height = int64_t{highZ} - lowZ + 2;
    if (width > kMostNodes || height > kMostNodes || width * height > kMostNodes ||
        width * height > 2 * count)
      return false;
    const auto at = [](uint64_t base, int64_t relative) HWY_ATTR {
      return static_cast<int64_t>(base + static_cast<uint64_t>(relative));
    };
    HWY_ALIGN uint32_t hashX[kMostNodes + kPad];
    for (int64_t i = 0; i < width; ++i) hashX[i] = axisHash(octave.seed[kX], at(baseX, lowX + i));
    std::fill_n(hashX + width, kPad, 0u);
    for (int64_t j = 0; j < height; ++j) {
      const VU hz = hn::Set(du, axisHash(octave.seed[kZ], at(baseZ, lowZ + j)));
      const VU below = hn::Set(du, axisHash(octave.seed[kZ], at(baseZ, lowZ + j + 1)));
      float* row = node + 2 * j * width;
      for (int64_t i = 0; i < width; i += Lanes()) {
        const VU hx = hn::Load(du, hashX + i);
        VF a, b;
        if constexpr (kBasis == Basis::Value) {
          a = UnitOf(NodeHash(hx, hz));
          b = UnitOf(NodeHash(hx, below));
        } else {
          GradientOf(NodeHash(hx, hz), a, b);
        }
        hn::StoreInterleaved2(a, b, d, row + 2 * i);
      }
    }
    const uint32_t firstX = static_cast<uint32_t>(baseX) + static_cast<uint32_t>(lowX);
    const uint32_t firstZ = static_cast<uint32_t>(baseZ) + static_cast<uint32_t>(lowZ);
    const auto stride = static_cast<uint32_t>(width);
    for (int i = 0; i < padded; i += Lanes()) {
      const VU x = hn::Sub(hn::Load(du, p.node[kX] + i), hn::Set(du, firstX));
      const VU z = hn::Sub(hn::Load(du, p.node[kZ] + i), hn::Set(du, firstZ));
      hn::Store(hn::ShiftLeft<1>(hn::Add(x, hn::Mul(z, hn::Set(du, stride)))), du, place + i);
    }
    nextRow = node + 2 * width;
    return true;
  }

  HWY_INLINE VF ValueAt(const PointLattice& p, int i) const {
    VF v00, v10, v01, v11;
    LoadQuads(node, place + i, v00, v01, v10, v11);
    const VF fv = Fade(p.F(kZ, i));
    return Lerp(Lerp(v00, v01, fv), Lerp(v10, v11, fv), Fade(p.F(kX, i)));
  }

  HWY_INLINE VF GradientAt(const PointLattice& p, int i) const {
    const VF one = Num(1.0f);
    const VF u = p.F(kX, i), v = p.F(kZ, i), fv = Fade(v), v1 = hn::Sub(v, one);
    VF x00, z00, x10, z10, x01, z01, x11, z11;
    LoadQuads(node, place + i, x00, z00, x10, z10);
    LoadQuads(nextRow, place + i, x01, z01, x11, z11);
    const VF a0 = Lerp(x00, x01, fv), b0 = Lerp(hn::Mul(z00, v), hn::Mul(z01, v1), fv);
    const VF a1 = Lerp(x10, x11, fv), b1 = Lerp(hn::Mul(z10, v), hn::Mul(z11, v1), fv);
    return Lerp(hn::Add(hn::Mul(a0, u), b0), hn::Add(hn::Mul(a1, hn::Sub(u, one)), b1), Fade(u));
  }

  HWY_INLINE VF SimplexAt(const PointLattice& p, int i) const {
    const VF one = Num(1.0f), zero = Num(0.0f);
    const VF a = p.F(kX, i), b = p.F(kZ, i);
    VF x00, z00, x10, z10, x01, z01, x11, z11;
    LoadQuads(node, place + i, x00, z00, x10, z10);
    LoadQuads(nextRow, place + i, x01, z01, x11, z11);
    const MF xFirst = hn::Gt(a, b);
    const VF s = hn::Mul(hn::Add(a, b), Num(kUnskew2));
    const VF px = hn::Sub(a, s), pz = hn::Sub(b, s);
    const auto at = [&](VF gx, VF gz, VF stepX, VF stepZ, float back) HWY_ATTR {
      const VF x = hn::Add(hn::Sub(px, stepX), Num(back));
      const VF z = hn::Add(hn::Sub(pz, stepZ), Num(back));
      return SimplexKernel(
          hn::Add(hn::Mul(x, x), hn::Mul(z, z)), hn::Add(hn::Mul(gx, x), hn::Mul(gz, z)));
    };
    const VF n0 = at(x00, z00, zero, zero, 0.0f);
    const VF n1 = at(hn::IfThenElse(xFirst, x10, x01), hn::IfThenElse(xFirst, z10, z01),
        hn::IfThenElseZero(xFirst, one), hn::IfThenZeroElse(xFirst, one), kUnskew2);
    const VF n2 = at(x11, z11, one, one, 2.0f * kUnskew2);
    return hn::Mul(hn::Add(hn::Add(n0, n1), n2), Num(kSimplexScale2));
  }
};

/// One octave in two dimensions by a table of nodes; false when it does not pay.
template <Basis kBasis>
bool OctaveByNodes(const Octave& octave, const PointLattice& p, uint64_t baseX, uint64_t baseZ,
    int count, NodeTable& table, float* HWY_RESTRICT out) {
  if (!table.Fill<kBasis>(octave, p, baseX, baseZ, count)) return false;
  for (int i = 0; i < count; i += Lanes()) {
    if constexpr (kBasis == Basis::Value)
      hn::Store(table.ValueAt(p, i), DF(), out + i);
    else if constexpr (kBasis == Basis::Gradient)
      hn::Store(table.GradientAt(p, i), DF(), out + i);
    else
      hn::Store(table.SimplexAt(p, i), DF(), out + i);
  }
  return true;
}

// ---- octaves -----------------------------------------------------------------------------------

/// One octave at the places that the lattice was filled for, before its shape. placeOf as for
/// CloseLanes, with the index of the place.
template <int kDims, class PlaceOf>
HWY_INLINE void OctaveOverLattice(const NoisePlan& plan, const Octave& octave,
    const PointLattice& p, int count, float* HWY_RESTRICT out, PlaceOf&& placeOf) {
  const auto each = [&](auto at) HWY_ATTR {
    for (int i = 0; i < count; i += Lanes()) hn::Store(at(i), DF(), out + i);
  };
  switch (plan.basis) {
    case Basis::Gradient:
      return each([&](int i) HWY_ATTR { return GradientAt<kDims>(p, i); });
    case Basis::Value:
      return each([&](int i) HWY_ATTR { return ValueAt<kDims>(p, i); });
    case Basis::Simplex:
      return each([&](int i) HWY_ATTR { return SimplexAt<kDims>(p, i); });
    case Basis::White:
      return each([&](int i) HWY_ATTR { return WhiteAt<kDims>(p, i); });
    case Basis::Gradient2002:
      return each([&](int i) HWY_ATTR { return Gradient2002At(p, kDims, i); });
    case Basis::Cellular:
      return WithCellular(plan, [&](auto metric, auto need) HWY_ATTR {
        for (int i = 0; i < count; i += Lanes()) {
          MF open;
          const VF n =
              CellularAt<kDims, decltype(metric)::value, decltype(need)::value>(plan, p, i, open);
          hn::Store(CloseLanes(plan, octave, n, open, std::min(Lanes(), count - i),
                        [&](int lane, Pos* place) { placeOf(i + lane, place); }),
              DF(), out + i);
        }
      });
  }
}

/// The sum of the octaves at `count` places, at most kMost; sum holds kMost + kPad floats.
/// fill(octave, axis, lattice, base) puts the places on one axis of the lattice; it returns true
/// when it left the hashes to others, with nodes within 2^31 of `base`.
template <int kDims, class Fill, class PlaceOf>
void SumOctaves(
    const NoisePlan& plan, int count, Fill&& fill, PlaceOf&& placeOf, float* HWY_RESTRICT sum) {
  PointLattice lattice;
  NodeTable table;
  HWY_ALIGN float noise[kMost + kPad];
  const Folding fold(plan.shape);
  const Span span = SpanOf(plan.basis);
  const auto byNodes = [&](const Octave& octave, const uint64_t* base) HWY_ATTR {
    if (kDims != 2) return false;
    const auto with = [&](auto basis) HWY_ATTR {
      return OctaveByNodes<decltype(basis)::value>(
          octave, lattice, base[kX], base[kZ], count, table, noise);
    };
    switch (plan.basis) {
      case Basis::Gradient:
        return with(std::integral_constant<Basis, Basis::Gradient>());
      case Basis::Value:
        return with(std::integral_constant<Basis, Basis::Value>());
      case Basis::Simplex:
        return with(std::integral_constant<Basis, Basis::Simplex>());
      default:
        return false;
    }
  };
  bool first = true;
  for (const Octave& octave : plan.octaves) {
    uint64_t base[3] = {};
    bool near = true;
    for (int n = 0; n < kDims; ++n) {
      const int a = dimAxis(kDims, n);
      near = fill(octave, a, lattice, base[a]) && near;
    }
    if (!near || !byNodes(octave, base)) {
      for (int n = 0; n < kDims && near && plan.basis != Basis::Gradient2002; ++n) {
        const int a = dimAxis(kDims, n);
        FillHashes(octave.seed[a], base[a], a, count, span, lattice);
      }
      OctaveOverLattice<kDims>(plan, octave, lattice, count, noise, placeOf);
    }
    AccumulateRow(first, noise, count, octave.weight, fold, sum);
    first = false;
  }
}

template <int kDims>
void PointsIn(const NoisePlan& plan, const Points& points, float* out) {
  const Relative relative(plan, points);
  if (!relative.near && points.count > Lanes()) {
    // Spread too widely for one batch: halves may not be.
    const int half = PadToLanes(points.count / 2);
    Points part = points;
    part.count = half;
    PointsIn<kDims>(plan, part, out);
    part.count = points.count - half;
    for (int n = 0; n < kDims; ++n) {
      const int a = dimAxis(kDims, n);
      part.cell[a] += half;
      part.q[a] += half;
    }
    if (part.count > 0) PointsIn<kDims>(plan, part, out + half);
    return;
  }
  HWY_ALIGN float sum[kMost + kPad];
  SumOctaves<kDims>(
      plan, points.count,
      [&](const Octave& octave, int axis, PointLattice& lattice, uint64_t& base) HWY_ATTR {
        if (relative.near)
          base = FillNear(octave, kDims, axis, relative, points.count, lattice);
        else
          FillFar(plan, octave, axis, points, lattice);
        return relative.near;
      },
      [&](int i, Pos* place) HWY_ATTR {
        for (int n = 0; n < kDims; ++n) {
          const int a = dimAxis(kDims, n);
          place[a] = {points.cell[a][i] + plan.shift[a].cell, points.q[a][i] + plan.shift[a].q};
        }
      },
      sum);
  for (int i = 0; i < points.count; ++i) out[i] = sum[i] + 0.0f;  // NOLINT: octave 0 filled it.
}

void PointsOf(const NoisePlan& plan, const Points& points, float* out) {
  switch (plan.dims) {
    case 1:
      return PointsIn<1>(plan, points, out);
    case 2:
      return PointsIn<2>(plan, points, out);
    default:
      return PointsIn<3>(plan, points, out);
  }
}

}  // namespace HWY_NAMESPACE
}  // namespace acre
HWY_AFTER_NAMESPACE();

#endif
