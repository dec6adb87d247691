/// What ObjectPass keeps of its kinds and of the places that it judges; for its own parts alone.
#pragma once

#include <algorithm>
#include <limits>
#include <memory>
#include <optional>
#include <vector>

#include "field/tables.h"
#include "object/scatter.h"
#include "recipe/object_recipe.h"
#include "world/object_pass.h"

namespace acre {

struct ObjectPass::Kind {
  /// Cells along one side of what is judged at a time, or a little less: as the ground is known.
  static constexpr int64_t kJudged = ObjectGroundTile::kSide;
  /// The same of what is settled, which looks at its neighbours too.
  static constexpr int64_t kSettled = 2 * kJudged;
  /// Ends in single precision.
  struct Ends {
    float low = -std::numeric_limits<float>::infinity();
    float high = std::numeric_limits<float>::infinity();
    explicit Ends(const Span& span) {
      if (span.low) low = static_cast<float>(*span.low);
      if (span.high) high = static_cast<float>(*span.high);
    }
    bool any() const { return low > -std::numeric_limits<float>::infinity() || !holds(1e30f); }
    bool holds(float v) const { return v >= low && v <= high; }
  };
  struct Apart {
    size_t kind;  ///< In the recipe.
    int64_t cells;
  };
  size_t place;
  const ObjectKind& recipe;
  Scatter scatter;
  /// How many are asked for, where, and the chance for it.
  struct Asked {
    BiomeIndex biome;
    double density;
    uint64_t chance;
  };
  Asked usual;
  uint64_t greatest;  ///< Chance of all.
  std::vector<Asked> biomes;
  std::vector<Apart> apart, beside;
  std::vector<MaterialIndex> ground;
  Ends altitude, slope, shore, wall, mouth, within;
  const Field* field;
  const Field* amount;
  std::shared_ptr<const CurveTable> curve;
  std::optional<NoisePlan> noise;  ///< Of a level's walls ...
  Ends noiseWithin{Span{}};        ///< ... that has to lie in these.
  std::vector<int> caves;          ///< Those of the stage Caves.
  /// Where one of the list may be drawn.
  struct Choice {
    std::vector<BiomeIndex> biomes;
    bool here;  ///< On this floor.
    const Field* field;
    Ends within;
  };
  std::vector<Choice> choices;
  int64_t reach;
  bool nobody = false;  ///< It would stand by a kind that is off.

  /// Squares of the scatter along one side of a tile.
  int64_t squares(Of of) const {
    return (of == Of::Judged ? kJudged : kSettled) / scatter.square();
  }
  /// Cells a side of a tile.
  int64_t side(Of of) const {
    if (recipe.must) return recipe.must->square;
    return squares(of) * scatter.square();
  }
  Rect cellsOf(Of of, const Key& key) const {
    return {key.i * side(of), key.j * side(of), side(of), side(of)};
  }
  /// What share of its density a value of its field asks for.
  double share(float value) const {
    return static_cast<double>(std::clamp(curve ? curve->at(value) : value, 0.0f, 1.0f));
  }
  bool inCaves() const { return recipe.stands != ObjectStand::Ground; }
  const Asked& askedIn(BiomeIndex biome) const {
    for (const Asked& there : biomes)
      if (there.biome == biome) return there;
    return usual;
  }
};

/// Candidates of a tile, with what is known of the ground they stand on.
struct ObjectPass::Places {
  std::vector<Judged>& list;
  std::vector<std::shared_ptr<const ObjectGroundTile>> tiles;  ///< Row by row.
  Rect cells;                                                  ///< That they cover.
  std::vector<double> asked;  ///< For each: of 1,000 cells of its biome.
  std::vector<BiomeIndex> biomes;
  std::vector<MaterialIndex> tops;  ///< For each, in worlds of blocks: what it stands on.
  bool plane;                       ///< A side world: the ground is asked at z = 0.

  Places(std::vector<Judged>& judged, const Rect& tile, bool side)
      : list(judged),
        cells(tile),
        asked(judged.size()),
        biomes(judged.size(), kNoBiome),
        plane(side) {}
  /// Of those that the cells lie in.
  void lookUp(const ObjectGround& ground) {
    std::vector<size_t> counts(static_cast<size_t>(wide() * deep()));
    for (const Judged& one : list) counts[tileOf(one.at.cell)] += one.refusal == Refusal::None;
    for (const size_t count : counts) {
      const auto n = static_cast<int64_t>(tiles.size());
      tiles.push_back(count == 0 ? nullptr
                                 : ground.tile(floorDiv(cells.x, kSide) + n % wide(),
                                       floorDiv(cells.z, kSide) + n / wide(), count));
    }
  }
  static constexpr int64_t kSide = ObjectGroundTile::kSide;
  int64_t wide() const {
    return floorDiv(cells.x + cells.width - 1, kSide) - floorDiv(cells.x, kSide) + 1;
  }
  int64_t deep() const {
    return floorDiv(cells.z + cells.length - 1, kSide) - floorDiv(cells.z, kSide) + 1;
  }
  size_t tileOf(Cell at) const {
    return static_cast<size_t>((floorDiv(at.z, kSide) - floorDiv(cells.z, kSide)) * wide() +
                               floorDiv(at.x, kSide) - floorDiv(cells.x, kSide));
  }
  /// Those that nothing refuses yet.
  std::vector<size_t> left() const {
    std::vector<size_t> out;
    for (size_t n = 0; n < list.size(); ++n)
      if (list[n].refusal == Refusal::None) out.push_back(n);
    return out;
  }
  /// Calls known(place in the list, tile, place in it) for each that is left where the ground is
  /// remembered; the others.
  template <class Known>
  std::vector<size_t> unknown(Known&& known) const {
    std::vector<size_t> out;
    for (const size_t n : left()) {
      const Cell at = list[n].at.cell;
      const ObjectGroundTile* tile = tiles.empty() ? nullptr : tiles[tileOf(at)].get();
      if (tile)
        known(n, *tile, ObjectGroundTile::at(at));
      else
        out.push_back(n);
    }
    return out;
  }
  std::vector<Cell> cellsOf(const std::vector<size_t>& some) const {
    std::vector<Cell> out;
    for (const size_t n : some) out.push_back({list[n].at.cell.x, plane ? 0 : list[n].at.cell.z});
    return out;
  }
};

}  // namespace acre
