// Levels in the window: the editor of their processes and places, and the replay.
#include <QLineEdit>
#include <QPlainTextEdit>
#include <QtTest>
#include <algorithm>
#include <fstream>

#include "app/landmarks/landmarks_drawer.h"
#include "app/level/level_editor.h"
#include "app/level/replay_drawer.h"
#include "app/window_desk.h"
#include "audit/level_audit.h"
#include "cave/level_stage.h"
#include "recipe/cave_recipe.h"
#include "recipe/edits.h"
#include "recipe/json.h"
#include "suite.h"

class LevelsTest : public QObject, protected WindowDesk {
  Q_OBJECT

  const acre::Level& level() { return *window_->document().recipe().level; }
  LevelEditor& editor() { return window_->levels(); }
  ReplayDrawer& replay() { return window_->replay(); }
  template <class T>
  const T& process(size_t index) {
    return std::get<T>(level().processes[index].what);
  }
  const acre::LevelPlace& place(const std::string& id) {
    const auto& places = level().places;
    return *std::find_if(
        places.begin(), places.end(), [&](const acre::LevelPlace& one) { return one.id == id; });
  }
  void toLevel() {
    click("stage.level");
    QTRY_VERIFY(child<QWidget>("level.floor")->isVisible());
    QTRY_VERIFY(window_->document().current() && editor().settled());
  }
  void toReplay(const char* process) {
    toLevel();
    click((QByteArray("level.") + process + ".steps.show").constData());
    QTRY_VERIFY(replay().isVisible() && replay().settled() && replay().replay());
  }
  QString label(const char* name) { return child<QLabel>(name)->text(); }

 private slots:
  void initTestCase() { makeEngine(); }
  void init() { openWindow("underkiln"); }
  void cleanup() { window_.reset(); }

  /// The map shows all of the floor, from its first place.
  void theFloorIsSeenWhole() {
    const acre::Rect seen = map().geometry().cells(), all = planOf(world()).bounds();
    QVERIFY(seen.x <= all.x && seen.z <= all.z);
    QVERIFY(seen.x + seen.width >= all.x + all.width && seen.z + seen.length >= all.z + all.length);
    QVERIFY(seen.width < 3 * all.width);
    QCOMPARE(map().viewpoint().cell,
        planOf(world()).level()->cellOf(planOf(world()).level()->floor().places[0]));
  }

  /// One walks in where the viewpoint of the map is.
  void walkingBeginsAtTheViewpoint() {
    const acre::Cell lift = map().viewpoint().cell;
    toWalk();
    QTRY_COMPARE(acre::Cell({walk().walker().eye.cellX, walk().walker().eye.cellZ}), lift);
    QCOMPARE(map().viewpoint().cell, lift);
  }

  void numbersAreEdited() {
    toLevel();
    const acre::Recipe before = window_->document().recipe();
    type("level.floor", QStringLiteral("12"));
    QTRY_COMPARE(level().floor, 12);
    QTRY_VERIFY(window_->document().current());
    QCOMPARE(planOf(world()).level()->floor().floor, 12);
    type("level.workings.fill", QStringLiteral("47"));
    QTRY_COMPARE(process<acre::FilledAutomaton>(0).fill.at, 0.47);
    type("level.workings.steps", QStringLiteral("4"));
    QTRY_COMPARE(process<acre::FilledAutomaton>(0).steps.at, 4.0);
    type("level.pillars.low", QStringLiteral("0.5"));
    QTRY_COMPARE(process<acre::NoiseWalls>(1).band.low, 0.5);
    type("level.headings.walkers.perFloor", QStringLiteral("0.5"));
    QTRY_COMPARE(process<acre::DiggingWalks>(2).walkers.perFloor, 0.5);
    type("level.outline.smooth", QStringLiteral("2"));
    QTRY_COMPARE(process<acre::LevelBody>(3).smooth, 2);
    type("level.rooms.distance", QStringLiteral("5"));
    QTRY_COMPARE(process<acre::LevelRooms>(4).distance, 5);
    type("level.rooms.lift-head.share", QStringLiteral("4"));
    QTRY_COMPARE(process<acre::LevelRooms>(4).pieces[2].share, 4.0);
    type("level.ways.least", QStringLiteral("20"));
    QTRY_COMPARE(process<acre::LevelSpaces>(5).least, 20);
    type("level.place.spoil-heap.most", QStringLiteral("150"));
    QTRY_COMPARE(place("spoil-heap").most, 150);
    QTRY_VERIFY(window_->document().current());
    // What is out of range on some floor, or leads to no floor at all, is taken back in words.
    const acre::Recipe sound = window_->document().recipe();
    type("level.floor", QStringLiteral("21"));
    QTRY_VERIFY(window_->notice().contains(QStringLiteral("1 to 20")));
    type("level.workings.fill.perFloor", QStringLiteral("5"));
    QTRY_VERIFY(window_->notice().contains(QStringLiteral("on floor 20 is out of range")));
    type("level.workings.rule", QStringLiteral("B9/S"));
    QTRY_VERIFY(window_->notice().contains(QStringLiteral("rule")));
    type("level.place.lamp-store.least", QStringLiteral("100000"));
    QTRY_VERIFY(window_->notice().contains(QStringLiteral("there is no room for \"lamp-store\"")));
    QTRY_VERIFY(window_->document().recipe() == sound);
    QVERIFY(planOf(world()).level());
    for (int i = 0; i < 10; ++i) child<QAction>("edit.undo")->trigger();
    QTRY_VERIFY(window_->document().recipe() == before);
  }

  /// Brooks of a material of their own, whose failures are found and mended.
  void coursesAreLaid() {
    toLevel();
    click("level.add.courses");
    QTRY_COMPARE(level().processes.size(), size_t{7});
    QTRY_VERIFY(window_->document().current());
    QCOMPARE(planOf(world()).level()->floor().courses.size(), size_t{1});
    type("level.courses-1.count", QStringLiteral("5"));
    QTRY_COMPARE(process<acre::LevelCourses>(6).count.at, 5.0);
    child<Tick>("level.courses-1.dig")->click();
    QTRY_VERIFY(!process<acre::LevelCourses>(6).dig);
    auto* of = child<Choice>("level.courses-1.material");
    of->setCurrentIndex(2);
    emit of->activated(2);
    QTRY_VERIFY(!process<acre::LevelCourses>(6).material.empty());
    QTRY_VERIFY(window_->document().current());
    QTRY_COMPARE(planOf(world()).level()->floor().courses.size(), size_t{5});
    // Through rock one hardly gets from side to side, and each that fails says why.
    type("level.courses-1.share", QStringLiteral("90"));
    QTRY_COMPARE(process<acre::LevelCourses>(6).share.at, 0.9);
    QTRY_VERIFY(window_->document().current());
    size_t failed = 0;
    for (const acre::LaidCourse& course : planOf(world()).level()->floor().courses)
      failed += course.fault != acre::CourseFault::None;
    QVERIFY(failed > 0);
  }

  void processesAreAddedMovedSwitchedAndDeleted() {
    toLevel();
    const acre::Level before = level();
    for (const char* name : {"walls", "automaton", "walks", "outline", "rooms", "spaces"})
      click((QByteArray("level.add.") + name).constData());
    QTRY_COMPARE(level().processes.size(), size_t{12});
    QTRY_VERIFY(window_->document().current());
    click("level.spaces-1.up");
    QTRY_COMPARE(level().processes[10].id, std::string("spaces-1"));
    click("level.spaces-1.down");
    QTRY_COMPARE(level().processes[11].id, std::string("spaces-1"));
    child<Tick>("level.walls-1.on")->click();
    QTRY_VERIFY(!level().processes[6].on);
    click("level.walls-1.delete");
    QTRY_COMPARE(level().processes.size(), size_t{11});
    child<Tick>("level.pillars.refill")->click();
    QTRY_VERIFY(process<acre::NoiseWalls>(1).refill);
    auto* edge = child<Choice>("level.workings.edge");
    edge->setCurrentIndex(1);
    emit edge->activated(1);
    QTRY_VERIFY(process<acre::FilledAutomaton>(0).edge == acre::AutomatonLayer::Edge::Empty);
    click("level.addPlace");
    QTRY_COMPARE(level().places.size(), before.places.size() + 1);
    QCOMPARE(level().places.back().from, std::string("lift"));
    click("level.place.place-1.delete");
    QTRY_COMPARE(level().places.size(), before.places.size());
    for (int i = 0; i < 14; ++i) child<QAction>("edit.undo")->trigger();
    QTRY_VERIFY(level() == before);
    QTRY_VERIFY(window_->document().current());
    QTest::keyClick(child<QWidget>("stage.level"), Qt::Key_Space);  // The whole stage.
    QTRY_VERIFY(!level().on);
    QTRY_VERIFY(window_->document().current());
    QVERIFY(!planOf(world()).level());
    click("level.switch");
    QTRY_VERIFY(level().on);
  }

  void roomsAreTypedAndReadFromFiles() {
    toLevel();
    click("level.rooms.addRoom");
    QTRY_COMPARE(process<acre::LevelRooms>(4).pieces.size(), size_t{4});
    auto* text = child<QPlainTextEdit>("level.rooms.room-1.text");
    text->setFocus();
    text->setPlainText(QStringLiteral("####\n#..#\n####\n"));
    child<QWidget>("level.floor")->setFocus();
    QTRY_COMPARE(process<acre::LevelRooms>(4).pieces[3].text, std::string("####\n#..#\n####\n"));
    text = child<QPlainTextEdit>("level.rooms.room-1.text");
    text->setFocus();
    text->setPlainText(QStringLiteral("####\n#.\n"));
    child<QWidget>("level.floor")->setFocus();
    QTRY_VERIFY(window_->notice().contains(QStringLiteral("row 2 has 2 cells")));
    QCOMPARE(process<acre::LevelRooms>(4).pieces[3].text, std::string("####\n#..#\n####\n"));
    const QString file = dir_.filePath(QStringLiteral("vault.txt"));
    std::ofstream(file.toStdString()) << "#####\n#...#\n#####\n";
    answers_.open = file;
    click("level.rooms.room-1.file");
    QTRY_COMPARE(QString::fromStdString(process<acre::LevelRooms>(4).pieces[3].file), file);
    QTRY_VERIFY(window_->document().current());
    QCOMPARE(planOf(world()).recipe().level, level());
    click("level.rooms.room-1.delete");
    QTRY_COMPARE(process<acre::LevelRooms>(4).pieces.size(), size_t{3});
  }

  /// The margin is told, and warned of where changes by hand have made it thinner.
  void theFloorIsMeasured() {
    toLevel();
    const acre::LevelFigures figures =
        acre::figuresOf(planOf(world()).level()->floor(), planOf(world()).level()->floor().plane);
    QVERIFY(label("level.state")
                .contains(
                    QStringLiteral("%1 cells stay solid at the edge, 4 are").arg(figures.margin)));
    QVERIFY(label("level.state").contains(look::percent(figures.open)));
    QVERIFY(label("level.state").contains(QStringLiteral("The outline looked at")));
    QVERIFY(!child<QLabel>("level.warning")->isVisible());
    QVERIFY(editor().figures().contains(QStringLiteral("1 piece,")));
    acre::Recipe next = window_->document().recipe();
    const acre::Rect all = planOf(world()).bounds();
    next.edits = acre::EditSet(next.seed).with({{all.x + 1, 1, all.z + 50, "quarry-tile"}});
    QVERIFY(window_->document().change(QStringLiteral("By hand"), next));
    QTRY_VERIFY(child<QLabel>("level.warning")->isVisible());
    QVERIFY(label("level.warning").contains(QStringLiteral("the margin is 1 cells, 4 are asked")));
    // On the next floor nothing was changed.
    type("level.floor", QStringLiteral("2"));
    QTRY_VERIFY(!child<QLabel>("level.warning")->isVisible() && editor().settled() &&
                window_->document().current());
  }

  // ---- replay
  // ------------------------------------------------------------------------------------

  void anAutomatonIsStepped() {
    toReplay("workings");
    QCOMPARE(replay().steps(), 7);  // From solid rock: filled by chance, and six steps.
    QTest::keyClick(&replay(), Qt::Key_End);
    QCOMPARE(replay().step(), 7);
    QTest::keyClick(&replay(), Qt::Key_Home);
    QCOMPARE(replay().step(), 0);
    QVERIFY(label("replay.figures")
                .startsWith(QStringLiteral("Step 0 of 7, before the first: 0.0 % open, 0 pieces")));
    std::vector<QString> told;
    std::vector<acre::BitGrid> frames;
    for (int step = 1; step <= 7; ++step) {
      click("replay.step");
      QCOMPARE(replay().step(), step);
      const auto& f = replay().replay()->figures(static_cast<size_t>(step));
      QVERIFY(label("replay.figures").contains(look::percent(f.open) + QStringLiteral(" open")));
      QVERIFY(label("replay.figures").contains(QStringLiteral("%1 piece").arg(f.pieces)));
      told.push_back(label("replay.figures"));
      QCOMPARE(child<Plot>("replay.plot.open")->chosen(), double(step));
      QCOMPARE(child<Plot>("replay.plot.pieces")->chosen(), double(step));
    }
    // The automaton settles: from many pieces to few.
    QVERIFY(replay().replay()->figures(1).pieces > 4 * replay().replay()->figures(7).pieces);
    for (int step = 6; step >= 1; --step) {
      click("replay.back");
      QCOMPARE(label("replay.figures"), told[static_cast<size_t>(step - 1)]);
    }
    child<QSlider>("replay.scrub")->setValue(5);
    QCOMPARE(replay().step(), 5);
    QTest::mouseClick(child<Plot>("replay.plot.outline"), Qt::LeftButton, {}, QPoint(5, 40));
    QCOMPARE(replay().step(), 0);
  }

  /// The last frame of all processes is the floor.
  void theLastFrameIsTheFloor() {
    toReplay("workings");
    auto* process = child<Choice>("replay.process");
    process->setCurrentIndex(0);
    emit process->activated(0);
    QTRY_VERIFY(replay().settled() && replay().steps() > 20);
    replay().go(replay().steps());
    auto copy = *replay().replay();
    QVERIFY(copy.at(copy.steps()) == planOf(world()).level()->floor().plane);
    // Playing runs to the end and stops there.
    auto* speed = child<Choice>("replay.speed");
    speed->setCurrentIndex(3);
    emit speed->activated(3);
    replay().go(replay().steps() - 4);
    click("replay.play");
    QCOMPARE(child<QAbstractButton>("replay.play")->text(), QStringLiteral("Pause"));
    QTRY_COMPARE(child<QAbstractButton>("replay.play")->text(), QStringLiteral("Play"));
    QCOMPARE(replay().step(), replay().steps());
    QTest::keyClick(&replay(), Qt::Key_Space);  // From the end it begins again.
    QVERIFY(replay().step() < replay().steps());
    QTest::keyClick(&replay(), Qt::Key_Space);
    QCOMPARE(child<QAbstractButton>("replay.play")->text(), QStringLiteral("Play"));
  }

  void thePointerTellsNeighbours() {
    toReplay("workings");
    replay().go(3);
    const acre::Rect all = planOf(world()).bounds();
    const acre::Cell cell{all.x + 40, all.z + 40};
    emit map().hovered(true, cell.x, cell.z);
    const int neighbours = replay().replay()->neighbours(40, 40);
    QVERIFY(label("replay.pointer")
                .contains(QStringLiteral("%1 of 8 neighbours solid").arg(neighbours)));
    emit map().hovered(false, 0, 0);
    QVERIFY(label("replay.pointer").startsWith(QStringLiteral("Point at a cell")));
  }

  /// In Landmarks the open spaces are those of the floor.
  void openSpacesOfTheFloorAreListed() {
    click("rail.landmarks");
    click("landmarks.spaces");
    SpacesList& list = *window_->findChild<SpacesList*>();
    QTRY_VERIFY(list.isVisible() && list.settled() && list.model().rowCount() > 0);
    const auto expected = acre::spacesIn(world(), list.model().box()).value();
    QCOMPARE(list.model().rowCount(), static_cast<int>(expected.spaces.size()));
    QCOMPARE(list.model().space(0), expected.spaces[0]);
    QCOMPARE(list.model().box().height, 1);
  }

  void theReversedOrderIsEqual() {
    toReplay("workings");
    click("replay.reverse");
    QTRY_VERIFY(label("replay.equal").startsWith(QStringLiteral("Equal: 6 steps")));
    click("level.outline.steps.show");
    QTRY_VERIFY(replay().settled() && replay().steps() > 20);
    click("replay.reverse");
    QTRY_VERIFY(label("replay.equal").startsWith(QStringLiteral("Equal: 31 steps")));
    click("level.headings.steps.show");
    QTRY_VERIFY(replay().settled());
    click("replay.reverse");
    QTRY_VERIFY(label("replay.equal").contains(QStringLiteral("walkers dig in turn")));
  }

  /// A change of the recipe is recorded anew, at the same step; other worlds have no replay.
  void itFollowsTheRecipe() {
    toReplay("workings");
    replay().go(2);
    const auto before = replay().replay()->figures(2);
    auto* edge = child<Choice>("level.workings.edge");
    edge->setCurrentIndex(1);
    emit edge->activated(1);
    QTRY_VERIFY(window_->document().current() && replay().settled());
    QTRY_VERIFY(replay().replay() && replay().replay()->figures(2).open != before.open);
    QCOMPARE(replay().step(), 2);
    QVERIFY(replay().replay()->figures(7).open > 0);
    QVERIFY(window_->openWorld(QStringLiteral("first-steps")));
    QTRY_VERIFY(!replay().replay());
    QVERIFY(label("replay.headline").contains(QStringLiteral("Only the floors of levels")));
    QVERIFY(!child<QWidget>("replay.play")->isVisible());
  }

  /// While another world is recorded the old recording stays, with its own floor and processes.
  void theOldRecordingStaysWhileOneIsMade() {
    toReplay("workings");
    auto* process = child<Choice>("replay.process");
    process->setCurrentIndex(0);
    emit process->activated(0);
    QTRY_VERIFY(replay().settled() && replay().steps() > 20);
    bool asked = false;
    connect(&window_->document(), &Document::worldChanged, this, [&] {
      if (asked || replay().settled()) return;
      asked = true;
      replay().go(replay().steps());  // Of a process that is no more.
      emit map().hovered(true, 150, 110);
      QVERIFY(label("replay.figures").contains(QStringLiteral("Ways between")));
      QVERIFY(label("replay.pointer").startsWith(QStringLiteral("Point at a cell")));
    });
    acre::Recipe next = window_->document().recipe();
    next.level->processes.pop_back();
    next.level->places.clear();
    next.frame.x->extent = 400;
    next.frame.z->extent = 300;
    QVERIFY(window_->document().change(QStringLiteral("Larger"), next));
    QTRY_VERIFY(asked && replay().settled());
    QVERIFY(label("replay.figures").contains(QStringLiteral("Kilns and stores")));
    window_->document().disconnect(this);
  }

  // ---- from another world
  // ------------------------------------------------------------------------

  void aLevelIsChosenInTheFrame() {
    QVERIFY(window_->openWorld(QStringLiteral("first-steps")));
    click("stage.frame");
    click("frame.kind.level");
    QTRY_VERIFY(window_->document().current());
    QVERIFY(planOf(world()).level());
    QCOMPARE(planOf(world()).bounds().width, int64_t{128});
    QVERIFY(planOf(world()).catalogue().material(planOf(world()).level()->openMaterial()));
    click("stage.level");
    QTRY_VERIFY(child<QWidget>("level.caverns.rule")->isVisible());
    QCOMPARE(label("editor.title"), QStringLiteral("Level"));
    child<QAction>("edit.undo")->trigger();
    QTRY_VERIFY(!planOf(world()).level());
    QTRY_COMPARE(label("editor.title"), QStringLiteral("Heights"));  // There is no Level now.
    QVERIFY(!child<QWidget>("stage.level")->isVisible());
    click("stage.caves");
    QTRY_VERIFY(child<QWidget>("caves.addTunnels")->isVisible());
  }

  /// The interface paints on while the floor of a large level is made.
  void largeLevelsAreMadeBeside() {
    acre::Recipe large = window_->document().recipe();
    large.frame.x = large.frame.z = acre::AxisBounds{0, 1500};
    const QString file = dir_.filePath(QStringLiteral("large.acre"));
    QVERIFY(acre::writeRecipeFile(file.toStdString(), large));
    int ticks = 0;
    QTimer timer;
    timer.setInterval(5);
    connect(&timer, &QTimer::timeout, this, [&] { ++ticks; });
    timer.start();
    QVERIFY(window_->openWorld(file));
    QVERIFY(ticks > 0);
    QCOMPARE(planOf(world()).bounds().width, int64_t{1500});
    QVERIFY(planOf(world()).level());
    QCOMPARE(map().viewpoint().cell,
        planOf(world()).level()->cellOf(planOf(world()).level()->floor().places[0]));
  }

  /// Quitting meanwhile waits for what is being made.
  void quittingWhileALargeLevelIsMade() {
    acre::Recipe large = window_->document().recipe();
    large.frame.x = large.frame.z = acre::AxisBounds{0, 1200};
    const QString file = dir_.filePath(QStringLiteral("large.acre"));
    QVERIFY(acre::writeRecipeFile(file.toStdString(), large));
    // At the first turn of the loop in which the window waits for it.
    QTimer::singleShot(0, qApp, [] { QCoreApplication::exit(0); });
    QVERIFY(window_->openWorld(file));
    QCOMPARE(planOf(world()).bounds().width, int64_t{1200});
  }

  void cellsArePaintedOnTheirFloor() {
    click("rail.hand");
    const acre::Cell cell =
        planOf(world()).level()->cellOf(planOf(world()).level()->floor().places[1]);
    emit map().painted(cell.x + 1, cell.z, cell.x + 1, cell.z);
    QTRY_VERIFY(window_->document().recipe().edits);
    for (const acre::Edit& edit : window_->document().recipe().edits->all()) QCOMPARE(edit.y, 1);
    child<QAction>("edit.undo")->trigger();
    QTRY_VERIFY(!window_->document().recipe().edits);
  }
};

ACRE_SUITE(LevelsTest)
#include "levels_test.moc"
