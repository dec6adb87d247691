/// Turns one recipe into the stages of its world, in their order.
#pragma once

#include <memory>
#include <stop_token>

#include "field/compiler.h"
#include "world/plan.h"

namespace acre {

class Distribution;  // field/distribution.h
class LevelMaker;    // cave/level.h
struct BlockInputs;  // strata/blocks.h

/// What makes the floors of a level. recipe: valid.
Result<std::shared_ptr<const LevelMaker>> levelMakerOf(
    const Recipe& recipe, const Kernels& kernels);

/// Every stage is compiled from its own parameters and from what stands before it, and shared
/// through the pool by a key of just that.
class WorldCompiler {
 public:
  /// recipe: valid, and there for as long as this is.
  WorldCompiler(
      const Recipe& recipe, StagePool& pool, const Kernels& kernels, const std::stop_token& stop);

  /// The errors name the JSON pointer; Cancelled when stopped.
  Result<WorldParts> compile();

 private:
  // In this order; each leaves in parts_ what it made.
  Status fields();
  Status biomes();
  Status water();
  Status lateFields();
  Status bands();
  Status ground();
  Status level();
  Status caves();

  Status namedFields(bool late);
  std::shared_ptr<const Field> fieldOf(const std::string& id) const;
  Status shiftFields(std::shared_ptr<const Field>& x, std::shared_ptr<const Field>& z);
  Result<std::shared_ptr<const BandTable>> bandTable(const std::vector<Band>& bands);
  /// The ground of worlds of blocks, or the rock of a level; parts_ is complete but for it.
  Result<std::shared_ptr<const BlockStage>> blockStage();
  /// Columns as if they were made of blocks.
  Result<std::shared_ptr<const BlockStage>> columnStage() const;
  Result<std::shared_ptr<const BlockStage>> withOres(BlockInputs& inputs);
  Digest keyOf(const BlockInputs& inputs) const;

  const Recipe& recipe_;
  StagePool& pool_;
  const Kernels& kernels_;
  std::stop_token stop_;
  uint64_t seed_;
  FieldRecipe flat_;  ///< The heights while they are off.
  FieldCompiler compiler_;
  WorldParts parts_;
  std::shared_ptr<const Distribution> heights_;  ///< While a share asks for it.
  Digest landKey_;                               ///< Of what makes the heights.
  Digest bandsKey_;                              ///< Of all bands.
  Digest floorKey_;                              ///< Of a level's floor.
};

}  // namespace acre
