// Traverses: routes, figures against an independent count, and what is said of bad settings.
#include <atomic>
#include <cmath>
#include <nlohmann/json.hpp>

#include "core/streams.h"
#include "output/traverse_text.h"
#include "recipe/object_recipe.h"
#include "stream/collision.h"
#include "stream/traverse.h"
#include "suite.h"
#include "world/world.h"

namespace {

TraverseSettings shortRun(int64_t view = 100) {
  TraverseSettings s;
  s.seconds = 1;
  s.speed = 400;
  s.threads = 2;
  s.stream = StreamSettings::moving(view, 16);
  return s;
}

double apart(Cell a, Cell b) {
  return std::hypot(static_cast<double>(a.x - b.x), static_cast<double>(a.z - b.z));
}

}  // namespace

class TraverseTest : public QObject {
  Q_OBJECT

 private slots:
  void builtInRoutesGoAtTheirSpeed() {
    for (const RouteKind kind : {RouteKind::Straight, RouteKind::Zigzag, RouteKind::Circle}) {
      Route route{kind, {100, -2'000'000'000}, {}, {}};
      QCOMPARE(route.at(0, 500), route.start);
      for (double t = 0; t < 20; t += 0.25)
        QVERIFY(std::abs(apart(route.at(t, 500), route.at(t + 0.01, 500)) - 5) < 1.6);
      QVERIFY(route.length(500) < 0);
    }
    // A circle comes back, and keeps its distance from its middle.
    const Route circle{RouteKind::Circle, {0, 0}, {}, {}};
    for (double t = 0; t < 30; t += 0.7)
      QVERIFY(std::abs(apart(circle.at(t, 700), {0, 1000}) - 1000) < 1.5);
    // A zigzag turns by a right angle every 1,000 cells.
    const Route zigzag{RouteKind::Zigzag, {0, 0}, {}, {}};
    QVERIFY(apart(zigzag.at(1, 1000), {707, 707}) < 2);
    QVERIFY(apart(zigzag.at(2, 1000), {1414, 0}) < 2);
    const Route leaps{RouteKind::Teleports, {0, 0}, {}, {}};
    for (int t = 1; t < 20; ++t) QVERIFY(apart(leaps.at(t - 0.001, 10), leaps.at(t, 10)) > 1000);
    QVERIFY(apart(leaps.at(3.0, 100), leaps.at(3.5, 100)) < 51);
  }

  /// Collision and objects within distances of their own are waited for on their own.
  void whatIsNeededNearerHasWaitsOfItsOwn() {
    Recipe recipe;
    recipe.seed = "near";
    recipe.name = "Near";
    recipe.materials = {{"turf", "Turf", {}, MaterialState::Solid}};
    recipe.bands = {{"all", {}, "turf", {}}};
    recipe.frame.seaLevel = -10;
    recipe.frame.chunkSize = 16;
    ObjectKind kind;
    kind.id = kind.name = "stone";
    kind.density = 20;
    kind.distance = 4;
    recipe.objects->kinds = {kind};
    EngineOptions options;
    const auto engine = Engine::create(options).value();
    const auto world = engine->compile(recipe).value();
    TraverseSettings settings = shortRun();
    settings.realTime = false;
    addExtras(world, 40, 70, settings);
    QCOMPARE(settings.extraNames, (std::vector<std::string>{"collision", "objects"}));
    const TraverseReport report = runTraverse(planOf(world), settings);
    QCOMPARE(report.extras.size(), size_t{2});
    QCOMPARE(report.extras[0].distance, int64_t{40});
    for (const TraverseExtra& extra : report.extras) {
      QVERIFY2(extra.waits.count > 20, extra.name.c_str());
      QVERIFY(extra.waits.count < report.waits.count);
      QVERIFY(extra.waits.worst >= extra.waits.percent99);
    }
    QVERIFY(report.extras[0].waits.count < report.extras[1].waits.count);
    // A chunk hands over those that it owns, no more than was said of it.
    const auto chunk = world->chunk({2, -1}).value();
    const StreamExtra::Made made = objectsThere(*chunk, {});
    QVERIFY(made.bytes <= settings.stream.extras[1].largestBytes);
    QCOMPARE(std::static_pointer_cast<const ObjectsThere>(made.data)->list, chunk->objects);
    QVERIFY(CollisionMap(*world, *chunk).bytes() <= settings.stream.extras[0].largestBytes);
    // Without either there are none, nor in a world without objects.
    TraverseSettings plain = shortRun();
    addExtras(world, -1, -1, plain);
    QVERIFY(plain.stream.extras.empty());
    recipe.objects->kinds.clear();
    addExtras(engine->compile(recipe).value(), -1, 50, plain);
    QVERIFY(plain.stream.extras.empty());
  }

  void routesOfPointsAreFollowedAndEnd() {
    const Route route = routeFromText(R"({"points": [[0, 0], [100, 0], [100, 50]]})", "r").value();
    QCOMPARE(route.at(1, 50), (Cell{50, 0}));
    QCOMPARE(route.at(2.5, 50), (Cell{100, 25}));
    QCOMPARE(route.at(9, 50), (Cell{100, 50}));
    QCOMPARE(route.length(50), 3.0);
    const Route timed =
        routeFromText(R"({"points": [[0, 0], [100, 0]], "seconds": [1, 5]})", "r").value();
    QCOMPARE(timed.at(0.5, 1), (Cell{0, 0}));
    QCOMPARE(timed.at(2, 1), (Cell{25, 0}));
    QCOMPARE(timed.at(6, 1), (Cell{100, 0}));
    QCOMPARE(timed.length(1), 5.0);
    QCOMPARE(routeFromText(routeText(timed), "again").value(), timed);
    QCOMPARE(routeFromText(routeText(route), "again").value(), route);
  }

  void badRoutesNameThePlace_data() {
    QTest::addColumn<QString>("text");
    QTest::addColumn<QString>("place");
    QTest::newRow("no JSON") << "{\"points\": [[0, 0"
                             << "line 1";
    QTest::newRow("no object") << "[1, 2]"
                               << "";
    QTest::newRow("no points") << "{}"
                               << "points";
    QTest::newRow("none") << R"({"points": []})"
                          << "/points";
    QTest::newRow("three numbers") << R"({"points": [[0, 0], [1, 2, 3]]})"
                                   << "/points/1";
    QTest::newRow("a fraction") << R"({"points": [[0, 0.5]]})"
                                << "/points/0/1";
    QTest::newRow("too far") << R"({"points": [[4611686018427387904, 0]]})"
                             << "/points/0/0";
    QTest::newRow("times") << R"({"points": [[0, 0]], "seconds": []})"
                           << "/seconds";
    QTest::newRow("backwards") << R"({"points": [[0, 0], [1, 1]], "seconds": [2, 1]})"
                               << "/seconds/1";
    QTest::newRow("another key") << R"({"points": [[0, 0]], "speed": 3})"
                                 << "";
  }
  void badRoutesNameThePlace() {
    QFETCH(QString, text);
    QFETCH(QString, place);
    const auto route = routeFromText(text.toStdString(), "way.json");
    QVERIFY(!route);
    const QString said = QString::fromStdString(route.error().text());
    QVERIFY2(said.startsWith("way.json") && said.contains(place), qPrintable(said));
  }

  void unknownRoutesAreRefused() {
    const auto route = routeNamed("spiral");
    QVERIFY(!route && route.error().where == "--route");
    QCOMPARE(routeNamed("zigzag").value().kind, RouteKind::Zigzag);
  }

  /// The chunks that a traverse needs, and those that a stream wants, both against brute force.
  void neededChunksEqualBruteForce() {
    auto engine = engineWith(0);
    for (const auto& bounds : {std::optional<AxisBounds>(), std::optional(AxisBounds{-90, 200})}) {
      const auto world = demoWorld(*engine, 12, bounds);
      for (const Cell view : {Cell{0, 0}, Cell{-77, 45}, Cell{11, -12}, Cell{130, 120}}) {
        const auto list = neededChunks(planOf(*world).layout(), planOf(*world).bounds(), view, 75);
        const std::set<ChunkPos> set(list.begin(), list.end());
        QCOMPARE(set.size(), list.size());
        QCOMPARE(set, wantedByForce(*world, view, 75));
      }
    }
  }

  /// Another owner drives the same route with its own count, in lock step: the same loads.
  void figuresAgreeWithAnIndependentCount() {
    auto engine = engineWith(0);
    const auto world = demoWorld(*engine);
    TraverseSettings s = shortRun();
    s.realTime = false;
    s.threads = 0;  // So that nothing depends on timing.
    s.takePerFrame = 5000;
    s.stream.queuePlaces = 5000;
    s.route.kind = RouteKind::Zigzag;
    s.seconds = 4;
    const TraverseReport report = runTraverse(planOf(world), s);
    QVERIFY(report.finished);

    Executor none(0);
    MemoryBudget budget(1u << 30);
    Stream stream(planOf(world), s.stream, none, budget);
    std::set<ChunkPos> ever;
    Owner owner;
    uint64_t needs = 0, frames = 0;
    std::set<ChunkPos> before;
    bool full = false;
    for (int f = 0; f < 240; ++f, ++frames) {
      const Cell view = s.route.at(f / 60.0, s.speed);
      stream.setView(view);
      do {
        while (stream.runOne()) {
        }
        owner.take(stream);
      } while (stream.runOne());
      owner.take(stream);
      const auto needed = wantedByForce(*world, view, s.stream.viewDistance);
      for (const ChunkPos pos : needed) {
        QVERIFY(owner.held.contains(pos));
        if (full && !before.contains(pos)) ++needs;
      }
      before = needed;
      full = true;
      for (const auto& [pos, chunk] : owner.held) ever.insert(pos);
      QCOMPARE(size_t{report.frames[static_cast<size_t>(f)].needed}, needed.size());
      QCOMPARE(report.frames[static_cast<size_t>(f)].missing, 0u);
    }
    QCOMPARE(uint64_t{report.frames.size()}, frames);
    QCOMPARE(report.waits.count, needs);
    QCOMPARE(report.stream.built, uint64_t{ever.size()});  // Once each: the cache holds the rest.
    QCOMPARE(report.stream.asked, report.stream.built);
    QVERIFY(report.fullViewMillis >= 0);
    QCOMPARE(report.stream.released, uint64_t{owner.shown - owner.held.size()});
  }

  /// In real time with workers: what one frame says follows from the others.
  void realTimeFiguresHangTogether() {
    auto engine = engineWith(0);
    const auto world = demoWorld(*engine);
    TraverseSettings s = shortRun(300);  // More than a hiccup's worth.
    s.route.kind = RouteKind::Teleports;
    s.seconds = 2.5;
    std::atomic<int> frames{0};
    const TraverseReport r = runTraverse(planOf(world), s, {}, [&](const TraverseMoment& moment) {
      ++frames;
      QCOMPARE(moment.view, s.route.at(moment.frame.seconds, s.speed));
    });
    QCOMPARE(frames.load(), 150);
    QVERIFY(r.elapsed >= 2.4);
    QVERIFY(r.fullViewMillis > 0);
    uint64_t missing = 0, missingFrames = 0, peak = 0;
    bool full = false;
    for (const TraverseFrame& f : r.frames) {
      QVERIFY(f.missing <= f.needed);
      QVERIFY(f.loaded + f.missing >= f.needed);
      if (full) missing += f.missing, missingFrames += f.missing > 0;
      full = full || f.missing == 0;
      peak = std::max(peak, f.bytes);
    }
    QCOMPARE(r.missing, missing);
    QCOMPARE(r.missingFrames, missingFrames);
    QCOMPARE(r.peakBytes, peak);
    QVERIFY(r.missing > 0);  // A leap cannot be foreseen.
    const TraverseWaits& w = r.waits;
    QVERIFY(0 <= w.median && w.median <= w.percent95 && w.percent95 <= w.percent99 &&
            w.percent99 <= w.worst);
    QVERIFY(w.worst > 0 && w.count > 0);
    QVERIFY(verdictOf(r).find("missing chunk-frames") != std::string::npos);
    QVERIFY(r.peakBytes <= s.memoryLimit);
  }

  void slowMotionSlowsWorkersAndRouteAlike() {
    auto engine = engineWith(0);
    TraverseSettings s = shortRun(30);
    s.seconds = 0.2;
    s.stream.slowMotion = 5;
    const TraverseReport r = runTraverse(planOf(demoWorld(*engine)), s);
    QCOMPARE(r.frames.size(), size_t{12});
    QVERIFY(r.elapsed > 0.85);
  }

  void aViewThatDoesNotFitIsSaid() {
    auto engine = engineWith(0);
    TraverseSettings s = shortRun(200);
    s.memoryLimit = 400'000;
    for (const bool realTime : {true, false}) {
      s.realTime = realTime;
      s.seconds = 0.5;
      const TraverseReport r = runTraverse(planOf(demoWorld(*engine)), s);
      QVERIFY2(r.limit.find("cannot hold the view") != std::string::npos, r.limit.c_str());
      QVERIFY(r.peakBytes <= 400'000);
      QVERIFY(verdictOf(r).find("never whole") != std::string::npos);
    }
  }

  void stopsAtOnce() {
    auto engine = engineWith(0);
    TraverseSettings s = shortRun(1000);
    s.seconds = 1000;
    std::stop_source stop;
    int frames = 0;
    const TraverseReport r =
        runTraverse(planOf(demoWorld(*engine)), s, stop.get_token(), [&](const auto&) {
          if (++frames == 3) stop.request_stop();
        });
    QVERIFY(!r.finished);
    QCOMPARE(r.frames.size(), size_t{3});
  }

  void badSettingsAreRefusedByName() {
    auto engine = engineWith(0);
    const auto refused = [&](auto change, const char* name, int chunk = 16) {
      TraverseSettings s = shortRun();
      change(s);
      const Status status = checkTraverse(planOf(*demoWorld(*engine, chunk)), s);
      return !status && status.error().where == name && !status.error().accepted.empty();
    };
    using S = TraverseSettings&;
    QVERIFY(checkTraverse(planOf(*demoWorld(*engine)), shortRun(0)).ok());
    QVERIFY(refused([](S s) { s.speed = 0; }, "speed"));
    QVERIFY(refused([](S s) { s.speed = std::nan(""); }, "speed"));
    QVERIFY(refused([](S s) { s.seconds = 1e9; }, "seconds"));
    QVERIFY(refused([](S s) { s.framesPerSecond = 0; }, "frames"));
    QVERIFY(refused([](S s) { s.threads = 512; }, "threads"));
    QVERIFY(refused([](S s) { s.takePerFrame = 0; }, "chunks taken in a frame"));
    QVERIFY(refused([](S s) { s.route.kind = RouteKind::Points; }, "route"));
    QVERIFY(refused([](S s) { s.stream.viewDistance = 100'000; }, "view distance"));
    QVERIFY(refused([](S s) { s.stream.viewDistance = 60'000; }, "view distance", 16));
    QVERIFY(refused([](S) {}, "view distance", 1));
  }

  void tablesAndJsonHoldTheSameFigures() {
    auto engine = engineWith(0);
    std::vector<TraverseColumn> columns(2);
    for (size_t i = 0; i < 2; ++i) {
      columns[i].name = std::string(1, i == 0 ? 'A' : 'B');
      columns[i].chunkSize = 16;
      columns[i].settings = shortRun(50);
      columns[i].settings.seconds = 0.3;
      columns[i].settings.threads = static_cast<unsigned>(i + 1);
      columns[i].settings.realTime = i == 0;
      columns[i].report = runTraverse(planOf(demoWorld(*engine)), columns[i].settings);
    }
    const auto settings = traverseSettingsText(columns);
    QCOMPARE(settings[0], std::string("1 thread, real time"));
    QCOMPARE(settings[1], std::string("2 threads, as fast as possible"));
    const auto figures = traverseFigures(columns);
    const auto json = nlohmann::json::parse(traverseJson(columns, true));
    QCOMPARE(json.size(), size_t{2});
    for (size_t i = 0; i < 2; ++i) {
      QCOMPARE(json[i]["frameRows"].size(), columns[i].report.frames.size());
      QCOMPARE(json[i]["figures"].size(), figures.size());
      for (size_t k = 0; k < figures.size(); ++k) {
        const auto& value = json[i]["figures"][k]["value"];
        QCOMPARE(value.is_null(), std::isnan(figures[k].values[i]));
        if (!value.is_null()) QCOMPARE(value.get<double>(), figures[k].values[i]);
      }
    }
    const QString csv = QString::fromStdString(traverseCsv(columns[0].report));
    const QStringList rows = csv.split('\n', Qt::SkipEmptyParts);
    QCOMPARE(static_cast<size_t>(rows.size()), columns[0].report.frames.size() + 1);
    for (const QString& row : rows) QCOMPARE(row.split(',').size(), 9);
    QCOMPARE(rows[5].split(',')[1].toUInt(), columns[0].report.frames[4].needed);
    QCOMPARE(figureText(std::nan("")), std::string("–"));
    QCOMPARE(figureText(12), std::string("12"));
    QCOMPARE(figureText(0.4567), std::string("0.457"));
  }
};

ACRE_SUITE(TraverseTest)
#include "traverse_test.moc"
