// Cellular automata: 64 cells a word against the same rule as it is commonly written, cell by cell.
// Chunks with every kind of cave against the same as commonly written. Finding systems.
#include <benchmark/benchmark.h>

#include <cstdio>
#include <vector>

#include "audit/cave_figures.h"
#include "cave/automaton.h"
#include "cave/caves.h"
#include "textbook_ground.h"
#include "timing.h"
#include "world/world.h"

namespace bench {
namespace {

using namespace acre;

/// A byte a cell, eight neighbours asked one by one, what lies outside taken as solid.
class TextbookAutomaton {
 public:
  TextbookAutomaton(int side, const AutomatonRule& rule)
      : side_(side), rule_(rule), now_(static_cast<size_t>(side * side)), next_(now_) {}
  void set(int x, int z, bool solid) { now_[static_cast<size_t>(z * side_ + x)] = solid; }
  bool at(int x, int z) const { return now_[static_cast<size_t>(z * side_ + x)] != 0; }
  void step() {
    for (int z = 0; z < side_; ++z)
      for (int x = 0; x < side_; ++x) {
        int count = 0;
        for (int dz = -1; dz <= 1; ++dz)
          for (int dx = -1; dx <= 1; ++dx) {
            if (dx == 0 && dz == 0) continue;
            const int i = x + dx, k = z + dz;
            if (i < 0 || k < 0 || i >= side_ || k >= side_)
              ++count;
            else
              count += now_[static_cast<size_t>(k * side_ + i)];
          }
        next_[static_cast<size_t>(z * side_ + x)] = rule_.applies(at(x, z), count);
      }
    now_.swap(next_);
  }

 private:
  int side_;
  AutomatonRule rule_;
  std::vector<uint8_t> now_, next_;
};

void print() {
  constexpr int kSide = 512, kSteps = 8;
  const AutomatonRule rule = *readRule("B678/S345678", AutomatonRule::kPlane, "");
  BitGrid grid(kSide, kSide);
  TextbookAutomaton book(kSide, rule);
  uint64_t state = 5;
  for (int z = 0; z < kSide; ++z)
    for (int x = 0; x < kSide; ++x) {
      state = state * 6364136223846793005u + 1442695040888963407u;
      const bool solid = state >> 33 & 1;
      grid.set(x, z, solid);
      book.set(x, z, solid);
    }
  Automaton automaton(rule, GridEdge::Filled, 1);
  BitGrid check = grid;
  automaton.run(check, 3);
  TextbookAutomaton other = book;
  for (int n = 0; n < 3; ++n) other.step();
  for (int z = 0; z < kSide; ++z)
    for (int x = 0; x < kSide; ++x)
      if (check.at(x, z) != other.at(x, z)) {
        std::printf("the automata differ at %d, %d\n", x, z);
        return;
      }
  const Pair p = inTurn(
      9,
      [&] {
        automaton.run(grid, kSteps);
        benchmark::DoNotOptimize(grid);
      },
      [&] {
        for (int n = 0; n < kSteps; ++n) book.step();
        benchmark::DoNotOptimize(book);
      });
  const double cells = double{kSide} * kSide * kSteps;
  std::printf(
      "\nautomaton, plane of %d x %d, a step: %.3f ns a cell, textbook %.2f: %.0fx (%.0f to %.0f), "
      "target 40x\n",
      kSide, kSide, p.ours / cells * 1e9, p.textbook / cells * 1e9, p.ratio(), p.low, p.high);
  BitGrid volume(128, 128, 128);
  Automaton solid(*readRule("B14-26/S13-26", AutomatonRule::kVolume, ""), GridEdge::Filled, 128);
  for (int y = 0; y < 128; ++y)
    for (int z = 0; z < 128; ++z)
      for (int x = 0; x < 128; ++x) {
        state = state * 6364136223846793005u + 1442695040888963407u;
        volume.set(x, z, y, state >> 33 & 1);
      }
  const double seconds = secondsOf([&] { solid.run(volume, 4); });
  std::printf("automaton, volume of 128 a side, a step: %.3f ns a cell\n",
      seconds / 4 / (128.0 * 128 * 128) * 1e9);
}

/// The caves of swallet-edge, cell by cell, in ground that is there: two noises of two octaves,
/// bores stretch by stretch, an automaton that is there already, and what lines them.
class TextbookCaves {
 public:
  explicit TextbookCaves(const CaveStage& caves) : caves_(caves), floor_(256, AutomatonRule{}) {}

  void dig(int x0, int y0, int z0, MaterialIndex* cells) {
    constexpr int kWide = kSide + 2;
    std::vector<uint8_t> held(kWide * kWide * kWide);
    const auto place = [&](int x, int y, int z) -> uint8_t& {
      return held[static_cast<size_t>(((y + 1) * kWide + z + 1) * kWide + x + 1)];
    };
    const auto fbm = [&](const textbook::Noise& noise, int x, int y, int z) {
      const float fx = static_cast<float>(x) / 60, fy = static_cast<float>(y) / 60,
                  fz = static_cast<float>(z) / 60;
      return noise.gradient3(fx, fy, fz) + 0.5f * noise.gradient3(fx * 2, fy * 2, fz * 2);
    };
    for (int y = -1; y <= kSide; ++y)
      for (int z = -1; z <= kSide; ++z)
        for (int x = -1; x <= kSide; ++x) {
          if (std::abs(fbm(first_, x0 + x, y0 + y, z0 + z)) < 0.06f &&
              std::abs(fbm(second_, x0 + x, y0 + y, z0 + z)) < 0.075f)
            place(x, y, z) = 1;
          if (y0 + y >= -58 && y0 + y < -54 && !floor_.at((x0 + x) & 255, (z0 + z) & 255))
            place(x, y, z) = 1;
        }
    std::vector<TunnelStage::Handle> systems;
    caves_.tunnels().front().stage->systemsNear({x0, z0, kSide, kSide}, systems);
    for (const auto& system : systems)
      for (const Passage& passage : system->passages)
        for (size_t k = 0; k + 1 < passage.points.size(); ++k)
          bore(*system, passage.points[k], passage.points[k + 1], x0, y0, z0, place);
    for (int y = 0; y < kSide; ++y)
      for (int z = 0; z < kSide; ++z)
        for (int x = 0; x < kSide; ++x) {
          MaterialIndex& cell = cells[(y * kSide + z) * kSide + x];
          if (cell == kOpen) continue;
          if (place(x, y, z))
            cell = kOpen;
          else if (place(x, y + 1, z))
            cell = 7;
          else if (place(x - 1, y, z) || place(x + 1, y, z) || place(x, y, z - 1) ||
                   place(x, y, z + 1) || place(x, y - 1, z))
            cell = 8;
        }
  }

 private:
  template <class Place>
  void bore(const TunnelSystem& s, const BorePoint& a, const BorePoint& b, int x0, int y0, int z0,
      Place&& place) const {
    const float far = std::max(a.radius, b.radius) * 1.25f + 1;
    const auto range = [&](float p, float q, int64_t site, int first) {
      const auto at = static_cast<float>(site - first);
      return std::pair(std::max(-1, static_cast<int>(std::floor(std::min(p, q) - far + at))),
          std::min(kSide, static_cast<int>(std::ceil(std::max(p, q) + far + at))));
    };
    const auto [xa, xb] = range(a.x, b.x, s.x, x0);
    const auto [ya, yb] = range(a.y, b.y, s.y, y0);
    const auto [za, zb] = range(a.z, b.z, s.z, z0);
    const float ax = b.x - a.x, ay = b.y - a.y, az = b.z - a.z;
    for (int y = ya; y <= yb; ++y)
      for (int z = za; z <= zb; ++z)
        for (int x = xa; x <= xb; ++x) {
          const float px = static_cast<float>(x0 + x - s.x) + 0.5f - a.x;
          const float py = static_cast<float>(y0 + y - s.y) + 0.5f - a.y;
          const float pz = static_cast<float>(z0 + z - s.z) + 0.5f - a.z;
          const float t = std::min(
              1.0f, std::max(0.0f, (px * ax + py * ay + pz * az) / (ax * ax + ay * ay + az * az)));
          const float dx = px - ax * t, dy = py - ay * t, dz = pz - az * t;
          const float n = walls_.gradient3(static_cast<float>(x0 + x) / 6,
              static_cast<float>(y0 + y) / 6, static_cast<float>(z0 + z) / 6);
          const float r = (a.radius + (b.radius - a.radius) * t) * (1 + 0.25f * n);
          if (std::sqrt(dx * dx + dy * dy + dz * dz) <= r) place(x, y, z) = 1;
        }
  }

  const CaveStage& caves_;
  TextbookAutomaton floor_;
  textbook::Noise first_{11}, second_{12}, walls_{13};
};

void printCaves() {
  const Kernels& table = tableOr("avx2");
  EngineOptions options;
  options.simd = table.name;
  const auto engine = std::move(Engine::create(options)).value();
  const Recipe recipe = loadRecipe("swallet-edge").value();
  const auto world = engine->compile(recipe).value();
  const ChunkLayout& layout = world->layout();
  const TextbookGround ground(recipe);
  TextbookCaves caves(*world->caves());

  // Chunks that hold the surface, near systems that are known to both; each round takes others, so
  // that nothing of the chunks themselves is remembered.
  std::vector<ChunkPos> surface;
  const auto found = findSystems(*world, {0, 0}, 6000).value();
  for (size_t k = 0; k < found.size() && surface.size() < 48; ++k) {
    const Cell cell{found[k].system->x, found[k].system->z};
    ChunkPos pos = layout.chunkOf(cell);
    pos.cy = layout.chunkOfLevel(
        static_cast<int64_t>(std::floor(world->columns().heightAt(cell))) - 12, 0);
    surface.push_back(pos);
  }
  std::vector<MaterialIndex> room(kSide * kSide * kSide);
  int64_t round = 0, book = 0;
  const auto moved = [](ChunkPos pos, int64_t by) {
    pos.cx += by % 3 - 1;
    pos.cz += by / 3 % 3 - 1;
    return pos;
  };
  const Pair p = inTurn(
      7,
      [&] {
        for (const ChunkPos pos : surface)
          benchmark::DoNotOptimize(world->chunk(moved(pos, round)));
        ++round;
      },
      [&] {
        for (const ChunkPos at : surface) {
          const ChunkPos pos = moved(at, book);
          const int x = static_cast<int>(pos.cx) * kSide, y = static_cast<int>(pos.cy) * kSide,
                    z = static_cast<int>(pos.cz) * kSide;
          ground.chunk(x, y, z, room.data());
          caves.dig(x, y, z, room.data());
          benchmark::DoNotOptimize(room.data());
        }
        ++book;
      });
  const auto chunks = static_cast<double>(surface.size());
  std::printf(
      "\nsurface chunk of swallet-edge with all its caves and ores, table %s: %.0f us, textbook "
      "%.0f us: %.1fx (%.1f to %.1f), target 8x, 250 us\n",
      table.name, p.ours / chunks * 1e6, p.textbook / chunks * 1e6, p.ratio(), p.low, p.high);
  StageTimes times;
  for (const ChunkPos pos : surface) (void)world->chunk(moved(pos, 8), {}, &times);
  std::printf(
      "  of it: heights %.1f, biomes %.1f, strata %.1f, caves %.1f, packing "
      "%.1f us\n",
      times[StageId::Heights] / chunks * 1e3, times[StageId::Biomes] / chunks * 1e3,
      times[StageId::Strata] / chunks * 1e3, times[StageId::Caves] / chunks * 1e3,
      times.packing / chunks * 1e3);

  std::vector<double> seconds;
  size_t systems = 0;
  for (int n = 0; n < 5; ++n) {
    const auto fresh = std::move(Engine::create(options)).value();
    const auto other = fresh->compile(recipe).value();
    seconds.push_back(secondsOf([&] { systems = findSystems(*other, {0, 0}, 2000)->size(); }));
  }
  std::sort(seconds.begin(), seconds.end());
  std::printf("finding all %zu systems within 2,000 cells: %.0f ms (%.0f to %.0f), about 150\n",
      systems, seconds[2] * 1e3, seconds.front() * 1e3, seconds.back() * 1e3);
  const double measured = secondsOf([&] {
    for (const FoundSystem& one : found) benchmark::DoNotOptimize(figuresOf(*world, one));
  });
  std::printf(
      "measuring one of them: %.2f ms\n", measured / static_cast<double>(found.size()) * 1e3);
}

}  // namespace
}  // namespace bench

int main() {
  bench::print();
  bench::printCaves();
}
