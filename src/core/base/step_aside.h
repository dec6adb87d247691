/// Where there are fewer processors than threads, whoever waits for an answer goes first.
#pragma once

#include <sys/resource.h>
#include <unistd.h>

namespace acre {

/// Gives way to others from now on; the threads that this one starts do, too. A refusal only costs
/// smoothness.
inline void stepAside() {
  (void)setpriority(PRIO_PROCESS, static_cast<id_t>(gettid()), 10);
}

}  // namespace acre
