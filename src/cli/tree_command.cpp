#include <fmt/format.h>

#include <cmath>
#include <set>

#include "base/atomic_file.h"
#include "cli/common.h"
#include "object/tree.h"
#include "output/mesh_files.h"
#include "output/png.h"
#include "recipe/object_recipe.h"
#include "strata/material_index.h"
#include "view/tree_scene.h"
#include "world/world.h"

namespace acre::cli {
namespace {

constexpr int kSheetAcross = 4, kSheetTrees = 16;

struct TreeOptions {
  RecipeOptions recipe;
  std::string style;
  uint64_t variant = 0;
  double wind = 0;
  std::optional<int> rounds;
  bool sheet = false;
  std::string size = "800x800";
  std::string look = "20,-8";
  std::string out;
};

Result<const TreeStyle*> styleOf(const Recipe& recipe, const std::string& id) {
  std::string known;
  for (const TreeStyle& style : recipe.objects->trees) {
    if (style.id == id) return &style;
    known += (known.empty() ? "" : ", ") + style.id;
  }
  if (recipe.objects->trees.empty())
    return invalidInput(fmt::format("\"{:.80}\" has no styles of trees", recipe.name), "recipe",
        "one with /objects/trees");
  return invalidInput(fmt::format("there is no style \"{:.80}\"", id), "style", known);
}

TreeSkeleton skeletonOf(const TreeStyle& style, uint64_t seed, uint64_t variant, double wind,
    const std::optional<int>& rounds) {
  TreeGrowth growth(style, treeKey(seed, style.id, variant));
  for (int n = 0; n < rounds.value_or(INT32_MAX) && growth.grow(); ++n) {
  }
  return bentTree(style, growth.skeleton(),
      wind > 0 ? TreeWind::of(style, static_cast<float>(wind)) : TreeWind{});
}

Json figuresOf(const TreeStyle& style, const TreeSkeleton& tree, const TreeBlocks& blocks) {
  const TreeReach reach = reachOf(style);
  const auto &first = blocks.first(), &size = blocks.size();
  return {{"style", style.id}, {"rounds", tree.rounds}, {"nodes", tree.nodes.size()},
      {"unreached", tree.unreached}, {"wood", blocks.wood()}, {"leaves", blocks.leaves()},
      {"first", {first.x, first.y, first.z}}, {"size", {size.x, size.y, size.z}},
      {"reach", {{"aside", reach.aside}, {"up", reach.up}, {"down", reach.down}}}};
}

/// Branches from node to node, and blocks by layers.
Json treeJson(const TreeStyle& style, const TreeSkeleton& tree, const TreeBlocks& blocks) {
  Json out = figuresOf(style, tree, blocks);
  constexpr double kUnit = kTreeUnit;
  for (const TreeNode& node : tree.nodes)
    out["skeleton"].push_back({{"at", {static_cast<double>(node.x) / kUnit,
                                          static_cast<double>(node.y) / kUnit,
                                          static_cast<double>(node.z) / kUnit}},
        {"parent", node.parent}, {"radius", std::sqrt(static_cast<double>(node.square)) / kUnit}});
  const auto &first = blocks.first(), &size = blocks.size();
  for (int32_t y = first.y; y < first.y + size.y; ++y) {
    Json rows = Json::array();
    for (int32_t z = first.z; z < first.z + size.z; ++z) {
      std::string row;
      for (int32_t x = first.x; x < first.x + size.x; ++x) {
        const auto of = blocks.at(x, y, z);
        row += of == TreeBlocks::Of::Wood ? 'w' : of == TreeBlocks::Of::Leaf ? 'l' : '.';
      }
      rows.push_back(std::move(row));
    }
    out["layers"].push_back(std::move(rows));
  }
  return out;
}

Status writeShape(const World& world, const TreeStyle& style, const TreeBlocks& blocks,
    const std::filesystem::path& file) {
  const auto& materials = planOf(world).recipe().materials;
  TreeShown shown;
  shown.woodAs = indexOf(materials, style.wood);
  shown.leafAs = style.leaf.empty() ? shown.woodAs : indexOf(materials, style.leaf);
  if (file.extension() != ".nrrd") {
    Scene scene;
    addToScene(blocks, 0, 0, 0, shown, scene);
    std::vector<std::shared_ptr<const BlockMesh>> meshes;
    for (const ScenePart& part : scene) meshes.push_back(part.mesh);
    return writeSolid(world, facesOf(meshes, {}), file);
  }
  const auto &first = blocks.first(), &size = blocks.size();
  Volume volume{{first.x, first.y, first.z}, {size.x, size.y, size.z}, {}, "style:=" + style.id};
  for (int32_t y = first.y; y < first.y + size.y; ++y)
    for (int32_t z = first.z; z < first.z + size.z; ++z)
      for (int32_t x = first.x; x < first.x + size.x; ++x) {
        const auto of = blocks.at(x, y, z);
        volume.blocks.push_back(of == TreeBlocks::Of::Wood   ? shown.woodAs
                                : of == TreeBlocks::Of::Leaf ? shown.leafAs
                                                             : kOpen);
      }
  return writeNrrd(world, volume, file);
}

Result<int> tree(const TreeOptions& options, Streams& streams) {
  const auto size = parseSize(options.size, "--size", 8192);
  if (!size) return size.error();
  const auto look = parseRange(options.look, "--look");
  if (!look) return look.error();
  if (std::abs(look->second) > 90 || !(std::abs(look->first) <= 1e6))
    return invalidInput(fmt::format("\"{:.80}\"", options.look), "--look",
        "YAW,PITCH in degrees: clockwise from north, and -90 to 90 upward");
  const std::filesystem::path file(options.out);
  const std::string ending = file.extension().string();
  static const std::set<std::string> kEndings = {".png", ".glb", ".obj", ".ply", ".nrrd", ".json"};
  if (!kEndings.contains(ending) || (options.sheet && ending != ".png"))
    return invalidInput(fmt::format("\"{}\" tells no format", options.out), "--out",
        options.sheet ? "a name that ends in .png"
                      : "a name that ends in .png, .glb, .obj, .ply, .nrrd or .json");
  const auto loaded = load(options.recipe);
  if (!loaded) return loaded.error();
  const World& world = *loaded->world;
  const Recipe& recipe = planOf(world).recipe();
  const std::string id = options.style.empty() && !recipe.objects->trees.empty()
                             ? recipe.objects->trees.front().id
                             : options.style;
  const auto style = styleOf(recipe, id);
  if (!style) return style.error();
  std::vector<TreeBlocks> trees;
  std::optional<TreeSkeleton> skeleton;
  for (int n = 0; n < (options.sheet ? kSheetTrees : 1); ++n) {
    skeleton = skeletonOf(**style, planOf(world).seed(), options.variant + static_cast<uint64_t>(n),
        options.wind, options.rounds);
    trees.emplace_back(**style, *skeleton);
  }
  const TreeBlocks& first = trees.front();
  Status written = done();
  if (ending == ".png") {
    ViewPicture picture;
    const ViewStyle colours = styleFor(**style, recipe.materials);
    if (options.sheet) {
      picture = treeSheet(trees, colours, kSheetAcross, size->first, size->second);
    } else {
      picture.width = size->first;
      picture.height = size->second;
      Scene scene;
      addToScene(first, 0, 0, 0, {}, scene);
      drawScene(scene, eyeAbout(first, look->first, look->second, picture.width, picture.height),
          colours, picture);
    }
    written = writePicture(options.out, picture.width, picture.height, picture.argb,
        {{"Seed", recipe.seed}, {"Recipe", recipeId(recipe).hex()}, {"Style", id}});
  } else if (ending == ".json") {
    written = writeFile(file, treeJson(**style, *skeleton, first).dump(1) + "\n");
  } else {
    written = writeShape(world, **style, first, file);
  }
  if (!written) return written.error();
  Json figures = figuresOf(**style, *skeleton, first);
  if (options.recipe.json) {
    figures["file"] = options.out;
    figures["seed"] = recipe.seed;
    streams.out << figures.dump(2) << "\n";
    return 0;
  }
  if (options.sheet) {
    streams.out << fmt::format(
        "{}: {} variants of {}, seed {}\n", options.out, trees.size(), id, recipe.seed);
    return 0;
  }
  const TreeReach reach = reachOf(**style);
  streams.out << fmt::format("{}: variant {} of {}, seed {}\n", options.out, options.variant, id,
                     recipe.seed)
              << fmt::format("{} nodes in {} rounds, {} points unreached\n", skeleton->nodes.size(),
                     skeleton->rounds, skeleton->unreached)
              << fmt::format("{} blocks of wood, {} of leaves; reaches {} aside, {} up\n",
                     first.wood(), first.leaves(), reach.aside, reach.up);
  return 0;
}

}  // namespace

void addTree(CLI::App& app, Action& action) {
  const auto options = std::make_shared<TreeOptions>();
  options->recipe.addTo(app);
  app.add_option("style", options->style, "Id of the style; default: the recipe's first");
  app.add_option("--variant", options->variant, "Which; default 0");
  app.add_flag("--sheet", options->sheet, "Sixteen variants on one sheet");
  app.add_option("--wind", options->wind, "How much it leans with the wind, 0 to 1; default 0")
      ->check(CLI::Range(0.0, 1.0));
  app.add_option("--rounds", options->rounds, "Rounds that it grows; default: to its end")
      ->check(CLI::Range(0, 400));
  app.add_option("--size", options->size, "WxH in pixels; default 800x800");
  app.add_option("--look", options->look, "YAW,PITCH in degrees; default 20,-8");
  app.add_option("--out", options->out, "File to write: .png, .glb, .obj, .ply, .nrrd or .json")
      ->required();
  options->recipe.outputs = [options = options.get()] {
    std::vector<std::filesystem::path> out = {options->out};
    if (out[0].extension() == ".obj")
      out.push_back(std::filesystem::path(out[0]).replace_extension(".mtl"));
    return out;
  };
  app.callback([options, &action] {
    action = [options](Streams& streams) { return tree(*options, streams); };
  });
}

}  // namespace acre::cli
