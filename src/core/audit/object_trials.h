/// What has to be there, under one seed after the other.
#pragma once

#include <functional>
#include <stop_token>
#include <string>
#include <vector>

#include "base/result.h"
#include "world/engine.h"

namespace acre {

/// A world under one of many seeds.
struct MustTrial {
  std::string seed;
  /// "Well-head is missing in 1 of 4 squares: slope 71 %; …"; empty: nothing is.
  std::string fault;
  uint64_t squares = 0, missing = 0, forced = 0;
};
struct MustTrials {
  std::vector<MustTrial> list;  ///< In the order of the seeds.
  size_t failing = 0;
};

/// The four squares about the origin of each kind of which one has to be in every square, under the
/// seeds `first` to `first + count - 1`. Refuses recipes without such a kind; Cancelled when
/// stopped.
Result<MustTrials> tryMustHaves(Engine& engine, const Recipe& recipe, int64_t first, int count,
    const std::stop_token& stop = {}, const std::function<void(double)>& progress = {});

}  // namespace acre
