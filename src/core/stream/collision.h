/// Where one can stand, walk and swim: what a game needs of the chunks closest by.
#pragma once

#include <memory>

#include "recipe/recipe.h"
#include "stream/stream.h"
#include "world/plan.h"

namespace acre {

/// Whether each cell of a chunk is solid, passable or liquid, in at most two bits a cell.
class CollisionMap {
 public:
  /// chunk: of level 0, made by `world`. Cells of no material are solid.
  CollisionMap(const World& world, const Chunk& chunk);

  const Rect& rect() const { return rect_; }
  /// REQUIRES: rect().contains(cell).
  MaterialState at(Cell cell) const {
    const auto index = static_cast<size_t>((cell.z - rect_.z) * rect_.width + (cell.x - rect_.x));
    return static_cast<MaterialState>(states_[index]);
  }
  uint64_t bytes() const { return sizeof(CollisionMap) + states_.heapBytes(); }
  /// Most that those of such chunks take.
  static uint64_t mostBytes(const ChunkLayout& layout);

 private:
  Rect rect_;
  PackedCells states_;
};

/// The objects that a chunk owns, as an extra of a stream.
struct ObjectsThere {
  std::vector<PlacedObject> list;
  uint64_t bytes() const { return sizeof *this + list.capacity() * sizeof(PlacedObject); }
};
StreamExtra::Made objectsThere(const Chunk& chunk, const std::stop_token& stop);

/// Makes CollisionMaps as an extra of a stream.
std::function<StreamExtra::Made(const Chunk&, const std::stop_token&)> collisionMaker(
    std::shared_ptr<const World> world);

}  // namespace acre
