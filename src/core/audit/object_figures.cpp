#include "audit/object_figures.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <map>
#include <numeric>
#include <utility>

#include "base/fp_state.h"
#include "climate/land_sampler.h"
#include "recipe/object_recipe.h"
#include "recipe/stages.h"
#include "world/world.h"

namespace acre {
namespace {

/// The biomes of an area's samples.
std::optional<std::vector<BiomeIndex>> biomesOf(
    const World& world, const Rect& area, const std::stop_token& stop) {
  constexpr int64_t kSamples = 64;
  const int64_t step = std::max<int64_t>(1, std::max(area.width, area.length) / kSamples);
  const SampleGrid grid{area.x, area.z, step,
      static_cast<int32_t>(std::max<int64_t>(1, area.width / step)),
      static_cast<int32_t>(std::max<int64_t>(1, area.length / step))};
  std::vector<BiomeIndex> out(static_cast<size_t>(grid.width) * static_cast<size_t>(grid.length));
  if (!world.biomes()) return out;
  Land land;
  land.biomes = out.data();
  if (!world.sample(grid, land, stop)) return {};
  return out;
}

}  // namespace

std::string reasonsOf(
    const std::array<uint64_t, kRefusals>& refused, uint64_t candidates, size_t atMost) {
  if (candidates == 0) candidates = std::accumulate(refused.begin(), refused.end(), uint64_t{0});
  std::vector<size_t> order;
  for (size_t n = 1; n < kRefusals; ++n)
    if (refused[n] > 0) order.push_back(n);
  std::stable_sort(
      order.begin(), order.end(), [&](size_t a, size_t b) { return refused[a] > refused[b]; });
  std::string out;
  for (size_t n = 0; n < std::min(atMost, order.size()); ++n)
    out +=
        fmt::format("{}{} {:.0f} %", n > 0 ? ", " : "", refusalName(static_cast<Refusal>(order[n])),
            100.0 * static_cast<double>(refused[order[n]]) / static_cast<double>(candidates));
  return out;
}

std::string ObjectFigures::reasons() const {
  return reasonsOf(refused, candidates);
}

bool countSquares(
    const World& world, const Rect& area, const std::stop_token& stop, ObjectFigures& one) {
  const int64_t side = world.objects().squareOf(one.kind);
  for (int64_t j = floorDiv(area.z, side); j * side < area.z + area.length; ++j)
    for (int64_t i = floorDiv(area.x, side); i * side < area.x + area.width; ++i) {
      const auto there = world.objects().mustHave(one.kind, i, j, stop);
      if (!there) return false;
      ++one.squares;
      for (size_t n = 0; n < kRefusals; ++n) {
        one.refused[n] += there->refused[n];
        one.candidates += there->refused[n];
      }
      one.count += there->placed && area.contains(there->placed->at.cell);
      one.candidates += there->placed.has_value();
      one.missing += !there->placed;
      one.forced += there->placed && there->placed->forced != Refusal::None;
    }
  const double cells = static_cast<double>(side) * static_cast<double>(side);
  one.asked = one.most = 1000 / cells;
  one.placed =
      one.asked * static_cast<double>(one.squares - one.missing) / static_cast<double>(one.squares);
  return true;
}

namespace {

void checkSquares(const ObjectKind& kind, const ObjectFigures& one, const std::string& at,
    std::vector<Check>& out) {
  if (one.missing == 0) return;
  out.push_back({"missing-objects",
      fmt::format("{} is missing in {} of {} squares: {}", kind.name, one.missing, one.squares,
          one.reasons()),
      StageId::Objects, at + "/must", kind.id, "place it where it fails last",
      [id = kind.id](Recipe& r) {
        for (ObjectKind& of : r.objects->kinds)
          if (of.id == id && of.must) of.must->forced = true;
      },
      {}});
}

}  // namespace

namespace {

/// sampled: biomes of the area; placed: where a kind stands.
std::vector<ObjectFigures::InBiome> inBiomes(const World& world, size_t kind,
    const std::vector<BiomeIndex>& sampled, const std::vector<Cell>& placed) {
  std::map<BiomeIndex, ObjectFigures::InBiome> found;
  const double each = 1 / static_cast<double>(sampled.size());
  for (const BiomeIndex biome : sampled) found[biome].share += each;
  std::vector<float> heights(placed.size());
  std::vector<BiomeIndex> under(placed.size());
  const FpState fp;
  world.parts().land->scattered(static_cast<int>(placed.size()), placed.data(), heights.data(),
      under.data(), Accuracy::Exact);
  for (const BiomeIndex biome : under) ++found[biome].count;
  std::vector<ObjectFigures::InBiome> out;
  for (auto& [biome, one] : found) {
    one.biome = biome;
    one.asked = world.objects().densityIn(kind, biome);
    out.push_back(one);
  }
  return out;
}

}  // namespace

std::optional<std::vector<ObjectFigures>> objectFigures(
    const World& world, const Rect& wanted, const std::stop_token& stop) {
  std::vector<ObjectFigures> out;
  if (!world.objects().any()) return out;
  const Rect area = intersection(wanted, planOf(world).bounds());
  if (area.empty()) return out;
  const auto biomes = biomesOf(world, area, stop);
  if (!biomes) return {};
  const auto& kinds = planOf(world).recipe().objects->kinds;
  for (size_t k = 0; k < kinds.size(); ++k) {
    if (!kinds[k].on) continue;
    ObjectFigures one;
    one.kind = k;
    one.name = kinds[k].name;
    one.cells = static_cast<double>(area.width) * static_cast<double>(area.length);
    if (kinds[k].must) {
      if (!countSquares(world, area, stop, one)) return {};
      out.push_back(std::move(one));
      continue;
    }
    std::vector<Cell> placed;
    const auto count = [&](const Judged& of) {
      ++one.candidates;
      ++one.refused[static_cast<size_t>(of.refusal)];
      if (of.refusal != Refusal::None) return;
      placed.push_back(of.at.cell);
      if (const auto tree = world.objectCells().grown(world.objects().objectOf(k, of))) {
        one.wood += tree->stamp->woodBlocks;
        one.leaves += tree->stamp->leafBlocks;
      }
    };
    if (!world.objects().judged(k, area, count, stop)) return {};
    one.count = std::exchange(one.refused[0], 0);
    for (const BiomeIndex biome : *biomes) one.asked += world.objects().densityIn(k, biome);
    one.asked /= static_cast<double>(biomes->size());
    one.placed = static_cast<double>(one.count) * 1000 / one.cells;
    one.most = world.objects().most(k);
    if (world.biomes()) one.biomes = inBiomes(world, k, *biomes, placed);
    out.push_back(std::move(one));
  }
  return out;
}

bool checkObjects(const World& world, const std::stop_token& stop, std::vector<Check>& out) {
  if (!world.objects().any()) return true;
  constexpr int64_t kSide = kObjectsLookedAt;
  const auto found = objectFigures(world, {-kSide / 2, -kSide / 2, kSide, kSide}, stop);
  if (!found) return false;
  const auto& kinds = planOf(world).recipe().objects->kinds;
  for (const ObjectFigures& one : *found) {
    const ObjectKind& kind = kinds[one.kind];
    const std::string at = fmt::format("/objects/kinds/{}", one.kind);
    if (kind.must) {
      constexpr int64_t kSquares = 8;
      const int64_t side = kSquares * kind.must->square;
      ObjectFigures all;
      all.kind = one.kind;
      const Rect about = intersection({-side / 2, -side / 2, side, side}, planOf(world).bounds());
      if (!about.empty() && !countSquares(world, about, stop, all)) return false;
      checkSquares(kind, all, at, out);
      continue;
    }
    const double asked = world.objects().greatest(one.kind);
    if (asked > one.most)
      out.push_back({"crowded-objects",
          fmt::format(
              "{}: {:g} of 1,000 cells are asked for at a distance of {}: at most {:.3g} fit",
              kind.name, asked, kind.distance, one.most),
          StageId::Objects, at + "/density", kind.id, "ask for as many as fit",
          [id = kind.id, most = std::floor(one.most * 10) / 10](Recipe& r) {
            for (ObjectKind& of : r.objects->kinds)
              if (of.id == id) {
                of.density = std::min(of.density, most);
                for (BiomeDensity& there : of.biomes) there.density = std::min(there.density, most);
              }
          },
          {}});
    if (asked > 0 && one.count == 0)
      out.push_back({"no-objects",
          one.candidates == 0
              ? fmt::format("{} stands nowhere in {} x {} cells", kind.name, kSide, kSide)
              : fmt::format("{} stands nowhere in {} x {} cells: {}", kind.name, kSide, kSide,
                    one.reasons()),
          StageId::Objects, at, kind.id, "switch it off",
          [id = kind.id](Recipe& r) {
            for (ObjectKind& of : r.objects->kinds)
              if (of.id == id) of.on = false;
          },
          {}});
  }
  return true;
}

}  // namespace acre
