#include <fmt/format.h>

#include <algorithm>
#include <chrono>

#include "audit/block_census.h"
#include "audit/census.h"
#include "audit/check_kinds.h"
#include "audit/checks.h"
#include "audit/level_audit.h"
#include "audit/object_figures.h"
#include "audit/plumb.h"
#include "audit/skyline_figures.h"
#include "audit/tile_figures.h"
#include "audit/water_checks.h"
#include "audit/water_summary.h"
#include "cave/level_stage.h"
#include "cli/common.h"
#include "recipe/json.h"
#include "recipe/validate.h"
#include "world/world.h"

namespace acre::cli {
namespace {

// ---- plumb -------------------------------------------------------------------------------------

struct PlumbOptions {
  RecipeOptions recipe;
  std::string at = "0,0";
  std::optional<int64_t> y;
  std::string against;
  std::optional<int64_t> againstY;
};

Result<int> plumb(const PlumbOptions& options, Streams& streams) {
  const auto cell = parseColumn(options.at, "--at", "--y");
  if (!cell) return cell.error();
  for (const auto& [y, option] :
      {std::pair(options.y, "--y"), std::pair(options.againstY, "--against-y")})
    if (y)
      if (const Status near = checkLevel(*y, option); !near) return near.error();
  const auto loaded = load(options.recipe);
  if (!loaded) return loaded.error();
  if (const Status in = checkBeside(planOf(*loaded->world), *cell, "--at"); !in) return in.error();
  const auto card = plumbAt(*loaded->world, *cell, options.y);
  if (!card) return card.error();
  if (options.against.empty()) {
    streams.out << (options.recipe.json ? plumbJson(*card) : plumbText(*card));
    return 0;
  }
  const auto other = parseColumn(options.against, "--against", "--against-y");
  if (!other) return other.error();
  if (const Status in = checkBeside(planOf(*loaded->world), *other, "--against"); !in)
    return in.error();
  const auto second =
      plumbAt(*loaded->world, *other, options.againstY ? options.againstY : options.y);
  if (!second) return second.error();
  const auto differences = plumbDifferences(*card, *second);
  if (options.recipe.json) {
    Json rows = Json::array();
    for (const PlumbDifference& d : differences)
      rows.push_back({{"what", d.label}, {"first", d.first}, {"second", d.second}});
    streams.out << rows.dump(2) << "\n";
    return 0;
  }
  streams.out << fmt::format("{:<28} {:>16} {:>16}\n", "", options.at, options.against);
  for (const PlumbDifference& d : differences)
    streams.out << fmt::format("{:<28} {:>16} {:>16}\n", d.label, d.first, d.second);
  if (differences.empty()) streams.out << "no difference\n";
  return 0;
}

// ---- census ------------------------------------------------------------------------------------

struct CensusArguments {
  RecipeOptions recipe;
  std::string area;
};

Json biomesJson(const World& world, const AreaCensus& census) {
  Json out = Json::array();
  for (const BiomeShare& b : census.biomes) {
    Json one = {{"id", b.id}, {"name", b.name}, {"cells", b.cells}, {"share", b.share}};
    if (b.example) one["example"] = {b.example->x, b.example->z};
    if (!census.sampled) {
      Json neighbours = Json::array();
      for (const Neighbour& n : b.neighbours)
        neighbours.push_back(
            {{"id", planOf(world).catalogue().biomeId(n.biome)}, {"edges", n.edges}});
      one["pieces"] = b.pieces;
      one["meanPiece"] = b.meanPiece();
      one["largestPiece"] = b.largest;
      one["neighbours"] = std::move(neighbours);
    }
    out.push_back(std::move(one));
  }
  return out;
}

Json regionsJson(const RegionSizes& r) {
  return {{"count", r.count}, {"cut", r.cut}, {"mean", r.mean}, {"smallest", r.smallest},
      {"largest", r.largest}, {"islets", r.islets}, {"isletCells", r.isletCells},
      {"histogram", r.histogram}};
}

std::string biomesText(const World& world, const AreaCensus& census) {
  std::string out = fmt::format("{:<26} {:>12} {:>9}", "biome", "cells", "share");
  if (!census.sampled)
    out += fmt::format(" {:>8} {:>12} {:>12}  neighbours", "pieces", "mean piece", "largest");
  out += "\n";
  for (const BiomeShare& b : census.biomes) {
    out += fmt::format("  {:<24} {:>12} {:>7.2f} %", b.name, b.cells, b.share * 100);
    if (!census.sampled) {
      std::string neighbours;
      for (size_t i = 0; i < std::min<size_t>(3, b.neighbours.size()); ++i) {
        const Biome* other = planOf(world).catalogue().biome(b.neighbours[i].biome);
        neighbours += (neighbours.empty() ? "" : ", ") + (other ? other->name : "no rule");
      }
      if (b.neighbours.size() > 3)
        neighbours += fmt::format(" and {} more", b.neighbours.size() - 3);
      out += fmt::format(
          " {:>8} {:>12.0f} {:>12}  {}", b.pieces, b.meanPiece(), b.largest, neighbours);
    }
    out += "\n";
  }
  if (const auto& r = census.regions)
    out += fmt::format(
        "{} regions wholly inside, {} cut by the edge; {:.0f} cells each ({} to {}); {} islets of "
        "{} cells\n",
        r->count, r->cut, r->mean, r->smallest, r->largest, r->islets, r->isletCells);
  return out;
}

Json jsonOf(const FieldFigures& f) {
  Json octaves = Json::array();
  for (const OctaveFigure& o : f.octaves)
    octaves.push_back({{"width", o.width}, {"weight", o.weight}, {"narrow", o.narrow}});
  Json out = {{"id", f.id}, {"name", f.name}, {"low", f.low}, {"high", f.high}, {"mean", f.mean},
      {"samples", f.samples}, {"exact", f.exact}, {"rough", f.rough},
      {"nanosPerCell", f.nanosPerCell}, {"histogram", f.histogram}};
  if (!f.source.empty()) out["source"] = f.source;
  if (!f.octaves.empty()) out["octaves"] = octaves;
  return out;
}

std::string textOf(const FieldFigures& f, const char* indent) {
  std::string line = fmt::format(
      "{}{:<24} {:>10} to {:<10} mean {:<10} rough {:>5.1f} %  {:>6.2f} ns/cell", indent, f.name,
      shortNumber(f.low), shortNumber(f.high), shortNumber(f.mean), f.rough * 100, f.nanosPerCell);
  if (!f.source.empty()) line += "  " + f.source;
  std::string widths;
  for (const OctaveFigure& o : f.octaves)
    widths +=
        fmt::format("{}{}{}", widths.empty() ? "" : " ", shortNumber(o.width), o.narrow ? "!" : "");
  if (!widths.empty()) line += "  widths " + widths;
  return line + "\n";
}

Json blocksJson(const World& world, const BlockCensus& census) {
  Json volumes = Json::object(), slices = Json::array(), ores = Json::array();
  for (const auto& [m, n] : census.volumes) volumes[planOf(world).catalogue().materialId(m)] = n;
  for (const DepthSlice& s : census.slices) {
    Json own = Json::object();
    for (const auto& [m, n] : s.blocks) own[planOf(world).catalogue().materialId(m)] = n;
    slices.push_back({{"low", s.low}, {"high", s.high}, {"blocks", own}});
  }
  for (const OreFigures& o : census.ores)
    ores.push_back({{"id", o.id}, {"asked", o.asked}, {"measured", o.measured()},
        {"found", o.found}, {"hosts", o.hosts}});
  Json caves = Json::array();
  for (const CaveFigures& c : census.caves)
    caves.push_back({{"id", c.id}, {"cells", c.cells}, {"flooded", c.flooded}});
  return {{"area", {census.area.x, census.area.z, census.area.width, census.area.length}},
      {"blocks", census.blocks}, {"volumes", volumes}, {"slices", slices}, {"ores", ores},
      {"caves", caves}, {"belowSurface", census.ground}, {"steps", census.steps},
      {"filledDown", census.filled}, {"edited", census.edited}};
}

std::string blocksText(const World& world, const BlockCensus& census) {
  std::string out = fmt::format("{} blocks in {} columns from {},{}\n", census.blocks,
      census.columns, census.area.x, census.area.z);
  for (const auto& [m, n] : census.volumes)
    out += fmt::format("  {:<24} {:>12} {:>7.2f} %\n", planOf(world).catalogue().materialId(m), n,
        100.0 * static_cast<double>(n) / static_cast<double>(census.blocks));
  for (const OreFigures& o : census.ores)
    out += fmt::format("  {:<24} asked {:.3g} % of its host rock, measured {:.3g} % ({} of {})\n",
        o.id, o.asked * 100, o.measured() * 100, o.found, o.hosts);
  out += "  ores by depth:\n";
  for (const DepthSlice& s : census.slices) {
    out += fmt::format("    y {:>5} to {:<5}", s.low, s.high - 1);
    for (const OreFigures& o : census.ores)
      for (const auto& [m, n] : s.blocks)
        if (planOf(world).catalogue().material(m) &&
            planOf(world).catalogue().material(m)->name == o.name)
          out += fmt::format("  {} {}", o.id, n);
    out += "\n";
  }
  const auto share = [&](uint64_t cells) {
    return census.ground ? 100 * static_cast<double>(cells) / static_cast<double>(census.ground)
                         : 0.0;
  };
  uint64_t dug = 0;
  for (const CaveFigures& c : census.caves) {
    dug += c.cells;
    out += fmt::format("  caves {:<18} {:>12} {:>7.2f} % of what lies below the surface", c.id,
        c.cells, share(c.cells));
    out += c.flooded ? fmt::format(", {} under water\n", c.flooded) : "\n";
  }
  if (census.caves.size() > 1)
    out += fmt::format("  all caves {:<14} {:>12} {:>7.2f} %\n", "", dug, share(dug));
  out += fmt::format(
      "  {} steps of more than one block, {} faces filled down\n", census.steps, census.filled);
  if (census.edited) out += fmt::format("  {} blocks changed by hand\n", census.edited);
  return out;
}

Json levelJson(const LevelFigures& f) {
  return {{"floor", f.floor}, {"open", f.open}, {"pieces", f.pieces}, {"largest", f.largest},
      {"outline", f.outline}, {"margin", f.margin}, {"rooms", f.rooms}, {"dug", f.dug},
      {"visited", f.visited.cells}, {"ofCells", f.visited.all}};
}

std::string levelText(const LevelFigures& f, const Level& level) {
  std::string out = fmt::format(
      "floor {}: {:.2f} % open in {} piece{}, the largest of {} cells; outline {} sides, margin {} "
      "({} asked for), {} room{}, {} cells dug to connect\n",
      f.floor, f.open * 100, f.pieces, f.pieces == 1 ? "" : "s", f.largest, f.outline, f.margin,
      level.margin, f.rooms, f.rooms == 1 ? "" : "s", f.dug);
  if (f.visited.all > 0)
    out += fmt::format("  outlines looked at {} cells of {} that all their steps have ({:.2f} %)\n",
        f.visited.cells, f.visited.all,
        100 * static_cast<double>(f.visited.cells) / static_cast<double>(f.visited.all));
  return out;
}

Json waterJson(const WaterSummary& s, const Falls& falls) {
  const auto [small, middle, large] = s.sizes();
  Json ends = Json::object();
  for (const RiverEnd end :
      {RiverEnd::Sea, RiverEnd::Lake, RiverEnd::ClosedLake, RiverEnd::River, RiverEnd::Nowhere})
    ends[endName(end)] = s.ends(end);
  Json out = {{"area", {s.area.x, s.area.z, s.area.width, s.area.length}},
      {"rivers", s.rivers.size()}, {"length", s.length}, {"ends", std::move(ends)},
      {"lakes", {{"small", small}, {"middle", middle}, {"large", large}}},
      {"lakeShare", s.lakeShare}, {"riverShare", s.riverShare}, {"step", s.step},
      {"deepestCut", s.deepest}, {"falls", falls.falls.size()}, {"highestFall", falls.highest()},
      {"cellsOfWater", falls.water}};
  if (!s.rivers.empty())
    out["longest"] = {{"name", s.rivers.front().name()}, {"length", s.rivers.front().length},
        {"drop", s.rivers.front().drop}};
  return out;
}

std::string waterText(const WaterSummary& s, const Falls& falls) {
  std::string out = fmt::format(
      "water of {} x {} cells from {},{}\n", s.area.width, s.area.length, s.area.x, s.area.z);
  for (const std::string& line : summaryLines(s)) out += "  " + line + "\n";
  return out + fmt::format("  {} cells of water, {} of them beside a fall, {} high at most\n",
                   falls.water, falls.falls.size(), falls.highest());
}

/// What the census has found.
struct CensusFigures {
  struct Field {
    FieldFigures whole;
    std::vector<FieldFigures> layers;
    std::map<std::string, SkylineFigures> skylines;  // By layer.
  };
  AreaCensus area;
  std::optional<BlockCensus> blocks;
  std::optional<LevelFigures> level;
  std::optional<WaterSummary> water;
  Falls falls;
  std::vector<Field> fields;
  double seconds;
  std::vector<ObjectFigures> objects = {};
  std::optional<TileFigures> tiles = {};
};

/// Placed in 1,000 cells of a biome.
double placedIn(const ObjectFigures& one, const ObjectFigures::InBiome& in) {
  return in.share > 0 ? static_cast<double>(in.count) * 1000 / (one.cells * in.share) : 0;
}

Json objectsJson(const World& world, const std::vector<ObjectFigures>& figures) {
  Json out = Json::array();
  for (const ObjectFigures& one : figures) {
    Json biomes = Json::array();
    for (const ObjectFigures::InBiome& in : one.biomes)
      biomes.push_back({{"biome", planOf(world).catalogue().biomeId(in.biome)}, {"share", in.share},
          {"asked", in.asked}, {"count", in.count}, {"placed", placedIn(one, in)}});
    Json refused = Json::object();
    for (size_t n = 1; n < kRefusals; ++n)
      refused[refusalName(static_cast<Refusal>(n))] = one.refused[n];
    out.push_back({{"name", one.name}, {"cells", one.cells}, {"count", one.count},
        {"placed", one.placed}, {"asked", one.asked}, {"fit", one.most},
        {"candidates", one.candidates}, {"refused", refused}, {"biomes", std::move(biomes)}});
    if (one.wood > 0) out.back().update({{"wood", one.wood}, {"leaves", one.leaves}});
    if (one.squares > 0)
      out.back().update(
          {{"squares", one.squares}, {"missing", one.missing}, {"forced", one.forced}});
  }
  return out;
}

std::string objectsText(const World& world, const std::vector<ObjectFigures>& figures) {
  if (figures.empty()) return {};
  std::string out = fmt::format("objects, over {:.0f} cells:\n", figures[0].cells);
  for (const ObjectFigures& one : figures) {
    if (one.squares > 0) {
      out += fmt::format("  {:<24} {:>12} {} of {} squares have one, {} by force; refused: {}\n",
          one.name, one.count, one.squares - one.missing, one.squares, one.forced, one.reasons());
      continue;
    }
    out += fmt::format(
        "  {:<24} {:>12} {:>9.3f} of 1,000 cells, {:.3f} asked, {:.1f} fit; refused: {}\n",
        one.name, one.count, one.placed, one.asked, one.most, one.reasons());
    if (one.wood > 0)
      out += fmt::format("    {} blocks of wood and {} of leaves, {:.0f} a tree\n", one.wood,
          one.leaves, static_cast<double>(one.wood + one.leaves) / static_cast<double>(one.count));
    for (const ObjectFigures::InBiome& in : one.biomes)
      if (in.count > 0 || in.asked > 0)
        out += fmt::format("    in {:<21} {:>10} {:>9.3f} of 1,000 cells, {:.3f} asked\n",
            planOf(world).catalogue().biomeId(in.biome), in.count, placedIn(one, in), in.asked);
  }
  return out;
}

Json tilesJson(const TileFigures& figures) {
  Json groups = Json::array();
  for (const TileGroupFigures& of : figures.groups) {
    Json cases = Json::object();
    for (size_t n = 0; n < of.cases.size(); ++n)
      if (of.cases[n] > 0) cases[std::to_string(n)] = of.cases[n];
    groups.push_back({{"group", of.group}, {"set", of.set}, {"cells", of.cells},
        {"tiles", of.tiles}, {"cases", std::move(cases)}, {"ambiguous", of.ambiguous},
        {"unmatched", of.unmatched}, {"hidden", of.hidden}});
  }
  return {{"cells", figures.cells}, {"ungrouped", figures.ungrouped}, {"groups", groups}};
}

std::string tilesText(const TileFigures& figures) {
  std::string out = fmt::format(
      "tiles, over {} cells, {} of them of no group:\n", figures.cells, figures.ungrouped);
  for (const TileGroupFigures& of : figures.groups) {
    out += fmt::format(
        "  {:<24} {:>12} tiles of {} cases", of.group, of.tiles, of.byFrequency().size());
    if (of.ambiguous > 0) out += fmt::format(", {} ambiguous", of.ambiguous);
    if (of.unmatched > 0) out += fmt::format(", {} without a picture", of.unmatched);
    if (of.hidden > 0) out += fmt::format(", {} hidden by later groups", of.hidden);
    out += "\n";
  }
  return out;
}

std::vector<CensusFigures::Field> measuredFields(Engine& engine, const World& world) {
  std::vector<CensusFigures::Field> out;
  for (const FieldRecipe* field : fieldsOf(planOf(world).recipe())) {
    const auto whole = figuresOf(engine, world, *field);
    if (!whole) continue;
    CensusFigures::Field& one = out.emplace_back();
    one.whole = *whole;
    for (const Layer& layer : field->layers)
      if (const auto figures = layerFigures(world, *field, layer.id)) {
        one.layers.push_back(*figures);
        if (auto skyline = skylineFigures(world, *field, layer.id))
          one.skylines.emplace(layer.id, std::move(*skyline));
      }
  }
  return out;
}

Json censusJson(const World& world, const CensusFigures& figures, const std::string& area) {
  Json materials = Json::array(), list = Json::array();
  for (const MaterialShare& m : figures.area.materials)
    materials.push_back({{"id", m.id}, {"name", m.name}, {"cells", m.cells}, {"share", m.share}});
  for (const CensusFigures::Field& f : figures.fields) {
    Json one = jsonOf(f.whole);
    one["layers"] = Json::array();
    for (const FieldFigures& layer : f.layers) {
      one["layers"].push_back(jsonOf(layer));
      if (const auto s = f.skylines.find(layer.id); s != f.skylines.end())
        one["layers"].back()["skyline"] = {{"low", s->second.low}, {"high", s->second.high},
            {"columns", s->second.columns}, {"atLimits", s->second.atLimits},
            {"beyond", s->second.beyond}};
    }
    list.push_back(one);
  }
  const AreaCensus& counted = figures.area;
  Json out = {{"of", area.empty() ? "sample of the world" : "area " + area},
      {"cells", counted.cells},
      {"heights", {{"low", counted.low}, {"high", counted.high}, {"mean", counted.mean}}},
      {"materials", materials}, {"unassigned", counted.unassigned}, {"seconds", figures.seconds},
      {"fields", list}};
  if (planOf(world).biomes()) out["biomes"] = biomesJson(world, counted);
  if (counted.regions) out["regions"] = regionsJson(*counted.regions);
  if (figures.blocks) out["blocks"] = blocksJson(world, *figures.blocks);
  if (figures.level) out["level"] = levelJson(*figures.level);
  if (!figures.objects.empty()) out["objects"] = objectsJson(world, figures.objects);
  if (figures.water) out["water"] = waterJson(*figures.water, figures.falls);
  if (figures.tiles) out["tiles"] = tilesJson(*figures.tiles);
  return out;
}

void tellCensus(
    const World& world, const CensusFigures& figures, const std::string& area, std::ostream& out) {
  const Recipe& recipe = planOf(world).recipe();
  const AreaCensus& counted = figures.area;
  out << fmt::format("{} cells {}, heights {} to {}, mean {}\n", counted.cells,
      area.empty() ? "spread over the world" : "of " + area, shortNumber(counted.low),
      shortNumber(counted.high), shortNumber(counted.mean));
  for (const MaterialShare& m : counted.materials)
    out << fmt::format("  {:<24} {:>12} {:>7.2f} %\n", m.name, m.cells, m.share * 100);
  if (planOf(world).biomes()) out << biomesText(world, counted);
  if (figures.blocks) out << blocksText(world, *figures.blocks);
  if (figures.level) out << levelText(*figures.level, *recipe.level);
  if (figures.water) out << waterText(*figures.water, figures.falls);
  out << objectsText(world, figures.objects);
  if (figures.tiles) out << tilesText(*figures.tiles);
  for (const CensusFigures::Field& f : figures.fields) {
    out << textOf(f.whole, "");
    if (const ClimateAxis* axis = climateAxisOf(recipe, f.whole.id); axis && !axis->unit.empty())
      out << fmt::format("  in {}: {} to {}, mean {}\n", axis->unit,
          shortNumber(axis->told(f.whole.low)), shortNumber(axis->told(f.whole.high)),
          shortNumber(axis->told(f.whole.mean)));
    for (const FieldFigures& layer : f.layers) {
      out << textOf(layer, "  ");
      if (const auto s = f.skylines.find(layer.id); s != f.skylines.end())
        out << fmt::format(
            "    limits {} and {}: {:.2f} % of {} columns at them, {:.2f} % beyond\n",
            shortNumber(s->second.low), shortNumber(s->second.high), s->second.shareAt() * 100,
            s->second.columns, s->second.shareBeyond() * 100);
    }
  }
}

Result<int> census(const CensusArguments& options, Streams& streams) {
  Rect area;
  if (!options.area.empty()) {
    const auto parsed = parseArea(options.area, "--area");
    if (!parsed) return parsed.error();
    area = *parsed;
  }
  const auto loaded = load(options.recipe);
  if (!loaded) return loaded.error();
  const World& world = *loaded->world;
  acre::CensusOptions how;
  how.threads = options.recipe.threadCount();
  if (streams.progress)
    how.progress = [&](double share) {
      streams.err << fmt::format("\r{:3.0f} %", share * 100) << (share >= 1 ? "\r      \r" : "")
                  << std::flush;
    };
  const auto begin = std::chrono::steady_clock::now();
  auto counted = options.area.empty() ? Result<AreaCensus>(*censusOfSample(world, {}, how.threads))
                                      : censusOf(world, area, how);
  if (!counted) return counted.error();
  CensusFigures out{std::move(*counted), {}, {}, {}, {}, {}, 0};
  out.seconds = std::chrono::duration<double>(std::chrono::steady_clock::now() - begin).count();

  // Blocks by the million are only counted over an area; without one over a square at the origin.
  if (planOf(world).blocks()) {
    const bool plane = planOf(world).layout().vertical().plane;
    Rect over = area;
    if (options.area.empty()) over = sampleVolume(world);
    if (plane) over.z = 0, over.length = 1;
    auto volume = censusOfBlocks(world, over);
    if (!volume) return volume.error();
    out.blocks = std::move(*volume);
  }

  if (planOf(world).water()) {
    const Rect about{-kWaterLookedAt, -kWaterLookedAt, 2 * kWaterLookedAt, 2 * kWaterLookedAt};
    const Rect over =
        intersection(options.area.empty() ? about : summaryPart(area), planOf(world).bounds());
    if (!over.empty()) {
      auto summary = waterSummary(world, over);
      auto falls = fallsIn(world, over);
      if (!summary) return summary.error();
      if (!falls) return falls.error();
      out.water = std::move(*summary);
      out.falls = std::move(*falls);
    }
  }

  constexpr int64_t kSide = kObjectsLookedAt;
  out.objects = objectFigures(
      world, options.area.empty() ? Rect{-kSide / 2, -kSide / 2, kSide, kSide} : objectsPart(area))
                    .value();

  if (world.tiles().stage()) {
    const auto arts = TileArts::of(world);
    out.tiles = tileFigures(world, arts ? &*arts : nullptr,
        options.area.empty() ? Rect{-kSide / 2, -kSide / 2, kSide, kSide}
                             : middlePart(area, kTilesCounted));
  }

  if (planOf(world).level()) out.level = figuresOf(planOf(world).level()->floor(), planeOf(world));

  out.fields = measuredFields(*loaded->engine, world);
  if (options.recipe.json)
    streams.out << censusJson(world, out, options.area).dump(2) << "\n";
  else
    tellCensus(world, out, options.area, streams.out);
  return 0;
}

// ---- check -------------------------------------------------------------------------------------

struct CheckOptions {
  RecipeOptions recipe;
  std::string apply;  ///< Id of a check whose mends are made.
  std::string out;
};

/// Writes the recipe with what mends all findings of one check.
Result<int> mend(const CheckOptions& options, const Recipe& recipe, const std::vector<Check>& found,
    Streams& streams) {
  Recipe mended = recipe;
  std::string ids;
  int made = 0;
  for (const Check& c : found) {
    if (!c.apply) continue;
    if (ids.find(c.id) == std::string::npos) ids += (ids.empty() ? "" : ", ") + c.id;
    if (c.id != options.apply) continue;
    c.apply(mended);
    ++made;
    streams.out << fmt::format("{}: {}\n", c.pointer, c.mend);
  }
  if (made == 0)
    return Error{Error::Code::InvalidInput,
        fmt::format("nothing that \"{:.80}\" found has a mend", options.apply), "--apply",
        ids.empty() ? "no finding of this world has one" : ids};
  if (const Status valid = validate(mended); !valid) return valid.error();
  if (const Status written = writeRecipeFile(options.out, mended); !written) return written.error();
  return 0;
}

Result<int> check(const CheckOptions& asked, Streams& streams) {
  const RecipeOptions& options = asked.recipe;
  const auto loaded = load(options);
  if (!loaded) return loaded.error();
  const auto found = runChecks(*loaded->engine, *loaded->world);
  if (!asked.apply.empty()) return mend(asked, planOf(*loaded->world).recipe(), *found, streams);
  if (options.json) {
    Json list = Json::array();
    for (const Check& c : *found)
      list.push_back({{"id", c.id}, {"sentence", c.sentence}, {"place", c.pointer},
          {"mend", c.mend}, {"what", whatIs(c.id)}});
    streams.out << list.dump(2) << "\n";
  } else {
    for (const Check& c : *found)
      streams.out << fmt::format("{}: {} [{}]{}{}\n", c.pointer, c.sentence, c.id,
          c.mend.empty() ? "" : "; mend: ", c.mend);
    if (found->empty()) streams.out << "nothing found\n";
  }
  return found->empty() ? 0 : 1;
}

}  // namespace

void addPlumb(CLI::App& app, Action& action) {
  const auto options = std::make_shared<PlumbOptions>();
  options->recipe.addTo(app);
  app.add_option("--at", options->at, "X,Z: the cell; default 0,0");
  app.add_option("--y", options->y, "The level of one block of its column");
  auto* against =
      app.add_option("--against", options->against, "X,Z: another one; prints only what differs");
  app.add_option("--against-y", options->againstY, "The level of that one; default: that of --y")
      ->needs(against);
  app.callback([options, &action] {
    action = [options](Streams& streams) { return plumb(*options, streams); };
  });
}

void addCensus(CLI::App& app, Action& action) {
  const auto options = std::make_shared<CensusArguments>();
  options->recipe.addTo(app);
  app.add_option("--area", options->area,
      "X,Z,WxH: count every cell of a rectangle; default: 65,536 cells of the whole world");
  app.callback([options, &action] {
    action = [options](Streams& streams) { return census(*options, streams); };
  });
}

void addCheck(CLI::App& app, Action& action) {
  const auto options = std::make_shared<CheckOptions>();
  options->recipe.addTo(app);
  auto* apply =
      app.add_option("--apply", options->apply, "ID: makes what mends all that this check found");
  auto* out = app.add_option("--out", options->out, "The file of the mended recipe")->needs(apply);
  apply->needs(out);
  options->recipe.outputs = [options = options.get()]() -> std::vector<std::filesystem::path> {
    if (options->out.empty()) return {};
    return {options->out, editsFileOf(options->out)};
  };
  app.callback([options, &action] {
    action = [options](Streams& streams) { return check(*options, streams); };
  });
}

}  // namespace acre::cli
