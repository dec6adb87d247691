/// Checks: known mistakes, found by looking at the recipe and measuring the world.
#pragma once

#include <functional>
#include <optional>
#include <stop_token>
#include <string>
#include <vector>

#include "recipe/stage_id.h"
#include "world/engine.h"

namespace acre {

/// One mistake that was found.
struct Check {
  std::string id;        ///< One of those listed at runChecks().
  std::string sentence;  ///< What is wrong and why, in words.
  StageId stage = StageId::Heights;
  std::string pointer;  ///< JSON pointer of the place.
  std::string subject;  ///< Id of the layer, band, area or biome.
  /// What would mend it: words, and the change to the recipe. Empty when only a person can decide.
  std::string mend;
  std::function<void(Recipe&)> apply;
  std::optional<Cell> place;  ///< Where to look at it.
};

/// All checks, in the order of stages and layers. Measures every layer; nothing when stopped.
///   flat            all octaves fall on lattice points at every cell
///   aliasing        a feature width below two cells
///   static-octaves  octaves of an fBm that are narrower than two cells
///   no-effect       a layer that changes nothing (amplitude 0, mask that never lets it act, …)
///   range           a rescale whose result leaves its range, with the share; a clamp that cuts
///   never           a band or slope band that no cell of the sample reaches
///   no-biome        the Biomes are on and there is none
///   uncovered       cells whose chart values no rule covers, with their share
///   unreachable     a biome that no cell of the sample is of
///   hidden-rule     an area of the chart that earlier ones cover whole
///   correlated      climate axes that lie on a diagonal
///   cut-regions     a warp strong enough to cut pieces off regions
///   islets-stay     islets that cannot be given back
///   open-steps      cells two or more above a neighbour, where one cell a column leaves holes
///   cut-range       columns that end above or below the vertical range of a world of blocks
///   no-overhang     overhangs that push by nothing
///   ore-short       an ore that cannot be had as asked
///   no-systems      tunnels of which none exists about the origin
///   straight-tunnels, round-tunnels, closed-tunnels, melted-tunnels, torn-tunnels
///                   passages as the crow flies, round as pipes, without a way out, run together,
///                   in more parts than they should be: by the systems nearest to the origin
///   hollow          a part of the caves that opens more than a quarter of the ground
///   never-open      one that opens nothing
///   idle-process    a process of a level that changes no cell of its floor
///   thin-margin     open cells nearer to the edge of a level than its margin
///   broken-place    a must-have place that changes by hand have filled or cut off
///   all-open        a level that is more than nine tenths open within its margin
///   unassigned      cells that no rule covers, with their share
std::optional<std::vector<Check>> runChecks(
    Engine& engine, const World& world, const std::stop_token& stop = {});

/// A share as sentences tell it: "12.3 %".
std::string percentText(double share);

}  // namespace acre
