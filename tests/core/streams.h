/// What the tests of streaming share: engines, worlds, an owner, and the wanted set found by force.
#pragma once

#include <QtTest>
#include <random>
#include <set>

#include "dry.h"
#include "stream/stream.h"
#include "world/demos.h"
#include "world/engine.h"
#include "world/fingerprint.h"

using namespace acre;

inline std::unique_ptr<Engine> engineWith(unsigned threads, uint64_t memory = 256u << 20) {
  EngineOptions options;
  options.threads = threads;
  options.memoryLimit = memory;
  return std::move(Engine::create(options)).value();
}

inline std::shared_ptr<const World> demoWorld(
    Engine& engine, int chunk = 16, std::optional<AxisBounds> bounds = {}) {
  Recipe recipe = dryDemo("saltfen-reach");
  recipe.frame.chunkSize = chunk;
  recipe.frame.x = recipe.frame.z = bounds;
  return engine.compile(recipe).value();
}

/// The chunks with a cell no farther than `distance` from the viewpoint, found cell by cell.
inline std::set<ChunkPos> wantedByForce(const World& world, Cell view, int64_t distance) {
  std::set<ChunkPos> wanted;
  for (int64_t z = view.z - distance; z <= view.z + distance; ++z)
    for (int64_t x = view.x - distance; x <= view.x + distance; ++x) {
      const int64_t dx = x - view.x, dz = z - view.z;
      if (dx * dx + dz * dz <= distance * distance && planOf(world).bounds().contains({x, z}))
        wanted.insert(planOf(world).layout().chunkOf({x, z}));
    }
  return wanted;
}

/// An owner that keeps what it is handed, as a game would.
struct Owner {
  std::map<ChunkPos, ChunkHandle> held;
  std::map<std::pair<size_t, ChunkPos>, std::shared_ptr<const void>> extras;
  size_t shown = 0;
  size_t extrasShown = 0;
  void take(Stream& stream, size_t most = 1000) {
    Handover change = stream.take(most);
    for (const ChunkPos& p : change.hide) held.erase(p);
    for (ChunkHandle& c : change.show) {
      ++shown;
      held[c->pos] = std::move(c);
    }
    for (const auto& gone : change.clear) extras.erase({gone.index, gone.pos});
    for (auto& extra : change.extras) {
      ++extrasShown;
      extras[{extra.index, extra.pos}] = std::move(extra.data);
    }
  }
  std::set<ChunkPos> places() const {
    std::set<ChunkPos> all;
    for (const auto& [pos, chunk] : held) all.insert(pos);
    return all;
  }
};

/// Nothing ahead, no margin, no cache.
inline StreamSettings around(int64_t viewDistance, size_t queuePlaces) {
  StreamSettings settings;
  settings.viewDistance = viewDistance;
  settings.queuePlaces = queuePlaces;
  return settings;
}
