#include <fmt/format.h>

#include "base/seed.h"
#include "cli/common.h"
#include "recipe/level_recipe.h"
#include "recipe/validate.h"
#include "world/fingerprint.h"
#include "world/world.h"

namespace acre::cli {
namespace {

__extension__ using Wide = __int128;

struct InfoOptions {
  RecipeOptions recipe;
  std::string at;
  std::string chunk;
  std::string local;
  int64_t index = -1;
};

Json placeJson(const World& world, Cell cell) {
  const ChunkLayout& layout = world.layout();
  const ChunkPos chunk = layout.chunkOf(cell);
  const Cell local = layout.localOf(cell);
  const CellValue value = world.at(cell);
  return {{"cell", {cell.x, cell.z}},    {"chunk", {chunk.cx, chunk.cz}},
          {"local", {local.x, local.z}}, {"index", layout.indexOf(local)},
          {"height", value.height},      {"material", world.materialId(value.material)}};
}

int printPlace(const World& world, Cell cell, bool json, std::ostream& out) {
  const Json place = placeJson(world, cell);
  if (json) {
    out << place.dump(2) << "\n";
    return 0;
  }
  const auto pair = [](const Json& p) { return fmt::format("{},{}", p[0].dump(), p[1].dump()); };
  out << fmt::format("cell {} · chunk {} · local {} · index {} · height {} · {}\n",
                     pair(place["cell"]), pair(place["chunk"]), pair(place["local"]),
                     place["index"].dump(), world.at(cell).height,
                     place["material"].get<std::string>());
  return 0;
}

/// The cell that --chunk with --local or --index names.
Result<Cell> cellInChunk(const World& world, const InfoOptions& options) {
  const auto chunk = parsePair(options.chunk, "--chunk");
  if (!chunk) return chunk.error();
  const ChunkLayout& layout = world.layout();
  const int64_t side = layout.size();
  const int64_t farthest = kMaxCell / side - 1;
  const auto far = [&](int64_t c) { return c < -farthest || c > farthest; };
  if (far(chunk->x) || far(chunk->z))
    return Error{Error::Code::InvalidInput,
                 fmt::format("{} is beyond the last chunk", options.chunk), "--chunk",
                 fmt::format("{} to {}", -farthest, farthest)};
  Cell local;
  if (!options.local.empty()) {
    const auto given = parsePair(options.local, "--local");
    if (!given) return given.error();
    local = *given;
    if (local.x < 0 || local.z < 0 || local.x >= side || local.z >= side)
      return Error{Error::Code::InvalidInput, fmt::format("{} is not in a chunk", options.local),
                   "--local", fmt::format("0 to {} on both axes", side - 1)};
  } else {
    if (options.index < 0 || options.index >= side * side)
      return Error{Error::Code::InvalidInput,
                   options.index == -1 ? std::string("a place inside the chunk is missing")
                                       : fmt::format("{} is no running index", options.index),
                   "--index", fmt::format("0 to {}, or --local X,Z", side * side - 1)};
    local = layout.localAt(options.index);
  }
  return layout.cellOf({chunk->x, chunk->z}, local);
}

/// Cells and chunks of a bounded axis; nothing for an endless one.
struct AxisCount {
  int64_t cells;
  int64_t chunks;
};
std::optional<AxisCount> countAxis(const std::optional<AxisBounds>& axis, int32_t side) {
  if (!axis) return {};
  return AxisCount{axis->extent,
                   floorDiv(axis->min + axis->extent - 1, side) - floorDiv(axis->min, side) + 1};
}

std::string countText(std::optional<AxisCount> x, std::optional<AxisCount> z,
                      int64_t AxisCount::*what) {
  if (!x || !z) return "endless";
  return fmt::format("{}", static_cast<Wide>((*x).*what) * ((*z).*what));
}

int printInfo(const World& world, bool json, std::ostream& out) {
  const Recipe& recipe = world.recipe();
  const Frame& frame = recipe.frame;
  const auto x = countAxis(frame.x, frame.chunkSize), z = countAxis(frame.z, frame.chunkSize);
  const std::string cells = countText(x, z, &AxisCount::cells);
  const std::string chunks = countText(x, z, &AxisCount::chunks);
  const Range reach = possibleHeights(recipe);
  const int64_t layers = world.layout().highestChunk(0) - world.layout().lowestChunk(0) + 1;
  if (json) {
    const Json counts = {{"layers", recipe.heights.layers.size()},
                         {"bands", recipe.bands.size()},
                         {"materials", recipe.materials.size()}};
    const Json info = {{"name", recipe.name},
                       {"kind", kindName(frame.kind)},
                       {"seed", recipe.seed},
                       {"seedNumber", std::to_string(world.seed())},
                       {"generation", recipe.generation},
                       {"chunk", frame.chunkSize},
                       {"sea", world.seaLevel()},
                       {"cells", cells},
                       {"chunks", chunks},
                       {"worlds", "18446744073709551616"},
                       {"possibleHeights", {reach.low, reach.high}},
                       {"counts", counts},
                       {"recipe", recipeId(recipe).hex()},
                       {"fingerprint", worldFingerprint(world).hex()},
                       {"simd", world.kernels().name}};
    out << info.dump(2) << "\n";
    return 0;
  }
  out << fmt::format("{}: {}, seed {} (number {})\n", recipe.name, kindName(frame.kind),
                     recipe.seed, world.seed())
      << fmt::format("cells        {}\n", cells)
      << fmt::format("chunks       {} of {} x {} cells\n", chunks, frame.chunkSize, frame.chunkSize)
      << (frame.blocks()
              ? fmt::format("blocks       y {} to {}, {} chunk{} a column\n", frame.y.min,
                            frame.y.min + frame.y.extent - 1, layers, layers == 1 ? "" : "s")
              : std::string())
      << (frame.kind == WorldKind::Level
              ? fmt::format("floor        {} of {} to {}, {} processes, {} places\n",
                            recipe.level->floor, recipe.level->firstFloor, recipe.level->lastFloor,
                            recipe.level->processes.size(), recipe.level->places.size())
              : std::string())
      << fmt::format("sea level    {}\n", world.seaLevel())
      << fmt::format("heights      {} layers, could reach {:.6g} to {:.6g}\n",
                     recipe.heights.layers.size(), reach.low, reach.high)
      << fmt::format("bands        {}, of {} materials\n", recipe.bands.size(),
                     recipe.materials.size())
      << "worlds       2^64 = 18446744073709551616 seeds; two of n random ones are equal with odds "
         "of about n^2 in 2^65\n"
      << fmt::format("recipe       {}\n", recipeId(recipe).hex())
      << fmt::format("fingerprint  {}\n", worldFingerprint(world).hex());
  return 0;
}

Result<int> info(const InfoOptions& options, Streams& streams) {
  const auto loaded = load(options.recipe);
  if (!loaded) return loaded.error();
  const World& world = *loaded->world;
  if (!options.at.empty()) {
    const auto cell = parsePair(options.at, "--at");
    if (!cell) return cell.error();
    if (const Status fits = checkGrid({cell->x, cell->z, 1, 1, 1}); !fits)
      return Error{Error::Code::InvalidInput, fmt::format("{} is beyond the world", options.at),
                   "--at", "cells from -2^60 to 2^60"};
    return printPlace(world, *cell, options.recipe.json, streams.out);
  }
  if (!options.chunk.empty()) {
    const auto cell = cellInChunk(world, options);
    if (!cell) return cell.error();
    return printPlace(world, *cell, options.recipe.json, streams.out);
  }
  return printInfo(world, options.recipe.json, streams.out);
}

}  // namespace

void addInfo(CLI::App& app, Action& action) {
  const auto options = std::make_shared<InfoOptions>();
  options->recipe.addTo(app);
  auto* at =
      app.add_option("--at", options->at, "X,Z: chunk, local cell, index and value of a cell");
  auto* chunk = app.add_option("--chunk", options->chunk,
                               "CX,CZ: with --local or --index, the cell at a place of a chunk");
  auto* local = app.add_option("--local", options->local, "X,Z inside the chunk")->needs(chunk);
  app.add_option("--index", options->index, "Running index inside the chunk")
      ->needs(chunk)
      ->excludes(local);
  chunk->excludes(at);
  app.callback([options, &action] {
    action = [options](Streams& streams) { return info(*options, streams); };
  });
}

}  // namespace acre::cli
