/// Keeps the chunks around a viewpoint loaded: nearest first, on worker threads, within a budget.
#pragma once

#include <functional>
#include <memory>
#include <optional>
#include <vector>

#include "base/budget.h"
#include "base/executor.h"
#include "world/world.h"

namespace acre {

struct StreamSettings {
  int64_t viewDistance = 512;  ///< Cells, 0 ... 65,536; a chunk is wanted when its nearest cell is
                               ///< no farther from the viewpoint than this.
  size_t queuePlaces = 256;    ///< Chunks in work or waiting to be taken, 1 and up.
};

enum class ChunkState { Wanted, Working, Ready, Held, Failed };

/// A chunk that the owner holds. Its bytes count against the budget until the last owner lets go.
using ChunkHandle = std::shared_ptr<const Chunk>;

/// What changed for the owner since the last take: chunks to show and places to clear. Hides come
/// first; a shown chunk replaces one of the same place.
struct Handover {
  std::vector<ChunkPos> hide;
  std::vector<ChunkHandle> show;
};

struct StreamStats {
  size_t expected = 0;  ///< Chunks that belong within the view distance.
  size_t held = 0;      ///< Taken by the owner, and current.
  size_t waiting = 0;   ///< Wanted, not begun.
  size_t working = 0;
  size_t ready = 0;  ///< Finished, not taken.
  size_t failed = 0;
  size_t cut = 0;           ///< Wanted but left out: more than kMostChunks.
  uint64_t built = 0;       ///< Finished since the start, each load once.
  uint64_t bytes = 0;       ///< Of ready and held chunks.
  double medianMillis = 0;  ///< Per chunk, over the last 64.
};

/// Thread-safe. The owner calls setView and take from one thread; workers make plain finished
/// chunks and touch nothing that the owner sees. A failed chunk stops nothing else.
class Stream {
 public:
  static constexpr size_t kMostChunks = 65'536;

  /// executor: with 0 threads nothing is made until runOne() is called. Both must outlive the
  /// stream.
  Stream(std::shared_ptr<const World> world, const StreamSettings& settings, Executor& executor,
         MemoryBudget& budget);
  ~Stream();  ///< stop()
  Stream(const Stream&) = delete;
  Stream& operator=(const Stream&) = delete;

  /// Moves the viewpoint; work for chunks that are no longer wanted is dropped.
  void setView(Cell viewpoint);
  void setViewDistance(int64_t cells);
  /// All chunks are wanted anew; the owner keeps the old ones until their successors arrive.
  void setWorld(std::shared_ptr<const World> world);

  /// At most `most` chunks to show, and everything to hide. The owner goes on taking until nothing
  /// is left: onReady speaks again only after that.
  Handover take(size_t most);

  /// Makes the next wanted chunk in the caller's thread; false when there is none (or no room).
  bool runOne();

  /// Called (from any thread, outside locks) when the first chunk waits to be taken; never after
  /// stop(). It must not call stop().
  void onReady(std::function<void()> callback);

  /// Asks once more for a chunk that failed.
  void retry(ChunkPos pos);

  struct Failure {
    ChunkPos pos;
    Error error;
  };
  std::vector<Failure> failures() const;

  struct Place {
    ChunkPos pos;
    ChunkState state;
  };
  /// Every place within the view distance, in no particular order.
  std::vector<Place> places() const;

  StreamStats stats() const;

  /// Stops the workers, waits for those in work, and lets all chunks go. Nothing is made
  /// afterwards.
  void stop();

 private:
  struct Impl;
  std::shared_ptr<Impl> impl_;
};

}  // namespace acre
