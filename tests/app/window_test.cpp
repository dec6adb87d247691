#include <QAction>
#include <QApplication>
#include <QDropEvent>
#include <QMimeData>
#include <QWheelEvent>
#include <QtTest>

#include "app/look/look.h"
#include "app/window/export_dialog.h"
#include "app/window/main_window.h"
#include "output/map_writer.h"
#include "world/demos.h"
#include "world/fingerprint.h"

using namespace app;

namespace {

/// Answers in the user's place.
class Answers : public Dialogs {
 public:
  QString open, save, text;
  Unsaved unsaved = Unsaved::Discard;
  int asked = 0;
  QString openFile(QWidget*, const QString&, const QString&) override { return open; }
  QString saveFile(QWidget*, const QString&, const QString&, const QString&) override {
    return save;
  }
  Unsaved askUnsaved(QWidget*, const QString&) override { return ++asked, unsaved; }
  std::optional<QString> askText(QWidget*, const QString&, const QString&,
                                 const QString&) override {
    return text;
  }
  void tell(QWidget*, const QString&, const QString&) override {}
};

}  // namespace

/// Drives the real window by keys, pointer and actions.
class WindowTest : public QObject {
  Q_OBJECT

  QTemporaryDir dir_;
  std::unique_ptr<acre::Engine> engine_;
  std::unique_ptr<Settings> settings_;
  Answers answers_;
  std::unique_ptr<MainWindow> window_;

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
    QTRY_VERIFY_WITH_TIMEOUT(map().settled(), 10000);
    QTRY_COMPARE_WITH_TIMEOUT(map().streamStats().held, map().streamStats().expected, 10000);
  }
  QImage picture() {
    settle();
    // Without the frame, which shows the focus, and the row of the scale bar: where a machine has
    // the serif face in two formats, the font engine may take either from one call to the next.
    return map().grab(map().pictureRect().adjusted(2, 2, -2, -40)).toImage();
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
    window_ = std::make_unique<MainWindow>(*engine_, *settings_, answers_);
    QVERIFY(window_->openWorld(QStringLiteral("saltfen-reach")));
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
    QTRY_COMPARE(map().heldChunks(), map().streamStats().expected);
    QVERIFY(map().heldChunks() > 100);
    // The middle of the picture is ground, not paper.
    QVERIFY(picture().pixelColor(40, 40) != QColor::fromRgb(acre::kPaperColour));
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
    settle();
    const MapGeometry g = map().geometry();
    QCOMPARE(g.cellsPerPixel, 1.0);
    const acre::Cell corner = g.toWorld({0, 0}).cell;
    const QImage screen = picture();
    const acre::SampleGrid grid{corner.x + 100, corner.z + 50, 1, 200, 60};
    const auto samples = acre::sampleWithRim(*window_->document().world(), grid).value();
    const acre::Palette palette(*window_->document().world());
    // The first pixel may show the cell beside the corner: find the shift once, then compare
    // everything.
    std::vector<uint32_t> row(200);
    bool equal = false;
    for (int dx = -1; dx <= 1 && !equal; ++dx)
      for (int dz = -1; dz <= 1 && !equal; ++dz) {
        equal = true;
        for (int32_t j = 0; j < 60 && equal; ++j) {
          palette.paintRow(acre::PictureKind::Composite, samples, j, acre::Unassigned::Hatched,
                           row.data());
          for (int i = 0; i < 200 && equal; ++i)
            equal = screen.pixel(98 + i + dx, 48 + j + dz) == row[static_cast<size_t>(i)];
        }
      }
    QVERIFY(equal);
  }

  void aDraggedWidthChangesTheMapAndUndoesWhole() {
    const acre::Digest before = acre::worldFingerprint(*window_->document().world());
    const QImage old = picture();
    auto* width = child<NumberField>("layer.rises.width");
    QTest::mousePress(width, Qt::LeftButton, {}, {60, 10});
    for (int x = 55; x > -60; x -= 5) {
      QTest::mouseMove(width, {x, 10});
      QVERIFY(std::get<acre::GradientSource>(recipe().heights[0].source).width <= 900);
    }
    const double dragged = std::get<acre::GradientSource>(recipe().heights[0].source).width;
    QVERIFY(dragged < 600);
    QVERIFY(picture() != old);  // While the button is still down.
    QTest::mouseRelease(width, Qt::LeftButton, {}, {-60, 10});
    QCOMPARE(window_->document().undoStack().count(), 1);  // One drag, one step.
    act("edit.undo");
    QCOMPARE(acre::worldFingerprint(*window_->document().world()), before);
    QVERIFY(picture() == old);
    act("edit.redo");
    QCOMPARE(std::get<acre::GradientSource>(recipe().heights[0].source).width, dragged);
  }

  void layersAreAddedSwitchedMovedAndDeleted() {
    QTest::mouseClick(child<QPushButton>("heights.addNoise"), Qt::LeftButton);
    QCOMPARE(recipe().heights.size(), size_t{4});
    const std::string id = recipe().heights.back().id;
    const auto name = [&](const char* what) { return ("layer." + id + what); };
    child<QAction>(name(".up").c_str())->trigger();
    QCOMPARE(recipe().heights[2].id, id);
    QCoreApplication::sendPostedEvents(nullptr, QEvent::DeferredDelete);
    child<Tick>(name(".on").c_str())->click();
    QVERIFY(!recipe().heights[2].on);
    type(child<NumberField>(name(".octaves").c_str()), QStringLiteral("6"));
    QCOMPARE(std::get<acre::GradientSource>(recipe().heights[2].source).octaves, 6);
    type(child<NumberField>(name(".width").c_str()),
         QStringLiteral("0.5"));  // Six octaves of it are too fine.
    QVERIFY(window_->notice().contains(QStringLiteral("octave")));
    QCOMPARE(std::get<acre::GradientSource>(recipe().heights[2].source).width, 64.0);
    QCOMPARE(child<NumberField>(name(".width").c_str())->value(), 64.0);
    child<QAction>(name(".duplicate").c_str())->trigger();
    QCOMPARE(recipe().heights.size(), size_t{5});
    QVERIFY(recipe().heights[3].id != id);
    QCoreApplication::sendPostedEvents(nullptr, QEvent::DeferredDelete);
    child<QAction>(name(".delete").c_str())->trigger();
    QCOMPARE(recipe().heights.size(), size_t{4});
    while (window_->document().undoStack().canUndo()) act("edit.undo");
    QVERIFY(recipe() == acre::loadRecipe("saltfen-reach").value());
  }

  void theSeaTakesItsBandsAlong() {
    const auto share = [&] {  // As Strata shows it; then back to Frame.
      map().setFocus();
      QTest::keyClick(&map(), Qt::Key_3);
      const QString text = child<QLabel>("band.deep.share")->text();
      QTest::keyClick(&map(), Qt::Key_1);
      return text.split(' ').front().toDouble();
    };
    QTRY_VERIFY(share() > 1);
    const double before = share();
    const QImage old = picture();
    type(child<NumberField>("frame.sea"), QStringLiteral("-6"));
    QCOMPARE(recipe().frame.seaLevel, -6.0);
    QVERIFY(share() < before);
    QVERIFY(picture() != old);
    type(child<NumberField>("frame.chunk"), QStringLiteral("20"));
    QTRY_COMPARE(map().heldChunks(), map().streamStats().expected);
    QCOMPARE(window_->document().world()->layout().size(), 20);
    type(child<NumberField>("frame.chunk"), QStringLiteral("5000"));
    QVERIFY(window_->notice().contains(QStringLiteral("1 to 1024")));
    QCOMPARE(recipe().frame.chunkSize, 20);
    child<Tick>("frame.bounded.x")->click();
    child<Tick>("frame.bounded.z")->click();
    QCOMPARE(recipe().frame.x->extent, int64_t{512});
    type(child<NumberField>("frame.extent.x"), QStringLiteral("100"));
    type(child<NumberField>("frame.min.x"), QStringLiteral("0"));
    QVERIFY(child<QLabel>("frame.counts")->text().contains(QStringLiteral("51,200 cells")));
    QVERIFY(picture() != old);
  }

  void bandsAndMaterialsAreEdited() {
    QTest::keyClick(&map(), Qt::Key_3);
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
    QCOMPARE(recipe().materials.size(), size_t{9});
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
    QTest::qWait(700);
    QTest::keyRelease(&map(), Qt::Key_Right);
    QVERIFY(map().viewpoint().cell.x > start.x + 100);
    QCOMPARE(map().viewpoint().cell.z, start.z);
    QTRY_COMPARE(map().heldChunks(), map().streamStats().expected);
    const acre::Cell rest = map().viewpoint().cell;
    QTest::qWait(60);
    QCOMPARE(map().viewpoint().cell, rest);
    QTest::keyClick(&map(), Qt::Key_W);  // A tap moves little or not at all, and stops.
    QVERIFY(child<QLabel>("status.cell")->text().contains(QStringLiteral("viewpoint")));
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
    QTRY_COMPARE(map().heldChunks(), map().streamStats().expected);
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
    type(child<NumberField>("layer.hills.amplitude"), QStringLiteral("20"));
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
      QTRY_COMPARE_WITH_TIMEOUT(exported.size(), 1, 10000);
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
    QTRY_VERIFY_WITH_TIMEOUT(fault->text().contains(QStringLiteral("/dev/full")), 10000);
    QVERIFY(dialog->findChild<QPushButton*>(QStringLiteral("export.write"))->isEnabled());
    QSignalSpy exported(dialog, &ExportDialog::exported);
    dialog->exportTo(dir_.filePath(QStringLiteral("legend.png")));
    QTRY_COMPARE_WITH_TIMEOUT(exported.size(), 1, 10000);
    const QImage picture(dir_.filePath(QStringLiteral("legend.png")));
    QVERIFY(picture.width() > map().geometry().size.width() + 200);
    QCOMPARE(picture.text(QStringLiteral("Title")), QStringLiteral("Saltfen Reach"));
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
    QVERIFY2(window_->notice().contains(QStringLiteral("broken.acre")),
             qPrintable(window_->notice()));
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
    type(child<QLineEdit>("title.seed"), QStringLiteral("7"));
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
    QTest::keyClick(window_.get(), Qt::Key_PageDown, Qt::ControlModifier);
    QTest::keyClick(window_.get(), Qt::Key_PageDown, Qt::ControlModifier);  // The end holds.
    QCOMPARE(title(), QStringLiteral("Strata"));
    auto* frame = child<StageTile>("stage.0");
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
    auto* name = child<QLineEdit>("layer.rises.name");
    name->setFocus();
    name->selectAll();
    QTest::keyClicks(name, "rgv 1");
    QCOMPARE(name->text(), QStringLiteral("rgv 1"));
    QCOMPARE(recipe().seed, std::string("heather-41"));
    QTest::keyClick(name, Qt::Key_Return);
    QCOMPARE(recipe().heights[0].name, std::string("rgv 1"));
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
    QTRY_COMPARE(map().heldChunks(), map().streamStats().expected);
    const size_t few = map().heldChunks();
    type(distance, QStringLiteral("256"));
    QTRY_COMPARE(map().heldChunks(), map().streamStats().expected);
    QVERIFY(map().heldChunks() > 8 * few);
    type(distance, QStringLiteral("0"));
    QTRY_COMPARE(map().heldChunks(), size_t{1});
    QCOMPARE(settings_->viewDistance(), qint64{0});
    type(distance, QStringLiteral("99999"));
    QVERIFY(window_->notice().contains(QStringLiteral("4096")));
  }

  void quittingInTheMiddleIsClean() {
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

QTEST_MAIN(WindowTest)
#include "window_test.moc"
