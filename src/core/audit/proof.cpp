#include "audit/proof.h"

#include <fmt/format.h>

#include <algorithm>
#include <bit>
#include <cmath>
#include <condition_variable>
#include <mutex>
#include <set>
#include <tuple>

#include "audit/plumb.h"
#include "audit/proof_cells.h"
#include "audit/water_summary.h"
#include "climate/land_sampler.h"
#include "recipe/object_recipe.h"
#include "recipe/validate.h"
#include "stream/stream.h"
#include "world/block_value.h"
#include "world/engine.h"
#include "world/fingerprint.h"
#include "world/world.h"

namespace acre {
namespace {

using proof::Cells;
using proof::firstDifference;
using proof::sampled;
using proof::Spot;

std::string plumbOf(const World& world, const Spot& spot) {
  const auto plumb = plumbAt(world, spot.cell, spot.y);
  return plumb ? plumbText(*plumb) : plumb.error().text();
}

/// One proof under way.
class Prover {
 public:
  Prover(const Recipe& recipe, const ProofOptions& options) : recipe_(recipe), options_(options) {}
  Status fingerprint();
  Status run();
  Proof result() { return std::move(proof_); }

 private:
  struct Compiled {
    std::unique_ptr<Engine> engine;
    std::shared_ptr<const World> world;
    std::shared_ptr<const ChunkSource> chunks;
  };
  Result<Compiled> compile(const std::string& simd = {}, std::optional<uint64_t> memo = {}) const;

  /// What one step tries: nothing when all is equal.
  using Found = std::optional<ProofDifference>;
  using Try = std::function<Result<Found>(const Compiled&, const Cells&, int64_t&)>;
  Status step(std::string id, std::string sentence, const Compiled& at, const Try& area);
  /// Whether lakes and rivers are held by what lies beside them, but for a few low falls.
  Status heldWater();

  Found difference(const Spot& spot, const char* one, std::string oneSays, const World& world,
      const char* other, std::string otherSays, const World& otherWorld) const;
  /// most: no more chunks than these.
  Result<Found> inChunks(
      const Compiled& at, const Cells& whole, bool shuffled, size_t most, int64_t& compared) const;
  Result<Found> byReference(const Compiled& at, const Cells& whole, int64_t& compared) const;
  Result<Found> tiles(const Compiled& at, const Cells& whole, int64_t& compared) const;
  Result<Found> objectsByReference(const Compiled& at, const Cells& whole, int64_t& compared) const;
  Result<Found> byPoints(const Compiled& at, const Cells& whole, int64_t& compared) const;
  Result<Found> acrossRims(const Compiled& at, const Cells& whole, int64_t& compared) const;
  Result<Found> coarser(const Compiled& at, const Cells& whole, int64_t& compared) const;
  Result<Found> streamed(
      const Compiled& at, const Cells& whole, unsigned threads, int64_t& compared) const;
  /// In worlds of blocks every second one lies about the ground, the others anywhere.
  Spot sampledSpot(const World& world, const Cells& area, int i) const;
  std::vector<ChunkPos> chunksOf(const World& world, const Rect& area) const;

  const Recipe& recipe_;
  const ProofOptions& options_;
  Compiled first_;
  std::vector<Cells> wholes_;
  Proof proof_;
  size_t steps_ = 1;
};

Result<Prover::Compiled> Prover::compile(
    const std::string& simd, std::optional<uint64_t> memo) const {
  EngineOptions how;
  how.simd = simd;
  if (memo) how.memoBytes = *memo;
  auto engine = Engine::create(how);
  if (!engine) return engine.error();
  auto world = (*engine)->compile(recipe_);
  if (!world) return world.error();
  Compiled out{std::move(*engine), *world, *world};
  if (options_.chunks) out.chunks = options_.chunks(*world);
  return out;
}

Prover::Found Prover::difference(const Spot& spot, const char* one, std::string oneSays,
    const World& world, const char* other, std::string otherSays, const World& otherWorld) const {
  return ProofDifference{spot.cell, world.blocks() ? std::optional(spot.y) : std::nullopt, one,
      other, std::move(oneSays), std::move(otherSays), plumbOf(world, spot),
      plumbOf(otherWorld, spot)};
}

Status Prover::step(std::string id, std::string sentence, const Compiled& at, const Try& area) {
  if (options_.stop.stop_requested()) return cancelled();
  if (options_.progress)
    options_.progress(
        static_cast<double>(proof_.steps.size()) / static_cast<double>(steps_), sentence);
  ProofStep out{std::move(id), std::move(sentence), true, 0, {}};
  for (const Cells& whole : wholes_) {
    auto found = area(at, whole, out.compared);
    if (!found) return found.error();
    if (!*found) continue;
    out.holds = false;
    out.difference = std::move(**found);
    break;
  }
  proof_.steps.push_back(std::move(out));
  return done();
}

Status Prover::heldWater() {
  constexpr int64_t kSide = 512;  // Cells of water are few: more of them than the areas hold.
  ProofStep out{"falls", {}, true, 0, {}};
  Falls all;
  for (const Rect& area : proof_.areas) {
    const Rect about{
        area.x + (area.width - kSide) / 2, area.z + (area.length - kSide) / 2, kSide, kSide};
    auto found = fallsIn(*first_.world, intersection(about, first_.world->bounds()), options_.stop);
    if (!found) return found.error();
    all.water += found->water;
    all.falls.insert(all.falls.end(), found->falls.begin(), found->falls.end());
  }
  out.compared = all.water;
  out.sentence = all.falls.empty()
                     ? std::string("Water is held on every side")
                     : fmt::format("Water is held but for {} fall{}, {} high", all.falls.size(),
                           all.falls.size() == 1 ? "" : "s", all.highest());
  out.holds = all.few();
  if (!out.holds) {
    const Fall& worst = *std::max_element(all.falls.begin(), all.falls.end(),
        [](const Fall& a, const Fall& b) { return a.high < b.high; });
    out.difference = difference({worst.water, worst.level}, "the water",
        fmt::format("level {}", worst.level), *first_.world, "the ground beside it",
        fmt::format("{} cells lower, at {}, {}; at most {} high and one in {} cells of water",
            worst.high, worst.ground.x, worst.ground.z, Falls::kHighestFall, Falls::kCellsEach),
        *first_.world);
  }
  proof_.steps.push_back(std::move(out));
  return done();
}

std::vector<ChunkPos> Prover::chunksOf(const World& world, const Rect& area) const {
  const ChunkPos low = world.layout().chunkOf({area.x, area.z});
  const ChunkPos high = world.layout().chunkOf({area.x + area.width - 1, area.z + area.length - 1});
  std::vector<ChunkPos> out;
  for (int64_t cz = low.cz; cz <= high.cz; ++cz)
    for (int64_t cx = low.cx; cx <= high.cx; ++cx)
      for (int64_t cy = world.layout().lowestChunk(0); cy <= world.layout().highestChunk(0); ++cy)
        out.push_back({cx, cz, 0, cy});
  return out;
}

Result<Prover::Found> Prover::inChunks(
    const Compiled& at, const Cells& whole, bool shuffled, size_t most, int64_t& compared) const {
  std::vector<ChunkPos> order = chunksOf(*at.world, whole.rect);
  if (shuffled)
    std::sort(order.begin(), order.end(), [](ChunkPos a, ChunkPos b) {
      const auto key = [](ChunkPos p) {
        return mix64(static_cast<uint64_t>(p.cx) * 31 + static_cast<uint64_t>(p.cz));
      };
      return std::pair(key(a), a) < std::pair(key(b), b);
    });
  order.resize(std::min(order.size(), most));
  for (const ChunkPos pos : order) {
    const auto chunk = at.chunks->chunk(pos, options_.stop);
    if (!chunk) return chunk.error();
    const Cells cut(**chunk);
    if (const auto cell = firstDifference(cut, whole, compared))
      return difference(*cell, "in chunks", cut.says(*at.world, *cell), *at.world, "whole",
          whole.says(*first_.world, *cell), *first_.world);
  }
  return Found();
}

Spot Prover::sampledSpot(const World& world, const Cells& cells, int i) const {
  const Rect& area = cells.rect;
  const uint64_t bits = mix64(combine(static_cast<uint64_t>(area.x), static_cast<uint64_t>(i)));
  const Cell cell{area.x + static_cast<int64_t>((bits >> 32) % static_cast<uint64_t>(area.width)),
      area.z + static_cast<int64_t>((bits & 0xFFFFFFFF) % static_cast<uint64_t>(area.length))};
  if (!cells.blocks) return {cell, 0};
  const uint64_t more = mix64(bits);
  if (i % 2 == 0)
    return {cell, cells.y + static_cast<int64_t>(more % static_cast<uint64_t>(cells.tall))};
  const auto ground = static_cast<int64_t>(std::floor(world.columns().heightAt(cell)));
  return {cell, std::clamp<int64_t>(ground - 12 + static_cast<int64_t>(more % 24), cells.y,
                    cells.y + cells.tall - 1)};
}

Result<Prover::Found> Prover::byReference(
    const Compiled& at, const Cells& whole, int64_t& compared) const {
  for (int i = 0; i < options_.sampledCells; ++i, ++compared) {
    if (options_.stop.stop_requested()) return cancelled();
    const Spot spot = sampledSpot(*at.world, whole, i);
    const Cell cell = spot.cell;
    const bool wet = at.world->water() != nullptr;
    if (whole.blocks && !wet) {
      const std::string other = options_.referenceBlock(cell, spot.y);
      if (other == at.world->catalogue().materialId(whole.materials[whole.indexOf(spot)])) continue;
      return difference(spot, "whole", whole.says(*at.world, spot), *at.world,
          "the second evaluator", fmt::format("y {}, {}", spot.y, other), *at.world);
    }
    const EvaluatedCell other = options_.reference(cell);
    const size_t k = whole.blocks ? 0 : whole.indexOf(spot);
    const float height = wet ? at.world->parts().before->heightAt(cell) : whole.heights[k];
    const auto alike = [&] {  // Of worlds of blocks only the ground before water gets here.
      return whole.blocks ||
             (at.world->catalogue().biomeId(whole.biomes[k]) == other.biome &&
                 (wet || at.world->catalogue().materialId(whole.materials[k]) == other.material));
    };
    if (std::bit_cast<uint32_t>(height + 0.0f) == std::bit_cast<uint32_t>(other.height + 0.0f) &&
        alike())
      continue;
    return difference(spot, "whole", whole.says(*at.world, spot), *at.world, "the second evaluator",
        fmt::format("height {}, biome {}, material {}", other.height, other.biome, other.material),
        *at.world);
  }
  return Found();
}

/// Those of a part in the middle: each asks for much of what lies around it.
Result<Prover::Found> Prover::objectsByReference(
    const Compiled& at, const Cells& whole, int64_t& compared) const {
  constexpr int64_t kSide = 32;
  const Rect& area = whole.rect;
  const Rect part = intersection(
      {area.x + (area.width - kSide) / 2, area.z + (area.length - kSide) / 2, kSide, kSide}, area);
  const Recipe& recipe = at.world->recipe();
  std::vector<EvaluatedObject> ours;
  for (const PlacedObject& one : whole.standingIn(part, whole.y, whole.y + whole.tall)) {
    const auto [kind, choice] = namesOf(recipe, one);
    ours.push_back({kind, choice, one.cell, one.y, one.id, one.turn});
  }
  const std::vector<EvaluatedObject> theirs = options_.referenceObjects(part);
  compared += part.width * part.length;
  const auto first = firstDifference(ours, theirs, [&](const EvaluatedObject& one) {
    const auto& kinds = recipe.objects->kinds;
    const auto kind = std::find_if(
        kinds.begin(), kinds.end(), [&](const ObjectKind& k) { return k.id == one.kind; });
    return std::tuple(kind - kinds.begin(), one.cell.z, one.cell.x);
  });
  if (!first) return Found();
  const auto saysOf = [&](const std::vector<EvaluatedObject>& list) {
    std::string text;
    for (const EvaluatedObject& one : list)
      if (one.cell == first->cell)
        text += fmt::format("{}{}{}{} {:016x} turned {}", text.empty() ? "" : ", ", one.kind,
            one.choice.empty() ? "" : "/", one.choice, one.id, one.turn);
    return text.empty() ? std::string("nothing stands there") : text;
  };
  return difference({first->cell, first->y}, "the world", saysOf(ours), *at.world,
      "the second evaluator", saysOf(theirs), *at.world);
}

Result<Prover::Found> Prover::tiles(
    const Compiled& at, const Cells& whole, int64_t& compared) const {
  const TilePass& pass = at.world->tiles();
  const bool side = recipe_.frame.kind == WorldKind::Side;
  const Rect asked =
      side ? Rect{whole.rect.x, 1 - (whole.y + whole.tall), whole.rect.width, whole.tall}
           : whole.rect;
  const Rect cells = intersection(asked, pass.plane());
  if (cells.empty()) return Found();
  const auto planes = pass.planes(cells, options_.stop);
  if (!planes) return planes.error();
  const int groups = pass.stage()->groups();
  const auto spotOf = [&](Cell cell) { return side ? Spot{{cell.x, 0}, -cell.z} : Spot{cell, 0}; };
  for (const ChunkPos& pos :
      pass.inChunks() ? chunksOf(*at.world, whole.rect) : std::vector<ChunkPos>()) {
    const auto chunk = at.chunks->chunk(pos, options_.stop);
    if (!chunk) return chunk.error();
    const Rect own = pass.cellsOf(**chunk), shared = intersection(own, cells);
    if (shared.empty()) continue;
    if ((*chunk)->tiles.size() != static_cast<size_t>(groups))
      return difference(spotOf({shared.x, shared.z}), "a chunk's tiles", "none", *at.world, "whole",
          fmt::format("{} groups", groups), *at.world);
    for (int g = 0; g < groups; ++g)
      for (int64_t z = shared.z; z < shared.z + shared.length; ++z)
        for (int64_t x = shared.x; x < shared.x + shared.width; ++x, ++compared) {
          // Rows of blocks go up.
          const int64_t row = side ? own.z + own.length - 1 - z : z - own.z;
          const PackedCells& plane = (*chunk)->tiles[static_cast<size_t>(g)];
          const uint16_t held = plane[static_cast<size_t>(row * own.width + x - own.x)];
          if (held != planes->at(g, {x, z}))
            return difference(spotOf({x, z}), "a chunk's tile", std::to_string(held), *at.world,
                "whole", std::to_string(planes->at(g, {x, z})), *at.world);
        }
  }
  const auto material = [&](Cell cell) {
    MaterialIndex held = kOutside;
    std::ignore = pass.materials({cell.x, cell.z, 1, 1}, &held, options_.stop);
    return held == kOpen ? std::string("open") : at.world->catalogue().materialId(held);
  };
  for (int i = 0; options_.referenceTiles && i < options_.sampledCells; ++i) {
    if (options_.stop.stop_requested()) return cancelled();
    const uint64_t bits = mix64(combine(static_cast<uint64_t>(cells.x), static_cast<uint64_t>(i)));
    const Cell cell{
        cells.x + static_cast<int64_t>((bits >> 32) % static_cast<uint64_t>(cells.width)),
        cells.z + static_cast<int64_t>((bits & 0xFFFFFFFF) % static_cast<uint64_t>(cells.length))};
    for (int g = 0; g < groups; ++g, ++compared) {
      const uint16_t theirs = options_.referenceTiles(pass.plane(), g, cell, material);
      if (theirs != planes->at(g, cell))
        return difference(spotOf(cell), "the world's tile", std::to_string(planes->at(g, cell)),
            *at.world, "the second evaluator's", std::to_string(theirs), *at.world);
    }
  }
  return Found();
}

Result<Prover::Found> Prover::byPoints(
    const Compiled& at, const Cells& whole, int64_t& compared) const {
  for (int i = 0; i < options_.sampledCells; ++i, ++compared) {
    if (options_.stop.stop_requested()) return cancelled();
    const Spot spot = sampledSpot(*at.world, whole, i);
    const Cell cell = spot.cell;
    if (whole.blocks) {
      Cells one(Rect{cell.x, cell.z, 1, 1}, spot.y, 1);
      one.materials[0] = at.world->blockAt(cell, spot.y).material;
      if (one.sameAt(spot, whole)) continue;
      return difference(spot, "one block alone", one.says(*at.world, spot), *at.world, "whole",
          whole.says(*at.world, spot), *at.world);
    }
    const CellValue value = at.world->at(cell);
    Cells one(Rect{cell.x, cell.z, 1, 1});
    one.heights[0] = value.height;
    one.materials[0] = value.material;
    one.biomes[0] = value.biome;
    if (!one.sameAt(spot, whole))
      return difference(spot, "one cell alone", one.says(*at.world, spot), *at.world, "whole",
          whole.says(*at.world, spot), *at.world);
  }
  return Found();
}

/// Two rows or columns of cells, one of each neighbour, sampled across the border between them.
Result<Prover::Found> Prover::acrossRims(
    const Compiled& at, const Cells& whole, int64_t& compared) const {
  const int64_t n = at.world->layout().size();
  const Rect& area = whole.rect;
  std::vector<Rect> strips;
  for (int64_t x = (floorDiv(area.x, n) + 1) * n; x < area.x + area.width; x += n)
    strips.push_back({x - 1, area.z, 2, area.length});
  for (int64_t z = (floorDiv(area.z, n) + 1) * n; z < area.z + area.length; z += n)
    strips.push_back({area.x, z - 1, area.width, 2});
  for (const Rect& strip : strips) {
    const auto across = sampled(*at.world, intersection(strip, at.world->bounds()), options_.stop);
    if (!across) return across.error();
    for (const ChunkPos pos : chunksOf(*at.world, across->rect)) {
      const auto chunk = at.chunks->chunk(pos, options_.stop);
      if (!chunk) return chunk.error();
      const Cells cut(**chunk);
      if (const auto cell = firstDifference(cut, *across, compared))
        return difference(*cell, "a chunk's rim", cut.says(*at.world, *cell), *at.world,
            "the strip across it", across->says(*at.world, *cell), *at.world);
    }
  }
  return Found();
}

/// Chunks of coarser levels up to the step at which everything is exact.
Result<Prover::Found> Prover::coarser(
    const Compiled& at, const Cells& whole, int64_t& compared) const {
  for (const int level : {1, 2}) {
    const int64_t step = int64_t{1} << level;
    std::set<ChunkPos> coarse;
    for (const ChunkPos pos : chunksOf(*at.world, whole.rect))
      coarse.insert(
          {floorDiv(pos.cx, step), floorDiv(pos.cz, step), level, floorDiv(pos.cy, step)});
    for (const ChunkPos pos : coarse) {
      const auto chunk = at.chunks->chunk(pos, options_.stop);
      if (!chunk) return chunk.error();
      const Cells cut(**chunk);
      const Rect ground = at.world->layout().rectOf(pos);
      const int64_t levels = std::max(1, (*chunk)->tall);
      for (int64_t up = 0; up < levels; ++up)
        for (int64_t j = 0; j < (*chunk)->length; ++j)
          for (int64_t i = 0; i < (*chunk)->width; ++i) {
            const Spot spot{{ground.x + i * step, ground.z + j * step}, (*chunk)->y + up * step};
            if (!whole.holds(spot)) continue;
            ++compared;
            const auto k = static_cast<size_t>((up * (*chunk)->length + j) * (*chunk)->width + i);
            const Rect alone{spot.cell.x, spot.cell.z, 1, 1};
            Cells one = whole.blocks ? Cells(alone, spot.y, 1) : Cells(alone);
            one.materials[0] = cut.materials[k];
            if (!whole.blocks) {
              one.heights[0] = cut.heights[k];
              one.biomes[0] = cut.biomes[k];
            }
            if (!one.sameAt(spot, whole))
              return difference(spot, "a coarser chunk", one.says(*at.world, spot), *at.world,
                  "whole", whole.says(*at.world, spot), *at.world);
          }
    }
  }
  return Found();
}

Result<Prover::Found> Prover::streamed(
    const Compiled& at, const Cells& whole, unsigned threads, int64_t& compared) const {
  Executor executor(threads);
  MemoryBudget budget(uint64_t{4} << 30);
  StreamSettings settings;
  settings.viewDistance = std::max(whole.rect.width, whole.rect.length);
  settings.queuePlaces = 8;
  std::mutex mutex;
  std::condition_variable wake;
  bool rung = false;
  Stream stream(at.chunks, settings, executor, budget);
  stream.onReady([&] {
    {
      const std::lock_guard lock(mutex);
      rung = true;
    }
    wake.notify_one();
  });
  stream.setView({whole.rect.x + whole.rect.width / 2, whole.rect.z + whole.rect.length / 2});
  Found found;
  while (!found) {
    if (options_.stop.stop_requested()) return cancelled();
    while (threads == 0 && stream.runOne()) {
    }
    for (const ChunkHandle& chunk : stream.take(64).show) {
      const Cells cut(*chunk);
      if (const auto cell = firstDifference(cut, whole, compared)) {
        found = difference(*cell, "streamed", cut.says(*at.world, *cell), *at.world, "whole",
            whole.says(*first_.world, *cell), *first_.world);
        break;
      }
    }
    const StreamStats stats = stream.stats();
    if (stats.failed > 0) return stream.failures().front().error;
    if (stats.held == stats.expected) break;
    if (threads > 0) {
      std::unique_lock lock(mutex);
      wake.wait_for(lock, std::chrono::milliseconds(20), [&] { return rung; });
      rung = false;
    }
  }
  stream.stop();
  return found;
}

Status Prover::fingerprint() {
  auto compiled = compile();
  if (!compiled) return compiled.error();
  first_ = std::move(*compiled);
  const World& world = *first_.world;
  proof_.areas =
      options_.areas.empty() ? proofAreas(world.bounds(), options_.side) : options_.areas;
  for (const Rect& area : proof_.areas) {
    const std::string text = fmt::format("{},{},{}x{}", area.x, area.z, area.width, area.length);
    if (area.width < 1 || area.length < 1 || area.width > ProofOptions::kMostSide ||
        area.length > ProofOptions::kMostSide)
      return Error{Error::Code::InvalidInput, text, "--area",
          fmt::format("1 to {} cells a side", ProofOptions::kMostSide)};
    if (std::max(std::abs(area.x), std::abs(area.z)) > limits::cell - ProofOptions::kMostSide)
      return Error{Error::Code::InvalidInput, text, "--area",
          fmt::format("cells from {0} to {1}, up to 2^60 - {2} from the origin",
              ProofOptions::kMostSide - limits::cell, limits::cell - ProofOptions::kMostSide,
              ProofOptions::kMostSide)};
    const Rect inside = intersection(area, world.bounds());
    if (inside.empty())
      return Error{Error::Code::InvalidInput, text + " lies outside the world", "--area",
          "an area that holds a cell of the world"};
    auto whole = sampled(world, inside, options_.stop);
    if (!whole) return whole.error();
    const auto hash = areaHash(world, inside);
    if (!hash) return hash.error();
    proof_.areaHashes.push_back(*hash);
    wholes_.push_back(std::move(*whole));
  }
  proof_.world = worldFingerprint(world);
  return done();
}

Status Prover::run() {
  std::vector<std::string> others;
  for (const Kernels* kernels : availableKernels())
    if (kernels != &first_.world->kernels()) others.push_back(kernels->name);
  const bool secondObjects =
      options_.referenceObjects && first_.world->objects().any() && !first_.world->water();
  steps_ = 6 + (first_.world->water() ? 1u : 0u) +
           (options_.reference || options_.referenceBlock ? 1 : 0) + (secondObjects ? 1u : 0u) +
           (first_.world->tiles().stage() ? 1u : 0u) + options_.threads.size() + others.size();

  const auto with = [&](auto method) {
    return [this, method](const Compiled& at, const Cells& whole, int64_t& compared) {
      return (this->*method)(at, whole, compared);
    };
  };
  const auto chunks = [&](bool shuffled, size_t most = SIZE_MAX) {
    return [this, shuffled, most](const Compiled& at, const Cells& whole, int64_t& compared) {
      return inChunks(at, whole, shuffled, most, compared);
    };
  };
  Status going = step("chunks", "Chunks equal cuts of the whole", first_, chunks(false));
  const bool byBlocks = first_.world->blocks() && !first_.world->water();
  const bool second =
      byBlocks ? static_cast<bool>(options_.referenceBlock) : static_cast<bool>(options_.reference);
  if (going && second)
    going = step("reference",
        first_.world->water() ? "Ground before water equals the second evaluator's"
                              : "Cells equal the second evaluator's",
        first_, with(&Prover::byReference));
  if (going && secondObjects)
    going = step("objects", "Objects equal the second evaluator's", first_,
        with(&Prover::objectsByReference));
  if (going && first_.world->tiles().stage())
    going = step("tiles", "Tiles equal the whole's, and the second evaluator's", first_,
        with(&Prover::tiles));
  if (going)
    going = step("points", "Single cells equal the whole", first_, with(&Prover::byPoints));
  if (going)
    going = step("rims", "Rims equal strips across them", first_, with(&Prover::acrossRims));
  if (going)
    going = step("levels", "Coarse chunks: every 2nd, 4th cell", first_, with(&Prover::coarser));
  if (going && first_.world->water()) going = heldWater();
  // From here on each way starts from nothing: another engine, an empty memory.
  const auto anew = [&](const std::string& id, const std::string& sentence, const Try& area,
                        const std::string& simd = {}, std::optional<uint64_t> memo = {}) {
    if (!going) return;
    const auto fresh = compile(simd, memo);
    going = fresh ? step(id, sentence, *fresh, area) : Status(fresh.error());
  };
  anew("order", "Chunks in a shuffled order are equal", chunks(true));
  for (const unsigned threads : options_.threads)
    anew(fmt::format("threads {}", threads),
        threads == 0   ? std::string("Streamed without workers: equal")
        : threads == 1 ? std::string("Streamed with 1 worker: equal")
                       : fmt::format("Streamed with {} workers: equal", threads),
        [this, threads](const Compiled& at, const Cells& whole, int64_t& compared) {
          return streamed(at, whole, threads, compared);
        });
  // Without memory every chunk of a world with water finds a network of its own, and where there
  // are caves or objects every single place that they ask for: there a little is kept.
  constexpr size_t kFewChunks = 6;
  constexpr uint64_t kLittle = uint64_t{16} << 20;
  const World& world = *first_.world;
  const bool little = world.water() && (world.caves() || world.objects().any());
  anew("memo",
      little ? "Remembering little changes nothing" : "Remembering nothing changes nothing",
      world.water() ? chunks(true, kFewChunks) : chunks(false), {}, little ? kLittle : 0);
  for (const std::string& name : others)
    anew("simd " + name, "Instruction set " + name + ": equal", chunks(false), name);
  if (going && options_.progress) options_.progress(1, "");
  return going;
}

}  // namespace

bool Proof::holds() const {
  return std::all_of(steps.begin(), steps.end(), [](const ProofStep& s) { return s.holds; });
}

std::vector<Rect> proofAreas(const Rect& bounds, int64_t side) {
  constexpr int64_t kFar = 2'000'000'000;
  std::vector<Rect> out;
  for (const Cell corner : {Cell{-side / 2, -side / 2}, Cell{-5000, -3000}, Cell{kFar, -kFar}}) {
    // Worlds narrower than an area are looked at wherever they are.
    const int64_t x = bounds.width < side ? bounds.x : corner.x;
    const int64_t z = bounds.length < side ? bounds.z : corner.z;
    const Rect inside = intersection({x, z, side, side}, bounds);
    if (!inside.empty() && std::find(out.begin(), out.end(), inside) == out.end())
      out.push_back(inside);
  }
  if (!out.empty()) return out;
  // The part of the world that is nearest to the origin.
  const auto nearest = [&](int64_t first, int64_t extent) {
    return std::clamp(-side / 2, first, first + std::max<int64_t>(0, extent - side));
  };
  const Rect area{nearest(bounds.x, bounds.width), nearest(bounds.z, bounds.length), side, side};
  return {intersection(area, bounds)};
}

Result<Proof> prove(const Recipe& recipe, const ProofOptions& options) {
  Prover prover(recipe, options);
  if (const Status begun = prover.fingerprint(); !begun) return begun.error();
  if (const Status proved = prover.run(); !proved) return proved.error();
  return prover.result();
}

Result<Proof> fingerprints(const Recipe& recipe, const ProofOptions& options) {
  Prover prover(recipe, options);
  if (const Status found = prover.fingerprint(); !found) return found.error();
  return prover.result();
}

}  // namespace acre
