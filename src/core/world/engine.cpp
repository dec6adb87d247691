#include "world/engine.h"

#include <fmt/format.h>

#include "base/fp_state.h"
#include "base/seed.h"
#include "recipe/validate.h"

namespace acre {

Result<std::unique_ptr<Engine>> Engine::create(const EngineOptions& options) {
  if (options.threads > 256)
    return Error{Error::Code::InvalidInput, fmt::format("{} threads", options.threads), "--threads",
                 "0 to 256"};
  const auto kernels = kernelsNamed(options.simd);
  if (!kernels) return kernels.error();
  if (const Status sound = selfTest(**kernels); !sound) return sound.error();
  return std::unique_ptr<Engine>(new Engine(options, **kernels));
}

Engine::Engine(const EngineOptions& options, const Kernels& kernels)
    : kernels_(&kernels), budget_(options.memoryLimit), executor_(options.threads) {}

template <class Stage>
std::shared_ptr<const Stage> Engine::pooled(const Digest& key) {
  const std::lock_guard lock(mutex_);
  const auto found = pool_.find(key);
  auto stage =
      found == pool_.end() ? nullptr : std::static_pointer_cast<const Stage>(found->second.lock());
  ++(stage ? figures_.reused : figures_.compiled);
  return stage;
}

void Engine::keep(const Digest& key, std::weak_ptr<const void> stage) {
  const std::lock_guard lock(mutex_);
  std::erase_if(pool_, [](const auto& entry) { return entry.second.expired(); });
  pool_[key] = std::move(stage);
}

Result<std::shared_ptr<const World>> Engine::compile(const Recipe& recipe) {
  const FpState fp;
  if (const Status valid = validate(recipe); !valid) return valid.error();
  const uint64_t seed = seedNumber(recipe.seed);

  const Digest heightsKey = HeightField::keyOf(recipe.heights, seed);
  auto heights = pooled<HeightField>(heightsKey);
  if (!heights) {
    auto compiled = HeightField::compile(recipe.heights, seed);
    if (!compiled) return compiled.error();
    heights = *compiled;
    keep(heightsKey, heights);
  }
  const Digest bandsKey = BandTable::keyOf(recipe);
  auto bands = pooled<BandTable>(bandsKey);
  if (!bands) {
    bands = BandTable::compile(recipe);
    keep(bandsKey, bands);
  }
  auto world =
      std::make_shared<const World>(recipe, std::move(heights), std::move(bands), *kernels_);
  const std::lock_guard lock(mutex_);
  recent_.push_front(world);
  if (recent_.size() > kRecentWorlds) recent_.pop_back();
  return world;
}

Engine::PoolFigures Engine::poolFigures() const {
  const std::lock_guard lock(mutex_);
  return figures_;
}

}  // namespace acre
