#include "audit/area_census.h"

#include <fmt/format.h>

#include <algorithm>
#include <atomic>
#include <unordered_map>

#include "base/fp_state.h"
#include "base/parallel.h"
#include "climate/biomes.h"
#include "field/distribution.h"
#include "recipe/edits.h"
#include "recipe/validate.h"
#include "world/world.h"

namespace acre {
namespace {

/// Heights and materials as they come.
struct Tally {
  std::vector<uint64_t> materials;
  uint64_t open = 0;  ///< Columns that hold nothing at all.
  uint64_t cells = 0;
  std::optional<Cell> firstHole;
  float low = 0, high = 0;
  double sum = 0;

  explicit Tally(const World& world) : materials(world.recipe().materials.size() + 1) {}

  void add(Cell cell, float height, MaterialIndex material) {
    if (material == kOutside) return;
    low = cells ? std::min(low, height) : height;
    high = cells ? std::max(high, height) : height;
    sum += static_cast<double>(height);
    ++cells;
    ++(material == kOpen ? open : materials[material]);
    if (material == kUnassigned && !firstHole) firstHole = cell;
  }
  /// What a part that lies after this one found.
  void add(const Tally& later) {
    if (later.cells) {
      low = cells ? std::min(low, later.low) : later.low;
      high = cells ? std::max(high, later.high) : later.high;
    }
    sum += later.sum;
    cells += later.cells;
    for (size_t i = 0; i < materials.size(); ++i) materials[i] += later.materials[i];
    open += later.open;
    if (!firstHole) firstHole = later.firstHole;
  }

  AreaCensus finish(const World& world) const {
    AreaCensus out;
    out.cells = cells;
    out.firstHole = firstHole;
    out.low = low;
    out.high = high;
    out.mean = cells ? sum / static_cast<double>(cells) : 0;
    out.unassigned = materials[kUnassigned];
    const auto share = [&](uint64_t n) {
      return cells ? static_cast<double>(n) / static_cast<double>(cells) : 0.0;
    };
    const auto& list = world.recipe().materials;
    for (size_t i = 0; i < list.size(); ++i)
      out.materials.push_back(
          {list[i].id, list[i].name, materials[i + 1], share(materials[i + 1])});
    if (out.unassigned)
      out.materials.push_back({kUnassignedId, "Unassigned", out.unassigned, share(out.unassigned)});
    if (open) out.materials.push_back({kOpenId, "Open", open, share(open)});
    return out;
  }
};

/// Joins cells of equal labels into pieces, row by row, by runs: memory grows with the number of
/// pieces, not with the area.
class Pieces {
 public:
  struct Piece {
    uint32_t label;
    uint32_t parent;
    uint64_t cells;
    bool rim;  ///< Touches the edge of the area.
  };

  /// labels: `width` of one row. onEdge(a, b, sides): two labels with a border in common.
  template <class OnEdge>
  void addRow(const uint32_t* labels, int64_t width, bool rimRow, OnEdge&& onEdge) {
    now_.clear();
    for (int64_t i = 0; i < width;) {
      int64_t end = i + 1;
      while (end < width && labels[end] == labels[i]) ++end;
      now_.push_back({i, end, labels[i], 0});
      i = end;
    }
    for (size_t k = 0; k + 1 < now_.size(); ++k) onEdge(now_[k].label, now_[k + 1].label, 1);
    size_t above = 0;
    for (Run& run : now_) {
      uint32_t piece = kNone;
      while (above < before_.size() && before_[above].end <= run.begin) ++above;
      for (size_t k = above; k < before_.size() && before_[k].begin < run.end; ++k) {
        const Run& other = before_[k];
        const int64_t common = std::min(run.end, other.end) - std::max(run.begin, other.begin);
        if (other.label != run.label) {
          onEdge(run.label, other.label, static_cast<uint64_t>(common));
        } else {
          piece = piece == kNone ? rootOf(other.piece) : join(piece, other.piece);
        }
      }
      if (piece == kNone) {
        piece = static_cast<uint32_t>(all_.size());
        all_.push_back({run.label, piece, 0, false});
      }
      run.piece = piece;
      all_[piece].cells += static_cast<uint64_t>(run.end - run.begin);
      all_[piece].rim = all_[piece].rim || rimRow || run.begin == 0 || run.end == width;
    }
    std::swap(now_, before_);
  }

  size_t count() const { return all_.size(); }

  /// Calls visit for every piece; rows are at an end.
  template <class Visit>
  void each(Visit&& visit) const {
    for (uint32_t i = 0; i < all_.size(); ++i)
      if (all_[i].parent == i) visit(all_[i]);
  }

 private:
  static constexpr uint32_t kNone = 0xFFFFFFFF;
  struct Run {
    int64_t begin, end;
    uint32_t label;
    uint32_t piece;
  };
  uint32_t rootOf(uint32_t piece) {
    while (all_[piece].parent != piece) {
      all_[piece].parent = all_[all_[piece].parent].parent;
      piece = all_[piece].parent;
    }
    return piece;
  }
  uint32_t join(uint32_t a, uint32_t b) {
    a = rootOf(a);
    b = rootOf(b);
    if (a == b) return a;
    if (b < a) std::swap(a, b);
    all_[b].parent = a;
    all_[a].cells += all_[b].cells;
    all_[a].rim = all_[a].rim || all_[b].rim;
    return a;
  }
  std::vector<Piece> all_;
  std::vector<Run> before_, now_;
};

/// Biomes by index; cells outside the world count as a label of their own that is left out.
class BiomeTally {
 public:
  explicit BiomeTally(const World& world)
      : world_(world),
        count_(world.recipe().biomes.list.size() + 2),
        shares_(count_),
        edges_(count_ * count_) {}

  void addRow(const BiomeIndex* biomes, Cell first, int64_t width, bool rimRow) {
    labels_.resize(static_cast<size_t>(width));
    for (int64_t i = 0; i < width; ++i) {
      const size_t label = labelOf(biomes[i]);
      labels_[static_cast<size_t>(i)] = static_cast<uint32_t>(label);
      BiomeShare& share = shares_[label];
      if (share.cells++ == 0) share.example = Cell{first.x + i, first.z};
    }
    pieces_.addRow(labels_.data(), width, rimRow, [&](uint32_t a, uint32_t b, uint64_t sides) {
      edges_[a * count_ + b] += sides;
      edges_[b * count_ + a] += sides;
    });
  }
  void addCell(BiomeIndex biome, Cell cell) {
    BiomeShare& share = shares_[labelOf(biome)];
    if (share.cells++ == 0) share.example = cell;
  }

  size_t pieceCount() const { return pieces_.count(); }

  std::vector<BiomeShare> finish(uint64_t cells) {
    pieces_.each([&](const Pieces::Piece& piece) {
      BiomeShare& share = shares_[piece.label];
      ++share.pieces;
      share.largest = std::max(share.largest, piece.cells);
    });
    std::vector<BiomeShare> out;
    const auto& list = world_.recipe().biomes.list;
    for (size_t label = 1; label <= list.size() + 1; ++label) {
      const bool none = label > list.size();  // Those without a biome come last.
      const size_t index = none ? 0 : label;
      BiomeShare share = shares_[index];
      if (none && share.cells == 0) break;
      share.index = static_cast<BiomeIndex>(index);
      share.id = none ? "none" : list[index - 1].id;
      share.name = none ? "No rule" : list[index - 1].name;
      share.share = cells ? static_cast<double>(share.cells) / static_cast<double>(cells) : 0;
      for (size_t other = 0; other <= list.size(); ++other)
        if (const uint64_t sides = edges_[index * count_ + other]; sides && other != index)
          share.neighbours.push_back({static_cast<BiomeIndex>(other), sides});
      std::stable_sort(share.neighbours.begin(), share.neighbours.end(),
          [](const Neighbour& a, const Neighbour& b) { return a.edges > b.edges; });
      out.push_back(std::move(share));
    }
    return out;
  }

 private:
  size_t labelOf(BiomeIndex biome) const { return biome == kOutsideBiome ? count_ - 1 : biome; }
  const World& world_;
  size_t count_;
  std::vector<BiomeShare> shares_;
  std::vector<uint64_t> edges_;
  std::vector<uint32_t> labels_;
  Pieces pieces_;
};

/// Sizes of regions from the pieces of equal hashes.
RegionSizes sizesOf(const Pieces& pieces, double size) {
  struct Region {
    uint64_t cells = 0, largest = 0, pieces = 0;
    bool rim = false;
  };
  std::unordered_map<uint32_t, Region> regions;
  pieces.each([&](const Pieces::Piece& piece) {
    Region& region = regions[piece.label];
    region.cells += piece.cells;
    region.largest = std::max(region.largest, piece.cells);
    ++region.pieces;
    region.rim = region.rim || piece.rim;
  });
  RegionSizes out;
  out.histogram.assign(RegionSizes::kBins, 0);
  uint64_t sum = 0;
  for (const auto& [hash, region] : regions) {
    if (region.rim) {
      ++out.cut;
      continue;
    }
    out.smallest = out.count ? std::min(out.smallest, region.cells) : region.cells;
    out.largest = std::max(out.largest, region.cells);
    ++out.count;
    sum += region.cells;
    out.islets += region.pieces - 1;
    out.isletCells += region.cells - region.largest;
    const double bin = static_cast<double>(region.cells) / (3 * size * size) * RegionSizes::kBins;
    ++out.histogram[static_cast<size_t>(std::min(bin, RegionSizes::kBins - 1.0))];
  }
  out.mean = out.count ? static_cast<double>(sum) / static_cast<double>(out.count) : 0;
  return out;
}

}  // namespace

Result<AreaCensus> censusOf(const World& world, const Rect& area, const CensusOptions& options) {
  constexpr int64_t kMost = int64_t{1} << 28;
  if (area.width < 1 || area.length < 1 || area.width > kMost || area.length > kMost / area.width)
    return Error{Error::Code::InvalidInput, fmt::format("{} x {} cells", area.width, area.length),
        "--area", "X,Z,WxH with 1 to 2^28 cells"};
  if (area.x < -limits::cell || area.x > limits::cell - area.width || area.z < -limits::cell ||
      area.z > limits::cell - area.length)
    return Error{Error::Code::InvalidInput, "the area leaves the world", "--area",
        "cells from -2^60 to 2^60"};
  const bool biomes = world.biomes() != nullptr;
  const bool regions = biomes && world.biomes()->hasRegions();
  Tally tally(world);
  BiomeTally biomeTally(world);
  Pieces regionPieces;

  // Strips of one tile's height (less, where rows are long) are made side by side, and joined row
  // by row.
  constexpr int64_t kStripCells = int64_t{1} << 21;
  const int64_t rows = std::clamp<int64_t>(kStripCells / area.width, 1, 256);
  const auto room = static_cast<size_t>(area.width * rows);
  std::vector<BiomeIndex> index(biomes ? room : 0);
  std::vector<uint32_t> hashes(regions ? room : 0);
  for (int64_t z = 0; z < area.length; z += rows) {
    const auto high = static_cast<int32_t>(std::min(rows, area.length - z));
    const auto tiles =
        static_cast<int32_t>((area.width + Kernels::kTileWidth - 1) / Kernels::kTileWidth);
    std::vector<Tally> parts(static_cast<size_t>(tiles), Tally(world));
    std::atomic<bool> stopped{false};
    parallelFor(options.threads, tiles, [&](int32_t tile) {
      const int64_t x = int64_t{tile} * Kernels::kTileWidth;
      const SampleGrid grid{area.x + x, area.z + z, 1,
          static_cast<int32_t>(std::min<int64_t>(Kernels::kTileWidth, area.width - x)), high};
      const auto count = static_cast<size_t>(grid.width) * static_cast<size_t>(grid.length);
      std::vector<float> heights(count);
      std::vector<MaterialIndex> materials(count);
      std::vector<BiomeIndex> tileBiomes(biomes ? count : 0);
      std::vector<uint32_t> tileHashes(regions ? count : 0);
      Land land;
      land.heights = heights.data();
      land.materials = materials.data();
      if (biomes) land.biomes = tileBiomes.data();
      if (regions) land.regions = tileHashes.data();
      if (!world.sample(grid, land, options.stop)) {
        stopped = true;
        return;
      }
      for (int32_t j = 0; j < grid.length; ++j)
        for (int32_t i = 0; i < grid.width; ++i) {
          const auto k =
              static_cast<size_t>(j) * static_cast<size_t>(grid.width) + static_cast<size_t>(i);
          parts[static_cast<size_t>(tile)].add({grid.x + i, grid.z + j}, heights[k], materials[k]);
        }
      for (int32_t j = 0; j < grid.length; ++j) {
        const ptrdiff_t from = ptrdiff_t{j} * grid.width, to = j * area.width + x;
        if (biomes) std::copy_n(tileBiomes.data() + from, grid.width, index.data() + to);
        if (regions) std::copy_n(tileHashes.data() + from, grid.width, hashes.data() + to);
      }
    });
    if (stopped) return cancelled();
    for (const Tally& part : parts) tally.add(part);
    for (int32_t j = 0; j < high; ++j) {
      const bool rim = z + j == 0 || z + j + 1 == area.length;
      if (biomes)
        biomeTally.addRow(index.data() + j * area.width, {area.x, area.z + z + j}, area.width, rim);
      if (regions)
        regionPieces.addRow(
            hashes.data() + j * area.width, area.width, rim, [](uint32_t, uint32_t, uint64_t) {});
    }
    constexpr size_t kMostPieces = size_t{1} << 25;
    if (std::max(biomeTally.pieceCount(), regionPieces.count()) > kMostPieces)
      return Error{Error::Code::ResourceExhausted, "the area falls into more than 2^25 pieces",
          "--area", "a smaller area"};
    if (options.progress)
      options.progress(static_cast<double>(z + high) / static_cast<double>(area.length));
  }
  AreaCensus out = tally.finish(world);
  if (biomes) out.biomes = biomeTally.finish(out.cells);
  if (regions) out.regions = sizesOf(regionPieces, world.biomes()->borderReach());
  return out;
}

SampleSites worldSites(const World& world) {
  const Recipe& recipe = world.recipe();
  double widest = world.heightField().widestFeature();
  const bool climate = recipe.climate.on && !world.biomes();
  for (const std::string& id : {climate ? kTemperatureId : recipe.biomes.x.field,
           climate ? kMoistureId : recipe.biomes.y.field})
    if (const Field* field = world.biomes() || climate ? world.field(id) : nullptr)
      widest = std::max(widest, field->widestFeature());
  return {recipe.frame.x, recipe.frame.z, widest, world.seed()};
}

std::optional<AreaCensus> censusOfSample(
    const World& world, const std::stop_token& stop, unsigned threads) {
  const SampleSites sites = worldSites(world);
  struct Part {
    Tally tally;
    SampleSites::Patch patch = {};
    std::vector<BiomeIndex> biomes = {};
  };
  std::vector<Part> parts(static_cast<size_t>(sites.patches()), Part{Tally(world)});
  parallelFor(threads, sites.patches(), [&](int32_t n) {
    if (stop.stop_requested()) return;
    Part& part = parts[static_cast<size_t>(n)];
    part.patch = sites.patch(n);
    const std::vector<Cell>& cells = part.patch.cells;
    std::vector<float> heights(cells.size());
    std::vector<MaterialIndex> materials(cells.size());
    part.biomes.resize(cells.size());
    world.scattered(static_cast<int>(cells.size()), cells.data(), heights.data(),
        part.biomes.data(), materials.data(), sites.apart());
    for (size_t i = 0; i < cells.size(); ++i)
      if (world.bounds().contains(cells[i])) part.tally.add(cells[i], heights[i], materials[i]);
  });
  if (stop.stop_requested()) return {};
  Tally tally(world);
  BiomeTally biomes(world);
  for (const Part& part : parts) {
    tally.add(part.tally);
    for (size_t i = 0; i < part.biomes.size() && world.biomes(); ++i)
      if (const Cell cell = part.patch.cells[i]; world.bounds().contains(cell))
        biomes.addCell(part.biomes[i], cell);
  }
  AreaCensus out = tally.finish(world);
  if (world.biomes()) out.biomes = biomes.finish(out.cells);
  out.sampled = true;
  return out;
}

}  // namespace acre
