// What is drawn, walked on, cut, exported and changed by hand in worlds of blocks; skylines.
#include <zlib.h>

#include <QFile>
#include <QRegularExpression>
#include <QTemporaryDir>
#include <QtTest>
#include <cmath>
#include <cstring>
#include <fstream>
#include <map>
#include <nlohmann/json.hpp>
#include <random>
#include <set>

#include "audit/block_census.h"
#include "audit/plumb.h"
#include "audit/skyline_figures.h"
#include "dry.h"
#include "field/skyline.h"
#include "output/mesh_files.h"
#include "output/picture.h"
#include "output/section.h"
#include "recipe/edits.h"
#include "recipe/walk.h"
#include "strata/blocks.h"
#include "suite.h"
#include "view/walker.h"
#include "world/block_value.h"
#include "world/demos.h"
#include "world/engine.h"
#include "world/fingerprint.h"
#include "world/world.h"

using namespace acre;

namespace {

Recipe edge() {
  return dryDemo("swallet-edge");
}
std::shared_ptr<const World> worldOf(const Recipe& recipe) {
  auto engine = Engine::create({});
  auto world = (*engine)->compile(recipe);
  if (!world) qFatal("%s", world.error().text().c_str());
  return *world;
}
Recipe edited(const Recipe& recipe, const std::vector<Edit>& edits) {
  Recipe out = recipe;
  out.edits = EditSet(recipe.seed).with(edits);
  return out;
}
std::string readAll(const std::string& file) {
  std::ifstream in(file, std::ios::binary);
  return {std::istreambuf_iterator<char>(in), {}};
}

/// Height of a column of a walk alone.
float heightOf(const Skyline& skyline, int64_t x) {
  float out = 0;
  const int32_t q = 0;
  skyline.points({1, {&x, nullptr, &x}, {&q, nullptr, &q}}, &out);
  return out;
}

/// Area of triangles, and how often each edge is passed in each direction.
struct Figure {
  std::vector<std::array<double, 3>> points;
  std::vector<std::array<uint32_t, 3>> triangles;
  double area() const {
    double sum = 0;
    for (const auto& t : triangles) {
      double u[3], v[3];
      for (size_t a = 0; a < 3; ++a) {
        u[a] = points[t[1]][a] - points[t[0]][a];
        v[a] = points[t[2]][a] - points[t[0]][a];
      }
      const double x = u[1] * v[2] - u[2] * v[1], y = u[2] * v[0] - u[0] * v[2],
                   z = u[0] * v[1] - u[1] * v[0];
      sum += std::sqrt(x * x + y * y + z * z) / 2;
    }
    return sum;
  }
  /// Volume enclosed, by the divergence theorem; positive when triangles look outward.
  double volume() const {
    double sum = 0;
    for (const auto& t : triangles) {
      const auto &a = points[t[0]], &b = points[t[1]], &c = points[t[2]];
      sum += a[0] * (b[1] * c[2] - b[2] * c[1]) - a[1] * (b[0] * c[2] - b[2] * c[0]) +
             a[2] * (b[0] * c[1] - b[1] * c[0]);
    }
    return sum / 6;
  }
};

Figure readObj(const std::string& text) {
  Figure out;
  std::istringstream in(text);
  std::string word;
  for (std::string line; std::getline(in, line);) {
    std::istringstream parts(line);
    parts >> word;
    if (word == "v") {
      auto& p = out.points.emplace_back();
      parts >> p[0] >> p[1] >> p[2];
    } else if (word == "f") {
      auto& t = out.triangles.emplace_back();
      for (auto& corner : t) {
        parts >> word;
        corner = static_cast<uint32_t>(std::stoul(word)) - 1;
      }
    }
  }
  return out;
}

Figure readPly(const std::string& text) {
  Figure out;
  std::istringstream in(text);
  size_t vertices = 0, faces = 0;
  for (std::string line; std::getline(in, line) && line != "end_header";) {
    std::istringstream parts(line);
    std::string a, b;
    parts >> a >> b;
    if (a == "element") parts >> (b == "vertex" ? vertices : faces);
  }
  for (size_t i = 0; i < vertices; ++i) {
    auto& p = out.points.emplace_back();
    in >> p[0] >> p[1] >> p[2];
  }
  for (size_t i = 0; i < faces; ++i) {
    int n = 0, r, g, b;
    auto& t = out.triangles.emplace_back();
    in >> n >> t[0] >> t[1] >> t[2] >> r >> g >> b;
    if (n != 3) qFatal("no triangle");
  }
  return out;
}

/// Reads what the writer promises, and holds offsets, bounds and alignment against the bytes.
Figure readGlb(const std::string& bytes) {
  const auto u32 = [&](size_t at) {
    uint32_t v;
    std::memcpy(&v, bytes.data() + at, 4);
    return v;
  };
  if (bytes.substr(0, 4) != "glTF" || u32(4) != 2 || u32(8) != bytes.size()) qFatal("no glb");
  const uint32_t jsonSize = u32(12);
  if (jsonSize % 4 || bytes.substr(16, 4) != "JSON") qFatal("no JSON chunk");
  const auto json = nlohmann::json::parse(bytes.substr(20, jsonSize));
  const size_t bin = 20 + jsonSize + 8;
  if (bytes.substr(bin - 4, 4) != std::string("BIN\0", 4) || u32(bin - 8) % 4)
    qFatal("no BIN chunk");
  const size_t binSize = json["buffers"][0]["byteLength"];
  if (bin + binSize > bytes.size()) qFatal("the buffer is too long");
  const auto viewOf = [&](const nlohmann::json& accessor, size_t each) {
    const auto& view = json["bufferViews"][accessor["bufferView"].get<size_t>()];
    const size_t offset = view["byteOffset"], length = view["byteLength"];
    if (offset % 4 || offset + length > binSize || length != accessor["count"].get<size_t>() * each)
      qFatal("an accessor leaves its view");
    return bin + offset;
  };
  Figure out;
  const auto& mesh = json["meshes"][0];
  const auto translation = json["nodes"][0]["translation"].get<std::array<double, 3>>();
  for (const auto& primitive : mesh["primitives"]) {
    const auto& position = json["accessors"][primitive["attributes"]["POSITION"].get<size_t>()];
    if (out.points.empty()) {
      const size_t at = viewOf(position, 12);
      std::array<double, 3> low{1e9, 1e9, 1e9}, high{-1e9, -1e9, -1e9};
      for (size_t i = 0; i < position["count"]; ++i) {
        float p[3];
        std::memcpy(p, bytes.data() + at + 12 * i, 12);
        auto& point = out.points.emplace_back();
        for (size_t a = 0; a < 3; ++a) {
          low[a] = std::min(low[a], static_cast<double>(p[a]));
          high[a] = std::max(high[a], static_cast<double>(p[a]));
          point[a] = translation[a] + static_cast<double>(p[a]);
        }
      }
      if (position["min"].get<std::array<double, 3>>() != low ||
          position["max"].get<std::array<double, 3>>() != high)
        qFatal("the bounds are others");
      const auto& normal = json["accessors"][primitive["attributes"]["NORMAL"].get<size_t>()];
      if (normal["count"] != position["count"]) qFatal("normals are missing");
      viewOf(normal, 12);
    }
    const auto& index = json["accessors"][primitive["indices"].get<size_t>()];
    const size_t at = viewOf(index, 4);
    for (size_t i = 0; i < index["count"]; i += 3) {
      auto& t = out.triangles.emplace_back();
      for (size_t k = 0; k < 3; ++k) {
        t[k] = u32(at + 4 * (i + k));
        if (t[k] >= out.points.size()) qFatal("an index leaves the points");
      }
    }
  }
  return out;
}

}  // namespace

class GroundTest : public QObject {
  Q_OBJECT

  QTemporaryDir dir_;
  std::string file(const char* name) { return dir_.filePath(name).toStdString(); }

 private slots:
  // ---- skylines --------------------------------------------------------------------------------

  /// Any column alone equals the same column of a run, whatever was asked before; limits hold; the
  /// slope never exceeds what it may, beyond what passing over to the next anchor adds.
  void columnsOfAWalkStandAlone() {
    for (const WalkSource& walk :
        {WalkSource{-34, 58, 1.2, 0.25, true}, WalkSource{0, 20, 0.5, 0.05, true},
            WalkSource{-5, 5, 2, 2, true}, WalkSource{-34, 58, 1.2, 0.25, false}}) {
      const int64_t n = walkSegment(walk);
      const Skyline run(walk, 77, {uint64_t{1} << 24, nullptr});
      float before = heightOf(run, -3 * n - 1);
      double steepest = 0, lowest = 1e9, highest = -1e9;
      for (int64_t x = -3 * n; x < 3 * n; ++x) {
        const float h = heightOf(run, x);
        steepest = std::max(steepest, static_cast<double>(std::abs(h - before)));
        lowest = std::min(lowest, static_cast<double>(h));
        highest = std::max(highest, static_cast<double>(h));
        before = h;
        if (x % 37 == 0) {
          const Skyline alone(walk, 77);
          QCOMPARE(heightOf(alone, x), h);
        }
      }
      // Far apart, as the samples of a world are, they are reckoned one by one.
      std::vector<int64_t> far;
      for (int64_t x = -3 * n; x < 3 * n; x += n / 2 + 7) far.push_back(x * 5);
      std::vector<float> out(far.size());
      Points places;
      places.count = static_cast<int>(far.size());
      places.cell[kX] = far.data();
      const Skyline fresh(walk, 77);
      for (const Skyline* one : {&run, &fresh}) {
        one->points(places, out.data());
        for (size_t i = 0; i < far.size(); ++i) QCOMPARE(out[i], heightOf(run, far[i]));
      }
      const Range range = walkRange(walk);
      QVERIFY(lowest >= range.low && highest <= range.high);
      if (walk.limits) QVERIFY(lowest >= walk.low && highest <= walk.high);
      // Smoothstep passes over (high - low) within half a segment, 1.5 times as fast in its middle.
      QVERIFY(steepest <= walk.slope * 2 + (highest - lowest) * 1.5 / (static_cast<double>(n) / 2));
      QVERIFY(highest - lowest > (walk.high - walk.low) * 0.5);
      for (const int64_t far : {int64_t{2'000'000'000}, -int64_t{2'000'000'000}, kMaxCell - 5})
        QCOMPARE(heightOf(Skyline(walk, 77), far), heightOf(run, far));
    }
  }

  void walksThatNeverForgetAreRefused() {
    Recipe recipe = loadRecipe("lantern-shelf").value();
    std::get<WalkSource>(recipe.heights.layers[0].source).change = 0.004;
    auto engine = Engine::create({});
    const auto world = (*engine)->compile(recipe);
    QVERIFY(!world.ok());
    QVERIFY(world.error().where.starts_with("/heights/layers/0/change"));
    QVERIFY(world.error().text().find("at most 8192") != std::string::npos);
  }

  // ---- by hand ---------------------------------------------------------------------------------

  /// The figures of a walk are those of its columns, over seeds those of their worlds.
  void skylinesAreMeasured() {
    auto engine = std::move(Engine::create({})).value();
    Recipe recipe = loadRecipe("lantern-shelf").value();
    std::string field, id;
    for (FieldRecipe* f : {&recipe.heights})
      for (Layer& l : f->layers)
        if (std::holds_alternative<WalkSource>(l.source)) field = f->id, id = l.id;
    QVERIFY(!id.empty());
    const auto layer = [&]() -> Layer& {
      return *std::find_if(recipe.heights.layers.begin(), recipe.heights.layers.end(),
          [&](const Layer& l) { return l.id == id; });
    };
    for (const bool limits : {true, false}) {
      std::get<WalkSource>(layer().source).limits = limits;
      const auto seeds = skylineOverSeeds(*engine, recipe, field, id, 4);
      QCOMPARE(seeds.size(), size_t{4});
      uint64_t beyond = 0;
      for (size_t n = 0; n < seeds.size(); ++n) {
        Recipe other = recipe;
        other.seed = seeds[n].seed;
        const auto world = engine->compile(other).value();
        const auto own = skylineFigures(*world, other.heights, id);
        QVERIFY(own);
        QCOMPARE(own->heights, seeds[n].heights);
        QCOMPARE(own->atLimits, seeds[n].atLimits);
        beyond += own->beyond;
        QCOMPARE(own->columns, uint64_t{65'536});
        std::vector<float> row(1024);
        const Field& heights = world->heightField();
        QVERIFY(world->columns()
                    .layer(heights, static_cast<size_t>(heights.stepOf(id)), {0, 0, 1, 1024, 1},
                        row.data())
                    .ok());
        QCOMPARE(row, own->heights);
        if (n > 0) QVERIFY(own->heights != seeds[0].heights);
      }
      QCOMPARE(beyond == 0, limits);
    }
    QVERIFY(!skylineFigures(*worldOf(edge()), edge().heights, edge().heights.layers[0].id));
  }

  /// A chunk's smooth surface as a file: one closed body of about the space of its solid blocks.
  void smoothSurfacesReadBack() {
    const auto world = worldOf(edge());
    const ChunkLayout& layout = world->layout();
    ChunkPos pos = layout.chunkOf({100, 100});
    pos.cy = layout.chunkOfLevel(
        static_cast<int64_t>(std::floor(world->columns().heightAt({100, 100}))), 0);
    const auto solid = surfaceOfChunk(*world, pos);
    QVERIFY(solid.ok());
    const std::string file = dir_.filePath("smooth.obj").toStdString();
    QVERIFY(writeSolid(*world, *solid, file).ok());
    const Figure figure = readObj(readAll(file));
    const auto chunk = world->chunk(pos).value();
    double blocks = 0;
    for (const MaterialIndex m : chunk->materials.unpacked())
      blocks += m < kOpen && world->catalogue().material(m)->state == MaterialState::Solid;
    QVERIFY2(std::abs(figure.volume() / blocks - 1) < 0.08,
        qPrintable(QString::number(figure.volume() / blocks)));
  }

  void editsAreValues() {
    const EditSet none("1");
    std::mt19937_64 random(4);
    std::map<std::array<int64_t, 3>, std::string> expected;
    Edits edits;
    for (int n = 0; n < 400; ++n) {
      std::vector<Edit> some;
      for (int k = 0; k < 20; ++k) {
        const auto c = [&] { return static_cast<int64_t>(random() % 90) - 45; };
        Edit e{c(), c(), c(), random() % 5 == 0 ? "" : random() % 2 ? "open" : "limestone"};
        some.push_back(e);
        if (e.material.empty())
          expected.erase({e.x, e.y, e.z});
        else
          expected[{e.x, e.y, e.z}] = e.material;
      }
      const Edits before = edits;
      edits = (edits ? *edits : none).with(some);
      QCOMPARE(edits->size(), expected.size());
      const auto differs = EditSet::difference(before.get(), edits.get());
      Edits replayed = (before ? *before : none).with(differs);
      QVERIFY(sameEdits(replayed, edits));
    }
    for (const Edit& e : edits->all()) {
      QCOMPARE((expected[{e.x, e.y, e.z}]), e.material);
      QCOMPARE(edits->at(e.x, e.y, e.z), e.material);
    }
    size_t inside = 0;
    edits->eachIn({-10, -10, -10, 2, 10, 10, 10}, [&](int64_t x, int64_t y, int64_t z, uint16_t m) {
      QVERIFY(x % 2 == 0 && y % 2 == 0 && z % 2 == 0 && x >= -10 && x <= 8);
      QCOMPARE((expected[{x, y, z}]), edits->materials()[m]);
      ++inside;
    });
    size_t all = 0;
    for (const auto& [at, m] : expected)
      all += std::all_of(
          at.begin(), at.end(), [](int64_t v) { return v % 2 == 0 && v >= -10 && v <= 8; });
    QCOMPARE(inside, all);
  }

  /// Blocks, columns, chunks, sections, plumb lines, maps and the second evaluator's proof show
  /// them; another seed shows none.
  void editsShowEverywhere() {
    const Recipe recipe = edge();
    const auto plain = worldOf(recipe);
    const Cell cell{5, 7};
    const auto top = static_cast<int64_t>(std::floor(plain->columns().heightAt(cell))) - 1;
    const Recipe changed = edited(recipe, {{5, top, 7, "open"}, {5, top - 1, 7, "galena"}});
    const auto world = worldOf(changed);
    QCOMPARE(
        world->catalogue().materialId(world->blockAt(cell, top).material), std::string("open"));
    const auto at = world->blockAt(cell, top - 1);
    QVERIFY(at.edited);
    QCOMPARE(world->catalogue().materialId(at.material), std::string("galena"));
    QCOMPARE(world->catalogue().materialId(at.generated),
        plain->catalogue().materialId(plain->blockAt(cell, top - 1).material));
    QCOMPARE(world->catalogue().materialId(world->at(cell).material), std::string("galena"));
    QCOMPARE(world->at(cell).height, plain->at(cell).height);
    MaterialIndex fromAbove = 0;
    float height = 0;
    QVERIFY(world->sample({5, 7, 1, 1, 1}, &height, &fromAbove).ok());
    QCOMPARE(world->catalogue().materialId(fromAbove), std::string("galena"));
    MaterialIndex column[2];
    QVERIFY(world->sampleColumns(1, &cell, {top - 1, 2, 1}, column).ok());
    QCOMPARE(world->catalogue().materialId(column[0]), std::string("galena"));
    ChunkPos pos = world->layout().chunkOf(cell);
    pos.cy = world->layout().chunkOfLevel(top, 0);
    QVERIFY(chunkHash(*world, **world->chunk(pos)) != chunkHash(*plain, **plain->chunk(pos)));
    pos.cx += 1;
    QCOMPARE(chunkHash(*world, **world->chunk(pos)), chunkHash(*plain, **plain->chunk(pos)));
    const std::string text = plumbText(*plumbAt(*world, cell, top - 1));
    QVERIFY(text.find("edited by hand") != std::string::npos);
    QVERIFY(text.find("generated: limestone") != std::string::npos);
    Recipe other = changed;
    other.seed = "another";
    QVERIFY(!worldOf(other)->edits());
    QCOMPARE(recipeId(changed).hex(), recipeId(recipe).hex());
  }

  void tilesCanBePainted() {
    const Recipe recipe = dryDemo("saltfen-reach");
    const auto world = worldOf(edited(recipe, {{3, 0, -4, "snow"}, {4, 0, -4, "snow"}}));
    const auto plain = worldOf(recipe);
    QCOMPARE(world->catalogue().materialId(world->at({3, -4}).material), std::string("snow"));
    std::vector<MaterialIndex> a(400), b(400);
    QVERIFY(world->sample({-8, -8, 1, 20, 20}, nullptr, a.data()).ok());
    QVERIFY(plain->sample({-8, -8, 1, 20, 20}, nullptr, b.data()).ok());
    int differ = 0;
    for (size_t i = 0; i < a.size(); ++i) differ += a[i] != b[i];
    QCOMPARE(differ, 2);
    QVERIFY(plumbAt(*world, {3, -4})->edited);
    auto engine = Engine::create({});
    QVERIFY(!(*engine)->compile(edited(recipe, {{3, 0, -4, "open"}})).ok());
    QVERIFY(!(*engine)->compile(edited(recipe, {{3, 0, -4, "moon"}})).ok());
  }

  void editsAreKeptInTheSideFile() {
    std::vector<Edit> many;
    std::mt19937_64 random(2);
    for (int i = 0; i < 5000; ++i)
      many.push_back({static_cast<int64_t>(random() % 400) - 2'000'000'000,
          static_cast<int64_t>(random() % 60), static_cast<int64_t>(random() % 400),
          i % 3 ? "open" : "galena"});
    const Recipe recipe = edited(edge(), many);
    const std::string name = file("kept.acre");
    QVERIFY(writeRecipeFile(name, recipe).ok());
    QVERIFY(QFile::exists(QString::fromStdString(file("kept.edits"))));
    const auto back = readRecipeFile(name);
    QVERIFY2(back.ok(), back ? "" : back.error().text().c_str());
    QVERIFY(*back == recipe);
    // Overrides make another recipe, with the same cells.
    const auto over = readRecipeFile(name, {{"/frame/sea", "3"}});
    QVERIFY(over.ok() && sameEdits(over->edits, recipe.edits));
    // The recipe alone, as autosave keeps it, holds the cells itself.
    const auto whole = recipeFromJson(recipeToJson(recipe));
    QVERIFY(whole.ok() && *whole == recipe);
    // Cut in half, of another world, or gone: refused in words, with the file's name.
    const std::string cells = readAll(file("kept.edits"));
    const auto refused = [&](const char* what) {
      const auto again = readRecipeFile(name);
      return !again && again.error().text().find(what) != std::string::npos &&
             again.error().text().find("kept.edits") != std::string::npos;
    };
    std::ofstream(file("kept.edits"), std::ios::binary) << cells.substr(0, cells.size() / 2);
    QVERIFY(refused("not the cells that the recipe was saved with"));
    QFile::remove(QString::fromStdString(file("kept.edits")));
    QVERIFY(refused("cannot be read"));
    Recipe foreign = recipe;
    foreign.frame.seaLevel = 9;
    QVERIFY(writeRecipeFile(file("other.acre"), foreign).ok());
    const std::string strange = readAll(file("other.edits"));
    std::ofstream(file("kept.edits"), std::ios::binary) << strange;
    QString text = QString::fromStdString(readAll(name));
    const QString hash = QString::fromStdString(DigestWriter().text(strange).finish().hex());
    text.replace(QRegularExpression(QStringLiteral("\"hash\": \"[0-9a-f]+\"")),
        QStringLiteral("\"hash\": \"%1\"").arg(hash));
    std::ofstream(name) << text.toStdString();
    QVERIFY(refused("another recipe"));
  }

  void aMillionEditsAreHandled() {
    std::vector<Edit> many;
    for (int64_t x = 0; x < 100; ++x)
      for (int64_t z = 0; z < 100; ++z)
        for (int64_t y = -50; y < 50; ++y)
          many.push_back({x, y, z, (x + y + z) % 2 ? "open" : "shale"});
    const Recipe recipe = edited(edge(), many);
    QCOMPARE(recipe.edits->size(), size_t{1'000'000});
    const auto world = worldOf(recipe);
    QCOMPARE(
        world->catalogue().materialId(world->blockAt({50, 50}, 1).material), std::string("open"));
    QVERIFY(world->chunk({1, 1, 0, 0}).ok());
    const Edits more = recipe.edits->with({{0, 0, 0, ""}});
    QCOMPARE(more->size(), size_t{999'999});
  }

  // ---- cuts, census, plumb ---------------------------------------------------------------------

  void sectionsShowTheBlocks() {
    for (const char* name : {"swallet-edge", "lantern-shelf", "saltfen-reach"}) {
      const auto world = worldOf(dryDemo(name));
      const bool plane = world->layout().vertical().plane;
      SectionRequest request;
      request.from = {-120, plane ? 0 : 33};
      request.to = {90, plane ? 0 : -71};
      if (!world->blocks()) request.to = {1300, 71};  // As far as the deep sea.
      request.low = -60;
      request.high = 80;
      request.width = 500;
      request.height = 280;
      const Section cut = sampleSection(*world, request).value();
      QCOMPARE(cut.levels.count, 140);
      for (int n = 0; n < 300; ++n) {
        const auto c = static_cast<int32_t>(static_cast<size_t>(n) * 7919 % cut.cells.size());
        const int32_t l = n * 31 % cut.levels.count;
        QCOMPARE(cut.at(c, l),
            world->blockAt(cut.cells[static_cast<size_t>(c)], cut.levels.first + l).material);
      }
      SectionStyle bare;
      bare.surface = bare.sea = bare.chunks = bare.depths = bare.patterns = false;
      const auto pixels = paintSection(*world, cut, bare);
      bare.depths = bare.patterns = true;
      const auto drawn = paintSection(*world, cut, bare);
      const BlockClasses classes(*world);
      const auto inks = styleFor(*world).inks;
      const auto dark = [](uint32_t p) { return (p >> 16 & 255) + (p >> 8 & 255) + (p & 255); };
      std::map<std::string, int> met;
      for (int32_t row = 0; row < 280; ++row)
        for (int32_t x = 0; x < 500; ++x) {
          const int32_t column = cut.columnOf[static_cast<size_t>(x)], level = cut.levelAt(row);
          const MaterialIndex m = cut.at(column, level);
          const uint32_t plain = pixels[static_cast<size_t>(row * 500 + x)];
          const uint32_t ink = drawn[static_cast<size_t>(row * 500 + x)];
          if (m >= kOpen) {  // Open space is paper and nothing else.
            QCOMPARE(plain, kPaperColour);
            QCOMPARE(ink, kPaperColour);
            ++met["open"];
            continue;
          }
          const int64_t y = cut.levels.first + level;
          const bool wet = classes.of(m) == BlockClass::Liquid;
          // Under the water of a world of columns there is ground, whatever its column is called.
          const bool bed =
              wet && !world->blocks() &&
              static_cast<float>(y + 1) <= world->at(cut.cells[static_cast<size_t>(column)]).height;
          QCOMPARE(isBed(cut, classes, column, level), bed);
          ++met[bed ? "bed" : wet ? "water" : "solid"];
          if (bed)
            QVERIFY(dark(plain) <= dark(kPlainGround) && plain != inks[m]);
          else if (wet)
            QCOMPARE(plain, inks[m]);
          else
            QVERIFY(dark(plain) <= dark(inks[m]));
          if (!wet) ++met[ink == inks[m] ? "bare" : "inked"];
          // Deeper water is not lighter.
          if (wet && !bed && row + 1 < 280 && cut.levelAt(row + 1) != level) {
            const MaterialIndex under = cut.at(column, cut.levelAt(row + 1));
            if (under == m && !isBed(cut, classes, column, cut.levelAt(row + 1)))
              QVERIFY(dark(drawn[static_cast<size_t>((row + 1) * 500 + x)]) <= dark(ink));
          }
        }
      QVERIFY(met["solid"] > 1000 && met["open"] > 1000);
      QVERIFY(met["inked"] > 0 && met["inked"] < met["bare"]);
      QCOMPARE(met["bed"] > 0, std::string(name) == "saltfen-reach");
      QVERIFY2(met["water"] > 0 || std::string(name) == "swallet-edge", name);
    }
    // Ground as white as the paper has a pattern even in bare colours, by night too.
    const auto shelf = worldOf(dryDemo("lantern-shelf"));
    SectionRequest chalk;
    chalk.from = {-120, 0};
    chalk.to = {90, 0};
    chalk.low = -60;
    chalk.high = 80;
    chalk.width = 420;
    chalk.height = 280;
    const Section white = sampleSection(*shelf, chalk).value();
    SectionStyle bare;
    bare.surface = bare.sea = bare.chunks = bare.depths = bare.patterns = false;
    const auto pixels = paintSection(*shelf, white, bare);
    int plain = 0, inked = 0;
    for (int32_t row = 0; row < 280; ++row)
      for (int32_t x = 0; x < 420; ++x) {
        const MaterialIndex m =
            white.at(white.columnOf[static_cast<size_t>(x)], white.levelAt(row));
        if (m >= kOpen || shelf->catalogue().materialId(m) != "chalk") continue;
        ++(pixels[static_cast<size_t>(row * 420 + x)] == styleFor(*shelf).inks[m] ? plain : inked);
      }
    QVERIFY(inked > 200 && plain > inked);
    const auto world = worldOf(edge());
    SectionRequest bad;
    QVERIFY(!sampleSection(*world, bad).ok());  // Both ends are one cell.
    bad.to = {1, 0};
    bad.low = 10;
    bad.high = 9;
    QVERIFY(!sampleSection(*world, bad).ok());
  }

  void theCensusCountsBlocks() {
    Recipe recipe = edge();
    const auto world = worldOf(recipe);
    const BlockCensus census = censusOfBlocks(*world, {-40, 20, 90, 70}).value();
    QCOMPARE(census.blocks, uint64_t{90} * 70 * 224);
    std::map<MaterialIndex, uint64_t> counted;
    uint64_t steps = 0;
    std::vector<MaterialIndex> blocks(90 * 70 * 224);
    QVERIFY(world->sampleBlocks({-40, -96, 20, 1, 90, 224, 70}, blocks.data()).ok());
    for (const MaterialIndex m : blocks) ++counted[m];
    QVERIFY(counted == census.volumes);
    std::map<MaterialIndex, uint64_t> sliced;
    for (const DepthSlice& s : census.slices)
      for (const auto& [m, n] : s.blocks) sliced[m] += n;
    QVERIFY(sliced == counted);
    const auto topOf = [&](int64_t x, int64_t z) {
      for (int64_t y = 127; y >= -96; --y)
        if (const MaterialIndex m = world->blockAt({x, z}, y).material;
            m < kOpen && m != world->blocks()->water())
          return y;
      return int64_t{-97};
    };
    const BlockCensus small = censusOfBlocks(*world, {-10, 30, 12, 9}).value();
    for (int64_t z = 30; z < 39; ++z)
      for (int64_t x = -10; x < 2; ++x) {
        steps += std::abs(topOf(x, z) - topOf(x + 1, z)) > 1;
        steps += std::abs(topOf(x, z) - topOf(x, z + 1)) > 1;
      }
    QCOMPARE(small.steps, steps);
    QVERIFY(!censusOfBlocks(*worldOf(dryDemo("saltfen-reach")), {0, 0, 9, 9}).ok());
    QVERIFY(!censusOfBlocks(*world, {0, 0, 1 << 20, 1 << 20}).ok());
  }

  /// Ores of one material are told apart, and neither is counted for the other.
  void oresOfOneMaterialAreCountedEach() {
    Recipe recipe = edge();
    QVERIFY(recipe.ores.size() >= 2);
    recipe.ores[1].material = recipe.ores[0].material;
    const auto world = worldOf(recipe);
    const Rect area{-30, 10, suite::sized(30, 60), suite::sized(25, 50)};
    const BlockCensus census = censusOfBlocks(*world, area).value();
    std::map<int, uint64_t> found;
    uint64_t both = 0;
    for (int64_t z = area.z; z < area.z + area.length; ++z)
      for (int64_t x = area.x; x < area.x + area.width; ++x)
        for (int64_t y = -96; y < 128; ++y) {
          const BlockValue block = world->blockAt({x, z}, y);
          if (world->catalogue().materialId(block.material) != recipe.ores[0].material) continue;
          ++found[block.ore];
          ++both;
        }
    QVERIFY(found[0] > 0 && found[1] > 0);
    QCOMPARE(census.ores[0].found, found[0]);
    QCOMPARE(census.ores[1].found, found[1]);
    QCOMPARE(census.ores[0].found + census.ores[1].found, both);
    std::stop_source stopped;
    stopped.request_stop();
    QVERIFY(!censusOfBlocks(*world, area, 8, stopped.get_token()).ok());
  }

  void plumbLinesReachDown() {
    const auto world = worldOf(edge());
    std::mt19937_64 random(6);
    std::set<std::string> deciders;
    for (int n = 0; n < 400; ++n) {
      const Cell cell{static_cast<int64_t>(random() % 3000), static_cast<int64_t>(random() % 3000)};
      const int64_t y = static_cast<int64_t>(random() % 224) - 96;
      const Plumb plumb = plumbAt(*world, cell, y).value();
      QVERIFY(plumb.block.has_value());
      QCOMPARE(plumb.material, world->catalogue().materialId(world->blockAt(cell, y).material));
      QCOMPARE(plumb.block->at.density, plumb.block->at.distance + plumb.block->at.pushed);
      QCOMPARE(plumb.block->at.solid, plumb.block->at.density >= 0);
      const auto rows = plumbRows(plumb);
      QCOMPARE(
          std::count_if(rows.begin(), rows.end(), [](const PlumbRow& r) { return r.deciding; }), 1);
      for (const PlumbRow& row : rows)
        if (row.deciding) deciders.insert(row.label);
      QVERIFY(nlohmann::json::parse(plumbJson(plumb))["block"]["y"] == y);
    }
    for (const char* label : {"open", "bed", "ore"}) QVERIFY2(deciders.contains(label), label);
  }

  // ---- files -----------------------------------------------------------------------------------

  void shapesReadBack() {
    const auto world = worldOf(edge());
    const ChunkPos pos{0, 0, 0, 1};
    const Solid solid = facesOfChunk(*world, pos).value();
    const auto meshes = meshChunk(*world, pos).value();
    uint64_t faces = 0;
    for (const auto& m : meshes) faces += m->faces;
    QVERIFY(faces > 500);
    for (const char* ending : {"obj", "ply", "glb"}) {
      const std::string name = file((std::string("shape.") + ending).c_str());
      QVERIFY(writeSolid(*world, solid, name).ok());
      const std::string bytes = readAll(name);
      const Figure shape = *ending == 'o'   ? readObj(bytes)
                           : *ending == 'p' ? readPly(bytes)
                                            : readGlb(bytes);
      QVERIFY(std::abs(shape.area() - static_cast<double>(faces)) < 1e-6);
      for (const auto& p : shape.points) {
        QVERIFY(p[0] >= 0 && p[0] <= 32 && p[2] >= 0 && p[2] <= 32);
        QVERIFY(p[1] >= 32 && p[1] <= 64);
      }
    }
    QVERIFY(readAll(file("shape.mtl")).find("newmtl") != std::string::npos);
    // A single block alone in the air: six outward faces around a volume of one.
    Recipe alone = edge();
    std::vector<Edit> edits = {{3, 120, 3, "galena"}};
    const auto lonely = worldOf(edited(alone, edits));
    QVERIFY(writeSolid(*lonely, *facesOfChunk(*lonely, {0, 0, 0, 3}), file("one.glb")).ok());
    const Figure one = readGlb(readAll(file("one.glb")));
    QCOMPARE(one.triangles.size(), size_t{12});
    QCOMPARE(one.volume(), 1.0);
    QVERIFY(!writeSolid(*world, *facesOfChunk(*world, {0, 0, 0, 3}), file("empty.glb")).ok());
  }

  /// Heights of neighbours: one point more than cells, and those at the rim exactly equal.
  void netsMeetAtTheRim() {
    const auto world = worldOf(dryDemo("saltfen-reach"));
    const Solid west = netOfChunk(*world, {-1, 4}, 2).value();
    const Solid east = netOfChunk(*world, {0, 4}, 2).value();
    QCOMPARE(west.points.size(), size_t{33 * 33});
    for (size_t k = 0; k < 33; ++k) {
      QCOMPARE(west.points[k * 33 + 32][1], east.points[k * 33][1]);
      QCOMPARE(west.origin[0] + 32, east.origin[0]);
      QCOMPARE(west.points[k * 33 + 32][1],
          world->columns().heightAt({0, 128 + static_cast<int64_t>(k)}) * 2.0f);
    }
    QVERIFY(writeSolid(*world, east, file("net.obj")).ok());
    const Figure shape = readObj(readAll(file("net.obj")));
    QCOMPARE(shape.triangles.size(), size_t{32 * 32 * 2});
  }

  void volumesReadBack() {
    const auto world = worldOf(edge());
    const auto chunk = world->chunk({0, 0, 0, 1}).value();
    QVERIFY(writeNrrd(*world, *chunk, file("volume.nrrd")).ok());
    const std::string bytes = readAll(file("volume.nrrd"));
    const size_t end = bytes.find("\n\n");
    QVERIFY(bytes.starts_with("NRRD0004\n") && end != std::string::npos);
    QVERIFY(bytes.find("sizes: 32 32 32") < end);
    QVERIFY(bytes.find(":=limestone") < end);
    std::string body = bytes.substr(end + 2);
    std::vector<uint16_t> values(32 * 32 * 32);
    z_stream z{};
    QVERIFY(inflateInit2(&z, 15 + 16) == Z_OK);
    z.next_in = reinterpret_cast<Bytef*>(body.data());
    z.avail_in = static_cast<uInt>(body.size());
    z.next_out = reinterpret_cast<Bytef*>(values.data());
    z.avail_out = static_cast<uInt>(values.size() * 2);
    QCOMPARE(inflate(&z, Z_FINISH), Z_STREAM_END);
    inflateEnd(&z);
    QVERIFY(values == chunk->materials.unpacked());
  }

  // ---- views and bodies ------------------------------------------------------------------------

  /// The picture is that of rays: at the middle of a pixel lies the block that a ray meets first.
  void picturesShowWhatRaysMeet() {
    const auto world = worldOf(edge());
    Eye eye;
    eye.cellX = 2'000'000'000;
    eye.cellZ = -17;
    const auto ground = standAt(*world, {eye.cellX, eye.cellZ});
    QVERIFY(ground.has_value());
    eye.y = static_cast<double>(*ground) + 6;
    eye.yaw = 40;
    eye.pitch = -35;
    const Scene scene = loadScene(*world, eye, 100).value();
    ViewStyle style = styleFor(*world);
    style.distance = 1e9;  // No fog.
    style.contours = 0;
    style.outlines = false;
    ViewPicture picture;
    picture.width = 320;
    picture.height = 200;
    drawScene(scene, eye, style, picture);
    const auto box = BlockBox::around(world, eye).value();
    const BlockClasses classes(*world);
    const SideLight light = sideLight(style);
    int compared = 0, equal = 0;
    for (int y = 40; y < 200; y += 7)
      for (int x = 3; x < 320; x += 11) {
        const auto hit =
            castRay(eye, rayThrough(eye, x + 0.5, y + 0.5, 320, 200), 24, box, classes);
        if (!hit) continue;
        ++compared;
        const uint32_t ink = style.inks[hit->material];
        const float factor = light.of[static_cast<int>(hit->side)];
        const uint32_t drawn = picture.argb[static_cast<size_t>(y * 320 + x)];
        // Lines at the sides of blocks darken; without them the colour is the material's.
        bool near = true;
        for (const int shift : {16, 8, 0}) {
          const float full = std::min(255.0f, static_cast<float>((ink >> shift) & 255) * factor);
          const auto v = static_cast<float>((drawn >> shift) & 255);
          near = near && v <= full + 1.5f && v >= full * 0.68f - 2;
        }
        equal += near;
      }
    QVERIFY(compared > 200);
    QVERIFY2(
        equal >= compared * 98 / 100, qPrintable(QString("%1 of %2").arg(equal).arg(compared)));
    // Twice the same, and other pixels from another place.
    ViewPicture again = picture;
    drawScene(scene, eye, style, again);
    QVERIFY(again.argb == picture.argb);
    eye.yaw += 30;
    drawScene(scene, eye, style, again);
    QVERIFY(again.argb != picture.argb);
    QVERIFY(std::set<uint32_t>(picture.argb.begin(), picture.argb.end()).size() > 20);
    style.wireframe = true;
    drawScene(scene, eye, style, again);
    QVERIFY(again.argb != picture.argb);
  }

  /// A hundred walks: the body never overlaps what is solid, falls no farther than the ground, and
  /// gets up steps of one block.
  void bodiesStayOutOfTheRock() {
    const auto world = worldOf(edge());
    std::mt19937 random(12);
    const BlockClasses classes(*world);
    int climbed = 0;
    for (int n = 0; n < 40; ++n) {
      Walker walker;
      walker.eye.cellX = static_cast<int64_t>(random() % 4000);
      walker.eye.cellZ = static_cast<int64_t>(random() % 4000);
      walker.eye.yaw = static_cast<double>(random() % 360);
      if (n % 4 == 0) walker.eye.cellX += 2'000'000'000;
      if (!walker.land(*world)) continue;
      auto box = BlockBox::around(world, walker.eye).value();
      const double startedAt = walker.eye.y;
      for (int frame = 0; frame < 240; ++frame) {
        if (!box.centredOn(walker.eye)) box = BlockBox::around(world, walker.eye).value();
        WalkInput input;
        input.forward = 1;
        input.jump = frame % 50 == 49;
        walker.step(1.0 / 60, input, box);
        for (const double dx : {-0.29, 0.29})
          for (const double dz : {-0.29, 0.29})
            for (const double dy : {-kEyeHeight + 0.01, 0.0, kBodyHeight - kEyeHeight - 0.01}) {
              const auto at = [](int64_t c, double v) {
                return c + static_cast<int64_t>(std::floor(v));
              };
              const MaterialIndex m = box.at(at(walker.eye.cellX, walker.eye.x + dx),
                  static_cast<int64_t>(std::floor(walker.eye.y + dy)),
                  at(walker.eye.cellZ, walker.eye.z + dz));
              QVERIFY(classes.of(m) != BlockClass::Solid);
            }
      }
      climbed += walker.eye.y > startedAt + 0.9;
    }
    QVERIFY(climbed > 3);
    // Put into rock it comes out above, where there is room; below the world it comes back to the
    // ground.
    Walker stuck;
    stuck.flying = false;
    stuck.eye.y = -40;
    for (int frame = 0; frame < 2000; ++frame) {
      const auto box = frame % 20 == 0 ? BlockBox::around(world, stuck.eye).value() : BlockBox();
      if (frame % 20 == 0)
        for (int k = 0; k < 20; ++k) stuck.step(1.0 / 30, {}, box);
    }
    QVERIFY(stuck.eye.y > -40);
    const BlockValue there = world->blockAt(
        {stuck.eye.cellX, stuck.eye.cellZ}, static_cast<int64_t>(std::floor(stuck.eye.y)));
    QVERIFY(classes.of(there.material) != BlockClass::Solid);
    Walker lost;
    lost.flying = false;
    lost.eye.y = -300;
    lost.step(1.0 / 60, {}, BlockBox::around(world, lost.eye).value());
    QVERIFY(lost.eye.y > 0);
  }

  /// Cliffs without end are loaded as far as one could see them.
  void cliffsAreLoadedNearTheEye() {
    Recipe recipe = loadRecipe("first-steps").value();
    recipe.heights.layers[2].amplitude = 1e6;
    std::get<NoiseSource>(recipe.heights.layers[2].source).width = 3;
    const auto world = worldOf(recipe);
    Eye eye;
    eye.y = 5;
    const Scene scene = loadScene(*world, eye, 48).value();
    QVERIFY(!scene.empty());
    QVERIFY2(scene.size() < 4000, qPrintable(QString::number(scene.size())));
    for (const ScenePart& part : scene) QVERIFY(std::abs(part.mesh->y) < 1400);
  }

  /// Who stands stays where he stands, and who falls ends at the same height, however long the
  /// frames are.
  void bodiesStandStill() {
    const auto world = worldOf(edge());
    Walker walker;
    QVERIFY(walker.land(*world));
    const Eye stood = walker.eye;
    const auto box = BlockBox::around(world, stood).value();
    for (int frame = 0; frame < 200; ++frame) {
      walker.step(frame % 3 * 0.0007, {}, box);
      QVERIFY(walker.onGround());
      QCOMPARE(walker.eye.y, stood.y);
    }
    for (const double seconds : {0.0009, 0.007, 1.0 / 60, 0.05, 0.1}) {
      walker.eye.y = stood.y + 1.7;
      for (double past = 0; past < 2; past += seconds) walker.step(seconds, {}, box);
      QVERIFY(walker.onGround());
      QCOMPARE(walker.eye.y, stood.y);
    }
  }
};

ACRE_SUITE(GroundTest)
#include "ground_test.moc"
