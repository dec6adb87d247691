/// What is measured of a world before it is there: how its values are spread, and where which rock
/// lies. Everything is of a sample and the same for the same recipe.
#pragma once

#include <memory>
#include <stop_token>

#include "field/distribution.h"
#include "world/plan.h"

namespace acre {

struct RockProfile;  // strata/ores.h

/// What the spread of a field's values follows from.
Digest distributionKey(const Field& field, const Frame& frame, uint64_t seed);

/// How a field's values are spread over a world. Nothing when stopped.
std::shared_ptr<const Distribution> measure(const Field& field, const Frame& frame, uint64_t seed,
    const Kernels& kernels, const std::stop_token& stop);

/// How the heights that the biomes leave are spread. Nothing when stopped.
std::shared_ptr<const Distribution> measureShaped(
    const WorldParts& parts, const Frame& frame, uint64_t seed, const std::stop_token& stop);

/// How much rock of which kind lies where in a world of blocks: parts.blocks without ores. Nothing
/// when stopped.
std::shared_ptr<const RockProfile> measureRock(const Recipe& recipe, const WorldParts& parts,
    const Kernels& kernels, const std::stop_token& stop);

/// How much of which kind the rock of a floor is: parts.rock without ores. Nothing when stopped.
std::shared_ptr<const RockProfile> measureFloor(const Recipe& recipe, const WorldParts& parts,
    const Kernels& kernels, const std::stop_token& stop);

}  // namespace acre
