#include "base/executor.h"

#include <algorithm>
#include <iterator>

#include "base/fp_state.h"
#include "base/step_aside.h"

namespace acre {

Executor::Executor(unsigned threads) {
  workers_.reserve(threads);
  for (unsigned i = 0; i < threads; ++i) workers_.emplace_back([this] { work(); });
}

Executor::~Executor() {
  decltype(queues_)
      dropped;  // Destroyed outside the lock: captures may have destructors of weight.
  {
    const std::lock_guard lock(mutex_);
    stopping_ = true;
    dropped.swap(queues_);
  }
  wake_.notify_all();
  for (std::thread& worker : workers_) worker.join();
}

void Executor::submit(Priority priority, std::stop_token stop, std::function<void()> task) {
  Queue dropped;  // Destroyed outside the lock as well.
  {
    const std::lock_guard lock(mutex_);
    if (stopping_) return;
    for (Queue& queue : queues_) {
      const auto stopped = std::stable_partition(queue.begin(), queue.end(),
          [](const Queued& queued) { return !queued.stop.stop_requested(); });
      dropped.insert(dropped.end(), std::move_iterator(stopped), std::move_iterator(queue.end()));
      queue.erase(stopped, queue.end());
    }
    queues_[static_cast<size_t>(priority)].push_back({std::move(task), std::move(stop)});
  }
  wake_.notify_one();
}

bool Executor::takeNext(std::function<void()>& task) {
  for (auto& queue : queues_) {
    if (queue.empty()) continue;
    // One that was stopped does nothing, wherever it is destroyed.
    const bool stopped = queue.front().stop.stop_requested();
    task = std::move(queue.front().task);
    queue.pop_front();
    if (stopped) task = [held = std::move(task)] {};
    return true;
  }
  return false;
}

bool Executor::runOne() {
  std::function<void()> task;
  {
    const std::lock_guard lock(mutex_);
    if (!takeNext(task)) return false;
  }
  task();
  return true;
}

void Executor::work() {
  const FpState fp;
  stepAside();
  std::unique_lock lock(mutex_);
  while (true) {
    std::function<void()> task;
    wake_.wait(lock, [&] { return stopping_ || takeNext(task); });
    if (!task) return;
    lock.unlock();
    task();
    task = nullptr;  // Its captures go before the lock is taken again.
    lock.lock();
  }
}

}  // namespace acre
