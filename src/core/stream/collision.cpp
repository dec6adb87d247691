#include "stream/collision.h"

namespace acre {

CollisionMap::CollisionMap(const World& world, const Chunk& chunk) : rect_(chunk.rect) {
  std::vector<uint16_t> states(chunk.materials.size());
  for (size_t i = 0; i < states.size(); ++i) {
    const Material* material = planOf(world).catalogue().material(chunk.materials[i]);
    states[i] = static_cast<uint16_t>(material ? material->state : MaterialState::Solid);
  }
  states_ = PackedCells(states);
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
