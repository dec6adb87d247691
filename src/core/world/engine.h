/// Turns recipes into worlds and keeps what several worlds share.
#pragma once

#include <deque>
#include <map>
#include <memory>
#include <mutex>
#include <string>

#include "base/budget.h"
#include "base/executor.h"
#include "field/distribution.h"
#include "field/stage_pool.h"
#include "world/plan.h"

namespace acre {

class LevelMaker;  // cave/level.h

struct EngineOptions {
  unsigned threads = 0;                      ///< Workers of the executor, 0 ... 256.
  uint64_t memoryLimit = uint64_t{1} << 30;  ///< Bytes for chunks, tiles, pictures and queues.
  std::string simd;                          ///< Kernel table; empty: the fastest.
  uint64_t memoBytes = uint64_t{24} << 20;   ///< What each part may remember to save time.
};

/// An object, not a global: owns the pool of compiled stages, the last worlds (so that undo is
/// immediate), the executor and the memory budget. Thread-safe.
class Engine : private StagePool {
 public:
  static Result<std::unique_ptr<Engine>> create(const EngineOptions& options);

  /// Validates and compiles. Stages whose inputs did not change are taken from the pool. passing:
  /// the world is for one look alone and takes no place among the last ones. stop: given up while
  /// the floor of a level is made.
  Result<std::shared_ptr<const World>> compile(
      const Recipe& recipe, bool passing = false, const std::stop_token& stop = {});

  /// What makes the floors of a level, any of them: for whoever wants to see them made, or many.
  static Result<std::shared_ptr<const LevelMaker>> levelMaker(
      const Recipe& recipe, const Kernels& kernels);

  /// How a field's values are spread over the world (heights, or one of world.field()); measured
  /// once. Nothing when stopped.
  std::shared_ptr<const Distribution> distribution(
      const World& world, const Field& field, const std::stop_token& stop = {});

  Executor& executor() { return executor_; }
  MemoryBudget& budget() { return *budget_; }
  const Kernels& kernels() const { return *kernels_; }

  /// How many stages were computed, and how many were found in the pool.
  struct PoolFigures {
    uint64_t compiled = 0;
    uint64_t reused = 0;
  };
  PoolFigures poolFigures() const;

 private:
  Engine(const EngineOptions& options, const Kernels& kernels);
  std::shared_ptr<const void> find(const Digest& key) override;
  void keep(const Digest& key, const std::shared_ptr<const void>& part, bool linger) override;
  Result<std::shared_ptr<const GreyPicture>> picture(
      const std::filesystem::path& file, const std::string& where) override;
  MemoLimit memo() const override { return {memoBytes_, budget_}; }
  void makeRoom() override;
  /// Lets the oldest of the last worlds go while there are too many, or what is remembered takes
  /// more than half of the budget: the present one could not remember anything.
  void forget();
  struct FileState {
    std::filesystem::file_time_type time;
    uintmax_t size = 0;
    std::weak_ptr<const GreyPicture> picture;
  };
  static constexpr size_t kRecentWorlds = 8;

  const Kernels* kernels_;
  std::shared_ptr<MemoryBudget> budget_;
  uint64_t memoBytes_;
  mutable std::mutex mutex_;
  std::map<Digest, std::weak_ptr<const void>> pool_;
  std::map<std::filesystem::path, FileState> pictures_;
  std::deque<std::shared_ptr<const World>> recent_;
  std::deque<std::shared_ptr<const void>> lingering_;
  PoolFigures figures_;
  Executor executor_;  // Last: its workers stop before anything they use goes.
};

}  // namespace acre
