#include "base/fp_state.h"
#include "base/hash.h"
#include "noise/kernels.h"

namespace acre {
namespace {

/// The bits of record: the low half of the digest of both tiles below.
constexpr uint64_t kRecord = 0x2531C89291621C4B;

}  // namespace

Status selfTest(const Kernels& kernels) {
  const FpState fp;
  GradientPlan plan;
  for (uint64_t k = 0; k < 3; ++k)
    plan.octaves.push_back({(uint64_t{1} << 44) * (k * k + 1), mix64(k) >> 16, mix64(k + 9) >> 16,
                            mix64(k + 20), mix64(k + 30), k == 0 ? 1.0f : 0.37f});
  plan.amplitude = 7.3f;
  plan.offset = 0.1f;
  constexpr int32_t kWidth = 61, kHeight = 9;
  DigestWriter bits;
  for (const int64_t step : {1, 50}) {  // By lattice columns, and sample by sample.
    const SampleGrid grid{-2'000'000'011, 17, step, kWidth, kHeight};
    std::vector<float> expected(size_t{kWidth} * kHeight, 0.5f), actual = expected;
    plainKernels().gradient(plan, grid, true, expected.data(), kWidth);
    kernels.gradient(plan, grid, true, actual.data(), kWidth);
    if (expected != actual)
      return Error{Error::Code::InvalidInput,
                   std::string("the instruction set \"") + kernels.name +
                       "\" gives other bits than the definition",
                   "self-test", "another --simd, such as plain"};
    for (const float v : expected) bits.f32(v);
  }
  if (bits.finish().low == kRecord) return done();
  return Error{Error::Code::InvalidInput, "this build does not compute the bits of record",
               "self-test", "a build without fused multiply-add and fast-math"};
}

}  // namespace acre
