// Compiled once per instruction set. Within a tile the lattice is known: every lattice corner is
// hashed once, and a run of samples between the same two lattice columns shares their node values.
// No fused multiply-add: the order of operations is that of noise/scalar.cpp.
#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "noise/kernels.cpp"
#include <hwy/foreach_target.h>  // Must come before highway.h.
//
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

constexpr int kWidth = Kernels::kTileWidth;
constexpr int kRows = Kernels::kTileHeight;
constexpr int kPad = 16;  // Widest vector: arrays may be read one vector past their end.

/// Above this many lattice cells per sample (Q.48) the grid gives nothing: hash per sample.
constexpr uint64_t kGridStep = uint64_t{3} << 46;

HWY_INLINE VF Lerp(VF a, VF b, VF t) {
  return hn::Add(a, hn::Mul(t, hn::Sub(b, a)));
}

HWY_INLINE VF Fade(DF d, VF t) {
  const VF cube = hn::Mul(hn::Mul(t, t), t);
  const VF inner = hn::Sub(hn::Mul(t, hn::Set(d, 6.0f)), hn::Set(d, 15.0f));
  return hn::Mul(cube, hn::Add(hn::Mul(t, inner), hn::Set(d, 10.0f)));
}

HWY_INLINE VU NodeHash(DU d, VU hx, uint32_t hz) {
  VU h = hn::Add(hn::Mul(hx, hn::Set(d, 0x85EBCA6Bu)), hn::Set(d, hz));
  h = hn::Mul(hn::Xor(h, hn::ShiftRight<15>(h)), hn::Set(d, 0xC2B2AE35u));
  return hn::Xor(h, hn::ShiftRight<13>(h));
}

HWY_INLINE void GradientOf(DF d, VU hash, VF& gx, VF& gz) {
  const DU du;
  const DI di;
  const VF t =
      hn::Mul(hn::ConvertTo(d, hn::BitCast(di, hn::ShiftRight<8>(hash))), hn::Set(d, kEighthSlope));
  const VF t2 = hn::Mul(t, t);
  const VF one = hn::Set(d, 1.0f);
  const VF r = hn::Div(hn::Set(d, kRoot2), hn::Add(one, t2));
  const VF c = hn::Mul(hn::Sub(one, t2), r);
  const VF s = hn::Mul(hn::Add(t, t), r);
  const auto swap = hn::RebindMask(d, hn::TestBit(hash, hn::Set(du, 1u)));
  const VU signX = hn::ShiftLeft<30>(hn::And(hash, hn::Set(du, 2u)));
  const VU signZ = hn::ShiftLeft<29>(hn::And(hash, hn::Set(du, 4u)));
  gx = hn::Xor(hn::IfThenElse(swap, s, c), hn::BitCast(d, signX));
  gz = hn::Xor(hn::IfThenElse(swap, c, s), hn::BitCast(d, signZ));
}

/// Position of one sample row or column on the lattice, as a Q.48 number.
HWY_INLINE Wide LatticePhase(const GradientOctave& octave, uint64_t phase, const Pos& shift,
                             int64_t cell) {
  const Wide s = static_cast<Wide>(octave.step);
  return (cell + shift.cell) * s + ((shift.q * s) >> 16) + static_cast<Wide>(phase);
}
HWY_INLINE float Fraction(Wide p) {
  return static_cast<float>(static_cast<uint32_t>(p >> 24) & 0xFFFFFFu) * 0x1p-24f;
}
HWY_INLINE int64_t NextNode(int64_t node) {
  return static_cast<int64_t>(static_cast<uint64_t>(node) + 1);
}

/// A stretch of columns, whole vectors: either all between the same two lattice columns, or one
/// vector that spans several.
struct Run {
  int begin;
  int end;
  int node;
  bool uniform;
};

/// Everything about one octave that does not change from row to row.
struct Columns {
  HWY_ALIGN float u[kWidth + kPad];
  HWY_ALIGN float fu[kWidth + kPad];
  HWY_ALIGN uint32_t index[kWidth + kPad];     // Lattice column relative to the first.
  HWY_ALIGN uint32_t hash[kWidth + 2 * kPad];  // Axis hash per lattice column.
  Run runs[kWidth + 1];
  int runCount;
  int nodes;
};

/// Gradients of one lattice row.
struct NodeRow {
  HWY_ALIGN float gx[kWidth + 2 * kPad];
  HWY_ALIGN float gz[kWidth + 2 * kPad];
};

void FillColumns(const GradientOctave& octave, const Pos& shift, const SampleGrid& grid, int padded,
                 Columns& out) {
  const DF d;
  const DU du;
  const DI di;
  const int lanes = static_cast<int>(hn::Lanes(d));
  const Wide first = LatticePhase(octave, octave.phaseX, shift, grid.x);
  const uint64_t delta = octave.step * static_cast<uint64_t>(grid.step);
  // Bits 24 ... 55 relative to the first lattice column: its index and the fraction in one word.
  uint64_t phase = static_cast<uint64_t>(first) & ((uint64_t{1} << 48) - 1);
  for (int i = 0; i < padded; ++i, phase += delta)
    out.index[i] = static_cast<uint32_t>(phase >> 24);
  for (int i = 0; i < padded; i += lanes) {
    const VU word = hn::Load(du, out.index + i);
    const VF u = hn::Mul(hn::ConvertTo(d, hn::BitCast(di, hn::And(word, hn::Set(du, 0xFFFFFFu)))),
                         hn::Set(d, 0x1p-24f));
    hn::Store(u, d, out.u + i);
    hn::Store(Fade(d, u), d, out.fu + i);
    hn::Store(hn::ShiftRight<24>(word), du, out.index + i);
  }
  out.nodes = static_cast<int>(out.index[padded - 1]) + 2;
  const uint64_t node0 = static_cast<uint64_t>(static_cast<int64_t>(first >> 48));
  for (int n = 0; n < out.nodes; ++n)
    out.hash[n] = axisHash(octave.seedX, static_cast<int64_t>(node0 + static_cast<uint64_t>(n)));
  std::memset(out.hash + out.nodes, 0, sizeof(uint32_t) * kPad);

  out.runCount = 0;
  for (int i = 0; i < padded; i += lanes) {
    const int node = static_cast<int>(out.index[i]);
    const bool uniform = static_cast<int>(out.index[i + lanes - 1]) == node;
    Run* last = out.runCount ? &out.runs[out.runCount - 1] : nullptr;
    if (uniform && last && last->uniform && last->node == node)
      last->end = i + lanes;
    else
      out.runs[out.runCount++] = {i, i + lanes, node, uniform};
  }
}

void FillNodes(const Columns& columns, uint32_t hz, NodeRow& out) {
  const DF d;
  const DU du;
  for (int n = 0; n < columns.nodes; n += static_cast<int>(hn::Lanes(d))) {
    VF gx, gz;
    GradientOf(d, NodeHash(du, hn::Load(du, columns.hash + n), hz), gx, gz);
    hn::Store(gx, d, out.gx + n);
    hn::Store(gz, d, out.gz + n);
  }
}

/// sum + n * weight. The first octave has weight 1 and nothing before it; storing it plainly keeps
/// the bits of 0 + n * 1 except for a -0, which adding the layer's offset turns into +0 anyway.
template <bool kFirst>
HWY_INLINE void Accumulate(DF d, VF n, VF weight, float* sum) {
  hn::Store(kFirst ? n : hn::Add(hn::Load(d, sum), hn::Mul(n, weight)), d, sum);
}

/// Where the sums of a tile go once all octaves are in: acc + value or acc * value.
struct Target {
  float amplitude;
  float offset;
  bool multiply;
  float* acc;
  ptrdiff_t stride;
  int width;

  /// Row by row, while the sums are still in the nearest cache.
  HWY_INLINE void Join(int row, const float* HWY_RESTRICT sum) const {
    const DF d;
    const int lanes = static_cast<int>(hn::Lanes(d));
    float* HWY_RESTRICT out = acc + row * stride;
    const VF scale = hn::Set(d, amplitude);
    const VF shift = hn::Set(d, offset);
    int i = 0;
    for (; i + lanes <= width; i += lanes) {
      const VF value = hn::Add(hn::Mul(hn::Load(d, sum + i), scale), shift);
      const VF old = hn::LoadU(d, out + i);
      hn::StoreU(multiply ? hn::Mul(old, value) : hn::Add(old, value), d, out + i);
    }
    for (; i < width; ++i) {
      const float value = sum[i] * amplitude + offset;  // NOLINT: the first octave filled it.
      out[i] = multiply ? out[i] * value : out[i] + value;
    }
  }
};

/// Sums of a tile between octaves. A layer of one octave joins its target block by block, so that
/// all blocks may use the same rows.
struct Sums {
  float* values;
  bool shared;
  static constexpr ptrdiff_t kStride = kWidth + kPad;
  HWY_INLINE float* Row(int block, int row) const {
    return values + (shared ? row : block + row) * kStride;
  }
};

/// Values of the lattice columns on some sample rows: noise = lerp(a0*u + b0, a1*(u-1) + b1,
/// fade(u)). They are made for a few rows at once, so that no load meets a store that is still on
/// its way.
struct NodeValues {
  static constexpr int kRowsAtOnce = 8;
  HWY_ALIGN float a[kRowsAtOnce][kWidth + 2 * kPad];
  HWY_ALIGN float b[kRowsAtOnce][kWidth + 2 * kPad];
};

/// kCount rows side by side: what belongs to the columns is loaded once for all of them.
template <bool kFirst, int kCount>
HWY_INLINE void EvaluateRows(const Columns& columns, const NodeValues& nodes, int row, VF weight,
                             float* HWY_RESTRICT sum) {
  const DF d;
  const DU du;
  const int lanes = static_cast<int>(hn::Lanes(d));
  const VF one = hn::Set(d, 1.0f);
  for (int r = 0; r < columns.runCount; ++r) {
    const Run run = columns.runs[r];
    if (run.uniform) {
      VF a0[kCount], a1[kCount], b0[kCount], b1[kCount];
      for (int k = 0; k < kCount; ++k) {
        a0[k] = hn::Set(d, nodes.a[row + k][run.node]);
        a1[k] = hn::Set(d, nodes.a[row + k][run.node + 1]);
        b0[k] = hn::Set(d, nodes.b[row + k][run.node]);
        b1[k] = hn::Set(d, nodes.b[row + k][run.node + 1]);
      }
      for (int i = run.begin; i < run.end; i += lanes) {
        const VF u = hn::Load(d, columns.u + i);
        const VF u1 = hn::Sub(u, one);
        const VF fu = hn::Load(d, columns.fu + i);
        for (int k = 0; k < kCount; ++k) {
          const VF left = hn::Add(hn::Mul(a0[k], u), b0[k]);
          const VF right = hn::Add(hn::Mul(a1[k], u1), b1[k]);
          Accumulate<kFirst>(d, Lerp(left, right, fu), weight, sum + k * Sums::kStride + i);
        }
      }
      continue;
    }
    const int i = run.begin;
    const auto places = hn::IndicesFromVec(
        d, hn::Sub(hn::Load(du, columns.index + i), hn::Set(du, static_cast<uint32_t>(run.node))));
    const VF u = hn::Load(d, columns.u + i);
    const VF u1 = hn::Sub(u, one);
    const VF fu = hn::Load(d, columns.fu + i);
    for (int k = 0; k < kCount; ++k) {
      const float* a = nodes.a[row + k] + run.node;
      const float* b = nodes.b[row + k] + run.node;
      const VF a0 = hn::TableLookupLanes(hn::LoadU(d, a), places);
      const VF a1 = hn::TableLookupLanes(hn::LoadU(d, a + 1), places);
      const VF b0 = hn::TableLookupLanes(hn::LoadU(d, b), places);
      const VF b1 = hn::TableLookupLanes(hn::LoadU(d, b + 1), places);
      const VF left = hn::Add(hn::Mul(a0, u), b0);
      const VF right = hn::Add(hn::Mul(a1, u1), b1);
      Accumulate<kFirst>(d, Lerp(left, right, fu), weight, sum + k * Sums::kStride + i);
    }
  }
}

/// One octave over a tile by lattice columns. last: the target, with the last octave only.
template <bool kFirst>
void OctaveByGrid(const GradientOctave& octave, const GradientPlan& plan, const SampleGrid& grid,
                  int padded, const Sums& sums, const Target* last) {
  const DF d;
  Columns columns;
  FillColumns(octave, plan.shiftX, grid, padded, columns);
  NodeRow rows[2];
  NodeRow* upper = &rows[0];
  NodeRow* lower = &rows[1];
  NodeValues values;
  const int lanes = static_cast<int>(hn::Lanes(d));
  const VF weight = hn::Set(d, octave.weight);
  bool have = false;
  int64_t lattice = 0;
  for (int first = 0; first < grid.height; first += NodeValues::kRowsAtOnce) {
    const int count = std::min(NodeValues::kRowsAtOnce, grid.height - first);
    for (int k = 0; k < count; ++k) {
      const Wide pz =
          LatticePhase(octave, octave.phaseZ, plan.shiftZ, grid.z + (first + k) * grid.step);
      const int64_t iz = static_cast<int64_t>(pz >> 48);
      if (!have || iz != lattice) {
        if (have && iz == NextNode(lattice))
          std::swap(upper, lower);
        else
          FillNodes(columns, axisHash(octave.seedZ, iz), *upper);
        FillNodes(columns, axisHash(octave.seedZ, NextNode(iz)), *lower);
        lattice = iz;
        have = true;
      }
      const float zFraction = Fraction(pz);
      const VF v = hn::Set(d, zFraction);
      const VF v1 = hn::Set(d, zFraction - 1.0f);
      const VF fv = hn::Set(d, fade(zFraction));
      for (int n = 0; n < columns.nodes; n += lanes) {
        const VF gz0 = hn::Mul(hn::Load(d, upper->gz + n), v);
        const VF gz1 = hn::Mul(hn::Load(d, lower->gz + n), v1);
        hn::Store(Lerp(hn::Load(d, upper->gx + n), hn::Load(d, lower->gx + n), fv), d,
                  values.a[k] + n);
        hn::Store(Lerp(gz0, gz1, fv), d, values.b[k] + n);
      }
    }
    int k = 0;
    for (; k + 2 <= count; k += 2)
      EvaluateRows<kFirst, 2>(columns, values, k, weight, sums.Row(first, k));
    if (k < count) EvaluateRows<kFirst, 1>(columns, values, k, weight, sums.Row(first, k));
    if (last)
      for (k = 0; k < count; ++k) last->Join(first + k, sums.Row(first, k));
  }
}

/// One octave over a tile whose samples are farther apart than the lattice is fine: columns and
/// rows are hashed once, corners per sample.
template <bool kFirst>
void OctaveBySample(const GradientOctave& octave, const GradientPlan& plan, const SampleGrid& grid,
                    int padded, const Sums& sums, const Target* last) {
  const DF d;
  const DU du;
  HWY_ALIGN float u[kWidth + kPad];
  HWY_ALIGN uint32_t hx0[kWidth + kPad];
  HWY_ALIGN uint32_t hx1[kWidth + kPad];
  for (int i = 0; i < padded; ++i) {
    const Wide px = LatticePhase(octave, octave.phaseX, plan.shiftX,
                                 grid.x + std::min(i, grid.width - 1) * grid.step);
    const int64_t ix = static_cast<int64_t>(px >> 48);
    u[i] = Fraction(px);
    hx0[i] = axisHash(octave.seedX, ix);
    hx1[i] = axisHash(octave.seedX, NextNode(ix));
  }
  const int lanes = static_cast<int>(hn::Lanes(d));
  const VF one = hn::Set(d, 1.0f);
  const VF weight = hn::Set(d, octave.weight);
  for (int j = 0; j < grid.height; ++j) {
    const Wide pz = LatticePhase(octave, octave.phaseZ, plan.shiftZ, grid.z + j * grid.step);
    const int64_t iz = static_cast<int64_t>(pz >> 48);
    const uint32_t hz0 = axisHash(octave.seedZ, iz);
    const uint32_t hz1 = axisHash(octave.seedZ, NextNode(iz));
    const float zFraction = Fraction(pz);
    const VF v = hn::Set(d, zFraction);
    const VF v1 = hn::Set(d, zFraction - 1.0f);
    const VF fv = hn::Set(d, fade(zFraction));
    float* HWY_RESTRICT sum = sums.Row(j, 0);
    for (int i = 0; i < padded; i += lanes) {
      VF gx0, gz0, gx1, gz1;
      const VU left = hn::Load(du, hx0 + i);
      GradientOf(d, NodeHash(du, left, hz0), gx0, gz0);
      GradientOf(d, NodeHash(du, left, hz1), gx1, gz1);
      const VF a0 = Lerp(gx0, gx1, fv);
      const VF b0 = Lerp(hn::Mul(gz0, v), hn::Mul(gz1, v1), fv);
      const VU right = hn::Load(du, hx1 + i);
      GradientOf(d, NodeHash(du, right, hz0), gx0, gz0);
      GradientOf(d, NodeHash(du, right, hz1), gx1, gz1);
      const VF a1 = Lerp(gx0, gx1, fv);
      const VF b1 = Lerp(hn::Mul(gz0, v), hn::Mul(gz1, v1), fv);
      const VF place = hn::Load(d, u + i);
      const VF n = Lerp(hn::Add(hn::Mul(a0, place), b0),
                        hn::Add(hn::Mul(a1, hn::Sub(place, one)), b1), Fade(d, place));
      Accumulate<kFirst>(d, n, weight, sum + i);
    }
    if (last) last->Join(j, sum);
  }
}

template <bool kFirst>
void Octave(const GradientOctave& octave, const GradientPlan& plan, const SampleGrid& grid,
            int padded, const Sums& sums, const Target* last) {
  const Wide delta = static_cast<Wide>(octave.step) * grid.step;
  if (delta <= static_cast<Wide>(kGridStep))
    OctaveByGrid<kFirst>(octave, plan, grid, padded, sums, last);
  else
    OctaveBySample<kFirst>(octave, plan, grid, padded, sums, last);
}

void GradientTile(const GradientPlan& plan, const SampleGrid& grid, bool multiply, float* acc,
                  ptrdiff_t stride) {
  const int lanes = static_cast<int>(hn::Lanes(DF()));
  const int padded = (grid.width + lanes - 1) / lanes * lanes;
  HWY_ALIGN float values[Sums::kStride * kRows];
  const size_t count = plan.octaves.size();
  const Sums sums{values, count == 1};
  const Target target{plan.amplitude, plan.offset, multiply, acc, stride, grid.width};
  Octave<true>(plan.octaves[0], plan, grid, padded, sums, count == 1 ? &target : nullptr);
  for (size_t k = 1; k < count; ++k)
    Octave<false>(plan.octaves[k], plan, grid, padded, sums, k + 1 == count ? &target : nullptr);
}

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
  static const Kernels table{TableName(), GradientTile, BandIndices};
  return table;
}

}  // namespace HWY_NAMESPACE
}  // namespace acre
HWY_AFTER_NAMESPACE();

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
