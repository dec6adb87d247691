// Which chunks belong around a viewpoint, against brute force over cells.
#include "stream/wanted.h"
#include "core/streams.h"
#include "suite.h"

namespace {

/// Follows the changes that a WantedSet tells.
struct Follower {
  std::set<ChunkPos> wanted, near;
  bool sound = true;
  void take(const WantedSet::Change& change) {
    for (const ChunkPos p : change.go) {
      wanted.erase(p);
      near.erase(p);
    }
    for (const ChunkPos p : change.fade)
      sound = sound && wanted.erase(p) == 1 && near.insert(p).second;
    for (const ChunkPos p : change.come) {
      sound = sound && wanted.insert(p).second;
      near.erase(p);
    }
  }
};

std::set<ChunkPos> byForce(
    const ChunkLayout& layout, const Rect& bounds, Cell view, int64_t distance) {
  std::set<ChunkPos> out;
  for (int64_t z = view.z - distance; z <= view.z + distance; ++z)
    for (int64_t x = view.x - distance; x <= view.x + distance; ++x) {
      const int64_t dx = x - view.x, dz = z - view.z;
      if (dx * dx + dz * dz <= distance * distance && bounds.contains({x, z}))
        out.insert(layout.chunkOf({x, z}));
    }
  return out;
}

constexpr Rect kEndless{-kMaxCell, -kMaxCell, 2 * kMaxCell, 2 * kMaxCell};

Cell wander(Cell view, std::mt19937& random, int step) {
  view.x += static_cast<int64_t>(random() % 21) - 10;
  view.z += static_cast<int64_t>(random() % 21) - 10;
  if (step % 50 == 49) view.x = -view.x;
  return view;
}

}  // namespace

class WantedTest : public QObject {
  Q_OBJECT

 private slots:
  void changesAddUpToTheSet_data() {
    QTest::addColumn<int>("size");
    QTest::addColumn<bool>("bounded");
    QTest::addColumn<qint64>("far");
    for (const int size : {1, 7, 16})
      for (const bool bounded : {false, true})
        for (const qint64 far : {qint64{0}, qint64{2'000'000'000}})
          if (!bounded || far == 0)
            QTest::addRow("%d %d %lld", size, bounded, far) << size << bounded << far;
  }
  void changesAddUpToTheSet() {
    QFETCH(int, size);
    QFETCH(bool, bounded);
    QFETCH(qint64, far);
    const ChunkLayout layout(size);
    const Rect bounds = bounded ? Rect{-40, -25, 90, 61} : kEndless;
    WantedSet set(layout, bounds);
    Follower follower;
    std::mt19937 random(1);
    Cell view{far, -far};
    for (int step = 0; step < 300; ++step) {
      const int64_t reach = step < 200 ? 21 : 13;  // The distance changes as well.
      follower.take(set.move(view, {reach, 9, 1, 0, {}}));
      QVERIFY(follower.sound);
      const auto wanted = byForce(layout, bounds, view, reach);
      QCOMPARE(follower.wanted, wanted);
      QCOMPARE(set.count(), wanted.size());
      const auto most = byForce(layout, bounds, view, reach + 9);
      for (const ChunkPos p : follower.near) QVERIFY(most.contains(p) && !wanted.contains(p));
      for (const ChunkPos p : most) QCOMPARE(set.wants(p), wanted.contains(p));
      view = wander(view, random, step);
    }
    set.clear();
    QCOMPARE(set.count(), size_t{0});
    QCOMPARE(set.move(view, {5, 0, 1, 0, {}}).come.size(), byForce(layout, bounds, view, 5).size());
  }

  /// Wanted with a lead: all that is within reach of the way, nothing that is not, and a turn on
  /// the spot drops nothing.
  void aLeadTakesTheWholeWayIn() {
    const ChunkLayout layout(7);
    for (const int levels : {1, 3})
      for (const Rect& bounds : {kEndless, Rect{-70, -90, 130, 180}}) {
        WantedSet set(layout, bounds);
        Follower follower;
        std::mt19937 random(4);
        Cell view{3, -5};
        for (int step = 0; step < 150; ++step) {
          const Cell lead{
              static_cast<int64_t>(random() % 160) - 80, static_cast<int64_t>(random() % 160) - 80};
          const auto change = set.move(view, {30, 9, levels, 20, lead});
          follower.take(change);
          QVERIFY(follower.sound);
          QCOMPARE(set.count(), follower.wanted.size());
          const auto on = [&](int64_t k, int64_t n) {
            return Cell{view.x + lead.x * k / n, view.z + lead.z * k / n};
          };
          const auto isWanted = [&](ChunkPos pos) {
            while (!follower.wanted.contains(pos) && pos.detail + 1 < levels) pos = parentOf(pos);
            return follower.wanted.contains(pos);
          };
          for (int64_t k = 0; k <= 4; ++k)
            for (const ChunkPos pos : byForce(layout, bounds, on(k, 4), 30)) QVERIFY(isWanted(pos));
          for (const ChunkPos pos : follower.wanted) {
            const Rect ground = intersection(layout.rectOf(pos), bounds);
            int64_t nearest = INT64_MAX;
            for (int64_t k = 0; k <= 160; ++k)
              nearest = std::min(nearest, squaredDistance(on(k, 160), ground));
            QVERIFY(nearest <= 31 * 31);
          }
          if (levels == 1) {
            const auto turned = set.move(view, {30, 9, levels, 20, {-lead.x, -lead.z}});
            follower.take(turned);
            QVERIFY(turned.go.empty());
          }
          view = wander(view, random, step);
        }
      }
    WantedSet huge(ChunkLayout(1), kEndless);  // Too much: the lead goes first.
    huge.move({0, 0}, {500, 0, 1, 0, {2000, 0}});
    QVERIFY(huge.wants({140, 0}) && huge.wants({-140, 0}) && !huge.wants({200, 0}));
  }

  /// With levels the wanted chunks lie side by side, cover all ground within reach, and are as
  /// coarse as their distance allows.
  void levelsPartTheGround() {
    const ChunkLayout layout(4);
    for (const Rect& bounds : {kEndless, Rect{-50, -70, 130, 140}}) {
      WantedSet set(layout, bounds);
      Follower follower;
      std::mt19937 random(2);
      Cell view{3, 3};
      const Reach reach{90, 6, 4, 12, {}};
      for (int step = 0; step < 120; ++step) {
        follower.take(set.move(view, reach));
        QVERIFY(follower.sound);
        QCOMPARE(follower.wanted.size(), set.count());
        for (const ChunkPos small : byForce(layout, bounds, view, reach.wanted)) {
          int over = 0;
          for (ChunkPos up = small; up.detail < 4; up = parentOf(up))
            over += follower.wanted.contains(up);
          QCOMPARE(over, 1);
        }
        for (const ChunkPos p : follower.wanted) {
          QVERIFY(set.wants(p));
          const int64_t away = squaredDistance(view, intersection(layout.rectOf(p), bounds));
          QVERIFY(away <= reach.wanted * reach.wanted);
          if (p.detail > 0) {  // It is far enough to be whole.
            const int64_t limit = reach.detail << (p.detail - 1);
            QVERIFY(away > limit * limit);
          }
          if (p.detail < 3) {  // The square around it was near enough to be cut, or lately.
            const ChunkPos up = parentOf(p);
            const int64_t limit = (reach.detail << (up.detail - 1)) + reach.margin;
            const Rect ground = intersection(layout.rectOf(up), bounds);
            QVERIFY(squaredDistance(view, ground) <= limit * limit);
          }
        }
        view = wander(view, random, step);
      }
    }
  }

  void heirsStandOnTheSameGround() {
    const ChunkLayout layout(4);
    WantedSet set(layout, kEndless);
    set.move({0, 0}, {90, 0, 4, 12, {}});
    for (const ChunkPos coarse : {ChunkPos{0, 0, 3}, ChunkPos{-1, -1, 2}}) {
      const auto heirs = set.heirs(coarse);
      QVERIFY(heirs.size() > 1);
      for (const ChunkPos heir : heirs) {
        QVERIFY(set.wants(heir));
        QCOMPARE(intersection(layout.rectOf(coarse), layout.rectOf(heir)), layout.rectOf(heir));
      }
    }
    // A small chunk far out has one heir: the coarse one over it.
    const auto heirs = set.heirs({15, 0, 0});
    QCOMPARE(heirs.size(), size_t{1});
    QVERIFY(heirs[0].detail > 0);
    QCOMPARE(intersection(layout.rectOf({15, 0, 0}), layout.rectOf(heirs[0])),
        layout.rectOf({15, 0, 0}));
    QVERIFY(set.heirs({1000, 0, 0}).empty());
    QVERIFY(WantedSet(layout, kEndless).heirs({0, 0, 1}).empty());
  }

  void hugeDistancesAreCutFromTheFarEnd() {
    WantedSet set(ChunkLayout(1), kEndless);
    set.move({5, -7}, {65'536, 100, 1, 0, {}});
    QVERIFY(set.count() <= WantedSet::kMost && set.count() > WantedSet::kMost * 98 / 100);
    QVERIFY(set.cut() > size_t{1} << 33);
    QVERIFY(set.wants({5, -7}) && set.wants({5 + 140, -7}) && !set.wants({5 + 150, -7}));
    // A narrow world: what does not exist does not count.
    WantedSet narrow(ChunkLayout(1), {0, 0, 100'000, 1});
    narrow.move({0, 0}, {60'000, 0, 1, 0, {}});
    QCOMPARE(narrow.count(), size_t{60'001});
    QCOMPARE(narrow.cut(), size_t{0});
    // Levels bring the same ground within the number.
    WantedSet levels(ChunkLayout(16), kEndless);
    levels.move({0, 0}, {20'000, 0, 6, 200, {}});
    QCOMPARE(levels.cut(), size_t{0});
    QVERIFY(levels.count() < 12'000);
  }

  void parentsHoldTheirChildren() {
    const ChunkLayout layout(5);
    for (int64_t cx = -9; cx < 9; ++cx)
      for (int64_t cz = -3; cz < 3; ++cz) {
        const Rect own = layout.rectOf({cx, cz, 1});
        const Rect above = layout.rectOf(parentOf({cx, cz, 1}));
        QCOMPARE(intersection(own, above), own);
        QCOMPARE(above.width, own.width * 2);
      }
  }
};

ACRE_SUITE(WantedTest)
#include "wanted_test.moc"
