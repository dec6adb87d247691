#include <algorithm>
#include <cmath>

#include "stream/stream_impl.h"

namespace acre {

Reach Stream::Impl::reachOf() const {
  Reach reach{settings.viewDistance + settings.ahead, settings.margin, settings.levels,
      settings.detail, {}};
  // What has extras is never coarse.
  for (const Ring& ring : rings)
    reach.detail = std::max(reach.detail, ring.what.distance + settings.margin);
  const auto lead =
      static_cast<double>(std::min(settings.lead, 4 * (settings.viewDistance + settings.ahead)));
  reach.lead = {std::llround(headingX * lead), std::llround(headingZ * lead)};
  return reach;
}

void Stream::Impl::follow() {
  const WantedSet::Change change = wanted.move(view, reachOf());
  // What comes first, while the cache has not got the others.
  for (const ChunkPos column : change.come) eachOf(column, [&](ChunkPos pos) { come(pos); });
  for (const ChunkPos column : change.go) eachOf(column, [&](ChunkPos pos) { leave(pos, false); });
  for (const ChunkPos column : change.fade) eachOf(column, [&](ChunkPos pos) { leave(pos, true); });
  if (settings.levels > 1) releaseHeirless();
  for (size_t i = 0; i < rings.size(); ++i) {
    Ring& ring = rings[i];
    const auto moved = ring.wanted.move(view, {ring.what.distance, settings.margin, 1, 0, {}});
    for (const ChunkPos column : moved.go) eachOf(column, [&](ChunkPos pos) { dropExtra(i, pos); });
    for (const ChunkPos column : moved.come)
      eachOf(column, [&](ChunkPos pos) {
        ring.slots.try_emplace(pos);
        offerExtra(i, pos);
      });
  }
  resort();
}

void Stream::Impl::come(ChunkPos pos) {
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

void Stream::Impl::leave(ChunkPos pos, bool near) {
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
      if (near || (settings.levels > 1 && !heirsOf(pos).empty())) {
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

void Stream::Impl::releaseHeirless() {
  const std::set<ChunkPos> waiting = leaving;
  for (const ChunkPos pos : waiting)
    if (heirsOf(pos).empty()) drop(slots.find(pos));
}

std::vector<ChunkPos> Stream::Impl::heirsOf(ChunkPos pos) const {
  ChunkPos column = pos;
  column.cy = 0;
  std::vector<ChunkPos> out;
  const ChunkLayout& layout = source->layout();
  for (ChunkPos heir : wanted.heirs(column)) {
    const auto apart = heir.detail - pos.detail;
    if (apart >= 0) {
      heir.cy = floorDiv(pos.cy, int64_t{1} << apart);
      out.push_back(heir);
      continue;
    }
    const int64_t parts = int64_t{1} << -apart;
    const bool divided = layout.vertical().tall > 0;
    const int64_t first = divided ? std::max(pos.cy * parts, layout.lowestChunk(heir.detail)) : 0;
    const int64_t last =
        divided ? std::min(pos.cy * parts + parts - 1, layout.highestChunk(heir.detail)) : 0;
    for (heir.cy = first; heir.cy <= last; ++heir.cy) out.push_back(heir);
  }
  return out;
}

void Stream::Impl::drop(Slots::iterator found) {
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

double Stream::Impl::scoreOf(ChunkPos pos) const {
  const Rect ground = intersection(source->layout().rectOf(pos), source->bounds());
  const auto away = static_cast<double>(squaredDistance(view, ground));
  const double dx = static_cast<double>(ground.x + ground.width / 2 - view.x);
  const double dz = static_cast<double>(ground.z + ground.length / 2 - view.z);
  const double length = std::sqrt(dx * dx + dz * dz);
  const double ahead = length > 0 ? (dx * headingX + dz * headingZ) / length : 0;
  double score = std::sqrt(away) * (1 - 0.5 * ahead);
  if (source->layout().vertical().tall > 0) {  // Of a column the chunks about the viewpoint first.
    const BlockLevels levels = source->layout().levelsOf(pos);
    const int64_t up = std::max<int64_t>({levels.first - viewY, 0, viewY - levels.top()});
    score = std::sqrt(score * score + static_cast<double>(up) * static_cast<double>(up));
  }
  const auto needed = static_cast<double>(settings.viewDistance);
  return away <= needed * needed ? score : score + 1.5 * needed;  // All that is needed goes first.
}

bool Stream::Impl::isWanted(ChunkPos pos) const {
  const auto found = slots.find(pos);
  return found != slots.end() && found->second.wanted && found->second.state == ChunkState::Wanted;
}

void Stream::Impl::resort() {
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

auto Stream::Impl::nextWanted() -> Slot* {
  for (; cursor < pending.size(); ++cursor) {
    if (cursor >= sorted) {
      resort();
      if (cursor >= pending.size()) break;
    }
    if (isWanted(pending[cursor].pos)) return &slots.find(pending[cursor].pos)->second;
  }
  return nullptr;
}

bool Stream::Impl::roomInQueue() const {
  const size_t waiting = readyCount + extrasReady.size();
  return workingCount + waiting - std::min(waiting, settledCount) < settings.queuePlaces;
}

void Stream::Impl::offerExtra(size_t index, ChunkPos pos) {
  ExtraSlot& slot = rings[index].slots[pos];
  if (slot.state != ExtraState::Waiting || !chunkAt(pos)) return;
  slot.state = ExtraState::Queued;
  extrasQueued.push_back({index, pos});
}

ChunkHandle Stream::Impl::chunkAt(ChunkPos pos) const {
  const auto found = slots.find(pos);
  if (found == slots.end()) return nullptr;
  return found->second.ready ? found->second.ready : found->second.held.lock();
}

void Stream::Impl::withdrawExtra(size_t index, ChunkPos pos) {
  const auto found = rings[index].slots.find(pos);
  if (found == rings[index].slots.end()) return;
  if (found->second.shown) extrasGone.push_back({index, pos});
  found->second = {};
}

void Stream::Impl::dropExtra(size_t index, ChunkPos pos) {
  withdrawExtra(index, pos);
  rings[index].slots.erase(pos);
}

auto Stream::Impl::nextExtra() -> std::optional<ExtraPlace> {
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

}  // namespace acre
