/// Floors of levels, looked at: their figures, whether they keep what was asked, and how often.
#pragma once

#include <functional>
#include <optional>
#include <stop_token>
#include <string>
#include <vector>

#include "audit/checks.h"
#include "cave/level.h"

namespace acre {

/// What a floor is like.
struct LevelFigures {
  int floor = 1;
  int32_t width = 0, length = 0;
  double open = 0;       ///< Share of all cells that are open.
  uint32_t pieces = 0;   ///< Connected open spaces, by sides.
  uint64_t largest = 0;  ///< Cells of the largest.
  uint64_t outline = 0;  ///< Sides between open and solid cells.
  int32_t margin = 0;    ///< Solid cells at the edge, at least.
  uint64_t dug = 0;      ///< Cells dug to connect open spaces.
  size_t rooms = 0;
  Visited visited;
};
/// Of a plane, and what is known of how it was made.
LevelFigures figuresOf(const LevelFloor& floor, const BitGrid& plane);

/// The plane of a world's level with what was changed by hand. REQUIRES: world.level().
BitGrid planeOf(const World& world);

/// What a plane lacks of what its level asks for, each in a sentence: a margin that is too thin,
/// places that are not once on an open cell, not clear, not reached, or not as far as they should
/// be. Looks with means of its own, not with those that made the floor.
std::vector<std::string> faultsOf(
    const Level& level, const LevelFloor& floor, const BitGrid& plane);

/// A floor under one of many seeds.
struct FloorTrial {
  std::string seed;
  std::string fault;  ///< Why there is no such floor, or what is wrong with it; empty: nothing.
  LevelFigures figures;
};
struct FloorTrials {
  std::vector<FloorTrial> list;  ///< In the order of the seeds.
  size_t failing = 0;
};
/// The same floor under the seeds `first` to `first + count - 1`, each made whole and looked at.
/// threads: at most so many at once. Refuses recipes that are no level.
Result<FloorTrials> tryFloors(const Recipe& recipe, int floor, int64_t first, int count,
    unsigned threads, const Kernels& kernels, const std::stop_token& stop = {},
    const std::function<void(double)>& progress = {});

/// Appends what is wrong with a level; false when stopped.
bool checkLevel(const World& world, const std::stop_token& stop, std::vector<Check>& out);

}  // namespace acre
