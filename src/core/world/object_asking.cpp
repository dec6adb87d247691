// What the ground says of places: whatever refuses some of them, but for what stands about them.
#include <algorithm>
#include <tuple>

#include "base/fp_state.h"
#include "cave/caves.h"
#include "cave/level_stage.h"
#include "climate/land_sampler.h"
#include "field/field.h"
#include "recipe/object_recipe.h"
#include "world/column_sampler.h"
#include "world/object_kind.h"

namespace acre {
namespace {

constexpr uint64_t kCaveSalt = 5;

std::vector<float> valuesOf(
    const Field& field, const Kernels& kernels, const std::vector<Cell>& cells) {
  std::vector<int64_t> x, z;
  for (const Cell& cell : cells) {
    x.push_back(cell.x);
    z.push_back(cell.z);
  }
  const std::vector<int32_t> q(cells.size());
  std::vector<float> out(cells.size());
  field.points(kernels,
      {static_cast<int>(cells.size()), {x.data(), nullptr, z.data()},
          {q.data(), nullptr, q.data()}},
      out.data());
  return out;
}

}  // namespace

template <class Judge>
void ObjectPass::askField(const Field& field, Places& places, Judge&& judge) const {
  const std::vector<size_t> left = places.left();
  const std::vector<float> values = valuesOf(field, plan_.kernels(), places.cellsOf(left));
  for (size_t k = 0; k < left.size(); ++k) places.list[left[k]].refusal = judge(left[k], values[k]);
}

/// What costs little is asked first, and what costs much of those alone that are left.
void ObjectPass::askGround(const Kind& kind, Places& places) const {
  const FpState fp;
  if (plan_.level())
    askFloor(kind, places);
  else
    askLand(kind, places);
  if (kind.mouth.any() && !plan_.level()) askMouths(kind, places);
  if (kind.field)
    askField(*kind.field, places, [&](size_t, float value) {
      return kind.within.holds(value) ? Refusal::None : Refusal::Field;
    });
  if (kind.noise) askNoise(kind, places);
  if (kind.amount)
    askField(*kind.amount, places, [&](size_t n, float value) {
      const double asked = places.asked[n] * kind.share(value);
      return places.list[n].at.chance() < kind.scatter.chanceFor(asked) ? Refusal::None
                                                                        : Refusal::Amount;
    });
  if (kind.inCaves())
    askCaves(kind, places);
  else if (plan_.layout().blocks())
    askTop(kind, places);
  if (!kind.ground.empty() || (kind.slope.any() && !kind.inCaves())) askSurface(kind, places);
  if (kind.recipe.footing && !kind.inCaves()) askFooting(kind, places);
  draw(kind, places);
}

void ObjectPass::askLand(const Kind& kind, Places& places) const {
  const auto sea = static_cast<float>(plan_.seaLevel());
  const auto judge = [&](size_t n, BiomeIndex biome, float height, WaterKind water, float shore) {
    Judged& one = places.list[n];
    const Kind::Asked& asked = kind.askedIn(biome);
    places.asked[n] = asked.density;
    places.biomes[n] = biome;
    if (kind.recipe.must ? asked.density <= 0 : one.at.chance() >= asked.chance)
      one.refusal = Refusal::Biome;
    else if (kind.inCaves())
      one.refusal = kind.shore.holds(shore) ? Refusal::None : Refusal::Shore;
    else if ((water != WaterKind::Dry || height < sea) && !kind.recipe.wet)
      one.refusal = Refusal::Water;
    else if (!kind.altitude.holds(height - sea))
      one.refusal = Refusal::Altitude;
    else if (!kind.shore.holds(shore))
      one.refusal = Refusal::Shore;
    else if (!kind.wall.holds(static_cast<float>(LevelStage::kWallReach)))
      one.refusal = Refusal::Wall;
  };
  const auto rest = places.unknown([&](size_t n, const ObjectGroundTile& tile, size_t k) {
    judge(n, tile.biomes[k], tile.heights[k], tile.waters[k], tile.shores[k]);
  });
  const std::vector<Cell> cells = places.cellsOf(rest);
  std::vector<float> heights(rest.size());
  std::vector<BiomeIndex> biomes(rest.size());
  std::vector<WaterAt> waters(rest.size());
  plan_.parts().land->scattered(static_cast<int>(cells.size()), cells.data(), heights.data(),
      biomes.data(), Accuracy::Exact, waters.data());
  for (size_t k = 0; k < rest.size(); ++k)
    judge(rest[k], biomes[k], heights[k], waters[k].kind, waters[k].shore);
}

void ObjectPass::askFloor(const Kind& kind, Places& places) const {
  const LevelStage& level = *plan_.level();
  for (Judged& one : places.list)
    if (one.refusal == Refusal::None &&
        (!level.isOpen(one.at.cell) || level.placeAt(one.at.cell) >= 0))
      one.refusal = Refusal::Solid;
  const std::vector<size_t> left = places.left();
  const std::vector<Cell> cells = places.cellsOf(left);
  std::vector<float> heights(left.size());
  std::vector<BiomeIndex> biomes(left.size(), kNoBiome);
  plan_.parts().land->scattered(
      static_cast<int>(cells.size()), cells.data(), heights.data(), biomes.data(), Accuracy::Exact);
  for (size_t k = 0; k < left.size(); ++k) {
    Judged& one = places.list[left[k]];
    const Kind::Asked& asked = kind.askedIn(biomes[k]);
    places.asked[left[k]] = asked.density;
    places.biomes[left[k]] = biomes[k];
    if (kind.recipe.must ? asked.density <= 0 : one.at.chance() >= asked.chance)
      one.refusal = Refusal::Biome;
    else if (kind.wall.any() && !kind.wall.holds(static_cast<float>(level.wallFrom(one.at.cell))))
      one.refusal = Refusal::Wall;
  }
}

void ObjectPass::askMouths(const Kind& kind, Places& places) const {
  const std::vector<size_t> left = places.left();
  const std::vector<Cell> cells = places.cellsOf(left);
  for (size_t k = 0; k < left.size(); ++k)
    if (!kind.mouth.holds(mouthFrom(cells[k]))) places.list[left[k]].refusal = Refusal::Mouth;
}

float ObjectPass::mouthFrom(Cell cell) const {
  return plan_.caves() ? plan_.caves()->mouthFrom(cell) : CaveStage::kMouthReach;
}

std::vector<float> ObjectPass::wallNoise(const Kind& kind, const std::vector<Cell>& cells) const {
  const int64_t shift = LevelMaker::wallShift(plan_.recipe().level->floor);
  std::vector<int64_t> x, z;
  for (const Cell& cell : cells) {
    x.push_back(cell.x - plan_.bounds().x + shift);
    z.push_back(cell.z - plan_.bounds().z);
  }
  const std::vector<int32_t> q(Kernels::kMostPoints);
  std::vector<float> values(cells.size());
  for (size_t first = 0; first < cells.size(); first += Kernels::kMostPoints) {
    const auto part =
        static_cast<int>(std::min<size_t>(Kernels::kMostPoints, cells.size() - first));
    plan_.kernels().points(*kind.noise,
        {part, {x.data() + first, nullptr, z.data() + first}, {q.data(), nullptr, q.data()}},
        values.data() + first);
  }
  return values;
}

void ObjectPass::askNoise(const Kind& kind, Places& places) const {
  const std::vector<size_t> left = places.left();
  const std::vector<float> values = wallNoise(kind, places.cellsOf(left));
  for (size_t k = 0; k < left.size(); ++k)
    if (!kind.noiseWithin.holds(values[k])) places.list[left[k]].refusal = Refusal::Field;
}

std::optional<float> ObjectPass::wallNoiseAt(size_t kind, Cell cell) const {
  const FpState fp;
  const Kind* of = kindOf(kind);
  if (!of || !of->noise) return {};
  return wallNoise(*of, {cell}).front();
}

std::optional<ObjectPass::Share> ObjectPass::shareAt(size_t kind, const Judged& one) const {
  const FpState fp;
  const Kind* of = kindOf(kind);
  if (!of || !of->amount || of->recipe.must) return {};
  Cell cell = one.at.cell;
  if (plan_.layout().vertical().plane) cell.z = 0;
  float height;
  BiomeIndex biome = kNoBiome;
  plan_.parts().land->scattered(1, &cell, &height, &biome, Accuracy::Exact);
  const Kind::Asked& asked = of->askedIn(biome);
  if (one.at.chance() >= asked.chance) return {};
  // More is asked for the greater the share is: the least is found by halves.
  double least = 0, enough = 1;
  for (int n = 0; n < 40; ++n) {
    const double middle = (least + enough) / 2;
    (one.at.chance() < of->scatter.chanceFor(asked.density * middle) ? enough : least) = middle;
  }
  return Share{of->share(valuesOf(*of->amount, plan_.kernels(), {cell}).front()), enough};
}

void ObjectPass::askTop(const Kind& kind, Places& places) const {
  places.tops.assign(places.list.size(), kUnassigned);
  const std::vector<size_t> left = places.left();
  const std::vector<GroundTop> tops = ground_.tops(places.cellsOf(left));
  for (size_t k = 0; k < left.size(); ++k) {
    Judged& one = places.list[left[k]];
    const bool there = tops[k].y != GroundTop::kNone;
    one.y = there ? static_cast<int32_t>(tops[k].y) : 0;
    places.tops[left[k]] = tops[k].material;
    if (tops[k].wet && !kind.recipe.wet)
      one.refusal = Refusal::Water;
    else if (!there)
      one.refusal = Refusal::Ground;
  }
}

std::optional<GroundTop> ObjectPass::caveUnder(const Kind& kind, const Candidate& at) const {
  if (!plan_.layout().blocks() || !plan_.caves()) return {};
  Cell cell = at.cell;
  if (plan_.layout().vertical().plane) cell.z = 0;
  return ground_.inCaves(cell, {kind.recipe.stands == ObjectStand::CaveCeiling, kind.caves,
                                   kind.recipe.wet, combine(at.hash, kCaveSalt)});
}

void ObjectPass::askCaves(const Kind& kind, Places& places) const {
  places.tops.assign(places.list.size(), kUnassigned);
  const bool walls = kind.wall.any();
  const auto sea = static_cast<float>(plan_.seaLevel());
  for (const size_t n : places.left()) {
    Judged& one = places.list[n];
    const auto found = caveUnder(kind, one.at);
    if (!found) {
      one.refusal = Refusal::Cave;
      continue;
    }
    one.y = static_cast<int32_t>(found->y);
    places.tops[n] = found->material;
    if (!kind.altitude.holds(static_cast<float>(one.y) - sea))
      one.refusal = Refusal::Altitude;
    else if (walls &&
             !kind.wall.holds(static_cast<float>(ground_.wallFrom(places.cellsOf({n})[0], one.y))))
      one.refusal = Refusal::Wall;
  }
}

void ObjectPass::draw(const Kind& kind, Places& places) const {
  if (kind.choices.empty()) return;
  const std::vector<size_t> left = places.left();
  std::vector<std::vector<float>> values;
  for (const Kind::Choice& choice : kind.choices)
    values.push_back(choice.field ? valuesOf(*choice.field, plan_.kernels(), places.cellsOf(left))
                                  : std::vector<float>());
  std::vector<uint16_t> fit;
  for (size_t k = 0; k < left.size(); ++k) {
    Judged& one = places.list[left[k]];
    const BiomeIndex biome = places.biomes[left[k]];
    fit.clear();
    double weights = 0;
    for (uint16_t n = 0; n < kind.choices.size(); ++n) {
      const Kind::Choice& choice = kind.choices[n];
      const auto& biomes = choice.biomes;
      if (!choice.here || (choice.field && !choice.within.holds(values[n][k])) ||
          (!biomes.empty() && std::find(biomes.begin(), biomes.end(), biome) == biomes.end()))
        continue;
      fit.push_back(n);
      weights += kind.recipe.what[n].weight;
    }
    one.choice = PlacedObject::kPlain;
    if (!(weights > 0)) continue;
    double at = drawOf(one.at.hash) * weights;
    size_t n = 0;
    while (n + 1 < fit.size() && at >= kind.recipe.what[fit[n]].weight)
      at -= kind.recipe.what[fit[n++]].weight;
    one.choice = fit[n];
  }
}

bool ObjectPass::force(const Kind& kind, Judged& one) const {
  std::vector<Judged> alone = {one};
  Judged& put = alone[0];
  put.refusal = Refusal::None;
  if (plan_.layout().blocks()) {
    if (kind.inCaves()) {
      const auto found = caveUnder(kind, put.at);
      if (!found) return false;
      put.y = static_cast<int32_t>(found->y);
    } else {
      const GroundTop top = ground_.tops(std::span(&put.at.cell, 1))[0];
      if (top.y == GroundTop::kNone) return false;
      put.y = static_cast<int32_t>(top.y);
    }
  }
  Places place(alone, {}, plan_.layout().vertical().plane);
  float height = 0;
  plan_.parts().land->scattered(1, &put.at.cell, &height, place.biomes.data(), Accuracy::Exact);
  draw(kind, place);
  put.forced = one.refusal;
  one = put;
  return true;
}

void ObjectPass::askSurface(const Kind& kind, Places& places) const {
  const bool onBlocks = plan_.layout().blocks();
  const auto judge = [&](size_t n, MaterialIndex material, float slope) {
    if (onBlocks) material = places.tops[n];
    Refusal& refusal = places.list[n].refusal;
    if (!kind.ground.empty() &&
        std::find(kind.ground.begin(), kind.ground.end(), material) == kind.ground.end())
      refusal = Refusal::Ground;
    else if (!plan_.level() && !kind.inCaves() && kind.slope.any() && !kind.slope.holds(slope))
      refusal = Refusal::Slope;
  };
  const auto rest = places.unknown([&](size_t n, const ObjectGroundTile& tile, size_t k) {
    judge(n, tile.materials[k], tile.slopes[k]);
  });
  const std::vector<Cell> cells = places.cellsOf(rest);
  const auto count = static_cast<int>(cells.size());
  std::vector<float> heights(rest.size()), slopes(rest.size());
  std::vector<MaterialIndex> materials(rest.size(), kUnassigned);
  if (onBlocks) {
    if (kind.slope.any())
      slopes = plan_.parts().land->slopesOf(count, cells.data(), Accuracy::Exact);
  } else {
    std::vector<BiomeIndex> biomes(rest.size());
    std::vector<WaterAt> waters(rest.size());
    columns_.generated(count, cells.data(), heights.data(), biomes.data(), materials.data(),
        waters.data(), kind.slope.any() ? slopes.data() : nullptr);
  }
  for (size_t k = 0; k < rest.size(); ++k) judge(rest[k], materials[k], slopes[k]);
}

void ObjectPass::askFooting(const Kind& kind, Places& places) const {
  const ObjectFooting& footing = *kind.recipe.footing;
  constexpr int64_t kPoints = 9;
  const std::vector<size_t> left = places.left();
  std::vector<Cell> cells;
  for (const Cell& at : places.cellsOf(left))
    for (int64_t n = 0; n < kPoints; ++n)
      cells.push_back({at.x + (n % 3 - 1) * footing.radius,
          at.z + (places.plane ? 0 : (n / 3 - 1) * footing.radius)});
  std::vector<float> heights;
  if (plan_.level())
    for (const Cell& cell : cells) heights.push_back(plan_.level()->heightAt(cell));
  else
    heights = plan_.parts().land->heightsOf(cells);
  for (size_t k = 0; k < left.size(); ++k) {
    const auto first = heights.begin() + static_cast<ptrdiff_t>(k) * kPoints;
    const auto [low, high] = std::minmax_element(first, first + kPoints);
    if (*high - *low > static_cast<float>(footing.rise))
      places.list[left[k]].refusal = Refusal::Uneven;
  }
}

}  // namespace acre
