#include "world/world_compiler.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "base/seed.h"
#include "cave/caves.h"
#include "cave/level_stage.h"
#include "climate/land_sampler.h"
#include "recipe/look.h"
#include "recipe/stages.h"
#include "recipe/validate.h"
#include "strata/blocks.h"
#include "strata/material_index.h"
#include "water/fresh_fields.h"
#include "water/water_stage.h"
#include "world/measures.h"

namespace acre {
namespace {

const FieldRecipe& heightsOf(const Recipe& recipe, const FieldRecipe& flat) {
  return recipe.heightsOn ? recipe.heights : flat;
}

bool holdsShare(const std::optional<Threshold>& end) {
  return end && end->share;
}

/// Whether an end of a band or slope is a share of the heights.
bool bandsHoldShares(const Recipe& recipe) {
  const auto inBands = [](const std::vector<Band>& bands) {
    return std::any_of(
        bands.begin(), bands.end(), [](const Band& band) { return holdsShare(band.below); });
  };
  const auto& list = recipe.biomes.list;
  return inBands(recipe.bands) ||
         std::any_of(recipe.slopes.begin(), recipe.slopes.end(),
             [](const SlopeBand& slope) {
               return holdsShare(slope.above) || holdsShare(slope.below);
             }) ||
         (recipe.biomes.on && std::any_of(list.begin(), list.end(), [&](const Biome& biome) {
           return biome.bands && inBands(*biome.bands);
         }));
}

bool slicesHoldShares(const Recipe& recipe) {
  const auto& slices = recipe.biomes.slices;
  return recipe.biomes.on && std::any_of(slices.begin(), slices.end(),
                                 [](const Slice& slice) { return holdsShare(slice.below); });
}

Result<std::shared_ptr<const LevelMaker>> makerOf(
    const Recipe& recipe, const RoomTexts& rooms, const Kernels& kernels) {
  const Rect bounds = boundsOf(recipe.frame);
  return LevelMaker::compile(*recipe.level, static_cast<int32_t>(bounds.width),
      static_cast<int32_t>(bounds.length), rooms, seedNumber(recipe.seed), kernels);
}

/// A floor within the limit of memory; worlds that nobody needs make way for it.
Result<std::shared_ptr<const SoundedFloor>> counted(
    std::unique_ptr<SoundedFloor> floor, StagePool& pool) {
  const auto budget = pool.memo().budget;
  if (!budget) return std::shared_ptr<const SoundedFloor>(std::move(floor));
  const uint64_t bytes = floor->bytes();
  auto room = budget->reserve(bytes);
  if (!room) {
    pool.makeRoom();
    room = budget->reserve(bytes);
  }
  if (!room)
    return Error{Error::Code::ResourceExhausted,
        fmt::format("a floor of {:.1f} MiB finds no room within the limit of memory",
            static_cast<double>(bytes) / 0x1p20),
        "/frame/bounds",
        fmt::format(
            "a smaller floor, or more than the {} MiB that all may take", budget->limit() >> 20)};
  floor->room = std::move(*room);
  // The budget is there for as long as what it counts.
  return std::shared_ptr<const SoundedFloor>(
      floor.release(), [budget](const SoundedFloor* f) { delete f; });
}

/// What was measured, or that it was stopped.
template <class T>
Result<std::shared_ptr<const T>> unlessStopped(std::shared_ptr<const T> made) {
  if (!made) return cancelled();
  return made;
}

}  // namespace

Result<std::shared_ptr<const LevelMaker>> levelMakerOf(
    const Recipe& recipe, const Kernels& kernels) {
  const auto rooms = readRooms(*recipe.level, recipe.folder);
  if (!rooms) return rooms.error();
  return makerOf(recipe, *rooms, kernels);
}

WorldCompiler::WorldCompiler(
    const Recipe& recipe, StagePool& pool, const Kernels& kernels, const std::stop_token& stop)
    : recipe_(recipe),
      pool_(pool),
      kernels_(kernels),
      stop_(stop),
      seed_(seedNumber(recipe.seed)),
      flat_{kHeightsId, "Heights", {}, {}, {}},
      compiler_({recipe.fields, heightsOf(recipe, flat_), recipe.frame.x, recipe.frame.z,
                    recipe.folder, seed_, &recipe.climate},
          pool, kernels, 2, stop) {}

Result<WorldParts> WorldCompiler::compile() {
  for (const auto step : {&WorldCompiler::fields, &WorldCompiler::biomes, &WorldCompiler::water,
           &WorldCompiler::lateFields, &WorldCompiler::bands, &WorldCompiler::ground,
           &WorldCompiler::level, &WorldCompiler::caves}) {
    if (stop_.stop_requested()) return cancelled();
    if (const Status made = (this->*step)(); !made) return made.error();
  }
  return std::move(parts_);
}

// ---- heights, fields, climate ------------------------------------------------------------------

Status WorldCompiler::fields() {
  auto base = compiler_.compile(heightsOf(recipe_, flat_));
  if (!base) return base.error();
  parts_.heights = *base;
  const Frame& frame = recipe_.frame;
  if (bandsHoldShares(recipe_) || slicesHoldShares(recipe_) || frame.seaShare) {
    const auto measured = pooled<Distribution>(
        pool_, distributionKey(*parts_.heights, frame, seed_),
        [&] { return unlessStopped(measure(*parts_.heights, frame, seed_, kernels_, stop_)); },
        true);
    if (!measured) return measured.error();
    heights_ = *measured;
  }
  parts_.seaLevel =
      frame.seaShare ? static_cast<double>(heights_->valueAt(*frame.seaShare)) : frame.seaLevel;

  // What the heights read is there already; the rest may ask how far it lies above the sea.
  compiler_.setSeaLevel(parts_.seaLevel);
  parts_.fields.resize(recipe_.fields.size());
  if (const Status made = namedFields(false); !made) return made;
  if (!recipe_.climate.on) return done();
  for (auto [axis, part] : {std::pair(&recipe_.climate.temperature, &parts_.temperature),
           std::pair(&recipe_.climate.moisture, &parts_.moisture)}) {
    auto compiled = compiler_.compile(axis->field);
    if (!compiled) return compiled.error();
    *part = *compiled;
  }
  return done();
}

/// Those that read fresh water, or all others.
Status WorldCompiler::namedFields(bool late) {
  for (size_t i = 0; i < recipe_.fields.size(); ++i) {
    if (readsFreshWater(recipe_, recipe_.fields[i]) != late) continue;
    auto compiled = compiler_.compile(recipe_.fields[i]);
    if (!compiled) return compiled.error();
    parts_.fields[i] = *compiled;
  }
  return done();
}

Status WorldCompiler::lateFields() {
  const bool any = std::any_of(recipe_.fields.begin(), recipe_.fields.end(),
      [&](const FieldRecipe& field) { return readsFreshWater(recipe_, field); });
  if (!any) return done();
  const auto water = std::make_shared<const FreshFields>(
      parts_.water ? parts_.land : nullptr, parts_.water, static_cast<float>(parts_.seaLevel));
  compiler_.setFreshWater(water, parts_.water ? landKey_ : Digest{});
  return namedFields(true);
}

std::shared_ptr<const Field> WorldCompiler::fieldOf(const std::string& id) const {
  if (id == kHeightsId) return parts_.heights;
  if (id == kTemperatureId) return parts_.temperature;
  if (id == kMoistureId) return parts_.moisture;
  for (size_t i = 0; i < recipe_.fields.size(); ++i)
    if (recipe_.fields[i].id == id) return parts_.fields[i];
  return nullptr;
}

// ---- biomes ------------------------------------------------------------------------------------

Status WorldCompiler::shiftFields(
    std::shared_ptr<const Field>& x, std::shared_ptr<const Field>& z) {
  const RegionWarp& warp = recipe_.biomes.regions.warp;
  if (!recipe_.biomes.regions.on || warp.cells == 0) return done();
  if (!warp.x.empty()) {
    x = fieldOf(warp.x);
    z = fieldOf(warp.z);
    return done();
  }
  for (auto [axis, field] : {std::pair("x", &x), std::pair("z", &z)}) {
    Layer layer;
    layer.id = "shift";
    layer.source = warp.noise;
    // No id of a recipe holds a slash.
    auto compiled =
        compiler_.compile({std::string("regions/shift-") + axis, "Shift", {layer}, {}, {}});
    if (!compiled) return compiled.error();
    *field = *compiled;
  }
  return done();
}

Status WorldCompiler::biomes() {
  const Biomes& biomes = recipe_.biomes;
  Digest key;
  if (biomes.on) {
    BiomeInputs inputs{biomes, scaleOf(recipe_, biomes.x), scaleOf(recipe_, biomes.y), {},
        parts_.seaLevel, seed_, parts_.heights, fieldOf(biomes.x.field), fieldOf(biomes.y.field),
        {}, {}};
    for (const Slice& slice : biomes.slices)
      if (slice.below)
        inputs.sliceEnds.push_back(resolve(*slice.below, parts_.seaLevel, heights_.get()));
    if (const Status shifted = shiftFields(inputs.warpX, inputs.warpZ); !shifted) return shifted;
    key = BiomeStage::keyOf(inputs);
    auto stage =
        pooled<BiomeStage>(pool_, key, [&] { return BiomeStage::compile(inputs, kernels_); });
    if (!stage) return stage.error();
    parts_.biomes = *stage;
  }
  parts_.land = parts_.before =
      std::make_shared<const LandSampler>(parts_.heights, parts_.biomes, kernels_);
  DigestWriter land;
  landKey_ = land.text("land").digest(parts_.heights->key()).digest(key).finish();
  // The share of a band is one of the heights that the biomes leave.
  if (!parts_.biomes || !parts_.biomes->shapesHeight() || !bandsHoldShares(recipe_)) return done();
  DigestWriter shaped;
  shaped.text("shaped").digest(landKey_).u64(seed_);
  writeKey(shaped, recipe_.frame.x);
  writeKey(shaped, recipe_.frame.z);
  const auto measured = pooled<Distribution>(
      pool_, shaped.finish(),
      [&] { return unlessStopped(measureShaped(parts_, recipe_.frame, seed_, stop_)); }, true);
  if (!measured) return measured.error();
  heights_ = *measured;
  return done();
}

// ---- water -------------------------------------------------------------------------------------

Status WorldCompiler::water() {
  if (!takesPart(recipe_, StageId::Water)) return done();
  const DrainageInputs inputs{*recipe_.rivers, parts_.before, static_cast<float>(parts_.seaLevel),
      recipe_.frame.blocks(), seed_, boundsOf(recipe_.frame),
      fieldOf(recipe_.rivers->courses.field)};
  const Digest key = WaterStage::keyOf(inputs, landKey_);
  auto stage =
      pooled<WaterStage>(pool_, key, [&] { return WaterStage::compile(inputs, pool_.memo()); });
  if (!stage) return stage.error();
  parts_.water = *stage;
  const Rivers& rivers = *recipe_.rivers;
  const auto material = [&](const std::string& id) {
    return id.empty() ? kUnassigned : indexOf(recipe_.materials, id);
  };
  parts_.waterMaterials = {material(rivers.water), material(rivers.bed), material(rivers.bank),
      material(rivers.wet), static_cast<float>(rivers.bankReach),
      static_cast<float>(rivers.wetReach)};
  parts_.land =
      std::make_shared<const LandSampler>(parts_.heights, parts_.biomes, kernels_, parts_.water);
  DigestWriter land;
  landKey_ = land.text("shaped land").digest(landKey_).digest(key).finish();
  return done();
}

// ---- strata ------------------------------------------------------------------------------------

Result<std::shared_ptr<const BandTable>> WorldCompiler::bandTable(const std::vector<Band>& bands) {
  const StrataInputs inputs{recipe_.materials, recipe_.slopes, bands, recipe_.strataOn, seed_,
      parts_.seaLevel, heights_.get()};
  const Digest key = BandTable::keyOf(inputs);
  DigestWriter all;
  bandsKey_ = all.digest(bandsKey_).digest(key).finish();
  return pooled<BandTable>(pool_, key,
      [&]() -> Result<std::shared_ptr<const BandTable>> { return BandTable::compile(inputs); });
}

Status WorldCompiler::bands() {
  auto general = bandTable(recipe_.bands);
  if (!general) return general.error();
  parts_.bands = *general;
  const auto& list = recipe_.biomes.list;
  for (size_t i = 0; i < list.size() && recipe_.biomes.on; ++i) {
    const Biome* source = list[i].bandsOf.empty() ? &list[i] : biomeOf(recipe_, list[i].bandsOf);
    if (!source->bands) continue;
    auto own = bandTable(*source->bands);
    if (!own) return own.error();
    parts_.biomeBands.resize(list.size() + 1);
    parts_.biomeBands[i + 1] = *own;
  }
  // Single precision may come out a little beyond what double precision finds possible.
  const Range surface = possibleSurface(recipe_);
  const double slack = 1 + 1e-5 * std::max(std::abs(surface.low), std::abs(surface.high));
  parts_.lowest = static_cast<float>(surface.low - slack);
  if (parts_.water)  // Beds lie so far below the sea at most.
    parts_.lowest =
        std::min(parts_.lowest, static_cast<float>(parts_.seaLevel - recipe_.rivers->depth - 2));
  parts_.highest = static_cast<float>(surface.high + slack);
  return done();
}

Status WorldCompiler::ground() {
  auto stage = recipe_.frame.blocks() ? blockStage() : columnStage();
  if (!stage) return stage.error();
  parts_.blocks = *stage;
  return done();
}

Result<std::shared_ptr<const BlockStage>> WorldCompiler::columnStage() const {
  const Overhang none;
  const std::string dry;
  return BlockStage::compile({none, nullptr, {}, {}, recipe_.rock, nullptr, nullptr,
      recipe_.materials, dry, parts_.waterMaterials.water, parts_.seaLevel, seed_, true, true});
}

Result<std::shared_ptr<const BlockStage>> WorldCompiler::blockStage() {
  const auto setOf = [&](const std::vector<DepthLayer>& layers) {
    LayerSet set{layers, {}, 0};
    for (const DepthLayer& layer : layers)
      set.fields.push_back(layer.field.empty() ? nullptr : fieldOf(layer.field));
    set.deepest = deepestOf(recipe_, layers);
    return set;
  };
  std::vector<LayerSet> sets = {setOf(recipe_.layers)};
  std::vector<uint16_t> setOfBiome;
  const auto& list = recipe_.biomes.list;
  std::map<const Biome*, uint16_t> known;
  for (size_t i = 0; i < list.size() && recipe_.biomes.on; ++i) {
    const Biome* source = list[i].layersOf.empty() ? &list[i] : biomeOf(recipe_, list[i].layersOf);
    if (!source->layers) continue;
    const auto [at, fresh] = known.try_emplace(source, static_cast<uint16_t>(sets.size()));
    if (fresh) sets.push_back(setOf(*source->layers));
    setOfBiome.resize(list.size() + 1);
    setOfBiome[i + 1] = at->second;
  }
  const bool blocks = recipe_.frame.blocks();
  const Overhang none;
  const std::string dry;
  const auto& mask = recipe_.overhang.mask;
  BlockInputs inputs{blocks ? recipe_.overhang : none,
      blocks && mask ? fieldOf(mask->field) : nullptr, std::move(sets), std::move(setOfBiome),
      recipe_.rock, recipe_.rock.bend.empty() ? nullptr : fieldOf(recipe_.rock.bend), nullptr,
      recipe_.materials, blocks ? recipe_.water.material : dry, parts_.waterMaterials.water,
      parts_.seaLevel, seed_, recipe_.strataOn};
  const bool anyOre = std::any_of(recipe_.ores.begin(), recipe_.ores.end(),
      [](const Ore& ore) { return ore.on && ore.share > 0; });
  if (recipe_.strataOn && anyOre) return withOres(inputs);
  return BlockStage::compile(inputs);
}

/// Of all that says which rock lies where, but for the ores.
Digest WorldCompiler::keyOf(const BlockInputs& inputs) const {
  DigestWriter key;
  key.text("rock").u32(1).u64(seed_).digest(landKey_).digest(bandsKey_).digest(floorKey_);
  key.f64(parts_.seaLevel).u8(static_cast<uint8_t>(recipe_.frame.kind));
  writeKey(key, recipe_.frame.y);
  if (recipe_.frame.kind == WorldKind::Level) {
    writeKey(key, recipe_.frame.x);
    writeKey(key, recipe_.frame.z);
    key.f32(parts_.level->walls());
    for (const LevelPlace& place : recipe_.level->places) key.text(place.material);
    for (const LevelProcess& process : recipe_.level->processes)
      if (const auto* courses = std::get_if<LevelCourses>(&process.what))
        key.text(courses->material);
    key.text(recipe_.level->open);
  }
  for (const Material& material : recipe_.materials) key.text(material.id);
  const auto field = [&](const std::shared_ptr<const Field>& one) {
    key.u8(one != nullptr);
    if (one) key.digest(one->key());
  };
  writeKey(key, inputs.overhang);
  field(inputs.overhangMask);
  writeKey(key, inputs.rock);
  field(inputs.bend);
  for (const LayerSet& set : inputs.sets) {
    writeKey(key, set.layers);
    for (const auto& one : set.fields) field(one);
  }
  for (const uint16_t set : inputs.setOfBiome) key.u32(set);
  return key.text(inputs.water).finish();
}

Result<std::shared_ptr<const BlockStage>> WorldCompiler::withOres(BlockInputs& inputs) {
  const bool blocks = recipe_.frame.blocks();
  const Digest rock = keyOf(inputs);
  auto plain = BlockStage::compile(inputs);
  if (!plain) return plain;
  // Each floor of a level looks at other bodies, all at one altitude.
  const AxisBounds flat{0, 1};
  const uint64_t own =
      blocks ? seed_
             : combine(seed_, static_cast<uint64_t>(static_cast<int64_t>(recipe_.level->floor)));
  const OreInputs ores{
      recipe_.ores, recipe_.rock, recipe_.materials, blocks ? recipe_.frame.y : flat, own};
  auto stage = pooled<OreStage>(
      pool_, OreStage::keyOf(ores, rock), [&]() -> Result<std::shared_ptr<const OreStage>> {
        const auto profile = pooled<RockProfile>(
            pool_, rock,
            [&] {
              WorldParts without = parts_;
              (blocks ? without.blocks : without.rock) = *plain;
              without.land = without.before;
              return unlessStopped(blocks ? measureRock(recipe_, without, kernels_, stop_)
                                          : measureFloor(recipe_, without, kernels_, stop_));
            },
            true);
        if (!profile) return profile.error();
        return OreStage::compile(ores, **profile);
      });
  if (!stage) return stage.error();
  inputs.ores = *stage;
  return BlockStage::compile(inputs);
}

// ---- levels and caves --------------------------------------------------------------------------

Status WorldCompiler::level() {
  if (recipe_.frame.kind != WorldKind::Level || !recipe_.level->on) return done();
  const Level& level = *recipe_.level;
  const Rect bounds = boundsOf(recipe_.frame);
  const auto rooms = readRooms(level, recipe_.folder);
  if (!rooms) return rooms.error();
  // What a floor is made of changes no cell of it.
  Level shape = level;
  shape.open.clear();
  shape.walls = Level{}.walls;
  for (LevelPlace& place : shape.places) place.material.clear();
  for (LevelProcess& process : shape.processes)
    if (auto* courses = std::get_if<LevelCourses>(&process.what)) courses->material.clear();
  DigestWriter writer;
  writer.text("floor").u64(seed_).i64(bounds.width).i64(bounds.length);
  writeKey(writer, shape);
  for (const auto& texts : *rooms)
    for (const std::string& text : texts) writer.text(text);
  floorKey_ = writer.finish();
  const auto floor =
      pooled<SoundedFloor>(pool_, floorKey_, [&]() -> Result<std::shared_ptr<const SoundedFloor>> {
        const auto maker = makerOf(recipe_, *rooms, kernels_);
        if (!maker) return maker.error();
        auto made = (*maker)->make(level.floor, {}, stop_);
        if (!made) return made.error();
        return counted(std::make_unique<SoundedFloor>(*made), pool_);
      });
  if (!floor) return floor.error();
  LevelStage::Materials materials{indexOf(recipe_.materials, level.open), {}, {}};
  for (const LevelPlace& place : level.places)
    materials.places.push_back(indexOf(recipe_.materials, place.material));
  for (const LevelProcess& process : level.processes) {
    const auto* courses = std::get_if<LevelCourses>(&process.what);
    materials.courses.push_back(courses && !courses->material.empty()
                                    ? indexOf(recipe_.materials, courses->material)
                                    : kUnassigned);
  }
  parts_.level =
      std::make_shared<const LevelStage>(*floor, bounds, level.walls, std::move(materials));
  parts_.lowest = 0;
  parts_.highest = parts_.level->walls();
  auto rock = blockStage();
  if (!rock) return rock.error();
  parts_.rock = *rock;
  return done();
}

Status WorldCompiler::caves() {
  if (!recipe_.caves->on || recipe_.caves->empty()) return done();
  const bool blocks = recipe_.frame.blocks();
  const CaveInputs inputs{*recipe_.caves, recipe_.materials, parts_.land, landKey_, parts_.moisture,
      recipe_.frame.y, recipe_.frame.kind == WorldKind::Side, !blocks,
      blocks ? parts_.blocks->water() : kOpen, parts_.water != nullptr,
      blocks ? parts_.blocks->fresh() : kOpen, static_cast<float>(parts_.seaLevel),
      blocks && recipe_.overhang.on ? static_cast<float>(recipe_.overhang.reach) : 0.0f, seed_,
      pool_.memo()};
  auto stage = CaveStage::compile(inputs, kernels_, &pool_);
  if (!stage) return stage.error();
  if (!(*stage)->empty()) parts_.caves = *stage;
  return done();
}

}  // namespace acre
