/// Where land drains to: nodes, hollows that hold lakes, their outlets, and the way of every node
/// to the sea, found by looking around it, in a world without end.
///
/// docs/maths.md, "Water", states all of it. Flooding a hollow to its spill is J. Wang, H. Liu, "An
/// efficient method for identifying and filling surface depressions", 2006; cutting an outlet by
/// the cheapest way is J. Lindsay, "Efficient hybrid breaching-filling sink removal methods", 2016;
/// both here within a window about each hollow, so that any part can be made alone.
#pragma once

#include <array>
#include <atomic>
#include <cmath>
#include <memory>
#include <stop_token>
#include <vector>

#include "base/memo.h"
#include "climate/land_sampler.h"
#include "recipe/water_recipe.h"
#include "water/bricks.h"

namespace acre {

/// Heights, levels and lengths of the network are whole numbers of 1/256 cell.
inline constexpr int64_t kGrain = 256;
/// Heights beyond are taken as these.
inline constexpr int64_t kHighestGrain = int64_t{1} << 30;
/// A number of the recipe, to the nearest.
inline int64_t grainsOf(double cells) {
  return static_cast<int64_t>(std::floor(cells * static_cast<double>(kGrain) + 0.5));
}
inline double cellsOf(int64_t grains) {
  return static_cast<double>(grains) / static_cast<double>(kGrain);
}
/// A height, rounded down.
int32_t heightGrains(float height);
/// The root of a whole number, rounded down. REQUIRES: 0 <= v < 2^52.
int64_t wholeRoot(int64_t v);

/// What the network depends on.
struct DrainageInputs {
  const Rivers& rivers;
  std::shared_ptr<const LandSampler> land;  ///< Before water.
  float seaLevel = 0;
  bool blocks = false;
  uint64_t seed = 0;  ///< Of the world.
  Rect bounds;        ///< Of the world; they matter to courses through obstacles alone.
  /// What says where the obstacles of ways are; nothing: their noise or the regions' borders.
  std::shared_ptr<const Field> obstacles = nullptr;
  int64_t scale = 1;  ///< Cells of the world from one cell of the network to the next.
};

/// The land before water as a network sees it: its cell (x, z) is scale * (x, z) of the world.
/// Thread-safe.
class SparseLand {
 public:
  SparseLand(std::shared_ptr<const LandSampler> land, int64_t scale)
      : land_(std::move(land)), scale_(scale) {}

  int64_t scale() const { return scale_; }
  /// Heights over a grid of the network's cells. False when stopped.
  bool heights(const SampleGrid& grid, float* out, const std::stop_token& stop) const;
  /// Heights of scattered ones.
  void heights(const std::vector<Cell>& cells, Accuracy accuracy, float* out) const;

 private:
  std::shared_ptr<const LandSampler> land_;
  int64_t scale_;
};

/// A place in the order of nodes: the lower drains to where the earlier are.
struct DrainKey {
  int64_t level = 0;
  int32_t base = 0;
  uint64_t hash = 0;
  Brick brick;
  auto operator<=>(const DrainKey&) const = default;
};

/// The ground about a brick.
struct BrickGround {
  int32_t low = 0;   ///< H: the lowest near it, less half a cell.
  int32_t base = 0;  ///< At the node.
  uint64_t hash = 0;
  int8_t nodeX = 0, nodeZ = 0;      ///< Of the node from the brick's middle.
  int8_t bottomX = 0, bottomZ = 0;  ///< Of the lowest place.
};

/// A hollow that holds water.
struct Pool {
  Brick pit;
  int64_t level = 0;
  bool closed = false;
  std::vector<Brick> bricks;  ///< In the order of the flood.
};

/// The way out of a lake, or of a hollow without one.
struct Outlet {
  Brick from;
  DrainKey key;  ///< Of where it begins.
  bool found = false;
  std::vector<Brick> way;
};

enum class Drains : uint8_t { On, Sea, Lake, Sink };

/// Where a node drains to.
struct DrainAt {
  Drains drains = Drains::Sink;
  bool onOutlet = false;
  Brick next;         ///< The pit of its lake, for Lake.
  int64_t level = 0;  ///< Of the water there.
};

/// Immutable but for what it remembers, and thread-safe.
class Drainage {
 public:
  Drainage(const DrainageInputs& inputs, const MemoLimit& memo);
  ~Drainage();

  const SparseLand& land() const { return land_; }
  uint64_t seed() const { return seed_; }
  /// The sea level, or the next whole cell above it.
  int64_t seaTop() const { return seaTop_; }
  int64_t spring() const { return spring_; }
  /// Width of a river that so many bricks drain through.
  int64_t widthOf(int64_t area) const;
  /// Base samples that were taken so far.
  uint64_t samples() const { return samples_.load(std::memory_order_relaxed); }
  uint64_t bytes() const;

  class Reader;

 private:
  struct Tiles;
  SparseLand land_;
  uint64_t seed_;
  int64_t sea_, seaTop_;
  int64_t spring_, lakes_, closed_, carve_, growth_, widest_;
  std::unique_ptr<Tiles> tiles_;
  mutable std::atomic<uint64_t> samples_{0};
};

/// Asks the network: holds on to what it has met, so that one piece of work asks the memo once. Of
/// one thread. Whoever stops it gets Stopped thrown.
class Drainage::Reader {
 public:
  struct Stopped {};

  explicit Reader(const Drainage& of, const std::stop_token& stop = {});
  ~Reader();

  BrickGround ground(Brick b);
  /// Where it lies, in cells: its node, and the lowest place about it.
  Cell nodeOf(Brick b);
  Cell bottomOf(Brick b);
  /// Lake: the key is that of its pit.
  struct LevelAt {
    DrainKey key;
    bool sea = false, lake = false;
  };
  LevelAt level(Brick b);
  /// The lake whose pit that is; nothing when none belongs to it.
  std::shared_ptr<const Pool> lake(Brick pit);
  /// Its outlet, or that of a hollow on land.
  std::shared_ptr<const Outlet> outlet(Brick from);
  DrainAt drain(Brick b);
  /// The same before larger streams captured others.
  DrainAt drainBefore(Brick b);
  /// Bricks that drain through a node of land within 64 steps, or into a lake.
  int64_t area(Brick b);
  int64_t lakeArea(Brick pit);
  bool isRiver(Brick b);
  /// A river that no other, and no lake, flows into.
  bool isSpring(Brick b);
  /// Sides of a brick whose nodes drain to it, and those where a lake's outlet leaves for it.
  struct Inflows {
    uint8_t land = 0, lakes = 0;
  };
  Inflows inflows(Brick b);
  /// From each brick of a lake the next one on the way to its pit.
  struct LakeWays {
    std::vector<Brick> bricks, next;
    std::vector<int64_t> lengths;
    const Brick* nextOf(Brick b) const;
  };
  LakeWays waysIn(const Pool& pool);

  struct Seen;  // water/drainage_work.h

 private:
  const Drainage& of_;
  std::unique_ptr<Seen> seen_;
};

}  // namespace acre
