#include "world/engine.h"

#include <fmt/format.h>

#include "base/fp_state.h"
#include "cave/level.h"
#include "recipe/validate.h"
#include "world/measures.h"
#include "world/world.h"
#include "world/world_compiler.h"

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
    : kernels_(&kernels),
      budget_(std::make_shared<MemoryBudget>(options.memoryLimit)),
      memoBytes_(options.memoBytes),
      executor_(options.threads) {}

std::shared_ptr<const void> Engine::find(const Digest& key) {
  const std::lock_guard lock(mutex_);
  const auto found = pool_.find(key);
  auto part = found == pool_.end() ? nullptr : found->second.lock();
  ++(part ? figures_.reused : figures_.compiled);
  return part;
}

void Engine::keep(const Digest& key, const std::shared_ptr<const void>& part, bool linger) {
  const std::lock_guard lock(mutex_);
  std::erase_if(pool_, [](const auto& entry) { return entry.second.expired(); });
  pool_[key] = part;
  if (!linger) return;
  lingering_.push_front(part);
  if (lingering_.size() > kRecentWorlds) lingering_.pop_back();
}

void Engine::makeRoom() {
  std::deque<std::shared_ptr<const World>> worlds;  // Gone after the lock is.
  std::deque<std::shared_ptr<const void>> parts;
  const std::lock_guard lock(mutex_);
  worlds.swap(recent_);
  parts.swap(lingering_);
}

Result<std::shared_ptr<const GreyPicture>> Engine::picture(
    const std::filesystem::path& file, const std::string& where) {
  std::error_code none;
  const auto time = std::filesystem::last_write_time(file, none);
  const auto size = none ? 0 : std::filesystem::file_size(file, none);
  {
    const std::lock_guard lock(mutex_);
    if (const auto known = pictures_.find(file); known != pictures_.end() && !none)
      if (auto picture = known->second.picture.lock();
          picture && known->second.time == time && known->second.size == size)
        return picture;
  }
  auto picture = readGreyPicture(file, where);
  if (!picture) return picture;
  const std::lock_guard lock(mutex_);
  pictures_[file] = {time, size, *picture};
  return picture;
}

std::shared_ptr<const Distribution> Engine::distribution(
    const World& world, const Field& field, const std::stop_token& stop) {
  const Frame& frame = planOf(world).recipe().frame;
  const uint64_t seed = planOf(world).seed();
  const auto measured = pooled<Distribution>(
      *this, distributionKey(field, frame, seed),
      [&]() -> Result<std::shared_ptr<const Distribution>> {
        auto taken = measure(field, frame, seed, *kernels_, stop);
        if (!taken) return cancelled();
        return taken;
      },
      true);
  return measured ? *measured : nullptr;
}

Result<std::shared_ptr<const LevelMaker>> Engine::levelMaker(
    const Recipe& recipe, const Kernels& kernels) {
  if (const Status valid = validate(recipe); !valid) return valid.error();
  if (recipe.frame.kind != WorldKind::Level)
    return Error{Error::Code::InvalidInput, "only levels have floors", "/frame/kind", "level"};
  return levelMakerOf(recipe, kernels);
}

Result<std::shared_ptr<const World>> Engine::compile(
    const Recipe& recipe, bool passing, const std::stop_token& stop) {
  const FpState fp;
  if (const Status valid = validate(recipe); !valid) return valid.error();
  auto parts = WorldCompiler(recipe, *this, *kernels_, stop).compile();
  if (!parts) return parts.error();
  auto world = std::make_shared<const World>(recipe, std::move(*parts), *kernels_, memo());
  if (passing) return world;
  {
    const std::lock_guard lock(mutex_);
    recent_.push_front(world);
  }
  forget();
  return world;
}

void Engine::forget() {
  while (true) {
    std::shared_ptr<const World> last;  // Gone after the lock is.
    const std::lock_guard lock(mutex_);
    const bool full = recent_.size() > 1 && budget_->used() > budget_->limit() / 2;
    if (recent_.size() <= kRecentWorlds && !full) return;
    last = std::move(recent_.back());
    recent_.pop_back();
  }
}

Engine::PoolFigures Engine::poolFigures() const {
  const std::lock_guard lock(mutex_);
  return figures_;
}

}  // namespace acre
