#include <cmath>

#include "core/streams.h"
#include "suite.h"
#include "world/world.h"

class StreamTest : public QObject {
  Q_OBJECT

 private slots:
  void setEqualsBruteForceOnALongWalk_data() {
    QTest::addColumn<bool>("bounded");
    QTest::newRow("endless") << false;
    QTest::newRow("bounded") << true;
  }
  /// 10,000 steps of a wandering viewpoint, by the caller's own thread.
  void setEqualsBruteForceOnALongWalk() {
    QFETCH(bool, bounded);
    auto engine = engineWith(0);
    const auto world =
        demoWorld(*engine, 16, bounded ? std::optional(AxisBounds{-150, 333}) : std::nullopt);
    constexpr int64_t kDistance = 40;
    Stream stream(world, around(kDistance, 256), engine->executor(), engine->budget());
    Owner owner;
    std::mt19937 random(2);
    Cell view{0, 0};
    for (int step = 0; step < 10000; ++step) {
      view.x += static_cast<int64_t>(random() % 5) - 2;
      view.z += static_cast<int64_t>(random() % 5) - 2;
      if (step % 1000 == 999) view = {view.x + (step % 2000 == 999 ? 500 : -500), view.z - 90};
      stream.setView(view);
      while (stream.runOne()) {
      }
      owner.take(stream);
      if (step % 10 == 0 && owner.places() != wantedByForce(*world, view, kDistance))
        QFAIL(qPrintable(QString("step %1 at %2,%3").arg(step).arg(view.x).arg(view.z)));
    }
    QCOMPARE(stream.stats().built, owner.shown);  // Each load builds once and is shown once.
    QCOMPARE(stream.stats().expected, owner.held.size());
  }

  void nearestComesFirst() {
    auto engine = engineWith(0);
    const auto world = demoWorld(*engine);
    Stream stream(world, around(100, 1000), engine->executor(), engine->budget());
    stream.setView({7, -3});
    int64_t last = 0;
    while (stream.runOne()) {
      const Handover change = stream.take(10);
      QCOMPARE(change.show.size(), size_t{1});
      const int64_t distance = squaredDistance({7, -3}, change.show[0]->rect);
      QVERIFY(distance >= last);
      last = distance;
    }
  }

  void anyNumberOfWorkersGivesTheSameChunks_data() {
    QTest::addColumn<int>("threads");
    for (const int n : {1, 2, 8}) QTest::addRow("%d", n) << n;
  }
  void anyNumberOfWorkersGivesTheSameChunks() {
    QFETCH(int, threads);
    auto engine = engineWith(static_cast<unsigned>(threads));
    const auto world = demoWorld(*engine);
    Stream stream(world, around(150, 16), engine->executor(), engine->budget());
    std::atomic<int> calls{0};
    stream.onReady([&] { ++calls; });
    Owner owner;
    for (const Cell view : {Cell{0, 0}, Cell{90, 10}, Cell{-2'000'000'000, 5}}) {
      stream.setView(view);
      const auto wanted = wantedByForce(*world, view, 150);
      QElapsedTimer clock;
      clock.start();
      while (owner.places() != wanted && clock.elapsed() < 20000) {
        owner.take(stream, 3);  // Little by little, from a short queue.
        QTest::qSleep(1);
      }
      QCOMPARE(owner.places(), wanted);
      for (const auto& [pos, chunk] : owner.held)
        QCOMPARE(chunkHash(*world, *chunk), chunkHash(*world, **world->chunk(pos)));
    }
    QVERIFY(calls > 0);
    QCOMPARE(stream.stats().held, owner.held.size());
  }

  void aNewWorldReplacesInPlace() {
    auto engine = engineWith(2);
    const auto first = demoWorld(*engine);
    Recipe recipe = first->recipe();
    recipe.seed = "other";
    const auto second = engine->compile(recipe).value();
    Stream stream(first, around(60, 64), engine->executor(), engine->budget());
    Owner owner;
    stream.setView({0, 0});
    QTRY_COMPARE((owner.take(stream), stream.stats().held), stream.stats().expected);
    const auto places = owner.places();
    stream.setSource(second);
    owner.take(stream, 0);
    QCOMPARE(owner.places(), places);  // The old ones stay until their successors arrive.
    QTRY_COMPARE((owner.take(stream), stream.stats().held), stream.stats().expected);
    for (const auto& [pos, chunk] : owner.held)
      QCOMPARE(chunkHash(*second, *chunk), chunkHash(*second, **second->chunk(pos)));
    recipe.frame.chunkSize = 8;  // Places mean other cells: everything is cleared.
    stream.setSource(engine->compile(recipe).value());
    QTRY_COMPARE((owner.take(stream), stream.stats().held), stream.stats().expected);
    for (const auto& [pos, chunk] : owner.held) QCOMPARE(chunk->rect.width, int64_t{8});
  }

  void anErrorStopsNothingElse() {
    auto engine = engineWith(2);
    const auto world = demoWorld(*engine);
    Stream stream(world, around(50, 64), engine->executor(), engine->budget());
    Owner owner;
    stream.setView({kMaxCell, 0});  // The last chunks cannot be made.
    QTRY_VERIFY((owner.take(stream),
        stream.stats().held + stream.stats().failed == stream.stats().expected));
    const auto failures = stream.failures();
    QVERIFY(!failures.empty());
    QVERIFY(!owner.held.empty());
    QVERIFY(failures.front().error.where.find("seed heather-41") != std::string::npos);
    QVERIFY(failures.front().error.where.find("stage heights") != std::string::npos);
    const size_t before = stream.stats().failed;
    stream.retry(failures.front().pos);
    QTRY_COMPARE(stream.stats().failed, before);  // It fails again, and that is all.
    stream.setView({0, 0});
    QTRY_COMPARE((owner.take(stream), stream.stats().held), stream.stats().expected);
    QVERIFY(stream.failures().empty());
  }

  void theBudgetIsNeverPassed() {
    auto engine = engineWith(2, 200'000);  // Room for some chunks of 16 x 16.
    const auto world = demoWorld(*engine);
    Stream stream(world, around(100, 64), engine->executor(), engine->budget());
    Owner owner;
    stream.setView({0, 0});
    for (int i = 0; i < 50; ++i) {
      owner.take(stream);
      QVERIFY(engine->budget().used() <= engine->budget().limit());
      QTest::qWait(2);
    }
    QVERIFY(!owner.held.empty());
    QVERIFY(owner.held.size() < stream.stats().expected);
    owner.held.clear();  // Letting go makes room for the others.
    QTRY_VERIFY((owner.take(stream), !owner.held.empty()));
    owner.held.clear();
    stream.stop();
    QCOMPARE(engine->budget().used(), uint64_t{0});
  }

  void theQueueIsBounded() {
    auto engine = engineWith(0);
    Stream stream(demoWorld(*engine), around(200, 5), engine->executor(), engine->budget());
    stream.setView({0, 0});
    int made = 0;
    while (stream.runOne()) ++made;
    QCOMPARE(made, 5);
    QCOMPARE(stream.take(2).show.size(), size_t{2});
    while (stream.runOne()) ++made;
    QCOMPARE(made, 7);
  }

  void stopsCleanlyUnderLoad() {
    for (int round = 0; round < 20; ++round) {
      auto engine = engineWith(4);
      auto stream = std::make_unique<Stream>(
          demoWorld(*engine, 64), around(2000, 256), engine->executor(), engine->budget());
      std::atomic<bool> stopped{false};
      stream->onReady([&] { QVERIFY(!stopped); });
      for (int i = 0; i < 5; ++i) {
        stream->setView({i * 300, -i * 100});
        stream->take(10);
        QTest::qSleep(round % 3);
      }
      stream->stop();
      stopped = true;
      QVERIFY(!stream->runOne());
      QCOMPARE(stream->stats().expected, size_t{0});
      QCOMPARE(engine->budget().used(), uint64_t{0});
      stream.reset();
    }
  }

  void tooManyChunksAreCutFromTheFarEnd() {
    auto engine = engineWith(0);
    const auto world = demoWorld(*engine, 1);
    Stream stream(world, around(200, 16), engine->executor(), engine->budget());
    stream.setView({0, 0});
    const StreamStats stats = stream.stats();
    QVERIFY(stats.cut > 0);
    const auto places = stream.places();
    QVERIFY(places.size() <= WantedSet::kMost && places.size() > WantedSet::kMost * 98 / 100);
    QCOMPARE(stats.expected, places.size() + stats.cut);
    QCOMPARE(stats.expected, wantedByForce(*world, {0, 0}, 200).size());
    // Everything nearer than the farthest place that was taken was taken as well.
    int64_t farthest = 0;
    for (const auto& place : places)
      farthest = std::max(farthest, squaredDistance({0, 0}, world->layout().rectOf(place.pos)));
    const auto radius = static_cast<int64_t>(std::sqrt(static_cast<double>(farthest)));
    QVERIFY(places.size() >= wantedByForce(*world, {0, 0}, radius).size());
  }

  /// A step with a large view distance costs what changed; the set stays right all the same.
  void largeViewDistancesFollow() {
    auto engine = engineWith(0);
    const auto world = demoWorld(*engine, 32);
    Stream stream(world, around(1500, 16), engine->executor(), engine->budget());
    Cell view{0, 0};
    std::mt19937 random(4);
    for (int step = 0; step < 60; ++step) {
      view.x += static_cast<int64_t>(random() % 90) - 30;
      view.z -= static_cast<int64_t>(random() % 40);
      stream.setView(view);
      if (step % 20 != 19) continue;
      std::set<ChunkPos> places;
      for (const auto& place : stream.places()) places.insert(place.pos);
      QCOMPARE(places, wantedByForce(*world, view, 1500));
    }
  }
};

ACRE_SUITE(StreamTest)
#include "stream_test.moc"
