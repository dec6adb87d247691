#include "app/window/end_signals.h"

#include <fcntl.h>
#include <signal.h>
#include <unistd.h>

#include <atomic>
#include <cerrno>

namespace app {
namespace {

constexpr int kSignals[] = {SIGTERM, SIGHUP, SIGINT};
std::atomic<int> writeEnd = -1;
static_assert(std::atomic<int>::is_always_lock_free, "a handler reads it");

void heard(int) {
  const int before = errno;  // Of whatever was interrupted.
  const char byte = 0;
  [[maybe_unused]] const ssize_t sent = ::write(writeEnd, &byte, 1);  // Full: one is on its way.
  errno = before;
}

}  // namespace

EndSignals::EndSignals(std::function<void()> end) {
  if (::pipe2(ends_, O_CLOEXEC | O_NONBLOCK) != 0) return;  // As it was: the signals end at once.
  writeEnd = ends_[1];
  notifier_ = std::make_unique<QSocketNotifier>(ends_[0], QSocketNotifier::Read);
  QObject::connect(
      notifier_.get(), &QSocketNotifier::activated, notifier_.get(), [this, end = std::move(end)] {
        notifier_->setEnabled(false);
        end();
      });
  struct sigaction action = {};
  action.sa_handler = heard;
  action.sa_flags = SA_RESTART;
  for (const int signal : kSignals) ::sigaction(signal, &action, nullptr);
}

EndSignals::~EndSignals() {
  for (const int signal : kSignals) ::signal(signal, SIG_DFL);
  writeEnd = -1;
  notifier_.reset();
  for (const int end : ends_)
    if (end >= 0) ::close(end);
}

}  // namespace app
