#include "base/executor.h"

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

void Executor::submit(Priority priority, std::function<void()> task) {
  {
    const std::lock_guard lock(mutex_);
    if (stopping_) return;
    queues_[static_cast<size_t>(priority)].push_back(std::move(task));
  }
  wake_.notify_one();
}

bool Executor::takeNext(std::function<void()>& task) {
  for (auto& queue : queues_) {
    if (queue.empty()) continue;
    task = std::move(queue.front());
    queue.pop_front();
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
