#include "recipe/stages.h"

#include <array>

#include "recipe/cave_recipe.h"
#include "recipe/level_recipe.h"
#include "recipe/object_recipe.h"
#include "recipe/tile_recipe.h"
#include "recipe/water_recipe.h"

namespace acre {
namespace {

constexpr uint32_t bit(WorldKind kind) {
  return 1u << static_cast<int>(kind);
}
template <class... Stages>
constexpr uint32_t bits(Stages... stages) {
  return (0u | ... | (1u << static_cast<int>(stages)));
}
constexpr uint32_t kLevels = bit(WorldKind::Level);
constexpr uint32_t kOpenWorlds =
    bit(WorldKind::Overland) | bit(WorldKind::Voxel) | bit(WorldKind::Side);

constexpr std::array<StageDef, kStageCount> kStages = {{
    {StageId::Frame, "frame", "Frame", "What kind of world, its sea level, chunks and bounds.",
        kOpenWorlds | kLevels, 0, &Notes::frame, nullptr, nullptr},
    {StageId::Heights, "heights", "Heights", "Layers of noise that make the ground's altitude.",
        kOpenWorlds | kLevels, bits(StageId::Frame), &Notes::heights,
        [](const Recipe& r) { return r.heightsOn; }, [](Recipe& r, bool on) { r.heightsOn = on; }},
    {StageId::Climate, "climate", "Climate", "Temperature and moisture, the fields of the chart.",
        kOpenWorlds | kLevels, bits(StageId::Frame, StageId::Heights), &Notes::climate,
        [](const Recipe& r) { return r.climate.on; },
        [](Recipe& r, bool on) { r.climate.on = on; }},
    {StageId::Biomes, "biomes", "Biomes",
        "The chart that says what lives where, and the regions it is laid on.",
        kOpenWorlds | kLevels, bits(StageId::Frame, StageId::Heights, StageId::Climate),
        &Notes::biomes, [](const Recipe& r) { return r.biomes.on; },
        [](Recipe& r, bool on) { r.biomes.on = on; }},
    {StageId::Level, "level", "Level",
        "The processes that make a floor, and the places that must be there.", kLevels,
        bits(StageId::Frame), &Notes::level, [](const Recipe& r) { return r.level->on; },
        [](Recipe& r, bool on) { r.level->on = on; }},
    {StageId::Water, "rivers", "Water", "Rivers that run downhill, and the lakes that they fill.",
        bit(WorldKind::Overland) | bit(WorldKind::Voxel),
        bits(StageId::Frame, StageId::Heights, StageId::Biomes), &Notes::water,
        [](const Recipe& r) { return r.rivers->on; },
        [](Recipe& r, bool on) { r.rivers->on = on; }},
    {StageId::Strata, "strata", "Strata",
        "Bands of altitude that decide what the ground is made of.", kOpenWorlds | kLevels,
        bits(StageId::Frame, StageId::Heights, StageId::Biomes, StageId::Level, StageId::Water),
        &Notes::strata, [](const Recipe& r) { return r.strataOn; },
        [](Recipe& r, bool on) { r.strataOn = on; }},
    {StageId::Caves, "caves", "Caves",
        "Tunnel systems, noise voids and automata, dug into the ground.", kOpenWorlds,
        bits(StageId::Frame, StageId::Heights, StageId::Climate, StageId::Biomes, StageId::Water,
            StageId::Strata),
        &Notes::caves, [](const Recipe& r) { return r.caves->on; },
        [](Recipe& r, bool on) { r.caves->on = on; }},
    {StageId::Objects, "objects", "Objects", "What stands on the ground, and how far apart.",
        kOpenWorlds | kLevels,
        bits(StageId::Frame, StageId::Heights, StageId::Biomes, StageId::Level, StageId::Water,
            StageId::Strata, StageId::Caves),
        &Notes::objects, [](const Recipe& r) { return r.objects->on; },
        [](Recipe& r, bool on) { r.objects->on = on; }},
    {StageId::Tiles, "tiles", "Tiles", "Which picture of a set lies where, with borders that fit.",
        kOpenWorlds | kLevels, bits(StageId::Frame, StageId::Strata, StageId::Objects),
        &Notes::tiles, [](const Recipe& r) { return r.tiles->on; },
        [](Recipe& r, bool on) { r.tiles->on = on; }},
}};

constexpr bool inOrder() {
  for (size_t i = 0; i < kStageCount; ++i)
    if (kStages[i].id != static_cast<StageId>(i) || kStages[i].reads >> i != 0) return false;
  return true;
}
static_assert(inOrder(), "every stage stands at its place, and reads what stands before it");

}  // namespace

std::span<const StageDef, kStageCount> allStages() {
  return kStages;
}

StageId stageOf(std::string_view pointer) {
  if (pointer.starts_with('/')) pointer.remove_prefix(1);
  const std::string_view key = pointer.substr(0, pointer.find('/'));
  for (const StageDef& stage : kStages) {
    if (key != stage.key) continue;
    // What biomes say of bands and layers is Strata's.
    const bool ground = pointer.find("/bands") != std::string_view::npos ||
                        pointer.find("/layers") != std::string_view::npos;
    return stage.id == StageId::Biomes && ground ? StageId::Strata : stage.id;
  }
  return key == "materials" || key == "water" || key == "edits" ? StageId::Strata
         : key == "fields"                                      ? StageId::Heights
                                                                : StageId::Frame;
}

bool takesPart(const Recipe& recipe, StageId stage) {
  const StageDef& def = defOf(stage);
  return def.isOf(recipe.frame.kind) && (!def.on || def.on(recipe));
}

Recipe upTo(const Recipe& recipe, StageId last) {
  Recipe out = recipe;
  for (const StageDef& stage : kStages)
    if (stage.id > last && stage.turn) stage.turn(out, false);
  return out;
}

}  // namespace acre
