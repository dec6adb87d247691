#include "world/object_pass.h"

#include <algorithm>
#include <limits>
#include <tuple>

#include "base/fp_state.h"
#include "base/hash.h"
#include "cave/level_stage.h"
#include "climate/chart.h"
#include "climate/land_sampler.h"
#include "field/field.h"
#include "field/tables.h"
#include "recipe/stages.h"
#include "strata/material_index.h"
#include "world/column_sampler.h"

namespace acre {
namespace {

constexpr uint64_t kObjectStage = 0x4F626A65637473;  // "Objects"
/// Squares along one side of what is judged at a time.
constexpr int64_t kTileSquares = 32;
/// The same of what is settled, which looks five distances around, up to thirteen squares: small
/// ones are settled in larger pieces.
constexpr int64_t settledSquares(int64_t cells) {
  return cells <= 2 ? 4 * kTileSquares : 2 * kTileSquares;
}
constexpr uint64_t kChoiceSalt = 2, kTurnSalt = 3, kMirrorSalt = 4;

/// Whether any kind asks for more than the height.
bool asksSurface(const Recipe& recipe) {
  if (!takesPart(recipe, StageId::Objects)) return false;
  const auto& kinds = recipe.objects->kinds;
  return std::any_of(kinds.begin(), kinds.end(), [](const ObjectKind& kind) {
    return kind.on && (!kind.ground.empty() || kind.slope.low || kind.slope.high);
  });
}

}  // namespace

const char* refusalName(Refusal refusal) {
  static constexpr const char* kNames[kRefusals] = {"", "outside the world", "in a wall",
      "near another kind", "not by another kind", "biome", "under water", "altitude",
      "distance from water", "distance from a wall", "field", "amount", "ground", "slope",
      "uneven ground", "near its own kind"};
  return kNames[static_cast<size_t>(refusal)];
}

std::pair<std::string, std::string> namesOf(const Recipe& recipe, const PlacedObject& object) {
  const ObjectKind& kind = recipe.objects->kinds[object.kind];
  return {
      kind.id, object.choice == PlacedObject::kPlain ? std::string() : kind.what[object.choice].id};
}

const ObjectPiece* pieceOf(const Recipe& recipe, const PlacedObject& object) {
  const ObjectKind& kind = recipe.objects->kinds[object.kind];
  const std::string& own =
      object.choice == PlacedObject::kPlain ? kind.piece : kind.what[object.choice].piece;
  const std::string& id = own.empty() ? kind.piece : own;
  for (const ObjectPiece& piece : recipe.objects->pieces)
    if (piece.id == id) return &piece;
  return nullptr;
}

std::vector<ObjectAttribute> attributesOf(const Recipe& recipe, const PlacedObject& object) {
  const ObjectKind& kind = recipe.objects->kinds[object.kind];
  std::vector<ObjectAttribute> out = kind.attributes;
  if (object.choice == PlacedObject::kPlain) return out;
  for (const ObjectAttribute& own : kind.what[object.choice].attributes) {
    std::erase_if(out, [&](const ObjectAttribute& one) { return one.name == own.name; });
    out.push_back(own);
  }
  return out;
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
  std::vector<Apart> apart, beside;
  std::vector<MaterialIndex> ground;
  Ends altitude, slope, shore, wall, within;
  const Field* field;
  const Field* amount;
  std::shared_ptr<const CurveTable> curve;
  double weights = 0;
  int64_t reach;
  bool nobody = false;  ///< It would stand by a kind that is off.

  /// Cells a side of a tile.
  int64_t side(Of of) const {
    if (recipe.must) return recipe.must->square;
    const int64_t cells = scatter.square();
    return (of == Of::Judged ? kTileSquares : settledSquares(cells)) * cells;
  }
  Rect cellsOf(Of of, const Key& key) const {
    return {key.i * side(of), key.j * side(of), side(of), side(of)};
  }
  /// What share of its density a value of its field asks for.
  double share(float value) const {
    return static_cast<double>(std::clamp(curve ? curve->at(value) : value, 0.0f, 1.0f));
  }
  const Asked& askedIn(BiomeIndex biome) const {
    for (const Asked& there : biomes)
      if (there.biome == biome) return there;
    return usual;
  }
};

/// Candidates of a tile, with what is known of the ground they stand on.
struct ObjectPass::Places {
  std::vector<Judged>& list;
  std::vector<std::shared_ptr<const ObjectGroundTile>> tiles;  ///< Row by row.
  Rect cells;                                                  ///< That they cover.
  std::vector<double> asked;        ///< For each: of 1,000 cells of its biome.
  std::vector<MaterialIndex> tops;  ///< For each, in worlds of blocks: what it stands on.
  bool plane;                       ///< A side world: the ground is asked at z = 0.

  Places(std::vector<Judged>& judged, const Rect& tile, bool side)
      : list(judged), cells(tile), asked(judged.size()), plane(side) {}
  /// cells: whole tiles of the ground.
  void lookUp(const ObjectGround& ground) {
    std::vector<size_t> counts(static_cast<size_t>(along() * along()));
    for (const Judged& one : list) counts[squareOf(one.at.cell)] += one.refusal == Refusal::None;
    for (const size_t count : counts) {
      const auto n = static_cast<int64_t>(tiles.size());
      tiles.push_back(count == 0 ? nullptr
                                 : ground.tile(cells.x / ObjectGroundTile::kSide + n % along(),
                                       cells.z / ObjectGroundTile::kSide + n / along(), count));
    }
  }
  int64_t along() const { return cells.width / ObjectGroundTile::kSide; }
  size_t squareOf(Cell at) const {
    return static_cast<size_t>((at.z - cells.z) / ObjectGroundTile::kSide * along() +
                               (at.x - cells.x) / ObjectGroundTile::kSide);
  }
  /// Those that nothing refuses yet.
  std::vector<size_t> left() const {
    std::vector<size_t> out;
    for (size_t n = 0; n < list.size(); ++n)
      if (list[n].refusal == Refusal::None) out.push_back(n);
    return out;
  }
  /// Calls known(place in the list, tile, place in it) for each that is left where the ground is
  /// remembered; the others.
  template <class Known>
  std::vector<size_t> unknown(Known&& known) const {
    constexpr int64_t kSide = ObjectGroundTile::kSide;
    std::vector<size_t> out;
    for (const size_t n : left()) {
      const Cell at = list[n].at.cell;
      const ObjectGroundTile* tile = tiles.empty() ? nullptr : tiles[squareOf(at)].get();
      if (tile)
        known(n, *tile,
            static_cast<size_t>((at.z - cells.z) % kSide * kSide + (at.x - cells.x) % kSide));
      else
        out.push_back(n);
    }
    return out;
  }
  std::vector<Cell> cellsOf(const std::vector<size_t>& some) const {
    std::vector<Cell> out;
    for (const size_t n : some) out.push_back({list[n].at.cell.x, plane ? 0 : list[n].at.cell.z});
    return out;
  }
};

ObjectPass::ObjectPass(const WorldPlan& plan, const ColumnSampler& columns,
    const GroundSampler& blocks, const MemoLimit& memo)
    : plan_(plan),
      columns_(columns),
      judgedTiles_(memo),
      placedTiles_(memo),
      ground_(plan, columns, blocks, asksSurface(plan.recipe()), memo) {
  const Recipe& recipe = plan.recipe();
  if (!takesPart(recipe, StageId::Objects)) return;
  uint64_t seed = combine(plan.seed(), kObjectStage);
  const LevelStage* level = plan.level();
  if (level) seed = combine(seed, static_cast<uint64_t>(recipe.level->floor));
  const auto& kinds = recipe.objects->kinds;
  for (size_t k = 0; k < kinds.size(); ++k) {
    const ObjectKind& kind = kinds[k];
    if (!kind.on) continue;
    const Scatter scatter(combine(seed, hashText(kind.id)), kind.distance);
    double share = 1;
    if (level && !kind.floors.empty())
      share = static_cast<double>(std::clamp(
          CurveTable(kind.floors).at(static_cast<float>(recipe.level->floor)), 0.0f, 1.0f));
    const auto asked = [&](BiomeIndex biome, double density) {
      density *= share;
      return Kind::Asked{biome, density, scatter.chanceFor(density)};
    };
    Kind made{k, kind, scatter, asked(kNoBiome, kind.density), 0, {}, {}, {}, {},
        Kind::Ends(kind.altitude), Kind::Ends(kind.slope), Kind::Ends(kind.shore),
        Kind::Ends(kind.wall), Kind::Ends(kind.within),
        kind.field.empty() ? nullptr : plan.field(kind.field),
        kind.amount.empty() ? nullptr : plan.field(kind.amount), nullptr, 0, 0};
    if (!kind.curve.empty()) made.curve = std::make_shared<const CurveTable>(kind.curve);
    made.greatest = made.usual.chance;
    for (const BiomeDensity& of : kind.biomes) {
      made.biomes.push_back(asked(biomeIndex(recipe.biomes, of.biome), of.density));
      made.greatest = std::max(made.greatest, made.biomes.back().chance);
    }
    for (const std::string& material : kind.ground)
      made.ground.push_back(indexOf(recipe.materials, material));
    for (const ObjectChoice& one : kind.what) made.weights += one.weight;
    const int64_t own = kind.must ? kind.must->square : made.scatter.reach();
    made.reach = own;
    for (const auto& [list, of] :
        {std::pair(&kind.apart, &made.apart), std::pair(&kind.beside, &made.beside)})
      for (const ObjectApart& from : *list)
        for (const auto& earlier : kinds_)
          if (earlier->recipe.id == from.kind) {
            of->push_back({earlier->place, from.cells});
            made.reach = std::max(made.reach, own + from.cells + earlier->reach);
          }
    made.nobody = made.beside.size() < kind.beside.size();
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

double ObjectPass::greatest(size_t kind) const {
  const Kind* of = kindOf(kind);
  if (!of || of->recipe.must) return 0;
  double out = of->usual.density;
  for (const Kind::Asked& there : of->biomes) out = std::max(out, there.density);
  return out;
}

Status ObjectPass::asked(size_t kind, const SampleGrid& grid, float* out, ptrdiff_t stride,
    const std::stop_token& stop) const {
  const Kind& of = *kindOf(kind);
  std::vector<BiomeIndex> biomes(
      static_cast<size_t>(stride) * static_cast<size_t>(grid.length), kNoBiome);
  if (!of.biomes.empty() && plan_.biomes()) {
    Land land;
    land.stride = stride;
    land.biomes = biomes.data();
    land.beforeWater = true;  // It moves no biome.
    if (Status made = columns_.sample(grid, land, stop); !made) return made;
  }
  if (of.amount)
    if (Status made = columns_.field(*of.amount, grid, out, stop, stride); !made) return made;
  for (int32_t j = 0; j < grid.length; ++j)
    for (int32_t i = 0; i < grid.width; ++i) {
      const ptrdiff_t at = j * stride + i;
      const double density = of.askedIn(biomes[static_cast<size_t>(at)]).density;
      out[at] = static_cast<float>(of.amount ? density * of.share(out[at]) : density);
    }
  return done();
}

double ObjectPass::most(size_t kind) const {
  const Kind* of = kindOf(kind);
  return of ? of->scatter.most() : 0;
}

uint64_t ObjectPass::mostIn(int64_t side) const {
  uint64_t sum = 0;
  for (const auto& kind : kinds_) {
    // Squares with the distance as their diagonal hold one each; r * 5 / 8 is less than their side.
    const int64_t square = kind->recipe.must
                               ? kind->recipe.must->square
                               : std::max<int64_t>(1, int64_t{kind->scatter.distance()} * 5 / 8);
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
  const bool judged = of == Of::Judged || kindOf(key.kind)->recipe.must;
  auto& met = judged ? work.judged : work.settled;
  if (const auto known = met.find(key); known != met.end()) return known->second.get();
  auto made = (judged ? judgedTiles_ : placedTiles_).get(key, work.stop, [&] {
    if (judged) return judge(key, work);
    const Kind& kind = *kindOf(key.kind);
    auto list = settle(kind, kind.cellsOf(Of::Settled, key), work);
    if (!list) return std::shared_ptr<const Tile>();
    list->shrink_to_fit();
    return std::make_shared<const Tile>(Tile{std::move(*list)});
  });
  if (!made) return nullptr;
  return (met[key] = std::move(made)).get();
}

template <class Visit>
bool ObjectPass::eachIn(
    Of of, const Kind& kind, const Rect& cells, Work& work, Visit&& visit) const {
  if (cells.empty()) return true;
  if (of == Of::Settled && work.once && !kind.recipe.must) {
    const auto list = settle(kind, cells, work);
    for (size_t n = 0; list && n < list->size(); ++n) visit((*list)[n]);
    return list.has_value();
  }
  const int64_t side = kind.side(of);
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
  if (kind.recipe.must) return judgeSquare(key, work);
  auto tile = std::make_shared<Tile>();
  std::vector<Candidate> drawn;
  kind.scatter.candidates(
      key.i * kTileSquares, key.j * kTileSquares, kTileSquares, kTileSquares, kind.greatest, drawn);
  tile->list.reserve(drawn.size());
  for (const Candidate& one : drawn) tile->list.push_back({one});
  const Rect cells = kind.cellsOf(Of::Judged, key);
  if (!askOthers(kind, cells, tile->list, work)) return nullptr;
  const bool plane = plan_.layout().vertical().plane;
  Places places(tile->list, cells, plane);
  if (!plane) places.lookUp(ground_);
  askGround(kind, places);
  tile->list.shrink_to_fit();
  return tile;
}

auto ObjectPass::judgeSquare(const Key& key, Work& work) const -> std::shared_ptr<const Tile> {
  constexpr uint32_t kAcross = 32, kTries = kAcross * kAcross, kAtOnce = 32;
  const Kind& kind = *kindOf(key.kind);
  const int64_t side = kind.side(Of::Judged), margin = side / 8, inner = side - 2 * margin;
  const Cell first{key.i * side + margin, key.j * side + margin};
  const bool plane = plan_.layout().vertical().plane;
  const uint64_t h = kind.scatter.hashAt(key.i, key.j);
  const auto factor = static_cast<uint32_t>(h) % kTries | 1u;
  const auto shift = static_cast<uint32_t>(h >> 32) % kTries;
  auto tile = std::make_shared<Tile>();
  for (uint32_t t = 0; t < kTries; t += kAtOnce) {
    if (work.stop.stop_requested()) return nullptr;
    std::vector<Judged> list;
    for (uint32_t n = t; n < t + kAtOnce; ++n) {
      uint32_t q = (factor * n + shift) % kTries;
      q ^= q >> 3;
      const uint64_t place = combine(h, q + uint64_t{1});
      const auto along = [&](uint32_t part, uint64_t bits) {
        const int64_t from = inner * part / kAcross, to = inner * (part + 1) / kAcross;
        return from +
               static_cast<int64_t>((bits & 0xFFFFFFFF) * static_cast<uint64_t>(to - from) >> 32);
      };
      Cell cell{first.x + along(q % kAcross, place), first.z + along(q / kAcross, place >> 32)};
      if (plane) cell.z = 0;
      list.push_back(
          {{cell, place}, plan_.bounds().contains(cell) ? Refusal::None : Refusal::Bounds});
    }
    Places places(list, {}, plane);
    for (Judged& one : list) {  // Each has neighbours of its own.
      if (one.refusal != Refusal::None) continue;
      std::vector<Judged> alone = {one};
      if (!askOthers(kind, {one.at.cell.x, one.at.cell.z, 1, 1}, alone, work)) return nullptr;
      one = alone[0];
    }
    askGround(kind, places);
    const auto holds = std::find_if(
        list.begin(), list.end(), [](const Judged& one) { return one.refusal == Refusal::None; });
    tile->list.insert(tile->list.end(), list.begin(), holds == list.end() ? holds : holds + 1);
    if (holds != list.end()) return tile;
  }
  const auto last = std::max_element(tile->list.begin(), tile->list.end(),
      [](const Judged& a, const Judged& b) { return a.refusal < b.refusal; });
  if (!kind.recipe.must->forced || last->refusal <= Refusal::Solid) return tile;
  if (plan_.layout().blocks()) {
    const Cell at = last->at.cell;
    last->y = ground_.tops({at.x, at.z, 1, 1}, plan_.parts().land->heightsOf({at})[0])[0].y;
    if (last->y == GroundTop::kNone) return tile;
  }
  last->forced = std::exchange(last->refusal, Refusal::None);
  return tile;
}

bool ObjectPass::askOthers(
    const Kind& kind, const Rect& cells, std::vector<Judged>& list, Work& work) const {
  const auto ask = [&](const Kind::Apart& of, Refusal refusal) {
    std::vector<Cell> others;
    if (!eachIn(
            Of::Settled, *kindOf(of.kind), grown(cells, of.cells), work, [&](const Judged& one) {
              if (one.refusal == Refusal::None) others.push_back(one.at.cell);
            }))
      return false;
    for (Judged& one : list) {
      if (one.refusal != Refusal::None) continue;
      const bool near = std::any_of(others.begin(), others.end(), [&](const Cell& other) {
        const int64_t x = other.x - one.at.cell.x, z = other.z - one.at.cell.z;
        return x * x + z * z < of.cells * of.cells;
      });
      if (near == (refusal == Refusal::Apart)) one.refusal = refusal;
    }
    return true;
  };
  for (const Kind::Apart& apart : kind.apart)
    if (!ask(apart, Refusal::Apart)) return false;
  for (const Kind::Apart& beside : kind.beside)
    if (!ask(beside, Refusal::Beside)) return false;
  if (kind.nobody)
    for (Judged& one : list)
      if (one.refusal == Refusal::None) one.refusal = Refusal::Beside;
  return true;
}

template <class Judge>
void ObjectPass::askField(const Field& field, Places& places, Judge&& judge) const {
  const std::vector<size_t> left = places.left();
  std::vector<int64_t> x, z;
  for (const Cell& cell : places.cellsOf(left)) {
    x.push_back(cell.x);
    z.push_back(cell.z);
  }
  const std::vector<int32_t> q(left.size());
  std::vector<float> values(left.size());
  field.points(plan_.kernels(),
      {static_cast<int>(left.size()), {x.data(), nullptr, z.data()}, {q.data(), nullptr, q.data()}},
      values.data());
  for (size_t k = 0; k < left.size(); ++k) places.list[left[k]].refusal = judge(left[k], values[k]);
}

/// What costs little is asked first, and what costs much of those alone that are left.
void ObjectPass::askGround(const Kind& kind, Places& places) const {
  const FpState fp;
  if (plan_.level())
    askFloor(kind, places);
  else
    askLand(kind, places);
  if (kind.field)
    askField(*kind.field, places, [&](size_t, float value) {
      return kind.within.holds(value) ? Refusal::None : Refusal::Field;
    });
  if (kind.amount)
    askField(*kind.amount, places, [&](size_t n, float value) {
      const double asked = places.asked[n] * kind.share(value);
      return places.list[n].at.chance() < kind.scatter.chanceFor(asked) ? Refusal::None
                                                                        : Refusal::Amount;
    });
  if (plan_.layout().blocks()) askTop(kind, places);
  if (!kind.ground.empty() || kind.slope.any()) askSurface(kind, places);
  if (kind.recipe.footing) askFooting(kind, places);
}

void ObjectPass::askLand(const Kind& kind, Places& places) const {
  const auto sea = static_cast<float>(plan_.seaLevel());
  const auto judge = [&](size_t n, BiomeIndex biome, float height, WaterKind water, float shore) {
    Judged& one = places.list[n];
    const Kind::Asked& asked = kind.askedIn(biome);
    places.asked[n] = asked.density;
    if (kind.recipe.must ? asked.density <= 0 : one.at.chance() >= asked.chance)
      one.refusal = Refusal::Biome;
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
    if (kind.recipe.must ? asked.density <= 0 : one.at.chance() >= asked.chance)
      one.refusal = Refusal::Biome;
    else if (kind.wall.any() && !kind.wall.holds(static_cast<float>(level.wallFrom(one.at.cell))))
      one.refusal = Refusal::Wall;
  }
}

void ObjectPass::askTop(const Kind& kind, Places& places) const {
  places.tops.assign(places.list.size(), kUnassigned);
  const auto judge = [&](size_t n, const GroundTop& top) {
    Judged& one = places.list[n];
    one.y = top.y;
    places.tops[n] = top.material;
    if (top.wet && !kind.recipe.wet)
      one.refusal = Refusal::Water;
    else if (top.y == GroundTop::kNone)
      one.refusal = Refusal::Ground;
  };
  const auto rest = places.unknown(
      [&](size_t n, const ObjectGroundTile& tile, size_t k) { judge(n, tile.tops[k]); });
  const std::vector<Cell> cells = places.cellsOf(rest);
  const std::vector<float> heights = plan_.parts().land->heightsOf(cells);
  for (size_t k = 0; k < rest.size(); ++k)
    judge(rest[k], ground_.tops({cells[k].x, cells[k].z, 1, 1}, heights[k])[0]);
}

void ObjectPass::askSurface(const Kind& kind, Places& places) const {
  const bool onBlocks = plan_.layout().blocks();
  const auto judge = [&](size_t n, MaterialIndex material, float slope) {
    if (onBlocks) material = places.tops[n];
    Refusal& refusal = places.list[n].refusal;
    if (!kind.ground.empty() &&
        std::find(kind.ground.begin(), kind.ground.end(), material) == kind.ground.end())
      refusal = Refusal::Ground;
    else if (!plan_.level() && kind.slope.any() && !kind.slope.holds(slope))
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

auto ObjectPass::settle(const Kind& kind, const Rect& cells, Work& work) const
    -> std::optional<std::vector<Judged>> {
  std::vector<Judged> list;
  std::vector<Candidate> existing;
  std::vector<size_t> own;  // In the list; of others: none.
  constexpr size_t kNone = SIZE_MAX;
  const auto add = [&](const Judged& one) {
    const bool inside = cells.contains(one.at.cell);
    if (one.refusal == Refusal::None) {
      existing.push_back(one.at);
      own.push_back(inside ? list.size() : kNone);
    }
    if (inside) list.push_back(one);
  };
  if (!eachIn(Of::Judged, kind, grown(cells, kind.scatter.reach()), work, add)) return {};
  const auto taken = kind.scatter.taken(existing);
  for (size_t n = 0; n < existing.size(); ++n)
    if (own[n] != kNone && !taken[n]) list[own[n]].refusal = Refusal::Own;
  return list;
}

int64_t ObjectPass::squareOf(size_t kind) const {
  const Kind* of = kindOf(kind);
  return of && of->recipe.must ? of->recipe.must->square : 0;
}

std::optional<MustHave> ObjectPass::mustHave(
    size_t kind, int64_t i, int64_t j, const std::stop_token& stop) const {
  Work work{stop};
  const Tile* tried = tile(Of::Judged, {kind, i, j}, work);
  if (!tried) return {};
  MustHave out;
  for (const Judged& one : tried->list)
    if (one.refusal == Refusal::None)
      out.placed = one;
    else
      ++out.refused[static_cast<size_t>(one.refusal)];
  return out;
}

PlacedObject ObjectPass::objectOf(size_t kind, const Judged& one) const {
  return objectOf(*kindOf(kind), one);
}

PlacedObject ObjectPass::objectOf(const Kind& kind, const Judged& one) const {
  const Candidate& at = one.at;
  PlacedObject out;
  out.id = at.hash;
  out.kind = static_cast<uint16_t>(kind.place);
  out.cell = at.cell;
  out.y = one.y;
  out.turn = static_cast<uint8_t>(combine(at.hash, kTurnSalt) >> 62);
  out.mirrored = combine(at.hash, kMirrorSalt) >> 63 != 0;
  const auto& what = kind.recipe.what;
  if (what.empty()) return out;
  double left = static_cast<double>(combine(at.hash, kChoiceSalt) >> 11) * 0x1p-53 * kind.weights;
  uint16_t n = 0;
  while (n + size_t{1} < what.size() && left >= what[n].weight) left -= what[n++].weight;
  out.choice = n;
  return out;
}

template <class Visit>
bool ObjectPass::eachSettled(const Kind& kind, const Rect& cells, const std::stop_token& stop,
    Visit&& visit, bool once) const {
  constexpr int64_t kPart = 512;  // Cells a side.
  for (int64_t z = 0; z < cells.length; z += kPart)
    for (int64_t x = 0; x < cells.width; x += kPart) {
      Work work{stop, once};
      const Rect part{cells.x + x, cells.z + z, std::min(kPart, cells.width - x),
          std::min(kPart, cells.length - z)};
      if (!eachIn(Of::Settled, kind, part, work, visit)) return false;
    }
  return true;
}

std::optional<std::vector<PlacedObject>> ObjectPass::in(
    const Rect& cells, const std::stop_token& stop, bool once) const {
  std::vector<PlacedObject> out;
  const Rect inside = intersection(cells, plan_.bounds());
  for (const auto& kind : kinds_) {
    const auto first = static_cast<ptrdiff_t>(out.size());
    if (!eachSettled(
            *kind, inside, stop,
            [&](const Judged& one) {
              if (one.refusal == Refusal::None) out.push_back(objectOf(*kind, one));
            },
            once))
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
