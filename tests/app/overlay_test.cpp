// What lies over the ground of map and section: where it is said to be, and what is told of it.
#include <QHelpEvent>
#include <QSignalSpy>
#include <QtTest>

#include "app/edit/caves_editor.h"
#include "app/overlay/cave_lines.h"
#include "app/overlay/region_sites.h"
#include "app/overlay/tunnel_lattice.h"
#include "app/window_desk.h"
#include "climate/biomes.h"
#include "suite.h"
#include "world/world.h"

using namespace app;

class OverlayTest : public QObject, WindowDesk {
  Q_OBJECT

  void act(const char* name) { child<QAction>(name)->trigger(); }
  MapGeometry around(acre::Cell cell, double cellsPerPixel) {
    MapGeometry view;
    view.size = {600, 400};
    view.centre = {cell, 0.5, 0.5};
    view.cellsPerPixel = cellsPerPixel;
    return view;
  }

 private slots:
  void initTestCase() { makeEngine(); }
  void cleanup() { window_.reset(); }

  /// Every ground that is marked is looked up at its site: the region there is the site's own.
  void sitesLieWhereTheirRegionsAre() {
    openWindow("patchwork-parish");
    const acre::BiomeStage& biomes = *world().biomes();
    QVERIFY(biomes.regions().shift().on());
    for (const acre::Cell centre : {acre::Cell{0, 0}, acre::Cell{2'000'000'000, -2'000'000'000}}) {
      const auto made = RegionSites::make(world(), around(centre, 4), {});
      const auto& sites = static_cast<const RegionSites&>(*made);
      QVERIFY(sites.sites().size() > 20);
      size_t found = 0;
      for (const RegionSites::Site& site : sites.sites()) {
        QCOMPARE(site.cell, acre::siteCell(biomes.regions().plan(), site.id));
        const acre::RegionId square = acre::squareOf(biomes.regions().plan(), site.cell);
        QVERIFY(square == site.id);
        if (!site.ground) continue;
        ++found;
        QVERIFY(biomes.at(*site.ground, 0).region->id == site.id);
      }
      QVERIFY(found * 10 > sites.sites().size() * 9);
      const RegionSites::Site& one = sites.sites()[sites.sites().size() / 2];
      const MapGeometry view = around(one.cell, 4);
      QVERIFY(sites.at(view.toScreen(one.cell, 0.5, 0.5), view)
                  .contains(QString::number(std::abs(one.id.i) % 1000)));
      QVERIFY(sites.at({-4000, -4000}, view).isEmpty());
    }
    const auto far = RegionSites::make(world(), around({0, 0}, 4000), {});
    QVERIFY(static_cast<const RegionSites&>(*far).sites().empty());
    std::stop_source stop;
    stop.request_stop();
    QVERIFY(!RegionSites::make(world(), around({0, 0}, 4), stop.get_token()));
  }

  /// Squares in the picture: the corner of a square is never inside another.
  void squaresAreAsWideAsTheyAreSaidToBe() {
    openWindow("patchwork-parish");
    const acre::RegionPlan& plan = world().biomes()->regions().plan();
    const double size = world().biomes()->borderReach();
    for (int64_t i = -3; i < 3; ++i) {
      const acre::Cell a = acre::squareCorner(plan, {i, i}),
                       b = acre::squareCorner(plan, {i + 1, i + 1});
      QVERIFY(std::abs(static_cast<double>(b.x - a.x) - size) <= 1);
      QVERIFY(acre::squareOf(plan, {a.x + 1, a.z + 1}) == (acre::RegionId{i, i}));
      QVERIFY(acre::squareOf(plan, {b.x - 1, b.z - 1}) == (acre::RegionId{i, i}));
    }
  }

  /// Passages run from lattice point to lattice point, none of them closed.
  void passagesRunAlongTheLattice() {
    openDry("swallet-edge");
    const auto made = TunnelLattice::make(world(), around({0, 0}, 2), {});
    const auto& lattice = static_cast<const TunnelLattice&>(*made);
    QVERIFY(!lattice.systems().empty());
    for (const TunnelLattice::System& one : lattice.systems()) {
      std::map<std::tuple<float, float, float>, uint32_t> costs;
      for (const auto& p : one.points) costs[{p.place.x, p.place.y, p.place.z}] = p.cost;
      QVERIFY(std::is_sorted(one.points.begin(), one.points.end(),
          [](const auto& a, const auto& b) { return a.cost > b.cost; }));
      for (const acre::Passage& passage : one.system->passages) {
        if (passage.kind == acre::PassageKind::Shaft) continue;
        for (const acre::BorePoint& p : passage.points) {
          const auto at = costs.find({p.x, p.y, p.z});
          QVERIFY(at != costs.end());
          QVERIFY(at->second >= acre::kPlainCost && at->second < acre::kMostCost);
        }
      }
      const MapGeometry view = around({one.system->x, one.system->z}, 0.25);
      const auto& cheapest = one.points.back().place;
      const QPointF at = view.toScreen({one.system->x, one.system->z}) +
                         QPointF(double(cheapest.x), double(cheapest.z)) / view.cellsPerPixel;
      QVERIFY(lattice.at(at, view).contains(QStringLiteral("Lattice point")));
    }
  }

  /// Switched on in the menu, they come with the view and go with the switch; the map tells of
  /// them.
  void overlaysAreSwitched() {
    openDry("swallet-edge");
    Overlays& over = map().overlays();
    QVERIFY(!over.has(Over::Lattice));
    act("view.lattice");
    QTRY_VERIFY(over.has(Over::Lattice));
    const auto first = over.get(Over::Lattice);
    QVERIFY(map().accessibleDescription().contains(QStringLiteral("Lattice points")));
    map().goTo({5000, 5000});
    QTRY_VERIFY(over.has(Over::Lattice) && over.get(Over::Lattice) != first);
    act("view.lattice");
    QVERIFY(!over.has(Over::Lattice));
    QVERIFY(!map().accessibleDescription().contains(QStringLiteral("Lattice points")));
    QVERIFY(window_->openWorld(QStringLiteral("patchwork-parish")));
    act("view.sites");
    QTRY_VERIFY(over.has(Over::Sites));
    // Another world has none: its regions are off.
    QVERIFY(window_->openWorld(QStringLiteral("saltfen-reach")));
    QTRY_VERIFY(!over.has(Over::Sites));
  }

  /// A section that runs the other way shows the same, mirrored.
  void cutsAreTheSameFromBothEnds() {
    CutGeometry cut;
    cut.line.a = {{-100, 50}, 0.5, 0.5};
    cut.line.b = {{300, 250}, 0.5, 0.5};
    cut.low = -50;
    cut.high = 50;
    cut.box = QRectF(40, 10, 500, 200);
    cut.x0 = 40;
    cut.x1 = 540;
    const auto foot = cut.footOf({100, 150}, 0, 0);
    QVERIFY(std::abs(foot.along - cut.length() / 2) < 1e-9 && std::abs(foot.aside) < 1e-9);
    QCOMPARE(cut.toScreen(foot.along, 0), QPointF(290, 110));
    std::swap(cut.x0, cut.x1);
    QCOMPARE(cut.toScreen(0, 50), QPointF(540, 10));
  }

  /// What a gap does is shown by two pictures in its tooltip, of a smaller one and of a larger.
  void aGapIsExplainedByTwoPictures() {
    openDry("swallet-edge");
    QTest::keyClick(&map(), Qt::Key_6);
    const QString part = QString::fromStdString(world().recipe().caves->tunnels.front().id);
    auto* gap = child<NumberField>(qPrintable(QStringLiteral("caves.%1.gap").arg(part)));
    QVERIFY(gap->toolTip().contains(QStringLiteral("keep from each other")));
    auto* editor = window_->findChild<CavesEditor*>();
    const auto ends = editor->previews().endsOf(gap);
    QVERIFY(ends && ends->first < gap->value() && ends->second > gap->value());
    QSignalSpy shown(&editor->previews(), &Previews::shown);
    QHelpEvent ask(QEvent::ToolTip, gap->rect().center(), gap->mapToGlobal(gap->rect().center()));
    QApplication::sendEvent(gap, &ask);
    QTRY_COMPARE(shown.size(), 1);
    const auto low = shown[0][0].value<QImage>(), high = shown[0][1].value<QImage>();
    QCOMPARE(low.size(), kSmallPicture);
    QVERIFY(!high.isNull() && low != high);
  }

  /// Going to a landmark and back: the same picture, place and scale as before.
  void aViewIsComeBackTo() {
    openDry("swallet-edge");
    map().goTo({700, -300});
    map().zoomCentre(2);
    window_->showing().setPicture({acre::PictureKind::Height, {}, {}, false});
    window_->showing().setUpTo(StageId::Heights);
    QTRY_VERIFY(map().settled());
    const ViewState before = window_->showing().state();
    window_->navigator().leave();
    map().zoomCentre(0.25);
    map().goTo({90'000, 4});
    window_->showing().setUpTo(Showing::kAll);
    QVERIFY(window_->showing().state() != before);
    window_->navigator().goBack();
    QTRY_VERIFY(window_->showing().state().upTo == before.upTo && map().settled());
    const ViewState after = window_->showing().state();
    QCOMPARE(after.viewpoint, before.viewpoint);
    QCOMPARE(after.centre, before.centre);
    QCOMPARE(after.cellsPerPixel, before.cellsPerPixel);
    QVERIFY(after.picture == before.picture);
  }
};

ACRE_SUITE(OverlayTest)
#include "overlay_test.moc"
