/// Carries what workers finish to an object of the interface thread, as long as that object lives.
#pragma once

#include <QMetaObject>
#include <functional>
#include <memory>
#include <mutex>

namespace app {

/// Shared between an owner (a QObject) and the tasks that it submits. The owner closes it first
/// thing in its destructor; afterwards deliveries vanish.
template <class Owner>
class Courier {
 public:
  explicit Courier(Owner* owner) : owner_(owner) {}

  /// From any thread: runs act(owner) in the owner's thread, in the order of delivery.
  void deliver(std::function<void(Owner&)> act) {
    const std::lock_guard lock(mutex_);
    if (!owner_) return;
    QMetaObject::invokeMethod(
        owner_, [owner = owner_, act = std::move(act)] { act(*owner); }, Qt::QueuedConnection);
  }

  void close() {
    const std::lock_guard lock(mutex_);
    owner_ = nullptr;
  }

 private:
  std::mutex mutex_;
  Owner* owner_;
};

}  // namespace app
