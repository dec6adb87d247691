/// The second evaluator as the proof asks it.
#pragma once

#include <memory>

#include "audit/proof.h"
#include "recipe/object_recipe.h"
#include "reference/evaluator.h"
#include "reference/tiles.h"

namespace reference {

/// Has an evaluator of its own answer for the recipe.
inline void testify(const acre::Recipe& recipe, acre::ProofOptions& options) {
  const auto evaluator = std::make_shared<Evaluator>(recipe);
  options.reference = [evaluator](acre::Cell cell) {
    const CellValue v = evaluator->proven(cell);
    return acre::EvaluatedCell{v.height, v.biome, v.material};
  };
  options.referenceBlock = [evaluator](
                               acre::Cell cell, int64_t y) { return evaluator->block(cell, y); };
  options.referenceObjects = [evaluator, kinds = recipe.objects->kinds](const acre::Rect& cells) {
    std::vector<acre::EvaluatedObject> out;
    const std::vector<Evaluator::Object> found = evaluator->objects(cells);
    for (const Evaluator::Object& one : found)
      out.push_back({kinds[one.kind].id, one.choice, one.cell, one.y, one.id, one.turn});
    return out;
  };
  options.referenceTiles = [recipe](const acre::Rect& plane, int group, acre::Cell cell,
                               const std::function<std::string(acre::Cell)>& material) {
    return tileValue(recipe, plane, group, cell, material);
  };
}

}  // namespace reference
