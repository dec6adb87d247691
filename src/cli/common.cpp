#include "cli/common.h"

#include <fmt/format.h>

#include <charconv>
#include <thread>

#include "base/atomic_file.h"
#include "base/seed.h"
#include "output/carried_recipe.h"
#include "recipe/level_recipe.h"
#include "world/demos.h"

namespace acre::cli {
namespace {

bool isCell(Cell cell) {
  return std::max(cell.x, cell.z) <= kMaxCell && std::min(cell.x, cell.z) >= -kMaxCell;
}

/// Reads two numbers parted by `mark`; false when the text is anything else.
template <class T>
bool twoNumbers(const std::string& text, char mark, T& a, T& b) {
  const char* const end = text.data() + text.size();
  const auto first = std::from_chars(text.data(), end, a);
  if (first.ec != std::errc() || first.ptr == end || *first.ptr != mark) return false;
  const auto second = std::from_chars(first.ptr + 1, end, b);
  return second.ec == std::errc() && second.ptr == end;
}

}  // namespace

void RecipeOptions::addTo(CLI::App& app) {
  app.add_option("recipe", recipe, "A recipe file (*.acre) or the name of a built-in demo")
      ->required();
  app.add_option("--seed", seed, "Another seed: a whole number or any text");
  app.add_option("--set", sets,
         "POINTER=VALUE: override a recipe value, e.g. /frame/sea=3 or "
         "/heights/layers/id:hills/width=100; may be repeated")
      ->expected(1)
      ->allow_extra_args(false)
      ->multi_option_policy(CLI::MultiOptionPolicy::TakeAll);
  app.add_option("--floor", floor, "Which floor of a level; default: the one in the recipe");
  app.add_option("--threads", threads, "Worker threads, 1 to 256; default: all processors");
  app.add_option("--simd", simd, "Instruction set; default: the fastest");
  app.add_flag("--json", json, "Machine-readable results");
}

unsigned RecipeOptions::threadCount() const {
  return threads ? *threads : std::max(1u, std::thread::hardware_concurrency());
}

Result<Recipe> loadRecipe(const RecipeOptions& options) {
  std::vector<Override> overrides;
  for (const std::string& set : options.sets) {
    const size_t equals = set.find('=');
    if (equals == std::string::npos)
      return invalidInput(fmt::format("\"{:.80}\" sets nothing", set), "--set", "POINTER=VALUE");
    overrides.push_back({set.substr(0, equals), set.substr(equals + 1)});
  }
  if (options.threads && (*options.threads < 1 || *options.threads > 256))
    return invalidInput(fmt::format("{} threads", *options.threads), "--threads", "1 to 256");
  auto recipe = openRecipe(options.recipe, overrides);
  if (!recipe) return recipe;
  if (options.outputs) {
    std::error_code none;
    const bool file = std::filesystem::exists(options.recipe, none);
    auto inputs = filesOf(*recipe, file ? options.recipe : "");
    if (options.inputs)
      for (const auto& more : options.inputs()) inputs.push_back(more);
    if (const Status apart = checkOutputs(options.outputs(), inputs); !apart) return apart.error();
  }
  if (options.seed) {
    if (options.seed->empty() || trimmedSeed(*options.seed) != *options.seed)
      return invalidInput("the seed is empty or has white space at an end", "--seed",
          "text or a whole number from -2^63 to 2^64-1");
    recipe->seed = *options.seed;
  }
  if (!options.floor) return recipe;
  if (recipe->frame.kind != WorldKind::Level)
    return invalidInput(
        fmt::format("a world of the kind {} has no floors", kindName(recipe->frame.kind)),
        "--floor", "a recipe of the kind level");
  const Level& level = *recipe->level;
  if (*options.floor < level.firstFloor || *options.floor > level.lastFloor)
    return invalidInput(fmt::format("there is no floor {}", *options.floor), "--floor",
        fmt::format("{} to {}", level.firstFloor, level.lastFloor));
  recipe->level->floor = *options.floor;
  return recipe;
}

Result<Loaded> load(const RecipeOptions& options) {
  EngineOptions engineOptions;
  engineOptions.simd = options.simd;
  auto engine = Engine::create(engineOptions);
  if (!engine) return engine.error();
  auto recipe = loadRecipe(options);
  if (!recipe) return recipe.error();
  auto world = (*engine)->compile(*recipe);
  if (!world) return world.error();
  return Loaded{std::move(*engine), std::move(*world)};
}

std::optional<std::vector<int64_t>> wholeNumbers(const std::string& text) {
  std::vector<int64_t> out;
  for (size_t at = 0; at <= text.size();) {
    const size_t comma = std::min(text.find(',', at), text.size());
    int64_t v = 0;
    const auto read = std::from_chars(text.data() + at, text.data() + comma, v);
    if (read.ec != std::errc() || read.ptr != text.data() + comma) return {};
    out.push_back(v);
    at = comma + 1;
  }
  return out;
}

Result<Cell> parsePair(const std::string& text, const std::string& option) {
  Cell cell;
  if (twoNumbers(text, ',', cell.x, cell.z) && isCell(cell)) return cell;
  // Two whole numbers, of whatever length.
  const size_t comma = text.find(',');
  const auto whole = [](std::string_view part) {
    if (part.starts_with('-')) part.remove_prefix(1);
    return !part.empty() && part.find_first_not_of("0123456789") == std::string_view::npos;
  };
  const std::string_view view = text;
  if (comma != std::string::npos && whole(view.substr(0, comma)) && whole(view.substr(comma + 1)))
    return invalidInput(
        fmt::format("{:.80} lies beyond the world", text), option, "cells from -2^60 to 2^60");
  return invalidInput(fmt::format("\"{:.80}\" is not a place", text), option,
      "X,Z: two whole numbers, e.g. -120,4000");
}

Result<Cell> parseColumn(
    const std::string& text, const std::string& option, const std::string& levelOption) {
  const auto numbers = wholeNumbers(text);
  if (numbers && numbers->size() == 3)
    return invalidInput(fmt::format("\"{:.80}\" is three numbers", text), option,
        "X,Z, and the level of a block after " + levelOption);
  return parsePair(text, option);
}

Status checkBeside(const WorldPlan& world, Cell cell, const std::string& option) {
  if (!world.layout().vertical().plane || cell.z == 0) return done();
  return invalidInput(
      fmt::format("{},{} is beside the world, whose blocks lie at z 0", cell.x, cell.z), option,
      "X,0, and the level of a block after --y");
}

Status checkLevel(int64_t y, const std::string& option) {
  constexpr int64_t kFarthest = 1 << 24;
  if (std::abs(y) <= kFarthest) return done();
  return invalidInput(fmt::format("level {}", y), option, "-16777216 to 16777216");
}

Result<ChunkPos> parseChunk(
    const std::string& text, const std::string& option, const ChunkLayout& layout) {
  const auto numbers = wholeNumbers(text);
  const Vertical& v = layout.vertical();
  if (numbers && v.plane && numbers->size() == 2)
    return ChunkPos{(*numbers)[0], 0, 0, (*numbers)[1]};
  if (numbers && !v.plane && v.tall > 0 && numbers->size() == 3)
    return ChunkPos{(*numbers)[0], (*numbers)[2], 0, (*numbers)[1]};
  if (numbers && !v.plane && v.tall == 0 && numbers->size() == 2)
    return ChunkPos{(*numbers)[0], (*numbers)[1]};
  return invalidInput(fmt::format("\"{:.80}\" names no chunk of this world", text), option,
      v.plane      ? "CX,CY: two whole numbers"
      : v.tall > 0 ? "CX,CY,CZ: three whole numbers"
                   : "CX,CZ: two whole numbers");
}

Result<std::pair<int32_t, int32_t>> parseSize(
    const std::string& text, const std::string& option, int32_t most) {
  int64_t w = 0, h = 0;
  if (twoNumbers(text, 'x', w, h) && w >= 1 && h >= 1 && w <= most && h <= most)
    return std::pair(static_cast<int32_t>(w), static_cast<int32_t>(h));
  return invalidInput(fmt::format("\"{:.80}\" is not a size", text), option,
      fmt::format("WxH with 1 to {} each, e.g. 800x600", most));
}

Result<Rect> parseArea(const std::string& text, const std::string& option) {
  const size_t comma = text.rfind(',');
  Rect area;
  if (comma != std::string::npos && twoNumbers(text.substr(0, comma), ',', area.x, area.z) &&
      twoNumbers(text.substr(comma + 1), 'x', area.width, area.length))
    return area;
  return invalidInput(
      fmt::format("\"{:.80}\" is not an area", text), option, "X,Z,WxH, e.g. -512,-512,1024x1024");
}

Result<std::pair<double, double>> parseRange(const std::string& text, const std::string& option) {
  std::pair<double, double> range;
  if (twoNumbers(text, ',', range.first, range.second)) return range;
  return invalidInput(
      fmt::format("\"{:.80}\" is not a range", text), option, "LOW,HIGH, e.g. -50,120");
}

}  // namespace acre::cli
