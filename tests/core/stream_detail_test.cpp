// What a stream does beyond loading: margins, the cache, detail levels, extras, too little room,
// chunks that fail, and all of it at once.
#include <atomic>
#include <thread>

#include "core/streams.h"
#include "dry.h"
#include "stream/collision.h"
#include "suite.h"
#include "world/world.h"

namespace {

/// Stands before a world and counts, or fails, what is asked of it.
class Counting final : public ChunkSource {
 public:
  explicit Counting(std::shared_ptr<const World> world, unsigned failIn = 0)
      : world_(std::move(world)), failIn_(failIn) {}
  const ChunkLayout& layout() const override { return world_->layout(); }
  const Rect& bounds() const override { return world_->bounds(); }
  uint64_t largestChunkBytes() const override { return world_->largestChunkBytes(); }
  uint64_t workBytes() const override { return world_->workBytes(); }

  mutable std::atomic<unsigned> asked{0};
  mutable std::atomic<bool> broken{true};

 private:
  Result<ChunkHandle> makeChunk(
      ChunkPos pos, const std::stop_token& stop, StageTimes* times) const override {
    const unsigned number = ++asked;
    if (failIn_ && broken && mix64(number) % failIn_ == 0)
      return Error{Error::Code::Io, "the ground gave way", "chunk", ""};
    return world_->chunk(pos, stop, times);
  }
  std::shared_ptr<const World> world_;
  unsigned failIn_;
};

void runAll(Stream& stream, Owner& owner) {
  do {
    while (stream.runOne()) {
    }
    owner.take(stream);
  } while (stream.runOne());
  owner.take(stream);
}

/// How many chunks of the owner's lie on each chunk of level 0 within `distance`, level 0 first.
bool coversOnce(const World& world, const Owner& owner, Cell view, int64_t distance) {
  for (const ChunkPos pos : wantedByForce(world, view, distance)) {
    int over = 0;
    for (ChunkPos up = pos; up.detail <= kCoarsestDetail; up = parentOf(up))
      over += owner.held.contains(up);
    if (over != 1) return false;
  }
  return true;
}

bool overlapFree(const Owner& owner) {
  for (const auto& [pos, chunk] : owner.held)
    for (ChunkPos up = parentOf(pos); up.detail <= kCoarsestDetail; up = parentOf(up))
      if (owner.held.contains(up)) return false;
  return true;
}

}  // namespace

class StreamDetailTest : public QObject {
  Q_OBJECT

 private slots:
  void pacingWithinTheMarginLoadsNothingTwice() {
    auto engine = engineWith(0);
    const auto world = demoWorld(*engine);
    const auto source = std::make_shared<Counting>(world);
    StreamSettings settings = around(100, 1000);
    settings.margin = 48;
    Stream stream(source, settings, engine->executor(), engine->budget());
    Owner owner;
    for (const int64_t x : {0, 40, 0, 40, 0, 40}) {
      stream.setView({x, 3});
      runAll(stream, owner);
    }
    const auto first = wantedByForce(*world, {0, 3}, 100),
               last = wantedByForce(*world, {40, 3}, 100);
    auto both = last;
    both.insert(first.begin(), first.end());
    QCOMPARE(size_t{source->asked}, both.size());
    QCOMPARE(owner.places(), both);
    QCOMPARE(stream.stats().leaving, both.size() - last.size());
  }

  /// A random walk with a margin: what is wanted is there, nothing is kept beyond the margin.
  void nothingIsKeptBeyondTheMargin() {
    auto engine = engineWith(0);
    const auto world = demoWorld(*engine, 8, AxisBounds{-170, 400});
    StreamSettings settings = around(30, 1000);
    settings.ahead = 10;
    settings.margin = 17;
    Stream stream(world, settings, engine->executor(), engine->budget());
    Owner owner;
    std::mt19937 random(8);
    Cell view{0, 0};
    for (int step = 0; step < 1500; ++step) {
      view.x += static_cast<int64_t>(random() % 15) - 7;
      view.z += static_cast<int64_t>(random() % 15) - 7;
      if (step % 400 == 399) view.x = -view.x;
      stream.setView(view);
      runAll(stream, owner);
      const auto places = owner.places();
      const auto wanted = wantedByForce(*world, view, 40);
      const auto most = wantedByForce(*world, view, 57);
      QVERIFY(std::includes(places.begin(), places.end(), wanted.begin(), wanted.end()));
      QVERIFY(std::includes(most.begin(), most.end(), places.begin(), places.end()));
      QCOMPARE(stream.stats().needed, wantedByForce(*world, view, 30).size());
      QCOMPARE(stream.stats().missing, size_t{0});
    }
    const StreamStats stats = stream.stats();
    QCOMPARE(stats.built, stats.asked);  // In the caller's thread nothing grows stale.
    QCOMPARE(stats.built, uint64_t{owner.shown});
    QCOMPARE(stats.released, uint64_t{owner.shown - owner.held.size()});
  }

  void theCacheAnswersAndStaysWithinItsBytes() {
    auto engine = engineWith(0);
    const auto source = std::make_shared<Counting>(demoWorld(*engine));
    StreamSettings settings = around(60, 1000);
    settings.cacheBytes = 60'000;
    Stream stream(source, settings, engine->executor(), engine->budget());
    Owner owner;
    stream.setView({0, 0});
    runAll(stream, owner);
    const unsigned first = source->asked;
    uint64_t held = 0;
    for (const auto& [pos, chunk] : owner.held) held += chunk->bytes();
    stream.setView({400, 0});
    runAll(stream, owner);
    StreamStats stats = stream.stats();
    QVERIFY(stats.cached > 5);
    QVERIFY(stats.bytes - held * stats.held / first < 90'000);
    const unsigned second = source->asked;
    QVERIFY(second > first);
    stream.setView({0, 0});  // Those let go last are there still.
    runAll(stream, owner);
    stats = stream.stats();
    QVERIFY(stats.found > 0);
    QCOMPARE(uint64_t{source->asked}, second + first - stats.found);
    QCOMPARE(owner.places(), wantedByForce(*demoWorld(*engine), {0, 0}, 60));
    owner.held.clear();
    stream.stop();
    QCOMPARE(engine->budget().used(), uint64_t{0});
  }

  void theCacheForgetsTheLeastRecentlyUsed() {
    auto engine = engineWith(0);
    const auto world = demoWorld(*engine);
    std::vector<ChunkHandle> chunks;
    for (int64_t i = 0; i < 5; ++i) chunks.push_back(world->chunk({i, 0}).value());
    uint64_t three = 0;
    for (int i = 2; i < 5; ++i) three += chunks[static_cast<size_t>(i)]->bytes();
    ChunkCache cache(three);
    for (const ChunkHandle& chunk : chunks) {
      cache.put(chunk);
      QVERIFY(cache.bytes() <= cache.mostBytes());
    }
    QVERIFY(!cache.take({0, 0}));
    QCOMPARE(cache.take({4, 0}), chunks[4]);
    QVERIFY(!cache.take({4, 0}));
    cache.put(chunks[4]);
    cache.put(chunks[4]);  // Twice is once.
    uint64_t held = 0;
    size_t count = 0;
    while (cache.size() > 0) {
      const uint64_t before = cache.bytes();
      QVERIFY(cache.dropOldest());
      held += before - cache.bytes();
      ++count;
    }
    QVERIFY(count >= 1 && held <= three);
    QVERIFY(!cache.dropOldest());
    ChunkCache none(10);
    none.put(chunks[0]);
    QCOMPARE(none.size(), size_t{0});
  }

  /// What lies ahead comes before what lies as far behind.
  void aheadComesFirst() {
    auto engine = engineWith(0);
    const auto world = demoWorld(*engine);
    Stream stream(world, around(160, 1000), engine->executor(), engine->budget());
    stream.setView({0, 8});
    stream.setView({16, 8});
    int64_t ahead = 0, behind = 0;
    for (int i = 0; i < 80 && stream.runOne(); ++i)
      for (const ChunkHandle& chunk : stream.take(10).show)
        if (chunk->pos.cx != 1) ++(chunk->pos.cx > 1 ? ahead : behind);
    QVERIFY2(ahead > behind * 2, qPrintable(QString("%1 %2").arg(ahead).arg(behind)));
    stream.setView({0, 8});  // It turns round: so does the order.
    int64_t east = 0, west = 0;
    for (int i = 0; i < 60 && stream.runOne(); ++i)
      for (const ChunkHandle& chunk : stream.take(10).show) ++(chunk->pos.cx > 1 ? east : west);
    QVERIFY2(west > east, qPrintable(QString("%1 %2").arg(west).arg(east)));
  }

  void chunksOfEveryLevelAreCutFromTheWorld() {
    auto engine = engineWith(0);
    for (const bool bounded : {false, true}) {
      const auto world =
          demoWorld(*engine, 16, bounded ? std::optional(AxisBounds{-37, 90}) : std::nullopt);
      for (int level = 0; level <= kCoarsestDetail; ++level) {
        const ChunkHandle chunk = world->chunk({-1, 0, level}).value();
        const Rect whole = world->layout().rectOf({-1, 0, level});
        QCOMPARE(chunk->rect, intersection(whole, world->bounds()));
        const int64_t step = int64_t{1} << level;
        for (int32_t j = 0; j < chunk->length; ++j)
          for (int32_t i = 0; i < chunk->width; ++i) {
            const Cell cell{(level ? whole.x : chunk->rect.x) + i * step,
                (level ? whole.z : chunk->rect.z) + j * step};
            const auto at = static_cast<size_t>(j * chunk->width + i);
            const CellValue value = world->at(cell);
            QCOMPARE(chunk->materials[at], value.material);
            if (world->bounds().contains(cell)) QCOMPARE(chunk->heights[at], value.height);
          }
      }
    }
    const auto none = demoWorld(*engine)->chunk({0, 0, kCoarsestDetail + 1});
    QVERIFY(!none && none.error().accepted == "0 to 8");
    QVERIFY(!demoWorld(*engine)->chunk({0, 0, -1}));
  }

  /// However the viewpoint moves, the owner's chunks never overlap, what stood stays until its
  /// successors come, and at rest every place is covered once, near ones at level 0.
  void detailLevelsLeaveNoHoleAndNoOverlap() {
    auto engine = engineWith(0);
    const auto world = demoWorld(*engine, 8);
    StreamSettings settings = around(220, 1000);
    settings.levels = 4;
    settings.detail = 40;
    settings.margin = 10;
    Stream stream(world, settings, engine->executor(), engine->budget());
    Owner owner;
    std::mt19937 random(5);
    Cell view{0, 0};
    stream.setView(view);
    runAll(stream, owner);
    QVERIFY(coversOnce(*world, owner, view, 220));
    for (int step = 0; step < 150; ++step) {
      const Cell before = view;
      view.x += static_cast<int64_t>(random() % 41) - 15;
      view.z += static_cast<int64_t>(random() % 41) - 20;
      stream.setView(view);
      const int some = static_cast<int>(random() % 30);
      for (int i = 0; i < some && stream.runOne(); ++i) {
      }
      owner.take(stream, 1 + random() % 6);
      QVERIFY(overlapFree(owner));
      if (step % 3 == 0) {  // Ground that was there, and is wanted still, is there.
        for (const ChunkPos pos : wantedByForce(*world, before, 100)) {
          int over = 0;
          for (ChunkPos up = pos; up.detail < 4; up = parentOf(up)) over += owner.held.contains(up);
          QCOMPARE(over, 1);
        }
      }
      if (step % 3 != 2) continue;
      runAll(stream, owner);
      QVERIFY(coversOnce(*world, owner, view, 220));
      QVERIFY(overlapFree(owner));
      std::array<size_t, 4> levels{};
      for (const auto& [pos, chunk] : owner.held) ++levels[static_cast<size_t>(pos.detail)];
      for (const ChunkPos pos : wantedByForce(*world, view, 40)) QVERIFY(owner.held.contains(pos));
      QVERIFY(levels[0] > 0 && levels[1] > 0 && levels[2] > 0 && levels[3] > 0);
    }
    QVERIFY(owner.held.size() < wantedByForce(*world, view, 220).size() / 5);  // What it is for.
  }

  void aGroupWaitsForAllButNotForQueuePlaces() {
    auto engine = engineWith(0);
    const auto world = demoWorld(*engine, 8);
    StreamSettings settings = around(60, 2);  // Fewer places than a group has chunks.
    settings.levels = 3;
    settings.detail = 16;
    Stream stream(world, settings, engine->executor(), engine->budget());
    Owner owner;
    for (const int64_t x : {0, 30, 90, -20, 0}) {
      stream.setView({x, 0});
      for (int i = 0; i < 3000; ++i) {
        stream.runOne();
        owner.take(stream, 1);
        QVERIFY(overlapFree(owner));
      }
      QVERIFY(coversOnce(*world, owner, {x, 0}, 60));
    }
  }

  void extrasHaveRadiiOfTheirOwn() {
    auto engine = engineWith(2);
    const auto world = demoWorld(*engine);
    std::atomic<int> calls{0};
    StreamSettings settings = around(120, 64);
    settings.margin = 20;
    settings.levels = 3;
    settings.detail = 10;  // Too near for the extras: they see to their ground.
    settings.extras.push_back({40, world->largestChunkBytes(), collisionMaker(world)});
    settings.extras.push_back({70, 100, [&](const Chunk& chunk, const std::stop_token&) {
                                 ++calls;
                                 StreamExtra::Made made;
                                 if ((chunk.pos.cx + chunk.pos.cz) % 2 == 0) return made;
                                 made.data = std::make_shared<const int64_t>(chunk.pos.cx);
                                 made.bytes = sizeof(int64_t);
                                 return made;
                               }});
    Stream stream(world, settings, engine->executor(), engine->budget());
    Owner owner;
    for (const Cell view : {Cell{0, 0}, Cell{50, 10}, Cell{-1000, 7}}) {
      stream.setView(view);
      const auto near = wantedByForce(*world, view, 40);
      const auto far = wantedByForce(*world, view, 70);
      QTRY_VERIFY((owner.take(stream), std::all_of(near.begin(), near.end(), [&](ChunkPos p) {
        return owner.extras.contains({0, p});
      }) && std::all_of(far.begin(), far.end(), [&](ChunkPos p) {
        return (p.cx + p.cz) % 2 == 0 || owner.extras.contains({1, p});
      })));
      const auto most = wantedByForce(*world, view, 60), mostFar = wantedByForce(*world, view, 90);
      for (const auto& [key, data] : owner.extras) {
        QVERIFY((key.first == 0 ? most : mostFar).contains(key.second));
        QVERIFY(owner.held.contains(key.second));
        if (key.first == 1) {
          QCOMPARE(*static_cast<const int64_t*>(data.get()), key.second.cx);
          continue;
        }
        const auto& map = *static_cast<const CollisionMap*>(data.get());
        const Rect ground = world->layout().rectOf(key.second);
        for (int64_t k = 0; k < 16; ++k) {
          const Cell cell{ground.x + k, ground.z + (k * 7) % 16};
          QCOMPARE(map.at(cell), world->catalogue().material(world->at(cell).material)->state);
        }
      }
    }
    QVERIFY(calls >= static_cast<int>(owner.extras.size()));
    owner.held.clear();
    owner.extras.clear();
    stream.stop();
    QCOMPARE(engine->budget().used(), uint64_t{0});
  }

  void aLimitBelowOneViewKeepsTheNearest() {
    auto engine = engineWith(0, 300'000);
    const auto world = demoWorld(*engine);
    Stream stream(world, around(200, 64), engine->executor(), engine->budget());
    Owner owner;
    const auto check = [&](Cell view) {
      const size_t count = owner.held.size();
      QVERIFY(count > 20);
      int64_t farthest = 0;
      for (const auto& [pos, chunk] : owner.held)
        farthest = std::max(farthest, squaredDistance(view, chunk->rect));
      // Ahead counts half as far, behind half as far again: a third is sure to be held.
      const auto sure = static_cast<int64_t>(std::sqrt(static_cast<double>(farthest)) / 3) - 1;
      QVERIFY(sure > 5);
      for (const ChunkPos pos : wantedByForce(*world, view, sure))
        QVERIFY(owner.held.contains(pos));
    };
    for (const Cell view : {Cell{0, 0}, Cell{30, 0}, Cell{70, 20}, Cell{-4000, 0}}) {
      stream.setView(view);
      for (int i = 0; i < 400; ++i) {
        stream.runOne();
        owner.take(stream);
        QVERIFY(engine->budget().used() <= engine->budget().limit());
      }
      check(view);
      const StreamStats stats = stream.stats();
      QVERIFY(stats.limited);
      QVERIFY(stats.viewBytes > 300'000);
      const std::string sentence = limitSentence(stats, 300'000);
      QVERIFY2(sentence.find("cannot hold the view") != std::string::npos, sentence.c_str());
    }
    stream.setViewDistance(20);
    runAll(stream, owner);
    QVERIFY(!stream.stats().limited);
    QVERIFY(limitSentence(stream.stats(), 300'000).empty());
    QCOMPARE(owner.places(), wantedByForce(*world, {-4000, 0}, 20));
  }

  void failedChunksAreKeptNamedAndRetriedAlone() {
    auto engine = engineWith(2);
    const auto world = demoWorld(*engine);
    const auto source = std::make_shared<Counting>(world, 4);
    Stream stream(source, around(90, 32), engine->executor(), engine->budget());
    Owner owner;
    stream.setView({5, 5});
    QTRY_VERIFY((owner.take(stream),
        stream.stats().held + stream.stats().failed == stream.stats().expected));
    const auto failures = stream.failures();
    QVERIFY(failures.size() > 3);
    const unsigned asked = source->asked;
    source->broken = false;
    stream.retry(failures[0].pos);
    QTRY_VERIFY((owner.take(stream), owner.held.contains(failures[0].pos)));
    QCOMPARE(unsigned{source->asked}, asked + 1);  // That one alone.
    QCOMPARE(stream.stats().failed, failures.size() - 1);
    stream.retry({1000, 1000});  // Nothing there: nothing happens.
    QCOMPARE(stream.stats().failed, failures.size() - 1);
  }

  void settingsOutOfRangeAreRefusedByName() {
    const auto refused = [](auto change, const char* name) {
      StreamSettings settings;
      change(settings);
      const Status status = checkStream(settings);
      return !status && status.error().where == name && !status.error().accepted.empty();
    };
    QVERIFY(checkStream(StreamSettings::moving(384, 32)).ok());
    QVERIFY(checkStream(around(0, 1)).ok());
    QVERIFY(refused([](StreamSettings& s) { s.viewDistance = 100'000; }, "view distance"));
    QVERIFY(refused([](StreamSettings& s) { s.viewDistance = -1; }, "view distance"));
    QVERIFY(refused([](StreamSettings& s) { s.ahead = -1; }, "ahead"));
    QVERIFY(
        refused([](StreamSettings& s) { s.lead = 4 * (s.viewDistance + s.ahead) + 1; }, "lead"));
    QVERIFY(checkStream(StreamSettings::moving(0, 32)).ok());
    QVERIFY(checkStream(StreamSettings::moving(65'536, 1024, 1e6)).ok());
    QVERIFY(refused([](StreamSettings& s) { s.margin = 70'000; }, "margin"));
    QVERIFY(refused([](StreamSettings& s) { s.levels = 0; }, "detail levels"));
    QVERIFY(refused([](StreamSettings& s) { s.levels = 2, s.detail = 0; }, "detail distance"));
    QVERIFY(refused([](StreamSettings& s) { s.queuePlaces = 0; }, "queue places"));
    QVERIFY(refused([](StreamSettings& s) { s.slowMotion = 0.5; }, "slow motion"));
    QVERIFY(refused(
        [](StreamSettings& s) {
          s.extras.push_back({-3, 0, {}});
        },
        "distance of an extra"));
  }

  /// A leap every frame, a new world a thousand times, chunks that fail at random, levels, extras
  /// and a tight budget; then everything is as it should be, and every byte comes back.
  void allOfItAtOnce() {
    auto engine = engineWith(4, 3u << 20);
    std::vector<std::shared_ptr<Counting>> sources;
    for (const char* seed : {"a", "b", "c"}) {
      Recipe recipe = dryDemo("saltfen-reach");
      recipe.seed = seed;
      recipe.frame.chunkSize = seed[0] == 'c' ? 8 : 16;
      sources.push_back(std::make_shared<Counting>(engine->compile(recipe).value(), 9));
    }
    StreamSettings settings = around(140, 24);
    settings.ahead = 32;
    settings.margin = 16;
    settings.cacheBytes = 100'000;
    settings.levels = 3;
    settings.detail = 60;
    settings.extras.push_back(
        {30, 64, [](const Chunk& chunk, const std::stop_token&) {
           return StreamExtra::Made{std::make_shared<const ChunkPos>(chunk.pos), 24};
         }});
    Stream stream(sources[0], settings, engine->executor(), engine->budget());
    std::atomic<int> calls{0};
    stream.onReady([&] { ++calls; });
    Owner owner;
    std::mt19937 random(3);
    for (int i = 0; i < 1000; ++i) {
      stream.setSource(sources[random() % 3]);
      stream.setView({static_cast<int64_t>(random() % 4000), -static_cast<int64_t>(random() % 90)});
      owner.take(stream, random() % 20);
      QVERIFY(overlapFree(owner));
      QVERIFY(engine->budget().used() <= engine->budget().limit());
      for (const auto& failure : stream.failures())
        if (random() % 4 == 0) stream.retry(failure.pos);
      if (i % 50 == 0) QTest::qSleep(2);
    }
    for (const auto& source : sources) source->broken = false;
    stream.setSource(sources[1]);
    stream.setView({12, 34});
    QTRY_VERIFY_WITH_TIMEOUT((owner.take(stream), stream.stats().held == stream.stats().expected &&
                                                      stream.stats().leaving == 0),
        30'000);
    const StreamStats stats = stream.stats();
    QCOMPARE(owner.held.size(), stats.held);
    QVERIFY(stats.asked >= stats.built + stats.dropped);
    QVERIFY(calls > 0);
    owner.held.clear();
    owner.extras.clear();
    stream.stop();
    QCOMPARE(engine->budget().used(), uint64_t{0});
  }
};

ACRE_SUITE(StreamDetailTest)
#include "stream_detail_test.moc"
