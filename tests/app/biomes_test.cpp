#include <QPushButton>
#include <QSignalSpy>
#include <QToolButton>
#include <cmath>

#include "app/biome/biomes_editor.h"
#include "app/biome/climate_editor.h"
#include "app/desk.h"
#include "app/map/lit_ground.h"
#include "app/window/census_drawer.h"
#include "app/window/drawers.h"
#include "app/window/stage_switch.h"
#include "climate/biomes.h"
#include "recipe/json.h"
#include "suite.h"

namespace {

/// The editor of biomes with its chart, by pointer and key.
struct ChartDesk : Desk<BiomesEditor> {
  using Desk::Desk;

  ChartView& chart() { return editor.chart(); }
  const acre::Biomes& biomes() const { return document.recipe().biomes; }
  const acre::Area& area(const char* id) const {
    for (const acre::Area& a : biomes().areas)
      if (a.id == id) return a;
    qFatal("there is no area %s", id);
  }
  QPoint at(double x, double y) { return chart().toScreen(x, y).toPoint(); }
  void press(QPoint p, Qt::KeyboardModifiers keys = {}) {
    QTest::mousePress(&chart(), Qt::LeftButton, keys, p);
  }
  void drag(QPoint from, QPoint to, Qt::KeyboardModifiers keys = {}) {
    press(from, keys);
    for (int k = 1; k <= 4; ++k) QTest::mouseMove(&chart(), from + (to - from) * k / 4);
    QTest::mouseRelease(&chart(), Qt::LeftButton, keys, to);
  }
  void tool(const char* name) {
    child<QToolButton>(QStringLiteral("biomes.tool.") + QLatin1String(name))->click();
  }
  void settle() {
    QTRY_VERIFY(document.current());
    QTRY_VERIFY_WITH_TIMEOUT(statistics.current(), 60000);
  }
  acre::BiomeIndex decided(double x, double y) {
    document.finish();
    return planOf(*document.world())
        .biomes()
        ->chart()
        .decide(static_cast<float>(x), static_cast<float>(y), 0)
        .biome;
  }
};

}  // namespace

class BiomesTest : public QObject {
  Q_OBJECT

  std::unique_ptr<acre::Engine> engine_;

 private slots:
  void initTestCase() {
    look::apply(*qApp, false);
    engine_ = makeEngine();
  }

  void theHeadlineTellsWhatIsUncovered() {
    ChartDesk desk(*engine_, "three-fields");
    desk.settle();
    const QString text = desk.child<QLabel>("biomes.headline")->text();
    QVERIFY2(text.contains(QStringLiteral("chart 51.5 %")), qPrintable(text));
    QVERIFY(desk.child<QPushButton>("biomes.hole")->isVisible());
    // The share of the world is that of the census over the same number of cells.
    const auto census = *acre::censusOfSample(*desk.document.world());
    const double told = text.mid(text.indexOf("world ") + 6).split(' ').front().toDouble();
    QVERIFY(std::abs(told - census.biomes.back().share * 100) < 0.051);
    QVERIFY(desk.child<QLabel>("biomes.correlation")->text().contains(QStringLiteral("65,536")));
  }

  /// Dragging edges until nothing is left uncovered, as somebody does who learns it.
  void areasAreDraggedOverTheWholeChart() {
    ChartDesk desk(*engine_, "three-fields");
    desk.settle();
    QSignalSpy lit(&desk.editor, &BiomesEditor::patchHovered);
    // Rye takes the west of the chart: its left, lower and upper edges go beyond the rim.
    desk.drag(desk.at(-0.7, -0.5), desk.at(-1.1, -0.5));
    QVERIFY(!desk.area("rye").x.low);
    desk.drag(desk.at(-0.5, -0.9), desk.at(-0.5, -1.1));
    QVERIFY(!desk.area("rye").y.low);
    desk.drag(desk.at(-0.9, -0.1), desk.at(-0.9, 1.1));
    QVERIFY(!desk.area("rye").y.high);
    // Its right edge to the middle; a corner of fallow to the lower right, then to the top.
    desk.drag(desk.at(0.1, -0.5), desk.at(0.2, -0.5));
    desk.drag(desk.at(1, -0.7), desk.at(1.1, -1.1));
    QVERIFY(!desk.area("fallow").x.high && !desk.area("fallow").y.low);
    desk.drag(desk.at(0.9, 0.2), desk.at(0.9, 1.1));
    QVERIFY(!desk.area("fallow").y.high);
    QVERIFY(lit.count() > 10);
    desk.settle();
    QCOMPARE(planOf(*desk.document.world()).biomes()->chart().uncovered(0), 0.0);
    QTRY_VERIFY(desk.child<QLabel>("biomes.headline")
                    ->text()
                    .startsWith(QStringLiteral("Uncovered: world 0.0 % · chart 0.0 %")));
    QVERIFY(!desk.child<QPushButton>("biomes.hole")->isVisible());
    // Three new seeds: nothing uncovered either.
    for (const char* seed : {"a", "b", "c"}) {
      acre::Recipe recipe = desk.document.recipe();
      recipe.seed = seed;
      QVERIFY(desk.document.change(QStringLiteral("Seed"), recipe));
      desk.document.finish();
      QCOMPARE(acre::censusOfSample(*desk.document.world())->biomes.size(), size_t{3});
    }
    // Each drag was one step.
    QCOMPARE(desk.document.undoStack().count(), 9);
    while (desk.document.undoStack().canUndo()) desk.document.undoStack().undo();
    QVERIFY(desk.document.recipe() == dryDemo("three-fields"));
  }

  void neighboursGoAlongUnlessParted() {
    ChartDesk desk(*engine_, "saltfen-reach");
    desk.settle();
    // In Low, reedbed begins where saltmarsh ends, at 0.12.
    const auto area = [&](const char* biome) -> const acre::Area& {
      for (const acre::Area& a : desk.biomes().areas)
        if (a.biome == biome && a.slices == std::vector<std::string>{"low"}) return a;
      qFatal("no such area");
    };
    QTest::keyClick(&desk.chart(), Qt::Key_PageUp);
    while (desk.chart().slice() > 2) QTest::keyClick(&desk.chart(), Qt::Key_PageDown);
    QCOMPARE(desk.chart().slice(), 2);
    desk.drag(desk.at(0.5, 0.12), desk.at(0.5, 0.3));
    QCOMPARE(*area("reedbed").y.low, 0.3);
    QCOMPARE(*area("saltmarsh").y.high, 0.3);
    desk.drag(desk.at(0.5, 0.3), desk.at(0.5, 0.5), Qt::AltModifier);
    QVERIFY(*area("reedbed").y.low != *area("saltmarsh").y.high);
    desk.document.finish();
    // A gap opened, and the rule below shows in it.
    const auto decision = planOf(*desk.document.world()).biomes()->chart().decide(0.5f, 0.4f, 5);
    QCOMPARE(planOf(*desk.document.world()).catalogue().biomeId(decision.biome),
        std::string("wet-meadow"));
  }

  void rectanglesPaintFillAndErase() {
    ChartDesk desk(*engine_, "three-fields");
    desk.settle();
    desk.tool("rectangle");
    desk.pick(QStringLiteral("biomes.brush"), 2);  // Fallow.
    desk.drag(desk.at(-0.95, 0.3), desk.at(-0.5, 0.9));
    QCOMPARE(desk.biomes().areas.size(), size_t{4});
    QCOMPARE(desk.biomes().areas[0].biome, std::string("fallow"));
    QVERIFY(std::abs(*desk.biomes().areas[0].x.low + 0.95) < 0.02);
    QCOMPARE(desk.decided(-0.7, 0.6), acre::BiomeIndex{3});
    // Paint goes along the whole way of a quick hand, as one step.
    const int steps = desk.document.undoStack().count();
    desk.tool("paint");
    desk.pick(QStringLiteral("biomes.brush"), 0);  // Rye.
    desk.press(desk.at(-0.9, -0.95));
    QTest::mouseMove(&desk.chart(), desk.at(0.9, -0.95));
    QTest::mouseRelease(&desk.chart(), Qt::LeftButton, {}, desk.at(0.9, -0.95));
    QCOMPARE(desk.document.undoStack().count(), steps + 1);
    for (double x = -0.88; x < 0.88; x += 0.05)
      QCOMPARE(desk.decided(x, -0.95), acre::BiomeIndex{1});
    QVERIFY(desk.biomes().areas[0].painting.has_value());
    // Fill takes the uncovered ground around, and no more.
    desk.tool("fill");
    desk.pick(QStringLiteral("biomes.brush"), 1);  // Pasture.
    QTest::mouseClick(&desk.chart(), Qt::LeftButton, {}, desk.at(-0.9, 0.1));
    QCOMPARE(desk.decided(-0.9, 0.1), acre::BiomeIndex{2});
    QCOMPARE(desk.decided(-0.7, 0.6), acre::BiomeIndex{3});
    QCOMPARE(desk.decided(-0.5, -0.95), acre::BiomeIndex{1});
    // Erase takes painted cells; a click on an area takes the area.
    desk.tool("erase");
    QTest::mouseClick(&desk.chart(), Qt::LeftButton, {}, desk.at(-0.9, 0.1));
    QCOMPARE(desk.decided(-0.9, 0.1), acre::kNoBiome);
    QTest::mouseClick(&desk.chart(), Qt::LeftButton, {}, desk.at(-0.7, 0.6));
    QCOMPARE(desk.decided(-0.7, 0.6), acre::kNoBiome);
    QCOMPARE(desk.biomes().areas.size(), size_t{4});
    // What was painted survives the file.
    const auto again = acre::recipeFromJson(acre::recipeToJson(desk.document.recipe()));
    QVERIFY(again.ok() && *again == desk.document.recipe());
  }

  void idealPointsAreDragged() {
    ChartDesk desk(*engine_, "patchwork-parish");
    desk.settle();
    const auto ideal = [&](const char* id) {
      return *acre::biomeOf(desk.document.recipe(), id)->ideal;
    };
    const auto before = acre::chartCounts(planOf(*desk.document.world()).biomes()->chart(),
        *desk.statistics.chart()->sample, engine_->kernels(), 7);
    desk.drag(desk.at(ideal("orchard").x, ideal("orchard").y), desk.at(-0.6, 0.7));
    QVERIFY(std::abs(ideal("orchard").x + 0.6) < 0.02);
    QVERIFY(std::abs(ideal("orchard").y - 0.7) < 0.02);
    QCOMPARE(desk.editor.chosenBiome(), std::string("orchard"));
    desk.settle();
    const auto after = acre::chartCounts(planOf(*desk.document.world()).biomes()->chart(),
        *desk.statistics.chart()->sample, engine_->kernels(), 7);
    QVERIFY(after[5] < before[5] / 2);
    QTRY_COMPARE(desk.child<QLabel>("biome.orchard.share")->text(),
        look::percent(static_cast<double>(after[5]) / 65536));
    // Never beyond the chart.
    desk.drag(desk.at(ideal("orchard").x, ideal("orchard").y), QPoint(-500, -500));
    QCOMPARE(ideal("orchard").x, -1.0);
    QCOMPARE(ideal("orchard").y, 1.0);
    // In the unit of the axis, by number; and a tick takes it away.
    desk.type(QStringLiteral("biome.orchard.idealX"), QStringLiteral("15"));
    QCOMPARE(ideal("orchard").x, 0.5);
    desk.tick(QStringLiteral("biome.orchard.hasIdeal"));
    QVERIFY(!acre::biomeOf(desk.document.recipe(), "orchard")->ideal);
    desk.tool("paint");
    QVERIFY(desk.chart().tool() == ChartView::Tool::Select);  // Points need no paint.
  }

  void theChartGoesByKeys() {
    ChartDesk desk(*engine_, "three-fields");
    desk.settle();
    ChartView& chart = desk.chart();
    chart.setFocus();
    QTest::keyClick(&chart, Qt::Key_Tab);
    QCOMPARE(chart.chosen(), std::string("rye"));
    QVERIFY(chart.accessibleDescription().startsWith(QStringLiteral("1 of 3, Rye")));
    QTest::keyClick(&chart, Qt::Key_Tab);
    QCOMPARE(chart.chosen(), std::string("pasture"));
    QTest::keyClick(&chart, Qt::Key_Return);  // Holds it.
    for (int k = 0; k < 5; ++k) QTest::keyClick(&chart, Qt::Key_Right);
    QCOMPARE(*desk.area("pasture").x.low, -0.2);
    QCOMPARE(*desk.area("pasture").x.high, 0.6);
    QTest::keyClick(&chart, Qt::Key_Up, Qt::ControlModifier);
    QCOMPARE(*desk.area("pasture").y.high, 0.82);
    QTest::keyClick(&chart, Qt::Key_Escape);  // Lets go, then leaves.
    QSignalSpy left(&desk.editor, &Editor::leaveRequested);
    QTest::keyClick(&chart, Qt::Key_Escape);
    QCOMPARE(left.count(), 1);
    QTest::keyClick(&chart, Qt::Key_R);
    QCOMPARE(desk.biomes().areas[0].id, std::string("pasture"));
    QTest::keyClick(&chart, Qt::Key_Left);  // The crosshair, from the middle.
    QTest::keyClick(&chart, Qt::Key_N);
    QCOMPARE(desk.biomes().areas.size(), size_t{4});
    QCOMPARE(chart.chosen(), desk.biomes().areas[0].id);
    QTest::keyClick(&chart, Qt::Key_Delete);
    QCOMPARE(desk.biomes().areas.size(), size_t{3});
  }

  void rulesAreTypedAsRanges() {
    ChartDesk desk(*engine_, "three-fields");
    desk.settle();
    QCOMPARE(desk.child<QLineEdit>("area.rye.x")->text(), QStringLiteral("3.6 … 13.2"));
    desk.type(QStringLiteral("area.rye.x"), QStringLiteral("6...12"));
    QCOMPARE(*desk.area("rye").x.low, -0.5);
    QCOMPARE(*desk.area("rye").x.high, 0.0);
    desk.type(QStringLiteral("area.rye.y"), QStringLiteral("...800"));
    QVERIFY(!desk.area("rye").y.low);
    QCOMPARE(*desk.area("rye").y.high, 0.0);
    desk.type(QStringLiteral("area.rye.y"), QStringLiteral("all"));
    QVERIFY(!desk.area("rye").y.low && !desk.area("rye").y.high);
    QSignalSpy refused(&desk.editor, &Editor::refused);
    desk.type(QStringLiteral("area.rye.x"), QStringLiteral("warm"));
    QCOMPARE(refused.count(), 1);
    QCOMPARE(desk.child<QLineEdit>("area.rye.x")->text(), QStringLiteral("6 … 12"));
    // Ranges reversed, and off the chart, are refused with their place by the recipe itself.
    QSignalSpy said(&desk.document, &Document::refused);
    desk.type(QStringLiteral("area.rye.x"), QStringLiteral("12...6"));
    desk.type(QStringLiteral("area.rye.x"), QStringLiteral("30...40"));
    QCOMPARE(said.count(), 2);
    QVERIFY(said[0][0].toString().contains(QStringLiteral("/biomes/areas/0/x")));
    QCOMPARE(*desk.area("rye").x.low, -0.5);
    desk.pick(QStringLiteral("area.rye.biome"), 2);
    QCOMPARE(desk.area("rye").biome, std::string("fallow"));
    desk.child<QToolButton>("area.fallow.up")->click();
    QCOMPARE(desk.biomes().areas[1].id, std::string("fallow"));
    desk.child<QToolButton>("area.fallow.delete")->click();
    QCOMPARE(desk.biomes().areas.size(), size_t{2});
  }

  void biomesAreEditedAndDeleted() {
    ChartDesk desk(*engine_, "saltfen-reach");
    desk.settle();
    const auto biome = [&](const char* id) { return acre::biomeOf(desk.document.recipe(), id); };
    desk.child<QLineEdit>("biome.heath.name")->setFocus();
    QTRY_COMPARE(desk.editor.chosenBiome(), std::string("heath"));
    desk.type(QStringLiteral("biome.heath.factor"), QStringLiteral("0.4"));
    desk.type(QStringLiteral("biome.heath.raise"), QStringLiteral("7"));
    desk.type(QStringLiteral("biome.heath.tags"), QStringLiteral("dry, grazing"));
    QCOMPARE(biome("heath")->relief.factor, 0.4);
    QCOMPARE(biome("heath")->relief.raise, 7.0);
    QCOMPARE(biome("heath")->tags, (std::vector<std::string>{"dry", "grazing"}));
    QSignalSpy said(&desk.document, &Document::refused);
    desk.type(QStringLiteral("biome.heath.tags"), QStringLiteral("Not A Tag"));
    QCOMPARE(said.count(), 1);
    desk.type(QStringLiteral("biome.heath.name"), QStringLiteral("Moor"));
    QCOMPARE(biome("heath")->name, std::string("Moor"));
    desk.pick(QStringLiteral("biome.heath.bands"), 0);
    QVERIFY(!biome("heath")->bands);
    desk.pick(QStringLiteral("biome.heath.bands"), 2);
    QCOMPARE(biome("heath")->bandsOf, std::string("mudflat"));
    QSignalSpy bands(&desk.editor, &BiomesEditor::bandsRequested);
    desk.pick(QStringLiteral("biome.heath.bands"), 1);
    desk.child<QPushButton>("biome.heath.editBands")->click();
    QCOMPARE(bands.count(), 1);
    const size_t areas = desk.biomes().areas.size();
    desk.child<QToolButton>("biome.scree.delete")->click();
    QVERIFY(!biome("scree"));
    QCOMPARE(desk.biomes().areas.size(), areas - 1);
    for (const acre::ObjectKind& kind : desk.document.recipe().objects->kinds)
      for (const acre::BiomeDensity& of : kind.biomes) QVERIFY(of.biome != "scree");
    desk.child<QPushButton>("biomes.add")->click();
    QCOMPARE(desk.biomes().list.size(), size_t{12});
    QCOMPARE(desk.editor.chosenBiome(), desk.biomes().list.back().id);
  }

  void slicesRegionsAndBorders() {
    ChartDesk desk(*engine_, "three-fields");
    desk.settle();
    desk.child<QPushButton>("biomes.addSlice")->click();
    QCOMPARE(desk.biomes().slices.size(), size_t{2});
    desk.child<QPushButton>("biomes.addSlice")->click();
    QCOMPARE(desk.biomes().slices.size(), size_t{3});
    desk.type(QStringLiteral("slice.slice-1.below"), QStringLiteral("5"));
    QCOMPARE(desk.biomes().slices[0].below->value, 5.0);
    desk.pick(QStringLiteral("slice.slice-1.biome"), 1);
    QCOMPARE(desk.biomes().slices[0].biome, std::string("rye"));
    desk.chart().choose("pasture");
    desk.tick(QStringLiteral("area.slice.slice-2"));
    QCOMPARE(desk.area("pasture").slices, (std::vector<std::string>{"slice-1", "slice-3"}));
    desk.child<QToolButton>("slice.slice-3.delete")->click();
    QCOMPARE(desk.area("pasture").slices, std::vector<std::string>{"slice-1"});

    desk.tick(QStringLiteral("regions.on"));
    QVERIFY(desk.biomes().regions.on);
    desk.type(QStringLiteral("regions.size"), QStringLiteral("128"));
    desk.type(QStringLiteral("regions.warp"), QStringLiteral("20"));
    desk.pick(QStringLiteral("regions.choice"), 1);
    QCOMPARE(desk.biomes().regions.choice, acre::Regions::Choice::Weights);
    QVERIFY(desk.child<QLabel>("biomes.headline")->text().contains(QStringLiteral("by weight")));
    desk.pick(QStringLiteral("regions.warpBy"), 1);
    QCOMPARE(desk.biomes().regions.warp.x, std::string("heights"));
    QCOMPARE(desk.biomes().regions.warp.z, std::string("heights"));
    desk.pick(QStringLiteral("regions.warpBy"), 0);
    QVERIFY(desk.biomes().regions.warp.z.empty());
    desk.type(QStringLiteral("border.ground"), QStringLiteral("40"));
    QCOMPARE(desk.biomes().border.ground, 40.0);
    QSignalSpy said(&desk.document, &Document::refused);
    desk.type(QStringLiteral("border.ground"), QStringLiteral("400"));
    QVERIFY(said[0][0].toString().contains(QStringLiteral("wider than a region")));
    QSignalSpy refused(&desk.editor, &Editor::refused);
    desk.type(QStringLiteral("regions.size"), QStringLiteral("0"));
    QCOMPARE(refused.count(), 1);
    QCOMPARE(desk.biomes().regions.size, 128.0);
  }

  void anEmptyStageStartsWithFour() {
    ChartDesk desk(*engine_, "first-steps");
    QVERIFY(!desk.has(QStringLiteral("biomes.add")));
    QSignalSpy asked(&desk.editor, &BiomesEditor::switchRequested);
    desk.child<QPushButton>("biomes.on")->click();
    QCOMPARE(asked.count(), 1);
    acre::Recipe recipe = desk.document.recipe();
    bool on = false;
    QVERIFY(switchStage(recipe, StageId::Biomes, on).isEmpty());
    QVERIFY(on && recipe.climate.on);  // Which it reads.
    QVERIFY(desk.document.change(QStringLiteral("on"), recipe));
    QVERIFY(!switchStage(recipe, StageId::Climate, on).isEmpty());
    desk.child<QPushButton>("biomes.addFour")->click();
    QCOMPARE(desk.biomes().list.size(), size_t{4});
    desk.settle();
    QCOMPARE(acre::censusOfSample(*desk.document.world())->biomes.size(), size_t{4});
    QTRY_VERIFY(
        desk.child<QLabel>("biomes.headline")->text().contains(QStringLiteral("world 0.0 %")));
  }

  void equaliseSaysWhatItDoesFirst() {
    ChartDesk desk(*engine_, "three-fields");
    desk.settle();
    desk.child<QPushButton>("biomes.equalise.x")->click();
    const QString told = desk.child<QLabel>("equalise.shares")->text();
    QVERIFY(told.contains(QStringLiteral("no rule")));
    desk.child<QPushButton>("equalise.take")->click();
    QCOMPARE(desk.document.undoStack().count(), 1);
    desk.settle();
    // The shares that it told are those that came.
    const auto counts = acre::chartCounts(planOf(*desk.document.world()).biomes()->chart(),
        *desk.statistics.chart()->sample, engine_->kernels(), 3);
    for (size_t i = 1; i < counts.size(); ++i) {
      const double share = static_cast<double>(counts[i]) / 655.36;
      const QString name = QString::fromStdString(desk.biomes().list[i - 1].name);
      const QString row = told.mid(told.indexOf(name));
      const QString after =
          row.mid(row.indexOf(QStringLiteral("→"))).section('>', 2, 2).section(' ', 0, 0);
      QVERIFY2(std::abs(after.toDouble() - share) < 0.7, qPrintable(row.left(200)));
    }
    desk.child<QPushButton>("biomes.equalise.x")->click();
    QVERIFY(desk.child<QLabel>("equalise.shares")->text().contains(QStringLiteral("already")));
    // A ramp in an endless world cannot be.
    ChartDesk demo(*engine_, "saltfen-reach");
    demo.settle();
    demo.child<QPushButton>("biomes.equalise.x")->click();
    QVERIFY(demo.child<QLabel>("equalise.shares")->text().contains(QStringLiteral("cannot")));
    QVERIFY(!demo.child<QPushButton>("equalise.take")->isVisible());
  }

  void climateTellsItsUnits() {
    Desk<ClimateEditor> desk(*engine_, "saltfen-reach");
    QTRY_VERIFY_WITH_TIMEOUT(desk.statistics.current(), 60000);
    QTRY_VERIFY(desk.child<QLabel>("climate.correlation")->text().startsWith(QStringLiteral("r ")));
    QCOMPARE(desk.editor.fields().field(), std::string("temperature"));
    QVERIFY(desk.editor.fields().figures().contains(QStringLiteral("°C")));
    desk.type(QStringLiteral("climate.unit"), QStringLiteral("K"));
    desk.type(QStringLiteral("climate.unitLow"), QStringLiteral("263"));
    desk.type(QStringLiteral("climate.unitHigh"), QStringLiteral("303"));
    const acre::ClimateAxis& axis = desk.document.recipe().climate.temperature;
    QCOMPARE(axis.told(0), 283.0);
    QCOMPARE(axis.unit, std::string("K"));
    QSignalSpy said(&desk.document, &Document::refused);
    desk.type(QStringLiteral("climate.low"), QStringLiteral("2"));
    QVERIFY(said.count() == 1 && said[0][0].toString().contains(QStringLiteral("above low")));
    desk.editor.fields().chooseField("moisture");
    desk.type(QStringLiteral("climate.high"), QStringLiteral("1.5"));
    QCOMPARE(desk.document.recipe().climate.moisture.high, 1.5);
    QCOMPARE(desk.document.recipe().climate.temperature.high, 1.0);
    // The same axis made of the other: they say that they go together.
    acre::Recipe recipe = desk.document.recipe();
    acre::Layer same;
    same.id = "same";
    same.source = acre::FieldSource{acre::kTemperatureId};
    recipe.climate.moisture.field.layers = {same};
    QVERIFY(desk.document.change(QStringLiteral("same"), recipe));
    QTRY_VERIFY_WITH_TIMEOUT(
        desk.child<QLabel>("climate.correlation")->text().contains(QStringLiteral("diagonal")),
        60000);
  }

  /// Shares of the drawer are those of the census; a long count can be stopped and says how far.
  void theCensusCountsWhatIsAsked() {
    Document document(*engine_);
    QVERIFY(document.open(
        acre::loadRecipe("patchwork-parish").value(), {}, QStringLiteral("patchwork-parish")));
    CensusDrawer drawer(document);
    drawer.resize(392, 640);
    MapGeometry geometry;
    geometry.size = {400, 300};
    drawer.setView(geometry, {});
    present(drawer);
    QTRY_VERIFY_WITH_TIMEOUT(drawer.census().has_value(), 60000);
    const auto expected = *acre::censusOf(*document.world(), {-200, -150, 401, 301});
    QCOMPARE(drawer.census()->cells, expected.cells);
    double sum = 0;
    for (const acre::BiomeShare& share : drawer.census()->biomes) sum += share.share;
    QCOMPARE(sum, 1.0);
    QTableWidget& table = drawer.table();
    QCOMPARE(table.rowCount(), 7);
    // Sorted by share, the largest first; by name on request.
    QCOMPARE(table.item(0, 1)->text().split(' ').front().toDouble(),
        std::round(std::max_element(expected.biomes.begin(), expected.biomes.end(),
                       [](const auto& a, const auto& b) { return a.share < b.share; })
                       ->share *
                   1000) /
            10);
    table.sortItems(0);
    QCOMPARE(table.item(0, 0)->text(), QStringLiteral("Barley strip"));
    QSignalSpy lit(&drawer, &CensusDrawer::biomeLit);
    table.selectRow(0);
    QCOMPARE(lit.back()[0].toInt(), 3);
    QVERIFY(drawer.findChild<QLabel*>("census.neighbours")
                ->text()
                .contains(QStringLiteral("borders on")));
    QVERIFY(drawer.findChild<QLabel*>("census.regions")
                ->text()
                .contains(QStringLiteral("regions wholly inside")));
    auto* of = drawer.findChild<Choice*>("census.of");
    of->setCurrentIndex(2);
    emit of->activated(2);
    auto* area = drawer.findChild<QLineEdit*>("census.area");
    area->setText(QStringLiteral("1000000, −7, 20 x 30"));
    emit area->returnPressed();
    QTRY_VERIFY(drawer.census() && drawer.census()->cells == 600);
    QSignalSpy command(&drawer, &CensusDrawer::commandRequested);
    drawer.findChild<QPushButton*>("census.copy")->click();
    QCOMPARE(command[0][0].toString(), QStringLiteral("1000000,-7,20x30"));
    area->setText(QStringLiteral("here"));
    emit area->returnPressed();
    QVERIFY(
        drawer.findChild<QLabel*>("census.summary")->text().contains(QStringLiteral("is no area")));
    area->setText(QStringLiteral("0, 0, 16000x16000"));
    emit area->returnPressed();
    QVERIFY(drawer.counting());
    drawer.hide();  // Which ends it.
    QVERIFY(!drawer.counting());
  }

  void legendsSayWhatColoursMean() {
    LegendCard legend;
    const auto world = *engine_->compile(acre::loadRecipe("patchwork-parish").value());
    legend.setEntries(acre::legendOf(*world, {acre::PictureKind::Biome, {}, {}, false}));
    QVERIFY(legend.accessibleDescription().contains(QStringLiteral("Hay meadow")));
    QVERIFY(
        legend.accessibleDescription().contains(QStringLiteral("blend over 12 cells of ground")));
    const auto demo = *engine_->compile(acre::loadRecipe("saltfen-reach").value());
    legend.setEntries(acre::legendOf(*demo, {acre::PictureKind::Biome, {}, {}, false}));
    QVERIFY(legend.accessibleDescription().contains(QStringLiteral("5 % of the chart")));
  }
};

ACRE_SUITE(BiomesTest)
#include "biomes_test.moc"
