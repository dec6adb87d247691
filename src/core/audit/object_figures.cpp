#include "audit/object_figures.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <utility>

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

std::string ObjectFigures::reasons(size_t atMost) const {
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
    const auto count = [&one](const Judged& of) {
      ++one.candidates;
      ++one.refused[static_cast<size_t>(of.refusal)];
    };
    if (!world.objects().judged(k, area, count, stop)) return {};
    one.count = std::exchange(one.refused[0], 0);
    for (const BiomeIndex biome : *biomes) one.asked += world.objects().densityIn(k, biome);
    one.asked /= static_cast<double>(biomes->size());
    one.placed = static_cast<double>(one.count) * 1000 / one.cells;
    one.most = world.objects().most(k);
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
    double asked = kind.density;
    for (const BiomeDensity& of : kind.biomes) asked = std::max(asked, of.density);
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
