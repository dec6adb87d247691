// Damaged files, absurd values and hostile timing: nothing crashes, hangs or passes in silence.
#include <QtTest>
#include <atomic>
#include <random>
#include <set>
#include <thread>

#include "recipe/json.h"
#include "recipe/json_reader.h"
#include "recipe/object_recipe.h"
#include "recipe/validate.h"
#include "strata/bands.h"
#include "suite.h"
#include "world/demos.h"
#include "world/engine.h"
#include "world/fingerprint.h"
#include "world/world.h"

using namespace acre;

namespace {

/// The text of the large demo.
const std::string& saltfen() {
  for (const Demo& demo : demos())
    if (demo.name == "saltfen-reach") return demo.json;
  qFatal("no such demo");
}

/// Reads a number at a pointer of a document, through the checked reader.
template <class Read>
std::optional<Error> readWith(const std::string& text, Read read) {
  const auto json = parseJson(text);
  if (!json) return json.error();
  std::optional<Error> fault;
  read(JsonReader(*json, fault));
  return fault;
}

bool isOneLine(const Error& error) {
  const std::string text = error.text();
  return !text.empty() && text.find('\n') == std::string::npos && text.size() < 2000;
}

}  // namespace

class RobustTest : public QObject {
  Q_OBJECT

 private slots:
  /// 20,000 demos with a few bytes changed, dropped or doubled: refused in one line, or valid.
  void damagedFilesAreRefusedOrValid() {
    std::mt19937 random(23);
    const std::string original = saltfen();
    const std::string interesting = "{}[]\",:0123456789-+.eEnulltruefals\\\x01\xFF\xC3 ";
    int refused = 0, valid = 0;
    const int rounds = suite::sized(10'000, 30'000);
    for (int round = 0; round < rounds; ++round) {
      std::string text = original;
      const auto edits = 1 + random() % 3;
      for (size_t e = 0; e < edits; ++e) {
        const size_t at = random() % text.size();
        switch (random() % 4) {
          case 0:
            text[at] = interesting[random() % interesting.size()];
            break;
          case 1:
            text.erase(at, 1 + random() % 20);
            break;
          case 2:
            text.insert(at, text.substr(random() % text.size(), random() % 40));
            break;
          default:
            text.insert(at, 1, interesting[random() % interesting.size()]);
        }
        if (text.empty()) text = " ";
      }
      const auto recipe = recipeFromJson(text);
      if (recipe) {
        ++valid;
        QVERIFY(validate(*recipe).ok());
        QVERIFY(*recipeFromJson(recipeToJson(*recipe)) == *recipe);
      } else {
        ++refused;
        QVERIFY2(isOneLine(recipe.error()), recipe.error().text().c_str());
      }
    }
    QVERIFY2(refused > rounds / 3 && valid > rounds / 60,
        qPrintable(QString("%1 %2").arg(refused).arg(valid)));
  }

  void randomOverridesAreRefusedOrValid() {
    std::mt19937 random(29);
    const std::vector<std::string> pointers = {"/frame/chunk", "/frame/sea", "/frame/bounds",
        "/heights/layers", "/heights/layers/0", "/heights/layers/id:hills/octaves",
        "/strata/bands/3/below", "/materials/0/id", "/seed", "/name", "", "/", "//", "/frame/~1x",
        "/heights/layers/-1", "/heights/layers/1e3"};
    const std::vector<std::string> values = {"0", "-1", "1e300", "null", "true", "[]", "{}",
        "\"x\"", "text", "", "{\"sea\":1}", "{\"min\":0,\"extent\":5}", "[[[[",
        "99999999999999999999"};
    for (int i = 0; i < 3000; ++i) {
      std::vector<Override> sets;
      for (unsigned n = 0; n <= random() % 2; ++n)
        sets.push_back({pointers[random() % pointers.size()], values[random() % values.size()]});
      const auto recipe = recipeFromJson(saltfen(), sets);
      if (!recipe) QVERIFY(isOneLine(recipe.error()));
    }
  }

  void readerKeepsTheFirstFaultAndItsPlace() {
    const auto fault = readWith(R"({"a": {"b/c": [1, "two"]}, "d": 3})", [](const JsonReader& in) {
      const auto list = in.member("a").member("b/c").members();
      list[1].number();
      in.member("d").text();
    });
    QVERIFY(fault.has_value());
    QCOMPARE(fault->where, "/a/b~1c/1");
    QVERIFY(!readWith(R"({"a": 1.0})", [](const JsonReader& in) { in.member("a").integer(0, 3); }));
  }

  void wholeNumbersAreExact_data() {
    QTest::addColumn<QString>("text");
    QTest::addColumn<qint64>("value");
    QTest::addColumn<bool>("taken");
    QTest::newRow("largest") << "9223372036854775807" << qint64{INT64_MAX} << true;
    QTest::newRow("least") << "-9223372036854775808" << qint64{INT64_MIN} << true;
    QTest::newRow("beyond double") << "9007199254740993" << qint64{9007199254740993} << true;
    QTest::newRow("as float") << "4.0" << qint64{4} << true;
    QTest::newRow("exponent") << "1e3" << qint64{1000} << true;
    QTest::newRow("unsigned") << "9223372036854775808" << qint64{0} << false;
    QTest::newRow("half") << "4.5" << qint64{0} << false;
    QTest::newRow("huge float") << "1e19" << qint64{0} << false;
    QTest::newRow("inexact float") << "9.1e15" << qint64{0} << false;
    QTest::newRow("text") << "\"4\"" << qint64{0} << false;
    QTest::newRow("true") << "true" << qint64{0} << false;
  }
  void wholeNumbersAreExact() {
    QFETCH(QString, text);
    QFETCH(qint64, value);
    QFETCH(bool, taken);
    int64_t got = 0;
    const auto fault = readWith("{\"n\": " + text.toStdString() + "}",
        [&](const JsonReader& in) { got = in.member("n").integer(INT64_MIN, INT64_MAX); });
    QCOMPARE(!fault.has_value(), taken);
    if (taken) QCOMPARE(got, value);
  }

  void nestingAndDuplicatesAreFound() {
    QVERIFY(parseJson(std::string(64, '[') + std::string(64, ']')).ok());
    QVERIFY(!parseJson(std::string(65, '[') + std::string(65, ']')).ok());
    QVERIFY(!parseJson(std::string(100000, '[')).ok());
    const auto twice = parseJson(R"({"a": [{"k": 1}, {"k": 1, "k": 2}]})");
    QVERIFY(!twice.ok());
    QCOMPARE(twice.error().where, "/a/1/k");
    QVERIFY(!parseJson("{\"a\": 1} trailing").ok());
    QVERIFY(!parseJson("\"\xFF\xFE\"").ok());
  }

  void numbersSurviveTextExactly() {
    std::mt19937_64 random(31);
    Recipe recipe = recipeFromJson(saltfen()).value();
    for (int i = 0; i < suite::sized(700, 2000); ++i) {
      double sea;
      do {
        const uint64_t bits = random();
        memcpy(&sea, &bits, sizeof sea);
      } while (!limits::altitude.holds(sea));
      recipe.frame.seaLevel = sea;
      const double back = recipeFromJson(recipeToJson(recipe))->frame.seaLevel;
      QVERIFY2(back == sea, qPrintable(QString::number(sea, 'g', 17)));
    }
  }

  /// Many threads compile many recipes in one engine; everybody gets the world they asked for.
  void theEngineIsThreadSafe() {
    const auto engine = std::move(Engine::create({})).value();
    Recipe base = recipeFromJson(saltfen()).value();
    // One kind of object is enough for the engine; all of them are found by object_test.
    std::erase_if(base.objects->kinds, [](const ObjectKind& k) { return k.id != "boulder"; });
    QCOMPARE(base.objects->kinds.size(), size_t{1});
    const auto variant = [&](int n) {
      Recipe r = base;
      r.frame.seaLevel = n % 3;
      r.seed = std::to_string(n % 5);
      if (n > 0) r.objects->kinds.clear();  // Each world finds its own: one of them is enough.
      return r;
    };
    const auto home = [](const World& world) { return *areaHash(world, {-64, -64, 128, 128}); };
    std::vector<Digest> expected;
    for (int n = 0; n < 15; ++n) expected.push_back(home(**engine->compile(variant(n))));
    QCOMPARE(std::set<Digest>(expected.begin(), expected.end()).size(), size_t{15});
    std::atomic<int> wrong{0};
    std::vector<std::jthread> threads;
    for (int t = 0; t < 4; ++t)
      threads.emplace_back([&, t] {
        for (int i = 0; i < suite::sized(16, 60); ++i) {
          const int n = (i * 7 + t) % 15;
          const auto world = engine->compile(variant(n)).value();
          if (home(*world) != expected[static_cast<size_t>(n)]) ++wrong;
        }
      });
    threads.clear();
    QCOMPARE(wrong.load(), 0);
  }

  void theExecutorMayGoAtAnyMoment() {
    for (int round = 0; round < 50; ++round) {
      std::atomic<int> begun{0}, ended{0};
      {
        Executor executor(3);
        for (int i = 0; i < 100; ++i)
          executor.submit(static_cast<Priority>(i % kPriorities), [&] {
            ++begun;
            std::this_thread::yield();
            ++ended;
          });
        if (round % 2) std::this_thread::yield();
      }  // What runs ends, what waits is dropped.
      QCOMPARE(begun.load(), ended.load());
    }
  }

  /// Every value at both ends of its range makes a world that can be sampled.
  void theEndsOfEveryRangeWork() {
    const auto engine = std::move(Engine::create({})).value();
    const auto works = [&](const Recipe& recipe) {
      const auto world = engine->compile(recipe);
      if (!world) return QString::fromStdString(world.error().text());
      float heights[6];
      MaterialIndex materials[6];
      for (const int64_t x : {int64_t{0}, int64_t{2'000'000'000}, -kMaxCell, kMaxCell - 8})
        for (const int64_t step : {1, 2}) {
          if (!(*world)->sample({x, -x / 2, step, 3, 2}, heights, materials).ok())
            return QString("no samples");
          for (const float h : heights)
            if (!std::isfinite(h)) return QString("not finite");
        }
      return QString();
    };
    Recipe recipe;
    QCOMPARE(works(recipe), QString());  // Nothing at all.
    recipe.heights.layers.resize(1);
    Layer& layer = recipe.heights.layers[0];
    layer.id = "n";
    layer.source = NoiseSource{};
    auto& noise = std::get<NoiseSource>(layer.source);
    const auto tryBoth = [&](double& value, const acre::Range& range) {
      const double old = value;
      for (const double v : {range.low, range.high}) {
        value = v;
        const QString fault = works(recipe);
        if (!fault.isEmpty()) return fault;
      }
      value = old;
      return QString();
    };
    noise.octaves = 1;
    QCOMPARE(tryBoth(noise.width, limits::width), QString());
    QCOMPARE(tryBoth(layer.amplitude, limits::amplitude), QString());
    QCOMPARE(tryBoth(layer.offset, limits::altitude), QString());
    QCOMPARE(tryBoth(noise.gain, limits::gain), QString());
    QCOMPARE(tryBoth(noise.lacunarity, limits::lacunarity), QString());
    QCOMPARE(tryBoth(recipe.frame.seaLevel, limits::altitude), QString());
    layer.sampling = SamplingOffset{limits::sampling.low, limits::sampling.high};
    QCOMPARE(works(recipe), QString());
    noise.width = 4294967296.0;
    noise.octaves = 32;
    QCOMPARE(works(recipe), QString());
    for (const int chunk : {1, 1024}) {
      recipe.frame.chunkSize = chunk;
      const auto world = engine->compile(recipe).value();
      QCOMPARE(static_cast<int>((*world->chunk({-1, 0}))->heights.size()), chunk * chunk);
    }
    const Layer model = recipe.heights.layers[0];
    recipe.heights.layers.resize(limits::layers, model);
    for (size_t i = 0; i < recipe.heights.layers.size(); ++i)
      recipe.heights.layers[i].id = "n" + std::to_string(i);
    QCOMPARE(works(recipe), QString());
  }

  void manyBandsAreLookedUpExactly() {
    Recipe recipe;
    std::vector<float> ends;
    for (int i = 0; i < 255; ++i) {
      recipe.materials.push_back({"m" + std::to_string(i), "", {}, {}});
      recipe.bands.push_back({"b" + std::to_string(i), Threshold{i * 0.5, i % 2 == 0, {}},
          "m" + std::to_string(i), {}});
    }
    recipe.bands.push_back({"top", {}, kUnassignedId, {}});
    recipe.frame.seaLevel = 0.125;  // Every other end is shifted by an eighth.
    const auto bands = BandTable::compile(
        {recipe.materials, recipe.slopes, recipe.bands, true, 1, 0.125, nullptr});
    for (float h = -1; h < 130; h += 0.0625f) {
      int expected = 0;
      while (expected < 255 &&
             !(h < altitudeOf(*recipe.bands[static_cast<size_t>(expected)].below, 0.125)))
        ++expected;
      QCOMPARE(bands->decide({0, 0}, h, 0).band, expected);
      for (const Kernels* table : availableKernels()) {
        MaterialIndex material[17];
        const std::vector<float> heights(17, h);
        bands->evaluate(*table, {0, 0}, 1, 17, heights.data(), nullptr, material);
        QCOMPARE(
            material[16], expected == 255 ? kUnassigned : static_cast<MaterialIndex>(expected + 1));
      }
    }
  }
};

ACRE_SUITE(RobustTest)
#include "robust_test.moc"
