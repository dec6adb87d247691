#include "object/piece.h"

#include <algorithm>
#include <array>
#include <cstdlib>
#include <utility>

#include "recipe/object_recipe.h"
#include "strata/material_index.h"

namespace acre {
namespace {

constexpr uint8_t kCoverRank = 3;

}  // namespace

Piece::Piece(const ObjectPiece& drawn, const std::vector<Material>& materials, bool blocks)
    : blocks_(blocks),
      follow_(blocks && drawn.follow),
      cuts_(blocks && drawn.cuts),
      turns_(drawn.turns),
      mirror_(drawn.mirror),
      rank_(drawn.cover ? kCoverRank : 0) {
  takeOver(drawn.over, materials);
  std::array<MaterialIndex, 128> stands;
  stands.fill(kUnassigned);  // Whatever is there stays.
  if (blocks) stands[ObjectPiece::kOpened] = kOpen;
  for (const PieceSign& sign : drawn.signs)
    stands[static_cast<size_t>(sign.sign[0])] = indexOf(materials, sign.material);

  const auto rows = static_cast<int>(drawn.layers[0].rows.size());
  const auto wide = static_cast<int>(drawn.layers[0].rows[0].size());
  const PieceAnchor anchor = drawn.anchor.value_or(PieceAnchor{wide / 2, rows / 2});
  const auto layers = static_cast<int>(drawn.layers.size());
  hanging_ = 2 * drawn.sink - (layers - 1);
  foot_ = -drawn.sink;
  const auto at = [&](int k, int j, int i) {
    const std::string& row = drawn.layers[static_cast<size_t>(k)].rows[static_cast<size_t>(j)];
    return stands[static_cast<size_t>(row[static_cast<size_t>(i)])];
  };
  const auto add = [&](int i, int level, int j, MaterialIndex material) {
    cells_.push_back({static_cast<int16_t>(i - anchor.x), static_cast<int16_t>(level),
        static_cast<int16_t>(j - anchor.z), material});
  };
  for (int j = 0; j < rows; ++j)
    for (int i = 0; i < wide; ++i) {
      if (!blocks) {
        int k = layers - 1;
        while (k >= 0 && at(k, j, i) == kUnassigned) --k;
        if (k >= 0) add(i, 0, j, at(k, j, i));
        continue;
      }
      for (int k = 0; k < layers; ++k)
        if (at(k, j, i) != kUnassigned) add(i, k - drawn.sink, j, at(k, j, i));
      const MaterialIndex foot = at(0, j, i);
      for (int n = 1; n <= drawn.fill && foot < kOpen; ++n) add(i, -drawn.sink - n, j, foot);
    }
  for (const PieceCell& cell : cells_) {
    reach_ = std::max<int64_t>({reach_, std::abs(cell.x), std::abs(cell.z)});
    lowest_ = std::min<int64_t>(lowest_, cell.y);
    highest_ = std::max<int64_t>(highest_, cell.y);
  }
}

Piece::Piece(const TreeStyle& style, const std::vector<Material>& materials, bool blocks)
    : blocks_(blocks), follow_(false), cuts_(false), turns_(true), mirror_(true), rank_(0) {
  takeOver(style.over, materials);
}

void Piece::takeOver(const std::vector<std::string>& over, const std::vector<Material>& materials) {
  for (const std::string& material : over) over_.push_back(indexOf(materials, material));
  std::sort(over_.begin(), over_.end());
}

PieceCell Piece::placed(const PieceCell& cell, int quarters, bool mirrored) const {
  PieceCell out = cell;
  if (mirrored && mirror_) out.x = static_cast<int16_t>(-out.x);
  for (int n = 0; turns_ && n < quarters; ++n)
    out.x = static_cast<int16_t>(-std::exchange(out.z, out.x));
  return out;
}

bool Piece::takes(MaterialIndex made, bool liquid) const {
  if (cuts_) return true;
  if (blocks_ && (made == kOpen || liquid)) return true;
  if (!blocks_ && over_.empty()) return true;
  return std::binary_search(over_.begin(), over_.end(), made);
}

}  // namespace acre
