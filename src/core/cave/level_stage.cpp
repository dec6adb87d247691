#include "cave/level_stage.h"

#include <algorithm>

namespace acre {

std::vector<uint16_t> depthsOf(const BitGrid& plane) {
  const int32_t width = plane.width(), length = plane.length();
  constexpr uint16_t kFar = 0xFFFF;
  std::vector<uint16_t> out(static_cast<size_t>(width) * static_cast<size_t>(length), kFar);
  const auto nearer = [&](uint16_t& own, int32_t x, int32_t z) {
    if (x < 0 || z < 0 || x >= width || z >= length) return;
    const uint16_t there =
        out[static_cast<size_t>(z) * static_cast<size_t>(width) + static_cast<size_t>(x)];
    if (there < own) own = std::min(own, static_cast<uint16_t>(there + 1));
  };
  size_t at = 0;
  for (int32_t z = 0; z < length; ++z)
    for (int32_t x = 0; x < width; ++x, ++at) {
      uint16_t& own = out[at];
      if (!plane.at(x, z)) {
        own = 0;
        continue;
      }
      nearer(own, x - 1, z);
      for (int32_t dx = -1; dx <= 1; ++dx) nearer(own, x + dx, z - 1);
    }
  for (int32_t z = length; z-- > 0;)
    for (int32_t x = width; x-- > 0;) {
      uint16_t& own = out[--at];
      if (own == 0) continue;
      nearer(own, x + 1, z);
      for (int32_t dx = -1; dx <= 1; ++dx) nearer(own, x + dx, z + 1);
    }
  return out;
}

int32_t marginOf(const BitGrid& plane) {
  const int32_t width = plane.width(), length = plane.length();
  int32_t least = std::min(width, length);
  for (int32_t z = 0; z < length; ++z)
    for (int32_t x = 0; x < width; ++x)
      if (!plane.at(x, z)) least = std::min({least, x, z, width - 1 - x, length - 1 - z});
  return least;
}

SoundedFloor::SoundedFloor(std::shared_ptr<const LevelFloor> made)
    : floor(std::move(made)), depths(depthsOf(floor->plane)) {
  for (uint32_t k = 0; k < floor->courses.size(); ++k)
    for (uint32_t n = 0; n < floor->courses[k].cells.size(); ++n)
      wet.push_back({floor->courses[k].cells[n], k, n});
  const auto of = [](const CourseCell& c) { return c.cell; };
  std::ranges::stable_sort(wet, {}, of);
  const auto again = std::ranges::unique(wet, {}, of);
  wet.erase(again.begin(), again.end());
}

LevelStage::LevelStage(
    std::shared_ptr<const SoundedFloor> floor, Rect bounds, int32_t walls, Materials materials)
    : floor_(std::move(floor)),
      bounds_(bounds),
      walls_(static_cast<float>(walls)),
      materials_(std::move(materials)) {}

int32_t LevelStage::depthAt(Cell cell) const {
  const int64_t x = std::clamp<int64_t>(cell.x - bounds_.x, 0, bounds_.width - 1);
  const int64_t z = std::clamp<int64_t>(cell.z - bounds_.z, 0, bounds_.length - 1);
  const int32_t there = floor_->depths[static_cast<size_t>(z * bounds_.width + x)];
  const int64_t beyond =
      std::max(std::abs(cell.x - bounds_.x - x), std::abs(cell.z - bounds_.z - z));
  return static_cast<int32_t>(std::min<int64_t>(there + beyond, 0xFFFF));
}

int32_t LevelStage::wallFrom(Cell cell) const {
  for (int32_t r = 0; r < kWallReach; ++r)
    for (int64_t d = -r; d <= r; ++d)
      if (!isOpen({cell.x + d, cell.z - r}) || !isOpen({cell.x + d, cell.z + r}) ||
          !isOpen({cell.x - r, cell.z + d}) || !isOpen({cell.x + r, cell.z + d}))
        return r;
  return kWallReach;
}
int LevelStage::placeAt(Cell cell) const {
  for (const FoundPlace& place : floor().places)
    if (cellOf(place) == cell) return static_cast<int>(place.place);
  return -1;
}

MaterialIndex LevelStage::materialOf(const FoundPlace& place) const {
  const MaterialIndex own = materials_.places[place.place];
  return own == kUnassigned ? materials_.open : own;
}

const SoundedFloor::CourseCell* LevelStage::courseAt(Cell cell) const {
  if (floor_->wet.empty() || !bounds_.contains(cell) || !isOpen(cell)) return nullptr;
  const auto place =
      static_cast<uint32_t>((cell.z - bounds_.z) * bounds_.width + cell.x - bounds_.x);
  const auto at = std::ranges::lower_bound(
      floor_->wet, place, {}, [](const SoundedFloor::CourseCell& c) { return c.cell; });
  return at != floor_->wet.end() && at->cell == place ? &*at : nullptr;
}

MaterialIndex LevelStage::openMaterial(Cell cell) const {
  const auto* course = courseAt(cell);
  const MaterialIndex own =
      course ? materials_.courses[floor().courses[course->course].process] : kUnassigned;
  return own == kUnassigned ? materials_.open : own;
}

}  // namespace acre
