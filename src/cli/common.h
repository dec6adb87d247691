/// What all verbs of the command share: options, the compiled world, results in words or JSON.
#pragma once

#include <CLI/CLI.hpp>
#include <filesystem>
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
#include "world/plan.h"

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
void addTiles(CLI::App& app, Action& action);
void addTree(CLI::App& app, Action& action);
void addSchema(CLI::App& app, Action& action);
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
  std::optional<unsigned> threads;  ///< Nothing: as many as the machine has.
  bool json = false;
  /// Files that the verb will write, and those that it reads beside the recipe's own: loading
  /// refuses names that lead to one file.
  std::function<std::vector<std::filesystem::path>()> outputs, inputs;

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
/// The same for a block, whose level has an option of its own: three numbers are refused with that
/// sentence.
Result<Cell> parseColumn(
    const std::string& text, const std::string& option, const std::string& levelOption);
/// Whole numbers parted by commas; nothing when the text is anything else.
std::optional<std::vector<int64_t>> wholeNumbers(const std::string& text);
/// In side worlds cells lie at z 0 alone; a second number is mostly meant as a level.
Status checkBeside(const WorldPlan& world, Cell cell, const std::string& option);
/// Levels that may be asked for.
Status checkLevel(int64_t y, const std::string& option);
/// "CX,CZ", in worlds of cubes "CX,CY,CZ", in side worlds "CX,CY".
Result<ChunkPos> parseChunk(
    const std::string& text, const std::string& option, const ChunkLayout& layout);
/// "WxH": two counts from 1 to `most`.
Result<std::pair<int32_t, int32_t>> parseSize(
    const std::string& text, const std::string& option, int32_t most);
/// "X,Z,WxH": a rectangle of cells, "x" or "×" between the counts.
Result<Rect> parseArea(const std::string& text, const std::string& option);
/// "LOW,HIGH": two numbers.
Result<std::pair<double, double>> parseRange(const std::string& text, const std::string& option);

}  // namespace acre::cli
