/// What is cut into the land after it was made, for everybody who asks for a height.
#pragma once

#include <cstdint>
#include <stop_token>

#include "base/coords.h"
#include "noise/noise.h"

namespace acre {

enum class WaterKind : uint8_t { Dry, Sea, Lake, River };
/// "dry", "sea", "lake", "river".
constexpr const char* nameOf(WaterKind kind) {
  constexpr const char* kNames[] = {"dry", "sea", "lake", "river"};
  return kNames[static_cast<size_t>(kind)];
}

constexpr bool isFresh(WaterKind kind) {
  return kind == WaterKind::Lake || kind == WaterKind::River;
}

/// Farther than this nothing is measured from fresh water.
inline constexpr float kFarShore = 46;

/// A level where there is no fresh water.
inline constexpr int32_t kNoWater = INT32_MIN;

/// What the stage Water makes of a cell.
struct WaterAt {
  WaterKind kind = WaterKind::Dry;
  bool cut = false;     ///< The ground lies lower than before.
  bool course = false;  ///< (i, j) is the region of a way through obstacles.
  float height = 0;     ///< Of the ground, which is the bed of a river.
  int32_t level = 0;    ///< Whole cells up to the surface; 0 of dry cells.
  /// Cells to fresh water: 0 in it; kFarShore at sea, and where it is as far or farther.
  float shore = kFarShore;
  /// The highest level of the lakes and rivers over the cell and the four beside it, or kNoWater.
  int32_t held = kNoWater;
  /// Of lakes and rivers alone.
  int32_t freshLevel() const { return isFresh(kind) ? level : kNoWater; }
  int64_t i = 0, j = 0;  ///< The brick of the river's node, or of the lake's pit.
};

/// Lowers the land, never raises it, and lays water on it. Immutable and thread-safe.
class LandShaper {
 public:
  virtual ~LandShaper() = default;

  /// Where what is made of a grid goes: sample (i, j) to place j * stride + i. What is nullptr is
  /// not asked for.
  struct Out {
    float* heights = nullptr;
    WaterKind* kinds = nullptr;
    int32_t* levels = nullptr;
    float* shores = nullptr;
    int32_t* helds = nullptr;
    uint32_t* marks = nullptr;
    ptrdiff_t stride = 0;
  };
  /// Farthest apart that samples are exact.
  virtual int64_t exactStep() const = 0;
  /// Farthest apart that they are told of it; beyond nothing is cut.
  virtual int64_t farthestStep() const = 0;
  /// before: heights of the samples, row by row; the ground beside them is asked for where it
  /// matters. REQUIRES: grid.step <= farthestStep(). False when stopped.
  virtual bool shape(const SampleGrid& grid, const float* before, const Out& out,
      const std::stop_token& stop) const = 0;
  /// Cells anywhere. heights, out: either may be nullptr.
  virtual void shape(int count, const Cell* cells, const float* before, float* heights,
      WaterAt* out, Accuracy accuracy) const = 0;
  /// A number of the node, or of the way's region, that a cell's fresh water belongs to; 0 outside.
  virtual uint32_t markOf(const WaterAt& at) const = 0;
};

}  // namespace acre
