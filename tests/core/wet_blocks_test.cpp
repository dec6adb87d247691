#include <QtTest>
#include <algorithm>
#include <map>
#include <random>

#include "audit/plumb.h"
#include "cave/caves.h"
#include "recipe/cave_recipe.h"
#include "recipe/edits.h"
#include "recipe/object_recipe.h"
#include "recipe/water_recipe.h"
#include "reference/evaluator.h"
#include "strata/blocks.h"
#include "suite.h"
#include "view/loading.h"
#include "water/water_stage.h"
#include "wet_worlds.h"
#include "world/demos.h"

// Rivers and lakes in worlds of blocks: real blocks of water on real beds, which stay where they
// are whatever hangs over and is dug below.

using namespace acre;

namespace {

/// Adds much water, and overhangs over it.
Recipe wetted(Recipe r) {
  r.ores.clear();
  r.rivers->on = true;
  r.rivers->spring = 3;
  r.rivers->lakes = 1;
  r.rivers->closed = 0.2;
  r.materials.push_back({"beck", "Beck", {}, MaterialState::Liquid});
  r.materials.push_back({"gravel-bed", "Gravel bed", {}, MaterialState::Solid});
  r.materials.push_back({"sedge", "Sedge", {}, MaterialState::Solid});
  r.rivers->water = "beck";
  r.rivers->bed = "gravel-bed";
  r.rivers->wet = "sedge";
  r.overhang.on = true;
  r.overhang.amount = 14;
  r.overhang.mask.reset();
  return r;
}

/// Hills of blocks with every kind of cave.
Recipe wet() {
  Recipe r = loadRecipe("swallet-edge").value();
  r.objects = {};
  *r.rivers = Rivers();
  return wetted(std::move(r));
}

/// The same, but for what takes the second evaluator minutes.
Recipe simple() {
  Recipe r = loadRecipe("first-steps").value();
  r.seed = "b";
  r.frame.kind = WorldKind::Voxel;
  r.frame.y = {-96, 192};
  r.frame.seaShare.reset();
  r.frame.seaLevel = -20;
  r.water.material = "shallow";
  r.layers = {{"top", kSurfaceId, 2, {}, 0}};
  r.rock.beds = {{"rock", "wood", 16}};
  NoiseVoid hollow;
  hollow.id = "hollow";
  hollow.first.noise.width = 18;
  hollow.first.low = -0.16;
  hollow.first.high = 0.16;
  r.caves->voids = {hollow};
  r.caves->on = true;
  r = wetted(std::move(r));
  r.rivers->spring = 4;
  r.rivers->lakes = 0.9;
  r.rivers->closed = 0.15;
  return r;
}

/// All blocks of an area, and its columns.
struct Blocks {
  Rect rect;
  int64_t y;
  int32_t tall;
  std::vector<MaterialIndex> blocks;
  std::vector<float> heights;
  std::vector<WaterKind> kinds;
  std::vector<int32_t> levels;

  Blocks(const World& world, const Rect& area)
      : rect(area), y(world.vertical().min), tall(static_cast<int32_t>(world.vertical().extent)) {
    const auto columns = static_cast<size_t>(rect.width * rect.length);
    blocks.resize(columns * static_cast<size_t>(tall));
    const auto wide = static_cast<int32_t>(rect.width), deep = static_cast<int32_t>(rect.length);
    if (!world.sampleBlocks({rect.x, y, rect.z, 1, wide, tall, deep}, blocks.data()))
      qFatal("no blocks");
    heights.resize(columns);
    kinds.resize(columns);
    levels.resize(columns);
    LandOut land;
    land.stride = wide;
    land.heights = heights.data();
    land.waters = kinds.data();
    land.levels = levels.data();
    if (!world.parts().land->evaluate({rect.x, rect.z, 1, wide, deep}, land, {})) qFatal("no land");
  }
  size_t column(int64_t i, int64_t k) const { return static_cast<size_t>(k * rect.width + i); }
  MaterialIndex at(int64_t i, int64_t k, int64_t level) const {
    return blocks[static_cast<size_t>(level - y) * heights.size() + column(i, k)];
  }
  bool fresh(size_t n) const { return kinds[n] == WaterKind::Lake || kinds[n] == WaterKind::River; }
};

/// A place with a river and a lake, found once.
Cell wetPlace(const World& world) {
  Drainage::Reader net(world.water()->drainage());
  for (int64_t j = -30; j < 30; ++j)
    for (int64_t i = -30; i < 30; ++i) {
      const Brick b{i, j};
      const DrainAt at = net.drain(b);
      if (at.drains != Drains::Lake || at.next != b) continue;
      const auto way = net.outlet(b);
      if (way && way->found) return net.bottomOf(b);
    }
  qFatal("no lake");
}

}  // namespace

class WetBlocksTest : public QObject {
  Q_OBJECT

 private slots:
  /// As another program does it that knows docs/maths.md alone.
  void everyBlockIsAsThePageSays() {
    const Recipe recipe = simple();
    const auto world = worldOf(recipe);
    reference::Evaluator reference(recipe);
    std::mt19937 random(4);
    std::map<std::string, int> met;
    for (int n = 0; n < 1200; ++n) {
      const Cell cell{
          -860 + static_cast<int64_t>(random() % 100), 400 + static_cast<int64_t>(random() % 100)};
      const auto ground = static_cast<int64_t>(std::floor(world->columns().heightAt(cell)));
      const int64_t y = ground - 5 + static_cast<int64_t>(random() % 12);
      const std::string told = reference.block(cell, y);
      const std::string made = world->catalogue().materialId(world->blockAt(cell, y).material);
      QVERIFY2(made == told,
          qPrintable(QStringLiteral("%1,%2 y %3: %4, not %5")
                         .arg(cell.x)
                         .arg(cell.z)
                         .arg(y)
                         .arg(QString::fromStdString(made), QString::fromStdString(told))));
      ++met[made];
    }
    QVERIFY(met["beck"] > 20 && met["gravel-bed"] > 5 && met["open"] > 50 && met["sedge"] > 5);
  }

  /// Single blocks, scattered columns, chunks, levels apart, with memory or without: the same.
  void anyPartIsCutFromTheWhole() {
    const auto world = worldOf(wet());
    const Cell at = wetPlace(*world);
    const Blocks whole(*world, {at.x - 40, at.z - 40, 80, 80});
    std::mt19937 random(9);
    for (int n = 0; n < 400; ++n) {
      const auto i = static_cast<int64_t>(random() % 80), k = static_cast<int64_t>(random() % 80);
      const Cell cell{whole.rect.x + i, whole.rect.z + k};
      const auto ground = static_cast<int64_t>(std::floor(world->columns().heightAt(cell)));
      const int64_t y = std::clamp<int64_t>(
          ground - 8 + static_cast<int64_t>(random() % 16), whole.y, whole.y + whole.tall - 1);
      QCOMPARE(world->blockAt(cell, y).material, whole.at(i, k, y));
      std::vector<MaterialIndex> column(static_cast<size_t>(whole.tall));
      if (n % 8 == 0) {
        QVERIFY(world->sampleColumns(1, &cell, {whole.y, whole.tall, 1}, column.data()));
        for (int32_t j = 0; j < whole.tall; ++j)
          QCOMPARE(column[static_cast<size_t>(j)], whole.at(i, k, whole.y + j));
      }
    }
    const ChunkPos pos = world->layout().chunkOf(at);
    const auto sameChunk = [&](const World& one, const World& other, int64_t cy) {
      const Rect r = one.layout().rectOf(pos);
      const Blocks area(other, r);
      const auto chunk = one.chunk({pos.cx, pos.cz, 0, cy}).value();
      for (int32_t j = 0; j < chunk->tall; ++j)
        for (int64_t k = 0; k < r.length; ++k)
          for (int64_t i = 0; i < r.width; ++i)
            QCOMPARE(chunk->materials[static_cast<size_t>((j * r.length + k) * r.width + i)],
                area.at(i, k, chunk->y + j));
    };
    for (int64_t cy = world->layout().lowestChunk(0); cy <= world->layout().highestChunk(0); ++cy)
      sameChunk(*world, *world, cy);
    // Caves ask for single cells, each of which would find a network of its own.
    Recipe solid = wet();
    solid.caves->on = false;
    const auto level = static_cast<int64_t>(world->columns().heightAt(at));
    sameChunk(*worldOf(solid, 0), *worldOf(solid),
        floorDiv(level - world->vertical().min, int64_t{world->layout().size()}) +
            world->layout().lowestChunk(0));
    std::vector<MaterialIndex> coarse(size_t{40} * 40 * 20);
    const int64_t from = world->vertical().min + 40;
    QVERIFY(world->sampleBlocks({whole.rect.x, from, whole.rect.z, 2, 40, 20, 40}, coarse.data()));
    // Ground and water are the same; caves too, up to this step.
    for (int64_t j = 0; j < 20; ++j)
      for (int64_t k = 0; k < 40; ++k)
        for (int64_t i = 0; i < 40; ++i)
          QCOMPARE(coarse[static_cast<size_t>((j * 40 + k) * 40 + i)],
              whole.at(2 * i, 2 * k, from + 2 * j));
  }

  /// Water has water or ground beside it and below it, whatever hangs over and is dug.
  void waterStaysWhereItIs() {
    const Recipe recipe = wet();
    const auto world = worldOf(recipe);
    const Cell at = wetPlace(*world);
    const Blocks all(*world, {at.x - 96, at.z - 96, 192, 192});
    const MaterialIndex beck = world->blocks()->fresh();
    QCOMPARE(world->catalogue().materialId(beck), std::string("beck"));
    int64_t water = 0, falls = 0, dug = 0, hanging = 0;
    for (int64_t k = 1; k + 1 < all.rect.length; ++k)
      for (int64_t i = 1; i + 1 < all.rect.width; ++i) {
        const size_t n = all.column(i, k);
        const auto ground = static_cast<int64_t>(std::floor(all.heights[n]));
        for (int64_t y = all.y + 1; y < all.y + all.tall; ++y) {
          const MaterialIndex m = all.at(i, k, y);
          if (m == kOpen) {
            dug += y < ground - 2;
          } else if (m != beck) {
            hanging += y > ground;
          }
          // Water stands from the bed up to its level, and nowhere else.
          const bool wet = all.fresh(n) && y >= ground && y < all.levels[n];
          QCOMPARE(m == beck, wet);
          if (!wet) continue;
          ++water;
          QVERIFY(all.at(i, k, y - 1) != kOpen);
          for (const auto& [di, dk] : {std::pair(1, 0), {-1, 0}, {0, 1}, {0, -1}}) {
            if (all.at(i + di, k + dk, y) != kOpen) continue;
            ++falls;
            // A declared fall: lower ground or lower water, two at most.
            const size_t m2 = all.column(i + di, k + dk);
            const int64_t lower =
                all.fresh(m2) ? all.levels[m2] : static_cast<int64_t>(std::floor(all.heights[m2]));
            QVERIFY(all.levels[n] - lower <= 2 || all.fresh(m2));
            QVERIFY(lower <= y);
          }
        }
      }
    qInfo("%lld blocks of water, %lld open beside, %lld dug, %lld hanging",
        static_cast<long long>(water), static_cast<long long>(falls), static_cast<long long>(dug),
        static_cast<long long>(hanging));
    QVERIFY(water > 1000 && dug > 2000 && hanging > 200);
  }

  /// What one sees from above is what lies on top.
  void topsShowWater() {
    const auto world = worldOf(wet());
    const Cell at = wetPlace(*world);
    const Blocks all(*world, {at.x - 32, at.z - 32, 64, 64});
    std::vector<float> heights(64 * 64);
    std::vector<MaterialIndex> tops(heights.size());
    QVERIFY(world->sample({all.rect.x, all.rect.z, 1, 64, 64}, heights.data(), tops.data()));
    const MaterialIndex beck = world->blocks()->fresh();
    int met = 0;
    for (int64_t k = 0; k < 64; ++k)
      for (int64_t i = 0; i < 64; ++i) {
        const size_t n = all.column(i, k);
        const bool under =
            all.fresh(n) && std::floor(all.heights[n]) < static_cast<float>(all.levels[n]);
        if (under) QCOMPARE(tops[n], beck);
        if (!under) QVERIFY(tops[n] != beck);
        met += under;
        QCOMPARE(world->at({all.rect.x + i, all.rect.z + k}).material, tops[n]);
      }
    QVERIFY(met > 100);
  }

  /// Whoever lands in a river comes out of it; what is built in one is told why water stays.
  void nobodyLandsInARiver() {
    Recipe recipe = simple();
    const auto dry = worldOf(recipe);
    const Cell at = wetPlace(*dry);
    Cell river = at;
    for (int64_t n = 0; n < 96 * 96 && dry->at(river).water.kind != WaterKind::River; ++n)
      river = {at.x - 48 + n % 96, at.z - 48 + n / 96};
    QCOMPARE(dry->at(river).water.kind, WaterKind::River);
    const auto place = standNear(*dry, river);
    QVERIFY(place && place->cell != river);
    QVERIFY(!isFresh(dry->at(place->cell).water.kind));
    // Nothing but water about it: then there.
    QVERIFY(standNear(*dry, river, 0)->cell == river);
    const int64_t level = dry->at(river).water.level;
    recipe.edits = EditSet(recipe.seed).with({{river.x, level - 1, river.z, "sedge"}});
    const auto world = worldOf(recipe);
    const auto plumb = plumbAt(*world, river, level - 1).value();
    QVERIFY(plumbText(plumb).find("water does not move") != std::string::npos);
    QVERIFY(plumbText(plumbAt(*dry, river, level - 1).value()).find("does not move") ==
            std::string::npos);
  }

  /// Worlds of columns stand as blocks too: the walk view and sections see water on its bed.
  void columnsHoldWaterToo() {
    Recipe recipe = loadRecipe("first-steps").value();
    recipe.rivers->on = true;
    recipe.rivers->spring = 4;
    recipe.materials.push_back({"beck", "Beck", {}, MaterialState::Liquid});
    recipe.materials.push_back({"bed", "Bed", {}, MaterialState::Solid});
    recipe.rivers->water = "beck";
    recipe.rivers->bed = "bed";
    const auto world = worldOf(recipe);
    int wetColumns = 0;
    for (int64_t z = 0; z < 600 && wetColumns < 40; z += 3)
      for (int64_t x = -300; x < 300; x += 3) {
        const Cell cell{x, z};
        const CellValue value = world->at(cell);
        if (value.water.freshLevel() == kNoWater) continue;
        const auto bed = static_cast<int64_t>(std::floor(value.height));
        QCOMPARE(world->catalogue().materialId(value.material), std::string("beck"));
        QCOMPARE(world->catalogue().materialId(world->blockAt(cell, bed - 1).material),
            std::string("bed"));
        for (int64_t y = bed; y < value.water.level; ++y)
          QCOMPARE(
              world->catalogue().materialId(world->blockAt(cell, y).material), std::string("beck"));
        QVERIFY(world->blockAt(cell, value.water.level).material == kOpen);
        if (++wetColumns == 40) break;
      }
    QCOMPARE(wetColumns, 40);
  }
};

ACRE_SUITE(WetBlocksTest)
#include "wet_blocks_test.moc"
