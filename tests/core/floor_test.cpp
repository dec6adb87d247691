// Levels as worlds: one floor, cut into chunks, its rock by depth, changed by hand, looked at.
#include <png.h>

#include <QTemporaryDir>
#include <QtTest>
#include <algorithm>
#include <fstream>
#include <map>
#include <random>
#include <set>

#include "audit/checks.h"
#include "audit/level_audit.h"
#include "audit/plumb.h"
#include "audit/proof.h"
#include "cave/level_stage.h"
#include "cave/open_spaces.h"
#include "recipe/cave_recipe.h"
#include "recipe/edits.h"
#include "recipe/json.h"
#include "reference/evaluator.h"
#include "strata/blocks.h"
#include "suite.h"
#include "world/demos.h"
#include "world/engine.h"
#include "world/fingerprint.h"
#include "world/world.h"

using namespace acre;

namespace {

std::unique_ptr<Engine> engineOf(const char* simd = "") {
  EngineOptions options;
  options.threads = 2;
  options.simd = simd;
  return std::move(Engine::create(options).value());
}

Recipe underkiln(int floor = 1) {
  Recipe recipe = loadRecipe("underkiln").value();
  recipe.level->floor = floor;
  return recipe;
}

std::shared_ptr<const World> worldOf(const Recipe& recipe, const char* simd = "") {
  auto world = engineOf(simd)->compile(recipe);
  if (!world) qFatal("%s", world.error().text().c_str());
  return *world;
}

/// A small floor with every kind of process.
Recipe small() {
  Recipe r;
  r.name = "Small";
  r.seed = "5";
  r.frame.kind = WorldKind::Level;
  r.frame.chunkSize = 16;
  r.frame.x = AxisBounds{-20, 70};
  r.frame.z = AxisBounds{-31, 55};
  r.materials = {{"tile", "Tile", {}, MaterialState::Passable},
      {"wall", "Wall", {}, MaterialState::Solid}, {"near", "Near", {}, MaterialState::Solid},
      {"far", "Far", {}, MaterialState::Solid}, {"bed", "Bed", {}, MaterialState::Solid},
      {"ore", "Ore", {}, MaterialState::Solid}, {"way-in", "Way in", {}, MaterialState::Passable}};
  Layer hills;
  hills.id = "hills";
  NoiseSource noise;
  noise.width = 30;
  hills.source = noise;
  hills.amplitude = 4;
  r.heights.layers = {hills};
  r.bands = {{"far", Threshold{-3, false, {}}, "far", {}}, {"near", {}, "near", {}}};
  r.layers = {{"lining", "wall", 1, {}, 0}, {"ground", kSurfaceId, 3, {}, 0}};
  r.rock.beds = {{"bed-1", "bed", 16}};
  Ore ore;
  ore.id = "ore";
  ore.material = "ore";
  ore.share = 0.2;
  ore.radius = 1.5;
  r.ores = {ore};
  r.level->open = "tile";
  r.level->margin = 3;
  r.level->lastFloor = 9;
  FilledAutomaton cavern;
  NoiseWalls walls;
  walls.refill = false;
  walls.band.noise.width = 14;
  walls.band.low = 0.5;
  walls.band.high = 2;
  DiggingWalks walks;
  walks.walkers = {2, 0.5};
  walks.steps = {80, 0};
  walks.radius = 1;
  LevelBody body;
  body.floods = {9, 0};
  body.size = {30, 2};
  LevelRooms rooms;
  rooms.pieces = {
      {"cell", "#####\n#.a.#\n#...\x2e\n#####\n", {}}, {"nook", " ## \n#..#\n", {}, 2.5}};
  rooms.count = {4, 0};
  r.level->processes = {{"cavern", "Cavern", true, cavern}, {"walls", "Walls", true, walls},
      {"walks", "Walks", true, walks}, {"body", "Body", true, body},
      {"rooms", "Rooms", true, rooms}, {"ways", "Ways", true, LevelSpaces{}}};
  r.level->places = {{"start", "Start", "way-in", "", 0, "", 0, 0, true},
      {"goal", "Goal", kUnassignedId, "", 0, "start", 12, 0, true}};
  return r;
}

/// Writes a PNG of grey, white or clear pixels.
void writePng(const std::string& file, const std::vector<std::string>& rows, int cut = 0) {
  std::vector<uint8_t> pixels;
  for (const std::string& row : rows)
    for (const char c : row) {
      const uint8_t grey = c == '#' ? 0 : c == '?' ? 128 : 255;
      pixels.insert(pixels.end(), {grey, grey, grey, static_cast<uint8_t>(c == ' ' ? 0 : 255)});
    }
  png_image image = {};
  image.version = PNG_IMAGE_VERSION;
  image.width = static_cast<uint32_t>(rows[0].size());
  image.height = static_cast<uint32_t>(rows.size());
  image.format = PNG_FORMAT_RGBA;
  QVERIFY(png_image_write_to_file(&image, file.c_str(), 0, pixels.data(), 0, nullptr));
  if (cut == 0) return;
  std::ifstream in(file, std::ios::binary);
  std::string bytes((std::istreambuf_iterator<char>(in)), {});
  in.close();
  std::ofstream(file, std::ios::binary) << bytes.substr(0, bytes.size() - static_cast<size_t>(cut));
}

}  // namespace

class FloorTest : public QObject {
  Q_OBJECT

 private:
  /// Every cell by the plain code, a grid and the second evaluator.
  void agreeEverywhere(const Recipe& recipe) {
    const auto world = worldOf(recipe);
    const Rect all = world->bounds();
    const SampleGrid grid{all.x - 2, all.z - 2, 1, static_cast<int32_t>(all.width) + 4,
        static_cast<int32_t>(all.length) + 4};
    const auto room = static_cast<size_t>(grid.width) * static_cast<size_t>(grid.length);
    std::vector<float> heights(room);
    std::vector<MaterialIndex> materials(room);
    QVERIFY(world->sample(grid, heights.data(), materials.data()));
    reference::Evaluator evaluator(recipe);
    std::map<std::string, int> seen;
    for (size_t n = 0; n < room; ++n) {
      const Cell cell{grid.x + static_cast<int64_t>(n) % grid.width,
          grid.z + static_cast<int64_t>(n) / grid.width};
      const CellValue one = world->at(cell);
      QCOMPARE(one.material, materials[n]);
      QCOMPARE(one.height, heights[n]);
      QCOMPARE(world->columns().heightAt(cell), heights[n]);
      const reference::CellValue expected = evaluator.evaluate(cell);
      const std::string id = world->catalogue().materialId(materials[n]);
      ++seen[id];
      if (id != expected.material || heights[n] != expected.height)
        QFAIL(qPrintable(QStringLiteral("%1,%2: %3 %4, expected %5 %6")
                             .arg(cell.x)
                             .arg(cell.z)
                             .arg(QString::fromStdString(id))
                             .arg(static_cast<double>(heights[n]))
                             .arg(QString::fromStdString(expected.material))
                             .arg(static_cast<double>(expected.height))));
    }
    for (const Material& material : recipe.materials)
      QVERIFY2(seen[material.id] > 0, material.id.c_str());
  }

 private slots:
  void theSecondEvaluatorAgrees() { agreeEverywhere(small()); }

  /// Floors count against the limit of memory, and one that nobody looks at makes way.
  void floorsCountAgainstTheLimit() {
    EngineOptions options;
    options.memoBytes = 0;
    const auto engine = Engine::create(options).value();
    const auto world = engine->compile(underkiln()).value();
    const uint64_t cells = uint64_t{160} * 120;
    QVERIFY(engine->budget().used() >= cells * sizeof(uint16_t) + cells / 8);
    const uint64_t one = engine->budget().used();
    Recipe other = underkiln();
    other.materials[0].colour = {1, 2, 3};
    other.level->walls = 9;
    QVERIFY(engine->compile(other).ok());
    QCOMPARE(engine->budget().used(), one);  // The same floor.

    options.memoryLimit = one + one / 2;
    const auto narrow = Engine::create(options).value();
    QVERIFY(narrow->compile(underkiln(1)).ok());
    {
      const auto second = narrow->compile(underkiln(2));  // The first one makes way.
      QVERIFY2(second.ok(), second.ok() ? "" : second.error().text().c_str());
      const auto third = narrow->compile(underkiln(3));  // The second is in use.
      QVERIFY(!third.ok());
      QCOMPARE(third.error().code, Error::Code::ResourceExhausted);
      QCOMPARE(third.error().where, std::string("/frame/bounds"));
      QVERIFY(narrow->budget().used() <= options.memoryLimit);
    }
    QVERIFY(narrow->compile(underkiln(3)).ok());
  }

  /// What the rock of a floor is measured by is kept: another share of an ore makes the ore alone.
  void theRockOfAFloorIsMeasuredOnce() {
    const auto engine = engineOf();
    Recipe recipe = underkiln();
    QVERIFY(!recipe.ores.empty());
    const auto world = engine->compile(recipe).value();
    const uint64_t before = engine->poolFigures().compiled;
    recipe.ores[0].share /= 2;
    QVERIFY(engine->compile(recipe).ok());
    QCOMPARE(engine->poolFigures().compiled, before + 1);
  }

  void itAgreesOnOtherFloorsAndSeeds() {
    for (const int floor : {2, 9}) {
      Recipe r = small();
      r.level->floor = floor;
      r.seed = "floor " + std::to_string(floor);
      agreeEverywhere(r);
    }
  }

  void itAgreesOfTheDemo() { agreeEverywhere(underkiln(7)); }

  /// Edges that stay or are open, discs and rectangles, marks, spaces that are left, no beds.
  void itAgreesOfTheRest() {
    Recipe r = small();
    auto& list = r.level->processes;
    std::get<FilledAutomaton>(list[0].what).edge = AutomatonLayer::Edge::Left;
    std::get<NoiseWalls>(list[1].what).refill = true;
    std::get<LevelBody>(list[3].what).round = false;
    std::get<LevelRooms>(list[4].what).turn = false;
    std::get<LevelRooms>(list[4].what).count = {12, 0};
    std::get<LevelRooms>(list[4].what).pieces[0].share = 8;
    std::get<LevelSpaces>(list[5].what).join = false;
    FilledAutomaton again;
    again.refill = false;
    again.rule = "B0678/S45678";
    again.edge = AutomatonLayer::Edge::Empty;
    again.steps = {2, 0};
    list.insert(list.begin() + 2, {"again", "Again", true, again});
    r.level->places = {{"start", "Start", "way-in", "a", 0, "", 0, 0, true},
        {"aside", "Aside", kUnassignedId, "", 1, "", 0, 0, false}};
    r.rock.beds.clear();
    r.ores.clear();
    std::erase_if(r.materials, [](const Material& m) { return m.id == "bed" || m.id == "ore"; });
    agreeEverywhere(r);
  }

  /// A floor with brooks of a material of their own.
  static Recipe brooks(const LevelCourses& how, int seed = 3) {
    Recipe r = small();
    r.seed = std::to_string(seed);
    r.materials.push_back({"brook", "Brook", {70, 110, 140}, MaterialState::Passable});
    auto& list = r.level->processes;
    list.insert(list.end() - 2, {"brooks", "Brooks", true, how});
    std::get<LevelCourses>(list[list.size() - 3].what).material = "brook";
    return r;
  }

  void itAgreesOfCourses() {
    LevelCourses dug;
    dug.count = {4, 0};
    dug.feature = 5;
    agreeEverywhere(brooks(dug));
    dug.join = true;
    dug.share = {0.3, 0};
    agreeEverywhere(brooks(dug, 8));
    LevelCourses open;
    open.count = {3, 1};
    open.dig = false;
    open.share = {0.02, 0};
    open.winding = 6;
    agreeEverywhere(brooks(open, 2));
  }

  /// Seven from edge to edge of a floor of 256 x 256 cells: whole chains, and every failure told.
  void coursesAreChainsOrFaults() {
    const int64_t side = 256, margin = 3;
    std::map<CourseFault, int> faults;
    int found[2] = {};
    for (const double share : {0.2, 0.5})
      for (int seed = 1; seed <= 6; ++seed) {
        LevelCourses how;
        how.count = {7, 0};
        how.share = {share, 0};
        Recipe r = brooks(how, seed);
        r.frame.x = r.frame.z = AxisBounds{-100, side};
        r.level->processes = {r.level->processes[r.level->processes.size() - 3]};
        r.level->places.clear();
        const auto world = worldOf(r);
        const LevelFloor& floor = world->level()->floor();
        QCOMPARE(floor.courses.size(), size_t{7});
        for (const LaidCourse& course : floor.courses) {
          ++faults[course.fault];
          QCOMPARE(course.cells.empty(), course.fault != CourseFault::None);
          if (course.cells.empty()) continue;
          ++found[share > 0.4];
          const auto at = [&](uint32_t cell) { return Cell{cell % side, cell / side}; };
          for (size_t n = 0; n < course.cells.size(); ++n) {
            const Cell c = at(course.cells[n]);
            QVERIFY(!floor.plane.at(static_cast<int32_t>(c.x), static_cast<int32_t>(c.z)));
            const Cell before = at(course.cells[n > 0 ? n - 1 : 0]);
            QCOMPARE(std::abs(c.x - before.x) + std::abs(c.z - before.z), int64_t{n > 0});
            QCOMPARE(world->at({c.x - 100, c.z - 100}).material,
                static_cast<MaterialIndex>(r.materials.size()));
          }
          // From side to side, but for what obstacles are at the edge.
          const Cell a = at(course.cells[0]), b = at(course.cells.back());
          const bool south = course.number % 2 == 1;
          const int64_t way = south ? b.z - a.z : b.x - a.x;
          QVERIFY2(way > side - 2 * margin - 60, std::to_string(way).c_str());
        }
      }
    QVERIFY2(found[0] > 36 && found[1] < found[0], std::to_string(found[1]).c_str());
    QVERIFY(faults[CourseFault::NoPath] + faults[CourseFault::TooLong] > 0);
    int sum = 0;
    for (const auto& [fault, count] : faults) sum += count;
    QCOMPARE(sum, 7 * 12);
  }

  /// A place that must be there never stands in a brook.
  void placesStandBesideCourses() {
    LevelCourses how;
    how.count = {8, 0};
    how.feature = 4;
    for (int seed = 1; seed <= 12; ++seed) {
      const auto world = worldOf(brooks(how, seed));
      for (const FoundPlace& place : world->level()->floor().places)
        QVERIFY(!world->level()->courseAt(world->level()->cellOf(place)));
    }
  }

  /// Biomes with bands and layers of their own, regions, relief, slope bands: the rock of a level.
  void itAgreesWithBiomesInTheRock() {
    Recipe r = loadRecipe("patchwork-parish").value();
    const Recipe floor = small();
    r.frame = floor.frame;
    r.level = floor.level;
    r.materials.insert(r.materials.end(), floor.materials.begin(), floor.materials.end());
    r.layers = {{"lining", "wall", 1, {}, 0}, {"ground", kSurfaceId, 40, {}, 0}};
    r.rock.beds = floor.rock.beds;
    if (!r.biomes.list.empty()) r.biomes.list[0].layers = {{"own", "near", 2, {}, 0}};
    SlopeBand steep;
    steep.id = "steep";
    steep.from = 0.4;
    steep.material = "far";
    r.slopes = {steep};
    const auto world = worldOf(r);
    reference::Evaluator evaluator(r);
    std::set<std::string> seen;
    for (int64_t z = -31; z < 24; z += 2)
      for (int64_t x = -20; x < 50; x += 2) {
        const reference::CellValue expected = evaluator.evaluate({x, z});
        const CellValue one = world->at({x, z});
        const std::string id = world->catalogue().materialId(one.material);
        if (id != expected.material || one.height != expected.height)
          QFAIL(qPrintable(
              QStringLiteral("%1,%2: %3, expected %4")
                  .arg(x)
                  .arg(z)
                  .arg(QString::fromStdString(id), QString::fromStdString(expected.material))));
        MaterialIndex row[3];
        float heights[3];
        QVERIFY(world->sample({x - 1, z, 1, 3, 1}, heights, row));
        QCOMPARE(row[1], one.material);
        QCOMPARE(heights[1], one.height);
        seen.insert(id);
      }
    QVERIFY(seen.size() > 4);
  }

  void itAgreesFarAway() {
    Recipe r = small();
    r.frame.x->min = 2'000'000'000;
    r.frame.z->min = -2'000'000'050;
    agreeEverywhere(r);
  }

  void chunksAreCutFromTheFloor() {
    const Recipe recipe = small();
    const auto world = worldOf(recipe);
    for (const int32_t side : {1, 7, 16, 64}) {
      Recipe other = recipe;
      other.frame.chunkSize = side;
      const auto cut = worldOf(other);
      std::vector<ChunkPos> places;
      const ChunkLayout& layout = cut->layout();
      const ChunkPos first = layout.chunkOf({-20, -31}), last = layout.chunkOf({49, 23});
      for (int64_t z = first.cz; z <= last.cz; ++z)
        for (int64_t x = first.cx; x <= last.cx; ++x) places.push_back({x, z});
      std::shuffle(places.begin(), places.end(), std::mt19937(7));
      int64_t cells = 0;
      for (const ChunkPos pos : places) {
        const auto chunk = cut->chunk(pos).value();
        const auto materials = chunk->materials.unpacked();
        for (int64_t n = 0; n < chunk->rect.width * chunk->rect.length; ++n) {
          const Cell cell{
              chunk->rect.x + n % chunk->rect.width, chunk->rect.z + n / chunk->rect.width};
          const CellValue one = world->at(cell);
          QCOMPARE(materials[static_cast<size_t>(n)], one.material);
          QCOMPARE(chunk->heights[static_cast<size_t>(n)], one.height);
          ++cells;
        }
        if (side == 1 && cells > 900) break;
      }
      if (side != 1) QCOMPARE(cells, int64_t{70 * 55});
      QVERIFY(!cut->chunk({last.cx + 1, last.cz}).ok());
    }
  }

  void everyInstructionSetAndEveryStepAgree() {
    const Recipe recipe = underkiln(3);
    const auto world = worldOf(recipe, plainKernels().name);
    const Rect all = world->bounds();
    for (const Kernels* kernels : availableKernels()) {
      const auto other = worldOf(recipe, kernels->name);
      QCOMPARE(worldFingerprint(*other).hex(), worldFingerprint(*world).hex());
      QCOMPARE(areaHash(*other, all)->hex(), areaHash(*world, all)->hex());
    }
    for (const int64_t step : {2, 3, 4}) {
      const SampleGrid grid{all.x, all.z, step, 30, 25};
      std::vector<float> heights(750);
      std::vector<MaterialIndex> materials(750);
      QVERIFY(world->sample(grid, heights.data(), materials.data()));
      for (size_t n = 0; n < 750; ++n) {
        const Cell cell{all.x + static_cast<int64_t>(n % 30) * step,
            all.z + static_cast<int64_t>(n / 30) * step};
        QCOMPARE(materials[n], world->at(cell).material);
        QCOMPARE(heights[n], world->at(cell).height);
      }
    }
    // Farther apart veins are left out, and it is said.
    QVERIFY(world->approximations(4).empty());
    QCOMPARE(world->approximations(5), std::vector<std::string>{"ores"});
  }

  void scatteredCellsAndFieldsAgree() {
    const auto world = worldOf(small());
    std::vector<Cell> cells;
    std::mt19937 random(3);
    for (int n = 0; n < 500; ++n)
      cells.push_back(
          {-25 + static_cast<int64_t>(random() % 80), -36 + static_cast<int64_t>(random() % 65)});
    std::vector<float> heights(500);
    std::vector<BiomeIndex> biomes(500);
    std::vector<MaterialIndex> materials(500);
    world->columns().scattered(
        500, cells.data(), heights.data(), biomes.data(), materials.data(), Accuracy::Approximate);
    for (size_t n = 0; n < 500; ++n) {
      const CellValue one = world->at(cells[n]);
      QCOMPARE(heights[n], one.height);
      if (world->bounds().contains(cells[n])) QCOMPARE(materials[n], one.material);
    }
    // As blocks: floor below 0, walls above, air over both.
    SampleBlock block{-20, -1, -31, 1, 70, 5, 55};
    std::vector<MaterialIndex> blocks(70 * 5 * 55);
    QVERIFY(world->sampleBlocks(block, blocks.data()));
    for (int32_t z = 0; z < 55; ++z)
      for (int32_t x = 0; x < 70; ++x) {
        const CellValue one = world->at({-20 + x, -31 + z});
        for (int32_t y = -1; y < 4; ++y) {
          const MaterialIndex is = blocks[static_cast<size_t>(((y + 1) * 55 + z) * 70 + x)];
          QCOMPARE(is, static_cast<float>(y) < one.height ? one.material : kOpen);
        }
      }
  }

  void theSmallestAndTheLargestFloorAreMade() {
    Recipe r = small();
    r.frame.x = r.frame.z = AxisBounds{0, 8};
    r.level->margin = 1;
    r.level->places.clear();
    std::erase_if(r.level->processes, [](const LevelProcess& p) { return p.id == "rooms"; });
    QVERIFY(worldOf(r)->at({4, 4}).level.has_value());
    r.frame.x = r.frame.z = AxisBounds{-2048, 4096};
    r.level->margin = 512;
    const auto world = worldOf(r);
    QCOMPARE(marginOf(world->level()->floor().plane) >= 512, true);
    QCOMPARE(OpenSpaces::of(world->level()->floor().plane).spaces.size(), size_t{1});
    QVERIFY(world->chunk({0, 0}).ok());
  }

  // ---- what it is made of
  // ------------------------------------------------------------------------

  void depthIsMeasuredFromTheNearestOpenCell() {
    const auto world = worldOf(small());
    const LevelStage& level = *world->level();
    const Rect all = world->bounds();
    for (int64_t z = all.z; z < all.z + all.length; z += 3)
      for (int64_t x = all.x; x < all.x + all.width; x += 2) {
        int64_t nearest = 1000;
        for (int64_t oz = all.z; oz < all.z + all.length; ++oz)
          for (int64_t ox = all.x; ox < all.x + all.width; ++ox)
            if (level.isOpen({ox, oz}))
              nearest = std::min(nearest, std::max(std::abs(ox - x), std::abs(oz - z)));
        QCOMPARE(int64_t{level.depthAt({x, z})}, nearest);
        const CellValue one = world->at({x, z});
        if (nearest == 1)
          QCOMPARE(world->catalogue().materialId(one.material), std::string("wall"));
        if (nearest >= 5 && nearest < 900)
          QVERIFY(world->catalogue().materialId(one.material) == "bed" ||
                  world->catalogue().materialId(one.material) == "ore");
      }
  }

  void veinsTakeTheirShareOfTheBeds() {
    Recipe r = small();
    r.frame.x = r.frame.z = AxisBounds{-200, 400};
    r.level->processes.clear();
    r.level->processes.push_back({"hole", "Hole", true, DiggingWalks{}});
    r.level->places.clear();
    double sum = 0;
    for (int floor = 1; floor <= 4; ++floor) {
      r.level->floor = floor;
      const auto world = worldOf(r);
      std::vector<MaterialIndex> materials(400 * 400);
      Land land;
      land.materials = materials.data();
      QVERIFY(world->sample({-200, -200, 1, 400, 400}, land));
      int ore = 0, bed = 0;
      for (const MaterialIndex m : materials) {
        ore += world->catalogue().materialId(m) == "ore";
        bed += world->catalogue().materialId(m) == "bed";
      }
      sum += static_cast<double>(ore) / (ore + bed) / 4;
    }
    QVERIFY2(std::abs(sum - 0.2) < 0.02, qPrintable(QString::number(sum)));
  }

  void materialsChangeWithoutMakingTheFloorAgain() {
    const auto engine = engineOf();
    Recipe r = underkiln();
    const auto world = engine->compile(r).value();
    r.bands[0].material = "clinker";
    r.level->walls = 5;
    r.level->open = "spoil";
    r.level->places[0].material = "spoil";
    r.level->processes[0].name = "Other";
    const auto other = engine->compile(r).value();
    QCOMPARE(&other->level()->floor(), &world->level()->floor());
    r.level->processes[0].on = false;
    QVERIFY(&engine->compile(r).value()->level()->floor() != &world->level()->floor());
    r = underkiln(2);
    QVERIFY(!(engine->compile(r).value()->level()->floor().plane == world->level()->floor().plane));
    // Off: the rock alone.
    r.level->on = false;
    const auto rock = engine->compile(r).value();
    QVERIFY(!rock->level());
    QVERIFY(!rock->at({0, 0}).level);
  }

  void changesByHandBelongToTheirFloor() {
    Recipe r = small();
    const auto plain = worldOf(r);
    // One open cell is filled, one solid cell opened, each on floor 1.
    Cell open{0, 0}, solid{0, 0};
    for (int64_t x = -10; x < 40; ++x) (plain->columns().isOpen({x, 0}) ? open : solid) = {x, 0};
    r.edits = EditSet(r.seed).with({{open.x, 1, open.z, "wall"}, {solid.x, 1, solid.z, "tile"}});
    const auto edited = worldOf(r);
    QCOMPARE(edited->catalogue().materialId(edited->at(open).material), std::string("wall"));
    QCOMPARE(edited->columns().heightAt(open), 3.0f);
    QVERIFY(!edited->columns().isOpen(open));
    QCOMPARE(edited->columns().heightAt(solid), 0.0f);
    QVERIFY(edited->columns().isOpen(solid));
    agreeEverywhere(r);
    const BitGrid plane = planeOf(*edited);
    int differing = 0;
    for (int32_t z = 0; z < plane.length(); ++z)
      for (int32_t x = 0; x < plane.width(); ++x)
        differing += plane.at(x, z) != plain->level()->floor().plane.at(x, z);
    QCOMPARE(differing, 2);
    r.level->floor = 2;
    const auto below = worldOf(r);
    QVERIFY(!below->editPass().at(open, 0));
    QCOMPARE(below->columns().heightAt(open), below->level()->heightAt(open));
  }

  // ---- rooms
  // -------------------------------------------------------------------------------------

  void roomsComeFromTextsAndPictures() {
    const QTemporaryDir folder;
    const std::string text = "#####\n#.a.#\n#....\n#####\n";
    std::ofstream(folder.filePath("cell.txt").toStdString()) << text;
    writePng(folder.filePath("nook.png").toStdString(), {" ## ", "#..#"});
    Recipe r = small();
    const auto inside = worldOf(r);
    auto& pieces = std::get<LevelRooms>(r.level->processes[4].what).pieces;
    pieces = {{"cell", {}, "cell.txt"}, {"nook", {}, "nook.png", 2.5}};
    r.folder = folder.path().toStdString();
    const auto outside = worldOf(r);
    QVERIFY(outside->level()->floor().plane == inside->level()->floor().plane);
    QVERIFY(!outside->level()->floor().rooms.empty());
    agreeEverywhere(r);
    // A changed file makes another floor, with the same engine too.
    const auto engine = engineOf();
    const auto before = engine->compile(r).value();
    std::ofstream(folder.filePath("cell.txt").toStdString()) << "....\n....\n....\n";
    const auto after = engine->compile(r).value();
    QVERIFY(!(after->level()->floor().plane == before->level()->floor().plane));
  }

  void badRoomsAreRefusedByName() {
    const QTemporaryDir folder;
    Recipe r = small();
    r.folder = folder.path().toStdString();
    auto& piece = std::get<LevelRooms>(r.level->processes[4].what).pieces[0];
    const auto refusal = [&](const std::string& file) {
      piece = {"cell", {}, file};
      const auto world = engineOf()->compile(r);
      return world.ok() ? std::string() : world.error().text();
    };
    const auto says = [&](const std::string& file, const std::string& words) {
      const std::string text = refusal(file);
      QVERIFY2(text.find(words) != std::string::npos, text.c_str());
      QVERIFY2(text.find("/level/processes/4/pieces/0") != std::string::npos, text.c_str());
    };
    says("nowhere.txt", "cannot be read");
    writePng(folder.filePath("grey.png").toStdString(), {"#.", ".?"});
    says("grey.png", "#808080FF in row 2, column 2");
    writePng(folder.filePath("cut.png").toStdString(), {"#####", "....."}, 30);
    says("cut.png", "PNG");
    writePng(folder.filePath("large.png").toStdString(),
        std::vector<std::string>(2, std::string(257, '.')));
    says("large.png", "257 x 2 pixels");
    writePng(folder.filePath("wide.png").toStdString(), {std::string(65, '.')});
    says("wide.png", "within its margin, 64 x 49");
    std::ofstream(folder.filePath("odd.txt").toStdString()) << "###\n##\n";
    says("odd.txt", "row 2 has 2 cells");
  }

  // ---- conditions
  // --------------------------------------------------------------------------------

  void sharesOfHeightsAreRefused() {
    Recipe r = small();
    r.bands[0].below = Threshold{0, false, 0.4};
    const auto world = engineOf()->compile(r);
    QVERIFY(!world.ok());
    QCOMPARE(world.error().where, std::string("/strata/bands/0/below"));
  }

  void impossibleLevelsAreNoWorlds() {
    Recipe r = underkiln(20);
    r.level->places[1].least = 100'000;
    const auto world = engineOf()->compile(r);
    QVERIFY(!world.ok());
    QCOMPARE(world.error().where, std::string("/level/places/1"));
    QVERIFY2(world.error().what.starts_with("on floor 20 there is no room for \"lamp-store\": of "),
        world.error().what.c_str());
    r = underkiln();
    r.level->processes.clear();
    QVERIFY(engineOf()->compile(r).error().what.find("nothing is open") != std::string::npos);
    // Spaces beyond the margin of each other cannot be joined.
    std::stop_source stop;
    stop.request_stop();
    QCOMPARE(engineOf()->compile(underkiln(), false, stop.get_token()).error().code,
        Error::Code::Cancelled);
  }

  /// On every floor of five hundred seeds all three places are there once, open and reached.
  void everySeedOfTheDemoKeepsItsConditions() {
    const Recipe recipe = underkiln();
    for (const int floor : {1, 20}) {
      const auto trials = tryFloors(recipe, floor, 1, 250, 2, plainKernels()).value();
      QCOMPARE(trials.list.size(), size_t{250});
      for (const FloorTrial& trial : trials.list)
        QVERIFY2(trial.fault.empty(), (trial.seed + ": " + trial.fault).c_str());
      QCOMPARE(trials.failing, size_t{0});
    }
    // The world that a seed names is the floor that was tried.
    Recipe one = underkiln(20);
    one.seed = "17";
    const auto world = worldOf(one);
    const auto trial = tryFloors(recipe, 20, 17, 1, 1, plainKernels()).value().list[0];
    QCOMPARE(trial.figures.open, figuresOf(world->level()->floor(), planeOf(*world)).open);
    for (const FoundPlace& place : world->level()->floor().places) {
      const CellValue value = world->at(world->level()->cellOf(place));
      QCOMPARE(value.level->place, static_cast<int>(place.place));
      QCOMPARE(
          world->catalogue().materialId(value.material), one.level->places[place.place].material);
    }
  }

  void faultsAreFoundByOtherMeans() {
    const Recipe recipe = small();
    const auto world = worldOf(recipe);
    const LevelFloor& floor = world->level()->floor();
    QVERIFY(faultsOf(*recipe.level, floor, floor.plane).empty());
    const auto faults = [&](const std::function<void(BitGrid&)>& spoil) {
      BitGrid plane = floor.plane;
      spoil(plane);
      std::string all;
      for (const std::string& fault : faultsOf(*recipe.level, floor, plane)) all += fault + "\n";
      return all;
    };
    QVERIFY(faults([](BitGrid& p) {
      p.set(30, 1, false);
    }).find("the margin is 1 cells, 3 are asked for") != std::string::npos);
    const FoundPlace goal = floor.places[1];
    QVERIFY(faults([&](BitGrid& p) {
      p.set(goal.x, goal.z, true);
    }).find("\"goal\" lies in solid rock") != std::string::npos);
    QVERIFY(faults([&](BitGrid& p) {
      for (const auto& [dx, dz] : {std::pair(1, 0), {-1, 0}, {0, 1}, {0, -1}})
        p.set(goal.x + dx, goal.z + dz, true);
    }).find("\"goal\" cannot be reached from \"start\"") != std::string::npos);
    LevelFloor twice = floor;
    twice.places.push_back(goal);
    QVERIFY(
        faultsOf(*recipe.level, twice, floor.plane)[0].find("there 2 times") != std::string::npos);
    Level farther = *recipe.level;
    farther.places[1].least = 5000;
    QVERIFY(
        faultsOf(farther, floor, floor.plane)[0].find("steps from \"start\"") != std::string::npos);
  }

  void mistakesAreFound() {
    const auto idsOf = [](const Recipe& recipe) {
      const auto engine = engineOf();
      const auto world = engine->compile(recipe).value();
      std::set<std::string> out;
      const auto checks = runChecks(*engine, *world);
      for (const Check& check : *checks)
        if (check.stage == StageId::Level) out.insert(check.id);
      return out;
    };
    QVERIFY(idsOf(underkiln()).empty());
    Recipe idle = small();
    std::get<NoiseWalls>(idle.level->processes[1].what).band.low = 3;
    std::get<NoiseWalls>(idle.level->processes[1].what).band.high = 4;
    QCOMPARE(idsOf(idle), std::set<std::string>{"idle-process"});
    {
      const auto engine = engineOf();
      const auto found = runChecks(*engine, *engine->compile(idle).value());
      const auto check = std::find_if(
          found->begin(), found->end(), [](const Check& c) { return c.id == "idle-process"; });
      QCOMPARE(check->pointer, std::string("/level/processes/1"));
      Recipe later = idle;  // Has come on: the process is gone.
      later.level->processes.clear();
      check->apply(later);
      QVERIFY(later.level->processes.empty());
      check->apply(idle);
      QVERIFY(idsOf(idle).empty());
    }
    Recipe thin = small();
    thin.edits = EditSet(thin.seed).with({{0, 1, -30, "tile"}});
    QCOMPARE(idsOf(thin), std::set<std::string>{"thin-margin"});
    Recipe broken = small();
    const auto world = worldOf(broken);
    const Cell goal = world->level()->cellOf(world->level()->floor().places[1]);
    broken.edits = EditSet(broken.seed).with({{goal.x, 1, goal.z, "wall"}});
    QCOMPARE(idsOf(broken), std::set<std::string>{"broken-place"});
    Recipe open = small();
    FilledAutomaton nothing;
    nothing.fill = {0, 0};
    nothing.steps = {0, 0};
    open.level->processes = {{"open", "Open", true, nothing}};
    QCOMPARE(idsOf(open), std::set<std::string>{"all-open"});

    LevelCourses how;
    how.share = {0.9, 0};
    how.count = {4, 0};
    Recipe closed = brooks(how);
    QVERIFY(idsOf(closed).contains("courses-fail"));
    const auto engine = engineOf();
    const auto found = runChecks(*engine, *engine->compile(closed).value());
    for (const Check& check : *found)
      if (check.id == "courses-fail") {
        QVERIFY2(
            check.sentence.starts_with("3 of 4 courses of \"Brooks\" fail on floor 1: 3 no path"),
            check.sentence.c_str());
        check.apply(closed);
      }
    for (const LevelProcess& process : closed.level->processes)
      if (const auto* courses = std::get_if<LevelCourses>(&process.what))
        QCOMPARE(courses->share.at, 0.45);
    how = {};
    Recipe cut = brooks(how);
    cut.level->places.clear();
    FilledAutomaton rock;
    rock.fill = {1, 0};
    rock.steps = {0, 0};
    auto& list = cut.level->processes;
    list.insert(list.end() - 2, {"rock", "Rock", true, rock});
    QVERIFY(idsOf(cut).contains("cut-course"));
  }

  void everyProcessIsTheSameInReversedOrder() {
    const Recipe recipe = small();
    const auto maker = Engine::levelMaker(recipe, plainKernels()).value();
    int answered = 0;
    for (size_t k = 0; k < recipe.level->processes.size(); ++k) {
      const auto result = maker->reversed(k, 3).value();
      const bool byCells = k == 0 || k == 1 || k == 3;
      QCOMPARE(result.instead.empty(), byCells);
      if (!byCells) continue;
      QVERIFY(result.equal);
      QVERIFY(result.steps > 0);
      // One cell that came out otherwise is found.
      const auto spoilt = maker->reversed(k, 3, {}, [](BitGrid& plane) {
        const int32_t x = plane.width() / 2, z = plane.length() / 2;
        plane.set(x, z, !plane.at(x, z));
      });
      QVERIFY(!spoilt->equal);
      QCOMPARE(spoilt->differing, size_t{1});
      answered += static_cast<int>(result.steps);
    }
    QCOMPARE(answered, 5 + 1 + 1 + 9 + 3);
  }

  // ---- why, and proof
  // ----------------------------------------------------------------------------

  void thePlumbLineSaysWhy() {
    const Recipe recipe = small();
    const auto world = worldOf(recipe);
    const auto rowsAt = [&](Cell cell) {
      std::map<std::string, std::string> out;
      const Plumb plumb = plumbAt(*world, cell).value();
      int deciding = 0;
      for (const PlumbRow& row : plumbRows(plumb)) {
        out[row.label] = row.value;
        deciding += row.deciding;
      }
      out["deciding"] = std::to_string(deciding);
      out["title"] = plumbTitle(plumb);
      return out;
    };
    const Cell start = world->level()->cellOf(world->level()->floor().places[0]);
    auto rows = rowsAt(start);
    QCOMPARE(rows["title"], std::string("Start"));
    QCOMPARE(rows["place"], std::string("Start"));
    QCOMPARE(rows["open"], std::string("floor 1"));
    QCOMPARE(rows["deciding"], std::string("1"));
    const Rect all = world->bounds();
    std::set<std::string> kinds;
    for (int64_t z = all.z; z < all.z + all.length; ++z)
      for (int64_t x = all.x; x < all.x + all.width; x += 3) {
        const CellValue value = world->at({x, z});
        rows = rowsAt({x, z});
        QCOMPARE(rows["deciding"], std::string("1"));
        if (value.level->depth == 0) continue;
        QCOMPARE(rows["solid"], std::to_string(value.level->depth));
        for (const char* kind : {"layer", "bed", "ore"})
          if (rows.contains(kind)) kinds.insert(kind);
      }
    QCOMPARE(kinds, (std::set<std::string>{"layer", "bed", "ore"}));
    QVERIFY(plumbJson(plumbAt(*world, start).value()).find("\"place\": \"start\"") !=
            std::string::npos);
    const auto wet = worldOf(brooks({}));
    const LevelStage& stage = *wet->level();
    const LaidCourse& course = stage.floor().courses.at(0);
    const int64_t wide = wet->bounds().width;
    int asked = 0;
    for (size_t n = 0; n < course.cells.size(); ++n) {
      const Cell cell{
          wet->bounds().x + course.cells[n] % wide, wet->bounds().z + course.cells[n] / wide};
      if (!stage.isOpen(cell)) continue;  // A later process filled it.
      std::map<std::string, PlumbRow> found;
      for (const PlumbRow& row : plumbRows(plumbAt(*wet, cell).value())) found[row.label] = row;
      QCOMPARE(found["course Brooks 1"].value,
          std::to_string(n + 1).insert(0, "cell ") + " of " + std::to_string(course.cells.size()));
      QCOMPARE(found["course Brooks 1"].pointer, std::string("/level/processes/4/material"));
      QVERIFY(found["course Brooks 1"].deciding);
      ++asked;
    }
    QVERIFY(asked > 10);
  }

  void theProofHolds() {
    const Recipe recipe = underkiln(4);
    reference::Evaluator evaluator(recipe);
    ProofOptions options;
    options.sampledCells = 100;
    options.reference = [&](Cell cell) {
      const reference::CellValue v = evaluator.evaluate(cell);
      return EvaluatedCell{v.height, v.biome, v.material};
    };
    const auto proof = prove(recipe, options).value();
    QVERIFY2(proof.holds(), proofText(proof).c_str());
  }
};

ACRE_SUITE(FloorTest)
#include "floor_test.moc"
