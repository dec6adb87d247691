/// A traverse: a viewpoint driven along a route, with an owner that takes chunks frame by frame as
/// a game would, and figures of how it went.
#pragma once

#include <functional>
#include <stop_token>
#include <string>
#include <vector>

#include "stream/route.h"
#include "stream/stream.h"

namespace acre {

class World;  // world/world.h

struct TraverseSettings {
  Route route;
  double speed = 1500;  ///< Cells a second, above 0 to 1,000,000.
  double seconds = 60;  ///< Of the route, above 0 to 86,400; a route of points may end earlier.
  double framesPerSecond = 60;  ///< 1 to 1,000.
  bool realTime = true;         ///< Else each frame waits for all that it needs, and for nothing.
  unsigned threads = 2;         ///< 0 to 256; 0: the owner makes chunks in what a frame leaves.
  uint64_t memoryLimit = uint64_t{1} << 30;
  size_t takePerFrame = 256;  ///< Most chunks that the owner takes in one frame, 1 and up.
  StreamSettings stream;      ///< slowMotion slows the route as well.
  std::vector<std::string> extraNames;  ///< Of stream.extras, for the report.
};

/// Adds what a game needs nearer than the ground: where one can walk ("collision"), and what stands
/// there ("objects"), each within so many cells; below 0: not.
void addExtras(const std::shared_ptr<const World>& world, int64_t collision, int64_t objects,
    TraverseSettings& settings);

/// Refuses by name what is out of range: settings, and views of more chunks than a stream keeps.
Status checkTraverse(const ChunkSource& source, const TraverseSettings& settings);

/// One frame.
struct TraverseFrame {
  double seconds = 0;     ///< Along the route.
  uint32_t needed = 0;    ///< Chunks within the view distance, counted here and not by the stream.
  uint32_t missing = 0;   ///< Of those not with the owner at the end of the frame.
  uint32_t loaded = 0;    ///< With the owner.
  uint32_t waiting = 0;   ///< Wanted, in work, or ready and not taken.
  uint64_t released = 0;  ///< Since the start.
  uint64_t bytes = 0;     ///< Reserved: chunks, cache, work and queue.
  uint64_t resident = 0;  ///< Of the process, above what it had at the start; read now and then.
  double consumerMillis = 0;  ///< What the owner's part of the frame took.
};

/// Milliseconds from the frame in which a chunk was needed first to the one that had it; 0: it was
/// there already. Over all chunks after the first full view.
struct TraverseWaits {
  uint64_t count = 0;
  double median = 0;
  double percent95 = 0;
  double percent99 = 0;
  double worst = 0;
  double worstAt = 0;  ///< Seconds along the route.
  uint64_t given = 0;  ///< Needed and no longer needed before they came.
};

/// How long the extras of one kind were waited for, from the frame in which their chunk came within
/// its distance.
struct TraverseExtra {
  std::string name;
  int64_t distance = 0;
  TraverseWaits waits;
};

struct TraverseReport {
  bool finished = false;  ///< Not stopped before the end.
  bool realTime = true;
  double elapsed = 0;  ///< Seconds on the clock.
  double fullViewMillis =
      -1;  ///< From the start to the first frame that missed nothing; < 0: never.
  TraverseWaits waits;
  std::vector<TraverseExtra> extras;   ///< In the order of the settings.
  uint32_t leastMissing = UINT32_MAX;  ///< In the best frame of all.
  uint64_t missing = 0;                ///< Chunk-frames after the first full view.
  uint64_t missingFrames = 0;          ///< Frames with something missing after it.
  double missingAt = -1;     ///< Seconds along the route where most was missing; < 0: nowhere.
  double consumerWorst = 0;  ///< Milliseconds.
  double consumerWorstAt = 0;
  uint64_t peakBytes = 0;
  uint64_t peakResident = 0;
  StreamStats stream;  ///< At the end.
  std::string limit;   ///< When the memory could not hold a view: says so.
  std::vector<Stream::Failure> failures;
  std::vector<TraverseFrame> frames;

  double chunksPerSecond() const {
    return elapsed > 0 ? static_cast<double>(stream.built) / elapsed : 0;
  }
};

/// A frame as it happens: called in the thread of the run, which waits meanwhile and does not count
/// the time.
struct TraverseMoment {
  const TraverseFrame& frame;
  Cell view;
  const Stream& stream;
};

/// Runs in the caller's thread with workers of its own. The settings must pass checkTraverse.
TraverseReport runTraverse(const std::shared_ptr<const ChunkSource>& source,
    const TraverseSettings& settings, const std::stop_token& stop = {},
    const std::function<void(const TraverseMoment&)>& each = {});

/// "Nothing missing; worst wait 38 ms at 0:41." or "212 missing chunk-frames ...".
std::string verdictOf(const TraverseReport& report);

/// Chunks of level 0 with a cell no farther than `distance` from `view`, row by row; the same that
/// a stream is to have, found without it.
std::vector<ChunkPos> neededChunks(
    const ChunkLayout& layout, const Rect& bounds, Cell view, int64_t distance);

/// Bytes of memory that this process holds now.
uint64_t residentBytes();

}  // namespace acre
