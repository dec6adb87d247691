/// A second evaluator: one cell at a time, no vectors, no tiles, no chunks. It shares with the core
/// the recipe types, the hash and the reading of rooms' and pictures' files, and is written from
/// docs/maths.md.
#pragma once

#include <map>
#include <memory>
#include <optional>
#include <string>
#include <tuple>
#include <vector>

#include "field/picture_data.h"
#include "recipe/cave_recipe.h"
#include "recipe/object_recipe.h"
#include "recipe/recipe.h"

namespace reference {

struct CellValue {
  float height;
  std::string biome;     ///< Id, "none" or "outside".
  std::string material;  ///< Id, "unassigned" or "outside".
};

/// A place between cells on all three axes, in 1/65536 cells: cell * 65536 + fraction.
struct Place {
  int64_t cell[3];
  int64_t q[3];
};

/// One octave of noise as the recipe describes it, before its shape.
float octave(const acre::NoiseSource& source, int k, int dims, uint64_t layerSeed,
    const std::optional<acre::SamplingOffset>& sampling, const Place& place);
/// All octaves, shaped and weighted.
float noise(const acre::NoiseSource& source, int dims, uint64_t layerSeed,
    const std::optional<acre::SamplingOffset>& sampling, const Place& place);

/// Remembers the distributions that equalising needs. Shares of heights are measured when it is
/// made: 65,536 cells, one after the other.
class Evaluator {
 public:
  explicit Evaluator(const acre::Recipe& recipe);
  ~Evaluator();

  /// What a cell is before its material.
  struct LandValue {
    float base;
    float height;
    std::string biome;
  };
  CellValue evaluate(acre::Cell cell);
  LandValue land(acre::Cell cell);
  /// Before water.
  LandValue unshaped(acre::Cell cell);
  /// What a proof compares: of worlds with water the ground before it, and no material, since each
  /// area's network would take minutes.
  CellValue proven(acre::Cell cell);
  /// "dry", "sea", "lake" or "river"; the height of the ground, the level of the water, and the
  /// shore.
  struct WaterValue {
    std::string kind;
    float height;
    int64_t level;
    float shore;
    /// The highest level of the fresh water over the cell and the four beside it.
    std::optional<int64_t> held;
    uint32_t mark = 0;  ///< Of the node or way that it belongs to.
    bool fresh() const { return kind == "lake" || kind == "river"; }
  };
  WaterValue water(acre::Cell cell);
  /// What a sample is told whose neighbours lie `step` cells away, more than 16 and at most 64.
  WaterValue indicated(acre::Cell cell, int64_t step);
  /// The ways through obstacles of a region: the reason why one was given up, or "none"; its places
  /// and, in 1/256 cell, its levels.
  struct CourseWay {
    std::string fault;
    std::vector<acre::Cell> places;
    std::vector<int64_t> levels;
  };
  std::vector<CourseWay> ways(int64_t i, int64_t j);
  /// What stands in some cells, by kind, then z, then x: its kind's place in the recipe, the id of
  /// what was drawn (empty: the kind itself), its number, and quarter turns.
  struct Object {
    size_t kind;
    std::string choice;
    acre::Cell cell;
    uint64_t id;
    int turn;
    int64_t y;
  };
  std::vector<Object> objects(const acre::Rect& cells);
  float base(acre::Cell cell);
  float height(acre::Cell cell) { return land(cell).height; }
  float field(const std::string& id, acre::Cell cell);

  /// Cells that fill down below the top of a column.
  int fill(acre::Cell cell);

  /// What a block is made of: the id of a material, "open", or "outside".
  std::string block(acre::Cell cell, int64_t y);
  /// As the stages make it, without bounds and what was changed by hand.
  std::string madeBlock(acre::Cell cell, int64_t y);
  /// The same without overhangs and ores.
  std::string plainBlock(acre::Cell cell, int64_t y);

  /// Lattice points of the passages of a square's system, main, arm and own, as far as they are;
  /// nothing without a system.
  std::vector<std::vector<int>> passages(const acre::Tunnels& t, int64_t i, int64_t j);

 private:
  /// What all blocks of a column share.
  struct Column {
    acre::Cell cell;
    float height;
    std::string surface;
    std::vector<std::pair<std::string, int64_t>> layers;  // Material, and the depth where it ends.
    int64_t deepest = 0;
    float rockTop = 0;
    float overhang = 0;
    std::optional<int64_t> level, held;  // Of fresh water.
  };
  struct OrePlan;
  /// before: as it was before water.
  Column columnOf(acre::Cell cell, bool before = false);
  bool solid(const Column& column, int64_t y, bool overhangs) const;
  std::string ground(const Column& column, int64_t y, bool overhangs) const;
  const std::vector<OrePlan>& orePlans();
  /// Altitudes that ores are reckoned for, and how much of which rock lies there.
  acre::AxisBounds oreRange() const;
  std::vector<std::map<std::string, uint32_t>> rockOfWorld();
  /// What is left of a rock, or the ore in it.
  std::string mineral(acre::Cell cell, int64_t y, std::string material);
  /// Where a cell is looked up among the regions.
  void shifted(acre::Cell from, int64_t (&at)[2], int64_t (&q)[2]);
  /// Cells to the nearest border of regions, at most a region's side.
  float borderOf(acre::Cell cell);
  struct Stand {
    acre::Cell cell;
    uint64_t hash;
    uint64_t u() const { return hash >> 32; }
  };
  struct Claim;
  struct ClaimedSquare;
  /// What objects want of the cells of a square.
  const ClaimedSquare& claimedIn(int64_t i, int64_t j);
  void claimTree(const acre::TreeStyle& style, const Object& object, const acre::Rect& cells,
      ClaimedSquare& square);
  using TreeCells = std::map<std::tuple<int64_t, int64_t, int64_t>, bool>;
  /// By style, variant and wind.
  std::map<std::tuple<std::string, uint64_t, int>, std::shared_ptr<const TreeCells>> grown_;
  /// No object has cells.
  bool madeOfNothing() const;
  std::map<std::pair<int64_t, int64_t>, std::shared_ptr<ClaimedSquare>> claimed_;
  /// What is in a cell with the objects that the stages before made so.
  std::string withObjects(acre::Cell cell, int64_t y, const std::string& made);
  /// Whether an object wants any of a column.
  bool claimedColumn(acre::Cell cell);
  /// Whether a cell of a level may hold objects.
  bool freeFloor(acre::Cell cell);
  int wallFrom(acre::Cell cell);
  float heightUnder(acre::Cell cell);
  /// A level whose stage is on.
  bool isLevel() const;
  /// Of all objects of the world.
  uint64_t objectSeed() const;
  /// How many are asked for in 1,000 cells, where so many would be.
  double onFloor(const acre::ObjectKind& kind, double density) const;
  /// Where a kind stands in some cells.
  std::vector<Stand> standing(size_t kind, const acre::Rect& cells);
  int refusedBy(const acre::ObjectKind& kind, const Stand& spot);
  int refusedByOthers(size_t kind, const Stand& spot);
  std::tuple<int64_t, std::string, bool> topOf(acre::Cell cell);
  /// Where one of a kind stands in the caves of its column, and on or under what.
  std::optional<std::pair<int64_t, std::string>> inCaves(
      const acre::ObjectKind& kind, const Stand& spot);
  /// Cells to the nearest wall of a cave at a level, 4 if there are more.
  int caveWall(acre::Cell cell, int64_t y);
  bool isLiquid(const std::string& material) const;
  std::string drawnAt(const acre::ObjectKind& kind, const Stand& spot);
  /// The one of a square.
  std::optional<Stand> inSquare(size_t kind, int64_t i, int64_t j);
  std::map<std::tuple<size_t, int64_t, int64_t>, std::optional<Stand>> squares_;
  struct Waters;
  struct Floor;
  const Floor& floor();
  /// Cells to the nearest open one, the longer way of the two axes.
  int depthIn(acre::Cell cell);
  std::string rockIn(acre::Cell cell, int depth);
  /// made: before objects and what was changed by hand.
  CellValue inLevel(acre::Cell cell, bool made = false);
  std::vector<std::map<std::string, uint32_t>> rockOfFloor();
  /// What the Caves make of a cell: the material in it where they hold it, else nothing.
  /// shafts: of tunnels only the shafts of mouths.
  std::string held(acre::Cell cell, int64_t y, bool shafts = false);
  /// A block of that ground after the Caves.
  std::string dug(acre::Cell cell, int64_t y, const std::string& ground);
  bool opening(acre::Cell cell);
  /// Cells from the rim of the nearest mouth of tunnels.
  float mouthFrom(acre::Cell cell);
  struct System;
  System& systemOf(const acre::Tunnels& t, int64_t i, int64_t j);
  void dig(const acre::Tunnels& t, int64_t i, int64_t j, System& out);
  bool bored(const acre::Tunnels& t, acre::Cell cell, int64_t y, bool shafts, bool& wet);
  bool openVoid(const acre::NoiseVoid& part, acre::Cell cell, int64_t y, float depth) const;
  bool openAutomaton(const acre::AutomatonLayer& layer, acre::Cell cell, int64_t y) const;
  /// What the bands say of a cell.
  std::string surface(acre::Cell cell, const LandValue& ground);
  struct Table;
  /// The cells that shares are counted over, strata as wide as that in an endless world.
  std::vector<acre::Cell> sample(double widest, bool endless) const;
  /// Puts altitudes in the place of all shares of heights that the recipe speaks of.
  void resolveShares();
  const std::vector<acre::Band>& bandsOf(const std::string& biome) const;
  float fieldAt(const acre::FieldRecipe& field, const Place& place);
  /// The sum after the first `count` layers.
  float sumAt(const acre::FieldRecipe& field, size_t count, const Place& place);
  float valueOf(const acre::FieldRecipe& field, size_t index, const Place& place, float before);
  float rawValue(const acre::FieldRecipe& field, size_t index, const Place& place, float before);
  float maskWeight(const acre::Layer& layer, const Place& place);
  const Table& tableOf(const acre::FieldRecipe& field, size_t index);
  double widest(const acre::FieldRecipe& field, size_t first, size_t count);
  double threshold(const acre::Threshold& t);
  /// Whether a layer is alike everywhere, so that bounds do not matter to it.
  bool alike(const acre::Layer& layer) const;

  acre::Recipe recipe_;  ///< With altitudes instead of shares.
  uint64_t seed_;
  std::map<std::pair<std::string, size_t>, std::unique_ptr<Table>> tables_;
  std::map<std::string, std::shared_ptr<const acre::GreyPicture>> pictures_;
  std::shared_ptr<std::vector<OrePlan>> ores_;
  std::shared_ptr<Floor> floor_;
  std::shared_ptr<Waters> waters_;
  std::map<int64_t, std::shared_ptr<Waters>> coarser_;
  std::map<std::tuple<std::string, int64_t, int64_t>, std::shared_ptr<System>> systems_;
};

/// A monotone cubic through the points of a recipe's curve.
float curveAt(const acre::Curve& curve, float v);

}  // namespace reference
