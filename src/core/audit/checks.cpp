#include "audit/checks.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <set>

#include "audit/cave_checks.h"
#include "audit/census.h"
#include "audit/chart_sample.h"
#include "audit/ground_checks.h"
#include "audit/level_audit.h"
#include "audit/object_checks.h"
#include "audit/object_figures.h"
#include "audit/plumb.h"
#include "audit/tile_figures.h"
#include "audit/tree_checks.h"
#include "audit/water_checks.h"
#include "base/text.h"
#include "climate/biomes.h"
#include "recipe/validate.h"
#include "strata/bands.h"
#include "world/world.h"

namespace acre {
namespace {

/// Finds the layer again in another recipe value.
std::function<void(Recipe&)> onLayer(
    const std::string& field, const std::string& layer, const std::function<void(Layer&)>& edit) {
  return [=](Recipe& recipe) {
    FieldRecipe* f = fieldOf(recipe, field);
    if (!f) return;
    for (Layer& l : f->layers)
      if (l.id == layer) edit(l);
  };
}

class Auditor {
 public:
  Auditor(Engine& engine, const World& world, const std::stop_token& stop)
      : engine_(engine), world_(world), recipe_(world.recipe()), stop_(stop) {}

  std::optional<std::vector<Check>> run() {
    for (const FieldRecipe* field : fieldsOf(recipe_))
      if (recipe_.heightsOn || field != &recipe_.heights)
        checkField(*field, pointerOf(recipe_, *field));
    if (world_.biomes()) checkBiomes();
    if (recipe_.strataOn) checkStrata();
    if (!checkGround(world_, stop_, found_) || !checkCaves(world_, stop_, found_) ||
        !checkLevel(world_, stop_, found_) || !checkWater(world_, stop_, found_) ||
        !checkObjects(world_, stop_, found_) || !checkPieces(world_, stop_, found_) ||
        !checkTrees(world_, stop_, found_) || !checkTiles(world_, stop_, found_))
      return {};
    if (stop_.stop_requested()) return {};
    return std::move(found_);
  }

 private:
  void add(Check check) {
    // Fields are checked alike, wherever they stand.
    if (check.pointer.starts_with("/climate/")) check.stage = StageId::Climate;
    found_.push_back(std::move(check));
  }

  void checkField(const FieldRecipe& field, const std::string& at) {
    for (size_t i = 0; i < field.layers.size(); ++i) {
      if (stop_.stop_requested()) return;
      const Layer& layer = field.layers[i];
      if (layer.on) checkLayer(field, layer, fmt::format("{}/layers/{}", at, i));
    }
    const Field* compiled = world_.field(field.id);
    if (field.clamp && compiled) {
      const auto d = engine_.distribution(world_, *compiled, stop_);
      if (!d) return;
      const double cut = d->shareBetween(-HUGE_VALF,
                             std::nextafter(static_cast<float>(field.clamp->low), HUGE_VALF)) +
                         1 - d->shareBelow(static_cast<float>(field.clamp->high));
      if (cut > 0.25)
        add({"range",
            fmt::format(
                "the clamp of {} holds {} of the world at its ends", field.name, percentText(cut)),
            StageId::Heights, at + "/clamp", field.id, {}, {}, {}});
    }
  }

  void checkLayer(const FieldRecipe& field, const Layer& layer, const std::string& at) {
    const auto* noise = std::get_if<NoiseSource>(&layer.source);
    if (noise && checkLattice(field, layer, *noise, at)) return;
    if (noise) checkNarrow(field, layer, *noise, at);
    const auto figures = layerFigures(world_, field, layer.id, stop_);
    if (!figures) return;
    checkEffect(field, layer, *figures, at);
    if (const auto* rescale = std::get_if<RescaleSource>(&layer.source))
      checkRescale(field, layer, *rescale, *figures, at);
  }

  /// Gradient noise is 0 on every lattice point: a whole number of lattice cells per cell without
  /// a shift shows nothing else.
  bool checkLattice(const FieldRecipe& field, const Layer& layer, const NoiseSource& noise,
      const std::string& at) {
    const bool vanishes = noise.basis == Basis::Gradient || noise.basis == Basis::Gradient2002;
    const bool unscattered =
        (layer.sampling && !layer.sampling->scatter) || noise.basis == Basis::Gradient2002;
    if (!vanishes || !unscattered || layer.warp || noise.rotate) return false;
    const SamplingOffset offset = layer.sampling.value_or(SamplingOffset());
    const auto frequencies = octaveFrequencies(noise, at);
    if (!frequencies) return false;
    const bool all = std::all_of(frequencies->begin(), frequencies->end(), [&](double f) {
      const auto whole = [&](double v) { return std::floor(v) == v; };
      const double perCell = f * 0x1p-48;
      return whole(perCell) && whole(offset.x * perCell) && whole(offset.z * perCell);
    });
    if (!all) return false;
    const double mended = noise.width * 0.5;
    add({"flat",
        fmt::format("{} is flat: width {} samples only lattice points", layer.name,
            shortNumber(noise.width)),
        StageId::Heights, at + "/sampling", layer.id,
        fmt::format("set the sampling offset to {}", shortNumber(mended)),
        onLayer(field.id, layer.id,
            [mended](Layer& l) {
              l.sampling = SamplingOffset{mended, mended, false};
            }),
        {}});
    return true;
  }

  void checkNarrow(const FieldRecipe& field, const Layer& layer, const NoiseSource& noise,
      const std::string& at) {
    if (noise.basis == Basis::White) return;  // It is meant to be static.
    const auto octaves = octavesOf(layer);
    if (octaves.front().narrow) {
      add({"aliasing",
          fmt::format(
              "{} has features of {} cells: below two cells neighbours have nothing in common",
              layer.name, shortNumber(noise.width)),
          StageId::Heights, at + "/width", layer.id, "set the width to 8",
          onLayer(field.id, layer.id, [](Layer& l) { std::get<NoiseSource>(l.source).width = 8; }),
          {}});
      return;
    }
    const auto narrow = std::find_if(
        octaves.begin(), octaves.end(), [](const OctaveFigure& o) { return o.narrow; });
    if (narrow == octaves.end()) return;
    const auto keep = static_cast<int>(narrow - octaves.begin());
    const auto count = static_cast<int>(octaves.size());
    const std::string which = keep + 1 == count ? fmt::format("octave {} is", count)
                                                : fmt::format("octaves {}-{} are", keep + 1, count);
    add({"static-octaves",
        fmt::format("{}: {} narrower than two cells and add only static", layer.name, which),
        StageId::Heights, at + "/octaves", layer.id,
        fmt::format("use {} octave{}", keep, keep == 1 ? "" : "s"),
        onLayer(field.id, layer.id,
            [keep](Layer& l) { std::get<NoiseSource>(l.source).octaves = keep; }),
        {}});
  }

  void checkEffect(const FieldRecipe& field, const Layer& layer, const FieldFigures& figures,
      const std::string& at) {
    std::string why;
    const bool adds = layer.combine == Combine::Add || layer.combine == Combine::Subtract;
    const bool zero = figures.low == 0 && figures.high == 0;
    const bool one = figures.low == 1 && figures.high == 1;
    const Field* compiled = world_.field(field.id);
    const auto& step = compiled->steps()[static_cast<size_t>(compiled->stepOf(layer.id))];
    if (!reshapes(layer.source) && ((adds && zero) || (layer.combine == Combine::Multiply && one) ||
                                       (layer.combine == Combine::Mix && layer.amount == 0)))
      why = layer.amplitude == 0 && zero    ? "its amplitude is 0"
            : layer.combine == Combine::Mix ? "its share is 0"
                                            : fmt::format("its value is always {}", zero ? 0 : 1);
    if (const auto* terrace = std::get_if<TerraceSource>(&layer.source);
        terrace && terrace->flat == 0)
      why = "its steps have no flat part";
    if (why.empty() && step.mask) {
      const auto d = engine_.distribution(world_, *step.mask->field, stop_);
      if (!d) return;
      const float reach = step.mask->ends.soft * 0.5f;
      if (d->shareBetween(step.mask->ends.low - reach, step.mask->ends.high + reach) == 0)
        why = fmt::format("its mask lets it act nowhere: {} reaches {} to {}", layer.mask->field,
            shortNumber(d->lowest()), shortNumber(d->highest()));
    }
    if (why.empty()) return;
    add({"no-effect", fmt::format("{} has no effect: {}", layer.name, why), StageId::Heights, at,
        layer.id, "switch it off", onLayer(field.id, layer.id, [](Layer& l) { l.on = false; }),
        {}});
  }

  void checkRescale(const FieldRecipe& field, const Layer& layer, const RescaleSource& rescale,
      const FieldFigures& figures, const std::string& at) {
    const double low = std::min(rescale.toLow, rescale.toHigh);
    const double high = std::max(rescale.toLow, rescale.toHigh);
    const double slack = (high - low) * 1e-6;
    if (figures.low >= low - slack && figures.high <= high + slack) return;
    // Share by the histogram, whose bins are counted whole when their middle is outside.
    uint64_t out = 0, all = 0;
    const double bin = (figures.high - figures.low) / FieldFigures::kBins;
    for (size_t i = 0; i < figures.histogram.size(); ++i) {
      const double middle = figures.low + (static_cast<double>(i) + 0.5) * bin;
      all += figures.histogram[i];
      if (middle < low || middle > high) out += figures.histogram[i];
    }
    add({"range",
        fmt::format("{} leaves its range {} to {}: it reaches {} to {}, {} of the world outside",
            layer.name, shortNumber(low), shortNumber(high), shortNumber(figures.low),
            shortNumber(figures.high),
            percentText(static_cast<double>(out) / static_cast<double>(all))),
        StageId::Heights, at + "/from", layer.id, "clamp it to the range",
        onLayer(field.id, layer.id,
            [low, high](Layer& l) {
              l.clamp = Clamp{low, high};
            }),
        {}});
  }

  void checkBiomes() {
    const Biomes& biomes = recipe_.biomes;
    const Chart& chart = world_.biomes()->chart();
    constexpr StageId kStage = StageId::Biomes;
    if (biomes.list.empty()) {
      add({"no-biome", "there is no biome: no cell is covered", kStage, "/biomes/list", {}, {}, {},
          {}});
      return;
    }
    for (size_t i = 0; i < biomes.areas.size() && biomes.rules == ChartRules::Areas; ++i) {
      const Area& area = biomes.areas[i];
      if (!chart.hidden(static_cast<int>(i))) continue;
      const Biome* biome = biomeOf(recipe_, area.biome);
      add({"hidden-rule",
          fmt::format("{} of the chart, {}, decides nothing: earlier ones cover all of it",
              area.painting ? fmt::format("painting {}", i + 1) : fmt::format("area {}", i + 1),
              biome ? biome->name : area.id),
          kStage, fmt::format("/biomes/areas/{}", i), area.id, "delete it",
          [id = area.id](Recipe& r) {
            std::erase_if(r.biomes.areas, [&](const Area& a) { return a.id == id; });
          },
          {}});
    }
    checkWarp();
    const auto sample = chartSample(world_, stop_);
    if (!sample) return;
    const bool drawn =
        world_.biomes()->byRegion() && biomes.regions.choice == Regions::Choice::Weights;
    if (std::abs(sample->correlation) > 0.7 && !drawn)
      add({"correlated",
          fmt::format("{} and {} go together (r {:.2f}): the world lies on a diagonal of the chart",
              fieldOf(recipe_, biomes.x.field)->name, fieldOf(recipe_, biomes.y.field)->name,
              sample->correlation),
          StageId::Climate, "/biomes/chart", {}, {}, {}, {}});
    const auto census = censusOfSample(world_, stop_);
    if (!census) return;
    const BiomeShare* largest = nullptr;
    for (const BiomeShare& share : census->biomes)
      if (share.index != kNoBiome && (!largest || share.cells > largest->cells)) largest = &share;
    for (const BiomeShare& share : census->biomes) {
      if (share.index == kNoBiome) {
        add({"uncovered",
            fmt::format("no rule covers {} of the world, for example at {},{}",
                percentText(share.share), share.example->x, share.example->z),
            kStage, "/biomes/areas", {},
            drawn ? "" : fmt::format("let {} take what is left", largest->name),
            drawn ? nullptr : std::function<void(Recipe&)>(coverRest(largest->id)), share.example});
      } else if (share.cells == 0 &&
                 !(drawn && world_.catalogue().biome(share.index)->weight == 0)) {
        add({"unreachable",
            fmt::format("{} is never reached (0 of {} cells)", share.name, census->cells), kStage,
            fmt::format("/biomes/list/{}", share.index - 1), share.id, {}, {}, {}});
      }
    }
  }

  /// A last rule over the whole chart.
  static std::function<void(Recipe&)> coverRest(const std::string& biome) {
    return [biome](Recipe& r) {
      std::vector<std::string> ids;
      for (const Area& area : r.biomes.areas) ids.push_back(area.id);
      Area rest;
      rest.id = freshId("area", ids);
      rest.biome = biome;
      r.biomes.areas.push_back(rest);
    };
  }

  /// A shift d cuts no piece off a region while no direction is shrunk to nothing, |d'| < 1. One
  /// octave of gradient noise rises by about 3.6 amplitude / width, and there are two of them.
  void checkWarp() {
    constexpr double kSafe = 0.2;
    const Regions& regions = recipe_.biomes.regions;
    if (regions.on && regions.islets > 0 && world_.biomes()->islets() == 0) {
      const double half = regions.size / 2;
      add({"islets-stay",
          fmt::format("islets are not given back: a warp of {} cells is more than half a square, "
                      "{}",
              shortNumber(regions.warp.cells), shortNumber(half)),
          StageId::Biomes, "/biomes/regions/warp/cells", "warp",
          fmt::format("warp by {} cells", shortNumber(half)),
          [half](Recipe& r) { r.biomes.regions.warp.cells = half; }, {}});
      return;
    }
    if (!regions.on || !regions.warp.x.empty() || regions.warp.cells == 0) return;
    double steepness = 0, weight = 1, width = regions.warp.noise.width;
    for (int k = 0; k < regions.warp.noise.usedOctaves(); ++k) {
      steepness += weight / width;
      weight *= regions.warp.noise.gain;
      width /= regions.warp.noise.lacunarity;
    }
    const double most = kSafe / steepness;
    if (regions.warp.cells <= most || regions.islets > 0) return;
    const double mended = std::floor(most * 10) / 10;
    add({"cut-regions",
        fmt::format("warping by {} cells may cut islets off regions; up to {} it cannot",
            shortNumber(regions.warp.cells), shortNumber(mended)),
        StageId::Biomes, "/biomes/regions/warp/cells", "warp",
        fmt::format("warp by {} cells", shortNumber(mended)),
        [mended](Recipe& r) { r.biomes.regions.warp.cells = mended; }, {}});
  }

  /// Which bands say what rock of a level is; none in other worlds.
  std::set<int> bandsOfRock() const {
    std::set<int> out;
    if (!world_.level()) return out;
    constexpr int64_t kSamples = 256;  // Along each side.
    const Rect& all = world_.bounds();
    const int64_t step = (std::max(all.width, all.length) + kSamples - 1) / kSamples;
    for (int64_t z = all.z; z < all.z + all.length; z += step)
      for (int64_t x = all.x; x < all.x + all.width; x += step)
        if (const CellValue value = world_.at({x, z}); value.level->depth > 0)
          out.insert(value.band);
    return out;
  }

  void checkStrata() {
    const auto d = engine_.distribution(world_, world_.heightField(), stop_);
    if (!d) return;
    const auto& ends = world_.bands().ends();
    // Where all is level, bands are not to blame.
    const bool flat = d->lowest() == d->highest();
    const std::set<int> rock = bandsOfRock();
    for (size_t b = 0; b < recipe_.bands.size() && (!flat || world_.level()); ++b) {
      if (rock.contains(static_cast<int>(b))) continue;
      const float from = b == 0 ? -HUGE_VALF : ends[b - 1];
      const float to = b < ends.size() ? ends[b] : HUGE_VALF;
      if (!world_.level() && d->shareBetween(from, to) > 0) continue;
      const Band& band = recipe_.bands[b];
      std::string name = band.material;
      for (const Material& m : recipe_.materials)
        if (m.id == band.material) name = m.name;
      const std::string id = band.id;
      add({"never",
          fmt::format(
              fmt::runtime(
                  world_.level()
                      ? "{} is never reached: no rock of this floor lies {}"
                      : "{} is never reached: it needs heights {}, and they reach {} to {}"),
              name,
              b < ends.size() && b > 0
                  ? fmt::format("from {} to {}", shortNumber(from), shortNumber(to))
              : b > 0 ? fmt::format("from {} up", shortNumber(from))
                      : fmt::format("below {}", shortNumber(to)),
              shortNumber(d->lowest()), shortNumber(d->highest())),
          StageId::Strata, fmt::format("/strata/bands/{}", b), band.id, "delete the band",
          [id](Recipe& r) {
            std::erase_if(r.bands, [&](const Band& x) { return x.id == id; });
            if (!r.bands.empty()) r.bands.back().below.reset();
          },
          {}});
    }
    const auto census = censusOfSample(world_, stop_);
    if (!census || census->unassigned == 0) return;
    add({"unassigned",
        fmt::format("{} of the world has no material, for example at {},{}",
            percentText(
                static_cast<double>(census->unassigned) / static_cast<double>(census->cells)),
            census->firstHole->x, census->firstHole->z),
        StageId::Strata, "/strata/bands", {}, {}, {}, census->firstHole});
  }

  Engine& engine_;
  const World& world_;
  const Recipe& recipe_;
  std::stop_token stop_;
  std::vector<Check> found_;
};

}  // namespace

std::optional<std::vector<Check>> runChecks(
    Engine& engine, const World& world, const std::stop_token& stop) {
  return Auditor(engine, world, stop).run();
}

}  // namespace acre
