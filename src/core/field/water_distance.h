/// Distance of cells from water: from the nearest cell whose base height lies below the sea.
///
/// Source: A. Meijster, J. B. T. M. Roerdink, W. H. Hesselink, "A general algorithm for computing
/// distance transforms in linear time", 2000.
#pragma once

#include <cstdint>
#include <memory>
#include <vector>

#include "base/memo.h"
#include "noise/kernels.h"

namespace acre {

class Field;

/// Thread-safe. Distances are made in tiles of 256 x 256 cells, each once as long as it is
/// remembered, which changes no result.
class WaterDistance {
 public:
  /// heights: two-dimensional. reach: 1 ... 256 cells, beyond it all is as far.
  WaterDistance(std::shared_ptr<const Field> heights, float sea, int reach, MemoLimit memo = {});

  /// Largest step of a grid whose samples are exact.
  static constexpr int64_t kExactStep = 4;
  static Accuracy accuracyAt(int64_t step) {
    return step > kExactStep ? Accuracy::Approximate : Accuracy::Exact;
  }

  /// Distance over reach, at most 1, 0 on water. Exact, or by places.accuracy the nearest water of
  /// 32 places around, on rings of an eighth, a quarter, a half and all of the reach: never too
  /// near.
  void points(const Kernels& kernels, const Points& places, float* out) const;

  int reach() const { return reach_; }

 private:
  static constexpr int kSide = 256;
  static constexpr uint16_t kFar = 65535;  // No sum of two squares.
  struct Tile {
    std::vector<uint64_t> water;      // One bit a cell, rows of 4 words.
    std::vector<uint16_t> distances;  // Squared; kFar beyond the reach.
    uint64_t bytes() const { return sizeof(Tile) + water.size() * 8 + distances.size() * 2; }
  };
  struct Key {
    int64_t water;  // 0: distances.
    int64_t x, z;   // Of the tile.
    bool operator==(const Key&) const = default;
  };
  // Nothing when stopped.
  std::shared_ptr<const Tile> waterOf(
      const Kernels& kernels, int64_t tx, int64_t tz, const std::stop_token& stop) const;
  std::shared_ptr<const Tile> distancesOf(
      const Kernels& kernels, int64_t tx, int64_t tz, const std::stop_token& stop) const;
  bool measure(const Kernels& kernels, int64_t tx, int64_t tz, const std::stop_token& stop,
      std::vector<uint16_t>& out) const;
  void approximate(const Kernels& kernels, const Points& places, float* out) const;
  float valueOf(uint16_t squared) const;

  std::shared_ptr<const Field> heights_;
  float sea_;
  int reach_;
  Memo<Key, Tile> tiles_;
};

}  // namespace acre
