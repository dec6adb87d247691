#include "stream/stream.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <chrono>
#include <cmath>
#include <condition_variable>
#include <deque>
#include <mutex>
#include <thread>

#include "recipe/validate.h"
#include "world/world.h"

namespace acre {
namespace {

using Clock = std::chrono::steady_clock;

double millisSince(Clock::time_point begin) {
  return std::chrono::duration<double, std::milli>(Clock::now() - begin).count();
}

/// What the stream itself keeps per chunk, counted with the chunk.
constexpr uint64_t kSlotBytes = 320;

/// A value that holds its credit until the last owner lets go.
template <class T>
std::shared_ptr<const T> counted(std::shared_ptr<const T> value, MemoryBudget::Reservation credit) {
  struct Both {
    std::shared_ptr<const T> value;
    MemoryBudget::Reservation credit;
  };
  const T* plain = value.get();
  return {std::make_shared<Both>(Both{std::move(value), std::move(credit)}), plain};
}

}  // namespace

StreamSettings StreamSettings::moving(int64_t viewDistance, int32_t chunkSize) {
  StreamSettings s;
  s.viewDistance = viewDistance;
  s.ahead = int64_t{4} * chunkSize;
  s.margin = int64_t{2} * chunkSize;
  s.cacheBytes = uint64_t{64} << 20;
  return s;
}

Status checkStream(const StreamSettings& s) {
  const auto refuse = [](const char* name, int64_t value, std::string accepted) {
    return Error{Error::Code::InvalidInput, fmt::format("{}", value), name, std::move(accepted)};
  };
  const std::string cells = fmt::format("0 to {} cells", StreamSettings::kMostDistance);
  const auto out = [](int64_t v) { return v < 0 || v > StreamSettings::kMostDistance; };
  if (out(s.viewDistance)) return refuse("view distance", s.viewDistance, cells);
  if (out(s.ahead)) return refuse("ahead", s.ahead, cells);
  if (out(s.margin)) return refuse("margin", s.margin, cells);
  if (s.levels < 1 || s.levels > World::kMostLevel + 1)
    return refuse("detail levels", s.levels, fmt::format("1 to {}", World::kMostLevel + 1));
  if (s.levels > 1 && (s.detail < 1 || out(s.detail)))
    return refuse("detail distance", s.detail, "1 to 65536 cells");
  if (s.queuePlaces < 1) return refuse("queue places", 0, "1 and up");
  if (!(s.slowMotion >= 1 && s.slowMotion <= 100'000))
    return refuse("slow motion", static_cast<int64_t>(s.slowMotion), "1 to 100000");
  for (const StreamExtra& extra : s.extras)
    if (out(extra.distance)) return refuse("distance of an extra", extra.distance, cells);
  return done();
}

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
      return std::tie(score, pos.cz, pos.cx, pos.level) <
             std::tie(o.score, o.pos.cz, o.pos.cx, o.pos.level);
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

  Reach reachOf() const {
    Reach reach{settings.viewDistance + settings.ahead, settings.margin, settings.levels,
                settings.detail};
    // What has extras is never coarse.
    for (const Ring& ring : rings)
      reach.detail = std::max(reach.detail, ring.what.distance + settings.margin);
    return reach;
  }

  /// Brings the slots up to date with the viewpoint: what left is dropped, what came is wanted.
  void follow() {
    const WantedSet::Change change = wanted.move(view, reachOf());
    for (const ChunkPos pos : change.come) come(pos);  // While the cache has not got the others.
    for (const ChunkPos pos : change.go) leave(pos, false);
    for (const ChunkPos pos : change.fade) leave(pos, true);
    if (settings.levels > 1) releaseHeirless();
    for (size_t i = 0; i < rings.size(); ++i) {
      Ring& ring = rings[i];
      const auto moved = ring.wanted.move(view, {ring.what.distance, settings.margin, 1, 0});
      for (const ChunkPos pos : moved.go) dropExtra(i, pos);
      for (const ChunkPos pos : moved.come) {
        ring.slots.try_emplace(pos);
        offerExtra(i, pos);
      }
    }
    resort();
  }

  void come(ChunkPos pos) {
    Slot& slot = slots[pos];
    slot.wanted = true;
    leaving.erase(pos);
    if (slot.state == ChunkState::Leaving) slot.state = ChunkState::Held;
    if (slot.state != ChunkState::Wanted) return;  // In work, or there.
    if (ChunkHandle known = cache.take(pos)) {
      ++figures.found;
      file(pos, slot, std::move(known));
      return;
    }
    pending.push_back({0, pos});
  }

  /// near: the chunk may stay if it is there.
  void leave(ChunkPos pos, bool near) {
    const auto found = slots.find(pos);
    if (found == slots.end()) return;
    Slot& slot = found->second;
    slot.wanted = false;
    switch (slot.state) {
      case ChunkState::Working:
        // Nearby it is finished for the cache; otherwise it would be in the way.
        if (!near) slot.work.request_stop();
        if (near && !slot.shown) return;
        break;
      case ChunkState::Held:
      case ChunkState::Leaving:
        if (near || (settings.levels > 1 && !wanted.heirs(pos).empty())) {
          slot.state = ChunkState::Leaving;
          if (!near) leaving.insert(pos);
          return;
        }
        break;
      default:
        break;
    }
    drop(found);
  }

  /// Coarse and fine chunks that waited for successors which are not wanted any more.
  void releaseHeirless() {
    const std::set<ChunkPos> waiting = leaving;
    for (const ChunkPos pos : waiting)
      if (wanted.heirs(pos).empty()) drop(slots.find(pos));
  }

  using Slots = std::unordered_map<ChunkPos, Slot, ChunkPosHash>;
  void drop(Slots::iterator found) {
    const ChunkPos pos = found->first;
    Slot& slot = found->second;
    if (slot.shown) {
      hides.push_back(pos);
      ++figures.released;
    }
    if (slot.ready) {
      --readyCount;
      cache.put(std::move(slot.ready));
    } else if (slot.state == ChunkState::Held || slot.state == ChunkState::Leaving) {
      cache.put(slot.held.lock());
    }
    leaving.erase(pos);
    for (size_t i = 0; i < rings.size(); ++i) withdrawExtra(i, pos);
    slots.erase(found);
  }

  double scoreOf(ChunkPos pos) const {
    const Rect ground = intersection(source->layout().rectOf(pos), source->bounds());
    const auto away = static_cast<double>(squaredDistance(view, ground));
    const double dx = static_cast<double>(ground.x + ground.width / 2 - view.x);
    const double dz = static_cast<double>(ground.z + ground.height / 2 - view.z);
    const double length = std::sqrt(dx * dx + dz * dz);
    const double ahead = length > 0 ? (dx * headingX + dz * headingZ) / length : 0;
    return std::sqrt(away) * (1 - 0.5 * ahead);
  }

  bool isWanted(ChunkPos pos) const {
    const auto found = slots.find(pos);
    return found != slots.end() && found->second.wanted &&
           found->second.state == ChunkState::Wanted;
  }

  /// Scores what is pending anew and puts the best in order; the rest is sorted when it is reached.
  void resort() {
    if (cursor >= pending.size()) {
      pending.clear();
      cursor = sorted = 0;
      return;
    }
    size_t kept = 0;
    for (size_t i = cursor; i < pending.size(); ++i)
      if (isWanted(pending[i].pos)) pending[kept++] = {scoreOf(pending[i].pos), pending[i].pos};
    pending.resize(kept);
    cursor = 0;
    sorted = std::min(kept, kSorted);
    const auto middle = pending.begin() + static_cast<ptrdiff_t>(sorted);
    std::partial_sort(pending.begin(), middle, pending.end());
  }

  /// The slot of the best wanted chunk, at pending[cursor]; nullptr when there is none.
  Slot* nextWanted() {
    for (; cursor < pending.size(); ++cursor) {
      if (cursor >= sorted) {
        resort();
        if (cursor >= pending.size()) break;
      }
      const auto found = slots.find(pending[cursor].pos);
      if (found != slots.end() && found->second.wanted && found->second.state == ChunkState::Wanted)
        return &found->second;
    }
    return nullptr;
  }

  bool roomInQueue() const {
    const size_t waiting = readyCount + extrasReady.size();
    return workingCount + waiting - std::min(waiting, settledCount) < settings.queuePlaces;
  }

  // ---- extras -----------------------------------------------------------------------------------

  /// Queues an extra whose chunk is there.
  void offerExtra(size_t index, ChunkPos pos) {
    ExtraSlot& slot = rings[index].slots[pos];
    if (slot.state != ExtraState::Waiting || !chunkAt(pos)) return;
    slot.state = ExtraState::Queued;
    extrasQueued.push_back({index, pos});
  }

  ChunkHandle chunkAt(ChunkPos pos) const {
    const auto found = slots.find(pos);
    if (found == slots.end()) return nullptr;
    return found->second.ready ? found->second.ready : found->second.held.lock();
  }

  /// The owner lets the extra go; it may be wanted again when its chunk comes back.
  void withdrawExtra(size_t index, ChunkPos pos) {
    const auto found = rings[index].slots.find(pos);
    if (found == rings[index].slots.end()) return;
    if (found->second.shown) extrasGone.push_back({index, pos});
    found->second = {};
  }

  void dropExtra(size_t index, ChunkPos pos) {
    withdrawExtra(index, pos);
    rings[index].slots.erase(pos);
  }

  /// The best queued extra, taken from the queue.
  std::optional<ExtraPlace> nextExtra() {
    std::erase_if(extrasQueued, [&](const ExtraPlace& e) {
      const auto found = rings[e.index].slots.find(e.pos);
      return found == rings[e.index].slots.end() || found->second.state != ExtraState::Queued;
    });
    const auto best = std::min_element(
        extrasQueued.begin(), extrasQueued.end(), [&](const ExtraPlace& a, const ExtraPlace& b) {
          return Entry{scoreOf(a.pos), a.pos} < Entry{scoreOf(b.pos), b.pos};
        });
    if (best == extrasQueued.end()) return std::nullopt;
    const ExtraPlace found = *best;
    extrasQueued.erase(best);
    return found;
  }

  // ---- room
  // ---------------------------------------------------------------------------------------

  /// Credit for the work on `pos`. Where the budget is full, what is needed least is let go: the
  /// cache, what only the margin keeps, then what lies farther than `pos`. Chunks that the owner
  /// holds give their room back when it lets go.
  std::optional<MemoryBudget::Reservation> creditFor(ChunkPos pos, uint64_t bytes) {
    limited = blocked = false;
    while (true) {
      if (auto credit = budget.reserve(bytes)) return credit;
      if (cache.dropOldest()) continue;
      blocked = true;
      const auto victim = leastNeeded(pos);
      limited = victim == slots.end() || victim->second.wanted;
      if (victim == slots.end()) return std::nullopt;
      const bool held = !victim->second.ready;
      const bool was = victim->second.wanted;
      const ChunkPos gone = victim->first;
      drop(victim);
      cache.take(gone);  // Not there either: it was to make room.
      if (was) {
        slots[gone];
        pending.push_back({scoreOf(gone), gone});  // Beyond what is sorted: farther than `pos`.
      }
      if (held) {
        mustTell = true;
        return std::nullopt;
      }
    }
  }

  Slots::iterator leastNeeded(ChunkPos than) {
    auto worst = slots.end();
    std::pair<bool, double> badness{false, scoreOf(than)};
    for (auto it = slots.begin(); it != slots.end(); ++it) {
      const Slot& slot = it->second;
      if (!slot.ready && slot.held.expired()) continue;
      const std::pair<bool, double> bad{!slot.wanted, scoreOf(it->first)};
      if (bad <= badness || leaving.contains(it->first)) continue;
      badness = bad;
      worst = it;
    }
    return worst;
  }

  // ---- workers ----------------------------------------------------------------------------------

  bool anythingToDo() { return !extrasQueued.empty() || nextWanted() != nullptr; }

  /// Keeps as many tickets in the pool as there are workers that could be used.
  void kick() {
    size_t more = 0;
    {
      const std::lock_guard lock(mutex);
      if (stopSource.stop_requested() || !anythingToDo() || !roomInQueue()) return;
      while (tickets < executor.threads()) ++tickets, ++more;
    }
    for (size_t i = 0; i < more; ++i) submitTicket();
  }

  /// A ticket works for about a millisecond, then lets what is more urgent in the pool go first.
  void submitTicket() {
    executor.submit(Priority::NearChunk, [self = shared_from_this()] {
      const auto begin = Clock::now();
      while (self->runOne())
        if (millisSince(begin) > 1) return self->submitTicket();
      {
        const std::lock_guard lock(self->mutex);
        --self->tickets;
      }
      self->kickIfMissed();
    });
  }

  /// A wish may have come between a worker's last look and its leaving.
  void kickIfMissed() {
    bool missed;
    {
      const std::lock_guard lock(mutex);
      missed = !blocked && anythingToDo() && roomInQueue();
    }
    if (missed) kick();
  }

  bool runOne() {
    std::unique_lock lock(mutex);
    if (stopSource.stop_requested() || !roomInQueue()) return false;
    if (const auto extra = nextExtra()) return runExtra(*extra, lock);
    Slot* slot = nextWanted();
    if (!slot) return false;
    const ChunkPos pos = pending[cursor].pos;
    auto credit = creditFor(pos, source->workBytes() + kSlotBytes);
    if (!credit) {
      tell(lock);
      return false;
    }
    slot = &slots[pos];  // Making room moved things about.
    slot->state = ChunkState::Working;
    slot->work = {};
    slot->job = ++figures.asked;
    const uint64_t job = slot->job;
    const std::stop_token stop = slot->work.get_token();
    const std::shared_ptr<const ChunkSource> from = source;
    const double slow = settings.slowMotion;
    ++workingCount;
    ++inFlight;
    lock.unlock();

    const auto begin = Clock::now();
    StageTimes times;
    auto made = from->chunk(pos, stop, &times);
    const double millis = millisSince(begin);
    for (double left = millis * (slow - 1); left > 0 && !stop.stop_requested(); left -= 1)
      std::this_thread::sleep_for(std::chrono::duration<double, std::milli>(std::min(left, 1.0)));

    lock.lock();
    --workingCount;
    finish(pos, job, std::move(made), std::move(*credit), millis, times);
    tell(lock);
    lock.lock();
    --inFlight;
    lock.unlock();
    idle.notify_all();
    return true;
  }

  bool runExtra(const ExtraPlace& extra, std::unique_lock<std::mutex>& lock) {
    Ring& ring = rings[extra.index];
    ExtraSlot& slot = ring.slots[extra.pos];
    const ChunkHandle chunk = chunkAt(extra.pos);
    if (!chunk) {
      slot.state = ExtraState::Waiting;
      return true;
    }
    auto credit = creditFor(extra.pos, ring.what.largestBytes + kSlotBytes);
    if (!credit) {
      slot.state = ExtraState::Queued;
      extrasQueued.push_back(extra);
      tell(lock);
      return false;
    }
    slot.state = ExtraState::Working;
    const uint64_t atEpoch = epoch;
    ++inFlight;
    ++workingCount;
    lock.unlock();
    StreamExtra::Made made = ring.what.make(*chunk, stopSource.get_token());
    lock.lock();
    --workingCount;
    const auto found = ring.slots.find(extra.pos);
    if (found != ring.slots.end() && found->second.state == ExtraState::Working &&
        atEpoch == epoch && !stopSource.stop_requested()) {
      found->second.state = ExtraState::Done;
      if (made.data) {
        credit->shrink(made.bytes + kSlotBytes);
        extrasReady.push_back(
            {extra.index, extra.pos, counted(std::move(made.data), std::move(*credit))});
        mustTell = mustTell || extrasReady.size() == 1;
      } else if (found->second.shown) {
        found->second.shown = false;
        extrasGone.push_back({extra.index, extra.pos});
        mustTell = true;
      }
    }
    tell(lock);
    lock.lock();
    --inFlight;
    lock.unlock();
    idle.notify_all();
    return true;
  }

  /// Releases the lock and, if there is something new for it, calls the owner.
  void tell(std::unique_lock<std::mutex>& lock) {
    const bool speak = std::exchange(mustTell, false);
    const std::function<void()> callback = speak ? ready : nullptr;
    lock.unlock();
    if (callback) callback();
  }

  void finish(ChunkPos pos, uint64_t job, Result<ChunkHandle> made,
              MemoryBudget::Reservation credit, double millis, const StageTimes& times) {
    const auto found = slots.find(pos);
    const bool expected = found != slots.end() && found->second.job == job &&
                          found->second.state == ChunkState::Working &&
                          !stopSource.stop_requested();
    if (!expected || !made) {
      if (!expected || !found->second.wanted) ++figures.dropped;
      if (!expected) return;
      if (!found->second.wanted) return drop(found);
      found->second.state = ChunkState::Failed;
      found->second.error = made.error();
      return;
    }
    times_[figures.built++ % times_.size()] = millis;
    figures.stages.heights += times.heights;
    figures.stages.biomes += times.biomes;
    figures.stages.strata += times.strata;
    figures.stages.packing += times.packing;
    const uint64_t bytes = (*made)->bytes();
    builtBytes += bytes;
    credit.shrink(bytes + kSlotBytes);
    ChunkHandle handle = counted(std::move(*made), std::move(credit));
    Slot& slot = found->second;
    if (!slot.wanted) {
      cache.put(std::move(handle));
      return drop(found);
    }
    file(pos, slot, std::move(handle));
  }

  void file(ChunkPos pos, Slot& slot, ChunkHandle chunk) {
    slot.bytes = chunk->bytes();
    slot.ready = std::move(chunk);
    slot.state = ChunkState::Ready;
    readyList.push_back(pos);
    mustTell = ++readyCount == 1 || mustTell;
    for (size_t i = 0; i < rings.size(); ++i)
      if (rings[i].slots.contains(pos)) offerExtra(i, pos);
  }

  // ---- handing over -----------------------------------------------------------------------------

  /// Hands a ready chunk over together with what it replaces; false while others of its group are
  /// not ready.
  bool show(ChunkPos pos, Handover& out) {
    std::vector<ChunkPos> arriving{pos};
    std::vector<ChunkPos> parting;
    for (const ChunkPos old : leaving) {
      const ChunkPos &fine = old.level < pos.level ? old : pos, &coarse = &fine == &old ? pos : old;
      ChunkPos up = fine;
      while (up.level < coarse.level) up = parentOf(up);
      if (up == coarse && fine.level != coarse.level) parting.push_back(old);
    }
    if (parting.size() == 1 && parting[0].level > pos.level) {
      arriving = wanted.heirs(parting[0]);
      for (const ChunkPos heir : arriving) {
        const auto found = slots.find(heir);
        if (found == slots.end() || (!found->second.ready && !found->second.shown)) return false;
      }
    }
    for (const ChunkPos old : parting) drop(slots.find(old));
    for (const ChunkPos heir : arriving) {
      Slot& slot = slots.find(heir)->second;
      if (!slot.ready) continue;
      slot.held = slot.ready;
      out.show.push_back(std::move(slot.ready));
      slot.ready = nullptr;
      slot.state = ChunkState::Held;
      slot.shown = true;
      --readyCount;
    }
    return true;
  }

  void take(size_t most, Handover& out) {
    std::deque<ChunkPos> later;
    while (out.show.size() < most && !readyList.empty()) {
      const ChunkPos pos = readyList.front();
      readyList.pop_front();
      const auto found = slots.find(pos);
      if (found == slots.end() || !found->second.ready) continue;
      if (!show(pos, out)) later.push_back(pos);
    }
    for (const ChunkPos pos : later) readyList.push_back(pos);
    std::erase_if(extrasReady, [&](Handover::Extra& extra) {
      const auto slot = rings[extra.index].slots.find(extra.pos);
      if (slot == rings[extra.index].slots.end() || slot->second.state != ExtraState::Done)
        return true;
      const auto chunk = slots.find(extra.pos);
      if (chunk == slots.end() || !chunk->second.shown || chunk->second.ready) return false;
      slot->second.shown = true;
      out.extras.push_back(std::move(extra));
      return true;
    });
    // What waits for the rest of its group must not keep the rest from being made.
    settledCount = later.size() + extrasReady.size();
    out.hide.swap(hides);
    out.clear.swap(extrasGone);
  }

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
  std::array<double, 64> times_{};
};

Stream::Stream(std::shared_ptr<const ChunkSource> source, const StreamSettings& settings,
               Executor& executor, MemoryBudget& budget)
    : impl_(std::make_shared<Impl>(std::move(source), settings, executor, budget)) {}

Stream::~Stream() {
  stop();
}

void Stream::setView(Cell viewpoint) {
  viewpoint.x = std::clamp(viewpoint.x, -limits::cell, limits::cell);
  viewpoint.z = std::clamp(viewpoint.z, -limits::cell, limits::cell);
  {
    const std::lock_guard lock(impl_->mutex);
    Impl& self = *impl_;
    if (self.viewKnown && self.view == viewpoint) return;
    const auto dx = static_cast<double>(viewpoint.x - self.view.x);
    const auto dz = static_cast<double>(viewpoint.z - self.view.z);
    const double way = std::sqrt(dx * dx + dz * dz);
    const bool leap = !self.viewKnown || way > static_cast<double>(self.settings.viewDistance);
    self.headingX = leap || way == 0 ? 0 : dx / way;
    self.headingZ = leap || way == 0 ? 0 : dz / way;
    self.view = viewpoint;
    self.viewKnown = true;
    self.blocked = false;
    self.follow();
  }
  impl_->kick();
}

void Stream::setViewDistance(int64_t cells) {
  {
    const std::lock_guard lock(impl_->mutex);
    impl_->settings.viewDistance = std::clamp<int64_t>(cells, 0, StreamSettings::kMostDistance);
    if (!impl_->viewKnown) return;
    impl_->blocked = false;
    impl_->follow();
  }
  impl_->kick();
}

void Stream::setSource(std::shared_ptr<const ChunkSource> source) {
  {
    const std::lock_guard lock(impl_->mutex);
    Impl& self = *impl_;
    const bool sameChunks = source->layout().size() == self.source->layout().size() &&
                            source->bounds() == self.source->bounds();
    self.source = std::move(source);
    ++self.epoch;
    self.blocked = self.limited = false;
    self.pending.clear();
    self.cursor = self.sorted = 0;
    self.readyList.clear();
    self.readyCount = 0;
    self.extrasQueued.clear();
    self.extrasReady.clear();
    for (auto it = self.slots.begin(); it != self.slots.end();) {
      const auto here = it++;
      auto& [pos, slot] = *here;
      slot.work.request_stop();
      if (sameChunks && self.leaving.contains(pos)) {  // Until its successors are there.
        slot.held.reset();
        continue;
      }
      if (!sameChunks || !slot.wanted) {  // Places mean other cells, or nobody would renew it.
        if (slot.shown) self.hides.push_back(pos), ++self.figures.released;
        for (size_t i = 0; i < self.rings.size(); ++i) self.withdrawExtra(i, pos);
        self.leaving.erase(pos);
        self.slots.erase(here);
        continue;
      }
      const bool shown = slot.shown;
      slot = {};
      slot.shown = shown;
      self.pending.push_back({0, pos});
    }
    self.cache.clear();
    for (Impl::Ring& ring : self.rings)
      for (auto& [pos, slot] : ring.slots) slot.state = Impl::ExtraState::Waiting;
    if (!sameChunks) {
      self.wanted = WantedSet(self.source->layout(), self.source->bounds());
      for (Impl::Ring& ring : self.rings) {
        ring.wanted = self.wanted;
        ring.slots.clear();
      }
    }
    if (!self.viewKnown) return;
    self.follow();
  }
  impl_->kick();
}

Handover Stream::take(size_t most) {
  Handover out;
  {
    const std::lock_guard lock(impl_->mutex);
    impl_->take(most, out);
    impl_->blocked = false;
  }
  impl_->kick();
  return out;
}

bool Stream::runOne() {
  return impl_->runOne();
}

void Stream::onReady(std::function<void()> callback) {
  const std::lock_guard lock(impl_->mutex);
  impl_->ready = std::move(callback);
}

void Stream::retry(ChunkPos pos) {
  {
    const std::lock_guard lock(impl_->mutex);
    const auto found = impl_->slots.find(pos);
    if (found == impl_->slots.end() || found->second.state != ChunkState::Failed) return;
    found->second.state = ChunkState::Wanted;
    found->second.error.reset();
    impl_->pending.push_back({0, pos});
    impl_->resort();
  }
  impl_->kick();
}

std::vector<Stream::Failure> Stream::failures() const {
  const std::lock_guard lock(impl_->mutex);
  std::vector<Failure> list;
  for (const auto& [pos, slot] : impl_->slots)
    if (slot.state == ChunkState::Failed) list.push_back({pos, *slot.error});
  std::sort(list.begin(), list.end(),
            [](const Failure& a, const Failure& b) { return a.pos < b.pos; });
  return list;
}

std::vector<Stream::Place> Stream::places() const {
  const std::lock_guard lock(impl_->mutex);
  std::vector<Place> list;
  list.reserve(impl_->slots.size());
  for (const auto& [pos, slot] : impl_->slots) list.push_back({pos, slot.state});
  return list;
}

StreamStats Stream::stats() const {
  const std::lock_guard lock(impl_->mutex);
  const Impl& self = *impl_;
  StreamStats out = self.figures;
  out.cut = self.wanted.cut();
  out.expected = self.wanted.count() + out.cut;
  out.cached = self.cache.size();
  out.bytes = self.cache.bytes();
  const int64_t within = self.settings.viewDistance * self.settings.viewDistance;
  for (const auto& [pos, slot] : self.slots) {
    switch (slot.state) {
      case ChunkState::Wanted:
        ++out.waiting;
        break;
      case ChunkState::Working:
        ++out.working;
        break;
      case ChunkState::Ready:
        ++out.ready;
        break;
      case ChunkState::Held:
        ++out.held;
        break;
      case ChunkState::Leaving:
        ++out.leaving;
        break;
      case ChunkState::Failed:
        ++out.failed;
        break;
    }
    out.bytes += slot.bytes;
    const Rect ground = intersection(self.source->layout().rectOf(pos), self.source->bounds());
    if (!slot.wanted || squaredDistance(self.view, ground) > within) continue;
    ++out.needed;
    if (slot.state != ChunkState::Held) ++out.missing;
  }
  out.limited = self.limited && out.waiting > 0;
  const uint64_t mean = out.built ? self.builtBytes / out.built : self.source->largestChunkBytes();
  out.viewBytes = out.expected * (mean + kSlotBytes);
  const auto measured = static_cast<ptrdiff_t>(std::min<uint64_t>(out.built, 64));
  std::vector<double> times(self.times_.begin(), self.times_.begin() + measured);
  if (!times.empty()) {
    const auto middle = times.begin() + static_cast<ptrdiff_t>(times.size() / 2);
    std::nth_element(times.begin(), middle, times.end());
    out.medianMillis = *middle;
  }
  return out;
}

void Stream::stop() {
  std::unique_lock lock(impl_->mutex);
  Impl& self = *impl_;
  self.stopSource.request_stop();
  for (auto& [pos, slot] : self.slots) slot.work.request_stop();
  self.ready = nullptr;
  self.idle.wait(lock, [&] { return self.inFlight == 0; });
  self.pending.clear();
  self.cursor = self.sorted = 0;
  self.slots.clear();
  self.leaving.clear();
  self.wanted.clear();
  self.cache.clear();
  self.readyList.clear();
  self.readyCount = 0;
  for (Impl::Ring& ring : self.rings) {
    ring.slots.clear();
    ring.wanted.clear();
  }
  self.extrasQueued.clear();
  self.extrasReady.clear();
}

std::string limitSentence(const StreamStats& stats, uint64_t limitBytes) {
  if (!stats.limited) return {};
  const auto mebibytes = [](uint64_t bytes) { return static_cast<double>(bytes) / (1 << 20); };
  return fmt::format(
      "The limit of {:.4g} MiB cannot hold the view ({:.4g} MiB): the nearest {} of {} chunks are "
      "loaded",
      mebibytes(limitBytes), mebibytes(stats.viewBytes), stats.held, stats.expected);
}

}  // namespace acre
