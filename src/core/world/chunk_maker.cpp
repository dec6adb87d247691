#include "world/chunk_maker.h"

#include <fmt/format.h>

#include <algorithm>
#include <iterator>
#include <new>
#include <tuple>

#include "strata/bands.h"
#include "water/water_stage.h"
#include "world/world.h"

namespace acre {
namespace {

/// Most levels of blocks in a chunk.
size_t chunkLevels(const ChunkLayout& layout) {
  const Vertical& v = layout.vertical();
  return static_cast<size_t>(v.tall ? v.tall : v.extent);
}

void packWater(
    Chunk& chunk, const std::vector<WaterKind>& kinds, const std::vector<int32_t>& levels) {
  std::vector<int32_t> met;
  for (size_t i = 0; i < kinds.size(); ++i)
    if (kinds[i] != WaterKind::Dry && (met.empty() || met.back() != levels[i]))
      met.push_back(levels[i]);
  std::sort(met.begin(), met.end());
  met.erase(std::unique(met.begin(), met.end()), met.end());
  std::vector<uint16_t> kind(kinds.size()), place(kinds.size());
  auto level = met.begin();
  for (size_t i = 0; !met.empty() && i < kinds.size(); ++i) {
    if (kinds[i] == WaterKind::Dry) continue;
    kind[i] = static_cast<uint16_t>(kinds[i]);
    if (*level != levels[i]) level = std::lower_bound(met.begin(), met.end(), levels[i]);
    place[i] = static_cast<uint16_t>(1 + (level - met.begin()));
  }
  chunk.waterKinds = PackedCells(kind);
  chunk.water = PackedCells(place);
  chunk.waterLevels.assign(met.begin(), met.end());
}

}  // namespace

uint64_t ChunkMaker::largestBytes() const {
  const ChunkLayout& layout = world_.layout();
  const auto cells = static_cast<size_t>(layout.size()) * static_cast<size_t>(layout.size());
  const uint64_t groups =
      world_.tiles().inChunks() ? static_cast<uint64_t>(world_.tiles().stage()->groups()) : 0;
  const size_t faces =
      layout.blocks() ? static_cast<size_t>(layout.size()) * chunkLevels(layout) : cells;
  const uint64_t empty = sizeof(Chunk) + Chunk::kBlocks * Chunk::kBytesPerBlock +
                         groups * (sizeof(PackedCells) + PackedCells::mostHeapBytes(faces) +
                                      2 * Chunk::kBytesPerBlock);
  const uint64_t objects =
      world_.objects().mostIn(layout.size() + 2 * world_.objectCells().reach()) *
      sizeof(PlacedObject);
  if (layout.blocks())
    return empty + PackedCells::mostHeapBytes(cells * chunkLevels(layout)) + objects;
  const unsigned packed = 1u + (world_.biomes() ? 1u : 0u) + (world_.recipe().fillDown ? 1u : 0u) +
                          (world_.water() ? 2u : 0u);
  const uint64_t levels = world_.water() ? cells * sizeof(int32_t) : 0;
  return empty + cells * sizeof(float) + PackedCells::mostHeapBytes(cells) * packed + levels +
         objects;
}

uint64_t ChunkMaker::workBytes() const {
  const ChunkLayout& layout = world_.layout();
  const auto side = static_cast<uint64_t>(layout.size()) + 2;  // Slopes look one cell around.
  uint64_t cell = sizeof(float) + sizeof(MaterialIndex) + sizeof(BiomeIndex);  // Base and indices.
  if (world_.bands().needsSlope()) cell += 2 * sizeof(float) + sizeof(BiomeIndex);
  // What water makes of each, and what lies near it.
  if (world_.water()) cell += WaterStage::kWorkPerCell;
  // Numbers of the columns, levels of noise, and the blocks as they are made.
  if (layout.blocks()) cell += sizeof(float) * 24 + chunkLevels(layout) * sizeof(MaterialIndex);
  // What tiles see, their classes, and the values of a group.
  if (world_.tiles().inChunks())
    cell += (2 * sizeof(MaterialIndex) + 2 + 2 * sizeof(uint16_t)) *
            (layout.blocks() ? chunkLevels(layout) : 1);
  // Marks, noise, and what is flooded.
  if (world_.caves()) cell += chunkLevels(layout) * (sizeof(float) + sizeof(uint16_t) * 2 + 2);
  return largestBytes() + side * side * cell + (uint64_t{64} << 10) +
         (world_.objects().any() ? ObjectPass::kWork : 0);
}

Error ChunkMaker::fault(
    ChunkPos pos, Error::Code code, std::string what, std::string accepted) const {
  const std::string level = pos.detail == 0 ? "" : fmt::format(" of detail level {}", pos.detail);
  return {code, std::move(what),
      fmt::format("chunk {}{}, stage {}, seed {}", chunkText(world_.layout(), pos), level,
          world_.layout().blocks() ? "blocks" : "heights", world_.recipe().seed),
      std::move(accepted)};
}

Status ChunkMaker::check(ChunkPos pos) const {
  const ChunkLayout& layout = world_.layout();
  const auto refuse = [&](std::string what, std::string accepted) {
    return fault(pos, Error::Code::InvalidInput, std::move(what), std::move(accepted));
  };
  if (pos.detail < 0 || pos.detail > kCoarsestDetail)
    return refuse("no such detail level", fmt::format("0 to {}", kCoarsestDetail));
  const int64_t farthest = kMaxCell / (int64_t{layout.size()} << pos.detail) - 1;
  if (pos.cx < -farthest || pos.cx > farthest || pos.cz < -farthest || pos.cz > farthest)
    return refuse("beyond the last chunk", fmt::format("{} to {}", -farthest, farthest));
  if (intersection(layout.rectOf(pos), world_.bounds()).empty())
    return refuse("outside the world's bounds", "chunks that hold a cell of the world");
  const int64_t lowest = layout.lowestChunk(pos.detail), highest = layout.highestChunk(pos.detail);
  if (pos.cy < lowest || pos.cy > highest)
    return refuse("outside the vertical range", fmt::format("cy from {} to {}", lowest, highest));
  return done();
}

Result<std::shared_ptr<const Chunk>> ChunkMaker::make(
    ChunkPos pos, const std::stop_token& stop, StageTimes* times) const {
  if (const Status there = check(pos); !there) return there.error();
  const ChunkLayout& layout = world_.layout();
  const Rect whole = layout.rectOf(pos);
  const bool cropped = pos.detail == 0;
  auto chunk = std::make_shared<Chunk>();
  chunk->pos = pos;
  chunk->rect = intersection(whole, world_.bounds());
  chunk->width = cropped ? static_cast<int32_t>(chunk->rect.width) : layout.size();
  chunk->length = cropped ? static_cast<int32_t>(chunk->rect.length) : layout.size();
  const Rect& from = cropped ? chunk->rect : whole;
  const SampleGrid grid{from.x, from.z, int64_t{1} << pos.detail, chunk->width, chunk->length};
  try {
    const Status made =
        layout.blocks() ? blocks(*chunk, grid, stop, times) : columns(*chunk, grid, stop, times);
    if (!made && made.error().code == Error::Code::Cancelled) return made.error();
    if (!made) return fault(pos, made.error().code, made.error().what, made.error().accepted);
  } catch (const std::bad_alloc&) {
    return fault(pos, Error::Code::ResourceExhausted, "out of memory", "a smaller chunk size");
  }
  return std::shared_ptr<const Chunk>(std::move(chunk));
}

Status ChunkMaker::blocks(
    Chunk& chunk, const SampleGrid& grid, const std::stop_token& stop, StageTimes* times) const {
  const BlockLevels levels = world_.layout().levelsOf(chunk.pos);
  chunk.y = levels.first;
  chunk.tall = levels.count;
  const size_t total = static_cast<size_t>(chunk.width) * static_cast<size_t>(chunk.length) *
                       static_cast<size_t>(levels.count);
  const SampleBlock place{
      grid.x, levels.first, grid.z, grid.step, chunk.width, levels.count, chunk.length};
  const bool tiled = world_.tiles().inChunks() && chunk.pos.detail == 0;
  if (tiled) {
    if (const Status made = tiledBlocks(chunk, place, stop, times); !made) return made;
    StageClock clock(times);
    return objects(chunk, clock, stop);
  }
  if (chunk.pos.detail == 0 && !world_.edits())
    if (const auto alike = world_.ground().alike(place, stop, times)) {
      const auto guests = reaching(chunk, stop);
      if (!guests) return cancelled();
      if (guests->empty()) {
        chunk.materials = PackedCells(total, *alike);
        StageClock clock(times);
        return objects(chunk, clock, stop);
      }
    }
  const auto blocks = std::make_unique_for_overwrite<MaterialIndex[]>(total);
  if (const Status made = world_.sampleBlocks(place, blocks.get(), stop, times); !made) return made;
  StageClock clock(times);
  chunk.materials = PackedCells({blocks.get(), total});
  clock.stopPacking();
  return objects(chunk, clock, stop);
}

namespace {

/// A rectangle's part of a larger one's cells; what lies beyond both is kOutside.
Status cutFrom(const Rect& all, const std::vector<MaterialIndex>& held, const Rect& there,
    const Rect& part, MaterialIndex* out) {
  for (int64_t z = part.z; z < part.z + part.length; ++z)
    for (int64_t x = part.x; x < part.x + part.width; ++x)
      *out++ = there.contains({x, z})
                   ? held[static_cast<size_t>((z - all.z) * all.width + x - all.x)]
                   : kOutside;
  return done();
}

}  // namespace

Status ChunkMaker::tiledBlocks(
    Chunk& chunk, const SampleBlock& place, const std::stop_token& stop, StageTimes* times) const {
  // Tiles look one cell around.
  const SampleBlock around{place.x - 1, place.y - 1, 0, 1, place.width + 2, place.height + 2, 1};
  const auto width = static_cast<size_t>(around.width), rows = static_cast<size_t>(around.height);
  std::vector<MaterialIndex> blocks(width * rows), seen(blocks.size());
  const TilePass& tiles = world_.tiles();
  if (const Status made = tiles.blocks(around, blocks.data(), seen.data(), stop, times); !made)
    return made;
  StageClock clock(times);
  std::vector<MaterialIndex> own;
  for (size_t j = 1; j + 1 < rows; ++j)
    own.insert(own.end(), blocks.begin() + static_cast<ptrdiff_t>(j * width) + 1,
        blocks.begin() + static_cast<ptrdiff_t>((j + 1) * width) - 1);
  chunk.materials = PackedCells(own);
  clock.stopPacking();
  for (size_t low = 0, high = rows - 1; low < high; ++low, --high)  // Tiles go down.
    std::swap_ranges(seen.begin() + static_cast<ptrdiff_t>(low * width),
        seen.begin() + static_cast<ptrdiff_t>((low + 1) * width),
        seen.begin() + static_cast<ptrdiff_t>(high * width));
  const Rect all = grown(tiles.cellsOf(chunk), 1);
  auto laid = tiles.ofChunk(
      chunk,
      [&](const Rect& part, MaterialIndex* out) {
        return cutFrom(all, seen, tiles.plane(), part, out);
      },
      stop);
  if (!laid) return laid.error();
  chunk.tiles = std::move(*laid);
  clock.stop(StageId::Tiles);
  return done();
}

std::optional<std::vector<PlacedObject>> ChunkMaker::reaching(
    const Chunk& chunk, const std::stop_token& stop) const {
  const int64_t levels = chunk.tall > 0 ? int64_t{chunk.tall} << chunk.pos.detail : 1;
  return world_.objectCells().reaching(chunk.rect, chunk.y, chunk.y + levels, stop);
}

Status ChunkMaker::objects(Chunk& chunk, StageClock& clock, const std::stop_token& stop) const {
  if (!world_.objects().any() || chunk.pos.detail > kObjectDetail) return done();
  auto found = world_.objects().in(chunk.rect, stop);
  if (!found) return cancelled();
  std::erase_if(*found, [&](const PlacedObject& one) { return !chunk.owns(one); });
  if (world_.objectCells().any()) {
    const auto guests = reaching(chunk, stop);
    if (!guests) return cancelled();
    std::copy_if(guests->begin(), guests->end(), std::back_inserter(*found),
        [&](const PlacedObject& one) { return !chunk.owns(one); });
    std::sort(found->begin(), found->end(), [](const PlacedObject& a, const PlacedObject& b) {
      return std::tuple(a.kind, a.cell.z, a.cell.x) < std::tuple(b.kind, b.cell.z, b.cell.x);
    });
  }
  found->shrink_to_fit();
  chunk.objects = std::move(*found);
  clock.stop(StageId::Objects);
  return done();
}

Status ChunkMaker::columns(
    Chunk& chunk, const SampleGrid& grid, const std::stop_token& stop, StageTimes* times) const {
  // Tiles look one cell around.
  const bool tiled = world_.tiles().inChunks() && chunk.pos.detail == 0;
  const int32_t rim = tiled ? 1 : 0;
  const SampleGrid all{
      grid.x - rim, grid.z - rim, grid.step, grid.width + 2 * rim, grid.length + 2 * rim};
  const auto count = static_cast<size_t>(all.width) * static_cast<size_t>(all.length);
  std::vector<float> heights(count);
  std::vector<MaterialIndex> materials(count), seen(tiled ? count : 0);
  std::vector<BiomeIndex> biomes(world_.biomes() ? count : 0);
  Land land;
  land.heights = heights.data();
  land.materials = materials.data();
  if (world_.biomes()) land.biomes = biomes.data();
  std::vector<WaterKind> waters(world_.water() ? count : 0);
  std::vector<int32_t> levels(waters.size());
  if (!waters.empty()) {
    land.waters = waters.data();
    land.levels = levels.data();
  }
  land.times = times;
  if (const Status made = tiled ? world_.tiles().columns(all, land, seen.data(), stop)
                                : world_.sample(grid, land, stop);
      !made)
    return made;
  StageClock clock(times);
  const auto inner = [&](auto& values) {
    if (!tiled || values.empty()) return;
    std::decay_t<decltype(values)> own;
    own.reserve(static_cast<size_t>(grid.width) * static_cast<size_t>(grid.length));
    for (int32_t j = 1; j + 1 < all.length; ++j)
      own.insert(own.end(), values.begin() + static_cast<ptrdiff_t>(j) * all.width + 1,
          values.begin() + static_cast<ptrdiff_t>(j + 1) * all.width - 1);
    values = std::move(own);
  };
  inner(heights);
  inner(materials);
  inner(biomes);
  inner(waters);
  inner(levels);
  chunk.heights = std::move(heights);
  if (!waters.empty()) packWater(chunk, waters, levels);
  chunk.materials = PackedCells(materials);
  chunk.biomes = PackedCells(biomes);
  clock.stopPacking();
  if (tiled) {
    const Rect cells{all.x, all.z, all.width, all.length};
    auto laid = world_.tiles().ofChunk(
        chunk,
        [&](const Rect& part, MaterialIndex* out) {
          return cutFrom(cells, seen, world_.tiles().plane(), part, out);
        },
        stop);
    if (!laid) return laid.error();
    chunk.tiles = std::move(*laid);
    clock.stop(StageId::Tiles);
  }
  if (const Status stand = objects(chunk, clock, stop); !stand) return stand;
  if (world_.recipe().fillDown) {
    std::vector<uint16_t> fill;
    if (const Status made = world_.columns().fill(grid, fill, stop); !made) return made;
    chunk.fill = PackedCells(fill);
  }
  clock.stopPacking();
  return done();
}

}  // namespace acre
