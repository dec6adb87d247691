#include <algorithm>
#include <cmath>
#include <tuple>
#include <vector>

#include "base/hash.h"
#include "recipe/stages.h"
#include "recipe/water_recipe.h"
#include "reference/evaluator.h"

// Objects: every candidate about an area listed, three rounds literally.
namespace reference {
namespace {

int64_t side(const acre::ObjectKind& kind) {
  return std::min<int64_t>(8, std::max<int64_t>(1, kind.distance * 2 / 5));
}

/// The chance of a square, in 1/2^32.
uint64_t chanceOf(const acre::ObjectKind& kind, double density) {
  const int64_t r = kind.distance, g = side(kind);
  double p = density / 1000;
  if (r > 1) {
    int64_t cells = 0;
    for (int64_t z = -r; z <= r; ++z)
      for (int64_t x = -r; x <= r; ++x) cells += x * x + z * z < r * r;
    const double n = static_cast<double>(cells - g * g + 1) / 3.14159265358979312, f = p * n;
    const std::vector<std::pair<double, double>> knots = {{.05, .0456}, {.1, .0856}, {.15, .1207},
        {.2, .1511}, {.3, .2036}, {.4, .2466}, {.55, .3023}, {.7, .3385}, {1, .3909}, {1.4, .4369},
        {2, .4796}, {2.8, .5065}, {4, .5357}, {5.6, .5566}, {6, .5618}};
    double a = 6;
    if (f <= .0456)
      a = f * (1 + (.05 / .0456 - 1) / .0456 * f);
    else
      for (size_t k = knots.size() - 1; k > 0; --k)
        if (f <= knots[k].second)
          a = knots[k - 1].first + (knots[k].first - knots[k - 1].first) *
                                       (f - knots[k - 1].second) /
                                       (knots[k].second - knots[k - 1].second);
    p = a / n;
  }
  return static_cast<uint64_t>(std::min(1.0, p * static_cast<double>(g * g)) * 4294967296.0);
}

int64_t down(int64_t a, int64_t b) {
  return a / b - (a % b < 0);
}

bool lies(float v, const acre::Span& span) {
  return (!span.low || v >= static_cast<float>(*span.low)) &&
         (!span.high || v <= static_cast<float>(*span.high));
}

}  // namespace

struct Evaluator::Stand {
  acre::Cell cell;
  uint64_t hash;
  uint64_t u() const { return hash >> 32; }
};

bool Evaluator::mayStand(const acre::ObjectKind& kind, const Stand& spot) {
  const acre::Cell cell = spot.cell;
  const LandValue here = land(cell);
  double density = kind.density;
  for (const acre::BiomeDensity& of : kind.biomes)
    if (of.biome == here.biome) {
      density = of.density;
      break;
    }
  if (spot.u() >= chanceOf(kind, density)) return false;
  const auto sea = static_cast<float>(recipe_.frame.seaLevel);
  const bool waters = acre::takesPart(recipe_, acre::StageId::Water);
  WaterValue wet{"dry", here.height, 0, 46, {}, 0};
  if (waters) wet = water(cell);
  if (!kind.wet && (wet.kind != "dry" || here.height < sea)) return false;
  if (!kind.ground.empty()) {
    std::string on = columnOf(cell).surface;
    if (!wet.fresh() && opening(cell)) on = recipe_.caves->opening;
    if (std::find(kind.ground.begin(), kind.ground.end(), on) == kind.ground.end()) return false;
  }
  if (!lies(here.height - sea, kind.altitude) || !lies(wet.shore, kind.shore)) return false;
  if (kind.slope.low || kind.slope.high) {
    const float dx = height({cell.x + 1, cell.z}) - height({cell.x - 1, cell.z});
    const float dz = height({cell.x, cell.z + 1}) - height({cell.x, cell.z - 1});
    if (!lies(std::sqrt(dx * dx + dz * dz) * 0.5f, kind.slope)) return false;
  }
  return kind.field.empty() || lies(field(kind.field, cell), kind.within);
}

auto Evaluator::standing(size_t index, const acre::Rect& cells) -> std::vector<Stand> {
  const acre::ObjectKind& kind = recipe_.objects->kinds[index];
  const uint64_t key =
      acre::combine(acre::combine(seed_, 0x4F626A65637473u), acre::hashText(kind.id));
  const int64_t r = kind.distance, g = side(kind), reach = 5 * r;
  const acre::Rect all{
      cells.x - reach, cells.z - reach, cells.width + 2 * reach, cells.length + 2 * reach};
  std::vector<std::pair<int64_t, std::vector<Stand>>> others;
  for (const acre::ObjectApart& apart : kind.apart)
    for (size_t k = 0; k < index; ++k)
      if (recipe_.objects->kinds[k].id == apart.kind && recipe_.objects->kinds[k].on) {
        const int64_t d = apart.cells;
        others.emplace_back(
            d, standing(k, {all.x - d, all.z - d, all.width + 2 * d, all.length + 2 * d}));
      }
  std::vector<Stand> there;
  for (int64_t j = down(all.z, g); j <= down(all.z + all.length, g); ++j)
    for (int64_t i = down(all.x, g); i <= down(all.x + all.width, g); ++i) {
      const uint64_t h =
          acre::combine(acre::combine(key, static_cast<uint64_t>(i)), static_cast<uint64_t>(j));
      const uint64_t at = acre::combine(h, 1);
      const auto part = [&](uint64_t bits) {
        return static_cast<int64_t>(bits % 65536 * static_cast<uint64_t>(g) / 65536);
      };
      const Stand spot{{i * g + part(at), j * g + part(at / 65536)}, h};
      if (!all.contains(spot.cell)) continue;
      const bool near = std::any_of(others.begin(), others.end(), [&](const auto& other) {
        return std::any_of(other.second.begin(), other.second.end(), [&](const Stand& o) {
          const int64_t x = o.cell.x - spot.cell.x, z = o.cell.z - spot.cell.z;
          return x * x + z * z < other.first * other.first;
        });
      });
      if (!near && mayStand(kind, spot)) there.push_back(spot);
    }
  std::sort(there.begin(), there.end(), [](const Stand& a, const Stand& b) {
    return std::tuple(a.u(), a.cell.z, a.cell.x) < std::tuple(b.u(), b.cell.z, b.cell.x);
  });
  enum { Open, Taken, Gone };
  std::vector<int> state(there.size(), Open);
  const auto close = [&](size_t a, size_t b) {
    const int64_t x = there[a].cell.x - there[b].cell.x, z = there[a].cell.z - there[b].cell.z;
    return x * x + z * z < r * r;
  };
  for (int round = 1; round <= 3; ++round) {
    std::vector<size_t> winners;
    for (size_t a = 0; a < there.size(); ++a) {
      if (state[a] != Open) continue;
      bool best = true;
      for (size_t b = 0; b < a && best; ++b) best = state[b] != Open || !close(a, b);
      if (best) winners.push_back(a);
    }
    for (const size_t a : winners)
      for (size_t b = 0; b < there.size(); ++b)
        if (b != a && state[b] == Open && close(a, b)) state[b] = Gone;
    for (const size_t a : winners) state[a] = Taken;
  }
  std::vector<Stand> out;
  for (size_t a = 0; a < there.size(); ++a)
    if (state[a] == Taken && cells.contains(there[a].cell)) out.push_back(there[a]);
  std::sort(out.begin(), out.end(), [](const Stand& a, const Stand& b) {
    return std::pair(a.cell.z, a.cell.x) < std::pair(b.cell.z, b.cell.x);
  });
  return out;
}

auto Evaluator::objects(const acre::Rect& cells) -> std::vector<Object> {
  std::vector<Object> out;
  if (!acre::takesPart(recipe_, acre::StageId::Objects)) return out;
  for (size_t k = 0; k < recipe_.objects->kinds.size(); ++k) {
    const acre::ObjectKind& kind = recipe_.objects->kinds[k];
    if (!kind.on) continue;
    double sum = 0;
    for (const acre::ObjectChoice& one : kind.what) sum += one.weight;
    for (const Stand& spot : standing(k, intersection(cells, boundsOf(recipe_.frame)))) {
      Object one{k, {}, spot.cell, spot.hash, static_cast<int>(acre::combine(spot.hash, 3) >> 62)};
      double left =
          static_cast<double>(acre::combine(spot.hash, 2) >> 11) / 9007199254740992.0 * sum;
      for (size_t n = 0; n < kind.what.size(); ++n) {
        one.choice = kind.what[n].id;
        if (left < kind.what[n].weight) break;
        left -= kind.what[n].weight;
      }
      out.push_back(one);
    }
  }
  return out;
}

}  // namespace reference
