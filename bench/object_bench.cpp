// Objects: what the kinds of a chunk cost beside the samples of the land, against filling each
// chunk with a margin as it is commonly written.
#include <benchmark/benchmark.h>

#include <cstdio>
#include <vector>

#include "object/scatter.h"
#include "object/tree.h"
#include "recipe/object_recipe.h"
#include "recipe/water_recipe.h"
#include "reference/trees.h"
#include "timing.h"
#include "world/world.h"

namespace bench {
namespace {

using namespace acre;

constexpr int64_t kChunk = 32, kAcross = 24;

ObjectKind kindOf(const char* id, double density, int32_t distance) {
  ObjectKind kind;
  kind.id = kind.name = id;
  kind.density = density;
  kind.distance = distance;
  return kind;
}

std::vector<ObjectKind> fiveKinds() {
  std::vector<ObjectKind> kinds = {kindOf("stone", 1, 16), kindOf("pine", 3, 9),
      kindOf("thorn", 8, 6), kindOf("fern", 20, 4), kindOf("reed", 60, 2)};
  kinds[1].apart = {{"stone", 4}};
  kinds[3].apart = {{"pine", 2}};
  return kinds;
}

std::shared_ptr<const World> worldOf(Recipe recipe) {
  EngineOptions options;
  options.memoBytes = uint64_t{64} << 20;
  static std::vector<std::unique_ptr<Engine>> engines;
  engines.push_back(std::move(Engine::create(options)).value());
  return engines.back()->compile(recipe).value();
}

/// Ground that costs nothing to ask for.
Recipe flat() {
  Recipe recipe;
  recipe.seed = "flat";
  recipe.name = "Flat";
  recipe.materials = {{"turf", "Turf", {}, MaterialState::Solid}};
  recipe.bands = {{"all", {}, "turf", {}}};
  recipe.frame.seaLevel = -10;
  recipe.objects->kinds = fiveKinds();
  return recipe;
}

/// All of a chunk as it is commonly written: each kind is scattered over the chunk and a margin, as
/// far as places depend on one another, and every place looks at all others.
class TextbookChunk {
 public:
  explicit TextbookChunk(const std::vector<ObjectKind>& kinds) : kinds_(kinds) {
    for (const ObjectKind& kind : kinds_) scatters_.emplace_back(hashOf(kind), kind.distance);
  }
  size_t fill(const Rect& chunk) const {
    std::vector<std::vector<Candidate>> all(kinds_.size());
    size_t count = 0;
    for (size_t k = 0; k < kinds_.size(); ++k) {
      // Later kinds keep from it by so much at most.
      constexpr int64_t kApart = 8;
      scatter(k, chunk, scatters_[k].reach() + kApart, all);
      for (const Candidate& one : all[k]) count += chunk.contains(one.cell);
    }
    return count;
  }

 private:
  static uint64_t hashOf(const ObjectKind& kind) { return std::hash<std::string>{}(kind.id); }
  static bool near(Cell a, Cell b, int64_t r) {
    const int64_t x = a.x - b.x, z = a.z - b.z;
    return x * x + z * z < r * r;
  }
  void scatter(
      size_t k, const Rect& chunk, int64_t margin, std::vector<std::vector<Candidate>>& all) const {
    const Scatter& scatter = scatters_[k];
    const uint64_t chance = scatter.chanceFor(kinds_[k].density);
    const int64_t g = scatter.square();
    const int64_t first = floorDiv(chunk.x - margin, g), top = floorDiv(chunk.z - margin, g);
    const int64_t along = (kChunk + 2 * margin) / g + 2;
    std::vector<Candidate> drawn, there;
    scatter.candidates(first, top, along, along, chance, drawn);
    for (const Candidate& one : drawn) {
      bool stands = true;
      for (const ObjectApart& apart : kinds_[k].apart)
        for (size_t e = 0; e < k; ++e)
          if (kinds_[e].id == apart.kind)
            for (const Candidate& other : all[e])
              stands = stands && !near(one.cell, other.cell, apart.cells);
      if (stands) there.push_back(one);
    }
    std::vector<int> state(there.size(), 0);
    const int64_t r = scatter.distance();
    for (int round = 0; round < Scatter::kRounds; ++round) {
      std::vector<size_t> winners;
      for (size_t a = 0; a < there.size(); ++a) {
        bool best = state[a] == 0;
        for (size_t b = 0; b < there.size() && best; ++b)
          best = a == b || state[b] != 0 || !there[b].betterThan(there[a]) ||
                 !near(there[a].cell, there[b].cell, r);
        if (best) winners.push_back(a);
      }
      for (const size_t a : winners)
        for (size_t b = 0; b < there.size(); ++b)
          if (state[b] == 0 && near(there[a].cell, there[b].cell, r)) state[b] = -1;
      for (const size_t a : winners) state[a] = 1;
    }
    for (size_t a = 0; a < there.size(); ++a)
      if (state[a] == 1) all[k].push_back(there[a]);
  }

  std::vector<ObjectKind> kinds_;
  std::vector<Scatter> scatters_;
};

Rect chunkAt(int64_t n, int64_t turn) {
  return {(n % kAcross + turn * 1000) * kChunk, n / kAcross * kChunk, kChunk, kChunk};
}

void printScattered() {
  const auto world = worldOf(flat());
  const TextbookChunk book(fiveKinds());
  constexpr int64_t kChunks = kAcross * kAcross, kMargin = 4;
  size_t ours = 0, theirs = 0;
  std::vector<double> land, objects, textbook;
  constexpr int kTurns = 8;
  // Each time in a place of its own, where nothing is known but the samples of the land.
  for (int64_t turn = 1; turn <= kTurns; ++turn) {
    land.push_back(secondsOf([&] {
      const Cell first{chunkAt(0, turn).x / kChunk, 0};
      for (int64_t j = -kMargin; j < kAcross + kMargin; ++j)
        for (int64_t i = -kMargin; i < kAcross + kMargin; ++i)
          benchmark::DoNotOptimize(
              world->objects().ground().tile(first.x + i, first.z + j, ObjectGroundTile::kCells));
    }));
    objects.push_back(secondsOf([&] {
      for (int64_t n = 0; n < kChunks; ++n) ours += world->objects().in(chunkAt(n, turn))->size();
    }));
    textbook.push_back(secondsOf([&] {
      for (int64_t n = 0; n < kAcross; ++n) theirs += book.fill(chunkAt(n, turn));
    }));
  }
  const double each = medianOf(objects) / kChunks, books = medianOf(textbook) / kAcross;
  std::printf(
      "objects of a chunk, five kinds, %.1f of them (%.1f): %.1f us beside samples, target 60; "
      "samples %.1f; filled with margins %.0f us: %.0fx, target 5x; %.1f KiB a chunk remembered\n",
      static_cast<double>(ours) / (kTurns * kChunks),
      static_cast<double>(theirs) / (kTurns * kAcross), each * 1e6, medianOf(land) / kChunks * 1e6,
      books * 1e6, books / each,
      static_cast<double>(world->objects().bytes()) / 1024 / (kTurns * kChunks));
}

void printDemo(const char* demo) {
  Recipe recipe = loadRecipe(demo).value();
  if (recipe.objects->kinds.empty()) {
    recipe.objects->kinds = fiveKinds();
    recipe.objects->kinds[2].slope = {std::nullopt, 0.8};
    recipe.objects->kinds[4].shore = {0.0, 6.0};
  }
  const auto world = worldOf(recipe);
  Recipe bare = recipe;
  bare.objects->on = false;
  const auto without = worldOf(bare);
  const auto all = [](const World& w) {
    for (int64_t n = 0; n < 256; ++n)
      benchmark::DoNotOptimize(w.chunk({n % 16 + 100, n / 16 + 100}));
  };
  all(*without);
  const double first = secondsOf([&] { all(*world); });
  const Pair pair = inTurn(
      7, [&] { all(*world); }, [&] { all(*without); });
  std::printf(
      "%s: a chunk %.0f us with its objects the first time, rivers included, %.0f where they are "
      "known, %.0f without\n",
      demo, first / 256 * 1e6, pair.ours / 256 * 1e6, pair.textbook / 256 * 1e6);
}

/// What the cells of objects cost in chunks of blocks, against the same objects as signs.
void printPieces() {
  Recipe recipe = loadRecipe("swallet-edge").value();
  recipe.rivers->on = false;
  Recipe signs = recipe;
  for (ObjectKind& kind : signs.objects->kinds) {
    kind.piece.clear();
    for (ObjectChoice& one : kind.what) one.piece.clear();
  }
  const auto world = worldOf(recipe), without = worldOf(signs);
  size_t chunks = 0;
  const auto all = [&](const World& w) {
    chunks = 0;
    for (int64_t n = 0; n < 16; ++n)
      for (int64_t cy = w.layout().lowestChunk(0); cy <= w.layout().highestChunk(0); ++cy, ++chunks)
        benchmark::DoNotOptimize(w.chunk({n % 4 + 10, n / 4 + 10, 0, cy}));
  };
  const double first = secondsOf([&] { all(*world); }), bare = secondsOf([&] { all(*without); });
  const Pair pair = inTurn(
      5, [&] { all(*world); }, [&] { all(*without); });
  const auto of = static_cast<double>(chunks) / 1e6;
  std::printf(
      "swallet-edge: a chunk of blocks %.0f us with its pieces the first time, %.0f as signs; %.0f "
      "and %.0f where objects are known: %.1f us for their cells\n",
      first / of, bare / of, pair.ours / of, pair.textbook / of, (pair.ours - pair.textbook) / of);
}

/// A broad tree of about 500 points.
TreeStyle broad() {
  TreeStyle out;
  out.id = out.name = "broad";
  out.height = 21;
  out.radius = 10;
  out.base = 0.32;
  out.lobes = 7;
  out.hollow = 0.5;
  out.points = 500;
  out.thickest = 6;
  out.leafWide = 2.5;
  out.leafTall = 2;
  out.wood = "wood";
  out.leaf = "leaf";
  return out;
}

/// What a variant takes to grow and to become blocks, against the same without an order of space;
/// and what trees of known variants cost a chunk.
void printTrees() {
  const TreeStyle style = broad();
  constexpr uint64_t kTrees = 16;
  std::vector<TreeSkeleton> grown;
  const Pair pair = inTurn(
      5,
      [&] {
        grown.clear();
        for (uint64_t n = 0; n < kTrees; ++n)
          grown.push_back(grownTree(style, treeKey(1, "broad", n)));
      },
      [&] {
        for (uint64_t n = 0; n < kTrees; ++n)
          benchmark::DoNotOptimize(reference::treeNodes(style, 1, n));
      });
  size_t nodes = 0, blocks = 0;
  std::vector<double> made;
  for (int turn = 0; turn < 5; ++turn) {
    blocks = nodes = 0;
    made.push_back(secondsOf([&] {
      for (const TreeSkeleton& tree : grown) {
        const TreeBlocks of(style, tree);
        blocks += of.wood() + of.leaves();
        nodes += tree.nodes.size();
      }
    }));
  }
  std::printf(
      "a variant of %d points: grown in %.2f ms, target 1.5 (plainly %.1f ms: %.0fx), to blocks in "
      "%.3f ms, target 0.25; %zu nodes, %zu blocks\n",
      style.points, pair.ours / kTrees * 1e3, pair.textbook / kTrees * 1e3,
      pair.textbook / pair.ours, medianOf(made) / kTrees * 1e3, nodes / kTrees, blocks / kTrees);

  Recipe recipe = flat();
  recipe.materials.push_back({"wood", "Wood", {}, MaterialState::Solid});
  recipe.materials.push_back({"leaf", "Leaf", {}, MaterialState::Solid});
  recipe.rock.beds = {{"turf", "turf", 100}};
  recipe.frame.kind = WorldKind::Voxel;
  recipe.frame.chunkSize = 32;
  recipe.frame.shape = ChunkShape::Cubes;
  recipe.frame.y = {-32, 96};
  recipe.objects->trees = {style};
  for (const auto& [density, distance] :
      {std::pair(5.0, 9), std::pair(8.7, 7), std::pair(19.5, 5)}) {
    recipe.objects->kinds = {kindOf("wood", density, distance)};
    const Recipe signs = recipe;
    recipe.objects->kinds[0].tree = "broad";
    const auto world = worldOf(recipe), without = worldOf(signs);
    constexpr int64_t kSide = 6;
    size_t trees = 0, reaching = 0;
    const auto all = [&](const World& w) {
      trees = reaching = 0;
      for (int64_t n = 0; n < kSide * kSide; ++n) {
        const auto chunk = w.chunk({n % kSide, n / kSide, 0, 0}).value();
        reaching += chunk->objects.size();
        for (const PlacedObject& one : chunk->objects) trees += chunk->owns(one);
      }
    };
    all(*without);
    all(*world);
    const Pair chunks = inTurn(
        7, [&] { all(*world); }, [&] { all(*without); });
    all(*world);
    constexpr double kChunks = kSide * kSide;
    std::printf(
        "a chunk of forest, 32 x 32 x 32, that %.1f trees of known variants reach, %.1f of them "
        "its "
        "own: %.0f us, %.0f as signs: %.0f us for them, target 200; %.0f KiB remembered\n",
        static_cast<double>(reaching) / kChunks, static_cast<double>(trees) / kChunks,
        chunks.ours / kChunks * 1e6, chunks.textbook / kChunks * 1e6,
        (chunks.ours - chunks.textbook) / kChunks * 1e6,
        static_cast<double>(world->objectCells().bytes()) / 1024);
  }
}

void BM_KnownObjects(benchmark::State& state) {
  const auto world = worldOf(flat());
  benchmark::DoNotOptimize(world->objects().in(chunkAt(0, 0)));
  for (auto _ : state) benchmark::DoNotOptimize(world->objects().in(chunkAt(0, 0)));
}
BENCHMARK(BM_KnownObjects)->Unit(benchmark::kMicrosecond);

}  // namespace
}  // namespace bench

int main(int argc, char** argv) {
  benchmark::Initialize(&argc, argv);
  bench::printScattered();
  bench::printDemo("saltfen-reach");
  bench::printPieces();
  bench::printTrees();
  benchmark::RunSpecifiedBenchmarks();
  return 0;
}
