#include "strata/ores.h"

#include <algorithm>
#include <cmath>

#include "base/draws.h"
#include "field/tables.h"
#include "recipe/look.h"
#include "strata/material_index.h"

namespace acre {
namespace {

constexpr uint64_t kOreStage = 0x4F726573;  // "Ores"
constexpr double kPi = 3.14159265358979323846;

/// -ln(1 - c) without the library's logarithm, whose last bits differ between machines.
/// REQUIRES: 0 <= c < 1.
double volumeFor(double covered) {
  // ln(1 - c) = -2 artanh(c / (2 - c)), whose series converges for all such c.
  const double t = covered / (2 - covered), square = t * t;
  double power = t, sum = 0;
  for (int k = 1; k < 400; k += 2, power *= square) sum += power / k;
  return 2 * sum;
}

/// Where in a cube: cell and place in the cell.
struct Spot {
  int64_t cell;
  float part;
};
Spot spotOf(uint64_t hash, int64_t side) {
  const uint64_t scaled = (hash >> 32) * static_cast<uint64_t>(side);
  return {static_cast<int64_t>(scaled >> 32),
      static_cast<float>((scaled & 0xFFFFFFFFu) >> 8) * 0x1p-24f};
}

constexpr float kShortest = 0.5f, kLongest = 1.5f;    // Of a vein's length.
constexpr float kSmallest = 0.75f, kLargest = 1.25f;  // Of a pocket's radius.
constexpr float kBend = 0.3f;                         // Of a vein's length, at most.
constexpr double kMostDense = 0.95;

double meanVolume(const Ore& ore) {
  if (ore.shape == Ore::Shape::Vein) return 2.0 / 3 * kPi * ore.radius * ore.radius * ore.length;
  // The mean of the cube of a radius spread evenly.
  const double a = kSmallest, b = kLargest;
  const double cubes = (b * b * b * b - a * a * a * a) / (4 * (b - a));
  return 4.0 / 3 * kPi * ore.radius * ore.radius * ore.radius * cubes;
}

}  // namespace

Digest OreStage::keyOf(const OreInputs& inputs, const Digest& profile) {
  DigestWriter key;
  key.text("ores").u32(1).u64(inputs.seed).digest(profile);
  key.i64(inputs.vertical.min).i64(inputs.vertical.extent);
  for (const Material& material : inputs.materials) key.text(material.id);
  for (const Bed& bed : inputs.rock.beds) key.text(bed.material);
  writeKey(key, inputs.ores);
  return key.finish();
}

std::shared_ptr<const OreStage> OreStage::compile(
    const OreInputs& inputs, const RockProfile& profile) {
  auto stage = std::make_shared<OreStage>();
  const auto levels = static_cast<size_t>(inputs.vertical.extent);
  const size_t materials = inputs.materials.size() + 1;
  struct Earlier {
    std::vector<uint8_t> hosts;
    std::vector<double> shares;  // By level.
  };
  std::vector<Earlier> earlier;
  for (size_t index = 0; index < inputs.ores.size(); ++index) {
    const Ore& ore = inputs.ores[index];
    if (!ore.on || !(ore.share > 0)) continue;
    Plan plan;
    plan.ore = index;
    plan.material = indexOf(inputs.materials, ore.material);
    plan.hosts.resize(materials);
    for (const Bed& bed : inputs.rock.beds)
      if (ore.hosts.empty() ||
          std::find(ore.hosts.begin(), ore.hosts.end(), bed.material) != ore.hosts.end())
        plan.hosts[indexOf(inputs.materials, bed.material)] = 1;
    plan.hosts[kUnassigned] = 0;

    const auto countAt = [&](size_t level, const std::vector<uint8_t>& hosts) {
      double count = 0;
      if (level < profile.counts.size())
        for (size_t m = 0; m < profile.counts[level].size() && m < hosts.size(); ++m)
          if (hosts[m] && plan.hosts[m]) count += profile.counts[level][m];
      return count;
    };
    // How much of it belongs where: the curve, scaled so that the share holds for all host rock.
    const auto curve = ore.curve.empty() ? nullptr : std::make_unique<const CurveTable>(ore.curve);
    std::vector<double> weight(levels, 1.0);
    double weighted = 0, hosts = 0;
    for (size_t level = 0; level < levels; ++level) {
      if (curve) {
        const auto y = static_cast<float>(inputs.vertical.min + static_cast<int64_t>(level));
        weight[level] = std::max(0.0, static_cast<double>(curve->at(y)));
      }
      const double here = countAt(level, plan.hosts);
      weighted += weight[level] * here;
      hosts += here;
    }
    if (!(hosts > 0) || !(weighted > 0)) {
      stage->shortages_.push_back({index, 0, inputs.vertical.min, true});
      continue;
    }
    const double scale = hosts / weighted;
    Earlier own{plan.hosts, std::vector<double>(levels)};
    std::vector<double> density(levels);
    double densest = 0;
    OreShortage worst{index, 0, 0, false};
    for (size_t level = 0; level < levels; ++level) {
      const double here = countAt(level, plan.hosts);
      own.shares[level] = ore.share * weight[level] * scale;
      double taken = 0;  // Of this ore's host rock, by those before it.
      for (const Earlier& before : earlier)
        taken += before.shares[level] * (here > 0 ? countAt(level, before.hosts) / here : 0);
      const double needed = own.shares[level] / std::max(1e-9, 1 - taken);
      if (here > 0 && (needed > kMostDense || taken >= 1) && needed > worst.wanted)
        worst = {index, needed, inputs.vertical.min + static_cast<int64_t>(level), false};
      density[level] = volumeFor(std::min(needed, kMostDense));
      densest = std::max(densest, density[level]);
    }
    if (worst.wanted > 0) stage->shortages_.push_back(worst);
    earlier.push_back(std::move(own));

    plan.vein = ore.shape == Ore::Shape::Vein;
    plan.radius = static_cast<float>(ore.radius);
    plan.length = static_cast<float>(ore.length);
    const double farthest =
        plan.vein ? ore.length * (kLongest / 2 + kBend) + ore.radius : ore.radius * kLargest;
    plan.reach = static_cast<int64_t>(std::ceil(farthest)) + 1;
    plan.side = std::max<int64_t>(16, plan.reach);
    const auto side = static_cast<double>(plan.side);
    plan.perCube = densest / meanVolume(ore) * side * side * side;
    plan.bottom = inputs.vertical.min;
    for (const double d : density)
      plan.accept.push_back(densest > 0 ? static_cast<float>(d / densest) : 0.0f);
    plan.seed = combine(combine(inputs.seed, kOreStage), hashText(ore.id));
    stage->plans_.push_back(std::move(plan));
  }
  return stage;
}

template <class Visit>
void OreStage::bodies(
    const Plan& plan, int64_t i, int64_t j, int64_t k, const Box& within, Visit&& visit) {
  const uint64_t cube =
      combine(combine(combine(plan.seed, static_cast<uint64_t>(i)), static_cast<uint64_t>(j)),
          static_cast<uint64_t>(k));
  const auto count =
      static_cast<int>(std::floor(plan.perCube + static_cast<double>(cube >> 11) * 0x1p-53));
  for (int n = 1; n <= count; ++n) {
    const uint64_t own = combine(cube, static_cast<uint64_t>(n));
    const auto draw = [&](uint64_t what) { return mix64(own + what * 0x9E3779B97F4A7C15u); };
    const Spot y = spotOf(draw(2), plan.side);
    Body body;
    body.y = j * plan.side + y.cell;
    const int64_t level =
        std::clamp<int64_t>(body.y - plan.bottom, 0, static_cast<int64_t>(plan.accept.size()) - 1);
    if (!(unitDraw(draw(4)) < plan.accept[static_cast<size_t>(level)])) continue;
    const auto apart = [&](int axis, int64_t at) {
      return at + plan.reach < within.low[axis] || at - plan.reach > within.high[axis];
    };
    if (apart(1, body.y)) continue;
    const Spot x = spotOf(draw(1), plan.side);
    body.x = i * plan.side + x.cell;
    if (apart(0, body.x)) continue;
    const Spot z = spotOf(draw(3), plan.side);
    body.z = k * plan.side + z.cell;
    if (apart(2, body.z)) continue;
    body.u = x.part;
    body.v = y.part;
    body.w = z.part;
    const float size = unitDraw(draw(5));
    if (!plan.vein) {
      const float radius = plan.radius * (kSmallest + (kLargest - kSmallest) * size);
      body.radius2 = radius * radius;
      visit(body);
      continue;
    }
    body.radius2 = plan.radius * plan.radius;
    body.half = plan.length * 0.5f * (kShortest + (kLongest - kShortest) * size);
    // Veins run rather flat than steep.
    float a[3] = {signedUnitDraw(draw(6)), signedUnitDraw(draw(7)) * 0.6f, signedUnitDraw(draw(8))};
    const float length2 = a[0] * a[0] + a[1] * a[1] + a[2] * a[2];
    if (length2 < 0.01f) {
      a[0] = 1.0f;
      a[1] = a[2] = 0.0f;
    } else {
      const float length = std::sqrt(length2);
      for (float& part : a) part = part / length;
    }
    // Square to the axis, whichever of the three is the least along it.
    const float b[3] = {
        signedUnitDraw(draw(9)), signedUnitDraw(draw(10)), signedUnitDraw(draw(11))};
    const float along = b[0] * a[0] + b[1] * a[1] + b[2] * a[2];
    for (int d = 0; d < 3; ++d) {
      body.axis[d] = a[d];
      // No part of b is longer than 1, so the bend is no longer than the square root of 3 times it.
      body.bend[d] = (b[d] - a[d] * along) * (plan.length * kBend * 0.57f);
    }
    visit(body);
  }
}

bool OreStage::Body::holds(int64_t cx, int64_t cy, int64_t cz) const {
  const float dx = (static_cast<float>(cx - x) + 0.5f) - u;
  const float dy = (static_cast<float>(cy - y) + 0.5f) - v;
  const float dz = (static_cast<float>(cz - z) + 0.5f) - w;
  if (half == 0.0f) return (dx * dx + dy * dy) + dz * dz <= radius2;
  const float s = (dx * axis[0] + dy * axis[1]) + dz * axis[2];
  const float k = s / half;
  const float left = 1.0f - k * k;
  if (!(left > 0.0f)) return false;
  const float bent = k * k;
  const float qx = (dx - axis[0] * s) - bend[0] * bent;
  const float qy = (dy - axis[1] * s) - bend[1] * bent;
  const float qz = (dz - axis[2] * s) - bend[2] * bent;
  return (qx * qx + qy * qy) + qz * qz <= radius2 * left;
}

int OreStage::Body::parts() const {
  if (half == 0.0f) return 1;
  return std::max(1, static_cast<int>(half / std::sqrt(radius2) * 0.5f));
}

/// Whatever a vein holds at s lies within the radius of a*s + b*(s/half)^2; over a part of the axis
/// that point strays from the straight line between the part's ends by a quarter of b times the
/// square of its length over half.
auto OreStage::Body::boxOf(int part, int parts) const -> Box {
  const float radius = std::sqrt(radius2);
  const int64_t middle[3] = {x, y, z};
  const float place[3] = {u, v, w};
  const float k0 = -1.0f + 2.0f * static_cast<float>(part) / static_cast<float>(parts);
  const float k1 = -1.0f + 2.0f * static_cast<float>(part + 1) / static_cast<float>(parts);
  Box box;
  for (int d = 0; d < 3; ++d) {
    const float from = axis[d] * half * k0 + bend[d] * k0 * k0;
    const float to = axis[d] * half * k1 + bend[d] * k1 * k1;
    const float aside = std::abs(bend[d]) * (k1 - k0) * (k1 - k0) * 0.25f + radius + 0.01f;
    box.low[d] =
        middle[d] + static_cast<int64_t>(std::floor(std::min(from, to) - aside + place[d] - 0.5f));
    box.high[d] =
        middle[d] + static_cast<int64_t>(std::ceil(std::max(from, to) + aside + place[d] - 0.5f));
  }
  return box;
}

template <bool kVein>
void OreStage::fillRows(const Plan& plan, const Body& of, const Rows& rows) {
  // A copy, so that the compiler sees that nothing written here changes it.
  const Body body = of;
  constexpr int32_t kLanes = 4, kTogether = 32;
  int32_t held[kTogether];
  for (int32_t j = 0; j < rows.levels; ++j) {
    const float dy = (static_cast<float>(rows.y + j * rows.step) + 0.5f) - body.v;
    for (int32_t k = 0; k < rows.depth; ++k) {
      const float dz = (static_cast<float>(rows.z + k * rows.step) + 0.5f) - body.w;
      MaterialIndex* const row = rows.cells + j * rows.slab + k * rows.row;
      for (int32_t from = 0; from < rows.width; from += kTogether) {
        const int32_t count = std::min(kTogether, rows.width - from);
        const int32_t first = rows.x + from * rows.step;
        const int32_t whole = (count + kLanes - 1) / kLanes * kLanes;
        int32_t any = 0;
        for (int32_t i = 0; i < whole; ++i) {
          const float dx = (static_cast<float>(first + i * rows.step) + 0.5f) - body.u;
          if constexpr (kVein) {
            const float s = (dx * body.axis[0] + dy * body.axis[1]) + dz * body.axis[2];
            const float at = s / body.half;
            const float bent = at * at;
            const float left = 1.0f - bent;
            const float qx = (dx - body.axis[0] * s) - body.bend[0] * bent;
            const float qy = (dy - body.axis[1] * s) - body.bend[1] * bent;
            const float qz = (dz - body.axis[2] * s) - body.bend[2] * bent;
            held[i] = static_cast<int32_t>(left > 0.0f) &
                      static_cast<int32_t>((qx * qx + qy * qy) + qz * qz <= body.radius2 * left);
          } else {
            held[i] = static_cast<int32_t>((dx * dx + dy * dy) + dz * dz <= body.radius2);
          }
          any |= held[i];
        }
        if (!any) continue;
        for (int32_t i = 0; i < count; ++i)
          if (held[i] && plan.isHost(row[from + i])) row[from + i] = plan.material;
      }
    }
  }
}

bool OreStage::place(const SampleBlock& block, const std::vector<bool>& rock, MaterialIndex* cells,
    const std::stop_token& stop) const {
  const int64_t step = block.step;
  const int64_t x1 = block.x + (block.width - 1) * step, y1 = block.y + (block.height - 1) * step,
                z1 = block.z + (block.length - 1) * step;
  const ptrdiff_t row = block.width, slab = row * block.length;
  // The first sample at or beyond a place, and the last one.
  const auto over = [&](int64_t cells) { return step == 1 ? cells : floorDiv(cells, step); };
  const auto from = [&](int64_t at, int64_t origin) {
    return std::max<int64_t>(0, -over(origin - at));
  };
  const auto to = [&](int64_t at, int64_t origin, int32_t count) {
    return std::min<int64_t>(count - 1, over(at - origin));
  };
  const Box within{{block.x, block.y, block.z}, {x1, y1, z1}};
  for (const Plan& plan : plans_) {
    if (stop.stop_requested()) return false;
    if (!plan.anyHost(rock)) continue;
    const auto first = [&](int64_t low) { return floorDiv(low - plan.reach, plan.side); };
    const auto last = [&](int64_t high) { return floorDiv(high + plan.reach, plan.side); };
    for (int64_t j = first(block.y); j <= last(y1); ++j)
      for (int64_t k = first(block.z); k <= last(z1); ++k)
        for (int64_t i = first(block.x); i <= last(x1); ++i)
          bodies(plan, i, j, k, within, [&](const Body& body) {
            const Box whole = body.box();
            if (whole.low[0] > x1 || whole.low[1] > y1 || whole.low[2] > z1 ||
                whole.high[0] < block.x || whole.high[1] < block.y || whole.high[2] < block.z)
              return;
            const int parts = body.parts();
            for (int part = 0; part < parts; ++part) {
              const Box box = body.boxOf(part, parts);
              const int64_t i0 = from(box.low[0], block.x);
              const int64_t i1 = to(box.high[0], block.x, block.width);
              const int64_t k0 = from(box.low[2], block.z);
              const int64_t k1 = to(box.high[2], block.z, block.length);
              const int64_t j1 = to(box.high[1], block.y, block.height);
              const int64_t j0 = from(box.low[1], block.y);
              if (i0 > i1 || j0 > j1 || k0 > k1) continue;
              const Rows rows{cells + j0 * slab + k0 * row + i0, row, slab,
                  static_cast<int32_t>(block.x + i0 * step - body.x),
                  static_cast<int32_t>(block.y + j0 * step - body.y),
                  static_cast<int32_t>(block.z + k0 * step - body.z), static_cast<int32_t>(step),
                  static_cast<int32_t>(i1 - i0 + 1), static_cast<int32_t>(j1 - j0 + 1),
                  static_cast<int32_t>(k1 - k0 + 1)};
              body.half == 0.0f ? fillRows<false>(plan, body, rows)
                                : fillRows<true>(plan, body, rows);
            }
          });
  }
  return true;
}

bool OreStage::place(int columns, const int64_t* x, const int64_t* z, int64_t first, int64_t step,
    int32_t levels, const std::vector<bool>& rock, MaterialIndex* cells,
    const std::stop_token& stop) const {
  const int64_t last = first + (levels - 1) * step;
  for (const Plan& plan : plans_)
    for (int c = 0; c < columns && plan.anyHost(rock); ++c) {
      if (stop.stop_requested()) return false;
      const Box within{{x[c], first, z[c]}, {x[c], last, z[c]}};
      const auto low = [&](int64_t at) { return floorDiv(at - plan.reach, plan.side); };
      const auto high = [&](int64_t at) { return floorDiv(at + plan.reach, plan.side); };
      for (int64_t k = low(z[c]); k <= high(z[c]); ++k)
        for (int64_t i = low(x[c]); i <= high(x[c]); ++i)
          for (int64_t j = low(first); j <= high(last); ++j)
            bodies(plan, i, j, k, within, [&](const Body& body) {
              const Box box = body.box();
              if (x[c] < box.low[0] || x[c] > box.high[0] || z[c] < box.low[2] ||
                  z[c] > box.high[2])
                return;
              const int64_t from = std::max<int64_t>(0, -floorDiv(first - box.low[1], step));
              for (int64_t at = from; at < levels; ++at) {
                const int64_t y = first + at * step;
                if (y > box.high[1]) break;
                MaterialIndex& cell = cells[at * columns + c];
                if (plan.isHost(cell) && body.holds(x[c], y, z[c])) cell = plan.material;
              }
            });
    }
  return true;
}

auto OreStage::at(int64_t x, int64_t y, int64_t z, MaterialIndex rock) const -> At {
  At out{rock, -1};
  for (const Plan& plan : plans_) {
    if (!plan.isHost(out.material)) continue;
    bool held = false;
    const auto low = [&](int64_t c) { return floorDiv(c - plan.reach, plan.side); };
    const auto high = [&](int64_t c) { return floorDiv(c + plan.reach, plan.side); };
    for (int64_t j = low(y); j <= high(y); ++j)
      for (int64_t k = low(z); k <= high(z); ++k)
        for (int64_t i = low(x); i <= high(x); ++i)
          bodies(plan, i, j, k, {{x, y, z}, {x, y, z}},
              [&](const Body& body) { held = held || body.holds(x, y, z); });
    if (held) out = {plan.material, static_cast<int>(plan.ore)};
  }
  return out;
}

}  // namespace acre
