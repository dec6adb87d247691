#include <QtTest>
#include <algorithm>
#include <cmath>
#include <map>
#include <random>
#include <set>
#include <thread>

#include "audit/cave_figures.h"
#include "audit/checks.h"
#include "cave/caves.h"
#include "dry.h"
#include "recipe/cave_recipe.h"
#include "recipe/json.h"
#include "recipe/validate.h"
#include "reference/evaluator.h"
#include "suite.h"
#include "world/block_value.h"
#include "world/demos.h"
#include "world/engine.h"
#include "world/world.h"

// Caves as worlds have them: dug into chunks, whatever is asked first.

using namespace acre;

namespace {

std::unique_ptr<Engine> engineWith(uint64_t memoBytes) {
  EngineOptions options;
  options.threads = 2;
  options.memoBytes = memoBytes;
  return std::move(Engine::create(options).value());
}

std::shared_ptr<const World> worldOf(const Recipe& recipe, uint64_t memoBytes = 64u << 20) {
  auto world = engineWith(memoBytes)->compile(recipe);
  if (!world) qFatal("%s", world.error().text().c_str());
  return *world;
}

NoiseSource noiseOf(double width) {
  NoiseSource noise;
  noise.width = width;
  noise.octaves = 2;
  return noise;
}

/// Hills by the sea with every kind of cave, and much of each.
Recipe riddled() {
  Recipe r;
  r.name = "Riddled";
  r.seed = "11";
  r.frame.kind = WorldKind::Voxel;
  r.frame.chunkSize = 16;
  r.frame.y = {-80, 160};
  r.materials = {{"turf", "Turf", {}, MaterialState::Solid},
      {"rock", "Rock", {}, MaterialState::Solid}, {"clay", "Clay", {}, MaterialState::Solid},
      {"crust", "Crust", {}, MaterialState::Solid}, {"water", "Water", {}, MaterialState::Liquid},
      {"pool", "Pool", {}, MaterialState::Liquid}};
  Layer hills;
  hills.id = "hills";
  hills.source = noiseOf(150);
  hills.amplitude = 40;
  hills.offset = 14;
  r.heights.layers = {hills};
  r.bands = {{"all", {}, "turf", {}}};
  r.layers = {{"top", kSurfaceId, 2, {}, 0}};
  r.rock = {0, {}, 0, {{"all", "rock", 16}}};
  r.water.material = "water";
  Caves& caves = *r.caves;
  caves.voids = {{"veins", true, {noiseOf(26), -0.12, 0.12}, NoiseBand{noiseOf(30), -0.1, 0.2},
                     {{0, 0.4}, {20, 1}}, false},
      {"halls", true, {noiseOf(50), 0.42, 2}, {}, {}, true}};
  Tunnels tunnels;
  tunnels.id = "ways";
  tunnels.spacing = 64;
  tunnels.share = 0.8;
  tunnels.depth = 12;
  tunnels.depthVary = 9;
  tunnels.step = 6;
  tunnels.side = 7;
  tunnels.up = 3;
  tunnels.length = 38;
  tunnels.arm = 25;
  tunnels.apart = 40;
  tunnels.gap = 9;
  tunnels.noise = 2.5;
  tunnels.shift = 0.7;
  tunnels.bore = 2.2;
  tunnels.boreVary = 0.3;
  tunnels.rough = 0.2;
  tunnels.mouths = 0.6;
  tunnels.mouth = 3;
  tunnels.flooded = 0.4;
  tunnels.water = "pool";
  caves.tunnels = {tunnels};
  AutomatonLayer floors{"floors", true, false, "B5678/S45678", 0.5, 3, {-30, -41}, 3};
  AutomatonLayer volume{"spongy", true, true, "B14-26/S13-26", 0.52, 2, {}, 4, -70, -48};
  caves.automata = {floors, volume};
  caves.kinds = {{"shallow", "Shallow", {}, 20, {}, {}, "clay", ""},
      {"deep", "Deep", {}, {}, {}, {}, "", "crust"}};
  return r;
}

Recipe riddledSide() {
  Recipe r = riddled();
  r.frame.kind = WorldKind::Side;
  r.caves->automata[1].edge = AutomatonLayer::Edge::Left;
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

Recipe named(const QString& name) {
  if (name == "riddled") return riddled();
  if (name == "side") return riddledSide();
  Recipe r = riddled();
  if (name == "empty edge") r.caves->automata[1].edge = AutomatonLayer::Edge::Empty;
  if (name == "overhangs") {
    r.overhang.on = true;
    r.overhang.reach = 9;
    r.overhang.amount = 12;
  }
  if (name == "swallet-edge") r = dryDemo("swallet-edge");
  return r;
}

}  // namespace

class DugTest : public QObject {
  Q_OBJECT

 private slots:
  void agreesWithTheReference_data() {
    QTest::addColumn<QString>("name");
    for (const char* name : {"riddled", "side", "empty edge", "overhangs"})
      QTest::newRow(name) << name;
  }
  void agreesWithTheReference() {
    QFETCH(QString, name);
    const Recipe recipe = named(name);
    const bool plane = recipe.frame.kind == WorldKind::Side;
    const auto world = worldOf(recipe);
    reference::Evaluator reference(recipe);
    std::mt19937_64 random(3);
    std::map<std::string, int> met;
    const std::vector<Cell> about = {
        {0, 0}, {-2'000'000'000, 1'999'999'000}, {kMaxCell - 4096, 77}};
    for (int i = 0; i < 2500; ++i) {
      const auto draw = [&](int64_t far) {
        return static_cast<int64_t>(random() % static_cast<uint64_t>(2 * far + 1)) - far;
      };
      const Cell from = about[static_cast<size_t>(i) % about.size()];
      const Cell cell{from.x + draw(90), plane ? 0 : from.z + draw(90)};
      const int64_t y =
          recipe.frame.y.min +
          static_cast<int64_t>(random() % static_cast<uint64_t>(recipe.frame.y.extent));
      const std::string expected = reference.block(cell, y);
      ++met[expected];
      const auto where = QString("%1,%2,%3: expected %4")
                             .arg(cell.x)
                             .arg(y)
                             .arg(cell.z)
                             .arg(QString::fromStdString(expected));
      const std::string alone = world->catalogue().materialId(world->blockAt(cell, y).material);
      if (alone != expected) QFAIL(qPrintable("alone " + where + " got " + alone.c_str()));
      const SampleBlock block{cell.x - 2, y - 1, plane ? 0 : cell.z - 1, 1, 5, 3, plane ? 1 : 3};
      const auto cells = blocksOf(*world, block);
      const std::string cut = world->catalogue().materialId(
          cells[static_cast<size_t>((block.length + (plane ? 0 : 1)) * 5 + 2)]);
      if (cut != expected) QFAIL(qPrintable("block " + where + " got " + cut.c_str()));
      if (i % 4 != 0) continue;
      MaterialIndex column[3];
      QVERIFY(world->sampleColumns(1, &cell, {y - 1, 3, 1}, column).ok());
      if (world->catalogue().materialId(column[1]) != expected)
        QFAIL(qPrintable("column " + where));
      const reference::CellValue above = reference.evaluate(cell);
      if (world->catalogue().materialId(world->at(cell).material) != above.material)
        QFAIL(qPrintable(QString("from above %1,%2").arg(cell.x).arg(cell.z)));
    }
    for (const char* id : {"open", "rock", "clay", "crust", "pool"}) QVERIFY2(met.contains(id), id);
  }

  void chunksAreCutsOfAnyBlock_data() {
    QTest::addColumn<QString>("name");
    for (const char* name : {"riddled", "side", "swallet-edge"}) QTest::newRow(name) << name;
  }
  void chunksAreCutsOfAnyBlock() {
    // One large block, against chunks asked for in another order by worlds with and without memo.
    QFETCH(QString, name);
    const Recipe recipe = named(name);
    const bool plane = recipe.frame.kind == WorldKind::Side;
    const auto whole = worldOf(recipe);
    const SampleBlock block{-48, -64, plane ? 0 : -48, 1, 96, 96, plane ? 1 : 96};
    const auto cells = blocksOf(*whole, block);
    for (const uint64_t memo : {uint64_t{0}, uint64_t{64} << 20}) {
      const auto world = worldOf(recipe, memo);
      std::vector<ChunkPos> places;
      const ChunkLayout& layout = world->layout();
      const int32_t n = layout.size();
      for (int64_t cy = floorDiv(-64, n); cy <= floorDiv(31, n); ++cy)
        for (int64_t cz = plane ? 0 : floorDiv(-48, n); cz <= (plane ? 0 : floorDiv(47, n)); ++cz)
          for (int64_t cx = floorDiv(-48, n); cx <= floorDiv(47, n); ++cx)
            places.push_back({cx, cz, 0, cy});
      std::mt19937_64 random(memo + 1);
      std::shuffle(places.begin(), places.end(), random);
      if (memo == 0) places.resize(std::min<size_t>(places.size(), 24));
      std::atomic<size_t> next = 0;
      std::atomic<int> wrong = 0;
      const auto work = [&] {
        for (size_t k = next++; k < places.size(); k = next++) {
          const auto chunk = world->chunk(places[k]).value();
          for (int64_t y = 0; y < chunk->tall; ++y)
            for (int64_t z = 0; z < chunk->length; ++z)
              for (int64_t x = 0; x < chunk->width; ++x) {
                const int64_t i = chunk->rect.x + x - block.x, j = chunk->y + y - block.y,
                              l = chunk->rect.z + z - block.z;
                if (i < 0 || i >= block.width || j < 0 || j >= block.height || l < 0 ||
                    l >= block.length)
                  continue;
                wrong += chunk->materials[static_cast<size_t>(
                             (y * chunk->length + z) * chunk->width + x)] !=
                         cells[static_cast<size_t>((j * block.length + l) * block.width + i)];
              }
        }
      };
      std::jthread other(work);
      work();
      other.join();
      QCOMPARE(wrong.load(), 0);
    }
  }

  void coarserLevelsAreSamples() {
    const auto world = worldOf(riddled());
    const SampleBlock fine{-40, -60, 16, 1, 96, 96, 96};
    const auto cells = blocksOf(*world, fine);
    for (const int32_t step : {2, 4}) {
      const SampleBlock coarse{-40, -60, 16, step, 96 / step, 96 / step, 96 / step};
      const auto samples = blocksOf(*world, coarse);
      for (int32_t j = 0; j < coarse.height; ++j)
        for (int32_t k = 0; k < coarse.length; ++k)
          for (int32_t i = 0; i < coarse.width; ++i)
            QCOMPARE(samples[static_cast<size_t>((j * coarse.length + k) * coarse.width + i)],
                cells[static_cast<size_t>((j * step * 96 + k * step) * 96 + i * step)]);
    }
    QVERIFY(world->approximations(4).empty());
    QCOMPARE(world->approximations(8).back(), std::string("caves"));
    // Beyond that they are left out.
    Recipe bare = riddled();
    bare.caves->on = false;
    const SampleBlock far{-400, -64, 0, 8, 40, 16, 40};
    QVERIFY(blocksOf(*world, far) == blocksOf(*worldOf(bare), far));
  }

  void everyInstructionSetGivesTheSame() {
    const SampleBlock block{100, -70, -20, 1, 50, 100, 40};
    std::vector<MaterialIndex> first;
    for (const Kernels* kernels : availableKernels()) {
      EngineOptions options;
      options.simd = kernels->name;
      const auto engine = std::move(Engine::create(options).value());
      const auto cells = blocksOf(*engine->compile(riddled()).value(), block);
      if (first.empty()) first = cells;
      QVERIFY2(cells == first, kernels->name);
    }
  }

  void pathsAreTheReferences_data() {
    QTest::addColumn<int>("arms");
    QTest::addColumn<int>("independent");
    QTest::newRow("one of each") << 1 << 1;
    QTest::newRow("no arm, two independent") << 0 << 2;
    QTest::newRow("eight arms, three independent") << 8 << 3;
  }
  void pathsAreTheReferences() {
    // The whole way of main passage, arms and independent passages, system by system.
    QFETCH(int, arms);
    QFETCH(int, independent);
    Recipe recipe = riddled();
    Tunnels& tunnels = recipe.caves->tunnels[0];
    tunnels.up = 1;
    tunnels.arms = arms;
    tunnels.independent = independent;
    tunnels.gap = arms > 1 ? 3 : tunnels.gap;
    const int wanted = arms == 1 && independent == 1 ? 1000 : 250;
    const auto world = worldOf(recipe);
    reference::Evaluator reference(recipe);
    const TunnelStage& stage = *world->caves()->tunnels().front().stage;
    int systems = 0;
    std::map<PassageKind, int> most, all;
    for (int64_t i = 0; systems < wanted; ++i) {
      const int64_t x = i * 7919 - 30'000'000, z = 40'000 - i;
      const auto system = stage.system(x, z);
      const auto expected = reference.passages(tunnels, x, z);
      QCOMPARE(system == nullptr, expected.empty());
      if (!system) continue;
      ++systems;
      std::vector<std::vector<int>> found;
      std::map<PassageKind, int> here;
      for (const Passage& passage : system->passages) {
        ++all[passage.kind];
        most[passage.kind] = std::max(most[passage.kind], ++here[passage.kind]);
        if (passage.kind != PassageKind::Shaft)
          found.emplace_back(passage.lattice.begin(), passage.lattice.end());
      }
      QVERIFY(found == expected);
    }
    QCOMPARE(all[PassageKind::Main], wanted);
    QCOMPARE(most[PassageKind::Arm], arms);
    QCOMPARE(most[PassageKind::Own], independent);
    if (arms == 1) QVERIFY(all[PassageKind::Arm] > 900);
  }

  void mouthsReachOpenAir_data() {
    QTest::addColumn<QString>("name");
    for (const char* name : {"riddled", "overhangs", "side", "swallet-edge"})
      QTest::newRow(name) << name;
  }
  void mouthsReachOpenAir() {
    // From the site of every system with a mouth one gets up into the open sky.
    QFETCH(QString, name);
    const auto world = worldOf(named(name));
    const TunnelStage& stage = *world->caves()->tunnels().front().stage;
    const AxisBounds range = world->vertical();
    const bool plane = world->layout().vertical().plane;
    int mouths = 0, closed = 0;
    for (int64_t j = plane ? 0 : -9; j < (plane ? 1 : 9); ++j)
      for (int64_t i = plane ? -40 : -9; i < (plane ? 40 : 9); ++i) {
        const auto system = stage.system(i, j);
        if (!system) continue;
        closed += !system->mouth;
        if (!system->mouth) continue;
        ++mouths;
        const Cell cell{system->x, system->z};
        const auto count = static_cast<int32_t>(range.min + range.extent - system->y);
        std::vector<MaterialIndex> column(static_cast<size_t>(count));
        QVERIFY(world->sampleColumns(1, &cell, {system->y, count, 1}, column.data()).ok());
        for (const MaterialIndex cellHere : column)
          if (world->caves()->isGround(cellHere) &&
              world->catalogue().materialId(cellHere) != "pool")
            QFAIL(qPrintable(QString("closed at %1,%2").arg(cell.x).arg(cell.z)));
        // The map shows the bottom of the shaft, not the turf that is gone.
        QVERIFY(world->at(cell).material != kOpen);
        QVERIFY(world->catalogue().materialId(world->at(cell).material) != "turf");
      }
    QVERIFY(mouths > 8);
    QVERIFY(closed > 4);
  }

  void cavesKeepOffTheSea() {
    for (const char* name : {"riddled", "overhangs"}) {
      Recipe recipe = named(name);
      recipe.caves->voids[1].underSea = false;
      Recipe bare = recipe;
      bare.caves->on = false;
      const auto world = worldOf(recipe), before = worldOf(bare);
      const MaterialIndex sea = 5;
      int64_t beside = 0, dug = 0;
      for (int64_t x = -300; x < 300; x += 60) {
        const SampleBlock block{x, -60, -200, 1, 60, 62, 120};
        const auto cells = blocksOf(*world, block), old = blocksOf(*before, block);
        const ptrdiff_t row = 60, slab = row * 120;
        for (ptrdiff_t j = 1; j < 61; ++j)
          for (ptrdiff_t k = 1; k < 119; ++k)
            for (ptrdiff_t i = 1; i < 59; ++i) {
              const ptrdiff_t at = j * slab + k * row + i;
              const auto n = static_cast<size_t>(at);
              if (!(world->caves()->isGround(old[n]) &&
                      (cells[n] == kOpen || world->catalogue().materialId(cells[n]) == "pool")))
                continue;
              ++dug;
              for (const ptrdiff_t away : {ptrdiff_t{1}, ptrdiff_t{-1}, row, -row, slab, -slab})
                beside += old[static_cast<size_t>(at + away)] == sea;
            }
      }
      QVERIFY(dug > 10'000);
      QCOMPARE(beside, 0);
    }
    // Where a void may lie under the sea, it does open the bed.
    Recipe open = riddled();
    open.caves->tunnels.clear();
    open.caves->automata.clear();
    open.caves->voids = {open.caves->voids[1]};
    open.caves->voids[0].curve.clear();
    const auto world = worldOf(open);
    int bed = 0;
    for (int64_t x = -300; x < 300; ++x)
      for (int64_t z = -100; z < 100; z += 7) {
        const auto y = static_cast<int64_t>(std::floor(world->columns().heightAt({x, z}))) - 1;
        bed += y < 0 && world->blockAt({x, z}, y).material == kOpen;
      }
    QVERIFY(bed > 0);
  }

  void passagesKeepApartButWhereTheArmLeaves() {
    const auto world = worldOf(dryDemo("swallet-edge"));
    const Tunnels& tunnels = world->recipe().caves->tunnels[0];
    const TunnelStage& stage = *world->caves()->tunnels().front().stage;
    const auto gap = static_cast<float>(tunnels.gap);
    int owns = 0, arms = 0;
    for (int64_t j = -8; j < 8; ++j)
      for (int64_t i = -8; i < 8; ++i) {
        const auto system = stage.system(i, j);
        if (!system) continue;
        const auto apart = [](const BorePoint& a, const BorePoint& b) {
          const float x = a.x - b.x, y = a.y - b.y, z = a.z - b.z;
          return std::sqrt(x * x + y * y + z * z);
        };
        for (const Passage& p : system->passages)
          for (const BorePoint& point : p.points) {
            const float far = point.radius * (1.0f + static_cast<float>(tunnels.rough));
            QVERIFY(std::abs(point.x) + far <= static_cast<float>(stage.reach()));
            QVERIFY(std::abs(point.z) + far <= static_cast<float>(stage.reach()));
            if (p.kind == PassageKind::Shaft) continue;
            // Rock stays above it.
            const float surface =
                world->columns().heightAt({system->x + static_cast<int64_t>(std::floor(point.x)),
                    system->z + static_cast<int64_t>(std::floor(point.z))});
            QVERIFY(static_cast<float>(system->y) + point.y + point.radius < surface);
          }
        const auto& passages = system->passages;
        QCOMPARE(passages.front().kind, PassageKind::Main);
        for (const Passage& p : passages) {
          owns += p.kind == PassageKind::Own;
          arms += p.kind == PassageKind::Arm;
          for (const Passage& other : passages) {
            if (p.kind == PassageKind::Shaft || other.kind == PassageKind::Shaft || &p == &other)
              continue;
            for (const BorePoint& a : p.points)
              for (const BorePoint& b : other.points) {
                const bool junction = p.kind != PassageKind::Own && other.kind != PassageKind::Own;
                const BorePoint& leaves = passages[1].points.front();
                if (junction && (apart(a, leaves) < gap || apart(b, leaves) < gap)) continue;
                QVERIFY(apart(a, b) >= gap);
              }
          }
        }
      }
    QVERIFY(owns > 20);
    QVERIFY(arms > 20);
  }

  void openingsOfWorldsOfColumns() {
    Recipe recipe = dryDemo("saltfen-reach");
    recipe.caves = riddled().caves;
    recipe.caves->voids.clear();
    recipe.caves->automata.clear();
    recipe.caves->kinds.clear();
    recipe.caves->tunnels[0].water.clear();
    recipe.caves->opening = recipe.materials[0].id;
    recipe.caves->tunnels[0].mouths = 1;
    recipe.caves->tunnels[0].mouth = 4;
    const auto world = worldOf(recipe);
    reference::Evaluator reference(recipe);
    const SampleGrid grid{-200, -200, 1, 400, 400};
    std::vector<float> heights(160'000);
    std::vector<MaterialIndex> materials(160'000);
    QVERIFY(world->sample(grid, heights.data(), materials.data()).ok());
    const TunnelStage& stage = *world->caves()->tunnels().front().stage;
    int openings = 0;
    for (int64_t j = -3; j < 3; ++j)
      for (int64_t i = -3; i < 3; ++i) {
        const auto system = stage.system(i, j);
        if (!system || !system->mouth) continue;
        const int64_t apart = suite::sized(3, 1);
        for (int64_t z = system->z - 6; z <= system->z + 6; ++z)
          for (int64_t x = system->x - 6 + floorMod(z, apart); x <= system->x + 6; x += apart) {
            if (x < -200 || z < -200 || x >= 200 || z >= 200) continue;
            const std::string expected = reference.evaluate({x, z}).material;
            const MaterialIndex found = materials[static_cast<size_t>((z + 200) * 400 + x + 200)];
            QCOMPARE(world->catalogue().materialId(found), expected);
            QCOMPARE(world->catalogue().materialId(world->at({x, z}).material), expected);
          }
        openings += world->at({system->x, system->z}).material == 1;
      }
    QVERIFY(openings > 3);
  }

  /// Each mistake is found where it is made, and its mend, where it has one, takes it away.
  void mistakesAreFoundAndMended_data() {
    QTest::addColumn<QString>("id");
    for (const char* id : {"straight-tunnels", "round-tunnels", "closed-tunnels", "no-systems",
             "hollow", "never-open", "none"})
      QTest::newRow(id) << id;
  }
  void mistakesAreFoundAndMended() {
    QFETCH(QString, id);
    Recipe recipe = dryDemo("swallet-edge");
    Tunnels& tunnels = recipe.caves->tunnels[0];
    if (id == "straight-tunnels") tunnels.noise = tunnels.shift = 0;
    if (id == "round-tunnels") tunnels.rough = tunnels.boreVary = 0;
    if (id == "closed-tunnels") tunnels.mouths = 0;
    if (id == "no-systems") tunnels.depth = tunnels.depthVary = 0;
    NoiseVoid& part = recipe.caves->voids[0];
    part.second.reset();
    if (id == "hollow") part.first.low = -2, part.first.high = 2;
    if (id == "never-open") part.first.low = 3, part.first.high = 4;
    if (id == "none") part = dryDemo("swallet-edge").caves->voids[0];
    const auto engine = engineWith(64u << 20);
    const auto found = [&](const Recipe& r) {
      std::map<std::string, Check> out;
      const auto world = engine->compile(r).value();
      auto all = runChecks(*engine, *world);
      for (Check& check : *all)
        if (check.stage == StageId::Caves) out[check.id] = std::move(check);
      return out;
    };
    const auto checks = found(recipe);
    if (id == "none") {
      QVERIFY(checks.empty());
      return;
    }
    QVERIFY2(checks.contains(id.toStdString()), qPrintable(id));
    const Check& check = checks.at(id.toStdString());
    QVERIFY(check.pointer.starts_with("/caves/"));
    QVERIFY(!check.sentence.empty());
    QCOMPARE(check.apply == nullptr, check.mend.empty());
    if (!check.apply) return;
    // The recipe may have come on: what is mended goes by its id, and may be gone.
    Recipe later = recipe;
    later.caves->tunnels[0].id = "another";
    const Recipe before = later;
    if (check.pointer.starts_with("/caves/tunnels/")) {
      check.apply(later);
      QVERIFY(later == before);
      later.caves->tunnels.clear();
      check.apply(later);
    }
    check.apply(recipe);
    QVERIFY(validate(recipe).ok());
    QVERIFY(!found(recipe).contains(id.toStdString()));
  }

  /// What the figures say is what the blocks hold.
  void figuresCountWhatIsDug() {
    Recipe recipe = riddled();
    recipe.caves->voids.clear();
    recipe.caves->automata.clear();
    recipe.caves->kinds.clear();
    recipe.caves->tunnels[0].spacing = 200;  // So far apart that none meets another.
    Recipe bare = recipe;
    bare.caves->on = false;
    const auto world = worldOf(recipe), before = worldOf(bare);
    const auto systems = findSystems(*world, {0, 0}, 500).value();
    QVERIFY(systems.size() > 5);
    int alone = 0;
    for (size_t k = 0; k < systems.size(); ++k) {
      const TunnelSystem& s = *systems[k].system;
      const bool meets = std::any_of(systems.begin(), systems.end(), [&](const FoundSystem& other) {
        const TunnelSystem& o = *other.system;
        return &o != &s && o.low[0] <= s.high[0] && s.low[0] <= o.high[0] &&
               o.low[2] <= s.high[2] && s.low[2] <= o.high[2];
      });
      if (meets || systems[k].distance > 350) continue;
      ++alone;
      const SampleBlock box{s.low[0], s.low[1], s.low[2], 1,
          static_cast<int32_t>(s.high[0] - s.low[0] + 1),
          static_cast<int32_t>(s.high[1] - s.low[1] + 1),
          static_cast<int32_t>(s.high[2] - s.low[2] + 1)};
      const auto now = blocksOf(*world, box), old = blocksOf(*before, box);
      uint64_t dug = 0, flooded = 0;
      for (size_t n = 0; n < now.size(); ++n) {
        const bool gone = world->caves()->isGround(old[n]) && now[n] != old[n];
        dug += gone;
        flooded += gone && now[n] != kOpen;
      }
      const SystemFigures f = figuresOf(*world, systems[k]);
      QCOMPARE(f.volume, dug);
      QCOMPARE(f.flooded, flooded);
      QCOMPARE(f.mouths > 0, s.mouth);
      double length = 0;
      for (const PassageFigures& p : f.passages) {
        QVERIFY(p.straightness > 0 && p.straightness <= 1.0001);
        QVERIFY(p.roundness > 0 && p.roundness <= 1);
        length += p.kind == PassageKind::Shaft ? 0 : p.length;
      }
      QVERIFY(std::abs(length - f.length) < 1e-6);
      // By the points of the centre lines themselves.
      double walked = 0;
      for (const Passage& p : s.passages)
        for (size_t n = 1; n < p.points.size() && p.kind != PassageKind::Shaft; ++n)
          walked += std::hypot(double{p.points[n].x} - double{p.points[n - 1].x},
              double{p.points[n].y} - double{p.points[n - 1].y},
              double{p.points[n].z} - double{p.points[n - 1].z});
      QVERIFY2(std::abs(walked - f.length) < 0.01 * walked,
          qPrintable(QString("%1, %2").arg(walked).arg(f.length)));
    }
    QVERIFY(alone > 1);
  }

  void recipesComeBackAsTheyWere() {
    const Recipe recipe = riddled();
    const auto again = recipeFromJson(recipeToJson(recipe));
    QVERIFY2(again.ok(), again.ok() ? "" : again.error().text().c_str());
    QVERIFY(*again == recipe);
    Recipe other = recipe;
    other.caves->tunnels[0].noise += 1;
    QVERIFY(recipeId(other) != recipeId(recipe));
  }

  void partsKeepTheirCellsWhateverElseThereIs() {
    // A part more, or another order, moves no draw of the others.
    Recipe recipe = riddled();
    recipe.caves->kinds.clear();
    recipe.caves->tunnels[0].water.clear();
    const SampleBlock block{0, -70, 0, 1, 64, 90, 64};
    const auto both = blocksOf(*worldOf(recipe), block);
    std::swap(recipe.caves->voids[0], recipe.caves->voids[1]);
    std::swap(recipe.caves->automata[0], recipe.caves->automata[1]);
    QVERIFY(blocksOf(*worldOf(recipe), block) == both);
    Tunnels more = recipe.caves->tunnels[0];
    more.id = "more";
    recipe.caves->tunnels.push_back(more);
    const auto dug = blocksOf(*worldOf(recipe), block);
    for (size_t k = 0; k < both.size(); ++k)
      if (both[k] == kOpen) QCOMPARE(dug[k], kOpen);
    QVERIFY(dug != both);
  }

  void badCavesAreRefusedInWords_data() {
    QTest::addColumn<QString>("pointer");
    QTest::addColumn<QString>("accepted");
    const auto row = [](const char* pointer, const char* accepted) {
      QTest::newRow(pointer) << pointer << accepted;
    };
    row("/caves/automata/0/fill", "0 to 1");
    row("/caves/automata/0/steps", "0 to 31");
    row("/caves/automata/0/rule", "digits");
    row("/caves/automata/1/rule", "without B0");
    row("/caves/automata/1/top", "1 to");
    row("/caves/tunnels/0/length", "0 to 42");
    row("/caves/tunnels/0/spacing", "at least");
    row("/caves/tunnels/0/side", "4096");
    row("/caves/tunnels/0/bore", "at least 0.9");
    row("/caves/tunnels/0/water", "material");
    row("/caves/voids/0/high", "more than low");
    row("/caves/voids/1/id", "of its own");
    row("/caves/kinds/0/to", "more than from");
    row("/caves/kinds/1/wetFrom", "Climate");
    row("/caves/kinds/1/wall", "material");
    row("/caves/seaCover", "1 to 64");
  }
  void badCavesAreRefusedInWords() {
    QFETCH(QString, pointer);
    QFETCH(QString, accepted);
    Recipe r = riddled();
    Caves& c = *r.caves;
    const std::map<QString, std::function<void()>> spoil = {
        {"/caves/automata/0/fill", [&] { c.automata[0].fill = 1.5; }},
        {"/caves/automata/0/steps", [&] { c.automata[0].steps = 1'000'000; }},
        {"/caves/automata/0/rule", [&] { c.automata[0].rule = "B/S"; }},
        {"/caves/automata/1/rule", [&] { c.automata[1].rule = "B0-3/S4"; }},
        {"/caves/automata/1/top", [&] { c.automata[1].top = c.automata[1].bottom; }},
        {"/caves/tunnels/0/length", [&] { c.tunnels[0].length = 43; }},
        {"/caves/tunnels/0/spacing", [&] { c.tunnels[0].spacing = 20; }},
        {"/caves/tunnels/0/side", [&] { c.tunnels[0].side = 31; }},
        {"/caves/tunnels/0/bore", [&] { c.tunnels[0].boreVary = 0.8; }},
        {"/caves/tunnels/0/water", [&] { c.tunnels[0].water = "wine"; }},
        {"/caves/voids/0/high", [&] { c.voids[0].first.high = -1; }},
        {"/caves/voids/1/id", [&] { c.voids[1].id = "veins"; }},
        {"/caves/kinds/0/to", [&] { c.kinds[0].from = 30; }},
        {"/caves/kinds/1/wetFrom", [&] { c.kinds[1].wetFrom = 0; }},
        {"/caves/kinds/1/wall", [&] { c.kinds[1].wall = "gold"; }},
        {"/caves/seaCover", [&] { c.seaCover = 0; }}};
    QVERIFY(validate(r).ok());
    spoil.at(pointer)();
    const Status status = validate(r);
    QVERIFY(!status.ok());
    QCOMPARE(QString::fromStdString(status.error().where), pointer);
    QVERIFY2(QString::fromStdString(status.error().accepted).contains(accepted),
        status.error().text().c_str());
    if (pointer.endsWith("/steps")) {  // And in the file, where a whole number is read.
      std::string text = recipeToJson(riddled());
      const size_t at = text.find("\"steps\": 3");
      QVERIFY(at != std::string::npos);
      text.replace(at, 10, "\"steps\": 1000000");
      const auto read = recipeFromJson(text);
      QVERIFY(!read.ok());
      QCOMPARE(read.error().where, std::string("/caves/automata/0/steps"));
    }
    Recipe columns = dryDemo("saltfen-reach");
    columns.caves->voids = riddled().caves->voids;
    QCOMPARE(validate(columns).error().where, std::string("/caves/voids"));
  }
};

ACRE_SUITE(DugTest)
#include "dug_test.moc"
