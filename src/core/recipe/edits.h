/// What was changed by hand: single cells and the material that each holds now.
#pragma once

#include <algorithm>
#include <array>
#include <cstdint>
#include <map>
#include <memory>
#include <string>
#include <string_view>
#include <vector>

#include "base/coords.h"
#include "base/hash.h"

namespace acre {

/// Material of a cell that was cleared by hand; worlds of tiles cannot clear one.
inline constexpr const char* kOpenId = "open";

/// One cell, and the id of its material. In worlds of tiles y is 0.
struct Edit {
  int64_t x = 0, y = 0, z = 0;
  std::string material;
  bool operator==(const Edit&) const = default;
};

/// A value: changing one makes a copy that shares all bricks but those that changed. Cells come in
/// bricks of 32 a side, in the order (y, z, x) of the bricks and of the cells in them.
class EditSet {
 public:
  static constexpr int64_t kSide = 32;
  static constexpr size_t kMost = 4'000'000;

  /// Set for which a seed's world was edited; another seed's world shows none of them.
  explicit EditSet(std::string seed) : seed_(std::move(seed)) {}
  const std::string& seed() const { return seed_; }

  size_t size() const { return count_; }
  bool empty() const { return count_ == 0; }

  /// With these cells set, the later ones over the earlier. An empty material takes an edit back.
  std::shared_ptr<const EditSet> with(const std::vector<Edit>& changes) const;

  /// Calls visit(edit's place, index of its material among materials()) for all within
  /// [x, x + width) and so on.
  template <class Visit>
  void eachIn(const SampleBlock& block, Visit&& visit) const;

  /// All of them, in order.
  std::vector<Edit> all() const;
  /// The material of one cell; empty when it was not changed.
  std::string at(int64_t x, int64_t y, int64_t z) const;
  /// Ids that the entries' indices stand for.
  const std::vector<std::string>& materials() const { return materials_; }
  bool operator==(const EditSet& other) const;
  /// Places whose material differs between two sets, either of which may be missing.
  static std::vector<Edit> difference(const EditSet* a, const EditSet* b);

 private:
  struct Entry {
    uint16_t place;  // (y*32 + z)*32 + x within the brick.
    uint16_t material;
    bool operator==(const Entry&) const = default;
  };
  using Brick = std::vector<Entry>;       // Sorted by place.
  using Corner = std::array<int64_t, 3>;  // y, z, x of the brick.
  uint16_t indexOf(const std::string& material);

  std::string seed_;
  std::vector<std::string> materials_;
  std::map<Corner, std::shared_ptr<const Brick>> bricks_;
  size_t count_ = 0;
};

/// Value that compares by contents; nothing is no edits.
using Edits = std::shared_ptr<const EditSet>;
bool sameEdits(const Edits& a, const Edits& b);

template <class Visit>
void EditSet::eachIn(const SampleBlock& block, Visit&& visit) const {
  const int64_t step = block.step;
  const int64_t x1 = block.x + (block.width - 1) * step, y1 = block.y + (block.height - 1) * step,
                z1 = block.z + (block.length - 1) * step;
  const auto down = [](int64_t v) { return floorDiv(v, kSide); };
  const auto inside = [&](int64_t v, int64_t first, int64_t last) {
    return v >= first && v <= last && (v - first) % step == 0;
  };
  const auto look = [&](const Corner& corner, const Brick& brick) {
    const auto within = [](int64_t v, int64_t of) {
      return std::clamp<int64_t>(v - of * kSide, 0, kSide - 1);
    };
    const int64_t lowest = within(block.y, corner[0]), highest = within(y1, corner[0]);
    const int64_t north = within(block.z, corner[1]), south = within(z1, corner[1]);
    // Entries are sorted by place: of each level the rows that the block crosses stand together.
    auto at = brick.begin();
    for (int64_t level = lowest; level <= highest && at != brick.end(); ++level) {
      at = std::lower_bound(at, brick.end(), (level * kSide + north) * kSide,
          [](const Entry& e, int64_t place) { return e.place < place; });
      for (; at != brick.end() && at->place < (level * kSide + south + 1) * kSide; ++at) {
        const int64_t y = corner[0] * kSide + at->place / (kSide * kSide);
        const int64_t z = corner[1] * kSide + at->place / kSide % kSide;
        const int64_t x = corner[2] * kSide + at->place % kSide;
        if (inside(x, block.x, x1) && inside(y, block.y, y1) && inside(z, block.z, z1))
          visit(x, y, z, at->material);
      }
    }
  };
  const auto across = static_cast<uint64_t>(down(x1) - down(block.x) + 1);
  const auto deep = static_cast<uint64_t>(down(z1) - down(block.z) + 1);
  const auto tall = static_cast<uint64_t>(down(y1) - down(block.y) + 1);
  if (across > bricks_.size() || deep > bricks_.size() || tall > bricks_.size() ||
      across * deep * tall > bricks_.size()) {
    for (const auto& [corner, brick] : bricks_)
      if (corner[0] >= down(block.y) && corner[0] <= down(y1) && corner[1] >= down(block.z) &&
          corner[1] <= down(z1) && corner[2] >= down(block.x) && corner[2] <= down(x1))
        look(corner, *brick);
    return;
  }
  for (int64_t j = down(block.y); j <= down(y1); ++j)
    for (int64_t k = down(block.z); k <= down(z1); ++k)
      for (int64_t i = down(block.x); i <= down(x1); ++i)
        if (const auto found = bricks_.find({j, k, i}); found != bricks_.end())
          look(found->first, *found->second);
}

}  // namespace acre
