#include "water/fresh_fields.h"

#include <algorithm>
#include <vector>

namespace acre {

float FreshFields::valueOf(
    Tells tells, WaterKind kind, int32_t level, float shore, uint32_t mark) const {
  switch (tells) {
    case Tells::Shore:
      return shore;
    case Tells::Level:
      return isFresh(kind) ? static_cast<float>(level) - seaLevel_ : 0.0f;
    case Tells::Mark:
      return static_cast<float>(mark >> 8) * 0x1p-24f;
  }
  return 0;
}

bool FreshFields::grid(
    const SampleGrid& grid, Tells tells, float* out, const std::stop_token& stop) const {
  const auto count = static_cast<size_t>(grid.width) * static_cast<size_t>(grid.length);
  std::vector<WaterKind> kinds(count, WaterKind::Dry);
  std::vector<int32_t> levels(count);
  std::vector<float> shores(count, kFarShore);
  std::vector<uint32_t> marks(count);
  if (land_) {
    LandOut land;
    land.stride = grid.width;
    land.waters = kinds.data();
    land.levels = levels.data();
    land.shores = tells == Tells::Shore ? shores.data() : nullptr;
    land.marks = tells == Tells::Mark ? marks.data() : nullptr;
    if (!land_->evaluate(grid, land, stop)) return false;
  }
  for (size_t n = 0; n < count; ++n)
    out[n] = valueOf(tells, kinds[n], levels[n], shores[n], marks[n]);
  return true;
}

void FreshFields::points(const Points& places, Tells tells, float* out) const {
  if (!land_ || places.accuracy == Accuracy::Approximate)
    return std::fill_n(out, places.count, valueOf(tells, WaterKind::Dry, 0, kFarShore, 0)), void();
  std::vector<Cell> cells;
  cells.reserve(static_cast<size_t>(places.count));
  for (int n = 0; n < places.count; ++n) cells.push_back({places.cell[kX][n], places.cell[kZ][n]});
  std::vector<float> heights(cells.size());
  std::vector<WaterAt> waters(cells.size());
  land_->scattered(
      places.count, cells.data(), heights.data(), nullptr, Accuracy::Exact, waters.data());
  for (size_t n = 0; n < cells.size(); ++n)
    out[n] = valueOf(
        tells, waters[n].kind, waters[n].level, waters[n].shore, shaper_->markOf(waters[n]));
}

}  // namespace acre
