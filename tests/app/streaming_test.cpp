// The Traverse drawer, the proof, and the map while it streams, zooms and is closed under load.
#include <QFile>
#include <QJsonArray>
#include <QJsonDocument>
#include <QSet>
#include <QTemporaryDir>
#include <QtTest>

#include "app/answers.h"
#include "app/look/look.h"
#include "app/patience.h"
#include "app/window/main_window.h"
#include "dry.h"
#include "suite.h"

class StreamingTest : public QObject {
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
  MapView& map() { return window_->map(); }
  TraverseDrawer& traverse() { return window_->traverse(); }
  void type(const char* name, const QString& text) {
    auto* field = child<QLineEdit>(name);
    field->setFocus();
    field->selectAll();
    QTest::keyClicks(field, text);
    QTest::keyClick(field, Qt::Key_Return);
  }
  void click(const char* name) { child<QAbstractButton>(name)->click(); }
  QString verdict() { return child<QLabel>("traverse.verdict")->text(); }
  void choose(const char* name, int index) {
    auto* choice = child<Choice>(name);
    choice->setCurrentIndex(index);
    emit choice->activated(index);
  }
  QPoint pixelOf(acre::Cell cell) {
    return (map().geometry().toScreen(cell, 0.5, 0.5) + map().pictureRect().topLeft()).toPoint();
  }
  /// Short settings, so that a run takes a second.
  void shortRun() {
    type("traverse.seconds", QStringLiteral("0.5"));
    type("traverse.view.a", QStringLiteral("96"));
    type("traverse.view.b", QStringLiteral("96"));
  }
  void runToTheEnd() {
    click("traverse.run");
    QVERIFY(traverse().running());
    QTRY_VERIFY(!traverse().running());
  }

 private slots:
  void initTestCase() {
    look::apply(*qApp, false);
    acre::EngineOptions options;
    options.threads = 2;
    options.memoBytes = 0;  // The engine keeps its last worlds: what they remember would count.
    engine_ = std::move(acre::Engine::create(options)).value();
  }
  void init() {
    settings_ = std::make_unique<Settings>(
        dir_.filePath(QStringLiteral("settings-%1.ini").arg(QTest::currentTestFunction())));
    answers_ = {};
    window_ = std::make_unique<MainWindow>(*engine_, *settings_, answers_);
    window_->resize(1024, 640);
    QVERIFY(
        window_->document().open(dryDemo("saltfen-reach"), {}, QStringLiteral("saltfen-reach")));
    window_->show();
    QVERIFY(QTest::qWaitForWindowExposed(window_.get()));
    window_->activateWindow();
    window_->drawers().open(QStringLiteral("traverse"));
    QTRY_VERIFY(map().settled());
  }
  void cleanup() { window_.reset(); }

  void aRunEndsInAVerdictFiguresAndPlots() {
    QVERIFY(verdict().contains(QStringLiteral("measures")));
    shortRun();
    runToTheEnd();
    const auto& columns = traverse().columns();
    QCOMPARE(columns.size(), size_t{1});
    QCOMPARE(columns[0].report.frames.size(), size_t{30});
    QVERIFY2(verdict().contains(QString::fromStdString(acre::verdictOf(columns[0].report))),
        qPrintable(verdict()));
    auto* table = child<QTableWidget>("traverse.table");
    QVERIFY(table->isVisible() && table->isColumnHidden(2));
    const auto figures = acre::traverseFigures(columns);
    QCOMPARE(static_cast<size_t>(table->rowCount()), figures.size());
    for (int line = 0; line < table->rowCount(); ++line)
      QCOMPARE(table->item(line, 1)->text(),
          QString::fromStdString(acre::figureText(figures[static_cast<size_t>(line)].values[0])));
    for (const char* name : {"missing", "waiting", "loaded", "released", "memory"}) {
      auto* plot = child<Plot>(qPrintable(QStringLiteral("traverse.plot.%1").arg(name)));
      QVERIFY(plot->isVisible());
      QCOMPARE(plot->lineCount(), 1);
    }
  }

  void twoColumnsRunSideBySide() {
    shortRun();
    click("traverse.both");
    type("traverse.chunk.b", QStringLiteral("16"));
    type("traverse.threads.a", QStringLiteral("1"));
    type("traverse.threads.b", QStringLiteral("2"));
    choose("traverse.route", 1);
    runToTheEnd();
    const auto& columns = traverse().columns();
    QCOMPARE(columns.size(), size_t{2});
    QCOMPARE(columns[1].chunkSize, 16);
    QCOMPARE(columns[0].settings.threads, 1u);
    QCOMPARE(columns[1].settings.threads, 2u);
    QCOMPARE(columns[0].settings.route.kind, acre::RouteKind::Zigzag);
    QVERIFY2(verdict().contains(QStringLiteral("chunks of 16, 2 threads")), qPrintable(verdict()));
    QCOMPARE(child<Plot>("traverse.plot.loaded")->lineCount(), 2);
    QVERIFY(!child<QTableWidget>("traverse.table")->isColumnHidden(2));
    // The world that is edited keeps its own chunks.
    QCOMPARE(window_->document().recipe().frame.chunkSize, 32);

    answers_.save = dir_.filePath(QStringLiteral("run.csv"));
    click("traverse.csv");
    for (const char* name : {"run-A.csv", "run-B.csv"}) {
      QFile file(dir_.filePath(QLatin1String(name)));
      QVERIFY(file.open(QIODevice::ReadOnly));
      QCOMPARE(file.readAll().count('\n'), 31);
    }
    answers_.save = dir_.filePath(QStringLiteral("run.json"));
    click("traverse.json");
    QFile file(answers_.save);
    QVERIFY(file.open(QIODevice::ReadOnly));
    QCOMPARE(QJsonDocument::fromJson(file.readAll()).array().size(), 2);
    answers_.save = QStringLiteral("/nowhere/run.csv");
    click("traverse.csv");
    QVERIFY(window_->notice().contains(QStringLiteral("/nowhere")));
  }

  void theCommandRepeatsTheRun() {
    QSignalSpy asked(&traverse(), &TraverseDrawer::commandRequested);
    click("traverse.both");
    choose("traverse.route", 2);
    choose("traverse.clock", 1);
    click("traverse.copy");
    QCOMPARE(asked.size(), 1);
    const QString line = asked[0][0].toString();
    for (const char* part : {"--route circle", "--speed 1200", "--fast", "--chunk 32", "--view 384",
             "--against chunk=16", "--against threads=1"})
      QVERIFY2(line.contains(QLatin1String(part)), qPrintable(line));
    QVERIFY(!line.contains(QStringLiteral("--against view")));
  }

  void aRouteIsDrawnOnTheMapAndRun() {
    shortRun();
    QSignalSpy plumbs(&map(), &MapView::plumbRequested);
    click("traverse.draw");
    QVERIFY(map().drawingRoute());
    const QRect free = map().pictureRect().adjusted(traverse().width() + 20, 20, -20, -20);
    const QPoint points[] = {free.topLeft(), free.center(), free.bottomLeft()};
    for (const QPoint& at : points) QTest::mouseClick(&map(), Qt::LeftButton, {}, at);
    QCOMPARE(traverse().route().points.size(), size_t{3});
    for (size_t i = 0; i < 3; ++i)
      QVERIFY((pixelOf(traverse().route().points[i]) - points[i]).manhattanLength() <= 3);
    QCOMPARE(plumbs.size(), 0);  // The clicks were not for the plumb line.
    click("traverse.draw");
    QVERIFY(!map().drawingRoute());
    runToTheEnd();
    QCOMPARE(traverse().columns()[0].settings.route.points, traverse().route().points);
    QTest::mouseClick(&map(), Qt::LeftButton, {}, free.center());
    QCOMPARE(plumbs.size(), 1);
  }

  void aRouteIsRecordedWhileDriving() {
    click("traverse.record");
    QTRY_VERIFY(map().hasFocus());
    const acre::Cell start = map().viewpoint().cell;
    QTest::keyPress(&map(), Qt::Key_Right);
    const acre::Route& route = traverse().route();
    QTRY_VERIFY(route.points.size() >= 3 && route.points.back().x > start.x + 20);
    QTest::keyRelease(&map(), Qt::Key_Right);
    click("traverse.record");
    QVERIFY(route.points.size() >= 3);
    QCOMPARE(route.points.size(), route.times.size());
    QCOMPARE(route.points.front(), start);
    QVERIFY(route.points.back().x > start.x + 20);
    QVERIFY(std::is_sorted(route.times.begin(), route.times.end()));
    const size_t count = route.points.size();
    map().goTo({0, 0});
    QCOMPARE(traverse().route().points.size(), count);  // It records no more.
  }

  void aRouteWithoutPointsIsRefusedInWords() {
    choose("traverse.route", 4);
    click("traverse.draw");  // Off again, without a point.
    click("traverse.run");
    QVERIFY(!traverse().running());
    QVERIFY2(verdict().contains(QStringLiteral("no points")), qPrintable(verdict()));
  }

  void slowMotionShowsChunksInEveryState() {
    type("traverse.seconds", QStringLiteral("5"));
    choose("traverse.clock", 3);
    const QImage before = map().grab().toImage();
    click("traverse.run");
    QTRY_VERIFY(verdict().contains(QStringLiteral("missing")));
    QTRY_VERIFY(map().grab().toImage() != before);
    click("traverse.run");  // Pauses.
    QCOMPARE(child<QPushButton>("traverse.run")->text(), QStringLiteral("Go on"));
    QVERIFY(staysFor(200, [this] { return verdict(); }));
    const QString held = verdict();
    click("traverse.run");
    QTRY_VERIFY(verdict() != held);
    click("traverse.stop");
    QTRY_VERIFY(!traverse().running());
    QVERIFY(verdict().contains(QStringLiteral("stopped")) ||
            verdict().contains(QStringLiteral("Stopped")));
  }

  void plotsAndFiguresLeadToTheirMoment() {
    shortRun();
    choose("traverse.route", 3);  // A leap a second, three times: something is missing.
    type("traverse.seconds", QStringLiteral("3.2"));
    type("traverse.speed", QStringLiteral("50"));
    type("traverse.view.a", QStringLiteral("224"));
    click("traverse.follow");  // The map's pictures shall not keep the view from being whole.
    runToTheEnd();
    const acre::TraverseColumn column = traverse().columns()[0];
    QVERIFY2(column.report.missing > 0, qPrintable(verdict()));
    auto* plot = child<Plot>("traverse.plot.missing");
    QTest::mouseClick(plot, Qt::LeftButton, {},
        QPoint(static_cast<int>(std::lround(plot->pixelOf(1.1))), plot->height() / 2));
    const acre::Cell there = map().viewpoint().cell;
    QVERIFY(std::abs(there.x - column.settings.route.at(1.1, 50).x) < 60);
    // Keys step frame by frame.
    traverse().setFocus();
    QTest::keyClick(&traverse(), Qt::Key_Home);
    QCOMPARE(map().viewpoint().cell, column.settings.route.at(0, 50));
    QTest::keyClick(&traverse(), Qt::Key_Right);
    QCOMPARE(map().viewpoint().cell, column.settings.route.at(1 / 60.0, 50));
    QTest::keyClick(&traverse(), Qt::Key_Left);
    QCOMPARE(map().viewpoint().cell, column.settings.route.at(0, 50));
    QTest::keyClick(&traverse(), Qt::Key_End);
    QCOMPARE(
        map().viewpoint().cell, column.settings.route.at(column.report.frames.back().seconds, 50));
    // So does a click on the worst figure.
    auto* table = child<QTableWidget>("traverse.table");
    for (int line = 0; line < table->rowCount(); ++line)
      if (table->item(line, 0)->text() == QStringLiteral("wait, worst"))
        emit table->cellClicked(line, 1);
    QCOMPARE(map().viewpoint().cell, column.settings.route.at(column.report.waits.worstAt, 50));
  }

  void settingsThatCannotBeAreSaid() {
    type("traverse.view.a", QStringLiteral("100000"));
    QVERIFY(window_->notice().contains(QStringLiteral("65536")) ||
            window_->notice().contains(QStringLiteral("65,536")));
    type("traverse.threads.a", QStringLiteral("512"));
    QVERIFY(window_->notice().contains(QStringLiteral("256")));
    type("traverse.chunk.a", QStringLiteral("0"));
    QVERIFY(window_->notice().contains(QStringLiteral("1024")) ||
            window_->notice().contains(QStringLiteral("1,024")));
    type("traverse.chunk.a", QStringLiteral("1"));
    click("traverse.run");  // Half a million chunks.
    QTRY_VERIFY2(verdict().contains(QStringLiteral("65536 chunks")), qPrintable(verdict()));
    QVERIFY(!traverse().running());
    type("traverse.chunk.a", QStringLiteral("32"));
    type("traverse.view.a", QStringLiteral("1500"));
    type("traverse.memory.a", QStringLiteral("2"));
    type("traverse.seconds", QStringLiteral("4"));
    runToTheEnd();
    QVERIFY2(verdict().contains(QStringLiteral("cannot hold the view")), qPrintable(verdict()));
  }

  void theProofHolds() {
    click("proof.start");
    QVERIFY(window_->proof().running());
    QTRY_VERIFY(!window_->proof().running());
    const auto& proof = window_->proof().proof();
    QVERIFY(proof && proof->holds());
    QVERIFY(child<QLabel>("proof.verdict")->text().startsWith(QStringLiteral("It holds")));
    QVERIFY(child<QLabel>("proof.fingerprint")
                ->text()
                .contains(QString::fromStdString(proof->world.hex())));
    QCOMPARE(
        static_cast<size_t>(child<QTableWidget>("proof.table")->rowCount()), proof->steps.size());
    QCOMPARE(proof->steps.back().id, std::string("process"));
    click("proof.start");
    click("proof.stop");
    QTRY_VERIFY(!window_->proof().running());
  }

  /// A notch of the wheel never uncovers bare paper, from the finest scale to the coarsest.
  void zoomingOutNeverShowsBarePaper() {
    window_->drawers().open({});
    map().setChunksShown(false);
    map().setRingShown(false);
    map().setLineShown(false);
    const QRgb paper = QColor::fromRgb(acre::kPaperColour).rgb();
    map().zoomCentre(1e-9);
    const auto bare = [&] {
      const QImage image = map().grab(map().pictureRect().adjusted(2, 2, -2, -40)).toImage();
      int count = 0;
      for (int y = 0; y < image.height(); y += 7)
        for (int x = 0; x < image.width(); x += 7) count += image.pixel(x, y) == paper;
      return count;
    };
    // The wide picture that is kept behind the others has arrived.
    const auto surrounded = [&] {
      const TileStore::Coarse& wide = map().tiles().surround();
      const acre::Rect view = map().geometry().cells();
      const acre::Rect ground{
          wide.x, wide.z, wide.image.width() * wide.step, wide.image.height() * wide.step};
      const acre::Rect next{view.x - view.width / 4, view.z - view.length / 4, view.width * 3 / 2,
          view.length * 3 / 2};
      return acre::intersection(ground, next) == next;
    };
    QTRY_VERIFY(map().settled());
    for (int notch = 0; notch < 36; ++notch) {
      QTRY_VERIFY(map().settled());
      QTRY_VERIFY(surrounded());
      map().zoomCentre(std::sqrt(2));
      QVERIFY2(bare() == 0, qPrintable(QString::number(map().geometry().cellsPerPixel)));
    }
    QCOMPARE(map().geometry().cellsPerPixel, MapGeometry::kCoarsest);
    QTRY_VERIFY(map().settled());
    QCOMPARE(bare(), 0);
    QVERIFY(engine_->budget().used() <= engine_->budget().limit());
  }

  void closingUnderLoadIsClean() {
    for (int round = 0; round < 3; ++round) {
      window_->drawers().open(QStringLiteral("traverse"));
      choose("traverse.route", 3);
      click("traverse.run");
      click("proof.start");
      map().setViewDistance(3000);
      map().goTo({round * 100'000, 7});
      QTest::qWait(round * 40);
      cleanup();
      // Nothing goes on for a window that is gone, and nothing of it stays.
      QTRY_COMPARE(engine_->budget().used(), uint64_t{0});
      init();
    }
  }

  void drivingAMinuteOfGroundMissesNothingForLong() {
    window_->drawers().open({});
    map().setFocus();
    QTRY_COMPARE(map().streamStats().missing, size_t{0});
    const acre::StreamStats before = map().streamStats();
    const acre::Cell start = map().viewpoint().cell;
    QTest::keyPress(&map(), Qt::Key_Right);
    QTRY_VERIFY(map().viewpoint().cell.x > start.x + 2000);
    QTest::keyRelease(&map(), Qt::Key_Right);
    QTRY_COMPARE(map().streamStats().missing, size_t{0});
    const acre::StreamStats stats = map().streamStats();
    QCOMPARE(stats.failed, size_t{0});
    QVERIFY(stats.needed > 0);
    // New ground came in ahead.
    QVERIFY(stats.built + stats.found > before.built + before.found + 50);
    QVERIFY(child<QLabel>("status.stream")->text().contains(QStringLiteral("loaded")));
  }
};

ACRE_SUITE(StreamingTest)
#include "streaming_test.moc"
