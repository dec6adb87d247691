#include <QtTest>
#include <algorithm>
#include <map>
#include <random>
#include <set>

#include "dry.h"
#include "mesh/faces.h"
#include "mesh/mesh_source.h"
#include "mesh/smooth.h"
#include "stream/stream.h"
#include "suite.h"
#include "view/loading.h"
#include "world/block_value.h"
#include "world/demos.h"
#include "world/engine.h"
#include "world/world.h"

using namespace acre;

namespace {

std::shared_ptr<const World> worldOf(const std::string& name) {
  auto engine = Engine::create({});
  return (*engine)->compile(dryDemo(name)).value();
}

/// A solid material of a world.
MaterialIndex solidOf(const World& world) {
  const auto& all = world.recipe().materials;
  for (size_t i = 0; i < all.size(); ++i)
    if (all[i].state == MaterialState::Solid) return static_cast<MaterialIndex>(i + 1);
  return kUnassigned;
}

/// How often triangles run along each edge, and in which direction; corners by place.
class Edges {
 public:
  void add(const BlockMesh& mesh, unsigned walls) {
    bool surface = true;
    const auto triangle = [&](const SurfaceTriangle& t) {
      const Corner a = cornerOf(mesh, t.a), b = cornerOf(mesh, t.b), c = cornerOf(mesh, t.c);
      if (a == b || b == c || c == a) flat_ = true;
      for (const auto& [from, to] : {std::pair(a, b), std::pair(b, c), std::pair(c, a)}) {
        from < to ? ++edges_[{from, to}].first : ++edges_[{to, from}].second;
        if (surface) ofSurface_.insert({std::min(from, to), std::max(from, to)});
      }
    };
    for (const SurfaceTriangle& t : mesh.triangles) triangle(t);
    surface = false;
    for (size_t side = 0; side < kSides; ++side)
      if (walls >> side & 1)
        for (const SurfaceTriangle& t : mesh.walls[side]) triangle(t);
  }
  /// Every edge belongs to two triangles, which run along it in opposite directions.
  bool closed() const { return fault().isEmpty(); }
  /// The same of those of the surface alone: walls end within bricks that are solid throughout.
  bool surfaceClosed() const { return fault(true).isEmpty(); }
  size_t count() const { return edges_.size(); }
  QString fault(bool surfaceAlone = false) const {
    if (flat_) return QStringLiteral("a triangle without area");
    for (const auto& [edge, n] : edges_)
      if ((n.first != 1 || n.second != 1) && (!surfaceAlone || ofSurface_.contains(edge)))
        return QStringLiteral("%1 and %2 triangles along %3,%4,%5 to %6,%7,%8")
            .arg(n.first)
            .arg(n.second)
            .arg(double(edge.first[0]) / 65536)
            .arg(double(edge.first[1]) / 65536)
            .arg(double(edge.first[2]) / 65536)
            .arg(double(edge.second[0]) / 65536)
            .arg(double(edge.second[1]) / 65536)
            .arg(double(edge.second[2]) / 65536);
    return {};
  }

 private:
  using Corner = std::array<int64_t, 3>;  // In 1/65536 cell, of the world.
  static Corner cornerOf(const BlockMesh& mesh, uint32_t k) {
    const SurfacePoint& p = mesh.points[k];
    const auto at = [&](int64_t origin, float v) {
      return origin * 65536 +
             static_cast<int64_t>(std::llround(double(v) * double(mesh.step) * 65536));
    };
    return {at(mesh.x, p.x), at(mesh.y, p.y), at(mesh.z, p.z)};
  }
  std::map<std::pair<Corner, Corner>, std::pair<int, int>> edges_;
  std::set<std::pair<Corner, Corner>> ofSurface_;
  bool flat_ = false;
};

/// One face: block and side, with its material.
using Face = std::pair<std::array<int, 4>, MaterialIndex>;

/// All single faces that quads cover, and a fault when two cover the same.
std::set<Face> facesOf(const BlockMesh& mesh) {
  std::set<Face> out;
  for (const Quad& quad : mesh.quads) {
    const int axis = static_cast<int>(quad.side) / 2, up = static_cast<int>(quad.side) % 2;
    const int u = axis == 0 ? 2 : 0, v = axis == 1 ? 2 : 1;
    for (int j = 0; j < quad.height; ++j)
      for (int i = 0; i < quad.width; ++i) {
        int at[3] = {quad.x, quad.y, quad.z};
        at[u] += i;
        at[v] += j;
        at[axis] -= up;  // From the plane back to the block.
        const Face face{{at[0], at[1], at[2], static_cast<int>(quad.side)}, quad.material};
        if (!out.insert(face).second) qFatal("a face is drawn twice");
      }
  }
  return out;
}

/// Blocks at random, in clumps, with their rim.
std::vector<MaterialIndex> clumps(
    std::mt19937& random, int width, int tall, int depth, int materials, double fill) {
  std::vector<MaterialIndex> blocks(static_cast<size_t>((width + 2) * (tall + 2) * (depth + 2)));
  std::uniform_real_distribution<double> odds(0, 1);
  MaterialIndex last = kOpen;
  for (auto& b : blocks) {
    if (odds(random) < 0.4)
      last = odds(random) < fill
                 ? static_cast<MaterialIndex>(1 + random() % static_cast<unsigned>(materials))
                 : (odds(random) < 0.1 ? kOutside : kOpen);
    b = last;
  }
  return blocks;
}

}  // namespace

class MeshTest : public QObject {
  Q_OBJECT

 private slots:
  /// Masks and the cell-by-cell mesher draw the same faces, merged or not; every face between
  /// what is solid and what is not exactly once, and merging changes no area.
  void masksDrawWhatCellsDraw() {
    const auto world = worldOf("swallet-edge");
    using Of = BlockClass;
    std::mt19937 random(3);
    for (int n = 0; n < 400; ++n) {
      // Every other one with leaves that are seen through.
      const BlockClasses classes =
          n % 2 ? BlockClasses(*world)
                : BlockClasses(std::vector{Of::Solid, Of::Solid, Of::Cover, Of::Liquid, Of::Cover});
      BlockMesh mesh;
      mesh.width = n % 7 == 0 ? 32 : 1 + static_cast<int>(random() % 32);
      mesh.tall = n % 5 == 0 ? 32 : 1 + static_cast<int>(random() % 32);
      mesh.depth = n % 3 == 0 ? 32 : 1 + static_cast<int>(random() % 32);
      const auto blocks =
          clumps(random, mesh.width, mesh.tall, mesh.depth, 1 + n % 4, n % 10 * 0.11);
      BlockMesh plain = mesh, loose = mesh;
      buildFaces(classes, blocks, {}, mesh);
      buildFacesPlainly(classes, blocks, {}, plain);
      buildFaces(classes, blocks, {false, 0}, loose);
      QCOMPARE(mesh.faces, plain.faces);
      QCOMPARE(loose.quads.size(), static_cast<size_t>(mesh.faces));
      const auto faces = facesOf(mesh);
      QCOMPARE(faces.size(), static_cast<size_t>(mesh.faces));
      QVERIFY(faces == facesOf(plain));
      QVERIFY(faces == facesOf(loose));
      QCOMPARE(mesh.quads.size(), plain.quads.size());
      // Every face parts what is solid (or wet) from what is not, and all such are there.
      uint64_t expected = 0;
      const ptrdiff_t row = mesh.width + 2, slab = row * (mesh.depth + 2);
      for (int j = 1; j <= mesh.tall; ++j)
        for (int k = 1; k <= mesh.depth; ++k)
          for (int i = 1; i <= mesh.width; ++i)
            for (const ptrdiff_t across : {ptrdiff_t{-1}, ptrdiff_t{1}, -slab, slab, -row, row}) {
              const MaterialIndex* at = blocks.data() + j * slab + k * row + i;
              const auto own = classes.of(*at), other = classes.of(at[across]);
              expected += own == Of::Solid    ? other != Of::Solid
                          : own == Of::Liquid ? other == Of::Open
                          : own == Of::Cover  ? other == Of::Open || other == Of::Liquid
                                              : 0;
            }
      QCOMPARE(mesh.faces, expected);
    }
  }

  /// A box of chunks: summed over all of them the faces are those of the whole box; none is missing
  /// or double where two of them meet.
  void chunksMeet_data() {
    QTest::addColumn<QString>("name");
    for (const char* name : {"swallet-edge", "saltfen-reach"}) QTest::newRow(name) << name;
  }
  void chunksMeet() {
    QFETCH(QString, name);
    const auto world = worldOf(name.toStdString());
    const ChunkLayout& layout = world->groundLayout();
    const BlockClasses classes(*world);
    const int n = layout.size();
    // Where there is a coast, in the world of columns.
    const int64_t west = world->blocks() ? -2 : 6, north = world->blocks() ? 4 : 1;
    // Under the water of a column there is its bed.
    const MaterialIndex bed = BlockClasses::bedOf(*world);
    const auto isBed = [&](Cell cell, int64_t y, MaterialIndex m) {
      return !world->blocks() && classes.of(m) == BlockClass::Liquid &&
             static_cast<float>(y + 1) <= world->at(cell).height;
    };
    int beds = 0;
    using Place = std::array<int64_t, 4>;
    std::set<Place> met;
    for (int64_t cx = west; cx < west + 3; ++cx)
      for (int64_t cz = north; cz < north + 2; ++cz)
        for (int64_t cy = layout.lowestChunk(0); cy <= layout.highestChunk(0); ++cy) {
          const auto meshes = meshChunk(*world, {cx, cz, 0, cy}).value();
          for (const auto& mesh : meshes)
            for (const auto& [at, material] : facesOf(*mesh)) {
              const Place face{mesh->x + at[0], mesh->y + at[1], mesh->z + at[2], at[3]};
              if (!met.insert(face).second) QFAIL("a face is drawn by two chunks");
              const auto block = world->blockAt({face[0], face[2]}, face[1]);
              const bool deep = isBed({face[0], face[2]}, face[1], block.material);
              beds += deep;
              if (met.size() % 97 == 0 || deep) QCOMPARE(material, deep ? bed : block.material);
            }
        }
    const AxisBounds range = world->vertical();
    const SampleBlock all{west * n - 1, range.min - 1, north * n - 1, 1, 3 * n + 2,
        static_cast<int32_t>(range.extent + 2), 2 * n + 2};
    std::vector<MaterialIndex> blocks(static_cast<size_t>(all.width) *
                                      static_cast<size_t>(all.height) *
                                      static_cast<size_t>(all.length));
    QVERIFY(world->sampleBlocks(all, blocks.data()).ok());
    const ptrdiff_t row = all.width, slab = row * all.length;
    for (ptrdiff_t at = 0; at < std::ssize(blocks); ++at)
      if (MaterialIndex& m = blocks[static_cast<size_t>(at)];
          isBed({all.x + at % row, all.z + at % slab / row}, all.y + at / slab, m))
        m = bed;
    std::fill_n(blocks.begin(), slab, kUnassigned);  // Nobody looks from below.
    size_t expected = 0;
    for (int j = 1; j + 1 < all.height; ++j)
      for (int k = 1; k + 1 < all.length; ++k)
        for (int i = 1; i + 1 < all.width; ++i) {
          const MaterialIndex* at = blocks.data() + j * slab + k * row + i;
          const auto own = classes.of(*at);
          if (own == BlockClass::Open) continue;
          int side = 0;
          for (const ptrdiff_t across : {ptrdiff_t{-1}, ptrdiff_t{1}, -slab, slab, -row, row}) {
            const auto other = classes.of(at[across]);
            const bool face =
                own == BlockClass::Solid ? other != BlockClass::Solid : other == BlockClass::Open;
            if (face) {
              ++expected;
              if (!met.contains({all.x + i, all.y + j, all.z + k, side}))
                QFAIL(qPrintable(QString("no face at %1,%2,%3 side %4")
                                     .arg(all.x + i)
                                     .arg(all.y + j)
                                     .arg(all.z + k)
                                     .arg(side)));
            }
            ++side;
          }
        }
    QCOMPARE(met.size(), expected);
    QVERIFY(expected > 5000);
    QCOMPARE(beds > 500, !world->blocks());
  }

  /// A skirt closes the brick's own sides below what is exposed, and nothing else.
  void skirtsCloseTheRim() {
    const auto world = worldOf("swallet-edge");
    const BlockClasses classes(*world);
    BlockMesh mesh;
    mesh.width = mesh.tall = mesh.depth = 16;
    std::vector<MaterialIndex> blocks(18 * 18 * 18, kOpen);
    for (size_t i = 0; i < blocks.size(); ++i)
      if (i / (18 * 18) <= 10) blocks[i] = 5;  // Ground up to level 9 of the brick.
    buildFaces(classes, blocks, {true, 3}, mesh);
    std::map<Side, uint64_t> area;
    for (const Quad& q : mesh.quads) area[q.side] += uint64_t{q.width} * q.height;
    QCOMPARE(area[Side::Up], uint64_t{256});
    for (const Side side : {Side::West, Side::East, Side::North, Side::South})
      QCOMPARE(area[side], uint64_t{48});
    QCOMPARE(area[Side::Down], uint64_t{0});
  }

  /// The faces of coarser levels are those of its samples.
  void coarserLevelsAreMeshed() {
    const auto world = worldOf("swallet-edge");
    const auto fine = meshChunk(*world, {0, 0, 0, 0}).value();
    const auto coarse = meshChunk(*world, {0, 0, 2, 0}).value();
    QVERIFY(!coarse.empty());
    QCOMPARE(coarse[0]->step, int64_t{4});
    for (const auto& [at, material] : facesOf(*coarse[0])) {
      const auto block = world->blockAt(
          {coarse[0]->x + at[0] * 4, coarse[0]->z + at[2] * 4}, coarse[0]->y + at[1] * 4);
      QCOMPARE(block.material, material);
    }
  }

  /// A stream of meshes loads cubes of all levels, replaces them without holes and lets all go.
  void meshesStream() {
    EngineOptions options;
    options.threads = 2;
    options.memoBytes = 0;  // The budget holds chunks alone.
    const auto engine = Engine::create(options).value();
    const auto world = engine->compile(dryDemo("swallet-edge")).value();
    StreamSettings settings;
    settings.viewDistance = 256;
    settings.levels = 3;
    settings.detail = 64;
    settings.margin = 32;
    std::map<ChunkPos, ChunkHandle> held;
    {
      Stream stream(std::make_shared<MeshSource>(world, FaceOptions{true, 4}), settings,
          engine->executor(), engine->budget());
      // Nothing of what is shown may overlap, and the ground may have no hole once it was whole.
      const auto check = [&](Cell view, bool whole) {
        std::map<std::array<int64_t, 3>, int> cover;
        for (const auto& [pos, chunk] : held) {
          const int64_t side = int64_t{1} << pos.detail;
          for (int64_t x = 0; x < side; ++x)
            for (int64_t y = 0; y < side; ++y)
              for (int64_t z = 0; z < side; ++z)
                if (++cover[{pos.cx * side + x, pos.cy * side + y, pos.cz * side + z}] > 1)
                  return false;
        }
        if (!whole) return true;
        const ChunkLayout& layout = world->groundLayout();
        for (const ChunkPos need : neededHere(layout, view, 200))
          if (!cover.contains({need.cx, need.cy, need.cz})) return false;
        return true;
      };
      Cell view{0, 0};
      QVERIFY(drive(stream, held, view));
      QVERIFY(check(view, true));
      for (int n = 0; n < 12; ++n) {
        view.x += 40;
        view.z -= 15;
        stream.setView(view, 20);
        for (int k = 0; k < 4; ++k) {
          takeAll(stream, held);
          QVERIFY(check(view, false));
          QTest::qWait(2);
        }
        QVERIFY(drive(stream, held, view));
        QVERIFY(check(view, true));
      }
      size_t quads = 0;
      for (const auto& [pos, chunk] : held)
        for (const auto& mesh : chunk->meshes) quads += mesh->quads.size();
      QVERIFY(quads > 10'000);
      QCOMPARE(stream.stats().failed, size_t{0});
      stream.stop();
    }
    held.clear();
    QTRY_COMPARE(engine->budget().used(), uint64_t{0});
  }

  // ---- the smooth surface ----------------------------------------------------------------------

  void smoothBricksAreClosedBodies() {
    // Whatever the blocks: with all walls, every edge belongs to two triangles that run along it
    // in opposite directions, and the body holds about the space of its blocks.
    uint64_t state = 11;
    const auto world = worldOf("swallet-edge");
    const BlockClasses classes(*world);
    const MaterialIndex stone = solidOf(*world);
    for (int round = 0; round < 60; ++round) {
      BlockMesh mesh;
      mesh.width = 3 + round % 9;
      mesh.tall = 3 + round / 9;
      mesh.depth = 4 + round % 5;
      std::vector<MaterialIndex> blocks(static_cast<size_t>(mesh.width + 4) *
                                        static_cast<size_t>(mesh.tall + 4) *
                                        static_cast<size_t>(mesh.depth + 4));
      const uint64_t share = static_cast<uint64_t>(round % 10 + 1);
      for (MaterialIndex& m : blocks) {
        state = mix64(state + 1);
        m = state % 12 < share ? stone : kOpen;
      }
      buildSmooth(classes, blocks, mesh);
      Edges edges;
      edges.add(mesh, 0x3F);
      QVERIFY2(
          edges.closed(), qPrintable(QStringLiteral("round %1: %2").arg(round).arg(edges.fault())));
      QVERIFY(round % 10 == 0 || !mesh.triangles.empty());
    }
  }

  void smoothSurfacesLookOutward() {
    // One block alone: a body about its middle, every triangle turned away from it.
    const auto world = worldOf("swallet-edge");
    BlockMesh mesh;
    mesh.width = mesh.tall = mesh.depth = 4;
    std::vector<MaterialIndex> blocks(8 * 8 * 8, kOpen);
    blocks[static_cast<size_t>((4 * 8 + 4) * 8 + 4)] = solidOf(*world);
    buildSmooth(BlockClasses(*world), blocks, mesh);
    QCOMPARE(mesh.triangles.size(), size_t{8});
    double volume = 0;
    for (const SurfaceTriangle& t : mesh.triangles) {
      const auto at = [&](uint32_t k) {
        const SurfacePoint& p = mesh.points[k];
        return std::array<double, 3>{double(p.x) - 2.5, double(p.y) - 2.5, double(p.z) - 2.5};
      };
      const auto a = at(t.a), b = at(t.b), c = at(t.c);
      const double six = a[0] * (b[1] * c[2] - b[2] * c[1]) - a[1] * (b[0] * c[2] - b[2] * c[0]) +
                         a[2] * (b[0] * c[1] - b[1] * c[0]);
      QVERIFY(six > 0);
      volume += six / 6;
      const SurfacePoint& p = mesh.points[t.a];
      const auto out = at(t.a);
      QVERIFY(double(p.nx) * out[0] + double(p.ny) * out[1] + double(p.nz) * out[2] > 0);
    }
    QVERIFY2(volume > 0.0005 && volume < 1, qPrintable(QString::number(volume)));
  }

  void levelGroundIsLevel() {
    const auto world = worldOf("swallet-edge");
    const MaterialIndex stone = solidOf(*world);
    BlockMesh mesh;
    mesh.width = mesh.tall = mesh.depth = 6;
    std::vector<MaterialIndex> blocks;
    for (int j = -2; j < 8; ++j) blocks.insert(blocks.end(), 100, j < 3 ? stone : kOpen);
    buildSmooth(BlockClasses(*world), blocks, mesh);
    QCOMPARE(mesh.triangles.size(), size_t{6 * 6 * 2});
    for (const SurfaceTriangle& t : mesh.triangles)
      for (const uint32_t c : {t.a, t.b, t.c}) {
        QCOMPARE(mesh.points[c].y, 3.0f);  // Where blocks would end.
        QCOMPARE(mesh.points[c].ny, 1.0f);
      }
  }

  void smoothChunksMeet_data() {
    QTest::addColumn<QString>("demo");
    QTest::newRow("swallet-edge") << "swallet-edge";
    QTest::newRow("lantern-shelf") << "lantern-shelf";
    QTest::newRow("patchwork-parish") << "patchwork-parish";
  }

  void smoothChunksMeet() {
    // A piece of the world of two levels of detail: bricks of one level meet without a gap, and
    // where levels meet both sides are closed by their walls, so that all of it is closed.
    QFETCH(QString, demo);
    const auto world = worldOf(demo.toStdString());
    const ChunkLayout& layout = world->groundLayout();
    const bool plane = layout.vertical().plane;
    std::set<ChunkPos> held;
    // A coarse chunk in the middle, with finer ones about it on two sides.
    for (int64_t cy = layout.lowestChunk(1); cy <= layout.highestChunk(1); ++cy)
      held.insert({0, 0, 1, cy});
    for (int64_t cz = plane ? 0 : -2; cz < (plane ? 1 : 2); ++cz)
      for (int64_t cx = -2; cx < 4; ++cx)
        for (int64_t cy = layout.lowestChunk(0); cy <= layout.highestChunk(0); ++cy)
          if (cx < 0 || cx > 1 || cz < 0 || cz > 1) held.insert({cx, cz, 0, cy});
    Scene scene;
    for (const ChunkPos pos : held) {
      const auto meshes = meshChunk(*world, pos, {true, 0, true});
      QVERIFY(meshes.ok());
      addToScene(
          layout, pos, *meshes, [&](ChunkPos p) { return held.contains(p); }, scene);
    }
    QVERIFY(scene.size() > 3);
    // Bodies that touch share edges, so the levels are looked at one by one.
    size_t count = 0;
    for (const int64_t step : {1, 2}) {
      Edges edges;
      for (const ScenePart& part : scene)
        if (part.mesh->step == step) edges.add(*part.mesh, part.walls);
      QVERIFY2(edges.surfaceClosed(), qPrintable(edges.fault(true)));
      count += edges.count();
    }
    QVERIFY2(count > 1000, qPrintable(QString::number(count)));
  }

  /// Whatever the limit, bytes in use stay below it, chunks below what their source says; where not
  /// all can be held, what is nearest is.
  void meshesStayWithinTheLimit_data() {
    QTest::addColumn<bool>("smooth");
    QTest::newRow("blocks") << false;
    QTest::newRow("smooth") << true;
  }
  void meshesStayWithinTheLimit() {
    QFETCH(bool, smooth);
    const uint64_t limit = uint64_t{smooth ? 112u : 5u} << 20;
    EngineOptions options;
    options.threads = 2;
    options.memoryLimit = limit;
    options.memoBytes = 0;
    const auto engine = Engine::create(options).value();
    const auto world = engine->compile(dryDemo("swallet-edge")).value();
    StreamSettings settings;
    settings.viewDistance = 420;
    const auto source = std::make_shared<MeshSource>(world, FaceOptions{true, 0, smooth});
    Stream stream(source, settings, engine->executor(), engine->budget());
    std::map<ChunkPos, ChunkHandle> held;
    stream.setView({0, 0}, 40);
    QElapsedTimer clock;
    clock.start();
    // While farther chunks make way for nearer ones the stream looks full for a moment, so it has
    // to stay so.
    int still = 0;
    while (still < 100 && clock.elapsed() < 60'000) {
      takeAll(stream, held);
      QVERIFY(engine->budget().used() <= limit);
      const StreamStats stats = stream.stats();
      still = stats.limited && stats.working + stats.ready == 0 ? still + 1 : 0;
      QTest::qWait(2);
    }
    QCOMPARE(still, 100);
    uint64_t bytes = 0;
    for (const auto& [pos, chunk] : held) {
      QVERIFY(chunk->bytes() <= source->largestChunkBytes());
      bytes += chunk->bytes();
    }
    QVERIFY(bytes <= engine->budget().used());
    const ChunkLayout& layout = world->groundLayout();
    const ChunkPos here = layout.chunkOf({0, 0});
    for (int64_t cy = layout.lowestChunk(0); cy <= layout.highestChunk(0); ++cy)
      QVERIFY(held.contains({here.cx, here.cz, 0, cy}));
    stream.stop();
  }

  void somebodyCanStandOrIsToldSo() {
    int stood = 0;
    const int seeds = suite::sized(40, 100);
    for (int seed = 0; seed < seeds; ++seed) {
      Recipe recipe = dryDemo("swallet-edge");
      recipe.seed = std::to_string(seed);
      auto engine = Engine::create({});
      const auto world = (*engine)->compile(recipe).value();
      const Cell cell{seed * 977, -seed * 431};
      const auto place = standNear(*world, cell);
      if (!place) continue;
      ++stood;
      const BlockClasses classes(*world);
      const auto classOf = [&](int64_t y) {
        return classes.of(world->blockAt(place->cell, y).material);
      };
      QVERIFY(classOf(place->y - 1) == BlockClass::Solid);
      QVERIFY(classOf(place->y) != BlockClass::Solid);
      QVERIFY(classOf(place->y + 1) != BlockClass::Solid);
      QVERIFY(std::abs(place->cell.x - cell.x) <= 24 && std::abs(place->cell.z - cell.z) <= 24);
    }
    QVERIFY(stood > seeds * 9 / 10);
    // Ground that reaches through the top of the world: nobody stands there, and it is said.
    Recipe closed = dryDemo("swallet-edge");
    closed.frame.y = {-200, 32};
    auto engine = Engine::create({});
    const auto world = (*engine)->compile(closed).value();
    const auto place = standNear(*world, {0, 0});
    QVERIFY(place && place->y == -168);  // On top of the cut world.
  }

 private:
  static std::vector<ChunkPos> neededHere(const ChunkLayout& layout, Cell view, int64_t distance) {
    std::vector<ChunkPos> out;
    const ChunkPos low = layout.chunkOf({view.x - distance, view.z - distance});
    const ChunkPos high = layout.chunkOf({view.x + distance, view.z + distance});
    for (int64_t cx = low.cx; cx <= high.cx; ++cx)
      for (int64_t cz = low.cz; cz <= high.cz; ++cz)
        if (squaredDistance(view, layout.rectOf({cx, cz})) <= distance * distance)
          for (int64_t cy = layout.lowestChunk(0); cy <= layout.highestChunk(0); ++cy)
            out.push_back({cx, cz, 0, cy});
    return out;
  }
  static void takeAll(Stream& stream, std::map<ChunkPos, ChunkHandle>& held) {
    const Handover change = stream.take(1000);
    for (const ChunkPos pos : change.hide) held.erase(pos);
    for (const ChunkHandle& chunk : change.show) held[chunk->pos] = chunk;
  }
  static bool drive(Stream& stream, std::map<ChunkPos, ChunkHandle>& held, Cell view) {
    stream.setView(view, 20);
    return QTest::qWaitFor(
        [&] {
          takeAll(stream, held);
          const StreamStats now = stream.stats();
          return now.missing == 0 && now.waiting + now.working + now.ready == 0;
        },
        60'000);
  }
};

ACRE_SUITE(MeshTest)
#include "mesh_test.moc"
