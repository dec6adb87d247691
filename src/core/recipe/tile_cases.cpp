#include "recipe/tile_cases.h"

#include <algorithm>

namespace acre {
namespace {

constexpr uint8_t kSides = 1 | 4 | 16 | 64;  // Of neighbours.

uint8_t quarter(TileMethod method, uint8_t mask) {
  switch (method) {
    case TileMethod::Neighbours:
      return static_cast<uint8_t>(mask << 2 | mask >> 6);
    case TileMethod::Sides:
      return static_cast<uint8_t>((mask << 1 | mask >> 3) & 15);
    // Clockwise from the upper left they weigh less and less.
    case TileMethod::Corners:
      return static_cast<uint8_t>((mask >> 1 | mask << 3) & 15);
    case TileMethod::Plain:
      break;
  }
  return mask;
}

uint8_t mirrored(TileMethod method, uint8_t mask) {
  unsigned out = 0;
  switch (method) {
    case TileMethod::Neighbours:
      for (int k = 0; k < 8; ++k)
        if (mask >> k & 1) out |= 1u << ((8 - k) & 7);
      break;
    case TileMethod::Sides:
      out = (mask & 5u) | (mask & 2u) << 2 | (mask & 8u) >> 2;
      break;
    case TileMethod::Corners:
      out = (mask & 5u) << 1 | (mask & 10u) >> 1;
      break;
    case TileMethod::Plain:
      break;
  }
  return static_cast<uint8_t>(out);
}

}  // namespace

uint8_t TileCases::reduced(uint8_t mask) {
  unsigned out = mask & kSides;
  for (int corner = 1; corner < 8; corner += 2) {
    const unsigned beside = 1u << (corner - 1) | 1u << ((corner + 1) & 7);
    if ((mask & beside) == beside) out |= mask & 1u << corner;
  }
  return static_cast<uint8_t>(out);
}

uint8_t TileCases::turned(TileMethod method, uint8_t mask, int orientation) {
  if (orientation >= 4) mask = mirrored(method, mask);
  for (int t = orientation % 4; t > 0; --t) mask = quarter(method, mask);
  return mask;
}

int TileCases::countOf(TileMethod method) {
  return method == TileMethod::Neighbours ? kMost : method == TileMethod::Plain ? 1 : 16;
}

int TileCases::bits() const {
  return method_ == TileMethod::Neighbours ? 8 : method_ == TileMethod::Plain ? 0 : 4;
}

TileCases::TileCases(TileMethod method, TileTurns turns) : method_(method) {
  const int masks = 1 << bits();
  for (int mask = 0; mask < masks; ++mask)
    if (method != TileMethod::Neighbours || reduced(static_cast<uint8_t>(mask)) == mask)
      masks_.push_back(static_cast<uint8_t>(mask));
  for (int mask = 0; mask < 256; ++mask) {
    const auto m = static_cast<uint8_t>(mask & (masks - 1));
    const uint8_t known = method == TileMethod::Neighbours ? reduced(m) : m;
    caseOf_[static_cast<size_t>(mask)] = static_cast<uint8_t>(
        std::lower_bound(masks_.begin(), masks_.end(), known) - masks_.begin());
  }
  const int ways = turns == TileTurns::None ? 1 : turns == TileTurns::Quarter ? 4 : 8;
  const auto most = static_cast<size_t>(count());
  shows_.resize(most);
  std::vector<bool> known(most);
  for (size_t n = 0; n < most; ++n) {
    if (known[n]) continue;
    for (int way = 0; way < ways; ++way) {
      const uint8_t shown = caseOf_[turned(method, masks_[n], way)];
      if (known[shown]) continue;
      known[shown] = true;
      shows_[shown] = {static_cast<uint8_t>(drawn_.size()), static_cast<uint8_t>(way)};
    }
    drawn_.push_back(static_cast<uint8_t>(n));
  }
  caseShown_.resize(drawn_.size());
  for (size_t n = 0; n < most; ++n)
    caseShown_[shows_[n].drawing][shows_[n].orientation] = static_cast<uint8_t>(n);
}

const std::vector<int32_t>& weightsOf(const TileSet& set, int number) {
  const auto own = std::find_if(set.cases.begin(), set.cases.end(),
      [&](const TileCaseWeights& one) { return one.number == number; });
  return own == set.cases.end() ? set.weights : own->weights;
}

int mostVariants(const TileSet& set) {
  size_t most = set.weights.size();
  for (const TileCaseWeights& one : set.cases) most = std::max(most, one.weights.size());
  return static_cast<int>(most);
}

const TileSet* setOf(const Tiling& tiling, const TileGroup& group) {
  const auto found = std::find_if(tiling.sets.begin(), tiling.sets.end(),
      [&](const TileSet& set) { return set.id == group.set; });
  return found == tiling.sets.end() ? nullptr : &*found;
}

}  // namespace acre
