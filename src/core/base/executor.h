/// The one pool of worker threads. Batch verbs of the command use parallel loops instead.
#pragma once

#include <array>
#include <condition_variable>
#include <deque>
#include <functional>
#include <mutex>
#include <stop_token>
#include <thread>
#include <utility>
#include <vector>

namespace acre {

/// What runs first; a later kind waits while an earlier one has work queued.
enum class Priority { Compile, CoarseMap, NearChunk, SharpMap, Thumbnail, Statistics };
inline constexpr int kPriorities = 6;

class Executor {
 public:
  /// threads: number of workers, 0 ... 256. With 0 nothing runs until runOne is called.
  explicit Executor(unsigned threads);

  /// Drops what is queued, waits for what is running.
  ~Executor();
  Executor(const Executor&) = delete;
  Executor& operator=(const Executor&) = delete;

  /// Queues `task`; tasks of one priority start in the order of submission. Tasks must not throw.
  void submit(Priority priority, std::function<void()> task) {
    submit(priority, {}, std::move(task));
  }
  /// The same of a task that is dropped once it is stopped before it begins: what it holds does not
  /// wait for more urgent work to end.
  void submit(Priority priority, std::stop_token stop, std::function<void()> task);

  /// Runs the next task in the caller's thread; false when none is queued.
  bool runOne();

  unsigned threads() const { return static_cast<unsigned>(workers_.size()); }

 private:
  struct Queued {
    std::function<void()> task;
    std::stop_token stop;
  };
  using Queue = std::deque<Queued>;
  bool takeNext(std::function<void()>& task);
  void work();

  std::mutex mutex_;
  std::condition_variable wake_;
  std::array<Queue, kPriorities> queues_;
  bool stopping_ = false;
  std::vector<std::thread> workers_;
};

}  // namespace acre
