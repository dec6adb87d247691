#include <fmt/format.h>

#include <algorithm>

#include "audit/tile_figures.h"
#include "audit/tile_sets.h"
#include "cli/common.h"
#include "output/tile_sheet.h"
#include "recipe/describe.h"
#include "world/world.h"

namespace acre::cli {
namespace {

struct TilesOptions {
  RecipeOptions recipe;
  std::string set;
  std::string out;
  std::string recognise;
  int columns = 8;
  int zoom = 1;
  bool cases = false, dots = false, margin = false;
  std::string area;
};

Result<size_t> placeOf(const Tiling& tiling, const std::string& id) {
  std::string known;
  for (size_t n = 0; n < tiling.sets.size(); ++n) {
    if (tiling.sets[n].id == id || id.empty()) return n;
    known += (known.empty() ? "" : ", ") + tiling.sets[n].id;
  }
  if (tiling.sets.empty())
    return invalidInput("this world has no sets of tiles", "recipe", "one with /tiles/sets");
  return invalidInput(fmt::format("there is no set \"{:.80}\"", id), "set", known);
}

/// The order of a picture's tiles, from what they show.
Result<int> recognise(const TilesOptions& options, const TileSet& set, Streams& streams) {
  const auto tiles = tilesIn(options.recognise, {}, options.columns, "--recognise");
  if (!tiles) return tiles.error();
  const int variants = mostVariants(set);
  const auto guesses = guessed(*tiles, set.method, variants);
  const auto order = orderOf(guesses, set.method, set.turns, variants);
  std::vector<size_t> unsure;
  for (size_t n = 0; n < guesses.size(); ++n)
    if (guesses[n] && !guesses[n]->sure) unsure.push_back(n);
  if (options.recipe.json) {
    Json cases = Json::array();
    for (const auto& guess : guesses) cases.push_back(guess ? Json(guess->number) : Json());
    streams.out
        << Json{{"size", tiles->size}, {"cases", cases}, {"order", order}, {"unsure", unsure}}.dump(
               2)
        << "\n";
    return unsure.empty() ? 0 : 1;
  }
  streams.out << fmt::format(
      "{} tiles of {} pixels, {} unsure\n", guesses.size(), tiles->size, unsure.size());
  for (size_t n = 0; n < guesses.size(); ++n)
    if (guesses[n])
      streams.out << fmt::format(
          "place {:>3}: case {}{}\n", n, guesses[n]->number, guesses[n]->sure ? "" : "  (unsure)");
  return unsure.empty() ? 0 : 1;
}

Json reportJson(const TileSetReport& report) {
  Json out = {{"missing", report.missing}, {"doubles", report.doubles}, {"odd", report.odd},
      {"idle", report.idle}, {"openRims", report.rims.size()}};
  for (const TileVariantFault& one : report.variants)
    out["variants"].push_back(
        {{"case", one.number}, {"variant", one.variant}, {"pixels", one.pixels}});
  for (const TileOffender& one : report.offenders)
    out["offenders"].push_back({{"case", one.number}, {"faults", one.faults}, {"rims", one.rims},
        {"pixels", one.worst.pixels}, {"from", one.worst.at}});
  return out;
}

/// How often each case of the set's groups occurs.
Status tellCounts(const TilesOptions& options, const World& world, const TileSet& set, Json& json,
    std::string& words) {
  const auto area = options.area.empty() ? Result<Rect>(Rect{-256, -256, 512, 512})
                                         : parseArea(options.area, "--area");
  if (!area) return area.error();
  const auto arts = TileArts::of(world);
  if (!arts) return arts.error();
  constexpr int64_t kMost = 4096;
  if (area->width > kMost || area->length > kMost)
    return invalidInput(
        fmt::format("{} x {} cells", area->width, area->length), "--area", "at most 4096 a side");
  const auto found = tileFigures(world, &*arts, *area);
  if (!found) return cancelled();
  for (const TileGroupFigures& of : found->groups) {
    if (of.set != set.id) continue;
    Json counts = Json::object();
    words += fmt::format("group {}: {} tiles", of.group, of.tiles);
    if (of.ambiguous) words += fmt::format(", {} ambiguous", of.ambiguous);
    if (of.unmatched) words += fmt::format(", {} without a picture", of.unmatched);
    if (of.hidden) words += fmt::format(", {} hidden by later groups", of.hidden);
    words += "\n";
    for (const int n : of.byFrequency()) {
      const auto k = static_cast<size_t>(n);
      counts[std::to_string(n)] = of.cases[k];
      words += fmt::format(
          "  case {:>2}: {:>8}  first at {},{}\n", n, of.cases[k], of.first[k]->x, of.first[k]->z);
    }
    json["groups"].push_back({{"group", of.group}, {"tiles", of.tiles}, {"ambiguous", of.ambiguous},
        {"unmatched", of.unmatched}, {"hidden", of.hidden}, {"cases", counts}});
  }
  return done();
}

Result<int> tiles(const TilesOptions& options, Streams& streams) {
  const auto loaded = load(options.recipe);
  if (!loaded) return loaded.error();
  const World& world = *loaded->world;
  const Recipe& recipe = planOf(world).recipe();
  const auto place = placeOf(*recipe.tiles, options.set);
  if (!place) return place.error();
  const TileSet& set = recipe.tiles->sets[*place];
  if (!options.recognise.empty()) return recognise(options, set, streams);
  const auto art = tileArtOf(set, recipe.folder, fmt::format("/tiles/sets/{}", *place));
  if (!art) return art.error();
  if (!options.out.empty()) {
    if (std::filesystem::path(options.out).extension() != ".png")
      return invalidInput(
          fmt::format("\"{}\" tells no format", options.out), "--out", "a name that ends in .png");
    const RgbaPicture sheet = tileSheet(
        set, *art, {options.columns, options.zoom, options.margin, options.dots, options.cases});
    if (const Status written = writeRgba(sheet, options.out); !written) return written.error();
  }
  const TileSetReport report = reportOn(set, *art);
  const TileCases cases(set.method, set.turns);
  Json json = {{"set", set.id}, {"method", wordsOf(set.method)[static_cast<size_t>(set.method)]},
      {"cases", cases.count()}, {"drawings", cases.drawings()}, {"size", art->size},
      {"report", reportJson(report)}};
  std::string words;
  if (const Status told = tellCounts(options, world, set, json, words); !told) return told.error();
  if (!options.out.empty()) json["file"] = options.out;
  if (options.recipe.json) {
    streams.out << json.dump(2) << "\n";
    return report.good() ? 0 : 1;
  }
  streams.out << fmt::format("{}: {} cases, {} drawings of {} pixels\n", set.id, cases.count(),
      cases.drawings(), art->size);
  for (const std::string& sentence : sentencesOf(report)) streams.out << sentence << "\n";
  if (report.rims.empty() && report.variants.empty()) streams.out << "all rims meet\n";
  streams.out << words;
  return report.good() ? 0 : 1;
}

}  // namespace

void addTiles(CLI::App& app, Action& action) {
  const auto options = std::make_shared<TilesOptions>();
  options->recipe.addTo(app);
  app.add_option("set", options->set, "Id of the set; default: the recipe's first");
  app.add_option("--out", options->out,
      "PNG to write: the set's pictures in the order in which a "
      "picture of tiles is read, to be painted over");
  app.add_flag("--cases", options->cases, "In --out: every case as it is laid, turned ones too");
  app.add_flag("--dots", options->dots, "In --out: what each looks at, as dots");
  app.add_flag("--margin", options->margin, "In --out: a margin with each case's number");
  app.add_option("--zoom", options->zoom, "In --out: pixels for each of a tile's; default 1")
      ->check(CLI::Range(1, 32));
  app.add_option("--columns", options->columns,
         "Tiles side by side, in --out and --recognise; "
         "default 8")
      ->check(CLI::Range(1, 1024));
  app.add_option("--recognise", options->recognise,
      "PNG of tiles: tell which case each shows, by its rims and corners");
  app.add_option(
      "--area", options->area, "X0,Z0,WxH: where cases are counted; default -256,-256,512x512");
  options->recipe.inputs = [options = options.get()]() -> std::vector<std::filesystem::path> {
    if (options->recognise.empty()) return {};
    return {options->recognise};
  };
  options->recipe.outputs = [options = options.get()]() -> std::vector<std::filesystem::path> {
    if (options->out.empty()) return {};
    return {options->out};
  };
  app.callback([options, &action] {
    action = [options](Streams& streams) { return tiles(*options, streams); };
  });
}

}  // namespace acre::cli
