#include <QtTest>
#include <cmath>
#include <random>
#include <set>

#include "climate/regions.h"
#include "suite.h"

using namespace acre;

namespace {

struct BruteSite {
  RegionId id;
  double x, z;
};

/// All sites within `rings` squares of a place, from it, in squares: by the definition in words.
std::vector<BruteSite> sitesAbout(const RegionPlan& plan, Pos x, Pos z, int rings) {
  const Pos place[3] = {x, {}, z};
  const LatticePos px = latticeAt(plan.lattice, 2, kX, place);
  const LatticePos pz = latticeAt(plan.lattice, 2, kZ, place);
  std::vector<BruteSite> out;
  for (int b = -rings; b <= rings; ++b)
    for (int a = -rings; a <= rings; ++a) {
      const RegionId id{px.cell + a, pz.cell + b};
      const uint32_t hash = regionHash(plan, id);
      const double ox = 0.5 + static_cast<double>(plan.jitter) *
                                  (static_cast<double>(hash >> 12) * 0x1p-20 - 0.5);
      const double oz = 0.5 + static_cast<double>(plan.jitter) *
                                  (static_cast<double>(siteHash2(hash) >> 12) * 0x1p-20 - 0.5);
      out.push_back({id, a + ox - static_cast<double>(px.fraction),
          b + oz - static_cast<double>(pz.fraction)});
    }
  return out;
}

Pos anyPlace(std::mt19937_64& random) {
  return {static_cast<int64_t>(random() % 4'000'000'001) - 2'000'000'000,
      static_cast<int32_t>(random() % 65536)};
}

}  // namespace

/// Voronoi regions against their definition.
class RegionTest : public QObject {
  Q_OBJECT

 private slots:
  void nearestSitesAndBordersAreThoseOfAllSitesNear() {
    std::mt19937_64 random(1);
    for (const double jitter : {0.0, 0.3, 0.75, 1.0})
      for (int k = 0; k < 4000; ++k) {
        const RegionPlan plan = regionPlan(2.0 + static_cast<double>(random() % 5000), jitter, k);
        const Pos x = anyPlace(random), z = anyPlace(random);
        const auto sites = sitesAbout(plan, x, z, 5);
        const auto length = [](const BruteSite& s) { return std::hypot(s.x, s.z); };
        const auto& best = *std::min_element(sites.begin(), sites.end(),
            [&](const auto& a, const auto& b) { return length(a) < length(b); });
        const RegionAt at = regionAt(plan, x, z);
        const auto own = std::find_if(
            sites.begin(), sites.end(), [&](const BruteSite& s) { return s.id == at.id; });
        QVERIFY(own != sites.end());
        QVERIFY(length(*own) < length(best) + 1e-5);  // The same, or as near as single precision.
        QVERIFY(std::abs(static_cast<double>(at.distance) - length(*own)) < 1e-5);
        double border = 1;
        for (const BruteSite& s : sites) {
          if (s.id == own->id) continue;
          const double apart = std::hypot(s.x - own->x, s.z - own->z);
          border = std::min(
              border, (s.x * s.x + s.z * s.z - own->x * own->x - own->z * own->z) / (2 * apart));
        }
        QVERIFY2(std::abs(static_cast<double>(at.border) - border) < 2e-5,
            qPrintable(QString("%1 against %2").arg(at.border).arg(border)));
        // Looking less far finds the same, up to there.
        const RegionAt near = regionAt(plan, x, z, 0.125f);
        QVERIFY(near.id == at.id);
        QCOMPARE(near.border, std::min(at.border, 0.125f));
      }
  }

  void blendsAreThoseOfAllSitesNear() {
    std::mt19937_64 random(2);
    for (int k = 0; k < 4000; ++k) {
      const RegionPlan plan = regionPlan(100, k % 2 ? 1.0 : 0.6, k);
      const float width = static_cast<float>(random() % 1000) / 1000;
      const Pos x = anyPlace(random), z = anyPlace(random);
      const auto shares = regionShares(plan, x, z, width);
      QCOMPARE(shares.front().id, regionAt(plan, x, z).id);
      const auto sites = sitesAbout(plan, x, z, 5);
      double nearest = 1e9, sum = 0;
      for (const BruteSite& s : sites) nearest = std::min(nearest, std::hypot(s.x, s.z));
      const auto weightOf = [&](const BruteSite& s) {
        if (width == 0) return std::hypot(s.x, s.z) <= nearest ? 1.0 : 0.0;
        const double part = 1 - (std::hypot(s.x, s.z) - nearest) / static_cast<double>(width);
        return part > 0 ? part * part : 0.0;
      };
      for (const BruteSite& s : sites) sum += weightOf(s);
      double total = 0;
      std::set<RegionId> seen;
      for (const RegionShare& share : shares) {
        QVERIFY(seen.insert(share.id).second && share.weight > 0);
        total += static_cast<double>(share.weight);
        const auto s = std::find_if(
            sites.begin(), sites.end(), [&](const BruteSite& b) { return b.id == share.id; });
        QVERIFY(s != sites.end());
        QVERIFY(std::abs(static_cast<double>(share.weight) - weightOf(*s) / sum) < 1e-3);
      }
      QVERIFY(std::abs(total - 1) < 1e-5);
    }
  }

  /// Walking across borders, weights change as little as the steps are small.
  void blendsAreContinuous() {
    const RegionPlan plan = regionPlan(50, 1, 9);
    std::map<RegionId, float> before;
    for (int k = 0; k < 20'000; ++k) {
      std::map<RegionId, float> now;
      const int64_t along = int64_t{k} * 4096;  // A sixteenth of a cell.
      const Pos x{along >> 16, static_cast<int32_t>(along & 0xFFFF)}, z{17, 333};
      for (const RegionShare& s : regionShares(plan, x, z, 0.3f)) now[s.id] = s.weight;
      if (k > 0) {
        for (const auto& [id, weight] : now)
          QVERIFY(std::abs(weight - (before.contains(id) ? before[id] : 0)) < 0.02f);
        for (const auto& [id, weight] : before)
          if (!now.contains(id)) QVERIFY(weight < 0.02f);
      }
      before = now;
    }
  }

  void everySiteBelongsToItsOwnRegion() {
    std::mt19937_64 random(4);
    for (int k = 0; k < 4000; ++k) {
      const RegionPlan plan =
          regionPlan(8.0 + static_cast<double>(random() % 1000), k % 3 ? 1.0 : 0.5, k);
      const RegionId id{static_cast<int64_t>(random() % 20'000'001) - 10'000'000,
          static_cast<int64_t>(random() % 20'000'001) - 10'000'000};
      const Cell cell = siteCell(plan, id);
      const RegionAt at = regionAt(plan, {cell.x, 0}, {cell.z, 0});
      // The cell begins less than a cell from the site: nobody else can be much nearer.
      const float cellSide =
          static_cast<float>(static_cast<double>(plan.lattice.steps[kX][kX]) * 0x1p-48);
      QVERIFY(at.distance < 1.5f * cellSide);
      if (at.id != id) QVERIFY(at.border < 1.5f * cellSide);
    }
  }

  void regionsHaveTheSizeThatWasAskedFor() {
    const RegionPlan plan = regionPlan(40, 1, 77);
    std::set<RegionId> met;
    constexpr int kSide = 1200;
    for (int z = 0; z < kSide; z += 3)
      for (int x = 0; x < kSide; x += 3) met.insert(regionAt(plan, {x, 0}, {z, 0}, 0).id);
    const double expected = (kSide / 40.0) * (kSide / 40.0);
    QVERIFY(static_cast<double>(met.size()) > expected);  // Those at the rim come on top.
    QVERIFY(static_cast<double>(met.size()) < expected * 1.2);
  }

  void farAwayIsLikeHome() {
    // At the end of the world lattice cells wrap, and nothing breaks.
    const RegionPlan plan = regionPlan(3, 1, 5);
    for (const int64_t at : {kMaxCell, -kMaxCell, int64_t{2'000'000'000}, int64_t{0}}) {
      const RegionAt region = regionAt(plan, {at, 0}, {-at, 0});
      QVERIFY(region.distance < 1.5f && region.border >= 0 && region.border <= 1);
    }
  }
};

ACRE_SUITE(RegionTest)
#include "region_test.moc"
