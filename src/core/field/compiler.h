/// Turns field recipes into fields.
#pragma once

#include <map>
#include <memory>
#include <stop_token>
#include <string>
#include <vector>

#include "field/field.h"
#include "field/stage_pool.h"

namespace acre {

/// Everything that fields depend on.
struct FieldInputs {
  const std::vector<FieldRecipe>& fields;
  const FieldRecipe& heights;
  const std::optional<AxisBounds>& x;
  const std::optional<AxisBounds>& z;
  const std::string& folder;
  uint64_t seed;  ///< Of the world.
  const Climate* climate = nullptr;
};

class FieldCompiler {
 public:
  /// The recipe must be valid (recipe/validate.h). dims: 1, 2 or 3. Equalising needs dims = 2.
  /// stop: given up while what is equalised is measured.
  FieldCompiler(const FieldInputs& inputs, StagePool& pool, const Kernels& kernels, int dims = 2,
      std::stop_token stop = {})
      : inputs_(inputs), pool_(pool), kernels_(kernels), dims_(dims), stop_(std::move(stop)) {}

  /// The sea that altitudes are measured from. REQUIRES: fields that hold one are compiled later.
  void setSeaLevel(double level) { seaLevel_ = level; }
  /// What fields are told of fresh water. REQUIRES: fields that hold it are compiled later.
  /// key: of the land with its water.
  void setFreshWater(std::shared_ptr<const FreshWater> water, const Digest& key) {
    fresh_ = std::move(water);
    freshKey_ = key;
  }

  /// The errors name the JSON pointer: pictures that cannot be read. Cancelled when stopped.
  Result<std::shared_ptr<const Field>> compile(const FieldRecipe& field);

 private:
  const FieldRecipe* find(const std::string& id) const;
  bool stationary(const Layer& layer) const;
  std::string pointerOf(const FieldRecipe& field) const;
  Result<Digest> keyOf(const FieldRecipe& field);
  Result<std::shared_ptr<const Field>> make(const FieldRecipe& field, const Digest& key);
  /// The widest feature that a layer brings, those of the fields it reads included; at least 1 but
  /// for noise.
  double widestOf(const Layer& layer);
  /// What a layer brings, into its step.
  Status compileSource(
      const Layer& layer, uint64_t seed, const std::string& where, FieldStep& step);
  Result<FieldStep> compileLayer(
      const Field& soFar, const FieldRecipe& field, size_t index, uint64_t fieldSeed);
  /// stationary: alike everywhere, so that the endless world tells and bounds only crop; anything
  /// else is measured within the bounds. Nothing when stopped.
  std::shared_ptr<const QuantileTable> distributionOf(const Field& field, bool stationary);
  Result<std::shared_ptr<const GreyPicture>> pictureOf(
      const PictureSource& source, const std::string& where);

  FieldInputs inputs_;
  StagePool& pool_;
  const Kernels& kernels_;
  int dims_;
  std::stop_token stop_;
  double seaLevel_ = 0;
  std::shared_ptr<const FreshWater> fresh_;
  Digest freshKey_;
  std::map<std::string, Digest> keys_;
};

/// Compiles noise; `where` is its JSON pointer, for errors.
Result<NoisePlan> compileNoise(const NoiseSource& source,
    const std::optional<SamplingOffset>& sampling, uint64_t seed, int dims,
    const std::string& where);

/// The sub-seed that the layers of a field start from.
uint64_t fieldSeedOf(const std::string& fieldId, uint64_t worldSeed);

}  // namespace acre
