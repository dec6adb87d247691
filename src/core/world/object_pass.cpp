#include "world/object_pass.h"

#include <algorithm>
#include <array>
#include <limits>
#include <span>
#include <tuple>

#include "base/fp_state.h"
#include "base/hash.h"
#include "cave/level_stage.h"
#include "climate/chart.h"
#include "climate/land_sampler.h"
#include "field/compiler.h"
#include "field/field.h"
#include "field/tables.h"
#include "recipe/cave_recipe.h"
#include "recipe/level_recipe.h"
#include "recipe/object_recipe.h"
#include "recipe/stages.h"
#include "strata/material_index.h"
#include "world/column_sampler.h"
#include "world/object_kind.h"

namespace acre {
namespace {

constexpr uint64_t kObjectStage = 0x4F626A65637473;  // "Objects"
constexpr uint64_t kTurnSalt = 3, kMirrorSalt = 4;

/// Whether any kind asks for more than the height.
bool asksSurface(const Recipe& recipe) {
  if (!takesPart(recipe, StageId::Objects)) return false;
  const auto& kinds = recipe.objects->kinds;
  return std::any_of(kinds.begin(), kinds.end(), [](const ObjectKind& kind) {
    return kind.on && (!kind.ground.empty() || kind.slope.low || kind.slope.high);
  });
}

}  // namespace

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
        Kind::Ends(kind.wall), Kind::Ends(kind.mouth), Kind::Ends(kind.within),
        kind.field.empty() ? nullptr : plan.field(kind.field),
        kind.amount.empty() ? nullptr : plan.field(kind.amount), nullptr, {}, Kind::Ends(Span{}),
        {}, {}, 0};
    if (!kind.curve.empty()) made.curve = std::make_shared<const CurveTable>(kind.curve);
    made.greatest = made.usual.chance;
    for (const BiomeDensity& of : kind.biomes) {
      made.biomes.push_back(asked(biomeIndex(recipe.biomes, of.biome), of.density));
      made.greatest = std::max(made.greatest, made.biomes.back().chance);
    }
    for (const std::string& material : kind.ground)
      made.ground.push_back(indexOf(recipe.materials, material));
    if (level && kind.noise)
      for (const LevelProcess& process : recipe.level->processes)
        if (const auto* walls = std::get_if<NoiseWalls>(&process.what);
            walls && process.id == kind.noise->process) {
          // The floor was made of it, so that it compiles.
          auto noise = compileNoise(
              walls->band.noise, {}, LevelMaker::wallKey(plan.seed(), process.id), 2, {});
          if (noise) made.noise = std::move(*noise);
          made.noiseWithin = Kind::Ends(kind.noise->within);
        }
    for (const std::string& cave : kind.caves)
      for (size_t n = 0; n < recipe.caves->kinds.size(); ++n)
        if (recipe.caves->kinds[n].id == cave) made.caves.push_back(static_cast<int>(n));
    for (const ObjectChoice& one : kind.what) {
      std::vector<BiomeIndex> biomes;
      for (const std::string& biome : one.biomes)
        biomes.push_back(biomeIndex(recipe.biomes, biome));
      const bool here =
          !level || Kind::Ends(one.floors).holds(static_cast<float>(recipe.level->floor));
      made.choices.push_back({std::move(biomes), here,
          one.field.empty() ? nullptr : plan.field(one.field), Kind::Ends(one.within)});
    }
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

auto ObjectPass::tile(Of of, Key key, Work& work) const -> const Tile* {
  if (kindOf(key.kind)->recipe.must) key.told = Told::Refused;
  const bool judged = of == Of::Judged || kindOf(key.kind)->recipe.must;
  auto& met = judged ? work.judged : work.settled;
  if (const auto known = met.find(key); known != met.end()) return known->second.get();
  auto made = (judged ? judgedTiles_ : placedTiles_).get(key, work.stop, [&] {
    if (judged) return judge(key, work);
    const Kind& kind = *kindOf(key.kind);
    auto list = settle(kind, kind.cellsOf(Of::Settled, key), key.told, work);
    if (!list) return std::shared_ptr<const Tile>();
    list->shrink_to_fit();
    return std::make_shared<const Tile>(Tile{std::move(*list)});
  });
  if (!made) return nullptr;
  return (met[key] = std::move(made)).get();
}

template <class Visit>
bool ObjectPass::eachIn(
    Of of, const Kind& kind, Told told, const Rect& cells, Work& work, Visit&& visit) const {
  if (cells.empty()) return true;
  if (of == Of::Settled && work.once && !kind.recipe.must) {
    const auto list = settle(kind, cells, told, work);
    for (size_t n = 0; list && n < list->size(); ++n) visit((*list)[n]);
    return list.has_value();
  }
  const int64_t side = kind.side(of);
  for (int64_t j = floorDiv(cells.z, side); j <= floorDiv(cells.z + cells.length - 1, side); ++j)
    for (int64_t i = floorDiv(cells.x, side); i <= floorDiv(cells.x + cells.width - 1, side); ++i) {
      const Tile* there = tile(of, {kind.place, i, j, told}, work);
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
  const int64_t along = kind.squares(Of::Judged);
  kind.scatter.candidates(key.i * along, key.j * along, along, along, kind.greatest, drawn);
  tile->list.reserve(drawn.size());
  for (const Candidate& one : drawn) tile->list.push_back({one});
  const Rect cells = kind.cellsOf(Of::Judged, key);
  const bool standing = key.told == Told::Standing;
  if (standing) dropByBiome(kind, cells, tile->list);
  if (tile->list.empty()) return tile;
  if (!askOthers(kind, cells, tile->list, work)) return nullptr;
  const bool plane = plan_.layout().vertical().plane;
  Places places(tile->list, cells, plane);
  if (!plane) places.lookUp(ground_);
  askGround(kind, places);
  if (standing)
    std::erase_if(tile->list, [](const Judged& one) { return one.refusal != Refusal::None; });
  tile->list.shrink_to_fit();
  return tile;
}

void ObjectPass::dropByBiome(const Kind& kind, const Rect& cells, std::vector<Judged>& list) const {
  constexpr size_t kWorth = 10;  // All else of so many places costs more than biomes of a square.
  constexpr int64_t kSide = ObjectGroundTile::kSide;
  if (kind.biomes.empty() || !plan_.biomes() || plan_.level() || list.size() < kWorth ||
      plan_.layout().vertical().plane)
    return;
  const int64_t i0 = floorDiv(cells.x, kSide), j0 = floorDiv(cells.z, kSide);
  std::array<std::shared_ptr<const ObjectBiomes>, 4> known;  // A tile is no larger than a square.
  std::erase_if(list, [&](const Judged& one) {
    const int64_t i = floorDiv(one.at.cell.x, kSide), j = floorDiv(one.at.cell.z, kSide);
    auto& there = known[static_cast<size_t>((j - j0) * 2 + i - i0)];
    if (!there) there = ground_.biomes(i, j);
    return one.at.chance() >= kind.askedIn(there->at[ObjectGroundTile::at(one.at.cell)]).chance;
  });
}

auto ObjectPass::judgeSquare(const Key& key, Work& work) const -> std::shared_ptr<const Tile> {
  constexpr uint32_t kAcross = 32, kTries = kAcross * kAcross, kFirst = 4, kAtOnce = 32;
  const Kind& kind = *kindOf(key.kind);
  const int64_t side = kind.side(Of::Judged), margin = side / 8, inner = side - 2 * margin;
  const Cell first{key.i * side + margin, key.j * side + margin};
  const bool plane = plan_.layout().vertical().plane;
  const uint64_t h = kind.scatter.hashAt(key.i, key.j);
  const auto factor = static_cast<uint32_t>(h) % kTries | 1u;
  const auto shift = static_cast<uint32_t>(h >> 32) % kTries;
  auto tile = std::make_shared<Tile>();
  // Most often one of the first holds.
  for (uint32_t t = 0, end = kFirst; t < kTries;
       t = end, end = std::min(kTries, end + std::min(end, kAtOnce))) {
    if (work.stop.stop_requested()) return nullptr;
    std::vector<Judged> list;
    for (uint32_t n = t; n < end; ++n) {
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
  (void)force(kind, *last);  // Otherwise it is missing.
  return tile;
}

bool ObjectPass::askOthers(
    const Kind& kind, const Rect& cells, std::vector<Judged>& list, Work& work) const {
  const auto ask = [&](const Kind::Apart& of, Refusal refusal) {
    std::vector<Cell> others;
    if (!eachIn(Of::Settled, *kindOf(of.kind), Told::Standing, grown(cells, of.cells), work,
            [&](const Judged& one) {
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

auto ObjectPass::settle(const Kind& kind, const Rect& cells, Told told, Work& work) const
    -> std::optional<std::vector<Judged>> {
  std::vector<Judged> list;
  std::vector<Candidate> existing;
  std::vector<size_t> own;  // In the list; of others: none.
  constexpr size_t kNone = SIZE_MAX;
  if (!eachIn(Of::Judged, kind, told, cells, work, [&](const Judged& one) {
        if (one.refusal == Refusal::None) {
          existing.push_back(one.at);
          own.push_back(list.size());
        }
        list.push_back(one);
      }))
    return {};
  // Of what lies around, only better ones count that stand too near, and those that count for them:
  // within reach.
  const int64_t r = kind.scatter.distance(), side = kind.side(Of::Judged);
  const Rect reached = grown(cells, kind.scatter.reach());
  const int64_t left = floorDiv(reached.x, side), top = floorDiv(reached.z, side);
  const int64_t wide = floorDiv(reached.x + reached.width - 1, side) - left + 1;
  const int64_t deep = floorDiv(reached.z + reached.length - 1, side) - top + 1;
  struct Around {
    const Tile* tile = nullptr;  // It stays with the work.
    std::vector<uint8_t> met;    // Of its list.
  };
  std::vector<Around> around(static_cast<size_t>(wide * deep));
  for (size_t n = 0; n < existing.size(); ++n) {
    const Candidate at = existing[n];
    const Rect about = intersection(grown({at.cell.x, at.cell.z, 1, 1}, r - 1), reached);
    if (intersection(about, cells) == about) continue;
    const auto add = [&](const Judged& one, uint8_t& met) {
      const int64_t x = one.at.cell.x - at.cell.x, z = one.at.cell.z - at.cell.z;
      if (met || one.refusal != Refusal::None || x * x + z * z >= r * r ||
          cells.contains(one.at.cell) || !reached.contains(one.at.cell) || !one.at.betterThan(at))
        return;
      met = 1;
      existing.push_back(one.at);
      own.push_back(kNone);
    };
    // The rows of squares that it may lie in: lists go by them.
    const int64_t square = kind.scatter.square();
    const int64_t row = floorDiv(about.z, square) * square;
    for (int64_t j = floorDiv(about.z, side); j <= floorDiv(about.z + about.length - 1, side); ++j)
      for (int64_t i = floorDiv(about.x, side); i <= floorDiv(about.x + about.width - 1, side);
           ++i) {
        Around& there = around[static_cast<size_t>((j - top) * wide + i - left)];
        if (!there.tile) {
          if (!(there.tile = tile(Of::Judged, {kind.place, i, j, told}, work))) return {};
          there.met.assign(there.tile->list.size(), 0);
        }
        const std::vector<Judged>& all = there.tile->list;
        auto one = std::partition_point(
            all.begin(), all.end(), [&](const Judged& earlier) { return earlier.at.cell.z < row; });
        for (; one != all.end() && one->at.cell.z < about.z + about.length + square; ++one)
          add(*one, there.met[static_cast<size_t>(one - all.begin())]);
      }
  }
  const auto taken = kind.scatter.taken(existing);
  for (size_t n = 0; n < existing.size(); ++n)
    if (own[n] != kNone && !taken[n]) list[own[n]].refusal = Refusal::Own;
  if (told == Told::Standing)
    std::erase_if(list, [](const Judged& one) { return one.refusal != Refusal::None; });
  return list;
}

int64_t ObjectPass::squareOf(size_t kind) const {
  const Kind* of = kindOf(kind);
  return of && of->recipe.must ? of->recipe.must->square : 0;
}

std::optional<MustHave> ObjectPass::mustHave(
    size_t kind, int64_t i, int64_t j, const std::stop_token& stop) const {
  Work work{stop};
  const Tile* tried = tile(Of::Judged, {kind, i, j, Told::Refused}, work);
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
  out.choice = one.choice;
  return out;
}

template <class Visit>
bool ObjectPass::eachSettled(const Kind& kind, Told told, const Rect& cells,
    const std::stop_token& stop, Visit&& visit, bool once) const {
  constexpr int64_t kPart = 512;  // Cells a side.
  for (int64_t z = 0; z < cells.length; z += kPart)
    for (int64_t x = 0; x < cells.width; x += kPart) {
      Work work{stop, once};
      const Rect part{cells.x + x, cells.z + z, std::min(kPart, cells.width - x),
          std::min(kPart, cells.length - z)};
      if (!eachIn(Of::Settled, kind, told, part, work, visit)) return false;
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
            *kind, Told::Standing, inside, stop,
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
  return !of || eachSettled(*of, Told::Refused, intersection(cells, plan_.bounds()), stop, visit);
}

bool ObjectPass::standing(size_t kind, const Rect& cells,
    const std::function<void(const Judged&)>& visit, const std::stop_token& stop) const {
  const Kind* of = kindOf(kind);
  const auto put = [&](const Judged& one) {
    if (one.refusal == Refusal::None) visit(one);
  };
  return !of || eachSettled(*of, Told::Standing, intersection(cells, plan_.bounds()), stop, put);
}

}  // namespace acre
