#include "stream/stream.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "recipe/validate.h"
#include "stream/stream_impl.h"

namespace acre {

StreamSettings StreamSettings::moving(int64_t viewDistance, int32_t chunkSize, double speed) {
  StreamSettings s;
  s.viewDistance = viewDistance;
  // Several small chunks, but of large ones no more than it takes.
  s.ahead = std::min<int64_t>(int64_t{4} * chunkSize, std::max(chunkSize, 128));
  s.lead = static_cast<int64_t>(
      std::clamp(speed / 2, 0.0, static_cast<double>(std::min(2 * viewDistance, kMostDistance))));
  s.margin = std::min<int64_t>(int64_t{2} * chunkSize, std::max(chunkSize / 2, 64));
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
  const int64_t most = std::min(StreamSettings::kMostDistance, 4 * (s.viewDistance + s.ahead));
  if (s.lead < 0 || s.lead > most)
    return refuse(
        "lead", s.lead, fmt::format("0 to {} cells (four times view distance and ahead)", most));
  if (out(s.margin)) return refuse("margin", s.margin, cells);
  if (s.levels < 1 || s.levels > kCoarsestDetail + 1)
    return refuse("detail levels", s.levels, fmt::format("1 to {}", kCoarsestDetail + 1));
  if (s.detail < 0 || (s.levels > 1 && (s.detail < 1 || out(s.detail))))
    return refuse("detail distance", s.detail, "1 to 65536 cells");
  if (s.queuePlaces < 1) return refuse("queue places", 0, "1 and up");
  if (!(s.slowMotion >= 1 && s.slowMotion <= 100'000))
    return refuse("slow motion", static_cast<int64_t>(s.slowMotion), "1 to 100000");
  for (const StreamExtra& extra : s.extras)
    if (out(extra.distance)) return refuse("distance of an extra", extra.distance, cells);
  return done();
}

Stream::Stream(std::shared_ptr<const ChunkSource> source, const StreamSettings& settings,
    Executor& executor, MemoryBudget& budget)
    : impl_(std::make_shared<Impl>(std::move(source), settings, executor, budget)) {}

Stream::~Stream() {
  stop();
}

void Stream::setView(Cell viewpoint, int64_t y) {
  viewpoint.x = std::clamp(viewpoint.x, -limits::cell, limits::cell);
  viewpoint.z = std::clamp(viewpoint.z, -limits::cell, limits::cell);
  {
    const std::lock_guard lock(impl_->mutex);
    Impl& self = *impl_;
    const bool level = self.source->layout().chunkOfLevel(y, 0) ==
                       self.source->layout().chunkOfLevel(self.viewY, 0);
    if (self.viewKnown && self.view == viewpoint && level) return;
    self.viewY = y;
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
    const bool sameChunks =
        source->layout() == self.source->layout() && source->bounds() == self.source->bounds();
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

void Stream::setSource(
    std::shared_ptr<const ChunkSource> source, const std::function<bool(ChunkPos)>& changed) {
  {
    const std::lock_guard lock(impl_->mutex);
    Impl& self = *impl_;
    self.source = std::move(source);
    self.blocked = self.limited = false;
    self.cache.clear();
    for (auto& [pos, slot] : self.slots) {
      if (!changed(pos) || slot.state == ChunkState::Wanted || self.leaving.contains(pos)) continue;
      slot.work.request_stop();
      const bool shown = slot.shown, wanted = slot.wanted;
      if (slot.ready) --self.readyCount;
      slot = {};
      slot.shown = shown;
      slot.wanted = wanted;
      if (wanted) self.pending.push_back({0, pos});
      for (size_t i = 0; i < self.rings.size(); ++i)
        if (const auto extra = self.rings[i].slots.find(pos); extra != self.rings[i].slots.end())
          extra->second.state = Impl::ExtraState::Waiting;
    }
    self.resort();
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
  std::sort(
      list.begin(), list.end(), [](const Failure& a, const Failure& b) { return a.pos < b.pos; });
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
  out.cut = self.wanted.cut() * (WantedSet::kMost / WantedSet::mostOf(self.source->layout()));
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
    out.expected += slot.wanted;
    if (!slot.wanted || squaredDistance(self.view, ground) > within) continue;
    ++out.needed;
    if (slot.state != ChunkState::Held) ++out.missing;
  }
  out.expected += out.cut;
  out.limited = self.limited && out.waiting > 0;
  const uint64_t mean = out.built ? self.builtBytes / out.built : self.source->largestChunkBytes();
  out.viewBytes = out.expected * (mean + kSlotBytes);
  const auto measured = static_cast<ptrdiff_t>(std::min<uint64_t>(out.built, 64));
  std::vector<double> times(self.recent.begin(), self.recent.begin() + measured);
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
  uint64_t enough = uint64_t{1} << 20;
  while (enough < stats.viewBytes + stats.viewBytes / 4) enough *= 2;
  return fmt::format(
      "The limit of {:.4g} MiB cannot hold the view ({:.4g} MiB): the nearest {} of {} chunks are "
      "loaded; set {:.0f} MiB",
      mebibytes(limitBytes), mebibytes(stats.viewBytes), stats.held, stats.expected,
      mebibytes(enough));
}

}  // namespace acre
