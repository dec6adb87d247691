// Noise over a grid whose axes are those of the lattice: every lattice corner is hashed once, and a
// run of samples between the same two lattice columns shares its node values.
#if defined(ACRE_NOISE_GRID_INL_H_) == defined(HWY_TARGET_TOGGLE)
#ifdef ACRE_NOISE_GRID_INL_H_
#undef ACRE_NOISE_GRID_INL_H_
#else
#define ACRE_NOISE_GRID_INL_H_
#endif

#include "noise/points-inl.h"

HWY_BEFORE_NAMESPACE();
namespace acre {
namespace HWY_NAMESPACE {

/// Above this many lattice cells per sample (Q.48) the grid gives nothing: hash per sample.
constexpr uint64_t kGridStep = uint64_t{3} << 46;

/// Position on lattice axis a of a cell of the same world axis, for plans whose axes are aligned.
HWY_INLINE Wide LatticePhase(const Octave& octave, int a, const Pos& shift, int64_t cell) {
  const Wide s = octave.steps[a][a];
  return (cell + shift.cell) * s + ((shift.q * s) >> 16) + static_cast<Wide>(octave.phase[a]);
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
  HWY_ALIGN uint32_t hash[kWidth + 2 * kPad];  // Axis hash per lattice column, from `before` on.
  Run runs[kWidth + 1];
  int runCount;
  int nodes;
};

/// Gradients, values or sites of one lattice row; which arrays are used depends on the basis.
struct NodeRow {
  HWY_ALIGN float gx[kWidth + 2 * kPad];
  HWY_ALIGN float gz[kWidth + 2 * kPad];
  HWY_ALIGN float gy[kWidth + 2 * kPad];
};

/// before, after: lattice columns wanted to either side of the one that a sample lies in.
void FillColumns(const Octave& octave, const Pos& shift, int64_t x, int64_t step, int padded,
    int before, int after, Columns& out) {
  const DF d;
  const DU du;
  const int lanes = static_cast<int>(hn::Lanes(d));
  const Wide first = LatticePhase(octave, kX, shift, x);
  const uint64_t delta = static_cast<uint64_t>(octave.steps[kX][kX]) * static_cast<uint64_t>(step);
  // Bits 24 ... 55 relative to the first lattice column: its index and the fraction in one word.
  uint64_t phase = static_cast<uint64_t>(first) & ((uint64_t{1} << 48) - 1);
  for (int i = 0; i < padded; ++i, phase += delta)
    out.index[i] = static_cast<uint32_t>(phase >> 24);
  for (int i = 0; i < padded; i += lanes) {
    const VU word = hn::Load(du, out.index + i);
    const VF u = hn::Mul(SmallToFloat(hn::And(word, hn::Set(du, 0xFFFFFFu))), Num(0x1p-24f));
    hn::Store(u, d, out.u + i);
    hn::Store(Fade(u), d, out.fu + i);
    hn::Store(hn::ShiftRight<24>(word), du, out.index + i);
  }
  out.nodes = static_cast<int>(out.index[padded - 1]) + 1 + before + after;
  const uint64_t node0 =
      static_cast<uint64_t>(static_cast<int64_t>(first >> 48)) - static_cast<uint64_t>(before);
  for (int n = 0; n < out.nodes; ++n)
    out.hash[n] = axisHash(octave.seed[kX], static_cast<int64_t>(node0 + static_cast<uint64_t>(n)));
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

template <Basis kBasis>
void FillNodes(const Columns& columns, uint32_t hz, NodeRow& out) {
  const DF d;
  const DU du;
  for (int n = 0; n < columns.nodes; n += static_cast<int>(hn::Lanes(d))) {
    const VU hash = NodeHash(hn::Load(du, columns.hash + n), hn::Set(du, hz));
    if constexpr (kBasis == Basis::Value) {
      hn::Store(UnitOf(hash), d, out.gx + n);
    } else {
      VF gx, gz;
      GradientOf(hash, gx, gz);
      hn::Store(gx, d, out.gx + n);
      hn::Store(gz, d, out.gz + n);
    }
  }
}

/// Where the sums of a tile go once all octaves are in.
struct Target {
  Join join;
  float* acc;
  ptrdiff_t stride;
  int width;

  /// Row by row, while the sums are still in the nearest cache.
  HWY_INLINE void Put(int row, const float* HWY_RESTRICT sum) const {
    switch (join.op) {
      case JoinOp::Add:
        return Each(row, sum, [](VF a, VF b) HWY_ATTR { return hn::Add(a, b); });
      case JoinOp::Multiply:
        return Each(row, sum, [](VF a, VF b) HWY_ATTR { return hn::Mul(a, b); });
      case JoinOp::Minimum:
        return Each(
            row, sum, [](VF a, VF b) HWY_ATTR { return hn::IfThenElse(hn::Lt(b, a), b, a); });
      case JoinOp::Maximum:
        return Each(
            row, sum, [](VF a, VF b) HWY_ATTR { return hn::IfThenElse(hn::Gt(b, a), b, a); });
      case JoinOp::Replace:
        return Each(row, sum, [](VF, VF b) HWY_ATTR { return b; });
    }
  }

 private:
  template <class Op>
  HWY_INLINE void Each(int row, const float* HWY_RESTRICT sum, Op&& op) const {
    const DF d;
    float* HWY_RESTRICT out = acc + row * stride;
    const VF scale = Num(join.amplitude);
    const VF shift = Num(join.offset);
    int i = 0;
    for (; i + Lanes() <= width; i += Lanes()) {
      const VF value = hn::Add(hn::Mul(hn::Load(d, sum + i), scale), shift);
      hn::StoreU(op(hn::LoadU(d, out + i), value), d, out + i);
    }
    for (; i < width; ++i)
      out[i] = join.apply(out[i], sum[i] * join.amplitude + join.offset);  // NOLINT: filled.
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

/// One octave of a tile: what every way of evaluating it needs.
struct Task {
  const NoisePlan& plan;
  const Octave& octave;
  const SampleGrid& grid;
  int padded;
  Folding fold;
  const Sums& sums;
  const Target* last;  ///< With the last octave only.

  HWY_INLINE Wide RowPhase(int j) const {
    return LatticePhase(octave, kZ, plan.shift[kZ], grid.z + j * grid.step);
  }
};

/// Values of the lattice columns on some sample rows: noise = lerp(a0*u + b0, a1*(u-1) + b1,
/// fade(u)) for gradient noise, lerp(a0, a1, fade(u)) for value noise. They are made for a few rows
/// at once, so that no load meets a store that is still on its way.
struct NodeValues {
  static constexpr int kRowsAtOnce = 8;
  HWY_ALIGN float a[kRowsAtOnce][kWidth + 2 * kPad];
  HWY_ALIGN float b[kRowsAtOnce][kWidth + 2 * kPad];
};

/// kCount rows side by side: what belongs to the columns is loaded once for all of them.
template <Basis kBasis, bool kFirst, bool kFold, int kCount>
HWY_INLINE void EvaluateRows(const Columns& columns, const NodeValues& nodes, int row, VF weight,
    const Folding& fold, float* HWY_RESTRICT sum) {
  const DF d;
  const DU du;
  constexpr bool kSlopes = kBasis == Basis::Gradient;
  const VF one = Num(1.0f);
  const auto noise = [&](VF a0, VF b0, VF a1, VF b1, VF u, VF u1, VF fu) HWY_ATTR {
    if constexpr (kSlopes)
      return Lerp(hn::Add(hn::Mul(a0, u), b0), hn::Add(hn::Mul(a1, u1), b1), fu);
    else
      return Lerp(a0, a1, fu);
  };
  const VF none = hn::Zero(d);
  for (int r = 0; r < columns.runCount; ++r) {
    const Run run = columns.runs[r];
    if (run.uniform) {
      VF a0[kCount], a1[kCount], b0[kCount], b1[kCount];
      for (int k = 0; k < kCount; ++k) {
        a0[k] = Num(nodes.a[row + k][run.node]);
        a1[k] = Num(nodes.a[row + k][run.node + 1]);
        b0[k] = kSlopes ? Num(nodes.b[row + k][run.node]) : none;
        b1[k] = kSlopes ? Num(nodes.b[row + k][run.node + 1]) : none;
      }
      for (int i = run.begin; i < run.end; i += Lanes()) {
        const VF u = hn::Load(d, columns.u + i);
        const VF u1 = hn::Sub(u, one);
        const VF fu = hn::Load(d, columns.fu + i);
        for (int k = 0; k < kCount; ++k)
          Accumulate<kFirst, kFold>(noise(a0[k], b0[k], a1[k], b1[k], u, u1, fu), weight, fold,
              sum + k * Sums::kStride + i);
      }
      continue;
    }
    const int i = run.begin;
    const auto places = hn::IndicesFromVec(
        d, hn::Sub(hn::Load(du, columns.index + i), hn::Set(du, static_cast<uint32_t>(run.node))));
    const auto look = [&](const float* from)
                          HWY_ATTR { return hn::TableLookupLanes(hn::LoadU(d, from), places); };
    const VF u = hn::Load(d, columns.u + i);
    const VF u1 = hn::Sub(u, one);
    const VF fu = hn::Load(d, columns.fu + i);
    for (int k = 0; k < kCount; ++k) {
      const float* a = nodes.a[row + k] + run.node;
      const float* b = nodes.b[row + k] + run.node;
      const VF n = kSlopes ? noise(look(a), look(b), look(a + 1), look(b + 1), u, u1, fu)
                           : noise(look(a), none, look(a + 1), none, u, u1, fu);
      Accumulate<kFirst, kFold>(n, weight, fold, sum + k * Sums::kStride + i);
    }
  }
}

/// One octave of gradient or value noise over a tile, by lattice columns.
template <Basis kBasis, bool kFirst, bool kFold>
void OctaveByGrid(const Task& task) {
  const DF d;
  Columns columns;
  FillColumns(
      task.octave, task.plan.shift[kX], task.grid.x, task.grid.step, task.padded, 0, 1, columns);
  NodeRow rows[2];
  NodeRow* upper = &rows[0];
  NodeRow* lower = &rows[1];
  NodeValues values;
  const VF weight = Num(task.octave.weight);
  const uint64_t seed = task.octave.seed[kZ];
  bool have = false;
  int64_t lattice = 0;
  for (int first = 0; first < task.grid.length; first += NodeValues::kRowsAtOnce) {
    const int count = std::min(NodeValues::kRowsAtOnce, task.grid.length - first);
    for (int k = 0; k < count; ++k) {
      const Wide pz = task.RowPhase(first + k);
      const int64_t iz = static_cast<int64_t>(pz >> 48);
      if (!have || iz != lattice) {
        if (have && iz == NextNode(lattice))
          std::swap(upper, lower);
        else
          FillNodes<kBasis>(columns, axisHash(seed, iz), *upper);
        FillNodes<kBasis>(columns, axisHash(seed, NextNode(iz)), *lower);
        lattice = iz;
        have = true;
      }
      const float zFraction = Fraction(pz);
      const VF v = Num(zFraction);
      const VF v1 = Num(zFraction - 1.0f);
      const VF fv = Num(fade(zFraction));
      for (int n = 0; n < columns.nodes; n += Lanes()) {
        hn::Store(
            Lerp(hn::Load(d, upper->gx + n), hn::Load(d, lower->gx + n), fv), d, values.a[k] + n);
        if constexpr (kBasis == Basis::Gradient) {
          const VF gz0 = hn::Mul(hn::Load(d, upper->gz + n), v);
          const VF gz1 = hn::Mul(hn::Load(d, lower->gz + n), v1);
          hn::Store(Lerp(gz0, gz1, fv), d, values.b[k] + n);
        }
      }
    }
    int k = 0;
    for (; k + 2 <= count; k += 2)
      EvaluateRows<kBasis, kFirst, kFold, 2>(
          columns, values, k, weight, task.fold, task.sums.Row(first, k));
    if (k < count)
      EvaluateRows<kBasis, kFirst, kFold, 1>(
          columns, values, k, weight, task.fold, task.sums.Row(first, k));
    if (task.last)
      for (k = 0; k < count; ++k) task.last->Put(first + k, task.sums.Row(first, k));
  }
}

/// Sites of one lattice row: their offsets within their squares, and values.
void FillSites(const Columns& columns, uint32_t hz, float jitter, NodeRow& out) {
  const DF d;
  const DU du;
  for (int n = 0; n < columns.nodes; n += Lanes()) {
    const VU hash = NodeHash(hn::Load(du, columns.hash + n), hn::Set(du, hz));
    hn::Store(SiteOffset(hash, Num(jitter)), d, out.gx + n);
    hn::Store(SiteOffset(SiteHash2(hash), Num(jitter)), d, out.gz + n);
    hn::Store(SiteValue(hash), d, out.gy + n);
  }
}

/// A site at siteX, seen from u; dz: across the row, squared for Euclid, else absolute.
template <Metric kMetric, Need kNeed>
HWY_INLINE void VisitSite(Nearest<kNeed>& nearest, VF u, VF siteX, VF dz, VF value) {
  const VF dx = hn::Sub(siteX, u);
  if constexpr (kMetric == Metric::Euclidean)
    nearest.Visit(hn::Add(hn::Mul(dx, dx), dz), value);
  else if constexpr (kMetric == Metric::Manhattan)
    nearest.Visit(hn::Add(hn::Abs(dx), dz), value);
  else
    nearest.Visit(hn::Max(hn::Abs(dx), dz), value);
}

/// One octave of cellular noise over a tile: the sites of three lattice rows at a time.
template <Metric kMetric, Need kNeed>
void CellularByGrid(const Task& task, bool first) {
  const DF d;
  const DU du;
  Columns columns;
  FillColumns(
      task.octave, task.plan.shift[kX], task.grid.x, task.grid.step, task.padded, 1, 1, columns);
  NodeRow rows[3];
  NodeRow* at[3] = {&rows[0], &rows[1], &rows[2]};
  HWY_ALIGN float noise[kWidth + kPad];
  const VF one = Num(1.0f);
  bool have = false;
  int64_t lattice = 0;
  for (int j = 0; j < task.grid.length; ++j) {
    const Wide pz = task.RowPhase(j);
    const int64_t iz = static_cast<int64_t>(pz >> 48);
    const auto fill = [&](int k) HWY_ATTR {
      const auto node =
          static_cast<int64_t>(static_cast<uint64_t>(iz) + static_cast<uint64_t>(int64_t{k - 1}));
      FillSites(columns, axisHash(task.octave.seed[kZ], node), task.plan.jitter, *at[k]);
    };
    if (!have || iz != lattice) {
      if (have && iz == NextNode(lattice)) {
        std::rotate(at, at + 1, at + 3);
      } else {
        fill(0);
        fill(1);
      }
      fill(2);
      lattice = iz;
      have = true;
    }
    const float v = Fraction(pz);
    const VF roomZ = Num(std::min(v, 1.0f - v));
    float* HWY_RESTRICT sum = task.sums.Row(j, 0);
    // z of a site against the row: squared for Euclid, else absolute.
    const auto across = [&](float offset, int k) HWY_ATTR {
      const float dz = (static_cast<float>(k - 1) + offset) - v;
      return kMetric == Metric::Euclidean ? dz * dz : std::abs(dz);
    };
    const auto finish = [&](const Nearest<kNeed>& nearest, VF u, int i) HWY_ATTR {
      const VF room = hn::Min(hn::Min(u, hn::Sub(one, u)), roomZ);
      const MF open = nearest.Open(kMetric, hn::Add(room, one));
      const VF n = CloseLanes(task.plan, task.octave, nearest.Result(task.plan.result, kMetric),
          open, Lanes(), [&](int lane, Pos* place) HWY_ATTR {
            place[kX] = {task.grid.x + (i + lane) * task.grid.step + task.plan.shift[kX].cell,
                task.plan.shift[kX].q};
            place[kZ] = {
                task.grid.z + j * task.grid.step + task.plan.shift[kZ].cell, task.plan.shift[kZ].q};
          });
      hn::Store(n, d, noise + i);
    };
    for (int r = 0; r < columns.runCount; ++r) {
      const Run run = columns.runs[r];
      if (run.uniform) {
        VF siteX[9], dz[9], value[9];
        for (int k = 0; k < 3; ++k)
          for (int s = 0; s < 3; ++s) {
            const int n = run.node + s;
            siteX[3 * k + s] = Num(static_cast<float>(s - 1) + at[k]->gx[n]);
            dz[3 * k + s] = Num(across(at[k]->gz[n], k));
            value[3 * k + s] = Num(at[k]->gy[n]);
          }
        for (int i = run.begin; i < run.end; i += Lanes()) {
          const VF u = hn::Load(d, columns.u + i);
          Nearest<kNeed> nearest;
          for (int m = 0; m < 9; ++m) VisitSite<kMetric>(nearest, u, siteX[m], dz[m], value[m]);
          finish(nearest, u, i);
        }
        continue;
      }
      const int i = run.begin;
      const auto places = hn::IndicesFromVec(d,
          hn::Sub(hn::Load(du, columns.index + i), hn::Set(du, static_cast<uint32_t>(run.node))));
      const auto look = [&](const float* from)
                            HWY_ATTR { return hn::TableLookupLanes(hn::LoadU(d, from), places); };
      const VF u = hn::Load(d, columns.u + i);
      Nearest<kNeed> nearest;
      for (int k = 0; k < 3; ++k)
        for (int s = 0; s < 3; ++s) {
          const int n = run.node + s;
          VF dz = hn::Sub(hn::Add(Num(static_cast<float>(k - 1)), look(at[k]->gz + n)), Num(v));
          dz = kMetric == Metric::Euclidean ? hn::Mul(dz, dz) : hn::Abs(dz);
          VisitSite<kMetric>(nearest, u,
              hn::Add(Num(static_cast<float>(s - 1)), look(at[k]->gx + n)), dz,
              kNeed == Need::Site ? look(at[k]->gy + n) : dz);
        }
      finish(nearest, u, i);
    }
    AccumulateRow(first, noise, task.padded, task.octave.weight, task.fold, sum);
    if (task.last) task.last->Put(j, sum);
  }
}

/// One octave over a tile whose samples are farther apart than the lattice is fine: columns are
/// hashed once, rows as they come.
void OctaveBySample(const Task& task, bool first) {
  const NoisePlan& plan = task.plan;
  const Octave& octave = task.octave;
  const Span span = SpanOf(plan.basis);
  PointLattice lattice;
  HWY_ALIGN float noise[kWidth + kPad];
  const auto placeOf = [&](int i, int j, Pos* place) HWY_ATTR {
    place[kX] = {
        task.grid.x + std::min(i, task.grid.width - 1) * task.grid.step + plan.shift[kX].cell,
        plan.shift[kX].q};
    place[kZ] = {task.grid.z + j * task.grid.step + plan.shift[kZ].cell, plan.shift[kZ].q};
  };
  const auto hashes = [&](int a, Wide p, int step) HWY_ATTR {
    return axisHash(
        octave.seed[a], static_cast<int64_t>(static_cast<uint64_t>(static_cast<int64_t>(p >> 48)) +
                                             static_cast<uint64_t>(int64_t{step})));
  };
  for (int i = 0; i < task.padded; ++i) {
    const Wide p = LatticePhase(octave, kX, plan.shift[kX],
        task.grid.x + std::min(i, task.grid.width - 1) * task.grid.step);
    lattice.f[kX][i] = Fraction(p);
    lattice.node[kX][i] = static_cast<uint32_t>(static_cast<uint64_t>(p >> 48));
    for (int step = span.from; step <= span.to; ++step)
      lattice.hash[kX][step + 1][i] = hashes(kX, p, step);
  }
  for (int j = 0; j < task.grid.length; ++j) {
    const Wide p = task.RowPhase(j);
    std::fill_n(lattice.f[kZ], task.padded, Fraction(p));
    std::fill_n(
        lattice.node[kZ], task.padded, static_cast<uint32_t>(static_cast<uint64_t>(p >> 48)));
    for (int step = span.from; step <= span.to; ++step)
      std::fill_n(lattice.hash[kZ][step + 1], task.padded, hashes(kZ, p, step));
    float* sum = task.sums.Row(j, 0);
    OctaveOverLattice<2>(plan, octave, lattice, task.padded, noise,
        [&](int i, Pos* place) { placeOf(i, j, place); });
    AccumulateRow(first, noise, task.padded, octave.weight, task.fold, sum);
    if (task.last) task.last->Put(j, sum);
  }
}

void OctaveOver(const Task& task, bool first) {
  const Basis basis = task.plan.basis;
  const Wide delta = static_cast<Wide>(task.octave.steps[kX][kX]) * task.grid.step;
  if (delta > static_cast<Wide>(kGridStep)) return OctaveBySample(task, first);
  const auto byGrid = [&](auto is) HWY_ATTR {
    WithFlags(first, task.fold.on, [&](auto isFirst, auto isFold) HWY_ATTR {
      OctaveByGrid<decltype(is)::value, decltype(isFirst)::value, decltype(isFold)::value>(task);
    });
  };
  switch (basis) {
    case Basis::Gradient:
      return byGrid(std::integral_constant<Basis, Basis::Gradient>());
    case Basis::Value:
      return byGrid(std::integral_constant<Basis, Basis::Value>());
    case Basis::Cellular:
      return WithCellular(task.plan, [&](auto metric, auto need) HWY_ATTR {
        CellularByGrid<decltype(metric)::value, decltype(need)::value>(task, first);
      });
    default:
      return OctaveBySample(task, first);
  }
}

/// A plan whose lattice is turned or skewed: in patches rather than rows, so that neighbours share
/// more of the lattice.
void GridByPatches(const NoisePlan& plan, const SampleGrid& grid, const Target& target) {
  const Patch size(grid.step);
  HWY_ALIGN float patch[kMost + kPad];
  HWY_ALIGN float rows[kRows][kWidth + kPad];
  const int rowsAtOnce = std::min(size.height, kRows);
  for (int j0 = 0; j0 < grid.length; j0 += rowsAtOnce) {
    const int height = std::min(rowsAtOnce, grid.length - j0);
    for (int i0 = 0; i0 < grid.width; i0 += size.width) {
      const int width = std::min(size.width, grid.width - i0);
      const GridPiece piece{
          grid.x + i0 * grid.step, grid.z + j0 * grid.step, grid.step, PadToLanes(width), height};
      if (piece.width <= size.width && FitsPiece(plan, piece)) {
        SumOctaves<2>(
            plan, piece.count(),
            [&](const Octave& octave, int axis, PointLattice& lattice, uint64_t& base) HWY_ATTR {
              base = FillPiece(plan, octave, axis, piece, lattice);
              return true;
            },
            [&](int i, Pos* place) HWY_ATTR {
              place[kX] = piece.PlaceX(i, plan.shift[kX]);
              place[kZ] = piece.PlaceZ(i, plan.shift[kZ]);
            },
            patch);
        for (int j = 0; j < height; ++j)
          for (int i = 0; i < width; i += Lanes())
            hn::StoreU(hn::Add(hn::Load(DF(), patch + j * piece.width + i), hn::Zero(DF())), DF(),
                rows[j] + i0 + i);
        continue;
      }
      int64_t x[kMost], z[kMost];
      const int32_t q[kMost] = {};
      for (int j = 0; j < height; ++j)
        for (int i = 0; i < width; ++i) {
          x[j * width + i] = piece.x + i * grid.step;
          z[j * width + i] = piece.z + j * grid.step;
        }
      PointsOf(plan, {width * height, {x, nullptr, z}, {q, nullptr, q}}, patch);
      for (int j = 0; j < height; ++j) std::copy_n(patch + j * width, width, rows[j] + i0);
    }
    for (int j = 0; j < height; ++j) target.Put(j0 + j, rows[j]);
  }
}

void GridTile(
    const NoisePlan& plan, const SampleGrid& grid, const Join& join, float* acc, ptrdiff_t stride) {
  const Target target{join, acc, stride, grid.width};
  if (!plan.aligned) return GridByPatches(plan, grid, target);
  HWY_ALIGN float values[Sums::kStride * kRows];
  const size_t count = plan.octaves.size();
  const Sums sums{values, count == 1};
  for (size_t k = 0; k < count; ++k) {
    const Task task{plan, plan.octaves[k], grid, PadToLanes(grid.width), Folding(plan.shape), sums,
        k + 1 == count ? &target : nullptr};
    OctaveOver(task, k == 0);
  }
}

}  // namespace HWY_NAMESPACE
}  // namespace acre
HWY_AFTER_NAMESPACE();

#endif
