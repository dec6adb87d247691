// Tiles: cases and drawings as their definition says, alike in any cut, any order and anywhere.
#include <QProcess>
#include <QTemporaryDir>
#include <QtTest>
#include <array>
#include <numeric>
#include <random>
#include <set>

#include "audit/check_kinds.h"
#include "audit/plumb.h"
#include "audit/tile_figures.h"
#include "audit/tile_sets.h"
#include "base/atomic_file.h"
#include "base/data_uri.h"
#include "base/hash.h"
#include "core/object_worlds.h"
#include "noise/kernels.h"
#include "output/tile_art.h"
#include "output/tile_sheet.h"
#include "recipe/edits.h"
#include "recipe/json.h"
#include "recipe/validate.h"
#include "reference/evaluator.h"
#include "reference/tiles.h"
#include "suite.h"
#include "tiling/tile_drawing.h"
#include "world/demos.h"

using namespace acre;

namespace {

constexpr std::array kMethods = {
    TileMethod::Corners, TileMethod::Neighbours, TileMethod::Sides, TileMethod::Plain};
constexpr std::array kTurns = {TileTurns::None, TileTurns::Quarter, TileTurns::Mirrored};

TileSet setNamed(const std::string& id, TileMethod method, TileTurns turns = TileTurns::None) {
  TileSet out;
  out.id = out.name = id;
  out.method = method;
  out.turns = turns;
  return out;
}

/// Sand and turf with a set of every method, some with variants and turns.
Recipe tiled(Recipe r = plain({})) {
  r.materials.push_back({"rock", "Rock", {}, MaterialState::Solid});
  r.materials.push_back({"bare", "Bare", {}, MaterialState::Solid});
  r.bands = {{"low", Threshold{-3, false, {}}, "sand", {}},
      {"middle", Threshold{2, false, {}}, "turf", {}},
      {"high", Threshold{5, false, {}}, "rock", {}}, {"top", {}, "bare", {}}};
  TileSet grass = setNamed("grass", TileMethod::Neighbours, TileTurns::Quarter);
  grass.weights = {3, 1, 2};
  grass.cases = {{46, {1, 1, 1, 5}}, {0, {1}}};
  TileSet stone = setNamed("stone", TileMethod::Corners, TileTurns::Mirrored);
  stone.weights = {1, 1};
  grass.drawn.inside = {90, 120, 60};
  stone.drawn.inside = {150, 150, 156};
  r.tiles->sets = {
      setNamed("flat", TileMethod::Plain), grass, stone, setNamed("fringe", TileMethod::Sides)};
  r.tiles->groups = {{true, "low", "Low", {"sand"}, "flat", TileRim::Same},
      {true, "green", "Green", {"turf"}, "grass", TileRim::Inside},
      {false, "off", "Off", {"bare"}, "grass", TileRim::Inside},
      {true, "hard", "Hard", {"rock"}, "stone", TileRim::Outside},
      {true, "edged", "Edged", {"bare"}, "fringe", TileRim::Same}};
  r.tiles->groups[2].materials = {"none"};
  r.materials.push_back({"none", "None", {}, MaterialState::Solid});
  return r;
}

/// The values of a rectangle, cell by cell, by the second program.
void compareWithReference(const World& world, const Rect& cells,
    const std::function<std::string(Cell)>& material, int every = 1) {
  const auto planes = world.tiles().planes(cells);
  QVERIFY2(planes.ok(), planes.ok() ? "" : planes.error().text().c_str());
  const TileStage& stage = *world.tiles().stage();
  std::set<uint16_t> met;
  int64_t n = 0;
  for (int64_t z = cells.z; z < cells.z + cells.length; ++z)
    for (int64_t x = cells.x; x < cells.x + cells.width; ++x) {
      if (++n % every != 0) continue;
      const auto one = world.tiles().at({x, z});
      for (int g = 0; g < stage.groups(); ++g) {
        const uint16_t told =
            reference::tileValue(world.recipe(), world.tiles().plane(), g, {x, z}, material);
        const uint16_t made = planes->at(g, {x, z});
        if (made != told || one[static_cast<size_t>(g)].value != told)
          QFAIL(qPrintable(QStringLiteral("group %1 at %2, %3: %4, alone %5, reference %6")
                               .arg(g)
                               .arg(x)
                               .arg(z)
                               .arg(made)
                               .arg(one[static_cast<size_t>(g)].value)
                               .arg(told)));
        met.insert(made);
      }
    }
  QVERIFY2(met.size() > 3, "nothing but one tile there");
}

std::string idAt(const World& world, Cell cell) {
  MaterialIndex held = kOutside;
  if (!world.tiles().materials({cell.x, cell.z, 1, 1}, &held)) return "failed";
  return held == kOpen ? "open" : planOf(world).catalogue().materialId(held);
}

/// Every recipe that refuses, with the place.
void refuses(const Recipe& recipe, const char* where, const char* words) {
  const Status told = validate(recipe);
  QVERIFY2(!told, where);
  QCOMPARE(told.error().where, std::string(where));
  QVERIFY2(told.error().text().find(words) != std::string::npos, told.error().text().c_str());
}

}  // namespace

class TileTest : public QObject {
  Q_OBJECT

 private slots:
  /// 47, 16, 16 and 1 cases need 47, 15 or 14, and 16 or 6 drawings.
  void casesAndDrawingsAreCounted() {
    constexpr int kDrawn[4][3] = {{16, 6, 6}, {47, 15, 14}, {16, 6, 6}, {1, 1, 1}};
    constexpr int kCases[4] = {16, 47, 16, 1};
    for (size_t m = 0; m < kMethods.size(); ++m)
      for (size_t t = 0; t < kTurns.size(); ++t) {
        const TileCases cases(kMethods[m], kTurns[t]);
        QCOMPARE(cases.count(), kCases[m]);
        QCOMPARE(cases.drawings(), kDrawn[m][t]);
        for (int n = 0; n < cases.count(); ++n) {
          const uint8_t drawn = cases.maskOf(cases.caseOfDrawing(cases.drawingOf(n)));
          QCOMPARE(TileCases::turned(kMethods[m], drawn, cases.orientationOf(n)), cases.maskOf(n));
        }
      }
    QCOMPARE(TileCases::reduced(2), uint8_t{0});
    QCOMPARE(TileCases::reduced(1 | 2 | 4), uint8_t{7});
    QCOMPARE(TileCases::reduced(1 | 128), uint8_t{1});
    QCOMPARE(TileCases(TileMethod::Neighbours, TileTurns::None).caseOf(255), uint8_t{46});
  }

  /// All 256 neighbourhoods and all 16 corners, on every instruction set, anywhere in a row.
  void everyNeighbourhoodHasItsCase() {
    std::mt19937 draw(5);
    constexpr int kWide = 200;
    std::array<std::vector<uint8_t>, 3> rows;
    for (int round = 0; round < 40; ++round) {
      for (auto& row : rows) {
        row.resize(kWide + 2);
        for (uint8_t& c : row) c = static_cast<uint8_t>(draw() % 4);
      }
      const auto level = static_cast<uint8_t>(1 + draw() % 3);
      std::array<std::vector<uint8_t>, 3> inside = rows;
      const TileRows at{inside[0].data() + 1, inside[1].data() + 1, inside[2].data() + 1};
      const auto in = [&](size_t row, int i) {
        return rows[row][static_cast<size_t>(i + 1)] >= level;
      };
      const TileCases around(TileMethod::Neighbours, TileTurns::None);
      for (const Kernels* kernels : availableKernels()) {
        for (size_t j = 0; j < rows.size(); ++j) {
          kernels->tileInside(rows[j].data(), level, kWide + 2, inside[j].data());
          for (size_t i = 0; i < rows[j].size(); ++i)
            QCOMPARE(int{inside[j][i]}, rows[j][i] >= level ? 1 : 0);
        }
        std::vector<uint8_t> neighbours(kWide), sides(kWide), corners(kWide);
        kernels->tileNeighbours(at, kWide, neighbours.data());
        kernels->tileSides(at, kWide, sides.data());
        kernels->tileCorners(at, kWide, corners.data());
        for (const bool none : {false, true}) {
          std::vector<uint16_t> values(kWide);
          kernels->tileValues(
              none ? corners.data() : neighbours.data(), kWide, none, values.data());
          for (size_t n = 0; n < kWide; ++n) {
            const uint8_t of = none ? corners[n] : neighbours[n];
            QCOMPARE(int{values[n]}, of == 0xFF || (none && of == 0) ? 0 : of + 1);
          }
        }
        for (int i = 0; i < kWide; ++i) {
          const auto n = static_cast<size_t>(i);
          const int mask = in(0, i) | in(0, i + 1) << 1 | in(1, i + 1) << 2 | in(2, i + 1) << 3 |
                           in(2, i) << 4 | in(2, i - 1) << 5 | in(1, i - 1) << 6 |
                           in(0, i - 1) << 7;
          const int four = in(0, i) | in(1, i + 1) << 1 | in(2, i) << 2 | in(1, i - 1) << 3;
          QCOMPARE(
              int{neighbours[n]}, in(1, i) ? int{around.caseOf(static_cast<uint8_t>(mask))} : 0xFF);
          QCOMPARE(int{sides[n]}, in(1, i) ? four : 0xFF);
          QCOMPARE(
              int{corners[n]}, in(1, i) << 3 | in(1, i + 1) << 2 | in(2, i + 1) << 1 | in(2, i));
        }
      }
    }
  }

  /// Of pictures with weights, each is drawn by its share of the hashes, on every instruction set.
  void variantsAreDrawnByWeight() {
    std::mt19937 draw(6);
    for (const std::vector<int32_t>& weights : std::vector<std::vector<int32_t>>{
             {3, 1}, {5, 3, 2}, {0, 7, 0, 1, 0}, std::vector<int32_t>(12, 9)}) {
      Recipe r = plain({});
      TileSet set = setNamed("drawn", TileMethod::Neighbours);
      set.weights = weights;
      r.tiles->sets = {set};
      r.tiles->groups = {{true, "a", "A", {"m0"}, "drawn", TileRim::Same}};
      const auto stage = TileStage::of(r);
      QVERIFY(stage);
      constexpr int32_t kWide = 53, kDeep = 7;
      std::vector<uint8_t> classes((kWide + 2) * (kDeep + 2));
      for (uint8_t& c : classes) c = static_cast<uint8_t>(draw() % 4 != 0);
      const TileWindow window{
          {-2'000'000'000, 1'999'999'999}, kWide, kDeep, classes.data() + kWide + 3, kWide + 2};
      for (const Kernels* kernels : availableKernels()) {
        std::vector<uint16_t> values(kWide * kDeep);
        stage->values(*kernels, 0, window, values.data());
        for (int32_t j = 0; j < kDeep; ++j)
          for (int32_t i = 0; i < kWide; ++i)
            QCOMPARE(values[static_cast<size_t>(j * kWide + i)], stage->at(0, window, i, j).value);
      }
    }
  }

  void classesAreLookedUp() {
    for (const size_t materials : {3u, 63u, 64u, 300u}) {
      Recipe r = plain({});
      for (size_t n = 2; n < materials; ++n)
        r.materials.push_back({"m" + std::to_string(n), "M", {}, MaterialState::Solid});
      r.tiles->sets = {setNamed("flat", TileMethod::Plain)};
      for (size_t g = 0; g < 5; ++g) {
        TileGroup group{true, "g" + std::to_string(g), "G", {}, "flat", TileRim::Same};
        for (size_t n = g; n < materials; n += 7) group.materials.push_back(r.materials[n].id);
        if (!group.materials.empty()) r.tiles->groups.push_back(group);
      }
      const auto stage = TileStage::of(r);
      std::vector<MaterialIndex> row = {kOpen, kOutside, kUnassigned};
      for (size_t n = 0; n < 500; ++n)
        row.push_back(static_cast<MaterialIndex>(n % (materials + 1)));
      for (const Kernels* kernels : availableKernels()) {
        std::vector<uint8_t> classes(row.size());
        stage->classes(*kernels, row.data(), static_cast<int64_t>(row.size()), classes.data());
        for (size_t n = 0; n < row.size(); ++n) {
          const size_t m = row[n] - size_t{1};
          const bool grouped = row[n] != kUnassigned && row[n] < kOpen && m % 7 < 5;
          QCOMPARE(int{classes[n]}, grouped ? static_cast<int>(m % 7 + 1) : 0);
        }
      }
    }
  }

  /// Both programs agree on every group, at home, far away, at the bounds, and on every kind.
  void theSecondProgramAgrees() {
    const auto open = worldOf(tiled());
    for (const Rect& cells : {Rect{-40, -40, 90, 70}, Rect{2'000'000'000, -2'000'000'000, 50, 40},
             Rect{-(int64_t{1} << 60) + 2, 5, 20, 20}})
      compareWithReference(*open, cells, [&](Cell cell) { return idAt(*open, cell); });
    // The materials themselves.
    reference::Evaluator evaluator(open->recipe());
    for (int64_t n = 0; n < 300; ++n) {
      const Cell cell{n * 7 % 90 - 45, n * 13 % 80 - 40};
      QCOMPARE(idAt(*open, cell), evaluator.evaluate(cell).material);
    }
    for (const TileRim rim : {TileRim::Inside, TileRim::Outside, TileRim::Same}) {
      Recipe r = tiled();
      r.frame.x = AxisBounds{-20, 37};
      r.frame.z = AxisBounds{-9, 30};
      for (TileGroup& group : r.tiles->groups) group.rim = rim;
      const auto bounded = worldOf(r);
      compareWithReference(
          *bounded, {-24, -13, 50, 40}, [&](Cell cell) { return idAt(*bounded, cell); });
    }
    Recipe blocks = tiled();
    blocks.frame.kind = WorldKind::Voxel;
    blocks.rock.beds.resize(1);
    blocks.rock.beds[0].id = "bed";
    blocks.rock.beds[0].material = "rock";
    blocks.frame.y = {-30, 60};
    const auto voxel = worldOf(blocks);
    compareWithReference(*voxel, {-20, -20, 40, 40}, [&](Cell cell) { return idAt(*voxel, cell); });
    blocks.frame.kind = WorldKind::Side;
    const auto side = worldOf(blocks);
    // Rows go down: z = -y.
    compareWithReference(*side, {-30, -32, 60, 64}, [&](Cell cell) {
      return planOf(*side).catalogue().materialId(side->blockAt({cell.x, 0}, -cell.z).material);
    });
  }

  /// Chunks of any size, in any order, are cuts of the whole.
  void anyCutIsTheSame() {
    for (const bool bounded : {false, true}) {
      Recipe r = tiled();
      if (bounded) {
        r.frame.x = AxisBounds{-50, 93};
        r.frame.z = AxisBounds{-41, 70};
      }
      const auto world = worldOf(r);
      const Rect all{-64, -64, 128, 128};
      const auto whole = world->tiles().planes(all).value();
      for (const int64_t size : {1, 3, 7, 16, 32, 50, 64}) {
        std::vector<Cell> corners;
        for (int64_t z = -64; z < 64; z += size)
          for (int64_t x = -64; x < 64; x += size) corners.push_back({x, z});
        std::shuffle(corners.begin(), corners.end(), std::mt19937(3));
        if (corners.size() > 600) corners.resize(600);
        for (const Cell from : corners) {
          const Rect cut = intersection({from.x, from.z, size, size}, all);
          const auto part = world->tiles().planes(cut).value();
          for (int g = 0; g < world->tiles().stage()->groups(); ++g)
            for (int64_t z = cut.z; z < cut.z + cut.length; ++z)
              for (int64_t x = cut.x; x < cut.x + cut.width; ++x)
                QCOMPARE(part.at(g, {x, z}), whole.at(g, {x, z}));
        }
      }
    }
  }

  /// A changed cell changes the tiles that look at it, and no others.
  void editsTouchWhatTheyMust() {
    Recipe r = tiled();
    const auto before = worldOf(r);
    const Rect all{-30, -30, 60, 60};
    const auto was = before->tiles().planes(all).value();
    for (const Cell at : {Cell{0, 0}, Cell{-7, 11}, Cell{13, -5}}) {
      const std::string old = idAt(*before, at);
      r.edits = EditSet(r.seed).with({{at.x, 0, at.z, old == "sand" ? "bare" : "sand"}});
      const auto after = worldOf(r);
      const auto now = after->tiles().planes(all).value();
      int changed = 0;
      for (int g = 0; g < after->tiles().stage()->groups(); ++g)
        for (int64_t z = -30; z < 30; ++z)
          for (int64_t x = -30; x < 30; ++x) {
            if (now.at(g, {x, z}) == was.at(g, {x, z})) continue;
            ++changed;
            QVERIFY(std::abs(x - at.x) <= 1 && std::abs(z - at.z) <= 1);
          }
      QVERIFY(changed > 0);
    }
  }

  /// What an object puts on the ground is no hole in it, unless a group names it.
  void objectsLieOverTiles() {
    ObjectKind post = kindOf("post", 30, 3);
    post.piece = "post";
    Recipe r = tiled(plain({post}));
    r.materials.push_back({"wood", "Wood", {0x8B, 0x5A, 0x2B}, MaterialState::Solid});
    ObjectPiece piece;
    piece.id = piece.name = "post";
    piece.layers = {{{"##", "##"}}};
    piece.signs = {{"#", "wood"}};
    r.objects->pieces = {piece};
    QVERIFY2(validate(r), validate(r) ? "" : validate(r).error().text().c_str());
    Recipe empty = r;
    empty.objects->on = false;
    const auto with = worldOf(r), without = worldOf(empty);
    const Rect all{-40, -40, 80, 80};
    std::vector<MaterialIndex> seen(80 * 80);
    std::vector<float> heights(80 * 80);
    QVERIFY(with->sample({-40, -40, 1, 80, 80}, heights.data(), seen.data()));
    QVERIFY(std::count(seen.begin(), seen.end(), MaterialIndex{6}) > 100);
    const auto bare = without->tiles().planes(all).value();
    QCOMPARE(with->tiles().planes(all).value().groups, bare.groups);
    // In the picture they lie over the tiles, in the colour of what they are made of.
    const TileArts arts = TileArts::of(*with).value();
    const RgbaPicture drawn = drawTiles(*with, arts, {-40, -40, 80, 80}, {8}).value();
    for (int32_t n = 0; n < 80 * 80; ++n) {
      const bool post = drawn.at(n % 80 * 8 + 4, n / 80 * 8 + 4) == 0xFF8B5A2B;
      QCOMPARE(post, seen[static_cast<size_t>(n)] == 6);
    }
    r.tiles->groups.push_back({true, "posts", "Posts", {"wood"}, "flat", TileRim::Same});
    const auto planks = worldOf(r)->tiles().planes(all).value();
    int64_t planked = 0;
    for (size_t n = 0; n < seen.size(); ++n) {
      QCOMPARE(planks.groups.back()[n] != 0, seen[n] == 6);
      planked += planks.groups.back()[n] != 0;
    }
    QVERIFY(planked > 100);
  }

  /// Rims of neighbours meet pixel by pixel, in every style and size.
  void drawnSetsMeet() {
    for (const TileEdge style : {TileEdge::Straight, TileEdge::Round, TileEdge::Rough})
      for (const int32_t size : {8, 16, 17, 32})
        for (const bool joined : {false, true}) {
          TileDrawing drawing;
          drawing.style = style;
          drawing.size = size;
          drawing.joined = joined;
          drawing.width = size / 8;
          const auto pixel = [&](const std::vector<uint32_t>& of, int x, int y) {
            return of[static_cast<size_t>(y * size + x)];
          };
          const auto drawn = [&](TileMethod method, int mask, int variant) {
            return drawnTile(drawing, method, static_cast<uint8_t>(mask), variant);
          };
          // Two tiles between six corners, side by side and one over the other.
          for (int six = 0; six < 64; ++six) {
            const auto bit = [&](int n) { return six >> n & 1; };
            const int west = bit(0) << 3 | bit(1) << 2 | bit(4) << 1 | bit(3);
            const int east = bit(1) << 3 | bit(2) << 2 | bit(5) << 1 | bit(4);
            const int north = bit(0) << 3 | bit(1) << 2 | bit(3) << 1 | bit(2);
            const int south = bit(2) << 3 | bit(3) << 2 | bit(5) << 1 | bit(4);
            const auto w = drawn(TileMethod::Corners, west, 0),
                       e = drawn(TileMethod::Corners, east, 1);
            const auto n = drawn(TileMethod::Corners, north, 0),
                       s = drawn(TileMethod::Corners, south, 1);
            for (int k = 0; k < size; ++k) {
              QCOMPARE(pixel(w, size - 1, k), pixel(e, 0, k));
              QCOMPARE(pixel(n, k, size - 1), pixel(s, k, 0));
            }
          }
          // Two cells with all that is about them: rows of four, three of them.
          for (int ten = 0; ten < 1024; ++ten) {
            std::array<std::array<int, 4>, 3> in{};
            int n = 0;
            for (size_t j = 0; j < 3; ++j)
              for (size_t i = 0; i < 4; ++i)
                in[j][i] = j == 1 && (i == 1 || i == 2) ? 1 : ten >> n++ & 1;
            // Along x, and, turned over, along z.
            const auto maskOf = [&](size_t i, bool along) {
              const auto at = [&](int dx, int dz) {
                return along ? in[static_cast<size_t>(1 + dz)]
                                 [static_cast<size_t>(static_cast<int>(i) + dx)]
                             : in[static_cast<size_t>(1 + dx)]
                                 [static_cast<size_t>(static_cast<int>(i) + dz)];
              };
              return at(0, -1) | at(1, -1) << 1 | at(1, 0) << 2 | at(1, 1) << 3 | at(0, 1) << 4 |
                     at(-1, 1) << 5 | at(-1, 0) << 6 | at(-1, -1) << 7;
            };
            for (const bool along : {true, false}) {
              const auto a = drawn(TileMethod::Neighbours,
                  TileCases::reduced(static_cast<uint8_t>(maskOf(1, along))), 0);
              const auto b = drawn(TileMethod::Neighbours,
                  TileCases::reduced(static_cast<uint8_t>(maskOf(2, along))), 0);
              for (int k = 0; k < size; ++k)
                QCOMPARE(along ? pixel(a, size - 1, k) : pixel(a, k, size - 1),
                    along ? pixel(b, 0, k) : pixel(b, k, 0));
            }
          }
        }
  }

  /// A map drawn in parts is the map; turned drawings are those that they stand for.
  void partsOfPicturesAreThePicture() {
    const auto world = worldOf(tiled());
    const TileArts arts = TileArts::of(*world).value();
    const Rect all{-20, -15, 40, 30};
    const TileMapLook look{9};
    const RgbaPicture whole = drawTiles(*world, arts, all, look).value();
    QCOMPARE(whole.width, 360);
    std::set<uint32_t> colours(whole.pixels.begin(), whole.pixels.end());
    QVERIFY(colours.size() > 3);
    for (const Rect& part : {Rect{-20, -15, 7, 30}, Rect{3, 2, 17, 5}, Rect{0, 0, 1, 1}}) {
      const RgbaPicture cut = drawTiles(*world, arts, part, look).value();
      for (int32_t y = 0; y < cut.height; ++y)
        for (int32_t x = 0; x < cut.width; ++x)
          QCOMPARE(cut.at(x, y), whole.at(static_cast<int32_t>((part.x - all.x) * 9) + x,
                                     static_cast<int32_t>((part.z - all.z) * 9) + y));
    }
    // Straight drawings turn into one another.
    for (const TileMethod method :
        {TileMethod::Corners, TileMethod::Neighbours, TileMethod::Sides}) {
      TileSet plainly = setNamed("one", method),
              turning = setNamed("two", method, TileTurns::Mirrored);
      plainly.drawn.style = turning.drawn.style = TileEdge::Straight;
      const TileArt each = tileArtOf(plainly, {}, "").value(),
                    few = tileArtOf(turning, {}, "").value();
      const TileCases cases(method, TileTurns::Mirrored);
      for (int n = 0; n < cases.count(); ++n) {
        const auto shape = [](std::vector<uint32_t> pixels) {
          for (uint32_t& p : pixels) p >>= 24;
          return pixels;
        };
        QCOMPARE(shape(few.laid(cases.drawingOf(n), cases.orientationOf(n))),
            shape(each.pictures[static_cast<size_t>(n)]));
      }
    }
  }

  void mistakesAreNamed() {
    Recipe r = tiled();
    QVERIFY2(validate(r), validate(r) ? "" : validate(r).error().text().c_str());
    const auto with = [&](const std::function<void(Tiling&)>& change) {
      Recipe out = r;
      change(*out.tiles);
      return out;
    };
    refuses(with([](Tiling& t) { t.groups[1].materials = {"sand"}; }),
        "/tiles/groups/1/materials/0", "one of group \"low\" already");
    refuses(with([](Tiling& t) { t.groups[0].set = "lost"; }), "/tiles/groups/0/set", "no set");
    refuses(with([](Tiling& t) { t.groups[0].materials.clear(); }), "/tiles/groups/0/materials",
        "at least one");
    refuses(with([](Tiling& t) {
      t.sets[1].weights = {0, 0};
    }),
        "/tiles/sets/1/weights", "no variant has a weight");
    refuses(with([](Tiling& t) {
      t.sets[1].cases = {{3, {0}}};
    }),
        "/tiles/sets/1/cases/0/weights", "no variant has a weight");
    refuses(with([](Tiling& t) {
      t.sets[2].cases = {{16, {1}}};
    }),
        "/tiles/sets/2/cases/0/case", "0 to 15");
    refuses(with([](Tiling& t) {
      t.sets[1].cases = {{47, {1}}};
    }),
        "/tiles/sets/1/cases/0/case", "0 to 46");
    refuses(with([](Tiling& t) {
      t.sets[2].picture = TilePicture{"a.png", 4, 0, TileAnchor::Centre, {0, 16}};
    }),
        "/tiles/sets/2/picture/order/1", "16 where the set has 12 drawings");
    refuses(with([](Tiling& t) {
      t.sets[3].picture = TilePicture{"a.png", 4, 0, TileAnchor::Centre, {0, 2, 0}};
    }),
        "/tiles/sets/3/picture/order/2", "lies at place 0 already");
    refuses(with([](Tiling& t) {
      const TileGroup one = t.groups[0];
      t.groups.assign(64, one);
      for (size_t n = 0; n < 64; ++n) t.groups[n].id = "g" + std::to_string(n);
    }),
        "/tiles/groups", "32");
  }

  /// What is wrong with files, with the place; all missing ones at once.
  void picturesAreChecked() {
    QTemporaryDir folder;
    const auto path = [&](const char* name) {
      return folder.filePath(QString::fromLatin1(name)).toStdString();
    };
    TileSet set = setNamed("sides", TileMethod::Sides);
    const auto fault = [&](const RgbaPicture& picture, int32_t columns) {
      if (!writeRgba(picture, path("set.png"))) return std::string("not written");
      set.picture = TilePicture{"set.png", columns, 0, TileAnchor::Centre, {}};
      const auto art = tileArtOf(set, folder.path().toStdString(), "/tiles/sets/0");
      return art ? std::string() : art.error().text();
    };
    const auto of = [](int32_t width, int32_t height, uint32_t pixel) {
      return RgbaPicture{width, height,
          std::vector<uint32_t>(static_cast<size_t>(width) * static_cast<size_t>(height), pixel)};
    };
    QCOMPARE(fault(of(32, 32, 0xFF112233), 4), std::string());
    QCOMPARE(fault(of(1, 1, 0xFF112233), 1), std::string());  // One place, and the others empty.
    for (const auto& [text, words] :
        {std::pair(fault(of(33, 32, 0xFF112233), 4), "4 columns do not part 33 pixels"),
            std::pair(fault(of(32, 31, 0xFF112233), 4), "31 pixels high"),
            std::pair(fault(of(3, 8, 0xFF112233), 8), "8 columns do not part 3 pixels"),
            std::pair(fault(of(32, 32, 0), 4), "without a pixel that is not clear")}) {
      QVERIFY2(text.find(words) != std::string::npos, text.c_str());
      QVERIFY2(text.find("/tiles/sets/0/picture") != std::string::npos, text.c_str());
    }
    QCOMPARE(fault(of(64, 64, 0xFF112233), 4), std::string());
    set.picture->cell = 1;  // Tiles sixteen cells wide.
    const auto wide = tileArtOf(set, folder.path().toStdString(), "/tiles/sets/0");
    QVERIFY(!wide);
    QVERIFY2(wide.error().text().find("/picture/cell") != std::string::npos &&
                 wide.error().text().find("at least 2 pixels") != std::string::npos,
        wide.error().text().c_str());
    QFile::resize(QString::fromStdString(path("set.png")), 40);
    QVERIFY(!tileArtOf(set, folder.path().toStdString(), "/tiles/sets/0"));
    Recipe r = tiled();
    r.folder = folder.path().toStdString();
    r.tiles->sets[0].picture = TilePicture{"lost-1.png", 1, 0, TileAnchor::Centre, {}};
    r.tiles->sets[2].picture = TilePicture{"lost-2.png", 4, 0, TileAnchor::Centre, {}};
    const auto arts = TileArts::of(*worldOf(r));
    QVERIFY(!arts);
    QVERIFY(arts.error().text().find("lost-1.png") != std::string::npos);
    QVERIFY(arts.error().text().find("lost-2.png") != std::string::npos);
  }

  /// Drawings laid by a table, larger than their cells, and by name.
  void picturesAreLaid() {
    QTemporaryDir folder;
    // Sixteen tiles of 4 x 4, each of a grey of its own, in two columns.
    RgbaPicture sheet{8, 32, std::vector<uint32_t>(8 * 32)};
    for (int32_t y = 0; y < 32; ++y)
      for (int32_t x = 0; x < 8; ++x)
        sheet.at(x, y) = 0xFF000000u | static_cast<uint32_t>(y / 4 * 2 + x / 4) * 0x0F0F0F;
    QVERIFY(writeRgba(sheet, folder.filePath("set.png").toStdString()));
    TileSet set = setNamed("sides", TileMethod::Sides);
    set.picture = TilePicture{"set.png", 2, 2, TileAnchor::Centre, {}};
    const std::string at = folder.path().toStdString();
    TileArt art = tileArtOf(set, at, "").value();
    QCOMPARE(art.size, 4);
    QCOMPARE(art.cell, 2);
    for (size_t n = 0; n < 16; ++n)
      QCOMPARE(art.pictures[n][5], 0xFF000000u | static_cast<uint32_t>(n) * 0x0F0F0F);
    for (int32_t n = 15; n >= 0; --n) set.picture->order.push_back(n == 3 ? -1 : n);
    art = tileArtOf(set, at, "").value();
    QVERIFY(art.pictures[3].empty());
    QCOMPARE(art.pictures[15][0], 0xFF000000u);
    QCOMPARE(art.pictures[0][0], 0xFF000000u | 15 * 0x0F0F0F);
  }

  /// Every pair that can lie side by side meets in drawn sets; a picture that is shifted by one
  /// pixel is found, and named first.
  void setsAreChecked() {
    for (const TileMethod method : kMethods)
      for (const TileTurns turns : kTurns)
        for (const TileEdge style : {TileEdge::Straight, TileEdge::Round}) {
          TileSet set = setNamed("set", method, turns);
          set.drawn.style = style;
          const TileArt art = tileArtOf(set, {}, "").value();
          const TileSetReport report = reportOn(set, art);
          QVERIFY2(
              report.good(), sentencesOf(report).empty() ? "" : sentencesOf(report)[0].c_str());
          QVERIFY(sentencesOf(report).empty());
        }
    TileSet set = setNamed("set", TileMethod::Neighbours);
    set.drawn.style = TileEdge::Straight;
    const TileArt whole = tileArtOf(set, {}, "").value();
    for (const size_t shifted : {1u, 12u, 23u, 36u, 45u}) {
      TileArt art = whole;
      std::vector<uint32_t>& picture = art.pictures[shifted];
      std::rotate(picture.begin(), picture.end() - 17, picture.end());  // Down and aside by one.
      const TileSetReport report = reportOn(set, art);
      QVERIFY(!report.good());
      QCOMPARE(report.offenders.front().number, static_cast<int>(shifted));
    }
    set.without = {7, 30};
    const TileSetReport report = reportOn(set, tileArtOf(set, {}, "").value());
    QCOMPARE(report.missing, (std::vector<int>{7, 30}));
    // A variant that is shifted by one pixel is as bad, and told.
    TileSet varied = set;
    varied.without.clear();
    varied.weights = {2, 1, 1};
    TileArt several = tileArtOf(varied, {}, "").value();
    QVERIFY(reportOn(varied, several).good());
    std::vector<uint32_t>& second = several.pictures[47 * 2 + 12];
    std::rotate(second.begin(), second.end() - 17, second.end());
    const TileSetReport shifted = reportOn(varied, several);
    QVERIFY(!shifted.good() && shifted.rims.empty());
    QCOMPARE(shifted.variants.size(), size_t{1});
    QCOMPARE(shifted.variants[0].number, 12);
    QCOMPARE(shifted.variants[0].variant, 2);
    TileArt twice = whole;
    twice.pictures[9] = twice.pictures[3];
    const TileSetReport doubled = reportOn(set, twice);
    QCOMPARE(doubled.doubles, (std::vector<std::pair<int, int>>{{3, 9}}));
    QCOMPARE(doubled.odd, (std::vector<std::pair<int, int>>{{9, 3}}));
  }

  /// Which tile is which is told from what it shows: drawn sets, in any order, with noise on them,
  /// and with another colour in the place of nothing.
  void tilesAreRecognised() {
    std::mt19937 draw(7);
    for (const TileMethod method : {TileMethod::Corners, TileMethod::Neighbours, TileMethod::Sides})
      for (const TileEdge style : {TileEdge::Straight, TileEdge::Round, TileEdge::Rough})
        for (const int32_t size : {16, 32})
          for (const int noisy : {0, 3})
            for (const bool opaqueToo : {false, true}) {
              TileSet set = setNamed("set", method);
              set.drawn.style = style;
              set.drawn.size = size;
              TileArt art = tileArtOf(set, {}, "").value();
              std::vector<int> numbers(art.pictures.size());
              std::iota(numbers.begin(), numbers.end(), 0);
              std::shuffle(numbers.begin(), numbers.end(), draw);
              TileArt mixed = art;
              for (size_t n = 0; n < numbers.size(); ++n) {
                mixed.pictures[n] = art.pictures[static_cast<size_t>(numbers[n])];
                for (uint32_t& pixel : mixed.pictures[n]) {
                  if (opaqueToo && pixel == 0) pixel = 0xFF3060C0;
                  if (static_cast<int>(draw() % 100) < noisy)
                    pixel = draw() % 2 ? 0xFF000000u | draw() % 0x1000000
                                       : (opaqueToo ? 0xFF3060C0 : 0);
                }
              }
              const auto guesses = guessed(mixed, method);
              for (size_t n = 0; n < numbers.size(); ++n) {
                QVERIFY(guesses[n].has_value());
                // Which colour is the ground nobody can tell of corners where nothing is clear.
                if (opaqueToo && method == TileMethod::Corners) {
                  QVERIFY(!guesses[n]->sure);
                  continue;
                }
                QVERIFY2(guesses[n]->number == numbers[n],
                    qPrintable(QStringLiteral(
                        "method %1, style %2, size %3, noise %4, opaque %5: %6 as %7")
                                   .arg(int(method))
                                   .arg(int(style))
                                   .arg(size)
                                   .arg(noisy)
                                   .arg(opaqueToo)
                                   .arg(numbers[n])
                                   .arg(guesses[n]->number)));
              }
              if (opaqueToo && method == TileMethod::Corners) continue;
              const auto order = orderOf(guesses, method, TileTurns::None);
              QVERIFY(std::equal(order.begin(), order.end(), numbers.begin()));
            }
  }

  /// Tiles of one case are its variants, as they come.
  void variantsAreRecognised() {
    for (const TileMethod method :
        {TileMethod::Corners, TileMethod::Neighbours, TileMethod::Sides}) {
      TileSet set = setNamed("set", method);
      set.weights = {5, 3, 2};
      const TileArt art = tileArtOf(set, {}, "").value();
      const auto guesses = guessed(art, method, 3);
      for (const auto& guess : guesses) QVERIFY(guess.has_value());
      const auto order = orderOf(guesses, method, TileTurns::None, 3);
      for (size_t n = 0; n < order.size(); ++n) QCOMPARE(order[n], static_cast<int32_t>(n));
      // Of one variant the others are left over.
      const auto single = orderOf(guesses, method, TileTurns::None);
      QCOMPARE(std::count(single.begin(), single.end(), -1),
          static_cast<ptrdiff_t>(order.size() / 3 * 2));
    }
  }

  /// A template painted over and read again is the set.
  void templatesComeBack() {
    QTemporaryDir folder;
    for (const TileMethod method : kMethods)
      for (const TileTurns turns : kTurns) {
        TileSet set = setNamed("set", method, turns);
        set.weights = {2, 1, 1};
        const TileArt art = tileArtOf(set, {}, "").value();
        RgbaPicture sheet = tileSheet(set, art, {8, 1, false, false, false});
        for (uint32_t& pixel : sheet.pixels)
          if (pixel >> 24) pixel ^= 0x00FFFFFF;
        QVERIFY(writeRgba(sheet, folder.filePath("set.png").toStdString()));
        set.picture = TilePicture{"set.png", 8, 0, TileAnchor::Centre, {}};
        const TileArt again = tileArtOf(set, folder.path().toStdString(), "").value();
        QCOMPARE(again.size, art.size);
        for (size_t n = 0; n < art.pictures.size(); ++n) {
          std::vector<uint32_t> inverse = art.pictures[n];
          for (uint32_t& pixel : inverse)
            if (pixel >> 24) pixel ^= 0x00FFFFFF;
          const bool empty =
              std::all_of(inverse.begin(), inverse.end(), [](uint32_t p) { return p == 0; });
          QVERIFY(empty ? again.pictures[n].empty() : again.pictures[n] == inverse);
        }
        if (method != TileMethod::Plain) QVERIFY(reportOn(set, again).rims.empty());
      }
  }

  /// The board of every case has them all, and draws each as the map would.
  void theBoardShowsEveryCase() {
    for (const TileMethod method : kMethods) {
      const TileCases cases(method, TileTurns::Quarter);
      const TileBoard board = TileBoard::ofEveryCase(cases);
      std::set<int> met;
      for (int32_t z = -1; z < board.length; ++z)
        for (int32_t x = -1; x < board.width; ++x)
          if (const int n = board.caseAt(cases, x, z); n >= 0) met.insert(n);
      QCOMPARE(
          static_cast<int>(met.size()) + (method == TileMethod::Corners ? 1 : 0), cases.count());
      TileSet set = setNamed("set", method, TileTurns::Quarter);
      const TileArt art = tileArtOf(set, {}, "").value();
      const RgbaPicture drawn = drawBoard(set, art, board, 16);
      const int shift = method == TileMethod::Corners ? 8 : 0;
      for (int32_t z = 0; z + 1 < board.length; ++z)
        for (int32_t x = 0; x + 1 < board.width; ++x) {
          const int n = board.caseAt(cases, x, z);
          if (n < 0) continue;
          const auto tile = art.laid(cases.drawingOf(n), cases.orientationOf(n));
          for (int k = 0; k < 256; ++k)
            if (tile[static_cast<size_t>(k)] >> 24)
              QCOMPARE(drawn.at(x * 16 + shift + k % 16, z * 16 + shift + k / 16),
                  tile[static_cast<size_t>(k)]);
        }
    }
  }

  /// Counts of an area are those of its tiles; a missing picture is counted, with a place.
  void figuresAreCounted() {
    Recipe r = tiled();
    r.tiles->sets[2].without = {1, 2};
    const auto world = worldOf(r);
    const TileArts arts = TileArts::of(*world).value();
    const Rect area{-60, -70, 130, 140};
    const TileFigures found = tileFigures(*world, &arts, area).value();
    const auto planes = world->tiles().planes(area).value();
    QCOMPARE(found.cells, int64_t{130 * 140});
    for (size_t g = 0; g < found.groups.size(); ++g) {
      const TileGroupFigures& of = found.groups[g];
      QCOMPARE(of.tiles, static_cast<int64_t>(planes.groups[g].size()) -
                             std::count(planes.groups[g].begin(), planes.groups[g].end(), 0));
      int64_t sum = 0, missing = 0;
      for (int n = 0; n < TileCases::kMost; ++n) {
        const auto k = static_cast<size_t>(n);
        sum += of.cases[k];
        if (of.cases[k] > 0) QCOMPARE(int{world->tiles().at(*of.first[k])[g].number}, n);
        const TileCases& cases = world->tiles().stage()->cases(static_cast<int>(g));
        if (of.set == "stone" && n < cases.count() &&
            (cases.drawingOf(n) == 1 || cases.drawingOf(n) == 2))
          missing += of.cases[k];
      }
      QCOMPARE(sum, of.tiles);
      QCOMPARE(of.unmatched, missing);
      QCOMPARE(of.unmatched > 0, of.set == "stone");
    }
    const auto checks = [](const Recipe& of) {
      const auto engine = engineOf();
      std::map<std::string, Check> out;
      const auto world = engine->compile(of).value();
      const std::vector<Check> all = runChecks(*engine, *world).value();
      for (const Check& check : all)
        if (check.stage == StageId::Tiles) out[check.id] = check;
      return out;
    };
    const auto told = checks(r);
    QVERIFY(told.contains("missing-tiles") && told.at("missing-tiles").place);
    const Cell place = *told.at("missing-tiles").place;
    QCOMPARE(TileValue::picture(world->tiles().at(place)[2].value) % 6 == 1 ||
                 TileValue::picture(world->tiles().at(place)[2].value) % 6 == 2,
        true);
    for (const auto& [id, check] : told) QVERIFY2(!whatIs(id).empty(), id.c_str());
    Recipe large = tiled();
    large.tiles->sets[1].drawn.size = 32;
    QVERIFY(checks(large).contains("tile-sizes"));
    Recipe idle = tiled();
    idle.tiles->groups[2].on = true;
    idle.tiles->groups[2].set = "flat";
    QVERIFY(!checks(tiled()).contains("no-tiles"));
    const auto never = checks(idle);
    QVERIFY(never.contains("no-tiles"));  // Though later groups have its ground.
    QCOMPARE(never.at("no-tiles").subject, std::string("off"));
    never.at("no-tiles").apply(idle);
    QVERIFY(!idle.tiles->groups[2].on);
    QVERIFY(!checks(idle).contains("no-tiles"));
    Recipe lost = tiled();
    lost.tiles->groups.erase(lost.tiles->groups.begin());
    QVERIFY(checks(lost).contains("no-group"));
  }

  /// A set painted without anything clear hides what lies beneath; drawn last it is seen.
  void whatIsHiddenIsTold() {
    Recipe r = tiled();
    r.bands = {{"all", {}, "rock", {}}};
    r.tiles->groups = {r.tiles->groups[1], r.tiles->groups[3]};
    r.edits = EditSet(r.seed).with({{4, 0, -9, "turf"}});
    const Rect area{-20, -20, 40, 40};
    const auto told = [&](const Recipe& of) {
      const auto engine = engineOf();
      const auto world = engine->compile(of).value();
      const TileArts arts = TileArts::of(*world).value();
      const auto figures = tileFigures(*world, &arts, area).value();
      std::optional<Check> found;
      const std::vector<Check> all = runChecks(*engine, *world).value();
      for (const Check& check : all)
        if (check.id == "hidden-tiles") found = check;
      return std::pair(figures, found);
    };
    const auto clear = told(r);
    QVERIFY(!clear.second);
    QCOMPARE(clear.first.groups[0].tiles, int64_t{1600});
    // All but the cell itself and those beside it, which the border of what is above leaves seen.
    QCOMPARE(clear.first.groups[0].hidden, int64_t{1600 - 9});
    QTemporaryDir folder;
    RgbaPicture sheet{64, 8, std::vector<uint32_t>(64 * 8, 0xFF404040)};
    QVERIFY(writeRgba(sheet, folder.filePath("set.png").toStdString()));
    r.folder = folder.path().toStdString();
    TileSet& stone = r.tiles->sets[2];
    stone.turns = TileTurns::Mirrored;
    stone.weights = {1};
    stone.picture = TilePicture{"set.png", 8, 0, TileAnchor::Centre, {}};
    const auto covered = told(r);
    QCOMPARE(covered.first.groups[0].hidden, int64_t{1600});
    QVERIFY(covered.second.has_value());
    QCOMPARE(covered.second->subject, std::string("green"));
    covered.second->apply(r);
    QCOMPARE(r.tiles->groups.back().id, std::string("green"));
    QVERIFY(!told(r).second);
  }

  /// A picture within the recipe is as good as one beside it, and is no file.
  void picturesStandWithin() {
    QTemporaryDir folder;
    const std::string file = folder.filePath("set.png").toStdString();
    TileSet set = setNamed("sides", TileMethod::Sides);
    const TileArt drawn = tileArtOf(set, {}, "").value();
    QVERIFY(writeRgba(tileSheet(set, drawn, {8, 1, false, false, false}), file));
    set.picture = TilePicture{"set.png", 8, 0, TileAnchor::Centre, {}};
    const TileArt beside = tileArtOf(set, folder.path().toStdString(), "").value();
    const std::string bytes = readWholeFile(file, 1u << 20).value();
    Recipe r = tiled();
    r.tiles->sets[3].picture = set.picture;
    QCOMPARE(filesOf(r, {}).size(), size_t{1});
    r.tiles->sets[3].picture->file = set.picture->file = dataUri("image/png", bytes);
    QCOMPARE(bytesOfDataUri(set.picture->file).value(), bytes);
    QVERIFY(filesOf(r, {}).empty());
    QVERIFY(tileArtOf(set, "nowhere", "").value().pictures == beside.pictures);
    const Recipe again = recipeFromJson(recipeToJson(r)).value();
    QVERIFY(*again.tiles == *r.tiles);
    QVERIFY(TileArts::of(*worldOf(again)).ok());
    // Cut off, of another kind, or no base64: told, and not read aloud.
    for (const std::string& broken : {set.picture->file.substr(0, 60), set.picture->file + "*",
             std::string("data:image/png,abc"), std::string("data:"),
             dataUri("image/png", bytes.substr(0, bytes.size() / 2))}) {
      set.picture->file = broken;
      const auto none = tileArtOf(set, {}, "/tiles/sets/0");
      QVERIFY2(!none, broken.c_str());
      const std::string text = none.error().text();
      QVERIFY2(text.find("/tiles/sets/0/picture") != std::string::npos, text.c_str());
      QVERIFY2(text.size() < 300, text.c_str());
    }
  }

  /// A cell tells what lies on it, as a plumb line has it.
  void plumbLinesTellTiles() {
    const auto world = worldOf(tiled());
    int drawn = 0;
    for (int64_t n = 0; n < 60; ++n) {
      const Cell cell{n * 3 - 90, n * 5 % 70 - 30};
      const Plumb plumb = plumbAt(*world, cell).value();
      const auto told = world->tiles().at(cell);
      QCOMPARE(plumb.tiles.size(), told.size());
      for (size_t g = 0; g < told.size(); ++g) {
        QCOMPARE(plumb.tiles[g].value, told[g].value);
        if (told[g].value == 0) continue;
        QCOMPARE(plumb.tiles[g].number, int{told[g].number});
        QCOMPARE(plumb.tiles[g].mask.size(),
            static_cast<size_t>(world->tiles().stage()->cases(static_cast<int>(g)).bits()));
        ++drawn;
      }
    }
    QVERIFY(drawn > 60);
  }

  /// What a chunk holds is what the whole has, in worlds of columns, levels and from the side.
  void chunksHoldTiles() {
    const auto compare = [](const World& world, const ChunkPos& pos) {
      const auto chunk = planOf(world).chunk(pos).value();
      const Rect cells = world.tiles().cellsOf(*chunk);
      const auto planes = world.tiles().planes(cells).value();
      QCOMPARE(chunk->tiles.size(), planes.groups.size());
      for (size_t g = 0; g < planes.groups.size(); ++g)
        for (int64_t j = 0; j < cells.length; ++j)
          for (int64_t i = 0; i < cells.width; ++i) {
            const int64_t row = chunk->tall > 0 ? cells.length - 1 - j : j;
            QCOMPARE(chunk->tiles[g][static_cast<size_t>(row * cells.width + i)],
                planes.groups[g][static_cast<size_t>(j * cells.width + i)]);
          }
    };
    Recipe r = tiled(plain({kindOf("post", 30, 3)}));
    const auto open = worldOf(r);
    for (const ChunkPos pos : {ChunkPos{0, 0}, ChunkPos{-3, 2}, ChunkPos{62'500'000, -9}})
      compare(*open, pos);
    r.frame.x = AxisBounds{-20, 57};
    r.frame.z = AxisBounds{-9, 30};
    const auto bounded = worldOf(r);
    for (const ChunkPos pos : {ChunkPos{-1, -1}, ChunkPos{1, 0}}) compare(*bounded, pos);
    r.frame.x.reset();
    r.frame.z.reset();
    r.objects->on = false;
    r.frame.kind = WorldKind::Side;
    r.rock.beds.resize(1);
    r.rock.beds[0].id = "bed";
    r.rock.beds[0].material = "rock";
    r.frame.y = {-30, 60};
    const auto side = worldOf(r);
    for (const ChunkPos pos : {ChunkPos{0, 0, 0, 0}, ChunkPos{4, 0, 0, -1}}) compare(*side, pos);
    const auto kiln = worldOf(loadRecipe("underkiln").value());
    compare(*kiln, {0, 0});
    QVERIFY(planOf(*kiln).chunk({0, 0}).value()->tiles.size() > 3);
  }

  /// Programs in other languages that read our files draw the pixels of the map.
  void examplesDrawTheMap() {
    QTemporaryDir folder;
    const auto run = [&](const QString& program, const QStringList& said) {
      QProcess process;
      process.setWorkingDirectory(folder.path());
      process.start(program, said);
      process.waitForFinished(120'000);
      return process.exitStatus() == QProcess::NormalExit ? process.exitCode() : -1;
    };
    // Sets with turns, mirrors and variants, between corners and in cells, without objects.
    Recipe r = tiled();
    QVERIFY(writeRecipeFile(folder.filePath("world.acre").toStdString(), r));
    const QString acre = QStringLiteral(ACRE_COMMAND);
    QCOMPARE(run(acre, {"chunk", "world.acre", "--at", "0,0", "--out", "cells.csv"}), 0);
    QStringList python = {
        QStringLiteral(ACRE_SOURCE_DIR "/docs/examples/tiles.py"), "cells.csv", "py.png"};
    QStringList plainly = {"cells.csv", "cpp.ppm", "16"};
    for (const auto& [group, set, between] : {std::tuple("low", "flat", false),
             {"green", "grass", false}, {"hard", "stone", true}, {"edged", "fringe", false}}) {
      const QString name = QString::fromLatin1(set);
      QVERIFY(run(acre, {"tiles", "world.acre", name, "--out", name + ".png"}) >= 0);
      const RgbaPicture sheet =
          readRgba(folder.filePath(name + ".png").toStdString(), 1u << 24, 4096, "").value();
      QFile raw(folder.filePath(name + ".rgba"));
      QVERIFY(raw.open(QIODevice::WriteOnly));
      for (const uint32_t pixel : sheet.pixels)
        for (const int shift : {16, 8, 0, 24}) raw.putChar(static_cast<char>(pixel >> shift));
      const QString mark = between ? "+" : "";
      python << QString::fromLatin1(group) + "=" + name + ".png" + mark;
      plainly << QString::fromLatin1(group) + "=" + name + ".rgba" + mark;
    }
    QCOMPARE(run("python3", python), 0);
    QCOMPARE(run(QStringLiteral(ACRE_TILES_EXAMPLE), plainly), 0);
    QCOMPARE(run(acre, {"map", "world.acre", "--show", "tiles", "--centre", "16,16", "--size",
                           "32x32", "--out", "map.png"}),
        0);
    const auto picture = [&](const char* name) {
      return readRgba(folder.filePath(QString::fromLatin1(name)).toStdString(), 1u << 24, 4096, "")
          .value();
    };
    const RgbaPicture map = picture("map.png"), first = picture("py.png");
    QFile plain(folder.filePath("cpp.ppm"));
    QVERIFY(plain.open(QIODevice::ReadOnly));
    const QByteArray second = plain.readAll();
    const QByteArray head = "P6\n512 512\n255\n";
    QVERIFY(second.startsWith(head));
    QCOMPARE(second.size(), head.size() + 512 * 512 * 3);
    QCOMPARE(map.width, 512);
    QCOMPARE(first.width, 512);
    std::set<uint32_t> colours;
    // The first half tile is covered by the neighbours' tiles.
    for (int y = 8; y < 512; ++y)
      for (int x = 8; x < 512; ++x) {
        const qsizetype at = head.size() + 3 * (y * 512 + x);
        const auto channel = [&](int c) { return static_cast<uint8_t>(second[at + c]); };
        QCOMPARE(first.at(x, y), map.at(x, y));
        QCOMPARE(0xFF000000u | uint32_t{channel(0)} << 16 | uint32_t{channel(1)} << 8 | channel(2),
            map.at(x, y));
        colours.insert(map.at(x, y));
      }
    QVERIFY(colours.size() > 4);
  }
};

ACRE_SUITE(TileTest)
#include "tile_test.moc"
