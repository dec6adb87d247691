#include "climate/islets.h"

#include <algorithm>
#include <cmath>
#include <map>

namespace acre {

bool Islets::find(const Kernels& kernels, const Rect& cells, std::vector<Given>& given,
    const std::stop_token& stop) const {
  given.clear();
  // A piece that touches the cells and fits into the box lies within `size` of them, its rim a cell
  // farther.
  const int64_t margin = size_ + 1;
  const Rect all{
      cells.x - margin, cells.z - margin, cells.width + 2 * margin, cells.length + 2 * margin};
  const auto width = static_cast<size_t>(all.width), height = static_cast<size_t>(all.length);
  std::vector<uint32_t> labels(width * height);
  std::vector<uint8_t> home(width * height);  // Within a cell and a half of the site.
  std::vector<RegionId> ids;
  std::map<RegionId, uint32_t> known;
  std::vector<uint32_t> local;
  const auto near = static_cast<float>(1.5 / regionSize_);
  for (int64_t z = 0; z < all.length; z += Kernels::kTileHeight)
    for (int64_t x = 0; x < all.width; x += Kernels::kTileWidth) {
      const SampleGrid part{all.x + x, all.z + z, 1,
          static_cast<int32_t>(std::min<int64_t>(Kernels::kTileWidth, all.width - x)),
          static_cast<int32_t>(std::min<int64_t>(Kernels::kTileHeight, all.length - z))};
      const bool whole = grid_.visit(kernels, part, 0, 0, stop, [&](const RegionPatch& patch) {
        local.assign(patch.ids.size(), 0xFFFFFFFF);
        for (int k = 0; k < patch.width * patch.height; ++k) {
          const auto at = static_cast<size_t>(k);
          const auto own = static_cast<size_t>(patch.own[at]);
          if (local[own] == 0xFFFFFFFF) {
            const auto [entry, fresh] =
                known.try_emplace(patch.ids[own], static_cast<uint32_t>(ids.size()));
            if (fresh) ids.push_back(patch.ids[own]);
            local[own] = entry->second;
          }
          const auto to = static_cast<size_t>(z + patch.row + k / patch.width) * width +
                          static_cast<size_t>(x + patch.column + k % patch.width);
          labels[to] = local[own];
          home[to] = patch.first[at] < near * near;
        }
      });
      if (!whole) return false;
    }

  std::vector<bool> seen(labels.size());
  std::vector<size_t> piece;
  std::map<uint32_t, int> rim;
  const auto insideAsked = [&](size_t at) {
    const auto x = static_cast<int64_t>(at % width), z = static_cast<int64_t>(at / width);
    return x >= margin && x < margin + cells.width && z >= margin && z < margin + cells.length;
  };
  for (size_t start = 0; start < labels.size(); ++start) {
    if (seen[start] || !insideAsked(start)) continue;
    // A whole region is found once, cell by cell; one that is too large costs each cell once too.
    piece.assign(1, start);
    seen[start] = true;
    size_t lowX = start % width, highX = lowX, lowZ = start / width, highZ = lowZ;
    bool atHome = false;
    rim.clear();
    for (size_t k = 0; k < piece.size(); ++k) {
      const size_t at = piece[k];
      lowX = std::min(lowX, at % width), highX = std::max(highX, at % width);
      lowZ = std::min(lowZ, at / width), highZ = std::max(highZ, at / width);
      atHome = atHome || home[at];
      const auto visit = [&](bool there, size_t other) {
        if (!there) return;
        if (labels[other] != labels[at]) {
          ++rim[labels[other]];
        } else if (!seen[other]) {
          seen[other] = true;
          piece.push_back(other);
        }
      };
      visit(at % width > 0, at - 1);
      visit(at % width + 1 < width, at + 1);
      visit(at >= width, at - width);
      visit(at + width < labels.size(), at + width);
    }
    const auto fits = [&](size_t low, size_t high) {
      return high - low < static_cast<size_t>(size_);
    };
    if (atHome || rim.empty() || !fits(lowX, highX) || !fits(lowZ, highZ)) continue;
    const auto before = [&](uint32_t a, uint32_t b) {
      return ids[a].j < ids[b].j || (ids[a].j == ids[b].j && ids[a].i < ids[b].i);
    };
    uint32_t best = rim.begin()->first;
    for (const auto& [label, sides] : rim)
      if (sides > rim[best] || (sides == rim[best] && before(label, best))) best = label;
    for (const size_t at : piece)
      if (insideAsked(at))
        given.push_back({all.x + static_cast<int64_t>(at % width),
            all.z + static_cast<int64_t>(at / width), ids[best]});
  }
  return true;
}

}  // namespace acre
