#include "mesh/faces.h"

#include <algorithm>
#include <array>
#include <bit>

#include "mesh/smooth.h"
#include "recipe/object_recipe.h"
#include "world/world.h"

namespace acre {
namespace {

constexpr int kRow = 40;  // Samples of a row with its rim, made a multiple of eight.
constexpr int kWith = BlockMesh::kSide + 2;

/// Bit i of the result: bytes[i] is not 0. REQUIRES: bytes are 0 or 1.
uint64_t bitsOf(const uint8_t* bytes) {
  uint64_t bits = 0;
  for (int k = 0; k < kRow / 8; ++k) {
    uint64_t eight = 0;
    for (int i = 0; i < 8; ++i) eight |= uint64_t{bytes[k * 8 + i]} << (8 * i);
    bits |= (eight * 0x0102040810204080u >> 56) << (8 * k);
  }
  return bits;
}

/// Transposes a matrix of 32 x 32 bits, bit j of word i becoming bit i of word j.
/// Source: H. S. Warren, "Hacker's Delight", 2002, section 7-3, with the lowest bit first.
void transpose(std::array<uint32_t, 32>& a) {
  uint32_t mask = 0x0000FFFFu;
  for (unsigned j = 16; j != 0; j >>= 1, mask ^= mask << j)
    for (unsigned k = 0; k < 32; k = (k + j + 1) & ~j) {
      const uint32_t t = ((a[k] >> j) ^ a[k + j]) & mask;
      a[k] ^= t << j;
      a[k + j] ^= t;
    }
}

/// Where the sample (u, v) of a flat sheet of blocks lies among the blocks, and what a rectangle
/// there becomes.
struct Sheet {
  const MaterialIndex* first;  // Sample (0, 0).
  ptrdiff_t alongU, alongV;
  int axis;   // Of the sheet: 0 x, 1 y, 2 z.
  int place;  // Along it.
  Side side;
};

Quad quadAt(const Sheet& sheet, int u, int v, int width, int height, MaterialIndex material) {
  const int plane = sheet.place + static_cast<int>(sheet.side) % 2;  // Odd sides look up the axis.
  const auto byte = [](int c) { return static_cast<uint8_t>(c); };
  Quad quad;
  quad.side = sheet.side;
  quad.width = byte(width);
  quad.height = byte(height);
  quad.material = material;
  switch (sheet.axis) {
    case 0:
      quad.x = byte(plane), quad.z = byte(u), quad.y = byte(v);
      break;
    case 1:
      quad.y = byte(plane), quad.x = byte(u), quad.z = byte(v);
      break;
    default:
      quad.z = byte(plane), quad.x = byte(u), quad.y = byte(v);
  }
  return quad;
}

/// Rectangles of one slice: the leftmost bit of the first row, as far right as the material goes,
/// then as far down as all of it goes.
void mergeSheet(
    const Sheet& sheet, std::array<uint32_t, 32>& rows, bool merge, std::vector<Quad>& out) {
  for (int v = 0; v < 32; ++v)
    while (rows[static_cast<size_t>(v)] != 0) {
      const uint32_t row = rows[static_cast<size_t>(v)];
      const int u = std::countr_zero(row);
      const MaterialIndex* at = sheet.first + v * sheet.alongV + u * sheet.alongU;
      const MaterialIndex material = *at;
      int width = 1, height = 1;
      if (merge) {
        while (
            u + width < 32 && (row >> (u + width) & 1) != 0 && at[width * sheet.alongU] == material)
          ++width;
      }
      const auto mask = static_cast<uint32_t>(((uint64_t{1} << width) - 1) << u);
      rows[static_cast<size_t>(v)] &= ~mask;
      for (; merge && v + height < 32; ++height) {
        uint32_t& below = rows[static_cast<size_t>(v + height)];
        if ((below & mask) != mask) break;
        const MaterialIndex* next = at + height * sheet.alongV;
        bool alike = true;
        for (int i = 0; i < width && alike; ++i) alike = next[i * sheet.alongU] == material;
        if (!alike) break;
        below &= ~mask;
      }
      out.push_back(quadAt(sheet, u, v, width, height, material));
    }
}

/// The samples of a row as bits.
struct RowBits {
  uint64_t solid, liquid, cover;
};
/// Those that have a face towards what lies beside them.
uint64_t facesOf(const RowBits& own, const RowBits& beside) {
  return (own.solid & ~beside.solid) |
         (own.liquid & ~(beside.solid | beside.cover | beside.liquid)) |
         (own.cover & ~(beside.solid | beside.cover));
}

/// The samples of a brick and its apron as bits: bit i of solid[j][k] says that sample i - 1 of row
/// (j - 1, k - 1) is solid.
struct BrickBits {
  std::array<std::array<uint64_t, kWith>, kWith> solid, liquid, cover;

  /// False where nothing can have a face.
  bool fill(const BlockClasses& classes, std::span<const MaterialIndex> blocks, int width, int tall,
      int depth) {
    const ptrdiff_t row = width + 2, slab = row * (depth + 2);
    uint64_t any = 0, anyOpen = 0;
    const uint64_t all = (uint64_t{1} << row) - 1;
    const auto table = classes.table();
    std::array<uint8_t, kRow> isSolid{}, isLiquid{}, isCover{};
    const MaterialIndex* last = nullptr;  // A row that was looked at.
    for (int j = 0; j < tall + 2; ++j)
      for (int k = 0; k < depth + 2; ++k) {
        const MaterialIndex* from = blocks.data() + j * slab + k * row;
        auto& s = solid[static_cast<size_t>(j)][static_cast<size_t>(k)];
        auto& l = liquid[static_cast<size_t>(j)][static_cast<size_t>(k)];
        auto& c = cover[static_cast<size_t>(j)][static_cast<size_t>(k)];
        if (last && std::equal(from, from + row, last)) {
          const ptrdiff_t at = last - blocks.data();
          s = solid[static_cast<size_t>(at / slab)][static_cast<size_t>(at % slab / row)];
          l = liquid[static_cast<size_t>(at / slab)][static_cast<size_t>(at % slab / row)];
          c = cover[static_cast<size_t>(at / slab)][static_cast<size_t>(at % slab / row)];
        } else {
          for (ptrdiff_t i = 0; i < row; ++i) {
            const MaterialIndex m = from[i];
            const BlockClass of = m >= kOpen ? BlockClass::Open : table[m];
            isSolid[static_cast<size_t>(i)] = of == BlockClass::Solid;
            isLiquid[static_cast<size_t>(i)] = of == BlockClass::Liquid;
            isCover[static_cast<size_t>(i)] = of == BlockClass::Cover;
          }
          s = bitsOf(isSolid.data());
          l = bitsOf(isLiquid.data());
          c = bitsOf(isCover.data());
        }
        last = from;
        any |= s | l | c;
        anyOpen |= all & ~s;
      }
    return any != 0 && anyOpen != 0;
  }
};

}  // namespace

std::vector<MaterialIndex> leavesOf(const World& world) {
  const Recipe& recipe = world.recipe();
  std::vector<MaterialIndex> out;
  for (size_t m = 0; m < recipe.materials.size(); ++m)
    if (std::any_of(recipe.objects->trees.begin(), recipe.objects->trees.end(),
            [&](const TreeStyle& style) { return style.leaf == recipe.materials[m].id; }))
      out.push_back(static_cast<MaterialIndex>(m + 1));
  return out;
}

BlockClasses::BlockClasses(const World& world, bool clearLeaves) {
  classes_.push_back(BlockClass::Solid);  // Unassigned.
  for (const Material& m : world.recipe().materials)
    classes_.push_back(m.state == MaterialState::Liquid ? BlockClass::Liquid : BlockClass::Solid);
  classes_.push_back(BlockClass::Solid);  // The bed.
  if (clearLeaves)
    for (const MaterialIndex leaf : leavesOf(world)) classes_[leaf] = BlockClass::Cover;
}

MaterialIndex BlockClasses::bedOf(const World& world) {
  return static_cast<MaterialIndex>(world.recipe().materials.size() + 1);
}

void buildFaces(const BlockClasses& classes, std::span<const MaterialIndex> blocks,
    const FaceOptions& options, BlockMesh& mesh) {
  const int width = mesh.width, tall = mesh.tall, depth = mesh.depth;
  const ptrdiff_t row = width + 2, slab = row * (depth + 2);
  mesh.quads.clear();
  mesh.faces = 0;
  static thread_local BrickBits bits;
  if (!bits.fill(classes, blocks, width, tall, depth)) return;
  const auto &solid = bits.solid, &liquid = bits.liquid, &cover = bits.cover;

  const auto inner = static_cast<uint32_t>((uint64_t{1} << width) - 1);
  const auto at = [](const auto& rows, int j, int k) {
    return rows[static_cast<size_t>(j)][static_cast<size_t>(k)];
  };
  const auto rowAt = [&](int j, int k) {
    return RowBits{at(solid, j, k), at(liquid, j, k), at(cover, j, k)};
  };
  // Samples whose sides close the brick: solid, with something open at most so far above.
  const auto skirted = [&](int j, int k) {
    uint64_t open = 0;
    for (int up = 1; up <= options.skirt && j + up < tall + 2; ++up) open |= ~at(solid, j + up, k);
    return open & at(solid, j, k);
  };
  std::array<uint32_t, 32> rows{};
  const auto emit = [&](const Sheet& sheet) {
    uint32_t any = 0;
    for (const uint32_t r : rows) {
      any |= r;
      mesh.faces += static_cast<uint64_t>(std::popcount(r));
    }
    if (any != 0) mergeSheet(sheet, rows, options.merge, mesh.quads);
  };
  const MaterialIndex* origin = blocks.data() + slab + row + 1;

  // Down and up, slice by slice along y; rows along z.
  for (int j = 1; j <= tall; ++j)
    for (const int up : {-1, 1}) {
      rows.fill(0);
      for (int k = 1; k <= depth; ++k) {
        const uint64_t faces = facesOf(rowAt(j, k), rowAt(j + up, k));
        rows[static_cast<size_t>(k - 1)] = static_cast<uint32_t>(faces >> 1) & inner;
      }
      emit({origin + (j - 1) * slab, 1, row, 1, j - 1, up < 0 ? Side::Down : Side::Up});
    }
  // North and south, along z; rows along y.
  for (int k = 1; k <= depth; ++k)
    for (const int south : {-1, 1}) {
      rows.fill(0);
      const bool rim = options.skirt > 0 && k == (south < 0 ? 1 : depth);
      for (int j = 1; j <= tall; ++j) {
        uint64_t faces = facesOf(rowAt(j, k), rowAt(j, k + south));
        if (rim) faces |= skirted(j, k);
        rows[static_cast<size_t>(j - 1)] = static_cast<uint32_t>(faces >> 1) & inner;
      }
      emit({origin + (k - 1) * row, 1, slab, 2, k - 1, south < 0 ? Side::North : Side::South});
    }
  // West and east: faces of whole rows along x, turned so that bits lie along z.
  static thread_local std::array<std::array<std::array<uint32_t, 32>, 32>, 2> turned;
  std::array<uint32_t, 2> anyAt{};  // Bit x: slice x has faces.
  for (int j = 1; j <= tall; ++j)
    for (const int east : {0, 1}) {
      auto& matrix = turned[static_cast<size_t>(east)][static_cast<size_t>(j - 1)];
      matrix.fill(0);
      uint32_t any = 0;
      for (int k = 1; k <= depth; ++k) {
        const RowBits own = rowAt(j, k);
        const auto beside = [east](uint64_t bits) { return east ? bits >> 1 : bits << 1; };
        uint64_t faces = facesOf(own, {beside(own.solid), beside(own.liquid), beside(own.cover)});
        if (options.skirt > 0) faces |= skirted(j, k) & (east ? uint64_t{1} << width : uint64_t{2});
        matrix[static_cast<size_t>(k - 1)] = static_cast<uint32_t>(faces >> 1) & inner;
        any |= matrix[static_cast<size_t>(k - 1)];
      }
      anyAt[static_cast<size_t>(east)] |= any;
      if (any != 0) transpose(matrix);
    }
  for (int i = 0; i < width; ++i)
    for (const int east : {0, 1}) {
      if ((anyAt[static_cast<size_t>(east)] >> i & 1) == 0) continue;
      rows.fill(0);
      for (int j = 0; j < tall; ++j)
        rows[static_cast<size_t>(j)] =
            turned[static_cast<size_t>(east)][static_cast<size_t>(j)][static_cast<size_t>(i)];
      emit({origin + i, row, slab, 0, i, east ? Side::East : Side::West});
    }
}

void buildFacesPlainly(const BlockClasses& classes, std::span<const MaterialIndex> blocks,
    const FaceOptions& options, BlockMesh& mesh) {
  const int extents[3] = {mesh.width, mesh.tall, mesh.depth};
  const ptrdiff_t strides[3] = {1, ptrdiff_t{mesh.width + 2} * (mesh.depth + 2), mesh.width + 2};
  const MaterialIndex* origin = blocks.data() + strides[0] + strides[1] + strides[2];
  mesh.quads.clear();
  mesh.faces = 0;
  for (int side = 0; side < kSides; ++side) {
    const int axis = side / 2;
    const int u = axis == 0 ? 2 : 0, v = axis == 1 ? 2 : 1;
    const ptrdiff_t across = side % 2 ? strides[axis] : -strides[axis];
    for (int place = 0; place < extents[axis]; ++place) {
      const Sheet sheet{origin + place * strides[axis], strides[u], strides[v], axis, place,
          static_cast<Side>(side)};
      std::vector<bool> shown(static_cast<size_t>(extents[u] * extents[v]));
      for (int b = 0; b < extents[v]; ++b)
        for (int a = 0; a < extents[u]; ++a) {
          const MaterialIndex* cell = sheet.first + a * sheet.alongU + b * sheet.alongV;
          const BlockClass own = classes.of(*cell), other = classes.of(cell[across]);
          const bool face = own == BlockClass::Solid    ? other != BlockClass::Solid
                            : own == BlockClass::Liquid ? other == BlockClass::Open
                            : own == BlockClass::Cover
                                ? other == BlockClass::Open || other == BlockClass::Liquid
                                : false;
          shown[static_cast<size_t>(b * extents[u] + a)] = face;
          mesh.faces += face;
        }
      for (int b = 0; b < extents[v]; ++b)
        for (int a = 0; a < extents[u]; ++a) {
          const auto isShown = [&](int p, int q) {
            return shown[static_cast<size_t>(q * extents[u] + p)];
          };
          if (!isShown(a, b)) continue;
          const auto materialAt = [&](int p, int q) {
            return sheet.first[p * sheet.alongU + q * sheet.alongV];
          };
          int width = 1, height = 1;
          if (options.merge) {
            while (a + width < extents[u] && isShown(a + width, b) &&
                   materialAt(a + width, b) == materialAt(a, b))
              ++width;
            const auto whole = [&](int q) {
              for (int p = a; p < a + width; ++p)
                if (!isShown(p, q) || materialAt(p, q) != materialAt(a, b)) return false;
              return true;
            };
            while (b + height < extents[v] && whole(b + height)) ++height;
          }
          for (int q = b; q < b + height; ++q)
            for (int p = a; p < a + width; ++p)
              shown[static_cast<size_t>(q * extents[u] + p)] = false;
          mesh.quads.push_back(quadAt(sheet, a, b, width, height, materialAt(a, b)));
        }
    }
  }
}

namespace {

/// A column of water is water from its surface down to its height, and a bed below.
Status layBeds(const World& world, const BlockClasses& classes, const SampleBlock& block,
    std::vector<MaterialIndex>& blocks, const std::stop_token& stop) {
  const auto liquid = [&](MaterialIndex m) { return classes.of(m) == BlockClass::Liquid; };
  if (std::none_of(blocks.begin(), blocks.end(), liquid)) return done();
  const auto slab = static_cast<size_t>(block.width) * static_cast<size_t>(block.length);
  std::vector<float> heights(slab);
  if (Status made = world.sample(
          {block.x, block.z, block.step, block.width, block.length}, heights.data(), nullptr, stop);
      !made)
    return made;
  const MaterialIndex bed = BlockClasses::bedOf(world);
  for (int32_t level = 0; level < block.height; ++level) {
    const auto top = static_cast<float>(block.y + level * block.step + 1);
    MaterialIndex* row = blocks.data() + static_cast<size_t>(level) * slab;
    for (size_t n = 0; n < slab; ++n)
      if (top <= heights[n] && liquid(row[n])) row[n] = bed;
  }
  return done();
}

/// The faces of liquids, of a brick sampled for a smooth surface.
void addLiquids(const BlockClasses& classes, const SampleBlock& block,
    std::span<const MaterialIndex> blocks, BlockMesh& mesh) {
  const auto liquid = [&](MaterialIndex m) { return classes.of(m) == BlockClass::Liquid; };
  if (std::none_of(blocks.begin(), blocks.end(), liquid)) return;
  constexpr int32_t kLess = kSmoothApron - 1;
  std::vector<MaterialIndex> inner;
  for (int32_t j = kLess; j < block.height - kLess; ++j)
    for (int32_t k = kLess; k < block.length - kLess; ++k) {
      const auto row = blocks.begin() + (ptrdiff_t{j} * block.length + k) * block.width;
      inner.insert(inner.end(), row + kLess, row + block.width - kLess);
    }
  buildFaces(classes, inner, {}, mesh);
  std::erase_if(mesh.quads, [&](const Quad& q) { return !liquid(q.material); });
  mesh.faces = 0;
  for (const Quad& q : mesh.quads) mesh.faces += uint64_t{q.width} * q.height;
}

/// Units of a mesh of far trees to a sample, so that they have a form; and cells that they reach
/// beyond the brick with their feet.
constexpr int64_t kFarUnits = 4, kFarReach = 64;

/// The trees of a brick as boxes, where samples lie too far apart to know of them.
Result<BlockMesh> farTrees(
    const World& world, const BlockMesh& brick, const std::stop_token& stop) {
  BlockMesh out;
  const int64_t unit = brick.step / kFarUnits;
  const auto units = [&](int64_t samples) {
    return static_cast<int32_t>(samples * kFarUnits + 2 * kFarReach / unit);
  };
  out.x = brick.x - kFarReach;
  out.y = brick.y - kFarReach;
  out.z = brick.z - kFarReach;
  out.step = unit;
  out.width = units(brick.width);
  out.tall = units(brick.tall);
  out.depth = units(brick.depth);
  const auto boxes = world.objectCells().farTrees(
      {brick.x, brick.z, brick.width * brick.step, brick.depth * brick.step}, brick.y,
      brick.y + brick.tall * brick.step, stop);
  if (!boxes) return cancelled();
  const auto place = [&](int64_t at, int64_t from, int32_t most) {
    return static_cast<uint8_t>(std::clamp<int64_t>((at - from + unit / 2) / unit, 0, most));
  };
  for (const ObjectCells::FarBox& box : *boxes) {
    const uint8_t x = place(box.x0, out.x, out.width), y = place(box.y0, out.y, out.tall),
                  z = place(box.z0, out.z, out.depth);
    const auto extent = [](uint8_t from, uint8_t to) {
      return static_cast<uint8_t>(std::max(1, to - from));
    };
    const uint8_t wide = extent(x, place(box.x1, out.x, out.width)),
                  tall = extent(y, place(box.y1, out.y, out.tall)),
                  deep = extent(z, place(box.z1, out.z, out.depth));
    const auto add = [&](Side side, int px, int py, int pz, uint8_t width, uint8_t height) {
      out.quads.push_back({static_cast<uint8_t>(px), static_cast<uint8_t>(py),
          static_cast<uint8_t>(pz), side, width, height, box.material});
    };
    add(Side::West, x, y, z, deep, tall);
    add(Side::East, x + wide, y, z, deep, tall);
    add(Side::North, x, y, z, wide, tall);
    add(Side::South, x, y, z + deep, wide, tall);
    add(Side::Up, x, y + tall, z, wide, deep);
    if (box.lowest) add(Side::Down, x, y, z, wide, deep);
  }
  out.faces = out.quads.size();
  out.quads.shrink_to_fit();
  return out;
}

}  // namespace

Result<std::vector<std::shared_ptr<const BlockMesh>>> meshChunk(
    const World& world, ChunkPos pos, const FaceOptions& options, const std::stop_token& stop) {
  std::vector<std::shared_ptr<const BlockMesh>> out;
  const ChunkLayout& layout = world.groundLayout();
  const int64_t step = int64_t{1} << pos.detail;
  const Rect whole = layout.rectOf(pos);
  const Rect rect = pos.detail == 0 ? intersection(whole, world.bounds()) : whole;
  if (rect.empty()) return out;
  const BlockLevels levels = layout.levelsOf(pos);
  const bool plane = layout.vertical().plane;
  const auto across = static_cast<int32_t>(rect.width / step);
  const auto deep = static_cast<int32_t>(plane ? 1 : rect.length / step);
  const BlockClasses classes(world, options.clearLeaves && !options.smooth);
  const int64_t floor = world.vertical().min;
  constexpr int32_t kSide = BlockMesh::kSide;
  for (int32_t j = 0; j < levels.count; j += kSide) {
    const int64_t bottom = levels.first + j * step;
    if (bottom >= options.high || bottom + kSide * step <= options.low) continue;
    for (int32_t k = 0; k < deep; k += kSide)
      for (int32_t i = 0; i < across; i += kSide) {
        BlockMesh mesh;
        mesh.x = rect.x + i * step;
        mesh.y = bottom;
        mesh.z = rect.z + k * step;
        mesh.step = step;
        mesh.width = std::min(kSide, across - i);
        mesh.tall = std::min(kSide, levels.count - j);
        mesh.depth = std::min(kSide, deep - k);
        const int32_t apron = options.smooth ? kSmoothApron : 1;
        const SampleBlock block{mesh.x - apron * step, mesh.y - apron * step, mesh.z - apron * step,
            step, mesh.width + 2 * apron, mesh.tall + 2 * apron, mesh.depth + 2 * apron};
        std::vector<MaterialIndex> blocks(static_cast<size_t>(block.width) *
                                          static_cast<size_t>(block.height) *
                                          static_cast<size_t>(block.length));
        if (Status made = world.sampleBlocks(block, blocks.data(), stop); !made)
          return made.error();
        if (!world.blocks())
          if (Status laid = layBeds(world, classes, block, blocks, stop); !laid)
            return laid.error();
        if (options.smooth) {
          buildSmooth(classes, blocks, mesh);
          addLiquids(classes, block, blocks, mesh);
        } else {
          // Nobody looks at a world's floor from below.
          const size_t slab = static_cast<size_t>(block.width) * static_cast<size_t>(block.length);
          for (int32_t level = 0; level < block.height; ++level)
            if (block.y + level * step < floor)
              std::fill_n(blocks.begin() + static_cast<ptrdiff_t>(slab) * level, slab, kUnassigned);
          buildFaces(classes, blocks, options, mesh);
        }
        if (world.blocks() && step > ObjectCells::kExactStep && world.objectCells().any()) {
          auto trees = farTrees(world, mesh, stop);
          if (!trees) return trees.error();
          if (!trees->empty()) out.push_back(std::make_shared<const BlockMesh>(std::move(*trees)));
        }
        if (mesh.empty()) continue;
        // Below the floor nothing is drawn; its blocks were there to hide the sides above them.
        mesh.quads.shrink_to_fit();
        mesh.points.shrink_to_fit();
        mesh.triangles.shrink_to_fit();
        out.push_back(std::make_shared<const BlockMesh>(std::move(mesh)));
      }
  }
  return out;
}

}  // namespace acre
