#include "world/engine.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "base/fp_state.h"
#include "base/seed.h"
#include "cave/caves.h"
#include "cave/level_stage.h"
#include "climate/biomes.h"
#include "recipe/cave_recipe.h"
#include "recipe/json.h"
#include "recipe/json_words.h"
#include "recipe/validate.h"
#include "strata/blocks.h"
#include "strata/material_index.h"
#include "world/world.h"

namespace acre {

Result<std::unique_ptr<Engine>> Engine::create(const EngineOptions& options) {
  if (options.threads > 256)
    return Error{Error::Code::InvalidInput, fmt::format("{} threads", options.threads), "--threads",
                 "0 to 256"};
  const auto kernels = kernelsNamed(options.simd);
  if (!kernels) return kernels.error();
  if (const Status sound = selfTest(**kernels); !sound) return sound.error();
  return std::unique_ptr<Engine>(new Engine(options, **kernels));
}

Engine::Engine(const EngineOptions& options, const Kernels& kernels)
    : kernels_(&kernels),
      budget_(std::make_shared<MemoryBudget>(options.memoryLimit)),
      memoBytes_(options.memoBytes),
      executor_(options.threads) {}

std::shared_ptr<const void> Engine::find(const Digest& key) {
  const std::lock_guard lock(mutex_);
  const auto found = pool_.find(key);
  auto part = found == pool_.end() ? nullptr : found->second.lock();
  ++(part ? figures_.reused : figures_.compiled);
  return part;
}

void Engine::keep(const Digest& key, const std::shared_ptr<const void>& part) {
  const std::lock_guard lock(mutex_);
  std::erase_if(pool_, [](const auto& entry) { return entry.second.expired(); });
  pool_[key] = part;
}

Result<std::shared_ptr<const GreyPicture>> Engine::picture(const std::filesystem::path& file,
                                                           const std::string& where) {
  std::error_code none;
  const auto time = std::filesystem::last_write_time(file, none);
  const auto size = none ? 0 : std::filesystem::file_size(file, none);
  {
    const std::lock_guard lock(mutex_);
    if (const auto known = pictures_.find(file); known != pictures_.end() && !none)
      if (auto picture = known->second.picture.lock();
          picture && known->second.time == time && known->second.size == size)
        return picture;
  }
  auto picture = readGreyPicture(file, where);
  if (!picture) return picture;
  const std::lock_guard lock(mutex_);
  pictures_[file] = {time, size, *picture};
  return picture;
}

std::shared_ptr<const Distribution> Engine::measured(const Field& field, const Frame& frame,
                                                     uint64_t seed, const std::stop_token& stop) {
  DigestWriter writer;
  writer.text("distribution").digest(field.key()).u64(seed);
  for (const auto& axis : {frame.x, frame.z}) {
    writer.u8(axis.has_value());
    if (axis) writer.i64(axis->min).i64(axis->extent);
  }
  const Digest key = writer.finish();
  {
    const std::lock_guard lock(mutex_);
    if (const auto found = pool_.find(key); found != pool_.end())
      if (auto known = found->second.lock())
        return std::static_pointer_cast<const Distribution>(known);
  }
  auto taken = Distribution::take(field, SampleSites(frame.x, frame.z, field.widestFeature(), seed),
                                  *kernels_, stop);
  if (!taken) return nullptr;
  auto shared = std::make_shared<const Distribution>(std::move(*taken));
  const std::lock_guard lock(mutex_);
  pool_[key] = shared;
  measurements_.push_front(shared);
  if (measurements_.size() > kRecentWorlds) measurements_.pop_back();
  return shared;
}

std::shared_ptr<const Distribution> Engine::distribution(const World& world, const Field& field,
                                                         const std::stop_token& stop) {
  return measured(field, world.recipe().frame, world.seed(), stop);
}

namespace {

std::shared_ptr<const Field> fieldIn(const Recipe& recipe, const WorldParts& parts,
                                     const std::string& id) {
  if (id == kHeightsId) return parts.heights;
  if (id == kTemperatureId) return parts.temperature;
  if (id == kMoistureId) return parts.moisture;
  for (size_t i = 0; i < recipe.fields.size(); ++i)
    if (recipe.fields[i].id == id) return parts.fields[i];
  return nullptr;
}

}  // namespace

Result<std::shared_ptr<const BiomeStage>> Engine::biomeStage(const Recipe& recipe,
                                                             const WorldParts& parts, uint64_t seed,
                                                             const Distribution* heights,
                                                             FieldCompiler& compiler, Digest& key) {
  const Biomes& biomes = recipe.biomes;
  const auto fieldOf = [&](const std::string& id) { return fieldIn(recipe, parts, id); };
  BiomeInputs inputs{biomes,
                     scaleOf(recipe, biomes.x),
                     scaleOf(recipe, biomes.y),
                     {},
                     parts.seaLevel,
                     seed,
                     parts.heights,
                     fieldOf(biomes.x.field),
                     fieldOf(biomes.y.field),
                     {},
                     {}};
  for (const Slice& slice : biomes.slices)
    if (slice.below) inputs.sliceEnds.push_back(resolve(*slice.below, parts.seaLevel, heights));
  if (const RegionWarp& warp = biomes.regions.warp; biomes.regions.on && warp.cells != 0) {
    if (!warp.x.empty()) {
      inputs.warpX = fieldOf(warp.x);
      inputs.warpZ = fieldOf(warp.z);
    } else {
      for (auto [axis, field] : {std::pair("x", &inputs.warpX), std::pair("z", &inputs.warpZ)}) {
        Layer layer;
        layer.id = "shift";
        layer.source = warp.noise;
        // No id of a recipe holds a slash.
        auto compiled =
            compiler.compile({std::string("regions/shift-") + axis, "Shift", {layer}, {}, {}});
        if (!compiled) return compiled.error();
        *field = *compiled;
      }
    }
  }
  key = BiomeStage::keyOf(inputs);
  if (auto known = std::static_pointer_cast<const BiomeStage>(find(key))) return known;
  auto stage = BiomeStage::compile(inputs, *kernels_);
  if (stage) keep(key, *stage);
  return stage;
}

std::shared_ptr<const Distribution> Engine::shapedHeights(const WorldParts& parts,
                                                          const Recipe& recipe, uint64_t seed) {
  const SampleSites sites(recipe.frame.x, recipe.frame.z, parts.heights->widestFeature(), seed);
  std::vector<float> values(static_cast<size_t>(sites.columns() * sites.rows()));
  const auto width = static_cast<size_t>(sites.columns());
  std::vector<Cell> cells(width);
  std::vector<int64_t> x(width), z(width);
  const std::vector<int32_t> q(width);
  std::vector<float> base(width);
  for (int64_t j = 0; j < sites.rows(); ++j) {
    for (size_t i = 0; i < width; ++i) {
      cells[i] = sites.at(static_cast<int64_t>(i), j);
      x[i] = cells[i].x;
      z[i] = cells[i].z;
    }
    const int count = static_cast<int>(width);
    parts.heights->points(*kernels_,
                          {count, {x.data(), nullptr, z.data()}, {q.data(), nullptr, q.data()}},
                          base.data());
    parts.biomes->scattered(*kernels_, count, cells.data(), base.data(),
                            values.data() + static_cast<size_t>(j) * width, nullptr);
  }
  return std::make_shared<const Distribution>(std::move(values), sites.exact());
}

std::shared_ptr<const RockProfile> Engine::rockProfile(const Recipe& recipe,
                                                       const WorldParts& parts, const Digest& key) {
  if (auto known = std::static_pointer_cast<const RockProfile>(find(key))) return known;
  // Fewer columns where they are high: what counts is the number of blocks.
  constexpr int64_t kColumns = 4096, kBlocks = int64_t{1} << 22;
  const AxisBounds& range = recipe.frame.y;
  const int64_t columns = std::clamp<int64_t>(kBlocks / range.extent, 64, kColumns);
  const World bare(recipe, parts, *kernels_);
  // Of the endless world, so that bounds only crop.
  std::optional<AxisBounds> plane;
  if (recipe.frame.kind == WorldKind::Side) plane = AxisBounds{0, 1};
  const SampleSites sites({}, plane, parts.heights->widestFeature(), bare.seed());
  const int64_t all = sites.columns() * sites.rows();
  const int64_t taken = std::min(columns, all);
  auto profile = std::make_shared<RockProfile>();
  profile->bottom = range.min;
  profile->counts.assign(static_cast<size_t>(range.extent),
                         std::vector<uint32_t>(recipe.materials.size() + 1));
  constexpr int kBatch = 64;
  constexpr int32_t kLevels = 4096;
  for (int64_t first = 0; first < taken; first += kBatch) {
    const auto count = static_cast<int>(std::min<int64_t>(kBatch, taken - first));
    std::vector<Cell> cells;
    std::vector<int64_t> x, z;
    for (int64_t k = first; k < first + count; ++k) {
      // Spread over the strata by the golden section, so that rows and columns are all met.
      const int64_t at =
          static_cast<int64_t>(static_cast<uint64_t>(k) * 2654435761u % static_cast<uint64_t>(all));
      const Cell cell = sites.at(at % sites.columns(), at / sites.columns());
      cells.push_back(cell);
      x.push_back(cell.x);
      z.push_back(cell.z);
    }
    const auto n = static_cast<size_t>(count);
    std::vector<float> heights(n);
    std::vector<BiomeIndex> biomes(n);
    std::vector<MaterialIndex> surface(n);
    bare.scattered(count, cells.data(), heights.data(), biomes.data(), surface.data());
    const BlockColumns places{
        count, x.data(),       z.data(),       0,
        1,     heights.data(), surface.data(), parts.biomes ? biomes.data() : nullptr};
    for (int64_t y = 0; y < range.extent; y += kLevels) {
      const BlockLevels levels{range.min + y,
                               static_cast<int32_t>(std::min<int64_t>(kLevels, range.extent - y))};
      std::vector<MaterialIndex> blocks(n * static_cast<size_t>(levels.count));
      parts.blocks->fillPlain(*kernels_, places, levels, blocks.data());
      for (size_t k = 0; k < blocks.size(); ++k)
        if (blocks[k] < profile->counts[0].size())
          ++profile->counts[static_cast<size_t>(y) + k / n][blocks[k]];
    }
  }
  keep(key, profile);
  const std::lock_guard lock(mutex_);
  measurements_.push_front(profile);
  if (measurements_.size() > kRecentWorlds) measurements_.pop_back();
  return profile;
}

std::shared_ptr<const RockProfile> Engine::floorProfile(const Recipe& recipe,
                                                        const WorldParts& parts) {
  constexpr int64_t kSamples = 1024;  // Along each side, at most.
  Recipe untouched = recipe;
  untouched.edits = nullptr;
  const World bare(std::move(untouched), parts, *kernels_);
  const Rect all = bare.bounds();
  const int64_t step = (std::max(all.width, all.height) + kSamples - 1) / kSamples;
  const auto across = [&](int64_t side) { return static_cast<int32_t>((side + step - 1) / step); };
  const SampleGrid grid{all.x, all.z, step, across(all.width), across(all.height)};
  const auto room = static_cast<size_t>(grid.width) * static_cast<size_t>(grid.height);
  std::vector<MaterialIndex> materials(room);
  std::vector<float> heights(room);
  auto profile = std::make_shared<RockProfile>();
  profile->counts.assign(1, std::vector<uint32_t>(recipe.materials.size() + 1));
  if (!bare.sample(grid, heights.data(), materials.data())) return profile;
  for (size_t at = 0; at < room; ++at)
    if (heights[at] > 0 && materials[at] < profile->counts[0].size())
      ++profile->counts[0][materials[at]];
  return profile;
}

std::shared_ptr<const BlockStage> Engine::columnStage(const Recipe& recipe, const WorldParts& parts,
                                                      uint64_t seed) {
  const Overhang none;
  const std::string dry;
  return *BlockStage::compile({none,
                               nullptr,
                               {},
                               {},
                               recipe.rock,
                               nullptr,
                               nullptr,
                               recipe.materials,
                               dry,
                               parts.seaLevel,
                               seed,
                               true,
                               true});
}

namespace {

Result<std::shared_ptr<const LevelMaker>> makerOf(const Recipe& recipe, const RoomTexts& rooms,
                                                  const Kernels& kernels) {
  const Rect bounds = boundsOf(recipe.frame);
  return LevelMaker::compile(*recipe.level, static_cast<int32_t>(bounds.width),
                             static_cast<int32_t>(bounds.height), rooms, seedNumber(recipe.seed),
                             kernels);
}

}  // namespace

Result<std::shared_ptr<const LevelMaker>> Engine::levelMaker(const Recipe& recipe,
                                                             const Kernels& kernels) {
  if (const Status valid = validate(recipe); !valid) return valid.error();
  if (recipe.frame.kind != WorldKind::Level)
    return Error{Error::Code::InvalidInput, "only levels have floors", "/frame/kind", "level"};
  const auto rooms = readRooms(*recipe.level, recipe.folder);
  if (!rooms) return rooms.error();
  return makerOf(recipe, *rooms, kernels);
}

Result<std::shared_ptr<const LevelStage>> Engine::levelStage(const Recipe& recipe, uint64_t seed,
                                                             const std::stop_token& stop) {
  const Level& level = *recipe.level;
  const Rect bounds = boundsOf(recipe.frame);
  const auto rooms = readRooms(level, recipe.folder);
  if (!rooms) return rooms.error();
  // What a floor is made of changes no cell of it.
  Level shape = level;
  shape.open.clear();
  shape.walls = Level{}.walls;
  for (LevelPlace& place : shape.places) place.name = place.material = std::string();
  for (LevelProcess& process : shape.processes) process.name.clear();
  DigestWriter writer;
  writer.text("floor").u64(seed).i64(bounds.width).i64(bounds.height).text(levelJson(shape).dump());
  for (const auto& texts : *rooms)
    for (const std::string& text : texts) writer.text(text);
  const Digest key = writer.finish();
  auto floor = std::static_pointer_cast<const LevelFloor>(find(key));
  if (!floor) {
    const auto maker = makerOf(recipe, *rooms, *kernels_);
    if (!maker) return maker.error();
    auto made = (*maker)->make(level.floor, {}, stop);
    if (!made) return made.error();
    floor = *made;
    keep(key, floor);
  }
  std::vector<MaterialIndex> places;
  for (const LevelPlace& place : level.places)
    places.push_back(indexOf(recipe.materials, place.material));
  return std::make_shared<const LevelStage>(
      floor, bounds, level.walls, indexOf(recipe.materials, level.open), std::move(places));
}

Result<std::shared_ptr<const BlockStage>> Engine::blockStage(const Recipe& recipe,
                                                             const WorldParts& parts,
                                                             uint64_t seed) {
  const auto setOf = [&](const std::vector<DepthLayer>& layers) {
    LayerSet set{layers, {}, 0};
    for (const DepthLayer& layer : layers)
      set.fields.push_back(layer.field.empty() ? nullptr : fieldIn(recipe, parts, layer.field));
    set.deepest = deepestOf(recipe, layers);
    return set;
  };
  std::vector<LayerSet> sets = {setOf(recipe.layers)};
  std::vector<uint16_t> setOfBiome;
  const auto& list = recipe.biomes.list;
  std::map<const Biome*, uint16_t> known;
  for (size_t i = 0; i < list.size() && recipe.biomes.on; ++i) {
    const Biome* source = list[i].layersOf.empty() ? &list[i] : biomeOf(recipe, list[i].layersOf);
    if (!source->layers) continue;
    const auto [at, fresh] = known.try_emplace(source, static_cast<uint16_t>(sets.size()));
    if (fresh) sets.push_back(setOf(*source->layers));
    setOfBiome.resize(list.size() + 1);
    setOfBiome[i + 1] = at->second;
  }
  const bool blocks = recipe.frame.blocks();
  const Overhang none;
  const std::string dry;
  BlockInputs inputs{blocks ? recipe.overhang : none,
                     blocks && recipe.overhang.mask
                         ? fieldIn(recipe, parts, recipe.overhang.mask->field)
                         : nullptr,
                     std::move(sets),
                     std::move(setOfBiome),
                     recipe.rock,
                     recipe.rock.bend.empty() ? nullptr : fieldIn(recipe, parts, recipe.rock.bend),
                     nullptr,
                     recipe.materials,
                     blocks ? recipe.water.material : dry,
                     parts.seaLevel,
                     seed,
                     recipe.strataOn};
  auto plain = BlockStage::compile(inputs);
  const bool anyOre = std::any_of(recipe.ores.begin(), recipe.ores.end(),
                                  [](const Ore& ore) { return ore.on && ore.share > 0; });
  if (!plain || !recipe.strataOn || !anyOre) return plain;

  // The profile of the rock depends on everything but the ores, and what comes after them.
  Recipe bare = withoutNames(recipe);
  bare.ores.clear();
  bare.caves = {};
  bare.edits = nullptr;
  bare.frame.chunkSize = Frame{}.chunkSize;
  bare.frame.shape = Frame{}.shape;
  DigestWriter writer;
  writer.text("rock profile").digest(recipeId(bare)).digest(parts.heights->key());
  const Digest profileKey = writer.finish();
  WorldParts without = parts;
  (blocks ? without.blocks : without.rock) = *plain;
  const auto profile =
      blocks ? rockProfile(recipe, without, profileKey) : floorProfile(recipe, without);
  // Each floor of a level looks at other bodies, all at one altitude.
  const AxisBounds flat{0, 1};
  const uint64_t own =
      blocks ? seed
             : combine(seed, static_cast<uint64_t>(static_cast<int64_t>(recipe.level->floor)));
  const OreInputs oreInputs{recipe.ores, recipe.rock, recipe.materials,
                            blocks ? recipe.frame.y : flat, own};
  const Digest key = OreStage::keyOf(oreInputs, profileKey);
  auto ores = std::static_pointer_cast<const OreStage>(find(key));
  if (!ores) {
    ores = OreStage::compile(oreInputs, *profile);
    keep(key, ores);
  }
  inputs.ores = ores;
  return BlockStage::compile(inputs);
}

Result<std::shared_ptr<const CaveStage>> Engine::caveStage(const Recipe& recipe,
                                                           const WorldParts& parts, uint64_t seed,
                                                           const Digest& landKey) {
  const CaveInputs inputs{*recipe.caves,
                          recipe.materials,
                          {parts.heights, parts.biomes},
                          landKey,
                          parts.moisture,
                          recipe.frame.y,
                          recipe.frame.kind == WorldKind::Side,
                          !recipe.frame.blocks(),
                          recipe.frame.blocks() ? parts.blocks->water() : kOpen,
                          static_cast<float>(parts.seaLevel),
                          recipe.frame.blocks() && recipe.overhang.on
                              ? static_cast<float>(recipe.overhang.reach)
                              : 0.0f,
                          seed,
                          memo()};
  return CaveStage::compile(inputs, *kernels_, this);
}

Result<std::shared_ptr<const World>> Engine::compile(const Recipe& recipe, bool passing,
                                                     const std::stop_token& stop) {
  const FpState fp;
  if (const Status valid = validate(recipe); !valid) return valid.error();
  const uint64_t seed = seedNumber(recipe.seed);

  // Stages that are off leave level ground.
  const FieldRecipe level{kHeightsId, "Heights", {}, {}, {}};
  FieldCompiler compiler({recipe.fields, recipe.heightsOn ? recipe.heights : level, recipe.frame.x,
                          recipe.frame.z, recipe.folder, seed, &recipe.climate},
                         *this, *kernels_);
  WorldParts parts;
  auto base = compiler.compile(recipe.heightsOn ? recipe.heights : level);
  if (!base) return base.error();
  parts.heights = *base;

  const auto holdsShare = [](const std::optional<Threshold>& t) { return t && t->share; };
  bool bandShares = false, sliceShares = false;
  const auto inBands = [&](const std::vector<Band>& bands) {
    for (const Band& band : bands) bandShares = bandShares || holdsShare(band.below);
  };
  inBands(recipe.bands);
  for (const SlopeBand& slope : recipe.slopes)
    bandShares = bandShares || holdsShare(slope.above) || holdsShare(slope.below);
  for (const Biome& biome : recipe.biomes.list)
    if (recipe.biomes.on && biome.bands) inBands(*biome.bands);
  for (const Slice& slice : recipe.biomes.slices)
    sliceShares = sliceShares || (recipe.biomes.on && holdsShare(slice.below));
  std::shared_ptr<const Distribution> heights;
  if (bandShares || sliceShares || recipe.frame.seaShare)
    heights = measured(*parts.heights, recipe.frame, seed, {});
  parts.seaLevel = recipe.frame.seaShare
                       ? static_cast<double>(heights->valueAt(*recipe.frame.seaShare))
                       : recipe.frame.seaLevel;

  // What the heights read is there already; the rest may ask how far it lies above the sea.
  compiler.setSeaLevel(parts.seaLevel);
  for (const FieldRecipe& field : recipe.fields) {
    auto compiled = compiler.compile(field);
    if (!compiled) return compiled.error();
    parts.fields.push_back(*compiled);
  }
  if (recipe.climate.on)
    for (auto [axis, part] : {std::pair(&recipe.climate.temperature, &parts.temperature),
                              std::pair(&recipe.climate.moisture, &parts.moisture)}) {
      auto compiled = compiler.compile(axis->field);
      if (!compiled) return compiled.error();
      *part = *compiled;
    }

  Digest biomeKey;
  if (recipe.biomes.on) {
    auto stage = biomeStage(recipe, parts, seed, heights.get(), compiler, biomeKey);
    if (!stage) return stage.error();
    parts.biomes = *stage;
    // The share of a band is one of the heights that the biomes leave.
    if (bandShares && parts.biomes->shapesHeight()) heights = shapedHeights(parts, recipe, seed);
  }

  const auto bandTable = [&](const std::vector<Band>& bands) {
    const StrataInputs strata{recipe.materials, recipe.slopes, bands, recipe.strataOn, seed,
                              parts.seaLevel,   heights.get()};
    const Digest key = BandTable::keyOf(strata);
    auto table = std::static_pointer_cast<const BandTable>(find(key));
    if (!table) {
      table = BandTable::compile(strata);
      keep(key, table);
    }
    return table;
  };
  parts.bands = bandTable(recipe.bands);
  const auto& list = recipe.biomes.list;
  for (size_t i = 0; i < list.size() && recipe.biomes.on; ++i) {
    const Biome* source = list[i].bandsOf.empty() ? &list[i] : biomeOf(recipe, list[i].bandsOf);
    if (!source->bands) continue;
    parts.biomeBands.resize(list.size() + 1);
    parts.biomeBands[i + 1] = bandTable(*source->bands);
  }
  // Single precision may come out a little beyond what double precision finds possible.
  const Range surface = possibleSurface(recipe);
  const double slack = 1 + 1e-5 * std::max(std::abs(surface.low), std::abs(surface.high));
  parts.lowest = static_cast<float>(surface.low - slack);
  parts.highest = static_cast<float>(surface.high + slack);
  if (recipe.frame.blocks()) {
    auto stage = blockStage(recipe, parts, seed);
    if (!stage) return stage.error();
    parts.blocks = *stage;
  } else {
    parts.blocks = columnStage(recipe, parts, seed);
  }
  if (recipe.frame.kind == WorldKind::Level && recipe.level->on) {
    auto level = levelStage(recipe, seed, stop);
    if (!level) return level.error();
    parts.level = *level;
    parts.lowest = 0;
    parts.highest = (*level)->walls();
    auto rock = blockStage(recipe, parts, seed);
    if (!rock) return rock.error();
    parts.rock = *rock;
  }
  if (recipe.caves->on && !recipe.caves->empty()) {
    DigestWriter land;
    land.text("land").digest(parts.heights->key()).digest(biomeKey);
    auto caves = caveStage(recipe, parts, seed, land.finish());
    if (!caves) return caves.error();
    if (!(*caves)->empty()) parts.caves = *caves;
  }
  auto world = std::make_shared<const World>(recipe, std::move(parts), *kernels_, memo());
  if (passing) return world;
  const std::lock_guard lock(mutex_);
  recent_.push_front(world);
  if (recent_.size() > kRecentWorlds) recent_.pop_back();
  return world;
}

Engine::PoolFigures Engine::poolFigures() const {
  const std::lock_guard lock(mutex_);
  return figures_;
}

}  // namespace acre
