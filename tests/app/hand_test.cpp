// Back ends of the walk view, the smooth ground, slices of the map, and what is changed by hand,
// driven in the window by key and pointer.
#include <QtTest>

#include "app/edit/skyline_panel.h"
#include "app/hand/hand_drawer.h"
#include "app/map/depth_slider.h"
#include "app/walk/gl_canvas.h"
#include "app/window_desk.h"
#include "recipe/edits.h"
#include "suite.h"
#include "world/block_value.h"
#include "world/demos.h"
#include "world/world.h"

class HandTest : public QObject, protected WindowDesk {
  Q_OBJECT

  void open(const char* demo) {
    QVERIFY(window_->openWorld(QLatin1String(demo)));
    QTRY_VERIFY(window_->document().current() && map().settled());
  }
  size_t edits() {
    const auto& e = window_->document().recipe().edits;
    return e ? e->size() : 0;
  }
  /// A drag over the map from its middle.
  void stroke(QPoint by) {
    const QPoint from = map().pictureRect().center();
    QTest::mousePress(&map(), Qt::LeftButton, {}, from);
    for (int i = 1; i <= 5; ++i) QTest::mouseMove(&map(), from + by * i / 5);
    QTest::mouseRelease(&map(), Qt::LeftButton, {}, from + by);
    QTRY_VERIFY(window_->findChild<HandDrawer*>()->settled());
  }
  /// Plants what grows in the demo, and waits for it.
  void growTrees() {
    acre::Recipe grown = window_->document().recipe();
    grown.objects = acre::loadRecipe("swallet-edge").value().objects;
    window_->document().change(QStringLiteral("Trees"), grown);
    QTRY_VERIFY(window_->document().current() && child<QToolButton>("walk.leaves")->isVisible());
    QTRY_VERIFY(walk().settled());
  }
  /// Before some tree, so near that its leaves have holes.
  void toTree() {
    const auto objects = world().objects().in({-96, -96, 192, 192});
    QVERIFY(objects);
    const auto tree = std::find_if(objects->begin(), objects->end(), [&](const auto& one) {
      const auto grown = world().objectCells().grown(one);
      return grown && grown->stamp->leafBlocks > 20;
    });
    QVERIFY(tree != objects->end());
    acre::Eye eye = walk().walker().eye;
    eye.cellX = tree->cell.x;
    eye.cellZ = tree->cell.z + 8;
    eye.y = static_cast<double>(tree->y) + 4;
    eye.yaw = eye.pitch = 0;
    walk().setFlying(true);
    walk().setEye(eye);
    QTRY_VERIFY(walk().settled());
  }

 private slots:
  void initTestCase() { makeEngine(); }
  void init() { openDry("swallet-edge"); }
  void cleanup() { window_.reset(); }

  /// The same scene is recognisably the same whoever draws it; where there is no OpenGL the
  /// processor goes on.
  void bothBackEndsDrawTheSame_data() {
    QTest::addColumn<bool>("smooth");
    QTest::addColumn<bool>("leaves");
    QTest::newRow("blocks") << false << false;
    QTest::newRow("smooth") << true << false;
    QTest::newRow("clear leaves") << false << true;
  }
  void bothBackEndsDrawTheSame() {
    QFETCH(bool, smooth);
    QFETCH(bool, leaves);
    if ((smooth || leaves) && !glSupport().there) QSKIP("there is no OpenGL to compare with");
    toWalk();
    if (smooth) click("walk.smooth");
    QImage dense;
    if (leaves) {
      growTrees();
      toTree();
      dense = walk().picture();
      click("walk.leaves");
    }
    QTRY_VERIFY(walk().settled());
    const QImage plain = walk().picture();
    child<QAction>("view.drawGl")->trigger();
    if (!glSupport().there) {
      QVERIFY(!walk().drawnByGl());
      QVERIFY(window_->notice().contains(QStringLiteral("OpenGL")));
      QSKIP("there is no OpenGL to compare with");
    }
    QTRY_VERIFY(walk().drawnByGl() && walk().settled());
    auto* canvas = window_->findChild<GlCanvas*>();
    QVERIFY(canvas && canvas->fault().isEmpty());
    const QImage drawn = canvas->grabFramebuffer().convertToFormat(QImage::Format_RGB32);
    QCOMPARE(drawn.size(), plain.size());
    constexpr int kApart = 36;
    const auto away = [](QRgb a, QRgb b) {
      return std::abs(qRed(a) - qRed(b)) + std::abs(qGreen(a) - qGreen(b)) +
             std::abs(qBlue(a) - qBlue(b));
    };
    // Below the compass. Of holes as fine as pixels each draws others: their parts are compared.
    const auto compared = [&](const QImage& whole) {
      const QImage below = whole.copy(0, 40, whole.width(), whole.height() - 40);
      return leaves
                 ? below.scaled(below.size() / 8, Qt::IgnoreAspectRatio, Qt::SmoothTransformation)
                 : below;
    };
    const QImage one = compared(plain), other = compared(drawn),
                 whole = leaves ? compared(dense) : one;
    int apart = 0, all = 0, cleared = 0;
    for (int y = 0; y < one.height(); ++y)
      for (int x = 0; x < one.width(); ++x, ++all) {
        apart += away(one.pixel(x, y), other.pixel(x, y)) > kApart;
        cleared += away(one.pixel(x, y), whole.pixel(x, y)) > kApart;
      }
    QVERIFY2(apart < (leaves ? cleared * 3 / 4 : all / 20) && (!leaves || cleared > 50),
        qPrintable(QStringLiteral("%1 of %2 apart, %3 cleared").arg(apart).arg(all).arg(cleared)));
    QVERIFY(window_->panes().walk().figures().contains(QStringLiteral("OpenGL")));
    const acre::Eye at = walk().walker().eye;
    QTest::keyPress(&walk(), Qt::Key_W);
    QTRY_VERIFY(walk().walker().eye.cellZ < at.cellZ - 3);
    QTest::keyRelease(&walk(), Qt::Key_W);
    QTRY_VERIFY(walk().settled());
    QVERIFY(canvas->grabFramebuffer().convertToFormat(QImage::Format_RGB32) != drawn);
    child<QAction>("view.drawSoftware")->trigger();
    QTRY_VERIFY(!walk().drawnByGl() && walk().settled());
    QVERIFY(!walk().picture().isNull());
    QCOMPARE(settings_->walkDrawing(), 1);
  }

  /// Where trees grow in a world of blocks their leaves can be seen through.
  void leavesLetLightThrough() {
    toWalk();
    auto* leaves = child<QToolButton>("walk.leaves");
    QVERIFY(!leaves->isVisible());  // Nothing grows yet.
    growTrees();
    const auto before = walk().facesAndRectangles().first;
    const QImage dense = walk().picture();
    click("walk.leaves");
    QTRY_VERIFY(walk().settled() && walk().facesAndRectangles().first > before);
    QVERIFY(walk().picture() != dense);
    click("walk.leaves");
    QTRY_VERIFY(walk().settled() && walk().picture() == dense);
  }

  void smoothGroundIsDrawnAndDug() {
    toWalk();
    const QImage blocks = walk().picture();
    click("walk.smooth");
    QTRY_VERIFY(walk().settled());
    QVERIFY(walk().picture() != blocks);
    QVERIFY(walk().facesAndRectangles().first > 1000);
    QVERIFY(window_->panes().walk().figures().contains(QStringLiteral("triangles")));
    click("walk.cut");
    QTest::keyClick(&walk(), Qt::Key_V);
    QTRY_VERIFY(!walk().walker().flying && walk().settled());
    const QPoint low(walk().width() / 2, walk().height() - 30);
    QTest::mouseMove(&walk(), low);
    QTRY_VERIFY(walk().aimed().has_value());
    const QImage before = walk().picture();
    QTest::mouseClick(&walk(), Qt::LeftButton, {}, low);
    QTRY_COMPARE(edits(), size_t{1});
    QTRY_VERIFY(window_->document().current() && walk().settled());
    QVERIFY(walk().picture() != before);
    click("walk.smooth");
    QTRY_VERIFY(walk().settled());
  }

  /// The map is sliced at a level, which the scale beside it moves.
  void theMapIsSliced() {
    auto* pictures = child<Choice>("title.picture");
    const int at = pictures->findText(QStringLiteral("Slice at a level"));
    QVERIFY(at >= 0);
    pictures->setCurrentIndex(at);
    emit pictures->activated(at);
    auto* level = child<DepthSlider>("map.level");
    QTRY_VERIFY(level->isVisible() && map().settled());
    QVERIFY(map().picture().kind == acre::PictureKind::Slice);
    const int64_t first = map().picture().level;
    QCOMPARE(level->level(), first);
    QTest::keyClick(level, Qt::Key_Down);
    QTRY_COMPARE(map().picture().level, first - 1);
    QTest::keyClick(level, Qt::Key_Up, Qt::ShiftModifier);
    QTRY_COMPARE(map().picture().level, first + 9);
    QTest::mouseClick(level, Qt::LeftButton, {}, QPoint(10, level->height() - 2));
    QTRY_COMPARE(map().picture().level, window_->document().world()->vertical().min);
    QTest::mousePress(level, Qt::LeftButton, {}, QPoint(10, 100));
    QTest::mouseMove(level, QPoint(10, 2));
    QTest::mouseRelease(level, Qt::LeftButton, {}, QPoint(10, 2));
    const acre::AxisBounds range = window_->document().world()->vertical();
    QTRY_COMPARE(map().picture().level, range.min + range.extent - 1);
    QTRY_VERIFY(map().settled());
    pictures->setCurrentIndex(0);
    emit pictures->activated(0);
    QTRY_VERIFY(!level->isVisible());
    // A world that has no such level shows its usual picture.
    QVERIFY(window_->openWorld(QStringLiteral("first-steps")));
    QTRY_VERIFY(map().settled());
    QVERIFY(!level->isVisible());
  }

  /// Painted by dragging, one step a stroke; listed, exported, erased in part and whole.
  void cellsArePaintedOnTheMap() {
    openDry("first-steps");
    click("rail.hand");
    auto* table = child<QTableView>("hand.table");
    auto* headline = child<QLabel>("hand.headline");
    QVERIFY(headline->text().contains(QStringLiteral("Nothing")));
    QVERIFY(!child<QPushButton>("hand.eraseAll")->isEnabled());
    const acre::Cell centre = map().geometry().centre.cell;
    click("hand.paint");
    stroke({60, 24});
    QTRY_VERIFY(window_->document().current());
    const size_t first = edits();
    QVERIFY(first > 20);
    QCOMPARE(map().geometry().centre.cell, centre);  // The map stays.
    QCOMPARE(size_t(table->model()->rowCount()), first);
    stroke({-80, 30});
    QVERIFY(edits() > first);
    window_->document().undoStack().undo();
    QCOMPARE(edits(), first);  // A stroke is one step.
    QTRY_VERIFY(window_->document().current());
    const acre::Edit& one = window_->findChild<HandDrawer*>()->model().edit(0);
    QCOMPARE(window_->document().world()->catalogue().materialId(
                 window_->document().world()->at({one.x, one.z}).material),
        one.material);
    answers_.save = dir_.filePath(QStringLiteral("hand.csv"));
    click("hand.export");
    QFile csv(answers_.save);
    QVERIFY(csv.open(QIODevice::ReadOnly));
    QCOMPARE(size_t(csv.readAll().count('\n')), first + 1);
    answers_.save = QStringLiteral("/nowhere/at/all.csv");
    click("hand.export");
    QVERIFY(!window_->notice().isEmpty());
    table->selectRow(0);
    click("hand.goTo");
    QTRY_VERIFY(window_->plumbCard().isVisible());
    click("hand.erase");
    QCOMPARE(edits(), first - 1);
    click("hand.eraseAll");
    QCOMPARE(edits(), size_t{0});
    window_->document().undoStack().undo();
    QCOMPARE(edits(), first - 1);
    // Another seed shows none of them, and says so.
    acre::Recipe next = window_->document().recipe();
    next.seed = "another";
    QVERIFY(window_->document().change(QStringLiteral("Seed"), next));
    QVERIFY(headline->text().contains(QStringLiteral("another seed")));
    stroke({30, 0});
    QVERIFY(window_->notice().contains(QStringLiteral("seed")));
    QCOMPARE(edits(), first - 1);
    click("hand.paint");
    click("rail.hand");
    const auto moved = map().geometry().centre.cell;
    stroke({40, 40});
    QVERIFY(map().geometry().centre.cell != moved);  // Dragging moves the map again.
  }

  /// Blocks are cut and filled by clicks in the section, with a brush, undone as one.
  void blocksAreStruckInTheSection() {
    QTRY_VERIFY(section().settled() && section().section());
    const QPoint at = section().pictureRect().center() + QPoint(0, 40);
    const auto strike = [&] { QTest::mouseClick(&section(), Qt::LeftButton, {}, at); };
    strike();
    QTRY_VERIFY(window_->plumbCard().plumb() && window_->plumbCard().plumb()->block);
    const auto asked = *window_->plumbCard().plumb();
    QVERIFY(asked.block->at.solid);
    click("rail.hand");
    click("hand.cut");
    auto* brush = child<NumberField>("hand.brush");
    brush->setValue(2);
    strike();
    QTRY_VERIFY(edits() > 20);
    const size_t ball = edits();
    QTRY_VERIFY(window_->document().current());
    QCOMPARE(world().blockAt(asked.cell, asked.block->y).material, acre::kOpen);
    strike();  // Nothing is left to cut there.
    QTRY_VERIFY(window_->notice().contains(QStringLiteral("nothing to cut")));
    click("hand.fill");
    QVERIFY(!child<QToolButton>("hand.cut")->isChecked());
    brush->setValue(0);
    strike();
    QTRY_VERIFY(window_->document().current() &&
                world().blockAt(asked.cell, asked.block->y).material < acre::kOpen);
    QCOMPARE(edits(), ball);
    window_->document().undoStack().undo();
    window_->document().undoStack().undo();
    QCOMPARE(edits(), size_t{0});
    click("rail.hand");
    QVERIFY(!child<QToolButton>("hand.fill")->isChecked());
  }

  /// What a material is called and how it looks now is what the list and both choices say.
  void renamedMaterialsAreRenamed() {
    QTRY_VERIFY(section().settled() && section().section());
    click("rail.hand");
    auto* table = child<QTableView>("hand.table");
    click("hand.fill");
    QTest::mouseClick(
        &section(), Qt::LeftButton, {}, section().pictureRect().center() + QPoint(0, 40));
    QTRY_VERIFY(edits() > 0 && window_->document().current());
    const std::string id = window_->findChild<HandDrawer*>()->model().edit(0).material;
    acre::Recipe next = window_->document().recipe();
    const auto renamed = std::find_if(next.materials.begin(), next.materials.end(),
        [&](const acre::Material& m) { return m.id == id; });
    QVERIFY(renamed != next.materials.end());
    renamed->name = "Moon cheese";
    renamed->colour = {250, 1, 240};
    QVERIFY(window_->document().change(QStringLiteral("Rename"), next));
    const QString name = QStringLiteral("Moon cheese");
    const QModelIndex at = table->model()->index(0, table->model()->columnCount() - 1);
    QTRY_COMPARE(at.data().toString(), name);
    const auto colourOf = [](const QVariant& icon) {
      const QImage image = icon.value<QIcon>().pixmap(14, 14).toImage();
      return image.pixelColor(image.rect().center());
    };
    QCOMPARE(colourOf(at.data(Qt::DecorationRole)), QColor(250, 1, 240));
    for (const char* which : {"hand.material", "walk.material"}) {
      auto* choice = child<Choice>(which);
      const int item = choice->findData(QString::fromStdString(id));
      QVERIFY2(item >= 0, which);
      QTRY_COMPARE(choice->itemText(item), name);
      QCOMPARE(colourOf(choice->itemIcon(item)), QColor(250, 1, 240));
    }
    QVERIFY(window_->document().undoStack().canUndo());
    window_->document().undoStack().undo();
    QTRY_VERIFY(at.data().toString() != name);
  }

  /// Very many cells in the window: listed, gone to, undone.
  void aMillionCellsAreListed() {
    acre::Recipe next = window_->document().recipe();
    std::vector<acre::Edit> all;
    const std::string material = next.materials.back().id;
    const int count = suite::sized(200'000, 1'000'000);
    for (int64_t n = 0; n < count; ++n)
      all.push_back({n % 1000 - 500, n / 1000 % 10, n / 10'000 - 50, material});
    next.edits = acre::EditSet(next.seed).with(all);
    QVERIFY(window_->document().change(QStringLiteral("A million"), next));
    click("rail.hand");
    QTRY_COMPARE(child<QTableView>("hand.table")->model()->rowCount(), count);
    QTRY_VERIFY(window_->document().current() && map().settled());
    child<QTableView>("hand.table")->scrollToBottom();
    click("hand.eraseAll");
    QCOMPARE(edits(), size_t{0});
    window_->document().undoStack().undo();
    QCOMPARE(edits(), static_cast<size_t>(count));
  }

  void skylinesShowTheirLimits() {
    open("lantern-shelf");
    QTest::keyClick(&map(), Qt::Key_2);
    const auto& layers = window_->document().recipe().heights.layers;
    const auto walk = std::find_if(layers.begin(), layers.end(),
        [](const acre::Layer& l) { return std::holds_alternative<acre::WalkSource>(l.source); });
    QVERIFY(walk != layers.end());
    window_->heights().waves().choose(walk->id);
    auto* panel = child<SkylinePanel>("skyline");
    QTRY_VERIFY(panel->figures().contains(QStringLiteral("beyond them 0.0 %")));
    auto* limits = child<Choice>("layer.limits");
    limits->setCurrentIndex(1);
    emit limits->activated(1);
    QTRY_VERIFY(window_->document().current());
    panel = nullptr;
    QTRY_VERIFY((panel = window_->findChild<SkylinePanel*>(QStringLiteral("skyline"))) &&
                !panel->figures().isEmpty() &&
                !panel->figures().contains(QStringLiteral("beyond them 0.0 %.\n")));
  }

  void oresTellWhatWasFound() {
    QTest::keyClick(&map(), Qt::Key_5);
    const std::string id = window_->document().recipe().ores.front().id;
    const QByteArray name = QByteArray("ground.ore.") + id.c_str() + ".found";
    QTRY_VERIFY(child<QLabel>(name.constData())->text().contains(QStringLiteral("found")));
  }

  void steepGroundIsFilledByATick() {
    openDry("first-steps");
    QTest::keyClick(&map(), Qt::Key_2);
    auto* tick = child<QCheckBox>("heights.fillDown");
    QVERIFY(tick->isVisible());
    tick->click();
    QVERIFY(window_->document().recipe().fillDown);
    window_->document().undoStack().undo();
    QVERIFY(!tick->isChecked());
    QVERIFY(window_->document().open(dryDemo("swallet-edge"), {}, QStringLiteral("swallet-edge")));
    QVERIFY(!tick->isVisible());
  }
};

ACRE_SUITE(HandTest)
#include "hand_test.moc"
