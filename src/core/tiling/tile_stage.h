/// The stage Tiles, compiled: from the materials of a rectangle to a value for each cell and group.
#pragma once

#include <array>
#include <memory>
#include <optional>
#include <vector>

#include "base/coords.h"
#include "base/indices.h"
#include "noise/tiles.h"
#include "recipe/tile_cases.h"

namespace acre {

struct Kernels;  // noise/kernels.h
struct Recipe;   // recipe/recipe.h

/// Classes of a rectangle of cells and of those around it.
struct TileWindow {
  Cell origin;
  int32_t width = 0, length = 0;
  /// Of the cell `origin`, x fastest; from one row and one column before it to one after the last.
  /// A class of kTileBeyond and more lies outside the bounds, and says besides what it would be if
  /// the nearest cell within went on.
  const uint8_t* classes = nullptr;
  ptrdiff_t stride = 0;
  bool beyond = false;  ///< Some lie outside.
};
inline constexpr uint8_t kTileBeyond = 0x80;

/// What a group says of one cell.
struct TileOfCell {
  uint8_t mask = 0;  ///< As it is.
  uint8_t number = TileCases::kNothing;
  int variant = 0;
  uint16_t value = TileValue::kNone;
  bool operator==(const TileOfCell&) const = default;
};

/// Immutable and thread-safe.
class TileStage {
 public:
  /// Nothing where the stage takes no part or has no group that is on.
  static std::shared_ptr<const TileStage> of(const Recipe& recipe);

  int groups() const { return static_cast<int>(groups_.size()); }
  const TileGroup& group(int g) const { return groups_[static_cast<size_t>(g)].said; }
  const TileSet& set(int g) const { return groups_[static_cast<size_t>(g)].set; }
  const TileCases& cases(int g) const { return groups_[static_cast<size_t>(g)].cases; }
  /// The place of a group among the recipe's.
  size_t placeOf(int g) const { return groups_[static_cast<size_t>(g)].place; }

  /// 0, or 1 + the group of a material.
  uint8_t classOf(MaterialIndex material) const {
    return material < classes_.size() ? classes_[material] : uint8_t{0};
  }
  void classes(const Kernels& kernels, const MaterialIndex* materials, int64_t count,
      uint8_t* classes) const;

  /// values[j * width + i] of a group.
  void values(const Kernels& kernels, int group, const TileWindow& window, uint16_t* values) const;
  /// What every cell of a window has whose classes, all within the bounds, lie between these;
  /// nothing: they have to be looked at.
  std::optional<uint16_t> everywhere(int group, uint8_t least, uint8_t most) const;
  /// Of one cell of a window, (i, j) from its origin, by plain code.
  TileOfCell at(int group, const TileWindow& window, int32_t i, int32_t j) const;

 private:
  struct Group {
    TileGroup said;
    TileSet set;
    TileCases cases;
    size_t place;
    uint64_t xSeed, zSeed;
    bool asCases = true;  ///< Without turns: the value of a first variant is the case and one.
    bool varied = false;  ///< Some case has more than one variant.
    /// Where all cases have the same.
    std::optional<TileVariety> variety = {};
    /// By case, and by what stands for none: the value of its first variant.
    std::array<uint16_t, 256> first = {};
    /// By case, unless it has one variant: sums of weights.
    std::vector<std::vector<uint32_t>> sums = {};
  };
  /// Calls with each row of cases.
  template <class Take>
  void eachRow(const Kernels& kernels, int group, const TileWindow& window, const Take& take) const;
  static std::optional<TileVariety> varietyOf(const Group& group);
  bool inside(const Group& group, uint8_t level, uint8_t of) const;
  int variantOf(const Group& group, uint8_t number, uint32_t hash) const;
  uint16_t valueOf(const Group& group, uint8_t number, uint32_t hash) const;

  std::vector<Group> groups_;
  std::vector<uint8_t> classes_;
  ClassTable table_;
};

}  // namespace acre
