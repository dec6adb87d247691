#include <algorithm>
#include <chrono>
#include <thread>

#include "stream/stream_impl.h"

namespace acre {
namespace {

using Clock = std::chrono::steady_clock;

double millisSince(Clock::time_point begin) {
  return std::chrono::duration<double, std::milli>(Clock::now() - begin).count();
}

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

std::optional<MemoryBudget::Reservation> Stream::Impl::creditFor(ChunkPos pos, uint64_t bytes) {
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

auto Stream::Impl::leastNeeded(ChunkPos than) -> Slots::iterator {
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

void Stream::Impl::kick() {
  size_t more = 0;
  {
    const std::lock_guard lock(mutex);
    if (stopSource.stop_requested() || !anythingToDo() || !roomInQueue()) return;
    while (tickets < executor.threads()) ++tickets, ++more;
  }
  for (size_t i = 0; i < more; ++i) submitTicket();
}

void Stream::Impl::submitTicket() {
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

void Stream::Impl::kickIfMissed() {
  bool missed;
  {
    const std::lock_guard lock(mutex);
    missed = !blocked && anythingToDo() && roomInQueue();
  }
  if (missed) kick();
}

bool Stream::Impl::runOne() {
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
  endWork(lock);
  return true;
}

bool Stream::Impl::runExtra(const ExtraPlace& extra, std::unique_lock<std::mutex>& lock) {
  Ring& ring = rings[extra.index];
  ExtraSlot& slot = ring.slots[extra.pos];
  ChunkHandle chunk = chunkAt(extra.pos);
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
  if (found != ring.slots.end() && found->second.state == ExtraState::Working && atEpoch == epoch &&
      !stopSource.stop_requested()) {
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
  // Given back while stop() still waits: after it the budget may be gone.
  credit.reset();
  chunk.reset();
  endWork(lock);
  return true;
}

void Stream::Impl::endWork(std::unique_lock<std::mutex>& lock) {
  tell(lock);
  lock.lock();
  --inFlight;
  lock.unlock();
  idle.notify_all();
}

void Stream::Impl::tell(std::unique_lock<std::mutex>& lock) {
  const bool speak = std::exchange(mustTell, false);
  const std::function<void()> callback = speak ? ready : nullptr;
  lock.unlock();
  if (callback) callback();
}

void Stream::Impl::finish(ChunkPos pos, uint64_t job, Result<ChunkHandle> made,
    MemoryBudget::Reservation credit, double millis, const StageTimes& times) {
  const auto found = slots.find(pos);
  const bool expected = found != slots.end() && found->second.job == job &&
                        found->second.state == ChunkState::Working && !stopSource.stop_requested();
  if (!expected || !made) {
    if (!expected || !found->second.wanted) ++figures.dropped;
    if (!expected) return;
    if (!found->second.wanted) return drop(found);
    found->second.state = ChunkState::Failed;
    found->second.error = made.error();
    return;
  }
  recent[figures.built++ % recent.size()] = millis;
  figures.stages.add(times);
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

void Stream::Impl::file(ChunkPos pos, Slot& slot, ChunkHandle chunk) {
  slot.bytes = chunk->bytes();
  slot.ready = std::move(chunk);
  slot.state = ChunkState::Ready;
  readyList.push_back(pos);
  mustTell = ++readyCount == 1 || mustTell;
  for (size_t i = 0; i < rings.size(); ++i)
    if (rings[i].slots.contains(pos)) offerExtra(i, pos);
}

bool Stream::Impl::show(ChunkPos pos, Handover& out) {
  std::vector<ChunkPos> arriving{pos};
  std::vector<ChunkPos> parting;
  for (const ChunkPos old : leaving) {
    const ChunkPos &fine = old.detail < pos.detail ? old : pos, &coarse = &fine == &old ? pos : old;
    ChunkPos up = fine;
    while (up.detail < coarse.detail) up = parentOf(up);
    if (up == coarse && fine.detail != coarse.detail) parting.push_back(old);
  }
  if (parting.size() == 1 && parting[0].detail > pos.detail) {
    arriving = heirsOf(parting[0]);
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

void Stream::Impl::take(size_t most, Handover& out) {
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

}  // namespace acre
