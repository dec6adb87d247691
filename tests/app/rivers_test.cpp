// The stage Water in the window, driven by key and pointer.
#include <QtTest>

#include "app/edit/choice.h"
#include "app/edit/number_field.h"
#include "app/landmarks/landmarks_drawer.h"
#include "app/map/tile_store.h"
#include "app/overlay/river_network.h"
#include "app/overlay/way_obstacles.h"
#include "app/water/water_editor.h"
#include "app/window_desk.h"
#include "audit/water_summary.h"
#include "output/picture.h"
#include "recipe/water_recipe.h"
#include "suite.h"
#include "world/world.h"

class RiversTest : public QObject, protected WindowDesk {
  Q_OBJECT

 private slots:
  void initTestCase() {
    makeEngine();
    size_ = {1280, 760};  // So that there are rivers in view.
  }
  /// Without water, which the first tests switch on.
  void init() { openDry("saltfen-reach"); }
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
    QVERIFY(world().parts().waterMaterials.water != acre::kUnassigned);
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
    QVERIFY(network.divides().size() > 20);
    for (const RiverNetwork::Divide& d : network.divides())
      QVERIFY((d.from.x == d.to.x) != (d.from.z == d.to.z));
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

  /// Landmarks: rivers listed, the chosen one drawn and seen along its length, gone to, followed.
  void riversAreListedAndFollowed() {
    makeWet();
    window_->drawers().open(QStringLiteral("landmarks"));
    click("landmarks.waters");
    WatersList& list = window_->drawers().content<LandmarksDrawer>().waters();
    QTRY_VERIFY(list.settled());
    QVERIFY(list.model().rowCount() > 5);
    QVERIFY(!section().river().isVisible() && !map().overlays().has(Over::River));
    list.table().selectRow(0);
    QTRY_VERIFY(list.profile());
    QVERIFY(map().overlays().has(Over::River));
    LongProfile& profile = section().river();
    QVERIFY(profile.isVisible());
    QCOMPARE(profile.size(), section().size());
    // The list's figures are of nodes, the profile's of the course.
    const auto first = list.profile();
    const acre::RiverProfile& river = *first;
    QVERIFY(river.length() > 100 && river.drop() >= 0);
    // Pointer and keys go along it; a click hangs a plumb line there.
    QSignalSpy moved(&profile, &LongProfile::pointChanged);
    // The drawer lies over its left half.
    const QPoint spot(profile.pictureRect().right() - 40, profile.pictureRect().center().y());
    QTest::mouseMove(&profile, spot);
    QTRY_VERIFY(profile.point() > 0 && !moved.empty());
    QVERIFY(moved.back()[1].toString().contains(QStringLiteral("from the spring")));
    const acre::Cell there = river.points[static_cast<size_t>(profile.point())].cell;
    QTest::mouseClick(&profile, Qt::LeftButton, {}, spot);
    QTRY_VERIFY(window_->plumbCard().plumb());
    QCOMPARE(window_->plumbCard().plumb()->cell, there);
    QTest::keyClick(&profile, Qt::Key_End);
    QCOMPARE(profile.point(), static_cast<int>(river.points.size()) - 1);
    QTest::keyClick(&profile, Qt::Key_Left);
    QCOMPARE(profile.point(), static_cast<int>(river.points.size()) - 2);
    click("waters.goTo");
    const acre::Cell source = river.points.front().cell, went = map().viewpoint().cell;
    QVERIFY(std::abs(source.x - went.x) < 14 && std::abs(source.z - went.z) < 14);
    // Another river takes its place; a lake has a ring; closing the drawer takes all away.
    list.table().selectRow(1);
    QTRY_VERIFY(list.profile() && list.profile() != first);
    auto* kind = child<Choice>("waters.kind");
    kind->setCurrentIndex(1);
    emit kind->activated(1);
    QVERIFY(list.model().ofLakes() && list.model().rowCount() > 0);
    QVERIFY(!profile.isVisible());
    list.table().selectRow(0);
    QVERIFY(map().overlays().has(Over::River) && !list.profile());
    window_->drawers().open({});
    QVERIFY(!map().overlays().has(Over::River));
    window_->drawers().open(QStringLiteral("landmarks"));
    QVERIFY(map().overlays().has(Over::River));
    kind->setCurrentIndex(0);
    emit kind->activated(0);
    list.table().selectRow(0);
    QTRY_VERIFY(list.profile() && profile.isVisible());
    // On foot: the eye goes downstream until a key is pressed.
    click("waters.follow");
    QVERIFY(window_->panes().large() == Panes::Large::Walk && walk().following());
    const auto eye = [&] {
      const acre::Eye& at = walk().walker().eye;
      return std::pair(at.cellX, at.cellZ);
    };
    const auto from = eye();
    QTRY_VERIFY(eye() != from);
    QVERIFY(walk().following());
    QTest::keyPress(&walk(), Qt::Key_W);
    QTRY_VERIFY(!walk().following());
    QTest::keyRelease(&walk(), Qt::Key_W);
    window_->panes().setLarge(Panes::Large::Map);
    // It stays where it is with the drawer closed, until it is sent away or the world is another.
    window_->drawers().open({});
    QVERIFY(map().overlays().has(Over::River) && profile.river());
    profile.setFocus();
    QTest::keyClick(&profile, Qt::Key_Escape);
    QVERIFY(!map().overlays().has(Over::River) && !profile.river());
    window_->drawers().open(QStringLiteral("landmarks"));
    list.table().clearSelection();
    list.table().selectRow(0);
    QTRY_VERIFY(profile.river());
    window_->drawers().open({});
    // Without the stage it says so.
    window_->document().undoStack().undo();
    QTRY_VERIFY(window_->document().current());
    QVERIFY(!profile.river() && !map().overlays().has(Over::River));
    window_->drawers().open(QStringLiteral("landmarks"));
    QTRY_VERIFY(list.settled());
    QVERIFY(child<QLabel>("waters.headline")->text().contains(QStringLiteral("Water is off")));
  }

  /// The editor tells what there is of water in the view.
  void theViewIsSummedUp() {
    makeWet();
    QTest::keyClick(&map(), Qt::Key_8);
    WaterEditor& water = *window_->findChild<WaterEditor*>();
    QTRY_VERIFY(water.settled() && water.summary());
    const auto told = acre::waterSummary(world(), water.summary()->area).value();
    QCOMPARE(water.summary()->rivers.size(), told.rivers.size());
    auto* found = child<QLabel>("rivers.found");
    QVERIFY(found->text().startsWith(QString::number(told.rivers.size())));
    QVERIFY(found->text().contains(QString::fromStdString(told.rivers.front().name())));
    QVERIFY(water.figures().contains(QString::number(told.lakes.size())));
    // Elsewhere it is another; with other numbers too.
    const acre::Rect area = water.summary()->area;
    map().goTo({4000, -3000});
    QTRY_VERIFY(water.settled() && water.summary() && water.summary()->area != area);
    const size_t rivers = water.summary()->rivers.size();
    type("rivers.spring", QStringLiteral("60"));
    QTRY_VERIFY(window_->document().current() && water.settled());
    QTRY_VERIFY(water.summary() && water.summary()->rivers.size() < rivers);
  }

  /// Ways through obstacles from their controls to the map.
  void waysLeadThroughObstacles() {
    makeWet();
    QTest::keyClick(&map(), Qt::Key_8);
    child<QAction>("view.obstacles")->trigger();
    QVERIFY(!map().overlays().has(Over::Obstacles));
    type("rivers.courses.count", QStringLiteral("4"));
    QTRY_VERIFY(window_->document().current() && map().overlays().has(Over::Obstacles));
    type("rivers.courses.share", QStringLiteral("45"));
    QCOMPARE(window_->document().recipe().rivers->courses.share, 0.45);
    WaterEditor& water = *window_->findChild<WaterEditor*>();
    QTRY_VERIFY(window_->document().current() && water.settled());
    QTRY_VERIFY(child<QLabel>("rivers.ways")->text().contains(QStringLiteral("no path")));
    const auto made = WayObstacles::make(world(), map().geometry(), {});
    const auto& ways = static_cast<const WayObstacles&>(*made);
    QVERIFY(!ways.regions().empty());
    int failed = 0;
    for (const WayObstacles::Region& region : ways.regions())
      for (const acre::CourseWay& way : region.found->ways) {
        const QString words =
            made->at(map().geometry().toScreen(way.from, 0.5, 0.5), map().geometry());
        QVERIFY(words.startsWith(QStringLiteral("Way C")));
        failed += !way.found();
      }
    QVERIFY(failed > 0);
    QImage image(map().size(), QImage::Format_RGB32);
    image.fill(Qt::white);
    QPainter p(&image);
    made->paint(p, map().geometry());
    p.end();
    int inked = 0;
    for (int y = 0; y < image.height(); y += 4)
      for (int x = 0; x < image.width(); x += 4) inked += image.pixel(x, y) != qRgb(255, 255, 255);
    QVERIFY(inked > 500);
    MapGeometry wide = map().geometry();
    wide.cellsPerPixel = 200;
    QVERIFY(WayObstacles::make(world(), wide, {})->spoken().isEmpty());
    window_->document().undoStack().undo();
    window_->document().undoStack().undo();
    QTRY_VERIFY(window_->document().current() && !map().overlays().has(Over::Obstacles));
  }

  /// The replay of a hollow: every step on the map and in words, forward and back.
  /// Along borders where there are any, or wherever a field says.
  void waysFollowBorders() {
    makeWet();
    QTest::keyClick(&map(), Qt::Key_8);
    type("rivers.courses.count", QStringLiteral("2"));
    QVERIFY(!window_->findChild<Tick*>("rivers.courses.borders"));
    auto* field = child<Choice>("rivers.courses.field");
    field->setCurrentIndex(field->findData(QStringLiteral("uplands")));
    emit field->activated(field->currentIndex());
    QCOMPARE(window_->document().recipe().rivers->courses.field, std::string("uplands"));
    QTRY_VERIFY(window_->document().current());
    QVERIFY(window_->openWorld(QStringLiteral("patchwork-parish")));
    QTest::keyClick(&map(), Qt::Key_8);
    auto* borders = child<Tick>("rivers.courses.borders");
    QVERIFY(borders->isChecked());
    borders->click();
    QVERIFY(!window_->document().recipe().rivers->courses.borders);
    QTRY_VERIFY(window_->document().current());
    window_->document().undoStack().undo();
    QVERIFY(window_->document().recipe().rivers->courses.borders);
    QTRY_VERIFY(window_->document().current());
  }

  void aHollowIsReplayed() {
    makeWet();
    map().goTo({-60, -110});
    window_->drawers().open(QStringLiteral("replay"));
    BasinPanel& basin = window_->replay().basin();
    QTRY_VERIFY(basin.isVisible() && basin.settled() && basin.replay());
    const acre::BasinReplay& replay = *basin.replay();
    QVERIFY(map().overlays().has(Over::Basin));
    QCOMPARE(basin.transport().steps() + 1, static_cast<int>(replay.steps.size()));
    QStringList told;
    for (size_t n = 0; n < replay.steps.size(); ++n) {
      QCOMPARE(basin.transport().step(), static_cast<int>(n));
      told << child<QLabel>("basin.figures")->text();
      QVERIFY(told.back().contains(QString::fromStdString(replay.told(n))));
      click("basin.step");
    }
    for (size_t n = replay.steps.size() - 1; n-- > 0;) {
      click("basin.back");
      QCOMPARE(child<QLabel>("basin.figures")->text(), told[static_cast<qsizetype>(n)]);
    }
    QTest::keyClick(&window_->replay(), Qt::Key_End);
    QCOMPARE(basin.transport().step(), basin.transport().steps());
    QTest::keyClick(&window_->replay(), Qt::Key_Space);  // From the beginning again.
    QVERIFY(basin.transport().playing());
    QTRY_VERIFY(basin.transport().step() > 1);
    QTest::keyClick(&window_->replay(), Qt::Key_Space);
    QVERIFY(!basin.transport().playing());
    // Another place; the sea has none, and says so.
    QVERIFY(!basin.replay()->steps.empty());
    window_->drawers().open({});
    QVERIFY(!map().overlays().has(Over::Basin));
    window_->document().undoStack().undo();
    QTRY_VERIFY(window_->document().current());
    window_->drawers().open(QStringLiteral("replay"));
    QTRY_VERIFY(!basin.isVisible());
    QVERIFY(child<QLabel>("replay.headline")->text().contains(QStringLiteral("switch Water on")));
  }

  /// Where rivers are not found yet the ground is there first, and every tile gets its rivers.
  void groundComesBeforeRivers() {
    makeWet();
    TileStore store(*engine_);
    acre::Recipe other = window_->document().recipe();
    other.seed = "far shore";
    const auto wet = engine_->compile(other).value();
    MapGeometry view = map().geometry();
    view.centre = {{200, 300}, 0, 0};
    view.cellsPerPixel = 1;
    view.size = {600, 400};
    int grounds = 0;
    connect(&store, &TileStore::arrived, &store, [&](const TileStore::Key& key) {
      const acre::SampleGrid grid{key.tx * TileStore::kTile, key.tz * TileStore::kTile, 1,
          TileStore::kTile, TileStore::kTile};
      grounds += store.pending() > 0 && store.tiles().contains(key) &&
                 store.tiles().at(key).image == pictured(*wet, grid, true) &&
                 store.tiles().at(key).image != pictured(*wet, grid, false);
    });
    store.show(wet, {}, {});
    store.look(view);
    QTRY_VERIFY(grounds > 0);
    // Away and back in between: nothing stays as it was before water.
    MapGeometry aside = view;
    aside.centre.cell.x += 5000;
    store.look(aside);
    store.look(view);
    QTRY_VERIFY(store.current() && store.pending() == 0);
    int tiles = 0;
    for (const auto& [key, tile] : store.tiles()) {
      if (key.level != 0 || key.tx > 8) continue;
      const acre::SampleGrid grid{key.tx * TileStore::kTile, key.tz * TileStore::kTile, 1,
          TileStore::kTile, TileStore::kTile};
      QVERIFY(tile.image == pictured(*wet, grid, false));
      ++tiles;
    }
    QVERIFY(tiles >= 6);
    // Known now: the same view of the same world has its rivers at once.
    grounds = 0;
    store.show(wet, {}, {});
    QTRY_VERIFY(store.current() && store.pending() == 0);
    QCOMPARE(grounds, 0);
  }

 private:
  void makeWet() {
    acre::Recipe wet = window_->document().recipe();
    wet.rivers->on = true;
    wet.rivers->water = "shallow";
    wet.rivers->lakes = 0.9;
    QVERIFY(window_->document().change(QStringLiteral("Water"), wet));
    QTRY_VERIFY(window_->document().current() && map().settled());
  }
  static QImage pictured(const acre::World& world, const acre::SampleGrid& grid, bool before) {
    acre::Picture picture;
    picture.beforeWater = before;
    const auto samples = acre::sampleWithRim(world, picture, grid).value();
    const acre::Palette palette(world, picture);
    QImage image(grid.width, grid.length, QImage::Format_RGB32);
    for (int32_t j = 0; j < grid.length; ++j)
      palette.paintRow(
          samples, j, acre::Unassigned::Hatched, reinterpret_cast<uint32_t*>(image.scanLine(j)));
    return image;
  }
};

ACRE_SUITE(RiversTest)
#include "rivers_test.moc"
