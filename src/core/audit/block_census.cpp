#include "audit/block_census.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <map>
#include <mutex>
#include <set>

#include "base/parallel.h"
#include "cave/caves.h"
#include "recipe/edits.h"
#include "strata/blocks.h"
#include "world/block_value.h"
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

namespace {

/// Columns that one thread counts.
struct Square {
  int64_t x, z;
  int32_t width, depth;
};

/// What the squares come to. Sums of whole numbers do not depend on the order.
struct Sums {
  std::vector<uint64_t> counts;  // Blocks by slice and material; open ones last.
  std::vector<uint64_t> ores;    // Blocks of each ore that shares its material.
  std::vector<CaveFigures> caves;
  uint64_t ground = 0, steps = 0, filled = 0;

  void add(const Sums& other) {
    for (size_t i = 0; i < counts.size(); ++i) counts[i] += other.counts[i];
    for (size_t i = 0; i < ores.size(); ++i) ores[i] += other.ores[i];
    for (size_t p = 0; p < caves.size(); ++p) {
      caves[p].cells += other.caves[p].cells;
      caves[p].flooded += other.caves[p].flooded;
    }
    ground += other.ground;
    steps += other.steps;
    filled += other.filled;
  }
};

/// Counts the blocks of squares.
class Counter {
 public:
  Counter(const World& world, int slices)
      : world_(world),
        range_(world.vertical()),
        slices_(slices),
        materials_(world.recipe().materials.size() + 1) {
    const Recipe& recipe = world.recipe();
    std::map<std::string, int> users;
    for (const Ore& ore : recipe.ores)
      if (ore.on) ++users[ore.material];
    shared_.resize(materials_);
    for (size_t i = 0; i < recipe.materials.size(); ++i)
      shared_[i + 1] = users[recipe.materials[i].id] > 1;
  }

  Sums none() const {
    Sums out;
    out.counts.resize(static_cast<size_t>(slices_) * (materials_ + 1));
    out.ores.resize(world_.recipe().ores.size());
    if (const CaveStage* caves = world_.caves())
      for (const auto& part : caves->parts()) out.caves.push_back({part.id, part.part, 0, 0});
    return out;
  }
  AxisBounds sliceAt(int slice) const {
    const int64_t low = range_.extent * slice / slices_,
                  high = range_.extent * (slice + 1) / slices_;
    return {range_.min + low, high - low};
  }
  bool shared(MaterialIndex material) const { return shared_[material]; }

  /// The error of whatever could not be had.
  Result<Sums> count(const Square& square, const std::stop_token& stop) const {
    Sums out = none();
    // One column more to the east and south, for the steps.
    const int32_t wide = square.width + 1, deep = square.depth + 1;
    std::vector<int64_t> tops(
        static_cast<size_t>(wide) * static_cast<size_t>(deep), range_.min - 1);
    for (int slice = 0; slice < slices_; ++slice) {
      const AxisBounds levels = sliceAt(slice);
      for (int64_t y = 0; y < levels.extent; y += kLevels) {
        const SampleBlock block{square.x, levels.min + y, square.z, 1, wide,
            static_cast<int32_t>(std::min<int64_t>(kLevels, levels.extent - y)), deep};
        if (const Status made = countBlocks(square, block, slice, tops, out, stop); !made)
          return made.error();
        if (const Status made = countCaves(square, block, out, stop); !made) return made.error();
      }
    }
    if (const Status made = countGround(square, out, stop); !made) return made.error();
    countSteps(square, tops, out);
    return out;
  }

 private:
  static constexpr int32_t kLevels = 32;

  Status countBlocks(const Square& square, const SampleBlock& block, int slice,
      std::vector<int64_t>& tops, Sums& out, const std::stop_token& stop) const {
    std::vector<MaterialIndex> blocks(static_cast<size_t>(block.width) *
                                      static_cast<size_t>(block.height) *
                                      static_cast<size_t>(block.length));
    if (Status made = world_.sampleBlocks(block, blocks.data(), stop); !made) return made;
    uint64_t* counts = out.counts.data() + static_cast<size_t>(slice) * (materials_ + 1);
    size_t at = 0;
    for (int32_t j = 0; j < block.height; ++j)
      for (int32_t k = 0; k < block.length; ++k)
        for (int32_t i = 0; i < block.width; ++i, ++at) {
          const MaterialIndex m = blocks[at];
          if (m == kOutside) continue;
          const int64_t y = block.y + j;
          if (m < kOpen && m != world_.blocks()->water())
            tops[static_cast<size_t>(k * block.width + i)] = y;
          if (i == square.width || k == square.depth) continue;
          ++counts[m == kOpen ? materials_ : m];
          if (m >= kOpen || !shared_[m]) continue;
          const int ore = world_.blockAt({square.x + i, square.z + k}, y).ore;
          if (ore >= 0) ++out.ores[static_cast<size_t>(ore)];
        }
    return done();
  }

  Status countCaves(const Square& square, const SampleBlock& block, Sums& out,
      const std::stop_token& stop) const {
    if (out.caves.empty()) return done();
    std::vector<uint16_t> held(static_cast<size_t>(square.width) *
                               static_cast<size_t>(square.depth) *
                               static_cast<size_t>(block.height));
    if (Status made = world_.ground().caves(
            {block.x, block.y, block.z, 1, square.width, block.height, square.depth}, held.data(),
            stop);
        !made)
      return made;
    for (const uint16_t mark : held) {
      if (mark == 0) continue;
      CaveFigures& part = out.caves[(mark & ~CaveStage::kFlooded) - size_t{1}];
      ++part.cells;
      part.flooded += (mark & CaveStage::kFlooded) != 0;
    }
    return done();
  }

  Status countGround(const Square& square, Sums& out, const std::stop_token& stop) const {
    if (out.caves.empty()) return done();
    std::vector<float> heights(
        static_cast<size_t>(square.width) * static_cast<size_t>(square.depth));
    if (Status made = world_.sample(
            {square.x, square.z, 1, square.width, square.depth}, heights.data(), nullptr, stop);
        !made)
      return made;
    for (const float h : heights)
      out.ground += static_cast<uint64_t>(
          std::clamp<int64_t>(static_cast<int64_t>(std::floor(h)) - range_.min, 0, range_.extent));
    return done();
  }

  void countSteps(const Square& square, const std::vector<int64_t>& tops, Sums& out) const {
    const int32_t wide = square.width + 1;
    for (int32_t k = 0; k < square.depth; ++k)
      for (int32_t i = 0; i < square.width; ++i)
        for (const auto& [di, dk] : {std::pair(1, 0), std::pair(0, 1)}) {
          if (!world_.bounds().contains({square.x + i + di, square.z + k + dk})) continue;
          const int64_t apart = std::abs(tops[static_cast<size_t>(k * wide + i)] -
                                         tops[static_cast<size_t>((k + dk) * wide + i + di)]);
          if (apart < 2) continue;
          ++out.steps;
          out.filled += static_cast<uint64_t>(apart - 1);
        }
  }

  const World& world_;
  AxisBounds range_;
  int slices_;
  size_t materials_;
  std::vector<bool> shared_;  // By material: several ores are made of it.
};

/// What was asked of each ore that is on, and found.
std::vector<OreFigures> oreFigures(
    const Recipe& recipe, const BlockCensus& census, const Counter& counter, const Sums& sums) {
  const auto indexOf = [&](const std::string& id) -> MaterialIndex {
    for (size_t i = 0; i < recipe.materials.size(); ++i)
      if (recipe.materials[i].id == id) return static_cast<MaterialIndex>(i + 1);
    return kUnassigned;
  };
  const auto volumeOf = [&](MaterialIndex material) -> uint64_t {
    const auto found = census.volumes.find(material);
    return found == census.volumes.end() ? 0 : found->second;
  };
  const auto foundOf = [&](size_t ore) {
    const MaterialIndex material = indexOf(recipe.ores[ore].material);
    return counter.shared(material) ? sums.ores[ore] : volumeOf(material);
  };
  // Host rock that is left, and what those ores took whose hosts are all among this one's.
  const auto hosts = [&](const Ore& o) {
    std::set<std::string> ids(o.hosts.begin(), o.hosts.end());
    if (ids.empty())
      for (const Bed& bed : recipe.rock.beds) ids.insert(bed.material);
    return ids;
  };
  std::vector<OreFigures> out;
  for (size_t i = 0; i < recipe.ores.size(); ++i) {
    const Ore& ore = recipe.ores[i];
    if (!ore.on || !recipe.strataOn) continue;
    OreFigures f{ore.id, ore.material, ore.share, foundOf(i), 0};
    for (const Material& m : recipe.materials)
      if (m.id == ore.material) f.name = m.name;
    const auto own = hosts(ore);
    for (const std::string& id : own) f.hosts += volumeOf(indexOf(id));
    for (size_t k = 0; k < recipe.ores.size(); ++k) {
      if (!recipe.ores[k].on) continue;
      const auto theirs = hosts(recipe.ores[k]);
      if (std::includes(own.begin(), own.end(), theirs.begin(), theirs.end()))
        f.hosts += foundOf(k);
    }
    out.push_back(std::move(f));
  }
  return out;
}

}  // namespace

Result<BlockCensus> censusOfBlocks(const World& world, const Rect& asked, int slices,
    const std::stop_token& stop, const std::function<void(double)>& progress) {
  if (!world.blocks())
    return Error{Error::Code::InvalidInput, "this world is made of tiles", "census",
        "a world of the kind voxel or side"};
  const AxisBounds range = world.vertical();
  constexpr int64_t kMost = int64_t{1} << 34, kMostSlices = 256;
  const int64_t side = kMost / range.extent;
  if (asked.width < 1 || asked.length < 1 || asked.width > side ||
      asked.length > side / asked.width)
    return Error{Error::Code::InvalidInput,
        fmt::format("{} x {} columns of {} blocks", asked.width, asked.length, range.extent),
        "--area", "1 to 2^34 blocks"};
  BlockCensus out;
  out.area = intersection(asked, world.bounds());
  if (out.area.empty()) return out;
  slices = static_cast<int>(std::clamp<int64_t>(slices, 1, std::min(range.extent, kMostSlices)));
  constexpr int64_t kSquare = 64;
  const int64_t right = out.area.x + out.area.width, far = out.area.z + out.area.length;
  std::vector<Square> squares;
  for (int64_t z = out.area.z; z < far; z += kSquare)
    for (int64_t x = out.area.x; x < right; x += kSquare)
      squares.push_back({x, z, static_cast<int32_t>(std::min(kSquare, right - x)),
          static_cast<int32_t>(std::min(kSquare, far - z))});
  const Counter counter(world, slices);
  Sums sums = counter.none();
  std::mutex mutex;
  std::optional<Error> first;
  parallelFor(static_cast<int32_t>(squares.size()), [&](int32_t s) {
    {
      const std::lock_guard lock(mutex);
      if (first || stop.stop_requested()) return;
    }
    const auto own = counter.count(squares[static_cast<size_t>(s)], stop);
    const std::lock_guard lock(mutex);
    if (own)
      sums.add(*own);
    else if (!first)
      first = own.error();
  });
  if (stop.stop_requested()) return cancelled();
  if (first) return *first;
  if (progress) progress(1);

  out.caves = std::move(sums.caves);
  out.ground = sums.ground;
  out.steps = sums.steps;
  out.filled = sums.filled;
  out.columns = static_cast<uint64_t>(out.area.width) * static_cast<uint64_t>(out.area.length);
  out.blocks = out.columns * static_cast<uint64_t>(range.extent);
  const size_t kinds = sums.counts.size() / static_cast<size_t>(slices);
  for (int s = slices; s-- > 0;) {
    const AxisBounds levels = counter.sliceAt(s);
    DepthSlice slice{levels.min, levels.min + levels.extent, {}};
    for (size_t m = 0; m < kinds; ++m)
      if (const uint64_t n = sums.counts[static_cast<size_t>(s) * kinds + m]) {
        const MaterialIndex material = m + 1 == kinds ? kOpen : static_cast<MaterialIndex>(m);
        slice.blocks[material] += n;
        out.volumes[material] += n;
      }
    out.slices.push_back(std::move(slice));
  }
  out.ores = oreFigures(world.recipe(), out, counter, sums);
  if (world.edits())
    world.edits()->eachIn(
        {out.area.x, range.min, out.area.z, 1, static_cast<int32_t>(out.area.width),
            static_cast<int32_t>(range.extent), static_cast<int32_t>(out.area.length)},
        [&](int64_t, int64_t, int64_t, uint16_t) { ++out.edited; });
  return out;
}

}  // namespace acre
