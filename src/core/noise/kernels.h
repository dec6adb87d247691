/// The inner loops, once per instruction set. All tables give the same bits; "plain" is the scalar
/// code of noise/scalar.cpp and serves as reference and fallback.
#pragma once

#include <cstddef>
#include <cstdint>
#include <string>
#include <vector>

#include "base/coords.h"
#include "base/result.h"
#include "noise/gradient.h"

namespace acre {

struct Kernels {
  /// Largest grid that `gradient` takes in one call.
  static constexpr int32_t kTileWidth = 256;
  static constexpr int32_t kTileHeight = 64;

  const char* name;

  /// Evaluates a layer over a grid and joins it to acc[j*stride + i]: acc + value, or acc * value.
  /// REQUIRES: grid at most kTileWidth x kTileHeight.
  void (*gradient)(const GradientPlan& plan, const SampleGrid& grid, bool multiply, float* acc,
                   ptrdiff_t stride);

  /// bands[i] = number of thresholds that are <= heights[i]. REQUIRES: thresholds do not fall.
  void (*bands)(const float* heights, int64_t count, const float* thresholds, int thresholdCount,
                uint16_t* bands);
};

const Kernels& plainKernels();

/// Every table that this machine can run, fastest first; the last one is "plain".
const std::vector<const Kernels*>& availableKernels();

/// The table called `name` ("avx512", "avx2", "sse4", "neon", "emulated", "plain"), or the fastest
/// for an empty name.
Result<const Kernels*> kernelsNamed(const std::string& name);

/// Compares a table with the scalar code on a small tile, and the scalar code with the bits of
/// record: a build that fuses operations, or a machine that computes otherwise, is found before it
/// makes a cell.
Status selfTest(const Kernels& kernels);

}  // namespace acre
