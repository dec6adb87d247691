/// The inside of Drainage::Reader: each step of the network makes tiles of bricks and waits for
/// earlier steps alone, so that no two threads wait for each other.
#pragma once

#include "water/drainage.h"

namespace acre {

struct SampleTile {
  /// Heights at the multiples of 8 of the tile's cells, by rows.
  static constexpr int kStride = 8;
  static constexpr int kWidth = static_cast<int>(BrickTile::kSide * kBrickWidth) / kStride;
  static constexpr int kLength = static_cast<int>(BrickTile::kSide * kBrickLength) / kStride;
  std::array<int32_t, size_t{kWidth} * kLength> heights;
  uint64_t bytes() const { return sizeof *this + 64; }
};
struct GroundTile {
  std::array<BrickGround, BrickTile::kBricks> bricks;
  uint64_t bytes() const { return sizeof *this + 64; }
};
struct SeaTile {
  uint64_t sea = 0;  ///< A bit a brick.
  uint64_t bytes() const { return sizeof *this + 64; }
};
struct PoolTile {
  std::vector<Pool> pools;   ///< Of the pits in the tile.
  std::vector<Pool> spares;  ///< What pits without one get if they find no outlet.
  uint64_t bytes() const;
};
struct LevelTile {
  /// F of a brick, and where the brick lies whose node its key is of: the pit of its lake, or
  /// itself.
  struct Held {
    int32_t level = 0;
    int8_t di = 0, dj = 0;
    Brick keyed(Brick b) const { return {b.i + di, b.j + dj}; }
  };
  std::array<Held, BrickTile::kBricks> bricks;
  uint64_t sea = 0, lake = 0;  ///< A bit a brick; levels of the sea are kSeaKey.
  uint64_t bytes() const { return sizeof *this + 64; }
};
struct OutletTile {
  std::vector<Outlet> outlets;  ///< Of what begins in the tile.
  std::vector<Pool> forced;     ///< In round 0: spare lakes that are needed.
  uint64_t bytes() const;
};
struct DrainTile {
  /// DrainAt of a brick b in a quarter of the room: next lies few bricks away.
  struct Packed {
    Drains drains = Drains::Sink;
    bool onOutlet = false;
    int8_t di = 0, dj = 0;
    int32_t level = 0;
    static Packed of(Brick b, const DrainAt& at) {
      return {at.drains, at.onOutlet, static_cast<int8_t>(at.next.i - b.i),
          static_cast<int8_t>(at.next.j - b.j), static_cast<int32_t>(at.level)};
    }
    DrainAt at(Brick b) const { return {drains, onOutlet, {b.i + di, b.j + dj}, level}; }
  };
  std::array<Packed, BrickTile::kBricks> bricks;
  uint64_t bytes() const { return sizeof *this + 64; }
};
struct InflowTile {
  std::array<Drainage::Reader::Inflows, BrickTile::kBricks> bricks;
  uint64_t bytes() const { return sizeof *this + 64; }
};
struct AreaTile {
  std::array<int32_t, BrickTile::kBricks> areas;
  uint64_t bytes() const { return sizeof *this + 64; }
};

struct Drainage::Tiles {
  explicit Tiles(const MemoLimit& memo)
      : samples({memo.bytes * 2, memo.budget}),
        ground({memo.bytes * 4, memo.budget}),
        sea(memo),
        pools(memo),
        levels{Memo<BrickTile, LevelTile>(memo), Memo<BrickTile, LevelTile>(memo)},
        outlets{Memo<BrickTile, OutletTile>(memo), Memo<BrickTile, OutletTile>(memo)},
        drains{Memo<BrickTile, DrainTile>(memo), Memo<BrickTile, DrainTile>(memo)},
        inflows{Memo<BrickTile, InflowTile>(memo), Memo<BrickTile, InflowTile>(memo)},
        areas{Memo<BrickTile, AreaTile>(memo), Memo<BrickTile, AreaTile>(memo)} {}

  Memo<BrickTile, SampleTile> samples;
  Memo<BrickTile, GroundTile> ground;
  Memo<BrickTile, SeaTile> sea;
  Memo<BrickTile, PoolTile> pools;
  Memo<BrickTile, LevelTile> levels[2];  ///< By round.
  Memo<BrickTile, OutletTile> outlets[2];
  Memo<BrickTile, DrainTile> drains[2];  ///< Before capture, and after.
  Memo<BrickTile, InflowTile> inflows[2];
  Memo<BrickTile, AreaTile> areas[2];
};

/// Tiles of one step that one piece of work has met.
template <class Tile>
class MetTiles {
 public:
  using Handle = std::shared_ptr<const Tile>;

  template <class Make>
  const Handle& get(
      const Memo<BrickTile, Tile>& memo, BrickTile at, const std::stop_token& stop, Make&& make) {
    if (!slots_) slots_ = std::make_unique<Slot[]>(kSlots);
    Slot& slot = slots_[static_cast<size_t>((at.tj & kMask) << kBits | (at.ti & kMask))];
    if (slot.tile && slot.at == at) return slot.tile;
    Handle tile = memo.get(at, stop, [&] { return std::make_shared<const Tile>(make()); });
    if (!tile) throw Drainage::Reader::Stopped();
    slot = {at, std::move(tile)};
    return slot.tile;
  }

 private:
  /// Wider than what one answer depends on.
  static constexpr int kBits = 6;
  static constexpr int64_t kMask = (1 << kBits) - 1;
  static constexpr size_t kSlots = size_t{1} << (2 * kBits);
  struct Slot {
    BrickTile at;
    Handle tile;
  };
  std::unique_ptr<Slot[]> slots_;
};

struct Drainage::Reader::Seen {
  using Inflows = Reader::Inflows;
  /// Which of two networks: that before streams were captured, or the one that counts.
  enum Flow { Before = 0, After = 1 };
  static constexpr int64_t kSeaKey = -(int64_t{1} << 40);

  Seen(const Drainage& drainage, std::stop_token token) : of(drainage), stop(std::move(token)) {}

  const Drainage& of;
  std::stop_token stop;

  void check() const {
    if (stop.stop_requested()) throw Stopped();
  }
  // Tiles of each step.
  const std::shared_ptr<const SampleTile>& samples(BrickTile at);
  const std::shared_ptr<const GroundTile>& groundTile(BrickTile at);
  const std::shared_ptr<const SeaTile>& seaTile(BrickTile at);
  const std::shared_ptr<const PoolTile>& pools(BrickTile at);
  const std::shared_ptr<const LevelTile>& levels(BrickTile at, int round);
  const std::shared_ptr<const OutletTile>& outlets(BrickTile at, int round);
  const std::shared_ptr<const DrainTile>& drains(BrickTile at, Flow flow);
  const std::shared_ptr<const InflowTile>& inflowTile(BrickTile at, Flow flow);
  const std::shared_ptr<const AreaTile>& areas(BrickTile at, Flow flow);

  // Single bricks.
  const BrickGround& ground(Brick b) {
    return groundTile(BrickTile::of(b))->bricks[static_cast<size_t>(BrickTile::indexOf(b))];
  }
  DrainKey lowKey(Brick b) {
    const BrickGround& g = ground(b);
    return {g.low, g.base, g.hash, b};
  }
  bool isSea(Brick b) {
    if (ground(b).low >= of.sea_) return false;
    return seaTile(BrickTile::of(b))->sea >> BrickTile::indexOf(b) & 1;
  }
  Cell nodeOf(Brick b) {
    const BrickGround& g = ground(b);
    const Cell m = middleOf(b);
    return {m.x + g.nodeX, m.z + g.nodeZ};
  }
  int64_t distance(Brick a, Brick b) {
    const Cell p = nodeOf(a), q = nodeOf(b);
    const int64_t dx = p.x - q.x, dz = p.z - q.z;
    return wholeRoot((dx * dx + dz * dz) * kGrain * kGrain);
  }
  LevelAt level(Brick b, int round) {
    const LevelTile& tile = *levels(BrickTile::of(b), round);
    const int k = BrickTile::indexOf(b);
    const LevelTile::Held held = tile.bricks[static_cast<size_t>(k)];
    LevelAt at{{}, (tile.sea >> k & 1) != 0, (tile.lake >> k & 1) != 0};
    at.key = lowKey(held.keyed(b));
    at.key.level = at.sea ? kSeaKey : held.level;
    return at;
  }
  DrainAt drain(Brick b, Flow flow) {
    return drains(BrickTile::of(b), flow)->bricks[static_cast<size_t>(BrickTile::indexOf(b))].at(b);
  }
  Inflows inflows(Brick b, Flow flow) {
    return inflowTile(BrickTile::of(b), flow)->bricks[static_cast<size_t>(BrickTile::indexOf(b))];
  }
  std::shared_ptr<const Pool> lake(Brick pit, int round);
  std::shared_ptr<const Outlet> outlet(Brick from, int round);
  LakeWays waysIn(const Pool& pool);
  /// Bricks within so many steps upstream. REQUIRES: land.
  int64_t areaWithin(Brick b, int steps, Flow flow);
  int64_t lakeAreaWithin(Brick pit, int steps, Flow flow);

 private:
  SampleTile makeSamples(BrickTile at);
  GroundTile makeGround(BrickTile at);
  SeaTile makeSea(BrickTile at);
  PoolTile makePools(BrickTile at);
  LevelTile makeLevels(BrickTile at, int round);
  OutletTile makeOutlets(BrickTile at, int round);
  DrainTile makeDrains(BrickTile at);
  DrainTile capture(BrickTile at);
  InflowTile makeInflows(BrickTile at, Flow flow);
  AreaTile makeAreas(BrickTile at, Flow flow);

  bool openWater(Brick b, BrickTile at, uint64_t known, std::vector<Brick>& joined);
  void flood(Brick pit, PoolTile& out);
  /// The whole puddle that a brick lies in.
  std::vector<Brick> puddleOf(Brick b);
  struct Search;
  bool search(Outlet& outlet, const Pool* pool, int round, int64_t carve);

  MetTiles<SampleTile> samples_;
  MetTiles<GroundTile> ground_;
  MetTiles<SeaTile> sea_;
  MetTiles<PoolTile> pools_;
  MetTiles<LevelTile> levels_[2];
  MetTiles<OutletTile> outlets_[2];
  MetTiles<DrainTile> drains_[2];
  MetTiles<InflowTile> inflows_[2];
  MetTiles<AreaTile> areas_[2];
};

}  // namespace acre
