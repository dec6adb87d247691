/// Parallel loops for batch work. All of them run here, so that the number of threads is one
/// matter.
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

#if defined(__SANITIZE_THREAD__)

/// Under the thread sanitizer loops run on plain threads: the parallel library is not built for it,
/// and the bodies are what should be checked.
inline unsigned& threadsHere() {
  thread_local unsigned threads = std::max(1u, std::thread::hardware_concurrency());
  return threads;
}

/// Runs work(), whose loops use at most so many threads; 0: as many as there are processors.
template <class Work>
void withThreads(unsigned threads, const Work& work) {
  const unsigned before = threadsHere();
  if (threads > 0) threadsHere() = threads;
  work();
  threadsHere() = before;
}

template <class Body>
void parallelFor(int32_t count, const Body& body) {
  std::atomic<int32_t> next{0};
  std::vector<std::jthread> workers;
  for (unsigned t = 0; t < threadsHere(); ++t)
    workers.emplace_back([&] {
      const FpState fp;
      for (int32_t i = next++; i < count; i = next++) body(i);
    });
}

#else

/// Runs work(), whose loops use at most so many threads, this one among them; 0: as many as there
/// are processors. Loops of others that run meanwhile keep their own number.
template <class Work>
void withThreads(unsigned threads, const Work& work) {
  // More than there are processors are given when they are asked for.
  static const tbb::global_control allow(tbb::global_control::max_allowed_parallelism, 256);
  if (threads == 0) return work();
  tbb::task_arena(static_cast<int>(threads)).execute(work);
}

/// Runs body(0) ... body(count - 1), in any order, and returns when all are done. Bodies must not
/// throw.
template <class Body>
void parallelFor(int32_t count, const Body& body) {
  tbb::parallel_for(0, count, [&](int32_t i) {
    const FpState fp;
    body(i);
  });
}

#endif

/// The same for whoever is waited for meanwhile, as what a memo makes: while it waits for the loop,
/// this thread takes up no other loop's work, which could wait for this.
template <class Body>
void parallelForAlone(int32_t count, const Body& body) {
#if defined(__SANITIZE_THREAD__)
  parallelFor(count, body);
#else
  tbb::this_task_arena::isolate([&] { parallelFor(count, body); });
#endif
}

/// The same on at most so many threads; 0: as many as there are processors.
template <class Body>
void parallelFor(unsigned threads, int32_t count, const Body& body) {
  withThreads(threads, [&] { parallelFor(count, body); });
}

}  // namespace acre
