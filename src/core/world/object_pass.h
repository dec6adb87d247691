/// What stands on the ground of a world.
#pragma once

#include <array>
#include <functional>
#include <memory>
#include <optional>
#include <stop_token>
#include <string>
#include <unordered_map>
#include <utility>
#include <vector>

#include "base/memo.h"
#include "object/scatter.h"
#include "recipe/recipe.h"
#include "world/chunk.h"
#include "world/object_ground.h"
#include "world/plan.h"

namespace acre {

struct ObjectAttribute;  // recipe/object_recipe.h
struct ObjectPiece;      // recipe/object_recipe.h
struct TreeStyle;        // recipe/tree_recipe.h
class ColumnSampler;     // world/column_sampler.h
class GroundSampler;     // world/ground_sampler.h

/// Why a candidate is none, in the order in which it is asked; the first that fits counts.
enum class Refusal : uint8_t {
  None,
  Bounds,  ///< Of one in every square: beyond the bounds.
  Solid,   ///< Of a level: in a wall, or on a place that has to be there.
  Apart,   ///< An earlier kind stands too near.
  Beside,  ///< None of an earlier kind stands near.
  Biome,   ///< Fewer are asked for in its biome.
  Water,   ///< Under water.
  Altitude,
  Shore,
  Wall,   ///< Too near a wall of a level or a cave, or too far from one.
  Mouth,  ///< Too near the mouth of tunnels, or too far from one.
  Field,
  Amount,  ///< Fewer are asked for where a field has this value.
  Cave,    ///< There is no such cave.
  Ground,  ///< Another material, or none at all.
  Slope,
  Uneven,
  Own  ///< A better one of its own kind stands too near.
};
inline constexpr size_t kRefusals = 18;
/// "", "outside the world", "in a wall", "near another kind", "not by another kind", "biome",
/// "under water", "altitude", "distance from water", "distance from a wall",
/// "distance from a mouth", "field", "amount", "no such cave", "ground", "slope", "uneven ground",
/// "near its own kind".
const char* refusalName(Refusal refusal);

/// A candidate of a kind and what became of it.
struct Judged {
  Candidate at;
  Refusal refusal = Refusal::None;
  Refusal forced = Refusal::None;          ///< It stands there though this refuses it.
  uint16_t choice = PlacedObject::kPlain;  ///< PlacedObject::choice, of those that stand.
  int32_t y = 0;                           ///< PlacedObject::y, of those that stand.
};
static_assert(sizeof(Judged) == 32);  // Many are remembered.

/// What became of a kind of which one has to be there in every square, in one of them.
struct MustHave {
  std::optional<Judged> placed;               ///< Nothing: it is missing.
  std::array<uint64_t, kRefusals> refused{};  ///< Places that were tried before, by their reason.
};

/// What chooses among a list, from 0 up to, and not at, 1. hash: of the candidate.
double drawOf(uint64_t hash);
/// Ids of an object's kind, and of what was drawn of it; empty: the kind itself.
std::pair<std::string, std::string> namesOf(const Recipe& recipe, const PlacedObject& object);
/// What it is made of; nullptr: it is a tree or has no cells.
const ObjectPiece* pieceOf(const Recipe& recipe, const PlacedObject& object);
/// The style that it has grown in; nullptr: it is no tree.
const TreeStyle* treeOf(const Recipe& recipe, const PlacedObject& object);
/// Those of its kind, and of what was drawn in place of those of the same name.
std::vector<ObjectAttribute> attributesOf(const Recipe& recipe, const PlacedObject& object);
/// What people call it: the name of what was drawn, or of the kind.
std::string titleOf(const Recipe& recipe, const PlacedObject& object);

/// The objects of a world: pulled from wherever they are asked for, remembered in tiles, the same
/// in any order, in parts of any size and by any threads. They stand on the ground as it was made,
/// whatever was changed by hand. Thread-safe.
class ObjectPass {
 public:
  /// All there for as long as this is.
  ObjectPass(const WorldPlan& plan, const ColumnSampler& columns, const GroundSampler& blocks,
      const MemoLimit& memo);

  bool any() const { return !kinds_.empty(); }
  /// Those that stand in some cells, by kind, then z, then x; none beyond the bounds. Nothing when
  /// stopped. once: nobody is going to ask for what lies beside them.
  std::optional<std::vector<PlacedObject>> in(
      const Rect& cells, const std::stop_token& stop = {}, bool once = false) const;
  /// Calls visit with all candidates of a kind in some cells that its greatest density makes, and
  /// what became of them. kind: its place in the recipe. False when stopped.
  bool judged(size_t kind, const Rect& cells, const std::function<void(const Judged&)>& visit,
      const std::stop_token& stop = {}) const;
  /// The same of those alone that nothing refuses, which costs a fraction.
  bool standing(size_t kind, const Rect& cells, const std::function<void(const Judged&)>& visit,
      const std::stop_token& stop = {}) const;
  /// Of a kind that has to be there in every square, that of square (i, j). Nothing when stopped.
  /// REQUIRES: squareOf(kind) > 0.
  std::optional<MustHave> mustHave(
      size_t kind, int64_t i, int64_t j, const std::stop_token& stop = {}) const;
  /// Cells a side of the squares that hold one each; 0: no such kind.
  int64_t squareOf(size_t kind) const;
  /// What such a candidate is where it stands.
  PlacedObject objectOf(size_t kind, const Judged& one) const;
  /// What a candidate's amount is and has to be at least, both shares of the density of its biome.
  struct Share {
    double is, least;
  };
  /// Nothing: the kind has no amount, or one in every square, or its biome refuses it already.
  std::optional<Share> shareAt(size_t kind, const Judged& one) const;
  /// The noise that made a level's walls, where the kind reads it.
  std::optional<float> wallNoiseAt(size_t kind, Cell cell) const;
  /// Cells from the rim of the nearest mouth of tunnels, as CaveStage::mouthFrom.
  float mouthFrom(Cell cell) const;
  /// How many of a kind are asked for in 1,000 cells of a biome.
  double densityIn(size_t kind, BiomeIndex biome) const;
  /// The most of them that are asked for anywhere; 0: it is off, or every square has one.
  double greatest(size_t kind) const;
  /// The same of each sample, by biome and field, before anything else is asked: row by row.
  /// REQUIRES: greatest(kind) > 0.
  Status asked(size_t kind, const SampleGrid& grid, float* out, ptrdiff_t stride,
      const std::stop_token& stop = {}) const;
  /// How many of a kind fit in 1,000 cells.
  double most(size_t kind) const;
  /// How many of all kinds a square of so many cells a side may hold.
  uint64_t mostIn(int64_t side) const;
  /// Cells that what stands in a cell may depend on.
  int64_t reach(size_t kind) const;
  /// Most bytes that are in use while those of a chunk are found, apart from what is remembered.
  static constexpr uint64_t kWork = uint64_t{1} << 20;
  /// What is known of the ground that they stand on.
  const ObjectGround& ground() const { return ground_; }
  /// Bytes that are remembered.
  uint64_t bytes() const { return judgedTiles_.bytes() + placedTiles_.bytes() + ground_.bytes(); }

 private:
  struct Kind;
  /// Whether those that are refused are told, and what refuses each of them first.
  enum class Told : int64_t { Standing, Refused };
  struct Key {
    size_t kind;
    int64_t i, j;
    Told told;
    auto operator<=>(const Key&) const = default;
  };
  struct Tile {
    std::vector<Judged> list;
    uint64_t bytes() const { return sizeof *this + list.capacity() * sizeof(Judged) + 64; }
  };
  /// The tiles that one asking has met: they stay while it lasts, whatever is remembered.
  struct Work {
    const std::stop_token& stop;
    bool once = false;  ///< Only what is asked for is settled.
    std::unordered_map<Key, std::shared_ptr<const Tile>, MemoHash> judged = {}, settled = {};
  };
  enum class Of { Judged, Settled };
  const Kind* kindOf(size_t kind) const;
  /// Candidates of a tile, judged by all but their own kind; settled: by that too. Those of one in
  /// every square are all told. Nothing when stopped.
  const Tile* tile(Of of, Key key, Work& work) const;
  std::shared_ptr<const Tile> judge(const Key& key, Work& work) const;
  /// Places of a square in the order in which they are tried, up to the first that holds.
  std::shared_ptr<const Tile> judgeSquare(const Key& key, Work& work) const;
  /// All candidates in some cells, settled; nothing when stopped.
  std::optional<std::vector<Judged>> settle(
      const Kind& kind, const Rect& cells, Told told, Work& work) const;
  /// Leaves out what the biomes refuse, where that spares much.
  void dropByBiome(const Kind& kind, const Rect& cells, std::vector<Judged>& list) const;
  struct Places;
  // Each refuses some of those that are left.
  /// cells: those that all of them lie in. False when stopped.
  bool askOthers(const Kind& kind, const Rect& cells, std::vector<Judged>& list, Work& work) const;
  void askGround(const Kind& kind, Places& places) const;
  void askLand(const Kind& kind, Places& places) const;
  /// Of levels: whether it is open, and how far a wall is.
  void askFloor(const Kind& kind, Places& places) const;
  /// judge(place in the list, value of a field there): what refuses it, of each that is left.
  template <class Judge>
  void askField(const Field& field, Places& places, Judge&& judge) const;
  /// Of levels: the noise that made the walls.
  std::vector<float> wallNoise(const Kind& kind, const std::vector<Cell>& cells) const;
  void askNoise(const Kind& kind, Places& places) const;
  void askMouths(const Kind& kind, Places& places) const;
  /// Of worlds of blocks: finds the ground under the sky.
  void askTop(const Kind& kind, Places& places) const;
  /// The same of a floor or a ceiling in the caves.
  void askCaves(const Kind& kind, Places& places) const;
  void askSurface(const Kind& kind, Places& places) const;
  void askFooting(const Kind& kind, Places& places) const;
  /// A place in the caves under a candidate.
  std::optional<GroundTop> caveUnder(const Kind& kind, const Candidate& at) const;
  /// Lets one stand whatever refuses it. False: there is nothing to stand on.
  bool force(const Kind& kind, Judged& one) const;
  /// Draws what each of those that are left is.
  void draw(const Kind& kind, Places& places) const;
  /// Calls visit with those that stand in some cells. False when stopped.
  template <class Visit>
  bool eachIn(
      Of of, const Kind& kind, Told told, const Rect& cells, Work& work, Visit&& visit) const;
  /// The same of all that is settled, part by part, so that little is held at a time.
  template <class Visit>
  bool eachSettled(const Kind& kind, Told told, const Rect& cells, const std::stop_token& stop,
      Visit&& visit, bool once = false) const;
  PlacedObject objectOf(const Kind& kind, const Judged& one) const;

  const WorldPlan& plan_;
  const ColumnSampler& columns_;
  std::vector<std::shared_ptr<const Kind>> kinds_;  ///< Those that are on.
  Memo<Key, Tile> judgedTiles_, placedTiles_;
  ObjectGround ground_;
};

}  // namespace acre
