// The stage Water in the window, driven by key and pointer.
#include <QtTest>

#include "app/edit/choice.h"
#include "app/edit/number_field.h"
#include "app/overlay/river_network.h"
#include "app/window_desk.h"
#include "recipe/water_recipe.h"
#include "suite.h"
#include "world/world.h"

class RiversTest : public QObject, protected WindowDesk {
  Q_OBJECT

 private slots:
  void initTestCase() { makeEngine(); }
  void init() { openWindow("saltfen-reach"); }
  void cleanup() { window_.reset(); }

  /// The stage Water: on from its page, its numbers make the world anew, and Undo takes all back.
  void waterIsSwitchedOnAndShaped() {
    QTest::keyClick(&map(), Qt::Key_8);
    QVERIFY(!window_->document().recipe().rivers->on);
    const acre::Recipe before = window_->document().recipe();
    click("rivers.switch");
    QTRY_VERIFY(window_->document().current());
    QVERIFY(world().water());
    QTRY_VERIFY(map().settled());
    type("rivers.spring", QStringLiteral("6"));
    type("rivers.valley", QStringLiteral("7.5"));
    QCOMPARE(window_->document().recipe().rivers->spring, 6.0);
    QCOMPARE(window_->document().recipe().rivers->valley, 7.5);
    auto* water = child<Choice>("rivers.material");
    const int shallow = water->findData(QStringLiteral("shallow"));
    water->setCurrentIndex(shallow);
    emit water->activated(shallow);
    QCOMPARE(window_->document().recipe().rivers->water, std::string("shallow"));
    QTRY_VERIFY(window_->document().current());
    QVERIFY(world().parts().freshWater != acre::kUnassigned);
    // A plumb line tells of it, and leads to its number.
    QTRY_VERIFY(map().settled());
    QTest::mouseClick(&map(), Qt::LeftButton, {}, map().pictureRect().center() + QPoint(60, 60));
    QTRY_VERIFY(window_->plumbCard().plumb() && window_->plumbCard().plumb()->water);
    window_->document().undoStack().setIndex(0);
    QVERIFY(window_->document().recipe() == before);
    QTRY_VERIFY(window_->document().current() && !world().water());
  }

  /// The network over the map: what it marks is what the cells are.
  void theNetworkIsShown() {
    acre::Recipe wet = window_->document().recipe();
    wet.rivers->on = true;
    QVERIFY(window_->document().change(QStringLiteral("Water"), wet));
    QTRY_VERIFY(window_->document().current());
    MapGeometry view = map().geometry();
    view.centre = {{-300, 100}, 0, 0};
    view.cellsPerPixel = 3;
    view.size = {640, 400};
    const auto made = RiverNetwork::make(world(), view, {});
    QVERIFY(made);
    const auto& network = static_cast<const RiverNetwork&>(*made);
    QVERIFY(network.reaches().size() > 15);
    int springs = 0;
    for (const RiverNetwork::Reach& r : network.reaches()) {
      springs += r.spring;
      QVERIFY(r.width >= 2 && r.area > 0);
      const QString words = made->at(view.toScreen(r.from, 0.5, 0.5), view);
      QVERIFY(words.contains(QStringLiteral("drain through it")));
    }
    QVERIFY(springs > 0 && made->spoken().contains(QString::number(springs)));
    QImage image(view.size.toSize(), QImage::Format_RGB32);
    image.fill(Qt::white);
    QPainter p(&image);
    made->paint(p, view);
    p.end();
    int inked = 0;
    for (int y = 0; y < image.height(); ++y)
      for (int x = 0; x < image.width(); ++x) inked += image.pixel(x, y) != qRgb(255, 255, 255);
    QVERIFY(inked > 500);
    view.cellsPerPixel = 200;
    QVERIFY(RiverNetwork::make(world(), view, {})->spoken().isEmpty());  // Too much to draw.
    std::stop_source stop;
    stop.request_stop();
    view.cellsPerPixel = 3;
    QVERIFY(!RiverNetwork::make(world(), view, stop.get_token()));
    // Switched on in the menu it follows the map, and goes with the stage.
    child<QAction>("view.rivers")->trigger();
    QTRY_VERIFY(map().overlays().has(Over::Rivers));
    window_->document().undoStack().undo();
    QTRY_VERIFY(!map().overlays().has(Over::Rivers));
  }
};

ACRE_SUITE(RiversTest)
#include "rivers_test.moc"
