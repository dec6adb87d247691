#include "output/ground_scale.h"

#include <algorithm>
#include <cmath>
#include <optional>

#include "field/distribution.h"
#include "field/field.h"
#include "output/shading.h"
#include "view/scene.h"
#include "world/world.h"

namespace acre {
namespace {

/// Some of the sites that all measuring uses, `side` x `side` of them.
std::vector<Cell> sitesOf(const World& world, int64_t side) {
  const Frame& frame = world.recipe().frame;
  const SampleSites sites(frame.x, frame.z, world.heightField().widestFeature(), world.seed());
  std::vector<Cell> out;
  for (int64_t j = 0; j < sites.rows(); j += std::max<int64_t>(1, sites.rows() / side))
    for (int64_t i = 0; i < sites.columns(); i += std::max<int64_t>(1, sites.columns() / side))
      out.push_back(sites.at(i, j));
  return out;
}

/// The land as it is before rivers and objects: each site would pull what is far around it.
Land bare(float* heights, ptrdiff_t stride) {
  Land land;
  land.heights = heights;
  land.stride = stride;
  land.beforeWater = land.beforeObjects = true;
  return land;
}

std::optional<double> percentile(std::vector<float>& values, double share) {
  if (values.empty()) return {};
  const auto at =
      values.begin() + static_cast<ptrdiff_t>(share * static_cast<double>(values.size() - 1));
  std::nth_element(values.begin(), at, values.end());
  return *at;
}

float steepnessAt(const World& world, int64_t step) {
  constexpr int64_t kSites = 16;
  constexpr int32_t kSide = 6;  // Samples of a patch, its rim included.
  constexpr size_t kFewest = 256;
  std::vector<float> land, all, heights(size_t{kSide} * kSide);
  const auto sea = static_cast<float>(world.seaLevel());
  for (const Cell site : sitesOf(world, kSites)) {
    const SampleGrid grid{site.x - kSide / 2 * step, site.z - kSide / 2 * step, step, kSide, kSide};
    if (!checkGrid(grid) || !world.columns().sample(grid, bare(heights.data(), kSide))) continue;
    for (int32_t j = 1; j + 1 < kSide; ++j)
      for (int32_t i = 1; i + 1 < kSide; ++i) {
        const Cell first{grid.x + (i - 1) * step, grid.z + (j - 1) * step};
        if (world.bounded() &&
            (!world.bounds().contains(first) ||
                !world.bounds().contains({first.x + 2 * step, first.z + 2 * step})))
          continue;
        const float* h = heights.data() + ptrdiff_t{j} * kSide + i;
        const float x = h[1] - h[-1], z = h[kSide] - h[-kSide];
        all.push_back(std::sqrt(x * x + z * z) / static_cast<float>(2 * step));
        if (*h >= sea) land.push_back(all.back());
      }
  }
  const double steep = percentile(land.size() >= kFewest ? land : all, 0.9).value_or(0);
  return steep > 0 ? static_cast<float>(std::tan(GroundScale::kSteepDegrees * kDegree) / steep) : 0;
}

/// A place on a table of inks.
struct Knot {
  float depth;
  uint32_t ink;
};
constexpr float kFringe = 0.42f;  ///< How much paler water is where it ends,
constexpr float kDepths = 0.38f;  ///< and how much darker where it is deepest.

}  // namespace

double niceStep(double v) {
  if (!(v > 1e-6)) return 1e-6;
  const double power = std::pow(10.0, std::floor(std::log10(v)));
  for (const double m : {1.0, 2.0, 5.0})
    if (m * power >= v * (1 - 1e-9)) return m * power;
  return 10 * power;
}

float GroundScale::steepening(int64_t step) const {
  const std::lock_guard lock(mutex_);
  const auto [at, fresh] = steepening_.try_emplace(step, 0.0f);
  if (fresh) at->second = steepnessAt(*world_, step);
  return at->second;
}

bool GroundScale::hasMaterialsOf(const World& world) const {
  return world_->recipe().materials == world.recipe().materials;
}

double GroundScale::contourInterval(double cellsPerPixel) const {
  constexpr double kApart = 12;  // Pixels.
  const auto step = static_cast<int64_t>(std::max(1.0, std::round(cellsPerPixel)));
  const auto steepening = static_cast<double>(this->steepening(step));
  if (!(steepening > 0)) return 0;
  const double steep = std::tan(kSteepDegrees * kDegree) / steepening;
  return std::max(1.0, niceStep(kApart * cellsPerPixel * steep));
}

const WaterInks& GroundScale::water() const {
  const std::lock_guard lock(mutex_);
  if (water_) return *water_;
  const auto& materials = world_->recipe().materials;
  auto out = std::make_unique<WaterInks>();
  out->of_.assign(materials.size() + 1, WaterInks::kNone);
  const auto isLiquid = [&](size_t thing) {
    return thing > 0 && thing <= materials.size() &&
           materials[thing - 1].state == MaterialState::Liquid;
  };
  const auto table = [&](const std::vector<Knot>& knots) {
    WaterInks::Table made;
    made.perCell = WaterInks::kSteps / knots.back().depth;
    for (size_t n = 0; n < made.inks.size(); ++n) {
      const float depth = (static_cast<float>(n) + 0.5f) / made.perCell;
      size_t k = 1;
      while (k + 1 < knots.size() && knots[k].depth < depth) ++k;
      const Knot &a = knots[k - 1], &b = knots[k];
      const float t = std::clamp((depth - a.depth) / (b.depth - a.depth), 0.0f, 1.0f);
      made.inks[n] = mixed(a.ink, b.ink, t);
    }
    out->tables_.push_back(made);
    return static_cast<uint16_t>(out->tables_.size() - 1);
  };
  const auto inkOf = [&](size_t thing) { return opaqueInk(materials[thing - 1].colour); };
  // What the sea is made of, and how deep: samples so far apart are made roughly, and together.
  constexpr int64_t kRoughStep = 512;
  constexpr float kLeastShare = 0.02f;
  const int64_t sites = world_->bounded() ? 48 : 12;
  const int32_t side = world_->bounded() ? 1 : 4;
  const size_t patch = static_cast<size_t>(side) * static_cast<size_t>(side);
  std::vector<float> heights(patch), depths;
  std::vector<MaterialIndex> things(patch);
  std::vector<float> sums(materials.size() + 1), counts(materials.size() + 1);
  for (const Cell site : sitesOf(*world_, sites)) {
    Land land = bare(heights.data(), side);
    land.materials = things.data();
    if (!world_->columns().sample({site.x, site.z, kRoughStep, side, side}, land)) continue;
    for (size_t n = 0; n < patch; ++n) {
      const float depth = static_cast<float>(world_->seaLevel()) - heights[n];
      if (depth <= 0 || !isLiquid(things[n])) continue;
      depths.push_back(depth);
      sums[things[n]] += depth;
      ++counts[things[n]];
    }
  }
  std::vector<std::pair<float, size_t>> sea;
  for (size_t thing = 1; thing < counts.size(); ++thing)
    if (counts[thing] > kLeastShare * static_cast<float>(depths.size()))
      sea.emplace_back(sums[thing] / counts[thing], thing);
  std::sort(sea.begin(), sea.end());
  if (!sea.empty()) {
    const auto deepest = static_cast<float>(percentile(depths, 0.95).value_or(1));
    std::vector<Knot> knots = {{0, mixed(inkOf(sea.front().second), kPaperInk, kFringe)}};
    for (const auto& [depth, thing] : sea)
      if (depth > knots.back().depth) knots.push_back({depth, inkOf(thing)});
    const float most = std::max(deepest, knots.back().depth + 1);
    knots.push_back({most, mixed(knots.back().ink, kPenInk, kDepths)});
    const uint16_t of = table(knots);
    for (const auto& [depth, thing] : sea) out->of_[thing] = of;
  }
  constexpr float kPond = 3, kDeepPond = 12;
  for (size_t thing = 1; thing < out->of_.size(); ++thing)
    if (isLiquid(thing) && out->of_[thing] == WaterInks::kNone)
      out->of_[thing] = table({{0, mixed(inkOf(thing), kPaperInk, kFringe / 2)},
          {kPond, inkOf(thing)}, {kDeepPond, mixed(inkOf(thing), kPenInk, kDepths)}});
  water_ = std::move(out);
  return *water_;
}

}  // namespace acre
