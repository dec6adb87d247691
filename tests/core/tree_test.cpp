// Trees: grown alike by both programs, of one piece, whole across every border.
#include <QtTest>
#include <algorithm>
#include <array>
#include <map>
#include <random>
#include <set>

#include "audit/check_kinds.h"
#include "audit/checks.h"
#include "audit/plumb.h"
#include "core/object_worlds.h"
#include "core/tree_styles.h"
#include "mesh/faces.h"
#include "object/tree.h"
#include "output/mesh_files.h"
#include "recipe/json.h"
#include "recipe/limits.h"
#include "recipe/validate.h"
#include "reference/evaluator.h"
#include "reference/trees.h"
#include "suite.h"
#include "view/loading.h"
#include "view/scene.h"

using namespace acre;

namespace {

constexpr uint64_t kSeed = 11;

TreeSkeleton treeOf(const TreeStyle& style, uint64_t variant, const TreeWind& wind = {}) {
  return bentTree(style, grownTree(style, treeKey(kSeed, style.id, variant)), wind);
}

using Place = std::array<int32_t, 3>;

/// What is in the blocks, by where they are.
std::map<Place, bool> blocksOf(const TreeBlocks& blocks) {
  std::map<Place, bool> out;
  const auto &first = blocks.first(), &size = blocks.size();
  for (int32_t y = first.y; y < first.y + size.y; ++y)
    for (int32_t z = first.z; z < first.z + size.z; ++z)
      for (int32_t x = first.x; x < first.x + size.x; ++x)
        if (const auto of = blocks.at(x, y, z); of != TreeBlocks::Of::Nothing)
          out[{x, y, z}] = of == TreeBlocks::Of::Leaf;
  return out;
}

/// Blocks of wood that hang together with one of them.
size_t together(const std::map<Place, bool>& blocks) {
  std::set<Place> met;
  std::vector<Place> open;
  for (const auto& [at, leaf] : blocks)
    if (!leaf) {
      open.push_back(at);
      met.insert(at);
      break;
    }
  while (!open.empty()) {
    const Place at = open.back();
    open.pop_back();
    for (int n = 0; n < 27; ++n) {
      const Place next = {at[0] + n % 3 - 1, at[1] + n / 3 % 3 - 1, at[2] + n / 9 - 1};
      const auto found = blocks.find(next);
      if (found != blocks.end() && !found->second && met.insert(next).second) open.push_back(next);
    }
  }
  return met.size();
}

std::vector<TreeWind> windsOf(const TreeStyle& style) {
  if (style.wind.empty()) return {{}};
  return {{}, TreeWind::of(style, 0.3f), TreeWind::of(style, 0.7f), TreeWind::of(style, 1.0f)};
}

/// All styles in a world of blocks, dense enough to meet.
Recipe forest(WorldKind kind) {
  Recipe r = plain({});
  r.materials.push_back({"wood", "Wood", {}, MaterialState::Solid});
  r.materials.push_back({"leaf", "Leaf", {}, MaterialState::Solid});
  r.materials.push_back({"moss", "Moss", {}, MaterialState::Solid});
  r.materials.push_back({"rock", "Rock", {}, MaterialState::Solid});
  r.rock.beds = {{"rock", "rock", 100}};
  r.frame.kind = kind;
  r.frame.chunkSize = 32;
  r.frame.y = {-40, 104};
  r.frame.shape = ChunkShape::Cubes;
  r.objects->trees = treeStyles();
  ObjectKind wood = kindOf("wood", 8, 5);
  for (const TreeStyle& style : r.objects->trees) {
    ObjectChoice one;
    one.id = one.name = style.id;
    one.tree = style.id;
    wood.what.push_back(one);
  }
  ObjectKind stump = kindOf("stump", 30, 4);
  stump.piece = "stump";
  ObjectKind cover = kindOf("cover", 300, 1);
  cover.piece = "moss";
  r.objects->kinds = {wood, stump, cover};
  ObjectPiece piece;
  piece.id = piece.name = "stump";
  piece.layers = {{{"ww", "ww"}}, {{"w.", ".w"}}, {{"w.", ".w"}}};
  piece.signs = {{"w", "rock"}};
  ObjectPiece moss;
  moss.id = moss.name = "moss";
  moss.layers = {{{"m"}}, {{"m"}}};
  moss.signs = {{"m", "moss"}};
  moss.cover = true;
  r.objects->pieces = {piece, moss};
  return r;
}

}  // namespace

class TreeTest : public QObject {
  Q_OBJECT

 private slots:
  /// Where samples lie too far apart to know of trees, each is there once, as few faces about where
  /// its blocks are.
  void farTreesAreBoxes() {
    Recipe r = forest(WorldKind::Voxel);
    r.objects->kinds.resize(1);
    r.objects->kinds[0].density = 2;
    r.objects->kinds[0].distance = 12;
    const auto world = worldOf(r);
    for (const int detail : {3, 4})
      for (const int64_t cx : {int64_t{0}, int64_t{7'000'000}, int64_t{-7'000'001}}) {
        const ChunkPos pos{cx, -1, detail, 0};
        const ChunkLayout& layout = world->groundLayout();
        const Rect cells = layout.rectOf(pos);
        const int64_t unit = (int64_t{1} << detail) / 4;
        std::vector<std::shared_ptr<const BlockMesh>> meshes;
        for (int64_t cy = layout.lowestChunk(detail); cy <= layout.highestChunk(detail); ++cy) {
          const auto part = meshChunk(*world, {cx, -1, detail, cy}).value();
          meshes.insert(meshes.end(), part.begin(), part.end());
        }
        struct Top {
          int64_t x, y, z;
          bool operator<(const Top& o) const { return std::tie(x, y, z) < std::tie(o.x, o.y, o.z); }
        };
        std::multiset<Top> drawn;
        size_t faces = 0;
        for (const auto& mesh : meshes) {
          if (mesh->step != unit) continue;
          for (const Quad& q : mesh->quads) {
            ++faces;
            if (q.side == Side::Up)
              drawn.insert({mesh->x + q.x * unit, mesh->y + q.y * unit, mesh->z + q.z * unit});
          }
        }
        const auto objects = world->objects().in(cells);
        QVERIFY(objects && objects->size() > 20);
        std::multiset<Top> there;
        size_t most = 0;
        for (const PlacedObject& object : *objects) {
          const auto grown = world->objectCells().grown(object);
          QVERIFY(grown);
          const ObjectTrees::Grown::Turned turned(*grown);
          QVERIFY(!grown->stamp->boxes.empty() && grown->stamp->boxes.size() <= 4);
          for (const TreeBox& box : grown->stamp->boxes) {
            const int lastX = box.x1 - 1, lastZ = box.z1 - 1;
            const auto least = [](int a, int b) { return std::min(a, b); };
            const int64_t x = object.cell.x +
                              least(turned.x(box.x0, box.z0), turned.x(lastX, lastZ)),
                          z = object.cell.z +
                              least(turned.z(box.x0, box.z0), turned.z(lastX, lastZ));
            const auto near = [&](int64_t at) { return floorDiv(at + unit / 2, unit) * unit; };
            there.insert({near(x),
                std::max(near(object.y + box.y1), near(object.y + box.y0) + unit), near(z)});
            most += 6;
          }
        }
        QCOMPARE(drawn.size(), there.size());
        QVERIFY(std::equal(drawn.begin(), drawn.end(), there.begin(),
            [](Top a, Top b) { return a.x == b.x && a.y == b.y && a.z == b.z; }));
        QVERIFY(faces <= most);
      }
    // A box stands for about as much as there is.
    for (const TreeStyle& style : r.objects->trees) {
      PlacedObject object;
      object.kind = 0;
      for (size_t n = 0; n < r.objects->kinds[0].what.size(); ++n)
        if (r.objects->kinds[0].what[n].tree == style.id) object.choice = static_cast<uint16_t>(n);
      const auto grown = world->objectCells().grown(object);
      QVERIFY(grown);
      int64_t volume = 0;
      for (const TreeBox& box : grown->stamp->boxes)
        volume += int64_t{box.x1 - box.x0} * (box.y1 - box.y0) * (box.z1 - box.z0);
      const auto blocks = static_cast<int64_t>(grown->stamp->woodBlocks + grown->stamp->leafBlocks);
      QVERIFY2(volume >= blocks / 2 && volume <= blocks * 6 + 8,
          qPrintable(QString("%1: %2 for %3").arg(style.id.c_str()).arg(volume).arg(blocks)));
    }
  }

  /// Leaves that are seen through show the wood behind them, and let some of the light through.
  void clearLeavesShowWhatIsBehind() {
    Recipe r = forest(WorldKind::Voxel);
    r.objects->kinds.resize(1);
    const auto world = worldOf(r);
    const MaterialIndex wood = 3, leaf = 4;
    QCOMPARE(leavesOf(*world), std::vector<MaterialIndex>{leaf});
    const auto areaOf = [&](const FaceOptions& options, MaterialIndex material) {
      uint64_t area = 0;
      for (int64_t cy = 0; cy < 4; ++cy) {
        const auto meshes = meshChunk(*world, {0, 0, 0, cy}, options).value();
        for (const auto& mesh : meshes)
          for (const Quad& q : mesh->quads)
            if (q.material == material) area += uint64_t{q.width} * q.height;
      }
      return area;
    };
    FaceOptions clear;
    clear.clearLeaves = true;
    QVERIFY(areaOf(clear, wood) > areaOf({}, wood) * 5 / 4);
    QVERIFY(areaOf(clear, leaf) <= areaOf({}, leaf));
    // One leaf before the eye: it has as many holes as its ink says, and none from afar.
    auto block = std::make_shared<BlockMesh>();
    block->width = block->tall = block->depth = 1;
    block->z = -4;
    std::vector<MaterialIndex> cells(27, kOpen);
    cells[13] = leaf;
    buildFaces(BlockClasses(*world, true), cells, {}, *block);
    QCOMPARE(block->quads.size(), size_t{6});
    ViewStyle style = styleFor(*world, true);
    QVERIFY(style.inks[leaf] >> 24 < 0xFF && style.inks[wood] >> 24 == 0xFF);
    style.outlines = false;
    const auto shareOf = [&](int64_t away) {
      Eye eye;
      eye.x = eye.y = 0.5;
      eye.z = static_cast<double>(away);
      eye.field = 30;
      ViewPicture whole, holed;
      whole.width = holed.width = whole.height = holed.height = 400;
      drawScene({{block, 0}}, eye, style, holed);
      ViewStyle dense = style;
      dense.inks[leaf] |= 0xFF000000u;
      drawScene({{block, 0}}, eye, dense, whole);
      size_t all = 0, through = 0;
      ViewPicture none = whole;
      drawScene({}, eye, style, none);
      for (size_t n = 0; n < whole.argb.size(); ++n) {
        all += whole.argb[n] != none.argb[n];
        through += whole.argb[n] != none.argb[n] && holed.argb[n] == none.argb[n];
      }
      return static_cast<double>(through) / static_cast<double>(all);
    };
    // The sky is seen where there are holes in both faces that lie over each other.
    const double hole = 1 - (style.inks[leaf] >> 24) / 255.0;
    const double sky = shareOf(2);
    QVERIFY2(sky > hole * hole / 2 && sky < hole * hole * 2, qPrintable(QString::number(sky)));
    QCOMPARE(shareOf(150), 0.0);
    // Exported: OBJ and glTF say that they are clear.
    QTemporaryDir dir;
    const auto file = [&](const char* name) { return dir.filePath(name).toStdString(); };
    const auto read = [&](const char* name) {
      QFile in(dir.filePath(name));
      return in.open(QIODevice::ReadOnly) ? in.readAll() : QByteArray();
    };
    std::optional<ChunkPos> leafy;
    for (int64_t cy = 0; cy < 4 && !leafy; ++cy) {
      const Solid solid = facesOfChunk(*world, {0, 0, 0, cy}, true).value();
      for (const Solid::Part& part : solid.parts)
        if (part.material == leaf && part.clear) leafy = ChunkPos{0, 0, 0, cy};
    }
    QVERIFY(leafy);
    for (const bool on : {false, true}) {
      const Solid solid = facesOfChunk(*world, *leafy, on).value();
      QVERIFY(writeSolid(*world, solid, file("a.obj")).ok());
      QVERIFY(writeSolid(*world, solid, file("a.glb")).ok());
      QCOMPARE(read("a.mtl").contains("\nd 0."), on);
      QCOMPARE(read("a.glb").contains("\"alphaMode\":\"BLEND\""), on);
    }
  }

  void theSecondEvaluatorGrowsTheSame() {
    for (const TreeStyle& style : treeStyles())
      for (uint64_t variant = 0; variant < 3; ++variant) {
        const TreeSkeleton ours = treeOf(style, variant);
        const auto theirs = reference::treeNodes(style, kSeed, variant);
        if (!style.lies) {
          QCOMPARE(ours.nodes.size(), theirs.size());
          for (size_t n = 0; n < theirs.size(); ++n) {
            const TreeNode& node = ours.nodes[n];
            QCOMPARE(node.x, theirs[n].x);
            QCOMPARE(node.y, theirs[n].y);
            QCOMPARE(node.z, theirs[n].z);
            QCOMPARE(node.parent, theirs[n].parent);
            QCOMPARE(node.square, theirs[n].square);
          }
        }
        for (const TreeWind& wind : windsOf(style)) {
          const TreeBlocks blocks(style, treeOf(style, variant, wind));
          const auto expected =
              reference::treeBlocks(style, kSeed, variant, wind.strength, wind.part);
          QCOMPARE(blocks.wood() + blocks.leaves(), expected.size());
          for (const auto& [at, leaf] : expected) {
            const auto [x, y, z] = at;
            QVERIFY2(blocks.at(static_cast<int32_t>(x), static_cast<int32_t>(y),
                         static_cast<int32_t>(z)) ==
                         (leaf ? TreeBlocks::Of::Leaf : TreeBlocks::Of::Wood),
                style.id.c_str());
          }
        }
      }
  }

  /// Wood is of one piece, whatever the style and the wind; no block lies beyond the reach.
  void woodIsOnePiece() {
    int trees = 0;
    for (const TreeStyle& style : treeStyles())
      for (uint64_t variant = 0; variant < static_cast<uint64_t>(suite::sized(30, 200));
           ++variant) {
        const TreeWind wind = TreeWind::of(style, static_cast<float>(variant % 4) / 3);
        const TreeBlocks blocks(
            style, treeOf(style, variant, style.wind.empty() ? TreeWind{} : wind));
        const auto all = blocksOf(blocks);
        QVERIFY2(together(all) == blocks.wood(), style.id.c_str());
        QVERIFY(all.contains({0, 0, 0}));
        const TreeReach reach = reachOf(style);
        for (const auto& [at, leaf] : all)
          QVERIFY2(std::abs(at[0]) <= reach.aside && std::abs(at[2]) <= reach.aside &&
                       at[1] <= reach.up && at[1] >= -reach.down,
              style.id.c_str());
        ++trees;
      }
    QVERIFY(trees >= 300);
  }

  /// Whatever numbers a style has: its wood is of one piece, and no block lies beyond its reach.
  void anyStyleStaysInItsReach() {
    std::mt19937_64 dice(23);
    const auto any = [&](const Range& range) {
      return range.low + (range.high - range.low) * static_cast<double>(dice() >> 40) * 0x1p-24;
    };
    const auto whole = [&](double most) { return static_cast<int32_t>(any({0, most})); };
    for (int n = 0; n < suite::sized(150, 3000); ++n) {
      TreeStyle style;
      style.id = "any";
      style.wood = style.leaf = "wood";
      style.crown = static_cast<CrownShape>(whole(3.99));
      style.height = any(limits::treeHeight);
      style.radius = any(limits::treeRadius);
      style.base = any(limits::treeBase);
      style.vary = any(limits::treeVary);
      style.hollow = any(limits::share);
      style.lobes = whole(limits::treeLobes.high);
      style.tiers = any(limits::treeTiers);
      style.points = whole(n % 25 == 0 ? limits::treePoints.high : 200);
      style.influence = any(limits::treeNear);
      style.kill = any({limits::treeNear.low, style.influence});
      style.segment = any(limits::treeSegment);
      style.leader = whole(1.99) == 1;
      style.up = any(limits::treeUp);
      style.swirl = any(limits::treeUp);
      style.lean = any(limits::treeLean);
      style.twist = any(limits::treeLean);
      style.droop = whole(limits::treeDroop.high);
      style.lies = whole(3.99) == 0;
      style.twig = any(limits::treeWood);
      style.thickest = any({style.twig, limits::treeWood.high});
      style.leaves = static_cast<TreeLeaves>(whole(4.99));
      style.leafWide = any(limits::treeLeaf);
      style.leafTall = any(limits::treeLeaf);
      style.leafFill = any(limits::share);
      style.wind = "patches";
      const auto variant = static_cast<uint64_t>(n);
      const TreeBlocks blocks(
          style, treeOf(style, variant, TreeWind::of(style, static_cast<float>(n % 4) / 3)));
      const auto all = blocksOf(blocks);
      QCOMPARE(together(all), blocks.wood());
      const TreeReach reach = reachOf(style);
      for (const auto& [at, leaf] : all)
        QVERIFY2(std::abs(at[0]) <= reach.aside && std::abs(at[2]) <= reach.aside &&
                     at[1] <= reach.up && at[1] >= -reach.down,
            std::to_string(n).c_str());
    }
  }

  /// Of sixteen variants no two share more than so many of their blocks.
  void variantsDiffer() {
    for (const TreeStyle& style : treeStyles()) {
      if (style.height < 12) continue;
      std::vector<std::map<Place, bool>> all;
      for (uint64_t variant = 0; variant < 16; ++variant)
        all.push_back(blocksOf(TreeBlocks(style, treeOf(style, variant))));
      for (size_t a = 0; a < all.size(); ++a)
        for (size_t b = 0; b < a; ++b) {
          size_t shared = 0;
          for (const auto& [at, leaf] : all[a]) shared += all[b].contains(at);
          const double share = static_cast<double>(shared) /
                               static_cast<double>(std::max(all[a].size(), all[b].size()));
          QVERIFY2(share < 0.75, qPrintable(QStringLiteral("%1 %2 %3: %4")
                                                .arg(QString::fromStdString(style.id))
                                                .arg(a)
                                                .arg(b)
                                                .arg(share)));
        }
    }
  }

  /// Every round only adds branches, and the last of them is the tree.
  void growthEndsAsTheTree() {
    for (const TreeStyle& style : treeStyles()) {
      const uint64_t key = treeKey(kSeed, style.id, 5);
      TreeGrowth growth(style, key);
      size_t nodes = growth.nodes().size();
      int32_t rounds = 0;
      while (growth.grow()) {
        QCOMPARE(growth.rounds(), ++rounds);
        QVERIFY(growth.nodes().size() >= nodes);
        nodes = growth.nodes().size();
      }
      QVERIFY(!growth.grow());
      QCOMPARE(growth.nodes().size(), nodes);
      const TreeSkeleton end = growth.skeleton(), whole = grownTree(style, key);
      QCOMPARE(end.nodes.size(), whole.nodes.size());
      QCOMPARE(end.rounds, rounds);
      for (size_t n = 0; n < end.nodes.size(); ++n) {
        QCOMPARE(end.nodes[n].x, whole.nodes[n].x);
        QCOMPARE(end.nodes[n].square, whole.nodes[n].square);
      }
      if (style.points > 0) QVERIFY(whole.unreached * 10 < style.points);
    }
  }

  /// Blocks of chunks of any size, in any order, far out and without memory: those of the whole.
  void treesCutByChunksAreWhole() {
    for (const int64_t far : {int64_t{0}, int64_t{2'000'000'000}, int64_t{-2'000'000'000}}) {
      const Recipe recipe = forest(WorldKind::Voxel);
      const auto world = worldOf(recipe);
      const Rect all{far - 29, far + 11, 48, 48};
      const AxisBounds range = world->vertical();
      SampleBlock box{all.x, range.min, all.z, 1, 48, static_cast<int32_t>(range.extent), 48};
      std::vector<MaterialIndex> whole(static_cast<size_t>(48 * 48 * range.extent));
      QVERIFY(world->sampleBlocks(box, whole.data()));
      const auto at = [&](Cell cell, int64_t y) {
        return whole[static_cast<size_t>(
            ((y - range.min) * 48 + cell.z - all.z) * 48 + cell.x - all.x)];
      };
      std::map<MaterialIndex, size_t> met;
      for (const MaterialIndex m : whole) ++met[m];
      const auto named = [&](const char* id) {
        for (size_t n = 0; n < recipe.materials.size(); ++n)
          if (recipe.materials[n].id == id) return static_cast<MaterialIndex>(n + 1);
        return kUnassigned;
      };
      QVERIFY(met[named("wood")] > 100 && met[named("leaf")] > 500 && met[named("moss")] > 100);
      std::mt19937 dice(7);
      for (int n = 0; n < 300; ++n) {
        const Cell cell{
            all.x + static_cast<int64_t>(dice() % 48), all.z + static_cast<int64_t>(dice() % 48)};
        const int64_t y = range.min + 30 + static_cast<int64_t>(dice() % 60);
        QCOMPARE(world->blockAt(cell, y).material, at(cell, y));
      }
      for (const int32_t size : {7, 16, 32}) {
        Recipe other = recipe;
        other.frame.chunkSize = size;
        const auto cut = worldOf(other, size == 7 ? 0 : uint64_t{24} << 20);
        const ChunkLayout& layout = cut->layout();
        const int64_t side = size == 7 ? 7 : 48;
        std::vector<ChunkPos> order;
        const ChunkPos first = layout.chunkOf(Cell{all.x, all.z});
        const ChunkPos last = layout.chunkOf(Cell{all.x + side - 1, all.z + side - 1});
        for (int64_t cy = layout.lowestChunk(0); cy <= layout.highestChunk(0); ++cy)
          for (int64_t cz = first.cz; cz <= last.cz; ++cz)
            for (int64_t cx = first.cx; cx <= last.cx; ++cx) order.push_back({cx, cz, 0, cy});
        std::shuffle(order.begin(), order.end(), dice);
        for (const ChunkPos& pos : order) {
          const auto chunk = cut->chunk(pos).value();
          size_t n = 0;
          for (int64_t y = chunk->y; y < chunk->y + chunk->tall; ++y)
            for (int64_t z = 0; z < chunk->length; ++z)
              for (int64_t x = 0; x < chunk->width; ++x, ++n) {
                const Cell cell{chunk->rect.x + x, chunk->rect.z + z};
                if (all.contains(cell)) QCOMPARE(chunk->materials[n], at(cell, y));
              }
        }
      }
    }
  }

  void theSecondEvaluatorAgreesOnForests() {
    for (const WorldKind kind : {WorldKind::Voxel, WorldKind::Overland}) {
      const Recipe recipe = forest(kind);
      const auto world = worldOf(recipe);
      reference::Evaluator evaluator(recipe);
      std::map<std::string, int> met;
      for (int64_t z = 6; z < 22; ++z)
        for (int64_t x = -12; x < 4; ++x) {
          const std::string above = evaluator.evaluate({x, z}).material;
          QCOMPARE(world->catalogue().materialId(world->at({x, z}).material), above);
          ++met[above];
          for (int64_t y = -6; kind == WorldKind::Voxel && y < 40; ++y)
            QCOMPARE(world->catalogue().materialId(world->blockAt({x, z}, y).material),
                evaluator.block({x, z}, y));
        }
      QVERIFY(met["leaf"] > 20);
    }
  }

  /// Blocks wider than what is stamped at a time are what their parts are.
  void wideBlocksAreTheirParts() {
    const auto world = worldOf(forest(WorldKind::Voxel));
    constexpr int32_t kWide = 270, kTall = 6;
    for (const int64_t step : {1, 2}) {
      const SampleBlock all{-40, 6, 3, step, kWide, kTall, 12};
      std::vector<MaterialIndex> whole(size_t{kWide} * kTall * 12);
      QVERIFY(world->sampleBlocks(all, whole.data()));
      for (int32_t i0 = 0; i0 < kWide; i0 += 90) {
        const SampleBlock part{all.x + i0 * step, all.y, all.z, step, 90, kTall, 12};
        std::vector<MaterialIndex> some(size_t{90} * kTall * 12);
        QVERIFY(world->sampleBlocks(part, some.data()));
        for (int32_t n = 0; n < 90 * kTall * 12; ++n)
          QCOMPARE(some[static_cast<size_t>(n)],
              whole[static_cast<size_t>(n / 90 * kWide + i0 + n % 90)]);
      }
    }
  }

  /// Under a crown one stands on the ground, not on the leaves.
  void oneStandsUnderTrees() {
    const auto world = worldOf(forest(WorldKind::Voxel));
    Recipe open = forest(WorldKind::Voxel);
    open.objects->on = false;
    const auto bare = worldOf(open);
    int under = 0;
    for (int64_t n = 0; n < 400; ++n) {
      const Cell cell{n % 20 * 3 - 30, n / 20 * 3 - 30};
      const auto claims = world->objectCells().claims({cell.x, cell.z, 1, 1}).value();
      const auto ground = standAt(*bare, cell).value();
      const bool leafy = !claims.empty() && claims.front().y >= ground + 3 &&
                         claims.front().rank == ObjectTrees::kLeafRank;
      if (!leafy) continue;
      QCOMPARE(standAt(*world, cell).value(), ground);
      ++under;
    }
    QVERIFY2(under > 10, std::to_string(under).c_str());
    // Trees of tiles raise nothing: one stands where one stood.
    open.frame.kind = WorldKind::Overland;
    const auto flat = worldOf(open), wood = worldOf(forest(WorldKind::Overland));
    for (int64_t n = 0; n < 400; ++n) {
      const Cell cell{n % 20 * 3 - 30, n / 20 * 3 - 30};
      QCOMPARE(standAt(*wood, cell), standAt(*flat, cell));
    }
  }

  /// What is asked of a block of a tree: its style, variant, turn and wind.
  void plumbLinesNameTheTree() {
    const auto world = worldOf(forest(WorldKind::Voxel));
    int leaves = 0, wood = 0;
    for (int64_t y = 0; y < 30; y += 3)
      for (int64_t x = -36; x < 36; x += 2) {
        const Plumb plumb = plumbAt(*world, {x, 13}, y).value();
        if (!plumb.part || !plumb.part->grown) continue;
        const PlumbTree& tree = *plumb.part->grown;
        QVERIFY(!plumb.part->tree.empty() && plumb.part->piece.empty());
        QCOMPARE(plumb.material, std::string(tree.leaf ? "leaf" : "wood"));
        QVERIFY(!tree.variant.empty());
        ++(tree.leaf ? leaves : wood);
      }
    QVERIFY2(leaves > 3, std::to_string(leaves).c_str());
    QVERIFY(wood + leaves > 4);
  }

  /// Each check of trees speaks where it should, and not where its mend was applied.
  void checksSpeak() {
    Recipe r = forest(WorldKind::Overland);
    r.objects->kinds.resize(1);
    r.objects->kinds[0].what.clear();
    r.objects->kinds[0].distance = 20;
    r.objects->kinds[0].density = 0.5;
    const auto engine = engineOf();
    const auto said = [&](const Recipe& recipe) {
      std::map<std::string, Check> out;
      const auto world = engine->compile(recipe).value();
      auto checks = runChecks(*engine, *world).value();
      for (Check& check : checks)
        if (check.pointer.starts_with("/objects")) out.emplace(check.id, std::move(check));
      return out;
    };
    const auto of = [&](const char* style, auto&& change) {
      Recipe out = r;
      out.objects->kinds[0].tree = style;
      for (TreeStyle& tree : out.objects->trees)
        if (tree.id == style) change(tree);
      return out;
    };
    const auto nothing = [](TreeStyle&) {};
    QVERIFY(said(of("broad", nothing)).empty());
    const auto speaks = [&](const Recipe& recipe, const char* id, const char* pointer) {
      const auto found = said(recipe);
      if (!found.contains(id)) return false;
      const Check& check = found.at(id);
      if (check.pointer != pointer || whatIs(id).empty()) return false;
      if (!check.apply) return true;
      Recipe mended = recipe;
      check.apply(mended);
      return mended.objects != recipe.objects && bool(validate(mended));
    };
    QVERIFY(speaks(of("mushroom",
                       [](TreeStyle& t) {
                         t.leafWide = t.leafTall = 8;
                         t.leafFill = 0.02;
                       }),
        "floating-leaves", "/objects/trees/7/leafFill"));
    QVERIFY(speaks(of("broad", [](TreeStyle& t) { t.influence = t.kill = 1; }), "unreached-points",
        "/objects/trees/0/influence"));
    QVERIFY(speaks(
        of("mushroom", [](TreeStyle& t) { t.vary = 0; }), "alike-trees", "/objects/trees/7/vary"));
    QVERIFY(speaks(of("broad",
                       [](TreeStyle& t) {
                         t.height = 60;
                         t.vary = 0.5;
                       }),
        "far-trees", "/objects/trees/0/height"));
    Recipe near = of("broad", nothing);
    near.objects->kinds[0].distance = 5;
    QVERIFY(speaks(near, "meeting-crowns", "/objects/kinds/0/distance"));
  }

  void mistakesAreNamed() {
    const auto refused = [&](const char* member, auto&& change) {
      Recipe r = forest(WorldKind::Voxel);
      change(r.objects->trees[0]);
      const Status said = validate(r);
      if (said) return false;
      return said.error().where == std::string("/objects/trees/0/") + member;
    };
    QVERIFY(refused("points", [](TreeStyle& t) { t.points = 1'000'000'000; }));
    QVERIFY(refused("points", [](TreeStyle& t) { t.points = 0; }));
    QVERIFY(refused("kill", [](TreeStyle& t) { t.kill = 0; }));
    QVERIFY(refused("kill", [](TreeStyle& t) { t.kill = 8; }));
    QVERIFY(refused("segment", [](TreeStyle& t) {
      t.radius = 0.5;
      t.segment = 2;
    }));
    QVERIFY(refused("radius", [](TreeStyle& t) { t.radius = 0; }));
    QVERIFY(refused("variants", [](TreeStyle& t) { t.variants = 1000; }));
    QVERIFY(refused("lean", [](TreeStyle& t) { t.lean = 5; }));
    QVERIFY(refused("leaf", [](TreeStyle& t) { t.leaf.clear(); }));
    QVERIFY(refused("wood", [](TreeStyle& t) { t.wood = "stone"; }));
    QVERIFY(refused("wind", [](TreeStyle& t) { t.wind = "nowhere"; }));
    // Shapes that nobody knows; styles that are not there; two things at once.
    Recipe r = forest(WorldKind::Voxel);
    std::string text = recipeToJson(r);
    text.replace(text.find("\"dome\""), 6, "\"pear\"");
    const auto read = recipeFromJson(text);
    QVERIFY(!read && read.error().text().find("pear") != std::string::npos);
    r.objects->kinds[1].tree = "elm";
    QVERIFY(!validate(r));
    r.objects->kinds[1].tree = "bush";
    QVERIFY(!validate(r));
    r.objects->kinds[1].piece.clear();
    QVERIFY(validate(r));
  }
};

ACRE_SUITE(TreeTest)
#include "tree_test.moc"
