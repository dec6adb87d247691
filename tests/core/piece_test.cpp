// Pieces: the cells that objects are made of, whole across every border.
#include <QTemporaryDir>
#include <QtTest>
#include <algorithm>
#include <array>
#include <cstring>
#include <fstream>
#include <map>
#include <nlohmann/json.hpp>
#include <set>

#include "audit/checks.h"
#include "audit/object_figures.h"
#include "audit/plumb.h"
#include "audit/world_start.h"
#include "cave/level_stage.h"
#include "core/object_worlds.h"
#include "object/piece.h"
#include "output/chunk_text.h"
#include "output/piece_files.h"
#include "recipe/cave_recipe.h"
#include "recipe/edits.h"
#include "recipe/json.h"
#include "recipe/level_recipe.h"
#include "recipe/piece_text.h"
#include "reference/evaluator.h"
#include "suite.h"
#include "world/demos.h"

using namespace acre;

namespace {

ObjectPiece pieceOf(const char* id, std::vector<std::vector<std::string>> layers) {
  ObjectPiece out;
  out.id = out.name = id;
  for (auto& rows : layers) out.layers.push_back({std::move(rows)});
  out.signs = {{"s", "sand"}, {"t", "turf"}, {"b", "brick"}};
  return out;
}

/// Huts that cut in and are filled under, stones that follow the ground, cover that gives way, and
/// what was drawn of a list; some meet.
Recipe furnished(WorldKind world) {
  ObjectKind hut = kindOf("hut", 6, 9);
  hut.piece = "hut";
  ObjectKind stone = kindOf("stone", 25, 4);
  stone.piece = "stones";
  stone.what = {{"few", "Few stones", 2, {}, {}}, {"pole", "Pole", 1, "pole", {}}};
  stone.what[1].attributes = {{"tall", "5"}};
  stone.attributes = {{"tall", "1"}, {"hard", "yes"}};
  ObjectKind cover = kindOf("cover", 300, 1);
  cover.piece = "leaf";
  ObjectKind sign = kindOf("sign", 10, 5);  // Without cells.
  Recipe r = plain({hut, stone, cover, sign});
  r.materials.push_back({"brick", "Brick", {}, MaterialState::Solid});
  r.materials.push_back({"water", "Water", {}, MaterialState::Liquid});
  r.materials.push_back({"rock", "Rock", {}, MaterialState::Solid});
  r.water.material = world == WorldKind::Voxel ? "water" : "";
  ObjectPiece house =
      pieceOf("hut", {{"bbbbb", "bsssb", "bsssb", "bb_bb"}, {"bbbbb", "b___b", "b___b", "bb_bb"},
                         {".ttt.", "ttttt", "ttttt", ".ttt."}});
  house.sink = 1;
  house.fill = 3;
  house.cuts = true;
  house.mirror = true;
  ObjectPiece stones = pieceOf("stones", {{"b.bb", ".b..", "...b"}});
  stones.follow = true;
  stones.anchor = PieceAnchor{3, 2};
  ObjectPiece pole = pieceOf("pole", {{"b"}, {"b"}, {"b"}, {"b"}, {"t"}});
  pole.turns = false;
  pole.over = {"sand"};
  pole.sink = 1;
  ObjectPiece leaf = pieceOf("leaf", {{"t"}});
  leaf.cover = true;
  leaf.follow = true;
  r.objects->pieces = {house, stones, pole, leaf};
  r.frame.kind = world;
  r.rock.beds = {{"rock", "rock", 100}};
  r.frame.chunkSize = 32;
  r.frame.y = {-40, 72};
  r.frame.shape = ChunkShape::Cubes;
  return r;
}

/// Caves of two kinds, with what grows on their floors and hangs from their ceilings.
Recipe hollow() {
  Recipe r = furnished(WorldKind::Voxel);
  NoiseVoid seeps;
  seeps.id = "seeps";
  seeps.first.noise.width = 14;
  seeps.first.low = 0.05;
  seeps.first.high = 2;
  r.caves->voids = {seeps};
  r.caves->kinds = {
      {"high", "High", {}, 12, {}, {}, "turf", {}}, {"deep", "Deep", {}, {}, {}, {}, {}, "sand"}};
  ObjectKind moss = kindOf("moss", 60, 2);
  moss.stands = ObjectStand::CaveFloor;
  moss.caves = {"high"};
  moss.wall = {std::nullopt, 2};
  moss.piece = "leaf";
  ObjectKind drip = kindOf("drip", 50, 3);
  drip.stands = ObjectStand::CaveCeiling;
  drip.altitude = {std::nullopt, 8};
  drip.piece = "drip";
  ObjectKind pool = kindOf("pool", 20, 4);
  pool.stands = ObjectStand::CaveFloor;
  pool.caves = {"deep"};
  pool.ground = {"rock"};
  pool.apart = {{"moss", 3}};
  pool.wet = true;
  pool.piece = "pole";
  r.objects->kinds = {moss, drip, pool};
  ObjectPiece hanging = pieceOf("drip", {{"..", ".b"}, {"bb", ".b"}, {"bb", "bb"}});
  hanging.sink = 1;
  hanging.fill = 2;  // Nothing is filled from a ceiling.
  r.objects->pieces.push_back(hanging);
  return r;
}

/// Open passages with walls about them.
Recipe furnishedLevel(int floor = 3) {
  Recipe r = loadRecipe("underkiln").value();
  r.level->floor = floor;
  return r;
}

struct Blocks {
  SampleBlock box;
  std::vector<MaterialIndex> held;
  MaterialIndex at(int64_t x, int64_t y, int64_t z) const {
    return held[static_cast<size_t>(
        ((y - box.y) * box.length + (z - box.z)) * box.width + (x - box.x))];
  }
};

Blocks blocksOf(const World& world, const Rect& cells) {
  const AxisBounds range = world.vertical();
  Blocks out{{cells.x, range.min, cells.z, 1, static_cast<int32_t>(cells.width),
                 static_cast<int32_t>(range.extent), static_cast<int32_t>(cells.length)},
      {}};
  out.held.resize(static_cast<size_t>(cells.width * cells.length * range.extent));
  if (!world.sampleBlocks(out.box, out.held.data())) qFatal("no blocks");
  return out;
}

std::vector<MaterialIndex> seenFrom(const World& world, const SampleGrid& grid) {
  std::vector<MaterialIndex> out(
      static_cast<size_t>(grid.width) * static_cast<size_t>(grid.length));
  std::vector<float> heights(out.size());
  if (!world.sample(grid, heights.data(), out.data())) qFatal("no cells");
  return out;
}

}  // namespace

class PieceTest : public QObject {
  Q_OBJECT

 private slots:
  void fourTurnsComeBack() {
    const Recipe r = furnished(WorldKind::Voxel);
    const Piece piece(r.objects->pieces[1], r.materials, true);
    QCOMPARE(piece.reach(), int64_t{3});
    std::set<std::pair<int, int>> seen;
    for (int quarters = 0; quarters < 4; ++quarters)
      for (const PieceCell& cell : piece.cells()) {
        const PieceCell at = piece.placed(cell, quarters, false);
        QCOMPARE(at.x * at.x + at.z * at.z, cell.x * cell.x + cell.z * cell.z);
        QVERIFY(std::abs(at.x) <= piece.reach() && std::abs(at.z) <= piece.reach());
        const PieceCell on = piece.placed(at, 4 - quarters, false);
        QCOMPARE(std::pair(on.x, on.z), std::pair(cell.x, cell.z));
        seen.insert({at.x, at.z});
      }
    QVERIFY(seen.size() > piece.cells().size());
    // East goes south; what may not be turned or mirrored stays.
    const PieceCell east{2, 0, 0, 1};
    QCOMPARE(piece.placed(east, 1, true).z, int16_t{2});
    const Piece pole(r.objects->pieces[2], r.materials, true);
    QCOMPARE(pole.placed(east, 1, true).x, int16_t{2});
    const Piece hut(r.objects->pieces[0], r.materials, true);
    QCOMPARE(hut.placed(east, 0, true).x, int16_t{-2});
    QCOMPARE(hut.lowest(), int64_t{-4});
    QCOMPARE(hut.highest(), int64_t{1});
  }

  /// Chunks of any size, in any order, far out and without memory: the same blocks.
  void piecesCutByChunksAreWhole() {
    for (const int64_t far : {int64_t{0}, int64_t{2'000'000'000}, int64_t{-2'000'000'000}}) {
      const Recipe recipe = furnished(WorldKind::Voxel);
      const Rect all{far - 41, far + 11, 64, 64};
      const auto world = worldOf(recipe);
      const Blocks whole = blocksOf(*world, all);
      const auto claims = world->objectCells().claims(all, -40, 32).value();
      QVERIFY2(claims.size() > 500, std::to_string(claims.size()).c_str());
      for (const int64_t size : {1, 3})  // Smaller than any chunk may be.
        for (int64_t z = 0; z < 9; z += size)
          for (int64_t x = 0; x < 9; x += size) {
            const Rect part{all.x + 20 + x, all.z + 7 + z, size, size};
            const Blocks alone = blocksOf(*world, part);
            for (int64_t y = -40; y < 32; ++y)
              for (int64_t n = 0; n < size * size; ++n)
                QCOMPARE(alone.at(part.x + n % size, y, part.z + n / size),
                    whole.at(part.x + n % size, y, part.z + n / size));
          }
      for (const int32_t size : {4, 7, 16, 32, 50}) {
        Recipe other = recipe;
        other.frame.chunkSize = size;
        const auto cut = worldOf(other, size == 7 ? 0 : uint64_t{24} << 20);
        const ChunkLayout& layout = cut->layout();
        const int64_t side = size == 4 ? 24 : size == 7 ? 14 : 64;
        const ChunkPos first = layout.chunkOf(Cell{all.x, all.z});
        const ChunkPos last = layout.chunkOf(Cell{all.x + side - 1, all.z + side - 1});
        std::vector<ChunkPos> order;
        for (int64_t cy = layout.lowestChunk(0); cy <= layout.highestChunk(0); ++cy)
          for (int64_t cz = first.cz; cz <= last.cz; ++cz)
            for (int64_t cx = first.cx; cx <= last.cx; ++cx) order.push_back({cx, cz, 0, cy});
        std::reverse(order.begin(), order.end());
        for (const ChunkPos& pos : order) {
          const auto chunk = cut->chunk(pos).value();
          QVERIFY(chunk->bytes() <= cut->largestChunkBytes());
          size_t n = 0;
          for (int64_t y = chunk->y; y < chunk->y + chunk->tall; ++y)
            for (int64_t z = 0; z < chunk->length; ++z)
              for (int64_t x = 0; x < chunk->width; ++x, ++n) {
                const Cell cell{chunk->rect.x + x, chunk->rect.z + z};
                if (all.contains(cell)) QCOMPARE(chunk->materials[n], whole.at(cell.x, y, cell.z));
              }
        }
      }
    }
  }

  /// Every block by the second program, and what is seen from above.
  void theSecondEvaluatorAgreesOnBlocks() {
    const Recipe recipe = furnished(WorldKind::Voxel);
    const auto world = worldOf(recipe);
    const Rect cells{-12, 6, 26, 22};
    const Blocks all = blocksOf(*world, cells);
    reference::Evaluator evaluator(recipe);
    std::map<std::string, int> met;
    for (int64_t z = cells.z; z < cells.z + cells.length; ++z)
      for (int64_t x = cells.x; x < cells.x + cells.width; ++x)
        for (int64_t y = -10; y < 24; ++y) {
          const std::string expected = evaluator.block({x, z}, y);
          QCOMPARE(world->catalogue().materialId(all.at(x, y, z)), expected);
          QCOMPARE(world->catalogue().materialId(world->blockAt({x, z}, y).material), expected);
          ++met[expected];
        }
    QVERIFY2(met["brick"] > 60, std::to_string(met["brick"]).c_str());
    const SampleGrid grid{
        cells.x, cells.z, 1, static_cast<int32_t>(cells.width), static_cast<int32_t>(cells.length)};
    const auto seen = seenFrom(*world, grid);
    for (int64_t z = 0, n = 0; z < cells.length; ++z)
      for (int64_t x = 0; x < cells.width; ++x, ++n) {
        const Cell cell{cells.x + x, cells.z + z};
        QCOMPARE(world->catalogue().materialId(seen[static_cast<size_t>(n)]),
            evaluator.evaluate(cell).material);
        QCOMPARE(world->at(cell).material, seen[static_cast<size_t>(n)]);
      }
  }

  /// On floors and ceilings of caves, by their kinds and walls; from above nothing of it is seen.
  void theSecondEvaluatorAgreesInCaves() {
    const Recipe recipe = hollow();
    const auto world = worldOf(recipe);
    const Rect cells{-14, -6, 30, 26};
    reference::Evaluator evaluator(recipe);
    const auto found = world->objects().in(cells).value();
    const auto expected = evaluator.objects(cells);
    QCOMPARE(found.size(), expected.size());
    std::map<uint16_t, int> kinds;
    for (size_t n = 0; n < found.size(); ++n) {
      QCOMPARE(found[n].cell, expected[n].cell);
      QCOMPARE(found[n].y, expected[n].y);
      QCOMPARE(found[n].id, expected[n].id);
      ++kinds[found[n].kind];
    }
    QVERIFY2(kinds[0] > 4 && kinds[1] > 4 && kinds[2] > 1,
        qPrintable(QStringLiteral("%1 %2 %3").arg(kinds[0]).arg(kinds[1]).arg(kinds[2])));
    const Blocks all = blocksOf(*world, cells);
    int hanging = 0;
    for (int64_t z = cells.z + 8; z < cells.z + 20; ++z)
      for (int64_t x = cells.x + 8; x < cells.x + 20; ++x)
        for (int64_t y = -30; y < 20; ++y) {
          const std::string block = evaluator.block({x, z}, y);
          QCOMPARE(world->catalogue().materialId(all.at(x, y, z)), block);
          QCOMPARE(world->catalogue().materialId(world->blockAt({x, z}, y).material), block);
          hanging += block == "brick";
        }
    QVERIFY2(hanging > 10, std::to_string(hanging).c_str());
    // Chunks cut them as they lie, and each is owned by one.
    std::map<uint64_t, int> owned;
    for (int64_t cy = world->layout().lowestChunk(0); cy <= world->layout().highestChunk(0); ++cy)
      for (int64_t n = 0; n < 4; ++n) {
        const auto made = world->chunk({n % 2 - 1, n / 2 - 1, 0, cy}).value();
        const Chunk& chunk = *made;
        const auto blocks = chunk.materials.unpacked();
        for (int32_t j = 0, at = 0; j < chunk.tall; ++j)
          for (int64_t z = 0; z < chunk.length; ++z)
            for (int64_t x = 0; x < chunk.width; ++x, ++at) {
              const Cell cell{chunk.rect.x + x, chunk.rect.z + z};
              if (cells.contains(cell))
                QCOMPARE(blocks[static_cast<size_t>(at)], all.at(cell.x, chunk.y + j, cell.z));
            }
        for (const PlacedObject& one : chunk.objects) owned[one.id] += chunk.owns(one);
      }
    for (const PlacedObject& one : found)
      if (intersection(Rect{one.cell.x, one.cell.z, 1, 1}, Rect{-32, -32, 64, 64}).width > 0)
        QCOMPARE(owned[one.id], 1);
    // What lies in the ground is not seen from above, nor in the way where one enters.
    Recipe bare = recipe;
    bare.objects->on = false;
    const auto without = worldOf(bare);
    const SampleGrid grid{cells.x, cells.z, 1, 30, 26};
    const auto seen = seenFrom(*world, grid), before = seenFrom(*without, grid);
    size_t changed = 0;
    for (size_t n = 0; n < seen.size(); ++n) changed += seen[n] != before[n];
    QVERIFY2(changed * 20 < seen.size(), std::to_string(changed).c_str());
    for (int64_t n = 0; n < 120; ++n) {
      const Cell cell{cells.x + n % 30, cells.z + n / 30 * 6};
      QCOMPARE(world->at(cell).material,
          seen[static_cast<size_t>((cell.z - cells.z) * 30 + cell.x - cells.x)]);
      QCOMPARE(world->catalogue().materialId(world->at(cell).material),
          evaluator.evaluate(cell).material);
    }
    const auto start = worldStart(*world).value(), freely = worldStart(*without).value();
    QVERIFY(start && freely);
    QCOMPARE(start->cell, freely->cell);
    // Worlds without caves have none of them, and say why.
    Recipe solid = recipe;
    solid.caves->voids.clear();
    const auto none = objectFigures(*worldOf(solid), cells).value();
    QCOMPARE(none[0].count, uint64_t{0});
    QVERIFY(none[0].refused[static_cast<size_t>(Refusal::Cave)] > 10);
  }

  void theSecondEvaluatorAgreesOnCells() {
    Recipe recipe = furnished(WorldKind::Overland);
    recipe.objects->pieces[3].over = {"sand"};
    const auto world = worldOf(recipe);
    const Rect cells{-70, 20, 90, 80};
    const SampleGrid grid{cells.x, cells.z, 1, 90, 80};
    const auto seen = seenFrom(*world, grid);
    reference::Evaluator evaluator(recipe);
    int bricks = 0;
    for (int64_t z = 0, n = 0; z < cells.length; ++z)
      for (int64_t x = 0; x < cells.width; ++x, ++n) {
        const Cell cell{cells.x + x, cells.z + z};
        const std::string expected = evaluator.evaluate(cell).material;
        QCOMPARE(world->catalogue().materialId(seen[static_cast<size_t>(n)]), expected);
        QCOMPARE(world->at(cell).material, seen[static_cast<size_t>(n)]);
        bricks += expected == "brick";
      }
    QVERIFY2(bricks > 200, std::to_string(bricks).c_str());
    // Samples two and four apart are those of every cell; beyond, nothing is told of pieces.
    for (const int64_t step : {2, 3, 4}) {
      const auto coarse = seenFrom(*world, {cells.x, cells.z, step, 20, 20});
      for (int64_t j = 0; j < 20; ++j)
        for (int64_t i = 0; i < 20; ++i)
          QCOMPARE(coarse[static_cast<size_t>(j * 20 + i)],
              seen[static_cast<size_t>(j * step * 90 + i * step)]);
    }
    const auto coarsest = seenFrom(*world, {cells.x, cells.z, 5, 16, 16});
    QVERIFY(std::none_of(coarsest.begin(), coarsest.end(), [](MaterialIndex m) { return m == 3; }));
  }

  /// In the plane of a side world, whole chunks and single blocks.
  void theSecondEvaluatorAgreesInSideWorlds() {
    Recipe recipe = loadRecipe("lantern-shelf").value();
    recipe.frame.y = {-40, 104};  // Low, for the second evaluator's sake.
    const auto world = worldOf(recipe);
    reference::Evaluator evaluator(recipe);
    const Rect cells{-60, 0, suite::sized(70, 120), 1};
    const auto found = world->objects().in(cells).value();
    const auto expected = evaluator.objects(cells);
    QCOMPARE(found.size(), expected.size());
    QVERIFY2(!found.empty(), "nothing stands there");
    for (size_t n = 0; n < found.size(); ++n) {
      QCOMPARE(found[n].cell, expected[n].cell);
      QCOMPARE(found[n].y, expected[n].y);
    }
    const Blocks all = blocksOf(*world, {found[0].cell.x - 2, 0, 5, 1});
    int parts = 0;
    for (int64_t x = all.box.x; x < all.box.x + all.box.width; ++x)
      for (int64_t y = found[0].y - 6; y < found[0].y + 8; ++y) {
        const std::string block = evaluator.block({x, 0}, y);
        QCOMPARE(world->catalogue().materialId(all.at(x, y, 0)), block);
        parts += block == "iron" || block == "planks" || block == "lamp-glass";
      }
    QVERIFY(parts >= 3);
    // As many as in a plane of the same density.
    const auto figures = objectFigures(*world, {-20'000, 0, 40'000, 1}).value();
    QVERIFY(figures[0].count > 30);
  }

  /// Levels: on open cells alone, by floor, by walls, whatever was changed by hand.
  void theSecondEvaluatorAgreesInLevels() {
    for (const int floor : {3, 12}) {
      const Recipe recipe = furnishedLevel(floor);
      const auto world = worldOf(recipe);
      const Rect cells{-60, -40, 120, 80};
      const SampleGrid grid{cells.x, cells.z, 1, 120, 80};
      const auto seen = seenFrom(*world, grid);
      reference::Evaluator evaluator(recipe);
      const auto found = world->objects().in(cells).value();
      const auto expected = evaluator.objects(cells);
      QCOMPARE(found.size(), expected.size());
      QVERIFY2(found.size() > 10, std::to_string(found.size()).c_str());
      for (size_t n = 0; n < found.size(); ++n) {
        QCOMPARE(found[n].cell, expected[n].cell);
        QCOMPARE(found[n].id, expected[n].id);
        QVERIFY(world->level()->isOpen(found[n].cell));
        QVERIFY(world->level()->wallFrom(found[n].cell) <= 2);
      }
      std::set<std::string> met;
      for (int64_t z = 0, n = 0; z < cells.length; ++z)
        for (int64_t x = 0; x < cells.width; ++x, ++n) {
          const Cell cell{cells.x + x, cells.z + z};
          const std::string material = evaluator.evaluate(cell).material;
          QCOMPARE(world->catalogue().materialId(seen[static_cast<size_t>(n)]), material);
          met.insert(material);
        }
      QVERIFY(met.contains("crate") && met.contains("rubble"));
      Recipe changed = recipe;
      std::vector<Edit> edits;
      for (const PlacedObject& one : found)
        edits.push_back({one.cell.x, floor, one.cell.z, "firebrick"});
      changed.edits = EditSet(changed.seed).with(edits);
      const auto after = worldOf(changed);
      QCOMPARE(after->objects().in(cells).value(), found);
      QCOMPARE(after->catalogue().materialId(after->at(found[0].cell).material),
          std::string("firebrick"));
    }
    // More of them the deeper.
    QVERIFY(worldOf(furnishedLevel(18))->objects().in({-60, -40, 120, 80}).value().size() >
            worldOf(furnishedLevel(2))->objects().in({-60, -40, 120, 80}).value().size());
  }

  /// What is seen from above is the highest block of the column, hand edits included.
  void fromAboveIsTheHighestBlock() {
    Recipe recipe = furnished(WorldKind::Voxel);
    const Rect cells{100, -60, 70, 50};
    {
      const auto world = worldOf(recipe);
      const auto claims = world->objectCells().claims(cells, -40, 32).value();
      std::vector<Edit> edits;  // Some of what objects are made of is dug away.
      for (size_t n = 0; n < claims.size(); n += 7)
        edits.push_back({claims[n].cell.x, claims[n].y, claims[n].cell.z, "open"});
      recipe.edits = EditSet(recipe.seed).with(edits);
    }
    const auto world = worldOf(recipe);
    const Blocks all = blocksOf(*world, cells);
    const auto seen = seenFrom(*world, {cells.x, cells.z, 1, 70, 50});
    for (int64_t z = 0, n = 0; z < cells.length; ++z)
      for (int64_t x = 0; x < cells.width; ++x, ++n) {
        MaterialIndex top = kOpen;
        for (int64_t y = 31; y >= -40 && top == kOpen; --y)
          top = all.at(cells.x + x, y, cells.z + z);
        QCOMPARE(seen[static_cast<size_t>(n)], top);
      }
    // Scattered columns, near each other and not, hold the same.
    std::vector<Cell> line;
    for (int64_t i = 0; i < 50; ++i) line.push_back({cells.x + i, cells.z + i});
    line.push_back({cells.x + 69, cells.z + 49});
    line.insert(line.begin() + 5, {2'000'000'000, 7});
    const BlockLevels levels{-38, 30, 2};
    std::vector<MaterialIndex> held(line.size() * 30);
    QVERIFY(
        world->sampleColumns(static_cast<int>(line.size()), line.data(), levels, held.data()).ok());
    for (size_t i = 0; i < line.size(); ++i)
      for (int64_t j = 0; j < 30 && cells.contains(line[i]); ++j)
        QCOMPARE(held[static_cast<size_t>(j) * line.size() + i],
            all.at(line[i].x, -38 + 2 * j, line[i].z));
  }

  /// Of a cell that many want the best has it, in whatever order they are asked; nothing is taken
  /// that may not be.
  void oneWinsEachCell() {
    const auto world = worldOf(furnished(WorldKind::Voxel));
    Recipe bare = furnished(WorldKind::Voxel);
    bare.objects->on = false;
    const auto made = worldOf(bare);
    const Rect cells{-80, 40, 96, 96};
    const Blocks before = blocksOf(*made, cells), after = blocksOf(*world, cells);
    auto claims = world->objectCells().claims(cells, -40, 32).value();
    std::reverse(claims.begin(), claims.end());
    using Best = std::tuple<uint8_t, uint64_t, uint16_t, MaterialIndex>;
    std::map<std::array<int64_t, 3>, Best> best;
    std::set<std::pair<uint64_t, uint16_t>> met;
    int contested = 0;
    for (const CellClaim& c : claims) {
      const MaterialIndex there = before.at(c.cell.x, c.y, c.cell.z);
      const bool liquid = there == 4;
      if (!c.piece->takes(there, liquid)) continue;
      const Best own{c.rank, c.id, c.kind, c.material};
      const auto [at, fresh] = best.try_emplace({c.cell.x, c.y, c.cell.z}, own);
      contested += !fresh;
      at->second = std::min(at->second, own);
    }
    QVERIFY2(contested > 5, std::to_string(contested).c_str());
    for (int64_t y = -40; y < 32; ++y)
      for (int64_t z = cells.z; z < cells.z + cells.length; ++z)
        for (int64_t x = cells.x; x < cells.x + cells.width; ++x) {
          const auto won = best.find({x, y, z});
          QCOMPARE(
              after.at(x, y, z), won == best.end() ? before.at(x, y, z) : std::get<3>(won->second));
        }
  }

  /// Each chunk that an object reaches names it; one of them owns it.
  void everyChunkThatItReachesNamesIt() {
    Recipe recipe = furnished(WorldKind::Voxel);
    recipe.frame.chunkSize = 8;
    const auto world = worldOf(recipe);
    const ChunkLayout& layout = world->layout();
    std::map<uint64_t, std::pair<int, int>> seen;  // Named, owned.
    std::map<uint64_t, PlacedObject> objects;
    const Rect inner{24, 24, 48, 48};
    for (int64_t cz = 0; cz < 12; ++cz)
      for (int64_t cx = 0; cx < 12; ++cx)
        for (int64_t cy = layout.lowestChunk(0); cy <= layout.highestChunk(0); ++cy) {
          const auto chunk = world->chunk({cx, cz, 0, cy}).value();
          for (const PlacedObject& one : chunk->objects) {
            ++seen[one.id].first;
            seen[one.id].second += chunk->owns(one);
            objects[one.id] = one;
          }
          if (chunk->objects.empty()) continue;
          const auto json = nlohmann::json::parse(chunkJson(*world, *chunk));
          for (size_t n = 0; n < chunk->objects.size(); ++n)
            QCOMPARE(json["objects"][n]["owned"].get<bool>(), chunk->owns(chunk->objects[n]));
        }
    int crossing = 0, signs = 0;
    for (const auto& [id, counts] : seen) {
      if (!inner.contains(objects[id].cell)) continue;
      QCOMPARE(counts.second, 1);
      crossing += counts.first > 1;
      signs += objects[id].kind == 3 && counts.first == 1;
    }
    QVERIFY2(crossing > 10 && signs > 3, std::to_string(crossing).c_str());
  }

  void thePlumbLineNamesThem() {
    const Recipe recipe = furnished(WorldKind::Voxel);
    const auto world = worldOf(recipe);
    const Rect cells{0, 0, 64, 64};
    const auto all = world->objects().in(cells).value();
    const auto hut =
        std::find_if(all.begin(), all.end(), [](const PlacedObject& one) { return one.kind == 0; });
    QVERIFY(hut != all.end());
    const Plumb middle = plumbAt(*world, hut->cell, hut->y - 1).value();
    QVERIFY(middle.part.has_value());
    QCOMPARE(middle.part->kind, std::string("hut"));
    QCOMPARE(middle.part->pointer, std::string("/objects/pieces/0"));
    QVERIFY(plumbText(middle).find("part of hut") != std::string::npos);
    const Plumb beside = plumbAt(*world, {hut->cell.x + 1, hut->cell.z}, hut->y - 1).value();
    QVERIFY(plumbText(beside).find("reaches here") != std::string::npos);
    int decide = 0;
    for (const PlumbRow& row : plumbRows(middle)) decide += row.deciding;
    QCOMPARE(decide, 1);
    const auto json = nlohmann::json::parse(plumbJson(middle));
    QCOMPARE(json["object"]["piece"].get<std::string>(), std::string("hut"));
  }

  /// Digging under one leaves it standing; a block of it is changed like any other.
  void handEditsComeLast() {
    Recipe recipe = furnished(WorldKind::Voxel);
    const Rect cells{0, 0, 64, 64};
    const auto before = worldOf(recipe)->objects().in(cells).value();
    const auto hut = std::find_if(
        before.begin(), before.end(), [](const PlacedObject& one) { return one.kind == 0; });
    recipe.edits = EditSet(recipe.seed)
                       .with({{hut->cell.x, hut->y - 2, hut->cell.z, "open"},
                           {hut->cell.x, hut->y - 1, hut->cell.z, "turf"}});
    const auto world = worldOf(recipe);
    QCOMPARE(world->objects().in(cells).value(), before);
    const BlockValue block = world->blockAt(hut->cell, hut->y - 1);
    QVERIFY(block.edited && !block.object);
    QCOMPARE(world->catalogue().materialId(block.material), std::string("turf"));
    QCOMPARE(world->catalogue().materialId(block.generated), std::string("sand"));
  }

  /// The nearest by the page's rule, looked for the slow way; dry, free and with room about it.
  void oneEntersWhereOneCanWalk() {
    for (const WorldKind kind : {WorldKind::Overland, WorldKind::Voxel}) {
      Recipe recipe = furnished(kind);
      for (const char* seed : {"11", "b", "c"}) {
        recipe.seed = seed;
        recipe.frame.seaLevel = 2;  // Half of it is sea.
        const auto world = worldOf(recipe);
        const auto start = worldStart(*world).value();
        QVERIFY(start.has_value() && start->walk >= kStartLeast);
        constexpr int64_t kFar = 60;
        std::map<std::pair<int64_t, int64_t>, int64_t> level;
        for (int64_t z = -kFar; z <= kFar; ++z)
          for (int64_t x = -kFar; x <= kFar; ++x) {
            const float height = world->columns().heightAt({x, z});
            const auto claims = world->objectCells().claims({x, z, 1, 1}, -40, 32).value();
            if (height < 2 || !claims.empty()) continue;
            level[{x, z}] = static_cast<int64_t>(std::floor(height));
            if (kind == WorldKind::Voxel)
              level[{x, z}] = world->objects().ground().tops({x, z, 1, 1}, height)[0].y;
          }
        std::tuple<int64_t, int64_t, int64_t> best{INT64_MAX, 0, 0};
        for (const auto& [at, unused] : level) {
          const auto& [x0, z0] = at;
          const std::tuple order{x0 * x0 + z0 * z0, z0, x0};
          if (order >= best || std::max(std::abs(x0), std::abs(z0)) > kFar - 12) continue;
          std::set<std::pair<int64_t, int64_t>> met = {at};
          for (bool grew = true; grew;) {
            grew = false;
            for (const auto& [x, z] : std::set(met))
              for (const auto& [dx, dz] : {std::pair(1, 0), {-1, 0}, {0, 1}, {0, -1}}) {
                const std::pair to(x + dx, z + dz);
                if (std::abs(to.first - x0) > 12 || std::abs(to.second - z0) > 12) continue;
                const auto there = level.find(to);
                if (there == level.end() || std::abs(there->second - level[{x, z}]) > 1) continue;
                grew = met.insert(to).second || grew;
              }
          }
          if (met.size() >= 100) best = order;
        }
        QCOMPARE(std::tuple(start->cell.x * start->cell.x + start->cell.z * start->cell.z,
                     start->cell.z, start->cell.x),
            best);
      }
    }
    const auto level = worldOf(furnishedLevel());
    QCOMPARE(level->level()->placeAt(worldStart(*level).value()->cell), 0);
    Recipe drowned = furnished(WorldKind::Overland);
    drowned.frame.seaLevel = 1000;
    drowned.frame.x = drowned.frame.z = AxisBounds{-64, 128};
    QVERIFY(!worldStart(*worldOf(drowned)).value());
  }

  /// Found, and mended by what they propose.
  void mistakesAreFound() {
    const auto found = [](const Recipe& recipe) {
      const auto engine = engineOf();
      std::map<std::string, Check> out;
      auto checks = runChecks(*engine, *engine->compile(recipe).value());
      for (Check& check : *checks) out.emplace(check.id, std::move(check));
      return out;
    };
    QVERIFY(!found(furnished(WorldKind::Voxel)).contains("overlapping-pieces"));
    Recipe wide = furnished(WorldKind::Voxel);
    wide.objects->kinds[0].distance = 4;
    wide.objects->pieces[1].sink = 1;  // Stones that follow the ground, in it.
    wide.objects->kinds[1].what.clear();
    auto checks = found(wide);
    QCOMPARE(checks["overlapping-pieces"].pointer, std::string("/objects/kinds/0/distance"));
    QCOMPARE(checks["never-free"].subject, std::string("stone"));
    checks["overlapping-pieces"].apply(wide);
    QVERIFY(!found(wide).contains("overlapping-pieces"));
    // Crates as hard as walls, everywhere.
    Recipe level = furnishedLevel();
    QVERIFY(!found(level).contains("way-blocked"));
    level.objects->pieces[0].signs[0].material = "firebrick";
    level.objects->pieces[0].layers = {{{"ccccc", "ccccc", "ccccc", "ccccc", "ccccc"}}};
    level.objects->kinds[0].wall = {};
    level.objects->kinds[0].distance = 4;
    level.objects->kinds[0].density = 400;
    level.objects->kinds[0].what.clear();
    checks = found(level);
    QVERIFY2(checks["way-blocked"].sentence.starts_with("Ware stands in the only way to"),
        checks["way-blocked"].sentence.c_str());
    checks["way-blocked"].apply(level);
    QVERIFY(!found(level).contains("way-blocked"));
  }

  /// Drawings go out as text and come back.
  void drawingsAreText() {
    const Recipe recipe = furnished(WorldKind::Voxel);
    for (const ObjectPiece& piece : recipe.objects->pieces) {
      ObjectPiece blank = piece;
      blank.layers = {{{"."}}};
      blank.anchor = piece.anchor;
      ObjectPiece read = pieceFromText(pieceText(piece), blank).value();
      QCOMPARE(read, piece);
    }
    const ObjectPiece like = recipe.objects->pieces[3];
    QCOMPARE(pieceFromText("tt\r\nbb\r\n\r\nt.\r\n.b\r\n", like).value().layers,
        (std::vector<PieceLayer>{{{"tt", "bb"}}, {{"t.", ".b"}}}));
    for (const auto& [text, at] : {std::pair("", "the text"), {"t sand\n", "the text"},
             {"tt\nb\n", "line 2"}, {"tt\n\ntt\ntt\n", "the text"}})
      QCOMPARE(pieceFromText(text, like).error().where, std::string(at));
    QCOMPARE(pieceFromText(std::string(65, 't'), like).error().where, std::string("line 1"));
    ObjectPiece sized = recipe.objects->pieces[1];
    resizePiece(sized, 2, 4, 2);
    QCOMPARE(sized.layers.size(), size_t{2});
    QCOMPARE(sized.layers[0].rows, (std::vector<std::string>{"b.", ".b", "..", ".."}));
    QCOMPARE(sized.anchor->x, 1);
    QCOMPARE(signFor(sized, "brick"), 'b');
    QCOMPARE(signFor(sized, "water"), '#');
    QCOMPARE(sized.signs.back().material, std::string("water"));
  }

  /// Volumes and pictures of layers come back as they were written; chunks can be taken as pieces.
  void drawingsAreFiles() {
    QTemporaryDir folder;
    const auto at = [&](const char* name) { return folder.filePath(name).toStdString(); };
    Recipe recipe = furnished(WorldKind::Voxel);
    for (size_t n = 0; n < recipe.materials.size(); ++n)
      recipe.materials[n].colour = {static_cast<uint8_t>(40 * n), 7, 200};
    const std::vector<Material>& materials = recipe.materials;
    ObjectPiece hut = recipe.objects->pieces[0];
    for (PieceLayer& layer : hut.layers)  // Neither knows of opened cells.
      for (std::string& row : layer.rows) std::replace(row.begin(), row.end(), '_', '.');
    const auto drawn = [&](const ObjectPiece& piece) {
      std::vector<std::string> out;
      for (const PieceLayer& layer : piece.layers)
        for (const std::string& row : layer.rows)
          for (const char sign : row) {
            out.emplace_back(".");
            for (const PieceSign& one : piece.signs)
              if (one.sign[0] == sign) out.back() = one.material;
          }
      return out;
    };
    for (const char* name : {"hut.nrrd", "hut.png", "hut.txt"}) {
      QVERIFY(writePiece(hut, materials, at(name)));
      const bool layers = std::string(name) == "hut.png";
      const auto read = readPiece(at(layers ? "hut-1.png" : name), hut, materials);
      QVERIFY2(read.ok(), read.ok() ? "" : read.error().text().c_str());
      QCOMPARE(drawn(*read), drawn(hut));
      QVERIFY(read->cuts && read->sink == 1 && read->id == hut.id);
      Recipe with = recipe;
      with.objects->pieces[0] = *read;
      QVERIFY(engineOf()->compile(with).ok());
    }
    // A chunk of this world as a piece.
    Recipe small = recipe;
    small.frame.chunkSize = 16;
    const auto world = worldOf(small);
    const ChunkPos pos{0, 0, 0, world->layout().lowestChunk(0) + 2};
    const auto chunk = world->chunk(pos).value();
    QVERIFY(writeChunk(*world, *chunk, at("chunk.nrrd")));
    const auto taken = readPiece(at("chunk.nrrd"), hut, materials);
    QVERIFY2(taken.ok(), taken.ok() ? "" : taken.error().text().c_str());
    const auto cells = drawn(*taken);
    const auto blocks = chunk->materials.unpacked();
    QCOMPARE(cells.size(), blocks.size());
    for (size_t n = 0; n < cells.size(); ++n)
      QCOMPARE(cells[n], blocks[n] < kOpen ? world->catalogue().materialId(blocks[n]) : ".");
    // What is broken says where; nothing crashes on half a file.
    const auto refused = [&](const char* name, const std::string& bytes, const char* what) {
      std::ofstream(at(name), std::ios::binary) << bytes;
      const auto read = readPiece(at(name), hut, materials);
      QVERIFY2(!read.ok(), name);
      QVERIFY2(read.error().text().find(what) != std::string::npos, read.error().text().c_str());
      QVERIFY(!read.error().accepted.empty());
    };
    const auto bytesOf = [&](const char* name) {
      std::ifstream file(at(name), std::ios::binary);
      return std::string(std::istreambuf_iterator<char>(file), {});
    };
    const std::string volume = bytesOf("hut.nrrd"), picture = bytesOf("hut-1.png"),
                      zipped = bytesOf("chunk.nrrd");
    for (const std::string& whole : {volume, zipped})
      for (size_t cut = 0; cut < whole.size(); cut += whole.size() / 23 + 1)
        refused("cut.nrrd", whole.substr(0, cut), "");
    for (size_t cut = 0; cut + 20 < picture.size(); cut += picture.size() / 11 + 1)
      refused("cut.png", picture.substr(0, cut), "PNG");
    const auto changed = [&](const char* from, const char* to) {
      std::string out = volume;
      return out.replace(out.find(from), std::strlen(from), to);
    };
    refused("a.nrrd", changed("sizes: 5 4 3", "sizes: 65 4 3"), "sizes");
    refused("b.nrrd", changed("sizes: 5 4 3", "sizes: 5 4 4"), "cut off");
    refused("c.nrrd", changed("uint16", "float"), "type");
    refused("d.nrrd", changed(":=brick", ":=gold"), "gold");
    refused("e.nrrd", changed("encoding: raw", "encoding: hex"), "encoding");
    refused("f.dat", volume, ".dat");
    Recipe others = recipe;
    others.materials[2].colour = {1, 2, 3};
    const auto foreign = readPiece(at("hut-1.png"), hut, others.materials);
    QVERIFY(!foreign.ok() && foreign.error().text().find("row 1, column 1") != std::string::npos);
    QVERIFY(!readPiece(at("nowhere.png"), hut, materials).ok());
    QVERIFY(!writePiece(hut, materials, at("no/such/folder.nrrd")));
  }

  void attributesComeAlong() {
    const Recipe recipe = furnished(WorldKind::Voxel);
    PlacedObject pole;
    pole.kind = 1;
    pole.choice = 1;
    QCOMPARE(
        attributesOf(recipe, pole), (std::vector<ObjectAttribute>{{"hard", "yes"}, {"tall", "5"}}));
    pole.choice = 0;
    QCOMPARE(attributesOf(recipe, pole), recipe.objects->kinds[1].attributes);
    QCOMPARE(acre::pieceOf(recipe, pole)->id, std::string("stones"));
  }

  void whatIsNotAccepted_data() {
    QTest::addColumn<QString>("change");
    QTest::addColumn<QString>("at");
    const auto row = [](const char* name, const char* change, const char* at) {
      QTest::newRow(name) << QString(change) << QString(at);
    };
    const std::string wide(65, 'b');
    nlohmann::json replace = {{"op", "replace"}, {"path", "/objects/pieces/0/layers/0/rows/0"}};
    replace["value"] = wide;
    row("65 wide", nlohmann::json({replace}).dump().c_str(), "/objects/pieces/0/layers/0/rows/0");
    row("no layers", R"([{"op":"replace","path":"/objects/pieces/0/layers","value":[]}])",
        "/objects/pieces/0/layers");
    row("an unknown sign",
        R"([{"op":"replace","path":"/objects/pieces/1/layers/0/rows/1","value":".q.."}])",
        "/objects/pieces/1/layers/0/rows/1");
    row("a shorter row",
        R"([{"op":"replace","path":"/objects/pieces/1/layers/0/rows/1","value":".b"}])",
        "/objects/pieces/1/layers/0/rows/1");
    row("fewer rows", R"([{"op":"remove","path":"/objects/pieces/0/layers/1/rows/0"}])",
        "/objects/pieces/0/layers/1/rows");
    row("nothing drawn",
        R"([{"op":"replace","path":"/objects/pieces/3/layers/0/rows/0","value":"."}])",
        "/objects/pieces/3/layers");
    row("a sign of two",
        R"([{"op":"replace","path":"/objects/pieces/0/signs/0/sign","value":"bb"}])",
        "/objects/pieces/0/signs/0/sign");
    row("a sign twice", R"([{"op":"replace","path":"/objects/pieces/0/signs/0/sign","value":"t"}])",
        "/objects/pieces/0/signs/1/sign");
    row("a material that is none",
        R"([{"op":"replace","path":"/objects/pieces/0/signs/0/material","value":"gold"}])",
        "/objects/pieces/0/signs/0/material");
    row("an anchor beside it",
        R"([{"op":"replace","path":"/objects/pieces/1/anchor","value":{"x":4,"z":0}}])",
        "/objects/pieces/1/anchor/x");
    row("no such piece", R"([{"op":"replace","path":"/objects/kinds/0/piece","value":"barn"}])",
        "/objects/kinds/0/piece");
    row("nor of a choice",
        R"([{"op":"replace","path":"/objects/kinds/1/what/1/piece","value":"barn"}])",
        "/objects/kinds/1/what/1/piece");
    row("no such cave kind", R"([{"op":"add","path":"/objects/kinds/0/caves","value":["wet"]}])",
        "/objects/kinds/0/caves/0");
    row("a list's biome that is none",
        R"([{"op":"add","path":"/objects/kinds/1/what/0/biomes","value":["fen"]}])",
        "/objects/kinds/1/what/0/biomes/0");
    row("floors that hold nothing",
        R"([{"op":"add","path":"/objects/kinds/1/what/0/floors","value":[9, 2]}])",
        "/objects/kinds/1/what/0/floors");
    row("a list's field that is none",
        R"([{"op":"add","path":"/objects/kinds/1/what/0/field","value":"mist"}])",
        "/objects/kinds/1/what/0/field");
    row("too deep", R"([{"op":"replace","path":"/objects/pieces/0/sink","value":17}])",
        "/objects/pieces/0/sink");
  }
  void whatIsNotAccepted() {
    QFETCH(QString, change);
    QFETCH(QString, at);
    const auto json = nlohmann::json::parse(recipeToJson(furnished(WorldKind::Voxel)));
    const auto changed = json.patch(nlohmann::json::parse(change.toStdString()));
    const auto read = recipeFromJson(changed.dump());
    const auto made =
        read ? engineOf()->compile(*read) : Result<std::shared_ptr<const World>>(read.error());
    QVERIFY(!made.ok());
    QVERIFY2(made.error().where.starts_with(at.toStdString()), made.error().text().c_str());
    QVERIFY(!made.error().accepted.empty());
    // As it was it is read again to the same.
    const Recipe whole = furnished(WorldKind::Voxel);
    QVERIFY(recipeFromJson(recipeToJson(whole)).value().objects == whole.objects);
  }
};

ACRE_SUITE(PieceTest)
#include "piece_test.moc"
