// The frame of the window and of worlds: what folds and grows with the window's size, and what a
// world can begin with.
#include <QtTest>
#include <set>

#include "app/edit/picture_button.h"
#include "app/map/map_view.h"
#include "app/overlay/pen_signs.h"
#include "app/window/drawers.h"
#include "app/window/stage_strip.h"
#include "app/window/title_row.h"
#include "app/window_desk.h"
#include "cave/level_stage.h"
#include "suite.h"
#include "world/demos.h"
#include "world/world.h"

class FrameTest : public QObject, protected WindowDesk {
  Q_OBJECT

  void settle() { QTRY_VERIFY(window_->document().current() && map().settled()); }
  const acre::Recipe& recipe() { return window_->document().recipe(); }
  /// What stands in the row from left to right, checked not to overlap.
  std::vector<const QWidget*> inRow(const TitleRow& row) {
    std::vector<const QWidget*> out;
    for (const QWidget* each : row.findChildren<QWidget*>(QString(), Qt::FindDirectChildrenOnly))
      if (each->isVisible() && !each->isWindow()) out.push_back(each);
    std::sort(
        out.begin(), out.end(), [](const QWidget* a, const QWidget* b) { return a->x() < b->x(); });
    for (size_t i = 1; i < out.size(); ++i)
      if (out[i - 1]->geometry().right() >= out[i]->x()) return {};
    return out;
  }

 private slots:
  void initTestCase() { makeEngine(); }
  void cleanup() { window_.reset(); }

  /// The narrower the row, the more of it stands in its menu, in the stated order; nothing overlaps
  /// or leaves the row, and every part works where it stands.
  void theRowFolds() {
    Settings settings(dir_.filePath(QStringLiteral("row.ini")));
    TitleRow row(settings);
    row.setName(QStringLiteral("Saltfen Reach"), {});
    row.setSeed(QStringLiteral("heather-41"));
    row.resize(1280, row.height());
    row.show();
    const auto part = [&](const char* name) {
      return row.findChild<QWidget*>(QLatin1String(name));
    };
    auto* menu = part("title.folded");
    const char* order[] = {"title.distance", "title.ring", "title.chunks", "title.upTo",
        "title.picture", "title.seeds"};
    size_t least = std::size(order);
    for (int width = 1280; width >= 700; width -= 20) {
      row.resize(width, row.height());
      QCoreApplication::sendPostedEvents();
      row.layout()->activate();
      const auto all = inRow(row);
      QVERIFY2(!all.empty(), qPrintable(QString::number(width)));
      if (width >= 800)
        QVERIFY2(all.back()->geometry().right() < width, qPrintable(QString::number(width)));
      size_t folded = 0;
      while (folded < std::size(order) && part(order[folded])->window() == menu) ++folded;
      for (size_t k = folded; k < std::size(order); ++k) QVERIFY(part(order[k])->window() == &row);
      QCOMPARE(part("title.more")->isVisible(), folded > 0);
      QVERIFY(width == 1280 || folded >= std::size(order) - least);
      least = std::size(order) - folded;
      if (width == 1280) QCOMPARE(folded, size_t{0});
      if (width == 1020) QVERIFY(folded >= 1 && folded <= 4);
    }
    QVERIFY(least <= 2);
    QSignalSpy chosen(&row, &TitleRow::ringShown);
    row.findChild<QAbstractButton*>(QStringLiteral("title.more"))->click();
    QVERIFY(menu->isVisible());
    QVERIFY(part("title.distance")->isVisible());
    row.findChild<QAbstractButton*>(QStringLiteral("title.ring"))->click();
    QCOMPARE(chosen.size(), 1);
    row.resize(1280, row.height());
    QVERIFY(!menu->isVisible() && part("title.distance")->window() == &row);
    QVERIFY(part("title.distance")->isVisible());
  }

  /// On a large screen the parts are larger, and a drawer stands beside the map.
  void largeScreensAreUsed() {
    openDry("first-steps");
    QCOMPARE(child<QWidget>("editor")->width(), look::kEditorWidth);
    QCOMPARE(child<QWidget>("strip")->height(), look::kStrip + 2);
    click("rail.legend");
    QVERIFY(map().mapTo(window_.get(), QPoint()).x() < 60);  // It lies over the map.
    window_->resize(1920, 1010);
    QTRY_COMPARE(child<QWidget>("editor")->width(), look::kWideEditorWidth);
    QCOMPARE(child<QWidget>("strip")->height(), look::kWideStrip + 2);
    QTRY_COMPARE(section().height(), look::kWideSmallPane);
    auto* drawer = child<QWidget>("drawer.legend");
    QTRY_VERIFY(map().mapTo(window_.get(), QPoint()).x() >=
                drawer->mapTo(window_.get(), QPoint(drawer->width(), 0)).x());
    click("rail.legend");
    QTRY_VERIFY(map().mapTo(window_.get(), QPoint()).x() < 60);
    for (const StageTile* tile : window_->findChildren<StageTile*>()) {
      if (!tile->isVisible()) continue;
      QCOMPARE(tile->height(), StageTile::kTallSize.height());
      QVERIFY(tile->mapTo(window_.get(), QPoint(tile->width(), 0)).x() <= window_->width());
    }
    window_->resize(size_);
    QTRY_COMPARE(section().height(), look::kSmallPane);
    QCOMPARE(child<QWidget>("editor")->width(), look::kEditorWidth);
  }

  /// A new world begins with any of the pictures, seen as it should be, in one step that can be
  /// taken back; worlds that are something already are not offered any.
  void newWorldsBeginWithPictures() {
    openDry("first-steps");
    click("stage.frame");
    QVERIFY(!child<PictureButton>("frame.start.one-floor")->isVisible());
    child<QAction>("file.new")->trigger();
    settle();
    QCOMPARE(child<QLabel>("editor.title")->text(), QStringLiteral("Frame"));
    const acre::Recipe bare = recipe();
    std::set<QString> names;
    for (const acre::Demo& start : acre::starts()) {
      auto* button = child<PictureButton>(("frame.start." + start.name).c_str());
      QVERIFY(button->isVisible());
      QTRY_VERIFY(button->hasPicture());
      button->click();
      QCOMPARE(recipe(), acre::loadRecipe(start.name).value());
      settle();
      QCOMPARE(button->text().toStdString(), recipe().name);
      names.insert(button->text());
      const auto large = window_->panes().large();
      const bool side = recipe().frame.kind == acre::WorldKind::Side;
      QVERIFY(large == (side ? Panes::Large::Section : Panes::Large::Map));
      QCOMPARE(map().fitted(), recipe().frame.kind == acre::WorldKind::Level);
      QVERIFY(window_->document().file().isEmpty());
      child<QAction>("edit.undo")->trigger();
      QCOMPARE(recipe(), bare);
      settle();
    }
    QCOMPARE(names.size(), acre::starts().size());
    // From the menu the same, as a world that nothing was changed in.
    child<QAction>("file.start.block-country")->trigger();
    settle();
    QCOMPARE(recipe().name, std::string("Block Country"));
    QVERIFY(!window_->document().modified());
  }

  /// Kinds are pictures; blocks come as cubes or as columns.
  void kindsAreChosenByPictures() {
    openDry("first-steps");
    click("stage.frame");
    QVERIFY(child<PictureButton>("frame.kind.overland")->isChecked());
    auto* shape = child<Choice>("frame.shape");
    QVERIFY(!shape->isVisible());
    click("frame.kind.voxel");
    QTRY_VERIFY(shape->isVisible());
    QVERIFY(recipe().frame.kind == acre::WorldKind::Voxel);
    shape->setCurrentIndex(1);
    emit shape->activated(1);
    QVERIFY(recipe().frame.shape == acre::ChunkShape::Columns);
    QVERIFY(child<PictureButton>("frame.kind.voxel")->isChecked());
    child<QAction>("edit.undo")->trigger();
    QCOMPARE(shape->currentIndex(), 0);
    child<QAction>("edit.undo")->trigger();
    QVERIFY(child<PictureButton>("frame.kind.overland")->isChecked());
  }

  /// The frame of the focus goes with the chosen stage.
  void theFocusFollowsTheStage() {
    openDry("first-steps");
    auto* frame = child<StageTile>("stage.frame");
    frame->setFocus();
    QTest::mouseClick(child<StageTile>("stage.strata"), Qt::LeftButton);
    QVERIFY(child<StageTile>("stage.strata")->hasFocus() && !frame->hasFocus());
    map().setFocus();
    QTest::mouseClick(frame, Qt::LeftButton);
    QVERIFY(map().hasFocus());  // It was not among the tiles.
  }

  /// Signs of the pen belong to the cells: two views agree where they overlap. Far out, and where
  /// they are switched off, there are none.
  void thePenKeepsItsPlace() {
    openDry("first-steps");
    const auto drawn = [&](acre::Cell centre, double pixels) {
      MapGeometry view;
      view.centre = {centre, 0, 0};
      view.cellsPerPixel = 1 / pixels;
      view.size = QSizeF(400, 300);
      QImage image(400, 300, QImage::Format_ARGB32_Premultiplied);
      image.fill(Qt::white);
      QPainter p(&image);
      if (const auto signs = PenSigns::make(world(), view, {})) signs->paint(p, view);
      p.end();
      return image;
    };
    for (const int64_t far : {int64_t{0}, int64_t{2'000'000'000}}) {
      const QImage here = drawn({far, -far}, 10), east = drawn({far + 7, -far}, 10);
      QVERIFY(here != drawn({far + 1, -far}, 10));
      // But for single pixels on the edge of a line, which are rounded where they are drawn.
      int apart = 0;
      for (int y = 30; y < 230; ++y)
        for (int x = 100; x < 300; ++x)
          apart += std::abs(qGray(here.pixel(x, y)) - qGray(east.pixel(x - 70, y))) > 2;
      QVERIFY2(apart < 40, qPrintable(QString::number(apart)));
    }
    QImage white(400, 300, QImage::Format_ARGB32_Premultiplied);
    white.fill(Qt::white);
    QCOMPARE(drawn({}, 4), white);
    QVERIFY(drawn({}, 5) != white);
    // On the map they come and go with their tick.
    for (int i = 0; i < 8; ++i) map().zoomCentre(0.7);
    QVERIFY(map().geometry().cellsPerPixel <= 1 / PenSigns::kFewestPixels);
    QTRY_VERIFY(map().overlays().has(Over::PenSigns));
    child<QAction>("view.penSigns")->trigger();
    QTRY_VERIFY(!map().overlays().has(Over::PenSigns));
    child<QAction>("view.penSigns")->trigger();
    QTRY_VERIFY(map().overlays().has(Over::PenSigns));
    window_->document().finish();
    child<Choice>("title.picture")->setCurrentIndex(1);
    emit child<Choice>("title.picture")->activated(1);
    QTRY_VERIFY(!map().overlays().has(Over::PenSigns));  // Heights are no ground.
  }

  /// Where pixels of the screen are smaller, samples stand closer.
  void mapsAreSampledForTheScreen() {
    MapGeometry view;
    for (const auto& [cells, ratio, level] : {std::tuple(1.0, 1.0, 0), {1.0, 2.0, 0}, {2.0, 1.0, 1},
             {2.0, 2.0, 0}, {16.0, 2.0, 3}, {16.0, 1.5, 4}, {4096.0, 1.0, 12}}) {
      view.cellsPerPixel = cells;
      view.deviceRatio = ratio;
      QCOMPARE(view.level(), level);
    }
  }

  /// The map's pixels are the world's samples at the resolution of the screen, those of the
  /// command at that step; the section has as many pixels as the screen.
  void picturesHaveTheScreensResolution() {
    openDry("saltfen-reach");
    map().setChunksShown(false);
    map().setRingShown(false);
    map().setLineShown(false);
    for (int i = 0; i < 2; ++i) map().zoomCentre(2);
    settle();
    const double ratio = map().devicePixelRatioF();
    const int whole = qRound(ratio);
    QCOMPARE(map().geometry().cellsPerPixel, 4.0);
    const int64_t step = 4 / whole;
    const QImage screen = map().grab().toImage().convertToFormat(QImage::Format_RGB32);
    QCOMPARE(screen.width(), map().width() * whole);
    // 100 pixels right of and below the picture's corner, of the desktop.
    const QPoint at = map().pictureRect().topLeft() + QPoint(100, 60);
    const acre::Cell cell =
        map().geometry().toWorld(QPointF(at - map().pictureRect().topLeft())).cell;
    const acre::SampleGrid grid{
        acre::floorDiv(cell.x, step) * step, acre::floorDiv(cell.z, step) * step, step, 160, 60};
    const auto samples = acre::sampleWithRim(world(), {}, grid).value();
    acre::Style style;
    style.scale = map().scale();
    const acre::Palette palette(world(), {}, style);
    std::vector<uint32_t> row(160);
    bool equal = false;
    for (int dx = -2 * whole; dx <= 2 * whole && !equal; ++dx)
      for (int dz = -2 * whole; dz <= 2 * whole && !equal; ++dz) {
        equal = true;
        for (int32_t j = 0; j < 60 && equal; ++j) {
          palette.paintRow(samples, j, acre::Unassigned::Hatched, row.data());
          for (int i = 0; i < 160 && equal; ++i)
            equal = screen.pixel(at.x() * whole + i + dx, at.y() * whole + j + dz) ==
                    row[static_cast<size_t>(i)];
        }
      }
    QVERIFY(equal);
    QCOMPARE(section().grab().toImage().width(), section().width() * whole);
  }

  /// Height lines by zoom stand apart, farther out at greater altitudes.
  void heightLinesFollowTheZoom() {
    openDry("first-steps");
    answers_.text = QStringLiteral("zoom");
    child<QAction>("view.contours")->trigger();
    QTRY_VERIFY(map().contourInterval() >= 1);
    const double near = map().contourInterval();
    for (int i = 0; i < 12; ++i) map().zoomCentre(2);
    QTRY_VERIFY(map().contourInterval() > near);
    // Where nothing rises there are none, nor those of the world before.
    acre::Recipe flat = recipe();
    flat.heights.layers.clear();
    QVERIFY(window_->document().change(QStringLiteral("Flat"), flat));
    QTRY_COMPARE(map().contourInterval(), 0.0);
    child<QAction>("edit.undo")->trigger();
    QTRY_VERIFY(map().contourInterval() > 0);
    answers_.text = QStringLiteral("0");
    child<QAction>("view.contours")->trigger();
    QCOMPARE(map().contourInterval(), 0.0);
  }
};

ACRE_SUITE(FrameTest)
#include "frame_test.moc"
