#include <fcntl.h>
#include <unistd.h>

#include <QtTest>
#include <atomic>
#include <fstream>
#include <set>
#include <thread>

#include "base/atomic_file.h"
#include "base/budget.h"
#include "base/coords.h"
#include "base/executor.h"
#include "base/fp_state.h"
#include "base/hash.h"
#include "base/memo.h"
#include "base/seed.h"
#include "suite.h"

#undef emit  // The parallel library has a function of that name.
#include "base/parallel.h"

using namespace acre;

class BaseTest : public QObject {
  Q_OBJECT

 private slots:
  /// A loop on one thread does not keep another, elsewhere, from having two.
  void loopsHaveTheirOwnThreads() {
    using namespace std::chrono_literals;
    std::atomic<bool> inside{false}, over{false};
    std::jthread narrow([&] {
      parallelFor(1, 1, [&](int32_t) {
        inside = true;
        while (!over) std::this_thread::sleep_for(1ms);
      });
    });
    while (!inside) std::this_thread::sleep_for(1ms);
    std::atomic<int> arrived{0};
    std::atomic<bool> met{true};
    parallelFor(2, 2, [&](int32_t) {
      ++arrived;
      for (int i = 0; i < 10'000 && arrived < 2; ++i) std::this_thread::sleep_for(1ms);
      if (arrived < 2) met = false;
    });
    over = true;
    QVERIFY(met);
  }

  // ---- memos ---------------------------------------------------------------------------------

  void memosMakeEachValueOnce() {
    struct Value {
      int64_t of;
      uint64_t bytes() const { return 100; }
    };
    Memo<int64_t, Value> memo({uint64_t{1} << 20, nullptr});
    std::atomic<int> made = 0;
    std::vector<std::thread> threads;
    for (int t = 0; t < 4; ++t)
      threads.emplace_back([&] {
        for (int64_t n = 0; n < 200; ++n) {
          const auto value = memo.get(n % 50, {}, [&] {
            ++made;
            std::this_thread::yield();
            return std::make_shared<const Value>(n % 50);
          });
          if (!value || value->of != n % 50) qFatal("another value");
        }
      });
    for (std::thread& t : threads) t.join();
    QCOMPARE(made.load(), 50);
    QCOMPARE(memo.bytes(), uint64_t{5000});
  }

  void memosStayWithinTheirBytes() {
    struct Value {
      uint64_t size;
      uint64_t bytes() const { return size; }
    };
    const auto budget = std::make_shared<MemoryBudget>(700);
    Memo<int64_t, Value> memo({1000, budget});
    int made = 0;
    const auto ask = [&](int64_t key, uint64_t size) {
      return memo.get(key, {}, [&] {
        ++made;
        return std::make_shared<const Value>(size);
      });
    };
    for (int64_t n = 0; n < 20; ++n) {
      QVERIFY(ask(n, 300));
      QVERIFY(memo.bytes() <= 1000 && budget->used() <= 700);
      QCOMPARE(memo.bytes(), budget->used());
    }
    made = 0;
    ask(19, 300);
    ask(18, 300);  // The last two are there still,
    QCOMPARE(made, 0);
    ask(17, 300);  // and the one before them is not.
    QCOMPARE(made, 1);
    QVERIFY(ask(50, 5000));  // Too large to keep, but made all the same.
    ask(50, 5000);
    QCOMPARE(made, 3);

    Memo<int64_t, Value> none({0, nullptr});
    made = 0;
    for (int n = 0; n < 3; ++n)
      none.get(1, {}, [&] {
        ++made;
        return std::make_shared<const Value>(1);
      });
    QCOMPARE(made, 3);
  }

  /// A value that nobody made is left to whoever comes next.
  void memosOutliveStoppedMakers() {
    struct Value {
      uint64_t bytes() const { return 8; }
    };
    Memo<int, Value> memo({1000, nullptr});
    std::atomic<bool> begun = false, go = false;
    std::thread first([&] {
      const auto none = memo.get(1, {}, [&]() -> std::shared_ptr<const Value> {
        begun = true;
        while (!go) std::this_thread::yield();
        return nullptr;
      });
      if (none) qFatal("a value of a stopped maker");
    });
    while (!begun) std::this_thread::yield();
    std::stop_source stopped;
    stopped.request_stop();
    QVERIFY(!memo.get(1, stopped.get_token(), [] { return std::make_shared<const Value>(); }));
    std::shared_ptr<const Value> got;
    std::thread second(
        [&] { got = memo.get(1, {}, [] { return std::make_shared<const Value>(); }); });
    go = true;
    first.join();
    second.join();
    QVERIFY(got);
    bool thrown = false;
    try {
      memo.get(2, {}, []() -> std::shared_ptr<const Value> { throw std::bad_alloc(); });
    } catch (const std::bad_alloc&) {
      thrown = true;
    }
    QVERIFY(thrown);
    QVERIFY(memo.get(2, {}, [] { return std::make_shared<const Value>(); }));
  }

  void floorDivisionAgreesWithDefinition() {
    for (int64_t a = -200; a <= 200; ++a)
      for (int64_t b = 1; b <= 17; ++b) {
        const int64_t q = floorDiv(a, b), r = floorMod(a, b);
        QCOMPARE(q * b + r, a);
        QVERIFY(r >= 0 && r < b);
      }
    QCOMPARE(floorDiv(-1, 32), -1);
    QCOMPARE(floorMod(INT64_MIN, 1000), int64_t{192});
  }

  void chunkConversionsGoBothWays_data() {
    QTest::addColumn<int>("size");
    for (const int size : {1, 3, 16, 32, 1000}) QTest::addRow("%d", size) << size;
  }
  void chunkConversionsGoBothWays() {
    QFETCH(int, size);
    const ChunkLayout layout(size);
    for (const int64_t x : {int64_t{0}, int64_t{-1}, int64_t{31}, int64_t{-32}, int64_t{-33},
             int64_t{2'000'000'000}, int64_t{-2'000'000'001}, kMaxCell, -kMaxCell})
      for (const int64_t z : {int64_t{5}, int64_t{-7}, int64_t{-2'000'000'000}}) {
        const Cell cell{x, z};
        const ChunkPos chunk = layout.chunkOf(cell);
        const Cell local = layout.localOf(cell);
        QVERIFY(local.x >= 0 && local.x < size && local.z >= 0 && local.z < size);
        QCOMPARE(layout.cellOf(chunk, local), cell);
        QCOMPARE(layout.localAt(layout.indexOf(local)), local);
        QVERIFY(layout.rectOf(chunk).contains(cell));
      }
  }

  void squaredDistanceIsThatOfTheNearestCell() {
    const Rect rect{-3, 4, 5, 2};
    for (int64_t x = -10; x < 10; ++x)
      for (int64_t z = -10; z < 10; ++z) {
        int64_t nearest = INT64_MAX;
        for (int64_t rx = rect.x; rx < rect.x + rect.width; ++rx)
          for (int64_t rz = rect.z; rz < rect.z + rect.length; ++rz)
            nearest = std::min(nearest, (rx - x) * (rx - x) + (rz - z) * (rz - z));
        QCOMPARE(squaredDistance({x, z}, rect), nearest);
      }
  }

  void mixerIsSplitMix() {
    // First outputs of SplitMix64 from state 0, whose step adds the golden ratio.
    QCOMPARE(mix64(0x9E3779B97F4A7C15u), uint64_t{0xE220A8397B1DCDAF});
    QCOMPARE(mix64(2 * 0x9E3779B97F4A7C15u), uint64_t{0x6E789E6AA1B965F4});
  }

  void nodeHashesSpread() {
    // Neighbouring nodes share no pattern: each of the 32 bits flips in about half of the steps.
    int flips[32] = {};
    constexpr int kSteps = 20000;
    for (int i = 0; i < kSteps; ++i) {
      const uint32_t a = nodeHash(axisHash(1, i), axisHash(2, -i));
      const uint32_t b = nodeHash(axisHash(1, i + 1), axisHash(2, -i));
      for (int bit = 0; bit < 32; ++bit) flips[bit] += ((a ^ b) >> bit) & 1;
    }
    for (const int flip : flips)
      QVERIFY2(flip > kSteps * 0.48 && flip < kSteps * 0.52, qPrintable(QString::number(flip)));
  }

  void digestNormalisesZero() {
    QCOMPARE(DigestWriter().f32(-0.0f).finish(), DigestWriter().f32(0.0f).finish());
    QVERIFY(DigestWriter().f32(1).finish() != DigestWriter().f32(0).finish());
    QVERIFY(DigestWriter().text("ab").text("c").finish() !=
            DigestWriter().text("a").text("bc").finish());
    QCOMPARE(DigestWriter().u8(1).finish().hex().size(), size_t{32});
  }

  void seedsAreNumbersOrText_data() {
    QTest::addColumn<QString>("text");
    QTest::addColumn<quint64>("number");
    const auto hashed = [](const char* t) { return quint64{hashText(t)}; };
    QTest::newRow("zero") << "0" << quint64{0};
    QTest::newRow("plain") << " 100 " << quint64{100};
    QTest::newRow("negative") << "-1" << ~quint64{0};
    QTest::newRow("least") << "-9223372036854775808" << (quint64{1} << 63);
    QTest::newRow("largest") << "18446744073709551615" << ~quint64{0};
    QTest::newRow("too large") << "18446744073709551616" << hashed("18446744073709551616");
    QTest::newRow("too small") << "-9223372036854775809" << hashed("-9223372036854775809");
    QTest::newRow("leading zero") << "007" << hashed("007");
    QTest::newRow("plus") << "+7" << hashed("+7");
    QTest::newRow("minus zero") << "-0" << hashed("-0");
    QTest::newRow("text") << "heather-41" << hashed("heather-41");
    QTest::newRow("not ascii") << "Höhe" << hashed("Höhe");
  }
  void seedsAreNumbersOrText() {
    QFETCH(QString, text);
    QFETCH(quint64, number);
    const uint64_t seed = seedNumber(text.toStdString());
    QCOMPARE(seed, number);
    QCOMPARE(seedNumber(std::to_string(seed)), seed);  // Typing the number gives the same world.
  }

  void seedNeighbours() {
    const auto next = [](const char* t) { return neighbourSeed(t, 1).value_or("none"); };
    const auto previous = [](const char* t) { return neighbourSeed(t, -1).value_or("none"); };
    QCOMPARE(next("heather-41"), "heather-42");
    QCOMPARE(next("heather-99"), "heather-100");
    QCOMPARE(previous("heather-100"), "heather-099");
    QCOMPARE(previous("heather-0"), "none");
    QCOMPARE(next("heather"), "heather-1");
    QCOMPARE(next("-1"), "0");
    QCOMPARE(previous("0"), "-1");
    QCOMPARE(next("18446744073709551615"), "none");
    QCOMPARE(previous("-9223372036854775808"), "none");
    for (const char* text : {"41", "-7", "reed-8", "0"})
      QCOMPARE(neighbourSeed(*neighbourSeed(text, 1), -1).value(), std::string(text));
  }

  void rolledSeedsDiffer() {
    std::set<std::string> seen;
    for (uint64_t i = 0; i < 1000; ++i) seen.insert(rolledSeed(mix64(i)));
    QVERIFY(seen.size() >= 998);
  }

  void budgetHoldsItsLimit() {
    MemoryBudget budget(100);
    auto a = budget.reserve(60);
    QVERIFY(a);
    QVERIFY(!budget.reserve(41));
    auto b = budget.reserve(40);
    QVERIFY(b);
    QCOMPARE(budget.used(), uint64_t{100});
    a.reset();
    QCOMPARE(budget.used(), uint64_t{40});
    MemoryBudget::Reservation moved = std::move(*b);
    b.reset();
    QCOMPARE(budget.used(), uint64_t{40});
    QVERIFY(!budget.reserve(UINT64_MAX));
  }

  void executorRunsByPriority() {
    Executor executor(0);
    std::string order;
    executor.submit(Priority::Statistics, [&] { order += 's'; });
    executor.submit(Priority::SharpMap, [&] { order += 'm'; });
    executor.submit(Priority::CoarseMap, [&] { order += 'c'; });
    executor.submit(Priority::CoarseMap, [&] { order += 'd'; });
    while (executor.runOne()) {
    }
    QCOMPARE(order, "cdms");
  }

  /// What is stopped before it begins goes with all that it holds as soon as there is more to do.
  void executorDropsWhatIsStopped() {
    Executor executor(0);
    auto held = std::make_shared<int>(1);
    const std::weak_ptr<int> seen = held;
    std::string ran;
    std::stop_source early, late;
    executor.submit(Priority::Statistics, early.get_token(), [&, held] { ran += 'e'; });
    executor.submit(Priority::Statistics, late.get_token(), [&] { ran += 'l'; });
    executor.submit(Priority::Statistics, [&] { ran += 's'; });
    held.reset();
    early.request_stop();
    QVERIFY(!seen.expired());
    executor.submit(Priority::CoarseMap, [&] { ran += 'c'; });
    QVERIFY(seen.expired());
    late.request_stop();
    while (executor.runOne()) {
    }
    QCOMPARE(ran, std::string("cs"));
  }

  void executorRunsEverythingOnce() {
    std::atomic<int> count{0};
    {
      Executor executor(4);
      for (int i = 0; i < 1000; ++i) executor.submit(Priority::NearChunk, [&] { ++count; });
      QTRY_COMPARE(count.load(), 1000);
    }
    QCOMPARE(count.load(), 1000);
  }

  void atomicFileKeepsTheOldOneUntilCommit() {
    QTemporaryDir dir;
    const std::string name = dir.filePath("f.txt").toStdString();
    std::ofstream(name) << "old";
    {
      auto file = AtomicFile::open(name);
      QVERIFY(file.ok());
      QVERIFY(file->write("new").ok());
      QCOMPARE(readWholeFile(name, 100).value(), "old");
    }  // Dropped: nothing happened, nothing is left behind.
    QCOMPARE(readWholeFile(name, 100).value(), "old");
    QCOMPARE(QDir(dir.path()).entryList(QDir::Files).size(), 1);
    auto file = AtomicFile::open(name);
    QVERIFY(file->write("new").ok());
    QVERIFY(file->commit().ok());
    QCOMPARE(readWholeFile(name, 100).value(), "new");
    QCOMPARE(QDir(dir.path()).entryList(QDir::Files).size(), 1);
  }

  void atomicFileFollowsLinks() {
    QTemporaryDir dir;
    const std::string name = dir.filePath("real").toStdString(),
                      link = dir.filePath("link").toStdString();
    std::ofstream(name) << "old";
    std::filesystem::create_symlink(name, link);
    auto file = AtomicFile::open(link);
    QVERIFY(file->write("new").ok());
    QVERIFY(file->commit().ok());
    QVERIFY(std::filesystem::is_symlink(link));
    QCOMPARE(readWholeFile(name, 100).value(), "new");
  }

  /// However a program ends, nothing is left of what it had not finished.
  void nothingLiesBesideTheTarget() {
    QTemporaryDir dir;
    const int probe = ::open(dir.path().toUtf8(), O_RDWR | O_TMPFILE, 0600);
    if (probe < 0) QSKIP("this disk knows no files without names");
    ::close(probe);
    const std::string name = dir.filePath("f.txt").toStdString();
    auto file = AtomicFile::open(name);
    QVERIFY(file->write(std::string(1 << 20, 'x')).ok());
    std::fflush(file->stream());
    QVERIFY(QDir(dir.path()).entryList(QDir::Files).empty());
    QVERIFY(file->commit().ok());
    QCOMPARE(QDir(dir.path()).entryList(QDir::Files), QStringList{"f.txt"});
    QCOMPARE(readWholeFile(name, 2 << 20)->size(), size_t{1} << 20);
  }

  /// Files that belong together are replaced together.
  void bothFilesOrNeither() {
    QTemporaryDir dir;
    const std::string name = dir.filePath("a").toStdString();
    QVERIFY(writeFile(name, "old").ok());
    auto good = AtomicFile::open(name), full = AtomicFile::open("/dev/full");
    QVERIFY(good->write("new").ok() && full->write("new").ok());
    QVERIFY(!AtomicFile::commit({&*good, &*full}).ok());
    QCOMPARE(readWholeFile(name, 100).value(), "old");
  }

  void outputsAreKeptFromInputs() {
    QTemporaryDir dir;
    const auto at = [&](const char* name) {
      return std::filesystem::path(dir.filePath(name).toStdString());
    };
    QVERIFY(writeFile(at("in"), "x").ok());
    std::filesystem::create_symlink(at("in"), at("soft"));
    std::filesystem::create_hard_link(at("in"), at("hard"));
    std::filesystem::create_directory(at("sub"));
    for (const char* name : {"in", "soft", "hard", "sub/../in"}) {
      const Status refused = checkOutputs({at(name)}, {at("in")});
      QVERIFY2(!refused.ok(), name);
      QVERIFY(refused.error().text().find("is read") != std::string::npos);
    }
    QVERIFY(checkOutputs({at("new"), at("other")}, {at("in"), at("missing")}).ok());
    QVERIFY(!checkOutputs({at("new"), at("sub/../new")}, {}).ok());
    QVERIFY(!checkOutputs({at("new")}, {at("new")}).ok());  // Read later, when it is there.
    QVERIFY(checkOutputs({"/dev/null", "/dev/null"}, {}).ok());
  }

  void textIsMadeFitToBeShown() {
    for (const char* good :
        {"", "abc", "żółć", "\xE2\x80\xA6", "\xF0\x9F\x8C\x8D", "\xF4\x8F\xBF\xBF"})
      QVERIFY2(isUtf8(good), good);
    for (const char* bad : {"\x80", "\xC3", "\xC0\xAF", "\xE0\x80\xAF", "\xED\xA0\x80",
             "\xF5\x80\x80\x80", "\xF4\x90\x80\x80", "a\xE2\x80"})
      QVERIFY(!isUtf8(bad));
    QCOMPARE(oneLine("a\nb\tc\x7F"), std::string("a b c "));
    QCOMPARE(oneLine("\xC2\x85x\xE2\x80\xA8y"), std::string(" x y"));  // Next line, line separator.
    QCOMPARE(oneLine("a\xFFż"), std::string("a\xEF\xBF\xBDż"));
    QCOMPARE(oneLine("żółć", 5), std::string("żó\xE2\x80\xA6"));  // Not within a character.
    QVERIFY(isUtf8(oneLine("\xF0\x9F\xFF\xC3")));
    const Error error = invalidInput("x\ny", std::string(10'000, 'p'), "z\xFF");
    QVERIFY(error.text().size() < 3 * Error::kMostShown && isUtf8(error.text()));
    QVERIFY(error.text().find('\n') == std::string::npos);
  }

  void filesThatCannotBeWrittenAreNamed() {
    for (const char* name : {"/", "/nowhere/at/all", "/dev/full"}) {
      auto file = AtomicFile::open(name);
      if (file.ok()) {
        Status written = file->write(std::string(1 << 20, 'x'));
        if (written.ok()) written = file->commit();
        QVERIFY(!written.ok());
        QCOMPARE(written.error().where, std::string(name));
      } else {
        QCOMPARE(file.error().where, std::string(name));
      }
    }
    QVERIFY(std::filesystem::is_character_file("/dev/full"));
    QVERIFY(!readWholeFile("/", 10).ok());
    QVERIFY(!readWholeFile("/nowhere", 10).ok());
    QVERIFY(!readWholeFile("/dev/zero", 10).ok());
  }
};

ACRE_SUITE(BaseTest)
#include "base_test.moc"
