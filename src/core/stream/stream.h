/// Keeps the chunks around a viewpoint loaded: nearest and ahead first, on worker threads, within a
/// budget. A game links this header and no other; docs/streaming.md shows it at work.
#pragma once

#include <functional>
#include <memory>
#include <optional>
#include <vector>

#include "base/budget.h"
#include "base/executor.h"
#include "stream/chunk_cache.h"
#include "stream/wanted.h"
#include "world/chunk.h"

namespace acre {

/// Something made from a finished chunk within a radius of its own, on the workers: collision data,
/// what stands on the ground, a mesh. Only chunks of level 0 have extras.
struct StreamExtra {
  /// What was made, and the bytes that it takes; no data: there is nothing for this chunk.
  struct Made {
    std::shared_ptr<const void> data;
    uint64_t bytes = 0;
  };
  int64_t distance = 0;       ///< Cells, as for chunks.
  uint64_t largestBytes = 0;  ///< Most that one can take.
  /// Called by several workers at once; polls the token. Must not throw.
  std::function<Made(const Chunk&, const std::stop_token&)> make;
};

struct StreamSettings {
  static constexpr int64_t kMostDistance = 65'536;

  int64_t viewDistance = 512;  ///< Cells, 0 ... 65,536; a chunk is needed when its nearest cell is
                               ///< no farther from the viewpoint than this.
  int64_t ahead = 0;           ///< So many cells farther chunks are loaded, to be there in time.
  int64_t lead = 0;            ///< In the direction of travel so many more, 0 ... 4 times both.
  int64_t margin = 0;          ///< So many more are kept, so that pacing to and fro loads nothing.
  size_t queuePlaces = 256;    ///< Chunks in work or waiting to be taken, 1 and up.
  uint64_t cacheBytes = 0;     ///< Chunks that were let go are kept up to here, if there is room.
  int levels = 1;              ///< Detail levels, 1 ... 9. Ground farther than `detail` cells comes
  int64_t detail = 256;        ///< at level 1, than twice that at level 2, and so on.
  double slowMotion = 1;       ///< Workers take so many times as long, for looking at: 1 and up.
  std::vector<StreamExtra> extras;

  /// What suits a viewpoint that moves at `speed` cells a second: four chunks ahead and a margin of
  /// two (of chunks larger than 32 cells fewer), a lead of half a second, and a cache. Machines
  /// stand still for a tenth of a second now and then; the lead is what hides it.
  static StreamSettings moving(int64_t viewDistance, int32_t chunkSize, double speed = 1500);
};

/// Refuses settings out of range, by name.
Status checkStream(const StreamSettings& settings);

/// Leaving: still with the owner, but only until it is out of the margin or its successors are
/// there.
enum class ChunkState { Wanted, Working, Ready, Held, Leaving, Failed };

/// What changed for the owner since the last take: places to clear, then chunks to show. A shown
/// chunk replaces one of the same place. One handover leaves no hole and no overlap: a coarse chunk
/// goes only together with the coming of all finer ones, and the other way round.
struct Handover {
  std::vector<ChunkPos> hide;
  std::vector<ChunkHandle> show;
  struct Extra {
    size_t index;  ///< In StreamSettings::extras.
    ChunkPos pos;
    std::shared_ptr<const void> data;  ///< Counted until the last owner lets go.
  };
  std::vector<Extra> extras;  ///< Of chunks shown now or before.
  struct NoExtra {
    size_t index;
    ChunkPos pos;
  };
  std::vector<NoExtra> clear;  ///< Extras to let go; those of hidden chunks among them.
};

struct StreamStats {
  size_t expected = 0;  ///< Chunks that are wanted, those ahead of need included.
  size_t needed = 0;    ///< Of these within the view distance.
  size_t missing = 0;   ///< Of those needed not with the owner.
  size_t held = 0;      ///< Wanted, taken by the owner, and current.
  size_t waiting = 0;   ///< Wanted, not begun.
  size_t working = 0;
  size_t ready = 0;    ///< Finished, not taken.
  size_t leaving = 0;  ///< With the owner, no longer wanted.
  size_t failed = 0;
  size_t cached = 0;
  size_t cut = 0;           ///< Wanted but left out: more than WantedSet::kMost.
  uint64_t asked = 0;       ///< Loads begun since the start.
  uint64_t built = 0;       ///< Finished since the start, each load once.
  uint64_t dropped = 0;     ///< Begun, but no longer wanted before they were finished.
  uint64_t found = 0;       ///< Loads that the cache answered.
  uint64_t released = 0;    ///< Taken back from the owner.
  uint64_t bytes = 0;       ///< Of ready, held, leaving and cached chunks.
  bool limited = false;     ///< The budget cannot hold all that is wanted: the nearest are there.
  uint64_t viewBytes = 0;   ///< What all that is wanted takes, by the mean of the chunks so far.
  double medianMillis = 0;  ///< Per chunk, over the last 64.
  StageTimes stages;        ///< Of all chunks built.
};

/// Thread-safe. The owner calls setView and take from one thread; workers make plain finished
/// chunks and touch nothing that the owner sees. A failed chunk stops nothing else.
class Stream {
 public:
  /// executor: with 0 threads nothing is made until runOne() is called. It and the budget must
  /// outlive the stream. Settings out of range are refused by checkStream and undefined here.
  Stream(std::shared_ptr<const ChunkSource> source, const StreamSettings& settings,
      Executor& executor, MemoryBudget& budget);
  ~Stream();  ///< stop()
  Stream(const Stream&) = delete;
  Stream& operator=(const Stream&) = delete;

  /// Moves the viewpoint; work for chunks that are no longer wanted is dropped. What lies in the
  /// direction of travel comes first: the way from the last viewpoint, unless it was a leap.
  /// y: the viewpoint's level; where chunks are divided along y, those about it come first.
  void setView(Cell viewpoint, int64_t y = 0);
  /// 0 ... StreamSettings::kMostDistance.
  void setViewDistance(int64_t cells);
  /// All chunks are wanted anew; the owner keeps the old ones until their successors arrive.
  void setSource(std::shared_ptr<const ChunkSource> source);

  /// The same where only some chunks differ: those for which changed(pos) holds are wanted anew,
  /// all others stay. REQUIRES: a source of the same layout and bounds.
  void setSource(
      std::shared_ptr<const ChunkSource> source, const std::function<bool(ChunkPos)>& changed);

  /// At most `most` chunks to show (a group that replaces a coarser chunk comes whole), and
  /// everything to hide. The owner goes on taking until nothing is left: onReady speaks again only
  /// after that.
  Handover take(size_t most);

  /// Makes the next wanted chunk or extra in the caller's thread; false when there is none (or no
  /// room).
  bool runOne();

  /// Called (from any thread, outside locks) when the first chunk waits to be taken, or when one
  /// has to be let go for want of room; never after stop(). It must not call stop().
  void onReady(std::function<void()> callback);

  /// Asks once more for a chunk that failed.
  void retry(ChunkPos pos);

  struct Failure {
    ChunkPos pos;
    Error error;  ///< Names chunk, stage and seed.
  };
  std::vector<Failure> failures() const;

  struct Place {
    ChunkPos pos;
    ChunkState state;
  };
  /// Every place that is wanted or with the owner, in no particular order.
  std::vector<Place> places() const;

  StreamStats stats() const;

  /// Stops the workers, waits for those in work, and lets all chunks go. Nothing is made
  /// afterwards.
  void stop();

 private:
  struct Impl;
  std::shared_ptr<Impl> impl_;
};

/// "The limit of 64 MiB cannot hold the view (91 MiB): the nearest 312 of 412 chunks are loaded;
/// set 128 MiB", or nothing when it can.
std::string limitSentence(const StreamStats& stats, uint64_t limitBytes);

}  // namespace acre
