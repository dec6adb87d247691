/// Systems of tunnels: sparse sites, passages by the cheapest path, round bores with rough walls.
#pragma once

#include <memory>
#include <optional>
#include <stop_token>
#include <vector>

#include "base/memo.h"
#include "base/result.h"
#include "cave/automaton.h"
#include "cave/cave_at.h"
#include "cave/lattice_path.h"
#include "cave/voids.h"
#include "climate/land_sampler.h"
#include "noise/kernels.h"
#include "recipe/cave_recipe.h"

namespace acre {

/// Everything that the systems of one Tunnels depend on.
struct TunnelInputs {
  const Tunnels& tunnels;
  std::shared_ptr<const LandSampler> land;
  AxisBounds vertical;
  bool plane = false;    ///< Only z = 0 exists.
  bool columns = false;  ///< A world of columns, which has no depth.
  bool sea = false;      ///< There is water below the sea level.
  float seaLevel = 0;
  float cover = 3;     ///< Cells of ground that passages keep above themselves.
  float overhang = 0;  ///< How far from the surface overhangs reach.
  uint64_t seed = 0;   ///< Of the world.
};

/// Immutable and thread-safe; systems are made when they are first asked for. Passages stay under
/// `cover` cells of ground and keep the gap to each other but where an arm leaves; what cannot be
/// laid so in four attempts is left out, and without its main passage the whole system.
///
/// Source of the idea of costs on a lattice: see cave/lattice_path.h. A cell at (x, y, z) with its
/// middle p is held by the stretch from a to b where, with t the place of the nearest point q of
/// the stretch, |p - q| <= (ra + (rb - ra) t) (1 + rough n(p)), n noise in [-1, 1].
class TunnelStage {
 public:
  static constexpr int64_t kExactStep = 4;

  static Digest keyOf(const TunnelInputs& inputs, const Digest& land);
  static Result<std::shared_ptr<const TunnelStage>> compile(
      const TunnelInputs& inputs, const Kernels& kernels, MemoLimit memo, const std::string& where);

  using Handle = TunnelHandle;
  /// The system of a square; nothing when it has none or the search was stopped.
  Handle system(int64_t squareX, int64_t squareZ, const std::stop_token& stop = {}) const;
  /// Systems of all squares that a rectangle touches, grown by the reach: those that may open any
  /// of its cells. In the order of the squares. False when stopped.
  bool systemsNear(
      const Rect& area, std::vector<Handle>& out, const std::stop_token& stop = {}) const;

  /// Sets out[k] = mark wherever out[k] is 0 and a bore holds the cell, and water[k] wherever it
  /// stands under water too. The guard keeps cells off the sea. False when stopped.
  bool mark(const Kernels& kernels, const SampleBlock& block, const SeaGuard& guard, uint16_t mark,
      uint16_t* out, uint8_t* water, const std::stop_token& stop) const;

  /// Cells that the bores of one system hold, as a block from its low to its high cells, those
  /// held as solid bits.
  BitGrid cellsOf(const TunnelSystem& system) const;

  /// A point that passages can run along: where it stands, as in BorePoint, and what it costs,
  /// kPlainCost ... kMostCost, which is closed.
  struct LatticePoint {
    BorePoint place;
    uint32_t cost;
  };
  /// All points of a system, before passages closed any. None in worlds of columns.
  std::vector<LatticePoint> latticeOf(const TunnelSystem& system) const;

  /// One cell, by the plain scalar code.
  using At = TunnelAt;
  At at(Cell cell, int64_t y) const;
  /// True when the shaft of some mouth holds a cell. Systems are made only where a site is near.
  bool shaftAt(Cell cell, int64_t y) const;
  /// Cells from the rim of the nearest mouth, 0 within it, `most` where none is as near.
  float mouthFrom(Cell cell, float most) const;
  /// True when an opening of a system lies at a column, in worlds of columns.
  bool openingAt(Cell cell, const TunnelSystem& system) const;
  /// Marks openings: out[j * stride + i] = mark.
  bool markOpenings(const SampleGrid& grid, uint16_t mark, uint16_t* out, ptrdiff_t stride,
      const std::stop_token& stop) const;

  /// Cells from a site to the farthest cell that its system can open, along x and z.
  int64_t reach() const { return reach_; }
  int64_t spacing() const { return spacing_; }
  bool wet() const { return wet_; }

 private:
  struct Stretch {
    float a[3], along[3];
    float perLength2;  // 1 / |along|^2; 0: a point.
    float radius, widen;
  };
  /// Cells of a block that a stretch may hold, its samples from ... to - 1 along x, y, z. False:
  /// none.
  bool samplesOf(const BorePoint& a, const BorePoint& b, const TunnelSystem& system,
      const SampleBlock& block, int32_t (&from)[3], int32_t (&to)[3]) const;
  /// Calls visit(place of the cell, of its column, y) for those that it does hold. noise: how the
  /// walls stray, by cell of the block, so many of the first skipped.
  template <class Visit>
  static void eachHeld(const Stretch& stretch, const TunnelSystem& system, const SampleBlock& block,
      const int32_t (&from)[3], const int32_t (&to)[3], const float* noise, size_t skipped,
      Visit&& visit);
  /// Whether a stretch holds one cell; stray: how the walls stray there.
  struct Held {
    bool within;
    float square, radius;
  };
  static Held holds(
      const Stretch& stretch, const TunnelSystem& system, Cell cell, int64_t y, float stray);
  void strays(const Kernels& kernels, const SampleBlock& block, std::vector<float>& out) const;
  struct Maker;
  /// Calls visit(system) for those with a mouth whose site lies so near along x and z, until it is
  /// false.
  template <class Visit>
  void mouthsNear(Cell cell, int64_t far, Visit&& visit) const;
  /// Where the site of a square would be; nothing in a square without a system.
  std::optional<Cell> siteOf(int64_t squareX, int64_t squareZ) const;
  uint64_t keyOf(int64_t squareX, int64_t squareZ) const {
    return combine(combine(seed_, static_cast<uint64_t>(squareX)), static_cast<uint64_t>(squareZ));
  }
  Handle make(int64_t squareX, int64_t squareZ, const std::stop_token& stop) const;
  static Stretch stretchOf(const BorePoint& a, const BorePoint& b);
  float roughAt(int64_t x, int64_t y, int64_t z) const;

  Tunnels tunnels_;
  std::shared_ptr<const LandSampler> land_;
  AxisBounds vertical_;
  bool plane_ = false, columns_ = false, sea_ = false, wet_ = false;
  float seaLevel_ = 0, cover_ = 3, overhang_ = 0;
  uint64_t seed_ = 0;
  int64_t spacing_ = 0, reach_ = 0;
  float rough_ = 0, widest_ = 0;
  NoisePlan walls_;
  const Kernels* kernels_ = nullptr;
  struct SquareKey {
    int64_t x, z;
    auto operator<=>(const SquareKey&) const = default;
  };
  /// Squares without a system are remembered too.
  struct Square {
    Handle system;
    uint64_t bytes() const { return sizeof(Square) + (system ? system->bytes() : 0) + 64; }
  };
  std::unique_ptr<Memo<SquareKey, Square>> memo_;
};

}  // namespace acre
