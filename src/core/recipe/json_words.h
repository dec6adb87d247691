/// The words of the recipe file, and the two halves of recipe/json.cpp.
#pragma once

#include <filesystem>
#include <string_view>
#include <vector>

#include "recipe/json_reader.h"
#include "recipe/level_recipe.h"
#include "recipe/recipe.h"
#include "recipe/validate.h"

namespace acre {

inline constexpr const char* kFormat = "kindred-acre recipe";
inline constexpr int kVersion = 1;

// Words of the file for the enumerations of the recipe, in their order.
inline const std::vector<std::string_view> kKinds = {
    "gradient", "value",    "simplex",  "cellular", "white",          "gradient-2002", "constant",
    "ramp",     "distance", "island",   "picture",  "field",          "terrace",       "fold",
    "rescale",  "equalise", "latitude", "altitude", "water-distance", "walk"};
inline constexpr size_t kBases = 6;  // The first kinds are noise.
inline const std::vector<std::string_view> kFractals = {"single", "fbm", "ridged", "billowed"};
inline const std::vector<std::string_view> kResults = {"first", "second", "difference", "site"};
inline const std::vector<std::string_view> kMetrics = {"euclidean", "manhattan", "chebyshev"};
inline const std::vector<std::string_view> kCombines = {
    "add", "multiply", "subtract", "minimum", "maximum", "smooth-minimum", "smooth-maximum",
    "mix", "replace"};
inline const std::vector<std::string_view> kAxes = {"x", "z", "y"};
inline const std::vector<std::string_view> kOutsides = {"value", "edge", "repeat"};
inline const std::vector<std::string_view> kEdges = {"hard", "dithered", "noisy"};

inline const std::vector<std::string_view> kWorldKinds = {"overland", "voxel", "side", "level"};
inline const std::vector<std::string_view> kShapes = {"cubes", "columns"};
inline const std::vector<std::string_view> kOreShapes = {"pocket", "vein"};
inline const std::vector<std::string_view> kGridEdges = {"filled", "empty", "left"};
inline const std::vector<std::string_view> kAutomata = {"floors", "volume"};

/// Places in kKinds. Noise comes first, in the order of Basis, then the sources in theirs.
enum Kind : size_t {
  kGradientKind,
  kValueKind,
  kSimplexKind,
  kCellularKind,
  kWhiteKind,
  kGradient2002Kind,
  kConstantKind,
  kRampKind,
  kDistanceKind,
  kIslandKind,
  kPictureKind,
  kFieldKind,
  kTerraceKind,
  kFoldKind,
  kRescaleKind,
  kEqualiseKind,
  kLatitudeKind,
  kAltitudeKind,
  kWaterKind,
  kWalkKind
};

/// The first of them: those of noise.
inline std::vector<std::string_view> noiseKinds() {
  return {kKinds.begin(), kKinds.begin() + kBases};
}

/// The recipe as JSON, members in the order of the stages.
Json recipeJson(const Recipe& recipe);

/// The recipe of a JSON object, without the cells changed by hand; faults go to the reader. What
/// the values may be is not checked.
Recipe readRecipe(const JsonReader& in);

// The Biomes stage, and what it shares with the others.
Json biomesJson(const Biomes& biomes);
Biomes readBiomes(const JsonReader& in);
Json numberJson(double v);
Json materialJson(const std::string& id);
Json curveJson(const Curve& curve);
Json maskJson(const Mask& mask);
Json thresholdJson(const Threshold& threshold);
Json bandJson(const Band& band);
void noiseJson(Json& out, const NoiseSource& noise);
std::string readMaterialId(const JsonReader& in);
Curve readCurve(const JsonReader& in);
Mask readMask(const JsonReader& in);
/// Noise with its basis as "kind".
Json namedNoiseJson(const NoiseSource& noise);
NoiseSource readNamedNoise(const JsonReader& in);
std::vector<std::string> readTexts(const JsonReader& in);

// Cells changed by hand.
Json editsJson(const EditSet& edits);
Edits readEdits(const JsonReader& in);
/// The contents of the side file.
std::string editsText(const Recipe& recipe);
/// Reads the side file of a recipe that names it by the hash of its contents. overridden: values of
/// the recipe were overridden, so that its id may be another.
Status readEditsFile(const std::filesystem::path& recipeFile, const std::string& hash,
                     Recipe& recipe, bool overridden);

// Ground made of blocks.
Json overhangJson(const Overhang& overhang);
Json layersJson(const std::vector<DepthLayer>& layers);
Json rockJson(const Rock& rock);
Json oreJson(const Ore& ore);
Overhang readOverhang(const JsonReader& in);
std::vector<DepthLayer> readLayers(const JsonReader& in);
Rock readRock(const JsonReader& in);
Ore readOre(const JsonReader& in);

// Caves.
Json cavesJson(const Caves& caves);
Caves readCaves(const JsonReader& in);

// Levels.
Json levelJson(const Level& level);
Level readLevel(const JsonReader& in);

Threshold readThreshold(const JsonReader& in);
Band readBand(const JsonReader& in);
Colour readColour(const JsonReader& in);
NoiseSource readNoise(const JsonReader& in, Basis basis);
/// Keys of a layer of a kind, besides those that every layer may have.
std::vector<std::string_view> keysOf(size_t kind);

/// A member that may be missing.
template <class T>
void readIf(const JsonReader& in, std::string_view key, T& value) {
  if (!in.has(key)) return;
  if constexpr (std::is_same_v<T, bool>)
    value = in.member(key).boolean();
  else if constexpr (std::is_same_v<T, std::string>)
    value = in.member(key).text();
  else
    value = in.member(key).number();
}

/// A whole number within a range, both ends included, that may be missing.
inline void readWhole(const JsonReader& in, std::string_view key, const Range& range, int& value) {
  if (in.has(key))
    value = static_cast<int>(
        in.member(key).integer(static_cast<int64_t>(range.low), static_cast<int64_t>(range.high)));
}

template <class E>
void choiceIf(const JsonReader& in, std::string_view key,
              const std::vector<std::string_view>& words, E& value) {
  if (in.has(key)) value = static_cast<E>(in.member(key).choice(words));
}

/// The word for a value of an enumeration.
template <class E>
std::string word(const std::vector<std::string_view>& words, E value) {
  return std::string(words[static_cast<size_t>(value)]);
}

}  // namespace acre
