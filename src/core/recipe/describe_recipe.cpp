#include <fmt/format.h>

#include <algorithm>

#include "base/seed.h"
#include "recipe/cave_recipe.h"
#include "recipe/describe.h"
#include "recipe/edits.h"
#include "recipe/level_recipe.h"

namespace acre {

const Words& wordsOf(WorldKind) {
  static const Words words = {"overland", "voxel", "side", "level"};
  return words;
}
const Words& wordsOf(ChunkShape) {
  static const Words words = {"cubes", "columns"};
  return words;
}
const Words& wordsOf(MaterialState) {
  static const Words words = {"solid", "passable", "liquid"};
  return words;
}

const char* kindName(WorldKind kind) {
  return wordsOf(kind)[static_cast<size_t>(kind)].data();
}

void describe(Visitor& v, AxisBounds& bounds) {
  const MembersOf m(v, bounds, "axis");
  m(&AxisBounds::min, "min", "First cell", "From −2^60 to 2^60.", must(cells()));
  m(&AxisBounds::extent, "extent", "Extent", "At least 1, within 2^60.", must(cells()).atLeast(1));
}

namespace {

void boundsRules(Ruling& rules, const std::string& member, const AxisBounds& bounds) {
  if (bounds.min < -limits::cell || bounds.min > limits::cell)
    return rules.refuse(
        member + "/min", fmt::format("{} is out of range", bounds.min), "-2^60 to 2^60");
  const int64_t most = limits::cell + 1 - bounds.min;
  if (bounds.extent < 1 || bounds.extent > most)
    rules.refuse(member + "/extent", fmt::format("{} cells are not an extent", bounds.extent),
        fmt::format("1 to {} from this minimum (the end stays within 2^60)", most));
}

/// What worlds of blocks need besides.
void blockRules(Ruling& rules, const Frame& frame) {
  if (!limits::blockChunk.holds(frame.chunkSize))
    rules.refuse(
        "chunk", fmt::format("{} is out of range", frame.chunkSize), limits::blockChunk.text());
  if (!limits::verticalMin.holds(static_cast<double>(frame.y.min)))
    rules.refuse(
        "bounds/y/min", fmt::format("{} is out of range", frame.y.min), limits::verticalMin.text());
  if (frame.y.extent < 1 || frame.y.extent > limits::verticalExtent)
    rules.refuse("bounds/y/extent", fmt::format("{} cells are no vertical range", frame.y.extent),
        fmt::format("1 to {} cells, from min upward", limits::verticalExtent));
  if (!rules.ok() || frame.kind != WorldKind::Voxel || frame.shape != ChunkShape::Columns) return;
  if (int64_t{frame.chunkSize} * frame.chunkSize * frame.y.extent > limits::chunkCells)
    rules.refuse("shape",
        fmt::format(
            "columns of {} x {} x {} cells", frame.chunkSize, frame.chunkSize, frame.y.extent),
        fmt::format(
            "at most {} cells: cubes, smaller chunks or a lower world", limits::chunkCells));
}

}  // namespace

void describe(Visitor& v, Frame& frame) {
  const MembersOf m(v, frame, "frame");
  m(&Frame::kind, "kind", "World", "What kind it is.", must());
  m(&Frame::chunkSize, "chunk", "Chunk", "Cells per side; 4 to 128 in worlds of blocks.",
      must(cells(limits::chunkSize, 1)).unkeyed());
  Threshold sea{frame.seaLevel, false, frame.seaShare};
  v.threshold(said("sea", "Sea level", "Altitude, or the share of the world that lies below.",
                  must(cells(limits::altitude)).absolute()),
      sea);
  if (v.fills()) {
    frame.seaLevel = sea.value;
    frame.seaShare = sea.share;
  }
  v.object(said("bounds", "Bounds", "The cells that exist."), [&] {
    v.begin("bounds");
    m(&Frame::x, "x", "Along x", "Null: endless.", About{}.orNull());
    m(&Frame::z, "z", "Along z", "Null: endless.", About{}.orNull());
    m(&Frame::y, "y", "Along y", "Of worlds of blocks: up to 65,536 cells.",
        About{}.when(frame.blocks()).orNull());
  });
  m(&Frame::shape, "shape", "Chunks", "Of voxel worlds: as high as they are wide, or as the world.",
      sparse().when(frame.blocks()).unkeyed());
  v.rule([&](Ruling& rules) {
    if (frame.x) boundsRules(rules, "bounds/x", *frame.x);
    if (frame.z) boundsRules(rules, "bounds/z", *frame.z);
    if (frame.blocks()) blockRules(rules, frame);
  });
}

void describe(Visitor& v, Material& material) {
  const MembersOf m(v, material, "material");
  m.id();
  m(&Material::name, "name", "Name", "What people call it.",
      must().of(Role::Name).upTo(limits::nameBytes).unkeyed());
  m(&Material::colour, "colour", "Colour", "On maps.", must().unkeyed());
  m(&Material::state, "state", "State", "What bodies meet.", must().unkeyed());
  v.rule([&](Ruling& rules) {
    if (material.id == kUnassignedId || material.id == kOpenId)
      rules.refuse("id", fmt::format("\"{}\" is taken", material.id), "a new id");
  });
}

namespace {

void describeHeights(Visitor& v, Recipe& recipe) {
  const MembersOf m(v, recipe, "heights");
  m.on(&Recipe::heightsOn);
  describeBody(v, recipe.heights);
  m(&Recipe::fillDown, "fillDown", "Filled down",
      "Chunks of columns say how many cells below each top close the holes beside lower "
      "neighbours.",
      sparse().unkeyed());
  m(&Recipe::overhang, "overhang", "Overhang",
      "Noise in three dimensions about the surface of blocks.", sparse());
}

void describeStrata(Visitor& v, Recipe& recipe) {
  const MembersOf m(v, recipe, "strata");
  m.on(&Recipe::strataOn);
  m(&Recipe::slopes, "slopes", "Slopes",
      "Before all bands: the first that is steep enough takes the cell.",
      sparse().upTo(limits::slopes));
  m(&Recipe::bands, "bands", "Bands", "From low to high.", must().upTo(limits::bands));
  m(&Recipe::layers, "layers", "Layers",
      "From the surface down, at every ledge; 256 blocks together.",
      sparse().upTo(limits::depthLayers));
  m(&Recipe::rock, "rock", "Rock", "Under the layers.", sparse());
  m(&Recipe::ores, "ores", "Ores", "Bodies in the rock, in order.", sparse().upTo(limits::ores));
  v.rule([&](Ruling& rules) {
    bandRules(rules, "bands", recipe.bands);
    layerRules(rules, "layers", recipe.layers);
    double shares = 0;
    for (size_t i = 0; i < recipe.ores.size(); ++i) {
      if (recipe.ores[i].on) shares += recipe.ores[i].share;
      if (shares > limits::allOres)
        rules.refuse(fmt::format("ores/{}/share", i),
            fmt::format("with this one the ores are to take {:.4g} % of the rock", shares * 100),
            fmt::format("at most {:.4g} % for all together", limits::allOres * 100));
    }
    if (recipe.frame.blocks() && recipe.strataOn && recipe.rock.beds.empty())
      rules.refuse("rock/beds", "under the layers there is no rock",
          "at least one bed, or a stage Strata that is off");
  });
}

}  // namespace

void describe(Visitor& v, Notes& notes) {
  const MembersOf m(v, notes, "notes");
  const auto note = [&](std::string Notes::*member, std::string_view key, std::string_view of) {
    m(member, key, "Note", of, sparse().upTo(limits::noteBytes).unkeyed());
  };
  note(&Notes::world, "world", "On the world.");
  note(&Notes::frame, "frame", "On the frame.");
  note(&Notes::heights, "heights", "On the heights.");
  note(&Notes::climate, "climate", "On the climate.");
  note(&Notes::biomes, "biomes", "On the biomes.");
  note(&Notes::level, "level", "On the level.");
  note(&Notes::water, "water", "On rivers and lakes.");
  note(&Notes::strata, "strata", "On the strata.");
  note(&Notes::caves, "caves", "On the caves.");
  note(&Notes::objects, "objects", "On the objects.");
  note(&Notes::tiles, "tiles", "On the tiles.");
}

void describe(Visitor& v, Recipe& recipe) {
  const MembersOf m(v, recipe, "recipe");
  static const Words kFormat = {"kindred-acre recipe"};
  size_t format = 0;
  v.choice(said("format", "Format", "Always this.", must()), kFormat, format);
  int64_t version = 1;
  v.whole(said("version", "Version", "Of the format.", must(number(Range{1, 1}))), version);
  m(&Recipe::generation, "generation", "Generation", "Which set of algorithms.",
      must(number(Range{0, 0})));
  m(&Recipe::name, "name", "Name", "What people call it.",
      must().of(Role::Name).upTo(limits::nameBytes).unkeyed());
  m(&Recipe::seed, "seed", "Seed", "Text, or a whole number from −2^63 to 2^64−1.",
      must().upTo(limits::seedBytes).atLeast(1));
  m(&Recipe::frame, "frame", "Frame", "What kind of world, cut how.", must());
  m(&Recipe::materials, "materials", "Materials", "All there are.", must().upTo(limits::materials));
  m(&Recipe::fields, "fields", "Fields", "For masks and layers of others.",
      sparse().upTo(limits::fields));
  v.object(said("heights", "Heights", "The stage.", must()), [&] { describeHeights(v, recipe); });
  m(&Recipe::climate, "climate", "Climate", "The stage.", sparse());
  m(&Recipe::biomes, "biomes", "Biomes", "The stage.", sparse());
  v.object(said("strata", "Strata", "The stage.", must()), [&] { describeStrata(v, recipe); });
  m(&Recipe::water, "water", "Sea", "Of worlds of blocks.", sparse());
  m(&Recipe::rivers, "rivers", "Water", "The stage.", sparse());
  m(&Recipe::caves, "caves", "Caves", "The stage.", sparse());
  m(&Recipe::level, "level", "Level", "The stage.", sparse());
  m(&Recipe::objects, "objects", "Objects", "The stage.", sparse());
  m(&Recipe::tiles, "tiles", "Tiles", "The stage.", sparse());
  m(&Recipe::notes, "notes", "Notes", "What people write down; it changes no cell.",
      sparse().unkeyed());
  v.apart(said("edits", "Edits", "Cells changed by hand."));
  v.also(R"({
    "if": {"properties": {"frame": {"properties": {"kind": {"enum": ["voxel", "side"]}}}}},
    "then": {"properties": {"strata": {"anyOf": [
      {"properties": {"on": {"const": false}}, "required": ["on"]},
      {"properties": {"rock": {"properties": {"beds": {"minItems": 1}}}}, "required": ["rock"]}]}}}
  })");
  v.rule([&](Ruling& rules) {
    if (recipe.seed.empty() || trimmedSeed(recipe.seed) != recipe.seed)
      rules.refuse("seed", "the seed is empty or has white space at an end",
          "text or a whole number from -2^63 to 2^64-1");
    if (recipe.frame.kind == WorldKind::Level) levelRules(rules);
    if (!recipe.edits) return;
    const bool blocks = recipe.frame.blocks();
    for (const std::string& id : recipe.edits->materials())
      if (!rules.listed(id) && !(id == kOpenId && blocks))
        rules.refuse("edits/materials", fmt::format("a cell changed by hand holds \"{:.80}\"", id),
            blocks ? "the id of a listed material, or open" : "the id of a listed material");
  });
}

}  // namespace acre
