#include "world/tile_pass.h"

#include <algorithm>

#include "field/stage_times.h"
#include "noise/kernels.h"
#include "world/world.h"

namespace acre {
namespace {

Rect planeOf(const World& world) {
  Rect plane = world.bounds();
  if (world.recipe().frame.kind != WorldKind::Side) return plane;
  const AxisBounds levels = world.vertical();
  plane.z = 1 - (levels.min + levels.extent);
  plane.length = levels.extent;
  return plane;
}

}  // namespace

TilePass::TilePass(const World& world)
    : world_(world), stage_(TileStage::of(world.recipe())), plane_(planeOf(world)) {}

void TilePass::leave(size_t count, const MaterialIndex* with, MaterialIndex* tiles) const {
  for (size_t n = 0; n < count; ++n)
    if (with[n] != tiles[n] && stage_ && stage_->classOf(with[n])) tiles[n] = with[n];
}

Status TilePass::columns(const SampleGrid& grid, const Land& land, MaterialIndex* tiles,
    const std::stop_token& stop) const {
  const auto count = static_cast<size_t>(grid.width) * static_cast<size_t>(grid.length);
  Land before = land;
  before.materials = tiles;
  before.beforeObjects = true;
  if (Status made = world_.sampleUnbounded(grid, before, stop); !made) return made;
  MaterialIndex* const with = land.materials;
  std::copy_n(tiles, count, with);
  if (!world_.objectCells().any()) return done();
  if (world_.blocks()) {
    if (Status made = world_.sampleUnbounded(grid, land, stop); !made) return made;
    leave(count, with, tiles);
    return done();
  }
  StageClock clock(land.times);
  if (Status made = world_.objectCells().apply(grid, with, grid.width, stop); !made) return made;
  leave(count, with, tiles);
  world_.editPass().apply(grid, tiles, grid.width);
  world_.editPass().apply(grid, with, grid.width);
  clock.stop(StageId::Objects);
  return done();
}

Status TilePass::blocks(const SampleBlock& block, MaterialIndex* blocks, MaterialIndex* tiles,
    const std::stop_token& stop, StageTimes* times) const {
  const size_t count = static_cast<size_t>(block.width) * static_cast<size_t>(block.height) *
                       static_cast<size_t>(block.length);
  if (Status made = world_.ground().fill(block, blocks, stop, times); !made) return made;
  std::copy_n(blocks, count, tiles);
  if (world_.objectCells().any()) {
    StageClock clock(times);
    if (Status made = world_.objectCells().apply(block, blocks, stop); !made) return made;
    leave(count, blocks, tiles);
    clock.stop(StageId::Objects);
  }
  world_.editPass().apply(block, blocks);
  world_.editPass().apply(block, tiles);
  return done();
}

Status TilePass::grounds(const Rect& cells, MaterialIndex* out, const std::stop_token& stop) const {
  const auto width = static_cast<int32_t>(cells.width), length = static_cast<int32_t>(cells.length);
  const size_t count = static_cast<size_t>(width) * static_cast<size_t>(length);
  std::vector<MaterialIndex> with(count);
  if (world_.recipe().frame.kind == WorldKind::Side) {
    const SampleBlock block{cells.x, 1 - (cells.z + cells.length), 0, 1, width, length, 1};
    std::vector<MaterialIndex> tiles(count);
    if (Status made = blocks(block, with.data(), tiles.data(), stop); !made) return made;
    // Rows of blocks go up, those of tiles down.
    for (int32_t j = 0; j < length; ++j)
      std::copy_n(tiles.data() + static_cast<ptrdiff_t>(length - 1 - j) * width, width,
          out + static_cast<ptrdiff_t>(j) * width);
    return done();
  }
  Land land;
  land.materials = with.data();
  return columns({cells.x, cells.z, 1, width, length}, land, out, stop);
}

Status TilePass::materials(
    const Rect& cells, MaterialIndex* out, const std::stop_token& stop) const {
  const Rect there = intersection(cells, plane_);
  if (there == cells) return grounds(cells, out, stop);
  std::fill_n(out, cells.width * cells.length, kOutside);
  if (there.empty()) return done();
  std::vector<MaterialIndex> part(static_cast<size_t>(there.width * there.length));
  if (Status made = grounds(there, part.data(), stop); !made) return made;
  for (int64_t j = 0; j < there.length; ++j)
    std::copy_n(part.data() + j * there.width, there.width,
        out + (there.z - cells.z + j) * cells.width + there.x - cells.x);
  return done();
}

std::vector<uint8_t> TilePass::classes(const Rect& around, const MaterialIndex* materials) const {
  std::vector<uint8_t> out(static_cast<size_t>(around.width * around.length));
  stage_->classes(world_.kernels(), materials, around.width * around.length, out.data());
  const Rect there = intersection(around, plane_);
  if (there == around) return out;
  for (int64_t j = 0; j < around.length; ++j)
    for (int64_t i = 0; i < around.width; ++i) {
      const int64_t x = std::clamp(i, there.x - around.x, there.x - around.x + there.width - 1);
      const int64_t z = std::clamp(j, there.z - around.z, there.z - around.z + there.length - 1);
      if (x != i || z != j)
        out[static_cast<size_t>(j * around.width + i)] = static_cast<uint8_t>(
            kTileBeyond | (out[static_cast<size_t>(z * around.width + x)] & ~kTileBeyond));
    }
  return out;
}

Result<TilePlanes> TilePass::planes(const Rect& cells, const std::stop_token& stop) const {
  return planesOf(
      cells, [&](const Rect& asked, MaterialIndex* out) { return materials(asked, out, stop); },
      stop);
}

Result<TilePlanes> TilePass::planesOf(const Rect& cells,
    const std::function<Status(const Rect&, MaterialIndex*)>& told,
    const std::stop_token& stop) const {
  constexpr int64_t kRows = 64;  // At a time, so that little is held.
  if (cells.empty() || cells.width > kMostCells / cells.length)
    return Error{
        Error::Code::InvalidInput, "so many tiles at once", "tiles", "1 to 67,108,864 cells"};
  if (cells.x <= -kMaxCell || cells.z <= -kMaxCell || cells.x + cells.width >= kMaxCell ||
      cells.z + cells.length >= kMaxCell)
    return Error{Error::Code::InvalidInput, "tiles beyond the last cell", "tiles",
        "cells from -2^60 to 2^60"};
  TilePlanes out{cells, {}};
  if (!stage_) return out;
  out.groups.assign(static_cast<size_t>(stage_->groups()),
      std::vector<uint16_t>(static_cast<size_t>(cells.width * cells.length)));
  std::vector<MaterialIndex> held;
  for (int64_t j = 0; j < cells.length; j += kRows) {
    if (stop.stop_requested()) return cancelled();
    const Rect part{cells.x, cells.z + j, cells.width, std::min(kRows, cells.length - j)};
    const Rect around = grown(part, 1);
    if (intersection(around, plane_).empty()) continue;
    held.resize(static_cast<size_t>(around.width * around.length));
    if (Status made = told(around, held.data()); !made) return made.error();
    const std::vector<uint8_t> classes = this->classes(around, held.data());
    const TileWindow window{{part.x, part.z}, static_cast<int32_t>(part.width),
        static_cast<int32_t>(part.length), classes.data() + around.width + 1, around.width,
        intersection(around, plane_) != around};
    const auto [least, most] = std::minmax_element(classes.begin(), classes.end());
    for (int g = 0; g < stage_->groups(); ++g) {
      uint16_t* values = out.groups[static_cast<size_t>(g)].data() + j * cells.width;
      if (const auto all = stage_->everywhere(g, *least, *most); all && !window.beyond) {
        std::fill_n(values, part.width * part.length, *all);
        continue;
      }
      stage_->values(world_.kernels(), g, window, values);
      if (!window.beyond) continue;
      const int64_t more = stage_->set(g).method == TileMethod::Corners ? 1 : 0;
      for (int64_t k = 0; k < part.length; ++k)
        for (int64_t i = 0; i < part.width; ++i)
          if (intersection({part.x + i, part.z + k, 1 + more, 1 + more}, plane_).empty())
            values[k * part.width + i] = TileValue::kNone;
    }
  }
  return out;
}

bool TilePass::inChunks() const {
  return stage_ && world_.recipe().frame.kind != WorldKind::Voxel;
}

Rect TilePass::cellsOf(const Chunk& chunk) const {
  return chunk.tall == 0 ? chunk.rect
                         : Rect{chunk.rect.x, 1 - (chunk.y + chunk.tall), chunk.rect.width,
                               int64_t{chunk.tall}};
}

Result<std::vector<PackedCells>> TilePass::ofChunk(const Chunk& chunk,
    const std::function<Status(const Rect&, MaterialIndex*)>& told,
    const std::stop_token& stop) const {
  std::vector<PackedCells> out;
  if (!inChunks()) return out;
  const Rect cells = cellsOf(chunk);
  auto planes = planesOf(cells, told, stop);
  if (!planes) return planes.error();
  for (std::vector<uint16_t>& plane : planes->groups) {
    // Rows of blocks go up.
    for (int64_t low = 0, high = cells.length - 1; chunk.tall > 0 && low < high; ++low, --high)
      std::swap_ranges(plane.begin() + low * cells.width, plane.begin() + (low + 1) * cells.width,
          plane.begin() + high * cells.width);
    out.emplace_back(plane);
  }
  return out;
}

std::vector<TileOfCell> TilePass::at(Cell cell) const {
  std::vector<TileOfCell> out;
  if (!stage_) return out;
  const Rect around{cell.x - 1, cell.z - 1, 3, 3};
  MaterialIndex held[9];
  if (intersection(around, plane_).empty() || !materials(around, held)) {
    out.resize(static_cast<size_t>(stage_->groups()));
    return out;
  }
  const std::vector<uint8_t> classes = this->classes(around, held);
  const TileWindow window{cell, 1, 1, classes.data() + 4, 3, true};
  for (int g = 0; g < stage_->groups(); ++g) {
    const int64_t more = stage_->set(g).method == TileMethod::Corners ? 1 : 0;
    const bool there = !intersection({cell.x, cell.z, 1 + more, 1 + more}, plane_).empty();
    out.push_back(there ? stage_->at(g, window, 0, 0) : TileOfCell{});
  }
  return out;
}

}  // namespace acre
