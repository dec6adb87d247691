// A game's side of streaming: a viewpoint walks east and stops; the chunks around it come and go.
#include <algorithm>
#include <chrono>
#include <cstdio>
#include <map>
#include <thread>

#include "stream/stream.h"
#include "world/demos.h"
#include "world/engine.h"
#include "world/world.h"

int main() {
  acre::EngineOptions options;
  options.threads = 2;
  options.memoryLimit = uint64_t{256} << 20;
  const auto engine = acre::Engine::create(options).value();
  const auto world = engine->compile(acre::loadRecipe("saltfen-reach").value()).value();

  const auto settings = acre::StreamSettings::moving(384, world->layout().size());
  acre::Stream stream(world, settings, engine->executor(), engine->budget());
  std::map<acre::ChunkPos, acre::ChunkHandle> loaded;
  size_t missing = 1;
  for (int frame = 0; frame < 200 || missing > 0; ++frame) {
    stream.setView({std::min(frame, 200) * 10, 0});  // Where the player is.
    const acre::Handover change = stream.take(32);   // As many as a frame can afford.
    for (const acre::ChunkPos& gone : change.hide) loaded.erase(gone);
    for (const acre::ChunkHandle& chunk : change.show) loaded[chunk->pos] = chunk;
    missing = stream.stats().missing;
    std::this_thread::sleep_for(std::chrono::milliseconds(5));  // The rest of the game.
  }
  const acre::StreamStats stats = stream.stats();
  std::printf("%zu chunks loaded, %zu missing, %llu built\n", loaded.size(), stats.missing,
      static_cast<unsigned long long>(stats.built));
  return stats.failed == 0 && loaded.size() >= stats.needed ? 0 : 1;
}
