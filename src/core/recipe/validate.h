/// What a recipe may hold. The reader, the editors and the compiler all ask here.
#pragma once

#include <vector>

#include "base/result.h"
#include "recipe/recipe.h"

namespace acre {

/// An accepted range of a number, both ends included.
struct Range {
  double low;
  double high;
  bool holds(double v) const { return v >= low && v <= high; }  // False for NaN.
  std::string text() const;
};

namespace limits {
inline constexpr Range chunkSize{1, 1024};
inline constexpr Range altitude{-1e6, 1e6};  ///< Sea level, thresholds, constants, offsets.
inline constexpr Range amplitude{-1e6, 1e6};
inline constexpr Range width{1.0 / 32, 4294967296.0};
inline constexpr Range octaves{1, 32};
inline constexpr Range lacunarity{1, 16};
inline constexpr Range gain{0, 4};
inline constexpr Range sampling{-4294967296.0, 4294967296.0};
inline constexpr double reachableHeight = 1e9;
inline constexpr size_t layers = 256;
inline constexpr size_t bands = 256;
inline constexpr size_t materials = 4096;
inline constexpr size_t nameBytes = 200;
inline constexpr size_t seedBytes = 200;
inline constexpr int64_t cell = kMaxCell;
}  // namespace limits

/// Steps of all octaves in 2^-48 lattice cells per cell: floor(f_k + 0.5), f_0 = 2^48 / width,
/// f_(k+1) = f_k * lacunarity, in double. Refused outside 2^16 ... 2^53, naming the octave.
/// where: JSON pointer of the layer, for the error.
Result<std::vector<uint64_t>> octaveSteps(const GradientSource& source, const std::string& where);

/// Lowest and highest value that the stack of layers could possibly reach (interval arithmetic).
Range possibleHeights(const std::vector<Layer>& layers);

/// Checks every value of a recipe; the error names the JSON pointer and the accepted range.
Status validate(const Recipe& recipe);

}  // namespace acre
