/// What stands on the ground, as plain values.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "recipe/biome_recipe.h"
#include "recipe/strata_recipe.h"
#include "recipe/tree_recipe.h"

namespace acre {

/// How many of a kind stand in a biome.
struct BiomeDensity {
  std::string biome;
  double density = 0;  ///< In 1,000 cells.
  bool operator==(const BiomeDensity&) const = default;
};

/// How far a kind keeps from those of an earlier one, or stays by one of them.
struct ObjectApart {
  std::string kind;
  int32_t cells = 4;
  bool operator==(const ObjectApart&) const = default;
};

/// How even the ground about a place has to be.
struct ObjectFooting {
  int32_t radius = 2;  ///< Cells to each side that are looked at.
  double rise = 1;     ///< Cells that the highest of them may lie above the lowest.
  bool operator==(const ObjectFooting&) const = default;
};

/// One that has to be there in every square of the world.
struct ObjectMust {
  int32_t square = 512;  ///< Cells a side.
  bool forced = false;   ///< Also where no place holds: then in the one that fails last.
  bool operator==(const ObjectMust&) const = default;
};

/// What the noise of a level's walls has to be like.
struct ObjectNoise {
  std::string process;  ///< The one that makes them: "walls".
  Span within;
  bool operator==(const ObjectNoise&) const = default;
};

/// One level of a drawn piece.
struct PieceLayer {
  std::vector<std::string> rows;  ///< Signs along x; the first row lies in the north.
  bool operator==(const PieceLayer&) const = default;
};

/// What a sign of a drawn piece stands for.
struct PieceSign {
  std::string sign;  ///< One character, but for those of every drawing below.
  std::string material;
  bool operator==(const PieceSign&) const = default;
};

/// The cell of a drawing that stands in its object's cell.
struct PieceAnchor {
  int32_t x = 0;  ///< Column, from the west.
  int32_t z = 0;  ///< Row, from the north.
  bool operator==(const PieceAnchor&) const = default;
};

/// Cells that objects are made of: one, a few beside each other, or a building.
struct ObjectPiece {
  static constexpr char kLeft = '.';    ///< Whatever is there stays.
  static constexpr char kOpened = '_';  ///< Nothing is there.
  std::string id;
  std::string name;
  std::vector<PieceLayer> layers;  ///< From the lowest up, all as large as the first.
  std::vector<PieceSign> signs;
  std::optional<PieceAnchor> anchor;  ///< Nothing: the middle.
  int32_t sink = 0;                   ///< Levels that lie in the ground.
  int32_t fill = 0;                   ///< Blocks under the lowest level that are filled up.
  bool follow = false;                ///< Every column stands on its own ground.
  bool cuts = false;                  ///< It takes the place of any block.
  std::vector<std::string> over;      ///< Materials whose place it takes.
  bool turns = true;                  ///< By the quarters that its object is turned.
  bool mirror = false;                ///< Every second one.
  bool cover = false;                 ///< Wherever two meet it gives way.
  bool operator==(const ObjectPiece&) const = default;
};

/// A word for whoever is told of objects.
struct ObjectAttribute {
  std::string name;
  std::string value;
  bool operator==(const ObjectAttribute&) const = default;
};

/// One of what a kind may be.
struct ObjectChoice {
  std::string id;
  std::string name;
  double weight = 1;       ///< How often it is drawn, in relation to the others.
  std::string piece = {};  ///< What it is made of ...
  std::string tree = {};   ///< ... or the style it has grown in; both empty: as its kind.
  std::vector<ObjectAttribute> attributes = {};
  // Where it may be drawn.
  std::vector<std::string> biomes = {};  ///< In these; none: in all.
  Span floors = {};                      ///< On these of a level.
  std::string field = {};                ///< Where this ...
  Span within = {};                      ///< ... lies within these.
  bool operator==(const ObjectChoice&) const = default;
};

/// What an object stands on. The last two are for worlds of blocks.
enum class ObjectStand { Ground, CaveFloor, CaveCeiling };

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
  std::string amount;  ///< A field that tells what share of the density is asked for ...
  Curve curve;         ///< ... through this; empty: its value.
  std::optional<ObjectMust> must;   ///< In place of density, amount and distance.
  std::vector<ObjectApart> apart;   ///< Of all of these.
  std::vector<ObjectApart> beside;  ///< Of each of these, one that stands within so many cells.
  // Where. Nothing at an end: any.
  ObjectStand stands = ObjectStand::Ground;
  std::vector<std::string> caves;    ///< Cave kinds that line the floor or the ceiling; none: any.
  std::vector<std::string> ground;   ///< Materials that they stand on; none: on any.
  Span altitude;                     ///< Cells above the sea.
  Span slope;                        ///< Rise per cell.
  Span shore;                        ///< Cells from fresh water, as far as 46.
  Span mouth;                        ///< Cells from the rim of a mouth of tunnels, as far as 32.
  Span wall;                         ///< Cells from a wall: of a level as far as 16, of a cave 4.
  Curve floors;                      ///< Of a level: from its floor to a share of the density.
  bool wet = false;                  ///< Also under water.
  std::string field;                 ///< A field that decides ...
  Span within;                       ///< ... where it lies within these.
  std::optional<ObjectNoise> noise;  ///< In levels.
  std::optional<ObjectFooting> footing;
  std::string piece;               ///< What they are made of ...
  std::string tree;                ///< ... or their style; both empty: they have no cells.
  std::vector<ObjectChoice> what;  ///< One of these is drawn; none: the kind itself.
  std::vector<ObjectAttribute> attributes;
  bool operator==(const ObjectKind&) const = default;
};

/// The stage Objects.
struct Objects {
  bool on = true;
  std::vector<ObjectPiece> pieces;
  std::vector<TreeStyle> trees;
  std::vector<ObjectKind> kinds;  ///< In order of precedence.
  bool operator==(const Objects&) const = default;
};

}  // namespace acre
