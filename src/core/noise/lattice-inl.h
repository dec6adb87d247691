// Places on the lattice of one octave: positions first, then the hashes of the nodes about them.
#if defined(ACRE_NOISE_LATTICE_INL_H_) == defined(HWY_TARGET_TOGGLE)
#ifdef ACRE_NOISE_LATTICE_INL_H_
#undef ACRE_NOISE_LATTICE_INL_H_
#else
#define ACRE_NOISE_LATTICE_INL_H_
#endif

#include "noise/lanes-inl.h"

HWY_BEFORE_NAMESPACE();
namespace acre {
namespace HWY_NAMESPACE {

constexpr int kMost = Kernels::kMostPoints;
constexpr int kLongestWindow = 1024;

/// Places relative to their smallest cell, in 1/65536 cells below 2^31; or the note that they are
/// too far apart for that.
struct Relative {
  HWY_ALIGN uint32_t d[3][kMost + kPad];
  int64_t base[3] = {};
  bool near = true;

  Relative(const NoisePlan& plan, const Points& points) {
    for (int n = 0; n < plan.dims && near; ++n) {
      const int a = dimAxis(plan.dims, n);
      Fill(points.cell[a], points.q[a], points.count, plan.shift[a], d[a], base[a]);
    }
  }

 private:
  void Fill(const int64_t* cells, const int32_t* q, int count, const Pos& shift, uint32_t* out,
      int64_t& from) {
    const hn::ScalableTag<int64_t> wide;
    const int lanes = static_cast<int>(hn::Lanes(wide));
    int64_t low = cells[0], high = cells[0];
    int i = 0;
    if (count >= lanes) {
      auto least = hn::LoadU(wide, cells), most = least;
      for (; i + lanes <= count; i += lanes) {
        const auto c = hn::LoadU(wide, cells + i);
        least = hn::Min(least, c);
        most = hn::Max(most, c);
      }
      HWY_ALIGN int64_t ends[2][8];
      hn::Store(least, wide, ends[0]);
      hn::Store(most, wide, ends[1]);
      for (int k = 0; k < lanes; ++k) {
        low = std::min(low, ends[0][k]);
        high = std::max(high, ends[1][k]);
      }
    }
    for (; i < count; ++i) {
      low = std::min(low, cells[i]);
      high = std::max(high, cells[i]);
    }
    near = static_cast<uint64_t>(high) - static_cast<uint64_t>(low) < 32'000;
    if (!near) return;
    // D = (cell - low) * 65536 + q, in 32 bits.
    const hn::RebindToUnsigned<decltype(wide)> unsignedWide;
    const hn::Rebind<uint32_t, decltype(wide)> narrow;
    const hn::Rebind<int32_t, decltype(wide)> narrowSigned;
    const auto first = hn::Set(wide, low);
    const auto extra = hn::Set(narrow, static_cast<uint32_t>(shift.q));
    for (i = 0; i + lanes <= count; i += lanes) {
      const auto away = hn::Sub(hn::LoadU(wide, cells + i), first);
      const auto apart = hn::TruncateTo(narrow, hn::BitCast(unsignedWide, away));
      const auto part = hn::BitCast(narrow, hn::LoadU(narrowSigned, q + i));
      hn::StoreU(hn::Add(hn::ShiftLeft<16>(apart), hn::Add(part, extra)), narrow, out + i);
    }
    for (; i < count; ++i)
      out[i] =
          (static_cast<uint32_t>(cells[i] - low) << 16) + static_cast<uint32_t>(q[i] + shift.q);
    for (; i < PadToLanes(count); ++i) out[i] = out[0];
    from = low + shift.cell;
  }
};

/// The lattice of one octave about the places of a batch.
struct PointLattice {
  HWY_ALIGN float f[3][kMost + kPad];           // Fractions.
  HWY_ALIGN uint32_t node[3][kMost + kPad];     // Low 32 bits of the node.
  HWY_ALIGN uint32_t hash[3][3][kMost + kPad];  // Axis hashes: [axis][node - 1, node, node + 1].

  HWY_INLINE VU Hash(int axis, int step, int i) const {
    return hn::Load(DU(), hash[axis][step + 1] + i);
  }
  HWY_INLINE VF F(int axis, int i) const { return hn::Load(DF(), f[axis] + i); }
};

/// Nodes whose hashes a basis asks for, relative to the one below the place.
struct Span {
  int from;
  int to;
};
constexpr Span SpanOf(Basis basis) {
  return basis == Basis::Cellular ? Span{-1, 1} : basis == Basis::White ? Span{0, 0} : Span{0, 1};
}

/// Lowest and highest node relative to `base`.
std::pair<int32_t, int32_t> NodeRange(const uint32_t* nodes, uint64_t base, int padded) {
  const DU d;
  const DI di;
  const VU origin = hn::Set(d, static_cast<uint32_t>(base));
  auto least = hn::BitCast(di, hn::Sub(hn::Load(d, nodes), origin)), most = least;
  for (int i = Lanes(); i < padded; i += Lanes()) {
    const auto n = hn::BitCast(di, hn::Sub(hn::Load(d, nodes + i), origin));
    least = hn::Min(least, n);
    most = hn::Max(most, n);
  }
  HWY_ALIGN int32_t ends[2][kPad];
  hn::Store(least, di, ends[0]);
  hn::Store(most, di, ends[1]);
  return {
      *std::min_element(ends[0], ends[0] + Lanes()), *std::max_element(ends[1], ends[1] + Lanes())};
}

/// Hashes over one axis: by a table of the nodes in reach, or one by one.
void FillHashes(uint64_t seed, uint64_t base, int axis, int count, Span span, PointLattice& out) {
  const DU d;
  const int padded = PadToLanes(count);
  const uint32_t* nodes = out.node[axis];
  const DI di;
  const auto [low, high] = NodeRange(nodes, base, padded);
  const auto hashOf = [&](int64_t relative) HWY_ATTR {
    return axisHash(seed, static_cast<int64_t>(base + static_cast<uint64_t>(relative)));
  };
  const int64_t window = int64_t{high} - low + 1 + span.to - span.from;
  if (window > std::min<int64_t>(2 * count + 8, kLongestWindow)) {
    for (int step = span.from; step <= span.to; ++step) {
      uint32_t* to = out.hash[axis][step + 1];
      for (int i = 0; i < padded; ++i)
        to[i] = hashOf(int64_t{static_cast<int32_t>(
                           nodes[std::min(i, count - 1)] - static_cast<uint32_t>(base))} +
                       step);
    }
    return;
  }
  HWY_ALIGN uint32_t table[kLongestWindow + kPad];
  for (int64_t w = 0; w < window; ++w) table[w] = hashOf(low + span.from + w);
  const VU first = hn::Set(d, static_cast<uint32_t>(base) + static_cast<uint32_t>(low));
  const bool few = window <= Lanes();  // All nodes in one register.
  std::fill_n(table + window, kPad, 0u);
  for (int step = span.from; step <= span.to; ++step) {
    uint32_t* to = out.hash[axis][step + 1];
    const uint32_t* from = table + (step - span.from);
    if (few) {
      const VU all = hn::LoadU(d, from);
      for (int i = 0; i < padded; i += Lanes()) {
        const auto place = hn::IndicesFromVec(d, hn::Sub(hn::Load(d, nodes + i), first));
        hn::Store(hn::TableLookupLanes(all, place), d, to + i);
      }
      continue;
    }
    for (int i = 0; i < padded; i += Lanes()) {
      const auto place = hn::BitCast(di, hn::Sub(hn::Load(d, nodes + i), first));
      hn::Store(hn::GatherIndex(d, from, place), d, to + i);
    }
  }
}

/// Fractions and nodes of all places on one lattice axis, by 32 x 32 bit products:
///   floor(D*s / 2^16) = (D*s1 << 15) + (D*s0 >> 16),  s = s1*2^31 + s0,
/// of which only the bits from 24 up are wanted.
template <int kTerms>
void FillNearBy(const Octave& octave, int axis, const int (&terms)[3], const Relative& places,
    uint64_t node, uint64_t fraction, int padded, PointLattice& out) {
  const DI di;
  const DU du;
  const hn::Repartition<int64_t, DI> d64;
  const hn::Repartition<uint64_t, DU> du64;
  constexpr int64_t kBias = int64_t{1} << 60;  // Keeps the logical shift an arithmetic one.
  hn::Vec<DI> s0[kTerms], s1[kTerms];
  const uint32_t* d[kTerms];
  for (int n = 0; n < kTerms; ++n) {
    const int64_t s = octave.steps[axis][terms[n]];
    s0[n] = hn::BitCast(di, hn::Set(du64, static_cast<uint64_t>(s & 0x7FFFFFFF)));
    s1[n] = hn::BitCast(di, hn::Set(d64, s >> 31));
    d[n] = places.d[terms[n]];
  }
  const auto lowStart = hn::Set(du64, fraction);
  const auto highStart = hn::Set(d64, kBias);
  const VU bias = hn::Set(du, static_cast<uint32_t>(node) - (uint32_t{1} << 27));
  const VU fractionBits = hn::Set(du, 0xFFFFFFu);
  for (int i = 0; i < padded; i += Lanes()) {
    auto lowA = lowStart, lowB = lowStart;
    auto highA = highStart, highB = highStart;
    for (int n = 0; n < kTerms; ++n) {
      const VU place = hn::Load(du, d[n] + i);
      const auto even = hn::BitCast(di, place);
      const auto odd = hn::BitCast(di, hn::ShiftRight<32>(hn::BitCast(du64, place)));
      lowA = hn::Add(lowA, hn::ShiftRight<16>(hn::BitCast(du64, hn::MulEven(even, s0[n]))));
      lowB = hn::Add(lowB, hn::ShiftRight<16>(hn::BitCast(du64, hn::MulEven(odd, s0[n]))));
      highA = hn::Add(highA, hn::MulEven(even, s1[n]));
      highB = hn::Add(highB, hn::MulEven(odd, s1[n]));
    }
    const auto a = hn::ShiftRight<9>(hn::Add(hn::BitCast(du64, highA), hn::ShiftRight<15>(lowA)));
    const auto b = hn::ShiftRight<9>(hn::Add(hn::BitCast(du64, highB), hn::ShiftRight<15>(lowB)));
    const auto join = [&](auto x, auto y) HWY_ATTR {
      return hn::OddEven(hn::BitCast(du, hn::ShiftLeft<32>(y)), hn::BitCast(du, x));
    };
    hn::Store(hn::Mul(SmallToFloat(hn::And(join(a, b), fractionBits)), Num(0x1p-24f)), DF(),
        out.f[axis] + i);
    hn::Store(
        hn::Add(join(hn::ShiftRight<24>(a), hn::ShiftRight<24>(b)), bias), du, out.node[axis] + i);
  }
}

uint64_t FillNear(const Octave& octave, int dims, int axis, const Relative& places, int count,
    PointLattice& out) {
  Wide base = static_cast<Wide>(octave.phase[axis]);
  int terms[3] = {axis, axis, axis};
  int used = 0;
  for (int n = 0; n < dims; ++n) {
    const int b = dimAxis(dims, n);
    const int64_t s = octave.steps[axis][b];
    base += static_cast<Wide>(places.base[b]) * s;
    if (s != 0) terms[used++] = b;
  }
  const auto node = static_cast<uint64_t>(static_cast<int64_t>(base >> 48));
  const uint64_t fraction = static_cast<uint64_t>(base) & ((uint64_t{1} << 48) - 1);
  const int padded = PadToLanes(count);
  if (used <= 1)
    FillNearBy<1>(octave, axis, terms, places, node, fraction, padded, out);
  else if (used == 2)
    FillNearBy<2>(octave, axis, terms, places, node, fraction, padded, out);
  else
    FillNearBy<3>(octave, axis, terms, places, node, fraction, padded, out);
  return node;
}

/// A small piece of a grid, row after row. Width and height count samples.
struct GridPiece {
  int64_t x;
  int64_t z;
  int64_t step;
  int width;  ///< A multiple of Lanes().
  int height;

  int count() const { return width * height; }
  Pos PlaceX(int i, const Pos& shift) const { return {x + i % width * step + shift.cell, shift.q}; }
  Pos PlaceZ(int i, const Pos& shift) const { return {z + i / width * step + shift.cell, shift.q}; }
};

/// Whether the nodes of a piece of a grid keep within 2^14 of the first, in every octave.
bool FitsPiece(const NoisePlan& plan, const GridPiece& piece) {
  const auto span = [&](const Octave& o, int axis) HWY_ATTR {
    const auto length = [](int64_t s) HWY_ATTR { return static_cast<Wide>(s < 0 ? -s : s); };
    return (length(o.steps[axis][kX]) * piece.width + length(o.steps[axis][kZ]) * piece.height) *
           piece.step;
  };
  return std::all_of(plan.octaves.begin(), plan.octaves.end(), [&](const Octave& o) HWY_ATTR {
    return std::max(span(o, kX), span(o, kZ)) < (Wide{1} << 62);
  });
}

/// Fractions and nodes of a piece of a grid on one lattice axis: from sample to sample the place
/// grows by the same Q.48 number, of which 64 bits suffice here. Returns the node that all lie
/// near.
uint64_t FillPiece(const NoisePlan& plan, const Octave& octave, int axis, const GridPiece& piece,
    PointLattice& out) {
  const DU du;
  const hn::Repartition<uint64_t, DU> du64;
  const Pos start[3] = {piece.PlaceX(0, plan.shift[kX]), {}, piece.PlaceZ(0, plan.shift[kZ])};
  Wide first = static_cast<Wide>(octave.phase[axis]);
  for (const int b : {kX, kZ}) {
    const int64_t s = octave.steps[axis][b];
    first += static_cast<Wide>(start[b].cell) * s + ((static_cast<Wide>(start[b].q) * s) >> 16);
  }
  const auto node = static_cast<uint64_t>(static_cast<int64_t>(first >> 48));
  constexpr uint64_t kMiddle = uint64_t{1} << 15;
  const uint64_t begin =
      (static_cast<uint64_t>(first) & ((uint64_t{1} << 48) - 1)) + (kMiddle << 48);
  const uint64_t across = static_cast<uint64_t>(octave.steps[axis][kX] * piece.step);
  const uint64_t down = static_cast<uint64_t>(octave.steps[axis][kZ] * piece.step);
  const auto stride = hn::Set(du64, across * static_cast<uint64_t>(Lanes()));
  HWY_ALIGN uint64_t evens[kPad];
  for (int i = 0; i < Lanes() / 2; ++i) evens[i] = 2 * static_cast<uint64_t>(i) * across;
  const auto lead = hn::Load(du64, evens);
  const VU bias = hn::Set(du, static_cast<uint32_t>(node) - static_cast<uint32_t>(kMiddle));
  const VU fractionBits = hn::Set(du, 0xFFFFFFu);
  const auto join = [&](auto even, auto odd) HWY_ATTR {
    return hn::OddEven(hn::BitCast(du, hn::ShiftLeft<32>(odd)), hn::BitCast(du, even));
  };
  float* f = out.f[axis];
  uint32_t* nodes = out.node[axis];
  for (int j = 0; j < piece.height; ++j) {
    const uint64_t row = begin + static_cast<uint64_t>(j) * down;
    auto even = hn::Add(lead, hn::Set(du64, row));
    auto odd = hn::Add(even, hn::Set(du64, across));
    for (int i = 0; i < piece.width; i += Lanes(), f += Lanes(), nodes += Lanes()) {
      const VU fraction = join(hn::ShiftRight<24>(even), hn::ShiftRight<24>(odd));
      hn::Store(hn::Mul(SmallToFloat(hn::And(fraction, fractionBits)), Num(0x1p-24f)), DF(), f);
      // The upper halves of the 64 bits hold the node in their upper halves.
      const VU upper = hn::OddEven(hn::BitCast(du, odd), hn::BitCast(du, hn::ShiftRight<32>(even)));
      hn::Store(hn::Add(hn::ShiftRight<16>(upper), bias), du, nodes);
      even = hn::Add(even, stride);
      odd = hn::Add(odd, stride);
    }
  }
  return node;
}

void FillFar(const NoisePlan& plan, const Octave& octave, int axis, const Points& points,
    PointLattice& out) {
  const Span span = SpanOf(plan.basis);
  for (int i = 0; i < PadToLanes(points.count); ++i) {
    Pos place[3];
    for (int n = 0; n < plan.dims; ++n) {
      const int b = dimAxis(plan.dims, n);
      const int from = std::min(i, points.count - 1);
      place[b] = {points.cell[b][from] + plan.shift[b].cell, points.q[b][from] + plan.shift[b].q};
    }
    const LatticePos p = latticeAt(octave, plan.dims, axis, place);
    out.f[axis][i] = p.fraction;
    out.node[axis][i] = static_cast<uint32_t>(static_cast<uint64_t>(p.cell));
    for (int step = span.from; step <= span.to; ++step)
      out.hash[axis][step + 1][i] =
          axisHash(octave.seed[axis], static_cast<int64_t>(static_cast<uint64_t>(p.cell) +
                                                           static_cast<uint64_t>(int64_t{step})));
  }
}

}  // namespace HWY_NAMESPACE
}  // namespace acre
HWY_AFTER_NAMESPACE();

#endif
