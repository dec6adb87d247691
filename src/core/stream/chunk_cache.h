/// Chunks that were let go, in case the viewpoint comes back.
#pragma once

#include <list>
#include <memory>
#include <optional>
#include <unordered_map>
#include <utility>

#include "world/chunk.h"

namespace acre {

/// A chunk that the owner holds. Its bytes count against the budget until the last owner lets go.
using ChunkHandle = std::shared_ptr<const Chunk>;

struct ChunkPosHash {
  size_t operator()(const ChunkPos& p) const {
    const auto mix = static_cast<uint64_t>(p.cx) * 0x9E3779B97F4A7C15u ^
                     static_cast<uint64_t>(p.cz) * 0xC2B2AE3D27D4EB4Fu ^
                     static_cast<uint64_t>(p.cy) * 0x165667B19E3779F9u ^
                     static_cast<uint64_t>(p.detail) << 58;
    return static_cast<size_t>(mix ^ (mix >> 29));
  }
};

/// Forgets the least recently used beyond a number of bytes. Not thread-safe.
class ChunkCache {
 public:
  explicit ChunkCache(uint64_t mostBytes) : most_(mostBytes) {}

  void put(ChunkHandle chunk) {
    if (!chunk || chunk->bytes() > most_) return;
    const ChunkPos pos = chunk->pos;
    take(pos);
    bytes_ += chunk->bytes();
    recent_.push_front(std::move(chunk));
    places_[pos] = recent_.begin();
    while (bytes_ > most_) dropOldest();
  }
  /// The chunk, which the cache holds no longer; nullptr when it is not there.
  ChunkHandle take(ChunkPos pos) {
    const auto found = places_.find(pos);
    if (found == places_.end()) return nullptr;
    ChunkHandle chunk = std::move(*found->second);
    bytes_ -= chunk->bytes();
    recent_.erase(found->second);
    places_.erase(found);
    return chunk;
  }
  /// False when there is nothing to drop.
  bool dropOldest() {
    if (recent_.empty()) return false;
    const ChunkPos oldest = recent_.back()->pos;
    take(oldest);
    return true;
  }
  void clear() {
    recent_.clear();
    places_.clear();
    bytes_ = 0;
  }
  size_t size() const { return recent_.size(); }
  uint64_t bytes() const { return bytes_; }
  uint64_t mostBytes() const { return most_; }

 private:
  uint64_t most_;
  uint64_t bytes_ = 0;
  std::list<ChunkHandle> recent_;  // The latest first.
  std::unordered_map<ChunkPos, std::list<ChunkHandle>::iterator, ChunkPosHash> places_;
};

}  // namespace acre
