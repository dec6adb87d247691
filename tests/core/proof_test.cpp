// The proof holds for worlds as they are, and breaks when something is wrong with them: faults are
// stood in front of a world here, never in the product.
#include <QtTest>
#include <atomic>
#include <nlohmann/json.hpp>

#include "audit/proof.h"
#include "core/biome_recipes.h"
#include "dry.h"
#include "output/png.h"
#include "recipe/object_recipe.h"
#include "recipe/stages.h"
#include "reference/prover.h"
#include "suite.h"
#include "world/demos.h"
#include "world/engine.h"
#include "world/fingerprint.h"
#include "world/world.h"

using namespace acre;

namespace {

/// Chunks of a world, with their heights changed on the way.
class Faulty final : public ChunkSource {
 public:
  using Change = std::function<void(Chunk&)>;
  Faulty(std::shared_ptr<const World> world, Change change)
      : world_(std::move(world)), change_(std::move(change)) {}
  const ChunkLayout& layout() const override { return world_->layout(); }
  const Rect& bounds() const override { return world_->bounds(); }
  uint64_t largestChunkBytes() const override { return world_->largestChunkBytes(); }
  uint64_t workBytes() const override { return world_->workBytes(); }

 private:
  Result<std::shared_ptr<const Chunk>> makeChunk(
      ChunkPos pos, const std::stop_token& stop, StageTimes* times) const override {
    const auto made = world_->chunk(pos, stop, times);
    if (!made) return made.error();
    auto changed = std::make_shared<Chunk>(**made);
    change_(*changed);
    return std::shared_ptr<const Chunk>(std::move(changed));
  }
  std::shared_ptr<const World> world_;
  Change change_;
};

ProofOptions small(const Recipe& recipe) {
  ProofOptions options;
  options.side = 40;
  options.sampledCells = 30;
  options.threads = {2, 0};
  reference::testify(recipe, options);
  return options;
}

Recipe demo(const char* name) {
  return loadRecipe(name).value();
}

/// Dense trees that keep away from rocks, over the fields.
Recipe dryWithObjects() {
  Recipe r = demo("three-fields");
  ObjectKind rock;
  rock.id = "rock";
  rock.name = "Kind of rock";
  rock.density = 12;
  rock.distance = 6;
  ObjectKind tree = rock;
  tree.id = "tree";
  tree.name = "Kind of tree";
  tree.density = 60;
  tree.distance = 3;
  tree.apart = {{"rock", 4}};
  r.objects->kinds = {rock, tree};
  return r;
}

const ProofStep& stepOf(const Proof& proof, const std::string& id) {
  for (const ProofStep& step : proof.steps)
    if (step.id == id) return step;
  qFatal("no step %s", id.c_str());
}

}  // namespace

class ProofTest : public QObject {
  Q_OBJECT

 private slots:
  void demosHold_data() {
    QTest::addColumn<QString>("name");
    for (const char* name : {"saltfen-reach", "patchwork-parish", "three-fields", "first-steps"})
      QTest::newRow(name) << name;
  }
  void demosHold() {
    QFETCH(QString, name);
    const Recipe recipe = demo(qPrintable(name));
    ProofOptions how = small(recipe);
    // Each area's rivers and objects are found anew for every order, thread count and instruction
    // set.
    const bool one = takesPart(recipe, StageId::Water) && suite::sized(1, 0);
    if (one) how.areas = {{-1000, 380, 24, 24}};
    const Proof proof = prove(recipe, how).value();
    QVERIFY2(proof.holds(), proofText(proof).c_str());
    QCOMPARE(proof.areas.size(), one ? size_t{1} : size_t{3});
    for (const ProofStep& step : proof.steps)
      QVERIFY2(step.compared > 0, step.id.c_str());  // Nothing holds because nothing was looked at.
    if (takesPart(recipe, StageId::Water))
      QCOMPARE(stepOf(proof, "falls").sentence, std::string("Water is held on every side"));
    EngineOptions options;
    auto engine = Engine::create(options).value();
    const auto world = engine->compile(recipe).value();
    QCOMPARE(proof.world, worldFingerprint(*world));
    for (size_t i = 0; i < proof.areas.size(); ++i)
      QCOMPARE(proof.areaHashes[i], areaHash(*world, proof.areas[i]).value());
    QCOMPARE(fingerprints(recipe, small(recipe)).value().world, proof.world);
  }

  void everyInstructionSetIsTried() {
    const Recipe recipe = demo("first-steps");
    const Proof proof = prove(recipe, small(recipe)).value();
    size_t tried = 0;
    for (const ProofStep& step : proof.steps) tried += step.id.starts_with("simd ");
    QCOMPARE(tried, availableKernels().size() - 1);
  }

  void oddChunksAndBoundsHold() {
    Recipe recipe = demo("three-fields");
    recipe.frame.chunkSize = 7;
    recipe.frame.x = AxisBounds{-50, 61};
    recipe.frame.z = AxisBounds{-33, 40};
    const Proof proof = prove(recipe, small(recipe)).value();
    QVERIFY2(proof.holds(), proofText(proof).c_str());
    for (const Rect& area : proof.areas) QCOMPARE(intersection(area, boundsOf(recipe.frame)), area);
  }

  /// Bounds that lie away from the origin along one axis, with no end along the other.
  void worldsAwayFromTheOriginHold() {
    for (const int64_t far : {int64_t{100'000}, -int64_t{7'000'000}, kMaxCell - 6000}) {
      Recipe recipe = demo("first-steps");
      recipe.frame.x = AxisBounds{far, 500};
      const auto proof = prove(recipe, small(recipe));
      QVERIFY2(proof.ok(), proof.ok() ? "" : proof.error().text().c_str());
      QVERIFY2(proof->holds(), proofText(*proof).c_str());
    }
  }

  /// What the second evaluator once knew nothing of: the published noise, shares, sums that are
  /// measured within bounds, pictures.
  void theSecondEvaluatorKnowsIt_data() {
    QTest::addColumn<QString>("name");
    QTest::addColumn<QStringList>("sets");
    const auto row = [](const char* title, const char* name, const QStringList& sets) {
      QTest::newRow(title) << QString(name) << sets;
    };
    const QString within =
        R"(/frame/bounds={"x":{"min":-150,"extent":700},"z":{"min":-90,"extent":1300}})";
    row("published noise", "first-steps",
        {R"(/heights/layers/1={"id":"p","kind":"gradient-2002","fractal":"fbm","octaves":3,)"
         R"("lacunarity":2,"gain":0.5,"width":23.5,"amplitude":9})"});
    row("sea by share", "first-steps", {R"(/frame/sea={"share":0.37})"});
    row("ends by share", "first-steps",
        {R"(/strata/bands/1/below={"share":0.5})", R"(/strata/bands/0/below={"share":0})",
            R"(/strata/bands/2/below={"share":1})"});
    row("shares within bounds", "first-steps", {within, R"(/frame/sea={"share":0.61})"});
    row("every cell counted", "first-steps",
        {R"(/frame/bounds={"x":{"min":7,"extent":200},"z":{"min":-31,"extent":301}})",
            R"(/frame/sea={"share":0.25})"});
    row("biomes' ends by share", "three-fields",
        {R"(/biomes/list/0/bands=[{"id":"low","material":"fallow","below":{"share":0.4}},)"
         R"({"id":"all","material":"rye"}])",
            R"(/strata/slopes=[{"id":"s","from":0.4,"material":"rye","above":{"share":0.6}}])"});
    row("slices by share", "three-fields",
        {R"(/biomes/slices=[{"id":"low","below":{"share":0.45}},{"id":"up"}])",
            R"(/frame/sea={"share":0.2})"});
    row("equalised ramp", "first-steps",
        {within, R"(/heights/layers/1={"id":"p","kind":"ramp","axis":"x","from":-100,"to":500,)"
                 R"("amplitude":30,"equalise":true})"});
    row("equalised sum with a ramp", "first-steps",
        {within,
            R"(/heights/layers/1={"id":"p","kind":"ramp","axis":"z","from":0,"to":900,)"
            R"("amplitude":30})",
            R"(/heights/layers/2={"id":"q","kind":"equalise","amplitude":40})"});
    row("equalised terraces", "first-steps",
        {R"(/heights/layers/2={"id":"q","kind":"terrace","height":3,"flat":0.4,)"
         R"("equalise":true,"amplitude":40})"});
    row("equalised terraces over a ramp", "first-steps",
        {within,
            R"(/heights/layers/1={"id":"p","kind":"ramp","axis":"z","from":0,"to":900,)"
            R"("amplitude":30})",
            R"(/heights/layers/2={"id":"q","kind":"terrace","height":3,"flat":0.4,)"
            R"("equalise":true,"amplitude":40})"});
    row("equalised after a wide warp", "first-steps",
        {R"(/heights/layers/1={"id":"p","kind":"value","fractal":"single","width":40,)"
         R"("amplitude":9,"equalise":true,"warp":{"kind":"gradient","width":3000,"cells":80}})"});
    for (const char* how : {R"("smooth":true,"outside":"repeat")", R"("smooth":false)",
             R"("outside":"value","outsideValue":0.3)"})
      row(how, "first-steps",
          {QString(R"(/heights/layers/1={"id":"p","kind":"picture","file":"grey.png","x":-7.25,)"
                   R"("z":11,"scale":2.3,"amplitude":20,%1})")
                  .arg(how)});
  }
  void theSecondEvaluatorKnowsIt() {
    QFETCH(QString, name);
    QFETCH(QStringList, sets);
    std::vector<Override> changes;
    for (const QString& set : sets)
      changes.push_back({set.section('=', 0, 0).toStdString(), set.section('=', 1).toStdString()});
    auto read = loadRecipe(name.toStdString(), changes);
    QVERIFY2(read.ok(), read.ok() ? "" : read.error().text().c_str());
    QTemporaryDir dir;
    auto grey =
        PngWriter::create(dir.filePath("grey.png").toStdString(), 23, 17, PngPixels::Grey16, {})
            .value();
    for (int y = 0; y < 17; ++y) {
      std::array<uint16_t, 23> row;
      for (int x = 0; x < 23; ++x)
        row[static_cast<size_t>(x)] = static_cast<uint16_t>(x * 2749 + y * 7919 + x * y * 131);
      QVERIFY(grey.rowGrey(row.data()).ok());
    }
    QVERIFY(grey.finish().ok());
    read->folder = dir.path().toStdString();
    const Proof proof = prove(*read, small(*read)).value();
    QVERIFY2(proof.holds(), proofText(proof).c_str());
  }

  /// A stage that reads the place within the chunk instead of the place in the world.
  void localCoordinatesAreFound() {
    const Recipe recipe = dryDemo("saltfen-reach");
    ProofOptions options = small(recipe);
    options.chunks = [](std::shared_ptr<const World> world) {
      return std::make_shared<Faulty>(std::move(world), [](Chunk& chunk) {
        for (size_t i = 0; i < chunk.heights.size(); ++i)
          if (static_cast<int64_t>(i) % chunk.width == 3) chunk.heights[i] += 0.001f;
      });
    };
    const Proof proof = prove(recipe, options).value();
    QVERIFY(!proof.holds());
    const ProofStep& step = stepOf(proof, "chunks");
    QVERIFY(!step.holds && step.difference);
    const ProofDifference& d = *step.difference;
    QCOMPARE(floorMod(d.cell.x, recipe.frame.chunkSize), int64_t{3});
    QCOMPARE(d.cell.z, proof.areas[0].z);  // The first in the order of rows.
    QVERIFY(d.oneSays != d.otherSays);
    QVERIFY(d.onePlumb.find("height") != std::string::npos && !d.otherPlumb.empty());
    QVERIFY(!stepOf(proof, "rims").holds);
    QVERIFY(!stepOf(proof, "threads 2").holds);
    QVERIFY(stepOf(proof, "points").holds);  // The world itself is sound.
    const std::string text = proofText(proof);
    QVERIFY(text.find("BROKEN") != std::string::npos);
    QVERIFY(text.find("first difference at") != std::string::npos);
    const auto json = nlohmann::json::parse(proofJson(proof));
    QCOMPARE(json["holds"].get<bool>(), false);
    QCOMPARE(json["steps"][0]["difference"]["cell"][0].get<int64_t>(), d.cell.x);
  }

  /// A counter where a hash should be: every chunk differs from the last time it was made.
  void aCounterInPlaceOfAHashIsFound() {
    const Recipe recipe = demo("first-steps");
    ProofOptions options = small(recipe);
    const auto counter = std::make_shared<std::atomic<uint32_t>>(0);
    options.chunks = [counter](std::shared_ptr<const World> world) {
      return std::make_shared<Faulty>(std::move(world), [counter](Chunk& chunk) {
        chunk.heights[mix64(++*counter) % chunk.heights.size()] += 1;
      });
    };
    const Proof proof = prove(recipe, options).value();
    QVERIFY(!stepOf(proof, "chunks").holds);
    QVERIFY(!stepOf(proof, "order").holds);
  }

  /// Right in order, wrong in any other: the last chunk made leaks into the next.
  void whatDependsOnTheOrderIsFound() {
    const Recipe recipe = demo("first-steps");
    ProofOptions options = small(recipe);
    options.threads = {};
    options.chunks = [](std::shared_ptr<const World> world) {
      const auto last = std::make_shared<ChunkPos>(ChunkPos{INT64_MIN, 0});
      return std::make_shared<Faulty>(std::move(world), [last](Chunk& chunk) {
        const bool onward = std::pair(chunk.pos.cz, chunk.pos.cx) >= std::pair(last->cz, last->cx);
        if (!onward && last->cz == chunk.pos.cz) chunk.heights[0] += 1;
        *last = chunk.pos;
      });
    };
    const Proof proof = prove(recipe, options).value();
    QVERIFY(stepOf(proof, "chunks").holds);
    QVERIFY(!stepOf(proof, "order").holds);
  }

  void aSecondEvaluatorThatDisagreesIsFound() {
    const Recipe recipe = demo("three-fields");
    ProofOptions options = small(recipe);
    const auto right = options.reference;
    options.reference = [right](Cell cell) {
      EvaluatedCell value = right(cell);
      if (cell.x < -4000) value.material = "unassigned";
      return value;
    };
    const Proof proof = prove(recipe, options).value();
    const ProofStep& step = stepOf(proof, "reference");
    QVERIFY(!step.holds);
    QVERIFY(step.difference->cell.x < -4000);
    QCOMPARE(step.difference->other, std::string("the second evaluator"));
  }

  /// Objects are cut at the borders of chunks, come in any order, and are the second evaluator's.
  void objectsAreProvedToo() {
    const Recipe recipe = dryWithObjects();
    ProofOptions options = small(recipe);
    const Proof proof = prove(recipe, options).value();
    QVERIFY2(proof.holds(), proofText(proof).c_str());
    QVERIFY(stepOf(proof, "objects").compared > 0);
    // One that is not there, one that is turned, and one that the second evaluator does not know.
    const auto broken = [&](const std::function<void(std::vector<PlacedObject>&)>& change) {
      ProofOptions faulty = options;
      faulty.chunks = [&](std::shared_ptr<const World> world) {
        return std::make_shared<Faulty>(std::move(world), [&](Chunk& chunk) {
          if (!chunk.objects.empty()) change(chunk.objects);
        });
      };
      const Proof found = prove(recipe, faulty).value();
      return std::pair(stepOf(found, "chunks"), stepOf(found, "order"));
    };
    const auto [lost, lostToo] = broken([](auto& list) { list.pop_back(); });
    QVERIFY(!lost.holds && !lostToo.holds);
    QVERIFY(lost.difference->otherSays.find("Kind ") != std::string::npos);
    QVERIFY(lost.difference->oneSays.find("Kind ") == std::string::npos);
    const auto [turned, turnedToo] = broken([](auto& list) { list.front().turn ^= 1; });
    QVERIFY(!turned.holds && !turnedToo.holds);
    const auto right = options.referenceObjects;
    options.referenceObjects = [right](const Rect& cells) {
      auto list = right(cells);
      if (!list.empty()) list.pop_back();
      return list;
    };
    const Proof other = prove(recipe, options).value();
    QVERIFY(!stepOf(other, "objects").holds && stepOf(other, "chunks").holds);
    QCOMPARE(stepOf(other, "objects").difference->otherSays, std::string("nothing stands there"));
  }

  void badAreasAndStoppingAreSaid() {
    const Recipe recipe = demo("first-steps");
    ProofOptions options = small(recipe);
    const auto refused = [&](const Rect& area) {
      options.areas = {area};
      const auto proof = prove(recipe, options);
      return !proof && proof.error().where == "--area" && !proof.error().accepted.empty();
    };
    QVERIFY(refused({0, 0, 0, 5}));
    QVERIFY(refused({0, 0, 5000, 5}));
    QVERIFY(refused({kMaxCell, 0, 5, 5}));
    Recipe bounded = recipe;
    bounded.frame.x = AxisBounds{0, 100};
    options.areas = {{-50, 0, 20, 20}};
    QVERIFY(!prove(bounded, options));
    options.areas = {};
    std::stop_source stop;
    options.stop = stop.get_token();
    options.progress = [&](double, const std::string&) { stop.request_stop(); };
    const auto stopped = prove(recipe, options);
    QVERIFY(!stopped && stopped.error().code == Error::Code::Cancelled);
  }
};

ACRE_SUITE(ProofTest)
#include "proof_test.moc"
