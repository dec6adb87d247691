#include <QtTest>
#include <cmath>
#include <nlohmann/json.hpp>
#include <numeric>
#include <random>

#include "audit/census.h"
#include "audit/checks.h"
#include "audit/plumb.h"
#include "world/demos.h"

using namespace acre;

namespace {

std::unique_ptr<Engine> engine() {
  return std::move(Engine::create({})).value();
}

Recipe demo() {
  return loadRecipe("saltfen-reach").value();
}

Layer noiseLayer(double width) {
  NoiseSource noise;
  noise.width = width;
  noise.fractal = Fractal::Single;
  Layer layer;
  layer.id = "a";
  layer.name = "Layer A";
  layer.source = noise;
  layer.amplitude = 10;
  return layer;
}

/// Ids of the checks that a recipe raises.
QStringList found(Engine& e, const Recipe& recipe) {
  QStringList ids;
  const auto checks = *runChecks(e, **e.compile(recipe));
  for (const Check& c : checks) ids << QString::fromStdString(c.id);
  return ids;
}

}  // namespace

class AuditTest : public QObject {
  Q_OBJECT

 private slots:
  /// From the numbers of the card alone, the cell can be computed again: the sum by the layers'
  /// values, weights and ways of joining, the slope by the neighbours, the band by the margins.
  void aCardRecomputesItsCell() {
    const auto e = engine();
    const auto world = *e->compile(demo());
    std::mt19937_64 random(12);
    for (int i = 0; i < 300; ++i) {
      const int64_t reach = i % 3 ? 3000 : 2'000'000'000;
      const auto any = [&] {
        return static_cast<int64_t>(random() % static_cast<uint64_t>(2 * reach)) - reach;
      };
      const Cell cell{any(), any()};
      const auto card = nlohmann::json::parse(plumbJson(*plumbAt(*world, cell)));
      float sum = 0;
      for (const auto& layer : card["heights"]["layers"]) {
        if (!layer["on"]) continue;
        QCOMPARE(layer["before"].get<float>(), sum);
        const float value = layer["value"], weight = layer["weight"];
        QCOMPARE(layer["does"].get<std::string>(), "adds");  // All that the demo does.
        const float joined = sum + value;
        sum = weight >= 1 ? joined : weight > 0 ? sum + weight * (joined - sum) : sum;
        QCOMPARE(layer["after"].get<float>(), sum);
      }
      const auto& heights = card["heights"];
      QCOMPARE(heights["sum"].get<float>(), sum);
      const CellValue value = world->at(cell);
      QCOMPARE(heights["height"].get<float>(), value.height);
      const auto& n = heights["neighbours"];
      const float dx = n["east"].get<float>() - n["west"].get<float>();
      const float dz = n["south"].get<float>() - n["north"].get<float>();
      QCOMPARE(heights["slope"].get<float>(), std::sqrt(dx * dx + dz * dz) * 0.5f);
      for (const auto& margin : card["strata"]["margins"]) {
        const float v = margin["value"], limit = margin["limit"];
        QCOMPARE(margin["below"].get<bool>(), v < limit);
      }
      QCOMPARE(card["strata"]["material"].get<std::string>(), world->materialId(value.material));
      // The margin is true: beyond the limit it is the other material.
      if (value.slopeBand >= 0) continue;
      for (const auto& margin : card["strata"]["margins"]) {
        const float limit = margin["limit"];
        const float beyond = margin["below"].get<bool>() ? limit : std::nextafter(limit, -1e9f);
        const auto other = world->bands().decide(cell, beyond, 0);
        const Material* m = world->material(other.material);
        QCOMPARE(m ? m->name : kUnassignedId, margin["otherwise"].get<std::string>());
      }
    }
  }

  void cardsReadTheSameEverywhere() {
    const auto e = engine();
    const auto world = *e->compile(demo());
    const Plumb plumb = *plumbAt(*world, {120, 40});
    const std::string text = plumbText(plumb);
    QVERIFY(text.starts_with(plumbTitle(plumb)));
    for (const PlumbRow& row : plumbRows(plumb)) QVERIFY(text.find(row.label) != std::string::npos);
    const auto rows = plumbRows(plumb);
    QCOMPARE(std::count_if(rows.begin(), rows.end(), [](const PlumbRow& r) { return r.deciding; }),
             1);
    QVERIFY(plumbDifferences(plumb, plumb).empty());
    const auto differences = plumbDifferences(plumb, *plumbAt(*world, {-380, 200}));
    QVERIFY(!differences.empty());
    QCOMPARE(differences.front().label, "Broad rises");  // The first in the chain.
    QVERIFY(!plumbAt(*world, {INT64_MAX, 0}).ok());
    QVERIFY(!plumbAt(*world, {0, INT64_MIN}).ok());
    QVERIFY(plumbAt(*world, {2'000'000'000, -2'000'000'000}).ok());
  }

  void emptyAndBoundedWorldsExplainThemselves() {
    const auto e = engine();
    Recipe empty;
    const auto nothing = plumbRows(*plumbAt(**e->compile(empty), {3, 4}));
    QVERIFY(std::any_of(nothing.begin(), nothing.end(), [](const PlumbRow& r) {
      return r.deciding && r.label == "no rule" && r.stage == "Strata";
    }));
    Recipe bounded = demo();
    bounded.frame.x = AxisBounds{0, 10};
    QCOMPARE(plumbTitle(*plumbAt(**e->compile(bounded), {10, 4})), "Outside the bounds");
  }

  void eachMistakeIsFoundAndItsMendWorks_data() {
    QTest::addColumn<QString>("id");
    for (const char* id : {"flat", "aliasing", "static-octaves", "never", "no-effect", "range"})
      QTest::newRow(id) << QString::fromLatin1(id);
  }
  void eachMistakeIsFoundAndItsMendWorks() {
    QFETCH(QString, id);
    Recipe r;
    r.materials = {{"low", "Low", {}, {}}, {"high", "High", {}, {}}};
    r.bands = {{"b", Threshold{0, false, {}}, "low", {}}, {"c", {}, "high", {}}};
    r.heights.layers = {noiseLayer(40)};
    const auto e = engine();
    QCOMPARE(found(*e, r), QStringList());
    auto& noise = std::get<NoiseSource>(r.heights.layers[0].source);
    if (id == "flat") {
      noise.width = 0.5;  // Two lattice cells a cell: whole numbers all the same.
      r.heights.layers[0].sampling = SamplingOffset{3, -2, false};
      r.heights.layers.push_back(noiseLayer(40));
      r.heights.layers[1].id = "other";
    } else if (id == "aliasing") {
      noise.width = 1.5;
    } else if (id == "static-octaves") {
      noise.fractal = Fractal::Fbm;
      noise.width = 12;
      noise.octaves = 5;  // 12 6 3 1.5 0.75
    } else if (id == "never") {
      r.bands.insert(r.bands.begin(), {"deep", Threshold{-500, false, {}}, "low", {}});
    } else if (id == "no-effect") {
      r.heights.layers.push_back(noiseLayer(90));
      r.heights.layers[1].id = "silent";
      r.heights.layers[1].amplitude = 0;
    } else {
      Layer rescale;
      rescale.id = "rescale";
      rescale.source = RescaleSource{-1, 1, -2, 2};
      r.heights.layers.push_back(rescale);
    }
    const auto checks = *runChecks(*e, **e->compile(r));
    QCOMPARE(checks.size(), size_t{1});
    QCOMPARE(QString::fromStdString(checks[0].id), id);
    QVERIFY(!checks[0].sentence.empty() && !checks[0].pointer.empty() && !checks[0].mend.empty());
    if (id == "static-octaves")
      QVERIFY2(checks[0].sentence.find("octaves 4-5") != std::string::npos,
               checks[0].sentence.c_str());
    if (id == "range")
      QVERIFY2(checks[0].sentence.find("% of the world outside") != std::string::npos,
               checks[0].sentence.c_str());
    checks[0].apply(r);
    QVERIFY(!found(*e, r).contains(id));
  }

  void flatIsSaidOfWhatIsFlat() {
    // The walk of a beginner: one gradient layer of width 1 without an offset.
    Recipe r;
    r.heights.layers = {noiseLayer(1)};
    r.heights.layers[0].sampling = SamplingOffset{0, 0, false};
    r.materials = {{"low", "Low", {}, {}}, {"high", "High", {}, {}}};
    r.bands = {{"b", Threshold{-3, false, {}}, "low", {}}, {"c", {}, "high", {}}};
    const auto e = engine();
    const auto checks = *runChecks(*e, **e->compile(r));
    QCOMPARE(checks.size(), size_t{1});  // The bands that level ground never reaches are not told.
    QCOMPARE(checks[0].sentence, "Layer A is flat: width 1 samples only lattice points");
    QCOMPARE(checks[0].mend, "set the sampling offset to 0.5");
    const auto world = *e->compile(r);
    for (int64_t i = 0; i < 100; ++i) QCOMPARE(world->at({i, 7 * i}).height, 0.0f);
    checks[0].apply(r);
    const auto mended = *e->compile(r);
    QVERIFY(mended->at({3, 4}).height != 0.0f);
  }

  void holesAreCountedAndFound() {
    Recipe r = demo();
    r.bands[3].material = kUnassignedId;
    const auto e = engine();
    const auto world = *e->compile(r);
    const auto census = *censusOfSample(*world);
    QVERIFY(census.unassigned > 1000 && census.firstHole);
    QCOMPARE(world->materialId(world->at(*census.firstHole).material), kUnassignedId);
    uint64_t sum = 0;
    for (const MaterialShare& m : census.materials) sum += m.cells;
    QCOMPARE(sum, census.cells);
    QCOMPARE(found(*e, r), QStringList{"unassigned"});
  }

  void anAreaIsCountedCellByCell() {
    const auto e = engine();
    const auto world = *e->compile(demo());
    const Rect area{-300, 77, 301, 259};
    const auto census = *censusOf(*world, area);
    QCOMPARE(census.cells, uint64_t{301} * 259);
    std::map<std::string, uint64_t> counts;
    float low = 1e9f, high = -1e9f;
    for (int64_t z = 0; z < area.height; ++z)
      for (int64_t x = 0; x < area.width; ++x) {
        const CellValue value = world->at({area.x + x, area.z + z});
        ++counts[world->materialId(value.material)];
        low = std::min(low, value.height);
        high = std::max(high, value.height);
      }
    for (const MaterialShare& m : census.materials) QCOMPARE(m.cells, counts[m.id]);
    QCOMPARE(census.low, low);
    QCOMPARE(census.high, high);
    QVERIFY(!censusOf(*world, {0, 0, 0, 5}).ok());
    QVERIFY(!censusOf(*world, {0, 0, int64_t{1} << 40, 5}).ok());
    QVERIFY(!censusOf(*world, {kMaxCell, 0, 10, 10}).ok());
  }

  void figuresAreThoseOfTheLayer() {
    const auto e = engine();
    Recipe r;
    r.heights.layers = {noiseLayer(40)};
    r.heights.layers[0].offset = 3;
    const auto world = *e->compile(r);
    const auto whole = *figuresOf(*e, *world, r.heights);
    const auto layer = *layerFigures(*world, r.heights, "a");
    QVERIFY(whole.low < -4 && whole.high > 10 && std::abs(whole.mean - 3) < 0.2);
    QVERIFY(std::abs(layer.mean - whole.mean) < 0.5);
    QCOMPARE(layer.octaves.size(), size_t{1});
    QCOMPARE(layer.octaves[0].width, 40.0);
    QCOMPARE(std::accumulate(whole.histogram.begin(), whole.histogram.end(), 0u), 65536u);
    QVERIFY(whole.nanosPerCell > 0);
    QCOMPARE(whole.rough, 0.0);  // Ten over forty cells never steps over one.
    r.heights.layers[0].amplitude = 500;
    QVERIFY(figuresOf(*e, **e->compile(r), r.heights)->rough > 0.5);
    QVERIFY(!layerFigures(*world, r.heights, "none"));
  }
};

QTEST_APPLESS_MAIN(AuditTest)
#include "audit_test.moc"
