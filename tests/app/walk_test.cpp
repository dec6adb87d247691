// Section and walk view in the window, driven by key and pointer: flying, landing, cutting and
// filling, and what stays of it.
#include <QtTest>

#include "app/window_desk.h"
#include "recipe/edits.h"
#include "recipe/json.h"
#include "strata/blocks.h"
#include "suite.h"
#include "world/block_value.h"
#include "world/demos.h"
#include "world/world.h"

class WalkTest : public QObject, protected WindowDesk {
  Q_OBJECT

  /// Moves the pointer there and clicks; waits until the world has followed.
  void clickAt(QPoint at) {
    QTest::mouseMove(&walk(), at);
    QTest::qWait(20);
    QTest::mouseClick(&walk(), Qt::LeftButton, {}, at);
  }
  QPoint low() { return {walk().width() / 2, walk().height() - 30}; }

 private slots:
  void initTestCase() {
    makeEngine();
    size_ = {1280, 760};  // Where the pointer aims is measured on the picture.
  }
  void init() { openDry("swallet-edge"); }
  void cleanup() { window_.reset(); }

  /// The section under the map shows the blocks along A-B; the wheel stretches it, a drag moves it,
  /// a click hangs a plumb line in depth.
  void theSectionIsCutAlongTheLine() {
    QTRY_VERIFY(section().settled() && section().section());
    const acre::Section& cut = *section().section();
    QVERIFY(std::abs(cut.cells.front().x - window_->map().sectionLine().a.cell.x) <= 2);
    QCOMPARE(cut.cells.front().z, window_->map().sectionLine().a.cell.z);
    for (size_t c = 0; c < cut.cells.size(); c += 37)
      for (int32_t l = 0; l < cut.levels.count; l += 11)
        QCOMPARE(cut.at(static_cast<int32_t>(c), l),
            world().blockAt(cut.cells[c], cut.levels.first + l * cut.levels.step).material);
    const auto before = section().range();
    const QPoint middle = section().pictureRect().center();
    QWheelEvent wheel(middle, section().mapToGlobal(middle), {}, {0, 120}, Qt::NoButton, {},
        Qt::NoScrollPhase, false);
    QApplication::sendEvent(&section(), &wheel);
    QVERIFY(section().range().second - section().range().first < before.second - before.first);
    const auto stretched = section().range();
    QTest::mousePress(&section(), Qt::LeftButton, {}, middle);
    QTest::mouseMove(&section(), middle + QPoint(0, 20));
    QTest::mouseMove(&section(), middle + QPoint(0, 40));
    QTest::mouseRelease(&section(), Qt::LeftButton, {}, middle + QPoint(0, 40));
    QVERIFY(section().range().first > stretched.first + 1);  // Dragged down: higher ground shows.
    QTest::keyClick(&section(), Qt::Key_Home);
    QCOMPARE(section().range(), before);
    QTRY_VERIFY(section().settled());
    QTest::mouseClick(&section(), Qt::LeftButton, {}, middle);
    QTRY_VERIFY(window_->plumbCard().isVisible());
    QVERIFY(window_->plumbCard().plumb()->block.has_value());
  }

  void panesChangePlaces() {
    QCOMPARE(window_->panes().large(), Panes::Large::Map);
    QTest::keyClick(window_.get(), Qt::Key_2, Qt::ControlModifier);
    QCOMPARE(window_->panes().large(), Panes::Large::Section);
    QTRY_VERIFY(section().height() > 300 && window_->map().height() < 200);
    QVERIFY(child<QToolButton>("title.section")->isChecked());
    toWalk();
    QTRY_VERIFY(walk().height() > 300 && !section().isVisible());
    QTest::keyClick(window_.get(), Qt::Key_1, Qt::ControlModifier);
    QTRY_VERIFY(window_->map().height() > 300 && section().isVisible() && !walk().isVisible());
    // A side world opens in its section.
    QVERIFY(window_->openWorld(QStringLiteral("lantern-shelf")));
    QCOMPARE(window_->panes().large(), Panes::Large::Section);
    QTRY_VERIFY(section().settled() && section().section());
  }

  /// The picture is there, is not blank, and changes as one flies, turns and looks about.
  void flyingChangesThePicture() {
    toWalk();
    const QImage first = walk().picture();
    QSet<QRgb> colours;
    for (int y = 0; y < first.height(); y += 5)
      for (int x = 0; x < first.width(); x += 5) colours.insert(first.pixel(x, y));
    QVERIFY(colours.size() > 30);
    const acre::Eye at = walk().walker().eye;
    QTest::keyPress(&walk(), Qt::Key_W);
    QTRY_VERIFY(walk().walker().eye.cellZ < at.cellZ - 4);
    QTest::keyRelease(&walk(), Qt::Key_W);
    QTRY_VERIFY(walk().settled());
    QVERIFY(walk().picture() != first);
    // A key that is up again before the next frame counts too.
    const acre::Eye there = walk().walker().eye;
    QTest::keyClick(&walk(), Qt::Key_D);
    QTRY_VERIFY(walk().walker().eye.x != there.x || walk().walker().eye.cellX != there.cellX);
    QTRY_VERIFY(walk().settled());
    QCOMPARE(window_->map().viewpoint().cell.z, walk().walker().eye.cellZ);  // The map follows.
    const double yaw = walk().walker().eye.yaw, pitch = walk().walker().eye.pitch;
    const QPoint middle = walk().rect().center();
    QTest::mousePress(&walk(), Qt::LeftButton, {}, middle);
    for (int i = 1; i <= 10; ++i) QTest::mouseMove(&walk(), middle + QPoint(6 * i, -3 * i));
    QTest::mouseRelease(&walk(), Qt::LeftButton, {}, middle + QPoint(60, -30));
    QVERIFY(walk().walker().eye.yaw != yaw && walk().walker().eye.pitch != pitch);
    QVERIFY(window_->plumbs().settled() && !window_->plumbCard().isVisible());  // Nothing is asked.
    const double level = walk().walker().eye.y;
    QTest::keyPress(&walk(), Qt::Key_Space);
    QTRY_VERIFY(walk().walker().eye.y > level + 3);
    QTest::keyRelease(&walk(), Qt::Key_Space);
  }

  /// Lands, digs three blocks, fills one, goes away until the chunk is released, returns: it is
  /// there. Undone and redone it goes and comes, saved and reopened it stays.
  void diggingLasts() {
    toWalk();
    QTest::keyClick(&walk(), Qt::Key_V);
    QTRY_VERIFY(!walk().walker().flying);
    QTRY_VERIFY(walk().walker().onGround());
    QVERIFY(child<QToolButton>("walk.foot")->isChecked());
    const acre::Eye here = walk().walker().eye;
    click("walk.cut");
    std::vector<std::array<int64_t, 3>> cut;
    for (int n = 0; n < 3; ++n) {
      QTRY_VERIFY(walk().settled());
      QTest::mouseMove(&walk(), low() + QPoint(n, 0));
      QTRY_VERIFY(walk().aimed().has_value());
      const acre::Edits before = window_->document().recipe().edits;
      clickAt(low() + QPoint(n, 0));
      QTRY_VERIFY(window_->document().current() && window_->document().recipe().edits != before);
      const auto dug =
          acre::EditSet::difference(before.get(), window_->document().recipe().edits.get());
      QCOMPARE(dug.size(), size_t{1});
      QCOMPARE(world().blockAt({dug[0].x, dug[0].z}, dug[0].y).material, acre::kOpen);
      cut.push_back({dug[0].x, dug[0].y, dug[0].z});
    }
    QCOMPARE(window_->document().recipe().edits->size(), size_t{3});
    click("walk.fill");
    QTRY_VERIFY(walk().settled());
    QTest::mouseMove(&walk(), walk().rect().center() + QPoint(0, 60));
    QTRY_VERIFY(walk().aimed().has_value());
    clickAt(walk().rect().center() + QPoint(0, 60));
    QTRY_COMPARE(window_->document().recipe().edits->size(), size_t{4});
    QTRY_VERIFY(window_->document().current());
    QTRY_VERIFY(walk().settled());
    const QImage dug = walk().picture();
    // Away, until nothing of this place is loaded, and back.
    acre::Eye away = here;
    away.cellX += 5000;
    away.y += 60;
    walk().setEye(away);
    QTRY_VERIFY(walk().settled());
    QVERIFY(walk().picture() != dug);
    walk().setEye(here);
    QTRY_VERIFY(walk().settled());
    QCOMPARE(walk().picture(), dug);
    for (const auto& b : cut) QCOMPARE(world().blockAt({b[0], b[2]}, b[1]).material, acre::kOpen);
    // Undone, redone.
    for (int n = 0; n < 4; ++n) window_->document().undoStack().undo();
    QTRY_VERIFY(window_->document().current() && !world().edits());
    QTRY_VERIFY(walk().settled());
    QVERIFY(walk().picture() != dug);
    for (int n = 0; n < 4; ++n) window_->document().undoStack().redo();
    QTRY_VERIFY(window_->document().current() && world().edits());
    QTRY_VERIFY(walk().settled());
    QCOMPARE(walk().picture(), dug);
    // Saved, and read again.
    const QString file = dir_.filePath(QStringLiteral("dug.acre"));
    QVERIFY(window_->document().save(file).ok());
    const auto back = acre::readRecipeFile(file.toStdString());
    QVERIFY(back.ok() && *back == window_->document().recipe());
    // Another seed's world shows none and takes none.
    acre::Recipe other = window_->document().recipe();
    other.seed = "elsewhere";
    QVERIFY(window_->document().change(QStringLiteral("Seed"), other));
    QTRY_VERIFY(window_->document().current());
    QVERIFY(!world().edits());
    QTRY_VERIFY(walk().settled());
    QTest::mouseMove(&walk(), low());
    QTRY_VERIFY(walk().aimed().has_value());
    click("walk.cut");
    clickAt(low());
    QVERIFY(window_->notice().contains(back->seed.c_str()));
    QCOMPARE(window_->document().recipe().edits->size(), size_t{4});
  }

  void aBrushCutsABall() {
    toWalk();
    QTest::keyClick(&walk(), Qt::Key_V);
    click("walk.cut");
    auto* brush = child<QLineEdit>("walk.brush");
    brush->setFocus();
    brush->selectAll();
    QTest::keyClicks(brush, QStringLiteral("2"));
    QTest::keyClick(brush, Qt::Key_Return);
    QTest::mouseMove(&walk(), low());
    QTRY_VERIFY(walk().aimed().has_value());
    clickAt(low());
    QTRY_VERIFY(window_->document().recipe().edits);
    QVERIFY(window_->document().recipe().edits->size() > 10);
    QCOMPARE(window_->document().undoStack().count(), 1);
    brush->setFocus();
    brush->selectAll();
    QTest::keyClicks(brush, QStringLiteral("99"));
    QTest::keyClick(brush, Qt::Key_Return);
    QVERIFY(window_->notice().contains(QStringLiteral("0 to 8")));
  }

  void askingHangsAPlumbLine() {
    toWalk();
    QTest::keyClick(&walk(), Qt::Key_V);
    QTest::mouseMove(&walk(), low());
    QTRY_VERIFY(walk().aimed().has_value());
    clickAt(low());
    QTRY_VERIFY(window_->plumbCard().plumb());
    QCOMPARE(window_->plumbCard().plumb()->block->y, walk().aimed()->y);
  }

  void switchesChangeThePicture() {
    toWalk();
    QImage before = walk().picture();
    const auto* lines = child<QToolButton>("walk.lines")->menu();
    for (const char* name : {"walk.lamp", "walk.chunks", "walk.wire"}) {
      if (auto* action = window_->findChild<QAction*>(QLatin1String(name))) {
        QVERIFY(lines->actions().contains(action));
        action->trigger();
      } else {
        click(name);
      }
      QTRY_VERIFY(walk().settled());
      QVERIFY2(walk().picture() != before, name);
      before = walk().picture();
    }
  }

  /// The bar has room for all that stands in it: no word is cut, with trees and without.
  void theBarCutsNoWord() {
    toWalk();
    window_->resize(1280, 800);
    acre::Recipe grown = window_->document().recipe();
    grown.objects = acre::loadRecipe("swallet-edge").value().objects;
    window_->document().change(QStringLiteral("Trees"), grown);
    QTRY_VERIFY(window_->document().current() && child<QToolButton>("walk.leaves")->isVisible());
    QWidget* bar = child<QToolButton>("walk.leaves")->parentWidget();
    for (const QToolButton* button : bar->findChildren<QToolButton*>())
      QTRY_VERIFY2(
          !button->isVisible() ||
              button->width() >= button->fontMetrics().horizontalAdvance(button->text()) + 8,
          qPrintable(button->text()));
  }

  /// Swapped under load and closed under load.
  void worldsChangeUnderfoot() {
    click("title.walk");
    for (int n = 0; n < 30; ++n) {
      acre::Recipe next = window_->document().recipe();
      next.seed = std::to_string(n);
      QVERIFY(window_->document().change(QStringLiteral("Seed"), next));
      QTest::qWait(5);
    }
    QTRY_VERIFY(walk().settled());
    QVERIFY(window_->openWorld(QStringLiteral("saltfen-reach")));
    click("title.walk");  // Worlds of tiles can be walked too.
    QTRY_VERIFY(walk().settled());
    QVERIFY(walk().facesAndRectangles().first > 1000);
    acre::Recipe next = window_->document().recipe();
    next.seed = "again";
    QVERIFY(window_->document().change(QStringLiteral("Seed"), next));
  }

  /// Kinds, the vertical range, layers, beds and ores are changed in the editors.
  void groundIsEdited() {
    QVERIFY(window_->openWorld(QStringLiteral("first-steps")));
    click("stage.frame");
    click("frame.kind.voxel");
    QTRY_VERIFY(window_->document().current());
    const acre::Recipe& recipe = window_->document().recipe();
    QVERIFY(recipe.frame.kind == acre::WorldKind::Voxel);
    QCOMPARE(recipe.rock.beds.size(), size_t{1});
    QCOMPARE(recipe.water.material, std::string("shallow"));
    QTest::keyClick(&window_->map(), Qt::Key_5);
    click("ground.addOre");
    click("ground.addLayer");
    QTRY_COMPARE(recipe.ores.size(), size_t{1});
    QCOMPARE(recipe.layers.size(), size_t{2});
    auto* share = child<QLineEdit>("ground.ore.ore-1.share");
    share->setFocus();
    share->selectAll();
    QTest::keyClicks(share, QStringLiteral("7.5"));
    QTest::keyClick(share, Qt::Key_Return);
    QCOMPARE(recipe.ores[0].share, 0.075);
    QTRY_VERIFY(window_->document().current());
    QVERIFY(world().blocks()->ores() && !world().blocks()->ores()->empty());
    for (const bool on : {false, true}) {  // The step says which way it was switched.
      click("ground.ore.ore-1.on");
      QCOMPARE(recipe.ores[0].on, on);
      QCOMPARE(window_->document().undoStack().undoText(),
          on ? QStringLiteral("Switch an ore on") : QStringLiteral("Switch an ore off"));
    }
    click("ground.bed.bed-1.delete");  // A world of blocks needs rock.
    QVERIFY(window_->notice().contains(QStringLiteral("rock")));
    QCOMPARE(recipe.rock.beds.size(), size_t{1});
    while (window_->document().undoStack().canUndo()) window_->document().undoStack().undo();
    QVERIFY(recipe.frame.kind == acre::WorldKind::Overland);
  }
};

ACRE_SUITE(WalkTest)
#include "walk_test.moc"
