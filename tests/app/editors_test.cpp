#include <signal.h>

#include <QApplication>
#include <QClipboard>
#include <QJsonArray>
#include <QJsonDocument>
#include <QJsonObject>
#include <QMenu>
#include <QProcess>
#include <QPushButton>
#include <QSignalSpy>
#include <QToolButton>
#include <QToolTip>
#include <QWheelEvent>
#include <QtTest>
#include <cstdio>

#include "app/biome/climate_editor.h"
#include "app/desk.h"
#include "app/document/autosave.h"
#include "app/document/command_line.h"
#include "app/document/document.h"
#include "app/document/statistics.h"
#include "app/edit/choice.h"
#include "app/edit/curve_view.h"
#include "app/edit/heights_editor.h"
#include "app/edit/number_field.h"
#include "app/edit/strata_editor.h"
#include "app/edit/tick.h"
#include "app/look/look.h"
#include "app/map/plumb_card.h"
#include "app/window/end_signals.h"
#include "dry.h"
#include "output/png.h"
#include "recipe/json.h"
#include "recipe/look.h"
#include "recipe/validate.h"
#include "suite.h"
#include "world/demos.h"
#include "world/fingerprint.h"

using namespace app;

/// Documents, and the editors one by one, by key and number.
namespace {

/// True when a JSON pointer names a member of the recipe's file.
bool isInFile(const acre::Recipe& recipe, const QString& pointer) {
  QJsonValue at = QJsonDocument::fromJson(QByteArray::fromStdString(recipeToJson(recipe))).object();
  if (!pointer.startsWith('/')) return false;
  for (const QString& step : pointer.mid(1).split('/')) {
    bool number = false;
    const int index = step.toInt(&number);
    at = at.isArray() && number ? at.toArray().at(index) : at.toObject().value(step);
    if (at.isUndefined()) return false;
  }
  return true;
}

}  // namespace

class EditorsTest : public QObject {
  Q_OBJECT

  std::unique_ptr<acre::Engine> engine_;

 private slots:
  void initTestCase() {
    look::apply(*qApp, false);
    engine_ = makeEngine();
  }

  // ---- the document ----------------------------------------------------------------------------

  void theWorldFollowsTheRecipe() {
    Document document(*engine_);
    QVERIFY(document.open(dryDemo("saltfen-reach"), {}));
    QVERIFY(document.current());
    QVERIFY(!document.before());
    const auto old = document.world();
    const acre::Recipe first = document.recipe();
    acre::Recipe next = first;
    next.heights.layers[0].amplitude += 3;
    QSignalSpy recipes(&document, &Document::recipeChanged);
    QSignalSpy worlds(&document, &Document::worldChanged);
    QVERIFY(document.change(QStringLiteral("Amplitude"), next));
    QCOMPARE(recipes.size(), 1);
    QCOMPARE(document.recipe(), next);
    QVERIFY(!document.current());
    QCOMPARE(document.world(), old);  // Until the new one is there.
    QTRY_VERIFY(document.current());
    QCOMPARE(worlds.size(), 1);
    QCOMPARE(planOf(*document.world()).recipe(), next);
    QCOMPARE(*document.before(), first);
    QCOMPARE(acre::worldFingerprint(*document.world()),
        acre::worldFingerprint(*engine_->compile(next).value()));
  }

  void aLongDragIsFollowedAndEndsWithItsLastValue() {
    Document document(*engine_);
    QVERIFY(document.open(dryDemo("saltfen-reach"), {}));
    const acre::Recipe first = document.recipe();
    QSignalSpy worlds(&document, &Document::worldChanged);
    for (int i = 1; i <= 200; ++i) {
      acre::Recipe next = document.recipe();
      next.heights.layers[0].amplitude = 20 + i * 0.125;
      QVERIFY(document.change(QStringLiteral("Amplitude"), next, QStringLiteral("a")));
      QTest::qWait(1);
      if (i == 100) QTRY_VERIFY(worlds.size() > 0);  // While it goes on, too.
    }
    QTRY_VERIFY(document.current());
    QCOMPARE(planOf(*document.world()).recipe().heights.layers[0].amplitude, 45.0);
    QVERIFY(worlds.size() <= 201);
    QCOMPARE(document.undoStack().count(), 1);
    QCOMPARE(*document.before(), first);  // The drag as a whole.
    document.undoStack().undo();
    document.finish();
    QCOMPARE(planOf(*document.world()).recipe(), first);
    QTest::qWait(50);  // What was still under way changes nothing.
    QCOMPARE(planOf(*document.world()).recipe(), first);
    QVERIFY(document.current());
  }

  /// Steps share the recipe between them, all count against the limit, and the oldest go first.
  void theHistoryStaysWithinItsRoom() {
    acre::EngineOptions options;
    options.memoryLimit = uint64_t{1} << 20;
    options.memoBytes = 0;
    const auto engine = acre::Engine::create(options).value();
    Document document(*engine);
    QVERIFY(document.open(acre::loadRecipe("patchwork-parish").value(), {}));
    const uint64_t one = acre::bytesOf(document.recipe());
    QVERIFY(one > 5'000);
    const int steps = static_cast<int>(2 * options.memoryLimit / one);
    for (int i = 1; i <= steps; ++i) {
      acre::Recipe next = document.recipe();
      next.name = "Step " + std::to_string(i);
      QVERIFY(document.change(QStringLiteral("Step"), next));
      QVERIFY(engine->budget().used() <= options.memoryLimit);
      if (i == 10) QVERIFY(engine->budget().used() < 12 * one);  // Eleven recipes, not twenty.
    }
    QSignalSpy refused(&document, &Document::refused);
    int undone = 0;
    while (refused.isEmpty() && document.undoStack().canUndo()) {
      document.undoStack().undo();
      if (refused.isEmpty())
        QCOMPARE(document.recipe().name, "Step " + std::to_string(steps - ++undone));
    }
    QCOMPARE(refused.size(), 1);  // Said, and nothing changed.
    QCOMPARE(document.recipe().name, "Step " + std::to_string(steps - undone));
    QVERIFY(undone > steps / 4);
    for (int i = 0; i < undone; ++i) document.undoStack().redo();
    QCOMPARE(document.recipe().name, "Step " + std::to_string(steps));

    // Where chunks and pictures have taken all there is, the last steps can still be undone.
    const auto all = engine->budget().reserve(options.memoryLimit - engine->budget().used());
    QVERIFY(all.has_value());
    for (int i = 1; i <= 60; ++i) {
      acre::Recipe next = document.recipe();
      next.name = "Full " + std::to_string(i);
      QVERIFY(document.change(QStringLiteral("Step"), next));
    }
    for (int i = 0; i < 30; ++i) document.undoStack().undo();
    QCOMPARE(document.recipe().name, std::string("Full 30"));
  }

  void finishingBetweenTwoChangesLosesNeither() {
    Document document(*engine_);
    for (int i = 0; i < 40; ++i) {
      acre::Recipe next = document.recipe();
      next.heights.layers[0].amplitude = 1 + i;
      QVERIFY(document.change(QStringLiteral("Amplitude"), next));
      if (i % 2) document.finish();
      next.heights.layers[0].amplitude += 0.5;
      QVERIFY(document.change(QStringLiteral("Amplitude"), next));
      if (i % 3 == 0) QTest::qWait(1);
    }
    QTRY_VERIFY(document.current());
    QCOMPARE(planOf(*document.world()).recipe().heights.layers[0].amplitude, 40.5);
  }

  void whatOnlyCompilingFindsIsTakenBack() {
    QTemporaryDir folder;
    Document document(*engine_);
    const acre::Recipe first = document.recipe();
    acre::Recipe next = first;
    next.folder = folder.path().toStdString();
    next.heights.layers[0].source = acre::PictureSource{};
    std::get<acre::PictureSource>(next.heights.layers[0].source).file = "missing.png";
    QSignalSpy refused(&document, &Document::refused);
    QVERIFY(document.change(QStringLiteral("Picture"), next));
    QTRY_COMPARE(refused.size(), 1);
    QVERIFY(refused[0][0].toString().contains(QStringLiteral("missing.png")));
    QCOMPARE(document.recipe(), first);
    QTRY_VERIFY(document.current());
    QCOMPARE(document.undoStack().count(), 0);
    QVERIFY(!document.modified());
    // The same by finish().
    QVERIFY(document.change(QStringLiteral("Picture"), next));
    document.finish();
    QCOMPARE(document.recipe(), first);
    QCOMPARE(refused.size(), 2);
    QTRY_VERIFY(document.current());
  }

  void picturesAreFoundFromWhereTheRecipeIsSaved() {
    QTemporaryDir folder;
    QVERIFY(QDir(folder.path()).mkpath(QStringLiteral("maps")));
    QVERIFY(QDir(folder.path()).mkpath(QStringLiteral("worlds")));
    QImage grey(4, 4, QImage::Format_Grayscale8);
    for (int j = 0; j < 4; ++j)
      for (int i = 0; i < 4; ++i) grey.setPixel(i, j, qRgb(i * 60, i * 60, i * 60));
    QVERIFY(grey.save(folder.filePath(QStringLiteral("maps/isle.png"))));
    Document document(*engine_);
    acre::Recipe next = document.recipe();
    next.folder = folder.filePath(QStringLiteral("maps")).toStdString();
    acre::PictureSource picture;
    picture.file = "isle.png";
    picture.scale = 8;
    next.heights.layers[0].source = picture;
    QVERIFY(document.open(next, {}));
    const auto print = acre::worldFingerprint(*document.world());
    const QString file = folder.filePath(QStringLiteral("worlds/w.acre"));
    QVERIFY(document.save(file).ok());
    QCOMPARE(std::get<acre::PictureSource>(document.recipe().heights.layers[0].source).file,
        std::string("../maps/isle.png"));
    const auto again = acre::readRecipeFile(file.toStdString());
    QVERIFY(again.ok());
    QCOMPARE(*again, document.recipe());
    Document second(*engine_);
    QVERIFY(second.open(*again, file));
    QCOMPARE(acre::worldFingerprint(*second.world()), print);
  }

  void commandsNameWhatIsShown() {
    Document document(*engine_);
    QCOMPARE(commandFor(document, QStringLiteral("check")), QStringLiteral("acre check FILE.acre"));
    QVERIFY(document.open(dryDemo("first-steps"), {}, QStringLiteral("first-steps")));
    QCOMPARE(commandFor(document, QStringLiteral("census"), QStringLiteral("--json")),
        QStringLiteral("acre census first-steps --json"));
    acre::Recipe next = document.recipe();
    next.seed = "it's";
    QVERIFY(document.change(QStringLiteral("Seed"), next));
    QCOMPARE(commandFor(document, QStringLiteral("check")),
        QStringLiteral("acre check first-steps --seed 'it'\\''s'"));
    QVERIFY(!commandLacksChanges(document));
    next.frame.seaLevel += 1;
    QVERIFY(document.change(QStringLiteral("Sea"), next));
    QVERIFY(commandLacksChanges(document));
    QTemporaryDir folder;
    const QString file = folder.filePath(QStringLiteral("my world.acre"));
    QVERIFY(document.save(file).ok());
    QVERIFY(!commandLacksChanges(document));
    QCOMPARE(
        commandFor(document, QStringLiteral("info")), QStringLiteral("acre info '%1'").arg(file));
  }

  void aKilledProgramLosesNothingOlderThanItsLastCopy() {
    QTemporaryDir folder;
    for (int round = 0; round < 4; ++round) {
      const QString copies = folder.filePath(QString::number(round));
      QProcess child;
      child.start(
          QCoreApplication::applicationFilePath(), {QStringLiteral("edit-for-ever"), copies});
      QVERIFY(child.waitForStarted());
      // Killed at some moment after it has said what its copy holds.
      QByteArray said;
      while (said.count('\n') < 3 + 7 * round) {
        QVERIFY(child.waitForReadyRead(10000));
        said += child.readAllStandardOutput();
      }
      child.kill();
      child.waitForFinished();
      said += child.readAllStandardOutput();
      const qsizetype end = said.lastIndexOf('\n');
      const int kept = said.mid(said.lastIndexOf('\n', end - 1) + 1, 20).split('\n')[0].toInt();
      QVERIFY(kept > 0);
      Document document(*engine_);
      Autosave autosave(document, copies, 1000);
      const auto found = autosave.findLost().newest;
      QVERIFY(found.has_value());
      QVERIFY2(QByteArray::fromStdString(found->recipe.seed).toInt() >= kept,
          qPrintable(QStringLiteral("%1 against %2")
                         .arg(QString::fromStdString(found->recipe.seed))
                         .arg(kept)));
      QVERIFY(document.recover(found->recipe, found->file));
    }
  }

  /// Told to end by a signal, the program keeps what is unsaved and ends in an orderly way.
  void signalsEndWithACopy() {
    QTemporaryDir folder;
    for (const int signal : {SIGTERM, SIGHUP, SIGINT}) {
      const QString copies = folder.filePath(QString::number(signal));
      QProcess child;
      child.setProcessChannelMode(QProcess::ForwardedErrorChannel);
      child.start(
          QCoreApplication::applicationFilePath(), {QStringLiteral("wait-for-the-end"), copies});
      QVERIFY(child.waitForStarted());
      QVERIFY(child.waitForReadyRead(60000));
      QVERIFY(::kill(static_cast<pid_t>(child.processId()), signal) == 0);
      QVERIFY(child.waitForFinished(60000));
      QCOMPARE(child.exitStatus(), QProcess::NormalExit);
      QCOMPARE(child.exitCode(), 0);
      Document document(*engine_);
      const auto lost = Autosave(document, copies).findLost();
      QVERIFY(lost.newest.has_value());
      QCOMPARE(lost.newest->recipe.seed, std::string("unsaved"));
    }
  }

  // ---- curves ----------------------------------------------------------------------------------

  void curvesAreShapedByKeys() {
    CurveView view;
    view.resize(370, 140);
    view.setInput(0, 1, {1, 2, 3, 4});
    acre::Curve curve = {{0, 0}, {0.5, 0.25}, {1, 1}};
    view.setCurve(curve);
    QSignalSpy edited(&view, &CurveView::edited);
    connect(&view, &CurveView::edited, &view, [&](const acre::Curve& next, bool) {
      curve = next;
      view.setCurve(next);
    });
    present(view);
    QTRY_VERIFY(view.hasFocus());
    QCOMPARE(view.chosenPoint(), 0);
    QTest::keyClick(&view, Qt::Key_Tab);
    QCOMPARE(view.chosenPoint(), 1);
    QTest::keyClick(&view, Qt::Key_Right);
    QVERIFY(std::abs(curve[1].x - 0.51) < 1e-9);
    QTest::keyClick(&view, Qt::Key_Left, Qt::ShiftModifier);
    QVERIFY(std::abs(curve[1].x - 0.41) < 1e-9);
    const double y = curve[1].y;
    QTest::keyClick(&view, Qt::Key_Up);
    QVERIFY(curve[1].y > y);
    QTest::keyClick(&view, Qt::Key_Down);
    QTest::keyClick(&view, Qt::Key_Down);
    QVERIFY(curve[1].y < y);
    // However far it is pushed, it stays between its neighbours.
    for (int i = 0; i < 30; ++i) QTest::keyClick(&view, Qt::Key_Left, Qt::ShiftModifier);
    QVERIFY(curve[0].x < curve[1].x && curve[1].x < 0.01);
    for (int i = 0; i < 30; ++i) QTest::keyClick(&view, Qt::Key_Right, Qt::ShiftModifier);
    QVERIFY(curve[1].x < curve[2].x && curve[1].x > 0.99);
    QTest::keyClick(&view, Qt::Key_Insert);
    QCOMPARE(curve.size(), size_t{4});
    QCOMPARE(view.chosenPoint(), 2);
    QTest::keyClick(&view, Qt::Key_Delete);
    QTest::keyClick(&view, Qt::Key_Delete);
    QCOMPARE(curve.size(), size_t{2});
    const auto before = edited.size();
    QTest::keyClick(&view, Qt::Key_Delete);  // Two stay.
    QCOMPARE(edited.size(), before);
  }

  void aClickOnTheCurveAddsAPoint() {
    CurveView view;
    view.resize(370, 140);
    acre::Curve curve = {{0, 0}, {1, 1}};
    view.setCurve(curve);
    connect(&view, &CurveView::edited, &view, [&](const acre::Curve& next, bool) {
      curve = next;
      view.setCurve(next);
    });
    view.show();
    const QPoint middle = view.toScreen({0.5, 0.5}).toPoint();
    QTest::mouseClick(&view, Qt::LeftButton, {}, middle + QPoint(0, 40));  // Beside it: nothing.
    QCOMPARE(curve.size(), size_t{2});
    QTest::mouseClick(&view, Qt::LeftButton, {}, middle);
    QCOMPARE(curve.size(), size_t{3});
    QVERIFY(std::abs(curve[1].x - 0.5) < 0.02 && std::abs(curve[1].y - 0.5) < 0.02);
  }

  // ---- the histogram ---------------------------------------------------------------------------

  void stakesAreSetByKeys() {
    Desk<HeightsEditor> desk(*engine_);
    QTRY_VERIFY_WITH_TIMEOUT(desk.statistics.current(), 60000);
    Histogram& histogram = desk.editor.histogram();
    histogram.setFocus();
    QTRY_VERIFY(histogram.hasFocus());
    while (histogram.chosenStake() > 0) QTest::keyClick(&histogram, Qt::Key_Backtab);
    const double sea = desk.document.recipe().frame.seaLevel;
    QTest::keyClick(&histogram, Qt::Key_Right);
    const double one = desk.document.recipe().frame.seaLevel - sea;
    QVERIFY(one > 0);
    QTest::keyClick(&histogram, Qt::Key_Left);
    QTest::keyClick(&histogram, Qt::Key_Right, Qt::ShiftModifier);
    const double ten = desk.document.recipe().frame.seaLevel - sea;
    QVERIFY(ten > 8 * one && ten < 12 * one);
    // By share and back by value: the level stays where it is.
    const double level = desk.document.recipe().frame.seaLevel;
    QTest::keyClick(&histogram, Qt::Key_S);
    QVERIFY(desk.document.recipe().frame.seaShare.has_value());
    desk.document.finish();
    QVERIFY(histogram.stakes()[0].words.contains(QStringLiteral("holds its share")));
    QVERIFY(std::abs(planOf(*desk.document.world()).seaLevel() - level) < one);
    QTest::keyClick(&histogram, Qt::Key_V);
    QVERIFY(!desk.document.recipe().frame.seaShare);
    QVERIFY(std::abs(desk.document.recipe().frame.seaLevel - level) < one);
    // The sea cannot be taken away, bands can.
    QSignalSpy refused(&histogram, &Histogram::refused);
    QTest::keyClick(&histogram, Qt::Key_Delete);
    QCOMPARE(refused.size(), 1);
    QTest::keyClick(&histogram, Qt::Key_Tab);
    const size_t bands = desk.document.recipe().bands.size();
    QTest::keyClick(&histogram, Qt::Key_Insert);
    QCOMPARE(desk.document.recipe().bands.size(), bands + 1);
    QTest::keyClick(&histogram, Qt::Key_Delete);
    QCOMPARE(desk.document.recipe().bands.size(), bands);
    QSignalSpy typed(&histogram, &Histogram::typeRequested);
    QTest::keyClick(&histogram, Qt::Key_Return);
    QCOMPARE(typed.size(), 1);
  }

  void aPushedStakeTakesItsNeighboursAlong() {
    Desk<HeightsEditor> desk(*engine_);
    QTRY_VERIFY_WITH_TIMEOUT(desk.statistics.current(), 60000);
    Histogram& histogram = desk.editor.histogram();
    const auto values = [&] {
      desk.document.finish();
      std::vector<double> out;
      for (const auto& stake : histogram.stakes())
        if (stake.band >= 0) out.push_back(stake.value);
      return out;
    };
    const auto old = values();
    QVERIFY(old.size() >= 3);
    histogram.moveStake(1, old[2] + 0.5);  // The first band, past the third.
    const auto now = values();
    QVERIFY(std::is_sorted(now.begin(), now.end()));
    QVERIFY(std::abs(now[0] - (old[2] + 0.5)) < 0.3);
    desk.document.undoStack().undo();
    QCOMPARE(values(), old);
  }

  // ---- layers ----------------------------------------------------------------------------------

  void ticksOpenTheirControls() {
    Desk<HeightsEditor> desk(*engine_, "first-steps");
    desk.editor.waves().choose("hills");
    QVERIFY(!desk.has(QStringLiteral("layer.clamp.low")));
    desk.tick(QStringLiteral("layer.clamp"));
    QVERIFY(desk.layer("hills").clamp.has_value());
    desk.type(QStringLiteral("layer.clamp.low"), QStringLiteral("-2"));
    desk.type(QStringLiteral("layer.clamp.high"), QStringLiteral("3"));
    QCOMPARE(desk.layer("hills").clamp->low, -2.0);
    QCOMPARE(desk.layer("hills").clamp->high, 3.0);
    // A clamp upside down is refused, and says what would do.
    QSignalSpy refused(&desk.document, &Document::refused);
    desk.type(QStringLiteral("layer.clamp.low"), QStringLiteral("7"));
    QCOMPARE(refused.size(), 1);
    QCOMPARE(desk.layer("hills").clamp->low, -2.0);
    desk.tick(QStringLiteral("layer.clamp"));
    QVERIFY(!desk.layer("hills").clamp);

    desk.tick(QStringLiteral("layer.warp"));
    desk.type(QStringLiteral("layer.warp.cells"), QStringLiteral("12"));
    desk.type(QStringLiteral("layer.warp.width"), QStringLiteral("60"));
    desk.pick(QStringLiteral("layer.warp.passes"), 2);
    QCOMPARE(desk.layer("hills").warp->cells, 12.0);
    QCOMPARE(desk.layer("hills").warp->noise.width, 60.0);
    QCOMPARE(desk.layer("hills").warp->passes, 3);

    desk.tick(QStringLiteral("layer.curve"));
    QVERIFY(desk.layer("hills").curve.size() >= 2);
    QVERIFY(desk.editor.findChild<CurveView*>() != nullptr);
    desk.tick(QStringLiteral("layer.equalise"));
    QVERIFY(desk.layer("hills").equalise);
    desk.tick(QStringLiteral("layer.rotate"));
    QVERIFY(std::get<acre::NoiseSource>(desk.layer("hills").source).rotate);
    desk.document.finish();
    const auto print = acre::worldFingerprint(*desk.document.world());
    const int steps = desk.document.undoStack().index();
    while (desk.document.undoStack().canUndo()) desk.document.undoStack().undo();
    QCOMPARE(desk.document.recipe(), dryDemo("first-steps"));
    while (desk.document.undoStack().canRedo()) desk.document.undoStack().redo();
    QCOMPARE(desk.document.undoStack().index(), steps);
    desk.document.finish();
    QCOMPARE(acre::worldFingerprint(*desk.document.world()), print);
  }

  void masksAreMadeOfFields() {
    Desk<HeightsEditor> desk(*engine_);
    desk.editor.waves().choose("grain");
    const bool had = desk.layer("grain").mask.has_value();
    desk.pick(QStringLiteral("layer.mask"), had ? 0 : 1);
    QVERIFY(desk.layer("grain").mask.has_value() != had);
    if (had) desk.pick(QStringLiteral("layer.mask"), 1);
    QCOMPARE(desk.layer("grain").mask->field, std::string("uplands"));
    if (!desk.has(QStringLiteral("layer.mask.low"))) desk.tick(QStringLiteral("layer.mask.hasLow"));
    desk.type(QStringLiteral("layer.mask.low"), QStringLiteral("0.25"));
    QCOMPARE(*desk.layer("grain").mask->low, 0.25);
    desk.type(QStringLiteral("layer.mask.soft"), QStringLiteral("0.1"));
    QCOMPARE(desk.layer("grain").mask->soft, 0.1);
    if (desk.has(QStringLiteral("layer.mask.high")))
      desk.tick(QStringLiteral("layer.mask.hasHigh"));
    QVERIFY(!desk.layer("grain").mask->high);
  }

  void climateFieldsAreEditedLikeOthers() {
    {
      Desk<HeightsEditor> heights(*engine_);
      // Heights cannot read themselves, nor what comes after them.
      QVERIFY(!heights.child<QAction>(QStringLiteral("heights.add.Altitude above the sea"))
                   ->isVisible());
      QCOMPARE(heights.child<Choice>(QStringLiteral("heights.field"))
                   ->findData(QStringLiteral("moisture")),
          -1);
      QCOMPARE(heights.child<Choice>(QStringLiteral("layer.mask"))
                   ->findText(QStringLiteral("where Temperature")),
          -1);
    }
    Desk<ClimateEditor> desk(*engine_);
    desk.editor.fields().chooseField(acre::kMoistureId);
    auto* altitude = desk.child<QAction>(QStringLiteral("heights.add.Altitude above the sea"));
    QVERIFY(altitude->isVisible());
    altitude->trigger();
    const acre::FieldRecipe& wet = desk.document.recipe().climate.moisture.field;
    QCOMPARE(wet.layers.size(), size_t{2});
    QVERIFY(std::holds_alternative<acre::AltitudeSource>(wet.layers[1].source));
    // A mask may be any field that comes before or beside it, and shows which it is.
    desk.editor.fields().waves().choose("rain");
    auto* mask = desk.child<Choice>(QStringLiteral("layer.mask"));
    const int warm = mask->findText(QStringLiteral("where Temperature"));
    QVERIFY(warm > 0 && mask->findText(QStringLiteral("where Heights")) > 0);
    desk.pick(QStringLiteral("layer.mask"), warm);
    QCOMPARE(wet.layers[0].mask->field, std::string(acre::kTemperatureId));
    QCOMPARE(desk.child<Choice>(QStringLiteral("layer.mask"))->currentText(),
        QStringLiteral("where Temperature"));
  }

  void everyKindOfLayerIsAddedAndEdited_data() {
    QTest::addColumn<QString>("name");
    QTest::addColumn<QStringList>("numbers");
    const auto row = [](const char* name, const QStringList& numbers) {
      QTest::newRow(name) << QString::fromLatin1(name) << numbers;
    };
    for (const char* noise : {"Gradient noise", "Ridges", "Billows", "Simplex noise", "Value noise",
             "Gradient noise, table of 2002"})
      row(noise, {QStringLiteral("width"), QStringLiteral("amplitude"), QStringLiteral("offset")});
    row("Cellular noise", {QStringLiteral("width"), QStringLiteral("amplitude")});
    row("White noise", {QStringLiteral("amplitude")});
    row("Equalise", {QStringLiteral("amplitude")});
    row("Constant", {QStringLiteral("value")});
    row("Ramp", {QStringLiteral("to"), QStringLiteral("from")});
    row("Distance to a point", {QStringLiteral("x"), QStringLiteral("z"), QStringLiteral("reach")});
    row("Island",
        {QStringLiteral("x"), QStringLiteral("z"), QStringLiteral("radius"), QStringLiteral("edge"),
            QStringLiteral("wobble"), QStringLiteral("wobbleWidth")});
    row("Terraces", {QStringLiteral("height")});
    row("Fold", {QStringLiteral("centre")});
    row("Rescale", {QStringLiteral("fromHigh"), QStringLiteral("toLow"), QStringLiteral("toHigh"),
                       QStringLiteral("fromLow")});
  }
  void everyKindOfLayerIsAddedAndEdited() {
    QFETCH(QString, name);
    QFETCH(QStringList, numbers);
    Desk<HeightsEditor> desk(*engine_, "first-steps");
    desk.child<QAction>(QStringLiteral("heights.add.") + name)->trigger();
    QCOMPARE(desk.document.recipe().heights.layers.size(), size_t{4});
    const std::string id = desk.editor.chosenLayer();
    QCOMPARE(desk.document.recipe().heights.layers.back().id, id);
    double value = 17;
    for (const QString& number : numbers) {
      const acre::Recipe before = desk.document.recipe();
      desk.type(QStringLiteral("layer.") + number, look::number(value));
      QVERIFY2(!(desk.document.recipe() == before), qPrintable(number));
      QCOMPARE(desk.child<NumberField>(QStringLiteral("layer.") + number)->value(), value);
      value += 3;
    }
    desk.document.finish();
    QVERIFY(planOf(*desk.document.world()).heightField().stepOf(id) >= 0);
    // Written and read again it is the same.
    const auto again = acre::recipeFromJson(acre::recipeToJson(desk.document.recipe()));
    QVERIFY(again.ok());
    QCOMPARE(*again, desk.document.recipe());
  }

  /// What rivers and lakes say is a layer of further fields, and nothing that comes before them is
  /// offered such a field.
  void furtherFieldsReadFreshWater() {
    Desk<HeightsEditor> desk(*engine_, "first-steps");
    auto* offer = desk.child<QAction>(QStringLiteral("heights.add.Rivers and lakes"));
    QVERIFY(!offer->isVisible());
    desk.child<QPushButton>(QStringLiteral("heights.addField"))->click();
    QVERIFY(offer->isVisible());
    offer->trigger();
    const acre::FieldRecipe& field = desk.document.recipe().fields.back();
    const auto told = [&] {
      return std::get<acre::FreshWaterSource>(field.layers.back().source).tells;
    };
    QCOMPARE(told(), acre::FreshWaterSource::Tells::Shore);
    desk.pick(QStringLiteral("layer.tells"), 1);
    QCOMPARE(told(), acre::FreshWaterSource::Tells::Level);
    desk.document.finish();
    QVERIFY(readsFreshWater(desk.document.recipe(), field));
    const auto early = fieldsBeforeWater(desk.document.recipe());
    QVERIFY(std::find(early.begin(), early.end(), &field) == early.end());
    QVERIFY(!early.empty());
  }

  void tooltipsShowALowAndAHighValue() {
    Desk<HeightsEditor> desk(*engine_, "first-steps");
    MapGeometry geometry;
    geometry.size = {800, 600};
    desk.editor.setView(geometry);
    desk.editor.waves().choose("land");
    auto* field = desk.child<NumberField>(QStringLiteral("layer.width"));
    QVERIFY(!field->toolTip().isEmpty());
    QCursor::setPos(field->mapToGlobal(QPoint(10, 10)));
    QTest::qWait(20);
    field->setAttribute(Qt::WA_UnderMouse);  // Where the platform has no pointer of its own.
    QHelpEvent help(QEvent::ToolTip, QPoint(10, 10), field->mapToGlobal(QPoint(10, 10)));
    QApplication::sendEvent(field, &help);
    QTRY_VERIFY(QToolTip::text().contains(QStringLiteral("<img")));
    // Made from the present recipe, which is left as it is.
    QCOMPARE(desk.document.recipe(), dryDemo("first-steps"));
    QToolTip::hideText();
  }

  // ---- strata ----------------------------------------------------------------------------------

  void slopesAndEdgesAreEdited() {
    Desk<StrataEditor> desk(*engine_);
    const auto& recipe = [&]() -> const acre::Recipe& { return desk.document.recipe(); };
    const size_t slopes = recipe().slopes.size();
    desk.child<QPushButton>(QStringLiteral("strata.addSlope"))->click();
    QCOMPARE(recipe().slopes.size(), slopes + 1);
    const auto& added = recipe().slopes.back();
    const QString key = QStringLiteral("slope.") + QString::fromStdString(added.id);
    desk.type(key + QStringLiteral(".from"), QStringLiteral("0.75"));
    QCOMPARE(recipe().slopes.back().from, 0.75);
    desk.type(key + QStringLiteral(".above"), QStringLiteral("6"));
    QCOMPARE(recipe().slopes.back().above->value, 6.0);
    desk.pick(key + QStringLiteral(".material"), 0);
    desk.child<QToolButton>(key + QStringLiteral(".delete"))->click();
    QCOMPARE(recipe().slopes.size(), slopes);

    const QString band = QStringLiteral("band.") + QString::fromStdString(recipe().bands[1].id);
    for (const auto& [index, kind] :
        {std::pair(1, acre::Edge::Kind::Dithered), std::pair(2, acre::Edge::Kind::Dithered),
            std::pair(3, acre::Edge::Kind::Noisy), std::pair(0, acre::Edge::Kind::Hard)}) {
      desk.pick(band + QStringLiteral(".edge"), index);
      QCOMPARE(recipe().bands[1].edge.kind, kind);
      QCOMPARE(recipe().bands[1].edge.squared, index == 2);
    }
    desk.pick(band + QStringLiteral(".edge"), 1);
    desk.type(band + QStringLiteral(".edgeWidth"), QStringLiteral("2.5"));
    QCOMPARE(recipe().bands[1].edge.width, 2.5);
    QTRY_VERIFY_WITH_TIMEOUT(desk.statistics.current(), 60000);
    desk.pick(band + QStringLiteral(".hold"), 1);
    QVERIFY(recipe().bands[1].below->share.has_value());
    desk.pick(band + QStringLiteral(".hold"), 0);
    QVERIFY(!recipe().bands[1].below->share);
  }

  // ---- the plumb card --------------------------------------------------------------------------

  void theCardIsReadByKeysAndSaysWhatItWas() {
    acre::Recipe recipe = dryDemo("saltfen-reach");
    const auto world = engine_->compile(recipe).value();
    const acre::Cell cell{120, -340};
    const acre::Plumb plumb = acre::plumbAt(*world, cell).value();
    PlumbCard card;
    QVERIFY(!card.isVisible());
    card.setPlumb(plumb);
    card.show();
    card.setFocus();
    const int folded = card.neededHeight();
    QSignalSpy chosen(&card, &PlumbCard::pointerChosen);
    QSignalSpy copied(&card, &PlumbCard::copyRequested);
    QSignalSpy closed(&card, &PlumbCard::closeRequested);
    QTest::keyClick(&card, Qt::Key_Down);
    QTest::keyClick(&card, Qt::Key_Return);
    QCOMPARE(chosen.size(), 1);
    // Every pointer names a place of the recipe.
    for (int i = 0; i < 120; ++i) {
      QTest::keyClick(&card, Qt::Key_Down);
      if (i < 3) QTest::keyClick(&card, Qt::Key_Return);
    }
    QVERIFY(chosen.size() > 1);
    for (const auto& call : chosen)
      QVERIFY2(isInFile(recipe, call[0].toString()), qPrintable(call[0].toString()));
    // The last line opens every layer, and closes them.
    QTest::keyClick(&card, Qt::Key_Return);
    QVERIFY(card.neededHeight() > folded);
    for (int i = 0; i < 120; ++i) QTest::keyClick(&card, Qt::Key_Down);
    QTest::keyClick(&card, Qt::Key_Return);
    QCOMPARE(card.neededHeight(), folded);
    QTest::keyClick(&card, Qt::Key_C, Qt::ControlModifier);
    QCOMPARE(copied.size(), 1);
    QCOMPARE(copied[0][0].toString(), QStringLiteral("text"));
    QTest::keyClick(&card, Qt::Key_Escape);
    QCOMPARE(closed.size(), 1);
    // After a change the rows tell what they were, which takes room.
    recipe.heights.layers[0].offset += 0.0625;
    card.setPlumb(acre::plumbAt(*engine_->compile(recipe).value(), cell).value());
    QVERIFY(card.neededHeight() > folded);
    // A second line shows differences alone; none with itself.
    card.setSecond(plumb);
    QVERIFY(card.second().has_value());
    const int differences = card.neededHeight();
    card.setSecond(*card.plumb());
    QVERIFY(card.neededHeight() < differences);
    card.clear();
    QVERIFY(!card.isVisible() && !card.plumb());
  }

  /// With room for a few lines the wheel and the keys bring the rest, and sentences are not cut.
  void theCardScrollsWhereItHasNoRoom() {
    const auto world = engine_->compile(dryDemo("saltfen-reach")).value();
    PlumbCard card;
    card.setPlumb(acre::plumbAt(*world, {120, -340}).value());
    const int folded = card.neededHeight();
    for (int i = 0; i < 60; ++i) QTest::keyClick(&card, Qt::Key_Down);
    QTest::keyClick(&card, Qt::Key_Return);  // Every layer.
    const int all = card.neededHeight();
    QVERIFY(all > folded);
    constexpr int kHeight = 150;
    card.resize(PlumbCard::kCardWidth, kHeight);
    present(card);
    const QImage top = card.grab().toImage();
    const auto wheel = [&](int by) {
      QWheelEvent turn(QPointF(60, 90), card.mapToGlobal(QPointF(60, 90)), {}, QPoint(0, by),
          Qt::NoButton, {}, Qt::NoScrollPhase, false);
      QApplication::sendEvent(&card, &turn);
    };
    wheel(-120);
    QVERIFY(card.grab().toImage() != top);
    wheel(1200);
    QCOMPARE(card.grab().toImage(), top);
    wheel(-100'000);  // As far as there is anything.
    QTest::mouseClick(&card, Qt::LeftButton, {}, QPoint(60, kHeight - 18));
    QCOMPARE(card.neededHeight(), folded);  // The last line was there, and folds.
    card.resize(PlumbCard::kCardWidth, kHeight);
    for (int i = 0; i < 60; ++i) QTest::keyClick(&card, Qt::Key_Down);
    const QImage last = card.grab().toImage();
    QTest::keyClick(&card, Qt::Key_Up);
    QVERIFY(card.grab().toImage() != last);  // What is chosen is in sight.
  }

  // ---- looks -----------------------------------------------------------------------------------

  void nightChangesThePanelsAndNotTheWorld() {
    Desk<HeightsEditor> desk(*engine_, "first-steps");
    QTRY_VERIFY_WITH_TIMEOUT(desk.statistics.current(), 60000);
    QTRY_VERIFY(desk.editor.waves().settled());
    const QImage day = desk.editor.grab().toImage();
    look::apply(*qApp, true);
    desk.editor.refresh();
    const QImage night = desk.editor.grab().toImage();
    look::apply(*qApp, false);
    desk.editor.refresh();
    const auto brightness = [](const QImage& image) {
      double sum = 0;
      for (int y = 0; y < image.height(); y += 7)
        for (int x = 0; x < image.width(); x += 7) sum += qGray(image.pixel(x, y));
      return sum / (image.width() / 7.0) / (image.height() / 7.0);
    };
    QVERIFY(brightness(day) > 180);
    QVERIFY(brightness(night) < 100);
    QCOMPARE(desk.editor.grab().toImage(), day);
  }
};

namespace {

/// The program that is going to be killed: changes its world for ever, and says from time to time
/// which change its copy holds.
int editForEver() {
  const QString copies = QCoreApplication::arguments().at(1);
  const auto engine = makeEngine();
  Document document(*engine);
  Autosave autosave(document, copies, 1);
  const QString own = QStringLiteral("%1/unsaved-%2.acre").arg(copies).arg(getpid());
  for (int i = 1;; ++i) {
    acre::Recipe next = document.recipe();
    next.seed = std::to_string(i);
    document.change(QStringLiteral("Seed"), next);
    QTest::qWait(2);
    QFile copy(own);
    if (!copy.open(QIODevice::ReadOnly)) continue;
    const QByteArray text = copy.readAll();
    const auto recipe = acre::recipeFromJson(text.mid(text.indexOf('\n') + 1).toStdString());
    if (recipe) std::printf("%s\n", recipe->seed.c_str());
    std::fflush(stdout);
  }
}

/// The program that is told to end, with a copy that would take an hour to come by itself.
int waitForTheEnd() {
  const auto engine = makeEngine();
  Document document(*engine);
  Autosave autosave(document, QCoreApplication::arguments().at(1), 3'600'000);
  acre::Recipe next = document.recipe();
  next.seed = "unsaved";
  document.change(QStringLiteral("Seed"), next);
  const EndSignals ends([&] {
    autosave.saveNow();
    QCoreApplication::exit();
  });
  std::printf("ready\n");
  std::fflush(stdout);
  return QCoreApplication::exec();
}

}  // namespace

ACRE_SUITE(EditorsTest)
static const suite::Registered ending({"wait-for-the-end", {}, waitForTheEnd});
static const suite::Registered editing({"edit-for-ever", {}, editForEver});

#include "editors_test.moc"
