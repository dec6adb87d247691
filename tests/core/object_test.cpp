// Objects: where they stand, whatever part is asked for.
#include <QtTest>
#include <algorithm>
#include <cmath>
#include <map>
#include <nlohmann/json.hpp>
#include <random>
#include <set>

#include "audit/object_figures.h"
#include "audit/plumb.h"
#include "cave/caves.h"
#include "core/object_worlds.h"
#include "dry.h"
#include "object/scatter.h"
#include "output/chunk_text.h"
#include "output/object_lists.h"
#include "output/picture.h"
#include "recipe/cave_recipe.h"
#include "recipe/edits.h"
#include "recipe/json.h"
#include "recipe/level_recipe.h"
#include "recipe/water_recipe.h"
#include "reference/evaluator.h"
#include "suite.h"
#include "world/demos.h"
#include "world/engine.h"
#include "world/world.h"

using namespace acre;

namespace {

/// Every condition at once, and kinds that keep from others.
Recipe busy() {
  ObjectKind stone = kindOf("stone", 3, 9);
  stone.slope = {std::nullopt, 0.6};
  stone.what = {{"small", "Small stone", 3}, {"large", "Large stone", 1}};
  ObjectKind thorn = kindOf("thorn", 12, 4);
  thorn.ground = {"turf"};
  thorn.apart = {{"stone", 5}};
  thorn.altitude = {6.5, std::nullopt};
  ObjectKind reed = kindOf("reed", 140, 2);  // So dense that its ground is asked for as a grid.
  reed.field = "patches";
  reed.within = {0.1, 0.8};
  reed.apart = {{"stone", 3}, {"thorn", 2}};
  reed.wet = true;
  ObjectKind grass = kindOf("grass", 90, 1);
  grass.altitude = {std::nullopt, 8};
  grass.ground = {"turf"};
  return plain({stone, thorn, reed, grass});
}

/// Kinds by fields, beside others, on even ground, and one in every square.
Recipe settled() {
  ObjectKind well = kindOf("well", 1, 8);
  well.must = ObjectMust{96, false};
  well.altitude = {0.0, std::nullopt};
  well.footing = ObjectFooting{2, 1.25};
  ObjectKind hut = kindOf("hut", 40, 3);
  hut.beside = {{"well", 20}};
  hut.apart = {{"well", 4}};
  hut.footing = ObjectFooting{1, 2};
  ObjectKind shrub = kindOf("shrub", 60, 3);
  shrub.amount = "patches";
  shrub.curve = {{-0.5, 0}, {0, 0.25}, {0.5, 1}};
  shrub.apart = {{"hut", 3}};
  ObjectKind weed = kindOf("weed", 200, 1);
  weed.amount = "patches";
  return plain({well, hut, shrub, weed});
}

std::vector<PlacedObject> allIn(const World& world, const Rect& cells) {
  return world.objects().in(cells).value();
}

}  // namespace

class ObjectTest : public QObject {
  Q_OBJECT

  void agreesWithReference(const Recipe& recipe, const Rect& cells, size_t least) {
    const auto world = worldOf(recipe);
    const auto found = allIn(*world, cells);
    const auto expected = reference::Evaluator(recipe).objects(cells);
    QCOMPARE(found.size(), expected.size());
    QVERIFY2(found.size() >= least, std::to_string(found.size()).c_str());
    for (size_t n = 0; n < found.size(); ++n) {
      QCOMPARE(size_t{found[n].kind}, expected[n].kind);
      QCOMPARE(found[n].cell, expected[n].cell);
      QCOMPARE(found[n].id, expected[n].id);
      QCOMPARE(int{found[n].turn}, expected[n].turn);
      QCOMPARE(namesOf(recipe, found[n]).second, expected[n].choice);
      QCOMPARE(found[n].y, expected[n].y);
    }
  }

 private slots:
  /// One pass over the better ones says the same as three rounds.
  void roundsAreLiteral() {
    std::mt19937_64 random(7);
    size_t looked = 0, late = 0;
    for (const int32_t r : {1, 2, 3, 5, 8, 13})
      for (int trial = 0; trial < 12; ++trial) {
        const Scatter scatter(random(), r);
        const int64_t side = 24 * r;
        std::vector<Candidate> list;
        const uint64_t chance = scatter.chanceFor(1000.0 * (trial + 1) / 12 / r / r);
        const int64_t along = (side + scatter.square() - 1) / scatter.square();
        scatter.candidates(0, 0, along, along, chance, list);
        const auto near = [&](size_t a, size_t b) {
          const int64_t x = list[a].cell.x - list[b].cell.x, z = list[a].cell.z - list[b].cell.z;
          return x * x + z * z < int64_t{r} * r;
        };
        std::vector<std::vector<size_t>> beside(list.size());
        for (size_t a = 0; a < list.size(); ++a)
          for (size_t b = 0; b < list.size(); ++b)
            if (a != b && near(a, b)) beside[a].push_back(b);
        std::vector<int> state(list.size(), 0);  // 1: taken, -1: excluded.
        for (int round = 0; round < Scatter::kRounds; ++round) {
          std::vector<size_t> winners;
          for (size_t a = 0; a < list.size(); ++a)
            if (state[a] == 0 && std::none_of(beside[a].begin(), beside[a].end(), [&](size_t b) {
                  return state[b] == 0 && list[b].betterThan(list[a]);
                }))
              winners.push_back(a);
          for (const size_t a : winners) state[a] = 1;
          for (const size_t a : winners)
            for (const size_t b : beside[a])
              if (state[b] == 0) state[b] = -1;
        }
        const auto taken = scatter.taken(list);
        for (size_t a = 0; a < list.size(); ++a) {
          QCOMPARE(int{taken[a]}, int{state[a] == 1});
          late += state[a] == 0;
        }
        looked += list.size();
      }
    QVERIFY2(looked > 20'000 && late > 0, std::to_string(looked).c_str());
  }

  void placedIsWhatWasAsked_data() {
    QTest::addColumn<int>("distance");
    QTest::addColumn<double>("share");
    for (const int distance : {1, 2, 4, 7, 16})
      for (const double share : {0.1, 0.4, 0.8})
        QTest::addRow("%d at %.1f of the most", distance, share) << distance << share;
  }
  void placedIsWhatWasAsked() {
    QFETCH(int, distance);
    QFETCH(double, share);
    const double most = Scatter(1, distance).most(), asked = most * share;
    Recipe r = plain({kindOf("one", asked, distance)});
    r.frame.seaLevel = -1000;
    const auto world = worldOf(r);
    const int64_t side = std::max(256, 96 * distance);
    const auto found = allIn(*world, {-side / 2, 5000, side, side});
    const double placed =
        static_cast<double>(found.size()) * 1000 / static_cast<double>(side * side);
    QVERIFY2(std::abs(placed / asked - 1) < 0.08,
        qPrintable(QStringLiteral("%1 asked, %2 placed").arg(asked).arg(placed)));
    // None nearer than asked.
    std::set<std::pair<int64_t, int64_t>> cells;
    for (const PlacedObject& one : found) cells.insert({one.cell.z, one.cell.x});
    QCOMPARE(cells.size(), found.size());
    for (const auto& [z, x] : cells)
      for (int64_t dz = 0; dz < distance; ++dz)
        for (int64_t dx = -distance; dx <= distance; ++dx)
          if ((dz > 0 || dx > 0) && dx * dx + dz * dz < int64_t{distance} * distance)
            QVERIFY(!cells.contains({z + dz, x + dx}));
  }

  /// Raising a density moves nothing.
  void moreOnlyAdds() {
    std::set<uint64_t> before;
    for (const double density : {2.0, 5.0, 9.0, 14.0, 40.0}) {
      Recipe r = busy();
      r.objects->kinds = {r.objects->kinds[1]};
      r.objects->kinds[0].apart.clear();
      r.objects->kinds[0].density = density;
      std::set<uint64_t> now;
      for (const PlacedObject& one : allIn(*worldOf(r), {0, 0, 400, 400})) now.insert(one.id);
      QVERIFY(std::includes(now.begin(), now.end(), before.begin(), before.end()));
      QVERIFY(now.size() > before.size());
      before = std::move(now);
    }
  }

  void anyPartIsCutFromTheWhole() {
    for (const int64_t far : {int64_t{0}, int64_t{2'000'000'000}, int64_t{-2'000'000'000}}) {
      const Recipe recipe = busy();
      const Rect all{far - 75, far + 13, 150, 150};
      const auto whole = allIn(*worldOf(recipe), all);
      QVERIFY(whole.size() > 300);
      for (const int64_t size : {1, 3, 7, 16, 32, 50, 64}) {
        const auto engine = engineOf(size == 50 ? 0 : uint64_t{24} << 20);
        const auto world = engine->compile(recipe).value();
        const int64_t side = size == 1 ? 24 : 150;
        std::vector<Rect> parts;
        for (int64_t z = 0; z < side; z += size)
          for (int64_t x = 0; x < side; x += size)
            parts.push_back(
                {all.x + x, all.z + z, std::min(size, side - x), std::min(size, side - z)});
        std::shuffle(parts.begin(), parts.end(), std::mt19937(static_cast<unsigned>(size)));
        std::vector<PlacedObject> joined;
        for (const Rect& part : parts)
          for (const PlacedObject& one : allIn(*world, part)) joined.push_back(one);
        const auto order = [](const PlacedObject& a, const PlacedObject& b) {
          return std::tuple(a.kind, a.cell.z, a.cell.x) < std::tuple(b.kind, b.cell.z, b.cell.x);
        };
        std::sort(joined.begin(), joined.end(), order);
        std::vector<PlacedObject> expected;
        for (const PlacedObject& one : whole)
          if (Rect{all.x, all.z, side, side}.contains(one.cell)) expected.push_back(one);
        QCOMPARE(joined, expected);
        // Each part on its own, too.
        joined.clear();
        for (const Rect& part : parts) {
          const auto alone = world->objects().in(part, {}, true);
          joined.insert(joined.end(), alone->begin(), alone->end());
        }
        std::sort(joined.begin(), joined.end(), order);
        QCOMPARE(joined, expected);
      }
    }
  }

  /// Whoever does not ask for what is refused is told the same of the rest, in worlds with biomes
  /// too, whose places are dropped by these first.
  void standingAreThoseThatNothingRefuses() {
    const auto demo = [](const char* name) {
      Recipe out = loadRecipe(name).value();
      out.rivers->on = false;  // They take long, and change nothing here.
      return out;
    };
    for (const auto& [recipe, cells] : {std::pair(busy(), Rect{-150, -40, 330, 250}),
             std::pair(settled(), Rect{-70, 10, 200, 220}),
             std::pair(demo("saltfen-reach"), Rect{-1500, 700, 400, 300}),
             std::pair(demo("swallet-edge"), Rect{-90, -90, 160, 120}),
             std::pair(demo("underkiln"), Rect{20, 20, 120, 90}),
             std::pair(demo("lantern-shelf"), Rect{-300, 0, 600, 1})}) {
      const auto refused = worldOf(recipe), standing = worldOf(recipe);
      size_t all = 0, left = 0;
      for (size_t k = 0; k < recipe.objects->kinds.size(); ++k) {
        std::vector<PlacedObject> expected, found;
        QVERIFY(refused->objects().judged(k, cells, [&](const Judged& one) {
          ++all;
          if (one.refusal == Refusal::None) expected.push_back(refused->objects().objectOf(k, one));
        }));
        QVERIFY(standing->objects().standing(k, cells,
            [&](const Judged& one) { found.push_back(standing->objects().objectOf(k, one)); }));
        const auto order = [](const PlacedObject& a, const PlacedObject& b) {
          return std::tuple(a.cell.z, a.cell.x) < std::tuple(b.cell.z, b.cell.x);
        };
        std::sort(expected.begin(), expected.end(), order);
        std::sort(found.begin(), found.end(), order);
        QCOMPARE(found, expected);
        left += found.size();
      }
      QVERIFY(left > 5 && all > 2 * left);
    }
  }

  /// Large areas are gone through part by part, which shows nowhere.
  void largeAreasAreTheirParts() {
    const auto world = worldOf(busy());
    const Rect all{-300, 40, 1300, 90};
    std::vector<PlacedObject> joined;
    std::vector<uint64_t> candidates(4);
    for (int64_t x = 0; x < all.width; x += 130) {
      const Rect part{all.x + x, all.z, 130, all.length};
      for (const PlacedObject& one : allIn(*world, part)) joined.push_back(one);
      for (size_t k = 0; k < 4; ++k)
        world->objects().judged(k, part, [&](const Judged&) { ++candidates[k]; });
    }
    std::sort(joined.begin(), joined.end(), [](const PlacedObject& a, const PlacedObject& b) {
      return std::tuple(a.kind, a.cell.z, a.cell.x) < std::tuple(b.kind, b.cell.z, b.cell.x);
    });
    QCOMPARE(allIn(*worldOf(busy()), all), joined);
    const auto figures = objectFigures(*worldOf(busy()), all);
    for (const ObjectFigures& one : figures.value()) QCOMPARE(one.candidates, candidates[one.kind]);
    std::stop_source stopped;
    stopped.request_stop();
    QVERIFY(!worldOf(busy())->objects().in(all, stopped.get_token()));
    QVERIFY(!worldOf(busy())->objects().judged(
        0, all, [](const Judged&) {}, stopped.get_token()));
  }

  void theSecondEvaluatorAgrees() {
    agreesWithReference(busy(), {-30, -40, 70, 60}, 60);
    Recipe elsewhere = busy();
    elsewhere.seed = "elsewhere";
    agreesWithReference(elsewhere, {2'000'000'000, -2'000'000'000, 40, 40}, 20);
  }

  /// Where rivers run: by the shore, in the water, on its banks, and on ground that valleys shaped.
  void theSecondEvaluatorAgreesWhereRiversRun() {
    Recipe r = wetSteps("b", -20, 4, 0.9);
    r.materials.push_back({"shingle", "Shingle", {}, MaterialState::Solid});
    r.rivers->bank = "shingle";
    r.rivers->bankReach = 2.5;
    ObjectKind alder = kindOf("alder", 60, 3);
    alder.shore = {1.0, 14.0};
    alder.slope = {std::nullopt, 0.9};
    ObjectKind lily = kindOf("lily", 90, 2);
    lily.wet = true;
    lily.shore = {std::nullopt, 0.5};
    ObjectKind pebble = kindOf("pebble", 200, 1);
    pebble.ground = {"shingle"};
    pebble.apart = {{"alder", 2}};
    ObjectKind stone = kindOf("stone", 30, 4);
    stone.footing = ObjectFooting{2, 2};
    stone.altitude = {14.0, std::nullopt};
    r.objects->kinds = {alder, lily, pebble, stone};
    const Rect cells{-860, 400, 90, 90};
    agreesWithReference(r, cells, 60);
    // All of them stand there, and some would not without rivers.
    std::map<int, int> wet, dry;
    for (const PlacedObject& one : allIn(*worldOf(r), cells)) ++wet[one.kind];
    QCOMPARE(wet.size(), r.objects->kinds.size());
    r.rivers->on = false;
    for (const PlacedObject& one : allIn(*worldOf(r), cells)) ++dry[one.kind];
    QVERIFY(dry[0] == 0 && dry[1] == 0 && dry[2] == 0 && dry[3] > 0);
  }

  /// Biomes with densities of their own, in bounds.
  void itAgreesInBiomes() {
    Recipe r = loadRecipe("three-fields").value();
    ObjectKind one = kindOf("one", 4, 5);
    double density = 2;
    for (const Biome& biome : r.biomes.list) one.biomes.push_back({biome.id, density *= 1.7});
    r.objects->kinds = {one};
    agreesWithReference(r, {-60, -60, 120, 120}, 40);
    // And so do the figures of each.
    const auto figures = objectFigures(*worldOf(r), {-300, -300, 600, 600}).value()[0];
    uint64_t sum = 0;
    double share = 0;
    for (const ObjectFigures::InBiome& in : figures.biomes) {
      sum += in.count;
      share += in.share;
      if (in.share < 0.05) continue;  // A sixteenth of its cells is looked at.
      const double placed = static_cast<double>(in.count) * 1000 / (figures.cells * in.share);
      QVERIFY2(std::abs(placed / in.asked - 1) < 0.25,
          qPrintable(QStringLiteral("%1 of %2").arg(placed).arg(in.asked)));
    }
    QCOMPARE(sum, figures.count);
    QVERIFY(std::abs(share - 1) < 1e-9 && figures.biomes.size() > 2);
  }

  /// A list whose members are drawn by biome, by a field, and by the floor of a level.
  void theListDiffersByPlace() {
    Recipe r = loadRecipe("three-fields").value();
    const std::string first = r.biomes.list[0].id, second = r.biomes.list[1].id;
    const std::string field = fieldsOf(r)[0]->id;
    ObjectKind one = kindOf("one", 25, 4);
    one.what = {{"a", "A", 1}, {"b", "B", 2}, {"c", "C", 3}, {"d", "D", 4}};
    one.what[0].biomes = {first};
    one.what[1].biomes = {first, second};
    one.what[2].field = field;
    one.what[2].within = {std::nullopt, 2.0};
    one.what[3].field = field;
    one.what[3].within = {8.0, std::nullopt};
    r.objects->kinds = {one};
    const Rect cells{-100, -100, 200, 200};
    agreesWithReference(r, cells, 200);
    const auto world = worldOf(r);
    reference::Evaluator reference(r);
    std::map<std::string, int> met;
    for (const PlacedObject& object : allIn(*world, cells)) {
      const std::string what = namesOf(r, object).second;
      const std::string biome = world->catalogue().biomeId(world->at(object.cell).biome);
      const float value = reference.field(field, object.cell);
      ++met[what];
      if (what == "a") QCOMPARE(biome, first);
      if (what == "b") QVERIFY(biome == first || biome == second);
      if (what == "c") QVERIFY(value <= 2);
      if (what == "d") QVERIFY(value >= 8);
      if (what.empty()) {
        QVERIFY(biome != first && biome != second && value > 2 && value < 8);
        QCOMPARE(titleOf(r, object), std::string("one"));
      }
    }
    QVERIFY(met["a"] > 2 && met["b"] > 2 && met["c"] + met["d"] > 2);
    // What stands there, and where, does not depend on the list.
    Recipe plainly = r;
    plainly.objects->kinds[0].what.clear();
    const auto same = allIn(*worldOf(plainly), cells), listed = allIn(*world, cells);
    QCOMPARE(same.size(), listed.size());
    for (size_t n = 0; n < same.size(); ++n) QCOMPARE(same[n].cell, listed[n].cell);
    for (const int floor : {2, 12}) {
      Recipe level = loadRecipe("underkiln").value();
      level.level->floor = floor;
      level.objects->kinds[0].what.resize(2);
      level.objects->kinds[0].what[0].floors = {std::nullopt, 8.0};
      level.objects->kinds[0].what[1].floors = {9.0, std::nullopt};
      agreesWithReference(level, {-60, -40, 120, 80}, 10);
      for (const PlacedObject& object : allIn(*worldOf(level), {-60, -40, 120, 80}))
        if (object.kind == 0) QCOMPARE(object.choice, uint16_t(floor < 9 ? 0 : 1));
    }
  }

  /// The noise that made a level's walls, at limits of its own, on every floor.
  void theNoiseOfWallsDecides() {
    size_t counts[2] = {};
    for (const int floor : {1, 7}) {
      Recipe level = loadRecipe("underkiln").value();
      level.level->floor = floor;
      ObjectKind far = kindOf("far", 60, 3);
      far.noise = ObjectNoise{"pillars", {std::nullopt, -0.1}};
      ObjectKind near = far;
      near.id = near.name = "near";
      near.noise->within = {0.1, std::nullopt};
      level.objects->kinds = {far, near};
      const Rect cells{-60, -40, 120, 80};
      agreesWithReference(level, cells, 20);
      const auto found = allIn(*worldOf(level), cells);
      for (const PlacedObject& object : found) ++counts[object.kind];
      // The plumb line tells the noise of those that stand.
      const Plumb plumb = plumbAt(*worldOf(level), found[0].cell).value();
      const PlumbObject& told = plumb.objects[found[0].kind];
      QVERIFY(told.refusal.empty() && told.conditions.size() == 1);
      QCOMPARE(told.conditions[0].name, std::string("noise of the walls"));
      QVERIFY((told.conditions[0].value < 0) == (found[0].kind == 0));
      level.objects->kinds[0].noise->within = {};
      QVERIFY(allIn(*worldOf(level), cells).size() > found.size());
      level.objects->kinds[0].noise->process = "workings";  // It makes none.
      QVERIFY(!engineOf()->compile(level).ok());
    }
    QVERIFY(counts[0] > 5 && counts[1] > 5);
  }

  void itAgreesOnAmountsAndNeighbours() {
    agreesWithReference(settled(), {-70, -60, 110, 90}, 60);
    Recipe far = settled();
    far.seed = "far";
    agreesWithReference(far, {-2'000'000'000, 2'000'000'000, 96, 40}, 30);
    Recipe alone = settled();
    alone.objects->kinds[0].on = false;  // Nothing to stand by.
    for (const PlacedObject& one : allIn(*worldOf(alone), {0, 0, 200, 200})) QVERIFY(one.kind != 1);
  }

  /// What a picture of a density shows is what biome, field and curve ask for.
  void densitiesAreDrawn() {
    const auto shown = [](const World& world, const std::string& name, const SampleGrid& grid) {
      const Picture picture = pictureNamed(name).value();
      if (nameOf(picture) != name || !checkPicture(world, picture)) qFatal("no such picture");
      const Samples samples = sampleWithRim(world, picture, grid).value();
      std::vector<float> out;
      for (int32_t j = 0; j < grid.length; ++j)
        for (int32_t i = 0; i < grid.width; ++i)
          out.push_back(samples.values[static_cast<size_t>((j + 1) * samples.stride() + i + 1)]);
      return out;
    };
    const Recipe recipe = settled();
    const auto world = worldOf(recipe);
    reference::Evaluator reference(recipe);
    const SampleGrid grid{-90, 40, 7, 25, 20};
    const auto values = shown(*world, "density:shrub", grid);
    std::set<float> met;
    for (int32_t j = 0; j < grid.length; ++j)
      for (int32_t i = 0; i < grid.width; ++i) {
        const float s = reference.field("patches", {grid.x + i * 7, grid.z + j * 7});
        const float share =
            std::clamp(reference::curveAt(recipe.objects->kinds[2].curve, s), 0.0f, 1.0f);
        const float value = values[static_cast<size_t>(j * grid.width + i)];
        QVERIFY2(std::abs(value - 60 * share) < 1e-3f, qPrintable(QString::number(value)));
        met.insert(value);
      }
    QVERIFY(met.size() > 100 && *met.begin() == 0);
    Recipe biomes = loadRecipe("three-fields").value();
    ObjectKind one = kindOf("one", 4, 5);
    one.biomes = {{biomes.biomes.list[0].id, 9}, {biomes.biomes.list[1].id, 0}};
    biomes.objects->kinds = {one};
    const auto mapped = worldOf(biomes);
    const auto densities = shown(*mapped, "density:one", grid);
    met = {densities.begin(), densities.end()};
    QVERIFY(met.size() > 1);
    for (size_t n = 0; n < densities.size(); ++n) {
      const auto k = static_cast<int64_t>(n);
      const Cell cell{grid.x + k % grid.width * 7, grid.z + k / grid.width * 7};
      const std::string id = mapped->catalogue().biomeId(mapped->at(cell).biome);
      QCOMPARE(densities[n], id == one.biomes[0].biome   ? 9.0f
                             : id == one.biomes[1].biome ? 0.0f
                                                         : 4.0f);
    }
    // Every square has one of a well; nobody knows a tower.
    for (const char* name : {"density:well", "density:tower"}) {
      const Status fits = checkPicture(*world, pictureNamed(name).value());
      QVERIFY(!fits);
      QCOMPARE(fits.error().accepted, std::string("hut, shrub, weed"));
    }
    QVERIFY(!pictureNamed("density"));
  }

  /// Exactly one in every square where its conditions hold anywhere, whatever part is asked for.
  void everySquareHasOne() {
    Recipe r = plain({kindOf("well", 1, 8)});
    ObjectKind& well = r.objects->kinds[0];
    well.must = ObjectMust{64, false};
    well.altitude = {12.0, std::nullopt};
    const auto world = worldOf(r);
    size_t missing = 0;
    for (int64_t j = -50; j < 50; ++j)
      for (int64_t i = -50; i < 50; ++i) {
        const MustHave there = world->objects().mustHave(0, i, j).value();
        uint64_t tried = 0;
        for (size_t n = 1; n < kRefusals; ++n) tried += there.refused[n];
        QCOMPARE(there.refused[0], uint64_t{0});
        if (there.placed) {
          QVERIFY((Rect{i * 64 + 8, j * 64 + 8, 48, 48}).contains(there.placed->at.cell));
          QVERIFY(tried < 1024);
        } else {
          QCOMPARE(tried, uint64_t{1024});
          ++missing;
        }
        if ((i + j) % 7 == 0)
          QCOMPARE(
              allIn(*world, {i * 64, j * 64, 64, 64}).size(), size_t{there.placed.has_value()});
      }
    // Some squares lie under water; by force those have one too.
    QVERIFY2(missing > 0 && missing < 5'000, std::to_string(missing).c_str());
    well.must->forced = true;
    const auto forced = worldOf(r);
    for (int64_t i = -20; i < 20; ++i) {
      const MustHave before = world->objects().mustHave(0, i, 3).value();
      const MustHave there = forced->objects().mustHave(0, i, 3).value();
      QVERIFY(there.placed);
      QCOMPARE(there.placed->forced != Refusal::None, !before.placed);
      if (before.placed) QCOMPARE(there.placed->at.cell, before.placed->at.cell);
    }
    // Beyond the bounds there is none, even by force.
    r.frame.x = AxisBounds{0, 96};
    r.frame.z = AxisBounds{0, 96};
    const auto bounded = worldOf(r);
    QVERIFY(!bounded->objects().mustHave(0, 2, 0)->placed);
    for (const PlacedObject& one : allIn(*bounded, {-200, -200, 400, 400}))
      QVERIFY((Rect{0, 0, 96, 96}).contains(one.cell));
  }

  void squaresWithoutOneAreTold() {
    Recipe r = settled();
    ObjectKind& well = r.objects->kinds[0];
    well.altitude = {500.0, std::nullopt};
    const auto engine = engineOf();
    const auto found = runChecks(*engine, *engine->compile(r).value());
    const auto told = std::find_if(found->begin(), found->end(),
        [](const Check& check) { return check.id == "missing-objects"; });
    QVERIFY(told != found->end());
    QVERIFY2(told->sentence.starts_with("well is missing in 64 of 64 squares: under water") ||
                 told->sentence.starts_with("well is missing in 64 of 64 squares: altitude"),
        told->sentence.c_str());
    told->apply(r);
    const auto forced = worldOf(r);
    const auto where = forced->objects().mustHave(0, 0, 0);
    QVERIFY(where->placed);
    const Plumb plumb = plumbAt(*forced, where->placed->at.cell).value();
    QVERIFY(plumbJson(plumb).find("\"forced\": \"altitude\"") != std::string::npos);
  }

  /// Lists as a table and as points.
  void listsHoldAllOfThem() {
    const auto world = worldOf(busy());
    const Rect area{-40, 20, 100, 80};
    const auto objects = allIn(*world, area);
    std::istringstream table(objectsCsv(*world, objects));
    std::string row;
    std::getline(table, row);
    QCOMPARE(row, std::string("id,kind,what,name,x,z,height,turn"));
    size_t rows = 0;
    while (std::getline(table, row)) ++rows;
    QCOMPARE(rows, objects.size());
    const auto points = nlohmann::json::parse(objectsGeoJson(*world, area, objects));
    QCOMPARE(points["features"].size(), objects.size());
    const auto& first = points["features"][0];
    QCOMPARE(first["geometry"]["coordinates"][0].get<double>(),
        static_cast<double>(objects[0].cell.x) + 0.5);
    QCOMPARE(first["properties"]["of"].get<std::string>(), std::string("stone"));
    QCOMPARE(first["properties"]["name"].get<std::string>(), titleOf(world->recipe(), objects[0]));
    QTemporaryDir folder;
    const auto file = std::filesystem::path(folder.path().toStdString()) / "all.geojson";
    QCOMPARE(writeObjects(*world, area, file).value(), objects.size());
    const auto wrong = writeObjects(*world, area, file.string() + ".xml");
    QVERIFY(!wrong && wrong.error().accepted.find(".csv") != std::string::npos);
  }

  /// By rivers and lakes, on their banks.
  void itAgreesBesideWater() {
    Recipe r = loadRecipe("first-steps").value();
    r.rivers->on = true;
    ObjectKind reed = kindOf("reed", 60, 2);
    reed.shore = {0.5, 4};
    ObjectKind stone = kindOf("stone", 8, 6);
    stone.apart = {{"reed", 2}};
    r.objects->kinds = {reed, stone};
    const auto world = worldOf(r);
    // Somewhere by a river.
    Rect near{};
    for (const PlacedObject& one : allIn(*world, {-1000, -1000, 2000, 2000}))
      if (one.kind == 0) near = {one.cell.x - 12, one.cell.z - 12, 24, 24};
    QVERIFY(!near.empty());
    agreesWithReference(r, near, 4);
    for (const PlacedObject& one : allIn(*world, {-1000, -1000, 2000, 2000})) {
      const CellValue value = world->at(one.cell);
      QCOMPARE(value.water.kind, WaterKind::Dry);
      if (one.kind == 0) QVERIFY(value.water.shore >= 0.5f && value.water.shore <= 4);
    }
  }

  /// On blocks, over caves and under overhangs: in the chunk of the level that they stand on.
  void theyStandOnBlocks() {
    Recipe r = dryDemo("swallet-edge");
    ObjectKind stone = kindOf("stone", 12, 5);
    ObjectKind thorn = kindOf("thorn", 30, 3);
    thorn.ground = {"heather", "pasture"};
    thorn.apart = {{"stone", 4}};
    r.objects->kinds = {stone, thorn};
    const auto world = worldOf(r);
    const Rect cells{64, -96, 32, 32};
    const auto all = allIn(*world, cells);
    QVERIFY2(all.size() > 8, std::to_string(all.size()).c_str());
    const ChunkLayout& layout = world->layout();
    std::vector<PlacedObject> joined;
    for (int64_t cy = layout.lowestChunk(0); cy <= layout.highestChunk(0); ++cy)
      for (int64_t x = 0; x < 32; x += layout.size())
        for (int64_t z = 0; z < 32; z += layout.size()) {
          ChunkPos pos = layout.chunkOf(Cell{cells.x + x, cells.z + z});
          pos.cy = cy;
          const auto chunk = world->chunk(pos).value();
          QVERIFY(chunk->bytes() <= world->largestChunkBytes());
          for (const PlacedObject& one : chunk->objects) {
            QVERIFY(one.y >= chunk->y && one.y < chunk->y + chunk->tall);
            joined.push_back(one);
          }
          if (chunk->objects.empty()) continue;
          const auto json = nlohmann::json::parse(chunkJson(*world, *chunk));
          QCOMPARE(json["objects"].size(), chunk->objects.size());
          QCOMPARE(json["objects"][0]["at"][1].get<int64_t>(), chunk->objects[0].y);
        }
    std::sort(joined.begin(), joined.end(), [](const PlacedObject& a, const PlacedObject& b) {
      return std::tuple(a.kind, a.cell.z, a.cell.x) < std::tuple(b.kind, b.cell.z, b.cell.x);
    });
    QCOMPARE(joined, all);
    for (const PlacedObject& one : all) {
      QVERIFY(world->blockAt(one.cell, one.y - 1).material < r.materials.size());
      QCOMPARE(world->blockAt(one.cell, one.y).material, kOpen);
    }
    agreesWithReference(r, {cells.x, cells.z, 14, 14}, 2);
    // Digging under one leaves it where it stands.
    r.edits = EditSet(r.seed).with({{all[0].cell.x, all[0].y - 1, all[0].cell.z, "open"}});
    QCOMPARE(allIn(*worldOf(r), cells), all);
  }

  /// About the mouths of tunnels, and nowhere else: on blocks, in worlds of columns, in side
  /// worlds.
  void theyStandByMouths() {
    Recipe columns = plain({});
    columns.caves->tunnels = {Tunnels{}};
    columns.caves->tunnels[0].id = "swallets";
    columns.caves->tunnels[0].spacing = 96;
    columns.caves->tunnels[0].share = columns.caves->tunnels[0].mouths = 1;
    columns.caves->opening = columns.materials[0].id;
    for (Recipe r : {dryDemo("swallet-edge"), columns, dryDemo("lantern-shelf")}) {
      ObjectKind by = kindOf("by", 300, 2);
      by.mouth = {1.5, 6.0};
      by.wet = true;
      ObjectKind away = kindOf("away", 20, 4);
      away.mouth = {20.0, std::nullopt};
      away.wet = true;
      *r.objects = Objects{};
      r.objects->kinds = {by, away};
      const auto world = worldOf(r);
      const auto& part = planOf(*world).caves()->tunnels().front();
      const double mouth = r.caves->tunnels[static_cast<size_t>(part.index)].mouth;
      const bool plane = world->layout().vertical().plane;
      std::vector<Cell> mouths;
      for (int64_t j = plane ? 0 : -6; j <= (plane ? 0 : 6); ++j)
        for (int64_t i = -6; i <= 6; ++i)
          if (const auto system = part.stage->system(i, j); system && system->mouth)
            mouths.push_back({system->x, system->z});
      QVERIFY(!mouths.empty());
      const auto rim = [&](Cell cell) {
        double least = 1e9;
        for (const Cell& at : mouths)
          least = std::min(least, std::hypot(cell.x - at.x, plane ? 0 : cell.z - at.z) - mouth);
        return least;
      };
      const Cell at = mouths[mouths.size() / 2];
      const Rect about{at.x - 60, plane ? 0 : at.z - 60, 120, plane ? 1 : 120};
      std::array<size_t, 2> met{};
      for (const PlacedObject& one : allIn(*world, about)) {
        ++met[one.kind];
        const double away = rim(one.cell);
        QVERIFY(one.kind == 0 ? away >= 1.5 - 1e-4 && away <= 6 + 1e-4 : away >= 20 - 1e-4);
      }
      QVERIFY(met[0] > (plane ? 0u : 4u) && met[1] > (plane ? 0u : 20u));
      agreesWithReference(r, {at.x + 5, plane ? 0 : at.z - 4, 8, plane ? 1 : 8}, plane ? 0 : 1);
      // Without the caves there are no mouths: all are far away.
      r.caves->on = false;
      for (const PlacedObject& one : allIn(*worldOf(r), about)) QCOMPARE(one.kind, 1);
    }
  }

  /// Changes by hand move nothing; objects are told of the ground as it was made.
  void editsMoveNothing() {
    Recipe r = busy();
    const Rect cells{0, 0, 120, 120};
    const auto before = allIn(*worldOf(r), cells);
    std::vector<Edit> edits;
    for (int64_t n = 0; n < 120 * 120; n += 2) edits.push_back({n % 120, 0, n / 120, "sand"});
    r.edits = EditSet(r.seed).with(edits);
    QCOMPARE(allIn(*worldOf(r), cells), before);
  }

  void reasonsSumToCandidates() {
    const auto world = worldOf(busy());
    const auto figures = objectFigures(*world, {-200, -200, 400, 400}).value();
    QCOMPARE(figures.size(), size_t{4});
    std::set<Refusal> met;
    for (const ObjectFigures& one : figures) {
      uint64_t sum = one.count;
      for (size_t n = 1; n < kRefusals; ++n) {
        sum += one.refused[n];
        if (one.refused[n] > 0) met.insert(static_cast<Refusal>(n));
      }
      QCOMPARE(sum, one.candidates);
      QVERIFY(one.placed <= one.most);
    }
    QCOMPARE(met, (std::set{Refusal::Apart, Refusal::Water, Refusal::Ground, Refusal::Altitude,
                      Refusal::Slope, Refusal::Field, Refusal::Own}));
  }

  /// No lattice shows: no frequency of the squares stands out.
  void noLatticeShows() {
    Recipe r = plain({kindOf("one", Scatter(1, 16).most() * 0.9, 16)});
    r.frame.seaLevel = -1000;
    constexpr int64_t kSide = 1024;
    const auto found = allIn(*worldOf(r), {0, 0, kSide, kSide});
    double highest = 0;
    for (int k = 1; k <= 192; ++k)
      for (const bool alongX : {true, false}) {
        double re = 0, im = 0;
        for (const PlacedObject& one : found) {
          const double at =
              6.283185307179586 * k * static_cast<double>(alongX ? one.cell.x : one.cell.z) / kSide;
          re += std::cos(at);
          im += std::sin(at);
        }
        highest = std::max(highest, (re * re + im * im) / static_cast<double>(found.size()));
      }
    QVERIFY2(highest < 16, std::to_string(highest).c_str());  // A jittered grid has hundreds.
  }

  void chunksTellOfThem() {
    Recipe r = busy();
    r.frame.chunkSize = 32;
    const auto world = worldOf(r);
    const auto chunk = world->chunk({1, -2}).value();
    QCOMPARE(chunk->objects, allIn(*world, {32, -64, 32, 32}));
    QVERIFY(!chunk->objects.empty());
    QVERIFY(chunk->bytes() <= world->largestChunkBytes());
    const auto json = nlohmann::json::parse(chunkJson(*world, *chunk));
    QCOMPARE(json["objects"].size(), chunk->objects.size());
    QCOMPARE(json["objects"][0]["at"][0].get<int64_t>(), chunk->objects[0].cell.x);
    size_t told = 0;
    std::istringstream rows(chunkCsv(*world, *chunk));
    std::string row;
    std::getline(rows, row);
    QVERIFY(row.ends_with(",objects"));
    while (std::getline(rows, row)) {
      const std::string last = row.substr(row.rfind(',') + 1);
      if (!last.empty()) told += 1 + static_cast<size_t>(std::count(last.begin(), last.end(), ' '));
    }
    QCOMPARE(told, chunk->objects.size());
    QCOMPARE(world->chunk({0, 0, kObjectDetail}).value()->objects.empty(), false);
    QVERIFY(world->chunk({0, 0, kObjectDetail + 1}).value()->objects.empty());
    Recipe off = r;
    off.objects->on = false;
    const auto bare = worldOf(off);
    QVERIFY(bare->chunk({1, -2}).value()->objects.empty());
    QVERIFY(chunkJson(*bare, *bare->chunk({1, -2}).value()).find("objects") == std::string::npos);
  }

  void thePlumbLineSaysWhy() {
    const Recipe r = busy();
    const auto world = worldOf(r);
    const PlacedObject one = allIn(*world, {0, 0, 64, 64})[0];
    const Plumb plumb = plumbAt(*world, one.cell).value();
    const auto rows = plumbRows(plumb);
    const auto there = std::find_if(
        rows.begin(), rows.end(), [](const PlumbRow& row) { return row.label == "stands here"; });
    QVERIFY(there != rows.end());
    QCOMPARE(there->value, titleOf(r, one));
    QCOMPARE(there->pointer, std::string("/objects/kinds/0"));
    QVERIFY(there->stage == StageId::Objects);
    size_t refused = 0;
    for (int64_t x = 0; x < 64; ++x) {
      const Plumb line = plumbAt(*world, {x, 5}).value();
      for (const PlumbObject& of : line.objects) refused += !of.refusal.empty();
    }
    QVERIFY(refused > 0);
    QVERIFY(plumbJson(plumb).find("\"kind\": \"stone\"") != std::string::npos);
  }

  /// The contest with its own kind, what was drawn, and every condition with what it was judged by.
  void thePlumbLineTellsTheContest() {
    Recipe r = busy();
    ObjectKind thick = kindOf("thick", 80, 5);
    thick.altitude = {-3.0, 30.0};
    thick.slope = {std::nullopt, 0.6};
    thick.field = "patches";
    thick.within = {-0.5, std::nullopt};
    thick.amount = "patches";
    thick.curve = {{-0.6, 0.1}, {0.4, 1}};
    thick.what = {{"a", "A", 1}, {"b", "B", 3}};
    r.objects->kinds = {thick};
    const auto world = worldOf(r);
    const Rect cells{0, 0, 60, 60};
    size_t stood = 0, kept = 0, fewer = 0;
    const auto found = world->objects().judged(0, cells, [&](const Judged& one) {
      const Plumb plumb = plumbAt(*world, one.at.cell).value();
      QCOMPARE(plumb.objects.size(), size_t{1});
      const PlumbObject& of = plumb.objects[0];
      QVERIFY(of.priority && std::abs(*of.priority - one.at.chance() / 4294967296.0) < 1e-12);
      for (const PlumbObject::Condition& condition : of.conditions) {
        const bool holds = condition.value >= condition.from.value_or(-1e9) &&
                           condition.value <= condition.to.value_or(1e9);
        // What stands holds all of them; what one refused does not hold that.
        if (of.refusal.empty()) QVERIFY2(holds, condition.name.c_str());
        if (of.refusal == condition.name) QVERIFY2(!holds, condition.name.c_str());
      }
      QCOMPARE(of.conditions.size(), size_t{4});
      fewer += one.refusal == Refusal::Amount;
      if (of.refusal.empty()) {
        ++stood;
        QVERIFY(of.draw && *of.draw >= 0 && *of.draw < 1);
        QCOMPARE(of.what, std::string(*of.draw * 4 < 1 ? "a" : "b"));
        QVERIFY(!of.beatenBy);
      }
      if (one.refusal != Refusal::Own) return;
      ++kept;
      QVERIFY(of.beatenBy);
      const int64_t x = of.beatenBy->x - one.at.cell.x, z = of.beatenBy->z - one.at.cell.z;
      QVERIFY(x * x + z * z < 25);
      const Plumb other = plumbAt(*world, *of.beatenBy).value();
      QVERIFY(other.objects[0].refusal.empty() && other.objects[0].beaten > 0);
    });
    QVERIFY(found);
    QVERIFY2(stood > 20 && kept > 10 && fewer > 10,
        qPrintable(QStringLiteral("%1 %2 %3").arg(stood).arg(kept).arg(fewer)));
    const PlacedObject one = allIn(*world, cells)[0];
    const std::string json = plumbJson(plumbAt(*world, one.cell).value());
    for (const char* key : {"\"priority\"", "\"draw\"", "\"beaten\"", "\"conditions\""})
      QVERIFY2(json.find(key) != std::string::npos, key);
  }

  void mistakesAreFound() {
    const auto idsOf = [](const Recipe& recipe) {
      const auto engine = engineOf();
      const auto found = runChecks(*engine, *engine->compile(recipe).value());
      std::map<std::string, Check> out;
      for (const Check& check : *found)
        if (check.stage == StageId::Objects) out[check.id] = check;
      return out;
    };
    QVERIFY(idsOf(busy()).empty());
    Recipe crowded = plain({kindOf("boulder", 40, 5)});
    auto found = idsOf(crowded);
    QVERIFY(found.contains("crowded-objects"));
    QVERIFY2(found["crowded-objects"].sentence.find(
                 "40 of 1,000 cells are asked for at a distance of 5: "
                 "at most 2") != std::string::npos,
        found["crowded-objects"].sentence.c_str());
    found["crowded-objects"].apply(crowded);
    QVERIFY(idsOf(crowded).empty());
    Recipe never = busy();
    never.objects->kinds[1].altitude = {500.0, std::nullopt};
    found = idsOf(never);
    QVERIFY(found["no-objects"].sentence.find("altitude") != std::string::npos);
    found["no-objects"].apply(never);
    QVERIFY(idsOf(never).empty());
  }

  void whatIsNotAccepted_data() {
    QTest::addColumn<QString>("change");
    QTest::addColumn<QString>("at");
    const auto row = [](const char* name, const char* change, const char* at) {
      QTest::newRow(name) << QString::fromUtf8(change) << QString::fromUtf8(at);
    };
    row("density", R"({"density": 2000})", "/objects/kinds/0/density");
    row("distance", R"({"distance": 1000000})", "/objects/kinds/0/distance");
    row("distance 0", R"({"distance": 0})", "/objects/kinds/0/distance");
    row("weights", R"({"what": [{"id": "a", "weight": 0}]})", "/objects/kinds/0/what");
    row("weight", R"({"what": [{"id": "a", "weight": -1}]})", "/objects/kinds/0/what/0/weight");
    row("later", R"({"apart": [{"kind": "b", "cells": 4}]})", "/objects/kinds/0/apart/0/kind");
    row("itself", R"({"apart": [{"kind": "a", "cells": 4}]})", "/objects/kinds/0/apart/0/kind");
    row("ground", R"({"ground": ["cheese"]})", "/objects/kinds/0/ground/0");
    row("field", R"({"field": "none-such"})", "/objects/kinds/0/field");
    row("biome", R"({"biomes": [{"biome": "moon", "density": 1}]})",
        "/objects/kinds/0/biomes/0/biome");
    row("span", R"({"slope": [3, 1]})", "/objects/kinds/0/slope");
    row("beside a later one", R"({"beside": [{"kind": "b", "cells": 4}]})",
        "/objects/kinds/0/beside/0/kind");
    row("amount", R"({"amount": "none-such"})", "/objects/kinds/0/amount");
    row("shares", R"({"amount": "patches", "curve": [[0, 0], [1, 2]]})",
        "/objects/kinds/0/curve/1/1");
    row("square", R"({"must": {"square": 8}})", "/objects/kinds/0/must/square");
    row("amount of one", R"({"amount": "patches", "must": {"square": 512}})",
        "/objects/kinds/0/amount");
    row("footing", R"({"footing": {"radius": 40, "rise": 1}})", "/objects/kinds/0/footing/radius");
    row("sign", R"({"sign": "star"})", "/objects/kinds/0/sign");
  }
  void whatIsNotAccepted() {
    QFETCH(QString, change);
    QFETCH(QString, at);
    auto json = nlohmann::json::parse(recipeToJson(plain({kindOf("a", 2, 6), kindOf("b", 2, 6)})));
    json["objects"]["kinds"][0].update(nlohmann::json::parse(change.toStdString()));
    const auto read = recipeFromJson(json.dump());
    const auto made =
        read ? engineOf()->compile(*read) : Result<std::shared_ptr<const World>>(read.error());
    QVERIFY(!made.ok());
    QVERIFY2(made.error().where.starts_with(at.toStdString()), made.error().text().c_str());
    QVERIFY(!made.error().accepted.empty());
  }
};

ACRE_SUITE(ObjectTest)
#include "object_test.moc"
