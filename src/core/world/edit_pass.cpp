#include "world/edit_pass.h"

#include <set>

#include "recipe/edits.h"
#include "strata/material_index.h"

namespace acre {

EditPass::EditPass(const WorldPlan& plan) : plan_(plan), edits_(plan.edits()) {
  if (!edits_) return;
  for (const std::string& id : edits_->materials()) {
    const MaterialIndex index = indexOf(plan.recipe().materials, id);
    materials_.push_back(index == kUnassigned ? kOpen : index);
  }
}

std::optional<MaterialIndex> EditPass::at(Cell cell, int64_t y) const {
  std::optional<MaterialIndex> out;
  if (edits_)
    edits_->eachIn({cell.x, plan_.blocks() ? y : editLevel(plan_.recipe()), cell.z, 1, 1, 1, 1},
        [&](int64_t, int64_t, int64_t, uint16_t m) { out = materials_[m]; });
  return out;
}

std::vector<Cell> EditPass::columnsIn(const SampleGrid& grid) const {
  std::set<std::pair<int64_t, int64_t>> found;
  if (edits_) {
    const AxisBounds range =
        plan_.blocks() ? plan_.vertical() : AxisBounds{editLevel(plan_.recipe()), 1};
    edits_->eachIn(
        {grid.x, range.min, grid.z, grid.step, grid.width,
            static_cast<int32_t>(floorDiv(range.extent - 1, grid.step) + 1), grid.length},
        [&](int64_t x, int64_t, int64_t z, uint16_t) {
          found.insert({x, z});
        });
  }
  std::vector<Cell> out;
  for (const auto& [x, z] : found) out.push_back({x, z});
  return out;
}

void EditPass::apply(const SampleGrid& grid, MaterialIndex* materials, ptrdiff_t stride) const {
  if (!edits_ || plan_.blocks()) return;
  edits_->eachIn({grid.x, editLevel(plan_.recipe()), grid.z, grid.step, grid.width, 1, grid.length},
      [&](int64_t x, int64_t, int64_t z, uint16_t m) {
        materials[(z - grid.z) / grid.step * stride + (x - grid.x) / grid.step] = materials_[m];
      });
}

void EditPass::apply(const SampleBlock& block, MaterialIndex* blocks) const {
  if (!edits_ || !plan_.blocks()) return;
  edits_->eachIn(block, [&](int64_t x, int64_t y, int64_t z, uint16_t m) {
    blocks[((y - block.y) / block.step * block.length + (z - block.z) / block.step) * block.width +
           (x - block.x) / block.step] = materials_[m];
  });
}

void EditPass::apply(
    Cell cell, const BlockLevels& levels, MaterialIndex* blocks, size_t stride) const {
  if (!edits_ || !plan_.blocks()) return;
  edits_->eachIn({cell.x, levels.first, cell.z, levels.step, 1, levels.count, 1},
      [&](int64_t, int64_t y, int64_t, uint16_t m) {
        blocks[static_cast<size_t>((y - levels.first) / levels.step) * stride] = materials_[m];
      });
}

}  // namespace acre
