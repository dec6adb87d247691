/// What a recipe may hold. The reader, the editors and the compiler all ask here.
#pragma once

#include <functional>
#include <vector>

#include "base/result.h"
#include "recipe/limits.h"
#include "recipe/recipe.h"

namespace acre {

/// Frequencies of all octaves in 2^-48 lattice cells per cell: f_0 = 2^48 / width,
/// f_(k+1) = f_k * lacunarity, in double. Refused outside 2^16 ... 2^53, naming the octave.
/// where: JSON pointer of the noise, for the error.
Result<std::vector<double>> octaveFrequencies(const NoiseSource& source, const std::string& where);

/// Lowest and highest value that a field could possibly reach (interval arithmetic).
Range possibleRange(const Recipe& recipe, const FieldRecipe& field);
/// The same for the heights.
Range possibleHeights(const Recipe& recipe);

/// Lowest and highest height, with what the biomes do to the base.
Range possibleSurface(const Recipe& recipe);

/// Most blocks that depth layers can take together.
int64_t deepestOf(const Recipe& recipe, const std::vector<DepthLayer>& layers);

/// Ids of the fields that a layer reads.
std::vector<std::string> fieldsReadBy(const Layer& layer);
/// Layers that read a field, as "name of field: name of layer", in order.
std::vector<std::string> readersOf(const Recipe& recipe, const std::string& fieldId);

/// True when the field, or one that it reads, holds a distance from water that is on. REQUIRES: no
/// circles.
bool readsWaterDistance(const Recipe& recipe, const FieldRecipe& field);
/// Whether it holds, or reads a field that holds, what the stage Water says.
bool readsFreshWater(const Recipe& recipe, const FieldRecipe& field);
/// The fields that do not: those that whatever comes before that stage may read.
std::vector<const FieldRecipe*> fieldsBeforeWater(const Recipe& recipe);

/// True when the layer's values are spread alike over the whole endless world, so that a sample
/// about the origin tells its distribution: no ramp, distance, island or picture takes part.
/// find: the field of an id, or nullptr.
bool isStationary(
    const Layer& layer, const std::function<const FieldRecipe*(const std::string&)>& find);

/// Checks every value of a recipe; the error names the JSON pointer and the accepted range.
Status validate(const Recipe& recipe);

}  // namespace acre
