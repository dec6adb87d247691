/// The stage Caves: what is dug out of the ground, and what lines it.
#pragma once

#include <memory>
#include <stop_token>
#include <string>
#include <vector>

#include "cave/automaton_tiles.h"
#include "cave/cave_at.h"
#include "cave/tunnels.h"
#include "cave/voids.h"
#include "field/compiler.h"
#include "recipe/limits.h"
#include "strata/blocks.h"

namespace acre {

/// Everything that the stage depends on.
struct CaveInputs {
  const Caves& caves;
  const std::vector<Material>& materials;
  std::shared_ptr<const LandSampler> land;
  Digest landKey;                         ///< Of whatever makes the heights.
  std::shared_ptr<const Field> moisture;  ///< Nothing while the climate is off.
  AxisBounds vertical;
  bool plane = false;
  bool columns = false;
  MaterialIndex water = kOpen;  ///< Of the sea.
  bool rivers = false;          ///< The land has fresh water ...
  MaterialIndex fresh = kOpen;  ///< ... of this.
  float seaLevel = 0;
  float overhang = 0;  ///< How far from the surface overhangs reach.
  uint64_t seed = 0;
  MemoLimit memo;
};

/// Ground above a block of samples: heights of all cells from kApron before its first column to
/// kApron behind its last, whatever the step; and moistures of its columns.
struct CaveColumns {
  /// Cells around a block whose heights are looked at.
  static constexpr int64_t kApron = 2;
  int64_t x = 0, z = 0, step = 1;
  int32_t width = 0, length = 0;
  std::vector<float> heights;
  std::vector<int32_t> helds;    ///< WaterAt::held of the same; empty without the stage Water.
  std::vector<float> moistures;  ///< Empty where no kind asks.
  int64_t fineWidth() const { return (width - 1) * step + 1 + 2 * kApron; }
  int64_t fineLength() const { return (length - 1) * step + 1 + 2 * kApron; }
  float height(int64_t i, int64_t k, int64_t dx = 0, int64_t dz = 0) const {
    return heights[static_cast<size_t>(
        (k * step + dz + kApron) * fineWidth() + i * step + dx + kApron)];
  }
  uint64_t bytes() const {
    return sizeof(CaveColumns) + (heights.size() + moistures.size()) * sizeof(float) +
           helds.size() * sizeof(int32_t);
  }
};

/// Immutable and thread-safe. Tunnels come first, then voids, then automata, each in the order of
/// the recipe; a cell belongs to the first that holds it. What is held, and is ground, becomes open
/// or cave water. Ground straight under a held cell is a floor, other ground that shares a side
/// with one is a wall; the first cave kind that fits says what they are made of. Where the world
/// has a sea, no cell that is held shares a side with it: below the sea level a cell is let be
/// where its column or one of the four beside it comes nearer to its top than seaCover, or than
/// overhangs reach, and seaCover. So it is below the level of a lake or a river over any of them.
///
/// A structure stage: exact up to steps of kExactStep, left out beyond.
class CaveStage {
 public:
  static constexpr int64_t kExactStep = 4;

  struct TunnelPart {
    int index;  ///< In the recipe.
    std::shared_ptr<const TunnelStage> stage;
    MaterialIndex water;
  };

  static Result<std::shared_ptr<const CaveStage>> compile(
      const CaveInputs& inputs, const Kernels& kernels, StagePool* pool);

  static constexpr int64_t kApron = CaveColumns::kApron;
  using Columns = CaveColumns;
  bool asksMoisture() const { return moisture_ != nullptr; }
  const Field* moisture() const { return moisture_.get(); }

  /// Digs into blocks: cells of the columns at y = levels.first + j * step, as BlockStage fills
  /// them. REQUIRES: levels.step == columns.step <= kExactStep. False when stopped.
  bool carve(const Kernels& kernels, const Columns& columns, const BlockLevels& levels,
      MaterialIndex* cells, const std::stop_token& stop) const;

  /// Which parts hold the cells of a block: 0 none, else 1 + place among all parts (tunnels, voids,
  /// automata), and kFlooded. As carve() sees them.
  static constexpr uint16_t kFlooded = 0x8000;
  bool heldIn(const Kernels& kernels, const Columns& columns, const BlockLevels& levels,
      uint16_t* held, const std::stop_token& stop) const;

  /// One cell, by the plain scalar code.
  using Part = CavePart;
  using At = CaveAt;
  /// ground: what the stages before made of the cell.
  At at(Cell cell, int64_t y, MaterialIndex ground) const;
  /// The same of a cell on its own: not what it lines.
  At heldAt(Cell cell, int64_t y) const;
  /// What a cell is made of after this stage.
  MaterialIndex materialOf(const At& at, MaterialIndex ground) const;
  /// Cells that a system of a part has dug: those of its bores, but for what the sea keeps away.
  BitGrid cellsOf(const TunnelPart& part, const TunnelSystem& system) const;
  /// Ground that caves may be dug into.
  bool isGround(MaterialIndex m) const { return m != kOpen && m != water_ && m != fresh_; }

  /// The cave kind that lines ground so deep below the surface of its column, or -1.
  int kindAt(float depth, float moisture) const;

  /// Material of openings over a grid of columns, where there are any.
  bool markOpenings(const SampleGrid& grid, MaterialIndex* materials, ptrdiff_t stride,
      const std::stop_token& stop) const;
  bool openingAt(Cell cell) const;
  MaterialIndex opening() const { return opening_; }

  /// Which columns are open at their uppermost cell of ground, so that one sees deeper from above:
  /// by the shaft of a mouth, a void or an automaton that reaches the surface. Passages that happen
  /// to break through are not looked for.
  void openTops(int count, const Cell* cells, const float* heights, uint8_t* open) const;

  /// Cells from the rim of the nearest mouth of all tunnel systems, 0 within one, kMouthReach where
  /// none is nearer.
  float mouthFrom(Cell cell) const;
  static constexpr auto kMouthReach = static_cast<float>(limits::mouthReach.high);

  /// A part by its mark in heldIn(), counted from 0.
  struct PartName {
    Part part;
    int index;  ///< In its list of the recipe.
    std::string id;
  };
  const std::vector<PartName>& parts() const { return parts_; }
  const std::vector<TunnelPart>& tunnels() const { return tunnels_; }
  bool empty() const { return tunnels_.empty() && voids_.empty() && automata_.empty(); }
  bool lines() const { return lines_; }

 private:
  struct VoidPart {
    int index;
    VoidPlan plan;
    bool toSurface;
  };
  struct AutomatonPart {
    int index;
    std::shared_ptr<const AutomatonTiles> tiles;
    bool toSurface;
  };
  struct Kind {
    float from, to, wetFrom, wetTo;
    MaterialIndex floor, wall;
  };
  const Kernels* kernels_ = nullptr;
  std::shared_ptr<const LandSampler> land_;
  std::shared_ptr<const Field> moisture_;
  float seaLevel_ = 0;
  float keep_ = 0;  // Cells between held cells and the sea.
  bool sea_ = false, rivers_ = false, lines_ = false;
  MaterialIndex water_ = kOpen, fresh_ = kOpen, opening_ = kUnassigned;
  std::vector<TunnelPart> tunnels_;
  std::vector<VoidPart> voids_;
  std::vector<AutomatonPart> automata_;
  std::vector<Kind> kinds_;
  std::vector<PartName> parts_;

  /// Marks one block of samples, whose columns are some of these, as far as kApron - 1 cells away.
  bool markBlock(const Kernels& kernels, const Columns& columns, const SampleBlock& block,
      uint16_t* held, const std::stop_token& stop) const;
  /// True when the sea, a lake or a river is too near to a cell for caves.
  bool keptOff(Cell cell, int64_t y, float height) const;
  MaterialIndex lining(int kind, bool floor, MaterialIndex ground) const;
};

}  // namespace acre
