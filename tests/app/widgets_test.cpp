#include <QApplication>
#include <QPainter>
#include <QSignalSpy>
#include <QWheelEvent>
#include <QtTest>
#include <random>

#include "app/desk.h"
#include "app/document/autosave.h"
#include "app/document/document.h"
#include "app/document/probe.h"
#include "app/document/seed_history.h"
#include "app/document/statistics.h"
#include "app/document/worker.h"
#include "app/edit/arithmetic.h"
#include "app/edit/heights_editor.h"
#include "app/edit/number_field.h"
#include "app/edit/shape.h"
#include "app/edit/strata_editor.h"
#include "app/look/look.h"
#include "app/map/geometry.h"
#include "app/map/tile_store.h"
#include "app/window/drawers.h"
#include "app/window/stage_strip.h"
#include "dry.h"
#include "recipe/cave_recipe.h"
#include "suite.h"
#include "world/demos.h"
#include "world/fingerprint.h"

using namespace app;

class WidgetsTest : public QObject {
  Q_OBJECT

  std::unique_ptr<acre::Engine> engine_;

 private slots:
  void initTestCase() {
    look::apply(*qApp, false);
    acre::EngineOptions options;
    options.threads = 2;
    engine_ = std::move(acre::Engine::create(options)).value();
  }

  /// A thin colour in bands is the same as at once, whatever the screen's pixels are.
  void thinColoursAreFilledWhole() {
    for (const double scale : {1.0, 1.5, 2.0, 3.0}) {
      QImage once(260, 400, QImage::Format_RGB32);
      once.setDevicePixelRatio(scale);
      once.fill(QColor(20, 90, 140));
      QImage bands = once;
      const QColor thin(240, 230, 210, 107);
      QPainter p(&once), q(&bands);
      // Tall, flat, a pixel wide, over the edge, as tall as a band and one more, empty.
      for (const QRect& area : {QRect(3, -7, 40, 500), QRect(0, 5, 300, 1), QRect(60, 2, 1, 390),
               QRect(70, 0, 5, 64), QRect(80, 0, 5, 65), QRect(90, 10, 5, 0)}) {
        p.fillRect(area, thin);
        look::fillThin(q, area, thin);
      }
      p.end();
      q.end();
      QCOMPARE(bands, once);
      const int within = static_cast<int>(10 * scale);
      QVERIFY(once.pixelColor(within, within) != QColor(20, 90, 140));
    }
  }

  void arithmeticIsThatOfPeople_data() {
    QTest::addColumn<QString>("text");
    QTest::addColumn<double>("value");
    QTest::newRow("plain") << "96" << 96.0;
    QTest::newRow("unit") << "96 cells" << 96.0;
    QTest::newRow("real minus") << "−3.5" << -3.5;
    QTest::newRow("order") << "2+3*4" << 14.0;
    QTest::newRow("left to right") << "7-2-1" << 4.0;
    QTest::newRow("parentheses") << "2*(48+1)" << 98.0;
    QTest::newRow("sign") << "-(2)*-3" << 6.0;
    QTest::newRow("times") << "3 × 4" << 12.0;
    QTest::newRow("half") << "96/2" << 48.0;
    QTest::newRow("per cent") << "40 %" << 0.4;
    QTest::newRow("exponent") << "1e3" << 1000.0;
    QTest::newRow("grouped") << "2,000,000,000" << 2e9;
    QTest::newRow("grouped, with a fraction") << "12,500.25" << 12500.25;
    QTest::newRow("decimal comma") << "0,5" << 0.5;
    QTest::newRow("decimal comma alone") << ",25" << 0.25;
    QTest::newRow("decimal comma of thousandths") << "0,125" << 0.125;
    QTest::newRow("decimal commas in a sum") << "1,5 + 2,25 cells" << 3.75;
  }
  void arithmeticIsThatOfPeople() {
    QFETCH(QString, text);
    QFETCH(double, value);
    const auto result = evaluate(text);
    QVERIFY(result.has_value());
    QCOMPARE(*result, value);
  }
  void widthsAreGivenByTheirFrequencyToo() {
    NumberSpec spec{{1, 1e6}, 1, true, false, QStringLiteral("cells")};
    spec.feature = true;
    NumberField field(spec, QStringLiteral("width"));
    field.setToolTip(QStringLiteral("Width."));
    field.setValue(96);
    QVERIFY(field.help().contains(QStringLiteral("0.01042 features per cell")));
    QSignalSpy edited(&field, &NumberField::edited), refused(&field, &NumberField::refused);
    const auto type = [&](const QString& text) {
      field.selectAll();
      QTest::keyClicks(&field, text);
      QTest::keyClick(&field, Qt::Key_Return);
    };
    type(QStringLiteral("0.02 per cell"));
    QCOMPARE(field.value(), 50.0);
    type(QStringLiteral("(1/8) / cell"));
    QCOMPARE(field.value(), 8.0);
    type(QStringLiteral("0 per cell"));
    type(QStringLiteral("4 per cell"));  // A quarter of a cell is out of range.
    QCOMPARE(refused.size(), 2);
    QCOMPARE(field.value(), 8.0);
    // Other numbers have no frequency: the unit behind them says nothing.
    spec.feature = false;
    NumberField plain(spec, QStringLiteral("length"));
    plain.setValue(10);
    QCOMPARE(plain.help(), plain.toolTip());
  }

  /// Of many questions the first is answered, and the last; nobody waits for those between.
  void aProbeAnswersTheNewestQuestion() {
    Probe<int> probe(engine_->executor());
    std::atomic<int> asked = 0;
    std::vector<int> heard;
    std::atomic<bool> go = false;
    for (int k = 0; k < 50; ++k)
      probe.ask(
          [&, k] {
            ++asked;
            while (!go) std::this_thread::yield();
            return k;
          },
          [&](const int& answer) { heard.push_back(answer); });
    QVERIFY(!probe.settled());
    go = true;
    QTRY_VERIFY(probe.settled());
    QCOMPARE(heard, (std::vector<int>{0, 49}));
    QCOMPARE(asked.load(), 2);
    probe.ask([] { return 7; }, [&](const int& answer) { heard.push_back(answer); });
    probe.forget();
    QTRY_VERIFY(probe.settled());
    QCOMPARE(heard.size(), size_t{2});
  }

  /// A new job is begun at once, however long the one before takes to notice that it is stopped.
  void aWorkerDoesNotWait() {
    std::atomic<bool> noticed = false, let = false, second = false;
    {
      Worker worker;
      worker.start([&](const std::stop_token& stop) {
        while (!stop.stop_requested() || !let) std::this_thread::yield();
        noticed = true;
      });
      worker.start([&](const std::stop_token&) { second = true; });
      QTRY_VERIFY(second.load());
      QVERIFY(!noticed);
      let = true;
    }
    QVERIFY(noticed);  // Gone only when all have ended.
  }

  /// The same controls for other numbers and names; others for what is switched, added or chosen.
  void shapesTellWhichControlsThereAre() {
    const acre::Recipe recipe = acre::loadRecipe("swallet-edge").value();
    const acre::Tunnels tunnels = recipe.caves->tunnels.front();
    acre::Tunnels other = tunnels;
    other.gap += 1;
    other.arms += 1;
    QCOMPARE(shapeOf(other), shapeOf(tunnels));
    other.on = !other.on;
    QVERIFY(shapeOf(other) != shapeOf(tunnels));
    acre::Layer layer = recipe.heights.layers.front();
    const std::string before = shapeOf(layer);
    layer.name = "Renamed";
    layer.amplitude = 3;
    QCOMPARE(shapeOf(layer), before);
    layer.warp.emplace();
    QVERIFY(shapeOf(layer) != before);
    acre::LevelProcess process{"a", "A", true, acre::FilledAutomaton{}};
    const std::string automaton = shapeOf(process);
    process.what = acre::DiggingWalks{};
    QVERIFY(shapeOf(process) != automaton);
  }

  /// Ten drawers in the lowest window: the rail turns, and who tabs to the last sees it.
  void aRailOfTenDrawersTurns() {
    QWidget window;
    window.resize(300, 500);
    auto* row = new QHBoxLayout(&window);
    auto* over = new QWidget;
    auto* drawers = new Drawers(over);
    row->addWidget(drawers);
    row->addWidget(over, 1);
    std::vector<std::string> names;
    for (const DrawerDef& def : allDrawers()) names.push_back(def.name);
    for (const char* more : {"objects", "tiles", "judge"}) names.push_back(more);
    QCOMPARE(names.size(), size_t{10});
    for (const std::string& name : names) {
      const DrawerDef def{name.c_str(), "Landmarks", "What it is.", 300, 0, false, nullptr};
      drawers->add(def, new QWidget);
    }
    present(window);
    auto* reel = drawers->findChild<Reel*>();
    QVERIFY(reel->overflows());
    auto* last = drawers->findChild<RailButton*>(QStringLiteral("rail.judge"));
    const auto seen = [&] {
      return !last->visibleRegion().isEmpty() &&
             last->visibleRegion().boundingRect() == last->rect();
    };
    QVERIFY(!seen());
    last->setFocus();
    QVERIFY(seen());
    QVERIFY(drawers->findChild<QToolButton*>(QStringLiteral("reel.up"))->isEnabled());
    last->click();
    QCOMPARE(drawers->shown(), QStringLiteral("judge"));
    window.resize(300, 1200);
    QTRY_VERIFY(!reel->overflows());
    QVERIFY(drawers->findChild<QToolButton*>(QStringLiteral("reel.up"))->isHidden());
  }

  /// Nine tiles fit into the narrowest window, with name, note and mark in sight.
  void nineTilesFitIntoTheNarrowestWindow() {
    QWidget window;
    window.setFixedSize(1024, 60);
    auto* row = new QHBoxLayout(&window);
    row->setContentsMargins(0, 0, 0, 0);
    row->setSpacing(0);
    std::vector<StageTile*> tiles;
    for (int k = 0; k < 9; ++k) {
      tiles.push_back(new StageTile(QStringLiteral("Heights"), &window));
      tiles.back()->setFound(12);
      row->addWidget(tiles.back());
    }
    row->addStretch(1);
    present(window);
    for (const StageTile* tile : tiles) {
      QVERIFY(tile->width() >= StageTile::kNarrowest && tile->geometry().right() < 1024);
      const int words =
          QFontMetrics(look::font(look::Type::Body)).horizontalAdvance(QStringLiteral("Heights"));
      QVERIFY(tile->nameRoom() >= words);
      QVERIFY(tile->rect().contains(tile->markRect()));
    }
  }

  void nonsenseIsNoNumber() {
    for (const QString& text :
        {QString(), QStringLiteral("cells"), QStringLiteral("1/0"), QStringLiteral("2*"),
            QStringLiteral("(1"), QStringLiteral("1)"), QStringLiteral("nan"),
            QStringLiteral("inf"), QStringLiteral("1 2"), QStringLiteral("1,"),
            QStringLiteral("1,2,3"), QStringLiteral("1,00,000"), QStringLiteral("1.5,2"),
            QString(5000, QLatin1Char('(')), QString(5000, QLatin1Char('-'))})
      QVERIFY2(!evaluate(text), qPrintable(text.left(20)));
  }

  void numbersPrintAsPeopleWriteThem() {
    QCOMPARE(look::number(0.1), QStringLiteral("0.1"));
    QCOMPARE(look::number(-5), QStringLiteral("−5"));
    QCOMPARE(look::number(4294967296.0), QStringLiteral("4294967296"));
    QCOMPARE(look::wholeNumber(-2'000'000'000), QStringLiteral("−2,000,000,000"));
    QCOMPARE(look::percent(0.4123), QStringLiteral("41.2 %"));
  }

  void fieldTakesTypedNumbers() {
    NumberField field({{0, 100}, 1, false, false, QStringLiteral("cells")}, QStringLiteral("f"));
    field.setValue(10);
    field.setReference(10);
    field.show();
    QSignalSpy edited(&field, &NumberField::edited), refused(&field, &NumberField::refused);
    field.setFocus();
    field.selectAll();
    QTest::keyClicks(&field, "3*7");
    QTest::keyClick(&field, Qt::Key_Return);
    QCOMPARE(field.value(), 21.0);
    QCOMPARE(edited.size(), 1);
    QCOMPARE(field.text(), QStringLiteral("21 cells"));
    for (const char* bad : {"101", "-1", "many"}) {
      field.selectAll();
      QTest::keyClicks(&field, bad);
      QTest::keyClick(&field, Qt::Key_Return);
      QCOMPARE(field.value(), 21.0);
      QCOMPARE(field.text(), QStringLiteral("21 cells"));
    }
    QCOMPARE(refused.size(), 3);
    QVERIFY(refused[0][0].toString().contains(QStringLiteral("0 to 100")));
    QTest::keyClick(&field, Qt::Key_Backspace, Qt::ControlModifier);
    QCOMPARE(field.value(), 10.0);
  }

  void fieldStepsDragsAndRestores() {
    NumberField field({{0, 1000}, 1, false, true, {}}, QStringLiteral("f"));
    field.resize(120, 24);
    field.setValue(50);
    field.setReference(50);
    field.show();
    field.setFocus();
    QTest::keyClick(&field, Qt::Key_Up);
    QCOMPARE(field.value(), 51.0);
    QTest::keyClick(&field, Qt::Key_Down, Qt::ShiftModifier);
    QCOMPARE(field.value(), 41.0);
    QSignalSpy ended(&field, &NumberField::gestureEnded);
    QTest::mousePress(&field, Qt::LeftButton, {}, {40, 12});
    for (int x = 45; x <= 80; x += 5) QTest::mouseMove(&field, {x, 12});
    QTest::mouseRelease(&field, Qt::LeftButton, {}, {80, 12});
    QCOMPARE(field.value(), 61.0);
    QCOMPARE(ended.size(), 1);
    QTest::mouseClick(&field, Qt::LeftButton, {}, {110, 12});  // The restoring sign.
    QCOMPARE(field.value(), 50.0);
    // A drag ended by Esc leaves nothing.
    QTest::mousePress(&field, Qt::LeftButton, {}, {40, 12});
    QTest::mouseMove(&field, {60, 12});
    QVERIFY(field.value() != 50.0);
    QTest::keyClick(&field, Qt::Key_Escape);
    QCOMPARE(field.value(), 50.0);
    QTest::mouseRelease(&field, Qt::LeftButton, {}, {60, 12});
    // The plain wheel belongs to the column, Alt and the wheel to the number.
    const auto wheel = [&](Qt::KeyboardModifiers keys) {
      QWheelEvent e(QPointF(5, 5), field.mapToGlobal(QPointF(5, 5)), {}, {0, 120}, {}, keys,
          Qt::NoScrollPhase, false);
      QApplication::sendEvent(&field, &e);
    };
    wheel({});
    QCOMPARE(field.value(), 50.0);
    wheel(Qt::AltModifier);
    QCOMPARE(field.value(), 51.0);
  }

  void seedHistoryLosesNothing() {
    SeedHistory history;
    for (const char* s : {"a", "b", "c"}) history.visit(QLatin1String(s));
    QCOMPARE(history.earlier(), QStringLiteral("b"));
    history.visit(QStringLiteral("b"));
    QCOMPARE(history.later(), QStringLiteral("c"));
    history.visit(QStringLiteral("d"));  // From the middle: appended, c stays.
    QCOMPARE(history.seeds(), QStringList({"a", "b", "c", "d"}));
    QCOMPARE(history.earlier(), QStringLiteral("c"));
    QVERIFY(history.later().isNull());
  }

  void geometryIsExactFarOut() {
    for (const int64_t origin :
        {int64_t{0}, int64_t{2'000'000'000}, int64_t{-2'000'000'000}, int64_t{1} << 59}) {
      MapGeometry g;
      g.size = {800, 600};
      for (const double scale : {1.0 / 32, 0.37, 1.0, 2.0, 100.0}) {
        g.centre = {{origin, -origin}, 0.25, 0.75};
        g.cellsPerPixel = scale;
        for (const QPointF p : {QPointF(0, 0), QPointF(799, 1), QPointF(400.5, 300)}) {
          const Place place = g.toWorld(p);
          const QPointF back = g.toScreen(place.cell, place.fx, place.fz);
          QVERIFY(std::abs(back.x() - p.x()) < 1e-6 && std::abs(back.y() - p.y()) < 1e-6);
        }
      }
    }
    MapGeometry g;
    g.cellsPerPixel = 1;
    QCOMPARE(g.level(), 0);
    g.cellsPerPixel = 1.01;
    QCOMPARE(g.level(), 1);
    g.cellsPerPixel = 0.1;
    QCOMPARE(g.level(), 0);
    g.cellsPerPixel = 4096;
    QCOMPARE(g.level(), 12);
  }

  void tilesHoldTheWorldsPixels() {
    const auto recipe = dryDemo("saltfen-reach");
    const auto world = engine_->compile(recipe).value();
    TileStore store(*engine_);
    MapGeometry g;
    g.size = {500, 300};
    g.cellsPerPixel = 2;
    g.centre.cell = {2'000'000'000, -77};
    store.show(world, {}, {});
    store.look(g);
    QTRY_VERIFY(store.current() && store.pending() == 0);
    QVERIFY(store.tiles().size() >= 4);
    const acre::Palette palette(*world, {});
    for (const auto& [key, tile] : store.tiles()) {
      const int64_t side = int64_t{256} << key.level;
      const auto samples =
          acre::sampleWithRim(*world, {}, {key.tx * side, key.tz * side, 2, 256, 256}).value();
      std::vector<uint32_t> row(256);
      for (int32_t j = 0; j < 256; j += 17) {
        palette.paintRow(samples, j, acre::Unassigned::Transparent, row.data());
        QVERIFY(std::equal(row.begin(), row.end(),
            reinterpret_cast<const uint32_t*>(tile.image.constScanLine(j))));
      }
    }
    // The coarse picture takes every eighth of the same samples.
    const auto& coarse = store.coarse();
    QCOMPARE(coarse.step, int64_t{16});
    QVERIFY(!coarse.image.isNull());
  }

  void undoRestoresBitForBit() {
    Document document(*engine_);
    QVERIFY(document.open(dryDemo("saltfen-reach"), {}));
    const acre::Recipe start = document.recipe();
    const acre::Digest print = acre::worldFingerprint(*document.world());
    std::mt19937 random(17);
    int taken = 0, refused = 0;
    for (int i = 0; i < 1000; ++i) {
      acre::Recipe next = document.recipe();
      switch (random() % 6) {
        case 0:
          next.seed = std::to_string(random());
          break;
        case 1:
          next.frame.seaLevel += static_cast<double>(random() % 7) - 3;
          break;
        case 2:
          if (!next.heights.layers.empty())
            next.heights.layers.erase(next.heights.layers.begin() +
                                      static_cast<int>(random() % next.heights.layers.size()));
          break;
        case 3: {
          acre::Layer layer;
          layer.id = "r-" + std::to_string(i);
          acre::NoiseSource source;
          source.width =
              1.0 / static_cast<double>(random() % 40);  // Sometimes too fine, once infinite.
          source.octaves = 1;
          layer.source = source;
          if (next.heights.layers.size() < 20) next.heights.layers.push_back(layer);
          break;
        }
        case 4:
          next.bands.front().material = "nothing";
          break;  // Always refused.
        default:
          next.frame.chunkSize = 1 + static_cast<int>(random() % 64);
      }
      const acre::Recipe before = document.recipe();
      const int count = document.undoStack().count();
      if (document.change(QStringLiteral("edit %1").arg(i), next))
        ++taken;
      else {
        ++refused;
        QVERIFY(document.recipe() == before);
        QCOMPARE(document.undoStack().count(), count);
      }
    }
    QVERIFY(taken > 500 && refused > 50);
    const acre::Recipe end = document.recipe();
    while (document.undoStack().canUndo()) document.undoStack().undo();
    QVERIFY(document.recipe() == start);
    QCOMPARE(acre::worldFingerprint(*document.world()), print);
    QVERIFY(!document.modified());
    while (document.undoStack().canRedo()) document.undoStack().redo();
    QVERIFY(document.recipe() == end);
  }

  void oneGestureIsOneStep() {
    Document document(*engine_);
    const auto sea = [&](double level) {
      acre::Recipe r = document.recipe();
      r.frame.seaLevel = level;
      return document.change(QStringLiteral("Sea level"), r, QStringLiteral("sea"));
    };
    for (const double level : {1.0, 2.0, 3.0}) QVERIFY(sea(level));
    QCOMPARE(document.undoStack().count(), 1);
    document.endGesture();
    QVERIFY(sea(4));
    QCOMPARE(document.undoStack().count(), 2);
    document.undoStack().undo();
    QCOMPARE(document.recipe().frame.seaLevel, 3.0);
    document.undoStack().undo();
    QCOMPARE(document.recipe().frame.seaLevel, 0.0);
  }

  void savedWorldsReopenEqual() {
    QTemporaryDir dir;
    Document document(*engine_);
    acre::Recipe recipe = document.recipe();
    recipe.frame.seaLevel = 1.0 / 3;
    QVERIFY(document.change(QStringLiteral("Sea"), recipe));
    QVERIFY(document.modified());
    QVERIFY(!document.save(dir.path()).ok());
    QVERIFY(document.modified());
    const QString file = dir.filePath(QStringLiteral("w.acre"));
    QVERIFY(document.save(file).ok());
    QVERIFY(!document.modified());
    QVERIFY(*acre::readRecipeFile(file.toStdString()) == recipe);
  }

  void inkIsReadable_data() {
    QTest::addColumn<bool>("night");
    QTest::newRow("day") << false;
    QTest::newRow("night") << true;
  }
  /// Contrast after WCAG 2.1: text at least 4.5, lines and marks at least 3.
  void inkIsReadable() {
    QFETCH(bool, night);
    look::apply(*qApp, night);
    const auto luminance = [](const QColor& c) {
      const auto linear = [](double v) {
        return v <= 0.04045 ? v / 12.92 : std::pow((v + 0.055) / 1.055, 2.4);
      };
      return 0.2126 * linear(c.redF()) + 0.7152 * linear(c.greenF()) + 0.0722 * linear(c.blueF());
    };
    const auto contrast = [&](const QColor& a, const QColor& b) {
      const double la = luminance(a), lb = luminance(b);
      return (std::max(la, lb) + 0.05) / (std::min(la, lb) + 0.05);
    };
    const look::Tokens& t = look::tokens();
    for (const QColor& ground : {t.paper, t.sheet}) {
      for (const QColor& text : {t.ink, t.soft, t.madder, t.verdigris})
        QVERIFY(contrast(text, ground) >= 4.5);
      for (const QColor& mark : {t.ochre, t.edge}) QVERIFY(contrast(mark, ground) >= 3);
    }
    QVERIFY(contrast(t.ink, t.chosen) >= 4.5);
    look::apply(*qApp, false);
  }

  void zoomKeepsThePlaceUnderThePointer() {
    MapGeometry g;
    g.size = {640, 480};
    g.centre = {{-2'000'000'000, 3}, 0.5, 0.5};
    g.cellsPerPixel = 8;
    const acre::Rect cells = g.cells();
    QVERIFY(cells.contains(g.toWorld({0, 0}).cell) && cells.contains(g.toWorld({639, 479}).cell));
    QVERIFY(cells.width < 640 * 8 + 8);
  }

  void placesStopAtTheEndOfTheWorld() {
    Place place;
    for (int i = 0; i < 100; ++i) place.moveBy(1e17, -1e17);
    QVERIFY(place.cell.x < acre::kMaxCell && place.cell.z > -acre::kMaxCell);
    place.moveBy(-0.25, 0.25);
    QVERIFY(place.fx >= 0 && place.fx < 1 && place.fz >= 0 && place.fz < 1);
  }

  void logarithmicFieldsStepByPerCent() {
    NumberField field({acre::limits::width, 1, true, false, {}}, QStringLiteral("w"));
    field.show();
    field.setFocus();
    for (const double start : {0.03125, 1.0, 96.0, 4e9}) {
      field.setValue(start);
      QTest::keyClick(&field, Qt::Key_Up);
      QVERIFY(field.value() > start && field.value() < start * 1.02);
    }
    field.setValue(4294967296.0);
    QTest::keyClick(&field, Qt::Key_Up, Qt::ShiftModifier);
    QCOMPARE(field.value(), 4294967296.0);  // The end of the range holds.
    NumberField whole({{1, 1024}, 1, true, true, {}}, QStringLiteral("n"));
    whole.show();
    whole.setFocus();
    whole.setValue(1);
    for (int i = 2; i < 30; ++i) {
      QTest::keyClick(&whole, Qt::Key_Up);  // Small whole numbers step by one, never by nothing.
      QCOMPARE(whole.value(), double(i));
    }
  }

  void draggingNeverLeavesTheRangeAndRoundsReadably() {
    NumberField field({{-5, 5}, 0.5, false, false, {}}, QStringLiteral("f"));
    field.resize(100, 24);
    field.show();
    field.setValue(0.1);
    QSignalSpy edited(&field, &NumberField::edited);
    QTest::mousePress(&field, Qt::LeftButton, {}, {50, 12});
    for (int x = 50; x < 400; x += 3) QTest::mouseMove(&field, {x, 12});
    for (int x = 400; x > -400; x -= 7) QTest::mouseMove(&field, {x, 12});
    QTest::mouseRelease(&field, Qt::LeftButton, {}, {-400, 12});
    QCOMPARE(field.value(), -5.0);
    QVERIFY(edited.size() > 8);
    for (const auto& e : edited) {
      const double v = e[0].toDouble();
      QVERIFY(v >= -5 && v <= 5);
      QVERIFY(QString::number(v, 'g', 12).size() <= 6);
    }
  }

  /// The old picture stays until the new coarse one is whole, and nothing of the old world comes
  /// after it.
  void theOldPictureStaysUntilTheNewOneIsThere() {
    acre::EngineOptions idle;  // No workers: pictures are made when the test says so.
    const auto engine = std::move(acre::Engine::create(idle)).value();
    const auto run = [&] {
      while (engine->executor().runOne()) QCoreApplication::processEvents();
      QCoreApplication::processEvents();
    };
    acre::Recipe recipe = dryDemo("saltfen-reach");
    MapGeometry g;
    g.size = {300, 200};
    TileStore store(*engine);
    store.show(engine->compile(recipe).value(), {acre::PictureKind::Material, {}, {}}, {});
    store.look(g);
    QVERIFY(!store.current());
    run();
    QVERIFY(store.current());
    QCOMPARE(store.pending(), 0);
    const size_t count = store.tiles().size();
    const QImage old = store.tiles().begin()->second.image;
    recipe.seed = "other";
    store.show(engine->compile(recipe).value(), {acre::PictureKind::Material, {}, {}}, {});
    QVERIFY(!store.current());
    QCOMPARE(store.tiles().size(), count);
    QVERIFY(store.tiles().begin()->second.image == old);
    recipe.seed = "third";  // Overtaken: the second never shows.
    const auto third = engine->compile(recipe).value();
    store.show(third, {acre::PictureKind::Material, {}, {}}, {});
    engine->executor().runOne();
    engine->executor().runOne();
    run();
    QVERIFY(store.current());
    const acre::Palette palette(*third, {acre::PictureKind::Material, {}, {}});
    for (const auto& [key, tile] : store.tiles()) {
      const auto samples =
          acre::sampleWithRim(*third, {}, {key.tx * 256, key.tz * 256, 1, 256, 256}).value();
      std::vector<uint32_t> row(256);
      palette.paintRow(samples, 128, acre::Unassigned::Transparent, row.data());
      QVERIFY(std::equal(row.begin(), row.end(),
          reinterpret_cast<const uint32_t*>(tile.image.constScanLine(128))));
    }
  }

  void tilesKeepToTheBudget() {
    acre::EngineOptions small;
    small.memoryLimit = 6 * 256 * 256 * 4;
    const auto engine = std::move(acre::Engine::create(small)).value();
    TileStore store(*engine);
    MapGeometry g;
    g.size = {500, 250};
    store.show(engine->compile(dryDemo("saltfen-reach")).value(), {}, {});
    for (int i = 0; i < 40; ++i) {
      g.centre.cell = {i * 200, i * 90};
      store.look(g);
      while (engine->executor().runOne()) {
      }
      QCoreApplication::processEvents();
      QVERIFY(engine->budget().used() <= engine->budget().limit());
      // Tiles of earlier views make way: that of the middle is always there.
      const TileStore::Key middle{
          0, acre::floorDiv(i * 200, TileStore::kTile), acre::floorDiv(i * 90, TileStore::kTile)};
      QVERIFY2(store.tiles().contains(middle), qPrintable(QString::number(i)));
      uint64_t bytes = 0;
      for (const auto& [key, tile] : store.tiles())
        bytes += static_cast<uint64_t>(tile.image.sizeInBytes());
      QVERIFY(bytes > 0 && bytes <= engine->budget().used());
    }
  }

  void sharesAddUp() {
    Document document(*engine_);
    QVERIFY(document.open(dryDemo("saltfen-reach"), {}));
    Statistics statistics(document);
    StrataEditor editor(document, statistics);
    QTRY_VERIFY_WITH_TIMEOUT(statistics.distribution() && statistics.current(), 60000);
    editor.refresh();
    double sum = 0;
    for (const auto& band : document.recipe().bands)
      sum += editor
                 .findChild<QLabel*>(
                     QStringLiteral("band.%1.share").arg(QString::fromStdString(band.id)))
                 ->text()
                 .split(' ')
                 .front()
                 .toDouble();
    QVERIFY2(std::abs(sum - 100) < 0.5,
        qPrintable(QString::number(sum)));  // Eight roundings to a tenth.
    // Every threshold reads as a sentence.
    QStringList sentences;
    for (const auto& stake : editor.histogram().stakes()) sentences << stake.words;
    QVERIFY(sentences.join('\n').contains(QStringLiteral("below sea level = Shallow water · ")));
    QVERIFY(sentences.join('\n').contains(QStringLiteral("below sea + 24 = Beechwood · ")));
    QVERIFY(sentences.back().endsWith(QStringLiteral("holds its value")));
  }

  /// What was measured of a layer is what the command prints, and checks arrive with their mends.
  void figuresAndChecksArrive() {
    Document document(*engine_);
    Statistics statistics(document);
    acre::Recipe recipe = dryDemo("first-steps");
    recipe.heights.layers[2].sampling = acre::SamplingOffset{0, 0, false};
    std::get<acre::NoiseSource>(recipe.heights.layers[2].source).width = 1;
    QVERIFY(document.open(recipe, {}));
    HeightsEditor editor(document, statistics);
    editor.waves().choose("bumps");
    QTRY_VERIFY_WITH_TIMEOUT(statistics.current(), 60000);
    const auto* figures = statistics.figures("heights", "land");
    QVERIFY(figures && figures->low < -5 && figures->high > 5 && figures->nanosPerCell > 0);
    QCOMPARE(statistics.checks().size(), size_t{1});
    QCOMPARE(statistics.checks()[0].id, std::string("flat"));
    auto* fault = editor.findChild<QLabel*>(QStringLiteral("heights.fault"));
    QVERIFY(fault->text().contains(QStringLiteral("width 1 samples only lattice points")));
    editor.findChild<QPushButton*>(QStringLiteral("heights.mend"))->click();
    QCOMPARE(document.recipe().heights.layers[2].sampling->x, 0.5);
    QTRY_VERIFY_WITH_TIMEOUT(statistics.current() && statistics.checks().empty() == false, 60000);
    QCOMPARE(statistics.checks()[0].id,
        std::string("aliasing"));  // Flat no more, but still static.
  }

  /// A world that was not measured is none that was, though it may stand where that one stood.
  void figuresBelongToTheirWorld() {
    Document document(*engine_);
    Statistics statistics(document);
    QVERIFY(document.open(dryDemo("first-steps"), {}));
    QTRY_VERIFY(statistics.current());
    for (int n = 0; n < 100; ++n) {
      acre::Recipe next = document.recipe();
      next.seed = "world " + std::to_string(n);
      QVERIFY(document.change(QStringLiteral("Seed"), next, QStringLiteral("seed")));
      document.finish();
      QVERIFY2(!statistics.current(), qPrintable(QString::number(n)));
    }
    QTRY_VERIFY(statistics.current());
  }

  /// A copy outlives a killed program; one of a program that still runs is left alone.
  void autosaveSurvivesAKill() {
    QTemporaryDir folder;
    const QString copies = folder.filePath(QStringLiteral("unsaved"));
    Document document(*engine_);
    {
      Autosave autosave(document, copies, 10);
      acre::Recipe next = document.recipe();
      next.seed = "kept";
      QVERIFY(document.change(QStringLiteral("Seed"), next));
      QTRY_COMPARE_WITH_TIMEOUT(
          QDir(copies).entryList({QStringLiteral("unsaved-*.acre")}, QDir::Files).size(), 1, 60000);
      QVERIFY(!autosave.findLost().newest);  // Its program, this one, runs.
    }
    // As a killed program would leave it: under a number that no program has.
    const QString own =
        copies + '/' +
        QDir(copies).entryList({QStringLiteral("unsaved-*.acre")}, QDir::Files).front();
    const QString lost = copies + QStringLiteral("/unsaved-999999999.acre");
    QVERIFY(QFile::rename(own, lost));
    QFile broken(copies + QStringLiteral("/unsaved-999999998.acre"));
    QVERIFY(broken.open(QIODevice::WriteOnly));
    broken.write("# file \n{ half");
    broken.close();
    Document second(*engine_);
    Autosave finder(second, copies, 10);
    const auto left = finder.findLost();
    const auto& found = left.newest;
    QVERIFY(found.has_value());
    QVERIFY2(left.fault.contains(broken.fileName()), qPrintable(left.fault));
    QCOMPARE(found->recipe.seed, std::string("kept"));
    QVERIFY(second.recover(found->recipe, found->file));
    QVERIFY(second.modified());
    QCOMPARE(second.recipe().seed, std::string("kept"));
    second.undoStack().undo();
    QCOMPARE(second.recipe(), newRecipe());
    finder.adopt(*found);  // It goes on as the own copy: at no moment there is none.
    QVERIFY(!QFile::exists(lost));
    QVERIFY(QFile::exists(own));
    QVERIFY(!finder.findLost().newest);
    // Nothing unsaved: no copy.
    second.undoStack().redo();
    QTRY_VERIFY_WITH_TIMEOUT(QFile::exists(own), 60000);
    QVERIFY(second.save(folder.filePath(QStringLiteral("w.acre"))).ok());
    QTRY_VERIFY_WITH_TIMEOUT(!QFile::exists(own), 60000);
  }

  void sharesFollowTheSea() {
    Document document(*engine_);
    Statistics statistics(document);
    StrataEditor editor(document, statistics);
    QVERIFY(document.open(dryDemo("saltfen-reach"), {}));
    QTRY_VERIFY_WITH_TIMEOUT(statistics.distribution() && statistics.current(), 60000);
    editor.refresh();
    const auto share = [&](const char* band) {
      return editor.findChild<QLabel*>(QStringLiteral("band.%1.share").arg(QLatin1String(band)))
          ->text();
    };
    const QString deep = share("deep");
    QVERIFY(deep.endsWith(QStringLiteral(" %")));
    acre::Recipe recipe = document.recipe();
    recipe.frame.seaLevel = -200;
    QVERIFY(document.change(QStringLiteral("Sea"), recipe));
    document.finish();
    editor.refresh();
    QCOMPARE(share("deep"), QStringLiteral("never"));
    QCOMPARE(share("pavement"), QStringLiteral("100.0 %"));
    document.undoStack().undo();
    document.finish();
    editor.refresh();
    QCOMPARE(share("deep"), deep);
  }
};

ACRE_SUITE(WidgetsTest)
#include "widgets_test.moc"
