// The numbered steps of README.md's first five minutes, driven with mouse and keys as they are
// written.
#include <QSignalSpy>
#include <QWheelEvent>
#include <QtTest>

#include "app/window_desk.h"
#include "suite.h"
#include "world/world.h"

using namespace app;

class MinutesTest : public QObject, WindowDesk {
  Q_OBJECT

  QPoint middle() { return map().pictureRect().center(); }

 private slots:
  void initTestCase() { makeEngine(); }
  void init() { openWindow("saltfen-reach"); }
  void cleanup() { window_.reset(); }

  /// 1: drag, wheel, an arrow key held: chunks load around the viewpoint.
  void theMapIsMoved() {
    const Place before = map().geometry().centre;
    QTest::mousePress(&map(), Qt::LeftButton, {}, middle());
    for (int k = 1; k <= 4; ++k) QTest::mouseMove(&map(), middle() + QPoint(30 * k, 10 * k));
    QTest::mouseRelease(&map(), Qt::LeftButton, {}, middle() + QPoint(120, 40));
    QVERIFY(map().geometry().centre.cell.x < before.cell.x);
    const double scale = map().geometry().cellsPerPixel;
    QWheelEvent wheel(
        middle(), map().mapToGlobal(middle()), {}, {0, 120}, {}, {}, Qt::NoScrollPhase, false);
    QApplication::sendEvent(&map(), &wheel);
    QVERIFY(map().geometry().cellsPerPixel < scale);
    const acre::Cell viewpoint = map().viewpoint().cell;
    QTest::keyPress(&map(), Qt::Key_Right);
    QTRY_VERIFY(map().viewpoint().cell.x > viewpoint.x + 20);
    QTest::keyRelease(&map(), Qt::Key_Right);
    QTRY_VERIFY(map().streamStats().held > 0 && map().streamStats().missing == 0);
  }

  /// 2: a wave dragged up grows, its bracket widens it, Ctrl+Z brings it back bit for bit.
  void aWaveIsDragged() {
    WavesView& waves = window_->heights().waves();
    QTRY_VERIFY(waves.settled() && window_->statistics().current());
    const acre::Recipe before = window_->document().recipe();
    const auto& layers = window_->document().recipe().heights.layers;
    const QRect lane = waves.laneRect(1);
    const QPoint from(lane.center().x() + 80, lane.center().y());
    QTest::mousePress(&waves, Qt::LeftButton, {}, from);
    for (int y = 4; y <= 24; y += 4) QTest::mouseMove(&waves, from - QPoint(0, y));
    QTest::mouseRelease(&waves, Qt::LeftButton, {}, from - QPoint(0, 24));
    QVERIFY(layers[1].amplitude > before.heights.layers[1].amplitude);
    QTRY_VERIFY(window_->document().current() && waves.settled());
    const QPoint end = waves.bracketRect(1).toRect().bottomRight() - QPoint(0, 3);
    QTest::mousePress(&waves, Qt::LeftButton, {}, end);
    for (int x = 5; x <= 30; x += 5) QTest::mouseMove(&waves, end + QPoint(x, 0));
    QTest::mouseRelease(&waves, Qt::LeftButton, {}, end + QPoint(30, 0));
    const auto width = [](const acre::Layer& l) {
      return std::get<acre::NoiseSource>(l.source).width;
    };
    QVERIFY(width(layers[1]) > width(before.heights.layers[1]));
    map().setFocus();
    QTest::keyClick(window_.get(), Qt::Key_Z, Qt::ControlModifier);
    QTest::keyClick(window_.get(), Qt::Key_Z, Qt::ControlModifier);
    QVERIFY(window_->document().recipe() == before);
  }

  /// 3: a click hangs a plumb line that says why.
  void aCellIsAskedAbout() {
    QTest::mouseClick(&map(), Qt::LeftButton, {}, middle() + QPoint(40, 30));
    QTRY_VERIFY(window_->plumbCard().isVisible());
    QVERIFY(!window_->plumbCard().plumb()->material.empty());
    QVERIFY(!window_->plumbCard().accessibleDescription().isEmpty());
  }

  /// 4: key 4 shows the chart; over it, its ground lights up on the map.
  void theChartLightsItsGround() {
    QTest::keyClick(&map(), Qt::Key_4);
    QTRY_VERIFY(window_->statistics().chart() != nullptr);
    ChartView& chart = window_->biomes().chart();
    QVERIFY(chart.isVisible());
    QTest::mouseMove(&chart, chart.rect().center());
    QTRY_VERIFY(map().overlays().has(Over::Lit));
    QTest::mouseMove(&map(), middle());
    QTRY_VERIFY(!map().overlays().has(Over::Lit));
  }

  /// 5: in Strata, S on the sea's stake and 40 % typed: the sea keeps its share with any seed.
  void theSeaKeepsItsShare() {
    QTest::keyClick(&map(), Qt::Key_5);
    auto* histogram = child<Histogram>("strata.histogram");
    QTRY_VERIFY(window_->statistics().current());
    histogram->setFocus();
    QTRY_VERIFY(histogram->hasFocus());
    while (histogram->chosenStake() > 0) QTest::keyClick(histogram, Qt::Key_Backtab);
    QTest::keyClick(histogram, Qt::Key_S);
    QTest::keyClick(histogram, Qt::Key_4);
    auto* field = child<QLineEdit>("strata.stake");
    QTRY_VERIFY(field && field->isVisible() && field->hasFocus());
    QTest::keyClicks(field, QStringLiteral("0 %"));
    QTest::keyClick(field, Qt::Key_Return);
    QTRY_COMPARE(window_->document().recipe().frame.seaShare, std::optional(0.4));
    QTRY_VERIFY(window_->document().current());
    const double sea = world().seaLevel();
    map().setFocus();
    QTest::keyClick(&map(), Qt::Key_R);
    QTRY_VERIFY(window_->document().current() && world().seaLevel() != sea);
    QCOMPARE(window_->document().recipe().frame.seaShare, std::optional(0.4));
  }

  /// 6: R rolls another seed, PgUp returns to the one before.
  void noSeedIsLost() {
    const std::string seed = window_->document().recipe().seed;
    QTest::keyClick(&map(), Qt::Key_R);
    QVERIFY(window_->document().recipe().seed != seed);
    QTest::keyClick(&map(), Qt::Key_PageUp);
    QCOMPARE(window_->document().recipe().seed, seed);
  }

  /// 7: the demo of blocks, walked in: V lands, W walks.
  void blocksAreWalkedIn() {
    child<QAction>("file.demo.swallet-edge")->trigger();
    QTRY_VERIFY(map().settled());
    child<QAction>("view.walk")->trigger();
    QTRY_VERIFY(walk().settled());
    walk().setFocus();
    if (walk().walker().flying) QTest::keyClick(&walk(), Qt::Key_V);
    QTRY_VERIFY(!walk().walker().flying && walk().settled());
    const acre::Eye before = walk().walker().eye;
    QTest::keyPress(&walk(), Qt::Key_W);
    QTRY_VERIFY(std::abs(walk().walker().eye.z - before.z) +
                    std::abs(walk().walker().eye.x - before.x) +
                    static_cast<double>(std::abs(walk().walker().eye.cellX - before.cellX) +
                                        std::abs(walk().walker().eye.cellZ - before.cellZ)) >
                0.5);
    QTest::keyRelease(&walk(), Qt::Key_W);
  }

  /// 8: the picture is exported from the menu.
  void thePictureIsExported() {
    child<QAction>("file.export")->trigger();
    QTRY_VERIFY(window_->findChild<QDialog*>(QStringLiteral("export")));
    QVERIFY(window_->findChild<QDialog*>(QStringLiteral("export"))->isVisible());
    window_->findChild<QDialog*>(QStringLiteral("export"))->reject();
  }
};

ACRE_SUITE(MinutesTest)
#include "minutes_test.moc"
