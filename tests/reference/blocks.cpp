#include <algorithm>
#include <cmath>
#include <limits>
#include <vector>

#include "base/hash.h"
#include "recipe/edits.h"
#include "recipe/level_recipe.h"
#include "recipe/stages.h"
#include "recipe/water_recipe.h"
#include "reference/arithmetic.h"
#include "reference/evaluator.h"

// Blocks one at a time: depth counted upward block by block, every ore body looked at in all cubes
// that could hold it, the rock of the world counted column by column.
namespace reference {
namespace {

using acre::DepthLayer;
using acre::Ore;

constexpr double kPi = 3.14159265358979323846;

}  // namespace

struct Evaluator::OrePlan {
  const Ore* ore;
  std::vector<std::string> hosts;
  int64_t reach, side;
  double perCube;
  std::vector<float> stay;  // By level.
  uint64_t seed;
};

Evaluator::Column Evaluator::columnOf(acre::Cell cell, bool before) {
  const LandValue here = before ? unshaped(cell) : land(cell);
  Column out{cell, here.height, surface(cell, here), {}, 0, 0, 0, {}, {}};
  if (recipe_.overhang.on) {
    acre::Layer masked;
    masked.mask = recipe_.overhang.mask;
    out.overhang = static_cast<float>(recipe_.overhang.amount) *
                   maskWeight(masked, {{cell.x, 0, cell.z}, {0, 0, 0}});
  }
  if (!before && acre::takesPart(recipe_, acre::StageId::Water)) {
    const acre::Rivers& rivers = *recipe_.rivers;
    const WaterValue water = this->water(cell);
    if (water.shore < 4) out.overhang = out.overhang * (water.shore / 4);
    out.held = water.held;
    if (water.fresh()) {
      out.level = water.level;
      if (!rivers.bed.empty()) out.surface = rivers.bed;
    } else if (water.kind == "dry") {
      if (!rivers.wet.empty() && water.shore <= static_cast<float>(rivers.wetReach))
        out.surface = rivers.wet;
      if (!rivers.bank.empty() && water.shore <= static_cast<float>(rivers.bankReach))
        out.surface = rivers.bank;
    }
  }
  const acre::Biome* biome = acre::biomeOf(recipe_, here.biome);
  if (biome && !biome->layersOf.empty()) biome = acre::biomeOf(recipe_, biome->layersOf);
  for (const DepthLayer& layer : biome && biome->layers ? *biome->layers : recipe_.layers) {
    float thick = static_cast<float>(layer.thickness);
    if (!layer.field.empty())
      thick = thick + static_cast<float>(layer.vary) * field(layer.field, cell);
    out.deepest += std::max<int64_t>(0, static_cast<int64_t>(std::floor(thick)));
    out.layers.emplace_back(
        layer.material == "surface" ? out.surface : layer.material, out.deepest);
  }
  out.rockTop = static_cast<float>(recipe_.rock.top);
  if (!recipe_.rock.bend.empty())
    out.rockTop =
        out.rockTop + static_cast<float>(recipe_.rock.lift) * field(recipe_.rock.bend, cell);
  return out;
}

bool Evaluator::solid(const Column& column, int64_t y, bool overhangs) const {
  const float d = column.height - static_cast<float>(y + 1);
  float push = 0;
  if (overhangs && recipe_.overhang.on && !(column.held && y < *column.held)) {
    const float inverse = 1.0f / static_cast<float>(recipe_.overhang.reach);
    const float weight = 1.0f - std::abs(d) * inverse;
    if (weight > 0)
      push = column.overhang * weight *
             noise(recipe_.overhang.noise, 3, acre::combine(seed_, 0x4F76657268616E67u), {},
                 {{column.cell.x, y, column.cell.z}, {0, 0, 0}});
  }
  return d + push >= 0;
}

std::string Evaluator::ground(const Column& column, int64_t y, bool overhangs) const {
  if (!solid(column, y, overhangs)) {
    const std::string& fresh =
        recipe_.rivers->water.empty() ? recipe_.water.material : recipe_.rivers->water;
    if (column.level && y < *column.level && !fresh.empty()) return fresh;
    const bool wet = static_cast<float>(y) < static_cast<float>(recipe_.frame.seaLevel) &&
                     !recipe_.water.material.empty();
    return wet ? recipe_.water.material : "open";
  }
  if (!recipe_.strataOn) return acre::kUnassignedId;
  int64_t depth = 0;
  while (depth < column.deepest && solid(column, y + depth + 1, overhangs)) ++depth;
  for (const auto& [material, end] : column.layers)
    if (depth < end) return material;
  double end = 0;
  for (const acre::Bed& bed : recipe_.rock.beds) {
    end += bed.thickness;
    const bool last = &bed == &recipe_.rock.beds.back();
    const float below = column.rockTop - (static_cast<float>(y) + 0.5f);
    if (last || below < static_cast<float>(end)) return bed.material;
  }
  return acre::kUnassignedId;
}

std::string Evaluator::plainBlock(acre::Cell cell, int64_t y) {
  return ground(columnOf(cell), y, false);
}

acre::AxisBounds Evaluator::oreRange() const {
  return recipe_.frame.kind == acre::WorldKind::Level ? acre::AxisBounds{0, 1} : recipe_.frame.y;
}

std::vector<std::map<std::string, uint32_t>> Evaluator::rockOfWorld() {
  const acre::AxisBounds range = recipe_.frame.y;
  const auto levels = static_cast<size_t>(range.extent);
  // The sample of columns: hashed cells of strata about the origin, without bounds.
  const int64_t taken = std::clamp<int64_t>((int64_t{1} << 22) / range.extent, 64, 4096);
  const int64_t side =
      static_cast<int64_t>(widest(recipe_.heights, 0, recipe_.heights.layers.size())) | 1;
  const bool plane = recipe_.frame.kind == acre::WorldKind::Side;
  const int64_t rows = plane ? 1 : 256, all = 256 * rows;
  std::vector<std::map<std::string, uint32_t>> rock(levels);
  for (int64_t k = 0; k < std::min(taken, all); ++k) {
    const auto at =
        static_cast<int64_t>(static_cast<uint64_t>(k) * 2654435761u % static_cast<uint64_t>(all));
    const uint64_t i = static_cast<uint64_t>(at % 256), j = static_cast<uint64_t>(at / 256);
    const uint64_t key = acre::combine(acre::combine(seed_, i), j);
    const acre::Cell cell{
        (static_cast<int64_t>(i) - 128) * side +
            static_cast<int64_t>((key & 0xFFFFFFFFu) % static_cast<uint64_t>(side)),
        plane ? 0
              : (static_cast<int64_t>(j) - 128) * side +
                    static_cast<int64_t>((key >> 32) % static_cast<uint64_t>(side))};
    const Column column = columnOf(cell, true);
    for (size_t level = 0; level < levels; ++level)
      ++rock[level][ground(column, range.min + static_cast<int64_t>(level), false)];
  }
  return rock;
}

const std::vector<Evaluator::OrePlan>& Evaluator::orePlans() {
  if (ores_) return *ores_;
  ores_ = std::make_shared<std::vector<OrePlan>>();
  const acre::AxisBounds range = oreRange();
  const auto levels = static_cast<size_t>(range.extent);
  const bool level = recipe_.frame.kind == acre::WorldKind::Level;
  auto rock = level ? rockOfFloor() : rockOfWorld();
  const uint64_t seed =
      level ? acre::combine(seed_, static_cast<uint64_t>(int64_t{recipe_.level->floor})) : seed_;
  struct Before {
    std::vector<std::string> hosts;
    std::vector<double> shares;
  };
  std::vector<Before> before;
  for (const Ore& ore : recipe_.ores) {
    if (!ore.on || ore.share <= 0) continue;
    OrePlan plan{&ore, {}, 0, 0, 0, {}, 0};
    for (const acre::Bed& bed : recipe_.rock.beds)
      if (ore.hosts.empty() ||
          std::find(ore.hosts.begin(), ore.hosts.end(), bed.material) != ore.hosts.end())
        if (std::find(plan.hosts.begin(), plan.hosts.end(), bed.material) == plan.hosts.end())
          plan.hosts.push_back(bed.material);
    const auto count = [&](size_t level, const std::vector<std::string>& of) {
      double sum = 0;
      for (const std::string& host : plan.hosts)
        if (std::find(of.begin(), of.end(), host) != of.end()) sum += rock[level][host];
      return sum;
    };
    std::vector<double> weight(levels, 1);
    double weighted = 0, hosts = 0;
    for (size_t level = 0; level < levels; ++level) {
      if (!ore.curve.empty())
        weight[level] = std::max(0.0,
            static_cast<double>(
                curveAt(ore.curve, static_cast<float>(range.min + static_cast<int64_t>(level)))));
      weighted += weight[level] * count(level, plan.hosts);
      hosts += count(level, plan.hosts);
    }
    if (hosts <= 0 || weighted <= 0) continue;
    Before own{plan.hosts, std::vector<double>(levels)};
    std::vector<double> volume(levels);
    double most = 0;
    for (size_t level = 0; level < levels; ++level) {
      const double here = count(level, plan.hosts);
      own.shares[level] = ore.share * weight[level] * (hosts / weighted);
      double gone = 0;
      for (const Before& b : before)
        gone += b.shares[level] * (here > 0 ? count(level, b.hosts) / here : 0);
      const double needed = std::min(own.shares[level] / std::max(1e-9, 1 - gone), 0.95);
      // -ln(1 - needed) by its series.
      const double t = needed / (2 - needed);
      double power = t, sum = 0;
      for (int n = 1; n < 400; n += 2, power *= t * t) sum += power / n;
      volume[level] = 2 * sum;
      most = std::max(most, volume[level]);
    }
    before.push_back(own);
    const bool vein = ore.shape == Ore::Shape::Vein;
    const double far =
        vein ? ore.length * static_cast<double>(0.75f + 0.3f) + ore.radius : ore.radius * 1.25;
    plan.reach = static_cast<int64_t>(std::ceil(far)) + 1;
    plan.side = std::max<int64_t>(16, plan.reach);
    const double a = 0.75, b = 1.25;
    const double mean = vein ? 2.0 / 3 * kPi * ore.radius * ore.radius * ore.length
                             : 4.0 / 3 * kPi * ore.radius * ore.radius * ore.radius *
                                   ((b * b * b * b - a * a * a * a) / (4 * (b - a)));
    const auto cube = static_cast<double>(plan.side);
    plan.perCube = most / mean * cube * cube * cube;
    for (const double v : volume) plan.stay.push_back(most > 0 ? static_cast<float>(v / most) : 0);
    plan.seed = acre::combine(acre::combine(seed, 0x4F726573u), acre::hashText(ore.id));
    ores_->push_back(std::move(plan));
  }
  return *ores_;
}

std::string Evaluator::block(acre::Cell cell, int64_t y) {
  const acre::AxisBounds range = recipe_.frame.y;
  const auto within = [](const std::optional<acre::AxisBounds>& axis, int64_t v) {
    return !axis || (v >= axis->min && v < axis->min + axis->extent);
  };
  const bool plane = recipe_.frame.kind == acre::WorldKind::Side;
  if (y < range.min || y >= range.min + range.extent || !within(recipe_.frame.x, cell.x) ||
      (plane ? cell.z != 0 : !within(recipe_.frame.z, cell.z)))
    return "outside";
  if (recipe_.edits && recipe_.edits->seed() == recipe_.seed)
    for (const acre::Edit& edit : recipe_.edits->all())
      if (edit.x == cell.x && edit.y == y && edit.z == cell.z) return edit.material;
  return withObjects(cell, y, madeBlock(cell, y));
}

std::string Evaluator::madeBlock(acre::Cell cell, int64_t y) {
  std::string material = ground(columnOf(cell), y, true);
  if (recipe_.strataOn) material = mineral(cell, y, material);
  return dug(cell, y, material);
}

std::string Evaluator::mineral(acre::Cell cell, int64_t y, std::string material) {
  const acre::AxisBounds range = oreRange();
  for (const OrePlan& plan : orePlans()) {
    if (std::find(plan.hosts.begin(), plan.hosts.end(), material) == plan.hosts.end()) continue;
    bool found = false;
    const int64_t at[3] = {cell.x, y, cell.z};
    int64_t low[3], high[3];
    for (int a = 0; a < 3; ++a) {
      low[a] = floorOf(at[a] - plan.reach, plan.side);
      high[a] = floorOf(at[a] + plan.reach, plan.side);
    }
    for (int64_t i = low[0]; i <= high[0]; ++i)
      for (int64_t j = low[1]; j <= high[1]; ++j)
        for (int64_t k = low[2]; k <= high[2]; ++k) {
          uint64_t cube = plan.seed;
          for (const int64_t c : {i, j, k}) cube = acre::combine(cube, static_cast<uint64_t>(c));
          const int count = static_cast<int>(
              std::floor(plan.perCube + static_cast<double>(cube >> 11) / 9007199254740992.0));
          for (int n = 1; n <= count; ++n) {
            const uint64_t body = acre::combine(cube, static_cast<uint64_t>(n));
            const auto draw = [&](uint64_t what) {
              return acre::mix64(body + what * 0x9E3779B97F4A7C15u);
            };
            const auto unit = [&](uint64_t what) {
              return static_cast<float>(draw(what) >> 40) / 16777216.0f;
            };
            float d[3];
            int64_t middle[3];
            const int64_t corner[3] = {i, j, k};
            for (int a = 0; a < 3; ++a) {
              const uint64_t scaled =
                  (draw(static_cast<uint64_t>(a + 1)) >> 32) * static_cast<uint64_t>(plan.side);
              middle[a] = corner[a] * plan.side + static_cast<int64_t>(scaled >> 32);
              const float part = static_cast<float>((scaled & 0xFFFFFFFFu) >> 8) / 16777216.0f;
              d[a] = (static_cast<float>(at[a] - middle[a]) + 0.5f) - part;
            }
            const int64_t level = std::clamp<int64_t>(middle[1] - range.min, 0, range.extent - 1);
            if (!(unit(4) < plan.stay[static_cast<size_t>(level)])) continue;
            const auto radius = static_cast<float>(plan.ore->radius);
            if (plan.ore->shape == Ore::Shape::Pocket) {
              const float r = radius * (0.75f + 0.5f * unit(5));
              found = found || (d[0] * d[0] + d[1] * d[1]) + d[2] * d[2] <= r * r;
              continue;
            }
            const auto length = static_cast<float>(plan.ore->length);
            const float half = length * 0.5f * (0.5f + unit(5));
            const auto swing = [&](uint64_t what) { return unit(what) * 2.0f - 1.0f; };
            float axis[3] = {swing(6), swing(7) * 0.6f, swing(8)};
            const float square = axis[0] * axis[0] + axis[1] * axis[1] + axis[2] * axis[2];
            if (square < 0.01f) {
              axis[0] = 1;
              axis[1] = axis[2] = 0;
            } else {
              const float root = std::sqrt(square);
              for (float& part : axis) part = part / root;
            }
            const float b[3] = {swing(9), swing(10), swing(11)};
            const float along = b[0] * axis[0] + b[1] * axis[1] + b[2] * axis[2];
            const float s = (d[0] * axis[0] + d[1] * axis[1]) + d[2] * axis[2];
            const float q = s / half, left = 1.0f - q * q;
            if (!(left > 0)) continue;
            float away[3];
            for (int a = 0; a < 3; ++a)
              away[a] = (d[a] - axis[a] * s) -
                        (b[a] - axis[a] * along) * (length * 0.3f * 0.57f) * (q * q);
            found = found || (away[0] * away[0] + away[1] * away[1]) + away[2] * away[2] <=
                                 radius * radius * left;
          }
        }
    if (found) material = plan.ore->material;
  }
  return material;
}

}  // namespace reference
