#include "view/scene.h"

#include <cmath>

#include "output/shading.h"

namespace acre {
void Eye::move(double dx, double dy, double dz) {
  x += dx;
  z += dz;
  y += dy;
  const double cx = std::floor(x), cz = std::floor(z);
  cellX += static_cast<int64_t>(cx);
  cellZ += static_cast<int64_t>(cz);
  x -= cx;
  z -= cz;
}

Directions directionsOf(const Eye& eye) {
  const double sy = std::sin(eye.yaw * kDegree), cy = std::cos(eye.yaw * kDegree);
  const double sp = std::sin(eye.pitch * kDegree), cp = std::cos(eye.pitch * kDegree);
  Directions out;
  out.forward = {sy * cp, sp, -cy * cp};
  out.right = {cy, 0, sy};
  out.up = {-sy * sp, cp, cy * sp};
  return out;
}

ViewStyle styleFor(const World& world, bool clearLeaves) {
  ViewStyle style;
  style.inks.push_back(0xFFE9E3D3);
  for (const Material& m : planOf(world).recipe().materials)
    style.inks.push_back(opaqueInk(m.colour));
  style.inks.push_back(kPlainGround);  // The bed, BlockClasses::bedOf().
  constexpr uint32_t kThere = 0xA0;    // Of leaves.
  if (clearLeaves)
    for (const MaterialIndex leaf : leavesOf(world))
      style.inks[leaf] = (style.inks[leaf] & 0xFFFFFFu) | kThere << 24;
  style.sea = planOf(world).seaLevel();
  return style;
}

SideLight sideLight(const ViewStyle& style) {
  const double sx = std::sin(style.sun * kDegree), sz = -std::cos(style.sun * kDegree);
  const auto lit = [](double towards) { return static_cast<float>(0.84 + 0.13 * towards); };
  SideLight out{};
  out.of[static_cast<int>(Side::West)] = lit(-sx);
  out.of[static_cast<int>(Side::East)] = lit(sx);
  out.of[static_cast<int>(Side::North)] = lit(-sz);
  out.of[static_cast<int>(Side::South)] = lit(sz);
  out.of[static_cast<int>(Side::Up)] = 1.04f;
  out.of[static_cast<int>(Side::Down)] = 0.6f;
  return out;
}

void addToScene(const ChunkLayout& layout, ChunkPos pos,
    std::span<const std::shared_ptr<const BlockMesh>> meshes,
    const std::function<bool(ChunkPos)>& held, Scene& scene) {
  const Rect rect = layout.rectOf(pos);
  struct Beside {
    Side side;
    int64_t dx, dz;
  };
  constexpr Beside kBeside[] = {
      {Side::West, -1, 0}, {Side::East, 1, 0}, {Side::North, 0, -1}, {Side::South, 0, 1}};
  for (const auto& mesh : meshes) {
    ScenePart part{mesh, 0};
    for (const Beside& b : kBeside) {
      if (mesh->walls[static_cast<size_t>(b.side)].empty()) continue;
      const int64_t x = mesh->x + mesh->width * mesh->step, z = mesh->z + mesh->depth * mesh->step;
      const bool rim = b.dx < 0   ? mesh->x == rect.x
                       : b.dx > 0 ? x >= rect.x + rect.width
                       : b.dz < 0 ? mesh->z == rect.z
                                  : z >= rect.z + rect.length;
      ChunkPos beside = pos;
      beside.cx += b.dx;
      beside.cz += b.dz;
      if (rim && !held(beside))
        part.walls = static_cast<uint8_t>(part.walls | 1u << static_cast<int>(b.side));
    }
    scene.push_back(std::move(part));
  }
}

}  // namespace acre
