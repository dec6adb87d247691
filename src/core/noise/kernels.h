/// The inner loops, once per instruction set. All tables give the same bits; "plain" is the scalar
/// code of noise/scalar.cpp and serves as reference and fallback.
#pragma once

#include <cstddef>
#include <cstdint>
#include <string>
#include <vector>

#include "base/coords.h"
#include "base/result.h"
#include "noise/noise.h"
#include "noise/shaping.h"
#include "noise/tiles.h"

namespace acre {

/// How a layer's value joins what is there.
enum class JoinOp { Add, Multiply, Minimum, Maximum, Replace };

struct Join {
  JoinOp op = JoinOp::Add;
  float amplitude = 1;  ///< value = noise * amplitude + offset
  float offset = 0;

  float apply(float old, float value) const {
    switch (op) {
      case JoinOp::Add:
        return old + value;
      case JoinOp::Multiply:
        return old * value;
      case JoinOp::Minimum:
        return value < old ? value : old;
      case JoinOp::Maximum:
        return value > old ? value : old;
      case JoinOp::Replace:
        return value;
    }
    return value;
  }
};

/// Sites of Voronoi regions near some samples, in the order of (j, i): square and place within it.
struct SiteList {
  int count = 0;
  const int32_t* i = nullptr;
  const int32_t* j = nullptr;
  const float* x = nullptr;
  const float* z = nullptr;
};
/// Where samples lie on the lattice of the sites: square and place within it, [0, 1).
struct SitePlaces {
  int count = 0;
  const int32_t* i = nullptr;
  const int32_t* j = nullptr;
  const float* u = nullptr;
  const float* v = nullptr;
};
/// Ideal points: scores are ((x - x_k) * scaleX)^2 + ((y - y_k) * scaleY)^2 +
/// ((altitude - altitude_k) * altitudeScale_k)^2, times share_k.
struct IdealSet {
  int count = 0;
  float scaleX = 1;
  float scaleY = 1;
  const float* x = nullptr;
  const float* y = nullptr;
  const float* altitude = nullptr;
  const float* altitudeScale = nullptr;
  const float* share = nullptr;
};

struct Kernels {
  /// Largest grid that `grid` takes in one call.
  static constexpr int32_t kTileWidth = 256;
  static constexpr int32_t kTileHeight = 64;
  /// Most points that `points` takes in one call.
  static constexpr int32_t kMostPoints = 256;

  const char* name;

  /// Evaluates a 2-D plan over a grid and joins it to acc[j*stride + i].
  /// REQUIRES: grid at most kTileWidth x kTileHeight.
  void (*grid)(const NoisePlan& plan, const SampleGrid& grid, const Join& join, float* acc,
      ptrdiff_t stride);

  /// Evaluates a 3-D plan over a block, without amplitude and offset, x fastest, then z, then y.
  /// REQUIRES: width at most kTileWidth.
  void (*block)(const NoisePlan& plan, const SampleBlock& block, float* out);

  /// Evaluates any plan at up to kMostPoints places, without amplitude and offset.
  void (*points)(const NoisePlan& plan, const Points& points, float* out);

  /// bands[i] = number of thresholds that are <= heights[i]. REQUIRES: thresholds do not fall.
  void (*bands)(const float* heights, int64_t count, const float* thresholds, int thresholdCount,
      uint16_t* bands);

  /// The nearest site of each sample (of equals the first), its squared distance and that of the
  /// second. REQUIRES: at least one site.
  void (*nearestSites)(
      const SiteList& sites, const SitePlaces& places, int32_t* own, float* first, float* second);

  /// Distance of each sample to the nearest border of its own region, at most `reach`.
  void (*siteBorders)(const SiteList& sites, const SitePlaces& places, const int32_t* own,
      float reach, float* border);

  /// best[i] = index of the point with the lowest score, of equals the first.
  /// REQUIRES: at least one point, at most 65,536.
  void (*nearestIdeal)(const IdealSet& points, int64_t count, const float* x, const float* y,
      const float* altitude, uint16_t* best);

  // What is done to values after their source; noise/shaping.h says what.
  void (*curve)(const CurveSet& curve, float* values, int count);
  void (*shares)(const ShareSet& shares, float* values, int count);
  void (*scale)(const Scaling& by, float* values, int count);
  void (*mask)(const MaskEnds& mask, float* values, int count);
  void (*join)(Combine combine, float amount, float* sum, const float* value, const float* weight,
      int count);
  void (*shift)(const int64_t* cell, const int32_t* q, const float* noise, float cells, int count,
      int64_t* toCell, int32_t* toQ);

  // Rows of tiles; noise/tiles.h says what.
  void (*tileClasses)(
      const MaterialIndex* materials, int64_t count, const ClassTable& table, uint8_t* classes);
  void (*tileInside)(const uint8_t* classes, uint8_t level, int64_t count, uint8_t* inside);
  void (*tileNeighbours)(const TileRows& rows, int64_t count, uint8_t* cases);
  void (*tileSides)(const TileRows& rows, int64_t count, uint8_t* cases);
  void (*tileCorners)(const TileRows& rows, int64_t count, uint8_t* cases);
  void (*tileValues)(const uint8_t* cases, int64_t count, bool firstIsNone, uint16_t* values);
  void (*tileVariants)(const TileVariety& variety, const uint32_t* columns, uint32_t row,
      int64_t count, uint16_t* values);
};

/// How many samples of a grid, across and down, to ask as points at once: neighbours share more of
/// the lattice in patches than in rows, and places within some 32,000 cells go the fast way.
struct Patch {
  int width;
  int height;
  explicit Patch(int64_t step) {
    const int64_t side = step > 0 ? 24'000 / step : 0;
    const bool close = side >= 2;
    width = close ? static_cast<int>(side < 32 ? side : 32) : 32;
    height = Kernels::kMostPoints / width;
    if (close && side < height) height = static_cast<int>(side);
  }
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
