#include <QAction>
#include <QApplication>
#include <QClipboard>
#include <QDir>
#include <QDropEvent>
#include <QMenu>
#include <QMimeData>
#include <QPushButton>
#include <QToolButton>
#include <QWheelEvent>
#include <QtTest>

#include "app/answers.h"
#include "app/look/look.h"
#include "app/overlay/computed.h"
#include "app/patience.h"
#include "app/sheet/export_dialog.h"
#include "app/window/checks_drawer.h"
#include "app/window/main_window.h"
#include "dry.h"
#include "output/map_writer.h"
#include "recipe/cave_recipe.h"
#include "recipe/edits.h"
#include "recipe/json.h"
#include "suite.h"
#include "world/demos.h"
#include "world/fingerprint.h"
#include "world/world.h"

using namespace app;

/// Drives the real window by keys, pointer and actions.
class WindowTest : public QObject {
  Q_OBJECT

  QTemporaryDir dir_;
  std::unique_ptr<acre::Engine> engine_;
  std::unique_ptr<Settings> settings_;
  Answers answers_;
  std::unique_ptr<MainWindow> window_;
  acre::Recipe opened_;  ///< What the window shows first.

  template <class T>
  T* child(const char* name) {
    T* found = window_->findChild<T*>(QLatin1String(name));
    if (!found) qFatal("there is no %s", name);
    return found;
  }
  void act(const char* name) { child<QAction>(name)->trigger(); }
  const acre::Recipe& recipe() { return window_->document().recipe(); }
  MapView& map() { return window_->map(); }
  /// Waits until all pictures have arrived and all chunks are loaded.
  void settle() {
    QTRY_VERIFY(window_->document().current());
    QTRY_VERIFY_WITH_TIMEOUT(map().settled(), 60000);
    QTRY_COMPARE_WITH_TIMEOUT(map().streamStats().held, map().streamStats().expected, 60000);
    for (const auto* over : map().findChildren<ComputedOverlay*>())
      QTRY_VERIFY_WITH_TIMEOUT(!over->on() || over->settled(), 60000);
  }
  QImage picture() {
    settle();
    // Without the frame, which shows the focus, and the row of the scale bar: where a machine has
    // the serif face in two formats, the font engine may take either from one call to the next.
    // The letters of the section line are in the same face.
    map().setLineShown(false);
    const QImage image = map().grab(map().pictureRect().adjusted(2, 2, -2, -40)).toImage();
    map().setLineShown(true);
    return image;
  }
  void type(QLineEdit* field, const QString& text) {
    field->setFocus();
    field->selectAll();
    QTest::keyClicks(field, text);
    QTest::keyClick(field, Qt::Key_Return);
  }

 private slots:
  void initTestCase() {
    look::apply(*qApp, false);
    acre::EngineOptions options;
    options.threads = 2;
    engine_ = std::move(acre::Engine::create(options)).value();
  }
  void init() {
    settings_ = std::make_unique<Settings>(
        dir_.filePath(QStringLiteral("settings-%1.ini").arg(QTest::currentTestFunction())));
    answers_ = {};
    // As a user finds it, or with less to wait for.
    static const QSet<QString> kWhole = {
        QStringLiteral("opensOnTheDemo"), QStringLiteral("chartAndMapLightEachOther")};
    const bool whole = kWhole.contains(QLatin1String(QTest::currentTestFunction()));
    if (!whole) settings_->setViewDistance(128);
    window_ = std::make_unique<MainWindow>(*engine_, *settings_, answers_);
    if (!whole) window_->resize(1024, 640);
    // Most of it needs no rivers and objects, which take long to find.
    static const QSet<QString> kWet = {QStringLiteral("opensOnTheDemo"),
        QStringLiteral("whatWasLostIsOffered"), QStringLiteral("screenEqualsCommand"),
        QStringLiteral("everyFieldAndLayerCanBeShown")};
    if (kWet.contains(QLatin1String(QTest::currentTestFunction())))
      QVERIFY(window_->openWorld(QStringLiteral("saltfen-reach")));
    else
      QVERIFY(
          window_->document().open(dryDemo("saltfen-reach"), {}, QStringLiteral("saltfen-reach")));
    map().goTo({0, 0});
    opened_ = recipe();
    window_->show();
    QVERIFY(QTest::qWaitForWindowExposed(window_.get()));
    window_->activateWindow();
    map().setFocus();
    QTRY_VERIFY(map().hasFocus());
    settle();
  }
  void cleanup() { window_.reset(); }

  void opensOnTheDemo() {
    QCOMPARE(recipe().seed, std::string("heather-41"));
    QVERIFY(window_->windowTitle().contains(QStringLiteral("Saltfen Reach")));
    QVERIFY(!window_->document().modified());
    QTRY_COMPARE(map().streamStats().held, map().streamStats().expected);
    QVERIFY(map().streamStats().held > 100);
    // The middle of the picture is ground, not paper.
    QVERIFY(picture().pixelColor(40, 40) != QColor::fromRgb(acre::kPaperColour));
  }

  /// What an earlier run left is offered beside the world that was asked for, and both are reached.
  void whatWasLostIsOffered() {
    const QString folder = settings_->autosaveFolder();
    QVERIFY(QDir().mkpath(folder));
    acre::Recipe kept = acre::loadRecipe("first-steps").value();
    kept.seed = "kept";
    QFile copy(folder + QStringLiteral("/unsaved-999999999.acre"));
    QVERIFY(copy.open(QIODevice::WriteOnly));
    copy.write("# file \n" + QByteArray::fromStdString(acre::recipeToJson(kept)));
    copy.close();
    const QPoint editor = child<QLabel>("editor.title")->mapTo(window_.get(), QPoint());
    window_->recoverLost(true);
    QCOMPARE(recipe().seed, std::string("heather-41"));
    QVERIFY(child<OfferBar>("offer")->text().contains(QStringLiteral("First Steps")));
    QCOMPARE(child<QLabel>("editor.title")->mapTo(window_.get(), QPoint()), editor);
    child<QPushButton>("recovered.later")->click();
    QVERIFY(!child<OfferBar>("offer")->isVisible());
    QVERIFY(copy.exists());
    window_->recoverLost(true);
    QTRY_COMPARE(window_->findChildren<QPushButton*>(QStringLiteral("recovered.open")).size(), 1);
    child<QPushButton>("recovered.open")->click();
    QCOMPARE(recipe().seed, std::string("kept"));
    QVERIFY(window_->document().modified());
    QVERIFY(!copy.exists());  // It is the own one now.
    QCOMPARE(QDir(folder).entryList({QStringLiteral("unsaved-*.acre")}, QDir::Files).size(), 1);
    QVERIFY(window_->openWorld(QStringLiteral("saltfen-reach")));
    QCOMPARE(recipe().seed, std::string("heather-41"));
  }

  void seedsAreTypedRolledAndWalked() {
    type(child<QLineEdit>("title.seed"), QStringLiteral("100"));
    QCOMPARE(recipe().seed, std::string("100"));
    map().setFocus();
    const QImage noted = picture();
    QTest::keyClick(&map(), Qt::Key_R);
    const std::string rolled = recipe().seed;
    QVERIFY(rolled != "100");
    QVERIFY(picture() != noted);
    QTest::keyClick(&map(), Qt::Key_PageUp);
    QCOMPARE(recipe().seed, std::string("100"));
    QVERIFY(picture() == noted);
    QTest::keyClick(&map(), Qt::Key_PageDown);
    QCOMPARE(recipe().seed, rolled);
    QTest::keyClick(&map(), Qt::Key_PageDown);  // At the end: a new one.
    QVERIFY(recipe().seed != rolled);
    QLineEdit* seed = child<QLineEdit>("title.seed");
    type(seed, QStringLiteral("reed-9"));
    QTest::keyClick(seed, Qt::Key_Up);
    QCOMPARE(recipe().seed, std::string("reed-10"));
    while (window_->document().undoStack().canUndo()) act("edit.undo");
    QCOMPARE(recipe().seed, std::string("heather-41"));
    QVERIFY(settings_->seeds().contains(QString::fromStdString(rolled)));  // None is lost.
  }

  /// The picture on screen is the picture of the command, pixel by pixel.
  void screenEqualsCommand() {
    type(child<QLineEdit>("title.seed"), QStringLiteral("100"));
    map().setChunksShown(false);
    map().setRingShown(false);
    map().setLineShown(false);
    act("view.objects");  // Signs lie over the ground.
    settle();
    const MapGeometry g = map().geometry();
    QCOMPARE(g.cellsPerPixel, 1.0);
    const acre::Cell corner = g.toWorld({0, 0}).cell;
    const QImage screen = picture();
    const acre::SampleGrid grid{corner.x + 100, corner.z + 50, 1, 200, 60};
    const auto samples = acre::sampleWithRim(*window_->document().world(), {}, grid).value();
    const acre::Palette palette(*window_->document().world(), {});
    // The first pixel may show the cell beside the corner: find the shift once, then compare
    // everything.
    std::vector<uint32_t> row(200);
    bool equal = false;
    for (int dx = -1; dx <= 1 && !equal; ++dx)
      for (int dz = -1; dz <= 1 && !equal; ++dz) {
        equal = true;
        for (int32_t j = 0; j < 60 && equal; ++j) {
          palette.paintRow(samples, j, acre::Unassigned::Hatched, row.data());
          for (int i = 0; i < 200 && equal; ++i)
            equal = screen.pixel(98 + i + dx, 48 + j + dz) == row[static_cast<size_t>(i)];
        }
      }
    QVERIFY(equal);
  }

  void aDraggedWidthChangesTheMapAndUndoesWhole() {
    const acre::Digest before = acre::worldFingerprint(*window_->document().world());
    const QImage old = picture();
    const auto light = map().scale();
    auto* width = child<NumberField>("layer.width");
    QTest::mousePress(width, Qt::LeftButton, {}, {60, 10});
    for (int x = 55; x > -60; x -= 5) {
      QTest::mouseMove(width, {x, 10});
      QVERIFY(std::get<acre::NoiseSource>(recipe().heights.layers[0].source).width <= 1900);
    }
    const double dragged = std::get<acre::NoiseSource>(recipe().heights.layers[0].source).width;
    QVERIFY(dragged < 1300);
    QVERIFY(picture() != old);       // While the button is still down,
    QCOMPARE(map().scale(), light);  // against the light of the world before.
    QTest::mouseRelease(width, Qt::LeftButton, {}, {-60, 10});
    QTRY_VERIFY(map().scale() != light);
    QCOMPARE(window_->document().undoStack().count(), 1);  // One drag, one step.
    act("edit.undo");
    QTRY_VERIFY(window_->document().current());
    QCOMPARE(acre::worldFingerprint(*window_->document().world()), before);
    QVERIFY(picture() == old);
    act("edit.redo");
    QCOMPARE(std::get<acre::NoiseSource>(recipe().heights.layers[0].source).width, dragged);
  }

  void layersAreAddedSwitchedMovedAndDeleted() {
    act("heights.add.Gradient noise");
    QCOMPARE(recipe().heights.layers.size(), size_t{5});
    const std::string id = recipe().heights.layers.back().id;
    QCOMPARE(window_->heights().waves().chosen(), id);  // The new one is at hand.
    act("layer.up");
    QCOMPARE(recipe().heights.layers[3].id, id);
    WavesView& waves = window_->heights().waves();
    waves.setFocus();
    QTest::keyClick(&waves, Qt::Key_Space);
    QVERIFY(!recipe().heights.layers[3].on);
    QTest::keyClick(&waves, Qt::Key_Space);
    QCoreApplication::sendPostedEvents(nullptr, QEvent::DeferredDelete);
    type(child<NumberField>("layer.octaves"), QStringLiteral("6"));
    QCOMPARE(std::get<acre::NoiseSource>(recipe().heights.layers[3].source).octaves, 6);
    type(child<NumberField>("layer.width"), QStringLiteral("0.5"));  // Six octaves are too fine.
    QVERIFY(window_->notice().contains(QStringLiteral("octave")));
    QCOMPARE(std::get<acre::NoiseSource>(recipe().heights.layers[3].source).width, 96.0);
    QCOMPARE(child<NumberField>("layer.width")->value(), 96.0);
    act("layer.duplicate");
    QCOMPARE(recipe().heights.layers.size(), size_t{6});
    QVERIFY(recipe().heights.layers[4].id != id);
    QCoreApplication::sendPostedEvents(nullptr, QEvent::DeferredDelete);
    waves.setFocus();
    QTest::keyClick(&waves, Qt::Key_Delete);
    QCOMPARE(recipe().heights.layers.size(), size_t{5});
    QTest::keyClick(&waves, Qt::Key_Down, Qt::AltModifier);
    while (window_->document().undoStack().canUndo()) act("edit.undo");
    QVERIFY(recipe() == opened_);
  }

  /// The crest stays under the hand where a curve makes cells of an amplitude of 1, too.
  void crestsStayUnderTheHand() {
    WavesView& waves = window_->heights().waves();
    QTRY_VERIFY(waves.settled());
    const acre::Layer& layer = recipe().heights.layers[0];
    QVERIFY(layer.amplitude == 1 && !layer.curve.empty());
    const auto reach = [&] {
      window_->document().finish();
      const acre::World& world = *window_->document().world();
      const SectionLine line = map().sectionLine();
      const auto count = static_cast<int32_t>(line.b.cell.x - line.a.cell.x);
      std::vector<float> values(static_cast<size_t>(count));
      const int step = world.heightField().stepOf(layer.id);
      (void)world.columns().layer(world.heightField(), static_cast<size_t>(step),
          {line.a.cell.x, line.a.cell.z, 1, count, 1}, values.data());
      const auto [low, high] = std::minmax_element(values.begin(), values.end());
      return std::pair(static_cast<double>(*low), static_cast<double>(*high));
    };
    const auto [low, high] = reach();
    const QRect lane = waves.laneRect(0);
    const QPoint from(lane.center().x() + 80, lane.center().y());
    constexpr int kPixels = 8;
    QTest::mousePress(&waves, Qt::LeftButton, {}, from);
    for (int y = 1; y <= kPixels; ++y) QTest::mouseMove(&waves, from - QPoint(0, y));
    QTest::mouseRelease(&waves, Qt::LeftButton, {}, from - QPoint(0, kPixels));
    const double perPixel = (high - low) / lane.height();
    const double rise = reach().second - high;
    QVERIFY2(rise > 0.5 * kPixels * perPixel && rise < 4 * kPixels * perPixel,
        qPrintable(QStringLiteral("%1 cells by %2 pixels").arg(rise).arg(kPixels)));
  }

  /// Waves follow the hand: up and down is amplitude, the bracket is width, and the ground under
  /// the bracket's left end stays.
  void wavesAreDragged() {
    WavesView& waves = window_->heights().waves();
    QTRY_VERIFY(waves.settled());
    const auto& layers = recipe().heights.layers;
    const QRect lane = waves.laneRect(1);
    const QPoint from(lane.center().x() + 80, lane.center().y());
    const double amplitude = layers[1].amplitude;
    QTest::mousePress(&waves, Qt::LeftButton, {}, from);
    QTest::mouseMove(&waves, from - QPoint(0, 3));
    QCOMPARE(layers[1].amplitude, amplitude);  // Less than six pixels is no drag.
    for (int y = 4; y <= 24; y += 4) QTest::mouseMove(&waves, from - QPoint(0, y));
    const double higher = layers[1].amplitude;
    QVERIFY(higher > amplitude);
    QTest::mouseMove(&waves, from - QPoint(0, 24), -1);
    QTest::mouseRelease(&waves, Qt::LeftButton, {}, from - QPoint(0, 24));
    QCOMPARE(window_->document().undoStack().count(), 1);
    QCOMPARE(waves.chosen(), std::string("hills"));
    // Esc takes a drag back.
    QTest::mousePress(&waves, Qt::LeftButton, {}, from);
    QTest::mouseMove(&waves, from + QPoint(0, 20));
    QVERIFY(layers[1].amplitude < higher);
    waves.setFocus();
    QTest::keyClick(&waves, Qt::Key_Escape);
    QCOMPARE(layers[1].amplitude, higher);
    QTest::mouseRelease(&waves, Qt::LeftButton, {}, from + QPoint(0, 20));

    QTRY_VERIFY(waves.settled());
    const QRectF bracket = waves.bracketRect(1);
    QVERIFY(!bracket.isEmpty());
    const QPoint end =
        bracket.center().toPoint() + QPoint(static_cast<int>(bracket.width() / 2), 0);
    const double width = std::get<acre::NoiseSource>(layers[1].source).width;
    window_->document().finish();
    const auto before = window_->document().world();
    QTest::mousePress(&waves, Qt::LeftButton, {}, end);
    QTest::mouseMove(&waves, end + QPoint(20, 0));
    QTest::mouseMove(&waves, end + QPoint(40, 0));
    QTest::mouseRelease(&waves, Qt::LeftButton, {}, end + QPoint(40, 0));
    QVERIFY(std::get<acre::NoiseSource>(layers[1].source).width > width * 1.2);
    QVERIFY(
        layers[1].sampling && layers[1].sampling->scatter);  // The offset follows, and is shown.
    // Where the bracket begins, the layer's value is what it was.
    const SectionLine line = map().sectionLine();
    const double t = (bracket.left() - 104) / (waves.width() - 106.0);
    const auto cells = static_cast<double>(line.b.cell.x - line.a.cell.x);
    const int64_t x = line.a.cell.x + std::llround(cells * t);
    const auto valueAt = [&](const acre::World& world) {
      float value = 0;
      const int step = world.heightField().stepOf("hills");
      (void)world.columns().layer(
          world.heightField(), static_cast<size_t>(step), {x, line.a.cell.z, 1, 1, 1}, &value);
      return value;
    };
    window_->document().finish();
    QVERIFY(planOf(*window_->document().world()).recipe() != planOf(*before).recipe());
    QVERIFY2(std::abs(valueAt(*before) - valueAt(*window_->document().world())) < 0.02 * higher,
        qPrintable(
            QString("%1 %2").arg(valueAt(*before)).arg(valueAt(*window_->document().world()))));
  }

  void curvePointsAreDragged() {
    auto* curve = window_->findChild<CurveView*>(QStringLiteral("curve"));
    QVERIFY(curve);  // The first layer has one.
    const auto& layer = recipe().heights.layers[0];
    const acre::Curve old = layer.curve;
    const QPoint at = curve->toScreen(old[2]).toPoint();
    QTest::mousePress(curve, Qt::LeftButton, {}, at);
    for (int y = 2; y <= 20; y += 3) QTest::mouseMove(curve, at - QPoint(0, y));
    QTest::mouseRelease(curve, Qt::LeftButton, {}, at - QPoint(0, 20));
    QVERIFY(layer.curve[2].y > old[2].y);
    QCOMPARE(window_->document().undoStack().count(), 1);
    // A point never passes its neighbour.
    QTest::mousePress(curve, Qt::LeftButton, {}, curve->toScreen(layer.curve[2]).toPoint());
    QTest::mouseMove(curve, curve->toScreen(layer.curve[5]).toPoint());
    QTest::mouseRelease(curve, Qt::LeftButton, {}, curve->toScreen(layer.curve[5]).toPoint());
    QVERIFY(layer.curve[2].x < layer.curve[3].x);
    QCOMPARE(layer.curve.size(), old.size());
    curve->setFocus();
    QTest::keyClick(curve, Qt::Key_Insert);
    QCOMPARE(layer.curve.size(), old.size() + 1);
    QTest::keyClick(curve, Qt::Key_Delete);
    QCOMPARE(layer.curve.size(), old.size());
  }

  void stakesAreDraggedTypedAndHeld() {
    Histogram& histogram = window_->heights().histogram();
    QTRY_VERIFY(window_->statistics().current());
    QVERIFY(histogram.stakes().size() > 7);
    const auto place = [&](size_t stake) {
      return QPoint(static_cast<int>(std::lround(histogram.xOf(histogram.stakes()[stake].value))),
          static_cast<int>(histogram.plot().center().y()));
    };
    // Stake 7 ends the heath at sea + 35; drag it across the one before: that one goes along.
    const double wood = recipe().bands[5].below->value;
    const QPoint from = place(7), to = place(6) - QPoint(25, 0);
    QTest::mousePress(&histogram, Qt::LeftButton, {}, from);
    QTest::mouseMove(&histogram, (from + to) / 2);
    QTest::mouseMove(&histogram, to);
    QTest::mouseRelease(&histogram, Qt::LeftButton, {}, to);
    QVERIFY(recipe().bands[6].below->value < wood);
    QVERIFY(recipe().bands[5].below->value <= recipe().bands[6].below->value);
    QCOMPARE(window_->document().undoStack().count(), 1);
    act("edit.undo");
    QCOMPARE(recipe().bands[5].below->value, wood);

    // Sea by share: hold it, type 40 %.
    QTRY_VERIFY(window_->statistics().current());
    QTest::mouseClick(&histogram, Qt::LeftButton, {}, place(0));
    histogram.setFocus();
    while (histogram.chosenStake() > 0) QTest::keyClick(&histogram, Qt::Key_Backtab);
    QCOMPARE(histogram.stakes()[0].band, -1);
    QTest::keyClick(&histogram, Qt::Key_S);
    QVERIFY(recipe().frame.seaShare.has_value());
    QTest::keyClick(&histogram, Qt::Key_Return);
    type(child<QLineEdit>("heights.stake"), QStringLiteral("40 %"));
    QCOMPARE(*recipe().frame.seaShare, 0.4);
    QTRY_VERIFY_WITH_TIMEOUT(window_->statistics().current(), 60000);
    QVERIFY(std::abs(window_->statistics().distribution()->shareBelow(
                         static_cast<float>(window_->document().world()->seaLevel())) -
                     0.4) < 0.001);
    // Another seed: the share stays, the level moves.
    const double level = window_->document().world()->seaLevel();
    map().setFocus();
    QTest::keyClick(&map(), Qt::Key_R);
    QTRY_VERIFY(window_->document().world()->seaLevel() != level);
    type(child<QLineEdit>("heights.stake"), QStringLiteral("140 %"));
    QVERIFY(window_->notice().contains(QStringLiteral("0 % to 100 %")));
  }

  /// As the first five minutes have it: S on the sea's stake of Strata, then 40 % is typed.
  void theSeasShareIsTypedInStrata() {
    QTest::keyClick(&map(), Qt::Key_5);
    auto& histogram = *child<Histogram>("strata.histogram");
    QTRY_VERIFY(histogram.isVisible() && window_->statistics().current());
    histogram.setFocus();
    while (histogram.chosenStake() > 0) QTest::keyClick(&histogram, Qt::Key_Backtab);
    QTest::keyClick(&histogram, Qt::Key_S);
    QTest::keyClick(&histogram, '4');
    auto* field = child<QLineEdit>("strata.stake");
    QVERIFY(field->isVisible() && field->hasFocus());
    QTest::keyClicks(field, QStringLiteral("0 %"));
    QTest::keyClick(field, Qt::Key_Return);
    QCOMPARE(recipe().frame.seaShare, std::optional(0.4));
    QVERIFY(!field->isVisible() && histogram.hasFocus());
    // Given up, nothing changes.
    QTest::keyClick(&histogram, Qt::Key_Return);
    QTest::keyClicks(field, QStringLiteral("70 %"));
    QTest::keyClick(field, Qt::Key_Escape);
    QCOMPARE(recipe().frame.seaShare, std::optional(0.4));
    QVERIFY(!field->isVisible());
  }

  /// Notes are written where they belong, undone, kept in the file, and make no world anew.
  void notesAreWritten() {
    auto* box = child<QPlainTextEdit>("editor.note");
    QVERIFY(!box->isVisible());
    const auto world = window_->document().world();
    const auto write = [&](const char* text) {
      child<QToolButton>("editor.writeNote")->click();
      QTRY_VERIFY(box->isVisible() && box->hasFocus());
      QTest::keyClicks(box, QLatin1String(text));
      map().setFocus();
    };
    write("Ridges are for the mines");
    QCOMPARE(recipe().notes.heights, std::string("Ridges are for the mines"));
    QTest::keyClick(&map(), Qt::Key_4);
    QVERIFY(!box->isVisible());
    write("From the old atlas");
    QCOMPARE(recipe().notes.biomes, std::string("From the old atlas"));
    QCOMPARE(recipe().notes.heights, std::string("Ridges are for the mines"));
    QTest::keyClick(&map(), Qt::Key_2);
    QVERIFY(box->isVisible());
    QCOMPARE(box->toPlainText(), QStringLiteral("Ridges are for the mines"));
    child<QAction>("layer.writeNote")->trigger();
    auto* layer = child<QPlainTextEdit>("layer.note");
    QTRY_VERIFY(layer->hasFocus());
    QTest::keyClicks(layer, QStringLiteral("Broad"));
    map().setFocus();
    QCOMPARE(recipe().heights.layers.front().note, std::string("Broad"));
    QTRY_VERIFY(window_->document().current());
    QVERIFY(planOf(*window_->document().world()).heightField().key() ==
            planOf(*world).heightField().key());
    const acre::Recipe back = acre::recipeFromJson(acre::recipeToJson(recipe())).value();
    QVERIFY(back == recipe());
    window_->document().undoStack().undo();
    QVERIFY(recipe().heights.layers.front().note.empty());
  }

  /// Lists go to a spreadsheet and come back; what is no table is refused and changes nothing.
  void listsAreCopiedAndPasted() {
    QTest::keyClick(&map(), Qt::Key_5);
    const auto* table = child<QToolButton>("table.materials");
    table->menu()->actions()[0]->trigger();
    const QString text = QGuiApplication::clipboard()->text();
    QVERIFY(text.startsWith(QStringLiteral("id\tname\tcolour\tstate\n")));
    const size_t count = recipe().materials.size();
    QGuiApplication::clipboard()->setText(text + QStringLiteral("loess\tLoess\t#102030\tsolid\n"));
    table->menu()->actions()[1]->trigger();
    QCOMPARE(recipe().materials.size(), count + 1);
    QTRY_VERIFY(child<QLineEdit>("material.loess.name")->isVisible());
    window_->document().undoStack().undo();
    QCOMPARE(recipe().materials.size(), count);
    QGuiApplication::clipboard()->setText(QStringLiteral("Dear Sir"));
    child<QToolButton>("table.materials")->menu()->actions()[1]->trigger();
    QVERIFY(!window_->notice().isEmpty());
    QCOMPARE(recipe().materials.size(), count);
  }

  /// At 1,024 x 640 nothing lies over anything else in the row above the map and on the rail.
  void aSmallWindowHasRoomForAll() {
    window_->resize(1024, 640);
    QTRY_COMPARE(window_->size(), QSize(1024, 640));
    const auto apart = [](QWidget* row) {
      std::vector<QWidget*> seen;
      for (QWidget* one : row->findChildren<QWidget*>(Qt::FindDirectChildrenOnly)) {
        if (!one->isVisible()) continue;
        if (!row->rect().contains(one->geometry())) return one->objectName() + " leaves the row";
        for (const QWidget* other : seen)
          if (one->geometry().intersects(other->geometry()))
            return one->objectName() + " lies over " + other->objectName();
        seen.push_back(one);
      }
      return seen.size() > 5 ? QString() : QStringLiteral("too few to tell");
    };
    QTRY_COMPARE(apart(window_->findChild<TitleRow*>()), QString());
    QTRY_COMPARE(apart(child<QWidget>("rail.census")->parentWidget()), QString());
  }

  /// A finding of Strata, from the mark on the strip: read, its control shown, mended, undone.
  void findingsAreReachedAndMended() {
    acre::Recipe next = recipe();
    // A layer without effect, and a band that no cell reaches.
    next.heights.layers.back().amplitude = 0;
    next.bands.insert(next.bands.end() - 1, next.bands[next.bands.size() - 2]);
    next.bands[next.bands.size() - 2].id = "never";
    next.bands[next.bands.size() - 2].below->value += 1e-6;
    QVERIFY(window_->document().change(QStringLiteral("Faults"), next));
    window_->document().endGesture();
    QTRY_VERIFY(window_->statistics().current());
    const auto& checks = window_->statistics().checks();
    const auto with = [&](acre::StageId stage) {
      return std::find_if(
          checks.begin(), checks.end(), [&](const acre::Check& c) { return c.stage == stage; });
    };
    QVERIFY(with(acre::StageId::Heights) != checks.end());
    QVERIFY(with(acre::StageId::Strata) != checks.end());
    auto* tile = child<StageTile>("stage.strata");
    QVERIFY(!tile->markRect().isEmpty());
    QTest::mouseClick(tile, Qt::LeftButton, {}, tile->markRect().center());
    auto* drawer = window_->findChild<ChecksDrawer*>();
    QVERIFY(drawer && drawer->isVisible());
    const acre::Check never = *with(acre::StageId::Strata);
    const QString name =
        QStringLiteral("check.%1.%2.")
            .arg(QString::fromStdString(never.id), QString::fromStdString(never.subject));
    auto* about = drawer->findChild<QToolButton*>(name + QStringLiteral("about"));
    QVERIFY(about && about->isVisible());
    auto* told = drawer->findChild<QLabel*>(name + QStringLiteral("told"));
    QVERIFY(told && !told->isVisible());
    about->click();
    QVERIFY(told->isVisible() && !told->text().isEmpty());
    drawer->findChild<QToolButton*>(name + QStringLiteral("control"))->click();
    QCOMPARE(child<QLabel>("editor.title")->text(), QStringLiteral("Strata"));
    // A mend is a step like any other.
    const acre::Check idle = *with(acre::StageId::Heights);
    QVERIFY(idle.apply);
    const acre::Recipe before = recipe();
    drawer
        ->findChild<QToolButton*>(
            QStringLiteral("check.%1.%2.mend")
                .arg(QString::fromStdString(idle.id), QString::fromStdString(idle.subject)))
        ->click();
    QVERIFY(!(recipe() == before));
    QTRY_VERIFY(window_->statistics().current());
    QVERIFY(std::none_of(checks.begin(), checks.end(),
        [&](const acre::Check& c) { return c.id == idle.id && c.subject == idle.subject; }));
    act("edit.undo");
    QCOMPARE(recipe(), before);
    // F closes it from the map.
    map().setFocus();
    QTest::keyClick(&map(), Qt::Key_F);
    QVERIFY(!drawer->isVisible());
  }

  void aClickAsksWhyAndTheCardLeadsToItsControls() {
    const QPoint at = map().pictureRect().center() + QPoint(40, 30);
    QTest::mouseClick(&map(), Qt::LeftButton, {}, at);
    PlumbCard& card = window_->plumbCard();
    QTRY_VERIFY(card.isVisible());
    const acre::Cell cell =
        map().geometry().toWorld(QPointF(at - map().pictureRect().topLeft())).cell;
    QCOMPARE(card.plumb()->cell, cell);
    QCOMPARE(card.plumb()->material, window_->document().world()->catalogue().materialId(
                                         window_->document().world()->at(cell).material));
    emit card.copyRequested(QStringLiteral("text"));
    QCOMPARE(QGuiApplication::clipboard()->text().toStdString(), acre::plumbText(*card.plumb()));
    emit card.copyRequested(QStringLiteral("command"));
    QCOMPARE(QGuiApplication::clipboard()->text(),
        QStringLiteral("acre plumb saltfen-reach --at %1,%2").arg(cell.x).arg(cell.z));
    QTest::mouseClick(&map(), Qt::LeftButton, Qt::ShiftModifier, at + QPoint(90, -60));
    QTRY_VERIFY(card.second().has_value());
    emit card.pointerChosen(QStringLiteral("/strata/bands/2/below"));
    QVERIFY(child<NumberField>("band.mud.below")->hasFocus());
    emit card.pointerChosen(QStringLiteral("/heights/layers/2"));
    QCOMPARE(window_->heights().chosenLayer(), std::string("ridges"));
    map().setFocus();
    QTest::keyClick(&map(), Qt::Key_Escape);
    QVERIFY(!card.isVisible());
    // By keyboard: the cell cursor, then Enter.
    QTest::keyClick(&map(), Qt::Key_Right, Qt::ControlModifier);
    QTest::keyClick(&map(), Qt::Key_Return);
    QTRY_VERIFY(card.isVisible());
  }

  /// A block's command is one that the program takes, and a new world has nothing to compare with.
  void aBlocksPlumbLineIsCopiedAndGoesWithItsWorld() {
    QVERIFY(window_->openWorld(QStringLiteral("swallet-edge")));
    PlumbCard& card = window_->plumbCard();
    emit window_->panes().plumbRequested(5, 20, 7);
    QTRY_VERIFY(card.isVisible());
    QVERIFY(card.plumb()->block.has_value());
    emit card.copyRequested(QStringLiteral("command"));
    QCOMPARE(QGuiApplication::clipboard()->text(),
        QStringLiteral("acre plumb swallet-edge --at 5,7 --y 20"));
    act("file.new");
    QVERIFY(!card.isVisible());
    QVERIFY(!card.plumb().has_value());
  }

  void heldBShowsTheWorldBefore() {
    const QImage old = picture();
    const acre::Digest before = acre::worldFingerprint(*map().world());
    type(child<NumberField>("layer.offset"), QStringLiteral("9"));
    map().setFocus();
    const QImage now = picture();
    QVERIFY(now != old);
    const auto light = map().scale();
    QTest::keyPress(&map(), Qt::Key_B);
    QTRY_VERIFY(map().world() != window_->document().world());
    QCOMPARE(acre::worldFingerprint(*map().world()), before);
    QCOMPARE(map().scale(), light);  // The two are seen in one light.
    QVERIFY(picture() != now);
    QTRY_VERIFY(
        child<QLabel>("status.cell")->text().contains(QStringLiteral("cells differ, land +")));
    QTest::keyRelease(&map(), Qt::Key_B);
    QTRY_VERIFY(picture() == now);
  }

  /// A map of a side world would be a line: under its section lies an overview, which leads along
  /// it.
  void sideWorldsHaveAnOverview() {
    Panes& panes = window_->panes();
    SideOverview& overview = panes.overview();
    QVERIFY(!overview.isVisible());
    QVERIFY(window_->openWorld(QStringLiteral("lantern-shelf")));
    QVERIFY(panes.large() == Panes::Large::Section);
    QTRY_VERIFY(overview.isVisible() && !map().isVisible());
    QTRY_VERIFY_WITH_TIMEOUT(overview.settled() && !overview.picture().isNull(), 60000);
    QSet<QRgb> inks;
    for (int x = 0; x < overview.picture().width(); ++x)
      inks.insert(overview.picture().pixel(x, overview.picture().height() * 3 / 4));
    QVERIFY(inks.size() > 3);  // Ground, not an empty sheet.
    // The frame is where the section is: a click takes it along.
    const QRect box = overview.pictureRect();
    const QRectF before = overview.frame();
    QVERIFY(before.width() > 4 && QRectF(box).contains(before.center()));
    const int x = box.left() + box.width() / 3;
    QTest::mouseClick(&overview, Qt::LeftButton, {}, {x, box.center().y()});
    QTRY_VERIFY(std::abs(overview.frame().center().x() - x) < 4);
    const acre::Cell there = map().viewpoint().cell;
    QTest::keyClick(&overview, Qt::Key_Right);
    QTRY_VERIFY(map().viewpoint().cell.x > there.x);
    // The map is there for whoever asks for it.
    panes.setLarge(Panes::Large::Map);
    QVERIFY(map().isVisible() && !overview.isVisible());
    QVERIFY(window_->openWorld(QStringLiteral("saltfen-reach")));
    panes.setLarge(Panes::Large::Section);
    QVERIFY(map().isVisible() && !overview.isVisible());
  }

  void reliefIsAsStrongAsOneLikes() {
    const QImage plain = picture();
    act("view.relief.none");
    QCOMPARE(map().style().relief, 0.0);
    const QImage flat = picture();
    QVERIFY(flat != plain);
    act("view.relief.strong");
    QVERIFY(picture() != flat);
    QVERIFY(settings_->relief() == 1.0);
    act("view.relief.plain");
    QVERIFY(picture() == plain);
  }

  void everyFieldAndLayerCanBeShown() {
    auto* pictures = child<Choice>("title.picture");
    QSet<QByteArray> seen;
    for (int i = 0; i < pictures->count(); ++i) {
      pictures->setCurrentIndex(i);
      emit pictures->activated(i);
      const QImage image = picture();
      seen.insert(
          QByteArray(reinterpret_cast<const char*>(image.constBits()), image.sizeInBytes()));
    }
    QCOMPARE(static_cast<int>(seen.size()), pictures->count());
    QVERIFY(pictures->count() >= 7);  // Five fixed ones, a field, the chosen layer.
    auto* upTo = child<Choice>("title.upTo");
    emit pictures->activated(0);
    // A world without its later stages is compiled elsewhere: until then the map stays as it was.
    emit upTo->activated(2);
    QVERIFY(map().picture().kind == acre::PictureKind::Composite);
    QTRY_VERIFY(map().picture().kind == acre::PictureKind::Height);
    const QImage heights = picture();
    emit upTo->activated(1);
    emit upTo->activated(2);  // What is asked for last is what comes.
    settle();
    QCOMPARE(picture(), heights);
    emit upTo->activated(1);
    QTRY_VERIFY(picture() != heights);
    emit upTo->activated(3);
    QVERIFY(map().picture().kind == acre::PictureKind::Biome);
    emit upTo->activated(0);
    QVERIFY(map().picture().kind == acre::PictureKind::Composite);
    const QImage bare = picture();
    map().setContours(5);
    QTRY_VERIFY(picture() != bare);  // Lines arrive once they are made.
    map().setContours(0);
    QTRY_VERIFY(picture() == bare);
  }

  void theSectionLineIsDragged() {
    const SectionLine old = map().sectionLine();
    const QPoint b = map().lineEnd(true).toPoint();
    QTest::mousePress(&map(), Qt::LeftButton, {}, b);
    QTest::mouseMove(&map(), b + QPoint(-60, 40));
    QTest::mouseRelease(&map(), Qt::LeftButton, {}, b + QPoint(-60, 40));
    QVERIFY(map().sectionLine().b.cell.z > old.b.cell.z + 20);
    QVERIFY(window_->plumbs().settled() && !window_->plumbCard().isVisible());
    QTRY_VERIFY(window_->heights().waves().settled());
    act("view.lineHome");
    QCOMPARE(map().sectionLine().b.cell.z, old.b.cell.z);
  }

  void fieldsAreMadeReadAndFreed() {
    emit window_->heights().aloneRequested(QStringLiteral("ridges"));
    QCOMPARE(static_cast<int>(map().picture().kind), static_cast<int>(acre::PictureKind::Layer));
    emit window_->heights().aloneRequested({});
    child<QPushButton>("heights.addField")->click();
    const size_t all = opened_.fields.size();
    QCOMPARE(recipe().fields.size(), all + 1);
    QCOMPARE(window_->heights().field(), recipe().fields.back().id);
    child<QPushButton>("heights.deleteField")->click();
    QCOMPARE(recipe().fields.size(), all);
    auto* fields = child<Choice>("heights.field");
    fields->setCurrentIndex(1);
    emit fields->activated(1);
    child<QPushButton>("heights.deleteField")->click();  // The ridges' mask reads it.
    QCOMPARE(recipe().fields.size(), all);
    QVERIFY(child<QLabel>("heights.users")->text().contains(QStringLiteral("Heights: Ridges")));
    child<QPushButton>("heights.freeUsers")->click();
    QCOMPARE(recipe().fields.size(), all - 1);
    QVERIFY(!recipe().heights.layers[2].mask);
    act("edit.undo");
    QVERIFY(recipe() == opened_);
  }

  void theSeaTakesItsBandsAlong() {
    const auto share = [&] {  // As Strata shows it; then back to Frame.
      map().setFocus();
      QTest::keyClick(&map(), Qt::Key_5);
      const QString text = child<QLabel>("band.deep.share")->text();
      QTest::keyClick(&map(), Qt::Key_1);
      return text.split(' ').front().toDouble();
    };
    QTRY_VERIFY(share() > 1);
    const double before = share();
    const QImage old = picture();
    type(child<NumberField>("frame.sea"), QStringLiteral("-6"));
    QCOMPARE(recipe().frame.seaLevel, -6.0);
    QTRY_VERIFY(share() < before);
    QVERIFY(picture() != old);
    type(child<NumberField>("frame.chunk"), QStringLiteral("20"));
    QTRY_COMPARE(map().streamStats().held, map().streamStats().expected);
    QTRY_COMPARE(window_->document().world()->layout().size(), 20);
    type(child<NumberField>("frame.chunk"), QStringLiteral("5000"));
    QVERIFY(window_->notice().contains(QStringLiteral("1 to 1024")));
    QCOMPARE(recipe().frame.chunkSize, 20);
    child<Tick>("frame.bounded.x")->click();
    child<Tick>("frame.bounded.z")->click();
    QCOMPARE(window_->document().undoStack().undoText(), QStringLiteral("Bounds of z on"));
    QCOMPARE(recipe().frame.x->extent, int64_t{512});
    type(child<NumberField>("frame.extent.x"), QStringLiteral("100"));
    type(child<NumberField>("frame.min.x"), QStringLiteral("0"));
    QVERIFY(child<QLabel>("frame.counts")->text().contains(QStringLiteral("51,200 cells")));
    QVERIFY(picture() != old);
  }

  /// The first walk with the chart: how much is uncovered, where, why, and mended.
  void uncoveredGroundIsFoundAndMended() {
    QVERIFY(window_->openWorld(QStringLiteral("three-fields")));
    settle();
    QTest::keyClick(&map(), Qt::Key_4);
    QTRY_VERIFY(child<QLabel>("biomes.headline")->text().contains(QStringLiteral("chart 51.5 %")));
    // Hatched on the map, and a hole to go to that a plumb line explains.
    child<QPushButton>("biomes.hole")->click();
    QTRY_VERIFY(window_->plumbCard().plumb().has_value());
    const acre::Plumb plumb = *window_->plumbCard().plumb();
    QCOMPARE(plumb.biome.biome, std::string("none"));
    QCOMPARE(map().viewpoint().cell, plumb.cell);
    settle();
    const auto rows = acre::plumbRows(plumb);
    QVERIFY(std::any_of(rows.begin(), rows.end(),
        [](const acre::PlumbRow& r) { return r.deciding && r.label == "no rule"; }));
    const QImage holed = picture();
    // The check offers a mend; afterwards nothing is uncovered.
    QTRY_VERIFY_WITH_TIMEOUT(window_->statistics().current(), 60000);
    for (const acre::Check& check : window_->statistics().checks())
      if (check.id == "uncovered") {
        acre::Recipe next = recipe();
        check.apply(next);
        QVERIFY(window_->document().change(QStringLiteral("Fix"), next));
        break;
      }
    QTRY_VERIFY(child<QLabel>("biomes.headline")->text().contains(QStringLiteral("world 0.0 %")));
    QVERIFY(picture() != holed);
    map().setFocus();
    QTest::keyClick(&map(), Qt::Key_H);
    QTRY_VERIFY(window_->notice().startsWith(QStringLiteral("No hole")));
  }

  /// The pointer on the map shows in the chart, a patch of the chart shows on the map, and the
  /// census lights what it counts.
  void chartAndMapLightEachOther() {
    QTest::keyClick(&map(), Qt::Key_4);
    ChartView& chart = window_->biomes().chart();
    QTRY_VERIFY(window_->statistics().chart() != nullptr);
    chart.setFocus();
    // Where the world is thickest in the slice of the land.
    const auto figures = window_->statistics().chart();
    emit chart.patchHovered(true, 0.1, 0.0);
    QTRY_VERIFY(window_->litGround().litSamples() > 0);
    emit chart.patchHovered(false, 0, 0);
    QCOMPARE(window_->litGround().litSamples(), size_t{0});
    child<RailButton>("rail.census")->click();
    QTRY_VERIFY_WITH_TIMEOUT(window_->census().census().has_value(), 60000);
    double sum = 0;
    for (const acre::BiomeShare& share : window_->census().census()->biomes) sum += share.share;
    QVERIFY(std::abs(sum - 1) < 1e-9);
    window_->census().table().selectRow(0);
    QTRY_VERIFY(window_->litGround().litSamples() > 0);
    child<RailButton>("rail.legend")->click();
    QVERIFY(!window_->census().isVisible());
    QVERIFY(child<LegendCard>("legend")->isVisible());
    child<QToolButton>("drawer.close.legend")->click();
    QVERIFY(window_->drawers().shown().isEmpty());
  }

  /// Regions: straight borders, then warped ones; the pictures follow.
  void regionsAreLaidAndWarped() {
    QTest::keyClick(&map(), Qt::Key_4);
    const QImage before = picture();
    child<Tick>("regions.on")->click();
    settle();
    QCoreApplication::sendPostedEvents(nullptr, QEvent::DeferredDelete);
    const QImage straight = picture();
    QVERIFY(straight != before);
    type(child<NumberField>("regions.warp"), QStringLiteral("30"));
    QVERIFY(picture() != straight);
    for (const acre::PictureKind kind : {acre::PictureKind::Region, acre::PictureKind::Border,
             acre::PictureKind::Uncovered, acre::PictureKind::Biome, acre::PictureKind::Base}) {
      auto* show = child<Choice>("title.picture");
      int found = -1;
      for (int i = 0; i < show->count() && found < 0; ++i) {
        show->setCurrentIndex(i);
        emit show->activated(i);
        if (map().picture().kind == kind) found = i;
      }
      QVERIFY(found >= 0);
      settle();
      QVERIFY(!child<LegendCard>("legend")->entries().empty());
    }
    act("view.borders");
    QVERIFY(map().picture().borders);
    // Switched off, the picture of regions gives way.
    child<Tick>("regions.on")->click();
    settle();
    while (window_->document().undoStack().canUndo()) act("edit.undo");
    QVERIFY(recipe() == opened_);
  }

  void stagesAreSwitched() {
    QTest::keyClick(&map(), Qt::Key_3);
    QTest::keyClick(child<StageTile>("stage.climate"), Qt::Key_Space);
    QVERIFY(window_->notice().contains(QStringLiteral("read the climate")));
    QVERIFY(recipe().climate.on);
    map().setFocus();
    QTest::keyClick(&map(), Qt::Key_4);
    QTest::keyClick(child<StageTile>("stage.biomes"), Qt::Key_Space);
    QVERIFY(!recipe().biomes.on);
    settle();
    QVERIFY(window_->document().world()->biomes() == nullptr);
    map().setFocus();
    QTest::keyClick(&map(), Qt::Key_3);
    QTest::keyClick(child<StageTile>("stage.climate"), Qt::Key_Space);
    QVERIFY(!recipe().climate.on);
    child<QPushButton>("climate.on")->click();
    QVERIFY(recipe().climate.on);
    map().setFocus();
    QTest::keyClick(&map(), Qt::Key_4);
    child<QPushButton>("biomes.on")->click();
    QVERIFY(recipe() == opened_);
  }

  void bandsAndMaterialsAreEdited() {
    QTest::keyClick(&map(), Qt::Key_5);
    child<QPushButton>("strata.addBand")->click();
    QCOMPARE(recipe().bands.size(), size_t{9});
    QVERIFY(recipe().bands[7].below.has_value());
    auto* material = child<Choice>("band.deep.material");
    material->setFocus();
    material->setCurrentIndex(0);
    emit material->activated(0);
    QCOMPARE(recipe().bands[0].material, std::string("unassigned"));
    settle();
    child<QPushButton>("strata.addMaterial")->click();
    QCOMPARE(recipe().materials.size(), size_t{23});
    QCoreApplication::sendPostedEvents(nullptr, QEvent::DeferredDelete);
    QVERIFY(!child<QToolButton>("material.heath.delete")->isEnabled());
    QVERIFY(child<QToolButton>("material.deep-water.delete")->isEnabled());
    child<Tick>("band.heath.fromSea")->click();
    QVERIFY(!recipe().bands[6].below->fromSea);
    child<QToolButton>("band.mud.delete")->click();
    QCOMPARE(recipe().bands.size(), size_t{8});
    for (int i = 0; i < 7; ++i) {
      QCoreApplication::sendPostedEvents(nullptr, QEvent::DeferredDelete);
      child<QToolButton>(("band." + recipe().bands.back().id + ".delete").c_str())->click();
    }
    QCOMPARE(recipe().bands.size(), size_t{1});
    QVERIFY(!recipe().bands[0].below);
  }

  void theViewpointIsDrivenAndChunksFollow() {
    const acre::Cell start = map().viewpoint().cell;
    QTest::keyPress(&map(), Qt::Key_Right);
    QTRY_VERIFY(map().viewpoint().cell.x > start.x + 100);
    QTest::keyRelease(&map(), Qt::Key_Right);
    QCOMPARE(map().viewpoint().cell.z, start.z);
    QTRY_COMPARE(map().streamStats().held, map().streamStats().expected);
    const acre::Cell rest = map().viewpoint().cell;
    QTest::qWait(60);
    QCOMPARE(map().viewpoint().cell, rest);
    QTest::keyClick(&map(), Qt::Key_W);  // A tap moves little or not at all, and stops.
    QVERIFY(staysFor(60, [this] { return map().viewpoint().cell; }));
    QCOMPARE(map().viewpoint().cell.x, rest.x);
    QVERIFY(map().viewpoint().cell.z <= rest.z && map().viewpoint().cell.z > rest.z - 100);
    const QString told = child<QLabel>("status.cell")->text();
    QVERIFY(told.contains(QStringLiteral("viewpoint")));
    QVERIFY2(told.contains(look::wholeNumber(map().viewpoint().cell.x)), qPrintable(told));
  }

  void theMapIsDraggedAndZoomed() {
    const QPoint from = map().pictureRect().center();
    const acre::Cell under =
        map().geometry().toWorld(QPointF(from - map().pictureRect().topLeft())).cell;
    QTest::mousePress(&map(), Qt::LeftButton, {}, from);
    QTest::mouseMove(&map(), from + QPoint(30, 10));
    QTest::mouseMove(&map(), from + QPoint(120, -40));
    QTest::mouseRelease(&map(), Qt::LeftButton, {}, from + QPoint(120, -40));
    const acre::Cell moved =
        map()
            .geometry()
            .toWorld(QPointF(from + QPoint(120, -40) - map().pictureRect().topLeft()))
            .cell;
    QVERIFY(std::abs(moved.x - under.x) <= 1 && std::abs(moved.z - under.z) <= 1);
    // The wheel keeps the cell under the pointer.
    const QPointF at = map().pictureRect().topLeft() + QPointF(50, 70);
    const acre::Cell fixed = map().geometry().toWorld({50, 70}).cell;
    for (const int delta : {120, 120, -120, -240, 480}) {
      QWheelEvent e(at, map().mapToGlobal(at), {}, {0, delta}, {}, {}, Qt::NoScrollPhase, false);
      QApplication::sendEvent(&map(), &e);
      QCOMPARE(map().geometry().toWorld({50.001, 70.001}).cell, fixed);
    }
    for (int i = 0; i < 60; ++i) map().zoomCentre(2);
    QCOMPARE(map().geometry().cellsPerPixel, MapGeometry::kCoarsest);
    settle();
    for (int i = 0; i < 60; ++i) map().zoomCentre(0.5);
    QCOMPARE(map().geometry().cellsPerPixel, MapGeometry::kFinest);
    settle();
    QTest::keyClick(&map(), Qt::Key_Home);
    QCOMPARE(map().geometry().centre.cell, map().viewpoint().cell);
    QTest::mouseDClick(&map(), Qt::LeftButton, {}, map().pictureRect().topLeft() + QPoint(20, 20));
    QCOMPARE(map().geometry().centre.cell, map().viewpoint().cell);
  }

  void farAwayLooksAsGoodAsHome() {
    answers_.text = QStringLiteral("2000000000, -2000000000");
    act("view.goTo");
    QCOMPARE(map().viewpoint().cell, (acre::Cell{2'000'000'000, -2'000'000'000}));
    QTRY_COMPARE(map().streamStats().held, map().streamStats().expected);
    const QImage far = picture();
    QSet<QRgb> colours;
    for (int y = 0; y < far.height(); y += 3)
      for (int x = 0; x < far.width(); x += 3) colours.insert(far.pixel(x, y));
    QVERIFY(colours.size() > 100);
    for (const char* bad : {"here", "1", "1,2,3", "9e99,0", "2000000000000000000,0"}) {
      answers_.text = QLatin1String(bad);
      act("view.goTo");
      QCOMPARE(map().viewpoint().cell, (acre::Cell{2'000'000'000, -2'000'000'000}));
      QVERIFY(!window_->notice().isEmpty());
    }
    answers_.text = QStringLiteral(
        "1152921504606846976, 0");  // The very end is refused, near it chunks fail one by one.
    act("view.goTo");
    QCOMPARE(map().viewpoint().cell.x, int64_t{2'000'000'000});
  }

  void savedReopenedAndExportedAreTheSame() {
    window_->heights().waves().choose("hills");
    type(child<NumberField>("layer.amplitude"), QStringLiteral("20"));
    QVERIFY(window_->document().modified());
    QVERIFY(window_->windowTitle().contains(QStringLiteral("unsaved")));
    answers_.save = dir_.filePath(QStringLiteral("mine"));
    act("file.saveAs");
    QCOMPARE(window_->document().file(), dir_.filePath(QStringLiteral("mine.acre")));
    QVERIFY(!window_->document().modified());
    const QImage old = picture();
    const auto exportTo = [&](const QString& file) {
      act("file.export");
      auto* dialog = child<ExportDialog>("export");
      QSignalSpy exported(dialog, &ExportDialog::exported);
      answers_.save = file;
      dialog->findChild<QPushButton*>(QStringLiteral("export.write"))->click();
      QTRY_COMPARE_WITH_TIMEOUT(exported.size(), 1, 60000);
      QCoreApplication::sendPostedEvents(nullptr, QEvent::DeferredDelete);
    };
    exportTo(dir_.filePath(QStringLiteral("a.png")));
    act("file.new");
    QVERIFY(picture() != old);
    answers_.open = dir_.filePath(QStringLiteral("mine.acre"));
    act("file.open");
    QVERIFY(picture() == old);
    exportTo(dir_.filePath(QStringLiteral("b.png")));
    const QImage a(dir_.filePath(QStringLiteral("a.png"))),
        b(dir_.filePath(QStringLiteral("b.png")));
    QVERIFY(!a.isNull() && a == b);
    QCOMPARE(a.text(QStringLiteral("Seed")), QStringLiteral("heather-41"));
    QVERIFY(settings_->recentFiles().contains(dir_.filePath(QStringLiteral("mine.acre"))));
  }

  void exportsWithALegendAndSaysWhatFails() {
    act("file.export");
    auto* dialog = child<ExportDialog>("export");
    dialog->findChild<Tick*>(QStringLiteral("export.legend"))->setChecked(true);
    dialog->exportTo(QStringLiteral("/dev/full"));
    auto* fault = dialog->findChild<QLabel*>(QStringLiteral("export.fault"));
    QTRY_VERIFY_WITH_TIMEOUT(fault->text().contains(QStringLiteral("/dev/full")), 60000);
    QVERIFY(dialog->findChild<QPushButton*>(QStringLiteral("export.write"))->isEnabled());
    QSignalSpy exported(dialog, &ExportDialog::exported);
    dialog->exportTo(dir_.filePath(QStringLiteral("legend.png")));
    QTRY_COMPARE_WITH_TIMEOUT(exported.size(), 1, 60000);
    const QImage picture(dir_.filePath(QStringLiteral("legend.png")));
    QVERIFY(picture.width() > map().geometry().size.width() + 200);
    QCOMPARE(picture.text(QStringLiteral("Title")), QStringLiteral("Saltfen Reach"));
  }

  /// Nothing that the window writes replaces what the world is read from, whatever it is called.
  void resultsReplaceNothingThatIsRead() {
    acre::Recipe edited = recipe();
    edited.edits = acre::EditSet(edited.seed)
                       .with({{3, acre::editLevel(edited), 4, edited.materials.front().id}});
    QVERIFY(window_->document().change(QStringLiteral("Paint"), edited));
    const QString own = dir_.filePath(QStringLiteral("own.acre"));
    QVERIFY(window_->document().save(own).ok());
    const auto content = [&] {
      QFile in(own);
      return in.open(QIODevice::ReadOnly) ? in.readAll() : QByteArray();
    };
    const QByteArray before = content();
    const QString link = dir_.filePath(QStringLiteral("link.png"));
    QVERIFY(QFile::link(own, link));
    act("file.export");
    auto* dialog = child<ExportDialog>("export");
    dialog->exportTo(link);
    const auto* fault = dialog->findChild<QLabel*>(QStringLiteral("export.fault"));
    QVERIFY2(fault->text().contains(QStringLiteral("which is read")), qPrintable(fault->text()));
    QVERIFY(dialog->findChild<QPushButton*>(QStringLiteral("export.write"))->isEnabled());
    dialog->reject();
    window_->drawers().open(QStringLiteral("hand"));
    answers_.save = own;
    child<QPushButton>("hand.export")->click();
    QVERIFY2(
        window_->notice().contains(QStringLiteral("which is read")), qPrintable(window_->notice()));
    QCOMPARE(content(), before);
    // A world is not saved over a picture that it is made from.
    acre::Recipe drawn = recipe();
    QImage grey(4, 4, QImage::Format_Grayscale8);
    grey.fill(90);
    QVERIFY(grey.save(dir_.filePath(QStringLiteral("grey.png"))));
    acre::Layer layer;
    layer.id = "drawn";
    layer.source = acre::PictureSource{"grey.png", 0, 0, 1, true, {}, 0};
    drawn.heights.layers.push_back(layer);
    QVERIFY(window_->document().change(QStringLiteral("Layer"), drawn));
    const auto refused = window_->document().save(dir_.filePath(QStringLiteral("grey.png")));
    QVERIFY(!refused.ok());
    QCOMPARE(QImage(dir_.filePath(QStringLiteral("grey.png"))).pixel(1, 1), qRgb(90, 90, 90));
  }

  void brokenFilesChangeNothing() {
    const acre::Recipe before = recipe();
    const QString broken = dir_.filePath(QStringLiteral("broken.acre"));
    QFile file(broken);
    QVERIFY(file.open(QIODevice::WriteOnly));
    file.write(acre::demos().front().json.substr(0, 700).c_str());
    file.close();
    answers_.open = broken;
    act("file.open");
    QVERIFY(recipe() == before);
    QVERIFY2(
        window_->notice().contains(QStringLiteral("broken.acre")), qPrintable(window_->notice()));
    QVERIFY(!window_->openWorld(dir_.path()));
    QVERIFY(!window_->openWorld(QStringLiteral("/nowhere.acre")));
    QVERIFY(recipe() == before);
    answers_.save = dir_.path();
    act("file.saveAs");
    QVERIFY(window_->notice().contains(QStringLiteral("directory")));
  }

  void droppedFilesOpen() {
    const QString name = dir_.filePath(QStringLiteral("dropped.acre"));
    acre::Recipe other = recipe();
    other.name = "Dropped";
    QVERIFY(acre::writeRecipeFile(name.toStdString(), other).ok());
    QMimeData data;
    data.setUrls({QUrl::fromLocalFile(name)});
    QDragEnterEvent enter({50, 50}, Qt::CopyAction, &data, Qt::LeftButton, Qt::NoModifier);
    QApplication::sendEvent(window_.get(), &enter);
    QVERIFY(enter.isAccepted());
    QDropEvent drop(QPointF(50, 50), Qt::CopyAction, &data, Qt::LeftButton, Qt::NoModifier);
    QApplication::sendEvent(window_.get(), &drop);
    QCOMPARE(recipe().name, std::string("Dropped"));
  }

  void unsavedChangesAreAskedFor() {
    // A demo that was only rolled is lost to nobody.
    type(child<QLineEdit>("title.seed"), QStringLiteral("7"));
    QVERIFY(window_->document().modified());
    act("file.new");
    QCOMPARE(answers_.asked, 0);
    QVERIFY(window_->openWorld(QStringLiteral("saltfen-reach")));
    type(child<NumberField>("layer.offset"), QStringLiteral("9"));
    answers_.unsaved = Dialogs::Unsaved::Stay;
    QVERIFY(!window_->close());
    QVERIFY(window_->isVisible());
    answers_.unsaved = Dialogs::Unsaved::Save;
    answers_.save.clear();  // Save, then no file name: nothing is lost.
    QVERIFY(!window_->close());
    QCOMPARE(answers_.asked, 2);
    answers_.unsaved = Dialogs::Unsaved::Discard;
    QVERIFY(window_->close());
  }

  void stagesAreChosenByKeyAndPointer() {
    const auto title = [&] { return child<QLabel>("editor.title")->text(); };
    QTest::keyClick(&map(), Qt::Key_1);
    QCOMPARE(title(), QStringLiteral("Frame"));
    QTest::keyClick(window_.get(), Qt::Key_PageDown, Qt::ControlModifier);
    QCOMPARE(title(), QStringLiteral("Heights"));
    for (const auto& next : {QStringLiteral("Climate"), QStringLiteral("Biomes"),
             QStringLiteral("Water"), QStringLiteral("Strata"), QStringLiteral("Caves"),
             QStringLiteral("Objects"), QStringLiteral("Tiles"), QStringLiteral("Tiles")}) {
      QTest::keyClick(window_.get(), Qt::Key_PageDown, Qt::ControlModifier);
      QCOMPARE(title(), next);  // The end holds.
    }
    auto* frame = child<StageTile>("stage.frame");
    QTest::mouseClick(frame, Qt::LeftButton);
    QCOMPARE(title(), QStringLiteral("Frame"));
    QVERIFY(frame->isChecked());
    QVERIFY(frame->accessibleDescription().contains(QStringLiteral("endless")));
    // F6 goes into the editor and back; Esc in a field returns to the map.
    map().setFocus();
    QTest::keyClick(window_.get(), Qt::Key_F6);
    QVERIFY(!map().hasFocus());
    QVERIFY(child<QWidget>("editor")->isAncestorOf(QApplication::focusWidget()));
    QTest::keyClick(window_.get(), Qt::Key_F6);
    QVERIFY(map().hasFocus());
    auto* sea = child<NumberField>("frame.sea");
    sea->setFocus();
    QTest::keyClicks(sea, "99");
    QTest::keyClick(sea, Qt::Key_Escape);
    QVERIFY(map().hasFocus());
    QCOMPARE(recipe().frame.seaLevel, 0.0);
  }

  /// Letters belong to the text while a field is being typed in.
  void singleKeysActOnTheMapAlone() {
    auto* name = child<QLineEdit>("layer.name");
    name->setFocus();
    name->selectAll();
    QTest::keyClicks(name, "rgv 1");
    QCOMPARE(name->text(), QStringLiteral("rgv 1"));
    QCOMPARE(recipe().seed, std::string("heather-41"));
    QTest::keyClick(name, Qt::Key_Return);
    QCOMPARE(recipe().heights.layers[0].name, std::string("rgv 1"));
    map().setFocus();
    const bool chunks = child<QToolButton>("title.chunks")->isChecked();
    QTest::keyClick(&map(), Qt::Key_G);
    QCOMPARE(child<QToolButton>("title.chunks")->isChecked(), !chunks);
    QTest::keyClick(&map(), Qt::Key_G);
  }

  void hintsGoWhenTheyAreFollowed() {
    QCOMPARE(settings_->hintsDone(), QStringList());
    QTest::keyClick(&map(), Qt::Key_PageDown);
    QVERIFY(settings_->hintsDone().contains(QStringLiteral("seed")));
    QTest::mousePress(&map(), Qt::LeftButton, {}, map().pictureRect().center());
    QTest::mouseMove(&map(), map().pictureRect().center() + QPoint(50, 0));
    QTest::mouseRelease(&map(), Qt::LeftButton, {}, map().pictureRect().center() + QPoint(50, 0));
    QVERIFY(settings_->hintsDone().contains(QStringLiteral("drag")));
    QVERIFY(!settings_->hintsDone().contains(QStringLiteral("zoom")));
  }

  void theViewDistanceDecidesWhatIsLoaded() {
    auto* distance = child<NumberField>("title.distance");
    type(distance, QStringLiteral("64"));
    QTRY_COMPARE(map().streamStats().held, map().streamStats().expected);
    const size_t few = map().streamStats().held, needed = map().streamStats().needed;
    type(distance, QStringLiteral("256"));
    QTRY_COMPARE(map().streamStats().held, map().streamStats().expected);
    QVERIFY(map().streamStats().held > 2 * few);
    QVERIFY(map().streamStats().needed > 8 * needed);
    type(distance, QStringLiteral("0"));
    QTRY_COMPARE(map().streamStats().needed, size_t{1});
    QTRY_COMPARE(map().streamStats().held, map().streamStats().expected);
    QCOMPARE(settings_->viewDistance(), qint64{0});
    type(distance, QStringLiteral("99999"));
    QVERIFY(window_->notice().contains(QStringLiteral("4096")));
  }

  void quittingInTheMiddleIsClean() {
    window_.reset();
    initTestCase();  // Worlds with water that an engine keeps remember their networks.
    window_ = std::make_unique<MainWindow>(*engine_, *settings_, answers_);
    QVERIFY(
        window_->document().open(dryDemo("saltfen-reach"), {}, QStringLiteral("saltfen-reach")));
    window_->show();
    QVERIFY(QTest::qWaitForWindowExposed(window_.get()));
    for (int i = 0; i < 5; ++i) {
      map().goTo({i * 100'000, 0});
      acre::Recipe next = recipe();
      next.seed = std::to_string(i);
      QVERIFY(window_->document().change(QStringLiteral("Seed"), next));
    }
    window_.reset();  // Tiles, chunks, waves and shares are all in work.
    QTRY_COMPARE(engine_->budget().used(), uint64_t{0});
  }

  void nightAndDayKeepTheWorld() {
    const acre::Recipe before = recipe();
    act("view.night");
    QVERIFY(look::isNight());
    QCOMPARE(window_->palette().color(QPalette::Window), look::tokens().paper);
    act("view.night");
    QVERIFY(!look::isNight());
    QVERIFY(recipe() == before);
  }

  void emptyRecipeSaysWhatIsMissing() {
    acre::Recipe empty;
    QVERIFY(window_->document().change(QStringLiteral("Empty"), empty));
    settle();
    QTest::mouseMove(&map(), map().pictureRect().center());
    QTRY_VERIFY(child<QLabel>("status.cell")->text().contains(QStringLiteral("unassigned")));
    // The whole map is hatched: ink and white, nothing else in a corner.
    map().setChunksShown(false);
    map().setRingShown(false);
    const QImage p = picture();
    for (int i = 5; i < 60; ++i) {
      const QRgb c = p.pixel(i, 9);
      QVERIFY(c == acre::kHatchInk || c == acre::kHatchPaper);
    }
  }

  void picturesAreChosen() {
    const QImage composite = picture();
    auto* choice = child<Choice>("title.picture");
    emit choice->activated(1);
    QVERIFY(picture() != composite);
    emit choice->activated(0);
    QVERIFY(picture() == composite);
  }
};

ACRE_SUITE(WindowTest)
#include "window_test.moc"
