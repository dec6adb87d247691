/// Bodies of ore in rock: pockets and veins.
#pragma once

#include <memory>
#include <vector>

#include "base/coords.h"
#include "base/hash.h"
#include "recipe/recipe.h"
#include "strata/bands.h"

namespace acre {

/// How much of the world is rock that hosts an ore, by altitude: of a sample of columns.
struct RockProfile {
  int64_t bottom = 0;  ///< y of the first entry.
  /// Cells of each material at y = bottom + i, of all columns looked at: counts[i][material].
  std::vector<std::vector<uint32_t>> counts;
};

/// Everything that the ores depend on.
struct OreInputs {
  const std::vector<Ore>& ores;
  const Rock& rock;
  const std::vector<Material>& materials;
  const AxisBounds& vertical;
  uint64_t seed;  ///< Of the world.
};

/// A place where an ore cannot be had as asked.
struct OreShortage {
  size_t ore;           ///< Index among the recipe's.
  double wanted = 0;    ///< Largest share that some altitude would need.
  int64_t y = 0;        ///< There.
  bool noHost = false;  ///< No cell of the sample is rock that may hold it.
};

/// Immutable and thread-safe. Every ore has bodies of its own, drawn in the cubes of a lattice:
/// their number so that the share comes out on average (bodies overlap: c of the cells are covered
/// when their volumes add up to -ln(1 - c) of the space), their places uniform, so that a body of
/// volume V covers V cells on average whatever its size. Ores come in the order of the recipe; a
/// cell belongs to the first whose body holds it and whose host it is; later ones are the denser
/// for what earlier ones took.
///
/// Pocket: a ball of 3/4 to 5/4 of the radius. Vein: about an axis a, at s along it (|s| <= half),
/// the disc of radius r * sqrt(1 - (s/half)^2) about a*s + b*(s/half)^2, b square to a: a bent
/// spindle, of the volume of the straight one, (4/3) pi r^2 half.
class OreStage {
 public:
  static Digest keyOf(const OreInputs& inputs, const Digest& profile);
  /// profile: of the rock without ores.
  static std::shared_ptr<const OreStage> compile(
      const OreInputs& inputs, const RockProfile& profile);

  bool empty() const { return plans_.empty(); }
  /// Puts ores into the cells of a block, x fastest, then z, then y. Polls stop between ores.
  /// rock: which materials the block may hold, by index; ores without a host among them are passed
  /// over.
  bool place(const SampleBlock& block, const std::vector<bool>& rock, MaterialIndex* cells,
      const std::stop_token& stop) const;
  /// Into the cells of scattered columns: y = first + j * step at cells[j * columns + i].
  bool place(int columns, const int64_t* x, const int64_t* z, int64_t first, int64_t step,
      int32_t levels, const std::vector<bool>& rock, MaterialIndex* cells,
      const std::stop_token& stop) const;

  /// What one cell holds, given its rock, and which ore that is (an index of the recipe, or -1).
  struct At {
    MaterialIndex material;
    int ore = -1;
  };
  At at(int64_t x, int64_t y, int64_t z, MaterialIndex rock) const;

  const std::vector<OreShortage>& shortages() const { return shortages_; }

 private:
  struct Plan {
    size_t ore = 0;
    MaterialIndex material = kUnassigned;
    std::vector<uint8_t> hosts;  // By MaterialIndex, 1 or 0.
    bool vein = false;
    float radius = 0;
    float length = 0;
    int64_t reach = 0;  // Cells from a body's middle to its farthest cell.
    int64_t side = 0;   // Of a cube of the lattice.
    double perCube = 0;
    std::vector<float> accept;  // By y - bottom: the share of bodies that stay.
    int64_t bottom = 0;
    uint64_t seed = 0;
    bool isHost(MaterialIndex m) const { return m < hosts.size() && hosts[m] != 0; }
    bool anyHost(const std::vector<bool>& rock) const {
      for (size_t m = 0; m < hosts.size() && m < rock.size(); ++m)
        if (hosts[m] && rock[m]) return true;
      return false;
    }
  };
  /// Cells from the lower corner to the upper one, both included: x, y, z.
  struct Box {
    int64_t low[3];
    int64_t high[3];
  };
  struct Body {
    int64_t x, y, z;  // Cell of the middle, and the place in it.
    float u, v, w;
    float radius2;
    float half = 0;  // 0: a pocket.
    float axis[3] = {};
    float bend[3] = {};
    bool holds(int64_t cx, int64_t cy, int64_t cz) const;
    /// Parts that the body is looked at in, and the cells that one of them can hold.
    int parts() const;
    Box boxOf(int part, int parts) const;
    Box box() const { return boxOf(0, 1); }
  };
  /// Rows of cells that a body may hold, `step` apart.
  struct Rows {
    MaterialIndex* cells;  ///< The first of the first row.
    ptrdiff_t row, slab;   ///< From one row to the next along z, and along y.
    int32_t x, y, z;       ///< Of the first cell, from the cell of the body's middle.
    int32_t step;
    int32_t width, levels, depth;
  };
  /// Puts the plan's material into those of its hosts that the body holds.
  template <bool kVein>
  static void fillRows(const Plan& plan, const Body& body, const Rows& rows);
  /// Calls visit(body) for each body of one cube of the lattice that may reach into a box.
  template <class Visit>
  static void bodies(
      const Plan& plan, int64_t i, int64_t j, int64_t k, const Box& within, Visit&& visit);

  std::vector<Plan> plans_;
  std::vector<OreShortage> shortages_;
};

}  // namespace acre
