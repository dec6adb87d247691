#include <fmt/format.h>

#include "cli/common.h"
#include "output/chunk_text.h"
#include "world/fingerprint.h"
#include "world/plan.h"

namespace acre::cli {
namespace {

struct ChunkOptions {
  RecipeOptions recipe;
  std::string at;
  std::string out;
  bool hash = false;
  ShapeOptions shape;
};

/// The chunk that holds the origin, or of worlds elsewhere the first cell.
ChunkPos chunkNearHome(const WorldPlan& world) {
  const ChunkLayout& layout = world.layout();
  const Rect& bounds = world.bounds();
  const auto near = [](int64_t first, int64_t extent) {
    return first <= 0 && extent + first > 0 ? int64_t{0} : first;
  };
  ChunkPos at = layout.chunkOf({near(bounds.x, bounds.width), near(bounds.z, bounds.length)});
  if (layout.vertical().tall)
    at.cy = std::clamp<int64_t>(0, layout.lowestChunk(0), layout.highestChunk(0));
  return at;
}

Result<int> chunk(const ChunkOptions& options, Streams& streams) {
  const auto loaded = load(options.recipe);
  if (!loaded) return loaded.error();
  const World& world = *loaded->world;
  const auto at = options.at.empty() ? Result<ChunkPos>(chunkNearHome(planOf(world)))
                                     : parseChunk(options.at, "--at", planOf(world).layout());
  if (!at) return at.error();
  const auto made = planOf(world).chunk(*at);
  if (!made) return made.error();
  const Chunk& cells = **made;
  if (!options.out.empty())
    if (const Status written = writeChunk(world, cells, options.out, options.shape); !written)
      return written.error();
  if (options.hash && !options.recipe.json) {
    streams.out << chunkHash(world, cells).hex() << "\n";
    return 0;
  }
  if (options.recipe.json) {
    if (options.out.empty() && !options.hash) {
      streams.out << chunkJson(world, cells);
      return 0;
    }
    streams.out << Json{{"chunk", chunkText(planOf(world).layout(), *at)},
                       {"seed", planOf(world).recipe().seed},
                       {"hash", chunkHash(world, cells).hex()}}
                       .dump(2)
                << "\n";
    return 0;
  }
  if (cells.tall > 0) {
    streams.out << fmt::format("chunk {} of {}, seed {}: {} x {} x {} blocks from {},{},{}\n",
        chunkText(planOf(world).layout(), *at), planOf(world).recipe().name,
        planOf(world).recipe().seed, cells.rect.width, cells.tall, cells.rect.length, cells.rect.x,
        cells.y, cells.rect.z);
  } else {
    const auto [low, high] = std::minmax_element(cells.heights.begin(), cells.heights.end());
    streams.out << fmt::format("chunk {} of {}, seed {}: {} x {} cells from {},{}\n",
                       chunkText(planOf(world).layout(), *at), planOf(world).recipe().name,
                       planOf(world).recipe().seed, cells.rect.width, cells.rect.length,
                       cells.rect.x, cells.rect.z)
                << fmt::format("heights {} to {}\n", *low, *high);
  }
  std::map<std::string, int64_t> counts;
  for (const MaterialIndex m : cells.materials.unpacked())
    ++counts[planOf(world).catalogue().materialId(m)];
  for (const auto& [id, count] : counts) streams.out << fmt::format("{:>7} cells  {}\n", count, id);
  return 0;
}

}  // namespace

void addChunk(CLI::App& app, Action& action) {
  const auto options = std::make_shared<ChunkOptions>();
  options->recipe.addTo(app);
  app.add_option("--at", options->at,
      "CX,CZ; in worlds of cubes CX,CY,CZ, in side worlds CX,CY: which chunk; default: that of "
      "the origin, or of worlds elsewhere their first");
  app.add_option("--out", options->out,
      "File to write: .json, .csv, .nrrd (blocks), .obj, .glb or .ply (their faces, or the "
      "heights of columns)");
  app.add_option("--exaggeration", options->shape.exaggeration,
         "How much taller heights of columns stand in .obj, .glb and .ply; default 1")
      ->check(CLI::Range(0.01, 100.0));
  app.add_flag("--clear-leaves", options->shape.clearLeaves,
      "In .obj, .glb and .ply of blocks: leaves of trees let light through");
  app.add_flag("--smooth", options->shape.smooth,
      "In .obj, .glb and .ply of blocks: a smooth surface, closed at the chunk's sides");
  app.add_flag("--hash", options->hash, "Print the chunk's hash alone");
  options->recipe.outputs = [options = options.get()]() -> std::vector<std::filesystem::path> {
    if (options->out.empty()) return {};
    std::filesystem::path library = options->out;
    if (library.extension() != ".obj") return {options->out};
    return {options->out, library.replace_extension(".mtl")};
  };
  app.callback([options, &action] {
    action = [options](Streams& streams) { return chunk(*options, streams); };
  });
}

}  // namespace acre::cli
