/// The pass that puts the floor of a level in the place of the land.
#pragma once

#include <stop_token>
#include <vector>

#include "world/cell_value.h"
#include "world/plan.h"

namespace acre {

class EditPass;  // world/edit_pass.h

/// Open cells at 0 and walls above; what is behind them is rock that bands, layers, beds and ores
/// decide by its depth. Immutable and thread-safe. But for any(), everything REQUIRES any().
class FloorPass {
 public:
  /// Both there for as long as this is.
  FloorPass(const WorldPlan& plan, const EditPass& edits) : plan_(plan), edits_(edits) {}

  /// The world is a level, and its stage is on.
  bool any() const { return plan_.level() != nullptr; }

  /// Whether a cell is open: as the floor is, unless it was changed by hand to what is solid or
  /// not.
  bool isOpen(Cell cell) const;
  float heightAt(Cell cell) const;

  /// Depths of a grid's samples, row by row; and their heights less them: what bands see.
  std::vector<uint16_t> sink(const SampleGrid& grid, float* heights, ptrdiff_t stride) const;
  /// Materials in place of the bands'. depths: as sink() returned; biomes: nullptr without. False
  /// when stopped.
  bool materials(const SampleGrid& grid, const std::vector<uint16_t>& depths,
      const BiomeIndex* biomes, MaterialIndex* materials, ptrdiff_t stride,
      const std::stop_token& stop) const;
  /// Heights of the floor in place of the rock's. generated: before any cell was changed by hand.
  void heights(
      const SampleGrid& grid, float* heights, ptrdiff_t stride, bool generated = false) const;

  /// One cell. value: with height, slope and biome of the land; its height becomes the floor's.
  void lay(Cell cell, CellValue& value, bool generated = false) const;

 private:
  const WorldPlan& plan_;
  const EditPass& edits_;
};

}  // namespace acre
