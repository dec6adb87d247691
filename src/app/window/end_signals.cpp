#include "app/window/end_signals.h"

#include <fcntl.h>
#include <signal.h>
#include <unistd.h>

namespace app {
namespace {

constexpr int kSignals[] = {SIGTERM, SIGHUP, SIGINT};
int writeEnd = -1;

void heard(int) {
  const char byte = 0;
  if (::write(writeEnd, &byte, 1) < 0) return;  // Full: somebody is about to read.
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
