/// Remembers what is dear to make, within a number of bytes.
#pragma once

#include <condition_variable>
#include <cstdint>
#include <cstring>
#include <list>
#include <memory>
#include <mutex>
#include <stop_token>
#include <type_traits>
#include <unordered_map>

#include "base/budget.h"
#include "base/hash.h"

namespace acre {

/// Of keys that are nothing but whole numbers.
struct MemoHash {
  template <class Key>
  size_t operator()(const Key& key) const {
    static_assert(std::has_unique_object_representations_v<Key> && sizeof(Key) % 4 == 0);
    uint32_t words[sizeof(Key) / 4];
    std::memcpy(words, &key, sizeof(Key));
    uint64_t hash = 0;
    for (size_t n = 0; n < sizeof(Key) / 4; n += 2)
      hash =
          mix64(hash ^ (words[n] | (n + 1 < sizeof(Key) / 4 ? uint64_t{words[n + 1]} << 32 : 0)));
    return hash;
  }
};

/// Values by key, each made once however many threads ask at a time; what was not asked for the
/// longest goes first. It saves time and changes no result: with 0 bytes nothing is remembered.
/// Thread-safe. Value has `uint64_t bytes() const`, which does not change.
///
/// make() may ask for other values, of this memo too, as long as no asking leads back to where it
/// came from: then nobody waits in a circle.
template <class Key, class Value>
class Memo {
 public:
  using Handle = std::shared_ptr<const Value>;

  explicit Memo(MemoLimit limit = {0, nullptr}) : limit_(std::move(limit)) {}

  /// The value of a key: make()'s, a Handle, unless it is known. Nothing when make() gave nothing,
  /// which leaves the key to whoever asks next, or when the waiting was stopped.
  template <class Make>
  Handle get(const Key& key, const std::stop_token& stop, Make&& make) const {
    if (limit_.bytes == 0) return make();
    std::unique_lock lock(mutex_);
    while (true) {
      const auto known = slots_.find(key);
      if (known == slots_.end()) break;
      if (known->second.value) {
        recent_.splice(recent_.begin(), recent_, known->second.place);
        return known->second.value;
      }
      if (!settled_.wait(lock, stop, [&] {
            const auto slot = slots_.find(key);
            return slot == slots_.end() || slot->second.value;
          }))
        return nullptr;
    }
    slots_.try_emplace(key);  // In work.
    lock.unlock();
    Handle made;
    try {
      made = make();
    } catch (...) {
      lock.lock();
      slots_.erase(key);
      settled_.notify_all();
      throw;
    }
    lock.lock();
    if (!made || !keep(key, made)) slots_.erase(key);
    settled_.notify_all();
    return made;
  }

  /// Whether a value is there already. It may go again at any time.
  bool has(const Key& key) const {
    const std::lock_guard lock(mutex_);
    const auto known = slots_.find(key);
    return known != slots_.end() && known->second.value;
  }

  uint64_t bytes() const {
    const std::lock_guard lock(mutex_);
    return bytes_;
  }

 private:
  struct Slot {
    Handle value;  // Nothing: in work.
    typename std::list<Key>::iterator place;
    MemoryBudget::Reservation room;
  };

  /// False when there is no room for it, whatever goes.
  bool keep(const Key& key, const Handle& made) const {
    const uint64_t need = made->bytes();
    if (need > limit_.bytes) return false;
    MemoryBudget::Reservation room;
    const auto reserve = [&] {
      if (!limit_.budget) return true;
      auto reserved = limit_.budget->reserve(need);
      if (reserved) room = std::move(*reserved);
      return reserved.has_value();
    };
    bool fits = reserve();
    while ((bytes_ + need > limit_.bytes || !fits) && !recent_.empty()) {
      const auto last = slots_.find(recent_.back());
      bytes_ -= last->second.value->bytes();
      slots_.erase(last);  // Whoever works with the value holds it.
      recent_.pop_back();
      fits = fits || reserve();
    }
    if (bytes_ + need > limit_.bytes || !fits) return false;
    bytes_ += need;
    recent_.push_front(key);
    Slot& slot = slots_[key];
    slot.value = made;
    slot.place = recent_.begin();
    slot.room = std::move(room);
    return true;
  }

  MemoLimit limit_;
  mutable std::mutex mutex_;
  mutable std::condition_variable_any settled_;
  mutable std::unordered_map<Key, Slot, MemoHash> slots_;
  mutable std::list<Key> recent_;  // The latest first.
  mutable uint64_t bytes_ = 0;
};

}  // namespace acre
