#include <QtTest>
#include <cmath>
#include <random>

#include "base/atomic_file.h"
#include "recipe/json.h"
#include "recipe/validate.h"
#include "world/demos.h"

using namespace acre;

namespace {

/// A recipe whose numbers are awkward: thirds, tiny, huge, negative, 64-bit.
Recipe awkward(unsigned seed) {
  std::mt19937_64 random(seed);
  const auto number = [&](double low, double high) {
    return low + (high - low) * (static_cast<double>(random() >> 11) * 0x1p-53);
  };
  Recipe r;
  r.name = "Näme \"quoted\" \\ / \n tab\t";
  r.seed = random() % 2 ? "18446744073709551615" : "heather 41 ☘";
  r.frame.chunkSize = 1 + static_cast<int>(random() % 1024);
  r.frame.seaLevel = number(-10, 10) / 3;
  if (random() % 2)
    r.frame.x = AxisBounds{-kMaxCell + static_cast<int64_t>(random() % 1000), 12345678901234567};
  r.frame.z = AxisBounds{9007199254740993, 1};  // Beyond what a double holds.
  for (int i = 0; i < 5; ++i)
    r.materials.push_back({"m" + std::to_string(i),
                           "M",
                           {static_cast<uint8_t>(random()), 2, 255},
                           static_cast<MaterialState>(i % 3)});
  for (int i = 0; i < 4; ++i) {
    Layer layer;
    layer.id = "layer-" + std::to_string(i);
    layer.name = "L";
    layer.on = random() % 2;
    layer.combine = static_cast<Combine>(random() % 2);
    if (i == 2) {
      layer.source = ConstantSource{number(-1, 1) * 1e-7};
    } else {
      GradientSource s;
      s.fractal = static_cast<Fractal>(random() % 2);
      s.width = number(50, 1e6);
      s.octaves = 1 + static_cast<int>(random() % 5);
      s.lacunarity = number(1, 3);
      s.gain = number(0, 1);
      s.amplitude = number(-9, 9);
      s.offset = number(-1, 1) / 7;
      if (random() % 2) s.sampling = SamplingOffset{number(-1e9, 1e9), 1.0 / 3};
      layer.source = s;
    }
    r.heights.push_back(layer);
  }
  r.bands = {{"b0", Threshold{-1.0 / 3, true}, "m1"},
             {"b1", Threshold{1e-300, false}, kUnassignedId},
             {"b2", {}, "m4"}};
  return r;
}

/// The demo's text with one piece replaced.
std::string replaced(const std::string& from, const std::string& to) {
  std::string text = demos().front().json;
  const size_t at = text.find(from);
  if (at == std::string::npos) qFatal("the demo does not hold %s", from.c_str());
  return text.replace(at, from.size(), to);
}

}  // namespace

class RecipeTest : public QObject {
  Q_OBJECT

 private slots:
  void roundTripLosesNothing() {
    for (unsigned seed = 0; seed < 200; ++seed) {
      const Recipe recipe = awkward(seed);
      const auto valid = validate(recipe);
      QVERIFY2(valid.ok(), valid.ok() ? "" : valid.error().text().c_str());
      const auto back = recipeFromJson(recipeToJson(recipe));
      QVERIFY2(back.ok(), back.ok() ? "" : back.error().text().c_str());
      QVERIFY(*back == recipe);
      QCOMPARE(recipeId(*back), recipeId(recipe));
    }
  }

  void demosAreValidAndRoundTrip() {
    QVERIFY(!demos().empty());
    for (const Demo& demo : demos()) {
      const auto recipe = recipeFromJson(demo.json);
      QVERIFY2(recipe.ok(), recipe.ok() ? "" : recipe.error().text().c_str());
      QVERIFY(*recipeFromJson(recipeToJson(*recipe)) == *recipe);
    }
  }

  void idTellsRecipesApart() {
    Recipe a = awkward(1), b = a;
    QCOMPARE(recipeId(a), recipeId(b));
    b.frame.seaLevel = std::nextafter(b.frame.seaLevel, 100.0);
    QVERIFY(recipeId(a) != recipeId(b));
  }

  void faultsNamePlaceAndRange_data() {
    QTest::addColumn<QString>("text");
    QTest::addColumn<QString>("where");
    QTest::addColumn<QString>("accepted");
    const auto row = [](const char* name, const std::string& text, const char* where,
                        const char* accepted) {
      QTest::newRow(name) << QString::fromStdString(text) << where << accepted;
    };
    row("empty", "", "", "JSON");
    row("not json", "{\"a\": ", "", "JSON");
    row("cut in half", demos().front().json.substr(0, demos().front().json.size() / 2), "", "JSON");
    row("not an object", "[1, 2]", "/", "format");
    row("nan", replaced("\"sea\": 0", "\"sea\": NaN"), "", "JSON");
    row("infinite", replaced("\"sea\": 0", "\"sea\": 1e999"), "", "JSON");
    row("other format", replaced("kindred-acre recipe", "something else"), "/format",
        "kindred-acre recipe");
    row("newer version", replaced("\"version\": 1", "\"version\": 2"), "/version", "1 to 1");
    row("unknown generation", replaced("\"generation\": 0", "\"generation\": 1"), "/generation",
        "0");
    row("unknown key", replaced("\"sea\": 0", "\"sea\": 0, \"see\": 1"), "/frame/see", "chunk");
    row("twice", replaced("\"sea\": 0", "\"sea\": 0, \"sea\": 1"), "/frame/sea", "once");
    row("missing", replaced("\"sea\": 0,", ""), "/frame", "sea");
    row("text for number", replaced("\"sea\": 0", "\"sea\": \"0\""), "/frame/sea", "a number");
    row("number for text", replaced("\"Saltfen Reach\"", "7"), "/name", "text");
    row("seed as number", replaced("\"heather-41\"", "41"), "/seed", "text");
    row("empty seed", replaced("\"heather-41\"", "\"\""), "/seed", "-2^63");
    row("unknown kind of world", replaced("\"overland\"", "\"voxel\""), "/frame/kind", "overland");
    row("chunk zero", replaced("\"chunk\": 32", "\"chunk\": 0"), "/frame/chunk", "1 to 1024");
    row("chunk huge", replaced("\"chunk\": 32", "\"chunk\": 1e9"), "/frame/chunk", "1 to 1024");
    row("chunk half", replaced("\"chunk\": 32", "\"chunk\": 2.5"), "/frame/chunk", "whole");
    row("bounds reversed", replaced("\"x\": null", "\"x\": {\"min\": 5, \"extent\": -3}"),
        "/frame/bounds/x/extent", "1 to");
    row("bounds too far",
        replaced("\"x\": null", "\"x\": {\"min\": 0, \"extent\": 9223372036854775807}"),
        "/frame/bounds/x/extent", "2^60");
    row("integer too large",
        replaced("\"x\": null", "\"x\": {\"min\": 99999999999999999999, \"extent\": 3}"),
        "/frame/bounds/x/min", "2^64");
    row("unknown layer kind", replaced("\"gradient\"", "\"magic\""), "/heights/layers/0/kind",
        "gradient");
    row("octaves 1e9", replaced("\"octaves\": 3", "\"octaves\": 1e9"), "/heights/layers/0/octaves",
        "1 to 32");
    row("octaves too fine", replaced("\"octaves\": 3", "\"octaves\": 32"),
        "/heights/layers/0/octaves", "at most");
    row("width zero", replaced("\"width\": 900", "\"width\": 0"), "/heights/layers/0/width",
        "0.03125 to");
    row("width negative", replaced("\"width\": 900", "\"width\": -5"), "/heights/layers/0/width",
        "0.03125 to");
    row("width huge", replaced("\"width\": 900", "\"width\": 1e30"), "/heights/layers/0/width",
        "4294967296");
    row("amplitude huge", replaced("\"amplitude\": 46", "\"amplitude\": 1e7"),
        "/heights/layers/0/amplitude", "1000000");
    row("same id twice", replaced("\"id\": \"hills\"", "\"id\": \"rises\""), "/heights/layers/1/id",
        "no other layer");
    row("no id", replaced("\"id\": \"hills\"", "\"id\": \"Hi there\""), "/heights/layers/1/id",
        "a-z");
    row("missing material", replaced("\"material\": \"heath\"", "\"material\": \"heat\""),
        "/strata/bands/6/material", "listed");
    row("band without end", replaced("\"below\": { \"sea\": 0 }, ", ""), "/strata/bands/1",
        "every band but the last");
    row("reserved material", replaced("\"id\": \"deep-water\"", "\"id\": \"unassigned\""),
        "/materials/0/id", "new id");
    row("bad colour", replaced("\"#375F6E\"", "\"blue\""), "/materials/0/colour", "#RRGGBB");
    std::string deep(100, '[');
    row("too deep", deep, "/0", "64 levels");
    std::string many;
    for (int i = 0; i < 300; ++i)
      many += (i ? "," : "") + std::string("{\"id\":\"l") + std::to_string(i) +
              "\",\"kind\":\"constant\",\"value\":0}";
    std::string text = demos().front().json;
    const size_t from = text.find("\"layers\": [") + 11;
    text.replace(from, text.find("\n    ]\n", from) - from, many);
    row("300 layers", text, "/heights/layers", "at most 256");
  }
  void faultsNamePlaceAndRange() {
    QFETCH(QString, text);
    QFETCH(QString, where);
    QFETCH(QString, accepted);
    const auto result = recipeFromJson(text.toStdString());
    QVERIFY(!result.ok());
    const QString line = QString::fromStdString(result.error().text());
    QVERIFY2(QString::fromStdString(result.error().where).startsWith(where), qPrintable(line));
    QVERIFY2(QString::fromStdString(result.error().accepted).contains(accepted), qPrintable(line));
    QVERIFY2(!line.contains('\n'), qPrintable(line));
  }

  void everyCutFileIsRefused() {
    const std::string text = demos().front().json;
    const size_t end = text.find_last_of('}');
    for (size_t n = 0; n <= end; n += 37) QVERIFY(!recipeFromJson(text.substr(0, n)).ok());
  }

  void towersOfProductsAreRefused() {
    Recipe r;
    for (int i = 0; i < 40; ++i)
      r.heights.push_back({"l" + std::to_string(i), "", true, i ? Combine::Multiply : Combine::Add,
                           ConstantSource{1000}});
    const auto result = validate(r);
    QVERIFY(!result.ok());
    QCOMPARE(result.error().where, "/heights/layers");
    for (Layer& l : r.heights) l.on = false;  // What is off cannot overflow.
    QVERIFY(validate(r).ok());
  }

  void editorsCannotPassNan() {
    Recipe r = awkward(3);
    r.frame.seaLevel = std::nan("");
    QVERIFY(!validate(r).ok());
    QCOMPARE(validate(r).error().where, "/frame/sea");
  }

  void overridesReachEveryPlace() {
    const std::string& text = demos().front().json;
    const auto with = [&](std::vector<Override> sets) { return recipeFromJson(text, sets); };
    QCOMPARE(with({{"/frame/sea", "3.5"}})->frame.seaLevel, 3.5);
    QCOMPARE(std::get<GradientSource>(with({{"/heights/layers/1/width", "100"}})->heights[1].source)
                 .width,
             100.0);
    QCOMPARE(std::get<GradientSource>(
                 with({{"/heights/layers/id:hills/width", "77"}})->heights[1].source)
                 .width,
             77.0);
    QCOMPARE(with({{"/name", "Plain text"}})->name, "Plain text");
    QCOMPARE(with({{"/seed", "42"}})->seed, "42");
    QVERIFY(with({{"/frame/bounds/x", "{\"min\":0,\"extent\":9}"}})->frame.x.has_value());
    for (const Override& bad :
         {Override{"frame/sea", "3"}, Override{"/heights/layers/9/width", "3"},
          Override{"/heights/layers/id:no/width", "3"}, Override{"/frame/see", "3"},
          Override{"/frame/sea/x", "3"}})
      QVERIFY2(!with({bad}).ok(), bad.pointer.c_str());
  }

  void filesAreWrittenWholeAndNamedInFaults() {
    QTemporaryDir dir;
    const std::string name = dir.filePath("w.acre").toStdString();
    const Recipe recipe = awkward(4);
    QVERIFY(writeRecipeFile(name, recipe).ok());
    QVERIFY(*readRecipeFile(name) == recipe);
    QVERIFY(!writeRecipeFile("/dev/full", recipe).ok());
    QVERIFY(!writeRecipeFile(dir.path().toStdString(), recipe).ok());
    auto out = AtomicFile::open(name);
    QVERIFY(out->write("{\"format\": 3}").ok());
    QVERIFY(out->commit().ok());
    const auto broken = readRecipeFile(name);
    QVERIFY(!broken.ok());
    QVERIFY(broken.error().where.starts_with(name));
    QVERIFY(!readRecipeFile(dir.path().toStdString()).ok());
    QVERIFY(!readRecipeFile(name + "x").ok());
  }

  void freshIdsAreNew() {
    QCOMPARE(freshId("layer", {}), "layer-1");
    QCOMPARE(freshId("layer", {"layer-1", "layer-7", "rises", "layer-x"}), "layer-8");
  }
};

QTEST_APPLESS_MAIN(RecipeTest)
#include "recipe_test.moc"
