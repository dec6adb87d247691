#include <QtTest>
#include <cmath>
#include <nlohmann/json.hpp>
#include <random>
#include <thread>

#include "audit/checks.h"
#include "audit/plumb.h"
#include "core/layers.h"
#include "dry.h"
#include "output/picture.h"
#include "recipe/json.h"
#include "recipe/validate.h"
#include "reference/evaluator.h"
#include "suite.h"
#include "world/demos.h"
#include "world/engine.h"
#include "world/fingerprint.h"
#include "world/world.h"

using namespace acre;

namespace {

/// Hills in a sea, colder to the poles and on the hills, with rain that keeps to the warm ground.
Recipe weather(int variant = 0) {
  Recipe r;
  r.seed = "weather " + std::to_string(variant);
  r.frame.seaLevel = variant - 1.5;
  r.heights.layers = {noiseLayer("hills", 150, 30), noiseLayer("bumps", 20, 3)};
  r.climate.on = true;
  auto& warm = r.climate.temperature.field;
  warm.layers = {noiseLayer("air", 400, 0.5),
      layerOf("poles", LatitudeSource{100.25 * variant, 3000}, 1, Combine::Subtract),
      layerOf("up", AltitudeSource{}, 0.02, Combine::Subtract)};
  warm.clamp = Clamp{-1, 1};
  auto& wet = r.climate.moisture.field;
  wet.layers = {noiseLayer("rain", 250, 1)};
  wet.layers.push_back(noiseLayer("mist", 60, 0.4));
  wet.layers.back().mask = Mask{kTemperatureId, -0.2, std::nullopt, 0.1};
  wet.curve = {{-1.5, -1}, {0, 0.2}, {1.5, 1}};
  return r;
}

Result<std::shared_ptr<const World>> worldOf(const Recipe& recipe) {
  static const auto engine = std::move(Engine::create({})).value();
  return engine->compile(recipe);
}

float at(const World& world, const char* field, Cell cell) {
  return world.field(field)->at({cell.x, 0}, {cell.z, 0});
}

}  // namespace

class ClimateTest : public QObject {
  Q_OBJECT

 private slots:
  void agreesWithTheReference() {
    std::mt19937_64 random(1);
    for (int variant = 0; variant < 4; ++variant) {
      Recipe recipe = variant == 3 ? dryDemo("saltfen-reach") : weather(variant);
      if (variant == 2) recipe.heightsOn = false;
      const auto world = worldOf(recipe).value();
      reference::Evaluator reference(recipe);
      for (int i = 0; i < 2000; ++i) {
        const int64_t reach = i % 3 == 0 ? 2'000'000'000 : 5000;
        const auto coordinate = [&] {
          return static_cast<int64_t>(random() % static_cast<uint64_t>(2 * reach + 1)) - reach;
        };
        const Cell cell{coordinate(), coordinate()};
        for (const char* field : {kTemperatureId, kMoistureId}) {
          const float expected = reference.field(field, cell);
          QCOMPARE(at(*world, field, cell), expected);
          float row[3];
          QVERIFY(world->columns()
                      .field(*world->field(field), {cell.x - 1, cell.z, 1, 3, 1}, row)
                      .ok());
          QCOMPARE(row[1], expected);
        }
      }
    }
  }

  void gridsArePoints() {
    const auto world = worldOf(weather()).value();
    for (const int64_t step : {1, 16, 1000})
      for (const Kernels* kernels : availableKernels())
        for (const char* id : {kTemperatureId, kMoistureId}) {
          const Field& field = *world->field(id);
          const SampleGrid grid{-1'999'999'000, 700, step, 70, 9};
          std::vector<float> values(70 * 9);
          QVERIFY(field.evaluate(*kernels, grid, values.data(), 70));
          for (int k = 0; k < 630; k += 7)
            QCOMPARE(values[static_cast<size_t>(k)],
                field.at({grid.x + k % 70 * step, 0}, {grid.z + k / 70 * step, 0}));
        }
  }

  /// What is remembered of distances changes no cell, counts against the limit and stays within it.
  void rememberingCostsBytesAndChangesNothing() {
    Recipe recipe = weather();
    recipe.climate.moisture.field.layers = {layerOf("shore", WaterSource{24}, 1)};
    recipe.climate.moisture.field.clamp.reset();
    const SampleGrid grid{-700, 60, 1, 600, 30};
    std::vector<float> first;
    const auto sampled = [&](uint64_t memo, uint64_t limit) {
      EngineOptions options;
      options.memoBytes = memo;
      options.memoryLimit = limit;
      const auto engine = Engine::create(options).value();
      const auto world = engine->compile(recipe).value();
      std::vector<float> values(600 * 30);
      if (!world->columns().field(*world->field(kMoistureId), grid, values.data()).ok())
        qFatal("no sample");
      if (first.empty()) first = values;
      if (values != first) qFatal("remembering changes cells");
      return engine->budget().used();
    };
    const uint64_t all = sampled(uint64_t{24} << 20, uint64_t{1} << 30);
    QVERIFY(all > 500'000 && all < 3'000'000);
    QCOMPARE(sampled(0, uint64_t{1} << 30), uint64_t{0});
    const uint64_t some = sampled(300'000, uint64_t{1} << 30);
    QVERIFY(some > 0 && some <= 300'000);
    QVERIFY(sampled(uint64_t{24} << 20, 200'000) <= 200'000);  // The limit of all is the tighter.
    QCOMPARE(sampled(uint64_t{24} << 20, 10), uint64_t{0});
  }

  /// Stopped at any moment, by one of two who want the same distances: nothing half made remains.
  void measuringDistancesCanBeStopped() {
    Recipe recipe = weather();
    recipe.climate.moisture.field.layers = {layerOf("shore", WaterSource{256}, 1)};
    recipe.climate.moisture.field.clamp.reset();
    const SampleGrid grid{40, 60, 1, 250, 20};
    std::vector<float> expected(250 * 20), values(250 * 20), others(250 * 20);
    const auto calm = worldOf(recipe).value();
    QVERIFY(calm->columns().field(*calm->field(kMoistureId), grid, expected.data()).ok());
    int stopped = 0;
    for (int delay = 0; delay < 40; ++delay) {
      const auto engine = Engine::create({}).value();  // Remembers nothing yet.
      const auto world = engine->compile(recipe).value();
      const Field& field = *world->field(kMoistureId);
      std::stop_source source;
      std::jthread other([&] { (void)world->columns().field(field, grid, others.data()); });
      std::jthread stopper([&] {
        std::this_thread::sleep_for(std::chrono::microseconds(400 * delay));
        source.request_stop();
      });
      const Status made = world->columns().field(field, grid, values.data(), source.get_token());
      stopped += !made.ok();
      if (made.ok()) QCOMPARE(values, expected);
      other.join();
      QCOMPARE(others, expected);
      QVERIFY(world->columns().field(field, grid, values.data()).ok());
      QCOMPARE(values, expected);
    }
    QVERIFY(stopped > 0);
  }

  /// Against all cells within reach, near and far, by point, grid, step and kernel table.
  void distanceFromWaterIsThatOfTheNearestWater() {
    for (const int reach : {1, 7, 24}) {
      Recipe recipe = weather();
      recipe.climate.moisture.field.layers = {
          layerOf("shore", WaterSource{static_cast<double>(reach)}, 1)};
      recipe.climate.moisture.field.clamp.reset();
      const auto world = worldOf(recipe).value();
      const Field& field = *world->field(kMoistureId);
      reference::Evaluator reference(recipe);
      int between = 0;
      for (const Cell corner : {Cell{-140, 30}, Cell{2'000'000'000, -2'000'000'003}}) {
        const SampleGrid grid{corner.x, corner.z, 1, 290, 41};
        std::vector<float> values(290 * 41);
        QVERIFY(world->columns().field(field, grid, values.data()).ok());
        for (int k = 0; k < 290 * 41; k += 97) {
          const Cell cell{grid.x + k % 290, grid.z + k / 290};
          const float expected = reference.field(kMoistureId, cell);
          QCOMPARE(values[static_cast<size_t>(k)], expected);
          QCOMPARE(field.at({cell.x, 0}, {cell.z, 0}), expected);
          between += expected > 0 && expected < 1;
        }
        // Every step up to the stated one picks the same cells; coarser ones are never too near.
        for (const int64_t step : {2, 4, 16}) {
          std::vector<float> sparse(16 * 2);
          QVERIFY(world->columns().field(field, {grid.x, grid.z, step, 16, 2}, sparse.data()).ok());
          for (int k = 0; k < 32; ++k) {
            const float exact = values[static_cast<size_t>(k / 16 * step * 290 + k % 16 * step)];
            if (step <= WaterDistance::kExactStep)
              QCOMPARE(sparse[static_cast<size_t>(k)], exact);
            else
              QVERIFY(sparse[static_cast<size_t>(k)] >= exact);
          }
        }
      }
      QVERIFY(between > 5);
    }
  }

  /// Many at once, with tiles that come and go, find what one alone finds.
  void distancesFromWaterAreTheSameForAll() {
    Recipe recipe = weather();
    recipe.climate.moisture.field.layers = {layerOf("shore", WaterSource{256}, 1)};
    const auto world = worldOf(recipe).value();
    const auto valuesOf = [&](const World& w, std::vector<float>& out) {
      for (int64_t t = 0; t < 14; ++t) {
        std::vector<float> values(64 * 64);
        (void)w.columns().field(
            *w.field(kMoistureId), {t * 700, -t * 900, 1, 64, 64}, values.data());
        out.insert(out.end(), values.begin(), values.end());
      }
    };
    std::vector<float> expected;
    valuesOf(*worldOf(recipe).value(), expected);
    std::vector<float> found[4];
    {
      std::vector<std::jthread> threads;
      for (auto& out : found) threads.emplace_back([&] { valuesOf(*world, out); });
    }
    for (const auto& out : found) QVERIFY(out == expected);
  }

  void distanceFromWaterIsRefusedWhereItCannotBe() {
    const auto refused = [](Recipe recipe, const char* where) {
      const auto world = worldOf(recipe);
      return !world && QString::fromStdString(world.error().where).startsWith(QLatin1String(where));
    };
    Recipe recipe = weather();
    for (const double reach : {0.0, 257.0, 2.5}) {
      recipe.climate.moisture.field.layers = {layerOf("shore", WaterSource{reach}, 1)};
      QVERIFY(refused(recipe, "/climate/moisture/layers/0/reach"));
    }
    recipe.climate.moisture.field.layers = {
        layerOf("shore", WaterSource{9}, 1), layerOf("even", EqualiseSource{}, 1)};
    recipe.frame.x = recipe.frame.z = AxisBounds{0, 100};
    QVERIFY(refused(recipe, "/climate/moisture/layers/1"));
    recipe = weather();
    recipe.heights.layers.push_back(layerOf("shore", WaterSource{9}, 1));
    QVERIFY(refused(recipe, "/heights/layers"));
  }

  void altitudeIsHeightAboveTheSea() {
    Recipe recipe = weather();
    recipe.climate.temperature.field.layers = {layerOf("up", AltitudeSource{}, 1)};
    recipe.climate.temperature.field.clamp.reset();
    const auto above = [](const World& world, Cell cell) {
      const auto sea = static_cast<float>(world.seaLevel());
      return std::max(0.0f, world.at(cell).height - sea);
    };
    for (int k = 0; k < 2; ++k) {
      if (k == 1) recipe.frame.seaShare = 0.6;  // Wherever the share puts it.
      const auto world = worldOf(recipe).value();
      int wet = 0, dry = 0;
      for (int64_t i = 0; i < 400; ++i) {
        const Cell cell{i * 37 - 4000, i * 91};
        const float expected = above(*world, cell);
        QCOMPARE(at(*world, kTemperatureId, cell), expected);
        ++(expected > 0 ? dry : wet);
      }
      QVERIFY(wet > 40 && dry > 40);
    }
    recipe.heightsOn = false;
    recipe.frame.seaShare.reset();
    recipe.frame.seaLevel = -4;
    QCOMPARE(at(*worldOf(recipe).value(), kTemperatureId, {5, 5}), 4.0f);
  }

  void latitudeIsAlikeToBothPoles() {
    Recipe recipe = weather();
    recipe.climate.moisture.field.layers = {layerOf("l", LatitudeSource{10, 500}, 1)};
    recipe.climate.moisture.field.curve.clear();
    const auto world = worldOf(recipe).value();
    for (const int64_t x : {int64_t{-2'000'000'000}, int64_t{0}, int64_t{77}}) {
      QCOMPARE(at(*world, kMoistureId, {x, 10}), 0.0f);
      QCOMPARE(at(*world, kMoistureId, {x, 135}), 0.25f);
      QCOMPARE(at(*world, kMoistureId, {x, -115}), 0.25f);
      QCOMPARE(at(*world, kMoistureId, {x, 510}), 1.0f);
      QCOMPARE(at(*world, kMoistureId, {x, -2'000'000'000}), 1.0f);
    }
  }

  void climateChangesNoCell() {
    Recipe recipe = weather();
    const Digest with = worldFingerprint(*worldOf(recipe).value());
    recipe.climate.on = false;
    QCOMPARE(worldFingerprint(*worldOf(recipe).value()), with);
    QVERIFY(!worldOf(recipe).value()->field(kTemperatureId));
  }

  void heightsCannotReadTheClimate_data() {
    QTest::addColumn<int>("kind");
    QTest::addColumn<QString>("says");
    QTest::newRow("mask") << 0 << "the heights come before the climate";
    QTest::newRow("field") << 1 << "the heights come before the climate";
    QTest::newRow("by a field") << 2 << "the heights come before the climate";
    QTest::newRow("altitude") << 3 << "heights reads heights";
    QTest::newRow("altitude by a field") << 4 << "heights reads other reads heights";
    QTest::newRow("taken id") << 5 << "\"moisture\" is taken";
    QTest::newRow("no such field") << 6 << "there is no field \"mist\"";
    QTest::newRow("circle") << 7 << "temperature reads moisture reads temperature";
  }
  void heightsCannotReadTheClimate() {
    QFETCH(int, kind);
    QFETCH(QString, says);
    Recipe r = weather();
    FieldRecipe other{"other", "Other", {noiseLayer("n", 50, 1)}, {}, {}};
    auto& heights = r.heights.layers;
    if (kind == 0) heights[0].mask = Mask{kTemperatureId, 0.0, {}, 0};
    if (kind == 1) heights.push_back(layerOf("x", FieldSource{kMoistureId}, 1));
    if (kind == 2) other.layers[0].mask = Mask{kTemperatureId, 0.0, {}, 0};
    if (kind == 2 || kind == 4) heights.push_back(layerOf("x", FieldSource{"other"}, 1));
    if (kind == 3) heights.push_back(layerOf("x", AltitudeSource{}, 1));
    if (kind == 4) other.layers.push_back(layerOf("x", AltitudeSource{}, 1));
    if (kind == 5) other.id = kMoistureId;
    if (kind == 6) r.climate.moisture.field.layers[1].mask->field = "mist";
    if (kind == 7) r.climate.temperature.field.layers[0].mask = Mask{kMoistureId, 0.0, {}, 0};
    r.fields = {other};
    const auto world = worldOf(r);
    QVERIFY(!world);
    QVERIFY2(
        QString::fromStdString(world.error().text()).contains(says), world.error().text().c_str());
  }

  void furtherFieldsMayReadIt() {
    Recipe r = weather();
    FieldRecipe snow{"snow", "Snow", {layerOf("t", FieldSource{kTemperatureId}, -2)}, {}, {}};
    snow.layers.push_back(layerOf("a", AltitudeSource{}, 0.1));
    r.fields = {snow};
    const auto world = worldOf(r).value();
    for (int64_t i = 0; i < 50; ++i) {
      const Cell cell{i * 11, i * i};
      const float above =
          std::max(0.0f, world->at(cell).height - static_cast<float>(world->seaLevel()));
      QCOMPARE(at(*world, "snow", cell), at(*world, kTemperatureId, cell) * -2.0f + above * 0.1f);
    }
  }

  void unitsAreStraight() {
    AxisScale axis;
    axis.low = -0.5;
    axis.high = 1.5;
    QCOMPARE(axis.told(0.25), 0.25);  // No unit, no change.
    axis.unit = "°C";
    axis.unitLow = -10;
    axis.unitHigh = 30;
    QCOMPARE(axis.told(-0.5), -10.0);
    QCOMPARE(axis.told(1.5), 30.0);
    QCOMPARE(axis.told(0.5), 10.0);
    QCOMPARE(axis.told(2.5), 50.0);  // Beyond the ends it goes on.
  }

  void wrongAxesAreRefused_data() {
    QTest::addColumn<double>("low");
    QTest::addColumn<double>("high");
    QTest::addColumn<QString>("unit");
    QTest::addColumn<QString>("place");
    QTest::newRow("reversed") << 1.0 << -1.0 << ""
                              << "/climate/temperature/high";
    QTest::newRow("empty") << 1.0 << 1.0 << ""
                           << "/climate/temperature/high";
    QTest::newRow("nan") << std::nan("") << 1.0 << ""
                         << "/climate/temperature/low";
    QTest::newRow("huge") << -1.0 << 1e30 << ""
                          << "/climate/temperature/high";
    QTest::newRow("long unit") << -1.0 << 1.0 << QString(40, 'm')
                               << "/climate/temperature/unit/name";
  }
  void wrongAxesAreRefused() {
    QFETCH(double, low);
    QFETCH(double, high);
    QFETCH(QString, unit);
    QFETCH(QString, place);
    Recipe r = weather();
    r.climate.temperature.low = low;
    r.climate.temperature.high = high;
    r.climate.temperature.unit = unit.toStdString();
    const Status valid = validate(r);
    QVERIFY(!valid);
    QCOMPARE(QString::fromStdString(valid.error().where), place);
  }

  void filesKeepTheClimate() {
    Recipe r = weather(1);
    r.climate.moisture.unit = "mm";
    QCOMPARE(recipeFromJson(recipeToJson(r)).value(), r);
    r.climate.on = false;  // Switched off it is still written.
    QCOMPARE(recipeFromJson(recipeToJson(r)).value(), r);
    r.climate = {};
    QVERIFY(recipeToJson(r).find("climate") == std::string::npos);
    QCOMPARE(recipeFromJson(recipeToJson(r)).value(), r);
    const auto changed = recipeFromJson(recipeToJson(weather(1)),
        {{"/climate/temperature/layers/id:up/amplitude", "0.5"}, {"/climate/moisture/high", "2"}});
    QCOMPARE(changed.value().climate.temperature.field.layers[2].amplitude, 0.5);
    QCOMPARE(changed.value().climate.moisture.high, 2.0);
  }

  void picturesAndCardsTellIt() {
    Recipe r = weather();
    r.climate.temperature.unit = "°C";
    const auto world = worldOf(r).value();
    QCOMPARE(
        pictureNamed("temperature").value(), (Picture{PictureKind::Field, kTemperatureId, {}}));
    QCOMPARE(nameOf(pictureNamed("moisture").value()), std::string("moisture"));
    QVERIFY(checkPicture(*world, pictureNamed("temperature").value()).ok());
    const Cell cell{123, -456};
    const Plumb plumb = plumbAt(*world, cell).value();
    QCOMPARE(plumb.climate.size(), size_t{2});
    for (const PlumbAxis& axis : plumb.climate) {
      QCOMPARE(axis.value, at(*world, axis.id.c_str(), cell));
      const ClimateAxis& of = *climateAxisOf(r, axis.id);
      QCOMPARE(axis.told, of.told(static_cast<double>(axis.value)));
      float sum = 0;
      for (const PlumbLayer& layer : axis.layers) {
        QCOMPARE(layer.before, sum);
        sum = layer.after;
      }
    }
    // The card alone recomputes the temperature.
    const auto card = nlohmann::json::parse(plumbJson(plumb))["climate"][0];
    float sum = 0;
    for (const auto& layer : card["layers"]) {
      const float value = layer["value"].get<float>();
      sum = layer["does"] == "subtracts" ? sum - value : sum + value;
    }
    QCOMPARE(std::clamp(sum, -1.0f, 1.0f), card["value"].get<float>());
    QVERIFY(plumbText(plumb).find(" °C") != std::string::npos);
    r.climate.on = false;
    const auto off = worldOf(r).value();
    QVERIFY(!checkPicture(*off, pictureNamed("temperature").value()).ok());
    QVERIFY(plumbAt(*off, cell).value().climate.empty());
  }

  void mistakesInItAreFound() {
    Recipe r = weather();
    r.materials = {{"m", "M", {}, {}}};
    r.bands = {{"b", {}, "m", {}}};
    r.climate.temperature.field.clamp.reset();  // It would hold much of the world, and be told.
    NoiseSource fine;
    fine.width = 1;
    fine.fractal = Fractal::Single;
    Layer flat = layerOf("flat", fine, 1);
    flat.sampling = SamplingOffset{0, 0, false};
    r.climate.moisture.field.layers.push_back(flat);
    const auto engine = std::move(Engine::create({})).value();
    const auto checks = runChecks(*engine, **engine->compile(r)).value();
    QCOMPARE(checks.size(), size_t{1});
    QCOMPARE(checks[0].id, std::string("flat"));
    QCOMPARE(checks[0].pointer, std::string("/climate/moisture/layers/2/sampling"));
    checks[0].apply(r);
    QVERIFY(r.climate.moisture.field.layers[2].sampling->x != 0);
  }

  void equaliseNeedsGroundThatIsAlikeEverywhere() {
    Recipe r = weather();
    auto& warm = r.climate.temperature.field;
    warm.layers = {layerOf("up", AltitudeSource{}, 1)};
    warm.layers.push_back(layerOf("even", EqualiseSource{}, 1));
    QVERIFY(worldOf(r).ok());  // Noise makes the heights.
    warm.layers[0] = layerOf("l", LatitudeSource{}, 1);
    QVERIFY(!worldOf(r).ok());
    r.frame.x = AxisBounds{0, 500};
    r.frame.z = AxisBounds{0, 500};
    QVERIFY(worldOf(r).ok());
  }
};

ACRE_SUITE(ClimateTest)
#include "climate_test.moc"
