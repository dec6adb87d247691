/// One account for all bytes that grow with use: chunks, map tiles, pictures, queues.
#pragma once

#include <atomic>
#include <cstdint>
#include <memory>
#include <optional>
#include <utility>

namespace acre {

/// Thread-safe. Users reserve before they allocate and never hold more than they reserved.
class MemoryBudget {
 public:
  explicit MemoryBudget(uint64_t limitBytes) : limit_(limitBytes) {}

  /// Bytes held until destruction. Moves, does not copy.
  class Reservation {
   public:
    Reservation() = default;
    Reservation(Reservation&& o) noexcept
        : budget_(std::exchange(o.budget_, nullptr)), bytes_(std::exchange(o.bytes_, 0)) {}
    Reservation& operator=(Reservation&& o) noexcept {
      std::swap(budget_, o.budget_);
      std::swap(bytes_, o.bytes_);
      return *this;
    }
    ~Reservation() {
      if (budget_) budget_->used_.fetch_sub(bytes_, std::memory_order_relaxed);
    }
    uint64_t bytes() const { return bytes_; }
    /// Gives back all above `bytes`.
    void shrink(uint64_t bytes) {
      if (!budget_ || bytes >= bytes_) return;
      budget_->used_.fetch_sub(bytes_ - bytes, std::memory_order_relaxed);
      bytes_ = bytes;
    }

   private:
    friend class MemoryBudget;
    Reservation(MemoryBudget* budget, uint64_t bytes) : budget_(budget), bytes_(bytes) {}
    MemoryBudget* budget_ = nullptr;
    uint64_t bytes_ = 0;
  };

  /// The bytes, or nothing when they would pass the limit. REQUIRES: the budget outlives them.
  std::optional<Reservation> reserve(uint64_t bytes) {
    uint64_t used = used_.load(std::memory_order_relaxed);
    do {
      if (bytes > limit_ || used > limit_ - bytes) return std::nullopt;
    } while (!used_.compare_exchange_weak(used, used + bytes, std::memory_order_relaxed));
    return Reservation(this, bytes);
  }

  uint64_t used() const { return used_.load(std::memory_order_relaxed); }
  uint64_t limit() const { return limit_; }

 private:
  const uint64_t limit_;
  std::atomic<uint64_t> used_{0};
};

/// How much a part of a world may remember to save time; what it remembers changes no result.
struct MemoLimit {
  uint64_t bytes = uint64_t{24} << 20;   ///< 0: nothing is remembered.
  std::shared_ptr<MemoryBudget> budget;  ///< Nothing: nobody counts.
};

}  // namespace acre
