#include <fmt/format.h>

#include "base/seed.h"
#include "cli/common.h"
#include "output/carried_recipe.h"
#include "output/map_writer.h"
#include "output/tile_art.h"
#include "recipe/level_recipe.h"

namespace acre::cli {
namespace {

constexpr double kContoursByZoom = -1;

struct MapOptions {
  RecipeOptions recipe;
  std::string centre = "0,0";
  std::string size = "1024x1024";
  int64_t step = 1;
  std::optional<int> zoom;
  std::string show = "composite";
  std::string format;
  std::string range;
  bool borders = false;
  bool comment = false;
  bool rivers = false;
  bool objects = false;
  double light = 315;
  double relief = Style::kRelief;
  int32_t calm = 1;
  double contours = 0;
  std::string out;
  std::optional<int64_t> y;
};

Result<MapFormat> formatOf(const MapOptions& options) {
  constexpr const char* kNames = "png, png16, csv, tif, pgm, raw, svg, geojson";
  if (!options.format.empty()) {
    if (const auto format = mapFormatNamed(options.format)) return *format;
    return Error{Error::Code::InvalidInput, fmt::format("\"{}\" is no format", options.format),
        "--format", kNames};
  }
  const std::string ending = std::filesystem::path(options.out).extension().string();
  if (const auto format = ending.empty() ? std::nullopt : mapFormatNamed(ending.substr(1)))
    return *format;
  return Error{Error::Code::InvalidInput, fmt::format("\"{}\" tells no format", options.out),
      "--out", "a name that ends in .png, .csv, .tif, .pgm, .raw, .svg or .geojson, or --format"};
}

/// A progress line on a terminal; nothing elsewhere.
std::function<void(double)> progressOf(Streams& streams) {
  if (!streams.progress) return {};
  return [&](double share) {
    streams.err << fmt::format("\r{:3.0f} %", share * 100) << (share >= 1 ? "\r      \r" : "")
                << std::flush;
  };
}

Result<int> tileMap(const MapOptions& options, MapFormat format, Streams& streams) {
  if (format != MapFormat::Png8)
    return Error{
        Error::Code::InvalidInput, "tiles are a picture", "--out", "a name that ends in .png"};
  if (options.step != 1)
    return Error{Error::Code::InvalidInput, fmt::format("{} cells a step", options.step), "--step",
        "1: tiles lie in every cell"};
  const auto centre = parsePair(options.centre, "--centre");
  if (!centre) return centre.error();
  const auto size = parseSize(options.size, "--size", TileMapRequest::kLongestSide);
  if (!size) return size.error();
  const auto loaded = load(options.recipe);
  if (!loaded) return loaded.error();
  const World& world = *loaded->world;
  TileMapRequest request;
  const auto [width, length] = *size;
  // In side worlds the second number is a level, and north is up.
  const bool side = planOf(world).recipe().frame.kind == WorldKind::Side;
  request.cells = {
      centre->x - width / 2, (side ? -centre->z : centre->z) - length / 2, width, length};
  request.look.zoom = options.zoom.value_or(request.look.zoom);
  request.threads = options.recipe.threadCount();
  request.progress = progressOf(streams);
  const SampleGrid grid{request.cells.x, request.cells.z, 1, width, length};
  TextPairs texts = originTexts(world, grid, "tiles");
  texts.emplace_back(kRecipeText, recipeToJson(planOf(world).recipe()));
  texts.emplace_back("Pixels per cell", fmt::format("{}", request.look.zoom));
  if (const Status written = writeTileMap(world, request, options.out, texts); !written)
    return written.error();
  if (options.recipe.json) {
    streams.out << Json{{"file", options.out}, {"show", "tiles"},
                       {"first", {request.cells.x, request.cells.z}}, {"size", {width, length}},
                       {"zoom", request.look.zoom}, {"seed", planOf(world).recipe().seed},
                       {"recipe", recipeId(planOf(world).recipe()).hex()}}
                       .dump(2)
                << "\n";
    return 0;
  }
  streams.out << fmt::format("{}: {} x {} cells from {},{}, {} pixels each, seed {}\n", options.out,
      width, length, request.cells.x, request.cells.z, request.look.zoom,
      planOf(world).recipe().seed);
  return 0;
}

Result<int> map(const MapOptions& options, Streams& streams) {
  const auto format = formatOf(options);
  if (!format) return format.error();
  if (options.show == "tiles") return tileMap(options, *format, streams);
  if (options.zoom)
    return Error{Error::Code::InvalidInput, "only tiles are enlarged", "--zoom", "--show tiles"};
  const auto show = pictureNamed(options.y ? fmt::format("slice:{}", *options.y) : options.show);
  if (!show) {
    Error error = show.error();
    error.accepted += ", tiles";
    return error;
  }
  const auto centre = parsePair(options.centre, "--centre");
  if (!centre) return centre.error();
  const auto size = parseSize(options.size, "--size", MapRequest::kLongestSide);
  if (!size) return size.error();
  if (options.step < 1 || options.step > SampleGrid::kMaxStep)
    return Error{
        Error::Code::InvalidInput, fmt::format("{} cells", options.step), "--step", "1 to 2^40"};
  MapRequest request;
  request.format = *format;
  request.show = *show;
  // Formats of numbers show heights unless told otherwise.
  if (*format != MapFormat::Png8 && options.show == "composite")
    request.show.kind = PictureKind::Height;
  request.show.borders = options.borders;
  request.comment = options.comment;
  request.rivers = options.rivers;
  request.objects = options.objects;
  request.style.light = options.light;
  request.style.relief = options.relief;
  request.calm = options.calm;
  request.style.contours = options.contours;
  if (!options.range.empty()) {
    const auto range = parseRange(options.range, "--range");
    if (!range) return range.error();
    request.range = *range;
  }
  const auto [width, height] = *size;
  if (centre->x < -kMaxCell || centre->x > kMaxCell || centre->z < -kMaxCell ||
      centre->z > kMaxCell)
    return Error{Error::Code::InvalidInput, fmt::format("{} is beyond the world", options.centre),
        "--centre", "cells from -2^60 to 2^60"};
  request.grid = {centre->x - width / 2 * options.step, centre->z - height / 2 * options.step,
      options.step, width, height};

  const auto loaded = load(options.recipe);
  if (!loaded) return loaded.error();
  if (options.contours == kContoursByZoom)
    request.style.contours =
        GroundScale(loaded->world).contourInterval(static_cast<double>(options.step));
  request.threads = options.recipe.threadCount();
  request.progress = progressOf(streams);
  const auto report = writeMap(*loaded->world, request, options.out);
  if (!report) return report.error();
  const World& world = *loaded->world;
  if (options.recipe.json) {
    Json result = {{"file", options.out}, {"show", nameOf(request.show)},
        {"first", {request.grid.x, request.grid.z}}, {"size", {width, height}},
        {"step", options.step}, {"seed", planOf(world).recipe().seed},
        {"recipe", recipeId(planOf(world).recipe()).hex()}, {"simd", planOf(world).kernels().name},
        {"threads", request.threads}, {"cells", report->cells},
        {"generateSeconds", report->generateSeconds}, {"writeSeconds", report->writeSeconds}};
    if (const auto rough = planOf(world).approximations(options.step); !rough.empty())
      result["approximate"] = rough;
    if (report->low < report->high) result["range"] = {report->low, report->high};
    if (isLines(request.format)) result["lines"] = report->lines;
    if (request.rivers) result["rivers"] = report->rivers;
    if (request.objects) result["objects"] = report->objects;
    streams.out << result.dump(2) << "\n";
    return 0;
  }
  streams.out << fmt::format("{}: {} x {} cells in steps of {} from {},{} (around {}), seed {}\n",
      options.out, width, height, options.step, request.grid.x, request.grid.z, options.centre,
      planOf(world).recipe().seed);
  if (isLines(request.format)) streams.out << fmt::format("{} lines", report->lines);
  if (request.rivers) streams.out << fmt::format(", {} rivers", report->rivers);
  if (isLines(request.format) && request.objects)
    streams.out << fmt::format(", {} objects", report->objects);
  if (isLines(request.format)) streams.out << "\n";
  if (!isLines(request.format) && request.objects)
    streams.out << fmt::format("{} objects\n", report->objects);
  for (const std::string& what : planOf(world).approximations(options.step))
    streams.out << fmt::format("approximate at this step: {}\n", what);
  if (report->low < report->high)
    streams.out << fmt::format("0 is height {}, 65535 is height {}\n", report->low, report->high);
  streams.out << fmt::format("generated in {:.3f} s, written in {:.3f} s\n",
      report->generateSeconds, report->writeSeconds);
  return 0;
}

}  // namespace

void addMap(CLI::App& app, Action& action) {
  const auto options = std::make_shared<MapOptions>();
  options->recipe.addTo(app);
  app.add_option("--centre", options->centre,
      "X,Z: the cell in the middle; of tiles of side worlds X,Y; default 0,0");
  app.add_option("--size", options->size, "WxH in pixels, one cell each; default 1024x1024");
  app.add_option("--step", options->step, "Cells from one pixel to the next; default 1");
  app.add_option(
      "--show", options->show, std::string(kPictureNames) + ", tiles; default composite");
  app.add_option("--zoom", options->zoom, "With --show tiles: pixels a cell; default 16")
      ->check(CLI::Range(1, TileMapLook::kMostZoom));
  app.add_option("--y", options->y, "Level to slice at: the same as --show slice:Y");
  app.add_flag("--borders", options->borders, "Draw the borders of biomes as lines");
  app.add_option(
         "--out", options->out, "File to write: .png, .csv, .tif, .pgm, .raw, .svg or .geojson")
      ->required();
  app.add_option("--format", options->format,
      "png, png16 (16 bits), csv, tif (32-bit float), pgm (16 bits), raw (32-bit float and "
      "FILE.json), svg or geojson (lines); default: by the ending");
  app.add_option(
         "--contours", options->contours, "Altitude between contour lines; zoom: as suits the step")
      ->transform(CLI::Transformer(
          std::map<std::string, std::string>{{"zoom", fmt::format("{}", kContoursByZoom)}}));
  app.add_flag("--rivers", options->rivers, "In .svg and .geojson: the middles of rivers as lines");
  app.add_flag("--objects", options->objects,
      "Signs of objects, up to 4 cells a pixel; in .svg and .geojson points");
  app.add_option("--light", options->light,
         "Degrees clockwise from north that the relief is lit from; default 315")
      ->check(CLI::Range(-360.0, 360.0));
  app.add_option("--relief", options->relief,
         "How strongly slopes are lit, 0 (not at all) to 1; default 0.8")
      ->check(CLI::Range(0.0, 1.0));
  app.add_option("--calm", options->calm,
      "1 to 4: in .png average the colours of so many cells a side of every pixel");
  app.add_option("--range", options->range,
      "LOW,HIGH: heights that 0 and 65535 stand for in a 16-bit picture");
  app.add_flag("--comment", options->comment,
      "In .csv: lines with the first cell, the step and the world before the rows");
  options->recipe.outputs = [options = options.get()]() -> std::vector<std::filesystem::path> {
    const auto format = formatOf(*options);
    if (format && *format == MapFormat::Raw) return {options->out, options->out + ".json"};
    return {options->out};
  };
  app.callback([options, &action] {
    action = [options](Streams& streams) { return map(*options, streams); };
  });
}

}  // namespace acre::cli
