/// What the stage Caves and its parts say of one cell.
#pragma once

#include "base/indices.h"
#include "cave/tunnel_system.h"

namespace acre {

/// The kinds of parts that the stage is made of.
enum class CavePart { None, Tunnel, Void, Automaton };

/// Of one Tunnels.
struct TunnelAt {
  TunnelHandle system;  ///< Nothing: no bore holds it.
  int passage = -1;
  int stretch = -1;      ///< From point `stretch` to the next.
  float distance = 0;    ///< To its centre line.
  float radius = 0;      ///< Of the bore there, walls included.
  bool flooded = false;  ///< By any system that holds it.
};

/// Of one NoiseVoid.
struct VoidAt {
  bool open = false;
  float depth = 0;
  float factor = 0;             ///< By the curve.
  float first = 0, second = 0;  ///< Values of the noises.
};

/// Of one AutomatonLayer.
struct AutomatonAt {
  bool open = false;
  int floor = -1;       ///< Index of the floor; -1 in a volume or between floors.
  bool within = false;  ///< The automaton reaches this level.
  float depth = 0;
  int neighbours = 0;  ///< Solid ones, after the last step.
};

/// Of the whole stage.
struct CaveAt {
  CavePart part = CavePart::None;
  int index = -1;  ///< Of the part in its list of the recipe.
  MaterialIndex holds = kOpen;
  float depth = 0;  ///< Of the cell below the surface of its column.
  TunnelAt tunnel;
  VoidAt noise;
  AutomatonAt automaton;
  bool keptOff = false;  ///< The sea is too near; it would be held otherwise.
  bool floor = false, wall = false;
  int kind = -1;  ///< Index of the cave kind that lines it, or -1.
  float moisture = 0;
};

}  // namespace acre
