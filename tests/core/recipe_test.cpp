#include <QtTest>
#include <cmath>
#include <random>

#include "base/atomic_file.h"
#include "output/recipe_pages.h"
#include "recipe/cave_recipe.h"
#include "recipe/differences.h"
#include "recipe/json.h"
#include "recipe/json_reader.h"
#include "recipe/level_recipe.h"
#include "recipe/list_table.h"
#include "recipe/look.h"
#include "recipe/stages.h"
#include "recipe/validate.h"
#include "suite.h"
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
    r.materials.push_back({"m" + std::to_string(i), "M", {static_cast<uint8_t>(random()), 2, 255},
        static_cast<MaterialState>(i % 3)});
  const auto layers = [&](FieldRecipe& field, const std::vector<std::string>& readable) {
    for (int i = 0; i < 14; ++i) {
      Layer layer;
      layer.id = "layer-" + std::to_string(i);
      layer.name = "L";
      layer.on = random() % 4 != 0;
      layer.combine = static_cast<Combine>(random() % 9);
      layer.amount = number(0.1, 0.9);
      NoiseSource noise;
      noise.basis = static_cast<Basis>(random() % 6);
      noise.fractal = static_cast<Fractal>(random() % 4);
      noise.width = number(50, 1e6);
      noise.octaves = 1 + static_cast<int>(random() % 5);
      noise.lacunarity = number(1, 3);
      noise.gain = number(0, 1);
      noise.rotate = random() % 2;
      noise.result = static_cast<CellularResult>(random() % 4);
      noise.metric = static_cast<Metric>(random() % 3);
      noise.jitter = number(0, 1);
      if (noise.basis != Basis::Cellular)
        noise.result = {}, noise.metric = {}, noise.jitter = 1;  // Other noise does not write them.
      layer.source = noise;
      const double v = number(-90, 90) / 7;
      if (i == 1) layer.source = ConstantSource{v * 1e-7};
      if (i == 2) layer.source = RampSource{static_cast<Axis>(random() % 2), v, v + 1};
      if (i == 3) layer.source = DistanceSource{v, -v, 77.7};
      if (i == 4) layer.source = IslandSource{random() % 2 == 0, v, -v, 33.3, 11.1, 2.2, 40.4};
      if (i == 5) layer.source = TerraceSource{1.0 / 3, 0.77};
      if (i == 6) layer.source = FoldSource{v};
      if (i == 7) layer.source = RescaleSource{v, v + 2, -0.1, 0.3};
      if (i == 8 && !readable.empty()) layer.source = FieldSource{readable.front()};
      if (i == 9)
        layer.source = PictureSource{
            "some picture.png", v, 1e9, 0.5, random() % 2 == 0, PictureSource::Outside::Value, 0.1};
      layer.amplitude = reshapes(layer.source) ? 1 : number(-9, 9);
      layer.offset = reshapes(layer.source) ? 0 : number(-1, 1) / 7;
      if (random() % 2)
        layer.sampling = SamplingOffset{number(-1e9, 1e9), 1.0 / 3, random() % 2 == 0};
      if (random() % 3 == 0)
        layer.warp = Warp{noise, number(0, 99), 1 + static_cast<int>(random() % 3)};
      if (random() % 3 == 0) layer.curve = {{-1.0 / 3, 2}, {0, number(-5, 5)}, {1e-3, 1.0 / 9}};
      if (random() % 3 == 0) layer.clamp = Clamp{-1.0 / 7, 1.0 / 7};
      if (random() % 3 == 0 && !readable.empty())
        layer.mask =
            Mask{readable.back(), -0.1, random() % 2 ? std::optional(0.2) : std::nullopt, 0.3};
      if (layer.combine < Combine::SmoothMinimum || layer.combine > Combine::Mix)
        layer.amount = 0.5;  // Not written.
      if (reshapes(layer.source)) {
        layer.sampling.reset();
        layer.combine = Combine::Add;
        layer.amount = 0.5;
      }
      field.layers.push_back(layer);
    }
    if (random() % 2) field.curve = {{0, 0}, {1.0 / 3, 1}};
    if (random() % 2) field.clamp = Clamp{-4, 4.4};
  };
  r.fields = {{"one", "One", {}, {}, {}}, {"two", "Two", {}, {}, {}}};
  layers(r.fields[0], {});
  layers(r.fields[1], {"one"});
  layers(r.heights, {"one", "two"});
  r.heightsOn = random() % 2;
  r.strataOn = random() % 2;
  if (random() % 2) r.frame.seaShare = 0.1;
  if (r.frame.seaShare) r.frame.seaLevel = 0;  // Not written besides.
  r.slopes = {{"s", number(0, 2), Threshold{1.0 / 3, true, {}}, {}, "m0"},
      {"t", 0.25, {}, Threshold{0, false, 0.75}, kUnassignedId}};
  r.bands = {{"b0", Threshold{-1.0 / 3, true, {}}, "m1", {Edge::Kind::Dithered, 0.3, true, 24}},
      {"b1", Threshold{1e-300, false, {}}, kUnassignedId, {Edge::Kind::Noisy, 0.1, false, 9.9}},
      {"b2", Threshold{0, false, 1.0 / 3}, "m3", {}}, {"b3", {}, "m4", {}}};
  return r;
}

/// The text of the large demo.
const std::string& saltfen() {
  for (const Demo& demo : demos())
    if (demo.name == "saltfen-reach") return demo.json;
  qFatal("no such demo");
}

/// The demo's text with one piece replaced.
std::string replaced(const std::string& from, const std::string& to) {
  std::string text = saltfen();
  const size_t at = text.find(from);
  if (at == std::string::npos) qFatal("the demo does not hold %s", from.c_str());
  return text.replace(at, from.size(), to);
}

}  // namespace

class RecipeTest : public QObject {
  Q_OBJECT

 private slots:
  /// The table of stages: places lead to them, switches do what they say, what comes later goes.
  void stagesAreToldOnce() {
    for (const StageDef& stage : allStages()) {
      QCOMPARE(defOf(stage.id).id, stage.id);
      QCOMPARE(stageOf(std::string("/") + stage.key + "/anything"), stage.id);
      QVERIFY(std::string_view(stage.what).ends_with('.'));
      QCOMPARE(stage.on == nullptr, stage.turn == nullptr);
      if (!stage.turn) continue;
      Recipe recipe = loadRecipe("swallet-edge").value();
      for (const bool on : {false, true, false}) {
        stage.turn(recipe, on);
        QCOMPARE(stage.on(recipe), on);
      }
      stage.turn(recipe, true);
      const Recipe less = upTo(recipe, stage.id);
      for (const StageDef& other : allStages())
        if (other.turn) QCOMPARE(other.on(less), other.id <= stage.id && other.on(recipe));
    }
    QCOMPARE(stageOf("/biomes/list/2/bands/0/below"), StageId::Strata);
    QCOMPARE(stageOf("/biomes/list/2/relief/raise"), StageId::Biomes);
    QCOMPARE(stageOf("/water/material"), StageId::Strata);
    QCOMPARE(stageOf("/fields/1/layers/0"), StageId::Heights);
    QVERIFY(defOf(StageId::Level).isOf(WorldKind::Level));
    QVERIFY(!defOf(StageId::Caves).isOf(WorldKind::Level));
    QVERIFY(defOf(StageId::Caves).readsStage(StageId::Strata));
  }

  /// What is switched off may read what is off with it; a band is of a material, not of "surface".
  void whatIsOffMayBeUnfinished() {
    Recipe recipe = loadRecipe("saltfen-reach").value();
    recipe.biomes.x = {"gone", -1, 1};
    const Status missing = validate(recipe);
    QVERIFY(!missing.ok());
    QCOMPARE(missing.error().where, std::string("/biomes/chart/x/field"));
    recipe.biomes.on = recipe.climate.on = false;
    const Status off = validate(recipe);
    QVERIFY2(off.ok(), off.ok() ? "" : off.error().text().c_str());
    const auto again = recipeFromJson(recipeToJson(recipe));
    QVERIFY2(again.ok(), again.ok() ? "" : again.error().text().c_str());
    QVERIFY(*again == recipe);
    recipe.layers = {{"top", kSurfaceId, 2, {}, 0}};
    QVERIFY(validate(recipe).ok());
    recipe.bands[0].material = kSurfaceId;
    QCOMPARE(validate(recipe).error().where, std::string("/strata/bands/0/material"));
  }

  /// The schema and the tables of the docs are made from what the program checks by:
  /// acre schema --out docs/recipe.schema.json; acre schema --tables docs/recipe.md
  void thePagesSayWhatTheDeclarationsSay() {
    const auto fileText = [](const char* name) {
      QFile file(QStringLiteral(ACRE_SOURCE_DIR "/docs/") + name);
      (void)file.open(QIODevice::ReadOnly);
      return file.readAll().toStdString();
    };
    QVERIFY(fileText("recipe.schema.json") == recipeSchema());
    const std::string page = fileText("recipe.md");
    const auto made = withTables(page);
    QVERIFY2(made.ok(), made.ok() ? "" : made.error().text().c_str());
    QVERIFY(*made == page);
    // A range that is told elsewhere is told there too.
    QVERIFY(
        page.find("| `boreVary` | Share by which it varies along the way. | 0 to 0.9 | 0.35 |") !=
        std::string::npos);
    const auto bad = withTables("a\n<!-- members of nothing -->\n<!-- end -->\n");
    QVERIFY(!bad.ok());
    QCOMPARE(bad.error().where, std::string("line 2"));
    QVERIFY(bad.error().accepted.find("tunnels") != std::string::npos);
    QVERIFY(!withTables("<!-- members of tunnels -->\n").ok());
  }

  /// Every member has its words, and every number of a list or struct its range or a rule.
  void everyMemberIsDescribed() {
    struct Words : PlainVisitor {
      QStringList bare;
      int met = 0;
      bool meets(const About& about, const void*) override {
        ++met;
        const bool sentence = about.what.ends_with('.') || about.what.ends_with(".`.");
        if (about.key.empty() || about.title.empty() || !sentence)
          bare << QString::fromUtf8(about.key.data(), static_cast<qsizetype>(about.key.size()));
        return true;
      }
    } words;
    Recipe recipe = loadRecipe("swallet-edge").value();
    recipe.level = *loadRecipe("underkiln").value().level;
    look(words, recipe);
    look(words, loadRecipe("patchwork-parish").value());
    QVERIFY2(words.bare.isEmpty(), qPrintable(words.bare.join(' ')));
    QVERIFY(words.met > 500);
    const About step = aboutOf(&Tunnels::step);
    QCOMPARE(step.key, std::string_view("step"));
    QCOMPARE(step.range.high, limits::tunnelStep.high);
    QCOMPARE(step.unit, std::string_view("cells"));
    QCOMPARE(aboutOf(&LevelPlace::clear).range.high, limits::placeClear.high);
  }

  /// A layer of three lines is enough, and what is missing is told with what it may be.
  void aLayerByHandNeedsLittle() {
    const auto with = [](const char* layer) {
      Json json = Json::parse(recipeToJson(Recipe{}));
      json["heights"]["layers"] = Json::array({Json::parse(layer)});
      return recipeFromJson(json.dump());
    };
    const auto read = with(R"({"id": "a", "kind": "gradient", "width": 90, "amplitude": 4})");
    QVERIFY2(read.ok(), read.ok() ? "" : read.error().text().c_str());
    const auto& noise = std::get<NoiseSource>(read->heights.layers[0].source);
    QCOMPARE(noise.fractal, Fractal::Single);
    QCOMPARE(noise.octaves, 4);
    const auto bare = with(R"({"id": "a", "kind": "gradient", "amplitude": 4})");
    QCOMPARE(bare.error().text(), std::string("/heights/layers/0: \"width\" is missing; accepted: "
                                              "a number from 0.03125 to 4294967296"));
    // A key that nobody knows goes before whatever else is wrong in the same object.
    const auto unknown = with(R"({"id": "a", "kind": "gradient", "widht": 90, "amplitude": 4})");
    QCOMPARE(unknown.error().where, std::string("/heights/layers/0/widht"));
    const auto kind = with(R"({"id": "a", "kind": "magic", "depth": 3})");
    QCOMPARE(kind.error().where, std::string("/heights/layers/0/kind"));
  }

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
    QVERIFY(!demos().empty() && starts().size() == 5);
    std::set<std::string> names;
    for (const auto* list : {&demos(), &starts()})
      for (const Demo& demo : *list) {
        const auto recipe = recipeFromJson(demo.json);
        QVERIFY2(recipe.ok(), recipe.ok() ? "" : recipe.error().text().c_str());
        QVERIFY(*recipeFromJson(recipeToJson(*recipe)) == *recipe);
        QVERIFY(*loadRecipe(demo.name) == *recipe);
        QVERIFY(names.insert(demo.name).second);
      }
  }

  /// What two recipes differ by are the settings that were changed, and setting them again makes
  /// one of the other.
  void differencesAreWhatWasChanged() {
    for (const Demo& demo : demos()) {
      const Recipe from = loadRecipe(demo.name).value();
      QVERIFY(differencesOf(from, from).empty());
      Recipe to = from;
      to.seed = "elsewhere";
      to.heights.layers.back().amplitude += 0.125;
      to.materials[1].colour.red ^= 1;
      const std::string layer = to.heights.layers.back().id;
      const auto told = differencesOf(from, to);
      QCOMPARE(told.size(), size_t{3});
      std::vector<Override> again;
      for (const RecipeDifference& one : told) again.push_back({one.pointer, one.is});
      QCOMPARE(told[0], (RecipeDifference{"/seed", '"' + from.seed + '"', "\"elsewhere\""}));
      QVERIFY(std::any_of(told.begin(), told.end(), [&](const RecipeDifference& one) {
        return one.pointer == "/heights/layers/id:" + layer + "/amplitude";
      }));
      QVERIFY(*loadRecipe(demo.name, again) == to);
      // Members that come, go and move.
      Recipe fewer = from;
      const Material gone = fewer.materials.back();
      fewer.materials.pop_back();
      QCOMPARE(differencesOf(from, fewer),
          (std::vector{RecipeDifference{"/materials/id:" + gone.id, "{...}", ""}}));
      QCOMPARE(differencesOf(fewer, from),
          (std::vector{RecipeDifference{"/materials/id:" + gone.id, "", "{...}"}}));
      std::swap(fewer.materials[0], fewer.materials[1]);
      const auto moved = differencesOf(from, fewer);
      QCOMPARE(moved.size(), size_t{2});
      QCOMPARE(moved[1].pointer, std::string("/materials"));
    }
  }

  void idTellsRecipesApart() {
    Recipe a = awkward(1), b = a;
    QCOMPARE(recipeId(a), recipeId(b));
    a.frame.seaShare.reset();
    b.frame.seaShare.reset();
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
    row("cut in half", saltfen().substr(0, saltfen().size() / 2), "", "JSON");
    row("not an object", "[1, 2]", "/", "format");
    row("nan", replaced("\"sea\": 0", "\"sea\": NaN"), "", "JSON");
    row("infinite", replaced("\"sea\": 0", "\"sea\": 1e999"), "/frame/sea", "a finite number");
    row("other format", replaced("kindred-acre recipe", "something else"), "/format",
        "kindred-acre recipe");
    row("newer version", replaced("\"version\": 1", "\"version\": 2"), "/version", "1 to 1");
    row("unknown generation", replaced("\"generation\": 0", "\"generation\": 1"), "/generation",
        "0");
    row("unknown key", replaced("\"sea\": 0", "\"sea\": 0, \"see\": 1"), "/frame/see", "chunk");
    row("twice", replaced("\"sea\": 0", "\"sea\": 0, \"sea\": 1"), "/frame/sea", "once");
    row("missing", replaced("\"sea\": 0,", ""), "/frame", "a number");
    row("text for number", replaced("\"sea\": 0", "\"sea\": \"0\""), "/frame/sea", "a number");
    row("number for text", replaced("\"Saltfen Reach\"", "7"), "/name", "text");
    row("seed as number", replaced("\"heather-41\"", "41"), "/seed", "text");
    row("empty seed", replaced("\"heather-41\"", "\"\""), "/seed", "-2^63");
    row("unknown kind of world", replaced("\"overland\"", "\"burrow\""), "/frame/kind", "overland");
    row("blocks without rock", replaced("\"overland\"", "\"voxel\""), "/strata/rock/beds",
        "at least one bed");
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
    row("unknown layer kind", replaced("\"gradient\"", "\"magic\""), "/fields/0/layers/0/kind",
        "gradient");
    row("octaves 1e9", replaced("\"octaves\": 5", "\"octaves\": 1e9"), "/heights/layers/0/octaves",
        "1 to 32");
    row("octaves too fine", replaced("\"octaves\": 5", "\"octaves\": 32"),
        "/heights/layers/0/octaves", "at most");
    row("width zero", replaced("\"width\": 1900, \"octaves\": 5", "\"width\": 0"),
        "/heights/layers/0/width", "0.03125 to");
    row("width negative", replaced("\"width\": 1900, \"octaves\": 5", "\"width\": -5"),
        "/heights/layers/0/width", "0.03125 to");
    row("width huge", replaced("\"width\": 1900, \"octaves\": 5", "\"width\": 1e30"),
        "/heights/layers/0/width", "4294967296");
    row("amplitude huge", replaced("\"amplitude\": 16", "\"amplitude\": 1e7"),
        "/heights/layers/2/amplitude", "1000000");
    row("same id twice", replaced("\"id\": \"hills\"", "\"id\": \"rises\""), "/heights/layers/1/id",
        "its own");
    row("no id", replaced("\"id\": \"hills\"", "\"id\": \"Hi there\""), "/heights/layers/1/id",
        "a-z");
    row("missing material",
        replaced("\"material\": \"limestone\" }\n    ]", "\"material\": \"lime\" }\n    ]"),
        "/strata/bands/7/material", "listed");
    row("band without end", replaced("\"below\": { \"sea\": 1.6 }, ", ""), "/strata/bands/2",
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
    std::string text = saltfen();
    const size_t from = text.find("\"layers\": [", text.find("\"heights\"")) + 11;
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
    const std::string text = saltfen();
    const size_t end = text.find_last_of('}');
    for (size_t n = 0; n <= end; n += 37) QVERIFY(!recipeFromJson(text.substr(0, n)).ok());
  }

  void towersOfProductsAreRefused() {
    Recipe r;
    for (int i = 0; i < 40; ++i) {
      Layer layer;
      layer.id = "l" + std::to_string(i);
      layer.combine = i ? Combine::Multiply : Combine::Add;
      layer.source = ConstantSource{1000};
      r.heights.layers.push_back(layer);
    }
    const auto result = validate(r);
    QVERIFY(!result.ok());
    QCOMPARE(result.error().where, "/heights/layers");
    for (Layer& l : r.heights.layers) l.on = false;  // What is off cannot overflow.
    QVERIFY(validate(r).ok());
  }

  void fieldsMayNotFeedEachOther() {
    Recipe r;
    r.fields = {{"ridge", "Ridge", {}, {}, {}}, {"hills", "Hills", {}, {}, {}}};
    const auto reading = [](const std::string& id) {
      Layer layer;
      layer.id = "reads-" + id;
      layer.source = FieldSource{id};
      return layer;
    };
    r.fields[0].layers = {reading("hills")};
    r.fields[1].layers = {reading("ridge")};
    const auto circle = validate(r);
    QVERIFY(!circle.ok());
    QVERIFY2(circle.error().what.find("hills reads ridge") != std::string::npos ||
                 circle.error().what.find("ridge reads hills reads ridge") != std::string::npos,
        circle.error().what.c_str());
    r.fields[1].layers = {reading("nowhere")};
    QCOMPARE(validate(r).error().where, "/fields/1/layers/0/field");
    // By way of a mask, and of the heights themselves.
    r.fields[1].layers.clear();
    r.heights.layers = {reading("ridge")};
    QVERIFY(validate(r).ok());
    r.heights.layers[0].mask = Mask{"heights", {}, {}, 0};
    QVERIFY(validate(r).error().what.find("heights reads heights") != std::string::npos);
    QCOMPARE(validate(r).error().where, "/heights/layers/0/mask/field");
    // A tower that doubles at every floor is refused before it costs anything.
    r = {};
    for (int i = 0; i < 40; ++i) {
      FieldRecipe field{"f" + std::to_string(i), "", {}, {}, {}};
      if (i)
        field.layers = {reading("f" + std::to_string(i - 1)), reading("f" + std::to_string(i - 1))};
      if (i) field.layers[1].id = "again";
      for (Layer& l : field.layers) l.amplitude = 0.1;
      r.fields.push_back(field);
    }
    QVERIFY(validate(r).error().what.find("more than 4096 layers") != std::string::npos);
    QCOMPARE(readersOf(r, "f0"), (std::vector<std::string>{": ", ": "}));
  }

  void curvesNeedRisingPoints() {
    Recipe r;
    Layer layer;
    layer.id = "a";
    layer.source = NoiseSource{};
    layer.curve = {{0, 0}, {1, 1}, {1, 2}};
    r.heights.layers = {layer};
    QCOMPARE(validate(r).error().where, "/heights/layers/0/curve/2/0");
    r.heights.layers[0].curve = {{0, 0}};
    QCOMPARE(validate(r).error().where, "/heights/layers/0/curve");
    r.heights.layers[0].curve = {{0, 0}, {1, 2}};
    QVERIFY(validate(r).ok());
  }

  void equaliseNeedsToKnowTheWorld() {
    Recipe r;
    Layer noise, ramp, equal;
    noise.id = "n";
    noise.source = NoiseSource{};
    ramp.id = "r";
    ramp.source = RampSource{};
    equal.id = "e";
    equal.source = EqualiseSource{};
    r.heights.layers = {noise, equal};
    QVERIFY(validate(r).ok());
    r.heights.layers = {noise, ramp, equal};
    QCOMPARE(validate(r).error().where, "/heights/layers/2");
    r.frame.x = r.frame.z = AxisBounds{0, 500};
    QVERIFY(validate(r).ok());
  }

  void editorsCannotPassNan() {
    Recipe r = awkward(3);
    r.frame.seaLevel = std::nan("");
    QVERIFY(!validate(r).ok());
    QCOMPARE(validate(r).error().where, "/frame/sea");
  }

  void overridesReachEveryPlace() {
    const std::string& text = saltfen();
    const auto with = [&](std::vector<Override> sets) { return recipeFromJson(text, sets); };
    QCOMPARE(with({{"/frame/sea", "3.5"}})->frame.seaLevel, 3.5);
    QCOMPARE(
        std::get<NoiseSource>(with({{"/heights/layers/1/width", "100"}})->heights.layers[1].source)
            .width,
        100.0);
    QCOMPARE(std::get<NoiseSource>(
                 with({{"/heights/layers/id:hills/width", "77"}})->heights.layers[1].source)
                 .width,
        77.0);
    QCOMPARE(with({{"/name", "Plain text"}})->name, "Plain text");
    QCOMPARE(with({{"/seed", "42"}})->seed, "42");
    QVERIFY(with({{"/frame/bounds/x", "{\"min\":0,\"extent\":9}"}})->frame.x.has_value());
    for (const Override& bad : {Override{"frame/sea", "3"},
             Override{"/heights/layers/9/width", "3"}, Override{"/heights/layers/id:no/width", "3"},
             Override{"/frame/see", "3"}, Override{"/frame/sea/x", "3"}})
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

  /// Lists of every demo go through a spreadsheet and come back equal; what is written there is
  /// what the recipe has.
  void listsAreTables() {
    int lists = 0;
    for (const Demo& demo : demos()) {
      const Recipe recipe = loadRecipe(demo.name).value();
      for (const char* pointer : {"/materials", "/biomes/list", "/biomes/areas", "/biomes/slices",
               "/strata/bands", "/strata/slopes", "/strata/ores", "/strata/rock/beds",
               "/caves/kinds", "/caves/tunnels", "/caves/automata", "/level/places"}) {
        const auto text = listTable(recipe, pointer);
        if (!text || *text == "\n") continue;  // Nobody there.
        ++lists;
        const auto back = withListTable(recipe, pointer, *text);
        QVERIFY2(back.ok(), back ? "" : back.error().text().c_str());
        QVERIFY2(*back == recipe, pointer);
        QCOMPARE(*listTable(*back, pointer), *text);
      }
    }
    QVERIFY(lists > 20);
  }
  void tablesAreEditedAndRefused() {
    Recipe recipe = loadRecipe("swallet-edge").value();
    recipe.materials[0].name = "Lime\t\"best\"\nin two lines";
    const std::string text = *listTable(recipe, "/materials");
    QVERIFY(text.starts_with("id\tname\tcolour\tstate\n"));
    QVERIFY(*withListTable(recipe, "/materials", text) == recipe);
    // As other systems end their lines, with and without the last.
    std::string other;
    for (const char c : text.substr(0, text.size() - 1))
      other += c == '\n' ? "\r\n" : std::string(1, c);
    QVERIFY(withListTable(recipe, "/materials", other).ok());
    const auto more = withListTable(recipe, "/materials", text + "loess\tLoess\t#102030\tsolid\n");
    QVERIFY(more.ok());
    QCOMPARE(more->materials.size(), recipe.materials.size() + 1);
    QCOMPARE(more->materials.back().colour.blue, uint8_t{0x30});
    // A comma for the decimal point, where the column holds numbers.
    std::string ores = *listTable(recipe, "/strata/ores");
    const std::string was = fmt::format("\t{}\t", recipe.ores[0].share);
    QVERIFY(ores.find(was) != std::string::npos);
    ores.replace(ores.find(was), was.size(), "\t0,0125\t");
    QCOMPARE(withListTable(recipe, "/strata/ores", ores)->ores[0].share, 0.0125);
    QVERIFY(listTable(recipe, "/biomes/list")->find("weight") != std::string::npos);
    const auto why = [&](const char* pointer, const std::string& table) {
      const auto made = withListTable(recipe, pointer, table);
      return made ? std::string("taken") : made.error().text();
    };
    const auto refuses = [&](const char* pointer, const std::string& table, const char* word) {
      const std::string said = why(pointer, table);
      return said.find(word) != std::string::npos ? std::string()
                                                  : said + " says nothing of " + word;
    };
    QCOMPARE(refuses("/materials", "", "line 1"), std::string());
    QCOMPARE(refuses("/materials", "id\tid\n", "column 2"), std::string());
    QCOMPARE(refuses("/materials", "id\nloess\tLoess\n", "line 2"), std::string());
    QCOMPARE(refuses("/materials", text + "loess\tLoess\tgreen\tsolid\n",
                 ("/materials/" + std::to_string(recipe.materials.size())).c_str()),
        std::string());
    QCOMPARE(
        refuses("/strata/ores", "id\tmaterial\nore-1\tnowhere\n", "/strata/ores/0"), std::string());
    QCOMPARE(refuses("/name", text, "list"), std::string());
    QCOMPARE(refuses("/nowhere/at/all", text, "list"), std::string());
    QVERIFY(why("/materials", text.substr(0, text.size() / 2)) != "taken");
  }
};

ACRE_SUITE(RecipeTest)
#include "recipe_test.moc"
