/// One long job at a time on a thread of its own, replaced without waiting for it.
#pragma once

#include <atomic>
#include <functional>
#include <list>
#include <memory>
#include <stop_token>
#include <thread>

#include "base/step_aside.h"

namespace app {

/// Assigning a std::jthread waits for the thread before: this does not. Jobs that were told to stop
/// end when they notice; the destructor alone waits for them. Of one thread, as its owner.
class Worker {
 public:
  ~Worker() { stop(); }

  /// Tells the job before to stop, and starts this one. Jobs poll their token.
  void start(std::function<void(const std::stop_token&)> job) {
    stop();
    threads_.remove_if([](const Running& old) { return old.done->load(); });
    stop_ = {};
    auto done = std::make_shared<std::atomic<bool>>(false);
    threads_.push_back({done, std::jthread([job = std::move(job), done, stop = stop_.get_token()] {
                          acre::stepAside();
                          job(stop);
                          done->store(true);
                        })});
  }
  void stop() { stop_.request_stop(); }

 private:
  struct Running {
    std::shared_ptr<std::atomic<bool>> done;
    std::jthread thread;
  };
  std::stop_source stop_;
  std::list<Running> threads_;
};

}  // namespace app
