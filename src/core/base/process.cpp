#include "base/process.h"

#include <fmt/format.h>
#include <sys/resource.h>

#include <csignal>

namespace acre {

Status prepareProcess() {
  std::signal(SIGXFSZ, SIG_IGN);
  constexpr rlim_t kLeast = 1 << 20;
  rlimit stack{};
  if (::getrlimit(RLIMIT_STACK, &stack) == 0 && stack.rlim_cur < kLeast)
    return invalidInput(fmt::format("the stack is limited to {} KiB", stack.rlim_cur / 1024),
        "ulimit -s", fmt::format("{} and more", kLeast / 1024));
  return done();
}

}  // namespace acre
