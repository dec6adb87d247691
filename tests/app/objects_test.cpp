// The stage Objects in the window: its editor, and signs on the map.
#include <QClipboard>
#include <QtTest>
#include <atomic>
#include <thread>

#include "app/edit/choice.h"
#include "app/landmarks/landmarks_drawer.h"
#include "app/objects/objects_editor.h"
#include "app/objects/piece_grid.h"
#include "app/overlay/border_crossers.h"
#include "app/overlay/computed.h"
#include "app/overlay/object_signs.h"
#include "app/window_desk.h"
#include "audit/world_start.h"
#include "suite.h"
#include "world/world.h"

class ObjectsTest : public QObject, protected WindowDesk {
  Q_OBJECT

  const acre::Objects& objects() { return *window_->document().recipe().objects; }
  ObjectsEditor& editor() { return *window_->findChild<ObjectsEditor*>(); }
  void settle() { QTRY_VERIFY(window_->document().current() && editor().settled()); }

 private slots:
  void initTestCase() { makeEngine(); }
  void init() { openDry("saltfen-reach"); }
  void cleanup() { window_.reset(); }

  /// A kind is added, stands on the map at once, and its figures are those of the world.
  void aKindStandsOnTheMap() {
    const acre::Recipe before = window_->document().recipe();
    click("stage.objects");
    QTRY_VERIFY(child<QWidget>("objects.addKind")->isVisible());
    QVERIFY(!map().overlays().has(Over::Objects));
    click("objects.addKind");
    QTRY_COMPARE(objects().kinds.size(), size_t{1});
    settle();
    QTRY_VERIFY(map().overlays().has(Over::Objects));
    QTRY_COMPARE(editor().found().size(), size_t{1});
    const acre::ObjectFigures found = editor().found()[0];
    QVERIFY(found.count > 100);
    QVERIFY(editor().figures().contains(QStringLiteral("in view")));
    QVERIFY(child<QLabel>("objects.kind-1.found")->text().contains(QStringLiteral("asked")));
    // What a sign says is what stands there.
    const auto made = ObjectSigns::make(world(), map().geometry(), {});
    const auto& signs = static_cast<const ObjectSigns&>(*made);
    QVERIFY(!signs.objects().empty());
    const acre::PlacedObject& one = signs.objects().back();
    QVERIFY(signs.at(map().geometry().toScreen(one.cell, 0.5, 0.5), map().geometry())
                .startsWith(QStringLiteral("Kind 1 at x ")));
    QCOMPARE(world().objects().in({one.cell.x, one.cell.z, 1, 1})->size(), size_t{1});
    // More of them: none of the old ones moves.
    type("objects.kind-1.density", QStringLiteral("6"));
    QTRY_COMPARE(objects().kinds[0].density, 6.0);
    settle();
    QTRY_VERIFY(!editor().found().empty() && editor().found()[0].count > found.count);
    const auto now = world().objects().in({one.cell.x, one.cell.z, 1, 1});
    QVERIFY(now->size() == 1 && (*now)[0].id == one.id);
    // Its density as a picture, as long as there is one.
    auto* pictures = child<Choice>("title.picture");
    QTRY_VERIFY(pictures->findText(QStringLiteral("Density of Kind 1")) > 0);
    pictures->setCurrentIndex(pictures->findText(QStringLiteral("Density of Kind 1")));
    emit pictures->activated(pictures->currentIndex());
    QTRY_COMPARE(acre::nameOf(map().picture()), std::string("density:kind-1"));
    child<QAction>("view.objects")->trigger();
    QTRY_VERIFY(!map().overlays().has(Over::Objects));
    child<QAction>("view.objects")->trigger();
    QTRY_VERIFY(map().overlays().has(Over::Objects));
    for (int i = 0; i < 2; ++i) child<QAction>("edit.undo")->trigger();
    QTRY_VERIFY(window_->document().recipe() == before);
    QTRY_VERIFY(!map().overlays().has(Over::Objects));
    QTRY_COMPARE(map().picture().kind, acre::PictureKind::Composite);
  }

  /// A style is made, opened on the bench, grown round by round, turned, leant and cut; a sheet of
  /// sixteen, one of which is taken; and a kind grows in it.
  void treesGrowOnTheBench() {
    click("stage.objects");
    QTRY_VERIFY(child<QWidget>("objects.addTree")->isVisible());
    click("objects.addTree");
    QTRY_COMPARE(objects().trees.size(), size_t{1});
    click("objects.tree.tree-1.form");
    QTRY_VERIFY(window_->findChild<QWidget*>(QStringLiteral("objects.tree.tree-1.points")));
    type("objects.tree.tree-1.points", QStringLiteral("120"));
    QTRY_COMPARE(objects().trees[0].points, 120);
    QVERIFY(window_->panes().bench().isHidden());
    click("objects.tree.tree-1.grow");
    TreeBench& bench = window_->panes().bench();
    QTRY_VERIFY(bench.isVisible() && bench.settled() && !bench.canvas().picture().isNull());
    QCOMPARE(window_->panes().large(), Panes::Large::Trees);
    QCOMPARE(bench.style(), QStringLiteral("tree-1"));
    TreeCanvas& canvas = bench.canvas();
    const TreeTold whole = canvas.told();
    QVERIFY(whole.rounds > 3 && whole.rounds == whole.allRounds && whole.leaves > 50);
    const QImage full = canvas.picture();
    // Back by keys, forward by the wheel's place: rounds and what they grow.
    for (int n = 1; n <= 3; ++n) {
      QTest::keyClick(&canvas, Qt::Key_Left);
      QTRY_VERIFY(bench.settled() && canvas.told().rounds == whole.rounds - n);
    }
    QVERIFY(canvas.told().nodes < whole.nodes);
    auto* points = child<QAbstractButton>("bench.points");
    const QImage bare = canvas.picture();
    points->click();
    QTRY_VERIFY(bench.settled() && canvas.picture() != bare);
    points->click();
    child<QSlider>("bench.rounds")->setValue(whole.allRounds);
    QTRY_VERIFY(bench.settled() && canvas.picture() == full);
    // Turned by hand.
    const QPoint middle = canvas.rect().center();
    QTest::mousePress(&canvas, Qt::LeftButton, {}, middle);
    QTest::mouseMove(&canvas, middle + QPoint(60, 10));
    QTest::mouseRelease(&canvas, Qt::LeftButton, {}, middle + QPoint(60, 10));
    QTRY_VERIFY(bench.settled() && canvas.picture() != full);
    QVERIFY(canvas.request().yaw > 40);
    // Leant: towards the east.
    const QImage upright = canvas.picture();
    const QPoint rose = canvas.rose().center();
    QTest::mousePress(&canvas, Qt::LeftButton, {}, rose);
    QTest::mouseMove(&canvas, rose + QPoint(28, 0));
    QTest::mouseRelease(&canvas, Qt::LeftButton, {}, rose + QPoint(28, 0));
    QTRY_VERIFY(bench.settled() && canvas.picture() != upright);
    QCOMPARE(objects().trees[0].toward, 90.0);
    QVERIFY(canvas.request().wind > 0.8);
    // Cut, without its leaves, without its wood: each another picture.
    const auto changes = [&](auto&& act) {
      const QImage was = canvas.picture();
      act();
      QTRY_VERIFY(bench.settled() && canvas.picture() != was);
    };
    changes([&] { child<QSlider>("bench.cut")->setValue(50); });
    changes([&] { click("bench.leaves"); });
    changes([&] { click("bench.wood"); });
    changes([&] { click("bench.leaves"); });
    changes([&] { child<QAction>("view.night")->trigger(); });
    changes([&] { child<QAction>("view.night")->trigger(); });
    const QImage before = canvas.picture();
    // Sixteen of them; the seventh is taken.
    click("bench.sheet");
    QTRY_VERIFY(bench.settled() && canvas.request().sheet && canvas.picture() != before);
    const QSize part(canvas.width() / 4, canvas.height() / 4);
    QTest::mouseClick(&canvas, Qt::LeftButton, {}, QPoint(2 * part.width() + 9, part.height() + 9));
    QTRY_VERIFY(bench.settled() && !canvas.request().sheet);
    QCOMPARE(canvas.request().variant, uint64_t{6});
    QTest::keyClick(&canvas, Qt::Key_Up);
    QTRY_COMPARE(canvas.request().variant, uint64_t{7});
    QTest::keyClick(&canvas, Qt::Key_Escape);
    QTRY_COMPARE(window_->panes().large(), Panes::Large::Map);
    QVERIFY(child<QAbstractButton>("title.map")->isChecked());
    // A kind grows in it; without the style it is a sign again.
    click("objects.addKind");
    QTRY_COMPARE(objects().kinds.size(), size_t{1});
    auto* made = child<Choice>("objects.kind-1.piece");
    const int at = made->findData(QStringLiteral("tree tree-1"));
    QVERIFY(at > 0);
    made->setCurrentIndex(at);
    emit made->activated(at);
    QTRY_COMPARE(objects().kinds[0].tree, std::string("tree-1"));
    settle();
    QVERIFY(world().objectCells().any());
    click("objects.tree.tree-1.delete");
    QTRY_VERIFY(objects().trees.empty());
    QVERIFY(objects().kinds[0].tree.empty());
  }

  /// What each number of a style does is seen in its tooltip: a tree of a lower value, and of a
  /// higher.
  void numbersOfTreesAreShown() {
    click("stage.objects");
    QTRY_VERIFY(child<QWidget>("objects.addTree")->isVisible());
    click("objects.addTree");
    click("objects.tree.tree-1.form");
    QTRY_VERIFY(window_->findChild<QWidget*>(QStringLiteral("objects.tree.tree-1.points")));
    // Those of which a broad tree of few variants has something to show.
    const QSet<QString> told = {QStringLiteral("height"), QStringLiteral("radius"),
        QStringLiteral("base"), QStringLiteral("variants"), QStringLiteral("points"),
        QStringLiteral("segment"), QStringLiteral("lean"), QStringLiteral("twist"),
        QStringLiteral("droop"), QStringLiteral("leafWide"), QStringLiteral("leafTall"),
        QStringLiteral("leafFill")};
    const QString prefix = QStringLiteral("objects.tree.tree-1.");
    int seen = 0;
    for (auto* field : editor().findChildren<NumberField*>()) {
      if (!field->objectName().startsWith(prefix)) continue;
      const QString name = field->objectName().mid(prefix.size());
      if (!editor().previews().endsOf(field)) continue;
      QSignalSpy shown(&editor().previews(), &Previews::shown);
      QHelpEvent ask(QEvent::ToolTip, {}, {});
      QApplication::sendEvent(field, &ask);
      QTRY_COMPARE(shown.size(), 1);
      const auto low = shown[0][0].value<QImage>(), high = shown[0][1].value<QImage>();
      QVERIFY2(!low.isNull() || !high.isNull(), qPrintable(name));
      if (!told.contains(name)) continue;
      ++seen;
      QCOMPARE(low.size(), kSmallPicture);
      QVERIFY2(low != high && high.size() == kSmallPicture, qPrintable(name));
    }
    QCOMPARE(seen, told.size());
  }

  /// Conditions, distances to earlier kinds, what is drawn, and their order.
  void kindsAreShaped() {
    click("stage.objects");
    for (size_t n = 1; n <= 2; ++n) {
      click("objects.addKind");
      QTRY_COMPARE(objects().kinds.size(), n);
    }
    settle();
    child<Tick>("objects.kind-2.slope.to.on")->click();
    QTRY_VERIFY(objects().kinds[1].slope.high.has_value());
    type("objects.kind-2.slope.to", QStringLiteral("0.4"));
    QTRY_COMPARE(objects().kinds[1].slope.high.value_or(0), 0.4);
    type("objects.kind-2.apart.kind-1", QStringLiteral("9"));
    QTRY_COMPARE(objects().kinds[1].apart.size(), size_t{1});
    QCOMPARE(objects().kinds[1].apart[0].cells, 9);
    click("objects.kind-2.addChoice");
    QTRY_COMPARE(objects().kinds[1].what.size(), size_t{1});
    click("objects.kind-2.addChoice");
    QTRY_COMPARE(objects().kinds[1].what.size(), size_t{2});
    type("objects.kind-2.what.object-2.weight", QStringLiteral("3"));
    QTRY_COMPARE(objects().kinds[1].what[1].weight, 3.0);
    settle();
    QTRY_COMPARE(editor().found().size(), size_t{2});
    QVERIFY(editor().found()[1].refused[static_cast<size_t>(acre::Refusal::Slope)] > 0);
    // The later one comes first now: it keeps from nothing that stands after it.
    click("objects.kind-2.up");
    QTRY_COMPARE(objects().kinds[0].id, std::string("kind-2"));
    QVERIFY(objects().kinds[0].apart.empty());
    // What is out of range is taken back in words.
    type("objects.kind-1.density", QStringLiteral("2000"));
    QTRY_VERIFY(window_->notice().contains(QStringLiteral("1,000")) ||
                window_->notice().contains(QStringLiteral("1000")));
    click("objects.kind-1.delete");
    QTRY_COMPARE(objects().kinds.size(), size_t{1});
    QTest::keyClick(child<QWidget>("stage.objects"), Qt::Key_Space);  // The whole stage.
    QTRY_VERIFY(!objects().on);
    click("objects.switch");
    QTRY_VERIFY(objects().on);
  }

  /// What stands in caves asks for their kinds and walls, not for slopes; lists ask where.
  void whatStandsInCavesIsShaped() {
    window_.reset();
    openDry("swallet-edge");
    click("stage.objects");
    click("objects.addKind");
    QTRY_COMPARE(objects().kinds.size(), size_t{1});
    const auto choose = [&](const char* name, const char* text) {
      auto* of = child<Choice>(name);
      const int at = of->findText(QString::fromUtf8(text));
      QVERIFY2(at >= 0, name);
      of->setCurrentIndex(at);
      emit of->activated(at);
    };
    const auto there = [&](const char* name) {
      return editor().findChild<QWidget*>(QString::fromUtf8(name)) != nullptr;
    };
    QTRY_VERIFY(there("objects.kind-1.stands") && there("objects.kind-1.slope.to.on"));
    QVERIFY(!there("objects.kind-1.caves") && !there("objects.kind-1.wall.to.on"));
    choose("objects.kind-1.stands", "ceilings of caves, hanging");
    QTRY_COMPARE(objects().kinds[0].stands, acre::ObjectStand::CaveCeiling);
    QTRY_VERIFY(there("objects.kind-1.wall.to.on") && !there("objects.kind-1.slope.to.on"));
    choose("objects.kind-1.caves", "Damp galleries");
    QTRY_COMPARE(objects().kinds[0].caves, std::vector<std::string>{"damp"});
    type("objects.kind-1.density", QStringLiteral("12"));
    QTRY_COMPARE(objects().kinds[0].density, 12.0);
    settle();
    QTRY_VERIFY(!editor().found().empty() && editor().found()[0].count > 0);
    QVERIFY(editor().found()[0].refused[static_cast<size_t>(acre::Refusal::Cave)] > 0);
    click("objects.kind-1.addChoice");
    QTRY_COMPARE(objects().kinds[0].what.size(), size_t{1});
    choose("objects.kind-1.what.object-1.field", "Depth of soil");
    QTRY_COMPARE(objects().kinds[0].what[0].field, std::string("soil"));
    child<Tick>("objects.kind-1.what.object-1.within.from.on")->click();
    QTRY_VERIFY(objects().kinds[0].what[0].within.low.has_value());
    const std::string biome = window_->document().recipe().biomes.list[0].id;
    auto* biomes = child<Choice>("objects.kind-1.what.object-1.biomes");
    biomes->setCurrentIndex(1);
    emit biomes->activated(1);
    QTRY_COMPARE(objects().kinds[0].what[0].biomes, std::vector<std::string>{biome});
    // A cave kind that goes takes its name along.
    click("stage.caves");
    QTRY_VERIFY(child<QWidget>("caves.kind.damp.delete")->isVisible());
    click("caves.kind.damp.delete");
    QTRY_VERIFY(objects().kinds[0].caves.empty());
    QTRY_VERIFY(window_->document().current());
  }

  /// The map goes where one enters the world, and walking begins there.
  void oneEntersAtTheStart() {
    const auto start = acre::worldStart(world()).value();
    QVERIFY(start);
    map().goTo({4000, 4000});
    child<QAction>("view.start")->trigger();
    QTRY_COMPARE(map().viewpoint().cell, start->cell);
    toWalk();
    QTRY_COMPARE(acre::Cell({walk().walker().eye.cellX, walk().walker().eye.cellZ}), start->cell);
  }

  /// A piece is drawn, layer by layer, and stands where its kind does; every stroke is a step.
  void aPieceIsDrawn() {
    click("stage.objects");
    click("objects.addKind");
    QTRY_COMPARE(objects().kinds.size(), size_t{1});
    click("objects.addPiece");
    QTRY_COMPARE(objects().pieces.size(), size_t{1});
    QTRY_VERIFY(editor().findChild<QAbstractButton*>(QStringLiteral("objects.piece.piece-1.draw")));
    click("objects.piece.piece-1.draw");
    QTRY_VERIFY(editor().findChild<PieceGrid*>());
    auto* grid = editor().findChild<PieceGrid*>();
    auto* ink = child<Choice>("objects.piece.piece-1.ink");
    const std::string turf = window_->document().recipe().materials[3].id;
    ink->setCurrentIndex(ink->findData(QString::fromStdString(turf)));
    // One stroke over the northern row, one click that leaves a cell.
    const auto at = [&](int x, int z) { return grid->boxOf(x, z).center().toPoint(); };
    QTest::mousePress(grid, Qt::LeftButton, {}, at(0, 0));
    for (int x = 1; x < 3; ++x) {
      QMouseEvent move(QEvent::MouseMove, grid->boxOf(x, 0).center(),
          grid->mapToGlobal(grid->boxOf(x, 0).center()), Qt::NoButton, Qt::LeftButton, {});
      QApplication::sendEvent(grid, &move);
    }
    QTest::mouseRelease(grid, Qt::LeftButton, {}, at(2, 0));
    QTRY_COMPARE(objects().pieces[0].layers[0].rows[0], std::string("aaa"));
    QCOMPARE(objects().pieces[0].signs.back().material, turf);
    QCOMPARE(editor().findChild<PieceGrid*>(), grid);  // Drawing makes no new controls.
    QTest::mouseClick(grid, Qt::RightButton, {}, at(1, 1));
    QTRY_COMPARE(objects().pieces[0].layers[0].rows[1], std::string("..."));
    child<QAction>("edit.undo")->trigger();
    QTRY_COMPARE(objects().pieces[0].layers[0].rows[1], std::string(".#."));
    child<QAction>("edit.undo")->trigger();
    QTRY_COMPARE(objects().pieces[0].layers[0].rows[0], std::string("..."));
    child<QAction>("edit.redo")->trigger();
    QTRY_COMPARE(objects().pieces[0].layers[0].rows[0], std::string("aaa"));
    // By keys, on a layer above.
    type("objects.piece.piece-1.tall", QStringLiteral("2"));
    QTRY_COMPARE(objects().pieces[0].layers.size(), size_t{2});
    click("objects.piece.piece-1.higher");
    QVERIFY(
        child<QLabel>("objects.piece.piece-1.layer")->text().contains(QStringLiteral("2 of 2")));
    grid = editor().findChild<PieceGrid*>();
    grid->setFocus();
    for (const auto key : {Qt::Key_Up, Qt::Key_Up, Qt::Key_Left, Qt::Key_Left, Qt::Key_Right,
             Qt::Key_Down, Qt::Key_Space})
      QTest::keyClick(grid, key);
    QTRY_COMPARE(objects().pieces[0].layers[1].rows[1], std::string(".a."));
    QVERIFY(grid->accessibleDescription().contains(QString::fromStdString(turf)));
    // The model turns.
    auto* model = editor().findChild<PieceModel*>();
    const double before = model->turn();
    QTest::keyClick(model, Qt::Key_Right);
    QVERIFY(model->turn() != before);
    // Out as text and in again; what is none is told of.
    click("objects.piece.piece-1.copy");
    QVERIFY(QApplication::clipboard()->text().contains(QStringLiteral("aaa")));
    QApplication::clipboard()->setText(QStringLiteral("a nothing-like-it\n\naa\n"));
    click("objects.piece.piece-1.paste");
    QTRY_VERIFY(!window_->notice().isEmpty());
    QCOMPARE(objects().pieces[0].layers.size(), size_t{2});
    QApplication::clipboard()->setText(QStringLiteral("aaaaa\na#a#a\n"));
    click("objects.piece.piece-1.paste");
    QTRY_COMPARE(objects().pieces[0].layers[0].rows[1], std::string("a#a#a"));
    // Out as a file and in again.
    answers_.save = answers_.open = dir_.filePath(QStringLiteral("piece.nrrd"));
    click("objects.piece.piece-1.write");
    QVERIFY(QFile::exists(answers_.save));
    const auto drawn = objects().pieces[0].layers;
    QApplication::clipboard()->setText(QStringLiteral("a\n"));
    click("objects.piece.piece-1.paste");
    QTRY_COMPARE(objects().pieces[0].layers[0].rows.size(), size_t{1});
    click("objects.piece.piece-1.read");
    QTRY_COMPARE(objects().pieces[0].layers.size(), drawn.size());
    QCOMPARE(objects().pieces[0].layers[0].rows[1].size(), drawn[0].rows[1].size());
    QVERIFY(QFile::resize(answers_.save, 60));
    click("objects.piece.piece-1.read");
    QTRY_VERIFY(window_->notice().contains(QStringLiteral("no piece")));
    child<QAction>("edit.undo")->trigger();
    child<QAction>("edit.undo")->trigger();
    QTRY_COMPARE(objects().pieces[0].layers[0].rows[1], std::string("a#a#a"));
    // A kind is made of it: it is in the cells, and those over borders of chunks are outlined.
    auto* made = child<Choice>("objects.kind-1.piece");
    made->setCurrentIndex(made->findData(QStringLiteral("piece piece-1")));
    emit made->activated(made->currentIndex());
    QTRY_COMPARE(objects().kinds[0].piece, std::string("piece-1"));
    settle();
    const auto standing = world().objects().in({0, 0, 400, 400}).value();
    QVERIFY(!standing.empty());
    QCOMPARE(world().at(standing[0].cell).material, acre::MaterialIndex{4});
    child<QAction>("view.crossers")->trigger();
    QTRY_VERIFY(map().overlays().has(Over::Crossers));
    const auto crossing = BorderCrossers::make(world(), map().geometry(), {});
    const auto& shown = static_cast<const BorderCrossers&>(*crossing);
    QVERIFY(shown.count() > 0 && shown.count() < shown.all());
    QVERIFY(shown.spoken().contains(QStringLiteral("reach over the border")));
    // Deleted, it is nobody's.
    click("objects.piece.piece-1.delete");
    QTRY_VERIFY(objects().pieces.empty() && objects().kinds[0].piece.empty());
  }

  /// An overlay that takes its time is made although the view moves all the while; that of a view
  /// elsewhere is given up.
  void overlaysComeWhileTheMapGlides() {
    struct Counts {
      std::atomic<int> steps{30}, begun{0}, made{0}, stopped{0};
    };
    const auto counts = std::make_shared<Counts>();
    ComputedOverlay slow(window_->document(), map(), Over::Refused,
        [counts](const acre::World&, const MapGeometry&,
            const std::stop_token& stop) -> std::shared_ptr<const MapOverlay> {
          const int steps = counts->steps;
          ++counts->begun;
          for (int n = 0; n < steps; ++n) {
            if (stop.stop_requested()) return ++counts->stopped, nullptr;
            std::this_thread::sleep_for(std::chrono::milliseconds(10));
          }
          ++counts->made;
          return std::make_shared<ObjectSigns>();
        });
    slow.setOn(true);
    for (int64_t x = 1; counts->made.load() < 2 && x < 4000; ++x) {
      map().goTo({x, 0});
      QTest::qWait(50);
    }
    QCOMPARE(counts->made.load(), 2);
    QCOMPARE(counts->stopped.load(), 0);
    QTRY_VERIFY(slow.settled());
    const int before = counts->begun;
    counts->steps = 1'000'000;
    map().goTo({5, 5});
    QTRY_COMPARE(counts->begun.load(), before + 1);
    counts->steps = 1;
    map().goTo({500'000, 0});
    QTRY_COMPARE(counts->stopped.load(), 1);
    QTRY_VERIFY(slow.settled());
    QVERIFY(map().overlays().has(Over::Refused));
    slow.setOn(false);
    QVERIFY(slow.settled() && !map().overlays().has(Over::Refused));
  }

  /// One in every square, found again among the landmarks.
  void oneInEverySquare() {
    click("stage.objects");
    click("objects.addKind");
    QTRY_COMPARE(objects().kinds.size(), size_t{1});
    child<Tick>("objects.kind-1.must")->click();
    QTRY_VERIFY(objects().kinds[0].must.has_value());
    type("objects.kind-1.must.square", QStringLiteral("128"));
    QTRY_COMPARE(objects().kinds[0].must->square, 128);
    settle();
    QTRY_VERIFY(child<QLabel>("objects.kind-1.found")
                    ->text()
                    .contains(QStringLiteral("squares about it have one")));
    QVERIFY(!editor().findChild<QWidget*>(QStringLiteral("objects.kind-1.density")));
    window_->drawers().open(QStringLiteral("landmarks"));
    QVERIFY(child<QAbstractButton>("landmarks.objects")->isChecked());  // There is nothing else.
    auto& list = window_->findChild<LandmarksDrawer*>()->objects();
    QTRY_VERIFY(list.settled() && list.found().size() > 200);
    QCOMPARE(list.table().rowCount(), static_cast<int>(list.found().size()));
    int row = 0;
    while (!list.found()[static_cast<size_t>(row)].object) ++row;
    const acre::ObjectLandmark one = list.found()[static_cast<size_t>(row)];
    QCOMPARE(one.square, int64_t{128});
    list.table().selectRow(row);
    click("landmarks.objects.goTo");
    QTRY_COMPARE(map().viewpoint().cell, one.cell);
    click("landmarks.objects.ask");
    QTRY_VERIFY(window_->plumbCard().plumb() && window_->plumbCard().plumb()->cell == one.cell);
    QCOMPARE(window_->plumbCard().plumb()->objects.at(0).refusal, std::string());
    for (int i = 0; i < 3; ++i) child<QAction>("edit.undo")->trigger();
    QTRY_VERIFY(objects().kinds.empty());
    QTRY_VERIFY(list.settled() && list.found().size() == 1 && list.found()[0].start);
  }

  /// A field tells how many, through a curve; kinds stand by others on even ground.
  void amountsAndNeighbours() {
    click("stage.objects");
    for (size_t n = 1; n <= 2; ++n) {
      click("objects.addKind");
      QTRY_COMPARE(objects().kinds.size(), n);
    }
    settle();
    const uint64_t all = editor().found()[0].count;
    auto* biome = child<Choice>("objects.kind-2.addBiome");
    biome->setCurrentIndex(biome->findText(QStringLiteral("Heath")));
    emit biome->activated(biome->currentIndex());
    QTRY_COMPARE(objects().kinds[1].biomes.size(), size_t{1});
    type("objects.kind-2.in.heath.density", QStringLiteral("20"));
    QTRY_COMPARE(objects().kinds[1].biomes[0].density, 20.0);
    const std::string field = window_->document().recipe().fields[0].id;
    auto* amount = child<Choice>("objects.kind-1.amount");
    amount->setCurrentIndex(amount->findText(QStringLiteral("as Uplands says")));
    emit amount->activated(amount->currentIndex());
    QTRY_COMPARE(objects().kinds[0].amount, field);
    QTRY_VERIFY(editor().findChild<QWidget*>(QStringLiteral("objects.kind-1.curved")));
    child<Tick>("objects.kind-1.curved")->click();
    QTRY_COMPARE(objects().kinds[0].curve.size(), size_t{2});
    settle();
    QTRY_VERIFY(!editor().found().empty() && editor().found()[0].count < all);
    QVERIFY(editor().found()[0].refused[static_cast<size_t>(acre::Refusal::Amount)] > 0);
    QVERIFY(
        child<QWidget>("objects.kind-1.bars")->accessibleName().contains(QStringLiteral("amount")));
    type("objects.kind-2.beside.kind-1", QStringLiteral("12"));
    QTRY_COMPARE(objects().kinds[1].beside.size(), size_t{1});
    child<Tick>("objects.kind-2.footing")->click();
    QTRY_VERIFY(objects().kinds[1].footing.has_value());
    type("objects.kind-2.footing.rise", QStringLiteral("0.5"));
    QTRY_COMPARE(objects().kinds[1].footing->rise, 0.5);
    settle();
    QTRY_VERIFY(editor().found().size() == 2 &&
                editor().found()[1].refused[static_cast<size_t>(acre::Refusal::Beside)] > 0);
    QVERIFY(editor().found()[1].refused[static_cast<size_t>(acre::Refusal::Uneven)] > 0);
  }
};

ACRE_SUITE(ObjectsTest)
#include "objects_test.moc"
