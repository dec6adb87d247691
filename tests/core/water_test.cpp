#include <fmt/format.h>

#include <QTemporaryDir>
#include <QXmlStreamReader>
#include <QtTest>
#include <algorithm>
#include <cmath>
#include <fstream>
#include <map>
#include <random>
#include <set>

#include <nlohmann/json.hpp>

#include "audit/basin_replay.h"
#include "audit/check_kinds.h"
#include "audit/checks.h"
#include "audit/plumb.h"
#include "audit/river_profile.h"
#include "audit/water_summary.h"
#include "base/atomic_file.h"
#include "dry.h"
#include "output/chunk_text.h"
#include "output/line_files.h"
#include "output/map_writer.h"
#include "output/picture.h"
#include "recipe/json.h"
#include "recipe/validate.h"
#include "recipe/water_recipe.h"
#include "reference/evaluator.h"
#include "suite.h"
#include "water/water_stage.h"
#include "wet_worlds.h"
#include "world/demos.h"
#include "world/engine.h"
#include "world/fingerprint.h"

// Rivers run downhill and lakes hold what they fill, whatever is asked first.

using namespace acre;

namespace {

/// Much water: springs close together, a lake in every hollow, a low sea.
Recipe wet(const std::string& seed = "b", double sea = -20) {
  Recipe r = wetSteps(seed, sea, 4, 0.9);
  r.materials.push_back({"beck", "Beck", {}, MaterialState::Liquid});
  r.materials.push_back({"shingle", "Shingle", {}, MaterialState::Solid});
  r.materials.push_back({"rushes", "Rushes", {}, MaterialState::Solid});
  r.rivers->water = "beck";
  r.rivers->bank = "shingle";
  r.rivers->bankReach = 1.5;
  r.rivers->wet = "rushes";
  return r;
}

/// Recipes that differ in all that matters to water.
Recipe varied(uint32_t n) {
  std::mt19937 random(n);
  const auto between = [&](double low, double high) {
    return low + (high - low) * static_cast<double>(random() >> 8) * 0x1p-24;
  };
  Recipe r = wet("varied " + std::to_string(n), between(-25, 5));
  auto& land = std::get<NoiseSource>(r.heights.layers[0].source);
  land.width = between(120, 900);
  r.heights.layers[0].amplitude = between(5, 60);
  Rivers& w = *r.rivers;
  w.spring = std::floor(between(2, 20));
  w.lakes = between(0, 1);
  w.closed = between(0, 0.5);
  w.carve = between(2, 40);
  w.growth = between(0.2, 1.5);
  w.widest = between(4, 26);
  w.valley = between(0, 8);
  w.meander = between(0, 9);
  return r;
}

struct Cells {
  int64_t x, z;
  int32_t side;
  std::vector<float> heights, before;
  std::vector<WaterKind> kinds;
  std::vector<int32_t> levels;
  std::vector<float> shores;
  std::vector<MaterialIndex> materials;
  size_t at(int32_t i, int32_t j) const { return static_cast<size_t>(j * side + i); }
  bool isWater(size_t n) const { return kinds[n] != WaterKind::Dry; }
};

Cells cellsOf(const World& world, int64_t x, int64_t z, int32_t side, int64_t step = 1) {
  Cells out{x, z, side, {}, {}, {}, {}, {}, {}};
  const auto count = static_cast<size_t>(side * side);
  out.heights.resize(count);
  out.before.resize(count);
  out.kinds.resize(count);
  out.levels.resize(count);
  out.shores.resize(count);
  out.materials.resize(count);
  Land land;
  land.heights = out.heights.data();
  land.waters = out.kinds.data();
  land.levels = out.levels.data();
  land.shores = out.shores.data();
  land.materials = out.materials.data();
  if (!world.sample({x, z, step, side, side}, land)) qFatal("no sample");
  LandOut before;
  before.heights = out.before.data();
  before.stride = side;
  world.parts().before->evaluate({x, z, step, side, side}, before, {});
  return out;
}

}  // namespace

class WaterTest : public QObject {
  Q_OBJECT

 private slots:
  /// As another program does it that knows docs/maths.md alone.
  void everyCellIsAsThePageSays_data() {
    QTest::addColumn<qint64>("x");
    QTest::addColumn<qint64>("z");
    QTest::newRow("home") << qint64{-860} << qint64{400};
    QTest::newRow("far") << qint64{1'999'999'000} << qint64{-2'000'000'000};
  }
  void everyCellIsAsThePageSays() {
    QFETCH(qint64, x);
    QFETCH(qint64, z);
    const Recipe recipe = wet();
    const auto world = worldOf(recipe);
    const Cells cells = cellsOf(*world, x, z, 100);
    reference::Evaluator reference(recipe);
    std::map<WaterKind, int> met;
    std::map<std::string, int> shown;
    for (int32_t j = 0; j < cells.side; ++j)
      for (int32_t i = 0; i < cells.side; ++i) {
        const size_t n = cells.at(i, j);
        const auto told = reference.water({x + i, z + j});
        ++met[cells.kinds[n]];
        QCOMPARE(nameOf(cells.kinds[n]), told.kind);
        QCOMPARE(cells.heights[n], told.height);
        QCOMPARE(int64_t{cells.levels[n]}, told.level);
        QCOMPARE(cells.shores[n], told.shore);
        const std::string material = world->catalogue().materialId(cells.materials[n]);
        const bool fresh = told.kind == "lake" || told.kind == "river", dry = told.kind == "dry";
        QCOMPARE(material == "beck", fresh);
        QCOMPARE(material == "shingle", dry && told.shore <= 1.5f);
        QCOMPARE(material == "rushes", dry && told.shore > 1.5f && told.shore <= 6.0f);
        ++shown[material];
      }
    QVERIFY(met[WaterKind::Dry] > 1000);
    if (x < 0) QVERIFY(shown["shingle"] > 100 && shown["rushes"] > 100);
    if (x < 0) QVERIFY(met[WaterKind::River] > 300 && met[WaterKind::Lake] > 300);
  }

  /// Chunks of any size, any order, with memory or without: the same cells.
  void anyPartIsCutFromTheWhole() {
    const Recipe recipe = wet();
    const auto world = worldOf(recipe), forgetful = worldOf(recipe, 0);
    constexpr int64_t kX = -900, kZ = 380;
    const Cells whole = cellsOf(*world, kX, kZ, 192);
    for (const int32_t side : {1, 7, 64}) {
      std::mt19937 random(static_cast<uint32_t>(side));
      for (int n = 0; n < (side == 1 ? 200 : 12); ++n) {
        const auto i = static_cast<int32_t>(random() % static_cast<uint32_t>(192 - side));
        const auto j = static_cast<int32_t>(random() % static_cast<uint32_t>(192 - side));
        const Cells part = cellsOf(*world, kX + i, kZ + j, side);
        for (int32_t b = 0; b < side; ++b)
          for (int32_t a = 0; a < side; ++a) {
            const size_t mine = part.at(a, b), its = whole.at(i + a, j + b);
            QCOMPARE(part.heights[mine], whole.heights[its]);
            QCOMPARE(part.kinds[mine], whole.kinds[its]);
            QCOMPARE(part.levels[mine], whole.levels[its]);
            QCOMPARE(part.materials[mine], whole.materials[its]);
          }
        if (side != 1) continue;
        const CellValue one = world->at({kX + i, kZ + j});
        QCOMPARE(one.height, whole.heights[whole.at(i, j)]);
        QCOMPARE(one.water.kind, whole.kinds[whole.at(i, j)]);
        QCOMPARE(one.material, whole.materials[whole.at(i, j)]);
      }
    }
    const Cells again = cellsOf(*forgetful, kX + 60, kZ + 60, 24);
    for (int32_t j = 0; j < 24; ++j)
      for (int32_t i = 0; i < 24; ++i)
        QCOMPARE(again.heights[again.at(i, j)], whole.heights[whole.at(i + 60, j + 60)]);
    // Steps that are exact.
    for (const int64_t step : {2, 3}) {
      const Cells coarse = cellsOf(*world, kX, kZ, 60, step);
      for (int32_t j = 0; j < 60; ++j)
        for (int32_t i = 0; i < 60; ++i) {
          const size_t its =
              whole.at(i * static_cast<int32_t>(step), j * static_cast<int32_t>(step));
          QCOMPARE(coarse.heights[coarse.at(i, j)], whole.heights[its]);
          QCOMPARE(coarse.kinds[coarse.at(i, j)], whole.kinds[its]);
        }
    }
  }

  /// What lies on top tells: water, or its bed, and no material where none is given.
  /// Samples far apart are told of the wider rivers, as the page says, and where they truly are.
  void farOutIsAnIndication_data() {
    QTest::addColumn<int>("step");
    // A network sees every second cell up to 32, every fourth beyond.
    for (const int step : {17, 24, 32, 36, 50, 64})
      if (suite::sized(0, 1) || step == 24 || step == 64) QTest::addRow("%d", step) << step;
  }
  void farOutIsAnIndication() {
    QFETCH(int, step);
    constexpr int32_t kSide = 20;
    const Recipe recipe = wet();
    const auto world = worldOf(recipe);
    const int64_t x = -900, z = 380;
    const Rect area{x, z, int64_t{kSide} * step, int64_t{kSide} * step};
    QVERIFY(!world->water()->knows(area, step));
    const Cells cells = cellsOf(*world, x, z, kSide, step);
    QVERIFY(world->water()->knows({x, z, area.width - step, area.length - step}, step));
    QVERIFY(!world->water()->knows(area, 1));
    reference::Evaluator reference(recipe);
    std::map<WaterKind, int> met;
    for (int32_t j = 0; j < kSide; ++j)
      for (int32_t i = 0; i < kSide; ++i) {
        const size_t n = cells.at(i, j);
        const auto told = reference.indicated({x + i * step, z + j * step}, step);
        ++met[cells.kinds[n]];
        QCOMPARE(nameOf(cells.kinds[n]), told.kind);
        QCOMPARE(cells.heights[n], told.height);
        QCOMPARE(int64_t{cells.levels[n]}, told.level);
        QCOMPARE(cells.shores[n], told.shore);
        QVERIFY(cells.heights[n] <= cells.before[n]);
      }
    QVERIFY(met[WaterKind::Dry] > 100 && met[WaterKind::Lake] + met[WaterKind::River] > 0);
    const Cells part = cellsOf(*world, x + 7 * step, z + 5 * step, 6, step);
    for (int32_t j = 0; j < 6; ++j)
      for (int32_t i = 0; i < 6; ++i) {
        QCOMPARE(part.kinds[part.at(i, j)], cells.kinds[cells.at(i + 7, j + 5)]);
        QCOMPARE(part.heights[part.at(i, j)], cells.heights[cells.at(i + 7, j + 5)]);
      }
  }
  void indicatedRiversLieNearTrueOnes() {
    const auto world = worldOf(wet());
    constexpr int32_t kSide = 96;
    const auto wetAbout = [&](int64_t x, int64_t z, int64_t near) {
      const Cells about = cellsOf(*world, x - near, z - near, static_cast<int32_t>(near / 2), 4);
      return std::any_of(about.kinds.begin(), about.kinds.end(), isFresh);
    };
    for (const int64_t step : {32, 64}) {
      const Cells cells = cellsOf(*world, -1000, 500, kSide, step);
      int seen[2] = {}, nearTrue[2] = {};  // Dry samples, and rivers.
      for (int32_t j = 0; j < kSide; ++j)
        for (int32_t i = 0; i < kSide; ++i) {
          const bool river = cells.kinds[cells.at(i, j)] == WaterKind::River;
          if (!river && (i + 5 * j) % 37 != 0) continue;
          ++seen[river];
          nearTrue[river] += wetAbout(-1000 + i * step, 500 + j * step, step);
        }
      qInfo("step %d: %d of %d samples of rivers lie near a true one, %d of %d others", int(step),
          nearTrue[1], seen[1], nearTrue[0], seen[0]);
      QVERIFY(seen[1] > 50);
      QVERIFY(nearTrue[1] > 0.8 * seen[1]);
      QVERIFY(nearTrue[0] * seen[1] < nearTrue[1] * seen[0]);
    }
    // Beyond that nothing is told.
    for (const WaterKind kind : cellsOf(*world, -1000, 500, kSide, 65).kinds)
      QCOMPARE(kind, WaterKind::Dry);
    QCOMPARE(planOf(*world).approximations(16).size(), size_t{0});
    QCOMPARE(planOf(*world).approximations(65)[0], "rivers and lakes, left out");
  }

  /// Distance, level and mark of fresh water as fields, for what comes after it.
  void fieldsTellOfFreshWater() {
    using Tells = FreshWaterSource::Tells;
    Recipe recipe = wet();
    const std::pair<const char*, Tells> kinds[] = {
        {"shore", Tells::Shore}, {"level", Tells::Level}, {"mark", Tells::Mark}};
    for (const auto& [id, tells] : kinds) {
      Layer layer;
      layer.id = id;
      layer.source = FreshWaterSource{tells};
      recipe.fields.push_back({id, id, {layer}, {}, {}});
    }
    // One that reads another, shifted.
    Layer beyond;
    beyond.id = "beyond";
    beyond.source = FreshWaterSource{Tells::Shore};
    beyond.sampling = SamplingOffset{3.5, -7, false};
    beyond.mask = Mask{"level", 0.5, {}, 0};
    recipe.fields.push_back({"beyond", "beyond", {beyond}, {}, {}});
    const auto world = worldOf(recipe);
    reference::Evaluator reference(recipe);
    constexpr int32_t kSide = 100;
    const SampleGrid grid{-860, 400, 1, kSide, kSide};
    const Cells cells = cellsOf(*world, grid.x, grid.z, kSide);
    std::map<std::string, std::set<float>> met;
    for (const char* id : {"shore", "level", "mark", "beyond"}) {
      const Field& field = *planOf(*world).field(id);
      std::vector<float> values(size_t{kSide} * kSide);
      QVERIFY(world->columns().field(field, grid, values.data(), {}, kSide).ok());
      for (int32_t j = 0; j < kSide; ++j)
        for (int32_t i = 0; i < kSide; ++i) {
          const float value = values[cells.at(i, j)];
          if ((i + j) % 3 == 0) QCOMPARE(value, reference.field(id, {grid.x + i, grid.z + j}));
          if ((i + 3 * j) % 40 == 0) QCOMPARE(field.at({grid.x + i, 0}, {grid.z + j, 0}), value);
          met[id].insert(value);
          if (std::string(id) == "mark") QCOMPARE(value > 0, isFresh(cells.kinds[cells.at(i, j)]));
        }
    }
    qInfo("%zu shores, %zu levels, %zu marks", met["shore"].size(), met["level"].size(),
        met["mark"].size());
    QVERIFY(met["shore"].size() > 100 && met["level"].size() > 1 && met["mark"].size() > 2);
    // Farther apart they are what the samples are.
    const Cells rough = cellsOf(*world, grid.x, grid.z, kSide, 24);
    std::vector<float> shores(size_t{kSide} * kSide);
    QVERIFY(world->columns()
                .field(*planOf(*world).field("shore"), {grid.x, grid.z, 24, kSide, kSide},
                    shores.data(), {}, kSide)
                .ok());
    QVERIFY(shores == rough.shores);
    QCOMPARE(planOf(*world).approximations(4).size(), size_t{0});
    QCOMPARE(
        planOf(*world).approximations(5)[0], "fresh water in fields, where layers are shifted");
    // Without the stage there is no water to be near.
    recipe.rivers->on = false;
    const auto dry = worldOf(recipe);
    QCOMPARE(planOf(*dry).field("shore")->at({grid.x, 0}, {grid.z, 0}), 46.0f);
    QCOMPARE(planOf(*dry).field("mark")->at({grid.x, 0}, {grid.z, 0}), 0.0f);
  }
  /// What comes before water cannot read it, by whatever detour.
  void freshWaterIsNotReadBefore() {
    Recipe recipe = loadRecipe("saltfen-reach").value();
    Layer layer;
    layer.id = "near";
    layer.source = FreshWaterSource{};
    recipe.fields.push_back({"near", "Near", {layer}, {}, {}});
    layer.id = "detour";
    layer.source = FieldSource{"near"};
    recipe.fields.push_back({"detour", "Detour", {layer}, {}, {}});
    QVERIFY(validate(recipe).ok());
    layer.id = "again";
    layer.source = FieldSource{"detour"};
    const auto refused = [](const Recipe& r) {
      const Status status = validate(r);
      return status.ok() ? std::string() : status.error().text();
    };
    Recipe climate = recipe;
    climate.climate.moisture.field.layers.push_back(layer);
    QVERIFY2(refused(climate).find("moisture → detour → near → fresh water") != std::string::npos,
        refused(climate).c_str());
    QVERIFY2(
        refused(climate).find("/climate/moisture") != std::string::npos, refused(climate).c_str());
    Recipe biomes = recipe;
    biomes.biomes.x.field = "near";
    QVERIFY2(refused(biomes).find("/biomes/x/field") != std::string::npos, refused(biomes).c_str());
    Recipe heights = recipe;
    heights.heights.layers.push_back(layer);
    QVERIFY2(refused(heights).find("circle") != std::string::npos ||
                 refused(heights).find("heights") != std::string::npos,
        refused(heights).c_str());
    Recipe ways = recipe;
    ways.rivers->courses.count = 1;
    ways.rivers->courses.field = "detour";
    QVERIFY2(
        refused(ways).find("/rivers/courses/field") != std::string::npos, refused(ways).c_str());
    Recipe even = recipe;
    even.fields.back().layers[0].equalise = true;
    QVERIFY2(refused(even).find("equalise") != std::string::npos, refused(even).c_str());
  }

  void materialsAreLaidBeforeTheBands() {
    Recipe recipe = wet();
    const Cells water = cellsOf(*worldOf(recipe), -860, 400, 100);
    recipe.rivers->water.clear();
    recipe.rivers->bed = "shingle";
    recipe.rivers->bank.clear();
    const auto world = worldOf(recipe);
    const Cells bed = cellsOf(*world, -860, 400, 100);
    recipe.rivers->bed.clear();
    recipe.rivers->wet.clear();
    const Cells bare = cellsOf(*worldOf(recipe), -860, 400, 100);
    QVERIFY(bed.heights == water.heights && bare.heights == water.heights);
    int beds = 0, reeds = 0;
    for (size_t n = 0; n < bed.kinds.size(); ++n) {
      const bool fresh = bed.kinds[n] == WaterKind::Lake || bed.kinds[n] == WaterKind::River;
      const std::string shown = world->catalogue().materialId(bed.materials[n]);
      if (fresh) QCOMPARE(shown, "shingle");
      if (!fresh && bed.kinds[n] == WaterKind::Dry && bed.shores[n] <= 6) QCOMPARE(shown, "rushes");
      beds += shown == "shingle";
      reeds += shown == "rushes";
      const std::string under = world->catalogue().materialId(bare.materials[n]);
      QVERIFY(under != "shingle" && under != "rushes" && under != "beck");
    }
    QVERIFY(beds > 300 && reeds > 300);
  }

  /// A plumb line says why ground beside water is what it is.
  void plumbLinesTellOfBanks() {
    const auto world = worldOf(wet());
    const Cells cells = cellsOf(*world, -860, 400, 100);
    std::set<std::string> met;
    for (size_t n = 0; n < cells.kinds.size(); n += 7) {
      if (cells.kinds[n] != WaterKind::Dry || cells.shores[n] > 6) continue;
      const Cell cell{
          cells.x + static_cast<int64_t>(n % 100), cells.z + static_cast<int64_t>(n / 100)};
      const bool bank = cells.shores[n] <= 1.5f;
      int deciding = 0;
      for (const PlumbRow& row : plumbRows(*plumbAt(*world, cell))) {
        if (!row.deciding) continue;
        ++deciding;
        QCOMPARE(row.pointer, std::string(bank ? "/rivers/bank" : "/rivers/wet"));
        met.insert(row.pointer);
      }
      QCOMPARE(deciding, 1);
    }
    QCOMPARE(met.size(), size_t{2});
  }

  /// A chunk tells of each cell what water lies over it and how high.
  void chunksTellOfWater() {
    const Recipe recipe = wet();
    const auto world = worldOf(recipe);
    // A chunk with a shore in it.
    ChunkPos pos;
    std::shared_ptr<const Chunk> chunk;
    for (int64_t n = 0; n < 64; ++n) {
      pos = world->layout().chunkOf({-900 + n % 8 * 32, 400 + n / 8 * 32});
      chunk = world->chunk(pos).value();
      if (chunk->waterKinds.palette().size() > 1) break;
    }
    QCOMPARE(chunk->waterKinds.size(), chunk->heights.size());
    size_t n = 0;
    std::map<WaterKind, int> met;
    for (int64_t z = chunk->rect.z; z < chunk->rect.z + chunk->length; ++z)
      for (int64_t x = chunk->rect.x; x < chunk->rect.x + chunk->width; ++x, ++n) {
        const WaterAt water = world->at({x, z}).water;
        ++met[water.kind];
        QCOMPARE(static_cast<WaterKind>(chunk->waterKinds[n]), water.kind);
        QCOMPARE(chunk->waterAt(n).has_value(), water.kind != WaterKind::Dry);
        if (chunk->waterAt(n)) QCOMPARE(*chunk->waterAt(n), water.level);
      }
    QVERIFY(met[WaterKind::Dry] > 0 && met[WaterKind::River] + met[WaterKind::Lake] > 0);
    QVERIFY(chunk->bytes() <= world->largestChunkBytes());
    // Files of it.
    const auto json = nlohmann::json::parse(chunkJson(*world, *chunk));
    const std::string table = chunkCsv(*world, *chunk);
    QVERIFY(table.starts_with("x,z,height,material,water,waterKind\n"));
    for (size_t i = 0; i < chunk->water.size(); ++i) {
      QCOMPARE(json["waterKind"][i].get<int>(), int{chunk->waterKinds[i]});
      QCOMPARE(json["water"][i].is_null(), !chunk->waterAt(i));
      if (chunk->waterAt(i)) QCOMPARE(json["water"][i].get<int32_t>(), *chunk->waterAt(i));
    }
    QVERIFY(
        table.find(",river\n") != std::string::npos || table.find(",lake\n") != std::string::npos);
    // Water alone tells two chunks apart.
    Chunk other = *chunk;
    other.waterLevels.back() += 1;
    QVERIFY(chunkHash(*world, other) != chunkHash(*world, *chunk));
    QCOMPARE(areaHash(*world, chunk->rect).value().hex(), chunkHash(*world, *chunk).hex());
    // Where the stage is off nothing is told.
    Recipe off = recipe;
    off.rivers->on = false;
    const auto dry = worldOf(off);
    const auto without = dry->chunk(pos).value();
    QVERIFY(without->water.empty() && without->waterKinds.empty());
    QVERIFY(chunkCsv(*dry, *without).starts_with("x,z,height,material\n"));
  }

  /// The range of a picture's greys is that of the whole world before water: nothing of the network
  /// is asked for it.
  void paletteAsksForNoNetwork() {
    const auto world = worldOf(wet());
    for (const PictureKind kind : {PictureKind::Slope, PictureKind::Grey, PictureKind::Height}) {
      Picture picture;
      picture.kind = kind;
      const Palette palette(*world, picture);
      QCOMPARE(world->water()->drainage().samples(), uint64_t{0});
    }
  }

  /// Pictures of water, of its surface, of what drains where; and the ground before there is any.
  void picturesShowWater() {
    const auto world = worldOf(wet());
    const SampleGrid grid{-900, 380, 1, 160, 160};
    const auto shown = [&](PictureKind kind) {
      Picture picture;
      picture.kind = kind;
      return sampleWithRim(*world, picture, grid).value();
    };
    const Cells cells = cellsOf(*world, grid.x, grid.z, 160);
    const Samples water = shown(PictureKind::Water), surface = shown(PictureKind::Surface),
                  flow = shown(PictureKind::Flow), basin = shown(PictureKind::Basin);
    Drainage::Reader net(world->water()->drainage());
    std::map<Brick, uint32_t> basins;
    for (int32_t j = 0; j < 160; ++j)
      for (int32_t i = 0; i < 160; ++i) {
        const size_t n = cells.at(i, j);
        const auto at = static_cast<size_t>((j + 1) * water.stride() + i + 1);
        QCOMPARE(int{water.things[at]}, 1 + static_cast<int>(cells.kinds[n]));
        QCOMPARE(surface.values[at],
            cells.isWater(n) ? static_cast<float>(cells.levels[n]) : cells.heights[n]);
        const Brick b = brickOf({grid.x + i, grid.z + j});
        const DrainAt drain = net.drain(b);
        const int64_t area = drain.drains == Drains::Sea    ? 0
                             : drain.drains == Drains::Lake ? net.lakeArea(drain.next)
                                                            : net.area(b);
        QCOMPARE(flow.values[at], static_cast<float>(area));
        const bool sea = cells.kinds[n] == WaterKind::Sea;
        QCOMPARE(basin.marks[at] == 0, sea || drain.drains == Drains::Sea);
        if (sea) continue;
        const auto known = basins.emplace(b, basin.marks[at]);
        QCOMPARE(known.first->second, basin.marks[at]);
      }
    // What flows on belongs to the basin that it flows to.
    int followed = 0;
    for (const auto& [b, mark] : basins)
      if (const DrainAt drain = net.drain(b);
          drain.drains == Drains::On && basins.contains(drain.next))
        if (const uint32_t next = basins.at(drain.next); next != 0) {
          QCOMPARE(mark, next);
          ++followed;
        }
    QVERIFY(followed > 5);
    // Before water, whatever is asked.
    Picture height;
    height.kind = PictureKind::Height;
    height.beforeWater = true;
    const Samples before = sampleWithRim(*world, height, grid).value();
    for (int32_t j = 0; j < 160; ++j)
      for (int32_t i = 0; i < 160; ++i)
        QCOMPARE(before.values[static_cast<size_t>((j + 1) * before.stride() + i + 1)],
            cells.before[cells.at(i, j)]);
    // So far out no network is pulled.
    const uint64_t samples = world->water()->drainage().samples();
    for (const PictureKind kind : {PictureKind::Flow, PictureKind::Basin, PictureKind::Water}) {
      Picture picture;
      picture.kind = kind;
      const Samples far = sampleWithRim(*world, picture, {0, 0, 1024, 40, 40}).value();
      if (kind == PictureKind::Flow)
        QVERIFY(std::all_of(far.values.begin(), far.values.end(), [](float v) { return v == 0; }));
    }
    QCOMPARE(world->water()->drainage().samples(), samples);
    Recipe off = wet();
    off.rivers->on = false;
    for (const char* name : {"water", "surface", "flow", "basin"}) {
      const Picture picture = pictureNamed(name).value();
      QCOMPARE(nameOf(picture), std::string(name));
      QVERIFY(checkPicture(*world, picture));
      QVERIFY(!checkPicture(*worldOf(off), picture));
    }
  }

  /// Along every way the level never rises and nobody comes back, and ground is never raised.
  void waterRunsDownhill() {
    int rivers = 0, lakes = 0;
    std::set<std::pair<uint32_t, Brick>> sinks;
    for (uint32_t n = 0; n < 50; ++n) {
      const auto world = worldOf(varied(n));
      Drainage::Reader net(world->water()->drainage());
      const int64_t far = n % 3 == 2 ? 62'000'000 : 0;
      std::map<Brick, int> steps;  // To the end, of those that were followed.
      for (int64_t j = 0; j < 16; ++j)
        for (int64_t i = 0; i < 16; ++i) {
          Brick at{i - far, j + far};
          if (!net.isRiver(at)) continue;
          ++rivers;
          for (int k = 0;; ++k) {
            QVERIFY2(k < 20'000, "a circle");
            const DrainAt drain = net.drain(at);
            if (drain.drains == Drains::Sea) break;
            if (drain.drains == Drains::Sink) {
              sinks.insert({n, at});
              break;
            }
            Brick next = drain.next;
            if (drain.drains == Drains::Lake) {
              ++lakes;
              const auto way = net.outlet(drain.next);
              QVERIFY(way);
              if (!way->found) break;
              QVERIFY(net.drain(way->way[0]).next == drain.next);
              next = way->way[1];
            }
            QVERIFY(net.drain(next).level <= drain.level);
            at = next;
          }
        }
    }
    qInfo("%d rivers, %d lakes crossed, %zu sinks", rivers, lakes, sinks.size());
    QVERIFY(rivers > 500 && lakes > 100);
    QVERIFY2(sinks.size() <= 5, qPrintable(QString::number(sinks.size())));
  }

  /// What drains into a node is what its area counts.
  void areasAreWhatFlowsIn() {
    const auto world = worldOf(wet());
    Drainage::Reader net(world->water()->drainage());
    int met = 0;
    for (int64_t j = 0; j < 12; ++j)
      for (int64_t i = -30; i < -18; ++i) {
        const Brick b{i, j + 10};
        const DrainAt drain = net.drain(b);
        if (drain.drains != Drains::On && drain.drains != Drains::Sink) continue;
        // Walks up, by neighbours that say they flow here.
        int64_t count = 0;
        bool lake = false;
        std::vector<std::pair<Brick, int>> open = {{b, 64}};
        while (!open.empty() && !lake) {
          const auto [at, left] = open.back();
          open.pop_back();
          ++count;
          if (left == 0) continue;
          for (int side = 0; side < kBrickSides; ++side) {
            const Brick from = besideBrick(at, side);
            const DrainAt there = net.drain(from);
            if (there.drains == Drains::On && there.next == at) open.push_back({from, left - 1});
          }
          lake = net.inflows(at).lakes != 0;
        }
        if (lake) continue;
        ++met;
        QCOMPARE(net.area(b), count);
      }
    QVERIFY(met > 50);
  }

  /// A wet cell has water, ground or a fall beside it; falls are few and not high.
  void nothingLeaks() {
    int64_t water = 0, falls = 0;
    for (uint32_t n = 0; n < 20; ++n) {
      const auto world = worldOf(varied(n));
      const int64_t far = n % 2 ? 2'000'000'000 : -2'000'000'000;
      const Cells cells = cellsOf(*world, n < 10 ? 0 : far, n % 4 < 2 ? 0 : -far, 512);
      const int64_t waterBefore = water, fallsBefore = falls;
      for (int32_t j = 1; j + 1 < cells.side; ++j)
        for (int32_t i = 1; i + 1 < cells.side; ++i) {
          const size_t at = cells.at(i, j);
          QVERIFY(cells.heights[at] <= cells.before[at]);
          if (!cells.isWater(at)) continue;
          if (cells.kinds[at] == WaterKind::Sea) continue;  // Its coast is where the land is.
          ++water;
          QVERIFY(std::floor(cells.heights[at]) < static_cast<float>(cells.levels[at]));
          for (const size_t beside : {at - 1, at + 1, at - 512, at + 512}) {
            if (cells.isWater(beside)) continue;
            // Water at the sea's level lies as high as the sea, which need not be whole.
            const bool atSea =
                cells.levels[at] == static_cast<int32_t>(std::ceil(world->seaLevel()));
            const float ground = cells.heights[beside];
            const auto lower = cells.levels[at] - static_cast<int32_t>(std::floor(ground));
            if (lower <= 0 || (atSea && ground >= static_cast<float>(world->seaLevel()))) continue;
            ++falls;
            QVERIFY2(lower <= 2, qPrintable(QStringLiteral("%1 at %2,%3 of %4")
                                                .arg(lower)
                                                .arg(cells.x + i)
                                                .arg(cells.z + j)
                                                .arg(n)));
          }
        }
      const Falls told = fallsIn(*world, {cells.x + 1, cells.z + 1, 510, 510}).value();
      QCOMPARE(told.water, water - waterBefore);
      QCOMPARE(static_cast<int64_t>(told.falls.size()), falls - fallsBefore);
      QVERIFY(told.few());
    }
    qInfo("%lld cells of water, %lld falls", static_cast<long long>(water),
        static_cast<long long>(falls));
    QVERIFY(water > 100'000);
    QVERIFY2(falls * 100'000 <= water, qPrintable(QString::number(falls)));
  }

  /// Every river's water reaches that which it flows into, by cells that share a side.
  void inflowsAreJoined() {
    const auto world = worldOf(wet());
    Drainage::Reader net(world->water()->drainage());
    constexpr int32_t kSide = 1024;
    const Cells cells = cellsOf(*world, -1400, 100, kSide);
    std::vector<int> piece(cells.kinds.size(), -1);
    int pieces = 0;
    for (size_t n = 0; n < piece.size(); ++n) {
      if (!cells.isWater(n) || piece[n] >= 0) continue;
      std::vector<size_t> open = {n};
      piece[n] = pieces;
      while (!open.empty()) {
        const size_t at = open.back();
        open.pop_back();
        const auto i = static_cast<int32_t>(at % kSide), j = static_cast<int32_t>(at / kSide);
        for (const auto& [di, dj] : {std::pair(1, 0), {-1, 0}, {0, 1}, {0, -1}}) {
          if (i + di < 0 || j + dj < 0 || i + di >= kSide || j + dj >= kSide) continue;
          const size_t to = cells.at(i + di, j + dj);
          if (!cells.isWater(to) || piece[to] >= 0) continue;
          piece[to] = pieces;
          open.push_back(to);
        }
      }
      ++pieces;
    }
    /// The water nearest to a node, as far as meanders stray.
    const auto pieceAt = [&](Brick b) {
      const Cell node = net.nodeOf(b);
      int found = -1;
      int64_t nearest = 14 * 14;
      for (int64_t dz = -13; dz <= 13; ++dz)
        for (int64_t dx = -13; dx <= 13; ++dx) {
          const int64_t i = node.x + dx - cells.x, j = node.z + dz - cells.z;
          if (i < 0 || j < 0 || i >= kSide || j >= kSide || dx * dx + dz * dz >= nearest) continue;
          const size_t at = cells.at(static_cast<int32_t>(i), static_cast<int32_t>(j));
          if (piece[at] < 0) continue;
          found = piece[at];
          nearest = dx * dx + dz * dz;
        }
      return found;
    };
    int joined = 0;
    for (int64_t j = 8; j < 36; ++j)
      for (int64_t i = -38; i < -16; ++i) {
        const Brick b{i, j};
        const DrainAt drain = net.drain(b);
        if (!net.isRiver(b) || drain.drains != Drains::On || !net.isRiver(drain.next)) continue;
        const int from = pieceAt(b), to = pieceAt(drain.next);
        QVERIFY(from >= 0 && to >= 0);
        QCOMPARE(from, to);
        ++joined;
      }
    qInfo("%d joined", joined);
    QVERIFY(joined > 50);
  }

  /// Rivers and lakes are the same wherever one asks from; each node of land has one river through
  /// it, and what ends in a river is counted there.
  void riversAreNamedAndMeasured() {
    const auto world = worldOf(wet());
    const auto all = findRivers(*world, {-900, 500}, 1500).value();
    const auto some = findRivers(*world, {-500, 300}, 700).value();
    QVERIFY(all.size() > 20 && some.size() > 3);
    std::map<std::string, const RiverFigures*> named;
    for (const RiverFigures& r : all) QVERIFY(named.emplace(r.name(), &r).second);
    for (const RiverFigures& r : some) {
      const RiverFigures* same = named.at(r.name());
      QCOMPARE(r.line, same->line);
      QCOMPARE(r.drop, same->drop);
      QCOMPARE(r.tributaries, same->tributaries);
      QVERIFY(r.end == same->end);
    }
    QVERIFY(std::is_sorted(
        all.begin(), all.end(), [](const auto& a, const auto& b) { return a.length > b.length; }));
    Drainage::Reader net(world->water()->drainage());
    std::map<Cell, int> through;
    for (const RiverFigures& r : all) {
      QVERIFY(r.drop >= 0 && r.length > 0 && r.sinuosity >= 1);
      double length = 0;
      for (size_t n = 1; n < r.line.size(); ++n)
        length += std::hypot(static_cast<double>(r.line[n].x - r.line[n - 1].x),
            static_cast<double>(r.line[n].z - r.line[n - 1].z));
      QCOMPARE(length, r.length);
      // The last node is that of what it ends in.
      for (size_t n = 0; n + 1 < r.line.size(); ++n)
        if (const DrainAt at = net.drain(brickOf(r.line[n])); at.drains == Drains::On)
          ++through[r.line[n]];
      if (r.end == RiverEnd::Sea) QVERIFY(net.drain(brickOf(r.mouth)).drains == Drains::Sea);
      if (r.end == RiverEnd::River) QVERIFY(net.isRiver(brickOf(r.mouth)));
      if (r.end == RiverEnd::Lake || r.end == RiverEnd::ClosedLake) {
        QVERIFY(net.lake(r.into));
        QVERIFY(r.ending().ends_with(fmt::format("L{},{}", r.into.i, r.into.j)));
      }
      if (r.end == RiverEnd::Nowhere) QVERIFY(r.ending().starts_with("sink S"));
    }
    for (const auto& [cell, count] : through) QCOMPARE(count, 1);
    const auto lakes = findLakes(*world, {-900, 500}, 1500).value();
    QVERIFY(lakes.size() > 5);
    for (const LakeFigures& l : lakes) {
      QVERIFY(l.bricks > 0 && l.area >= l.bricks && l.depth > 0);
      if (l.bottom.x < -1300 || l.bottom.x > -500 || l.bottom.z < 100 || l.bottom.z > 900) continue;
      const CellValue deepest = world->at(l.bottom);
      QCOMPARE(deepest.water.kind, WaterKind::Lake);
      QCOMPARE(deepest.water.level, l.level);
      QVERIFY(std::abs(static_cast<double>(l.level) - static_cast<double>(deepest.before) -
                       l.depth) < 0.01);
    }
    QVERIFY(!findRivers(*world, {0, 0}, 0));
    QVERIFY(!findLakes(*world, {0, 0}, kFarthestWater + 1));
  }

  /// A river's profile goes from its spring downhill in one piece, over its own water.
  void profilesRunAlongRivers() {
    const auto world = worldOf(wet("b", 0));
    const auto rivers = findRivers(*world, {-900, 500}, 1200).value();
    int whole = 0, points = 0, inWater = 0;
    for (const RiverFigures& river : rivers) {
      const RiverProfile profile = profileOf(*world, river).value();
      QVERIFY(profile.points.size() >= 2 && profile.points.size() <= kMostProfilePoints);
      const auto apart = [](Cell a, Cell b) {
        return std::hypot(static_cast<double>(a.x - b.x), static_cast<double>(a.z - b.z));
      };
      QVERIFY(apart(profile.points.front().cell, river.source) < 14);
      for (size_t n = 0; n < profile.points.size(); ++n) {
        const ProfilePoint& p = profile.points[n];
        QVERIFY(p.bed <= p.before);
        const WaterKind kind = world->at(p.cell).water.kind;
        ++points;
        inWater += kind != WaterKind::Dry;
        if (n == 0) continue;
        const ProfilePoint& last = profile.points[n - 1];
        QVERIFY(p.along >= last.along);
        QVERIFY(p.level <= last.level);
        // In one piece, but for the way across a lake.
        if (p.width > 0 && last.width > 0)
          QVERIFY2(apart(p.cell, last.cell) < 12,
              qPrintable(QStringLiteral("%1 point %2 of %3: %4,%5 after %6,%7")
                             .arg(QString::fromStdString(river.name()))
                             .arg(n)
                             .arg(profile.points.size())
                             .arg(p.cell.x)
                             .arg(p.cell.z)
                             .arg(last.cell.x)
                             .arg(last.cell.z)));
      }
      if (river.end == RiverEnd::Sea) {
        QVERIFY(apart(profile.points.back().cell, river.mouth) < 60);
        ++whole;
      }
      // Courses wind about the straight way from node to node.
      QVERIFY(profile.length() > 0.6 * river.length - 40);
    }
    QVERIFY(whole > 0);
    QVERIFY2(
        inWater > points * 0.95, qPrintable(QStringLiteral("%1 of %2").arg(inWater).arg(points)));
    std::stop_source stop;
    stop.request_stop();
    QVERIFY(!profileOf(*world, rivers.front(), stop.get_token()));
  }

  /// Lines of rivers lie on water, inside their area, downhill, and are long.
  void linesLieOnWater() {
    const auto world = worldOf(wet());
    const Rect area{-1300, 120, 640, 512};
    const auto paths = riverPaths(*world, area).value();
    QVERIFY(paths.size() > 10);
    size_t places = 0, longest = 0, wet = 0, pieces = 0;
    for (int64_t j = 0; j < 24; ++j)
      for (int64_t i = -42; i < -20; ++i) pieces += world->water()->coursesOf({i, j}, {})->size();
    for (const RiverPath& path : paths) {
      QVERIFY(path.places.size() >= 2);
      longest = std::max(longest, path.places.size());
      for (size_t n = 0; n < path.places.size(); ++n) {
        const RiverPlace& p = path.places[n];
        QVERIFY(p.x >= 0 && p.z >= 0 && p.x < 640 && p.z < 512 && p.width > 0);
        ++places;
        const Cell cell{area.x + static_cast<int64_t>(p.x), area.z + static_cast<int64_t>(p.z)};
        wet += world->at(cell).water.kind != WaterKind::Dry;
        if (n == 0) continue;
        const RiverPlace& last = path.places[n - 1];
        QVERIFY(p.level <= last.level);
        QVERIFY(std::hypot(p.x - last.x, p.z - last.z) < 12);
      }
    }
    QCOMPARE(wet, places);
    qInfo("%zu lines of %zu pieces, the longest of %zu places", paths.size(), pieces, longest);
    QVERIFY(paths.size() * 2 < pieces && longest > 60);
    // A part of the area has the same lines, cut.
    const auto part = riverPaths(*world, {area.x + 100, area.z + 50, 300, 300}).value();
    std::set<std::pair<double, double>> known;
    for (const RiverPath& path : paths)
      for (const RiverPlace& p : path.places) known.insert({p.x, p.z});
    for (const RiverPath& path : part)
      for (const RiverPlace& p : path.places) QVERIFY(known.contains({p.x + 100, p.z + 50}));
  }

  void linesAreWritten() {
    const auto world = worldOf(wet());
    QTemporaryDir folder;
    const std::string json = folder.filePath("r.geojson").toStdString();
    const std::string svg = folder.filePath("r.svg").toStdString();
    MapRequest request;
    request.grid = {-1300, 120, 2, 320, 256};
    request.show.kind = PictureKind::Height;
    request.style.contours = 8;
    request.rivers = true;
    request.format = MapFormat::GeoJson;
    const auto report = writeMap(*world, request, json).value();
    QVERIFY(report.lines > 3 && report.rivers > 10);
    const auto read = nlohmann::json::parse(std::ifstream(json));
    QCOMPARE(read["type"], "FeatureCollection");
    QVERIFY(read["axes"].get<std::string>().starts_with("cells"));
    const auto paths = riverPaths(*world, {-1300, 120, 640, 512}).value();
    size_t contours = 0, rivers = 0;
    for (const auto& feature : read["features"]) {
      const auto& line = feature["geometry"]["coordinates"];
      QCOMPARE(feature["geometry"]["type"], "LineString");
      if (feature["properties"]["kind"] == "contour") {
        // A contour passes between cells on either side of its altitude.
        const auto& p = line[line.size() / 2];
        const double x = p[0].get<double>() - 0.5, z = p[1].get<double>() - 0.5;
        float low = 1e9f, high = -1e9f;
        for (const double dx : {0.0, 2.0})
          for (const double dz : {0.0, 2.0}) {
            const auto even = [](double v) { return static_cast<int64_t>(std::floor(v / 2)) * 2; };
            const float h =
                world->at({even(x) + static_cast<int64_t>(dx), even(z) + static_cast<int64_t>(dz)})
                    .height;
            low = std::min(low, h);
            high = std::max(high, h);
          }
        QVERIFY(p[2].get<float>() >= low - 0.01f && p[2].get<float>() <= high + 0.01f);
        ++contours;
        continue;
      }
      const RiverPath& path = paths.at(rivers++);
      QCOMPARE(line.size(), path.places.size());
      QCOMPARE(feature["properties"]["widths"].size(), path.places.size());
      for (size_t n = 0; n < path.places.size(); ++n) {
        QVERIFY(std::abs(line[n][0].get<double>() + 1300 - path.places[n].x) < 0.001);
        QVERIFY(std::abs(line[n][2].get<double>() - path.places[n].level) < 0.001);
      }
    }
    QCOMPARE(contours, report.lines);
    QCOMPARE(rivers, report.rivers);
    // The same in the other format; rivers alone ask for no interval.
    request.format = MapFormat::Svg;
    request.style.contours = 0;
    QCOMPARE(writeMap(*world, request, svg).value().rivers, rivers);
    QXmlStreamReader xml(QString::fromStdString(readWholeFile(svg, 1 << 22).value()));
    size_t drawn = 0;
    while (!xml.atEnd())
      if (xml.readNext() == QXmlStreamReader::StartElement &&
          xml.name() == QStringLiteral("path")) {
        ++drawn;
        QCOMPARE(
            xml.attributes().value(QStringLiteral("class")).toString(), QStringLiteral("river"));
        const double width = xml.attributes().value(QStringLiteral("data-width")).toDouble();
        QVERIFY(std::abs(xml.attributes().value(QStringLiteral("stroke-width")).toDouble() -
                         width / 2) < 0.02);
      }
    QVERIFY(!xml.hasError() && drawn >= rivers);
    // What is refused.
    request.rivers = false;
    QCOMPARE(writeMap(*world, request, svg).error().where, "--contours");
    request.rivers = true;
    request.format = MapFormat::Tiff;
    QCOMPARE(writeMap(*world, request, svg).error().where, "--rivers");
    request.format = MapFormat::GeoJson;
    request.grid.step = 200;
    QCOMPARE(writeMap(*world, request, svg).error().where, "--size, --step");
    Recipe dry = wet();
    dry.rivers->on = false;
    request.grid.step = 2;
    QCOMPARE(writeMap(*worldOf(dry), request, svg).error().where, "--rivers");
  }

  /// The figures of an area are those of its quarters together, and of its cells.
  void areasAreSummedUp() {
    const auto world = worldOf(wet());
    const Rect area{-1300, 120, 256, 256};
    const WaterSummary all = waterSummary(*world, area).value();
    QCOMPARE(all.step, 1);
    size_t rivers = 0, lakes = 0;
    double deepest = 0, length = 0;
    for (const int64_t dx : {0, 128})
      for (const int64_t dz : {0, 128}) {
        const auto part = waterSummary(*world, {area.x + dx, area.z + dz, 128, 128}).value();
        rivers += part.rivers.size();
        lakes += part.lakes.size();
        length = std::max(length, part.length);
        deepest = std::max(deepest, part.deepest);
      }
    QVERIFY(rivers > 3);
    QCOMPARE(all.rivers.size(), rivers);
    QCOMPARE(all.lakes.size(), lakes);
    QCOMPARE(all.deepest, deepest);
    QVERIFY(all.length > length);
    const Cells cells = cellsOf(*world, area.x, area.z, 256);
    const auto of = [&](WaterKind kind) {
      return static_cast<double>(std::count(cells.kinds.begin(), cells.kinds.end(), kind));
    };
    const double land = 256 * 256 - of(WaterKind::Sea);
    QCOMPARE(all.lakeShare, of(WaterKind::Lake) / land);
    QCOMPARE(all.riverShare, of(WaterKind::River) / land);
    size_t ended = 0;
    for (const RiverEnd end :
        {RiverEnd::Sea, RiverEnd::Lake, RiverEnd::ClosedLake, RiverEnd::River, RiverEnd::Nowhere})
      ended += all.ends(end);
    QCOMPARE(ended, all.rivers.size());
    const auto [small, middle, large] = all.sizes();
    QCOMPARE(small + middle + large, all.lakes.size());
    QVERIFY(summaryLines(all).size() >= 5);
    // A large view is summed up in its middle.
    QCOMPARE(summaryPart({-10'000, 0, 20'000, 300}), (Rect{-2048, 0, 4096, 300}));
    QVERIFY(!waterSummary(*world, {0, 0, 5000, 10}).ok());
    QVERIFY(!fallsIn(*world, {0, 0, 10, 0}).ok());
  }

  /// What is shown of a hollow is what the network says of it.
  void basinsAreReplayed() {
    const auto world = worldOf(wet());
    Drainage::Reader net(world->water()->drainage());
    std::set<Brick> pits;
    std::array<int, kBasinActs> met{};
    for (int64_t z = -800; z < 1600; z += 160)
      for (int64_t x = -2000; x < 400; x += 160) {
        const auto found = replayBasin(*world, {x, z});
        if (!found) {
          QVERIFY(found.error().what.find("sea") != std::string::npos);
          continue;
        }
        if (!pits.insert(found->pit).second) continue;
        const BasinReplay& r = *found;
        std::set<Brick> flooded;
        for (size_t n = 0; n < r.steps.size(); ++n) {
          const BasinStep& s = r.steps[n];
          ++met[static_cast<size_t>(s.act)];
          QVERIFY(!r.told(n).empty());
          QVERIFY(n == 0 || s.act >= r.steps[n - 1].act);
          if (s.act == BasinAct::Flood) {
            QVERIFY(flooded.insert(s.brick).second);
            QVERIFY(n == 0 || s.level >= r.steps[n - 1].level);
            QVERIFY(s.level <= r.spill);
          }
          if (s.act == BasinAct::Capture) QCOMPARE(s.to, net.nodeOf(net.drain(s.brick).next));
          if (s.act == BasinAct::Course) {
            QCOMPARE(s.area, net.area(s.brick));
            QCOMPARE(s.to, net.nodeOf(net.drain(s.brick).next));
          }
        }
        QCOMPARE(r.steps[r.first(BasinAct::Spill)].level, r.spill);
        QCOMPARE(r.steps[r.first(BasinAct::Spill)].act, BasinAct::Spill);
        const Drainage::Reader::LevelAt at = net.level(r.pit);
        QCOMPARE(r.lake, at.lake && at.key.brick == r.pit);
        if (r.lake) {
          QVERIFY(r.level > r.low && r.level <= r.spill + 0.01);
          // The lake holds what was flooded first.
          for (const Brick b : r.lakeBricks) QVERIFY(flooded.contains(b) || r.level <= -20);
        }
        const auto way = net.outlet(r.pit);
        const size_t steps = r.first(BasinAct::Capture) < r.steps.size()
                                 ? r.first(BasinAct::Capture)
                                 : r.first(BasinAct::Course);
        const size_t first = r.first(BasinAct::Outlet);
        if (way && way->found)
          QCOMPARE(std::min(steps, r.steps.size()) - first, way->way.size() - 1);
        else
          QCOMPARE(first, r.steps.size());
      }
    QVERIFY(pits.size() > 10);
    for (const int count : met) QVERIFY(count > 0);
    std::stop_source stop;
    stop.request_stop();
    QVERIFY(!replayBasin(*worldOf(wet("c")), {0, 0}, stop.get_token()));
    Recipe off = wet();
    off.rivers->on = false;
    QVERIFY(!replayBasin(*worldOf(off), {0, 0}));
  }

  /// Falls are few and low, or told: one in a hundred thousand cells, two high.
  void fallsAreCounted() {
    Falls falls;
    falls.water = 150'000;
    QVERIFY(falls.few());
    falls.falls = {{{0, 0}, {1, 0}, 5, 1}, {{0, 0}, {0, 1}, 5, 2}};
    QVERIFY(falls.few());
    falls.falls.push_back({{3, 3}, {3, 4}, 5, 1});
    QVERIFY(!falls.few());
    falls.falls = {{{0, 0}, {1, 0}, 5, 3}};
    QVERIFY(!falls.few());
  }

  /// Ways from node to node of different rivers do not cross, and go everywhere alike.
  void riversDoNotCrossAndKnowNoLattice() {
    struct Segment {
      Cell from, to;
    };
    const auto side = [](Cell a, Cell b, Cell c) {
      return (b.x - a.x) * (c.z - a.z) - (b.z - a.z) * (c.x - a.x);
    };
    std::array<double, 16> bins{};
    int met = 0;
    for (uint32_t n = 0; n < 4; ++n) {
      Recipe recipe = wet("directions " + std::to_string(n));
      const auto world = worldOf(recipe);
      Drainage::Reader net(world->water()->drainage());
      std::map<Brick, Segment> all;
      for (int64_t j = -60; j < 60; ++j)
        for (int64_t i = -60; i < 60; ++i) {
          const Brick b{i, j};
          const DrainAt drain = net.drain(b);
          if (!net.isRiver(b) || drain.drains != Drains::On) continue;
          const Segment s{net.nodeOf(b), net.nodeOf(drain.next)};
          all.emplace(b, s);
          const auto dx = static_cast<double>(s.to.x - s.from.x);
          const auto dz = static_cast<double>(s.to.z - s.from.z);
          const double turn = std::atan2(dz, dx) / (2 * M_PI) + 1;
          bins[static_cast<size_t>(turn * 16) % 16] += std::hypot(dx, dz);
        }
      for (const auto& [b, s] : all)
        for (int64_t dj = -2; dj <= 2; ++dj)
          for (int64_t di = -2; di <= 2; ++di) {
            const auto other = all.find({b.i + di, b.j + dj});
            if (other == all.end() || !(b < other->first)) continue;
            const Segment& o = other->second;
            if (s.from == o.to || s.to == o.from || s.to == o.to) continue;
            ++met;
            const bool cross = (side(s.from, s.to, o.from) > 0) != (side(s.from, s.to, o.to) > 0) &&
                               (side(o.from, o.to, s.from) > 0) != (side(o.from, o.to, s.to) > 0);
            QVERIFY2(!cross, qPrintable(QStringLiteral("%1,%2 and %3,%4")
                                            .arg(s.from.x)
                                            .arg(s.from.z)
                                            .arg(o.from.x)
                                            .arg(o.from.z)));
          }
    }
    QVERIFY(met > 5000);
    const auto [least, most] = std::minmax_element(bins.begin(), bins.end());
    qInfo("%d neighbours, directions %.2f", met, *most / *least);
    QVERIFY(*most < 2.2 * *least);
  }

  /// Known mistakes are found, and mended by what their mend sets.
  void mistakesAreFound_data() {
    QTest::addColumn<QString>("id");
    QTest::newRow("nothing springs") << "no-rivers";
    QTest::newRow("all in closed lakes") << "dead-rivers";
    QTest::newRow("a lake in every hollow") << "much-lake";
    QTest::newRow("no sea") << "no-mouth";
    QTest::newRow("gorges") << "deep-channel";
    QTest::newRow("long rivers") << "cut-area";
    QTest::newRow("wide rivers") << "side-by-side";
  }
  void mistakesAreFound() {
    QFETCH(QString, id);
    Recipe recipe = wet();
    Rivers& rivers = *recipe.rivers;
    if (id == "no-rivers") rivers.spring = 1000;
    if (id == "dead-rivers") rivers.lakes = rivers.closed = 1;
    if (id == "much-lake") rivers.lakes = 1;
    if (id == "no-mouth") recipe.frame.seaLevel = -500;
    if (id == "cut-area") std::get<NoiseSource>(recipe.heights.layers[0].source).width = 200;
    if (id == "side-by-side") {
      rivers.spring = 1;
      rivers.growth = 4;
    }
    if (id == "deep-channel") {
      rivers.carve = 2;
      rivers.lakes = 0;
      recipe.heights.layers[0].amplitude *= 6;
    }
    const auto found = [&](const Recipe& of) -> std::optional<Check> {
      auto engine = std::move(Engine::create({})).value();
      const auto checks = *runChecks(*engine, **engine->compile(of));
      for (const Check& check : checks)
        if (check.id == id.toStdString()) return check;
      return {};
    };
    const auto check = found(recipe);
    QVERIFY(check);
    QCOMPARE(check->stage, StageId::Water);
    QVERIFY(check->pointer.starts_with("/rivers/") && !whatIs(check->id).empty());
    QCOMPARE(check->apply != nullptr, !check->mend.empty());
    if (!check->apply) return;
    Recipe mended = recipe;
    check->apply(mended);
    QVERIFY(mended != recipe);
    QVERIFY(validate(mended).ok());
  }

  /// Off, or where nothing is read of it, everything is as before.
  void offIsAsBefore() {
    Recipe dry = dryDemo("saltfen-reach");
    Recipe off = dry;
    off.rivers->spring = 3;  // Kept, out of the world.
    const auto a = worldOf(dry), b = worldOf(off);
    QVERIFY(!a->water() && !b->water());
    std::vector<float> one(1024), other(1024);
    QVERIFY(a->sample({-500, 700, 1, 32, 32}, one.data(), nullptr));
    QVERIFY(b->sample({-500, 700, 1, 32, 32}, other.data(), nullptr));
    QVERIFY(one == other);
    off.rivers->on = true;
    QVERIFY(worldOf(off)->water() != nullptr);
  }

  void whatIsNotAccepted_data() {
    QTest::addColumn<QString>("member");
    QTest::addColumn<double>("value");
    QTest::newRow("spring") << "spring" << 0.0;
    QTest::newRow("spring of a half") << "spring" << 2.5;
    QTest::newRow("carve") << "carve" << 1e9;
    QTest::newRow("lakes") << "lakes" << 1.5;
    QTest::newRow("widest") << "widest" << 27.0;
    QTest::newRow("valley") << "valley" << -1.0;
  }
  void whatIsNotAccepted() {
    QFETCH(QString, member);
    QFETCH(double, value);
    Recipe r = wet();
    Rivers& w = *r.rivers;
    double* const at = member == "spring"   ? &w.spring
                       : member == "carve"  ? &w.carve
                       : member == "lakes"  ? &w.lakes
                       : member == "widest" ? &w.widest
                                            : &w.valley;
    *at = value;
    const Status checked = validate(r);
    QVERIFY(!checked);
    QCOMPARE(QString::fromStdString(checked.error().where), "/rivers/" + member);
    QVERIFY(!checked.error().accepted.empty());
  }

  void roots() {
    for (const int64_t v : {0, 1, 2, 3, 4, 15, 16, 17})
      QCOMPARE(wholeRoot(v), static_cast<int64_t>(std::sqrt(static_cast<double>(v))));
    for (int64_t root = 1; root < (int64_t{1} << 26); root = root * 3 + 1) {
      QCOMPARE(wholeRoot(root * root), root);
      QCOMPARE(wholeRoot(root * root - 1), root - 1);
    }
  }
};

ACRE_SUITE(WaterTest)
#include "water_test.moc"
