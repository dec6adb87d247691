/// What a Stream keeps, for the files that implement it: stream_follow.cpp (which chunks are wanted
/// and in what order), stream_work.cpp (workers, room, handing over) and stream.cpp (what the owner
/// calls).
#pragma once

#include <array>
#include <condition_variable>
#include <deque>
#include <mutex>
#include <set>
#include <unordered_map>

#include "stream/stream.h"

namespace acre {

/// What the stream itself keeps per chunk, counted with the chunk.
inline constexpr uint64_t kSlotBytes = 320;

struct Stream::Impl : std::enable_shared_from_this<Stream::Impl> {
  struct Slot {
    ChunkState state = ChunkState::Wanted;
    bool wanted = true;
    bool shown = false;  // The owner has a chunk here, perhaps an older one.
    ChunkHandle ready;
    std::weak_ptr<const Chunk> held;
    uint64_t bytes = 0;
    std::optional<Error> error;
    std::stop_source work{std::nostopstate};
    uint64_t job = 0;  // Which piece of work is to be for this slot.
  };
  enum class ExtraState { Waiting, Queued, Working, Done };
  struct ExtraSlot {
    ExtraState state = ExtraState::Waiting;
    bool shown = false;
  };
  /// What is kept for one of the extras.
  struct Ring {
    StreamExtra what;
    WantedSet wanted;
    std::unordered_map<ChunkPos, ExtraSlot, ChunkPosHash> slots;
  };
  struct ExtraPlace {
    size_t index;
    ChunkPos pos;
  };
  struct Entry {
    double score;
    ChunkPos pos;
    bool operator<(const Entry& o) const {
      return std::tie(score, pos.cz, pos.cx, pos.cy, pos.detail) <
             std::tie(o.score, o.pos.cz, o.pos.cx, o.pos.cy, o.pos.detail);
    }
  };

  Impl(std::shared_ptr<const ChunkSource> from, const StreamSettings& s, Executor& e,
      MemoryBudget& b)
      : source(std::move(from)),
        settings(s),
        executor(e),
        budget(b),
        wanted(source->layout(), source->bounds()),
        cache(s.cacheBytes) {
    for (const StreamExtra& extra : s.extras)
      rings.push_back({extra, WantedSet(source->layout(), source->bounds()), {}});
  }

  // ---- all below REQUIRE the lock ---------------------------------------------------------------

  Reach reachOf() const;

  /// Brings the slots up to date with the viewpoint: what left is dropped, what came is wanted.
  void follow();
  /// visit(pos) for every chunk of a column.
  template <class Visit>
  void eachOf(ChunkPos column, Visit&& visit) const {
    const ChunkLayout& layout = source->layout();
    const int64_t last = layout.highestChunk(column.detail);
    for (column.cy = layout.lowestChunk(column.detail); column.cy <= last; ++column.cy)
      visit(column);
  }
  /// What is wanted where a chunk stands that is not wanted itself; see WantedSet::heirs.
  std::vector<ChunkPos> heirsOf(ChunkPos pos) const;
  void come(ChunkPos pos);

  /// near: the chunk may stay if it is there.
  void leave(ChunkPos pos, bool near);

  /// Coarse and fine chunks that waited for successors which are not wanted any more.
  void releaseHeirless();

  using Slots = std::unordered_map<ChunkPos, Slot, ChunkPosHash>;
  void drop(Slots::iterator found);
  double scoreOf(ChunkPos pos) const;
  bool isWanted(ChunkPos pos) const;

  /// Scores what is pending anew and puts the best in order; the rest is sorted when it is reached.
  void resort();

  /// The slot of the best wanted chunk, at pending[cursor]; nullptr when there is none.
  Slot* nextWanted();
  bool roomInQueue() const;

  // ---- extras -----------------------------------------------------------------------------------

  /// Queues an extra whose chunk is there.
  void offerExtra(size_t index, ChunkPos pos);
  ChunkHandle chunkAt(ChunkPos pos) const;

  /// The owner lets the extra go; it may be wanted again when its chunk comes back.
  void withdrawExtra(size_t index, ChunkPos pos);
  void dropExtra(size_t index, ChunkPos pos);

  /// The best queued extra, taken from the queue.
  std::optional<ExtraPlace> nextExtra();

  // ---- room -------------------------------------------------------------------------------------

  /// Credit for the work on `pos`. Where the budget is full, what is needed least is let go: the
  /// cache, what only the margin keeps, then what lies farther than `pos`. Chunks that the owner
  /// holds give their room back when it lets go.
  std::optional<MemoryBudget::Reservation> creditFor(ChunkPos pos, uint64_t bytes);
  Slots::iterator leastNeeded(ChunkPos than);

  // ---- workers ----------------------------------------------------------------------------------

  // kick, submitTicket, kickIfMissed and runOne take the lock themselves; runExtra and tell are
  // given it and return without it.

  bool anythingToDo() { return !extrasQueued.empty() || nextWanted() != nullptr; }

  /// Keeps as many tickets in the pool as there are workers that could be used.
  void kick();

  /// A ticket works for about a millisecond, then lets what is more urgent in the pool go first.
  void submitTicket();

  /// A wish may have come between a worker's last look and its leaving.
  void kickIfMissed();
  bool runOne();
  bool runExtra(const ExtraPlace& extra, std::unique_lock<std::mutex>& lock);

  /// Releases the lock and, if there is something new for it, calls the owner.
  void tell(std::unique_lock<std::mutex>& lock);
  /// The same, after which stop() no longer waits for this worker.
  void endWork(std::unique_lock<std::mutex>& lock);
  void finish(ChunkPos pos, uint64_t job, Result<ChunkHandle> made,
      MemoryBudget::Reservation credit, double millis, const StageTimes& times);
  void file(ChunkPos pos, Slot& slot, ChunkHandle chunk);

  // ---- handing over -----------------------------------------------------------------------------

  /// Hands a ready chunk over together with what it replaces; false while others of its group are
  /// not ready.
  bool show(ChunkPos pos, Handover& out);
  void take(size_t most, Handover& out);

  static constexpr size_t kSorted = 2048;

  std::mutex mutex;
  std::condition_variable idle;
  std::shared_ptr<const ChunkSource> source;
  StreamSettings settings;
  Executor& executor;
  MemoryBudget& budget;
  std::stop_source stopSource;
  std::function<void()> ready;

  Cell view;
  int64_t viewY = 0;
  bool viewKnown = false;
  double headingX = 0, headingZ = 0;  // Of length 1, or 0.
  uint64_t epoch = 0;
  WantedSet wanted;
  std::vector<Entry> pending;  // Entries may be stale.
  size_t cursor = 0;           // Everything before it is past Wanted.
  size_t sorted = 0;           // Up to here it is in order.
  Slots slots;
  std::set<ChunkPos> leaving;      // Shown, and waiting for their heirs.
  std::deque<ChunkPos> readyList;  // In the order of finishing; entries may be stale.
  std::vector<ChunkPos> hides;
  ChunkCache cache;

  std::vector<Ring> rings;
  std::vector<ExtraPlace> extrasQueued;
  std::vector<Handover::Extra> extrasReady;
  std::vector<Handover::NoExtra> extrasGone;

  size_t readyCount = 0;
  size_t settledCount = 0;
  size_t workingCount = 0;
  size_t inFlight = 0;  // Workers inside runOne, the ready callback included.
  size_t tickets = 0;
  bool blocked = false;  // For want of room, until the owner was heard of.
  bool limited = false;  // Not even by letting go of what is not wanted.
  bool mustTell = false;
  StreamStats figures;  // Its counters alone.
  uint64_t builtBytes = 0;
  std::array<double, 64> recent{};
};

}  // namespace acre
