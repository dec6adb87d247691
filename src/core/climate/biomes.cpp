#include "climate/biomes.h"

#include <algorithm>
#include <cmath>
#include <map>

#include "field/compiler.h"
#include "recipe/look.h"

namespace acre {
namespace {

constexpr uint64_t kBiomesStage = 0x42696F6D6573;   // "Biomes"
constexpr uint64_t kRegionsTag = 0x526567696F6E73;  // "Regions"
constexpr uint64_t kRoughTag = 0x526F756768;        // "Rough"

/// [0, 1), a multiple of 2^-24, of a region.
float drawOf(uint32_t regionHash) {
  return static_cast<float>(siteHash3(siteHash2(regionHash)) >> 8) * 0x1p-24f;
}

}  // namespace

/// A region while a tile is made.
struct BiomeStage::Known {
  RegionId id;
  uint32_t hash = 0;
  float x = 0, y = 0;  ///< Chart values at its site.
  ReliefAt knots[AltitudeKnots::kCount];
  uint64_t made = 0;  ///< Bits of the knots that are there.
};

Digest BiomeStage::keyOf(const BiomeInputs& inputs) {
  const Biomes& b = inputs.biomes;
  DigestWriter key;
  key.text("biomes").u32(1).u64(inputs.seed).f64(inputs.seaLevel);
  writeKey(key, b);
  for (const AxisScale& scale : {inputs.scaleX, inputs.scaleY}) key.f64(scale.low).f64(scale.high);
  for (const auto& field : {inputs.heights, inputs.x, inputs.y, inputs.warpX, inputs.warpZ}) {
    key.u8(field != nullptr);
    if (field) key.digest(field->key());
  }
  for (const float end : inputs.sliceEnds) key.f32(end);
  return key.finish();
}

Result<std::shared_ptr<const BiomeStage>> BiomeStage::compile(
    const BiomeInputs& inputs, const Kernels& kernels) {
  const Biomes& biomes = inputs.biomes;
  auto stage = std::make_shared<BiomeStage>();
  const uint64_t seed = combine(inputs.seed, kBiomesStage);
  stage->chart_ = std::make_unique<const Chart>(
      ChartInputs{biomes, inputs.scaleX, inputs.scaleY, inputs.seaLevel, inputs.sliceEnds});
  stage->heights_ = inputs.heights;
  stage->x_ = inputs.x;
  stage->y_ = inputs.y;
  stage->sea_ = static_cast<float>(inputs.seaLevel);
  stage->coast_ = static_cast<float>(biomes.coast);
  if (const Regions& regions = biomes.regions; regions.on) {
    RegionShift shift{static_cast<float>(regions.warp.cells), inputs.warpX, inputs.warpZ};
    stage->grid_.emplace(
        regionPlan(regions.size, regions.jitter, combine(seed, kRegionsTag)), shift);
    stage->choice_ = regions.choice;
    stage->size_ = regions.size;
    // A warp of more than half a square tears regions into pieces that belong nowhere.
    if (regions.warp.cells <= regions.size / 2) stage->islets_ = regions.islets;
    stage->blend_ = static_cast<float>(biomes.border.ground / regions.size);
    double sum = 0;
    for (const Biome& biome : biomes.list)
      stage->odds_.push_back(static_cast<float>(sum += biome.weight));
  }
  stage->shapes_ = anyRelief(biomes);
  if (!stage->shapes_) return std::shared_ptr<const BiomeStage>(stage);
  stage->knots_ = AltitudeKnots(biomes, stage->chart_->sliceEnds(), inputs.seaLevel);
  stage->reliefs_ = reliefsOf(biomes);
  if (!stage->byRegion())
    stage->table_.emplace(
        *stage->chart_, stage->knots_, stage->reliefs_, biomes.border.chart, kernels);
  stage->rough_ = std::any_of(
      biomes.list.begin(), biomes.list.end(), [](const Biome& b) { return b.relief.rough != 0; });
  if (stage->rough_) {
    auto plan =
        compileNoise(biomes.roughness, {}, combine(seed, kRoughTag), 2, "/biomes/roughness");
    if (!plan) return plan.error();
    stage->roughness_ = std::move(*plan);
  }
  return std::shared_ptr<const BiomeStage>(stage);
}

// ---- what a region is --------------------------------------------------------------------------

BiomeIndex BiomeStage::drawn(uint32_t hash, int slice) const {
  if (const BiomeIndex fixed = chart_->fixedBiome(slice); fixed != kNoBiome) return fixed;
  if (odds_.empty() || !(odds_.back() > 0)) return kNoBiome;
  const float r = drawOf(hash) * odds_.back();
  const auto found = std::upper_bound(odds_.begin(), odds_.end(), r);
  // Rounding may carry r to the sum itself: then the last that has any weight takes it.
  const auto last = std::lower_bound(odds_.begin(), odds_.end(), odds_.back());
  return static_cast<BiomeIndex>(std::min(found, last) - odds_.begin() + 1);
}

BiomeIndex BiomeStage::ofRegion(const Known& region, float altitude) const {
  if (choice_ == Regions::Choice::Climate)
    return chart_->decide(region.x, region.y, altitude).biome;
  return drawn(region.hash, chart_->decide(0, 0, altitude).slice);
}

ReliefAt BiomeStage::reliefOf(Known& region, float altitude) const {
  const auto knotOf = [&](int k) {
    if (!(region.made >> k & 1)) {
      region.knots[k] =
          reliefAtKnot(knots_, k, reliefs_, [&](float height) { return ofRegion(region, height); });
      region.made |= uint64_t{1} << k;
    }
    return region.knots[k];
  };
  const auto [k, w] = knots_.place(altitude);
  const ReliefAt below = knotOf(k);
  if (w == 0.0f) return below;
  const ReliefAt above = knotOf(k + 1);
  return {below.factor + w * (above.factor - below.factor),
      below.raise + w * (above.raise - below.raise), below.rough + w * (above.rough - below.rough)};
}

void BiomeStage::learn(const Kernels& kernels, const std::vector<RegionId>& ids, Accuracy accuracy,
    std::vector<Known>& out, const std::stop_token* stop) const {
  std::vector<int64_t> x, z;
  for (const RegionId id : ids) {
    Known& known = out.emplace_back();
    known.id = id;
    known.hash = regionHash(grid_->plan(), id);
    const Cell site = siteCell(grid_->plan(), id);
    x.push_back(site.x);
    z.push_back(site.z);
  }
  if (choice_ != Regions::Choice::Climate || ids.empty()) return;
  const std::vector<int32_t> q(ids.size());
  std::vector<float> values(ids.size());
  const Points places{static_cast<int>(ids.size()), {x.data(), nullptr, z.data()},
      {q.data(), nullptr, q.data()}, accuracy, stop};
  Known* first = out.data() + out.size() - ids.size();
  x_->points(kernels, places, values.data());
  for (size_t k = 0; k < ids.size(); ++k) first[k].x = values[k];
  y_->points(kernels, places, values.data());
  for (size_t k = 0; k < ids.size(); ++k) first[k].y = values[k];
}

// ---- grids -------------------------------------------------------------------------------------

/// Islets among the samples of a tile.
struct BiomeStage::GivenBack {
  std::vector<int32_t> at;  ///< Per sample: index into `to`, or -1; empty without islets.
  std::vector<RegionId> to;
};

bool BiomeStage::givenBack(const Kernels& kernels, const SampleGrid& grid, GivenBack& out,
    const std::stop_token& stop) const {
  if (islets_ == 0 || grid.step > Islets::kExactStep) return true;
  std::vector<Islets::Given> given;
  const Rect rect{
      grid.x, grid.z, (grid.width - 1) * grid.step + 1, (grid.length - 1) * grid.step + 1};
  if (!Islets(*grid_, size_, islets_).find(kernels, rect, given, stop)) return false;
  for (const Islets::Given& g : given) {
    if ((g.x - grid.x) % grid.step != 0 || (g.z - grid.z) % grid.step != 0) continue;
    if (out.at.empty())
      out.at.assign(static_cast<size_t>(grid.width) * static_cast<size_t>(grid.length), -1);
    const int64_t sample = (g.z - grid.z) / grid.step * grid.width + (g.x - grid.x) / grid.step;
    out.at[static_cast<size_t>(sample)] = static_cast<int32_t>(out.to.size());
    out.to.push_back(g.to);
  }
  return true;
}

/// Regions, what is theirs, and the blended reliefs of a tile.
namespace {

/// The mean of the reliefs of the regions about a place: its own first, then the others by their
/// part, in their order.
class ReliefMean {
 public:
  explicit ReliefMean(const ReliefAt& own) : sum_(own) {}
  void add(const ReliefAt& other, float part) {
    sum_.factor += part * other.factor;
    sum_.raise += part * other.raise;
    sum_.rough += part * other.rough;
    parts_ += part;
  }
  ReliefAt mean() const { return {sum_.factor / parts_, sum_.raise / parts_, sum_.rough / parts_}; }

 private:
  ReliefAt sum_;
  float parts_ = 1;
};

/// The relief of sample k of a patch, blended between the regions about it. of(s): that of site s.
template <class Of>
ReliefAt blended(const RegionPatch& patch, int k, float blend, const Of& of) {
  const auto at = static_cast<size_t>(k);
  const ReliefAt own = of(patch.own[at]);
  const float nearest = std::sqrt(patch.first[at]);
  if (!(blend > 0) || !(std::sqrt(patch.second[at]) - nearest < blend)) return own;
  ReliefMean relief(own);  // In the order of regionShares().
  for (int s = 0; s < patch.sites.count; ++s) {
    if (s == patch.own[at]) continue;
    const float dx = static_cast<float>(patch.sites.i[s] - patch.places.i[k]) + patch.sites.x[s] -
                     patch.places.u[k];
    const float dz = static_cast<float>(patch.sites.j[s] - patch.places.j[k]) + patch.sites.z[s] -
                     patch.places.v[k];
    const float part = 1.0f - (std::sqrt(dx * dx + dz * dz) - nearest) / blend;
    if (!(part > 0)) continue;
    relief.add(of(s), part * part);
  }
  return relief.mean();
}

}  // namespace

bool BiomeStage::regionTile(const Kernels& kernels, const SampleGrid& grid, const float* base,
    const Out& out, ReliefAt* reliefs, const std::stop_token& stop) const {
  std::map<RegionId, size_t> met;
  std::vector<Known> known;
  std::vector<size_t> local;  // Of the sites of a patch: place in `known`.
  std::vector<RegionId> fresh;
  std::vector<float> x, y, altitude;
  std::vector<BiomeIndex> biomes;
  const bool decides = byRegion() && (out.biomes || reliefs);
  const float blend = reliefs && byRegion() ? blend_ : 0.0f;
  const auto cells = static_cast<float>(size_);
  GivenBack given;
  if (!givenBack(kernels, grid, given, stop)) return false;
  const auto givenTo = [&](size_t sample) -> const RegionId* {
    if (given.at.empty() || given.at[sample] < 0) return nullptr;
    return &given.to[static_cast<size_t>(given.at[sample])];
  };
  return grid_->visit(
      kernels, grid, out.borders ? 1.0f : 0.0f, blend, stop, [&](const RegionPatch& patch) {
        const auto toGrid = [&](int k) {
          return (patch.row + k / patch.width) * out.stride + patch.column + k % patch.width;
        };
        const auto toTile = [&](int k) {
          const auto row = static_cast<size_t>(patch.row + k / patch.width);
          return row * static_cast<size_t>(grid.width) +
                 static_cast<size_t>(patch.column + k % patch.width);
        };
        const int count = patch.width * patch.height;
        const auto ownOf = [&](int k) {
          return static_cast<size_t>(patch.own[static_cast<size_t>(k)]);
        };
        if (out.regions)
          for (int k = 0; k < count; ++k) {
            const RegionId* other = givenTo(toTile(k));
            out.regions[toGrid(k)] =
                other ? regionHash(grid_->plan(), *other) : patch.hashes[ownOf(k)];
          }
        if (out.borders)
          for (int k = 0; k < count; ++k)
            out.borders[toGrid(k)] = patch.border[static_cast<size_t>(k)] * cells;
        if (!decides) return;
        // The sites that some sample of the patch belongs to, or blends with.
        local.assign(patch.ids.size(), SIZE_MAX);
        fresh.clear();
        std::vector<bool> needed(patch.ids.size(), blend > 0);
        for (int k = 0; k < count; ++k) needed[ownOf(k)] = true;
        for (size_t s = 0; s < patch.ids.size(); ++s) {
          if (!needed[s]) continue;
          const auto [entry, isNew] = met.try_emplace(patch.ids[s], known.size() + fresh.size());
          local[s] = entry->second;
          if (isNew) fresh.push_back(patch.ids[s]);
        }
        for (int k = 0; k < count; ++k)
          if (const RegionId* other = givenTo(toTile(k)))
            if (met.try_emplace(*other, known.size() + fresh.size()).second)
              fresh.push_back(*other);
        learn(kernels, fresh, WaterDistance::accuracyAt(grid.step), known, &stop);
        const auto regionOf = [&](int s) -> Known& { return known[local[static_cast<size_t>(s)]]; };
        // The region that names the biome of a sample.
        const auto namedBy = [&](int k) -> const Known& {
          const RegionId* other = givenTo(toTile(k));
          return other ? known[met.at(*other)] : regionOf(patch.own[static_cast<size_t>(k)]);
        };
        if (out.biomes && choice_ == Regions::Choice::Climate) {
          const auto n = static_cast<size_t>(count);
          x.resize(n), y.resize(n), altitude.resize(n), biomes.resize(n);
          for (int k = 0; k < count; ++k) {
            const auto at = static_cast<size_t>(k);
            const Known& region = namedBy(k);
            x[at] = region.x;
            y[at] = region.y;
            altitude[at] = base[toGrid(k)];
          }
          chart_->lookUp(kernels, count, x.data(), y.data(), altitude.data(), biomes.data());
          for (int k = 0; k < count; ++k) out.biomes[toGrid(k)] = biomes[static_cast<size_t>(k)];
        } else if (out.biomes) {
          for (int k = 0; k < count; ++k)
            out.biomes[toGrid(k)] =
                drawn(namedBy(k).hash, chart_->decide(0, 0, base[toGrid(k)]).slice);
        }
        if (!reliefs) return;
        for (int k = 0; k < count; ++k) {
          const float height = base[toGrid(k)];
          ReliefAt& relief =
              reliefs[(patch.row + k / patch.width) * grid.width + patch.column + k % patch.width];
          relief = blended(patch, k, blend_, [&](int s) { return reliefOf(regionOf(s), height); });
        }
      });
}

bool BiomeStage::tile(const Kernels& kernels, const SampleGrid& grid, const float* base,
    const Out& out, const std::stop_token& stop) const {
  const ptrdiff_t width = grid.width;
  const auto count = static_cast<size_t>(grid.width) * static_cast<size_t>(grid.length);
  const bool shape = out.heights && shapes_;
  std::vector<ReliefAt> reliefs;
  if (shape) reliefs.resize(count);
  const bool ask = out.regions || out.borders || (byRegion() && (out.biomes || shape));
  if (hasRegions() && ask &&
      !regionTile(kernels, grid, base, out, shape ? reliefs.data() : nullptr, stop))
    return false;
  if (!hasRegions())
    for (int32_t j = 0; j < grid.length; ++j) {
      if (out.regions) std::fill_n(out.regions + j * out.stride, width, 0u);
      if (out.borders) std::fill_n(out.borders + j * out.stride, width, 0.0f);
    }
  if (!byRegion() && (out.biomes || shape)) {
    std::vector<float> x(count), y(count);
    // The climate falls with the base height, which is there already.
    const KnownValues known{heights_.get(), grid, base, out.stride};
    for (auto [field, values] : {std::pair(x_.get(), x.data()), std::pair(y_.get(), y.data())})
      if (!known.copy(field, grid, values) &&
          !field->evaluate(kernels, grid, values, width, stop, known))
        return false;
    for (int32_t j = 0; j < grid.length; ++j) {
      const float *rowX = x.data() + j * width, *rowY = y.data() + j * width;
      const float* altitude = base + j * out.stride;
      if (out.biomes)
        chart_->lookUp(kernels, grid.width, rowX, rowY, altitude, out.biomes + j * out.stride);
      for (int32_t i = 0; shape && i < grid.width; ++i)
        reliefs[static_cast<size_t>(j * width + i)] = table_->at(rowX[i], rowY[i], altitude[i]);
    }
  }
  if (!out.heights) return true;
  std::vector<float> noise;
  if (shape && rough_) {
    noise.resize(count);
    kernels.grid(roughness_, grid, {JoinOp::Replace, 1, 0}, noise.data(), width);
  }
  for (int32_t j = 0; j < grid.length; ++j)
    for (int32_t i = 0; i < grid.width; ++i) {
      const ptrdiff_t at = j * out.stride + i;
      const auto k = static_cast<size_t>(j * width + i);
      out.heights[at] =
          shape ? shapedHeight(base[at], reliefs[k], rough_ ? noise[k] : 0.0f, sea_, coast_)
                : base[at];
    }
  return true;
}

bool BiomeStage::evaluate(const Kernels& kernels, const SampleGrid& grid, const float* base,
    const Out& out, const std::stop_token& stop) const {
  for (int32_t z = 0; z < grid.length; z += Kernels::kTileHeight)
    for (int32_t x = 0; x < grid.width; x += Kernels::kTileWidth) {
      if (stop.stop_requested()) return false;
      const SampleGrid part{grid.x + x * grid.step, grid.z + z * grid.step, grid.step,
          std::min(Kernels::kTileWidth, grid.width - x),
          std::min(Kernels::kTileHeight, grid.length - z)};
      const ptrdiff_t from = z * out.stride + x;
      const auto moved = [&](auto* p) { return p ? p + from : nullptr; };
      const Out here{moved(out.heights), moved(out.biomes), moved(out.regions), moved(out.borders),
          out.stride};
      if (!tile(kernels, part, base + from, here, stop)) return false;
    }
  return !stop.stop_requested();
}

// ---- scattered cells ---------------------------------------------------------------------------

void BiomeStage::chartValues(const Kernels& kernels, int count, const Cell* cells, float* x,
    float* y, Accuracy accuracy) const {
  std::vector<int64_t> px, pz;
  std::vector<std::pair<Pos, Pos>> shifted;
  if (byRegion()) shifted = grid_->placesOf(kernels, count, cells);
  for (int i = 0; i < count; ++i) {
    Cell cell = cells[i];
    if (byRegion()) {
      const auto& [x, z] = shifted[static_cast<size_t>(i)];
      cell = siteCell(grid_->plan(), regionAt(grid_->plan(), x, z, 0).id);
    }
    px.push_back(cell.x);
    pz.push_back(cell.z);
  }
  const std::vector<int32_t> q(px.size());
  const Points places{
      count, {px.data(), nullptr, pz.data()}, {q.data(), nullptr, q.data()}, accuracy};
  x_->points(kernels, places, x);
  y_->points(kernels, places, y);
}

namespace {

/// Values of a noise at scattered cells.
void noiseAtAll(
    const Kernels& kernels, const NoisePlan& plan, int count, const Cell* cells, float* out) {
  constexpr int kMost = Kernels::kMostPoints;
  int64_t x[kMost], z[kMost];
  const int32_t q[kMost] = {};
  for (int first = 0; first < count; first += kMost) {
    const int some = std::min(kMost, count - first);
    for (int i = 0; i < some; ++i) {
      x[i] = cells[first + i].x;
      z[i] = cells[first + i].z;
    }
    kernels.points(plan, {some, {x, nullptr, z}, {q, nullptr, q}}, out + first);
  }
}

}  // namespace

void BiomeStage::scatteredByRegion(const Kernels& kernels, int count, const Cell* cells,
    const float* base, float* heights, BiomeIndex* biomes, Accuracy accuracy) const {
  // Each region is learnt once, however many of the cells lie near it.
  std::map<RegionId, size_t> met;
  std::vector<RegionId> fresh;
  const auto meet = [&](RegionId id) {
    const auto [entry, isNew] = met.try_emplace(id, met.size());
    if (isNew) fresh.push_back(id);
    return entry->second;
  };
  struct Near {
    size_t region;
    float part;
  };
  std::vector<Near> near;  // Of all cells, one after another, the own region of each first.
  std::vector<size_t> first, named;
  const auto places = grid_->placesOf(kernels, count, cells);
  for (int i = 0; i < count; ++i) {
    first.push_back(near.size());
    const auto& [x, z] = places[static_cast<size_t>(i)];
    for (const RegionShare& share : regionShares(grid_->plan(), x, z, shapes_ ? blend_ : 0))
      near.push_back({meet(share.id), share.part});
    named.push_back(near[first.back()].region);
    if (!biomes || islets_ == 0 || accuracy != Accuracy::Exact) continue;
    std::vector<Islets::Given> given;
    Islets(*grid_, size_, islets_).find(kernels, {cells[i].x, cells[i].z, 1, 1}, given, {});
    if (!given.empty()) named.back() = meet(given[0].to);
  }
  first.push_back(near.size());
  std::vector<Known> known;
  learn(kernels, fresh, accuracy, known);
  if (biomes)
    for (int i = 0; i < count; ++i)
      biomes[i] = ofRegion(known[named[static_cast<size_t>(i)]], base[i]);
  std::copy_n(base, count, heights);
  if (!shapes_) return;
  std::vector<float> noise(static_cast<size_t>(count));
  if (rough_) noiseAtAll(kernels, roughness_, count, cells, noise.data());
  for (int i = 0; i < count; ++i) {
    const auto k = static_cast<size_t>(i);
    ReliefMean relief(reliefOf(known[near[first[k]].region], base[i]));
    for (size_t n = first[k] + 1; n < first[k + 1]; ++n)
      relief.add(reliefOf(known[near[n].region], base[i]), near[n].part);
    heights[i] = shapedHeight(base[i], relief.mean(), noise[k], sea_, coast_);
  }
}

void BiomeStage::scattered(const Kernels& kernels, int count, const Cell* cells, const float* base,
    float* heights, BiomeIndex* biomes, Accuracy accuracy) const {
  if (byRegion()) return scatteredByRegion(kernels, count, cells, base, heights, biomes, accuracy);
  const auto n = static_cast<size_t>(count);
  std::vector<float> x(n), y(n);
  chartValues(kernels, count, cells, x.data(), y.data(), accuracy);
  if (biomes) chart_->lookUp(kernels, count, x.data(), y.data(), base, biomes);
  std::copy_n(base, count, heights);
  if (!shapes_) return;
  std::vector<float> noise(n);
  if (rough_) noiseAtAll(kernels, roughness_, count, cells, noise.data());
  for (size_t k = 0; k < n; ++k)
    heights[k] = shapedHeight(base[k], table_->at(x[k], y[k], base[k]), noise[k], sea_, coast_);
}

// ---- one cell ----------------------------------------------------------------------------------

BiomeStage::At BiomeStage::at(Cell cell, float base, Accuracy accuracy) const {
  At out;
  const Pos x{cell.x, 0}, z{cell.z, 0};
  std::vector<Known> known;
  if (hasRegions()) {
    const auto [px, pz] = grid_->placeOf(cell);
    out.shiftX = static_cast<float>(px.cell - cell.x) + static_cast<float>(px.q) / 65536.0f;
    out.shiftZ = static_cast<float>(pz.cell - cell.z) + static_cast<float>(pz.q) / 65536.0f;
    out.region = regionAt(grid_->plan(), px, pz, 1);
    out.site = siteCell(grid_->plan(), out.region->id);
    out.borderCells = out.region->border * static_cast<float>(size_);
    if (byRegion()) {
      std::vector<RegionId> ids;
      for (const RegionShare& share : regionShares(grid_->plan(), px, pz, shapes_ ? blend_ : 0)) {
        ids.push_back(share.id);
        out.blend.push_back(
            {share.id, siteCell(grid_->plan(), share.id), share.weight, share.part, {}});
      }
      learn(plainKernels(), ids, accuracy, known);
    }
  }
  if (hasRegions() && islets_ > 0 && accuracy == Accuracy::Exact) {
    std::vector<Islets::Given> given;
    Islets(*grid_, size_, islets_).find(plainKernels(), {cell.x, cell.z, 1, 1}, given, {});
    if (!given.empty()) {
      out.givenBack = true;
      out.region->id = given[0].to;
      out.site = siteCell(grid_->plan(), given[0].to);
    }
  }
  if (byRegion()) {
    std::vector<Known> own;
    if (out.givenBack) learn(plainKernels(), {out.region->id}, accuracy, own);
    const Known& named = out.givenBack ? own[0] : known[0];
    out.x = named.x;
    out.y = named.y;
    out.rule = chart_->decide(out.x, out.y, base);
    out.drawn =
        choice_ == Regions::Choice::Weights && chart_->fixedBiome(out.rule.slice) == kNoBiome;
    if (choice_ == Regions::Choice::Weights) out.rule.area = -1;
    out.biome = ofRegion(named, base);
  } else {
    chartValues(plainKernels(), 1, &cell, &out.x, &out.y, accuracy);
    out.rule = chart_->decide(out.x, out.y, base);
    out.biome = out.rule.biome;
  }
  out.height = base;
  if (!shapes_) return out;
  if (byRegion()) {
    for (size_t k = 0; k < known.size(); ++k) out.blend[k].relief = reliefOf(known[k], base);
    ReliefMean relief(out.blend[0].relief);
    for (size_t k = 1; k < known.size(); ++k) relief.add(out.blend[k].relief, out.blend[k].part);
    out.relief = relief.mean();
  } else {
    out.relief = table_->at(out.x, out.y, base);
  }
  if (rough_) {
    const Pos place[3] = {x, {}, z};
    out.noise = noiseAt(roughness_, place);
  }
  out.height = shapedHeight(base, out.relief, out.noise, sea_, coast_);
  return out;
}

}  // namespace acre
