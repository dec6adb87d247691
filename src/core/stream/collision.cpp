#include "stream/collision.h"

#include <algorithm>

namespace acre {

CollisionMap::CollisionMap(const World& world, const Chunk& chunk) : rect_(chunk.rect) {
  std::vector<uint16_t> states(chunk.materials.size());
  for (size_t i = 0; i < states.size(); ++i) {
    const Material* material = planOf(world).catalogue().material(chunk.materials[i]);
    states[i] = static_cast<uint16_t>(material ? material->state : MaterialState::Solid);
  }
  states_ = PackedCells(states);
}

uint64_t CollisionMap::mostBytes(const ChunkLayout& layout) {
  const Vertical& v = layout.vertical();
  const auto side = static_cast<size_t>(layout.size());
  const auto levels = static_cast<size_t>(v.tall ? v.tall : std::max<int64_t>(1, v.extent));
  return sizeof(CollisionMap) + PackedCells::mostHeapBytes(side * side * levels);
}

StreamExtra::Made objectsThere(const Chunk& chunk, const std::stop_token&) {
  const auto out = std::make_shared<ObjectsThere>();
  for (const PlacedObject& one : chunk.objects)
    if (chunk.owns(one)) out->list.push_back(one);
  out->list.shrink_to_fit();
  const uint64_t bytes = out->bytes();
  return {out, bytes};
}

std::function<StreamExtra::Made(const Chunk&, const std::stop_token&)> collisionMaker(
    std::shared_ptr<const World> world) {
  return [world = std::move(world)](const Chunk& chunk, const std::stop_token&) {
    auto map = std::make_shared<const CollisionMap>(*world, chunk);
    const uint64_t bytes = map->bytes();
    return StreamExtra::Made{std::move(map), bytes};
  };
}

}  // namespace acre
