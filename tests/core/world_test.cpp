#include <malloc.h>

#include <QtTest>
#include <algorithm>
#include <fstream>
#include <random>
#include <set>
#include <thread>

#include "audit/area_census.h"
#include "base/seed.h"
#include "climate/biomes.h"
#include "dry.h"
#include "field/distribution.h"
#include "output/map_writer.h"
#include "reference/evaluator.h"
#include "strata/bands.h"
#include "suite.h"
#include "world/demos.h"
#include "world/engine.h"
#include "world/fingerprint.h"
#include "world/world.h"

using namespace acre;

namespace {

Recipe demo(const std::string& name = "saltfen-reach") {
  return dryDemo(name);
}

std::shared_ptr<const World> worldOf(const Recipe& recipe, const std::string& simd = {}) {
  EngineOptions options;
  options.simd = simd;
  auto engine = Engine::create(options);
  return (*engine)->compile(recipe).value();
}

/// The demo with gaps, sea-bound and absolute ends, a product and a placed layer.
Recipe patchy() {
  Recipe r = demo();
  r.frame.seaLevel = 2.5;
  r.bands[2].material = kUnassignedId;
  r.bands[5].below = Threshold{14, false, {}};
  Layer product = r.heights.layers[1];
  product.id = "product";
  product.combine = Combine::Multiply;
  product.amplitude = 0.3;
  product.offset = 1;
  product.sampling = SamplingOffset{0.25, -1000.7};
  r.heights.layers.push_back(product);
  Layer lift;
  lift.id = "lift";
  lift.source = ConstantSource{-1.5};
  r.heights.layers.push_back(lift);
  lift.id = "off";
  lift.on = false;
  lift.combine = Combine::Multiply;
  r.heights.layers.push_back(lift);
  return r;
}

std::optional<Distribution> sampleOf(const World& world, const std::stop_token& stop = {}) {
  const Field& field = world.heightField();
  const Frame& frame = world.recipe().frame;
  return Distribution::take(field,
      SampleSites(frame.x, frame.z, field.widestFeature(), world.seed()), world.kernels(), stop);
}

}  // namespace

class WorldTest : public QObject {
  Q_OBJECT

 private slots:
  void agreesWithTheReference_data() {
    QTest::addColumn<QString>("name");
    for (const Demo& d : demos()) QTest::newRow(d.name.c_str()) << QString::fromStdString(d.name);
    QTest::newRow("patchy") << "patchy";
  }
  /// 1,200 cells (in full 10,000), near, negative and far, by point query and by row, against the
  /// second evaluator.
  void agreesWithTheReference() {
    QFETCH(QString, name);
    const Recipe recipe = name == "patchy" ? patchy() : demo(name.toStdString());
    const auto world = worldOf(recipe);
    reference::Evaluator reference(recipe);
    std::mt19937_64 random(11);
    int outside = 0;
    const int cells = suite::sized(1'200, 10'000);
    for (int i = 0; i < cells; ++i) {
      const int64_t reach = i % 4 == 0 ? 2'000'000'000 : i % 4 == 1 ? kMaxCell - 64 : 5000;
      const auto coordinate = [&] {
        return static_cast<int64_t>(random() % static_cast<uint64_t>(2 * reach + 1)) - reach;
      };
      const bool plane = recipe.frame.kind == WorldKind::Side;
      const int64_t x = coordinate();
      Cell cell{x, plane ? 0 : coordinate()};
      if (recipe.frame.kind == WorldKind::Level) {  // Nothing of it is far away.
        const Rect floor = boundsOf(recipe.frame);
        cell = {floor.x + floorMod(cell.x, floor.width), floor.z + floorMod(cell.z, floor.length)};
      }
      const reference::CellValue expected = reference.evaluate(cell);
      const CellValue value = world->at(cell);
      if (value.height != expected.height ||
          world->catalogue().materialId(value.material) != expected.material)
        QFAIL(qPrintable(QString("%1,%2").arg(cell.x).arg(cell.z)));
      float height[3];
      MaterialIndex material[3];
      QVERIFY(world->sample({cell.x - 1, cell.z, 1, 3, 1}, height, material).ok());
      if (height[1] != expected.height ||
          world->catalogue().materialId(material[1]) != expected.material)
        QFAIL(qPrintable(QString("row at %1,%2").arg(cell.x).arg(cell.z)));
      outside += expected.material == "outside";
    }
    QCOMPARE(outside, 0);
  }

  void chunksAreCutsOfAnyRectangle_data() {
    QTest::addColumn<int>("size");
    for (const int size : {1, 7, 16, 32, 100, 300}) QTest::addRow("%d", size) << size;
  }
  void chunksAreCutsOfAnyRectangle() {
    QFETCH(int, size);
    Recipe recipe = patchy();
    recipe.frame.chunkSize = size;
    const auto world = worldOf(recipe);
    for (const Cell corner : {Cell{-70, -40}, Cell{2'000'000'000, -2'000'000'000}}) {
      const SampleGrid grid{corner.x, corner.z, 1, 400, 90};
      std::vector<float> heights(400 * 90);
      std::vector<MaterialIndex> materials(400 * 90);
      QVERIFY(world->sample(grid, heights.data(), materials.data()).ok());
      std::map<ChunkPos, std::shared_ptr<const Chunk>> chunks;
      for (int32_t j = 0; j < grid.length; ++j)
        for (int32_t i = 0; i < grid.width; ++i) {
          const Cell cell{grid.x + i, grid.z + j};
          const ChunkPos pos = world->layout().chunkOf(cell);
          auto& chunk = chunks[pos];
          if (!chunk) chunk = world->chunk(pos).value();
          const auto index =
              static_cast<size_t>(world->layout().indexOf(world->layout().localOf(cell)));
          const auto at = static_cast<size_t>(j * grid.width + i);
          if (chunk->heights[index] != heights[at] || chunk->materials[index] != materials[at])
            QFAIL(qPrintable(QString("%1,%2").arg(cell.x).arg(cell.z)));
        }
    }
  }

  /// A step only leaves cells out: level by level the same cells have the same values.
  void coarseSamplesAreTheSameCells() {
    const auto world = worldOf(patchy());
    for (const int64_t step : {2, 3, 8, 64, 1000, 65536}) {
      const SampleGrid grid{-5 * step, 1'000'003, step, 37, 11};
      std::vector<float> heights(37 * 11);
      std::vector<MaterialIndex> materials(37 * 11);
      QVERIFY(world->sample(grid, heights.data(), materials.data()).ok());
      for (int32_t j = 0; j < grid.length; ++j)
        for (int32_t i = 0; i < grid.width; ++i) {
          const CellValue value = world->at({grid.x + i * step, grid.z + j * step});
          QCOMPARE(heights[static_cast<size_t>(j * 37 + i)], value.height);
          QCOMPARE(materials[static_cast<size_t>(j * 37 + i)], value.material);
        }
    }
  }

  void everyThreadCountOrderAndTableGivesTheSameHashes() {
    const Recipe recipe = patchy();
    const auto world = worldOf(recipe);
    std::vector<ChunkPos> places;
    for (int64_t z = -4; z < 4; ++z)
      for (int64_t x = -4; x < 4; ++x) places.push_back({x + (z & 1 ? 62'500'000 : 0), z});
    std::map<ChunkPos, Digest> expected;
    for (const ChunkPos& p : places) expected[p] = chunkHash(*world, **world->chunk(p));
    std::mt19937 random(5);
    for (const Kernels* table : availableKernels())
      for (const unsigned threads : {1u, 2u, 4u, 8u}) {
        std::shuffle(places.begin(), places.end(), random);
        const auto other = worldOf(recipe, table->name);
        std::vector<Digest> hashes(places.size());
        std::atomic<size_t> next{0};
        std::vector<std::jthread> workers;
        for (unsigned t = 0; t < threads; ++t)
          workers.emplace_back([&] {
            for (size_t i = next++; i < places.size(); i = next++)
              hashes[i] = chunkHash(*other, **other->chunk(places[i]));
          });
        workers.clear();
        for (size_t i = 0; i < places.size(); ++i) QCOMPARE(hashes[i], expected[places[i]]);
      }
  }

  void boundsOnlyCrop() {
    Recipe small = patchy(), large = small;
    small.frame.x = small.frame.z = AxisBounds{0, 128};
    large.frame.x = large.frame.z = AxisBounds{-192, 512};
    const auto a = worldOf(small), b = worldOf(large), endless = worldOf(patchy());
    QCOMPARE(areaHash(*a, {0, 0, 128, 128}).value(), areaHash(*b, {0, 0, 128, 128}).value());
    QCOMPARE(areaHash(*a, {0, 0, 128, 128}).value(), areaHash(*endless, {0, 0, 128, 128}).value());
    QVERIFY(areaHash(*a, {0, 0, 129, 128}).value() != areaHash(*b, {0, 0, 129, 128}).value());
    QCOMPARE(worldFingerprint(*a), worldFingerprint(*b));
    QCOMPARE(a->at({128, 0}).material, kOutside);
    QVERIFY(a->at({127, 127}).material != kOutside);
  }

  void rimChunksArePartial() {
    Recipe recipe = demo();
    recipe.frame.chunkSize = 16;
    recipe.frame.x = recipe.frame.z = AxisBounds{0, 100};
    const auto world = worldOf(recipe);
    int chunks = 0;
    int64_t cells = 0;
    for (int64_t z = -1; z < 9; ++z)
      for (int64_t x = -1; x < 9; ++x)
        if (const auto chunk = world->chunk({x, z}); chunk.ok()) {
          ++chunks;
          cells += (*chunk)->rect.width * (*chunk)->rect.length;
          QCOMPARE(static_cast<int64_t>((*chunk)->heights.size()),
              (*chunk)->rect.width * (*chunk)->rect.length);
        }
    QCOMPARE(chunks, 49);
    QCOMPARE(cells, int64_t{10000});
  }

  void chunkErrorsNameChunkStageAndSeed() {
    const auto world = worldOf(demo());
    const auto far = world->chunk({kMaxCell, 0});
    QVERIFY(!far.ok());
    QVERIFY(far.error().where.find("heather-41") != std::string::npos);
    QVERIFY(far.error().where.find("stage heights") != std::string::npos);
    QVERIFY(far.error().where.find(std::to_string(kMaxCell)) != std::string::npos);
    std::stop_source stop;
    stop.request_stop();
    QCOMPARE(static_cast<int>(world->chunk({0, 0}, stop.get_token()).error().code),
        static_cast<int>(Error::Code::Cancelled));
  }

  void gridsBeyondTheWorldAreRefused() {
    const auto world = worldOf(demo());
    float height[4];
    QVERIFY(!world->sample({kMaxCell, 0, 1, 2, 2}, height, nullptr).ok());
    QVERIFY(!world->sample({0, 0, 0, 2, 2}, height, nullptr).ok());
    QVERIFY(!world->sample({0, 0, INT64_MAX, 2, 2}, height, nullptr).ok());
    QVERIFY(!world->sample({INT64_MIN, 0, 1, 2, 2}, height, nullptr).ok());
    QVERIFY(world->sample({-kMaxCell, kMaxCell - 4, 1, 2, 2}, height, nullptr).ok());
  }

  void bandsAreHalfOpenAndCoverEverything() {
    Recipe recipe = demo();
    recipe.materials = {{"a", "A", {}, {}}, {"b", "B", {}, {}}, {"c", "C", {}, {}}};
    recipe.bands = {{"1", Threshold{-2, true, {}}, "a", {}},
        {"2", Threshold{9, false, {}}, "b", {}}, {"3", {}, "c", {}}};
    const auto compile = [&](double sea) {
      const std::vector<SlopeBand> none;
      return BandTable::compile({recipe.materials, none, recipe.bands, true, 1, sea, nullptr});
    };
    const auto bandOf = [](const BandTable& bands, float h) {
      return bands.decide({0, 0}, h, 0).band;
    };
    const auto bands = compile(10);
    QCOMPARE(bandOf(*bands, std::nextafter(8.0f, 0.0f)), 0);
    QCOMPARE(bandOf(*bands, 8.0f), 1);  // The end belongs to the upper band.
    QCOMPARE(bandOf(*bands, 9.0f), 2);
    QCOMPARE(bandOf(*bands, -1e9f), 0);
    QCOMPARE(bandOf(*bands, 1e9f), 2);
    // The sea rises past the absolute end: the second band is empty, none is reversed.
    const auto drowned = compile(20);
    QCOMPARE(bandOf(*drowned, 17.9f), 0);
    QCOMPARE(bandOf(*drowned, 18.0f), 2);
    recipe.bands.clear();
    QCOMPARE(compile(20)->decide({0, 0}, 3, 0).material, kUnassigned);
  }

  void engineReusesUnchangedStages() {
    auto engine = Engine::create({});
    Recipe recipe = demo();
    const auto first = (*engine)->compile(recipe).value();
    recipe.frame.seaLevel = 4;
    const auto second = (*engine)->compile(recipe).value();
    QCOMPARE(&first->heightField(), &second->heightField());
    QVERIFY(&first->bands() != &second->bands());
    recipe.frame.chunkSize = 64;  // No stage knows the chunk size.
    recipe.name = "Other";
    const auto figures = (*engine)->poolFigures();
    QVERIFY((*engine)->compile(recipe).ok());
    QCOMPARE((*engine)->poolFigures().compiled, figures.compiled);
    recipe.heights.layers.clear();
    const auto flat = (*engine)->compile(recipe).value();
    QCOMPARE(flat->at({5, 5}).height, 0.0f);
    recipe.bands.back().below = Threshold{};
    QVERIFY(!(*engine)->compile(recipe).ok());
    QVERIFY(!Engine::create({0, 1, "no-such-thing"}).ok());
    QVERIFY(!Engine::create({257, 1, ""}).ok());
  }

  /// Ores hang on the rock alone: bounds crop it, and colours are for people.
  void oresAreKeptWhileTheirRockIsTheSame() {
    const auto engine = Engine::create({}).value();
    Recipe recipe = dryDemo("swallet-edge");
    const auto world = engine->compile(recipe).value();
    const uint64_t before = engine->poolFigures().compiled;
    recipe.materials[0].colour = {1, 2, 3};
    recipe.materials[0].state = MaterialState::Passable;
    recipe.frame.chunkSize = 16;
    recipe.frame.x = AxisBounds{-300, 600};
    recipe.climate.temperature.unitHigh += 1;
    recipe.caves->seaCover += 1;
    recipe.caves->tunnels.clear();
    QVERIFY(engine->compile(recipe).ok());
    QCOMPARE(engine->poolFigures().compiled, before);
    recipe.rock.top += 1;
    QVERIFY(engine->compile(recipe).ok());
    QCOMPARE(engine->poolFigures().compiled, before + 2);  // The rock's profile, and the ores.
  }

  /// What earlier worlds remember goes when the present one needs the room.
  void earlierWorldsMakeRoom() {
    EngineOptions options;
    options.memoryLimit = uint64_t{24} << 20;
    const auto engine = Engine::create(options).value();
    Recipe recipe = loadRecipe("saltfen-reach").value();
    std::vector<std::weak_ptr<const World>> worlds;
    for (int n = 0; n < 6; ++n) {
      recipe.seed = std::to_string(n);
      const auto world = engine->compile(recipe).value();
      worlds.push_back(world);
      // Alone or with some that leave half of the budget to it.
      const auto there =
          std::count_if(worlds.begin(), worlds.end(), [](const auto& of) { return !of.expired(); });
      const uint64_t used = engine->budget().used();
      QVERIFY2(there == 1 || used <= options.memoryLimit / 2,
          qPrintable(QString("%1 worlds hold %2").arg(there).arg(used)));
      std::vector<float> heights(400 * 400);
      QVERIFY(world->sample({0, 0, 1, 400, 400}, heights.data(), nullptr).ok());
      QVERIFY(engine->budget().used() > used + (uint64_t{2} << 20));  // It remembers.
    }
    QVERIFY(worlds.front().expired());
  }

  void seedsChangeTheWorldAndNamesDoNot() {
    Recipe recipe = demo();
    const Digest base = worldFingerprint(*worldOf(recipe));
    recipe.name = "Other";
    recipe.frame.chunkSize = 5;
    QCOMPARE(worldFingerprint(*worldOf(recipe)), base);
    recipe.seed = "heather-42";
    QVERIFY(worldFingerprint(*worldOf(recipe)) != base);
    recipe.seed = std::to_string(seedNumber("heather-41"));
    QCOMPARE(worldFingerprint(*worldOf(recipe)).high, base.high);
  }

  /// Bits that must not change within a generation. The lines of the file are made by
  ///   acre info DEMO --json   (field "fingerprint").
  void fingerprintsAreThoseOfRecord() {
    std::ifstream file(ACRE_SOURCE_DIR "/tests/golden/fingerprints.txt");
    std::set<std::string> seen;
    std::string name, hex;
    while (file >> name >> hex) {
      QCOMPARE(worldFingerprint(*worldOf(loadRecipe(name).value())).hex(), hex);
      seen.insert(name);
    }
    for (const Demo& d : demos()) QVERIFY2(seen.contains(d.name), d.name.c_str());
  }

  /// What a world is without its rivers and objects never changed when they came.
  void withoutWaterTheyAreAsEver() {
    std::ifstream file(ACRE_SOURCE_DIR "/tests/golden/dry.txt");
    std::set<std::string> seen;
    std::string name, hex;
    while (file >> name >> hex) {
      QCOMPARE(worldFingerprint(*worldOf(dryDemo(name))).hex(), hex);
      seen.insert(name);
    }
    for (const Demo& d : demos()) {
      const Recipe recipe = loadRecipe(d.name).value();
      QCOMPARE(seen.contains(d.name), recipe.rivers->on || !recipe.objects->kinds.empty());
    }
  }

  /// Nor what they are with rivers when objects came.
  void withoutObjectsTheyAreAsEver() {
    std::ifstream file(ACRE_SOURCE_DIR "/tests/golden/bare.txt");
    std::set<std::string> seen;
    std::string name, hex;
    while (file >> name >> hex) {
      Recipe recipe = loadRecipe(name).value();
      recipe.objects->on = false;
      QCOMPARE(worldFingerprint(*worldOf(recipe)).hex(), hex);
      seen.insert(name);
    }
    for (const Demo& d : demos())
      QCOMPARE(seen.contains(d.name), !loadRecipe(d.name).value().objects->kinds.empty());
  }

  void sharesAreThoseOfTheCells() {
    Recipe recipe = demo();
    recipe.frame.x = AxisBounds{-100, 200};
    recipe.frame.z = AxisBounds{50, 150};
    const auto world = worldOf(recipe);
    const auto sample = sampleOf(*world);
    QVERIFY(sample->exact());
    QCOMPARE(sample->size(), size_t{30000});
    int below = 0;
    for (int64_t z = 50; z < 200; ++z)
      for (int64_t x = -100; x < 100; ++x) below += world->at({x, z}).base < 13.0f;
    QCOMPARE(sample->shareBelow(13.0f), below / 30000.0);
    QCOMPARE(sample->shareBetween(-1e9f, 1e9f), 1.0);
  }

  void sharesOfTheEndlessWorldHold() {
    // Against a million other cells, over the whole range of heights: within the stated half point.
    const auto world = worldOf(demo());
    const auto sample = sampleOf(*world);
    QVERIFY(!sample->exact());
    QCOMPARE(sample->size(), size_t{65536});
    std::vector<float> heights;
    for (int64_t j = 0; j < 1000; ++j)
      for (int64_t i = 0; i < 1000; ++i)
        heights.push_back(
            world->heightField().at({i * 1409 - 700'000, 0}, {j * 1511 + 3'000'000, 0}));
    std::sort(heights.begin(), heights.end());
    for (int p = 5; p < 100; p += 5) {
      const float at = heights[heights.size() * static_cast<size_t>(p) / 100];
      QVERIFY2(std::abs(sample->shareBelow(at) - p / 100.0) < 0.006,
          qPrintable(QString("%1 %: %2").arg(p).arg(sample->shareBelow(at))));
    }
    std::stop_source stop;
    stop.request_stop();
    QVERIFY(!sampleOf(*world, stop.get_token()).has_value());
  }

  /// Every biome of the demo covers at least one cell in a hundred about the origin, and every cell
  /// has one; so does every place that was looked at far out.
  void demoIsAPlace() {
    const auto world = worldOf(demo());
    acre::CensusOptions options;
    options.threads = 2;
    const AreaCensus near = *censusOf(*world, {-2048, -2048, 4096, 4096}, options);
    QCOMPARE(near.biomes.size(), world->recipe().biomes.list.size());  // None without.
    QVERIFY(near.biomes.size() >= 11);
    for (const BiomeShare& b : near.biomes) QVERIFY2(b.share >= 0.01, b.id.c_str());
    QCOMPARE(censusOfSample(*world)->biomes.size(), near.biomes.size());
    QCOMPARE(near.unassigned, uint64_t{0});
  }
  /// The demo to learn with leaves about half of the chart to cover.
  void threeFieldsHaveHoles() {
    const auto world = worldOf(demo("three-fields"));
    const double open = world->biomes()->chart().uncovered(0);
    QVERIFY(open > 0.45 && open < 0.55);
  }

  /// How far down tops must be filled: as the second evaluator finds it, in chunks of any size, by
  /// the plain code, beyond bounds as if there were none.
  void steepGroundIsFilledDown() {
    Recipe recipe = demo();
    recipe.fillDown = true;
    for (Layer& layer : recipe.heights.layers) layer.amplitude *= 60;  // Steep.
    reference::Evaluator book(recipe);
    auto engine = Engine::create({}).value();
    int64_t filled = 0;
    for (const int size : {16, 23}) {
      recipe.frame.chunkSize = size;
      recipe.frame.x = size == 23 ? std::optional(AxisBounds{-30, 61}) : std::nullopt;
      const auto world = engine->compile(recipe).value();
      for (const ChunkPos pos : {ChunkPos{0, 0}, ChunkPos{-2, 3}, ChunkPos{1, -1}}) {
        const auto chunk = world->chunk(pos).value();
        QCOMPARE(chunk->fill.size(), chunk->heights.size());
        size_t i = 0;
        for (int64_t z = chunk->rect.z; z < chunk->rect.z + chunk->rect.length; ++z)
          for (int64_t x = chunk->rect.x; x < chunk->rect.x + chunk->rect.width; ++x, ++i) {
            const int expected = book.fill({x, z});
            QCOMPARE(int(chunk->fill[i]), expected);
            QCOMPARE(int(world->columns().fillAt({x, z})), expected);
            filled += expected;
          }
        Chunk without = *chunk;
        without.fill = {};
        QVERIFY(chunkHash(*world, *chunk) != chunkHash(*world, without));
      }
    }
    QVERIFY(filled > 200);
    QCOMPARE(int(fillBeside(10.5f, 9.2f)), 0);  // One step is none.
    QCOMPARE(int(fillBeside(10.5f, 8.9f)), 1);
    QCOMPARE(int(fillBeside(-0.5f, -3.0f)), 1);
    QCOMPARE(int(fillBeside(5.0f, 7.0f)), 0);
    QCOMPARE(int(fillBeside(1e9f, -1e9f)), 65535);
    recipe.fillDown = false;
    QVERIFY(engine->compile(recipe).value()->chunk({0, 0}).value()->fill.empty());
  }

  /// Any cells come back as they were, in no more room than the palette needs.
  void packedCellsComeBack() {
    std::mt19937 random(6);
    for (const size_t values : {1u, 2u, 3u, 4u, 5u, 16u, 17u, 30u, 256u, 257u, 70'000u})
      for (const size_t count : {0u, 1u, 63u, 64u, 65u, 1024u, 5000u}) {
        std::vector<uint16_t> cells(count);
        for (uint16_t& cell : cells) cell = static_cast<uint16_t>(random() % values * 7919);
        for (size_t i = 1; i < count; ++i)
          if (random() % 3) cells[i] = cells[i - 1];
        const PackedCells packed(cells);
        QCOMPARE(packed.unpacked(), cells);
        QCOMPARE(packed.size(), count);
        const std::set<uint16_t> palette(cells.begin(), cells.end());
        QVERIFY(std::equal(
            palette.begin(), palette.end(), packed.palette().begin(), packed.palette().end()));
        const int bits = packed.bitsPerCell();
        QVERIFY(palette.size() <= size_t{1} << bits);
        QVERIFY(bits == 0 || palette.size() > size_t{1} << (bits / 2) || bits == 1);
        QVERIFY(packed.heapBytes() <= PackedCells::mostHeapBytes(count));
        QVERIFY(packed.heapBytes() <=
                palette.size() * 2 + (count * static_cast<size_t>(bits) + 63) / 64 * 8);
        QVERIFY(packed == PackedCells(cells));
      }
  }

  void chunksTakeWhatTheySay() {
    EngineOptions options;
    auto engine = Engine::create(options).value();
    for (const int size : {1, 16, 32, 100}) {
      Recipe recipe = dryDemo("saltfen-reach");
      recipe.frame.chunkSize = size;
      const auto world = engine->compile(recipe).value();
      StageTimes times;
      for (int64_t i = 0; i < 20; ++i) {
        const auto chunk = world->chunk({i * 37 - 300, i * 91}, {}, &times).value();
        QVERIFY(chunk->bytes() <= world->largestChunkBytes());
        QVERIFY(chunk->bytes() >= sizeof(Chunk) + chunk->heights.size() * sizeof(float));
        QVERIFY(world->workBytes() > world->largestChunkBytes());
      }
      QVERIFY(times[StageId::Heights] > 0 && times[StageId::Biomes] > 0 &&
              times[StageId::Strata] > 0 && times.packing > 0);
    }
#if defined(__GLIBC__) && !defined(__SANITIZE_ADDRESS__) && !defined(__SANITIZE_THREAD__)
    // And by what the allocator says of a hundred of them.
    Recipe recipe = dryDemo("saltfen-reach");
    const auto world = engine->compile(recipe).value();
    (void)world->chunk({-1, -1}).value();  // What is remembered once is there.
    std::vector<std::shared_ptr<const Chunk>> held(100);
    const auto inUse = [] {
      const auto info = mallinfo2();
      return info.uordblks + info.hblkhd;
    };
    const size_t before = inUse();
    uint64_t told = 0;
    for (size_t i = 0; i < held.size(); ++i) {
      held[i] = world->chunk({static_cast<int64_t>(i), 7}).value();
      told += held[i]->bytes();
    }
    const size_t taken = inUse() - before;
    QVERIFY2(told > taken * 9 / 10 && told < taken * 12 / 10,
        qPrintable(QString("told %1, taken %2").arg(told).arg(taken)));
#endif
  }
};

ACRE_SUITE(WorldTest)
#include "world_test.moc"
