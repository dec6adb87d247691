#include "audit/block_census.h"

#include <fmt/format.h>
#include <tbb/blocked_range.h>
#include <tbb/parallel_for.h>

#include <algorithm>
#include <atomic>
#include <cmath>
#include <mutex>
#include <set>

#include "cave/caves.h"
#include "recipe/edits.h"
#include "strata/blocks.h"
#include "world/world.h"

namespace acre {

Rect sampleVolume(const World& world) {
  constexpr int64_t kMostBlocks = int64_t{1} << 25;
  const int64_t columns = kMostBlocks / world.vertical().extent;
  if (world.layout().vertical().plane) {
    const int64_t width = std::clamp<int64_t>(columns, 256, 8192);
    return {-width / 2, 0, width, 1};
  }
  const auto side =
      std::clamp<int64_t>(static_cast<int64_t>(std::sqrt(static_cast<double>(columns))), 16, 256);
  return {-side / 2, -side / 2, side, side};
}

Result<BlockCensus> censusOfBlocks(const World& world, const Rect& asked, int slices,
                                   const std::stop_token& stop,
                                   const std::function<void(double)>& progress) {
  if (!world.blocks())
    return Error{Error::Code::InvalidInput, "this world is made of tiles", "census",
                 "a world of the kind voxel or side"};
  const AxisBounds range = world.vertical();
  constexpr int64_t kMost = int64_t{1} << 34;
  const int64_t side = kMost / range.extent;
  if (asked.width < 1 || asked.height < 1 || asked.width > side ||
      asked.height > side / asked.width)
    return Error{
        Error::Code::InvalidInput,
        fmt::format("{} x {} columns of {} blocks", asked.width, asked.height, range.extent),
        "--area", "1 to 2^34 blocks"};
  BlockCensus out;
  out.area = intersection(asked, world.bounds());
  if (out.area.empty()) return out;
  slices = static_cast<int>(std::clamp<int64_t>(slices, 1, range.extent));
  const size_t materials = world.recipe().materials.size() + 1;
  // Squares of columns, each counted by one thread; sums of whole numbers do not depend on the
  // order.
  constexpr int32_t kSquare = 64;
  struct Square {
    int64_t x, z;
    int32_t width, depth;
  };
  std::vector<Square> squares;
  for (int64_t z = out.area.z; z < out.area.z + out.area.height; z += kSquare)
    for (int64_t x = out.area.x; x < out.area.x + out.area.width; x += kSquare)
      squares.push_back(
          {x, z, static_cast<int32_t>(std::min<int64_t>(kSquare, out.area.x + out.area.width - x)),
           static_cast<int32_t>(std::min<int64_t>(kSquare, out.area.z + out.area.height - z))});
  std::vector<uint64_t> counts(static_cast<size_t>(range.extent) * (materials + 1));
  const size_t parts = world.caves() ? world.caves()->parts().size() : 0;
  for (size_t p = 0; p < parts; ++p)
    out.caves.push_back({world.caves()->parts()[p].id, world.caves()->parts()[p].part, 0, 0});
  std::mutex mutex;
  std::optional<Error> first;
  std::atomic<size_t> finished{0};
  tbb::parallel_for(tbb::blocked_range<size_t>(0, squares.size(), 1), [&](const auto& part) {
    for (size_t s = part.begin(); s < part.end(); ++s) {
      if (stop.stop_requested()) return;
      const Square& q = squares[s];
      // One column more to the east and south, for the steps.
      const int32_t wide = q.width + 1, deep = q.depth + 1;
      std::vector<int64_t> tops(static_cast<size_t>(wide) * static_cast<size_t>(deep),
                                range.min - 1);
      std::vector<uint64_t> own(counts.size());
      std::vector<uint64_t> dug(2 * parts);
      uint64_t ground = 0;
      std::vector<uint16_t> held;
      constexpr int32_t kLevels = 32;
      std::vector<MaterialIndex> blocks(static_cast<size_t>(wide) * static_cast<size_t>(deep) *
                                        kLevels);
      for (int64_t y = range.min; y < range.min + range.extent; y += kLevels) {
        const auto tall =
            static_cast<int32_t>(std::min<int64_t>(kLevels, range.min + range.extent - y));
        if (const Status made =
                world.sampleBlocks({q.x, y, q.z, 1, wide, tall, deep}, blocks.data(), stop);
            !made) {
          const std::lock_guard lock(mutex);
          if (!first) first = made.error();
          return;
        }
        if (parts > 0) {
          held.resize(static_cast<size_t>(q.width) * static_cast<size_t>(q.depth) *
                      static_cast<size_t>(tall));
          if (!world.sampleCaves({q.x, y, q.z, 1, q.width, tall, q.depth}, held.data(), stop))
            return;
          for (const uint16_t mark : held) {
            if (mark == 0) continue;
            const size_t place = (mark & ~CaveStage::kFlooded) - size_t{1};
            ++dug[2 * place];
            dug[2 * place + 1] += (mark & CaveStage::kFlooded) != 0;
          }
        }
        for (int32_t j = 0; j < tall; ++j)
          for (int32_t k = 0; k < deep; ++k)
            for (int32_t i = 0; i < wide; ++i) {
              const MaterialIndex m = blocks[static_cast<size_t>((j * deep + k) * wide + i)];
              if (m == kOutside) continue;
              if (m < kOpen && m != world.blocks()->water())
                tops[static_cast<size_t>(k * wide + i)] = y + j;
              if (i == q.width || k == q.depth) continue;
              const size_t place = m == kOpen ? materials : m;
              ++own[static_cast<size_t>(y + j - range.min) * (materials + 1) + place];
            }
      }
      if (parts > 0) {
        std::vector<float> heights(static_cast<size_t>(q.width) * static_cast<size_t>(q.depth));
        if (!world.sample({q.x, q.z, 1, q.width, q.depth}, heights.data(), nullptr, stop)) return;
        for (const float h : heights)
          ground += static_cast<uint64_t>(std::clamp<int64_t>(
              static_cast<int64_t>(std::floor(h)) - range.min, 0, range.extent));
      }
      uint64_t steps = 0, filled = 0;
      for (int32_t k = 0; k < q.depth; ++k)
        for (int32_t i = 0; i < q.width; ++i) {
          const int64_t here = tops[static_cast<size_t>(k * wide + i)];
          for (const auto& [di, dk] : {std::pair(1, 0), std::pair(0, 1)}) {
            if (!world.bounds().contains({q.x + i + di, q.z + k + dk})) continue;
            const int64_t apart =
                std::abs(here - tops[static_cast<size_t>((k + dk) * wide + i + di)]);
            if (apart < 2) continue;
            ++steps;
            filled += static_cast<uint64_t>(apart - 1);
          }
        }
      {
        const std::lock_guard lock(mutex);
        for (size_t i = 0; i < counts.size(); ++i) counts[i] += own[i];
        out.steps += steps;
        out.filled += filled;
        out.ground += ground;
        for (size_t p = 0; p < parts; ++p) {
          out.caves[p].cells += dug[2 * p];
          out.caves[p].flooded += dug[2 * p + 1];
        }
      }
      ++finished;
    }
  });
  if (first) return *first;
  if (stop.stop_requested()) return cancelled();
  if (progress) progress(1);

  out.columns = static_cast<uint64_t>(out.area.width) * static_cast<uint64_t>(out.area.height);
  out.blocks = out.columns * static_cast<uint64_t>(range.extent);
  const auto add = [&](std::map<MaterialIndex, uint64_t>& to, size_t level) {
    for (size_t m = 0; m <= materials; ++m)
      if (const uint64_t n = counts[level * (materials + 1) + m])
        to[m == materials ? kOpen : static_cast<MaterialIndex>(m)] += n;
  };
  for (int s = slices; s-- > 0;) {
    DepthSlice slice;
    slice.low = range.min + range.extent * s / slices;
    slice.high = range.min + range.extent * (s + 1) / slices;
    for (int64_t y = slice.low; y < slice.high; ++y) {
      add(slice.blocks, static_cast<size_t>(y - range.min));
      add(out.volumes, static_cast<size_t>(y - range.min));
    }
    out.slices.push_back(std::move(slice));
  }
  const Recipe& recipe = world.recipe();
  const auto volumeOf = [&](const std::string& id) -> uint64_t {
    for (size_t i = 0; i < recipe.materials.size(); ++i)
      if (recipe.materials[i].id == id)
        if (const auto found = out.volumes.find(static_cast<MaterialIndex>(i + 1));
            found != out.volumes.end())
          return found->second;
    return 0;
  };
  for (const Ore& ore : recipe.ores) {
    if (!ore.on || !recipe.strataOn) continue;
    OreFigures f{ore.id, ore.material, ore.share, volumeOf(ore.material), 0};
    for (const Material& m : recipe.materials)
      if (m.id == ore.material) f.name = m.name;
    // Host rock that is left, and what those ores took whose hosts are all among this one's.
    const auto hosts = [&](const Ore& o) {
      std::set<std::string> ids(o.hosts.begin(), o.hosts.end());
      if (ids.empty())
        for (const Bed& bed : recipe.rock.beds) ids.insert(bed.material);
      return ids;
    };
    const auto own = hosts(ore);
    for (const std::string& id : own) f.hosts += volumeOf(id);
    for (const Ore& other : recipe.ores) {
      if (!other.on) continue;
      const auto theirs = hosts(other);
      if (std::includes(own.begin(), own.end(), theirs.begin(), theirs.end()))
        f.hosts += volumeOf(other.material);
    }
    out.ores.push_back(std::move(f));
  }
  if (world.edits())
    world.edits()->eachIn(
        {out.area.x, range.min, out.area.z, 1, static_cast<int32_t>(out.area.width),
         static_cast<int32_t>(range.extent), static_cast<int32_t>(out.area.height)},
        [&](int64_t, int64_t, int64_t, uint16_t) { ++out.edited; });
  return out;
}

}  // namespace acre
