/// Parallel loops for batch work.
#pragma once

#include <algorithm>
#include <cstdint>

#include "base/fp_state.h"

#if defined(__SANITIZE_THREAD__)
#include <atomic>
#include <thread>
#include <vector>
#else
#include <tbb/global_control.h>
#include <tbb/parallel_for.h>
#include <tbb/task_arena.h>
#endif

namespace acre {

/// Runs body(0) ... body(count - 1) on at most `threads` threads, in any order, and returns when
/// all are done. Bodies must not throw. Under the thread sanitizer the loop runs on plain threads:
/// the parallel library is not built for it, and the bodies are what should be checked.
template <class Body>
void parallelFor(unsigned threads, int32_t count, const Body& body) {
#if defined(__SANITIZE_THREAD__)
  std::atomic<int32_t> next{0};
  std::vector<std::jthread> workers;
  for (unsigned t = 0; t < std::max(1u, threads); ++t)
    workers.emplace_back([&] {
      const FpState fp;
      for (int32_t i = next++; i < count; i = next++) body(i);
    });
#else
  // More threads than processors are given when they are asked for.
  const tbb::global_control allow(tbb::global_control::max_allowed_parallelism,
                                  std::max(1u, threads));
  tbb::task_arena arena(static_cast<int>(std::max(1u, threads)));
  arena.execute([&] {
    tbb::parallel_for(0, count, [&](int32_t i) {
      const FpState fp;
      body(i);
    });
  });
#endif
}

}  // namespace acre
