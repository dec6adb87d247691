#include "audit/plumb.h"

#include <fmt/format.h>

#include <algorithm>

#include "audit/cave_figures.h"
#include "base/fp_state.h"
#include "cave/caves.h"
#include "cave/level_stage.h"
#include "climate/biomes.h"
#include "field/field.h"
#include "noise/kernels.h"
#include "recipe/cave_recipe.h"
#include "recipe/describe.h"
#include "recipe/level_recipe.h"
#include "recipe/object_recipe.h"
#include "recipe/validate.h"
#include "strata/bands.h"
#include "strata/blocks.h"
#include "water/water_stage.h"
#include "world/block_value.h"
#include "world/world.h"

namespace acre {
namespace {

std::string materialNameOf(const World& world, MaterialIndex index) {
  const Material* material = world.catalogue().material(index);
  return material ? material->name : world.catalogue().materialId(index);
}

std::string materialNameOf(const World& world, const std::string& id) {
  for (const Material& m : world.recipe().materials)
    if (m.id == id) return m.name;
  return id;
}

std::string bandRule(const World& world, const Band& band) {
  const std::string name = materialNameOf(world, band.material);
  return band.below ? fmt::format("below {} = {}", thresholdText(*band.below), name)
                    : fmt::format("all above = {}", name);
}

/// The layers of a field at a cell, one after the other.
std::vector<PlumbLayer> layersAt(
    const World& world, const FieldRecipe& recipe, bool on, Cell cell) {
  const int32_t zero = 0;
  const Points at{1, {&cell.x, nullptr, &cell.z}, {&zero, nullptr, &zero}};
  const Field& field = *world.field(recipe.id);
  const Kernels& kernels = plainKernels();
  std::vector<PlumbLayer> rows;
  float sum = 0;
  for (size_t i = 0; i < recipe.layers.size(); ++i) {
    const Layer& layer = recipe.layers[i];
    PlumbLayer row;
    row.id = layer.id;
    row.name = layer.name;
    row.on = layer.on && on;
    row.combine = layer.combine;
    row.reshapes = reshapes(layer.source);
    row.pointer = fmt::format("{}/layers/{}", pointerOf(world.recipe(), recipe), i);
    row.before = row.after = sum;
    if (const int step = row.on ? field.stepOf(layer.id) : -1; step >= 0) {
      const FieldStep& s = field.steps()[static_cast<size_t>(step)];
      row.amount = s.amount;
      field.stepValues(kernels, s, at, &sum, &row.value);
      field.stepWeights(kernels, s, at, &row.weight);
      Field::joinStep(kernels, s, &row.after, &row.value, &row.weight, 1);
      sum = row.after;
    }
    rows.push_back(std::move(row));
  }
  return rows;
}

/// The sum after all layers, through the curve and clamp of the field.
float finished(const Field& field, const std::vector<PlumbLayer>& layers) {
  float value = layers.empty() ? 0 : layers.back().after;
  field.finish(plainKernels(), &value, 1);
  return value;
}

void fillFields(const World& world, Plumb& plumb) {
  const Recipe& recipe = world.recipe();
  plumb.layers = layersAt(world, recipe.heights, recipe.heightsOn, plumb.cell);
  plumb.sum = plumb.layers.empty() ? 0 : plumb.layers.back().after;
  plumb.base = finished(world.heightField(), plumb.layers);
  if (!recipe.climate.on) return;
  for (const ClimateAxis* axis : {&recipe.climate.temperature, &recipe.climate.moisture}) {
    PlumbAxis out;
    out.id = axis->field.id;
    out.name = axis->field.name;
    out.layers = layersAt(world, axis->field, true, plumb.cell);
    out.value = finished(*world.field(axis->field.id), out.layers);
    out.told = axis->told(static_cast<double>(out.value));
    out.unit = axis->unit;
    out.pointer = pointerOf(recipe, axis->field);
    plumb.climate.push_back(std::move(out));
  }
}

std::string biomeNameOf(const World& world, BiomeIndex index) {
  const Biome* biome = world.catalogue().biome(index);
  return biome ? biome->name : "no rule";
}

/// A value of a chart axis in its unit.
std::string toldOn(const AxisScale& axis, float value) {
  const std::string number = shortNumber(axis.told(static_cast<double>(value)));
  return axis.unit.empty() ? number : number + " " + axis.unit;
}

std::string howDecided(const World& world, const BiomeStage::At& at, std::string& pointer) {
  const Biomes& biomes = world.recipe().biomes;
  pointer = "/biomes/areas";
  if (world.biomes()->chart().fixedBiome(at.rule.slice) != kNoBiome) {
    pointer = fmt::format("/biomes/slices/{}/biome", at.rule.slice);
    return "whole slice";
  }
  if (at.drawn) {
    pointer =
        at.biome == kNoBiome ? "/biomes/list" : fmt::format("/biomes/list/{}/weight", at.biome - 1);
    return "drawn by weight";
  }
  if (at.rule.area >= 0) {
    pointer = fmt::format("/biomes/areas/{}", at.rule.area);
    return fmt::format("{} {} of {}",
        biomes.areas[static_cast<size_t>(at.rule.area)].painting ? "painting" : "area",
        at.rule.area + 1, biomes.areas.size());
  }
  if (biomes.rules == ChartRules::Points && at.biome != kNoBiome) {
    pointer = fmt::format("/biomes/list/{}/ideal", at.biome - 1);
    return "nearest ideal point";
  }
  return "no rule";
}

void fillBiome(const World& world, const BiomeStage::At& at, Plumb& plumb) {
  const Biomes& biomes = world.recipe().biomes;
  const BiomeStage& stage = *world.biomes();
  const Chart& chart = stage.chart();
  PlumbBiome& out = plumb.biome;
  out.on = true;
  out.nameX = fieldOf(world.recipe(), biomes.x.field)->name;
  out.nameY = fieldOf(world.recipe(), biomes.y.field)->name;
  out.x = at.x;
  out.y = at.y;
  out.toldX = toldOn(chart.x(), at.x);
  out.toldY = toldOn(chart.y(), at.y);
  if (biomes.slices.size() > 1) out.slice = biomes.slices[static_cast<size_t>(at.rule.slice)].name;
  if (at.rule.area >= 0) out.rule = biomes.areas[static_cast<size_t>(at.rule.area)].id;
  out.how = howDecided(world, at, out.pointer);
  out.biome = world.catalogue().biomeId(at.biome);
  out.name = biomeNameOf(world, at.biome);
  out.byRegion = stage.byRegion();
  out.coast = biomes.coast;
  out.shapes = stage.shapesHeight();
  out.relief = at.relief;
  out.noise = at.noise;
  if (at.region) {
    out.hasRegion = true;
    out.givenBack = at.givenBack;
    out.region = at.region->id;
    out.across = at.region->across;
    out.site = at.site;
    out.borderReach = stage.borderReach();
    out.siteCells = at.region->distance * static_cast<float>(out.borderReach);
    out.borderCells = at.borderCells;
    out.shiftX = at.shiftX;
    out.shiftZ = at.shiftZ;
    for (const auto& part : at.blend)
      out.blend.push_back({part.id, part.site, part.weight, part.part, part.relief});
  }
  if (at.drawn) return;
  for (const Chart::Change& change : chart.changes(at.x, at.y, plumb.base)) {
    const bool altitude = change.along == Chart::Change::Along::Altitude;
    const bool alongX = change.along == Chart::Change::Along::X;
    PlumbMargin margin;
    margin.value = altitude ? plumb.base : alongX ? at.x : at.y;
    margin.limit = change.at;
    margin.below = change.below;
    margin.otherwise = biomeNameOf(world, change.to);
    margin.rule = altitude ? "base height" : alongX ? out.nameX : out.nameY;
    margin.pointer = out.pointer;
    plumb.biomeMargins.push_back(std::move(margin));
  }
}

void fillMargins(const World& world, Plumb& plumb) {
  const Recipe& recipe = world.recipe();
  const BiomeIndex biome = biomeIndex(recipe.biomes, plumb.biome.biome);
  const BandTable& table = world.bandsOf(biome);
  const bool own = &table != &world.bands();
  const Biome* owner = own ? world.catalogue().biome(biome) : nullptr;
  if (owner && !owner->bandsOf.empty()) owner = biomeOf(recipe, owner->bandsOf);
  const std::vector<Band>& bands = owner ? *owner->bands : recipe.bands;
  const std::string where =
      owner ? fmt::format("/biomes/list/{}/bands", owner - recipe.biomes.list.data())
            : "/strata/bands";
  if (plumb.slopeBand >= 0 && !(plumb.level && plumb.level->at.depth == 0)) {
    const SlopeBand& rule = recipe.slopes[static_cast<size_t>(plumb.slopeBand)];
    plumb.bandId = rule.id;
    plumb.margins.push_back({fmt::format("steeper than {} = {}", shortNumber(rule.from),
                                 materialNameOf(world, rule.material)),
        plumb.slope, static_cast<float>(rule.from), false,
        plumb.band >= 0 ? materialNameOf(world, bands[static_cast<size_t>(plumb.band)].material)
                        : std::string(kUnassignedId),
        fmt::format("/strata/slopes/{}", plumb.slopeBand)});
    return;
  }
  if (plumb.level && plumb.level->at.depth == 0) return;  // Bands say nothing of open cells.
  if (plumb.band < 0) return;
  const Band& band = bands[static_cast<size_t>(plumb.band)];
  plumb.bandId = band.id;
  const float compared = plumb.level ? plumb.level->at.rock : plumb.height;
  const auto add = [&](int edge, bool below, int other) {
    plumb.margins.push_back(
        {bandRule(world, bands[static_cast<size_t>(edge)]), compared, table.endAt(edge, plumb.cell),
            below, materialNameOf(world, bands[static_cast<size_t>(other)].material),
            fmt::format("{}/{}/below", where, edge)});
  };
  if (plumb.band > 0) add(plumb.band - 1, false, plumb.band - 1);
  if (band.below) add(plumb.band, true, plumb.band + 1);
}

}  // namespace

std::string shortNumber(double value) {
  return fmt::format("{:.5g}", value == 0 ? 0.0 : value);
}

const char* combineWord(Combine combine) {
  switch (combine) {
    case Combine::Add:
      return "adds";
    case Combine::Multiply:
      return "multiplies";
    case Combine::Subtract:
      return "subtracts";
    case Combine::Minimum:
      return "minimum";
    case Combine::Maximum:
      return "maximum";
    case Combine::SmoothMinimum:
      return "smooth minimum";
    case Combine::SmoothMaximum:
      return "smooth maximum";
    case Combine::Mix:
      return "mixes in";
    case Combine::Replace:
      return "replaces";
  }
  return "";
}

namespace {

/// Ids of what solid ground is made of, and the pointer of what decided.
struct GroundNames {
  std::string layer, bed, ore, pointer;
};
GroundNames namesOf(const Recipe& recipe, const std::string& biomeId, const BlockStage::At& at) {
  GroundNames out;
  if (at.layer >= 0) {
    const Biome* biome = nullptr;
    const std::vector<DepthLayer>* layers = &recipe.layers;
    std::string path = "/strata/layers";
    for (size_t i = 0; i < recipe.biomes.list.size(); ++i)
      if (recipe.biomes.on && recipe.biomes.list[i].id == biomeId) biome = &recipe.biomes.list[i];
    if (biome && !biome->layersOf.empty()) biome = biomeOf(recipe, biome->layersOf);
    if (biome && biome->layers) {
      layers = &*biome->layers;
      path = fmt::format("/biomes/list/{}/layers", biome - recipe.biomes.list.data());
    }
    out.layer = (*layers)[static_cast<size_t>(at.layer)].id;
    out.pointer = fmt::format("{}/{}", path, at.layer);
  }
  if (at.bed >= 0 && static_cast<size_t>(at.bed) < recipe.rock.beds.size()) {
    out.bed = recipe.rock.beds[static_cast<size_t>(at.bed)].id;
    out.pointer = fmt::format("/strata/rock/beds/{}", at.bed);
  }
  if (at.ore >= 0) {
    out.ore = recipe.ores[static_cast<size_t>(at.ore)].id;
    out.pointer = fmt::format("/strata/ores/{}", at.ore);
  }
  return out;
}

void fillLevel(const World& world, const CellValue& value, Plumb& plumb) {
  const Recipe& recipe = world.recipe();
  const Level& level = *recipe.level;
  PlumbLevel& out = plumb.level.emplace();
  out.at = *value.level;
  out.open = world.columns().isOpen(plumb.cell);
  out.floor = level.floor;
  GroundNames names = namesOf(recipe, plumb.biome.biome, out.at.solid);
  out.layer = std::move(names.layer);
  out.bed = std::move(names.bed);
  out.ore = std::move(names.ore);
  out.pointer = names.pointer.empty() ? "/strata/bands" : std::move(names.pointer);
  if (out.at.depth == 0) out.pointer = "/level/open";
  const LevelStage& stage = *world.level();
  if (const auto* at = stage.courseAt(plumb.cell)) {
    const LaidCourse& course = stage.floor().courses[at->course];
    out.course = courseName(level, course);
    out.courseCell = static_cast<int>(at->place) + 1;
    out.courseLength = static_cast<int>(course.cells.size());
    if (stage.openMaterial(plumb.cell) != stage.openMaterial())
      out.pointer = fmt::format("/level/processes/{}/material", course.process);
  }
  if (out.at.place >= 0) {
    const LevelPlace& place = level.places[static_cast<size_t>(out.at.place)];
    out.place = place.id;
    out.placeName = place.name;
    out.from = place.from;
    for (const FoundPlace& found : world.level()->floor().places)
      if (static_cast<int>(found.place) == out.at.place) out.steps = found.steps;
    out.pointer = fmt::format("/level/places/{}", out.at.place);
  }
  if (out.at.solid.edited) out.generated = world.catalogue().materialId(out.at.solid.generated);
}

/// Where a refusal is decided, within a kind.
const char* memberOf(Refusal refusal) {
  static constexpr const char* kMembers[kRefusals] = {"", "/must", "/ground", "/apart", "/beside",
      "/biomes", "/wet", "/altitude", "/shore", "/wall", "/mouth", "/within", "/amount", "/caves",
      "/ground", "/slope", "/footing", "/distance"};
  return kMembers[static_cast<size_t>(refusal)];
}

/// Where the piece of an object is told of.
std::string pieceAt(const Recipe& recipe, const PlacedObject& object) {
  if (const ObjectPiece* piece = pieceOf(recipe, object))
    return fmt::format("/objects/pieces/{}", piece - recipe.objects->pieces.data());
  if (const TreeStyle* style = treeOf(recipe, object))
    return fmt::format("/objects/trees/{}", style - recipe.objects->trees.data());
  return fmt::format("/objects/kinds/{}", object.kind);
}

/// The conditions of a kind that name numbers, where a candidate is.
std::vector<PlumbObject::Condition> conditionsOf(
    const World& world, size_t kind, const Judged& one) {
  const ObjectKind& of = world.recipe().objects->kinds[kind];
  const bool caves = of.stands != ObjectStand::Ground;
  Cell cell = one.at.cell;
  if (world.layout().vertical().plane) cell.z = 0;
  std::vector<PlumbObject::Condition> out;
  const auto add = [&](Refusal refusal, const Span& span, auto&& value) {
    if (!span.low && !span.high) return;
    out.push_back({refusalName(refusal), static_cast<double>(value()), span.low, span.high,
        fmt::format("/objects/kinds/{}{}", kind, memberOf(refusal))});
  };
  const CellValue here = world.columns().at(cell);
  const bool onLevel = world.level() != nullptr;
  const bool stands = one.refusal == Refusal::None;
  if (!onLevel) {
    if (!caves || stands)
      add(Refusal::Altitude, of.altitude, [&] {
        return (caves ? static_cast<double>(one.y) : static_cast<double>(here.height)) -
               world.seaLevel();
      });
    add(Refusal::Shore, of.shore, [&] { return here.water.shore; });
    add(Refusal::Mouth, of.mouth, [&] { return world.objects().mouthFrom(cell); });
    if (!caves) add(Refusal::Slope, of.slope, [&] { return here.slope; });
    if (caves && stands)
      add(Refusal::Wall, of.wall, [&] { return world.ground().wallFrom(cell, one.y); });
  } else {
    add(Refusal::Wall, of.wall, [&] { return world.level()->wallFrom(cell); });
  }
  if (!of.field.empty())
    add(Refusal::Field, of.within, [&] {
      return world.field(of.field)->at({cell.x, 0}, {cell.z, 0});
    });
  if (const auto noise = world.objects().wallNoiseAt(kind, cell))
    out.push_back({"noise of the walls", static_cast<double>(*noise), of.noise->within.low,
        of.noise->within.high, fmt::format("/objects/kinds/{}/noise/within", kind)});
  if (const auto share = world.objects().shareAt(kind, one))
    add(Refusal::Amount, {share->least, {}}, [&] { return share->is; });
  return out;
}

/// What became of a candidate in the contest with its own kind.
void fillContest(const World& world, size_t kind, const Judged& one, PlumbObject& out) {
  constexpr double kWhole = 4294967296.0;
  const ObjectKind& of = world.recipe().objects->kinds[kind];
  if (of.must) return;
  out.priority = static_cast<double>(one.at.chance()) / kWhole;
  const int64_t r = of.distance;
  int64_t nearest = INT64_MAX;
  world.objects().judged(
      kind, grown({one.at.cell.x, one.at.cell.z, 1, 1}, r), [&](const Judged& other) {
        const int64_t x = other.at.cell.x - one.at.cell.x, z = other.at.cell.z - one.at.cell.z;
        const int64_t away = x * x + z * z;
        if (away == 0 || away >= r * r) return;
        if (one.refusal == Refusal::None) out.beaten += other.refusal == Refusal::Own;
        if (one.refusal != Refusal::Own || other.refusal != Refusal::None || away >= nearest)
          return;
        nearest = away;
        out.beatenBy = other.at.cell;
      });
}

void fillObjects(const World& world, Plumb& plumb) {
  if (!world.objects().any()) return;
  const Recipe& recipe = world.recipe();
  const Rect here{plumb.cell.x, plumb.cell.z, 1, 1};
  for (size_t k = 0; k < recipe.objects->kinds.size(); ++k) {
    const ObjectKind& kind = recipe.objects->kinds[k];
    world.objects().judged(k, here, [&](const Judged& one) {
      PlumbObject out{kind.id, {}, kind.name, fmt::format("{:016x}", one.at.hash),
          refusalName(one.refusal), refusalName(one.forced), 0, world.objects().reach(k),
          fmt::format("/objects/kinds/{}{}", k, memberOf(one.refusal))};
      if (one.refusal == Refusal::None) {
        const PlacedObject object = world.objects().objectOf(k, one);
        out.what = namesOf(recipe, object).second;
        out.name = titleOf(recipe, object);
        out.turn = object.turn;
        if (world.blocks()) out.y = object.y;
        if (!kind.what.empty()) out.draw = drawOf(one.at.hash);
      }
      fillContest(world, k, one, out);
      out.conditions = conditionsOf(world, k, one);
      plumb.objects.push_back(std::move(out));
    });
  }
  const auto reaching = world.objectCells().reaching(here);
  for (size_t n = 0; reaching && n < reaching->size(); ++n) {
    const PlacedObject& one = (*reaching)[n];
    if (one.cell == plumb.cell) continue;
    const auto [kind, what] = namesOf(recipe, one);
    PlumbObject& out = plumb.objects.emplace_back(
        PlumbObject{kind, what, titleOf(recipe, one), fmt::format("{:016x}", one.id), {}, {},
            one.turn, world.objects().reach(one.kind), pieceAt(recipe, one)});
    if (world.blocks()) out.y = one.y;
    out.stands = one.cell;
  }
}

/// Whose the cell is, or the block.
void fillPart(const World& world, Plumb& plumb) {
  if (!world.objectCells().any() || plumb.edited || plumb.outside) return;
  const int64_t y = plumb.block ? plumb.block->y : 0;
  const auto claims = world.objectCells().claims({plumb.cell.x, plumb.cell.z, 1, 1}, y, y + 1);
  if (!claims || claims->empty()) return;
  MaterialIndex made = kUnassigned;
  if (plumb.block) {
    if (plumb.block->at.edited) return;
    made = plumb.block->at.made;
  } else {
    float height;
    BiomeIndex biome;
    WaterAt water;
    world.columns().generated(1, &plumb.cell, &height, &biome, &made, &water, nullptr);
  }
  const CellClaim* won =
      world.objectCells().winner(claims->data(), claims->data() + claims->size(), made);
  if (!won) return;
  const auto reaching = world.objectCells().reaching({plumb.cell.x, plumb.cell.z, 1, 1}, y, y + 1);
  for (size_t n = 0; reaching && n < reaching->size(); ++n) {
    const PlacedObject& one = (*reaching)[n];
    if (one.id != won->id || one.kind != won->kind) continue;
    const auto [kind, what] = namesOf(world.recipe(), one);
    const ObjectPiece* piece = pieceOf(world.recipe(), one);
    const TreeStyle* style = treeOf(world.recipe(), one);
    plumb.part = PlumbPart{kind, what, titleOf(world.recipe(), one), fmt::format("{:016x}", one.id),
        piece ? piece->id : std::string(), style ? style->id : std::string(),
        world.catalogue().materialId(made), claims->size() - 1, pieceAt(world.recipe(), one), {}};
    if (const auto tree = world.objectCells().grown(one))
      plumb.part->grown = PlumbTree{won->rank == ObjectTrees::kLeafRank,
          style->variants == 0 ? plumb.part->id : std::to_string(tree->variant), tree->quarters,
          tree->mirrored, tree->wind.strength};
  }
}

void fillBlock(const World& world, std::optional<int64_t> y, Plumb& plumb) {
  const Recipe& recipe = world.recipe();
  PlumbBlock& block = plumb.block.emplace();
  const AxisBounds range = world.vertical();
  const auto top = static_cast<int64_t>(std::floor(plumb.height)) - 1;
  block.y = y.value_or(std::clamp(top, range.min, range.min + range.extent - 1));
  block.at = world.blockAt(plumb.cell, block.y);
  const BlockValue& at = block.at;
  plumb.outside = at.material == kOutside;
  plumb.material = world.catalogue().materialId(at.material);
  plumb.materialName = at.material == kOpen ? "Open" : materialNameOf(world, at.material);
  if (at.edited) block.generated = world.catalogue().materialId(at.generated);
  block.pointer = at.solid ? "/strata/rock" : "/heights/layers";
  if (at.water) block.pointer = at.fresh ? "/rivers/material" : "/water";
  GroundNames names = namesOf(recipe, plumb.biome.biome, at);
  block.layer = std::move(names.layer);
  block.bed = std::move(names.bed);
  block.ore = std::move(names.ore);
  if (!names.pointer.empty()) block.pointer = std::move(names.pointer);
  const CaveStage::At& cave = at.cave;
  block.ground = world.catalogue().materialId(at.ground);
  const bool dug = world.caves() && world.caves()->isGround(at.ground);
  if (cave.part != CaveStage::Part::None && dug) {
    const char* list = cave.part == CaveStage::Part::Tunnel ? "tunnels"
                       : cave.part == CaveStage::Part::Void ? "voids"
                                                            : "automata";
    const auto index = static_cast<size_t>(cave.index);
    block.cave = cave.part == CaveStage::Part::Tunnel ? recipe.caves->tunnels[index].id
                 : cave.part == CaveStage::Part::Void ? recipe.caves->voids[index].id
                                                      : recipe.caves->automata[index].id;
    if (cave.tunnel.system) block.system = cave.tunnel.system->name();
    block.pointer = fmt::format("/caves/{}/{}", list, index);
  } else if (cave.kind >= 0) {
    block.caveKind = recipe.caves->kinds[static_cast<size_t>(cave.kind)].id;
    if (at.made != at.ground) block.pointer = fmt::format("/caves/kinds/{}", cave.kind);
  }
}

/// Of all ways of the region that one nearest to a cell.
void fillWay(const WaterStage& stage, Cell cell, PlumbWater& w) {
  const auto region = stage.ways()->region({w.at.i, w.at.j}, {});
  double nearest = HUGE_VAL;
  for (const CourseWay& way : region->ways)
    for (size_t n = 0; way.found() && n < way.places.size(); ++n) {
      const Cell p = way.places[n];
      const double far =
          std::hypot(static_cast<double>(p.x - cell.x), static_cast<double>(p.z - cell.z));
      if (far >= nearest) continue;
      nearest = far;
      w.way = way.name;
      w.from = way.from;
      w.to = way.to;
      w.next.reset();
      if (n + 1 < way.places.size()) w.next = way.places[n + 1];
    }
  w.width = 2 * cellsOf(stage.ways()->radius());
}

void fillWater(const World& world, const CellValue& value, Plumb& plumb) {
  const Drainage& drainage = world.water()->drainage();
  Drainage::Reader net(drainage);
  PlumbWater w;
  w.at = value.water;
  w.before = value.before;
  w.spring = drainage.spring();
  plumb.height = value.height;
  const bool fresh = isFresh(w.at.kind);
  const WaterMaterials& materials = world.parts().waterMaterials;
  w.shown =
      !world.layout().blocks() && materials.top(w.at.kind, w.at.shore, kUnassigned) != kUnassigned;
  w.bank = w.shown && materials.bank != kUnassigned && w.at.shore <= materials.bankReach;
  const Brick brick = fresh ? Brick{w.at.i, w.at.j} : brickOf(plumb.cell);
  const auto tell = [&](Brick next) {
    w.next = net.nodeOf(next);
    const Drains into = net.drain(next).drains;
    w.end = into == Drains::Sea ? "the sea" : into == Drains::Lake ? "a lake" : "";
  };
  const DrainAt drain = net.drain(brick);
  if (w.at.kind == WaterKind::River && w.at.course) {
    fillWay(*world.water(), plumb.cell, w);
  } else if (w.at.kind == WaterKind::Lake) {
    w.area = net.lakeArea(brick);
    const auto way = net.outlet(brick);
    w.closed = !way || !way->found;
    if (!w.closed) tell(way->way[1]);
  } else if (drain.drains == Drains::On || drain.drains == Drains::Sink) {
    w.area = net.area(brick);
    w.width = cellsOf(drainage.widthOf(w.area));
    if (drain.drains == Drains::On)
      tell(drain.next);
    else
      w.end = "nowhere";
  }
  plumb.water = w;
}

}  // namespace

static void fillTiles(const World& world, std::optional<int64_t> y, Plumb& plumb) {
  const TileStage* stage = world.tiles().stage();
  if (!stage) return;
  const bool side = world.recipe().frame.kind == WorldKind::Side;
  const int64_t level = plumb.block ? plumb.block->y : y.value_or(0);
  const auto found = world.tiles().at(side ? Cell{plumb.cell.x, -level} : plumb.cell);
  for (size_t g = 0; g < found.size(); ++g) {
    const auto group = static_cast<int>(g);
    const TileOfCell& of = found[g];
    PlumbTile one{stage->group(group).id, stage->group(group).name, stage->set(group).id, {}, {},
        -1, of.variant, of.value, 0, false, fmt::format("/tiles/groups/{}", stage->placeOf(group))};
    one.method = wordsOf(stage->set(group).method)[static_cast<size_t>(stage->set(group).method)];
    const int bits = stage->cases(group).bits();
    const bool corners = stage->set(group).method == TileMethod::Corners;
    for (int k = 0; k < bits; ++k)
      one.mask += of.mask >> (corners ? bits - 1 - k : k) & 1 ? '1' : '0';
    if (of.value != TileValue::kNone) {
      one.number = of.number;
      one.turn = TileValue::orientation(of.value) % 4;
      one.mirrored = TileValue::orientation(of.value) >= 4;
    }
    plumb.tiles.push_back(std::move(one));
  }
}

Result<Plumb> plumbAt(const World& world, Cell cell, std::optional<int64_t> y) {
  const bool least = cell.x == INT64_MIN || cell.z == INT64_MIN;
  if (least || !checkGrid({cell.x - 1, cell.z - 1, 1, 3, 3}))
    return Error{Error::Code::InvalidInput,
        fmt::format("{},{} is beyond the world", cell.x, cell.z), "--at",
        "cells within 2^60 of the origin"};
  const FpState fp;
  Plumb plumb;
  plumb.cell = cell;
  plumb.chunk = world.layout().chunkOf(cell);
  plumb.local = world.layout().localOf(cell);
  plumb.seaLevel = world.seaLevel();
  fillFields(world, plumb);
  plumb.height = plumb.base;
  if (const BiomeStage* stage = world.biomes()) {
    const BiomeStage::At at = stage->at(cell, plumb.base);
    plumb.height = at.height;
    fillBiome(world, at, plumb);
  }
  plumb.before = plumb.height;
  const auto h = [&](int64_t dx, int64_t dz) {
    return world.columns().landHeightAt({cell.x + dx, cell.z + dz});
  };
  plumb.west = h(-1, 0);
  plumb.east = h(1, 0);
  plumb.north = h(0, -1);
  plumb.south = h(0, 1);
  if (world.recipe().fillDown) plumb.fill = world.columns().fillAt(cell);
  const CellValue value = world.at(cell);
  if (world.water()) fillWater(world, value, plumb);
  plumb.slope = value.slope;
  plumb.slopeBand = value.slopeBand;
  plumb.band = value.band;
  plumb.outside = value.material == kOutside;
  plumb.material = world.catalogue().materialId(value.material);
  plumb.materialName = materialNameOf(world, value.material);
  plumb.edited = !world.blocks() && world.editPass().at(cell, 0).has_value();
  if (value.level) fillLevel(world, value, plumb);
  if (!plumb.outside) fillMargins(world, plumb);
  if (world.blocks()) fillBlock(world, y, plumb);
  if (!plumb.outside) fillObjects(world, plumb);
  fillPart(world, plumb);
  if (!plumb.outside) fillTiles(world, y, plumb);
  return plumb;
}

}  // namespace acre
