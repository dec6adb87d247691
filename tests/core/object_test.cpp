// Objects: where they stand, whatever part is asked for.
#include <QtTest>
#include <algorithm>
#include <cmath>
#include <nlohmann/json.hpp>
#include <random>
#include <set>

#include "audit/object_figures.h"
#include "audit/plumb.h"
#include "object/scatter.h"
#include "output/chunk_text.h"
#include "recipe/edits.h"
#include "recipe/json.h"
#include "recipe/water_recipe.h"
#include "reference/evaluator.h"
#include "suite.h"
#include "world/demos.h"
#include "world/engine.h"
#include "world/world.h"

using namespace acre;

namespace {

std::shared_ptr<Engine> engineOf(uint64_t memo = uint64_t{24} << 20) {
  EngineOptions options;
  options.memoBytes = memo;
  return Engine::create(options).value();
}

std::shared_ptr<const World> worldOf(const Recipe& recipe) {
  return engineOf()->compile(recipe).value();
}

ObjectKind kindOf(const char* id, double density, int32_t distance) {
  ObjectKind out;
  out.id = out.name = id;
  out.density = density;
  out.distance = distance;
  return out;
}

/// Rolling ground with a sea in it, some of it steep.
Recipe plain(std::vector<ObjectKind> kinds) {
  Recipe r;
  r.name = "Plain";
  r.seed = "11";
  r.materials = {
      {"sand", "Sand", {}, MaterialState::Solid}, {"turf", "Turf", {}, MaterialState::Solid}};
  Layer hills;
  hills.id = "hills";
  NoiseSource noise;
  noise.width = 40;
  hills.source = noise;
  hills.amplitude = 12;
  r.heights.layers = {hills};
  FieldRecipe patches{"patches", "Patches", {hills}, {}, {}};
  patches.layers[0].amplitude = 1;
  r.fields = {patches};
  r.bands = {{"low", Threshold{2, false, {}}, "sand", {}}, {"high", {}, "turf", {}}};
  r.frame.seaLevel = -4;
  r.objects->kinds = std::move(kinds);
  return r;
}

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
        for (int64_t j = 0; j * scatter.square() < side; ++j)
          for (int64_t i = 0; i * scatter.square() < side; ++i)
            if (const Candidate c = scatter.candidate(i, j); c.chance() < chance) list.push_back(c);
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
      }
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
    for (const ObjectFigures& one : figures.value())
      QCOMPARE(one.candidates, candidates[one.kind]);
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

  /// Biomes with densities of their own, in bounds.
  void itAgreesInBiomes() {
    Recipe r = loadRecipe("three-fields").value();
    ObjectKind one = kindOf("one", 4, 5);
    double density = 2;
    for (const Biome& biome : r.biomes.list) one.biomes.push_back({biome.id, density *= 1.7});
    r.objects->kinds = {one};
    agreesWithReference(r, {-60, -60, 120, 120}, 40);
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
