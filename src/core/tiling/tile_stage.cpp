#include "tiling/tile_stage.h"

#include <algorithm>
#include <span>

#include "base/hash.h"
#include "base/seed.h"
#include "noise/kernels.h"
#include "recipe/recipe.h"
#include "recipe/stages.h"

namespace acre {
namespace {

constexpr uint64_t kTileStage = 0x54696C6573;  // "Tiles"

}  // namespace

std::shared_ptr<const TileStage> TileStage::of(const Recipe& recipe) {
  if (!takesPart(recipe, StageId::Tiles)) return nullptr;
  auto made = std::make_shared<TileStage>();
  made->classes_.resize(recipe.materials.size() + 1);
  const uint64_t stage = combine(seedNumber(recipe.seed), kTileStage);
  const std::vector<TileGroup>& groups = recipe.tiles->groups;
  for (size_t k = 0; k < groups.size(); ++k) {
    const TileGroup& said = groups[k];
    const TileSet* set = setOf(*recipe.tiles, said);
    if (!said.on || !set) continue;
    const uint64_t key = combine(stage, hashText(said.id));
    Group group{
        said, *set, TileCases(set->method, set->turns), k, combine(key, 0), combine(key, 2)};
    const TileCases& cases = group.cases;
    for (int n = 0; n < cases.count(); ++n) {
      const auto place = static_cast<size_t>(n);
      group.first[place] = TileValue::of(cases.drawingOf(n), cases.orientationOf(n));
      std::vector<uint32_t> sums;
      for (const int32_t weight : weightsOf(*set, n))
        sums.push_back((sums.empty() ? 0 : sums.back()) + static_cast<uint32_t>(weight));
      group.sums.push_back(std::move(sums));
      group.varied = group.varied || group.sums.back().size() > 1;
      group.asCases = group.asCases && group.first[place] == n + 1;
    }
    group.variety = varietyOf(group);
    if (set->method == TileMethod::Corners) group.first[0] = TileValue::kNone;
    made->groups_.push_back(std::move(group));
    for (const std::string& id : said.materials)
      for (size_t m = 0; m < recipe.materials.size(); ++m)
        if (recipe.materials[m].id == id)
          made->classes_[m + 1] = static_cast<uint8_t>(made->groups_.size());
  }
  if (made->groups_.empty()) return nullptr;
  ClassTable& table = made->table_;
  table.narrow = made->classes_.size() <= std::size(table.of);
  std::copy_n(made->classes_.begin(), std::min(made->classes_.size(), std::size(table.of)),
      std::begin(table.of));
  table.all = made->classes_.data();
  table.count = static_cast<int>(made->classes_.size());
  return made;
}

/// A hash h draws floor(h * all / 2^32), which is a sum or more from that sum's share of 2^32 on.
std::optional<TileVariety> TileStage::varietyOf(const Group& group) {
  const std::vector<uint32_t>& sums = group.sums.front();
  const auto same = [&](const std::vector<uint32_t>& other) { return other == sums; };
  if (sums.size() < 2 || sums.size() > TileVariety::kMost + size_t{1} ||
      !std::all_of(group.sums.begin(), group.sums.end(), same))
    return {};
  TileVariety out;
  out.step = static_cast<uint16_t>(group.cases.drawings());
  for (const uint32_t sum : sums)
    if (sum < sums.back())
      out.from[out.count++] =
          static_cast<uint32_t>(((uint64_t{sum} << 32) + sums.back() - 1) / sums.back());
  return out;
}

void TileStage::classes(
    const Kernels& kernels, const MaterialIndex* materials, int64_t count, uint8_t* out) const {
  kernels.tileClasses(materials, count, table_, out);
}

bool TileStage::inside(const Group& group, uint8_t level, uint8_t of) const {
  const bool within = (of & ~kTileBeyond) >= level;
  if (of < kTileBeyond || group.said.rim == TileRim::Same) return within;
  return group.said.rim == TileRim::Inside;
}

template <class Take>
void TileStage::eachRow(
    const Kernels& kernels, int g, const TileWindow& window, const Take& take) const {
  const Group& group = groups_[static_cast<size_t>(g)];
  const auto level = static_cast<uint8_t>(g + 1);
  const auto run = group.set.method == TileMethod::Corners      ? kernels.tileCorners
                   : group.set.method == TileMethod::Neighbours ? kernels.tileNeighbours
                                                                : kernels.tileSides;
  // Rows lie one after the other, with the cells between them, and go by vectors as one: so many of
  // them at a time that all that is made of them stays near.
  constexpr int32_t kPart = 1024;  // Cells of a row.
  constexpr ptrdiff_t kNear = 8192, kVector = 64;
  std::array<uint8_t, kNear + 2 * kVector> held;
  std::array<uint8_t, kNear + kVector> cases;
  const auto whole = [](ptrdiff_t of) { return (of + kVector - 1) / kVector * kVector; };
  // Where there is one group, what is inside is told already.
  const bool told = groups_.size() == 1 && !window.beyond;
  for (int32_t i = 0; i < window.width; i += kPart) {
    const int32_t count = std::min(kPart, window.width - i);
    const ptrdiff_t laid = told && window.stride <= kNear / 4 ? window.stride : count + 2;
    const bool inPlace = laid == window.stride && told;
    const auto rows = static_cast<int32_t>(kNear / laid - 2);
    for (int32_t j = 0; j < window.length; j += rows) {
      const int32_t some = std::min(rows, window.length - j);
      const uint8_t* first = window.classes + (j - 1) * window.stride + i - 1;
      if (!inPlace) {
        const ptrdiff_t all = (some + 2) * laid;
        for (int32_t k = 0; k < some + 2; ++k)
          std::copy_n(first + k * window.stride, laid, held.data() + k * laid);
        if (window.beyond)
          for (uint8_t& of : std::span(held).first(static_cast<size_t>(all)))
            of = this->inside(group, level, of);
        else
          kernels.tileInside(held.data(), level, whole(all) + kVector, held.data());
        first = held.data();
      }
      const uint8_t* here = first + laid + 1;
      const ptrdiff_t cells = (some - 1) * laid + count;
      run({here - laid, here, here + laid}, inPlace ? cells : whole(cells), cases.data());
      // Sides tell whether there is a tile; that of plain sets is always the same.
      if (group.set.method == TileMethod::Plain)
        for (uint8_t& of : std::span(cases).first(static_cast<size_t>(cells)))
          of = of == TileCases::kNothing ? TileCases::kNothing : uint8_t{0};
      for (int32_t k = 0; k < some; ++k) take(j + k, i, count, cases.data() + k * laid);
    }
  }
}

int TileStage::variantOf(const Group& group, uint8_t number, uint32_t hash) const {
  const std::vector<uint32_t>& sums = group.sums[number];
  if (sums.size() == 1) return 0;
  const auto at = static_cast<uint32_t>(uint64_t{hash} * sums.back() >> 32);
  return static_cast<int>(std::upper_bound(sums.begin(), sums.end(), at) - sums.begin());
}

uint16_t TileStage::valueOf(const Group& group, uint8_t number, uint32_t hash) const {
  if (group.first[number] == TileValue::kNone) return TileValue::kNone;
  return static_cast<uint16_t>(
      group.first[number] + group.cases.drawings() * variantOf(group, number, hash));
}

void TileStage::values(
    const Kernels& kernels, int g, const TileWindow& window, uint16_t* values) const {
  const Group& group = groups_[static_cast<size_t>(g)];
  std::vector<uint32_t> columns(group.varied ? static_cast<size_t>(window.width) : 0);
  for (size_t i = 0; i < columns.size(); ++i)
    columns[i] = axisHash(group.xSeed, window.origin.x + static_cast<int64_t>(i));
  eachRow(kernels, g, window, [&](ptrdiff_t j, int32_t i, int32_t count, const uint8_t* cases) {
    uint16_t* to = values + j * window.width + i;
    if (group.asCases)
      kernels.tileValues(cases, count, group.first[0] == 0, to);
    else
      for (int32_t k = 0; k < count; ++k) to[k] = group.first[cases[k]];
    if (!group.varied) return;
    const uint32_t row = axisHash(group.zSeed, window.origin.z + j);
    if (group.variety)
      return kernels.tileVariants(*group.variety, &columns[static_cast<size_t>(i)], row, count, to);
    for (int32_t k = 0; k < count; ++k)
      if (to[k] != TileValue::kNone)
        to[k] = valueOf(group, cases[k], nodeHash(columns[static_cast<size_t>(i + k)], row));
  });
}

std::optional<uint16_t> TileStage::everywhere(int g, uint8_t least, uint8_t most) const {
  const Group& group = groups_[static_cast<size_t>(g)];
  const auto level = static_cast<uint8_t>(g + 1);
  if (most < level) return TileValue::kNone;
  const auto whole = static_cast<size_t>(group.cases.count() - 1);
  if (least >= level && group.sums[whole].size() == 1) return group.first[whole];
  return {};
}

TileOfCell TileStage::at(int g, const TileWindow& window, int32_t i, int32_t j) const {
  const Group& group = groups_[static_cast<size_t>(g)];
  const auto in = [&](int dx, int dz) {
    return inside(
        group, static_cast<uint8_t>(g + 1), window.classes[(j + dz) * window.stride + i + dx]);
  };
  TileOfCell out;
  out.mask = maskAround(group.set.method, in);
  if (group.set.method != TileMethod::Corners && !in(0, 0)) return out;
  out.number = group.cases.caseOf(out.mask);
  const uint32_t hash = nodeHash(
      axisHash(group.xSeed, window.origin.x + i), axisHash(group.zSeed, window.origin.z + j));
  out.variant = variantOf(group, out.number, hash);
  out.value = valueOf(group, out.number, hash);
  return out;
}

}  // namespace acre
