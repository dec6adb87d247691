#include <QtTest>
#include <algorithm>
#include <array>
#include <cmath>
#include <tuple>

#include "audit/check_kinds.h"
#include "audit/checks.h"
#include "audit/plumb.h"
#include "audit/water_figures.h"
#include "audit/water_summary.h"
#include "dry.h"
#include "output/line_files.h"
#include "recipe/json.h"
#include "recipe/validate.h"
#include "recipe/water_recipe.h"
#include "reference/evaluator.h"
#include "suite.h"
#include "water/water_stage.h"
#include "wet_worlds.h"
#include "world/demos.h"
#include "world/world.h"

// Ways for water through obstacles: the cheapest there is, or the reason why there is none.

using namespace acre;

namespace {

/// Little but ways: springs far apart, no lake that is wanted.
Recipe land() {
  Recipe r = wetSteps("ways", -14, 1000, 0);
  r.rivers->courses.count = 3;
  r.rivers->courses.region = 512;
  r.rivers->courses.feature = 40;
  r.rivers->courses.share = 0.25;
  return r;
}

Recipe bounded(double side, double step) {
  Recipe r = land();
  r.frame.x = {-100, static_cast<int64_t>(side)};
  r.frame.z = {50, static_cast<int64_t>(side)};
  r.rivers->courses.step = step;
  return r;
}

/// The ways that the tests go by, all settings among them.
Recipe kindOf(const QString& name) {
  Recipe r = land();
  RiverCourses& c = r.rivers->courses;
  if (name == "joined") {
    c.join = true;
    c.diagonal = false;
    c.climb = 1.5;
    c.count = 4;
    c.share = 0.3;
    c.carve = 60;
    c.winding = 6;
  }
  if (name == "strict") {
    c.count = 8;
    c.carve = 4;
    c.winding = 1.2;
    c.share = 0.35;
  }
  if (name == "given") {
    r = bounded(200, 5);
    r.rivers->courses.count = 2;
    r.rivers->courses.given = {{"a", {{-90, 60}, {0, 150}, {80, 230}}},
        {"b", {{90, 60}, {-90, 240}}}, {"c", {{-100, 50}, {99, 249}}}};
    r.rivers->courses.share = 0.15;
    r.rivers->courses.join = true;
  }
  if (name == "field") {
    Layer ridges;
    ridges.id = "ridges";
    ridges.source = NoiseSource{.fractal = Fractal::Ridged, .width = 70, .octaves = 2};
    r.fields.push_back({"gorges", "Gorges", {ridges}, {}, {}});
    c.field = "gorges";
    c.share = 0.15;
  }
  if (name == "borders") {
    r = loadRecipe("patchwork-parish").value();
    const Rivers rivers = *land().rivers;
    *r.rivers = rivers;
    r.rivers->courses.borders = true;
    r.rivers->courses.share = 0.7;
  }
  if (name == "exact") {
    r = bounded(96, 1);
    r.rivers->courses.diagonal = false;
    r.rivers->courses.feature = 12;
    r.rivers->courses.width = 2;
  }
  return r;
}

CourseWays::At homeOf(const QString& name, bool far) {
  if (name == "given" || name == "exact") return {};
  return far ? CourseWays::At{3'906'250, -3'906'250} : CourseWays::At{-1, 2};
}

std::shared_ptr<const CourseRegion> regionOf(const World& world, CourseWays::At at = {}) {
  return world.water()->ways()->region(at, {});
}

}  // namespace

class WaysTest : public QObject {
  Q_OBJECT

 private slots:
  /// Found by a plain search over everything, read backwards.
  void theyAreTheCheapest_data() {
    QTest::addColumn<QString>("name");
    QTest::addColumn<bool>("far");
    for (const char* name : {"usual", "joined", "strict", "field", "borders", "given", "exact"}) {
      QTest::newRow(name) << name << false;
      if (QString(name) != "given" && QString(name) != "exact")
        QTest::newRow(qPrintable(QString(name) + " far")) << name << true;
    }
  }
  void theyAreTheCheapest() {
    QFETCH(QString, name);
    QFETCH(bool, far);
    const Recipe recipe = kindOf(name);
    QVERIFY2(validate(recipe).ok(), validate(recipe).ok() ? "" : "not valid");
    const auto world = worldOf(recipe);
    const CourseWays::At at = homeOf(name, far);
    const auto region = regionOf(*world, at);
    reference::Evaluator reference(recipe);
    const auto told = reference.ways(at.i, at.j);
    QCOMPARE(region->ways.size(), told.size());
    size_t found = 0;
    for (size_t k = 0; k < told.size(); ++k) {
      const CourseWay& way = region->ways[k];
      QCOMPARE(std::string(faultName(way.fault)), told[k].fault);
      found += way.found();
      if (!way.found()) continue;
      QCOMPARE(way.places, told[k].places);
      QCOMPARE(way.levels, told[k].levels);
      QVERIFY(way.places.size() > 1 && way.length > 0);
    }
    if (name != "strict") QVERIFY(found > 0);
  }

  /// They are water like any other, in cells too.
  void theirCellsAreAsThePageSays_data() {
    QTest::addColumn<QString>("name");
    for (const char* name : {"usual", "exact"}) QTest::newRow(name) << name;
  }
  void theirCellsAreAsThePageSays() {
    QFETCH(QString, name);
    const Recipe recipe = kindOf(name);
    const auto world = worldOf(recipe);
    const auto region = regionOf(*world, homeOf(name, false));
    const auto way = std::find_if(
        region->ways.begin(), region->ways.end(), [](const CourseWay& w) { return w.found(); });
    QVERIFY(way != region->ways.end());
    const Cell middle = way->places[way->places.size() / 2];
    reference::Evaluator reference(recipe);
    int met = 0;
    for (int64_t z = middle.z - 16; z < middle.z + 16; ++z)
      for (int64_t x = middle.x - 16; x < middle.x + 16; ++x) {
        const CellValue value = world->at({x, z});
        const auto told = reference.water({x, z});
        QCOMPARE(std::string(nameOf(value.water.kind)), told.kind);
        QCOMPARE(value.height, told.height);
        QCOMPARE(int64_t{value.water.level}, told.level);
        met += value.water.course;
      }
    QVERIFY(met > 20);
    const auto plumb = plumbAt(*world, middle).value();
    QCOMPARE(plumb.water->way, way->name);
    QVERIFY(plumbText(plumb).find("way " + way->name) != std::string::npos);
  }

  /// With places that are cells the chain of them is water, joined by sides, free of obstacles.
  void chainsAreExact() {
    Recipe recipe = bounded(256, 1);
    RiverCourses& c = recipe.rivers->courses;
    c.count = 7;
    c.diagonal = false;
    c.width = 2;
    c.feature = 16;
    c.carve = 100;
    c.share = 0.2;
    const auto world = worldOf(recipe);
    const auto region = regionOf(*world);
    QCOMPARE(region->ways.size(), size_t{7});
    size_t found = 0, taken = 0;
    for (const CourseWay& way : region->ways) {
      if (!way.found()) continue;
      ++found;
      for (size_t n = 0; n < way.places.size(); ++n) {
        const Cell p = way.places[n];
        QVERIFY(world->at(p).water.kind != WaterKind::Dry);
        QVERIFY(!region->obstacles[region->index(static_cast<int32_t>(p.x - region->cells.x),
            static_cast<int32_t>(p.z - region->cells.z))]);
        ++taken;
        if (n == 0) continue;
        const Cell last = way.places[n - 1];
        QCOMPARE(std::abs(p.x - last.x) + std::abs(p.z - last.z), int64_t{1});
        QVERIFY(way.levels[n] <= way.levels[n - 1]);
      }
      // From edge to edge.
      const auto atEdge = [&](Cell p) {
        return p.x == region->cells.x || p.z == region->cells.z || p.x == region->cells.x + 255 ||
               p.z == region->cells.z + 255;
      };
      QVERIFY(atEdge(way.places.front()) && atEdge(way.places.back()));
    }
    qInfo("%zu of 7 ways over %zu cells", found, taken);
    QVERIFY(found >= 5);
    const auto closed = std::count(region->obstacles.begin(), region->obstacles.end(), 1);
    QCOMPARE(closed, std::lround(0.2 * 256 * 256));
  }

  /// Files of lines hold them, no farther than the world reaches.
  void theyAreLinesToo() {
    Recipe recipe = kindOf("exact");
    const auto world = worldOf(recipe);
    const Rect area{-150, 0, 200, 200};
    const auto with = riverPaths(*world, area).value();
    recipe.rivers->courses.count = 0;
    const auto without = riverPaths(*worldOf(recipe), area).value();
    size_t drawn = 0;
    for (const CourseWay& way : regionOf(*world)->ways) drawn += way.found();
    QVERIFY(drawn > 0);
    QCOMPARE(with.size(), without.size() + drawn);
    for (const RiverPath& path : with)
      for (const RiverPlace& p : path.places)
        QVERIFY(world->bounds().contains({area.x + static_cast<int64_t>(std::floor(p.x)),
            area.z + static_cast<int64_t>(std::floor(p.z))}));
  }

  /// Chunks, any order, remembered or not: the same cells.
  void anyPartIsCutFromTheWhole() {
    const Recipe recipe = kindOf("joined");
    const auto world = worldOf(recipe);
    const Rect all{-300, 700, 192, 160};
    const auto heightsOf = [&](const World& of, const Rect& r) {
      std::vector<float> out(static_cast<size_t>(r.width * r.length));
      if (!of.sample({r.x, r.z, 1, static_cast<int32_t>(r.width), static_cast<int32_t>(r.length)},
              out.data(), nullptr))
        qFatal("no sample");
      return out;
    };
    const auto whole = heightsOf(*world, all);
    for (const uint64_t memo : {uint64_t{64} << 20, uint64_t{0}}) {
      const auto other = worldOf(recipe, memo);
      for (const Cell at :
          {Cell{-300 + 150, 700 + 100}, Cell{-300, 700}, Cell{-300 + 33, 700 + 71}}) {
        const Rect part{at.x, at.z, 30, 40};
        const auto cut = heightsOf(*other, part);
        for (int64_t j = 0; j < 40; ++j)
          for (int64_t i = 0; i < 30; ++i)
            QCOMPARE(cut[static_cast<size_t>(j * 30 + i)],
                whole[static_cast<size_t>((at.z - all.z + j) * 192 + at.x - all.x + i)]);
      }
    }
  }

  /// What is found and what is given up are all there are; more obstacles leave fewer.
  void faultsAreCounted() {
    size_t before = SIZE_MAX;
    for (const double share : {0.1, 0.5, 0.99}) {
      Recipe recipe = land();
      recipe.rivers->courses.share = share;
      recipe.rivers->courses.carve = 1000;
      recipe.rivers->courses.winding = 32;
      const auto world = worldOf(recipe);
      const WayFigures found = findWays(*world, {-1024, -1024, 2048, 2048}).value();
      QCOMPARE(found.ways.size(), size_t{48});
      size_t sum = 0;
      for (const size_t n : found.faults) sum += n;
      QCOMPARE(sum, found.ways.size());
      QVERIFY(found.found() < before);
      before = found.found();
      qInfo("%s", found.text().c_str());
    }
    QCOMPARE(before, size_t{0});
    // The check names the reason and mends it.
    for (const auto& [member, value, reason] : {std::tuple(&RiverCourses::carve, 1.0, "too deep"),
             {&RiverCourses::winding, 1.0, "too long"}}) {
      Recipe recipe = land();
      recipe.rivers->courses.share = 0.1;
      recipe.rivers->courses.*member = value;
      const auto engine = Engine::create({}).value();
      const auto checks = runChecks(*engine, *engine->compile(recipe).value()).value();
      const auto check = std::find_if(
          checks.begin(), checks.end(), [](const Check& c) { return c.id == "courses-fail"; });
      QVERIFY2(check != checks.end(), reason);
      QVERIFY(check->sentence.find(reason) != std::string::npos);
      Recipe mended = recipe;
      check->apply(mended);
      QVERIFY(mended.rivers->courses.*member > value && validate(mended).ok());
    }
    Recipe recipe = land();
    recipe.rivers->courses.share = 0.55;
    const auto engine = Engine::create({}).value();
    const auto checks = runChecks(*engine, *engine->compile(recipe).value()).value();
    const auto check = std::find_if(
        checks.begin(), checks.end(), [](const Check& c) { return c.id == "courses-fail"; });
    QVERIFY(check != checks.end());
    QVERIFY(check->sentence.find("no path") != std::string::npos);
    QVERIFY(!whatIs(check->id).empty() && check->place);
    Recipe mended = recipe;
    check->apply(mended);
    QVERIFY(mended.rivers->courses.share < 0.4 && validate(mended).ok());
  }

  void offIsAsBefore() {
    Recipe with = land(), without = land();
    with.rivers->courses.count = 0;
    without.rivers->courses = {};
    const auto a = worldOf(with), b = worldOf(without);
    QVERIFY(!a->water()->ways());
    QVERIFY(!worldOf(loadRecipe("first-steps").value())->water());
    QVERIFY(findWays(*a, {0, 0, 100, 100}).value().ways.empty());
    std::vector<float> one(64 * 64), other(one.size());
    QVERIFY(a->sample({0, 0, 1, 64, 64}, one.data(), nullptr));
    QVERIFY(b->sample({0, 0, 1, 64, 64}, other.data(), nullptr));
    QVERIFY(one == other);
    std::stop_source stop;
    stop.request_stop();
    QVERIFY(!worldOf(land(), 0)->water()->ways()->region({5, 5}, stop.get_token()));
  }

  void whatIsNotAccepted_data() {
    QTest::addColumn<QString>("where");
    const auto row = [](const char* what, const char* where) { QTest::newRow(what) << where; };
    row("a million", "/rivers/courses/count");
    row("a step that leaves something over", "/rivers/courses/step");
    row("cells in an endless world", "/rivers/courses/step");
    row("a tiny world", "/rivers/courses/step");
    row("given in an endless world", "/rivers/courses/given/0");
    row("a stop outside", "/rivers/courses/given/0/stops/1");
    row("one stop", "/rivers/courses/given/0/stops");
    row("a share of two", "/rivers/courses/share");
    row("no width", "/rivers/courses/width");
  }
  void whatIsNotAccepted() {
    QFETCH(QString, where);
    const QString what = QTest::currentDataTag();
    Recipe recipe = what == "a stop outside" || what == "one stop" ? bounded(200, 5)
                    : what == "a tiny world"                       ? bounded(8, 8)
                                                                   : land();
    RiverCourses& c = recipe.rivers->courses;
    if (what == "a million") c.count = 1e6;
    if (what == "a step that leaves something over") c.step = 9;
    if (what == "cells in an endless world") c.step = 1;
    if (what == "given in an endless world") c.given = {{"a", {{0, 0}, {9, 9}}}};
    if (what == "a stop outside") c.given = {{"a", {{0, 60}, {100, 60}}}};
    if (what == "one stop") c.given = {{"a", {{0, 60}}}};
    if (what == "a share of two") c.share = 2;
    if (what == "no width") c.width = 0;
    const Status checked = validate(recipe);
    QVERIFY(!checked);
    QCOMPARE(QString::fromStdString(checked.error().where), where);
    QVERIFY(!checked.error().accepted.empty());
  }

  /// Ways that run across slopes lie below the ground on their lower side too.
  void theyAreHeld() {
    Recipe slopes = land();
    slopes.rivers->courses.count = 6;
    slopes.rivers->courses.carve = 60;
    for (const Recipe& recipe : {loadRecipe("patchwork-parish").value(), slopes}) {
      const auto world = worldOf(recipe);
      const Falls falls = fallsIn(*world, {0, 0, 1024, 1024}).value();
      QVERIFY2(falls.water > 10'000, qPrintable(QString::number(falls.water)));
      QVERIFY2(falls.few(), qPrintable(QString::number(falls.falls.size())));
    }
  }
};

ACRE_SUITE(WaysTest)
#include "ways_test.moc"
