#include <fmt/format.h>

#include <cmath>

#include "recipe/automaton_rule.h"
#include "recipe/cave_recipe.h"
#include "recipe/checks-inl.h"

namespace acre {

double tunnelReach(const Tunnels& tunnels) {
  const double widest = tunnels.bore * (1 + tunnels.boreVary) * (1 + tunnels.rough);
  const double box = tunnels.side * tunnels.step + tunnels.shift * tunnels.step / 2 + widest;
  return std::ceil(std::max(box, tunnels.mouth * (1 + tunnels.rough))) + 1;
}

namespace {

using Ids = std::set<std::string>;

void checkListed(Checks& checks, const std::string& at, const std::string& id,
                 const Ids& materials) {
  if (!id.empty() && !materials.contains(id))
    checks.add(refuse(at, fmt::format("there is no material \"{:.80}\"", id),
                      "the id of a listed material, or none"));
}

void checkNoiseBand(Checks& checks, const std::string& at, const NoiseBand& band) {
  checkNoise(checks, at + "/noise", band.noise);
  checks.add(checkNumber(at + "/low", band.low, limits::noiseBand));
  checks.add(checkNumber(at + "/high", band.high, limits::noiseBand));
  if (!(band.low < band.high))
    checks.add(refuse(at + "/high", fmt::format("{} does not lie above {}", band.high, band.low),
                      "more than low"));
}

/// plane: of a side world, whose lattices have one row.
void checkTunnels(Checks& checks, const std::string& at, const Tunnels& t, bool plane,
                  const Ids& materials) {
  const auto number = [&](const char* key, double value, const Range& range) {
    checks.add(checkNumber(at + "/" + key, value, range));
  };
  number("spacing", t.spacing, limits::tunnelSpacing);
  number("share", t.share, limits::share);
  number("depth", t.depth, limits::tunnelDepth);
  number("depthVary", t.depthVary, limits::tunnelDepth);
  number("step", t.step, limits::tunnelStep);
  number("side", t.side, limits::tunnelSide);
  number("up", t.up, limits::tunnelUp);
  number("noise", t.noise, limits::tunnelNoise);
  number("shift", t.shift, limits::share);
  number("bore", t.bore, limits::bore);
  number("boreVary", t.boreVary, {0, 0.9});
  number("rough", t.rough, {0, 0.9});
  number("mouths", t.mouths, limits::share);
  number("mouth", t.mouth, limits::mouth);
  number("flooded", t.flooded, limits::share);
  checkListed(checks, at + "/water", t.water, materials);
  if (!checks.ok()) return;
  if (t.spacing != std::floor(t.spacing))
    checks.add(refuse(at + "/spacing", fmt::format("{} is no whole number of cells", t.spacing),
                      limits::tunnelSpacing.text()));
  const int points = (2 * t.side + 1) * (plane ? 1 : 2 * t.side + 1) * (2 * t.up + 1);
  if (points > 4096)
    checks.add(refuse(at + "/side",
                      fmt::format("{} lattice points for one system ({} to either side, {} up and "
                                  "down)",
                                  points, t.side, t.up),
                      plane ? "at most 4096: (2 side + 1) (2 up + 1)"
                            : "at most 4096: (2 side + 1)^2 (2 up + 1)"));
  const double room = t.side * t.step;
  for (const auto& [key, value, most] :
       {std::tuple("length", t.length, room), {"arm", t.arm, room}, {"apart", t.apart, 2 * room}})
    if (!(value >= 0 && value <= most))
      checks.add(refuse(fmt::format("{}/{}", at, key),
                        fmt::format("a passage of {} cells leaves the reach of its system", value),
                        fmt::format("0 to {} cells, with {} lattice points of {} cells to either "
                                    "side",
                                    most, t.side, t.step)));
  number("gap", t.gap, {0, room});
  if (const double thin = t.bore * (1 - t.boreVary) * (1 - t.rough); thin < limits::thinnestBore)
    checks.add(refuse(
        at + "/bore", fmt::format("passages of {:.2f} cells at their thinnest may be closed", thin),
        fmt::format("bore (1 - boreVary) (1 - rough) of at least {}", limits::thinnestBore)));
  if (const double reach = tunnelReach(t); checks.ok() && 2 * t.spacing < reach)
    checks.add(
        refuse(at + "/spacing",
               fmt::format("squares of {} cells for systems that reach {}", t.spacing, reach),
               fmt::format("at least {} cells", std::ceil(reach / 2))));
}

void checkAutomaton(Checks& checks, const std::string& at, const AutomatonLayer& layer) {
  const int neighbours = layer.volume ? AutomatonRule::kVolume : AutomatonRule::kPlane;
  checks.add(checkNumber(at + "/fill", layer.fill, limits::share));
  checks.add(checkNumber(at + "/steps", layer.steps, limits::automatonSteps));
  checks.add(checkNumber(at + "/cover", layer.cover, limits::automatonCover));
  const auto rule = readRule(layer.rule, neighbours, at + "/rule");
  if (!rule) {
    checks.add(rule.error());
  } else if (rule->birth & 1) {
    checks.add(refuse(at + "/rule",
                      fmt::format("\"{}\" fills empty space, which has no end here", layer.rule),
                      "a rule without B0"));
  }
  const auto whole = [&](const std::string& where, double y) {
    checks.add(checkNumber(where, y, limits::altitude));
    if (y != std::floor(y))
      checks.add(refuse(where, fmt::format("{} is no whole level", y), "a whole number"));
  };
  if (layer.volume) {
    whole(at + "/bottom", layer.bottom);
    whole(at + "/top", layer.top);
    const double levels = layer.top - layer.bottom;
    if (!(levels >= 1 && levels <= static_cast<double>(limits::automatonLevels)))
      checks.add(refuse(at + "/top", fmt::format("{} levels from bottom to top", levels),
                        fmt::format("1 to {}", limits::automatonLevels)));
    return;
  }
  checks.add(checkNumber(at + "/tall", layer.tall, limits::automatonTall));
  checks.add(checkCount(at + "/floors", layer.floors.size(), limits::caveFloors));
  for (size_t i = 0; i < layer.floors.size() && checks.ok(); ++i)
    whole(fmt::format("{}/floors/{}", at, i), layer.floors[i]);
}

void checkKind(Checks& checks, const std::string& at, const Recipe& recipe, const CaveKind& kind,
               const Ids& materials) {
  checks.add(checkText(at + "/name", kind.name, limits::nameBytes));
  checkListed(checks, at + "/floor", kind.floor, materials);
  checkListed(checks, at + "/wall", kind.wall, materials);
  const auto range = [&](const char* low, const char* high, const std::optional<double>& from,
                         const std::optional<double>& to) {
    if (from) checks.add(checkNumber(fmt::format("{}/{}", at, low), *from, limits::altitude));
    if (to) checks.add(checkNumber(fmt::format("{}/{}", at, high), *to, limits::altitude));
    if (from && to && !(*from < *to))
      checks.add(refuse(fmt::format("{}/{}", at, high),
                        fmt::format("{} does not lie above {}", *to, *from),
                        fmt::format("more than {}", low)));
  };
  range("from", "to", kind.from, kind.to);
  range("wetFrom", "wetTo", kind.wetFrom, kind.wetTo);
  if ((kind.wetFrom || kind.wetTo) && !recipe.climate.on)
    checks.add(refuse(at + (kind.wetFrom ? "/wetFrom" : "/wetTo"),
                      "moisture decides, but the stage Climate is off",
                      "no moisture, or a stage Climate that is on"));
}

}  // namespace

void checkCaves(Checks& checks, const Recipe& recipe, const Ids& materials) {
  const Caves& caves = *recipe.caves;
  checks.add(checkNumber("/caves/seaCover", caves.seaCover, limits::seaCover));
  checkListed(checks, "/caves/opening", caves.opening, materials);
  Ids ids;
  const auto each = [&](const char* key, const auto& list, auto&& check) {
    const std::string at = fmt::format("/caves/{}", key);
    checks.add(checkCount(at, list.size(), limits::caveParts));
    for (size_t i = 0; i < list.size() && checks.ok(); ++i) {
      const std::string one = fmt::format("{}/{}", at, i);
      checkTaken(checks, one, list[i].id, ids);
      check(one, list[i]);
    }
  };
  each("voids", caves.voids, [&](const std::string& at, const NoiseVoid& part) {
    checkNoiseBand(checks, at, part.first);
    if (part.second) checkNoiseBand(checks, at + "/second", *part.second);
    checkCurve(checks, at + "/curve", part.curve);
    for (size_t i = 0; i < part.curve.size() && checks.ok(); ++i)
      checks.add(checkNumber(fmt::format("{}/curve/{}/1", at, i), part.curve[i].y, {0, 16}));
  });
  each("tunnels", caves.tunnels, [&](const std::string& at, const Tunnels& part) {
    checkTunnels(checks, at, part, recipe.frame.kind == WorldKind::Side, materials);
  });
  each("automata", caves.automata, [&](const std::string& at, const AutomatonLayer& part) {
    checkAutomaton(checks, at, part);
  });
  each("kinds", caves.kinds, [&](const std::string& at, const CaveKind& kind) {
    checkKind(checks, at, recipe, kind, materials);
  });
  if (checks.ok() && !recipe.frame.blocks())
    for (const auto& [key, empty] :
         {std::pair("voids", caves.voids.empty()), {"automata", caves.automata.empty()}})
      if (!empty)
        checks.add(refuse(fmt::format("/caves/{}", key),
                          "in a world of columns nothing lies under the ground",
                          "none, or a world of the kind voxel or side"));
}

}  // namespace acre
