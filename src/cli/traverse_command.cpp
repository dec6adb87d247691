#include <fmt/format.h>

#include <algorithm>
#include <charconv>

#include "base/atomic_file.h"
#include "cli/common.h"
#include "output/traverse_text.h"
#include "world/world.h"

namespace acre::cli {
namespace {

struct TraverseOptions {
  RecipeOptions recipe;
  std::string route = "straight";
  std::string start = "0,0";
  double speed = 1200;
  double seconds = 60;
  double frames = 60;
  bool fast = false;
  std::string threads;
  int64_t view = 384;
  std::optional<int64_t> ahead, lead, margin, collision, objects;
  int levels = 1;
  int64_t detail = 256;
  double cache = 64;
  double memory = 1024;
  uint64_t take = 256;
  std::optional<int32_t> chunk;
  std::vector<std::string> against;
  std::string csv, out;
};

template <class T>
bool numberIn(const std::string& text, T& value) {
  const char* const end = text.data() + text.size();
  const auto [at, fault] = std::from_chars(text.data(), end, value);
  return fault == std::errc() && at == end;
}

/// Sets what one "KEY=VALUE" of column B says.
Status change(TraverseOptions& o, const std::string& text) {
  const size_t equals = text.find('=');
  const std::string key = text.substr(0, equals);
  const std::string value = equals == std::string::npos ? "" : text.substr(equals + 1);
  int64_t whole = 0;
  const auto toWhole = [&](auto& to) {
    if (!numberIn(value, whole)) return false;
    to = static_cast<std::decay_t<decltype(to)>>(whole);
    return true;
  };
  bool known = true;
  if (key == "threads")
    o.threads = value, known = numberIn(value, whole);
  else if (key == "chunk")
    known = numberIn(value, whole) && whole >= 1 && whole <= 1024,
    o.chunk = static_cast<int32_t>(whole);
  else if (key == "view")
    known = toWhole(o.view);
  else if (key == "ahead")
    known = numberIn(value, whole), o.ahead = whole;
  else if (key == "lead")
    known = numberIn(value, whole), o.lead = whole;
  else if (key == "margin")
    known = numberIn(value, whole), o.margin = whole;
  else if (key == "collision")
    known = numberIn(value, whole), o.collision = whole;
  else if (key == "objects")
    known = numberIn(value, whole), o.objects = whole;
  else if (key == "levels")
    known = toWhole(o.levels);
  else if (key == "detail")
    known = toWhole(o.detail);
  else if (key == "take")
    known = toWhole(o.take);
  else if (key == "cache")
    known = numberIn(value, o.cache);
  else if (key == "memory")
    known = numberIn(value, o.memory);
  else if (key == "speed")
    known = numberIn(value, o.speed);
  else
    known = false;
  if (known) return done();
  return invalidInput(fmt::format("\"{:.80}\"", text), "--against",
      "KEY=NUMBER with chunk (1 to 1024), threads, view, ahead, lead, margin, "
      "collision, objects, levels, detail, cache, memory, take or speed");
}

Result<TraverseColumn> columnOf(
    const TraverseOptions& o, const char* name, const Loaded& loaded, const Route& route) {
  const World& world = *loaded.world;
  TraverseColumn column;
  column.name = name;
  column.chunkSize = planOf(world).layout().size();
  TraverseSettings& s = column.settings;
  s.route = route;
  s.speed = o.speed;
  s.seconds = o.seconds;
  s.framesPerSecond = o.frames;
  s.realTime = !o.fast;
  s.threads = std::max(1u, std::thread::hardware_concurrency());
  if (!o.threads.empty() && (!numberIn(o.threads, s.threads) || s.threads > 256))
    return invalidInput(fmt::format("\"{:.40}\" threads", o.threads), "--threads", "0 to 256");
  s.stream = StreamSettings::moving(o.view, column.chunkSize, o.speed);
  if (o.ahead) s.stream.ahead = *o.ahead;
  if (o.lead) s.stream.lead = *o.lead;
  if (o.margin) s.stream.margin = *o.margin;
  s.stream.levels = o.levels;
  s.stream.detail = o.detail;
  const auto bytes = [](double mebibytes, const char* option) -> Result<uint64_t> {
    if (!(mebibytes >= 0 && mebibytes <= 1 << 20))
      return invalidInput(fmt::format("{} MiB", mebibytes), option, "0 to 1048576");
    return static_cast<uint64_t>(mebibytes * (1 << 20));
  };
  const auto cache = bytes(o.cache, "--cache"), memory = bytes(o.memory, "--memory");
  if (!cache) return cache.error();
  if (!memory) return memory.error();
  s.stream.cacheBytes = *cache;
  s.memoryLimit = *memory;
  s.takePerFrame = o.take;
  for (const auto& [radius, option] :
      {std::pair(&o.collision, "--collision"), {&o.objects, "--objects"}})
    if (*radius && (**radius < 0 || **radius > o.view))
      return invalidInput(fmt::format("{} cells", **radius), option,
          fmt::format("0 to {}, the view distance", o.view));
  if (o.objects && !world.objects().any())
    return invalidInput("this world has no objects", "--objects", "a recipe with kinds of objects");
  addExtras(loaded.world, o.collision.value_or(-1), o.objects.value_or(-1), s);
  if (const Status fits = checkTraverse(planOf(world), s); !fits) return fits.error();
  return column;
}

std::string tableOf(const std::vector<TraverseColumn>& columns) {
  std::string text;
  const auto settings = traverseSettingsText(columns);
  for (size_t i = 0; i < columns.size(); ++i)
    text +=
        fmt::format("{}: {}\n   {}\n", columns[i].name, settings[i], verdictOf(columns[i].report));
  for (const TraverseFigure& figure : traverseFigures(columns)) {
    text += fmt::format("{:<30}", figure.name);
    for (const double value : figure.values) text += fmt::format(" {:>12}", figureText(value));
    text += figure.unit.empty() ? "\n" : " " + figure.unit + "\n";
  }
  for (const TraverseColumn& c : columns)
    for (size_t i = 0; i < c.report.failures.size() && i < 5; ++i)
      text += fmt::format("{}: {}\n", c.name, c.report.failures[i].error.text());
  return text;
}

/// FILE.csv, or FILE-RUN.csv of one of two runs.
std::filesystem::path csvOf(std::filesystem::path file, const std::string& run) {
  if (run.empty()) return file;
  return file.replace_filename(file.stem().string() + "-" + run + file.extension().string());
}

std::vector<std::filesystem::path> outputsOf(const TraverseOptions& options) {
  std::vector<std::filesystem::path> out;
  if (!options.out.empty()) out.push_back(options.out);
  if (!options.csv.empty() && options.against.empty()) out.push_back(options.csv);
  if (!options.csv.empty() && !options.against.empty())
    for (const char* run : {"A", "B"}) out.push_back(csvOf(options.csv, run));
  return out;
}

Result<int> traverse(const TraverseOptions& options, Streams& streams) {
  auto route = routeNamed(options.route);
  if (!route) return route.error();
  const auto start = parsePair(options.start, "--start");
  if (!start) return start.error();
  if (route->kind != RouteKind::Points) route->start = *start;
  std::vector<TraverseOptions> asked{options};
  if (!options.against.empty()) {
    asked.push_back(options);
    for (const std::string& text : options.against)
      if (const Status set = change(asked[1], text); !set) return set.error();
  }
  std::vector<std::pair<Loaded, TraverseColumn>> runs;
  for (size_t i = 0; i < asked.size(); ++i) {
    RecipeOptions recipe = options.recipe;
    if (asked[i].chunk) recipe.sets.push_back(fmt::format("/frame/chunk={}", *asked[i].chunk));
    auto loaded = load(recipe);
    if (!loaded) return loaded.error();
    auto column = columnOf(asked[i], i == 0 ? "A" : "B", *loaded, *route);
    if (!column) return column.error();
    runs.emplace_back(std::move(*loaded), std::move(*column));
  }
  std::vector<TraverseColumn> columns;
  for (auto& [loaded, column] : runs) {
    double told = -1;
    column.report =
        runTraverse(planOf(loaded.world), column.settings, {}, [&](const TraverseMoment& moment) {
          if (!streams.progress || moment.frame.seconds - told < 1) return;
          told = moment.frame.seconds;
          streams.err << fmt::format("\r{}  {:.0f} s  {} of {} loaded, {} missing   ", column.name,
                             told, moment.frame.loaded, moment.frame.needed, moment.frame.missing)
                      << std::flush;
        });
    if (streams.progress) streams.err << "\r" << std::string(60, ' ') << "\r";
    columns.push_back(std::move(column));
  }
  if (!options.csv.empty())
    for (const TraverseColumn& c : columns) {
      const auto file = csvOf(options.csv, columns.size() > 1 ? c.name : "");
      if (const Status written = writeFile(file, traverseCsv(c.report)); !written)
        return written.error();
    }
  if (!options.out.empty())
    if (const Status written = writeFile(options.out, traverseJson(columns, true)); !written)
      return written.error();
  streams.out << (options.recipe.json ? traverseJson(columns, false) : tableOf(columns));
  const bool failed = std::any_of(columns.begin(), columns.end(),
      [](const TraverseColumn& c) { return !c.report.failures.empty(); });
  return failed ? 1 : 0;
}

}  // namespace

void addTraverse(CLI::App& app, Action& action) {
  const auto options = std::make_shared<TraverseOptions>();
  TraverseOptions& o = *options;
  o.recipe.addTo(app);
  app.remove_option(app.get_option("--threads"));
  app.add_option(
      "--threads", o.threads, "Worker threads, 0 to 256; 0: the owner makes the chunks itself");
  app.add_option("--route", o.route,
      "straight, zigzag, circle, teleports, or a file {\"points\": [[x, z], ...]}");
  app.add_option("--start", o.start, "X,Z: where a built-in route begins; default 0,0");
  app.add_option("--speed", o.speed, "Cells a second; default 1200");
  app.add_option("--seconds", o.seconds, "Length of the route in time; default 60");
  app.add_option("--frames", o.frames, "Frames a second; default 60");
  app.add_flag("--fast", o.fast, "As fast as possible: each frame waits for all that it needs");
  app.add_option("--view", o.view, "View distance in cells, 0 to 65536; default 384");
  app.add_option("--ahead", o.ahead, "So much farther is loaded; default 4 chunks of up to 32");
  app.add_option("--lead", o.lead,
      "And so much farther in the direction of travel; default half a second's way");
  app.add_option(
      "--margin", o.margin, "So much farther still is kept; default 2 chunks of up to 32");
  app.add_option("--collision", o.collision,
      "Where one can walk is made within so many cells too, with waits of its own");
  app.add_option("--objects", o.objects,
      "What stands there is handed over within so many cells too, with waits of its own");
  app.add_option("--levels", o.levels, "Detail levels, 1 to 9; default 1");
  app.add_option("--detail", o.detail, "Where the second level begins, in cells; default 256");
  app.add_option("--cache", o.cache, "MiB for chunks that were let go; default 64");
  app.add_option("--memory", o.memory, "MiB for all; default 1024");
  app.add_option("--take", o.take, "Most chunks taken in one frame; default 256");
  app.add_option("--chunk", o.chunk, "Another chunk size, 1 to 1024")->check(CLI::Range(1, 1024));
  app.add_option("--against", o.against,
         "KEY=NUMBER: run a second time with this changed, side by side; may be repeated")
      ->expected(1)
      ->allow_extra_args(false)
      ->multi_option_policy(CLI::MultiOptionPolicy::TakeAll);
  app.add_option("--csv", o.csv, "Write a row per frame to this file (-A and -B when two runs)");
  app.add_option("--out", o.out, "Write everything as JSON to this file");
  o.recipe.outputs = [&o] { return outputsOf(o); };
  o.recipe.inputs = [&o]() -> std::vector<std::filesystem::path> {
    std::error_code none;
    if (!std::filesystem::is_regular_file(o.route, none)) return {};
    return {o.route};
  };
  app.callback([options, &action] {
    action = [options](Streams& streams) { return traverse(*options, streams); };
  });
}

}  // namespace acre::cli
