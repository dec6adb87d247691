// Worlds of blocks: chunks against the same ground as it is commonly written, faces against a
// mesher that looks at cell after cell, and what a view costs.
#include <benchmark/benchmark.h>

#include <chrono>
#include <cstdio>
#include <map>
#include <thread>

#include "mesh/faces.h"
#include "mesh/mesh_source.h"
#include "recipe/cave_recipe.h"
#include "stream/stream.h"
#include "textbook_ground.h"
#include "view/loading.h"
#include "world/world.h"

namespace bench {
namespace {

void fly(const Recipe& recipe, const char* simd, Eye eye, const ViewStyle& style,
    ViewPicture& picture, bool smooth);

void print() {
  const Kernels& table = tableOr("avx2");
  EngineOptions options;
  options.simd = table.name;
  options.memoBytes = 0;  // Every chunk from nothing.
  const auto engine = std::move(Engine::create(options)).value();
  Recipe recipe = loadRecipe("swallet-edge").value();
  recipe.caves->on = false;  // They have a bench of their own.
  const auto world = engine->compile(recipe).value();
  const TextbookGround book(recipe);
  const ChunkLayout& layout = world->layout();

  // Chunks that hold the surface, far enough apart to share nothing.
  std::vector<ChunkPos> surface;
  for (int64_t n = 0; surface.size() < 48; ++n) {
    const Cell cell{n * 997 * 32, n * -613 * 32};
    ChunkPos pos = layout.chunkOf(cell);
    pos.cy =
        layout.chunkOfLevel(static_cast<int64_t>(std::floor(world->columns().heightAt(cell))), 0);
    const auto chunk = world->chunk(pos);
    if (chunk && (*chunk)->materials.palette().size() > 2) surface.push_back(pos);
  }
  std::printf(
      "\nWorlds of blocks (swallet-edge), one thread, per chunk of 32 x 32 x 32; table %s\n",
      table.name);
  std::printf("%-44s %11s %12s %9s\n", "", "ours", "textbook", "ratio");
  std::vector<MaterialIndex> room(kSide * kSide * kSide);
  const auto chunks = static_cast<double>(surface.size());
  const auto micro = [&](const char* what, const Pair& p, double target) {
    std::printf("%-44s %8.1f us %9.1f us %8.1fx  (%.1f to %.1f)  target %.0fx\n", what,
        p.ours / chunks * 1e6, p.textbook / chunks * 1e6, p.ratio(), p.low, p.high, target);
  };
  const auto book48 = [&] {
    for (const ChunkPos pos : surface) {
      // The textbook's noise repeats far out, its cost does not.
      book.chunk(static_cast<int>(pos.cx % 1000) * 32, static_cast<int>(pos.cy) * 32,
          static_cast<int>(pos.cz % 1000) * 32, room.data());
      benchmark::DoNotOptimize(room.data());
    }
  };
  micro("surface chunk, complete (ours with five ores)",
      inTurn(
          7,
          [&] {
            for (const ChunkPos pos : surface) benchmark::DoNotOptimize(world->chunk(pos));
          },
          book48),
      10);
  Recipe bare = recipe;
  bare.ores.clear();
  const auto plain = engine->compile(bare).value();
  micro("the same without ores",
      inTurn(
          7,
          [&] {
            for (const ChunkPos pos : surface) benchmark::DoNotOptimize(plain->chunk(pos));
          },
          book48),
      10);
  StageTimes times;
  for (const ChunkPos pos : surface) (void)world->chunk(pos, {}, &times);
  std::printf("  of it: heights %.1f, biomes %.1f, strata %.1f, packing %.1f us\n",
      times[StageId::Heights] / chunks * 1e3, times[StageId::Biomes] / chunks * 1e3,
      times[StageId::Strata] / chunks * 1e3, times.packing / chunks * 1e3);
  EngineOptions usual = options;
  usual.memoBytes = EngineOptions().memoBytes;
  const auto remembering = std::move(Engine::create(usual)).value();
  const auto lasting = remembering->compile(recipe).value();
  const int64_t top = layout.highestChunk(0);
  const auto open = [&](int64_t n) { return ChunkPos{n * 7, n, 0, top}; };
  for (int64_t n = 0; n < 64; ++n) (void)lasting->chunk(open(n));
  const double known = secondsOf([&] {
    for (int64_t n = 0; n < 64; ++n) benchmark::DoNotOptimize(lasting->chunk(open(n)));
  });
  const double unknown = secondsOf([&] {
    for (int64_t n = 0; n < 64; ++n) benchmark::DoNotOptimize(world->chunk(open(n)));
  });
  std::printf("%-44s %8.2f us                                   at most 10\n",
      "chunk of open sky, its columns known", known / 64 * 1e6);
  std::printf("%-44s %8.2f us\n", "  from nothing", unknown / 64 * 1e6);

  // Faces, of blocks that are there already.
  const BlockClasses classes(*world);
  std::vector<std::vector<MaterialIndex>> blocks;
  std::vector<BlockMesh> meshes(surface.size());
  for (size_t i = 0; i < surface.size(); ++i) {
    const Rect rect = layout.rectOf(surface[i]);
    const BlockLevels levels = layout.levelsOf(surface[i]);
    blocks.emplace_back(34 * 34 * 34);
    (void)world->sampleBlocks(
        {rect.x - 1, levels.first - 1, rect.z - 1, 1, 34, 34, 34}, blocks.back().data());
    meshes[i].width = meshes[i].tall = meshes[i].depth = kSide;
  }
  micro("faces, merged by masks",
      inTurn(
          15,
          [&] {
            for (size_t i = 0; i < blocks.size(); ++i)
              buildFaces(classes, blocks[i], {}, meshes[i]);
          },
          [&] {
            for (size_t i = 0; i < blocks.size(); ++i)
              buildFacesPlainly(classes, blocks[i], {}, meshes[i]);
          }),
      5);
  uint64_t faces = 0, quads = 0;
  for (const BlockMesh& mesh : meshes) {
    faces += mesh.faces;
    quads += mesh.quads.size();
  }
  std::printf("  %.0f faces in %.0f rectangles a chunk\n", static_cast<double>(faces) / chunks,
      static_cast<double>(quads) / chunks);

  // A view of eight chunks' distance.
  Eye eye;
  eye.y = static_cast<double>(*standAt(*world, {0, 0})) + 20;
  eye.pitch = -12;
  const Scene scene = loadScene(*world, eye, 8 * kSide).value();
  ViewStyle style = styleFor(*world);
  style.distance = 8 * kSide;
  ViewPicture picture;
  picture.width = 1200;
  picture.height = 700;
  std::vector<double> frames;
  for (int n = 0; n < 40; ++n) {
    eye.yaw = n * 9;
    frames.push_back(secondsOf([&] { drawScene(scene, eye, style, picture); }));
  }
  std::sort(frames.begin(), frames.end());
  std::printf(
      "view, 1200 x 700, distance 8 chunks, all threads    median %.1f ms, worst %.1f ms         "
      "at most 33\n",
      frames[frames.size() / 2] * 1e3, frames.back() * 1e3);
  for (const bool smooth : {false, true}) fly(recipe, table.name, eye, style, picture, smooth);
}

/// Flies ahead in real time, drawing picture after picture while two workers load what comes into
/// view: as the walk view does.
void fly(const Recipe& recipe, const char* simd, Eye eye, const ViewStyle& style,
    ViewPicture& picture, bool smooth) {
  constexpr double kSpeed = 40, kSeconds = 8;  // Cells a second.
  EngineOptions options;
  options.simd = simd;
  options.threads = 2;
  const auto engine = std::move(Engine::create(options)).value();
  const auto world = engine->compile(recipe).value();
  StreamSettings settings;
  settings.viewDistance = static_cast<int64_t>(style.distance);
  settings.levels = viewLevels(style.distance, smooth);
  settings.detail = finestDistance(smooth);
  settings.margin = 48;
  settings.ahead = 16;
  Stream stream(std::make_shared<MeshSource>(world, facesFor(style.distance, smooth, false)),
      settings, engine->executor(), engine->budget());
  std::map<ChunkPos, ChunkHandle> held;
  const auto see = [&] {
    stream.setView({eye.cellX, eye.cellZ}, static_cast<int64_t>(eye.y));
    const Handover change = stream.take(48);
    for (const ChunkPos pos : change.hide) held.erase(pos);
    for (const ChunkHandle& chunk : change.show) held[chunk->pos] = chunk;
    return !change.hide.empty() || !change.show.empty();
  };
  const auto loading = [&] {
    const StreamStats stats = stream.stats();
    return stats.waiting + stats.working + stats.ready > 0;
  };
  const double first = secondsOf([&] {
    while (see() || loading()) std::this_thread::sleep_for(std::chrono::milliseconds(1));
  });
  eye.yaw = 0;
  Scene scene;
  std::vector<double> frames;
  double flown = 0;
  const auto begin = std::chrono::steady_clock::now();
  while (flown < kSeconds) {
    const auto from = std::chrono::steady_clock::now();
    const double now = std::chrono::duration<double>(from - begin).count();
    eye.move(0, 0, -kSpeed * (now - flown));
    flown = now;
    if (see() || scene.empty()) {
      scene.clear();
      for (const auto& [pos, chunk] : held)
        addToScene(
            world->groundLayout(), pos, chunk->meshes, [&](ChunkPos p) { return held.contains(p); },
            scene);
    }
    drawScene(scene, eye, style, picture);
    frames.push_back(
        std::chrono::duration<double>(std::chrono::steady_clock::now() - from).count());
  }
  std::sort(frames.begin(), frames.end());
  const auto at = [&](double share) {
    return frames[static_cast<size_t>(share * static_cast<double>(frames.size() - 1))] * 1e3;
  };
  std::printf(
      "flying over it at %.0f cells/s, %s      %.0f pictures a second; %.1f ms median, %.1f ms 95 "
      "%%, %.1f ms worst; first view %.0f ms\n",
      kSpeed, smooth ? "smooth" : "blocks", static_cast<double>(frames.size()) / flown, at(0.5),
      at(0.95), at(1), first * 1e3);
  stream.stop();
}

}  // namespace
}  // namespace bench

int main() {
  bench::print();
}
