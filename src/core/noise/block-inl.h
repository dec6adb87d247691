// Gradient noise in three dimensions over a block: per lattice layer the value at its foot and the
// slope upwards are made once for a row, after which a sample takes six operations.
#if defined(ACRE_NOISE_BLOCK_INL_H_) == defined(HWY_TARGET_TOGGLE)
#ifdef ACRE_NOISE_BLOCK_INL_H_
#undef ACRE_NOISE_BLOCK_INL_H_
#else
#define ACRE_NOISE_BLOCK_INL_H_
#endif

#include "noise/grid-inl.h"

HWY_BEFORE_NAMESPACE();
namespace acre {
namespace HWY_NAMESPACE {

void FillNodes3(const Columns& columns, uint32_t hy, uint32_t hz, NodeRow& out) {
  const DF d;
  const DU du;
  for (int n = 0; n < columns.nodes; n += Lanes()) {
    const VU hash = NodeHash(hn::Load(du, columns.hash + n), hn::Set(du, hy), hn::Set(du, hz));
    VF gx, gy, gz;
    Gradient3Of(hash, gx, gy, gz);
    hn::Store(gx, d, out.gx + n);
    hn::Store(gy, d, out.gy + n);
    hn::Store(gz, d, out.gz + n);
  }
}

/// Value at the foot of a lattice plane and slope upwards from it, along one row of samples.
struct PlaneRow {
  HWY_ALIGN float base[kWidth + kPad];
  HWY_ALIGN float slope[kWidth + kPad];
};

void FillPlane(const Columns& columns, const NodeRow& near, const NodeRow& far, float zFraction,
    PlaneRow& out) {
  const DF d;
  const DU du;
  HWY_ALIGN float a[kWidth + 2 * kPad];
  HWY_ALIGN float b[kWidth + 2 * kPad];
  HWY_ALIGN float s[kWidth + 2 * kPad];
  const VF v = Num(zFraction), v1 = Num(zFraction - 1.0f), fv = Num(fade(zFraction));
  for (int n = 0; n < columns.nodes; n += Lanes()) {
    const VF gz0 = hn::Mul(hn::Load(d, near.gz + n), v);
    const VF gz1 = hn::Mul(hn::Load(d, far.gz + n), v1);
    hn::Store(Lerp(hn::Load(d, near.gx + n), hn::Load(d, far.gx + n), fv), d, a + n);
    hn::Store(Lerp(gz0, gz1, fv), d, b + n);
    hn::Store(Lerp(hn::Load(d, near.gy + n), hn::Load(d, far.gy + n), fv), d, s + n);
  }
  const VF one = Num(1.0f);
  for (int r = 0; r < columns.runCount; ++r) {
    const Run run = columns.runs[r];
    for (int i = run.begin; i < run.end; i += Lanes()) {
      const auto places = hn::IndicesFromVec(d,
          hn::Sub(hn::Load(du, columns.index + i), hn::Set(du, static_cast<uint32_t>(run.node))));
      const auto look = [&](const float* from) HWY_ATTR {
        return run.uniform ? Num(*from) : hn::TableLookupLanes(hn::LoadU(d, from), places);
      };
      const VF u = hn::Load(d, columns.u + i);
      const VF fu = hn::Load(d, columns.fu + i);
      const VF left = hn::Add(hn::Mul(look(a + run.node), u), look(b + run.node));
      const VF right =
          hn::Add(hn::Mul(look(a + run.node + 1), hn::Sub(u, one)), look(b + run.node + 1));
      hn::Store(Lerp(left, right, fu), d, out.base + i);
      hn::Store(Lerp(look(s + run.node), look(s + run.node + 1), fu), d, out.slope + i);
    }
  }
}

/// Where the rows of a block lie between the lattice's layers.
struct Storeys {
  static constexpr int32_t kMostRows = 256;  ///< A taller block is made in slabs.
  int64_t layer[kMostRows];
  float fraction[kMostRows];
  float faded[kMostRows];

  Storeys(const Octave& octave, const Pos& shift, int64_t y, int64_t step, int rows) {
    for (int j = 0; j < rows; ++j) {
      const Wide p = LatticePhase(octave, kY, shift, y + j * step);
      layer[j] = static_cast<int64_t>(p >> 48);
      fraction[j] = Fraction(p);
      faded[j] = fade(fraction[j]);
    }
  }
};

template <bool kFirst, bool kFold>
void OctaveByBlock(
    const NoisePlan& plan, const Octave& octave, const SampleBlock& block, float* out) {
  const DF d;
  const int padded = PadToLanes(block.width);
  const Folding fold(plan.shape);
  const VF weight = Num(octave.weight);
  Columns columns;
  FillColumns(octave, plan.shift[kX], block.x, block.step, padded, 0, 1, columns);
  NodeRow near, far;
  PlaneRow planes[2];
  HWY_ALIGN float p[kWidth + kPad], q[kWidth + kPad], r[kWidth + kPad], t[kWidth + kPad];
  HWY_ALIGN float row[kWidth + kPad];
  const int rows = block.height;
  const Storeys storeys(octave, plan.shift[kY], block.y, block.step, rows);
  for (int32_t z = 0; z < block.length; ++z) {
    const Wide pz = LatticePhase(octave, kZ, plan.shift[kZ], block.z + z * block.step);
    const int64_t iz = static_cast<int64_t>(pz >> 48);
    const uint32_t hz0 = axisHash(octave.seed[kZ], iz);
    const uint32_t hz1 = axisHash(octave.seed[kZ], NextNode(iz));
    PlaneRow* lower = &planes[0];
    PlaneRow* upper = &planes[1];
    bool have = false;
    int64_t layer = 0;
    const auto fillPlane = [&](int64_t iy, PlaneRow& plane) HWY_ATTR {
      const uint32_t hy = axisHash(octave.seed[kY], iy);
      FillNodes3(columns, hy, hz0, near);
      FillNodes3(columns, hy, hz1, far);
      FillPlane(columns, near, far, Fraction(pz), plane);
    };
    for (int y = 0; y < rows; ++y) {
      const int64_t iy = storeys.layer[y];
      if (!have || iy != layer) {
        if (have && iy == NextNode(layer))
          std::swap(lower, upper);
        else
          fillPlane(iy, *lower);
        fillPlane(NextNode(iy), *upper);
        layer = iy;
        have = true;
        for (int i = 0; i < padded; i += Lanes()) {
          const VF base0 = hn::Load(d, lower->base + i), slope0 = hn::Load(d, lower->slope + i);
          const VF base1 = hn::Load(d, upper->base + i), slope1 = hn::Load(d, upper->slope + i);
          hn::Store(base0, d, p + i);
          hn::Store(hn::Sub(hn::Sub(base1, slope1), base0), d, r + i);
          hn::Store(slope0, d, q + i);
          hn::Store(hn::Sub(slope1, slope0), d, t + i);
        }
      }
      const VF f = Num(storeys.fraction[y]), w = Num(storeys.faded[y]);
      float* to = out + (ptrdiff_t{y} * block.length + z) * block.width;
      const auto noise = [&](int i) HWY_ATTR {
        return hn::Add(hn::Add(hn::Load(d, p + i), hn::Mul(w, hn::Load(d, r + i))),
            hn::Mul(f, hn::Add(hn::Load(d, q + i), hn::Mul(w, hn::Load(d, t + i)))));
      };
      if (padded == block.width) {
        for (int i = 0; i < padded; i += Lanes()) {
          VF n = noise(i);
          if constexpr (kFold) n = hn::Add(Num(fold.bias), hn::Mul(Num(fold.slope), hn::Abs(n)));
          const VF sum =
              kFirst ? hn::Add(n, hn::Zero(d)) : hn::Add(hn::LoadU(d, to + i), hn::Mul(n, weight));
          hn::StoreU(sum, d, to + i);
        }
        continue;
      }
      if constexpr (!kFirst) std::copy_n(to, block.width, row);
      for (int i = 0; i < padded; i += Lanes())
        Accumulate<kFirst, kFold>(
            kFirst ? hn::Add(noise(i), hn::Zero(d)) : noise(i), weight, fold, row + i);
      std::copy_n(row, block.width, to);
    }
  }
}

void BlockByPoints(const NoisePlan& plan, const SampleBlock& block, float* out) {
  int64_t x[kMost], y[kMost], z[kMost];
  const int32_t q[kMost] = {};
  for (int i = 0; i < block.width; ++i) x[i] = block.x + i * block.step;
  for (int32_t j = 0; j < block.height; ++j) {
    std::fill_n(y, block.width, block.y + j * block.step);
    for (int32_t k = 0; k < block.length; ++k, out += block.width) {
      std::fill_n(z, block.width, block.z + k * block.step);
      PointsOf(plan, {block.width, {x, y, z}, {q, q, q}}, out);
    }
  }
}

void BlockOf(const NoisePlan& plan, const SampleBlock& block, float* out) {
  const bool coarse =
      std::any_of(plan.octaves.begin(), plan.octaves.end(), [&](const Octave& o) HWY_ATTR {
        return static_cast<Wide>(o.steps[kX][kX]) * block.step > static_cast<Wide>(kGridStep);
      });
  if (!plan.aligned || plan.basis != Basis::Gradient || coarse)
    return BlockByPoints(plan, block, out);
  const bool fold = plan.shape != Shape::Plain;
  for (int32_t y = 0; y < block.height; y += Storeys::kMostRows) {
    SampleBlock slab = block;
    slab.y += y * block.step;
    slab.height = std::min(Storeys::kMostRows, block.height - y);
    float* to = out + ptrdiff_t{y} * block.length * block.width;
    for (size_t k = 0; k < plan.octaves.size(); ++k)
      WithFlags(k == 0, fold, [&](auto isFirst, auto isFold) HWY_ATTR {
        OctaveByBlock<decltype(isFirst)::value, decltype(isFold)::value>(
            plan, plan.octaves[k], slab, to);
      });
  }
}

}  // namespace HWY_NAMESPACE
}  // namespace acre
HWY_AFTER_NAMESPACE();

#endif
