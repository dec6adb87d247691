#include "audit/proof_cells.h"

#include <fmt/format.h>

#include <tuple>

#include "world/world.h"

namespace acre::proof {

std::string Cells::says(const World& world, const Spot& s) const {
  const size_t i = indexOf(s);
  std::string text =
      blocks
          ? fmt::format("y {}, {}", s.y, world.catalogue().materialId(materials[i]))
          : fmt::format("height {}, biome {}, material {}", heights[i],
                world.catalogue().biomeId(biomes[i]), world.catalogue().materialId(materials[i]));
  for (const PlacedObject& one : standingIn({s.cell.x, s.cell.z, 1, 1}, s.y, s.y + 1))
    text += fmt::format(", {} {:016x} turned {}", titleOf(world.recipe(), one), one.id, one.turn);
  return text;
}

std::optional<Spot> firstDifference(const Cells& a, const Cells& b, int64_t& compared) {
  const Rect common = intersection(a.rect, b.rect);
  const int64_t low = std::max(a.y, b.y), high = std::min(a.y + a.tall, b.y + b.tall);
  for (int64_t y = low; y < high; ++y)
    for (int64_t z = common.z; z < common.z + common.length; ++z)
      for (int64_t x = common.x; x < common.x + common.width; ++x, ++compared)
        if (!a.sameAt({{x, z}, y}, b)) return Spot{{x, z}, y};
  const auto object =
      firstDifference(a.standingIn(common, low, high), b.standingIn(common, low, high),
          [](const PlacedObject& one) { return std::tuple(one.kind, one.cell.z, one.cell.x); });
  return object ? std::optional(Spot{object->cell, object->y}) : std::nullopt;
}

namespace {

Result<Cells> sampledLand(const World& world, const Rect& rect, const std::stop_token& stop) {
  if (world.blocks()) {
    const AxisBounds range = world.vertical();
    Cells cells(rect, range.min, range.extent);
    if (const Status made = world.sampleBlocks(
            {rect.x, range.min, rect.z, 1, static_cast<int32_t>(rect.width),
                static_cast<int32_t>(range.extent), static_cast<int32_t>(rect.length)},
            cells.materials.data(), stop);
        !made)
      return made.error();
    return cells;
  }
  Cells cells(rect);
  Land land;
  land.heights = cells.heights.data();
  land.materials = cells.materials.data();
  land.biomes = cells.biomes.data();
  const SampleGrid grid{
      rect.x, rect.z, 1, static_cast<int32_t>(rect.width), static_cast<int32_t>(rect.length)};
  if (const Status made = world.sample(grid, land, stop); !made) return made.error();
  return cells;
}

}  // namespace

Result<Cells> sampled(const World& world, const Rect& rect, const std::stop_token& stop) {
  auto cells = sampledLand(world, rect, stop);
  if (!cells) return cells;
  auto objects = world.objects().in(rect, stop);
  if (!objects) return cancelled();
  cells->objects = std::move(*objects);
  return cells;
}

}  // namespace acre::proof
