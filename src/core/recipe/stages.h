/// The stages of a world, once: what they are called, where they stand in a recipe, in which kinds
/// of world they exist, what they read, and how they are switched. Whoever lists stages goes by
/// this table.
#pragma once

#include <cstdint>
#include <span>
#include <string_view>

#include "recipe/recipe.h"
#include "recipe/stage_id.h"

namespace acre {

struct StageDef {
  StageId id;
  const char* key;    ///< Of its member of the recipe.
  const char* title;  ///< "Strata".
  const char* what;   ///< In a sentence.
  uint32_t kinds;     ///< Bits of WorldKind.
  uint32_t reads;     ///< Bits of the stages that it looks at.
  /// What people write down about it.
  std::string Notes::*note;
  /// Whether it is on; nothing: it cannot be switched.
  bool (*on)(const Recipe&);
  void (*turn)(Recipe&, bool);

  bool isOf(WorldKind kind) const { return kinds >> static_cast<int>(kind) & 1; }
  bool readsStage(StageId stage) const { return reads >> static_cast<int>(stage) & 1; }
};

/// All of them, each at the place of its id.
std::span<const StageDef, kStageCount> allStages();
inline const StageDef& defOf(StageId stage) {
  return allStages()[static_cast<size_t>(stage)];
}

/// The stage that a JSON pointer leads into: "/biomes/list/2/bands/0" is Strata, as are materials;
/// further fields belong to the heights.
StageId stageOf(std::string_view pointer);

/// Whether a stage makes anything of a recipe: it is one of its kind of world, and on.
bool takesPart(const Recipe& recipe, StageId stage);

/// The same recipe without what comes after a stage.
Recipe upTo(const Recipe& recipe, StageId last);

}  // namespace acre
