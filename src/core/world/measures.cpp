#include "world/measures.h"

#include <algorithm>

#include "climate/land_sampler.h"
#include "recipe/look.h"
#include "strata/blocks.h"
#include "world/world.h"

namespace acre {

Digest distributionKey(const Field& field, const Frame& frame, uint64_t seed) {
  DigestWriter key;
  key.text("distribution").digest(field.key()).u64(seed);
  writeKey(key, frame.x);
  writeKey(key, frame.z);
  return key.finish();
}

std::shared_ptr<const Distribution> measure(const Field& field, const Frame& frame, uint64_t seed,
    const Kernels& kernels, const std::stop_token& stop) {
  auto taken = Distribution::take(
      field, SampleSites(frame.x, frame.z, field.widestFeature(), seed), kernels, stop);
  return taken ? std::make_shared<const Distribution>(std::move(*taken)) : nullptr;
}

std::shared_ptr<const Distribution> measureShaped(
    const WorldParts& parts, const Frame& frame, uint64_t seed, const std::stop_token& stop) {
  const SampleSites sites(frame.x, frame.z, parts.heights->widestFeature(), seed);
  std::vector<float> values(static_cast<size_t>(sites.columns() * sites.rows()));
  for (int32_t n = 0; n < sites.patches(); ++n) {
    if (stop.stop_requested()) return nullptr;
    const SampleSites::Patch patch = sites.patch(n);
    std::vector<float> some(patch.cells.size());
    parts.land->scattered(static_cast<int>(some.size()), patch.cells.data(), some.data(), nullptr,
        Accuracy::Approximate);
    for (size_t i = 0; i < some.size(); ++i) values[patch.places[i]] = some[i];
  }
  return std::make_shared<const Distribution>(std::move(values), sites.exact());
}

std::shared_ptr<const RockProfile> measureRock(const Recipe& recipe, const WorldParts& parts,
    const Kernels& kernels, const std::stop_token& stop) {
  // Fewer columns where they are high: what counts is the number of blocks.
  constexpr int64_t kColumns = 4096, kBlocks = int64_t{1} << 22;
  const AxisBounds& range = recipe.frame.y;
  const int64_t columns = std::clamp<int64_t>(kBlocks / range.extent, 64, kColumns);
  Recipe untouched = recipe;
  untouched.edits = nullptr;
  const World bare(std::move(untouched), parts, kernels);
  // Of the endless world, so that bounds only crop.
  std::optional<AxisBounds> plane;
  if (recipe.frame.kind == WorldKind::Side) plane = AxisBounds{0, 1};
  const SampleSites sites({}, plane, parts.heights->widestFeature(), bare.seed());
  const int64_t all = sites.columns() * sites.rows();
  const int64_t taken = std::min(columns, all);
  auto profile = std::make_shared<RockProfile>();
  profile->bottom = range.min;
  profile->counts.assign(
      static_cast<size_t>(range.extent), std::vector<uint32_t>(recipe.materials.size() + 1));
  constexpr int kBatch = 64;
  constexpr int32_t kLevels = 4096;
  for (int64_t first = 0; first < taken; first += kBatch) {
    if (stop.stop_requested()) return nullptr;
    const auto count = static_cast<int>(std::min<int64_t>(kBatch, taken - first));
    std::vector<Cell> cells;
    std::vector<int64_t> x, z;
    for (int64_t k = first; k < first + count; ++k) {
      // Spread over the strata by the golden section, so that rows and columns are all met.
      const int64_t at =
          static_cast<int64_t>(static_cast<uint64_t>(k) * 2654435761u % static_cast<uint64_t>(all));
      const Cell cell = sites.at(at % sites.columns(), at / sites.columns());
      cells.push_back(cell);
      x.push_back(cell.x);
      z.push_back(cell.z);
    }
    const auto n = static_cast<size_t>(count);
    std::vector<float> heights(n);
    std::vector<BiomeIndex> biomes(n);
    std::vector<MaterialIndex> surface(n);
    bare.columns().scattered(
        count, cells.data(), heights.data(), biomes.data(), surface.data(), Accuracy::Approximate);
    const BlockColumns places{count, x.data(), z.data(), 0, 1, heights.data(), surface.data(),
        parts.biomes ? biomes.data() : nullptr};
    for (int64_t y = 0; y < range.extent; y += kLevels) {
      const BlockLevels levels{
          range.min + y, static_cast<int32_t>(std::min<int64_t>(kLevels, range.extent - y))};
      std::vector<MaterialIndex> blocks(n * static_cast<size_t>(levels.count));
      parts.blocks->fillPlain(kernels, places, levels, blocks.data());
      for (size_t k = 0; k < blocks.size(); ++k)
        if (blocks[k] < profile->counts[0].size())
          ++profile->counts[static_cast<size_t>(y) + k / n][blocks[k]];
    }
  }
  return profile;
}

std::shared_ptr<const RockProfile> measureFloor(const Recipe& recipe, const WorldParts& parts,
    const Kernels& kernels, const std::stop_token& stop) {
  constexpr int64_t kSamples = 1024;  // Along each side, at most.
  Recipe untouched = recipe;
  untouched.edits = nullptr;
  const World bare(std::move(untouched), parts, kernels);
  const Rect all = bare.bounds();
  const int64_t step = (std::max(all.width, all.length) + kSamples - 1) / kSamples;
  const auto across = [&](int64_t side) { return static_cast<int32_t>((side + step - 1) / step); };
  const SampleGrid grid{all.x, all.z, step, across(all.width), across(all.length)};
  const auto room = static_cast<size_t>(grid.width) * static_cast<size_t>(grid.length);
  std::vector<MaterialIndex> materials(room);
  std::vector<float> heights(room);
  auto profile = std::make_shared<RockProfile>();
  profile->counts.assign(1, std::vector<uint32_t>(recipe.materials.size() + 1));
  if (!bare.sample(grid, heights.data(), materials.data(), stop)) return nullptr;
  for (size_t at = 0; at < room; ++at)
    if (heights[at] > 0 && materials[at] < profile->counts[0].size())
      ++profile->counts[0][materials[at]];
  return profile;
}

}  // namespace acre
