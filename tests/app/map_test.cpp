// The map on its own: traverses, routes, zooming and the row that tells of the stream.
#include <QStyle>
#include <QtTest>

#include "app/look/look.h"
#include "app/map/map_view.h"
#include "app/overlay/marks.h"
#include "app/patience.h"
#include "app/window/notice.h"
#include "app/window/status_row.h"
#include "suite.h"
#include "world/demos.h"
#include "world/engine.h"
#include "world/world.h"

using namespace app;

class MapTest : public QObject {
  Q_OBJECT

  std::unique_ptr<acre::Engine> engine_;
  std::shared_ptr<const acre::World> world_;
  std::unique_ptr<MapView> map_;

  /// One chunk of the traverse in the middle of the picture, in some state; the rest is held.
  std::shared_ptr<TraverseScene> sceneWith(acre::ChunkState state) {
    auto scene = std::make_shared<TraverseScene>();
    scene->layout = acre::ChunkLayout(64);
    scene->bounds = world_->bounds();
    scene->viewDistance = 300;
    scene->follow = false;
    for (int64_t cz = -8; cz < 8; ++cz)
      for (int64_t cx = -8; cx < 8; ++cx)
        scene->places.push_back({{cx, cz}, cx == 1 && cz == 1 ? state : acre::ChunkState::Held});
    return scene;
  }
  QImage grab() { return map_->grab(map_->pictureRect().adjusted(2, 2, -2, -40)).toImage(); }
  int differing(const QImage& a, const QImage& b, const QRect& within) {
    int count = 0;
    for (int y = within.top(); y <= within.bottom(); ++y)
      for (int x = within.left(); x <= within.right(); ++x) count += a.pixel(x, y) != b.pixel(x, y);
    return count;
  }

 private slots:
  void initTestCase() {
    look::apply(*qApp, false);
    acre::EngineOptions options;
    options.threads = 2;
    engine_ = std::move(acre::Engine::create(options)).value();
    world_ = engine_->compile(acre::loadRecipe("saltfen-reach").value()).value();
  }
  void init() {
    map_ = std::make_unique<MapView>(*engine_);
    map_->resize(500, 440);
    map_->show(world_, {});
    static_cast<QWidget*>(map_.get())->show();
    QVERIFY(QTest::qWaitForWindowExposed(map_.get()));
    QTRY_VERIFY(map_->settled());
    QTRY_COMPARE(map_->streamStats().held, map_->streamStats().expected);
  }
  void cleanup() { map_.reset(); }

  /// Every state of a chunk looks unlike every other, inside that chunk alone.
  void chunkStatesAreToldApart() {
    const acre::ChunkState states[] = {acre::ChunkState::Held, acre::ChunkState::Wanted,
        acre::ChunkState::Working, acre::ChunkState::Ready, acre::ChunkState::Leaving,
        acre::ChunkState::Failed};
    std::vector<QImage> pictures;
    for (const acre::ChunkState state : states) {
      map_->setTraverse(sceneWith(state));
      pictures.push_back(grab());
    }
    const QPointF corner = map_->geometry().toScreen({64, 64}) - QPointF(2, 2);
    const QRect chunk(corner.toPoint(), QSize(64, 64));
    for (size_t a = 0; a < pictures.size(); ++a)
      for (size_t b = a + 1; b < pictures.size(); ++b) {
        const int inside = differing(pictures[a], pictures[b], chunk.adjusted(1, 1, -1, -1));
        QVERIFY2(inside > 20, qPrintable(QStringLiteral("%1 %2").arg(a).arg(b)));
        const QRect elsewhere(chunk.right() + 8, chunk.top(), 60, 60);
        QCOMPARE(differing(pictures[a], pictures[b], elsewhere), 0);
      }
  }

  void aTraverseTakesThePlaceOfTheMapsOwnChunks() {
    const QImage own = grab();
    map_->setTraverse(sceneWith(acre::ChunkState::Wanted));
    QVERIFY(grab() != own);
    const auto far = sceneWith(acre::ChunkState::Held);
    far->view = {5000, 0};
    far->follow = true;
    far->covered = 100;
    map_->setTraverse(far);
    // The viewpoint of the run stands in the middle of what is not covered.
    const QPointF at = map_->geometry().toScreen({5000, 0}, 0.5, 0.5);
    QVERIFY(std::abs(at.x() - (map_->geometry().size.width() + 100) / 2) < 1.5);
    map_->setTraverse(nullptr);
    map_->backToViewpoint();
    QTRY_VERIFY(map_->settled());
    QCOMPARE(grab(), own);
  }

  void coarseChunksCoverTheirGround() {
    auto scene = sceneWith(acre::ChunkState::Held);
    map_->setTraverse(scene);
    const QImage fine = grab();
    scene = std::make_shared<TraverseScene>(*scene);
    scene->places.clear();
    for (int64_t cz = -2; cz < 2; ++cz)
      for (int64_t cx = -2; cx < 2; ++cx)
        scene->places.push_back({{cx, cz, 2}, acre::ChunkState::Held});
    map_->setTraverse(scene);
    const QImage coarse = grab();
    // Between the lines of the chunks the ground is the same: nothing is veiled.
    const QPoint middle = map_->geometry().toScreen({96, 96}).toPoint() - QPoint(2, 2);
    QCOMPARE(differing(fine, coarse, QRect(middle - QPoint(20, 20), QSize(40, 40))), 0);
    scene = std::make_shared<TraverseScene>(*scene);
    std::erase_if(scene->places, [](const auto& p) { return p.pos.cx == 0 && p.pos.cz == 0; });
    map_->setTraverse(scene);
    QVERIFY(differing(fine, grab(), QRect(middle - QPoint(20, 20), QSize(40, 40))) > 1000);
  }

  void aRouteIsDrawnAndTakenAway() {
    const QImage bare = grab();
    map_->overlays().set(Over::Route, std::make_shared<RouteOverlay>(std::vector<acre::Cell>{
                                          {-100, -100}, {0, 40}, {4'000'000'000, 40}, {100, -90}}));
    QVERIFY(grab() != bare);
    map_->overlays().set(Over::Route, nullptr);
    QCOMPARE(grab(), bare);
  }

  void clicksPointTheRouteWhileItIsDrawn() {
    QSignalSpy points(map_.get(), &MapView::routePointed);
    QSignalSpy plumbs(map_.get(), &MapView::plumbRequested);
    const acre::Cell home = map_->viewpoint().cell;
    map_->setDrawingRoute(true);
    const QPoint at = map_->pictureRect().center() + QPoint(40, -30);
    QTest::mouseClick(map_.get(), Qt::LeftButton, {}, at);
    QTest::mouseDClick(map_.get(), Qt::LeftButton, {}, at);
    QVERIFY(points.size() >= 1);
    QCOMPARE(plumbs.size(), 0);
    QCOMPARE(map_->viewpoint().cell, home);  // A double click goes nowhere meanwhile.
    map_->setDrawingRoute(false);
    QTest::mouseClick(map_.get(), Qt::LeftButton, {}, at);
    QCOMPARE(plumbs.size(), 1);
  }

  /// A new level comes in over the last one and is settled when it is wholly there.
  void levelsComeInOverEachOther() {
    if (map_->QWidget::style()->styleHint(QStyle::SH_Widget_Animation_Duration) <= 0)
      QSKIP("the desktop asks for stillness");
    map_->zoomCentre(4);
    QVERIFY(!map_->settled());
    QTRY_VERIFY(map_->settled());
    const QImage first = grab();
    map_->zoomCentre(0.25);
    map_->zoomCentre(4);
    QTRY_VERIFY(map_->settled());
    QCOMPARE(grab(), first);
  }

  void anotherChunkSizeBeginsAnew() {
    const size_t before = map_->streamStats().held;
    acre::Recipe recipe = world_->recipe();
    recipe.frame.chunkSize = 64;
    map_->show(engine_->compile(recipe).value(), {});
    QTRY_COMPARE(map_->streamStats().held, map_->streamStats().expected);
    QVERIFY(map_->streamStats().held < before);
    QVERIFY(map_->failures().empty());
    map_->retryFailed();  // Nothing to do.
  }

  void failedChunksAreToldAndAskedForAgain() {
    map_->goTo({acre::kMaxCell - 40, 0});
    QTRY_VERIFY(!map_->failures().empty());
    QTRY_COMPARE(
        map_->streamStats().held + map_->streamStats().failed, map_->streamStats().expected);
    const size_t failed = map_->failures().size();
    const uint64_t asked = map_->streamStats().asked;
    map_->retryFailed();
    QTRY_COMPARE(map_->streamStats().asked, asked + failed);
    QTRY_COMPARE(map_->failures().size(), failed);  // They cannot be made: they fail again.
  }

  void theStatusRowTellsOfTheStream() {
    StatusRow row;
    acre::StreamStats stats;
    stats.needed = 1412;
    stats.missing = 12;
    stats.medianMillis = 0.123;
    row.showStream(stats);
    auto* label = row.findChild<QLabel*>(QStringLiteral("status.stream"));
    QCOMPARE(label->text(), QStringLiteral("1,400 of 1,412 loaded · 0.12 ms a chunk"));
    stats.waiting = 7;
    stats.working = 2;
    stats.ready = 1;
    stats.failed = 3;
    stats.cut = 88;
    row.showStream(stats);
    QCOMPARE(label->text(),
        QStringLiteral("1,400 of 1,500 loaded · 10 on their way · 3 failed · 0.12 ms a chunk"));
    row.tell(QStringLiteral("saved"));
    QCOMPARE(label->text(), QStringLiteral("saved"));
    row.tellOfCell(QStringLiteral("before"));
    QCOMPARE(
        row.findChild<QLabel*>(QStringLiteral("status.cell"))->text(), QStringLiteral("before"));
    row.showCell(*world_, {-1, 33}, world_->at({-1, 33}), true);
    const QString cell = row.findChild<QLabel*>(QStringLiteral("status.cell"))->text();
    QVERIFY2(cell.contains(QStringLiteral("chunk −1, 1 · local 31, 1")), qPrintable(cell));
    QVERIFY(!cell.contains(QStringLiteral("viewpoint")));
  }

  void aNoticeIsSaidAndCleared() {
    Notice notice;
    QVERIFY(notice.text().isEmpty() && notice.isHidden());
    notice.warn(QStringLiteral("frame/sea: too high; accepted: up to 5"));
    QVERIFY(!notice.isHidden());
    QVERIFY(notice.text().contains(QStringLiteral("too high")));
    notice.clear();
    QVERIFY(notice.text().isEmpty() && notice.isHidden());
  }
};

ACRE_SUITE(MapTest)
#include "map_test.moc"
