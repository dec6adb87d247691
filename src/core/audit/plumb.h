/// The plumb line: why a cell is what it is, stage by stage, with typed numbers from which the cell
/// can be computed again.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "climate/regions.h"
#include "climate/relief.h"
#include "recipe/stage_id.h"
#include "world/block_value.h"
#include "world/cell_value.h"
#include "world/plan.h"

namespace acre {

/// One layer at the cell. after = before joined with value as far as weight says.
struct PlumbLayer {
  std::string id;
  std::string name;
  bool on = true;
  Combine combine = Combine::Add;
  bool reshapes = false;  ///< Replaces the sum by a function of it.
  float amount = 0;       ///< Of Mix and the smooth minimum and maximum.
  float before = 0;
  float value = 0;
  float weight = 1;  ///< Of the mask.
  float after = 0;
  std::string pointer;  ///< JSON pointer of the layer.
};

/// A climate field at the cell.
struct PlumbAxis {
  std::string id;
  std::string name;
  std::vector<PlumbLayer> layers;
  float value = 0;   ///< Of the field, after its curve and clamp.
  double told = 0;   ///< In the unit.
  std::string unit;  ///< Empty: the value as it is.
  std::string pointer;
};

/// A region that shapes the height at the cell.
struct PlumbRegion {
  RegionId id;
  Cell site;
  float weight = 1;  ///< All sum to 1 but for rounding.
  float part = 1;    ///< Before that; the own region's is 1.
  ReliefAt relief;
};

/// What the Biomes stage made of the cell.
struct PlumbBiome {
  bool on = false;
  std::string nameX, nameY;  ///< Of the chart's fields.
  float x = 0, y = 0;        ///< Values that the chart was asked with.
  std::string toldX, toldY;  ///< In their units.
  std::string slice;         ///< Name; empty when there is one alone.
  std::string rule;          ///< Id of the area; empty: ideal point, whole slice, drawn, or none.
  std::string pointer;       ///< JSON pointer of what decided.
  std::string how;           ///< "area 3 of 12", "ideal point", "whole slice", "drawn by weight".
  std::string biome;         ///< Id, or "none".
  std::string name;
  bool hasRegion = false;
  bool byRegion = false;   ///< The region, not the cell, was asked.
  bool givenBack = false;  ///< An islet, given to this region.
  RegionId region;
  RegionId across;  ///< Beyond the nearest border.
  Cell site;
  float siteCells = 0;    ///< Distance to the site, from the shifted place.
  float borderCells = 0;  ///< To the nearest border, at most borderReach.
  double borderReach = 0;
  float shiftX = 0, shiftZ = 0;    ///< By warping, in cells.
  bool shapes = false;             ///< Some biome changes heights.
  std::vector<PlumbRegion> blend;  ///< Regions that blend here; empty where the chart does.
  ReliefAt relief;                 ///< As blended.
  float noise = 0;                 ///< Of the roughness.
  double coast = 0;
};

/// How near a decision was to turning out otherwise.
struct PlumbMargin {
  std::string rule;       ///< "below 4 = saltmarsh".
  float value = 0;        ///< What was compared.
  float limit = 0;        ///< With what, a soft edge included.
  bool below = true;      ///< value < limit.
  std::string otherwise;  ///< Material on the other side.
  std::string pointer;
};

/// What the stage Water says of a cell.
struct PlumbWater {
  WaterAt at;
  float before = 0;          ///< The height that the biomes left.
  int64_t area = 0;          ///< Bricks that drain through its brick, or into its lake.
  int64_t spring = 0;        ///< So many make a river.
  double width = 0;          ///< Cells, of a river.
  std::string end;           ///< "the sea", "a lake", "nowhere", of the brick's next one; or empty.
  std::optional<Cell> next;  ///< Where it goes on to: the node of a river, the outlet of a lake.
  bool closed = false;       ///< A lake without an outlet.
  std::string way;           ///< The way through obstacles that a river is: "C0,0/3".
  Cell from, to;             ///< Its ends.
  bool shown = false;        ///< Its material is what one sees.
  bool bank = false;         ///< Dry, and shown as the bank; else as wet ground.
};

/// One block of a column, in worlds made of blocks.
struct PlumbBlock {
  int64_t y = 0;
  BlockValue at;
  std::string layer;      ///< Id of the depth layer, if one decided.
  std::string bed;        ///< Id of the bed, if one decided.
  std::string ore;        ///< Id of the ore, if one took it.
  std::string cave;       ///< Id of the part of the stage Caves that holds it.
  std::string system;     ///< Of tunnels: "S12,-3".
  std::string caveKind;   ///< Id of the cave kind that lines it, as a floor or a wall.
  std::string ground;     ///< What it would be without caves.
  std::string pointer;    ///< JSON pointer of what decided.
  std::string generated;  ///< What it was before it was changed by hand.
};

/// A cell of a level.
struct PlumbLevel {
  CellValue::OfLevel at;
  bool open = false;  ///< By hand, too.
  int floor = 1;
  std::string place;  ///< Id of the must-have place here.
  std::string placeName;
  int steps = 0;                ///< On foot from the place that it is measured from.
  std::string from;             ///< That one's id.
  std::string course;           ///< Name and number of the course that takes the cell, from 1 ...
  int courseCell = 0;           ///< ... the cell's number in it, from 1 ...
  int courseLength = 0;         ///< ... and how many it takes.
  std::string layer, bed, ore;  ///< Ids, as in PlumbBlock.
  std::string pointer;          ///< JSON pointer of what decided.
  std::string generated;        ///< What it was before it was changed by hand.
};

/// An object, or a candidate that was refused.
struct PlumbObject {
  /// A condition of its kind, and what it was judged by.
  struct Condition {
    std::string name;  ///< As refusals are called, or "noise of the walls".
    double value = 0;
    std::optional<double> from, to;  ///< Both ends hold.
    std::string pointer;
  };
  std::string kind, what;           ///< Ids; what: empty where nothing was drawn of a list.
  std::string name;                 ///< What people call it.
  std::string id;                   ///< Sixteen hexadecimal digits.
  std::string refusal;              ///< Why it is none; empty: it stands here.
  std::string forced;               ///< It stands here though this refuses it; empty: nothing does.
  int turn = 0;                     ///< Quarter turns.
  int64_t reach = 0;                ///< Cells that this depends on.
  std::string pointer;              ///< JSON pointer of the kind, or of what refuses it.
  std::optional<int64_t> y = {};    ///< Of one that stands, in worlds of blocks: its level.
  std::optional<Cell> stands = {};  ///< Of one that stands elsewhere and has cells of the column.
  std::optional<double> priority = {};  ///< Of its candidate, from 0 to 1: the lower, the earlier.
  size_t beaten = 0;                    ///< Candidates of its kind that it keeps off.
  std::optional<Cell> beatenBy = {};    ///< Of one that a better of its kind keeps off: where.
  std::optional<double> draw = {};      ///< What chose it from its list, from 0 to 1.
  std::vector<Condition> conditions = {};
};

/// The object that has the cell, or the block.
/// How a tree has grown whose wood or leaf a cell is.
struct PlumbTree {
  bool leaf = false;
  std::string variant;  ///< Its number, or the id of a tree that is one of its own.
  int turn = 0;         ///< Quarters.
  bool mirrored = false;
  int wind = 0;  ///< 0 to 3.
};

struct PlumbPart {
  std::string kind, what, name, id;  ///< As of PlumbObject.
  std::string piece;                 ///< What it is made of: its id ...
  std::string tree;                  ///< ... or that of the style it has grown in.
  std::string made;                  ///< Material that was there before it: its id.
  size_t others = 0;                 ///< Claims on it that have to give way.
  std::string pointer;               ///< JSON pointer of the piece or the style.
  std::optional<PlumbTree> grown;
};

/// What a group of tiles draws on a cell.
struct PlumbTile {
  std::string group, name, set;  ///< Ids, and what people call the group.
  std::string method;
  std::string mask;  ///< By the method's order: 1 inside, 0 not.
  int number = -1;   ///< The case; -1: nothing is drawn.
  int variant = 0;
  uint16_t value = 0;
  int turn = 0;
  bool mirrored = false;
  std::string pointer;  ///< JSON pointer of the group.
};

struct Plumb {
  Cell cell;
  ChunkPos chunk;
  Cell local;
  bool outside = false;
  double seaLevel = 0;

  std::vector<PlumbLayer> layers;  ///< Of the heights, in order; those that are off as well.
  float sum = 0;                   ///< After the last layer.
  float base = 0;                  ///< After the curve and clamp of the heights.
  float before = 0;                ///< As the biomes shape it.
  float height = 0;                ///< And water after them; in levels that of the rock.
  float west = 0, east = 0, north = 0, south = 0;  ///< Heights one cell away.
  float slope = 0;
  std::optional<uint16_t> fill;  ///< Cells below the top that fill down, where the recipe does.

  std::vector<PlumbAxis> climate;  ///< Temperature and moisture, when the climate is on.

  PlumbBiome biome;
  std::vector<PlumbMargin> biomeMargins;  ///< The nearest changes on the chart.

  std::optional<PlumbWater> water;  ///< Nothing while the stage is off.

  int slopeBand = -1;
  int band = -1;
  std::string bandId;  ///< Of the band, or slope band, that decided.
  std::string material;
  std::string materialName;
  std::vector<PlumbMargin> margins;  ///< Of the deciding band: its lower and upper end.

  std::optional<PlumbBlock> block;
  std::optional<PlumbLevel> level;
  std::vector<PlumbObject> objects;  ///< In the order of the kinds; then those that reach here.
  std::optional<PlumbPart> part;     ///< Nothing: no object has it.
  std::vector<PlumbTile> tiles;      ///< By group; of blocks those of the uppermost.
  bool edited = false;               ///< A tile changed by hand.
};

/// cell: within +-(2^60 - 1).
/// y: a block of the column; nothing: the uppermost one. Not looked at in worlds of tiles.
Result<Plumb> plumbAt(const World& world, Cell cell, std::optional<int64_t> y = {});

/// One line of a card: its knot's stage, its words, its value.
struct PlumbRow {
  std::optional<StageId> stage;  ///< Nothing: changed by hand.
  std::string label;
  std::string value;
  std::string note;     ///< A margin, or what a layer did.
  std::string pointer;  ///< JSON pointer of the control that decides.
  bool deciding = false;
  bool folds = false;  ///< A detail that a short card leaves out.

  const char* stageTitle() const;  ///< "Strata", or "By hand".
};
/// "Saltmarsh, height 3.2".
std::string plumbTitle(const Plumb& plumb);
std::vector<PlumbRow> plumbRows(const Plumb& plumb);
/// The card as text, the same everywhere.
std::string plumbText(const Plumb& plumb);
/// The card as JSON: every number of Plumb by name.
std::string plumbJson(const Plumb& plumb);

/// Where two plumb lines differ: rows of the same place in the chain, the first difference on top.
struct PlumbDifference {
  std::string label;
  std::string first;
  std::string second;
};
std::vector<PlumbDifference> plumbDifferences(const Plumb& a, const Plumb& b);

/// Short names of the ways of joining: "adds", "multiplies", …
const char* combineWord(Combine combine);
/// Number for people: at most five significant digits.
std::string shortNumber(double value);

}  // namespace acre
