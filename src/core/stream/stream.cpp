#include "stream/stream.h"

#include <algorithm>
#include <array>
#include <chrono>
#include <cmath>
#include <condition_variable>
#include <deque>
#include <map>
#include <mutex>

#include "recipe/validate.h"

namespace acre {

struct Stream::Impl : std::enable_shared_from_this<Stream::Impl> {
  struct Slot {
    ChunkState state = ChunkState::Wanted;
    bool shown = false;  // The owner has a chunk here, perhaps an older one.
    ChunkHandle ready;
    uint64_t bytes = 0;
    std::optional<Error> error;
  };

  Impl(std::shared_ptr<const World> w, const StreamSettings& s, Executor& e, MemoryBudget& b)
      : world(std::move(w)), settings(s), executor(e), budget(b) {}

  // ---- all below REQUIRE the lock ---------------------------------------------------------------

  /// The chunks of one row (cz) that are wanted: first ... last.
  struct Span {
    int64_t first;
    int64_t last;
  };
  using Rows = std::map<int64_t, Span>;

  /// The chunks with a cell no farther than `reach`, row by row: a row's nearest cells are dz away,
  /// and sqrt(reach^2 - dz^2) cells are left to either side.
  Rows rowsWithin(int64_t reach) const {
    Rows found;
    const int64_t n = world->layout().size();
    const Rect& bounds = world->bounds();
    const int64_t z0 = std::max(view.z - reach, bounds.z);
    const int64_t z1 = std::min(view.z + reach, bounds.z + bounds.height - 1);
    for (int64_t cz = floorDiv(z0, n); z0 <= z1 && cz <= floorDiv(z1, n); ++cz) {
      const int64_t top = std::max(cz * n, bounds.z);
      const int64_t bottom = std::min(cz * n + n, bounds.z + bounds.height) - 1;
      const int64_t dz = std::max<int64_t>({top - view.z, 0, view.z - bottom});
      const int64_t aside = squareRoot(reach * reach - dz * dz);
      const int64_t x0 = std::max(view.x - aside, bounds.x);
      const int64_t x1 = std::min(view.x + aside, bounds.x + bounds.width - 1);
      if (x0 <= x1) found[cz] = {floorDiv(x0, n), floorDiv(x1, n)};
    }
    return found;
  }

  static size_t countOf(const Rows& rows) {
    size_t count = 0;
    for (const auto& [cz, span] : rows) count += static_cast<size_t>(span.last - span.first + 1);
    return count;
  }

  /// Largest whole number whose square is not above `v`. REQUIRES: 0 <= v < 2^40.
  static int64_t squareRoot(int64_t v) {
    auto root = static_cast<int64_t>(std::sqrt(static_cast<double>(v)));
    while (root * root > v) --root;
    while ((root + 1) * (root + 1) <= v) ++root;
    return root;
  }

  /// Brings the slots up to date with the viewpoint: what left is dropped, what came is wanted.
  /// Costs as much as what changed, so that a step with a large view distance is as cheap as with a
  /// small one.
  void follow() {
    int64_t reach = settings.viewDistance;
    Rows now = rowsWithin(reach);
    const size_t all = countOf(now);
    if (all > kMostChunks) {  // The largest view distance that still fits.
      int64_t fits = 0;
      while (reach - fits > 1) {
        const int64_t middle = fits + (reach - fits) / 2;
        (countOf(rowsWithin(middle)) > kMostChunks ? reach : fits) = middle;
      }
      now = rowsWithin(fits);
    }
    cut = all - countOf(now);
    const auto spanIn = [](const Rows& in, int64_t cz) {
      const auto found = in.find(cz);
      return found == in.end() ? Span{0, -1} : found->second;
    };
    // What `of` holds and `other` does not, position by position.
    const auto eachBeyond = [&](const Rows& of, const Rows& other, auto&& act) {
      for (const auto& [cz, span] : of) {
        const Span kept = spanIn(other, cz);
        for (int64_t cx = span.first; cx <= span.last; ++cx) {
          if (cx >= kept.first && cx <= kept.last) cx = kept.last + 1;  // Past the kept part.
          if (cx <= span.last) act(ChunkPos{cx, cz});
        }
      }
    };
    eachBeyond(rows, now, [&](ChunkPos pos) { drop(pos); });
    eachBeyond(now, rows, [&](ChunkPos pos) {
      slots.try_emplace(pos);
      pending.push_back(pos);
    });
    rows = std::move(now);
    sortPending();
  }

  void drop(ChunkPos pos) {
    const auto found = slots.find(pos);
    if (found->second.shown) hides.push_back(pos);
    if (found->second.ready) --readyCount;
    slots.erase(found);
  }

  int64_t distanceTo(ChunkPos pos) const {
    return squaredDistance(view, intersection(world->layout().rectOf(pos), world->bounds()));
  }

  /// Leaves in `pending` what is still wanted, nearest first.
  void sortPending() {
    std::vector<Entry> entries;
    for (size_t i = cursor; i < pending.size(); ++i) {
      const auto found = slots.find(pending[i]);
      if (found != slots.end() && found->second.state == ChunkState::Wanted)
        entries.push_back({distanceTo(pending[i]), pending[i]});
    }
    std::sort(entries.begin(), entries.end(), [](const Entry& a, const Entry& b) {
      return std::tie(a.distance, a.pos.cz, a.pos.cx) < std::tie(b.distance, b.pos.cz, b.pos.cx);
    });
    const auto same = [](const Entry& a, const Entry& b) { return a.pos == b.pos; };
    entries.erase(std::unique(entries.begin(), entries.end(), same), entries.end());
    pending.clear();
    for (const Entry& entry : entries) pending.push_back(entry.pos);
    cursor = 0;
  }

  /// The slot of the nearest wanted chunk, at pending[cursor]; nullptr when there is none.
  Slot* nextWanted() {
    for (; cursor < pending.size(); ++cursor) {
      const auto found = slots.find(pending[cursor]);
      if (found != slots.end() && found->second.state == ChunkState::Wanted) return &found->second;
    }
    return nullptr;
  }

  bool roomInQueue() const { return workingCount + readyCount < settings.queuePlaces; }

  // ---- workers ----------------------------------------------------------------------------------

  /// Keeps as many tickets in the pool as there are workers that could be used.
  void kick() {
    size_t wanted = 0;
    {
      const std::lock_guard lock(mutex);
      if (stopSource.stop_requested() || !nextWanted() || !roomInQueue()) return;
      while (tickets < executor.threads()) ++tickets, ++wanted;
    }
    for (size_t i = 0; i < wanted; ++i) submitTicket();
  }

  void submitTicket() {
    executor.submit(Priority::NearChunk, [self = shared_from_this()] {
      if (self->runOne()) return self->submitTicket();
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
      missed = !blockedByBudget && nextWanted() && roomInQueue();
    }
    if (missed) kick();
  }

  bool runOne() {
    std::shared_ptr<const World> from;
    ChunkPos pos;
    uint64_t atEpoch;
    std::optional<MemoryBudget::Reservation> credit;
    {
      const std::lock_guard lock(mutex);
      if (stopSource.stop_requested() || !roomInQueue()) return false;
      Slot* slot = nextWanted();
      if (!slot) return false;
      credit = budget.reserve(world->largestChunkBytes());
      blockedByBudget = !credit;
      if (!credit) return false;
      slot->state = ChunkState::Working;
      pos = pending[cursor];
      from = world;
      atEpoch = epoch;
      ++workingCount;
      ++inFlight;
    }
    const auto begin = std::chrono::steady_clock::now();
    auto made = from->chunk(pos, stopSource.get_token());
    const double millis =
        std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now() - begin).count();
    bool first = false;
    std::function<void()> callback;
    {
      const std::lock_guard lock(mutex);
      --workingCount;
      first = finish(pos, atEpoch, std::move(made), std::move(*credit), millis);
      callback = ready;
    }
    if (first && callback) callback();
    {
      const std::lock_guard lock(mutex);
      --inFlight;
    }
    idle.notify_all();
    return true;
  }

  /// Files a finished chunk; true when it is the first that waits to be taken.
  bool finish(ChunkPos pos, uint64_t atEpoch, Result<std::shared_ptr<const Chunk>> made,
              MemoryBudget::Reservation credit, double millis) {
    const auto found = slots.find(pos);
    if (found == slots.end() || stopSource.stop_requested()) return false;  // No longer wanted.
    Slot& slot = found->second;
    if (slot.state != ChunkState::Working || atEpoch != epoch) return false;
    if (!made) {
      slot.state = ChunkState::Failed;
      slot.error = made.error();
      return false;
    }
    // The credit travels with the chunk and is given back when its last owner lets go.
    struct Counted {
      std::shared_ptr<const Chunk> chunk;
      MemoryBudget::Reservation credit;
    };
    const uint64_t bytes = (*made)->bytes();
    auto counted = std::make_shared<Counted>(Counted{std::move(*made), std::move(credit)});
    slot.ready = ChunkHandle(counted, counted->chunk.get());
    slot.bytes = bytes;
    slot.state = ChunkState::Ready;
    times[built++ % times.size()] = millis;
    readyList.push_back(pos);
    return ++readyCount == 1;
  }

  struct Entry {
    int64_t distance;
    ChunkPos pos;
  };

  std::mutex mutex;
  std::condition_variable idle;
  std::shared_ptr<const World> world;
  StreamSettings settings;
  Executor& executor;
  MemoryBudget& budget;
  std::stop_source stopSource;
  std::function<void()> ready;

  Cell view;
  bool viewKnown = false;
  uint64_t epoch = 0;
  Rows rows;                      // What is wanted now; exactly these have slots.
  std::vector<ChunkPos> pending;  // Wanted ones, nearest first; entries may be stale.
  size_t cursor = 0;              // Everything before it is past Wanted.
  size_t cut = 0;
  std::map<ChunkPos, Slot> slots;
  std::deque<ChunkPos> readyList;  // In the order of finishing; entries may be stale.
  std::vector<ChunkPos> hides;
  size_t readyCount = 0;
  size_t workingCount = 0;
  size_t inFlight = 0;  // Workers inside runOne, the ready callback included.
  size_t tickets = 0;
  bool blockedByBudget = false;
  uint64_t built = 0;
  std::array<double, 64> times{};
};

Stream::Stream(std::shared_ptr<const World> world, const StreamSettings& settings,
               Executor& executor, MemoryBudget& budget)
    : impl_(std::make_shared<Impl>(std::move(world), settings, executor, budget)) {
  setViewDistance(settings.viewDistance);
}

Stream::~Stream() {
  stop();
}

void Stream::setView(Cell viewpoint) {
  viewpoint.x = std::clamp(viewpoint.x, -limits::cell, limits::cell);
  viewpoint.z = std::clamp(viewpoint.z, -limits::cell, limits::cell);
  {
    const std::lock_guard lock(impl_->mutex);
    if (impl_->viewKnown && impl_->view == viewpoint) return;
    impl_->view = viewpoint;
    impl_->viewKnown = true;
    impl_->follow();
  }
  impl_->kick();
}

void Stream::setViewDistance(int64_t cells) {
  {
    const std::lock_guard lock(impl_->mutex);
    impl_->settings.viewDistance = std::clamp<int64_t>(cells, 0, 65'536);
    if (!impl_->viewKnown) return;
    impl_->follow();
  }
  impl_->kick();
}

void Stream::setWorld(std::shared_ptr<const World> world) {
  {
    const std::lock_guard lock(impl_->mutex);
    const bool sameChunks = world->layout().size() == impl_->world->layout().size();
    impl_->world = std::move(world);
    ++impl_->epoch;
    impl_->pending.clear();
    impl_->cursor = 0;
    if (!sameChunks) {  // Places mean other cells now: the owner clears them all.
      for (const auto& [pos, slot] : impl_->slots)
        if (slot.shown) impl_->hides.push_back(pos);
      impl_->slots.clear();
      impl_->rows.clear();
    }
    for (auto& [pos, slot] : impl_->slots) {
      const bool shown = slot.shown;
      slot = {};
      slot.shown = shown;
      impl_->pending.push_back(pos);
    }
    impl_->readyList.clear();
    impl_->readyCount = 0;
    if (!impl_->viewKnown) return;
    impl_->follow();
  }
  impl_->kick();
}

Handover Stream::take(size_t most) {
  Handover out;
  {
    const std::lock_guard lock(impl_->mutex);
    out.hide.swap(impl_->hides);
    while (out.show.size() < most && !impl_->readyList.empty()) {
      const ChunkPos pos = impl_->readyList.front();
      impl_->readyList.pop_front();
      const auto found = impl_->slots.find(pos);
      if (found == impl_->slots.end() || found->second.state != ChunkState::Ready) continue;
      Impl::Slot& slot = found->second;
      out.show.push_back(std::move(slot.ready));
      slot.ready = nullptr;
      slot.state = ChunkState::Held;
      slot.shown = true;
      --impl_->readyCount;
    }
    impl_->blockedByBudget = false;
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
    impl_->pending.push_back(pos);
    impl_->sortPending();
  }
  impl_->kick();
}

std::vector<Stream::Failure> Stream::failures() const {
  const std::lock_guard lock(impl_->mutex);
  std::vector<Failure> list;
  for (const auto& [pos, slot] : impl_->slots)
    if (slot.state == ChunkState::Failed) list.push_back({pos, *slot.error});
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
  StreamStats out;
  out.expected = impl_->slots.size() + impl_->cut;
  out.cut = impl_->cut;
  out.built = impl_->built;
  for (const auto& [pos, slot] : impl_->slots) {
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
      case ChunkState::Failed:
        ++out.failed;
        break;
    }
    out.bytes += slot.bytes;
  }
  const auto measured = static_cast<ptrdiff_t>(std::min<uint64_t>(impl_->built, 64));
  std::vector<double> times(impl_->times.begin(), impl_->times.begin() + measured);
  if (!times.empty()) {
    const auto middle = times.begin() + static_cast<ptrdiff_t>(times.size() / 2);
    std::nth_element(times.begin(), middle, times.end());
    out.medianMillis = *middle;
  }
  return out;
}

void Stream::stop() {
  std::unique_lock lock(impl_->mutex);
  impl_->stopSource.request_stop();
  impl_->ready = nullptr;
  impl_->idle.wait(lock, [&] { return impl_->inFlight == 0; });
  impl_->pending.clear();
  impl_->rows.clear();
  impl_->cursor = 0;
  impl_->slots.clear();
  impl_->readyList.clear();
  impl_->readyCount = 0;
}

}  // namespace acre
