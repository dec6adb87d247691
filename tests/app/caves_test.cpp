// The Caves stage and the drawer Landmarks, driven in the window.
#include <QLineEdit>
#include <QtTest>

#include "app/edit/caves_editor.h"
#include "app/landmarks/landmarks_drawer.h"
#include "app/window_desk.h"
#include "cave/caves.h"
#include "recipe/cave_recipe.h"
#include "suite.h"
#include "world/block_value.h"
#include "world/world.h"

class CavesTest : public QObject, protected WindowDesk {
  Q_OBJECT

  const acre::Caves& caves() { return *window_->document().recipe().caves; }
  void toCaves() {
    click("stage.caves");
    QTRY_VERIFY(child<QWidget>("caves.addTunnels")->isVisible());
  }
  LandmarksDrawer& drawer() { return *window_->findChild<LandmarksDrawer*>(); }
  void toLandmarks() {
    click("rail.landmarks");
    QTRY_VERIFY(drawer().isVisible() && drawer().settled());
  }
  int columnOf(const QString& title) {
    for (int c = 0; c < drawer().model().columnCount(); ++c)
      if (drawer().model().headerData(c, Qt::Horizontal, Qt::DisplayRole) == title) return c;
    return -1;
  }

 private slots:
  void initTestCase() { makeEngine(); }
  void init() { openDry("swallet-edge"); }
  void cleanup() { window_.reset(); }

  /// Every number typed is a step that can be undone; what is out of range is refused in words.
  void partsAreEdited() {
    toCaves();
    type("caves.swallets.noise", QStringLiteral("7.5"));
    QTRY_COMPARE(caves().tunnels[0].noise, 7.5);
    type("caves.swallets.mouths", QStringLiteral("35"));
    QTRY_COMPARE(caves().tunnels[0].mouths, 0.35);
    type("caves.fissures.second.high", QStringLiteral("0.2"));
    QTRY_COMPARE(caves().voids[0].second->high, 0.2);
    type("caves.bedding.rule", QStringLiteral("B678/S345678"));
    QTRY_COMPARE(caves().automata[0].rule, std::string("B678/S345678"));
    type("caves.bedding.floors", QStringLiteral("-58, -30"));
    QTRY_COMPARE(caves().automata[0].floors, (std::vector<double>{-58, -30}));
    type("caves.kind.damp.to", QStringLiteral("40"));
    QTRY_COMPARE(caves().kinds[0].to, std::optional(40.0));
    const acre::Recipe before = window_->document().recipe();
    type("caves.bedding.rule", QStringLiteral("B/S"));
    QVERIFY(window_->notice().contains(QStringLiteral("no rule")));
    type("caves.bedding.rule", QStringLiteral("B0/S8"));  // Without end, so the world refuses it.
    QTRY_VERIFY(window_->notice().contains(QStringLiteral("B0")));
    type("caves.swallets.length", QStringLiteral("500"));
    QTRY_VERIFY(window_->notice().contains(QStringLiteral("leaves the reach")));
    QVERIFY(window_->document().recipe() == before);
    for (int i = 0; i < 6; ++i) child<QAction>("edit.undo")->trigger();
    QTRY_COMPARE(caves().tunnels[0].noise, 3.0);
    QCOMPARE(caves().automata[0].floors, std::vector<double>{-58});
  }

  void partsAreAddedSwitchedAndDeleted() {
    toCaves();
    const acre::Caves before = caves();
    for (const char* name : {"caves.addTunnels", "caves.addVoids", "caves.addFloors",
             "caves.addVolume", "caves.addKind"})
      click(name);
    QTRY_COMPARE(caves().tunnels.size(), size_t{2});
    QCOMPARE(caves().voids.size(), size_t{2});
    QCOMPARE(caves().automata.size(), size_t{3});
    QCOMPARE(caves().kinds.size(), size_t{4});
    QTRY_VERIFY(window_->document().current());
    QCOMPARE(world().caves()->parts().size(), size_t{7});
    child<Tick>("caves.swallets.on")->click();
    QTRY_VERIFY(!caves().tunnels[0].on);
    QTRY_VERIFY(window_->document().current());
    QCOMPARE(world().caves()->parts().size(), size_t{6});
    click("caves.swallets.delete");
    QTRY_COMPARE(caves().tunnels.size(), size_t{1});
    for (int i = 0; i < 7; ++i) child<QAction>("edit.undo")->trigger();
    QTRY_VERIFY(caves() == before);
    QTest::keyClick(child<QWidget>("stage.caves"), Qt::Key_Space);  // The whole stage.
    QTRY_VERIFY(!caves().on);
    QTRY_VERIFY(window_->document().current());
    QVERIFY(!world().caves());
    QVERIFY(child<QWidget>("caves.switch")->isVisible());
    click("caves.switch");
    QTRY_VERIFY(caves().on);
  }

  /// The list is what the command finds; rows are sorted, filtered and gone to.
  void systemsAreListedAndGoneTo() {
    toLandmarks();
    const auto expected = acre::findSystems(world(), map().viewpoint().cell, 2000).value();
    QVERIFY(expected.size() > 10);
    QCOMPARE(drawer().model().rowCount(), static_cast<int>(expected.size()));
    for (size_t k = 0; k < expected.size(); ++k) {
      const LandmarksModel::Row& row = drawer().model().row(static_cast<int>(k));
      QCOMPARE(row.name.toStdString(), expected[k].name(world()));
      QVERIFY(row.figures.has_value());
      QCOMPARE(row.figures->mouths > 0, expected[k].system->mouth);
    }
    QTableView& table = drawer().table();
    table.sortByColumn(columnOf(QStringLiteral("length")), Qt::DescendingOrder);
    double last = 1e9;
    for (int r = 0; r < table.model()->rowCount(); ++r) {
      const double length =
          table.model()->index(r, columnOf(QStringLiteral("length"))).data(Qt::UserRole).toDouble();
      QVERIFY(length <= last);
      last = length;
    }
    child<Tick>("landmarks.mouthed")->click();
    QTRY_VERIFY(table.model()->rowCount() < static_cast<int>(expected.size()));
    QVERIFY(table.model()->rowCount() > 0);
    table.selectRow(0);
    const auto chosen = drawer().chosen();
    QVERIFY(chosen && chosen->system->mouth);
    QVERIFY(child<QLabel>("landmarks.about")->text().contains(QStringLiteral("blocks dug")));
    const acre::Cell from = map().viewpoint().cell;
    click("landmarks.goTo");
    QCOMPARE(map().viewpoint().cell, (acre::Cell{chosen->system->x, chosen->system->z}));
    drawer().setFocus();
    QTest::keyClick(&drawer(), Qt::Key_Escape);
    QCOMPARE(map().viewpoint().cell, from);
  }

  /// Into the longest system with a mouth, along it, never into rock.
  void systemsAreWalkedInto() {
    toLandmarks();
    child<Tick>("landmarks.mouthed")->click();
    drawer().table().selectRow(0);
    const auto chosen = drawer().chosen();
    QVERIFY(chosen.has_value());
    const acre::Cell from = map().viewpoint().cell;
    const auto openAt = [&](const acre::Eye& eye) {
      const auto found =
          world().blockAt({eye.cellX, eye.cellZ}, static_cast<int64_t>(std::floor(eye.y)));
      return !world().caves()->isGround(found.material) ||
             world().catalogue().materialId(found.material) == "water";
    };
    click("landmarks.walk");
    QTRY_VERIFY(walk().isVisible());
    QVERIFY(openAt(walk().walker().eye));
    QVERIFY(child<QAbstractButton>("walk.lamp")->isChecked());
    QTRY_VERIFY(walk().settled());
    const QImage there = walk().picture();
    QVERIFY(!there.isNull());
    click("rail.landmarks");
    click("landmarks.follow");
    QVERIFY(walk().following());
    const acre::Eye begin = walk().walker().eye;
    const auto gone = [&] {
      const acre::Eye& now = walk().walker().eye;
      return std::hypot(static_cast<double>(now.cellX - begin.cellX) + now.x - begin.x,
                 static_cast<double>(now.cellZ - begin.cellZ) + now.z - begin.z) +
             std::abs(now.y - begin.y);
    };
    QElapsedTimer clock;
    clock.start();
    for (int looks = 0; (looks < 20 || gone() <= 2) && clock.elapsed() < 60'000; ++looks) {
      QTest::qWait(30);
      QVERIFY2(openAt(walk().walker().eye), "the eye went into rock");
    }
    QVERIFY2(gone() > 2, qPrintable(QString::number(gone())));
    QTest::keyClick(&walk(), Qt::Key_W);
    QVERIFY(!walk().following());
    QTest::keyClick(&walk(), Qt::Key_Escape);
    QTRY_VERIFY(map().isVisible());
    QCOMPARE(map().viewpoint().cell, from);
  }

  /// More noise in the paths: they get less straight.
  void noiseBendsThePassages() {
    const auto mean = [&] {
      double sum = 0;
      for (int r = 0; r < drawer().model().rowCount(); ++r)
        sum += drawer().model().row(r).figures->straightness;
      return sum / std::max(1, drawer().model().rowCount());
    };
    toCaves();
    type("caves.swallets.noise", QStringLiteral("0"));
    QTRY_VERIFY(caves().tunnels[0].noise == 0 && window_->document().current());
    toLandmarks();
    QTRY_VERIFY(drawer().settled() && drawer().model().rowCount() > 0);
    const double straight = mean();
    type("caves.swallets.noise", QStringLiteral("20"));
    QTRY_VERIFY(caves().tunnels[0].noise == 20 && window_->document().current());
    QTRY_VERIFY(drawer().settled() && drawer().model().rowCount() > 0 && mean() < straight - 0.1);
  }

  /// Open spaces are those of the command, largest first, each in its ink on the map.
  void openSpacesAreListedAndDrawn() {
    toLandmarks();
    const auto inked = [&] {  // Pixels in the ink of the largest space.
      const QImage seen = map().grab().toImage();
      int count = 0;
      for (int y = 0; y < seen.height(); ++y)
        for (int x = 0; x < seen.width(); ++x)
          count += seen.pixel(x, y) == SpacesModel::colour(0).rgb();
      return count;
    };
    const int before = inked();
    click("landmarks.spaces");
    SpacesList& list = drawer().spaces();
    QTRY_VERIFY_WITH_TIMEOUT(list.settled() && list.model().rowCount() > 0, 60'000);
    const auto expected = acre::spacesIn(world(), list.model().box()).value();
    QVERIFY(expected.spaces.size() > 5);
    for (int row = 0; row < std::min(50, list.model().rowCount()); ++row)
      QVERIFY(list.model().space(row) == expected.spaces[static_cast<size_t>(row)]);
    QVERIFY(child<QLabel>("spaces.headline")->text().contains(QStringLiteral("192 × 224 × 192")));
    QTRY_VERIFY(inked() > before + 2000);
    const QModelIndex first = list.model().index(0, 2);
    emit child<QTableView>("spaces.table")->activated(first);
    QTRY_VERIFY(child<QWidget>("plumb")->isVisible());
    click("rail.landmarks");  // Closed: nothing of it stays on the map.
    QTRY_VERIFY(!drawer().isVisible());
    QTRY_VERIFY(inked() < before + 100);
  }

  void worldsWithoutCavesSaySo() {
    QVERIFY(window_->openWorld(QStringLiteral("saltfen-reach")));
    QTRY_VERIFY(window_->document().current());
    toLandmarks();
    QVERIFY(child<QLabel>("landmarks.headline")->text().contains(QStringLiteral("no tunnel")));
    toCaves();
    QVERIFY(!window_->findChild<QWidget*>(QStringLiteral("caves.addVoids")));
    click("caves.addTunnels");
    QTRY_VERIFY(caves().tunnels.size() == 1 && window_->document().current());
    QVERIFY(!caves().opening.empty());
    QTRY_VERIFY(drawer().settled() && drawer().model().rowCount() > 0);
    QVERIFY(!child<QWidget>("landmarks.walk")->isEnabled());
  }
};

ACRE_SUITE(CavesTest)
#include "caves_test.moc"
