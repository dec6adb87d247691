#include "world/fingerprint.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <map>

#include "base/fp_state.h"
#include "recipe/object_recipe.h"
#include "world/world.h"

namespace acre {
namespace {

/// Indices as places among the ids that occur, in the order of the ids.
template <class IdOf>
void hashIndices(DigestWriter& out, std::span<const uint16_t> indices, const IdOf& idOf) {
  std::map<std::string, uint16_t> palette;
  for (const uint16_t index : indices) palette.try_emplace(idOf(index), index);
  std::map<uint16_t, uint32_t> place;
  uint32_t next = 0;
  for (const auto& [id, index] : palette) {
    out.text(id);
    place[index] = next++;
  }
  for (const uint16_t index : indices) out.u32(place[index]);
}

const char* kindOf(const World& world) {
  return kindName(world.recipe().frame.kind);
}

/// What stands there; nothing where the stage has no part.
void addObjects(DigestWriter& out, const World& world, std::span<const PlacedObject> objects) {
  if (!world.objects().any()) return;
  out.text("objects");
  for (const PlacedObject& one : objects) {
    const ObjectKind& kind = world.recipe().objects->kinds[one.kind];
    out.u64(one.id).text(kind.id).i64(one.cell.x).i64(one.cell.z).u8(one.turn);
    out.text(one.choice == PlacedObject::kPlain ? "" : kind.what[one.choice].id);
    if (world.blocks()) out.i64(one.y);
  }
}

/// The values of every group; nothing where chunks have no tiles.
using Planes = std::vector<std::vector<uint16_t>>;
void addTiles(DigestWriter& out, const World& world, const Planes& planes) {
  if (planes.empty()) return;
  out.text("tiles");
  for (size_t g = 0; g < planes.size(); ++g) {
    out.text(world.tiles().stage()->group(static_cast<int>(g)).id);
    for (const uint16_t value : planes[g]) out.u32(value);
  }
}
Planes planesOf(const Chunk& chunk) {
  Planes out;
  for (const PackedCells& plane : chunk.tiles) out.push_back(plane.unpacked());
  return out;
}

constexpr int64_t kAlone = 32;  // Smaller squares are looked at on their own.

/// Those of an area that stand on some levels.
std::vector<PlacedObject> objectsOn(const World& world, const Rect& rect, int64_t y, int64_t tall) {
  auto out = world.objects().in(rect, {}, rect.width <= kAlone).value();
  std::erase_if(out, [&](const PlacedObject& one) { return one.y < y || one.y >= y + tall; });
  return out;
}

/// Water over cells; empty without the stage.
struct Waters {
  std::vector<WaterKind> kinds;
  std::vector<int32_t> levels;  ///< 0 where it is dry.
};

/// Channels in the order of their names; those that a world does not have hash nothing.
Digest hashCells(const World& world, std::string_view tag, const Rect& rect,
    std::span<const float> heights, std::span<const MaterialIndex> materials,
    std::span<const BiomeIndex> biomes, const Waters& waters, std::span<const PlacedObject> objects,
    std::span<const uint16_t> fill = {}, const Planes& tiles = {}) {
  DigestWriter out;
  out.text(tag).text(kindOf(world)).i64(rect.x).i64(rect.z).i64(rect.width).i64(rect.length);
  if (world.biomes()) {
    out.text("biome");
    hashIndices(out, biomes, [&](BiomeIndex b) { return world.catalogue().biomeId(b); });
  }
  if (!fill.empty()) {
    out.text("fill");
    for (const uint16_t f : fill) out.u32(f);
  }
  out.text("height");
  for (const float h : heights) out.f32(h);
  out.text("material");
  hashIndices(out, materials, [&](MaterialIndex m) { return world.catalogue().materialId(m); });
  if (!waters.kinds.empty()) {
    out.text("water");
    for (const int32_t level : waters.levels) out.i64(level);
    out.text("waterKind");
    for (const WaterKind kind : waters.kinds) out.u8(static_cast<uint8_t>(kind));
  }
  addObjects(out, world, objects);
  addTiles(out, world, tiles);
  return out.finish();
}

/// Blocks of all levels over a rectangle.
Digest hashBlocks(const World& world, std::string_view tag, const Rect& rect, int64_t y,
    int64_t tall, std::span<const MaterialIndex> blocks, std::span<const PlacedObject> objects,
    const Planes& tiles = {}) {
  DigestWriter out;
  out.text(tag).text(kindOf(world)).i64(rect.x).i64(rect.z).i64(rect.width).i64(rect.length);
  out.i64(y).i64(tall).text("material");
  hashIndices(out, blocks, [&](MaterialIndex m) { return world.catalogue().materialId(m); });
  addObjects(out, world, objects);
  addTiles(out, world, tiles);
  return out.finish();
}

/// All channels of a rectangle.
struct Cells {
  std::vector<float> heights;
  std::vector<MaterialIndex> materials;
  std::vector<BiomeIndex> biomes;
  Waters waters;
  Land land;
  Cells(const World& world, const Rect& rect)
      : heights(static_cast<size_t>(rect.width * rect.length)),
        materials(heights.size()),
        biomes(heights.size()) {
    land.heights = heights.data();
    land.materials = materials.data();
    land.biomes = biomes.data();
    if (!world.water()) return;
    waters.kinds.resize(heights.size());
    waters.levels.resize(heights.size());
    land.waters = waters.kinds.data();
    land.levels = waters.levels.data();
  }
};

/// Cells of a small square as if the world had no bounds; of blocks those about its ground.
Digest hashSquare(const World& world, const Rect& rect) {
  const Cells cells(world, rect);
  const SampleGrid grid{
      rect.x, rect.z, 1, static_cast<int32_t>(rect.width), static_cast<int32_t>(rect.length)};
  (void)world.sampleUnbounded(grid, cells.land);  // Far inside the limits.
  if (world.blocks()) {
    constexpr int32_t kTall = 40;
    const auto ground = static_cast<int64_t>(std::floor(cells.heights[0]));
    const int64_t first = ground - kTall + 8;
    std::vector<MaterialIndex> blocks(cells.heights.size() * kTall);
    (void)world.sampleBlocksUnbounded(
        {rect.x, first, rect.z, 1, grid.width, kTall, grid.length}, blocks.data());
    return hashBlocks(
        world, "block", rect, first, kTall, blocks, objectsOn(world, rect, first, kTall));
  }
  return hashCells(world, "block", rect, cells.heights, cells.materials, cells.biomes, cells.waters,
      world.objects().in(rect, {}, true).value());
}

}  // namespace

Digest chunkHash(const World& world, const Chunk& chunk) {
  if (chunk.tall > 0)
    return hashBlocks(world, "cells", chunk.rect, chunk.y, chunk.tall, chunk.materials.unpacked(),
        chunk.objects, planesOf(chunk));
  Waters waters;
  for (size_t i = 0; i < chunk.waterKinds.size(); ++i) {
    waters.kinds.push_back(static_cast<WaterKind>(chunk.waterKinds[i]));
    waters.levels.push_back(chunk.waterAt(i).value_or(0));
  }
  return hashCells(world, "cells", chunk.rect, chunk.heights, chunk.materials.unpacked(),
      chunk.biomes.unpacked(), waters, chunk.objects, chunk.fill.unpacked(), planesOf(chunk));
}

Result<Digest> areaHash(const World& world, const Rect& area) {
  constexpr int64_t kMost = int64_t{1} << 26;
  if (area.width < 1 || area.length < 1 || area.width > kMost || area.length > kMost / area.width)
    return Error{Error::Code::InvalidInput, fmt::format("{} x {} cells", area.width, area.length),
        "area", "1 to 2^26 cells"};
  const SampleGrid grid{
      area.x, area.z, 1, static_cast<int32_t>(area.width), static_cast<int32_t>(area.length)};
  if (world.blocks()) {
    const AxisBounds range = world.vertical();
    if (range.extent > kMost / area.width / area.length)
      return Error{Error::Code::InvalidInput,
          fmt::format("{} x {} columns of {} blocks", area.width, area.length, range.extent),
          "area", "1 to 2^26 blocks"};
    std::vector<MaterialIndex> blocks(static_cast<size_t>(area.width * area.length * range.extent));
    if (const Status made = world.sampleBlocks({area.x, range.min, area.z, 1, grid.width,
                                                   static_cast<int32_t>(range.extent), grid.length},
            blocks.data());
        !made)
      return made.error();
    Planes planes;
    if (world.tiles().inChunks()) {
      auto made =
          world.tiles().planes({area.x, 1 - (range.min + range.extent), area.width, range.extent});
      if (!made) return made.error();
      for (std::vector<uint16_t>& plane : made->groups) {
        // Rows of blocks go up.
        std::vector<uint16_t> up;
        for (int64_t j = range.extent; j-- > 0;)
          up.insert(up.end(), plane.begin() + j * area.width, plane.begin() + (j + 1) * area.width);
        planes.push_back(std::move(up));
      }
    }
    return hashBlocks(world, "cells", area, range.min, range.extent, blocks,
        objectsOn(world, area, range.min, range.extent), planes);
  }
  const Cells cells(world, area);
  if (const Status made = world.sample(grid, cells.land); !made) return made.error();
  auto planes =
      world.tiles().inChunks() ? world.tiles().planes(area) : Result<TilePlanes>(TilePlanes());
  if (!planes) return planes.error();
  return hashCells(world, "cells", area, cells.heights, cells.materials, cells.biomes, cells.waters,
      world.objects().in(area).value(), {}, planes->groups);
}

Digest worldFingerprint(const World& world) {
  constexpr int64_t kFar = 2'000'000'000;
  constexpr int64_t kApart = 97;
  DigestWriter out;
  const auto block = [&](int64_t x, int64_t z) { out.digest(hashSquare(world, {x, z, 8, 8})); };
  if (world.level()) {  // Elsewhere there is nothing of it.
    const Rect& all = world.bounds();
    for (int64_t i = 0; i < 64; ++i)
      block(all.x + i % 8 * (all.width - 8) / 7, all.z + i / 8 * (all.length - 8) / 7);
    return out.finish();
  }
  for (int64_t i = 0; i < 16; ++i) block(i % 4 * kApart, i / 4 * kApart);
  for (int64_t i = 0; i < 16; ++i) block(-5000 - i % 4 * kApart, -3000 - i / 4 * kApart);
  for (int64_t i = 0; i < 16; ++i) block(kFar + i % 4 * kApart, kFar - i / 4 * kApart);
  for (uint64_t i = 0; i < 16; ++i) {
    // Where there is water every place apart pulls a network of its own: there they are together.
    const uint64_t key = combine(world.seed(), world.water() ? 0 : i);
    const auto n = world.water() ? static_cast<int64_t>(i) : 0;
    block(static_cast<int64_t>(key >> 24) - (int64_t{1} << 39) + n % 4 * kApart,
        static_cast<int64_t>(mix64(key) >> 24) - (int64_t{1} << 39) + n / 4 * kApart);
  }
  return out.finish();
}

}  // namespace acre
