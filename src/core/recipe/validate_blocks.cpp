#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <set>

#include "recipe/checks-inl.h"
#include "recipe/edits.h"

namespace acre {
namespace {

using Ids = std::set<std::string>;

void checkFieldId(Checks& checks, const Recipe& recipe, const std::string& at,
                  const std::string& id) {
  if (!id.empty() && !fieldOf(recipe, id))
    checks.add(
        refuse(at, fmt::format("there is no field \"{:.80}\"", id), "the id of a field, or none"));
}

void checkFrame(Checks& checks, const Frame& frame) {
  checks.add(checkNumber("/frame/chunk", frame.chunkSize, limits::blockChunk));
  checks.add(
      checkNumber("/frame/bounds/y/min", static_cast<double>(frame.y.min), limits::verticalMin));
  if (frame.y.extent < 1 || frame.y.extent > limits::verticalExtent)
    checks.add(refuse("/frame/bounds/y/extent",
                      fmt::format("{} cells are no vertical range", frame.y.extent),
                      fmt::format("1 to {} cells, from min upward", limits::verticalExtent)));
  const int64_t cells = int64_t{frame.chunkSize} * frame.chunkSize * frame.y.extent;
  if (checks.ok() && frame.kind == WorldKind::Voxel && frame.shape == ChunkShape::Columns &&
      cells > limits::chunkCells)
    checks.add(refuse("/frame/shape",
                      fmt::format("columns of {} x {} x {} cells", frame.chunkSize, frame.chunkSize,
                                  frame.y.extent),
                      fmt::format("at most {} cells: cubes, smaller chunks or a lower world",
                                  limits::chunkCells)));
}

void checkRock(Checks& checks, const Recipe& recipe, const Ids& materials) {
  const Rock& rock = recipe.rock;
  checks.add(checkNumber("/strata/rock/top", rock.top, limits::altitude));
  checks.add(checkNumber("/strata/rock/lift", rock.lift, limits::altitude));
  checkFieldId(checks, recipe, "/strata/rock/bend", rock.bend);
  checks.add(checkCount("/strata/rock/beds", rock.beds.size(), limits::beds));
  Ids ids;
  for (size_t i = 0; i < rock.beds.size() && checks.ok(); ++i) {
    const std::string at = fmt::format("/strata/rock/beds/{}", i);
    checkTaken(checks, at, rock.beds[i].id, ids);
    checkMaterial(checks, at, rock.beds[i].material, materials);
    checks.add(checkNumber(at + "/thickness", rock.beds[i].thickness, limits::bedThickness));
  }
}

void checkOre(Checks& checks, const std::string& at, const Recipe& recipe, const Ore& ore,
              const Ids& materials) {
  if (!materials.contains(ore.material))
    checks.add(refuse(at + "/material",
                      fmt::format("there is no material \"{:.80}\"", ore.material),
                      "the id of a listed material"));
  checks.add(checkNumber(at + "/share", ore.share, limits::oreShare));
  checks.add(checkNumber(at + "/radius", ore.radius, limits::oreRadius));
  checks.add(checkNumber(at + "/length", ore.length, limits::oreLength));
  checkCurve(checks, at + "/curve", ore.curve);
  for (size_t i = 0; i < ore.curve.size() && checks.ok(); ++i)
    checks.add(checkNumber(fmt::format("{}/curve/{}/1", at, i), ore.curve[i].y, limits::oreCurve));
  const auto isBed = [&](const std::string& id) {
    return std::any_of(recipe.rock.beds.begin(), recipe.rock.beds.end(),
                       [&](const Bed& bed) { return bed.material == id; });
  };
  for (size_t i = 0; i < ore.hosts.size() && checks.ok(); ++i)
    if (!isBed(ore.hosts[i]))
      checks.add(refuse(fmt::format("{}/hosts/{}", at, i),
                        fmt::format("no bed is of \"{:.80}\"", ore.hosts[i]),
                        "the material of a bed of rock"));
}

}  // namespace

int64_t deepestOf(const Recipe& recipe, const std::vector<DepthLayer>& layers) {
  double deepest = 0;
  for (const DepthLayer& layer : layers) {
    double thick = layer.thickness;
    if (const FieldRecipe* field = layer.field.empty() ? nullptr : fieldOf(recipe, layer.field)) {
      const Range reach = possibleRange(recipe, *field);
      thick += std::max(layer.vary * reach.low, layer.vary * reach.high);
    }
    deepest += std::max(0.0, std::floor(thick));
  }
  return static_cast<int64_t>(std::min(deepest, 1e9));
}

void checkLayers(Checks& checks, const std::string& at, const Recipe& recipe,
                 const std::vector<DepthLayer>& layers, const Ids& materials) {
  checks.add(checkCount(at, layers.size(), limits::depthLayers));
  Ids ids;
  for (size_t i = 0; i < layers.size() && checks.ok(); ++i) {
    const std::string here = fmt::format("{}/{}", at, i);
    const DepthLayer& layer = layers[i];
    checkTaken(checks, here, layer.id, ids);
    if (layer.material != kSurfaceId) checkMaterial(checks, here, layer.material, materials);
    checks.add(checkNumber(here + "/thickness", layer.thickness, limits::layerThickness));
    checks.add(checkNumber(here + "/vary", layer.vary, limits::layerVary));
    checkFieldId(checks, recipe, here + "/field", layer.field);
  }
  if (!checks.ok()) return;
  if (const int64_t deepest = deepestOf(recipe, layers); deepest > limits::layersDeep)
    checks.add(refuse(at, fmt::format("the layers can reach {} blocks down", deepest),
                      fmt::format("at most {} for all together", limits::layersDeep)));
}

void checkBlocks(Checks& checks, const Recipe& recipe, const Ids& materials) {
  if (recipe.frame.blocks()) checkFrame(checks, recipe.frame);
  const Overhang& overhang = recipe.overhang;
  checks.add(checkNumber("/heights/overhang/reach", overhang.reach, limits::overhangReach));
  checks.add(checkNumber("/heights/overhang/amount", overhang.amount, limits::overhangAmount));
  checkNoise(checks, "/heights/overhang/noise", overhang.noise);
  if (overhang.mask) {
    checkFieldId(checks, recipe, "/heights/overhang/mask/field", overhang.mask->field);
    checks.add(checkNumber("/heights/overhang/mask/soft", overhang.mask->soft, limits::soft));
  }
  checkLayers(checks, "/strata/layers", recipe, recipe.layers, materials);
  checkRock(checks, recipe, materials);
  checks.add(checkCount("/strata/ores", recipe.ores.size(), limits::ores));
  Ids ids;
  double shares = 0;
  for (size_t i = 0; i < recipe.ores.size() && checks.ok(); ++i) {
    const std::string at = fmt::format("/strata/ores/{}", i);
    checkTaken(checks, at, recipe.ores[i].id, ids);
    checkOre(checks, at, recipe, recipe.ores[i], materials);
    if (recipe.ores[i].on) shares += recipe.ores[i].share;
    if (shares > limits::allOres)
      checks.add(refuse(
          at + "/share",
          fmt::format("with this one the ores are to take {:.4g} % of the rock", shares * 100),
          fmt::format("at most {:.4g} % for all together", limits::allOres * 100)));
  }
  if (!recipe.water.material.empty() && !materials.contains(recipe.water.material))
    checks.add(refuse("/water/material",
                      fmt::format("there is no material \"{:.80}\"", recipe.water.material),
                      "the id of a listed material"));
  if (recipe.edits)
    for (const std::string& id : recipe.edits->materials())
      if (!materials.contains(id) && !(id == kOpenId && recipe.frame.blocks()))
        checks.add(refuse("/edits/materials",
                          fmt::format("a cell changed by hand holds \"{:.80}\"", id),
                          recipe.frame.blocks() ? "the id of a listed material, or open"
                                                : "the id of a listed material"));
  if (checks.ok() && recipe.frame.blocks() && recipe.strataOn && recipe.rock.beds.empty())
    checks.add(refuse("/strata/rock/beds", "under the layers there is no rock",
                      "at least one bed, or a stage Strata that is off"));
}

}  // namespace acre
