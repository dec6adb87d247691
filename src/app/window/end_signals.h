/// SIGTERM, SIGHUP and SIGINT, heard in the event loop.
#pragma once

#include <QSocketNotifier>
#include <functional>
#include <memory>

namespace app {

/// One at a time. The handler itself only writes a byte into a pipe; what it asks for is done by
/// whoever reads it, on the interface's thread.
class EndSignals {
 public:
  explicit EndSignals(std::function<void()> end);
  ~EndSignals();
  EndSignals(const EndSignals&) = delete;
  EndSignals& operator=(const EndSignals&) = delete;

 private:
  int ends_[2] = {-1, -1};
  std::unique_ptr<QSocketNotifier> notifier_;
};

}  // namespace app
