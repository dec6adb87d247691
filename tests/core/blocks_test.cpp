#include <QtTest>
#include <algorithm>
#include <cmath>
#include <map>
#include <random>
#include <set>

#include "dry.h"
#include "recipe/cave_recipe.h"
#include "recipe/edits.h"
#include "reference/evaluator.h"
#include "strata/blocks.h"
#include "suite.h"
#include "world/block_value.h"
#include "world/demos.h"
#include "world/engine.h"
#include "world/fingerprint.h"
#include "world/world.h"

using namespace acre;

namespace {

/// swallet-edge; without caves unless asked for: what they do to the ground has a test of its own.
Recipe edge(bool caves = false) {
  Recipe recipe = dryDemo("swallet-edge");
  recipe.caves->on = caves;
  return recipe;
}

std::shared_ptr<const World> worldOf(const Recipe& recipe, const std::string& simd = {}) {
  EngineOptions options;
  options.simd = simd;
  auto engine = Engine::create(options);
  auto world = (*engine)->compile(recipe);
  if (!world) qFatal("%s", world.error().text().c_str());
  return *world;
}

/// Level ground at a height, in beds of ten with one ore.
Recipe plain(double height, const Ore& ore) {
  Recipe r;
  r.name = "Plain";
  r.seed = "1";
  r.frame.kind = WorldKind::Voxel;
  r.frame.y = {-128, 256};
  r.materials = {{"turf", "Turf", {}, MaterialState::Solid},
      {"rock", "Rock", {}, MaterialState::Solid}, {"deep", "Deep rock", {}, MaterialState::Solid},
      {"ore", "Ore", {}, MaterialState::Solid}, {"water", "Water", {}, MaterialState::Liquid}};
  Layer level;
  level.id = "level";
  level.source = ConstantSource{height};
  r.heights.layers = {level};
  r.bands = {{"all", {}, "turf", {}}};
  r.layers = {{"top", kSurfaceId, 1, {}, 0}};
  r.rock = {height, {}, 0, {{"upper", "rock", height + 64}, {"lower", "deep", 16}}};
  r.ores = {ore};
  r.water.material = "water";
  return r;
}

std::vector<MaterialIndex> blocksOf(const World& world, const SampleBlock& block) {
  std::vector<MaterialIndex> out(static_cast<size_t>(block.width) *
                                 static_cast<size_t>(block.height) *
                                 static_cast<size_t>(block.length));
  const Status made = world.sampleBlocks(block, out.data());
  if (!made) qFatal("%s", made.error().text().c_str());
  return out;
}

size_t placeIn(const SampleBlock& b, int64_t x, int64_t y, int64_t z) {
  return static_cast<size_t>(
      (((y - b.y) / b.step) * b.length + (z - b.z) / b.step) * b.width + (x - b.x) / b.step);
}

}  // namespace

class BlocksTest : public QObject {
  Q_OBJECT

 private slots:
  /// Scattered columns are seen from above as single ones are, what was changed by hand included.
  void scatteredColumnsAreSeenFromAbove() {
    Recipe recipe = dryDemo("swallet-edge");
    recipe.edits = EditSet(recipe.seed).with({{5, 90, 5, recipe.materials.front().id}});
    const auto engine = Engine::create({}).value();
    const auto world = engine->compile(recipe).value();
    std::vector<Cell> cells = {{5, 5}, {2'000'000'000, -2'000'000'000}};
    for (int64_t n = 0; n < 300; ++n) cells.push_back({n * 977 - 120'000, n * -613 + 40'000});
    const size_t count = cells.size();
    std::vector<float> heights(count);
    std::vector<BiomeIndex> biomes(count);
    std::vector<MaterialIndex> materials(count);
    world->scattered(
        static_cast<int>(count), cells.data(), heights.data(), biomes.data(), materials.data());
    QCOMPARE(materials[0], MaterialIndex{1});
    for (size_t i = 0; i < count; ++i) {
      const CellValue one = world->at(cells[i]);
      QCOMPARE(materials[i], one.material);
      QCOMPARE(heights[i], one.height);
      QCOMPARE(biomes[i], one.biome);
    }
  }

  /// Blocks about the ground, deep down and up in the air, near, negative and far, against the
  /// second evaluator: by the scalar code, in a block of samples and as a scattered column.
  void agreeWithTheReference_data() {
    QTest::addColumn<QString>("name");
    for (const char* name : {"swallet-edge", "lantern-shelf", "level ground", "strata off"})
      QTest::newRow(name) << name;
  }
  void agreeWithTheReference() {
    QFETCH(QString, name);
    Recipe recipe = name == "lantern-shelf" ? dryDemo("lantern-shelf") : edge(true);
    if (name == "level ground")
      recipe = plain(10, {"ore", true, "ore", {}, 0.2, Ore::Shape::Vein, 2, 20, {}});
    recipe.strataOn = name != "strata off";
    const bool plane = recipe.frame.kind == WorldKind::Side;
    const auto world = worldOf(recipe);
    reference::Evaluator reference(recipe);
    std::mt19937_64 random(5);
    std::map<std::string, int> met;
    const int cells = suite::sized(1'200, 4'000);
    for (int i = 0; i < cells; ++i) {
      const int64_t reach = i % 4 == 0 ? 2'000'000'000 : i % 4 == 1 ? kMaxCell - 64 : 3000;
      const auto draw = [&](int64_t far) {
        return static_cast<int64_t>(random() % static_cast<uint64_t>(2 * far + 1)) - far;
      };
      const Cell cell{draw(reach), plane ? 0 : draw(reach)};
      const AxisBounds& range = recipe.frame.y;
      const auto ground = static_cast<int64_t>(std::floor(world->columns().heightAt(cell)));
      const int64_t y =
          i % 3 == 0
              ? range.min + static_cast<int64_t>(random() % static_cast<uint64_t>(range.extent))
              : std::clamp(ground + draw(20), range.min, range.min + range.extent - 1);
      const std::string expected = reference.block(cell, y);
      ++met[expected];
      const auto at = QString("%1,%2,%3: expected %4")
                          .arg(cell.x)
                          .arg(y)
                          .arg(cell.z)
                          .arg(QString::fromStdString(expected));
      if (world->catalogue().materialId(world->blockAt(cell, y).material) != expected)
        QFAIL(qPrintable(at));
      const SampleBlock block{
          cell.x - 2, y - 1, plane ? cell.z : cell.z - 1, 1, 5, 3, plane ? 1 : 3};
      const auto blocks = blocksOf(*world, block);
      if (world->catalogue().materialId(blocks[placeIn(block, cell.x, y, cell.z)]) != expected)
        QFAIL(qPrintable("block " + at));
      MaterialIndex column[4];
      QVERIFY(world->sampleColumns(1, &cell, {y - 2, 4, 1}, column).ok());
      if (world->catalogue().materialId(column[2]) != expected) QFAIL(qPrintable("column " + at));
    }
    QVERIFY(met.size() >= (name == "strata off" ? 2u : 4u));
  }

  void chunksAreCutsOfAnyBlock_data() {
    QTest::addColumn<int>("size");
    QTest::addColumn<bool>("columns");
    for (const int size : {4, 7, 16, 32, 50})
      for (const bool columns : {false, true})
        QTest::addRow("%d %s", size, columns ? "columns" : "cubes") << size << columns;
  }
  void chunksAreCutsOfAnyBlock() {
    QFETCH(int, size);
    QFETCH(bool, columns);
    Recipe recipe = edge();
    recipe.frame.chunkSize = size;
    recipe.frame.shape = columns ? ChunkShape::Columns : ChunkShape::Cubes;
    recipe.frame.y = {-37, 101};  // No multiple of anything.
    recipe.frame.x = AxisBounds{-61, 2'000'000'200};
    const auto world = worldOf(recipe);
    for (const Cell corner : {Cell{-70, -40}, Cell{1'999'999'990, -2'000'000'000}}) {
      const SampleBlock all{corner.x, -40, corner.z, 1, 60, 110, 45};
      const auto blocks = blocksOf(*world, all);
      std::map<ChunkPos, std::shared_ptr<const Chunk>> chunks;
      for (int64_t y = all.y; y < all.y + all.height; ++y)
        for (int64_t z = all.z; z < all.z + all.length; ++z)
          for (int64_t x = all.x; x < all.x + all.width; ++x) {
            const MaterialIndex here = blocks[placeIn(all, x, y, z)];
            if (y < -37 || y >= 64 || x < -61 || x >= -61 + 2'000'000'200) {
              QCOMPARE(here, kOutside);
              continue;
            }
            ChunkPos pos = world->layout().chunkOf({x, z});
            pos.cy = world->layout().chunkOfLevel(y, 0);
            auto& chunk = chunks[pos];
            if (!chunk) chunk = world->chunk(pos).value();
            const auto local = static_cast<size_t>(
                ((y - chunk->y) * chunk->length + (z - chunk->rect.z)) * chunk->width + x -
                chunk->rect.x);
            if (chunk->materials[local] != here)
              QFAIL(qPrintable(QString("%1,%2,%3").arg(x).arg(y).arg(z)));
          }
    }
  }

  void everyInstructionSetGivesTheSame() {
    const Recipe recipe = edge();
    const SampleBlock block{-90, -60, 40, 1, 100, 150, 33};
    const auto expected = blocksOf(*worldOf(recipe, "plain"), block);
    for (const Kernels* kernels : availableKernels())
      QVERIFY2(blocksOf(*worldOf(recipe, kernels->name), block) == expected, kernels->name);
  }

  /// Chunks of coarser levels hold every second, fourth, ... block of the finest, up to the step
  /// where ores are exact; beyond it all but the ores.
  void coarserLevelsAreSamples() {
    Recipe recipe = edge();
    const auto world = worldOf(recipe);
    const auto without = [&] {
      Recipe bare = recipe;
      bare.ores.clear();
      return worldOf(bare);
    }();
    for (int level = 1; level <= 4; ++level) {
      const ChunkPos pos{-1, 2, level, 0};
      const auto chunk = world->chunk(pos).value();
      const int64_t step = int64_t{1} << level;
      QCOMPARE(chunk->tall, 32);
      const World& same = step <= BlockStage::kExactStep ? *world : *without;
      std::mt19937_64 random(static_cast<uint64_t>(level));
      for (int n = 0; n < 1500; ++n) {
        const auto i = static_cast<int64_t>(random() % 32), j = static_cast<int64_t>(random() % 32),
                   k = static_cast<int64_t>(random() % 32);
        const MaterialIndex one = chunk->materials[static_cast<size_t>((j * 32 + k) * 32 + i)];
        const auto whole =
            same.blockAt({chunk->rect.x + i * step, chunk->rect.z + k * step}, chunk->y + j * step);
        QCOMPARE(one, whole.material);
      }
    }
  }

  void scatteredColumnsEqualBlocks() {
    const auto world = worldOf(edge());
    const SampleBlock block{1000, -70, -300, 1, 40, 180, 30};
    const auto blocks = blocksOf(*world, block);
    std::mt19937_64 random(8);
    std::vector<Cell> cells;
    for (int i = 0; i < 300; ++i)
      cells.push_back({block.x + static_cast<int64_t>(random() % 40),
          block.z + static_cast<int64_t>(random() % 30)});
    std::vector<MaterialIndex> columns(cells.size() * 180);
    std::vector<float> heights(cells.size());
    QVERIFY(
        world->sampleColumns(300, cells.data(), {block.y, 180, 1}, columns.data(), heights.data())
            .ok());
    for (size_t c = 0; c < cells.size(); ++c) {
      QCOMPARE(heights[c], world->columns().heightAt(cells[c]));
      for (int64_t j = 0; j < 180; ++j)
        QCOMPARE(columns[static_cast<size_t>(j) * cells.size() + c],
            blocks[placeIn(block, cells[c].x, block.y + j, cells[c].z)]);
    }
  }

  /// The bounds that spare a chunk its cells never lie, and how often they help is told.
  void uniformChunksAreUniform() {
    const auto world = worldOf(edge());
    Recipe bare = edge();
    bare.ores.clear();
    bare.rock.bend.clear();
    const auto level = worldOf(bare);
    std::mt19937_64 random(9);
    int spared = 0, uniform = 0;
    for (int n = 0; n < 10'000; ++n) {
      const World& in = n % 2 ? *world : *level;
      const ChunkPos pos{static_cast<int64_t>(random() % 4000) - 2000,
          static_cast<int64_t>(random() % 4000) - 2000, 0, static_cast<int64_t>(random() % 7) - 3};
      std::vector<MaterialIndex> some;
      const BlockLevels levels = in.layout().levelsOf(pos);
      const auto rect = in.layout().rectOf(pos);
      std::vector<float> heights(1024);
      QVERIFY(in.sample({rect.x, rect.z, 1, 32, 32}, heights.data(), nullptr).ok());
      const auto [low, high] = std::minmax_element(heights.begin(), heights.end());
      const auto alike = in.blocks()->uniform(*low, *high, levels);
      const auto chunk = in.chunk(pos).value();
      const bool is = chunk->materials.palette().size() == 1;
      uniform += is;
      spared += alike.has_value();
      if (!alike) continue;
      QVERIFY(is && chunk->materials.palette()[0] == *alike);
      // The chunk may have been filled because of those very bounds: single blocks know nothing of
      // them.
      for (int k = 0; k < 24; ++k) {
        const Cell cell{rect.x + static_cast<int64_t>(random() % 32),
            rect.z + static_cast<int64_t>(random() % 32)};
        const int64_t y = levels.first + static_cast<int64_t>(random() % 32);
        QCOMPARE(in.blockAt(cell, y).material, *alike);
      }
    }
    qInfo("%d of 10000 chunks are uniform; %d found so by their bounds, %.1f %% missed", uniform,
        spared, 100.0 * (uniform - spared) / uniform);
    QVERIFY(spared > 1000 && uniform >= spared);
    QVERIFY(world->blocks()->overhangs());  // Which is what makes bounds hard to tell.
  }

  /// Every solid block whose upper neighbour is not solid has depth 0: the top layer lies on all
  /// ledges, under arches too, and nothing deeper shows anywhere.
  void layersLieOnEveryLedge() {
    Recipe recipe = edge();
    recipe.ores.clear();
    for (Biome& b : recipe.biomes.list) b.layers.reset();
    recipe.layers = {{"top", "pasture", 1, {}, 0}, {"soil", "loam", 3, {}, 0}};
    const auto world = worldOf(recipe);
    const SampleBlock block{0, -96, 200, 1, 200, 224, 60};
    const auto blocks = blocksOf(*world, block);
    const auto id = [&](int64_t x, int64_t y, int64_t z) {
      return world->catalogue().materialId(blocks[placeIn(block, x, y, z)]);
    };
    int ledges = 0, arches = 0;
    for (int64_t z = block.z; z < block.z + block.length; ++z)
      for (int64_t x = block.x; x < block.x + block.width; ++x) {
        int depth = -1, tops = 0;
        for (int64_t y = block.y + block.height - 1; y >= block.y; --y) {
          const std::string here = id(x, y, z);
          const bool open = here == "open" || here == "water";
          depth = open ? -1 : depth + 1;
          if (depth == 0) ++ledges, ++tops;
          if (open) continue;
          QCOMPARE(here == "pasture", depth == 0);
          QCOMPARE(here == "loam", depth >= 1 && depth <= 3);
        }
        arches += tops > 1;
      }
    QVERIFY(ledges >= 12'000);
    QVERIFY2(arches > 50, "the demo has no overhang here");
  }

  void waterFillsWhatIsOpenBelowTheSea() {
    const auto world = worldOf(edge());
    for (const Cell corner : {Cell{-500, -300}, Cell{2'000'000'000, 77}}) {
      const SampleBlock block{corner.x, -30, corner.z, 1, 120, 60, 120};
      const auto blocks = blocksOf(*world, block);
      for (int64_t j = 0; j < block.height; ++j)
        for (int64_t n = 0; n < 120 * 120; ++n) {
          const MaterialIndex m = blocks[static_cast<size_t>(j * 120 * 120 + n)];
          if (block.y + j < 0)
            QVERIFY(m != kOpen);
          else
            QVERIFY(m != world->blocks()->water());
        }
    }
  }

  /// Asked against measured shares, over 10^8 blocks of host rock, on seeds not used for tuning.
  void oresKeepTheirShares_data() {
    QTest::addColumn<double>("share");
    QTest::addColumn<int>("shape");
    QTest::addColumn<bool>("curved");
    QTest::newRow("pockets, little") << 0.005 << 0 << false;
    QTest::newRow("pockets, by depth") << 0.02 << 0 << true;
    QTest::newRow("veins") << 0.008 << 1 << false;
    QTest::newRow("veins, by depth") << 0.03 << 1 << true;
    QTest::newRow("pockets, a lot") << 0.3 << 0 << false;
  }
  void oresKeepTheirShares() {
    QFETCH(double, share);
    QFETCH(int, shape);
    QFETCH(bool, curved);
    Ore ore{"ore", true, "ore", {"rock"}, share, static_cast<Ore::Shape>(shape), 2.2, 30, {}};
    if (curved) ore.curve = {{-60, 1}, {0, 0.2}, {20, 0.6}};
    const int seeds = suite::sized(2, 5);
    for (int n = 1; n <= seeds; ++n) {
      const int seed = 101 * n;
      Recipe recipe = plain(24, ore);
      recipe.seed = std::to_string(seed);
      const auto world = worldOf(recipe);
      const auto oreIndex = static_cast<MaterialIndex>(4), rock = static_cast<MaterialIndex>(2);
      int64_t hosts = 0, found = 0;
      // 87 levels of rock under a square of 1,100 cells a side: 1.05 * 10^8 blocks.
      for (int64_t x = 0; x < 1100; x += 100)
        for (int64_t z = 0; z < 1100; z += 100) {
          const auto blocks = blocksOf(*world, {x - 500, -70, z + 1'000'000'000, 1, 100, 100, 100});
          for (const MaterialIndex m : blocks) {
            found += m == oreIndex;
            hosts += m == oreIndex || m == rock;
          }
        }
      QVERIFY(hosts >= 100'000'000);
      const double measured = static_cast<double>(found) / static_cast<double>(hosts);
      if (std::abs(measured / share - 1) > 0.05)
        QFAIL(qPrintable(
            QString("seed %1: asked %2, measured %3").arg(seed).arg(share).arg(measured)));
    }
  }

  void impossibleSharesAreTold() {
    Ore ore{"ore", true, "ore", {"rock"}, 0.3, Ore::Shape::Pocket, 2, 20, {{-60, 1}, {-59, 0}}};
    const auto world = worldOf(plain(24, ore));
    QCOMPARE(world->blocks()->ores()->shortages().size(), size_t{1});
    const OreShortage& lack = world->blocks()->ores()->shortages()[0];
    QVERIFY(!lack.noHost);
    QVERIFY(lack.wanted > 0.95);
    QVERIFY(lack.y <= -58);
    ore.curve = {};
    ore.hosts = {"deep"};
    ore.share = 0.1;
    Recipe recipe = plain(24, ore);
    recipe.frame.y = {0, 64};  // The deep rock lies below.
    const auto none = worldOf(recipe);
    QVERIFY(none->blocks()->ores()->shortages()[0].noHost);
  }

  /// Bounds only crop: sideways, and upward and downward where no ore follows a curve of depth.
  void boundsOnlyCrop() {
    Recipe recipe = edge();
    const SampleBlock block{-30, -50, -30, 1, 60, 100, 60};
    const auto endless = blocksOf(*worldOf(recipe), block);
    recipe.frame.x = AxisBounds{-20, 25};
    recipe.frame.z = AxisBounds{-10, 33};
    const auto cropped = blocksOf(*worldOf(recipe), block);
    int64_t inside = 0;
    for (size_t i = 0; i < endless.size(); ++i) {
      if (cropped[i] == kOutside) continue;
      ++inside;
      QCOMPARE(cropped[i], endless[i]);
    }
    QCOMPARE(inside, int64_t{25 * 33 * 100});
  }

  void fingerprintsTellBlocksApart() {
    Recipe recipe = edge();
    const auto a = worldFingerprint(*worldOf(recipe));
    recipe.frame.chunkSize = 16;
    QCOMPARE(worldFingerprint(*worldOf(recipe)), a);
    recipe.ores.clear();
    QVERIFY(worldFingerprint(*worldOf(recipe)) != a);
  }

  void badChunksAreRefusedInWords() {
    const auto world = worldOf(edge());
    const auto refused = [&](ChunkPos pos, const char* what) {
      const auto made = world->chunk(pos);
      return !made && made.error().text().find(what) != std::string::npos;
    };
    QVERIFY(refused({0, 0, 0, 4}, "cy from -3 to 3"));
    QVERIFY(refused({0, 0, 0, -4}, "chunk 0,-4,0"));
    QVERIFY(refused({kMaxCell, 0, 0, 0}, "beyond the last chunk"));
    MaterialIndex m = 0;
    QVERIFY(!world->sampleBlocks({0, int64_t{1} << 40, 0, 1, 1, 1, 1}, &m).ok());
    std::stop_source stopped;
    stopped.request_stop();
    std::vector<MaterialIndex> room(32 * 32 * 32);
    const auto halted =
        world->sampleBlocks({0, 0, 0, 1, 32, 32, 32}, room.data(), stopped.get_token());
    QVERIFY(!halted.ok() && halted.error().code == Error::Code::Cancelled);
  }
};

ACRE_SUITE(BlocksTest)
#include "blocks_test.moc"
