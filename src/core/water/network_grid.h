/// What the network of rivers says over a grid of cells.
#pragma once

#include <map>
#include <optional>
#include <stop_token>

#include "noise/noise.h"
#include "water/drainage.h"

namespace acre {

/// Steps that water is followed over at most.
inline constexpr int kLongestRiver = 4096;

/// Bricks that drain through the node of each sample's brick, or into its lake; 0 at sea. Sample
/// (i, j) goes to out[j * stride + i]. False when stopped.
bool drainedOver(const Drainage& drainage, const SampleGrid& grid, float* out, ptrdiff_t stride,
    const std::stop_token& stop);

/// Where the water of bricks leaves the land, remembered for those on the way. Of one thread.
class Basins {
 public:
  explicit Basins(uint64_t seed) : seed_(seed) {}
  /// The number of a brick's basin, as basinsOver() tells it. Reader::Stopped is thrown on.
  uint32_t of(Drainage::Reader& net, Brick b);

 private:
  struct End {
    Brick brick;
    int steps = 0;  ///< To there.
  };
  static std::optional<Brick> nextOf(Drainage::Reader& net, Brick at);
  uint32_t told(Brick end) const { return static_cast<uint32_t>(hashOf(seed_, end)) | 1u; }

  uint64_t seed_;
  std::map<Brick, End> known_;
};

/// The basin that each sample's brick belongs to: all bricks whose water leaves the land at the
/// same one have one number, which is a hash of that; 0 at sea. Water that has not arrived after
/// kLongestRiver steps counts for where it is then. False when stopped.
bool basinsOver(const Drainage& drainage, const SampleGrid& grid, uint32_t* out, ptrdiff_t stride,
    const std::stop_token& stop);

}  // namespace acre
