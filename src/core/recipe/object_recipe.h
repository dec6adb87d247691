/// What stands on the ground, as plain values.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "recipe/biome_recipe.h"
#include "recipe/strata_recipe.h"

namespace acre {

/// How many of a kind stand in a biome.
struct BiomeDensity {
  std::string biome;
  double density = 0;  ///< In 1,000 cells.
  bool operator==(const BiomeDensity&) const = default;
};

/// How far a kind keeps from those of an earlier one.
struct ObjectApart {
  std::string kind;
  int32_t cells = 4;
  bool operator==(const ObjectApart&) const = default;
};

/// One of what a kind may be.
struct ObjectChoice {
  std::string id;
  std::string name;
  double weight = 1;  ///< How often it is drawn, in relation to the others.
  bool operator==(const ObjectChoice&) const = default;
};

/// What is meant by a sign on the map.
enum class ObjectSign { Dot, Ring, Cross, Tuft, Crown, Stone };

/// Objects of one kind: how many, how far apart, where, and what they are.
struct ObjectKind {
  std::string id;
  std::string name;
  bool on = true;
  ObjectSign sign = ObjectSign::Dot;
  Colour ink{70, 64, 56};
  double density = 2;                ///< In 1,000 cells.
  std::vector<BiomeDensity> biomes;  ///< In these instead; in all others as above.
  int32_t distance = 6;              ///< Cells that two of them keep at least.
  std::vector<ObjectApart> apart;
  // Where. Nothing at an end: any.
  std::vector<std::string> ground;  ///< Materials that they stand on; none: on any.
  Span altitude;                    ///< Cells above the sea.
  Span slope;                       ///< Rise per cell.
  Span shore;                       ///< Cells from fresh water, as far as 46.
  bool wet = false;                 ///< Also under water.
  std::string field;                ///< A field that decides ...
  Span within;                      ///< ... where it lies within these.
  std::vector<ObjectChoice> what;   ///< One of these is drawn; none: the kind itself.
  bool operator==(const ObjectKind&) const = default;
};

/// The stage Objects.
struct Objects {
  bool on = true;
  std::vector<ObjectKind> kinds;  ///< In order of precedence.
  bool operator==(const Objects&) const = default;
};

}  // namespace acre
