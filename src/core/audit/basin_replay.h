/// How a hollow became a lake, or a way out of it was cut, step by step.
#pragma once

#include <stop_token>
#include <string>
#include <vector>

#include "base/result.h"
#include "water/bricks.h"
#include "world/plan.h"

namespace acre {

enum class BasinAct : uint8_t {
  Flood,    ///< A brick is flooded ...
  Spill,    ///< ... up to where the water finds lower ground, or the rim of what is looked at.
  Lake,     ///< What of it stays under water, if any.
  Outlet,   ///< The cheapest way out, brick by brick.
  Capture,  ///< A brick beside a larger stream turns to it.
  Course    ///< The river that leaves, node by node.
};
inline constexpr size_t kBasinActs = 6;

struct BasinStep {
  BasinAct act = BasinAct::Flood;
  Brick brick;
  Cell at;           ///< Its node.
  Cell to;           ///< Where water goes on to, of Outlet, Capture and Course.
  double level = 0;  ///< Of the flood, the lake or the river, in cells.
  int64_t area = 0;  ///< Of Course and Capture: bricks that drain through it.
};

struct BasinReplay {
  Brick pit;             ///< The lowest brick, which names it.
  Cell bottom;           ///< Its lowest place.
  double low = 0;        ///< Heights in cells: of that, ...
  double spill = 0;      ///< ... and of where it spills.
  bool touched = false;  ///< It is wider than what is looked at, 10 bricks each way.
  bool lake = false;
  bool closed = false;  ///< No water leaves it.
  double level = 0;     ///< Of the lake.
  std::vector<Brick> lakeBricks;
  std::vector<BasinStep> steps;

  /// "B12,-3".
  std::string name() const;
  /// What a step does, in a sentence.
  std::string told(size_t step) const;
  /// The first step of an act, or how many there are.
  size_t first(BasinAct act) const;
};

/// The hollow that the ground about a cell leads down to. Errors: a cell of the sea, or ground that
/// leads there; a world without the stage Water; stopped.
Result<BasinReplay> replayBasin(const World& world, Cell near, const std::stop_token& stop = {});

}  // namespace acre
