#include "base/fp_state.h"
#include "base/hash.h"
#include "noise/kernels.h"

namespace acre {
namespace {

/// The bits of record: the low half of the digest of all tiles, points and blocks below.
constexpr uint64_t kRecord = 0x6F9DC19B1789D60B;

/// A plan of three octaves with made-up steps; turned: lattice axes are not world axes.
NoisePlan planOf(Basis basis, int dims, bool turned) {
  NoisePlan plan;
  plan.dims = dims;
  plan.basis = basis;
  plan.shape = static_cast<Shape>(static_cast<int>(basis) % 3);
  plan.result = CellularResult::Difference;
  plan.jitter = 0.9f;
  plan.aligned = !turned;
  plan.shift[kX] = {3, 12345};
  for (uint64_t k = 0; k < 3; ++k) {
    Octave octave;
    for (int n = 0; n < dims; ++n) {
      const int a = dimAxis(dims, n);
      const auto tag = static_cast<uint64_t>(a);
      octave.steps[a][a] = static_cast<int64_t>((uint64_t{1} << 44) * (k * k + 1));
      if (turned) octave.steps[a][kX] -= int64_t{1} << 42;
      octave.phase[a] = mix64(k + 9 * tag) >> 16;
      octave.seed[a] = mix64(k + 20 + 10 * tag);
    }
    octave.weight = k == 0 ? 1.0f : 0.37f;
    plan.octaves.push_back(octave);
  }
  return plan;
}

constexpr int32_t kWidth = 61, kHeight = 9;
constexpr int64_t kFar = -2'000'000'011;

using Values = std::vector<float>;

Values gridOf(const Kernels& kernels, const NoisePlan& plan, int64_t step) {
  Values values(size_t{kWidth} * kHeight, 0.5f);
  kernels.grid(plan, {kFar, 17, step, kWidth, kHeight}, {JoinOp::Multiply, 7.3f, 0.1f},
      values.data(), kWidth);
  return values;
}

Values blockOf(const Kernels& kernels, const NoisePlan& plan) {
  Values values(size_t{kWidth} * kHeight * 3);
  kernels.block(plan, {kFar, -7, 17, 1, kWidth, kHeight, 3}, values.data());
  return values;
}

Values pointsOf(const Kernels& kernels, const NoisePlan& plan, int64_t apart) {
  int64_t x[kWidth], y[kWidth], z[kWidth];
  int32_t q[kWidth];
  for (int i = 0; i < kWidth; ++i) {
    const uint64_t bits = mix64(static_cast<uint64_t>(i));
    x[i] = kFar + static_cast<int64_t>(bits % 97) * apart;
    y[i] = static_cast<int64_t>(bits % 31) - 15;
    z[i] = 5 - static_cast<int64_t>(bits % 89) * apart;
    q[i] = static_cast<int32_t>(bits >> 48);
  }
  Values values(kWidth);
  kernels.points(plan, {kWidth, {x, y, z}, {q, q, q}}, values.data());
  return values;
}

/// What comes after a source: a distribution, a curve, a mask, a join and a warp, one upon another.
Values shapedOf(const Kernels& kernels) {
  const float value[] = {-0.5f, 0.0f, 0.3f, 1.0f}, share[] = {0, 0.2f, 0.7f, 1};
  const float slope[] = {0.4f, 1.7f, 0.42f};
  const std::vector<int32_t> start(ShareSet::kBuckets + 1);
  const float x[] = {0.1f, 0.5f}, scale[] = {2.5f, 1.3f};
  const float c[][2] = {{0.2f, 0.9f}, {0.7f, -0.3f}, {0.1f, 1.1f}, {-0.1f, -0.8f}};
  const Values before = gridOf(kernels, planOf(Basis::Gradient, 2, false), 1);
  const int count = static_cast<int>(before.size());
  Values values = before, weight = before;
  kernels.shares(
      {4, value, share, slope, start.data(), ShareSet::kBuckets / 1.5f}, values.data(), count);
  kernels.curve(
      {2, x, scale, {c[0], c[1], c[2], c[3]}, 0.1f, 1.27f, 0.2f, 0.9f}, values.data(), count);
  kernels.mask({-1, 2, 0.7f}, weight.data(), count);
  kernels.scale({3.3f, -0.7f, -2, 2}, values.data(), count);
  Values out = before;
  for (const Combine combine : {Combine::Mix, Combine::SmoothMaximum})
    kernels.join(combine, 0.3f, out.data(), values.data(), weight.data(), count);
  std::vector<int64_t> cell(before.size(), kFar), toCell(cell);
  std::vector<int32_t> q(before.size(), 40'000), toQ(q);
  kernels.shift(cell.data(), q.data(), out.data(), 12.3f, count, toCell.data(), toQ.data());
  for (size_t i = 0; i < toQ.size(); ++i)
    out.push_back(static_cast<float>(toCell[i] - kFar) + static_cast<float>(toQ[i]) / 65'536);
  return out;
}

}  // namespace

Status selfTest(const Kernels& kernels) {
  const FpState fp;
  DigestWriter bits;
  bool equal = true;
  const auto compare = [&](const auto& make) {
    const Values expected = make(plainKernels());
    equal = equal && make(kernels) == expected;
    for (const float v : expected) bits.f32(v);
  };
  for (const Basis basis : {Basis::Gradient, Basis::Value, Basis::Simplex, Basis::Cellular,
           Basis::White, Basis::Gradient2002}) {
    for (const bool turned : {false, true}) {
      const NoisePlan plan = planOf(basis, 2, turned);
      // By lattice columns, and sample by sample.
      for (const int64_t step : {1, 50})
        compare([&](const Kernels& k) { return gridOf(k, plan, step); });
      for (const int64_t apart : {1, 5000})
        compare([&](const Kernels& k) { return pointsOf(k, plan, apart); });
    }
    compare([&](const Kernels& k) { return pointsOf(k, planOf(basis, 1, false), 1); });
    compare([&](const Kernels& k) { return blockOf(k, planOf(basis, 3, false)); });
  }
  equal = equal && shapedOf(kernels) == shapedOf(plainKernels());
  if (!equal)
    return Error{Error::Code::InvalidInput,
        std::string("the instruction set \"") + kernels.name +
            "\" gives other bits than the definition",
        "self-test", "another --simd, such as plain"};
  if (bits.finish().low == kRecord) return done();
  return Error{Error::Code::InvalidInput, "this build does not compute the bits of record",
      "self-test", "a build without fused multiply-add and fast-math"};
}

}  // namespace acre
