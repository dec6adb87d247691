/// What each stage of a world takes.
#pragma once

#include <array>
#include <chrono>
#include <numeric>
#include <utility>

#include "recipe/stage_id.h"

namespace acre {

/// Milliseconds that went into chunks, by stage.
struct StageTimes {
  std::array<double, kStageCount> of{};  ///< By StageId. Climate is asked by Biomes and Caves.
  double packing = 0;

  double& operator[](StageId stage) { return of[static_cast<size_t>(stage)]; }
  double operator[](StageId stage) const { return of[static_cast<size_t>(stage)]; }
  double sum() const { return std::accumulate(of.begin(), of.end(), packing); }
  void add(const StageTimes& other) {
    for (size_t i = 0; i < of.size(); ++i) of[i] += other.of[i];
    packing += other.packing;
  }
};

/// Milliseconds by stage; nothing when nobody asked.
class StageClock {
 public:
  explicit StageClock(StageTimes* times) : times_(times) {
    if (times_) last_ = std::chrono::steady_clock::now();
  }
  /// What went since the last stop was a stage's.
  void stop(StageId stage) {
    if (times_) (*times_)[stage] += lap();
  }
  /// Or that of packing cells.
  void stopPacking() {
    if (times_) times_->packing += lap();
  }

 private:
  double lap() {
    const auto now = std::chrono::steady_clock::now();
    return std::chrono::duration<double, std::milli>(now - std::exchange(last_, now)).count();
  }

  StageTimes* times_;
  std::chrono::steady_clock::time_point last_;
};

}  // namespace acre
