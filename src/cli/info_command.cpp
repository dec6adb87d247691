#include <fmt/format.h>

#include "base/seed.h"
#include "cli/common.h"
#include "recipe/level_recipe.h"
#include "recipe/validate.h"
#include "world/block_value.h"
#include "world/fingerprint.h"
#include "world/world.h"

namespace acre::cli {
namespace {

__extension__ using Wide = __int128;

struct InfoOptions {
  RecipeOptions recipe;
  std::string at;
  std::optional<int64_t> y;
  std::string chunk;
  std::string local;
  int64_t index = -1;
};

Json placeJson(const World& world, Cell cell) {
  const ChunkLayout& layout = world.layout();
  const ChunkPos chunk = layout.chunkOf(cell);
  const Cell local = layout.localOf(cell);
  const CellValue value = world.at(cell);
  return {{"cell", {cell.x, cell.z}}, {"chunk", {chunk.cx, chunk.cz}},
      {"local", {local.x, local.z}}, {"index", layout.indexOf(local)}, {"height", value.height},
      {"material", world.catalogue().materialId(value.material)}};
}

int printPlace(const World& world, Cell cell, bool json, std::ostream& out) {
  const Json place = placeJson(world, cell);
  if (json) {
    out << place.dump(2) << "\n";
    return 0;
  }
  const auto pair = [](const Json& p) { return fmt::format("{},{}", p[0].dump(), p[1].dump()); };
  out << fmt::format("cell {} · chunk {} · local {} · index {} · height {} · {}\n",
      pair(place["cell"]), pair(place["chunk"]), pair(place["local"]), place["index"].dump(),
      world.at(cell).height, place["material"].get<std::string>());
  return 0;
}

// ---- blocks ------------------------------------------------------------------------------------

/// Numbers in the order that the world's chunks are named by: x, y, z, or x, y in side worlds.
Json inOrder(const World& world, int64_t x, int64_t y, int64_t z) {
  return world.layout().vertical().plane ? Json{x, y} : Json{x, y, z};
}

/// A block's place both ways: in the world, and in its chunk, whose blocks run along x, then z,
/// then up from the chunk's lowest level.
struct BlockPlace {
  int64_t x, y, z;
};

int printBlock(const World& world, const BlockPlace& at, bool json, std::ostream& out) {
  const ChunkLayout& layout = world.layout();
  const bool plane = layout.vertical().plane;
  ChunkPos chunk = layout.chunkOf({at.x, at.z});
  chunk.cy = layout.chunkOfLevel(at.y, 0);
  if (plane) chunk.cz = 0;
  const Cell local = layout.localOf({at.x, at.z});
  const int64_t side = layout.size(), deep = plane ? 1 : side;
  const int64_t up = at.y - layout.levelsOf(chunk).first;
  const int64_t index = (up * deep + (plane ? 0 : local.z)) * side + local.x;
  const std::string material =
      world.catalogue().materialId(world.blockAt({at.x, at.z}, at.y).material);
  if (json) {
    Json place = {{"block", {at.x, at.y, at.z}}};
    place["chunk"] = layout.vertical().tall ? inOrder(world, chunk.cx, chunk.cy, chunk.cz)
                                            : Json{chunk.cx, chunk.cz};
    place["local"] = inOrder(world, local.x, up, local.z);
    place["index"] = index;
    place["up"] = "+y";
    place["material"] = material;
    out << place.dump(2) << "\n";
    return 0;
  }
  out << fmt::format(
      "block x {}, y {}, z {} (y grows upward) · chunk {} · local {} · index {} · {}\n", at.x, at.y,
      at.z, chunkText(layout, chunk),
      plane ? fmt::format("{},{}", local.x, up) : fmt::format("{},{},{}", local.x, up, local.z),
      index, material);
  return 0;
}

Result<BlockPlace> blockAt(const World& world, const InfoOptions& options) {
  const auto cell = parseColumn(options.at, "--at", "--y");
  if (!cell) return cell.error();
  const AxisBounds range = world.vertical();
  if (!world.blocks())
    return invalidInput("a world of tiles has no levels", "--y", "--at X,Z alone");
  if (*options.y < range.min || *options.y >= range.min + range.extent)
    return invalidInput(fmt::format("level {} is outside the world", *options.y), "--y",
        fmt::format("{} to {}", range.min, range.min + range.extent - 1));
  return BlockPlace{cell->x, *options.y, cell->z};
}

/// The block that --chunk with --local or --index names.
Result<BlockPlace> blockInChunk(const World& world, const InfoOptions& options) {
  const ChunkLayout& layout = world.layout();
  const bool plane = layout.vertical().plane;
  const auto chunk = parseChunk(options.chunk, "--chunk", layout);
  if (!chunk) return chunk.error();
  const int64_t side = layout.size(), deep = plane ? 1 : side;
  const int64_t farthest = kMaxCell / side - 1;
  if (std::max({chunk->cx, chunk->cz, chunk->cy}) > farthest ||
      std::min({chunk->cx, chunk->cz, chunk->cy}) < -farthest)
    return invalidInput(fmt::format("{} is beyond the last chunk", options.chunk), "--chunk",
        fmt::format("{} to {}", -farthest, farthest));
  const BlockLevels levels = layout.levelsOf(*chunk);
  const int64_t tall = levels.count;
  if (tall == 0)
    return invalidInput(fmt::format("chunk {} is above or below the world", options.chunk),
        "--chunk", fmt::format("CY from {} to {}", layout.lowestChunk(0), layout.highestChunk(0)));
  BlockPlace local{0, 0, 0};
  if (!options.local.empty()) {
    const auto numbers = wholeNumbers(options.local);
    if (!numbers || numbers->size() != (plane ? 2u : 3u))
      return invalidInput(fmt::format("\"{:.80}\" is no place in a chunk", options.local),
          "--local", plane ? "X,Y: two whole numbers" : "X,Y,Z: three whole numbers");
    local = {(*numbers)[0], (*numbers)[1], plane ? 0 : (*numbers)[2]};
  } else if (options.index >= 0) {
    local = {options.index % side, options.index / side / deep, options.index / side % deep};
  } else {
    local.x = -1;
  }
  if (local.x < 0 || local.x >= side || local.y < 0 || local.y >= tall || local.z < 0 ||
      local.z >= deep)
    return invalidInput(
        options.local.empty() && options.index < 0
            ? std::string("a place inside the chunk is missing")
            : fmt::format("{} is not in the chunk",
                  options.local.empty() ? std::to_string(options.index) : options.local),
        options.local.empty() ? "--index" : "--local",
        fmt::format("x 0 to {}, y 0 to {}, z 0 to {}: --local, or an --index up to {}", side - 1,
            tall - 1, deep - 1, side * tall * deep - 1));
  const Cell base = layout.cellOf({chunk->cx, chunk->cz}, {local.x, local.z});
  return BlockPlace{base.x, levels.first + local.y, base.z};
}

// ---- tiles -------------------------------------------------------------------------------------

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
  return AxisCount{
      axis->extent, floorDiv(axis->min + axis->extent - 1, side) - floorDiv(axis->min, side) + 1};
}

std::string countText(
    std::optional<AxisCount> x, std::optional<AxisCount> z, int64_t AxisCount::*what) {
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
    const Json counts = {{"layers", recipe.heights.layers.size()}, {"bands", recipe.bands.size()},
        {"materials", recipe.materials.size()}};
    const Json info = {{"name", recipe.name}, {"kind", kindName(frame.kind)}, {"seed", recipe.seed},
        {"seedNumber", std::to_string(world.seed())}, {"generation", recipe.generation},
        {"chunk", frame.chunkSize}, {"sea", world.seaLevel()}, {"cells", cells}, {"chunks", chunks},
        {"worlds", "18446744073709551616"}, {"possibleHeights", {reach.low, reach.high}},
        {"counts", counts}, {"recipe", recipeId(recipe).hex()},
        {"fingerprint", worldFingerprint(world).hex()}, {"simd", world.kernels().name}};
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
      << fmt::format(
             "bands        {}, of {} materials\n", recipe.bands.size(), recipe.materials.size())
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
    const auto cell = parseColumn(options.at, "--at", "--y");
    if (!cell) return cell.error();
    if (const Status fits = checkGrid({cell->x - 1, cell->z - 1, 1, 3, 3}); !fits)
      return invalidInput(fmt::format("{} is beyond the world", options.at), "--at",
          "cells within 2^60 of the origin");
    if (const Status in = checkBeside(world, *cell, "--at"); !in) return in.error();
    if (options.y) {
      const auto block = blockAt(world, options);
      if (!block) return block.error();
      return printBlock(world, *block, options.recipe.json, streams.out);
    }
    return printPlace(world, *cell, options.recipe.json, streams.out);
  }
  if (!options.chunk.empty() && world.blocks()) {
    const auto block = blockInChunk(world, options);
    if (!block) return block.error();
    return printBlock(world, *block, options.recipe.json, streams.out);
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
  app.add_option("--y", options->y, "The level of one block of that column")->needs(at);
  auto* chunk = app.add_option("--chunk", options->chunk,
      "CX,CZ; of cubes CX,CY,CZ, of side worlds CX,CY: with --local or --index, the cell or block "
      "at a place of a chunk");
  auto* local = app.add_option("--local", options->local,
                       "X,Z inside the chunk; of blocks X,Y,Z, of side worlds X,Y")
                    ->needs(chunk);
  app.add_option("--index", options->index, "Running index inside the chunk")
      ->needs(chunk)
      ->excludes(local);
  chunk->excludes(at);
  app.callback([options, &action] {
    action = [options](Streams& streams) { return info(*options, streams); };
  });
}

}  // namespace acre::cli
