/// What stands on the ground of a world.
#pragma once

#include <functional>
#include <map>
#include <memory>
#include <optional>
#include <stop_token>
#include <string>
#include <utility>
#include <vector>

#include "base/memo.h"
#include "object/scatter.h"
#include "recipe/object_recipe.h"
#include "world/chunk.h"
#include "world/plan.h"

namespace acre {

class ColumnSampler;  // world/column_sampler.h

/// Why a candidate is none, in the order in which it is asked; the first that fits counts.
enum class Refusal : uint8_t {
  None,
  Apart,  ///< An earlier kind stands too near.
  Biome,  ///< Fewer are asked for in its biome.
  Water,  ///< Under water.
  Altitude,
  Shore,
  Field,
  Ground,  ///< Another material.
  Slope,
  Own  ///< A better one of its own kind stands too near.
};
inline constexpr size_t kRefusals = 10;
/// "", "near another kind", "biome", "under water", "altitude", "distance from water", "field",
/// "ground", "slope", "near its own kind".
const char* refusalName(Refusal refusal);

/// A candidate of a kind and what became of it.
struct Judged {
  Candidate at;
  Refusal refusal = Refusal::None;
};

/// Ids of an object's kind, and of what was drawn of it; empty: the kind itself.
std::pair<std::string, std::string> namesOf(const Recipe& recipe, const PlacedObject& object);
/// What people call it: the name of what was drawn, or of the kind.
std::string titleOf(const Recipe& recipe, const PlacedObject& object);

/// The objects of a world: pulled from wherever they are asked for, remembered in tiles, the same
/// in any order, in parts of any size and by any threads. They stand on the ground as it was made,
/// whatever was changed by hand. Thread-safe.
class ObjectPass {
 public:
  /// Both there for as long as this is.
  ObjectPass(const WorldPlan& plan, const ColumnSampler& columns, const MemoLimit& memo);

  bool any() const { return !kinds_.empty(); }
  /// Those that stand in some cells, by kind, then z, then x; none beyond the bounds. Nothing when
  /// stopped.
  std::optional<std::vector<PlacedObject>> in(
      const Rect& cells, const std::stop_token& stop = {}) const;
  /// Calls visit with all candidates of a kind in some cells that its greatest density makes, and
  /// what became of them. kind: its place in the recipe. False when stopped.
  bool judged(size_t kind, const Rect& cells, const std::function<void(const Judged&)>& visit,
      const std::stop_token& stop = {}) const;
  /// What such a candidate is where it stands.
  PlacedObject objectOf(size_t kind, const Candidate& at) const;
  /// How many of a kind are asked for in 1,000 cells of a biome.
  double densityIn(size_t kind, BiomeIndex biome) const;
  /// How many of a kind fit in 1,000 cells.
  double most(size_t kind) const;
  /// How many of all kinds a square of so many cells a side may hold.
  uint64_t mostIn(int64_t side) const;
  /// Cells that what stands in a cell may depend on.
  int64_t reach(size_t kind) const;
  /// Most bytes that are in use while those of a chunk are found, apart from what is remembered.
  static constexpr uint64_t kWork = uint64_t{1} << 20;
  /// Bytes that are remembered.
  uint64_t bytes() const { return judgedTiles_.bytes() + placedTiles_.bytes(); }

 private:
  struct Kind;
  struct Key {
    size_t kind;
    int64_t i, j;
    auto operator<=>(const Key&) const = default;
  };
  struct Tile {
    std::vector<Judged> list;
    uint64_t bytes() const { return sizeof *this + list.capacity() * sizeof(Judged) + 64; }
  };
  /// The tiles that one asking has met: they stay while it lasts, whatever is remembered.
  struct Work {
    const std::stop_token& stop;
    std::map<Key, std::shared_ptr<const Tile>> judged = {}, settled = {};
  };
  enum class Of { Judged, Settled };
  const Kind* kindOf(size_t kind) const;
  /// Candidates of a tile, judged by all but their own kind; settled: by that too. Nothing when
  /// stopped.
  const Tile* tile(Of of, const Key& key, Work& work) const;
  std::shared_ptr<const Tile> judge(const Key& key, Work& work) const;
  std::shared_ptr<const Tile> settle(const Key& key, Work& work) const;
  // Each refuses some of those that are left.
  /// tile: the cells that all of them lie in.
  void askGround(const Kind& kind, const Rect& tile, std::vector<Judged>& list) const;
  void askLand(const Kind& kind, const Rect& tile, std::vector<Judged>& list) const;
  void askField(const Kind& kind, std::vector<Judged>& list) const;
  void askSurface(const Kind& kind, std::vector<Judged>& list) const;
  /// Calls visit with those that stand in some cells. False when stopped.
  template <class Visit>
  bool eachIn(Of of, const Kind& kind, const Rect& cells, Work& work, Visit&& visit) const;
  /// The same of all that is settled, part by part, so that little is held at a time.
  template <class Visit>
  bool eachSettled(
      const Kind& kind, const Rect& cells, const std::stop_token& stop, Visit&& visit) const;
  PlacedObject objectOf(const Kind& kind, const Candidate& at) const;

  const WorldPlan& plan_;
  const ColumnSampler& columns_;
  std::vector<std::shared_ptr<const Kind>> kinds_;  ///< Those that are on.
  Memo<Key, Tile> judgedTiles_, placedTiles_;
};

}  // namespace acre
