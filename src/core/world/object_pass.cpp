#include "world/object_pass.h"

#include <algorithm>
#include <limits>
#include <tuple>

#include "base/fp_state.h"
#include "base/hash.h"
#include "climate/chart.h"
#include "climate/land_sampler.h"
#include "field/field.h"
#include "recipe/stages.h"
#include "strata/material_index.h"
#include "world/column_sampler.h"

namespace acre {
namespace {

constexpr uint64_t kObjectStage = 0x4F626A65637473;  // "Objects"
constexpr int64_t kTileSquares = 32;                 // Along one side.
constexpr uint64_t kChoiceSalt = 2, kTurnSalt = 3;

Rect grown(const Rect& cells, int64_t by) {
  return {cells.x - by, cells.z - by, cells.width + 2 * by, cells.length + 2 * by};
}

}  // namespace

const char* refusalName(Refusal refusal) {
  static constexpr const char* kNames[kRefusals] = {"", "near another kind", "biome", "under water",
      "altitude", "distance from water", "field", "ground", "slope", "near its own kind"};
  return kNames[static_cast<size_t>(refusal)];
}

std::pair<std::string, std::string> namesOf(const Recipe& recipe, const PlacedObject& object) {
  const ObjectKind& kind = recipe.objects->kinds[object.kind];
  return {
      kind.id, object.choice == PlacedObject::kPlain ? std::string() : kind.what[object.choice].id};
}

std::string titleOf(const Recipe& recipe, const PlacedObject& object) {
  const ObjectKind& kind = recipe.objects->kinds[object.kind];
  return object.choice == PlacedObject::kPlain ? kind.name : kind.what[object.choice].name;
}

struct ObjectPass::Kind {
  /// Ends in single precision.
  struct Ends {
    float low = -std::numeric_limits<float>::infinity();
    float high = std::numeric_limits<float>::infinity();
    explicit Ends(const Span& span) {
      if (span.low) low = static_cast<float>(*span.low);
      if (span.high) high = static_cast<float>(*span.high);
    }
    bool any() const { return low > -std::numeric_limits<float>::infinity() || !holds(1e30f); }
    bool holds(float v) const { return v >= low && v <= high; }
  };
  struct Apart {
    size_t kind;  ///< In the recipe.
    int64_t cells;
  };
  size_t place;
  const ObjectKind& recipe;
  Scatter scatter;
  /// How many are asked for, where, and the chance for it.
  struct Asked {
    BiomeIndex biome;
    double density;
    uint64_t chance;
  };
  Asked usual;
  uint64_t greatest;  ///< Chance of all.
  std::vector<Asked> biomes;
  std::vector<Apart> apart;
  std::vector<MaterialIndex> ground;
  Ends altitude, slope, shore, within;
  const Field* field;
  double weights = 0;
  int64_t reach;

  int64_t side() const { return kTileSquares * scatter.square(); }
  const Asked& askedIn(BiomeIndex biome) const {
    for (const Asked& there : biomes)
      if (there.biome == biome) return there;
    return usual;
  }
};

ObjectPass::ObjectPass(const WorldPlan& plan, const ColumnSampler& columns, const MemoLimit& memo)
    : plan_(plan), columns_(columns), judgedTiles_(memo), placedTiles_(memo) {
  const Recipe& recipe = plan.recipe();
  if (!takesPart(recipe, StageId::Objects)) return;
  const uint64_t seed = combine(plan.seed(), kObjectStage);
  const auto& kinds = recipe.objects->kinds;
  for (size_t k = 0; k < kinds.size(); ++k) {
    const ObjectKind& kind = kinds[k];
    if (!kind.on) continue;
    const Scatter scatter(combine(seed, hashText(kind.id)), kind.distance);
    const auto asked = [&](BiomeIndex biome, double density) {
      return Kind::Asked{biome, density, scatter.chanceFor(density)};
    };
    Kind made{k, kind, scatter, asked(kNoBiome, kind.density), 0, {}, {}, {},
        Kind::Ends(kind.altitude), Kind::Ends(kind.slope), Kind::Ends(kind.shore),
        Kind::Ends(kind.within), kind.field.empty() ? nullptr : plan.field(kind.field), 0, 0};
    made.greatest = made.usual.chance;
    for (const BiomeDensity& of : kind.biomes) {
      made.biomes.push_back(asked(biomeIndex(recipe.biomes, of.biome), of.density));
      made.greatest = std::max(made.greatest, made.biomes.back().chance);
    }
    for (const std::string& material : kind.ground)
      made.ground.push_back(indexOf(recipe.materials, material));
    for (const ObjectChoice& one : kind.what) made.weights += one.weight;
    made.reach = made.scatter.reach();
    for (const ObjectApart& from : kind.apart)
      for (const auto& earlier : kinds_)
        if (earlier->recipe.id == from.kind) {
          made.apart.push_back({earlier->place, from.cells});
          made.reach = std::max(made.reach, made.scatter.reach() + from.cells + earlier->reach);
        }
    kinds_.push_back(std::make_shared<const Kind>(std::move(made)));
  }
}

auto ObjectPass::kindOf(size_t kind) const -> const Kind* {
  for (const auto& one : kinds_)
    if (one->place == kind) return one.get();
  return nullptr;
}

double ObjectPass::densityIn(size_t kind, BiomeIndex biome) const {
  const Kind* of = kindOf(kind);
  return of ? of->askedIn(biome).density : 0;
}

double ObjectPass::most(size_t kind) const {
  const Kind* of = kindOf(kind);
  return of ? of->scatter.most() : 0;
}

uint64_t ObjectPass::mostIn(int64_t side) const {
  uint64_t sum = 0;
  for (const auto& kind : kinds_) {
    // Squares with the distance as their diagonal hold one each; r * 5 / 8 is less than their side.
    const int64_t square = std::max<int64_t>(1, int64_t{kind->scatter.distance()} * 5 / 8);
    const auto along = static_cast<uint64_t>(side / square + 2);
    sum += std::min(along * along, static_cast<uint64_t>(side * side));
  }
  return sum;
}

int64_t ObjectPass::reach(size_t kind) const {
  const Kind* of = kindOf(kind);
  return of ? of->reach : 0;
}

auto ObjectPass::tile(Of of, const Key& key, Work& work) const -> const Tile* {
  const bool judged = of == Of::Judged;
  auto& met = judged ? work.judged : work.settled;
  if (const auto known = met.find(key); known != met.end()) return known->second.get();
  auto made = (judged ? judgedTiles_ : placedTiles_).get(key, work.stop, [&] {
    return judged ? judge(key, work) : settle(key, work);
  });
  if (!made) return nullptr;
  return (met[key] = std::move(made)).get();
}

template <class Visit>
bool ObjectPass::eachIn(
    Of of, const Kind& kind, const Rect& cells, Work& work, Visit&& visit) const {
  if (cells.empty()) return true;
  const int64_t side = kind.side();
  for (int64_t j = floorDiv(cells.z, side); j <= floorDiv(cells.z + cells.length - 1, side); ++j)
    for (int64_t i = floorDiv(cells.x, side); i <= floorDiv(cells.x + cells.width - 1, side); ++i) {
      const Tile* there = tile(of, {kind.place, i, j}, work);
      if (!there) return false;
      for (const Judged& one : there->list)
        if (cells.contains(one.at.cell)) visit(one);
    }
  return true;
}

auto ObjectPass::judge(const Key& key, Work& work) const -> std::shared_ptr<const Tile> {
  if (work.stop.stop_requested()) return nullptr;
  const Kind& kind = *kindOf(key.kind);
  auto tile = std::make_shared<Tile>();
  for (int64_t j = key.j * kTileSquares; j < (key.j + 1) * kTileSquares; ++j)
    for (int64_t i = key.i * kTileSquares; i < (key.i + 1) * kTileSquares; ++i)
      if (const Candidate one = kind.scatter.candidate(i, j); one.chance() < kind.greatest)
        tile->list.push_back({one, Refusal::None});
  const Rect cells{key.i * kind.side(), key.j * kind.side(), kind.side(), kind.side()};
  for (const Kind::Apart& apart : kind.apart) {
    std::vector<Cell> others;
    if (!eachIn(Of::Settled, *kindOf(apart.kind), grown(cells, apart.cells), work,
            [&](const Judged& one) {
              if (one.refusal == Refusal::None) others.push_back(one.at.cell);
            }))
      return nullptr;
    for (Judged& one : tile->list)
      for (const Cell& other : others) {
        const int64_t x = other.x - one.at.cell.x, z = other.z - one.at.cell.z;
        if (x * x + z * z < apart.cells * apart.cells) one.refusal = Refusal::Apart;
      }
  }
  askGround(kind, cells, tile->list);
  tile->list.shrink_to_fit();
  return tile;
}

namespace {

/// Those of a list that nothing refuses yet.
struct Left {
  std::vector<size_t> places;
  std::vector<Cell> cells;

  explicit Left(const std::vector<Judged>& list) {
    for (size_t n = 0; n < list.size(); ++n)
      if (list[n].refusal == Refusal::None) {
        places.push_back(n);
        cells.push_back(list[n].at.cell);
      }
  }
  size_t size() const { return cells.size(); }
  int count() const { return static_cast<int>(cells.size()); }
};

}  // namespace

/// What costs little is asked first, and what costs much of those alone that are left.
void ObjectPass::askGround(const Kind& kind, const Rect& tile, std::vector<Judged>& list) const {
  askLand(kind, tile, list);
  if (kind.field) askField(kind, list);
  if (!kind.ground.empty() || kind.slope.any()) askSurface(kind, list);
}

void ObjectPass::askLand(const Kind& kind, const Rect& tile, std::vector<Judged>& list) const {
  const FpState fp;
  const Left left(list);
  const LandSampler& land = *plan_.parts().land;
  const auto sea = static_cast<float>(plan_.seaLevel());
  const auto judge = [&](size_t n, BiomeIndex biome, float height, WaterKind water, float shore) {
    Judged& one = list[left.places[n]];
    if (one.at.chance() >= kind.askedIn(biome).chance)
      one.refusal = Refusal::Biome;
    else if ((water != WaterKind::Dry || height < sea) && !kind.recipe.wet)
      one.refusal = Refusal::Water;
    else if (!kind.altitude.holds(height - sea))
      one.refusal = Refusal::Altitude;
    else if (!kind.shore.holds(shore))
      one.refusal = Refusal::Shore;
  };
  // A cell of a grid costs a fraction of one on its own.
  constexpr size_t kFraction = 8;
  const auto all = static_cast<size_t>(tile.width * tile.length);
  if (left.size() * kFraction < all) {
    std::vector<float> heights(left.size());
    std::vector<BiomeIndex> biomes(left.size());
    std::vector<WaterAt> waters(left.size());
    land.scattered(left.count(), left.cells.data(), heights.data(), biomes.data(), Accuracy::Exact,
        waters.data());
    for (size_t n = 0; n < left.size(); ++n)
      judge(n, biomes[n], heights[n], waters[n].kind, waters[n].shore);
    return;
  }
  std::vector<float> heights(all), shores(all);
  std::vector<BiomeIndex> biomes(all);
  std::vector<WaterKind> waters(all);
  LandOut out;
  out.heights = heights.data();
  out.biomes = biomes.data();
  out.waters = waters.data();
  out.shores = shores.data();
  out.stride = tile.width;
  // Nobody stops it.
  std::ignore = land.evaluate(
      {tile.x, tile.z, 1, static_cast<int32_t>(tile.width), static_cast<int32_t>(tile.length)}, out,
      {});
  for (size_t n = 0; n < left.size(); ++n) {
    const Cell at = left.cells[n];
    const auto k = static_cast<size_t>((at.z - tile.z) * tile.width + at.x - tile.x);
    judge(n, biomes[k], heights[k], waters[k], shores[k]);
  }
}

void ObjectPass::askField(const Kind& kind, std::vector<Judged>& list) const {
  const Left left(list);
  std::vector<int64_t> x, z;
  for (const Cell& cell : left.cells) {
    x.push_back(cell.x);
    z.push_back(cell.z);
  }
  const std::vector<int32_t> q(left.size());
  std::vector<float> values(left.size());
  const FpState fp;
  kind.field->points(plan_.kernels(),
      {left.count(), {x.data(), nullptr, z.data()}, {q.data(), nullptr, q.data()}}, values.data());
  for (size_t n = 0; n < left.size(); ++n)
    if (!kind.within.holds(values[n])) list[left.places[n]].refusal = Refusal::Field;
}

void ObjectPass::askSurface(const Kind& kind, std::vector<Judged>& list) const {
  const Left left(list);
  std::vector<float> heights(left.size()), slopes(kind.slope.any() ? left.size() : 0);
  std::vector<BiomeIndex> biomes(left.size());
  std::vector<MaterialIndex> materials(left.size());
  std::vector<WaterAt> waters(left.size());
  columns_.generated(left.count(), left.cells.data(), heights.data(), biomes.data(),
      materials.data(), waters.data(), slopes.empty() ? nullptr : slopes.data());
  for (size_t n = 0; n < left.size(); ++n) {
    Judged& one = list[left.places[n]];
    if (!kind.ground.empty() &&
        std::find(kind.ground.begin(), kind.ground.end(), materials[n]) == kind.ground.end())
      one.refusal = Refusal::Ground;
    else if (!slopes.empty() && !kind.slope.holds(slopes[n]))
      one.refusal = Refusal::Slope;
  }
}

auto ObjectPass::settle(const Key& key, Work& work) const -> std::shared_ptr<const Tile> {
  const Kind& kind = *kindOf(key.kind);
  const Rect cells{key.i * kind.side(), key.j * kind.side(), kind.side(), kind.side()};
  auto tile = std::make_shared<Tile>();
  std::vector<Candidate> existing;
  std::vector<size_t> own;  // In the list of the tile; of others: none.
  constexpr size_t kNone = SIZE_MAX;
  const auto add = [&](const Judged& one) {
    const bool inside = cells.contains(one.at.cell);
    if (one.refusal == Refusal::None) {
      existing.push_back(one.at);
      own.push_back(inside ? tile->list.size() : kNone);
    }
    if (inside) tile->list.push_back(one);
  };
  if (!eachIn(Of::Judged, kind, grown(cells, kind.scatter.reach()), work, add)) return nullptr;
  const auto taken = kind.scatter.taken(existing);
  for (size_t n = 0; n < existing.size(); ++n)
    if (own[n] != kNone && !taken[n]) tile->list[own[n]].refusal = Refusal::Own;
  tile->list.shrink_to_fit();
  return tile;
}

PlacedObject ObjectPass::objectOf(size_t kind, const Candidate& at) const {
  return objectOf(*kindOf(kind), at);
}

PlacedObject ObjectPass::objectOf(const Kind& kind, const Candidate& at) const {
  PlacedObject out;
  out.id = at.hash;
  out.kind = static_cast<uint16_t>(kind.place);
  out.cell = at.cell;
  out.turn = static_cast<uint8_t>(combine(at.hash, kTurnSalt) >> 62);
  const auto& what = kind.recipe.what;
  if (what.empty()) return out;
  double left = static_cast<double>(combine(at.hash, kChoiceSalt) >> 11) * 0x1p-53 * kind.weights;
  uint16_t n = 0;
  while (n + size_t{1} < what.size() && left >= what[n].weight) left -= what[n++].weight;
  out.choice = n;
  return out;
}

template <class Visit>
bool ObjectPass::eachSettled(
    const Kind& kind, const Rect& cells, const std::stop_token& stop, Visit&& visit) const {
  constexpr int64_t kPart = 512;  // Cells a side.
  for (int64_t z = 0; z < cells.length; z += kPart)
    for (int64_t x = 0; x < cells.width; x += kPart) {
      Work work{stop};
      const Rect part{cells.x + x, cells.z + z, std::min(kPart, cells.width - x),
          std::min(kPart, cells.length - z)};
      if (!eachIn(Of::Settled, kind, part, work, visit)) return false;
    }
  return true;
}

std::optional<std::vector<PlacedObject>> ObjectPass::in(
    const Rect& cells, const std::stop_token& stop) const {
  std::vector<PlacedObject> out;
  const Rect inside = intersection(cells, plan_.bounds());
  for (const auto& kind : kinds_) {
    const auto first = static_cast<ptrdiff_t>(out.size());
    if (!eachSettled(*kind, inside, stop, [&](const Judged& one) {
          if (one.refusal == Refusal::None) out.push_back(objectOf(*kind, one.at));
        }))
      return {};
    std::sort(out.begin() + first, out.end(), [](const PlacedObject& a, const PlacedObject& b) {
      return std::pair(a.cell.z, a.cell.x) < std::pair(b.cell.z, b.cell.x);
    });
  }
  return out;
}

bool ObjectPass::judged(size_t kind, const Rect& cells,
    const std::function<void(const Judged&)>& visit, const std::stop_token& stop) const {
  const Kind* of = kindOf(kind);
  return !of || eachSettled(*of, intersection(cells, plan_.bounds()), stop, visit);
}

}  // namespace acre
