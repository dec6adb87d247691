/// What all verbs of the command share: options, the compiled world, results in words or JSON.
#pragma once

#include <CLI/CLI.hpp>
#include <functional>
#include <memory>
#include <nlohmann/json.hpp>
#include <optional>
#include <ostream>
#include <string>
#include <vector>

#include "base/result.h"
#include "recipe/json.h"
#include "world/engine.h"

namespace acre::cli {

using Json = nlohmann::ordered_json;

struct Streams {
  std::ostream& out;
  std::ostream& err;
  bool progress;
  std::string self;               ///< Path of the command itself; empty: none.
  std::vector<std::string> args;  ///< That it was called with.
};

/// A verb: fills its options into `app` and leaves a function that runs it. The function returns
/// the exit code, or an error that becomes one line and exit code 2.
using Action = std::function<Result<int>(Streams&)>;

void addDemos(CLI::App& app, Action& action);
void addFind(CLI::App& app, Action& action);
void addInfo(CLI::App& app, Action& action);
void addMap(CLI::App& app, Action& action);
void addChunk(CLI::App& app, Action& action);
void addPlumb(CLI::App& app, Action& action);
void addCensus(CLI::App& app, Action& action);
void addCheck(CLI::App& app, Action& action);
void addTraverse(CLI::App& app, Action& action);
void addSeeds(CLI::App& app, Action& action);
void addSection(CLI::App& app, Action& action);
void addView(CLI::App& app, Action& action);
void addProve(CLI::App& app, Action& action);

/// Options that stand with every verb that takes a recipe.
struct RecipeOptions {
  std::string recipe;
  std::optional<std::string> seed;
  std::vector<std::string> sets;
  std::optional<int> floor;  ///< Of a level.
  std::string simd;
  unsigned threads = 0;  ///< 0: as many as the machine has.
  bool json = false;

  void addTo(CLI::App& app);
  unsigned threadCount() const;
};

/// The recipe that the options describe, with what they override.
Result<Recipe> loadRecipe(const RecipeOptions& options);

/// The engine and the world that the options describe.
struct Loaded {
  std::unique_ptr<Engine> engine;
  std::shared_ptr<const World> world;
};
Result<Loaded> load(const RecipeOptions& options);

/// "X,Z": two whole numbers.
Result<Cell> parsePair(const std::string& text, const std::string& option);
/// "X,Z" or "X,Z,Y": two or three whole numbers; the third is optional.
struct BlockPlace {
  Cell cell;
  std::optional<int64_t> y;
};
Result<BlockPlace> parseBlock(const std::string& text, const std::string& option);
/// "CX,CZ", in worlds of cubes "CX,CY,CZ", in side worlds "CX,CY".
Result<ChunkPos> parseChunk(const std::string& text, const std::string& option,
                            const ChunkLayout& layout);
/// "WxH": two counts from 1 to `most`.
Result<std::pair<int32_t, int32_t>> parseSize(const std::string& text, const std::string& option,
                                              int32_t most);
/// "X,Z,WxH": a rectangle of cells, "x" or "×" between the counts.
Result<Rect> parseArea(const std::string& text, const std::string& option);
/// "LOW,HIGH": two numbers.
Result<std::pair<double, double>> parseRange(const std::string& text, const std::string& option);

}  // namespace acre::cli
