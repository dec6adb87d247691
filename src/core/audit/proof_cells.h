/// What the proof compares: pieces of a world, however they were asked for.
#pragma once

#include <algorithm>
#include <bit>
#include <optional>
#include <stop_token>
#include <string>
#include <vector>

#include "base/result.h"
#include "world/chunk.h"

namespace acre {

class World;

namespace proof {

/// A cell, or one block of its column.
struct Spot {
  Cell cell;
  int64_t y = 0;
};

/// The channels of a rectangle of cells, and what stands there; in worlds of blocks the blocks over
/// it.
struct Cells {
  Rect rect;
  int64_t y = 0;
  int64_t tall = 1;  ///< Levels; 1 for columns.
  bool blocks = false;
  std::vector<float> heights;  ///< Empty for blocks, like the biomes.
  std::vector<MaterialIndex> materials;
  std::vector<BiomeIndex> biomes;
  std::vector<PlacedObject> objects;

  explicit Cells(const Rect& r)
      : rect(r),
        heights(static_cast<size_t>(r.width * r.length)),
        materials(heights.size()),
        biomes(heights.size(), kNoBiome) {}
  Cells(const Rect& r, int64_t first, int64_t levels)
      : rect(r),
        y(first),
        tall(levels),
        blocks(true),
        materials(static_cast<size_t>(r.width * r.length * levels)) {}
  explicit Cells(const Chunk& chunk)
      : rect(chunk.rect),
        heights(chunk.heights),
        materials(chunk.materials.unpacked()),
        objects(chunk.objects) {
    if (chunk.tall > 0) {
      y = chunk.y;
      tall = chunk.tall;
      blocks = true;
      return;
    }
    biomes = chunk.biomes.empty() ? std::vector<BiomeIndex>(heights.size(), kNoBiome)
                                  : chunk.biomes.unpacked();
  }
  bool holds(const Spot& s) const {
    return rect.contains(s.cell) && (!blocks || (s.y >= y && s.y < y + tall));
  }
  size_t indexOf(const Spot& s) const {
    const int64_t level = blocks ? s.y - y : 0;
    return static_cast<size_t>(
        (level * rect.length + s.cell.z - rect.z) * rect.width + (s.cell.x - rect.x));
  }
  bool sameAt(const Spot& s, const Cells& other) const {
    const size_t i = indexOf(s), k = other.indexOf(s);
    if (materials[i] != other.materials[k]) return false;
    return blocks || (std::bit_cast<uint32_t>(heights[i] + 0.0f) ==
                             std::bit_cast<uint32_t>(other.heights[k] + 0.0f) &&
                         biomes[i] == other.biomes[k]);
  }
  std::vector<PlacedObject> standingIn(const Rect& part, int64_t low, int64_t high) const {
    std::vector<PlacedObject> out;
    for (const PlacedObject& one : objects)
      if (part.contains(one.cell) && (!blocks || (one.y >= low && one.y < high)))
        out.push_back(one);
    return out;
  }
  std::string says(const World& world, const Spot& s) const;
};

/// The first object that is not in both lists, each by kind, then z, then x.
template <class Object, class KeyOf>
std::optional<Object> firstDifference(
    const std::vector<Object>& a, const std::vector<Object>& b, KeyOf&& keyOf) {
  const auto [i, k] = std::mismatch(a.begin(), a.end(), b.begin(), b.end());
  if (i == a.end() && k == b.end()) return std::nullopt;
  if (i == a.end()) return *k;
  return k == b.end() || keyOf(*i) <= keyOf(*k) ? *i : *k;
}

/// The first place, in the order of rows, in which two pieces differ where they overlap; then the
/// first object.
std::optional<Spot> firstDifference(const Cells& a, const Cells& b, int64_t& compared);

/// All of a rectangle at once.
Result<Cells> sampled(const World& world, const Rect& rect, const std::stop_token& stop);

}  // namespace proof
}  // namespace acre
