#include <fmt/format.h>

#include <algorithm>

#include "audit/level_audit.h"
#include "audit/object_trials.h"
#include "cli/common.h"
#include "recipe/level_recipe.h"

namespace acre::cli {
namespace {

constexpr int kMost = 1'000'000;

struct SeedsOptions {
  RecipeOptions recipe;
  int64_t from = 1;
  int64_t count = 100;
  bool all = false;
};

Json jsonOf(const FloorTrial& trial) {
  if (trial.figures.width == 0) return {{"seed", trial.seed}, {"fault", trial.fault}};
  const LevelFigures& f = trial.figures;
  return {{"seed", trial.seed}, {"fault", trial.fault}, {"open", f.open}, {"pieces", f.pieces},
      {"margin", f.margin}, {"rooms", f.rooms}, {"dug", f.dug}, {"visited", f.visited.cells},
      {"ofCells", f.visited.all}};
}

/// What has to be in the squares about the origin.
Result<int> seedsOfObjects(const SeedsOptions& options, const Recipe& recipe, Streams& streams,
    const std::function<void(double)>& progress) {
  EngineOptions made;
  made.threads = options.recipe.threadCount();
  made.simd = options.recipe.simd;
  auto engine = Engine::create(made);
  if (!engine) return engine.error();
  const auto trials =
      tryMustHaves(**engine, recipe, options.from, static_cast<int>(options.count), {}, progress);
  if (!trials) return trials.error();
  const int code = trials->failing == 0 ? 0 : 1;
  if (options.recipe.json) {
    Json list = Json::array();
    for (const MustTrial& trial : trials->list)
      if (options.all || !trial.fault.empty())
        list.push_back({{"seed", trial.seed}, {"fault", trial.fault}, {"squares", trial.squares},
            {"missing", trial.missing}, {"forced", trial.forced}});
    streams.out << Json{{"from", options.from}, {"count", options.count},
                       {"failing", trials->failing}, {"seeds", std::move(list)}}
                       .dump(2)
                << "\n";
    return code;
  }
  uint64_t forced = 0;
  for (const MustTrial& trial : trials->list) {
    forced += trial.forced;
    if (!trial.fault.empty())
      streams.out << fmt::format("seed {}: {}\n", trial.seed, trial.fault);
    else if (options.all)
      streams.out << fmt::format("seed {}: all {} squares have one, {} by force\n", trial.seed,
          trial.squares, trial.forced);
  }
  streams.out << fmt::format(
      "seeds {} to {}: {} of {} have all that must be about the origin; {} by force\n",
      options.from, options.from + options.count - 1, trials->list.size() - trials->failing,
      trials->list.size(), forced);
  return code;
}

Result<int> seeds(const SeedsOptions& options, Streams& streams) {
  if (options.count < 1 || options.count > kMost)
    return Error{Error::Code::InvalidInput, fmt::format("{} seeds", options.count), "--count",
        fmt::format("1 to {}", kMost)};
  if (options.from < 0 || options.from > (int64_t{1} << 62))
    return Error{Error::Code::InvalidInput, fmt::format("{}", options.from), "--from", "0 to 2^62"};
  const auto recipe = loadRecipe(options.recipe);
  if (!recipe) return recipe.error();
  const auto kernels = kernelsNamed(options.recipe.simd);
  if (!kernels) return kernels.error();
  const int floor = recipe->level->floor;
  const auto progress = [&](double share) {
    if (streams.progress)
      streams.err << fmt::format("\r{:3.0f} %", share * 100) << (share >= 1 ? "\r      \r" : "")
                  << std::flush;
  };
  if (recipe->frame.kind != WorldKind::Level)
    return seedsOfObjects(options, *recipe, streams, progress);
  const auto trials = tryFloors(*recipe, floor, options.from, static_cast<int>(options.count),
      options.recipe.threadCount(), **kernels, {}, progress);
  if (!trials) return trials.error();
  const int code = trials->failing == 0 ? 0 : 1;
  if (options.recipe.json) {
    Json list = Json::array();
    for (const FloorTrial& trial : trials->list)
      if (options.all || !trial.fault.empty()) list.push_back(jsonOf(trial));
    streams.out << Json{{"floor", floor}, {"from", options.from}, {"count", options.count},
                       {"failing", trials->failing}, {"seeds", std::move(list)}}
                       .dump(2)
                << "\n";
    return code;
  }
  double least = 1, most = 0, sum = 0;
  size_t made = 0;
  for (const FloorTrial& trial : trials->list) {
    if (trial.figures.width > 0) {
      least = std::min(least, trial.figures.open);
      most = std::max(most, trial.figures.open);
      sum += trial.figures.open;
      ++made;
    }
    if (!trial.fault.empty())
      streams.out << fmt::format("seed {}: {}\n", trial.seed, trial.fault);
    else if (options.all)
      streams.out << fmt::format("seed {}: {:.1f} % open, {} pieces, margin {}, {} rooms\n",
          trial.seed, trial.figures.open * 100, trial.figures.pieces, trial.figures.margin,
          trial.figures.rooms);
  }
  streams.out << fmt::format("floor {}, seeds {} to {}: {} of {} keep every condition", floor,
      options.from, options.from + options.count - 1, trials->list.size() - trials->failing,
      trials->list.size());
  if (made > 0)
    streams.out << fmt::format("; {:.1f} to {:.1f} % open, {:.1f} % on average", least * 100,
        most * 100, sum / static_cast<double>(made) * 100);
  streams.out << "\n";
  return code;
}

}  // namespace

void addSeeds(CLI::App& app, Action& action) {
  const auto options = std::make_shared<SeedsOptions>();
  options->recipe.addTo(app);
  app.add_option("--count", options->count, "how many seeds; default 100");
  app.add_option("--from", options->from, "the first seed, a whole number; default 1");
  app.add_flag("--all", options->all, "a line for every seed, not only for those that fail");
  app.callback([options, &action] {
    action = [options](Streams& streams) { return seeds(*options, streams); };
  });
}

}  // namespace acre::cli
