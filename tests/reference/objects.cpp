#include <algorithm>
#include <cmath>
#include <tuple>
#include <vector>

#include "base/hash.h"
#include "recipe/cave_recipe.h"
#include "recipe/level_recipe.h"
#include "recipe/stages.h"
#include "recipe/water_recipe.h"
#include "reference/arithmetic.h"
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

bool lies(float v, const acre::Span& span) {
  return (!span.low || v >= static_cast<float>(*span.low)) &&
         (!span.high || v <= static_cast<float>(*span.high));
}

}  // namespace

bool Evaluator::isLevel() const {
  return recipe_.frame.kind == acre::WorldKind::Level && recipe_.level->on;
}

uint64_t Evaluator::objectSeed() const {
  const uint64_t seed = acre::combine(seed_, 0x4F626A65637473u);
  if (!isLevel()) return seed;
  return acre::combine(seed, static_cast<uint64_t>(int64_t{recipe_.level->floor}));
}

double Evaluator::onFloor(const acre::ObjectKind& kind, double density) const {
  if (!isLevel() || kind.floors.empty()) return density;
  const float share = curveAt(kind.floors, static_cast<float>(recipe_.level->floor));
  return density * static_cast<double>(share < 0 ? 0 : share > 1 ? 1 : share);
}

/// What the evenness of the ground is judged by.
float Evaluator::heightUnder(acre::Cell cell) {
  if (!isLevel()) return height(cell);
  const acre::AxisBounds x = *recipe_.frame.x, z = *recipe_.frame.z;
  const bool open = cell.x >= x.min && cell.x < x.min + x.extent && cell.z >= z.min &&
                    cell.z < z.min + z.extent && depthIn(cell) == 0;
  return open ? 0.0f : static_cast<float>(recipe_.level->walls);
}

/// The place of what refuses it in the order of the page, after its neighbours; 0: nothing does.
int Evaluator::refusedBy(const acre::ObjectKind& kind, const Stand& spot) {
  acre::Cell cell = spot.cell;
  const bool plane = recipe_.frame.kind == acre::WorldKind::Side;
  if (plane) cell.z = 0;
  const bool level = isLevel();
  if (level && !freeFloor(cell)) return 1;
  const LandValue here = land(cell);
  double density = kind.density;
  for (const acre::BiomeDensity& of : kind.biomes)
    if (of.biome == here.biome) {
      density = of.density;
      break;
    }
  density = onFloor(kind, density);
  if (kind.must ? density == 0 : spot.u() >= chanceOf(kind, density)) return 4;
  const auto sea = static_cast<float>(recipe_.frame.seaLevel);
  const bool waters = acre::takesPart(recipe_, acre::StageId::Water);
  WaterValue wet{"dry", here.height, 0, 46, {}, 0};
  if (waters) wet = water(cell);
  const bool caves = kind.stands != acre::ObjectStand::Ground;
  if (!level && caves && !lies(wet.shore, kind.shore)) return 7;
  if (!level && !caves) {
    if (!kind.wet && (wet.kind != "dry" || here.height < sea)) return 5;
    if (!lies(here.height - sea, kind.altitude)) return 6;
    if (!lies(wet.shore, kind.shore)) return 7;
  }
  if (!caves && !lies(static_cast<float>(level ? wallFrom(cell) : 16), kind.wall)) return 8;
  if (!level && (kind.mouth.low || kind.mouth.high) && !lies(mouthFrom(cell), kind.mouth)) return 9;
  if (!kind.field.empty() && !lies(field(kind.field, cell), kind.within)) return 10;
  if (level && kind.noise)
    for (const acre::LevelProcess& process : recipe_.level->processes)
      if (process.id == kind.noise->process) {
        const auto& band = std::get<acre::NoiseWalls>(process.what).band;
        const uint64_t key =
            acre::combine(acre::combine(seed_, 0x4C6576656Cu), acre::hashText(process.id));
        const float v = noise(band.noise, 2, key, {},
            {{cell.x - recipe_.frame.x->min + int64_t{recipe_.level->floor} * 65536, 0,
                 cell.z - recipe_.frame.z->min},
                {0, 0, 0}});
        if (!lies(v, kind.noise->within)) return 10;
      }
  if (!kind.amount.empty()) {
    float s = field(kind.amount, cell);
    if (!kind.curve.empty()) s = curveAt(kind.curve, s);
    s = s < 0 ? 0 : s > 1 ? 1 : s;
    if (spot.u() >= chanceOf(kind, density * static_cast<double>(s))) return 11;
  }
  std::string on;
  if (caves) {
    const auto place = inCaves(kind, spot);
    if (!place) return 12;
    if (!lies(static_cast<float>(place->first) - sea, kind.altitude)) return 6;
    if ((kind.wall.low || kind.wall.high) &&
        !lies(static_cast<float>(caveWall(cell, place->first)), kind.wall))
      return 8;
    on = place->second;
  } else if (recipe_.frame.blocks()) {
    const auto [y, top, under] = topOf(cell);
    if (under && !kind.wet) return 5;
    if (top.empty()) return 13;
    on = top;
  }
  if (!kind.ground.empty()) {
    if (level) {
      on = inLevel(cell, true).material;
    } else if (on.empty()) {
      on = columnOf(cell).surface;
      if (!wet.fresh() && opening(cell)) on = recipe_.caves->opening;
    }
    if (std::find(kind.ground.begin(), kind.ground.end(), on) == kind.ground.end()) return 13;
  }
  if (!level && !caves && (kind.slope.low || kind.slope.high)) {
    const float dx = height({cell.x + 1, cell.z}) - height({cell.x - 1, cell.z});
    const float dz = height({cell.x, cell.z + 1}) - height({cell.x, cell.z - 1});
    if (!lies(std::sqrt(dx * dx + dz * dz) * 0.5f, kind.slope)) return 14;
  }
  if (kind.footing && !caves) {
    std::vector<float> heights;
    for (const int64_t dz : {-1, 0, 1})
      for (const int64_t dx : {-1, 0, 1})
        heights.push_back(heightUnder({cell.x + dx * kind.footing->radius,
            cell.z + (plane ? 0 : dz * kind.footing->radius)}));
    std::sort(heights.begin(), heights.end());
    if (heights.back() - heights.front() > static_cast<float>(kind.footing->rise)) return 15;
  }
  return 0;
}

/// The level over the highest block of a column that is no liquid, its material, and whether liquid
/// lies over it.
auto Evaluator::topOf(acre::Cell cell) -> std::tuple<int64_t, std::string, bool> {
  const acre::AxisBounds range = recipe_.frame.y;
  bool wet = false;
  for (int64_t y = range.min + range.extent - 1; y >= range.min; --y) {
    const std::string block = madeBlock(cell, y);
    if (block == "open") continue;
    if (!isLiquid(block)) return {y + 1, block, wet};
    wet = true;
  }
  return {0, "", wet};
}

bool Evaluator::isLiquid(const std::string& material) const {
  return std::any_of(recipe_.materials.begin(), recipe_.materials.end(),
      [&](const auto& m) { return m.id == material && m.state == acre::MaterialState::Liquid; });
}

auto Evaluator::inCaves(const acre::ObjectKind& kind, const Stand& spot)
    -> std::optional<std::pair<int64_t, std::string>> {
  if (!recipe_.frame.blocks() || !acre::takesPart(recipe_, acre::StageId::Caves)) return {};
  acre::Cell cell = spot.cell;
  if (recipe_.frame.kind == acre::WorldKind::Side) cell.z = 0;
  const acre::AxisBounds range = recipe_.frame.y;
  const int64_t beside = kind.stands == acre::ObjectStand::CaveFloor ? -1 : 1;
  const float h = height(cell);
  const auto lined = [&](int64_t y) {
    const float depth = h - static_cast<float>(y + 1);
    for (const acre::CaveKind& one : recipe_.caves->kinds) {
      if (one.from && depth < static_cast<float>(*one.from)) continue;
      if (one.to && depth >= static_cast<float>(*one.to)) continue;
      if (one.wetFrom && field(acre::kMoistureId, cell) < static_cast<float>(*one.wetFrom))
        continue;
      if (one.wetTo && field(acre::kMoistureId, cell) >= static_cast<float>(*one.wetTo)) continue;
      return one.id;
    }
    return std::string();
  };
  const auto inside = [&](int64_t y) {
    return y >= range.min && y < range.min + range.extent && static_cast<float>(y + 1) <= h;
  };
  std::vector<int64_t> places;
  for (int64_t y = range.min + range.extent - 1; y >= range.min; --y) {
    if (!inside(y) || !inside(y + beside)) continue;
    const std::string here = held(cell, y);
    if (here.empty() || (here != "open" && !kind.wet) || !held(cell, y + beside).empty()) continue;
    if (!kind.caves.empty() &&
        std::find(kind.caves.begin(), kind.caves.end(), lined(y + beside)) == kind.caves.end())
      continue;
    places.push_back(y);
  }
  if (places.empty()) return {};
  const int64_t y = places[acre::combine(spot.hash, 5) % places.size()];
  const std::string there = madeBlock(cell, y), on = madeBlock(cell, y + beside);
  if (there != "open" && !(kind.wet && isLiquid(there))) return {};
  if (on == "open" || isLiquid(on)) return {};
  return std::pair(y, on);
}

int Evaluator::caveWall(acre::Cell cell, int64_t y) {
  const bool plane = recipe_.frame.kind == acre::WorldKind::Side;
  for (int d = 1; d < 4; ++d)
    for (int64_t z = plane ? 0 : -d; z <= (plane ? 0 : d); ++z)
      for (int64_t x = -d; x <= d; ++x) {
        const std::string block = madeBlock({cell.x + x, plane ? 0 : cell.z + z}, y);
        if (block != "open" && !isLiquid(block)) return d;
      }
  return 4;
}

std::string Evaluator::drawnAt(const acre::ObjectKind& kind, const Stand& spot) {
  acre::Cell cell = spot.cell;
  if (recipe_.frame.kind == acre::WorldKind::Side) cell.z = 0;
  std::vector<const acre::ObjectChoice*> fit;
  double sum = 0;
  for (const acre::ObjectChoice& one : kind.what) {
    if (isLevel() && !lies(static_cast<float>(recipe_.level->floor), one.floors)) continue;
    if (!one.field.empty() && !lies(field(one.field, cell), one.within)) continue;
    if (!one.biomes.empty() &&
        std::find(one.biomes.begin(), one.biomes.end(), land(cell).biome) == one.biomes.end())
      continue;
    fit.push_back(&one);
    sum += one.weight;
  }
  if (!(sum > 0)) return {};
  double left = static_cast<double>(acre::combine(spot.hash, 2) >> 11) / 9007199254740992.0 * sum;
  for (const acre::ObjectChoice* one : fit) {
    if (left < one->weight || one == fit.back()) return one->id;
    left -= one->weight;
  }
  return {};
}

/// The same of what stands about it: 2, 3 or 0.
int Evaluator::refusedByOthers(size_t index, const Stand& spot) {
  const acre::ObjectKind& kind = recipe_.objects->kinds[index];
  const auto stands = [&](const acre::ObjectApart& of) {
    const int64_t d = of.cells;
    for (size_t k = 0; k < index; ++k) {
      const acre::ObjectKind& other = recipe_.objects->kinds[k];
      if (other.id != of.kind || !other.on) continue;
      for (const Stand& o : standing(k, {spot.cell.x - d, spot.cell.z - d, 2 * d + 1, 2 * d + 1})) {
        const int64_t x = o.cell.x - spot.cell.x, z = o.cell.z - spot.cell.z;
        if (x * x + z * z < d * d) return true;
      }
    }
    return false;
  };
  for (const acre::ObjectApart& from : kind.apart)
    if (stands(from)) return 2;
  for (const acre::ObjectApart& by : kind.beside)
    if (!stands(by)) return 3;
  return 0;
}

auto Evaluator::inSquare(size_t index, int64_t i, int64_t j) -> std::optional<Stand> {
  const acre::ObjectKind& kind = recipe_.objects->kinds[index];
  const uint64_t key = acre::combine(objectSeed(), acre::hashText(kind.id));
  const uint64_t h =
      acre::combine(acre::combine(key, static_cast<uint64_t>(i)), static_cast<uint64_t>(j));
  const int64_t side = kind.must->square, margin = side / 8, wide = side - 2 * margin;
  uint64_t a = h % 1024;
  if (a % 2 == 0) ++a;
  const uint64_t b = h / 4294967296u % 1024;
  std::optional<Stand> best;
  int last = 1;
  for (uint64_t t = 0; t < 1024; ++t) {
    uint64_t q = (a * t + b) % 1024;
    q = q ^ q / 8;
    const uint64_t e = acre::combine(h, q + 1);
    const auto along = [&](uint64_t c, uint64_t bits) {
      const int64_t f = wide * static_cast<int64_t>(c) / 32;
      const int64_t k = wide * static_cast<int64_t>(c + 1) / 32 - f;
      return margin + f + static_cast<int64_t>(bits * static_cast<uint64_t>(k) / 4294967296u);
    };
    Stand spot{
        {i * side + along(q % 32, e % 4294967296u), j * side + along(q / 32, e / 4294967296u)}, e};
    if (recipe_.frame.kind == acre::WorldKind::Side) spot.cell.z = 0;
    if (!boundsOf(recipe_.frame).contains(spot.cell)) continue;
    if (isLevel() && !freeFloor(spot.cell)) continue;  // No wall is taken by force, either.
    int refused = refusedByOthers(index, spot);
    if (refused == 0) refused = refusedBy(kind, spot);
    if (refused == 0) return spot;
    if (kind.must->forced && refused > last) {
      last = refused;
      best = spot;
    }
  }
  if (best && kind.stands != acre::ObjectStand::Ground) {
    if (!inCaves(kind, *best)) best.reset();
  } else if (best && recipe_.frame.blocks() && std::get<1>(topOf(best->cell)).empty()) {
    best.reset();
  }
  return best;
}

auto Evaluator::standing(size_t index, const acre::Rect& cells) -> std::vector<Stand> {
  const acre::ObjectKind& kind = recipe_.objects->kinds[index];
  if (kind.must) {
    std::vector<Stand> out;
    const int64_t side = kind.must->square;
    for (int64_t j = floorOf(cells.z, side); j <= floorOf(cells.z + cells.length - 1, side); ++j)
      for (int64_t i = floorOf(cells.x, side); i <= floorOf(cells.x + cells.width - 1, side); ++i) {
        const auto known = squares_.try_emplace({index, i, j});
        if (known.second) known.first->second = inSquare(index, i, j);
        if (const auto& one = known.first->second; one && cells.contains(one->cell))
          out.push_back(*one);
      }
    std::sort(out.begin(), out.end(), [](const Stand& a, const Stand& b) {
      return std::pair(a.cell.z, a.cell.x) < std::pair(b.cell.z, b.cell.x);
    });
    return out;
  }
  const uint64_t key = acre::combine(objectSeed(), acre::hashText(kind.id));
  const int64_t r = kind.distance, g = side(kind), reach = 5 * r;
  const acre::Rect all{
      cells.x - reach, cells.z - reach, cells.width + 2 * reach, cells.length + 2 * reach};
  // What stands about all of them, each kind once.
  const auto around = [&](const acre::ObjectApart& of) {
    std::pair<int64_t, std::vector<Stand>> out{of.cells, {}};
    const int64_t d = of.cells;
    for (size_t k = 0; k < index; ++k)
      if (recipe_.objects->kinds[k].id == of.kind && recipe_.objects->kinds[k].on)
        out.second = standing(k, {all.x - d, all.z - d, all.width + 2 * d, all.length + 2 * d});
    return out;
  };
  std::vector<std::pair<int64_t, std::vector<Stand>>> apart, beside;
  for (const acre::ObjectApart& of : kind.apart) apart.push_back(around(of));
  for (const acre::ObjectApart& of : kind.beside) beside.push_back(around(of));
  std::vector<Stand> there;
  for (int64_t j = floorOf(all.z, g); j <= floorOf(all.z + all.length, g); ++j)
    for (int64_t i = floorOf(all.x, g); i <= floorOf(all.x + all.width, g); ++i) {
      const uint64_t h =
          acre::combine(acre::combine(key, static_cast<uint64_t>(i)), static_cast<uint64_t>(j));
      const uint64_t at = acre::combine(h, 1);
      const auto part = [&](uint64_t bits) {
        return static_cast<int64_t>(bits % 65536 * static_cast<uint64_t>(g) / 65536);
      };
      const Stand spot{{i * g + part(at), j * g + part(at / 65536)}, h};
      if (!all.contains(spot.cell)) continue;
      const auto near = [&](const auto& other) {
        return std::any_of(other.second.begin(), other.second.end(), [&](const Stand& o) {
          const int64_t x = o.cell.x - spot.cell.x, z = o.cell.z - spot.cell.z;
          return x * x + z * z < other.first * other.first;
        });
      };
      if (std::none_of(apart.begin(), apart.end(), near) &&
          std::all_of(beside.begin(), beside.end(), near) && refusedBy(kind, spot) == 0)
        there.push_back(spot);
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
    for (const Stand& spot : standing(k, intersection(cells, boundsOf(recipe_.frame)))) {
      Object one{k, drawnAt(kind, spot), spot.cell, spot.hash,
          static_cast<int>(acre::combine(spot.hash, 3) >> 62), 0};
      if (kind.stands != acre::ObjectStand::Ground)
        one.y = inCaves(kind, spot)->first;
      else if (recipe_.frame.blocks())
        one.y = std::get<0>(topOf(spot.cell));
      out.push_back(one);
    }
  }
  return out;
}

}  // namespace reference
