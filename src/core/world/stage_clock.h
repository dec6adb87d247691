/// Adds up what a piece of work took.
#pragma once

#include <chrono>

#include "world/chunk.h"

namespace acre {

/// Milliseconds by stage; nothing when nobody asked.
class StageClock {
 public:
  explicit StageClock(StageTimes* times) : times_(times) {
    if (times_) last_ = std::chrono::steady_clock::now();
  }
  void stop(double StageTimes::*stage) {
    if (!times_) return;
    const auto now = std::chrono::steady_clock::now();
    times_->*stage += std::chrono::duration<double, std::milli>(now - last_).count();
    last_ = now;
  }

 private:
  StageTimes* times_;
  std::chrono::steady_clock::time_point last_;
};

}  // namespace acre
