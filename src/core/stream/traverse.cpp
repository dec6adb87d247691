#include "stream/traverse.h"

#include <fmt/format.h>
#include <unistd.h>

#include <algorithm>
#include <chrono>
#include <cmath>
#include <condition_variable>
#include <fstream>
#include <mutex>
#include <thread>
#include <unordered_set>

#include "base/fp_state.h"
#include "stream/collision.h"
#include "world/world.h"

namespace acre {
namespace {

using Clock = std::chrono::steady_clock;
using Seconds = std::chrono::duration<double>;

double millisBetween(Clock::time_point a, Clock::time_point b) {
  return std::chrono::duration<double, std::milli>(b - a).count();
}

/// Wakes the owner when something is ready.
class Bell {
 public:
  void ring() {
    {
      const std::lock_guard lock(mutex_);
      rung_ = true;
    }
    wake_.notify_one();
  }
  void wait(double millis) {
    std::unique_lock lock(mutex_);
    wake_.wait_for(lock, std::chrono::duration<double, std::milli>(millis), [&] { return rung_; });
    rung_ = false;
  }

 private:
  std::mutex mutex_;
  std::condition_variable wake_;
  bool rung_ = false;
};

/// A value among `zeros` zeros and `sorted` others, by its share of all.
double percentile(uint64_t zeros, const std::vector<float>& sorted, double share) {
  const uint64_t count = zeros + sorted.size();
  if (count == 0) return 0;
  const auto rank = static_cast<uint64_t>(std::ceil(share * static_cast<double>(count)));
  const uint64_t at = rank > 0 ? rank - 1 : 0;
  return at < zeros ? 0 : static_cast<double>(sorted[static_cast<size_t>(at - zeros)]);
}

/// What is needed, since when, and how long it was waited for.
class Waits {
 public:
  using Positions = std::vector<ChunkPos>;
  /// What is needed from now on; full: what comes is counted.
  template <class InHand>
  void need(Positions now, bool full, InHand&& inHand) {
    std::sort(now.begin(), now.end());
    const auto at = Clock::now();
    for (const ChunkPos pos : now) {
      if (std::binary_search(needed_.begin(), needed_.end(), pos)) continue;
      if (!inHand(pos))
        open_.try_emplace(pos, at);
      else if (full)
        ++zeros_;
    }
    needed_ = std::move(now);
  }
  /// Who came, who waits. seconds: along the route.
  template <class InHand>
  void count(double seconds, bool full, InHand&& inHand) {
    const auto now = Clock::now();
    for (auto it = open_.begin(); it != open_.end();) {
      const bool came = inHand(it->first);
      if (!came && std::binary_search(needed_.begin(), needed_.end(), it->first)) {
        ++it;
        continue;
      }
      if (full) {
        const auto waited = static_cast<float>(millisBetween(it->second, now));
        if (!came) ++figures_.given;
        waits_.push_back(waited);
        if (static_cast<double>(waited) > figures_.worst) {
          figures_.worst = static_cast<double>(waited);
          figures_.worstAt = seconds;
        }
      }
      it = open_.erase(it);
    }
  }
  /// So much time does not count.
  void put(Clock::duration off) {
    for (auto& [pos, since] : open_) since += off;
  }
  size_t needed() const { return needed_.size(); }
  size_t open() const { return open_.size(); }
  TraverseWaits figures() {
    std::sort(waits_.begin(), waits_.end());
    figures_.count = zeros_ + waits_.size();
    figures_.median = percentile(zeros_, waits_, 0.5);
    figures_.percent95 = percentile(zeros_, waits_, 0.95);
    figures_.percent99 = percentile(zeros_, waits_, 0.99);
    return figures_;
  }

 private:
  Positions needed_;
  std::unordered_map<ChunkPos, Clock::time_point, ChunkPosHash> open_;  // Needed and not there.
  std::vector<float> waits_;                                            // Those above 0.
  uint64_t zeros_ = 0;
  TraverseWaits figures_;
};

/// One run.
class Traverse {
 public:
  Traverse(std::shared_ptr<const ChunkSource> source, const TraverseSettings& settings)
      : source_(std::move(source)),
        settings_(settings),
        executor_(settings.threads),
        budget_(settings.memoryLimit),
        stream_(source_, settings.stream, executor_, budget_),
        extras_(settings.stream.extras.size()) {}

  TraverseReport run(
      const std::stop_token& stop, const std::function<void(const TraverseMoment&)>& each);

 private:
  void frame(double seconds, double endsAt);
  void take();
  void count(double seconds);
  bool inHand(ChunkPos pos) const;
  void close();

  std::shared_ptr<const ChunkSource> source_;
  TraverseSettings settings_;
  Executor executor_;
  MemoryBudget budget_;
  Bell bell_;
  Stream stream_;
  TraverseReport report_;

  std::unordered_map<ChunkPos, ChunkHandle, ChunkPosHash> held_;
  Waits chunks_;
  struct Extra {
    std::unordered_set<ChunkPos, ChunkPosHash> held;
    Waits waits;
  };
  std::vector<Extra> extras_;
  Cell view_;
  double consumer_ = 0;
  uint64_t residentAtStart_ = 0;
  uint64_t resident_ = 0;
  Clock::time_point begin_;
};

bool Traverse::inHand(ChunkPos pos) const {
  for (int level = 0; level < settings_.stream.levels; ++level, pos = parentOf(pos))
    if (held_.contains(pos)) return true;
  return false;
}

void Traverse::take() {
  const auto begin = Clock::now();
  Handover change = stream_.take(settings_.takePerFrame);
  for (const ChunkPos pos : change.hide) held_.erase(pos);
  for (ChunkHandle& chunk : change.show) held_.insert_or_assign(chunk->pos, std::move(chunk));
  for (const Handover::NoExtra& gone : change.clear) extras_[gone.index].held.erase(gone.pos);
  for (const Handover::Extra& extra : change.extras) extras_[extra.index].held.insert(extra.pos);
  consumer_ += millisBetween(begin, Clock::now());
}

/// Who came, who waits.
void Traverse::count(double seconds) {
  const bool full = report_.fullViewMillis >= 0;
  chunks_.count(seconds, full, [&](ChunkPos pos) { return inHand(pos); });
  for (Extra& extra : extras_)
    extra.waits.count(seconds, full, [&](ChunkPos pos) { return extra.held.contains(pos); });
}

/// One frame of the owner. endsAt: milliseconds since the start at which it is over.
void Traverse::frame(double seconds, double endsAt) {
  const double slow = settings_.stream.slowMotion;
  view_ = settings_.route.at(seconds, settings_.speed);
  auto begin = Clock::now();
  stream_.setView(view_);
  consumer_ = millisBetween(begin, Clock::now());
  take();

  const auto within = [&](int64_t distance) {
    return neededChunks(source_->layout(), source_->bounds(), view_, distance);
  };
  const bool full = report_.fullViewMillis >= 0;
  chunks_.need(
      within(settings_.stream.viewDistance), full, [&](ChunkPos pos) { return inHand(pos); });
  for (size_t n = 0; n < extras_.size(); ++n)
    extras_[n].waits.need(within(settings_.stream.extras[n].distance), full,
        [&](ChunkPos pos) { return extras_[n].held.contains(pos); });

  if (settings_.threads == 0) {  // By the owner's own hands, in what is left of the frame.
    while ((!settings_.realTime || millisBetween(begin_, Clock::now()) < endsAt - 2) &&
           stream_.runOne()) {
    }
    take();
  }
  count(seconds);
  while (!settings_.realTime && chunks_.open() > 0) {  // Each frame has all that it needs.
    const StreamStats now = stream_.stats();
    if (now.waiting + now.working + now.ready == 0 || now.limited || now.cut > 0) break;
    if (settings_.threads == 0) {
      if (!stream_.runOne() && now.ready == 0) break;
    } else {
      bell_.wait(5 * slow);
    }
    take();
    count(seconds);
  }
}

void Traverse::close() {
  report_.waits = chunks_.figures();
  for (size_t n = 0; n < extras_.size(); ++n)
    report_.extras.push_back({n < settings_.extraNames.size() ? settings_.extraNames[n] : "extra",
        settings_.stream.extras[n].distance, extras_[n].waits.figures()});
  report_.stream = stream_.stats();
  report_.failures = stream_.failures();
}

TraverseReport Traverse::run(
    const std::stop_token& stop, const std::function<void(const TraverseMoment&)>& each) {
  const FpState fp;
  report_.realTime = settings_.realTime;
  stream_.onReady([this] { bell_.ring(); });
  const double slow = settings_.stream.slowMotion;
  const double end = settings_.route.length(settings_.speed);
  const double seconds = end >= 0 ? std::min(settings_.seconds, end) : settings_.seconds;
  const auto frames = static_cast<int64_t>(std::ceil(seconds * settings_.framesPerSecond));
  const double frameMillis = 1000 * slow / settings_.framesPerSecond;
  report_.frames.reserve(static_cast<size_t>(std::min<int64_t>(frames, 1'000'000)));
  residentAtStart_ = residentBytes();
  begin_ = Clock::now();
  auto residentRead = begin_;
  uint32_t worstMissing = 0;
  for (int64_t f = 0; f < frames && !stop.stop_requested(); ++f) {
    const double at = static_cast<double>(f) / settings_.framesPerSecond;
    if (settings_.realTime)
      std::this_thread::sleep_until(begin_ + std::chrono::duration_cast<Clock::duration>(Seconds(
                                                 static_cast<double>(f) * frameMillis / 1000)));
    frame(at, static_cast<double>(f + 1) * frameMillis);

    const auto now = Clock::now();
    const StreamStats stats = stream_.stats();
    if (f == 0 || millisBetween(residentRead, now) > 50) {
      const uint64_t bytes = residentBytes();
      resident_ = bytes > residentAtStart_ ? bytes - residentAtStart_ : 0;
      residentRead = now;
    }
    TraverseFrame record;
    record.seconds = at;
    record.needed = static_cast<uint32_t>(chunks_.needed());
    record.missing = static_cast<uint32_t>(chunks_.open());
    record.loaded = static_cast<uint32_t>(held_.size());
    record.waiting = static_cast<uint32_t>(stats.waiting + stats.working + stats.ready);
    record.released = stats.released;
    record.bytes = budget_.used();
    record.resident = resident_;
    record.consumerMillis = consumer_;
    report_.frames.push_back(record);
    report_.peakBytes = std::max(report_.peakBytes, record.bytes);
    report_.peakResident = std::max(report_.peakResident, record.resident);
    if (consumer_ > report_.consumerWorst) {
      report_.consumerWorst = consumer_;
      report_.consumerWorstAt = at;
    }
    report_.leastMissing = std::min(report_.leastMissing, record.missing);
    if (report_.fullViewMillis >= 0) {
      report_.missing += record.missing;
      report_.missingFrames += record.missing > 0;
      if (record.missing > worstMissing) {
        worstMissing = record.missing;
        report_.missingAt = at;
      }
    } else if (record.missing == 0) {
      report_.fullViewMillis = millisBetween(begin_, now);
    }
    if (report_.limit.empty()) report_.limit = limitSentence(stats, budget_.limit());
    if (each) {
      const auto before = Clock::now();
      each({report_.frames.back(), view_, stream_});
      const auto away = Clock::now() - before;
      begin_ += away;  // It does not count, nor does it make anything wait.
      chunks_.put(away);
      for (Extra& extra : extras_) extra.waits.put(away);
    }
  }
  report_.finished = !stop.stop_requested();
  report_.elapsed = Seconds(Clock::now() - begin_).count();
  close();
  return std::move(report_);
}

}  // namespace

uint64_t residentBytes() {
  std::ifstream statm("/proc/self/statm");
  uint64_t all = 0, resident = 0;
  statm >> all >> resident;
  return resident * static_cast<uint64_t>(sysconf(_SC_PAGESIZE));
}

std::vector<ChunkPos> neededChunks(
    const ChunkLayout& layout, const Rect& bounds, Cell view, int64_t distance) {
  std::vector<ChunkPos> out;
  const ChunkPos low = layout.chunkOf({view.x - distance, view.z - distance});
  const ChunkPos high = layout.chunkOf({view.x + distance, view.z + distance});
  for (int64_t cz = low.cz; cz <= high.cz; ++cz)
    for (int64_t cx = low.cx; cx <= high.cx; ++cx) {
      const Rect ground = intersection(layout.rectOf({cx, cz}), bounds);
      if (!ground.empty() && squaredDistance(view, ground) <= distance * distance)
        for (int64_t cy = layout.lowestChunk(0); cy <= layout.highestChunk(0); ++cy)
          out.push_back({cx, cz, 0, cy});
    }
  return out;
}

Status checkTraverse(const ChunkSource& source, const TraverseSettings& s) {
  const auto refuse = [](const std::string& what, const char* name, const char* accepted) {
    return Error{Error::Code::InvalidInput, what, name, accepted};
  };
  if (const Status fits = checkStream(s.stream); !fits) return fits;
  if (!(s.speed > 0 && s.speed <= 1e6))
    return refuse(fmt::format("{} cells a second", s.speed), "speed", "above 0 to 1000000");
  if (!(s.seconds > 0 && s.seconds <= 86'400))
    return refuse(fmt::format("{} seconds", s.seconds), "seconds", "above 0 to 86400");
  if (!(s.framesPerSecond >= 1 && s.framesPerSecond <= 1000))
    return refuse(fmt::format("{} frames a second", s.framesPerSecond), "frames", "1 to 1000");
  if (s.threads > 256) return refuse(fmt::format("{} threads", s.threads), "threads", "0 to 256");
  if (s.takePerFrame < 1) return refuse("nothing taken", "chunks taken in a frame", "1 and up");
  if (s.route.kind == RouteKind::Points && s.route.points.empty())
    return refuse("a route without points", "route", "at least one point");
  const double side = source.layout().size();
  const auto distance =
      static_cast<double>(s.stream.viewDistance + s.stream.ahead + s.stream.margin);
  const double across = 2 * distance / side + 2;
  const double chunks = across * (0.8 * across + static_cast<double>(s.stream.lead) / side);
  if (chunks > static_cast<double>(WantedSet::mostOf(source.layout())))
    return refuse(fmt::format("a view distance of {} cells, with what is kept ahead and around it, "
                              "is about {:.0f} chunks of {}",
                      s.stream.viewDistance, chunks, source.layout().size()),
        "view distance", "at most 65536 chunks: larger chunks or a shorter distance");
  return done();
}

void addExtras(const std::shared_ptr<const World>& world, int64_t collision, int64_t objects,
    TraverseSettings& settings) {
  const ChunkLayout& layout = world->layout();
  if (collision >= 0) {
    settings.stream.extras.push_back(
        {collision, CollisionMap::mostBytes(layout), collisionMaker(world)});
    settings.extraNames.emplace_back("collision");
  }
  if (objects < 0 || !world->objects().any()) return;
  const uint64_t most = world->objects().mostIn(layout.size());
  settings.stream.extras.push_back(
      {objects, sizeof(ObjectsThere) + most * sizeof(PlacedObject), objectsThere});
  settings.extraNames.emplace_back("objects");
}

TraverseReport runTraverse(const std::shared_ptr<const ChunkSource>& source,
    const TraverseSettings& settings, const std::stop_token& stop,
    const std::function<void(const TraverseMoment&)>& each) {
  return Traverse(source, settings).run(stop, each);
}

std::string verdictOf(const TraverseReport& report) {
  const auto at = [](double seconds) {
    const auto whole = static_cast<int64_t>(seconds);
    return fmt::format("{}:{:02}", whole / 60, whole % 60);
  };
  std::string text;
  if (!report.limit.empty()) text = report.limit + ". ";
  if (!report.failures.empty()) text += fmt::format("{} chunks failed. ", report.failures.size());
  if (report.frames.empty()) return text + "The route takes no time: no frame was made.";
  if (report.fullViewMillis < 0)
    return text + fmt::format("The view was never whole: at best {} chunks were missing.",
                      report.leastMissing);
  const std::string worst =
      report.waits.worst > 0
          ? fmt::format("worst wait {:.0f} ms at {}", report.waits.worst, at(report.waits.worstAt))
          : fmt::format("every {}chunk was there before it was needed",
                report.failures.empty() ? "" : "other ");
  if (!report.realTime)
    return text + fmt::format("{:.0f} chunks a second; {}.", report.chunksPerSecond(), worst);
  if (report.missing == 0) return text + "Nothing missing; " + worst + ".";
  return text + fmt::format("{} missing chunk-frames, most at {}; {}.", report.missing,
                    at(report.missingAt), worst);
}

}  // namespace acre
