// The stage Tiles in the window: groups and sets, the sheet of cases, the trial board, and tiles on
// the map.
#include <QtTest>

#include "app/edit/choice.h"
#include "app/overlay/computed.h"
#include "app/overlay/tile_layer.h"
#include "app/tiles/tiles_editor.h"
#include "app/window/census_drawer.h"
#include "app/window/drawers.h"
#include "app/window_desk.h"
#include "base/data_uri.h"
#include "output/tile_art.h"
#include "recipe/edits.h"
#include "recipe/validate.h"
#include "suite.h"
#include "world/world.h"

class TilesTest : public QObject, protected WindowDesk {
  Q_OBJECT

  const acre::Tiling& tiling() { return *window_->document().recipe().tiles; }
  TilesEditor& editor() { return *window_->findChild<TilesEditor*>(); }
  void settle() { QTRY_VERIFY(window_->document().current() && editor().settled()); }
  /// Sixteen pixels a cell about the origin.
  void lookClosely() {
    map().goTo({0, 0});
    for (int n = 0; n < 12 && map().geometry().cellsPerPixel > 1.0 / 16; ++n)
      QTest::keyClick(&map(), Qt::Key_Plus);
    QTRY_VERIFY(map().settled());
    QVERIFY(map().geometry().cellsPerPixel <= 1.0 / 8);
  }

 private slots:
  void initTestCase() { makeEngine(); }
  void init() { openDry("saltfen-reach"); }
  void cleanup() { window_.reset(); }

  /// From nothing to tiles on the map by one click, and back; the map shows what is drawn.
  void groupsLieOnTheMap() {
    const acre::Recipe before = window_->document().recipe();
    lookClosely();
    QVERIFY(!map().overlays().has(Over::Tiles));
    QTest::keyClick(&map(), Qt::Key_0);
    QTRY_VERIFY(child<QWidget>("tiles.addAll")->isVisible());
    click("tiles.addGroup");
    QTRY_COMPARE(tiling().groups.size(), size_t{1});
    QVERIFY(tiling().sets[0].method == acre::TileMethod::Plain);
    click("tiles.addAll");
    QTRY_COMPARE(tiling().groups.size(), before.materials.size());
    QVERIFY(acre::validate(window_->document().recipe()));
    settle();
    QTRY_VERIFY(map().overlays().has(Over::Tiles));
    QTRY_VERIFY(editor().figures().contains(QStringLiteral("cells in")));
    QVERIFY(child<QLabel>("tiles.group.group-1.found")->text().contains(QStringLiteral("in view")));
    // What the layer shows are the pixels of the core.
    KeptArts kept;
    const auto layer = TileLayer::make(world(), map().geometry(), kept, {});
    const MapGeometry view = map().geometry();
    QImage shown(view.size.toSize(), QImage::Format_RGB32);
    shown.fill(Qt::red);
    QPainter p(&shown);
    layer->paint(p, view);
    p.end();
    const int zoom = static_cast<int>(std::lround(1 / view.cellsPerPixel));
    const auto arts = acre::TileArts::of(world()).value();
    const acre::Cell at{3, -2};
    const auto cell = acre::drawTiles(world(), arts, {at.x, at.z, 1, 1}, {zoom}).value();
    const QPointF corner = view.toScreen({view.cells().x - 8, view.cells().z - 8});
    const int x = static_cast<int>(std::round(corner.x())) +
                  static_cast<int>(at.x - (view.cells().x - 8)) * zoom;
    const int z = static_cast<int>(std::round(corner.y())) +
                  static_cast<int>(at.z - (view.cells().z - 8)) * zoom;
    for (int k = 0; k < zoom * zoom; ++k)
      QCOMPARE(shown.pixel(x + k % zoom, z + k / zoom), cell.at(k % zoom, k / zoom));
    QVERIFY(layer->at(view.toScreen(at, 0.5, 0.5), view).startsWith(QStringLiteral("tile: ")));
    // Other pictures have none; the menu takes them away.
    auto* pictures = child<Choice>("title.picture");
    const int heights = pictures->findText(QStringLiteral("Height"));
    QVERIFY(heights > 0);
    pictures->setCurrentIndex(heights);
    emit pictures->activated(heights);
    QTRY_VERIFY(!map().overlays().has(Over::Tiles));
    pictures->setCurrentIndex(0);
    emit pictures->activated(0);
    QTRY_VERIFY(map().overlays().has(Over::Tiles));
    child<QAction>("view.tiles")->trigger();
    QTRY_VERIFY(!map().overlays().has(Over::Tiles));
    child<QAction>("view.tiles")->trigger();
    child<QAction>("view.tileMarks")->trigger();
    QTRY_VERIFY(map().overlays().has(Over::Tiles) && map().overlays().has(Over::TileMarks));
    QVERIFY(map().overlays().get(Over::TileMarks)->spoken().contains(QStringLiteral("0 without")));
    QImage marked(view.size.toSize(), QImage::Format_RGB32);
    marked.fill(Qt::white);
    const QImage blank = marked;
    QPainter marks(&marked);
    map().overlays().get(Over::TileMarks)->paint(marks, view);
    marks.end();
    QVERIFY(marked != blank);
    // A cell changed by hand has another tile at once.
    const auto under = [&] {
      const MapOverlay* tiles = map().overlays().get(Over::Tiles);
      return tiles ? tiles->at(map().geometry().toScreen(at, 0.5, 0.5), map().geometry())
                   : QString();
    };
    const QString was = under();
    QVERIFY(!was.contains(QStringLiteral("Snowfield")));
    acre::Recipe painted = window_->document().recipe();
    painted.edits = acre::EditSet(painted.seed).with({{at.x, 0, at.z, "snow"}});
    QVERIFY(window_->document().change(QStringLiteral("Paint"), painted));
    QTRY_VERIFY(under().contains(QStringLiteral("Snowfield")));
    child<QAction>("edit.undo")->trigger();
    QTRY_COMPARE(under(), was);
    // Farther away there are the colours of materials.
    for (int n = 0; n < 4; ++n) QTest::keyClick(&map(), Qt::Key_Minus);
    QTRY_VERIFY(!map().overlays().has(Over::Tiles));
    for (int n = 0; n < 2; ++n) child<QAction>("edit.undo")->trigger();
    QTRY_VERIFY(window_->document().recipe() == before);
  }

  /// A set is opened, a case left out: told with a place that H goes to; brought back.
  void aCaseIsLeftOut() {
    lookClosely();
    click("stage.tiles");
    click("tiles.addAll");
    settle();
    // The ground about here.
    size_t common = 0;
    const auto seen = world().tiles().at({0, 0});
    for (size_t g = 0; g < seen.size(); ++g)
      if (seen[g].value) common = g;
    const std::string set = tiling().groups[common].set;
    const std::string key = "tiles.set." + set;
    click((key + ".open").c_str());
    auto* sheet = child<SetSheet>((key + ".sheet").c_str());
    QTRY_VERIFY(sheet->isVisible() && sheet->width() > 100);
    settle();
    auto* report = child<QLabel>((key + ".report").c_str());
    QTRY_VERIFY(report->text().contains(QStringLiteral("All rims meet")));
    KeptArts kept;
    const auto told = [&] {
      return TileMarks::make(world(), map().geometry(), kept, {})->spoken();
    };
    QVERIFY(told().contains(QStringLiteral(" 0 without")));
    // By the mouse to the last case, which is everywhere; by keys one back and forth.
    QTest::mouseClick(sheet, Qt::LeftButton, {}, sheet->boxOf(46).center());
    QCOMPARE(sheet->chosen(), 46);
    QTest::keyClick(sheet, Qt::Key_Left);
    QTest::keyClick(sheet, Qt::Key_Up);
    QCOMPARE(sheet->chosen(), 37);
    QTest::keyClick(sheet, Qt::Key_Down);
    QTest::keyClick(sheet, Qt::Key_Right);
    QVERIFY(
        sheet->accessibleDescription().startsWith(QStringLiteral("Case 46: north, north-east")));
    QTest::keyClick(sheet, Qt::Key_Delete);
    const auto without = [&] {
      for (const acre::TileSet& one : tiling().sets)
        if (one.id == set) return one.without;
      return std::vector<int32_t>();
    };
    QTRY_COMPARE(without(), std::vector<int32_t>{46});
    settle();
    QTRY_VERIFY(report->text().contains(QStringLiteral("no picture for case 46")));
    const auto words =
        child<QLabel>(("tiles.group." + tiling().groups[common].id + ".found").c_str());
    QTRY_VERIFY(words->text().contains(QStringLiteral("have no picture: case 46")));
    QTRY_VERIFY(editor().hole().has_value());
    QVERIFY(!told().contains(QStringLiteral(" 0 without")));
    const acre::Cell hole = *editor().hole();
    map().goTo({hole.x + 200, hole.z});
    QTRY_VERIFY(editor().settled() && editor().hole());
    QTest::keyClick(&map(), Qt::Key_H);
    QTRY_VERIFY(editor().hole() && map().geometry().cells().contains(*editor().hole()));
    sheet->setFocus();
    QTest::keyClick(sheet, Qt::Key_Delete);
    QTRY_VERIFY(without().empty());
  }

  /// Painted with the mouse and the keys; at random; every case at least once.
  void theBoardIsPainted() {
    click("stage.tiles");
    click("tiles.addSet");
    QTRY_COMPARE(tiling().sets.size(), size_t{1});
    click("tiles.addGroup");
    settle();
    click("tiles.set.set-1.open");
    auto* board = child<TrialBoard>("tiles.set.set-1.board");
    QTRY_VERIFY(board->isVisible());
    child<QAbstractButton>("tiles.set.set-1.clear")->click();
    QVERIFY(board->casesThere().empty());
    const QImage bare = board->grab().toImage();
    settle();
    QVERIFY(board->height() >= board->boxOf(0, 7).bottom());
    QTest::mousePress(board, Qt::LeftButton, {}, board->boxOf(2, 2).center());
    QTest::mouseMove(board, board->boxOf(3, 2).center());
    QMouseEvent drag(QEvent::MouseMove, board->boxOf(4, 2).center(),
        board->mapToGlobal(board->boxOf(4, 2).center()), Qt::NoButton, Qt::LeftButton, {});
    QCoreApplication::sendEvent(board, &drag);
    QTest::mouseRelease(board, Qt::LeftButton, {}, board->boxOf(4, 2).center());
    QVERIFY(board->board().at(2, 2) && board->board().at(4, 2));
    QVERIFY(board->grab().toImage() != bare);
    QTest::mouseClick(board, Qt::RightButton, {}, board->boxOf(4, 2).center());
    QVERIFY(!board->board().at(4, 2));
    QTest::keyClick(board, Qt::Key_Down);
    QTest::keyClick(board, Qt::Key_Space);
    QVERIFY(board->board().at(4, 3));
    child<QAbstractButton>("tiles.set.set-1.random")->click();
    QVERIFY(board->casesThere().size() > 10);
    child<QAbstractButton>("tiles.set.set-1.every")->click();
    QCOMPARE(board->casesThere().size(), size_t{47});
    // Of corners the two ambiguous cases are shown both ways.
    auto* method = child<Choice>("tiles.set.set-1.method");
    method->setCurrentIndex(0);
    emit method->activated(0);
    QTRY_VERIFY(tiling().sets[0].method == acre::TileMethod::Corners);
    settle();
    QTRY_VERIFY(child<Choice>("tiles.set.set-1.method")->isVisible());
    child<QAbstractButton>("tiles.set.set-1.every")->click();
    QTRY_COMPARE(child<TrialBoard>("tiles.set.set-1.board")->casesThere().size(), size_t{15});
  }

  /// A template is written, painted over elsewhere, and read again: recognised, and its rims meet.
  void theCensusCountsTiles() {
    click("stage.tiles");
    click("tiles.addAll");
    settle();
    CensusDrawer& drawer = window_->census();
    QTableWidget& table = drawer.tiles();
    child<RailButton>("rail.census")->click();
    QTRY_VERIFY_WITH_TIMEOUT(table.isVisible(), 60000);
    const MapGeometry view = map().geometry();
    const acre::Rect cells = view.cells();
    const acre::Rect asked = acre::middlePart(
        {cells.x + 1, cells.z + 1, cells.width - 2, cells.length - 2}, acre::kTilesCounted);
    const auto expected = acre::tileFigures(world(), nullptr, asked).value();
    QCOMPARE(static_cast<size_t>(table.rowCount()), expected.groups.size());
    std::map<QString, const acre::TileGroupFigures*> byName;
    for (size_t g = 0; g < expected.groups.size(); ++g)
      byName[QString::fromStdString(tiling().groups[g].name)] = &expected.groups[g];
    for (int line = 0; line < table.rowCount(); ++line) {
      const acre::TileGroupFigures& of = *byName.at(table.item(line, 0)->text());
      QCOMPARE(table.item(line, 1)->text(), look::wholeNumber(of.tiles));
      QCOMPARE(table.item(line, 2)->text(), QString::number(of.byFrequency().size()));
      if (of.tiles == 0) continue;
      const auto commonest = static_cast<size_t>(of.byFrequency().front());
      QVERIFY(table.item(line, 0)->toolTip().startsWith(
          QStringLiteral("case %1: %2")
              .arg(QString::number(commonest), look::wholeNumber(of.cases[commonest]))));
    }
    QVERIFY(child<QLabel>("census.tilesHead")->text().contains(QStringLiteral("0 tiles without")));
    // The largest first; a double click goes to one.
    const acre::TileGroupFigures& most = *byName.at(table.item(0, 0)->text());
    const acre::Cell first = *most.first[static_cast<size_t>(most.byFrequency().front())];
    emit table.cellDoubleClicked(0, 0);
    QTRY_COMPARE(map().geometry().centre.cell, first);
    // Without biomes the tiles are counted all the same.
    acre::Recipe without = window_->document().recipe();
    without.biomes.on = false;
    QVERIFY(window_->document().change(QStringLiteral("No biomes"), without));
    QTRY_VERIFY(child<QLabel>("census.summary")->text().contains(QStringLiteral("biomes are off")));
    QTRY_VERIFY(table.isVisible() && table.rowCount() == static_cast<int>(byName.size()));
    child<RailButton>("rail.census")->click();
  }

  void aTemplateComesBack() {
    click("stage.tiles");
    click("tiles.addSet");
    settle();
    acre::Recipe varied = window_->document().recipe();
    varied.tiles->sets[0].weights = {5, 3, 2};
    window_->document().change(QStringLiteral("Variants"), varied);
    settle();
    const std::string file = dir_.filePath(QStringLiteral("set.png")).toStdString();
    answers_.save = QString::fromStdString(file);
    click("tiles.set.set-1.open");
    click("tiles.set.set-1.write");
    QVERIFY(QFile::exists(dir_.filePath(QStringLiteral("set.png"))));
    QVERIFY(QFile::exists(dir_.filePath(QStringLiteral("set-numbers.png"))));
    acre::RgbaPicture sheet = acre::readRgba(file, 1u << 24, 4096, "").value();
    for (uint32_t& pixel : sheet.pixels)
      if (pixel >> 24) pixel ^= 0x00304050;
    QVERIFY(writeRgba(sheet, file));
    answers_.open = QString::fromStdString(file);
    click("tiles.set.set-1.read");
    QTRY_VERIFY(tiling().sets[0].picture.has_value());
    const acre::TilePicture& picture = *tiling().sets[0].picture;
    QCOMPARE(picture.columns, 8);
    for (size_t n = 0; n < 3 * 47; ++n) QCOMPARE(picture.order[n], static_cast<int32_t>(n));
    click("tiles.addGroup");
    settle();
    QTRY_VERIFY(
        child<QLabel>("tiles.set.set-1.report")->text().contains(QStringLiteral("All rims meet")));
    QVERIFY(
        !child<QLabel>("tiles.set.set-1.report")->text().contains(QStringLiteral("no picture")));
    // Within the recipe it needs no file, and undo leaves it beside.
    click("tiles.set.set-1.embed");
    QTRY_VERIFY(acre::isDataUri(tiling().sets[0].picture->file));
    QTRY_VERIFY(!window_->findChild<QWidget*>("tiles.set.set-1.embed"));
    settle();
    QTRY_VERIFY(
        child<QLabel>("tiles.set.set-1.report")->text().contains(QStringLiteral("All rims meet")));
    child<QAction>("edit.undo")->trigger();
    QTRY_VERIFY(!acre::isDataUri(tiling().sets[0].picture->file));
    // Cut in half it is refused in words, and nothing is lost.
    QFile::resize(QString::fromStdString(file), 200);
    click("tiles.set.set-1.read");
    QVERIFY(tiling().sets[0].picture.has_value());
    child<QAction>("edit.undo")->trigger();
  }
};

ACRE_SUITE(TilesTest)
#include "tiles_test.moc"
